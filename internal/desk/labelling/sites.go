package labelling

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"ebbe/internal/core/inbox"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/whereabouts"
)

// Sites gives the places of the user's, and where they are.
func (d *Desk) Sites(ctx context.Context, who identity.Who) (v Sites, err error) {
	v.Sites = []SiteView{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		sites, err := whereabouts.Whereabouts(t).Sites(who.Person, false)
		if err != nil {
			return err
		}
		counts, err := whereabouts.Whereabouts(t).SiteCounts(who.Box)
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

// PutSite names a place, new (with ID 0) or known. A new one of the name of another
// is that one.
func (d *Desk) PutSite(ctx context.Context, who identity.Who, key string, id int64, name string) (v SitePut, err error) {
	if name = strings.Join(strings.Fields(name), " "); name == "" || len(name) > MaxLabel {
		return v, problem.Invalid("name", "A place needs a short name, such as “the workshop”. Nothing was changed.")
	}
	v, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (v SitePut, err error) {
		sites, err := whereabouts.Whereabouts(t).Sites(who.Person, false)
		if err != nil {
			return v, err
		}
		for _, o := range sites {
			if o.ID == id || !strings.EqualFold(o.Name, name) {
				continue
			}
			if id != 0 {
				return v, problem.Invalid("name", fmt.Sprintf("There is a place “%s” already. This one keeps the name it had.", o.Name))
			}
			v.SiteView = SiteView{ID: o.ID, Name: o.Name}
			return v, nil
		}
		s := whereabouts.Site{PersonID: who.Person}
		e := store.Entry{Kind: inbox.MakeSite, At: d.Journal.Now(), Text: name}
		said := fmt.Sprintf("The place “%s” is there.", name)
		if id != 0 {
			if s, err = SiteOf(t, who, id); err != nil || s.Name == name {
				v.SiteView = SiteView{ID: s.ID, Name: s.Name}
				return v, err
			}
			if e.Kind, said = inbox.RenameSite, fmt.Sprintf("The place “%s” is called “%s” now.", s.Name, name); err == nil {
				e.Chosen, err = store.Choose(s.Name, name)
			}
			if err != nil {
				return v, err
			}
		}
		s.Name = name
		if err := whereabouts.Whereabouts(t).PutSite(&s); err != nil {
			return v, err
		}
		e.Ref, v.SiteView = s.ID, SiteView{ID: s.ID, Name: s.Name}
		v.Decided, err = d.Journal.Commit(t, who, e, nil, func(int) string { return said })
		return v, err
	})
	if fresh {
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicLabels}, Key: key})
	}
	return v, err
}

// siteBack gives a place the name it had, if it still has the one it was given.
func siteBack(t store.Tx, s *journal.Step) error {
	var was, is string
	if err := s.Done.Chosen.Read(&was, &is); err != nil {
		return err
	}
	s.Topics = append(s.Topics, journal.TopicLabels)
	site, err := SiteOf(t, s.Who, s.Done.Ref)
	if errors.Is(err, store.ErrNotFound) || err == nil && site.Name != is {
		s.Nothing()
		return nil
	}
	if err != nil {
		return err
	}
	site.Name = was
	return whereabouts.Whereabouts(t).PutSite(&site)
}

// unmakeSite takes a new place away again, or has it back. One for which something
// waits meanwhile stays.
func unmakeSite(t store.Tx, s *journal.Step) error {
	s.Topics = append(s.Topics, journal.TopicLabels)
	if s.Back {
		waiting, err := whereabouts.Whereabouts(t).WaitingAt(s.Who.Box, s.Done.Ref)
		if err != nil {
			return err
		}
		p, err := store.People(t).PersonByID(s.Who.Person)
		if err != nil {
			return err
		}
		if len(waiting) > 0 || p.Site == s.Done.Ref {
			s.Nothing()
			return nil
		}
	}
	return store.Journal(t).SetGone(&whereabouts.Site{}, []int64{s.Done.Ref}, s.Back)
}

// SiteOf gives one of the person's places, or store.ErrNotFound.
func SiteOf(t store.Tx, who identity.Who, id int64) (whereabouts.Site, error) {
	sites, err := whereabouts.Whereabouts(t).Sites(who.Person, false)
	if err != nil {
		return whereabouts.Site{}, err
	}
	i := slices.IndexFunc(sites, func(s whereabouts.Site) bool { return s.ID == id })
	if i < 0 {
		return whereabouts.Site{}, store.ErrNotFound
	}
	return sites[i], nil
}

// BeAt notes that the user is at a place (0: nowhere in particular). What
// waited for it comes back at once.
func (d *Desk) BeAt(ctx context.Context, who identity.Who, key string, id int64) (journal.Decided, error) {
	now := d.Journal.Now()
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		s := whereabouts.Site{}
		if id != 0 {
			if s, err = SiteOf(t, who, id); err != nil {
				return out, err
			}
		}
		if err := whereabouts.Whereabouts(t).SetPersonSite(who.Person, id); err != nil {
			return out, err
		}
		ids, err := whereabouts.Whereabouts(t).WaitingAt(who.Box, id)
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
