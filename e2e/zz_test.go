//go:build shots

package e2e

import "testing"

func TestZZ(t *testing.T) {
	p := open(t, demo(t).url, 1280, 800).enter()
	p.setup("combos")
	p.does("Make a combo")
	p.see("#combo-name").MustInput("Over to")
	p.does("hand over")
	p.presses("form[aria-label=Combo] li label", "ask to whom")
	p.does("label")
	p.presses("form[aria-label=Combo] li label", "ask which label")
	p.does("archive")
	p.presses("form[aria-label=Combo] [role=radio]", "^large$")
	p.see("#combo-if").MustInput("from people")
	p.does("start a message")
	p.shot("/tmp/shots/comboform.png")
	p.does("Save the combo")
	p.visit("/")
	p.choose("Mirela Dossett")
	p.presses("[aria-label=Combos] button", "Over to")
	p.see("[data-testid=combo-tray]")
	p.until("document.activeElement.id === 'combo-ask-0'")
	p.write("jonas.reyland@skagvikmuseum.example,")
	p.presses("[data-testid=combo-tray] button", "to read")
	p.shot("/tmp/shots/combotray.png")
}
