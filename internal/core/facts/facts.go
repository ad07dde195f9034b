// Package facts reads what machines say in their mail of parcels, bills, journeys,
// bookings, events, orders and codes: from open markup (schema.org, as JSON-LD or
// microdata), and where there is none by rules that read a text only where it can mean
// nothing else. Nothing is followed or fetched for it.
package facts

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"ebbe/internal/core/when"
)

// Kind is what a fact is about.
type Kind string

// The kinds of facts.
const (
	Parcel  Kind = "parcel"
	Bill    Kind = "bill"
	Journey Kind = "journey"
	Booking Kind = "booking" // a room, a table, a car
	Event   Kind = "event"
	Order   Kind = "order"
	Code    Kind = "code" // for signing in
)

// Kinds lists them in the order in which they are shown.
var Kinds = []Kind{Code, Parcel, Bill, Journey, Booking, Event, Order}

// State is how it stands with what a fact is about; empty: as it was ordered.
type State string

// The states of facts.
const (
	OnTheWay  State = "on-the-way"
	ToCollect State = "to-collect" // it waits to be collected
	Arrived   State = "arrived"
	Paid      State = "paid"
	Taken     State = "taken" // it is paid by itself on its day
	Cancelled State = "cancelled"
)

// Fact is one thing that a message says of something outside of mail.
type Fact struct {
	Kind     Kind        `json:"kind"`
	State    State       `json:"state,omitempty"`
	Name     string      `json:"name,omitempty"`     // what it is: the event, the journey, what is in the parcel
	By       string      `json:"by,omitempty"`       // who sends, bills or carries
	Ref      string      `json:"ref,omitempty"`      // its number, as they call it
	Amount   string      `json:"amount,omitempty"`   // "1200.50", with a point and no other marks
	Currency string      `json:"currency,omitempty"` // ISO 4217
	From     when.Moment `json:"from,omitzero"`      // when it begins, leaves, is due, or may arrive at the earliest
	Until    when.Moment `json:"until,omitzero"`     // when it ends, or will have arrived
	Where    string      `json:"where,omitempty"`    // where it is, or leaves from
	Code     string      `json:"code,omitempty"`
	Doubt    string      `json:"doubt,omitempty"` // why it is shown and not offered, in a sentence
}

// ownNumber is how many characters the number of a parcel has at least that nobody else
// gives: so its sender and its carrier tell of the same one.
const ownNumber = 8

// Key is the same for all that is said of one thing, so that what came last stands for it;
// empty: nothing says which thing it is. Any shop has an order 12, so whose number it is
// belongs to it.
func (f Fact) Key() string {
	ref := strings.ToLower(strings.Join(strings.Fields(f.Ref), ""))
	if ref == "" || f.Kind == Code {
		return ""
	}
	if f.Kind != Parcel || len(ref) < ownNumber {
		ref += " " + strings.ToLower(f.By)
	}
	return string(f.Kind) + " " + ref
}

// Last is the last time the fact names; empty if it names none.
func (f Fact) Last() when.Moment {
	if f.Until.IsZero() {
		return f.From
	}
	return f.Until
}

// How long what has named no day, or has passed it, is still looked for.
const (
	undatedFor = 14 * 24 * when.Instant(time.Hour/time.Millisecond)
	lateFor    = 7 * 24 * when.Instant(time.Hour/time.Millisecond)
)

// Ends is when nothing is expected of the fact any more, given when its message was
// written: a parcel and a bill may be late, a code is soon worth nothing, and what has
// arrived, was paid or was cancelled is over; 0: it is over.
func (f Fact) Ends(written when.Instant) when.Instant {
	last := f.Last()
	switch {
	case f.State == Arrived || f.State == Paid || f.State == Cancelled:
		return 0
	case f.Kind == Code:
		return written + CodeFor
	case last.IsZero():
		return written + undatedFor
	case f.Kind == Parcel || f.Kind == Bill && f.State != Taken:
		return last.At + lateFor
	}
	return last.At
}

// CodeFor is for how long a code for signing in is worth anything.
const CodeFor = when.Instant(time.Hour / time.Millisecond)

// After says when a parcel, or anything else with a day, can be asked about: on the day
// after the last one it names, when its reader begins to work. Empty without a day.
func (f Fact) After(w when.Week) when.Moment {
	last := f.Last()
	if last.IsZero() {
		return last
	}
	day := midnight(last.Wall(w.Location())).AddDate(0, 0, 1)
	return when.AtWall(day.Add(time.Duration(w.Morning)*time.Minute), w.Location())
}

// Say is the fact in a few words: "arrives Thu 13–15", "€ 120.00 due 14 Dec", "code 481 920".
func (f Fact) Say(w when.Week, now when.Instant) string {
	day := f.days(w, now)
	switch {
	case f.State == Cancelled:
		return string(f.Kind) + " cancelled"
	case f.Kind == Code:
		return "code " + Spaced(f.Code)
	case f.Kind == Parcel && f.State == Arrived:
		return "parcel has arrived"
	case f.Kind == Parcel && f.State == ToCollect:
		return join("to be collected", after("until ", day))
	case f.Kind == Parcel && day == "":
		return "parcel on the way"
	case f.Kind == Parcel:
		return "arrives " + day
	case f.Kind == Bill && f.State == Paid:
		return join(f.Money(), "paid")
	case f.Kind == Bill && f.State == Taken:
		return join(f.Money(), "is taken", day)
	case f.Kind == Bill:
		return join(f.Money(), after("due ", day))
	case f.Kind == Journey:
		return join("leaves", day)
	case f.Kind == Booking && day != "":
		return "booked " + day
	case f.Kind == Order:
		return join("order", after("of ", f.Money()), after("arrives ", day))
	}
	return cmp.Or(day, string(f.Kind))
}

func join(words ...string) string {
	return strings.Join(slices.DeleteFunc(words, func(w string) bool { return w == "" }), " ")
}

func after(word, rest string) string {
	if rest == "" {
		return ""
	}
	return word + rest
}

// days says when: "today 13–15", "Thu", "14 Dec", "4–6 Dec".
func (f Fact) days(w when.Week, now when.Instant) string {
	if f.From.IsZero() {
		if f.Until.IsZero() {
			return ""
		}
		return "by " + day(w, f.Until, now, f.Kind) + after(" ", hour(w, f.Until))
	}
	from := day(w, f.From, now, f.Kind)
	if f.Until.IsZero() || f.Until.At < f.From.At {
		return join(from, hour(w, f.From))
	}
	if until := day(w, f.Until, now, f.Kind); until != from {
		if f.Kind == Journey { // when it leaves is what counts
			return join(from, hour(w, f.From))
		}
		return from + " – " + until
	}
	a, b := hour(w, f.From), hour(w, f.Until)
	switch {
	case f.Kind == Journey || b == "" || a == b:
		return join(from, a)
	case a == "":
		return from + " by " + b
	case !w.TwelveHour && strings.HasSuffix(a, ":00") && strings.HasSuffix(b, ":00"):
		return from + " " + strings.TrimSuffix(a, ":00") + "–" + strings.TrimSuffix(b, ":00")
	}
	return from + " " + a + "–" + b
}

// day names a day: near ones by their name, bills always by their date.
func day(w when.Week, m when.Moment, now when.Instant, k Kind) string {
	t, today := m.At.In(w.Location()), now.In(w.Location())
	away := int(midnight(t).Sub(midnight(today)) / (24 * time.Hour))
	switch {
	case away == 0:
		return "today"
	case away == 1:
		return "tomorrow"
	case away > 1 && away < 7 && k != Bill:
		return t.Format("Mon")
	case t.Year() != today.Year():
		return t.Format("2 Jan 2006")
	}
	return t.Format("2 Jan")
}

func midnight(t time.Time) time.Time {
	return time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, time.UTC)
}

// hour is the time of day, if one is meant.
func hour(w when.Week, m when.Moment) string {
	if m.WholeDay() {
		return ""
	}
	t := m.At.In(w.Location())
	return w.SayMinute(t.Hour()*60 + t.Minute())
}

// signs of currencies that everybody reads in one way.
var signs = map[string]string{"EUR": "€", "GBP": "£", "USD": "$", "JPY": "¥"}

// Money is the amount with its currency: "€ 1,200.50".
func (f Fact) Money() string {
	if f.Amount == "" {
		return ""
	}
	whole, cents, _ := strings.Cut(f.Amount, ".")
	for i := len(whole) - 3; i > 0; i -= 3 {
		whole = whole[:i] + "," + whole[i:]
	}
	return join(cmp.Or(signs[f.Currency], f.Currency), whole+after(".", cents))
}

// Spaced is a code as it is read out: six digits in two groups.
func Spaced(code string) string {
	if len(code) == 6 && strings.Trim(code, "0123456789") == "" {
		return code[:3] + " " + code[3:]
	}
	return code
}

// Line is the fact as a line of a list: "7781, Parcel desk: arrives today 13–15".
func (f Fact) Line(w when.Week, now when.Instant) string {
	what := strings.Join(slices.DeleteFunc([]string{f.Name, f.By, f.Ref}, func(s string) bool { return s == "" }), ", ")
	if what == "" {
		return f.Say(w, now)
	}
	return what + ": " + f.Say(w, now)
}
