package accounts

import (
	"context"
	"fmt"
	"log/slog"
	"strconv"
	"sync"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/say"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/composing"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/backup"
	"ebbe/internal/store/mailboxes"
	"ebbe/internal/store/sending"
)

// rest is whether this Ebbe rests after it was restored from a backup: until its
// accounts have been looked at, nothing goes out, comes up, or is carried to a
// server.
type rest struct {
	sync.Mutex
	since   when.Instant // when the backup was made; 0: it does not rest
	waiting map[int64]bool
}

// BeginRest reads, at the start, whether this Ebbe rests.
func (d *Desk) BeginRest(t store.Tx) error {
	text, err := t.Meta("resting")
	if err != nil || text == "" {
		return err
	}
	since, err := strconv.ParseInt(text, 10, 64)
	if err != nil {
		return err
	}
	accounts, err := mailboxes.Accounts(t).Accounts(0)
	if err != nil {
		return err
	}
	d.rest.Lock()
	defer d.rest.Unlock()
	d.rest.since, d.rest.waiting = when.Instant(since), map[int64]bool{}
	for _, a := range accounts {
		if !a.Paused {
			d.rest.waiting[a.ID] = true
		}
	}
	return nil
}

// Resting says that this Ebbe was restored, and has not looked at all accounts
// since.
func (d *Desk) Resting() bool {
	d.rest.Lock()
	defer d.rest.Unlock()
	return d.rest.since != 0
}

// LookedAt notes that an account has been followed; with the last of them the
// rest is over. What waited then is kept for the user.
func (d *Desk) LookedAt(ctx context.Context, account int64) error {
	d.rest.Lock()
	defer d.rest.Unlock()
	if d.rest.since == 0 {
		return nil
	}
	if delete(d.rest.waiting, account); len(d.rest.waiting) > 0 {
		return nil
	}
	messages, decisions, reminders := 0, 0, 0
	err := d.store.Write(ctx, func(t store.Tx) (err error) {
		t.Durably()
		if messages, decisions, reminders, err = backup.Resting(t).RestRestored(d.Journal.Now()); err != nil {
			return err
		}
		return t.SetMeta("resting", "")
	})
	if err != nil {
		return err
	}
	d.rest.since = 0
	slog.Info("restored from a backup: what waited is kept for its user", "messages", messages, "decisions", decisions, "reminders", reminders)
	go d.Journal.AnnounceAll(journal.TopicAccounts, journal.TopicOutbox, journal.TopicMail)
	return nil
}

// Restored gives what waits for the user's word since this Ebbe was restored
// from a backup.
func (d *Desk) Restored(ctx context.Context, who identity.Who) (v RestoredView, err error) {
	v.Resting, v.Messages, v.Decisions, v.Reminders = d.Resting(), []composing.OutboxLine{}, []RestoredDecision{}, []string{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		rows, err := backup.Resting(t).RestoredOutgoing(who.Box)
		if err != nil {
			return err
		}
		for _, o := range rows {
			v.Messages = append(v.Messages, composing.LineOf(o))
		}
		about, err := backup.Resting(t).RestoredErrands(who.Box)
		for _, c := range about {
			from := c.FromName
			if from == "" {
				from = c.FromAddr
			}
			v.Decisions = append(v.Decisions, RestoredDecision{ID: c.ID, Subject: c.Subject, From: from, Place: c.Place})
		}
		if err != nil {
			return err
		}
		things, err := backup.Resting(t).RestoredReminders(who.Box)
		if err != nil {
			return err
		}
		state, err := store.Conversations(t).State(who.Box, 0, nil, store.Subjects(things))
		for _, th := range things {
			if f, ok := state.FollowUps[th.FollowUp]; ok {
				v.Reminders = append(v.Reminders, f.Title)
			} else if e, ok := state.Events[th.FollowUp]; ok {
				v.Reminders = append(v.Reminders, e.Title)
			}
		}
		return err
	})
	return v, err
}

// dropReminders is the changes with which reminders count as seen that waited
// when the backup was made: what they are about stays as it is.
func dropReminders(t store.Tx, who identity.Who, now when.Instant) (changes []inbox.Change, err error) {
	things, err := backup.Resting(t).RestoredReminders(who.Box)
	if err != nil {
		return nil, err
	}
	state, err := store.Conversations(t).State(who.Box, 0, nil, store.Subjects(things))
	if err != nil {
		return nil, err
	}
	for _, th := range things {
		if f, ok := state.FollowUps[th.FollowUp]; ok {
			after := f.Fire(who.Week, now)
			after.Card = f.Card
			changes = append(changes, inbox.Change{FollowUpBefore: &f, FollowUpAfter: &after})
		} else if e, ok := state.Events[th.FollowUp]; ok {
			after := e.Fire(now)
			after.Card = e.Card
			changes = append(changes, inbox.Change{EventBefore: &e, EventAfter: &after})
		}
		if err := store.Agenda(t).DropThing(th.ID); err != nil {
			return nil, err
		}
	}
	return changes, nil
}

// remindedOf are the follow-ups and events that changes leave as they are.
func remindedOf(changes []inbox.Change) (uids []string) {
	for _, c := range changes {
		if c.FollowUpAfter != nil {
			uids = append(uids, c.FollowUpAfter.UID)
		} else if c.EventAfter != nil {
			uids = append(uids, c.EventAfter.UID)
		}
	}
	return uids
}

// dropDecisions is the entry's changes, which change nothing about these
// conversations, once their servers are not to hear of what was decided.
func dropDecisions(t store.Tx, who identity.Who, about []store.Conversation) (changes []inbox.Change, err error) {
	ids := make([]int64, len(about))
	for i, c := range about {
		ids[i] = c.ID
	}
	state, err := store.Conversations(t).State(who.Box, who.Person, ids, nil)
	if err != nil {
		return nil, err
	}
	for _, id := range ids {
		if c, ok := state.Conversations[id]; ok {
			changes = append(changes, inbox.Change{Before: &c, After: &c})
		}
	}
	return changes, backup.Resting(t).DropHeld(who.Box, ids)
}

// RestOn lets the decisions that an entry dropped wait for the user's word again,
// or drops them again.
func RestOn(t store.Tx, s *journal.Step) error {
	s.Topics = append(s.Topics, journal.TopicAccounts, journal.TopicCards)
	for _, c := range s.Root.Changes {
		if c.After != nil {
			s.Entry.Touched = append(s.Entry.Touched, c.After.ID)
		}
	}
	if s.Back {
		return backup.Resting(t).RestErrands(s.Who.Box, s.Entry.Touched)
	}
	return backup.Resting(t).DropHeld(s.Who.Box, s.Entry.Touched)
}

// RestAgain lets the reminders that an entry dropped wait for the user's word again.
func RestAgain(t store.Tx, s *journal.Step) error {
	if !s.Back {
		return nil
	}
	return backup.Resting(t).RestReminders(s.Who.Box, remindedOf(s.Changes))
}

// SettleRestored lets what waits since this Ebbe was restored happen now, or
// never: messages, decisions that servers have not heard of, or reminders. To
// drop decisions or reminders is a step that can be taken back: they wait again
// then. A message that is dropped is a draft again.
func (d *Desk) SettleRestored(ctx context.Context, who identity.Who, what string, release bool) (text string, err error) {
	if err := who.May(together.Serve); err != nil {
		return text, err
	}
	if d.Resting() {
		return "", &problem.Error{Type: "resting", Text: "The accounts have not been looked at since this Ebbe was restored, so nothing was changed. See in Accounts what keeps them."}
	}
	switch what {
	case "messages":
		return d.settleMessages(ctx, who, release)
	case "decisions", "reminders":
	default:
		return "", problem.Invalid("what", "Ebbe does not know what is to be settled, so nothing was changed. Load the page again.")
	}
	reminders := what == "reminders"
	var changes []inbox.Change
	err = d.store.Write(ctx, func(t store.Tx) error {
		changes = nil
		about, err := backup.Resting(t).RestoredErrands(who.Box)
		if err != nil {
			return err
		}
		things, err := backup.Resting(t).RestoredReminders(who.Box)
		if err != nil {
			return err
		}
		e := store.Entry{Kind: inbox.DropRestored, At: d.Journal.Now(), Text: say.Plural(len(about), "decision")}
		switch {
		case reminders && release:
			text = fmt.Sprintf("%s up now.", say.Plural(len(things), "reminder"))
			return backup.Resting(t).ReleaseReminders(who.Box, d.Journal.Now())
		case reminders:
			e.Text = say.Plural(len(things), "reminder")
			text = fmt.Sprintf("%s discarded. What they are about stays as it is.", e.Text)
			changes, err = dropReminders(t, who, d.Journal.Now())
		case release:
			text = "The servers are told now."
			return backup.Resting(t).ReleaseErrands(who.Box)
		default:
			text = "The servers are not told."
			changes, err = dropDecisions(t, who, about)
		}
		if err == nil {
			_, err = d.Journal.Commit(t, who, e, changes, nil)
		}
		return err
	})
	if err == nil && reminders && release {
		err = d.Agenda.CatchUp(ctx)
	}
	if err == nil {
		d.Journal.Tell(who.Box, "", changes)
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicAccounts, journal.TopicCards}})
	}
	return text, err
}

// settleMessages sends what waits since this Ebbe was restored, or drops it.
func (d *Desk) settleMessages(ctx context.Context, who identity.Who, release bool) (string, error) {
	var rows []sending.Outgoing
	if err := d.store.Read(ctx, func(t store.Tx) (err error) { rows, err = backup.Resting(t).RestoredOutgoing(who.Box); return err }); err != nil {
		return "", err
	}
	for _, o := range rows {
		if err := d.Sending.Settle(ctx, who, o.ID, release); err != nil {
			return "", err
		}
	}
	if release {
		return fmt.Sprintf("%s going out now.", say.Plural(len(rows), "message")), nil
	}
	return fmt.Sprintf("%s discarded.", say.Plural(len(rows), "message")), nil
}
