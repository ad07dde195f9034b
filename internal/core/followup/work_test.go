package followup

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"github.com/teambition/rrule-go"
	"pgregory.net/rapid"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

func wallAt(t *testing.T, local, zone string) when.Moment {
	t.Helper()
	m := when.Moment{Local: local, Zone: zone}.Realign()
	require.NotZero(t, m.At)
	return m
}

func TestTheNextOccurrence(t *testing.T) {
	oslo := week.Location()
	noon := func(day int) when.Instant { return at(day, 12, 0) }
	for _, c := range []struct {
		name, due string
		r         Repeat
		done      when.Instant
		want      string // "" if the series has ended
		missed    int
	}{
		{"each week", "2026-11-24T10:00", Repeat{Rule: "FREQ=WEEKLY"}, noon(24), "2026-12-01T10:00", 0},
		{"done early", "2026-11-27T10:00", Repeat{Rule: "FREQ=WEEKLY"}, noon(24), "2026-12-04T10:00", 0},
		{"two weeks late: what was missed is not made up for", "2026-11-06", Repeat{Rule: "FREQ=WEEKLY"}, noon(24), "2026-11-27", 2},
		{"from the day it was done", "2026-11-10T10:00", Repeat{Rule: "FREQ=DAILY;INTERVAL=10", FromDone: true}, noon(24), "2026-12-04T10:00", 0},
		{"a day left out", "2026-11-24", Repeat{Rule: "FREQ=WEEKLY", Except: []string{"2026-12-01"}}, noon(24), "2026-12-08", 0},
		{"not on days off", "2026-11-27", Repeat{Rule: "FREQ=DAILY", DaysOff: true}, at(27, 12, 0), "2026-11-30", 0},
		{"the end of a month", "2026-11-30", Repeat{Rule: "FREQ=MONTHLY;BYMONTHDAY=-1"}, at(30, 12, 0), "2026-12-31", 0},
		{"the last of its number", "2026-11-24", Repeat{Rule: "FREQ=WEEKLY;COUNT=2", First: "2026-11-17", Nth: 2}, noon(24), "", 0},
		{"the last of its number, from when it is done", "2026-11-24", Repeat{Rule: "FREQ=WEEKLY;COUNT=2", FromDone: true, Nth: 2}, noon(24), "", 0},
		{"its last day has come", "2026-11-24", Repeat{Rule: "FREQ=WEEKLY;UNTIL=20261130"}, noon(24), "", 0},
	} {
		f := FollowUp{Title: "x", Status: NeedsAction, Priority: Normal, Due: wallAt(t, c.due, "Europe/Oslo"), Repeat: &c.r}.begins(oslo)
		next, missed, ok := NextOf(f, c.done, week)
		require.Equal(t, c.want != "", ok, c.name)
		if ok {
			require.Equal(t, c.want, next.Due.Local, c.name)
			require.Equal(t, c.missed, missed, c.name)
			require.True(t, next.Open())
		}
	}
}

func TestTheNextOccurrenceBeginsAnew(t *testing.T) {
	clock := 600
	f := FollowUp{Title: "x", Status: NeedsAction, Priority: Normal, Start: wallAt(t, "2026-11-22", "Europe/Oslo"), Due: wallAt(t, "2026-11-24T12:00", "Europe/Oslo"), Percent: 60, Moved: 2, Stage: "under-way",
		Checklist: []Item{{UID: "a", Text: "pack", Done: true}}, Repeat: &Repeat{Rule: "FREQ=WEEKLY"},
		Reminders: []Reminder{{Of: OfDue, Days: 1, Clock: &clock, Fired: 5}, {At: wallAt(t, "2026-11-24T08:00", "Europe/Oslo"), Fired: 5}}}.begins(week.Location())
	next, _, ok := NextOf(f, tuesday, week)
	require.True(t, ok)
	require.Equal(t, "2026-11-29", next.Start.Local)
	require.Equal(t, []Item{{UID: "a", Text: "pack"}}, next.Checklist)
	require.Zero(t, next.Percent+next.Moved+len(next.Stage))
	require.Zero(t, next.Reminders[0].Fired)
	require.Equal(t, at(30, 10, 0), next.Reminders[0].Time(next, week), "the day before at 10")
	require.Equal(t, "2026-12-01T08:00", next.Reminders[1].At.Local)
	require.True(t, f.Checklist[0].Done, "the one that was finished stays as it was")
	require.Equal(t, 2, next.Repeat.Nth)
}

// A year lived on a follow-up that repeats, in any zone: finished at any time
// after it was due, the occurrences that are made, with those that were missed,
// are just those of the library's own expansion; each shows its hour on the
// clocks of the zone, whatever these do meanwhile.
func TestAYearOfOccurrences(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		zone := rapid.SampledFrom([]string{"Europe/Oslo", "America/New_York", "Australia/Lord_Howe", "Asia/Kolkata"}).Draw(t, "zone")
		loc, err := time.LoadLocation(zone)
		require.NoError(t, err)
		w := when.Ordinary(zone)
		rule := rapid.SampledFrom([]string{"FREQ=DAILY", "FREQ=DAILY;INTERVAL=3", "FREQ=WEEKLY;BYDAY=MO,TH", "FREQ=WEEKLY;INTERVAL=2", "FREQ=MONTHLY;BYMONTHDAY=-1",
			"FREQ=MONTHLY;BYDAY=2TU", "FREQ=MONTHLY;BYMONTHDAY=28,29,30;BYSETPOS=-1", "FREQ=WEEKLY;COUNT=9", "FREQ=DAILY;UNTIL=20260601"}).Draw(t, "rule")
		first := time.Date(2026, 1, 1+rapid.IntRange(0, 30).Draw(t, "day"), rapid.IntRange(0, 23).Draw(t, "hour"), rapid.SampledFrom([]int{0, 30}).Draw(t, "minute"), 0, 0, time.UTC)
		opt, err := rrule.StrToROption(rule)
		require.NoError(t, err)
		if !opt.Until.IsZero() {
			opt.Until = opt.Until.Add(24*time.Hour - time.Second)
		}
		opt.Dtstart = first
		theirs, err := rrule.NewRRule(*opt)
		require.NoError(t, err)
		var want []time.Time
		for _, x := range theirs.Between(first.Add(time.Minute), first.AddDate(1, 0, 0), true) {
			if !x.Equal(first) {
				want = append(want, x)
			}
		}
		f := FollowUp{Title: "x", Status: NeedsAction, Priority: Normal, Due: when.AtWall(first, loc), Repeat: &Repeat{Rule: rule}}.begins(loc)
		nth := 0
		for range 400 {
			now := f.Due.At + when.Instant(rapid.Int64Range(0, 5*86_400_000).Draw(t, "late"))
			next, missed, ok := NextOf(f, now, w)
			nth += missed + 1
			if !ok || next.Due.Wall(loc).After(first.AddDate(1, 0, 0)) {
				if !ok {
					require.GreaterOrEqual(t, nth, len(want), "it ends where the rule does")
				}
				return
			}
			require.Equal(t, want[nth-1].Format("2006-01-02T15:04"), next.Due.Local)
			shown := next.Due.At.In(loc).Format("15:04")
			require.True(t, shown == first.Format("15:04") || first.Hour() <= 3, "%s is shown at %s", next.Due.Local, shown)
			f = next
		}
	})
}

func TestRemindersOnceAndInTime(t *testing.T) {
	clock := 10 * 60
	f := FollowUp{UID: "a", Title: "x", Status: NeedsAction, Priority: Normal, Start: wallAt(t, "2026-11-25T08:00", "Europe/Oslo"), Due: wallAt(t, "2026-11-26T12:00", "Europe/Oslo"),
		Reminders: []Reminder{{Of: OfDue, Days: 1, Clock: &clock}, {Of: OfDue, Minutes: 120}, {Of: OfStart}, {At: when.Moment{At: at(24, 15, 0)}}}}
	require.Equal(t, []when.Instant{at(25, 10, 0), at(26, 10, 0), at(25, 8, 0), at(24, 15, 0)},
		[]when.Instant{f.Reminders[0].Time(f, week), f.Reminders[1].Time(f, week), f.Reminders[2].Time(f, week), f.Reminders[3].Time(f, week)})
	require.Equal(t, at(24, 15, 0), f.Next(week))
	require.True(t, f.Fire(week, at(24, 14, 59)).Equal(f), "never early")
	late := f.Fire(week, at(25, 9, 0))
	require.True(t, late.Card)
	require.Equal(t, at(25, 10, 0), late.Next(week), "what was missed while off fires once, as one card")
	moved := late.MoveTo(4, week, at(25, 9, 0))
	require.Equal(t, "2026-11-29T12:00", moved.Due.Local)
	require.Equal(t, at(28, 10, 0), moved.Reminders[0].Time(moved, week))
	whole := FollowUp{Status: NeedsAction, Due: wallAt(t, "2026-11-26", "Europe/Oslo"), Reminders: []Reminder{{Of: OfDue}}}
	require.Equal(t, at(26, 8, 0), whole.Next(week), "a day without an hour counts from the morning")
	again := late.RemindAgain(when.Moment{At: at(25, 17, 0)})
	require.False(t, again.Card)
	require.Len(t, again.Reminders, 4, "the spent one at a time of its own made room")
	require.Equal(t, "1 day before it is due, at 10:00", f.Reminders[0].Say(week, tuesday))
	require.Equal(t, "2 h before it is due", f.Reminders[1].Say(week, tuesday))
	require.Equal(t, "when it starts", f.Reminders[2].Say(week, tuesday))
}

// A reminder can be on another day by its name, and moves with the day it counts from.
func TestRemindersOnADayByItsName(t *testing.T) {
	german := week
	german.Languages = []when.Language{when.German}
	f := FollowUp{Status: NeedsAction, Due: wallAt(t, "2026-12-03T12:00", "Europe/Oslo")} // a Thursday
	for _, c := range []struct{ text, at, later, says string }{
		{"the evening before", "2026-12-02T18:00", "2026-12-08T18:00", "1 day before it is due, at 18:00"},
		{"evening before at 20:30", "2026-12-02T20:30", "2026-12-08T20:30", "1 day before it is due, at 20:30"},
		{"the day before", "2026-12-02T12:00", "2026-12-08T12:00", "1 day before it is due"},
		{"that morning", "2026-12-03T08:00", "2026-12-09T08:00", "when it is due, at 8:00"},
		{"monday of that week", "2026-11-30T08:00", "2026-12-07T08:00", "on the Monday of the week in which it is due, at 8:00"},
		{"friday of the week before at 9", "2026-11-27T09:00", "2026-12-04T09:00", "on the Friday of the week before the one in which it is due, at 9:00"},
	} {
		one, ok := ReadReminder(c.text, german, tuesday)
		require.True(t, ok, c.text)
		require.Equal(t, wallAt(t, c.at, "Europe/Oslo").At, one.Time(f, week), c.text)
		require.Equal(t, c.says, one.Say(week, tuesday))
		moved := f
		moved.Due = wallAt(t, "2026-12-09T12:00", "Europe/Oslo")
		require.Equal(t, wallAt(t, c.later, "Europe/Oslo").At, one.Time(moved, week), "%s: it moves with the day", c.text)
	}
	for _, text := range []string{"the morning", "evening", "moonday of that week", "the evening before at 25", "the week"} {
		one, _ := ReadReminder(text, week, tuesday)
		require.Zero(t, one.Days+one.Weekday, text)
	}
	r := ReadLine("opening / due thu / remind the evening before", FollowUp{}, Known{}, week, tuesday)
	require.Equal(t, 18*60, *r.FollowUp.Reminders[0].Clock)
}

// Through any stops of the clock each reminder counts once, none before its
// time and none is left over.
func TestNoReminderIsLostOrDoubled(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f := FollowUp{UID: "a", Status: NeedsAction, Due: when.Moment{At: at(26, 12, 0)}}
		for range rapid.IntRange(0, 6).Draw(t, "reminders") {
			f.Reminders = append(f.Reminders, Reminder{Of: OfDue, Minutes: rapid.IntRange(0, 5000).Draw(t, "before")})
		}
		stops := rapid.SliceOf(rapid.Int64Range(int64(at(20, 0, 0)), int64(at(27, 0, 0)))).Draw(t, "clock")
		slices.Sort(stops)
		for _, now := range append(stops, int64(at(28, 0, 0))) {
			before := f
			f = f.Fire(week, when.Instant(now))
			for i, r := range f.Reminders {
				if r.Fired != 0 && before.Reminders[i].Fired != 0 {
					require.Equal(t, before.Reminders[i].Fired, r.Fired, "fired twice")
				}
				require.Equal(t, r.Time(f, week) <= when.Instant(now), r.Fired != 0)
			}
			f.Card = false
		}
		require.Zero(t, f.Next(week))
	})
}

func TestStagesAndWhatTheyMean(t *testing.T) {
	s := Usual()
	f := FollowUp{Title: "x", Status: NeedsAction, With: mail.Address{Name: "Halvard"}}
	under := s.Put(f, "under-way", 5)
	require.Equal(t, InProcess, under.Status)
	others := s.Put(under, "others", 7)
	require.True(t, others.Waiting())
	require.EqualValues(t, 7, others.Waits.Since)
	require.EqualValues(t, 7, s.Put(others, "others", 9).Waits.Since, "it has waited since then")
	back := s.Put(others, "todo", 9)
	require.False(t, back.Waiting())
	require.Equal(t, NeedsAction, back.Status)
	done := s.Put(others, "finished", 11)
	require.Equal(t, Completed, done.Status)
	require.Equal(t, 100, done.Percent)
	require.False(t, done.Waiting())
	require.Equal(t, "todo", s.In(done.Reopen(s)).ID)
	require.Equal(t, "finished", s.In(f.Finish(3)).ID, "what is finished stands among the finished, wherever it was")
	require.Equal(t, "todo", s.In(FollowUp{Status: NeedsAction, Stage: "gone"}).ID)
	for _, c := range []struct {
		change func(s *Settings)
		want   string
	}{
		{func(s *Settings) { s.Stages[1].Name = " to DO " }, "two stages are called"},
		{func(s *Settings) { s.Stages = s.Stages[:3] }, "needs a stage"},
		{func(s *Settings) { s.Stages[0].Means = "maybe" }, "has to mean"},
		{func(s *Settings) { s.CloseAt = 1500 }, "within the day"},
		{func(s *Settings) { s.Views = []View{{Name: " ", By: ByDate}} }, "short name"},
	} {
		s := Usual()
		s.Stages = slices.Clone(s.Stages)
		c.change(&s)
		require.ErrorContains(t, s.Valid(), c.want)
	}
	require.NoError(t, Usual().Valid())
}

func TestWhatCannotBeStored(t *testing.T) {
	s, due := Usual(), wallAt(t, "2026-11-26T12:00", "Europe/Oslo")
	for _, c := range []struct {
		change func(f *FollowUp)
		want   string
	}{
		{func(f *FollowUp) { f.Start = wallAt(t, "2026-11-27", "Europe/Oslo") }, "due before it starts"},
		{func(f *FollowUp) { f.Reminders = []Reminder{{At: when.Moment{At: tuesday - 1}}} }, "has passed"},
		{func(f *FollowUp) { f.Reminders = []Reminder{{Of: OfDue, Days: 3}} }, "has passed"},
		{func(f *FollowUp) { f.Due, f.Reminders = when.Moment{}, []Reminder{{Of: OfDue}} }, "there is none"},
		{func(f *FollowUp) { f.Repeat = &Repeat{Rule: "FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30"} }, "never falls"},
		{func(f *FollowUp) { f.Due, f.Repeat = when.Moment{}, &Repeat{Rule: "FREQ=DAILY"} }, "needs a due date"},
		{func(f *FollowUp) { f.Percent = 101 }, "100 %"},
	} {
		f := FollowUp{Title: "x", Status: NeedsAction, Due: due}
		c.change(&f)
		_, err := s.New(f, FollowUp{}, week, tuesday)
		require.ErrorContains(t, err, c.want)
	}
	f, err := s.New(FollowUp{Title: " a  b ", Status: NeedsAction, Due: due, Labels: []int64{3, 1, 3}, Reminders: []Reminder{{Of: OfDue, Days: 1}}}, FollowUp{}, week, tuesday)
	require.NoError(t, err)
	require.Equal(t, "a b", f.Title)
	require.Equal(t, []int64{1, 3}, f.Labels)
	// Moved nearer, what a reminder counts has passed: it is spent, and no error.
	nearer := f
	nearer.Due = wallAt(t, "2026-11-25T09:00", "Europe/Oslo")
	nearer, err = s.New(nearer, f, week, tuesday)
	require.NoError(t, err)
	require.NotZero(t, nearer.Reminders[0].Fired)
}

func TestAnOlderFollowUpIsUnderstood(t *testing.T) {
	var f FollowUp
	require.NoError(t, f.UnmarshalJSON([]byte(`{"uid":"a","title":"x","status":"needs-action","priority":5,"due":{"at":9},"remind":{"at":7},"card":false}`)))
	require.Equal(t, []Reminder{{At: when.Moment{At: 7}}}, f.Reminders)
	require.EqualValues(t, 9, f.Due.At)
}

func TestTheLoadOfADay(t *testing.T) {
	var past []Past
	for wk := 1; wk <= 4; wk++ { // 90 minutes on each Monday, 30 on each Tuesday
		monday := at(23, 15, 0) - when.Instant(wk*7*86_400_000)
		past = append(past, Past{monday, 60}, Past{monday, 0}, Past{monday + 86_400_000, 30})
	}
	p := LearnPace(past, tuesday, week)
	require.Equal(t, 72, p.Minutes[time.Monday], "yesterday was one, with nothing finished")
	require.Equal(t, 30, p.Minutes[time.Tuesday])
	require.Zero(t, p.Minutes[time.Sunday])
	fresh := LearnPace(nil, tuesday, week)
	require.Equal(t, [7]int{0, 180, 180, 180, 180, 180, 0}, fresh.Minutes)
	days := fresh.Days(7, map[int]int{0: 1, 1: 4, 4: 1}, map[int]int{0: 30, 1: 200, 4: 20}, week, tuesday)
	require.True(t, days[1].Over)
	require.False(t, days[0].Over)
	require.True(t, days[4].Over && days[4].Off, "anything on a day off is more than is usual")
	require.Equal(t, []int{2, 3, 6}, Free(days, 60), "the nearest working days with room")
	require.Equal(t, []int{2}, Free(days[:3], 500), "or the emptiest")
	require.Equal(t, 36, FollowUp{Effort: 90, Percent: 60}.Minutes())
	require.Equal(t, UsualEffort, FollowUp{}.Minutes())
}
