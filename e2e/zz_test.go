//go:build shots

package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
)

func TestZZ(t *testing.T) {
	s := demo(t)
	p := open(t, s.url, 1280, 800)
	p.enter()
	p.visit("/numbers")
	p.see("[data-testid=numbers]")
	p.shot("/tmp/shots/days.png")
	p.press(input.Digit2)
	p.see("[data-testid=answers-table]")
	p.presses("[role=radio]", "^Quarter")
	p.until("document.querySelectorAll('[data-row]').length > 5")
	p.MustWaitStable()
	p.shot("/tmp/shots/answers.png")
	p.MustEval("() => document.documentElement.classList.add('dark')")
	p.MustSetViewport(390, 800, 1, true)
	p.MustWaitStable()
	p.shot("/tmp/shots/answers-dark390.png")
	p.MustEval("() => document.documentElement.classList.remove('dark')")
	p.MustSetViewport(1280, 800, 1, false)
	p.press(input.Digit3)
	p.see("[data-testid=people-table]")
	p.MustWaitStable()
	p.shot("/tmp/shots/people.png")
	p.MustSetViewport(390, 800, 1, true)
	p.MustWaitStable()
	p.shot("/tmp/shots/people390.png")
	p.MustSetViewport(1280, 800, 1, false)
	p.press(input.Digit4)
	p.see("[data-testid=ahead-days]")
	p.MustWaitStable()
	p.shot("/tmp/shots/ahead.png")
	p.press(input.KeyX)
	p.MustWaitStable()
	p.shot("/tmp/shots/ahead-off.png")
	p.MustEval("() => document.documentElement.classList.add('dark')")
	p.MustSetViewport(390, 800, 1, true)
	p.MustWaitStable()
	p.shot("/tmp/shots/ahead-dark390.png")
	p.MustEval("() => document.documentElement.classList.remove('dark')")
	p.MustSetViewport(1280, 800, 1, false)
	p.press(input.Digit3)
	p.see("[data-testid=people-table]")
	p.press(input.Enter)
	p.see("[data-testid=person]")
	p.MustWaitStable()
	p.shot("/tmp/shots/person.png")
	p.press(input.Digit1)
}
