package figures

import (
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
)

// FiguresView is what a stretch of days comes to, beside the one before that is as long.
type FiguresView struct {
	From   string          `json:"from"`  // a date
	To     string          `json:"to"`    // the last date
	Today  string          `json:"today"` // by the reader's clock
	First  string          `json:"first"` // the first date of which anything is known; "": nothing is
	Is     numbers.Figures `json:"is"`
	Before numbers.Figures `json:"before"`
	Known  bool            `json:"known"` // of the stretch before all is known
	Days   []DayView       `json:"days"`
	Shells []DayView       `json:"shells"` // the evenings of the five weeks up to the last of them
	Zeros  numbers.Zeros   `json:"zeros"`  // of these days
	Run    numbers.Zeros   `json:"run"`    // of the year up to the last of them

	Sittings []SittingFigures `json:"sittings"`
	Notices  int              `json:"notices"`  // notifications that were shown
	Counting bool             `json:"counting"` // what was done before numbers were made is still being counted
	Team     bool             `json:"team"`     // these are sums of a team
}

// DayView is a day of them.
type DayView struct {
	Date    string `json:"date"`
	Came    int    `json:"came"`
	Decided int    `json:"decided"`
	Left    int    `json:"left"`  // after the last that somebody did
	Acted   bool   `json:"acted"` // anything was done
	Off     bool   `json:"off"`   // no working day, or one on which the reader was away
}

// SittingFigures is a sitting that has been.
type SittingFigures struct {
	Begun       when.Instant `json:"begun"`
	Minutes     int          `json:"minutes"`
	Decided     int          `json:"decided"`
	Interrupted int          `json:"interrupted"` // how often more than five minutes passed
}

// Counted is a page of the lines that a number counts, the newest first.
type Counted struct {
	Lines []CountedLine `json:"lines"`
	Next  int64         `json:"next,omitempty"`
}

// CountedLine is a line of the journal, and how much it counts.
type CountedLine struct {
	Entry        int64        `json:"entry"`
	At           when.Instant `json:"at"`
	Actor        store.Actor  `json:"actor"`
	Kind         inbox.Kind   `json:"kind"`
	Text         string       `json:"text"`
	Conversation int64        `json:"conversation"`
	N            int          `json:"n"`
}

// DayCurve is how many were left to decide in the course of a day, beside how many usually are on that day of
// the week: for each half hour, as far as it has come.
type DayCurve struct {
	Date  string `json:"date"`
	Is    []int  `json:"is"`
	Usual []int  `json:"usual"` // none, where too few such days are known
	Weeks int    `json:"weeks"` // of which the usual one is made
}
