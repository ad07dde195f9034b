// Package finding finds conversations by what they say, the best of them first, and knows
// which files have been read for it.
package finding

import (
	"cmp"
	"database/sql"
	"math"
	"slices"
	"strings"

	"gorm.io/gorm"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/words"
)

// Finding is what is asked and stored about finding.
type Finding store.Tx

func (t Finding) db() *gorm.DB { return store.Tx(t).DB() }

const (
	// Weighed is how many places where the words stand are weighed against each other. Of
	// what stands in more, the newest are weighed.
	Weighed = 1000
	// counted is how many places are put in order by their time at once.
	counted = 4 * Weighed
	// Shown is how many conversations are given, at most.
	Shown = 1000
	// fill is how many conversations are enough of what is common.
	fill = 200
	// mostBlocks is how many blocks are looked through for that many.
	mostBlocks = 16
	// step is how many of the newest messages are looked at at a time.
	step = 400
)

// Place is where something was found: a message, or another text.
type Place struct {
	search.Hit
	Conversation int64 // 0: in none
	Message      int64 // 0: a document that is of no message
	Document     int64 // 0: a message
	Kind         search.DocumentKind
	From         mail.Address
	Own          bool // it is the reader's own
	MailKind     mail.Kind
	Labels       inbox.Labels
}

// Found is a conversation that was found, by the place where the words fit best.
type Found struct {
	Place
	Newest when.Instant // of the places in it
	Places int
	score  float64
}

// Result is what was found.
type Result struct {
	Found  []Found // in the order that was asked for
	Count  int     // of the conversations, Shown or not
	More   bool    // the words stand in more than could be weighed: Found are of the newest
	Others []Place // in no conversation
}

// Find finds what q says in words, people and times; newest: the newest first, else the
// best. q has to say something that must be there.
func (t Finding) Find(box, person int64, q search.Query, newest bool, now when.Instant) (r Result, err error) {
	sought := words.SoughtBy(q)
	var places []Place
	if q.Within == "" || q.Within == search.MessageDocument {
		if places, r.More, err = t.messages(box, person, q, sought); err != nil {
			return r, err
		}
	}
	if sought.Documents != "" {
		others, more, err := t.documents(box, person, q, sought)
		if err != nil {
			return r, err
		}
		if r.More && newest && len(places) > 0 { // what is older than the messages that were read is not known whole
			last := slices.MinFunc(places, func(a, b Place) int { return cmp.Compare(a.At, b.At) }).At
			others = slices.DeleteFunc(others, func(p Place) bool { return p.Conversation > 0 && p.At < last })
		}
		r.More = r.More || more
		places = append(places, others...)
	}
	of := map[int64]*Found{}
	var order []*Found
	for _, p := range places {
		if p.Conversation == 0 {
			r.Others = append(r.Others, p)
			continue
		}
		f, score := of[p.Conversation], p.Score(now)
		if f == nil {
			f = &Found{Place: p, score: score}
			of[p.Conversation] = f
			order = append(order, f)
		}
		if f.Places++; score > f.score {
			f.Place, f.score = p, score
		}
		f.Newest = max(f.Newest, p.At)
	}
	slices.SortFunc(order, func(a, b *Found) int {
		if newest {
			return cmp.Or(cmp.Compare(b.Newest, a.Newest), cmp.Compare(b.Conversation, a.Conversation))
		}
		return cmp.Or(cmp.Compare(b.score, a.score), cmp.Compare(b.Newest, a.Newest), cmp.Compare(b.Conversation, a.Conversation))
	})
	slices.SortFunc(r.Others, func(a, b Place) int {
		return cmp.Or(cmp.Compare(b.Score(now), a.Score(now)), cmp.Compare(b.Document, a.Document))
	})
	r.Count = len(order)
	for _, f := range order {
		r.Found = append(r.Found, *f)
	}
	return r, nil
}

// ofConversation is the part of q that is asked of conversations.
func ofConversation(q search.Query) search.Query {
	if q.OfMessage() {
		q.Files, q.FilesOf, q.Larger = false, "", 0
	}
	q.Words, q.Subject, q.Writer, q.To, q.With, q.Within, q.Since, q.Until = "", "", "", "", "", "", 0, 0
	return q
}

// messages gives the messages of a box that match q; more: of very many, the newest.
func (t Finding) messages(box, person int64, q search.Query, sought words.Sought) (out []Place, more bool, err error) {
	p, err := t.plan(words.Messages, append(slices.Clone(sought.Terms), sought.Around...), sought.Not)
	if err != nil {
		return nil, false, err
	}
	ids, more, err := t.all(p, counted)
	if err != nil {
		return nil, false, err
	}
	if !more && len(ids) <= Weighed {
		if out, err = t.load(box, person, q, ids); err != nil {
			return nil, false, err
		}
		return out, false, t.weigh(p, search.PeopleWeight, out)
	}
	if narrow(q) { // what is few is found first, and the words are looked for in that
		few := store.Search(t).Matching(box, person, ofConversation(q), false).Select("c.id")
		if ids, err = t.matchingIn(p, t.db().Table("messages m").Select("m.id").Where("m.conversation_id IN (?)", few)); err != nil {
			return nil, false, err
		}
		out, err = t.load(box, person, q, ids)
		return out, false, err
	}
	var blocks []block
	if err := t.db().Raw("SELECT block, newest FROM message_blocks WHERE box_id = ? AND newest >= ? ORDER BY newest DESC", box, q.Since).Scan(&blocks).Error; err != nil {
		return nil, false, err
	}
	in := func(s span) ([]dated, error) {
		ids, _, err := t.matching(p, s, 1<<store.BlockBits)
		if err != nil {
			return nil, err
		}
		if len(ids) < 1<<store.BlockBits/8 { // each is looked at sooner than all of the box's
			return t.dated(box, q, ids)
		}
		own, err := t.inView(box, q, s)
		return slices.DeleteFunc(own, func(m dated) bool { return !holds(ids, m.ID) }), err
	}
	most := mostBlocks
	if !more {
		blocks = slices.DeleteFunc(blocks, func(b block) bool { return len(b.span().of(ids)) == 0 })
		in = func(s span) ([]dated, error) { return t.dated(box, q, s.of(ids)) }
		most = len(blocks)
	}
	return t.newest(box, person, q, in, blocks, most)
}

// load gives those of some messages that are in view of a box and match what q asks
// besides words; where the words stand in their subjects, they fit better.
func (t Finding) load(box, person int64, q search.Query, ids []int64) (out []Place, err error) {
	db := t.db().Table("json_each(?) j CROSS JOIN messages x ON x.id = j.value CROSS JOIN conversations c ON c.id = x.conversation_id", inJSON(ids)).
		Select("x.id, x.conversation_id, x.date, x.subject, x.from_name, x.from_addr, x.own, c.kind, c.importance, c.labels").
		Where("+x.box_id = ? AND x.held = ''", box)
	rows, err := store.Search(t).Where(store.OfMessage(db, q), box, person, ofConversation(q), false).Rows()
	if err != nil {
		return nil, err
	}
	terms := q.Terms()
	begins := ""
	if i := slices.IndexFunc(terms, func(t search.Term) bool { return !t.Not }); i >= 0 {
		begins = terms[i].Words[0]
	}
	return scan(rows, func(rows *sql.Rows, p *Place) error {
		var subject string
		err := rows.Scan(&p.Message, &p.Conversation, &p.At, &subject, &p.From.Name, &p.From.Address, &p.Own, &p.MailKind, &p.Importance, &p.Labels)
		p.Text = search.BodyWeight
		if begins != "" && strings.Contains(search.Indexed(subject), begins) && search.Saying(subject, "", "")(terms, true) {
			p.Text = search.SubjectWeight
		}
		return err
	})
}

// scan reads rows one by one; there are many of them, for which it pays not to ask of each
// what it is made of.
func scan[T any](rows *sql.Rows, one func(*sql.Rows, *T) error) (out []T, err error) {
	defer rows.Close()
	for rows.Next() {
		var p T
		if err := one(rows, &p); err != nil {
			return nil, err
		}
		out = append(out, p)
	}
	return out, rows.Err()
}

// dated is a message of which no more is known than when it was written.
type dated struct {
	ID   int64
	Date when.Instant
}

// inView gives the messages in a span that are in view of a box and of the time that q names,
// the highest ID first.
func (t Finding) inView(box int64, q search.Query, s span) ([]dated, error) {
	both, err := t.ids("SELECT id || ',' || date id FROM messages WHERE box_id = ? AND id BETWEEN ? AND ? AND held = '' AND date >= ? AND (? = 0 OR date < ?) ORDER BY id DESC", box, s.first, s.last, q.Since, q.Until, q.Until)
	return pairs(both), err
}

func pairs(both []int64) (out []dated) {
	for pair := range slices.Chunk(both, 2) {
		out = append(out, dated{pair[0], when.Instant(pair[1])})
	}
	return out
}

// dated gives those of some messages that are in view of a box and of the time that q
// names.
func (t Finding) dated(box int64, q search.Query, ids []int64) (out []dated, err error) {
	if len(ids) == 0 {
		return nil, nil
	}
	both, err := t.ids("SELECT x.id || ',' || x.date id FROM json_each(?) j CROSS JOIN messages x ON x.id = j.value WHERE +x.box_id = ? AND x.held = '' AND x.date >= ? AND (? = 0 OR x.date < ?)", inJSON(ids), box, q.Since, q.Until, q.Until)
	return pairs(both), err
}

// before puts the newest first.
func (d dated) before(o dated) int {
	return cmp.Or(cmp.Compare(o.Date, d.Date), cmp.Compare(o.ID, d.ID))
}

// block is some messages whose IDs follow each other, and how new the newest of them is.
type block struct {
	Block  int64
	Newest when.Instant
}

func (b block) span() span {
	first := b.Block << store.BlockBits
	return span{first, first + 1<<store.BlockBits - 1}
}

// newest gives the newest messages that match q, until there are enough: of blocks, those
// with the newest message first; in gives what matches in one. A block is opened as long as
// it can have a newer message than those that are known. more says that it did not come to
// the end.
func (t Finding) newest(box, person int64, q search.Query, in func(span) ([]dated, error), blocks []block, most int) (out []Place, more bool, err error) {
	seen := map[int64]bool{}
	var known []dated // of opened blocks, the newest first
	for opened := 0; ; {
		n := 0
		for n < len(known) && n < step && (opened == len(blocks) || known[n].Date >= blocks[opened].Newest) {
			n++
		}
		switch {
		case n > 0:
			ids := make([]int64, n)
			for i, m := range known[:n] {
				ids[i] = m.ID
			}
			some, err := t.load(box, person, q, ids)
			if err != nil {
				return nil, false, err
			}
			for _, p := range some {
				seen[p.Conversation] = true
			}
			if out, known = append(out, some...), known[n:]; len(seen) >= fill {
				return out, len(known) > 0 || opened < len(blocks), nil
			}
		case opened == len(blocks):
			return out, false, nil
		case opened >= most && len(seen) >= fill/10: // where mail was brought in from many places at once, few are enough
			return out, true, nil
		default:
			more, err := in(blocks[opened].span())
			if err != nil {
				return nil, false, err
			}
			slices.SortFunc(more, dated.before)
			known = merged(known, more)
			opened++
		}
	}
}

// merged puts two lists together, each of which has the newest first.
func merged(a, b []dated) []dated {
	out := make([]dated, 0, len(a)+len(b))
	for len(a) > 0 && len(b) > 0 {
		if a[0].before(b[0]) <= 0 {
			out, a = append(out, a[0]), a[1:]
		} else {
			out, b = append(out, b[0]), b[1:]
		}
	}
	return append(append(out, a...), b...)
}

// narrow says that few conversations are what q asks for besides words.
func narrow(q search.Query) bool {
	return q.Label > 0 || q.Unread || q.Starred || q.Flagged || q.Waiting || q.ByWork() || q.Place == inbox.Inbox || q.Place == inbox.Snoozed || q.Place == inbox.Bin || q.Place == inbox.Junk
}

// documents gives the other texts of a box that match q; more: of very many, some of those
// that were indexed last.
func (t Finding) documents(box, person int64, q search.Query, sought words.Sought) (out []Place, more bool, err error) {
	p, err := t.plan(words.Documents, sought.Terms, sought.Not)
	if err != nil {
		return nil, false, err
	}
	ids, more, err := t.all(p, Weighed)
	if err != nil {
		return nil, false, err
	}
	if !more {
		if out, err = t.loadDocuments(box, person, q, ids); err != nil {
			return nil, false, err
		}
		return out, false, t.weigh(p, search.AroundWeight, out)
	}
	last := int64(math.MaxInt64)
	for few := 1 << 10; few <= 1<<13 && len(out) < Weighed/4; few *= 2 { // at a time
		own, err := t.ids("SELECT id FROM documents WHERE box_id = ? AND id < ? ORDER BY id DESC LIMIT ?", box, last, few)
		if err != nil || len(own) == 0 {
			return out, true, err
		}
		last = own[len(own)-1]
		if ids, err = t.matchingAmong(p, own); err != nil {
			return nil, false, err
		}
		some, err := t.loadDocuments(box, person, q, ids)
		if err != nil {
			return nil, false, err
		}
		out = append(out, some...)
	}
	return out, true, nil
}

// loadDocuments gives those of some texts that are of a box and match what q asks besides
// words. Those in no conversation match only what asks nothing of conversations.
func (t Finding) loadDocuments(box, person int64, q search.Query, ids []int64) (out []Place, err error) {
	of := ofConversation(q)
	ask := func(from, besides string) *gorm.DB {
		return store.OfDocument(t.db().Table("json_each(?) j CROSS JOIN documents d ON d.id = j.value"+from, inJSON(ids)).
			Select("d.id, d.message_id, d.conversation_id, d.at, d.kind, d.person"+besides).Where("+d.box_id = ?", box), q)
	}
	in := ask(" CROSS JOIN conversations c ON c.id = d.conversation_id", ", c.kind, c.importance, c.labels, c.from_name")
	rows, err := store.Search(t).Where(in, box, person, of, false).Rows()
	if err != nil {
		return nil, err
	}
	if out, err = scan(rows, func(rows *sql.Rows, p *Place) error {
		p.Text = search.BodyWeight
		return rows.Scan(&p.Document, &p.Message, &p.Conversation, &p.At, &p.Kind, &p.From.Address, &p.MailKind, &p.Importance, &p.Labels, &p.From.Name)
	}); err != nil || of != (search.Query{}) {
		return out, err
	}
	if rows, err = ask("", "").Where("d.conversation_id = 0").Rows(); err != nil {
		return nil, err
	}
	alone, err := scan(rows, func(rows *sql.Rows, p *Place) error {
		p.Text = search.BodyWeight
		return rows.Scan(&p.Document, &p.Message, &p.Conversation, &p.At, &p.Kind, &p.From.Address)
	})
	return append(out, alone...), err
}

// Documents loads documents of a box by their IDs.
func (t Finding) Documents(box int64, ids []int64) (map[int64]store.Document, error) {
	var rows []store.Document
	err := t.db().Where("+box_id = ? AND id IN ?", box, ids).Find(&rows).Error
	out := map[int64]store.Document{}
	for _, d := range rows {
		out[d.ID] = d
	}
	return out, err
}

// Knows gives in how many messages each of the words stands, up to most; those in none are
// left out.
func (t Finding) Knows(said []string, most int) (map[string]int, error) {
	out := map[string]int{}
	for _, w := range said {
		match, _ := words.MatchTerms([]search.Term{{Words: []string{w}}})
		var n int
		if err := t.db().Raw("SELECT COUNT(*) FROM (SELECT 1 FROM words WHERE words MATCH ? LIMIT ?)", match, most).Scan(&n).Error; err != nil {
			return nil, err
		}
		if n > 0 {
			out[w] = n
		}
	}
	return out, nil
}
