package followups

import (
	"context"
	"fmt"
	"strings"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// cardsShown is up to how many reminders are shown as cards; more than that are
// told in one sentence.
const cardsShown = 6

// Cards gives what has come up by itself and waits for an answer.
func (d *Desk) Cards(ctx context.Context, who identity.Who) (c Cards, err error) {
	now := d.Journal.Now()
	c.Cards = []FollowUpView{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		all, urgent, late, err := store.FollowUps(t).CountCards(who.Box, now)
		if err != nil {
			return err
		}
		rows, err := store.FollowUps(t).Cards(who.Box, cardsShown)
		if err != nil {
			return err
		}
		if c.Count = all; all > cardsShown {
			c.Sum = sumOfCards(all, urgent, late, rows[0].Data.Title)
			rows = nil
		}
		if c.Cards, err = d.followUpViews(t, who, rows); err != nil {
			return err
		}
		if c.Events, err = store.Calendar(t).EventCards(who.Box, now); err != nil {
			return err
		}
		p, err := store.People(t).PersonByID(who.Keeper())
		if err != nil || p.FollowUp.Called < when.DayStart(now, who.Week.Location(), 0) { // of another day, or not at all
			return err
		}
		c.Close, err = store.FollowUps(t).CountFollowUps(who.Box, 1, when.DayStart(now, who.Week.Location(), 1))
		return err
	})
	if c.Events == nil {
		c.Events = []calendar.Event{}
	}
	return c, err
}

func sumOfCards(all, urgent, late int, first string) string {
	text := fmt.Sprintf("%d reminders have come up", all)
	var parts []string
	if urgent > 0 {
		parts = append(parts, fmt.Sprintf("%d urgent", urgent))
	}
	if late > 0 {
		parts = append(parts, fmt.Sprintf("%d late", late))
	}
	if len(parts) > 0 {
		text += ": " + strings.Join(parts, ", ")
	}
	return text + ". The first is “" + first + "”."
}

// PutCardsAway puts all cards away.
func (d *Desk) PutCardsAway(ctx context.Context, who identity.Who, key string) (journal.Decided, error) {
	var uids []string
	err := d.store.Read(ctx, func(t store.Tx) error {
		rows, err := store.FollowUps(t).Cards(who.Box, 10_000)
		for _, r := range rows {
			uids = append(uids, r.UID)
		}
		return err
	})
	if err != nil || len(uids) == 0 {
		return journal.Decided{}, err
	}
	return d.StepAll(ctx, who, key, FollowUpStep{Kind: inbox.SeenReminder, UIDs: uids})
}
