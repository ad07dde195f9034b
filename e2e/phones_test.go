package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"
)

// The front desk's telephone: texts stand among the mail, are answered by text with their length shown,
// reach their telephones and are answered; whose number it is is said once, and one texts first.
func TestTextMessages(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.url, 1280, 800).enter()
	p.reads("[data-testid=box]", "Loans")
	p.press(input.KeyB)
	p.presses("[role=option]", "700 900518")
	p.reads("[data-testid=subject]", "Texts with +44 7700 900518")
	p.reads("main", "are you open on Sunday") // all of it is open, as texts are short
	p.reads("main", "strikes at eleven")
	p.reads("main", "delivered")
	p.does("Whose number is it?")
	p.fill([2]string{"whose-name", "Ragnhild Moe"})
	p.does("Save")
	p.reads("[role=option][aria-selected=true]", "Ragnhild Moe")

	p.press(input.Digit3)
	p.until("document.activeElement.id === 'reply'")
	p.reads("[data-testid=reply-tray]", "Text message from +44 1632 960145")
	require.Zero(t, p.MustEval(`() => document.querySelectorAll('#write-to, #write-subject, [data-testid=files], [data-testid=rich]').length`).Int(), "a text has none of it")
	p.write("There is a lift")
	p.reads("[data-testid=text-length]", "15 characters, 145 left")
	p.write(", “the small one”.")
	p.reads("[data-testid=text-length]", "33 characters, 37 left")
	p.write("\n\nIt takes two at a time, so please come a little before the hour.")
	p.reads("[data-testid=text-length]", "in 2 parts")
	p.with(input.Enter, input.ControlLeft)
	p.reads("[data-testid=notice], [role=status]", "Goes")
	p.does("Demo clock")
	p.does("+ 1 hour")
	p.until("[...document.querySelectorAll('[role=option]')].some(o => o.textContent.includes('Ragnhild Moe') && o.textContent.includes('10:'))") // she has answered
	p.presses("[role=option]", "Ragnhild Moe")
	p.until("document.querySelector('main').textContent.split('Lovely, see you then').length > 2")
	p.until("document.querySelector('main').textContent.split('delivered').length > 2")

	p.presses("nav a", "Writing")
	p.does("New text")
	p.see("#write-number").MustInput("oon")
	p.presses("main button", "Oona Varga")
	p.until("document.querySelector('#write-number').value === 'Oona Varga'")
	p.see("#write-number").MustSelectAllText().MustInput("07700 900777")
	p.see("#reply").MustFocus()
	p.write("Is the class coming?")
	p.reads("[data-testid=kept]", "Saved today")
	p.does("Send")
	p.reads("main", "+44 7700 900777")
	p.does("Demo clock")
	p.does("+ 1 hour")
	p.until("document.querySelector('main').textContent.includes('the telephone is not there')")
}

// A telephone line is set up with its gateway, which is said to where it is to speak; what is wrong is
// said beside its field, and a line is removed again.
func TestATelephoneLineIsSetUp(t *testing.T) {
	t.Parallel()
	s := run(t, "serve", "--data", t.TempDir())
	p := open(t, s.url, 1280, 800)
	p.signUp("Solvei Arnkvist", "solvei@skagvik.example")
	p.see("[data-testid=begin]")
	p.MustNavigate(s.url + "/accounts")
	p.does("Add a telephone line")
	p.see("[data-testid=line-form]")
	p.fill([2]string{"line-number", "ask Jonas"}, [2]string{"line-url", "https://gateway.example/texts"}, [2]string{"line-secret", "brass-bell"})
	p.does("Save")
	p.reads("#line-number-wrong", "no telephone number")
	p.fill([2]string{"line-number", "+44 1632 960145"}, [2]string{"line-url", "http://gateway.example/texts"})
	p.does("Save")
	p.reads("#line-url-wrong", "must begin with https")
	p.fill([2]string{"line-url", "https://gateway.example/texts"}, [2]string{"line-name", "Front desk"})
	p.does("How the gateway is spoken to")
	p.see("#line-Field-of-the-text").MustSelectAllText().MustInput("message.body")
	p.does("Save")
	p.reads("[data-testid=line]", "Front desk")
	p.reads("[data-testid=line]", "/text/")
	p.MustReload()
	p.reads("[data-testid=line]", "+44 1632 960145")
	p.presses("[data-testid=line] button", "Change")
	p.does("How the gateway is spoken to")
	p.until("document.querySelector('#line-Field-of-the-text').value === 'message.body'")
	p.until("document.querySelector('#line-secret').value === ''") // which is never shown
	p.fill([2]string{"line-url", "https://elsewhere.example/texts"})
	p.does("Save")
	p.reads("#line-secret-wrong", "sent nowhere else")
	p.does("Remove")
	p.presses("[role=alertdialog] button", "Remove")
	p.until("!document.querySelector('[data-testid=line]') && !document.querySelector('[data-testid=line-form]')")
}
