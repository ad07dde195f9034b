package desk

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/deliveries"
	"ebbe/internal/desk/figures"
	"ebbe/internal/store"
	"ebbe/internal/store/counting"
)

// done is something that somebody did, as one would note it with a pencil.
type done struct {
	at    time.Time
	kind  inbox.Kind
	after time.Duration // what was done before; 0: nothing was
	looks int
	stood time.Duration
	back  bool // it was taken back
	left  int  // after it
}

// pencil has noted a year.
type pencil struct {
	done []done
	came map[string]int // by date
}

func dateIn(t time.Time) string { return t.Format(time.DateOnly) }

// between is what the notes of the days from one to another come to.
func (p pencil) between(from, to string) (is, came int, kinds map[inbox.Kind]int, took []int, looks, first, undone int) {
	kinds = map[inbox.Kind]int{}
	for _, d := range p.done {
		switch date := dateIn(d.at); {
		case date < from || date > to:
		case d.back:
			undone++
		default:
			is++
			kinds[d.kind]++
			looks += d.looks
			if d.looks <= 1 {
				first++
			}
			if s := int(d.after / time.Second); s > 0 && s <= 300 {
				took = append(took, s)
			}
		}
	}
	for date, n := range p.came {
		if date >= from && date <= to {
			came += n
		}
	}
	return is, came, kinds, took, looks, first, undone
}

// aYear is a year of somebody who decides on most days, also in the nights in which clocks are moved.
func (f *office) aYear(t *testing.T) (p pencil) {
	r := rand.New(rand.NewPCG(7, 22))
	loc := f.who.Week.Location()
	p.came = map[string]int{}
	in := map[int64]time.Time{} // what lies in the inbox, and since when
	looked := map[int64]int{}
	letters := 0
	for day := time.Date(2026, 1, 5, 0, 0, 0, 0, loc); day.Before(time.Date(2027, 1, 5, 0, 0, 0, 0, loc)); day = day.AddDate(0, 0, 1) {
		moved := day.Day() >= 25 && day.Weekday() == time.Sunday && (day.Month() == time.March || day.Month() == time.October)
		if !moved && (r.IntN(3) == 0 || !f.who.Week.Works(day.Weekday()) && r.IntN(4) > 0) {
			continue
		}
		f.clock.t = time.Date(day.Year(), day.Month(), day.Day(), 7+r.IntN(4), r.IntN(60), 0, 0, loc)
		if moved {
			f.clock.t = time.Date(day.Year(), day.Month(), day.Day(), 1, 40, 0, 0, loc)
		}
		var raws []string
		for range 1 + r.IntN(3) {
			letters++
			raws = append(raws, f.letter(fmt.Sprintf("%d@x", letters), fmt.Sprintf("P%d <p%d@l.example>", letters%7, letters%7), fmt.Sprintf("Letter %d", letters)))
		}
		f.arrive(t, raws...)
		p.came[dateIn(f.clock.t.In(loc))] += len(raws)
		for _, s := range f.queue(t) {
			if _, known := in[s.ID]; !known {
				in[s.ID] = f.clock.t
			}
		}
		for _, id := range slices.Sorted(maps.Keys(in)) {
			f.clock.t = f.clock.t.Add(time.Duration(1+r.IntN(400)) * time.Second)
			for range r.IntN(3) {
				looked[id]++
				f.decide(t, inbox.Look, decide.Decision{Conversations: []int64{id}})
			}
			kind := []inbox.Kind{inbox.Archive, inbox.ToBin, inbox.Archive, ""}[r.IntN(4)]
			if kind == "" {
				break // the rest is left for another day
			}
			d := done{at: f.clock.t.In(loc), kind: kind, looks: looked[id], stood: f.clock.t.Sub(in[id])}
			for _, before := range p.done {
				if !before.back {
					d.after = d.at.Sub(before.at)
				}
			}
			f.decide(t, kind, decide.Decision{Conversations: []int64{id}})
			if d.back = r.IntN(9) == 0; d.back {
				_, err := f.Journal.TakeBack(ctx, f.who, "")
				require.NoError(t, err)
			} else {
				delete(in, id)
			}
			d.left = len(in)
			if p.done = append(p.done, d); d.back {
				break // it has been looked at, and is for another day
			}
		}
	}
	return p
}

// Each number of a year is what one comes to by the notes of a pencil, and opens to as many as it counts;
// a change of the clock adds no hour and loses none.
func TestAYearOfNumbers(t *testing.T) {
	f := newOffice(t, store.Options{})
	p := f.aYear(t)
	f.sound(t) // the running numbers are what all lines come to
	require.Greater(t, len(p.done), 250)
	week := func(from time.Time) (string, string) { return dateIn(from), dateIn(from.AddDate(0, 0, 6)) }
	stretches := [][2]string{{"2026-01-05", "2027-01-04"}, {"2026-01-05", "2026-01-05"}, {"2026-03-29", "2026-03-29"}, {"2026-10-25", "2026-10-25"}}
	for at := time.Date(2026, 1, 5, 0, 0, 0, 0, time.UTC); at.Year() == 2026; at = at.AddDate(0, 0, 7) {
		from, to := week(at)
		stretches = append(stretches, [2]string{from, to})
	}
	evenings := map[string]int{}
	for _, d := range p.done {
		evenings[dateIn(d.at)] = d.left
	}
	for _, s := range stretches {
		v, err := f.Figures.Overview(ctx, f.who, s[0], s[1])
		require.NoError(t, err)
		is, came, kinds, took, looks, first, undone := p.between(s[0], s[1])
		require.Equal(t, []int{is, came, looks, first, undone, len(took)}, []int{v.Is.Decided, v.Is.Came, v.Is.Looks, v.Is.AtFirst, v.Is.Undone, v.Is.Took.N}, s)
		slices.Sort(took)
		if n := len(took); n > 0 {
			require.Equal(t, []int{took[(n*5+9)/10-1], took[(n*9+9)/10-1]}, []int{v.Is.Took.Median, v.Is.Took.Ninety}, s)
		}
		require.Len(t, v.Is.Decisions, len(kinds))
		for _, k := range v.Is.Decisions {
			require.Equal(t, kinds[inbox.Kind(k.Sort)], k.N, s)
			require.Equal(t, k.N, f.opens(t, figures.Asked{Measure: numbers.Decided, Details: []string{k.Sort}, From: s[0], To: s[1], Weekday: -1, Hour: -1}), "it opens to what it counts")
		}
		zero, of := 0, 0
		for _, d := range v.Days {
			left, acted := evenings[d.Date]
			require.Equal(t, []any{left, acted}, []any{d.Left, d.Acted}, d.Date)
			if !d.Off && (d.Date != v.Today || acted && left == 0) { // today is not over
				if of++; acted && left == 0 {
					zero++
				}
			}
		}
		require.Equal(t, []int{zero, of}, []int{v.Zeros.Days, v.Zeros.Of}, s)
		for _, d := range v.Shells { // also of what comes after the stretch in its last week
			left, acted := evenings[d.Date]
			require.Equal(t, []any{left, acted}, []any{d.Left, d.Acted}, d.Date)
		}
	}
	v, err := f.Figures.Overview(ctx, f.who, "2026-01-05", "2027-01-04")
	require.NoError(t, err)
	sum := 0
	for day, hours := range v.Is.Hours {
		for hour, n := range hours {
			if sum += n; n > 0 {
				require.Equal(t, n, f.opens(t, figures.Asked{Measure: numbers.Decided, By: "person", From: v.From, To: v.To, Weekday: day, Hour: hour}))
			}
		}
	}
	require.Equal(t, v.Is.Own, sum)
	sum = 0
	for _, b := range v.Is.Became {
		sum += b.N
	}
	require.Equal(t, v.Is.Decided, sum, "all of it came from somewhere and became something")
	require.Equal(t, v.Is.Stood.N, v.Is.Decided)
}

// opens counts what a number opens to, page by page.
func (f *office) opens(t testing.TB, q figures.Asked) (n int) {
	t.Helper()
	for {
		page, err := f.Figures.Lines(ctx, f.who, q)
		require.NoError(t, err)
		for _, l := range page.Lines {
			n += l.N
		}
		if q.Before = page.Next; page.Next == 0 {
			return n
		}
	}
}

// What was done before numbers were made is counted afterwards, a piece at a time, to the same; a
// program that stops in the middle goes on.
func TestWhatWasDoneBeforeIsCounted(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.aYear(t)
	all := func() figures.FiguresView {
		t.Helper()
		v, err := f.Figures.Overview(ctx, f.who, "2026-01-05", "2027-01-04")
		require.NoError(t, err)
		return v
	}
	was := all()
	raw := f.raw(t)
	for _, q := range []string{"UPDATE entries SET wall = 0, since = 0, origins = NULL", "DELETE FROM hour_tallies", "DELETE FROM day_tallies", "DELETE FROM month_tallies", "DELETE FROM evenings"} {
		_, err := raw.Exec(q)
		require.NoError(t, err)
	}
	require.True(t, all().Counting)
	_, err := f.Journal.TakeBack(ctx, f.who, "") // what is not counted yet
	require.NoError(t, err)
	_, err = f.Journal.Again(ctx, f.who, "")
	require.NoError(t, err)
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.NoError(t, f.store.Write(ctx, func(tx store.Tx) error {
		var w counting.Walk
		done, err := w.Go(tx, f.who.Box, 100)
		require.False(t, done)
		return err
	}))
	f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{f.queue(t)[0].ID}}) // meanwhile
	f.Figures.CountOlder(ctx)
	f.sound(t)
	is := all()
	require.False(t, is.Counting)
	require.Equal(t, was.Is.Decided, is.Is.Decided, "one less, and one more")
	require.Equal(t, was.Is.Came, is.Is.Came)
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	f.sound(t)
}

// A day on which one was away at midday breaks no run.
func TestDaysAwayBreakNothing(t *testing.T) {
	f := newOffice(t, store.Options{})
	zero := func(date string) {
		t.Helper()
		f.until(t, date+" 10:00")
		f.arrive(t, f.letter(date+"@x", "Halvard <halvard@l.example>", "Loan "+date))
		f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{f.queue(t)[0].ID}})
	}
	zero("2026-11-23")
	f.until(t, "2026-11-23 18:00")
	_, err := f.Delivery.Hold(ctx, f.who, delivery.Hand{Mode: delivery.ModeHold, Away: true, Until: when.Moment{At: f.Now() + 38*numbers.Hour}})
	require.NoError(t, err)
	zero("2026-11-25")
	v, err := f.Figures.Overview(ctx, f.who, "2026-11-23", "2026-11-25")
	require.NoError(t, err)
	require.Equal(t, numbers.Zeros{Days: 2, Of: 2, Run: 2, Longest: 2}, v.Zeros)
	require.True(t, v.Days[1].Off)
	_, err = f.Delivery.Hold(ctx, f.who, delivery.Hand{Mode: delivery.ModeHold, Away: true})
	require.NoError(t, err)
	f.until(t, "2026-11-26 09:00")
	_, err = f.Delivery.Hold(ctx, f.who, delivery.Hand{})
	require.NoError(t, err)
	f.until(t, "2026-11-26 19:00")
	v, err = f.Figures.Overview(ctx, f.who, "2026-11-23", "2026-11-26")
	require.NoError(t, err)
	require.False(t, v.Days[3].Off, "back before midday")
	require.NoError(t, f.Delivery.Choose(ctx, f.who, deliveries.DeliveryChoices{Notify: delivery.Usual().Notify}))
}

// How a day went stands beside how such days usually go.
func TestADayBesideTheUsual(t *testing.T) {
	f := newOffice(t, store.Options{})
	for _, date := range []string{"2026-11-03", "2026-11-10", "2026-11-17", "2026-11-24"} { // Tuesdays
		f.until(t, date+" 09:10")
		for i := range 3 {
			f.arrive(t, f.letter(fmt.Sprintf("%s-%d@x", date, i), "Halvard <halvard@l.example>", fmt.Sprintf("Loan %s %d", date, i)))
		}
		f.until(t, date+" 11:10")
		if date == "2026-11-24" {
			break
		}
		for _, s := range f.queue(t) {
			f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{s.ID}})
		}
	}
	v, err := f.Figures.Day(ctx, f.who, "2026-11-24")
	require.NoError(t, err)
	require.Equal(t, 3, v.Weeks)
	require.Equal(t, []int{0, 3, 3, 0}, []int{v.Usual[17], v.Usual[18], v.Usual[20], v.Usual[22]}, "at 9:00, 9:30, 10:30 and 11:30")
	require.Equal(t, 3, v.Is[len(v.Is)-1])
	require.Len(t, v.Is, 23, "as far as it has come")
}
