package sorting

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/mail"
)

// tide is a made-up year of somebody's mail: people and machines they know, whose words
// come from a common stock and from what they are about; and junk, which comes in
// campaigns, each with words, places and spellings of its own that change, and which puts
// on the words of ordinary letters.
type tide struct {
	r      *rand.Rand
	common []string
	topics [][]string
	people []mail.Address
	waves  []wave
	n      int
}

type wave struct {
	words  []string
	host   string
	name   string
	poison float64 // how much of it are words of ordinary letters
}

func newTide(seed uint64) *tide {
	t := &tide{r: rand.New(rand.NewPCG(seed, 7))}
	word := func() string {
		b := make([]byte, 3+t.r.IntN(7))
		for i := range b {
			b[i] = "etaoinshrdlucmfwypvbgk"[int(22*t.r.Float64()*t.r.Float64())]
		}
		return string(b)
	}
	stock := func(n int) (out []string) {
		for range n {
			out = append(out, word())
		}
		return out
	}
	t.common = stock(1500)
	for range 30 {
		t.topics = append(t.topics, stock(60))
	}
	for i := range 160 {
		t.people = append(t.people, mail.Address{Name: word() + " " + word(), Address: fmt.Sprintf("%s@%s%d.example", word(), word(), i%70)})
	}
	for range 24 {
		t.waves = append(t.waves, wave{words: stock(35), host: word() + ".example", name: word(), poison: 0.3 + 0.4*t.r.Float64()})
	}
	return t
}

// pick is a word, the first far more often than the last.
func (t *tide) pick(of []string) string {
	return of[int(float64(len(of))*t.r.Float64()*t.r.Float64())]
}

func (t *tide) text(n int, draw func() string) (text string) {
	for range n {
		text += draw() + " "
	}
	return text
}

// next is a message, and whether it is junk.
func (t *tide) next() (m mail.Message, junk bool) {
	t.n++
	if junk = t.r.Float64() < 0.3; junk {
		w := &t.waves[t.r.IntN(len(t.waves))]
		if t.r.Float64() < 0.01 { // it goes on elsewhere, with some other words
			w.host = t.pick(t.common) + fmt.Sprint(t.n) + ".example"
			for i := range w.words {
				if t.r.Float64() < 0.3 {
					w.words[i] = t.pick(t.common) + t.pick(w.words)
				}
			}
		}
		draw := func() string {
			if t.r.Float64() < w.poison {
				return t.pick(t.common)
			}
			return t.pick(w.words)
		}
		m.From = mail.Address{Name: w.name, Address: fmt.Sprintf("%s%d@%s", t.pick(t.common), t.n, w.host)}
		m.Subject, m.Text = t.text(4, draw), t.text(20+t.r.IntN(80), draw)+"https://"+w.host+"/"+t.pick(w.words)
		m.Kind = []mail.Kind{mail.Person, mail.Person, mail.List}[t.r.IntN(3)]
		return m, true
	}
	m.From = t.people[int(float64(len(t.people))*t.r.Float64()*t.r.Float64())]
	if t.r.Float64() < 0.03 { // a stranger who means well
		m.From = mail.Address{Name: t.pick(t.common), Address: fmt.Sprintf("%s@new%d.example", t.pick(t.common), t.n)}
	}
	topic := t.topics[t.r.IntN(len(t.topics))]
	draw := func() string {
		if t.r.Float64() < 0.7 {
			return t.pick(t.common)
		}
		return t.pick(topic)
	}
	m.Subject, m.Text = t.text(4, draw), t.text(8+t.r.IntN(100), draw)
	if t.r.Float64() < 0.2 {
		m.Text += "https://" + t.pick(topic) + ".example/"
		m.Kind = mail.List
	}
	return m, false
}

// run has a reader go through n messages who calls junk what is, and keeps what is good
// but for one of ten, of which they say nothing; it gives what was called wrongly of the
// last of them.
func (t *tide) run(m *JunkModel, n, last int, degree Degree) (wrongly, good, caught, junk int) {
	for i := range n {
		msg, is := t.next()
		signs := JunkSignsOf(msg)
		score, _ := m.Judge(signs.All)
		if called := degree.Calls(score); i >= n-last {
			switch {
			case is && called:
				caught, junk = caught+1, junk+1
			case is:
				junk++
			case called:
				wrongly, good = wrongly+1, good+1
			default:
				good++
			}
		}
		if is || t.r.IntN(10) > 0 {
			m.Learn(signs.All, is, 1)
		}
	}
	return wrongly, good, caught, junk
}

// Of ten thousand messages, made up anew with each run, at most one of a thousand that are
// not junk is called so, and 97 of 100 that are.
func TestJunkIsTold(t *testing.T) {
	wrong, good, found, all := 0, 0, 0, 0
	for range 2 {
		seed := rand.Uint64()
		var m JunkModel
		wrongly, g, caught, junk := newTide(seed).run(&m, 7500, 6000, Careful)
		t.Logf("seed %d, careful: %d of %d wrongly called junk, %d of %d caught", seed, wrongly, g, caught, junk)
		wrong, good, found, all = wrong+wrongly, good+g, found+caught, all+junk
	}
	require.LessOrEqual(t, float64(wrong), 0.001*float64(good))
	require.GreaterOrEqual(t, float64(found), 0.97*float64(all))
}

// Whoever fills junk with the reader's own words, so that those should come to be taken
// for junk, spoils nothing: good mail goes on being kept.
func TestATeacherWhoPoisons(t *testing.T) {
	tide := newTide(rand.Uint64())
	var m JunkModel
	tide.run(&m, 3000, 0, Careful)
	for range 400 { // the words that are most usual, and of what the reader is about
		msg := mail.Message{From: mail.Address{Address: fmt.Sprintf("x%d@evil%d.example", tide.r.IntN(1000), tide.r.IntN(1000))}, Kind: mail.Person}
		msg.Subject, msg.Text = tide.text(5, func() string { return tide.pick(tide.common) }), tide.text(150, func() string { return tide.pick(tide.topics[tide.r.IntN(30)]) })
		m.Learn(JunkSignsOf(msg).All, true, 1)
	}
	wrongly, good, caught, junk := tide.run(&m, 1500, 1500, Careful)
	t.Logf("after it: %d of %d wrongly called junk, %d of %d caught", wrongly, good, caught, junk)
	require.LessOrEqual(t, wrongly, good/200)
	require.GreaterOrEqual(t, float64(caught), 0.8*float64(junk))
}

// What is unlearned is as if it had never been learned; a score is a number from 0 to 1,
// and says nothing as long as nothing is known.
func TestJunkIsUnlearned(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		text := rapid.StringOfN(rapid.SampledFrom([]rune("ab cäß日本 $5x@.:/")), 0, 80, -1)
		message := func() mail.Message {
			return mail.Message{From: mail.Address{Name: text.Draw(r, "name"), Address: "a@x.example"}, Subject: text.Draw(r, "subject"), Text: text.Draw(r, "text")}
		}
		var m, plain JunkModel
		for range rapid.IntRange(0, 60).Draw(r, "n") {
			signs, junk := JunkSignsOf(message()).All, rapid.Bool().Draw(r, "junk")
			require.ElementsMatch(r, signs, ReadSigns(SignBytes(signs)))
			m.Learn(signs, junk, 1)
			if rapid.Bool().Draw(r, "stays") {
				plain.Learn(signs, junk, 1)
			} else {
				m.Learn(signs, junk, -1)
			}
		}
		signs := JunkSignsOf(message()).All
		a, most := m.Judge(signs)
		b, _ := plain.Judge(signs)
		assert.InDelta(r, b, a, 1e-9)
		assert.True(r, a >= 0 && a <= 1)
		assert.LessOrEqual(r, len(most), len(signs))
		if !m.Knows() {
			assert.Equal(r, 0.5, a)
		}
	})
}
