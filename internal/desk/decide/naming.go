package decide

import (
	"ebbe/internal/core/inbox"
	"ebbe/internal/problem"
)

// What the user calls a conversation, and notes on it.
var (
	rename = decision{verb: "renamed", step: true, does: writing(inbox.Conversation.Called), says: func(k taken) string {
		if k.req.Text == "" {
			return "It is called by its subject again."
		}
		return "Renamed. Answers still carry the subject it had."
	}}
	writeNote = decision{verb: "note written", step: true, does: writing(inbox.Conversation.Noted), says: func(k taken) string {
		if k.req.Text == "" {
			return "The note is gone."
		}
		return "The note is kept."
	}}
)

// writing is what writes the text of a decision somewhere.
func writing(where func(inbox.Conversation, string) (inbox.Conversation, error)) func(asked) ([]act, error) {
	return func(a asked) ([]act, error) {
		return []act{{changes: func(c inbox.Conversation) (inbox.Conversation, error) {
			c, err := where(c, a.req.Text)
			if err != nil {
				err = problem.Invalid("text", "Nothing was changed: "+err.Error()+".")
			}
			return c, err
		}}}, nil
	}
}
