package store

import (
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/when"
)

// Labels gives the labels of a box, the deleted ones only if asked for.
func (t Tx) Labels(box int64, gone bool) (labels []Label, err error) {
	err = t.db.Where("box_id = ? AND (NOT gone OR ?)", box, gone).Order("name COLLATE NOCASE, id").Find(&labels).Error
	return labels, err
}

// PutLabel stores a label, new or changed.
func (t Tx) PutLabel(l *Label) error { return t.db.Save(l).Error }

// LabelCounts says on how many conversations each label of a box is.
func (t Tx) LabelCounts(box int64) (map[int64]int, error) {
	var rows []struct {
		ID int64
		N  int
	}
	err := t.db.Raw("SELECT label_id id, COUNT(*) n FROM conversation_labels WHERE label_id IN (SELECT id FROM labels WHERE box_id = ?) GROUP BY label_id", box).Scan(&rows).Error
	counts := map[int64]int{}
	for _, r := range rows {
		counts[r.ID] = r.N
	}
	return counts, err
}

// LabeledWith gives the conversations that carry one of the labels.
func (t Tx) LabeledWith(labels []int64) (ids []int64, err error) {
	err = t.db.Model(&ConversationLabel{}).Where("label_id IN ?", labels).Distinct().Order("conversation_id").Pluck("conversation_id", &ids).Error
	return ids, err
}

// Sites gives the places of a person, the deleted ones only if asked for.
func (t Tx) Sites(person int64, gone bool) (sites []Site, err error) {
	err = t.db.Where("person_id = ? AND (NOT gone OR ?)", person, gone).Order("name COLLATE NOCASE, id").Find(&sites).Error
	return sites, err
}

// PutSite stores a place, new or changed.
func (t Tx) PutSite(s *Site) error { return t.db.Save(s).Error }

// SiteCounts says how many conversations wait for each place.
func (t Tx) SiteCounts(box int64) (map[int64]int, error) {
	var rows []struct {
		ID int64
		N  int
	}
	err := t.db.Raw("SELECT site id, COUNT(*) n FROM conversations WHERE box_id = ? AND site > 0 AND place = 'snoozed' GROUP BY site", box).Scan(&rows).Error
	counts := map[int64]int{}
	for _, r := range rows {
		counts[r.ID] = r.N
	}
	return counts, err
}

// WaitingAt gives the conversations that wait for a place.
func (t Tx) WaitingAt(box, site int64) (ids []int64, err error) {
	err = t.db.Model(&Conversation{}).Where("box_id = ? AND site = ? AND site > 0 AND place = 'snoozed'", box, site).Order("since, id").Pluck("id", &ids).Error
	return ids, err
}

// SomedayIDs gives the conversations that wait for someday.
func (t Tx) SomedayIDs(box int64) (ids []int64, err error) {
	err = t.db.Model(&Conversation{}).Where("box_id = ? AND place = ? AND until = ?", box, inbox.Snoozed, inbox.UntilSomeday).Pluck("id", &ids).Error
	return ids, err
}

// SetPersonSite notes where a person is.
func (t Tx) SetPersonSite(person, site int64) error {
	return t.db.Model(&Person{}).Where("id = ?", person).Update("site", site).Error
}

// PutSitting stores a sitting, new or changed.
func (t Tx) PutSitting(s *Sitting) error { return t.db.Save(s).Error }

// LastSitting is the newest sitting of a person, or ErrNotFound.
func (t Tx) LastSitting(person int64) (s Sitting, err error) {
	err = plain(t.db.Where("person_id = ?", person).Order("id DESC").Take(&s).Error)
	return s, err
}

// StepsOf gives what was decided in a sitting and still stands, in order.
func (t Tx) StepsOf(sitting int64) (entries []Entry, err error) {
	err = t.db.Where("sitting_id = ? AND sitting_id > 0 AND taken_back = 0", sitting).Omit("Changes").Order("id").Find(&entries).Error
	return entries, err
}

// LeftIn gives the conversations that were left undecided in a sitting.
func (t Tx) LeftIn(sitting int64) (ids []int64, err error) {
	err = t.db.Raw("SELECT conversation_id FROM touches WHERE entry_id IN (SELECT id FROM entries WHERE sitting_id = ? AND sitting_id > 0 AND kind = ? AND taken_back = 0)", sitting, inbox.Leave).Scan(&ids).Error
	return ids, err
}

// StillIn gives those of the conversations that are in the inbox, in their order.
func (t Tx) StillIn(box int64, ids []int64) (out []int64, err error) {
	in := map[int64]bool{}
	for chunk := range chunks(ids) {
		var found []int64
		if err := t.db.Model(&Conversation{}).Where("box_id = ? AND place = 'inbox' AND id IN ?", box, chunk).Pluck("id", &found).Error; err != nil {
			return nil, err
		}
		for _, id := range found {
			in[id] = true
		}
	}
	out = []int64{}
	for _, id := range ids {
		if in[id] {
			out = append(out, id)
		}
	}
	return out, nil
}

// SavedLists gives the lists of a person, in their order.
func (t Tx) SavedLists(person int64) (lists []SavedList, err error) {
	err = t.db.Where("person_id = ?", person).Order("rank, id").Find(&lists).Error
	return lists, err
}

// PutSavedList stores a list, new or changed.
func (t Tx) PutSavedList(l *SavedList) error { return t.db.Save(l).Error }

// DropSavedList deletes a list; the conversations on it stay as they are.
func (t Tx) DropSavedList(person, id int64) error {
	return t.db.Where("person_id = ?", person).Delete(&SavedList{ID: id}).Error
}

// Flow gives by hour how many conversations got messages from others, and how
// many left the inbox by decisions of a person that stand, in [from, to).
func (t Tx) Flow(box int64, from, to when.Instant) ([]numbers.Flow, error) {
	byHour := map[when.Instant]*numbers.Flow{}
	add := func(query string, into func(*numbers.Flow, int), args ...any) error {
		var rows []struct {
			Hour when.Instant
			N    int
		}
		if err := t.db.Raw(query, args...).Scan(&rows).Error; err != nil {
			return err
		}
		for _, r := range rows {
			at := r.Hour * numbers.Hour
			if byHour[at] == nil {
				byHour[at] = &numbers.Flow{At: at}
			}
			into(byHour[at], r.N)
		}
		return nil
	}
	err := add("SELECT date / 3600000 hour, COUNT(DISTINCT conversation_id) n FROM messages WHERE box_id = ? AND NOT own AND date >= ? AND date < ? GROUP BY 1",
		func(f *numbers.Flow, n int) { f.In = n }, box, from, to)
	if err == nil {
		err = add("SELECT at / 3600000 hour, -SUM(delta) n FROM entries WHERE box_id = ? AND at >= ? AND at < ? AND delta < 0 AND actor = ? AND taken_back = 0 GROUP BY 1",
			func(f *numbers.Flow, n int) { f.Decided = n }, box, from, to, ByPerson)
	}
	var flow []numbers.Flow
	for _, f := range byHour {
		flow = append(flow, *f)
	}
	return flow, err
}

// Returned gives the instants in [from, to) at which the clock brought
// something back.
func (t Tx) Returned(box int64, from, to when.Instant) (back []when.Instant, err error) {
	err = t.db.Model(&Entry{}).Where("box_id = ? AND at >= ? AND at < ? AND kind = ?", box, from, to, inbox.Return).Pluck("at", &back).Error
	return back, err
}
