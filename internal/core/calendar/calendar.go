// Package calendar is about events: when they are, who takes part, and what
// invitations (iTIP, RFC 5546) say about them. Its terms are those of the
// VEVENT component of iCalendar (RFC 5545, section 3.6.1).
package calendar

import (
	"cmp"
	"errors"
	"reflect"
	"slices"
	"strings"
	"time"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Answer is what somebody has said to an invitation: PARTSTAT (RFC 5545,
// section 3.2.12).
type Answer string

// The answers.
const (
	NoAnswer Answer = "needs-action"
	Yes      Answer = "accepted"
	Maybe    Answer = "tentative"
	No       Answer = "declined"
)

// Guest is an ATTENDEE.
type Guest struct {
	mail.Address `tstype:",extends"`
	Answer       Answer `json:"answer,omitempty"`
}

// Event is one event. A whole-day event ends with the day named as its end.
type Event struct {
	UID       string       `json:"uid"`
	Title     string       `json:"title"`
	Start     when.Moment  `json:"start"`
	End       when.Moment  `json:"end"`
	Place     string       `json:"place,omitempty"`
	Guests    []Guest      `json:"guests,omitempty"`
	Organizer mail.Address `json:"organizer"`          // empty: the user
	Mine      Answer       `json:"mine,omitempty"`     // what the user answered, if somebody else invites
	Sequence  int          `json:"sequence,omitempty"` // SEQUENCE: of the newest version known
	Cancelled bool         `json:"cancelled,omitempty"`
	Notes     string       `json:"notes,omitempty"`
	Remind    int          `json:"remind"` // minutes before it starts; -1: not at all
	Fired     when.Instant `json:"fired,omitempty"`
	Card      bool         `json:"card,omitempty"`
	Rule      string       `json:"rule,omitempty"` // RRULE
	Except    []string     `json:"except,omitempty"`

	Conversation int64        `json:"conversation"`
	Message      string       `json:"message"` // Message-ID of the original
	Made         when.Instant `json:"made"`
	Changed      when.Instant `json:"changed,omitempty"`
	Foreign      string       `json:"foreign,omitempty"` // lines of iCalendar that other programs understand
}

// Equal says that e and o are the same in everything.
func (e Event) Equal(o Event) bool { return reflect.DeepEqual(e, o) }

// Whole says that the event takes whole days.
func (e Event) Whole() bool { return e.Start.WholeDay() }

// usualLength is how long an event lasts whose end was not said.
const usualLength = time.Hour

// Tidy brings e into the form in which it is kept: texts without needless white
// space, an end, times aligned with their zones.
func (e Event) Tidy() Event {
	line := func(s string) string { return strings.Join(strings.Fields(s), " ") }
	e.Title, e.Place, e.Notes = line(e.Title), line(e.Place), strings.TrimSpace(e.Notes)
	e.Start, e.End = e.Start.Realign(), e.End.Realign()
	if e.End.IsZero() || e.End.WholeDay() != e.Whole() {
		e.End = e.Start
		if !e.Whole() {
			loc, err := when.LoadZone(e.Start.Zone)
			if err != nil {
				loc = time.UTC
			}
			e.End = when.Moment{At: e.Start.At + when.Instant(usualLength.Milliseconds())}
			if e.Start.Local != "" {
				e.End = when.AtWall(e.Start.Wall(loc).Add(usualLength), loc)
			}
		}
	}
	e.Guests = slices.DeleteFunc(slices.Clone(e.Guests), func(g Guest) bool { return g.Address.Address == "" && g.Name == "" })
	if len(e.Guests) == 0 {
		e.Guests = nil
	}
	if len(e.Except) == 0 {
		e.Except = nil
	}
	return e
}

// Valid says in a sentence for the user what is wrong with e, or nil.
func (e Event) Valid() error {
	switch {
	case e.Title == "":
		return errors.New("an event needs a title")
	case len(e.Title) > 500 || len(e.Place) > 500 || len(e.Notes) > 20_000 || len(e.Guests) > 500:
		return errors.New("that is more than an event has room for")
	case e.Start.IsZero():
		return errors.New("an event needs a time at which it starts")
	case e.End.At < e.Start.At:
		return errors.New("it would end before it starts: choose a later end")
	case e.Remind < -1 || e.Remind > 60*24*366:
		return errors.New("a reminder comes at most a year before an event")
	}
	if e.Rule != "" {
		if _, err := when.ParseRecur(e.Rule, time.UTC); err != nil {
			return err
		}
	}
	return nil
}

// Next is when the event's reminder is due; zero if it has none, or it has come.
func (e Event) Next() when.Instant {
	if e.Remind < 0 || e.Cancelled || e.Mine == No || e.Fired != 0 {
		return 0
	}
	return e.start() - when.Instant(e.Remind)*60_000
}

// start is the instant at which it starts: a whole day with its first hour of
// work, which is taken as eight.
func (e Event) start() when.Instant { return e.first(8 * 60) }

// Begins is the first instant of the event: of its first day, if it takes whole
// days.
func (e Event) Begins() when.Instant { return e.first(0) }

// first is when the event starts: a whole day at that minute of it.
func (e Event) first(minute int) when.Instant {
	if !e.Whole() {
		return e.Start.At
	}
	loc, err := when.LoadZone(e.Start.Zone)
	if err != nil {
		loc = time.UTC
	}
	return when.At(e.Start.Wall(loc), minute, loc)
}

// Over says that the event has ended by now; of one that repeats, the first.
func (e Event) Over(now when.Instant) bool { return e.End.At <= now }

// Fire is e when its reminder is due at now. It has a card until it is over, and none if
// it is over already, as after a time without power.
func (e Event) Fire(now when.Instant) Event {
	if next := e.Next(); next != 0 && next <= now {
		e.Fired, e.Card = now, !e.Over(now)
	}
	return e
}

// Slot is one occurrence of an event.
type Slot struct {
	Event `tstype:",extends"`
	From  when.Instant `json:"from"`
	To    when.Instant `json:"to"`
}

// manySlots is how many occurrences of one event are laid out at once.
const manySlots = 400

// Between lays out the occurrences of e that overlap [from, to), in order. A
// slot knows when it is itself.
func (e Event) Between(from, to when.Instant, loc *time.Location) (slots []Slot) {
	begins := e.Begins()
	length := e.End.At - begins
	if e.Rule == "" {
		if begins < to && begins+max(length, 1) > from {
			slots = append(slots, Slot{e, begins, e.End.At})
		}
		return slots
	}
	if zone, err := when.LoadZone(e.Start.Zone); err == nil && e.Start.Zone != "" {
		loc = zone
	}
	rule, err := when.ParseRecur(e.Rule, loc)
	if err != nil {
		return nil
	}
	early := (from - max(length, 0)).In(loc).AddDate(0, 0, -1) // a day counts whole, and clocks are changed
	for day := range rule.FallsFrom(e.Start.Wall(loc), early) {
		one := e
		one.Start, one.End = e.Start.OnWall(day, loc), e.End
		if e.End.At != 0 {
			one.End = e.End.OnWall(day.Add(e.End.Wall(loc).Sub(e.Start.Wall(loc))), loc)
		}
		at := one.Begins()
		if at >= to || len(slots) == manySlots {
			break
		}
		if at+length <= from && at+max(length, 1) <= from || slices.Contains(e.Except, day.Format("2006-01-02")) {
			continue
		}
		slots = append(slots, Slot{one, at, at + length})
	}
	return slots
}

// Moved is when the whole of an event that repeats begins and ends, once the
// occurrence that began at was is from start to end: each moves as that one does.
func (e Event) Moved(was, start, end when.Moment, loc *time.Location) (when.Moment, when.Moment) {
	begins := e.Start.Wall(loc).Add(start.Wall(loc).Sub(was.Wall(loc)))
	if end.At != 0 {
		end = end.OnWall(begins.Add(end.Wall(loc).Sub(start.Wall(loc))), loc)
	}
	return start.OnWall(begins, loc), end
}

// Clashes picks the slots that overlap [from, to) and are not of that event,
// not called off and not declined, in order.
func Clashes(slots []Slot, uid string, from, to when.Instant) (out []Slot) {
	for _, s := range slots {
		if s.UID != uid && !s.Cancelled && s.Mine != No && s.From < to && s.To > from {
			out = append(out, s)
		}
	}
	slices.SortFunc(out, func(a, b Slot) int { return cmp.Compare(a.From, b.From) })
	return out
}

// Method is what a calendar object in a message is for (RFC 5546, section 1.4).
type Method string

// The methods Ebbe understands.
const (
	Request Method = "request" // an invitation, or a change of one
	Cancel  Method = "cancel"  // it does not take place
	Reply   Method = "reply"   // a guest has answered
	Publish Method = "publish" // an event to be noted
)

// News is what an invitation brings that is not known yet.
type News string

// The news of an invitation.
const (
	Fresh     News = "new"       // the event is not in the calendar
	Moved     News = "changed"   // a newer version of one that is
	Known     News = "known"     // the version that is in the calendar
	Outdated  News = "outdated"  // an older version than the one in the calendar
	CalledOff News = "cancelled" // it does not take place
	Answered  News = "answered"  // a guest has answered
)

// Judge says what an invitation brings, given what the calendar has under its
// UID (nil: nothing). SEQUENCE decides which of two versions is newer (RFC 5546,
// section 2.1.4), and a version that differs in time counts as newer than the
// same one.
func Judge(have *Event, got Event, m Method) News {
	switch {
	case m == Reply:
		return Answered
	case have != nil && got.Sequence < have.Sequence:
		return Outdated
	case m == Cancel:
		return CalledOff
	case have == nil:
		return Fresh
	case got.Sequence > have.Sequence, got.Start.At != have.Start.At, got.End.At != have.End.At:
		return Moved
	case have.Cancelled:
		return CalledOff
	}
	return Known
}

// Take is what an invitation makes of the event the calendar has (nil: none):
// its words, with what the user has of it kept. A cancelled one is kept and
// marked.
func Take(have *Event, got Event, m Method, answer Answer, now when.Instant) Event {
	out := got
	out.Remind, out.Made = 15, now
	if have != nil {
		out.Remind, out.Made, out.Fired, out.Mine, out.Foreign = have.Remind, have.Made, have.Fired, have.Mine, cmp.Or(got.Foreign, have.Foreign)
		out.Changed = now
		if out.Start.At != have.Start.At {
			out.Fired = 0
		}
		if m == Cancel {
			kept := *have
			kept.Cancelled, kept.Sequence, kept.Changed, kept.Card = true, got.Sequence, now, false
			return kept
		}
	}
	if m == Cancel {
		out.Cancelled = true
	}
	if answer != "" {
		out.Mine = answer
	}
	return out
}

// Openings gives times of an hour, one a day in turn at ten and at two, on the
// working days of the stretch that come after the day of now, at which nothing is in
// the calendar. Of a long stretch the first 60 days are looked at.
func Openings(slots []Slot, w when.Week, now when.Instant, in when.Stretch) (out []when.Moment) {
	loc := w.Location()
	today := max(now, in.From).In(loc)
	for n := range 61 {
		day := time.Date(today.Year(), today.Month(), today.Day()+n, 0, 0, 0, 0, loc)
		at := when.Of(day)
		if at >= in.To {
			break
		}
		if !w.Works(day.Weekday()) || at <= when.DayStart(now, loc, 0) {
			continue
		}
		hours := []int{10, 14}
		if len(out)%2 == 1 {
			hours = []int{14, 10}
		}
		for _, h := range hours {
			m := when.AtWall(time.Date(day.Year(), day.Month(), day.Day(), h, 0, 0, 0, loc), loc)
			if len(Clashes(slots, "", m.At, m.At+when.Instant(time.Hour.Milliseconds()))) == 0 {
				out = append(out, m)
				if in.To-in.From > 2*24*when.Instant(time.Hour.Milliseconds()) { // of a day or two both are offered
					break
				}
			}
		}
	}
	return out
}
