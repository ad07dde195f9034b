package rules

import (
	"context"
	"fmt"
	"slices"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/together"
	"ebbe/internal/desk/labelling"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/store"
	"ebbe/internal/store/ruling"
	"ebbe/internal/store/weighing"
)

const (
	lookedBack  = 12 // messages of a sender in which a habit is looked for
	shownOffers = 5

	offeredAtOnce = 10 // senders looked at in one transaction
)

// Offer looks whether something is always done with what is like these conversations, and
// offers a rule for it, once. What no rule has to be offered for is what one does already.
// An open offer of which that is not so any more is forgotten.
func (d *Desk) Offer(t store.Tx, box int64, conversations []int64) error {
	senders, err := ruling.Rules(t).Senders(box, conversations)
	if err != nil {
		return err
	}
	var all []ruling.From
	seen := map[string]bool{}
	for _, f := range senders {
		if key := f.FromAddr + " " + f.List; f.FromAddr != "" && !seen[key] {
			seen[key] = true
			all = append(all, f)
		}
	}
	if len(all) > offeredAtOnce { // much was decided, or came, at once: that is no habit
		return nil
	}
	for _, f := range all {
		if err := d.offer(t, box, f); err != nil {
			return err
		}
	}
	return nil
}

func (d *Desk) offer(t store.Tx, box int64, f ruling.From) error {
	lately, err := ruling.Rules(t).LatelyFrom(box, f.FromAddr, lookedBack)
	if err != nil {
		return err
	}
	lately = slices.DeleteFunc(lately, func(x ruling.From) bool { return x.List != f.List })
	var ids []int64
	for _, x := range lately {
		ids = append(ids, x.ConversationID)
	}
	deeds, err := weighing.Weights(t).DeedsOf(box, ids, append(sorting.Deeds(), inbox.ToInbox, inbox.NotJunk))
	if err != nil {
		return err
	}
	var all []sorting.Handled
	for _, x := range lately {
		all = append(all, sorting.Handled{Deeds: deeds[x.ConversationID], Labels: x.Labels})
	}
	about, name := "from "+f.FromAddr, mail.Address{Name: f.FromName, Address: f.FromAddr}.Short()
	if f.List != "" {
		about = "list " + f.List
	}
	habit, is := sorting.HabitOf(all, f.List == "" && !f.Kind.Machine())
	does := ""
	if is {
		if does, err = d.inWords(t, box, habit); err != nil {
			return err
		}
	}
	if does != "" {
		known, err := d.knows(t, box, about, habit)
		if err != nil {
			return err
		}
		if known {
			does = ""
		}
	}
	if err := ruling.Rules(t).DropOffers(box, about, does); err != nil || does == "" {
		return err
	}
	return ruling.Rules(t).PutOffer(ruling.Offer{BoxID: box, About: about, Does: does, Name: name, Times: habit.Times, At: d.Journal.Now(), State: ruling.OfferOpen})
}

// inWords is what a habit does, as rules say it; "" where its label is gone.
func (d *Desk) inWords(t store.Tx, box int64, h sorting.Habit) (string, error) {
	switch h.Kind {
	case inbox.Archive:
		return "archive", nil
	case inbox.ToBin:
		return "bin", nil
	}
	labels, err := store.Labels(t).Labels(box, false)
	for _, l := range labelling.LabelViews(labels, nil) {
		if l.ID == h.Label {
			return "label “" + l.Path + "”", err
		}
	}
	return "", err
}

// knows says that a rule does already what a habit does, or puts the same elsewhere.
func (d *Desk) knows(t store.Tx, box int64, about string, h sorting.Habit) (bool, error) {
	rules, err := ruling.Rules(t).All(box)
	if err != nil {
		return false, err
	}
	q := sorting.ReadRule(about+": star", sorting.Known{}).Rule.When
	return slices.ContainsFunc(rules, func(r sorting.Rule) bool {
		if r.Mode == sorting.Off || len(q) == 0 || !slices.Contains(r.When, q[0]) {
			return false
		}
		return r.Does(h.Kind) || h.Kind != inbox.Label && r.Places()
	}), nil
}

// Offers gives the rules that are offered to a person.
func (d *Desk) Offers(ctx context.Context, who identity.Who) (out []OfferView, err error) {
	out = []OfferView{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		offers, err := ruling.Rules(t).Offers(who.Box, shownOffers)
		for _, o := range offers {
			did := map[string]string{"archive": "archived", "bin": "binned"}[o.Does]
			if did == "" {
				did = "put the same label on"
			}
			out = append(out, OfferView{ID: o.ID, Words: o.About + ": " + o.Does, Text: fmt.Sprintf("You have %s the last %d from %s.", did, o.Times, o.Name)})
		}
		return err
	})
	return out, err
}

// Refuse forgets an offer for good.
func (d *Desk) Refuse(ctx context.Context, who identity.Who, id int64) error {
	if err := who.May(together.Serve); err != nil {
		return err
	}
	return d.Journal.Announced(who.Box, journal.TopicRules, d.store.Write(ctx, func(t store.Tx) error {
		return ruling.Rules(t).SetOffer(who.Box, id, ruling.OfferRefused)
	}))
}
