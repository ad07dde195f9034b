package numbers

import (
	"cmp"
	"fmt"
	"slices"
)

// Advice is something that a week in review offers to do, as it follows from the numbers.
type Advice struct {
	Key          string   `json:"key"` // by which it is known: what was refused stays away
	Kind         Advising `json:"kind"`
	Name         string   `json:"name"`         // of what it is about
	N            int      `json:"n"`            // how often
	Of           int      `json:"of"`           // of how many
	Minute       int      `json:"minute"`       // of a round: after midnight
	Conversation int64    `json:"conversation"` // of a list: its newest
	UIDs         []string `json:"uids"`         // of follow-ups
	Words        string   `json:"words"`        // of a rule
	Rule         int64    `json:"rule"`         // that is offered
}

// Advising is what is offered.
type Advising string

// What can be offered, in the order in which it is.
const (
	AdviseRule  Advising = "rule"  // for what is always dealt with in the same way
	AdviseLeave Advising = "leave" // a list that is never opened
	AdviseDrop  Advising = "drop"  // a follow-up that was put off four times
	AdviseAsk   Advising = "ask"   // to ask somebody sooner who is mostly late
	AdviseRound Advising = "round" // to do without a round that brings nothing
)

var advisings = []Advising{AdviseRule, AdviseLeave, AdviseDrop, AdviseAsk, AdviseRound}

// What it takes for something to be offered.
const (
	listMessages = 8  // messages of a list of which none was opened
	movedOften   = 4  // times
	lateWaits    = 3  // waits for somebody, of which most were in vain at the day to ask
	idleRounds   = 10 // rounds at a time, of which at most one in five brought something
	advised      = 3  // offers at once
)

// Heard is how a list is dealt with.
type Heard struct {
	List, Name       string
	Messages, Opened int
	Conversation     int64
	Left             bool
}

// Awaited is how somebody keeps to days.
type Awaited struct {
	Address, Name string
	Waits, Late   int      // that have ended, and of those the ones that had to be asked for again or came after that day
	Open          []string // follow-ups that wait for them now, by their UIDs
}

// Postponed is a follow-up that is put off again and again.
type Postponed struct {
	UID, Title string
	Times      int
}

// Round is what rounds at a time of day have brought.
type Round struct {
	Minute       int // after midnight
	Days, Useful int // on how many days it came, and brought something
}

// NewRule is a rule that is offered.
type NewRule struct {
	ID          int64
	Words, Name string
}

// Evidence is what advice follows from.
type Evidence struct {
	Rules  []NewRule
	Lists  []Heard
	Moved  []Postponed
	People []Awaited
	Rounds []Round
}

// Advise gives up to three offers that were not refused: of each kind the clearest first, and of another
// kind before a second of one.
func Advise(e Evidence, refused func(key string) bool) []Advice {
	of := map[Advising][]Advice{}
	add := func(a Advice) {
		if a.Key = fmt.Sprintf("%s %s", a.Kind, a.Key); !refused(a.Key) {
			of[a.Kind] = append(of[a.Kind], a)
		}
	}
	for _, r := range e.Rules {
		add(Advice{Key: r.Words, Kind: AdviseRule, Name: r.Name, Words: r.Words, Rule: r.ID})
	}
	for _, l := range e.Lists {
		if !l.Left && l.Messages >= listMessages && l.Opened == 0 {
			add(Advice{Key: l.List, Kind: AdviseLeave, Name: l.Name, N: l.Messages, Conversation: l.Conversation})
		}
	}
	for _, f := range e.Moved {
		if f.Times >= movedOften {
			add(Advice{Key: f.UID, Kind: AdviseDrop, Name: f.Title, N: f.Times, UIDs: []string{f.UID}})
		}
	}
	for _, p := range e.People {
		if p.Waits >= lateWaits && 2*p.Late > p.Waits && len(p.Open) > 0 {
			add(Advice{Key: p.Address, Kind: AdviseAsk, Name: p.Name, N: p.Late, Of: p.Waits, UIDs: p.Open})
		}
	}
	for _, r := range e.Rounds {
		if r.Days >= idleRounds && 5*r.Useful <= r.Days {
			add(Advice{Key: fmt.Sprint(r.Minute), Kind: AdviseRound, N: r.Useful, Of: r.Days, Minute: r.Minute})
		}
	}
	out := []Advice{}
	for _, k := range advisings {
		slices.SortStableFunc(of[k], func(a, b Advice) int { return cmp.Compare(b.N-b.Of, a.N-a.Of) })
	}
	for i := 0; len(out) < advised; i++ {
		any := false
		for _, k := range advisings {
			if i < len(of[k]) && len(out) < advised {
				out, any = append(out, of[k][i]), true
			}
		}
		if !any {
			break
		}
	}
	return out
}
