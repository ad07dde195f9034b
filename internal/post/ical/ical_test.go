package ical

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

var icalWeek = when.Ordinary("Europe/Oslo")

func ics(lines ...string) []byte {
	return []byte("BEGIN:VCALENDAR\r\nVERSION:2.0\r\n" + strings.Join(lines, "\r\n") + "\r\nEND:VCALENDAR\r\n")
}

func readICS(t require.TestingT, raw []byte) Calendar {
	c, err := Read(raw, icalWeek.Location())
	require.NoError(t, err)
	return c
}

func TestReadingAToDoOfAnotherProgram(t *testing.T) {
	c := readICS(t, ics("BEGIN:VTODO", "UID:1@other.example", "DTSTAMP:20261101T080000Z", "CREATED:20261101T080000Z", "LAST-MODIFIED:20261102T080000Z",
		"SUMMARY:Ring the piano mover\\, then the", "  harbour", "DESCRIPTION:two\\nlines\\; and more", "DUE;TZID=Europe/Oslo:20261126T120000", "PRIORITY:2", "STATUS:IN-PROCESS", "PERCENT-COMPLETE:40",
		"CATEGORIES:loans,to read", "LOCATION:telephone", "URL:mid:a%2Fb@x.example", "CLASS:PRIVATE", "X-OTHER;FOO=\"a;b\":kept", "RRULE:FREQ=WEEKLY;BYDAY=TH", "EXDATE;VALUE=DATE:20261203",
		"BEGIN:VALARM", "ACTION:DISPLAY", "TRIGGER;RELATED=END:-PT2H", "END:VALARM",
		"BEGIN:VALARM", "ACTION:AUDIO", "ATTACH:file.wav", "TRIGGER;VALUE=DATE-TIME:20261125T080000Z", "END:VALARM", "END:VTODO",
		"BEGIN:VTODO", "UID:2@other.example", "SUMMARY:find the number", "RELATED-TO:1@other.example", "STATUS:COMPLETED", "END:VTODO"))
	require.Empty(t, c.Doubts)
	require.Len(t, c.Todos, 1)
	f := c.Todos[0]
	require.Equal(t, "Ring the piano mover, then the harbour", f.Title)
	require.Equal(t, "two\nlines; and more", f.Notes)
	require.Equal(t, "2026-11-26T12:00", f.Due.Local)
	require.Equal(t, followup.High, f.Priority)
	require.Equal(t, followup.InProcess, f.Status)
	require.Equal(t, []string{"loans", "to read"}, c.Todos[0].LabelPaths)
	require.Equal(t, "a/b@x.example", f.Message)
	require.Equal(t, "CLASS:PRIVATE\nX-OTHER;FOO=\"a;b\":kept", f.Foreign)
	require.Equal(t, []string{"2026-12-03"}, f.Repeat.Except)
	require.Equal(t, followup.Reminder{Of: followup.OfDue, Minutes: 120}, f.Reminders[0])
	require.Equal(t, "ACTION:AUDIO\nATTACH:file.wav", f.Reminders[1].Foreign)
	require.Equal(t, []followup.Item{{UID: "2@other.example", Text: "find the number", Done: true}}, f.Checklist)

	out := string(Write(c, icalWeek))
	for _, want := range []string{"X-OTHER;FOO=\"a;b\":kept\r\n", "CLASS:PRIVATE\r\n", "ACTION:AUDIO\r\n", "ATTACH:file.wav\r\n", "RELATED-TO:1@other.example\r\n", "BEGIN:VTIMEZONE\r\nTZID:Europe/Oslo\r\n", "URL:mid:a%2Fb@x.example\r\n"} {
		require.Contains(t, out, want)
	}
	for line := range strings.SplitSeq(out, "\r\n") {
		require.LessOrEqual(t, len(line), 75)
	}
}

func TestReadingEvents(t *testing.T) {
	c := readICS(t, ics("METHOD:REQUEST", "BEGIN:VEVENT", "UID:e", "SUMMARY:Talk", "DTSTART:20261126T090000Z", "DURATION:PT90M", "SEQUENCE:3", "ORGANIZER;CN=Grete:mailto:Grete@x.example",
		"ATTENDEE;CN=Solvei;PARTSTAT=NEEDS-ACTION:mailto:s@m.example", "LOCATION:Library", "BEGIN:VALARM", "TRIGGER:-PT30M", "END:VALARM", "END:VEVENT",
		"BEGIN:VEVENT", "UID:w", "SUMMARY:Fair", "DTSTART;VALUE=DATE:20261204", "DTEND;VALUE=DATE:20261207", "END:VEVENT",
		"BEGIN:VEVENT", "UID:r", "SUMMARY:Round", "DTSTART;TZID=Europe/Oslo:20261124T090000", "RRULE:FREQ=WEEKLY", "END:VEVENT",
		"BEGIN:VEVENT", "UID:r", "SUMMARY:Round, later", "RECURRENCE-ID;TZID=Europe/Oslo:20261201T090000", "DTSTART;TZID=Europe/Oslo:20261201T110000", "END:VEVENT"))
	require.Equal(t, calendar.Request, c.Method)
	talk, fair, round, moved := c.Events[0], c.Events[1], c.Events[2], c.Events[3]
	require.EqualValues(t, 90*60_000, talk.End.At-talk.Start.At)
	require.Equal(t, "grete@x.example", talk.Organizer.Address)
	require.Equal(t, 3, talk.Sequence)
	require.Equal(t, 30, talk.Remind)
	require.Equal(t, calendar.NoAnswer, talk.Guests[0].Answer)
	require.Equal(t, "2026-12-06", fair.End.Local, "DTEND is the day after the last")
	require.Equal(t, []string{"2026-12-01"}, round.Except, "the changed occurrence stands for itself")
	require.Equal(t, "2026-12-01T11:00", moved.Start.Local)
	require.Contains(t, c.Doubts[0], "changed occurrence")
}

// What other programs get wrong: it is read as far as it can be, and said.
func TestBrokenCalendarFiles(t *testing.T) {
	for _, raw := range []string{"", "hello", "BEGIN:VEVENT\r\nEND:VEVENT", "\x00\x01"} {
		_, err := Read([]byte(raw), time.UTC)
		require.ErrorIs(t, err, ErrNoCalendar, raw)
	}
	_, err := Read(make([]byte, MaxCalendar+1), time.UTC)
	require.ErrorIs(t, err, ErrBigCalendar)

	c := readICS(t, []byte("\xef\xbb\xbfBEGIN:VCALENDAR\nVERSION:2.0\nno line at all\nBEGIN:VTODO\nUID:1\nSUMMARY:Whole\nX-BAD;PARAM:x\nDUE;TZID=\"open:20261126\nEND:VTODO\nBEGIN:VTODO\nUID:2\nSUMMARY:Cut off"))
	require.Equal(t, []string{"Whole", "Cut off"}, []string{c.Todos[0].Title, c.Todos[1].Title})
	require.Contains(t, c.Doubts[0], "3 broken lines")

	c = readICS(t, ics("BEGIN:VTODO", "UID:1", "SUMMARY:Backwards", "DTSTART;VALUE=DATE:20261128", "DUE;VALUE=DATE:20261126", "END:VTODO",
		"BEGIN:VTODO", "UID:2", "SUMMARY:Never", "DUE;VALUE=DATE:20261126", "RRULE:FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30", "END:VTODO",
		"BEGIN:VEVENT", "UID:3", "SUMMARY:Ends early", "DTSTART:20261126T100000Z", "DTEND:20261126T090000Z", "END:VEVENT",
		"BEGIN:VEVENT", "UID:4", "SUMMARY:Whenever", "END:VEVENT"))
	all := strings.Join(c.Doubts, "\n")
	for _, want := range []string{"“Backwards” would be due before it starts", "The repeating of “Never” was left out", "“Ends early” would end before it starts", "“Whenever” has no time"} {
		require.Contains(t, all, want)
	}
	require.Nil(t, c.Todos[1].Repeat)
	require.Len(t, c.Events, 1)
}

func TestZonesThatLie(t *testing.T) {
	zone := func(id, offset string) []string {
		return []string{"BEGIN:VTIMEZONE", "TZID:" + id, "BEGIN:STANDARD", "DTSTART:19700101T000000", "TZOFFSETFROM:" + offset, "TZOFFSETTO:" + offset, "END:STANDARD", "END:VTIMEZONE"}
	}
	todo := func(id string) []string {
		return []string{"BEGIN:VTODO", "UID:1", "SUMMARY:x", "DUE;TZID=" + id + ":20261126T120000", "END:VTODO"}
	}
	c := readICS(t, ics(append(zone("Europe/Oslo", "-0500"), todo("Europe/Oslo")...)...))
	require.Equal(t, "2026-11-26T11:00:00Z", c.Todos[0].Due.At.Time().Format(time.RFC3339), "the real zone")
	require.Contains(t, c.Doubts[0], "UTC−5:00")
	c = readICS(t, ics(append(zone("Office time", "+0300"), todo("Office time")...)...))
	require.Equal(t, "2026-11-26T09:00:00Z", c.Todos[0].Due.At.Time().Format(time.RFC3339), "what the file says of a zone nobody else knows")
	require.Empty(t, c.Doubts)
	c = readICS(t, ics(todo("Nowhere")...))
	require.Equal(t, "2026-11-26T12:00", c.Todos[0].Due.Local)
	require.Contains(t, c.Doubts[0], "Nobody knows the time zone “Nowhere”")
}

// Whatever is kept: written, read and written again gives the same bytes, and
// the same follow-ups.
func TestThereAndBack(t *testing.T) {
	zones := []string{"Europe/Oslo", "America/New_York", "Asia/Kolkata", "Australia/Lord_Howe", ""}
	moment := func(t *rapid.T, name string) when.Moment {
		at := time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC).Add(time.Duration(rapid.IntRange(0, 2*365*24*60).Draw(t, name)) * time.Minute)
		zone := rapid.SampledFrom(zones).Draw(t, name+" zone")
		switch {
		case rapid.Bool().Draw(t, name+" none"):
			return when.Moment{}
		case rapid.Bool().Draw(t, name+" whole"):
			return when.WholeDayOf(at, icalWeek.Location())
		case zone == "":
			return when.Moment{At: when.Of(at)}
		}
		loc, err := time.LoadLocation(zone)
		require.NoError(t, err)
		return when.AtWall(at, loc)
	}
	text := rapid.SampledFrom([]string{"Ring", "a, b; c\\d", "two\nlines", "„Öl“ — " + strings.Repeat("潮汐", 40), "BEGIN:VTODO", "colon: yes", `say "no"`})
	rapid.Check(t, func(t *rapid.T) {
		var c Calendar
		for i := range rapid.IntRange(0, 4).Draw(t, "todos") {
			uid := string(rune('a' + i))
			f := followup.FollowUp{UID: uid, Title: text.Draw(t, "title"), Notes: text.Draw(t, "notes"), Status: rapid.SampledFrom([]followup.Status{followup.NeedsAction, followup.InProcess, followup.Completed, followup.Cancelled}).Draw(t, "status"),
				Priority: rapid.SampledFrom(followup.Priorities).Draw(t, "priority"), Due: moment(t, "due"), Project: "leg two", Effort: rapid.IntRange(0, 3000).Draw(t, "effort"), Made: 1_790_000_000_000, Changed: 1_790_000_500_000,
				With: mail.Address{Name: rapid.SampledFrom([]string{"", "Dr. X, Y"}).Draw(t, "with"), Address: "x@y.example"}, Message: rapid.SampledFrom([]string{"", "a+b/c%@x.example"}).Draw(t, "message"), Moved: rapid.IntRange(0, 4).Draw(t, "moved")}
			if f.Status == followup.Completed {
				f.Percent = 100
			}
			if !f.Open() {
				f.Finished = 1_790_000_400_000
			} else if rapid.Bool().Draw(t, "waits") {
				f.Waits = followup.Wait{Since: 1_790_000_300_000, Ask: moment(t, "ask"), Only: rapid.Bool().Draw(t, "only"), Sent: rapid.SampledFrom([]string{"", "a@b.example"}).Draw(t, "sent")}
				if rapid.Bool().Draw(t, "several") {
					f.Waits.Also, f.Waits.All = []mail.Address{{Name: "Mirela Dossett", Address: "m@x.example"}, {Name: "Oona"}}, rapid.Bool().Draw(t, "all")
					f.Waits.Have = []mail.Address{{Name: "Mirela Dossett", Address: "m@x.example"}}
				}
				if rapid.Bool().Draw(t, "rhythm") {
					f.Waits.Rhythm = &when.Rhythm{Every: rapid.IntRange(1, when.MaxEvery).Draw(t, "every"), Unit: rapid.SampledFrom([]when.RhythmUnit{when.WorkingDays, when.Days, when.Weeks}).Draw(t, "unit"), Times: rapid.IntRange(0, when.MaxTimes).Draw(t, "times")}
					f.Waits.Asked = rapid.IntRange(0, followup.MaxAsked).Draw(t, "asked")
				}
				if f.Waits.Ask.WholeDay() {
					f.Waits.Ask = when.Moment{}
				}
			}
			if clock := 615; !f.Due.IsZero() {
				f.Reminders = []followup.Reminder{{Of: followup.OfDue, Days: 1, Clock: &clock}, {Of: followup.OfDue, Days: 7, Clock: &clock, Weekday: 3}, {Of: followup.OfDue, Minutes: 45, Fired: 1_790_000_100_000}}
				if rapid.Bool().Draw(t, "repeats") {
					f.Repeat = &followup.Repeat{Rule: "FREQ=WEEKLY", First: f.Due.OnWall(f.Due.Wall(icalWeek.Location()), icalWeek.Location()).Local, Nth: 3, FromDone: true, DaysOff: true, Except: []string{"2026-12-24"}}
				}
			}
			if at := moment(t, "remind"); !at.IsZero() && !at.WholeDay() {
				f.Reminders = append(f.Reminders, followup.Reminder{At: at})
			}
			if rapid.Bool().Draw(t, "list") {
				f.Checklist = []followup.Item{{UID: uid + "1", Text: "pack", Done: true}, {UID: uid + "2", Text: "seal; sign"}}
			}
			todo := Todo{FollowUp: f.Tidy(), StageName: "Under way"}
			if rapid.Bool().Draw(t, "labels") {
				todo.LabelPaths = []string{"loans / leg two", "to read"}
			}
			c.Todos = append(c.Todos, todo)
		}
		for i := range rapid.IntRange(0, 3).Draw(t, "events") {
			e := calendar.Event{UID: "e" + string(rune('a'+i)), Title: text.Draw(t, "title"), Start: moment(t, "start"), Place: "Library", Remind: rapid.SampledFrom([]int{-1, 0, 15, 1440}).Draw(t, "remind"), Sequence: i, Made: 1_790_000_000_000,
				Organizer: mail.Address{Name: "Grete", Address: "g@x.example"}, Guests: []calendar.Guest{{Address: mail.Address{Name: "S", Address: "s@m.example"}, Answer: calendar.Maybe}}, Mine: calendar.Maybe}
			if e.Start.IsZero() {
				continue
			}
			c.Events = append(c.Events, e.Tidy())
		}
		first := Write(c, icalWeek)
		if len(c.Todos)+len(c.Events) == 0 {
			return
		}
		back := readICS(t, first)
		require.Empty(t, back.Doubts)
		require.Equal(t, string(first), string(Write(back, icalWeek)))
		for i, todo := range back.Todos {
			got := todo.FollowUp.Tidy()
			if got.Due.Zone == "" {
				got.Due = c.Todos[i].Due
			}
			got.Labels = c.Todos[i].Labels
			want := c.Todos[i].FollowUp
			want.Title, got.Title = strings.Join(strings.Fields(want.Title), " "), strings.Join(strings.Fields(got.Title), " ")
			require.Equal(t, want, got)
		}
	})
}

func TestFollowUpsAsATable(t *testing.T) {
	raw, err := WriteCSV([]Todo{{FollowUp: followup.FollowUp{Title: `=cmd("x"), "y"`, Priority: followup.Urgent, Status: followup.NeedsAction, Due: when.Moment{Local: "2026-11-26T12:00", Zone: "Europe/Oslo"}.Realign(), Notes: "two\nlines"}, StageName: "To do", LabelPaths: []string{"a", "b"}}}, icalWeek.Location())
	require.NoError(t, err)
	rows, err := csv.NewReader(bytes.NewReader(raw)).ReadAll()
	require.NoError(t, err)
	require.Equal(t, "title", rows[0][0])
	require.Equal(t, []string{`'=cmd("x"), "y"`, "needs-action", "To do", "urgent", "", "2026-11-26 12:00"}, rows[1][:6], "no spreadsheet takes it for a formula")
	require.Equal(t, "a; b", rows[1][9])
}

// A calendar file that holds more than can be taken in says how many entries
// were left out.
func TestACalendarFileThatIsTooLong(t *testing.T) {
	var b strings.Builder
	b.WriteString("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\n")
	for i := range 50_010 {
		fmt.Fprintf(&b, "BEGIN:VTODO\r\nUID:%d\r\nDTSTAMP:20260101T000000Z\r\nSUMMARY:x\r\nEND:VTODO\r\n", i)
	}
	b.WriteString("oh\r\nEND:VCALENDAR\r\n")
	c, err := Read([]byte(b.String()), time.UTC)
	require.NoError(t, err)
	require.Len(t, c.Todos, 49_999)
	require.Contains(t, c.Doubts, "The file holds more than can be taken in at once: its last 11 entries were left out. Cut it in two and take in the second part, too.")
}
