package followup

import (
	"cmp"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// PartKind is what a part of a line was recognised as.
type PartKind string

// The kinds of parts.
const (
	PartTitle    PartKind = "title"
	PartDue      PartKind = "due"
	PartStart    PartKind = "start"
	PartPriority PartKind = "priority"
	PartProject  PartKind = "project"
	PartContext  PartKind = "context"
	PartPerson   PartKind = "person"
	PartWait     PartKind = "wait"
	PartAsk      PartKind = "ask"
	PartStage    PartKind = "stage"
	PartLabel    PartKind = "label"
	PartRemind   PartKind = "remind"
	PartRepeat   PartKind = "repeat"
	PartEffort   PartKind = "effort"
	PartPercent  PartKind = "percent"
	PartNote     PartKind = "note"
)

// Part is a part of a line with what it was taken to mean.
type Part struct {
	Text  string   `json:"text"`
	Kind  PartKind `json:"kind"`
	Means string   `json:"means"`           // in words
	Wrong string   `json:"wrong,omitempty"` // a sentence, if it cannot be so
	New   bool     `json:"new,omitempty"`   // a project or context that is not known yet
	Loose bool     `json:"loose,omitempty"` // it stood in the title, without slashes: taken off, it is title again
}

// Labelled is a label with its whole name.
type Labelled struct {
	ID   int64
	Path string
}

// Known is what parts of a line can name.
type Known struct {
	Projects []string
	Contexts []string
	People   []mail.Address
	Stages   []Stage
	Labels   []Labelled
}

// Written is what a line says: the parts of a follow-up it names are set in
// FollowUp, the others are as they were.
type Written struct {
	FollowUp FollowUp `json:"followUp"`
	Parts    []Part   `json:"parts"`
	Offers   []Offer  `json:"offers"` // how the last part can be completed
}

// Offer is one way of completing the last part of a line.
type Offer struct {
	Text string   `json:"text"` // the whole line with it
	Name string   `json:"name"`
	Kind PartKind `json:"kind"`
	New  bool     `json:"new,omitempty"`
}

var (
	partMark    = regexp.MustCompile(`\s+/(?:\s+|$)|/\s+|\s+/`)
	remindPart  = regexp.MustCompile(`^(?:remind|reminder)(?:\s+me)?\s+(.+)$`)
	beforePart  = regexp.MustCompile(`^(?:(?:(\d{1,3})|a|an|one|the)\s+)?(day|days|d|week|weeks|w|hour|hours|h|min|minute|minutes|m|month|months)\s+(?:before|earlier|ahead)(?:\s+(start|due|it starts|it is due))?(?:\s+(?:at\s+)?(\d{1,2}(?:[:.]\d{2})?))?$`)
	gluedSpan   = regexp.MustCompile(`^(\d{1,3})\s*(d|w|h|min|m)\s+`)
	partBefore  = regexp.MustCompile(`^(?:on )?(?:the |that |the same )?(morning|afternoon|evening|day)(?: (before))?(?: (?:it )?(?:is )?(starts?|due))?(?:\s+(?:at\s+)?(\d{1,2}(?:[:.]\d{2})?))?$`)
	dayOfWeek   = regexp.MustCompile(`^(?:on )?(?:the )?([a-z]+) of (that week|the same week|the week before)(?:\s+(?:at\s+)?(\d{1,2}(?:[:.]\d{2})?))?$`)
	onPart      = regexp.MustCompile(`^(?:when|on|at)\s+(?:it\s+)?(?:is\s+)?(starts?|due)$`)
	effortPart  = regexp.MustCompile(`^(?:takes|effort|~|about)?\s*(?:(\d{1,3})(?:[.,](\d))?\s*(?:h|hours?)\s*(?:(\d{1,2})\s*(?:min|m)?)?|(\d{1,4})\s*(?:min|minutes?))$`)
	halfHour    = regexp.MustCompile(`^(?:takes|effort|~|about)\s*half an hour$`)
	percentPart = regexp.MustCompile(`^(\d{1,3})\s*%(?:\s+done)?$`)
	allOf       = regexp.MustCompile(`(?i)^(?:all of|both|all|each of)\s+`)
	whomSplit   = regexp.MustCompile(`(?i)\s*(?:,|&|\band\b|\bor\b)\s*`)
	waitPart    = regexp.MustCompile(`(?i)^(?:waits?|waiting)\s+(for\s+)?(.+)$`)
	askPart     = regexp.MustCompile(`^(?:ask|asks)\s+again\s+(.+)$`)
)

// prefix is words that say what the rest of a part is.
type prefix struct {
	words []string
	kind  PartKind
}

var prefixes = []prefix{
	{[]string{"project ", "in project "}, PartProject},
	{[]string{"with ", "person "}, PartPerson},
	{[]string{"label "}, PartLabel},
	{[]string{"stage "}, PartStage},
	{[]string{"due ", "by "}, PartDue},
	{[]string{"start ", "starts ", "from "}, PartStart},
	{[]string{"note "}, PartNote},
	{[]string{"priority "}, PartPriority},
	{[]string{"place ", "at ", "using ", "context "}, PartContext},
}

// ReadLine reads a line whose parts stand between slashes: "ring the piano mover
// / fri 10 / opening / urgent". Each part is recognised by what it is; what is
// not stays in the title. Without slashes too: what ends the title and says when,
// how often, how urgent or where is taken off it, but for the pieces off, which
// somebody wants to stay. f is what the line changes; a title of its own stays
// unless the line has one.
func ReadLine(line string, f FollowUp, known Known, w when.Week, now when.Instant, off ...string) Written {
	if len(line) > 2000 {
		line = strings.ToValidUTF8(line[:2000], "")
	}
	r := reader{f: f, known: known, w: w, now: now, proposed: f.Title != ""}
	for _, o := range off[:min(len(off), mostOff)] {
		r.off = append(r.off, strings.ToLower(o))
	}
	var parts []string
	for _, p := range partMark.Split(line, -1) {
		if p = strings.TrimSpace(p); p != "" {
			parts = append(parts, p)
		}
	}
	var title []string
	for i, p := range parts {
		if i > 0 || r.proposed {
			if part, ok := r.read(p); ok {
				r.parts = append(r.parts, part)
				continue
			}
			if several, ok := r.together(p); ok {
				r.parts = append(r.parts, several...)
				continue
			}
		}
		r.parts = append(r.parts, Part{Text: p, Kind: PartTitle, Means: p})
		title = append(title, p)
	}
	if len(title) > 0 && r.parts[0].Kind == PartTitle { // what stands between slashes is exact, and comes before
		rest, pieces := r.loose(title[0], false)
		r.parts = slices.Concat([]Part{{Text: rest, Kind: PartTitle, Means: rest}}, pieces, r.parts[1:])
		title[0] = rest
		for _, p := range pieces {
			if p.Kind == PartTitle {
				title[0] += " " + p.Text
			}
		}
	}
	if len(title) > 0 {
		r.f.Title = strings.Join(title, " / ")
	}
	if r.f.Repeat != nil && r.f.Due.IsZero() {
		if due, err := r.f.Repeat.FirstDue(w, now); err == nil {
			r.f.Due = due
		}
	}
	if r.parts == nil {
		r.parts = []Part{}
	}
	r.inOrder()
	return Written{FollowUp: r.f, Parts: r.parts, Offers: r.offers(line, len(parts))}
}

// inOrder reads a day by which what starts later is due as one after that start:
// “start mon due fri”. Of what would start after it is due all the same it says
// so.
func (r *reader) inOrder() {
	if r.f.Start.IsZero() || r.f.Due.IsZero() || r.f.Start.At <= r.f.Due.At {
		return
	}
	for i := range slices.Backward(r.parts) {
		p := &r.parts[i]
		if (p.Kind != PartStart && p.Kind != PartDue) || p.Wrong != "" {
			continue
		}
		if j := slices.IndexFunc(r.parts, func(p Part) bool { return p.Kind == PartDue }); j >= 0 {
			low, now := strings.ToLower(r.parts[j].Text), r.now
			first, rest, _ := strings.Cut(low, " ")
			if leading[first] {
				low = rest
			}
			was := r.f
			r.now = r.f.Start.At
			due, ok := r.timed(PartDue, low)
			r.now = now
			if ok && due.Wrong == "" && r.f.Due.At > r.f.Start.At {
				r.parts[j].Means = "due " + r.w.Say(r.f.Due, now)
				return
			}
			r.f = was
		}
		p.Wrong = "It would start " + r.w.Say(r.f.Start, r.now) + ", after it is due " + r.w.Say(r.f.Due, r.now) + ". Change one of them."
		return
	}
}

type reader struct {
	off   []string // pieces that stay in the title, in lower case
	f     FollowUp
	known Known
	w     when.Week
	now   when.Instant
	parts []Part

	proposed bool // there is a title already: the first part need not be one
}

// read recognises one part.
func (r *reader) read(text string) (Part, bool) {
	low := strings.ToLower(text)
	if atPlace.MatchString(low) {
		p, ok := r.place(text[1:], low[1:])
		p.Text = text
		return p, ok
	}
	for _, try := range []func(text, low string) (Part, bool){r.priority, r.remind, r.repeat, r.percent, r.wait, r.ask, r.named, r.prefixed, r.effort, r.time, r.person} {
		if p, ok := try(text, low); ok {
			p.Text = text
			return p, true
		}
	}
	return Part{}, false
}

func (r *reader) priority(_, low string) (Part, bool) {
	word := strings.TrimSpace(strings.NewReplacer("priority", "", "!", "").Replace(low))
	for _, p := range Priorities {
		if word == p.Name() {
			r.f.Priority = p
			return Part{Kind: PartPriority, Means: p.Name()}, true
		}
	}
	return Part{}, false
}

func (r *reader) remind(_, low string) (Part, bool) {
	m := remindPart.FindStringSubmatch(low)
	if m == nil {
		return Part{}, false
	}
	one, wrong := r.reminder(m[1])
	if wrong == "" {
		r.f.Reminders = append(slices.Clone(r.f.Reminders), one)
	}
	means := "reminds " + one.Say(r.w, r.now)
	if wrong != "" {
		means = ""
	}
	return Part{Kind: PartRemind, Means: means, Wrong: wrong}, true
}

func (r *reader) reminder(low string) (one Reminder, wrong string) {
	one, ok := ReadReminder(low, r.w, r.now)
	if !ok {
		return one, "Ebbe does not know “" + low + "” as a time to remind at. Try “1 day before at 10” or “fri 9”."
	}
	return one, ""
}

// ReadReminder reads when to remind: "1 day before at 10", "2 h before start", "the
// evening before", "monday of that week", "fri 9".
func ReadReminder(text string, w when.Week, now when.Instant) (Reminder, bool) {
	text = strings.ToLower(strings.TrimSpace(text))
	if m := gluedSpan.FindStringSubmatch(text); m != nil {
		text = m[1] + " " + m[2] + " " + text[len(m[0]):]
	}
	if m := onPart.FindStringSubmatch(text); m != nil {
		return Reminder{Of: map[bool]Anchor{true: OfDue, false: OfStart}[m[1] == "due"]}, true
	}
	if m := beforePart.FindStringSubmatch(text); m != nil {
		n := 1
		if m[1] != "" {
			n, _ = strconv.Atoi(m[1])
		}
		one := Reminder{Of: OfDue}
		if strings.Contains(m[3], "start") {
			one.Of = OfStart
		}
		switch m[2][0] {
		case 'd':
			one.Days = n
		case 'w':
			one.Days = 7 * n
		case 'h':
			one.Minutes = 60 * n
		default:
			one.Minutes = n
			if strings.HasPrefix(m[2], "month") {
				one.Days, one.Minutes = 30*n, 0
			}
		}
		if m[4] != "" {
			clock, ok := clockOf(m[4], 0)
			if !ok || one.Minutes != 0 {
				return one, false
			}
			one.Clock = clock
		}
		return one, true
	}
	for _, words := range w.InEnglish(text) {
		if one, ok := relative(words, w); ok {
			return one, true
		}
	}
	read := w.Read(text, now)
	if read.Moment.IsZero() || read.Doubt == when.Past {
		return Reminder{}, false
	}
	return Reminder{At: read.Moment}, true
}

// relative reads a reminder on another day by its name: "the evening before", "monday
// of that week at 9".
func relative(text string, w when.Week) (one Reminder, ok bool) {
	one.Of = OfDue
	if m := dayOfWeek.FindStringSubmatch(text); m != nil {
		d, known := when.WeekdayNamed(m[1])
		if one.Weekday = (int(d)+6)%7 + 1; !known {
			return one, false
		}
		if m[2] == "the week before" {
			one.Days = 7
		}
		one.Clock, ok = clockOf(m[3], w.Morning)
		return one, ok
	}
	m := partBefore.FindStringSubmatch(text)
	if m == nil || m[2] == "" && (m[1] == "day" || !strings.HasPrefix(text, "that ") && !strings.HasPrefix(text, "the same ")) {
		return one, false
	}
	if m[2] != "" {
		one.Days = 1
	}
	if strings.HasPrefix(m[3], "start") {
		one.Of = OfStart
	}
	one.Clock, ok = clockOf(m[4], map[string]int{"morning": w.Morning, "day": w.Morning, "afternoon": w.Midday, "evening": w.Evening}[m[1]])
	return one, ok
}

// clockOf reads a clock time such as "9" or "9:30"; else where none is written.
func clockOf(text string, or int) (*int, bool) {
	if text == "" {
		return &or, true
	}
	h, min, _ := strings.Cut(strings.Replace(text, ".", ":", 1), ":")
	hour, _ := strconv.Atoi(h)
	minute, _ := strconv.Atoi(min)
	clock := hour*60 + minute
	return &clock, hour < 24 && minute < 60
}

func (r *reader) repeat(text, _ string) (Part, bool) {
	read, known := r.w.ReadRule(text, r.now)
	if !known {
		return Part{}, false
	}
	if read.Wrong != "" {
		return Part{Kind: PartRepeat, Wrong: read.Wrong}, true
	}
	r.f.Repeat = &Repeat{Rule: read.Rule, FromDone: read.FromDone, DaysOff: read.DaysOff}
	p := Part{Kind: PartRepeat, Means: r.f.Repeat.Say(r.w)}
	if _, err := r.f.Repeat.FirstDue(r.w, r.now); err != nil {
		p.Wrong = "That cannot be repeated: " + err.Error() + "."
	}
	return p, true
}

// Say writes the recurrence as a person would.
func (r Repeat) Say(w when.Week) string {
	text := when.SayRule(r.Rule, w.Location())
	if r.FromDone {
		text += ", counted from when it is done"
	}
	if r.DaysOff {
		text += ", not on days off"
	}
	if n := len(r.Except); n > 0 {
		text += ", " + count(n, "day") + " left out"
	}
	return text
}

func (r *reader) percent(_, low string) (Part, bool) {
	m := percentPart.FindStringSubmatch(low)
	if m == nil {
		return Part{}, false
	}
	n, _ := strconv.Atoi(m[1])
	if n > 100 {
		return Part{Kind: PartPercent, Wrong: "More than all of it cannot be done."}, true
	}
	r.f.Percent = n
	return Part{Kind: PartPercent, Means: strconv.Itoa(n) + " % done"}, true
}

func (r *reader) wait(text, _ string) (Part, bool) {
	m := waitPart.FindStringSubmatch(text)
	if m == nil {
		return Part{}, false
	}
	whom, since, dated := strings.Cut(m[2], " since ")
	begun := r.now
	if dated {
		read := r.w.ReadIn(when.Field{Way: when.Back}, since, r.now)
		if read.Moment.IsZero() {
			return Part{Kind: PartWait, Wrong: read.Sentence}, true
		}
		begun = read.Moment.At
	}
	bare := allOf.ReplaceAllString(whom, "")
	all := bare != whom
	var people []mail.Address
	for _, name := range whomSplit.Split(bare, -1) {
		a, ok := r.find(name)
		if !ok && m[1] == "" { // “waiting list”
			return Part{}, false
		}
		if !ok {
			a = mail.Address{Name: strings.TrimSpace(name)}
		}
		if people = append(people, a); len(people) > MaxAlso+1 {
			return Part{Kind: PartWait, Wrong: fmt.Sprintf("At most %d people are waited for at once.", MaxAlso+1)}, true
		}
	}
	r.f.With, r.f.Waits.Also, r.f.Waits.All, r.f.Waits.Have = people[0], people[1:], all && len(people) > 1, nil
	if len(people) == 1 {
		r.f.Waits.Also = nil
	}
	if r.f.Waits.Since == 0 || dated {
		r.f.Waits.Since = begun
	}
	means := "waits for " + SayAwaited(r.f)
	if dated {
		means += " since " + r.w.Say(when.Moment{At: begun}, r.now)
	}
	return Part{Kind: PartWait, Means: means}, true
}

func (r *reader) ask(_, low string) (Part, bool) {
	m := askPart.FindStringSubmatch(low)
	if m == nil {
		return Part{}, false
	}
	read := r.w.ReadIn(when.Field{Rhythm: true}, m[1], r.now)
	if read.Moment.IsZero() || read.Doubt == when.Past {
		return Part{Kind: PartAsk, Wrong: "Ebbe does not know “" + m[1] + "” as a time to ask again, or as a rhythm such as “every 3 working days, twice”."}, true
	}
	r.f.Waits.Ask, r.f.Waits.Rhythm, r.f.Waits.Asked = read.Moment, read.Rhythm, 0
	means := "ask again " + r.w.Say(read.Moment, r.now)
	if read.Rhythm != nil {
		means = "ask again " + read.Sentence
	}
	return Part{Kind: PartAsk, Means: means}, true
}

// named finds a project, context, stage or label called just so, or the only
// one that begins so.
func (r *reader) named(_, low string) (Part, bool) {
	for _, k := range []PartKind{PartProject, PartStage, PartContext, PartLabel} {
		if p, ok := r.name(k, low, true); ok {
			return p, true
		}
	}
	if len([]rune(low)) < 3 || r.w.Read(low, r.now).Doubt != when.Unclear {
		return Part{}, false
	}
	for _, k := range []PartKind{PartProject, PartStage, PartContext, PartLabel} {
		if p, ok := r.name(k, low, false); ok {
			return p, true
		}
	}
	return Part{}, false
}

// names lists what a kind of part can name.
func (r *reader) names(k PartKind) (names []string) {
	switch k {
	case PartProject:
		return r.known.Projects
	case PartContext:
		return r.known.Contexts
	case PartStage:
		for _, s := range r.known.Stages {
			names = append(names, s.Name)
		}
	case PartLabel:
		for _, l := range r.known.Labels {
			names = append(names, l.Path)
		}
	}
	return names
}

// name takes the name of that kind, whole or, if there is only one, begun.
func (r *reader) name(k PartKind, low string, whole bool) (Part, bool) {
	found := -1
	for i, n := range r.names(k) {
		n = strings.ToLower(n)
		if n == low || !whole && strings.HasPrefix(n, low) {
			if found >= 0 {
				return Part{}, false
			}
			found = i
		}
	}
	if found < 0 {
		return Part{}, false
	}
	means := r.names(k)[found]
	switch k {
	case PartProject:
		r.f.Project = means
	case PartContext:
		r.f.Context = means
	case PartStage:
		r.f.Stage = r.known.Stages[found].ID
	case PartLabel:
		r.f.Labels = append(slices.Clone(r.f.Labels), r.known.Labels[found].ID)
	}
	return Part{Kind: k, Means: means}, true
}

func (r *reader) prefixed(text, low string) (Part, bool) {
	for _, p := range prefixes {
		for _, word := range p.words {
			rest, ok := strings.CutPrefix(low, word)
			if rest = strings.TrimSpace(rest); !ok || rest == "" {
				continue
			}
			said := strings.TrimSpace(text[len(text)-len(rest):])
			if part, ok := r.as(p.kind, said, rest, word); ok {
				return part, true
			}
		}
	}
	return Part{}, false
}

// as reads a part whose kind was said.
func (r *reader) as(k PartKind, said, low, word string) (Part, bool) {
	switch k {
	case PartProject, PartContext:
		if word == "at " && r.w.Read(low, r.now).Doubt != when.Unclear {
			return Part{}, false
		}
		if k == PartContext {
			said = strings.TrimPrefix(said, "the ")
			low = strings.TrimPrefix(low, "the ")
		}
		if p, ok := r.name(k, low, true); ok {
			return p, true
		}
		if len(said) > MaxName {
			return Part{Kind: k, Wrong: "That name is too long."}, true
		}
		if k == PartProject {
			r.f.Project = said
		} else {
			r.f.Context = said
		}
		return Part{Kind: k, Means: said, New: true}, true
	case PartPerson:
		if a, ok := r.find(low); ok {
			r.f.With = a
			return Part{Kind: k, Means: a.Short()}, true
		}
		r.f.With = mail.Address{Name: said}
		return Part{Kind: k, Means: said, New: true}, true
	case PartLabel, PartStage:
		if p, ok := r.name(k, low, true); ok {
			return p, true
		}
		if p, ok := r.name(k, low, false); ok {
			return p, true
		}
		return Part{Kind: k, Wrong: "There is no " + string(k) + " called “" + said + "”."}, true
	case PartNote:
		r.f.Notes = strings.TrimSpace(r.f.Notes + "\n" + said)
		return Part{Kind: k, Means: said}, true
	case PartPriority:
		return r.priority(said, low)
	}
	p, ok := r.timed(k, low)
	if word == "due " && !ok { // “by the river” is no time, but this was meant as one
		return Part{Kind: k, Wrong: cmp.Or(r.w.Read(low, r.now).Sentence, "Ebbe does not know “"+said+"” as a time.")}, true
	}
	return p, ok
}

func (r *reader) effort(_, low string) (Part, bool) {
	minutes := 0
	if m := effortPart.FindStringSubmatch(low); m != nil {
		h, _ := strconv.Atoi(m[1])
		tenths, _ := strconv.Atoi(m[2])
		a, _ := strconv.Atoi(m[3])
		b, _ := strconv.Atoi(m[4])
		minutes = h*60 + tenths*6 + a + b
	} else if halfHour.MatchString(low) {
		minutes = 30
	}
	if minutes == 0 {
		return Part{}, false
	}
	r.f.Effort = minutes
	return Part{Kind: PartEffort, Means: "takes " + SayMinutes(minutes)}, true
}

func (r *reader) time(_, low string) (Part, bool) {
	if r.w.Read(low, r.now).Doubt == when.Unclear {
		return Part{}, false
	}
	return r.timed(PartDue, low)
}

// timed reads a due or start time.
func (r *reader) timed(k PartKind, low string) (Part, bool) {
	read := r.w.Read(low, r.now)
	m := read.Moment
	if m.IsZero() {
		return Part{}, false
	}
	if !read.Timed && m.Local != "" {
		m = m.Day(r.w.Location())
		if strings.HasPrefix(low, "today") || strings.HasSuffix(low, "today") {
			m, read.Doubt = when.WholeDayOf(r.now.In(r.w.Location()), r.w.Location()), ""
		}
	}
	if k == PartStart {
		r.f.Start = m
		return Part{Kind: k, Means: "starts " + r.w.Say(m, r.now), Wrong: doubt(read)}, true
	}
	r.f.Due = m
	return Part{Kind: k, Means: "due " + r.w.Say(m, r.now), Wrong: doubt(read)}, true
}

// doubt is a reading's sentence, if it was not simply taken at its word.
func doubt(read when.Reading) string {
	if read.Doubt == "" {
		return ""
	}
	return read.Sentence
}

func (r *reader) person(_, low string) (Part, bool) {
	a, ok := r.find(low)
	if !ok || len([]rune(low)) < 3 {
		return Part{}, false
	}
	r.f.With = a
	return Part{Kind: PartPerson, Means: a.Short()}, true
}

// find finds somebody by a whole name, a first name that only one has, or an
// address.
func (r *reader) find(low string) (mail.Address, bool) {
	low = strings.ToLower(strings.TrimSpace(low))
	var first []mail.Address
	for _, a := range r.known.People {
		name := strings.ToLower(a.Name)
		switch {
		case name == low || a.Address == low:
			return a, true
		case slices.Contains(strings.Fields(name), low):
			first = append(first, a)
		}
	}
	if len(first) > 0 && (len(first) == 1 || strings.EqualFold(first[0].Name, first[1].Name)) {
		return first[0], true
	}
	return mail.Address{}, false
}

// offers are the ways in which the last part of the line can be completed.
func (r *reader) offers(line string, parts int) []Offer {
	out := []Offer{}
	at := 0
	for _, m := range partMark.FindAllStringIndex(line, -1) {
		at = m[1]
	}
	add := func(k PartKind, name, text string, fresh bool) {
		if len(out) < 6 {
			out = append(out, Offer{Text: line[:at] + text, Name: name, Kind: k, New: fresh})
		}
	}
	if i := strings.LastIndexFunc(line, unicode.IsSpace) + 1; strings.HasPrefix(line[i:], "@") && (i > 0 || r.proposed) { // “@gal”, which needs no slash
		at = i
		low := strings.ToLower(line[i+1:])
		for _, n := range r.known.Contexts {
			if l := strings.ToLower(n); strings.HasPrefix(l, low) && l != low && len(strings.Fields(n)) == 1 {
				add(PartContext, n, "@"+n, false)
			}
		}
		return out
	}
	last := strings.TrimSpace(line[at:])
	if last == "" || parts < 1 || at == 0 && !r.proposed {
		return out
	}
	low := strings.ToLower(last)
	for _, p := range append(slices.Clone(prefixes), prefix{[]string{"waits for ", "waiting for ", "waiting "}, PartPerson}) {
		for _, w := range p.words {
			rest, ok := strings.CutPrefix(low, w)
			if rest = strings.TrimSpace(rest); !ok || rest == "" {
				continue
			}
			names := r.names(p.kind)
			if p.kind == PartPerson {
				for _, a := range r.known.People {
					names = append(names, a.Name)
				}
			}
			for _, n := range names {
				if l := strings.ToLower(n); strings.HasPrefix(l, rest) && l != rest {
					add(p.kind, n, w+n, false)
				}
			}
		}
	}
	for _, k := range []PartKind{PartProject, PartStage, PartContext, PartLabel} {
		for _, n := range r.names(k) {
			if l := strings.ToLower(n); strings.HasPrefix(l, low) && l != low {
				add(k, n, n, false)
			}
		}
	}
	for _, p := range Priorities {
		if strings.HasPrefix(p.Name(), low) && p.Name() != low {
			add(PartPriority, p.Name(), p.Name(), false)
		}
	}
	for _, word := range []string{"remind 1 day before", "every week", "every month", "every workday", "takes 30 min", "waits for ", "ask again ", "start ", "note ", "label ", "project "} {
		if strings.HasPrefix(word, low) && word != low && len(low) > 1 {
			add(PartTitle, strings.TrimSpace(word)+map[bool]string{true: " …"}[strings.HasSuffix(word, " ")], word, false)
		}
	}
	for _, a := range r.known.People {
		for _, word := range append(strings.Fields(strings.ToLower(a.Name)), strings.ToLower(a.Name), a.Address) {
			if strings.HasPrefix(word, low) && a.Name != last {
				add(PartPerson, a.Short(), a.Short(), false)
				break
			}
		}
	}
	if n := len(r.parts); (at > 0 || r.proposed) && n > 0 && r.parts[n-1].Kind == PartTitle && len(last) <= MaxName {
		add(PartProject, last, "project "+last, true)
	}
	return out
}
