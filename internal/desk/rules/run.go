package rules

import (
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"slices"
	"strings"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/say"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/ruling"
	"ebbe/internal/store/words"
)

// Run has the rules of a box do what they do with messages that have come into view, in
// the transaction in which they have, and gives what that changed and what the user is
// to hear. Each message is asked once, by each rule in their order; a rule that would
// put a conversation elsewhere does so only if no earlier one has. A rule that cannot
// be followed is told of, and stops no other.
func (d *Desk) Run(t store.Tx, box int64, messages []int64, words map[int64]words.Entry) (out intake.Sorted, err error) {
	rules, err := d.of(t, box)
	if err != nil || len(messages) == 0 {
		return out, err
	}
	person, err := store.People(t).Keeper(box)
	if err != nil || person == 0 {
		return out, err
	}
	p, err := store.People(t).PersonByID(person)
	if err != nil {
		return out, err
	}
	who := identity.Who{Person: person, Box: box, Week: p.Week}
	all, err := ruling.Rules(t).Messages(box, person, p.Week, messages, words)
	if err != nil {
		return out, err
	}
	var junk map[int64]bool
	if d.Junk != nil {
		if out.Changes, junk, err = d.Junk(t, who, p, all); err != nil {
			return out, err
		}
	}
	now := d.Journal.Now()
	var runs []ruling.Run
	var tell heard
	calls := called{}
	sent := sentNow{answered: map[string]bool{}}
	for _, m := range all {
		if junk[m.Conversation] {
			continue
		}
		moved := false
		for _, r := range rules {
			if r.Mode == sorting.Off || r.Mode == sorting.Trying && r.Until <= now || !r.Holds(m.Message) || r.Places() && moved {
				continue
			}
			run := ruling.Run{RuleID: r.ID, BoxID: box, MessageID: m.ID, ConversationID: m.Conversation, At: now}
			if r.Mode == sorting.On {
				if r.Does(inbox.PassThrough) && m.Through == intake.ByRule(r.ID) {
					run.Did = inbox.PassThrough
				}
				if r.Does(inbox.TellOf) {
					run.Did = inbox.TellOf
					tell.add(r, m)
					if err := d.note(t, who, store.Entry{Kind: inbox.TellOf, Ref: r.ID, ConversationID: m.Conversation, Text: m.Subject, Quiet: true}); err != nil {
						return out, err
					}
				}
				done, err := d.does(t, who, r, m)
				if err == nil {
					var did inbox.Kind
					if did, err = d.sends(t, who, r, m, &sent); did != "" {
						run.Did = did
					}
				}
				var cannot *problem.Error
				if errors.As(err, &cannot) || errors.Is(err, store.ErrNotFound) {
					slog.Warn("a rule could not be followed", "box", box, "rule", r.ID, "error", err)
					out.Notice.Text = "The rule “" + r.Called() + "” could not be followed for “" + m.Subject + "”. It came in as usual; look at the rule in Setup."
					out.Notice.Conversation = m.Conversation
					if run.Did != "" {
						runs = append(runs, run)
					}
					continue
				}
				if err != nil {
					return out, err
				}
				if len(done) == 0 {
					if run.Did != "" {
						runs = append(runs, run)
					}
					continue
				}
				e := store.Entry{Kind: inbox.ByRule, Actor: store.ByRule, At: now, Ref: r.ID, ConversationID: m.Conversation, Text: r.Called() + ": " + m.Subject}
				entered, err := d.Journal.Commit(t, who, e, done, nil)
				if err != nil {
					return out, err
				}
				run.EntryID = entered.Entry
				out.Changes = append(out.Changes, done...)
				for _, c := range done {
					calls.add(c, m)
				}
				moved = moved || r.Places()
			}
			runs = append(runs, run)
		}
	}
	if out.Notice.Text == "" && len(tell) > 0 {
		if out.Notice, err = (intake.Gate{T: t, Box: box, Person: p, Now: now}).Tell(tell.notice()); err != nil {
			return out, err
		}
	}
	if out.Calls, err = calls.notices(t, p.Name, box, now); err != nil {
		return out, err
	}
	return out, ruling.Rules(t).Note(runs)
}

// does is what a rule changes about the conversation of a message. What a list sent is
// handed over to nobody, so no answer is waited for.
func (d *Desk) does(t store.Tx, who identity.Who, r sorting.Rule, m ruling.Message) ([]inbox.Change, error) {
	c := r.Chain()
	if m.Kind == mail.List {
		c.Steps = slices.DeleteFunc(c.Steps, func(s inbox.ComboStep) bool { return s.Kind == inbox.HandOver })
	}
	if len(c.Steps) == 0 {
		return nil, nil
	}
	return d.Decisions.Chain(t, who, c, []int64{m.Conversation})
}

// holding are those of some conversations whose newest message of somebody else is what
// the words of a rule say.
func (d *Desk) holding(t store.Tx, who identity.Who, words string, conversations []int64) (holds []int64, err error) {
	k, err := knownTo(t, who, d.Journal.Now())
	if err != nil {
		return nil, err
	}
	read := sorting.ReadRule(strings.TrimSuffix(strings.TrimSpace(words), ":")+": star", k)
	if err := read.Rule.Valid(); read.Doubt != "" || err != nil {
		return nil, problem.Invalid("combo", fmt.Sprintf("Nothing was done: Ebbe cannot read the condition “%s” now. Change it in Setup.", words))
	}
	newest, err := ruling.Rules(t).Newest(who.Box, conversations)
	if err != nil {
		return nil, err
	}
	messages, err := ruling.Rules(t).Messages(who.Box, who.Person, who.Week, newest, nil)
	for _, m := range messages {
		if read.Rule.Holds(m.Message) {
			holds = append(holds, m.Conversation)
		}
	}
	return holds, err
}

// called is what rules have given to each of a team.
type called map[int64][]ruling.Message

func (k called) add(c inbox.Change, m ruling.Message) {
	if f := c.FollowUpAfter; f != nil && f.Owner.Person != 0 && (c.FollowUpBefore == nil || c.FollowUpBefore.Owner != f.Owner) {
		k[f.Owner.Person] = append(k[f.Owner.Person], m)
	}
}

// notices tell each of them once.
func (k called) notices(t store.Tx, team string, box int64, now when.Instant) (out []journal.Notice, err error) {
	for _, person := range slices.Sorted(maps.Keys(k)) {
		given := k[person]
		n := journal.Notice{Text: fmt.Sprintf("%s: “%s” is yours now, by a rule", team, given[0].Subject), Conversation: given[0].Conversation, Box: box}
		if len(given) > 1 {
			n.Text = fmt.Sprintf("%s: %d conversations are yours now, by rules: “%s” and others", team, len(given), given[0].Subject)
		}
		if n, err = journal.Quietly(t, person, n, now); err != nil {
			return nil, err
		}
		out = append(out, n)
	}
	return out, nil
}

// heard are messages that rules want the user to hear of.
type heard []told

type told struct {
	rule string
	from mail.Address
	ruling.Message
}

func (h *heard) add(r sorting.Rule, m ruling.Message) {
	if !slices.ContainsFunc(*h, func(o told) bool { return o.ID == m.ID }) {
		*h = append(*h, told{r.Called(), mail.Address{Name: m.FromName, Address: m.From}, m})
	}
}

// notice says what has come, and by which rule one hears of it.
func (h heard) notice() journal.Notice {
	first := h[0]
	if len(h) == 1 {
		return journal.Notice{Text: fmt.Sprintf("%s: %s (by your rule “%s”)", first.from.Short(), first.Subject, first.rule), Conversation: first.Conversation}
	}
	return journal.Notice{Text: fmt.Sprintf("%s came of which your rules tell: %s, from %s, and others.", say.Plural(len(h), "message"), first.Subject, first.from.Short())}
}

// Ahead gives the rules of a box that say something of messages before those are in
// view.
func (d *Desk) Ahead(t store.Tx, box int64) ([]sorting.Rule, error) {
	rules, err := d.of(t, box)
	return sorting.Ahead(rules), err
}

// of gives the rules of a box, which are read anew only when any has changed.
func (d *Desk) of(t store.Tx, box int64) ([]sorting.Rule, error) {
	rev, err := ruling.Rules(t).Version()
	if err != nil || rev == 0 {
		return nil, err
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.rev != rev {
		d.rev, d.known = rev, map[int64][]sorting.Rule{}
	}
	rules, ok := d.known[box]
	if !ok {
		if rules, err = ruling.Rules(t).All(box); err != nil {
			return nil, err
		}
		d.known[box] = rules
	}
	return rules, nil
}
