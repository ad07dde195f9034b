package writing

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

func people(addresses ...string) (out []mail.Address) {
	for _, a := range addresses {
		out = append(out, mail.Address{Address: a})
	}
	return out
}

func TestToWhomAnAnswerGoes(t *testing.T) {
	own := map[string]bool{"me@a.example": true, "me@b.example": true}
	for name, c := range map[string]struct {
		m      mail.Message
		all    bool
		to, cc []mail.Address
	}{
		"the writer": {mail.Message{From: people("x@a.example")[0], To: people("me@a.example", "y@a.example")}, false, people("x@a.example"), nil},
		"everybody, each once, never oneself": {mail.Message{From: people("x@a.example")[0], To: people("me@a.example", "y@a.example"), Cc: people("x@a.example", "me@b.example", "z@a.example")}, true,
			people("x@a.example"), people("y@a.example", "z@a.example")},
		"where answers are wanted":             {mail.Message{From: people("x@a.example")[0], ReplyTo: people("desk@a.example"), To: people("me@a.example")}, false, people("desk@a.example"), nil},
		"a Reply-To that names only oneself":   {mail.Message{From: people("x@a.example")[0], ReplyTo: people("me@a.example")}, false, people("x@a.example"), nil},
		"on to those one wrote to":             {mail.Message{From: people("me@a.example")[0], To: people("x@a.example"), Cc: people("y@a.example")}, false, people("x@a.example"), nil},
		"on to all one wrote to and copied to": {mail.Message{From: people("me@a.example")[0], To: people("x@a.example"), Cc: people("y@a.example")}, true, people("x@a.example"), people("y@a.example")},
	} {
		t.Run(name, func(t *testing.T) {
			to, cc := Recipients(c.m, own, c.all)
			require.Equal(t, c.to, to)
			require.Equal(t, c.cc, cc)
		})
	}
}

func TestWhatAnAnswerIsCalledAndQuotes(t *testing.T) {
	require.Equal(t, "Re: Crate", Subject(Reply, "Crate"))
	require.Equal(t, "Re: Crate", Subject(ReplyAll, "Re: Crate"))
	require.Equal(t, "AW: Kiste", Subject(Reply, "AW: Kiste"))
	require.Equal(t, "Fwd: Re: Crate", Subject(HandOver, "Re: Crate"))
	require.Equal(t, "Fwd: Crate", Subject(Forward, "Fwd: Crate"))
	m := mail.Message{From: mail.Address{Name: "Jonas", Address: "j@a.example"}, Subject: "Crate", To: people("me@a.example"), Text: "Yes.\r\n\r\n> And when?\r\n  \r\n"}
	require.Equal(t, "On Tuesday, Jonas wrote:\n> Yes.\n>\n>> And when?\n", Quote(m, "Tuesday"))
	require.Equal(t, "Passed on, from Jonas <j@a.example>\nto me@a.example\non Tuesday, “Crate”\n\nYes.\n\n> And when?\n", Forwarded(m, "Tuesday"))
	require.Empty(t, Quote(mail.Message{Text: " \n"}, "Tuesday"))
}

func TestAForgottenFileIsNoticed(t *testing.T) {
	require.Equal(t, "attached", Forgotten("Hello,\nthe list is attached."))
	require.Equal(t, "enclosed", Forgotten("The list is enclosed"))
	require.Empty(t, Forgotten("Thanks.\n> the list is attached"))
	require.Empty(t, Forgotten("I detached the lid."))
}

// Whatever servers say, nobody is handed a message twice, nobody is forgotten,
// and a message that is not over will be tried again.
func TestNobodyIsHandedAMessageTwiceOrForgotten(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		all := []string{"a", "b", "c", "d"}[:rapid.IntRange(1, 4).Draw(t, "recipients")]
		o := Outgoing{State: Waiting}
		for _, a := range all {
			o.To = append(o.To, Recipient{Address: a, State: Waiting})
		}
		got := map[string]int{}
		now := when.Instant(0)
		for range 60 {
			if o.State.Over() {
				break
			}
			try := Try{Refused: map[string]string{}, Postponed: map[string]string{}}
			if rapid.IntRange(0, 3).Draw(t, "fails") == 0 {
				try.Failed = "no line"
				try.Hangs = rapid.IntRange(0, 9).Draw(t, "hangs") == 0
			} else {
				for _, a := range o.Pending() {
					switch rapid.IntRange(0, 2).Draw(t, a) {
					case 0:
						try.Taken = append(try.Taken, a)
						got[a]++
					case 1:
						try.Refused[a] = "unknown"
					case 2:
						try.Postponed[a] = "full"
					}
				}
			}
			before := o
			o = o.Tried(try, now)
			require.Equal(t, before.Attempts+1, o.Attempts)
			if o.State == Waiting {
				require.Greater(t, o.At, now)
				now = o.At
			}
		}
		require.True(t, o.State.Over(), "it ends")
		for _, r := range o.To {
			require.LessOrEqual(t, got[r.Address], 1)
			require.Equal(t, r.State == Sent, got[r.Address] == 1)
			if o.State != Hanging {
				require.NotEqual(t, Waiting, r.State)
			}
			require.True(t, slices.Contains(all, r.Address))
		}
		if o.State == Sent {
			require.NotEmpty(t, got)
		}
	})
}
