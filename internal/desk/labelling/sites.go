package labelling

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"ebbe/internal/core/inbox"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// Sites gives the places of the user's, and where they are.
func (d *Desk) Sites(ctx context.Context, who identity.Who) (v Sites, err error) {
	v.Sites = []SiteView{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		sites, err := store.Sites(t).Sites(who.Person, false)
		if err != nil {
			return err
		}
		counts, err := store.Sites(t).SiteCounts(who.Box)
		if err != nil {
			return err
		}
		for _, s := range sites {
			v.Sites = append(v.Sites, SiteView{s.ID, s.Name, counts[s.ID]})
		}
		p, err := store.People(t).PersonByID(who.Person)
		v.Here = p.Site
		return err
	})
	return v, err
}

// PutSite names a place, new (with ID 0) or known.
func (d *Desk) PutSite(ctx context.Context, who identity.Who, id int64, name string) (v SiteView, err error) {
	if name = strings.Join(strings.Fields(name), " "); name == "" || len(name) > MaxLabel {
		return v, problem.Invalid("name", "A place needs a short name, such as “the workshop”. Nothing was changed.")
	}
	err = d.store.Write(ctx, func(t store.Tx) error {
		sites, err := store.Sites(t).Sites(who.Person, false)
		if err != nil {
			return err
		}
		s := store.Site{ID: id, PersonID: who.Person, Name: name}
		for _, o := range sites {
			if o.ID != id && strings.EqualFold(o.Name, name) {
				if id != 0 {
					return problem.Invalid("name", fmt.Sprintf("There is a place “%s” already. This one keeps the name it had.", o.Name))
				}
				s = o
			}
		}
		if id != 0 && !slices.ContainsFunc(sites, func(o store.Site) bool { return o.ID == id }) {
			return store.ErrNotFound
		}
		err = store.Sites(t).PutSite(&s)
		v = SiteView{ID: s.ID, Name: s.Name}
		return err
	})
	return v, d.Journal.Announced(who.Box, journal.TopicLabels, err)
}

// SiteOf gives one of the person's places, or store.ErrNotFound.
func SiteOf(t store.Tx, who identity.Who, id int64) (store.Site, error) {
	sites, err := store.Sites(t).Sites(who.Person, false)
	if err != nil {
		return store.Site{}, err
	}
	i := slices.IndexFunc(sites, func(s store.Site) bool { return s.ID == id })
	if i < 0 {
		return store.Site{}, store.ErrNotFound
	}
	return sites[i], nil
}

// BeAt notes that the user is at a place (0: nowhere in particular). What
// waited for it comes back at once.
func (d *Desk) BeAt(ctx context.Context, who identity.Who, key string, id int64) (journal.Decided, error) {
	now := d.Journal.Now()
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		s := store.Site{}
		if id != 0 {
			if s, err = SiteOf(t, who, id); err != nil {
				return out, err
			}
		}
		if err := store.Sites(t).SetPersonSite(who.Person, id); err != nil {
			return out, err
		}
		ids, err := store.Sites(t).WaitingAt(who.Box, id)
		if err != nil {
			return out, err
		}
		state, err := store.Conversations(t).State(who.Box, who.Person, ids, nil)
		if err != nil {
			return out, err
		}
		changes = nil
		for _, conversation := range ids {
			before := state.Conversations[conversation]
			after := inbox.BeAt(before, id, now)
			changes = append(changes, inbox.Change{Before: &before, After: &after})
		}
		return d.Journal.Commit(t, who, store.Entry{Kind: inbox.Here, At: now, Text: s.Name}, changes, func(n int) string {
			switch {
			case id == 0:
				return "You are nowhere in particular."
			case len(changes) == 0:
				return fmt.Sprintf("You are at %s. Nothing waited for that.", s.Name)
			}
			return fmt.Sprintf("You are at %s. Back in the inbox: %d.", s.Name, n)
		})
	})
	if fresh {
		d.Journal.Tell(who.Box, key, changes)
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicLabels}, Key: key})
	}
	return out, err
}
