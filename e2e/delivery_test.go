package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"
)

// nowIs waits until the dayline shows that time.
func (p *page) nowIs(clock string) {
	p.t.Helper()
	p.until("[...document.querySelectorAll('header svg[role=group] text')].some(e => e.textContent === '%s')", clock)
}

// A day with rounds, by keyboard and the dial: what is held is out of sight,
// one thing is looked for and let in, a let-through message arrives between
// rounds, a stranger hears once, and the round of two brings the rest.
func TestADayWithRounds(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.reads("[data-testid=gate]", "Held. Next round 14:00")
	p.reads("[data-testid=queue]", "Arrived in the 9:00 round")
	p.click(`nav a[href="/find"]`)
	p.see("#find")
	p.write("crane times")
	p.until("document.querySelector('main').textContent.includes('Nothing was found')")

	// Look for one thing: only that comes in, and it can be taken back.
	p.MustElement("#find").MustBlur()
	p.with(input.KeyD, input.ShiftLeft).see("[data-testid=look-tray]")
	p.write("nobody wrote this")
	p.press(input.Enter)
	p.reads("[data-testid=looked]", "Nothing held matches “nobody wrote this”")
	p.MustElement("#look-words").MustSelectAllText()
	p.write("crane")
	p.press(input.Enter)
	p.reads("[data-testid=look-tray] li", "Crane times for the lorry")
	p.press(input.Enter).leftIs(n + 1)
	p.press(input.KeyI)
	p.until("document.querySelector('[data-group=let-in]')?.textContent.includes('Let in by you')")
	p.with(input.KeyZ, input.ControlLeft)
	p.reads("[data-testid=notice]", "Once more takes it back.") // it was let in from another screen
	p.with(input.KeyZ, input.ControlLeft).leftIs(n)
	p.until("!document.querySelector('[data-group=let-in]')")
	p.with(input.KeyZ, input.ControlLeft, input.ShiftLeft).leftIs(n + 1)

	// Letting all in is never the first thing under the hand.
	p.click("[data-testid=gate]")
	p.see("[data-testid=look-tray]")
	p.does("Let all in…")
	p.reads("[data-testid=all-tray]", "The next mail comes today 14:00.")
	require.Equal(t, "Look for one thing instead", p.MustEval(`() => document.activeElement.textContent`).Str())
	p.press(input.Escape)
	p.until("!document.querySelector('[data-testid=all-tray]')")
	p.leftIs(n + 1)

	// The clock moves on: Halvard is let through at 12:20, the rest waits.
	p.clock("+ 1 hour")
	p.nowIs("11:42")
	p.clock("+ 1 hour")
	p.until("document.querySelector('[data-group=through]')?.textContent.includes('Let through')")
	p.reads("[data-testid=queue]", "The signed page, at last")
	p.leftIs(n + 2)
	p.clock("+ 1 hour")
	p.nowIs("13:42")
	p.reads("[data-testid=left]", "")
	p.press(input.KeyD).see("[data-testid=coming]")
	p.reads("[data-testid=heard]", "Lena Brask")
	p.until("[...document.querySelectorAll('[data-testid=heard] li button')].filter(e => e.textContent.includes('Lena Brask')).length === 1")
	p.presses("[data-testid=heard] li button", "Lena Brask")
	p.reads("[data-testid=heard] [data-state=open]", "yours comes in Tue 24 Nov, 14:00. For the loading dock call Tomasz.")
	p.reads("[aria-labelledby=through]", "lately Halvard Lindqvist: The signed page, at last")

	p.clock("+ 1 hour")
	p.press(input.KeyI)
	p.until("[...document.querySelectorAll('[data-group^=round]')].some(e => e.textContent.includes('Arrived in the 14:00 round'))")
	p.down("Seats on the early ferry")
	p.reads("[data-testid=gate]", "Held. Next round 16:30")
	p.press(input.KeyH)
	p.reads("main", "The clock let in, with the 14:00 round")
	p.reads("main", "looked early and let in “crane”")
	p.reads("main", "answered by itself, to Lena Brask")
}

// The week is drawn by mouse, keys and words; nothing is used before it is
// stored, and what it would do is said before.
func TestDrawingAPlan(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.press(input.KeyD).see("[data-testid=coming]")
	p.reads("[data-testid=coming]", "Today 14:00 round")
	p.MustElement("#line").MustFocus()
	p.write("mon–fri 8, 12:15, 17")
	p.press(input.Enter)
	p.reads("[data-day='2']", "12:15")
	p.reads("[data-testid=waits]", "Half of the")
	p.reads("[data-testid=coming]", "Today 12:15 round")
	p.MustElement("#line").MustFocus()
	p.write("whenever it suits")
	p.press(input.Enter)
	p.reads("#line-wrong", "write times such as")
	p.MustElement("#line").MustSelectAllText()
	p.write("fri 20")
	p.press(input.Enter)
	p.until("document.querySelector('[aria-label=\"Possible mistakes\"]')?.textContent.includes('20:00 round lies in quiet hours')")

	// By mouse: a click sets a round, dragging draws.
	at := func(day string, share float64) (x, y float64) {
		box := p.place("[data-day='" + day + "']")
		return box.X + box.Width*share, box.Y + box.Height/2
	}
	x, y := at("1", 0.28)
	require.NoError(t, p.Mouse.MoveTo(proto.NewPoint(x, y)))
	require.NoError(t, p.Mouse.Click(proto.InputMouseButtonLeft, 1))
	p.until("document.querySelectorAll('[data-day=\"1\"] [aria-label^=Round]').length === 4")
	p.does("a block")
	p.MustElement("[aria-label='What the block is for']").MustSelectAllText()
	p.write("board prep")
	x, y = at("1", 0.52)
	require.NoError(t, p.Mouse.MoveTo(proto.NewPoint(x, y)))
	require.NoError(t, p.Mouse.Down(proto.InputMouseButtonLeft, 1))
	x2, _ := at("1", 0.62)
	require.NoError(t, p.Mouse.MoveLinear(proto.NewPoint(x2, y), 6))
	require.NoError(t, p.Mouse.Up(proto.InputMouseButtonLeft, 1))
	p.see("[data-day='1'] [aria-label^='board prep, nothing in']")

	// By keys: a piece moves, and goes.
	round := p.MustElement("[data-day='3'] [aria-label^='Round 17:00']")
	round.MustFocus()
	p.press(input.ArrowRight)
	p.see("[data-day='3'] [aria-label^='Round 17:15']").MustFocus()
	p.press(input.Delete)
	p.until("!document.querySelector('[data-day=\"3\"] [aria-label^=\"Round 17\"]')")
	// A day copied to another, and typed whole.
	p.presses("button[aria-expanded]", "^Wed$")
	p.see("#day-text")
	p.presses("form button", "^Sat$")
	p.until("document.querySelector('[data-day=\"6\"]').textContent.includes('12:15')")
	p.presses("button[aria-expanded]", "^Sat$")
	p.until("document.querySelector('#day-text').value.startsWith('8:00, 12:15')")
	p.MustElement("#day-text").MustSelectAllText()
	p.write("open 10–12")
	p.press(input.Enter)
	p.see("[data-day='6'] [aria-label^='open hours 10:00–12:00']")

	// Nothing of it was used so far.
	p.reads("[data-testid=gate]", "Held. Next round 14:00")
	p.presses("[aria-label='Unsaved changes'] button", "^Save$")
	p.reads("[data-testid=gate]", "Held. Next round 12:15")
	p.MustReload()
	p.see("[data-day='1'] [aria-label^='board prep, nothing in']")

	// Another plan by name, used, and ended: mail flows, the plan is kept.
	p.does("Exhibition week")
	p.does("Use this plan")
	p.reads("[data-testid=gate]", "Held. Next round 11:00")
	n := p.left()
	p.does("End this plan")
	p.reads("[data-testid=gate]", "Mail comes as sent")
	p.until("Number(document.querySelector('[data-testid=left]').textContent) > %d", n)
	p.does("Ordinary week")
	p.does("Use this plan")
	p.reads("[data-testid=gate]", "Held. Next round 12:15")
}

// Holding by hand: one press, until a time, and what is chosen about it.
func TestHoldingByHand(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.press(input.KeyD).see("[data-testid=coming]")
	p.does("End this plan")
	p.reads("[data-testid=gate]", "Mail comes as sent")
	n := p.left()
	p.click("[data-testid=gate]")
	p.reads("[data-testid=gate]", "Held by hand")
	p.click("[data-testid=gate]")
	p.reads("[data-testid=gate]", "Mail comes as sent")
	p.with(input.F7, input.ShiftLeft).see("[data-testid=hold-tray]")
	p.presses("[data-testid=hold-tray] [aria-label='Hold for'] button", "30 min")
	p.reads("[data-testid=gate]", "Held by hand until 11:1")
	p.click("[data-testid=gate]")
	p.reads("[data-testid=gate]", "Mail comes as sent")
	p.with(input.F7, input.ShiftLeft).see("[data-testid=hold-tray]")
	p.write("13:45")
	p.reads("[data-testid=hold-tray] [data-testid=hold-until-means]", "Tue 24 Nov, 13:45")
	p.press(input.Enter)
	p.reads("[data-testid=gate]", "Held by hand until 13:45")
	p.click("#counted")
	for range 3 {
		p.clock("+ 1 hour")
	}
	p.nowIs("13:42")
	p.leftIs(n + 1) // Halvard, let through
	p.reads("[data-testid=gate]", "Held by hand until 13:45 · 4")
	p.clock("To the next thing")
	p.leftIs(n + 5)
	p.reads("[data-testid=gate]", "Mail comes as sent")

	// A sender let through with one press from their message.
	p.press(input.KeyI)
	p.choose("Kestrel Print Works")
	p.with(input.F4, input.ShiftLeft)
	p.reads("[data-testid=notice]", "Kestrel Print Works comes through from now on")
	p.press(input.KeyD)
	p.reads("[aria-labelledby=through]", "proofs@kestrelprint.example")
	p.click("[aria-labelledby=through] button[aria-label^='Let proofs@kestrelprint.example']")
	p.until("!document.querySelector('[aria-labelledby=through]').textContent.includes('kestrelprint')")
	p.presses("[aria-labelledby=through] button", "add")
	p.see("#through-text")
	p.write("@vargatravel.example")
	p.reads("[data-testid=through-means]", "mail from everybody there")
	p.press(input.Enter)
	p.reads("[aria-labelledby=through]", "@vargatravel.example")
	p.click("#notify-on")
	p.see("#notify-rounds[disabled]")
}
