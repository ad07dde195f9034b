package sorting

import (
	"cmp"
	"encoding/binary"
	"hash/fnv"
	"math"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"unicode"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
)

// Junk is told by the signs of a message: its words, its sender, the places it links to,
// and how it is made. Of each sign is counted in how many messages it was that the reader
// called junk, and in how many they kept. With j of J junk messages and g of G kept ones,
// the sign by itself says junk with
//
//	p = (j/J) / (j/J + g/G),   f = (s·x + n·p) / (s + n),   n = j + g
//
// where x = 0.45 is what is said of a sign never seen, and s = 0.6 is for how many
// messages that counts. The signs that say most (|f − 0.5| ≥ 0.1, 120 at most) are put
// together by Fisher's method: if they said nothing, −2·Σ ln f over k of them would be
// distributed as χ² with 2k degrees of freedom. So with Q the upper tail of that,
//
//	score = (1 + Q(−2·Σ ln f, 2k) − Q(−2·Σ ln(1−f), 2k)) / 2
//
// is near 1 for what looks like junk alone, near 0 for what looks like the reader's mail
// alone, and near ½ where both is so, or nothing is known. Each message counts once for
// each sign, however often it says it; so one cannot shout.

// JunkSign is a sign of a message, by a hash of its text (FNV-1a, 32 bits).
type JunkSign uint32

// JunkSignOf is the sign with that text.
func JunkSignOf(text string) JunkSign {
	h := fnv.New32a()
	_, _ = h.Write([]byte(text))
	return JunkSign(h.Sum32())
}

// JunkSigns are those of a message, with the texts of those that can be shown.
type JunkSigns struct {
	All   []JunkSign
	Texts map[JunkSign]string
}

// Sorting out what is junk.
const (
	maxSigns   = 220     // of one message
	signsIn    = 6 << 10 // bytes of a text that are looked at
	strongest  = 120
	unseen     = 0.45
	unseenFor  = 0.6
	tellsLeast = 0.1
	fewJunk    = 10 // messages of a kind below which nothing is said
	fewGood    = 40
)

var linked = regexp.MustCompile(`(?i)https?://[^\s"'<>()\[\]]{3,200}`)

// JunkSignsOf finds the signs of a message. Texts are looked at as far as they tell: the
// first words, and the hosts of the first links.
func JunkSignsOf(m mail.Message) (s JunkSigns) {
	s.Texts = map[JunkSign]string{}
	seen := map[JunkSign]bool{}
	add := func(kind, text string, shown bool) {
		if len(s.All) >= maxSigns || text == "" {
			return
		}
		sign := JunkSignOf(kind + text)
		if !seen[sign] {
			seen[sign] = true
			s.All = append(s.All, sign)
			if shown {
				s.Texts[sign] = text
			}
		}
	}
	_, domain, _ := strings.Cut(m.From.Address, "@")
	add("from:", m.From.Address, true)
	add("domain:", domain, true)
	add("kind:", string(m.Kind), false)
	add("list:", m.List, true)
	for _, a := range m.ReplyTo {
		if _, d, _ := strings.Cut(a.Address, "@"); d != domain {
			add("reply:", d, true)
		}
	}
	for _, w := range wordsIn(m.From.Name) {
		add("name:", w, false)
	}
	for _, f := range m.Files {
		if i := strings.LastIndexByte(f.Name, '.'); i >= 0 {
			add("file:", strings.ToLower(f.Name[i:]), true)
		}
	}
	if m.Text == "" && m.HTML != "" || len(m.Text) < 40 && len(m.HTML) > 400 {
		add("form:", "pictures", false)
	}
	if unicode.IsUpper(firstLetter(m.Subject)) && strings.ToUpper(m.Subject) == m.Subject && len(m.Subject) > 8 {
		add("form:", "shouts", false)
	}
	body := m.Text
	for _, l := range linked.FindAllString(cut(body+"\n"+m.HTML, 4*signsIn), 12) {
		if u, err := url.Parse(l); err == nil {
			host := strings.TrimPrefix(strings.ToLower(u.Hostname()), "www.")
			if add("link:", host, true); host != domain && !strings.HasSuffix(host, "."+domain) {
				add("form:", "links elsewhere", false)
			}
		}
	}
	for _, w := range wordsIn(m.Subject) {
		add("subject:", w, true)
		add("", w, true)
	}
	for _, w := range wordsIn(linked.ReplaceAllString(cut(body, signsIn), " ")) {
		add("", w, true)
	}
	return s
}

func cut(text string, n int) string {
	if len(text) > n {
		return strings.ToValidUTF8(text[:n], "")
	}
	return text
}

func firstLetter(text string) rune {
	for _, r := range text {
		if unicode.IsLetter(r) {
			return r
		}
	}
	return 0
}

// wordsIn are the words of a text, folded; of scripts without spaces pairs of signs.
func wordsIn(text string) (out []string) {
	for _, w := range strings.FieldsFunc(search.Fold(text), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsNumber(r) && r != '$' && r != '€' && r != '£'
	}) {
		runes := []rune(w)
		switch {
		case unicode.In(runes[0], unicode.Han, unicode.Hiragana, unicode.Katakana, unicode.Thai) && len(runes) > 2:
			for i := range runes[:len(runes)-1] {
				out = append(out, string(runes[i:i+2]))
			}
		case len(runes) >= 3 && len(runes) <= 24 || len(runes) > 0 && strings.ContainsRune("$€£", runes[0]):
			out = append(out, w)
		case len(runes) > 24:
			out = append(out, "long:"+string(runes[:2]))
		}
	}
	return out
}

// SignBytes are signs as they are kept, four bytes each, in their order.
func SignBytes(signs []JunkSign) []byte {
	signs = slices.Sorted(slices.Values(signs))
	out := make([]byte, 0, 4*len(signs))
	for _, s := range signs {
		out = binary.LittleEndian.AppendUint32(out, uint32(s))
	}
	return out
}

// ReadSigns reads what SignBytes has written. What is left over is passed over.
func ReadSigns(b []byte) (out []JunkSign) {
	for ; len(b) >= 4; b = b[4:] {
		out = append(out, JunkSign(binary.LittleEndian.Uint32(b)))
	}
	return out
}

// JunkTally is in how many messages a sign was.
type JunkTally struct{ Junk, Good int }

// JunkModel is what was learned of junk, as far as it is needed.
type JunkModel struct {
	JunkTally                        // messages that were called junk, and kept
	Of        map[JunkSign]JunkTally // by sign
}

// Learn adds a message to what was learned, n = 1, or takes it away again, n = −1.
func (m *JunkModel) Learn(signs []JunkSign, junk bool, n int) {
	if m.Of == nil {
		m.Of = map[JunkSign]JunkTally{}
	}
	m.JunkTally = m.plus(junk, n)
	for _, s := range signs {
		m.Of[s] = m.Of[s].plus(junk, n)
	}
}

func (t JunkTally) plus(junk bool, n int) JunkTally {
	if junk {
		t.Junk += n
	} else {
		t.Good += n
	}
	return t
}

// Knows says that enough was learned to say anything.
func (m JunkModel) Knows() bool { return m.Junk >= fewJunk && m.Good >= fewGood }

// tells is f of a sign.
func (m JunkModel) tells(s JunkSign) float64 {
	t := m.Of[s]
	n := float64(t.Junk + t.Good)
	if n == 0 {
		return unseen
	}
	j, g := float64(t.Junk)/float64(max(m.Junk, 1)), float64(t.Good)/float64(max(m.Good, 1))
	p := j / (j + g)
	return (unseenFor*unseen + n*p) / (unseenFor + n)
}

// Judge says how much a message looks like junk, from 0 to 1, and by which of its signs
// most; ½ as long as too little was learned.
func (m JunkModel) Judge(signs []JunkSign) (score float64, most []JunkSign) {
	if !m.Knows() {
		return 0.5, nil
	}
	type told struct {
		s JunkSign
		f float64
	}
	var all []told
	for _, s := range signs {
		if f := m.tells(s); math.Abs(f-0.5) >= tellsLeast {
			all = append(all, told{s, f})
		}
	}
	slices.SortFunc(all, func(a, b told) int {
		return cmp.Or(cmp.Compare(math.Abs(b.f-0.5), math.Abs(a.f-0.5)), cmp.Compare(a.s, b.s))
	})
	all = all[:min(len(all), strongest)]
	if len(all) == 0 {
		return 0.5, nil
	}
	var junk, good float64
	for _, t := range all {
		junk += math.Log(1 - t.f)
		good += math.Log(t.f)
		if t.f > 0.5 && len(most) < 12 {
			most = append(most, t.s)
		}
	}
	return (1 + tail(-2*good, 2*len(all)) - tail(-2*junk, 2*len(all))) / 2, most
}

// tail is the upper tail of χ² with an even number of degrees of freedom at x: the chance
// that signs that say nothing say as much.
func tail(x float64, degrees int) float64 {
	half := x / 2
	term := math.Exp(-half)
	sum := term
	for i := 1; i < degrees/2; i++ {
		term *= half / float64(i)
		sum += term
	}
	return min(sum, 1)
}
