package review

import (
	"ebbe/internal/core/delivery"
	"ebbe/internal/core/numbers"
	"ebbe/internal/desk/figures"
)

// ReviewView is the last seven days in review: few numbers, and few offers.
type ReviewView struct {
	From    string             `json:"from"` // a date
	To      string             `json:"to"`
	Is      numbers.Figures    `json:"is"`
	Before  numbers.Figures    `json:"before"` // the seven days before
	Known   bool               `json:"known"`  // of those all is known
	Zeros   numbers.Zeros      `json:"zeros"`
	Own     figures.Speed      `json:"own"`
	Theirs  figures.Speed      `json:"theirs"`
	Mine    *figures.PersonRow `json:"mine,omitempty"`    // who waits longest for the reader
	ForThem *figures.PersonRow `json:"forThem,omitempty"` // for whom the reader waits longest
	Fullest *figures.AheadDay  `json:"fullest,omitempty"` // of the coming seven days
	Due     int                `json:"due"`               // minutes of follow-ups in these
	Often   []OftenSnoozed     `json:"often"`             // snoozed more than twice, and still open
	Offers  []numbers.Advice   `json:"offers"`
	At      delivery.Rounds    `json:"at"`  // when it is to be looked at
	New     bool               `json:"new"` // it was not looked at since
}

// OftenSnoozed is a conversation that was snoozed again and again.
type OftenSnoozed struct {
	Conversation int64  `json:"conversation"`
	Title        string `json:"title"`
	Times        int    `json:"times"`
}

// Offered is an offer of a review.
type Offered struct {
	Key string `json:"key"`
}
