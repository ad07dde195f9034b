package desk

import (
	"ebbe/internal/core/when"
	"ebbe/internal/store"
)

// Settings are what a person has chosen for themselves.
type Settings struct {
	Week      when.Week    `json:"week"`
	Theme     string       `json:"theme"` // "", "light" or "dark"
	Addresses []string     `json:"addresses"`
	Habits    store.Habits `json:"habits"`
}

// Dial is how far the demo's clock is to be moved forward.
type Dial string

// The positions of the demo's dial.
const (
	DialNext    Dial = "next"    // to the next thing on the agenda
	DialHour    Dial = "hour"    // one hour
	DialMorning Dial = "morning" // to tomorrow 8:00
)
