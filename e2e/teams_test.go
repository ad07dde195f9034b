package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"
)

// Two people make a team, work in its box, each with marks of their own, and one of them is
// removed from it again.
func TestATeamWorksInOneBox(t *testing.T) {
	t.Parallel()
	data := t.TempDir()
	s := run(t, "serve", "--data", data)
	solvei := open(t, s.url, 1280, 800)
	solvei.signUp("Solvei Arnkvist", "solvei@skagvik.example")
	solvei.see("[data-testid=begin]")
	solvei.setup("people")
	solvei.fill([2]string{"invited-name", "Jonas Reyland"}, [2]string{"invited-address", "jonas@skagvik.example"})
	solvei.does("Make an invitation")
	link := strings.TrimSpace(solvei.see("[data-testid=invitation-link] code").MustText())
	jonas := open(t, s.url, 1280, 800)
	jonas.MustNavigate(link)
	jonas.see("#name")
	jonas.fill([2]string{"password", "tide lorry crate"})
	jonas.does("Begin")
	jonas.see("[data-testid=codes]")
	jonas.does("I have kept them")
	jonas.see("[data-testid=begin]")

	solvei.setup("teams")
	solvei.reads("main", "You are in no team")
	solvei.does("Make the team")
	solvei.reads("#team-new-wrong", "Write what the team is called")
	solvei.fill([2]string{"team-new", "Loans"})
	solvei.does("Make the team")
	solvei.until("/^\\/in\\/\\d+\\/setup\\/team$/.test(location.pathname)")
	solvei.reads("[data-testid=team-head]", "Loans")
	solvei.reads("[data-testid=team-addresses]", "The team gets no mail yet")
	solvei.until("document.querySelector('[data-other=\"Jonas Reyland\"]')")
	solvei.does("Add")
	solvei.reads("[data-member='Jonas Reyland']", "since")
	solvei.reads("[data-testid=team-head]", "Jonas")

	box := filepath.Join(data, "loans.mbox")
	require.NoError(t, os.WriteFile(box, []byte("From x\nFrom: Halvard Lindqvist <halvard@lend.example>\nTo: loans@skagvik.example\nSubject: Clause seven\nMessage-ID: <1@lend.example>\nDate: Tue, 24 Nov 2026 09:00:00 +0000\n\nCould you look at clause seven by Friday?\n\nFrom x\nFrom: Lighthouse Trust <desk@trust.example>\nTo: loans@skagvik.example\nSubject: A loan for May\nMessage-ID: <2@trust.example>\nDate: Tue, 24 Nov 2026 08:00:00 +0000\n\nWould you lend us the almanac?\n"), 0o600))
	out, status := command(t, "import", "--data", data, "--team", "loans", box)
	require.Zero(t, status, out)
	require.Contains(t, out, "2 read, 2 new")

	jonas.MustReload()
	jonas.see("[data-testid=begin]") // nothing of it in his own box
	jonas.reads("[data-testid=box]", "Loans")
	jonas.reads("[data-testid=box]", "2")
	jonas.press(input.KeyB)
	jonas.reads("[data-testid=team-head]", "Loans")
	jonas.reads("[role=listbox]", "Clause seven")
	team := strings.TrimSuffix(jonas.MustInfo().URL, "/")
	jonas.reads("[role=listbox]", "A loan for May")
	solvei.MustNavigate(team)
	solvei.reads("[role=listbox]", "Clause seven")
	jonas.reads("main", "Nobody’s yet")
	jonas.reads("[role=option][aria-selected=true]", "without an owner")
	jonas.press(input.KeyT)
	jonas.reads("main", "Mine")
	jonas.reads("[data-testid=owner]", "Jonas Reyland")
	solvei.reads("main", "Jonas Reyland") // seen by all within a second
	solvei.presses("[role=option]", "Clause seven")
	solvei.reads("[role=option][aria-selected=true]", "Jonas")
	solvei.reads("[data-testid=owner]", "since")
	jonas.press(input.Digit4)
	jonas.see("#give-why").MustInput("you wrote that line")
	jonas.press(input.Enter)
	jonas.reads("[data-testid=notice], [role=status]", "Given to Solvei Arnkvist")
	jonas.reads("[data-testid=owner]", "Solvei Arnkvist")
	solvei.reads("main", "Mine")
	solvei.reads("[data-testid=owner]", "given by Jonas Reyland")
	solvei.reads("[data-testid=owner]", "you wrote that line")
	solvei.press(input.KeyT)
	solvei.until("!document.querySelector('main').textContent.includes('Mine')")
	jonas.until("document.querySelector('[data-testid=owner]')?.textContent.includes('Nobody yet')")

	jonas.press(input.NumpadMultiply)
	jonas.until("document.querySelector('[role=option] [data-testid=star], [role=option] [aria-label*=tar]')")
	jonas.press(input.Digit2)
	jonas.until("document.querySelectorAll('[role=option]').length === 1")
	solvei.until("document.querySelectorAll('[role=option]').length === 1") // decided once, seen by all within a second
	require.Zero(t, solvei.MustEval(`() => document.querySelectorAll('[role=option] [aria-label*=tarred]').length`).Int())
	solvei.press(input.KeyH)
	solvei.reads("main", "Jonas archived")
	solvei.reads("main", "to Solvei Arnkvist")

	solvei.press(input.Comma)
	solvei.reads("main", "Who works in this box")
	solvei.see("[data-member='Jonas Reyland']")
	solvei.does("Remove")
	solvei.see("[role=alertdialog]")
	solvei.MustEval(`() => [...document.querySelectorAll('[role=alertdialog] button')].find(b => b.textContent === 'Remove').click()`)
	solvei.until("!document.querySelector('[data-member=\"Jonas Reyland\"]')")
	jonas.see("[data-testid=no-member]") // at once, where he had it open
	jonas.MustNavigate(s.url)
	jonas.see("[data-testid=begin]")
	jonas.until("!document.querySelector('[data-testid=box]')")
	jonas.MustNavigate(team)
	jonas.reads("main", "You are not in this team")
	require.NotContains(t, jonas.MustElement("header").MustText(), "No connection")

	solvei.fill([2]string{"team-end", "loan"})
	end := func() {
		solvei.does("Delete the team")
		solvei.see("[role=alertdialog]")
		solvei.MustEval(`() => [...document.querySelectorAll('[role=alertdialog] button')].find(b => b.textContent === 'Delete the team').click()`)
	}
	end()
	solvei.reads("#team-end-wrong", "as it stands above")
	solvei.fill([2]string{"team-end", "Loans"})
	end()
	solvei.until("location.pathname === '/'")
	solvei.see("[data-testid=begin]")
	solvei.until("!document.querySelector('[data-testid=box]')")
}
