package e2e

import (
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"
)

// level is how full the gauge of the slip with that subject stands.
func (p *page) level(subject string) int {
	p.t.Helper()
	return p.MustEval(`s => { const slip = [...document.querySelectorAll('[data-slip]')].find((x) => x.textContent.includes(s)); return Number(slip?.querySelector('.gauge')?.dataset.level ?? -2) }`, subject).Int()
}

// What matters most stands first, says why, and is corrected by a key, which says what
// else it moved; the correction stands in Setup and is taken away there.
func TestWhatMattersFirst(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.letters("-").see("[data-testid=arrange-tray]")
	p.does("by importance")
	p.press(input.Escape)
	p.until("document.querySelector('[data-group=high]') && !document.querySelector('[data-testid=arrange-tray]')")
	p.top()
	levels := p.MustEval(`() => [...document.querySelectorAll('[data-slip] .gauge')].map((g) => Number(g.dataset.level))`).Arr()
	require.Greater(t, len(levels), 4)
	require.Equal(t, 4, levels[0].Int())

	p.choose("Oona Varga")
	subject := p.text("[data-testid=subject]")
	require.Equal(t, 4, p.level(subject))
	why := p.text("[data-testid=importance]")
	require.Contains(t, strings.ToLower(why), "you answered oona varga")
	p.with(input.ArrowDown, input.ControlLeft)
	p.reads("[data-testid=notice]", "Not important.")
	p.reads("[data-testid=notice]", "in the inbox moved by it.")
	p.reads("[data-testid=importance]", "You said so.")
	p.until("[...document.querySelectorAll('[data-slip]')].filter((x) => x.textContent.includes(%q)).every((x) => x.querySelector('.gauge').dataset.level === '0')", subject)
	p.shows(subject)
	p.with(input.KeyZ, input.ControlLeft)
	p.shows(subject)
	p.until("document.querySelector('[data-testid=importance]')?.innerText === %q", why)

	p.does("It is not")
	p.reads("[data-testid=importance]", "You said so.")
	p.letters(":")
	p.until("document.querySelector('.inbox-grid.close')")
	p.reads("[data-testid=because]", "because you said so")
	p.visit("/setup")
	p.presses("a", "What Ebbe has learned")
	p.reads("[data-testid=proof]", "you acted on only one")
	p.reads("[data-correction]", "not important")
	p.presses("[data-correction] button", "Remove")
	p.until("!document.querySelector('[data-correction]')")
	p.visit("/")
	p.until("document.querySelector('.inbox-grid.close') && document.querySelector('[data-slip]')")
	p.letters(":").see("article")
	p.until("[...document.querySelectorAll('[data-slip]')].filter((x) => x.textContent.includes(%q)).every((x) => x.querySelector('.gauge').dataset.level === '4')", subject)
}
