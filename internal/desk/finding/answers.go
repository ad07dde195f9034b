package finding

import (
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/queue"
)

// FoundAt is where in a conversation the words were found, at their best.
type FoundAt struct {
	Kind    search.DocumentKind `json:"kind"`
	Message int64               `json:"message,omitempty"` // the message, or that of the file
	File    int                 `json:"file"`              // which of its files; -1: none
	Title   string              `json:"title,omitempty"`   // of what is no message
	UID     string              `json:"uid,omitempty"`     // of a follow-up or event
	Page    int                 `json:"page,omitempty"`    // of a file that has several
	From    string              `json:"from,omitempty"`    // who wrote it; empty: the reader
	At      when.Instant        `json:"at"`
	Excerpt []search.Piece      `json:"excerpt"`
	Places  int                 `json:"places"` // in how many messages and other texts of the conversation they stand
}

// FoundIn is a conversation that was found, with where.
type FoundIn struct {
	Conversation int64   `json:"conversation"`
	Place        FoundAt `json:"place"`
}

// FoundOther is something that was found and is in no conversation.
type FoundOther struct {
	Kind    OtherKind      `json:"kind"`
	ID      int64          `json:"id,omitempty"`  // of a draft
	UID     string         `json:"uid,omitempty"` // of a follow-up or an event
	Title   string         `json:"title"`
	At      when.Instant   `json:"at"`
	Excerpt []search.Piece `json:"excerpt"`
}

// OtherKind is what sort of thing was found besides conversations.
type OtherKind string

// The kinds of others.
const (
	OtherFollowUp OtherKind = "follow-up"
	OtherEvent    OtherKind = "event"
	OtherDraft    OtherKind = "draft"
	OtherLeaving  OtherKind = "leaving" // it waits to go
)

// FoundCount is how many of the conversations found have something in common, and the words
// that narrow the search to them.
type FoundCount struct {
	Name  string `json:"name"`
	Words string `json:"words"`
	Count int    `json:"count"`
}

// Instead is what may have been meant, with in how many messages it stands.
type Instead struct {
	Word  string `json:"word"`
	Asked string `json:"asked"` // the search with it
	Count int    `json:"count"`
}

// Covers is what was looked through.
type Covers struct {
	Accounts int `json:"accounts"`
	Unread   int `json:"unread"`  // messages whose files have not been read yet, a thousand at most
	Missing  int `json:"missing"` // messages that are not in the index yet, a thousand at most
}

// JumpKind is what sort of thing one can go to by a few letters.
type JumpKind string

// The kinds of what one can go to.
const (
	JumpPerson       JumpKind = "person"
	JumpConversation JumpKind = "conversation"
	JumpFollowUp     JumpKind = "follow-up"
	JumpLabel        JumpKind = "label"
)

// Jump is somebody or something one can go to.
type Jump struct {
	Kind JumpKind `json:"kind"`
	Name string   `json:"name"`
	Note string   `json:"note,omitempty"`
	Key  string   `json:"key"` // an address, the ID of a conversation or a label, the UID of a follow-up
}

// Searched is what a person has looked for.
type Searched struct {
	Asked string `json:"asked"`
}

// FoundView is what was found.
type FoundView struct {
	Reading search.Reading `json:"reading"`
	Terms   []search.Term  `json:"terms"` // what is marked where it stands
	IDs     []int64        `json:"ids"`   // of the conversations, in order
	Count   int            `json:"count"` // of them all; IDs are the first thousand
	More    bool           `json:"more"`  // there are more than could be weighed: these are of the newest
	Newest  bool           `json:"newest"`
	Slips   []queue.Slip   `json:"slips"` // of the first
	Places  []FoundIn      `json:"places"`
	Others  []FoundOther   `json:"others"`
	People  []FoundCount   `json:"people"`
	Years   []FoundCount   `json:"years"`
	Labels  []FoundCount   `json:"labels"`
	Kinds   []FoundCount   `json:"kinds"`
	Instead []Instead      `json:"instead"`
	Covers  Covers         `json:"covers"`
}
