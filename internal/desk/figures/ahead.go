package figures

import (
	"context"
	"math"
	"slices"
	"time"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/calendars"
	"ebbe/internal/identity"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/counting"
)

const (
	daysAhead   = 42 // six weeks
	learnedDays = 28 // of which it is learned what days are like
	mostFree    = 42 // days that can be taken off in thought
)

// habits is what is learned of the reader's past once a day.
type habits struct {
	days   numbers.Days
	room   followup.Pace
	proofs numbers.Proofs
}

// learn reads it out of sixteen weeks.
func (d *Desk) learn(t store.Tx, who identity.Who) (habits, error) {
	now, loc := d.Journal.Now(), who.Week.Location()
	today := when.DayStart(now, loc, 0)
	return d.habits.Of(who.Box, today, func() (h habits, err error) {
		from := when.DayStart(now, loc, -2*numbers.ProvedDays)
		c := counting.Counted(t)
		past := numbers.Past{Week: who.Week}
		if past.Flow, err = c.Flow(who.Box, from, today); err != nil {
			return h, err
		}
		if past.Steps, err = c.Steps(who.Box, from, now); err != nil {
			return h, err
		}
		if past.Back, err = c.Returned(who.Box, from, now); err != nil {
			return h, err
		}
		if past.Left, err = store.Conversations(t).Left(who.Box); err != nil {
			return h, err
		}
		if past.Done, err = store.FollowUps(t).PastFollowUps(who.Box, from, today); err != nil {
			return h, err
		}
		arrived, err := c.Arrivals(who.Box, from, today)
		if err != nil {
			return h, err
		}
		past.Came = func(from, to when.Instant) (n float64) {
			for _, at := range arrived {
				first, _ := slices.BinarySearch(at, from)
				end, _ := slices.BinarySearch(at, to)
				n += float64(end - first)
			}
			return n
		}
		past.Expect = func(from, to, seen when.Instant) (n float64, known bool) {
			for stream := range arrived {
				e := arrived.Expect(stream, from, to, seen, loc)
				n, known = n+e.Mean, known || e.Known()
			}
			return n, known
		}
		h.proofs = numbers.Prove(past, now)
		day := numbers.WallOf(now, loc).Day()
		counts, err := c.Daily(who.Box, day-learnedDays, day)
		if err != nil {
			return h, err
		}
		h.days = numbers.DaysOf(counts, day-learnedDays, day, who.Week.Works)
		h.room = followup.LearnPace(past.Done, now, who.Week)
		return h, nil
	})
}

// Forget lets what was learned of the past be learned anew.
func (d *Desk) Forget() { d.habits.Forget() }

// Ahead gives what falls on each of the coming six weeks' days, and what would be left of it if some of
// them were taken off.
func (d *Desk) Ahead(ctx context.Context, who identity.Who, off []string) (v AheadView, err error) {
	if err := may(who); err != nil {
		return v, err
	}
	if len(off) > mostFree {
		return v, problem.Invalid("off", "More days off than there are in six weeks cannot be tried.")
	}
	now, loc := d.Journal.Now(), who.Week.Location()
	today := numbers.WallOf(now, loc).Day()
	free := map[int64]bool{}
	for _, date := range off {
		at, err := time.Parse(time.DateOnly, date)
		if err != nil {
			return v, problem.Invalid("off", "Days that are taken off are dates, such as 2026-11-27, and one of these is none.")
		}
		free[numbers.DayOf(at.Date())] = true
	}
	v = AheadView{Days: []AheadDay{}, Off: []string{}}
	err = d.store.Read(ctx, func(t store.Tx) error {
		h, err := d.learn(t, who)
		if err != nil {
			return err
		}
		v.Learned, v.Weeks, v.Proofs = h.days.Known, h.room.Weeks, h.proofs
		days, late, err := d.falls(t, who, h, today)
		if err != nil {
			return err
		}
		if v.Left, err = store.Conversations(t).Left(who.Box); err != nil {
			return err
		}
		v.Late = late
		without := numbers.LookAhead(days, v.Left, late)
		for i := range days {
			if free[days[i].Day] && !days[i].Off {
				days[i].Off = true
				v.Off = append(v.Off, dateOf(days[i].Day))
			}
		}
		with := numbers.LookAhead(days, v.Left, late)
		for i, w := range without {
			v.Days = append(v.Days, AheadDay{Date: dateOf(w.Day), Off: w.Off, Free: with[i].Off && !w.Off, Mail: round(w.Mail), Back: w.Back, Pace: round(w.Pace),
				Due: w.Due, Events: w.Events, Room: w.Room, Left: round(w.Left), Over: w.Over, LeftThen: round(with[i].Left), OverThen: with[i].Over})
		}
		if day, ok := numbers.CaughtUp(without, with); ok && len(v.Off) > 0 {
			v.CaughtUp = dateOf(day)
		}
		bounds := ageBounds(now, loc)
		if v.Inbox, err = counting.Answers(t).InboxAges(who.Box, bounds); err != nil {
			return err
		}
		v.Open, err = counting.Answers(t).OpenAges(who.Box, bounds)
		return err
	})
	return v, err
}

func round(n float64) int { return int(math.Round(n)) }

// falls is what falls on each day from today on: as much of today as is still to come. late is how many
// minutes of follow-ups are late.
func (d *Desk) falls(t store.Tx, who identity.Who, h habits, today int64) (days []numbers.Ahead, late int, err error) {
	now, loc := d.Journal.Now(), who.Week.Location()
	off, err := d.off(t, who, today, today+daysAhead)
	if err != nil {
		return nil, 0, err
	}
	end := instantOf(today+daysAhead, loc)
	for i := range int64(daysAhead) {
		date := numbers.DateOf(today + i)
		a := numbers.Ahead{Day: today + i, Off: off(today + i), Work: who.Week.Evening - who.Week.Morning, Room: h.room.Minutes[date.Weekday()], Mail: h.days.Mail[date.Weekday()]}
		if a.Pace = h.days.Pace[0]; who.Week.Works(date.Weekday()) {
			a.Pace = h.days.Pace[1]
		}
		days = append(days, a)
	}
	// Of today what is still to come counts, and the pace as far as it is not used up.
	passed := float64(now-instantOf(today, loc)) / float64(instantOf(today+1, loc)-instantOf(today, loc))
	days[0].Mail *= 1 - passed
	done, err := counting.Counted(t).Decided(who.Box, instantOf(today, loc), now)
	if err != nil {
		return nil, 0, err
	}
	for _, n := range done {
		days[0].Pace -= float64(n)
	}
	days[0].Pace = max(0, days[0].Pace)
	at := func(instant when.Instant) *numbers.Ahead {
		i := numbers.WallOf(instant, loc).Day() - today
		return &days[min(max(i, 0), daysAhead-1)]
	}
	back, _, err := store.Agenda(t).Returns(who.Box, now, end)
	if err != nil {
		return nil, 0, err
	}
	for _, b := range back {
		at(b).Back++
	}
	due, err := counting.Answers(t).DueLoads(who.Box, end)
	if err != nil {
		return nil, 0, err
	}
	for _, f := range due {
		if f.DueAt < now {
			late += f.Minutes
		} else {
			at(f.DueAt).Due += f.Minutes
		}
	}
	slots, err := calendars.SlotsOf(t, who, instantOf(today, loc), end)
	if err != nil {
		return nil, 0, err
	}
	for i := range days {
		date := numbers.DateOf(days[i].Day)
		from, until := when.At(date, who.Week.Morning, loc), when.At(date, who.Week.Evening, loc)
		var spans [][2]when.Instant
		for _, s := range slots {
			if a, b := max(s.From, from), min(s.To, until); a < b {
				spans = append(spans, [2]when.Instant{a, b})
			}
		}
		days[i].Events = minutes(united(spans))
	}
	return days, late, nil
}

// united is how long spans are that may overlap.
func united(spans [][2]when.Instant) (sum when.Instant) {
	slices.SortFunc(spans, func(a, b [2]when.Instant) int { return int(a[0] - b[0]) })
	end := when.Instant(0)
	for _, s := range spans {
		if from := max(s[0], end); from < s[1] {
			sum += s[1] - from
			end = s[1]
		}
	}
	return sum
}

// ageBounds are the instants between the groups of ages: what is of today, of the three days before, of a
// week, of four, of thirteen, and older.
func ageBounds(now when.Instant, loc *time.Location) (out []when.Instant) {
	for _, days := range []int{0, -3, -7, -28, -91} {
		out = append(out, when.DayStart(now, loc, days))
	}
	return out
}

// mostAged is how many lines of an age are given.
const mostAged = 500

// Aged gives what is of an age: of the inbox, of "open" follow-ups, or of what is "unowned" in a team, by the
// group in which it is counted.
func (d *Desk) Aged(ctx context.Context, who identity.Who, of string, group int) (v AgedView, err error) {
	if err := may(who); err != nil {
		return v, err
	}
	bounds := ageBounds(d.Journal.Now(), who.Week.Location())
	if group < 0 || group > len(bounds) {
		return v, problem.Invalid("group", "Ebbe keeps no such number.")
	}
	from, to := when.Instant(math.MinInt64), when.Instant(math.MaxInt64)
	if group > 0 {
		to = bounds[group-1]
	}
	if group < len(bounds) {
		from = bounds[group]
	}
	v.Lines = []AgedLine{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		get := counting.Answers(t).AgedInbox
		switch {
		case of == "open":
			get = counting.Answers(t).AgedOpen
		case of == "unowned" && who.Team != 0:
			get = counting.Answers(t).AgedUnowned
		}
		rows, err := get(who.Box, from, to, mostAged+1)
		if len(rows) > mostAged {
			rows, v.More = rows[:mostAged], true
		}
		for _, r := range rows {
			v.Lines = append(v.Lines, AgedLine{r.ConversationID, r.UID, r.Title, r.Since})
		}
		return err
	})
	return v, err
}
