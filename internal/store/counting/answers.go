package counting

import (
	"database/sql"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"gorm.io/gorm"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/phoning"
)

// Answers is what is kept of who answered whom (numbers.Answers), each of one box: it is made of the
// messages of a conversation soon after these have changed.
type Answers store.Tx

func (t Answers) db() *gorm.DB { return store.Tx(t).DB() }

// ofConversation is how many messages of a conversation are looked at for answers: the newest.
const ofConversation = 2000

// Answered is an answer, or what waits for one, and where.
type Answered struct {
	ConversationID int64 `json:"c"`
	numbers.Answer `gorm:"embedded"`
	Who            int32 `json:"-" gorm:"-"` // of Since: the place of its address among all
}

// opening is a row of when a conversation began, and by whom.
type opening struct {
	ConversationID int64
	BoxID          int64
	At             when.Instant
	Own            bool
}

// Settle makes what is kept of n conversations anew whose messages have changed, the newest first; done
// says that there are no more.
func (t Answers) Settle(n int) (done bool, err error) {
	var stale []struct {
		ConversationID int64
		BoxID          int64
	}
	if err := t.db().Raw("SELECT conversation_id, box_id FROM stale_answers ORDER BY conversation_id DESC LIMIT ?", n).Scan(&stale).Error; err != nil || len(stale) == 0 {
		return err == nil, err
	}
	byBox, boxes := map[int64][]int64{}, []int64{}
	for _, s := range stale {
		if byBox[s.BoxID] == nil {
			boxes = append(boxes, s.BoxID)
		}
		byBox[s.BoxID] = append(byBox[s.BoxID], s.ConversationID)
	}
	for _, box := range boxes {
		if err := t.settle(box, byBox[box]); err != nil {
			return false, err
		}
	}
	return len(stale) < n, nil
}

func (t Answers) settle(box int64, conversations []int64) error {
	answers, openings, err := t.of(box, conversations)
	if err != nil {
		return err
	}
	ids, _ := json.Marshal(conversations) // numbers always can be
	for _, q := range []string{
		"DELETE FROM answers WHERE conversation_id IN (SELECT value FROM json_each(?))",
		"DELETE FROM openings WHERE conversation_id IN (SELECT value FROM json_each(?))",
		"DELETE FROM stale_answers WHERE conversation_id IN (SELECT value FROM json_each(?))",
	} {
		if err := t.db().Exec(q, string(ids)).Error; err != nil {
			return err
		}
	}
	if err := t.db().Exec("INSERT INTO answer_revisions(box_id, rev) VALUES (?, 1) ON CONFLICT DO UPDATE SET rev = rev + 1", box).Error; err != nil {
		return err
	}
	rows, err := json.Marshal(answers)
	if err != nil {
		return err
	}
	err = t.db().Exec(`INSERT OR IGNORE INTO answers(box_id, conversation_id, address, own, asked, answered, at)
		SELECT ?, value->>'c', value->>'Address', value->>'Own', value->>'Asked', value->>'Answered', COALESCE(NULLIF(value->>'Answered', 0), value->>'Asked') FROM json_each(?) j`, box, string(rows)).Error
	if err != nil || len(openings) == 0 {
		return err
	}
	return t.db().Create(openings).Error
}

// of computes who answered whom in conversations of a box.
func (t Answers) of(box int64, conversations []int64) (answers []Answered, openings []opening, err error) {
	addresses, err := store.People(t).OwnAddresses(box)
	if err != nil {
		return nil, nil, err
	}
	own := map[string]bool{}
	for _, a := range addresses {
		own[a.Address] = true
	}
	ids, _ := json.Marshal(conversations) // numbers always can be
	var rows []store.Message
	err = t.db().Raw("SELECT m.conversation_id, m.date, m.own, m.kind, m.from_addr, m.`to`, m.cc FROM json_each(?) j CROSS JOIN messages m ON m.conversation_id = j.value"+
		" WHERE m.id IN (SELECT x.id FROM messages x WHERE x.conversation_id = j.value ORDER BY x.date DESC LIMIT ?) AND m.held = '' AND +m.box_id = ? AND m.kind = ? AND NOT EXISTS (SELECT 1 FROM conversations c WHERE c.id = j.value AND c.place = 'junk')", string(ids), ofConversation, box, mail.Person).Scan(&rows).Error
	if err != nil {
		return nil, nil, err
	}
	others := func(all []mail.Address) (out []string) {
		for _, a := range all {
			if !own[a.Address] {
				out = append(out, a.Address)
			}
		}
		return out
	}
	written := map[int64][]numbers.Written{}
	for _, m := range rows {
		reach, _ := mail.ReachOf(m.To, m.Cc, own)
		w := numbers.Written{At: m.Date, Own: m.Own, Person: true, From: m.FromAddr, To: others(m.To), Copied: others(m.Cc), Direct: reach == mail.Alone || reach == mail.Named}
		if !m.Own && own[m.FromAddr] {
			continue // written by the reader before that address was theirs
		}
		written[m.ConversationID] = append(written[m.ConversationID], w)
	}
	for _, id := range conversations {
		all, began, since, known := numbers.Answers(written[id])
		for _, a := range all {
			answers = append(answers, Answered{ConversationID: id, Answer: a})
		}
		if known {
			openings = append(openings, opening{id, box, since, began})
		}
	}
	return answers, openings, nil
}

// Unsettled says that something of a box has changed of which no answers are made yet.
func (t Answers) Unsettled(box int64) (some bool, err error) {
	err = t.db().Raw("SELECT EXISTS (SELECT 1 FROM stale_answers WHERE box_id = ?)", box).Scan(&some).Error
	return some, err
}

// Stale says that something has changed of which no answers are made yet, in whichever box.
func (t Answers) Stale() (some bool, err error) {
	err = t.db().Raw("SELECT EXISTS (SELECT 1 FROM stale_answers)").Scan(&some).Error
	return some, err
}

// Sort is what answers are gathered by.
type Sort string

// The sorts.
const (
	ByPerson  Sort = "person"
	ByDomain  Sort = "domain"
	ByProject Sort = "project"
	ByLabel   Sort = "label"
)

// Sorts are all there are.
var Sorts = []Sort{ByPerson, ByDomain, ByProject, ByLabel}

// from says for a sort what its key is, and what has to be joined for it.
func (s Sort) from() (key, join string) {
	switch s {
	case ByDomain:
		return "CASE WHEN instr(a.address, '@') THEN substr(a.address, instr(a.address, '@') + 1) ELSE a.address END", ""
	case ByProject:
		return "f.project", " JOIN (SELECT DISTINCT conversation_id, project FROM follow_ups WHERE box_id = @box AND project <> '') f ON f.conversation_id = a.conversation_id"
	case ByLabel:
		return "CAST(l.label_id AS TEXT)", " CROSS JOIN conversation_labels l ON l.conversation_id = a.conversation_id"
	}
	return "a.address", ""
}

// Rev is how often the answers of a box have been made anew.
func (t Answers) Rev(box int64) (rev int64, err error) {
	err = t.db().Raw("SELECT COALESCE((SELECT rev FROM answer_revisions WHERE box_id = ?), 0)", box).Scan(&rev).Error
	return rev, err
}

// Since gives all answers of a box from an instant on, and what waits for one, in order (numbers.Answer.At),
// and the addresses of all of them, each once.
func (t Answers) Since(box int64, from when.Instant) (out []Answered, addresses []string, err error) {
	rows, err := t.db().Raw("SELECT conversation_id, address, own, asked, answered FROM answers WHERE box_id = ? AND at >= ? ORDER BY at", box, from).Rows()
	if err != nil {
		return nil, nil, err
	}
	defer rows.Close()
	known := map[string]int32{}
	for rows.Next() {
		var a Answered
		var address sql.RawBytes
		if err := rows.Scan(&a.ConversationID, &address, &a.Own, &a.Asked, &a.Answered); err != nil {
			return nil, nil, err
		}
		who, ok := known[string(address)]
		if !ok {
			who = int32(len(addresses))
			addresses = append(addresses, string(address))
			known[addresses[who]] = who
		}
		a.Address, a.Who = addresses[who], who
		out = append(out, a)
	}
	return out, addresses, rows.Err()
}

// near is how far apart conversations are that are asked for together, also those between them.
const near = 32

// Keys gives by the keys of a sort that is of conversations, projects or labels, which of these have it, and
// perhaps others; they are in order.
func (t Answers) Keys(box int64, by Sort, conversations []int64) (map[string][]int64, error) {
	var runs [][2]int64
	for _, id := range conversations {
		if n := len(runs); n > 0 && id-runs[n-1][1] <= near {
			runs[n-1][1] = id
		} else {
			runs = append(runs, [2]int64{id, id})
		}
	}
	raw, _ := json.Marshal(append([][2]int64{}, runs...)) // numbers always can be
	q := "SELECT CAST(l.label_id AS TEXT) k, json_group_array(l.conversation_id) ids FROM json_each(@ids) j CROSS JOIN conversation_labels l ON l.conversation_id BETWEEN j.value->>0 AND j.value->>1 GROUP BY l.label_id"
	if by == ByProject {
		q = "SELECT project k, json_group_array(DISTINCT conversation_id) ids FROM follow_ups WHERE box_id = @box AND project <> '' AND conversation_id > 0 GROUP BY project"
	}
	var rows []struct {
		K   string
		IDs string
	}
	if err := t.db().Raw(q, map[string]any{"box": box, "ids": string(raw)}).Scan(&rows).Error; err != nil {
		return nil, err
	}
	out := map[string][]int64{}
	for _, r := range rows {
		var ids []int64
		for id := range strings.SplitSeq(strings.Trim(r.IDs, "[]"), ",") {
			n, err := strconv.ParseInt(id, 10, 64)
			if err != nil {
				return nil, err
			}
			ids = append(ids, n)
		}
		out[r.K] = ids
	}
	return out, nil
}

// Begun says of how many conversations between people that began in [from, to) there are, and how many of
// them the reader began.
func (t Answers) Begun(box int64, from, to when.Instant) (all, own int, err error) {
	var row struct{ N, Own int }
	err = t.db().Raw("SELECT COUNT(*) n, COALESCE(SUM(own), 0) own FROM openings WHERE box_id = ? AND at >= ? AND at < ?", box, from, to).Scan(&row).Error
	return row.N, row.Own, err
}

// With gives the newest n answers between the reader and these addresses, of each who asked.
func (t Answers) With(box int64, addresses []string, own bool, n int) (out []numbers.Answer, err error) {
	raw, _ := json.Marshal(addresses) // texts always can be
	err = t.db().Raw("SELECT a.address, a.own, a.asked, a.answered FROM json_each(?) j CROSS JOIN answers a ON a.box_id = ? AND a.address = j.value WHERE a.own = ? AND a.answered > 0 ORDER BY a.at DESC LIMIT ?", string(raw), box, own, n).Scan(&out).Error
	return out, err
}

// Opened are the lines of a number of answers.
type Opened struct {
	Own   bool // it is the reader who answers
	Open  bool // what was not answered, instead of what was
	Sort  Sort // by which Keys are said; "": all
	Keys  []string
	From  when.Instant
	To    when.Instant
	After *OpenedLine // lines after that one: by its At, its conversation and its address
}

// OpenedLine is one of them.
type OpenedLine struct {
	ConversationID int64
	Address        string
	Name           string
	Subject        string
	Asked          when.Instant
	Answered       when.Instant
	At             when.Instant
}

// Lines gives n lines of a number, the newest first.
func (t Answers) Lines(box int64, o Opened, n int) (out []OpenedLine, err error) {
	key, join := o.Sort.from()
	args := map[string]any{"box": box, "own": o.Own, "from": o.From, "to": o.To, "keys": o.Keys, "n": n}
	q := "SELECT a.conversation_id, a.address, a.asked, a.answered, a.at, COALESCE(k.name, '') name, COALESCE(NULLIF(c.title, ''), c.subject, '') subject FROM answers a" + join +
		" LEFT JOIN correspondents k ON k.box_id = a.box_id AND k.address = a.address LEFT JOIN conversations c ON c.id = a.conversation_id" +
		" WHERE a.box_id = @box AND a.at >= @from AND a.at < @to AND a.own = @own AND a.answered "
	if o.Open {
		q += "= 0"
	} else {
		q += "> 0"
	}
	if o.Sort != "" {
		q += " AND " + key + " IN @keys"
	}
	if o.After != nil {
		q += " AND (a.at, a.conversation_id, a.address) < (@at, @id, @address)"
		args["at"], args["id"], args["address"] = o.After.At, o.After.ConversationID, o.After.Address
	}
	err = t.db().Raw(q+" ORDER BY a.at DESC, a.conversation_id DESC, a.address DESC LIMIT @n", args).Scan(&out).Error
	return out, err
}

// Unanswered is how much of somebody's waits for an answer, or how much they have not answered.
type Unanswered struct {
	Address string
	N       int
	Since   when.Instant // the oldest of it
}

// Waiting gives by address what waits for an answer by the reader in conversations that lie before them, or
// are to come back, and what they wait for since then.
func (t Answers) Waiting(box int64, since when.Instant) (mine, theirs []Unanswered, err error) {
	for _, q := range []struct {
		own bool
		out *[]Unanswered
	}{{true, &mine}, {false, &theirs}} {
		text := "SELECT a.address, COUNT(*) n, MIN(a.asked) since FROM answers a CROSS JOIN conversations c ON c.id = a.conversation_id WHERE a.box_id = ? AND a.own = ? AND a.at >= ? AND a.answered = 0"
		if q.own {
			text += " AND c.place IN ('inbox', 'snoozed')"
		}
		if err := t.db().Raw(text+" GROUP BY a.address", box, q.own, since).Scan(q.out).Error; err != nil {
			return nil, nil, err
		}
	}
	return mine, theirs, nil
}

// Check says where what is kept differs from what the messages say.
func (t Answers) Check() (wrong []string, err error) {
	return Counted(t).compared(t.differences, "Of %d conversations of box %d, who answered whom is kept otherwise than its messages say.")
}

// differences counts the conversations of a box of which that is so: the slow way.
func (t Answers) differences(box int64) (n int, err error) {
	after := int64(0)
	for {
		var ids []int64
		err := t.db().Raw("SELECT id FROM conversations WHERE box_id = ? AND id > ? AND id NOT IN (SELECT conversation_id FROM stale_answers) ORDER BY id LIMIT 500", box, after).Scan(&ids).Error
		if err != nil || len(ids) == 0 {
			return n, err
		}
		after = ids[len(ids)-1]
		answers, openings, err := t.of(box, ids)
		if err != nil {
			return n, err
		}
		wants := map[int64][]string{}
		for _, a := range answers {
			wants[a.ConversationID] = append(wants[a.ConversationID], fmt.Sprintf("%s %t %d %d", a.Address, a.Own, a.Asked, a.Answered))
		}
		for _, o := range openings {
			wants[o.ConversationID] = append(wants[o.ConversationID], fmt.Sprintf("began %t %d", o.Own, o.At))
		}
		raw, _ := json.Marshal(ids) // numbers always can be
		var kept []Answered
		if err := t.db().Raw("SELECT a.conversation_id, a.address, a.own, a.asked, a.answered FROM json_each(?) j CROSS JOIN answers a ON a.conversation_id = j.value", string(raw)).Scan(&kept).Error; err != nil {
			return n, err
		}
		var begun []opening
		if err := t.db().Where("conversation_id IN ?", ids).Find(&begun).Error; err != nil {
			return n, err
		}
		is := map[int64][]string{}
		for _, a := range kept {
			is[a.ConversationID] = append(is[a.ConversationID], fmt.Sprintf("%s %t %d %d", a.Address, a.Own, a.Asked, a.Answered))
		}
		for _, o := range begun {
			is[o.ConversationID] = append(is[o.ConversationID], fmt.Sprintf("began %t %d", o.Own, o.At))
		}
		for _, id := range ids {
			slices.Sort(wants[id])
			slices.Sort(is[id])
			if !slices.Equal(slices.Compact(wants[id]), is[id]) {
				n++
			}
		}
	}
}

// Pending is an open follow-up, as far as it says how one stands with somebody.
type Pending struct {
	UID        string
	Title      string
	Person     string // whom it concerns: an address; "": nobody
	PersonName string
	DueAt      when.Instant
	WaitsSince when.Instant // it waits for them; 0: it does not
	Made       when.Instant
	Moved      int // how often it was put off
}

// Pending gives all open follow-ups of a box.
func (t Answers) Pending(box int64) (out []Pending, err error) {
	err = t.db().Raw("SELECT uid, data->>'title' title, COALESCE(data->>'$.with.address', '') person, COALESCE(data->>'$.with.name', '') person_name, due_at, waits_since, data->>'made' made, COALESCE(data->>'moved', 0) moved FROM follow_ups WHERE box_id = ? AND open", box).Scan(&out).Error
	return out, err
}

// Known is somebody with whom something has gone back and forth.
type Known struct {
	Name           string
	Received, Sent int
	Last           when.Instant // when one of the two last wrote
}

// KnownRev is how often it has changed with whom something goes back and forth in a box.
func (t Answers) KnownRev(box int64) (rev int64, err error) {
	err = t.db().Raw("SELECT known_rev FROM boxes WHERE id = ?", box).Scan(&rev).Error
	return rev, err
}

// Known says what has gone back and forth with addresses, by their places among these; of whom nothing has,
// it is not there.
func (t Answers) Known(box int64, addresses []string) (map[int]Known, error) {
	raw, _ := json.Marshal(addresses) // texts always can be
	rows, err := t.db().Raw("SELECT j.key, c.name, c.received, c.sent, MAX(c.last_at, c.answered_at) FROM json_each(?) j CROSS JOIN correspondents c ON c.box_id = ? AND c.address = j.value", string(raw), box).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := make(map[int]Known, len(addresses))
	for rows.Next() {
		var at int
		var k Known
		if err := rows.Scan(&at, &k.Name, &k.Received, &k.Sent, &k.Last); err != nil {
			return nil, err
		}
		out[at] = k
	}
	return out, rows.Err()
}

// Aliases gives for each address that stands for a number the mail address of whoever has it, where that
// is known.
func (t Answers) Aliases(box int64) (map[string]string, error) {
	var rows []phoning.Number
	err := t.db().Where("box_id = ? AND address <> ''", box).Find(&rows).Error
	out := map[string]string{}
	for _, n := range rows {
		out[n.Number.Address()] = n.Address
	}
	return out, err
}

// DueLoad is when a follow-up is due, and how many minutes of that day it takes.
type DueLoad struct {
	DueAt   when.Instant
	Minutes int
}

// DueLoads gives those of all open follow-ups of a box that are due before an instant.
func (t Answers) DueLoads(box int64, before when.Instant) (out []DueLoad, err error) {
	err = t.db().Raw("SELECT due_at, minutes FROM follow_ups WHERE box_id = ? AND open AND due_at > 0 AND due_at < ? AND minutes > 0", box, before).Scan(&out).Error
	return out, err
}

// InboxAges counts what is in the inbox by the instant since which it has been: after the first bound,
// after the second, and so on, and before the last.
func (t Answers) InboxAges(box int64, bounds []when.Instant) ([]int, error) {
	var since []when.Instant
	err := t.db().Raw("SELECT since FROM conversations WHERE box_id = ? AND place = 'inbox'", box).Scan(&since).Error
	return between(since, bounds), err
}

// OpenAges counts the open follow-ups by the instant at which they were made, likewise.
func (t Answers) OpenAges(box int64, bounds []when.Instant) ([]int, error) {
	var made []when.Instant
	err := t.db().Raw("SELECT data->>'made' FROM follow_ups WHERE box_id = ? AND open", box).Scan(&made).Error
	return between(made, bounds), err
}

// between counts instants by bounds, the latest of which comes first.
func between(all, bounds []when.Instant) []int {
	out := make([]int, len(bounds)+1)
	for _, at := range all {
		i := 0
		for i < len(bounds) && at < bounds[i] {
			i++
		}
		out[i]++
	}
	return out
}

// Aged is something that has been open since an instant: a conversation in the inbox, or a follow-up.
type Aged struct {
	ConversationID int64
	UID            string
	Title          string
	Since          when.Instant
}

// AgedInbox gives n of what has been in the inbox since [from, to), the oldest first.
func (t Answers) AgedInbox(box int64, from, to when.Instant, n int) (out []Aged, err error) {
	err = t.db().Raw("SELECT id conversation_id, COALESCE(NULLIF(title, ''), subject) title, since FROM conversations WHERE box_id = ? AND place = 'inbox' AND since >= ? AND since < ? ORDER BY since, id LIMIT ?", box, from, to, n).Scan(&out).Error
	return out, err
}

// AgedOpen gives n of the open follow-ups that were made in [from, to), the oldest first.
func (t Answers) AgedOpen(box int64, from, to when.Instant, n int) (out []Aged, err error) {
	err = t.db().Raw("SELECT uid, conversation_id, data->>'title' title, data->>'made' since FROM follow_ups WHERE box_id = ? AND open AND data->>'made' >= ? AND data->>'made' < ? ORDER BY data->>'made', uid LIMIT ?", box, from, to, n).Scan(&out).Error
	return out, err
}

// unowned are the conversations in the inbox of a team that nobody has.
const unowned = "place = 'inbox' AND NOT EXISTS (SELECT 1 FROM follow_ups f WHERE f.conversation_id = c.id AND f.open AND f.owner > 0)"

// UnownedAges counts what nobody of a team has, by the instant since which it lies there (InboxAges).
func (t Answers) UnownedAges(box int64, bounds []when.Instant) ([]int, error) {
	var since []when.Instant
	err := t.db().Raw("SELECT since FROM conversations c WHERE box_id = ? AND "+unowned, box).Scan(&since).Error
	return between(since, bounds), err
}

// AgedUnowned gives n of what nobody has since [from, to), the oldest first.
func (t Answers) AgedUnowned(box int64, from, to when.Instant, n int) (out []Aged, err error) {
	err = t.db().Raw("SELECT id conversation_id, COALESCE(NULLIF(title, ''), subject) title, since FROM conversations c WHERE box_id = ? AND since >= ? AND since < ? AND "+unowned+" ORDER BY since, id LIMIT ?", box, from, to, n).Scan(&out).Error
	return out, err
}

// Share is how much of a team's somebody has: open in all, and minutes of it that are due before an instant.
type Share struct {
	Person  int64
	Name    string
	Open    int
	Minutes int
}

// Shares gives those of all members of a team.
func (t Answers) Shares(box int64, before when.Instant) (out []Share, err error) {
	err = t.db().Raw(`SELECT p.id person, p.name, COUNT(f.uid) open, COALESCE(SUM(CASE WHEN f.due_at > 0 AND f.due_at < ? THEN f.minutes ELSE 0 END), 0) minutes
		FROM members m CROSS JOIN people p ON p.id = m.person_id LEFT JOIN follow_ups f ON f.box_id = m.box_id AND f.open AND f.owner > 0 AND f.owner = p.id
		WHERE m.box_id = ? GROUP BY p.id ORDER BY p.name, p.id`, before, box).Scan(&out).Error
	return out, err
}
