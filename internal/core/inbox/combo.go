package inbox

import (
	"errors"
	"fmt"
	"strings"
)

// ComboStep is one action of a combo.
type ComboStep struct {
	Kind   Kind    `json:"kind"`
	Phrase string  `json:"phrase,omitempty"` // for Snooze its time, for MakeFollowUp when it is due, in words
	Text   string  `json:"text,omitempty"`   // for MakeFollowUp its title; empty: as proposed. For ForwardTo the address, for Combo its ID
	Ref    int64   `json:"ref,omitempty"`    // for ReplyWith the template
	Labels []int64 `json:"labels,omitempty"` // for Label
	Stream string  `json:"stream,omitempty"` // for ToStream
}

// A Chain is a combo: the user's own chain of actions with a name and a key.
// It is one decision, with one line in the journal, and taken back as one.
type Chain struct {
	ID    string      `json:"id"`
	Name  string      `json:"name"`
	Key   string      `json:"key"` // as the user's keys are written; may be empty
	Steps []ComboStep `json:"steps"`
}

const maxChain = 8

// Valid says in a sentence what is wrong with the combo, or nil.
func (c Chain) Valid() error {
	switch {
	case strings.TrimSpace(c.Name) == "" || len(c.Name) > 60:
		return errors.New("a combo needs a short name for its button")
	case len(c.Steps) == 0:
		return fmt.Errorf("the combo %q does nothing yet: give it an action", c.Name)
	case len(c.Steps) > maxChain:
		return fmt.Errorf("the combo %q has more than %d actions", c.Name, maxChain)
	}
	moves := 0
	for _, s := range c.Steps {
		switch s.Kind {
		case ToBin, Archive, Snooze:
			moves++
		case Star, Unstar, MarkRead, MarkUnread, MakeFollowUp, FinishFollow:
		case Label:
			if len(s.Labels) == 0 {
				return fmt.Errorf("the combo %q labels, but with no label", c.Name)
			}
		default:
			return fmt.Errorf("%q cannot be part of a combo", s.Kind)
		}
	}
	if moves > 1 {
		return fmt.Errorf("the combo %q puts a conversation in two places: keep one of archive, bin and snooze", c.Name)
	}
	return nil
}
