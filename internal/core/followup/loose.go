package followup

import (
	"regexp"
	"slices"
	"strings"
	"unicode"

	"ebbe/internal/core/when"
)

const (
	mostWords = 8  // at the end of a line, looked at for one piece
	mostOff   = 50 // pieces that are left in the title
)

const months = `(?:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec)[a-z]*`

var (
	// wholeDays are words that say a day by themselves at the end of a line. Short
	// forms that are words of their own (“the sun”, “where it sat”) need a clock.
	wholeDays = wordSet("today tonight tomorrow monday tuesday wednesday thursday friday saturday sunday mon tue tues thu thur thurs fri")
	// dayWords can begin a piece that says when.
	dayWords = wordSet("today tonight tomorrow monday tuesday wednesday thursday friday saturday sunday mon tue tues wed thu thur thurs fri sat sun next this in end before")
	// leading are words before a day or a clock at the end of a line.
	leading   = wordSet("by due on at start starts starting")
	datePiece = regexp.MustCompile(`^(\d{1,2}(\.|st|nd|rd|th)?\s+` + months + `|` + months + `\s+\d{1,2}|\d{4}-\d{2}-\d{2}|\d{1,2}\.\d{1,2}\.)`)
	clockWord = regexp.MustCompile(`^(\d{1,2}([:.]\d{2})?(am|pm|h|h\d{2})?|noon|midnight)$`)
	atPlace   = regexp.MustCompile(`^@\p{L}[\p{L}\p{N}-]*$`)
)

func wordSet(words string) map[string]bool {
	set := map[string]bool{}
	for _, w := range strings.Fields(words) {
		set[w] = true
	}
	return set
}

// loose takes off the end of a text what says when, how often, how urgent or
// where, without slashes: “call the plumber tomorrow at 9”, “read chapter 12 by
// monday !”, “water the moss wall every 2 weeks @gallery”. At least one word is
// left, unless all may go. Pieces that somebody has taken off as marks are title.
func (r *reader) loose(text string, all bool) (rest string, parts []Part) {
	for {
		words := wordsIn(text)
		before := r.f
		if _, whole := r.piece(text, strings.ToLower(text)); whole && !all {
			r.f = before
			return text, parts
		}
		r.f = before
		at, part, ok := 0, Part{}, false
		for i := max(0, len(words)-mostWords); i < len(words) && !ok; i++ {
			at = words[i]
			piece := text[at:]
			if slices.Contains(r.off, strings.ToLower(piece)) {
				part, ok = Part{Kind: PartTitle, Means: piece, Text: piece}, i > 0
				continue
			}
			part, ok = r.piece(piece, strings.ToLower(piece))
			part.Text, part.Loose = piece, !all
		}
		if ok && part.Kind != PartTitle && slices.ContainsFunc(slices.Concat(parts, r.parts), func(p Part) bool { return p.Kind == part.Kind }) {
			r.f = before // it is said already, between slashes or nearer the end: a second day, say, is title
			part = Part{Kind: PartTitle, Means: part.Text, Text: part.Text}
		}
		if !ok || len(parts) == mostOff {
			return text, parts
		}
		parts = append([]Part{part}, parts...)
		text = strings.TrimRightFunc(text[:at], func(c rune) bool { return unicode.IsSpace(c) || strings.ContainsRune(",;-–—", c) })
	}
}

// wordsIn is where each word of a text begins.
func wordsIn(text string) (at []int) {
	before := ' '
	for i, c := range text {
		if !unicode.IsSpace(c) && unicode.IsSpace(before) {
			at = append(at, i)
		}
		before = c
	}
	return at
}

// piece recognises one piece that ends a line. What would be guessed is none.
func (r *reader) piece(text, low string) (Part, bool) {
	words := strings.Fields(low)
	switch {
	case len(words) == 0:
		return Part{}, false
	case low == "!!", low == "urgent":
		return r.priority("", "urgent")
	case low == "!":
		return r.priority("", "high")
	case len(words) == 1 && atPlace.MatchString(low):
		return r.place(text[1:], low[1:])
	}
	for _, said := range r.w.InEnglish(low) {
		if p, ok := r.pieceOfTime(said); ok {
			return p, true
		}
	}
	return Part{}, false
}

// pieceOfTime recognises, in the words of the grammar of times, how often or when.
func (r *reader) pieceOfTime(low string) (Part, bool) {
	words := strings.Fields(low)
	if len(words) == 0 {
		return Part{}, false
	}
	if words[0] == "every" {
		before := r.f
		if p, ok := r.repeat(low, low); ok && p.Wrong == "" {
			return p, true
		}
		r.f = before
		return Part{}, false
	}
	kind, rest, says := PartDue, words, ""
	if leading[words[0]] {
		says, rest = words[0], words[1:]
	}
	if len(rest) == 0 {
		return Part{}, false
	}
	phrase := strings.Join(rest, " ")
	switch {
	case says == "at" && clockWord.MatchString(rest[0]): // not a place
	case says == "at":
		return Part{}, false
	case len(rest) == 1 && !wholeDays[rest[0]] && !datePiece.MatchString(phrase) && !(says != "" && dayWords[rest[0]]):
		return Part{}, false
	case !dayWords[rest[0]] && !datePiece.MatchString(phrase):
		return Part{}, false
	}
	if strings.HasPrefix(says, "start") {
		kind = PartStart
	}
	if r.w.Read(phrase, r.now).Doubt != when.Unclear {
		return r.timed(kind, phrase)
	}
	if day, ok := strings.CutPrefix(phrase, "before "); ok && kind == PartDue {
		return r.dayBefore(day)
	}
	return Part{}, false
}

// dayBefore takes what has to be done before a day as due the day before it.
func (r *reader) dayBefore(day string) (Part, bool) {
	read := r.w.Read(day, r.now)
	loc := r.w.Location()
	if read.Doubt != "" || read.Timed || read.Moment.Local == "" {
		return Part{}, false
	}
	r.f.Due = when.WholeDayOf(read.Moment.Wall(loc).AddDate(0, 0, -1), loc)
	return Part{Kind: PartDue, Means: "due " + r.w.Say(r.f.Due, r.now)}, true
}

// place takes the name after an @ for a place.
func (r *reader) place(said, low string) (Part, bool) {
	for _, whole := range []bool{true, false} {
		if p, ok := r.name(PartContext, low, whole); ok {
			return p, true
		}
	}
	return r.as(PartContext, said, low, "place ")
}

// together reads a part between slashes that says several things: “urgent friday
// 10”, “start mon due fri”. All of it has to be understood.
func (r *reader) together(text string) ([]Part, bool) {
	before := r.f
	rest, parts := r.loose(text, true)
	if strings.TrimSpace(rest) != "" || len(parts) < 2 {
		r.f = before
		return nil, false
	}
	return parts, true
}
