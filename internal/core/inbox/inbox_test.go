package inbox

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/when"
)

const hour = when.Instant(3_600_000)

func TestDecisions(t *testing.T) {
	here := Conversation{ID: 1, Position: Position{Place: Inbox, Reason: Arrived, Since: 10}, Unread: true, Looks: 2}
	until := when.Moment{At: 500}
	asleep, err := here.Snoozed(Sleep{Return: until}, 100)
	require.NoError(t, err)
	for name, c := range map[string]struct{ got, want Conversation }{
		"bin":            {here.In(Bin, 100), Conversation{ID: 1, Position: Position{Place: Bin, Reason: Decided, Since: 100}}},
		"archive":        {here.In(Archived, 100), Conversation{ID: 1, Position: Position{Place: Archived, Reason: Decided, Since: 100}}},
		"snooze":         {asleep, Conversation{ID: 1, Position: Position{Place: Snoozed, Reason: Decided, Since: 100, SnoozedAt: 100, Snoozes: 1, Return: until}}},
		"to where it is": {here.In(Inbox, 100), here},
		"back":           {here.In(Bin, 100).Read(false).In(Inbox, 200), Conversation{ID: 1, Position: Position{Place: Inbox, Reason: Decided, Since: 200}, Unread: true}},
		"star":           {here.Star(true), Conversation{ID: 1, Position: here.Position, Unread: true, Starred: true, Looks: 2}},
		"look":           {here.Looked(), Conversation{ID: 1, Position: here.Position, Looks: 3}},
		"look elsewhere": {here.In(Bin, 100).Looked(), here.In(Bin, 100)},
	} {
		require.Equal(t, c.want, c.got, name)
	}
	same, err := here.Snoozed(Sleep{Return: when.Moment{At: 100}}, 100)
	require.ErrorIs(t, err, ErrPast)
	require.Equal(t, here, same)
}

func TestComingBack(t *testing.T) {
	c := Conversation{ID: 1, Position: Position{Place: Snoozed, Reason: Decided, Since: 5, SnoozedAt: 5, Snoozes: 2, Return: when.Moment{At: 100}}, Looks: 2}
	require.Equal(t, c, ComeBack(c, 99, 99, false), "not before its time")
	back := ComeBack(c, 100, 130, false)
	require.Equal(t, Conversation{ID: 1, Position: Position{Place: Inbox, Reason: Back, Since: 100, SnoozedAt: 5, Snoozes: 2}, Unread: true}, back)
	require.Equal(t, back, ComeBack(back, 200, 200, false), "only once")
}

func TestReceiving(t *testing.T) {
	put := func(p Place, since when.Instant) Conversation {
		return Conversation{ID: 1, Position: Position{Place: p, Reason: Decided, Since: since}}
	}
	for _, c := range []struct {
		name   string
		before Conversation
		a      Arrival
		want   Place
		reason Reason
		unread bool
	}{
		{"the first message", Conversation{}, Arrival{At: 5, Place: Inbox, Unread: true}, Inbox, Arrived, true},
		{"the first is one's own", Conversation{}, Arrival{At: 5, Own: true, Place: Inbox}, Archived, Arrived, false},
		{"imported to the archive", Conversation{}, Arrival{At: 5, Place: Archived}, Archived, Arrived, false},
		{"an answer to what was archived", put(Archived, 4), Arrival{At: 5, Answer: true, Place: Inbox, Unread: true}, Inbox, Answer, true},
		{"in what was snoozed", put(Snoozed, 4), Arrival{At: 5, Place: Inbox, Unread: true}, Inbox, Arrived, true},
		{"an older one found later", put(Snoozed, 9), Arrival{At: 5, Place: Inbox, Unread: true}, Snoozed, Decided, false},
		{"one's own moves nothing", put(Snoozed, 4), Arrival{At: 5, Own: true, Place: Inbox}, Snoozed, Decided, false},
		{"junk stays junk", put(Junk, 4), Arrival{At: 5, Place: Inbox, Unread: true}, Junk, Decided, false},
	} {
		got := Receive(c.before, c.a)
		require.Equal(t, c.want, got.Place, c.name)
		require.Equal(t, c.reason, got.Reason, c.name)
		require.Equal(t, c.unread, got.Unread, c.name)
	}
}

func TestNewerChangesOutliveTakingBack(t *testing.T) {
	before := Conversation{ID: 1, Position: Position{Place: Inbox, Reason: Arrived, Since: 1}}
	after := before.In(Archived, 10)
	// A message has come since: it brought the conversation back by itself.
	now := Receive(after, Arrival{At: 20, Place: Inbox, Unread: true})
	r := Revert(Change{Before: &before, After: &after}, Change{After: &now})
	require.True(t, r.Nothing(), "the new message stays unread, and why it is here stays true")
}

func TestSpansCutTheInboxIntoSectionsThatDoNotOverlap(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		since := when.Instant(rapid.Int64Range(0, int64(100*hour)).Draw(t, "since"))
		reason := rapid.SampledFrom([]Reason{Arrived, Back, Answer, Decided, Unanswered, AtSite, Monthly, Through, LetIn, WithRound, Bounced}).Draw(t, "reason")
		rounds := []when.Instant{73 * hour, 80 * hour}
		round := when.Instant(0)
		if reason == WithRound {
			round = rapid.SampledFrom(rounds).Draw(t, "round")
		}
		n := 0
		for _, s := range Spans(72*hour, 48*hour, rounds) {
			if since >= s.From && since < s.To && (len(s.Reasons) == 0 || slices.Contains(s.Reasons, reason)) && (s.Round == 0 || s.Round == round) {
				n++
			}
		}
		if n != 1 {
			t.Fatalf("%s since %d is in %d sections", reason, since, n)
		}
	})
}

// What is held shows nowhere and moves nothing that is in view; what comes in
// says why.
func TestHeldMailComesInWithItsReason(t *testing.T) {
	held := Receive(Conversation{}, Arrival{At: 10, Place: Inbox, Held: true, Unread: true})
	require.Equal(t, Position{Place: Held, Reason: Arrived, Since: 10}, held.Position)
	require.True(t, held.Unread)
	more := Receive(held, Arrival{At: 11, Place: Inbox, Held: true, Unread: true})
	require.Equal(t, held, more, "one more changes nothing")
	through := Receive(more, Arrival{At: 12, Place: Inbox, Unread: true, Why: Through})
	require.Equal(t, Position{Place: Inbox, Reason: Through, Since: 12}, through.Position)

	archived := Conversation{Position: Position{Place: Archived, Reason: Decided, Since: 5}}
	require.Equal(t, archived, Receive(archived, Arrival{At: 10, Place: Inbox, Held: true, Unread: true}))
	landed := Receive(archived, Arrival{At: 20, Place: Inbox, Unread: true, Why: WithRound, Round: 20})
	require.Equal(t, Position{Place: Inbox, Reason: WithRound, Since: 20, Round: 20}, landed.Position)
	answer := Receive(archived, Arrival{At: 20, Place: Inbox, Answer: true, Why: WithRound, Round: 20})
	require.Equal(t, Position{Place: Inbox, Reason: Answer, Since: 20}, answer.Position, "that it answers matters more than the round")
	require.Equal(t, Archived, Receive(Conversation{}, Arrival{At: 10, Place: Inbox, Own: true, Held: true}).Place, "one's own mail is never held")

	snoozed := Conversation{Position: Position{Place: Snoozed, Return: when.Moment{At: 100}, SnoozedAt: 1, Since: 1}}
	back := ComeBack(snoozed, 100, 100, true)
	require.Equal(t, Position{Place: Held, Reason: Back, Since: 100, SnoozedAt: 1}, back.Position, "it waits for the next delivery")
	again := Receive(back, Arrival{At: 120, Place: Inbox, Why: Through, Unread: true})
	require.Equal(t, Position{Place: Inbox, Reason: Back, Since: 120, SnoozedAt: 1}, again.Position)
}

// model is a mailbox as a map: what the store does, without a database.
type model struct {
	conversations map[int64]Conversation
	followUps     map[string]followup.FollowUp
	stack         [][]Change
}

func (m *model) apply(changes []Change) {
	for _, c := range changes {
		if c.After != nil {
			m.conversations[c.After.ID] = *c.After
		}
		switch {
		case c.FollowUpAfter != nil:
			m.followUps[c.FollowUpAfter.UID] = *c.FollowUpAfter
		case c.FollowUpBefore != nil:
			delete(m.followUps, c.FollowUpBefore.UID)
		}
	}
}

func (m *model) revert(changes []Change) (out []Change) {
	for _, c := range changes {
		var now Change
		if c.After != nil {
			s := m.conversations[c.After.ID]
			now.After = &s
		}
		for _, f := range []*followup.FollowUp{c.FollowUpBefore, c.FollowUpAfter} {
			if f != nil {
				if s, ok := m.followUps[f.UID]; ok {
					now.FollowUpAfter = &s
				}
			}
		}
		out = append(out, Revert(c, now))
	}
	return out
}

// Any sequence of decisions, undone step by step, gives back the exact state
// before each; and doing them again gives back the exact state after.
func TestDecisionsUndoneStepByStep(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		m := &model{conversations: map[int64]Conversation{}, followUps: map[string]followup.FollowUp{}}
		for id := int64(1); id <= 3; id++ {
			m.conversations[id] = Conversation{ID: id, Position: Position{Place: Inbox, Reason: Arrived, Since: 1}, Unread: true}
		}
		type state struct {
			c map[int64]Conversation
			f map[string]followup.FollowUp
		}
		snapshot := func() state {
			s := state{map[int64]Conversation{}, map[string]followup.FollowUp{}}
			for k, v := range m.conversations {
				s.c[k] = v
			}
			for k, v := range m.followUps {
				s.f[k] = v
			}
			return s
		}
		var states []state
		now := 10 * hour
		const withFollowUp, withFinish = 11, 12
		for range rapid.IntRange(1, 30).Draw(t, "steps") {
			now += hour
			before := m.conversations[rapid.Int64Range(1, 3).Draw(t, "conversation")]
			text := rapid.SampledFrom([]string{"", "a", "b"}).Draw(t, "text")
			sleep := Sleep{Until: rapid.SampledFrom([]Until{UntilTime, UntilAnswer, UntilUnanswered, UntilSite, UntilSomeday}).Draw(t, "until"), Site: 3, Return: when.Moment{At: now + 5*hour}}
			var changes []Change
			after, err := before, error(nil)
			switch n := rapid.IntRange(0, withFinish).Draw(t, "decision"); n {
			case 0, 1, 2:
				after = before.In([]Place{Bin, Archived, Inbox}[n], now)
			case 3:
				after, err = before.Snoozed(sleep, now)
			case 4, 5:
				after = before.Star(n == 4)
			case 6, 7:
				after = before.Read(n == 6)
			case 8:
				after = before.Looked()
			case 9:
				after, err = before.Called(text)
			case 10:
				after, err = before.Noted(text)
				after = after.Labelled([]int64{rapid.Int64Range(1, 4).Draw(t, "add")}, []int64{rapid.Int64Range(1, 4).Draw(t, "remove")})
			case withFollowUp:
				f := followup.FollowUp{UID: string(rune('a' + len(states))), Title: "t", Status: followup.NeedsAction, Made: now}
				changes = append(changes, Change{FollowUpAfter: &f})
				after = before.In(Archived, now)
			case withFinish:
				for _, f := range m.followUps {
					done := f
					done.Status, done.Finished = followup.Completed, now
					changes = append(changes, Change{FollowUpBefore: &f, FollowUpAfter: &done})
				}
				after = before.In(Archived, now)
			}
			if err != nil {
				t.Fatal(err)
			}
			changes = append(changes, Change{Before: &before, After: &after})
			states = append(states, snapshot())
			m.apply(changes)
			m.stack = append(m.stack, changes)
		}
		states = append(states, snapshot())
		var undone [][]Change
		for i := len(m.stack) - 1; i >= 0; i-- {
			back := m.revert(m.stack[i])
			m.apply(back)
			undone = append(undone, back)
			require.Equal(t, states[i], snapshot(), "before step %d", i)
		}
		slices.Reverse(undone)
		for i, back := range undone {
			m.apply(m.revert(back))
			require.Equal(t, states[i+1], snapshot(), "after step %d", i)
		}
	})
}

// A follow-up and an event are taken back field by field: what else has changed
// since stays.
func TestFollowUpsAndEventsTakenBackFieldByField(t *testing.T) {
	before := followup.FollowUp{Title: "a", Priority: followup.Normal, Labels: []int64{1}}
	after := before
	after.Title, after.Labels, after.Repeat = "b", []int64{1, 2}, &followup.Repeat{Rule: "FREQ=DAILY"}
	done := Change{FollowUpBefore: &before, FollowUpAfter: &after}
	require.Equal(t, before, *Revert(done, Change{FollowUpAfter: &after}).FollowUpAfter)
	now := after
	now.Priority, now.Title = followup.Urgent, "c"
	require.Equal(t, followup.FollowUp{Title: "c", Priority: followup.Urgent, Labels: []int64{1}}, *Revert(done, Change{FollowUpAfter: &now}).FollowUpAfter)
	require.False(t, Stands(done, Change{FollowUpAfter: &now}))

	made := calendar.Event{UID: "e", Title: "Talk"}
	require.Nil(t, Revert(Change{EventAfter: &made}, Change{EventAfter: &made}).EventAfter, "it was made: it goes")
	require.Equal(t, made, *Revert(Change{EventBefore: &made}, Change{}).EventAfter, "it was taken away: it comes back")
	moved := made
	moved.Place, moved.Guests = "Library", []calendar.Guest{{Answer: calendar.Yes}}
	cancelled := moved
	cancelled.Cancelled = true
	back := Revert(Change{EventBefore: &made, EventAfter: &moved}, Change{EventAfter: &cancelled}).EventAfter
	require.Equal(t, calendar.Event{UID: "e", Title: "Talk", Cancelled: true}, *back)
}
