package sorting

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

const monday = when.Instant(1_795_420_800_000) // 2026-11-23

// letter is a message with what its reader does about it.
type letter struct {
	from   string
	traits Traits
	acts   float64 // how likely the reader is to answer it
}

// person is a made-up person with known habits: what comes to them, and what of it
// they answer.
type person struct {
	name string
	next func(r *rand.Rand) letter
}

// chanceOf is true so often.
func chanceOf(r *rand.Rand, p float64) bool { return r.Float64() < p }

// others is mail of machines and lists, which nobody answers.
func others(r *rand.Rand) letter {
	if chanceOf(r, 0.5) {
		return letter{fmt.Sprintf("letter@news%d.example", r.IntN(8)), Traits{Kind: mail.List, Reach: mail.Unnamed}, 0.01}
	}
	return letter{fmt.Sprintf("no-reply@shop%d.example", r.IntN(6)), Traits{Kind: mail.Notice, Reach: mail.Alone}, 0.01}
}

// byPerson answers some people and not others, however they write.
var byPerson = person{"by person", func(r *rand.Rand) letter {
	if chanceOf(r, 0.4) {
		return others(r)
	}
	n := int(math.Sqrt(r.Float64()) * 40) // some write more than others
	l := letter{fmt.Sprintf("w%d@office.example", n), Traits{Kind: mail.Person, Reach: []mail.Reach{mail.Alone, mail.Named, mail.Copied}[r.IntN(3)], Asks: chanceOf(r, 0.4)}, 0.04}
	if n%3 == 0 {
		l.acts = 0.9
	}
	return l
}}

// byQuestion answers what asks them, and what answers them, whoever writes; strangers
// most of all.
var byQuestion = person{"by question", func(r *rand.Rand) letter {
	if chanceOf(r, 0.3) {
		return others(r)
	}
	t := Traits{Kind: mail.Person, Reach: []mail.Reach{mail.Alone, mail.Named, mail.Copied}[r.IntN(3)], Asks: chanceOf(r, 0.4), Answers: chanceOf(r, 0.3), Soon: chanceOf(r, 0.2)}
	l := letter{fmt.Sprintf("w%d@firm%d.example", r.IntN(400), r.IntN(90)), t, 0.03}
	if t.Reach != mail.Copied && (t.Asks || t.Answers) {
		l.acts = 0.9
	}
	return l
}}

// upsideDown acts on what some machines report and on the clients of two firms, and on
// nothing that colleagues send to them by name.
var upsideDown = person{"upside down", func(r *rand.Rand) letter {
	switch n := r.IntN(10); {
	case n < 3:
		return letter{fmt.Sprintf("alarm@pump%d.example", r.IntN(3)), Traits{Kind: mail.Notice, Reach: mail.Unnamed}, 0.85}
	case n < 5:
		return letter{fmt.Sprintf("c%d@client%d.example", r.IntN(60), r.IntN(2)), Traits{Kind: mail.Person, Reach: mail.Copied}, 0.9}
	case n < 6:
		return others(r)
	}
	return letter{fmt.Sprintf("w%d@office.example", r.IntN(30)), Traits{Kind: mail.Person, Reach: mail.Alone, Asks: chanceOf(r, 0.3)}, 0.05}
}}

// live has a reader get mail for some days. What came is weighed when it comes, by
// what had become of what came on the days before.
func (p person) live(seed uint64, days, aDay int) []Past {
	r := rand.New(rand.NewPCG(seed, 7))
	m, past := Model{}, []Past{}
	for d := range days {
		at := monday + when.Instant(d)*when.Instant(24*3_600_000)
		var lessons []Lesson
		for range aDay {
			l := p.next(r)
			b := Became{Came: at, Deeds: []Deed{{inbox.Archive, at + 1000}}}
			if chanceOf(r, l.acts) {
				b.Answered = at + 3_600_000
			}
			o := b.Outcome()
			past = append(past, Past{Came: at, Importance: m.Weigh(l.traits, l.from, at).Mille(), Fixed: inbox.Rank(l.traits.Kind, l.traits.Reach), Known: true, Acted: o.Acted()})
			lessons = append(lessons, Lesson{l.from, l.traits, at, o})
		}
		for _, l := range lessons {
			m.Learn(l, true)
		}
	}
	return past
}

func dayOf(at when.Instant) int { return int((at - monday) / (24 * 3_600_000)) }

// The past teaches the future: importance puts first what three made-up readers act
// on, which the fixed order does not know, and in the first week it is not worse.
func TestImportanceIsLearned(t *testing.T) {
	seeds := rand.New(rand.NewPCG(rand.Uint64(), 1)) // ones nobody has seen
	for _, who := range []person{byPerson, byQuestion, upsideDown} {
		for range 3 {
			seed := seeds.Uint64()
			all := who.live(seed, 60, 60)
			first, later := Prove(all[:7*60], dayOf), Prove(all[14*60:], dayOf)
			t.Logf("%s, seed %d: first week %.3f (fixed %.3f), later %.3f (fixed %.3f) of %d pairs", who.name, seed, first.Right, first.Fixed, later.Right, later.Fixed, later.Pairs)
			require.GreaterOrEqual(t, later.Right, 0.85, "%s, seed %d", who.name, seed)
			require.Greater(t, later.Right, later.Fixed)
			require.GreaterOrEqual(t, first.Right, first.Fixed, "%s, seed %d, in the first week", who.name, seed)
		}
	}
}

// Nothing learned is the fixed order.
func TestNothingLearnedIsTheFixedOrder(t *testing.T) {
	for _, a := range mail.Kinds {
		for _, b := range mail.Kinds {
			for _, ra := range reaches {
				for _, rb := range reaches {
					x, y := Model{}.Weigh(Traits{Kind: a, Reach: ra}, "a@x.example", monday), Model{}.Weigh(Traits{Kind: b, Reach: rb}, "b@y.example", monday)
					if inbox.Rank(a, ra) < inbox.Rank(b, rb) {
						require.Greater(t, x.Importance, y.Importance, "%s %s above %s %s", a, ra, b, rb)
					}
				}
			}
		}
	}
}

var reaches = []mail.Reach{mail.Alone, mail.Named, mail.Copied, mail.Unnamed}

func anyTraits(t *rapid.T) Traits {
	b := rapid.Bool()
	return Traits{Kind: rapid.SampledFrom(mail.Kinds).Draw(t, "kind"), Reach: rapid.SampledFrom(reaches).Draw(t, "reach"), Answers: b.Draw(t, "answers"), Asks: b.Draw(t, "asks"), Soon: b.Draw(t, "soon"), Project: b.Draw(t, "project")}
}

// What is taken away in any order leaves what was there without it, however much time
// lies between the lessons; traits are read as they were written; importance is a
// chance, whatever was learned.
func TestUnlearning(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		lesson := func() Lesson {
			tr := anyTraits(t)
			require.Equal(t, tr, ReadTraits(tr.String()))
			return Lesson{From: fmt.Sprintf("w%d@x%d.example", rapid.IntRange(0, 3).Draw(t, "who"), rapid.IntRange(0, 1).Draw(t, "domain")), Traits: tr,
				At:      monday + when.Instant(rapid.IntRange(-4000, 4000).Draw(t, "day"))*86_400_000,
				Outcome: Outcome{rapid.Float64Range(0, 1).Draw(t, "worth"), rapid.SampledFrom([]float64{0, 0.3, 1, 8}).Draw(t, "weight"), Answer(rapid.IntRange(0, 2).Draw(t, "answer"))}}
		}
		var kept, gone []Lesson
		for range rapid.IntRange(0, 20).Draw(t, "kept") {
			kept = append(kept, lesson())
		}
		for range rapid.IntRange(0, 20).Draw(t, "gone") {
			gone = append(gone, lesson())
		}
		m, want := Model{}, Model{}
		for _, l := range rapid.Permutation(append(append([]Lesson{}, kept...), gone...)).Draw(t, "order") {
			m.Learn(l, true)
		}
		for _, l := range rapid.Permutation(gone).Draw(t, "taken back") {
			m.Learn(l, false)
		}
		for _, l := range kept {
			want.Learn(l, true)
		}
		require.True(t, m.Same(want) && want.Same(m))
		if len(kept) > 0 {
			m.Learn(Lesson{"w9@x.example", Traits{}, monday, Outcome{1, 1, Answered}}, true)
			require.False(t, m.Same(want))
		}
		w := m.Weigh(anyTraits(t), "w1@x1.example", monday)
		require.True(t, w.Importance > 0 && w.Importance < 1, w.Importance)
		require.Equal(t, w.Because, ReadReasons(w.Because.String()))
		require.LessOrEqual(t, len(w.Because), maxReasons)
	})
}

// The proof is what comparing each with each gives.
func TestTheProofComparesAllPairs(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		past := make([]Past, rapid.IntRange(0, 30).Draw(t, "n"))
		for i := range past {
			past[i] = Past{Came: monday + when.Instant(rapid.IntRange(0, 2).Draw(t, "day"))*86_400_000, Importance: rapid.IntRange(1, 6).Draw(t, "importance"), Fixed: rapid.IntRange(0, 3).Draw(t, "fixed"),
				Known: rapid.IntRange(0, 5).Draw(t, "known") > 0, Acted: rapid.Bool().Draw(t, "acted")}
			past[i].Came += when.Instant(rapid.IntRange(0, 3).Draw(t, "hour")) * 3_600_000
			past[i].Taken = past[i].Came + when.Instant(rapid.IntRange(0, 3).Draw(t, "taken after"))*3_600_000
		}
		pairs, right, fixed := 0, 0.0, 0.0
		half := func(a, b int) float64 { return map[bool]float64{a > b: 1}[true] + map[bool]float64{a == b: 0.5}[true] }
		for _, a := range past {
			for _, b := range past {
				left := b.Acted && a.Came < b.Came && b.Came < a.Taken && a.Taken < b.Taken // b stood above a and was left for later
				if a.Known && b.Known && a.Acted && (!b.Acted || left) && dayOf(a.Came) == dayOf(b.Came) {
					pairs, right, fixed = pairs+1, right+half(a.Importance, b.Importance), fixed+half(b.Fixed, a.Fixed)
				}
			}
		}
		p := Prove(past, dayOf)
		require.Equal(t, pairs, p.Pairs)
		if pairs > 0 {
			require.InDelta(t, right/float64(pairs), p.Right, 1e-9)
			require.InDelta(t, fixed/float64(pairs), p.Fixed, 1e-9)
		}
	})
}

func TestWhatBecomesOfAMessage(t *testing.T) {
	h := when.Instant(3_600_000)
	for _, c := range []struct {
		name string
		b    Became
		want Outcome
	}{
		{"nothing yet", Became{Came: monday}, Outcome{}},
		{"answered at once", Became{Came: monday, Answered: monday + h, Deeds: []Deed{{inbox.Archive, monday + 2*h}}}, Outcome{1, 1, AnsweredQuickly}},
		{"answered late", Became{Came: monday, Answered: monday + 90*h}, Outcome{0.85, 1, Answered}},
		{"binned at first sight", Became{Came: monday, Deeds: []Deed{{inbox.ToBin, monday + h}}, Seconds: 3}, Outcome{0, 1, NotAnswered}},
		{"binned after it was read", Became{Came: monday, Deeds: []Deed{{inbox.ToBin, monday + h}}, Seconds: 60, Read: true}, Outcome{0.2, 1, NotAnswered}},
		{"snoozed, then binned", Became{Came: monday, Deeds: []Deed{{inbox.Snooze, monday + h}, {inbox.ToBin, monday + 9*h}}}, Outcome{0.6, 0.5, NotAnswered}},
		{"archived, a follow-up made later", Became{Came: monday, Deeds: []Deed{{inbox.Archive, monday + h}, {inbox.MakeFollowUp, monday + 9*h}}}, Outcome{1, 1, NotAnswered}},
		{"answered, but it was not important", Became{Came: monday, Answered: monday + h, Deeds: []Deed{{inbox.Important, monday}, {inbox.Unimportant, monday + h}}}, Outcome{0, 8, AnsweredQuickly}},
		{"important, said and nothing else", Became{Came: monday, Deeds: []Deed{{inbox.Important, monday}}}, Outcome{1, 8, NotAnswered}},
		{"from before, never answered", Became{Came: monday, Before: true}, Outcome{0.15, 0.3, NotAnswered}},
		{"from before, answered", Became{Came: monday, Answered: monday + h, Before: true}, Outcome{1, 1, AnsweredQuickly}},
		{"what says nothing of it", Became{Came: monday, Deeds: []Deed{{inbox.MarkRead, monday}, {inbox.Label, monday}}}, Outcome{}},
	} {
		require.Equal(t, c.want, c.b.Outcome(), c.name)
	}
}

func TestReasonsAreSaid(t *testing.T) {
	halvard := mail.Address{Name: "Halvard", Address: "h@lindqvist.example"}
	m := Model{}
	for range 6 {
		m.Learn(Lesson{halvard.Address, Traits{Kind: mail.Person, Reach: mail.Alone}, monday, Outcome{1, 1, AnsweredQuickly}}, true)
	}
	for range 6 {
		m.Learn(Lesson{"letter@news.example", Traits{Kind: mail.List, Reach: mail.Unnamed}, monday, Outcome{0, 1, NotAnswered}}, true)
	}
	w := m.Weigh(Traits{Kind: mail.Person, Reach: mail.Alone, Asks: true}, halvard.Address, monday)
	require.Greater(t, w.Importance, 0.85)
	require.Equal(t, "you answered Halvard each of 6 times, mostly within a day; it is to you alone; it asks something", w.Because.Say(halvard))
	w = m.Weigh(Traits{Kind: mail.List, Reach: mail.Unnamed}, "letter@news.example", monday)
	require.Less(t, w.Importance, 0.1)
	require.Equal(t, "it is from a list; you seldom act on what Weekly sends", w.Because.Say(mail.Address{Name: "Weekly", Address: "letter@news.example"}))
	require.Equal(t, "you said so", w.Rated(inbox.Important).Because.Say(halvard))
	require.Greater(t, w.Rated(inbox.Important).Importance, 0.9)
	require.Less(t, w.Rated(inbox.Unimportant).Importance, 0.05)
	for _, c := range []struct{ stored, said string }{
		{"quick:1/1", "you answered Halvard the one time they wrote, mostly within a day"},
		{"answer:3/4", "you answered Halvard 3 of 4 times"},
		{"domain acts seldom domains", "you act on what comes from lindqvist.example; you act on what Halvard writes; you seldom act on what Halvard sends; you seldom act on what comes from lindqvist.example"},
		{"named copied many machine", "it is to you and others; you have a copy only; it names no address of yours; a machine wrote it"},
		{"answers soon project", "it answers you; it names a day of the coming week; you have a project with Halvard"},
	} {
		require.Equal(t, c.said, ReadReasons(c.stored).Say(halvard))
	}
	require.Equal(t, "you seldom act on text messages", ReadReasons("domains").Say(mail.Address{Name: "+47 22 85 50 50", Address: "+4722855050@text.invalid"}))
}

// Half a year later what was learned counts half as much as what is learned then.
func TestWhatWasLearnedFades(t *testing.T) {
	m := Model{}
	letter := Traits{Kind: mail.Person, Reach: mail.Alone}
	for range 4 {
		m.Learn(Lesson{"a@x.example", letter, monday, Outcome{0, 1, NotAnswered}}, true)
	}
	then, years := m.Weigh(letter, "a@x.example", monday), m.Weigh(letter, "a@x.example", monday+when.Instant(6*halfLife))
	require.Less(t, then.Importance, years.Importance-0.2)
	for range 4 {
		m.Learn(Lesson{"a@x.example", letter, monday + 2*halfLife, Outcome{1, 1, Answered}}, true)
	}
	require.Greater(t, m.Weigh(letter, "a@x.example", monday+2*halfLife).Importance, 0.6, "what is new counts more")
}
