//go:build shots

package e2e

import "testing"

func TestZZ(t *testing.T) {
	p := open(t, demo(t).url, 1280, 800).enter()
	p.chooseSubject("Loan agreement: one clause still open")
	p.click("aside h2 a")
	p.see("[data-testid=person]")
	p.until("document.querySelectorAll('[data-testid=person] [role=row]').length > 3")
	p.shot("/tmp/shots/person.png")
	p.MustEval("() => document.documentElement.classList.add('dark')")
	p.shot("/tmp/shots/person-dark.png")
	p.MustSetViewport(390, 800, 1, true)
	p.shot("/tmp/shots/person-390.png")
}
