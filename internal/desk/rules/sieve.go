package rules

import (
	"context"
	"slices"

	"ebbe/internal/core/sorting"
	"ebbe/internal/desk/labelling"
	"ebbe/internal/identity"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/drafting"
	"ebbe/internal/store/ruling"
)

// WriteOut gives the rules of a person that are on as a Sieve script (RFC 5228), and says
// what does not carry over. Lessons stay here: a script knows no streams.
func (d *Desk) WriteOut(ctx context.Context, who identity.Who) (out sorting.Script, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		rules, err := ruling.Rules(t).All(who.Box)
		if err != nil {
			return err
		}
		rules = slices.DeleteFunc(rules, func(r sorting.Rule) bool { return r.Lesson })
		rows, err := store.Labels(t).Labels(who.Box, false)
		if err != nil {
			return err
		}
		labels, texts := map[int64]string{}, map[int64]string{}
		for _, l := range labelling.LabelViews(rows, nil) {
			labels[l.ID] = l.Path
		}
		templates, err := drafting.Drafts(t).Templates(who.Keeper())
		for _, x := range templates {
			texts[x.ID] = x.Text
		}
		out = sorting.WriteSieve(rules, sorting.Boxes{Archive: "Archive", Bin: "Trash"}, labels, texts)
		return err
	})
	return out, err
}

// ReadIn reads a Sieve script as rules in words, none of which is saved; what is not
// understood of one, or does not carry over, is said.
func (d *Desk) ReadIn(ctx context.Context, who identity.Who, script string) (out SieveView, err error) {
	read, err := sorting.ReadSieve(script)
	if err != nil {
		return out, problem.Invalid("script", "Nothing was read: "+err.Error()+".")
	}
	out = SieveView{Rules: []SieveRule{}, Left: read.Left}
	err = d.store.Read(ctx, func(t store.Tx) error {
		k, err := knownTo(t, who, d.Journal.Now())
		for _, words := range read.Rules {
			r := sorting.ReadRule(words, k)
			x := SieveRule{Words: words, Doubt: r.Doubt}
			if r.Doubt == "" {
				if wrong := r.Rule.Valid(); wrong != nil {
					x.Doubt = wrong.Error()
				}
			}
			out.Rules = append(out.Rules, x)
		}
		return err
	})
	return out, err
}
