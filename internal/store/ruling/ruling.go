// Package ruling keeps the rules of each box, what they have done, and what can be
// asked of the messages they are held against.
package ruling

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/sqlite"
	"ebbe/internal/store/words"
)

// Rule is a rule as it is kept. ID and Rank of Data are those of the row.
type Rule struct {
	ID    int64
	BoxID int64
	Rank  int
	Rev   int64
	Gone  bool
	Data  sorting.Rule `gorm:"serializer:json"`
}

// Run is what a rule has done with a message.
type Run struct {
	ID             int64
	RuleID         int64
	BoxID          int64
	MessageID      int64
	ConversationID int64
	At             when.Instant
	EntryID        int64      // of the journal; 0 and nothing in Did: it would have
	Did            inbox.Kind // what changes nothing that could be taken back: inbox.PassThrough, inbox.TellOf
}

// TableName is the table.
func (Run) TableName() string { return "rule_runs" }

// Rules is what is asked and stored about rules.
type Rules store.Tx

func (t Rules) db() *gorm.DB { return store.Tx(t).DB() }

// Version is another one whenever a rule of any box has changed.
func (t Rules) Version() (rev int64, err error) {
	err = t.db().Raw("SELECT COALESCE(MAX(rev), 0) FROM rules").Scan(&rev).Error
	return rev, err
}

// All gives the rules of a box in their order.
func (t Rules) All(box int64) (out []sorting.Rule, err error) {
	var rows []Rule
	err = t.db().Where("box_id = ? AND NOT gone", box).Order("rank, id").Find(&rows).Error
	for _, r := range rows {
		out = append(out, r.rule())
	}
	slices.SortStableFunc(out, func(a, b sorting.Rule) int {
		if a.Lesson && b.Lesson { // the newest holds
			return int(b.ID - a.ID)
		}
		return before(a) - before(b)
	})
	return out, err
}

// before puts those first who were put away for good, whatever else is said of them, and
// then what was taught by hand.
func before(r sorting.Rule) int {
	switch {
	case r.Away:
		return 0
	case r.Lesson:
		return 1
	}
	return 2
}

func (r Rule) rule() sorting.Rule {
	r.Data.ID, r.Data.Rank = r.ID, r.Rank
	return r.Data
}

// Rule gives a rule of a box, also one that is gone.
func (t Rules) Rule(box, id int64) (r sorting.Rule, gone bool, err error) {
	var row Rule
	err = sqlite.Plain(t.db().Where("box_id = ? AND id = ?", box, id).Take(&row).Error)
	return row.rule(), row.Gone, err
}

// Put stores a rule of a box, a new one at the end; gone takes it away or has it back.
func (t Rules) Put(box int64, r *sorting.Rule, gone bool) error {
	rev, err := t.Version()
	if err != nil {
		return err
	}
	if r.ID == 0 {
		if err := t.db().Raw("SELECT COALESCE(MAX(rank), 0) + 1 FROM rules WHERE box_id = ? AND NOT gone", box).Scan(&r.Rank).Error; err != nil {
			return err
		}
	}
	row := Rule{ID: r.ID, BoxID: box, Rank: r.Rank, Rev: rev + 1, Gone: gone, Data: *r}
	if err := sqlite.Put(t.db(), &row, row.ID); err != nil {
		return err
	}
	r.ID = row.ID
	return nil
}

// Into says how many rules of a box, and how many lessons, put mail into each stream.
func (t Rules) Into(box int64) (rules, lessons map[string]int, err error) {
	all, err := t.All(box)
	rules, lessons = map[string]int{}, map[string]int{}
	for _, r := range all {
		for _, s := range r.Then {
			switch {
			case s.Kind == inbox.ToStream && r.Lesson:
				lessons[s.Stream]++
			case s.Kind == inbox.ToStream:
				rules[s.Stream]++
			}
		}
	}
	return rules, lessons, err
}

// KeptFrom counts the conversations of a box, last written in by somebody, that the user
// has put into a stream for good.
func (t Rules) KeptFrom(box int64, from string) (n int, err error) {
	err = t.db().Raw("SELECT COUNT(*) FROM conversations INDEXED BY conversations_kept WHERE box_id = ? AND kept AND from_addr = ?", box, from).Scan(&n).Error
	return n, err
}

// Kept gives those conversations of a box, the newest first, n at most.
func (t Rules) Kept(box int64, n int) (out []store.Conversation, err error) {
	err = t.db().Raw("SELECT * FROM conversations INDEXED BY conversations_kept WHERE box_id = ? AND kept AND merged_to = 0 AND place <> 'held' ORDER BY last_at DESC LIMIT ?", box, n).Scan(&out).Error
	return out, err
}

// Offer is a rule that is offered to a box, in words.
type Offer struct {
	ID    int64
	BoxID int64
	About string // what it would be about
	Does  string // what it would do
	Name  string // who that is, or which list
	Times int    // how often the reader has done so, in a row
	At    when.Instant
	State OfferState
}

// OfferState is what became of an offer.
type OfferState string

// The states of an offer.
const (
	OfferOpen    OfferState = "open"
	OfferTaken   OfferState = "taken"
	OfferRefused OfferState = "refused"
)

// Offers gives the open offers to a box, the newest first, n at most.
func (t Rules) Offers(box int64, n int) (out []Offer, err error) {
	err = t.db().Where("box_id = ? AND state = ?", box, OfferOpen).Order("id DESC").Limit(n).Find(&out).Error
	return out, err
}

// PutOffer offers something, unless it was offered before: then how often it was done is
// brought up to date.
func (t Rules) PutOffer(o Offer) error {
	return t.db().Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "box_id"}, {Name: "about"}, {Name: "does"}}, DoUpdates: clause.AssignmentColumns([]string{"times"})}).Create(&o).Error
}

// DropOffers forgets the open offers of a box about something, but the one that does this.
func (t Rules) DropOffers(box int64, about, but string) error {
	return t.db().Exec("DELETE FROM offers WHERE box_id = ? AND about = ? AND does <> ? AND state = ?", box, about, but, OfferOpen).Error
}

// SetOffer says what became of an open offer; ErrNotFound if it is none.
func (t Rules) SetOffer(box, id int64, s OfferState) error {
	return sqlite.There(t.db().Exec("UPDATE offers SET state = ? WHERE id = ? AND box_id = ? AND state = ?", s, id, box, OfferOpen))
}

// From is a conversation that somebody began or wrote in, with the newest of their
// messages.
type From struct {
	ConversationID int64
	FromAddr       string
	FromName       string
	List           string
	Kind           mail.Kind
	Labels         inbox.Labels
}

// Senders gives who wrote last in these conversations of a box.
func (t Rules) Senders(box int64, conversations []int64) (out []From, err error) {
	raw, err := json.Marshal(append([]int64{}, conversations...))
	if err != nil {
		return nil, err
	}
	err = t.db().Raw(`SELECT c.id conversation_id, c.from_addr, c.from_name, c.kind, c.labels, COALESCE((SELECT m.list FROM messages m WHERE m.conversation_id = c.id AND NOT m.own AND m.held = '' ORDER BY m.date DESC LIMIT 1), '') list
		FROM json_each(?) j CROSS JOIN conversations c ON c.id = j.value WHERE c.box_id = ? AND c.merged_to = 0 AND c.place <> 'held'`, string(raw), box).Scan(&out).Error
	return out, err
}

// LatelyFrom gives the conversations of the newest n messages in view from an address, the
// newest first, each once.
func (t Rules) LatelyFrom(box int64, from string, n int) (out []From, err error) {
	err = t.db().Raw(`SELECT m.conversation_id, m.list, c.labels, c.kind FROM (SELECT * FROM weighed WHERE box_id = ? AND from_addr = ? ORDER BY came DESC LIMIT ?) w
		CROSS JOIN messages m ON m.id = w.message_id AND m.held = '' CROSS JOIN conversations c ON c.id = m.conversation_id GROUP BY m.conversation_id ORDER BY MAX(w.came) DESC`, box, from, n).Scan(&out).Error
	return out, err
}

// DidSince counts how often a rule of a box has done that because of messages from an
// address since then.
func (t Rules) DidSince(box, rule int64, did inbox.Kind, from string, since when.Instant) (n int, err error) {
	err = t.db().Raw("SELECT COUNT(*) FROM rule_runs r CROSS JOIN messages m ON m.id = r.message_id WHERE r.rule_id = ? AND r.box_id = ? AND r.did = ? AND r.did <> '' AND r.at >= ? AND m.from_addr = ?", rule, box, did, since, from).Scan(&n).Error
	return n, err
}

// AllSince counts how often rules of a box have done that since then.
func (t Rules) AllSince(box int64, did inbox.Kind, since when.Instant) (n int, err error) {
	err = t.db().Raw("SELECT COUNT(*) FROM rule_runs WHERE box_id = ? AND did = ? AND did <> '' AND at >= ?", box, did, since).Scan(&n).Error
	return n, err
}

// Note notes what rules have done.
func (t Rules) Note(runs []Run) error { return sqlite.Create(t.db(), runs, 100) }

// Did is one thing that a rule has done, or would have.
type Did struct {
	Run
	Subject   string
	FromName  string
	FromAddr  string
	TakenBack bool
}

// Did gives what a rule of a box has done last, n at most, before the run with that ID
// if one is named.
func (t Rules) Did(box, rule, before int64, n int) (out []Did, err error) {
	err = t.db().Raw(`SELECT r.*, COALESCE(m.subject, '') subject, COALESCE(m.from_name, '') from_name, COALESCE(m.from_addr, '') from_addr, COALESCE(e.taken_back, 0) > 0 taken_back
		FROM rule_runs r LEFT JOIN messages m ON m.id = r.message_id LEFT JOIN entries e ON e.id = r.entry_id
		WHERE r.rule_id = ? AND r.box_id = ? AND (r.id < ? OR ? = 0) ORDER BY r.id DESC LIMIT ?`, rule, box, before, before, n).Scan(&out).Error
	return out, err
}

// Standing gives the entries of all that a rule of a box has done and that has not been
// taken back, the newest first.
func (t Rules) Standing(box, rule int64, n int) (entries []int64, err error) {
	err = t.db().Raw(`SELECT r.entry_id FROM rule_runs r CROSS JOIN entries e ON e.id = r.entry_id WHERE r.rule_id = ? AND r.box_id = ? AND e.taken_back = 0 AND e.step GROUP BY r.entry_id ORDER BY MAX(r.id) DESC LIMIT ?`, rule, box, n).Scan(&entries).Error
	return entries, err
}

// Count is how often a rule has done something, and how often it would have.
type Count struct {
	RuleID int64
	Did    int
	Would  int
}

// Counts counts them for each rule of a box.
func (t Rules) Counts(box int64) (map[int64]Count, error) {
	var rows []Count
	err := t.db().Raw(`SELECT u.id rule_id, (SELECT COUNT(*) FROM (SELECT 1 FROM rule_runs r WHERE r.rule_id = u.id AND (r.entry_id > 0 OR r.did <> '') LIMIT 1000)) did,
		(SELECT COUNT(*) FROM (SELECT 1 FROM rule_runs r WHERE r.rule_id = u.id AND r.entry_id = 0 AND r.did = '' LIMIT 1000)) would FROM rules u WHERE u.box_id = ? AND NOT u.gone`, box).Scan(&rows).Error
	out := map[int64]Count{}
	for _, r := range rows {
		out[r.RuleID] = r
	}
	return out, err
}

// Names says how rules of a box are called, also those that are no more.
func (t Rules) Names(box int64, ids []int64) (map[int64]string, error) {
	var rows []Rule
	raw, _ := json.Marshal(append([]int64{}, ids...)) // numbers always can be
	err := t.db().Raw("SELECT r.* FROM json_each(?) j CROSS JOIN rules r ON r.id = j.value WHERE r.box_id = ?", string(raw), box).Scan(&rows).Error
	out := map[int64]string{}
	for _, r := range rows {
		out[r.ID] = r.rule().Called()
	}
	return out, err
}

// Message is a message that rules are held against.
type Message struct {
	search.Message
	ID           int64
	Conversation int64
	Subject      string
	FromName     string
	Came         when.Instant
	Place        inbox.Place // of its conversation
	Labels       inbox.Labels
	Starred      bool
	Through      string // what let it through
	Alone        bool   // it is the only one of its conversation
	To           []mail.Address
	Cc           []mail.Address
}

// row is a message as it is loaded.
type row struct {
	store.Message
	Traits      string
	Came        when.Instant
	Stranger    bool
	Awaited     bool
	Place       inbox.Place
	Alone       bool
	ItsLabels   inbox.Labels
	ItsStarred  bool
	ItsMergedTo int64
}

const columns = `SELECT m.*, w.traits, w.came, NOT EXISTS (SELECT 1 FROM weighed x WHERE x.box_id = m.box_id AND x.from_addr = m.from_addr AND x.message_id < m.id) stranger,
	m.from_addr IN (SELECT f.person FROM follow_ups f WHERE f.box_id = @box AND f.waits_since > 0) awaited,
	c.place, c.messages = 1 alone, c.labels its_labels, COALESCE(k.starred, 0) its_starred
	FROM %s CROSS JOIN messages m ON m.id = w.message_id CROSS JOIN conversations c ON c.id = m.conversation_id LEFT JOIN marks k ON k.conversation_id = c.id AND k.person_id = @person
	WHERE m.box_id = @box AND m.held = ''`

// Messages gives messages of a box by their IDs, as a person with that week sees them.
// Words that were not indexed by then are given by the caller.
func (t Rules) Messages(box, person int64, w when.Week, ids []int64, words map[int64]words.Entry) ([]Message, error) {
	raw, err := json.Marshal(ids)
	if err != nil || len(ids) == 0 {
		return nil, err
	}
	from := "json_each(@ids) j CROSS JOIN weighed w ON w.message_id = j.value"
	out, err := t.load(box, w, fmt.Sprintf(columns, from)+" ORDER BY m.id", map[string]any{"box": box, "person": person, "ids": string(raw)})
	for i := range out {
		id := out[i].ID
		if x, ok := words[id]; ok {
			out[i].Says = search.Saying(x.Subject, x.People, x.Body)
			continue
		}
		out[i].Says = says(func(match string) bool {
			var found bool
			err := t.db().Raw("SELECT EXISTS (SELECT 1 FROM words WHERE words MATCH ? AND rowid = ?)", match, id).Scan(&found).Error
			return err == nil && found
		})
	}
	return out, err
}

// Last gives the newest n messages of others that came into a box, the newest first.
func (t Rules) Last(box, person int64, w when.Week, n int) ([]Message, error) {
	from := "(SELECT * FROM weighed WHERE box_id = @box ORDER BY came DESC LIMIT @n) w"
	out, err := t.load(box, w, fmt.Sprintf(columns, from)+" ORDER BY w.came DESC, m.id DESC", map[string]any{"box": box, "person": person, "n": n})
	if err != nil || len(out) == 0 {
		return nil, err
	}
	least := slices.MinFunc(out, func(a, b Message) int { return int(a.ID - b.ID) }).ID
	known := map[string]map[int64]bool{}
	for i := range out {
		id := out[i].ID
		out[i].Says = says(func(q string) bool {
			if known[q] == nil {
				var ids []int64
				if t.db().Raw("SELECT rowid FROM words WHERE words MATCH ? AND rowid >= ?", q, least).Scan(&ids).Error != nil {
					return false
				}
				known[q] = map[int64]bool{}
				for _, id := range ids {
					known[q][id] = true
				}
			}
			return known[q][id]
		})
	}
	return out, nil
}

// says is the search.Says of a message of which has tells what the index has of it.
func says(has func(match string) bool) search.Says {
	return func(terms []search.Term, subject bool) bool {
		must, not := words.MatchTerms(terms)
		if subject {
			must, not = inSubject(must), inSubject(not)
		}
		return (must == "" || has(must)) && (not == "" || !has(not))
	}
}

func inSubject(match string) string {
	if match == "" {
		return ""
	}
	return "subject : (" + match + ")"
}

func (t Rules) load(box int64, w when.Week, query string, args map[string]any) (out []Message, err error) {
	addresses, err := store.People(t).OwnAddresses(box)
	if err != nil {
		return nil, err
	}
	own := map[string]bool{}
	for _, a := range addresses {
		own[a.Address] = true
	}
	var rows []row
	if err := t.db().Raw(query, args).Scan(&rows).Error; err != nil {
		return nil, err
	}
	loc := w.Location()
	in := make([]int64, len(rows))
	for i, r := range rows {
		in[i] = r.ConversationID
	}
	listed := t.listed(box, args["person"].(int64), in)
	for _, r := range rows {
		m := MessageOf(r.Message, own, r.Came.In(loc))
		m.Listed = func(list int64) bool { return listed(list)[r.ConversationID] }
		m.Stranger, m.Answers, m.Awaited = r.Stranger, sorting.ReadTraits(r.Traits).Answers, r.Awaited
		out = append(out, Message{ID: r.ID, Through: r.Through, Alone: r.Alone, To: r.To, Cc: r.Cc, Conversation: r.ConversationID, Subject: mail.Title(r.Subject), FromName: r.FromName, Came: r.Came, Place: r.Place, Labels: r.ItsLabels, Starred: r.ItsStarred, Message: m})
	}
	return out, nil
}

// listed gives those of some conversations that are on a saved list of a person; each list
// is looked through once, when it is first asked for.
func (t Rules) listed(box, person int64, conversations []int64) func(list int64) map[int64]bool {
	known := map[int64]map[int64]bool{}
	return func(list int64) map[int64]bool {
		if known[list] == nil {
			known[list] = map[int64]bool{}
			raw, _ := json.Marshal(conversations) // numbers always can be
			var on []int64
			err := store.Search(t).Matching(box, person, search.Query{Saved: list}, false).Where("c.id IN (SELECT value FROM json_each(?))", string(raw)).Pluck("c.id", &on).Error
			if err != nil && !errors.Is(err, context.Canceled) { // then nothing at all is done
				slog.Error("what is on a saved list cannot be told, so its rules do nothing", "list", list, "error", err)
			}
			for _, id := range on {
				known[list][id] = true
			}
		}
		return known[list]
	}
}

// MessageOf is what can be asked of a message that came to somebody with these addresses
// at that time on their clocks, but what is known of its sender, whether it answers
// something, and its words.
func MessageOf(m store.Message, own map[string]bool, at time.Time) search.Message {
	reach, account := mail.ReachOf(m.To, m.Cc, own)
	return search.Message{From: m.FromAddr, Account: account, Kind: m.Kind, Reach: reach, List: m.List, Files: m.Files, Size: m.Size, Level: search.LevelOf(m.Importance), Language: m.Language,
		Stream: string(cmp.Or(m.Stream, delivery.StreamOf(m.Kind))), At: at}
}

// Known says from which of these addresses something has come to a box before.
func (t Rules) Known(box int64, from []string) (map[string]bool, error) {
	raw, err := json.Marshal(from)
	if err != nil {
		return nil, err
	}
	var known []string
	err = t.db().Raw("SELECT value FROM json_each(?) j WHERE EXISTS (SELECT 1 FROM weighed w WHERE w.box_id = ? AND w.from_addr = j.value)", string(raw), box).Scan(&known).Error
	out := map[string]bool{}
	for _, a := range known {
		out[a] = true
	}
	return out, err
}

// Newest gives the newest message of somebody else in each of some conversations.
func (t Rules) Newest(box int64, conversations []int64) (ids []int64, err error) {
	raw, err := json.Marshal(conversations)
	if err != nil || len(conversations) == 0 {
		return nil, err
	}
	err = t.db().Raw(`SELECT (SELECT m.id FROM messages m WHERE m.conversation_id = j.value AND m.box_id = ? AND m.held = '' AND NOT m.own ORDER BY m.date DESC, m.id DESC LIMIT 1) id
		FROM json_each(?) j WHERE id IS NOT NULL`, box, string(raw)).Scan(&ids).Error
	return ids, err
}

// ListOf gives the list of the newest message in view of a conversation by somebody
// else, or "".
func (t Rules) ListOf(box, conversation int64) (list string, err error) {
	err = t.db().Raw("SELECT COALESCE((SELECT list FROM messages WHERE conversation_id = ? AND +box_id = ? AND NOT own AND held = '' ORDER BY date DESC, id DESC LIMIT 1), '')", conversation, box).Row().Scan(&list)
	return list, err
}

// Lists gives the lists of which something came to a box lately, the newest first.
func (t Rules) Lists(box int64, n int) (out []string, err error) {
	err = t.db().Raw(`SELECT list FROM (SELECT m.list, MAX(w.came) last FROM (SELECT * FROM weighed WHERE box_id = ? ORDER BY came DESC LIMIT 2000) w CROSS JOIN messages m ON m.id = w.message_id WHERE m.list <> '' GROUP BY m.list) ORDER BY last DESC LIMIT ?`, box, n).Scan(&out).Error
	return out, err
}
