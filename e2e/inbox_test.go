package e2e

import (
	"github.com/go-rod/rod/lib/input"
)

// choose selects the slip of a sender by going down the queue.
func (p *page) choose(from string) {
	p.t.Helper()
	p.press(input.Home)
	for range 400 {
		if p.MustEval(`from => document.querySelector('[role=option][aria-selected=true] b')?.textContent.endsWith(from)`, from).Bool() {
			p.until("document.querySelector('[data-testid=subject]').textContent === document.querySelector('[role=option][aria-selected=true] p').textContent")
			p.see("article")
			return
		}
		before := p.text("[role=option][aria-selected=true]")
		p.press(input.ArrowDown)
		p.until("document.querySelector('[role=option][aria-selected=true]').innerText !== %q", before)
	}
	p.t.Fatalf("no slip is from %s", from)
}

// toZero archives whatever is left, by key.
func (p *page) toZero() {
	p.t.Helper()
	p.see("[data-testid=queue] [role=option]")
	for n := p.left(); n > 0; n-- {
		p.press(input.Digit2)
		p.leftIs(n - 1)
	}
	p.see("[data-testid=zero]")
}
