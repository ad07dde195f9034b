package decide

import (
	"fmt"

	"ebbe/internal/core/inbox"
)

// What marks conversations and leaves them where they are.
var (
	star       = decision{verb: "starred", step: true, does: starring(true), says: done("Starred")}
	unstar     = decision{verb: "star removed", step: true, does: starring(false), says: doneTo("No longer starred")}
	markUnread = decision{verb: "marked unread", step: true, does: marking(false), says: doneTo("Marked unread")}
	markRead   = decision{verb: "marked read", step: true, does: marking(true), says: doneTo("Marked read")}
	look       = decision{does: looking}

	// leaveIt leaves a conversation undecided, on purpose.
	leaveIt = decision{verb: "left undecided", step: true, does: looking, says: func(k taken) string {
		if len(k.changes) == 1 && k.n == 1 {
			return fmt.Sprintf("Left undecided. Looks so far: %d.", k.changes[0].After.Looks)
		}
		return "Left undecided" + k.list() + "."
	}}
)

func starring(on bool) func(asked) ([]act, error) {
	return func(asked) ([]act, error) {
		return changing(func(c inbox.Conversation) inbox.Conversation { return c.Star(on) }), nil
	}
}

func marking(read bool) func(asked) ([]act, error) {
	return func(asked) ([]act, error) {
		return changing(func(c inbox.Conversation) inbox.Conversation { return c.Read(read) }), nil
	}
}

func looking(asked) ([]act, error) { return changing(inbox.Conversation.Looked), nil }
