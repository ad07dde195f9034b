package writing

import (
	"slices"
	"time"

	"ebbe/internal/core/when"
)

// State is how far a message is on its way out.
type State string

// The states. Only a message that waits is handed over by Ebbe; one that hangs
// is never sent again unless the user says so.
const (
	Waiting   State = "waiting"   // for its time, or for another try
	Sending   State = "sending"   // its end is being handed over at this moment
	Sent      State = "sent"      // all whom a server took have it
	Refused   State = "refused"   // nobody was taken, and trying again would not change that
	Hanging   State = "hanging"   // it was handed over, and nobody said whether it was taken
	Withdrawn State = "withdrawn" // taken back in time
	Kept      State = "kept"      // there was no account to send it with when it was written
)

// Over says that nothing more will happen to a message in this state by itself.
func (s State) Over() bool { return s != Waiting && s != Sending }

// Recipient is one whom a message is for.
type Recipient struct {
	Address string `json:"address"`
	State   State  `json:"state"`          // Waiting, Sent or Refused
	Text    string `json:"text,omitempty"` // what the server said, if it did not take them
}

// Outgoing is a message on its way out.
type Outgoing struct {
	State    State
	To       []Recipient  // all of the envelope
	At       when.Instant // of the next try
	Attempts int
	Problem  string // why the last try failed, in words for the user
}

// Pending are the addresses that still have to be taken.
func (o Outgoing) Pending() (out []string) {
	for _, r := range o.To {
		if r.State == Waiting {
			out = append(out, r.Address)
		}
	}
	return out
}

// waits are how long to wait before the next try, in minutes; the last one
// counts on. What could not be sent for two days is given up.
var waits = []int{1, 2, 5, 10, 20, 40, 60}

// MostAttempts is after how many failed tries a message is given up.
const MostAttempts = 52

// Later is when to try again after that many failed tries.
func Later(attempts int, now when.Instant) when.Instant {
	n := waits[min(max(attempts, 1), len(waits))-1]
	return now + when.Instant(n)*60_000
}

// Try is what came of one try to hand a message over.
type Try struct {
	Taken     []string
	Refused   map[string]string // what the server said, by address
	Postponed map[string]string // the same for those it may take later
	Failed    string            // why nothing was taken at all; empty if something was said of each
	Final     bool              // trying again would not change that
	Hangs     bool              // nobody knows whether it was taken
	Receipt   string            // by which name the gateway of a telephone line tells of it
}

// Tried is what a message becomes by a try at now.
func (o Outgoing) Tried(t Try, now when.Instant) Outgoing {
	o.To = slices.Clone(o.To)
	o.Problem = t.Failed
	o.Attempts++
	if t.Hangs {
		o.State = Hanging
		return o
	}
	for i, r := range o.To {
		switch text, refused := t.Refused[r.Address]; {
		case r.State != Waiting:
		case slices.Contains(t.Taken, r.Address):
			o.To[i] = Recipient{Address: r.Address, State: Sent}
		case refused, t.Final:
			if !refused {
				text = t.Failed
			}
			o.To[i] = Recipient{r.Address, Refused, text}
			o.Problem = text
		case t.Postponed[r.Address] != "":
			o.To[i].Text = t.Postponed[r.Address]
			o.Problem = o.To[i].Text
		}
	}
	pending := o.Pending()
	if len(pending) > 0 && o.Attempts >= MostAttempts {
		for i, r := range o.To {
			if r.State == Waiting {
				o.To[i].State = Refused
			}
		}
		pending = nil
	}
	switch {
	case len(pending) > 0:
		o.State, o.At = Waiting, Later(o.Attempts, now)
	case slices.ContainsFunc(o.To, func(r Recipient) bool { return r.State == Sent }):
		o.State = Sent
	default:
		o.State = Refused
	}
	return o
}

// NextTime is when a message that is sent again by a rule (RECUR of RFC 5545,
// section 3.3.10), counted from begins, goes next after an instant; false if it
// does not any more. Times that have passed meanwhile are not made up for.
func NextTime(rule string, begins when.Moment, after when.Instant, loc *time.Location) (when.Moment, bool) {
	r, err := when.ParseRecur(rule, loc)
	if err != nil {
		return when.Moment{}, false
	}
	for t := range r.Falls(begins.Wall(loc), true) {
		if m := begins.OnWall(t, loc); m.At > after {
			return m, true
		}
	}
	return when.Moment{}, false
}
