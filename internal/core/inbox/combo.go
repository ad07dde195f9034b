package inbox

import (
	"cmp"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
)

// ComboStep is one action of a combo.
type ComboStep struct {
	Kind   Kind    `json:"kind"`
	Phrase string  `json:"phrase,omitempty"` // for Snooze its time, for MakeFollowUp and HandOver when it is due, in words
	Text   string  `json:"text,omitempty"`   // for MakeFollowUp its title; empty: as proposed. For ForwardTo, HandOver and StartMessage the address, for Combo its ID, for Give whose turn (together.Turn)
	Ref    int64   `json:"ref,omitempty"`    // for ReplyWith and StartMessage the template, for Give the person, if it is by no turn
	Labels []int64 `json:"labels,omitempty"` // for Label
	Stream string  `json:"stream,omitempty"` // for ToStream
	Ask    bool    `json:"ask,omitempty"`    // what it needs is asked each time
}

// asks are the kinds of steps that can ask, with the question.
var asks = map[Kind]string{Snooze: "until when?", Label: "with which label?", MakeFollowUp: "what, and due when?", ForwardTo: "to whom?", HandOver: "to whom?", StartMessage: "to whom?"}

// Answered is a step with what was answered to its question in place of what it says. An
// error says in part of a sentence what is missing.
func (s ComboStep) Answered(a ComboStep) (ComboStep, error) {
	if !s.Ask {
		return s, nil
	}
	s.Ask, s.Phrase, s.Text, s.Labels = false, cmp.Or(strings.TrimSpace(a.Phrase), s.Phrase), cmp.Or(strings.TrimSpace(a.Text), s.Text), append(slices.Clone(s.Labels), a.Labels...)
	return s, s.valid()
}

// A Chain is a combo: the user's own chain of actions with a name and a key.
// It is one decision, with one line in the journal, and taken back as one.
type Chain struct {
	ID    string      `json:"id"`
	Name  string      `json:"name"`
	Key   string      `json:"key"`            // as the user's keys are written; may be empty
	If    string      `json:"if,omitempty"`   // what its conversations must be, in the words of rules; others are passed over
	Size  int         `json:"size,omitempty"` // of its button, 0 to MaxButton
	Steps []ComboStep `json:"steps"`
}

// MaxButton is the size of the largest button.
const MaxButton = 3

const maxChain = 8

// Asks says that a combo asks something each time.
func (c Chain) Asks() bool {
	return slices.ContainsFunc(c.Steps, func(s ComboStep) bool { return s.Ask })
}

// ByItself says that a combo can run without anybody: it asks nothing, sends nothing and
// starts no message.
func (c Chain) ByItself() bool {
	return !slices.ContainsFunc(c.Steps, func(s ComboStep) bool {
		return s.Ask || slices.Contains([]Kind{ForwardTo, HandOver, StartMessage}, s.Kind)
	})
}

// Valid says in a sentence what is wrong with the combo, or nil.
func (c Chain) Valid() error {
	switch {
	case strings.TrimSpace(c.Name) == "" || len(c.Name) > 60:
		return errors.New("a combo needs a short name for its button")
	case len(c.Steps) == 0:
		return fmt.Errorf("the combo %q does nothing yet: give it an action", c.Name)
	case len(c.Steps) > maxChain:
		return fmt.Errorf("the combo %q has more than %d actions", c.Name, maxChain)
	case c.Size < 0 || c.Size > MaxButton:
		return fmt.Errorf("the button of the combo %q has a size from 0 to %d", c.Name, MaxButton)
	case len(c.If) > 500:
		return fmt.Errorf("the condition of the combo %q is too long", c.Name)
	}
	moves, starts := 0, 0
	for _, s := range c.Steps {
		switch s.Kind {
		case ToBin, ToJunk, ToInbox, Archive, Snooze, Silence:
			moves++
		case StartMessage:
			starts++
		}
		if s.Ask && asks[s.Kind] == "" {
			return fmt.Errorf("the combo %q asks about something that needs no answer", c.Name)
		}
		if err := s.valid(); err != nil && !s.Ask {
			return fmt.Errorf("the combo %q %w", c.Name, err)
		}
	}
	if moves > 1 {
		return fmt.Errorf("the combo %q puts a conversation in two places: keep one of archive, bin, junk, snooze, silence and bring back", c.Name)
	}
	if starts > 1 {
		return fmt.Errorf("the combo %q starts two messages: keep one", c.Name)
	}
	return nil
}

// valid says in part of a sentence what is wrong with a step that asks nothing, or nil.
func (s ComboStep) valid() error {
	switch s.Kind {
	case ToBin, ToJunk, ToInbox, Archive, Silence, Unsilence, Star, Unstar, MarkRead, MarkUnread, MakeFollowUp, FinishFollow:
	case Snooze:
		if s.Phrase == "" {
			return errors.New("snoozes, but does not say until when")
		}
	case Label:
		if len(s.Labels) == 0 {
			return errors.New("labels, but with no label")
		}
	case ToStream:
		if s.Stream == "" {
			return errors.New("puts mail into a stream, but into none")
		}
	case ForwardTo, HandOver:
		if !isAddress(s.Text) {
			return errors.New("passes mail on, but not to one address, such as “books@accounts.example”")
		}
	case StartMessage:
		if s.Text != "" && !isAddress(s.Text) {
			return errors.New("starts a message, but not to one address; leave it empty for a reply")
		}
	default:
		return fmt.Errorf("does something that cannot be part of it (%q)", s.Kind)
	}
	return nil
}

// address is what can stand as one address; whether there is such a mailbox only its
// server knows.
var address = regexp.MustCompile(`^[^\s@<>,;:"()]{1,64}@[^\s@<>,;:"()]{1,250}$`)

func isAddress(text string) bool { return address.MatchString(text) }
