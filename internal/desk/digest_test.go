package desk

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/search"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/deliveries"
	"ebbe/internal/desk/queue"
	"ebbe/internal/desk/rules"
	"ebbe/internal/store"
)

// A list that comes once a week, together, is held until its round, also without a plan,
// and lies in the inbox as one slip then. What is there for another reason stands by
// itself; a sitting leaves the digest whole; what is left of it goes in one step.
func TestADigest(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.until(t, "2026-11-24 10:00") // a Tuesday
	number := func(id, subject string) string {
		return f.letter(id, "Weekly <news@w.example>", subject, "List-Id: <weekly.w.example>")
	}
	f.arrive(t, number("1@x", "Number 11"), f.letter("2@x", "Halvard <halvard@l.example>", "Loan"))
	stream := deliveries.NewStream{Name: "Weekly", Along: delivery.StreamMachines, At: delivery.Rounds{Days: 1 << 5, Minute: 9 * 60}, Together: true}
	id, err := f.Delivery.PutStream(ctx, f.who, "", stream)
	require.NoError(t, err)
	require.Contains(t, f.teach(t, f.by(t, "Number 11").ID, delivery.Stream(id), rules.List, ""), "the next comes in Fri 27 Nov, 9:00")
	f.arrive(t, number("3@x", "Number 12"), number("4@x", "Number 13"), f.letter("5@x", "Halvard <halvard@l.example>", "Second loan"))
	require.Equal(t, 2, f.held(t), "only the list waits for its round")
	f.sound(t)
	f.until(t, "2026-11-27 09:00")

	arranged := func(a queue.Arrangement) queue.Queue {
		t.Helper()
		q, err := f.Queue.Arranged(ctx, f.who, a)
		require.NoError(t, err)
		return q
	}
	alone := func() (subjects []string) {
		t.Helper()
		for _, s := range arranged(queue.Arrangement{}).Slips {
			if s.Of == nil {
				subjects = append(subjects, s.Subject)
			}
		}
		return subjects
	}
	digest := func() queue.Slip {
		t.Helper()
		for _, by := range inbox.Groupings {
			q := arranged(queue.Arrangement{Group: by})
			last := q.Groups[len(q.Groups)-1]
			require.Equal(t, []any{queue.Together, 1, "[-1]"}, []any{last.Key, last.Count, string(last.IDs)}, by)
			require.Equal(t, q.Left, q.Shown, "each is counted once")
		}
		q := arranged(queue.Arrangement{})
		return q.Slips[len(q.Slips)-1]
	}
	s := digest()
	require.Equal(t, []any{"Weekly", "3 conversations, together", id, true}, []any{s.From, s.Subject, s.Stream, s.Unread})
	require.Equal(t, "Weekly: Number 13; Weekly: Number 12; Weekly: Number 11", s.Begins)
	require.Len(t, s.Of, 3)
	require.ElementsMatch(t, []string{"Loan", "Second loan"}, alone(), "what comes together stands once")
	q := arranged(queue.Arrangement{Where: search.Query{Stream: id, Together: true}})
	require.Equal(t, 3, q.Shown, "gone through by itself")
	require.Equal(t, 5, q.Left)
	require.Empty(t, arranged(queue.Arrangement{Where: search.Query{Starred: true}}).Groups, "filtered as the rest is")

	// What came back from a snooze is no part of it.
	_, err = f.Decisions.Decide(ctx, f.who, "", decide.Decision{Kind: inbox.Snooze, Conversations: s.Of[1:2], Return: f.when(t, "10:00")})
	require.NoError(t, err)
	f.until(t, "2026-11-27 10:30")
	require.Len(t, digest().Of, 2)
	require.Contains(t, alone(), "Number 12")
	v, err := f.Queue.Sit(ctx, f.who, queue.Sit{})
	require.NoError(t, err)
	require.Equal(t, 3, v.Total)
	_, err = f.Queue.EndSitting(ctx, f.who)
	require.NoError(t, err)

	done, err := f.Decisions.Decide(ctx, f.who, "", decide.Decision{Kind: inbox.Rest, Where: &search.Query{Stream: id, Together: true, Unstarred: true}})
	require.NoError(t, err)
	require.Contains(t, done.Text, "archived 2")
	require.Equal(t, 3, arranged(queue.Arrangement{}).Left)
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.Len(t, digest().Of, 2)

	// Not together any more, each stands by itself; that is a step of what was planned.
	stream.ID, stream.Together = delivery.Stream(id), false
	_, err = f.Delivery.PutStream(ctx, f.who, "", stream)
	require.NoError(t, err)
	require.Len(t, alone(), 5)
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.Len(t, digest().Of, 2)

	// So can what everybody has; of that nothing else is changed.
	_, err = f.Delivery.PutStream(ctx, f.who, "", deliveries.NewStream{ID: delivery.StreamMachines, Name: "ignored", Together: true})
	require.NoError(t, err)
	s2 := f.settled(t)
	require.Equal(t, "newsletters and notices", s2.Name(delivery.StreamMachines))
	require.Equal(t, []delivery.Stream{delivery.Stream(id), delivery.StreamMachines}, s2.Together)
	f.sound(t)
}
