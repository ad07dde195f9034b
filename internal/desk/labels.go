package desk

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

// The colours and marks of labels. None of them is one of the four colours that
// carry a meaning, and no colour comes without its mark.
var (
	labelColors = []string{"tide", "slate", "deep", "drift", "reed", "ink"}
	labelMarks  = []string{"dot", "ring", "square", "bar", "wave", "cross"}
)

// Labels gives the labels of the box, each below its parent.
func (d *Desk) Labels(ctx context.Context, who identity.Who) (out []LabelView, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		labels, err := t.Labels(who.Box, false)
		if err != nil {
			return err
		}
		counts, err := t.LabelCounts(who.Box)
		out = labelViews(labels, counts)
		return err
	})
	return out, err
}

func labelViews(labels []store.Label, counts map[int64]int) []LabelView {
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

// maxLabel is the longest name of a label, in bytes.
const maxLabel = 60

// MakeLabel finds the label with that whole name ("loans / leg two"), making
// what does not exist yet of it.
func (d *Desk) MakeLabel(ctx context.Context, who identity.Who, path string) (v LabelView, err error) {
	names := labelNames(path)
	switch {
	case names == nil:
		return v, problem.Invalid("path", "A label needs a short name, such as “loans” or “loans / leg two”. None was made.")
	case len(names) > maxNested:
		return v, problem.Invalid("path", "Labels nest up to six deep. None was made.")
	}
	err = d.store.Write(ctx, func(t store.Tx) error {
		v, err = makeLabel(t, who.Box, names)
		return err
	})
	return v, d.Journal.Announced(who.Box, journal.TopicLabels, err)
}

// maxNested is how deep labels nest.
const maxNested = 6

// labelNames are the names on the way to a label, the outermost first; nil if
// they cannot be names.
func labelNames(path string) (names []string) {
	for part := range strings.SplitSeq(path, "/") {
		name := strings.Join(strings.Fields(part), " ")
		if name == "" || len(name) > maxLabel || strings.Contains(name, ",") {
			return nil
		}
		names = append(names, name)
	}
	return names
}

// makeLabel finds the label with these names, making what is missing.
func makeLabel(t store.Tx, box int64, names []string) (v LabelView, err error) {
	labels, err := t.Labels(box, false)
	if err != nil {
		return v, err
	}
	parent := int64(0)
	for _, name := range names {
		i := slices.IndexFunc(labels, func(l store.Label) bool { return l.Parent == parent && strings.EqualFold(l.Name, name) })
		if i < 0 {
			n := len(labels)
			l := store.Label{BoxID: box, Parent: parent, Name: name, Color: labelColors[n%len(labelColors)], Mark: labelMarks[(n+n/len(labelColors))%len(labelMarks)]}
			if err := t.PutLabel(&l); err != nil {
				return v, err
			}
			i, labels = n, append(labels, l)
		}
		parent = labels[i].ID
	}
	all := labelViews(labels, nil)
	return all[slices.IndexFunc(all, func(l LabelView) bool { return l.ID == parent })], nil
}

// PutLabel changes the name, colour, mark or parent of a label.
func (d *Desk) PutLabel(ctx context.Context, who identity.Who, v LabelView) error {
	name := strings.Join(strings.Fields(v.Name), " ")
	if name == "" || len(name) > maxLabel || strings.ContainsAny(name, "/,") {
		return problem.Invalid("name", "A label needs a short name without slashes and commas. It keeps the one it had.")
	}
	if !slices.Contains(labelColors, v.Color) || !slices.Contains(labelMarks, v.Mark) {
		return problem.Invalid("color", "Labels have one of the colours and marks offered. It keeps those it had.")
	}
	err := d.store.Write(ctx, func(t store.Tx) error {
		labels, err := t.Labels(who.Box, false)
		if err != nil {
			return err
		}
		byID := map[int64]*store.Label{}
		for i := range labels {
			byID[labels[i].ID] = &labels[i]
		}
		l := byID[v.ID]
		if l == nil || v.Parent != 0 && byID[v.Parent] == nil {
			return store.ErrNotFound
		}
		for p := byID[v.Parent]; p != nil; p = byID[p.Parent] {
			if p.ID == v.ID {
				return problem.Invalid("parent", "A label cannot be below itself. It stays where it was.")
			}
		}
		for _, o := range labels {
			if o.ID != v.ID && o.Parent == v.Parent && strings.EqualFold(o.Name, name) {
				return problem.Invalid("name", fmt.Sprintf("There is a label “%s” there already. It keeps the name it had.", o.Name))
			}
		}
		l.Name, l.Color, l.Mark, l.Parent = name, v.Color, v.Mark, v.Parent
		return t.PutLabel(l)
	})
	return d.Journal.Announced(who.Box, journal.TopicLabels, err)
}

// DropLabel deletes a label and takes it off everything, in one step that can
// be taken back. Labels below it move up.
func (d *Desk) DropLabel(ctx context.Context, who identity.Who, key string, id int64) (journal.Decided, error) {
	return d.drop(ctx, who, key, func(t store.Tx) (e store.Entry, req *Decision, err error) {
		labels, err := t.Labels(who.Box, false)
		if err != nil {
			return e, nil, err
		}
		i := slices.IndexFunc(labels, func(l store.Label) bool { return l.ID == id })
		if i < 0 {
			return e, nil, store.ErrNotFound
		}
		for _, l := range labels {
			if l.Parent == id {
				l.Parent = labels[i].Parent
				if err := t.PutLabel(&l); err != nil {
					return e, nil, err
				}
			}
		}
		ids, err := t.LabeledWith([]int64{id})
		if err == nil {
			err = t.SetGone(&store.Label{}, []int64{id}, true)
		}
		return store.Entry{Kind: inbox.DropLabel, Ref: id, Text: labels[i].Name}, &Decision{Kind: inbox.DropLabel, Conversations: ids, Remove: []int64{id}}, err
	})
}

// drop deletes what prepare says and decides about what carried it.
func (d *Desk) drop(ctx context.Context, who identity.Who, key string, prepare func(store.Tx) (store.Entry, *Decision, error)) (journal.Decided, error) {
	now := d.now()
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		e, req, err := prepare(t)
		if err != nil {
			return out, err
		}
		if changes = nil; len(req.Conversations) > 0 {
			if changes, _, err = d.changes(t, who, req, now); err != nil {
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

// label puts labels on conversations, and takes others off.
var label = decision{verb: "labelled", says: doneTo("Labels changed"), needs: func(a asked) error {
	if len(a.req.Add) == 0 {
		return nil
	}
	labels, err := a.t.Labels(a.who.Box, false)
	if err != nil {
		return err
	}
	for _, id := range a.req.Add {
		if !slices.ContainsFunc(labels, func(l store.Label) bool { return l.ID == id }) {
			return problem.Invalid("add", "That label has been deleted meanwhile, so nothing was changed.")
		}
	}
	return nil
}}
