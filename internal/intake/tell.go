package intake

import (
	"slices"

	"ebbe/internal/core/facts"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/telling"
)

// notable is what delivery looks at in a message besides its words.
type notable struct{ important, code bool }

// hasCode says that a code for signing in is among the facts.
func hasCode(said []facts.Fact) bool {
	return slices.ContainsFunc(said, func(f facts.Fact) bool { return f.Kind == facts.Code })
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
