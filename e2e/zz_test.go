//go:build shots

package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
)

func TestZZ(t *testing.T) {
	p := open(t, demo(t).url, 1280, 800).enter()
	p.chooseSubject("Your parcel 7781 arrives today between 13:00 and 15:00")
	p.see("[data-testid=facts]")
	p.shot("/tmp/shots/parcel.png")
	p.press(input.Digit5)
	p.see("[data-until=arrival]")
	p.shot("/tmp/shots/snooze.png")
	p.press(input.Escape)
	p.command("Parcels, bills and journeys")
	p.see("[data-fact]")
	p.shot("/tmp/shots/facts.png")
	p.until("document.querySelectorAll('[data-slip] b').length >= 4")
	p.press(input.ArrowDown, input.ArrowDown)
	p.see("[data-fact=bill]")
	p.MustEval("() => document.documentElement.classList.add('dark')")
	p.shot("/tmp/shots/facts-dark.png")
	p.press(input.Digit6).see("[data-testid=follow-up-tray], form")
	p.shot("/tmp/shots/bill-follow.png")
	p.press(input.Escape)
	p.press(input.ArrowDown)
	p.see("[data-fact=journey]")
	p.press(input.Digit7).see("[data-testid=event-tray] [data-time]")
	p.shot("/tmp/shots/journey-event.png")
	p.press(input.Escape)
	p.MustSetViewport(390, 800, 1, true)
	p.shot("/tmp/shots/facts-390.png")
}
