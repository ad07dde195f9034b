package sorting

import (
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/search"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
)

// Mode is whether a rule is at work.
type Mode string

// The modes of a rule.
const (
	Off    Mode = "off"
	Trying Mode = "trying" // it writes down what it would have done, until Rule.Until
	On     Mode = "on"
)

// Rule is what the reader wants done with messages that come in. It is asked once of
// each message, when that comes into view; what concerns its coming in (its stream,
// letting it through) before that, as it arrives.
type Rule struct {
	ID     int64             `json:"id"`
	Name   string            `json:"name"`   // empty: its words
	Words  string            `json:"words"`  // as the reader wrote it
	When   []search.Query    `json:"when"`   // any of these
	Except []search.Query    `json:"except"` // and none of these
	Then   []inbox.ComboStep `json:"then"`
	Mode   Mode              `json:"mode"`
	Until  when.Instant      `json:"until,omitempty"`  // while it is tried
	Rank   int               `json:"rank"`             // the lowest first
	Away   bool              `json:"away,omitempty"`   // it puts somebody away for good: not what answers the reader, or is waited for
	Lesson bool              `json:"lesson,omitempty"` // it was taught by moving a conversation to another stream
}

// Same says that two rules are the same, wherever they stand.
func (r Rule) Same(o Rule) bool {
	r.Rank, o.Rank = 0, 0
	return reflect.DeepEqual(r, o)
}

// SameAbout says that two rules are about the same messages.
func (r Rule) SameAbout(o Rule) bool {
	return reflect.DeepEqual(r.When, o.When) && reflect.DeepEqual(r.Except, o.Except)
}

// How much a rule may hold.
const (
	MaxRules      = 1000 // of one box
	maxConditions = 20
	maxActions    = 8
	maxRuleName   = 80   // bytes
	maxRuleWords  = 1000 // bytes
)

// Holds says that a rule is about a message.
func (r Rule) Holds(m search.Message) bool {
	if r.Away && (m.Answers || m.Awaited) {
		return false
	}
	holds := func(q search.Query) bool { return q.Holds(m) }
	return slices.ContainsFunc(r.When, holds) && !slices.ContainsFunc(r.Except, holds)
}

// Chain is what a rule does about a conversation, as a combo; it has no steps where the
// rule only lets messages through, tells of them or sends something. Of what it hands
// over the answer is waited for.
func (r Rule) Chain() inbox.Chain {
	steps := slices.DeleteFunc(slices.Clone(r.Then), func(s inbox.ComboStep) bool {
		return slices.Contains([]inbox.Kind{inbox.PassThrough, inbox.TellOf, inbox.ReplyWith, inbox.ForwardTo}, s.Kind)
	})
	return inbox.Chain{Name: r.Called(), Steps: steps}
}

// Does says that a rule does something of that kind.
func (r Rule) Does(k inbox.Kind) bool {
	return slices.ContainsFunc(r.Then, func(s inbox.ComboStep) bool { return s.Kind == k })
}

// Called is how a rule is called.
func (r Rule) Called() string {
	if r.Name != "" {
		return r.Name
	}
	if r.Words != "" {
		words := []rune(r.Words)
		if len(words) > 60 {
			return string(words[:59]) + "…"
		}
		return r.Words
	}
	return "Rule"
}

// places is the step of a rule that puts a conversation elsewhere, or the zero step.
func (r Rule) places() inbox.ComboStep {
	for _, s := range r.Then {
		switch s.Kind {
		case inbox.ToBin, inbox.ToJunk, inbox.Archive, inbox.Snooze, inbox.Combo:
			return s
		}
	}
	return inbox.ComboStep{}
}

// Places says that a rule puts a conversation elsewhere.
func (r Rule) Places() bool { return r.places().Kind != "" }

// Quarrels says in a sentence in which way two rules about the same message differ,
// the first of which comes first; "" if they do not.
func (r Rule) Quarrels(later Rule) string {
	a, b := r.places(), later.places()
	if a.Kind == "" || b.Kind == "" || a.Kind == b.Kind && a.Phrase == b.Phrase && a.Text == b.Text {
		return ""
	}
	return fmt.Sprintf("“%s” comes first and %s it; “%s” would have %s it.", r.Called(), does[a.Kind], later.Called(), did[b.Kind])
}

var (
	does = map[inbox.Kind]string{inbox.ToBin: "bins", inbox.ToJunk: "calls junk", inbox.Archive: "archives", inbox.Snooze: "snoozes", inbox.Combo: "runs a combo on"}
	did  = map[inbox.Kind]string{inbox.ToBin: "binned", inbox.ToJunk: "called junk", inbox.Archive: "archived", inbox.Snooze: "snoozed", inbox.Combo: "run a combo on"}
)

// Valid says in part of a sentence what is wrong with the rule, or nil.
func (r Rule) Valid() error {
	switch {
	case len(r.When) == 0:
		return errors.New("it says of no message what it is about: name a sender, words or a kind")
	case len(r.When)+len(r.Except) > maxConditions:
		return fmt.Errorf("there is room for %d conditions", maxConditions)
	case len(r.Name) > maxRuleName:
		return errors.New("its name is too long")
	case len(r.Words) > maxRuleWords:
		return errors.New("it is too long: make two of it")
	case len(r.Then) == 0:
		return errors.New("it does nothing yet: say what is to be done")
	case r.Mode != Off && r.Mode != Trying && r.Mode != On:
		return errors.New("it is neither on nor off")
	}
	for _, q := range slices.Concat(r.When, r.Except) {
		if q == (search.Query{}) {
			return errors.New("one of its conditions is empty and would be about everything: fill it in or remove it")
		}
		if q.Place != "" || q.Label != 0 || q.Unread || q.Starred || q.Unstarred || q.Flagged || q.Before != 0 || q.ByWork() || q.Group != "" || q.Day != "" {
			return errors.New("a message that comes in has no label, star, follow-up or place yet: ask for something else")
		}
		if err := q.Valid(); err != nil {
			return err
		}
		if err := contradicts(q); err != nil {
			return err
		}
	}
	if listed := func(q search.Query) bool { return q.Saved != 0 }; (slices.ContainsFunc(r.When, listed) || slices.ContainsFunc(r.Except, listed)) && (r.Does(inbox.PassThrough) || r.Does(inbox.ToStream)) {
		return errors.New("what is on a saved list is known once it has come in, so such a rule lets nothing through and puts nothing into a stream")
	}
	for _, q := range r.When {
		if slices.Contains(r.Except, q) {
			return errors.New("what it is about is also what it is not about, so it would never do anything")
		}
	}
	moves, streams, gives := 0, 0, 0
	for _, s := range r.Then {
		switch s.Kind {
		case inbox.ToBin, inbox.Archive, inbox.Snooze, inbox.Combo:
			moves++
		case inbox.ReplyWith:
			if s.Ref == 0 {
				return errors.New("it answers, but with no template")
			}
		case inbox.ForwardTo, inbox.HandOver:
			if !strings.Contains(s.Text, "@") {
				return errors.New("it forwards, but to nobody")
			}
		case inbox.Give:
			gives++
			if s.Ref == 0 && !slices.Contains(together.Turns, together.Turn(s.Text)) {
				return errors.New("it gives, but to nobody")
			}
		case inbox.Star, inbox.MarkRead, inbox.MakeFollowUp, inbox.PassThrough, inbox.TellOf:
		case inbox.ToStream:
			streams++
			if s.Stream == "" {
				return errors.New("it puts mail into a stream, but into none")
			}
		case inbox.Label:
			if len(s.Labels) == 0 && !NewLabel(s) {
				return errors.New("it labels, but with no label")
			}
		default:
			return fmt.Errorf("%q is nothing a rule can do", s.Kind)
		}
	}
	if moves > 1 {
		return errors.New("it puts a conversation in two places: keep one of archive, bin, snooze and a combo")
	}
	if streams > 1 {
		return errors.New("it puts mail into two streams: keep one")
	}
	if gives > 1 {
		return errors.New("it gives something twice: keep one")
	}
	if len(r.Then) > maxActions {
		return fmt.Errorf("it does more than %d things", maxActions)
	}
	return nil
}

// contradicts says what of a condition cannot be at once.
func contradicts(q search.Query) error {
	_, domain, _ := strings.Cut(q.From, "@")
	switch {
	case q.From != "" && q.Domain != "" && domain != q.Domain && !strings.HasSuffix(domain, "."+q.Domain):
		return fmt.Errorf("nothing comes from %s and from %s at once", q.From, q.Domain)
	case q.Answers && q.Stranger:
		return errors.New("a stranger’s first message answers nothing you wrote")
	case q.Files && q.Kind == "" && q.FilesOf != "":
		return nil
	}
	return nil
}
