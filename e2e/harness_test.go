// Package e2e drives the real program in headless Chromium.
package e2e

import (
	"bufio"
	"context"
	"database/sql"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/launcher"
	"github.com/go-rod/rod/lib/proto"
	"github.com/go-rod/rod/lib/utils"
	_ "github.com/mattn/go-sqlite3"
	"github.com/stretchr/testify/require"
)

// start is when the demo's clock begins in the tests: a Tuesday.
const start = "2026-11-24T10:42"

// reader is whose mail the demo shows first.
const reader = "solvei.arnkvist@skagvikmuseum.example"

// patience is how long a page may take before a test gives up on it.
const patience = 20 * time.Second

var program string // the built binary

func TestMain(m *testing.M) {
	dir, err := os.MkdirTemp("", "ebbe-e2e")
	if err != nil {
		panic(err)
	}
	program = filepath.Join(dir, "ebbe")
	build := exec.Command("go", "build", "-tags", "sqlite_fts5", "-o", program, "../cmd/ebbe")
	build.Stderr = os.Stderr
	if err := build.Run(); err != nil {
		panic(err)
	}
	code := m.Run()
	for _, b := range browsers.all {
		_ = b.Close()
	}
	os.RemoveAll(dir)
	os.Exit(code)
}

// sources has Go see, within a test, what the program is built from: a result is
// kept only while none of it has changed.
var sources = sync.OnceFunc(func() {
	for _, root := range []string{"../cmd", "../internal", "../demo"} {
		_ = filepath.WalkDir(root, func(path string, _ os.DirEntry, _ error) error {
			_, err := os.Stat(path)
			return err
		})
	}
})

// server is a running program.
type server struct {
	t    *testing.T
	cmd  *exec.Cmd
	url  string
	code string // that the set-up asks for
	args []string
}

var (
	listening = regexp.MustCompile(`Ebbe is at (https?://\S+)`)
	asking    = regexp.MustCompile(`asked for this code: (\S+)`)
)

// setupCodes are the codes that programs ask for when they are set up, by their addresses.
var setupCodes sync.Map

// run starts the program and waits until it says where it listens.
func run(t *testing.T, args ...string) *server {
	t.Helper()
	s := &server{t: t, args: args}
	s.start("127.0.0.1:0")
	t.Cleanup(s.kill)
	return s
}

func (s *server) start(addr string) {
	s.t.Helper()
	sources()
	args := append(slices.Clone(s.args), "--addr", addr)
	if args[0] == "serve" {
		args = append(args, "--log", "warn")
	}
	s.cmd = exec.Command(program, args...)
	out, err := s.cmd.StdoutPipe()
	require.NoError(s.t, err)
	s.cmd.Stderr = os.Stderr
	require.NoError(s.t, s.cmd.Start())
	lines := bufio.NewScanner(out)
	for lines.Scan() {
		if m := asking.FindStringSubmatch(lines.Text()); m != nil {
			s.code = m[1]
		}
		if m := listening.FindStringSubmatch(lines.Text()); m != nil {
			s.url = m[1]
			setupCodes.Store(s.url, s.code)
			return
		}
	}
	s.t.Fatal("the program ended before it listened")
}

// restart ends the program the hard way and starts it again at the same address.
func (s *server) restart() {
	s.t.Helper()
	s.kill()
	s.start(strings.TrimPrefix(s.url, "http://"))
}

func (s *server) kill() {
	if s.cmd != nil {
		_ = s.cmd.Process.Signal(syscall.SIGKILL)
		_ = s.cmd.Wait()
		s.cmd = nil
	}
}

// demo starts the demo in a new folder, its clock at start. The museum's mail
// is made once and copied.
func demo(t *testing.T) *server {
	t.Helper()
	made.Do(func() {
		made.dir = filepath.Join(filepath.Dir(program), "museum")
		s := &server{t: t, args: []string{"demo", "--data", made.dir, "--start", start}}
		s.start("127.0.0.1:0")
		s.kill()
		require.NoError(t, os.RemoveAll(filepath.Join(made.dir, "ebbe.hatch"))) // it is of no use without the program, and nothing to be copied
	})
	dir := t.TempDir()
	require.NoError(t, os.CopyFS(dir, os.DirFS(made.dir)))
	db, err := sql.Open("sqlite3", filepath.Join(dir, "ebbe.db"))
	require.NoError(t, err)
	loc, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	begin, err := time.ParseInLocation("2006-01-02T15:04", start, loc)
	require.NoError(t, err)
	_, err = db.Exec("UPDATE meta SET value = ? WHERE name = 'clock'", strconv.FormatInt(time.Until(begin).Milliseconds(), 10))
	require.NoError(t, err)
	require.NoError(t, db.Close())
	return run(t, "demo", "--data", dir)
}

// made is the museum's mail, ready to be copied.
var made struct {
	sync.Once
	dir string
}

// browsers are those that are running: each test that opens a page has one for
// itself, as only one page of a browser has the focus.
var browsers struct {
	sync.Mutex
	all, idle []*rod.Browser
	of        map[*testing.T]*rod.Browser
}

// ownPages are the features with which Chromium draws its own frame as pages: each
// is a process more for every window, of which headless nothing is seen.
const ownPages = "InitialWebUI,WebUIToolbar,WebUIReloadButton,WebUIOmniboxPopup,WebUIOmniboxFullPopup,WebUIOmniboxAimPopup,PreloadTopChromeWebUI,Translate"

// flags are how Chromium is run here.
func flags(l *launcher.Launcher) *launcher.Launcher {
	return l.Headless(true).NoSandbox(true).
		Set("disable-gpu").Set("disable-quic").Set("no-first-run").Set("disable-background-networking").
		Set("disable-component-update").Set("disable-sync").Set("font-render-hinting", "none").
		Set("disable-features", ownPages)
}

// chromium is the browser of a test, until it has ended.
func chromium(t *testing.T) *rod.Browser {
	t.Helper()
	browsers.Lock()
	defer browsers.Unlock()
	if b := browsers.of[t]; b != nil {
		return b
	}
	if len(browsers.idle) == 0 {
		bin, err := exec.LookPath("chromium")
		require.NoError(t, err, "Chromium is needed: make browser")
		l := flags(launcher.New().Bin(bin))
		b := rod.New().ControlURL(l.MustLaunch()).MustConnect()
		browsers.all, browsers.idle = append(browsers.all, b), append(browsers.idle, b)
	}
	last := len(browsers.idle) - 1
	b := browsers.idle[last]
	browsers.idle = browsers.idle[:last]
	if browsers.of == nil {
		browsers.of = map[*testing.T]*rod.Browser{}
	}
	browsers.of[t] = b
	t.Cleanup(func() {
		browsers.Lock()
		defer browsers.Unlock()
		delete(browsers.of, t)
		browsers.idle = append(browsers.idle, b)
	})
	return b
}

// open opens a page of the program in a browser of its own cookies.
func open(t *testing.T, url string, width, height int) *page {
	t.Helper()
	ctx, err := chromium(t).Incognito()
	require.NoError(t, err)
	q := openIn(t, ctx, url, width, height)
	t.Cleanup(func() { _ = ctx.Close() })
	return q
}

// openIn opens a page of the program in that browser.
func openIn(t *testing.T, ctx *rod.Browser, url string, width, height int) *page {
	t.Helper()
	p, err := ctx.Page(proto.TargetCreateTarget{})
	require.NoError(t, err)
	p = p.Sleeper(func() utils.Sleeper { return utils.BackoffSleeper(10*time.Millisecond, 80*time.Millisecond, nil) })
	require.NoError(t, p.SetViewport(&proto.EmulationSetDeviceMetricsOverride{Width: width, Height: height, DeviceScaleFactor: 1}))
	p = p.Timeout(4 * time.Minute)                                     // nothing hangs for good
	p = p.WithPanic(func(v any) { require.FailNow(t, fmt.Sprint(v)) }) // fails this test, and not all of them
	q := &page{t: t, Page: p}
	go p.EachEvent(func(e *proto.RuntimeExceptionThrown) {
		text := e.ExceptionDetails.Text
		if e.ExceptionDetails.Exception != nil {
			text += " " + e.ExceptionDetails.Exception.Description
		}
		q.wrong = append(q.wrong, text)
	},
		func(e *proto.LogEntryAdded) {
			if e.Entry.Level == proto.LogLogEntryLevelError && e.Entry.Source == proto.LogLogEntrySourceSecurity {
				q.wrong = append(q.wrong, e.Entry.Text)
			}
		})()
	t.Cleanup(func() { require.Empty(t, q.wrong, "errors in the browser") })
	require.NoError(t, p.Navigate(url))
	return q
}

// page is a page with the things a user does.
type page struct {
	t *testing.T
	*rod.Page
	wrong []string
}

// enter signs in to the demo.
func (p *page) enter() *page {
	p.t.Helper()
	p.does("Open the museum’s inbox")
	p.see(`[data-testid=queue] [role=option]`)
	p.until("!matchMedia('(min-width: 701px)').matches || document.querySelector('[data-testid=box]')") // the rail is all there
	return p
}

func (p *page) button(name string) *rod.Element {
	p.t.Helper()
	e, err := p.Timeout(patience).ElementR("button", "^\\s*"+regexp.QuoteMeta(name))
	require.NoError(p.t, err, "waiting for the button %s", name)
	return e.CancelTimeout()
}

// clicks clicks on what is found, again if it was drawn anew meanwhile.
func (p *page) clicks(what string, find func(*rod.Page) (*rod.Element, error)) {
	p.t.Helper()
	var err error
	for end := time.Now().Add(patience); time.Now().Before(end); {
		var e *rod.Element
		if e, err = find(p.Timeout(patience)); err == nil {
			if err = e.CancelTimeout().Timeout(3*time.Second).Click(proto.InputMouseButtonLeft, 1); err == nil {
				return
			}
		}
	}
	require.NoError(p.t, err, "clicking on %s", what)
}

// click clicks on the first such element.
func (p *page) click(selector string) {
	p.t.Helper()
	p.clicks(selector, func(r *rod.Page) (*rod.Element, error) { return r.Element(selector) })
}

// does clicks on the button of that name.
func (p *page) does(name string) {
	p.t.Helper()
	p.presses("button", "^\\s*"+regexp.QuoteMeta(name))
}

// presses clicks on the first of such elements whose text matches.
func (p *page) presses(selector, text string) {
	p.t.Helper()
	p.clicks(selector+" "+text, func(r *rod.Page) (*rod.Element, error) { return r.ElementR(selector, text) })
}

// see waits until something is there.
func (p *page) see(selector string) *rod.Element {
	p.t.Helper()
	e, err := p.Timeout(patience).Element(selector)
	require.NoError(p.t, err, "waiting for %s", selector)
	return e.CancelTimeout()
}

// place is where the first such element is drawn, once it lies still: the same for
// three frames painted one after the other. An element taken before may be drawn
// anew by then, and is nowhere.
func (p *page) place(selector string) *proto.DOMRect {
	p.t.Helper()
	const still = `selector => new Promise(done => {
		const end = performance.now() + 5000
		let last = '', times = 0
		const look = () => {
			const box = document.querySelector(selector)?.getBoundingClientRect()
			const now = box && box.width > 0 && box.height > 0 ? [box.x, box.y, box.width, box.height].join() : ''
			times = now !== '' && now === last ? times + 1 : 0
			last = now
			if (times === 2) done({x: box.x, y: box.y, width: box.width, height: box.height})
			else if (performance.now() > end) done(null)
			else requestAnimationFrame(look)
		}
		look()
	})`
	for end := time.Now().Add(patience); time.Now().Before(end); {
		if at, err := p.Timeout(patience).Eval(still, selector); err == nil && !at.Value.Nil() {
			return &proto.DOMRect{X: at.Value.Get("x").Num(), Y: at.Value.Get("y").Num(), Width: at.Value.Get("width").Num(), Height: at.Value.Get("height").Num()}
		}
	}
	p.t.Fatalf("%s never lies still", selector)
	return nil
}

// until waits until the JavaScript expression holds, looking at each frame that
// is painted.
func (p *page) until(expression string, args ...any) {
	p.t.Helper()
	js := fmt.Sprintf(expression, args...)
	watch := `() => new Promise(done => {
		const end = performance.now() + 5000
		const look = () => { let is = false; try { is = !!(` + js + `) } catch {} ; if (is) done(true); else if (performance.now() > end) done(false); else requestAnimationFrame(look) }
		look()
	})`
	for end := time.Now().Add(patience); time.Now().Before(end); {
		if holds, err := p.Timeout(patience).Eval(watch); err == nil && holds.Value.Bool() {
			return
		}
	}
	p.t.Fatalf("waiting for %s\nat %s, the focus is on %s, the page says: %s", js, p.MustEval(`() => location.href`).Str(),
		p.MustEval(`() => document.activeElement?.outerHTML.slice(0, 120) ?? ""`).Str(), p.text("body"))
}

// reads waits until the text of the first such element contains the words.
func (p *page) reads(selector, words string) {
	p.t.Helper()
	p.until("document.querySelector(%q)?.textContent.includes(%q)", selector, words)
}

// down goes down the queue until the words are in what is drawn of it.
func (p *page) down(words string) {
	p.t.Helper()
	for range 100 {
		if p.MustEval(`w => document.querySelector('[data-testid=queue]').textContent.includes(w)`, words).Bool() {
			return
		}
		p.press(input.ArrowDown)
	}
	p.t.Fatalf("the queue does not have %s", words)
}

func (p *page) text(selector string) string {
	return p.MustEval(`s => document.querySelector(s)?.innerText ?? ''`, selector).Str()
}

func (p *page) press(keys ...input.Key) *page {
	p.t.Helper()
	for _, k := range keys {
		require.NoError(p.t, p.Keyboard.Press(k))
		require.NoError(p.t, p.Keyboard.Release(k))
	}
	return p
}

// with presses a key while others are held.
func (p *page) with(key input.Key, held ...input.Key) *page {
	p.t.Helper()
	require.NoError(p.t, p.KeyActions().Press(held...).Type(key).Do())
	return p
}

func (p *page) write(text string) *page {
	p.t.Helper()
	require.NoError(p.t, p.InsertText(text))
	return p
}

// option opens a selection and takes one of what it offers.
func (p *page) option(selector, name string) {
	p.t.Helper()
	p.click(selector)
	p.see("[role=listbox] [role=option]")
	p.presses("[role=option]", "^"+regexp.QuoteMeta(name)+"$")
	p.reads(selector, name)
}

func (p *page) left() int {
	return p.MustEval(`() => Number(document.querySelector('[data-testid=left]').textContent)`).Int()
}

func (p *page) leftIs(n int) {
	p.t.Helper()
	p.reads("[data-testid=left]", fmt.Sprint(n))
	p.until("document.querySelector('[data-testid=left]').textContent === '%d'", n)
}

// command runs the program to its end and gives its output and exit status.
func command(t *testing.T, args ...string) (string, int) {
	t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), 3*time.Minute)
	defer cancel()
	out, err := exec.CommandContext(ctx, program, args...).CombinedOutput()
	if err != nil {
		var exit *exec.ExitError
		require.ErrorAs(t, err, &exit, string(out))
		return string(out), exit.ExitCode()
	}
	return string(out), 0
}
