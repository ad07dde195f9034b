package intake

import (
	"cmp"
	"context"
	"fmt"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/post"
	"ebbe/internal/store"
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

// joinedText says in the history which conversations became one, and which
// return was cancelled by it.
func joinedText(a, b store.Conversation, w when.Week, cancelled when.Moment, now when.Instant) string {
	text := fmt.Sprintf("“%s” and “%s”", cmp.Or(a.Title, a.Subject), cmp.Or(b.Title, b.Subject))
	if !cancelled.IsZero() {
		text += ". It was to come back " + w.Say(cancelled, now) + ", and is in the inbox now"
	}
	return text
}
