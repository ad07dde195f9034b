package numbers

import (
	"fmt"
	"slices"
	"sort"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// An hour on the wall is that which a clock there shows, in any zone and in the nights in which it is
// moved.
func TestTheHourOnTheWall(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		loc, err := when.LoadZone(rapid.SampledFrom([]string{"UTC", "Europe/Berlin", "America/St_Johns", "Asia/Kathmandu", "Pacific/Kiritimati", "Australia/Lord_Howe"}).Draw(t, "zone"))
		require.NoError(t, err)
		at := when.Instant(rapid.Int64Range(-2e12, 4e12).Draw(t, "at"))
		w := WallOf(at, loc)
		require.Equal(t, at.In(loc).Format("2006-01-02 15"), fmt.Sprintf("%s %02d", DateOf(w.Day()).Format(time.DateOnly), w.Hour()))
		d := at.In(loc)
		require.Equal(t, w.Day(), DayOf(d.Date()))
	})
	berlin, err := when.LoadZone("Europe/Berlin")
	require.NoError(t, err)
	once := WallOf(when.Of(time.Date(2026, 10, 25, 0, 30, 0, 0, time.UTC)), berlin)
	require.Equal(t, once, WallOf(when.Of(time.Date(2026, 10, 25, 1, 30, 0, 0, time.UTC)), berlin), "an hour that is there twice is one")
}

// moved is a conversation that was decided.
func moved(from, to inbox.Place, looks int, since when.Instant) inbox.Change {
	b := inbox.Conversation{ID: 1, Position: inbox.Position{Place: from, Since: since}, Looks: looks}
	a := b
	a.Place = to
	return inbox.Change{Before: &b, After: &a}
}

func TestWhatALineCountsFor(t *testing.T) {
	const now = when.Instant(1_800_000_000_000)
	due := when.Moment{At: now - Hour}
	open := followup.FollowUp{Status: followup.NeedsAction, Due: due}
	later, done, dropped, asked, over := open, open, open, open, open
	later.Due.At += 3 * Hour
	done.Status, done.Finished = followup.Completed, now
	dropped.Status = followup.Cancelled
	asked.Waits = followup.Wait{Since: now - 50*Hour, Asked: 1}
	waits := asked
	waits.Waits.Asked = 0
	over = done
	over.Finished = due.At
	back := moved(inbox.Inbox, inbox.Snoozed, 0, now)
	back.Before.SnoozedAt, back.Before.Snoozes = 5, 1
	third := moved(inbox.Inbox, inbox.Snoozed, 0, now)
	third.Before.SnoozedAt, third.Before.Snoozes = 5, 2
	for name, c := range map[string]struct {
		line Line
		want []Tally
	}{
		"archived at first sight": {Line{Kind: inbox.Archive, By: "person", At: now, Since: now - 7_400, Changes: []inbox.Change{moved(inbox.Inbox, inbox.Archived, 1, now-3*Hour)}, Origins: map[string]int{"people": 1}},
			[]Tally{{Decided, "archive", 1}, {Stood, "3h", 1}, {Looked, "", 1}, {AtFirst, "", 1}, {Became, "people archive", 1}, {Took, "archive 7", 1}}},
		"after a pause, at the third sight": {Line{Kind: inbox.ToBin, By: "person", At: now, Since: now - 400_000, Changes: []inbox.Change{moved(inbox.Inbox, inbox.Bin, 3, now-80*Hour)}},
			[]Tally{{Decided, "bin", 1}, {Stood, "3d", 1}, {Looked, "", 3}}},
		"two at once": {Line{Kind: inbox.Archive, By: "person", At: now, Since: now - 7_000, Changes: []inbox.Change{moved(inbox.Inbox, inbox.Archived, 0, now), moved(inbox.Inbox, inbox.Archived, 2, now)}},
			[]Tally{{Decided, "archive", 2}, {Stood, "0h", 2}, {AtFirst, "", 1}, {Looked, "", 2}}},
		"by a rule": {Line{Kind: inbox.ByRule, By: "rule", Ref: 12, At: now, Changes: []inbox.Change{moved(inbox.Inbox, inbox.Archived, 0, now)}},
			[]Tally{{Decided, "rule", 1}, {Stood, "0h", 1}, {Ruled, "12 did", 1}, {Ruled, "12 decided", 1}}},
		"a label by a rule":          {Line{Kind: inbox.ByRule, By: "rule", Ref: 12, At: now}, []Tally{{Ruled, "12 did", 1}}},
		"by a rule, taken back":      {Line{Kind: inbox.ByRule, By: "rule", Ref: 12, At: now, TakenBack: true, Changes: []inbox.Change{moved(inbox.Inbox, inbox.Archived, 0, now)}}, []Tally{{Undone, "rule", 1}, {Ruled, "12 back", 1}}},
		"told of by a rule":          {Line{Kind: inbox.TellOf, By: "rule", Ref: 12}, []Tally{{Ruled, "12 told", 1}}},
		"sent on by a rule":          {Line{Kind: inbox.ForwardTo, By: "rule", Ref: 12}, []Tally{{Ruled, "12 sent", 1}}},
		"answered while held":        {Line{Kind: inbox.AutoAnswer, By: "mail"}, nil},
		"a round":                    {Line{Kind: inbox.Deliver, By: "clock", Count: 2, Besides: map[string]int{HeldFor(5 * Hour): 2, HeldFor(50 * Hour): 1}}, []Tally{{Came, "deliver", 2}, {Held, "5h", 2}, {Held, "2d", 1}}},
		"let through":                {Line{Kind: inbox.Arrive, By: "mail", Count: 3, Besides: map[string]int{LetThroughBy("sender", 0): 1, LetThroughBy("", 12): 2}}, []Tally{{Came, "arrive", 3}, {Through, "sender", 1}, {Through, "rule", 2}, {Ruled, "12 through", 2}}},
		"let in, and taken back":     {Line{Kind: inbox.LetOneIn, By: "person", Count: 1, TakenBack: true, Besides: map[string]int{HeldFor(Hour): 1}}, []Tally{{Undone, "let-in", 1}}},
		"a third time":               {Line{Kind: inbox.Snooze, By: "clock", At: now, Changes: []inbox.Change{third}}, []Tally{{Decided, "snooze", 1}, {Stood, "0h", 1}, {Rested, "again", 1}, {Rested, "often", 1}}},
		"from one place to another":  {Line{Kind: inbox.ToBin, By: "person", At: now, Since: now - 3_000, Changes: []inbox.Change{moved(inbox.Archived, inbox.Bin, 0, now)}}, nil},
		"snoozed":                    {Line{Kind: inbox.Snooze, By: "clock", At: now, Changes: []inbox.Change{moved(inbox.Inbox, inbox.Snoozed, 0, now)}}, []Tally{{Decided, "snooze", 1}, {Stood, "0h", 1}, {Rested, "first", 1}}},
		"and again":                  {Line{Kind: inbox.Snooze, By: "clock", At: now, Changes: []inbox.Change{back}}, []Tally{{Decided, "snooze", 1}, {Stood, "0h", 1}, {Rested, "again", 1}}},
		"taken back":                 {Line{Kind: inbox.Archive, By: "person", At: now, TakenBack: true, Changes: []inbox.Change{moved(inbox.Inbox, inbox.Archived, 1, now)}}, []Tally{{Undone, "archive", 1}}},
		"taking back":                {Line{Kind: inbox.TakeBack, By: "person", At: now, Changes: []inbox.Change{moved(inbox.Archived, inbox.Inbox, 1, now)}}, nil},
		"mail":                       {Line{Kind: inbox.Arrive, By: "mail", Count: 3}, []Tally{{Came, "arrive", 3}}},
		"let in early":               {Line{Kind: inbox.LetAllIn, By: "person", Count: 4}, []Tally{{Came, "let-all-in", 4}, {Early, "let-all-in", 1}}},
		"looked for and not there":   {Line{Kind: inbox.Peek, By: "person"}, []Tally{{Early, "peek", 1}}},
		"sent":                       {Line{Kind: inbox.SendMail, By: "person"}, []Tally{{Sent, "", 1}}},
		"junk that was missed":       {Line{Kind: inbox.ToJunk, By: "person", Count: 1}, []Tally{{JunkMail, "missed", 1}}},
		"junk by a rule":             {Line{Kind: inbox.ToJunk, By: "rule", Count: 1}, nil},
		"made":                       {Line{Kind: inbox.MakeFollowUp, By: "person", Changes: []inbox.Change{{FollowUpAfter: &open}}}, []Tally{{Work, "made", 1}}},
		"moved":                      {Line{Kind: inbox.PutOff, By: "person", Changes: []inbox.Change{{FollowUpBefore: &open, FollowUpAfter: &later}}}, []Tally{{Work, "moved", 1}}},
		"moved nearer":               {Line{Kind: inbox.ChangeFollow, By: "person", Changes: []inbox.Change{{FollowUpBefore: &later, FollowUpAfter: &open}}}, nil},
		"finished late":              {Line{Kind: inbox.FinishFollow, By: "person", At: now, Changes: []inbox.Change{{FollowUpBefore: &open, FollowUpAfter: &done}}}, []Tally{{Work, "late", 1}}},
		"in time":                    {Line{Kind: inbox.FinishFollow, By: "person", At: now, Changes: []inbox.Change{{FollowUpBefore: &open, FollowUpAfter: &over}}}, []Tally{{Work, "in-time", 1}}},
		"finished, and comes again":  {Line{Kind: inbox.FinishFollow, By: "person", At: now - 2*Hour, Changes: []inbox.Change{{FollowUpBefore: &open, FollowUpAfter: &later}}}, []Tally{{Work, "in-time", 1}}},
		"dropped":                    {Line{Kind: inbox.DropFollow, By: "person", Changes: []inbox.Change{{FollowUpBefore: &open, FollowUpAfter: &dropped}}}, []Tally{{Work, "dropped", 1}}},
		"asked again":                {Line{Kind: inbox.WaitFor, By: "clock", Changes: []inbox.Change{{FollowUpBefore: &waits, FollowUpAfter: &asked}}}, []Tally{{Work, "asked", 1}}},
		"answered after two days":    {Line{Kind: inbox.WaitEnded, By: "mail", At: now, Changes: []inbox.Change{{FollowUpBefore: &waits, FollowUpAfter: &open}}}, []Tally{{Waited, "2d", 1}}},
		"a list that was left":       {Line{Kind: inbox.LeaveList, By: "person"}, []Tally{{ListsLeft, "", 1}}},
		"nothing that anybody knows": {Line{Kind: "new", By: "person", Count: 2}, nil},
	} {
		require.ElementsMatch(t, c.want, Tallies(c.line), name)
	}
}

func TestFromWhereItHadCome(t *testing.T) {
	for _, c := range []struct {
		kind   mail.Kind
		reason inbox.Reason
		want   string
	}{{mail.Person, inbox.Arrived, "people"}, {mail.Invitation, inbox.WithRound, "people"}, {mail.List, inbox.Arrived, "lists"}, {mail.Notice, inbox.LetIn, "machines"}, {mail.List, inbox.Back, "back"}, {mail.Person, inbox.AtSite, "back"}} {
		require.Equal(t, c.want, OriginOf(c.kind, c.reason))
	}
}

// However values are given, half of them are at most the median, and no smaller one does.
func TestSpreads(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		values := rapid.SliceOfN(rapid.Int32Range(0, 40), 0, 60).Draw(t, "values")
		by := map[int]int{}
		for _, v := range values {
			by[int(v)]++
		}
		want := Spread{N: len(values)}
		for tenths, is := range map[int]*int{1: &want.Tenth, 5: &want.Median, 9: &want.Ninety} {
			for v := 40; v >= 0; v-- { // the smallest that so many tenths of all are at most
				if n := len(slices.DeleteFunc(slices.Clone(values), func(x int32) bool { return int(x) > v })); n > 0 && 10*n >= tenths*len(values) {
					*is = v
				}
			}
		}
		require.Equal(t, []Spread{want, want}, []Spread{SpreadIn(values), SpreadOf(by)})
	})
}

// What counts come to is what one would say who has all of them before them.
func TestFiguresAgainstASlowReference(t *testing.T) {
	kinds := []string{"archive", "bin", "send"}
	rapid.Check(t, func(t *rapid.T) {
		var counts []Count
		var took []int
		byKind, decided, own, came, hours := map[string][]int{}, map[string]int{}, 0, 0, [7][24]int{}
		for range rapid.IntRange(0, 60).Draw(t, "lines") {
			wall := Wall(rapid.Int64Range(490_000, 490_400).Draw(t, "wall"))
			kind := rapid.SampledFrom(kinds).Draw(t, "kind")
			switch rapid.IntRange(0, 2).Draw(t, "what") {
			case 0:
				s := rapid.IntRange(1, 300).Draw(t, "seconds")
				counts = append(counts, Count{wall, Took, fmt.Sprintf("%s %d", kind, s), "person", 1, 1})
				took, byKind[kind] = append(took, s), append(byKind[kind], s)
			case 1:
				by := rapid.SampledFrom([]string{"person", "rule"}).Draw(t, "by")
				n := rapid.IntRange(1, 4).Draw(t, "n")
				counts = append(counts, Count{wall, Decided, kind, by, 1, n})
				if decided[kind] += n; by == "person" {
					own += n
					at := DateOf(wall.Day())
					hours[at.Weekday()][wall.Hour()] += n
					counts = append(counts, Count{wall, Hours, wall.InWeek(), by, 1, n})
				}
			case 2:
				how := rapid.SampledFrom([]string{"arrive", "import"}).Draw(t, "how")
				if counts = append(counts, Count{wall, Came, how, "mail", 0, 2}); how == "arrive" {
					came += 2
				}
			}
		}
		f := Over(counts)
		plain := func(values []int) Spread {
			sort.Ints(values)
			if len(values) == 0 {
				return Spread{}
			}
			at := func(tenths int) int { return values[(len(values)*tenths+9)/10-1] }
			return Spread{len(values), at(1), at(5), at(9)}
		}
		require.Equal(t, plain(took), f.Took)
		for _, p := range f.Paces {
			require.Equal(t, plain(byKind[p.Sort]), p.Spread)
		}
		sum := 0
		for _, p := range f.Decisions {
			require.Equal(t, decided[p.Sort], p.N)
			sum += p.N
		}
		require.Equal(t, []int{sum, own, came}, []int{f.Decided, f.Own, f.Came})
		require.Equal(t, hours, f.Hours)
		require.True(t, slices.IsSortedFunc(f.Decisions, func(a, b Part) int { return b.N - a.N }))
	})
}

// Working days that ended at zero, and how long they went on: days off break nothing, and are nothing.
func TestDaysThatEndedAtZero(t *testing.T) {
	off := func(day int64) bool { return day%7 >= 5 }
	for name, c := range map[string]struct {
		left string // of each day from 0 on: a digit, or "." where nobody did anything
		want Zeros
	}{
		"none":                     {"", Zeros{}},
		"one":                      {"0", Zeros{1, 1, 1, 1}},
		"a week, and its end":      {"00000..0", Zeros{6, 6, 6, 6}},
		"worked on a day off":      {"0000030", Zeros{5, 5, 5, 5}},
		"broken":                   {"00100", Zeros{4, 5, 2, 2}},
		"a working day of nothing": {"00.00", Zeros{4, 5, 2, 2}},
	} {
		var evenings []Evening
		for i, r := range c.left {
			if r != '.' {
				evenings = append(evenings, Evening{int64(i), int(r - '0')})
			}
		}
		require.Equal(t, c.want, ZerosOf(evenings, 0, int64(len(c.left)), off), name)
	}
}

// How many were left at some instants is what one comes to who goes back step by step for each of them.
func TestHowManyWereLeft(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var steps []Step
		left := 0
		for range rapid.IntRange(0, 20).Draw(t, "steps") {
			d := rapid.IntRange(-min(left, 2), 3).Draw(t, "delta")
			left += d
			at := when.Instant(0)
			if len(steps) > 0 {
				at = steps[len(steps)-1].At
			}
			steps = append(steps, Step{at + when.Instant(rapid.IntRange(0, 3).Draw(t, "later")), d})
		}
		at := rapid.SliceOfN(rapid.Custom(func(t *rapid.T) when.Instant { return when.Instant(rapid.IntRange(0, 70).Draw(t, "at")) }), 1, 8).Draw(t, "instants")
		slices.Sort(at)
		for i, n := range LeftAt(steps, left, at) {
			want := left
			for _, s := range steps {
				if s.At > at[i] {
					want -= s.Delta
				}
			}
			require.Equal(t, want, n)
		}
	})
	require.Equal(t, []int{2, 5}, Middle([][]int{{1, 5}, {2, 9}, {3, 5}}))
}
