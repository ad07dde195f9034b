package e2e

import (
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"
)

func TestReadingAConversation(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.choose("Mirela Dossett")
	p.shows("Crate sizes for the brass predictor — can you confirm by Thursday?")
	require.NotContains(t, p.text("[data-testid=body]"), "with the base on", "quoted text is folded")
	p.does("Quoted text, 4 lines")
	p.reads("[data-testid=body]", "with the base on")
	p.does("3 earlier messages, Wed 11 Nov to Thu 19 Nov — Mirela, you, Tomasz")
	p.until("document.querySelectorAll('article').length === 4")
	p.presses("article button", "^You$")
	p.reads("article:nth-of-type(2)", "I will ask Tomasz")
	p.reads("[aria-label='Between you']", "from them")

	// Pictures from elsewhere come only when asked for.
	p.choose("Small Museums Weekly")
	p.reads("section[aria-label=Conversation]", "2 remote pictures blocked")
	inFrame := func(what string) { p.until("document.querySelector('[data-testid=frame]').contentDocument.%s", what) }
	inFrame("querySelector('img.left-out')")
	require.False(t, p.MustEval(`() => document.querySelector('[data-testid=frame]').contentDocument.documentElement.innerHTML.includes('smallmuseums.example/masthead')`).Bool())
	inFrame("querySelector('a').title.startsWith('https://smallmuseums.example/')")
	p.until("document.querySelector('[data-testid=frame]').offsetHeight > 200")
	p.does("Show")
	inFrame("querySelector('img[src^=\"https://smallmuseums.example/masthead\"]')")

	// A quotation in HTML that stands in no other message is open, and files are listed and can be fetched.
	p.choose("Kestrel Print Works")
	p.press(input.ArrowUp)
	p.shows("Customs form for the lagoon map")
	inFrame("querySelector('details[open] blockquote')")
	p.visit("/later")
	p.choose("Grete Brunner")
	p.reads("article", "in German") // which she does not read
	p.visit("/")
	p.chooseSubject("Customs form for the lagoon map")
	link := p.see("[aria-label='Save customs-form.pdf']")
	got := p.MustEval(`async (url) => { const r = await fetch(url); return r.headers.get('content-disposition') + ' ' + (await r.text()).slice(0, 8) }`, *link.MustAttribute("href")).Str()
	require.Equal(t, "attachment; filename=customs-form.pdf %PDF-1.4", got)
}

// Looking without deciding is counted, and said.
func TestLooksAreCounted(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	second := func() {
		p.MustEval(`() => new Promise(done => { const from = performance.now(); const wait = () => performance.now() - from > 1100 ? done(0) : requestAnimationFrame(wait); wait() })`)
	}
	require.NotContains(t, p.text("[role=option]"), "look")
	second()
	p.press(input.ArrowDown)
	p.reads("[role=option]", "2nd look")
	p.press(input.ArrowUp)
	second()
	p.press(input.ArrowDown)
	p.reads("[role=option]", "3rd look")
}

// For how long a conversation was open is noted, once it is left.
func TestWhatWasReadIsNoted(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.MustEval(`() => {
		const clock = performance.now.bind(performance), send = window.fetch
		window.ahead = 0
		window.noted = []
		performance.now = () => clock() + window.ahead
		window.fetch = async (url, o) => {
			const answer = await send(url, o)
			if (String(url).endsWith('/noted') && answer.ok) window.noted.push(JSON.parse(o.body))
			return answer
		}
	}`)
	p.choose("Mirela Dossett")
	p.shows("Crate sizes for the brass predictor — can you confirm by Thursday?")
	conversation := p.MustEval(`() => Number(document.querySelector('[role=option][aria-selected=true]').id.replace(/\D/g, ''))`).Int()
	p.MustEval(`() => { window.ahead += 7000 }`)
	p.press(input.ArrowDown)
	p.MustEval(`() => { window.dispatchEvent(new Event('pagehide')) }`)
	p.until("window.noted.some((n) => n.readings.some((r) => r.conversation === %d && r.message > 0 && r.seconds >= 7))", conversation)
}

// What ships with Ebbe is named in Setup, with its licence.
func TestTheNoticesOfWhatShips(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.setup("notices")
	p.click("[data-testid=notices] button")
	p.reads("[data-testid=notices]", "packages and fonts")
	for _, name := range []string{"Go", "github.com/gin-gonic/gin", "react", "tailwindcss", "@fontsource-variable/literata"} {
		p.until("[...document.querySelectorAll('[data-testid=notices] li button')].some((s) => s.querySelector('span').textContent === %q)", name)
	}
	p.presses("[data-testid=notices] li button", "^react")
	p.until("[...document.querySelectorAll('[data-testid=notices] li [data-state=open] pre')].some((e) => e.textContent.includes('Permission is hereby granted'))")
	top := func() int {
		return p.MustEval(`() => Math.round(document.querySelector('nav').getBoundingClientRect().top)`).Int()
	}
	was := top()
	p.MustEval(`() => document.querySelector('[data-testid=notices]').scrollIntoView()`)
	require.Equal(t, was, top(), "the frame stays where it is")
}

func TestThePaletteFindsEveryCommand(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.with(input.KeyK, input.ControlLeft).see("#palette")
	p.write("arch")
	p.reads("#palette-list", "Archive")
	p.press(input.Enter).leftIs(n - 1)
	p.press(input.Period).see("#palette")
	p.write("history")
	p.press(input.Enter)
	p.until("location.pathname === '/history'")
	p.press(input.Digit0).see("#find")
	p.write("1 2 5 *") // keys never fire while typing
	require.Equal(t, n-1, p.left())
}

func TestChangingAFollowUpAndTheSetup(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.click(`nav a[href="/follow-ups"]`)
	p.reads("[aria-label=Late]", "Answer the harbour office")
	p.press(input.Digit6).see("#say-wide")
	p.until("document.activeElement.id === 'say-wide'")
	p.write("Ring the harbour office / fri")
	p.reads("#say-wide-parts", "due Fri 27 Nov")
	p.press(input.Enter)
	p.has("[aria-label='This week']", "Ring the harbour office")
	p.until("!document.querySelector('[aria-label=Late]')")
	p.press(input.Escape)

	p.click(`nav a[href="/setup"]`)
	p.see("#morning").MustSelectAllText().MustInput("22:00")
	p.press(input.Enter)
	p.reads("#morning-wrong", "the morning has to begin before midday")
	p.see("#morning").MustSelectAllText().MustInput("7.15")
	p.press(input.Enter)
	p.reads("[data-testid=notice]", "Morning begins at 7:15.")
	p.click(`a[href="/setup/look"]`)
	p.does("dark")
	p.until("document.documentElement.classList.contains('dark')")
	p.click(`nav a[href="/"]`)
	p.see("[role=option]")
	p.press(input.Digit5).see("[data-cell]")
	p.write("tomorrow")
	p.reads("#snooze-phrase-means", "Wed 25 Nov, 7:15")
}

// At 390 px: choosing, reading and deciding, with the finger alone.
func TestOnANarrowScreen(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 390, 780).enter()
	n := p.left()
	p.click("[role=option]")
	p.until("document.querySelector('[data-testid=subject]').offsetParent")
	p.does("Snooze")
	p.click("[data-cell='0,1']")
	p.leftIs(n - 1)
	p.reads("[data-testid=notice]", "Back Wed 25 Nov, 8:00.")
	p.does("Take back")
	p.leftIs(n)
	p.does("← Inbox")
	p.until("document.querySelector('[data-testid=queue]').offsetParent")

	// Back is the browser's: from what is read to the list, and no further.
	p.click("[role=option]")
	p.until("document.querySelector('[data-testid=subject]').offsetParent")
	require.NoError(t, p.NavigateBack())
	p.until("document.querySelector('[data-testid=queue]').offsetParent")
	p.press(input.Escape, input.Escape)
	p.until("location.pathname === '/' && document.querySelector('[data-testid=queue]').offsetParent")
	require.True(t, p.MustEval(`() => document.documentElement.scrollWidth <= 390`).Bool(), "nothing sticks out")
}

// A queue of 2,000: only what is in view is drawn, and the end is reached by key.
func TestALongQueue(t *testing.T) {
	t.Parallel()
	data := t.TempDir()
	out, code := command(t, "import", mbox(t, 3000), "--data", data)
	require.Zero(t, code, out)
	s := run(t, "serve", "--data", data)
	res, err := http.Post(s.url+"/api/v1/setup", "application/json", strings.NewReader(`{"name":"Me","address":"me@m.example","password":"long enough","zone":"Europe/Oslo","code":"`+s.code+`"}`))
	require.NoError(t, err)
	_, _ = io.Copy(io.Discard, res.Body)
	res.Body.Close()
	p := open(t, s.url, 1280, 800)
	p.see("#address").MustInput("me@m.example")
	p.see("#password").MustInput("long enough").MustType(input.Enter)
	p.see("[role=option]")
	p.reads("[data-testid=left]", "2,000")
	require.Less(t, p.MustEval(`() => document.querySelectorAll('[role=option]').length`).Int(), 60)
	p.press(input.End)
	p.until("document.querySelector('[role=option][aria-current=true]').getAttribute('aria-posinset') === '2000'")
	p.reads("[role=option][aria-current=true]", "Matter 0")
	// Mail taken in by another program shows up by itself.
	out, code = command(t, "import", mbox(t, 3002), "--data", data)
	require.Zero(t, code, out)
	p.reads("[data-testid=left]", "2,002")
}

// The text of a message is made larger and smaller by a key, also in HTML, and stays so; nothing of it is cut off.
func TestLargerText(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.choose("Oona Varga")
	size := func() float64 {
		return p.MustEval(`() => parseFloat(getComputedStyle(document.querySelector('[data-testid=body]')).fontSize)`).Num()
	}
	usual := size()
	p.letters(">>")
	p.until("parseFloat(getComputedStyle(document.querySelector('[data-testid=body]')).fontSize) > %f", usual*1.25)
	p.letters("<")
	p.until("parseFloat(getComputedStyle(document.querySelector('[data-testid=body]')).fontSize) < %f", usual*1.2)
	p.click("[aria-label^='Larger text']")
	p.until("parseFloat(getComputedStyle(document.querySelector('[data-testid=body]')).fontSize) > %f", usual*1.25)
	p.choose("Small Museums Weekly")
	p.until("document.querySelector('[data-testid=frame]')?.contentDocument.body.textContent.length > 100")
	p.until("document.querySelector('[data-testid=frame]').contentDocument.documentElement.style.zoom === '1.3'")
	whole := `(() => { const f = document.querySelector('[data-testid=frame]'), d = f.contentDocument; const last = [...d.body.querySelectorAll('*')].reduce((m, e) => Math.max(m, e.getBoundingClientRect().bottom), 0); return last * 1 <= f.clientHeight + 1 && f.clientHeight < last * 1.3 + 60 })()`
	p.until("%s", whole)
	p.until("new URLSearchParams(location.search).get('at') === document.querySelector('[role=option][aria-current=true]').dataset.slip")
	p.MustReload()
	p.until("document.querySelector('[data-testid=frame]')?.contentDocument?.documentElement.style.zoom === '1.3'")
	p.until("%s", whole)
	p.letters("<<")
	p.until("document.querySelector('[data-testid=frame]').contentDocument.documentElement.style.zoom === '1'")
	p.until("%s", whole)
}

// Mail in colours, a wide table and a large picture read well where it is narrow and
// dark: each text stands out from its ground, and nothing but the table is scrolled.
func TestMailInColoursInTheDark(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	mail := filepath.Join(dir, "m.eml")
	row := "<tr>" + strings.Repeat("<td>12,340.00 NOK</td>", 12) + "</tr>"
	require.NoError(t, os.WriteFile(mail, []byte("From: News <news@m.example>\nTo: me@m.example\nSubject: Figures\nMIME-Version: 1.0\nContent-Type: text/html\n\n"+
		`<body bgcolor="#f4f4f4"><p style="color:#333">Black on white</p><div style="background:#fff3cd;color:#664d03">yellow</div><div style="background-color:#0a3d62;color:#fff">blue</div>`+
		`<p style="color:#eee">white for a dark page</p><table border="1">`+row+row+`</table><img width="1600" src="data:image/png;base64,iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=="></body>`), 0o600))
	data := filepath.Join(dir, "data")
	out, code := command(t, "import", mail, "--data", data)
	require.Zero(t, code, out)
	p := open(t, run(t, "serve", "--data", data).url, 390, 780)
	p.signUp("Me", "me@m.example")
	p.see("[role=option]")
	p.MustEval(`() => document.documentElement.classList.add('dark')`)
	p.click("[role=option]")
	p.until("document.querySelector('iframe')?.contentDocument?.querySelector('table')")
	worst := p.MustEval(`() => {
		const doc = document.querySelector('iframe').contentDocument
		const light = (c) => { const [r, g, b] = c.match(/[\d.]+/g).map((v) => { const s = v / 255; return s > 0.04045 ? ((s + 0.055) / 1.055) ** 2.4 : s / 12.92 }); return 0.2126 * r + 0.7152 * g + 0.0722 * b + 0.05 }
		const ground = (e) => { for (; e; e = e.parentElement) { const c = doc.defaultView.getComputedStyle(e).backgroundColor; if (!c.endsWith(', 0)')) return light(c) } }
		return Math.min(...[...doc.querySelectorAll('p, div:not(.wide), td')].map((e) => { const a = light(doc.defaultView.getComputedStyle(e).color), b = ground(e); return Math.max(a, b) / Math.min(a, b) }))
	}`).Num()
	require.GreaterOrEqual(t, worst, 4.5)
	p.until(`(() => { const d = document.querySelector('iframe').contentDocument, wide = d.querySelector('.wide'); return wide.scrollWidth > wide.clientWidth && d.documentElement.scrollWidth <= d.documentElement.clientWidth && document.documentElement.scrollWidth <= 390 })()`)
}

// What is shown of a message anew, with its pictures, is no step of the browser: the first
// press of Escape goes back.
func TestShowingPicturesIsNoStepBack(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.choose("Small Museums Weekly")
	p.press(input.Enter)
	p.until("location.pathname.startsWith('/c/') && !document.querySelector('[data-testid=queue]')")
	const read = "document.querySelector('[data-testid=frame]')?.contentDocument?.readyState === 'complete' && document.querySelector('[data-testid=frame]').contentDocument.URL.includes(%q)"
	p.until(read, "remote=0")
	n := p.MustEval("() => history.length").Int()
	p.does("Show")
	p.until(read, "remote=1")
	require.Equal(t, n, p.MustEval("() => history.length").Int())
	p.press(input.Escape)
	p.until("document.querySelector('[data-testid=queue]')")
}
