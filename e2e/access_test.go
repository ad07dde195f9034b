package e2e

import (
	"encoding/json"
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// chord is a key, with Shift or without.
type chord struct {
	key   input.Key
	shift bool
}

func (p *page) chord(c chord) {
	p.t.Helper()
	if c.shift {
		p.with(c.key, input.ShiftLeft)
	} else {
		p.press(c.key)
	}
}

// tab goes on with Tab until the focus is on what has that name.
func (p *page) tab(name string) *page {
	p.t.Helper()
	for range 90 {
		if p.MustEval(`n => { const e = document.activeElement; return (e.getAttribute('aria-label') ?? e.textContent).trim().startsWith(n) && e !== document.body && e.tagName !== 'MAIN' }`, name).Bool() {
			return p
		}
		p.press(input.Tab)
	}
	p.t.Fatalf("Tab does not lead to %s", name)
	return p
}

// stops are the trays of a screen: the keys that open them, and what shows that they are there.
type stops []struct {
	chord
	shows string
}

// walk goes by keyboard alone to each screen, opens each tray of it and leaves it again; at is called at each stop.
// The focus is where it was after each tray.
func (p *page) walk(at func(name string)) {
	p.t.Helper()
	const plain, shift = false, true
	trays := func(all stops) {
		p.t.Helper()
		for _, s := range all {
			p.MustEval(`() => { window.before = document.activeElement; return 0 }`)
			p.chord(s.chord)
			p.see(s.shows)
			p.until("document.activeElement.closest('[data-tray]')")
			at(s.shows)
			p.press(input.Escape)
			p.until("!document.querySelector('[data-tray]') && document.activeElement === window.before")
		}
	}
	screen := func(key input.Key, shift bool, path, heading, shows string) {
		p.t.Helper()
		p.chord(chord{key, shift})
		p.until("location.pathname === %q && [...document.querySelectorAll('main h1')].some(h => h.textContent.startsWith(%q))", path, heading)
		p.see(shows)
		p.until("document.activeElement !== document.body") // the focus is at its beginning
		at(path)
	}
	at("/")
	trays(stops{
		{chord{input.Digit3, plain}, "#reply"},
		{chord{input.F3, plain}, "[data-testid=reply-tray]"},
		{chord{input.Digit4, plain}, "#write-expect"},
		{chord{input.Digit5, plain}, "[data-testid=snooze-tray] [data-cell]"},
		{chord{input.Digit6, plain}, "[data-testid=followup-tray]"},
		{chord{input.Digit7, plain}, "[data-testid=event-tray] #event-start"},
		{chord{input.Semicolon, plain}, "[data-testid=flag-tray]"},
		{chord{input.Equal, plain}, "#label-list li"},
		{chord{input.KeyA, shift}, "[data-testid=wait-tray]"},
		{chord{input.Minus, plain}, "[data-testid=arrange-tray]"},
		{chord{input.Digit8, plain}, "[data-testid=sit-tray]"},
		{chord{input.NumpadAdd, plain}, "#writedown-line"},
		{chord{input.F7, shift}, "[data-testid=hold-tray]"},
		{chord{input.KeyD, shift}, "[data-testid=look-tray]"},
	})
	written := func(key, code string, vk int, shows string) { // as a keyboard writes it with Shift
		p.t.Helper()
		p.typed(key, code, vk, 8)
		p.see(shows)
		p.until("document.activeElement.closest('[data-tray]')")
		at(shows)
		p.press(input.Escape)
		p.until("!document.querySelector('[data-tray]')")
	}
	written("#", "Digit3", '3', "[data-testid=note-tray]")
	written("$", "Digit4", '4', "[data-testid=rename-tray]")
	written("%", "Digit5", '5', "[data-testid=fresh-tray]")
	written("^", "Digit6", '6', "[data-testid=list-tray]")
	p.with(input.KeyD, input.ShiftLeft).see("[data-testid=look-tray]")
	p.tab("Let all in…").press(input.Enter).see("[data-testid=all-tray]")
	at("letting all in")
	p.press(input.Escape)
	p.until("!document.querySelector('[data-tray]')")
	p.with(input.ArrowDown, input.ShiftLeft).see("[data-testid=choosing]")
	at("choosing")
	p.press(input.Escape)
	p.with(input.KeyK, input.ControlLeft).see("#palette")
	at("palette")
	p.press(input.Escape)
	p.choose("Small Museums Weekly")
	for _, tray := range [][2]string{{"Put it into another stream", "[data-testid=stream-tray] [role=radio]"}, {"Block its sender", "[data-testid=block-tray] [role=radio]"}, {"Never again: a domain", "[data-testid=never-tray] [role=radio]"}} {
		p.command(tray[0])
		p.see(tray[1])
		at(tray[0])
		p.press(input.Escape)
		p.until("!document.querySelector('[data-tray]')")
	}
	trays(stops{{chord{input.F3, shift}, "[data-tray]"}})
	p.press(input.Enter)
	p.until("location.pathname.startsWith('/c/') && !document.querySelector('[data-testid=queue]')")
	p.see("article")
	at("a conversation on its own")
	p.press(input.Escape)
	p.until("document.querySelector('[data-testid=queue]')")

	screen(input.KeyF, plain, "/follow-ups", "Follow-ups", "[data-followup]")
	p.press(input.ArrowDown)
	trays(stops{
		{chord{input.Digit4, plain}, "[data-testid=handover-tray]"},
		{chord{input.Digit5, plain}, "[data-testid=putoff-tray]"},
		{chord{input.Digit6, plain}, "[data-testid=change-tray]"},
		{chord{input.Minus, plain}, "[data-testid=filter-tray]"},
	})
	p.with(input.PageDown, input.ShiftLeft).see("[data-lane]")
	at("the board")
	for _, by := range []string{"project", "person", "priority", "label", "date"} {
		p.with(input.PageDown, input.ShiftLeft)
		p.until("location.search.includes('by=%s') && document.querySelector('[role=tab][aria-selected=true]').textContent.endsWith(%q)", by, by)
	}
	p.press(input.ArrowDown, input.Enter).see("[data-testid=panel]")
	at("a follow-up beside its mail")
	trays(stops{
		{chord{input.Digit3, plain}, "[data-testid=reply-tray]"},
		{chord{input.Digit4, plain}, "[data-testid=handover-tray]"},
		{chord{input.Digit5, plain}, "[data-testid=putoff-tray]"},
	})
	p.press(input.KeyF).see("[data-followup]")
	p.press(input.Digit8)
	p.until("location.pathname === '/one-by-one'")
	p.see("[data-testid=panel]")
	at("one by one")
	screen(input.F8, shift, "/close-day", "Close the day", "[data-free]")
	trays(stops{{chord{input.Digit5, plain}, "[data-testid=putoff-tray]"}})
	screen(input.KeyF, shift, "/log", "Finished", "section [data-followup]")
	screen(input.KeyA, plain, "/waiting", "Waiting", "[data-followup]")
	trays(stops{
		{chord{input.Digit4, plain}, "[data-testid=handover-tray]"},
		{chord{input.Digit5, plain}, "[data-testid=putoff-tray]"},
	})
	screen(input.KeyC, plain, "/calendar", "Week", "[data-event]")
	trays(stops{{chord{input.Digit7, plain}, "[data-tray] #event-start"}})
	p.press(input.ArrowDown)
	trays(stops{{chord{input.Digit6, plain}, "[data-tray] #event-start"}})
	screen(input.KeyL, plain, "/later", "Later", "[role=option]")
	trays(stops{{chord{input.Digit5, plain}, "[data-testid=snooze-tray] [data-cell]"}})
	screen(input.KeyW, plain, "/senders", "Senders", "[data-testid=senders] [role=option]")
	trays(stops{{chord{input.Digit5, plain}, "[data-testid=snooze-tray]"}})
	written("%", "Digit5", '5', "[data-testid=fresh-tray]")
	screen(input.KeyH, plain, "/history", "History", "ol li")
	p.typed("?", "Slash", 191, 8)
	p.see("[data-command]")
	at("/keys")
	screen(input.KeyM, plain, "/accounts", "Accounts", "[data-testid=account]")
	p.tab("Change").press(input.Enter).see("#secret")
	at("an account")
	p.press(input.Escape)
	p.until("!document.querySelector('#secret')")
	screen(input.KeyO, plain, "/writing", "Writing", "h1")
	p.press(input.KeyN).see("#write-to")
	p.tab("Later…").press(input.Enter).see("[data-testid=later-row] [data-cell]")
	p.tab("Template…").press(input.Enter).see("#template")
	at("writing")
	p.press(input.Escape)
	p.until("!document.querySelector('#template')")
	p.press(input.Escape)
	p.until("!document.querySelector('#reply')")
	screen(input.Comma, plain, "/setup", "Setup", "#zone")
	for _, part := range []string{"mail", "look", "snoozing", "follow-ups", "labels", "places", "combos", "learned", "junk", "calendar", "inward", "signing-in", "teams", "people", "notices"} {
		p.press(input.ArrowDown)
		p.until("document.querySelector(%q)", `a[href="/setup/`+part+`"][aria-current=page]`)
		switch part {
		case "learned":
			p.see("[data-testid=learned] table")
			at("setup: learned")
		case "mail", "follow-ups", "labels", "junk", "calendar", "teams":
			at("setup: " + part)
		}
	}
	palette := func(command, shows string) {
		p.with(input.KeyK, input.ControlLeft).see("#palette")
		p.write(command)
		p.press(input.Enter).see(shows)
	}
	palette("go to the rules", "[data-testid=rules]")
	at("/rules")
	p.tab("New rule").press(input.Enter).see("#rule-words")
	p.write("newsletters: archive")
	p.see("[data-testid=proof] li")
	at("a rule")
	p.press(input.Tab) // out of the field
	palette("go to the numbers", "[data-testid=importance-table] tbody td")
	at("/numbers")
	palette("go to the subscriptions", "[data-testid=subscriptions] tr")
	at("/subscriptions")
	palette("look through junk", "[data-testid=why-junk]")
	p.until("[...document.querySelectorAll('[data-slip]')].every((s) => s.textContent)")
	at("/junk")
	palette("parcels, bills and journeys", "[data-fact]")
	p.until("[...document.querySelectorAll('[data-slip]')].every((s) => s.textContent)")
	at("/facts")
	p.with(input.KeyK, input.ControlLeft).see("#palette")
	p.write("halv lind")
	p.reads("#palette-list [aria-selected=true]", "Halvard Lindqvist")
	p.press(input.Enter).see("[data-testid=person] [role=row]")
	at("/person")
	p.with(input.Home, input.ShiftLeft)
	p.until("location.pathname === '/day' && document.querySelector('[data-testid=day-left]')")
	at("/day")
	screen(input.KeyD, plain, "/delivery", "Delivery", "[data-testid=coming]")
	p.tab("+ another plan").press(input.Enter).see("[aria-label='Plans to start from']")
	at("plans to start from")
	p.tab("An empty week").press(input.Enter).see("[aria-label='Unsaved changes']")
	p.MustEval(`() => document.getElementById('line').focus()`)
	p.write("mon 20, writing 9–10")
	p.press(input.Enter).see("[data-day='1'] [aria-label^='writing']")
	at("drawing a plan")
	p.press(input.Tab) // out of the field: keys do not fire while one types
	screen(input.Digit0, plain, "/find", "Found", "[role=option]")
	p.ask("crate from mirela since spring")
	p.see("[data-excerpt]")
	at("find: what was found")
	p.ask("tidel")
	p.see("[data-testid=nothing]")
	at("find: nothing found")
	p.ask("height lid feet from tomasz")
	p.press(input.Enter)
	p.see("[data-testid=file-chip]")
	p.with(input.Enter, input.ControlLeft)
	p.reads("[data-testid=where-in-file]", "page 1 of 3")
	at("a file beside its message")
	p.press(input.Escape)
	p.until("!document.querySelector('[data-testid=file]')")
	p.command("All files of this conversation")
	p.reads("main h1", "Files of")
	p.see("[data-testid=file]")
	at("/files")
	p.press(input.Escape)
	p.see("#find")
	p.ask("tidel")
	p.press(input.Enter)
	p.press(input.Escape)
	p.press(input.Tab, input.Tab, input.KeyI)
	p.until("location.pathname === '/' && document.querySelector('[data-grouped]')")
	p.press(input.Digit8).see("[data-testid=sit-tray]")
	p.press(input.Enter).see("[data-testid=sitting]")
	at("sitting")
	p.press(input.F8).see("[data-testid=sum]")
	at("sum")
	p.press(input.Enter).see("[data-testid=queue]")
}

// made goes to what is there once something was made or chosen; at is called at each stop.
func (p *page) made(at func(name string)) {
	p.t.Helper()
	p.setup("combos")
	p.does("Make a combo")
	p.see("#combo-name").MustInput("Over to")
	p.does("hand over")
	p.presses("form[aria-label=Combo] li label", "ask to whom")
	p.does("label")
	p.presses("form[aria-label=Combo] li label", "ask which label")
	at("a combo")
	p.does("Save the combo")
	p.until("!document.querySelector('#combo-name')")
	p.visit("/setup")
	p.presses("a", "^\\s*Subscriptions")
	p.see("[data-testid=subscriptions]")
	p.click("[data-list='letter.smallmuseums.example'] [role=checkbox]")
	p.does("Once a week, together…")
	p.see("#rounds-at")
	at("once a week, together")
	p.does("Have it come so")
	p.reads("[data-testid=notice]", "as one slip")
	p.visit("/delivery")
	p.presses("[role=radio]", "^Small Museums Weekly")
	p.presses("[data-testid=own-stream] button", "^Change")
	p.see("#rounds-at")
	at("a stream with rounds of its own")
	p.does("Cancel")
	p.press(input.KeyM).see("[data-testid=account]")
	p.MustElements("[data-testid=account]")[0].MustElementR("button", "Change").MustClick()
	p.click("#keeps-folders")
	p.see("[data-testid=kept-folders]")
	at("folders of Ebbe")
	p.does("Cancel")
	p.visit("/")
	p.see("[data-slip]")
	p.digest("-1")
	if p.MustEval("() => innerWidth > 700").Bool() {
		p.see("[data-testid=digest]")
		p.press(input.Home)
		p.presses("[aria-label=Combos] button", "Over to")
		p.see("[data-testid=combo-tray] button[aria-pressed]")
		at("what a combo asks")
		p.press(input.Escape)
		p.until("!document.querySelector('[data-testid=combo-tray]')")
		p.digest("-1")
	} else {
		p.click("[data-slip=\"-1\"]")
	}
	p.see("[data-testid=digest] [data-line] b")
	at("a digest")
}

// axe finds nothing on any screen and any tray, in light and dark, wide and narrow, and each target is large enough.
func TestAccess(t *testing.T) {
	t.Parallel()
	source, err := os.ReadFile("../ui/node_modules/axe-core/axe.min.js")
	require.NoError(t, err)
	check := func(p *page, name, rules string) {
		p.t.Helper()
		p.MustEval("() => Promise.allSettled(document.getAnimations().map(a => a.finished)).then(() => 0)")
		if !p.MustEval("() => 'axe' in window").Bool() {
			p.MustEval("() => { " + string(source) + "; window.axe = window.axe ?? axe }")
		}
		found := p.MustEval(`() => {
		// Pieces of a time scale lie over one another; and what is half scrolled out of view is whole once it is scrolled to.
		const meant = n => {
			const e = document.querySelector(n.target[0]), b = e.getBoundingClientRect()
			if (e.matches('[data-piece]')) return true
			for (let p = e.parentElement; p; p = p.parentElement) {
				const c = p.getBoundingClientRect()
				if (getComputedStyle(p).overflow !== 'visible' && (b.bottom > c.bottom || b.top < c.top || b.right > c.right || b.left < c.left)) return true
			}
			return b.bottom > innerHeight
		}
		return axe.run(document, {iframes: false, preload: false, resultTypes: ['violations']` + rules + `}).then(r => r.violations.map(v => ({...v, nodes: v.nodes.filter(n => v.id !== 'target-size' || !meant(n))})).filter(v => v.nodes.length).map(v => v.id + ': ' + v.nodes.slice(0, 3).map(n => n.html.slice(0, 160) + ' ' + (n.any[0]?.message ?? '')).join(' | ')).join('\n'))
		}`).Str()
		assert.Empty(p.t, found, name)
	}
	for _, width := range []int{1280, 390} {
		t.Run(fmt.Sprint(width), func(t *testing.T) {
			t.Parallel()
			p := open(t, demo(t).url, width, 800)
			p.button("Open the museum’s inbox")
			check(p, "sign-in", "")
			p.enter()
			p.see("h1")
			each := func(name string) {
				t.Helper()
				check(p, name, ", rules: {'target-size': {enabled: true}}")
				if width == 390 {
					assert.True(t, p.MustEval(`() => [document.documentElement, ...document.querySelectorAll('[data-tray]')].every(e => e.scrollWidth <= e.clientWidth)`).Bool(), name)
					return // its colours are those of the wide one
				}
				p.MustEval(`() => document.documentElement.classList.add('dark')`)
				check(p, name+" dark", ", runOnly: ['color-contrast']")
				p.MustEval(`() => document.documentElement.classList.remove('dark')`)
			}
			p.walk(each)
			p.made(each)
		})
	}
}

// usable says which lists and fields cannot be brought into view at this size.
const usable = `() => {
	const out = []
	if (document.documentElement.scrollWidth > innerWidth) out.push('the page is ' + document.documentElement.scrollWidth + ' wide')
	const seen = e => {
		let {left, top, right, bottom} = e.getBoundingClientRect()
		for (let p = e.parentElement; p && p !== document.body; p = p.parentElement) {
			if (getComputedStyle(p).overflow === 'visible') continue
			const c = p.getBoundingClientRect()
			left = Math.max(left, c.left); top = Math.max(top, c.top); right = Math.min(right, c.right); bottom = Math.min(bottom, c.bottom)
		}
		return {width: Math.min(right, innerWidth) - Math.max(left, 0), height: Math.min(bottom, innerHeight) - Math.max(top, 0)}
	}
	const tray = document.querySelector('[data-tray]')
	for (const e of document.querySelectorAll('main :is([role=listbox], [role=grid], ol, ul, [data-tray] input, [data-tray] textarea, h1)')) {
		const b = e.getBoundingClientRect(), s = getComputedStyle(e)
		if (b.height < 2 || b.width < 2 || s.visibility === 'hidden' || e.closest('.sr-only, [aria-hidden=true]') || tray && !tray.contains(e)) continue
		e.scrollIntoView({block: 'nearest'})
		const now = seen(e), want = Math.min(e.getBoundingClientRect().height, 40)
		if (now.height < want - 1 || now.width < Math.min(b.width, 40) - 1) out.push(e.tagName + ' ' + (e.getAttribute('aria-label') ?? e.id ?? '') + ' ' + e.className.slice(0, 50) + ': ' + Math.round(now.width) + ' × ' + Math.round(now.height) + ' of ' + Math.round(b.width) + ' × ' + Math.round(b.height))
	}
	return out.join('\n')
}`

// At 200 and 400 % of a screen of 1280 × 800 and × 1024 everything can still be reached.
func TestZoomed(t *testing.T) {
	t.Parallel()
	for _, size := range [][2]int{{640, 400}, {320, 256}} {
		t.Run(fmt.Sprint(size[0]), func(t *testing.T) {
			t.Parallel()
			p := open(t, demo(t).url, size[0], size[1]).enter()
			var bad []string
			p.walk(func(name string) {
				if found := p.MustEval(usable).Str(); found != "" {
					bad = append(bad, name+": "+found)
				}
			})
			require.Empty(t, bad, strings.Join(bad, "\n"))
		})
	}
}

// Where the system has its own colours, what is current, chosen and unread is still told apart; and nothing moves for
// those who ask for that.
func TestForcedColoursAndNoMotion(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	media := func(name, value string) {
		require.NoError(t, proto.EmulationSetEmulatedMedia{Features: []*proto.EmulationMediaFeature{{Name: name, Value: value}}}.Call(p))
	}
	media("forced-colors", "active")
	p.until("matchMedia('(forced-colors: active)').matches")
	p.press(input.ArrowDown)
	p.with(input.ArrowDown, input.ShiftLeft).see("[data-testid=choosing]")
	looks := func(selector string) map[string]string {
		t.Helper()
		var m map[string]string
		require.NoError(t, json.Unmarshal([]byte(p.MustEval(`s => {
			const e = document.querySelector(s), inner = e.querySelector(':scope > div') ?? e
			const of = (x, pseudo) => { const c = getComputedStyle(x, pseudo); return {outline: c.outlineStyle + ' ' + c.outlineWidth, ground: c.backgroundColor, border: c.borderStyle} }
			return JSON.stringify({outer: JSON.stringify(of(e)), inner: JSON.stringify(of(inner)), mark: JSON.stringify(of(inner, '::before'))})
		}`, selector).Str()), &m))
		return m
	}
	p.with(input.ArrowUp, input.ShiftLeft)
	p.press(input.Escape)
	p.until("!document.querySelector('[data-testid=choosing]')")
	require.NotEqual(t, looks("[role=option][aria-current=true]"), looks("[role=option]:not([aria-current=true])"), "what is current")
	p.with(input.Enter, input.ShiftLeft).see("[data-testid=choosing]")
	p.press(input.ArrowDown)
	p.until("document.querySelector('[role=option][aria-selected=true]:not([aria-current=true])')")
	require.NotEqual(t, looks("[role=option][aria-selected=true]:not([aria-current=true])"), looks("[role=option]:not([aria-current=true]):not([aria-selected=true])"), "what is chosen")
	require.NotEqual(t, looks("[role=option][aria-selected=true]:not([aria-current=true])"), looks("[role=option][aria-current=true]"), "what is chosen is not what is current")
	require.NotEqual(t, looks("[role=option]:has(.slip-unread):not([aria-current=true]):not([aria-selected=true])")["mark"], `{"outline":"none 0px","ground":"rgba(0, 0, 0, 0)","border":"none"}`, "what is unread")
	p.press(input.Escape, input.KeyF).see("[data-followup]")
	p.press(input.ArrowDown)
	p.until("document.querySelector('[role=row][aria-selected=true]')")
	require.NotEqual(t, looks("[role=row][aria-selected=true]"), looks("[role=row]:not([aria-selected=true])"))
	p.press(input.Digit6).see("[data-testid=change-tray]")
	require.NotEqual(t, looks("[role=radiogroup] [aria-checked=true]"), looks("[role=radiogroup] [aria-checked=false]"))

	media("prefers-reduced-motion", "reduce")
	p.press(input.Escape)
	p.until("!document.querySelector('[data-tray]')")
	p.MustEval(`() => { window.moved = 0; const look = () => { window.moved += document.getAnimations().length; requestAnimationFrame(look) }; look() }`)
	p.press(input.KeyI).see("[data-slip]")
	n := p.left()
	p.press(input.Digit2).leftIs(n - 1)
	p.reads("[data-testid=notice]", "Archived.")
	p.press(input.Digit5).see("[data-testid=snooze-tray] [data-cell]")
	require.Zero(t, p.MustEval(`() => window.moved`).Int())
}

// typed sends a key as a keyboard of another layout does.
func (p *page) typed(key, code string, vk, modifiers int) {
	p.t.Helper()
	text := key
	if len([]rune(key)) > 1 {
		text = ""
	}
	require.NoError(p.t, proto.InputDispatchKeyEvent{Type: proto.InputDispatchKeyEventTypeKeyDown, Key: key, Code: code, Text: text, WindowsVirtualKeyCode: vk, Modifiers: modifiers}.Call(p))
	require.NoError(p.t, proto.InputDispatchKeyEvent{Type: proto.InputDispatchKeyEventTypeKeyUp, Key: key, Code: code, WindowsVirtualKeyCode: vk, Modifiers: modifiers}.Call(p))
}

// Keys are meant as they are written, where they write a letter or a digit of the map, and else by their place.
func TestKeyboardsOfOthers(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	const alt, ctrl = 1, 2
	n := p.left()
	p.typed("é", "Digit2", '2', 0) // French: the row of digits writes other things
	p.leftIs(n - 1)
	p.typed("&", "Digit1", '1', 0)
	p.leftIs(n - 2)
	p.typed("я", "KeyZ", 'Z', ctrl) // Cyrillic
	p.leftIs(n - 1)
	p.typed("z", "KeyW", 'Z', ctrl) // French: Z lies where W is elsewhere
	p.leftIs(n)
	p.typed("@", "Digit2", '2', alt|ctrl) // AltGr writes
	p.typed("²", "Digit2", '2', alt|ctrl)
	p.typed("€", "KeyE", 'E', alt|ctrl)
	p.leftIs(n)
	for _, k := range []struct{ key, code, path string }{{"в", "KeyD", "/delivery"}, {"φ", "KeyF", "/follow-ups"}, {"λ", "KeyL", "/later"}, {"i", "KeyI", "/"}} {
		p.typed(k.key, k.code, 0, 0)
		p.until("location.pathname === %q", k.path)
	}
	p.see("[data-slip]")
	p.leftIs(n)
}

// A word that is being composed writes, and does nothing else; Enter that ends it takes nothing.
func TestComposing(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	compose := func(text string) {
		p.typed("Process", "KeyA", 229, 0)
		require.NoError(t, proto.InputImeSetComposition{Text: text, SelectionStart: len([]rune(text)), SelectionEnd: len([]rune(text))}.Call(p))
	}
	p.with(input.KeyK, input.ControlLeft).see("#palette")
	compose("arch")
	p.reads("#palette-list", "Archive")
	p.typed("Process", "Enter", 229, 0) // of the composing, not of the palette
	p.typed("Process", "Escape", 229, 0)
	p.see("#palette")
	require.Equal(t, n, p.left())
	p.write("arch") // it is ended
	p.press(input.Enter).leftIs(n - 1)
	for _, tray := range []struct {
		key   input.Key
		field string
		words string
	}{{input.Digit5, "snooze-phrase", "明日"}, {input.Digit6, "followup-line", "電話"}, {input.Equal, "label-name", "潮"}} {
		p.press(tray.key)
		p.until("document.activeElement.closest('[data-tray]') && document.activeElement.tagName === 'INPUT'")
		compose(tray.words)
		p.typed("Process", "Enter", 229, 0)
		p.typed("Process", "Digit2", 229, 0)
		p.see("[data-tray]")
		require.Equal(t, tray.words, p.MustEval(`() => document.activeElement.value`).Str())
		require.Equal(t, n-1, p.left())
		require.NoError(t, proto.InputImeSetComposition{}.Call(p))
		p.press(input.Escape)
		p.until("!document.querySelector('[data-tray]')")
	}
}

// Keys belong to what has the focus: arrows and digits to a tray, Enter to a link in a message.
func TestKeysBelongToWhatHasTheFocus(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.choose("Small Museums Weekly")
	p.until("document.querySelector('[data-testid=frame]').contentDocument.querySelector('a[href]')")
	p.MustEval(`() => {
		window.followed = 0
		const a = document.querySelector('[data-testid=frame]').contentDocument.querySelector('a[href]')
		a.addEventListener('click', e => { e.preventDefault(); window.followed++ })
		document.querySelector('[data-testid=frame]').focus()
		a.focus()
	}`)
	p.press(input.Enter)
	p.until("window.followed === 1")
	require.Equal(t, "/", p.MustEval(`() => location.pathname`).Str(), "the conversation is not opened by it")
	p.press(input.Digit0).see("#find") // and other keys still are Ebbe's
	p.MustEval(`() => document.activeElement.blur()`)
	p.press(input.KeyI)
	p.until(`location.pathname === "/" && document.querySelector("[data-grouped]") && document.querySelector("[aria-posinset='2']")`)

	// Enter after an arrow opens what the arrow led to.
	p.press(input.Home, input.ArrowDown)
	p.until("document.querySelector('[aria-posinset=\"2\"]').matches('[aria-current=true]')")
	second := p.MustEval(`() => document.querySelector('[data-slip][aria-current=true]').dataset.slip`).Str() // its place is another once something comes in above it
	p.press(input.Enter)
	p.until("location.pathname === '/c/%s' && !document.querySelector('[data-testid=queue]')", second)
	p.press(input.Escape).see("[data-slip]")

	p.see("article")
	p.press(input.Digit3).see("#reply")
	for range 40 {
		if p.press(input.Tab).MustEval(`() => document.activeElement.type === 'checkbox' || document.activeElement.getAttribute('role') === 'checkbox'`).Bool() {
			break
		}
	}
	p.press(input.Digit2, input.Digit1, input.ArrowDown, input.ArrowUp)
	p.see("#reply")
	require.Equal(t, n, p.left(), "digits on a checkbox decide nothing")
	p.press(input.Escape)
	p.until("!document.querySelector('#reply')")
	at := p.MustEval(`() => document.querySelector('[role=option][aria-current=true]').dataset.slip`).Str()
	p.press(input.Semicolon).see("[data-testid=flag-tray]")
	p.press(input.ArrowDown, input.ArrowRight, input.ArrowUp)
	p.see("[data-testid=flag-tray]")
	require.Equal(t, at, p.MustEval(`() => document.querySelector('[role=option][aria-current=true]').dataset.slip`).Str())
}
