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
	p.see("[data-testid=more]")
	p.until("document.querySelector('[data-testid=day] svg')")
	p.shot("/tmp/shots/n1.png")
	p.press(input.ArrowLeft)
	p.until("document.querySelector('h1').textContent.startsWith('Week from')")
	p.until("document.querySelectorAll('[data-testid=pace] li').length > 1")
	p.shot("/tmp/shots/n2.png")
	p.click("[data-testid=more] tbody a")
	p.see("[data-testid=counted-line]")
	p.shot("/tmp/shots/n3.png")
	p.MustNavigateBack()
	p.see("[data-testid=more]")
	p.MustEval("() => document.documentElement.classList.add('dark')")
	p.shot("/tmp/shots/n4.png")
	p.MustSetViewport(390, 800, 1, true)
	p.shot("/tmp/shots/n5.png")
	p.MustEval("() => document.querySelector('[data-testid=numbers]').scrollTo(0, 760)")
	p.shot("/tmp/shots/n6.png")
}
