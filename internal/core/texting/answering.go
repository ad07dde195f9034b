package texting

import (
	"net/url"
	"strconv"
	"strings"

	"ebbe/internal/core/when"
)

const (
	AnswerEvery  = when.Instant(24 * 3_600_000) // how long the same number is not answered by itself again
	SignedWithin = when.Instant(5 * 60_000)     // how old what is signed with its time may be
)

// Answers says that a line answers a text by itself now: it does not answer machines, whoever wants
// no texts, or the same number twice within AnswerEvery.
func (a Answer) Answers(held bool, last, now when.Instant) bool {
	return (a.When == Always || a.When == Held && held) && (last == 0 || now-last >= AnswerEvery)
}

// Place is where a gateway is reached.
type Place struct {
	Host string // in lower case
	Port int
}

// PlaceOf is where a gateway is; the zero Place of none.
func PlaceOf(g Gateway) (p Place) {
	u, err := url.Parse(g.URL)
	if err != nil {
		return p
	}
	p = Place{strings.ToLower(u.Hostname()), map[string]int{"https": 443, "http": 80}[u.Scheme]}
	if n, err := strconv.Atoi(u.Port()); err == nil {
		p.Port = n
	}
	return p
}
