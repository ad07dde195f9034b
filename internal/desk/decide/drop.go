package decide

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"ebbe/internal/core/inbox"
	"ebbe/internal/desk/labelling"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/store"
	"ebbe/internal/store/whereabouts"
)

// DropLabel deletes a label and takes it off everything, in one step that can
// be taken back. Labels below it move up.
func (d *Desk) DropLabel(ctx context.Context, who identity.Who, key string, id int64) (journal.Decided, error) {
	return d.drop(ctx, who, key, func(t store.Tx) (e store.Entry, req *Decision, err error) {
		labels, err := store.Labels(t).Labels(who.Box, false)
		if err != nil {
			return e, nil, err
		}
		i := slices.IndexFunc(labels, func(l store.Label) bool { return l.ID == id })
		if i < 0 {
			return e, nil, store.ErrNotFound
		}
		below := []int64{} // labels that move up
		for _, l := range labels {
			if l.Parent == id {
				below = append(below, l.ID)
				l.Parent = labels[i].Parent
				if err := store.Labels(t).PutLabel(&l); err != nil {
					return e, nil, err
				}
			}
		}
		ids, err := store.Labels(t).LabeledWith([]int64{id})
		if err == nil {
			err = store.Journal(t).SetGone(&store.Label{}, []int64{id}, true)
		}
		chosen, cerr := store.Choose(below, labels[i].Parent)
		return store.Entry{Kind: inbox.DropLabel, Ref: id, Text: labels[i].Name, Chosen: chosen}, &Decision{Kind: inbox.Label, Conversations: ids, Remove: []int64{id}}, errors.Join(err, cerr)
	})
}

// drop deletes what prepare says and decides about what carried it.
func (d *Desk) drop(ctx context.Context, who identity.Who, key string, prepare func(store.Tx) (store.Entry, *Decision, error)) (journal.Decided, error) {
	now := d.Journal.Now()
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		e, req, err := prepare(t)
		if err != nil {
			return out, err
		}
		if changes = nil; len(req.Conversations) > 0 {
			a := asked{d, t, who, now, req, nil, nil}
			if changes, _, err = a.changes(); err != nil {
				return out, err
			}
		}
		e.At = now
		return d.Journal.Commit(t, who, e, changes, func(int) string {
			return fmt.Sprintf("“%s” is deleted.", e.Text)
		})
	})
	if fresh {
		d.Journal.Tell(who.Box, key, changes)
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicLabels}, Key: key})
	}
	return out, err
}

// DropSite deletes a place. What waited for it comes back to the inbox, in one
// step that can be taken back.
func (d *Desk) DropSite(ctx context.Context, who identity.Who, key string, id int64) (journal.Decided, error) {
	out, err := d.drop(ctx, who, key, func(t store.Tx) (e store.Entry, req *Decision, err error) {
		s, err := labelling.SiteOf(t, who, id)
		if err != nil {
			return e, nil, err
		}
		ids, err := whereabouts.Whereabouts(t).WaitingAt(who.Box, id)
		if err == nil {
			err = store.Journal(t).SetGone(&whereabouts.Site{}, []int64{id}, true)
		}
		if p, perr := store.People(t).PersonByID(who.Person); err == nil && perr == nil && p.Site == id {
			err = whereabouts.Whereabouts(t).SetPersonSite(who.Person, 0)
		}
		return store.Entry{Kind: inbox.DropSite, Ref: id, Text: s.Name}, &Decision{Kind: inbox.ToInbox, Conversations: ids}, err
	})
	if err == nil && out.Count > 0 {
		out.Text += fmt.Sprintf(" What waited for it is back in the inbox: %d.", out.Count)
	}
	return out, err
}
