package inbox

import (
	"encoding/json"
)

// Habits are how a person wants Ebbe to work for them.
type Habits struct {
	Asleep  bool `json:"asleep"`  // new mail leaves a snoozed conversation where it is
	Someday int  `json:"someday"` // the day of the month on which what waits for someday is looked through
	// The command of a swipe to either side, short or far; empty: the usual one.
	SwipeLeft     string `json:"swipeLeft"`
	SwipeLeftFar  string `json:"swipeLeftFar"`
	SwipeRight    string `json:"swipeRight"`
	SwipeRightFar string `json:"swipeRightFar"`

	BinCodes bool `json:"binCodes,omitempty"` // what brings nothing but a code goes to the bin an hour later

	Keys   map[string]string `json:"keys"` // the user's own keys, by command
	Combos []Chain           `json:"combos"`
	Junk   JunkWishes        `json:"junk"`
	Span   int               `json:"span"` // for how many seconds a message can be taken back after sending; 0: the usual 15
}

// renamed are the commands that had another name when keys were kept for them.
var renamed = map[string]string{"narrow": "filter"}

// UnmarshalJSON reads habits as they were stored, also by an earlier Ebbe.
func (h *Habits) UnmarshalJSON(b []byte) error {
	type plain Habits
	if err := json.Unmarshal(b, (*plain)(h)); err != nil {
		return err
	}
	for before, now := range renamed {
		if key, is := h.Keys[before]; is {
			delete(h.Keys, before)
			h.Keys[now] = key
		}
	}
	return nil
}

// SomedayOn is the day of the month on which what waits for someday is looked
// through: the first, unless the user has chosen another.
func (h Habits) SomedayOn() int {
	if h.Someday < 1 || h.Someday > 28 {
		return 1
	}
	return h.Someday
}
