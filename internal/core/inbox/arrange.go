package inbox

import (
	"slices"
	"strconv"
	"time"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Grouping is what the slips of the queue are put together by.
type Grouping string

// The groupings of the queue.
const (
	ByWhy     Grouping = "why"   // why they are here; the usual one
	ByOwner   Grouping = "owner" // who of the team has them; the usual one in its box
	BySender  Grouping = "sender"
	BySubject Grouping = "subject"
	ByKind    Grouping = "kind"
	ByDay     Grouping = "day"
	ByAccount Grouping = "account"

	ByImportance Grouping = "importance" // by how full their gauges stand
	ByStream     Grouping = "stream"
)

// Groupings lists them.
var Groupings = []Grouping{ByWhy, ByOwner, BySender, BySubject, ByKind, ByDay, ByAccount, ByImportance, ByStream}

// Order is the order of slips within a group, and of a sitting.
type Order string

// The orders.
const (
	NewestFirst   Order = "newest"
	OldestFirst   Order = "oldest"
	SenderFirst   Order = "sender"     // by name, then the newest first
	MostImportant Order = "importance" // as importance was learned, then by Rank, then the oldest first
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
	NotDelivered Section = "bounced"    // what the reader wrote did not reach everybody
	HereToday    Section = "here"       // waited for the place where the reader is
	NoAnswer     Section = "unanswered" // nobody answered by the time named
	AnswersToday Section = "answers"
	LetThrough   Section = "through"
	ByRound      Section = "round" // with the instant of the round behind a dash
	LetInToday   Section = "let-in"
	ArrivedToday Section = "arrived-today"
	SomedayToday Section = "someday"
	Yesterday    Section = "yesterday" // left over from yesterday
	Older        Section = "older"     // left over from before
)

// Span is what places a conversation of the inbox into a section: its reason
// (any, if empty), the round that brought it (any, if zero), and the instants
// [From, To) into which its Since falls.
type Span struct {
	Section  Section
	Reasons  []Reason
	Round    when.Instant
	From, To when.Instant
}

const endOfTime = when.Instant(1 << 60)

// Spans cuts the inbox into its sections, given when today and yesterday began
// and which rounds have brought something today.
func Spans(today, yesterday when.Instant, rounds []when.Instant) []Span {
	spans := []Span{
		{Section: BackToday, Reasons: []Reason{Back}, From: today, To: endOfTime},
		{Section: NotDelivered, Reasons: []Reason{Bounced}, From: today, To: endOfTime},
		{Section: HereToday, Reasons: []Reason{AtSite}, From: today, To: endOfTime},
		{Section: NoAnswer, Reasons: []Reason{Unanswered}, From: today, To: endOfTime},
		{Section: AnswersToday, Reasons: []Reason{Answer}, From: today, To: endOfTime},
		{Section: LetThrough, Reasons: []Reason{Through}, From: today, To: endOfTime},
		{Section: LetInToday, Reasons: []Reason{LetIn}, From: today, To: endOfTime},
	}
	for _, r := range slices.Backward(slices.Sorted(slices.Values(rounds))) {
		section := Section(string(ByRound) + "-" + strconv.FormatInt(int64(r), 10))
		spans = append(spans, Span{Section: section, Reasons: []Reason{WithRound}, Round: r, From: today, To: endOfTime})
	}
	return append(spans,
		Span{Section: ArrivedToday, Reasons: []Reason{Arrived, Decided}, From: today, To: endOfTime},
		Span{Section: SomedayToday, Reasons: []Reason{Monthly}, From: today, To: endOfTime},
		Span{Section: Yesterday, From: yesterday, To: today},
		Span{Section: Older, To: yesterday})
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
