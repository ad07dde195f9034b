package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"
)

// choose selects the slip of a sender by going down the queue.
func (p *page) choose(from string) {
	p.t.Helper()
	p.top()
	for range 400 {
		if p.MustEval(`from => document.querySelector('[role=option][aria-current=true] b')?.textContent.endsWith(from)`, from).Bool() {
			p.until("document.querySelector('[data-testid=subject]').textContent === document.querySelector('[role=option][aria-current=true] p').textContent")
			p.see("article")
			return
		}
		before := p.text("[role=option][aria-current=true]")
		p.press(input.ArrowDown)
		p.until("document.querySelector('[role=option][aria-current=true]').innerText !== %q", before)
	}
	p.t.Fatalf("no slip is from %s", from)
}

// toZero archives whatever is left, by key.
func (p *page) toZero() {
	p.t.Helper()
	p.see("[data-testid=queue] [role=option]")
	for n := p.left(); n > 0; n-- {
		p.press(input.Digit2)
		p.leftIs(n - 1)
	}
	p.see("[data-testid=zero]")
}

func (p *page) shows(name string) { p.t.Helper(); p.reads("[data-testid=subject]", name) }

// The whole way by keyboard: bin, archive, star, snooze by words, follow-up
// with due time and reminder, take back, zero; then the clock moves and what
// was put off comes back.
func TestToZeroByKeyboardAndBack(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	require.InDelta(t, 30, n, 6)

	p.choose("Parcel desk")
	p.press(input.Digit1).leftIs(n - 1)
	p.reads("[data-testid=notice]", "Binned.")
	p.with(input.KeyZ, input.ControlLeft).leftIs(n)
	p.shows("Your parcel 7781")
	p.with(input.KeyZ, input.ControlLeft, input.ShiftLeft).leftIs(n - 1)
	n--

	p.choose("Priya Venn")
	p.press(input.NumpadMultiply).see("[aria-selected=true] [aria-label=starred]")

	p.choose("Mirela Dossett")
	p.press(input.Digit5).see("[data-testid=snooze-tray] [data-cell]")
	p.write("whenever")
	p.reads("#snooze-phrase-means", "does not know “whenever”")
	p.MustEval(`() => document.getElementById('snooze-phrase').select()`)
	p.write("fri after lunch")
	p.reads("#snooze-phrase-means", "Fri 27 Nov, 13:30")
	p.press(input.Enter).leftIs(n - 1)
	p.reads("[data-testid=notice]", "Back Fri 27 Nov, 13:30.")
	n--

	p.choose("Jonas Reyland")
	p.followUp("Give the board two numbers / today 16:00 / remind 11:00", "reminds Tue 24 Nov, 11:00")
	p.leftIs(n - 1)
	n--

	p.choose("Oona Varga") // by the grid: Tab from the words to the first free part
	p.press(input.Digit5).see("[data-testid=snooze-tray] [data-cell]")
	p.MustElement("[data-cell='1,0']").MustFocus()
	p.press(input.ArrowRight, input.Enter).leftIs(n - 1)
	p.reads("[data-testid=notice]", "Back Wed 25 Nov, 13:30.")

	p.toZero()
	p.reads("[data-testid=zero]", "Nothing left to decide.")
	p.reads("[data-testid=zero]", "1 binned")
	p.reads("[data-testid=zero]", "2 snoozed")
	p.reads("[data-testid=zero]", "Something comes back today 14:00")

	// Eleven o'clock: the reminder shows as a card.
	p.does("Demo clock")
	p.does("To the next thing")
	p.reads("[data-testid=card]", "Give the board two numbers")
	p.does("Put away")
	p.until("!document.querySelector('[data-testid=card]')")

	// The next morning: what was snoozed until then is on top, unread.
	p.does("Demo clock")
	p.does("To tomorrow 8:00")
	p.reads("[data-testid=queue] [role=option]", "as you asked")
	p.until("document.querySelector('[role=option] .slip-unread')")
}

// A key right after a snooze in words decides about the next conversation, and
// never about the one that has just gone.
func TestAFastKeyNeverHitsTheConversationThatHasGone(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n, later := p.left(), p.MustEval(`() => Number(document.querySelector('nav a[href="/later"] span').textContent)`).Int()
	for range 4 {
		p.press(input.Digit5).see("[data-testid=snooze-tray] [data-cell]")
		p.write("next week")
		p.reads("#snooze-phrase-means", "Mon 30 Nov")
		p.press(input.Enter)
		p.leftIs(n - 1)
		p.press(input.Digit1)
		p.leftIs(n - 2)
		n -= 2
	}
	p.click(`nav a[href="/later"]`)
	p.until("document.querySelector('[data-group=\"2026-11-30\"]')?.textContent.startsWith('Back Mon 30 Nov')")
	p.reads(`nav a[href="/later"]`, fmt.Sprint(later+4))
}

func TestTwoTabsStayInStep(t *testing.T) {
	t.Parallel()
	s := demo(t)
	a, b := open(t, s.url, 1280, 800).enter(), open(t, s.url, 1280, 800).enter()
	n := a.left()
	a.press(input.Digit2).leftIs(n - 1)
	b.leftIs(n - 1)
	b.with(input.KeyZ, input.ControlLeft)
	b.reads("[data-testid=notice]", "Once more takes it back.") // it was decided elsewhere
	b.with(input.KeyZ, input.ControlLeft).leftIs(n)
	a.leftIs(n)
	a.press(input.Digit2, input.Digit2, input.Digit2, input.Digit1).leftIs(n - 4)
	b.leftIs(n - 4)
}

func TestTakingBackAfterTheProgramWasKilled(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.url, 1280, 800).enter()
	n := p.left()
	first := p.text("[data-testid=subject]")
	p.press(input.Digit2).leftIs(n - 1)
	p.press(input.Digit1).leftIs(n - 2)
	p.reads("[data-testid=notice]", "Binned.")
	s.restart()
	p.MustReload()
	p.leftIs(n - 2)
	p.see("[data-testid=queue] [role=option]")
	p.with(input.KeyZ, input.ControlLeft).leftIs(n - 1)
	p.with(input.KeyZ, input.ControlLeft).leftIs(n)
	p.shows(first)
	p.MustNavigate(s.url + "/history")
	p.reads("main", "took back")
	p.reads("main", "taken back")
}

func TestFollowUpsLaterFindAndTheLinkToTheOriginal(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.click(`nav a[href="/follow-ups"]`)
	p.reads("[aria-label=Late]", "Answer the harbour office about the lorry")
	p.press(input.Digit2) // finish
	p.until("!document.querySelector('[aria-label=Late]')")
	p.with(input.KeyZ, input.ControlLeft)
	p.reads("[aria-label=Late]", "Answer the harbour office")
	p.presses("[aria-label=Today] a", "Quay permit")
	p.shows("Quay permit for the lorry")
	p.until("location.pathname.startsWith('/c/')")

	p.click(`nav a[href="/later"]`)
	p.reads("[data-testid=queue]", "Back today")
	p.see("article")
	n := p.left()
	p.press(input.Digit9).leftIs(n + 1)

	p.click(`nav a[href="/find"]`)
	p.see("#find")
	p.write("潮汐計算機について")
	p.reads("[role=option][aria-selected=true]", "Yuki Tanabe")
	p.reads("[data-testid=body]", "アルンクヴィスト様")

	// What was looked for is there again after another screen, and after a reload.
	p.click(`nav a[href="/setup"]`)
	p.see("#zone")
	require.NoError(t, p.NavigateBack())
	p.until("document.getElementById('find')?.value === '潮汐計算機について'")
	p.reads("[role=option][aria-selected=true]", "Yuki Tanabe")
	p.click(`nav a[href="/find"]`) // and when one goes where one is
	p.until("new URLSearchParams(location.search).get('asked') === '潮汐計算機について'")
	p.MustReload()
	p.until("document.getElementById('find')?.value === '潮汐計算機について'")
}

// A message that tries everything: no script of it runs, nothing is fetched.
func TestAHostileMessage(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	mail := filepath.Join(dir, "evil.eml")
	require.NoError(t, os.WriteFile(mail, []byte("From: \"<img src=x onerror='top.hacked=1'>\" <a@bad.example>\nTo: me@m.example\nSubject: <script>window.hacked=1</script>\nMIME-Version: 1.0\nContent-Type: text/html\n\n"+
		`<p id=seen>hello</p><script>top.hacked=1</script><img src=x onerror="top.hacked=1"><svg onload="top.hacked=1"></svg><a href="javascript:top.hacked=1">x</a><meta http-equiv=refresh content="0;url=https://bad.example"><form action="https://bad.example"><button>go</button></form><style>body{background:url(https://bad.example/x)}</style><iframe src="javascript:top.hacked=1"></iframe>`), 0o600))
	data := filepath.Join(dir, "data")
	out, code := command(t, "import", mail, "--data", data)
	require.Zero(t, code, out)
	require.Contains(t, out, "1 read, 1 new, 0 known, 0 kept raw")
	s := run(t, "serve", "--data", data)
	p := open(t, s.url, 1280, 800)
	p.see("#name").MustInput("Solvei")
	p.see("#address").MustInput("me@m.example")
	p.see("#password").MustInput("short")
	p.see("#code").MustInput(s.code)
	p.does("Begin")
	p.reads("#password-wrong", "at least 10 characters")
	p.see("#password").MustSelectAllText().MustInput("long enough now")
	p.see("#code").MustSelectAllText().MustInput("no-such-code")
	p.does("Begin")
	p.reads("#code-wrong", "printed when it was started")
	p.see("#code").MustSelectAllText().MustInput(s.code)
	p.does("Begin")
	p.does("I have kept them")
	p.shows("<script>window.hacked=1</script>")
	p.until("document.querySelector('[data-testid=frame]').contentDocument?.body?.textContent.includes('hello')")
	frame := p.MustEval(`() => document.querySelector('[data-testid=frame]').contentDocument.body.innerHTML`).Str()
	for _, bad := range []string{"script", "onerror", "svg", "form", "style", "iframe", "bad.example"} {
		require.NotContains(t, frame, bad)
	}
	require.NotContains(t, p.MustElement("[data-testid=frame]").MustProperty("sandbox").String(), "allow-scripts")
	require.True(t, p.MustEval(`() => window.hacked === undefined`).Bool())
	require.Zero(t, p.MustEval(`() => performance.getEntriesByType('resource').filter(r => r.name.includes('bad.example')).length`).Int())
	// Keys work while the frame has the focus.
	p.until("document.querySelector('[data-testid=frame]').style.height !== '80px'") // it has been measured: it is complete
	p.MustEval(`() => document.querySelector('[data-testid=frame]').contentDocument.body.dispatchEvent(new KeyboardEvent('keydown', {key: '2', bubbles: true}))`)
	p.see("[data-testid=zero]")
}

// Every screen is named in the title, and whoever comes to it by a key is put at its
// beginning; the first stop of Tab leads past the frame.
func TestComingToAScreen(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.until("document.title.startsWith('Inbox · 27 left to decide')")
	p.until("document.activeElement.getAttribute('role') === 'listbox'")
	for _, c := range []struct {
		key     input.Key
		title   string
		heading string
	}{{input.KeyF, "Follow-ups", "Follow-ups"}, {input.KeyD, "Delivery", "Delivery"}, {input.KeyM, "Accounts", "Accounts"}, {input.KeyO, "Writing", "Writing"}} {
		p.press(c.key)
		p.until("document.title.startsWith(%q)", c.title)
		p.until("document.activeElement.tagName === 'H1' && document.activeElement.textContent === %q", c.heading)
	}
	p.press(input.KeyF)
	p.until("document.activeElement.tagName === 'H1' && document.activeElement.textContent === 'Follow-ups'")

	// The list is reached by its keys, and has one stop for Tab.
	p.press(input.ArrowDown)
	p.until("document.activeElement.getAttribute('role') === 'row' && document.activeElement.getAttribute('aria-selected') === 'true'")
	p.until("document.querySelectorAll('[role=row][tabindex=\"0\"]').length === 1")
	p.press(input.Enter)
	p.see("[data-testid=panel]")

	// The first stop of all is the way past the frame.
	p.press(input.KeyI).see("[data-slip]")
	require.Equal(t, "Skip to what this screen shows", p.MustEval(`() => { const first = [...document.querySelectorAll('a[href], button, input, [tabindex]')].find(e => e.tabIndex >= 0 && !e.disabled); first.focus(); return first.textContent }`).Str())
	p.press(input.Enter)
	p.until("document.activeElement.getAttribute('role') === 'listbox'")
	p.until("document.getElementById(document.activeElement.getAttribute('aria-activedescendant'))?.matches('[aria-current=true]')")
}

// When the program cannot be reached, decisions wait, and that is said; they are
// carried out once it is back, also from a page loaded anew, and none is lost.
func TestDecisionsWaitUntilTheProgramIsBack(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.url, 1280, 800).enter()
	n := p.left()
	first := p.text("[data-testid=subject]")
	s.kill()
	p.press(input.Digit2, input.Digit2, input.Digit1)
	p.reads("[role=status]", "3 steps wait")
	p.leftIs(n - 3)
	s.start(strings.TrimPrefix(s.url, "http://"))
	p.until("!document.body.textContent.includes('No connection')")
	p.leftIs(n - 3)
	for range 3 {
		p.with(input.KeyZ, input.ControlLeft)
	}
	p.leftIs(n)
	p.shows(first)

	s.kill()
	p.press(input.Digit2)
	p.reads("[role=status]", "1 step waits")
	s.start(strings.TrimPrefix(s.url, "http://"))
	p.MustReload()
	p.leftIs(n - 1)
}
