package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"
)

// Numbers say in a sentence what a week came to; each opens to its list, which counts as many; its table
// stands behind each picture, and the keys go from week to week.
func TestNumbersOpenToWhatTheyCount(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.visit("/numbers")
	p.reads("h1", "The week so far")
	p.press(input.ArrowLeft)
	p.reads("h1", "Week from Mon 16 Nov")
	p.until("document.querySelectorAll('[data-testid=more] tbody a').length > 5")
	p.reads("[data-testid=said]", "were decided")
	numbers := p.MustEval(`() => [...document.querySelectorAll('[data-testid=more] tbody tr, [data-testid=hours] td')].map((e) => e.querySelector('a')).filter(Boolean)
		.map((a) => [a.getAttribute('href'), a.textContent.trim()])`).Arr()
	require.Greater(t, len(numbers), 20)
	for _, n := range numbers {
		to, count := n.Arr()[0].Str(), n.Arr()[1].Str()
		p.MustEval("(to) => window.history.pushState(null, '', to)", to)
		p.MustEval("() => window.dispatchEvent(new PopStateEvent('popstate'))")
		p.until("location.href.endsWith(%q) && document.querySelector('[data-testid=counted]')?.textContent.endsWith(': ' + %q)", to, count)
		p.see("[data-testid=counted-line]")
	}

	p.visit("/numbers")
	p.reads("h1", "The week so far")
	p.press(input.ArrowLeft)
	p.reads("h1", "Week from Mon 16 Nov")
	p.click("[data-testid=hours] td a")
	p.see("[data-testid=counted-line]")
	p.press(input.Enter)
	p.see("article")
	p.visit("/numbers")
	p.reads("h1", "The week so far")
	p.press(input.ArrowLeft)
	p.reads("h1", "Week from Mon 16 Nov")
	p.click("[data-testid=became] button")
	p.until("document.querySelectorAll('[data-testid=became] tbody tr').length > 2")
	sum := p.MustEval("() => [...document.querySelectorAll('[data-testid=became] tbody tr')].reduce((n, r) => n + Number(r.lastChild.textContent), 0)").Int()
	p.until("document.querySelector('[data-testid=said]').textContent.includes(%d + ' were decided')", sum)
	p.presses("[data-testid=became] button", "As a file")
	p.click("[data-testid=became] button")
	p.until("document.querySelector('[data-testid=became] svg path')")
	p.MustElement("[data-testid=became] svg a").MustFocus()
	p.press(input.Enter)
	p.see("[data-testid=counted-line]")
	p.press(input.AltLeft)

	p.visit("/numbers")
	p.reads("h1", "The week so far")
	p.press(input.ArrowLeft)
	p.until("document.querySelectorAll('[data-testid=zeros] [role=listitem]').length === 35")
	p.until("document.querySelector('[data-testid=zeros] [data-zero=true]')")
	p.until("location.search.includes('at=')")
	p.MustReload()
	p.reads("h1", "Week from Mon 16 Nov")
	p.presses("button[role=radio]", "Year")
	p.reads("h1", "The year so far")
	p.see("[data-testid=days] svg")
}
