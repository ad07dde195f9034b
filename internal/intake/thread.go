package intake

import (
	"slices"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
)

// conversation finds the conversation a message belongs to, or begins one. It
// is that of the nearest message it refers to, and conversations that it shows
// to be one become one, where mail may join them. Message-IDs that stand for
// another message are left out of ids.
func (b *batcher) conversation(m mail.Message, ids []string, at when.Instant, own bool) (int64, error) {
	var found []int64 // in view of the nearest last
	for _, id := range ids {
		c := b.refs[id]
		if c == 0 {
			continue
		}
		if row := b.rows[c]; row.Place == inbox.Junk && !own {
			wrote, err := b.wroteIn(c, m.From.Address)
			if err != nil {
				return 0, err
			}
			if !inbox.TakesIn(row.Place, wrote, own) {
				continue
			}
		}
		found = append(slices.DeleteFunc(found, func(x int64) bool { return x == c }), c)
	}
	if b.into != 0 {
		found = append(slices.DeleteFunc(found, func(x int64) bool { return x == b.into }), b.into)
	}
	if len(found) > 0 {
		return b.joined(found)
	}
	base := mail.BaseSubject(m.Subject)
	if len(m.References) == 0 && mail.IsReply(m.Subject) && m.Kind == mail.Person {
		if id, err := b.bySubject(m, base); id != 0 || err != nil {
			return id, err
		}
	}
	id := b.nextC
	b.nextC++
	b.rows[id] = &store.Conversation{ID: id, BoxID: b.box, Subject: mail.Title(m.Subject), Base: base, FirstAt: at, Kind: m.Kind}
	b.marks[id] = &store.Mark{PersonID: b.person, ConversationID: id}
	b.bases[base] = id
	return id, nil
}

// joined is the conversation of a message that refers to all of these, the
// nearest last. Those that mail may join become one, the oldest.
func (b *batcher) joined(found []int64) (int64, error) {
	into := found[len(found)-1]
	for _, c := range slices.Backward(found) { // the nearest; what was thrown away is gone back to only if there is nothing else
		if !b.rows[c].Place.Thrown() {
			into = c
			break
		}
	}
	if b.into != 0 {
		into = b.into // wherever it lies
	}
	if b.rows[into].Apart {
		return into, nil
	}
	var one []int64
	for _, c := range found {
		if !b.rows[c].Apart && inbox.JoinByMail(b.rows[into].Place, b.rows[c].Place) {
			one = append(one, c)
		}
	}
	slices.Sort(one)
	for _, from := range one[1:] {
		if err := b.merge(from, one[0]); err != nil {
			return 0, err
		}
	}
	return one[0], nil
}

// wroteIn says that an address wrote in a conversation.
func (b *batcher) wroteIn(conversation int64, address string) (bool, error) {
	for _, m := range b.out.Messages {
		if m.ConversationID == conversation && m.FromAddr == address {
			return true, nil
		}
	}
	if _, stored := b.before[conversation]; !stored {
		return false, nil
	}
	return store.Correspondents(b.t).WroteIn(conversation, address)
}

func (b *batcher) bySubject(m mail.Message, base string) (int64, error) {
	if id := b.bases[base]; id != 0 {
		var people []string
		for _, x := range b.out.Messages {
			if x.ConversationID == id {
				people = append(people, writersOf(x)...)
			}
		}
		if mail.JoinsBySubject(m, b.rows[id].Base, b.rows[id].LastAt, people) {
			return id, nil
		}
	}
	candidates, err := store.Conversations(b.t).ByBase(b.box, base)
	if err != nil {
		return 0, err
	}
	for _, c := range candidates {
		people, err := store.Correspondents(b.t).Writers(c.ID)
		if err != nil {
			return 0, err
		}
		if mail.JoinsBySubject(m, c.Base, c.LastAt, people) {
			if b.rows[c.ID] == nil {
				err = b.fetch([]int64{c.ID})
			}
			return c.ID, err
		}
	}
	return 0, nil
}

func writersOf(m *store.Message) []string {
	out := []string{m.FromAddr}
	for _, a := range slices.Concat(m.To, m.Cc) {
		out = append(out, a.Address)
	}
	return out
}

// merge makes the conversation from part of into, with a line in the journal by
// which that can be taken back.
func (b *batcher) merge(from, into int64) error {
	a, c := b.rows[into], b.rows[from]
	before, gone := a.State(*b.marks[into]), c.State(*b.marks[from])
	after, cancelled := inbox.Joined(before, gone)
	if _, stored := b.before[from]; stored {
		r, err := store.Conversations(b.t).Merge(b.box, from, into)
		if err != nil {
			return err
		}
		for _, m := range b.out.Messages {
			if m.ConversationID == from {
				r.Messages = append(r.Messages, m.ID)
			}
		}
		was, is, lost := before, after, gone
		e := &store.Entry{BoxID: b.box, PersonID: b.person, Actor: store.ByMail, Kind: inbox.Join, At: b.now, Count: 2, ConversationID: into, Step: true,
			Text: joinedText(*a, *c, b.week, cancelled, b.now), Changes: []inbox.Change{{Before: &was, After: &is}, {Before: &lost, Regroup: &r}}}
		for _, change := range e.Changes {
			e.Delta += change.Delta()
		}
		b.joins = append(b.joins, e)
	}
	b.held[into] = b.held[into] || b.held[from]
	a.Traits |= c.Traits
	switch into, from := a.Place == inbox.Held, c.Place == inbox.Held; {
	case from && !into: // its messages stay held, and count nowhere yet
		c.LastAt = 0
	case into && !from: // what is in view is all that counts
		a.Messages, a.Files, a.FirstAt, a.Size, a.LastAt = c.Messages, c.Files, c.FirstAt, c.Size, 0
	default:
		a.Messages, a.Files = a.Messages+c.Messages, a.Files+c.Files
		a.FirstAt, a.Size = min(a.FirstAt, c.FirstAt), a.Size+c.Size
	}
	a.SetPosition(after.Position)
	a.Title, a.Note, a.Labels, a.Said, a.Silent, a.Stream, a.Kept = after.Title, after.Note, after.Labels, after.Said, after.Silent, after.Stream, after.Kept
	if c.LastAt > a.LastAt {
		a.LastAt, a.FromName, a.FromAddr, a.OwnLast, a.Kind = c.LastAt, c.FromName, c.FromAddr, c.OwnLast, c.Kind
		a.Account, a.Reach, a.Rank, a.Begins, a.Importance, a.Because = c.Account, c.Reach, c.Rank, c.Begins, c.Importance, c.Because
	}
	b.marks[into].Unread, b.marks[into].Starred, b.marks[into].Looks = after.Unread, after.Starred, after.Looks
	for _, m := range b.out.Messages {
		if m.ConversationID == from {
			m.ConversationID = into
		}
	}
	for id, x := range b.refs {
		if x == from {
			b.refs[id] = into
		}
	}
	for i := range b.out.Refs {
		if b.out.Refs[i].ConversationID == from {
			b.out.Refs[i].ConversationID = into
		}
	}
	for base, x := range b.bases {
		if x == from {
			b.bases[base] = into
		}
	}
	delete(b.rows, from)
	delete(b.marks, from)
	return nil
}
