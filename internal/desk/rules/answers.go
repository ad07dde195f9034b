package rules

import (
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/when"
)

// RuleView is a rule with what it has done.
type RuleView struct {
	sorting.Rule `tstype:",extends"`
	Called       string          `json:"called"`
	Pieces       []sorting.Piece `json:"pieces"` // its words as they are read now
	Doubt        string          `json:"doubt"`  // what of them cannot be read any more
	Did          int             `json:"did"`    // at most 1,000
	Would        int             `json:"would"`  // while it was tried, at most 1,000
}

// Asked is a rule that is being written: its words, and how many of the last messages
// it is held against.
type Asked struct {
	ID    int64  `json:"id"` // 0: a new one
	Words string `json:"words"`
	Span  int    `json:"span"` // 0: the last 1,000
}

// Touched is a message of the past that a rule would have been about.
type Touched struct {
	Message      int64        `json:"message"`
	Conversation int64        `json:"conversation"`
	From         mail.Address `json:"from"`
	Subject      string       `json:"subject"`
	At           when.Instant `json:"at"`
	Did          inbox.Kind   `json:"did,omitempty"` // what the user decided about it; empty: nothing yet
	Otherwise    bool         `json:"otherwise"`     // than the rule would have
	Before       bool         `json:"before"`        // it had been put away before Ebbe knew it
}

// Proof is what a rule would have done with the messages of the past.
type Proof struct {
	Of        int       `json:"of"`        // messages that were looked at
	Count     int       `json:"count"`     // of them it is about
	As        int       `json:"as"`        // that the user decided as it would have
	Otherwise int       `json:"otherwise"` // and otherwise
	Strokes   string    `json:"strokes"`   // one for each, the oldest first: a as, o otherwise, u undecided
	Touched   []Touched `json:"touched"`   // the newest of them
	Quarrels  []string  `json:"quarrels"`  // with other rules, in sentences
}

// Written is a rule that is being written, as it is read.
type Written struct {
	sorting.Reading `tstype:",extends"`
	Wrong           string `json:"wrong"` // why it cannot be saved; empty: it can
	Proof           Proof  `json:"proof"`
}

// Saving is a rule to be saved.
type Saving struct {
	ID    int64        `json:"id"` // 0: a new one
	Name  string       `json:"name"`
	Words string       `json:"words"`
	Mode  sorting.Mode `json:"mode"`
}

// Suggested are the words of a rule for messages like one, as the user usually deals
// with them.
type Suggested struct {
	Words string `json:"words"`
}

// DidView is one thing that a rule has done, or would have.
type DidView struct {
	ID           int64        `json:"id"`
	Entry        int64        `json:"entry"` // of the journal; 0: it would have
	Conversation int64        `json:"conversation"`
	From         mail.Address `json:"from"`
	Subject      string       `json:"subject"`
	At           when.Instant `json:"at"`
	TakenBack    bool         `json:"takenBack"`
}
