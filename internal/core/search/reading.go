package search

// MarkKind is what sort of thing a mark says.
type MarkKind string

// The kinds of marks.
const (
	MarkWord   MarkKind = "word"
	MarkNot    MarkKind = "not" // a word that must not be there
	MarkPerson MarkKind = "person"
	MarkTime   MarkKind = "time"
	MarkLabel  MarkKind = "label"
	MarkPlace  MarkKind = "place"
	MarkOther  MarkKind = "other"
)

// Mark is a piece of what was asked, as it was understood.
type Mark struct {
	From  int      `json:"from"` // where it stands, in UTF-16 units, as browsers count
	To    int      `json:"to"`
	Kind  MarkKind `json:"kind"`
	Means string   `json:"means"`
}

// Reading is what was asked, as it was read.
type Reading struct {
	Query Query  `json:"query"`
	Marks []Mark `json:"marks"`
	Doubt string `json:"doubt,omitempty"` // in a sentence: what was not read as it seems to be meant
}

// Piece is a piece of a text, marked if it is what was looked for.
type Piece struct {
	Text   string `json:"text"`
	Marked bool   `json:"marked,omitempty"`
}

// Term is one thing that is looked for in the words of a text: a word or the beginning of
// one, or several words one after the other.
type Term struct {
	Text   string   `json:"text"`   // as it was written
	Words  []string `json:"words"`  // folded, as the index has them; more than one stand in this order
	Begins bool     `json:"begins"` // the last of them may be the beginning of a word
	Not    bool     `json:"not"`    // it must not be there
}
