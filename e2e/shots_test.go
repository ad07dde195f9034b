//go:build shots

package e2e

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"
)

// TestShots takes the pictures of docs/screenshots, for make shots.
func TestShots(t *testing.T) {
	dir := os.Getenv("EBBE_SHOTS")
	require.NotEmpty(t, dir, "run make shots, which says where the pictures go")
	require.NoError(t, os.MkdirAll(dir, 0o755))
	at := func(name string) string { return filepath.Join(dir, name+".png") }
	s := demo(t)
	p := open(t, s.url, 1280, 800)
	p.enter()
	p.choose("Mirela Dossett")
	p.shot(at("inbox"))
	p.press(input.Digit3)
	p.until("document.activeElement.id === 'reply'")
	p.write("Good morning Mirela,\n\n148 × 92 × 110 cm, with the base on; Tomasz measured it again. It comes off.\nIs Thursday noon enough for the lids as well?\n\nSolvei")
	p.MustElement("#write-return").MustFocus()
	p.write("fri")
	p.reads("#write-return-means", "Fri 27 Nov, 8:00")
	p.reads("[data-testid=kept]", "Saved today")
	p.shot(at("writing"))
	p.press(input.Escape)
	p.until("!document.querySelector('#reply')")
	p.press(input.Digit5).see("[data-testid=snooze-tray] [data-cell]")
	p.write("fri after lunch")
	p.reads("#snooze-phrase-means", "Fri 27 Nov, 13:30")
	p.shot(at("snooze"))
	p.press(input.Escape)
	p.press(input.Digit6).see("#followup-line")
	p.write("opening / urgent / remind 1 day before")
	p.reads("#followup-line-parts", "reminds 1 day before")
	p.shot(at("follow-up"))
	p.press(input.Escape)
	p.until("!document.querySelector('#followup-line')")
	p.letters(":")
	p.until("document.querySelector('.inbox-grid.close')")
	p.shot(at("close"))
	p.letters(":").see("article")
	p.click("header a[href='/day']")
	p.see("[data-testid=day-returns]")
	p.see("[data-testid=day-due] li")
	p.see("[data-testid=day-comes] li")
	p.shot(at("day"))
	p.visit("/")
	p.see("[data-slip]")
	p.press(input.Digit8).see("[data-testid=sit-tray]")
	p.press(input.Enter).see("[data-testid=sitting]")
	p.press(input.Digit2, input.Digit1, input.Digit2)
	p.reads("[data-testid=notice]", "Archived.")
	p.see("article")
	p.shot(at("sitting"))
	p.press(input.F8)
	p.does("Back to the inbox")
	p.see("[role=option]")
	for _, v := range []struct{ path, shows, name string }{{"/waiting", "[data-followup]", "waiting"}, {"/calendar", "[data-event]", "week"}, {"/later", "[data-day='0']", "later"}} {
		p.visit(v.path)
		p.see(v.shows)
		p.shot(at(v.name))
	}
	p.command("Go to the rules")
	p.see("[data-testid=rules]")
	p.does("New rule")
	p.see("#rule-words")
	p.write("from harbour with “permit”: label permits, follow up “Sign and return” fri 10")
	p.see("[data-testid=proof] li")
	p.shot(at("rule"))
	p.visit("/follow-ups")
	p.does("By stage")
	p.see("[data-lane] [data-followup]")
	p.shot(at("board"))
	p.press(input.Digit8).see("[data-testid=panel]")
	p.press(input.Digit8).reads("[data-testid=followup-title]", "quay permit")
	p.see("article")
	p.shot(at("one-by-one"))
	p.with(input.F8, input.ShiftLeft).see("[data-free]")
	p.shot(at("close-day"))
	p.visit("/delivery")
	p.see("[data-testid=coming]")
	p.shot(at("delivery"))
	p.press(input.KeyW).see("[data-testid=senders] [role=option]")
	p.shot(at("senders"))
	p.press(input.KeyM).see("[data-testid=account]")
	p.shot(at("accounts"))
	p.setup("follow-ups")
	p.see("#new-stage")
	p.shot(at("setup"))
	p.click(`nav a[href="/"]`)
	p.toZero()
	p.shot(at("zero"))
}

func (p *page) shot(name string) {
	p.t.Helper()
	p.until("document.fonts.status === 'loaded' && document.getAnimations().every(a => a.playState === 'finished')")
	png, err := p.Screenshot(false, nil)
	require.NoError(p.t, err)
	require.NoError(p.t, os.WriteFile(name, png, 0o644))
}
