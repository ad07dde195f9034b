package desk

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// write is f with what the user said put into it.
func (n NewFollowUp) write(f followup.FollowUp, s followup.Settings, w when.Week, now when.Instant) (followup.FollowUp, error) {
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
		return f, problem.Invalid("ask", "Nothing was stored: the day to ask again has passed. Choose one that is still ahead.")
	}
	switch {
	case n.Waits.Since != 0:
		since := cmp.Or(before.Waits.Since, min(n.Waits.Since, now))
		f.Waits.Only = n.Waits.Only
		f = s.WaitFor(f, since, n.Waits.Ask.Realign())
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
		return f, problem.Invalid("remind", "Nothing was stored: "+err.Error()+".")
	case err != nil:
		return f, problem.Invalid("title", "Nothing was stored: "+err.Error()+".")
	}
	if !slices.EqualFunc(f.Reminders, before.Reminders, func(a, b followup.Reminder) bool {
		return a.At == b.At && a.Of == b.Of && a.Days == b.Days && a.Minutes == b.Minutes
	}) {
		f.Card = false
	}
	return f, nil
}

// WriteDown makes a follow-up that is about no mail.
func (d *Desk) WriteDown(ctx context.Context, who identity.Who, key string, n NewFollowUp) (journal.Decided, error) {
	now := d.now()
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		p, err := t.PersonByID(who.Person)
		if err != nil {
			return out, err
		}
		f, err := n.write(followup.FollowUp{Status: followup.NeedsAction, Made: now}, p.FollowUp, who.Week, now)
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

// peopleKnown is how many people can be named in a line, namesKept for how long
// the names that can be are not read anew.
const (
	peopleKnown = 400
	namesKept   = time.Minute
)

// known is what the parts of a line can name.
func (v viewer) known() (k followup.Known, err error) {
	if time.Since(v.shelf.named) > namesKept {
		if k.Projects, err = v.t.Named(v.who.Box, "project"); err != nil {
			return k, err
		}
		if k.Contexts, err = v.t.Named(v.who.Box, "context"); err != nil {
			return k, err
		}
		if k.People, err = v.t.Recent(v.who.Box, peopleKnown); err != nil {
			return k, err
		}
		v.shelf.known, v.shelf.named = k, time.Now()
	}
	k = v.shelf.known
	k.Stages = v.set.Stages
	for _, l := range labelViews(v.labels, nil) {
		k.Labels = append(k.Labels, followup.Labelled{ID: l.ID, Path: l.Path})
	}
	return k, nil
}

// ReadLine says what a line that is being written down means, on top of what is
// proposed.
func (d *Desk) ReadLine(ctx context.Context, who identity.Who, a LineAsked) (w followup.Written, err error) {
	err = d.viewing(ctx, who, func(v viewer) error {
		k, err := v.known()
		w = followup.ReadLine(a.Line, followup.FollowUp{Title: a.Title, Due: a.Due, Project: a.Project, Priority: followup.Normal}, k, who.Week, d.now())
		return err
	})
	return w, err
}

// Proposal is the follow-up that a conversation asks for, as far as its newest
// message by somebody else tells.
func (d *Desk) Proposal(ctx context.Context, who identity.Who, conversation int64) (p followup.Proposal, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		letter, people, err := letterOf(t, who, conversation)
		if err != nil {
			return err
		}
		p = followup.Propose(letter, who.Week)
		if p.Due.At != 0 && p.Due.At <= d.now() {
			p.Due, p.DueText = when.Moment{}, ""
		}
		if p.Project, err = t.ProjectWith(who.Box, people); err != nil {
			return err
		}
		open, err := t.FollowUpsOf(who.Box, []int64{conversation})
		p.Known = len(open[conversation]) > 0
		return err
	})
	return p, err
}

// letterOf is the newest message of a conversation by somebody else, and who
// takes part in it.
func letterOf(t store.Tx, who identity.Who, conversation int64) (l followup.Letter, people []string, err error) {
	conversation, err = t.Resolve(who.Box, conversation)
	if err != nil {
		return l, nil, err
	}
	messages, err := t.MessagesOf(who.Box, conversation)
	if err != nil || len(messages) == 0 {
		return l, nil, cmp.Or(err, store.ErrNotFound)
	}
	own, err := intake.OwnAddresses(t, who.Box)
	if err != nil {
		return l, nil, err
	}
	m := messages[len(messages)-1]
	for _, x := range slices.Backward(messages) {
		if !x.Own {
			m = x
			break
		}
	}
	for _, a := range append([]mail.Address{{Address: m.FromAddr}}, slices.Concat(m.To, m.Cc)...) {
		if a.Address != "" && !own[a.Address] && !slices.Contains(people, a.Address) {
			people = append(people, a.Address)
		}
	}
	text, err := textOf(t, m.ID)
	return followup.Letter{From: mail.Address{Name: m.FromName, Address: m.FromAddr}, Subject: m.Subject, Text: text, Kind: m.Kind, Written: m.Date}, people, err
}

// textOf loads a message and gives its own words.
func textOf(t store.Tx, message int64) (string, error) {
	raw, err := t.Original(message)
	return ownWords(raw), err
}

// ownWords is what the sender of a message wrote, without what they quote.
func ownWords(raw []byte) string {
	body := post.Read(raw)
	text := body.Text
	if strings.TrimSpace(text) == "" && body.HTML != "" {
		text = post.TextOf(body.HTML)
	}
	var own []string
	for _, b := range mail.Fold(text) {
		if !b.Quoted {
			own = append(own, b.Text)
		}
	}
	return strings.Join(own, "\n\n")
}
