package inbox

import (
	"time"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Grouping is what the slips of the queue are put together by.
type Grouping string

// The groupings of the queue.
const (
	ByWhy     Grouping = "why" // why they are here; the usual one
	BySender  Grouping = "sender"
	BySubject Grouping = "subject"
	ByKind    Grouping = "kind"
	ByDay     Grouping = "day"
	ByAccount Grouping = "account"
)

// Groupings lists them.
var Groupings = []Grouping{ByWhy, BySender, BySubject, ByKind, ByDay, ByAccount}

// Order is the order of slips within a group, and of a sitting.
type Order string

// The orders.
const (
	NewestFirst   Order = "newest"
	OldestFirst   Order = "oldest"
	SenderFirst   Order = "sender"     // by name, then the newest first
	MostImportant Order = "importance" // by Rank, then the oldest first
	LargestFirst  Order = "size"
)

// Orders lists them.
var Orders = []Order{NewestFirst, OldestFirst, SenderFirst, MostImportant, LargestFirst}

// Rank says how early a conversation is to be looked at, the lowest first:
// people before machines, and of both those that went to the reader alone
// before those that named others or went to many.
func Rank(k mail.Kind, r mail.Reach) int {
	rank := map[mail.Reach]int{mail.Alone: 0, mail.Named: 1, mail.Copied: 2, mail.Unnamed: 3}[r]
	switch k {
	case mail.Person, mail.Invitation, mail.Bounce:
	case mail.Notice, mail.Receipt:
		rank += 10
	default:
		rank += 20
	}
	return rank
}

// Section is a group of the queue by why its slips are there, or by day.
type Section string

// The sections by why, in the order in which the queue shows them.
const (
	BackToday    Section = "back-today"
	HereToday    Section = "here"       // waited for the place where the reader is
	NoAnswer     Section = "unanswered" // nobody answered by the time named
	AnswersToday Section = "answers"
	ArrivedToday Section = "arrived-today"
	SomedayToday Section = "someday"
	Yesterday    Section = "yesterday" // left over from yesterday
	Older        Section = "older"     // left over from before
)

// Span is what places a conversation of the inbox into a section: its reason
// (any, if empty) and the instants [From, To) into which its Since falls.
type Span struct {
	Section  Section
	Reasons  []Reason
	From, To when.Instant
}

const endOfTime = when.Instant(1 << 60)

// Spans cuts the inbox into its sections, given when today and yesterday began.
func Spans(today, yesterday when.Instant) []Span {
	return []Span{
		{BackToday, []Reason{Back}, today, endOfTime},
		{HereToday, []Reason{AtSite}, today, endOfTime},
		{NoAnswer, []Reason{Unanswered}, today, endOfTime},
		{AnswersToday, []Reason{Answer}, today, endOfTime},
		{ArrivedToday, []Reason{Arrived, Decided}, today, endOfTime},
		{SomedayToday, []Reason{Monthly}, today, endOfTime},
		{Yesterday, nil, yesterday, today},
		{Older, nil, 0, yesterday},
	}
}

// daysApart is how many days the queue by day shows one by one.
const daysApart = 14

// Days cuts the inbox by the days on which its conversations came to be there:
// the last fourteen one by one, named as 2026-11-24, and all before as Older.
func Days(now when.Instant, loc *time.Location) []Span {
	var spans []Span
	to := endOfTime
	for d := range daysApart {
		from := when.DayStart(now, loc, -d)
		spans = append(spans, Span{Section: Section(from.In(loc).Format(time.DateOnly)), From: from, To: to})
		to = from
	}
	return append(spans, Span{Section: Older, To: to})
}
