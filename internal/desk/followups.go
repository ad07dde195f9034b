package desk

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/google/uuid"

	"ebbe/internal/core/calendar"
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

// StepFollowUp takes a step with one follow-up; see StepFollowUps.
func (d *Desk) StepFollowUp(ctx context.Context, who identity.Who, key, uid string, step FollowUpStep) (journal.Decided, error) {
	step.UIDs = []string{uid}
	return d.StepFollowUps(ctx, who, key, step)
}

// StepFollowUps changes, finishes, reopens, puts off, stages or drops
// follow-ups, all in one step. Finishing archives their conversations with
// them, unless the user wants those to stay, and makes the next occurrence of
// what repeats. Of several, those that have changed elsewhere since they were
// seen are passed over and counted; of one, the error says so.
func (d *Desk) StepFollowUps(ctx context.Context, who identity.Who, key string, step FollowUpStep) (journal.Decided, error) {
	if len(step.UIDs) == 0 {
		return journal.Decided{}, problem.Invalid("uids", "No follow-up was chosen, so nothing was done.")
	}
	now := d.now()
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		p, err := t.PersonByID(who.Person)
		if err != nil {
			return out, err
		}
		state, err := t.State(who.Box, who.Person, nil, step.UIDs)
		if err != nil {
			return out, err
		}
		s := stepper{step: step, set: p.FollowUp, w: who.Week, now: now}
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
			c, err := d.leave(t, who, s.archive, now)
			if err != nil {
				return out, err
			}
			changes = append(changes, c...)
		}
		kind := step.Kind
		if step.Closing {
			kind = inbox.CloseDay
		}
		out, err = d.Journal.Commit(t, who, store.Entry{Kind: kind, At: now}, changes, func(int) string { return s.sentence() })
		out.Stale = s.passed
		return out, err
	})
	if fresh {
		d.Journal.Tell(who.Box, key, changes)
	}
	return out, err
}

// leave takes conversations of finished follow-ups out of sight: those that are
// in the inbox or snoozed. What lies elsewhere stays there.
func (d *Desk) leave(t store.Tx, who identity.Who, conversations []int64, now when.Instant) (changes []inbox.Change, err error) {
	state, err := t.State(who.Box, who.Person, conversations, nil)
	if err != nil {
		return nil, err
	}
	for _, id := range conversations {
		before, ok := state.Conversations[id]
		if !ok || before.Place != inbox.Inbox && before.Place != inbox.Snoozed {
			continue
		}
		delete(state.Conversations, id)
		after, err := inbox.Decide(before, inbox.Decision{Kind: inbox.Archive}, now)
		if err != nil {
			return nil, err
		}
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
}

func (s *stepper) take(before followup.FollowUp) error {
	if seen := s.step.Seen; seen == "open" && !before.Open() || seen == "finished" && before.Open() {
		if len(s.step.UIDs) > 1 {
			s.passed++
			return nil
		}
		if seen == "open" {
			return &problem.Error{Type: "finished", Text: fmt.Sprintf("“%s” was %s meanwhile and stays so. Open it again first if there is more to do.", before.Title, map[bool]string{true: "dropped", false: "finished"}[before.Status == followup.Cancelled])}
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
		if before.Conversation != 0 {
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
		return step.Change.write(f, s.set, s.w, now)
	case inbox.FinishFollow:
		f = f.Finish(now)
		return f, nil
	case inbox.DropFollow:
		return f.Drop(now), nil
	case inbox.ReopenFollow:
		return f.Reopen(s.set), nil
	case inbox.PutInStage:
		if !slices.ContainsFunc(s.set.Stages, func(st followup.Stage) bool { return st.ID == step.Stage }) {
			return f, problem.Invalid("stage", "That stage has been deleted meanwhile, so nothing was moved.")
		}
		return s.set.Put(f, step.Stage, now), nil
	case inbox.WaitFor:
		if step.With.Address != "" || step.With.Name != "" {
			f.With = step.With
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
		f.Card = false
		return s.set.WaitFor(f, since, step.Ask.Realign()), nil
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
		text = "Dropped" + many + "."
	case inbox.ReopenFollow:
		text = "Open again."
	case inbox.PutInStage:
		text = "Now in “" + s.set.Stage(s.step.Stage).Name + "”."
	case inbox.WaitFor:
		text = "Waiting for " + s.last.With.Short()
		if ask := s.last.Waits.Ask; !ask.IsZero() {
			text += ", to ask again " + s.w.Say(ask, s.now)
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

// realignFollowUps computes anew what the agenda says of all open follow-ups,
// after the day parts or the zone have changed.
func realignFollowUps(t store.Tx, box int64) error {
	all, err := t.AllFollowUps(box)
	if err != nil {
		return err
	}
	return t.PutFollowUps(box, slices.DeleteFunc(all, func(f followup.FollowUp) bool { return !f.Open() }))
}

// FollowUpSettings gives how the user works with follow-ups.
func (d *Desk) FollowUpSettings(ctx context.Context, who identity.Who) (s FollowUpSettings, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		p, err := t.PersonByID(who.Person)
		if err != nil {
			return err
		}
		s.Settings, s.Feed = p.FollowUp, p.Feed != ""
		if s.Projects, err = t.Named(who.Box, "project"); err != nil {
			return err
		}
		s.Contexts, err = t.Named(who.Box, "context")
		return err
	})
	return s, err
}

// ChooseFollowUps stores how the user works with follow-ups. What lies in a
// stage that goes is in the first one of its meaning then.
func (d *Desk) ChooseFollowUps(ctx context.Context, who identity.Who, s followup.Settings) error {
	for i := range s.Stages {
		if s.Stages[i].ID == "" {
			s.Stages[i].ID = uuid.NewString()
		}
		s.Stages[i].Name = strings.Join(strings.Fields(s.Stages[i].Name), " ")
	}
	for i := range s.Views {
		if s.Views[i].ID == "" {
			s.Views[i].ID = uuid.NewString()
		}
	}
	if s.Views == nil {
		s.Views = []followup.View{}
	}
	if err := s.Valid(); err != nil {
		return problem.Invalid("stages", "Nothing was changed: "+err.Error()+".")
	}
	err := d.store.Write(ctx, func(t store.Tx) error {
		p, err := t.PersonByID(who.Person)
		if err != nil {
			return err
		}
		s.Called = p.FollowUp.Called
		p.FollowUp = s
		if err := t.PutPerson(&p, who.Box, nil); err != nil {
			return err
		}
		if err := t.Restage(who.Box, s); err != nil {
			return err
		}
		return callForClosing(t, who.Box, p, d.now())
	})
	if err == nil {
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicFollowUps, journal.TopicPerson}})
	}
	return err
}

// callForClosing notes on the agenda when the day is closed next: on the next
// working day at the time chosen.
func callForClosing(t store.Tx, box int64, p store.Person, now when.Instant) error {
	if p.FollowUp.CloseAt < 0 {
		return t.SetTime(box, inbox.CloseDay, 0)
	}
	loc := p.Week.Location()
	for i := range 8 {
		day := when.DayStart(now, loc, i).In(loc)
		if at := when.At(day, p.FollowUp.CloseAt, loc); at > now && p.Week.Works(day.Weekday()) {
			return t.SetTime(box, inbox.CloseDay, at)
		}
	}
	return t.SetTime(box, inbox.CloseDay, 0)
}

// The sizes of lists of follow-ups: how many groups come with their first
// follow-ups, how many those are, and how many more come at once.
const (
	groupsLoaded  = 6
	followUpsEach = 20
	followUpsMore = 100
	daysShown     = 14
)

// FollowUps gives the open follow-ups, arranged and narrowed as asked, with the
// load of the coming days.
func (d *Desk) FollowUps(ctx context.Context, who identity.Who, a FollowUpsAsked) (l FollowUpList, err error) {
	if !slices.Contains(followup.Bys, a.By) {
		a.By = followup.ByDate
	}
	l.By = a.By
	err = d.viewing(ctx, who, func(v viewer) error {
		if err := v.days(&l, a.Narrow); err != nil {
			return err
		}
		if l.Groups, err = v.groups(a); err != nil {
			return err
		}
		var uids []string
		loaded := 0
		for i := range l.Groups {
			g := &l.Groups[i]
			if l.Total += g.Count; g.Count > 0 && loaded < groupsLoaded {
				loaded++
				g.Loaded = true
				uids = append(uids, v.lots[g.Key].UIDs...)
			}
			g.Loaded = g.Loaded || g.Count == 0
		}
		rows, err := v.rows(uids)
		if err != nil {
			return err
		}
		views, err := d.followUpViews(v.t, who, rows)
		if err != nil {
			return err
		}
		byUID := map[string]FollowUpView{}
		for _, x := range views {
			byUID[x.UID] = x
		}
		for i := range l.Groups {
			g := &l.Groups[i]
			g.FollowUps = []FollowUpView{}
			if !g.Loaded || g.Count == 0 {
				continue
			}
			for _, uid := range v.lots[g.Key].UIDs {
				if x, ok := byUID[uid]; ok {
					g.FollowUps = append(g.FollowUps, x)
				}
			}
			if n := len(g.FollowUps); n > 0 && n < g.Count {
				g.Next = positionOf(g.FollowUps[n-1])
			}
		}
		return nil
	})
	return l, err
}

// positionOf is the position in a list after f: of a finished one by when it
// was.
func positionOf(f FollowUpView) string {
	if !f.Open() {
		return fmt.Sprintf("%d %s", f.Finished, f.UID)
	}
	return fmt.Sprintf("%d %s", f.Due.At, f.UID)
}

// positionIn reads a position; the zero one is the beginning.
func positionIn(text string) (a store.After, err error) {
	if text == "" {
		return a, nil
	}
	at, uid, ok := strings.Cut(text, " ")
	ms, err := strconv.ParseInt(at, 10, 64)
	if !ok || err != nil {
		return a, problem.Invalid("after", "That is no position in this list. Start again from the top.")
	}
	return store.After{At: when.Instant(ms), UID: uid}, nil
}

// FollowUpPage gives more of a group of follow-ups.
func (d *Desk) FollowUpPage(ctx context.Context, who identity.Who, a FollowUpsAsked, key, after string) (g FollowUpGroup, err error) {
	from, err := positionIn(after)
	if err != nil {
		return g, err
	}
	g = FollowUpGroup{Key: key, Loaded: true, FollowUps: []FollowUpView{}}
	err = d.viewing(ctx, who, func(v viewer) error {
		var rows []store.FollowUp
		if a.By == followup.ByStage && v.set.Stage(key).Means == followup.Done {
			rows, err = v.t.FinishedFollowUps(who.Box, v.weekStart(), followup.Ever, from, followUpsMore)
		} else {
			uids := v.shelf.Page(a.By, key, a.Narrow, v.span(a.Narrow), v.bounds, v.live, followup.Entry{UID: from.UID, Due: from.At}, followUpsMore)
			rows, err = v.rows(uids)
		}
		if err != nil {
			return err
		}
		if g.FollowUps, err = d.followUpViews(v.t, who, rows); err == nil && len(rows) == followUpsMore {
			g.Next = positionOf(g.FollowUps[len(rows)-1])
		}
		return err
	})
	return g, err
}

// viewer lists follow-ups.
type viewer struct {
	d      *Desk
	t      store.Tx
	who    identity.Who
	set    followup.Settings
	now    when.Instant
	bounds followup.Bounds
	shelf  *shelf
	labels []store.Label
	live   map[int64]bool // labels that are not deleted
	lots   map[string]*followup.Lot
	pace   followup.Pace
}

// viewing lets f look at the follow-ups of a box as they stand.
func (d *Desk) viewing(ctx context.Context, who identity.Who, f func(viewer) error) error {
	now := d.now()
	return d.store.Read(ctx, func(t store.Tx) error {
		p, err := t.PersonByID(who.Person)
		if err != nil {
			return err
		}
		labels, err := t.Labels(who.Box, false)
		if err != nil {
			return err
		}
		v := viewer{d: d, t: t, who: who, set: p.FollowUp, now: now, bounds: followup.BoundsAt(now, who.Week.Location()), labels: labels, live: map[int64]bool{}, lots: map[string]*followup.Lot{}}
		for _, l := range labels {
			v.live[l.ID] = true
		}
		pace, err := d.pace(t, who)
		if err != nil {
			return err
		}
		v.pace = pace
		d.shelves.Lock()
		defer d.shelves.Unlock()
		if v.shelf, err = d.shelfOf(t, who.Box); err != nil {
			return err
		}
		return f(v)
	})
}

// shelfOf is the shelf of a box, brought up to what is stored.
func (d *Desk) shelfOf(t store.Tx, box int64) (*shelf, error) {
	if d.shelves.by == nil {
		d.shelves.by = map[int64]*shelf{}
	}
	s := d.shelves.by[box]
	if s == nil {
		s = &shelf{}
	}
	open, gone, rev, err := t.Shelf(box, s.rev)
	if err != nil {
		return nil, err
	}
	if s.rev == 0 {
		s.Fill(open)
	} else {
		for _, uid := range gone {
			s.Drop(uid)
			delete(s.rows, uid)
		}
		for _, e := range open {
			s.Put(e)
			delete(s.rows, e.UID)
		}
		if len(open) > 0 {
			s.named = time.Time{} // it may have brought a new project
		}
	}
	s.rev = max(rev, s.rev)
	d.shelves.by[box] = s
	return s, nil
}

// rowsKept is how many follow-ups that were shown are kept at hand.
const rowsKept = 2000

// rows loads follow-ups in the order of the UIDs, those that are not at hand.
func (v viewer) rows(uids []string) (rows []store.FollowUp, err error) {
	var missing []string
	for _, uid := range uids {
		if _, ok := v.shelf.rows[uid]; !ok {
			missing = append(missing, uid)
		}
	}
	loaded, err := v.t.FollowUpRows(v.who.Box, missing)
	if err != nil {
		return nil, err
	}
	if v.shelf.rows == nil || len(v.shelf.rows) > rowsKept {
		v.shelf.rows = map[string]store.FollowUp{}
		if len(missing) < len(uids) { // what was at hand has just been put away
			loaded, err = v.t.FollowUpRows(v.who.Box, uids)
		}
	}
	for _, r := range loaded {
		v.shelf.rows[r.UID] = r
	}
	for _, uid := range uids {
		if r, ok := v.shelf.rows[uid]; ok {
			rows = append(rows, r)
		}
	}
	return rows, err
}

// span is the stretch of due times to which n narrows.
func (v viewer) span(n followup.Narrow) (s followup.Span) {
	if n.Group != "" {
		s.From, s.To = v.bounds.Span(n.Group)
	}
	if day, err := time.Parse("2006-01-02", n.Day); err == nil {
		loc := v.who.Week.Location()
		s.From, s.To = max(when.At(day, 0, loc), 1), when.At(day.AddDate(0, 0, 1), 0, loc)
	}
	return s
}

// days lays out the load of the coming days, narrowed by all but the day.
func (v viewer) days(l *FollowUpList, n followup.Narrow) error {
	loc := v.who.Week.Location()
	bounds := []when.Instant{v.now}
	for i := 1; i <= daysShown; i++ {
		bounds = append(bounds, when.DayStart(v.now, loc, i))
	}
	heaps, undated := v.shelf.Heaps(n, bounds)
	open, minutes := map[int]int{}, map[int]int{}
	for i := range daysShown {
		open[i], minutes[i] = heaps[i+1].Open, heaps[i+1].Load
	}
	l.Days, l.Weeks = v.pace.Days(daysShown, open, minutes, v.who.Week, v.now), v.pace.Weeks
	l.Late, l.Later, l.NoDate = heaps[0], heaps[daysShown+1], undated
	return nil
}

// pace is what the user usually finishes on each weekday, learned anew each day.
func (d *Desk) pace(t store.Tx, who identity.Who) (followup.Pace, error) {
	loc := who.Week.Location()
	now := d.now()
	today := when.DayStart(now, loc, 0)
	d.learned.Lock()
	defer d.learned.Unlock()
	if p, ok := d.learned.paces[who.Box]; ok && p.day == today {
		return p.pace, nil
	}
	past, err := t.PastFollowUps(who.Box, when.DayStart(now, loc, -7*followup.LearnWeeks), today)
	if err != nil {
		return followup.Pace{}, err
	}
	p := followup.LearnPace(past, now, who.Week)
	if d.learned.paces == nil {
		d.learned.paces = map[int64]paced{}
	}
	d.learned.paces[who.Box] = paced{today, p}
	return p, nil
}

// groups sorts the follow-ups by what they are arranged by.
func (v viewer) groups(a FollowUpsAsked) (groups []FollowUpGroup, err error) {
	for key, lot := range v.shelf.Arrange(a.By, a.Narrow, v.span(a.Narrow), v.bounds, v.live, followUpsEach) {
		v.lots[key] = lot
	}
	add := func(key, name string) {
		g := FollowUpGroup{Key: key, Name: name}
		if lot := v.lots[key]; lot != nil {
			g.Count = lot.Count
		}
		groups = append(groups, g)
	}
	switch a.By {
	case followup.ByDate:
		for _, g := range followup.Groups {
			add(string(g), "")
		}
	case followup.ByStage:
		for _, s := range v.set.Stages {
			if s.Means == followup.Done && a.Narrow == (followup.Narrow{}) {
				lot := &followup.Lot{Key: s.ID}
				if lot.Count, err = v.t.CountFinished(v.who.Box, v.weekStart(), followup.Ever); err != nil {
					return nil, err
				}
				rows, err := v.t.FinishedFollowUps(v.who.Box, v.weekStart(), followup.Ever, store.After{}, followUpsEach)
				if err != nil {
					return nil, err
				}
				if v.shelf.rows == nil {
					v.shelf.rows = map[string]store.FollowUp{}
				}
				for _, r := range rows {
					lot.UIDs = append(lot.UIDs, r.UID)
					v.shelf.rows[r.UID] = r
				}
				v.lots[s.ID] = lot
			}
			add(s.ID, s.Name)
		}
	case followup.ByPriority:
		for _, p := range followup.Priorities {
			add(strconv.Itoa(int(p)), p.Name())
		}
	default:
		var all []*followup.Lot
		for _, lot := range v.lots {
			all = append(all, lot)
		}
		none := func(l *followup.Lot) bool { return l.Key == "" || a.By == followup.ByLabel && l.Key == "0" }
		slices.SortFunc(all, func(x, y *followup.Lot) int {
			if none(x) != none(y) { // what has none comes last
				return map[bool]int{true: 1, false: -1}[none(x)]
			}
			if a.By == followup.ByPerson {
				return cmp.Or(cmp.Compare(y.Count, x.Count), cmp.Compare(x.Key, y.Key))
			}
			return cmp.Or(strings.Compare(strings.ToLower(x.Name), strings.ToLower(y.Name)), cmp.Compare(x.Key, y.Key))
		})
		for _, lot := range all {
			add(lot.Key, lot.Name)
		}
	}
	return groups, nil
}

func (v viewer) weekStart() when.Instant {
	loc := v.who.Week.Location()
	return when.DayStart(v.now, loc, -(int(v.now.In(loc).Weekday()+6) % 7))
}

// list gives up to n follow-ups in the order of their due times.
func (v viewer) list(n followup.Narrow, span followup.Span, most int) ([]FollowUpView, error) {
	rows, err := v.rows(v.shelf.List(n, span, most))
	if err != nil {
		return nil, err
	}
	return v.d.followUpViews(v.t, v.who, rows)
}

func (d *Desk) followUpViews(t store.Tx, who identity.Who, rows []store.FollowUp) ([]FollowUpView, error) {
	var ids []int64
	for _, r := range rows {
		if r.ConversationID != 0 {
			ids = append(ids, r.ConversationID)
		}
	}
	slices.Sort(ids)
	conversations, err := t.Names(who.Box, slices.Compact(ids))
	views := make([]FollowUpView, len(rows))
	for i, r := range rows {
		views[i].FollowUp = r.Data
		if r.Data.Repeat != nil {
			views[i].Repeats = r.Data.Repeat.Say(who.Week)
		}
		c, ok := conversations[r.ConversationID]
		if ok {
			views[i].From, views[i].Subject = mail.Address{Name: c.FromName, Address: c.FromAddr}.Short(), cmp.Or(c.Title, c.Subject)
		}
		views[i].Gone = r.ConversationID != 0 && (!ok || c.Place == inbox.Bin)
	}
	return views, err
}

// FollowUp gives one follow-up. Where its conversation is not known, it is
// looked for by the Message-ID it names (RFC 2392).
func (d *Desk) FollowUp(ctx context.Context, who identity.Who, uid string) (v FollowUpView, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		row, err := t.FollowUpByUID(who.Box, uid)
		if err != nil {
			return err
		}
		if row.ConversationID == 0 && row.Data.Message != "" {
			m, err := t.ByMessageID(who.Box, row.Data.Message)
			if err != nil && !errors.Is(err, store.ErrNotFound) {
				return err
			}
			row.ConversationID, row.Data.Conversation = m.ConversationID, m.ConversationID
		}
		views, err := d.followUpViews(t, who, []store.FollowUp{row})
		if err == nil {
			v = views[0]
		}
		return err
	})
	return v, err
}

// oneByOne is how many follow-ups are gone through at once.
const oneByOne = 500

// OneByOne gives the follow-ups to go through: those due today or late, or all
// that a narrowing finds.
func (d *Desk) OneByOne(ctx context.Context, who identity.Who, n followup.Narrow) (views []FollowUpView, err error) {
	err = d.viewing(ctx, who, func(v viewer) error {
		span := v.span(n)
		if n == (followup.Narrow{}) {
			span = followup.Span{From: 1, To: v.bounds.Today}
		}
		views, err = v.list(n, span, oneByOne)
		return err
	})
	return views, err
}

// Closing gives what is left of the day, each with the nearest free days.
func (d *Desk) Closing(ctx context.Context, who identity.Who) (c Closing, err error) {
	c.Items = []ClosingItem{}
	err = d.viewing(ctx, who, func(v viewer) error {
		views, err := v.list(followup.Narrow{}, followup.Span{From: 1, To: v.bounds.Today}, oneByOne)
		if err != nil {
			return err
		}
		var l FollowUpList
		if err := v.days(&l, followup.Narrow{}); err != nil {
			return err
		}
		c.Days = l.Days
		for _, f := range views {
			c.Items = append(c.Items, ClosingItem{f, followup.Free(l.Days, f.Minutes())})
		}
		c.Done, err = v.t.CountFinished(who.Box, when.DayStart(v.now, who.Week.Location(), 0), followup.Ever)
		return err
	})
	return c, err
}

// ClosedDay notes that closing the day has been answered.
func (d *Desk) ClosedDay(ctx context.Context, who identity.Who) error {
	err := d.store.Write(ctx, func(t store.Tx) error {
		p, err := t.PersonByID(who.Person)
		if err != nil || p.FollowUp.Called == 0 {
			return err
		}
		p.FollowUp.Called = 0
		return t.PutPerson(&p, who.Box, nil)
	})
	return d.announced(who, journal.TopicCards, err)
}

// Log gives a page of what was finished or dropped, the last first.
func (d *Desk) Log(ctx context.Context, who identity.Who, before string) (l Log, err error) {
	from, err := positionIn(before)
	if err != nil {
		return l, err
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		rows, err := t.FinishedFollowUps(who.Box, 1, followup.Ever, from, PageSize)
		if err != nil {
			return err
		}
		if len(rows) == PageSize {
			last := rows[len(rows)-1]
			l.Next = fmt.Sprintf("%d %s", last.Finished, last.UID)
		}
		l.FollowUps, err = d.followUpViews(t, who, rows)
		return err
	})
	return l, err
}

// Waiting gives a page of what waits for somebody, the longest first.
func (d *Desk) Waiting(ctx context.Context, who identity.Who, after string) (l Waiting, err error) {
	from, err := positionIn(after)
	if err != nil {
		return l, err
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		rows, err := t.WaitingFollowUps(who.Box, from, PageSize)
		if err != nil {
			return err
		}
		if len(rows) == PageSize {
			last := rows[len(rows)-1]
			l.Next = fmt.Sprintf("%d %s", last.WaitsSince, last.UID)
		}
		if l.Count, err = t.CountWaiting(who.Box); err != nil {
			return err
		}
		l.FollowUps, err = d.followUpViews(t, who, rows)
		return err
	})
	return l, err
}

// cardsShown is up to how many reminders are shown as cards; more than that are
// told in one sentence.
const cardsShown = 6

// Cards gives what has come up by itself and waits for an answer.
func (d *Desk) Cards(ctx context.Context, who identity.Who) (c Cards, err error) {
	now := d.now()
	c.Cards = []FollowUpView{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		all, urgent, late, err := t.CountCards(who.Box, now)
		if err != nil {
			return err
		}
		rows, err := t.Cards(who.Box, cardsShown)
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
		if c.Events, err = t.EventCards(who.Box); err != nil {
			return err
		}
		p, err := t.PersonByID(who.Person)
		if err != nil || p.FollowUp.Called < when.DayStart(now, who.Week.Location(), 0) { // of another day, or not at all
			return err
		}
		c.Close, err = t.CountFollowUps(who.Box, 1, when.DayStart(now, who.Week.Location(), 1))
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
		rows, err := t.Cards(who.Box, 10_000)
		for _, r := range rows {
			uids = append(uids, r.UID)
		}
		return err
	})
	if err != nil || len(uids) == 0 {
		return journal.Decided{}, err
	}
	return d.StepFollowUps(ctx, who, key, FollowUpStep{Kind: inbox.SeenReminder, UIDs: uids})
}
