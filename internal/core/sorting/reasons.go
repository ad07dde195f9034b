package sorting

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/texting"
)

// Why is what speaks for the importance of a message, or against it.
type Why string

// What speaks for or against it, besides the signs of a letter.
const (
	WhySaid    Why = "said"    // the reader said so of this one
	WhyQuick   Why = "quick"   // the reader answers its sender within a day
	WhyAnswer  Why = "answer"  // the reader answers its sender
	WhyActs    Why = "acts"    // the reader acts on what its sender writes
	WhySeldom  Why = "seldom"  // the reader seldom does
	WhyDomain  Why = "domain"  // the reader acts on what comes from its domain
	WhyDomains Why = "domains" // the reader seldom does
	WhyAlone   Why = "alone"   // it is to the reader alone
	WhyNamed   Why = "named"   // it is to the reader among others
	WhyCopied  Why = "copied"  // the reader has a copy
	WhyMany    Why = "many"    // it went to many, or to nobody by name
	WhyList    Why = "list"    // it is from a list
	WhyMachine Why = "machine" // a machine wrote it
)

// Reason is a Why, with how often of how many times where that is a count.
type Reason struct {
	Why   Why
	N, Of int
}

// Reasons are why something is important, or is not.
type Reasons []Reason

// maxReasons is how many reasons are said.
const maxReasons = 3

// String is the reasons as they are stored.
func (rs Reasons) String() string {
	var out []string
	for _, r := range rs {
		if r.Of > 0 {
			out = append(out, fmt.Sprintf("%s:%d/%d", r.Why, r.N, r.Of))
		} else {
			out = append(out, string(r.Why))
		}
	}
	return strings.Join(out, " ")
}

// ReadReasons reads what String has written.
func ReadReasons(s string) (rs Reasons) {
	for word := range strings.FieldsSeq(s) {
		why, counts, _ := strings.Cut(word, ":")
		n, of, _ := strings.Cut(counts, "/")
		r := Reason{Why: Why(why)}
		r.N, _ = strconv.Atoi(n)
		r.Of, _ = strconv.Atoi(of)
		rs = append(rs, r)
	}
	return rs
}

// Say says the reasons in words about a message from somebody; "" without any.
func (rs Reasons) Say(from mail.Address) string {
	who := from.Short()
	if who == "" {
		who = "this sender"
	}
	var out []string
	for _, r := range rs {
		out = append(out, r.say(who, domainFrom(from.Address)))
	}
	return strings.Join(out, "; ")
}

// comingFrom is what comes from a domain, in words; that of texts is no place.
func comingFrom(domain string) string {
	if texting.IsText("@" + domain) {
		return "text messages"
	}
	return "what comes from " + domain
}

func (r Reason) say(who, domain string) string {
	switch r.Why {
	case WhySaid:
		return "you said so"
	case WhyQuick:
		return fmt.Sprintf("you answered %s %s, mostly within a day", who, r.times())
	case WhyAnswer:
		return fmt.Sprintf("you answered %s %s", who, r.times())
	case WhyActs:
		return "you act on what " + who + " writes"
	case WhySeldom:
		return "you seldom act on what " + who + " sends"
	case WhyDomain:
		return "you act on " + comingFrom(domain)
	case WhyDomains:
		return "you seldom act on " + comingFrom(domain)
	case WhyAlone:
		return "it is to you alone"
	case WhyNamed:
		return "it is to you and others"
	case WhyCopied:
		return "you have a copy only"
	case WhyMany:
		return "it names no address of yours"
	case WhyList:
		return "it is from a list"
	case WhyMachine:
		return "a machine wrote it"
	case Why(SignAnswers):
		return "it answers you"
	case Why(SignAsks):
		return "it asks something"
	case Why(SignSoon):
		return "it names a day of the coming week"
	case Why(SignProject):
		return "you have a project with " + who
	}
	return string(r.Why)
}

// times is how often of how many.
func (r Reason) times() string {
	switch {
	case r.N == r.Of && r.N == 1:
		return "the one time they wrote"
	case r.N == r.Of:
		return fmt.Sprintf("each of %d times", r.Of)
	}
	return fmt.Sprintf("%d of %d times", r.N, r.Of)
}

// weighing is a reason with what it adds to the log odds.
type weighing struct {
	Reason
	adds float64
}

// slight is what weighs too little to be said.
const slight = 0.15

// chosen are the reasons that are said: those that speak the way it came out, what
// weighs most first.
func chosen(all []weighing, up bool) (out Reasons) {
	slices.SortStableFunc(all, func(a, b weighing) int { return cmp.Compare(math.Abs(b.adds), math.Abs(a.adds)) })
	for _, w := range all {
		if len(out) < maxReasons && w.Why != "" && math.Abs(w.adds) > slight && (w.adds > 0) == up {
			out = append(out, w.Reason)
		}
	}
	return out
}

// ofSender is what is said of the sender or their domain, whichever weighs more.
func (m Model) ofSender(t Traits, from string, way, domain, sender float64) []weighing {
	own, others := logit(sender)-logit(domain), logit(domain)-logit(way)
	known := m[senderOf(from)]
	r := Reason{Why: WhySeldom}
	switch {
	case own < 0:
	case known.Answered*2 > known.N && known.Quick*2 > known.Answered:
		r = Reason{WhyQuick, known.Answered, known.N}
	case known.Answered*2 > known.N:
		r = Reason{WhyAnswer, known.Answered, known.N}
	default:
		r.Why = WhyActs
	}
	d := Reason{Why: WhyDomain}
	if others < 0 {
		d.Why = WhyDomains
	}
	if m[domainOf(from)].N == known.N { // what is known of the domain is this sender
		if own+others < 0 {
			r.Why = WhySeldom
		}
		return []weighing{{r, own + others}}
	}
	return []weighing{{r, own}, {d, others}}
}

// ofWay is what is said of how a message came.
func ofWay(t Traits) Reason {
	switch {
	case t.Kind == mail.List:
		return Reason{Why: WhyList}
	case t.Kind.Machine():
		return Reason{Why: WhyMachine}
	}
	return Reason{Why: map[mail.Reach]Why{mail.Alone: WhyAlone, mail.Named: WhyNamed, mail.Copied: WhyCopied, mail.Unnamed: WhyMany}[t.Reach]}
}
