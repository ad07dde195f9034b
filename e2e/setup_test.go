package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"
)

// setup goes to a part of Setup.
func (p *page) setup(part string) {
	p.t.Helper()
	p.visit("/setup")
	p.click(`a[href="/setup/` + part + `"]`)
}

// Setup is in parts with an index; each choice is saved as it is made, said, and
// taken back like a decision. What is refused, or not saved yet, stays as typed.
func TestSetupByParts(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.press(input.Comma)
	p.see("#morning").MustSelectAllText().MustInput("22:00")
	p.press(input.Enter)
	p.reads("#morning-wrong", "the morning has to begin before midday")
	p.until("document.querySelector('#morning').value === '22:00'")
	p.MustReload()
	p.until("document.querySelector('#morning')?.value === '22:00'") // typed, and kept
	p.see("#morning").MustSelectAllText().MustInput("soon")
	p.press(input.Enter)
	p.reads("#morning-wrong", "“soon” is no time of day")
	p.see("#morning").MustSelectAllText().MustInput("7.15")
	p.press(input.Tab)
	p.reads("[data-testid=notice]", "Morning begins at 7:15.")
	p.until("document.querySelector('#morning').value === '7:15'")
	p.does("Sat")
	p.reads("[data-testid=notice]", "You work on Mon, Tue, Wed, Thu, Fri, Sat.")
	p.with(input.KeyZ, input.ControlLeft)
	p.reads("[data-testid=notice]", "Taken back: “You work on")
	p.with(input.KeyZ, input.ControlLeft)
	p.until("document.querySelector('#morning').value === '8:00'")

	p.MustEval(`() => document.activeElement.blur()`)
	p.press(input.ArrowDown, input.ArrowDown)
	p.until("location.pathname === '/setup/look'")
	p.does("dark")
	p.until("document.documentElement.classList.contains('dark')")
	p.does("Take back")
	p.until("!document.documentElement.classList.contains('dark')")
	p.does("close")
	p.visit("/")
	p.until("document.querySelector('[role=option]').offsetHeight < 50")

	p.setup("mail")
	p.see("#more").MustInput("nobody")
	p.MustEval(`() => document.querySelector('#more').form.noValidate = true`)
	p.press(input.Enter)
	p.reads("#more-wrong", "“nobody” is no mail address")
	p.see("#more").MustSelectAllText().MustInput("solvei@choir.example")
	p.press(input.Enter)
	p.reads("[data-testid=notice]", "Mail from solvei@choir.example counts as yours.")
	p.click(`[aria-label="solvei@choir.example is not mine"]`)
	p.reads("[data-testid=notice]", "does not count as yours any more")

	p.setup("follow-ups")
	p.click(`[aria-label="Delete Under way"]`)
	p.reads("[data-testid=notice]", "Stage “Under way” deleted.")
	p.until("!document.querySelector('[aria-label=\"Delete Under way\"]')")
	p.with(input.KeyZ, input.ControlLeft)
	p.see(`[aria-label="Delete Under way"]`)
	p.see("#new-stage").MustInput("Soon")
	p.press(input.Enter, input.Enter)
	p.see(`[aria-label="Delete Soon"]`)
	require.Equal(t, 5, len(p.MustElements("[aria-label=Stages] [aria-label^=Delete]")), "two presses make one")

	p.setup("labels")
	p.click(`[aria-label="Change choir"]`)
	p.see("section[aria-labelledby=labels] input").MustSelectAllText().MustInput("the choir")
	p.press(input.Enter)
	p.reads("[data-testid=notice]", "The label “choir” is called “the choir” now.")
	p.does("Take back")
	p.see(`[aria-label="Change choir"]`)

	p.setup("places")
	p.see("#place-name").MustInput("the yard")
	p.press(input.Enter)
	p.reads("[data-testid=notice]", "The place “the yard” is there.")
	p.does("Take back")
	p.until("!document.querySelector(\"[data-place='the yard']\")")

	p.visit("/history")
	p.reads("main", "chose in Setup: Theme: dark")
}

// Where it is narrow, the index has the screen, and then a part of it.
func TestSetupOnANarrowScreen(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 390, 780).enter()
	p.visit("/setup")
	p.until("!document.querySelector('#zone').offsetParent")
	for _, part := range []struct{ name, shows string }{{"Your week", "#zone"}, {"^Mail", "#span"}, {"Look", "[role=radio]"}, {"Snoozing", "#someday"},
		{"Follow-ups", "#new-stage"}, {"Labels", "section[aria-labelledby=labels] li"}, {"Places", "#place-name"}, {"Combos", "section[aria-labelledby=combos] li"},
		{"Calendar files", "input[type=file]"}, {"Addresses into", "[data-testid=inward]"}, {"Signing in", "[data-testid=session]"}, {"People", "[data-person]"}, {"What ships", "[data-testid=notices]"}} {
		p.presses("nav[aria-label='Parts of Setup'] a", part.name)
		p.until("document.querySelector(%q)?.offsetParent || document.querySelector(%q)?.type === 'file'", part.shows, part.shows)
		p.until("!document.querySelector(\"nav[aria-label='Parts of Setup']\").offsetParent")
		require.True(t, p.MustEval(`() => document.documentElement.scrollWidth <= 390`).Bool(), part.name)
		p.presses("a", "^← Setup")
		p.until("document.querySelector(\"nav[aria-label='Parts of Setup']\").offsetParent")
	}
}
