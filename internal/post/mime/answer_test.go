package mime

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/post/ical"
)

func TestAnAnswerToAnInvitation(t *testing.T) {
	e := calendar.Event{UID: "e", Title: "Talk", Start: when.Moment{Local: "2026-11-26T10:00", Zone: "Europe/Oslo"}, Sequence: 2, Organizer: mail.Address{Name: "Grete", Address: "g@x.example"}}.Tidy()
	subject, text, raw, err := GuestAnswer(mail.Address{Name: "Solvei", Address: "s@m.example"}, e, calendar.Yes, "", time.Date(2026, 11, 24, 10, 0, 0, 0, time.UTC))
	require.NoError(t, err)
	require.Equal(t, "Accepted: Talk", subject)
	require.Equal(t, "Yes, I will be there.", text)
	body := Read(raw)
	require.Equal(t, "g@x.example", body.To[0].Address)
	c, err := ical.Read(body.Parts[0].Content, when.Ordinary("Europe/Oslo").Location())
	require.NoError(t, err)
	require.Equal(t, calendar.Reply, c.Method)
	require.Equal(t, 2, c.Events[0].Sequence)
	require.Equal(t, []calendar.Guest{{Address: mail.Address{Name: "Solvei", Address: "s@m.example"}, Answer: calendar.Yes}}, c.Events[0].Guests)
}
