package followups

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"

	"github.com/google/uuid"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// WriteDown makes a follow-up that is about no mail.
func (d *Desk) WriteDown(ctx context.Context, who identity.Who, key string, n NewFollowUp) (journal.Decided, error) {
	now := d.Journal.Now()
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		p, err := store.People(t).PersonByID(who.Keeper())
		if err != nil {
			return out, err
		}
		f, err := n.Write(followup.FollowUp{Status: followup.NeedsAction, Made: now}, p.FollowUp, who.Week, now)
		if err != nil {
			return out, err
		}
		f.UID = uuid.NewString()
		changes = []inbox.Change{{FollowUpAfter: &f}}
		text := "Written down."
		if !f.Due.IsZero() {
			text = "Written down, due " + who.Week.Say(f.Due, now) + "."
		}
		return d.Journal.Commit(t, who, store.Entry{Kind: inbox.MakeFollowUp, At: now}, changes, func(int) string { return text })
	})
	if fresh {
		d.Journal.Tell(who.Box, key, changes)
	}
	return out, err
}

// Write is f with what the user said put into it.
func (n NewFollowUp) Write(f followup.FollowUp, s followup.Settings, w when.Week, now when.Instant) (followup.FollowUp, error) {
	before := f
	f.Title, f.Due, f.Start, f.Priority, f.Project, f.Context = n.Title, n.Due, n.Start, n.Priority, n.Project, n.Context
	f.Labels, f.Notes, f.Effort, f.Percent = n.Labels, n.Notes, n.Effort, n.Percent
	f.Reminders, f.Repeat = slices.Clone(n.Reminders), n.Repeat
	if n.With.Address != "" || n.With.Name != "" {
		f.With = n.With
	}
	f.Checklist = slices.Clone(n.Checklist)
	for i := range f.Checklist {
		if f.Checklist[i].UID == "" {
			f.Checklist[i].UID = uuid.NewString()
		}
	}
	if remind := n.Remind.Realign(); !remind.IsZero() && !slices.ContainsFunc(f.Reminders, func(r followup.Reminder) bool { return r.At == remind }) {
		f.Reminders = append(f.Reminders, followup.Reminder{At: remind})
	}
	if ask := n.Waits.Ask.Realign(); !ask.IsZero() && ask.At <= now && ask != before.Waits.Ask {
		return f, problem.Invalid("ask", "Nothing was saved: the day to ask again has passed. Choose one that is still ahead.")
	}
	switch {
	case n.Waits.Since != 0:
		since := cmp.Or(before.Waits.Since, min(n.Waits.Since, now))
		if len(n.Waits.Also) > followup.MaxAlso {
			return f, problem.Invalid("also", fmt.Sprintf("Nothing was saved: at most %d people are waited for at once.", followup.MaxAlso+1))
		}
		f.Waits.Rhythm, f.Waits.Asked = n.Waits.Rhythm, 0
		if was := before.Waits; before.With == f.With && n.Waits.Rhythm != nil && was.Rhythm != nil && *n.Waits.Rhythm == *was.Rhythm {
			f.Waits.Asked = was.Asked
		}
		f.Waits.Only, f.Waits.Also, f.Waits.All, f.Waits.Have = n.Waits.Only, n.Waits.Also, n.Waits.All, n.Waits.Have
		f = s.WaitFor(f, since, n.Waits.Ask.Realign())
		if before.Waiting() && before.With == f.With {
			f.Waits.Offers = before.Waits.Offers
		}
		if n.Stage != "" && s.Stage(n.Stage).Means == followup.Others {
			f.Stage = n.Stage
		}
	case n.Stage != "" && n.Stage != s.In(before).ID || before.UID == "":
		f = s.Put(f, n.Stage, now)
	case before.Waiting(): // it waits no more
		f = s.Put(f, "", now)
	}
	f, err := s.New(f, before, w, now)
	switch {
	case errors.Is(err, followup.ErrPastReminder):
		return f, problem.Invalid("remind", "Nothing was saved: "+err.Error()+".")
	case err != nil:
		return f, problem.Invalid("title", "Nothing was saved: "+err.Error()+".")
	}
	if !slices.EqualFunc(f.Reminders, before.Reminders, func(a, b followup.Reminder) bool {
		return a.At == b.At && a.Of == b.Of && a.Days == b.Days && a.Minutes == b.Minutes
	}) {
		f.Card = false
	}
	return f, nil
}
