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
	p.press(input.Digit4)
	p.see("[data-testid=ahead-days]")
	p.MustWaitStable()
	p.shot("/tmp/shots/ahead.png")
	p.MustEval("() => document.querySelector('[data-testid=proved]').scrollIntoView()")
	p.MustWaitStable()
	p.shot("/tmp/shots/proved.png")
	p.press(input.Digit5)
	p.see("[data-testid=review-lines]")
	p.MustWaitStable()
	p.shot("/tmp/shots/review.png")
	p.MustEval("() => document.documentElement.classList.add('dark')")
	p.MustSetViewport(390, 800, 1, true)
	p.MustWaitStable()
	p.shot("/tmp/shots/review-dark390.png")
	p.MustEval("() => document.documentElement.classList.remove('dark')")
	p.MustSetViewport(1280, 800, 1, false)
	p.press(input.Digit6)
	p.see("[data-testid=dig-plan]")
	p.does("Begin")
	p.see("[data-testid=dig-progress]")
	p.MustWaitStable()
	p.shot("/tmp/shots/dig.png")
}
