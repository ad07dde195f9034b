package choices

import (
	"context"

	"github.com/google/uuid"

	"ebbe/internal/core/inbox"
	"ebbe/internal/desk/labelling"
	"ebbe/internal/identity"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/drafting"
)

// names are the names of a person's labels and templates by their IDs.
func names(t store.Tx, who identity.Who) (labels, templates map[int64]string, err error) {
	labels, templates = map[int64]string{}, map[int64]string{}
	rows, err := store.Labels(t).Labels(who.Box, false)
	if err != nil {
		return nil, nil, err
	}
	for _, l := range labelling.LabelViews(rows, nil) {
		labels[l.ID] = l.Path
	}
	all, err := drafting.Drafts(t).Templates(who.Keeper())
	for _, x := range all {
		templates[x.ID] = x.Name
	}
	return labels, templates, err
}

// ShareCombos gives a person's combos as a file that somebody else can use.
func (d *Desk) ShareCombos(ctx context.Context, who identity.Who) (file ComboFile, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		p, err := store.People(t).PersonByID(who.Person)
		if err != nil {
			return err
		}
		labels, templates, err := names(t, who)
		file.File = string(inbox.WriteCombos(p.Habits.Combos, labels, templates))
		return err
	})
	return file, err
}

// ReadCombos reads a file of combos, none of which is kept: that is a choice of its own.
// A key that has another meaning here is left off.
func (d *Desk) ReadCombos(ctx context.Context, who identity.Who, file string) (v CombosRead, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		labels, templates, err := names(t, who)
		if err != nil {
			return err
		}
		v.Combos, v.Left, err = inbox.ReadCombos([]byte(file), turned(labels), turned(templates))
		if err != nil {
			return problem.Invalid("file", "Nothing was read: "+err.Error()+".")
		}
		return nil
	})
	for i := range v.Combos {
		v.Combos[i].ID = uuid.NewString()
	}
	v.Combos, v.Left = append([]inbox.Chain{}, v.Combos...), append([]string{}, v.Left...)
	return v, err
}

func turned(names map[int64]string) map[string]int64 {
	out := map[string]int64{}
	for id, name := range names {
		out[name] = id
	}
	return out
}
