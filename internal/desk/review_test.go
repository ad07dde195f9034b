package desk

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/followups"
	"ebbe/internal/store"
)

// A week in review has what its days came to, and offers what follows: each is done at once, or stays away.
// It is new from the chosen hour on until it has been looked at.
func TestAWeekInReview(t *testing.T) {
	f := newOffice(t, store.Options{})
	var q []int64
	for i := range 4 {
		f.arrive(t, f.letter(fmt.Sprintf("%d@x", i), "Halvard <halvard@l.example>", fmt.Sprintf("Loan %d", i)))
	}
	for _, s := range f.queue(t) {
		q = append(q, s.ID)
	}
	f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: q[:1], FollowUp: &followups.NewFollowUp{Title: "Sign it", Due: f.moment(t, "fri 10")}})
	f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: q[1:2], FollowUp: &followups.NewFollowUp{Title: "How many crates?", With: mail.Address{Name: "Mirela", Address: "mirela@c.example"}, Waits: followup.Wait{Since: f.Now()}}})
	for i := range 3 { // three answers of hers that came late
		uid := fmt.Sprintf("late-%d", i)
		require.NoError(t, f.store.Write(ctx, func(tx store.Tx) error {
			return store.FollowUps(tx).PutFollowUps(1, []followup.FollowUp{{UID: uid, Title: "Dates", Status: followup.Completed, With: mail.Address{Name: "Mirela", Address: "mirela@c.example"}, Stage: followup.Usual().Stages[len(followup.Usual().Stages)-1].ID,
				Made: f.Now() - 40*24*numbers.Hour, Finished: f.Now() - 20*24*numbers.Hour, Waits: followup.Wait{Was: f.Now() - 40*24*numbers.Hour, Ended: f.Now() - 20*24*numbers.Hour}}})
		}))
	}
	var sign string
	require.NoError(t, f.raw(t).QueryRow("SELECT uid FROM follow_ups WHERE data->>'title' = 'Sign it'").Scan(&sign))
	_, err := f.raw(t).Exec("UPDATE follow_ups SET data = json_set(data, '$.moved', 5) WHERE uid = ?", sign)
	require.NoError(t, err)

	rounds := []delivery.Day{}
	for range 7 {
		rounds = append(rounds, delivery.Day{Rounds: []int{9 * 60, 14 * 60}})
	}
	_, err = f.Delivery.PutPlan(ctx, f.who, "", delivery.Plan{Name: "Two rounds", People: rounds, Machines: rounds}, true)
	require.NoError(t, err)
	_, err = f.raw(t).Exec("UPDATE people SET delivery = json_set(delivery, '$.since', ?) WHERE id = 1", f.Now()-40*24*numbers.Hour)
	require.NoError(t, err)
	for d := 1; d <= 20; d++ { // the round at nine has brought something, that at two nothing
		at := when.Of(time.UnixMilli(int64(when.DayStart(f.Now(), f.who.Week.Location(), -d))).Add(9 * time.Hour))
		_, err = f.raw(t).Exec("INSERT INTO entries(box_id, person_id, actor, kind, at, delta, count, conversation_id, step, taken_back, sitting_id, changes, text, wall) VALUES (1, 0, 'clock', 'deliver', ?, 0, 2, 0, 0, 0, 0, 'null', '', 1)", at)
		require.NoError(t, err)
	}

	v, err := f.Review.Week(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, 2, v.Is.Decided)
	keys := []string{}
	for _, a := range v.Offers {
		keys = append(keys, a.Key)
	}
	require.Equal(t, []string{"drop " + sign, "ask mirela@c.example", "round 840"}, keys)
	require.Equal(t, "mirela@c.example", v.ForThem.Address)
	require.False(t, v.New, "it was not asked for")

	_, err = f.Review.Take(ctx, f.who, "", "drop nothing")
	require.ErrorIs(t, err, store.ErrNotFound)
	out, err := f.Review.Take(ctx, f.who, "", "drop "+sign)
	require.NoError(t, err)
	require.NotZero(t, out.Entry, "it is a step, and can be taken back")
	_, err = f.Review.Take(ctx, f.who, "", "ask mirela@c.example")
	require.NoError(t, err)
	var ask int64
	require.NoError(t, f.raw(t).QueryRow("SELECT data->>'$.waits.ask.at' FROM follow_ups WHERE data->>'title' = 'How many crates?'").Scan(&ask))
	require.Equal(t, "8:00", time.UnixMilli(ask).In(f.who.Week.Location()).Format("15:04")[1:])
	require.NoError(t, f.Review.Refuse(ctx, f.who, "ask mirela@c.example"))
	done, err := f.Review.Take(ctx, f.who, "", "round 840")
	require.NoError(t, err)
	require.True(t, strings.Contains(done.Text, "14:00"))
	d, err := f.Delivery.Overview(ctx, f.who)
	require.NoError(t, err)
	for _, p := range d.Plans {
		if p.ID == d.On {
			require.Equal(t, []int{540}, p.People[2].Rounds)
			require.Equal(t, []int{540}, p.Machines[6].Rounds)
		}
	}
	v, err = f.Review.Week(ctx, f.who)
	require.NoError(t, err)
	require.Empty(t, v.Offers, "what was done or refused stays away")

	require.NoError(t, f.Review.At(ctx, f.who, delivery.Rounds{Days: 1 << time.Friday, Minute: 16 * 60}))
	v, err = f.Review.Week(ctx, f.who)
	require.NoError(t, err)
	require.True(t, v.New)
	require.NoError(t, f.Review.Looked(ctx, f.who))
	v, err = f.Review.Week(ctx, f.who)
	require.NoError(t, err)
	require.False(t, v.New)
	day, err := f.Dayline.Today(ctx, f.who)
	require.NoError(t, err)
	require.False(t, day.Review)
	f.until(t, "2026-12-04 15:59")
	day, err = f.Dayline.Today(ctx, f.who)
	require.NoError(t, err)
	require.True(t, day.Review, "a week has passed")

	f.until(t, "2026-12-04 16:01")
	for i := range 3 {
		f.decide(t, inbox.Snooze, decide.Decision{Conversations: q[3:4], Return: when.Moment{At: f.Now() + when.Instant(i+1)*numbers.Hour}})
		f.until(t, fmt.Sprintf("2026-12-%02d 20:00", 4+i))
	}
	v, err = f.Review.Week(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, v.Often, 1)
	require.Equal(t, 3, v.Often[0].Times)
}
