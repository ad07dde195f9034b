package when

import (
	"regexp"
	"slices"
	"sort"
	"strconv"
	"strings"
)

// Found is a time or a span that a text names.
type Found struct {
	Text  string `json:"text"`  // as it stands there
	From  int    `json:"from"`  // where, in bytes
	To    int    `json:"to"`    // where it ends
	Start Moment `json:"start"` // a whole day where no time is named
	End   Moment `json:"end"`   // empty where only one time is named
	By    bool   `json:"by"`    // it is named as the time by which something is to be done
}

// Text in which times are looked for is cut to this many bytes.
const findIn = 20_000

const (
	dayName  = `(?:mon|tue|tues|wed|thu|thur|thurs|fri|sat|sun|monday|tuesday|wednesday|thursday|friday|saturday|sunday)`
	monName  = `(?:january|february|march|april|may|june|july|august|september|october|november|december|jan|feb|mar|apr|jun|jul|aug|sept|sep|oct|nov|dec)\.?`
	dayNum   = `(?:\d{1,2}(?:st|nd|rd|th)?)`
	oneClock = `(?:noon|midday|midnight|\d{1,2}(?:[:.]\d{2})\s*(?:am\b|pm\b|a\.m\.|p\.m\.)?|\d{1,2}\s*(?:am\b|pm\b|a\.m\.|p\.m\.|o'clock|h\b)|(?:one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve) o'clock|(?:half past|(?:a )?quarter (?:past|to)|(?:5|10|20|25|five|ten|twenty) past|at (?:5|10|20|25|five|ten|twenty) to) (?:\d{1,2}|one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve)\b(?:\s*(?:am|pm)\b)?)`
	dash     = `\s*(?:-|–|—|to|until|till)\s*`
)

var (
	dateForms = []string{
		`\d{4}-\d{2}-\d{2}`,
		`(?:(?:` + dayName + `),?\s+)?(?:the\s+)?` + dayNum + `\.?\s+(?:of\s+)?` + monName + `(?:\s+\d{4}\b)?`,
		`(?:(?:` + dayName + `),?\s+)?` + monName + `\s+` + dayNum + `\b(?:,?\s+\d{4}\b)?`,
		`\d{1,2}\.\d{1,2}\.(?:\d{4})?`,
		`the day after tomorrow`, `tomorrow`, `today`, `tonight`, `this (?:morning|afternoon|evening)`,
		`(?:next |this )?` + dayName + `(?:\s+(?:morning|afternoon|evening|night))?`,
		`the \d{1,2}(?:st|nd|rd|th)`,
		`(?:the )?end of (?:the |next )?(?:week|month|year)`, `(?:the )?last day of (?:the month|next month|` + strings.TrimSuffix(monName, `\.?`) + `)`, `next week`, `next month`, `(?:before )?the weekend`,
	}
	aDate     = `(?:` + strings.Join(dateForms, "|") + `)`
	dateSpan  = regexp.MustCompile(`(?i)\b(?:from\s+)?(` + dayNum + `)` + dash + `(` + dayNum + `)\.?\s+(?:of\s+)?(` + monName + `)(?:\s+(\d{4})\b)?`)
	between   = regexp.MustCompile(`(?i)\bbetween\s+(?:the\s+)?(` + dayNum + `)\s+and\s+(?:the\s+)?(` + dayNum + `)\.?\s+(?:of\s+)?(` + monName + `)(?:\s+(\d{4})\b)?`)
	justDates = regexp.MustCompile(`(?i)\b` + aDate)
	justTimes = regexp.MustCompile(`(?i)\b(?:(?:from|between)\s+)?(\d{1,2}(?:[:.]\d{2})?\s*(?:am|pm|a\.m\.|p\.m\.)?)(?:` + dash + `|\s+and\s+)(` + oneClock + `|\d{1,2})`)
	oneTime   = regexp.MustCompile(`(?i)\b(` + oneClock + `|(?:morning|afternoon|evening)\b)`)
	bareHour  = regexp.MustCompile(`(?i)^\s*,?\s*at\s+(\d{1,2}|one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve)\b`)
	hourAlone = regexp.MustCompile(`(?i)\b(?:at|by|until|till|before)\s+(\d{1,2}|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve)\b`)
	// afterHour is what can follow an hour that is no number of something.
	afterHour  = regexp.MustCompile(`(?i)^\s*(?:$|[,.;!?)–—]|\n|(?:sharp|today|and|or|for|in|on|if|so|because|please|then|when|as|we|i)\b)`)
	beforeNoon = regexp.MustCompile(`(?i)\b(?:at|by|until|till|before)\s+$`)
	zoneName   = regexp.MustCompile(`^\s*\(?((?:UTC|GMT)\s?(?:[+\-−]\d{1,2}(?::?\d{2})?)?|CET|CEST|MEZ|MESZ|EET|EEST|WET|WEST|BST|IST|EST|EDT|ET|CST|CDT|CT|MST|MDT|MT|PST|PDT|PT|JST|[A-Z][a-z]+/[A-Z][A-Za-z_]+|([A-Z][a-z]+(?: [A-Z][a-z]+)?) time)\b\)?`)
	byWords    = regexp.MustCompile(`(?i)(?:\bby|\bbefore|\bno later than|\bnot later than|\bdeadline(?:\s+is)?:?|\bdue(?:\s+(?:on|by))?|\buntil|\btill)\s+(?:the latest\s+)?(?:on\s+)?(?:the\s+)?(?:end of\s+)?$`)
	glue       = regexp.MustCompile(`(?i)^\s*,?\s*(?:at|around|about|by|before|from|between|in the|,|the)?\s*$`)
)

// regions are the clocks that an abbreviation stands for: those of the region on that
// day, as people write CET in summer, too. Where it stands for two, both are meant.
var regions = map[string][]string{"UTC": {"Etc/UTC"}, "GMT": {"Etc/UTC"}, "WET": {"Europe/Lisbon"}, "WEST": {"Europe/Lisbon"}, "CET": {"Europe/Paris"}, "CEST": {"Europe/Paris"}, "MEZ": {"Europe/Berlin"}, "MESZ": {"Europe/Berlin"},
	"EET": {"Europe/Helsinki"}, "EEST": {"Europe/Helsinki"}, "EST": {"America/New_York"}, "EDT": {"America/New_York"}, "ET": {"America/New_York"}, "CDT": {"America/Chicago"}, "CT": {"America/Chicago"},
	"MST": {"America/Denver"}, "MDT": {"America/Denver"}, "MT": {"America/Denver"}, "PST": {"America/Los_Angeles"}, "PDT": {"America/Los_Angeles"}, "PT": {"America/Los_Angeles"}, "JST": {"Asia/Tokyo"},
	"CST": {"America/Chicago", "Asia/Shanghai"}, "IST": {"Asia/Kolkata", "Asia/Jerusalem"}, "BST": {"Europe/London", "Asia/Dhaka"}}

// cities are names that letters use for a zone.
var cities = map[string]string{"london": "Europe/London", "paris": "Europe/Paris", "berlin": "Europe/Berlin", "oslo": "Europe/Oslo", "rome": "Europe/Rome", "athens": "Europe/Athens",
	"tokyo": "Asia/Tokyo", "japan": "Asia/Tokyo", "new york": "America/New_York", "lisbon": "Europe/Lisbon", "madrid": "Europe/Madrid", "helsinki": "Europe/Helsinki", "zurich": "Europe/Zurich",
	"sydney": "Australia/Sydney", "delhi": "Asia/Kolkata", "singapore": "Asia/Singapore"}

func init() {
	for _, r := range []*regexp.Regexp{dateSpan, between, justDates, justTimes, oneTime} {
		r.Longest()
	}
}

// bit is a piece of text that names days or times of day.
type bit struct {
	from, to int
	day      string // a phrase for a day
	last     string // the last day of a span of days
	start    string // a phrase for a time
	end      string
	bare     bool // an hour by its name: "at four"
}

// FindTimes finds the times and spans a text in the language l names, in their order,
// as somebody with the week w understands them who reads what was written at written.
// What lies before that is left out. A text whose language is not known is read as
// English, and where that finds nothing in the person's languages.
func (w Week) FindTimes(text string, l Language, written Instant) []Found {
	if len(text) > findIn {
		text = strings.ToValidUTF8(text[:findIn], "")
	}
	t := l.tongue()
	if t == nil {
		out := w.find(text, written)
		if len(out) == 0 && l != English {
			for _, other := range w.Languages {
				if other.tongue() == nil {
					continue
				}
				if out = w.FindTimes(text, other, written); len(out) > 0 {
					break
				}
			}
		}
		return out
	}
	s := t.English(text, true, nil)
	out := w.find(s.Text, written)
	for i := range out {
		f := &out[i]
		f.From, f.To = s.Was(f.From, f.To)
		f.Text = strings.TrimSpace(text[f.From:f.To])
	}
	return out
}

func (w Week) find(text string, written Instant) (out []Found) {
	var days, times []bit
	for _, m := range append(dateSpan.FindAllStringSubmatchIndex(text, -1), between.FindAllStringSubmatchIndex(text, -1)...) {
		g := func(i int) string { return strings.ToLower(text[m[2*i]:m[2*i+1]]) }
		year := ""
		if m[8] >= 0 {
			year = " " + g(4)
		}
		days = append(days, bit{from: m[0], to: m[1], day: g(1) + " " + g(3) + year, last: g(2) + " " + g(3) + year})
	}
	for _, m := range justDates.FindAllStringIndex(text, -1) {
		if word := text[m[0]:m[1]]; !covered(days, m[0], m[1]) && !notDays[word] && !lies.MatchString(text[max(0, m[0]-12):m[0]]) {
			days = append(days, bit{from: m[0], to: m[1], day: strings.ToLower(text[m[0]:m[1]])})
		}
	}
	sort.Slice(days, func(i, j int) bool { return days[i].from < days[j].from })
	for i := 0; i+1 < len(days); i++ { // "from Monday to Wednesday"
		if between := strings.ToLower(strings.TrimSpace(text[days[i].to:days[i+1].from])); days[i].last == "" && days[i+1].last == "" &&
			(between == "to" || between == "until" || between == "till" || between == "-" || between == "–") {
			days[i].last, days[i].to = days[i+1].day, days[i+1].to
			days = append(days[:i+1], days[i+2:]...)
		}
	}
	for _, m := range justTimes.FindAllStringSubmatchIndex(text, -1) {
		if !covered(days, m[0], m[1]) {
			times = append(times, bit{from: m[0], to: m[1], start: clockText(text[m[2]:m[3]]), end: clockText(text[m[4]:m[5]])})
		}
	}
	for _, m := range oneTime.FindAllStringIndex(text, -1) {
		if !covered(days, m[0], m[1]) && !covered(times, m[0], m[1]) {
			times = append(times, bit{from: m[0], to: m[1], start: clockText(text[m[0]:m[1]])})
		}
	}
	for _, m := range hourAlone.FindAllStringSubmatchIndex(text, -1) { // "the board meets at four"
		if !covered(days, m[2], m[3]) && !covered(times, m[2], m[3]) && !slices.ContainsFunc(days, func(d bit) bool { return d.to <= m[0] && strings.TrimSpace(text[d.to:m[0]]) == "" }) {
			times = append(times, bit{from: m[2], to: m[3], start: clockText(text[m[2]:m[3]]), bare: true})
		}
	}
	for i := range days { // "on Thursday at six"
		if m := bareHour.FindStringSubmatchIndex(text[days[i].to:]); m != nil && !covered(times, days[i].to+m[2], days[i].to+m[3]) {
			times = append(times, bit{from: days[i].to + m[2], to: days[i].to + m[3], start: clockText(text[days[i].to+m[2] : days[i].to+m[3]])})
		}
	}
	sort.Slice(times, func(i, j int) bool { return times[i].from < times[j].from })
	used := map[int]bool{}
	for _, d := range days {
		best := -1
		for i, t := range times {
			if used[i] || best >= 0 {
				continue
			}
			if t.from >= d.to && glue.MatchString(text[d.to:t.from]) || t.to <= d.from && regexpOn.MatchString(text[t.to:d.from]) {
				best = i
			}
		}
		var found []Found
		if best >= 0 {
			found = w.found(text, d, times[best], written)
			used[best] = len(found) > 0
		}
		if len(found) == 0 {
			found = w.found(text, d, bit{}, written)
		}
		out = append(out, found...)
	}
	for i, t := range times { // a time alone is of the day on which it was written
		if !used[i] && t.alone(text) {
			out = append(out, w.found(text, bit{from: t.from, to: t.from, day: "today"}, t, written)...)
		}
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].From < out[j].From })
	return out
}

// alone says that a clock is one without a day beside it.
func (t bit) alone(text string) bool {
	switch {
	case t.bare:
		return afterHour.MatchString(text[t.to:])
	case t.start == "noon", t.start == "midday":
		return beforeNoon.MatchString(text[:t.from])
	}
	return !words[t.start] && (t.end != "" || strings.ContainsAny(t.start, ":.") || strings.HasSuffix(t.start, "m") || strings.Contains(t.start, " ") || strings.HasSuffix(strings.ToLower(text[t.from:t.to]), "o'clock"))
}

// lies are words before a day that has been.
var lies = regexp.MustCompile(`(?i)\b(?:last|past|previous|since)\s+$`)

// notDays are words that name a day only when they begin with a capital.
var notDays = map[string]bool{"sun": true, "sat": true, "wed": true, "mon": true}

// weekdayBefore is the name of a day before its date, which says the same.
var weekdayBefore = regexp.MustCompile(`^` + dayName + `,?\s+((?:the\s+)?` + dayNum + `\b|` + monName + `\s)`)

var regexpOn = regexp.MustCompile(`(?i)^\s*,?\s*(?:on|of|,)?\s*(?:the\s+)?$`)
var words = map[string]bool{"morning": true, "afternoon": true, "evening": true, "noon": true, "midday": true}

func covered(bits []bit, from, to int) bool {
	for _, b := range bits {
		if from < b.to && b.from < to {
			return true
		}
	}
	return false
}

var numberWords = map[string]string{"one": "1", "two": "2", "three": "3", "four": "4", "five": "5", "six": "6", "seven": "7", "eight": "8", "nine": "9", "ten": "10", "eleven": "11", "twelve": "12"}

func clockText(s string) string {
	s = strings.TrimSpace(strings.NewReplacer("a.m.", "am", "p.m.", "pm", "o'clock", "", "midnight", "23:59", "at ", "").Replace(strings.ToLower(s)))
	if n := numberWords[s]; n != "" {
		return n
	}
	if m := regexp.MustCompile(`^(\d{1,2})\.(\d{2})(.*)$`).FindStringSubmatch(s); m != nil {
		s = m[1] + ":" + m[2] + m[3]
	}
	return s
}

// found reads a day with a time: as one Found, or as one for each region whose clocks
// can be meant, the earliest first.
func (w Week) found(text string, day, clock bit, written Instant) (out []Found) {
	zones, to := []string{w.Zone}, 0
	if clock.to > 0 {
		if m := zoneName.FindStringSubmatch(text[clock.to:]); m != nil {
			if named := zonesOf(m); len(named) > 0 {
				zones, to = named, clock.to+len(strings.TrimRight(m[0], " "))
			}
		}
	}
	for _, zone := range zones {
		if f, ok := w.foundIn(zone, text, day, clock, written); ok {
			f.To = max(f.To, to)
			if text[f.To-1] == '.' && f.To > 1 && text[f.To-2] >= 'a' { // the end of the sentence
				f.To--
			}
			f.Text = strings.TrimSpace(text[f.From:f.To])
			out = append(out, f)
		}
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].Start.At < out[j].Start.At })
	return out
}

func (w Week) foundIn(zone, text string, day, clock bit, written Instant) (f Found, ok bool) {
	f.From, f.To = day.from, day.to
	if clock.to > 0 {
		f.From, f.To = min(day.from, clock.from), max(day.to, clock.to)
		if day.from == day.to {
			f.From = clock.from
		}
	}
	spoken := w
	spoken.Zone, spoken.Languages = zone, nil
	spoken.TwelveHour = false // an hour without am or pm is as it is written
	read := func(day, clock string) (Moment, bool) {
		if m := weekdayBefore.FindStringSubmatch(day); m != nil {
			day = m[1] + strings.TrimPrefix(day, m[0])
		}
		phrase := strings.TrimSpace(strings.NewReplacer(".", ". ", ",", " ").Replace(strings.TrimPrefix(day, "the ")) + " " + clock)
		if strings.Contains(day, "-") || regexp.MustCompile(`^\d{1,2}\.\d`).MatchString(day) {
			phrase = strings.TrimSpace(day + " " + clock)
		}
		if day == "today" && clock == "" {
			return WholeDayOf(written.In(spoken.Location()), spoken.Location()), true
		}
		if day == "today" {
			t := spoken.Read("tomorrow "+clock, DayStart(written, spoken.Location(), 0)-1) // midnight and all that follows is ahead
			return t.Moment, !t.Moment.IsZero() && t.Moment.At > written
		}
		r := spoken.Read(phrase, written)
		if r.Doubt == Ambiguous && strings.HasPrefix(r.Sentence, "Today is") {
			r = spoken.Read("next "+phrase, written) // a weekday by its name is not today
			if back := spoken.Read(phrase, written); back.Moment.At > written {
				r.Moment = back.Moment
			}
		}
		if r.Moment.IsZero() || r.Doubt == Unclear || r.Doubt == Past {
			return Moment{}, false
		}
		at, _ := r.Both()
		if !r.Timed {
			return at.Day(spoken.Location()), true
		}
		return at, true
	}
	start, end := clock.start, clock.end
	if end != "" { // "from 2 to 4 pm": both are in the afternoon
		for _, half := range []string{"am", "pm"} {
			if strings.HasSuffix(end, half) && !strings.HasSuffix(start, "am") && !strings.HasSuffix(start, "pm") && strings.Trim(start, "0123456789: ") == "" {
				start += half
			}
		}
	}
	if hour, err := strconv.Atoi(start); err == nil && hour >= 1 && hour <= 6 && end == "" && clock.to > 0 {
		start = strconv.Itoa(hour + 12) // "at six": nobody means the night
	}
	if f.Start, ok = read(day.day, start); !ok {
		return f, false
	}
	switch {
	case day.last != "":
		written = DayStart(f.Start.At, spoken.Location(), 0) // it is the first such day after the first day
		last, fine := read(day.last, end)
		if fine && last.At > f.Start.At {
			f.End = last
		}
	case end != "":
		last, fine := read(day.day, end)
		if fine && last.At > f.Start.At {
			f.End = last
		}
	}
	f.By = byWords.MatchString(text[max(0, f.From-40):f.From]) || strings.HasPrefix(day.day, "before ")
	return f, true
}

// zonesOf are the IANA names of the zones that words after a time can name; none if
// they name none. A bare offset is given as one of the Etc zones.
func zonesOf(m []string) []string {
	name := strings.TrimSpace(m[1])
	if m[2] != "" {
		if zone := cities[strings.ToLower(m[2])]; zone != "" {
			return []string{zone}
		}
		return nil
	}
	if strings.Contains(name, "/") {
		if _, err := LoadZone(name); err == nil {
			return []string{name}
		}
		return nil
	}
	if known := regions[name]; known != nil {
		return known
	}
	sign := 1
	rest := strings.TrimSpace(name[3:])
	if strings.HasPrefix(rest, "-") || strings.HasPrefix(rest, "−") {
		sign = -1
	}
	hours, minutes, _ := strings.Cut(strings.TrimLeft(rest, "+-−"), ":")
	offset := sign * (atoi(hours)*60 + atoi(minutes))
	switch {
	case offset%60 != 0, offset < -12*60, offset > 14*60:
		return nil
	case offset == 0:
		return []string{"Etc/UTC"}
	}
	return []string{"Etc/GMT" + map[bool]string{true: "-", false: "+"}[offset > 0] + strconv.Itoa(abs(offset/60))} // the sign is that of POSIX
}

func abs(n int) int { return max(n, -n) }
