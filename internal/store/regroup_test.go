package store

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/mail"
)

// A conversation is named by its mail and not by reports about it, in whatever
// order they come in: a report has the time of the server in whole seconds.
func TestAReportNamesNoConversation(t *testing.T) {
	sent := &Message{Date: 1_700, Subject: "The lamps", FromAddr: "solvei@m.example", FromName: "Solvei", Own: true, To: []mail.Address{{Name: "Jonas", Address: "jonas@x.example"}}, Kind: mail.Person, Begins: "Where are they?"}
	early := &Message{Date: 1_000, Subject: "Not delivered", FromAddr: "mailer-daemon@x.example", Kind: mail.Bounce, Begins: "No."}
	late := &Message{Date: 2_000, Subject: "Not delivered", FromAddr: "mailer-daemon@x.example", Kind: mail.Bounce, Begins: "No."}
	answer := &Message{Date: 3_000, Subject: "Re: The lamps", FromAddr: "jonas@x.example", FromName: "Jonas", Kind: mail.Person, Begins: "In the crate."}
	for _, c := range []struct {
		of                     []*Message
		subject, begins, named string
		ownLast                bool
	}{
		{[]*Message{sent}, "The lamps", "Where are they?", "Jonas", true},
		{[]*Message{sent, early}, "The lamps", "Where are they?", "Jonas", true},
		{[]*Message{sent, late}, "The lamps", "Where are they?", "Jonas", false},
		{[]*Message{early, late}, "Not delivered", "No.", "", false},
		{[]*Message{sent, late, answer}, "The lamps", "In the crate.", "Jonas", false},
	} {
		for _, order := range [][]*Message{c.of, backwards(c.of)} {
			var is Conversation
			for _, m := range order {
				is.Gather(m, map[string]bool{"solvei@m.example": true})
			}
			require.Equal(t, []any{c.subject, c.begins, c.named, c.ownLast, len(c.of)}, []any{is.Subject, is.Begins, is.FromName, is.OwnLast, is.Messages})
			require.Equal(t, c.subject == "Not delivered", is.Kind == mail.Bounce)
		}
	}
}

func backwards(of []*Message) []*Message {
	out := slices.Clone(of)
	slices.Reverse(out)
	return out
}
