package store

import (
	"bytes"
	"encoding/json"
	"slices"
	"strconv"
	"strings"

	"gorm.io/gorm"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/store/sqlite"
	"ebbe/internal/store/words"
)

// Row is a conversation as a person sees it in a list.
type Row struct {
	Conversation
	Unread  bool
	Starred bool
	Looks   int
}

// Cursor is a position in a list that is ordered by an instant and an ID.
type Cursor struct {
	At when.Instant
	ID int64
}

// conversationColumns are the columns of a conversation c, in the order in which
// fields gives where they go.
const conversationColumns = "c.id, c.box_id, c.place, c.reason, c.since, c.snoozed_at, c.snoozes, c.return_at, c.return_local, c.return_zone, c.until, c.site, c.round, c.title, c.note, c.labels, c.subject, c.base, c.last_at, c.first_at, c.messages, c.files, c.kind, c.from_name, c.from_addr, c.own_last, c.merged_to, c.apart, c.account, c.reach, c.rank, c.size, c.begins, c.importance, c.because, c.said, c.silent, c.stream, c.kept, c.traits"

func (c *Conversation) fields() []any {
	return []any{&c.ID, &c.BoxID, &c.Place, &c.Reason, &c.Since, &c.SnoozedAt, &c.Snoozes, &c.ReturnAt, &c.ReturnLocal, &c.ReturnZone, &c.Until, &c.Site, &c.Round, &c.Title, &c.Note, &c.Labels, &c.Subject, &c.Base, &c.LastAt, &c.FirstAt, &c.Messages, &c.Files, &c.Kind, &c.FromName, &c.FromAddr, &c.OwnLast, &c.MergedTo, &c.Apart, &c.Account, &c.Reach, &c.Rank, &c.Size, &c.Begins, &c.Importance, &c.Because, &c.Said, &c.Silent, &c.Stream, &c.Kept, &c.Traits}
}

const rowColumns = conversationColumns + ", COALESCE(m.unread, 0) unread, COALESCE(m.starred, 0) starred, COALESCE(m.looks, 0) looks"

// scanRows reads rows of rowColumns. They are read often, and many at once, so
// this is written out.
func scanRows(q *gorm.DB) (out []Row, err error) {
	rows, err := q.Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var r Row
		if err := rows.Scan(append(r.fields(), &r.Unread, &r.Starred, &r.Looks)...); err != nil {
			return nil, err
		}
		out = append(out, r)
	}
	return out, rows.Err()
}

// Search is what is asked for by a query.
type Search Tx

// Matching begins a query for the conversations c of a box that match q, with
// the person's mark m where it is needed.
func (t Search) Matching(box, person int64, q search.Query, marks bool) *gorm.DB {
	return t.Where(t.db.Table("conversations c"), box, person, q, marks)
}

// Where narrows a query in which conversations are called c to what matches q.
func (t Search) Where(db *gorm.DB, box, person int64, q search.Query, marks bool) *gorm.DB {
	if marks || q.Unread || q.Starred || q.Unstarred {
		db = db.Joins("LEFT JOIN marks m ON m.conversation_id = c.id AND m.person_id = ?", person)
	}
	s := words.SoughtBy(q)
	few := s.Messages != "" || q.Saved != 0 || q.Label != 0 || q.Unread || q.Starred || q.ByWork()
	if !few || q.Place == inbox.Inbox {
		db = db.Where("c.box_id = ?", box)
	} else { // what the words, the label or a mark find is looked up, rather than all of the box held against it
		db = db.Where("+c.box_id = ?", box)
	}
	switch q.Place { // what has been merged away counts as archived
	case "":
		db = db.Where("c.merged_to = 0 AND c.place <> 'held'")
	case inbox.Inbox:
		db = db.Where("c.place = 'inbox'") // written out, so that indexes of the inbox serve
	case inbox.Archived:
		db = db.Where("c.merged_to = 0 AND c.place = ?", q.Place)
	default:
		db = db.Where("c.place = ?", q.Place)
	}
	for _, part := range []struct {
		on    bool
		where string
		arg   any
	}{
		{q.From != "", "c.from_addr = ?", q.From},
		{q.Account != "", "c.account = ?", q.Account},
		{q.Kind != "", "c.kind = ?", q.Kind},
		{q.Reach != "", "c.reach = ?", q.Reach},
		{q.Before > 0, "c.last_at < ?", q.Before},
		{q.Domain != "", `'.' || substr(c.from_addr, instr(c.from_addr, '@') + 1) LIKE '%.' || replace(replace(?, '%', ''), '_', '\_') ESCAPE '\'`, q.Domain},
		{q.Level == search.High, "c.importance >= ?", 800},
		{q.Level == search.Middle, "c.importance BETWEEN ? AND 799", 400},
		{q.Level == search.Low, "c.importance < ?", 400},
		{q.Stream != "", inStream + " = ?", q.Stream},
		{q.Together, "c.reason IN ?", inbox.CameIn},
		{q.Larger > 0 && !q.OfMessage(), "c.size > ?", q.Larger},
		{q.List != "", theirs + " AND x.list = ?)", q.List},
		{q.Language != "", theirs + " AND x.language = ?)", q.Language},
		{q.FilesOf != "" && !q.OfMessage(), theirs + " AND EXISTS (SELECT 1 FROM json_each(x.files) f, json_each(?) k WHERE " + ofThatKind + "))", kindsAsJSON(q.FilesOf)},
		{q.Label > 0, `c.id IN (WITH RECURSIVE below(id) AS (SELECT ? UNION SELECT l.id FROM labels l JOIN below ON l.parent = below.id)
			SELECT conversation_id FROM conversation_labels WHERE label_id IN below)`, q.Label},
	} {
		if part.on {
			db = db.Where(part.where, part.arg)
		}
	}
	if traits := q.Traits(); traits != 0 {
		db = db.Where("c.traits & ? = ?", traits, traits)
	}
	switch {
	case q.Unread && q.Place != inbox.Inbox:
		db = db.Where("c.id IN (SELECT conversation_id FROM marks WHERE person_id = ? AND unread)", person)
	case q.Unread:
		db = db.Where("COALESCE(m.unread, 0)")
	}
	switch {
	case q.Starred && q.Place != inbox.Inbox:
		db = db.Where("c.id IN (SELECT conversation_id FROM marks WHERE person_id = ? AND starred)", person)
	case q.Starred:
		db = db.Where("m.starred")
	}
	if q.Apart != "" {
		db = db.Where("NOT (c.reason IN ? AND "+inStream+" IN ?)", inbox.CameIn, strings.Split(q.Apart, ","))
	}
	if q.Unstarred {
		db = db.Where("NOT COALESCE(m.starred, 0)")
	}
	if q.Flagged {
		db = db.Where("EXISTS (SELECT 1 FROM follow_ups f WHERE f.conversation_id = c.id AND f.open)")
	}
	if q.ByWork() {
		work := t.db.Table("follow_ups f").Select("f.conversation_id").Where("f.box_id = ? AND f.open", box)
		for _, part := range [][2]string{{"stage", q.Stage}, {"project", q.Project}, {"person", q.Person}, {"context", q.Context}} {
			if part[1] != "" {
				work = work.Where("f."+part[0]+" = ?", part[1])
			}
		}
		if q.Priority != 0 {
			work = work.Where("f.priority = ?", q.Priority)
		}
		db = db.Where("c.id IN (?)", work)
	}
	if q.Files && !q.OfMessage() {
		db = db.Where("c.files > 0")
	}
	if q.Answered || q.Unanswered {
		own := "EXISTS (SELECT 1 FROM messages x WHERE x.conversation_id = c.id AND x.own)"
		if q.Unanswered {
			own = "NOT " + own
		}
		db = db.Where(own)
	}
	if q.Saved != 0 {
		lists, err := Lists(t).SavedLists(box, person)
		if err != nil {
			_ = db.AddError(err)
		}
		if i := slices.IndexFunc(lists, func(l SavedList) bool { return l.ID == q.Saved }); i >= 0 && lists[i].Query.Saved == 0 {
			db = db.Where("c.id IN (?)", t.Matching(box, person, lists[i].Query, false).Select("c.id"))
		} else {
			db = db.Where("FALSE")
		}
	}
	if q.Waiting {
		db = db.Where("c.id IN (SELECT f.conversation_id FROM follow_ups f WHERE f.box_id = ? AND f.waits_since > 0 AND f.open)", box)
	}
	if s.Without != "" {
		db = db.Where("c.id NOT IN (SELECT x.conversation_id FROM messages x WHERE x.held = '' AND x.id IN (SELECT rowid FROM words WHERE words MATCH ?))", s.Without)
	}
	switch messages := OfMessage(t.db.Table("messages x").Select("x.conversation_id").Where("x.held = ''"), q); {
	case s.Messages != "":
		messages = messages.Where("x.id IN (SELECT rowid FROM words WHERE words MATCH ?)", s.Messages)
		if s.Documents == "" {
			db = db.Where("c.id IN (?)", messages)
			break
		}
		documents := OfDocument(t.db.Table("documents d").Select("d.conversation_id").Where("d.id IN (SELECT rowid FROM document_words WHERE document_words MATCH ?)", s.Documents), q)
		if q.Within != "" {
			db = db.Where("c.id IN (?)", documents)
			break
		}
		db = db.Where("(c.id IN (?) OR c.id IN (?))", messages, documents)
	case q.OfMessage():
		db = db.Where("EXISTS (?)", messages.Where("x.conversation_id = c.id")).Where("c.last_at >= ?", q.Since)
	}
	return db
}

// inStream is the stream of a conversation, delivery.StreamOf where nothing was said.
const inStream = "CASE WHEN c.stream <> '' THEN c.stream WHEN c.kind IN ('list', 'notice', 'receipt') THEN 'machines' ELSE 'people' END"

// theirs begins what is asked of a message in view by somebody else.
const theirs = "EXISTS (SELECT 1 FROM messages x WHERE x.conversation_id = c.id AND x.held = '' AND NOT +x.own"

// ofThatKind says that a file f is of one of the kinds k.
const ofThatKind = "CASE WHEN k.value LIKE '.%' THEN lower(f.value->>'name') LIKE '%' || k.value ELSE lower(f.value->>'type') LIKE k.value || '%' END"

func kindsAsJSON(k search.FileKind) string {
	raw, _ := json.Marshal(search.FileKinds[k]) // strings always can be
	return string(raw)
}

// OfMessage asks of messages x what q asks of single messages.
func OfMessage(db *gorm.DB, q search.Query) *gorm.DB {
	in := func(named string) string {
		raw, _ := json.Marshal(search.People(named)) // strings always can be
		return string(raw)
	}
	const went = `EXISTS (SELECT 1 FROM json_each(?) a WHERE instr(x."to", '"' || a.value || '"') OR instr(x.cc, '"' || a.value || '"'))`
	if q.Writer != "" {
		db = db.Where("x.from_addr IN (SELECT value FROM json_each(?))", in(q.Writer))
	}
	if q.To != "" {
		db = db.Where(went, in(q.To))
	}
	if q.With != "" {
		db = db.Where("(x.from_addr IN (SELECT value FROM json_each(?)) OR "+went+")", in(q.With), in(q.With))
	}
	if q.Since > 0 {
		db = db.Where("x.date >= ?", q.Since)
	}
	if q.Until > 0 {
		db = db.Where("x.date < ?", q.Until)
	}
	if q.OfMessage() { // what somebody sent then, or so: it has the file
		if q.Files {
			db = db.Where("json_array_length(x.files) > 0")
		}
		if q.FilesOf != "" {
			db = db.Where("EXISTS (SELECT 1 FROM json_each(x.files) f, json_each(?) k WHERE "+ofThatKind+")", kindsAsJSON(q.FilesOf))
		}
		if q.Larger > 0 {
			db = db.Where("x.size > ?", q.Larger)
		}
	}
	return db
}

// OfDocument asks the same of other texts d. What the files of held messages say is out
// of sight.
func OfDocument(db *gorm.DB, q search.Query) *gorm.DB {
	db = db.Where("(d.message_id = 0 OR EXISTS (SELECT 1 FROM messages h WHERE h.id = d.message_id AND h.held = ''))")
	for _, named := range []string{q.Writer, q.With} {
		if named != "" {
			raw, _ := json.Marshal(search.People(named))
			db = db.Where("d.person IN (SELECT value FROM json_each(?))", string(raw))
		}
	}
	if q.Within != "" {
		db = db.Where("d.kind = ?", q.Within)
	}
	if q.To != "" { // of files: what their message says
		db = db.Where("d.message_id IN (?)", OfMessage(db.Session(&gorm.Session{NewDB: true}).Table("messages x").Select("x.id").Where("x.id = d.message_id"), search.Query{To: q.To}))
	}
	if q.OfMessage() {
		if q.Files {
			db = db.Where("d.kind = ?", search.FileDocument)
		}
		if q.FilesOf != "" {
			db = db.Where("EXISTS (SELECT 1 FROM messages x, json_each(x.files) f, json_each(?) k WHERE x.id = d.message_id AND f.key = d.part AND "+ofThatKind+")", kindsAsJSON(q.FilesOf))
		}
		if q.Larger > 0 {
			db = db.Where("EXISTS (SELECT 1 FROM messages x WHERE x.id = d.message_id AND x.size > ?)", q.Larger)
		}
	}
	if q.Since > 0 {
		db = db.Where("d.at >= ?", q.Since)
	}
	if q.Until > 0 {
		db = db.Where("d.at < ?", q.Until)
	}
	return db
}

// orders are inbox.Order as SQL.
var orders = map[inbox.Order]string{
	inbox.NewestFirst:   "c.since DESC, c.id DESC",
	inbox.OldestFirst:   "c.since, c.id",
	inbox.SenderFirst:   "COALESCE(NULLIF(c.from_name, ''), c.from_addr) COLLATE NOCASE, c.from_addr, c.since DESC, c.id DESC",
	inbox.MostImportant: "c.importance DESC, c.rank, c.since, c.id",
	inbox.LargestFirst:  "c.size DESC, c.id DESC",
}

// Group is a group of the queue: its conversations by ID, in order.
type Group struct {
	Key   string
	Name  string // of the sender, if grouped by sender; the subject, if by subject
	Count int
	IDs   json.RawMessage // a JSON array
}

// GroupSpans gives the conversations that match q by the spans, leaving out
// spans without any. Spans of the same time stand one after the other; their
// conversations are read once.
func (t Search) GroupSpans(box, person int64, q search.Query, spans []inbox.Span, order inbox.Order) (groups []Group, err error) {
	for len(spans) > 0 {
		n := 1
		for n < len(spans) && spans[n].From == spans[0].From && spans[n].To == spans[0].To {
			n++
		}
		inner := t.Matching(box, person, q, false).Select("c.id, c.reason, c.round").Where("c.since >= ? AND c.since < ?", spans[0].From, spans[0].To).Order(orders[order])
		if n == 1 {
			g := Group{Key: string(spans[0].Section)}
			var ids string
			if err := t.db.Raw("SELECT COUNT(*), json_group_array(id) FROM (?)", inner).Row().Scan(&g.Count, &ids); err != nil {
				return nil, err
			}
			g.IDs = json.RawMessage(ids)
			groups = append(groups, g)
		} else if groups, err = t.split(groups, inner, spans[:n]); err != nil {
			return nil, err
		}
		spans = spans[n:]
	}
	return slices.DeleteFunc(groups, func(g Group) bool { return g.Count == 0 }), nil
}

// split adds the groups of spans of one time, which differ by their reasons.
func (t Search) split(groups []Group, inner *gorm.DB, spans []inbox.Span) ([]Group, error) {
	var list, whys string
	if err := t.db.Raw("SELECT json_group_array(id), COALESCE(group_concat(reason || ' ' || round), '') FROM (?)", inner).Row().Scan(&list, &whys); err != nil {
		return nil, err
	}
	ids := make([][]byte, len(spans))
	counts := make([]int, len(spans))
	of := map[string]int{} // the span of a reason and a round; -1: none
	list = strings.Trim(list, "[]")
	for why := range strings.SplitSeq(whys, ",") {
		id, rest, _ := strings.Cut(list, ",")
		list = rest
		i, known := of[why]
		if !known {
			reason, round, _ := strings.Cut(why, " ")
			i = slices.IndexFunc(spans, func(s inbox.Span) bool {
				return (len(s.Reasons) == 0 || slices.Contains(s.Reasons, inbox.Reason(reason))) && (s.Round == 0 || strconv.FormatInt(int64(s.Round), 10) == round)
			})
			of[why] = i
		}
		if i >= 0 && id != "" {
			ids[i] = append(append(ids[i], ','), id...)
			counts[i]++
		}
	}
	for i, s := range spans {
		text := append([]byte("["), bytes.TrimPrefix(ids[i], []byte(","))...)
		groups = append(groups, Group{Key: string(s.Section), Count: counts[i], IDs: append(text, ']')})
	}
	return groups, nil
}

var groupColumns = map[inbox.Grouping]struct{ column, name string }{
	inbox.BySender:  {"c.from_addr", "MAX(c.from_name)"},
	inbox.BySubject: {"COALESCE(c.base, '')", "MAX(c.subject)"}, // so that it is not grouped by an index of the whole box
	inbox.ByKind:    {"c.kind", "''"},
	inbox.ByAccount: {"c.account", "''"},

	inbox.ByImportance: {"CASE WHEN c.importance >= 800 THEN 'high' WHEN c.importance >= 400 THEN 'middle' ELSE 'low' END", "''"},
	inbox.ByStream:     {inStream, "''"},
	inbox.ByOwner:      {"COALESCE((SELECT f.owner FROM follow_ups f WHERE +f.box_id = c.box_id AND f.conversation_id = c.id AND f.open AND f.owner > 0 ORDER BY f.data->>'$.owner.at' DESC LIMIT 1), 0)", "''"},
}

// GroupBy gives the conversations that match q by sender, subject, kind or
// account, the largest group first, or by importance, the most important first.
func (t Search) GroupBy(box, person int64, q search.Query, by inbox.Grouping, order inbox.Order) (groups []Group, err error) {
	g, first := groupColumns[by], "n DESC, MAX(c.since) DESC"
	if by == inbox.ByImportance {
		first = "MAX(c.importance) DESC"
	}
	rows, err := t.Matching(box, person, q, false).
		Select(g.column + " key, " + g.name + " name, COUNT(*) n, json_group_array(c.id ORDER BY " + orders[order] + ")").
		Group(g.column).Order(first).Rows()
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var g Group
		var ids string
		if err := rows.Scan(&g.Key, &g.Name, &g.Count, &ids); err != nil {
			return nil, err
		}
		g.IDs = json.RawMessage(ids)
		groups = append(groups, g)
	}
	return groups, rows.Err()
}

// IDs gives the conversations that match q, in that order.
func (t Search) IDs(box, person int64, q search.Query, order inbox.Order) (ids []int64, err error) {
	ids = []int64{}
	err = t.Matching(box, person, q, false).Order(orders[order]).Pluck("c.id", &ids).Error
	return ids, err
}

// Count counts the conversations that match q, up to most.
func (t Search) Count(box, person int64, q search.Query, most int) (n int, err error) {
	err = t.db.Raw("SELECT COUNT(*) FROM (?)", t.Matching(box, person, q, false).Select("1").Limit(most)).Scan(&n).Error
	return n, err
}

// Rows loads conversations as a person sees them, in the order of the IDs.
// What does not exist is left out.
func (t Search) Rows(box, person int64, ids []int64) (rows []Row, err error) {
	byID := map[int64]Row{}
	for chunk := range slices.Chunk(ids, sqlite.AtOnce) {
		found, err := scanRows(t.db.Table("conversations c").Select(rowColumns).Joins("LEFT JOIN marks m ON m.conversation_id = c.id AND m.person_id = ?", person).
			Where("+c.box_id = ? AND c.id IN ? AND c.merged_to = 0 AND c.place <> 'held'", box, chunk)) // by ID, not by an index of the box
		if err != nil {
			return nil, err
		}
		for _, r := range found {
			byID[r.ID] = r
		}
	}
	for _, id := range ids {
		if r, ok := byID[id]; ok {
			rows = append(rows, r)
			delete(byID, id)
		}
	}
	return rows, nil
}

// Found gives up to n conversations that match q, newest first.
func (t Search) Found(box, person int64, q search.Query, after *Cursor, n int) (rows []Row, err error) {
	db := t.Matching(box, person, q, true).Select(rowColumns)
	if after != nil {
		db = db.Where("(c.last_at, c.id) < (?, ?)", after.At, after.ID)
	}
	return scanRows(db.Order("c.last_at DESC, c.id DESC").Limit(n))
}
