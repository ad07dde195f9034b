package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"
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
	p.reads("[data-testid=day-left]", "At your pace about 30 are left at 22:00.")
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

// signUp sets a new Ebbe up, as its first person does.
func (p *page) signUp(name, address string) {
	p.t.Helper()
	code, _ := setupCodes.Load(p.MustEval("() => location.origin").Str())
	for _, f := range [][2]string{{"#name", name}, {"#address", address}, {"#password", "a long enough password"}, {"#code", code.(string)}} {
		p.see(f[0]).MustFocus()
		p.write(f[1])
	}
	p.press(input.Enter)
	p.see("[data-testid=codes]")
	p.does("I have kept them")
}

// From signing up to the first decided message one is led: connect an account, its mail
// comes in, the six keys, a plan; each step can be left, and none of it comes twice.
func TestTheFirstSteps(t *testing.T) {
	t.Parallel()
	data := t.TempDir()
	s := run(t, "serve", "--data", data)
	p := open(t, s.url, 1280, 800)
	p.signUp("Solvei Arnkvist", "solvei@skagvik.example")
	p.reads("[data-testid=begin]", "Connect an account")
	p.reads("[data-testid=begin]", "Decide about each with one of six keys")
	p.does("Connect an account")
	p.until("location.pathname === '/accounts'")
	p.visit("/")
	p.see("[data-testid=begin]")

	out, code := command(t, "import", mbox(t, 12), "--data", data) // as an account would bring it
	require.Zero(t, code, out)
	p.see("[data-slip]")
	p.reads("[data-testid=first-steps]", "let it come back later")
	n := p.left()
	p.press(input.Digit2).leftIs(n - 1)
	p.reads("[data-testid=first-steps]", "Mail can come in at set times only")
	p.does("Choose a plan")
	p.see("[data-testid=coming]")
	p.visit("/")
	p.see("[data-slip]")
	p.until("!document.querySelector('[data-testid=first-steps]')")

	other := run(t, "serve", "--data", t.TempDir())
	q := open(t, other.url, 390, 780)
	q.signUp("Jonas Reyland", "jonas@skagvik.example")
	q.see("[data-testid=begin]")
	q.does("Skip this")
	q.see("[data-testid=zero]")
	q.MustReload()
	q.see("[data-testid=zero]")
}
