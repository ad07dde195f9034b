package decide

import (
	"fmt"
	"slices"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/followups"
	"ebbe/internal/identity"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// combo does several things at once, as the user has put them together.
var combo = decision{verb: "combo", says: func(k taken) string { return "“" + k.req.Text + "” done" + k.list() + "." }, acts: func(a asked) ([]act, error) {
	p, err := a.t.PersonByID(a.who.Person)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(p.Habits.Combos, func(c inbox.Chain) bool { return c.ID == a.req.Combo })
	if i < 0 {
		return nil, problem.Invalid("combo", "That combo has been deleted meanwhile, so nothing was done.")
	}
	a.req.Text = p.Habits.Combos[i].Name
	labels, err := a.t.Labels(a.who.Box, false)
	if err != nil {
		return nil, err
	}
	return chain(a.who, p.Habits.Combos[i], labels, a.now)
}}

// chain is what a combo does.
func chain(who identity.Who, c inbox.Chain, labels []store.Label, now when.Instant) (acts []act, err error) {
	read := func(phrase string) (when.Moment, error) {
		r := who.Week.Read(phrase, now)
		if r.Doubt != "" && r.Moment.IsZero() {
			return r.Moment, problem.Invalid("combo", fmt.Sprintf("Nothing was done: the combo “%s” says “%s”, and Ebbe cannot read that as a time now. Change it in Setup.", c.Name, phrase))
		}
		return r.Moment, nil
	}
	for _, s := range c.Steps {
		switch a := (act{Decision: inbox.Decision{Kind: s.Kind}}); s.Kind {
		case inbox.Snooze:
			if a.Return, err = read(s.Phrase); err != nil {
				return nil, err
			}
			acts = append(acts, a)
		case inbox.Label:
			for _, id := range s.Labels {
				if !slices.ContainsFunc(labels, func(l store.Label) bool { return l.ID == id }) {
					return nil, problem.Invalid("combo", fmt.Sprintf("Nothing was done: the combo “%s” uses a label that has been deleted. Change it in Setup.", c.Name))
				}
			}
			a.Add = s.Labels
			acts = append(acts, a)
		case inbox.MakeFollowUp:
			f := followups.NewFollowUp{Title: s.Text}
			if s.Phrase != "" {
				r := who.Week.Read(s.Phrase, now)
				if f.Due, err = read(s.Phrase); err != nil {
					return nil, err
				}
				if !r.Timed {
					f.Due = f.Due.Day(who.Week.Location())
				}
			}
			a.Kind, a.make = inbox.MarkRead, &f
			acts = append(acts, a)
		case inbox.FinishFollow:
			a.Kind, a.finish = inbox.MarkRead, true
			acts = append(acts, a)
		default:
			acts = append(acts, a)
		}
	}
	return acts, nil
}
