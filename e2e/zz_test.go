//go:build shots

package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
)

func TestZZ(t *testing.T) {
	p := open(t, demo(t).url, 1280, 800).enter()
	p.choose("Small Museums Weekly")
	p.with(input.ArrowRight, input.ControlLeft)
	p.see("[data-testid=stream-tray] [role=radio]")
	p.shot("/tmp/shots/stream.png")
	p.press(input.Enter)
	p.reads("[data-testid=notice]", "Put into")
	p.visit("/setup")
	p.presses("a", "What Ebbe has learned")
	p.see("[data-lesson]")
	p.shot("/tmp/shots/learned.png")
	p.visit("/delivery")
	p.does("A stream of your own…")
	p.see("#stream-name")
	p.write("Choir")
	p.shot("/tmp/shots/makestream.png")
	p.does("Save")
	p.reads("[data-testid=own-stream]", "Nothing")
	p.shot("/tmp/shots/own.png")
}
