package when

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"
)

// begins is the weekday with which weeks begin.
func (w Week) begins() time.Weekday {
	switch w.First {
	case OnSunday:
		return time.Sunday
	case OnSaturday:
		return time.Saturday
	}
	return time.Monday
}

// firstWorking is the first working day from d on, lastWorking the last until d.
func (w Week) firstWorking(d time.Time) time.Time { return w.working(d, 1) }
func (w Week) lastWorking(d time.Time) time.Time  { return w.working(d, -1) }

func (w Week) working(d time.Time, step int) time.Time {
	for i := 0; i < 6 && !w.Works(d.Weekday()); i++ {
		d = d.AddDate(0, 0, step)
	}
	return d
}

// workdaysOn is the n-th working day after d; d itself for none.
func (w Week) workdaysOn(d time.Time, n int) time.Time {
	for ; n > 0; n-- {
		d = w.firstWorking(d.AddDate(0, 0, 1))
	}
	return d
}

// StartOfWeek is the midnight, carried in UTC, with which the calendar week begins in
// which the date of t lies (its own zone is ignored).
func (w Week) StartOfWeek(t time.Time) time.Time {
	d := midnight(t)
	return d.AddDate(0, 0, -(int(d.Weekday())-int(w.begins())+7)%7)
}

// nextWeek is the first day of the next calendar week, firstOfMonth that of the
// month n after this one.
func (p *parser) nextWeek() time.Time { return p.w.StartOfWeek(p.now).AddDate(0, 0, 7) }

func (p *parser) firstOfMonth(n int) time.Time {
	return time.Date(p.now.Year(), p.now.Month()+time.Month(n), 1, 0, 0, 0, 0, time.UTC)
}

// inWeek is that weekday of the week that begins at first.
func (p *parser) inWeek(first time.Time, day time.Weekday) time.Time {
	return first.AddDate(0, 0, (int(day)-int(first.Weekday())+7)%7)
}

// dayNumber reads the day of a month: "15", "15th", "15.".
func dayNumber(t string) (int, bool) {
	n, err := strconv.Atoi(strings.TrimRight(strings.TrimSuffix(t, "."), "stndrh"))
	return n, err == nil && n >= 1 && n <= 31
}

// lastDay reads "last day of november", "last day of next month", "the 1st of next month".
func (p *parser) lastDay() bool {
	i := 0
	if p.at(0) == "the" {
		i = 1
	}
	if n, ok := dayNumber(p.at(i)); ok && p.at(i+1) == "of" && p.at(i+2) == "next" && p.at(i+3) == "month" {
		day := p.firstOfMonth(1).AddDate(0, 0, n-1)
		if day.Month() != p.firstOfMonth(1).Month() && p.wrong == "" {
			p.wrong = "There is no such day. Check the day and the month."
		}
		p.take(i + 4)
		return p.setDay(day)
	}
	if p.at(i) != "last" || p.at(i+1) != "day" || p.at(i+2) != "of" {
		return false
	}
	i += 3
	first := p.firstOfMonth(0)
	switch m, named := months[p.at(i)]; {
	case named:
		first = time.Date(p.now.Year(), m, 1, 0, 0, 0, 0, time.UTC)
		if yearNumber.MatchString(p.at(i + 1)) {
			first = first.AddDate(atoi(p.at(i+1))-first.Year(), 0, 0)
			i++
		} else if first.AddDate(0, 1, -1).Before(midnight(p.now)) {
			first = first.AddDate(1, 0, 0)
		}
		i++
	case p.at(i) == "the" && p.at(i+1) == "month", p.at(i) == "this" && p.at(i+1) == "month":
		i += 2
	case p.at(i) == "next" && p.at(i+1) == "month":
		first, i = p.firstOfMonth(1), i+2
	default:
		return false
	}
	p.take(i)
	return p.setDay(first.AddDate(0, 1, -1))
}

// isoWeek reads a week by its number (ISO 8601): "w51", "week 51", each with a
// weekday before or after it; alone, its first working day.
func (p *parser) isoWeek() bool {
	i := 0
	day, named := weekdays[p.at(0)]
	if named {
		i = 1
	}
	word := p.at(i)
	digits, glued := strings.CutPrefix(word, "w")
	switch {
	case word == "week" || word == "wk":
		digits = p.at(i + 1)
		i += 2
	case glued:
		i++
	default:
		return false
	}
	n, err := strconv.Atoi(digits)
	if err != nil || n < 1 || n > 53 || len(digits) > 2 {
		return false
	}
	if d, after := weekdays[p.at(i)]; !named && after {
		day, named, i = d, true, i+1
	}
	monday := func(year int) time.Time { // of the week n: the first has 4 January in it
		jan4 := time.Date(year, 1, 4, 0, 0, 0, 0, time.UTC)
		return jan4.AddDate(0, 0, 7*(n-1)-(int(jan4.Weekday())+6)%7)
	}
	year, _ := p.now.ISOWeek()
	for d := monday(year); ; d = monday(year) {
		if _, is := d.ISOWeek(); is == n && !d.AddDate(0, 0, 6).Before(midnight(p.now)) {
			p.take(i)
			p.note = fmt.Sprintf("week %d", n)
			if named {
				return p.setDay(p.inWeek(d, day))
			}
			return p.setDay(p.w.firstWorking(d))
		}
		year++ // not every year has a week 53
	}
}

// spokenClock reads "half past two", "half three", "quarter to five", "ten past 9".
func (p *parser) spokenClock() bool {
	number := func(t string) (int, bool) {
		if n := numberWords[t]; n != "" {
			t = n
		}
		n, err := strconv.Atoi(t)
		return n, err == nil && len(t) <= 2
	}
	i := 0
	if p.at(0) == "a" && p.at(1) == "quarter" {
		i = 1
	}
	minutes, counted := 0, true
	switch t := p.at(i); t {
	case "half":
		minutes = 30
	case "quarter":
		minutes = 15
	case "twenty":
		minutes = 20
	default:
		minutes, counted = number(t)
	}
	if !counted || minutes < 1 || minutes > 59 {
		return false
	}
	way := p.at(i + 1)
	if p.at(i) == "half" && way != "past" { // "half three", as it is said in English
		way, i = "past", i-1
	}
	hour, ok := number(p.at(i + 2))
	if !ok || hour < 1 || hour > 12 || way != "past" && way != "to" {
		return false
	}
	p.take(i + 3)
	half := p.at(0) // am and pm are those of the hour that is named
	if half == "am" || half == "pm" {
		p.take(1)
		if hour %= 12; half == "pm" {
			hour += 12
		}
	}
	if way == "to" {
		hour, minutes = (hour+23)%24, 60-minutes
	}
	if half != "am" && half != "pm" {
		p.bare = p.w.TwelveHour && hour >= 1
		p.early = hour >= 1 && hour <= 6
		if hour == 0 { // "quarter to one", in daylight
			hour = 12
		}
	}
	return p.setTime(hour, minutes, nil)
}

// clockChange says what is the matter with a wall-clock time on a day on which the
// clocks are changed: that it is left out, or comes twice. Empty for all others.
func (w Week) clockChange(t time.Time) string {
	loc := w.Location()
	at := Resolve(t, loc)
	shown := wall(at.In(loc))
	day := t.Format("Mon 2 Jan")
	if !shown.Equal(wall(t)) {
		return fmt.Sprintf("On %s the clocks go forward, and there is no %s.", day, w.clock(t))
	}
	for _, later := range []time.Duration{30 * time.Minute, time.Hour, 2 * time.Hour} {
		if wall(at.Add(later).In(loc)).Equal(shown) {
			return fmt.Sprintf("On %s the clocks go back, and %s comes twice. The first,", day, w.clock(t))
		}
	}
	return ""
}

// known are the words of which phrases are made, for what is mistyped.
var known = []string{"today", "tonight", "tomorrow", "morning", "afternoon", "evening", "lunch", "noon", "midday", "midnight", "weekend", "week", "month", "fortnight",
	"monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday", "january", "february", "march", "april", "june", "july", "august", "september",
	"october", "november", "december", "next", "first", "second", "third", "fourth", "last", "after", "before", "until", "minutes", "hours", "days", "weeks", "months", "quarter", "half"}

// unknown says which part of a phrase was not understood, and the nearest that would
// be.
func (p *parser) unknown() Reading {
	if len(p.tokens) == 0 { // "at"
		return unclear("That names no time yet. Write when: “fri after lunch”, “in 3 days”, “24 dec”.")
	}
	rest := strings.Join(p.tokens, " ")
	for i := 0; i < min(len(p.tokens), mistypedAmong) && !p.field.nearest; i++ {
		if nearest := near(p.tokens[i]); nearest != "" {
			meant := slices.Concat(p.tokens[:i:i], []string{nearest}, p.tokens[i+1:])
			if p.understands(meant) {
				return unclear(fmt.Sprintf("Ebbe does not know “%s” as a time. Do you mean “%s”?", rest, strings.Join(meant, " ")))
			}
		}
	}
	return unclear(fmt.Sprintf("Ebbe does not know “%s” as a time. Try “fri after lunch”, “in 3 days” or “24 dec 9:00”.", rest))
}

// mistypedAmong is in how many words of what was not understood a mistyped one is looked for.
const mistypedAmong = 6

// understands says that these words would be a time in the field of p, so that they can be
// offered for what was typed.
func (p *parser) understands(words []string) bool {
	f := p.field
	f.nearest = true
	r, _ := p.w.read(f, strings.Join(words, " "), Of(Resolve(p.now, p.w.Location())))
	return r.Doubt != Unclear
}

// near is the word of which phrases are made that was probably meant by a mistyped one;
// empty where none is near, or the word is one itself.
func near(word string) (nearest string) {
	distance := 3
	for _, k := range known {
		if d := edits(word, k); d < distance && d < len(k)/2 {
			nearest, distance = k, d
		}
	}
	if distance == 0 {
		return ""
	}
	return nearest
}

// edits is how many letters have to be changed, put in, left out or exchanged with
// their neighbour to make a of b; 9 where one is much longer than the other.
func edits(a, b string) int {
	x, y := []rune(a), []rune(b)
	if abs(len(x)-len(y)) > 2 {
		return 9
	}
	rows := make([][]int, len(x)+1)
	for i := range rows {
		rows[i] = make([]int, len(y)+1)
		rows[i][0] = i
	}
	for j := range y {
		rows[0][j+1] = j + 1
	}
	for i := range x {
		for j := range y {
			cost := 1
			if x[i] == y[j] {
				cost = 0
			}
			rows[i+1][j+1] = min(rows[i][j+1]+1, rows[i+1][j]+1, rows[i][j]+cost)
			if i > 0 && j > 0 && x[i] == y[j-1] && x[i-1] == y[j] {
				rows[i+1][j+1] = min(rows[i+1][j+1], rows[i-1][j-1]+1)
			}
		}
	}
	return rows[len(x)][len(y)]
}
