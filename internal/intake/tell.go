package intake

import (
	"slices"
	"strings"

	"ebbe/internal/core/facts"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/telling"
)

// notable is what delivery looks at in a message besides its words.
type notable struct{ important, code bool }

// tellsCode says that a message that has just been noted tells a code for signing in.
func (b *batcher) tellsCode(message int64) bool {
	return slices.ContainsFunc(b.told, func(f telling.Told) bool { return f.MessageID == message && f.Kind == facts.Code })
}

// tell notes what a message tells, but one that has not come from where it says, or whose
// sender may be taken for somebody else.
func (b *batcher) tell(m *store.Message, p Parsed) {
	_, domain, _ := strings.Cut(m.FromAddr, "@")
	if len(p.Facts) == 0 || mail.FoundBy(p.Body.Trace, b.junk.own, domain).Sender == "fail" {
		return
	}
	if n := len(b.junk.tests); n > 0 && b.junk.tests[n-1].MessageID == m.ID && b.junk.tests[n-1].Seems != "" {
		return
	}
	b.told = append(b.told, telling.Of(*m, p.Facts)...)
}

// arrived brings back what waits for the arrival of something of which messages that have
// come into view tell that it has arrived: its time is now.
func arrived(t store.Tx, box int64, messages []int64, now when.Instant) error {
	waiting, err := telling.Facts(t).Awaiting(box, messages)
	if err != nil {
		return err
	}
	for _, id := range waiting {
		if err := store.Agenda(t).MoveReturn(box, id, when.Moment{At: now}); err != nil {
			return err
		}
	}
	return nil
}

// keepTold stores what the messages of the batch tell, and puts on the agenda when a code
// that has just come is worth nothing any more, if its reader wants it gone then.
func (b *batcher) keepTold() error {
	if err := telling.Facts(b.t).Put(b.told); err != nil || !b.gated || !b.keeper.Habits.BinCodes {
		return err
	}
	for _, f := range b.told {
		if f.Kind == facts.Code {
			if err := store.Agenda(b.t).Put(b.box, inbox.CodeOver, f.ConversationID, b.now+facts.CodeFor); err != nil {
				return err
			}
		}
	}
	return nil
}
