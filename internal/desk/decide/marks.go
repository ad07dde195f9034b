package decide

import (
	"fmt"
)

// What marks conversations and leaves them where they are.
var (
	star       = decision{verb: "starred", says: done("Starred")}
	unstar     = decision{verb: "star taken away", says: doneTo("No longer starred")}
	markUnread = decision{verb: "marked unread", says: doneTo("Marked unread")}
	markRead   = decision{verb: "marked read", says: doneTo("Marked read")}
	look       = decision{}

	// leaveIt leaves a conversation undecided, on purpose.
	leaveIt = decision{verb: "left undecided", says: func(k taken) string {
		if len(k.changes) == 1 && k.n == 1 {
			return fmt.Sprintf("Left undecided. Looks so far: %d.", k.changes[0].After.Looks)
		}
		return "Left undecided" + k.list() + "."
	}}
)
