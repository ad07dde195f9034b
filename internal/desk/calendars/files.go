package calendars

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/google/uuid"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/say"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/labelling"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/post/ical"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// calendarOf is all follow-ups and events of a box as a calendar file has them.
func calendarOf(t store.Tx, box int64, p store.Person) (c ical.Calendar, err error) {
	labels, err := store.Labels(t).Labels(box, false)
	if err != nil {
		return c, err
	}
	paths := map[int64]string{}
	for _, l := range labelling.LabelViews(labels, nil) {
		paths[l.ID] = l.Path
	}
	all, err := store.FollowUps(t).AllFollowUps(box)
	if err != nil {
		return c, err
	}
	for _, f := range all {
		todo := ical.Todo{FollowUp: f, StageName: p.FollowUp.In(f).Name}
		for _, l := range f.Labels {
			if paths[l] != "" {
				todo.LabelPaths = append(todo.LabelPaths, paths[l])
			}
		}
		slices.Sort(todo.LabelPaths)
		c.Todos = append(c.Todos, todo)
	}
	c.Events, err = store.Calendar(t).AllEvents(box)
	return c, err
}

// written writes all follow-ups and events of a box.
func (d *Desk) written(ctx context.Context, who identity.Who, write func(ical.Calendar, when.Week) ([]byte, error)) (raw []byte, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		p, err := store.People(t).PersonByID(who.Keeper())
		if err != nil {
			return err
		}
		c, err := calendarOf(t, who.Box, p)
		if err == nil {
			raw, err = write(c, p.Week)
		}
		return err
	})
	return raw, err
}

// Export gives all follow-ups and events as a calendar file (RFC 5545).
func (d *Desk) Export(ctx context.Context, who identity.Who) ([]byte, error) {
	return d.written(ctx, who, func(c ical.Calendar, w when.Week) ([]byte, error) { return ical.Write(c, w), nil })
}

// ExportCSV gives all follow-ups as comma-separated values (RFC 4180).
func (d *Desk) ExportCSV(ctx context.Context, who identity.Who) ([]byte, error) {
	return d.written(ctx, who, func(c ical.Calendar, w when.Week) ([]byte, error) { return ical.WriteCSV(c.Todos, w.Location()) })
}

// Feed gives the calendar of the person whose feed has that secret address, or
// store.ErrNotFound.
func (d *Desk) Feed(ctx context.Context, secret string) (raw []byte, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		p, err := store.People(t).PersonByFeed(secret)
		if err != nil {
			return err
		}
		box, err := store.People(t).BoxOf(p.ID)
		if err != nil {
			return err
		}
		c, err := calendarOf(t, box, p)
		raw = ical.Write(c, p.Week)
		return err
	})
	return raw, err
}

// MakeFeed gives the person's feed a new secret address, which ends the old one;
// or with off none. It is told this once: only a hash of it is kept.
func (d *Desk) MakeFeed(ctx context.Context, who identity.Who, off bool) (address string, err error) {
	if err := who.May(together.Serve); err != nil {
		return address, err
	}
	if !off {
		address = identity.Secret()
	}
	err = d.store.Write(ctx, func(t store.Tx) error {
		p, err := store.People(t).PersonByID(who.Keeper())
		if err != nil {
			return err
		}
		p.Feed = ""
		if address != "" {
			p.Feed = store.HashOf(address)
		}
		return store.People(t).PutPerson(&p, who.Box, nil)
	})
	return address, d.Journal.Announced(who.Box, journal.TopicPerson, err)
}

// MaxCalendar is how large a calendar file may be, in bytes.
const MaxCalendar = ical.MaxCalendar

// TakeIn reads a calendar file: its to-dos become follow-ups, its events
// events. What is known by its UID is replaced if the file has a newer version.
// All of it is one step that can be taken back.
func (d *Desk) TakeIn(ctx context.Context, who identity.Who, key string, raw []byte) (TakenIn, error) {
	c, err := ical.Read(raw, who.Week.Location())
	if errors.Is(err, ical.ErrNoCalendar) || errors.Is(err, ical.ErrBigCalendar) {
		return TakenIn{}, problem.Invalid("file", "Nothing was taken in: "+err.Error()+".")
	}
	if err != nil {
		return TakenIn{}, err
	}
	now := d.Journal.Now()
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out TakenIn, err error) {
		p, err := store.People(t).PersonByID(who.Keeper())
		if err != nil {
			return out, err
		}
		in := taker{t: t, who: who, p: p, now: now, out: TakenIn{Doubts: append([]string{}, c.Doubts...)}}
		if err := in.load(c); err != nil {
			return out, err
		}
		for _, todo := range c.Todos {
			if err := in.todo(todo); err != nil {
				return out, err
			}
		}
		for _, e := range c.Events {
			in.event(e)
		}
		changes, out = in.changes, in.out
		out.Text = in.sentence()
		_, err = d.Journal.Commit(t, who, store.Entry{Kind: inbox.TakeIn, At: now, Text: out.Text}, changes, nil)
		return out, err
	})
	if fresh {
		d.Journal.Tell(who.Box, "", changes)
		d.FollowUps.Forget()
	}
	return out, err
}

// taker takes in what a calendar file holds.
type taker struct {
	t       store.Tx
	who     identity.Who
	p       store.Person
	now     when.Instant
	state   store.State
	mids    map[string]int64
	labels  map[string]int64 // by path in lower case
	changes []inbox.Change
	out     TakenIn
	seen    map[string]bool
}

func (in *taker) load(c ical.Calendar) (err error) {
	var uids, mids []string
	for _, t := range c.Todos {
		uids = append(uids, t.UID)
		mids = append(mids, t.Message)
	}
	for _, e := range c.Events {
		uids = append(uids, e.UID)
		mids = append(mids, e.Message)
	}
	in.seen, in.labels = map[string]bool{}, map[string]int64{}
	if in.state, err = store.Conversations(in.t).State(in.who.Box, in.who.Person, nil, slices.DeleteFunc(uids, func(s string) bool { return s == "" })); err != nil {
		return err
	}
	if in.mids, err = store.Conversations(in.t).Refs(in.who.Box, slices.DeleteFunc(mids, func(s string) bool { return s == "" })); err != nil {
		return err
	}
	labels, err := store.Labels(in.t).Labels(in.who.Box, false)
	for _, l := range labelling.LabelViews(labels, nil) {
		in.labels[strings.ToLower(l.Path)] = l.ID
	}
	return err
}

func (in *taker) todo(todo ical.Todo) error {
	f := todo.FollowUp
	if f.UID == "" {
		f.UID = uuid.NewString()
	}
	if in.seen[f.UID] {
		return nil
	}
	in.seen[f.UID] = true
	if f.Made == 0 {
		f.Made = in.now
	}
	f.Conversation = in.mids[f.Message]
	for _, path := range todo.LabelPaths {
		id, err := in.label(path)
		if err != nil {
			return err
		}
		if id != 0 {
			f.Labels = append(f.Labels, id)
		}
	}
	for _, s := range in.p.FollowUp.Stages {
		if strings.EqualFold(s.Name, todo.StageName) && (s.Means == followup.Done) == !f.Open() {
			f.Stage = s.ID
		}
	}
	if f.Stage == "" && f.Status == followup.InProcess {
		for _, s := range in.p.FollowUp.Stages[1:] {
			if s.Means == followup.Mine {
				f.Stage = s.ID
				break
			}
		}
	}
	if len(f.Title) > followup.MaxTitle {
		f.Notes = f.Title + "\n\n" + f.Notes
		f.Title = strings.ToValidUTF8(f.Title[:followup.MaxTitle-10], "") + "…"
	}
	if len(f.Notes) > followup.MaxNotes {
		f.Notes = strings.ToValidUTF8(f.Notes[:followup.MaxNotes-10], "") + "…"
		in.out.Doubts = append(in.out.Doubts, fmt.Sprintf("The notes of “%s” were too long and have been cut.", f.Title))
	}
	f.Project, f.Context = cut(f.Project, followup.MaxName), cut(f.Context, followup.MaxName)
	f.Checklist = f.Checklist[:min(len(f.Checklist), followup.MaxChecklist)]
	f = f.Tidy()
	for i, r := range f.Reminders { // what lies behind does not come up any more
		if at := r.Time(f, in.p.Week); r.Fired == 0 && at <= in.now {
			f.Reminders[i].Fired = in.now
		}
	}
	before, ok := in.state.FollowUps[f.UID]
	switch {
	case !ok:
		in.out.FollowUps++
		in.changes = append(in.changes, inbox.Change{FollowUpAfter: &f})
	case max(f.Changed, f.Made) > max(before.Changed, before.Made)+999: // a file counts in seconds
		in.out.Changed++
		f.Conversation = max(f.Conversation, before.Conversation)
		in.changes = append(in.changes, inbox.Change{FollowUpBefore: &before, FollowUpAfter: &f})
	default:
		in.out.Known++
	}
	return nil
}

func cut(s string, n int) string {
	if len(s) <= n {
		return s
	}
	return strings.ToValidUTF8(s[:n-3], "") + "…"
}

// label finds the label with that whole name, or makes it.
func (in *taker) label(path string) (int64, error) {
	path = strings.TrimSpace(path)
	if id := in.labels[strings.ToLower(path)]; id != 0 || path == "" {
		return id, nil
	}
	names := labelling.LabelNames(strings.ReplaceAll(path, ",", " "))
	if names == nil || len(names) > labelling.MaxNested {
		names = []string{cut(strings.NewReplacer("/", " ", ",", " ").Replace(path), labelling.MaxLabel)}
	}
	l, err := labelling.MakeLabel(in.t, in.who.Box, names)
	if err != nil {
		return 0, err
	}
	in.labels[strings.ToLower(path)] = l.ID
	return l.ID, nil
}

func (in *taker) event(e calendar.Event) {
	if e.UID == "" {
		e.UID = uuid.NewString()
	}
	if in.seen[e.UID] {
		return
	}
	in.seen[e.UID] = true
	if e.Made == 0 {
		e.Made = in.now
	}
	e.Conversation = in.mids[e.Message]
	if len(e.Title) > 500 {
		e.Title = cut(e.Title, 500)
	}
	e.Notes, e.Place = cut(e.Notes, 20_000), cut(e.Place, 500)
	e.Guests = e.Guests[:min(len(e.Guests), 500)]
	if next := e.Next(); next != 0 && next <= in.now {
		e.Fired = in.now
	}
	if err := e.Valid(); err != nil {
		in.out.Doubts = append(in.out.Doubts, fmt.Sprintf("The event “%s” was left out: %s.", e.Title, err))
		return
	}
	before, ok := in.state.Events[e.UID]
	switch {
	case !ok:
		in.out.Events++
		in.changes = append(in.changes, inbox.Change{EventAfter: &e})
	case e.Sequence > before.Sequence || max(e.Changed, e.Made) > max(before.Changed, before.Made)+999:
		in.out.Changed++
		e.Conversation = max(e.Conversation, before.Conversation)
		in.changes = append(in.changes, inbox.Change{EventBefore: &before, EventAfter: &e})
	default:
		in.out.Known++
	}
}

func (in *taker) sentence() string {
	o := in.out
	text := fmt.Sprintf("Taken in: %s and %s.", say.Plural(o.FollowUps, "follow-up"), say.Plural(o.Events, "event"))
	if o.FollowUps+o.Events == 0 {
		text = "Nothing in it was new."
	}
	if o.Changed > 0 {
		text += fmt.Sprintf(" %d were known and have a newer version now.", o.Changed)
	}
	if o.Known > 0 {
		text += fmt.Sprintf(" %d were known and stay as they are.", o.Known)
	}
	return text
}
