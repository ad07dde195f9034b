package store

import (
	"encoding/json"
	"fmt"
	"strings"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"ebbe/internal/core/agenda"
	"ebbe/internal/core/calendar"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// keeperOf is whose settings hold for the follow-ups of a box.
func (t Tx) keeperOf(box int64) (Person, error) {
	id, err := t.MemberOf(box)
	if err != nil || id == 0 {
		return Person{Week: when.Ordinary("UTC"), FollowUp: followup.Usual()}, err
	}
	return t.PersonByID(id)
}

// PutFollowUps stores follow-ups, and what the agenda says of each.
func (t Tx) PutFollowUps(box int64, all []followup.FollowUp) error {
	if len(all) == 0 {
		return nil
	}
	p, err := t.keeperOf(box)
	if err != nil {
		return err
	}
	for chunk := range chunks(all) {
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
				Context: f.Context, Priority: f.Priority.Near(), Minutes: f.Minutes(), ConversationID: f.Conversation, Finished: f.Finished, Card: f.Card, Words: wordsOf(f), Data: f}
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
		for part := range pieces(rows, 60) {
			if err := t.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&part).Error; err != nil {
				return err
			}
		}
		if err := t.db.Where("box_id = ? AND uid IN ?", box, uids).Delete(&FollowUpLabel{}).Error; err != nil {
			return err
		}
		if err := create(t, labels, 300); err != nil {
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

// pieces cuts rows into pieces of n.
func pieces[T any](rows []T, n int) func(yield func([]T) bool) {
	return func(yield func([]T) bool) {
		for len(rows) > 0 {
			k := min(len(rows), n)
			if !yield(rows[:k]) {
				return
			}
			rows = rows[k:]
		}
	}
}

const wordsOfNotes = 600 // bytes of the notes that are looked through for words

func wordsOf(f followup.FollowUp) string {
	notes := f.Notes
	if len(notes) > wordsOfNotes {
		notes = strings.ToValidUTF8(notes[:wordsOfNotes], "")
	}
	return strings.ToLower(strings.Join([]string{f.Title, f.Project, f.Context, f.With.Name, f.With.Address, notes}, "\n"))
}

func (t Tx) dropFollowUp(box int64, uid string) error {
	if err := t.db.Where("box_id = ? AND uid = ?", box, uid).Delete(&FollowUp{}).Error; err != nil {
		return err
	}
	if err := t.db.Where("box_id = ? AND uid = ?", box, uid).Delete(&FollowUpLabel{}).Error; err != nil {
		return err
	}
	return t.setThing(box, inbox.Remind, 0, uid, agenda.Thing{}, false)
}

// FollowUpByUID loads one follow-up, or gives ErrNotFound.
func (t Tx) FollowUpByUID(box int64, uid string) (f FollowUp, err error) {
	err = plain(t.db.Where("box_id = ? AND uid = ?", box, uid).Take(&f).Error)
	return f, err
}

// FollowUpQuery narrows the follow-ups of a box.
type FollowUpQuery struct {
	followup.Narrow
	From, To when.Instant // due in [From, To), if To is set
	Waits    bool         // that wait for somebody
	Without  string       // with nothing in that column
}

// narrowed begins a query for the open follow-ups that match q.
func (t Tx) narrowed(box int64, q FollowUpQuery) *gorm.DB {
	db := t.db.Table("follow_ups f").Where("f.box_id = ? AND f.open", box)
	for _, c := range []struct {
		on    bool
		where string
		args  []any
	}{
		{q.To > 0, "f.due_at >= ? AND f.due_at < ?", []any{q.From, q.To}},
		{q.Stage != "", "f.stage = ?", []any{q.Stage}},
		{q.Project != "", "f.project = ?", []any{q.Project}},
		{q.Person != "", "f.person = ?", []any{q.Person}},
		{q.Context != "", "f.context = ?", []any{q.Context}},
		{q.Priority != 0, "f.priority = ?", []any{q.Priority}},
		{q.Label != 0, "f.uid IN (SELECT uid FROM follow_up_labels WHERE box_id = ? AND label_id = ?)", []any{box, q.Label}},
		{q.Waits, "f.waits_since > 0", nil},
		{q.Without == "project", "f.project = ''", nil},
		{q.Without == "person", "f.person = ''", nil},
	} {
		if c.on {
			db = db.Where(c.where, c.args...)
		}
	}
	for _, word := range strings.Fields(strings.ToLower(q.Words)) {
		db = db.Where("instr(f.words, ?) > 0", word)
	}
	return db
}

// Tally is how many follow-ups have one key, and the minutes they take.
type Tally struct {
	Key     string
	Name    string
	N       int
	Minutes int
}

// byColumns are what follow-ups are arranged by as SQL; dates have bounds and
// are counted by SpanTallies.
var byColumns = map[followup.By]struct{ key, name, order string }{
	followup.ByStage:    {"f.stage", "''", "n DESC"},
	followup.ByProject:  {"f.project", "f.project", "f.project = '', f.project COLLATE NOCASE"},
	followup.ByPerson:   {"f.person", "MAX(f.person_name)", "f.person = '', n DESC, f.person"},
	followup.ByPriority: {"CAST(f.priority AS TEXT)", "''", "f.priority"},
	followup.ByLabel:    {"CAST(COALESCE(l.label_id, 0) AS TEXT)", "''", "l.label_id IS NULL, l.label_id"},
}

// Tallies counts the open follow-ups that match q by what they are arranged by.
func (t Tx) Tallies(box int64, by followup.By, q FollowUpQuery) (out []Tally, err error) {
	c := byColumns[by]
	db := t.narrowed(box, q)
	if by == followup.ByLabel {
		db = db.Joins("LEFT JOIN follow_up_labels l ON l.box_id = f.box_id AND l.uid = f.uid AND l.label_id IN (SELECT id FROM labels WHERE NOT gone)")
	}
	group := c.key
	if by == followup.ByPriority {
		group = "f.priority"
	}
	err = db.Select(c.key + " key, " + c.name + " name, COUNT(*) n").Group(group).Order(c.order).Scan(&out).Error
	return out, err
}

// SpanTallies counts the open follow-ups that match q by the spans between the
// bounds, which ascend: the first is of what is due before the first bound, the
// last of what is due from the last one on. Those without a date are apart.
func (t Tx) SpanTallies(box int64, q FollowUpQuery, bounds []when.Instant) (spans []Tally, undated Tally, err error) {
	var sql strings.Builder
	sql.WriteString("CASE WHEN f.due_at = 0 THEN -1")
	for i, b := range bounds {
		fmt.Fprintf(&sql, " WHEN f.due_at < %d THEN %d", b, i)
	}
	fmt.Fprintf(&sql, " ELSE %d END", len(bounds))
	var rows []struct{ K, N, Minutes int }
	err = t.narrowed(box, q).Select(sql.String() + " k, COUNT(*) n, SUM(f.minutes) minutes").Group("k").Scan(&rows).Error
	spans = make([]Tally, len(bounds)+1)
	for _, r := range rows {
		if r.K < 0 {
			undated = Tally{N: r.N, Minutes: r.Minutes}
		} else {
			spans[r.K] = Tally{N: r.N, Minutes: r.Minutes}
		}
	}
	return spans, undated, err
}

// After is a position in a list of follow-ups: the one shown last.
type After struct {
	At  when.Instant
	UID string
}

// OpenFollowUps gives up to n open follow-ups that match q, in the order of
// their due times, after the one given. With a label, by what they are arranged
// by, "0" are those without any.
func (t Tx) OpenFollowUps(box int64, q FollowUpQuery, unlabelled bool, after After, n int) (rows []FollowUp, err error) {
	db := t.narrowed(box, q)
	if unlabelled {
		db = db.Where("NOT EXISTS (SELECT 1 FROM follow_up_labels l WHERE l.box_id = f.box_id AND l.uid = f.uid)")
	}
	order := "f.due_at, f.uid"
	switch {
	case q.To > 0 && after.UID != "":
		db = db.Where("(f.due_at, f.uid) > (?, ?)", after.At, after.UID)
	case q.To == 0:
		// What has a date comes first, in its order; each half is read from an index.
		if after.UID == "" || after.At > 0 {
			half := db.Session(&gorm.Session{}).Where("f.due_at > 0")
			if after.UID != "" {
				half = half.Where("(f.due_at, f.uid) > (?, ?)", after.At, after.UID)
			}
			if err = half.Select("f.*").Order(order).Limit(n).Find(&rows).Error; err != nil || len(rows) == n {
				return rows, err
			}
			after = After{}
		}
		db = db.Where("f.due_at = 0")
		if after.UID != "" {
			db = db.Where("f.uid > ?", after.UID)
		}
	}
	var rest []FollowUp
	err = db.Select("f.*").Order(order).Limit(n - len(rows)).Find(&rest).Error
	return append(rows, rest...), err
}

// CountFollowUps counts the open follow-ups due in [from, to).
func (t Tx) CountFollowUps(box int64, from, to when.Instant) (int, error) {
	var n int64
	err := t.narrowed(box, FollowUpQuery{From: from, To: to}).Count(&n).Error
	return int(n), err
}

// CountWaiting counts the follow-ups that wait for somebody.
func (t Tx) CountWaiting(box int64) (n int, err error) {
	err = t.db.Raw("SELECT COUNT(*) FROM follow_ups WHERE box_id = ? AND waits_since > 0", box).Scan(&n).Error
	return n, err
}

// WaitingFollowUps gives up to n of those that wait, the longest first, after
// the one given.
func (t Tx) WaitingFollowUps(box int64, after After, n int) (rows []FollowUp, err error) {
	db := t.db.Where("box_id = ? AND waits_since > 0", box)
	if after.UID != "" {
		db = db.Where("(waits_since, uid) > (?, ?)", after.At, after.UID)
	}
	err = db.Order("waits_since, uid").Limit(n).Find(&rows).Error
	return rows, err
}

// WaitingFor gives the follow-ups that wait for one of these addresses.
func (t Tx) WaitingFor(box int64, addresses []string) (rows []FollowUp, err error) {
	for chunk := range chunks(addresses) {
		var some []FollowUp
		if err := t.db.Where("box_id = ? AND waits_since > 0 AND person IN ?", box, chunk).Find(&some).Error; err != nil {
			return nil, err
		}
		rows = append(rows, some...)
	}
	return rows, err
}

// FinishedFollowUps gives up to n of those finished or dropped in [from, to),
// the last first, before the one given.
func (t Tx) FinishedFollowUps(box int64, from, to when.Instant, before After, n int) (rows []FollowUp, err error) {
	db := t.db.Where("box_id = ? AND NOT open AND finished >= ? AND finished < ?", box, from, to)
	if before.UID != "" {
		db = db.Where("(finished, uid) < (?, ?)", before.At, before.UID)
	}
	err = db.Order("finished DESC, uid DESC").Limit(n).Find(&rows).Error
	return rows, err
}

// CountFinished counts what was finished or dropped in [from, to).
func (t Tx) CountFinished(box int64, from, to when.Instant) (n int, err error) {
	err = t.db.Raw("SELECT COUNT(*) FROM follow_ups WHERE box_id = ? AND NOT open AND finished >= ? AND finished < ?", box, from, to).Scan(&n).Error
	return n, err
}

// PastFollowUps gives when what was finished in [from, to) was, and its effort.
func (t Tx) PastFollowUps(box int64, from, to when.Instant) (out []followup.Past, err error) {
	err = t.db.Raw(`SELECT finished at, COALESCE(data->>'effort', 0) effort FROM follow_ups WHERE box_id = ? AND NOT open AND finished >= ? AND finished < ? AND data->>'status' = ?`,
		box, from, to, followup.Completed).Scan(&out).Error
	return out, err
}

// AllFollowUps gives all follow-ups of a box, for an export, in the order in
// which they were made.
func (t Tx) AllFollowUps(box int64) (out []followup.FollowUp, err error) {
	var rows []FollowUp
	err = t.db.Where("box_id = ?", box).Order("data->>'made', uid").Find(&rows).Error
	for _, r := range rows {
		out = append(out, r.Data)
	}
	return out, err
}

// Named gives what the follow-ups of a box name: projects and contexts, those
// used most first.
func (t Tx) Named(box int64, column string) (names []string, err error) {
	err = t.db.Raw("SELECT "+column+" FROM follow_ups WHERE box_id = ? AND "+column+" <> '' GROUP BY 1 ORDER BY COUNT(*) DESC, 1 LIMIT 200", box).Scan(&names).Error
	return names, err
}

// ProjectWith is the project of the newest follow-up that concerns one of these
// addresses and has one; empty if none does.
func (t Tx) ProjectWith(box int64, addresses []string) (project string, err error) {
	if len(addresses) == 0 {
		return "", nil
	}
	err = t.db.Raw("SELECT project FROM follow_ups WHERE box_id = ? AND person IN ? AND project <> '' ORDER BY data->>'made' DESC LIMIT 1", box, addresses).Scan(&project).Error
	return project, err
}

// Cards gives the follow-ups whose reminder has fired and waits for an answer,
// the most urgent first.
func (t Tx) Cards(box int64, n int) (rows []FollowUp, err error) {
	err = t.db.Where("box_id = ? AND card", box).Order("priority, due_at = 0, due_at, uid").Limit(n).Find(&rows).Error
	return rows, err
}

// CountCards counts the cards of follow-ups, and of them the urgent and late
// ones.
func (t Tx) CountCards(box int64, now when.Instant) (all, urgent, late int, err error) {
	err = t.db.Raw("SELECT COUNT(*), COALESCE(SUM(priority = 1), 0), COALESCE(SUM(due_at > 0 AND due_at < ?), 0) FROM follow_ups WHERE box_id = ? AND card", now, box).Row().Scan(&all, &urgent, &late)
	return all, urgent, late, err
}

// Restage puts what is in a stage that is no longer there into the one it now
// counts as.
func (t Tx) Restage(box int64, s followup.Settings) error {
	var ids []string
	for _, st := range s.Stages {
		ids = append(ids, st.ID)
	}
	var rows []FollowUp
	if err := t.db.Where("box_id = ? AND (stage NOT IN ? OR stage = '')", box, ids).Find(&rows).Error; err != nil {
		return err
	}
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

// PutEvent stores e and what the agenda says of it.
func (t Tx) PutEvent(box int64, e calendar.Event) error {
	row := Event{BoxID: box, UID: e.UID, StartAt: e.Begins(), EndAt: e.End.At, Repeats: e.Rule != "", ConversationID: e.Conversation, Card: e.Card, Data: e}
	if err := t.db.Clauses(clause.OnConflict{UpdateAll: true}).Create(&row).Error; err != nil {
		return err
	}
	thing, waits := agenda.OfEvent(e)
	return t.setThing(box, inbox.RemindEvent, 0, e.UID, thing, waits)
}

func (t Tx) dropEvent(box int64, uid string) error {
	if err := t.db.Where("box_id = ? AND uid = ?", box, uid).Delete(&Event{}).Error; err != nil {
		return err
	}
	return t.setThing(box, inbox.RemindEvent, 0, uid, agenda.Thing{}, false)
}

// EventsBetween gives the events that may have an occurrence in [from, to): all
// that overlap it, and all that repeat.
func (t Tx) EventsBetween(box int64, from, to when.Instant) (out []calendar.Event, err error) {
	var rows []Event
	err = t.db.Where("box_id = ? AND start_at < ? AND (end_at >= ? OR repeats)", box, to, from).Order("start_at, uid").Limit(2000).Find(&rows).Error
	for _, r := range rows {
		out = append(out, r.Data)
	}
	return out, err
}

// EventsOf gives the events made from a conversation.
func (t Tx) EventsOf(box, conversation int64) (out []calendar.Event, err error) {
	var rows []Event
	err = t.db.Where("box_id = ? AND conversation_id = ?", box, conversation).Order("start_at, uid").Find(&rows).Error
	for _, r := range rows {
		out = append(out, r.Data)
	}
	return out, err
}

// AllEvents gives all events of a box, for an export, in the order of their
// beginnings.
func (t Tx) AllEvents(box int64) (out []calendar.Event, err error) {
	var rows []Event
	err = t.db.Where("box_id = ?", box).Order("start_at, uid").Find(&rows).Error
	for _, r := range rows {
		out = append(out, r.Data)
	}
	return out, err
}

// EventCards gives the events whose reminder has fired.
func (t Tx) EventCards(box int64) (out []calendar.Event, err error) {
	var rows []Event
	err = t.db.Where("box_id = ? AND card", box).Order("start_at, uid").Limit(20).Find(&rows).Error
	for _, r := range rows {
		out = append(out, r.Data)
	}
	return out, err
}

// Recent gives the people the user writes to and hears from, those of whom
// something came or went last first.
func (t Tx) Recent(box int64, n int) (out []mail.Address, err error) {
	err = t.db.Raw("SELECT name, address FROM correspondents WHERE box_id = ? AND name <> '' ORDER BY sent > 0 DESC, last_at DESC LIMIT ?", box, n).Scan(&out).Error
	return out, err
}

// PersonByFeed finds whose calendar feed has that secret address.
func (t Tx) PersonByFeed(secret string) (p Person, err error) {
	if secret == "" {
		return p, ErrNotFound
	}
	err = plain(t.db.Where("feed = ?", secret).Take(&p).Error)
	return p, err
}

// Addresses gives the names by which addresses are known in a box.
func (t Tx) Addresses(box int64, addresses []string) (map[string]string, error) {
	out := map[string]string{}
	for chunk := range chunks(addresses) {
		var rows []Correspondent
		if err := t.db.Select("name, address").Where("box_id = ? AND address IN ?", box, chunk).Find(&rows).Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			out[r.Address] = r.Name
		}
	}
	return out, nil
}

// ReturnsIn gives up to n conversations that come back in [from, to), in that
// order.
func (t Tx) ReturnsIn(box int64, from, to when.Instant, n int) (ids []int64, err error) {
	err = t.db.Model(&Conversation{}).Where("box_id = ? AND place = ? AND return_at >= ? AND return_at < ?", box, inbox.Snoozed, from, to).
		Order("return_at, id").Limit(n).Pluck("id", &ids).Error
	return ids, err
}

// Names gives what conversations are called, and where they are.
func (t Tx) Names(box int64, ids []int64) (map[int64]Conversation, error) {
	out := map[int64]Conversation{}
	for chunk := range chunks(ids) {
		var rows []Conversation
		if err := t.db.Select("id, place, title, subject, from_name, from_addr").Where("+box_id = ? AND id IN ? AND merged_to = 0", box, chunk).Find(&rows).Error; err != nil {
			return nil, err
		}
		for _, r := range rows {
			out[r.ID] = r
		}
	}
	return out, nil
}

// Withdraw takes back, or with false sends after all, what the entry of the
// journal has put into the outbox.
func (t Tx) Withdraw(entry int64, withdrawn bool) error {
	return t.db.Exec("UPDATE outgoings SET withdrawn = ? WHERE entry_id = ?", withdrawn, entry).Error
}
