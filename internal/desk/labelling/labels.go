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
)

// The colours and marks of labels. None of them is one of the four colours that
// carry a meaning, and no colour comes without its mark.
var (
	labelColors = []string{"tide", "slate", "deep", "drift", "reed", "ink"}
	labelMarks  = []string{"dot", "ring", "square", "bar", "wave", "cross"}
)

// All gives the labels of the box, each below its parent.
func (d *Desk) All(ctx context.Context, who identity.Who) (out []LabelView, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		labels, err := store.Labels(t).Labels(who.Box, false)
		if err != nil {
			return err
		}
		counts, err := store.Labels(t).LabelCounts(who.Box)
		out = LabelViews(labels, counts)
		return err
	})
	return out, err
}

// LabelViews are labels with their whole names, in the order of these.
func LabelViews(labels []store.Label, counts map[int64]int) []LabelView {
	out := []LabelView{}
	byID := map[int64]store.Label{}
	for _, l := range labels {
		byID[l.ID] = l
	}
	for _, l := range labels {
		v := LabelView{ID: l.ID, Parent: l.Parent, Name: l.Name, Path: l.Name, Color: l.Color, Mark: l.Mark, Count: counts[l.ID]}
		for p, ok := byID[l.Parent]; ok; p, ok = byID[p.Parent] {
			v.Path = p.Name + " / " + v.Path
			if len(v.Path) > 1000 {
				break // a ring of parents, which PutLabel refuses to make
			}
		}
		out = append(out, v)
	}
	slices.SortFunc(out, func(a, b LabelView) int { return strings.Compare(strings.ToLower(a.Path), strings.ToLower(b.Path)) })
	return out
}

// MaxLabel is the longest name of a label, in bytes.
const MaxLabel = 60

// Make finds the label with that whole name ("loans / leg two"), making
// what does not exist yet of it.
func (d *Desk) Make(ctx context.Context, who identity.Who, path string) (v LabelView, err error) {
	names := LabelNames(path)
	switch {
	case names == nil:
		return v, problem.Invalid("path", "A label needs a short name, such as “loans” or “loans / leg two”. None was made.")
	case len(names) > MaxNested:
		return v, problem.Invalid("path", "Labels nest up to six deep. None was made.")
	}
	err = d.store.Write(ctx, func(t store.Tx) error {
		v, err = MakeLabel(t, who.Box, names)
		return err
	})
	return v, d.Journal.Announced(who.Box, journal.TopicLabels, err)
}

// MaxNested is how deep labels nest.
const MaxNested = 6

// LabelNames are the names on the way to a label, the outermost first; nil if
// they cannot be names.
func LabelNames(path string) (names []string) {
	for part := range strings.SplitSeq(path, "/") {
		name := strings.Join(strings.Fields(part), " ")
		if name == "" || len(name) > MaxLabel || strings.Contains(name, ",") {
			return nil
		}
		names = append(names, name)
	}
	return names
}

// MakeLabel finds the label with these names, making what is missing.
func MakeLabel(t store.Tx, box int64, names []string) (v LabelView, err error) {
	labels, err := store.Labels(t).Labels(box, false)
	if err != nil {
		return v, err
	}
	parent := int64(0)
	for _, name := range names {
		i := slices.IndexFunc(labels, func(l store.Label) bool { return l.Parent == parent && strings.EqualFold(l.Name, name) })
		if i < 0 {
			n := len(labels)
			l := store.Label{BoxID: box, Parent: parent, Name: name, Color: labelColors[n%len(labelColors)], Mark: labelMarks[(n+n/len(labelColors))%len(labelMarks)]}
			if err := store.Labels(t).PutLabel(&l); err != nil {
				return v, err
			}
			i, labels = n, append(labels, l)
		}
		parent = labels[i].ID
	}
	all := LabelViews(labels, nil)
	return all[slices.IndexFunc(all, func(l LabelView) bool { return l.ID == parent })], nil
}

// Put changes the name, colour, mark or parent of a label.
func (d *Desk) Put(ctx context.Context, who identity.Who, key string, v LabelView) (journal.Decided, error) {
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		was, is, err := putLabel(t, who, v)
		if err != nil || was == is {
			return out, err
		}
		chosen, err := store.Choose(viewOf(was), viewOf(is))
		if err != nil {
			return out, err
		}
		return d.Journal.Commit(t, who, store.Entry{Kind: inbox.ChangeLabel, At: d.Journal.Now(), Ref: is.ID, Text: is.Name, Chosen: chosen}, nil, func(int) string {
			if was.Name != is.Name {
				return fmt.Sprintf("The label “%s” is called “%s” now.", was.Name, is.Name)
			}
			return fmt.Sprintf("The label “%s” is changed.", is.Name)
		})
	})
	if fresh {
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicLabels}, Key: key})
	}
	return out, err
}

// viewOf is what is chosen of a label.
func viewOf(l store.Label) LabelView {
	return LabelView{ID: l.ID, Parent: l.Parent, Name: l.Name, Color: l.Color, Mark: l.Mark}
}

// putLabel stores what v says of a label, and gives how it was and is.
func putLabel(t store.Tx, who identity.Who, v LabelView) (was, is store.Label, err error) {
	name := strings.Join(strings.Fields(v.Name), " ")
	if name == "" || len(name) > MaxLabel || strings.ContainsAny(name, "/,") {
		return was, is, problem.Invalid("name", "A label needs a short name without slashes and commas. It keeps the one it had.")
	}
	if !slices.Contains(labelColors, v.Color) || !slices.Contains(labelMarks, v.Mark) {
		return was, is, problem.Invalid("color", "Labels have one of the colours and marks offered. It keeps those it had.")
	}
	labels, err := store.Labels(t).Labels(who.Box, false)
	if err != nil {
		return was, is, err
	}
	byID := map[int64]*store.Label{}
	for i := range labels {
		byID[labels[i].ID] = &labels[i]
	}
	l := byID[v.ID]
	if l == nil || v.Parent != 0 && byID[v.Parent] == nil {
		return was, is, store.ErrNotFound
	}
	for p := byID[v.Parent]; p != nil; p = byID[p.Parent] {
		if p.ID == v.ID {
			return was, is, problem.Invalid("parent", "A label cannot be below itself. It stays where it was.")
		}
	}
	for _, o := range labels {
		if o.ID != v.ID && o.Parent == v.Parent && strings.EqualFold(o.Name, name) {
			return was, is, problem.Invalid("name", fmt.Sprintf("There is a label “%s” there already. It keeps the name it had.", o.Name))
		}
	}
	was = *l
	l.Name, l.Color, l.Mark, l.Parent = name, v.Color, v.Mark, v.Parent
	return was, *l, store.Labels(t).PutLabel(l)
}

// labelBack puts a label back to what it was, if it still is as it was changed and
// nothing else stands there by now.
func labelBack(t store.Tx, s *journal.Step) error {
	var was, is LabelView
	if err := s.Done.Chosen.Read(&was, &is); err != nil {
		return err
	}
	labels, err := store.Labels(t).Labels(s.Who.Box, false)
	if err != nil {
		return err
	}
	s.Topics = append(s.Topics, journal.TopicLabels)
	i := slices.IndexFunc(labels, func(l store.Label) bool { return l.ID == is.ID })
	if i < 0 || viewOf(labels[i]) != is {
		s.Nothing()
		return nil
	}
	if _, _, err = putLabel(t, s.Who, was); errors.As(err, new(*problem.Error)) || errors.Is(err, store.ErrNotFound) {
		s.Nothing()
		return nil
	}
	return err
}
