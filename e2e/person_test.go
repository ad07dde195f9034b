package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"
)

// A few letters in the palette open the page of a person: what each owes the other, how
// they answer, and all between the two, gone through by keys and filtered by kind; their
// files stand on one page.
func TestThePageOfAPerson(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.with(input.KeyK, input.ControlLeft).see("#palette")
	p.write("halv lind")
	p.reads("#palette-list [aria-selected=true]", "Halvard Lindqvist")
	p.press(input.Enter)
	p.until("decodeURIComponent(location.pathname) === '/person/halvard@lindqvist-instruments.example'")
	p.reads("h1", "Halvard Lindqvist")
	p.reads("[aria-label='They owe you']", "Clause 7 of the loan agreement")
	p.reads("[aria-label='You owe them']", "Loan agreement: one clause still open")
	p.reads("[data-testid=answers]", "You usually answer within 11 h, they within 19 h.")
	require.Greater(t, p.MustEval("() => document.querySelectorAll('[aria-label$=\", you\"] li').length").Int(), 10)
	rows := "[...document.querySelectorAll('[role=grid] [role=row]')]"
	p.until("%s.length > 20", rows)
	p.press(input.ArrowDown, input.ArrowDown)
	p.until("%s[2].getAttribute('tabindex') === '0'", rows)
	p.presses("button", "Follow-ups")
	p.until("location.search.includes('kind=follow-ups') && %s.every(r => r.textContent.includes('follow-up'))", rows)
	p.MustReload()
	p.until("location.search.includes('kind=follow-ups') && %s.length > 0 && %s.every(r => r.textContent.includes('follow-up'))", rows, rows)
	p.presses("button", "Mail")
	p.until("%s[0].textContent.includes('one clause still open')", rows)
	p.press(input.Enter)
	p.reads("[data-testid=subject]", "Loan agreement: one clause still open")
	p.MustNavigateBack()
	p.see("[data-testid=person]")
	p.presses("a", "All 12 files")
	p.until("location.pathname.endsWith('/files') && document.querySelectorAll('[role=row]').length === 12")
	p.press(input.Escape)
	p.see("[data-testid=person]")
}
