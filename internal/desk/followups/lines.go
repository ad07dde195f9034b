package followups

import (
	"context"
	"time"

	"ebbe/internal/core/facts"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/labelling"
	"ebbe/internal/desk/received"
	"ebbe/internal/desk/told"
	"ebbe/internal/identity"
	"ebbe/internal/store"
)

// peopleKnown is how many people can be named in a line, namesKept for how long
// the names that can be are not read anew.
const (
	peopleKnown = 400
	namesKept   = time.Minute
)

// known is what the parts of a line can name.
func (v viewer) known() (k followup.Known, err error) {
	if time.Since(v.shelf.named) > namesKept {
		if k.Projects, err = store.FollowUps(v.t).Named(v.who.Box, "project"); err != nil {
			return k, err
		}
		if k.Contexts, err = store.FollowUps(v.t).Named(v.who.Box, "context"); err != nil {
			return k, err
		}
		if k.People, err = store.Correspondents(v.t).Recent(v.who.Box, peopleKnown); err != nil {
			return k, err
		}
		v.shelf.known, v.shelf.named = k, time.Now()
	}
	k = v.shelf.known
	k.Stages = v.set.Stages
	for _, l := range labelling.LabelViews(v.labels, nil) {
		k.Labels = append(k.Labels, followup.Labelled{ID: l.ID, Path: l.Path})
	}
	return k, nil
}

// ReadLine says what a line that is being written down means, on top of what is
// proposed.
func (d *Desk) ReadLine(ctx context.Context, who identity.Who, a LineAsked) (w followup.Written, err error) {
	err = d.viewing(ctx, who, func(v viewer) error {
		k, err := v.known()
		w = followup.ReadLine(a.Line, followup.FollowUp{Title: a.Title, Due: a.Due, Project: a.Project, Priority: followup.Normal}, k, who.Week, d.Journal.Now(), a.Off...)
		return err
	})
	return w, err
}

// Proposal is the follow-up that a conversation asks for, as far as its newest
// message by somebody else tells.
func (d *Desk) Proposal(ctx context.Context, who identity.Who, conversation int64) (p followup.Proposal, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		letter, people, err := received.Source(t, who, conversation)
		if err != nil {
			return err
		}
		p = followup.Propose(letter, who.Week)
		bill, err := told.Offered(t, who, conversation, d.Journal.Now(), facts.Bill)
		if err != nil {
			return err
		}
		if bill != nil && bill.State != facts.Taken {
			p.Title, p.Due, p.DueText = "Pay "+bill.Money()+" to "+bill.By, bill.From, bill.Say(who.Week, d.Journal.Now())
		}
		if p.Due.At != 0 && p.Due.At <= d.Journal.Now() {
			p.Due, p.DueText = when.Moment{}, ""
		}
		if p.Project, err = store.FollowUps(t).ProjectWith(who.Box, people); err != nil {
			return err
		}
		open, err := store.FollowUps(t).FollowUpsOf(who.Box, []int64{conversation})
		p.Known = len(open[conversation]) > 0
		return err
	})
	return p, err
}
