package intake

import (
	"cmp"
	"context"
	"fmt"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/post"
	"ebbe/internal/store"
	"ebbe/internal/store/sharing"
)

// twin is another message with the same Message-ID as one that comes in.
type twin struct {
	message int64 // its ID; 0 if it comes with the same batch
	same    bool  // the text of one is in the other's
}

// mostTwins is how many messages with one Message-ID are compared.
const mostTwins = 5

// twins finds, for the messages of a batch, others with their Message-IDs, and
// compares what they say. It reads messages, so it stands outside of the
// transaction that stores the batch.
func (s *Intake) twins(ctx context.Context, box int64, batch []Parsed) (map[int]twin, error) {
	out, first := map[int]twin{}, map[string]int{}
	var ids []string
	for i, p := range batch {
		id := p.Body.MessageID
		if id == "" {
			continue
		}
		ids = append(ids, id)
		j, ok := first[id]
		if !ok {
			first[id] = i
		} else if batch[j].hash != p.hash {
			out[i] = twin{same: mail.SameText(batch[j].Body.Text, p.Body.Text)}
		}
	}
	var stored map[string][]store.Message
	err := s.store.Read(ctx, func(t store.Tx) (err error) { stored, err = store.Messages(t).Twins(box, ids, mostTwins); return err })
	if err != nil {
		return nil, err
	}
	for i, p := range batch {
		for _, m := range stored[p.Body.MessageID] {
			if string(m.Hash) == string(p.hash[:]) {
				delete(out, i) // it is known itself
				break
			}
			var raw []byte
			if err := s.store.Read(ctx, func(t store.Tx) (err error) { raw, err = store.Messages(t).Original(m.ID); return err }); err != nil {
				return nil, err
			}
			other := s.Parse(post.Item{Raw: raw})
			if tw := (twin{m.ID, mail.SameText(other.Body.Text, p.Body.Text)}); tw.same || !out[i].same {
				out[i] = tw
			}
		}
	}
	return out, nil
}

// cameAlong recognises what has been carried here before it came here by itself, as what was
// written to several does: it is the same message, whatever its way has added to its head.
func (b *batcher) cameAlong(batch []Parsed) error {
	b.again = map[int]bool{}
	is := map[int]int64{} // which each of the batch is that was here before
	var ids []int64
	for i, p := range batch {
		id := b.known[string(p.hash[:])]
		if tw := b.twins[i]; id == 0 && tw.same {
			id = tw.message
		}
		if id != 0 {
			is[i], ids = id, append(ids, id)
		}
	}
	if len(ids) == 0 {
		return nil
	}
	came, err := sharing.Sharings(b.t).CameBy(b.box, ids)
	for i, id := range is {
		if len(came[id]) > 0 || b.o.Carried != nil {
			b.known[string(batch[i].hash[:])] = id
			b.again[i] = b.o.Carried == nil && b.o.Arrived || b.shownTo()
		}
	}
	return err
}

// raise has a message that was only seen here as it came into another box, and has come here by
// itself now or is shown once more, do what it would have done then: nobody misses what was written
// to them.
func (b *batcher) raise(p Parsed) {
	m := p.Body.Message
	row := b.rows[b.refs[m.MessageID]]
	if row == nil || b.own[m.From.Address] || cmp.Or(b.o.Place, inbox.Inbox) != inbox.Inbox {
		return
	}
	mark := b.marks[row.ID]
	before := row.State(*mark)
	c := inbox.Receive(before, inbox.Arrival{At: max(min(m.Date, b.now), row.Since), Place: inbox.Inbox, Auto: m.Kind.Machine(), Asleep: b.asleep, Unread: !p.item.Flags.Known || !p.item.Flags.Seen})
	if c == before {
		return
	}
	row.SetPosition(c.Position)
	row.Silent, mark.Unread, mark.Looks = c.Silent, c.Unread, c.Looks
	b.raised++
	b.out.Unread = append(b.out.Unread, row.ID)
}

// shownTo says that what comes is shown to those of this box by somebody of another.
func (b *batcher) shownTo() bool { return b.o.Carried != nil && b.o.Carried.Shown }

// quiet says that what comes is seen to in the box it came into.
func (b *batcher) quiet() bool { return b.o.Carried != nil && b.o.Carried.Quiet }

// joinedText says in the history which conversations became one, and which
// return was cancelled by it.
func joinedText(a, b store.Conversation, w when.Week, cancelled when.Moment, now when.Instant) string {
	text := fmt.Sprintf("“%s” and “%s”", cmp.Or(a.Title, a.Subject), cmp.Or(b.Title, b.Subject))
	if !cancelled.IsZero() {
		text += ". It was to come back " + w.Say(cancelled, now) + ", and is in the inbox now"
	}
	return text
}
