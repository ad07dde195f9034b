package journal

import (
	"context"
	"errors"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

var ctx = context.Background()

// at is a clock that stands.
type at struct{ t time.Time }

func (c at) Now() time.Time { return c.t }

// desk is a journal with one person.
type desk struct {
	*Journal
	t   *testing.T
	who identity.Who
}

func newDesk(t *testing.T) *desk {
	s, err := store.Open(t.TempDir(), store.Options{})
	require.NoError(t, err)
	t.Cleanup(s.Close)
	d := &desk{Journal: New(s, at{time.Date(2026, 11, 24, 9, 0, 0, 0, time.UTC)}), t: t}
	people := identity.New(s, d.Now, true)
	d.Register(map[inbox.Kind]Kind{inbox.MakeFollowUp: {Verb: "follow-up made", Step: true}, inbox.ChangeFollow: {Verb: "follow-up changed", Step: true}})
	require.NoError(t, people.SetUp(ctx, identity.Signup{Name: "Solvei", Address: "solvei@m.example", Zone: "UTC"}, nil, func(_ store.Tx, who identity.Who, _ store.Person) error {
		d.who = who
		return nil
	}))
	return d
}

// put makes a follow-up, or changes its title, in one entry.
func (d *desk) put(key, title string) (Decided, bool) {
	d.t.Helper()
	out, fresh, err := Once(ctx, d.Journal, d.who, key, func(t store.Tx) (Decided, error) {
		state, err := store.Conversations(t).State(1, 0, nil, []string{"f"})
		if err != nil {
			return Decided{}, err
		}
		c := inbox.Change{FollowUpAfter: &followup.FollowUp{UID: "f", Title: title, Status: followup.NeedsAction}}
		kind := inbox.MakeFollowUp
		if before, ok := state.FollowUps["f"]; ok {
			after := before
			after.Title = title
			c, kind = inbox.Change{FollowUpBefore: &before, FollowUpAfter: &after}, inbox.ChangeFollow
		}
		return d.Commit(t, d.who, store.Entry{Kind: kind, At: d.Now()}, []inbox.Change{c}, func(int) string { return "Done: " + title + "." })
	})
	require.NoError(d.t, err)
	return out, fresh
}

func (d *desk) title() string {
	var state store.State
	require.NoError(d.t, d.store.Read(ctx, func(t store.Tx) (err error) {
		state, err = store.Conversations(t).State(1, 0, nil, []string{"f"})
		return err
	}))
	return state.FollowUps["f"].Title
}

// A request that is repeated is answered as it was the first time, and does
// nothing; one that failed is done when it is repeated.
func TestARepeatedRequestIsAnsweredOnce(t *testing.T) {
	d := newDesk(t)
	first, fresh := d.put("key", "Measure")
	require.True(t, fresh)
	require.Equal(t, "Done: Measure.", first.Text)
	again, fresh := d.put("key", "Something else")
	require.False(t, fresh)
	require.Equal(t, first, again)
	require.Equal(t, "Measure", d.title())
	broken := errors.New("no")
	_, fresh, err := Once(ctx, d.Journal, d.who, "other", func(store.Tx) (int, error) { return 0, broken })
	require.ErrorIs(t, err, broken)
	require.False(t, fresh)
	n, fresh, err := Once(ctx, d.Journal, d.who, "other", func(store.Tx) (int, error) { return 7, nil })
	require.NoError(t, err)
	require.True(t, fresh)
	require.Equal(t, 7, n)
}

// Taking back and doing again go step by step, and what a kind registered is
// called with each, in its order.
func TestTakingBackAndAgain(t *testing.T) {
	d := newDesk(t)
	var called []string
	hook := func(name string) Hook {
		return func(_ store.Tx, s *Step) error {
			way := " again"
			if s.Back {
				way = " back"
			}
			called = append(called, name+way+" "+s.Root.Text)
			s.Topics = []string{TopicAccounts}
			return nil
		}
	}
	d.Register(map[inbox.Kind]Kind{inbox.ChangeFollow: {Verb: "follow-up changed", Step: true, Before: hook("before"), After: hook("after")}})
	d.Always(hook("always"))
	d.put("", "Measure")
	d.put("", "Measure twice")
	events := d.Subscribe(t.Context(), 1, 1)
	out, err := d.TakeBack(ctx, d.who, "")
	require.NoError(t, err)
	require.Equal(t, []string{TopicFollowUps, TopicAccounts}, (<-events).Topics)
	require.Equal(t, "Taken back: “Measure twice”.", out.Text)
	require.Equal(t, "Measure", d.title())
	_, err = d.TakeBack(ctx, d.who, "")
	require.NoError(t, err)
	require.Empty(t, d.title())
	var user *problem.Error
	_, err = d.TakeBack(ctx, d.who, "")
	require.ErrorAs(t, err, &user)
	require.Equal(t, "nothing-to-take-back", user.Type)
	for _, title := range []string{"Measure", "Measure twice"} {
		_, err = d.Again(ctx, d.who, "")
		require.NoError(t, err)
		require.Equal(t, title, d.title())
	}
	_, err = d.Again(ctx, d.who, "")
	require.ErrorAs(t, err, &user)
	require.Equal(t, []string{"always back Measure twice", "before back Measure twice", "after back Measure twice", "always back Measure", "always again Measure",
		"always again Measure twice", "before again Measure twice", "after again Measure twice"}, called)
}

// One old step is taken back by itself only if nothing since depends on it; else
// the error says what does, in the word of its kind. A hook that fails changes
// nothing.
func TestOneOldStep(t *testing.T) {
	d := newDesk(t)
	d.Register(map[inbox.Kind]Kind{inbox.ChangeFollow: {Verb: "follow-up changed", Step: true, After: func(store.Tx, *Step) error { return errors.New("it cannot be") }}})
	made, _ := d.put("", "Measure")
	changed, _ := d.put("", "Measure twice")
	var user *problem.Error
	_, err := d.TakeBackStep(ctx, d.who, "", made.Entry)
	require.ErrorAs(t, err, &user)
	require.Equal(t, "depends", user.Type)
	_, err = d.TakeBackStep(ctx, d.who, "", changed.Entry)
	require.EqualError(t, err, "it cannot be")
	require.Equal(t, "Measure twice", d.title(), "nothing was changed")
	_, err = d.TakeBackStep(ctx, identity.Who{Person: 2, Box: 1}, "", changed.Entry)
	require.ErrorAs(t, err, &user)
	require.Equal(t, "no-step", user.Type)
	_, err = d.TakeBackStep(ctx, identity.Who{Person: 2, Box: 2}, "", changed.Entry)
	require.ErrorIs(t, err, store.ErrNotFound, "another's box cannot be reached by guessing")
}

// What is announced goes to those of the box, and one that is too slow to follow
// hears of everything and is cut off.
func TestAnnouncing(t *testing.T) {
	d := newDesk(t)
	var heard []int64
	d.Listen(func(box int64, _ Event) { heard = append(heard, box) })
	mine, theirs := d.Subscribe(t.Context(), 1, 1), d.Subscribe(t.Context(), 2, 2)
	d.Tell(1, "key", []inbox.Change{{After: &inbox.Conversation{ID: 5}}})
	e := <-mine
	require.Equal(t, Event{Topics: []string{TopicMail}, Conversations: []int64{5}, Key: "key"}, e)
	d.AnnounceAll(TopicClock)
	require.Equal(t, []string{TopicClock}, (<-theirs).Topics)
	require.ElementsMatch(t, []int64{1, 1, 2}, heard)
	for range 200 {
		d.Announce(2, Event{})
	}
	n := 0
	for range theirs {
		n++
	}
	require.Less(t, n, 200)
	require.Equal(t, when.Of(d.Time()), d.Now())
}
