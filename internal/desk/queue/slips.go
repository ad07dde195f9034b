package queue

import (
	"cmp"
	"context"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/told"
	"ebbe/internal/identity"
	"ebbe/internal/store"
	"ebbe/internal/store/awaiting"
	"ebbe/internal/store/drafting"
	"ebbe/internal/store/membership"
)

// SlipsOf makes slips of rows, with what else is known of their conversations at now.
func SlipsOf(t store.Tx, who identity.Who, rows []store.Row, now when.Instant) ([]Slip, error) {
	ids := make([]int64, len(rows))
	for i, r := range rows {
		ids[i] = r.ID
	}
	followUps, err := store.FollowUps(t).FollowUpsOf(who.Box, ids)
	if err != nil {
		return nil, err
	}
	drafts, err := drafting.Drafts(t).Drafts(who.Person, ids)
	if err != nil {
		return nil, err
	}
	offering, err := awaiting.Awaited(t).Offering(who.Box, ids)
	if err != nil {
		return nil, err
	}
	facts, err := told.Says(t, who, ids, now)
	if err != nil {
		return nil, err
	}
	answers := map[int64]string{}
	for _, f := range offering {
		for _, o := range f.Data.Waits.Offers {
			answers[o.Conversation] = cmp.Or(answers[o.Conversation], f.Data.Title)
		}
	}
	var names map[int64]string
	if who.Team != 0 {
		if names, err = membership.Membership(t).Names(who.Box); err != nil {
			return nil, err
		}
	}
	slips := make([]Slip, len(rows))
	for i, r := range rows {
		slips[i] = slipOf(r)
		slips[i].Draft, slips[i].Answers = drafts[r.ID], answers[r.ID]
		if r.Place != inbox.Junk {
			slips[i].Fact = facts[r.ID]
		}
		if names != nil {
			slips[i].Owner = ownerOf(followUps[r.ID], who, names)
		}
		for _, f := range followUps[r.ID] {
			if !f.Data.Due.IsZero() {
				slips[i].Due = &f.Data.Due
				break
			}
		}
	}
	return slips, nil
}

// ownerOf is who of a team sees to a conversation, by what is open about it; nil: nobody.
func ownerOf(open []store.FollowUp, who identity.Who, names map[int64]string) *OwnerView {
	all := make([]followup.FollowUp, len(open))
	for i, f := range open {
		all[i] = f.Data
	}
	o := followup.OwnerOf(all)
	if o.Person == 0 {
		return nil
	}
	v := &OwnerView{ID: o.Person, Name: names[o.Person], Mine: o.Person == who.Person, At: o.At, Why: o.Why}
	if o.By != 0 && o.By != o.Person {
		v.By = names[o.By]
	}
	return v
}

func slipOf(r store.Row) Slip {
	from := mail.Address{Name: r.FromName, Address: r.FromAddr}.Short()
	if from == "" {
		from = "Unknown sender"
	}
	subject := r.Subject
	if subject == "" {
		subject = "(no subject)"
	}
	return Slip{ID: r.ID, From: from, Subject: subject, Kind: r.Kind, LastAt: r.LastAt, Messages: r.Messages, Files: r.Files,
		Unread: r.Unread, Starred: r.Starred, Looks: r.Looks, Position: r.Position(),
		Title: r.Title, Note: r.Note != "", Labels: r.Labels.IDs(), Reach: r.Reach, Account: r.Account, Begins: r.Begins,
		Level: sorting.Level(r.Importance), Because: sorting.ReadReasons(r.Because).Say(mail.Address{Name: r.FromName, Address: r.FromAddr}), Said: r.Said, Silent: r.Silent, Stream: otherStream(r)}
}

// otherStream is the stream a conversation is in, if not that of its kind.
func otherStream(r store.Row) string {
	if r.Stream == string(delivery.StreamOf(r.Kind)) {
		return ""
	}
	return r.Stream
}

// SlipsBy makes slips of conversations, in the order of their IDs.
func SlipsBy(t store.Tx, who identity.Who, ids []int64, now when.Instant) ([]Slip, error) {
	rows, err := store.Search(t).Rows(who.Box, who.Person, ids)
	if err != nil {
		return nil, err
	}
	return SlipsOf(t, who, rows, now)
}

// maxSlips is how many slips are given at once.
const maxSlips = 200

// Slips gives slips by the IDs of their conversations, in that order. What does
// not exist is left out.
func (d *Desk) Slips(ctx context.Context, who identity.Who, ids []int64) (slips []Slip, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		slips, err = SlipsBy(t, who, ids[:min(len(ids), maxSlips)], d.Journal.Now())
		return err
	})
	return slips, err
}
