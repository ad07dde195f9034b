package ical

import (
	"bytes"
	"cmp"
	"encoding/csv"
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/emersion/go-ical"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// productID names who wrote a calendar file (RFC 5545, section 3.7.3).
const productID = "-//Ebbe//Ebbe//EN"

// icalWriter writes the lines of a calendar file.
type icalWriter struct {
	out   bytes.Buffer
	zones map[string][2]int // the zones used, with their first and last year
	w     when.Week
}

// param is a parameter of a property.
type param struct{ name, value string }

// line writes one line, folded after 75 octets (RFC 5545, section 3.1).
func (w *icalWriter) line(name, value string, params ...param) {
	var b strings.Builder
	b.WriteString(name)
	for _, p := range params {
		if p.value == "" {
			continue
		}
		v := strings.Map(func(r rune) rune {
			if r == '"' || r < ' ' {
				return '\''
			}
			return r
		}, p.value)
		if strings.ContainsAny(v, ";:,") {
			v = `"` + v + `"`
		}
		b.WriteString(";" + p.name + "=" + v)
	}
	w.raw(b.String() + ":" + strings.NewReplacer("\r", "", "\n", "").Replace(value))
}

func (w *icalWriter) raw(line string) {
	room := 75
	for len(line) > room {
		n := room
		for n > 0 && !utf8.RuneStart(line[n]) {
			n--
		}
		w.out.WriteString(line[:n] + "\r\n ")
		line, room = line[n:], 74
	}
	w.out.WriteString(line + "\r\n")
}

// text writes a line of text, escaped (section 3.3.11); nothing for none.
func (w *icalWriter) text(name, value string, params ...param) {
	if value == "" {
		return
	}
	p := ical.NewProp(name)
	p.SetText(strings.ReplaceAll(value, "\r\n", "\n"))
	w.line(name, p.Value, params...)
}

const icalUTC = "20060102T150405Z"

func (w *icalWriter) instant(name string, at when.Instant, params ...param) {
	if at != 0 {
		w.line(name, at.Time().Format(icalUTC), params...)
	}
}

// moment writes a date, a time in its zone, or one in UTC.
func (w *icalWriter) moment(name string, m when.Moment, params ...param) {
	if m.IsZero() {
		return
	}
	value, ps := w.value(m)
	w.line(name, value, append(ps, params...)...)
}

func (w *icalWriter) value(m when.Moment) (value string, params []param) {
	if m.WholeDay() {
		return strings.ReplaceAll(m.Local, "-", ""), []param{{"VALUE", "DATE"}}
	}
	if m.Local == "" || m.Zone == "" || m.Zone == "UTC" || m.Zone == "Etc/UTC" {
		return m.At.Time().Format(icalUTC), nil
	}
	t := m.Wall(time.UTC)
	years, ok := w.zones[m.Zone]
	if !ok {
		years = [2]int{t.Year(), t.Year()}
	}
	w.zones[m.Zone] = [2]int{min(years[0], t.Year()), max(years[1], t.Year())}
	return t.Format("20060102T150405"), []param{{"TZID", m.Zone}}
}

func (w *icalWriter) foreign(lines string) {
	for line := range strings.SplitSeq(lines, "\n") {
		if line != "" {
			w.raw(line)
		}
	}
}

func duration(minutes int) string {
	sign := ""
	if minutes < 0 {
		sign, minutes = "-", -minutes
	}
	d, rest := minutes/(24*60), minutes%(24*60)
	out := sign + "P"
	if d > 0 {
		out += fmt.Sprintf("%dD", d)
	}
	if rest > 0 || d == 0 {
		out += "T"
		if rest >= 60 {
			out += fmt.Sprintf("%dH", rest/60)
		}
		if rest%60 > 0 || rest == 0 {
			out += fmt.Sprintf("%dM", rest%60)
		}
	}
	return out
}

func midURL(message string) string {
	if message == "" {
		return ""
	}
	return "mid:" + url.PathEscape(message)
}

var icalStatus = map[followup.Status]string{followup.NeedsAction: "NEEDS-ACTION", followup.InProcess: "IN-PROCESS", followup.Completed: "COMPLETED", followup.Cancelled: "CANCELLED"}

func (w *icalWriter) todo(t Todo) {
	f := t.FollowUp
	w.raw("BEGIN:VTODO")
	w.text("UID", f.UID)
	w.instant("DTSTAMP", cmp.Or(f.Changed, f.Made, 1))
	w.instant("CREATED", f.Made)
	w.instant("LAST-MODIFIED", f.Changed)
	w.text("SUMMARY", f.Title)
	w.text("DESCRIPTION", f.Notes)
	if f.Repeat != nil && f.Start.IsZero() {
		w.moment("DTSTART", f.Due, param{"X-EBBE-IMPLIED", "TRUE"}) // a rule needs one (section 3.8.5.3)
	}
	w.moment("DTSTART", f.Start)
	w.moment("DUE", f.Due)
	w.line("PRIORITY", strconv.Itoa(int(f.Priority)))
	w.line("STATUS", icalStatus[f.Status])
	if f.Percent > 0 {
		w.line("PERCENT-COMPLETE", strconv.Itoa(f.Percent))
	}
	if f.Status == followup.Completed {
		w.instant("COMPLETED", f.Finished)
	} else {
		w.instant("X-EBBE-FINISHED", f.Finished)
	}
	for _, l := range t.LabelPaths {
		w.text("CATEGORIES", l)
	}
	w.text("LOCATION", f.Context)
	if f.Message != "" {
		w.line("URL", midURL(f.Message))
	}
	if r := f.Repeat; r != nil {
		w.line("RRULE", r.Rule)
		w.exdates(r.Except, f.Due)
		ps := []param{{"X-NTH", strconv.Itoa(r.Nth)}}
		if r.FromDone {
			ps = append(ps, param{"X-FROM", "DONE"})
		}
		if r.DaysOff {
			ps = append(ps, param{"X-DAYS-OFF", "TRUE"})
		}
		w.line("X-EBBE-REPEAT", r.First, ps...)
	}
	w.text("X-EBBE-PROJECT", f.Project)
	if f.Effort > 0 {
		w.line("X-EBBE-EFFORT", duration(f.Effort))
	}
	w.text("X-EBBE-STAGE", t.StageName)
	if f.With.Address != "" || f.With.Name != "" {
		w.line("X-EBBE-WITH", "mailto:"+f.With.Address, param{"CN", f.With.Name})
	}
	if f.Waits.Since != 0 {
		var ps []param
		if ask := f.Waits.Ask; !ask.IsZero() {
			value, zone := w.value(ask)
			ps = append(ps, param{"X-ASK", value})
			ps = append(ps, slices.DeleteFunc(zone, func(p param) bool { return p.name != "TZID" })...)
		}
		if f.Waits.Only {
			ps = append(ps, param{"X-ONLY", "TRUE"})
		}
		if r := f.Waits.Rhythm; r != nil {
			ps = append(ps, param{"X-EVERY", strconv.Itoa(r.Every)}, param{"X-UNIT", strings.ToUpper(string(r.Unit))}, param{"X-TIMES", strconv.Itoa(r.Times)}, param{"X-ASKED", strconv.Itoa(f.Waits.Asked)})
		}
		w.instant("X-EBBE-WAITS", f.Waits.Since, ps...)
		w.text("X-EBBE-SENT", f.Waits.Sent)
		if f.Waits.All {
			w.text("X-EBBE-ALL", "TRUE")
		}
		for _, a := range f.Waits.Also {
			w.line("X-EBBE-ALSO", "mailto:"+a.Address, param{"CN", a.Name})
		}
		for _, a := range f.Waits.Have {
			w.line("X-EBBE-HAVE", "mailto:"+a.Address, param{"CN", a.Name})
		}
	}
	if f.Moved > 0 {
		w.line("X-EBBE-MOVED", strconv.Itoa(f.Moved))
	}
	w.foreign(f.Foreign)
	for _, r := range f.Reminders {
		w.alarm(f, r)
	}
	w.raw("END:VTODO")
	for _, i := range f.Checklist {
		w.raw("BEGIN:VTODO")
		w.text("UID", i.UID)
		w.instant("DTSTAMP", cmp.Or(f.Changed, f.Made, 1))
		w.text("SUMMARY", i.Text)
		w.line("STATUS", map[bool]string{true: "COMPLETED", false: "NEEDS-ACTION"}[i.Done])
		w.text("RELATED-TO", f.UID)
		w.raw("END:VTODO")
	}
}

func (w *icalWriter) exdates(days []string, m when.Moment) {
	for _, day := range days {
		t, err := time.Parse("2006-01-02", day)
		if err != nil {
			continue
		}
		if !m.WholeDay() {
			at := m.Wall(time.UTC)
			t = t.Add(time.Duration(at.Hour()*60+at.Minute()) * time.Minute)
			loc, err := when.LoadZone(m.Zone)
			if err != nil || m.Zone == "" {
				loc = time.UTC
			}
			w.moment("EXDATE", when.AtWall(t, loc))
			continue
		}
		w.moment("EXDATE", when.Moment{At: 1, Local: day})
	}
}

func (w *icalWriter) alarm(f followup.FollowUp, r followup.Reminder) {
	w.raw("BEGIN:VALARM")
	if !strings.Contains("\n"+r.Foreign, "\nACTION:") {
		w.line("ACTION", "DISPLAY")
	}
	w.text("DESCRIPTION", f.Title)
	if r.Of == followup.ByTime {
		w.instant("TRIGGER", r.At.At, param{"VALUE", "DATE-TIME"})
		if r.At.Local != "" {
			w.moment("X-EBBE-AT", r.At)
		}
	} else {
		anchor := f.Due
		related := "END"
		if r.Of == followup.OfStart {
			anchor, related = f.Start, "START"
		}
		minutes := int((anchor.At - r.Time(f, w.w)) / 60_000)
		w.line("TRIGGER", duration(-max(minutes, 0)), param{"RELATED", related})
		ps := []param{{"X-DAYS", strconv.Itoa(r.Days)}, {"X-MINUTES", strconv.Itoa(r.Minutes)}}
		if r.Clock != nil {
			ps = append(ps, param{"X-CLOCK", strconv.Itoa(*r.Clock)})
		}
		if r.Weekday > 0 {
			ps = append(ps, param{"X-WEEKDAY", strconv.Itoa(r.Weekday)})
		}
		w.line("X-EBBE-BEFORE", "TRUE", ps...)
	}
	w.instant("ACKNOWLEDGED", r.Fired)
	w.foreign(r.Foreign)
	w.raw("END:VALARM")
}

func (w *icalWriter) event(e calendar.Event) {
	w.raw("BEGIN:VEVENT")
	w.text("UID", e.UID)
	w.instant("DTSTAMP", cmp.Or(e.Changed, e.Made, 1))
	w.instant("CREATED", e.Made)
	w.instant("LAST-MODIFIED", e.Changed)
	if e.Sequence > 0 {
		w.line("SEQUENCE", strconv.Itoa(e.Sequence))
	}
	w.text("SUMMARY", e.Title)
	w.text("DESCRIPTION", e.Notes)
	w.moment("DTSTART", e.Start)
	if end := e.End; e.Whole() {
		end = end.OnWall(end.Wall(time.UTC).AddDate(0, 0, 1), time.UTC) // DTEND is the day after the last
		w.moment("DTEND", end)
	} else {
		w.moment("DTEND", end)
	}
	if e.Cancelled {
		w.line("STATUS", "CANCELLED")
	}
	w.text("LOCATION", e.Place)
	if e.Message != "" {
		w.line("URL", midURL(e.Message))
	}
	if e.Organizer.Address != "" {
		w.line("ORGANIZER", "mailto:"+e.Organizer.Address, param{"CN", e.Organizer.Name})
	}
	for _, g := range e.Guests {
		w.line("ATTENDEE", "mailto:"+g.Address.Address, param{"CN", g.Name}, param{"PARTSTAT", strings.ToUpper(string(g.Answer))})
	}
	if e.Rule != "" {
		w.line("RRULE", e.Rule)
		w.exdates(e.Except, e.Start)
	}
	w.text("X-EBBE-MINE", string(e.Mine))
	w.instant("X-EBBE-FIRED", e.Fired)
	w.foreign(e.Foreign)
	if e.Remind >= 0 {
		w.raw("BEGIN:VALARM")
		w.line("ACTION", "DISPLAY")
		w.text("DESCRIPTION", e.Title)
		w.line("TRIGGER", duration(-e.Remind))
		w.raw("END:VALARM")
	}
	w.raw("END:VEVENT")
}

// timezones writes a VTIMEZONE (section 3.6.5) for each zone used, with the
// changes of its clocks over the years that are used and some more.
func (w *icalWriter) timezones(out *bytes.Buffer) {
	names := []string{}
	for name := range w.zones {
		names = append(names, name)
	}
	slices.Sort(names)
	z := icalWriter{}
	for _, name := range names {
		loc, err := when.LoadZone(name)
		if err != nil {
			continue
		}
		years := w.zones[name]
		z.raw("BEGIN:VTIMEZONE")
		z.line("TZID", name)
		from := time.Date(years[0], 1, 1, 0, 0, 0, 0, loc)
		z.observance(from, from, false)
		for t := from; t.Year() <= years[1]+2; {
			_, end := t.ZoneBounds()
			if end.IsZero() || !end.After(t) || end.Year() > years[1]+2 {
				break
			}
			z.observance(end.Add(-time.Second), end, end.IsDST())
			t = end
		}
		z.raw("END:VTIMEZONE")
	}
	out.Write(z.out.Bytes())
}

// observance writes what the clocks show from at on, as they changed from what
// they showed at before.
func (w *icalWriter) observance(before, at time.Time, summer bool) {
	name := map[bool]string{true: "DAYLIGHT", false: "STANDARD"}[summer]
	_, from := before.Zone()
	zone, to := at.Zone()
	offset := func(s int) string {
		sign := '+'
		if s < 0 {
			sign, s = '-', -s
		}
		return fmt.Sprintf("%c%02d%02d", sign, s/3600, s/60%60)
	}
	w.raw("BEGIN:" + name)
	w.line("DTSTART", at.UTC().Add(time.Duration(from)*time.Second).Format("20060102T150405"))
	w.line("TZOFFSETFROM", offset(from))
	w.line("TZOFFSETTO", offset(to))
	w.text("TZNAME", zone)
	w.raw("END:" + name)
}

// Write writes a calendar file (RFC 5545). The same content gives the
// same bytes. Reminders relative to a day count from the morning of week.
func Write(c Calendar, week when.Week) []byte {
	w := icalWriter{zones: map[string][2]int{}, w: week}
	for _, t := range c.Todos {
		w.todo(t)
	}
	for _, e := range c.Events {
		w.event(e)
	}
	var out bytes.Buffer
	head := icalWriter{}
	head.raw("BEGIN:VCALENDAR")
	head.line("VERSION", "2.0")
	head.line("PRODID", productID)
	if c.Method != "" {
		head.line("METHOD", strings.ToUpper(string(c.Method)))
	}
	out.Write(head.out.Bytes())
	w.timezones(&out)
	out.Write(w.out.Bytes())
	out.WriteString("END:VCALENDAR\r\n")
	return out.Bytes()
}

// Answer is the iTIP reply (RFC 5546, section 3.2.3) by which somebody answers
// an invitation, as a calendar file.
func Answer(e calendar.Event, me mail.Address, answer calendar.Answer, at when.Instant) []byte {
	reply := calendar.Event{UID: e.UID, Title: e.Title, Start: e.Start, End: e.End, Sequence: e.Sequence, Organizer: e.Organizer, Remind: -1, Changed: at,
		Guests: []calendar.Guest{{Address: me, Answer: answer}}}
	return Write(Calendar{Method: calendar.Reply, Events: []calendar.Event{reply}}, when.Ordinary("UTC"))
}

// WriteCSV writes follow-ups as comma-separated values (RFC 4180) with a header
// line. Times are wall-clock times in loc.
func WriteCSV(todos []Todo, loc *time.Location) ([]byte, error) {
	var out bytes.Buffer
	w := csv.NewWriter(&out)
	w.UseCRLF = true
	rows := [][]string{{"title", "status", "stage", "priority", "start", "due", "project", "context", "with", "labels", "effort minutes", "percent done", "waiting since", "made", "finished", "notes", "message"}}
	moment := func(m when.Moment) string {
		switch {
		case m.IsZero():
			return ""
		case m.WholeDay():
			return m.Local
		}
		return m.At.In(loc).Format("2006-01-02 15:04")
	}
	at := func(i when.Instant) string { return moment(when.Moment{At: i}) }
	for _, t := range todos {
		effort := ""
		if t.Effort > 0 {
			effort = strconv.Itoa(t.Effort)
		}
		rows = append(rows, []string{safeCell(t.Title), string(t.Status), safeCell(t.StageName), t.Priority.Name(), moment(t.Start), moment(t.Due), safeCell(t.Project), safeCell(t.Context), safeCell(t.With.Short()),
			safeCell(strings.Join(t.LabelPaths, "; ")), effort, strconv.Itoa(t.Percent), at(t.Waits.Since), at(t.Made), at(t.Finished), safeCell(t.Notes), safeCell(t.Message)})
	}
	err := w.WriteAll(rows)
	return out.Bytes(), err
}

// safeCell keeps a spreadsheet from taking what a stranger wrote for a formula.
func safeCell(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) {
		return "'" + s
	}
	return s
}
