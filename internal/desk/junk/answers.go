package junk

import (
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/desk/queue"
)

// Lying is what lies in junk, to be looked through.
type Lying struct {
	Groups []Heap           `json:"groups"`
	Why    map[int64]string `json:"why" tstype:"{ [conversation: number]: string }"` // in a sentence, by conversation
	Slips  []queue.Slip     `json:"slips"`                                           // of the first of them
	Count  int              `json:"count"`
}

// Heap are conversations of which it is as certain: "perhaps", "likely" or "certain".
type Heap struct {
	Key string  `json:"key"`
	IDs []int64 `json:"ids"`
}

// Figures are what the junk test knows, and would have done.
type Figures struct {
	Degrees []DegreeView `json:"degrees"`
	Of      int          `json:"of"`   // messages of the last month
	Junk    int          `json:"junk"` // messages it has learned from
	Kept    int          `json:"kept"`
	Knows   bool         `json:"knows"` // those are enough
}

// DegreeView is what a degree would have done with them.
type DegreeView struct {
	Degree  inbox.JunkDegree `json:"degree"`
	Called  int              `json:"called"`  // called junk
	Kept    int              `json:"kept"`    // of these the user kept
	Missed  int              `json:"missed"`  // not, and the user did
	Wrongly []Wrongly        `json:"wrongly"` // some of those that were kept
}

// Wrongly is a message that would have been called junk, and was kept.
type Wrongly struct {
	Conversation int64        `json:"conversation"`
	From         mail.Address `json:"from"`
	Subject      string       `json:"subject"`
}

// Blocking is whom blocking would hit.
type Blocking struct {
	Address string `json:"address"`
	Domain  string `json:"domain"`
	People  int    `json:"people"`  // at the domain who write to the user
	Written int    `json:"written"` // of them the user has written to
}
