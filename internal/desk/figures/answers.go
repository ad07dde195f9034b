package figures

import (
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
)

// FiguresView is what a stretch of days comes to, beside the one before that is as long.
type FiguresView struct {
	From   string          `json:"from"`  // a date
	To     string          `json:"to"`    // the last date
	Today  string          `json:"today"` // by the reader's clock
	First  string          `json:"first"` // the first date of which anything is known; "": nothing is
	Is     numbers.Figures `json:"is"`
	Before numbers.Figures `json:"before"` // without how long things took (numbers.Rough)
	Known  bool            `json:"known"`  // of the stretch before all is known
	Days   []DayView       `json:"days"`
	Shells []DayView       `json:"shells"` // the evenings of the five weeks up to the last of them
	Zeros  numbers.Zeros   `json:"zeros"`  // of these days
	Run    numbers.Zeros   `json:"run"`    // of the year up to the last of them

	Sittings []SittingFigures `json:"sittings"`
	Rules    map[int64]string `json:"rules"`    // how the rules of these days are called, also those that are no more
	Counting bool             `json:"counting"` // what was done before numbers were made is still being counted
	Team     bool             `json:"team"`     // these are sums of a team
	Unowned  []int            `json:"unowned"`  // of a team: what nobody has, by how long it has been there (AheadView.Inbox)
	Loads    []MemberLoad     `json:"loads"`    // and what each of it has
}

// DayView is a day of them.
type DayView struct {
	Date    string `json:"date"`
	Came    int    `json:"came"`
	Decided int    `json:"decided"`
	Left    int    `json:"left"`  // after the last that somebody did
	Acted   bool   `json:"acted"` // anything was done
	Off     bool   `json:"off"`   // no working day, or one on which the reader was away
}

// SittingFigures is a sitting that has been.
type SittingFigures struct {
	Begun       when.Instant `json:"begun"`
	Minutes     int          `json:"minutes"`
	Decided     int          `json:"decided"`
	Interrupted int          `json:"interrupted"` // how often more than five minutes passed
}

// Counted is a page of the lines that a number counts, the newest first.
type Counted struct {
	Lines []CountedLine `json:"lines"`
	Next  int64         `json:"next,omitempty"`
}

// NoticesPage is a page of the notifications that the reader was shown, the newest first.
type NoticesPage struct {
	Lines []NoticeLine `json:"lines"`
	Next  int64        `json:"next,omitempty"`
}

// NoticeLine is one of them.
type NoticeLine struct {
	ID   int64        `json:"id"`
	At   when.Instant `json:"at"`
	Text string       `json:"text"`
}

// CountedLine is a line of the journal, and how much it counts.
type CountedLine struct {
	Entry        int64        `json:"entry"`
	At           when.Instant `json:"at"`
	Actor        store.Actor  `json:"actor"`
	Kind         inbox.Kind   `json:"kind"`
	Text         string       `json:"text"`
	Conversation int64        `json:"conversation"`
	N            int          `json:"n"`
}

// DayCurve is how many were left to decide in the course of a day, beside how many usually are on that day of
// the week: for each half hour, as far as it has come.
type DayCurve struct {
	Date  string `json:"date"`
	Is    []int  `json:"is"`
	Usual []int  `json:"usual"` // none, where too few such days are known
	Weeks int    `json:"weeks"` // of which the usual one is made
}

// Speed is how fast answers were, in minutes.
type Speed struct {
	Clock     numbers.Spread `json:"clock"`     // by the clock on the wall
	Work      numbers.Spread `json:"work"`      // in the reader's working hours alone
	ClockBars []int          `json:"clockBars"` // how many took up to each of the bounds, and how many longer
	WorkBars  []int          `json:"workBars"`
	Open      int            `json:"open"` // what was written and was not answered
}

// Brief is that in short.
type Brief struct {
	N     int `json:"n"`
	Clock int `json:"clock"` // the median, in minutes
	Work  int `json:"work"`
	Open  int `json:"open"`
}

// AnswersView is how fast the reader answered and was answered in a stretch of days, beside the one before.
type AnswersView struct {
	From         string       `json:"from"` // a date
	To           string       `json:"to"`
	Today        string       `json:"today"`
	Own          Speed        `json:"own"`
	Theirs       Speed        `json:"theirs"`
	OwnBefore    Speed        `json:"ownBefore"`
	TheirsBefore Speed        `json:"theirsBefore"`
	Begun        int          `json:"begun"` // conversations between people that began
	Began        int          `json:"began"` // of those, by the reader
	Bounds       []int        `json:"bounds"`
	Rows         []AnswersRow `json:"rows"`
	More         bool         `json:"more"`     // there are more than are given
	Counting     bool         `json:"counting"` // something has come of which it is not known yet what it answers
	Team         bool         `json:"team"`
}

// AnswersRow is that of one person, domain, project or label.
type AnswersRow struct {
	Key    string `json:"key"`
	Name   string `json:"name"`
	Own    Brief  `json:"own"`
	Theirs Brief  `json:"theirs"`
}

// AnswerLines is a page of the answers that a number counts.
type AnswerLines struct {
	Lines []AnswerLine `json:"lines"`
	Next  string       `json:"next,omitempty"`
}

// AnswerLine is one answer, or what waits for one.
type AnswerLine struct {
	Conversation int64        `json:"conversation"`
	Address      string       `json:"address"`
	Name         string       `json:"name"`
	Subject      string       `json:"subject"`
	Asked        when.Instant `json:"asked"`
	Answered     when.Instant `json:"answered"` // 0: not
	Clock        int          `json:"clock"`    // minutes that it took
	Work         int          `json:"work"`
}

// PeopleTable is everybody with whom the reader exchanges anything.
type PeopleTable struct {
	Rows     []PersonRow `json:"rows"`
	Counting bool        `json:"counting"`
}

// Side is how fast one of two answers the other, and what they owe them.
type Side struct {
	N    int `json:"n,omitempty"`    // answers
	Work int `json:"work,omitempty"` // the median, in minutes of the reader's working hours
	Owed int `json:"owed,omitempty"` // open follow-ups
}

// PersonRow is what stands between the reader and somebody; how fast both are is of the last year.
type PersonRow struct {
	Address          string       `json:"address"`
	Name             string       `json:"name"`
	Own              Side         `json:"own"`
	Theirs           Side         `json:"theirs"`
	WaitForMe        int          `json:"waitForMe,omitempty"`        // messages that lie before the reader, and wait
	WaitForMeSince   when.Instant `json:"waitForMeSince,omitempty"`   // the first of these, or of follow-ups; 0: none
	WaitForThemSince when.Instant `json:"waitForThemSince,omitempty"` // the first follow-up that waits for them
	Unanswered       int          `json:"unanswered,omitempty"`       // messages to them that wait, of two months
	Dated            int          `json:"dated,omitempty"`            // open follow-ups with a day
	Moved            int          `json:"moved,omitempty"`            // how often open ones were put off
	Received         int          `json:"received"`
	Sent             int          `json:"sent"`
	Last             when.Instant `json:"last"` // when one of the two last wrote
}

// AheadView is what the coming six weeks hold, against what the reader usually does.
type AheadView struct {
	Left     int            `json:"left"`    // to decide now
	Late     int            `json:"late"`    // minutes of follow-ups that are late
	Learned  int            `json:"learned"` // days of which the pace and the mail to expect were learned
	Weeks    int            `json:"weeks"`   // of which the pace of follow-ups was
	Days     []AheadDay     `json:"days"`
	Off      []string       `json:"off"`      // working days that are taken off in thought
	CaughtUp string         `json:"caughtUp"` // the day at whose end no more is left than without these; "": not within six weeks
	Inbox    []int          `json:"inbox"`    // by how long it has been there: of today, three days, a week, four, thirteen, longer
	Open     []int          `json:"open"`     // open follow-ups by when they were made, likewise
	Proofs   numbers.Proofs `json:"proofs"`
}

// AheadDay is one of the days to come.
type AheadDay struct {
	Date     string `json:"date"`
	Off      bool   `json:"off"`    // no working day, or the reader is away
	Free     bool   `json:"free"`   // taken off in thought
	Mail     int    `json:"mail"`   // conversations to be expected
	Back     int    `json:"back"`   // that come back
	Pace     int    `json:"pace"`   // that are usually decided
	Due      int    `json:"due"`    // minutes of follow-ups
	Events   int    `json:"events"` // minutes within working hours
	Room     int    `json:"room"`   // minutes of follow-ups that are usually finished
	Left     int    `json:"left"`   // to decide at its end
	Over     int    `json:"over"`   // minutes that are due and not done at its end
	LeftThen int    `json:"leftThen"`
	OverThen int    `json:"overThen"`
}

// AgedView is what is of an age, the oldest first.
type AgedView struct {
	Lines []AgedLine `json:"lines"`
	More  bool       `json:"more"`
}

// AgedLine is a conversation in the inbox, or an open follow-up.
type AgedLine struct {
	Conversation int64        `json:"conversation"`
	UID          string       `json:"uid,omitempty"` // of a follow-up
	Title        string       `json:"title"`
	Since        when.Instant `json:"since"`
}

// DigView is how an inbox of thousands comes to zero, in pieces of ten minutes.
type DigView struct {
	Left     int               `json:"left"`
	Steps    []numbers.Digging `json:"steps"`
	Pace     int               `json:"pace"`  // seconds that a decision takes; 0: that is not known
	Whole    int               `json:"whole"` // pieces of ten minutes that all of it takes
	Tens     int               `json:"tens"`  // of these a day
	End      string            `json:"end"`   // the date on which it is done; "": never, or there is nothing to do
	Next     []numbers.Digging `json:"next"`  // what is done in the next ten minutes
	Begun    string            `json:"begun"` // a date; "": it has not begun
	LeftThen int               `json:"leftThen"`
	Days     []DayView         `json:"days"` // how many were left on each evening since
}

// DigAsked is how many pieces of ten minutes a day somebody means to take; 0 to dig no more.
type DigAsked struct {
	Tens int `json:"tens"`
}

// MemberLoad is how much of a team's somebody has, against what they usually finish on such a day.
type MemberLoad struct {
	Name  string `json:"name"`
	Open  int    `json:"open"`  // follow-ups
	Today int    `json:"today"` // minutes of those that are due by the end of today
	Usual int    `json:"usual"` // minutes
}
