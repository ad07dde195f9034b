package decide

import (
	"fmt"
	"slices"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/followups"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// combo does several things at once, as the user has put them together.
var combo = decision{verb: "combo", step: true, says: func(k taken) string { return "“" + k.req.Text + "” done" + k.list() + "." }, does: func(a asked) ([]act, error) {
	p, err := store.People(a.t).PersonByID(a.who.Person)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(p.Habits.Combos, func(c inbox.Chain) bool { return c.ID == a.req.Combo })
	if i < 0 {
		return nil, problem.Invalid("combo", "That combo has been deleted meanwhile, so nothing was done.")
	}
	c := p.Habits.Combos[i]
	a.req.Text = c.Name
	if c.Steps, err = answered(c, a.req.Answers); err != nil {
		return nil, err
	}
	a.req.steps = c.Steps
	if a.req.Conversations, err = a.about(c); err != nil {
		return nil, err
	}
	if starts(c) != nil && len(a.req.Conversations) > 1 {
		return nil, problem.Invalid("combo", fmt.Sprintf("Nothing was done: “%s” starts a message, which it does about one conversation at a time.", c.Name))
	}
	labels, err := store.Labels(a.t).Labels(a.who.Box, false)
	if err != nil {
		return nil, err
	}
	return chain(a, p.Field(when.Ahead, a.now), c, labels)
}, then: func(a asked, _ []inbox.Change, out *journal.Decided) error {
	if n := len(*a.sent); n > 0 {
		out.Text += fmt.Sprintf(" Goes to %s in %d seconds.", (*a.sent)[n-1].Address, max(1, ((*a.sent)[n-1].At-a.now)/1000))
	}
	if a.req.passed > 0 {
		out.Text += fmt.Sprintf(" %d of which its condition does not hold stay as they are.", a.req.passed)
	}
	if s := starts(inbox.Chain{Steps: a.req.steps}); s != nil && len(a.req.Conversations) == 1 {
		var err error
		out.Draft, err = a.d.Writing.Start(a.t, a.who, a.req.Conversations[0], s.Text, s.Ref, a.now)
		return err
	}
	return nil
}}

// starts is the step of a combo that starts a message, or nil.
func starts(c inbox.Chain) *inbox.ComboStep {
	if i := slices.IndexFunc(c.Steps, func(s inbox.ComboStep) bool { return s.Kind == inbox.StartMessage }); i >= 0 {
		return &c.Steps[i]
	}
	return nil
}

// answered are the steps of a combo with what was answered to their questions.
func answered(c inbox.Chain, answers []inbox.ComboStep) (steps []inbox.ComboStep, err error) {
	for i, s := range c.Steps {
		var a inbox.ComboStep
		if i < len(answers) {
			a = answers[i]
		}
		if s, err = s.Answered(a); err != nil {
			return nil, problem.Invalid("answers", fmt.Sprintf("Nothing was done: as answered, “%s” %s.", c.Name, err.Error()))
		}
		steps = append(steps, s)
	}
	return steps, nil
}

// about are the conversations of a decision of which the condition of a combo holds.
func (a asked) about(c inbox.Chain) (ids []int64, err error) {
	if ids, err = a.req.chosen(a.t, a.who); err != nil || c.If == "" {
		return ids, err
	}
	all := len(ids)
	a.req.Where = nil // it is about these from now on
	if ids, err = a.d.Holding(a.t, a.who, c.If, ids); err != nil {
		return nil, err
	}
	if a.req.passed = all - len(ids); len(ids) == 0 {
		return nil, problem.Invalid("combo", fmt.Sprintf("Nothing was done: “%s” is about what is “%s”, and this is not.", c.Name, c.If))
	}
	return ids, nil
}

// chain is what a combo does; its phrases are read as in the field.
func chain(a asked, field when.Field, c inbox.Chain, labels []store.Label) (acts []act, err error) {
	read := func(c inbox.Conversation) (inbox.Conversation, error) { return c.Read(true), nil }
	timed := func(phrase string) (when.Reading, error) {
		r := a.who.Week.ReadIn(field, phrase, a.now)
		if r.Doubt != "" && r.Moment.IsZero() {
			return r, problem.Invalid("combo", fmt.Sprintf("Nothing was done: the combo “%s” says “%s”, and Ebbe cannot read that as a time now. Change it in Setup.", c.Name, phrase))
		}
		r.Moment, _ = r.Both()
		return r, nil
	}
	for _, s := range c.Steps {
		var does []act
		switch s.Kind {
		case inbox.Snooze:
			r, err := timed(s.Phrase)
			if err != nil {
				return nil, err
			}
			sleep := inbox.Sleep{Return: r.Moment}
			if r.Someday {
				sleep.Until = inbox.UntilSomeday
			}
			does = snoozing(a, sleep)
		case inbox.Label:
			for _, id := range s.Labels {
				if !slices.ContainsFunc(labels, func(l store.Label) bool { return l.ID == id }) {
					return nil, problem.Invalid("combo", fmt.Sprintf("Nothing was done: the combo “%s” uses a label that has been deleted. Change it in Setup.", c.Name))
				}
			}
			does = relabel(s.Labels, nil)
		case inbox.MakeFollowUp:
			f := followups.NewFollowUp{Title: s.Text}
			if s.Phrase != "" {
				r, err := timed(s.Phrase)
				if err != nil {
					return nil, err
				}
				if f.Due = r.Moment; !r.Timed {
					f.Due = f.Due.Day(a.who.Week.Location())
				}
			}
			does = []act{{changes: read, make: &f}}
		case inbox.ForwardTo:
			does = []act{{changes: read, passOn: s.Text}}
		case inbox.HandOver:
			f := followups.NewFollowUp{With: mail.Address{Address: s.Text}, Waits: followup.Wait{Since: a.now, Only: true}}
			if s.Phrase != "" {
				r, err := timed(s.Phrase)
				if err != nil {
					return nil, err
				}
				f.Due, f.Waits.Ask = r.Moment.Day(a.who.Week.Location()), r.Moment
			}
			does = []act{{changes: read, make: &f}}
			if a.sent != nil { // a rule has sent it on
				does[0].passOn = s.Text
			}
		case inbox.StartMessage: // once the rest is done
			does = []act{{changes: read}}
		case inbox.ToStream:
			p, err := store.People(a.t).PersonByID(a.who.Person)
			if err != nil {
				return nil, err
			}
			if !p.Delivery.Known(delivery.Stream(s.Stream)) {
				return nil, problem.Invalid("combo", fmt.Sprintf("Nothing was done: “%s” puts mail into a stream that has been deleted. Change it in Setup.", c.Name))
			}
			byRule := a.sent == nil
			does = changing(func(c inbox.Conversation) inbox.Conversation {
				if c.Kept && byRule { // the user has put it where it is
					return c
				}
				return c.InStream(s.Stream, !byRule)
			})
		case inbox.Combo: // of a rule; a combo has none in it
			p, err := store.People(a.t).PersonByID(a.who.Person)
			if err != nil {
				return nil, err
			}
			i := slices.IndexFunc(p.Habits.Combos, func(x inbox.Chain) bool { return x.ID == s.Text })
			if i < 0 {
				return nil, problem.Invalid("combo", fmt.Sprintf("Nothing was done: “%s” runs a combo that has been deleted. Change it in Setup.", c.Name))
			}
			c := p.Habits.Combos[i]
			if !c.ByItself() {
				return nil, problem.Invalid("combo", fmt.Sprintf("Nothing was done: the combo “%s” asks, sends or starts something, so no rule can run it.", c.Name))
			}
			if holds, err := a.about(c); err != nil || len(holds) == 0 {
				return nil, err
			}
			if does, err = chain(a, field, c, labels); err != nil {
				return nil, err
			}
		case inbox.Give: // of a rule
			does = []act{{changes: read, give: &giving{to: s.Ref, turn: together.Turn(s.Text), why: "by the rule “" + c.Name + "”", rule: true}}}
		case inbox.FinishFollow:
			does = []act{{changes: read, finish: true}}
		default:
			is, known := decisions[s.Kind]
			if !known {
				return nil, problem.Invalid("combo", fmt.Sprintf("Nothing was done: the combo “%s” does something that Ebbe does not know. Change it in Setup.", c.Name))
			}
			if does, err = is.does(a); err != nil {
				return nil, err
			}
		}
		acts = append(acts, does...)
	}
	return acts, nil
}

// Chain is what a chain of actions changes about conversations, in the transaction in
// which that is to be stored. What cannot be done is a *problem.Error.
func (d *Desk) Chain(t store.Tx, who identity.Who, c inbox.Chain, conversations []int64) ([]inbox.Change, error) {
	a := asked{d, t, who, d.Journal.Now(), &Decision{Kind: inbox.Combo, Conversations: conversations}, nil, nil}
	p, err := store.People(t).PersonByID(who.Person)
	if err != nil {
		return nil, err
	}
	labels, err := store.Labels(t).Labels(who.Box, false)
	if err != nil {
		return nil, err
	}
	acts, err := chain(a, p.Field(when.Ahead, a.now), c, labels)
	if err != nil {
		return nil, err
	}
	changes, _, err := a.doing(acts, conversations)
	return changes, err
}

// Stream is what putting conversations into a stream changes about them ("": into that of
// their kinds), in the transaction in which that is to be stored; kept says that what
// comes in them is to come in that stream, too.
func (d *Desk) Stream(t store.Tx, who identity.Who, conversations []int64, stream string, kept bool) ([]inbox.Change, error) {
	a := asked{d, t, who, d.Journal.Now(), &Decision{Kind: inbox.ToStream}, nil, nil}
	changes, _, err := a.doing(inStream(stream, kept), conversations)
	return changes, err
}

// Junk is what calling conversations junk changes about them, in the transaction in which
// that is to be stored.
func (d *Desk) Junk(t store.Tx, who identity.Who, conversations []int64) ([]inbox.Change, error) {
	return d.Chain(t, who, inbox.Chain{Steps: []inbox.ComboStep{{Kind: inbox.ToJunk}}}, conversations)
}

// Bin is what binning conversations changes about them, in the transaction in which
// that is to be stored.
func (d *Desk) Bin(t store.Tx, who identity.Who, conversations []int64) ([]inbox.Change, error) {
	return d.Chain(t, who, inbox.Chain{Steps: []inbox.ComboStep{{Kind: inbox.ToBin}}}, conversations)
}
