package when

import (
	"errors"
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"
)

// Rhythm is how something is done again and again until something else ends it: so many
// days or weeks apart, so many times at most.
type Rhythm struct {
	Every int        `json:"every"` // 1 to MaxEvery of Unit
	Unit  RhythmUnit `json:"unit"`
	Times int        `json:"times,omitempty"` // at most, up to MaxTimes; 0: until something ends it
}

// RhythmUnit is in what the distance of a rhythm is counted.
type RhythmUnit string

// The units.
const (
	WorkingDays RhythmUnit = "working" // of the person's week
	Days        RhythmUnit = "days"
	Weeks       RhythmUnit = "weeks"
)

// The most that a rhythm can have.
const (
	MaxEvery = 365
	MaxTimes = 99
)

// Valid says what is wrong with a rhythm.
func (r Rhythm) Valid() error {
	switch {
	case r.Every < 1 || r.Every > MaxEvery:
		return fmt.Errorf("a rhythm is of 1 to %d days or weeks", MaxEvery)
	case r.Unit != WorkingDays && r.Unit != Days && r.Unit != Weeks:
		return errors.New("a rhythm is of days, working days or weeks")
	case r.Times < 0 || r.Times > MaxTimes:
		return fmt.Errorf("a rhythm has at most %d times", MaxTimes)
	}
	return nil
}

// After is the time one distance after the day of now, at the clock of m.
func (r Rhythm) After(m Moment, w Week, now Instant) Moment {
	loc := w.Location()
	day, at := midnight(wall(now.In(loc))), m.Wall(loc)
	switch r.Unit {
	case WorkingDays:
		day = w.workdaysOn(day, r.Every)
	case Weeks:
		day = day.AddDate(0, 0, 7*r.Every)
	default:
		day = day.AddDate(0, 0, r.Every)
	}
	return m.OnWall(day.Add(at.Sub(midnight(at))), loc)
}

// First is the time one distance after the day of now, when the morning begins.
func (r Rhythm) First(w Week, now Instant) Moment {
	loc := w.Location()
	return r.After(wallMoment(midnight(wall(now.In(loc))).Add(time.Duration(w.Morning)*time.Minute), loc), w, now)
}

// Distance is how far apart it is: "every 3 working days".
func (r Rhythm) Distance() string {
	unit := map[RhythmUnit]string{WorkingDays: "working day", Days: "day", Weeks: "week"}[r.Unit]
	if r.Every == 1 {
		return "every " + unit
	}
	return fmt.Sprintf("every %d %ss", r.Every, unit)
}

// Say writes the rhythm as a person would, and as it can be typed: "every 3 working
// days, twice, then you are told".
func (r Rhythm) Say() string {
	text := r.Distance()
	switch r.Times {
	case 0:
		return text + " until an answer comes"
	case 1:
		return text + ", once, then you are told"
	case 2:
		return text + ", twice, then you are told"
	}
	return fmt.Sprintf("%s, %d times, then you are told", text, r.Times)
}

var (
	rhythmWords = regexp.MustCompile(`^(?:every|each)\s+(?:(other|second|third|fourth|\d{1,6}|one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve)\s+)?(working\s+days?|workdays?|weekdays?|days?|weeks?|[a-z]+)(?:\s+at\s+(\S+(?:\s*[ap]m)?))?$`)
	rhythmEnds  = regexp.MustCompile(`\s+(?:until|till)\s+(?:an?\s+|the\s+)?(?:answer(?:\s+comes)?|they\s+answer|answered)$`)
	rhythmTold  = regexp.MustCompile(`\s+(?:and\s+)?then\s+(?:tell\s+me|you\s+are\s+told)$`)
	rhythmTimes = regexp.MustCompile(`\s+(?:at\s+most\s+|up\s+to\s+)?(?:(once|twice)|(\d{1,6}|[a-z]+)\s*(?:times|×|x))$`)
	rhythmSteps = map[string]int{"": 1, "other": 2, "second": 2, "third": 3, "fourth": 4}
)

// ReadRhythm reads words such as "every 3 working days, twice, then tell me", and finds
// when the rhythm begins: one distance from now, or on the weekday that is named. known
// says that the words are about a rhythm at all; one that cannot be is Unclear.
func (w Week) ReadRhythm(words string, now Instant) (first Reading, known bool) {
	text := strings.Join(strings.Fields(strings.ReplaceAll(strings.ToLower(words), ",", " ")), " ")
	if short, rest, _ := strings.Cut(text, " "); short == "daily" || short == "weekly" || short == "fortnightly" {
		text = strings.TrimSpace("every " + everyShort[short] + " " + rest)
	}
	if !strings.HasPrefix(text, "every ") && !strings.HasPrefix(text, "each ") {
		return first, false
	}
	var r Rhythm
	const like = " Write it like “every 3 working days, twice, then tell me”."
	text = rhythmEnds.ReplaceAllString(rhythmTold.ReplaceAllString(text, ""), "")
	if m := rhythmTimes.FindStringSubmatch(text); m != nil {
		r.Times = map[string]int{"once": 1, "twice": 2}[m[1]]
		if m[2] != "" {
			r.Times = number(m[2])
		}
		if r.Times < 1 || r.Times > MaxTimes {
			return unclear(fmt.Sprintf("Ebbe asks 1 to %d times, not “%s”.", MaxTimes, strings.TrimSpace(m[0])) + like), true
		}
		text = rhythmTimes.ReplaceAllString(text, "")
	}
	m := rhythmWords.FindStringSubmatch(text)
	if m == nil {
		return unclear("Ebbe does not know “" + text + "” as a rhythm." + like), true
	}
	step, ok := rhythmSteps[m[1]]
	if !ok {
		step = number(m[1])
	}
	if step < 1 || step > MaxEvery {
		return unclear(fmt.Sprintf("Ebbe does not know “%s” as a distance: 1 to %d days or weeks can be.", m[1], MaxEvery) + like), true
	}
	r.Every = step
	switch unit := strings.TrimSuffix(m[2], "s"); unit {
	case "working day", "workday", "weekday":
		r.Unit = WorkingDays
	case "day":
		r.Unit = Days
	case "week":
		r.Unit = Weeks
	default:
		if _, named := weekdays[unit]; !named {
			return unclear("Ebbe does not know “" + m[2] + "” as a distance." + like), true
		}
		r.Unit = Weeks
		first, _ = w.read(Field{}, unit, now)
	}
	if first.Moment.IsZero() {
		first.Moment = r.First(w, now)
	}
	if m[3] != "" {
		clock, _ := w.read(Field{}, "tomorrow at "+m[3], now)
		if clock.Doubt != "" || !clock.Timed {
			return unclear("Ebbe does not know “" + m[3] + "” as a time of day." + like), true
		}
		loc := w.Location()
		at, of := first.Moment.Wall(loc), clock.Moment.Wall(loc)
		first.Moment = first.Moment.OnWall(midnight(at).Add(of.Sub(midnight(of))), loc)
		first.Timed = true
	}
	first.Doubt, first.Other, first.Instead = "", Moment{}, ""
	first.Rhythm = &r
	first.Sentence = w.Say(first.Moment, now) + ", then " + r.Say()
	if r.Times == 1 {
		first.Sentence = w.Say(first.Moment, now) + ", once, then you are told"
	}
	return first, true
}

// number reads "3" or "three"; 0 for what is none.
func number(word string) int {
	if n := numberWords[word]; n != "" {
		word = n
	}
	n, err := strconv.Atoi(word)
	if err != nil {
		return 0
	}
	return n
}
