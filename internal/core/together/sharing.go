package together

import "ebbe/internal/core/when"

// Side is where a message comes in of a conversation that is seen in two boxes.
type Side int

// The sides.
const (
	OwnSide  Side = iota // somebody's own box
	TeamSide             // the box of a team
)

// Sharing is that a conversation of somebody's own box and one of a team's are one.
type Sharing struct {
	From      when.Instant // the team sees nothing written before then; 0: all of it
	Ended     when.Instant // 0: it goes on
	Addressed bool         // nobody shared it: a message came to both by itself
}

// Coming is a message as sharing looks at it.
type Coming struct {
	In      Side
	Written when.Instant
	New     bool // it has come or gone just now, whatever its date says
	Carried bool // it is seen here only because it came into another box
	Back    bool // that other box is the one it would be carried to
}

// Carries says whether the message is seen on the other side as well. The sharer sees all that
// the team does. The team sees what comes to the sharer, but nothing from before the beginning
// named, nothing of another team, and nothing at all where nobody shared it.
func (s Sharing) Carries(m Coming) bool {
	switch {
	case s.Ended != 0 || m.Back:
		return false
	case m.In == TeamSide:
		return true
	default:
		return !s.Addressed && !m.Carried && (m.New || m.Written >= s.From)
	}
}
