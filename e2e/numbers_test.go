package e2e

import (
	"fmt"
	"strings"
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
	p.see("[data-testid=numbers][aria-busy=false]")
	p.until("document.querySelectorAll('[data-testid=more] tbody a').length > 5")
	opens := func(of string) int {
		t.Helper()
		numbers := p.MustEval("(of) => [...document.querySelectorAll(of)].map((e) => e.querySelector('a')).filter(Boolean).map((a) => [a.getAttribute('href'), a.textContent.trim()])", of).Arr()
		for _, n := range numbers {
			to, count := n.Arr()[0].Str(), n.Arr()[1].Str()
			p.MustEval("(to) => window.history.pushState(null, '', to)", to)
			p.MustEval("() => window.dispatchEvent(new PopStateEvent('popstate'))")
			p.until("location.href.endsWith(%q) && document.querySelector('[data-testid=counted]')?.textContent.endsWith(': ' + %q)", to, count)
			p.see("[data-testid=counted-line]")
		}
		return len(numbers)
	}
	require.Greater(t, opens("[data-testid=more] tbody tr, [data-testid=hours] td"), 20)

	p.visit("/numbers") // this week there is a plan that holds mail
	p.reads("h1", "The week so far")
	p.reads("[data-testid=held] p", "half came in within")
	require.Greater(t, opens("[data-testid=held] li"), 1)
	p.visit("/numbers")
	p.reads("h1", "The week so far")
	p.presses("button[role=radio]", "Year")
	p.reads("h1", "The year so far")
	p.reads("[data-testid=ruled] p", "Rules did something 5 times; 1 of it was taken back")
	p.until("document.querySelectorAll('[data-testid=ruled] td a').length === 3")
	require.Equal(t, 3, opens("[data-testid=ruled] td"))
	p.until("[...document.querySelectorAll('[data-testid=counted-line]')].every((l) => l.textContent.includes('[choir]') && !l.textContent.includes('red folder'))")
	shown := p.MustEval(`async () => {
		const s = await (await fetch('/api/v1/session')).json()
		const body = JSON.stringify({ readings: [], notices: [{ at: Date.now(), text: 'The 9:00 round brought 21 conversations.' }, { at: Date.now(), text: 'Reminder: ring the harbour office' }] })
		return (await fetch('/api/v1/noted', { method: 'POST', headers: { 'Content-Type': 'application/json', 'X-Ebbe-Token': s.csrf }, body })).ok
	}`).Bool()
	require.True(t, shown)
	p.visit("/numbers") // where it is the day of the demo, and what was shown is put right to it
	p.presses("button[role=radio]", "^Year")
	p.reads("h1", "The year so far")
	p.until("document.querySelector(\"[data-testid=more] a[href^='/numbers/notices']\")?.textContent === '2'")
	p.click("[data-testid=more] a[href^='/numbers/notices']")
	p.reads("[data-testid=counted]", ": 2")
	p.until("document.querySelectorAll('[data-testid=counted-line]').length === 2")
	p.visit("/numbers")
	p.presses("button[role=radio]", "^Week")

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

// Who answers how is a table each number of which opens to as many; people are sorted by what stands
// between; the coming six weeks say what a Friday off would do; what is noted about somebody stays.
func TestAnswersPeopleAndWhatIsAhead(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.visit("/numbers")
	p.reads("h1", "The week so far")
	p.press(input.Digit2)
	p.see("[data-testid=answers]")
	p.press(input.ArrowLeft)
	p.reads("h1", "Week from Mon 16 Nov")
	p.reads("[data-testid=said]", "of your working hours")
	p.presses("[role=radio]", "^Domain")
	p.see("[data-testid=answers][aria-busy=false] [data-row='museodelmare.example']")
	numbers := p.MustEval(`() => [...document.querySelectorAll('[data-testid=answers-table] td a, [data-testid=own-answers] p a, [data-testid=their-answers] p a')]
		.map((a) => [a.getAttribute('href'), a.textContent.match(/[0-9]+/)[0]])`).Arr()
	require.Greater(t, len(numbers), 10)
	for _, n := range numbers {
		to, count := n.Arr()[0].Str(), n.Arr()[1].Str()
		p.MustEval("(to) => window.history.pushState(null, '', to)", to)
		p.MustEval("() => window.dispatchEvent(new PopStateEvent('popstate'))")
		p.until("location.href.endsWith(%q) && document.querySelector('[data-testid=counted]')?.textContent.endsWith(': ' + %q)", to, count)
		p.until("document.querySelectorAll('[data-testid=counted-line]').length === %q * 1", count)
	}

	p.visit("/numbers")
	p.reads("h1", "The week so far")
	p.press(input.Digit3)
	p.reads("[data-testid=said]", "waits for you longest")
	p.until("document.querySelectorAll('[data-testid=people-table] tbody tr').length > 10")
	first := p.text("[data-testid=people-table] tbody tr th")
	p.reads("[data-testid=said]", first+" waits for you longest")
	p.presses("[data-testid=people-table] thead button", "^Person")
	p.until("document.querySelector('[data-testid=people-table] th[aria-sort=descending]').textContent.startsWith('Person')")
	names := p.MustEval("() => [...document.querySelectorAll('[data-testid=people-table] tbody th')].map((e) => e.textContent)").Arr()
	for i := range names[1:] {
		require.LessOrEqual(t, p.MustEval("(a, b) => a.localeCompare(b)", names[i].Str(), names[i+1].Str()).Int(), 0)
	}
	p.press(input.ArrowDown, input.ArrowDown, input.Enter)
	p.see("[data-testid=person]")
	p.does("Note something about them")
	p.until("document.activeElement.tagName === 'TEXTAREA'")
	p.write("Rings before nine, never writes twice.")
	p.with(input.Enter, input.ControlLeft)
	p.reads("[data-testid=remark]", "Rings before nine")
	p.MustReload()
	p.reads("[data-testid=remark]", "never writes twice.")

	p.visit("/numbers")
	p.reads("h1", "The week so far")
	p.press(input.Digit4)
	p.reads("h1", "The coming six weeks")
	p.until("document.querySelectorAll('[data-day]').length === 42")
	p.press(input.KeyX)
	p.reads("[data-testid=off]", "With Fri 27 Nov off")
	p.see("[data-day='2026-11-27'][aria-pressed=true]")
	p.until("location.search.includes('off=2026-11-27')")
	p.does("Take no day off")
	p.reads("[data-testid=off]", "What if you took a day off?")
	p.reads("[data-testid=proved]", "What would have been foreseen each morning of eight weeks was")
	p.reads("[data-testid=proved]", "too few days to say") // of the days that ended at zero
	proved := p.MustEval(`() => [...document.querySelectorAll('[data-testid=proved] tbody tr')].map((r) => [...r.cells].map((c) => c.textContent))`).Arr()
	require.Len(t, proved, 3)
	nearer := 0
	for _, r := range proved {
		if row := r.Arr(); len(row) == 4 {
			var ours, plain float64
			_, err := fmt.Sscan(row[1].Str(), &ours)
			require.NoError(t, err)
			_, err = fmt.Sscan(row[2].Str(), &plain)
			require.NoError(t, err)
			if ours < plain {
				nearer++
			}
		}
	}
	said := map[int]string{0: "no nearer to what happened", 1: "in 1 of 2", 2: "in all of these"}[nearer]
	p.reads("[data-testid=proved] p", said)
	sum := p.MustEval("() => [...document.querySelectorAll('[data-testid=inbox-ages] a')].reduce((n, a) => n + Number(a.textContent), 0)").Int()
	require.Equal(t, p.left(), sum)
	count := p.text("[data-testid=inbox-ages] a")
	p.click("[data-testid=inbox-ages] a")
	p.reads("[data-testid=counted]", count)
	p.until("document.querySelectorAll('[data-testid=counted-line]').length === %q * 1", count)
}

// Of those of the demo who have no mail of their own nobody can say whether forecasts were true, and nobody does.
func TestNothingIsSaidOfWhatIsNotKnown(t *testing.T) {
	t.Parallel()
	s := demo(t)
	for _, first := range []string{"jonas", "priya", "tomasz"} {
		p := open(t, strings.Replace(s.url, "127.0.0.1", first+".localhost", 1), 1280, 800)
		p.presses("main button", "Open")
		p.see("nav [data-testid=box]")
		p.visit("/numbers")
		p.reads("[data-testid=said]", "Nothing has been decided yet.")
		p.reads("[data-testid=ruled] p", "No rule did anything")
		p.reads("[data-testid=held] p", "Nothing was held")
		p.press(input.Digit4)
		p.reads("h1", "The coming six weeks")
		p.reads("[data-testid=proved] p", "too few mornings")
		p.MustClose()
	}
}

// What follows from a week is done or refused at a key; the plan from here to zero leads to its first step,
// and shows how far one has come.
func TestAWeekInReviewAndDiggingOut(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.visit("/numbers")
	p.reads("h1", "The week so far")
	p.press(input.Digit5)
	p.reads("h1", "The week in review")
	p.until("document.querySelectorAll('[data-testid=review-lines] > li').length > 5")
	p.until("document.querySelectorAll('[data-offer]').length === 3")
	offers := p.MustEval("() => [...document.querySelectorAll('[data-offer]')].map((e) => e.dataset.offer)").Arr()
	p.with(input.KeyR, input.ShiftLeft)
	p.reads("[data-testid=review-said]", "will not be offered again")
	p.until("!document.querySelector('[data-offer=%q]')", offers[1].Str())
	p.press(input.KeyE)
	p.reads("[data-testid=review-said]", "Saved")
	p.until("!document.querySelector('[data-offer=%q]')", offers[0].Str())
	p.MustReload()
	p.see("[data-offer]")
	p.until("!document.querySelector('[data-offer=%q]') && !document.querySelector('[data-offer=%q]')", offers[0].Str(), offers[1].Str())
	p.click("#review-on")
	p.until("document.querySelector('#review-at')?.value === '16:00'")

	p.press(input.Digit6)
	p.reads("h1", "From here to zero")
	p.reads("[data-testid=dig-plan]", "one by one")
	p.presses("[role=radio]", "^10 min")
	p.reads("[data-testid=said]", "With 10 min each working day")
	p.does("Begin")
	p.reads("[data-testid=dig-progress]", "there were 27, now there are 27")
	p.MustReload()
	p.reads("[data-testid=dig-progress]", "there were 27")
	p.press(input.KeyE)
	p.see("[data-testid=sit-tray]")
}
