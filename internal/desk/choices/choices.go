// Package choices is what a person sets up for themselves: their week and zone,
// their addresses, the look, their habits and keys, how they work with follow-ups.
// A choice is a line in the journal like a decision: it is said, and taken back.
package choices

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	netmail "net/mail"
	"reflect"
	"slices"
	"strings"

	"github.com/google/uuid"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/texting"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/followups"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// Desk is where settings are chosen.
type Desk struct {
	Journal *journal.Journal
	Sort    intake.Sort // what rules do with what comes in as a setting has changed

	store *store.Store
}

// New makes a desk over a store.
func New(s *store.Store, j *journal.Journal) *Desk {
	d := &Desk{Journal: j, store: s}
	j.Register(map[inbox.Kind]journal.Kind{inbox.Choose: {Verb: "chosen in Setup", Step: true, Named: true, Before: d.back}})
	return d
}

// All gives what the person has chosen.
func (d *Desk) All(ctx context.Context, who identity.Who) (s Settings, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		s, _, err = load(t, who)
		return err
	})
	return s, err
}

// load gives what holds for a person in a box, and whose settings hold for the box.
func load(t store.Tx, who identity.Who) (s Settings, p store.Person, err error) {
	if p, err = store.People(t).PersonByID(who.Keeper()); err != nil {
		return s, p, err
	}
	s = Settings{Week: p.Week, Theme: p.Theme, Habits: p.Habits, FollowUp: p.FollowUp, Addresses: []string{}, Fixed: []string{}}
	if who.Team != 0 { // their own go with them
		self, err := store.People(t).PersonByID(who.Person)
		if err != nil {
			return s, p, err
		}
		s = s.ofTeam(self)
	}
	s.FollowUp.Called = 0 // nothing that is chosen
	own, err := store.People(t).OwnAddresses(who.Box)
	for _, a := range own {
		if texting.IsText(a.Address) { // of a telephone line, which is set up among the accounts
			continue
		}
		s.Addresses = append(s.Addresses, a.Address)
		if a.Account != "" || a.Address == p.Address || a.PersonID != p.ID {
			s.Fixed = append(s.Fixed, a.Address)
		}
	}
	return s, p, err
}

// Change changes what the patch names, a JSON Merge Patch (RFC 7396) of the
// settings: lists are taken whole, and what it does not name stays. What cannot be
// is a *problem.Error, and then nothing of it is changed.
func (d *Desk) Change(ctx context.Context, who identity.Who, key string, patch json.RawMessage) (journal.Decided, error) {
	if err := who.May(together.Serve); err != nil {
		return journal.Decided{}, err
	}
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		was, p, err := load(t, who)
		if err != nil {
			return out, err
		}
		is, err := patched(was, patch)
		if err != nil {
			return out, problem.Invalid("", "Nothing was changed: Ebbe could not read what to change. Load the page again.")
		}
		if err := d.check(was, &is); err != nil {
			return out, err
		}
		if who.Team != 0 && !reflect.DeepEqual(was.own(), is.own()) {
			return out, problem.Invalid("", "Nothing was changed: your week, your look and your habits are chosen in your own box, and go with you into this one.")
		}
		chosen, err := journal.Chosen(was, is)
		if err != nil || chosen == nil {
			return out, err
		}
		var came int
		if changes, came, err = d.put(t, who, p, was, is); err != nil {
			return out, err
		}
		text := told(was, is)
		return d.Journal.Commit(t, who, store.Entry{Kind: inbox.Choose, At: d.Journal.Now(), Text: text, Chosen: chosen, Delta: came}, changes, func(int) string {
			return text + "."
		})
	})
	if fresh && out.Entry != 0 {
		d.announce(who, key, changes)
	}
	return out, err
}

func (d *Desk) announce(who identity.Who, key string, changes []inbox.Change) {
	about, conversations := journal.TopicsOf(changes)
	d.Journal.Announce(who.Box, journal.Event{Topics: append(about, topics...), Conversations: conversations, Key: key})
}

// own is what of the settings is somebody's own in whichever box they are: all of these but how
// junk is told.
func (s Settings) own() Settings {
	s.Habits.Junk = inbox.JunkWishes{}
	return Settings{Week: s.Week, Theme: s.Theme, Habits: s.Habits}
}

// ofTeam is s with what is somebody's own as it stands with the team p.
func (s Settings) ofTeam(p store.Person) Settings {
	junk := s.Habits.Junk
	s.Week, s.Theme, s.Habits = p.Week, p.Theme, p.Habits
	s.Habits.Junk = junk
	return s
}

// topics are what hangs on settings.
var topics = []string{journal.TopicPerson, journal.TopicMail, journal.TopicFollowUps}

// patched is what s is with the patch.
func patched(s Settings, patch json.RawMessage) (Settings, error) {
	is, err := journal.Patched(s, patch)
	return is.kept(s), err
}

// kept is s with what is not chosen, as it is.
func (s Settings) kept(as Settings) Settings {
	s.Fixed, s.FollowUp.Called = as.Fixed, as.FollowUp.Called
	return s
}

// back puts what was chosen back to how it stood, if it still is as it was chosen.
func (d *Desk) back(t store.Tx, s *journal.Step) error {
	was, p, err := load(t, s.Who)
	if err != nil {
		return err
	}
	is, still, err := journal.Unchosen(was, s.Done.Chosen)
	if err != nil {
		return err
	}
	if !still {
		s.Nothing()
		return nil
	}
	is = is.kept(was)
	if err := d.check(was, &is); errors.As(err, new(*problem.Error)) {
		s.Nothing() // what else has been chosen since does not go with it
		return nil
	} else if err != nil {
		return err
	}
	s.Topics = append(s.Topics, topics...)
	made, came, err := d.put(t, s.Who, p, was, is)
	for _, c := range made { // what the step is about is among its changes already
		if !slices.ContainsFunc(s.Changes, func(o inbox.Change) bool { return o.Conversation() == c.Conversation() }) {
			return &problem.Error{Type: "depends", Text: "That cannot be done again: mail from the address has come in since. Add it once more in Setup; nothing was changed now."}
		}
	}
	s.Entry.Delta += came
	return err
}

// put stores what was chosen, with all that hangs on it. The changes are what it
// does to conversations; they are not stored yet, and came is to be added to the
// delta of their line.
func (d *Desk) put(t store.Tx, who identity.Who, p store.Person, was, is Settings) (changes []inbox.Change, came int, err error) {
	now, called := d.Journal.Now(), p.FollowUp.Called
	if who.Team != 0 {
		is, was = is.ofTeam(p), was.ofTeam(p)
	}
	p.Week, p.Theme, p.Habits, p.FollowUp = is.Week, is.Theme, is.Habits, is.FollowUp
	p.FollowUp.Called = called
	who.Week = is.Week
	var own []store.OwnAddress
	var added []string
	for _, a := range is.Addresses {
		if !slices.Contains(was.Addresses, a) {
			own, added = append(own, store.OwnAddress{Address: a}), append(added, a)
		}
	}
	if err := store.People(t).PutPerson(&p, who.Box, own); err != nil {
		return nil, 0, err
	}
	if was.Habits.SomedayOn() != is.Habits.SomedayOn() {
		if err := decide.MoveSomeday(t, who, is.Week, is.Habits, now); err != nil {
			return nil, 0, err
		}
	}
	otherWeek := !reflect.DeepEqual(was.Week, is.Week)
	if otherWeek {
		if err := followups.RealignFollowUps(t, who.Box); err != nil {
			return nil, 0, err
		}
	}
	if !slices.Equal(was.FollowUp.Stages, is.FollowUp.Stages) {
		if err := store.FollowUps(t).Restage(who.Box, p.FollowUp); err != nil {
			return nil, 0, err
		}
	}
	if otherWeek || was.FollowUp.CloseAt != is.FollowUp.CloseAt {
		if err := followups.CallForClosing(t, who.Box, p, now); err != nil {
			return nil, 0, err
		}
	}
	if was.Week.Zone != is.Week.Zone { // the times of the plan are those of the new zone from now on
		gate := intake.Gate{T: t, Box: who.Box, Person: p, Now: now, Sort: d.Sort}
		if _, err := gate.Renew(); err != nil {
			return nil, 0, err
		}
	}
	for _, a := range was.Addresses {
		if !slices.Contains(is.Addresses, a) {
			if err := store.People(t).DropOwnAddress(who.Keeper(), a); err != nil {
				return nil, 0, err
			}
			if err := store.Conversations(t).Disown(who.Box, a); err != nil {
				return nil, 0, err
			}
		}
	}
	if len(added) == 0 {
		return nil, 0, nil
	}
	return intake.Own(t, who.Itself(), added, now)
}

// check says in a sentence what is wrong with what is chosen, and puts it into the
// form in which it is kept.
func (d *Desk) check(was Settings, is *Settings) error {
	if err := is.Week.Valid(); err != nil {
		return problem.Invalid("week", "Nothing was changed: "+err.Error()+".")
	}
	slices.Sort(is.Week.Workdays)
	is.Week.Workdays = slices.Compact(is.Week.Workdays)
	if len(is.Addresses) > maxAddresses {
		return problem.Invalid("addresses", fmt.Sprintf("Nothing was changed: there is room for %d addresses.", maxAddresses))
	}
	for i, a := range is.Addresses {
		a = strings.ToLower(strings.TrimSpace(a))
		if parsed, err := netmail.ParseAddress(a); err != nil || parsed.Address != a {
			return problem.Invalid("addresses", fmt.Sprintf("Nothing was changed: “%s” is no mail address.", a))
		}
		is.Addresses[i] = a
	}
	for _, a := range was.Fixed {
		if !slices.Contains(is.Addresses, a) {
			return problem.Invalid("addresses", fmt.Sprintf("Nothing was changed: %s is the address by which you sign in, or that of an account.", a))
		}
	}
	if is.Theme != "" && is.Theme != "light" && is.Theme != "dark" {
		return problem.Invalid("theme", "Nothing was changed: the theme is light, dark, or that of the machine.")
	}
	if err := is.Habits.Junk.Valid(); err != nil {
		return problem.Invalid("junk", "Nothing was changed: "+err.Error()+".")
	}
	f := &is.FollowUp
	for i := range f.Stages {
		if f.Stages[i].ID == "" {
			f.Stages[i].ID = uuid.NewString()
		}
		f.Stages[i].Name = strings.Join(strings.Fields(f.Stages[i].Name), " ")
	}
	for i := range f.Views {
		if f.Views[i].ID == "" {
			f.Views[i].ID = uuid.NewString()
		}
	}
	if f.Views == nil {
		f.Views = []followup.View{}
	}
	if err := f.Valid(); err != nil {
		return problem.Invalid("stages", "Nothing was changed: "+err.Error()+".")
	}
	return checkHabits(is.Week, is.Habits, d.Journal.Now())
}

// maxAddresses is how many addresses of their own a person has at most.
const maxAddresses = 50

// checkHabits says in a sentence what is wrong with them.
func checkHabits(w when.Week, h inbox.Habits, now when.Instant) error {
	if h.Someday < 0 || h.Someday > 28 {
		return problem.Invalid("someday", "Nothing was changed: the day for someday is one from 1 to 28, which every month has.")
	}
	if h.Span < 0 || h.Span > 600 {
		return problem.Invalid("span", "Nothing was changed: sending can be taken back for 1 to 600 seconds.")
	}
	if len(h.Combos) > inbox.MaxCombos || len(h.Keys) > 200 {
		return problem.Invalid("combos", "Nothing was changed: there is room for twenty combos.")
	}
	usual := when.Field{Round: now + 3_600_000, Someday: w.MonthDay(h.SomedayOn(), now)} // whatever is planned now
	ids := map[string]bool{}
	for _, c := range h.Combos {
		if err := c.Valid(); err != nil {
			return problem.Invalid("combos", "Nothing was changed: "+err.Error()+".")
		}
		if c.ID == "" || ids[c.ID] {
			return problem.Invalid("combos", "Nothing was changed: two combos are taken for the same one. Load the page again.")
		}
		ids[c.ID] = true
		for _, s := range c.Steps {
			if r := w.ReadIn(usual, s.Phrase, now); s.Phrase != "" && r.Doubt != "" && r.Moment.IsZero() {
				return problem.Invalid("combos", fmt.Sprintf("Nothing was changed: the combo “%s” says “%s”. %s", c.Name, s.Phrase, r.Sentence))
			}
		}
	}
	return nil
}
