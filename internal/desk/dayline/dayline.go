package dayline

import (
	"context"
	"math"
	"slices"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/deliveries"
	"ebbe/internal/identity"
	"ebbe/internal/store"
	"ebbe/internal/store/counting"
	"ebbe/internal/store/ruling"
	"ebbe/internal/store/sending"
	"ebbe/internal/store/telling"
)

// Today gives the course of the day so far, what is foreseen for the rest of
// it, and what comes of it.
func (d *Desk) Today(ctx context.Context, who identity.Who) (l Dayline, err error) {
	now, loc := d.Journal.Now(), who.Week.Location()
	hour := numbers.Hour
	start, end := when.DayStart(now, loc, 0), when.DayStart(now, loc, 1)
	l.Now, l.From, l.To = now, max(start, min(start+6*hour, now-hour/2)), min(end, max(start+22*hour, now+hour/2))
	err = d.store.Read(ctx, func(t store.Tx) error {
		if l.Left, err = store.Conversations(t).Left(who.Box); err != nil {
			return err
		}
		steps, err := counting.Counted(t).Steps(who.Box, l.From, now)
		if err != nil {
			return err
		}
		l.Curve = numbers.Curve(steps, l.From, now, l.Left, hour/30)
		back, due, err := store.Agenda(t).Returns(who.Box, now, end)
		if err != nil {
			return err
		}
		l.Back, l.Due = marks(back), marks(due)
		p, err := store.People(t).PersonByID(who.Keeper())
		if err != nil {
			return err
		}
		l.Delivery = d.Delivery.Standing(who, p.Delivery)
		if l.Delivery.Held, err = deliveries.Held(t, who.Box, p.Delivery); err != nil {
			return err
		}
		people, machines := p.Delivery.Course(delivery.StreamPeople, l.From, l.To, loc), p.Delivery.Course(delivery.StreamMachines, l.From, l.To, loc)
		l.Bands = people.Pieces
		l.Rounds = append(append([]when.Instant{}, people.Rounds...), machines.Rounds...)
		slices.Sort(l.Rounds)
		l.Rounds = slices.Compact(l.Rounds)
		in, err := d.Delivery.Inflow(t, who, p.Delivery, l.To)
		if err != nil {
			return err
		}
		habit, err := d.habit(t, who)
		if err != nil {
			return err
		}
		if l.Learned = habit.Days; l.Learned >= fewestDays {
			slots := numbers.Foresee(habit, l.Left, in, back, now, l.To, loc, who.Week.Works)
			l.Zero = numbers.Zero(slots, l.Left)
			l.Forecast = append(l.Forecast, numbers.Point{At: now, Left: l.Left})
			for _, s := range slots {
				l.Forecast = append(l.Forecast, numbers.Point{At: s.At, Left: int(math.Round(s.Left))})
			}
		}
		if l.Later, err = store.Conversations(t).CountPlace(who.Box, inbox.Snoozed); err != nil {
			return err
		}
		if l.FollowUps, err = store.FollowUps(t).CountFollowUps(who.Box, 1, end); err != nil {
			return err
		}
		if l.Waiting, err = store.FollowUps(t).CountWaiting(who.Box); err != nil {
			return err
		}
		offers, err := ruling.Rules(t).Offers(who.Box, 5)
		if err != nil {
			return err
		}
		l.Offers = len(offers)
		if l.Junk, err = store.Conversations(t).CountPlace(who.Box, inbox.Junk); err != nil {
			return err
		}
		told, err := telling.Facts(t).Open(who.Box, now)
		if err != nil {
			return err
		}
		l.Told = len(told)
		if l.Lists, err = store.Lists(t).Counted(who.Box, who.Person); err != nil {
			return err
		}
		if last := p.Delivery.Review.Last(now, loc); last > 0 && who.Team == 0 {
			looked, err := counting.Reviews(t).Looked(who.Box, who.Person)
			if err != nil {
				return err
			}
			l.Review = looked < last
		}
		l.Stuck, err = sending.Outbox(t).CountStuck(who.Box)
		return err
	})
	return l, err
}

// fewestDays is from how many days of mail a forecast is made.
const fewestDays = 7

// habit is what the days of the user are like. It is learned
// anew each day, and after an import.
func (d *Desk) habit(t store.Tx, who identity.Who) (numbers.Habit, error) {
	now, loc := d.Journal.Now(), who.Week.Location()
	today := when.DayStart(now, loc, 0)
	return d.habits.Of(who.Box, today, func() (h numbers.Habit, err error) {
		flow, err := counting.Counted(t).Flow(who.Box, numbers.LearnedSince(now, loc), today)
		if err != nil {
			return h, err
		}
		return numbers.Learn(flow, now, loc, who.Week.Works), nil
	})
}

// Misses says by how much the forecasts of the past four weeks would have been
// wrong, had they been made at this time of their day.
func (d *Desk) Misses(ctx context.Context, who identity.Who) (m numbers.Miss, err error) {
	now, loc := d.Journal.Now(), who.Week.Location()
	from := when.DayStart(now, loc, -2*28)
	err = d.store.Read(ctx, func(t store.Tx) error {
		left, err := store.Conversations(t).Left(who.Box)
		if err != nil {
			return err
		}
		flow, err := counting.Counted(t).Flow(who.Box, from, now)
		if err != nil {
			return err
		}
		steps, err := counting.Counted(t).Steps(who.Box, from, now)
		if err != nil {
			return err
		}
		back, err := counting.Counted(t).Returned(who.Box, from, now)
		if err != nil {
			return err
		}
		m = numbers.Misses(flow, steps, back, left, now, loc, who.Week.Works)
		return nil
	})
	return m, err
}

// marks gathers times into one mark for each quarter of an hour.
func marks(times []when.Instant) []Tick {
	const quarter = when.Instant(900_000)
	out, at := []Tick{}, map[when.Instant]int{}
	for _, t := range times {
		slot := t / quarter
		if i, ok := at[slot]; ok {
			out[i].Count++
			continue
		}
		at[slot] = len(out)
		out = append(out, Tick{t, 1})
	}
	return out
}

// Tide gives what was decided today, without what was taken back, and what
// comes next.
func (d *Desk) Tide(ctx context.Context, who identity.Who) (tide Tide, err error) {
	now, loc := d.Journal.Now(), who.Week.Location()
	err = d.store.Read(ctx, func(t store.Tx) error {
		if tide.ByKind, err = counting.Counted(t).Decided(who.Box, when.DayStart(now, loc, 0), now); err != nil {
			return err
		}
		for _, n := range tide.ByKind {
			tide.Decided += n
		}
		if tide.Left, err = store.Conversations(t).Left(who.Box); err != nil {
			return err
		}
		if tide.Later, err = store.Conversations(t).CountPlace(who.Box, inbox.Snoozed); err != nil {
			return err
		}
		if tide.NextBack, err = store.Agenda(t).NextReturn(who.Box); err != nil {
			return err
		}
		p, err := store.People(t).PersonByID(who.Keeper())
		if err != nil {
			return err
		}
		if st := p.Delivery.Stands(delivery.StreamPeople, now, loc); st.State != delivery.StateOpen {
			tide.NextMail = st.Next.At
		}
		tide.DueToday, err = store.FollowUps(t).CountFollowUps(who.Box, 1, when.DayStart(now, loc, 1))
		return err
	})
	return tide, err
}

// Days gives what falls on each of the coming n days, from today.
func (d *Desk) Days(ctx context.Context, who identity.Who, n int) (days []DayLoad, err error) {
	now, loc := d.Journal.Now(), who.Week.Location()
	for i := range n {
		days = append(days, DayLoad{Start: when.DayStart(now, loc, i)})
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		back, due, err := store.Agenda(t).Returns(who.Box, days[0].Start, when.DayStart(now, loc, n))
		count := func(times []when.Instant, into func(*DayLoad) *int) {
			for _, at := range times {
				i, found := slices.BinarySearchFunc(days, at, func(d DayLoad, at when.Instant) int { return int(d.Start - at) })
				if !found {
					i--
				}
				*into(&days[max(i, 0)])++
			}
		}
		count(back, func(l *DayLoad) *int { return &l.Back })
		count(due, func(l *DayLoad) *int { return &l.Due })
		return err
	})
	return days, err
}
