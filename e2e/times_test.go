package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// Words that people understand in two ways are shown in both, and one of them is
// taken by a key; a span is read where mail is held; weeks begin when one says.
func TestTimesInWordsAreShownBothWays(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.press(input.Digit5).see("#snooze-phrase")
	p.write("next fri")
	p.reads("#snooze-phrase-means", "Fri 4 Dec, 8:00")
	p.reads("[data-testid=snooze-tray]", "or Fri 27 Nov, 8:00")
	p.press(input.ArrowDown)
	p.reads("#snooze-phrase-means", "Fri 27 Nov, 8:00")
	p.reads("[data-testid=snooze-tray]", "or Fri 4 Dec, 8:00")
	p.press(input.Enter).leftIs(n - 1)
	p.reads("[data-testid=notice]", "Back Fri 27 Nov, 8:00.")

	p.press(input.Digit5).see("#snooze-phrase")
	p.write("tomorow")
	p.reads("#snooze-phrase-means", "Do you mean “tomorrow”?")
	p.press(input.Escape)

	p.with(input.F7, input.ShiftLeft).see("[data-testid=hold-tray]")
	p.until("document.activeElement.id === 'hold-until'")
	p.write("for 2 h")
	p.reads("[data-testid=hold-until-means]", "Tue 24 Nov, 12:4")
	p.press(input.Escape)

	p.setup("week")
	p.presses("[role=radio]", "Sun")
	p.reads("[data-testid=notice]", "Weeks begin on Sunday.")
	p.visit("/calendar")
	p.until("document.querySelector('main').textContent.indexOf('Sun') < document.querySelector('main').textContent.indexOf('Mon')")
}
