// Package weighing keeps what importance has been learned from: what was looked at in
// each message, what became of it, and the sums of that.
package weighing

import (
	"encoding/json"
	"maps"
	"slices"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/sqlite"
)

// Weighed is a message of somebody else as importance looks at it, with what it
// turned out to be worth.
type Weighed struct {
	MessageID int64 `gorm:"primaryKey;autoIncrement:false"`
	BoxID     int64
	FromAddr  string
	Traits    string // sorting.Traits, as it writes them
	Came      when.Instant
	Worth     float64
	Weight    float64 // 0: nothing is known yet
	Answer    sorting.Answer
}

// TableName is the table.
func (Weighed) TableName() string { return "weighed" }

// Lesson is what is to be learned from it.
func (w Weighed) Lesson() sorting.Lesson {
	return sorting.Lesson{From: w.FromAddr, Traits: sorting.ReadTraits(w.Traits), At: w.Came, Outcome: sorting.Outcome{Worth: w.Worth, Weight: w.Weight, Answer: w.Answer}}
}

// Tally is the sum of the lessons with one feature.
type Tally struct {
	BoxID    int64           `gorm:"primaryKey;autoIncrement:false"`
	Feature  sorting.Feature `gorm:"primaryKey"`
	Yes, No  float64
	N        int
	Answered int
	Quick    int
}

func (t Tally) tally() sorting.Tally {
	return sorting.Tally{Yes: t.Yes, No: t.No, N: t.N, Answered: t.Answered, Quick: t.Quick}
}

// Weights is what is asked and stored about importance, each of one box.
type Weights store.Tx

func (t Weights) db() *gorm.DB { return store.Tx(t).DB() }

// Put stores what was looked at in messages.
func (t Weights) Put(rows []Weighed) error {
	return sqlite.Create(t.db(), rows, 100, clause.OnConflict{DoNothing: true})
}

// Model is what has been learned of a box, as far as it is needed to weigh messages
// from these addresses.
func (t Weights) Model(box int64, from []string) (sorting.Model, error) {
	m := sorting.Model{}
	for chunk := range slices.Chunk(append(slices.Clone(from), ""), sqlite.AtOnce) {
		var features []sorting.Feature
		for _, a := range chunk {
			features = append(features, sorting.FeaturesFrom(a)...)
		}
		slices.Sort(features)
		raw, err := json.Marshal(slices.Compact(features))
		if err != nil {
			return nil, err
		}
		var rows []Tally
		err = t.db().Raw("SELECT t.* FROM json_each(?) f CROSS JOIN tallies t ON t.box_id = ? AND t.feature = f.value", string(raw), box).Scan(&rows).Error
		if err != nil {
			return nil, err
		}
		for _, r := range rows {
			m[r.Feature] = r.tally()
		}
	}
	return m, nil
}

// Learn adds to the tallies of a box. One of which nothing is left goes.
func (t Weights) Learn(box int64, add sorting.Model) error {
	var rows []Tally
	for _, f := range slices.Sorted(maps.Keys(add)) {
		x := add[f]
		rows = append(rows, Tally{BoxID: box, Feature: f, Yes: x.Yes, No: x.No, N: x.N, Answered: x.Answered, Quick: x.Quick})
	}
	sums := clause.Set{}
	for _, c := range []string{"yes", "no", "n", "answered", "quick"} {
		sums = append(sums, clause.Assignment{Column: clause.Column{Name: c}, Value: clause.Expr{SQL: c + " + excluded." + c}})
	}
	err := sqlite.Create(t.db(), rows, 100, clause.OnConflict{Columns: []clause.Column{{Name: "box_id"}, {Name: "feature"}}, DoUpdates: sums})
	if err != nil || len(rows) == 0 {
		return err
	}
	raw, err := json.Marshal(slices.Collect(maps.Keys(add)))
	if err != nil {
		return err
	}
	return t.db().Exec("DELETE FROM tallies WHERE box_id = ? AND feature IN (SELECT value FROM json_each(?)) AND n <= 0", box, string(raw)).Error
}

// Strongest gives the senders of whom most was learned, n at most.
func (t Weights) Strongest(box int64, n int) (rows []Tally, err error) {
	err = t.db().Where("box_id = ? AND feature >= 'from:' AND feature < 'from;'", box).Order("n DESC, feature").Limit(n).Find(&rows).Error
	return rows, err
}

// LastTraits gives what was looked at in the newest message of each of these senders.
func (t Weights) LastTraits(box int64, from []string) (map[string]sorting.Traits, error) {
	raw, err := json.Marshal(from)
	if err != nil {
		return nil, err
	}
	var rows []Weighed
	err = t.db().Raw(`SELECT w.* FROM json_each(?) j CROSS JOIN weighed w ON w.message_id = (SELECT x.message_id FROM weighed x WHERE x.box_id = ? AND x.from_addr = j.value ORDER BY x.came DESC LIMIT 1)`, string(raw), box).Scan(&rows).Error
	out := map[string]sorting.Traits{}
	for _, r := range rows {
		out[r.FromAddr] = sorting.ReadTraits(r.Traits)
	}
	return out, err
}

// Await notes that something may be learned about these conversations.
func (t Weights) Await(conversations []int64) error {
	raw, err := json.Marshal(conversations)
	if err != nil || len(conversations) == 0 {
		return err
	}
	return t.db().Exec("INSERT OR IGNORE INTO unlearned(conversation_id) SELECT value FROM json_each(?)", string(raw)).Error
}

// Waiting is a conversation about which something may be learned.
type Waiting struct{ ConversationID, BoxID int64 }

// Unlearned gives up to n conversations about which something may be learned, of any
// box.
func (t Weights) Unlearned(n int) (out []Waiting, err error) {
	err = t.db().Raw("SELECT u.conversation_id, COALESCE(c.box_id, 0) box_id FROM unlearned u LEFT JOIN conversations c ON c.id = u.conversation_id ORDER BY u.conversation_id DESC LIMIT ?", n).Scan(&out).Error
	return out, err
}

// Learned notes that it was.
func (t Weights) Learned(conversations []int64) error {
	raw, err := json.Marshal(conversations)
	if err != nil {
		return err
	}
	return t.db().Exec("DELETE FROM unlearned WHERE conversation_id IN (SELECT value FROM json_each(?))", string(raw)).Error
}

// Told is a message of a conversation, as far as it tells what others were worth.
type Told struct {
	ID             int64
	ConversationID int64
	Date           when.Instant
	Received       when.Instant
	Own            bool
	Place          inbox.Place // of its conversation
	Weighed        *Weighed    `gorm:"-"` // of somebody else's
}

// mostTold is how many messages of a conversation are learned from, the newest.
const mostTold = 50

// Told gives the newest messages in view of conversations of a box, in their order,
// conversation by conversation.
func (t Weights) Told(box int64, conversations []int64) (out []Told, err error) {
	raw, err := json.Marshal(conversations)
	if err != nil {
		return nil, err
	}
	err = t.db().Raw(`SELECT m.id, m.conversation_id, m.date, m.received, m.own, c.place FROM json_each(@all) j CROSS JOIN conversations c ON c.id = j.value AND c.box_id = @box
		CROSS JOIN messages m ON m.conversation_id = c.id AND m.id IN (SELECT x.id FROM messages x WHERE x.conversation_id = c.id AND x.held = '' ORDER BY x.date DESC, x.id DESC LIMIT @most)
		ORDER BY m.conversation_id, m.date, m.id`, map[string]any{"all": string(raw), "box": box, "most": mostTold}).Scan(&out).Error
	if err != nil {
		return nil, err
	}
	var ids []int64
	for _, m := range out {
		ids = append(ids, m.ID)
	}
	weighed := map[int64]*Weighed{}
	for chunk := range slices.Chunk(ids, sqlite.AtOnce) {
		var rows []Weighed
		if err := t.db().Where("message_id IN ?", chunk).Find(&rows).Error; err != nil {
			return nil, err
		}
		for i := range rows {
			weighed[rows[i].MessageID] = &rows[i]
		}
	}
	for i := range out {
		out[i].Weighed = weighed[out[i].ID]
	}
	return out, nil
}

// Done is a deed about a conversation.
type Done struct {
	ConversationID int64
	Kind           inbox.Kind
	At             when.Instant
}

// Deeds gives what was done about conversations of a box and has not been taken back,
// by their order.
func (t Weights) Deeds(box int64, conversations []int64) (map[int64][]sorting.Deed, error) {
	return t.DeedsOf(box, conversations, sorting.Deeds())
}

// DeedsOf is Deeds of these kinds.
func (t Weights) DeedsOf(box int64, conversations []int64, kinds []inbox.Kind) (map[int64][]sorting.Deed, error) {
	raw, err := json.Marshal(conversations)
	if err != nil {
		return nil, err
	}
	var rows []Done
	err = t.db().Raw(`SELECT t.conversation_id, e.kind, e.at FROM json_each(@all) j CROSS JOIN touches t ON t.conversation_id = j.value CROSS JOIN entries e ON e.id = t.entry_id
		WHERE e.box_id = @box AND e.taken_back = 0 AND e.kind IN @kinds ORDER BY t.conversation_id, e.id`, map[string]any{"all": string(raw), "box": box, "kinds": kinds}).Scan(&rows).Error
	out := map[int64][]sorting.Deed{}
	for _, r := range rows {
		out[r.ConversationID] = append(out[r.ConversationID], sorting.Deed{Kind: r.Kind, At: r.At})
	}
	return out, err
}

// Read gives which messages a person had open, with the sum of the seconds and whether
// to the end.
func (t Weights) Read(person int64, conversations []int64) (map[int64]Reading, error) {
	raw, err := json.Marshal(conversations)
	if err != nil {
		return nil, err
	}
	var rows []Reading
	err = t.db().Raw(`SELECT r.message_id, SUM(r.seconds) seconds, MAX(r.whole) whole FROM json_each(?) j CROSS JOIN readings r ON r.conversation_id = j.value AND r.person_id = ?
		GROUP BY r.message_id`, string(raw), person).Scan(&rows).Error
	out := map[int64]Reading{}
	for _, r := range rows {
		out[r.MessageID] = r
	}
	return out, err
}

// SetOutcomes notes what messages turned out to be worth.
func (t Weights) SetOutcomes(rows []Weighed) error {
	for _, w := range rows {
		if err := t.db().Exec("UPDATE weighed SET worth = ?, weight = ?, answer = ? WHERE message_id = ?", w.Worth, w.Weight, w.Answer, w.MessageID).Error; err != nil {
			return err
		}
	}
	return nil
}

// Undecided is a conversation of the inbox, with the message it is weighed by.
type Undecided struct {
	ID         int64
	Said       inbox.Kind
	Importance int
	Because    string
	FromAddr   string
	Traits     string
}

// Undecided gives up to n conversations of the inbox of a box, those that came last
// first.
func (t Weights) Undecided(box int64, n int) (out []Undecided, err error) {
	err = t.db().Raw(`SELECT c.id, c.said, c.importance, c.because, w.from_addr, w.traits FROM (SELECT * FROM conversations WHERE box_id = ? AND place = 'inbox' ORDER BY since DESC LIMIT ?) c
		CROSS JOIN weighed w ON w.message_id = (SELECT m.id FROM messages m WHERE m.conversation_id = c.id AND NOT m.own AND m.held = '' ORDER BY m.date DESC, m.id DESC LIMIT 1)`, box, n).Scan(&out).Error
	return out, err
}

// SetImportance stores how important conversations of a box are.
func (t Weights) SetImportance(box int64, rows []Undecided) error {
	raw, err := json.Marshal(rows)
	if err != nil || len(rows) == 0 {
		return err
	}
	return t.db().Exec(`UPDATE conversations SET importance = j.value->>'Importance', because = j.value->>'Because' FROM json_each(?) j WHERE conversations.id = j.value->>'ID' AND +conversations.box_id = ?`, string(raw), box).Error
}

// Past gives the messages of a box that came in [from, to), as they were weighed then,
// with what became of them.
func (t Weights) Past(box int64, from, to when.Instant) (out []sorting.Past, err error) {
	var rows []struct {
		Weighed
		Importance int
		Taken      when.Instant
	}
	err = t.db().Raw(`SELECT w.*, m.importance, COALESCE((SELECT MIN(e.at) FROM touches t CROSS JOIN entries e ON e.id = t.entry_id
			WHERE t.conversation_id = m.conversation_id AND e.at >= w.came AND e.actor = 'person' AND e.taken_back = 0 AND e.kind IN @kinds), 0) taken
		FROM weighed w JOIN messages m ON m.id = w.message_id WHERE w.box_id = @box AND w.came >= @from AND w.came < @to AND m.importance > 0`,
		map[string]any{"box": box, "from": from, "to": to, "kinds": sorting.Deeds()}).Scan(&rows).Error
	for _, r := range rows {
		l := r.Lesson()
		out = append(out, sorting.Past{Came: r.Came, Importance: r.Importance, Fixed: inbox.Rank(l.Traits.Kind, l.Traits.Reach), Known: r.Weight > 0, Acted: l.Acted(), Taken: r.Taken})
	}
	return out, err
}

// Corrected is a message of whose conversation its reader has said how important it is.
type Corrected struct {
	ConversationID int64
	Subject        string
	FromName       string
	FromAddr       string
	Important      bool
	At             when.Instant
	Entry          int64 // with which it was said
}

// Corrected gives the newest n such corrections that stand, of a box.
func (t Weights) Corrected(box int64, n int) (out []Corrected, err error) {
	err = t.db().Raw(`SELECT m.conversation_id, m.subject, m.from_name, m.from_addr, w.worth > 0.5 important, e.at, e.id entry FROM weighed w JOIN messages m ON m.id = w.message_id
		JOIN entries e ON e.id = (SELECT MAX(x.id) FROM touches t CROSS JOIN entries x ON x.id = t.entry_id WHERE t.conversation_id = m.conversation_id AND x.kind IN @kinds AND x.taken_back = 0)
		WHERE w.box_id = @box AND w.weight >= 8 ORDER BY e.id DESC LIMIT @n`, map[string]any{"box": box, "n": n, "kinds": []inbox.Kind{inbox.Important, inbox.Unimportant}}).Scan(&out).Error
	return out, err
}

// Unweighed gives up to n messages that came before they were weighed, the newest
// first, of any box.
func (t Weights) Unweighed(n int) (ids []int64, err error) {
	err = t.db().Raw("SELECT message_id FROM unweighed ORDER BY message_id DESC LIMIT ?", n).Scan(&ids).Error
	return ids, err
}

// Rows loads messages by their IDs, of any box.
func (t Weights) Rows(ids []int64) (rows []store.Message, err error) {
	err = t.db().Where("id IN ?", ids).Order("id").Find(&rows).Error
	return rows, err
}

// SetLists notes of which list messages are, where they are of one.
func (t Weights) SetLists(lists map[int64]string) error {
	for id, list := range lists {
		if list == "" {
			continue
		}
		if err := t.db().Exec("UPDATE messages SET list = ? WHERE id = ?", list, id).Error; err != nil {
			return err
		}
	}
	return nil
}

// Caught notes that messages were weighed that had come before.
func (t Weights) Caught(ids []int64) error {
	return t.db().Exec("DELETE FROM unweighed WHERE message_id IN ?", ids).Error
}

// Working gives the addresses with which a box has an open project.
func (t Weights) Working(box int64) (map[string]bool, error) {
	var found []string
	err := t.db().Raw(`SELECT DISTINCT c.from_addr FROM follow_ups f CROSS JOIN conversations c ON c.id = f.conversation_id WHERE f.box_id = ? AND f.open AND f.data->>'project' <> ''
		UNION SELECT person FROM follow_ups f WHERE f.box_id = ? AND f.open AND f.data->>'project' <> '' AND person <> ''`, box, box).Scan(&found).Error
	out := map[string]bool{}
	for _, a := range found {
		out[a] = true
	}
	return out, err
}

// TraitsOf is what is looked at in a message of a box, as far as its row tells; marks
// that its text has are the caller's.
func TraitsOf(m store.Message, own map[string]bool) sorting.Traits {
	reach, _ := mail.ReachOf(m.To, m.Cc, own)
	return sorting.Traits{Kind: m.Kind, Reach: reach}
}

// Wrong says in sentences what does not add up: the tallies are the sums of the
// lessons.
func Wrong(t store.Tx) (wrong []string, err error) {
	var boxes []int64
	if err := t.DB().Raw("SELECT DISTINCT box_id FROM weighed UNION SELECT DISTINCT box_id FROM tallies").Scan(&boxes).Error; err != nil {
		return nil, err
	}
	for _, box := range boxes {
		sum := sorting.Model{}
		rows, err := t.DB().Model(&Weighed{}).Where("box_id = ? AND weight > 0", box).Rows()
		if err != nil {
			return nil, err
		}
		for rows.Next() {
			var w Weighed
			if err := t.DB().ScanRows(rows, &w); err != nil {
				rows.Close()
				return nil, err
			}
			sum.Learn(w.Lesson(), true)
		}
		rows.Close()
		var tallies []Tally
		if err := t.DB().Where("box_id = ?", box).Find(&tallies).Error; err != nil {
			return nil, err
		}
		is := sorting.Model{}
		for _, x := range tallies {
			is[x.Feature] = x.tally()
		}
		if !is.Same(sum) {
			wrong = append(wrong, "What was learned of importance is not the sum of its lessons.")
		}
	}
	return wrong, nil
}
