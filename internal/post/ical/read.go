// Package ical reads and writes calendar files (iCalendar, RFC 5545), and
// follow-ups as a table (RFC 4180).
package ical

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"io"
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/emersion/go-ical"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Todo is a follow-up as it stands in a calendar file: what it has by numbers in
// a box stands there by name.
type Todo struct {
	followup.FollowUp
	LabelPaths []string // CATEGORIES
	StageName  string
}

// Calendar is what a calendar file (RFC 5545) holds.
type Calendar struct {
	Method calendar.Method
	Todos  []Todo
	Events []calendar.Event
	Doubts []string // what could not be taken as it stands, each in a sentence
}

// Limits on calendar files.
const (
	MaxCalendar   = 20 << 20 // bytes
	maxComponents = 50_000
	maxDoubts     = 12
)

// Errors of Read. Their texts are parts of sentences for the user.
var (
	ErrNoCalendar  = errors.New("this is no calendar file (.ics)")
	ErrBigCalendar = fmt.Errorf("this file is larger than %d MB: export it in parts, by year or by calendar, and read one after the other", MaxCalendar>>20)
)

var (
	contentLine = regexp.MustCompile(`^[A-Za-z0-9-]+(?:;[A-Za-z0-9-]+=(?:"[^"]*"|[^";:,]*)(?:,(?:"[^"]*"|[^";:,]*))*)*:`)
	beginLine   = regexp.MustCompile(`(?i)^BEGIN:\s*([A-Z0-9-]+)\s*$`)
	endLine     = regexp.MustCompile(`(?i)^END:\s*([A-Z0-9-]+)\s*$`)
)

// Read reads a calendar file as other programs write it. Lines that are
// broken are left out and counted; times without a zone are in loc. A file in
// which nothing can be read is an error.
func Read(raw []byte, loc *time.Location) (c Calendar, err error) {
	if len(raw) > MaxCalendar {
		return c, ErrBigCalendar
	}
	defer func() {
		if p := recover(); p != nil { // the parser gave up in the middle
			err = ErrNoCalendar
		}
	}()
	clean, broken, over := wellFormed(raw)
	r := calendarReader{out: &c, loc: loc, zones: map[string]*ical.Component{}, warned: map[string]bool{}}
	switch {
	case broken == 1:
		r.doubt("One broken line could not be read and was left out.")
	case broken > 1:
		r.doubt("%d broken lines could not be read and were left out.", broken)
	}
	if over > 0 {
		r.doubt("The file holds more than can be taken in at once: its last %d entries were left out. Cut it in two and take in the second part, too.", over)
	}
	found := false
	for dec := ical.NewDecoder(bytes.NewReader(clean)); ; {
		cal, err := dec.Decode()
		if err == io.EOF {
			break
		}
		if err != nil {
			if !found {
				return c, ErrNoCalendar
			}
			r.doubt("The file could not be read to its end: what stands after the part that was read was left out.")
			break
		}
		found = true
		r.calendar(cal)
	}
	if !found {
		return c, ErrNoCalendar
	}
	if extra := len(c.Doubts) - maxDoubts; extra > 0 {
		c.Doubts = append(c.Doubts[:maxDoubts], fmt.Sprintf("And %d more of that kind.", extra))
	}
	return c, nil
}

// wellFormed unfolds the lines (RFC 5545, section 3.1), leaves out those that
// are none, and closes what was left open. over is how many entries are too
// many.
func wellFormed(raw []byte) (clean []byte, broken, over int) {
	text := strings.ToValidUTF8(string(bytes.TrimPrefix(raw, []byte("\xef\xbb\xbf"))), "\uFFFD")
	text = strings.NewReplacer("\r\n", "\n", "\r", "\n", "\x00", "").Replace(text)
	text = strings.NewReplacer("\n ", "", "\n\t", "").Replace(text)
	var out bytes.Buffer
	var open []string
	components := 0
	closeTo := func(n int) {
		for len(open) > n {
			out.WriteString("END:" + open[len(open)-1] + "\r\n")
			open = open[:len(open)-1]
		}
	}
	for line := range strings.SplitSeq(text, "\n") {
		switch m := beginLine.FindStringSubmatch(line); {
		case components > maxComponents:
			if m != nil && (strings.EqualFold(m[1], "VEVENT") || strings.EqualFold(m[1], "VTODO")) {
				over++
			}
		case strings.TrimSpace(line) == "":
		case m != nil:
			name := strings.ToUpper(m[1])
			if name == "VCALENDAR" {
				closeTo(0)
			} else if len(open) == 0 {
				broken++
				continue
			}
			if components++; components > maxComponents {
				closeTo(0)
				over++
				continue
			}
			open = append(open, name)
			out.WriteString("BEGIN:" + name + "\r\n")
		case endLine.MatchString(line):
			i := slices.Index(open, strings.ToUpper(endLine.FindStringSubmatch(line)[1]))
			if i < 0 {
				broken++
				continue
			}
			closeTo(i)
		case len(open) == 0 || !contentLine.MatchString(line):
			broken++
		default:
			out.WriteString(line + "\r\n")
		}
	}
	closeTo(0)
	return out.Bytes(), broken, over
}

type calendarReader struct {
	out    *Calendar
	loc    *time.Location
	zones  map[string]*ical.Component
	warned map[string]bool
}

func (r *calendarReader) doubt(format string, args ...any) {
	text := fmt.Sprintf(format, args...)
	if !r.warned[text] {
		r.warned[text] = true
		r.out.Doubts = append(r.out.Doubts, text)
	}
}

func (r *calendarReader) calendar(cal *ical.Calendar) {
	r.out.Method = calendar.Method(strings.ToLower(text(cal.Component, ical.PropMethod)))
	for _, c := range cal.Children {
		if c.Name == ical.CompTimezone {
			r.zones[text(c, ical.PropTimezoneID)] = c
		}
	}
	items := map[string][]followup.Item{}
	var todos []Todo
	for _, c := range cal.Children {
		switch c.Name {
		case ical.CompToDo:
			if parent, ok := itemOf(c); ok {
				items[parent] = append(items[parent], followup.Item{UID: text(c, ical.PropUID), Text: text(c, ical.PropSummary), Done: strings.EqualFold(text(c, ical.PropStatus), "COMPLETED")})
				continue
			}
			todos = append(todos, r.todo(c))
		case ical.CompEvent:
			r.event(c)
		}
	}
	for i := range todos {
		todos[i].Checklist = items[todos[i].UID]
		delete(items, todos[i].UID)
	}
	for _, lost := range items { // their parent is not in the file: they stand for themselves
		for _, i := range lost {
			f := followup.FollowUp{UID: i.UID, Title: i.Text, Status: followup.NeedsAction, Priority: followup.Normal}
			if i.Done {
				f.Status, f.Percent = followup.Completed, 100
			}
			todos = append(todos, Todo{FollowUp: f})
		}
	}
	r.out.Todos = append(r.out.Todos, todos...)
}

// itemOf says that a to-do is no more than a line of the checklist of another.
func itemOf(c *ical.Component) (parent string, ok bool) {
	parent = text(c, "RELATED-TO")
	if parent == "" || len(c.Children) > 0 || text(c, ical.PropUID) == "" || text(c, ical.PropSummary) == "" {
		return "", false
	}
	if p := c.Props.Get("RELATED-TO"); !strings.EqualFold(cmp.Or(p.Params.Get("RELTYPE"), "PARENT"), "PARENT") {
		return "", false
	}
	for name := range c.Props {
		switch name {
		case "RELATED-TO", "UID", "SUMMARY", "STATUS", "DTSTAMP", "COMPLETED", "PERCENT-COMPLETE", "CREATED", "LAST-MODIFIED":
		default:
			return "", false
		}
	}
	return parent, true
}

func text(c *ical.Component, name string) string {
	p := c.Props.Get(name)
	if p == nil {
		return ""
	}
	s, err := p.Text()
	if err != nil {
		return p.Value
	}
	return s
}

// moment reads a date or a time. What has a zone keeps its wall-clock time.
func (r *calendarReader) moment(p *ical.Prop) when.Moment {
	if p == nil {
		return when.Moment{}
	}
	v := strings.TrimSpace(p.Value)
	if t, err := time.Parse("20060102", v); err == nil {
		return when.WholeDayOf(t, r.loc)
	}
	if t, err := time.Parse("20060102T150405Z", v); err == nil {
		return when.Moment{At: when.Of(t)}
	}
	t, err := time.Parse("20060102T150405", v)
	if err != nil {
		r.doubt("“%s” is no time, so it was left out.", v)
		return when.Moment{}
	}
	id := p.Params.Get(ical.PropTimezoneID)
	if id == "" {
		return when.AtWall(t, r.loc)
	}
	zone := r.zones[id]
	name := strings.TrimPrefix(id, "/")
	loc, err := when.LoadZone(name)
	if err == nil && name != "" && name != "Local" {
		m := when.AtWall(t, loc)
		if offset, ok := offsetAt(zone, t); ok {
			if _, real := m.At.In(loc).Zone(); real != offset {
				r.doubt("The file says that clocks in %s stand at %s on %s, which they do not; Ebbe took the times as %s has them.", name, sayOffset(offset), t.Format("2 January 2006"), name)
			}
		}
		return m
	}
	if offset, ok := offsetAt(zone, t); ok {
		return when.Moment{At: when.Of(t.Add(-time.Duration(offset) * time.Second))}
	}
	r.doubt("Nobody knows the time zone “%s”; its times were taken as those of %s.", id, r.loc)
	return when.AtWall(t, r.loc)
}

func sayOffset(seconds int) string {
	sign := "+"
	if seconds < 0 {
		sign, seconds = "−", -seconds
	}
	return fmt.Sprintf("UTC%s%d:%02d", sign, seconds/3600, seconds/60%60)
}

// offsetAt is by how many seconds the clocks of a VTIMEZONE (RFC 5545, section
// 3.6.5) are ahead of UTC when they show the wall-clock time t.
func offsetAt(zone *ical.Component, t time.Time) (offset int, ok bool) {
	if zone == nil {
		return 0, false
	}
	var last time.Time
	var first time.Time
	for _, c := range zone.Children {
		start, err := time.Parse("20060102T150405", strings.TrimSuffix(text(c, ical.PropDateTimeStart), "Z"))
		to, fine := parseOffset(text(c, ical.PropTimezoneOffsetTo))
		from, _ := parseOffset(text(c, ical.PropTimezoneOffsetFrom))
		if err != nil || !fine {
			continue
		}
		if first.IsZero() || start.Before(first) {
			first = start
			if last.IsZero() {
				offset, ok = from, true
			}
		}
		begins := []time.Time{start}
		for _, p := range c.Props["RDATE"] {
			for _, v := range strings.Split(p.Value, ",") {
				if d, err := time.Parse("20060102T150405", strings.TrimSuffix(v, "Z")); err == nil {
					begins = append(begins, d)
				}
			}
		}
		if rule, err := when.ParseRecur(text(c, ical.PropRecurrenceRule), time.UTC); err == nil && t.Year()-start.Year() < 400 {
			from := start
			if t.Year()-start.Year() > 40 { // a rule is followed for some decades only
				from = time.Date(t.Year()-2, start.Month(), start.Day(), start.Hour(), start.Minute(), 0, 0, time.UTC)
			}
			for d := range rule.Falls(from, true) {
				if d.After(t) {
					break
				}
				begins = append(begins, d)
			}
		}
		for _, b := range begins {
			if !b.After(t) && (last.IsZero() || b.After(last)) {
				last, offset, ok = b, to, true
			}
		}
	}
	return offset, ok
}

func parseOffset(s string) (seconds int, ok bool) {
	if len(s) < 5 || s[0] != '+' && s[0] != '-' {
		return 0, false
	}
	n, err := strconv.Atoi(s[1:5])
	if err != nil {
		return 0, false
	}
	seconds = n/100*3600 + n%100*60
	if s[0] == '-' {
		seconds = -seconds
	}
	return seconds, true
}

func instant(c *ical.Component, name string) when.Instant {
	p := c.Props.Get(name)
	if p == nil {
		return 0
	}
	t, err := time.Parse("20060102T150405Z", strings.TrimSpace(p.Value))
	if err != nil {
		return 0
	}
	return when.Of(t)
}

// messageOf is the Message-ID of a "mid:" URL (RFC 2392).
func messageOf(c *ical.Component) string {
	id, ok := strings.CutPrefix(text(c, ical.PropURL), "mid:")
	if !ok {
		return ""
	}
	if plain, err := url.PathUnescape(id); err == nil {
		return plain
	}
	return id
}

// known are the properties that a follow-up has a place for.
var knownTodo = map[string]bool{"UID": true, "DTSTAMP": true, "CREATED": true, "LAST-MODIFIED": true, "SUMMARY": true, "DESCRIPTION": true, "DTSTART": true, "DUE": true, "PRIORITY": true,
	"STATUS": true, "PERCENT-COMPLETE": true, "COMPLETED": true, "CATEGORIES": true, "LOCATION": true, "RRULE": true, "EXDATE": true,
	"X-EBBE-PROJECT": true, "X-EBBE-EFFORT": true, "X-EBBE-STAGE": true, "X-EBBE-WITH": true, "X-EBBE-WAITS": true, "X-EBBE-SENT": true, "X-EBBE-ALSO": true, "X-EBBE-ALL": true, "X-EBBE-HAVE": true, "X-EBBE-MOVED": true, "X-EBBE-REPEAT": true, "X-EBBE-FINISHED": true}

var knownEvent = map[string]bool{"UID": true, "DTSTAMP": true, "CREATED": true, "LAST-MODIFIED": true, "SUMMARY": true, "DESCRIPTION": true, "DTSTART": true, "DTEND": true, "DURATION": true,
	"SEQUENCE": true, "LOCATION": true, "RRULE": true, "EXDATE": true, "ATTENDEE": true, "ORGANIZER": true, "RECURRENCE-ID": true, "X-EBBE-MINE": true, "X-EBBE-FIRED": true}

var knownAlarm = map[string]bool{"TRIGGER": true, "DESCRIPTION": true, "ACKNOWLEDGED": true, "X-EBBE-BEFORE": true, "X-EBBE-AT": true}

// foreign are the lines of a component that Ebbe has no place for, but those
// that drop names.
func foreign(c *ical.Component, known map[string]bool, drop ...string) string {
	var lines []string
	for name, props := range c.Props {
		for _, p := range props {
			line := lineOf(p)
			if !known[name] && !slices.ContainsFunc(drop, func(d string) bool { return strings.HasPrefix(line, d) }) {
				lines = append(lines, line)
			}
		}
	}
	slices.Sort(lines)
	return strings.Join(lines, "\n")
}

func lineOf(p ical.Prop) string {
	var b strings.Builder
	b.WriteString(p.Name)
	names := []string{}
	for name := range p.Params {
		names = append(names, name)
	}
	slices.Sort(names)
	for _, name := range names {
		values := make([]string, len(p.Params[name]))
		for i, v := range p.Params[name] {
			if strings.ContainsAny(v, ";:,") {
				v = `"` + v + `"`
			}
			values[i] = v
		}
		b.WriteString(";" + name + "=" + strings.Join(values, ","))
	}
	return b.String() + ":" + p.Value
}

func (r *calendarReader) todo(c *ical.Component) Todo {
	f := followup.FollowUp{UID: text(c, ical.PropUID), Title: text(c, ical.PropSummary), Notes: text(c, ical.PropDescription), Context: text(c, ical.PropLocation),
		Project: text(c, "X-EBBE-PROJECT"), Made: instant(c, ical.PropCreated), Changed: instant(c, ical.PropLastModified), Message: messageOf(c)}
	f.Foreign = foreign(c, knownTodo, "URL:mid:")
	f.Due = r.moment(c.Props.Get(ical.PropDue))
	if start := c.Props.Get(ical.PropDateTimeStart); start != nil && start.Params.Get("X-EBBE-IMPLIED") == "" {
		f.Start = r.moment(start)
	}
	n, _ := strconv.Atoi(text(c, ical.PropPriority))
	f.Priority = followup.Priority(n).Near()
	f.Percent, _ = strconv.Atoi(text(c, ical.PropPercentComplete))
	f.Percent = min(max(f.Percent, 0), 100)
	f.Moved, _ = strconv.Atoi(text(c, "X-EBBE-MOVED"))
	f.Effort = minutesOf(text(c, "X-EBBE-EFFORT"))
	switch strings.ToUpper(text(c, ical.PropStatus)) {
	case "COMPLETED":
		f.Status, f.Percent = followup.Completed, 100
	case "CANCELLED":
		f.Status = followup.Cancelled
	case "IN-PROCESS":
		f.Status = followup.InProcess
	default:
		if f.Status = followup.NeedsAction; c.Props.Get(ical.PropCompleted) != nil {
			f.Status, f.Percent = followup.Completed, 100
		}
	}
	if !f.Open() {
		f.Finished = cmp.Or(instant(c, "X-EBBE-FINISHED"), instant(c, ical.PropCompleted), f.Changed, instant(c, ical.PropDateTimeStamp), f.Made)
	}
	if f.Made == 0 {
		f.Made = instant(c, ical.PropDateTimeStamp)
	}
	if p := c.Props.Get("X-EBBE-WITH"); p != nil {
		f.With = person(p)
	}
	r.waits(c, &f)
	if f.Title == "" {
		f.Title = "(no title)"
		r.doubt("A to-do without a title was taken in as “(no title)”.")
	}
	if !f.Due.IsZero() && !f.Start.IsZero() && f.Due.At < f.Start.At {
		r.doubt("“%s” would be due before it starts; its start was left out.", f.Title)
		f.Start = when.Moment{}
	}
	r.repeat(c, &f)
	for _, a := range c.Children {
		if a.Name == ical.CompAlarm {
			r.reminder(a, &f)
		}
	}
	t := Todo{FollowUp: f, StageName: text(c, "X-EBBE-STAGE")}
	for _, p := range c.Props["CATEGORIES"] {
		if list, err := p.TextList(); err == nil {
			t.LabelPaths = append(t.LabelPaths, list...)
		}
	}
	return t
}

// person is whom a property names by address and CN.
func person(p *ical.Prop) mail.Address {
	return mail.Address{Name: p.Params.Get("CN"), Address: strings.TrimPrefix(strings.ToLower(p.Value), "mailto:")}
}

// people are those whom the properties of that name name, as many as are waited for at
// once.
func people(c *ical.Component, name string) (out []mail.Address) {
	for _, p := range c.Props.Values(name) {
		if len(out) < followup.MaxAlso {
			out = append(out, person(&p))
		}
	}
	return out
}

func (r *calendarReader) waits(c *ical.Component, f *followup.FollowUp) {
	p := c.Props.Get("X-EBBE-WAITS")
	if p == nil {
		return
	}
	if t, err := time.Parse("20060102T150405Z", p.Value); err == nil {
		f.Waits.Since = when.Of(t)
	}
	f.Waits.Only = p.Params.Get("X-ONLY") != ""
	f.Waits.Sent = text(c, "X-EBBE-SENT")
	f.Waits.All = text(c, "X-EBBE-ALL") != ""
	f.Waits.Also, f.Waits.Have = people(c, "X-EBBE-ALSO"), people(c, "X-EBBE-HAVE")
	if ask := p.Params.Get("X-ASK"); ask != "" {
		q := ical.NewProp("X-ASK")
		q.Value = ask
		if zone := p.Params.Get(ical.PropTimezoneID); zone != "" {
			q.Params.Set(ical.PropTimezoneID, zone)
		}
		f.Waits.Ask = r.moment(q)
	}
	n := func(name string) int { n, _ := strconv.Atoi(p.Params.Get(name)); return n }
	if rhythm := (when.Rhythm{Every: n("X-EVERY"), Unit: when.RhythmUnit(strings.ToLower(p.Params.Get("X-UNIT"))), Times: n("X-TIMES")}); rhythm.Valid() == nil {
		f.Waits.Rhythm, f.Waits.Asked = &rhythm, min(max(n("X-ASKED"), 0), followup.MaxAsked)
	}
}

func minutesOf(duration string) int {
	p := ical.NewProp("DURATION")
	p.Value = duration
	d, err := p.Duration()
	if duration == "" || err != nil || d < 0 || d > 365*24*time.Hour {
		return 0
	}
	return int(d / time.Minute)
}

func (r *calendarReader) repeat(c *ical.Component, f *followup.FollowUp) {
	rule := c.Props.Get(ical.PropRecurrenceRule)
	if rule == nil {
		return
	}
	if f.Due.IsZero() {
		f.Due = f.Start
	}
	rep := followup.Repeat{Rule: strings.ToUpper(strings.TrimSpace(rule.Value)), First: f.Due.OnWall(f.Due.Wall(r.loc), r.loc).Local, Nth: 1, Except: r.exdates(c)}
	if p := c.Props.Get("X-EBBE-REPEAT"); p != nil {
		rep.FromDone, rep.DaysOff = p.Params.Get("X-FROM") == "DONE", p.Params.Get("X-DAYS-OFF") != ""
		rep.Nth, _ = strconv.Atoi(p.Params.Get("X-NTH"))
		rep.Nth, rep.First = max(rep.Nth, 1), cmp.Or(p.Value, rep.First)
	}
	f.Repeat = &rep
	if err := f.Valid(); err != nil && f.Due.At >= f.Start.At {
		r.doubt("The repeating of “%s” was left out: %s.", f.Title, err)
		f.Repeat = nil
	}
}

func (r *calendarReader) exdates(c *ical.Component) (days []string) {
	for _, p := range c.Props["EXDATE"] {
		for _, v := range strings.Split(p.Value, ",") {
			if len(v) >= 8 {
				if t, err := time.Parse("20060102", v[:8]); err == nil {
					days = append(days, t.Format("2006-01-02"))
				}
			}
		}
	}
	slices.Sort(days)
	return slices.Compact(days)
}

// reminder reads a VALARM.
func (r *calendarReader) reminder(a *ical.Component, f *followup.FollowUp) {
	p := a.Props.Get(ical.PropTrigger)
	if p == nil || len(f.Reminders) >= followup.MaxReminders {
		return
	}
	one := followup.Reminder{Fired: instant(a, "ACKNOWLEDGED"), Foreign: foreign(a, knownAlarm, "ACTION:DISPLAY")}
	if strings.EqualFold(p.Params.Get("VALUE"), "DATE-TIME") {
		one.At = r.moment(p)
		if local := a.Props.Get("X-EBBE-AT"); local != nil {
			one.At = r.moment(local)
		}
		if one.At.IsZero() {
			return
		}
	} else {
		d, err := p.Duration()
		if err != nil || d > 0 {
			r.doubt("A reminder of “%s” that comes after its time was left out.", f.Title)
			return
		}
		one.Of = followup.OfStart
		if strings.EqualFold(p.Params.Get("RELATED"), "END") || f.Start.IsZero() {
			one.Of = followup.OfDue
		}
		d = -d
		one.Days, one.Minutes = int(d/(24*time.Hour)), int(d%(24*time.Hour)/time.Minute)
		if b := a.Props.Get("X-EBBE-BEFORE"); b != nil {
			one.Days, _ = strconv.Atoi(b.Params.Get("X-DAYS"))
			one.Minutes, _ = strconv.Atoi(b.Params.Get("X-MINUTES"))
			if clock, err := strconv.Atoi(b.Params.Get("X-CLOCK")); err == nil && clock >= 0 && clock < 24*60 {
				one.Clock = &clock
			}
			if day, err := strconv.Atoi(b.Params.Get("X-WEEKDAY")); err == nil && day >= 1 && day <= 7 {
				one.Weekday = day
			}
		}
		if one.Of == followup.OfDue && f.Due.IsZero() {
			r.doubt("A reminder of “%s” counts from a time it does not have, and was left out.", f.Title)
			return
		}
	}
	f.Reminders = append(f.Reminders, one)
}

func addressOf(p *ical.Prop) mail.Address {
	if p == nil {
		return mail.Address{}
	}
	v := strings.TrimSpace(p.Value)
	if len(v) > 7 && strings.EqualFold(v[:7], "mailto:") {
		v = v[7:]
	}
	return mail.Address{Name: p.Params.Get("CN"), Address: strings.ToLower(v)}
}

func (r *calendarReader) event(c *ical.Component) {
	e := calendar.Event{UID: text(c, ical.PropUID), Title: text(c, ical.PropSummary), Notes: text(c, ical.PropDescription), Place: text(c, ical.PropLocation), Message: messageOf(c),
		Made: instant(c, ical.PropCreated), Changed: instant(c, ical.PropLastModified), Organizer: addressOf(c.Props.Get(ical.PropOrganizer)), Remind: -1,
		Mine: calendar.Answer(strings.ToLower(text(c, "X-EBBE-MINE"))), Fired: instant(c, "X-EBBE-FIRED"), Except: r.exdates(c)}
	e.Cancelled = strings.EqualFold(text(c, ical.PropStatus), "CANCELLED")
	e.Foreign = foreign(c, knownEvent, "URL:mid:", "STATUS:CANCELLED", "STATUS:CONFIRMED")
	e.Sequence, _ = strconv.Atoi(text(c, ical.PropSequence))
	if e.Start = r.moment(c.Props.Get(ical.PropDateTimeStart)); e.Start.IsZero() {
		r.doubt("The event “%s” has no time and was left out.", cmp.Or(e.Title, "(no title)"))
		return
	}
	switch end := r.moment(c.Props.Get(ical.PropDateTimeEnd)); {
	case !end.IsZero() && e.Whole() && end.WholeDay(): // DTEND is the day after the last
		e.End = end.OnWall(end.Wall(r.loc).AddDate(0, 0, -1), r.loc)
		if e.End.At < e.Start.At {
			e.End = e.Start
		}
	case !end.IsZero():
		e.End = end
	default:
		p := ical.NewProp("DURATION")
		if p.Value = text(c, ical.PropDuration); p.Value != "" {
			if d, err := p.Duration(); err == nil && d > 0 {
				switch {
				case e.Whole():
					e.End = e.Start.OnWall(e.Start.Wall(r.loc).AddDate(0, 0, int(d/(24*time.Hour))-1), r.loc)
				case e.Start.Local == "":
					e.End = when.Moment{At: e.Start.At + when.Instant(d.Milliseconds())}
				default:
					e.End = e.Start.OnWall(e.Start.Wall(r.loc).Add(d), r.loc)
				}
			}
		}
	}
	if e.End.At != 0 && e.End.At < e.Start.At {
		r.doubt("“%s” would end before it starts; it was given an hour.", e.Title)
		e.End = when.Moment{}
	}
	if e.Title == "" {
		e.Title = "(no title)"
	}
	for _, p := range c.Props[ical.PropAttendee] {
		g := calendar.Guest{Address: addressOf(&p), Answer: calendar.Answer(strings.ToLower(p.Params.Get("PARTSTAT")))}
		e.Guests = append(e.Guests, g)
	}
	if rule := c.Props.Get(ical.PropRecurrenceRule); rule != nil {
		if _, err := when.ParseRecur(rule.Value, r.loc); err != nil {
			r.doubt("The repeating of “%s” was left out: %s.", e.Title, err)
		} else {
			e.Rule = strings.ToUpper(strings.TrimSpace(rule.Value))
		}
	}
	for _, a := range c.Children {
		if p := a.Props.Get(ical.PropTrigger); a.Name == ical.CompAlarm && p != nil && e.Remind < 0 {
			if d, err := p.Duration(); err == nil && d <= 0 {
				e.Remind = min(int(-d/time.Minute), 60*24*366)
			}
		}
	}
	if p := c.Props.Get("RECURRENCE-ID"); p != nil {
		at := r.moment(p)
		for i := range r.out.Events { // the series it is taken out of
			if s := &r.out.Events[i]; s.UID == e.UID {
				s.Except = append(s.Except, at.Wall(r.loc).Format("2006-01-02"))
				slices.Sort(s.Except)
				s.Except = slices.Compact(s.Except)
			}
		}
		e.UID += "/" + p.Value
		r.doubt("A changed occurrence of “%s” was taken in as an event of its own.", e.Title)
	}
	r.out.Events = append(r.out.Events, e.Tidy())
}
