package e2e

import (
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"strings"
	"syscall"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/stretchr/testify/require"
)

// aBrowser is a browser with a profile of its own, which is killed and begun again.
type aBrowser struct {
	t       *testing.T
	profile string
	pid     int
	*rod.Browser
}

func (b *aBrowser) begin() {
	b.t.Helper()
	bin, err := exec.LookPath("chromium")
	require.NoError(b.t, err)
	l := flags(launcher.New().Bin(bin).UserDataDir(b.profile).Leakless(false))
	b.Browser = rod.New().ControlURL(l.MustLaunch()).MustConnect()
	b.pid = l.PID()
}

// kill ends it the hard way, with all its processes.
func (b *aBrowser) kill() {
	_ = syscall.Kill(-b.pid, syscall.SIGKILL)
	_ = syscall.Kill(b.pid, syscall.SIGKILL)
	_ = os.Remove(b.profile + "/SingletonLock")
}

// known is what must be there after a cut, and all that may be.
type known struct{ least, most string }

func (k *known) add(text string) { k.most += text }

// working is somebody at work whose browser or program is cut off again and again.
type working struct {
	t       *testing.T
	s       *server
	b       *aBrowser
	p       *page
	n       int // left to decide at first
	decided [2]int
	draft   int // its number
	texts   map[string]*known
	written [2]int // follow-ups written down
}

// TestCuts works with a browser and a program that are killed at a time of chance:
// nothing that was typed or decided before is missing afterwards, and nothing is
// there twice. Seeds are fixed; EBBE_CUTS tries as many others.
func TestCuts(t *testing.T) {
	t.Parallel()
	seeds := []uint64{}
	for i := range uint64(20) {
		seeds = append(seeds, i)
	}
	if many := os.Getenv("EBBE_CUTS"); many != "" {
		n := 0
		_, err := fmt.Sscan(many, &n)
		require.NoError(t, err)
		seeds = seeds[:0]
		for range n {
			seeds = append(seeds, rand.Uint64())
		}
	}
	w := &working{t: t, s: demo(t), b: &aBrowser{t: t, profile: t.TempDir()}, texts: map[string]*known{"draft": {}, "line": {}, "plan": {}}}
	t.Cleanup(func() { w.b.kill() })
	w.begin()
	w.n = w.p.left()
	w.p.press(input.KeyN).see("#write-to")
	_, err := fmt.Sscanf(w.p.MustInfo().URL, w.s.url+"/writing/%d", &w.draft)
	require.NoError(t, err)
	w.p.letters("mirela@couriers.example").press(input.Enter)
	w.p.reads("[data-testid=kept]", "Saved ")
	for i, seed := range seeds {
		t.Logf("cut %d, seed %d", i, seed)
		w.round(rand.New(rand.NewPCG(seed, 16)))
	}
}

// begin opens the program in the browser, anew.
func (w *working) begin() {
	w.t.Helper()
	w.b.begin()
	w.p = openIn(w.t, w.b.Browser, w.s.url, 1280, 800)
	w.p.Page = w.p.CancelTimeout() // one page may go through many cuts
	w.enter()
}

// enter signs in where the browser was killed before it had written the cookie down.
func (w *working) enter() {
	w.t.Helper()
	w.p.until("document.querySelector('[data-testid=left]')?.textContent > 0 || [...document.querySelectorAll('button')].some(b => b.textContent.includes('Open the museum'))")
	if w.p.MustEval(`() => !document.querySelector('[data-testid=left]')`).Bool() {
		w.p.does("Open the museum’s inbox")
	}
	w.p.until("document.querySelector('[data-testid=left]')?.textContent > 0")
}

func (w *working) round(r *rand.Rand) {
	w.t.Helper()
	do := []func(*rand.Rand){w.decide, w.decide, w.write, w.write, w.note, w.plan, w.takeBack, w.writeDown}
	for range 1 + r.IntN(3) {
		do[r.IntN(len(do))](r)
		if r.IntN(3) == 0 {
			w.p.stored()
			w.settled()
		}
	}
	w.p.stored()
	w.settled()
	do[r.IntN(len(do))](r) // and in the middle of this one it is cut
	switch r.IntN(4) {
	case 0:
		w.b.kill()
		w.begin()
	case 1:
		addr := strings.TrimPrefix(w.s.url, "http://")
		w.s.kill()
		do[r.IntN(4)](r) // goes on without it
		w.p.stored()
		w.settled()
		w.b.kill()
		w.s.start(addr)
		w.begin()
	case 2:
		w.s.restart()
		w.p.MustNavigate(w.s.url)
		w.enter()
	default:
		w.p.MustNavigate(w.s.url)
		w.enter()
	}
	w.look()
}

// settled notes that all that was done until now has to be there after a cut.
func (w *working) settled() {
	w.decided[0], w.written[0] = w.decided[1], w.written[1]
	for _, k := range w.texts {
		k.least = k.most
	}
}

func (w *working) inbox() {
	w.t.Helper()
	w.p.press(input.Escape, input.Escape)
	w.p.visit("/")
	w.p.see("[data-testid=queue] [role=option]")
}

func (w *working) decide(*rand.Rand) {
	if w.decided[1] > 15 {
		return
	}
	w.inbox()
	left := w.p.left()
	w.p.press(input.Digit2)
	w.decided[1]++
	w.p.leftIs(left - 1)
}

func (w *working) takeBack(*rand.Rand) {
	if w.decided[0] != w.decided[1] || w.decided[1] > 14 {
		return // what is taken back is known only while nothing is in doubt
	}
	w.decide(nil)
	w.p.with(input.KeyZ, input.ControlLeft)
	w.decided[1]--
	w.p.leftIs(w.n - w.decided[1])
	w.p.stored()
	w.settled()
}

func some(r *rand.Rand) string {
	text := ""
	for range 1 + r.IntN(5) {
		text += string(rune('a' + r.IntN(26)))
	}
	return text
}

// opened opens the message that is being written.
func (w *working) opened() {
	w.t.Helper()
	w.p.press(input.Escape, input.Escape)
	w.p.visit("/writing")
	w.p.presses("section li button", "mirela@couriers.example|Mirela")
}

func (w *working) write(r *rand.Rand) {
	w.t.Helper()
	w.opened()
	w.p.until("document.querySelector('#reply')?.value === %q", w.texts["draft"].most)
	w.p.MustElement("#reply").MustFocus()
	w.p.with(input.End, input.ControlLeft)
	text := some(r)
	w.texts["draft"].add(text)
	w.p.letters(text)
}

// note types in the line for a follow-up without finishing it.
func (w *working) note(r *rand.Rand) {
	w.t.Helper()
	w.inbox()
	w.p.letters("+").see("#writedown-line")
	w.p.until("document.querySelector('#writedown-line').value === %q", w.texts["line"].most)
	text := some(r)
	w.texts["line"].add(text)
	w.p.press(input.End).letters(text)
}

// writeDown finishes the line.
func (w *working) writeDown(r *rand.Rand) {
	w.t.Helper()
	if w.written[0] != w.written[1] || w.texts["line"].least != w.texts["line"].most {
		return
	}
	w.note(r)
	title := fmt.Sprintf("thing no %d", w.written[1])
	w.p.MustElement("#writedown-line").MustSelectAllText()
	w.p.letters(title).press(input.Enter)
	w.p.until("!document.querySelector('#writedown-line')")
	w.written[1]++
	*w.texts["line"] = known{}
	w.p.stored()
	w.settled()
}

func (w *working) plan(r *rand.Rand) {
	w.t.Helper()
	if len(w.texts["plan"].most) > 40 {
		return
	}
	w.p.press(input.Escape, input.Escape)
	w.p.visit("/delivery")
	w.p.see("[data-testid=coming]")
	if w.texts["plan"].most == "" {
		if !w.p.MustHas("#plan-name") {
			w.p.redraw()
		}
		w.p.see("#plan-name").MustSelectAllText()
		w.p.letters("P")
		*w.texts["plan"] = known{"", "P"}
		w.p.stored()
		w.settled()
	}
	w.p.see("#plan-name").MustFocus()
	text := some(r)
	w.texts["plan"].add(text)
	w.p.press(input.End).letters(text)
}

// look holds what is there against what has to be.
func (w *working) look() {
	w.t.Helper()
	w.inbox()
	w.p.until("%d <= %d - document.querySelector('[data-testid=left]').textContent && %d - document.querySelector('[data-testid=left]').textContent <= %d", w.decided[0], w.n, w.n, w.decided[1])
	is := func(k *known, text string) {
		require.True(w.t, strings.HasPrefix(text, k.least) && strings.HasPrefix(k.most, text), "has %q, was to have %q and at most %q", text, k.least, k.most)
		*k = known{text, text}
	}
	w.opened()
	w.p.until("document.querySelector('#reply')?.value.length >= %d", len(w.texts["draft"].least))
	w.p.reads("[data-testid=kept]", "Saved ")
	is(w.texts["draft"], w.p.MustEval(`() => document.querySelector('#reply').value`).Str())
	const saved = `async (n, text) => { const end = performance.now() + 20000; for (;;) { const is = (await (await fetch('/api/v1/drafts/' + n)).json()).text; if (is === text || performance.now() > end) return is; await new Promise(requestAnimationFrame) } }`
	require.Equal(w.t, w.texts["draft"].most, w.p.MustEval(saved, w.draft, w.texts["draft"].most).Str(), "what the program has of it")
	w.inbox()
	w.p.letters("+").see("#writedown-line")
	w.p.until("document.querySelector('#writedown-line').value.length >= %d", len(w.texts["line"].least))
	is(w.texts["line"], w.p.MustEval(`() => document.querySelector('#writedown-line').value`).Str())
	w.p.press(input.Escape)
	if w.texts["plan"].most != "" {
		w.p.visit("/delivery")
		w.p.see("[data-testid=coming]")
		w.p.until("(document.querySelector('#plan-name')?.value ?? '').length >= %d", len(w.texts["plan"].least))
		is(w.texts["plan"], w.p.MustEval(`() => document.querySelector('#plan-name')?.value ?? ''`).Str())
	}
	for i := range w.written[1] {
		const made = `async words => { const title = '"title":"' + words + '"', filter = encodeURIComponent(JSON.stringify({ words })), end = performance.now() + 20000; for (;;) { const n = (await (await fetch('/api/v1/follow-ups?by=date&filter=' + filter)).text()).split(title).length - 1; if (n || performance.now() > end) return n; await new Promise(requestAnimationFrame) } }`
		require.Equal(w.t, 1, w.p.MustEval(made, fmt.Sprintf("thing no %d", i)).Int(), "thing no %d", i)
	}
	w.decided[0] = w.n - w.p.left()
	w.decided[1] = w.decided[0]
	w.written[0] = w.written[1]
}
