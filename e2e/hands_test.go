package e2e

import (
	"fmt"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"
)

// finger is a finger on the screen.
type finger struct {
	p    *page
	x, y float64
}

func (f *finger) send(kind proto.InputDispatchTouchEventType, points ...*proto.InputTouchPoint) {
	f.p.t.Helper()
	require.NoError(f.p.t, proto.InputDispatchTouchEvent{Type: kind, TouchPoints: append([]*proto.InputTouchPoint{}, points...)}.Call(f.p))
}

// finger puts a finger on the first such element, at a share of its width.
func (p *page) finger(selector string, share float64) *finger {
	p.t.Helper()
	box := p.place(selector)
	f := &finger{p: p, x: box.X + box.Width*share, y: box.Y + box.Height/2}
	f.send(proto.InputDispatchTouchEventTypeTouchStart, &proto.InputTouchPoint{X: f.x, Y: f.y})
	return f
}

// to moves the finger there in steps.
func (f *finger) to(x, y float64) *finger {
	f.p.t.Helper()
	for i := 1.0; i <= 10; i++ {
		f.send(proto.InputDispatchTouchEventTypeTouchMove, &proto.InputTouchPoint{X: f.x + (x-f.x)*i/10, Y: f.y + (y-f.y)*i/10})
	}
	f.x, f.y = x, y
	return f
}

func (f *finger) by(dx, dy float64) *finger { f.p.t.Helper(); return f.to(f.x+dx, f.y+dy) }
func (f *finger) up()                       { f.p.t.Helper(); f.send(proto.InputDispatchTouchEventTypeTouchEnd) }

// With the finger at 390 px: swipes of two lengths, choosing by a long press, a sitting.
func TestTouch(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 390, 780).enter()
	n := p.left()
	swipe := func(dx float64) { t.Helper(); p.finger("[role=option]", .5).by(dx, 0).up() }
	swipe(120)
	p.leftIs(n - 1)
	p.reads("[data-testid=notice]", "Archived.")
	swipe(40) // too short to mean it
	p.leftIs(n - 1)
	swipe(-120)
	p.see("[data-testid=snooze-tray]")
	p.click("[data-preset=tomorrow]")
	p.leftIs(n - 2)
	far := p.finger("[role=option]", .2).by(120, 0)
	p.reads("[data-swipe]", "Archive") // what letting go would do is said
	far.by(100, 0)
	p.reads("[data-swipe]", "Bin")
	far.up()
	p.leftIs(n - 3)
	p.reads("[data-testid=notice]", "Binned.")
	p.finger("[role=option]", .8).by(-220, 0).up()
	p.see("[data-testid=followup-tray]")
	p.press(input.Escape)
	p.until("!document.querySelector('[data-testid=followup-tray]')")

	// A long press chooses, and after that a touch does; nothing is opened by it.
	held := p.finger("[role=option]", .4)
	p.reads("[data-testid=chosen]", "1 chosen")
	held.up()
	p.finger("[role=option][aria-posinset='3']", .4).up()
	p.reads("[data-testid=chosen]", "2 chosen")
	p.finger("[role=option]", .4).up()
	p.reads("[data-testid=chosen]", "1 chosen")
	p.finger("[role=option][aria-posinset='3']", .4).up()
	p.until("!document.querySelector('[data-testid=chosen]')")
	p.until("!document.querySelector('.inbox-grid.opened')")

	p.click("[aria-label^='Choose all']")
	p.see("[data-testid=chosen]")
	many := p.MustEval(`() => Number(document.querySelector('[data-testid=chosen]').textContent.split(' ')[0])`).Int()
	p.does("Archive")
	p.leftIs(n - 3 - many)
	p.does("Sit")
	p.does("Begin with")
	p.see("[data-testid=sitting]")
	p.does("Leave")
	p.reads("[data-testid=notice]", "Left undecided")
	p.does("End")
	p.see("[data-testid=sum]")
	require.True(t, p.MustEval(`() => document.documentElement.scrollWidth <= 390`).Bool(), "nothing sticks out")

	// What each swipe does is the user's choice.
	p.visit("/setup")
	p.presses("nav a", "^Snoozing")
	p.option("#swipe-right-far", "Star")
	p.reads("[data-testid=notice]", "Swipe far to the right: star.")
	p.visit("/")
	p.finger("[role=option]", .2).by(220, 0).up()
	p.see("[role=option] [aria-label=starred]")
	p.leftIs(n - 3 - many)
}

// Follow-ups are carried to a stage and to a day, and a plan is drawn and changed, by a long press.
func TestALongPressCarries(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 390, 780).enter()
	p.visit("/follow-ups")
	p.does("By stage")
	p.see("[data-lane] [data-followup]")
	f := p.finger("[data-lane] [data-followup]", .3)
	p.until("document.querySelector('[role=presentation].opacity-40')") // it is lifted
	day := p.place("[data-day='1']")
	f.to(day.X+day.Width/2, day.Y+day.Height/2).up()
	p.reads("[data-testid=notice]", "Moved to Wed 25 Nov")

	// A finger that moves at once scrolls, and carries nothing.
	p.see("[data-lane] [data-followup]")
	p.finger("[data-lane] [data-followup]", .3).by(0, -60).up()
	p.until("!document.querySelector('[role=presentation].opacity-40')")

	p.visit("/delivery")
	p.see("[data-testid=coming]")
	p.MustEval(`() => document.querySelector('[data-day="1"]').scrollIntoView({block: 'center'})`)
	rounds := "document.querySelectorAll('[data-day=\"1\"] [aria-label^=Round]').length"
	open := "document.querySelectorAll('[data-day=\"1\"] [aria-label^=\"open hours\"]').length"
	hadRounds, hadOpen := p.MustEval("() => "+rounds).Int(), p.MustEval("() => "+open).Int()
	const free = .35                                // of the line, between the rounds of 9:00 and 14:00
	p.finger("[data-day='1']", free).by(24, 0).up() // moved at once: nothing
	require.Equal(t, []int{hadRounds, hadOpen}, []int{p.MustEval("() => " + rounds).Int(), p.MustEval("() => " + open).Int()})
	f = p.finger("[data-day='1']", free)
	p.until("document.querySelector('[data-day=\"1\"]').className.includes('outline-fill')")
	f.by(24, 0).up()
	p.until(open+" === %d", hadOpen+1)
	drawn := fmt.Sprintf("[data-day='1'] [data-piece='open %d']", hadOpen)
	was := p.MustElement(drawn).MustAttribute("title")
	f = p.finger(drawn, .5)
	p.until("document.querySelector('[data-day=\"1\"]').className.includes('outline-fill')")
	f.by(-12, 0).up()
	p.until("document.querySelector(%q).title !== %q", drawn, *was)
	p.see("[aria-label='Unsaved changes']")
}

// What is shown is in the address: a reload finds it, Back leads to it, and Escape never out of Ebbe.
func TestBackLeadsToWhatWasShown(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.url, 1280, 800).enter()
	p.press(input.ArrowDown, input.ArrowDown, input.ArrowDown)
	p.until("document.querySelector('[aria-posinset=\"4\"]').matches('[aria-current=true]')")
	subject := p.text("[data-testid=subject]")
	p.press(input.Digit5).see("[data-testid=snooze-tray]")
	p.until("new URLSearchParams(location.search).get('tray') === 'snooze' && location.search.includes('at=')")
	p.MustReload()
	p.see("[data-testid=snooze-tray] [data-cell]")
	p.shows(subject)
	p.press(input.Escape)
	p.until("!location.search.includes('tray')")
	p.press(input.KeyF).see("[data-followup]")
	require.NoError(t, p.NavigateBack())
	p.shows(subject)
	require.False(t, p.MustEval(`() => !!document.querySelector('[data-testid=snooze-tray]')`).Bool())

	// Each filter is a step, and so is each week.
	p.press(input.KeyF).see("[data-followup]")
	p.does("By stage")
	p.see("[data-lane]")
	p.click("[data-day='late']")
	p.see("[data-testid=filtered]")
	p.press(input.ArrowDown, input.Digit5).see("[data-testid=putoff-tray]")
	p.until("location.search.includes('tray=put-off')")
	p.visit("/")
	p.see("[data-slip]")
	require.NoError(t, p.NavigateBack())
	p.see("[data-testid=putoff-tray]")
	p.see("[data-testid=filtered]")
	p.press(input.Escape)
	p.until("!document.querySelector('[data-testid=putoff-tray]')")
	require.NoError(t, p.NavigateBack())
	p.until("!document.querySelector('[data-testid=filtered]') && document.querySelector('[data-lane]')")
	p.visit("/calendar")
	p.reads("[data-testid=week]", "23 Nov to 29 Nov")
	p.press(input.ArrowRight).reads("[data-testid=week]", "30 Nov to 6 Dec")
	require.NoError(t, p.NavigateBack())
	p.reads("[data-testid=week]", "23 Nov to 29 Nov")

	// Come to from elsewhere, a conversation is left for the inbox, and Ebbe never.
	p.press(input.KeyI).see("[data-slip]")
	p.press(input.Enter)
	p.until("location.pathname.startsWith('/c/')")
	there := p.MustEval(`() => location.href`).Str()
	p.MustNavigate("about:blank").MustNavigate(there)
	p.shows(p.text("[data-testid=subject]"))
	p.see("article")
	p.press(input.Escape).see("[data-testid=queue]")
	require.Equal(t, s.url+"/", p.MustEval(`() => location.origin + location.pathname`).Str())
}

// covered says which controls in view lie under something else.
const covered = `() => {
	const out = []
	for (const e of document.querySelectorAll('main :is(button, a[href], input, textarea, select, [role=option], [role=row])')) {
		if (e.closest('[data-tray], [data-piece], [data-event]') || e.disabled) continue
		const b = e.getBoundingClientRect()
		if (!b.width || !b.height || getComputedStyle(e).visibility === 'hidden' || getComputedStyle(e).opacity === '0') continue
		let clip = {left: 0, top: 0, right: innerWidth, bottom: innerHeight}
		for (let p = e.parentElement; p; p = p.parentElement) {
			if (getComputedStyle(p).overflow === 'visible') continue
			const c = p.getBoundingClientRect()
			clip = {left: Math.max(clip.left, c.left), top: Math.max(clip.top, c.top), right: Math.min(clip.right, c.right), bottom: Math.min(clip.bottom, c.bottom)}
		}
		const x = b.left + b.width / 2, y = b.top + b.height / 2
		if (x < clip.left || x >= clip.right || y < clip.top || y >= clip.bottom) continue // scrolled out of view
		const on = document.elementFromPoint(x, y)
		if (!on || !(e.contains(on) || on.contains(e) || on.closest('label')?.contains(e))) out.push((e.getAttribute('aria-label') || e.textContent || e.id).slice(0, 40) + ' lies under ' + (on?.outerHTML ?? 'nothing').slice(0, 120))
	}
	return out.join('\n')
}`

// What comes up by itself takes room of its own: no control lies under it, and none under anything else.
func TestNothingLiesUnderAnother(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.url, 1280, 800).enter()
	p.choose("Jonas Reyland")
	p.followUp("Give the board two numbers / today 16:00 / remind 11:00", "reminds Tue 24 Nov, 11:00")
	p.choose("Priya Venn")
	p.followUp("Ask about the lamps / today 16:00 / remind 11:00", "reminds Tue 24 Nov, 11:00")
	p.choose("Oona Varga")
	p.followUp("Book the ferry / today 16:00 / remind 11:00", "reminds Tue 24 Nov, 11:00")
	p.does("Demo clock")
	p.does("To the next thing")
	p.see("[data-testid=card], [data-testid=cards-sum], [data-testid=event-card]")
	for _, width := range []int{1280, 390} {
		require.NoError(t, p.SetViewport(&proto.EmulationSetDeviceMetricsOverride{Width: width, Height: 800, DeviceScaleFactor: 1}))
		for _, place := range []struct{ path, shows string }{{"/", "[role=option]"}, {"/follow-ups", "[data-followup]"}, {"/waiting", "[data-followup]"}, {"/calendar", "[data-event]"}, {"/later", "[role=option]"}, {"/delivery", "[data-testid=coming]"}, {"/find", "[role=option]"}, {"/history", "ol li"}, {"/setup/week", "#zone"}, {"/setup/follow-ups", "#new-stage"}, {"/senders", "[role=option]"}, {"/accounts", "[data-testid=account]"}, {"/writing", "h1"}, {"/keys", "[data-command]"}} {
			p.MustNavigate(s.url + place.path)
			p.see(place.shows)
			p.see("[aria-label=Reminders] article")
			require.Empty(t, p.MustEval(covered).Str(), "%s at %d", place.path, width)
		}
	}
	// One stands there, the others behind a line that says how many.
	p.presses("[aria-label=Reminders] button", "more reminder")
	p.until("document.querySelectorAll('[aria-label=Reminders] article').length >= 3")
}

// Whoever does not see the screen hears of the next conversation once: from the list where it has the focus, else in words.
func TestTheNextConversationIsTold(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.until("document.activeElement.getAttribute('role') === 'listbox'")
	next := func() string {
		return p.MustEval(`() => { const o = document.querySelector('[role=option][aria-posinset="2"]'); return 'Next: ' + o.querySelector('b').lastChild.textContent + ', ' + o.querySelector('p').textContent }`).Str()
	}
	told := next()
	p.press(input.Digit2).leftIs(n - 1)
	p.until("document.querySelector('#' + document.activeElement.getAttribute('aria-activedescendant')).matches('[aria-current=true]')")
	require.Empty(t, p.text("[data-testid=next]"), "the list has told it: "+told)
	p.MustEval(`() => { window.told = []; new MutationObserver(() => window.told.push(document.querySelector('[data-testid=next]').textContent)).observe(document.querySelector('[data-testid=next]'), {childList: true, characterData: true, subtree: true}) }`)
	told = next()
	p.presses("[role=toolbar] button", "Archive")
	p.leftIs(n - 2)
	p.until("JSON.stringify(window.told) === JSON.stringify([%q])", told)
}

// On a narrow screen an opened message has all the room between frame and dock, the
// dock is one row whose words can all be read, and each place is reached from the rail.
func TestOnANarrowScreenThereIsRoom(t *testing.T) {
	t.Parallel()
	for _, width := range []int{390, 360} {
		p := open(t, demo(t).url, width, 780).enter()
		p.click("[data-slip]")
		p.see("article")
		p.until("!document.querySelector('[data-testid=queue]')?.offsetParent")
		room := p.MustEval(`() => {
			const box = s => document.querySelector(s).getBoundingClientRect()
			return [box('[aria-label=Conversation], .reading-column').top - box('header').bottom, box('[role=toolbar]').top - box('[aria-label=Conversation], .reading-column').bottom, box('[role=toolbar]').height]
		}`).Arr()
		require.InDelta(t, 0, room[0].Num(), 1)
		require.InDelta(t, 0, room[1].Num(), 1)
		require.Less(t, room[2].Num(), 60.0, "one row")
		const cut = `() => [...document.querySelectorAll('[role=toolbar] button, nav a, nav button')].flatMap(b => [b, ...b.querySelectorAll('span')]).filter(e => e.offsetParent && (e.scrollWidth > e.clientWidth + 1 || e.getBoundingClientRect().right > innerWidth)).map(e => e.textContent).join()`
		require.Empty(t, p.MustEval(cut).Str())
		p.presses("[role=toolbar] button", "Archive")
		p.see("[data-testid=notice]")
		require.Empty(t, p.MustEval(cut).Str(), "what was done is said in a line of its own")
		require.Less(t, p.MustEval(`() => document.querySelector('[data-testid=notice]').getBoundingClientRect().height`).Num(), 25.0)
		p.presses("[role=toolbar] button", "More$")
		p.see("#palette")
		p.press(input.Escape)
		p.until("!document.querySelector('#palette')")
		for _, path := range []string{"/follow-ups", "/waiting", "/writing", "/later", "/calendar", "/delivery", "/find", "/history", "/setup", "/"} {
			p.visit(path)
		}
	}
}

// Close lines show more of the queue, each with the beginning of its text, and stay so for this browser.
func TestCloseLines(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.see("article")
	n := p.left()
	inView := `() => { const q = document.querySelector('[data-testid=queue]').getBoundingClientRect(); return [...document.querySelectorAll('[data-slip]')].filter(s => { const b = s.getBoundingClientRect(); return b.top >= q.top && b.bottom <= q.bottom }).length }`
	roomy := p.MustEval(inView).Int()
	p.reads("[data-slip]", "the permit for the lorry") // where there is room
	p.letters(":")
	p.until("document.querySelector('.inbox-grid.close') && !document.querySelector('article')")
	p.until("[...document.querySelectorAll('button')].some(b => b.textContent === 'not so')") // why the first is important stands above them
	p.until("(%s)() >= 12", inView)                                                           // above what is to be looked through in junk, and the lists
	require.GreaterOrEqual(t, p.MustEval(inView).Int(), 2*roomy)
	p.reads("[data-slip]", "the permit for the lorry has to be signed and returned by 15:00")
	p.press(input.ArrowDown, input.Digit2).leftIs(n - 1)
	p.press(input.Enter).see("article")
	p.until("location.pathname.startsWith('/c/')")
	p.press(input.Escape)
	p.until("document.querySelector('.inbox-grid.close')")
	p.MustReload()
	p.until("document.querySelector('.inbox-grid.close') && !document.querySelector('article')")
	p.click("[aria-label^='Roomy lines']")
	p.see("article")
}

// What can be written where a time is asked for stands below the keys, with what it means now.
func TestTimesInWordsAreTold(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.letters("?")
	p.until("location.pathname === '/keys'")
	p.until("[...document.querySelectorAll('[data-testid=times] dt')].some(e => e.textContent === 'next fri' && e.nextSibling.textContent === 'Fri 4 Dec, 8:00')")
}
