package followups

import (
	"ebbe/internal/core/calendar"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
)

// Unanswered is a message of the user's that asked something of one person and
// has had no answer.
type Unanswered struct {
	Message      int64        `json:"message"`
	Conversation int64        `json:"conversation"`
	To           mail.Address `json:"to"`
	Subject      string       `json:"subject"`
	Asked        string       `json:"asked"` // the question
	At           when.Instant `json:"at"`
}

// FollowUpGroup is a group of follow-ups, with the first of them.
type FollowUpGroup struct {
	Key       string         `json:"key"`
	Name      string         `json:"name"`
	Count     int            `json:"count"`
	Loaded    bool           `json:"loaded"` // its first follow-ups are here
	FollowUps []FollowUpView `json:"followUps"`
	Next      string         `json:"next,omitempty"`
	Today     *Gauged        `json:"today,omitempty"` // of what one of a team has
}

// Gauged is how much of a team's somebody has to do by the end of today.
type Gauged struct {
	followup.Heap `tstype:",extends"`
	Usual         int  `json:"usual"` // minutes of it that they usually finish on such a day
	Weeks         int  `json:"weeks"` // from how many weeks that was learned; 0: it is assumed
	Over          bool `json:"over"`  // more than is usual
}

// FollowUpView is a follow-up with what its conversation is called.
type FollowUpView struct {
	followup.FollowUp `tstype:",extends"`
	From              string `json:"from"`
	Subject           string `json:"subject"`
	Repeats           string `json:"repeats,omitempty"` // how, in words
	Asking            string `json:"asking,omitempty"`  // how it is asked again by a rhythm, in words
	Gone              bool   `json:"gone,omitempty"`    // its conversation lies in the bin or is not here
}

// FollowUpList is the follow-ups, arranged.
type FollowUpList struct {
	By     followup.By     `json:"by"`
	Groups []FollowUpGroup `json:"groups"`
	Total  int             `json:"total"`
	Days   []followup.Day  `json:"days"` // the coming two weeks, filtered by all but the day
	Late   followup.Heap   `json:"late"`
	Later  followup.Heap   `json:"later"` // due after these days
	NoDate followup.Heap   `json:"noDate"`
	Weeks  int             `json:"weeks"` // from how many weeks it is known what is usual
}

// FollowUpSettings are how the user works with follow-ups, and what can be
// named in a line.
type FollowUpSettings struct {
	followup.Settings `tstype:",extends"`
	Projects          []string `json:"projects"`
	Contexts          []string `json:"contexts"`
	Feed              bool     `json:"feed"` // there is a calendar feed; its address was told when it was made
}

// ClosingItem is something that is left of the day, with the nearest days, from
// today, into which it fits.
type ClosingItem struct {
	FollowUpView `tstype:",extends"`
	Free         []int `json:"free"`
}

// Closing is what is left of the day.
type Closing struct {
	Items []ClosingItem  `json:"items"`
	Days  []followup.Day `json:"days"`
	Done  int            `json:"done"` // finished today
}

// Log is a page of what was finished, the last first.
type Log struct {
	FollowUps []FollowUpView `json:"followUps"`
	Next      string         `json:"next,omitempty"`
}

// Waiting is a page of what waits for somebody, the longest first.
type Waiting struct {
	FollowUps []FollowUpView `json:"followUps"`
	Count     int            `json:"count"`
	Next      string         `json:"next,omitempty"`
}

// Cards is what has come up by itself and waits for an answer.
type Cards struct {
	Cards  []FollowUpView   `json:"cards"`
	Events []calendar.Event `json:"events"`
	Sum    string           `json:"sum,omitempty"` // in place of the cards, if there are too many for one look
	Count  int              `json:"count"`
	Close  int              `json:"close"` // how many are left of a day that is to be closed; 0: it need not be
}

// NewFollowUp is what the user says of a follow-up they make or change.
type NewFollowUp struct {
	Title     string              `json:"title"`
	Due       when.Moment         `json:"due"`
	Priority  followup.Priority   `json:"priority"`
	Keep      bool                `json:"keep"`            // the mail stays in the inbox
	Remind    when.Moment         `json:"remind,omitzero"` // one more reminder
	Start     when.Moment         `json:"start,omitzero"`
	Stage     string              `json:"stage,omitempty"`
	Project   string              `json:"project,omitempty"`
	Context   string              `json:"context,omitempty"`
	With      mail.Address        `json:"with,omitzero"` // empty: who wrote the mail
	Labels    []int64             `json:"labels,omitempty"`
	Notes     string              `json:"notes,omitempty"`
	Checklist []followup.Item     `json:"checklist,omitempty"`
	Effort    int                 `json:"effort,omitempty"`
	Percent   int                 `json:"percent,omitempty"`
	Reminders []followup.Reminder `json:"reminders,omitempty"`
	Repeat    *followup.Repeat    `json:"repeat,omitempty"`
	Waits     followup.Wait       `json:"waits,omitzero"`
}

// FollowUpStep is what the user does with follow-ups that exist. Kind is one of
// inbox.ChangeFollow, FinishFollow, ReopenFollow, DropFollow; PutOff, to a day
// or time; PutInStage; WaitFor somebody; AcceptAnswer and RefuseAnswer, about a message
// that was offered, and KeepWaiting after one that was taken for the answer; and
// SeenReminder, which puts the card away and, with Remind, asks for another.
type FollowUpStep struct {
	Kind    inbox.Kind   `json:"kind"`
	UIDs    []string     `json:"uids,omitempty"` // those it is about, if several
	Change  *NewFollowUp `json:"change,omitempty"`
	Remind  when.Moment  `json:"remind,omitzero"`
	Day     *int         `json:"day,omitempty"`     // for PutOff: that day, counted from today
	To      when.Moment  `json:"to,omitzero"`       // for PutOff: that time
	Stage   string       `json:"stage,omitempty"`   // for PutInStage
	With    mail.Address `json:"with,omitzero"`     // for WaitFor; empty: whom it concerns
	Ask     when.Moment  `json:"ask,omitzero"`      // for WaitFor: when to ask again
	Rhythm  *when.Rhythm `json:"rhythm,omitempty"`  // and how after that; nil: as before
	Message int64        `json:"message,omitempty"` // for AcceptAnswer and RefuseAnswer: which was offered
	Owner   int64        `json:"owner,omitempty"`   // for Give: to whom of the team; 0: back to nobody
	Seen    string       `json:"seen,omitempty"`    // "open" or "finished", as the user saw it; else it is left as it is
	Closing bool         `json:"closing,omitempty"` // the day is being closed
}

// LineAsked is a line that is being written down.
type LineAsked struct {
	Line         string      `json:"line"`
	Title        string      `json:"title"`             // proposed: it stays unless the line has one
	Due          when.Moment `json:"due,omitzero"`      // proposed, too
	Project      string      `json:"project,omitempty"` // proposed, too
	Conversation int64       `json:"conversation,omitempty"`
	Off          []string    `json:"off,omitempty"` // what was taken off as a mark: it is title again
}

// FollowUpsAsked is how the user wants to see the follow-ups.
type FollowUpsAsked struct {
	By     followup.By  `json:"by"`
	Filter search.Query `json:"filter"`
}
