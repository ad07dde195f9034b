package desk

// Dial is how far the demo's clock is to be moved forward.
type Dial string

// The positions of the demo's dial.
const (
	DialNext    Dial = "next"    // to the next thing on the agenda
	DialHour    Dial = "hour"    // one hour
	DialMorning Dial = "morning" // to tomorrow 8:00
)
