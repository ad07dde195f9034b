package numbers

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Wall is an hour by the clock on the wall, counted from that at which 1970 began there: what
// is counted belongs to the day on which somebody lived it, wherever they live now. An hour that a
// change of the clock repeats is one.
type Wall int64

// WallOf is the hour in which an instant lies in a zone.
func WallOf(at when.Instant, loc *time.Location) Wall {
	t := at.In(loc)
	_, east := t.Zone()
	return Wall(floor(t.Unix()+int64(east), 3600))
}

// Day is the day of the hour, counted likewise.
func (w Wall) Day() int64 { return floor(int64(w), 24) }

// Hour is the hour of its day, 0 to 23.
func (w Wall) Hour() int { return int(int64(w) - 24*w.Day()) }

// Month is the month of the hour, counted from that of 1970.
func (w Wall) Month() int64 {
	d := DateOf(w.Day())
	return int64(d.Year()-1970)*12 + int64(d.Month()) - 1
}

// InWeek is the day of the week of the hour (0 is Sunday) and the hour of the day: "2 14".
func (w Wall) InWeek() string {
	return fmt.Sprintf("%d %d", DateOf(w.Day()).Weekday(), w.Hour())
}

// DayOfMonth is the first day of a month, counted from that of 1970.
func DayOfMonth(month int64) int64 { return DayOf(1970+int(month/12), time.Month(month%12+1), 1) }

func floor(n, by int64) int64 {
	if q := n / by; n%by >= 0 {
		return q
	}
	return n/by - 1
}

// DayOf is the day that a date is.
func DayOf(year int, month time.Month, day int) int64 {
	return floor(time.Date(year, month, day, 0, 0, 0, 0, time.UTC).Unix(), 86_400)
}

// DateOf is the date of a day, at midnight UTC.
func DateOf(day int64) time.Time { return time.Unix(day*86_400, 0).UTC() }

// Line is a line of the journal as far as numbers are made of it.
type Line struct {
	Kind      inbox.Kind
	By        string // who acted: "person", "rule", "clock", "server" or "mail"
	At        when.Instant
	Since     when.Instant // when the same person had last done something in the box; 0: never, or it is nobody's
	Count     int          // conversations, or what else it is about
	TakenBack bool
	Changes   []inbox.Change
	Origins   map[string]int // of what left the inbox by it: from where that had come (OriginOf), and how many
	Ref       int64          // of what a rule did: the rule
	Besides   map[string]int // of the messages that came in with it: HeldFor how long, or LetThroughBy what, and how many
}

// OriginOf is from where a conversation had come that lies in the inbox: from "people", "lists" or
// "machines", or it is "back" from a snooze.
func OriginOf(k mail.Kind, r inbox.Reason) string {
	switch {
	case r == inbox.Back || r == inbox.Unanswered || r == inbox.AtSite || r == inbox.Monthly:
		return "back"
	case k == mail.List:
		return "lists"
	case k.Machine():
		return "machines"
	}
	return "people"
}

// Measure is what is counted.
type Measure string

// The measures. What their details say stands beside each.
const (
	Came      Measure = "came"     // conversations that came into view; how: "arrive", "deliver", "let-in", "let-all-in", "return", "import"
	Decided   Measure = "decided"  // conversations that left the inbox; by which decision (inbox.Kind)
	Undone    Measure = "undone"   // steps that were taken back; of which kind
	Looked    Measure = "looked"   // how often what a person decided had been opened before
	AtFirst   Measure = "at-first" // what a person decided at first sight, opened once at most
	Became    Measure = "became"   // the same, by from where it had come and which decision: "people archive"
	Stood     Measure = "stood"    // what was decided, by how long it had been in the inbox (Length)
	Took      Measure = "took"     // decisions of one thing by a person, by decision and how many seconds after the one before: "archive 7"
	Early     Measure = "early"    // looks at what is held; for one thing ("let-in", "peek") or all of it ("let-all-in")
	Work      Measure = "work"     // follow-ups: "made", "in-time", "late", "done" (without a due time), "dropped", "moved", "asked"
	Waited    Measure = "waited"   // waits for somebody that ended with an answer, by how long they lasted (Length)
	Sent      Measure = "sent"     // messages
	JunkMail  Measure = "junk"     // "caught", "missed" or "wrong"
	ListsLeft Measure = "lists"    // lists that were left
	Hours     Measure = "hours"    // what a person decides, by the day of the week and hour ("2 14"); of whole months alone
	Rested    Measure = "snoozed"  // snoozes; "first", or "again" of what had come back before, of which the third and later ones are "often", too
	Held      Measure = "held"     // messages that came in after they were held, by for how long (Length)
	Through   Measure = "through"  // messages that were let through, by what (delivery.By, or "rule")
	Ruled     Measure = "ruled"    // what a rule did, by rule: "12 did", "12 decided" (conversations), "12 through", "12 sent", "12 told", "12 back" (taken back)
)

// Measures are all there are.
var Measures = []Measure{Came, Decided, Became, Undone, Looked, AtFirst, Stood, Took, Early, Work, Waited, Sent, JunkMail, ListsLeft, Rested, Held, Through, Ruled}

// Rough are those of which a stretch is compared with the one before: how much there was, and not how long
// it took, nor at what hours.
var Rough = slices.DeleteFunc(slices.Clone(Measures), func(m Measure) bool { return m == Took || m == Stood || m == Held })

// ByHour says that a measure is counted by the hour, too.
func (m Measure) ByHour() bool { return m == Came || m == Decided }

// Tally is how much a line counts for a measure.
type Tally struct {
	Measure Measure
	Detail  string
	N       int
}

// Count is how much was counted of a measure in an hour, or on a day.
type Count struct {
	Wall    Wall
	Measure Measure
	Detail  string
	By      string // who acted, as in Line
	Person  int64  // 0: nobody
	N       int
}

// What a rule did, as the numbers of rules have it.
const (
	RuleDid     = "did"     // it did something with a message
	RuleDecided = "decided" // a conversation left the inbox by it
	RuleThrough = "through" // a message came in whatever the plan says
	RuleSent    = "sent"    // an answer, or a message on
	RuleTold    = "told"    // a notification
	RuleBack    = "back"    // what it had done was taken back
)

// RuledAs is that a rule did something, as a detail of Ruled.
func RuledAs(rule int64, what string) string { return strconv.FormatInt(rule, 10) + " " + what }

// HeldFor says in Line.Besides that a message had been held for so long.
func HeldFor(d when.Instant) string { return string(Held) + " " + Length(d) }

// LetThroughBy says in Line.Besides by what a message was let through: what it says of a rule names it.
func LetThroughBy(by string, rule int64) string {
	if rule != 0 {
		return string(Through) + " rule " + strconv.FormatInt(rule, 10)
	}
	return string(Through) + " " + by
}

// longestThought is up to how many seconds after the decision before a decision was thought about:
// what takes longer, something else came between.
const longestThought = 300

// Length is a stretch of time as numbers are kept by it: to the hour below a day ("5h"), to the day
// above ("12d"), at most 999 days.
func Length(d when.Instant) string {
	if d = max(d, 0); d < 24*Hour {
		return strconv.Itoa(int(d/Hour)) + "h"
	}
	return strconv.Itoa(min(int(d/(24*Hour)), 999)) + "d"
}

// SortOf is the kind of decision that a detail of Took is about.
func SortOf(took string) string {
	kind, _, _ := strings.Cut(took, " ")
	return kind
}

// LengthOf is the middle of the stretches that are kept so.
func LengthOf(kept string) when.Instant {
	n, err := strconv.Atoi(strings.TrimRight(kept, "hd"))
	switch {
	case err != nil:
		return 0
	case strings.HasSuffix(kept, "d"):
		return when.Instant(n)*24*Hour + 12*Hour
	}
	return when.Instant(n)*Hour + Hour/2
}

// Tallies is what a line counts for. One that was taken back counts for nothing but that.
func Tallies(l Line) (out []Tally) {
	add := func(m Measure, detail string, n int) {
		if n == 0 {
			return
		}
		for i := range out {
			if out[i].Measure == m && out[i].Detail == detail {
				out[i].N += n
				return
			}
		}
		out = append(out, Tally{m, detail, n})
	}
	if l.TakenBack {
		if l.Kind == inbox.ByRule {
			add(Ruled, RuledAs(l.Ref, RuleBack), 1)
		}
		add(Undone, string(l.Kind), 1)
		return out
	}
	person := l.By == "person"
	switch l.Kind {
	case inbox.TakeBack, inbox.Again: // what they took back or did again counts by itself
		return nil
	case inbox.Arrive, inbox.Import, inbox.Deliver, inbox.Return:
		add(Came, string(l.Kind), l.Count)
	case inbox.LetOneIn, inbox.LetAllIn:
		add(Came, string(l.Kind), l.Count)
		add(Early, string(l.Kind), 1)
	case inbox.Peek:
		add(Early, string(l.Kind), 1)
	case inbox.SendMail:
		add(Sent, "", 1)
	case inbox.JunkFound:
		add(JunkMail, "caught", l.Count)
	case inbox.NotJunk:
		add(JunkMail, "wrong", l.Count)
	case inbox.ToJunk:
		if person {
			add(JunkMail, "missed", l.Count)
		}
	case inbox.LeaveList:
		add(ListsLeft, "", 1)
	case inbox.ByRule:
		add(Ruled, RuledAs(l.Ref, RuleDid), 1)
	case inbox.AutoAnswer, inbox.ForwardTo:
		if l.Ref != 0 {
			add(Ruled, RuledAs(l.Ref, RuleSent), 1)
		}
	case inbox.TellOf:
		add(Ruled, RuledAs(l.Ref, RuleTold), 1)
	}
	for _, c := range l.Changes {
		if b, a := c.Before, c.After; b != nil && a != nil {
			if b.Place == inbox.Inbox && a.Place != inbox.Inbox {
				add(Decided, string(l.Kind), 1)
				add(Stood, Length(l.At-b.Since), 1)
				if l.Kind == inbox.ByRule {
					add(Ruled, RuledAs(l.Ref, RuleDecided), 1)
				}
				if person {
					add(Looked, "", b.Looks)
					if b.Looks <= 1 {
						add(AtFirst, "", 1)
					}
				}
			}
			if b.Place != inbox.Snoozed && a.Place == inbox.Snoozed {
				again := "first"
				if b.SnoozedAt > 0 {
					again = "again"
				}
				add(Rested, again, 1)
				if b.Snoozes >= 2 {
					add(Rested, "often", 1)
				}
			}
		}
		for _, w := range work(l, c.FollowUpBefore, c.FollowUpAfter) {
			add(Work, w, 1)
		}
		if b, a := c.FollowUpBefore, c.FollowUpAfter; b != nil && a != nil && (l.Kind == inbox.WaitEnded || l.Kind == inbox.AcceptAnswer) && b.Waits.Since > 0 && a.Waits.Since == 0 {
			add(Waited, Length(l.At-b.Waits.Since), 1)
		}
	}
	for _, of := range slices.Sorted(maps.Keys(l.Besides)) {
		switch m, detail, _ := strings.Cut(of, " "); Measure(m) {
		case Held:
			add(Held, detail, l.Besides[of])
		case Through:
			by, rule, ruled := strings.Cut(detail, " ")
			if add(Through, by, l.Besides[of]); ruled {
				add(Ruled, rule+" "+RuleThrough, l.Besides[of])
			}
		}
	}
	for _, origin := range slices.Sorted(maps.Keys(l.Origins)) {
		add(Became, origin+" "+string(l.Kind), l.Origins[origin])
	}
	if took := (l.At - l.Since) / 1000; person && l.Since > 0 && took > 0 && took <= longestThought && decides(l) {
		add(Took, fmt.Sprintf("%s %d", l.Kind, took), 1)
	}
	return out
}

// decides says that a line is one decision about one conversation, which left the inbox by it.
func decides(l Line) bool {
	n := 0
	for _, c := range l.Changes {
		if c.Before != nil && c.After != nil && c.Before.Place == inbox.Inbox && c.After.Place != inbox.Inbox {
			n++
		}
	}
	return n == 1
}

// work says what a change made of a follow-up.
func work(l Line, before, after *followup.FollowUp) (out []string) {
	switch {
	case after == nil:
		return nil
	case before == nil:
		return []string{"made"}
	case before.Open() && !after.Open():
		if after.Status == followup.Cancelled {
			return []string{"dropped"}
		}
		return []string{inTime(before.Due, after.Finished)}
	case before.Open() && after.Open() && l.Kind == inbox.FinishFollow: // it repeats, and stands for the next time
		return []string{inTime(before.Due, l.At)}
	case before.Open() && after.Open():
		if !before.Due.IsZero() && (after.Due.IsZero() || after.Due.At > before.Due.At) {
			out = append(out, "moved")
		}
		if after.Waits.Asked > before.Waits.Asked {
			out = append(out, "asked")
		}
	}
	return out
}

// inTime says how something was finished that was due then.
func inTime(due when.Moment, finished when.Instant) string {
	switch {
	case due.IsZero():
		return "done"
	case finished > due.At:
		return "late"
	}
	return "in-time"
}
