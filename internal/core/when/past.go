package when

import (
	"strconv"
	"strings"
	"time"
)

// seasons begin with the first of these months, as weather services have it in the north
// of the world (World Meteorological Organization).
var seasons = map[string]time.Month{"spring": time.March, "summer": time.June, "autumn": time.September, "fall": time.September, "winter": time.December}

// Lately is the stretch that phrase names, as somebody with the week w means it at the
// instant now who looks for what has been: "october", "spring 2025", "last week", "2024",
// "the last 3 months", "yesterday", "3 nov", in English and in the person's languages. It
// may reach beyond now, where what is named is not over. The zero Stretch is none: the
// phrase names no time, or one that lies ahead.
func (w Week) Lately(phrase string, now Instant) Stretch {
	if len(phrase) > maxPhrase {
		return Stretch{}
	}
	for _, words := range w.InEnglish(phrase) {
		if s := w.lately(strings.Fields(strings.ToLower(words)), now); s != (Stretch{}) {
			return s
		}
	}
	if r := w.ReadIn(Field{Way: Back}, phrase, now); r.Doubt == "" && !r.Moment.IsZero() {
		loc := w.Location()
		day := midnight(r.Moment.Wall(loc))
		return Stretch{Of(Resolve(day, loc)), Of(Resolve(day.AddDate(0, 0, 1), loc))}
	}
	return Stretch{}
}

func (w Week) lately(words []string, now Instant) Stretch {
	loc := w.Location()
	today := midnight(wall(now.In(loc)))
	of := func(from, to time.Time) Stretch {
		if from.After(today) || today.Year()-from.Year() > farthest {
			return Stretch{}
		}
		return Stretch{Of(Resolve(from, loc)), Of(Resolve(to, loc))}
	}
	month := func(year int, m time.Month, n int) Stretch {
		first := time.Date(year, m, 1, 0, 0, 0, 0, time.UTC)
		return of(first, first.AddDate(0, n, 0))
	}
	year := func(y int) Stretch { return month(y, time.January, 12) }
	if len(words) > 0 && (words[0] == "the" || words[0] == "of") {
		words = words[1:]
	}
	how := ""
	if len(words) > 1 && (words[0] == "last" || words[0] == "this" || words[0] == "past") {
		how, words = words[0], words[1:]
	}
	// named is the year of what is named with a month or a season, which begins in month m.
	named := func(rest []string, m time.Month) (int, bool) {
		y := today.Year()
		if len(rest) == 1 {
			n, ok := yearOf(rest[0])
			return n, ok && how == ""
		}
		if len(rest) > 0 {
			return 0, false
		}
		if m > today.Month() || how == "last" && m == today.Month() {
			y--
		}
		return y, true
	}
	switch {
	case len(words) == 0:
		return Stretch{}
	case len(words) == 1 && words[0] == "week":
		from := w.StartOfWeek(today)
		if how == "" {
			return Stretch{}
		}
		if how != "this" {
			from = from.AddDate(0, 0, -7)
		}
		return of(from, from.AddDate(0, 0, 7))
	case len(words) == 1 && words[0] == "month" && how != "":
		first := today.AddDate(0, 0, 1-today.Day())
		if how != "this" {
			first = first.AddDate(0, -1, 0)
		}
		return of(first, first.AddDate(0, 1, 0))
	case len(words) == 1 && words[0] == "year" && how != "":
		if how != "this" {
			return year(today.Year() - 1)
		}
		return year(today.Year())
	case len(words) == 1 && how == "":
		if n, ok := yearOf(words[0]); ok {
			return year(n)
		}
	case len(words) == 2 && (how == "last" || how == "past"):
		n, err := strconv.Atoi(words[0])
		if small, ok := counts[words[0]]; err != nil && ok {
			n, err = small, nil
		}
		if err != nil || n < 1 || n > 5000 {
			break
		}
		var from time.Time
		switch strings.TrimSuffix(words[1], "s") {
		case "day":
			from = today.AddDate(0, 0, 1-n)
		case "week":
			from = today.AddDate(0, 0, -7*n)
		case "month":
			from = addMonths(today, -n)
		case "year":
			from = addMonths(today, -12*n)
		default:
			return Stretch{}
		}
		return of(from, today.AddDate(0, 0, 1))
	}
	if m, ok := months[strings.TrimSuffix(words[0], ".")]; ok {
		if y, ok := named(words[1:], m); ok {
			return month(y, m, 1)
		}
	}
	if m, ok := seasons[words[0]]; ok {
		if y, ok := named(words[1:], m); ok {
			return month(y, m, 3)
		}
	}
	return Stretch{}
}

func yearOf(word string) (int, bool) {
	n, err := strconv.Atoi(word)
	return n, err == nil && len(word) == 4 && n >= 1970 && n <= 2200
}
