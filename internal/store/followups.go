package store

import (
	"encoding/json"
	"slices"
	"strings"

	"gorm.io/gorm/clause"

	"ebbe/internal/core/agenda"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/store/sqlite"
)

// FollowUp is followup.FollowUp in a box. All but Data follows from Data.
type FollowUp struct {
	BoxID          int64  `gorm:"primaryKey;autoIncrement:false"`
	UID            string `gorm:"primaryKey"`
	Open           bool
	DueAt          when.Instant
	Stage          string // the ID of the stage it is in
	Project        string
	Person         string // the address, or else the name, of whom it concerns
	PersonName     string
	Context        string
	Priority       followup.Priority
	Minutes        int          // of effort that are left
	WaitsSince     when.Instant // 0: it waits for nobody
	ConversationID int64
	Finished       when.Instant
	Card           bool
	Owner          int64             // who of a team has it; 0: nobody
	Rev            int64             // the revision of the box's follow-ups in which it was stored last
	Words          string            // of its title, project, people and notes, in lower case
	Data           followup.FollowUp `gorm:"serializer:json"`
}

// FollowUpLabel says that a label is on a follow-up. It follows from its Data.
type FollowUpLabel struct {
	BoxID   int64  `gorm:"primaryKey;autoIncrement:false"`
	LabelID int64  `gorm:"primaryKey;autoIncrement:false"`
	UID     string `gorm:"primaryKey"`
}

// FollowUps is what is asked and stored about follow-ups.
type FollowUps Tx

// settingsFor is whose settings hold for the follow-ups of a box.
func (t FollowUps) settingsFor(box int64) (Person, error) {
	id, err := People(t).Keeper(box)
	if err != nil || id == 0 {
		return Person{Week: when.Ordinary("UTC"), FollowUp: followup.Usual()}, err
	}
	return People(t).PersonByID(id)
}

// PutFollowUps stores follow-ups, and what the agenda says of each.
func (t FollowUps) PutFollowUps(box int64, all []followup.FollowUp) error {
	if len(all) == 0 {
		return nil
	}
	p, err := t.settingsFor(box)
	if err != nil {
		return err
	}
	rev, err := t.revise(box)
	if err != nil {
		return err
	}
	for chunk := range slices.Chunk(all, sqlite.AtOnce) {
		rows := make([]FollowUp, len(chunk))
		var labels []FollowUpLabel
		type waiting struct {
			UID string       `json:"uid"`
			At  when.Instant `json:"at"`
		}
		waits := []waiting{}
		uids := make([]string, len(chunk))
		for i, f := range chunk {
			person := f.With.Address
			if person == "" {
				person = f.With.Name
			}
			rows[i] = FollowUp{BoxID: box, UID: f.UID, Open: f.Open(), DueAt: f.Due.At, Stage: p.FollowUp.In(f).ID, Project: f.Project, Person: person, PersonName: f.With.Short(),
				Context: f.Context, Priority: f.Priority.Near(), Minutes: f.Load(), ConversationID: f.Conversation, Finished: f.Finished, Card: f.Card, Owner: f.Owner.Person, Words: wordsOf(f), Data: f, Rev: rev}
			if f.Waiting() {
				rows[i].WaitsSince = f.Waits.Since
			}
			uids[i] = f.UID
			for _, l := range f.Labels {
				labels = append(labels, FollowUpLabel{box, l, f.UID})
			}
			thing, _ := agenda.OfFollowUp(f, p.Week)
			waits = append(waits, waiting{f.UID, thing.At})
		}
		if err := sqlite.Create(t.db, rows, 60, clause.OnConflict{UpdateAll: true}); err != nil {
			return err
		}
		if err := t.db.Where("box_id = ? AND uid IN ?", box, uids).Delete(&FollowUpLabel{}).Error; err != nil {
			return err
		}
		if err := sqlite.Create(t.db, labels, 300); err != nil {
			return err
		}
		raw, err := json.Marshal(waits)
		if err != nil {
			return err
		}
		args := map[string]any{"all": string(raw), "box": box, "kind": inbox.Remind}
		for _, q := range []string{
			`DELETE FROM things WHERE kind = @kind AND conversation_id = 0 AND box_id = @box AND follow_up IN (SELECT value->>'uid' FROM json_each(@all) WHERE value->>'at' = 0)`,
			`INSERT INTO things(box_id, at, kind, conversation_id, follow_up) SELECT @box, value->>'at', @kind, 0, value->>'uid' FROM json_each(@all) WHERE value->>'at' <> 0
				ON CONFLICT DO UPDATE SET at = excluded.at`,
		} {
			if err := t.db.Exec(q, args).Error; err != nil {
				return err
			}
		}
	}
	return nil
}

const wordsOfNotes = 600 // bytes of the notes that are looked through for words

func wordsOf(f followup.FollowUp) string {
	notes := f.Notes
	if len(notes) > wordsOfNotes {
		notes = strings.ToValidUTF8(notes[:wordsOfNotes], "")
	}
	return strings.ToLower(strings.Join([]string{f.Title, f.Project, f.Context, f.With.Name, f.With.Address, notes}, "\n"))
}

func (t FollowUps) dropFollowUp(box int64, uid string) error {
	rev, err := t.revise(box)
	if err == nil {
		err = t.db.Exec("INSERT INTO follow_ups_gone(box_id, uid, rev) VALUES (?, ?, ?) ON CONFLICT DO UPDATE SET rev = excluded.rev", box, uid, rev).Error
	}
	if err != nil {
		return err
	}
	if err := t.db.Where("box_id = ? AND uid = ?", box, uid).Delete(&FollowUp{}).Error; err != nil {
		return err
	}
	if err := t.db.Where("box_id = ? AND uid = ?", box, uid).Delete(&FollowUpLabel{}).Error; err != nil {
		return err
	}
	return Agenda(t).setThing(box, inbox.Remind, 0, uid, agenda.Thing{}, false)
}

// FollowUpByUID loads one follow-up, or gives ErrNotFound.
func (t FollowUps) FollowUpByUID(box int64, uid string) (f FollowUp, err error) {
	err = sqlite.Plain(t.db.Where("box_id = ? AND uid = ?", box, uid).Take(&f).Error)
	return f, err
}

// Shelf gives what has changed of the open follow-ups of a box since the
// revision given (0: all of them): those that are open, and the UIDs of those
// that are not any more. It gives the revision up to which that is.
func (t FollowUps) Shelf(box, since int64) (open []followup.Shelved, gone []string, rev int64, err error) {
	if err = t.db.Raw("SELECT COALESCE(MAX(rev), 0) FROM revisions WHERE box_id = ?", box).Scan(&rev).Error; err != nil || rev == since {
		return nil, nil, rev, err
	}
	var rows []FollowUp
	q := t.db.Omit("Data").Where("box_id = ?", box)
	if since == 0 {
		q = q.Where("open")
	} else {
		q = q.Where("rev > ?", since)
	}
	if err = q.Find(&rows).Error; err != nil {
		return nil, nil, rev, err
	}
	labels := map[string][]int64{}
	var on []FollowUpLabel
	l := t.db.Where("box_id = ?", box)
	if since > 0 {
		l = l.Where("uid IN (SELECT uid FROM follow_ups WHERE box_id = ? AND rev > ?)", box, since)
	}
	if err = l.Find(&on).Error; err != nil {
		return nil, nil, rev, err
	}
	for _, o := range on {
		labels[o.UID] = append(labels[o.UID], o.LabelID)
	}
	if since > 0 {
		if err = t.db.Raw("SELECT uid FROM follow_ups_gone WHERE box_id = ? AND rev > ?", box, since).Scan(&gone).Error; err != nil {
			return nil, nil, rev, err
		}
	}
	for _, r := range rows {
		if !r.Open {
			gone = append(gone, r.UID)
			continue
		}
		open = append(open, followup.Shelved{UID: r.UID, Due: r.DueAt, Stage: r.Stage, Project: r.Project, Person: r.Person, PersonName: r.PersonName, Context: r.Context,
			Priority: r.Priority, Minutes: r.Minutes, Labels: labels[r.UID], Owner: r.Owner, Words: r.Words})
	}
	return open, gone, rev, nil
}

// revise is the next revision of the follow-ups of a box.
func (t FollowUps) revise(box int64) (rev int64, err error) {
	err = t.db.Raw("INSERT INTO revisions(box_id, rev) VALUES (?, 1) ON CONFLICT DO UPDATE SET rev = rev + 1 RETURNING rev", box).Scan(&rev).Error
	return rev, err
}

// After is a position in a list of follow-ups: the one shown last.
type After struct {
	At  when.Instant
	UID string
}

// FollowUpRows loads follow-ups in the order of the UIDs. What does not exist is
// left out.
func (t FollowUps) FollowUpRows(box int64, uids []string) (rows []FollowUp, err error) {
	by := map[string]FollowUp{}
	for chunk := range slices.Chunk(uids, sqlite.AtOnce) {
		var some []FollowUp
		if err := t.db.Select("box_id, uid, conversation_id, data").Where("box_id = ? AND uid IN ?", box, chunk).Find(&some).Error; err != nil {
			return nil, err
		}
		for _, r := range some {
			by[r.UID] = r
		}
	}
	for _, uid := range uids {
		if r, ok := by[uid]; ok {
			rows = append(rows, r)
		}
	}
	return rows, nil
}

// CountFollowUps counts the open follow-ups due in [from, to).
func (t FollowUps) CountFollowUps(box int64, from, to when.Instant) (int, error) {
	var n int64
	err := t.db.Model(&FollowUp{}).Where("box_id = ? AND open AND due_at >= ? AND due_at < ?", box, from, to).Count(&n).Error
	return int(n), err
}

// CountWaiting counts the follow-ups that wait for somebody.
func (t FollowUps) CountWaiting(box int64) (n int, err error) {
	err = t.db.Raw("SELECT COUNT(*) FROM follow_ups WHERE box_id = ? AND waits_since > 0", box).Scan(&n).Error
	return n, err
}

// WaitingFollowUps gives up to n of those that wait, the longest first, after
// the one given.
func (t FollowUps) WaitingFollowUps(box int64, after After, n int) (rows []FollowUp, err error) {
	db := t.db.Where("box_id = ? AND waits_since > 0", box)
	if after.UID != "" {
		db = db.Where("(waits_since, uid) > (?, ?)", after.At, after.UID)
	}
	err = db.Order("waits_since, uid").Limit(n).Find(&rows).Error
	return rows, err
}

// FinishedFollowUps gives up to n of those finished or dropped in [from, to),
// the last first, before the one given.
func (t FollowUps) FinishedFollowUps(box int64, from, to when.Instant, before After, n int) (rows []FollowUp, err error) {
	db := t.db.Where("box_id = ? AND NOT open AND finished >= ? AND finished < ?", box, from, to)
	if before.UID != "" {
		db = db.Where("(finished, uid) < (?, ?)", before.At, before.UID)
	}
	err = db.Order("finished DESC, uid DESC").Limit(n).Find(&rows).Error
	return rows, err
}

// CountFinished counts what was finished or dropped in [from, to).
func (t FollowUps) CountFinished(box int64, from, to when.Instant) (n int, err error) {
	err = t.db.Raw("SELECT COUNT(*) FROM follow_ups WHERE box_id = ? AND NOT open AND finished >= ? AND finished < ?", box, from, to).Scan(&n).Error
	return n, err
}

// PastFollowUps gives when what was finished in [from, to) was, and its effort.
func (t FollowUps) PastFollowUps(box int64, from, to when.Instant) (out []followup.Past, err error) {
	err = t.db.Raw(`SELECT finished at, COALESCE(data->>'effort', 0) effort FROM follow_ups WHERE box_id = ? AND NOT open AND finished >= ? AND finished < ? AND data->>'status' = ?`,
		box, from, to, followup.Completed).Scan(&out).Error
	return out, err
}

// AllFollowUps gives all follow-ups of a box, for an export, in the order in
// which they were made.
func (t FollowUps) AllFollowUps(box int64) (out []followup.FollowUp, err error) {
	var rows []FollowUp
	err = t.db.Where("box_id = ?", box).Order("data->>'made', uid").Find(&rows).Error
	for _, r := range rows {
		out = append(out, r.Data)
	}
	return out, err
}

// Named gives what the follow-ups of a box name: projects and contexts, those
// used most first.
func (t FollowUps) Named(box int64, column string) (names []string, err error) {
	err = t.db.Raw("SELECT "+column+" FROM follow_ups WHERE box_id = ? AND "+column+" <> '' GROUP BY 1 ORDER BY COUNT(*) DESC, 1 LIMIT 200", box).Scan(&names).Error
	return names, err
}

// ProjectWith is the project of the newest follow-up that concerns one of these
// addresses and has one; empty if none does.
func (t FollowUps) ProjectWith(box int64, addresses []string) (project string, err error) {
	if len(addresses) == 0 {
		return "", nil
	}
	err = t.db.Raw("SELECT project FROM follow_ups WHERE box_id = ? AND person IN ? AND project <> '' ORDER BY data->>'made' DESC LIMIT 1", box, addresses).Scan(&project).Error
	return project, err
}

// Cards gives the follow-ups whose reminder has fired and waits for an answer,
// the most urgent first.
func (t FollowUps) Cards(box int64, n int) (rows []FollowUp, err error) {
	err = t.db.Where("box_id = ? AND card", box).Order("priority, due_at = 0, due_at, uid").Limit(n).Find(&rows).Error
	return rows, err
}

// CountCards counts the cards of follow-ups, and of them the urgent and late
// ones.
func (t FollowUps) CountCards(box int64, now when.Instant) (all, urgent, late int, err error) {
	err = t.db.Raw("SELECT COUNT(*), COALESCE(SUM(priority = 1), 0), COALESCE(SUM(due_at > 0 AND due_at < ?), 0) FROM follow_ups WHERE box_id = ? AND card", now, box).Row().Scan(&all, &urgent, &late)
	return all, urgent, late, err
}

// Restage puts what is in a stage that is no longer there into the one it now
// counts as.
func (t FollowUps) Restage(box int64, s followup.Settings) error {
	var ids []string
	for _, st := range s.Stages {
		ids = append(ids, st.ID)
	}
	var rows []FollowUp
	if err := t.db.Where("box_id = ? AND (stage NOT IN ? OR stage = '')", box, ids).Find(&rows).Error; err != nil {
		return err
	}
	// A stage that is there again has what was in it.
	var again []FollowUp
	if err := t.db.Where("box_id = ? AND stage IN ? AND stage <> data->>'stage' AND data->>'stage' IN ?", box, ids, ids).Find(&again).Error; err != nil {
		return err
	}
	rows = append(rows, again...)
	// A stage whose meaning was changed counts for what lies in it, too.
	for _, st := range s.Stages {
		var odd []FollowUp
		if err := t.db.Where("box_id = ? AND stage = ? AND open = ?", box, st.ID, st.Means == followup.Done).Find(&odd).Error; err != nil {
			return err
		}
		rows = append(rows, odd...)
	}
	var all []followup.FollowUp
	for _, r := range rows {
		all = append(all, r.Data)
	}
	return t.PutFollowUps(box, all)
}

// FollowUpsOf gives the open follow-ups of conversations, which are looked up by
// the conversation and not by an index of all that are open.
func (t FollowUps) FollowUpsOf(box int64, conversations []int64) (out map[int64][]FollowUp, err error) {
	out = map[int64][]FollowUp{}
	for chunk := range slices.Chunk(conversations, sqlite.AtOnce) {
		var rows []FollowUp
		if err := t.db.Where("+box_id = ? AND open AND conversation_id IN ?", box, chunk).Order("+due_at").Find(&rows).Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			out[r.ConversationID] = append(out[r.ConversationID], r)
		}
	}
	return out, nil
}

// FollowUpsOwned gives the open follow-ups of a box that somebody of its team has.
func (t FollowUps) FollowUpsOwned(box, person int64) (rows []FollowUp, err error) {
	err = t.db.Where("box_id = ? AND open AND owner > 0 AND owner = ?", box, person).Order("uid").Find(&rows).Error
	return rows, err
}

// FollowUpsBetween gives the open follow-ups of a box that belong to
// conversations in which the address wrote, those due first before the others.
func (t FollowUps) FollowUpsBetween(box int64, address string) (rows []FollowUp, err error) {
	err = t.db.Raw(`SELECT f.* FROM (SELECT due_at, uid FROM open_between WHERE box_id = @box AND address = @address ORDER BY due_at, uid LIMIT 20) b
		CROSS JOIN follow_ups f ON f.box_id = @box AND f.uid = b.uid ORDER BY b.due_at, b.uid`, map[string]any{"box": box, "address": address}).Scan(&rows).Error
	return rows, err
}
