package calendar

import (
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/when"
)

func moment(local, zone string) when.Moment { return when.Moment{Local: local, Zone: zone}.Realign() }

func TestAnEventGetsAnEnd(t *testing.T) {
	e := Event{Title: " A  talk ", Start: moment("2026-11-26T10:00", "Europe/Oslo")}.Tidy()
	require.Equal(t, "A talk", e.Title)
	require.Equal(t, "2026-11-26T11:00", e.End.Local)
	whole := Event{Title: "Fair", Start: moment("2026-12-04", "Europe/Oslo")}.Tidy()
	require.Equal(t, "2026-12-04", whole.End.Local)
	require.True(t, whole.Whole())
	require.EqualValues(t, 24*time.Hour.Milliseconds()-1, whole.End.At-whole.Begins())
	for _, c := range []struct {
		e    Event
		want string
	}{
		{Event{}, "title"}, {Event{Title: "x"}, "starts"}, {Event{Title: "x", Start: e.End, End: e.Start}, "before it starts"},
		{Event{Title: "x", Start: e.Start, End: e.End, Remind: -2}, "reminder"}, {Event{Title: "x", Start: e.Start, End: e.End, Rule: "FREQ=HOURLY"}, "once a day"},
	} {
		require.ErrorContains(t, c.e.Valid(), c.want)
	}
}

func TestAnEventRemindsOnce(t *testing.T) {
	e := Event{Start: moment("2026-11-26T10:00", "Europe/Oslo"), Remind: 15}.Tidy()
	require.Equal(t, e.Start.At-15*60_000, e.Next())
	require.True(t, e.Fire(e.Next()-1).Equal(e))
	fired := e.Fire(e.Next())
	require.True(t, fired.Card)
	require.Zero(t, fired.Next())
	late := e.Fire(e.End.At)
	require.False(t, late.Card, "what is over needs no card")
	require.Zero(t, late.Next())
	declined := e
	declined.Mine = No
	require.Zero(t, declined.Next())
}

func TestOccurrencesStayAtTheirHour(t *testing.T) {
	oslo, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	e := Event{Title: "Rounds", Start: moment("2026-03-23T09:00", "Europe/Oslo"), Rule: "FREQ=WEEKLY", Except: []string{"2026-04-06"}}.Tidy()
	slots := e.Between(when.Of(time.Date(2026, 3, 20, 0, 0, 0, 0, oslo)), when.Of(time.Date(2026, 4, 20, 0, 0, 0, 0, oslo)), oslo)
	require.Len(t, slots, 3, "the 23rd, the 30th, the 13th; the 6th is left out")
	for _, s := range slots {
		require.Equal(t, 9, s.From.In(oslo).Hour(), s.From.In(oslo))
	}
	require.Empty(t, e.Between(1, 2, oslo))
}

// An occurrence ends as long after its beginning as the first does, also across a change of clocks; and what is
// changed of one moves all, and drops none that has been.
func TestAnOccurrenceHasItsOwnEnd(t *testing.T) {
	oslo, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	e := Event{Title: "Rounds", Start: moment("2026-03-24T09:00", "Europe/Oslo"), End: moment("2026-03-24T09:30", "Europe/Oslo"), Rule: "FREQ=WEEKLY"}.Tidy()
	slots := e.Between(when.Of(time.Date(2026, 3, 20, 0, 0, 0, 0, oslo)), when.Of(time.Date(2026, 4, 4, 0, 0, 0, 0, oslo)), oslo)
	require.Len(t, slots, 2)
	require.Equal(t, moment("2026-03-31T09:00", "Europe/Oslo"), slots[1].Start)
	require.Equal(t, moment("2026-03-31T09:30", "Europe/Oslo"), slots[1].End)
	require.Equal(t, slots[1].To, slots[1].End.At)
	for _, c := range []struct{ name, start, end, begins, ends string }{
		{"its name alone", "2026-03-31T09:00", "2026-03-31T09:30", "2026-03-24T09:00", "2026-03-24T09:30"},
		{"an hour later", "2026-03-31T10:00", "2026-03-31T11:00", "2026-03-24T10:00", "2026-03-24T11:00"},
		{"the day before", "2026-03-30T09:00", "2026-03-30T09:30", "2026-03-23T09:00", "2026-03-23T09:30"},
	} {
		begins, ends := e.Moved(slots[1].Start, moment(c.start, "Europe/Oslo"), moment(c.end, "Europe/Oslo"), oslo)
		require.Equal(t, moment(c.begins, "Europe/Oslo"), begins, c.name)
		require.Equal(t, moment(c.ends, "Europe/Oslo"), ends, c.name)
	}
}

// What overlaps a span is found, whatever the span; a slot never lies outside.
func TestSlotsOverlapTheirSpan(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		e := Event{Title: "x", Start: when.Moment{At: when.Instant(rapid.Int64Range(1e12, 2e12).Draw(t, "start"))}}
		e.End.At = e.Start.At + when.Instant(rapid.Int64Range(0, 1e9).Draw(t, "length"))
		from := when.Instant(rapid.Int64Range(1e12, 2e12).Draw(t, "from"))
		to := from + when.Instant(rapid.Int64Range(1, 1e9).Draw(t, "span"))
		slots := e.Between(from, to, time.UTC)
		require.Equal(t, e.Start.At < to && max(e.End.At, e.Start.At+1) > from, len(slots) == 1)
	})
}

func TestWhatAnInvitationBrings(t *testing.T) {
	have := Event{UID: "a", Sequence: 1, Start: moment("2026-11-26T10:00", "Europe/Oslo"), Mine: Yes, Remind: 30, Fired: 7, Made: 5}.Tidy()
	later := have
	later.Sequence, later.Start, later.End = 2, moment("2026-11-26T11:00", "Europe/Oslo"), when.Moment{}
	later = later.Tidy()
	older := have
	older.Sequence = 0
	for _, c := range []struct {
		have *Event
		got  Event
		m    Method
		want News
	}{
		{nil, have, Request, Fresh}, {&have, have, Request, Known}, {&have, later, Request, Moved}, {&have, older, Request, Outdated},
		{&have, later, Cancel, CalledOff}, {&have, older, Cancel, Outdated}, {nil, have, Cancel, CalledOff}, {&have, have, Reply, Answered},
	} {
		require.Equal(t, c.want, Judge(c.have, c.got, c.m), "%+v", c)
	}
	taken := Take(&have, later, Request, Maybe, 99)
	require.Equal(t, Maybe, taken.Mine)
	require.Equal(t, 30, taken.Remind, "what the user chose stays")
	require.Zero(t, taken.Fired, "it reminds of the new time")
	off := Take(&have, later, Cancel, "", 99)
	require.True(t, off.Cancelled)
	require.Equal(t, have.Start, off.Start)
	require.Equal(t, CalledOff, Judge(&off, later, Cancel))
}

func TestClashes(t *testing.T) {
	slot := func(uid string, from, to when.Instant, mine Answer) Slot {
		return Slot{Event{UID: uid, Mine: mine}, from, to}
	}
	all := []Slot{slot("b", 15, 30, Yes), slot("a", 0, 10, ""), slot("c", 12, 20, No), slot("d", 5, 16, Maybe), slot("me", 10, 20, "")}
	var got []string
	for _, s := range Clashes(all, "me", 10, 20) {
		got = append(got, s.UID)
	}
	require.Equal(t, []string{"d", "b"}, got)
}
