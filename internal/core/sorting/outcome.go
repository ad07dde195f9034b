package sorting

import (
	"maps"
	"slices"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
)

// Answer is whether the reader answered a message, and how fast.
type Answer int

// The answers.
const (
	NotAnswered     Answer = 0
	Answered        Answer = 1
	AnsweredQuickly Answer = 2 // within a day
)

// Outcome is what a message turned out to be worth, and how much that says. The zero
// Outcome says nothing.
type Outcome struct {
	Worth  float64 // from 0 to 1
	Weight float64
	Answer Answer
}

// Acted says that the message was answered, or kept track of.
func (o Outcome) Acted() bool { return o.Weight > 0 && o.Worth >= 0.8 }

// Deed is something the reader did about a conversation, and has not taken back.
type Deed struct {
	Kind inbox.Kind
	At   when.Instant
}

// Became is what became of a message while it was the newest of its conversation by
// somebody else.
type Became struct {
	Came     when.Instant
	Answered when.Instant // when the reader wrote in its conversation after it, or 0
	Deeds    []Deed       // in their order
	Read     bool         // it was read down to its end
	Seconds  int          // for how long it was in view
	Before   bool         // it had come, and was put away, before Ebbe knew this mail: whether it was answered is all that is known
}

const (
	aDay      = when.Instant(24 * 3_600_000)
	corrected = 8  // how many messages a correction counts for
	aGlance   = 20 // seconds within which a message is not read
)

// worth is what is told by a deed alone.
var worth = map[inbox.Kind]Outcome{
	inbox.MakeFollowUp: {Worth: 1, Weight: 1},
	inbox.MakeEvent:    {Worth: 1, Weight: 1},
	inbox.AnswerGuest:  {Worth: 1, Weight: 1},
	inbox.WaitFor:      {Worth: 0.9, Weight: 1},
	inbox.Star:         {Worth: 0.9, Weight: 1},
	inbox.SendMail:     {Worth: 0.9, Weight: 1}, // handed over, or forwarded
	inbox.WriteNote:    {Worth: 0.8, Weight: 0.5},
	inbox.Combo:        {Worth: 0.5, Weight: 0.5},
	inbox.Snooze:       {Worth: 0.6, Weight: 0.5},
	inbox.ToBin:        {Worth: 0, Weight: 1},
	inbox.ToJunk:       {Worth: 0, Weight: 1},
	inbox.Archive:      {Worth: 0.15, Weight: 0.7},
	inbox.Silence:      {Worth: 0.05, Weight: 1},
	inbox.Rest:         {Worth: 0.1, Weight: 0.3},
	inbox.FreshStart:   {Worth: 0.1, Weight: 0.1},
	inbox.FollowServer: {Worth: 0.15, Weight: 0.3},
}

// Deeds are the kinds of what tells something.
func Deeds() []inbox.Kind {
	return append(slices.Sorted(maps.Keys(worth)), inbox.Important, inbox.Unimportant)
}

// Outcome is what a message turned out to be worth. A correction counts above all, the
// last one; then an answer; else what was worth most of what was done, as whoever
// snoozes something and bins it later has found it worth snoozing.
func (b Became) Outcome() (o Outcome) {
	switch {
	case b.Answered > 0 && b.Answered-b.Came <= aDay:
		o = Outcome{Worth: 1, Weight: 1, Answer: AnsweredQuickly}
	case b.Answered > 0:
		o = Outcome{Worth: 0.85, Weight: 1, Answer: Answered}
	case b.Before:
		o = Outcome{Worth: 0.15, Weight: 0.3}
	}
	said := 0.0
	for _, d := range b.Deeds {
		switch w, ok := worth[d.Kind]; {
		case d.Kind == inbox.Important:
			said = 1
		case d.Kind == inbox.Unimportant:
			said = -1
		case !ok || o.Weight > 0 && w.Worth < o.Worth:
		default:
			o.Worth, o.Weight = w.Worth, max(o.Weight, w.Weight)
		}
	}
	if o.Weight > 0 && o.Worth < 0.4 && !b.Before && (b.Read && b.Seconds > 5 || b.Seconds > aGlance) {
		o.Worth += 0.2 // what is read first is worth more than what goes at first sight
	}
	if said != 0 {
		o.Worth, o.Weight = max(said, 0), corrected
	}
	return o
}
