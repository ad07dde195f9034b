package desk

import (
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
)

// Slip is one conversation in a list.
type Slip struct {
	ID       int64          `json:"id"`
	From     string         `json:"from"`
	Subject  string         `json:"subject"`
	Kind     mail.Kind      `json:"kind"`
	LastAt   when.Instant   `json:"lastAt"`
	Messages int            `json:"messages"`
	Files    int            `json:"files"`
	Unread   bool           `json:"unread"`
	Starred  bool           `json:"starred"`
	Looks    int            `json:"looks"`
	Position inbox.Position `json:"position"`
	Due      *when.Moment   `json:"due,omitempty"` // of its next open follow-up
	Section  inbox.Section  `json:"section,omitempty"`
}

// Section is a group of the queue with its number.
type Section struct {
	Section inbox.Section `json:"section"`
	Count   int           `json:"count"`
}

// Queue is a page of the inbox.
type Queue struct {
	Sections []Section `json:"sections"`
	Slips    []Slip    `json:"slips"`
	Left     int       `json:"left"`
	Next     string    `json:"next,omitempty"` // where the next page begins; "" at the end
}

// List is a page of any other list of conversations.
type List struct {
	Slips []Slip `json:"slips"`
	Count int    `json:"count"`
	Next  string `json:"next,omitempty"`
}

// MessageView is a message as it is read. Blocks are nil where the text was
// not asked for; HTML says that there is a version to show in a frame.
type MessageView struct {
	ID      int64          `json:"id"`
	From    mail.Address   `json:"from"`
	To      []mail.Address `json:"to"`
	Cc      []mail.Address `json:"cc"`
	Date    when.Instant   `json:"date"`
	Subject string         `json:"subject"`
	Kind    mail.Kind      `json:"kind"`
	Own     bool           `json:"own"`
	Raw     bool           `json:"raw"`
	Files   []mail.File    `json:"files"`
	Blocks  []mail.Block   `json:"blocks"`
	HTML    bool           `json:"html"`
	Remote  int            `json:"remote"` // things on other machines that were left out
}

// Between is what has gone back and forth with a person, and what is open.
type Between struct {
	Name      string              `json:"name"`
	Address   string              `json:"address"`
	Received  int                 `json:"received"`
	Sent      int                 `json:"sent"`
	Since     when.Instant        `json:"since"`
	FollowUps []followup.FollowUp `json:"followUps"`
}

// ConversationView is a conversation opened.
type ConversationView struct {
	Slip      Slip                `json:"slip"`
	Messages  []MessageView       `json:"messages"`
	FollowUps []followup.FollowUp `json:"followUps"`
	Between   *Between            `json:"between,omitempty"`
}

// FollowUpGroup is a group of the list by date.
type FollowUpGroup struct {
	Group     followup.Group `json:"group"`
	Count     int            `json:"count"`
	FollowUps []FollowUpView `json:"followUps"`
}

// FollowUpView is a follow-up with what its conversation is called.
type FollowUpView struct {
	followup.FollowUp `tstype:",extends"`
	From              string `json:"from"`
	Subject           string `json:"subject"`
}

// FollowUpList is all open follow-ups by date, and those finished last.
type FollowUpList struct {
	Groups   []FollowUpGroup `json:"groups"`
	Finished []FollowUpView  `json:"finished"`
}

// HistoryLine is a line of the journal.
type HistoryLine struct {
	ID           int64        `json:"id"`
	At           when.Instant `json:"at"`
	Actor        store.Actor  `json:"actor"`
	Who          string       `json:"who"`
	Kind         inbox.Kind   `json:"kind"`
	Count        int          `json:"count"`
	Text         string       `json:"text"`
	Conversation int64        `json:"conversation"`
	TakenBack    bool         `json:"takenBack"`
}

// History is a page of the journal, newest first.
type History struct {
	Lines []HistoryLine `json:"lines"`
	Next  int64         `json:"next,omitempty"`
}

// Mark is something on the dayline.
type Mark struct {
	At    when.Instant `json:"at"`
	Count int          `json:"count"`
}

// Dayline is the course of a day.
type Dayline struct {
	From      when.Instant    `json:"from"`
	To        when.Instant    `json:"to"`
	Now       when.Instant    `json:"now"`
	Left      int             `json:"left"`
	Curve     []numbers.Point `json:"curve"`
	Back      []Mark          `json:"back"`
	Due       []Mark          `json:"due"`
	Later     int             `json:"later"`     // snoozed
	FollowUps int             `json:"followUps"` // due by the end of today, or late
}

// Tide is what was decided today and what comes next: the moment at zero.
type Tide struct {
	Left     int                `json:"left"`
	Decided  int                `json:"decided"`
	ByKind   map[inbox.Kind]int `json:"byKind"`
	NextBack when.Instant       `json:"nextBack"` // 0 if nothing is snoozed
	Later    int                `json:"later"`
	DueToday int                `json:"dueToday"`
}

// Session says where a browser stands.
type Session struct {
	State   string       `json:"state"` // "setup", "out" or "in"
	Demo    bool         `json:"demo"`
	Name    string       `json:"name"`
	Address string       `json:"address"`
	CSRF    string       `json:"csrf"`
	Week    when.Week    `json:"week"`
	Theme   string       `json:"theme"`
	Now     when.Instant `json:"now"`
}

// Problem is an error as RFC 9457 has it. Detail is a sentence for the user.
type Problem struct {
	Type   string `json:"type"`
	Title  string `json:"title"`
	Status int    `json:"status"`
	Detail string `json:"detail"`
	Field  string `json:"field,omitempty"`
}
