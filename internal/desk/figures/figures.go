// Package figures is what one's own past comes to, of the running numbers: for the reader alone, and of
// a team its sums. Each number can be opened to the lines of the journal that it counts.
package figures

import (
	"context"
	"fmt"
	"log/slog"
	"slices"
	"time"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/learned"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/counting"
	"ebbe/internal/store/membership"
	"ebbe/internal/store/ruling"
	"ebbe/internal/store/weighing"
)

const (
	longestStretch = 366 // days
	linesOfPage    = 100
	atOnce         = 500 // lines that are counted anew in one go
	shellWeeks     = 5   // whose evenings are shown
	usualWeeks     = 8   // of which a usual day is made
)

// Desk is where numbers are looked at.
type Desk struct {
	Journal *journal.Journal

	store  *store.Store
	habits learned.Daily[habits]
	kept   ledgers
}

// New makes a desk over a store.
func New(s *store.Store, j *journal.Journal) *Desk { return &Desk{Journal: j, store: s} }

// Run counts what was written before numbers were made of it, if anything was, and keeps until the
// context ends what is known of answers.
func (d *Desk) Run(ctx context.Context) {
	d.CountOlder(ctx)
	d.keepSettled(ctx)
}

// CountOlder counts what was written before numbers were made of it.
func (d *Desk) CountOlder(ctx context.Context) {
	var boxes []int64
	err := d.store.Read(ctx, func(t store.Tx) (err error) { boxes, err = counting.Counted(t).Uncounted(); return err })
	if err != nil && ctx.Err() == nil {
		slog.Error("what was done before numbers were made of it could not be counted; that is tried again at the next start", "error", err)
	}
	for _, box := range boxes { // one that cannot be counted stops no other
		var err error
		var w counting.Walk
		for done := false; !done && err == nil && ctx.Err() == nil; {
			next := w
			err = d.store.Write(ctx, func(t store.Tx) (err error) {
				next = w.Clone()
				done, err = next.Go(t, box, atOnce)
				return err
			})
			w = next
		}
		if err != nil && ctx.Err() == nil {
			slog.Error("what was done in a box before numbers were made of it could not be counted; that is tried again at the next start", "box", box, "error", err)
		}
	}
}

// stretch reads two dates as days, the second of which is the last.
func stretch(from, to string) (first, end int64, err error) {
	a, errA := time.Parse(time.DateOnly, from)
	b, errB := time.Parse(time.DateOnly, to)
	first, end = numbers.DayOf(a.Date()), numbers.DayOf(b.Date())+1
	switch {
	case errA != nil || errB != nil:
		return 0, 0, problem.Invalid("from", "Numbers are of dates, such as 2026-11-24, and one of these is none.")
	case end <= first:
		return 0, 0, problem.Invalid("to", "The last day lies before the first.")
	case end-first > longestStretch:
		return 0, 0, problem.Invalid("to", fmt.Sprintf("Numbers are shown of %d days at most.", longestStretch))
	}
	return first, end, nil
}

func dateOf(day int64) string { return numbers.DateOf(day).Format(time.DateOnly) }

// may says whether somebody sees the numbers of the box they are in: their own, and of a team its sums.
func may(who identity.Who) error {
	if who.Team == 0 {
		return nil
	}
	return who.May(together.Gauge)
}

// Overview gives what the days from one date to another come to.
func (d *Desk) Overview(ctx context.Context, who identity.Who, from, to string) (v FiguresView, err error) {
	if err := may(who); err != nil {
		return v, err
	}
	first, end, err := stretch(from, to)
	if err != nil {
		return v, err
	}
	now, loc := d.Journal.Now(), who.Week.Location()
	today := numbers.WallOf(now, loc).Day()
	v = FiguresView{From: from, To: to, Today: dateOf(today), Days: []DayView{}, Sittings: []SittingFigures{}, Team: who.Team != 0, Unowned: []int{}, Loads: []MemberLoad{}}
	err = d.store.Read(ctx, func(t store.Tx) error {
		c := counting.Counted(t)
		counts, err := c.ByDay(who.Box, first, end)
		if err != nil {
			return err
		}
		sums, err := c.Sums(who.Box, first, end, append([]numbers.Measure{numbers.Hours}, numbers.Measures...)...)
		if err != nil {
			return err
		}
		before, err := c.Sums(who.Box, 2*first-end, first, numbers.Rough...)
		if err != nil {
			return err
		}
		v.Is, v.Before = numbers.Over(sums), numbers.Over(before)
		var ruled []int64
		for _, r := range v.Is.Rules {
			ruled = append(ruled, r.Rule)
		}
		if v.Rules, err = ruling.Rules(t).Names(who.Box, ruled); err != nil {
			return err
		}
		begun, known, err := c.First(who.Box)
		if err != nil {
			return err
		}
		if known {
			v.First, v.Known = dateOf(begun), begun <= 2*first-end
		}
		if v.Counting, err = c.Counting(who.Box); err != nil {
			return err
		}
		week := numbers.WallOf(when.Of(who.Week.StartOfWeek(instantOf(end-1, loc).In(loc))), loc).Day()
		off, err := d.off(t, who, end-longestStretch, week+7)
		if err != nil {
			return err
		}
		evenings, err := c.Evenings(who.Box, end-longestStretch, week+7) // the rest of the week of its last day, too
		if err != nil {
			return err
		}
		left := map[int64]int{}
		for _, e := range evenings {
			left[e.Day] = e.Left
		}
		over := min(end, today+1) // what is still to come is no day that did not end at zero
		if n, acted := left[today]; over == today+1 && (!acted || n > 0) {
			over = today // nor is today, as long as it lasts
		}
		v.Zeros = numbers.ZerosOf(evenings, max(first, begun), over, off)
		v.Run = numbers.ZerosOf(evenings, max(end-longestStretch, begun), over, off)
		v.Days = daysOf(counts, left, first, min(end, today+1), off)
		v.Shells = daysOf(nil, left, week-7*(shellWeeks-1), week+7, off)
		a, b := instantOf(first, loc), instantOf(end, loc)
		if who.Team != 0 {
			return d.ofTeam(t, who, &v)
		}
		if v.Sittings, err = sittings(t, who, a, b); err != nil {
			return err
		}
		shown := weighing.Readings(t)
		if v.Is.Notices, err = shown.NoticesIn(who.Person, a, b); err != nil {
			return err
		}
		v.Before.Notices, err = shown.NoticesIn(who.Person, instantOf(2*first-end, loc), a)
		return err
	})
	return v, err
}

// Notices gives the notifications that the reader was shown from one date to another, wherever they were
// about; before is the one that the page before ended with, or 0.
func (d *Desk) Notices(ctx context.Context, who identity.Who, from, to string, before int64) (v NoticesPage, err error) {
	v.Lines = []NoticeLine{}
	if who.Team != 0 {
		return v, problem.Invalid("box", "Which notifications one was shown is one’s own: look at it in your own box.")
	}
	first, end, err := stretch(from, to)
	if err != nil {
		return v, err
	}
	loc := who.Week.Location()
	err = d.store.Read(ctx, func(t store.Tx) error {
		rows, err := weighing.Readings(t).NoticesBack(who.Person, instantOf(first, loc), instantOf(end, loc), before, linesOfPage+1)
		if len(rows) > linesOfPage {
			rows = rows[:linesOfPage]
			v.Next = rows[linesOfPage-1].ID
		}
		for _, n := range rows {
			v.Lines = append(v.Lines, NoticeLine{n.ID, n.At, n.Text})
		}
		return err
	})
	return v, err
}

// ofTeam is what only a team has numbers of: what nobody has, and what each has to do today. There are no
// others of anybody by themselves.
func (d *Desk) ofTeam(t store.Tx, who identity.Who, v *FiguresView) (err error) {
	now, loc := d.Journal.Now(), who.Week.Location()
	if v.Unowned, err = counting.Answers(t).UnownedAges(who.Box, ageBounds(now, loc)); err != nil {
		return err
	}
	shares, err := counting.Answers(t).Shares(who.Box, when.DayStart(now, loc, 1))
	if err != nil {
		return err
	}
	past, err := membership.Membership(t).Finished(who.Box, when.DayStart(now, loc, -7*followup.LearnWeeks), when.DayStart(now, loc, 0))
	if err != nil {
		return err
	}
	weekday := now.In(loc).Weekday()
	for _, s := range shares {
		usual := followup.LearnPace(past[s.Person], now, who.Week).Minutes[weekday]
		v.Loads = append(v.Loads, MemberLoad{s.Name, s.Open, s.Minutes, usual})
	}
	return nil
}

// instantOf is when a day began in a zone.
func instantOf(day int64, loc *time.Location) when.Instant {
	return when.At(numbers.DateOf(day), 0, loc)
}

// off says of the days [from, to) which are no working days: by the reader's week, or as they were away
// at midday.
func (d *Desk) off(t store.Tx, who identity.Who, from, to int64) (func(day int64) bool, error) {
	loc := who.Week.Location()
	aways, err := counting.Counted(t).Aways(who.Box, instantOf(from, loc), instantOf(to, loc))
	return func(day int64) bool {
		if !who.Week.Works(numbers.DateOf(day).Weekday()) {
			return true
		}
		if len(aways) == 0 {
			return false
		}
		at := when.At(numbers.DateOf(day), who.Week.Midday, loc)
		return slices.ContainsFunc(aways, func(a counting.Away) bool { return a.Begun <= at && (a.Until == 0 || a.Until > at) })
	}, err
}

// daysOf are the days [from, to), each with what came and was decided.
func daysOf(counts []numbers.Count, left map[int64]int, from, to int64, off func(int64) bool) []DayView {
	out := []DayView{}
	by := map[int64]*DayView{}
	for day := from; day < to; day++ {
		n, acted := left[day]
		out = append(out, DayView{Date: dateOf(day), Left: n, Acted: acted, Off: off(day)})
	}
	for i := range out {
		by[from+int64(i)] = &out[i]
	}
	for _, c := range counts {
		v := by[c.Wall.Day()]
		switch {
		case v == nil:
		case c.Measure == numbers.Came:
			v.Came += c.N
		case c.Measure == numbers.Decided:
			v.Decided += c.N
		}
	}
	return out
}

// sittings are those of the reader that began in [from, to).
func sittings(t store.Tx, who identity.Who, from, to when.Instant) ([]SittingFigures, error) {
	rows, err := counting.Sittings(t).Between(who.Box, who.Person, from, to)
	out := []SittingFigures{}
	for _, s := range rows {
		if s.Steps == 0 {
			continue
		}
		end := s.Last
		if s.Ended != 0 {
			end = min(end, s.Ended)
		}
		out = append(out, SittingFigures{Begun: s.Begun, Minutes: int((max(end-s.Begun, 0) + 59_999) / 60_000), Decided: s.Steps, Interrupted: s.Interrupted})
	}
	return out, err
}

// Asked is a number whose lines are wanted.
type Asked struct {
	Measure numbers.Measure
	Details []string // any of these; none: all
	By      string   // "": whoever did it
	From    string   // a date
	To      string   // the last date
	Weekday int      // 0 is Sunday; -1: any
	Hour    int      // of the day; -1: any
	Before  int64    // the line that the page before ended with; 0: none
}

// Lines gives the lines of the journal that a number counts, with how much each does.
func (d *Desk) Lines(ctx context.Context, who identity.Who, q Asked) (v Counted, err error) {
	if err := may(who); err != nil {
		return v, err
	}
	v.Lines = []CountedLine{}
	first, end, err := stretch(q.From, q.To)
	if err != nil {
		return v, err
	}
	if !slices.Contains(numbers.Measures, q.Measure) || q.Hour >= 0 && !q.Measure.ByHour() {
		return v, problem.Invalid("measure", "Ebbe keeps no such number.")
	}
	counts := func(e store.Entry) (n int) {
		wall := e.Wall
		if q.By != "" && string(e.Actor) != q.By || q.Hour >= 0 && wall.Hour() != q.Hour || q.Weekday >= 0 && int(numbers.DateOf(wall.Day()).Weekday()) != q.Weekday {
			return 0
		}
		for _, c := range numbers.Tallies(e.Line()) {
			if c.Measure == q.Measure && (len(q.Details) == 0 || slices.Contains(q.Details, c.Detail) || c.Measure == numbers.Took && slices.Contains(q.Details, numbers.SortOf(c.Detail))) {
				n += c.N
			}
		}
		return n
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		entries, more, err := counting.Counted(t).Lines(who.Box, counting.Wanted{Measure: q.Measure, Details: q.Details, By: q.By, From: first, To: end, Weekday: q.Weekday, Hour: q.Hour, Before: q.Before, Counts: counts}, linesOfPage)
		for _, e := range entries {
			v.Lines = append(v.Lines, CountedLine{e.ID, e.At, e.Actor, e.Kind, e.Text, e.ConversationID, counts(e)})
		}
		if more && len(entries) > 0 {
			v.Next = entries[len(entries)-1].ID
		}
		return err
	})
	return v, err
}

// Day gives how many were left to decide in the course of a day, and usually are on such a day.
func (d *Desk) Day(ctx context.Context, who identity.Who, date string) (v DayCurve, err error) {
	if err := may(who); err != nil {
		return v, err
	}
	day, _, err := stretch(date, date)
	if err != nil {
		return v, err
	}
	now, loc := d.Journal.Now(), who.Week.Location()
	v = DayCurve{Date: date, Is: []int{}, Usual: []int{}}
	err = d.store.Read(ctx, func(t store.Tx) error {
		from := instantOf(day-7*usualWeeks, loc)
		steps, err := counting.Counted(t).Steps(who.Box, from, now)
		if err != nil {
			return err
		}
		left, err := store.Conversations(t).Left(who.Box)
		if err != nil {
			return err
		}
		first, known, err := counting.Counted(t).First(who.Box)
		if err != nil {
			return err
		}
		halves := func(day int64) (at []when.Instant) {
			for i := range 48 {
				at = append(at, instantOf(day, loc)+when.Instant(i+1)*numbers.Hour/2)
			}
			return at
		}
		var past [][]int
		for w := int64(1); w <= usualWeeks && known && day-7*w >= first; w++ {
			past = append(past, numbers.LeftAt(steps, left, halves(day-7*w)))
		}
		for i, n := range numbers.LeftAt(steps, left, halves(day)) {
			if halves(day)[i] <= now+numbers.Hour/2 {
				v.Is = append(v.Is, n)
			}
		}
		if v.Weeks = len(past); v.Weeks >= 3 {
			v.Usual = numbers.Middle(past)
		}
		return nil
	})
	return v, err
}
