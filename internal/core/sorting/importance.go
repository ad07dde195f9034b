// Package sorting knows what matters first to a reader, and why. It is learned from
// what they do, can be read, explained and corrected, and what is taken back is
// unlearned.
//
// # How importance is weighed
//
// A message is worth something to its reader: 1 if they acted on it (an answer, a
// follow-up), 0 if they threw it away at first sight, in between for the rest
// (Became.Outcome). Importance is the chance that a message is worth it, given few
// Traits that can be said in words. All that is kept for it are tallies: for each
// feature f (a sender, their domain, how a message was addressed, that it asks
// something) the weight of the messages that had it and were worth it, y(f), and of
// those that were not, n(f).
//
// Who wrote, and how, is one estimate that leans on what is more general as long as
// little is known (shrinkage; s is how many messages the general counts for):
//
//	p(way)    = (y(way)    + s·p(fixed)) / (y(way)    + n(way)    + s)
//	p(domain) = (y(domain) + s·p(way))   / (y(domain) + n(domain) + s)
//	p(sender) = (y(sender) + s·p(domain))/ (y(sender) + n(sender) + s)
//
// where the way is the kind of the message and how directly it was addressed, and
// p(fixed) follows the fixed order (inbox.Rank), so that nothing learned is the fixed
// order. What a letter does besides (answers, asks, names a near day, belongs to a
// project) is added as in naive Bayes, as a difference of log odds among letters of
// people:
//
//	L = logit p(sender) + Σ over signs m: logit p(m) − logit p(people)
//
// with p(m) shrunk towards what such a sign is usually worth. Importance is
// 1/(1+e^−L).
//
// A lesson of half a year ago counts half. So that this costs nothing, lessons are
// added with a weight that doubles each half year (growth), and tallies are divided by
// the present one when they are read: adding and taking away the same lesson leaves
// nothing, whenever it is done.
package sorting

import (
	"math"
	"slices"
	"strings"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Traits are what importance looks at in a message besides who wrote it.
type Traits struct {
	Kind    mail.Kind
	Reach   mail.Reach
	Answers bool // it answers what the reader wrote
	Asks    bool // it asks something
	Soon    bool // it names a day of the coming week
	Project bool // an open project of the reader's is with its sender
}

// Sign is a trait that a letter of a person has or has not.
type Sign string

// The signs of a letter.
const (
	SignAnswers Sign = "answers"
	SignAsks    Sign = "asks"
	SignSoon    Sign = "soon"
	SignProject Sign = "project"
)

// usually is by how much a sign raises the log odds as long as nothing is known.
var usually = map[Sign]float64{SignAnswers: 0.8, SignAsks: 0.5, SignSoon: 0.3, SignProject: 0.4}

// allSigns are the signs in the order in which they are said.
var allSigns = []Sign{SignAnswers, SignAsks, SignSoon, SignProject}

func (t Traits) has(m Sign) bool {
	return map[Sign]bool{SignAnswers: t.Answers, SignAsks: t.Asks, SignSoon: t.Soon, SignProject: t.Project}[m]
}

// letter says that a person wrote it to the reader or those around them: what the
// signs are about.
func (t Traits) letter() bool { return !t.Kind.Machine() && t.Kind != mail.List }

// String is the traits in words, as they are stored.
func (t Traits) String() string {
	words := []string{string(t.Kind), string(t.Reach)}
	for _, m := range allSigns {
		if t.has(m) {
			words = append(words, string(m))
		}
	}
	return strings.Join(words, " ")
}

// ReadTraits reads what String has written; what it does not know it leaves out.
func ReadTraits(s string) (t Traits) {
	words := strings.Fields(s)
	if len(words) >= 2 {
		t.Kind, t.Reach, words = mail.Kind(words[0]), mail.Reach(words[1]), words[2:]
	}
	t.Answers, t.Asks = slices.Contains(words, string(SignAnswers)), slices.Contains(words, string(SignAsks))
	t.Soon, t.Project = slices.Contains(words, string(SignSoon)), slices.Contains(words, string(SignProject))
	return t
}

// Feature is what a tally is kept of: everybody's letters, a way of being addressed,
// a sign, a domain, a sender.
type Feature string

const people Feature = "people" // all letters of people

func wayOf(t Traits) Feature        { return Feature("way:" + string(t.Kind) + "/" + string(t.Reach)) }
func signOf(m Sign) Feature         { return Feature("sign:" + string(m)) }
func senderOf(from string) Feature  { return Feature("from:" + from) }
func domainFrom(from string) string { return from[strings.LastIndexByte(from, '@')+1:] }
func domainOf(from string) Feature  { return Feature("domain:" + domainFrom(from)) }

// Sender is the address whose tally this is, or "".
func (f Feature) Sender() string {
	if a, ok := strings.CutPrefix(string(f), "from:"); ok {
		return a
	}
	return ""
}

// FeaturesFrom are the features whose tallies have to be known to weigh any message
// from that address; "" gives those that all addresses share.
func FeaturesFrom(from string) (out []Feature) {
	if from != "" {
		return []Feature{domainOf(from), senderOf(from)}
	}
	out = []Feature{people}
	for _, m := range allSigns {
		out = append(out, signOf(m))
	}
	for _, k := range mail.Kinds {
		for _, r := range []mail.Reach{mail.Alone, mail.Named, mail.Copied, mail.Unnamed} {
			out = append(out, wayOf(Traits{Kind: k, Reach: r}))
		}
	}
	return out
}

// features are those to whose tallies a lesson is added.
func features(t Traits, from string) []Feature {
	out := []Feature{wayOf(t), domainOf(from), senderOf(from)}
	if t.letter() {
		out = append(out, people)
		for _, m := range allSigns {
			if t.has(m) {
				out = append(out, signOf(m))
			}
		}
	}
	return out
}

// Tally is what is known of a feature. Yes and No are weights that have grown
// (growth); the others count messages.
type Tally struct {
	Yes, No  float64
	N        int // lessons
	Answered int // of them were answered
	Quick    int // of these within a day
}

// Add adds to a tally.
func (t Tally) Add(o Tally) Tally {
	return Tally{t.Yes + o.Yes, t.No + o.No, t.N + o.N, t.Answered + o.Answered, t.Quick + o.Quick}
}

// Minus is t without o.
func (t Tally) Minus(o Tally) Tally {
	return Tally{t.Yes - o.Yes, t.No - o.No, t.N - o.N, t.Answered - o.Answered, t.Quick - o.Quick}
}

// near says that two tallies differ by no more than adding numbers up in another order
// does.
func (t Tally) near(o Tally) bool {
	far := func(a, b float64) bool { return math.Abs(a-b) > 1e-6*(1+math.Abs(a)+math.Abs(b)) }
	return t.N == o.N && t.Answered == o.Answered && t.Quick == o.Quick && !far(t.Yes, o.Yes) && !far(t.No, o.No)
}

// Model is what has been learned of a box: a tally for each feature. It may hold only
// those that are needed.
type Model map[Feature]Tally

// Same says that two models hold the same.
func (m Model) Same(o Model) bool {
	for f := range m {
		if !m[f].near(o[f]) {
			return false
		}
	}
	for f := range o {
		if !m[f].near(o[f]) {
			return false
		}
	}
	return true
}

const (
	halfLife = 182 * 24 * 3_600_000                   // milliseconds after which a lesson counts half
	epoch    = when.Instant(1_735_689_600_000)        // 2025-01-01, when a lesson weighs 1
	leansOn  = 4                                      // how many messages the more general counts for
	most     = when.Instant(1_735_689_600_000 * 1000) // beyond it nothing grows any more
)

// growth is how much more a lesson weighs at t than one at the epoch.
func growth(t when.Instant) float64 {
	return math.Exp2(float64(min(max(t, 0), most)-epoch) / halfLife)
}

// Lesson is one message of which it is known what it was worth.
type Lesson struct {
	From   string
	Traits Traits
	At     when.Instant // when it came
	Outcome
}

// Teach gives what the lesson adds to the tallies; nothing if nothing is known of it.
func (l Lesson) Teach() Model {
	if l.Weight == 0 {
		return nil
	}
	w := l.Weight * growth(l.At)
	add := Tally{Yes: w * l.Worth, No: w * (1 - l.Worth), N: 1}
	if l.Answer != NotAnswered {
		add.Answered = 1
	}
	if l.Answer == AnsweredQuickly {
		add.Quick = 1
	}
	out := Model{}
	for _, f := range features(l.Traits, l.From) {
		out[f] = add
	}
	return out
}

// Learn adds a lesson to the model, or takes it away.
func (m Model) Learn(l Lesson, add bool) {
	for f, t := range l.Teach() {
		if add {
			m[f] = m[f].Add(t)
		} else {
			m[f] = m[f].Minus(t)
		}
	}
}

// fixed is what a message is worth by the fixed order alone.
func fixed(t Traits) float64 {
	of := map[mail.Reach]int{mail.Alone: 0, mail.Named: 1, mail.Copied: 2, mail.Unnamed: 3}[t.Reach]
	switch t.Kind {
	case mail.Person, mail.Invitation, mail.Bounce:
		return []float64{0.55, 0.46, 0.32, 0.28}[of]
	case mail.Notice, mail.Receipt:
		return []float64{0.18, 0.16, 0.14, 0.13}[of]
	}
	return []float64{0.10, 0.09, 0.08, 0.07}[of]
}

func logit(p float64) float64 { return math.Log(p / (1 - p)) }

func chance(logOdds float64) float64 { return 1 / (1 + math.Exp(-logOdds)) }

// shrunk is how much of what has the feature f was worth it, leaning on p.
func (m Model) shrunk(f Feature, p, grown float64) float64 {
	t := m[f]
	yes, no := max(t.Yes, 0)/grown, max(t.No, 0)/grown
	return min(max((yes+leansOn*p)/(yes+no+leansOn), 0.005), 0.995)
}

// Weighed is how important a message is, from 0 to 1, and why, what weighs most first.
type Weighed struct {
	Importance float64
	Because    Reasons
}

// Weigh says how important a message with these traits from that address is at a time.
func (m Model) Weigh(t Traits, from string, at when.Instant) Weighed {
	grown := growth(at)
	way := m.shrunk(wayOf(t), fixed(t), grown)
	domain := m.shrunk(domainOf(from), way, grown)
	sender := m.shrunk(senderOf(from), domain, grown)
	odds := logit(sender)
	var whys []weighing
	whys = append(whys, m.ofSender(t, from, way, domain, sender)...)
	whys = append(whys, weighing{ofWay(t), logit(way) - logit(typical)})
	if t.letter() {
		all := m.shrunk(people, typical, grown)
		for _, sign := range allSigns {
			if t.has(sign) {
				p := m.shrunk(signOf(sign), chance(logit(all)+usually[sign]), grown)
				add := logit(p) - logit(all)
				odds += add
				whys = append(whys, weighing{Reason{Why: Why(sign)}, add})
			}
		}
	}
	w := Weighed{Importance: chance(odds)}
	w.Because = chosen(whys, w.Importance >= typical)
	return w
}

// typical is what something of which nothing is known is worth.
const typical = 0.4

// Rated is how important a message is given what its reader has said of its
// conversation, if they have said something.
func (w Weighed) Rated(said inbox.Kind) Weighed {
	switch said {
	case inbox.Important:
		return Weighed{max(w.Importance, 0.97), Reasons{{Why: WhySaid}}}
	case inbox.Unimportant:
		return Weighed{min(w.Importance, 0.03), Reasons{{Why: WhySaid}}}
	}
	return w
}

// Level is how full the gauge of something of that importance, in thousandths, stands,
// from 0 to Full; -1 for what was never weighed.
func Level(mille int) int {
	if mille == 0 {
		return -1
	}
	return min(mille*(Full+1)/1000, Full)
}

// Full is the level of a full gauge: what stands so is important.
const Full = 4

// Rated is the same for what is stored: thousandths, and reasons as they are written.
// What was never weighed stays so, unless something was said of it.
func Rated(said inbox.Kind, mille int, because string) (int, string) {
	if said == "" {
		return mille, because
	}
	w := Weighed{Importance: float64(mille) / 1000}.Rated(said)
	return w.Mille(), w.Because.String()
}
