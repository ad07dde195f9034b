package e2e

import (
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"
)

// followUp makes the conversation shown a follow-up by one line.
func (p *page) followUp(line, means string) {
	p.t.Helper()
	p.press(input.Digit6).see("#followup-line")
	p.until("document.activeElement.id === 'followup-line'")
	p.write(line)
	p.reads("#followup-line-parts", means)
	p.press(input.Enter)
	p.until("!document.querySelector('[data-testid=followup-tray]')")
	p.reads("[data-testid=notice]", "Follow-up made")
}

// pick selects the follow-up with that title by going down the list.
func (p *page) pick(title string) {
	p.t.Helper()
	p.press(input.Home)
	for range 60 {
		if p.MustEval(`t => document.querySelector('[data-followup][aria-current=true]')?.dataset.followup === t`, title).Bool() {
			return
		}
		before := p.MustEval(`() => document.querySelector('[data-followup][aria-current=true]').id`).Str()
		p.press(input.ArrowDown)
		p.until("document.querySelector('[data-followup][aria-current=true]').id !== %q", before)
	}
	p.t.Fatalf("no follow-up is called %s", title)
}

// chooseSubject selects the slip with that subject by going down the queue.
func (p *page) chooseSubject(subject string) {
	p.t.Helper()
	p.top()
	for range 60 {
		if p.MustEval(`s => document.querySelector('[role=option][aria-current=true] p')?.textContent === s`, subject).Bool() {
			p.reads("[data-testid=subject]", subject)
			p.see("article")
			return
		}
		before := p.text("[role=option][aria-current=true]")
		p.press(input.ArrowDown)
		p.until("document.querySelector('[role=option][aria-current=true]').innerText !== %q", before)
	}
	p.t.Fatalf("no slip is about %s", subject)
}

// top goes to the first slip, also while new mail comes in above it.
func (p *page) top() {
	p.t.Helper()
	for range 60 {
		p.press(input.Home)
		if p.MustEval(`() => new Promise(done => requestAnimationFrame(() => requestAnimationFrame(() =>
			done(document.querySelector('[role=option][aria-current=true]')?.getAttribute('aria-posinset') === '1'))))`).Bool() {
			return
		}
	}
	p.t.Fatal("the first slip is never the current one")
}

// has waits until the part of the page holds a follow-up with that title.
func (p *page) has(within, title string) {
	p.t.Helper()
	p.until("[...document.querySelectorAll(%q)].some(e => e.dataset.followup === %q)", within+" [data-followup]", title)
}

// drag carries one thing onto another by mouse.
func (p *page) drag(from, to string) {
	p.t.Helper()
	at := func(selector string) proto.Point {
		box := p.place(selector)
		return proto.NewPoint(box.X+min(box.Width/2, 60), box.Y+box.Height/2)
	}
	require.NoError(p.t, p.Mouse.MoveTo(at(from)))
	require.NoError(p.t, p.Mouse.Down(proto.InputMouseButtonLeft, 1))
	require.NoError(p.t, p.Mouse.MoveLinear(at(to), 14))
	p.until("document.querySelectorAll('.opacity-40').length > 0")
	require.NoError(p.t, p.Mouse.MoveLinear(at(to), 2))
	require.NoError(p.t, p.Mouse.Up(proto.InputMouseButtonLeft, 1))
}

func card(title string) string { return fmt.Sprintf("[data-followup=%q]", title) }

// The museum's week planned from its inbox: ten messages become follow-ups by
// phrase, reminders fire on the moved clock, the board is rearranged, what is
// due is gone through one by one, the day is closed, and the log finds the
// message.
func TestTheMuseumsWeek(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.url, 1280, 800).enter()
	n := p.left()
	p.choose("Mirela Dossett")
	p.press(input.Digit6).see("#followup-line")
	p.until("document.querySelector('#followup-title').value === 'Send Mirela the outer dimensions of the brass tide predictor'")
	p.reads("[data-testid=proposed]", "due Thu 12:00")
	p.reads("[data-testid=proposed]", "project loans")
	p.write("urg")
	p.see("#followup-line-list [role=option]")
	p.press(input.Tab)
	p.until("document.querySelector('#followup-line').value === 'urgent / '")
	p.write("remind 1 day before")
	p.reads("#followup-line-parts", "reminds 1 day before it is due")
	p.press(input.Enter).leftIs(n - 1)
	p.reads("[data-testid=notice]", "Follow-up made, due Thu 26 Nov, 12:00.")
	for i, m := range []struct{ from, line, means string }{
		{"Kestrel Print Works", "mark up round two / thu 18:00 / catalogue / takes 90 min", "takes 1 h 30 min"},
		{"Jonas Reyland", "today 16:00 / remind today 11:00", "reminds Tue 24 Nov, 11:00"},
		{"Halvard Lindqvist", "fri / loans / high", "due Fri 27 Nov"},
		{"Oona Varga", "today 18:00 / opening / urgent", "opening"},
		{"Eskil Tann", "Let Eskil in / today / building", "Let Eskil in"},
		{"Fjordveien School", "wed / project spring visits", "spring visits"},
		{"Dr. Ilse Marchetti", "mon / label to read", "to read"},
		{"Grete Brunner", "wed 10 / every month", "every month"},
		{"Níkos Pávlou", "next week / start fri", "starts Fri 27 Nov"},
	} {
		p.choose(m.from)
		p.followUp(m.line, m.means)
		p.leftIs(n - 2 - i)
	}

	// Eleven o'clock: the reminder shows as a card; it is asked for again, and comes again.
	p.clock("To the next thing")
	p.reads("[data-testid=card]", "Send Jonas the number of loans signed")
	p.does("Remind again")
	p.see("[data-testid=card] input")
	p.write("in 20 min")
	p.until("/Tue 24 Nov, 11:2\\d/.test(document.querySelector('[data-testid=card]')?.textContent)") // the clock goes on meanwhile
	p.press(input.Enter)
	p.until("!document.querySelector('[data-testid=card]')")
	p.clock("To the next thing")
	p.reads("[data-testid=card]", "Send Jonas the number of loans signed")
	p.does("Put away")
	p.until("!document.querySelector('[data-testid=card]')")

	// The board: by keys, by mouse, onto a day, and taken back.
	p.press(input.KeyF)
	p.does("By stage")
	p.has("[data-lane='To do']", "Let Eskil in")
	p.pick("Let Eskil in")
	p.with(input.ArrowRight, input.ShiftLeft)
	p.has("[data-lane='Under way']", "Let Eskil in")
	p.drag(card("Let Eskil in"), "[data-lane='With others']")
	p.has("[data-lane='With others']", "Let Eskil in")
	p.reads("[data-testid=notice]", "Now in “With others”.")
	p.with(input.KeyZ, input.ControlLeft)
	p.has("[data-lane='Under way']", "Let Eskil in")
	p.drag(card("Let Eskil in"), "[data-day='3']")
	p.reads("[data-testid=notice]", "Moved to Fri 27 Nov.")
	p.drag(card("Let Eskil in"), "[data-day='0']")
	p.reads("[data-testid=notice]", "Moved to Tue 24 Nov.")
	p.reads("[data-day='2']", "overfull")

	// One by one: finished, put off, handed over, dropped, left.
	p.press(input.Digit8).reads("[data-testid=followup-title]", "Answer the harbour office")
	p.see("article")
	p.press(input.Digit2).reads("[data-testid=followup-title]", "Sign the quay permit")
	p.press(input.Digit5).see("#putoff-phrase")
	p.write("thu 9")
	p.reads("#putoff-phrase-means", "Thu 26 Nov, 9:00")
	p.press(input.Enter).reads("[data-testid=followup-title]", "Send Jonas the number of loans")
	p.press(input.Digit3).see("#reply")
	p.write("Eleven signed, four open.")
	p.reads("[data-testid=kept]", "Saved")
	p.press(input.Escape)
	p.until("!document.querySelector('#reply')")
	p.press(input.Digit4).see("#hand-ask")
	p.write("fri 9")
	p.reads("#hand-ask-means", "Fri 27 Nov, 9:00")
	p.press(input.Enter).reads("[data-testid=followup-title]", "Mark up the panel proofs")
	p.press(input.Digit1)
	p.until("document.querySelector('[data-testid=followup-title]').textContent !== 'Mark up the panel proofs'")
	for p.MustEval(`() => !document.querySelector('[data-testid=sum]')`).Bool() {
		title := p.text("[data-testid=followup-title]")
		p.press(input.Digit8)
		p.until("document.querySelector('[data-testid=sum]') || document.querySelector('[data-testid=followup-title]').textContent !== %q", title)
	}
	p.reads("[data-testid=sum]", "1 finished, 1 put off, 1 waiting, 1 cancelled, 2 left")
	p.does("Back to the follow-ups")

	// Five o'clock: the day is closed.
	for range 8 {
		if p.MustEval(`() => !!document.querySelector('[data-testid=close-card]')`).Bool() {
			break
		}
		before := p.text("header")
		p.clock("+ 1 hour")
		p.until("document.querySelector('header').innerText !== %q", before)
	}
	p.see("[data-testid=close-card]")
	p.does("Close the day")
	p.has("[aria-label='Left for today']", "Let Eskil in")
	p.press(input.Digit6) // the nearest free day
	p.reads("[data-testid=notice]", "Moved to ")
	p.press(input.Digit9).see("[data-testid=closed]")
	p.reads("[data-testid=closed]", "finished today")

	// The log: the message of what was finished is one click away.
	p.with(input.KeyF, input.ShiftLeft)
	p.has("[aria-label]", "Answer the harbour office about the lorry")
	p.MustElementR(card("Answer the harbour office about the lorry")+" a", "Town Harbour Office").MustClick()
	p.shows("Your question about the lorry")
}

// One field writes follow-ups down on every screen; the lightest kind has one
// key; a view is filtered, kept and found again; a follow-up is changed in one
// line beside its conversation.
func TestWritingDownFlaggingAndFiltering(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.url, 1280, 800).enter()
	n := p.left()
	p.press(input.NumpadAdd).see("#writedown-line")
	p.write("ring the piano tuner / fri 10 / opening / urgent / every 30 feb")
	p.reads("[data-testid=writedown-line-doubt]", "way of repeating")
	p.MustEval(`() => document.getElementById('writedown-line').select()`)
	p.write("ring the piano tuner / fri 10 / opening / urgent")
	p.until("document.querySelectorAll('#writedown-line-parts [data-part]').length === 4")
	p.press(input.Enter)
	p.until("!document.querySelector('[data-testid=writedown]')")
	p.reads("[data-testid=notice]", "Written down, due Fri 27 Nov, 10:00.")

	p.choose("Tomasz Ilk")
	p.press(input.Semicolon).see("[data-testid=flag-tray]")
	p.press(input.Digit2)
	p.reads("[data-testid=notice]", "due Wed 25 Nov")
	p.leftIs(n) // a flag leaves the mail where it is
	p.reads("[role=option][aria-current=true]", "due tomorrow")
	p.with(input.KeyZ, input.ControlLeft)
	p.until("!document.querySelector('[role=option][aria-current=true]').textContent.includes('due tomorrow')")

	p.press(input.KeyF)
	p.does("By project")
	p.has("[aria-label=opening]", "ring the piano tuner")
	p.does("By priority")
	p.has("[aria-label=urgent]", "ring the piano tuner")
	p.press(input.Minus).see("#filter-words")
	p.write("piano")
	p.until("document.querySelectorAll('[data-followup]').length === 2")
	p.reads("[data-testid=filtered]", "“piano”")
	p.see("#view-name").MustFocus()
	p.write("The piano")
	p.press(input.Enter)
	p.until("!document.querySelector('[data-testid=filter-tray]')")
	p.reads("[data-testid=filtered]", "The piano")
	p.does("Show all")
	p.until("document.querySelectorAll('[data-followup]').length > 10")
	p.does("The piano")
	p.until("document.querySelectorAll('[data-followup]').length === 2")
	p.click("[data-day='3']")
	p.until("document.querySelectorAll('[data-followup]').length === 1")
	p.pick("ring the piano tuner")
	p.press(input.Digit6).see("#say-wide")
	p.write("low / remind 2 h before / note ask for Liv")
	p.reads("#say-wide-parts", "ask for Liv")
	p.press(input.Enter)
	p.reads("[data-testid=change-tray]", "2 h before it is due")
	p.until("document.querySelector('[data-testid=change-tray] textarea[aria-label=Notes]').value === 'ask for Liv'")
	p.see("[aria-label='Add to the checklist']").MustFocus()
	p.write("find the number")
	p.press(input.Enter)
	p.until("[...document.querySelectorAll('[data-testid=change-tray] li')].some(e => e.textContent.includes('find the number'))")
	p.press(input.Escape)
	p.has("[aria-label=low]", "ring the piano tuner")
	p.reads(card("ring the piano tuner"), "0/1")

	// Two tabs: what was finished in one is not moved in the other.
	q := open(t, s.url, 1280, 800).enter()
	q.press(input.KeyF)
	q.does("By priority")
	q.has("[aria-label=low]", "ring the piano tuner")
	p.pick("ring the piano tuner")
	p.press(input.Enter).see("[data-testid=panel]")
	p.reads("main", "Not linked to any mail")
	p.press(input.Digit2)
	p.until("location.pathname === '/follow-ups'")
	q.until("![...document.querySelectorAll('[data-followup]')].some(e => e.dataset.followup === 'ring the piano tuner')")
}

// Waiting: for an answer to a conversation; a message from them ends it and says
// so.
func TestWaitingForSomebody(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.choose("Halvard Lindqvist")
	p.with(input.KeyA, input.ShiftLeft).see("#wait-ask")
	p.write("thu 9")
	p.reads("#wait-ask-means", "Thu 26 Nov, 9:00")
	p.press(input.Enter).leftIs(n - 1)
	p.visit("/waiting")
	p.has("[aria-label=Waiting]", "Wait for Halvard: Loan agreement: one clause still open")
	p.has("[aria-label=Waiting]", "Condition report of the copper plates")
	p.pick("Condition report of the copper plates")
	p.press(input.Digit5).see("#putoff-phrase")
	p.write("mon 10")
	p.reads("#putoff-phrase-means", "Mon 30 Nov, 10:00")
	p.press(input.Enter)
	p.reads(card("Condition report of the copper plates"), "ask again Mon 10:00")
	// Halvard's message is let through at 12:20. It is about another matter, so it ends nothing: it is asked about.
	now := func() string {
		return p.MustEval(`() => [...document.querySelectorAll('header svg[role=group] text')].map(e => e.textContent).find(t => /^\d+:\d\d$/.test(t))`).Str()
	}
	for before := now(); before != "12:20"; before = now() { // one turn of the dial after the other
		p.clock("To the next thing")
		p.until("![...document.querySelectorAll('header svg[role=group] text')].some(e => e.textContent === '%s') && !document.querySelector('[data-turning]')", before)
	}
	p.until("document.querySelectorAll('[data-testid=offer]').length === 2")
	p.pick("Clause 7 of the loan agreement")
	p.reads(card("Clause 7 of the loan agreement"), "Halvard Lindqvist wrote today 12:20. Is this what you waited for?")
	waits := p.MustEval(`() => document.querySelectorAll('[data-followup]').length`).Int()
	p.press(input.KeyY)
	p.reads("[data-testid=notice]", "That is the answer: you need not wait any more.")
	p.until("document.querySelectorAll('[data-followup]').length === %d", waits-1)

	// In the inbox its slip says so; there, one key says that it is not the other answer.
	p.press(input.KeyI)
	p.chooseSubject("The signed page, at last")
	p.reads("[role=option][aria-current=true]", "the answer you wait for?")
	p.reads("[data-testid=offer]", "Is this the answer you wait for: “Wait for Halvard: Loan agreement: one clause still open”?")
	p.with(input.KeyY, input.ShiftLeft)
	p.reads("[data-testid=notice]", "Not the answer: still waiting for Halvard Lindqvist.")
	p.until("!document.querySelector('[data-testid=offer]') && !document.querySelector('[role=option][aria-current=true]').innerText.includes('wait for')")

	// What was taken for the answer can have been none.
	p.press(input.KeyF)
	p.does("By stage")
	p.has("[data-lane='To do']", "Clause 7 of the loan agreement")
	p.reads(card("Clause 7 of the loan agreement"), "Halvard answered 12:20")
	p.click(card("Clause 7 of the loan agreement"))
	p.with(input.KeyA, input.ShiftLeft)
	p.reads("[data-testid=notice]", "No answer yet: waiting for Halvard Lindqvist again.")
	p.visit("/waiting")
	p.has("[aria-label=Waiting]", "Clause 7 of the loan agreement")
}

// Key 7 makes an event of the times a message names; an invitation is set beside
// the calendar, answered into the outbox, and its change is shown.
func TestTheCalendar(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.choose("Mirela Dossett")
	p.press(input.Digit7).see("[data-testid=event-tray] [data-time]")
	p.reads("[data-testid=event-tray] [aria-checked=true]", "Thu 26 Nov, 12:00")
	p.until("document.activeElement.id === 'event-start'")
	p.write("thu 14:00")
	p.reads("#event-start-means", "Thu 26 Nov, 14:00")
	p.press(input.Enter).leftIs(n - 1)
	p.reads("[data-testid=notice]", "In the calendar: Thu 26 Nov, 14:00.")

	p.chooseSubject("Einladung: Besprechung zum Katalog")
	p.reads("[data-testid=invitation-time]", "Thu 26 Nov, 10:00 to 11:00")
	p.reads("[data-testid=around]", "It overlaps Call with the lenders (9:30 to 10:30)")
	p.does("Yes")
	p.reads("[data-testid=notice]", "Accepted, Thu 26 Nov, 10:00. The answer is on its way.")
	p.reads("[data-testid=invitation]", "you said yes")
	p.press(input.KeyC).see("[data-event='Besprechung zum Katalog']")
	p.see("[data-event^='Crate sizes']")
	p.see("[data-event='Fair in Lerhavn']")
	p.click("[data-event='Besprechung zum Katalog']")
	p.reads("[role=toolbar]", "Its mail")
	p.press(input.ArrowRight)
	p.reads("[data-testid=week]", "30 Nov to 6 Dec")
	p.click("[data-event='Round of the house']") // one of many: what is changed of it is changed of all, and none goes
	p.press(input.Digit6).see("#event-title").MustSelectAllText().MustInput("Round with Tomasz")
	p.reads("[data-testid=event-tray]", "Ends Tue 1 Dec, 9:30")
	p.press(input.Enter).see("[data-event='Round with Tomasz']")
	p.press(input.Home)
	p.reads("[data-testid=week]", "23 Nov to 29 Nov")
	p.see("[data-event='Round with Tomasz']")
	p.press(input.Digit7).see("#event-start")
	p.write("fri 15:00")
	p.reads("#event-start-means", "Fri 27 Nov, 15:00")
	p.see("#event-title").MustInput("Tea with Priya")
	p.press(input.Enter).see("[data-event='Tea with Priya']")
	p.click("[data-event='Tea with Priya']")
	p.press(input.Digit1)
	p.until("!document.querySelector(\"[data-event='Tea with Priya']\")")
	p.with(input.KeyZ, input.ControlLeft).see("[data-event='Tea with Priya']")

	// At two the round brings the change of the meeting.
	for range 12 {
		if strings.Contains(p.text("[data-testid=gate]"), "16:30") {
			break
		}
		before := p.text("header")
		p.clock("To the next thing")
		p.until("document.querySelector('header').innerText !== %q", before)
	}
	p.press(input.KeyI).see("[role=option]")
	p.chooseSubject("Geändert: Besprechung zum Katalog")
	p.reads("[data-testid=invitation]", "changed since you answered")
	p.reads("[data-testid=invitation]", "It was Thu 26 Nov, 10:00 to 11:00.")
	p.does("Perhaps")
	p.reads("[data-testid=invitation]", "you said perhaps")
}

// A calendar file comes in with what is wrong with it said, everything goes out
// again, and the feed can be read by anybody who knows its address, until it is
// revoked.
func TestCalendarFilesAndTheFeed(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.url, 1280, 800).enter()
	p.setup("calendar")
	file := filepath.Join(t.TempDir(), "in.ics")
	require.NoError(t, os.WriteFile(file, []byte("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VTODO\r\nUID:1@o.example\r\nSUMMARY:Polish the brass\r\nDUE;VALUE=DATE:20261127\r\nbroken\r\nEND:VTODO\r\nEND:VCALENDAR\r\n"), 0o600))
	p.see("input[type=file]").MustSetFiles(file)
	p.reads("[data-testid=taken-in]", "Taken in: 1 follow-up and 0 events.")
	p.reads("[data-testid=taken-in]", "One broken line could not be read")
	require.NoError(t, os.WriteFile(file, []byte("hello"), 0o600))
	p.see("input[type=file]").MustSetFiles(file)
	p.reads("[data-testid=file-wrong]", "this is no calendar file")
	big := filepath.Join(t.TempDir(), "big.ics")
	require.NoError(t, os.WriteFile(big, []byte(strings.Repeat("x", 50<<20)), 0o600))
	p.see("input[type=file]").MustSetFiles(big)
	p.reads("[data-testid=file-wrong]", "larger than 20 MB")

	p.does("Switch it on")
	address := p.see("[aria-label='Address of the feed']").MustProperty("value").Str()
	read := func() (int, string) {
		resp, err := http.Get(address)
		require.NoError(t, err)
		defer resp.Body.Close()
		raw, err := io.ReadAll(resp.Body)
		require.NoError(t, err)
		return resp.StatusCode, string(raw)
	}
	code, feed := read()
	require.Equal(t, http.StatusOK, code)
	for _, want := range []string{"SUMMARY:Polish the brass", "SUMMARY:Board meeting", "BEGIN:VTIMEZONE", "RRULE:FREQ=WEEKLY"} {
		require.Contains(t, feed, want)
	}
	p.does("Switch the feed off…")
	p.see("[role=alertdialog]")
	p.press(input.Escape) // what cannot be taken back is asked about, and the way out has the focus
	p.until("!document.querySelector('[role=alertdialog]')")
	code, _ = read()
	require.Equal(t, http.StatusOK, code)
	p.does("Switch the feed off…")
	p.see("[role=alertdialog]")
	p.presses("[role=alertdialog] button", "^Switch it off$")
	p.button("Switch it on")
	code, _ = read()
	require.Equal(t, http.StatusNotFound, code)

	// A stage of one's own.
	p.setup("follow-ups")
	p.see("[aria-label='A new stage']").MustFocus()
	p.write("In the workshop")
	p.press(input.Enter).see("[aria-label='What In the workshop means']")
	p.press(input.Escape)
	p.visit("/follow-ups")
	p.does("By stage")
	p.see("[data-lane='In the workshop']")
}

// A mouse alone makes a whole follow-up: each press writes its part into the line, where it can be read, and pressed
// again takes it out.
func TestAFollowUpByMouseAlone(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.choose("Eskil Tann")
	p.presses("[role=toolbar] button", "Follow-up$")
	p.see("[data-testid=picker] [data-cell]")
	p.click("[data-testid=picker] [data-cell='1,2']")
	p.reads("#followup-line-parts", "due Thu 26 Nov, 13:30")
	p.click("[data-testid=picker] [data-cell='0,3']")
	p.reads("#followup-line-parts", "due Fri 27 Nov, 8:00")
	require.Equal(t, "27 nov 8:00", p.MustEval(`() => document.querySelector('#followup-line').value`).Str(), "in place of the one before")
	p.presses("[data-testid=picker] [role=radio]", "Starts")
	p.click("[data-testid=picker] [data-cell='0,2']")
	p.reads("#followup-line-parts", "starts Thu 26 Nov, 8:00")
	p.presses("[data-testid=picker] [role=radio]", "Reminds")
	p.click("[data-testid=picker] [data-cell='2,2']")
	p.reads("#followup-line-parts", "reminds Thu 26 Nov, 18:00")
	p.presses("[data-testid=picker] button", "^opening$")
	p.presses("[data-testid=picker] button", "^to read$")
	p.reads("#followup-line-parts", "opening")
	p.reads("#followup-line-parts", "to read")
	p.presses("[data-testid=picker] button", "^30 min$")
	p.reads("#followup-line-parts", "takes 30 min")
	p.presses("[data-testid=picker] button", "^2 h$")
	p.reads("#followup-line-parts", "takes 2 h")
	p.until("!document.querySelector('#followup-line-parts').textContent.includes('30 min')")
	p.presses("[data-testid=picker] button", "^2 h$")
	p.until("!document.querySelector('#followup-line-parts').textContent.includes('takes')")
	p.does("Make it")
	p.reads("[data-testid=notice]", "ollow-up")
	p.visit("/follow-ups")
	p.until("[...document.querySelectorAll('[data-followup]')].some(e => /skylight/i.test(e.textContent))")
}

// A line says all of a follow-up without slashes, too; what it was not meant to say
// is title again with one key, or with the mouse.
func TestALineWithoutSlashes(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.press(input.NumpadAdd).see("#writedown-line")
	p.write("call the plumber tomorrow at 9 @cellar !")
	parts := "#writedown-line-parts"
	p.reads(parts, "due Wed 25 Nov, 9:00")
	p.reads(parts, "cellar")
	p.reads(parts, "high")
	p.with(input.Backspace, input.ShiftLeft)
	p.until("!document.querySelector(%q).textContent.includes('high')", parts)
	p.until("document.querySelector('#writedown-line').value === 'call the plumber tomorrow at 9 @cellar !'")
	p.press(input.Escape) // it is kept, and so is what was left in the title
	p.until("!document.querySelector('#writedown-line')")
	p.press(input.NumpadAdd).see("#writedown-line")
	p.reads(parts, "cellar")
	p.until("!document.querySelector(%q).textContent.includes('high')", parts)
	p.click("[aria-label='Leave “@cellar” in the title']")
	p.until("!document.querySelector(%q).textContent.includes('Leave “@cellar”') && document.activeElement.id === 'writedown-line'", parts)
	p.until("!document.querySelector(\"[aria-label='Leave “@cellar” in the title']\")")
	p.press(input.Enter)
	p.until("!document.querySelector('#writedown-line')")
	p.press(input.KeyF)
	p.has("main", "call the plumber @cellar !")
	p.reads(card("call the plumber @cellar !"), "tomorrow 9:00")

	// What cannot be is said, and nothing is made of it before that was seen.
	p.press(input.NumpadAdd).see("#writedown-line")
	p.write("ring / due 31 feb")
	p.see("#writedown-line-doubt, [data-testid=writedown-line-doubt]")
}
