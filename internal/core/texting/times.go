package texting

import "ebbe/internal/core/when"

const (
	AnswerEvery  = when.Instant(24 * 3_600_000) // how long the same number is not answered by itself again
	SignedWithin = when.Instant(5 * 60_000)     // how old what is signed with its time may be
)

// Answers says that a line answers a text by itself now: it does not answer machines, whoever wants
// no texts, or the same number twice within AnswerEvery.
func (a Answer) Answers(held bool, last, now when.Instant) bool {
	return (a.When == Always || a.When == Held && held) && (last == 0 || now-last >= AnswerEvery)
}
