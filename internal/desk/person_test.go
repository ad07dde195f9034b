package desk

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/desk/calendars"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/followups"
	"ebbe/internal/desk/persons"
	"ebbe/internal/store"
)

// written is a letter at a time of the museum's, to somebody.
func written(id, from, to, subject, at string, refs ...string) string {
	text := fmt.Sprintf("From: %s\nTo: %s\nSubject: %s\nDate: %s +0100\nMessage-ID: <%s>\n", from, to, subject, at, id)
	for _, r := range refs {
		text += "In-Reply-To: <" + r + ">\n"
	}
	return text + "\nbody of " + id + "\n"
}

func lines(all []persons.PersonLine) (out []string) {
	for _, l := range all {
		out = append(out, string(l.Kind)+": "+l.Title)
	}
	return out
}

// All between the reader and somebody: what each owes, how they answer, what went to and
// fro; of others nothing, and of what is held nothing.
func TestAllBetweenTwoPeople(t *testing.T) {
	f := newOffice(t, store.Options{})
	const halvard, other = "Halvard <halvard@l.example>", "Half <lf.halvard@l.example>"
	f.take(t,
		written("a@x", halvard, "solvei@m.example", "Clause 7", "Mon, 2 Nov 2026 09:00:00"),
		written("b@x", "solvei@m.example", halvard, "Re: Clause 7", "Mon, 2 Nov 2026 11:00:00", "a@x"),
		written("c@x", halvard, "solvei@m.example", "Re: Clause 7", "Wed, 4 Nov 2026 11:00:00", "b@x"),
		written("d@x", "solvei@m.example", halvard, "The hall", "Thu, 8 Oct 2026 11:00:00"),
		written("e@x", other, "solvei@m.example", "Something else", "Mon, 2 Nov 2026 09:00:00"),
		written("g@x", "Mirela <mirela@c.example>", "solvei@m.example, halvard@l.example", "To both", "Mon, 2 Nov 2026 09:00:00"),
		"From: "+halvard+"\nTo: solvei@m.example\nSubject: Photographs\nDate: Tue, 3 Nov 2026 09:00:00 +0100\nMessage-ID: <p@x>\nMIME-Version: 1.0\nContent-Type: multipart/mixed; boundary=b\n\n--b\n\nhere\n--b\nContent-Type: text/plain\nContent-Disposition: attachment; filename=brass.txt\n\nbrass\n--b--\n")
	f.sound(t)
	p, err := f.Persons.Person(ctx, f.who, "halvard@l.example")
	require.NoError(t, err)
	require.Equal(t, "Halvard", p.Name)
	require.Equal(t, 1, p.Answers.Hours[11])
	require.Equal(t, []string{"message: Clause 7", "message: Photographs", "message: The hall"}, lines(p.Lines))
	require.Equal(t, []string{"message: Clause 7", "message: Photographs"}, lines(p.Waits), "they wrote last, and it lies in the inbox")
	hour := int64(time.Hour / time.Millisecond)
	require.EqualValues(t, 2*hour, p.Answers.OwnUsual)
	require.EqualValues(t, 48*hour, p.Answers.TheirsUsual)
	require.Len(t, p.Months, 14)
	require.Equal(t, persons.PersonMonth{Name: "Nov 2026", Received: 3, Sent: 1}, p.Months[13])
	require.Equal(t, 1, p.Months[12].Sent)
	require.Equal(t, 1, p.Files)

	f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: []int64{p.Lines[0].Conversation}, FollowUp: &followups.NewFollowUp{Title: "Sign clause 7"}})
	f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: []int64{p.Lines[2].Conversation}, FollowUp: &followups.NewFollowUp{Title: "Is the hall dry?", With: mail.Address{Address: "halvard@l.example"}, Waits: followup.Wait{Since: f.Journal.Now()}}})
	_, err = f.Calendar.PutEvent(ctx, f.who, "", "", calendars.EventDraft{Title: "Call about the feet", Start: f.moment(t, "fri 10"), Guests: []calendar.Guest{{Address: mail.Address{Address: "halvard@l.example"}}}})
	require.NoError(t, err)
	p, err = f.Persons.Person(ctx, f.who, "halvard@l.example")
	require.NoError(t, err)
	require.Equal(t, "Sign clause 7", p.Mine[0].Title)
	require.Equal(t, "Is the hall dry?", p.Theirs[0].Title)
	require.Subset(t, lines(p.Lines), []string{"follow-up: Sign clause 7", "follow-up: Is the hall dry?", "event: Call about the feet"})

	files, err := f.Files.OfPerson(ctx, f.who, "halvard@l.example")
	require.NoError(t, err)
	require.Equal(t, "Halvard", files.Of)
	require.Len(t, files.Files, 1)

	_, err = f.Delivery.Hold(ctx, f.who, delivery.Hand{Mode: delivery.ModeHold})
	require.NoError(t, err)
	f.arrive(t, letter("held@x", halvard, "A secret"))
	again, err := f.Persons.Person(ctx, f.who, "halvard@l.example")
	require.NoError(t, err)
	require.Equal(t, p, again, "nothing of what is held shows")

	nobody, err := f.Persons.Person(ctx, f.who, "\"'@")
	require.NoError(t, err)
	require.Empty(t, nobody.Lines)
}
