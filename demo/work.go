package demo

import (
	"context"
	"fmt"
	"strings"
	"time"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/desk"
	"ebbe/internal/desk/calendars"
	"ebbe/internal/desk/followups"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
)

// everyday is what was written down and finished on the days before, by project.
var everyday = []struct{ title, project string }{
	{"Ring the lenders about the couriers", "loans"}, {"File the condition photographs", "loans"}, {"Check the loan list against the agreements", "loans"},
	{"Correct the captions of room two", "catalogue"}, {"Answer the printer about the paper", "catalogue"}, {"Choose three pictures for the cover", "catalogue"},
	{"Write to the schools on the coast", "education"}, {"Count the chairs in the workshop", "education"},
	{"Send the guest list to the front desk", "opening"}, {"Order flowers for the opening", "opening"}, {"Ask the choir for two songs", "opening"},
	{"Note the humidity of vault 2", "building"}, {"Walk through the long gallery with Tomasz", "building"}, {"Sign the invoice of the roofer", "building"},
}

// chores are follow-ups that the reader wrote down and finished on a day.
func (w *world) chores(ctx context.Context, d *desk.Desk, clock *journal.SystemClock, who identity.Who) error {
	if err := d.Importance.Learn(ctx); err != nil {
		return err
	}
	day := clock.Now().In(w.loc)
	if wd := day.Weekday(); wd == time.Saturday || wd == time.Sunday {
		return nil
	}
	for range 3 + w.r.IntN(3) {
		c := everyday[w.r.IntN(len(everyday))]
		clock.Set(clock.Now().Add(time.Duration(2+w.r.IntN(4)) * time.Minute))
		f := followups.NewFollowUp{Title: c.title, Project: c.project, Effort: []int{15, 30, 30, 45, 60}[w.r.IntN(5)], Due: when.WholeDayOf(day, w.loc)}
		if _, err := d.FollowUps.WriteDown(ctx, who, "", f); err != nil {
			return err
		}
		l, err := d.FollowUps.OneByOne(ctx, who, search.Query{Words: c.title, Project: c.project})
		if err != nil || len(l) == 0 {
			return err
		}
		if _, err := d.FollowUps.Step(ctx, who, "", l[0].UID, followups.FollowUpStep{Kind: inbox.FinishFollow}); err != nil {
			return err
		}
	}
	return nil
}

// work gives the reader projects, stages, things that wait for others, and a
// calendar.
func (w *world) work(ctx context.Context, d *desk.Desk, clock *journal.SystemClock, who identity.Who) error {
	day := func(n int) when.Moment { return when.WholeDayOf(w.today.AddDate(0, 0, n), w.loc) }
	at := func(n, hour, minute int) when.Moment {
		return when.AtWall(time.Date(w.today.Year(), w.today.Month(), w.today.Day()+n, hour, minute, 0, 0, w.loc), w.loc)
	}
	weekdays := func(n int) int { // the n-th working day after today
		i := 0
		for n > 0 {
			i++
			if wd := w.today.AddDate(0, 0, i).Weekday(); wd != time.Saturday && wd != time.Sunday {
				n--
			}
		}
		return i
	}
	two := weekdays(2)
	for _, n := range []followups.NewFollowUp{
		{Title: "Number the crates for leg two", Project: "loans", Due: at(two, 12, 0), Effort: 90, Priority: followup.High},
		{Title: "Write the wall text about the harmonic analyser", Project: "catalogue", Due: day(two), Effort: 120},
		{Title: "Try the audio guide in room two", Project: "education", Due: day(two), Effort: 60, Priority: followup.Low},
		{Title: "Ring the piano mover", Project: "opening", Due: day(two), Effort: 15, Context: "telephone", Priority: followup.Urgent},
		{Title: "Check the loan file of the brass predictor", Project: "loans", Due: day(two), Effort: 45,
			Checklist: []followup.Item{{Text: "measures", Done: true}, {Text: "insurance value"}, {Text: "signed page"}}},
		{Title: "Water test of the skylight", Project: "building", Due: day(weekdays(3)), Effort: 30},
		{Title: "Send the museum’s numbers to the board", Project: "opening", Due: day(weekdays(4)), Effort: 60},
		{Title: "Read the humidity of vault 2", Project: "building", Due: day(weekdays(1)), Effort: 15, Repeat: &followup.Repeat{Rule: "FREQ=WEEKLY"},
			Reminders: []followup.Reminder{{Of: followup.OfDue}}},
		{Title: "Pay the choir’s hall", Project: "choir", Due: day(weekdays(5)), Effort: 15, Repeat: &followup.Repeat{Rule: "FREQ=MONTHLY"}},
		{Title: "Plan the spring programme", Project: "education", Due: day(21), Effort: 240},
		{Title: "Find a home for the plaster coast", Project: "", Priority: followup.Low},
		{Title: "Learn how the sounding machine works", Project: "catalogue", Priority: followup.Low},
	} {
		clock.Set(clock.Now().Add(15 * time.Second))
		if _, err := d.FollowUps.WriteDown(ctx, who, "", n); err != nil {
			return err
		}
	}
	one := func(words string) (followups.FollowUpView, error) {
		l, err := d.FollowUps.OneByOne(ctx, who, search.Query{Words: words})
		if err == nil && len(l) != 1 {
			err = fmt.Errorf("%d follow-ups are about %q", len(l), words)
		}
		if err != nil {
			return followups.FollowUpView{}, err
		}
		return l[0], nil
	}
	for _, c := range []struct {
		words, project, stage string
		effort, percent       int
	}{
		{"label for case 4", "catalogue", "", 45, 0}, {"insurer", "loans", "", 60, 0}, {"lorry", "opening", "", 20, 0}, {"two rooms for the lenders", "opening", "", 20, 0},
		{"Mark up the panel proofs", "catalogue", "under-way", 90, 60}, {"oak or paint", "opening", "", 15, 0}, {"quay permit", "opening", "under-way", 10, 0},
	} {
		f, err := one(c.words)
		if err != nil {
			return err
		}
		n := followups.NewFollowUp{Title: f.Title, Due: f.Due, Priority: f.Priority, Project: c.project, Stage: c.stage, Effort: c.effort, Percent: c.percent, Reminders: f.Reminders}
		clock.Set(clock.Now().Add(10 * time.Second))
		if _, err := d.FollowUps.Step(ctx, who, "", f.UID, followups.FollowUpStep{Kind: inbox.ChangeFollow, Change: &n}); err != nil {
			return err
		}
	}
	// What others owe: since some days ago.
	for _, c := range []struct {
		with  person
		title string
		days  int
		ask   when.Moment
		p     followup.Priority
		due   when.Moment
	}{
		{jonas, "Condition report of the copper plates", 1, at(weekdays(1), 9, 0), followup.Normal, when.Moment{}},
		{halvard, "Clause 7 of the loan agreement", 2, at(two, 8, 0), followup.Urgent, at(weekdays(3), 12, 0)},
		{mirela, "Insurance value for leg two", 4, when.Moment{}, followup.Normal, when.Moment{}},
	} {
		n := followups.NewFollowUp{Title: c.title, Project: "loans", Priority: c.p, Due: c.due, With: address(c.with), Waits: followup.Wait{Since: when.Of(clock.Now().AddDate(0, 0, -c.days)), Ask: c.ask}}
		if _, err := d.FollowUps.WriteDown(ctx, who, "", n); err != nil {
			return err
		}
	}
	monday := -(int(w.today.Weekday()) + 6) % 7
	for _, e := range []calendars.EventDraft{
		{Title: "Round of the house", Start: at(monday-7+1, 9, 0), End: at(monday-7+1, 9, 30), Place: "the long gallery", Remind: -1, Rule: "FREQ=WEEKLY"},
		{Title: "Board meeting", Start: at(0, 16, 0), End: at(0, 17, 0), Place: "the reading room", Remind: 15},
		{Title: "Call with the lenders", Start: at(two, 9, 30), End: at(two, 10, 30), Remind: 15, Guests: []calendar.Guest{{Address: address(halvard)}, {Address: address(ilse)}}},
		{Title: "Rehearsal", Start: at(two, 18, 30), End: at(two, 20, 30), Place: "the parish hall", Remind: 60},
		{Title: "Eskil on the roof", Start: at(weekdays(3), 8, 0), End: at(weekdays(3), 10, 0), Remind: -1},
		{Title: "Fair in Lerhavn", Start: day(weekdays(3)), End: day(weekdays(3) + 1), Remind: -1},
	} {
		if _, err := d.Calendar.PutEvent(ctx, who, "", "", e); err != nil {
			return err
		}
	}
	return nil
}

// invited is an invitation as mail has it: what method says about an event
// (iTIP, RFC 5546, section 3.2), in its version sequence.
func invited(method string, sequence int, from, to person, title string, at time.Time) []byte {
	const layout = "20060102T150405Z"
	lines := []string{"BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//made up//EN", "METHOD:" + method, "BEGIN:VEVENT",
		"UID:katalog-1@pegelarchiv.example", "DTSTAMP:" + at.UTC().AddDate(0, 0, -3).Format(layout), "DTSTART:" + at.UTC().Format(layout),
		"DTEND:" + at.UTC().Add(time.Hour).Format(layout), fmt.Sprintf("SEQUENCE:%d", sequence), "SUMMARY:" + title, "ORGANIZER;CN=" + from.name + ":mailto:" + from.address,
		"ATTENDEE;RSVP=TRUE;CN=" + to.name + ":mailto:" + to.address}
	if method == "CANCEL" {
		lines = append(lines, "STATUS:CANCELLED")
	}
	return []byte(strings.Join(append(lines, "END:VEVENT", "END:VCALENDAR", ""), "\r\n"))
}

func address(p person) mail.Address { return mail.Address{Name: p.name, Address: p.address} }
