package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// The sign of the rail leads to the day: what is left, comes, is due, returns and is
// awaited, each where it can be opened; and the day begins from there.
func TestTheDayAtAGlance(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.click("header a[href='/day']")
	p.until("location.pathname === '/day'")
	p.reads("h1", "Tue 24 Nov")
	p.reads("[data-testid=day-left]", "27")
	p.reads("[data-testid=day-left]", "At your pace about 27 are left at 22:00.")
	p.reads("[data-testid=day-left]", "Arrived in the 9:00 round")
	p.reads("[data-testid=day-due]", "Answer the harbour office about the lorry")
	p.reads("[data-testid=day-due]", "Sign the quay permit")
	p.reads("[data-testid=day-awaited]", "Halvard Lindqvist")
	p.reads("[data-testid=day-comes]", "Today 14:00 round")
	p.reads("[data-testid=day-returns]", "Grete Brunner")
	p.presses("[data-testid=day-due] a", "Sign the quay permit")
	p.until("location.pathname.startsWith('/follow-ups/')")
	p.with(input.Home, input.ShiftLeft)
	p.until("location.pathname === '/day'")
	p.does("Sit down to it")
	p.see("[data-testid=sit-tray]")
}
