package search

import (
	"math"

	"ebbe/internal/core/when"
)

// Hit is a message, or another text, that was found.
type Hit struct {
	Text       float64      // how well its words fit: BM25, the more the better
	At         when.Instant // when it was written
	Importance int          // of its conversation, in thousandths
}

const (
	halfLife  = 120 * 24 * 3600_000 // after which what is new has lost half of its advantage, in milliseconds
	freshness = 0.8                 // by how much what is written now stands above what is old
	mattering = 0.4                 // by how much what matters stands above what does not
)

// Score orders what was found, the highest first:
//
//	Text · (1 + 0.8 · 2^(-age/120 days)) · (1 + 0.4 · importance)
//
// So of two that fit equally well the newer and the more important comes first, and
// neither stands above what fits three times as well.
func (h Hit) Score(now when.Instant) float64 {
	age := math.Max(0, float64(now-h.At))
	return h.Text * (1 + freshness*math.Exp2(-age/halfLife)) * (1 + mattering*float64(h.Importance)/1000)
}

// Where in a message a word was found is worth so much more than in its text. The index
// is told so, and what is too common to be weighed by it is weighed by this alone.
const (
	SubjectWeight = 4.0
	PeopleWeight  = 2.5
	BodyWeight    = 1.0

	// Of a text besides messages: the people and the subject of what it belongs to say
	// little of it.
	AroundWeight = 0.2
)
