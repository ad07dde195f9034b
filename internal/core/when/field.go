package when

import (
	"fmt"
	"strings"
	"time"
)

// Way is the direction in which a field looks. What a phrase means in it never lies in
// the other.
type Way string

// The ways.
const (
	Ahead  Way = ""       // from now on: snooze, due, start, reminder, send later, ask again
	Back   Way = "back"   // until now: since, before and after in a search, since when one waits
	Either Way = "either" // a date that is looked up: ahead, unless it can only lie behind
)

// Field is what the words in a field can mean besides times of the calendar. The zero
// Field looks ahead and knows of nothing else.
type Field struct {
	Way     Way
	Round   Instant // when held mail comes in next; 0: no round is planned
	Someday Moment  // when what is left for someday is looked through; empty: it cannot be said here
	Rhythm  bool    // it can be said again and again
	nearest bool    // what is read is what somebody may have meant: no other is looked for
}

// maxPhrase is how long a phrase can be that is read as a time, in bytes.
const maxPhrase = 400

// beforeRound is how long before a round "before the round" is.
const beforeRound = Instant(15 * 60_000)

// ReadIn finds the time that phrase means in a field, for a person with the week w at
// the instant now, in English and in the person's languages. A Moment it gives lies
// after now in a field that looks ahead, and at now or before in one that looks back.
// What means one time in one language and another in the next is given as both, the
// earlier language first.
func (w Week) ReadIn(f Field, phrase string, now Instant) Reading {
	if len(phrase) > maxPhrase {
		return unclear("That is too long for a time. Write it in a few words: “fri after lunch”, “in 3 days”, “24 dec”.")
	}
	if f.Way == Either {
		f.Way = Ahead
		ahead := w.ReadIn(f, phrase, now)
		if ahead.sureness() >= 2 {
			return ahead
		}
		f.Way = Back
		if back := w.ReadIn(f, phrase, now); back.sureness() > ahead.sureness() {
			return back
		}
		return ahead
	}
	var best Reading
	rest := 0
	for i, words := range w.InEnglish(phrase) {
		r, left := w.read(f, words, now)
		switch {
		case i == 0, r.Doubt == Unclear && best.Doubt == Unclear && left < rest:
			best, rest = r, left
		case r.sureness() > best.sureness():
			if before := best; before.Doubt == Ambiguous && r.Other.IsZero() && before.Moment.At != r.Moment.At {
				r.Other, r.Instead = before.Moment, w.Say(before.Moment, now)
			}
			best = r
		case r.sureness() >= 2 && r.Moment.At != best.Moment.At && best.Other.IsZero():
			best.Other, best.Instead = r.Moment, w.Say(r.Moment, now)
		}
	}
	return best
}

// sureness orders readings: what is understood, what is asked about, what has passed,
// what is not understood.
func (r Reading) sureness() int {
	switch r.Doubt {
	case "":
		return 3
	case Ambiguous:
		return 2
	case Past:
		return 1
	}
	return 0
}

// read reads a phrase of the English grammar, and says how much of it was left that
// was not understood, in bytes.
func (w Week) read(f Field, phrase string, now Instant) (r Reading, left int) {
	loc := w.Location()
	p := &parser{w: w, field: f, now: wall(now.In(loc)), tokens: tokens(phrase), hour: -1}
	if len(p.tokens) == 0 {
		return unclear("Write when: “fri after lunch”, “in 3 days”, “24 dec”."), 0
	}
	if r, ok := w.named(f, strings.Join(p.tokens, " "), now); ok {
		return r, 0
	}
	if f.Rhythm {
		if r, ok := w.ReadRhythm(phrase, now); ok {
			return r, 0
		}
	}
	if d, calendar, ok := p.span(); ok {
		if f.Way == Back {
			return w.readAgo(d, calendar, now), 0
		}
		return w.readSpan(d, calendar, now), 0
	}
	if p.match("after", "the", "holidays") || p.match("after", "holidays") {
		return unclear("Ebbe does not know when your holidays end. Write the day: “7 jan”."), 0
	}
	for len(p.tokens) > 0 { // each step takes a word at least, so there are no more than words
		words := len(p.tokens)
		if !p.behind() && !p.date() && !p.time() || len(p.tokens) >= words {
			return p.unknown(), len(strings.Join(p.tokens, " "))
		}
	}
	if p.wrong != "" {
		return unclear(p.wrong), 0
	}
	if f.Way == Back {
		return p.settleBack(now), 0
	}
	return p.settle(now), 0
}

// named reads the moments that have a name in Ebbe.
func (w Week) named(f Field, phrase string, now Instant) (Reading, bool) {
	at := func(at Instant, note string) Reading {
		m := Moment{At: at}
		return Reading{Moment: m, Timed: true, Sentence: w.Say(m, now) + note}
	}
	switch strings.TrimPrefix(strings.TrimPrefix(phrase, "until "), "the ") {
	case "next round", "round":
		if f.Way == Back {
			return unclear("The next round lies ahead. Write a time that has been."), true
		}
		if f.Round <= now {
			return unclear("No round is planned in which mail comes in, so there is no next one. Write a time."), true
		}
		return at(f.Round, ", the next round"), true
	case "before the round", "before the next round", "before next round":
		switch {
		case f.Round <= now || f.Way == Back:
			return unclear("No round is planned in which mail comes in. Write a time."), true
		case f.Round-beforeRound <= now:
			return unclear(fmt.Sprintf("The next round is at %s already. Write a time.", w.clock(f.Round.In(w.Location())))), true
		}
		return at(f.Round-beforeRound, ", before the round"), true
	case "someday", "some day":
		if f.Someday.At <= now {
			return unclear("Someday is no day here. Write one: “fri”, “24 dec”."), true
		}
		return Reading{Moment: f.Someday, Someday: true, Sentence: "Someday, looked through on " + w.Say(f.Someday, now)}, true
	}
	return Reading{}, false
}

// readAgo reads "3 days ago", "for 2 h" as the time that has been.
func (w Week) readAgo(d time.Duration, c calendarSpan, now Instant) Reading {
	loc := w.Location()
	if d > farthest*365*24*time.Hour || c.days > farthest*366 || c.work > farthest*260 || c.months > farthest*12 {
		return tooFar()
	}
	if d > 0 {
		m := Moment{At: Of(now.Time().Add(-d).Truncate(time.Minute))}
		return Reading{Moment: m, Timed: true, Sentence: w.Say(m, now)}
	}
	day := addMonths(midnight(now.In(loc)), -c.months).AddDate(0, 0, -c.days)
	for ; c.work > 0; c.work-- {
		day = w.lastWorking(day.AddDate(0, 0, -1))
	}
	m := wallMoment(day, loc)
	return Reading{Moment: m, Sentence: w.Say(m, now)}
}

// behind reads what lies behind by its words: "yesterday", "last fri", "last week".
// Where a field looks ahead that is said.
func (p *parser) behind() bool {
	today, said := midnight(p.now), strings.Join(p.tokens, " ")
	var d time.Time
	switch {
	case p.match("the", "day", "before", "yesterday"), p.match("day", "before", "yesterday"):
		d = today.AddDate(0, 0, -2)
	case p.match("yesterday"):
		d = today.AddDate(0, 0, -1)
	case p.match("last", "week"):
		d = p.nextWeek().AddDate(0, 0, -14)
	case p.match("last", "month"):
		d = p.firstOfMonth(-1)
	case p.match("last", "year"):
		d = time.Date(today.Year()-1, 1, 1, 0, 0, 0, 0, time.UTC)
	case p.match("since"):
		return len(p.tokens) > 0
	case p.at(0) == "last" && p.at(2) != "of":
		day, ok := weekdays[p.at(1)]
		if !ok {
			return false
		}
		p.take(2)
		d = p.following(day).AddDate(0, 0, -7)
		if d.Equal(today) {
			d = d.AddDate(0, 0, -7)
		}
	case p.tokens[len(p.tokens)-1] == "ago":
		p.take(len(p.tokens))
		d = today
	default:
		return false
	}
	if p.field.Way == Ahead && p.wrong == "" {
		p.wrong = fmt.Sprintf("“%s” lies behind us. Write a time ahead: “fri”, “in 3 days”, “24 dec”.", said)
	}
	return p.setDay(d)
}

// settleBack joins date and time of what has been. A day without a time is meant from
// its beginning.
func (p *parser) settleBack(now Instant) Reading {
	loc, today := p.w.Location(), midnight(p.now)
	day, timed := p.day, p.hour >= 0
	if day.IsZero() {
		day = today
		if p.hour*60+p.minute > p.now.Hour()*60+p.now.Minute() {
			day = today.AddDate(0, 0, -1)
		}
	}
	h, m := max(p.hour, 0), p.minute
	if p.early && !p.w.TwelveHour && (p.partOf == nil || *p.partOf == Midday) {
		h += 12
	}
	at := wallMoment(day.Add(time.Duration(h*60+m)*time.Minute), loc)
	if at.At > now {
		return unclear(fmt.Sprintf("%s lies ahead. Write a time that has been: “last fri”, “3 days ago”, “24 dec”.", p.w.Say(at, now)))
	}
	if p.now.Year()-day.Year() > farthest {
		return tooFar()
	}
	return Reading{Moment: at, Timed: timed, Sentence: p.w.Say(at, now)}
}

// WeekdayNamed is the weekday of an English name or its short form, in small letters.
func WeekdayNamed(name string) (time.Weekday, bool) {
	d, ok := weekdays[name]
	return d, ok
}
