package queue

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"ebbe/internal/core/search"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/ruling"
)

// listed is how many slips of a saved list are shown.
const listed, mostCounted = 30, 1000

// SavedLists gives the lists of the user, those not folded with their first
// slips.
func (d *Desk) SavedLists(ctx context.Context, who identity.Who) (out []SavedList, err error) {
	out = []SavedList{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		lists, err := store.Lists(t).SavedLists(who.Box, who.Person)
		if err != nil {
			return err
		}
		for _, l := range lists {
			v := SavedList{ID: l.ID, Name: l.Name, Query: l.Query, Folded: l.Folded, Counted: l.Counted, Asked: l.Asked, Rank: l.Rank, Slips: []Slip{}}
			if v.Count, err = store.Search(t).Count(who.Box, who.Person, l.Query, mostCounted); err != nil {
				return err
			}
			if !l.Folded {
				rows, err := store.Search(t).Found(who.Box, who.Person, l.Query, nil, listed)
				if err != nil {
					return err
				}
				if v.Slips, err = SlipsOf(t, who, rows, d.Journal.Now()); err != nil {
					return err
				}
			}
			out = append(out, v)
		}
		return nil
	})
	return out, err
}

// maxLists is how many lists somebody can keep in view, and maxCounted how many of them on
// the rail.
const maxLists, maxCounted = 20, 3

// PutSavedList stores a list, new (with ID 0) or changed.
func (d *Desk) PutSavedList(ctx context.Context, who identity.Who, key string, v SavedList) error {
	if err := search.Named(v.Name, v.Query); err != nil {
		return problem.Invalid("name", "The list was not kept: "+err.Error()+".")
	}
	_, _, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (done struct{}, err error) {
		lists, err := store.Lists(t).SavedLists(who.Box, who.Person)
		if err != nil {
			return done, err
		}
		known := slices.ContainsFunc(lists, func(l store.SavedList) bool { return l.ID == v.ID })
		switch {
		case v.ID != 0 && !known:
			return done, store.ErrNotFound
		case v.ID == 0 && len(lists) >= maxLists:
			return done, problem.Invalid("name", fmt.Sprintf("The list was not kept: there are %d already. Delete one first.", maxLists))
		case v.ID == 0:
			v.Rank = len(lists)
		}
		counted := 0
		for _, l := range lists {
			if l.Counted && l.ID != v.ID {
				counted++
			}
		}
		if v.Counted && counted >= maxCounted {
			return done, problem.Invalid("counted", fmt.Sprintf("There is room for %d lists on the rail. Take another one off it first; nothing was changed.", maxCounted))
		}
		if len(v.Asked) > search.MaxAsked {
			v.Asked = ""
		}
		return done, store.Lists(t).PutSavedList(&store.SavedList{ID: v.ID, PersonID: who.Person, BoxID: who.Box, Name: strings.TrimSpace(v.Name), Query: v.Query, Folded: v.Folded, Counted: v.Counted, Asked: v.Asked, Rank: v.Rank})
	})
	return d.Journal.Announced(who.Box, journal.TopicLabels, err)
}

// DropSavedList deletes a list for which no rule asks; what is on it stays as it is.
func (d *Desk) DropSavedList(ctx context.Context, who identity.Who, id int64) error {
	err := d.store.Write(ctx, func(t store.Tx) error {
		rules, err := ruling.Rules(t).All(who.Box)
		if err != nil {
			return err
		}
		asks := func(q search.Query) bool { return q.Saved == id }
		for _, r := range rules {
			if slices.ContainsFunc(r.When, asks) || slices.ContainsFunc(r.Except, asks) {
				return problem.Invalid("id", "The list was not deleted: the rule “"+r.Called()+"” asks what is on it. Change or delete the rule first.")
			}
		}
		return store.Lists(t).DropSavedList(who.Box, who.Person, id)
	})
	return d.Journal.Announced(who.Box, journal.TopicLabels, err)
}
