package e2e

import (
	"os"
	"testing"

	"github.com/go-rod/rod/lib/input"
)

func (p *page) still() *page {
	p.MustEval("() => Promise.all(document.getAnimations().map(a => a.finished)).then(() => 0)")
	return p
}

func TestLook(t *testing.T) {
	os.MkdirAll("/tmp/shots", 0o755)
	s := demo(t)
	p := open(t, s.url, 1280, 800).enter()
	p.see("article")
	p.still().shot("/tmp/shots/a-inbox.png")
	p.press(input.Digit5).see("[data-testid=snooze-tray] [data-cell]")
	p.still().shot("/tmp/shots/b-snooze.png")
	p.press(input.Escape)
	p.press(input.Digit8).see("[data-testid=sit-tray]")
	p.still().shot("/tmp/shots/c-sit.png")
	p.press(input.Enter).see("[data-testid=sitting]")
	p.press(input.Digit2, input.Digit8)
	p.see("article")
	p.still().shot("/tmp/shots/d-sitting.png")
}
