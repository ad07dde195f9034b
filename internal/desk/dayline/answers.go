package dayline

import (
	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/deliveries"
)

// DayLoad is what falls on a day.
type DayLoad struct {
	Start when.Instant `json:"start"`
	Back  int          `json:"back"`
	Due   int          `json:"due"`
}

// Tick is something on the dayline.
type Tick struct {
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
	Forecast  []numbers.Point `json:"forecast"` // from now on, as foreseen
	Zero      when.Instant    `json:"zero"`     // when nothing is likely to be left; 0 if not today
	Learned   int             `json:"learned"`  // days from which the forecast was learned; none with less than seven
	Back      []Tick          `json:"back"`
	Due       []Tick          `json:"due"`
	Later     int             `json:"later"`     // snoozed
	FollowUps int             `json:"followUps"` // due by the end of today, or late
	Waiting   int             `json:"waiting"`   // follow-ups that wait for somebody
	Junk      int             `json:"junk"`      // what lies in junk and was not looked through
	Offers    int             `json:"offers"`    // rules that are offered, five at most
	Lists     int64           `json:"lists"`     // of the reader's that stand on the rail
	Review    bool            `json:"review"`    // their week is to be looked back on, and was not
	Told      int             `json:"told"`      // parcels, bills and the like of which something is expected
	Stuck     int             `json:"stuck"`     // messages that were refused, or of which nobody knows whether they have gone

	Delivery deliveries.DeliveryState `json:"delivery"`
	Bands    []delivery.Piece         `json:"bands"`  // how mail from people comes in over the day
	Rounds   []when.Instant           `json:"rounds"` // of both streams
}

// Tide is what was decided today and what comes next: the moment at zero.
type Tide struct {
	Left     int                `json:"left"`
	Decided  int                `json:"decided"`
	ByKind   map[inbox.Kind]int `json:"byKind"`
	NextBack when.Instant       `json:"nextBack"` // 0 if nothing is snoozed
	Later    int                `json:"later"`
	DueToday int                `json:"dueToday"`
	NextMail when.Instant       `json:"nextMail"` // when held mail comes in; 0 if mail is not held, or nobody knows
}

// Phrase is what a phrase means, with how much already comes back or is due
// around then.
type Phrase struct {
	when.Reading `tstype:",extends"`
	Also         int `json:"also"`
}
