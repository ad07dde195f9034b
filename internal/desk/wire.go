package desk

import (
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
)

// Decision is one decision about conversations, as the user takes it.
type Decision struct {
	Kind          inbox.Kind   `json:"kind"`
	Conversations []int64      `json:"conversations"`
	Return        when.Moment  `json:"return,omitzero"`    // for a snooze
	FollowUp      *NewFollowUp `json:"followUp,omitempty"` // for a follow-up
}

// NewFollowUp is what the user says of a follow-up they make or change.
type NewFollowUp struct {
	Title    string            `json:"title"`
	Due      when.Moment       `json:"due"`
	Remind   when.Moment       `json:"remind"`
	Priority followup.Priority `json:"priority"`
	Keep     bool              `json:"keep"` // the mail stays in the inbox
}

// Decided is what came of a decision.
type Decided struct {
	Entry int64  `json:"entry"` // in the journal; 0 if nothing changed
	Count int    `json:"count"` // conversations it changed
	Left  int    `json:"left"`  // left to decide afterwards
	Text  string `json:"text"`  // in a sentence
	First int64  `json:"first"` // the first of the conversations, 0 if none
}

// FollowUpStep is what the user does with a follow-up that exists. Kind is one
// of inbox.ChangeFollow, FinishFollow, ReopenFollow, DropFollow, and
// SeenReminder, which puts the card away and, with Remind, asks for another.
type FollowUpStep struct {
	Kind   inbox.Kind   `json:"kind"`
	Change *NewFollowUp `json:"change,omitempty"`
	Remind when.Moment  `json:"remind,omitzero"`
}

// Signup is what the first start asks for.
type Signup struct {
	Name     string `json:"name"`
	Address  string `json:"address"`
	Password string `json:"password"`
	Zone     string `json:"zone"` // IANA name, as the browser knows it
}

// Settings are what a person has chosen for themselves.
type Settings struct {
	Week      when.Week `json:"week"`
	Theme     string    `json:"theme"` // "", "light" or "dark"
	Addresses []string  `json:"addresses"`
}

// Event tells open tabs what changed.
type Event struct {
	Topics        []string `json:"topics"`
	Conversations []int64  `json:"conversations,omitempty"`
	Key           string   `json:"key,omitempty"` // of the request that caused it
}

// Phrase is what a phrase means, with how much already comes back or is due
// around then.
type Phrase struct {
	when.Reading `tstype:",extends"`
	Also         int `json:"also"`
}

// Dial is how far the demo's clock is to be moved forward.
type Dial string

// The positions of the demo's dial.
const (
	DialNext    Dial = "next"    // to the next thing on the agenda
	DialHour    Dial = "hour"    // one hour
	DialMorning Dial = "morning" // to tomorrow 8:00
)
