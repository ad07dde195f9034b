package rules

import (
	"ebbe/internal/core/delivery"
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
	Offer int64        `json:"offer,omitempty"` // that is taken with it
}

// SieveView is a Sieve script read as rules.
type SieveView struct {
	Rules []SieveRule `json:"rules"`
	Left  []string    `json:"left"` // what does not carry over, in sentences
}

// SieveRule is a rule of a script in words.
type SieveRule struct {
	Words string `json:"words"`
	Doubt string `json:"doubt"` // why it cannot be saved as it is; empty: it can
}

// OfferView is a rule that is offered.
type OfferView struct {
	ID    int64  `json:"id"`
	Words string `json:"words"` // of the rule
	Text  string `json:"text"`  // why, in a sentence
}

// Suggested are the words of a rule for messages like one, as the user usually deals
// with them.
type Suggested struct {
	Words string `json:"words"`
}

// Moving is a conversation that is to be put into another stream, with the words for
// what is such, if the user has written any.
type Moving struct {
	Conversation int64
	Words        string
	Away         bool // it is to be put away for good, rather
}

// PutAway is what is to be put away for good, as a conversation is an example of.
type PutAway struct {
	Scope Scope  `json:"scope"` // empty: its list, or else its sender
	Words string `json:"words"` // for what is such
}

// MoveView is what putting it there would teach.
type MoveView struct {
	Stream  delivery.Stream `json:"stream" tstype:"string"` // it is in
	Kept    bool            `json:"kept"`                   // the user has put it there
	Streams []StreamNext    `json:"streams"`
	Scopes  []ScopeView     `json:"scopes"`
	Usual   Scope           `json:"usual"`
	Such    string          `json:"such"` // words for what is like it
	Of      int             `json:"of"`   // messages that were looked at
}

// StreamNext is a stream, and when its next mail comes in.
type StreamNext struct {
	ID   delivery.Stream `json:"id" tstype:"string"`
	Name string          `json:"name"`
	Next string          `json:"next"` // "comes in today 13:00"
}

// ScopeView is a lesson that could be learned, with what it would have been about.
type ScopeView struct {
	Scope    Scope    `json:"scope"`
	Name     string   `json:"name"`
	Count    int      `json:"count"`
	People   int      `json:"people"`   // who sent those
	Examples []string `json:"examples"` // subjects
	Wrong    string   `json:"wrong"`    // why it cannot be; empty: it can
}

// Taught puts a conversation into a stream.
type Taught struct {
	Conversation int64           `json:"conversation"`
	Stream       delivery.Stream `json:"stream" tstype:"string"`
	Scope        Scope           `json:"scope"`
	Words        string          `json:"words,omitempty"` // for what is such
}

// LessonsView are the lessons about streams.
type LessonsView struct {
	Lessons []LessonView `json:"lessons"`
	Kept    []KeptView   `json:"kept"` // single conversations, the newest first
	Of      int          `json:"of"`   // messages that were looked at
}

// LessonView is a lesson, with what of the last messages it is about.
type LessonView struct {
	ID       int64     `json:"id"` // of its rule
	About    string    `json:"about"`
	Means    string    `json:"means"` // the same, as it was understood
	Into     string    `json:"into"`
	Count    int       `json:"count"`
	Examples []Touched `json:"examples"`
}

// KeptView is a conversation that was put into a stream by itself.
type KeptView struct {
	Conversation int64        `json:"conversation"`
	From         mail.Address `json:"from"`
	Subject      string       `json:"subject"`
	Into         string       `json:"into"`
}

// DidView is one thing that a rule has done, or would have.
type DidView struct {
	ID           int64        `json:"id"`
	Entry        int64        `json:"entry"` // of the journal; 0: it would have
	Conversation int64        `json:"conversation"`
	From         mail.Address `json:"from"`
	Subject      string       `json:"subject"`
	At           when.Instant `json:"at"`
	Did          inbox.Kind   `json:"did,omitempty"` // it let it through, or told of it
	TakenBack    bool         `json:"takenBack"`
}
