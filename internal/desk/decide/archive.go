package decide

import (
	"fmt"

	"ebbe/internal/core/search"
)

// What takes conversations to a place.
var (
	toBin   = decision{verb: "binned", says: done("Binned")}
	toJunk  = decision{verb: "called junk", says: doneTo("Called junk")}
	archive = decision{verb: "archived", says: done("Archived")}
	toInbox = decision{verb: "brought back", says: doneTo("Back in the inbox")}

	// theRest archives all that is not starred.
	theRest = decision{verb: "the rest done", where: func() *search.Query { return &search.Query{Unstarred: true} },
		says: func(k taken) string { return fmt.Sprintf("The rest is done: archived %d. The starred stay.", k.n) }}
	freshStart = decision{verb: "fresh start",
		says: func(k taken) string {
			return fmt.Sprintf("A fresh start: archived %d. What gets a new message comes back by itself.", k.n)
		}}
)
