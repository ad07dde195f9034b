package main

import (
	"cmp"
	"fmt"
	"maps"
	"net/http"
	"net/http/httptest"
	"os/exec"
	"slices"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/launcher"
)

// bare is what cannot be done without: a page with 14 lines and a text, of which a
// key takes the first line away, brings one at the end, and shows the next text. It
// is the floor beside which Ebbe is measured, in turn with it in the same browser.
const bare = `<!doctype html><meta charset="utf-8"><style>
body { margin: 0; font: 14px/1.4 sans-serif; display: grid; grid-template-columns: 320px 1fr; height: 100vh }
li { list-style: none; height: 52px; border-bottom: 1px solid #ddd; overflow: hidden }
</style><ul></ul><main><h1 data-testid="subject"></h1><div data-testid="body"></div></main><script>
const of = n => ({from: 'Sender ' + n, subject: 'Subject ' + n + ' about the crates', text: ('Paragraph ' + n + ' of the text of a message, as long as they are. ').repeat(12)})
let at = 0
const line = n => { const li = document.createElement('li'), b = document.createElement('b'), p = document.createElement('div'); b.textContent = of(n).from; p.textContent = of(n).subject; li.append(b, p); return li }
const show = () => { document.querySelector('h1').textContent = of(at).subject; document.querySelector('[data-testid=body]').textContent = of(at).text }
const list = document.querySelector('ul')
for (let n = 0; n < 14; n++) list.append(line(n))
show()
addEventListener('keydown', e => { if (e.key !== '2' && e.key !== 'ArrowDown') return; list.firstChild.remove(); list.append(line(++at + 13)); show() })
</script>`

// measured has each key timed from its press to the frame in which the next message
// stands; counted takes down what React draws and commits, and which requests go.
const measured = `() => {
	window.took = []
	const shown = () => document.querySelector('[data-testid=subject]')?.textContent + document.querySelector('[data-testid=body]')?.textContent
	addEventListener('keydown', (e) => {
		const at = e.timeStamp, before = shown()
		const look = () => shown() !== before && document.querySelector('[data-testid=body]') ? requestAnimationFrame(() => { const c = new MessageChannel(); c.port1.onmessage = () => window.took.push(performance.now() - at); c.port2.postMessage(0) }) : requestAnimationFrame(look)
		look()
	}, true)
}`

// byScript makes, at a key that Ebbe does not know, the least changes to its screen that a
// decision needs, without React and without the rules: the first slip goes, one comes at the
// end, the others move up, and the next message stands. It is what Ebbe's own screen costs.
const byScript = `() => {
	const q = s => document.querySelector(s), list = q('[role=listbox] > div'), all = q('[data-testid=queue] > div'), heads = all.firstElementChild
	let n = 0, height = parseFloat(all.style.height)
	addEventListener('keydown', e => {
		if (e.key !== 'q') return
		e.stopImmediatePropagation()
		const last = list.lastElementChild, next = last.cloneNode(true), size = parseFloat(last.style.height)
		next.style.top = parseFloat(last.style.top) + size + 'px'
		list.firstElementChild.remove()
		list.append(next)
		all.style.height = (height -= size) + 'px'
		list.style.transform = heads.style.transform = 'translateY(' + height + 'px)'
		const article = q('article').cloneNode(true)
		article.querySelector('[data-testid=body]').textContent = 'Text ' + ++n + ' of a message, as long as they are.'
		q('article').replaceWith(article)
		q('[data-testid=subject]').textContent = 'Subject ' + n
		for (const b of document.querySelectorAll('.between b')) b.textContent = n
	}, true)
}`

// counted stands before React begins: it tells of each commit, and of it the parts
// that did work are counted (flag 1, PerformedWork).
const counted = `
	window.drawn = 0; window.commits = 0
	const walk = fiber => { for (let f = fiber; f; f = f.sibling) { if ((f.tag === 0 || f.tag === 11 || f.tag === 14 || f.tag === 15) && (f.flags & 1) && f.alternate !== null) window.drawn++; else if ((f.tag === 0 || f.tag === 11 || f.tag === 15) && f.alternate === null && (f.flags & 1)) window.drawn++; if (f.child && (f.alternate === null || f.child !== f.alternate.child)) walk(f.child) } }
	window.__REACT_DEVTOOLS_GLOBAL_HOOK__ = { renderers: new Map(), supportsFiber: true, inject: () => 1, onCommitFiberUnmount() {}, onPostCommitFiberRoot() {}, onCommitFiberRoot(_, root) { if (!window.counting) return; window.commits++; walk(root.current) } }
`

// inChromium opens a browser.
func inChromium() *rod.Browser {
	l := launcher.New().Bin(must(exec.LookPath("chromium"))).Headless(true).NoSandbox(true).
		Set("disable-gpu").Set("disable-quic").Set("no-first-run").Set("disable-background-networking").Set("disable-component-update").Set("disable-sync")
	return rod.New().ControlURL(l.MustLaunch()).MustConnect()
}

// tenth is how long a quick person waits between two keys.
const tenth = 100 * time.Millisecond

// keys types a key so many times, each after the one before has been seen and that
// long after it, and gives how long each took in milliseconds.
func keys(p *rod.Page, key input.Key, n int, pause time.Duration) []float64 {
	p.MustEval(`() => { window.took = [] }`)
	for i := range n {
		check(p.Keyboard.Type(key))
		p.MustWait(fmt.Sprintf("() => window.took.length > %d", i))
		time.Sleep(pause)
	}
	var took []float64
	check(p.MustEval(`() => window.took`).Unmarshal(&took))
	return took
}

func percent(took []float64, p int) float64 {
	sorted := slices.Sorted(slices.Values(took))
	return sorted[min(len(sorted)*p/100, len(sorted)-1)]
}

// browser measures in Chromium, beside the bare page: from a key pressed to the next
// message painted; how many parts are drawn and which requests go for a decision, an
// arrow and a typed word; and how many frames a second are painted while the queue is
// scrolled.
func (s *server) browser() {
	floor := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		_, _ = w.Write([]byte(bare))
	}))
	defer floor.Close()
	// Each page has a browser of its own, as only one page of a browser has the focus.
	a, b := inChromium(), inChromium()
	defer a.MustClose()
	defer b.MustClose()
	q := a.MustPage(floor.URL).MustSetViewport(1280, 800, 1, false)
	q.MustEval(measured)
	p := b.MustPage("about:blank").MustSetViewport(1280, 800, 1, false)
	p.MustEvalOnNewDocument(counted)
	p.MustNavigate(s.url)
	p.MustElement("#address").MustInput("me@m.example")
	p.MustElement("#password").MustInput("long enough").MustType(input.Enter)
	p.MustElement("[role=option]")
	p.MustElement("[data-testid=body]")
	p.MustEval(measured)
	for _, pace := range []struct {
		name  string
		pause time.Duration
	}{{"as soon as seen", 0}, {"ten a second", tenth}} {
		var ours, theirs []float64
		for range 20 { // in turn, so that both meet the machine in the same mood
			theirs = append(theirs, keys(q, input.Digit2, 10, pace.pause)...)
			ours = append(ours, keys(p, input.Digit2, 10, pace.pause)...)
		}
		report("a bare page: key to next text painted, "+pace.name, slices.Clone(theirs))
		report("key to next message painted, "+pace.name, slices.Clone(ours))
		fmt.Printf("%-44s %6.2f times at the median, %.2f at p95\n", "beside the bare page", percent(ours, 50)/percent(theirs, 50), percent(ours, 95)/percent(theirs, 95))
	}
	p.MustEval(byScript)
	var least, theirs []float64
	for range 20 {
		theirs = append(theirs, keys(q, input.Digit2, 10, 0)...)
		least = append(least, keys(p, input.KeyQ, 10, 0)...)
	}
	report("the least changes to Ebbe's screen, by a script", slices.Clone(least))
	fmt.Printf("%-44s %6.2f times at the median, %.2f at p95\n", "beside the bare page", percent(least, 50)/percent(theirs, 50), percent(least, 95)/percent(theirs, 95))
	p.MustReload().MustElement("[data-testid=body]")
	p.MustEval(measured)
	arrows := keys(p, input.ArrowDown, 50, tenth)
	report("arrow pressed to next message painted", arrows)
	counts(p, "a decision", 10, func() { keys(p, input.Digit2, 1, 0) })
	counts(p, "an arrow", 10, func() { keys(p, input.ArrowDown, 1, 0) })
	check(p.Keyboard.Type(input.Digit3))
	p.MustElement("#reply").MustFocus()
	counts(p, "a word typed in a reply", 10, func() {
		for _, r := range "crates " {
			check(p.Keyboard.Type(input.Key(r)))
		}
	})
	check(p.Keyboard.Type(input.Escape))
	p.MustWait("() => !document.querySelector('#reply')")
	scrolling(p)
}

// counts tells how many parts are drawn, in how many commits, and which requests go, for
// one of what is done n times, the half second after it included.
func counts(p *rod.Page, name string, n int, do func()) {
	p.MustEval(`() => { window.drawn = window.commits = 0; window.counting = true; performance.clearResourceTimings(); performance.setResourceTimingBufferSize(5000) }`)
	for range n {
		do()
	}
	p.MustEval(`() => new Promise(done => setTimeout(done, 2000))`)
	var got struct {
		Drawn    float64        `json:"drawn"`
		Commits  float64        `json:"commits"`
		Requests map[string]int `json:"requests"`
	}
	check(p.MustEval(`() => {
		window.counting = false
		const requests = {}
		for (const e of performance.getEntriesByType('resource')) {
			const path = new URL(e.name).pathname
			if (!path.startsWith('/api/v1/')) continue
			const what = path.slice(7).replace(/\d+/g, 'n')
			requests[what] = (requests[what] ?? 0) + 1
		}
		return { drawn: window.drawn, commits: window.commits, requests }
	}`).Unmarshal(&got))
	all, by := 0, ""
	paths := slices.SortedFunc(maps.Keys(got.Requests), func(a, b string) int {
		return cmp.Or(got.Requests[b]-got.Requests[a], cmp.Compare(a, b))
	})
	for _, path := range paths {
		all += got.Requests[path]
		by += fmt.Sprintf(" %s %.1f", path, float64(got.Requests[path])/float64(n))
	}
	fmt.Printf("%-44s %6.1f parts drawn in %.1f commits, %.1f requests:%s\n", name, got.Drawn/float64(n), got.Commits/float64(n), float64(all)/float64(n), by)
}

// scrolling turns the wheel steadily for six seconds and notes each frame.
func scrolling(p *rod.Page) {
	p.Mouse.MustMoveTo(230, 400)
	p.MustEval(`() => { window.frames_ = []; let before = performance.now(); const note = (t) => { window.frames_.push(t - before); before = t; window.noting = requestAnimationFrame(note) }; requestAnimationFrame(note) }`)
	for begin := time.Now(); time.Since(begin) < 6*time.Second; {
		check(p.Mouse.Scroll(0, 900, 1))
	}
	var frames []float64
	check(p.MustEval(`() => { cancelAnimationFrame(window.noting); return window.frames_.slice(2) }`).Unmarshal(&frames))
	at := p.MustEval(`() => document.querySelector('[data-testid=queue]').scrollTop / 76`).Int()
	sum, slow := 0.0, 0
	for _, f := range frames {
		if sum += f; f > 25 {
			slow++
		}
	}
	slices.Sort(frames)
	fmt.Printf("%-44s %6.1f frames a second; %d of %d took longer than 25 ms, the longest %.0f ms (down to slip %d)\n", "scrolling the queue", float64(len(frames))*1000/sum, slow, len(frames), frames[len(frames)-1], at)
}
