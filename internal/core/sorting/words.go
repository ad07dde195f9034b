package sorting

import (
	"cmp"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/say"
	"ebbe/internal/core/search"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
)

// A rule in words is one line: what it is about, a colon, what is done.
//
//	from quay@harbour.example with “permit”: label permits, follow up “Sign it” fri 10
//	newsletters or from @shop.example, but not with “invoice”: archive
//
// Before the colon stand conditions, all of which have to hold; "or" begins others, any
// of which will do; "but not" or "except" begins what it is not about. After it stand
// actions, with commas between.

// Side is which part of a rule a piece of its words belongs to.
type Side string

// The sides.
const (
	SideWhen   Side = "when"
	SideExcept Side = "except"
	SideThen   Side = "then"
)

// Piece is a piece of the words of a rule that was understood.
type Piece struct {
	From  int    `json:"from"` // where it stands, in bytes
	To    int    `json:"to"`
	Side  Side   `json:"side"`
	Or    bool   `json:"or,omitempty"` // it begins others, any of which will do
	Means string `json:"means"`
}

// Known is what the words of a rule can name.
type Known struct {
	Labels    map[string]int64 // by their paths
	Own       []string         // the reader's addresses
	People    []mail.Address   // who writes, those that matter first
	Lists     []string         // by their List-Id
	Saved     map[string]int64 // the saved lists, by their names
	Streams   delivery.Settings
	Combos    map[string]string // their IDs, by their names
	Templates map[string]int64  // by their names
	Team      map[string]int64  // the members of the team whose box it is, by their names; none of one's own box
	Week      when.Week
	Now       when.Instant
}

// Reading is a rule as its words were read: what was understood, and in a sentence
// what was not.
type Reading struct {
	Rule   Rule    `json:"rule"`
	Pieces []Piece `json:"pieces"`
	Doubt  string  `json:"doubt"`
}

// NewLabel is the step that labels with a label that does not exist yet: Text is its
// path, and there is no ID.
func NewLabel(s inbox.ComboStep) bool {
	return s.Kind == inbox.Label && len(s.Labels) == 0 && s.Text != ""
}

var forwardTo = regexp.MustCompile(`^[^\s<>@,;:"()]+@[^\s<>@,;:"()]+\.[^\s<>@,;:"()]+$`)

// halves cuts the words of a rule at the colon between what it is about and what is
// done: the first that no time of day has, outside of quotation marks.
func halves(text string) (about, done string, at int) {
	in := false
	for i, r := range text {
		if strings.ContainsRune(search.Quotes, r) {
			in = !in
		}
		if r == ':' && !in && (i+1 == len(text) || text[i+1] == ' ' || text[i+1] == '\n') {
			return text[:i], text[i+1:], i + 1
		}
	}
	return text, "", len(text)
}

// reader reads the words of a rule.
type reader struct {
	known Known
	out   Reading
	words []search.Word
	i     int
	q     search.Query
	side  Side
	or    bool // the next piece begins another condition
	begun bool // something of q was said
}

// ReadRule reads a rule in words. What is not understood is said, and the rest is read
// all the same. One that is too long is not read.
func ReadRule(text string, k Known) Reading {
	r := &reader{known: k, side: SideWhen, out: Reading{Pieces: []Piece{}, Rule: Rule{Words: strings.TrimSpace(text), When: []search.Query{}, Except: []search.Query{}, Then: []inbox.ComboStep{}, Mode: On}}}
	if len(text) > maxRuleWords {
		r.out.Rule.Words = ""
		r.doubt("That is too long for one rule: make two of it.")
		return r.out
	}
	about, done, at := halves(text)
	r.words = search.Cut(about, 0)
	for r.i < len(r.words) {
		r.condition()
	}
	r.close()
	r.actions(search.Cut(done, at))
	if r.out.Doubt == "" && strings.TrimSpace(text) != "" && len(r.out.Rule.Then) == 0 {
		r.doubt("Say after a colon what is to be done: “from harbour: label permits”.")
	}
	return r.out
}

func (r *reader) doubt(s string) {
	if r.out.Doubt == "" {
		r.out.Doubt = s
	}
}

func (r *reader) at(n int) search.Word {
	if r.i+n < len(r.words) {
		return r.words[r.i+n]
	}
	return search.Word{}
}

// is says that the next words are these.
func (r *reader) is(words ...string) bool {
	for n, w := range words {
		if x := r.at(n); x.Quoted || x.Low != w {
			return false
		}
	}
	return true
}

// close ends the condition that was being read.
func (r *reader) close() {
	if !r.begun {
		return
	}
	if r.side == SideExcept {
		r.out.Rule.Except = append(r.out.Rule.Except, r.q)
	} else {
		r.out.Rule.When = append(r.out.Rule.When, r.q)
	}
	r.q, r.begun = search.Query{}, false
}

// took notes a piece of n words.
func (r *reader) took(n int, means string) {
	last := r.words[r.i+n-1]
	r.out.Pieces = append(r.out.Pieces, Piece{From: r.words[r.i].From, To: last.To, Side: r.side, Or: r.or, Means: means})
	r.i, r.begun, r.or = r.i+n, true, false
}

// plain are conditions that are one word or a few.
var plain = append([]search.Phrase{
	search.Said("not important", func(q *search.Query) { q.Level = search.Low }, "is not important"),
	search.Said("unimportant", func(q *search.Query) { q.Level = search.Low }, "is not important"),
	search.Said("very important", func(q *search.Query) { q.Level = search.High }, "is very important"),
	search.Said("important", func(q *search.Query) { q.Level = search.High }, "is very important"),
	search.Said("copies", func(q *search.Query) { q.Reach = mail.Copied }, "is a copy for you"),
	search.Said("copied", func(q *search.Query) { q.Reach = mail.Copied }, "is a copy for you"),
	search.Said("from strangers", func(q *search.Query) { q.Stranger = true }, "is the first from its sender"),
	search.Said("from a stranger", func(q *search.Query) { q.Stranger = true }, "is the first from its sender"),
	search.Said("strangers", func(q *search.Query) { q.Stranger = true }, "is the first from its sender"),
	search.Said("newsletters", func(q *search.Query) { q.Kind = mail.List }, "is from a list"),
	search.Said("lists", func(q *search.Query) { q.Kind = mail.List }, "is from a list"),
	search.Said("notices", func(q *search.Query) { q.Kind = mail.Notice }, "is a notice"),
	search.Said("receipts", func(q *search.Query) { q.Kind = mail.Receipt }, "is a receipt"),
	search.Said("invitations", func(q *search.Query) { q.Kind = mail.Invitation }, "is an invitation"),
	search.Said("answers to me", func(q *search.Query) { q.Answers = true }, "answers you"),
	search.Said("answers", func(q *search.Query) { q.Answers = true }, "answers you"),
	search.Said("on weekends", func(q *search.Query) { q.Days = 1<<0 | 1<<6 }, "comes on a weekend"),
	search.Said("at weekends", func(q *search.Query) { q.Days = 1<<0 | 1<<6 }, "comes on a weekend"),
	search.Said("on workdays", func(q *search.Query) { q.Days = 0b0111110 }, "comes from Monday to Friday"),
}, search.Phrases...)

var daysNamed = map[string]int{"sunday": 0, "monday": 1, "tuesday": 2, "wednesday": 3, "thursday": 4, "friday": 5, "saturday": 6}

// condition reads one condition, or one word of none.
func (r *reader) condition() {
	w := r.at(0)
	for _, p := range plain {
		if r.is(p.Words...) {
			p.Set(&r.q)
			r.took(len(p.Words), p.Means)
			return
		}
	}
	switch {
	case r.is("or"):
		r.close()
		r.or = true
		r.i++
	case r.is("but", "not"), r.is("not", "when"):
		r.close()
		r.side, r.or = SideExcept, false
		r.i += 2
	case r.is("except"):
		r.close()
		r.side, r.or = SideExcept, false
		r.i++
	case r.is("from"), r.is("to"), r.is("list"):
		r.person(w.Low)
	case r.is("saved"), r.is("on", "saved"), r.is("on", "the", "saved"):
		r.saved()
	case r.is("stream"):
		name, n := r.named()
		stream, ok := r.known.stream(name)
		if !ok {
			r.doubt(r.noStream(name))
			r.i += max(n, 1)
			return
		}
		r.q.Stream = string(stream)
		r.took(n, "is in the stream “"+r.known.Streams.Name(stream)+"”")
	case r.is("subject"), r.is("with"), r.is("says"), r.is("saying"):
		r.said(w.Low)
	case r.is("larger", "than"), r.is("over"), r.is("more", "than"):
		r.larger()
	case r.is("in") && search.Languages[r.at(1).Low] != "":
		r.q.Language = search.Languages[r.at(1).Low]
		r.took(2, "is in "+strings.ToUpper(r.at(1).Low[:1])+r.at(1).Low[1:])
	case r.is("between"), r.is("after"), r.is("before"):
		r.hours(w.Low)
	case r.is("on"):
		r.days()
	case slices.Contains([]string{"and", "when", "a", "an", "the", "mail", "message", "messages", "that", "is", "are", "which", "if", "any", "all", "every"}, w.Low) && !w.Quoted:
		r.i++
	case w.Quoted:
		r.q.Words = strings.TrimSpace(r.q.Words + " " + w.Text)
		r.took(1, "says “"+w.Text+"” in subject or text")
	default:
		r.doubt(fmt.Sprintf("Ebbe does not understand “%s”. It knows “from”, “to me alone”, “with “words””, “subject”, “newsletters”, “with files”, “larger than”, “important”, “in german”, “on weekends”.", w.Text))
		r.i++
	}
}

// begins are the words with which another condition begins.
var begins = []string{"from", "to", "list", "subject", "with", "says", "saying", "larger", "over", "more", "in", "between", "after", "before", "on", "or", "but", "not", "except", "and", "important", "very",
	"newsletters", "notices", "receipts", "invitations", "answers", "strangers", "copies", "copied", "unimportant", "stream", "saved"}

// named are the words after the next one that name something: what stands between
// quotation marks, or all up to the next condition.
func (r *reader) named() (text string, n int) {
	if r.at(1).Quoted {
		return r.at(1).Text, 2
	}
	var words []string
	for n = 1; r.at(n).Text != ""; n++ {
		w := r.at(n)
		if n > 1 && (w.Quoted || slices.Contains(begins, w.Low)) {
			break
		}
		words = append(words, w.Text)
		if w.Comma {
			n++
			break
		}
	}
	return strings.Join(words, " "), n
}

// person reads whom a message is from, to which address of the reader's it is, or
// which list it is of.
func (r *reader) person(how string) {
	name, n := r.named()
	low := strings.ToLower(name)
	switch {
	case name == "":
		r.doubt(fmt.Sprintf("Say after “%s” whom you mean: an address, a domain or a name.", how))
		r.i++
	case how == "to":
		i := slices.IndexFunc(r.known.Own, func(a string) bool { return a == low || strings.HasPrefix(a, low) })
		if i < 0 {
			r.doubt(fmt.Sprintf("“%s” is no address of yours. Rules know mail to %s.", name, strings.Join(r.known.Own, ", ")))
			r.i += n
			return
		}
		r.q.Account = r.known.Own[i]
		r.took(n, "is to "+r.known.Own[i])
	case how == "list":
		i := slices.IndexFunc(r.known.Lists, func(l string) bool { return strings.Contains(l, low) })
		if i < 0 && !strings.Contains(low, ".") {
			r.doubt(fmt.Sprintf("Ebbe knows no list called “%s”. Write its name as its messages have it, such as letters.museum.example.", name))
			r.i += n
			return
		}
		r.q.List = low
		if i >= 0 {
			r.q.List = r.known.Lists[i]
		}
		r.took(n, "is of the list "+r.q.List)
	case strings.HasPrefix(low, "@"), !strings.ContainsAny(low, "@ ") && strings.Contains(low, "."):
		r.q.Domain = strings.TrimPrefix(low, "@")
		r.took(n, "is from anybody at "+r.q.Domain)
	case strings.Contains(low, "@") && !strings.Contains(low, " "):
		if !strings.Contains(low[strings.IndexByte(low, '@'):], ".") { // an address that is not whole: the first that begins so
			i := slices.IndexFunc(r.known.People, func(a mail.Address) bool { return strings.HasPrefix(a.Address, low) })
			if i >= 0 {
				low = r.known.People[i].Address
			}
		}
		r.q.From = low
		r.took(n, "is from "+low)
	default:
		called := search.Called(r.known.People, low)
		if len(called) == 0 {
			r.doubt(fmt.Sprintf("Ebbe knows nobody called “%s”. Write the address.", name))
			r.i += n
			return
		}
		a := called[0]
		r.q.From = a.Address
		r.took(n, "is from "+a.Short()+" ("+a.Address+")")
	}
}

// saved reads which saved list something is on.
func (r *reader) saved() {
	for !r.is("saved") {
		r.i++
	}
	if r.is("saved", "list") {
		r.i++
	}
	name, n := r.named()
	bare := func(name string) string { // what stands between quotation marks can have none
		return strings.Map(func(c rune) rune {
			if strings.ContainsRune(search.Quotes, c) {
				return -1
			}
			return c
		}, name)
	}
	for known, id := range r.known.Saved {
		if strings.EqualFold(bare(known), bare(name)) {
			r.q.Saved = id
			r.took(n, "is on the saved list “"+known+"”")
			return
		}
	}
	names := slices.Sorted(maps.Keys(r.known.Saved))
	if len(names) == 0 {
		r.doubt("You have no saved list yet. Save what is shown in Find, or in the inbox, as one.")
	} else {
		r.doubt(fmt.Sprintf("You have no saved list called “%s”. There are: %s.", name, strings.Join(names, ", ")))
	}
	r.i += max(n, 1)
}

// said reads which words a message or its subject has.
func (r *reader) said(how string) {
	text, n := r.named()
	if r.at(1).Low == "text" && r.at(2).Quoted { // with text “…”
		text, n = r.at(2).Text, 3
	}
	switch {
	case strings.TrimSpace(text) == "":
		r.doubt(fmt.Sprintf("Say after “%s” which words you mean.", how))
		r.i++
	case how == "subject":
		r.q.Subject = strings.TrimSpace(r.q.Subject + " " + text)
		r.took(n, "says “"+text+"” in its subject")
	default:
		r.q.Words = strings.TrimSpace(r.q.Words + " " + text)
		r.took(n, "says “"+text+"” in subject or text")
	}
}

// larger reads "larger than 5 mb".
func (r *reader) larger() {
	n := 1
	if r.is("larger", "than") || r.is("more", "than") {
		n = 2
	}
	size, words, means := search.Larger(r.at(n).Low, r.at(n+1).Low)
	if words == 0 {
		r.doubt("Say how large: “larger than 5 MB”.")
		r.i += min(n+1, len(r.words)-r.i)
		return
	}
	r.q.Larger = size
	r.took(n+words, means)
}

// hours reads "between 18 and 8", "after 18:30", "before 7".
func (r *reader) hours(how string) {
	a, ok := clockOf(r.at(1).Low)
	n, b := 2, 0
	if how == "between" {
		n = 4
		var also bool
		b, also = clockOf(r.at(3).Low)
		ok = ok && also && r.at(2).Low == "and"
	}
	if !ok {
		r.doubt("Say the hours as “between 18 and 8”, “after 18:30” or “before 7”.")
		r.i++
		return
	}
	switch how {
	case "between":
		r.q.Begin, r.q.End = a, b
	case "after":
		r.q.Begin, r.q.End = a, 24*60
	case "before":
		r.q.Begin, r.q.End = 0, a
	}
	r.took(n, fmt.Sprintf("comes between %s and %s", clock(r.q.Begin), clock(r.q.End)))
}

func clock(minutes int) string { return fmt.Sprintf("%d:%02d", minutes/60, minutes%60) }

func clockOf(s string) (int, bool) {
	h, m, _ := strings.Cut(strings.ReplaceAll(s, ".", ":"), ":")
	hours, err := strconv.Atoi(h)
	minutes := 0
	if err == nil && m != "" {
		minutes, err = strconv.Atoi(m)
	}
	return hours*60 + minutes, err == nil && hours >= 0 && minutes >= 0 && minutes < 60 && hours*60+minutes <= 24*60
}

// days reads "on sat, sun".
func (r *reader) days() {
	n, days := 1, 0
	var said []string
	for ; r.at(n).Text != ""; n++ {
		w := r.at(n).Low
		if w == "and" {
			continue
		}
		i := -1
		for name, d := range daysNamed {
			if len(w) >= 3 && (strings.HasPrefix(name, w) || name+"s" == w) {
				i = d
			}
		}
		if i < 0 {
			break
		}
		days |= 1 << i
		said = append(said, r.at(n).Text)
	}
	if days == 0 {
		r.doubt("Say the days as “on sat, sun” or “on weekends”.")
		r.i++
		return
	}
	r.q.Days = days
	r.took(n, "comes on "+strings.Join(said, ", "))
}

// actions reads what is to be done.
func (r *reader) actions(words []search.Word) {
	r.side, r.or = SideThen, false
	for from := 0; from < len(words); {
		to := from
		for to < len(words) && !words[to].Comma && !(to > from && (words[to].Low == "and" || words[to].Low == "then") && to+1 < len(words) && verb(words[to+1:])) {
			to++
		}
		last := to
		if to < len(words) && words[to].Comma {
			last = to + 1
		}
		r.words, r.i = words[from:last], 0
		if len(r.words) > 0 {
			r.action()
		}
		from = max(last, to+1)
		if to < len(words) && words[to].Comma {
			from = last
		}
	}
}

// stream is the stream of that name.
func (k Known) stream(name string) (delivery.Stream, bool) {
	low := strings.ToLower(strings.TrimSpace(name))
	switch low {
	case "":
		return "", false
	case "people":
		return delivery.StreamPeople, true
	case "newsletters", "notices", "machines":
		return delivery.StreamMachines, true
	}
	for _, s := range k.Streams.All() {
		if strings.ToLower(k.Streams.Name(s)) == low {
			return s, true
		}
	}
	return "", false
}

// giving is what gives something to whom of the team these words name; in a sentence what is wrong.
func (k Known) giving(to string) (s inbox.ComboStep, means, doubt string) {
	s.Kind = inbox.Give
	low := strings.ToLower(strings.TrimSpace(to))
	names := slices.Sorted(maps.Keys(k.Team))
	switch {
	case len(names) == 0:
		return s, "", "Only what is in the box of a team can be given: a rule of one’s own box gives nothing."
	case slices.Contains([]string{"in turn", "the next in turn", "next in turn", "whoever is next in turn"}, low):
		s.Text = string(together.NextInTurn)
		return s, "give it to the next in turn, if nobody has it", ""
	case slices.Contains([]string{"least to do", "by least to do", "whoever has least to do", "whoever has the least to do"}, low):
		s.Text = string(together.LeastToDo)
		return s, "give it to whoever has the least to do, if nobody has it", ""
	}
	var are []string
	for _, name := range names {
		first, _, _ := strings.Cut(name, " ")
		if strings.EqualFold(name, low) {
			are = []string{name}
			break
		}
		if strings.EqualFold(first, low) {
			are = append(are, name)
		}
	}
	if len(are) != 1 {
		return s, "", fmt.Sprintf("Say to whom it is to be given: to %s, “give in turn”, or “give to whoever has the least to do”.", say.List(names))
	}
	s.Ref = k.Team[are[0]]
	return s, "give it to " + are[0] + ", if nobody has it", ""
}

// noStream says that there is no stream of that name.
func (r *reader) noStream(name string) string {
	names := []string{"people", "newsletters"}
	for _, o := range r.known.Streams.Own {
		names = append(names, o.Name)
	}
	if strings.TrimSpace(name) == "" {
		return "Say which stream: “stream " + names[len(names)-1] + "”."
	}
	return fmt.Sprintf("There is no stream “%s”. There are: %s. Others are made under Delivery.", name, strings.Join(names, ", "))
}

// verbs begin an action.
var verbs = []string{"give", "hand", "run", "combo", "reply", "answer", "forward", "stream", "let", "notify", "tell", "label", "star", "archive", "bin", "delete", "junk", "snooze", "follow", "follow-up", "mark", "read", "unread"}

func verb(words []search.Word) bool { return !words[0].Quoted && slices.Contains(verbs, words[0].Low) }

// action reads one action out of r.words.
func (r *reader) action() {
	rest := func(n int) string {
		var out []string
		for _, w := range r.words[min(n, len(r.words)):] {
			if !w.Quoted {
				out = append(out, w.Text)
			}
		}
		return strings.Join(out, " ")
	}
	quoted := ""
	for _, w := range r.words {
		if w.Quoted {
			quoted = w.Text
		}
	}
	add := func(s inbox.ComboStep, means string) {
		r.out.Rule.Then = append(r.out.Rule.Then, s)
		r.took(len(r.words), means)
	}
	for r.is("and") || r.is("then") {
		r.words = r.words[1:]
	}
	switch {
	case len(r.words) == 0:
	case r.is("label"), r.is("label", "it"):
		path := cmp.Or(quoted, rest(1))
		if strings.TrimSpace(path) == "" {
			r.doubt("Say which label: “label permits”.")
			return
		}
		for name, id := range r.known.Labels {
			if strings.EqualFold(name, path) {
				add(inbox.ComboStep{Kind: inbox.Label, Labels: []int64{id}}, "label "+name)
				return
			}
		}
		add(inbox.ComboStep{Kind: inbox.Label, Text: path}, "label "+path+" (new)")
	case len(r.words) == 1 && r.is("star"):
		add(inbox.ComboStep{Kind: inbox.Star}, "star it")
	case len(r.words) == 1 && r.is("archive"):
		add(inbox.ComboStep{Kind: inbox.Archive}, "archive it")
	case len(r.words) == 1 && (r.is("bin") || r.is("delete")):
		add(inbox.ComboStep{Kind: inbox.ToBin}, "bin it")
	case r.is("stream"), r.is("into", "stream"), r.is("into", "the", "stream"):
		n := 1
		for !r.is("stream") && r.at(n-1).Low != "stream" {
			n++
		}
		name := cmp.Or(quoted, rest(n))
		stream, ok := r.known.stream(name)
		if !ok {
			r.doubt(r.noStream(name))
			return
		}
		add(inbox.ComboStep{Kind: inbox.ToStream, Stream: string(stream)}, "put it into the stream “"+r.known.Streams.Name(stream)+"”")
	case r.is("run"), r.is("combo"):
		n := 1
		if r.is("run", "combo") {
			n = 2
		}
		name := cmp.Or(quoted, rest(n))
		for known, id := range r.known.Combos {
			if strings.EqualFold(known, name) {
				add(inbox.ComboStep{Kind: inbox.Combo, Text: id}, "run the combo “"+known+"”")
				return
			}
		}
		r.doubt(fmt.Sprintf("There is no combo “%s” that asks, sends and starts nothing. Combos are made in Setup.", name))
	case r.is("reply"), r.is("answer"):
		n := 1
		if r.at(1).Low == "with" {
			n = 2
		}
		name := cmp.Or(quoted, rest(n))
		for known, id := range r.known.Templates {
			if strings.EqualFold(known, name) {
				add(inbox.ComboStep{Kind: inbox.ReplyWith, Ref: id}, "answer with “"+known+"”, each sender once a week")
				return
			}
		}
		r.doubt(fmt.Sprintf("There is no template “%s”. Templates are made while writing.", name))
	case r.is("forward"):
		n := 1
		if r.at(1).Low == "to" {
			n = 2
		}
		to := strings.ToLower(cmp.Or(quoted, rest(n)))
		switch {
		case slices.Contains(r.known.Own, to):
			r.doubt("That is an address of your own: what is forwarded there would come back.")
		case !forwardTo.MatchString(to):
			r.doubt("Say to whom it is to be forwarded, by their address: “forward to books@accounts.example”.")
		default:
			add(inbox.ComboStep{Kind: inbox.ForwardTo, Text: to}, "forward it to "+to)
		}
	case r.is("hand", "over"):
		n := 2
		if r.at(2).Low == "to" {
			n = 3
		}
		to, due := strings.ToLower(r.at(n).Text), ""
		if n < len(r.words) {
			due = rest(n + 1)
		}
		read := r.known.Week.Read(due, r.known.Now)
		switch {
		case slices.Contains(r.known.Own, to):
			r.doubt("That is an address of your own: what is handed over there would come back.")
		case !forwardTo.MatchString(to):
			r.doubt("Say to whom it is to be handed over, by their address, and until when: “hand over to books@accounts.example fri”.")
		case due != "" && read.Doubt != "" && read.Moment.IsZero():
			r.doubt(fmt.Sprintf("“%s” is no time that Ebbe can read: say until when an answer is to come, “hand over to %s fri”.", due, to))
		default:
			means := "forward it to " + to + " and wait for their answer"
			if due != "" {
				means += " until " + due
			}
			add(inbox.ComboStep{Kind: inbox.HandOver, Text: to, Phrase: due}, means)
		}
	case r.is("give"):
		n := 1
		for slices.Contains([]string{"it", "to"}, r.at(n).Low) && !r.at(n).Quoted {
			n++
		}
		s, means, doubt := r.known.giving(cmp.Or(quoted, rest(n)))
		if doubt != "" {
			r.doubt(doubt)
			return
		}
		add(s, means)
	case r.is("let", "through"), r.is("let", "it", "through"):
		add(inbox.ComboStep{Kind: inbox.PassThrough}, "let it through whatever the plan says")
	case len(r.words) == 1 && r.is("notify"), r.is("notify", "me"), r.is("tell", "me"):
		add(inbox.ComboStep{Kind: inbox.TellOf}, "notify as it comes in")
	case r.is("mark", "read"), len(r.words) == 1 && r.is("read"):
		add(inbox.ComboStep{Kind: inbox.MarkRead}, "mark it read")
	case r.is("snooze"):
		n := 1
		if r.is("snooze", "until") || r.is("snooze", "to") {
			n = 2
		}
		phrase := rest(n)
		if read := r.known.Week.Read(phrase, r.known.Now); phrase == "" || read.Doubt != "" && read.Moment.IsZero() && !read.Someday {
			r.doubt("Say until when: “snooze until mon 9”. " + read.Sentence)
			return
		}
		add(inbox.ComboStep{Kind: inbox.Snooze, Phrase: phrase}, "snooze it until "+phrase)
	case r.is("follow", "up"), r.is("follow-up"):
		n := 2
		if r.is("follow-up") {
			n = 1
		}
		phrase, means := rest(n), "make a follow-up"
		if read := r.known.Week.Read(phrase, r.known.Now); phrase != "" && read.Doubt != "" && read.Moment.IsZero() {
			r.doubt(fmt.Sprintf("“%s” is no time that Ebbe can read. Put a title between quotation marks: follow up “Sign it” fri 10.", phrase))
			return
		}
		if quoted != "" {
			means += " “" + quoted + "”"
		}
		if phrase != "" {
			means += ", due " + phrase
		}
		add(inbox.ComboStep{Kind: inbox.MakeFollowUp, Text: quoted, Phrase: phrase}, means)
	default:
		r.doubt(fmt.Sprintf("Ebbe cannot do “%s”. It can label, star, archive, bin, mark read, snooze until a time, follow up, put into a stream, let through, notify, run a combo, reply with a template, forward and hand over; in the box of a team, give.", strings.TrimSpace(rest(0)+" "+quoted)))
	}
}
