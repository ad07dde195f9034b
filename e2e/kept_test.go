package e2e

import (
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"
)

// letters types a text key by key, as a person does.
func (p *page) letters(text string) *page {
	p.t.Helper()
	for _, r := range text {
		p.press(input.Key(r))
	}
	return p
}

// answering begins an answer to the conversation shown, with the cursor in it.
func (p *page) answering() *page {
	p.t.Helper()
	p.press(input.Digit3).see("#reply")
	p.until("document.activeElement.id === 'reply'")
	return p
}

// redraw changes the plan that is seen, without saving it.
func (p *page) redraw() {
	p.t.Helper()
	p.see("#line").MustFocus()
	p.write("mon–fri 8, 12:15, 17")
	p.press(input.Enter)
}

// stored waits until all that was kept so far stands in the browser's storage.
func (p *page) stored() {
	p.t.Helper()
	p.MustEval(`async () => {
		for (const d of await indexedDB.databases()) await new Promise((done, failed) => {
			const open = indexedDB.open(d.name)
			open.onerror = failed
			open.onsuccess = () => {
				const names = [...open.result.objectStoreNames]
				if (!names.length) { open.result.close(); return done() }
				const t = open.result.transaction(names, 'readonly')
				t.oncomplete = () => { open.result.close(); done() }
				t.onerror = failed
			}
		})
	}`)
}

// A reply goes on being written while the program is away: it says so, and what was
// typed is saved by itself, also when the answer was closed, or the page loaded anew.
func TestAReplyWrittenWhileTheProgramIsAway(t *testing.T) {
	t.Parallel()
	s := demo(t)
	l := between(t, s)
	p := open(t, l.url, 1280, 800).enter()
	addr := strings.TrimPrefix(s.url, "http://")
	p.choose("Halvard Lindqvist")
	subject := p.text("[data-testid=subject]")
	p.answering().letters("Dear Halvard, ")
	p.reads("[data-testid=kept]", "Saved ")
	s.kill()
	p.letters("it comes on Thursday. ")
	p.reads("[data-testid=kept]", "kept in this browser, and saved by itself")
	s.start(addr)
	p.reads("[data-testid=kept]", "Saved ")

	s.kill()
	p.letters("Or on Friday.")
	p.press(input.Escape)
	p.reads("[data-testid=notice]", "kept in this browser")
	p.see("[data-testid=queue]")
	s.start(addr)
	p.until("!document.body.textContent.includes('No connection')")
	p.answering()
	p.until("document.querySelector('#reply').value === 'Dear Halvard, it comes on Thursday. Or on Friday.'")

	end := l.to(http.MethodPut, "/api/v1/drafts", cut)
	p.letters(" Greetings")
	p.reads("[data-testid=kept]", "kept in this browser")
	p.stored()
	p.MustNavigate(l.url) // all of the page is gone, and its address with it
	end()
	p.reads("[data-testid=notice]", "Saved now, as it could not be before: a message to Halvard Lindqvist")
	p.chooseSubject(subject)
	p.answering()
	p.until("document.querySelector('#reply').value.endsWith('Or on Friday. Greetings')")
}

// Decisions whose answers have not come when the page goes are made all the same, and once.
func TestQuickDecisionsAndAReload(t *testing.T) {
	t.Parallel()
	s := demo(t)
	l := between(t, s)
	p := open(t, l.url, 1280, 800).enter()
	n := p.left()
	held := make(chan struct{})
	end := l.to(http.MethodPost, "/api/v1/decisions", func(_ http.ResponseWriter, _ *http.Request, pass func()) {
		<-held
		pass()
	})
	p.press(input.Digit2, input.Digit1, input.Digit2, input.Digit1)
	p.leftIs(n - 4)
	p.stored()
	p.MustNavigate(l.url)
	end()
	close(held)
	p.leftIs(n - 4)
	p.press(input.KeyH)
	p.until("document.querySelectorAll('main li').length > 4")
	require.Equal(t, 2, p.MustEval(`() => [...document.querySelectorAll('main li')].slice(0, 6).filter(e => /^.{0,40}binned/.test(e.innerText.replaceAll('\n', ' '))).length`).Int())
	p.visit("/")
	for i := range 4 {
		p.with(input.KeyZ, input.ControlLeft).leftIs(n - 3 + i)
	}
}

// Only what the program refuses comes back, to where it was; what was decided besides stays decided.
func TestOnlyWhatIsRefusedComesBack(t *testing.T) {
	t.Parallel()
	s := demo(t)
	l := between(t, s)
	p := open(t, l.url, 1280, 800).enter()
	n := p.left()
	p.top()
	first := p.text("[data-testid=subject]")
	times := 0
	held := make(chan struct{})
	l.to(http.MethodPost, "/api/v1/decisions", func(w http.ResponseWriter, r *http.Request, pass func()) {
		if times++; times == 1 {
			<-held
			w.Header().Set("Content-Type", "application/problem+json")
			w.WriteHeader(http.StatusUnprocessableEntity)
			_, _ = w.Write([]byte(`{"type":"urn:ebbe:problem:invalid","detail":"This one was refused."}`))
			return
		}
		pass()
	})
	p.press(input.Digit2, input.Digit1, input.Digit1)
	p.leftIs(n - 3)
	close(held)
	p.reads("[data-testid=notice]", "This one was refused.")
	p.leftIs(n - 2)
	p.until("document.querySelector('[role=option] p').textContent === %q", first)
	p.press(input.Home)
	p.shows(first)
}

// A draft open in two windows: what one writes is seen in the other; what both write
// without having seen it is kept twice, and said.
func TestADraftInTwoWindows(t *testing.T) {
	t.Parallel()
	s := demo(t)
	l := between(t, s)
	a := open(t, s.url, 1280, 800).enter()
	b := open(t, l.url, 1280, 800).enter()
	for _, p := range []*page{a, b} {
		p.choose("Halvard Lindqvist")
		p.answering()
	}
	a.letters("One.")
	b.until("document.querySelector('#reply').value === 'One.'")

	end := l.to(http.MethodPut, "/api/v1/drafts", cut)
	b.letters(" Two.")
	b.reads("[data-testid=kept]", "kept in this browser")
	a.letters(" Three.")
	a.reads("[data-testid=kept]", "Saved ")
	end()
	b.reads("[data-testid=apart]", "Both texts are kept")
	b.until("document.querySelector('#reply').value === 'One. Two.'")
	b.presses("[data-testid=apart] a", "Show the other")
	b.until("document.querySelector('#reply')?.value === 'One. Three.'")
	b.until("[...document.querySelectorAll('section ul li')].filter(e => /One\\. (Two|Three)\\./.test(e.innerText)).length === 2")
}

// After an upgrade an old page that fetches a screen loads itself anew, with what was typed.
func TestAScreenOfAnOlderVersion(t *testing.T) {
	t.Parallel()
	s := demo(t)
	l := between(t, s)
	p := open(t, l.url, 1280, 800).enter()
	p.choose("Halvard Lindqvist")
	p.answering().letters("Dear Halvard")
	p.press(input.Escape)
	end := l.to(http.MethodGet, "/assets/later", status(http.StatusNotFound))
	loads := func() (n int) {
		for _, r := range l.since(0) {
			if r == "GET /" || r == "GET /later" {
				n++
			}
		}
		return n
	}
	before := loads()
	p.press(input.Escape)
	p.click(`nav a[href="/later"]`)
	p.reads("main", "This screen could not be shown") // it is gone for good, and not only of an older version: loaded anew once, and told
	require.Equal(t, before+1, loads())
	end()
	p.does("Load the page again")
	p.see("[data-testid=queue]")
	p.until("location.pathname === '/later'")
	p.visit("/")
	p.choose("Halvard Lindqvist")
	p.answering()
	p.until("document.querySelector('#reply').value === 'Dear Halvard'")
}

// What goes wrong in a screen stays in it, and a read that fails replaces nothing that is shown.
func TestOneScreenFails(t *testing.T) {
	t.Parallel()
	s := demo(t)
	l := between(t, s)
	p := open(t, l.url, 1280, 800).enter()
	end := l.to(http.MethodGet, "/api/v1/waiting", text(`{"groups": 7}`))
	p.click(`nav a[href="/waiting"]`)
	p.reads("main", "This screen could not be shown")
	p.see("nav a[href='/later']")
	p.visit("/later")
	p.see("[data-testid=queue]")
	p.visit("/waiting")
	p.reads("main", "This screen could not be shown")
	end()
	p.does("Try again")
	p.reads("h1", "Waiting")
	p.wrong = nil // it was to fail

	// A plan is being drawn while every read fails.
	p.visit("/delivery")
	p.see("[data-testid=coming]")
	p.redraw()
	p.see("#plan-name").MustSelectAllText()
	p.write("Quiet week")
	before := len(l.since(0))
	for _, path := range []string{"/api/v1/delivery", "/api/v1/dayline", "/api/v1/session", "/api/v1/cards"} {
		l.to(http.MethodGet, path, status(http.StatusInternalServerError))
	}
	s.restart() // all is read anew
	require.Eventually(t, func() bool {
		n := 0
		for _, r := range l.since(before) {
			if r == "GET /delivery" || r == "GET /session" {
				n++
			}
		}
		return n > 4 // each a second time
	}, patience, 20*time.Millisecond)
	p.until("document.querySelector('#plan-name').value === 'Quiet week'")
	p.see("[data-testid=coming]")
	p.see("nav a[href='/later']")
}

// A form that was left is as it was when one comes back to it: a plan, an account
// without its password, a line for a follow-up, a snooze, a name.
func TestFormsComeBack(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.press(input.KeyM).see("[data-testid=account]")
	p.does("Connect another")
	p.see("#address")
	p.write("solvei@harbour.example")
	p.press(input.Escape)
	p.visit("/delivery")
	p.see("[data-testid=coming]")
	p.redraw()
	p.see("#plan-name").MustSelectAllText()
	p.write("Quiet week")
	p.visit("/")
	p.see("[data-testid=queue] [role=option]")
	p.choose("Halvard Lindqvist")
	p.press(input.Digit6).see("#followup-line")
	p.letters("fri 10 / urgent")
	p.press(input.Escape)
	p.until("!document.querySelector('[data-testid=followup-tray]')")
	p.press(input.Digit5).see("#snooze-phrase")
	p.letters("fri 13:30")
	p.press(input.Escape)
	p.until("!document.querySelector('[data-testid=snooze-tray]')")

	p.press(input.Digit6)
	p.until("document.querySelector('#followup-line')?.value === 'fri 10 / urgent'")
	p.reads("#followup-line-parts", "urgent")
	p.press(input.Escape)
	p.press(input.Digit5)
	p.until("document.querySelector('#snooze-phrase')?.value === 'fri 13:30'")
	p.reads("[data-testid=snooze-phrase-means]", "Fri 27 Nov, 13:30")
	p.press(input.Enter)
	p.reads("[data-testid=notice]", "Back Fri 27 Nov, 13:30")
	p.with(input.KeyZ, input.ControlLeft)
	p.reads("[data-testid=notice]", "Taken back")
	p.choose("Halvard Lindqvist")
	p.press(input.Digit5).see("#snooze-phrase")
	p.until("document.querySelector('#snooze-phrase').value === ''") // it was used
	p.press(input.Escape)

	// After a crash what is not finished is offered.
	p.stored()
	p.MustNavigate(strings.SplitN(p.MustInfo().URL, "/", 4)[0] + "//" + strings.SplitN(p.MustInfo().URL, "/", 4)[2] + "/history")
	p.reads("[data-testid=unfinished]", "Unfinished: ")
	p.presses("[aria-label=Reminders] button", "more reminder")
	p.until("document.querySelectorAll('[data-testid=unfinished]').length === 3")
	p.presses("[data-testid=unfinished] button", "Go on")
	p.until("document.querySelector('#followup-line')?.value === 'fri 10 / urgent'")
	p.press(input.Escape)
	p.visit("/delivery")
	p.until("document.querySelector('#plan-name')?.value === 'Quiet week'")
	p.does("Cancel")
	p.press(input.KeyM).see("[data-testid=account]")
	p.does("Connect another")
	p.until("document.querySelector('#address').value === 'solvei@harbour.example'")
	p.press(input.Escape)
	p.visit("/delivery")
	p.see("#line").MustFocus()
	p.write("fri 9")
	p.visit("/")
	p.visit("/delivery")
	p.until("document.querySelector('#line')?.value === 'fri 9'")
}

// A session that ends while one works is begun anew in place: the screen, what was
// typed and what was decided stay, and go on.
func TestSigningInAgainInPlace(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.url, 1280, 800).enter()
	n := p.left()
	p.choose("Halvard Lindqvist")
	p.answering().letters("Dear Halvard")
	p.reads("[data-testid=kept]", "Saved ")
	s.change("DELETE FROM sessions")
	p.letters(", yes")
	p.reads("[data-testid=sign-in-again]", "kept, and goes on once you sign in")
	p.until("document.querySelector('#reply').value === 'Dear Halvard, yes'")
	p.press(input.Escape)
	p.until("!document.querySelector('#reply')")
	p.press(input.Digit2, input.Digit2)
	p.leftIs(n - 2)
	p.click("[data-testid=sign-in-again] button")
	p.until("!document.querySelector('[data-testid=sign-in-again]')")
	p.leftIs(n - 2)
	p.until("!document.body.textContent.includes('steps wait')")
	for i := range 2 {
		p.with(input.KeyZ, input.ControlLeft).leftIs(n - 1 + i)
	}
	p.choose("Halvard Lindqvist")
	p.answering()
	p.until("document.querySelector('#reply').value === 'Dear Halvard, yes'")
}

// Signing out asks about what has not reached the program, and then nothing of it is left in the browser.
func TestSigningOutAsksAboutWhatIsUnsent(t *testing.T) {
	t.Parallel()
	s := demo(t)
	l := between(t, s)
	p := open(t, l.url, 1280, 800).enter()
	n := p.left()
	end := l.to(http.MethodPost, "/api/v1/decisions", cut)
	p.press(input.Digit2)
	p.reads("[role=status]", "1 step waits")
	p.letters("+").see("#writedown-line")
	p.letters("ring the piano mover")
	p.press(input.Escape)
	p.typed("F9", "F9", 120, 0)
	p.reads("[role=alertdialog]", "1 decision; a line to write down")
	p.presses("[role=alertdialog] button", "^Cancel$")
	p.until("!document.querySelector('[role=alertdialog]')")
	p.typed("F9", "F9", 120, 0)
	p.presses("[role=alertdialog] button", "^Sign out and delete it$")
	p.does("Open the museum’s inbox")
	end()
	p.leftIs(n) // what was given up was not done
	p.letters("+").see("#writedown-line")
	p.until("document.querySelector('#writedown-line').value === ''")
}

// Enter or a key pressed twice makes one of it: a follow-up, a list, a draft.
func TestTwoEntersMakeOne(t *testing.T) {
	t.Parallel()
	s := demo(t)
	l := between(t, s)
	p := open(t, l.url, 1280, 800).enter()
	// All are pressed before the first is answered.
	pressed := func(method, path string, press func()) {
		held := make(chan struct{})
		end := l.to(method, path, func(_ http.ResponseWriter, _ *http.Request, pass func()) { <-held; pass() })
		press()
		end()
		close(held)
	}
	p.letters("+").see("#writedown-line")
	p.write("ring the piano mover twice")
	pressed(http.MethodPost, "/api/v1/follow-ups/", func() { p.press(input.Enter, input.Enter, input.Enter) })
	p.until("!document.querySelector('#writedown-line')")
	pressed(http.MethodPost, "/api/v1/drafts", func() { p.press(input.KeyN, input.KeyN, input.KeyN) })
	p.see("#write-to")
	p.letters("mir")
	p.visit("/follow-ups")
	p.see("[data-followup]")
	p.until("[...document.querySelectorAll('[data-followup]')].filter(e => e.textContent.includes('ring the piano mover twice')).length === 1")
	made := func(what string) (n int) {
		for _, r := range l.since(0) {
			if r == what {
				n++
			}
		}
		return n
	}
	require.Equal(t, 1, made("POST /follow-ups/new"))
	require.Equal(t, 1, made("POST /drafts"))

	p.visit("/")
	p.see("[data-testid=queue] [role=option]")
	p.command("Save what is shown as a list beside the inbox")
	p.see("#list-name")
	p.write("Files")
	p.MustElement("#list-words").MustFocus()
	p.write("crate")
	p.MustElement("#list-name").MustFocus()
	pressed(http.MethodPut, "/api/v1/lists", func() { p.press(input.Enter, input.Enter) })
	p.until("!document.querySelector('#list-name')")
	require.Equal(t, 1, p.MustEval(`async () => (await (await fetch('/api/v1/lists')).json()).filter(l => l.name === 'Files').length`).Int())
}

// Typing a reply costs a request every 400 ms at the most, and reads nothing of the queue.
func TestWhatTypingCosts(t *testing.T) {
	t.Parallel()
	s := demo(t)
	l := between(t, s)
	p := open(t, l.url, 1280, 800).enter() // nothing is gone over, so that no look is counted meanwhile
	p.answering()
	p.letters("Dear")
	p.reads("[data-testid=kept]", "Saved ")
	// A draft begun is shown on its slip: the queue is read anew once, and last of all what is fetched ahead in it.
	require.Eventually(t, func() bool {
		asked := l.since(0)
		begun := slices.Index(asked, "POST /drafts")
		return begun >= 0 && slices.Contains(asked[begun:], "GET /conversations")
	}, patience, 20*time.Millisecond)
	before, begun := len(l.since(0)), time.Now()
	p.letters(" all, the crate will be with you on Thursday, before noon.")
	p.stored()
	p.until("document.querySelector('#reply').value.endsWith('noon.')")
	took := time.Since(begun)
	saved := 0
	for _, r := range l.since(before) {
		if strings.HasPrefix(r, "PUT /drafts/") {
			saved++
		} else if r != "GET /dayline" && r != "POST /noted" && !strings.HasPrefix(r, "GET /assets/") { // once a minute; what was read, now and then; and what is fetched ahead, once
			t.Error("typing asked for", r)
		}
	}
	require.LessOrEqual(t, saved, int(took/(400*time.Millisecond))+1)
}

// A browser that believes it has no network works with a program on the same machine.
func TestABrowserThatIsOffline(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.MustEval(`() => { Object.defineProperty(navigator, 'onLine', { get: () => false }); window.dispatchEvent(new Event('offline')) }`)
	p.press(input.Digit2).leftIs(n - 1)
	p.reads("[data-testid=notice]", "Archived.")
	p.visit("/later")
	p.reads("[role=option]", "Grete Brunner")
	p.visit("/delivery")
	p.see("[data-testid=coming]")
}
