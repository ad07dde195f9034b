package inbox

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

func TestSumsOfSittings(t *testing.T) {
	const second = when.Instant(1000)
	for _, c := range []struct {
		name  string
		steps []Taken
		want  Sum
	}{
		{"nothing was done", nil, Sum{ByKind: map[Kind]int{}}},
		{"one decision", []Taken{{Archive, 8 * second, 1}}, Sum{Decided: 1, Median: 8, ByKind: map[Kind]int{Archive: 1}}},
		{"a star belongs to the decision after it", []Taken{{Star, 3 * second, 1}, {Archive, 8 * second, 1}}, Sum{Decided: 1, Median: 8, ByKind: map[Kind]int{Archive: 1}}},
		{"leaving takes time, but is no decision", []Taken{{Leave, 20 * second, 1}, {ToBin, 24 * second, 1}}, Sum{Decided: 1, Left: 1, Median: 4, ByKind: map[Kind]int{ToBin: 1}}},
		{"a lunch break does not move the median", []Taken{{ToBin, 4 * second, 1}, {Archive, 10 * second, 1}, {Snooze, 4000 * second, 1}}, Sum{Decided: 3, Median: 6, ByKind: map[Kind]int{ToBin: 1, Archive: 1, Snooze: 1}}},
		{"an answer with which it leaves is a decision, one with which it stays is not", []Taken{{SendMail, 90 * second, 0}, {SendMail, 100 * second, 1}}, Sum{Decided: 1, Median: 100, ByKind: map[Kind]int{SendMail: 1}}},
		{"many at once are one decision", []Taken{{Archive, 6 * second, 40}, {ToBin, 8 * second, 1}}, Sum{Decided: 41, Median: 4, ByKind: map[Kind]int{Archive: 40, ToBin: 1}}},
	} {
		require.Equal(t, c.want, SumUp(0, c.steps), c.name)
	}
}

func TestSnoozesWithoutADate(t *testing.T) {
	here := Conversation{ID: 1, Position: Position{Place: Inbox, Reason: Arrived, Since: 10}, Unread: true, Looks: 2}
	snooze := func(s Sleep) Conversation {
		c, err := here.Snoozed(s, 100)
		require.NoError(t, err)
		require.Equal(t, Snoozed, c.Place)
		return c
	}
	answer := snooze(Sleep{Until: UntilAnswer})
	require.Equal(t, answer, ComeBack(answer, 1<<50, 1<<50, false), "it has no time")
	unless := snooze(Sleep{Until: UntilUnanswered, Return: when.Moment{At: 500}})
	site := snooze(Sleep{Until: UntilSite, Site: 7})
	someday := snooze(Sleep{Until: UntilSomeday, Return: when.Moment{At: 900}})
	require.Equal(t, Unanswered, ComeBack(unless, 500, 500, false).Reason)
	require.Equal(t, Monthly, ComeBack(someday, 900, 900, false).Reason)
	require.Equal(t, site, BeAt(site, 8, 200), "another place")
	require.Equal(t, Position{Place: Inbox, Reason: AtSite, Since: 200, SnoozedAt: 100, Snoozes: 1, Site: 7}, BeAt(site, 7, 200).Position)
	require.Equal(t, answer, BeAt(answer, 0, 200), "being nowhere brings nothing back")
	for _, d := range []Sleep{{Until: UntilSite}, {Until: UntilSomeday}, {Until: "weather"}} {
		_, err := here.Snoozed(d, 100)
		require.Error(t, err, d.Until)
	}
	for _, c := range []struct {
		name   string
		before Conversation
		a      Arrival
		place  Place
		reason Reason
		unread bool
	}{
		{"an answer to what waits for one", answer, Arrival{At: 200}, Inbox, Answer, true},
		{"a machine answers nothing", answer, Arrival{At: 200, Auto: true}, Snoozed, Decided, true},
		{"an answer in time", unless, Arrival{At: 200}, Inbox, Answer, true},
		{"an answer also if new mail is to leave it asleep", unless, Arrival{At: 200, Asleep: true}, Inbox, Answer, true},
		{"new mail where it is to sleep on", someday, Arrival{At: 200, Asleep: true}, Snoozed, Decided, true},
		{"new mail in what waits for a place", site, Arrival{At: 200}, Inbox, Arrived, true},
		{"one's own mail", answer, Arrival{At: 200, Own: true}, Snoozed, Decided, false},
	} {
		c.a.Place, c.a.Unread = Inbox, !c.a.Own
		got := Receive(c.before, c.a)
		require.Equal(t, c.place, got.Place, c.name)
		require.Equal(t, c.reason, got.Reason, c.name)
		require.Equal(t, c.unread, got.Unread, c.name)
	}
}

func TestNamesNotesAndLabels(t *testing.T) {
	c := Conversation{ID: 1, Position: Position{Place: Archived}, Labels: LabelsOf(3, 1)}
	got := c.Labelled([]int64{2, 3}, []int64{1})
	require.Equal(t, Labels("2,3"), got.Labels)
	require.Equal(t, c.Position, got.Position, "labelling moves nothing")
	got, err := got.Called("  the   long\ncrate ")
	require.NoError(t, err)
	require.Equal(t, "the long crate", got.Title)
	got, err = got.Noted(" two\nlines\n")
	require.NoError(t, err)
	require.Equal(t, "two\nlines", got.Note)
	_, err = c.Noted(string(make([]byte, MaxNote+1)))
	require.ErrorIs(t, err, ErrLong)
}

// A set of labels behaves as a set.
func TestLabelsAreASet(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		ids := rapid.SliceOfN(rapid.Int64Range(1, 12), 0, 8)
		a, b := ids.Draw(t, "a"), ids.Draw(t, "b")
		set := LabelsOf(a...).With(b...)
		for id := int64(1); id <= 12; id++ {
			in := slices.Contains(a, id) || slices.Contains(b, id)
			if slices.Contains(set.IDs(), id) != in {
				t.Fatalf("%d in %q: %t", id, set, in)
			}
			if slices.Contains(set.Without(b...).IDs(), id) != (slices.Contains(a, id) && !slices.Contains(b, id)) {
				t.Fatalf("%d after taking %v from %q", id, b, set)
			}
		}
		if LabelsOf(set.IDs()...) != set {
			t.Fatalf("%q is not its own normal form", set)
		}
	})
}

// What was labelled since stays when labelling before it is taken back.
func TestTakingBackLabelsKeepsNewerOnes(t *testing.T) {
	before := Conversation{ID: 1, Position: Position{Place: Inbox}, Labels: LabelsOf(1, 2)}
	after := before
	after.Labels = LabelsOf(2, 3)
	now := after
	now.Labels = LabelsOf(2, 3, 9)
	r := Revert(Change{Before: &before, After: &after}, Change{After: &now})
	require.Equal(t, LabelsOf(1, 2, 9), r.After.Labels)
}

func TestWhatStillStands(t *testing.T) {
	before := Conversation{ID: 1, Position: Position{Place: Inbox, Reason: Arrived, Since: 1}, Unread: true, Labels: LabelsOf(1)}
	archived := before.In(Archived, 10)
	done := Change{Before: &before, After: &archived}
	for _, c := range []struct {
		name string
		now  Conversation
		want bool
	}{
		{"nothing has happened since", archived, true},
		{"it was starred since", archived.Star(true), true},
		{"it was labelled since", archived.Labelled([]int64{4}, nil), true},
		{"it was looked at since", archived.Looked(), true},
		{"it was binned since", archived.In(Bin, 20), false},
		{"it was archived again since", archived.In(Inbox, 20).In(Archived, 30), false},
		{"a message came since", Receive(archived, Arrival{At: 20, Place: Inbox, Unread: true}), false},
	} {
		require.Equal(t, c.want, Stands(done, Change{After: &c.now}), c.name)
	}
	require.False(t, Stands(done, Change{}), "it no longer exists")
	labelled := before.Labelled([]int64{2}, []int64{1})
	label := Change{Before: &before, After: &labelled}
	again := labelled.Labelled([]int64{1}, nil)
	require.False(t, Stands(label, Change{After: &again}))
	f := followup.FollowUp{UID: "a", Title: "Do it"}
	g := f
	g.Title = "Do it twice"
	require.True(t, Stands(Change{FollowUpAfter: &f}, Change{FollowUpAfter: &f}))
	require.False(t, Stands(Change{FollowUpAfter: &f}, Change{FollowUpAfter: &g}))
}

func TestRankPutsPeopleBeforeMachines(t *testing.T) {
	order := []struct {
		k mail.Kind
		r mail.Reach
	}{{mail.Person, mail.Alone}, {mail.Person, mail.Named}, {mail.Person, mail.Copied}, {mail.Invitation, mail.Unnamed}, {mail.Notice, mail.Alone}, {mail.Receipt, mail.Named}, {mail.List, mail.Alone}, {mail.List, mail.Unnamed}}
	for i := 1; i < len(order); i++ {
		require.Less(t, Rank(order[i-1].k, order[i-1].r), Rank(order[i].k, order[i].r), "%v before %v", order[i-1], order[i])
	}
}

// The spans by day cover all time once, also where a day has 23 or 25 hours.
func TestDaysCutTheInboxOnce(t *testing.T) {
	oslo, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	for _, now := range []string{"2026-03-31T09:00:00Z", "2026-10-27T09:00:00Z", "2026-11-24T09:00:00Z"} {
		at, err := time.Parse(time.RFC3339, now)
		require.NoError(t, err)
		spans := Days(when.Of(at), oslo)
		require.Len(t, spans, 15)
		require.Equal(t, Section(at.In(oslo).Format(time.DateOnly)), spans[0].Section)
		for i := 1; i < len(spans); i++ {
			require.Equal(t, spans[i-1].From, spans[i].To)
		}
		require.Zero(t, spans[14].From)
	}
}
