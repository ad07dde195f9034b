package decide

import (
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/search"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/followups"
)

// Decision is one decision about conversations, as the user takes it.
type Decision struct {
	Kind          inbox.Kind             `json:"kind"`
	Conversations []int64                `json:"conversations"`
	Where         *search.Query          `json:"where,omitempty"`    // instead: all in the inbox that match
	Seen          inbox.Place            `json:"seen,omitempty"`     // where the user saw them; what is elsewhere by now is passed over
	Return        when.Moment            `json:"return,omitzero"`    // for a snooze until a time
	Until         inbox.Until            `json:"until,omitempty"`    // for a snooze
	Site          int64                  `json:"site,omitempty"`     // for a snooze until the user is at a place
	Day           *int                   `json:"day,omitempty"`      // for a snooze: to that day from today, at the time it has
	Text          string                 `json:"text,omitempty"`     // for a name or a note; for one that is snoozed: a word to whoever wrote it
	Add           []int64                `json:"add,omitempty"`      // labels
	Remove        []int64                `json:"remove,omitempty"`   // labels
	FollowUp      *followups.NewFollowUp `json:"followUp,omitempty"` // for a follow-up
	Combo         string                 `json:"combo,omitempty"`    // the ID of a combo
	Answers       []inbox.ComboStep      `json:"answers,omitempty"`  // to what its steps ask, one for each step
	Owner         int64                  `json:"owner,omitempty"`    // to give: to whom of the team; 0: back to nobody
	Turn          together.Turn          `json:"turn,omitempty"`     // or by whose turn it is
	Was           *int64                 `json:"was,omitempty"`      // to give: who had it as the user saw it; what somebody else has by now stays
	Sitting       int64                  `json:"sitting,omitempty"`  // in which it was decided

	steps  []inbox.ComboStep // of the combo, with what was answered
	passed int               // conversations of which its condition does not hold
}
