package desk

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// The sizes of lists of follow-ups: how many groups come with their first
// follow-ups, how many those are, and how many more come at once.
const (
	groupsLoaded  = 6
	followUpsEach = 20
	followUpsMore = 100
	daysShown     = 14
)

// FollowUps gives the open follow-ups, arranged and narrowed as asked, with the
// load of the coming days.
func (d *Desk) FollowUps(ctx context.Context, who identity.Who, a FollowUpsAsked) (l FollowUpList, err error) {
	if !slices.Contains(followup.Bys, a.By) {
		a.By = followup.ByDate
	}
	l.By = a.By
	err = d.viewing(ctx, who, func(v viewer) error {
		if err := v.days(&l, a.Narrow); err != nil {
			return err
		}
		if l.Groups, err = v.groups(a); err != nil {
			return err
		}
		var uids []string
		loaded := 0
		for i := range l.Groups {
			g := &l.Groups[i]
			if l.Total += g.Count; g.Count > 0 && loaded < groupsLoaded {
				loaded++
				g.Loaded = true
				uids = append(uids, v.lots[g.Key].UIDs...)
			}
			g.Loaded = g.Loaded || g.Count == 0
		}
		rows, err := v.rows(uids)
		if err != nil {
			return err
		}
		views, err := d.followUpViews(v.t, who, rows)
		if err != nil {
			return err
		}
		byUID := map[string]FollowUpView{}
		for _, x := range views {
			byUID[x.UID] = x
		}
		for i := range l.Groups {
			g := &l.Groups[i]
			g.FollowUps = []FollowUpView{}
			if !g.Loaded || g.Count == 0 {
				continue
			}
			for _, uid := range v.lots[g.Key].UIDs {
				if x, ok := byUID[uid]; ok {
					g.FollowUps = append(g.FollowUps, x)
				}
			}
			if n := len(g.FollowUps); n > 0 && n < g.Count {
				g.Next = positionOf(g.FollowUps[n-1])
			}
		}
		return nil
	})
	return l, err
}

// positionOf is the position in a list after f: of a finished one by when it
// was.
func positionOf(f FollowUpView) string {
	if !f.Open() {
		return fmt.Sprintf("%d %s", f.Finished, f.UID)
	}
	return fmt.Sprintf("%d %s", f.Due.At, f.UID)
}

// positionIn reads a position; the zero one is the beginning.
func positionIn(text string) (a store.After, err error) {
	if text == "" {
		return a, nil
	}
	at, uid, ok := strings.Cut(text, " ")
	ms, err := strconv.ParseInt(at, 10, 64)
	if !ok || err != nil {
		return a, problem.Invalid("after", "That is no position in this list. Start again from the top.")
	}
	return store.After{At: when.Instant(ms), UID: uid}, nil
}

// FollowUpPage gives more of a group of follow-ups.
func (d *Desk) FollowUpPage(ctx context.Context, who identity.Who, a FollowUpsAsked, key, after string) (g FollowUpGroup, err error) {
	from, err := positionIn(after)
	if err != nil {
		return g, err
	}
	g = FollowUpGroup{Key: key, Loaded: true, FollowUps: []FollowUpView{}}
	err = d.viewing(ctx, who, func(v viewer) error {
		var rows []store.FollowUp
		if a.By == followup.ByStage && v.set.Stage(key).Means == followup.Done {
			rows, err = v.t.FinishedFollowUps(who.Box, v.weekStart(), followup.Ever, from, followUpsMore)
		} else {
			uids := v.shelf.Page(a.By, key, a.Narrow, v.span(a.Narrow), v.bounds, v.live, followup.Entry{UID: from.UID, Due: from.At}, followUpsMore)
			rows, err = v.rows(uids)
		}
		if err != nil {
			return err
		}
		if g.FollowUps, err = d.followUpViews(v.t, who, rows); err == nil && len(rows) == followUpsMore {
			g.Next = positionOf(g.FollowUps[len(rows)-1])
		}
		return err
	})
	return g, err
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

// viewing lets f look at the follow-ups of a box as they stand.
func (d *Desk) viewing(ctx context.Context, who identity.Who, f func(viewer) error) error {
	now := d.now()
	return d.store.Read(ctx, func(t store.Tx) error {
		p, err := t.PersonByID(who.Person)
		if err != nil {
			return err
		}
		labels, err := t.Labels(who.Box, false)
		if err != nil {
			return err
		}
		v := viewer{d: d, t: t, who: who, set: p.FollowUp, now: now, bounds: followup.BoundsAt(now, who.Week.Location()), labels: labels, live: map[int64]bool{}, lots: map[string]*followup.Lot{}}
		for _, l := range labels {
			v.live[l.ID] = true
		}
		pace, err := d.pace(t, who)
		if err != nil {
			return err
		}
		v.pace = pace
		d.shelves.Lock()
		defer d.shelves.Unlock()
		if v.shelf, err = d.shelfOf(t, who.Box); err != nil {
			return err
		}
		return f(v)
	})
}

// shelfOf is the shelf of a box, brought up to what is stored.
func (d *Desk) shelfOf(t store.Tx, box int64) (*shelf, error) {
	if d.shelves.by == nil {
		d.shelves.by = map[int64]*shelf{}
	}
	s := d.shelves.by[box]
	if s == nil {
		s = &shelf{}
	}
	open, gone, rev, err := t.Shelf(box, s.rev)
	if err != nil {
		return nil, err
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
	s.rev = max(rev, s.rev)
	d.shelves.by[box] = s
	return s, nil
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
	loaded, err := v.t.FollowUpRows(v.who.Box, missing)
	if err != nil {
		return nil, err
	}
	if v.shelf.rows == nil || len(v.shelf.rows) > rowsKept {
		v.shelf.rows = map[string]store.FollowUp{}
		if len(missing) < len(uids) { // what was at hand has just been put away
			loaded, err = v.t.FollowUpRows(v.who.Box, uids)
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

// span is the stretch of due times to which n narrows.
func (v viewer) span(n followup.Narrow) (s followup.Span) {
	if n.Group != "" {
		s.From, s.To = v.bounds.Span(n.Group)
	}
	if day, err := time.Parse("2006-01-02", n.Day); err == nil {
		loc := v.who.Week.Location()
		s.From, s.To = max(when.At(day, 0, loc), 1), when.At(day.AddDate(0, 0, 1), 0, loc)
	}
	return s
}

// days lays out the load of the coming days, narrowed by all but the day.
func (v viewer) days(l *FollowUpList, n followup.Narrow) error {
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
	now, loc := d.now(), who.Week.Location()
	today := when.DayStart(now, loc, 0)
	return d.paces.Of(who.Box, today, func() (p followup.Pace, err error) {
		past, err := t.PastFollowUps(who.Box, when.DayStart(now, loc, -7*followup.LearnWeeks), today)
		if err != nil {
			return p, err
		}
		return followup.LearnPace(past, now, who.Week), nil
	})
}

// groups sorts the follow-ups by what they are arranged by.
func (v viewer) groups(a FollowUpsAsked) (groups []FollowUpGroup, err error) {
	for key, lot := range v.shelf.Arrange(a.By, a.Narrow, v.span(a.Narrow), v.bounds, v.live, followUpsEach) {
		v.lots[key] = lot
	}
	add := func(key, name string) {
		g := FollowUpGroup{Key: key, Name: name}
		if lot := v.lots[key]; lot != nil {
			g.Count = lot.Count
		}
		groups = append(groups, g)
	}
	switch a.By {
	case followup.ByDate:
		for _, g := range followup.Groups {
			add(string(g), "")
		}
	case followup.ByStage:
		for _, s := range v.set.Stages {
			if s.Means == followup.Done && a.Narrow == (followup.Narrow{}) {
				lot := &followup.Lot{Key: s.ID}
				if lot.Count, err = v.t.CountFinished(v.who.Box, v.weekStart(), followup.Ever); err != nil {
					return nil, err
				}
				rows, err := v.t.FinishedFollowUps(v.who.Box, v.weekStart(), followup.Ever, store.After{}, followUpsEach)
				if err != nil {
					return nil, err
				}
				if v.shelf.rows == nil {
					v.shelf.rows = map[string]store.FollowUp{}
				}
				for _, r := range rows {
					lot.UIDs = append(lot.UIDs, r.UID)
					v.shelf.rows[r.UID] = r
				}
				v.lots[s.ID] = lot
			}
			add(s.ID, s.Name)
		}
	case followup.ByPriority:
		for _, p := range followup.Priorities {
			add(strconv.Itoa(int(p)), p.Name())
		}
	default:
		var all []*followup.Lot
		for _, lot := range v.lots {
			all = append(all, lot)
		}
		none := func(l *followup.Lot) bool { return l.Key == "" || a.By == followup.ByLabel && l.Key == "0" }
		slices.SortFunc(all, func(x, y *followup.Lot) int {
			if none(x) != none(y) { // what has none comes last
				return map[bool]int{true: 1, false: -1}[none(x)]
			}
			if a.By == followup.ByPerson {
				return cmp.Or(cmp.Compare(y.Count, x.Count), cmp.Compare(x.Key, y.Key))
			}
			return cmp.Or(strings.Compare(strings.ToLower(x.Name), strings.ToLower(y.Name)), cmp.Compare(x.Key, y.Key))
		})
		for _, lot := range all {
			add(lot.Key, lot.Name)
		}
	}
	return groups, nil
}

func (v viewer) weekStart() when.Instant {
	loc := v.who.Week.Location()
	return when.DayStart(v.now, loc, -(int(v.now.In(loc).Weekday()+6) % 7))
}

// list gives up to n follow-ups in the order of their due times.
func (v viewer) list(n followup.Narrow, span followup.Span, most int) ([]FollowUpView, error) {
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
	conversations, err := t.Names(who.Box, slices.Compact(ids))
	views := make([]FollowUpView, len(rows))
	for i, r := range rows {
		views[i].FollowUp = r.Data
		if r.Data.Repeat != nil {
			views[i].Repeats = r.Data.Repeat.Say(who.Week)
		}
		c, ok := conversations[r.ConversationID]
		if ok {
			views[i].From, views[i].Subject = mail.Address{Name: c.FromName, Address: c.FromAddr}.Short(), cmp.Or(c.Title, c.Subject)
		}
		views[i].Gone = r.ConversationID != 0 && (!ok || c.Place == inbox.Bin)
	}
	return views, err
}

// FollowUp gives one follow-up. Where its conversation is not known, it is
// looked for by the Message-ID it names (RFC 2392).
func (d *Desk) FollowUp(ctx context.Context, who identity.Who, uid string) (v FollowUpView, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		row, err := t.FollowUpByUID(who.Box, uid)
		if err != nil {
			return err
		}
		if row.ConversationID == 0 && row.Data.Message != "" {
			m, err := t.ByMessageID(who.Box, row.Data.Message)
			if err != nil && !errors.Is(err, store.ErrNotFound) {
				return err
			}
			row.ConversationID, row.Data.Conversation = m.ConversationID, m.ConversationID
		}
		views, err := d.followUpViews(t, who, []store.FollowUp{row})
		if err == nil {
			v = views[0]
		}
		return err
	})
	return v, err
}

// oneByOne is how many follow-ups are gone through at once.
const oneByOne = 500

// OneByOne gives the follow-ups to go through: those due today or late, or all
// that a narrowing finds.
func (d *Desk) OneByOne(ctx context.Context, who identity.Who, n followup.Narrow) (views []FollowUpView, err error) {
	err = d.viewing(ctx, who, func(v viewer) error {
		span := v.span(n)
		if n == (followup.Narrow{}) {
			span = followup.Span{From: 1, To: v.bounds.Today}
		}
		views, err = v.list(n, span, oneByOne)
		return err
	})
	return views, err
}
