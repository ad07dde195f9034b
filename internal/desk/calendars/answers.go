package calendars

import (
	"ebbe/internal/core/calendar"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/followups"
	"ebbe/internal/desk/queue"
)

// TimeFound is a time that a conversation names.
type TimeFound struct {
	when.Found `tstype:",extends"`
	Means      string `json:"means"`
}

// EventFound is what an event can be made from, as a conversation has it.
type EventFound struct {
	Title  string           `json:"title"`
	Place  string           `json:"place,omitempty"` // where it is, if a machine tells that
	Times  []TimeFound      `json:"times"`
	Guests []calendar.Guest `json:"guests"`
}

// Invitation is an invitation in a message, and how it stands to the calendar.
type Invitation struct {
	Message int64           `json:"message"` // the message it came in
	Method  calendar.Method `json:"method"`
	News    calendar.News   `json:"news"`
	Event   calendar.Event  `json:"event"`
	Have    *calendar.Event `json:"have,omitempty"` // what the calendar has of it
	Whole   bool            `json:"whole"`
	Around  []calendar.Slot `json:"around"`  // what else there is on its days
	Clashes []calendar.Slot `json:"clashes"` // of that, what overlaps it
	Repeats string          `json:"repeats,omitempty"`
	Doubts  []string        `json:"doubts"`
	Passed  bool            `json:"passed"`
}

// CalendarDay is one day of the calendar.
type CalendarDay struct {
	Start when.Instant             `json:"start"`
	Slots []calendar.Slot          `json:"slots"`
	Due   []followups.FollowUpView `json:"due"`
	Back  []queue.Slip             `json:"back"`
	Open  int                      `json:"open"` // follow-ups due on it
}

// CalendarWeek is one week of the calendar, from the day on with which the person's weeks begin.
type CalendarWeek struct {
	Days []CalendarDay `json:"days"`
	From string        `json:"from"` // its first day: 2026-11-23
}

// TakenIn says what came of a calendar file.
type TakenIn struct {
	FollowUps int      `json:"followUps"` // new
	Events    int      `json:"events"`    // new
	Changed   int      `json:"changed"`   // known, and replaced by a newer version
	Known     int      `json:"known"`     // as they were
	Doubts    []string `json:"doubts"`
	Text      string   `json:"text"`
}

// EventDraft is what the user says of an event they make or change.
type EventDraft struct {
	Title        string           `json:"title"`
	Start        when.Moment      `json:"start"`
	End          when.Moment      `json:"end,omitzero"`
	Was          when.Moment      `json:"was,omitzero"` // when the occurrence began that is changed, of an event that repeats
	Place        string           `json:"place"`
	Guests       []calendar.Guest `json:"guests"`
	Notes        string           `json:"notes"`
	Remind       int              `json:"remind"` // minutes before; -1: not at all
	Rule         string           `json:"rule,omitempty"`
	Conversation int64            `json:"conversation,omitempty"` // it is made from
	Archive      bool             `json:"archive,omitempty"`      // that conversation leaves the inbox
}
