package followups

import (
	"cmp"
	"context"
	"slices"
	"strconv"
	"sync"
	"time"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/store"
	"ebbe/internal/store/membership"
)

// shelf is the open follow-ups of a box as of a revision, with those that were
// shown lately, and the names a line can use.
type shelf struct {
	sync.Mutex
	followup.Shelf
	rev   int64
	rows  map[string]store.FollowUp
	known followup.Known
	named time.Time // when these names were read
}

// viewer lists follow-ups.
type viewer struct {
	d      *Desk
	t      store.Tx
	who    identity.Who
	set    followup.Settings
	now    when.Instant
	bounds followup.Bounds
	shelf  *shelf
	labels []store.Label
	live   map[int64]bool // labels that are not deleted
	lots   map[string]*followup.Lot
	pace   followup.Pace
}

// viewing lets f look at the follow-ups of a box as they stand. One looks at a
// time, and begins to read once the one before has ended: so what is kept at hand
// never comes from before what is known of already.
func (d *Desk) viewing(ctx context.Context, who identity.Who, f func(viewer) error) error {
	now := d.Journal.Now()
	s := d.shelfOf(who.Box)
	s.Lock()
	defer s.Unlock()
	return d.store.Read(ctx, func(t store.Tx) error {
		p, err := store.People(t).PersonByID(who.Keeper())
		if err != nil {
			return err
		}
		labels, err := store.Labels(t).Labels(who.Box, false)
		if err != nil {
			return err
		}
		v := viewer{d: d, t: t, who: who, set: p.FollowUp, now: now, bounds: followup.BoundsAt(now, who.Week), shelf: s, labels: labels, live: map[int64]bool{}, lots: map[string]*followup.Lot{}}
		for _, l := range labels {
			v.live[l.ID] = true
		}
		if v.pace, err = d.pace(t, who); err != nil {
			return err
		}
		if err := s.catchUp(t, who.Box); err != nil {
			return err
		}
		return f(v)
	})
}

// shelfOf is the shelf of a box.
func (d *Desk) shelfOf(box int64) *shelf {
	d.shelves.Lock()
	defer d.shelves.Unlock()
	if d.shelves.by == nil {
		d.shelves.by = map[int64]*shelf{}
	}
	if d.shelves.by[box] == nil {
		d.shelves.by[box] = &shelf{}
	}
	return d.shelves.by[box]
}

// catchUp brings the shelf up to what is stored.
func (s *shelf) catchUp(t store.Tx, box int64) error {
	open, gone, rev, err := store.FollowUps(t).Shelf(box, s.rev)
	if err != nil {
		return err
	}
	if s.rev == 0 {
		s.Fill(open)
	} else {
		for _, uid := range gone {
			s.Drop(uid)
			delete(s.rows, uid)
		}
		for _, e := range open {
			s.Put(e)
			delete(s.rows, e.UID)
		}
		if len(open) > 0 {
			s.named = time.Time{} // it may have brought a new project
		}
	}
	s.rev = rev
	return nil
}

// rowsKept is how many follow-ups that were shown are kept at hand.
const rowsKept = 2000

// rows loads follow-ups in the order of the UIDs, those that are not at hand.
func (v viewer) rows(uids []string) (rows []store.FollowUp, err error) {
	var missing []string
	for _, uid := range uids {
		if _, ok := v.shelf.rows[uid]; !ok {
			missing = append(missing, uid)
		}
	}
	loaded, err := store.FollowUps(v.t).FollowUpRows(v.who.Box, missing)
	if err != nil {
		return nil, err
	}
	if v.shelf.rows == nil || len(v.shelf.rows) > rowsKept {
		v.shelf.rows = map[string]store.FollowUp{}
		if len(missing) < len(uids) { // what was at hand has just been put away
			loaded, err = store.FollowUps(v.t).FollowUpRows(v.who.Box, uids)
		}
	}
	for _, r := range loaded {
		v.shelf.rows[r.UID] = r
	}
	for _, uid := range uids {
		if r, ok := v.shelf.rows[uid]; ok {
			rows = append(rows, r)
		}
	}
	return rows, err
}

// span is the stretch of due times to which n filters.
func (v viewer) span(n search.Query) (s followup.Span) {
	if n.Group != "" {
		s.From, s.To = v.bounds.Span(followup.Group(n.Group))
	}
	if day, err := time.Parse("2006-01-02", n.Day); err == nil {
		loc := v.who.Week.Location()
		s.From, s.To = max(when.At(day, 0, loc), 1), when.At(day.AddDate(0, 0, 1), 0, loc)
	}
	return s
}

// days lays out the load of the coming days, filtered by all but the day.
func (v viewer) days(l *FollowUpList, n search.Query) error {
	loc := v.who.Week.Location()
	bounds := []when.Instant{v.now}
	for i := 1; i <= daysShown; i++ {
		bounds = append(bounds, when.DayStart(v.now, loc, i))
	}
	heaps, undated := v.shelf.Heaps(n, bounds)
	open, minutes := map[int]int{}, map[int]int{}
	for i := range daysShown {
		open[i], minutes[i] = heaps[i+1].Open, heaps[i+1].Load
	}
	l.Days, l.Weeks = v.pace.Days(daysShown, open, minutes, v.who.Week, v.now), v.pace.Weeks
	l.Late, l.Later, l.NoDate = heaps[0], heaps[daysShown+1], undated
	return nil
}

// pace is what the user usually finishes on each weekday, learned anew each day.
func (d *Desk) pace(t store.Tx, who identity.Who) (followup.Pace, error) {
	now, loc := d.Journal.Now(), who.Week.Location()
	today := when.DayStart(now, loc, 0)
	return d.paces.Of(who.Box, today, func() (p followup.Pace, err error) {
		past, err := store.FollowUps(t).PastFollowUps(who.Box, when.DayStart(now, loc, -7*followup.LearnWeeks), today)
		if err != nil {
			return p, err
		}
		return followup.LearnPace(past, now, who.Week), nil
	})
}

// ofTheirs is what each of a team usually finishes of its follow-ups on each weekday, by the week of
// whoever looks; learned anew each day.
func (d *Desk) ofTheirs(t store.Tx, who identity.Who) (map[int64]followup.Pace, error) {
	now, loc := d.Journal.Now(), who.Week.Location()
	today := when.DayStart(now, loc, 0)
	return d.theirs.Of(who.Box, today, func() (map[int64]followup.Pace, error) {
		past, err := membership.Membership(t).Finished(who.Box, when.DayStart(now, loc, -7*followup.LearnWeeks), today)
		paces := map[int64]followup.Pace{}
		for person, done := range past {
			paces[person] = followup.LearnPace(done, now, who.Week)
		}
		return paces, err
	})
}

// gauge says of the groups of owners how much of it is due by the end of today, against what each
// usually finishes on such a day.
func (v viewer) gauge(groups []FollowUpGroup, n search.Query) error {
	if v.who.May(together.Gauge) != nil {
		return nil
	}
	loc := v.who.Week.Location()
	paces, err := v.d.ofTheirs(v.t, v.who)
	if err != nil {
		return err
	}
	owed := v.shelf.Owed(n, when.DayStart(v.now, loc, 1))
	for i := range groups {
		g := &groups[i]
		person, _ := strconv.ParseInt(g.Key, 10, 64)
		if person == 0 {
			continue
		}
		pace, known := paces[person]
		if !known {
			pace = followup.LearnPace(nil, v.now, v.who.Week)
		}
		usual := pace.Minutes[v.now.In(loc).Weekday()]
		g.Today = &Gauged{Heap: owed[person], Usual: usual, Weeks: pace.Weeks, Over: owed[person].Load > usual}
	}
	return nil
}

// list gives up to n follow-ups in the order of their due times.
func (v viewer) list(n search.Query, span followup.Span, most int) ([]FollowUpView, error) {
	rows, err := v.rows(v.shelf.List(n, span, most))
	if err != nil {
		return nil, err
	}
	return v.d.followUpViews(v.t, v.who, rows)
}

func (d *Desk) followUpViews(t store.Tx, who identity.Who, rows []store.FollowUp) ([]FollowUpView, error) {
	var ids []int64
	for _, r := range rows {
		if r.ConversationID != 0 {
			ids = append(ids, r.ConversationID)
		}
	}
	slices.Sort(ids)
	conversations, err := store.Conversations(t).Names(who.Box, slices.Compact(ids))
	views := make([]FollowUpView, len(rows))
	for i, r := range rows {
		views[i].FollowUp = r.Data
		if r.Data.Repeat != nil {
			views[i].Repeats = r.Data.Repeat.Say(who.Week)
		}
		views[i].Asking = followup.SayAsking(r.Data)
		c, ok := conversations[r.ConversationID]
		if ok {
			views[i].From, views[i].Subject = mail.Address{Name: c.FromName, Address: c.FromAddr}.Short(), cmp.Or(c.Title, c.Subject)
		}
		views[i].Gone = r.ConversationID != 0 && (!ok || c.Place == inbox.Bin)
	}
	return views, err
}
