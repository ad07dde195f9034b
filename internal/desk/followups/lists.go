package followups

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/membership"
)

// The sizes of lists of follow-ups: how many groups come with their first
// follow-ups, how many those are, and how many more come at once.
const (
	groupsLoaded  = 6
	followUpsEach = 20
	followUpsMore = 100
	daysShown     = 14
)

// List gives the open follow-ups, arranged and filtered as asked, with the
// load of the coming days.
func (d *Desk) List(ctx context.Context, who identity.Who, a FollowUpsAsked) (l FollowUpList, err error) {
	a.By = arrangedBy(who, a.By)
	l.By = a.By
	err = d.viewing(ctx, who, func(v viewer) error {
		if err := v.days(&l, a.Filter); err != nil {
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

// arrangedBy is by what follow-ups are arranged that are asked for so: by date where that is nothing
// there is, and one's own by nobody who has them.
func arrangedBy(who identity.Who, by followup.By) followup.By {
	if !slices.Contains(followup.Bys, by) || by == followup.ByOwner && who.Team == 0 {
		return followup.ByDate
	}
	return by
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

// Page gives more of a group of follow-ups.
func (d *Desk) Page(ctx context.Context, who identity.Who, a FollowUpsAsked, key, after string) (g FollowUpGroup, err error) {
	from, err := positionIn(after)
	if err != nil {
		return g, err
	}
	a.By = arrangedBy(who, a.By)
	g = FollowUpGroup{Key: key, Loaded: true, FollowUps: []FollowUpView{}}
	err = d.viewing(ctx, who, func(v viewer) error {
		var rows []store.FollowUp
		if a.By == followup.ByStage && v.set.Stage(key).Means == followup.Done {
			rows, err = store.FollowUps(v.t).FinishedFollowUps(who.Box, v.weekStart(), followup.Ever, from, followUpsMore)
		} else {
			uids := v.shelf.Page(a.By, key, a.Filter, v.span(a.Filter), v.bounds, v.live, followup.Shelved{UID: from.UID, Due: from.At}, followUpsMore)
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

// groups sorts the follow-ups by what they are arranged by.
func (v viewer) groups(a FollowUpsAsked) (groups []FollowUpGroup, err error) {
	for key, lot := range v.shelf.Arrange(a.By, a.Filter, v.span(a.Filter), v.bounds, v.live, followUpsEach) {
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
			if s.Means == followup.Done && a.Filter == (search.Query{}) {
				lot := &followup.Lot{Key: s.ID}
				if lot.Count, err = store.FollowUps(v.t).CountFinished(v.who.Box, v.weekStart(), followup.Ever); err != nil {
					return nil, err
				}
				rows, err := store.FollowUps(v.t).FinishedFollowUps(v.who.Box, v.weekStart(), followup.Ever, store.After{}, followUpsEach)
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
	case followup.ByOwner:
		if err := v.owners(add); err != nil {
			return nil, err
		}
		if err := v.gauge(groups, a.Filter); err != nil {
			return nil, err
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

// owners adds the groups of a team: what nobody has, what whoever looks has, what each of the others
// has, and what those have who are of the team no more.
func (v viewer) owners(add func(key, name string)) error {
	members, err := membership.Membership(v.t).Fellows(v.who.Box)
	if err != nil {
		return err
	}
	key := func(person int64) string { return strconv.FormatInt(person, 10) }
	add(key(0), "Nobody’s yet")
	add(key(v.who.Person), "Mine")
	in := map[string]bool{key(0): true, key(v.who.Person): true}
	for _, m := range members {
		if !in[key(m.PersonID)] {
			in[key(m.PersonID)] = true
			add(key(m.PersonID), m.Name)
		}
	}
	for _, k := range slices.Sorted(maps.Keys(v.lots)) {
		if !in[k] {
			add(k, "Somebody who left")
		}
	}
	return nil
}

// DueOn is what is due on a day: how much that is open, and the first of it.
type DueOn struct {
	Open int
	Due  []FollowUpView
}

// OnDays gives what is due on each of the days that begin at starts, of which the
// last only ends the one before: up to most follow-ups for each.
func (d *Desk) OnDays(ctx context.Context, who identity.Who, starts []when.Instant, most int) (days []DueOn, err error) {
	err = d.viewing(ctx, who, func(v viewer) error {
		heaps, _ := v.shelf.Heaps(search.Query{}, starts)
		days = make([]DueOn, len(starts)-1)
		for i := range days {
			days[i].Open = heaps[i+1].Open
			if days[i].Due, err = v.list(search.Query{}, followup.Span{From: max(starts[i], 1), To: starts[i+1]}, most); err != nil {
				return err
			}
		}
		return nil
	})
	return days, err
}

func (v viewer) weekStart() when.Instant {
	loc := v.who.Week.Location()
	return when.DayStart(v.now, loc, -(int(v.now.In(loc).Weekday()+6) % 7))
}

// One gives one follow-up. Where its conversation is not known, it is
// looked for by the Message-ID it names (RFC 2392).
func (d *Desk) One(ctx context.Context, who identity.Who, uid string) (v FollowUpView, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		row, err := store.FollowUps(t).FollowUpByUID(who.Box, uid)
		if err != nil {
			return err
		}
		if row.ConversationID == 0 && row.Data.Message != "" {
			m, err := store.Messages(t).ByMessageID(who.Box, row.Data.Message)
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
// that a filter finds.
func (d *Desk) OneByOne(ctx context.Context, who identity.Who, n search.Query) (views []FollowUpView, err error) {
	err = d.viewing(ctx, who, func(v viewer) error {
		span := v.span(n)
		if n == (search.Query{}) {
			span = followup.Span{From: 1, To: v.bounds.Today}
		}
		views, err = v.list(n, span, oneByOne)
		return err
	})
	return views, err
}
