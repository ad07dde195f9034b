package followups

import (
	"fmt"

	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/talk"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/membership"
	talks "ebbe/internal/store/talk"
)

// Receiver is what whoever a follow-up of a team is given to is called; of nobody nothing.
func Receiver(t store.Tx, who identity.Who, to int64) (string, error) {
	if who.Team == 0 {
		return "", problem.Invalid("owner", "Only what is in the box of a team can be taken or given. Nothing was changed.")
	}
	if err := who.May(together.Work); err != nil || to == 0 {
		return "", err
	}
	s, err := membership.Membership(t).In(to, who.Box)
	if err != nil || s.Role == together.Own {
		return "", problem.Invalid("owner", "They are not in this team any more. Nothing was changed; give it to somebody else.")
	}
	names, err := membership.Membership(t).Names(who.Box)
	return names[to], err
}

// history is what stands in it of what was given.
func (s *stepper) history() string {
	what := fmt.Sprintf("%d follow-ups", len(s.changes))
	if len(s.changes) == 1 {
		what = "“" + s.last.Title + "”"
	}
	switch s.step.Owner {
	case 0:
		return what + " back"
	case s.by:
		return what + " to themselves"
	}
	return what + " to " + s.to
}

// given has whoever was given something follow it, and hear of it.
func (s *stepper) given(t store.Tx, who identity.Who) ([]journal.Notice, error) {
	if s.step.Owner == 0 {
		return nil, nil
	}
	var about []int64
	for _, c := range s.changes {
		if id := c.Conversation(); id != 0 {
			about = append(about, id)
		}
	}
	if err := talks.Talk(t).Follow(who.Box, s.step.Owner, about, true, s.now); err != nil {
		return nil, err
	}
	if err := membership.Membership(t).Give(who.Box, map[int64]when.Instant{s.step.Owner: s.now}); err != nil {
		return nil, err
	}
	conversation := int64(0)
	if len(about) > 0 {
		conversation = about[0]
	}
	what := fmt.Sprintf("%d follow-ups are yours now", len(s.changes))
	if len(s.changes) == 1 {
		what = "“" + s.last.Title + "” is yours now"
	}
	return talk.CallsFor(t, who, []int64{s.step.Owner}, conversation, what, s.now)
}
