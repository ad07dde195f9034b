package decide

import (
	"fmt"

	"ebbe/internal/core/inbox"
	"ebbe/internal/journal"
)

// What marks conversations and leaves them where they are.
var (
	star       = decision{verb: "starred", step: true, does: starring(true), says: done("Starred")}
	unstar     = decision{verb: "star removed", step: true, does: starring(false), says: doneTo("No longer starred")}
	markUnread = decision{verb: "marked unread", step: true, does: marking(false), says: doneTo("Marked unread")}
	markRead   = decision{verb: "marked read", step: true, does: marking(true), says: doneTo("Marked read")}
	look       = decision{does: looking}

	// silence puts a conversation away, and what comes in it from now on with it.
	silence = decision{verb: "silenced", step: true, says: func(k taken) string {
		return "Silenced" + k.list() + ". What comes goes past the inbox, until it is to you."
	}, does: func(a asked) ([]act, error) {
		acts, err := to(inbox.Archived)(a)
		return append(acts, changing(func(c inbox.Conversation) inbox.Conversation { return c.Silenced(true) })...), err
	}}
	unsilence = decision{verb: "heard again", step: true, says: doneTo("Heard again"), does: func(asked) ([]act, error) {
		return changing(func(c inbox.Conversation) inbox.Conversation { return c.Silenced(false) }), nil
	}}

	// important and unimportant correct what was learned of importance.
	important   = decision{verb: "said to be important", step: true, does: rating(inbox.Important), says: doneTo("Important"), then: learning}
	unimportant = decision{verb: "said not to be important", step: true, does: rating(inbox.Unimportant), says: doneTo("Not important"), then: learning}

	// leaveIt leaves a conversation undecided, on purpose.
	leaveIt = decision{verb: "left undecided", step: true, does: looking, says: func(k taken) string {
		if len(k.changes) == 1 && k.n == 1 {
			return fmt.Sprintf("Left undecided. Looks so far: %d.", k.changes[0].After.Looks)
		}
		return "Left undecided" + k.list() + "."
	}}
)

func inStream(stream string, kept bool) []act {
	return changing(func(c inbox.Conversation) inbox.Conversation { return c.InStream(stream, kept) })
}

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

func rating(said inbox.Kind) func(asked) ([]act, error) {
	return func(asked) ([]act, error) {
		return changing(func(c inbox.Conversation) inbox.Conversation { return c.Rated(said) }), nil
	}
}

// learning learns from a correction at once, and says what else it has moved.
func learning(a asked, changes []inbox.Change, out *journal.Decided) error {
	var ids []int64
	for _, c := range changes {
		ids = append(ids, c.Conversation())
	}
	others, err := a.d.importance.Correct(a.t, a.who.Box, ids)
	if err != nil || len(ids) == 0 {
		return err
	}
	switch others {
	case 0:
		out.Text += " No other in the inbox moved by it."
	case 1:
		out.Text += " One other in the inbox moved by it."
	default:
		out.Text += fmt.Sprintf(" %d others in the inbox moved by it.", others)
	}
	return nil
}

func looking(asked) ([]act, error) { return changing(inbox.Conversation.Looked), nil }
