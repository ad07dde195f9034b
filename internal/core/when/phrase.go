package when

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"
)

// Doubt is why a phrase was not simply taken at its word.
type Doubt string

// The doubts a phrase can leave.
const (
	Unclear   Doubt = "unclear"   // not understood; there is no offer
	Past      Doubt = "past"      // understood, but it lies behind us
	Ambiguous Doubt = "ambiguous" // can be read in two ways
)

// Reading is what a phrase was taken to mean. With a Doubt, Moment is the next
// sensible time, offered and not assumed, and empty if there is none.
type Reading struct {
	Moment   Moment  `json:"moment"`
	Other    Moment  `json:"other"`             // what others mean by the same words; empty for most phrases
	Timed    bool    `json:"timed"`             // the phrase named a time of day
	Someday  bool    `json:"someday,omitempty"` // it is left for someday; Moment is when that is looked through
	Rhythm   *Rhythm `json:"rhythm,omitempty"`  // it is said again and again, from Moment on; only where a field asks for it
	Doubt    Doubt   `json:"doubt,omitempty"`
	Sentence string  `json:"sentence"`          // the meaning, or the doubt, for the user
	Instead  string  `json:"instead,omitempty"` // the meaning of Other, for the user
}

// Both are the two moments that the words can mean, in their order; the same twice
// where they mean one. Where nobody looks at what was understood, the earlier holds.
func (r Reading) Both() (earlier, later Moment) {
	switch {
	case r.Other.IsZero():
		return r.Moment, r.Moment
	case r.Other.At < r.Moment.At:
		return r.Other, r.Moment
	}
	return r.Moment, r.Other
}

const farthest = 50 // years ahead that a phrase may reach

// Read finds the time that phrase means in a field that looks ahead, for a person with
// the week w at the instant now; see ReadIn.
func (w Week) Read(phrase string, now Instant) Reading { return w.ReadIn(Field{}, phrase, now) }

func unclear(sentence string) Reading { return Reading{Doubt: Unclear, Sentence: sentence} }

// readSpan reads "in 2 h" (a duration) and "in 3 days" (calendar days, at the
// time the morning begins).
func (w Week) readSpan(d time.Duration, c calendarSpan, now Instant) Reading {
	loc := w.Location()
	if d > 0 {
		if d > farthest*365*24*time.Hour {
			return tooFar()
		}
		at := Of(now.Time().Add(d).Add(59 * time.Second).Truncate(time.Minute))
		m := Moment{At: at}
		return Reading{Moment: m, Timed: true, Sentence: w.Say(m, now)}
	}
	if c.days > farthest*366 || c.work > farthest*260 || c.months > farthest*12 {
		return tooFar()
	}
	day := w.workdaysOn(addMonths(midnight(now.In(loc)), c.months).AddDate(0, 0, c.days), c.work)
	m := wallMoment(day.Add(time.Duration(w.Morning)*time.Minute), loc)
	if m.At <= now {
		return unclear("That is no time from now. Try “in 20 min” or “in 3 days”.")
	}
	return Reading{Moment: m, Sentence: w.Say(m, now)}
}

func tooFar() Reading {
	return unclear(fmt.Sprintf("That is more than %d years away. Choose a nearer time.", farthest))
}

// addMonths moves t by n months and stays on the last day of a shorter month.
func addMonths(t time.Time, n int) time.Time {
	first := time.Date(t.Year(), t.Month(), 1, 0, 0, 0, 0, time.UTC).AddDate(0, n, 0)
	return first.AddDate(0, 0, min(t.Day(), first.AddDate(0, 1, -1).Day())-1)
}

type calendarSpan struct{ days, work, months int } // work: working days

// parser takes a phrase apart: a date in some form and a time in some form, in
// either order. All its dates are wall-clock dates carried in UTC.
type parser struct {
	w      Week
	field  Field
	now    time.Time
	tokens []string

	day     time.Time // zero: no date was named
	other   time.Time // the day that others mean by the same words
	note    string    // said after the meaning
	weekday bool      // day came from a bare weekday name
	dated   bool      // day came from a date of the calendar
	yearly  bool      // day came without a year and may move to the next one
	today   bool      // the date is today by name
	hour    int       // -1: no time was named
	minute  int
	bare    bool  // the hour came without minutes, am or pm
	early   bool  // a bare hour that nobody means at night: 1 to 6
	partOf  *Part // a part of the day by name
	doubt   string
	wrong   string
}

var (
	spanGlued  = regexp.MustCompile(`^(\d{1,6}|\d{1,2}\.\d{1,2})(min|m|h|hr|d|w)$`)
	decimal    = regexp.MustCompile(`^\d{1,3}\.\d{1,2}$`)
	clockTime  = regexp.MustCompile(`^(\d{1,2})[:.h](\d{2})(am|pm)?$`)
	clockHour  = regexp.MustCompile(`^(\d{1,2})(am|pm|h)?$`)
	isoDate    = regexp.MustCompile(`^(\d{4})-(\d{1,2})-(\d{1,2})$`)
	dottedDate = regexp.MustCompile(`^(\d{1,2})\.(\d{1,2})\.(\d{4}|\d{2})?$`)
	dottedPair = regexp.MustCompile(`^(\d{1,2})\.(\d{2})$`)
	slashDate  = regexp.MustCompile(`^(\d{1,2})/(\d{1,2})(?:/(\d{4}))?$`)
	ordinalDay = regexp.MustCompile(`^(\d{1,2})(st|nd|rd|th)$`)
	yearNumber = regexp.MustCompile(`^\d{4}$`)
)

var weekdays = map[string]time.Weekday{}
var months = map[string]time.Month{"sept": time.September}

func init() {
	for d := time.Sunday; d <= time.Saturday; d++ {
		name := strings.ToLower(d.String())
		weekdays[name], weekdays[name[:3]] = d, d
	}
	weekdays["tues"], weekdays["weds"], weekdays["thur"], weekdays["thurs"] = time.Tuesday, time.Wednesday, time.Thursday, time.Thursday
	for m := time.January; m <= time.December; m++ {
		name := strings.ToLower(m.String())
		months[name], months[name[:3]] = m, m
	}
}

var counts = map[string]int{"first": 1, "1st": 1, "second": 2, "2nd": 2, "third": 3, "3rd": 3, "fourth": 4, "4th": 4, "last": -1}

func tokens(phrase string) []string {
	if len(phrase) > 200 {
		phrase = phrase[:200]
	}
	phrase = strings.NewReplacer(",", " ", "\u00a0", " ", "a.m.", "am", "p.m.", "pm", "’", "'").Replace(strings.ToLower(phrase))
	return strings.Fields(phrase)
}

// at is the token i places ahead, or "".
func (p *parser) at(i int) string {
	if i < len(p.tokens) {
		return p.tokens[i]
	}
	return ""
}

func (p *parser) take(n int) bool { p.tokens = p.tokens[n:]; return true }

// match takes the words if they come next.
func (p *parser) match(words ...string) bool {
	for i, w := range words {
		if p.at(i) != w {
			return false
		}
	}
	return p.take(len(words))
}

// span reads a phrase that is a span as a whole: "in 2 h", "for 90 min", "1.5 h",
// "a fortnight", "in 5 working days".
func (p *parser) span() (time.Duration, calendarSpan, bool) {
	t := p.tokens
	back := p.field.Way == Back
	if t[0] == "in" && !back || t[0] == "for" {
		t = t[1:]
	}
	if back && len(t) > 1 && t[len(t)-1] == "ago" {
		t = t[:len(t)-1]
	}
	if n := len(t); !back && n > 2 && t[n-2] == "from" && (t[n-1] == "now" || t[n-1] == "today") {
		t = t[:n-2]
	}
	switch strings.Join(t, " ") {
	case "half an hour":
		return 30 * time.Minute, calendarSpan{}, true
	case "an hour and a half":
		return 90 * time.Minute, calendarSpan{}, true
	case "a fortnight", "fortnight":
		return 0, calendarSpan{days: 14}, true
	}
	if len(t) == 1 {
		if m := spanGlued.FindStringSubmatch(t[0]); m != nil {
			t = []string{m[1], m[2]}
		}
	}
	working := len(t) == 3 && (t[1] == "working" || t[1] == "work") && (t[2] == "days" || t[2] == "day")
	if len(t) != 2 && !working {
		return 0, calendarSpan{}, false
	}
	unit := strings.TrimSuffix(t[1], "s")
	if hours, err := strconv.ParseFloat(t[0], 64); err == nil && decimal.MatchString(t[0]) && (unit == "h" || unit == "hr" || unit == "hour") {
		return time.Duration(hours * float64(time.Hour)).Round(time.Minute), calendarSpan{}, hours > 0
	}
	number := t[0]
	if n := numberWords[number]; n != "" {
		number = n
	} else if number == "a" || number == "an" {
		number = "1"
	}
	n, err := strconv.Atoi(number)
	if err != nil || n <= 0 || n > 1_000_000 {
		return 0, calendarSpan{}, false
	}
	if working {
		return 0, calendarSpan{work: n}, true
	}
	switch unit {
	case "m", "min", "minute":
		return time.Duration(n) * time.Minute, calendarSpan{}, true
	case "h", "hr", "hour":
		return time.Duration(n) * time.Hour, calendarSpan{}, true
	case "d", "day":
		return 0, calendarSpan{days: n}, true
	case "w", "wk", "week":
		return 0, calendarSpan{days: 7 * n}, true
	case "fortnight":
		return 0, calendarSpan{days: 14 * n}, true
	case "workday":
		return 0, calendarSpan{work: n}, true
	case "month":
		return 0, calendarSpan{months: n}, true
	case "year":
		return 0, calendarSpan{months: 12 * n}, true
	}
	return 0, calendarSpan{}, false
}

// setDay notes the date; a second one in the same phrase is an error.
func (p *parser) setDay(d time.Time) bool {
	if !p.day.IsZero() && p.wrong == "" {
		p.wrong = "That names two days. Write one of them."
	}
	p.day = d
	return true
}

// setDate notes a date of the calendar, which may stand after its weekday: "fri 27
// nov".
func (p *parser) setDate(d time.Time) bool {
	if p.weekday {
		p.sameDay(d, p.day.Weekday())
		p.day, p.weekday = time.Time{}, false
	}
	p.dated = true
	return p.setDay(d)
}

// sameDay raises that a date is not the weekday that stands beside it.
func (p *parser) sameDay(date time.Time, day time.Weekday) {
	if date.Weekday() != day && p.wrong == "" {
		p.wrong = fmt.Sprintf("%s is a %s and not a %s. Write one of them.", date.Format("2 January 2006"), date.Weekday(), day)
	}
}

func (p *parser) date() bool {
	today := midnight(p.now)
	switch {
	case p.match("on"), p.match("by"), p.match("until"), p.match("till"):
		return len(p.tokens) > 0
	case p.match("the", "day", "after", "tomorrow"), p.match("day", "after", "tomorrow"):
		return p.setDay(today.AddDate(0, 0, 2))
	case p.match("later", "today"), p.match("today"):
		p.today = true
		return p.setDay(today)
	case p.match("tomorrow"):
		return p.setDay(today.AddDate(0, 0, 1))
	case p.match("tonight"):
		p.today = true
		return p.setDay(today) && p.setPart(Evening)
	case p.match("this", "evening"):
		p.today = true
		return p.setDay(today) && p.setPart(Evening)
	case p.match("this", "afternoon"):
		p.today = true
		return p.setDay(today) && p.setPart(Midday)
	case p.match("this", "morning"):
		p.today = true
		return p.setDay(today) && p.setPart(Morning)
	case p.match("next", "weekend"):
		return p.setDay(p.following(time.Saturday).AddDate(0, 0, 7))
	case p.match("this", "weekend"), p.match("the", "weekend"), p.match("weekend"):
		return p.setDay(p.following(time.Saturday))
	case p.match("next", "week"):
		if day, named := weekdays[p.at(0)]; named { // "next week wed"
			return p.take(1) && p.setDay(p.inWeek(p.nextWeek(), day))
		}
		return p.setDay(p.w.firstWorking(p.nextWeek()))
	case p.match("next", "month"):
		if n, ok := dayNumber(p.at(0)); ok { // "next month 15"
			return p.take(1) && p.setYMD(p.firstOfMonth(1).Format("2006"), int(p.firstOfMonth(1).Month()), strconv.Itoa(n))
		}
		return p.setDay(p.firstOfMonth(1))
	case p.match("next", "year"):
		return p.setDay(time.Date(today.Year()+1, 1, 1, 0, 0, 0, 0, time.UTC))
	case p.match("end", "of", "next", "week"):
		return p.setDay(p.w.lastWorking(p.nextWeek().AddDate(0, 0, 6)))
	case p.match("end", "of", "next", "month"):
		return p.setDay(p.w.lastWorking(p.firstOfMonth(2).AddDate(0, 0, -1)))
	case p.match("end", "of", "the", "year"), p.match("end", "of", "year"):
		return p.setDay(p.w.lastWorking(time.Date(today.Year(), 12, 31, 0, 0, 0, 0, time.UTC)))
	case p.match("before", "the", "weekend"), p.match("before", "weekend"):
		return p.setDay(p.endOfWeek())
	case p.match("end", "of", "the", "month"), p.match("end", "of", "month"):
		return p.setDay(p.endOfMonth())
	case p.match("end", "of", "the", "week"), p.match("end", "of", "week"):
		return p.setDay(p.endOfWeek())
	}
	return p.lastDay() || p.isoWeek() || p.nthWeekday() || p.namedWeekday() || p.calendarDate()
}

// following is the next day of that weekday after today.
func (p *parser) following(d time.Weekday) time.Time {
	today := midnight(p.now)
	return today.AddDate(0, 0, (int(d)-int(today.Weekday())+6)%7+1)
}

// endOfMonth is the last working day of this month whose morning is ahead, or
// else that of the next.
func (p *parser) endOfMonth() time.Time {
	for n := 1; ; n++ {
		if d := p.w.lastWorking(p.firstOfMonth(n).AddDate(0, 0, -1)); d.After(midnight(p.now)) {
			return d
		}
	}
}

// endOfWeek is the last working day of this week if it is still ahead, or else
// that of the next.
func (p *parser) endOfWeek() time.Time {
	for next := p.nextWeek(); ; next = next.AddDate(0, 0, 7) {
		if d := p.w.lastWorking(next.AddDate(0, 0, -1)); d.After(midnight(p.now)) {
			return d
		}
	}
}

// nthWeekday reads "first monday of march", "last fri of next month".
func (p *parser) nthWeekday() bool {
	skip := 0
	if p.at(0) == "the" {
		skip = 1
	}
	n, ok := counts[p.at(skip)]
	day, isDay := weekdays[p.at(skip+1)]
	if !ok || !isDay {
		return false
	}
	if p.at(skip+2) != "of" && n < 0 {
		return false // "last fri" lies behind
	}
	if p.at(skip+2) != "of" { // of the coming month
		d := nth(p.firstOfMonth(1), day, n)
		p.note = fmt.Sprintf("the %s %s of %s", p.at(skip), d.Weekday(), d.Month())
		p.take(skip + 2)
		return p.setDay(d)
	}
	rest := skip + 3
	var first time.Time
	named := false
	switch m, isMonth := months[p.at(rest)]; {
	case isMonth:
		rest, named = rest+1, true
		year := p.now.Year()
		if yearNumber.MatchString(p.at(rest)) {
			year, _ = strconv.Atoi(p.at(rest))
			rest, named = rest+1, false
		}
		first = time.Date(year, m, 1, 0, 0, 0, 0, time.UTC)
	case p.at(rest) == "next" && p.at(rest+1) == "month":
		first, rest = addMonths(time.Date(p.now.Year(), p.now.Month(), 1, 0, 0, 0, 0, time.UTC), 1), rest+2
	case p.at(rest) == "the" && p.at(rest+1) == "month":
		first, rest = time.Date(p.now.Year(), p.now.Month(), 1, 0, 0, 0, 0, time.UTC), rest+2
	default:
		return false
	}
	p.take(rest)
	d := nth(first, day, n)
	if named && d.Before(midnight(p.now)) {
		d = nth(first.AddDate(1, 0, 0), day, n)
	}
	return p.setDay(d)
}

// nth is the n-th such weekday of the month that begins at first; -1 the last.
func nth(first time.Time, day time.Weekday, n int) time.Time {
	if n < 0 {
		last := first.AddDate(0, 1, -1)
		return last.AddDate(0, 0, -((int(last.Weekday()) - int(day) + 7) % 7))
	}
	return first.AddDate(0, 0, (int(day)-int(first.Weekday())+7)%7+7*(n-1))
}

// namedWeekday reads "fri", "this fri", "next fri", "fri next week". By "next fri"
// the Friday of the next calendar week is meant; where the coming one lies before
// that, others mean it. On the last two days of a week the nearer comes first.
func (p *parser) namedWeekday() bool {
	skip := 0
	next := p.at(0) == "next"
	if next || p.at(0) == "this" {
		skip = 1
	}
	day, ok := weekdays[p.at(skip)]
	if !ok {
		return false
	}
	p.take(skip + 1)
	coming := p.following(day)
	if p.match("next", "week") || p.match("of", "next", "week") {
		return p.setDay(p.inWeek(p.nextWeek(), day))
	}
	if p.match("in", "a", "week") || p.match("week") {
		return p.setDay(coming.AddDate(0, 0, 7))
	}
	if !next && p.dated {
		p.sameDay(p.day, day)
		return true
	}
	if !next {
		p.weekday = true
		if p.field.Way == Back {
			if coming = coming.AddDate(0, 0, -7); coming.Equal(midnight(p.now)) {
				coming = coming.AddDate(0, 0, -7)
			}
		}
		return p.setDay(coming)
	}
	d := p.inWeek(p.nextWeek(), day)
	if coming.Before(d) {
		p.other = coming
		if p.nextWeek().Sub(midnight(p.now)) <= 2*24*time.Hour {
			d, p.other = coming, d
		}
	}
	return p.setDay(d)
}

func (p *parser) calendarDate() bool {
	t := p.at(0)
	if m := isoDate.FindStringSubmatch(t); m != nil {
		p.take(1)
		return p.setYMD(m[1], atoi(m[2]), m[3])
	}
	if m := dottedDate.FindStringSubmatch(t); m != nil {
		p.take(1)
		return p.setYMD(m[3], atoi(m[2]), m[1])
	}
	if m := dottedPair.FindStringSubmatch(t); m != nil && atoi(m[1]) > 23 && atoi(m[2]) <= 12 {
		p.take(1)
		return p.setYMD("", atoi(m[2]), m[1])
	}
	if m := slashDate.FindStringSubmatch(t); m != nil {
		p.take(1)
		a, b := atoi(m[1]), atoi(m[2])
		if a <= 12 && b <= 12 && a != b {
			p.doubt = fmt.Sprintf("“%s” can be %d %s or %d %s.", t, a, time.Month(b), b, time.Month(a))
		}
		if b > 12 {
			a, b = b, a
		}
		return p.setYMD(m[3], b, strconv.Itoa(a))
	}
	skip := 0
	if p.at(0) == "the" {
		skip = 1
	}
	day := strings.TrimRight(strings.TrimSuffix(p.at(skip), "."), "stndrh")
	ordinal := ordinalDay.MatchString(p.at(skip))
	if n, err := strconv.Atoi(day); err == nil && n >= 1 && n <= 31 {
		next := skip + 1
		if p.at(next) == "of" {
			next++
		}
		if m, ok := months[strings.TrimSuffix(p.at(next), ".")]; ok {
			year := ""
			if yearNumber.MatchString(p.at(next + 1)) {
				year = p.at(next + 1)
				next++
			}
			p.take(next + 1)
			return p.setYMD(year, int(m), day)
		}
		if ordinal {
			p.take(skip + 1)
			for i := 0; i < 12; i++ {
				d := time.Date(p.now.Year(), p.now.Month()+time.Month(i), n, 0, 0, 0, 0, time.UTC)
				if d.Day() == n && d.After(midnight(p.now)) && (!p.weekday || d.Weekday() == p.day.Weekday()) {
					return p.setDate(d)
				}
			}
		}
	}
	if m, ok := months[strings.TrimSuffix(p.at(0), ".")]; ok {
		d := strings.TrimRight(p.at(1), "stndrh")
		if n, err := strconv.Atoi(d); err == nil && n >= 1 && n <= 31 {
			year, n := "", 2
			if yearNumber.MatchString(p.at(2)) {
				year, n = p.at(2), 3
			}
			p.take(n)
			return p.setYMD(year, int(m), d)
		}
		p.take(1)
		return p.setYMD("", int(m), "1")
	}
	return false
}

func atoi(s string) int { n, _ := strconv.Atoi(s); return n }

// setYMD notes a calendar date; without a year it is the next such date.
func (p *parser) setYMD(year string, month int, day string) bool {
	y, d := atoi(year), atoi(day)
	p.yearly = year == ""
	switch {
	case p.yearly:
		y = p.now.Year()
	case len(year) == 2:
		y += 2000
	}
	exists := func(y int) bool {
		t := time.Date(y, time.Month(month), d, 0, 0, 0, 0, time.UTC)
		return month >= 1 && month <= 12 && d >= 1 && t.Day() == d
	}
	for i := 0; p.field.Way == Back && p.yearly && i < 8 && (!exists(y) || time.Date(y, time.Month(month), d, 0, 0, 0, 0, time.UTC).After(midnight(p.now))); i++ {
		y--
	}
	for i := 0; p.field.Way != Back && p.yearly && i < 8 && (!exists(y) || time.Date(y, time.Month(month), d, 0, 0, 0, 0, time.UTC).Before(midnight(p.now))); i++ {
		y++
	}
	if !exists(y) {
		p.wrong = "There is no such day. Check the day and the month."
		return p.setDay(midnight(p.now))
	}
	return p.setDate(time.Date(y, time.Month(month), d, 0, 0, 0, 0, time.UTC))
}

func (p *parser) setPart(part Part) bool {
	return p.setTime(p.w.start(part)/60, p.w.start(part)%60, &part)
}

func (p *parser) setTime(h, m int, part *Part) bool {
	if p.hour >= 0 {
		if (p.partOf == nil) == (part == nil) && p.wrong == "" {
			p.wrong = "That names two times of day. Write one of them."
		}
		named := p.partOf
		if part != nil { // "9 tonight": the clock time says it more exactly
			h, m, named = p.hour, p.minute, part
		}
		if named != nil && *named == Evening && h < 12 {
			h += 12
		}
		part = named
	}
	p.hour, p.minute, p.partOf = h, m, part
	return true
}

func (p *parser) time() bool {
	switch {
	case p.match("at"), p.match("à"), p.match("um"):
		if n := numberWords[p.at(0)]; n != "" {
			p.tokens[0] = n
		}
		return len(p.tokens) > 0
	case p.match("midnight"):
		return p.setTime(24, 0, nil)
	case p.spokenClock():
		return true
	case p.match("in", "the", "morning"), p.match("morning"):
		return p.setPart(Morning)
	case p.match("after", "lunch"), p.match("in", "the", "afternoon"), p.match("afternoon"), p.match("midday"):
		return p.setPart(Midday)
	case p.match("in", "the", "evening"), p.match("evening"), p.match("night"):
		return p.setPart(Evening)
	case p.match("noon"), p.match("lunch"):
		return p.setTime(12, 0, nil)
	}
	t, suffix, n := p.at(0), "", 1
	if p.at(1) == "am" || p.at(1) == "pm" {
		suffix, n = p.at(1), 2
	} else if p.at(1) == "o'clock" || p.at(1) == "uhr" {
		n = 2
		if w := numberWords[t]; w != "" {
			t = w
		}
	}
	h, minute := 0, 0
	if m := clockTime.FindStringSubmatch(t); m != nil {
		h, minute = atoi(m[1]), atoi(m[2])
		suffix += m[3]
		if dottedPair.MatchString(t) && suffix == "" && minute >= 1 && minute <= 12 && h >= 1 {
			p.doubt = fmt.Sprintf("“%s” can be the time %d:%02d or %d %s.", t, h, minute, h, time.Month(minute))
		}
	} else if m := clockHour.FindStringSubmatch(t); m != nil {
		h = atoi(m[1])
		if m[2] != "h" {
			suffix += m[2]
		}
	} else {
		return false
	}
	p.take(n)
	switch {
	case suffix != "" && suffix != "am" && suffix != "pm", h > 23 || minute > 59, suffix != "" && (h < 1 || h > 12):
		p.wrong = fmt.Sprintf("“%s” is no time of day.", t)
	case suffix == "am":
		h %= 12
	case suffix == "pm":
		h = h%12 + 12
	}
	p.bare = suffix == "" && p.w.TwelveHour && h >= 1 && h <= 12
	p.early = suffix == "" && h >= 1 && h <= 6 && len(t) == 1
	return p.setTime(h, minute, nil)
}

// settle joins date and time, and raises what has to be asked.
func (p *parser) settle(now Instant) Reading {
	loc, today := p.w.Location(), midnight(p.now)
	day, timed := p.day, p.hour >= 0
	if day.IsZero() {
		day, p.today = today, true
	}
	if day.Year() > p.now.Year()+farthest {
		return tooFar()
	}
	h, m := p.hour, p.minute
	if p.early && !p.w.TwelveHour && (p.partOf == nil || *p.partOf == Midday) {
		h += 12 // "fri 3": nobody means the night
	}
	if !timed {
		h, m = p.w.Morning/60, p.w.Morning%60
		if p.today {
			return p.laterToday(now)
		}
	}
	moment := func(day time.Time, h int) Moment {
		return wallMoment(day.Add(time.Duration(h*60+m)*time.Minute), loc)
	}
	if timed && p.weekday && p.day.Weekday() == today.Weekday() {
		if at := moment(today, h); at.At > now && p.doubt == "" {
			p.doubt, day = "Today is "+today.Weekday().String()+" too.", today
		}
	}
	at := moment(day, h)
	if p.bare && p.partOf == nil && p.hour <= 12 {
		p.doubt = fmt.Sprintf("%d:%02d can be am or pm.", (h+11)%12+1, m)
		if am := moment(day, h%12); am.At > now {
			at = am
		} else {
			at = moment(day, h%12+12)
		}
	}
	r := Reading{Moment: at, Timed: timed}
	if !p.other.IsZero() && p.doubt == "" {
		if other := moment(p.other, h); other.At > now {
			r.Other, r.Instead = other, p.w.Say(other, now)
		}
	}
	if timed && p.doubt == "" && at.At > now {
		p.doubt = p.w.clockChange(day.Add(time.Duration(h*60+m) * time.Minute))
	}
	if at.At <= now {
		said := p.w.Say(at, now)
		next := day
		switch {
		case p.today || day.Equal(today) && !p.yearly:
			next = today.AddDate(0, 0, 1)
		case p.yearly:
			next = day.AddDate(1, 0, 0)
		default:
			for next.Before(today.AddDate(0, 0, 1)) {
				next = addMonths(next, 12)
			}
		}
		r.Moment, r.Doubt = moment(next, h), Past
		r.Sentence = fmt.Sprintf("%s has passed. %s instead?", said, p.w.Say(r.Moment, now))
		return r
	}
	r.Sentence = p.w.Say(at, now)
	if p.note != "" {
		r.Sentence += ", " + p.note
	}
	if p.doubt != "" {
		r.Doubt, r.Sentence = Ambiguous, fmt.Sprintf("%s %s?", p.doubt, r.Sentence)
	}
	return r
}

// laterToday reads "today" without a time: the next part of the day ahead.
func (p *parser) laterToday(now Instant) Reading {
	loc, today := p.w.Location(), midnight(p.now)
	for part := Midday; part <= Evening; part++ {
		m := wallMoment(today.Add(time.Duration(p.w.start(part))*time.Minute), loc)
		if m.At > now {
			return Reading{Moment: m, Sentence: p.w.Say(m, now)}
		}
	}
	m := wallMoment(today.AddDate(0, 0, 1).Add(time.Duration(p.w.Morning)*time.Minute), loc)
	return Reading{Moment: m, Doubt: Past, Sentence: fmt.Sprintf("Today is nearly over. %s instead?", p.w.Say(m, now))}
}
