// Package finding finds conversations by what they say, the best of them first, and knows
// which files have been read for it.
package finding

import (
	"cmp"
	"database/sql"
	"fmt"
	"slices"

	"gorm.io/gorm"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
)

// Finding is what is asked and stored about finding.
type Finding store.Tx

func (t Finding) db() *gorm.DB { return store.Tx(t).DB() }

const (
	// Weighed is how many places where the words stand are weighed against each other. Of
	// what stands in more, the newest are weighed.
	Weighed = 2000
	// Shown is how many conversations are given, at most.
	Shown = 1000
	// fill is how many conversations are enough of what is common.
	fill = 200
	// mostBlocks is how many blocks are looked through for that many.
	mostBlocks = 16
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
	sought := store.SoughtBy(q)
	common, err := t.common("words", sought.Messages)
	if err != nil {
		return r, err
	}
	var places []Place
	switch {
	case q.Within != "" && q.Within != search.MessageDocument:
	case common:
		places, r.More, err = t.byBlocks(box, person, q, sought)
	default:
		places, err = t.messages(box, person, q, sought, "")
	}
	if err != nil {
		return r, err
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

// common says that the words stand in more of an index than is weighed, of whatever box.
func (t Finding) common(index, match string) (bool, error) {
	var n int
	err := t.db().Raw("SELECT COUNT(*) FROM (SELECT 1 FROM "+index+" WHERE "+index+" MATCH ? LIMIT ?)", match, Weighed+1).Scan(&n).Error
	return n > Weighed, err
}

// ofConversation is the part of q that is asked of conversations.
func ofConversation(q search.Query) search.Query {
	q.Words, q.Subject, q.Writer, q.To, q.With, q.Within, q.Since, q.Until = "", "", "", "", "", "", 0, 0
	return q
}

// weights are the weights of the columns of an index, for bm25.
func weights(people float64) string {
	return fmt.Sprintf("%g, %g, %g", search.SubjectWeight, people, search.BodyWeight)
}

// messages gives the messages of a box that match q, in the part of the index that and
// names.
func (t Finding) messages(box, person int64, q search.Query, sought store.Sought, and string, args ...any) (out []Place, err error) {
	fits := "-bm25(words, " + weights(search.PeopleWeight) + ")"
	if and != "" { // how common a word is in all of the index is not worth counting for a part of it
		fits = "1.0"
	}
	db := t.db().Table("words CROSS JOIN messages x ON x.id = words.rowid CROSS JOIN conversations c ON c.id = x.conversation_id").
		Select("x.id, x.conversation_id, x.date, x.from_name, x.from_addr, x.own, c.kind, c.importance, c.labels, "+fits).
		Where("words MATCH ?"+and, append([]any{sought.Messages}, args...)...).Where("+x.box_id = ? AND x.held = ''", box)
	db = store.Search(t).Where(store.OfMessage(db, q), box, person, ofConversation(q), false)
	rows, err := db.Rows()
	if err != nil {
		return nil, err
	}
	return scan(rows, func(rows *sql.Rows, p *Place) error {
		return rows.Scan(&p.Message, &p.Conversation, &p.At, &p.From.Name, &p.From.Address, &p.Own, &p.MailKind, &p.Importance, &p.Labels, &p.Text)
	})
}

func scan(rows *sql.Rows, one func(*sql.Rows, *Place) error) (out []Place, err error) {
	defer rows.Close()
	for rows.Next() {
		var p Place
		if err := one(rows, &p); err != nil {
			return nil, err
		}
		out = append(out, p)
	}
	return out, rows.Err()
}

// byBlocks gives the newest messages that match q, block by block, those with the newest
// message first, until there are enough and no other block can have a newer one. more says
// that it did not come to the end.
func (t Finding) byBlocks(box, person int64, q search.Query, sought store.Sought) (out []Place, more bool, err error) {
	var blocks []struct {
		Block  int64
		Newest when.Instant
	}
	if err := t.db().Raw("SELECT block, newest FROM message_blocks WHERE newest >= ? ORDER BY newest DESC", q.Since).Scan(&blocks).Error; err != nil {
		return nil, false, err
	}
	var within string
	var args []any
	if narrow(q) { // what is few is found first, and the words are looked for in that
		within = " AND +words.rowid IN (SELECT m.id FROM messages m WHERE m.conversation_id IN (?))"
		args = []any{store.Search(t).Matching(box, person, ofConversation(q), false).Select("c.id")}
		out, err = t.messages(box, person, q, sought, within, args...)
		return out, false, err
	}
	seen := map[int64]bool{}
	oldest := func() when.Instant { // of the newest conversations that are enough
		newest := map[int64]when.Instant{}
		for _, p := range out {
			newest[p.Conversation] = max(newest[p.Conversation], p.At)
		}
		var at []when.Instant
		for _, a := range newest {
			at = append(at, a)
		}
		slices.SortFunc(at, func(a, b when.Instant) int { return cmp.Compare(b, a) })
		return at[fill-1]
	}
	for i, b := range blocks {
		if len(seen) >= fill {
			// Where mail was brought in from many places at once, few are enough.
			if from := oldest(); from >= b.Newest || i >= mostBlocks && among(out, b.Newest) {
				// What is older than what was looked through whole is not known whole.
				out = slices.DeleteFunc(out, func(p Place) bool { return p.At < b.Newest })
				return out, true, nil
			}
		}
		first, last := b.Block<<store.BlockBits, (b.Block+1)<<store.BlockBits-1
		some, err := t.messages(box, person, q, sought, " AND words.rowid BETWEEN ? AND ?", first, last)
		if err != nil {
			return nil, false, err
		}
		if err := t.inSubjects(q, some, first, last); err != nil {
			return nil, false, err
		}
		for _, p := range some {
			seen[p.Conversation] = true
		}
		out = append(out, some...)
	}
	return out, false, nil
}

// among says that some of the places are that new.
func among(places []Place, at when.Instant) bool {
	n := 0
	for _, p := range places {
		if p.At >= at {
			n++
		}
	}
	return n >= fill/10
}

// inSubjects weighs those of some places between two messages more in whose subjects the
// words stand.
func (t Finding) inSubjects(q search.Query, places []Place, first, last int64) error {
	must, _ := store.MatchTerms(q.Terms())
	if must == "" {
		return nil
	}
	var ids []int64
	if err := t.db().Raw("SELECT rowid FROM words WHERE words MATCH ? AND rowid BETWEEN ? AND ?", "subject : ("+must+")", first, last).Scan(&ids).Error; err != nil {
		return err
	}
	for i := range places {
		if _, is := slices.BinarySearch(ids, places[i].Message); is {
			places[i].Text = search.SubjectWeight
		}
	}
	return nil
}

// narrow says that few conversations are what q asks for besides words.
func narrow(q search.Query) bool {
	return q.Label > 0 || q.Unread || q.Starred || q.Flagged || q.Waiting || q.ByWork() || q.Place == inbox.Inbox || q.Place == inbox.Snoozed || q.Place == inbox.Bin || q.Place == inbox.Junk
}

// documents gives the other texts of a box that match q; more: of very many, those that
// were indexed last. Those in no conversation match only what asks nothing of conversations.
func (t Finding) documents(box, person int64, q search.Query, sought store.Sought) (out []Place, more bool, err error) {
	of := ofConversation(q)
	if more, err = t.common("document_words", sought.Documents); err != nil {
		return nil, false, err
	}
	columns := "d.id, d.message_id, d.conversation_id, d.at, d.kind, d.person, -bm25(document_words, " + weights(search.AroundWeight) + ")"
	if more {
		columns = "d.id, d.message_id, d.conversation_id, d.at, d.kind, d.person, 1.0"
	}
	ask := func(from, besides string) *gorm.DB {
		db := t.db().Table("document_words CROSS JOIN documents d ON d.id = document_words.rowid"+from).Select(columns+besides).
			Where("document_words MATCH ? AND +d.box_id = ?", sought.Documents, box).Order("document_words.rowid DESC").Limit(Weighed / 4)
		if !more {
			db = db.Limit(Weighed)
		}
		return store.OfDocument(db, q)
	}
	in := ask(" CROSS JOIN conversations c ON c.id = d.conversation_id", ", c.kind, c.importance, c.labels, c.from_name")
	rows, err := store.Search(t).Where(in, box, person, of, false).Rows()
	if err != nil {
		return nil, false, err
	}
	if out, err = scan(rows, func(rows *sql.Rows, p *Place) error {
		return rows.Scan(&p.Document, &p.Message, &p.Conversation, &p.At, &p.Kind, &p.From.Address, &p.Text, &p.MailKind, &p.Importance, &p.Labels, &p.From.Name)
	}); err != nil || of != (search.Query{}) {
		return out, more, err
	}
	if rows, err = ask("", "").Where("d.conversation_id = 0").Rows(); err != nil {
		return nil, false, err
	}
	alone, err := scan(rows, func(rows *sql.Rows, p *Place) error {
		return rows.Scan(&p.Document, &p.Message, &p.Conversation, &p.At, &p.Kind, &p.From.Address, &p.Text)
	})
	return append(out, alone...), more, err
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
func (t Finding) Knows(words []string, most int) (map[string]int, error) {
	out := map[string]int{}
	for _, w := range words {
		match, _ := store.MatchTerms([]search.Term{{Words: []string{w}}})
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
