//go:build shots

package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
)

func TestZZ(t *testing.T) {
	s := demo(t)
	p := open(t, s.url, 1280, 800).enter()
	p.reads("[data-testid=box]", "Loans")
	p.press(input.KeyB)
	p.presses("[role=option]", "Mirela Dossett")
	p.shot("/tmp/shots/a-inbox.png")
	p.presses("[role=option]", "700 900518")
	p.reads("[data-testid=whose]", "Whose")
	p.does("Whose number is it?")
	p.see("#whose-name")
	p.shot("/tmp/shots/b-whose.png")
	p.press(input.Escape)
	p.press(input.Digit3)
	p.until("document.activeElement.id === 'reply'")
	p.write("There is one, from the quay side. It is small: two at a time, please.")
	p.reads("[data-testid=text-length]", "characters")
	p.shot("/tmp/shots/c-reply.png")
	p.does("Give to…")
	p.see("#give-draft-why").MustInput("please approve and send")
	p.shot("/tmp/shots/d-give.png")
	p.press(input.Enter)
	p.until("!document.querySelector('#reply')")
	p.reads("[data-testid=writing-now]", "draft")
	p.shot("/tmp/shots/e-given.png")
	p.press(input.KeyF)
	p.does("By owner")
	p.see("[data-lane]")
	p.shot("/tmp/shots/f-owners.png")
}
