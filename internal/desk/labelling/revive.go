package labelling

import (
	"slices"

	"ebbe/internal/core/inbox"
	"ebbe/internal/journal"
	"ebbe/internal/store"
	"ebbe/internal/store/whereabouts"
)

// Revive has deleted labels and places back where taking back needs them: the
// ones whose deletion is taken back, and the ones that conversations are put
// back to. Doing a deletion again deletes again.
func Revive(t store.Tx, s *journal.Step) error {
	var labels, sites []int64
	for _, c := range s.Changes {
		if c.After != nil {
			labels = append(labels, c.After.Labels.IDs()...)
			if c.After.Until == inbox.UntilSite {
				sites = append(sites, c.After.Site)
			}
		}
	}
	slices.Sort(labels)
	slices.Sort(sites)
	gone := !s.Back
	var err error
	switch s.Root.Kind {
	case inbox.DropLabel:
		err = store.Journal(t).SetGone(&store.Label{}, []int64{s.Done.Ref}, gone)
	case inbox.DropSite:
		err = store.Journal(t).SetGone(&whereabouts.Site{}, []int64{s.Done.Ref}, gone)
	}
	if err == nil {
		err = store.Journal(t).SetGone(&store.Label{}, slices.Compact(labels), false)
	}
	if err == nil {
		err = store.Journal(t).SetGone(&whereabouts.Site{}, slices.Compact(sites), false)
	}
	return err
}

// belowAgain puts the labels that moved up when a label was deleted below it again,
// or up again.
func belowAgain(t store.Tx, s *journal.Step) error {
	if s.Root.Chosen == nil { // it was deleted by an earlier Ebbe
		return nil
	}
	var below []int64
	var above int64
	if err := s.Root.Chosen.Read(&below, &above); err != nil {
		return err
	}
	labels, err := store.Labels(t).Labels(s.Who.Box, false)
	if err != nil {
		return err
	}
	from, to := s.Done.Ref, above
	if s.Back {
		from, to = to, from
	}
	for _, l := range labels {
		if l.Parent == from && slices.Contains(below, l.ID) {
			l.Parent = to
			if err := store.Labels(t).PutLabel(&l); err != nil {
				return err
			}
		}
	}
	return nil
}
