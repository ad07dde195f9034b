package desk

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/desk/calendars"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/figures"
	"ebbe/internal/desk/followups"
	"ebbe/internal/store"
)

// The coming weeks have what is due, what comes back, events and the mail to expect on their days; a day
// that is taken off leaves what it would have done; what is of an age opens to as many as it counts.
func TestLookingSixWeeksAhead(t *testing.T) {
	f := newOffice(t, store.Options{})
	for day := range 14 { // each day three come and two are decided
		f.until(t, fmt.Sprintf("2026-11-%02d 10:00", 10+day))
		for i := range 3 {
			f.arrive(t, f.letter(fmt.Sprintf("%d-%d@x", day, i), "Halvard <halvard@l.example>", fmt.Sprintf("Loan %d %d", day, i)))
		}
		q := f.queue(t)
		f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{q[0].ID}})
		f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{q[1].ID}})
	}
	f.until(t, "2026-11-24 08:00")
	q := f.queue(t)
	require.Len(t, q, 14)
	f.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{q[0].ID}, Return: f.moment(t, "mon 9")})
	f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: []int64{q[1].ID}, FollowUp: &followups.NewFollowUp{Title: "Sign it", Effort: 90, With: mail.Address{Address: "halvard@l.example"}, Due: f.moment(t, "fri 10")}})
	for _, hours := range [][2]string{{"fri 9", "fri 12"}, {"fri 11", "fri 14"}} {
		at, end := f.moment(t, hours[0]), f.moment(t, hours[1])
		_, err := f.Calendar.PutEvent(ctx, f.who, "", "", calendars.EventDraft{Title: "Hanging", Start: at, End: end, Guests: []calendar.Guest{}})
		require.NoError(t, err)
	}
	v, err := f.Figures.Ahead(ctx, f.who, nil)
	require.NoError(t, err)
	require.Len(t, v.Days, 42)
	byDate := map[string]figures.AheadDay{}
	for _, d := range v.Days {
		byDate[d.Date] = d
	}
	friday, monday, saturday := byDate["2026-11-27"], byDate["2026-11-30"], byDate["2026-11-28"]
	require.Equal(t, []int{90, 5 * 60, 3, 2}, []int{friday.Due, friday.Events, friday.Mail, friday.Pace}, "events that overlap count once")
	require.Equal(t, 1, monday.Back)
	require.True(t, saturday.Off)
	require.Equal(t, []int{12, 14}, []int{v.Left, v.Learned})
	require.Equal(t, friday.Left, friday.LeftThen)

	off, err := f.Figures.Ahead(ctx, f.who, []string{"2026-11-27", "2026-11-28"})
	require.NoError(t, err)
	require.Equal(t, []string{"2026-11-27"}, off.Off, "a Saturday is off already")
	for _, d := range off.Days {
		if d.Date == "2026-11-27" {
			require.True(t, d.Free)
			require.Equal(t, friday.Left+2, d.LeftThen)
			require.Greater(t, d.OverThen, d.Over)
		}
	}
	for _, open := range []bool{false, true} {
		counts := v.Inbox
		if open {
			counts = v.Open
		}
		sum := 0
		for group, n := range counts {
			a, err := f.Figures.Aged(ctx, f.who, map[bool]string{true: "open"}[open], group)
			require.NoError(t, err)
			require.Len(t, a.Lines, n)
			sum += n
		}
		require.Equal(t, map[bool]int{false: 12, true: 1}[open], sum)
	}
}
