package when

import (
	"errors"
	"fmt"
	"iter"
	"regexp"
	"strconv"
	"strings"
	"time"

	"github.com/teambition/rrule-go"
)

// Recur is a recurrence rule, the RECUR of RFC 5545, section 3.3.10, in which a
// day is the finest step. It falls on wall-clock times: what the clocks of a
// zone do does not move it.
type Recur struct {
	text string
	opt  rrule.ROption
}

// recurYears is for how many years from its beginning a rule is followed.
const recurYears = 50

// Errors of ParseRecur and Recur.Falls. Their texts are parts of sentences for
// the user.
var (
	ErrRecur = errors.New("that is no rule for repeating that Ebbe can read")
	ErrFine  = errors.New("it repeats more often than once a day, which a follow-up cannot")
	ErrNever = fmt.Errorf("that rule never falls on a day within %d years", recurYears)
)

// ParseRecur reads a rule such as "FREQ=WEEKLY;BYDAY=MO,TH". An UNTIL in UTC is
// understood on the clocks of loc. It gives ErrRecur or ErrFine.
func ParseRecur(text string, loc *time.Location) (Recur, error) {
	text = strings.TrimPrefix(strings.ToUpper(strings.TrimSpace(text)), "RRULE:")
	opt, err := rrule.StrToROption(text)
	if err != nil || len(text) > 500 || opt.Interval < 0 {
		return Recur{}, ErrRecur
	}
	if opt.Freq > rrule.DAILY || len(opt.Byhour)+len(opt.Byminute)+len(opt.Bysecond) > 0 {
		return Recur{}, ErrFine
	}
	if !opt.Until.IsZero() {
		if i := strings.Index(text, "UNTIL="); i >= 0 {
			value, _, _ := strings.Cut(text[i+len("UNTIL="):], ";")
			if strings.HasSuffix(value, "Z") {
				opt.Until = wall(opt.Until.In(loc))
			} else if len(value) == len("20060102") { // a day counts whole
				opt.Until = midnight(opt.Until).Add(24*time.Hour - time.Second)
			}
		}
	}
	opt.Dtstart = time.Time{}
	if _, err := rrule.NewRRule(*opt); err != nil {
		return Recur{}, ErrRecur
	}
	return Recur{text, *opt}, nil
}

// Count is after how many occurrences the rule ends; 0 if no number ends it.
func (r Recur) Count() int { return r.opt.Count }

// Endless says that neither a number nor a date ends the rule.
func (r Recur) Endless() bool { return r.opt.Count == 0 && r.opt.Until.IsZero() }

// Falls lists the wall-clock times, carried in UTC, on which the rule falls,
// counted from first on. The rule's own Count holds unless counted is false.
func (r Recur) Falls(first time.Time, counted bool) iter.Seq[time.Time] {
	opt := r.opt
	opt.Dtstart = wall(first)
	end := opt.Dtstart.AddDate(recurYears, 0, 0)
	if opt.Until.IsZero() || opt.Until.After(end) {
		opt.Until = end
	}
	if !counted {
		opt.Count = 0
	}
	return func(yield func(time.Time) bool) {
		rule, err := rrule.NewRRule(opt)
		if err != nil {
			return
		}
		for next := rule.Iterator(); ; {
			t, ok := next()
			if !ok || !yield(t) {
				return
			}
		}
	}
}

// FallsFrom lists those of the wall-clock times of Falls that are not before from.
// What lies before is stepped over in whole periods of the rule, so that it costs
// nothing, unless the rule counts its occurrences.
func (r Recur) FallsFrom(first, from time.Time) iter.Seq[time.Time] {
	first, from = wall(first), wall(from)
	near := r
	if end := first.AddDate(recurYears, 0, 0); near.opt.Until.IsZero() || near.opt.Until.After(end) {
		near.opt.Until = end
	}
	begins := first
	if r.opt.Count == 0 && from.After(first) {
		begins = r.stepTo(first, from)
	}
	return func(yield func(time.Time) bool) {
		for t := range near.Falls(begins, true) {
			if !t.Before(from) && !yield(t) {
				return
			}
		}
	}
}

// stepTo is a beginning before from, whole periods of the rule after first, from
// which it falls on the same times; first itself where there is none.
func (r Recur) stepTo(first, from time.Time) time.Time {
	n := max(r.opt.Interval, 1)
	days := int(from.Sub(first).Hours() / 24)
	months := (from.Year()-first.Year())*12 + int(from.Month()) - int(first.Month())
	step := func(size, span int) int { return max(span/size-1, 0) * size } // and one period less, as a day is not always whole
	begins := first
	switch r.opt.Freq {
	case rrule.DAILY:
		begins = first.AddDate(0, 0, step(n, days))
	case rrule.WEEKLY:
		begins = first.AddDate(0, 0, step(7*n, days))
	case rrule.MONTHLY:
		if first.Day() > 28 { // not every month has that day: every year's same month but one has
			n *= 12
		}
		begins = first.AddDate(0, step(n, months), 0)
	case rrule.YEARLY:
		begins = first.AddDate(step(n, months/12), 0, 0)
	}
	if begins.Day() != first.Day() && r.opt.Freq < rrule.WEEKLY { // of a 29 February
		return first
	}
	return begins
}

// Wall is the wall-clock reading of m, carried in UTC: the one that was meant,
// or what the clocks of loc show at it.
func (m Moment) Wall(loc *time.Location) time.Time {
	for _, layout := range []string{wallTime, wallDate} {
		if t, err := time.Parse(layout, m.Local); err == nil {
			return t
		}
	}
	return wall(m.At.In(loc))
}

// OnWall is the Moment at the wall-clock time w, whole or timed as m is, in the
// zone of m or else in loc.
func (m Moment) OnWall(w time.Time, loc *time.Location) Moment {
	if zone, err := LoadZone(m.Zone); err == nil && m.Zone != "" {
		loc = zone
	}
	if m.WholeDay() {
		return dayMoment(w, loc)
	}
	return wallMoment(w, loc)
}

// AtWall is the Moment at the wall-clock time t (its own zone is ignored) in loc.
func AtWall(t time.Time, loc *time.Location) Moment { return wallMoment(t, loc) }

// WholeDayOf is the whole day of t (its own zone is ignored) in loc.
func WholeDayOf(t time.Time, loc *time.Location) Moment { return dayMoment(t, loc) }

// RuleReading is what words about repeating were taken to mean.
type RuleReading struct {
	Rule     string `json:"rule"`     // RECUR of RFC 5545, section 3.3.10
	FromDone bool   `json:"fromDone"` // counted from the day it was done
	DaysOff  bool   `json:"daysOff"`  // days off are left out
	Wrong    string `json:"wrong,omitempty"`
}

var (
	everyWords = regexp.MustCompile(`^(?:every|each)\s+(.+)$`)
	timesWords = regexp.MustCompile(`\s+(\d{1,3})\s*(?:times|×|x)$`)
	untilWords = regexp.MustCompile(`\s+(?:until|till)\s+(.+)$`)
	doneWords  = regexp.MustCompile(`\s+(?:after|from)\s+(?:it\s+is\s+|it's\s+|being\s+)?(?:done|finished)$`)
	offWords   = regexp.MustCompile(`\s+(?:but\s+)?not\s+on\s+days\s+off$`)
	stepWords  = regexp.MustCompile(`^(?:(\d{1,3}|other|second|third|fourth)\s+)?(day|week|month|year|workday|weekday)s?(?:\s+on\s+(.+))?$`)
	orderWords = regexp.MustCompile(`^(?:the\s+)?(first|1st|second|2nd|third|3rd|fourth|4th|last)\s+(\w+)(?:\s+of\s+(?:the|each|every)?\s*month)?$`)
	dayOfMonth = regexp.MustCompile(`^(?:the\s+)?(\d{1,2})(?:st|nd|rd|th)?(?:\s+of\s+(?:the|each|every)?\s*month)?$`)
	lastDay    = regexp.MustCompile(`^(?:the\s+)?last(?:\s+day)?(?:\s+of\s+(?:the|each|every)?\s*month)?$`)
)

var everyShort = map[string]string{"daily": "day", "weekly": "week", "fortnightly": "2 weeks", "monthly": "month", "yearly": "year", "annually": "year"}
var byDay = [7]string{"SU", "MO", "TU", "WE", "TH", "FR", "SA"}

// ReadRule reads words about repeating: "every monday", "every 2 weeks", "every
// last friday", "monthly until june", "every 10 days after it is done". known
// says that the words are about repeating at all.
func (w Week) ReadRule(words string, now Instant) (r RuleReading, known bool) {
	text := strings.Join(tokens(words), " ")
	if short, rest, _ := strings.Cut(text, " "); everyShort[short] != "" {
		text = strings.TrimSpace("every " + everyShort[short] + " " + rest)
	}
	m := everyWords.FindStringSubmatch(text)
	if m == nil {
		return r, false
	}
	rest, tail := " "+m[1], ""
	if offWords.MatchString(rest) {
		rest, r.DaysOff = offWords.ReplaceAllString(rest, ""), true
	}
	if doneWords.MatchString(rest) {
		rest, r.FromDone = doneWords.ReplaceAllString(rest, ""), true
	}
	if m := timesWords.FindStringSubmatch(rest); m != nil {
		rest, tail = timesWords.ReplaceAllString(rest, ""), ";COUNT="+m[1]
	} else if m := untilWords.FindStringSubmatch(rest); m != nil {
		u := w.Read(m[1], now)
		if u.Moment.IsZero() {
			r.Wrong = fmt.Sprintf("Ebbe does not know “%s” as an end of repeating.", m[1])
			return r, true
		}
		rest, tail = untilWords.ReplaceAllString(rest, ""), ";UNTIL="+u.Moment.Wall(w.Location()).Format("20060102")
	}
	if r.Rule = w.rule(strings.TrimSpace(rest)); r.Rule == "" {
		r.Wrong = fmt.Sprintf("Ebbe does not know “%s” as a way of repeating. Try “every monday”, “every 2 weeks” or “every last friday”.", words)
		return r, true
	}
	r.Rule += tail
	if _, err := ParseRecur(r.Rule, w.Location()); err != nil {
		r.Wrong = "That cannot be repeated: " + err.Error() + "."
	}
	return r, true
}

func (w Week) rule(text string) string {
	if m := stepWords.FindStringSubmatch(text); m != nil {
		n := map[string]int{"other": 2, "second": 2, "third": 3, "fourth": 4}[m[1]]
		if n == 0 {
			n = max(atoi(m[1]), 1)
		}
		interval := ""
		if n > 1 {
			interval = ";INTERVAL=" + strconv.Itoa(n)
		}
		switch m[2] {
		case "workday", "weekday":
			var days []string
			for d := range byDay {
				if w.Works(time.Weekday(d)) {
					days = append(days, byDay[d])
				}
			}
			if m[3] != "" || n > 1 {
				return ""
			}
			return "FREQ=WEEKLY;BYDAY=" + strings.Join(days, ",")
		case "week":
			if m[3] == "" {
				return "FREQ=WEEKLY" + interval
			}
			if days := weekdayList(m[3]); days != "" {
				return "FREQ=WEEKLY" + interval + ";BYDAY=" + days
			}
			return ""
		case "month":
			if m[3] == "" {
				return "FREQ=MONTHLY" + interval
			}
			if part := monthPart(m[3]); part != "" {
				return "FREQ=MONTHLY" + interval + part
			}
			return ""
		}
		if m[3] != "" {
			return ""
		}
		return map[string]string{"day": "FREQ=DAILY", "year": "FREQ=YEARLY"}[m[2]] + interval
	}
	if days := weekdayList(text); days != "" {
		return "FREQ=WEEKLY;BYDAY=" + days
	}
	if part := monthPart(text); part != "" {
		return "FREQ=MONTHLY" + part
	}
	p := &parser{w: w, now: time.Date(2024, 1, 1, 0, 0, 0, 0, time.UTC), tokens: strings.Fields(text), hour: -1} // a leap year
	if p.calendarDate() && len(p.tokens) == 0 && p.wrong == "" && p.yearly {
		return fmt.Sprintf("FREQ=YEARLY;BYMONTH=%d;BYMONTHDAY=%d", p.day.Month(), p.day.Day())
	}
	return ""
}

// weekdayList reads "mon, wed and fri" as BYDAY has it.
func weekdayList(text string) string {
	var days []string
	for _, word := range strings.Fields(strings.NewReplacer("and", " ", "&", " ").Replace(text)) {
		d, ok := weekdays[strings.TrimSuffix(word, "s")]
		if !ok {
			if d, ok = weekdays[word]; !ok {
				return ""
			}
		}
		days = append(days, byDay[d])
	}
	return strings.Join(days, ",")
}

// monthPart reads which day of a month is meant. A day that some months do not
// have falls on their last one.
func monthPart(text string) string {
	if m := orderWords.FindStringSubmatch(text); m != nil {
		if d, ok := weekdays[m[2]]; ok {
			return fmt.Sprintf(";BYDAY=%d%s", counts[m[1]], byDay[d])
		}
	}
	if lastDay.MatchString(text) {
		return ";BYMONTHDAY=-1"
	}
	if m := dayOfMonth.FindStringSubmatch(text); m != nil {
		return MonthDayRule(atoi(m[1]))
	}
	return ""
}

// MonthDayRule is the part of a monthly rule for that day of the month; a month
// that is too short has its last day instead. It is empty for no such day.
func MonthDayRule(day int) string {
	switch {
	case day < 1 || day > 31:
		return ""
	case day == 31:
		return ";BYMONTHDAY=-1"
	case day > 28:
		list := "28"
		for d := 29; d <= day; d++ {
			list += "," + strconv.Itoa(d)
		}
		return ";BYMONTHDAY=" + list + ";BYSETPOS=-1"
	}
	return ";BYMONTHDAY=" + strconv.Itoa(day)
}

// SayRule writes a rule as a person would: "every 2 weeks on Mon and Thu".
// What cannot be said in words is given as it is written.
func SayRule(rule string, loc *time.Location) string {
	r, err := ParseRecur(rule, loc)
	if err != nil {
		return rule
	}
	o := r.opt
	unit := [...]string{rrule.YEARLY: "year", rrule.MONTHLY: "month", rrule.WEEKLY: "week", rrule.DAILY: "day"}[o.Freq]
	text := "every " + unit
	if o.Interval > 1 {
		text = fmt.Sprintf("every %d %ss", o.Interval, unit)
	}
	var days []string
	for _, d := range o.Byweekday {
		name := time.Weekday((d.Day() + 1) % 7).String()[:3]
		if n := d.N(); n != 0 {
			name = map[int]string{1: "first ", 2: "second ", 3: "third ", 4: "fourth ", 5: "fifth ", -1: "last "}[n] + name
		}
		days = append(days, name)
	}
	switch {
	case len(o.Byyearday)+len(o.Byweekno)+len(o.Byeaster) > 0, len(o.Bysetpos) > 0 && len(o.Bymonthday) == 0, len(days) > 0 && len(o.Bymonthday) > 0:
		return r.text
	case len(days) > 0 && len(o.Bymonth) == 0:
		text += " on " + and(days)
	case len(days) == 0 && len(o.Bymonthday) > 0:
		last := o.Bymonthday[len(o.Bymonthday)-1]
		on := "the last day"
		if last > 0 {
			on = fmt.Sprintf("day %d", last)
		}
		if len(o.Bysetpos) == 0 && len(o.Bymonthday) > 1 {
			return r.text
		}
		if len(o.Bymonth) == 1 && last > 0 {
			on = fmt.Sprintf("%d %s", last, time.Month(o.Bymonth[0]).String()[:3])
		} else if len(o.Bymonth) > 0 {
			return r.text
		}
		text += " on " + on
	case len(o.Bymonth) > 0:
		return r.text
	}
	if o.Count > 0 {
		text += fmt.Sprintf(", %d times", o.Count)
	} else if !o.Until.IsZero() {
		text += " until " + o.Until.Format("2 Jan 2006")
	}
	return text
}

func and(words []string) string {
	if len(words) < 2 {
		return strings.Join(words, "")
	}
	return strings.Join(words[:len(words)-1], ", ") + " and " + words[len(words)-1]
}
