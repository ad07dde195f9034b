package followups

import (
	"context"
	"fmt"
	"slices"
	"strconv"

	"github.com/google/uuid"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// Step takes a step with one follow-up; see StepFollowUps.
func (d *Desk) Step(ctx context.Context, who identity.Who, key, uid string, step FollowUpStep) (journal.Decided, error) {
	step.UIDs = []string{uid}
	return d.StepAll(ctx, who, key, step)
}

// StepAll changes, finishes, reopens, puts off, stages or drops
// follow-ups, all in one step. Finishing archives their conversations with
// them, unless the user wants those to stay, and makes the next occurrence of
// what repeats. Of several, those that have changed elsewhere since they were
// seen are passed over and counted; of one, the error says so.
func (d *Desk) StepAll(ctx context.Context, who identity.Who, key string, step FollowUpStep) (journal.Decided, error) {
	if len(step.UIDs) == 0 {
		return journal.Decided{}, problem.Invalid("uids", "No follow-up was chosen, so nothing was done.")
	}
	now := d.Journal.Now()
	var changes []inbox.Change
	var calls []journal.Notice
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		p, err := store.People(t).PersonByID(who.Keeper())
		if err != nil {
			return out, err
		}
		state, err := store.Conversations(t).State(who.Box, who.Person, nil, step.UIDs)
		if err != nil {
			return out, err
		}
		s := stepper{step: step, set: p.FollowUp, w: who.Week, now: now, by: who.Person}
		if step.Kind == inbox.Give {
			if s.to, err = Receiver(t, who, step.Owner); err != nil {
				return out, err
			}
		}
		for _, uid := range step.UIDs {
			before, ok := state.FollowUps[uid]
			if !ok && len(step.UIDs) == 1 {
				return out, store.ErrNotFound
			}
			if !ok {
				s.passed++
				continue
			}
			delete(state.FollowUps, uid)
			if err := s.take(before); err != nil {
				return out, err
			}
		}
		changes = s.changes
		if len(s.archive) > 0 && !p.FollowUp.Keep {
			c, err := d.PutAway(t, who, s.archive, now)
			if err != nil {
				return out, err
			}
			changes = append(changes, c...)
		}
		kind := step.Kind
		if step.Closing {
			kind = inbox.CloseDay
		}
		e := store.Entry{Kind: kind, At: now}
		if kind == inbox.Give && len(changes) > 0 {
			if calls, err = s.given(t, who); err != nil {
				return out, err
			}
			e.Text = s.history()
			e.ConversationID = changes[0].Conversation()
		}
		out, err = d.Journal.Commit(t, who, e, changes, func(int) string { return s.sentence() })
		out.Stale = s.passed
		return out, err
	})
	if fresh {
		d.Journal.Notify(who.Box, calls)
		d.Journal.Tell(who.Box, key, changes)
	}
	return out, err
}

// PutAway takes conversations of finished follow-ups out of sight: those that are
// in the inbox or snoozed. What lies elsewhere stays there.
func (d *Desk) PutAway(t store.Tx, who identity.Who, conversations []int64, now when.Instant) (changes []inbox.Change, err error) {
	state, err := store.Conversations(t).State(who.Box, who.Person, conversations, nil)
	if err != nil {
		return nil, err
	}
	for _, id := range conversations {
		before, ok := state.Conversations[id]
		if !ok || before.Place != inbox.Inbox && before.Place != inbox.Snoozed {
			continue
		}
		delete(state.Conversations, id)
		after := before.In(inbox.Archived, now)
		changes = append(changes, inbox.Change{Before: &before, After: &after})
	}
	return changes, nil
}

// stepper takes one step with one follow-up after the other.
type stepper struct {
	step    FollowUpStep
	set     followup.Settings
	w       when.Week
	now     when.Instant
	changes []inbox.Change
	archive []int64 // conversations of what was finished
	passed  int     // follow-ups that were passed over
	done    int
	moved   int         // the most often that one of them was put off
	next    when.Moment // when the next occurrence is due
	missed  int
	ended   bool // a series has ended
	last    followup.FollowUp
	by      int64  // who takes the step
	to      string // what whoever is given something is called
}

func (s *stepper) take(before followup.FollowUp) error {
	if seen := s.step.Seen; seen == "open" && !before.Open() || seen == "finished" && before.Open() {
		if len(s.step.UIDs) > 1 {
			s.passed++
			return nil
		}
		if seen == "open" {
			return &problem.Error{Type: "finished", Text: fmt.Sprintf("“%s” was %s meanwhile and stays so. Open it again first if there is more to do.", before.Title, map[bool]string{true: "cancelled", false: "finished"}[before.Status == followup.Cancelled])}
		}
		return &problem.Error{Type: "open", Text: fmt.Sprintf("“%s” was opened again meanwhile, so nothing was changed.", before.Title)}
	}
	after, err := s.apply(before)
	if err != nil {
		return err
	}
	if !after.Equal(before) {
		if s.step.Kind != inbox.SeenReminder {
			after.Changed = s.now
		}
		s.changes = append(s.changes, inbox.Change{FollowUpBefore: &before, FollowUpAfter: &after})
		s.done++
	}
	if before.Open() && after.Status == followup.Completed {
		if before.Conversation != 0 && s.step.Kind != inbox.AcceptAnswer { // the answer stays to be read
			s.archive = append(s.archive, before.Conversation)
		}
		if before.Repeat != nil {
			next, missed, ok := followup.NextOf(before, s.now, s.w)
			if ok {
				next.UID = uuid.NewString()
				s.changes = append(s.changes, inbox.Change{FollowUpAfter: &next})
				s.next, s.missed = next.Due, missed
			} else {
				s.ended = true
			}
		}
	}
	s.last = after
	return nil
}

func (s *stepper) apply(f followup.FollowUp) (followup.FollowUp, error) {
	step, now := s.step, s.now
	switch step.Kind {
	case inbox.ChangeFollow:
		if step.Change == nil {
			return f, problem.Invalid("change", "Nothing was said about what to change, so nothing was.")
		}
		return step.Change.Write(f, s.set, s.w, now)
	case inbox.FinishFollow:
		f = f.Finish(now)
		return f, nil
	case inbox.DropFollow:
		return f.Drop(now), nil
	case inbox.ReopenFollow:
		return f.Reopen(s.set), nil
	case inbox.Give:
		return f.Give(step.Owner, s.by, "", now), nil
	case inbox.PutInStage:
		if !slices.ContainsFunc(s.set.Stages, func(st followup.Stage) bool { return st.ID == step.Stage }) {
			return f, problem.Invalid("stage", "That stage has been deleted meanwhile, so nothing was moved.")
		}
		return s.set.Put(f, step.Stage, now), nil
	case inbox.WaitFor:
		if (step.With.Address != "" || step.With.Name != "") && step.With != f.With {
			f.With, f.Waits.Rhythm, f.Waits.Asked = step.With, nil, 0 // nobody has asked them yet
		}
		if f.With.Address == "" && f.With.Name == "" {
			return f, problem.Invalid("with", "Nobody was named to wait for, so nothing was changed. Name somebody.")
		}
		if ask := step.Ask.Realign(); !ask.IsZero() && ask.At <= now {
			return f, problem.Invalid("ask", "That time has passed, so nothing was changed. Choose a day to ask again that is still ahead.")
		}
		since := now
		if f.Waiting() {
			since = f.Waits.Since
		}
		if step.Rhythm != nil {
			if err := step.Rhythm.Valid(); err != nil {
				return f, problem.Invalid("rhythm", "Nothing was changed: "+err.Error()+".")
			}
			f.Waits.Rhythm, f.Waits.Asked = step.Rhythm, 0
		}
		f.Card = false
		return s.set.WaitFor(f, since, step.Ask.Realign()), nil
	case inbox.AcceptAnswer, inbox.RefuseAnswer:
		i := slices.IndexFunc(f.Waits.Offers, func(o followup.Candidate) bool { return o.Message == step.Message })
		if i < 0 || !f.Waiting() {
			return f, &problem.Error{Type: "not-offered", Text: fmt.Sprintf("That message is not offered as the answer to “%s” any more, so nothing was changed.", f.Title)}
		}
		if step.Kind == inbox.RefuseAnswer {
			return f.Refuse(step.Message), nil
		}
		after := s.set.AnsweredBy(f, f.Waits.Offers[i].From, now)
		if after.Waiting() { // others have to answer, too
			after = after.Refuse(step.Message)
		}
		return after, nil
	case inbox.KeepWaiting:
		if f.Waiting() || f.Waits.Ended == 0 {
			return f, &problem.Error{Type: "not-ended", Text: fmt.Sprintf("No answer to “%s” has come that could have been none, so nothing was changed.", f.Title)}
		}
		ask := step.Ask.Realign()
		if r := f.Waits.Rhythm; r != nil && ask.IsZero() && !f.Waits.InVain() {
			ask = r.First(s.w, now)
		}
		return s.set.KeepWaiting(f, ask), nil
	case inbox.PutOff:
		return s.putOff(f)
	case inbox.SeenReminder:
		remind := step.Remind.Realign()
		if !remind.IsZero() && remind.At <= now {
			return f, problem.Invalid("remind", "That time has passed. The reminder stays; choose a time that is still ahead.")
		}
		return f.RemindAgain(remind), nil
	}
	return f, problem.Invalid("kind", "Ebbe does not know that step, so nothing was changed.")
}

func (s *stepper) putOff(f followup.FollowUp) (followup.FollowUp, error) {
	if !f.Open() {
		return f, &problem.Error{Type: "finished", Text: fmt.Sprintf("“%s” is done, so it was not moved. Open it again first.", f.Title)}
	}
	before := f.Due
	switch to := s.step.To.Realign(); {
	case s.step.Day != nil && (*s.step.Day < 0 || *s.step.Day > 366):
		return f, problem.Invalid("day", "A follow-up can be moved to today or a day of the coming year.")
	case s.step.Day != nil:
		f = f.MoveTo(*s.step.Day, s.w, s.now)
	case to.IsZero(): // no date any more
		f.Due = when.Moment{}
		if f.Repeat != nil {
			return f, problem.Invalid("to", "What repeats needs a due date, so nothing was changed.")
		}
		if slices.ContainsFunc(f.Reminders, func(r followup.Reminder) bool { return r.Of == followup.OfDue }) {
			f.Reminders = slices.DeleteFunc(slices.Clone(f.Reminders), func(r followup.Reminder) bool { return r.Of == followup.OfDue })
			f = f.Tidy()
		}
	default:
		f = f.MoveAt(to, s.w, s.now)
	}
	if s.step.Closing && before != f.Due {
		f.Moved++
		f.Card = false
		s.moved = max(s.moved, f.Moved)
	}
	return f, nil
}

// ordinals are words for how often something was put off.
var ordinals = map[int]string{3: "third", 4: "fourth", 5: "fifth", 6: "sixth", 7: "seventh", 8: "eighth", 9: "ninth", 10: "tenth"}

func (s *stepper) sentence() string {
	many := ""
	if s.done > 1 {
		many = fmt.Sprintf(" %d", s.done)
	}
	text := ""
	switch s.step.Kind {
	case inbox.ChangeFollow:
		text = "Changed."
	case inbox.FinishFollow:
		text = "Finished" + many + "."
	case inbox.DropFollow:
		text = "Cancelled" + many + "."
	case inbox.ReopenFollow:
		text = "Open again."
	case inbox.Give:
		text = "Given" + many + " to " + s.to + "."
		switch s.step.Owner {
		case 0:
			text = "Given back" + many + ": nobody has it now."
		case s.by:
			text = "Taken" + many + ": you have it now."
		}
	case inbox.PutInStage:
		text = "Now in “" + s.set.Stage(s.step.Stage).Name + "”."
	case inbox.AcceptAnswer:
		text = "That is the answer: you need not wait any more."
		if s.last.Waiting() { // of one of several
			text = "That is an answer. " + fmt.Sprintf("Still to come: %d.", len(s.last.Missing()))
		}
	case inbox.RefuseAnswer:
		text = "Not the answer: still waiting for " + s.last.With.Short() + "."
	case inbox.KeepWaiting:
		text = "No answer yet: waiting for " + s.last.With.Short() + " again."
	case inbox.WaitFor:
		text = "Waiting for " + s.last.With.Short()
		if ask := s.last.Waits.Ask; !ask.IsZero() {
			text += ", to ask again " + s.w.Say(ask, s.now)
			if r := s.last.Waits.Rhythm; r != nil {
				text += ", then " + r.Say()
			}
		}
		text += "."
	case inbox.PutOff:
		text = "Moved" + many + " to " + s.w.Say(s.last.Due, s.now) + "."
		if s.last.Due.IsZero() {
			text = "No date" + many + " any more."
		}
	}
	if s.moved >= 3 {
		word := ordinals[s.moved]
		if word == "" {
			word = strconv.Itoa(s.moved) + "th"
		}
		text += fmt.Sprintf(" It is the %s time that it was put off.", word)
	}
	switch {
	case !s.next.IsZero() && s.missed == 1:
		text += " The next is due " + s.w.Say(s.next, s.now) + "; one was missed and is not made up for."
	case !s.next.IsZero() && s.missed > 1:
		text += fmt.Sprintf(" The next is due %s; %d were missed and are not made up for.", s.w.Say(s.next, s.now), s.missed)
	case !s.next.IsZero():
		text += " The next is due " + s.w.Say(s.next, s.now) + "."
	case s.ended:
		text += " It was the last of its series."
	}
	if s.passed > 0 {
		text += fmt.Sprintf(" %d had changed elsewhere meanwhile and stay as they are.", s.passed)
	}
	return text
}
