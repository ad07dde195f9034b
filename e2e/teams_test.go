package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"
)

// two are Solvei, who began this Ebbe, and Jonas, whom she invited, each in their own box.
func two(t *testing.T) (s *server, data string, solvei, jonas *page) {
	t.Helper()
	data = t.TempDir()
	s = run(t, "serve", "--data", data)
	solvei = open(t, s.url, 1280, 800)
	solvei.signUp("Solvei Arnkvist", "solvei@skagvik.example")
	solvei.see("[data-testid=begin]")
	solvei.setup("people")
	solvei.fill([2]string{"invited-name", "Jonas Reyland"}, [2]string{"invited-address", "jonas@skagvik.example"})
	solvei.does("Make an invitation")
	link := strings.TrimSpace(solvei.see("[data-testid=invitation-link] code").MustText())
	jonas = open(t, s.url, 1280, 800)
	jonas.MustNavigate(link)
	jonas.see("#name")
	jonas.fill([2]string{"password", "tide lorry crate"})
	jonas.does("Begin")
	jonas.see("[data-testid=codes]")
	jonas.does("I have kept them")
	jonas.see("[data-testid=begin]")
	return s, data, solvei, jonas
}

// Two people make a team, work in its box, each with marks of their own, and one of them is
// removed from it again.
func TestATeamWorksInOneBox(t *testing.T) {
	t.Parallel()
	s, data, solvei, jonas := two(t)

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

	// What is said among them: on its own ground, at once before the other, who is told.
	solvei.reads("[data-testid=subject]", "A loan for May")
	jonas.reads("[data-testid=subject]", "A loan for May")
	jonas.press(input.KeyC)
	jonas.reads("[data-testid=comment-tray]", "nobody outside sees it")
	jonas.reads("[data-testid=callable]", "@Solvei Arnkvist")
	jonas.see("#comment").MustInput("We have **two** of it. @so")
	jonas.reads("[data-testid=callable]", "Tab takes the first")
	jonas.press(input.Tab)
	jonas.until("document.querySelector('#comment').value.endsWith('@Solvei Arnkvist ')")
	jonas.see("#comment").MustInput("would you answer?")
	jonas.press(input.Enter)
	jonas.reads("[data-testid=comment]", "We have two of it. @Solvei Arnkvist would you answer?")
	solvei.reads("[data-testid=comment]", "would you answer?")
	solvei.reads("body", "Jonas Reyland, Loans: We have two of it.")
	solvei.reads("[data-testid=following]", "Solvei, Jonas")
	solvei.press(input.KeyC)
	solvei.see("#comment").MustInput("I do. @Jonas")
	solvei.press(input.Enter)
	solvei.until("document.querySelectorAll('[data-testid=comment]').length === 2")
	jonas.until("document.querySelectorAll('[data-testid=comment]').length === 2")
	solvei.MustEval(`() => [...document.querySelectorAll('[data-testid=comment] button')].find(b => b.textContent === 'Change').click()`)
	solvei.until("document.querySelector('#comment')?.value === 'I do. @Jonas'")
	solvei.see("#comment").MustSelectAllText().MustInput("Done by noon.")
	solvei.press(input.Enter)
	jonas.reads("[data-testid=comment]:nth-of-type(2), main", "Done by noon.")
	jonas.reads("main", "changed")

	jonas.press(input.KeyB) // in his own box he hears of it, too
	jonas.until("location.pathname === '/'")
	jonas.see("[data-testid=begin]")
	solvei.press(input.KeyC)
	solvei.see("#comment").MustInput("@Jonas see page three")
	solvei.press(input.Enter)
	jonas.reads("body", "Solvei Arnkvist, Loans: @Jonas see page three")
	jonas.press(input.KeyV)
	jonas.reads("[data-testid=concern]", "A loan for May")
	jonas.reads("[data-testid=concern]", "calls you: “@Jonas see page three”")
	jonas.reads("[data-testid=unheard]", "new")
	jonas.press(input.Enter)
	jonas.until("/^\\/in\\/\\d+\\/c\\/\\d+$/.test(location.pathname)")
	jonas.reads("[data-testid=comment]:last-of-type, main", "see page three")
	jonas.press(input.KeyV)
	jonas.reads("[data-testid=concern]", "A loan for May")
	jonas.until("!document.querySelector('[data-testid=unheard]')") // it has been seen

	// While one writes an answer the other sees it, and is stopped before a second one goes.
	jonas.press(input.KeyI)
	jonas.reads("[data-testid=subject]", "A loan for May")
	jonas.press(input.Digit3)
	jonas.see("#reply").MustInput("Dear all, we have two of it.")
	solvei.reads("[data-testid=writing-now]", "Jonas is writing an answer")
	solvei.reads("[data-testid=writing-now]", "Dear all, we have two of it.")
	solvei.does("look")
	solvei.reads("[data-testid=writing-now]", "look no more")
	solvei.press(input.Digit3)
	solvei.see("#reply").MustInput("We lend it gladly.")
	solvei.MustEval("() => document.querySelector('[data-testid=send]').click()")
	solvei.reads("[data-testid=asks]", "Jonas Reyland has been writing an answer")
	solvei.reads("[data-testid=asks]", "Send yours all the same?")
	solvei.does("Not yet")
	solvei.press(input.Escape)
	jonas.reads("[data-testid=writing-now]", "Solvei is writing an answer")
	jonas.press(input.Escape)
	solvei.until("!document.querySelector('#reply')")

	solvei.press(input.KeyH)
	solvei.reads("main", "commented on")
	solvei.reads("main", "Jonas archived")
	solvei.reads("main", "to Solvei Arnkvist")
	solvei.MustEval(`() => [...document.querySelectorAll('[data-entry]')].find(e => e.textContent.includes('Jonas archived')).querySelector('button').click()`)
	solvei.reads("body", "Taken back what Jonas Reyland did")
	jonas.reads("body", "took back what you did")

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

// A conversation of one's own is shared with a team by a key: it is there at once, both see who of
// them has it open, and what comes to either comes to both. The team answers by the name of whoever
// does.
func TestAConversationIsShared(t *testing.T) {
	t.Parallel()
	_, data, solvei, jonas := two(t)
	box := filepath.Join(data, "own.mbox")
	letters := []string{"From x\nFrom: Mirela Dossett <mirela@coastline.example>\nTo: solvei@skagvik.example\nSubject: A second night\nMessage-ID: <1@lend.example>\nDate: Fri, 27 Nov 2026 16:20:00 +0000\n\nThe crate stood a second night with us. Who pays?\n\n",
		"From x\nFrom: Mirela Dossett <mirela@coastline.example>\nTo: solvei@skagvik.example\nSubject: Re: A second night\nMessage-ID: <2@lend.example>\nIn-Reply-To: <1@lend.example>\nDate: Fri, 27 Nov 2026 17:20:00 +0000\n\nThe watchman asks for his wage.\n\nOn Friday I wrote:\n> The crate stood a second night with us. Who pays?\n\n"}
	require.NoError(t, os.WriteFile(box, []byte(strings.Join(letters, "")), 0o600))
	out, status := command(t, "import", "--data", data, "--for", "solvei@skagvik.example", box)
	require.Zero(t, status, out)
	solvei.visit("/")
	solvei.reads("[role=listbox]", "A second night")
	solvei.with(input.KeyT, input.ShiftLeft)
	solvei.reads("[data-testid=share-tray]", "You are in no team yet")
	solvei.press(input.Escape)
	solvei.setup("teams")
	solvei.fill([2]string{"team-new", "Loans"})
	solvei.does("Make the team")
	solvei.until("document.querySelector('[data-other=\"Jonas Reyland\"]')")
	solvei.does("Add")
	solvei.reads("[data-testid=team-head]", "Jonas")

	solvei.visit("/")
	solvei.reads("[role=listbox]", "A second night")
	solvei.with(input.KeyT, input.ShiftLeft)
	solvei.reads("[data-testid=share-tray]", "2 people will see it")
	solvei.presses("[data-testid=share-tray] [role=radio]", "From the newest")
	solvei.reads("[data-testid=share-warning]", "quotes earlier ones")
	solvei.see("#share-why").MustInput("Does our insurance pay this?")
	solvei.press(input.Enter)
	solvei.reads("[data-testid=shared]", "Shared with Loans")
	solvei.reads("[data-testid=shared]", "Nobody has it there yet")

	jonas.until("document.querySelector('[data-testid=box]')?.textContent.includes('1')")
	jonas.press(input.KeyB)
	jonas.reads("[role=listbox]", "A second night")
	jonas.reads("[data-testid=shared]", "Solvei Arnkvist shared it with the team")
	jonas.reads("[data-testid=shared]", "Does our insurance pay this?")
	jonas.reads("article", "The watchman asks for his wage.")
	jonas.until("!document.querySelector('main').innerText.includes('Who pays?')") // folded, and not shared besides
	jonas.press(input.KeyT)
	solvei.reads("[data-testid=shared]", "Jonas Reyland has it there")

	solvei.MustElement("[data-testid=shared] a").MustClick()
	solvei.reads("[data-testid=reading-now]", "Jonas has it open, too")
	jonas.reads("[data-testid=reading-now]", "Solvei has it open, too")
	solvei.visit("/")
	jonas.until("!document.querySelector('[data-testid=reading-now]')")

	require.NoError(t, os.WriteFile(box, []byte("From x\nFrom: Mirela Dossett <mirela@coastline.example>\nTo: loans@skagvik.example\nSubject: Re: A second night\nMessage-ID: <3@lend.example>\nIn-Reply-To: <2@lend.example>\nDate: Sat, 28 Nov 2026 07:20:00 +0000\n\nIt is ninety.\n"), 0o600))
	out, status = command(t, "import", "--data", data, "--team", "loans", box)
	require.Zero(t, status, out)
	solvei.reads("main", "It is ninety.")
	solvei.does("End sharing")
	solvei.reads("[data-testid=shared]", "Was shared with Loans")
	solvei.with(input.KeyZ, input.ControlLeft)
	solvei.reads("[data-testid=shared]", "Shared with Loans")
}

// In the demo one is several people in several windows, each signed in at a name of this machine: what
// one does the other sees, and the colleagues go about their day as the clock is moved.
func TestBeingSomebodyElse(t *testing.T) {
	t.Parallel()
	s := demo(t)
	solvei := open(t, s.url, 1280, 800).enter()
	solvei.reads("[data-testid=box]", "Loans")
	solvei.does("Demo clock")
	to := *solvei.see("[data-testid=others] a").MustAttribute("href")
	require.Contains(t, to, "://jonas.localhost:")
	solvei.press(input.Escape)
	jonas := open(t, to, 1280, 800)
	jonas.reads("main", "You are Jonas Reyland, of the loans team")
	jonas.does("Open the museum’s inbox")
	jonas.reads("[data-testid=box]", "Loans")
	for _, p := range []*page{solvei, jonas} {
		p.press(input.KeyB)
		p.presses("[role=option]", "A second night")
		p.reads("[data-testid=subject]", "A second night")
	}
	solvei.reads("[data-testid=owner]", "Jonas Reyland")
	solvei.reads("[data-testid=writing-now]", "weather falls to the lender")
	solvei.reads("[data-testid=reading-now]", "Jonas has it open, too")
	jonas.until("[...document.querySelectorAll('[data-testid=comment]')].some(c => c.textContent.includes('would you tell Halvard'))")
	jonas.press(input.KeyC)
	jonas.see("#comment").MustInput("I tell him myself.")
	jonas.press(input.Enter)
	solvei.until("[...document.querySelectorAll('[data-testid=comment]')].some(c => c.textContent.includes('I tell him myself.'))")
	solvei.does("Demo clock")
	solvei.does("+ 1 hour")
	solvei.until("!document.querySelector('[role=listbox]').textContent.includes('2 h without an owner')") // Tomasz has taken it
	solvei.presses("[role=option]", "Light under")
	solvei.reads("[data-testid=owner]", "Tomasz Ilk")
	solvei.until("[...document.querySelectorAll('[role=option]')].some(o => o.textContent.includes('It is ninety'))") // Jonas has answered, and been answered

	solvei.press(input.KeyF)
	solvei.does("By owner")
	solvei.reads("[data-lane='Jonas Reyland']", "Mirela")
	solvei.reads("[data-lane='Nobody’s yet']", "Nobody’s yet")
	solvei.with(input.KeyV, input.ShiftLeft) // all her own, of the team nothing yet
	solvei.reads("main", "Yours, in all boxes")
	solvei.until("document.querySelectorAll('[data-testid=mine]').length > 3")
	jonas.with(input.KeyV, input.ShiftLeft)
	jonas.reads("[data-testid=mine]", "Mirela")
	jonas.reads("[data-testid=mine]", "Loans")
	jonas.press(input.Enter)
	jonas.reads("[data-testid=subject]", "A second night")
}

// What somebody of a team has written goes to another to be approved, with what is asked, and back
// again; files dropped on the conversation are said to all of them; a board by owner says how much of
// it is due today; a rule of the team can give.
func TestAnAnswerIsApproved(t *testing.T) {
	t.Parallel()
	s := demo(t)
	solvei := open(t, s.url, 1280, 800).enter()
	solvei.reads("[data-testid=box]", "Loans")
	solvei.does("Demo clock")
	jonas := open(t, *solvei.see("[data-testid=others] a").MustAttribute("href"), 1280, 800)
	solvei.press(input.Escape)
	jonas.does("Open the museum’s inbox")
	for _, p := range []*page{solvei, jonas} {
		p.reads("[data-testid=box]", "Loans")
		p.press(input.KeyB)
		p.presses("[role=option]", "Photographs of the sounding")
		p.reads("[data-testid=subject]", "Photographs of the sounding")
	}
	jonas.press(input.Digit3)
	jonas.until("document.activeElement.id === 'reply'")
	jonas.write("Dear Mr Pávlou, yes, both.")
	jonas.does("Give to…")
	jonas.reads("[data-testid=give-draft]", "Give the draft to")
	jonas.option("#give-draft-to", "Solvei Arnkvist")
	jonas.see("#give-draft-why").MustInput("please approve and send")
	jonas.press(input.Enter)
	jonas.until("!document.querySelector('#reply')")
	jonas.reads("[data-testid=writing-now]", "given by Jonas (“please approve and send”)")
	solvei.see("[data-testid=draft]").MustClick() // by the plan of her own box she is told of it later
	solvei.reads("[data-testid=given-draft]", "Jonas gave you this draft")
	solvei.reads("[data-testid=given-draft]", "please approve and send")
	require.Equal(t, "Dear Mr Pávlou, yes, both.", solvei.MustEval(`() => document.querySelector('#reply').value`).Str())
	solvei.does("Give to…")
	solvei.see("#give-draft-why").MustInput("with the name of the photographer")
	solvei.does("Give")
	solvei.until("!document.querySelector('#reply')")
	jonas.reads("body", "with the name of the photographer")
	jonas.presses("nav a", "Writing")
	jonas.reads("main", "from Solvei")
	solvei.presses("nav a", "Writing")
	solvei.until("!document.querySelector('main').textContent.includes('sounding machine')") // it was his from the beginning
	jonas.presses("main li button", "sounding machine")
	jonas.see("#reply").MustSelectAllText().MustInput("Dear Mr Pávlou, yes, both. The photographer is Ada Moe.")
	jonas.does("Give to…")
	jonas.does("Give")
	jonas.until("!document.querySelector('#reply')")
	jonas.presses("main li button", "sounding machine")
	jonas.reads("[data-testid=given-away]", "This draft is with Solvei Arnkvist")
	jonas.does("Take it back")
	jonas.presses("main li button", "sounding machine")
	jonas.see("#reply")

	solvei.presses("nav a", "Inbox")
	solvei.presses("[role=option]", "Photographs of the sounding")
	solvei.reads("[data-testid=subject]", "Photographs of the sounding")
	solvei.see("[data-testid=reading-now], [data-testid=writing-now]")
	drop := `() => {
		const files = new DataTransfer()
		files.items.add(new File(['two of 1911'], 'plates.txt', { type: 'text/plain' }))
		const column = document.querySelector('.reading-column')
		for (const kind of ['dragover', 'drop']) column.dispatchEvent(new DragEvent(kind, { dataTransfer: files, bubbles: true, cancelable: true }))
	}`
	solvei.MustEval(drop)
	solvei.reads("[data-testid=comment-tray]", "plates.txt")
	solvei.see("#comment").MustInput("Which of these?")
	solvei.press(input.Enter)
	solvei.reads("[data-testid=comment] a", "plates.txt")
	jonas.presses("nav a", "Inbox")
	jonas.presses("[role=option]", "Photographs of the sounding")
	jonas.reads("[data-testid=comment] a", "plates.txt")
	require.Equal(t, "two of 1911", jonas.MustEval(`() => fetch(document.querySelector('[data-testid=comment] a').href).then(r => r.text())`).Str())

	solvei.press(input.KeyF)
	solvei.does("By owner")
	solvei.reads("[data-lane='Tomasz Ilk']", "of 3 h today")

	solvei.presses("nav a", "Setup")
	solvei.presses("main a", "Rules")
	solvei.does("New rule")
	solvei.see("#rule-words").MustInput("from pavlou@thalassa-archive.example: give to tomasz, star")
	solvei.reads("main", "give it to Tomasz Ilk, if nobody has it")
	solvei.see("#rule-words").MustSelectAllText().MustInput("from pavlou@thalassa-archive.example: give to halvard")
	solvei.reads("[data-testid=rule-doubt]", "Say to whom it is to be given")

	// What was said is found by its words, and how junk is told is the team's to say.
	jonas.presses("nav a", "Find")
	jonas.see("#find").MustInput("which of these in comments")
	jonas.reads("[data-excerpt=comment]", "said: Which of these?")
	solvei.presses("nav a", "Setup")
	solvei.presses("nav[aria-label='Parts of Setup'] a", "Junk")
	solvei.presses("[role=radio]", "^Strict")
	solvei.reads("[data-testid=notice]", "The junk test is strict.")

	// What concerns her comes as one message, too, if she likes, at her time.
	solvei.press(input.KeyB)
	solvei.until("!location.pathname.startsWith('/in/')")
	solvei.presses("nav a", "Delivery")
	solvei.reads("main", "What concerns you in teams")
	solvei.until("document.querySelector('#letter-on') && !document.querySelector('#letter-at')")
	solvei.click("#letter-on")
	solvei.until("document.querySelector('#letter-at')?.value === '9:00'")
	solvei.MustReload()
	solvei.until("document.querySelector('#letter-at')?.value === '9:00'")
}
