package store

import "ebbe/internal/core/inbox"

// Habits are how a person wants Ebbe to work for them.
type Habits struct {
	Asleep     bool              `json:"asleep"`     // new mail leaves a snoozed conversation where it is
	Someday    int               `json:"someday"`    // the day of the month on which what waits for someday is looked through
	SwipeLeft  string            `json:"swipeLeft"`  // command of a swipe to the left; empty: the usual one
	SwipeRight string            `json:"swipeRight"` // and to the right
	Keys       map[string]string `json:"keys"`       // the user's own keys, by command
	Combos     []inbox.Chain     `json:"combos"`
	Span       int               `json:"span"` // for how many seconds a message can be taken back after sending; 0: the usual 15
}
