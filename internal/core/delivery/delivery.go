// Package delivery knows when mail comes in: a weekly plan for each stream, holding and opening by hand, what is let through whatever the plan
// says, and who hears of it. Times of a plan are minutes after midnight on the
// clocks of the user's zone, which is passed in, as the present is.
package delivery

import (
	"slices"
	"time"

	"ebbe/internal/core/when"
)

// EndOfDay is the last minute a span can end before: midnight.
const EndOfDay = 24 * 60

// Span is a piece of a day in minutes after midnight, From ≤ t < To.
type Span struct {
	From int `json:"from"`
	To   int `json:"to"`
}

func (s Span) overlaps(o Span) bool { return s.From < o.To && o.From < s.To }

// Block is time kept free for something: nothing comes in.
type Block struct {
	Span `tstype:",extends"`
	Name string `json:"name"`
}

// Day is the plan of one weekday. Outside the open hours nothing comes in but
// at the rounds. Quiet hours and blocks win over open hours; a round is a round
// wherever it lies.
type Day struct {
	Open   []Span  `json:"open"`
	Quiet  []Span  `json:"quiet"`
	Focus  []Block `json:"focus"`
	Rounds []int   `json:"rounds"` // minutes after midnight
}

// Plan is a week of deliveries with a name. Each stream has seven days, from Sunday on
// as time.Weekday counts them; those of the user's own only where some are drawn.
type Plan struct {
	ID       string           `json:"id"`
	Name     string           `json:"name"`
	People   []Day            `json:"people"`
	Machines []Day            `json:"machines"`
	Own      map[Stream][]Day `json:"own,omitempty" tstype:"{ [stream: string]: Day[] }"`
	Answer   string           `json:"answer"`  // what senders hear, with blanks; empty: nothing
	Contact  string           `json:"contact"` // for its blank
	Away     bool             `json:"away"`    // the user is away while it is in force: teams pass them over
}

// Mode is what the user does by hand.
type Mode string

// The modes.
const (
	ModePlan Mode = ""     // nothing: the plan decides
	ModeHold Mode = "hold" // nothing comes in
	ModeOpen Mode = "open" // everything comes in
)

// Hand is a hold, or an opening, by hand. It lasts until its end, or until the
// user ends it if Until is empty; From says when it began and tells one hold
// from another.
type Hand struct {
	Mode   Mode         `json:"mode"`
	From   when.Instant `json:"from"`
	Until  when.Moment  `json:"until"`
	Answer string       `json:"answer"` // what senders hear while held
	Away   bool         `json:"away"`   // the user is away: teams pass them over
}

// at is what is in force at t. An end is the first instant at which it is not.
func (h Hand) at(t when.Instant) Mode {
	if h.Mode != ModePlan && (h.Until.IsZero() || t < h.Until.At) {
		return h.Mode
	}
	return ModePlan
}

// OwnStream is a stream of the user's own. Where a plan draws no days for it, it comes in
// at rounds of its own, plan or not, or, without any, with the stream it goes along with.
type OwnStream struct {
	ID    Stream `json:"id"`
	Name  string `json:"name"`
	Along Stream `json:"along"` // people or machines
	At    Rounds `json:"at"`
}

// Rounds are the same round on some weekdays; without any days there are none.
type Rounds struct {
	Days   int `json:"days"`   // a bit for each, 1<<time.Sunday …
	Minute int `json:"minute"` // after midnight
}

// Settings are all that decides when mail comes in, and what the user hears
// about it.
type Settings struct {
	On        string       `json:"on"`    // the ID of the plan in force; empty: mail comes in as it is sent
	Since     when.Instant `json:"since"` // since when it is
	Plans     []Plan       `json:"plans"`
	Own       []OwnStream  `json:"own,omitempty"`      // streams
	Together  []Stream     `json:"together,omitempty"` // streams whose mail lies in the inbox as one digest
	Hand      Hand         `json:"hand"`
	Through   []Exception  `json:"through"`
	Counted   bool         `json:"counted"`   // the number of what is held is shown
	BackWaits bool         `json:"backWaits"` // what comes back from a snooze waits for the next delivery
	Notify    Notify       `json:"notify"`
	// Letter is when what concerns the user in teams comes as one message, beside where it stands.
	Letter Rounds `json:"letter,omitzero"`
	// Review is when the week is to be looked back on.
	Review Rounds `json:"review,omitzero"`
}

// Usual are the settings somebody has until they change them: everything comes
// in as it is sent, and reminders notify.
func Usual() Settings {
	return Settings{Plans: []Plan{}, Through: []Exception{}, Notify: Notify{On: true, Reminders: RemindAll, People: []string{}}}
}

// Plan is the plan in force, or nil.
func (s Settings) Plan() *Plan {
	for i := range s.Plans {
		if s.On != "" && s.Plans[i].ID == s.On {
			return &s.Plans[i]
		}
	}
	return nil
}

// Held says whether mail is held by hand at t, and until when; 0 until the user ends it.
func (s Settings) Held(t when.Instant) (until when.Instant, held bool) {
	return s.Hand.Until.At, s.Hand.at(t) == ModeHold
}

// Away says whether the user is away at t, and until when if that is known.
func (s Settings) Away(t when.Instant) (until when.Moment, away bool) {
	if s.Hand.Away && s.Hand.at(t) == ModeHold {
		return s.Hand.Until, true
	}
	p := s.Plan()
	return when.Moment{}, p != nil && p.Away
}

// State is what happens to mail at a time.
type State string

// The states.
const (
	StateOpen  State = "open"  // it comes in as it is sent
	StateShut  State = "shut"  // outside the open hours
	StateQuiet State = "quiet" // quiet hours
	StateFocus State = "focus" // a block
	StateHand  State = "hand"  // held by hand
)

// Piece is a stretch of time with one state, From ≤ t < To.
type Piece struct {
	From  when.Instant `json:"from"`
	To    when.Instant `json:"to"`
	State State        `json:"state"`
	Name  string       `json:"name"` // of the block
	Hand  bool         `json:"hand"` // by hand: held, or open whatever the plan says
}

// Course is how mail of a stream comes in over a stretch of time: pieces that
// follow each other without a gap, and the rounds. Everything Ebbe does and
// says about delivery is read from it.
type Course struct {
	Pieces []Piece
	Rounds []when.Instant
}

// Course computes what happens between from and to. A boundary or round at a
// local time that does not exist is at the first instant that does; of one that
// exists twice it is the first.
func (s Settings) Course(stream Stream, from, to when.Instant, loc *time.Location) Course {
	c := courseOf(s.daysOf(stream), from, to, loc)
	return c.byHand(s.Hand)
}

// courseOf is the course of a plan's days; without any, all is open.
func courseOf(days []Day, from, to when.Instant, loc *time.Location) (c Course) {
	if len(days) != 7 {
		if from < to {
			c.Pieces = []Piece{{From: from, To: to, State: StateOpen}}
		}
		return c
	}
	for d := -1; ; d++ { // a round of the day before may have been moved into this one
		start, end := when.DayStart(from, loc, d), when.DayStart(from, loc, d+1)
		if start >= to {
			return c
		}
		if start == end { // a day that the zone has left out
			continue
		}
		noon := start + (end-start)/2 // far from what an offset moves
		date := noon.In(loc)
		day := days[date.Weekday()]
		at := func(minute int) when.Instant {
			if minute == EndOfDay {
				return end
			}
			return min(when.At(date, minute, loc), end)
		}
		for _, seg := range day.segments() {
			c.add(Piece{From: max(at(seg.From), from), To: min(at(seg.To), to), State: seg.state, Name: seg.name})
		}
		for _, r := range day.Rounds {
			if t := at(r); t >= from && t < to {
				c.round(t)
			}
		}
	}
}

// add appends a piece, unless it is empty, and joins it to the last if it goes
// on in the same state.
func (c *Course) add(p Piece) {
	if p.From >= p.To {
		return
	}
	if n := len(c.Pieces); n > 0 {
		if last := &c.Pieces[n-1]; last.To == p.From && last.State == p.State && last.Name == p.Name && last.Hand == p.Hand {
			last.To = p.To
			return
		}
	}
	c.Pieces = append(c.Pieces, p)
}

// round notes a round in its order; two that a missing hour has brought
// together are one.
func (c *Course) round(t when.Instant) {
	i := len(c.Rounds)
	for i > 0 && c.Rounds[i-1] > t {
		i--
	}
	if i > 0 && c.Rounds[i-1] == t {
		return
	}
	c.Rounds = append(c.Rounds, 0)
	copy(c.Rounds[i+1:], c.Rounds[i:])
	c.Rounds[i] = t
}

// byHand lays what is done by hand over the course of the plan.
func (c Course) byHand(h Hand) (out Course) {
	if h.Mode == ModePlan {
		return c
	}
	for _, p := range c.Pieces {
		end := p.To
		if !h.Until.IsZero() {
			end = min(max(h.Until.At, p.From), p.To)
		}
		hand := Piece{From: p.From, To: end, State: StateHand, Hand: true}
		if h.Mode == ModeOpen {
			hand.State = StateOpen
		}
		out.add(hand)
		p.From = end
		out.add(p)
	}
	for _, r := range c.Rounds {
		if h.at(r) != ModeHold {
			out.Rounds = append(out.Rounds, r)
		}
	}
	return out
}

type segment struct {
	Span
	state State
	name  string
}

// segments cuts the day into stretches of one state each.
func (d Day) segments() (out []segment) {
	cuts := make([]int, 0, 2+2*(len(d.Open)+len(d.Quiet)+len(d.Focus)))
	cuts = append(cuts, 0, EndOfDay)
	for _, s := range d.Open {
		cuts = append(cuts, s.From, s.To)
	}
	for _, s := range d.Quiet {
		cuts = append(cuts, s.From, s.To)
	}
	for _, b := range d.Focus {
		cuts = append(cuts, b.From, b.To)
	}
	slices.Sort(cuts)
	for i, from := range cuts[:len(cuts)-1] {
		to := cuts[i+1]
		if from == to {
			continue
		}
		state, name := d.at(from)
		if n := len(out); n > 0 && out[n-1].state == state && out[n-1].name == name {
			out[n-1].To = to
		} else {
			out = append(out, segment{Span{from, to}, state, name})
		}
	}
	return out
}

// at is the state of the minute m of the day.
func (d Day) at(m int) (State, string) {
	for _, b := range d.Focus {
		if b.From <= m && m < b.To {
			return StateFocus, b.Name
		}
	}
	for _, s := range d.Quiet {
		if s.From <= m && m < s.To {
			return StateQuiet, ""
		}
	}
	for _, s := range d.Open {
		if s.From <= m && m < s.To {
			return StateOpen, ""
		}
	}
	return StateShut, ""
}

// horizon is for how many days ahead the next delivery is looked for: a week
// has all that a plan can have, and a day more whatever the clocks do.
const horizon = 9

// Delivery is an instant at which what is held comes in.
type Delivery struct {
	At    when.Instant `json:"at"`    // 0: none is planned
	Round bool         `json:"round"` // it is a round; else mail flows from then on
	// Within is the block, or “quiet hours”, in which a round lies all the same.
	Within string `json:"within,omitempty"`
}

// Next is the first delivery of the stream at or after t.
func (s Settings) Next(stream Stream, t when.Instant, loc *time.Location) Delivery {
	for d := 0; d < horizon; d++ {
		if s.Hand.at(t) == ModeHold {
			if s.Hand.Until.IsZero() {
				return Delivery{}
			}
			t, d = s.Hand.Until.At, 0
		}
		end := when.DayStart(t, loc, 1)
		if next := s.Course(stream, t, end, loc).first(); next.At != 0 {
			return next
		}
		t = end
	}
	return Delivery{}
}

// NextRound is the first round of mail from people after t; 0 if none is planned, or
// mail flows before.
func (s Settings) NextRound(t when.Instant, loc *time.Location) when.Instant {
	if next := s.Next(StreamPeople, t+1, loc); next.Round {
		return next.At
	}
	return 0
}

// within is the name of the block in which t lies, or “quiet hours”; empty for neither.
func (c Course) within(t when.Instant) string {
	for _, p := range c.Pieces {
		if p.From <= t && t < p.To {
			switch p.State {
			case StateFocus:
				return p.Name
			case StateQuiet:
				return "quiet hours"
			}
		}
	}
	return ""
}

// first is the first delivery of the course; a round if one begins the open
// hours.
func (c Course) first() (d Delivery) {
	for _, p := range c.Pieces {
		if p.State == StateOpen {
			d = Delivery{At: p.From}
			break
		}
	}
	if len(c.Rounds) > 0 && (d.At == 0 || c.Rounds[0] <= d.At) {
		d = Delivery{At: c.Rounds[0], Round: true, Within: c.within(c.Rounds[0])}
	}
	return d
}

// Last is the last delivery of the stream from the instant from until now, both
// included: while mail flows that is now itself. At is 0 if there was none.
func (s Settings) Last(stream Stream, from, now when.Instant, loc *time.Location) (d Delivery) {
	if from > now {
		return d
	}
	for end := now + 1; end > from; {
		start := max(when.DayStart(end-1, loc, 0), from)
		c := s.Course(stream, start, end, loc)
		for _, p := range c.Pieces {
			if p.State == StateOpen {
				d = Delivery{At: p.To - 1}
			}
		}
		if n := len(c.Rounds); n > 0 && c.Rounds[n-1] >= d.At {
			d = Delivery{At: c.Rounds[n-1], Round: true}
		}
		if d.At != 0 {
			return d
		}
		end = start
	}
	return d
}

// Why is why a message comes in, or why it does not yet.
type Why string

// The reasons.
const (
	WhyOpen    Why = "open"    // mail flows
	WhyRound   Why = "round"   // at this very instant a round lands
	WhyThrough Why = "through" // an entry lets it through
	WhyShut    Why = "shut"
	WhyQuiet   Why = "quiet"
	WhyFocus   Why = "focus"
	WhyHand    Why = "hand"
)

// Verdict is what becomes of a message that arrives at some instant.
type Verdict struct {
	In    bool
	At    when.Instant // when it comes in; 0: when the user lets it in
	Why   Why
	Name  string // of the block that holds it
	Entry string // the ID of the entry that lets it through
}

// Judge answers for any message and instant: does it come in now, and if not,
// when, and why.
func (s Settings) Judge(m Arriving, t when.Instant, loc *time.Location) Verdict {
	c := s.Course(m.Stream, t, t+1, loc)
	here := c.Pieces[0]
	switch {
	case here.State == StateOpen:
		return Verdict{In: true, At: t, Why: WhyOpen}
	case len(c.Rounds) > 0:
		return Verdict{In: true, At: t, Why: WhyRound}
	}
	if m.Ruled != "" {
		return Verdict{In: true, At: t, Why: WhyThrough, Entry: m.Ruled}
	}
	if e := s.lets(m, t); e != nil {
		return Verdict{In: true, At: t, Why: WhyThrough, Entry: e.ID}
	}
	return Verdict{At: s.Next(m.Stream, t, loc).At, Why: Why(here.State), Name: here.Name}
}

// Standing is how delivery of a stream stands at an instant.
type Standing struct {
	State State        `json:"state"`
	Name  string       `json:"name"`  // of the block
	Hand  bool         `json:"hand"`  // by hand
	Until when.Instant `json:"until"` // when this state ends; 0: not within a week
	Next  Delivery     `json:"next"`  // while held
}

// Stands says how delivery stands at t.
func (s Settings) Stands(stream Stream, t when.Instant, loc *time.Location) (st Standing) {
	for d := 0; d < horizon-1; d++ { // day by day: mostly it ends soon
		for _, p := range s.Course(stream, max(t, when.DayStart(t, loc, d)), when.DayStart(t, loc, d+1), loc).Pieces {
			if here := (Standing{State: p.State, Name: p.Name, Hand: p.Hand}); st.State == "" {
				st = here
			} else if here != st {
				st.Until = p.From
				break
			}
		}
		if st.Until != 0 {
			break
		}
	}
	if st.Until == 0 && st.Hand && !s.Hand.Until.IsZero() {
		st.Until = s.Hand.Until.At
	}
	if st.State != StateOpen {
		st.Next = s.Next(stream, t, loc)
	}
	return st
}

// Changes is the first instant after t at which anything about delivery
// changes: a state begins or a round lands; 0 if nothing will.
func (s Settings) Changes(t when.Instant, loc *time.Location) (at when.Instant) {
	sooner := func(x when.Instant) {
		if x > t && (at == 0 || x < at) {
			at = x
		}
	}
	if s.Hand.Mode != ModePlan && !s.Hand.Until.IsZero() {
		sooner(s.Hand.Until.At)
	}
	for _, stream := range s.All() {
		sooner(s.Stands(stream, t, loc).Until)
		for d := 0; d < horizon-1; d++ {
			start := max(t+1, when.DayStart(t, loc, d))
			if at != 0 && start >= at {
				break
			}
			if rounds := s.Course(stream, start, when.DayStart(t, loc, d+1), loc).Rounds; len(rounds) > 0 {
				sooner(rounds[0])
				break
			}
		}
	}
	return at
}

// Silent says that at t the user wants to hear nothing: quiet hours, a block,
// or a hold by hand.
func (s Settings) Silent(t when.Instant, loc *time.Location) bool {
	st := s.Course(StreamPeople, t, t+1, loc).Pieces[0].State
	return st == StateQuiet || st == StateFocus || st == StateHand
}
