package journal

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/say"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/membership"
	"ebbe/internal/store/talk"
)

// TakeBack takes back the newest decision of the person that still stands.
// What has been changed since by the clock or by new mail stays as it is.
func (j *Journal) TakeBack(ctx context.Context, who identity.Who, key string) (Decided, error) {
	return j.revert(ctx, who, key, inbox.TakeBack)
}

// Seen is what somebody sees who takes back their last decision: since when the screen
// they are at shows what they decide (0: they see all), and which entry was named to
// them already.
type Seen struct {
	Since when.Instant `json:"since"`
	Named int64        `json:"named"`
}

// fresh is for how long a decision is taken back without its being named.
const fresh = when.Instant(5 * 60_000)

// TakeBackSeen takes back the last decision as TakeBack does, if it is of the last five
// minutes and of the screen the person is at. Any other is only named, by Decided.Named
// and in the sentence; nothing is changed until it is asked for so.
func (j *Journal) TakeBackSeen(ctx context.Context, who identity.Who, key string, seen Seen) (out Decided, err error) {
	if seen.Since == 0 {
		return j.TakeBack(ctx, who, key)
	}
	now := j.Now()
	err = j.store.Read(ctx, func(t store.Tx) error {
		done, err := store.Journal(t).LastStep(who.Box, who.Person)
		if errors.Is(err, store.ErrNotFound) {
			return nil // what is said then is said below
		}
		if err != nil || done.ID == seen.Named || done.At >= max(seen.Since, now-fresh) {
			return err
		}
		out.Named = done.ID
		out.Text = fmt.Sprintf("Last was %s, %s %s. Once more takes it back.", j.what(done), j.kinds[done.Kind].Verb, who.Week.Say(when.Moment{At: done.At}, now))
		out.Left, err = store.Conversations(t).Left(who.Box)
		return err
	})
	if err != nil || out.Named != 0 {
		return out, err
	}
	return j.TakeBack(ctx, who, key)
}

// Again does again what was taken back last, as long as nothing else has been
// decided since.
func (j *Journal) Again(ctx context.Context, who identity.Who, key string) (Decided, error) {
	return j.revert(ctx, who, key, inbox.Again)
}

func (j *Journal) revert(ctx context.Context, who identity.Who, key string, kind inbox.Kind) (Decided, error) {
	return j.reverting(ctx, who, key, kind, func(t store.Tx) (store.Entry, error) {
		find, none := store.Journal(t).LastStep, "There is nothing left to take back."
		if kind == inbox.Again {
			find, none = store.Journal(t).LastTakeBack, "There is nothing that was taken back last."
		}
		done, err := find(who.Box, who.Person)
		if errors.Is(err, store.ErrNotFound) {
			err = &problem.Error{Type: "nothing-to-take-back", Text: none}
		}
		return done, err
	})
}

// CanTakeBack says that somebody can take back an entry: a step of their own, or in the box of a
// team what another member did with what is the team's (together.Shared).
func CanTakeBack(who identity.Who, e store.Entry) bool {
	return e.Step && e.Of == 0 && (e.PersonID == who.Person || who.Team != 0 && e.Actor == store.ByPerson && together.Shared(e.Kind))
}

// shared are changes without what they did to the marks of whoever made them.
func shared(changes []inbox.Change) []inbox.Change {
	changes = slices.Clone(changes)
	for i, c := range changes {
		if c.Before != nil && c.After != nil {
			before := *c.Before
			before.Unread, before.Starred, before.Looks = c.After.Unread, c.After.Starred, c.After.Looks
			changes[i].Before = &before
		}
	}
	return changes
}

// tellOf has somebody hear that another member has taken back what they did, by the entry with the
// ID by; it gives a sentence for whoever did, and what the other is told at once.
func (j *Journal) tellOf(t store.Tx, who identity.Who, done store.Entry, by int64) (says string, n Notice, err error) {
	names, err := membership.Membership(t).Names(who.Box)
	if err != nil {
		return "", n, err
	}
	in, err := membership.Membership(t).In(who.Person, who.Box)
	if err != nil {
		return "", n, err
	}
	told, err := talk.Talk(t).Tell(done.PersonID, store.Entry{ID: by, BoxID: who.Box, ConversationID: done.ConversationID})
	if err != nil {
		return "", n, err
	}
	says = fmt.Sprintf("Taken back what %s did: %s.", cmp.Or(names[done.PersonID], "somebody who left"), j.what(done))
	if told {
		says += " They are told."
	}
	n = Notice{Text: fmt.Sprintf("%s, %s: took back what you did (%s, %s)", names[who.Person], in.Name, j.what(done), j.kinds[done.Kind].Verb), Conversation: done.ConversationID, Box: who.Box}
	n, err = Quietly(t, done.PersonID, n, j.Now())
	return says, n, err
}

// Quietly gives a notification from a team to one of its members, or keeps it while they want to
// hear nothing, by the plan of their own box: then they hear it afterwards, in words alone, and
// now only that there is something.
func Quietly(t store.Tx, person int64, n Notice, now when.Instant) (Notice, error) {
	n.To = person
	p, err := store.People(t).PersonByID(person)
	if errors.Is(err, store.ErrNotFound) { // they have left
		return Notice{To: person}, nil
	}
	if err != nil || !p.Delivery.Silent(now, p.Week.Location()) {
		return n, err
	}
	own, err := store.People(t).BoxOf(person)
	if err != nil {
		return Notice{To: person}, err
	}
	return Notice{To: person}, store.HeldMail(t).Postpone(store.Postponed{BoxID: own, Text: n.Text})
}

// TakeBackStep takes back one decision of the person, or of another member of their team, however
// long ago, if nothing since depends on it; else the error says what does. Whoever took it hears of
// that.
func (j *Journal) TakeBackStep(ctx context.Context, who identity.Who, key string, id int64) (Decided, error) {
	return j.reverting(ctx, who, key, inbox.TakeBack, func(t store.Tx) (done store.Entry, err error) {
		if done, err = store.Journal(t).Entry(who.Box, id); err != nil {
			return done, err
		}
		switch {
		case done.TakenBack != 0:
			return done, &problem.Error{Type: "taken-back", Text: "That has been taken back already."}
		case !CanTakeBack(who, done):
			return done, &problem.Error{Type: "no-step", Text: "That was not a decision of yours, so there is nothing to take back."}
		case done.PersonID != who.Person:
			done.Changes = shared(done.Changes)
		}
		return done, j.depends(t, who, done)
	})
}

// depends is the error that says what has changed since, if anything has, of
// that which the entry dij.
func (j *Journal) depends(t store.Tx, who identity.Who, done store.Entry) error {
	state, err := stateOf(t, who, done.Changes)
	if err != nil {
		return err
	}
	var in []int64
	for _, c := range done.Changes {
		if !inbox.Stands(c, nowOf(state, c)) {
			in = append(in, c.Conversation())
		}
	}
	if len(in) == 0 {
		return nil
	}
	since, err := store.Journal(t).Since(who.Box, done.ID, in)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	text := "That cannot be taken back by itself: it has changed since. Nothing was changed now."
	if err == nil {
		at := who.Week.Say(when.Moment{At: since.At}, j.Now())
		text = fmt.Sprintf("That cannot be taken back by itself: “%s” has changed since (%s, %s). Take that back first; nothing was changed now.", since.Text, j.kinds[since.Kind].Verb, at)
	}
	return &problem.Error{Type: "depends", Text: text}
}

// reverting takes back, or does again, the entry that find gives.
func (j *Journal) reverting(ctx context.Context, who identity.Who, key string, kind inbox.Kind, find func(store.Tx) (store.Entry, error)) (Decided, error) {
	var changes []inbox.Change
	var topics []string
	var touched []int64
	var to int64 // whose step it was, if it was another's
	var notice Notice
	out, fresh, err := Once(ctx, j, who, key, func(t store.Tx) (out Decided, err error) {
		done, err := find(t)
		if err != nil {
			return out, err
		}
		if changes, err = reverted(t, who, done.Changes); err != nil {
			return out, err
		}
		root := done
		if kind == inbox.Again {
			if root, err = store.Journal(t).Entry(done.BoxID, done.Of); err != nil {
				return out, err
			}
		}
		step := Step{Who: who, Done: done, Root: root, Back: kind == inbox.TakeBack, Changes: changes,
			Entry: store.Entry{Kind: kind, Actor: store.ByPerson, At: j.Now(), Of: done.ID, Ref: done.Ref, Chosen: done.Chosen.Back(), Text: done.Text, ConversationID: done.ConversationID, BoxID: who.Box, PersonID: who.Person, Quiet: !together.Told(root.Kind)}}
		for _, also := range append(slices.Clone(j.always), j.kinds[root.Kind].Before) {
			if also != nil {
				if err := also(t, &step); err != nil {
					return out, err
				}
			}
		}
		changes = step.Changes
		if len(changes) == 0 && step.Entry.Ref == 0 && len(step.Entry.Touched) == 0 && step.Entry.Chosen == nil { // the line is written all the same: it was asked for
			if err := store.Journal(t).Record(&step.Entry); err != nil {
				return out, err
			}
			out.Entry, out.Text = step.Entry.ID, "Nothing of it was left to take back: it has changed since."
			if out.Left, err = store.Conversations(t).Left(who.Box); err != nil {
				return out, err
			}
		} else if out, err = j.Commit(t, who, step.Entry, changes, nil); err != nil {
			return out, err
		} else {
			out.Text = j.sentence(kind, done)
		}
		if err := store.Journal(t).SetTakenBack(done.ID, out.Entry, false); err != nil {
			return out, err
		}
		if kind == inbox.Again {
			if err := store.Journal(t).SetTakenBack(done.Of, 0, true); err != nil {
				return out, err
			}
		}
		if after := j.kinds[root.Kind].After; after != nil {
			if err := after(t, &step); err != nil {
				return out, err
			}
		}
		if topics, touched = step.Topics, step.Entry.Touched; done.PersonID == who.Person {
			return out, nil
		}
		to = done.PersonID
		out.Text, notice, err = j.tellOf(t, who, done, out.Entry)
		return out, err
	})
	if fresh {
		about, conversations := TopicsOf(changes)
		j.Announce(who.Box, Event{Topics: append(about, topics...), Conversations: append(conversations, touched...), Key: key})
		if to != 0 {
			j.Announce(who.Box, Event{Topics: []string{TopicTalk}, Notice: notice})
		}
	}
	return out, err
}

// thing is what changes are about, in a word.
func thing(changes []inbox.Change) string {
	for _, c := range changes {
		if c.Before != nil || c.After != nil || c.FollowUpBefore == nil && c.FollowUpAfter == nil {
			return "conversation"
		}
	}
	if len(changes) == 0 {
		return "conversation"
	}
	return "follow-up"
}

// what is what an entry is about, in a sentence.
func (j *Journal) what(done store.Entry) string {
	if done.Count > 1 && !j.kinds[done.Kind].Named {
		return say.Plural(done.Count, thing(done.Changes))
	}
	return "“" + done.Text + "”"
}

// Verb says in a sentence what entries of a kind did: “binned”.
func (j *Journal) Verb(kind inbox.Kind) string { return j.kinds[kind].Verb }

func (j *Journal) sentence(kind inbox.Kind, done store.Entry) string {
	what := j.what(done)
	if kind == inbox.Again {
		return "Done again: " + what + "."
	}
	return "Taken back: " + what + "."
}

// stateOf loads how everything is now that the changes are about.
func stateOf(t store.Tx, who identity.Who, done []inbox.Change) (store.State, error) {
	var ids []int64
	var uids []string
	for _, c := range done {
		if c.After != nil || c.Before != nil {
			ids = append(ids, c.Conversation())
		}
		for _, f := range []*followup.FollowUp{c.FollowUpBefore, c.FollowUpAfter} {
			if f != nil {
				uids = append(uids, f.UID)
			}
		}
		for _, e := range []*calendar.Event{c.EventBefore, c.EventAfter} {
			if e != nil {
				uids = append(uids, e.UID)
			}
		}
	}
	return store.Conversations(t).State(who.Box, who.Person, ids, uids)
}

// nowOf is how the subject of the change c is now.
func nowOf(state store.State, c inbox.Change) (now inbox.Change) {
	if c.After != nil || c.Before != nil {
		if s, ok := state.Conversations[c.Conversation()]; ok {
			now.After = &s
		}
	}
	for _, f := range []*followup.FollowUp{c.FollowUpBefore, c.FollowUpAfter} {
		if f != nil {
			if s, ok := state.FollowUps[f.UID]; ok {
				now.FollowUpAfter = &s
			}
		}
	}
	for _, e := range []*calendar.Event{c.EventBefore, c.EventAfter} {
		if e != nil {
			if s, ok := state.Events[e.UID]; ok {
				now.EventAfter = &s
			}
		}
	}
	return now
}

// reverted is what takes back the changes, given how everything is now.
func reverted(t store.Tx, who identity.Who, done []inbox.Change) (changes []inbox.Change, err error) {
	state, err := stateOf(t, who, done)
	if err != nil {
		return nil, err
	}
	for _, c := range done {
		if r := inbox.Revert(c, nowOf(state, c)); !r.Nothing() {
			changes = append(changes, r)
		}
	}
	return changes, oneOwner(t, who.Box, changes)
}

// oneOwner has what comes back in changes be nobody's where somebody else has its conversation by now.
func oneOwner(t store.Tx, box int64, changes []inbox.Change) error {
	again := func(c inbox.Change) bool { // it was nobody's, or not there, and is somebody's with this
		b, a := c.FollowUpBefore, c.FollowUpAfter
		return a != nil && a.Open() && a.Owner.Person != 0 && a.Conversation != 0 && (b == nil || !b.Open() || b.Owner.Person == 0)
	}
	var ids []int64
	for _, c := range changes {
		if again(c) {
			ids = append(ids, c.FollowUpAfter.Conversation)
		}
	}
	if len(ids) == 0 {
		return nil
	}
	open, err := store.FollowUps(t).FollowUpsOf(box, ids)
	for i, c := range changes {
		if !again(c) {
			continue
		}
		for _, f := range open[c.FollowUpAfter.Conversation] {
			if f.UID != c.FollowUpAfter.UID && f.Data.Owner.Person != 0 {
				back := *c.FollowUpAfter
				back.Owner = followup.Owner{}
				changes[i].FollowUpAfter = &back
			}
		}
	}
	return err
}
