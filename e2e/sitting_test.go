package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"
)

func (p *page) visit(path string) {
	p.t.Helper()
	link := fmt.Sprintf(`nav a[href=%q]`, path)
	place := link
	if p.MustEval(`link => innerWidth <= 700 && getComputedStyle(document.querySelector(link)).display === 'none'`, link).Bool() {
		p.click("nav button") // the places that have no room
		link = fmt.Sprintf(`[data-lying] a[href=%q]`, path)
	}
	p.click(link)
	// The address changes first; the place is the current one once its screen stands.
	p.until("location.pathname === %q && document.querySelector(%q).getAttribute('aria-current') === 'page'", path, place)
}

// run runs a command by its name in the palette.
func (p *page) command(name string) {
	p.t.Helper()
	p.with(input.KeyK, input.ControlLeft).see("#palette")
	p.write(name)
	p.reads("#palette-list [aria-selected=true]", name)
	p.press(input.Enter)
	p.until("!document.querySelector('#palette')")
}

// clock turns the demo's dial.
func (p *page) clock(to string) {
	p.t.Helper()
	p.does("Demo clock")
	p.does(to)
}

// A sitting by keyboard: in the order chosen, one left undecided and counted,
// loaded anew, the program killed, a step taken back, and the sum at the end.
func TestASittingByKeyboard(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.url, 1280, 800).enter()
	n := p.left()
	p.press(input.Digit8).see("[data-testid=sit-tray]")
	p.does("10 min")
	p.does("Begin with")
	p.reads("[data-testid=sitting]", fmt.Sprintf("0 of %d", n))
	p.reads("[data-testid=sitting]", "of 10 min")

	first := p.text("[data-testid=subject]")
	p.press(input.Digit2).leftIs(n - 1)
	second := p.text("[data-testid=subject]")
	p.press(input.ArrowDown)
	p.reads("[data-testid=notice]", "you decide one at a time")
	p.shows(second)
	p.press(input.Digit8)
	p.reads("[data-testid=notice]", "Left undecided. Looks so far: 1.")
	p.leftIs(n - 1)
	p.reads("[data-testid=sitting]", fmt.Sprintf("2 of %d", n))
	third := p.text("[data-testid=subject]")
	require.NotEqual(t, second, third)

	p.MustReload()
	p.reads("[data-testid=sitting]", fmt.Sprintf("2 of %d", n))
	p.shows(third)
	p.press(input.Digit1).leftIs(n - 2)
	s.restart()
	p.until("!document.body.textContent.includes('No connection')")
	p.reads("[data-testid=sitting]", fmt.Sprintf("3 of %d", n))
	p.with(input.KeyZ, input.ControlLeft).leftIs(n - 1)
	p.shows(third)
	p.with(input.KeyZ, input.ControlLeft)
	p.shows(second)
	p.with(input.KeyZ, input.ControlLeft).leftIs(n)
	p.shows(first)

	p.press(input.Digit2, input.Digit1, input.Digit8)
	p.reads("[data-testid=sitting]", fmt.Sprintf("3 of %d", n))
	p.clock("+ 1 hour") // longer than ten minutes
	p.reads("[data-testid=time-over]", "The 10 minutes are over.")
	p.does("five more")
	p.until("!document.querySelector('[data-testid=time-over]')")
	p.press(input.F8) // ends it
	p.reads("[data-testid=sum]", "2 conversations decided")
	p.reads("[data-testid=sum]", "archived1")
	p.reads("[data-testid=sum]", "binned1")
	p.reads("[data-testid=sum]", "left undecided1")
	p.does("Back to the inbox")
	p.see("[data-testid=queue] [role=option]")
	p.press(input.Home)
	for !strings.Contains(p.text("[role=option][aria-current=true]"), "2nd look") {
		before := p.text("[role=option][aria-current=true]")
		p.press(input.ArrowDown)
		p.until("document.querySelector('[role=option][aria-current=true]').innerText !== %q", before)
	}
}

// 300 more messages this morning, each decided by a key, waiting on nothing but
// the screen.
func TestThreeHundredByKeyboard(t *testing.T) {
	t.Parallel()
	s := run(t, "demo", "--data", t.TempDir(), "--start", start, "--more", "300")
	p := open(t, s.url, 1280, 800).enter()
	n := p.left()
	require.Greater(t, n, 300)
	p.press(input.Digit8).see("[data-testid=sit-tray]")
	p.press(input.Enter).see("[data-testid=sitting]")
	for i := range n {
		if i == 150 { // and many without looking
			p.see("article")
		}
		switch i % 5 {
		case 0:
			p.press(input.Digit1)
		case 3:
			p.press(input.Digit5)
			p.until("document.querySelector(\"[data-preset='next week']\")?.focus() || document.activeElement.dataset.preset")
			p.press(input.Enter)
		default:
			p.press(input.Digit2)
		}
		if i%10 == 9 {
			p.leftIs(n - i - 1)
		}
	}
	require.Eventually(t, func() bool { // the program hears of them one after the other
		return p.MustEval(`async () => (await (await fetch('/api/v1/inbox')).json()).left`).Int() == 0
	}, 4*patience, 200*time.Millisecond)
	p.reads("[data-testid=sum]", fmt.Sprintf("%d conversations decided", n))
	p.does("End the sitting")
	p.see("[data-testid=zero]")
}

// The reply begins the two-minute clock; when it has run out, one key makes
// the rest a follow-up, and the draft is kept.
func TestTheTwoMinuteClock(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.choose("Oona Varga")
	subject := p.text("[data-testid=subject]")
	p.press(input.Digit3)
	p.until("document.activeElement.id === 'reply'")
	p.write("Dear Oona, 2 rooms, 5 nights.")
	p.press(input.F7) // the key of a combo does nothing while one types
	p.reads("[data-testid=kept]", "Saved today")
	p.until("/^1:5\\d$/.test(document.querySelector('[role=timer]').textContent)")
	p.leftIs(n)
	p.clock("+ 1 hour")
	p.reads("[data-testid=two-over]", "Two minutes are over. F2 makes the rest a follow-up")
	p.MustElement("#reply").MustFocus()
	p.press(input.F2).leftIs(n - 1)
	p.visit("/follow-ups")
	p.presses("main a", subject)
	p.shows(subject)
	p.reads("[data-testid=draft]", "Dear Oona, 2 rooms, 5 nights.")
	p.click("[data-testid=draft]")
	p.until("document.getElementById('reply').value === 'Dear Oona, 2 rooms, 5 nights.'")
}

func TestManyAtOnce(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.url, 1280, 800).enter()
	n := p.left()
	p.press(input.Home)
	p.with(input.ArrowDown, input.ShiftLeft).with(input.ArrowDown, input.ShiftLeft)
	p.reads("[data-testid=chosen]", "3 chosen")
	p.reads("[role=toolbar]", "Archive 3")
	p.press(input.Digit2).leftIs(n - 3)
	p.reads("[data-testid=notice]", "Archived 3.")
	p.with(input.KeyZ, input.ControlLeft).leftIs(n)
	p.until("[...document.querySelectorAll('[role=option]')].some(o => o.ariaSetSize === '%d')", n) // they stand in the list again, too

	// By clicks: one, another, and all between them.
	p.MustElement("[role=option] [data-mark]").MustEval(`() => this.click()`)
	p.MustEval(`() => document.querySelectorAll('[role=option]')[3].dispatchEvent(new MouseEvent('click', {bubbles: true, shiftKey: true}))`)
	p.reads("[data-testid=chosen]", "4 chosen")
	p.MustEval(`() => document.querySelectorAll('[role=option]')[1].dispatchEvent(new MouseEvent('click', {bubbles: true, ctrlKey: true}))`)
	p.reads("[data-testid=chosen]", "3 chosen")
	p.with(input.KeyA, input.ControlLeft)
	p.reads("[data-testid=chosen]", fmt.Sprint(n)+" chosen")
	p.press(input.Escape)
	p.until("!document.querySelector('[data-testid=chosen]')")

	// A whole group, without one of it; folded groups are not moved through.
	p.click("[data-group^=round] [aria-label^='Choose all']")
	in := p.MustEval(`() => Number(document.querySelector('[data-testid=chosen]').textContent.split(' ')[0])`).Int()
	require.Greater(t, in, 8)
	p.choose("Priya Venn")
	p.with(input.Enter, input.ShiftLeft)
	p.reads("[data-testid=chosen]", fmt.Sprint(in-1)+" chosen")
	p.press(input.Digit5).click("[data-cell='0,1']")
	p.leftIs(n - in + 1)
	p.reads("[data-testid=notice]", fmt.Sprintf("Back all %d Wed 25 Nov, 8:00.", in-1))
	p.with(input.KeyZ, input.ControlLeft).leftIs(n)
	p.choose("Jonas Reyland")
	p.press(input.ArrowLeft)
	p.until("document.querySelector('[data-group^=round] [aria-expanded=false]') && document.querySelector('[aria-current=true]').textContent.includes('Mon')")
	p.press(input.ArrowRight)
	p.until("document.querySelector('[data-group^=round] [aria-expanded=true]')")

	// All from a sender, and all like it.
	p.choose("Ragna Holm")
	p.with(input.ArrowRight, input.ShiftLeft)
	p.reads("[data-testid=chosen]", "2 chosen")
	p.does("all like this")
	p.reads("[data-testid=chosen]", "1 chosen")
	p.press(input.Digit8)
	p.button("Begin with the 1 chosen")
	p.press(input.Escape)
	p.until("!document.querySelector('[data-testid=sit-tray]')")
	p.press(input.Escape)
	p.until("!document.querySelector('[data-testid=chosen]')")

	// What another tab has decided meanwhile is passed over, and said.
	q := open(t, s.url, 1280, 800).enter()
	p.press(input.Home)
	p.with(input.ArrowDown, input.ShiftLeft).with(input.ArrowDown, input.ShiftLeft).with(input.ArrowDown, input.ShiftLeft)
	p.reads("[data-testid=chosen]", "4 chosen")
	q.press(input.Home, input.Digit1).leftIs(n - 1)
	p.leftIs(n - 1)
	p.reads("[data-testid=chosen]", "3 chosen")
	p.press(input.Digit2).leftIs(n - 4)

	// The rest is done: the starred stay.
	p.press(input.NumpadMultiply).see("[aria-current=true] [aria-label=starred]")
	p.command("The rest is done")
	p.leftIs(1)
	p.reads("[data-testid=notice]", "The rest is done: archived")
	p.with(input.KeyZ, input.ControlLeft).leftIs(n - 4)
}

func TestArrangingTheInbox(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.press(input.Minus).see("[data-testid=arrange-tray]")
	p.does("by kind")
	p.see("[data-group=person]")
	p.does("most important first")
	p.does("to me alone")
	p.reads("[data-testid=filtered]", "Only to me alone:")
	p.until("Number(document.querySelector('[data-testid=filtered]').textContent.match(/: (\\d+)/)[1]) < %d", n)
	p.leftIs(n)
	p.press(input.Escape)
	p.command("Save what is shown as a list")
	p.see("#list-name")
	p.write("Mine alone")
	p.press(input.Enter)
	p.see("[data-list='Mine alone']")
	p.does("Show all")
	p.until("!document.querySelector('[data-testid=filtered]')")
	// Back filters again, and a reload keeps it; the next step is there, too.
	require.NoError(t, p.NavigateBack())
	p.reads("[data-testid=filtered]", "Only to me alone:")
	p.MustReload()
	p.reads("[data-testid=filtered]", "Only to me alone:")
	require.NoError(t, p.NavigateForward())
	p.until("!document.querySelector('[data-testid=filtered]') && document.querySelector('[data-slip]')")
	p.MustReload()
	p.see("[data-group=person]") // it is remembered
	p.click("[data-list='Mine alone'] li button")
	p.until("document.querySelector('[data-list=\"Mine alone\"] [aria-current=true] .truncate:nth-child(2)').textContent === document.querySelector('[data-testid=subject]').textContent")
	p.press(input.Digit2).leftIs(n - 1)
}

// Each way of grouping the inbox is reached from each other, with its groups named
// as that has them.
func TestEveryGroupingFromEveryOther(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	ways := []string{"why", "sender", "subject", "kind", "day", "account"}
	p.press(input.Minus).see("[data-testid=arrange-tray]")
	group := func(way string) {
		t.Helper()
		p.click("[data-testid=arrange-tray] [data-grouping=" + way + "]")
		p.until("document.querySelector('[data-grouped]')?.dataset.grouped === %q", way)
		p.see("[data-group]")
	}
	for i, here := range ways { // there and back, from each to all after it
		group(here)
		for _, there := range ways[i+1:] {
			group(there)
			group(here)
		}
	}
}

func TestLabelsNamesAndNotes(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.choose("Eskil Tann")
	name := func(label string) {
		p.press(input.Equal)
		p.until("document.activeElement.id === 'label'")
		p.write(label)
		p.reads("#label-list", "Create “"+label+"”")
	}
	name("attic")
	p.press(input.Enter)
	p.reads("#label-list [aria-selected=true]", "attic")
	p.MustReload()
	p.see("[data-slip], [role=option]")
	p.until("document.querySelector('#label-list [aria-selected=true]')?.textContent.includes('attic')") // what was chosen outlasts a reload
	p.press(input.Escape)
	p.until("!document.querySelector('[data-testid=label-tray]')")
	name("attic") // a label that was only named has not been made
	p.see("#label").MustSelectAllText()
	p.press(input.Backspace, input.Escape)
	name("building / roof")
	p.press(input.Enter)
	p.reads("#label-list [aria-selected=true]", "building")
	p.until("document.getElementById('label').value === ''")
	p.press(input.Enter)
	p.reads("[aria-current=true]", "roof")
	p.reads("[aria-label=Conversation]", "building / roof")
	p.with(input.KeyZ, input.ControlLeft)
	p.until("!document.querySelector('[aria-current=true]').textContent.includes('roof')")

	p.command("Write a note on it")
	p.until("document.activeElement.id === 'note'")
	p.write("The ladder is at Tomasz's.")
	p.press(input.Enter)
	p.reads("[data-testid=note]", "The ladder is at Tomasz's.")
	p.command("Call it something else")
	p.until("document.activeElement.id === 'rename'")
	p.write("Leak over the long gallery")
	p.press(input.Enter)
	p.shows("Leak over the long gallery")
	p.reads("[aria-label=Conversation]", "Subject: Water under the skylight")

	// A label that is deleted leaves everything, and comes back when that is taken back.
	p.setup("labels")
	p.MustElementR("li", "^building").MustElementR("button", "delete").MustClick()
	p.until("![...document.querySelectorAll('section[aria-labelledby=labels] li')].some(e => e.textContent.startsWith('building1'))")
	p.visit("/")
	p.with(input.KeyZ, input.ControlLeft) // it was said, and stands there still
	p.reads("[data-testid=notice]", "Taken back")
	p.choose("Eskil Tann")
	p.reads("[aria-current=true]", "building")
}

func TestSnoozesWithoutADate(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.choose("Tomasz Ilk")
	p.press(input.Digit5).see("[data-until=site]")
	p.presses("[data-until=site]", "the workshop")
	p.leftIs(n - 1)
	p.choose("Priya Venn")
	p.press(input.Digit5).click("[data-until=someday]")
	p.leftIs(n - 2)
	p.reads("[data-testid=notice]", "Someday. Looked through Tue 1 Dec, 8:00.")
	p.choose("Halvard Lindqvist")
	p.press(input.Digit5).click("[data-until=answer]")
	p.leftIs(n - 3)
	p.choose("Jonas Reyland")
	p.press(input.Digit5)
	p.presses("[data-testid=snooze-tray] label", "only if nobody has answered")
	p.click("[data-preset=tomorrow]")
	p.leftIs(n - 4)
	p.reads("[data-testid=notice]", "if nobody has answered by then")

	p.visit("/later")
	for _, name := range []string{"Back when somebody answers", "Back when you are at the workshop", "Someday, looked through Tue 1 Dec"} {
		p.until("[...document.querySelectorAll('[data-group]')].some(e => e.textContent.includes(%q)) || document.querySelector('[data-testid=queue]').scrollBy(0, 300)", name)
	}
	p.visit("/")
	p.command("I am at the workshop")
	p.leftIs(n - 2) // the one of before, too
	p.reads("[data-group=here]", "Waited for this place")
	p.reads("header", "at the workshop")

	// The place is deleted while something waits there: that comes back.
	p.choose("Tomasz Ilk")
	p.press(input.Digit5).see("[data-until=site]")
	p.presses("[data-until=site]", "the quay store")
	p.leftIs(n - 3)
	p.setup("places")
	quay := p.see("[data-place='the quay store']")
	quay.MustElementR("button", "delete").MustClick()
	quay.MustElementR("button", "bring back 1 conversation").MustClick()
	p.leftIs(n - 2)

	p.clock("To tomorrow 8:00")
	p.visit("/")
	// What was shown stays in view; what has come back stands above it.
	p.until("document.querySelector('[data-group=unanswered]')?.textContent.includes('Nobody answered') || document.querySelector('[data-testid=queue]')?.scrollTo(0, 0)")
}

// A slip of Later dragged to another day comes back then.
func TestDraggingToAnotherDay(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.visit("/later")
	p.reads("[role=option]", "Grete Brunner")
	p.reads("[data-day='0']", "1 back")
	at := func(selector string) proto.Point {
		box := p.place(selector)
		return proto.NewPoint(box.X+box.Width/2, box.Y+box.Height/2)
	}
	require.NoError(t, p.Mouse.MoveTo(at("[role=option]")))
	require.NoError(t, p.Mouse.Down(proto.InputMouseButtonLeft, 1))
	require.NoError(t, p.Mouse.MoveLinear(at("[data-day='3']"), 12))
	p.until("getComputedStyle(document.querySelector(\"[data-day='3']\")).color === 'rgb(255, 255, 255)'")
	require.NoError(t, p.Mouse.Up(proto.InputMouseButtonLeft, 1))
	p.reads("[data-testid=notice]", "Back Fri 27 Nov, 14:00.")
	p.reads("[data-day='3']", "1 back")
	p.until("!document.querySelector(\"[data-day='0']\").textContent.includes('back')")
	p.with(input.KeyZ, input.ControlLeft)
	p.reads("[data-day='0']", "1 back")
}

func TestTakingBackAnOldStepFromTheHistory(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.press(input.Home, input.Digit1).leftIs(n - 1)
	first := p.text("[data-testid=subject]")
	p.press(input.Digit2).leftIs(n - 2)
	p.press(input.Digit2).leftIs(n - 3)
	p.visit("/history")
	p.does("me")
	p.until("![...document.querySelectorAll('li b')].some(e => e.textContent === 'Mail')")
	p.MustElementR("li", "binned").MustElementR("button", "take back").MustClick()
	p.leftIs(n - 2)
	p.MustElementR("li", "archived “"+strings.Split(first, ":")[0]).MustElement("a").MustClick()
	p.shows(first)
	p.press(input.Digit1)
	p.until("location.pathname === '/history' && document.querySelector('[data-entry]')?.textContent.includes('binned “' + %q)", strings.Split(first, ":")[0]) // else the lines move while one clicks
	p.MustElementR("li", "archived “"+strings.Split(first, ":")[0]).MustElementR("button", "take back").MustClick()
	p.reads("[data-testid=notice]", "has changed since (binned")
	p.leftIs(n - 2)
}

// Keys are the user's to change; a clash is explained and can be resolved.
func TestChangingKeys(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.command("The keys")
	p.see("[data-command=archive]").MustElementR("button", "change").MustClick()
	p.press(input.Digit5)
	p.reads("[data-testid=clash]", "“5” is the key of “Snooze”.")
	p.does("Exchange the two")
	p.reads("[data-command=archive]", "5")
	p.reads("[data-command=snooze]", "2")
	p.see("[data-command=note]").MustElementR("button", "change").MustClick()
	p.press(input.Tab)
	p.reads("[data-testid=clash]", "belongs to the browser")
	p.press(input.KeyK)
	p.until("[...document.querySelectorAll('[data-command=note] kbd')].some(k => k.textContent === 'k')")
	p.visit("/")
	p.see("[role=option]")
	p.reads("[role=toolbar]", "5Archive")
	p.press(input.Digit5).leftIs(n - 1)
	p.press(input.Digit2).see("[data-testid=snooze-tray]")
	p.press(input.Escape)
	p.until("!document.querySelector('[data-testid=snooze-tray]')")
	p.press(input.KeyK)
	p.until("document.activeElement.id === 'note'")
	p.MustReload()
	p.reads("[role=toolbar]", "5Archive")
}

// A combo of the user's own: several actions, one button, one key, one step.
func TestACombo(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.setup("combos")
	p.does("Make a combo")
	p.see("#combo-name").MustInput("Out of sight")
	p.see("#combo-key").MustFocus()
	p.press(input.Digit1)
	p.reads("#combo-key-wrong", "“1” is the key of “Bin”")
	p.press(input.KeyQ)
	p.does("label")
	p.presses("form[aria-label=Combo] li label", "to read")
	p.does("archive")
	p.does("Save the combo")
	p.reads("section[aria-labelledby=combos]", "label to read + archive")
	p.visit("/")
	p.see("[role=option]")
	p.press(input.KeyQ).leftIs(n - 1)
	p.reads("[data-testid=notice]", "“Out of sight” done.")
	p.reads("[data-list='To read']", "2")
	p.with(input.KeyZ, input.ControlLeft).leftIs(n)
	p.reads("[data-list='To read']", "1")
}

// A combo asks to whom, with which label and until when, all at once; it passes mail on with
// a follow-up for the answer, and what goes out is taken back with it; it has a condition
// and a button of its size, starts a message, and is shared in a file.
func TestCombosThatAskAndSend(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.setup("combos")
	p.does("Make a combo")
	p.see("#combo-name").MustInput("Over to")
	p.see("#combo-if").MustInput("perhaps")
	p.reads("#combo-if-wrong", "does not understand")
	p.see("#combo-if").MustSelectAllText().MustInput("from people")
	p.until("!document.querySelector('#combo-if-wrong')") // what stands below it has moved by then
	p.does("hand over")
	p.presses("form[aria-label=Combo] li label", "ask to whom")
	p.does("label")
	p.presses("form[aria-label=Combo] li label", "ask which label")
	p.does("archive")
	p.presses("form[aria-label=Combo] [role=radio]", "^large$")
	p.until("!document.querySelector('#combo-if-wrong')?.textContent")
	p.does("Save the combo")
	p.reads("section[aria-labelledby=combos]", "If from people: hand over (asks to whom) + label (asks which label)")
	p.does("Make a combo")
	p.see("#combo-name").MustInput("Thank")
	p.does("start a message")
	p.does("Save the combo")
	p.reads("section[aria-labelledby=combos]", "start a message")

	p.visit("/")
	p.choose("Mirela Dossett")
	p.presses("[aria-label=Combos] button", "Over to")
	p.see("[data-testid=combo-tray]")
	p.until("document.activeElement.id === 'combo-ask-0'")
	p.write("jonas")
	p.until("document.querySelector('ul[role=listbox] [aria-selected=true]')?.textContent.includes('Jonas')")
	p.press(input.Enter)
	p.presses("[data-testid=combo-tray] button", "to read")
	p.MustReload() // what was chosen is there again
	p.until("document.querySelector('[data-testid=combo-tray] [aria-pressed=true]')?.textContent.includes('to read')")
	p.presses("[data-testid=combo-tray] button", "^Over to")
	p.reads("[data-testid=notice]", "“Over to” done. Goes to jonas.reyland@skagvikmuseum.example in 15 seconds.")
	p.until("!document.querySelector('[data-testid=unfinished]')") // which was said as the page came again
	p.leftIs(n - 1)
	p.with(input.KeyZ, input.ControlLeft)
	p.reads("[data-testid=notice]", "Taken back")
	p.leftIs(n)
	p.visit("/writing")
	p.until("!document.querySelector('main').textContent.includes('Goes out')")
	p.visit("/")
	p.choose("Vault climate") // it is of a machine
	p.presses("[aria-label=Combos] button", "Over to")
	p.see("[data-testid=combo-tray] button[aria-pressed]")
	p.until("document.activeElement.id === 'combo-ask-0'")
	p.write("jonas.reyland@skagvikmuseum.example,")
	p.presses("[data-testid=combo-tray] button", "to read")
	p.presses("[data-testid=combo-tray] button", "^Over to")
	p.reads("[data-testid=notice]", "Nothing was done: “Over to” is about what is “from people”, and this is not.")
	p.leftIs(n)
	p.choose("Mirela Dossett")
	p.presses("[aria-label=Combos] button", "Thank")
	p.until("location.pathname.startsWith('/writing/')")
	p.until("document.activeElement.id === 'reply' || document.activeElement.id === 'write-to' || !!document.querySelector('#reply')")

	p.setup("combos")
	p.does("Make a combo")
	p.see("#combo-name").MustInput("What then")
	p.does("make a follow-up")
	p.presses("form[aria-label=Combo] li label", "ask what, and due when")
	p.does("Save the combo")
	p.reads("section[aria-labelledby=combos]", "What then")
	p.visit("/")
	p.choose("Mirela Dossett")
	p.presses("[aria-label=Combos] button", "What then")
	p.until("document.activeElement.id === 'combo-ask-0'")
	p.write("Ring the workshop")
	p.press(input.Tab)
	p.MustReload() // also once the field was left
	p.until("document.querySelector('#combo-ask-0')?.value === 'Ring the workshop'")
	p.presses("[data-testid=combo-tray] button", "^What then")
	p.reads("[data-testid=notice]", "“What then” done.")
	p.visit("/follow-ups")
	p.until("[...document.querySelectorAll('[data-followup]')].some((f) => f.textContent.includes('Ring the workshop'))")

	p.setup("combos")
	file := filepath.Join(t.TempDir(), "combos.json")
	shared := p.MustEval("async () => (await (await fetch('/api/v1/combos/file')).json()).file").String()
	require.Contains(t, shared, `"name": "Over to"`)
	require.NoError(t, os.WriteFile(file, []byte(strings.ReplaceAll(shared, `"Over to"`, `"Away to"`)), 0o600))
	p.MustElement("[data-testid=combo-file]").MustSetFiles(file)
	p.reads("[data-testid=combos-read]", "Away to")
	p.presses("[data-testid=combos-read] button", "^Take these")
	p.until("!document.querySelector('[data-testid=combos-read]')")
	p.reads("section[aria-labelledby=combos] ul", "Away to")
}

func TestSendersAndAFreshStart(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.presses("a", "Senders")
	p.see("[data-testid=senders] [role=option]")
	name := p.text("[role=option] b")
	p.reads("[role=toolbar]", "Archive 2")
	p.press(input.Digit2).leftIs(n - 2)
	p.until("document.querySelector('[role=option] b').textContent !== %q", name)
	p.press(input.ArrowDown, input.Enter)
	p.reads("[data-testid=filtered]", "Only from ")
	p.until("document.querySelectorAll('[role=option]').length === 2")
	p.does("Show all")
	p.command("Fresh start")
	p.see("#fresh-date")
	p.does("a week ago")
	p.reads("[data-testid=fresh-tray]", "from before")
	old := p.MustEval(`() => Number(document.querySelector('[data-testid=fresh-tray] button[type=submit]').textContent.replace('Archive ', ''))`).Int()
	p.MustElement("#fresh-date").MustEval(`() => { this.value = '2026-11-24'; this.dispatchEvent(new Event('change', {bubbles: true})); }`)
	p.MustEval(`() => { const e = document.getElementById('fresh-date'); Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(e, '2026-11-23'); e.dispatchEvent(new Event('input', {bubbles: true})) }`)
	p.until("Number(document.querySelector('[data-testid=fresh-tray] button[type=submit]').textContent.replace('Archive ', '')) > %d", old)
	p.click("[data-testid=fresh-tray] button[type=submit]")
	p.reads("[data-testid=notice]", "A fresh start: archived")
	p.until("Number(document.querySelector('[data-testid=left]').textContent) < %d", n-2)
	p.with(input.KeyZ, input.ControlLeft).leftIs(n - 2)
}

func TestTheForecastSaysHowGoodItIs(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.click("[data-testid=forecast]")
	p.reads("[data-testid=misses]", "Such forecasts were off by")
}
