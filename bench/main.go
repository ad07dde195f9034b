// Command bench measures Ebbe against the budgets of docs/speed.md, with
// generated mailboxes, the real program and headless Chromium.
package main

import (
	"bufio"
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/desk"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/deliveries"
	"ebbe/internal/desk/queue"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/store"
)

var (
	program   = flag.String("program", "bin/ebbe", "the program to measure")
	messages  = flag.Int("messages", 20_000, "messages in the archive, five to a conversation")
	undecided = flag.Int("undecided", 5_000, "conversations in the inbox")
	work      = flag.Int("follow-ups", 20_000, "open follow-ups")
	sync      = flag.Int("sync", 20_000, "messages of the account that is synced for the first time")
	only      = flag.Bool("only-sync", false, "measure nothing but that sync")
	people    = flag.Int("people", 20, "people with their mail in one Ebbe")
	each      = flag.Int("each", 50_000, "messages of each of them")
	crowded   = flag.Bool("only-people", false, "measure nothing but these")
	grow      = flag.Bool("only-growth", false, "measure nothing but how every request grows with the archive")
	small     = flag.Int("small", 25_000, "messages of the smaller of the two archives for that")
	large     = flag.Int("large", 300_000, "messages of the larger")
	finds     = flag.Bool("only-search", false, "measure nothing but searches, in an archive of so many messages as are named by -large")
	lengthy   = flag.Bool("only-long", false, "measure nothing but a conversation of 300 messages")
	key       = flag.Bool("only-key", false, "measure nothing but what stands before the user in Chromium")
	loaded    = flag.Bool("only-load", false, "measure nothing but these at work, with live accounts")
	shared    = flag.Bool("only-together", false, "measure nothing but how fast a change of a team is on every screen")
	tenYears  = flag.Bool("only-numbers", false, "measure nothing but Numbers, with so many messages of ten years as are named by -large")
	minutes   = flag.Int("minutes", 10, "how long they are at work")
	keep      = flag.String("data", "", "data folder to keep and use again (default: a new one)")
)

func main() {
	flag.Parse()
	dir := must(os.MkdirTemp("", "ebbe-bench"))
	defer os.RemoveAll(dir)
	if *keep != "" {
		check(os.MkdirAll(*keep, 0o700))
	}
	if *crowded {
		crowd(cmp.Or(*keep, dir), *people, *each)
		return
	}
	if *loaded {
		load(cmp.Or(*keep, dir), *people, *each, time.Duration(*minutes)*time.Minute)
		return
	}
	if *shared {
		pace(cmp.Or(*keep, dir), *people, *undecided)
		return
	}
	if *finds {
		finding(cmp.Or(*keep, filepath.Join(dir, "search")), *large)
		return
	}
	if *tenYears {
		years(cmp.Or(*keep, dir), *large)
		return
	}
	if *lengthy {
		long(dir, 300)
		return
	}
	if *only {
		synced(filepath.Join(dir, "synced"), *sync)
		return
	}
	if !*key {
		if growth(cmp.Or(*keep, dir), [2]int{*small, *large}); *grow {
			return
		}
		synced(filepath.Join(dir, "synced"), *sync)
	}
	data := filepath.Join(dir, "data")
	if *keep != "" {
		data = *keep
	}
	if _, err := os.Stat(filepath.Join(data, "ebbe.db")); err != nil {
		archive := filepath.Join(dir, "archive.mbox")
		generate(archive, *messages, 5, "a")
		importing("import of the archive", *messages, archive, "--place", "archived", "--data", data)
		check(os.Remove(archive))
		inbox := filepath.Join(dir, "inbox.mbox")
		generate(inbox, *undecided, 1, "i")
		importing("import of the inbox", *undecided, inbox, "--data", data)
	}
	if *key {
		s := start(data)
		defer s.stop()
		s.signIn()
		s.browser()
		return
	}
	long(dir, 300)
	returns(filepath.Join(dir, "returns"))
	held(filepath.Join(dir, "held"))
	s := start(data)
	defer s.stop()
	s.signIn()
	s.p95("inbox page", 200, func(int) { s.call("GET", "/inbox", nil, nil) })
	s.p95("the first dayline of a day, learning anew", 1, func(int) { s.call("GET", "/dayline", nil, nil) })
	s.p95("dayline", 200, func(int) { s.call("GET", "/dayline", nil, nil) })
	s.call("PUT", "/delivery/plans", map[string]any{"use": true, "plan": plan("every day 9, 14, 16:30", "every day writing 10–12")}, nil)
	s.p95("dayline, under a plan", 200, func(int) { s.call("GET", "/dayline", nil, nil) })
	s.p95("inbox page, under a plan", 200, func(int) { s.call("GET", "/inbox", nil, nil) })
	s.p95("delivery", 50, func(int) { s.call("GET", "/delivery", nil, nil) })
	s.p95("preview of a plan", 50, func(int) {
		s.call("POST", "/delivery/preview", map[string]any{"plan": plan("every day 8, 12, 17")}, nil)
	})
	s.call("POST", "/delivery/use", map[string]any{"plan": ""}, nil)
	s.p95("one search, a selective word", 100, func(i int) { s.call("GET", fmt.Sprintf("/found?asked=unique%08d", i*7), nil, nil) })
	s.p95("one search, a selective word and a common one", 100, func(i int) { s.call("GET", fmt.Sprintf("/found?asked=tide+unique%08d", i*7), nil, nil) })
	s.p95("one search as it is typed, letter by letter", 100, func(i int) {
		s.call("GET", "/found?asked="+url.QueryEscape(fmt.Sprintf("unique%08d", i*7)[:6+i%8]), nil, nil)
	})
	for _, w := range []string{"tide", "tid", "lorry"} {
		s.p95("one search, “"+w+"”, the best first", 20, func(int) { s.call("GET", "/found?asked="+w, nil, nil) })
		s.p95("one search, “"+w+"”, the newest first", 20, func(int) { s.call("GET", "/found?newest=1&asked="+w, nil, nil) })
	}
	ids := s.inbox(600)
	s.p95("one decision", len(ids), func(i int) {
		s.call("POST", "/decisions", map[string]any{"kind": "archive", "conversations": []int64{ids[i]}}, nil)
	})
	s.p95("one taking back", 500, func(int) { s.call("POST", "/take-back", nil, nil) })
	s.p95("inbox by sender, most important first", 50, func(int) { s.call("GET", "/inbox?group=sender&order=importance", nil, nil) })
	s.p95("inbox filtered by the unread with files", 50, func(int) { s.call("GET", "/inbox?where="+url.QueryEscape(`{"unread":true,"files":true}`), nil, nil) })
	s.p95("40 slips by their IDs", 100, func(i int) { s.call("GET", "/slips?ids="+join(ids[i:i+40]), nil, nil) })
	s.p95("senders", 50, func(int) { s.call("GET", "/senders", nil, nil) })
	s.p95("how wrong the forecasts were", 5, func(int) { s.call("GET", "/misses", nil, nil) })
	many := s.inbox(5000)
	s.p95(fmt.Sprintf("%d conversations decided at once", len(many)), 3, func(i int) {
		s.call("POST", "/decisions", map[string]any{"kind": []string{"archive", "bin", "inbox"}[i], "conversations": many}, nil)
	})
	s.p95("and taken back", 3, func(int) { s.call("POST", "/take-back", nil, nil) })
	s.followUps(*work, data)
	s.browser()
	fmt.Printf("%-44s %6d MB\n", "memory of the server (resident)", s.memory())
	crowd(dir, *people, *each)
	load(dir, *people, *each, time.Duration(*minutes)*time.Minute)
}

// shifted is the clock of a program that was off until later.
type shifted struct{ by time.Duration }

func (c *shifted) Now() time.Time { return time.Now().Add(c.by) }

// returns measures how long it takes until 10,000 conversations that came due
// while the program was off are back.
func returns(dir string) {
	const n = 10_000
	box := dir + ".mbox"
	generate(box, n, 1, "r")
	s := must(store.Open(dir, store.Options{}))
	defer s.Close()
	clock, ctx := &shifted{}, context.Background()
	d := desk.New(s, clock, false)
	check(d.SetUp(ctx, identity.Signup{Name: "Me", Address: "me@m.example", Password: "long enough", Zone: "Europe/Oslo"}))
	must(d.Intake.Import(ctx, 1, []string{box}, intake.Options{}))
	who := identity.Who{Person: 1, Box: 1, Week: when.Ordinary("Europe/Oslo")}
	for id := int64(1); id <= n; id += 500 {
		var ids []int64
		for i := range int64(500) {
			ids = append(ids, id+i)
		}
		at := when.Of(time.Now().Add(time.Duration(id) * time.Second))
		must(d.Decisions.Decide(ctx, who, "", decide.Decision{Kind: inbox.Snooze, Conversations: ids, Return: when.Moment{At: at}}))
	}
	clock.by = 24 * time.Hour
	begin := time.Now()
	check(d.Agenda.CatchUp(ctx))
	fmt.Printf("%-44s %6.2f s\n", "10,000 returns due at once", time.Since(begin).Seconds())
}

// plan is a plan drawn by lines, the same for both streams.
func plan(lines ...string) delivery.Plan {
	p := delivery.Plan{Name: "Measured", People: make([]delivery.Day, 7), Machines: make([]delivery.Day, 7)}
	for _, text := range lines {
		l := must(delivery.ReadLine(text, nil))
		p.People, p.Machines = l.On(p.People), l.On(p.Machines)
	}
	return p
}

// held measures how long it takes until 50,000 conversations that are held are
// in the inbox: by their round, by hand, and taken back.
func held(dir string) {
	const n = 50_000
	box := dir + ".mbox"
	generate(box, n, 1, "h")
	s := must(store.Open(dir, store.Options{}))
	defer s.Close()
	clock, ctx := &shifted{}, context.Background()
	d := desk.New(s, clock, false)
	check(d.SetUp(ctx, identity.Signup{Name: "Me", Address: "me@m.example", Password: "long enough", Zone: "UTC"}))
	who := identity.Who{Person: 1, Box: 1, Week: when.Ordinary("UTC")}
	must(d.Delivery.PutPlan(ctx, who, "", plan(time.Now().UTC().Add(2*time.Hour).Format("15:04")), true))
	begin := time.Now()
	must(d.Intake.Import(ctx, 1, []string{box}, intake.Options{Arrived: true}))
	fmt.Printf("%-44s %6.0f messages/s\n", "mail arrives and is held", n/time.Since(begin).Seconds())
	begin = time.Now()
	must(d.Delivery.LetIn(ctx, who, "", deliveries.LettingIn{All: true}))
	fmt.Printf("%-44s %6.2f s\n", "50,000 held let in by hand", time.Since(begin).Seconds())
	begin = time.Now()
	must(d.Journal.TakeBack(ctx, who, ""))
	fmt.Printf("%-44s %6.2f s\n", "and taken back", time.Since(begin).Seconds())
	clock.by = 24 * time.Hour
	begin = time.Now()
	check(d.Agenda.CatchUp(ctx))
	fmt.Printf("%-44s %6.2f s\n", "50,000 held come in with their round", time.Since(begin).Seconds())
	q := must(d.Queue.Arranged(ctx, who, queue.Arrangement{}))
	if q.Left != n {
		panic(fmt.Sprintf("%d came in", q.Left))
	}
}

// generate writes an mbox of made-up mail, thread messages to a conversation.
func generate(path string, n, thread int, prefix string) {
	f := must(os.Create(path))
	w := bufio.NewWriterSize(f, 1<<20)
	r := rand.New(rand.NewPCG(1, uint64(n)))
	words := strings.Fields("the crate tide harbour brass predictor loan clause panel proof room school class lorry quay permit value insurance courier train ticket visit morning thursday drawing measure paper wood glass clock map number board please send thank")
	begin := time.Date(2025, 11, 1, 8, 0, 0, 0, time.UTC)
	for i := range n {
		at := begin.Add(time.Duration(i) * 365 * 24 * time.Hour / time.Duration(n))
		root := i - i%thread
		fmt.Fprintf(w, "From x@y.example Mon Jan  1 00:00:00 2026\nFrom: Writer %d <writer%d@place%d.example>\nTo: me@m.example\nSubject: Matter %s%d of the %s\nDate: %s\nMessage-ID: <%s%d@y.example>\n",
			i%997, i%997, i%97, prefix, root, words[root%len(words)], at.Format("Mon, 02 Jan 2006 15:04:05 -0700"), prefix, i)
		if i != root {
			fmt.Fprintf(w, "References: <%s%d@y.example>\n", prefix, root)
		}
		fmt.Fprintf(w, "MIME-Version: 1.0\nContent-Type: text/plain; charset=utf-8\n\nunique%08d ", i)
		for range 60 + r.IntN(120) {
			w.WriteString(words[r.IntN(len(words))] + " ")
			if r.IntN(12) == 0 {
				w.WriteString("\n")
			}
		}
		w.WriteString("\n\n")
	}
	check(w.Flush())
	check(f.Close())
}

func importing(name string, n int, args ...string) {
	cmd := exec.Command(*program, append([]string{"import"}, args...)...)
	begin := time.Now()
	check(cmd.Run())
	took := time.Since(begin)
	fmt.Printf("%-44s %6.0f messages/s, %d MB at most (%d in %.1f s)\n", name, float64(n)/took.Seconds(), cmd.ProcessState.SysUsage().(*syscall.Rusage).Maxrss/1024, n, took.Seconds())
}

type server struct {
	cmd    *exec.Cmd
	url    string
	client *http.Client
	token  string
	code   string // that the set-up asks for
}

func start(data string) *server {
	s := &server{client: &http.Client{Jar: must(cookiejar.New(nil))}}
	s.cmd = exec.Command(*program, "serve", "--data", data, "--addr", "127.0.0.1:0")
	out := must(s.cmd.StdoutPipe())
	begin := time.Now()
	check(s.cmd.Start())
	lines := bufio.NewScanner(out)
	for lines.Scan() {
		if _, code, ok := strings.Cut(lines.Text(), "asked for this code: "); ok {
			s.code = code
		}
		if m := regexp.MustCompile(`http://\S+`).FindString(lines.Text()); m != "" {
			s.url = m
			break
		}
	}
	must(http.Get(s.url)).Body.Close()
	fmt.Printf("%-44s %6.0f ms\n", "start to first page", float64(time.Since(begin).Microseconds())/1000)
	return s
}

func (s *server) stop() {
	_ = s.cmd.Process.Signal(syscall.SIGTERM)
	_ = s.cmd.Wait()
}

func (s *server) signIn() {
	var session struct{ State, CSRF string }
	s.call("GET", "/session", nil, &session)
	path := "/sign-in"
	if session.State == "setup" {
		path = "/setup"
	}
	s.call("POST", path, map[string]string{"name": "Me", "address": "me@m.example", "password": "long enough", "zone": "Europe/Oslo", "code": s.code}, nil)
	s.call("GET", "/session", nil, &session)
	s.token = session.CSRF
}

func (s *server) call(method, path string, body, into any) {
	raw := must(json.Marshal(body))
	req := must(http.NewRequest(method, s.url+"/api/v1"+path, bytes.NewReader(raw)))
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("X-Ebbe-Token", s.token)
	res := must(s.client.Do(req))
	defer res.Body.Close()
	var answer json.RawMessage
	check(json.NewDecoder(res.Body).Decode(&answer))
	if res.StatusCode != 200 {
		panic(fmt.Sprintf("%s: %s %s", path, res.Status, answer))
	}
	if into != nil {
		check(json.Unmarshal(answer, into))
	}
}

func (s *server) inbox(n int) (ids []int64) {
	var q struct{ Groups []struct{ IDs []int64 } }
	s.call("GET", "/inbox", nil, &q)
	for _, g := range q.Groups {
		ids = append(ids, g.IDs...)
	}
	return ids[:min(n, len(ids))]
}

// p95 measures whole requests over the loopback, so it is above what the server
// alone takes.
func (s *server) p95(name string, n int, f func(i int)) {
	took := make([]float64, n)
	for i := range took {
		begin := time.Now()
		f(i)
		took[i] = float64(time.Since(begin).Microseconds()) / 1000
	}
	report(name, took)
}

func report(name string, took []float64) {
	slices.Sort(took)
	fmt.Printf("%-44s %6.1f ms p95, %.1f ms median (%d times)\n", name, took[len(took)*95/100], took[len(took)/2], len(took))
}

func join(ids []int64) string {
	parts := make([]string, len(ids))
	for i, id := range ids {
		parts[i] = strconv.FormatInt(id, 10)
	}
	return strings.Join(parts, ",")
}

func (s *server) memory() int {
	var kb int
	for line := range strings.Lines(string(must(os.ReadFile(fmt.Sprintf("/proc/%d/status", s.cmd.Process.Pid))))) {
		_, _ = fmt.Sscanf(line, "VmRSS: %d kB", &kb)
	}
	return kb / 1024
}

func must[T any](v T, err error) T {
	check(err)
	return v
}

func check(err error) {
	if err != nil {
		panic(err)
	}
}
