// Package followups is about follow-ups: writing them down, taking steps with
// them, the lists they stand in, their cards, what waits for somebody, and closing
// the day.
package followups

import (
	"sync"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/desk/learned"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// Desk is where follow-ups are worked on.
type Desk struct {
	Journal *journal.Journal

	store   *store.Store
	paces   learned.Daily[followup.Pace]
	theirs  learned.Daily[map[int64]followup.Pace] // of each of a team, in its box
	shelves struct {
		sync.Mutex
		by map[int64]*shelf // by box
	}
}

// kinds of entries of the journal about follow-ups.
var kinds = map[inbox.Kind]journal.Kind{
	inbox.ChangeFollow: {Verb: "follow-up changed", Step: true},
	inbox.FinishFollow: {Verb: "finished", Step: true},
	inbox.ReopenFollow: {Verb: "opened again", Step: true},
	inbox.DropFollow:   {Verb: "cancelled", Step: true},
	inbox.PutOff:       {Verb: "put off", Step: true},
	inbox.PutInStage:   {Verb: "put into a stage", Step: true},
	inbox.WaitFor:      {Verb: "waiting", Step: true},
	inbox.AcceptAnswer: {Verb: "answered", Step: true},
	inbox.RefuseAnswer: {Verb: "not the answer", Step: true},
	inbox.KeepWaiting:  {Verb: "waiting on", Step: true},
	inbox.CloseDay:     {Verb: "day closed", Step: true},
}

// New makes a desk over a store.
func New(s *store.Store, j *journal.Journal) *Desk {
	j.Register(kinds)
	return &Desk{Journal: j, store: s}
}

// Forget lets what was learned of the past be learned anew.
func (d *Desk) Forget() {
	d.paces.Forget()
	d.theirs.Forget()
}
