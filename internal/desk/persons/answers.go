package persons

import (
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
)

// PersonView is all between the reader and somebody.
type PersonView struct {
	Address  string              `json:"address"`
	Along    []string            `json:"along"` // it, and further addresses of theirs: of mail, or that stand for numbers
	Name     string              `json:"name"`
	Since    when.Instant        `json:"since"` // the first message between them; 0: there is none
	Received int                 `json:"received"`
	Sent     int                 `json:"sent"`
	Mine     []followup.FollowUp `json:"mine"`   // open, for the reader to do
	Theirs   []followup.FollowUp `json:"theirs"` // open, and waiting for them
	Waits    []PersonLine        `json:"waits"`  // conversations in the inbox in which they wrote last
	Answers  PersonAnswers       `json:"answers"`
	Remark   string              `json:"remark"` // what the reader has noted about them
	Moved    int                 `json:"moved"`  // how often follow-ups about them were put off
	Months   []PersonMonth       `json:"months"` // the last ones, the earliest first
	Lines    []PersonLine        `json:"lines"`  // all of it, the newest first
	Files    int                 `json:"files"`
	Bytes    int64               `json:"bytes"` // of those
	More     bool                `json:"more"`  // there is older mail than was looked at
}

// PersonAnswers is how long each took to answer the other, the newest first, and usually,
// in milliseconds by the clock.
type PersonAnswers struct {
	Own         []AnswerTime `json:"own"`
	Theirs      []AnswerTime `json:"theirs"`
	OwnUsual    when.Instant `json:"ownUsual"` // 0: none answered
	TheirsUsual when.Instant `json:"theirsUsual"`
	Hours       []int        `json:"hours"` // how many of theirs came in each hour of the reader's day
}

// AnswerTime is how long an answer took.
type AnswerTime struct {
	At   when.Instant `json:"at"`   // when it was written
	Took when.Instant `json:"took"` // milliseconds by the clock
}

// PersonMonth is how many messages went each way in a month.
type PersonMonth struct {
	Name     string `json:"name"` // "Nov 2026"
	Received int    `json:"received"`
	Sent     int    `json:"sent"`
}

// PersonLine is a conversation, a follow-up or an event with somebody.
type PersonLine struct {
	Kind         search.DocumentKind `json:"kind"` // of a conversation: search.MessageDocument
	At           when.Instant        `json:"at"`
	Title        string              `json:"title"`
	Own          bool                `json:"own,omitempty"`   // the reader wrote last
	Files        int                 `json:"files,omitempty"` // between the two in it
	Conversation int64               `json:"conversation,omitempty"`
	UID          string              `json:"uid,omitempty"`
	Place        inbox.Place         `json:"place,omitempty"`
	Done         bool                `json:"done,omitempty"`  // of a follow-up
	Waits        bool                `json:"waits,omitempty"` // of a follow-up: for somebody
}
