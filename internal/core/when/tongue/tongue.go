// Package tongue puts words about time in other languages into those of the English
// grammar, each language by a table of its own.
package tongue

import (
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"
)

// Tongue is how a language speaks of time: its words beside those of the English
// grammar that mean the same. There is one grammar; a phrase in another language is
// put into its words and read there.
type Tongue struct {
	Name string // of the language, in English
	// weekdays from Sunday and months from January, each with its forms: whole ones,
	// and short ones after a semicolon. A short one that is a word of another of the
	// reader's languages counts only beside a date or a clock.
	weekdays [7]string
	months   [12]string
	numbers  [12]string // one to twelve, each with its forms
	joined   string     // parts of a day that are written on to the name of a weekday: "abend=evening"
	capitals bool       // days and months are written with a capital
	genitive bool       // months have a second form that stands after a day
	tail     string     // what can follow the name of a weekday of the working week
	plain    string     // words of every day that are short forms in some other language
	// rules are what else is said, a line each: "halb # = half past #-1". A word can be
	// one of several, "am|an", or left out, "den?"; # is a number, C a clock, D a
	// weekday, M a month. What is said after "=" is English, "-" for what is no time.
	rules string
	// says is how a time of a day is said, with the weekday, the day, the month and the clock.
	says string

	days, shortDays   map[string]time.Weekday
	moon, shortMonths map[string]time.Month
	counted           map[string]int
	ends              map[string]string
	ordinary          map[string]bool
	tails             []string
	byWord            map[string][]rule // by the first word, the longest first
	bySlot            []rule            // that begin with a number, a clock, a weekday or a month
}

type rule struct{ words, means []string }

// englishPlain are words of every day in English that are short forms of days elsewhere.
var englishPlain = wordSet("do so on to i am an sun sat may mar man son mi ma me so do di die war mar tor")

var tongues = map[string]*Tongue{"de": &german, "fr": &french, "es": &spanish, "it": &italian, "nl": &dutch, "da": &danish, "no": &norwegian, "sv": &swedish, "pt": &portuguese, "pl": &polish}

// Of is the tongue of a language (ISO 639-1); nil if it is not read.
func Of(language string) *Tongue { return tongues[language] }

func init() {
	for _, t := range tongues {
		t.prepare()
	}
}

func wordSet(words string) map[string]bool {
	set := map[string]bool{}
	for _, w := range strings.Fields(words) {
		set[w] = true
	}
	return set
}

func (t *Tongue) prepare() {
	t.days, t.shortDays, t.moon, t.shortMonths = map[string]time.Weekday{}, map[string]time.Weekday{}, map[string]time.Month{}, map[string]time.Month{}
	t.counted, t.ends, t.byWord, t.ordinary = map[string]int{}, map[string]string{}, map[string][]rule{}, wordSet(fold(t.plain))
	for d, forms := range t.weekdays {
		whole, short, _ := strings.Cut(fold(forms), ";")
		for _, f := range strings.Fields(whole) {
			t.days[f] = time.Weekday(d)
		}
		for _, f := range strings.Fields(short) {
			t.shortDays[f] = time.Weekday(d)
		}
	}
	for m, forms := range t.months {
		whole, short, _ := strings.Cut(fold(forms), ";")
		for _, f := range strings.Fields(whole) {
			t.moon[f] = time.Month(m + 1)
		}
		for _, f := range strings.Fields(short) {
			t.shortMonths[f] = time.Month(m + 1)
		}
	}
	for n, forms := range t.numbers {
		for _, f := range strings.Fields(fold(forms)) {
			t.counted[f] = n + 1
		}
	}
	for _, p := range wordsOf(t.tail) {
		t.tails = append(t.tails, p.low)
	}
	for _, pair := range strings.Fields(fold(t.joined)) {
		end, means, _ := strings.Cut(pair, "=")
		t.ends[end] = means
	}
	for _, line := range strings.Split(t.rules, "\n") {
		said, means, ok := strings.Cut(line, " = ")
		if !ok {
			continue
		}
		for _, words := range expand(strings.Fields(said)) {
			r := rule{words, strings.Fields(means)}
			if first := words[0]; strings.Contains("#CDM", first) {
				t.bySlot = append(t.bySlot, r)
			} else {
				t.byWord[first] = append(t.byWord[first], r)
			}
		}
	}
	longest := func(a, b rule) int { return len(b.words) - len(a.words) }
	for _, rules := range t.byWord {
		slices.SortStableFunc(rules, longest)
	}
	slices.SortStableFunc(t.bySlot, longest)
}

// expand writes out the ways in which the words of a rule can stand, each cut into
// tokens as texts are.
func expand(words []string) (out [][]string) {
	out = [][]string{nil}
	for _, w := range words {
		w, optional := strings.CutSuffix(w, "?")
		var next [][]string
		for _, so := range out {
			if optional {
				next = append(next, so)
			}
			for _, one := range strings.Split(w, "|") {
				with := slices.Clone(so)
				if one == "#" || one == "C" || one == "D" || one == "M" {
					with = append(with, one)
				} else {
					for _, p := range wordsOf(one) {
						with = append(with, p.low)
					}
				}
				next = append(next, with)
			}
		}
		out = next
	}
	return slices.DeleteFunc(out, func(w []string) bool { return len(w) == 0 })
}

// word is a token of a text: letters, a number or clock, or a mark.
type word struct {
	from, to int
	low      string // folded
}

var wordForms = regexp.MustCompile(`[\p{L}\p{M}]+['’]?|\d+(?:[.:hH]\d+)*(?:[hH]\b)?|\S`)

func wordsOf(text string) (out []word) {
	for _, m := range wordForms.FindAllStringIndex(text, -1) {
		out = append(out, word{m[0], m[1], fold(text[m[0]:m[1]])})
	}
	return out
}

var foldings = strings.NewReplacer("ä", "a", "á", "a", "à", "a", "â", "a", "ã", "a", "å", "a", "æ", "ae", "ą", "a", "ç", "c", "ć", "c", "é", "e", "è", "e", "ê", "e", "ë", "e", "ę", "e",
	"í", "i", "ì", "i", "î", "i", "ï", "i", "ł", "l", "ñ", "n", "ń", "n", "ö", "o", "ó", "o", "ò", "o", "ô", "o", "õ", "o", "ø", "o", "œ", "oe", "ß", "ss", "ś", "s", "ü", "u", "ú", "u", "ù", "u", "û", "u",
	"ź", "z", "ż", "z", "’", "'", "º", "o", "ª", "a")

// fold writes a text small and without the marks on its letters, as it is typed by
// those who have no such keys.
func fold(text string) string { return foldings.Replace(strings.ToLower(text)) }

// Piece is a part of a translated text, and the part of the original it stands for.
type Piece struct {
	From, To       int // in the translation
	WasFrom, WasTo int // in the original
	asItStands     bool
}

// Said is a text in the words of the English grammar.
type Said struct {
	Text    string
	Pieces  []Piece
	Changed bool // it is not the text as it stood
}

// Was gives the part of the original that from:to of the translation stands for.
func (s Said) Was(from, to int) (int, int) {
	at := func(pos int, end bool) int {
		i, _ := slices.BinarySearchFunc(s.Pieces, pos, func(p Piece, pos int) int {
			if p.To < pos || p.To == pos && !end {
				return -1
			}
			return 1
		})
		if i >= len(s.Pieces) {
			i = len(s.Pieces) - 1
		}
		p := s.Pieces[i]
		switch {
		case p.asItStands:
			return p.WasFrom + pos - p.From
		case end:
			return p.WasTo
		}
		return p.WasFrom
	}
	if len(s.Pieces) == 0 {
		return from, to
	}
	return at(from, false), at(to, true)
}

// shortEnglish are words of the English grammar that are ordinary words elsewhere;
// in a text in another language they are not read as English.
var shortEnglish = wordSet("mon tue tues wed thu fri sat sun jan feb mar apr may jun jul aug sep sept oct nov dec noon at by to of on due ten one am pm end first")

// English puts a text into the words of the English grammar. In running text (rather
// than in a field) short forms count only before a date or a clock, and short English
// words are not English. others are the reader's other languages.
func (t *Tongue) English(text string, running bool, others []string) (s Said) {
	words := wordsOf(text)
	var b strings.Builder
	at := 0
	copyTo := func(to int) {
		if to > at {
			s.Pieces = append(s.Pieces, Piece{From: b.Len(), To: b.Len() + to - at, WasFrom: at, WasTo: to, asItStands: true})
			b.WriteString(text[at:to])
			at = to
		}
	}
	put := func(words []word, with string) {
		copyTo(words[0].from)
		end := words[len(words)-1].to
		s.Pieces = append(s.Pieces, Piece{From: b.Len(), To: b.Len() + len(with), WasFrom: at, WasTo: end})
		b.WriteString(with)
		at = end
	}
	for i := 0; i < len(words); {
		n, with := t.match(words, i, text, running, others)
		switch {
		case n > 0:
			put(words[i:i+n], with)
			s.Changed = true
			i += n
		case running && shortEnglish[words[i].low]:
			put(words[i:i+1], strings.Repeat("_", words[i].to-words[i].from))
			i++
		default:
			i++
		}
	}
	copyTo(len(text))
	s.Text = b.String()
	return s
}

// match finds the longest rule for the words from i on: how many it takes, and what
// they mean.
func (t *Tongue) match(words []word, i int, text string, running bool, others []string) (int, string) {
	n, means := 0, ""
	for _, rules := range [][]rule{t.byWord[words[i].low], t.bySlot} {
		for _, r := range rules {
			if taken, with, ok := t.follows(r, words, i, running, others); ok && taken > n {
				n, means = taken, with
			}
		}
	}
	if n > 0 {
		return n, means
	}
	for _, slot := range []string{"D", "M"} {
		if taken, with, ok := t.slot(slot, words, i, running, others); ok {
			return taken, with
		}
	}
	return 0, ""
}

// follows says whether the words from i on are those of r.
func (t *Tongue) follows(r rule, words []word, i int, running bool, others []string) (n int, means string, ok bool) {
	at := i
	var slots []string
	var kinds []string
	for _, w := range r.words {
		if at >= len(words) {
			return 0, "", false
		}
		switch w {
		case "#", "C", "D", "M":
			taken, with, ok := t.slot(w, words, at, running, others)
			if !ok {
				return 0, "", false
			}
			slots, kinds, at = append(slots, with), append(kinds, w), at+taken
		default:
			if words[at].low != w {
				return 0, "", false
			}
			at++
		}
	}
	out := make([]string, 0, len(r.means))
	used := map[string]int{}
	for _, m := range r.means {
		less := m == "#-1"
		kind := m
		switch m {
		case "#-1": // the hour before
			kind = "#"
		case "T": // a clock in a span
			kind = "C"
		}
		if kind != "#" && kind != "C" && kind != "D" && kind != "M" {
			out = append(out, m)
			continue
		}
		value := ""
		for k, seen := 0, 0; k < len(kinds); k++ {
			if kinds[k] == kind {
				if value = slots[k]; seen == used[kind] {
					break
				}
				seen++
			}
		}
		used[kind]++
		if m == "T" {
			value = strings.TrimSuffix(value, " o'clock")
		}
		if less {
			hour := number(value)
			if hour < 1 || hour > 24 {
				return 0, "", false
			}
			value = strconv.Itoa((hour+10)%12 + 1)
		}
		out = append(out, value)
	}
	means = strings.Join(out, " ")
	if means == "-" {
		means = "_"
	}
	return at - i, means, true
}

var (
	clockWords  = regexp.MustCompile(`^(\d{1,2})(?:[:.h](\d{2}))?h?$`)
	numberWord  = regexp.MustCompile(`^\d{1,4}$`)
	beginsClock = regexp.MustCompile(`^(?:\d{1,2}[:.h]\d|\d{1,2}h$)`)
)

// slot reads a number, a clock, a weekday or a month at i.
func (t *Tongue) slot(kind string, words []word, i int, running bool, others []string) (n int, with string, ok bool) {
	w := words[i].low
	dot := 0
	if i+1 < len(words) && words[i+1].low == "." && words[i+1].from == words[i].to {
		dot = 1
	}
	switch kind {
	case "#":
		if numberWord.MatchString(w) {
			return 1, w, true
		}
		if v := t.counted[w]; v > 0 {
			return 1, strconv.Itoa(v), true
		}
	case "C":
		m := clockWords.FindStringSubmatch(w)
		if m == nil && t.counted[w] > 0 {
			m = []string{"", strconv.Itoa(t.counted[w]), ""}
		}
		if m == nil {
			return 0, "", false
		}
		if m[2] != "" {
			return 1, m[1] + ":" + m[2], true
		}
		return 1, m[1] + " o'clock", true
	case "D":
		if d, ok := t.days[w]; ok {
			n := 1
			for k, tail := range t.tails {
				if i+1+k >= len(words) || words[i+1+k].low != tail {
					break
				}
				if k == len(t.tails)-1 {
					n += len(t.tails)
				}
			}
			return n, strings.ToLower(d.String()), true
		}
		for end, means := range t.ends {
			if begin, ok := strings.CutSuffix(w, end); ok {
				if d, named := t.days[begin]; named {
					return 1, strings.ToLower(d.String()) + " " + means, true
				}
				if d, named := t.days[strings.TrimSuffix(begin, "s")]; named {
					return 1, strings.ToLower(d.String()) + " " + means, true
				}
			}
		}
		if d, ok := t.shortDays[w]; ok && t.counts(words, i, dot, running, others) {
			return 1 + dot, strings.ToLower(d.String()), true
		}
	case "M":
		if m, ok := t.moon[w]; ok {
			return 1, strings.ToLower(m.String()), true
		}
		if m, ok := t.shortMonths[w]; ok && i > 0 {
			if last := words[i-1].low; unicode.IsDigit(rune(last[0])) || last == "." && i > 1 && unicode.IsDigit(rune(words[i-2].low[0])) {
				if running { // a full stop can be the end of the sentence
					dot = 0
				}
				return 1 + dot, strings.ToLower(m.String()), true
			}
		}
	}
	return 0, "", false
}

// counts says whether the short form of a weekday at i is one.
func (t *Tongue) counts(words []word, i, dot int, running bool, others []string) bool {
	next := i + 1 + dot
	if !running {
		free := !englishPlain[words[i].low]
		for _, l := range others {
			if o := tongues[l]; o != nil && o != t && o.ordinary[words[i].low] {
				free = false
			}
		}
		digit := func(i int) bool {
			return i >= 0 && i < len(words) && words[i].low[0] >= '0' && words[i].low[0] <= '9'
		}
		return free || digit(next) || digit(next+1) || digit(i-1)
	}
	for n := next; n < len(words) && n < next+3; n++ {
		w := words[n].low
		if w[0] < '0' || w[0] > '9' {
			if r, _ := utf8.DecodeRuneInString(w); n == next && (unicode.IsLetter(r) && len(w) <= 4 || w == ",") {
				continue // "Do um 9:30", "Do, 26.11."
			}
			return false
		}
		if beginsClock.MatchString(w) || n+1 >= len(words) {
			return beginsClock.MatchString(w)
		}
		after := words[n+1].low
		_, month := t.moon[after]
		_, short := t.shortMonths[after]
		return month || short || after == "." && words[n+1].from == words[n].to && n+2 < len(words) && words[n+2].from > words[n+1].to || after == "uhr" || after == "h"
	}
	return false
}

// Say says a time of a day: "Donnerstag, 26. November, 10:00".
func (t *Tongue) Say(at time.Time) string {
	first := func(forms string) string {
		whole, _, _ := strings.Cut(forms, ";")
		return strings.Fields(whole)[0]
	}
	day, month := first(t.weekdays[at.Weekday()]), t.month(at.Month(), first)
	if d := at.Weekday(); d != time.Saturday && d != time.Sunday {
		day += t.tail
	}
	if t.capitals {
		day, month = capital(day), capital(month)
	}
	return strings.NewReplacer("D", day, "M", month, "#", strconv.Itoa(at.Day()), "C", at.Format("15:04")).Replace(t.says)
}

func capital(s string) string {
	r, n := utf8.DecodeRuneInString(s)
	return string(unicode.ToUpper(r)) + s[n:]
}

// month is the name of a month as it stands after a day.
func (t *Tongue) month(m time.Month, first func(string) string) string {
	if t.genitive { // of several forms the second is "of"
		whole, _, _ := strings.Cut(t.months[m-1], ";")
		return strings.Fields(whole)[1]
	}
	return first(t.months[m-1])
}

func number(s string) int { n, _ := strconv.Atoi(s); return n }
