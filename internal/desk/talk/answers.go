package talk

import (
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// TalkView is what a team says to each other about a conversation.
type TalkView struct {
	Comments  []CommentView `json:"comments"`  // the oldest first
	Followers []MemberName  `json:"followers"` // who hears of each change of it
	Follows   bool          `json:"follows"`   // whoever looks is one of them
	Unheard   int           `json:"unheard"`   // of how much they have not heard
}

// WritingView is an answer that another member has begun.
type WritingView struct {
	Name    string       `json:"name"`
	Since   when.Instant `json:"since"`
	Changed when.Instant `json:"changed"`
	Now     bool         `json:"now"`             // they are at it
	Text    string       `json:"text"`            // as it stands, of a very long one the beginning
	By      string       `json:"by,omitempty"`    // who gave them the draft
	Why     string       `json:"why,omitempty"`   // and what they were asked to do with it
	Apart   bool         `json:"apart,omitempty"` // in their own box, so what it says is theirs
}

// ReaderView is a member who has a conversation open.
type ReaderView struct {
	Name  string       `json:"name"`
	Since when.Instant `json:"since"`
}

// MemberName is somebody of the team.
type MemberName struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

// CommentView is a comment as it is shown.
type CommentView struct {
	ID      int64            `json:"id"`
	Name    string           `json:"name"` // of whoever wrote it
	At      when.Instant     `json:"at"`
	Pieces  []together.Piece `json:"pieces"`
	Own     bool             `json:"own"`
	Text    string           `json:"text,omitempty"`    // as it was typed, for whoever can change it
	Changed when.Instant     `json:"changed,omitempty"` // when it was last
	Earlier []EarlierView    `json:"earlier"`           // how it stood before, the oldest first
	Files   []CommentFile    `json:"files"`
}

// CommentFile is a file of a comment.
type CommentFile struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
	Size int    `json:"size"` // bytes
}

// EarlierView is how a comment stood until then.
type EarlierView struct {
	Until  when.Instant     `json:"until"`
	Pieces []together.Piece `json:"pieces"`
}

// Activity is what concerns somebody, the newest first.
type Activity struct {
	Groups []GroupView `json:"groups"`
	Next   int64       `json:"next,omitempty"` // before what to go on; 0: that is all
}

// GroupView is what happened to a conversation that concerns somebody.
type GroupView struct {
	Box          int64      `json:"box"`
	Conversation int64      `json:"conversation"`
	Subject      string     `json:"subject"`
	Unheard      int        `json:"unheard"` // of how much of it they have not heard
	Lines        []LineView `json:"lines"`   // the newest first
	More         int        `json:"more"`    // that are not among them
}

// LineView is one thing that happened.
type LineView struct {
	Entry  int64        `json:"entry"`
	At     when.Instant `json:"at"`
	Actor  store.Actor  `json:"actor"`
	Who    string       `json:"who"`
	Kind   inbox.Kind   `json:"kind"`
	Text   string       `json:"text"`   // what was said, how it was given, or what it was about
	Called bool         `json:"called"` // they were named, or it was given to them
	Heard  bool         `json:"heard"`
}

// CommentMade is what came of a comment.
type CommentMade struct {
	journal.Decided `tstype:",extends"`
	Comment         int64 `json:"comment"` // its ID
}
