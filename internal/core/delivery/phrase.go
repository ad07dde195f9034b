package delivery

import (
	"cmp"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"
)

// Clock writes a minute after midnight as 9:00; midnight at the end is 24:00.
func Clock(minute int) string { return fmt.Sprintf("%d:%02d", minute/60, minute%60) }

// String writes the span as 8:00–10:00.
func (s Span) String() string { return Clock(s.From) + "–" + Clock(s.To) }

// String writes the block as writing 10:30–12:00.
func (b Block) String() string { return b.Name + " " + b.Span.String() }

// String writes the day so that ReadDay gives it back: "9:00, 14:00, open
// 8:00–10:00, quiet 18:00–24:00, writing 10:30–12:00".
func (d Day) String() string {
	var parts []string
	rest := d
	switch {
	case slices.Equal(d.Open, []Span{{0, EndOfDay}}):
		parts, rest.Open = append(parts, "open"), nil
	case len(d.Open) == 0 && len(d.Rounds) == 0:
		parts = append(parts, "shut")
	}
	for _, r := range rest.Rounds {
		parts = append(parts, Clock(r))
	}
	for _, s := range rest.Open {
		parts = append(parts, "open "+s.String())
	}
	for _, s := range rest.Quiet {
		parts = append(parts, "quiet "+s.String())
	}
	for _, b := range rest.Focus {
		parts = append(parts, b.String())
	}
	return strings.Join(parts, ", ")
}

// Line is what a typed line draws, and on which days.
type Line struct {
	Days  []time.Weekday
	Day   Day
	Clear bool // what was there goes
}

var (
	times     = `(\d{1,2})(?:[:.](\d{2}))?\s*(am|pm)?|noon|midnight`
	timeForm  = regexp.MustCompile(`(?i)^(?:` + times + `)$`)
	spanForm  = regexp.MustCompile(`(?i)^(.*?)\s*\b((?:\d{1,2}(?:[:.]\d{2})?\s*(?:am|pm)?)|noon|midnight)\s*(?:-|–|—|to|until|till)\s*((?:\d{1,2}(?:[:.]\d{2})?\s*(?:am|pm)?)|noon|midnight)\s*(.*)$`)
	sideForm  = regexp.MustCompile(`(?i)^(.*?)\s*\b(before|until|till|after|from)\s+(\S+(?:\s*[ap]m)?)\s*(.*)$`)
	separator = regexp.MustCompile(`(?i)[,;\n]+|\band\b`)
	dayRange  = regexp.MustCompile(`(?i)^(\pL+)\s*(?:-|–|—|to)\s*(\pL+)$`)
	rounds    = regexp.MustCompile(`(?i)^(?:(?:a )?rounds? )?(?:at )?`)
	focus     = regexp.MustCompile(`(?i)^(?:focus|block)\b\s*`)
	leadIn    = regexp.MustCompile(`(?i)\s*\b(?:from|between)$`)
	dayNames  = map[string]time.Weekday{}
)

func init() {
	for d := time.Sunday; d <= time.Saturday; d++ {
		name := strings.ToLower(d.String())
		for n := 2; n <= len(name); n++ {
			dayNames[name[:n]] = d
		}
		dayNames[name+"s"] = d
	}
}

// ErrLine says what a typed line has to look like.
var ErrLine = errors.New("write times such as “9, 14, 16:30”, and “open 8–10”, “quiet after 18” or “writing 10–12”")

// ReadLine reads a line such as "mon–fri 9, 14, 16:30" or "weekends quiet".
// Without days it is about every day. works are the working days.
func ReadLine(text string, works []time.Weekday) (l Line, err error) {
	rest := strings.Join(strings.Fields(text), " ")
	for rest != "" {
		head, tail := cutDay(rest)
		days := daysOf(strings.ToLower(head), works)
		if days == nil {
			break
		}
		l.Days = append(l.Days, days...)
		rest = strings.TrimLeft(tail, " ,:&")
		rest = strings.TrimPrefix(rest, "and ")
	}
	front := len(l.Days) > 0
	for { // "open 9–12 mon wed"
		head, days := daysAtEnd(rest, works)
		if days == nil {
			break
		}
		if front {
			return l, fmt.Errorf("that names days twice: before “%s” and behind it. Write them once", head)
		}
		l.Days, rest = append(l.Days, days...), head
	}
	if len(l.Days) == 0 {
		l.Days = []time.Weekday{0, 1, 2, 3, 4, 5, 6}
	}
	slices.Sort(l.Days)
	l.Days = slices.Compact(l.Days)
	if rest == "" {
		return l, ErrLine
	}
	word := strings.ToLower(rest)
	l.Clear = word == "clear" || word == "nothing" || strings.HasPrefix(word, "shut") || word == "open" || word == "quiet"
	if l.Day, err = ReadDay(rest); err == nil {
		err = l.Day.contradicts(nothing.MatchString(rest))
	}
	return l, err
}

var nothing = regexp.MustCompile(`(?i)(?:^|[\s,])(?:shut|clear|nothing)(?:$|[\s,])`)

// contradicts says what of a typed day cannot be at once, or nil; shut says that nothing
// is to come in. What is drawn over one another is only doubted (Plan.Doubts).
func (d Day) contradicts(shut bool) error {
	for _, o := range d.Open {
		for _, q := range d.Quiet {
			if o.overlaps(q) && o != (Span{0, EndOfDay}) {
				return fmt.Errorf("that says both open %s and quiet %s: they cannot be at once", o, q)
			}
		}
	}
	if shut && len(d.Open)+len(d.Rounds) > 0 {
		return errors.New("that says that nothing comes in, and when it comes in: write one of them")
	}
	return nil
}

// daysAtEnd takes what names days off the end: a word, or two with a dash, and what
// stands before it.
func daysAtEnd(text string, works []time.Weekday) (head string, days []time.Weekday) {
	for _, form := range []*regexp.Regexp{dayBack, wordBack} {
		if m := form.FindStringSubmatch(text); m != nil && m[1] != "" {
			if days := daysOf(strings.ToLower(m[2]), works); days != nil {
				return strings.TrimRight(andBack.ReplaceAllString(m[1], ""), " ,:&"), days
			}
		}
	}
	return text, nil
}

// String says what the line draws: "Mon, Wed: open 9:00–12:00".
func (l Line) String() string {
	names := make([]string, len(l.Days))
	for i, d := range l.Days {
		names[i] = d.String()[:3]
	}
	days := strings.Join(names, ", ")
	if len(l.Days) == 7 {
		days = "Every day"
	}
	return days + ": " + l.Day.String()
}

// cutDay takes what may name days off the front: a word, or two with a dash.
func cutDay(text string) (head, tail string) {
	for _, form := range []*regexp.Regexp{dayFront, wordFront} {
		if m := form.FindString(text); m != "" {
			return strings.TrimSpace(m), text[len(m):]
		}
	}
	return "", text
}

var (
	dayFront  = regexp.MustCompile(`(?i)^(?:\pL+\s*(?:-|–|—|to)\s*\pL+|every day|working days?)`)
	wordFront = regexp.MustCompile(`^\pL+`)
	dayBack   = regexp.MustCompile(`(?i)^(.*\d.*?|.*\b(?:open|quiet|shut|noon|midnight)\b.*?)[\s,:]+(?:on )?(\pL+\s*(?:-|–|—|to)\s*\pL+|every day|working days?)$`)
	wordBack  = regexp.MustCompile(`(?i)^(.*\d.*?|.*\b(?:open|quiet|shut|noon|midnight)\b.*?)[\s,:]+(?:on )?(\pL+)$`)
	andBack   = regexp.MustCompile(`(?i)[\s,]+(?:and|on)$`)
)

func daysOf(name string, works []time.Weekday) (days []time.Weekday) {
	all := []time.Weekday{0, 1, 2, 3, 4, 5, 6}
	switch name {
	case "every day", "daily", "always":
		return all
	case "weekdays", "weekday", "working day", "working days", "workdays":
		return slices.Clone(works)
	case "weekend", "weekends":
		return slices.DeleteFunc(all, func(d time.Weekday) bool { return slices.Contains(works, d) })
	}
	if d, ok := dayNames[name]; ok {
		return []time.Weekday{d}
	}
	if m := dayRange.FindStringSubmatch(name); m != nil {
		from, ok1 := dayNames[m[1]]
		to, ok2 := dayNames[m[2]]
		for d := from; ok1 && ok2; d = (d + 1) % 7 {
			days = append(days, d)
			if d == to {
				break
			}
		}
	}
	return days
}

// ReadDay reads what is to happen on one day. Quiet hours or blocks on a day
// that has neither open hours nor rounds mean that mail flows otherwise; "shut"
// says that it does not.
func ReadDay(text string) (d Day, err error) {
	last, shut := "", false
	for _, part := range separator.Split(text, -1) {
		part = strings.Join(strings.Fields(part), " ")
		part = rounds.ReplaceAllString(part, "")
		switch strings.ToLower(part) {
		case "":
			continue
		case "open", "open all day":
			d.Open = append(d.Open, Span{0, EndOfDay})
			continue
		case "quiet", "quiet all day":
			d.Quiet, shut = append(d.Quiet, Span{0, EndOfDay}), true
			continue
		case "shut", "clear", "nothing":
			shut = true
			continue
		}
		if m, ok := minute(part); ok && m < EndOfDay {
			d.Rounds = append(d.Rounds, m)
			continue
		}
		word, spans, ok := spansOf(part)
		if !ok {
			return d, fmt.Errorf("“%s” is not understood: %w", part, ErrLine)
		}
		if word == "" {
			word = last
		}
		if day := dayIn(word); day != "" {
			return d, fmt.Errorf("“%s” names a day in the middle: write the days first, as in “%s open 9–12”", part, day)
		}
		overnight := len(spans) == 2
		if overnight && strings.ToLower(word) != "quiet" {
			return d, fmt.Errorf("%s ends before it begins: write %s if it is meant the other way round, or two spans if it goes on after midnight", part, Span{spans[0].To, spans[1].From})
		}
		switch last = word; strings.ToLower(word) {
		case "":
			return d, fmt.Errorf("say what %s is: open, quiet, or what you keep it for, as in “writing 10–12”", part)
		case "open":
			d.Open = append(d.Open, spans...)
		case "quiet":
			d.Quiet = append(d.Quiet, spans...)
		default:
			if len(word) > maxName {
				return d, errors.New("the name of a block is too long")
			}
			if name := focus.ReplaceAllString(word, ""); name != "" {
				word = name
			}
			for _, s := range spans {
				d.Focus = append(d.Focus, Block{s, word})
			}
		}
	}
	if !shut && len(d.Open) == 0 && len(d.Rounds) == 0 && len(d.Quiet)+len(d.Focus) > 0 {
		d.Open = []Span{{0, EndOfDay}}
	}
	return d.tidy(), nil
}

// dayIn is the name of a weekday among the words; empty if there is none.
func dayIn(words string) string {
	for _, w := range strings.Fields(strings.ToLower(words)) {
		if _, ok := dayNames[w]; ok && len(w) > 2 {
			return w
		}
	}
	return ""
}

// spansOf reads "quiet 18-8" or "after 18 quiet": the word, and the one or two
// spans of a day.
func spansOf(part string) (word string, spans []Span, ok bool) {
	var from, to int
	var m []string
	if m = spanForm.FindStringSubmatch(part); m != nil {
		var ok1, ok2 bool
		from, ok1 = minute(m[2])
		to, ok2 = minute(m[3])
		if !ok1 || !ok2 {
			return "", nil, false
		}
		if to == 0 {
			to = EndOfDay
		}
	} else if m = sideForm.FindStringSubmatch(part); m != nil {
		at, ok1 := minute(m[3])
		if !ok1 {
			return "", nil, false
		}
		if from, to = at, EndOfDay; m[2] != "after" && m[2] != "from" {
			from, to = 0, at
		}
	} else {
		return "", nil, false
	}
	word = strings.TrimSpace(leadIn.ReplaceAllString(m[1], "") + " " + m[4])
	switch {
	case from == to:
		return word, nil, false
	case from > to: // over midnight
		return word, []Span{{0, to}, {from, EndOfDay}}, true
	}
	return word, []Span{{from, to}}, true
}

// minute reads a time of day; 24 is the end of the day.
func minute(text string) (int, bool) {
	text = strings.ToLower(strings.TrimSpace(text))
	m := timeForm.FindStringSubmatch(text)
	switch {
	case m == nil:
		return 0, false
	case text == "noon":
		return 12 * 60, true
	case text == "midnight":
		return 0, true
	}
	h, _ := strconv.Atoi(m[1])
	min, _ := strconv.Atoi(m[2])
	if m[3] != "" {
		if h < 1 || h > 12 {
			return 0, false
		}
		h %= 12
		if m[3] == "pm" {
			h += 12
		}
	}
	at := h*60 + min
	return at, min < 60 && at <= EndOfDay
}

// tidy puts the parts of the day in order, joins spans that touch, and leaves
// out what is said twice.
func (d Day) tidy() Day {
	d.Open, d.Quiet = join(d.Open), join(d.Quiet)
	d.Rounds = slices.Compact(slices.Sorted(slices.Values(d.Rounds)))
	d.Focus = slices.Clone(d.Focus)
	for i := range d.Focus {
		d.Focus[i].Name = cmp.Or(strings.Join(strings.Fields(d.Focus[i].Name), " "), "focus")
	}
	slices.SortStableFunc(d.Focus, func(a, b Block) int { return cmp.Or(a.From-b.From, a.To-b.To, strings.Compare(a.Name, b.Name)) })
	d.Focus = slices.Compact(d.Focus)
	if d.Focus == nil {
		d.Focus = []Block{}
	}
	if d.Rounds == nil {
		d.Rounds = []int{}
	}
	return d
}

func join(spans []Span) []Span {
	out := []Span{}
	spans = slices.Clone(spans)
	slices.SortFunc(spans, func(a, b Span) int { return cmp.Or(a.From-b.From, a.To-b.To) })
	for _, s := range spans {
		if n := len(out); n > 0 && s.From <= out[n-1].To {
			out[n-1].To = max(out[n-1].To, s.To)
			continue
		}
		out = append(out, s)
	}
	return out
}

// On draws the line on the days of a stream. Rounds that are typed take the
// place of those that were there; hours are added.
func (l Line) On(days []Day) []Day {
	out := slices.Clone(days)
	for _, w := range l.Days {
		if l.Clear {
			out[w] = l.Day.tidy()
			continue
		}
		d := out[w]
		if len(l.Day.Rounds) > 0 {
			d.Rounds = l.Day.Rounds
		}
		blank := len(d.Open) == 0 && len(d.Rounds) == 0 && len(d.Quiet)+len(d.Focus) == 0
		if blank || !slices.Equal(l.Day.Open, []Span{{0, EndOfDay}}) { // quiet hours alone open nothing that is planned
			d.Open = slices.Concat(d.Open, l.Day.Open)
		}
		d.Quiet = slices.Concat(d.Quiet, l.Day.Quiet)
		d.Focus = slices.Concat(d.Focus, l.Day.Focus)
		out[w] = d.tidy()
	}
	return out
}

// Tidy gives the plan with its days in order.
func (p Plan) Tidy() Plan {
	tidy := func(days []Day) []Day {
		days = slices.Clone(days)
		for i, d := range days {
			days[i] = d.tidy()
		}
		return days
	}
	p.People, p.Machines, p.Own = tidy(p.People), tidy(p.Machines), tidyOwn(p.Own, tidy)
	p.Name, p.Contact, p.Answer = strings.TrimSpace(p.Name), strings.TrimSpace(p.Contact), strings.TrimSpace(p.Answer)
	return p
}

// Offered is a plan to start from.
type Offered struct {
	Plan `tstype:",extends"`
	Says string `json:"says"` // what it does, in a sentence
}

// Offers are plans to start from, made of the working days and of when the
// morning and the evening begin, in minutes after midnight.
func Offers(works []time.Weekday, morning, evening int) (out []Offered) {
	offer := func(id, name, says string, lines [2][]string) {
		o := Offered{Plan{ID: id, Name: name, Away: id == "away"}, says}
		for i, days := range []*[]Day{&o.People, &o.Machines} {
			*days = make([]Day, 7)
			for d := range *days {
				(*days)[d] = Day{}.tidy()
			}
			for _, text := range lines[i] {
				if l, err := ReadLine(text, works); err == nil {
					*days = l.On(*days)
				}
			}
		}
		out = append(out, o)
	}
	late := Clock(evening)
	offer("three-rounds", "Three rounds", "People at 9:00, 14:00 and 16:30 on working days; newsletters and notices once, at 16:30.",
		[2][]string{{"working days 9, 14, 16:30"}, {"working days 16:30"}})
	offer("calm-morning", "A calm morning", "Nothing before noon; then mail flows until the evening. Newsletters come at noon.",
		[2][]string{{"working days open 12:00–" + late}, {"working days 12:00"}})
	offer("free-evening", "A free evening", "Mail flows from the morning to the evening of working days, and then no more until the next.",
		[2][]string{{"working days open " + Clock(morning) + "–" + late, "weekend shut"}, {"working days open " + Clock(morning) + "–" + late}})
	offer("one-round", "One round a day", "Everything once a day, an hour before the evening, weekends included.",
		[2][]string{{Clock(max(evening-60, 0))}, {Clock(max(evening-60, 0))}})
	offer("away", "Away", "Nothing comes in but what is let through. The rest waits until you end the plan.",
		[2][]string{{"shut"}, {"shut"}})
	return out
}
