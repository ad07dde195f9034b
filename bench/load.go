package main

import (
	"bufio"
	"bytes"
	"context"
	"crypto/sha256"
	"crypto/tls"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	gosync "sync"
	"time"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/desk/accounts"
	"ebbe/internal/post/office"
)

// What a load has to hold.
const (
	loadSlowest = 500 // ms of any request
	loadMemory  = 600 // MB, with two live accounts each
)

// load measures an office at work: each of many people has events open and two accounts in
// step with a server, to which mail comes, and decides, reads, searches letter by letter and
// types for some minutes: something every two seconds, so that a decision comes every six. Then one of them takes in 100,000
// messages, and the others go on.
func load(dir string, people, each int, length time.Duration) {
	fmt.Printf("\n%d people with %d messages and two live accounts each, at work for %v\n", people, each, length)
	data := filepath.Join(dir, "crowd")
	if _, err := os.Stat(filepath.Join(data, "ebbe.db")); err != nil {
		peopled(dir, data, people, each)
	}
	o := must(office.Open("", time.Now))
	for i := range people {
		for _, address := range accountsOf(i) {
			o.AddAccount(address, "long enough")
		}
	}
	check(o.Start())
	defer o.Close()
	s := start(data)
	defer s.stop()
	hands := make([]*hand, people)
	for i := range hands {
		hands[i] = newHand(s, i)
		hands[i].connect(o)
	}
	for _, h := range hands {
		h.inStep()
	}
	ctx, stop := context.WithCancel(context.Background())
	var lines gosync.WaitGroup
	lines.Go(func() { deliver(ctx, o, people) })
	for _, h := range hands {
		lines.Go(func() { h.listen(ctx) })
	}
	enough, bare := context.WithCancel(ctx)
	requests, writes := make(chan []float64), make(chan []float64)
	go func() { requests <- bareRequests(enough) }()
	go func() { writes <- bareWrites(enough, dir) }()
	calm := atWork(hands, func() bool { return false }, length)
	bare()
	calm.report("at work")
	for name, floor := range map[string][]float64{"meanwhile: a bare request (floor)": <-requests, "meanwhile: 8 kB written for good (floor)": <-writes} {
		report(name, floor)
		fmt.Printf("%-44s %6.1f ms, %d of %d above %d ms\n", "  the slowest", slices.Max(floor), above(floor, loadSlowest), len(floor), loadSlowest)
	}
	fmt.Printf("%-44s %6d MB\n", "memory of the server (resident)", s.memory())

	box := filepath.Join(dir, "more.mbox")
	generate(box, 100_000, 5, fmt.Sprintf("m%d-", time.Now().UnixNano()))
	defer os.Remove(box)
	imported := exec.Command(*program, "import", "--data", data, "--for", addressOf(0), "--place", "archived", box)
	begin := time.Now()
	check(imported.Start())
	done := make(chan error, 1)
	go func() { done <- imported.Wait() }()
	over := func() bool { return len(done) > 0 }
	busy := atWork(hands[1:], over, time.Hour)
	check(<-done)
	fmt.Printf("%-44s %6.0f messages/s (in %.0f s)\n", "meanwhile one takes in 100,000 messages", 100_000/time.Since(begin).Seconds(), time.Since(begin).Seconds())
	busy.report("beside the import")
	fmt.Printf("%-44s %6d MB\n", "memory of the server (resident)", s.memory())
	fmt.Printf("%-44s %6.2f × of before\n", "p95 of all beside the import", at95(busy.all())/at95(calm.all()))
	stop()
	lines.Wait()
	if m := s.memory(); m > loadMemory {
		fmt.Printf("not held: %d MB of %d\n", m, loadMemory)
	}
}

func accountsOf(i int) []string {
	return []string{addressOf(i), fmt.Sprintf("other%d@place.example", i)}
}

// deliver brings a message to some account about every second.
func deliver(ctx context.Context, o *office.Office, people int) {
	r := rand.New(rand.NewPCG(7, 7))
	for n := 0; ; n++ {
		select {
		case <-ctx.Done():
			return
		case <-time.After(time.Second):
		}
		to := accountsOf(r.IntN(people))[n%2]
		o.Put(to, office.Inbox, time.Now(), fmt.Appendf(nil, "From: Writer %d <writer%d@place.example>\r\nTo: %s\r\nSubject: Of this minute %d\r\nMessage-ID: <live%d-%d@place.example>\r\n\r\nThe crate of the harbour.\r\n", n%97, n%97, to, n, n, time.Now().UnixNano()))
	}
}

// hand is somebody at work.
type hand struct {
	server
	n int
}

func newHand(s *server, n int) *hand {
	h := &hand{server: server{cmd: s.cmd, url: s.url, client: &http.Client{Jar: must(cookiejar.New(nil))}}, n: n}
	var session struct{ CSRF string }
	h.call("POST", "/sign-in", map[string]string{"address": addressOf(n), "password": "long enough"}, nil)
	h.call("GET", "/session", nil, &session)
	h.token = session.CSRF
	return h
}

// connect keeps the accounts of somebody in step with the office.
func (h *hand) connect(o *office.Office) {
	at := func(port int) mail.Server {
		c := must(o.Dial(context.Background(), "tcp", fmt.Sprintf("post.place.example:%d", port)))
		line := tls.Client(c, &tls.Config{InsecureSkipVerify: true}) // its certificate is trusted by its fingerprint from here on
		check(line.Handshake())
		sum := sha256.Sum256(line.ConnectionState().PeerCertificates[0].Raw)
		to := c.RemoteAddr().(*net.TCPAddr)
		line.Close()
		return mail.Server{Host: "127.0.0.1", Port: to.Port, Security: mail.TLS, Trust: hex.EncodeToString(sum[:])}
	}
	boxes, sending := at(993), at(465)
	var v accounts.Accounts
	h.call("GET", "/accounts", nil, &v)
	for _, address := range accountsOf(h.n) {
		var id int64 // in a folder that is used again it is there already, at another port
		if i := slices.IndexFunc(v.Accounts, func(a accounts.AccountView) bool { return a.Address == address }); i >= 0 {
			id = v.Accounts[i].ID
		}
		h.call("PUT", "/accounts", accounts.AccountDraft{ID: id, Address: address, Secret: "long enough", Mailbox: boxes, Sending: sending, Carries: inbox.AllCarried}, nil)
	}
}

// inStep waits until the accounts of somebody are.
func (h *hand) inStep() {
	for {
		var v accounts.Accounts
		h.call("GET", "/accounts", nil, &v)
		if !slices.ContainsFunc(v.Accounts, func(a accounts.AccountView) bool { return a.Synced == 0 || a.Trouble != "" }) {
			return
		}
		time.Sleep(200 * time.Millisecond)
	}
}

// listen keeps the events of somebody open.
func (h *hand) listen(ctx context.Context) {
	req := must(http.NewRequestWithContext(ctx, "GET", h.url+"/api/v1/events", nil))
	res, err := h.client.Do(req)
	if err != nil {
		return
	}
	defer res.Body.Close()
	lines := bufio.NewScanner(res.Body)
	for lines.Scan() {
	}
}

// took is how long requests took, by their kinds, and what did not work.
type took struct {
	mu     gosync.Mutex
	begun  time.Time
	ms     map[string][]float64
	slow   []string // what took longer than it may, and when
	failed []string
}

func (t *took) all() (out []float64) {
	for _, list := range t.ms {
		out = append(out, list...)
	}
	return out
}

func above(list []float64, limit float64) (n int) {
	for _, ms := range list {
		if ms > limit {
			n++
		}
	}
	return n
}

// bareRequests asks a server that does nothing for nothing, twenty times a second: what it waits for
// is the machine.
func bareRequests(ctx context.Context) (took []float64) {
	s := httptest.NewServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) {}))
	defer s.Close()
	for ctx.Err() == nil {
		begin := time.Now()
		must(s.Client().Get(s.URL)).Body.Close()
		took = append(took, float64(time.Since(begin).Microseconds())/1000)
		time.Sleep(50 * time.Millisecond)
	}
	return took
}

// bareWrites writes a little twenty times a second, so that it survives a power cut: what it waits
// for is the disk.
func bareWrites(ctx context.Context, dir string) (took []float64) {
	f := must(os.CreateTemp(dir, "floor"))
	defer os.Remove(f.Name())
	defer f.Close()
	for ctx.Err() == nil {
		begin := time.Now()
		must(f.Write(make([]byte, 8192)))
		check(f.Sync())
		took = append(took, float64(time.Since(begin).Microseconds())/1000)
		time.Sleep(50 * time.Millisecond)
	}
	return took
}

func at95(list []float64) float64 {
	slices.Sort(list)
	return list[len(list)*95/100]
}

func (t *took) report(when string) {
	slow := 0
	for _, name := range []string{"one decision", "a conversation opened", "a search being typed", "a draft being typed", "the inbox", "dayline"} {
		list := t.ms[name]
		if len(list) == 0 {
			continue
		}
		report(when+": "+name, list)
		fmt.Printf("%-44s %6.1f ms\n", "  the slowest", slices.Max(list))
		slow += above(list, loadSlowest)
	}
	fmt.Printf("%-44s %6d of %d above %d ms, %d failed\n", when+": requests", slow, len(t.all()), loadSlowest, len(t.failed))
	for _, s := range t.slow[:min(len(t.slow), 8)] {
		fmt.Println("  ", s)
	}
	for _, f := range t.failed[:min(len(t.failed), 5)] {
		fmt.Println("  ", f)
	}
}

// atWork has everybody at work until it is over, or for so long.
func atWork(hands []*hand, over func() bool, length time.Duration) *took {
	t := &took{begun: time.Now(), ms: map[string][]float64{}}
	end := time.Now().Add(length)
	var wg gosync.WaitGroup
	for _, h := range hands {
		wg.Go(func() {
			r := rand.New(rand.NewPCG(uint64(h.n), 3))
			ids := h.inbox(crowdInbox)
			var draft struct{ ID, Version int64 }
			h.call("POST", "/drafts", map[string]any{"mode": "new"}, &draft)
			time.Sleep(2 * time.Second * time.Duration(h.n) / time.Duration(len(hands)))
			for i := 0; time.Now().Before(end) && !over(); i++ {
				next := time.Now().Add(1500*time.Millisecond + time.Duration(r.IntN(1000))*time.Millisecond)
				at := ids[(i+h.n*50)%len(ids)]
				switch r.IntN(6) {
				case 0, 1:
					h.asks(t, "a conversation opened", "GET", fmt.Sprintf("/conversations/%d", at), nil, nil)
					h.asks(t, "one decision", "POST", "/decisions", map[string]any{"kind": []string{"archive", "inbox"}[i%2], "conversations": []int64{at}}, nil)
				case 2:
					word := []string{"harbour", "permit", "insurance", "crate"}[r.IntN(4)]
					for n := 2; n <= len(word); n++ {
						h.asks(t, "a search being typed", "GET", "/found?asked="+url.QueryEscape(word[:n]), nil, nil)
					}
				case 3:
					h.asks(t, "a draft being typed", "PUT", fmt.Sprintf("/drafts/%d", draft.ID), map[string]any{"subject": "Crates", "text": strings.Repeat("The crate stands on the quay. ", 1+i%40), "version": draft.Version}, &draft)
				case 4:
					h.asks(t, "the inbox", "GET", "/inbox", nil, nil)
				default:
					h.asks(t, "dayline", "GET", "/dayline", nil, nil)
				}
				time.Sleep(time.Until(next))
			}
		})
	}
	wg.Wait()
	return t
}

// asks measures one request; one that fails is taken down, and does not end the work.
func (h *hand) asks(t *took, name, method, path string, body, into any) {
	req := must(http.NewRequest(method, h.url+"/api/v1"+path, bytes.NewReader(must(json.Marshal(body)))))
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("X-Ebbe-Token", h.token)
	begin := time.Now()
	res, err := h.client.Do(req)
	var answer []byte
	if err == nil {
		answer, err = io.ReadAll(res.Body)
		res.Body.Close()
	}
	ms := float64(time.Since(begin).Microseconds()) / 1000
	if err == nil && res.StatusCode != http.StatusOK {
		err = fmt.Errorf("%s: %s", res.Status, answer)
	}
	if err == nil && into != nil {
		err = json.Unmarshal(answer, into)
	}
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.ms[name] = append(t.ms[name], ms); ms > loadSlowest {
		t.slow = append(t.slow, fmt.Sprintf("%s, after %.1f s: %.0f ms", name, begin.Sub(t.begun).Seconds(), ms))
	}
	if err != nil {
		t.failed = append(t.failed, fmt.Sprintf("%s %s: %v", method, path, err))
	}
}
