package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// What machines tell stands on the slip, on top of the message and together; the tray of
// each thing it offers has it first, so that Enter takes it.
func TestWhatMachinesTell(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.chooseSubject("Your parcel 7781 arrives today between 13:00 and 15:00")
	p.reads("[data-fact=parcel]", "arrives today 13–15")
	p.reads("[role=option][aria-selected=true]", "arrives today 13–15")
	p.presses("[data-fact] button", "Snooze until it arrives")
	p.reads("[data-until=arrival]", "at the latest tomorrow 8:00")
	p.click("[data-until=arrival]")
	p.leftIs(n - 1)
	p.reads("[data-testid=notice]", "Back when it has arrived, at the latest Wed 25 Nov, 8:00.")

	p.click("[data-testid=to-facts]")
	p.until("location.pathname === '/facts'")
	p.reads("[data-group=parcel]", "2 parcels on the way")
	p.reads("[data-group=bill]", "1 bill to pay")
	p.chooseSubject("Your bill for the quay store")
	p.reads("[data-fact=bill]", "€ 120.00 due 14 Dec")
	p.press(input.Digit6)
	p.until("document.querySelector('#followup-title')?.value === 'Pay € 120.00 to Harbour Power'")
	p.press(input.Enter)
	p.reads("[data-testid=notice]", "14 Dec")
	p.chooseSubject("Your journey to Utterhaven")
	p.reads("[data-fact=journey]", "leaves 4 Dec 10:05")
	p.press(input.Digit7)
	p.until("document.querySelector('#event-title')?.value === 'Train 214, Skagvik to Utterhaven' && document.querySelector('#event-place').value === 'Skagvik, platform 2'")
	p.reads("[data-testid=event-tray] [data-time]", "Fri 4 Dec, 10:05 to 12:40")
	p.press(input.Enter)
	p.until("!document.querySelector('[data-testid=event-tray]')")
	p.visit("/calendar")
	p.until("document.body.innerText.includes('Week')")
}

// A code comes in at once and is binned after an hour where that is chosen; it is copied by
// the key that copies.
func TestCodesForSigningIn(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.url, 1280, 800).enter()
	p.visit("/delivery")
	p.presses("section[aria-labelledby=through] button", "add$")
	p.presses("section[aria-labelledby=through] button", "codes for signing in")
	p.reads("[aria-labelledby=through] ul", "codes for signing in")
	p.setup("mail")
	p.presses("label", "what brings nothing but a code")
	p.reads("[data-testid=notice]", "What brings nothing but a code is binned after an hour")
	s.takesIn("From: Atlas account <no-reply@atlas.example>\r\nTo: solvei@skagvikmuseum.example\r\nSubject: Sign in\r\nAuto-Submitted: auto-generated\r\nMessage-ID: <code@atlas.example>\r\nDate: Tue, 24 Nov 2026 10:40:00 +0100\r\n\r\nYour sign-in code is 481920.\r\n")
	p.visit("/")
	p.chooseSubject("Sign in")
	p.reads("[data-fact=code]", "code 481 920")
	p.with(input.KeyC, input.ControlLeft)
	p.reads("[data-testid=notice]", "481920 is copied.")
	p.presses("[data-fact=code] button", "Copy")
	p.until("document.querySelector('[data-testid=notice]').textContent.includes('481920')")

	// Also from within the frame of a message.
	s.takesIn("From: Atlas account <no-reply@atlas.example>\r\nTo: solvei@skagvikmuseum.example\r\nSubject: Sign in again\r\nAuto-Submitted: auto-generated\r\nMessage-ID: <again@atlas.example>\r\nDate: Tue, 24 Nov 2026 10:41:00 +0100\r\nContent-Type: text/html\r\n\r\n<p>Your sign-in code is <b>775533</b>.</p>\r\n")
	p.MustReload()
	p.see("[data-slip]")
	p.chooseSubject("Sign in again")
	p.reads("[data-fact=code]", "code 775 533")
	p.until("document.querySelector('[data-testid=frame]')?.contentDocument?.querySelector('b')")
	p.MustElement("[data-testid=frame]").MustFrame().MustElement("p").MustClick()
	p.with(input.KeyC, input.ControlLeft)
	p.reads("[data-testid=notice]", "775533 is copied.")
}
