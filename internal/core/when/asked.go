package when

import (
	"regexp"
	"strconv"
	"strings"
	"time"
)

// Stretch is a span of whole days: from the beginning of the first to the end of the
// last. The zero Stretch is none.
type Stretch struct{ From, To Instant }

var (
	weekOfMonth = regexp.MustCompile(`(?i)\b(first|second|third|fourth|last|1st|2nd|3rd|4th) week (?:of|in) (next month|` + strings.TrimSuffix(monName, `\.?`) + `)\b`)
	weekOfDay   = regexp.MustCompile(`(?i)\bweek (?:of|from|beginning|starting) (?:the )?((?:` + dayNum + `\.? (?:of )?` + monName + `)|(?:` + monName + ` ` + dayNum + `))`)
	weekByNum   = regexp.MustCompile(`(?i)\b(?:week|w) ?(\d{1,2})\b`)
	wholeMonth  = regexp.MustCompile(`(?i)(?:^|[^\d.\s]|[^\d.]\s)\s*\b(january|february|march|april|june|july|august|september|october|november|december)\b\s*(?:[^\d\s]|$)`)
	otherWeek   = regexp.MustCompile(`(?i)\b(this|next) (week|month)\b`)
)

// Asked is the stretch about which a text in the language l asks when something suits,
// as somebody with the week w understands it who reads what was written at written: "the
// second week of December", "next week", "in January", "on Thursday". The narrowest is
// taken; none if it names none that is still ahead.
func (w Week) Asked(text string, l Language, written Instant) Stretch {
	if len(text) > findIn {
		text = strings.ToValidUTF8(text[:findIn], "")
	}
	if t := l.tongue(); t != nil {
		text = t.English(text, true, nil).Text
	}
	loc := w.Location()
	now := wall(written.In(loc))
	p := &parser{w: w, now: now, hour: -1}
	days := func(from time.Time, n int) Stretch {
		s := Stretch{Of(Resolve(from, loc)), Of(Resolve(from.AddDate(0, 0, n), loc))}
		if s.To <= written {
			return Stretch{}
		}
		return s
	}
	month := func(name string) time.Time {
		if strings.EqualFold(name, "next month") {
			return p.firstOfMonth(1)
		}
		first := time.Date(now.Year(), months[strings.ToLower(name)], 1, 0, 0, 0, 0, time.UTC)
		if !first.AddDate(0, 1, 0).After(midnight(now)) {
			first = first.AddDate(1, 0, 0)
		}
		return first
	}
	if m := weekOfMonth.FindStringSubmatch(text); m != nil {
		first := month(m[2])
		if n := counts[strings.ToLower(m[1])]; n > 0 {
			return days(first.AddDate(0, 0, 7*(n-1)), 7)
		}
		return days(first.AddDate(0, 1, -7), 7)
	}
	if m := weekOfDay.FindStringSubmatch(text); m != nil {
		if r := w.Read(m[1], written); r.sureness() >= 2 {
			return days(w.StartOfWeek(r.Moment.Wall(loc)), 7)
		}
	}
	if found := w.find(text, written); len(found) > 0 {
		first, last := found[0].Start, found[0].Start
		named := false
		for _, f := range found {
			if low := strings.ToLower(f.Text); strings.Contains(low, " week") || strings.Contains(low, " month") {
				continue
			}
			named = true
			first, last = earlier(first, f.Start), later(last, later(f.Start, f.End))
		}
		if named {
			from := midnight(first.Wall(loc))
			return days(from, int(midnight(last.Wall(loc)).Sub(from)/(24*time.Hour))+1)
		}
	}
	if m := weekByNum.FindStringSubmatch(text); m != nil {
		if n, _ := strconv.Atoi(m[1]); n >= 1 && n <= 53 {
			if r := w.Read("w"+m[1], written); r.sureness() >= 2 {
				return days(w.StartOfWeek(r.Moment.Wall(loc)), 7)
			}
		}
	}
	if m := otherWeek.FindStringSubmatch(text); m != nil {
		next := strings.EqualFold(m[1], "next")
		switch from := w.StartOfWeek(now); {
		case strings.EqualFold(m[2], "week") && next:
			return days(p.nextWeek(), 7)
		case strings.EqualFold(m[2], "week"):
			return days(from, 7)
		case next:
			return days(p.firstOfMonth(1), p.firstOfMonth(2).AddDate(0, 0, -1).Day())
		}
		return days(p.firstOfMonth(0), p.firstOfMonth(1).AddDate(0, 0, -1).Day())
	}
	if m := wholeMonth.FindStringSubmatch(text); m != nil {
		first := month(m[1])
		return days(first, first.AddDate(0, 1, -1).Day())
	}
	return Stretch{}
}

func earlier(a, b Moment) Moment {
	if b.IsZero() || !a.IsZero() && a.At <= b.At {
		return a
	}
	return b
}

func later(a, b Moment) Moment {
	if a.At >= b.At {
		return a
	}
	return b
}
