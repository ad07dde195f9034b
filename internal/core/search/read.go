package search

import (
	"fmt"
	"slices"
	"strings"
	"unicode/utf16"
	"unicode/utf8"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// A search is words, and among them marks that narrow it: whom a message is from, when it
// was written, where it lies.
//
//	crate height from mirela or tomasz since spring
//	“loan agreement” -draft with pdf label loans in the archive
//
// What is no mark is looked for as it stands. What stands between quotation marks is
// never a mark.

// Known is what a search can name.
type Known struct {
	Labels   map[string]int64                 // by their paths
	Own      []string                         // the reader's addresses
	Find     func(name string) []mail.Address // who is called so, or whose address begins so, those that matter first
	Projects []string
	Streams  map[string]string // by their names, in lower case
	Week     when.Week
	Now      when.Instant
}

// asking are conditions that are only said in a search.
var asking = append([]Phrase{
	Said("unread", func(q *Query) { q.Unread = true }, "unread"),
	Said("not starred", func(q *Query) { q.Unstarred = true }, "not starred"),
	Said("starred", func(q *Query) { q.Starred = true }, "starred"),
	Said("is unread", func(q *Query) { q.Unread = true }, "unread"),
	Said("is starred", func(q *Query) { q.Starred = true }, "starred"),
	Said("is not answered", func(q *Query) { q.Unanswered = true }, "not answered"),
	Said("not answered", func(q *Query) { q.Unanswered = true }, "not answered"),
	Said("unanswered", func(q *Query) { q.Unanswered = true }, "not answered"),
	Said("is answered", func(q *Query) { q.Answered = true }, "answered"),
	Said("is waiting", func(q *Query) { q.Waiting = true }, "waits for somebody"),
	Said("with a follow-up", func(q *Query) { q.Flagged = true }, "has a follow-up"),
	Said("with follow-up", func(q *Query) { q.Flagged = true }, "has a follow-up"),
	Said("with follow-ups", func(q *Query) { q.Flagged = true }, "has a follow-up"),
	Said("from me", nil, ""),
	Said("by me", nil, ""),
}, Phrases...)

// places are what the places of mail are called in a search.
var places = map[string]mail.Place{"inbox": "inbox", "archive": "archived", "bin": "bin", "junk": "junk", "snoozed": "snoozed", "later": "snoozed"}

// texts are what texts are called in which words can be looked for.
var texts = map[string]DocumentKind{"messages": MessageDocument, "files": FileDocument, "notes": NameDocument, "names": NameDocument, "follow-ups": FollowUpDocument, "events": EventDocument, "comments": CommentDocument}

// marking are the words with which a mark begins.
var marking = []string{"from", "by", "to", "with", "label", "labelled", "project", "stream", "in", "on", "during", "since", "after", "before", "until", "larger", "over", "at", "is", "unread", "starred", "unanswered", "not", "-", "or", "without"}

// asker reads what was asked.
type asker struct {
	known Known
	text  string
	words []Word
	i     int
	out   Reading
	left  []string // words that are looked for
}

// Read reads what was asked. Nothing of it is wrong: what is not understood as a mark is
// looked for as words. What is too long is not read at all, and that is said.
func Read(text string, k Known) Reading {
	a := &asker{known: k, text: text, words: Cut(text, 0), out: Reading{Marks: []Mark{}}}
	if len(text) > MaxAsked {
		a.out.Doubt = fmt.Sprintf("That is too much to look for. Name a few words; up to %d characters are read.", MaxAsked)
		return a.out
	}
	for a.i < len(a.words) {
		if !a.mark() {
			a.word()
		}
	}
	a.out.Query.Words = strings.Join(a.left, " ")
	if n := len(a.left); n > MaxWords {
		a.doubt(fmt.Sprintf("Only the first %d of these words are looked for.", MaxWords))
	}
	if err := a.out.Query.Valid(); err != nil {
		a.doubt(strings.ToUpper(err.Error()[:1]) + err.Error()[1:] + ".")
	}
	return a.out
}

func (a *asker) doubt(s string) {
	if a.out.Doubt == "" {
		a.out.Doubt = s
	}
}

func (a *asker) at(n int) Word {
	if a.i+n < len(a.words) {
		return a.words[a.i+n]
	}
	return Word{}
}

func (a *asker) is(words ...string) bool {
	for n, w := range words {
		if x := a.at(n); x.Quoted || x.Low != w {
			return false
		}
	}
	return true
}

// took notes a mark of n words.
func (a *asker) took(n int, kind MarkKind, means string) {
	units := func(at int) int { // UTF-16 units before a byte
		n := 0
		for _, r := range a.text[:at] {
			n += max(1, utf16.RuneLen(r))
		}
		return n
	}
	a.out.Marks = append(a.out.Marks, Mark{units(a.words[a.i].From), units(a.words[a.i+n-1].To), kind, means})
	a.i += n
}

// word takes a word to be looked for.
func (a *asker) word() {
	w := a.at(0)
	raw := a.text[w.From:w.To]
	switch {
	case !w.Quoted && (w.Text == "-" || w.Low == "without") && a.at(1).Text != "": // -“these words”, without them
		next := a.at(1)
		a.left = append(a.left, "-"+a.text[next.From:next.To])
		a.took(2, MarkNot, "without "+a.text[next.From:next.To])
	case !w.Quoted && strings.HasPrefix(raw, "-") && len(raw) > 1:
		a.left = append(a.left, raw)
		a.took(1, MarkNot, "without "+raw[1:])
	default:
		if _, ok := termOf(w.Text, w.Quoted); !ok { // nothing but punctuation
			a.i++
			return
		}
		a.left = append(a.left, raw)
		a.took(1, MarkWord, raw)
	}
}

// mark reads a mark, if the next words are one.
func (a *asker) mark() bool {
	w := a.at(0)
	if w.Quoted {
		return false
	}
	q := &a.out.Query
	for _, p := range asking {
		if !a.is(p.Words...) {
			continue
		}
		if p.Set == nil {
			q.Writer = join(q.Writer, a.known.Own)
			a.took(len(p.Words), MarkPerson, "from you")
			return true
		}
		p.Set(q)
		a.took(len(p.Words), MarkOther, p.Means)
		return true
	}
	switch w.Low {
	case "from", "by":
		return a.person(&q.Writer, "from ") || w.Low == "from" && a.time("from")
	case "to":
		return a.toMe() || a.person(&q.To, "to ")
	case "with":
		return a.person(&q.With, "with ")
	case "label", "labelled":
		return a.label()
	case "project":
		return a.oneOf(a.known.Projects, func(p string) { q.Project = p }, MarkOther, "project ")
	case "stream":
		var names []string
		for n := range a.known.Streams {
			names = append(names, n)
		}
		return a.oneOf(names, func(n string) { q.Stream = a.known.Streams[n] }, MarkOther, "stream ")
	case "at":
		return a.oneOf(a.known.Own, func(own string) { q.Account = own }, MarkOther, "at ")
	case "larger", "over":
		n := 1
		if a.at(1).Low == "than" {
			n = 2
		}
		size, words, means := Larger(a.at(n).Low, a.at(n+1).Low)
		if words == 0 {
			return false
		}
		q.Larger = size
		a.took(n+words, MarkOther, strings.TrimPrefix(means, "is "))
		return true
	case "in", "on", "during", "since", "after", "before", "until":
		return w.Low == "in" && (a.place() || a.language()) || a.time(w.Low)
	}
	return false
}

func join(list string, more []string) string {
	all := append(People(list), more...)
	return strings.Join(slices.Compact(all), ",")
}

// name are the words after the next one that name something: what stands between
// quotation marks, or up to three words before the next mark; the longest that ok takes.
func (a *asker) name(from int, ok func(string) bool) (n int) {
	if a.at(from).Quoted {
		if ok(a.at(from).Text) {
			return 1
		}
		return 0
	}
	var words []string
	for n := 0; n < 4; n++ {
		w := a.at(from + n)
		if w.Text == "" || w.Quoted || n > 0 && slices.Contains(marking, w.Low) {
			break
		}
		words = append(words, w.Text)
		if w.Comma {
			break
		}
	}
	for n := len(words); n > 0; n-- {
		if ok(strings.Join(words[:n], " ")) {
			return n
		}
	}
	return 0
}

// mostCalled is how many people one name stands for.
const mostCalled = 5

// person reads whom a message is from, or to: one, or several with "or" between.
func (a *asker) person(into *string, how string) bool {
	n := 1
	var means []string
	var who []string
	for {
		var people []mail.Address
		took := a.name(n, func(name string) bool {
			if utf8.RuneCountInString(name) < 2 || a.known.Find == nil {
				return false
			}
			people = a.known.Find(name)
			return len(people) > 0
		})
		if took == 0 {
			break
		}
		people = people[:min(len(people), mostCalled)]
		for _, p := range people {
			who = append(who, p.Address)
			if !slices.Contains(means, p.Short()) {
				means = append(means, p.Short())
			}
		}
		n += took
		if a.at(n).Low != "or" || a.at(n).Quoted {
			break
		}
		n++
	}
	if len(who) == 0 {
		return false
	}
	if a.at(n-1).Low == "or" && !a.at(n-1).Quoted { // nobody follows it
		n--
	}
	*into = join(*into, who)
	a.took(n, MarkPerson, how+strings.Join(means, " or "))
	return true
}

// toMe reads "to me".
func (a *asker) toMe() bool {
	if !a.is("to", "me") {
		return false
	}
	a.out.Query.To = join(a.out.Query.To, a.known.Own)
	a.took(2, MarkPerson, "to you")
	return true
}

// label reads the label that conversations have, by its path or the end of it.
func (a *asker) label() bool {
	var id int64
	var path string
	n := a.name(1, func(name string) bool {
		low := Fold(name)
		for p, l := range a.known.Labels {
			f := Fold(p)
			if f == low || strings.HasSuffix(f, "/"+low) || strings.HasSuffix(f, "/ "+low) {
				if path == "" || len(p) < len(path) || len(p) == len(path) && p < path {
					id, path = l, p
				}
			}
		}
		return path != ""
	})
	if n == 0 {
		return false
	}
	a.out.Query.Label = id
	a.took(n+1, MarkLabel, "label "+path)
	return true
}

// oneOf reads which of some things that have names is meant: by its name, or the
// beginning of it.
func (a *asker) oneOf(names []string, set func(string), kind MarkKind, how string) bool {
	slices.Sort(names)
	var is string
	n := a.name(1, func(name string) bool {
		low := Fold(name)
		i := slices.IndexFunc(names, func(s string) bool { return Fold(s) == low })
		if i < 0 {
			i = slices.IndexFunc(names, func(s string) bool { return strings.HasPrefix(Fold(s), low) })
		}
		if i >= 0 {
			is = names[i]
		}
		return i >= 0
	})
	if n == 0 {
		return false
	}
	set(is)
	a.took(n+1, kind, how+is)
	return true
}

// place reads where a conversation is, or in which texts the words are.
func (a *asker) place() bool {
	n := 1
	if a.at(1).Low == "the" {
		n = 2
	}
	p, isPlace := places[a.at(n).Low]
	kind, isText := texts[a.at(n).Low]
	if !isPlace && !isText || a.at(n).Quoted {
		return false
	}
	if isText {
		a.out.Query.Within = kind
	} else {
		a.out.Query.Place = p
	}
	a.took(n+1, MarkPlace, "in "+a.at(n).Low)
	return true
}

func (a *asker) language() bool {
	l, ok := Languages[a.at(1).Low]
	if !ok || a.at(1).Quoted {
		return false
	}
	a.out.Query.Language = l
	a.took(2, MarkOther, "in "+strings.ToUpper(a.at(1).Low[:1])+a.at(1).Low[1:])
	return true
}

// time reads when a message was written.
func (a *asker) time(how string) bool {
	var s when.Stretch
	n := a.name(1, func(phrase string) bool {
		s = a.known.Week.Lately(phrase, a.known.Now)
		return s != when.Stretch{}
	})
	if n == 0 {
		return false
	}
	q, loc := &a.out.Query, a.known.Week.Location()
	day := func(at when.Instant) string { return a.known.Week.Say(when.WholeDayOf(at.In(loc), loc), a.known.Now) }
	last := s.To - 1
	switch how {
	case "since":
		q.Since = s.From
		a.took(n+1, MarkTime, "since "+day(s.From))
	case "after":
		q.Since = s.To
		a.took(n+1, MarkTime, "after "+day(last))
	case "before", "until":
		q.Until = s.From
		if how == "until" {
			q.Until = s.To
			a.took(n+1, MarkTime, "until "+day(last))
			break
		}
		a.took(n+1, MarkTime, "before "+day(s.From))
	default:
		q.Since, q.Until = s.From, s.To
		if day(s.From) == day(last) {
			a.took(n+1, MarkTime, "on "+day(s.From))
			break
		}
		a.took(n+1, MarkTime, day(s.From)+" to "+day(last))
	}
	return true
}
