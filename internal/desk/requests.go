package desk

import (
	"ebbe/internal/core/calendar"
	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/store"
)

// Decision is one decision about conversations, as the user takes it.
type Decision struct {
	Kind          inbox.Kind    `json:"kind"`
	Conversations []int64       `json:"conversations"`
	Where         *search.Query `json:"where,omitempty"`    // instead: all in the inbox that match
	Seen          inbox.Place   `json:"seen,omitempty"`     // where the user saw them; what is elsewhere by now is passed over
	Return        when.Moment   `json:"return,omitzero"`    // for a snooze until a time
	Until         inbox.Until   `json:"until,omitempty"`    // for a snooze
	Site          int64         `json:"site,omitempty"`     // for a snooze until the user is at a place
	Day           *int          `json:"day,omitempty"`      // for a snooze: to that day from today, at the time it has
	Text          string        `json:"text,omitempty"`     // for a name or a note; for one that is snoozed: a word to whoever wrote it
	Add           []int64       `json:"add,omitempty"`      // labels
	Remove        []int64       `json:"remove,omitempty"`   // labels
	FollowUp      *NewFollowUp  `json:"followUp,omitempty"` // for a follow-up
	Combo         string        `json:"combo,omitempty"`    // the ID of a combo
	Sitting       int64         `json:"sitting,omitempty"`  // in which it was decided
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

// Sit begins a sitting: over the conversations named, or all in the inbox that
// match, in that order.
type Sit struct {
	Order         inbox.Order   `json:"order"`
	Minutes       int           `json:"minutes"` // 0: until all are decided
	Conversations []int64       `json:"conversations,omitempty"`
	Where         *search.Query `json:"where,omitempty"`
}

// Arrangement is how the user wants to see the inbox.
type Arrangement struct {
	Group inbox.Grouping `json:"group"`
	Order inbox.Order    `json:"order"`
	Where search.Query   `json:"where"`
}

// FollowUpStep is what the user does with follow-ups that exist. Kind is one of
// inbox.ChangeFollow, FinishFollow, ReopenFollow, DropFollow; PutOff, to a day
// or time; PutInStage; WaitFor somebody; and SeenReminder, which puts the card
// away and, with Remind, asks for another.
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
}

// FollowUpsAsked is how the user wants to see the follow-ups.
type FollowUpsAsked struct {
	By     followup.By     `json:"by"`
	Narrow followup.Narrow `json:"narrow"`
}

// EventDraft is what the user says of an event they make or change.
type EventDraft struct {
	Title        string           `json:"title"`
	Start        when.Moment      `json:"start"`
	End          when.Moment      `json:"end,omitzero"`
	Place        string           `json:"place"`
	Guests       []calendar.Guest `json:"guests"`
	Notes        string           `json:"notes"`
	Remind       int              `json:"remind"` // minutes before; -1: not at all
	Rule         string           `json:"rule,omitempty"`
	Conversation int64            `json:"conversation,omitempty"` // it is made from
	Archive      bool             `json:"archive,omitempty"`      // that conversation leaves the inbox
}

// PlanDraft is a plan that is being drawn. With Line, or with Day and Text, it
// is changed by what was typed first.
type PlanDraft struct {
	Plan   delivery.Plan   `json:"plan"`
	Stream delivery.Stream `json:"stream,omitempty"` // the typed text is about; people if empty
	Line   string          `json:"line,omitempty"`   // such as "mon–fri 9, 14"
	Day    *int            `json:"day,omitempty"`    // 0 is Sunday
	Text   string          `json:"text,omitempty"`   // all that is to happen on it
}

// DeliveryChoices are the choices about delivery that are no plans.
type DeliveryChoices struct {
	Counted   bool            `json:"counted"`
	BackWaits bool            `json:"backWaits"`
	Notify    delivery.Notify `json:"notify"`
}

// LettingIn is what is to come in before its time.
type LettingIn struct {
	Conversations []int64 `json:"conversations"`
	All           bool    `json:"all"`
	Words         string  `json:"words"` // that were looked for
}

// Settings are what a person has chosen for themselves.
type Settings struct {
	Week      when.Week    `json:"week"`
	Theme     string       `json:"theme"` // "", "light" or "dark"
	Addresses []string     `json:"addresses"`
	Habits    store.Habits `json:"habits"`
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

// AccountDraft is what the user types about an account.
type AccountDraft struct {
	ID        int64         `json:"id"` // 0: a new one
	Name      string        `json:"name"`
	Address   string        `json:"address"`
	FullName  string        `json:"fullName"`
	Signature string        `json:"signature"`
	Mailbox   mail.Server   `json:"mailbox"`
	Sending   mail.Server   `json:"sending"`
	Login     string        `json:"login"`  // empty: the address
	Secret    string        `json:"secret"` // empty: as it was
	Token     bool          `json:"token"`  // the secret is a token
	Carries   inbox.Carries `json:"carries"`
	Paused    bool          `json:"paused"`
	EmptyDays int           `json:"emptyDays"` // after how many days what Ebbe put into bin and junk is removed; 0: never
}

// DraftBegun says which message is begun.
type DraftBegun struct {
	Mode    writing.Mode   `json:"mode"`
	Message int64          `json:"message"` // which it answers or passes on; 0 for a new one
	To      []mail.Address `json:"to"`      // for a new one
	Remind  bool           `json:"remind"`  // it asks again for an answer to a message of the user's
}

// DraftChange is a draft as the user has it now.
type DraftChange struct {
	Account int64          `json:"account"`
	To      []mail.Address `json:"to"`
	Cc      []mail.Address `json:"cc"`
	Bcc     []mail.Address `json:"bcc"`
	Subject string         `json:"subject"`
	Text    string         `json:"text"`
	Rich    bool           `json:"rich"`
	Bare    bool           `json:"bare"`
	Receipt bool           `json:"receipt"`
}

// Sending is how a draft is to be sent.
type Sending struct {
	Then    inbox.Kind  `json:"then"`             // what its conversation becomes: archive, snooze, or empty for as it is
	Return  when.Moment `json:"return,omitzero"`  // when it is brought back if nobody has answered
	At      when.Moment `json:"at,omitzero"`      // not before that time
	Repeat  string      `json:"repeat,omitempty"` // and again after that, in words: every monday
	Sure    bool        `json:"sure"`             // the user was asked about a missing file or subject
	Expect  string      `json:"expect,omitempty"` // for handing over: what is expected
	Due     when.Moment `json:"due,omitzero"`     // for handing over: by when
	Sitting int64       `json:"sitting,omitempty"`
	Seen    inbox.Place `json:"seen,omitempty"`
}
