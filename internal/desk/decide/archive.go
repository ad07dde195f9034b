package decide

import (
	"fmt"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/search"
)

// What takes conversations to a place.
var (
	toBin   = decision{verb: "binned", step: true, does: to(inbox.Bin), says: done("Binned")}
	toJunk  = decision{verb: "called junk", step: true, does: to(inbox.Junk), says: doneTo("Called junk")}
	archive = decision{verb: "archived", step: true, does: to(inbox.Archived), says: done("Archived")}
	notJunk = decision{verb: "said to be no junk", step: true, does: to(inbox.Inbox), says: doneTo("Not junk, and back in the inbox")}
	allJunk = decision{verb: "looked through in junk, and binned", step: true, does: to(inbox.Bin), says: func(k taken) string {
		return fmt.Sprintf("All junk: binned %d. Ebbe has learned from it.", k.n)
	}}
	toInbox = decision{verb: "brought back", step: true, does: to(inbox.Inbox), says: doneTo("Back in the inbox")}

	// theRest archives all that is not starred.
	theRest = decision{verb: "the rest done", step: true, does: to(inbox.Archived), where: func() *search.Query { return &search.Query{Unstarred: true} },
		says: func(k taken) string { return fmt.Sprintf("The rest is done: archived %d. The starred stay.", k.n) }}
	freshStart = decision{verb: "fresh start", step: true, does: to(inbox.Archived),
		says: func(k taken) string {
			return fmt.Sprintf("A fresh start: archived %d. What gets a new message comes back by itself.", k.n)
		}}
)

// to is what takes conversations to a place.
func to(p inbox.Place) func(asked) ([]act, error) {
	return func(a asked) ([]act, error) {
		return changing(func(c inbox.Conversation) inbox.Conversation { return c.In(p, a.now) }), nil
	}
}
