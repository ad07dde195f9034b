package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"
)

// Conversations are kept open as tabs: each with the answer that was begun and the file
// beside it, also after a reload; keys go between them and the queue, which stands where it
// was.
func TestConversationsAreKeptOpen(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.url, 1280, 800).enter()
	tabs := func() []string {
		var out []string
		for _, b := range p.MustElements("[data-testid=open-tabs] span > button:first-child") {
			out = append(out, b.MustEval("() => this.querySelector('span').textContent + (this.getAttribute('aria-current') ? ' *' : '')").Str())
		}
		return out
	}
	p.chooseSubject("Water under the skylight")
	p.press(input.F6)
	p.until("document.querySelectorAll('[data-testid=open-tabs] button').length === 3")
	p.chooseSubject("Customs form for the lagoon map")
	p.press(input.F6)
	p.until("document.querySelectorAll('[data-testid=open-tabs] button').length === 5")
	require.Equal(t, []string{"Water under the skylight", "Customs form for the lagoon map"}, tabs())

	p.with(input.F6, input.ControlLeft) // to the first of them
	p.shows("Water under the skylight")
	p.until("location.pathname.startsWith('/c/') && document.querySelector('[data-testid=open-tabs] [aria-current]').textContent.includes('Water under')")
	p.answering()
	p.write("Dear Eskil, agreed.")
	p.until("[...document.querySelectorAll('textarea')].some(e => e.value.includes('agreed'))")
	p.with(input.F6, input.ControlLeft) // also while one writes
	p.shows("Customs form for the lagoon map")
	p.until("!document.querySelector('textarea')")
	p.reads("[data-testid=open-tabs]", "draft")

	p.MustReload()
	p.shows("Customs form for the lagoon map")
	p.until("document.querySelectorAll('[data-testid=open-tabs] button').length === 5")
	p.with(input.F6, input.ControlLeft, input.ShiftLeft)
	p.shows("Water under the skylight")
	p.until("[...document.querySelectorAll('textarea')].some(e => e.value.includes('Dear Eskil, agreed.'))")

	p.presses("[data-testid=open-tabs] button", "Queue")
	p.until("location.pathname === '/'")
	p.shows("Customs form for the lagoon map") // where it was
	require.Equal(t, "Queue", p.MustElement("[data-testid=open-tabs] [aria-current]").MustText())

	// A tab is closed by its button, by the key, and by a decision.
	p.click("[data-testid=open-tabs] button[aria-label^='Close Water']")
	p.until("document.querySelectorAll('[data-testid=open-tabs] button').length === 3")
	p.with(input.F6, input.ControlLeft)
	p.until("document.querySelector('[data-testid=open-tabs] [aria-current]').textContent.includes('Customs form')")
	p.press(input.Digit2)
	p.until("location.pathname === '/' && !document.querySelector('[data-testid=open-tabs]')")
	p.press(input.F6)
	p.see("[data-testid=open-tabs]")
	p.press(input.F6)
	p.until("!document.querySelector('[data-testid=open-tabs]')")
}
