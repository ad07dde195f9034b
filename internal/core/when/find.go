package when

import (
	"regexp"
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
	oneClock = `(?:noon|midday|midnight|\d{1,2}(?:[:.]\d{2})\s*(?:am\b|pm\b|a\.m\.|p\.m\.)?|\d{1,2}\s*(?:am\b|pm\b|a\.m\.|p\.m\.|o'clock|h\b)|half past (?:\d{1,2}|one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve)(?:\s*(?:am|pm))?)`
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
		`(?:the )?end of (?:the |next )?(?:week|month)`, `next week`, `next month`, `the weekend`,
	}
	aDate     = `(?:` + strings.Join(dateForms, "|") + `)`
	dateSpan  = regexp.MustCompile(`(?i)\b(?:from\s+)?(` + dayNum + `)` + dash + `(` + dayNum + `)\.?\s+(?:of\s+)?(` + monName + `)(?:\s+(\d{4})\b)?`)
	justDates = regexp.MustCompile(`(?i)\b` + aDate)
	justTimes = regexp.MustCompile(`(?i)\b(?:(?:from|between)\s+)?(\d{1,2}(?:[:.]\d{2})?\s*(?:am|pm|a\.m\.|p\.m\.)?)(?:` + dash + `|\s+and\s+)(` + oneClock + `|\d{1,2})`)
	oneTime   = regexp.MustCompile(`(?i)\b(` + oneClock + `|(?:morning|afternoon|evening)\b)`)
	bareHour  = regexp.MustCompile(`(?i)^\s*,?\s*at\s+(\d{1,2}|one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve)\b`)
	zoneName  = regexp.MustCompile(`^\s*\(?((?:UTC|GMT)\s?(?:[+\-−]\d{1,2}(?::?\d{2})?)?|CET|CEST|EET|EEST|WET|WEST|BST|EST|EDT|CST|CDT|MST|MDT|PST|PDT|JST|[A-Z][a-z]+/[A-Z][A-Za-z_]+|([A-Z][a-z]+(?: [A-Z][a-z]+)?) time)\)?`)
	byWords   = regexp.MustCompile(`(?i)(?:\bby|\bbefore|\bno later than|\bnot later than|\bdeadline(?:\s+is)?:?|\bdue(?:\s+(?:on|by))?|\buntil|\btill)\s+(?:the latest\s+)?(?:on\s+)?(?:the\s+)?(?:end of\s+)?$`)
	glue      = regexp.MustCompile(`(?i)^\s*,?\s*(?:at|around|about|by|before|from|between|in the|,|the)?\s*$`)
)

// zoneOffsets are the abbreviations that mean one offset; minutes east of Greenwich.
var zoneOffsets = map[string]int{"UTC": 0, "GMT": 0, "WET": 0, "WEST": 60, "BST": 60, "CET": 60, "CEST": 120, "EET": 120, "EEST": 180, "EST": -300, "EDT": -240,
	"CST": -360, "CDT": -300, "MST": -420, "MDT": -360, "PST": -480, "PDT": -420, "JST": 540}

// cities are names that letters use for a zone.
var cities = map[string]string{"london": "Europe/London", "paris": "Europe/Paris", "berlin": "Europe/Berlin", "oslo": "Europe/Oslo", "rome": "Europe/Rome", "athens": "Europe/Athens",
	"tokyo": "Asia/Tokyo", "japan": "Asia/Tokyo", "new york": "America/New_York", "lisbon": "Europe/Lisbon", "madrid": "Europe/Madrid", "helsinki": "Europe/Helsinki", "zurich": "Europe/Zurich",
	"sydney": "Australia/Sydney", "delhi": "Asia/Kolkata", "singapore": "Asia/Singapore"}

var hourWords = strings.NewReplacer("half past twelve", "12:30", "half past one", "1:30", "half past two", "2:30", "half past three", "3:30", "half past four", "4:30", "half past five", "5:30",
	"half past six", "6:30", "half past seven", "7:30", "half past eight", "8:30", "half past nine", "9:30", "half past ten", "10:30", "half past eleven", "11:30", "midnight", "23:59")

func init() {
	for _, r := range []*regexp.Regexp{dateSpan, justDates, justTimes, oneTime} {
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
}

// FindTimes finds the times and spans a text names, in their order, as somebody
// with the week w understands them who reads what was written at written. What
// lies before that is left out.
func (w Week) FindTimes(text string, written Instant) (out []Found) {
	if len(text) > findIn {
		text = strings.ToValidUTF8(text[:findIn], "")
	}
	var days, times []bit
	for _, m := range dateSpan.FindAllStringSubmatchIndex(text, -1) {
		g := func(i int) string { return strings.ToLower(text[m[2*i]:m[2*i+1]]) }
		year := ""
		if m[8] >= 0 {
			year = " " + g(4)
		}
		days = append(days, bit{from: m[0], to: m[1], day: g(1) + " " + g(3) + year, last: g(2) + " " + g(3) + year})
	}
	for _, m := range justDates.FindAllStringIndex(text, -1) {
		if word := text[m[0]:m[1]]; !covered(days, m[0], m[1]) && !notDays[word] {
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
		f, ok := Found{}, false
		if best >= 0 {
			if f, ok = w.found(text, d, times[best], written); ok {
				used[best] = true
			}
		}
		if !ok {
			f, ok = w.found(text, d, bit{}, written)
		}
		if ok {
			out = append(out, f)
		}
	}
	for i, t := range times { // a time alone is of the day on which it was written
		if !used[i] && (t.end != "" || strings.ContainsAny(t.start, ":.") || strings.HasSuffix(t.start, "m")) && !words[t.start] {
			if f, ok := w.found(text, bit{from: t.from, to: t.from, day: "today"}, t, written); ok {
				out = append(out, f)
			}
		}
	}
	sort.Slice(out, func(i, j int) bool { return out[i].From < out[j].From })
	return out
}

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
	s = hourWords.Replace(strings.ToLower(strings.TrimSpace(s)))
	s = strings.TrimSpace(strings.NewReplacer("a.m.", "am", "p.m.", "pm", "half past ", "", "o'clock", "").Replace(s))
	if n := numberWords[s]; n != "" {
		return n
	}
	if m := regexp.MustCompile(`^(\d{1,2})\.(\d{2})(.*)$`).FindStringSubmatch(s); m != nil {
		s = m[1] + ":" + m[2] + m[3]
	}
	return s
}

// found reads a day with a time as one Found.
func (w Week) found(text string, day, clock bit, written Instant) (f Found, ok bool) {
	quiet := w
	quiet.TwelveHour = false // an hour without am or pm is as it is written
	at := quiet
	f.From, f.To = day.from, day.to
	if clock.to > 0 {
		f.From, f.To = min(day.from, clock.from), max(day.to, clock.to)
		if day.from == day.to {
			f.From = clock.from
		}
		if m := zoneName.FindStringSubmatch(text[clock.to:]); m != nil {
			if zone := zoneOf(m); zone != "" {
				at.Zone = zone
				f.To = max(f.To, clock.to+len(strings.TrimRight(m[0], " ")))
			}
		}
	}
	spoken := quiet
	spoken.Zone = at.Zone
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
		now := written
		if day == "today" || words[clock] {
			now = DayStart(written, spoken.Location(), 0) - 1
			if t := spoken.Read("tomorrow "+clock, now); day == "today" && clock != "" { // midnight and all that follows is ahead
				return t.Moment, !t.Moment.IsZero() && t.Moment.At > written
			}
		}
		r := spoken.Read(phrase, now)
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
	f.Text = strings.TrimSpace(text[f.From:f.To])
	f.By = byWords.MatchString(text[max(0, f.From-40):f.From])
	return f, true
}

// zoneOf is the IANA name of the zone that words after a time name; empty if
// they name none. A bare offset is given as one of the Etc zones.
func zoneOf(m []string) string {
	name := strings.TrimSpace(m[1])
	if m[2] != "" {
		return cities[strings.ToLower(m[2])]
	}
	if strings.Contains(name, "/") {
		if _, err := LoadZone(name); err == nil {
			return name
		}
		return ""
	}
	offset, known := zoneOffsets[strings.TrimSpace(name)]
	if !known {
		sign := 1
		rest := strings.TrimSpace(name[3:])
		if strings.HasPrefix(rest, "-") || strings.HasPrefix(rest, "−") {
			sign = -1
		}
		hours, minutes, _ := strings.Cut(strings.TrimLeft(rest, "+-−"), ":")
		offset = sign * (atoi(hours)*60 + atoi(minutes))
	}
	if offset%60 != 0 || offset < -12*60 || offset > 14*60 {
		return ""
	}
	if offset == 0 {
		return "Etc/UTC"
	}
	return "Etc/GMT" + map[bool]string{true: "-", false: "+"}[offset > 0] + strconv.Itoa(abs(offset/60)) // the sign is that of POSIX
}

func abs(n int) int { return max(n, -n) }
