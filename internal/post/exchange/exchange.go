// Package exchange is the stand-in telephone exchange that ships with Ebbe, with the gateway by
// which texts reach it: for the demo and for tests. People have telephones there, and answer: late,
// in parts, or not at all. It can be told to misbehave.
package exchange

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"sync"
	"time"

	"ebbe/internal/core/texting"
	"ebbe/internal/post/texts"
)

// Line is one of Ebbe's that the exchange serves.
type Line struct {
	Number texting.Number `json:"number"`
	Hook   string         `json:"hook"` // the path at which Ebbe hears of what comes to it
	Secret string         `json:"secret"`
}

// Telephone is somebody's.
type Telephone struct {
	Off     bool                       // nothing reaches it
	Answers func(text string) []Answer // what whoever has it says to a text; nil: nothing
}

// Answer is what somebody says, after a while.
type Answer struct {
	After time.Duration
	Text  string
}

// Faults are how the exchange misbehaves.
type Faults struct {
	Down     bool // it takes nothing
	Silent   bool // it takes a text, and ends the line before it says so
	Twice    bool // it says everything twice
	Unsigned bool // what it says is signed wrongly
}

// Sent is a text that the exchange has taken.
type Sent struct {
	ID       string
	From, To texting.Number
	Text     string
	Parts    int
}

// happening is what the exchange will say at its time.
type happening struct {
	At   time.Time         `json:"at"`
	To   texting.Number    `json:"to"` // the line that is told
	Says map[string]string `json:"says"`
}

// kept is what outlasts the program.
type kept struct {
	Lines []Line      `json:"lines"`
	Plans []happening `json:"plans"`
	Once  []string    `json:"once"` // texts that have been taken
}

// Exchange is a telephone exchange. Its methods may be used from several goroutines.
type Exchange struct {
	// Deliver tells Ebbe something at a path of its own, signed.
	Deliver func(ctx context.Context, path string, header http.Header, body []byte) error

	now    func() time.Time
	file   string // "": only in memory
	mu     sync.Mutex
	kept   kept
	phones map[texting.Number]Telephone
	sent   []Sent
	faults Faults
	web    *http.Server
	at     string
}

// Open opens the exchange that is kept in the folder dir, or one that is only in memory if dir is
// empty. now is its clock.
func Open(dir string, now func() time.Time) (*Exchange, error) {
	x := &Exchange{now: now, phones: map[texting.Number]Telephone{}}
	if dir == "" {
		return x, nil
	}
	x.file = filepath.Join(dir, "exchange.json")
	raw, err := os.ReadFile(x.file)
	if errors.Is(err, fs.ErrNotExist) {
		return x, nil
	}
	if err == nil {
		err = json.Unmarshal(raw, &x.kept)
	}
	if err != nil {
		return nil, fmt.Errorf("the telephone exchange cannot read what it keeps: %w", err)
	}
	return x, nil
}

// keep writes what outlasts the program; x.mu is held.
func (x *Exchange) keep() {
	if x.file == "" {
		return
	}
	raw, err := json.Marshal(x.kept)
	if err == nil {
		err = os.WriteFile(x.file+".new", raw, 0o600)
	}
	if err == nil {
		err = os.Rename(x.file+".new", x.file)
	}
	if err != nil {
		slog.Error("the telephone exchange could not keep what it is to say", "error", err)
	}
}

// Start listens on the loopback address.
func (x *Exchange) Start() error {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return err
	}
	mux := http.NewServeMux()
	mux.HandleFunc("POST /texts", x.take)
	x.at, x.web = l.Addr().String(), &http.Server{Handler: mux, ReadHeaderTimeout: 10 * time.Second}
	go func() { _ = x.web.Serve(l) }()
	return nil
}

// Close ends it.
func (x *Exchange) Close() error {
	if x.web == nil {
		return nil
	}
	return x.web.Close()
}

// URL is where its gateway takes texts, from whoever reaches it by Dial.
const URL = "http://localhost/texts"

// Dial reaches the gateway, whatever the address.
func (x *Exchange) Dial(ctx context.Context, network, _ string) (net.Conn, error) {
	return (&net.Dialer{}).DialContext(ctx, network, x.at)
}

// Gateway is how it is spoken to.
func Gateway() texting.Gateway {
	g := texting.Usual()
	g.URL = URL
	return g
}

// Serve has the exchange serve a line of Ebbe's.
func (x *Exchange) Serve(l Line) {
	x.mu.Lock()
	defer x.mu.Unlock()
	x.kept.Lines = append(slices.DeleteFunc(x.kept.Lines, func(o Line) bool { return o.Number == l.Number }), l)
	x.keep()
}

// Connect gives somebody a telephone.
func (x *Exchange) Connect(n texting.Number, t Telephone) {
	x.mu.Lock()
	defer x.mu.Unlock()
	x.phones[n] = t
}

// Misbehave has it do so, or not any more.
func (x *Exchange) Misbehave(f Faults) {
	x.mu.Lock()
	defer x.mu.Unlock()
	x.faults = f
}

// Taken gives the texts it has taken since it was opened, in their order.
func (x *Exchange) Taken() []Sent {
	x.mu.Lock()
	defer x.mu.Unlock()
	return slices.Clone(x.sent)
}

// Text has somebody send a text to a line at a time.
func (x *Exchange) Text(from string, to texting.Number, text string, at time.Time) {
	x.TextAs(rand.Text(), from, to, text, at)
}

// TextAs has it be known by that ID.
func (x *Exchange) TextAs(id, from string, to texting.Number, text string, at time.Time) {
	x.mu.Lock()
	defer x.mu.Unlock()
	says := incoming(from, to, text, at)
	says["id"] = id
	x.plan(at, to, says)
	x.keep()
}

func incoming(from string, to texting.Number, text string, at time.Time) map[string]string {
	return map[string]string{"id": rand.Text(), "from": from, "to": string(to), "text": text, "at": at.UTC().Format(time.RFC3339)}
}

func (x *Exchange) plan(at time.Time, to texting.Number, says map[string]string) {
	x.kept.Plans = append(x.kept.Plans, happening{at, to, says})
	slices.SortStableFunc(x.kept.Plans, func(a, b happening) int { return a.At.Compare(b.At) })
}

// mostOnce is how many texts are known again.
const mostOnce = 1000

// reach is how long a text is on its way to its telephone.
const reach = 3 * time.Second

// take takes a text, as the gateway.
func (x *Exchange) take(w http.ResponseWriter, r *http.Request) {
	var t struct{ To, From, Text string }
	body, err := io.ReadAll(io.LimitReader(r.Body, 64<<10))
	if err == nil {
		err = json.Unmarshal(body, &t)
	}
	if err != nil {
		http.Error(w, "that is no text", http.StatusBadRequest)
		return
	}
	x.mu.Lock()
	defer x.mu.Unlock()
	i := slices.IndexFunc(x.kept.Lines, func(l Line) bool { return string(l.Number) == t.From })
	switch {
	case x.faults.Down:
		http.Error(w, "out of order", http.StatusServiceUnavailable)
		return
	case i < 0 || r.Header.Get("Authorization") != "Bearer "+x.kept.Lines[i].Secret:
		http.Error(w, "no such line", http.StatusUnauthorized)
		return
	}
	to, err := texting.ReadNumber(t.To, "")
	if err != nil {
		http.Error(w, err.Error(), http.StatusUnprocessableEntity)
		return
	}
	id := rand.Text()
	if once := r.Header.Get("Idempotency-Key"); !slices.Contains(x.kept.Once, once) || once == "" {
		x.kept.Once = append(x.kept.Once[max(0, len(x.kept.Once)-mostOnce):], once)
		x.carry(Sent{ID: id, From: x.kept.Lines[i].Number, To: to, Text: t.Text, Parts: texting.Measure(t.Text).Parts})
	}
	if x.faults.Silent {
		panic(http.ErrAbortHandler)
	}
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(http.StatusAccepted)
	_ = json.NewEncoder(w).Encode(map[string]any{"id": id, "parts": texting.Measure(t.Text).Parts})
}

// carry brings a text to its telephone, and plans what comes of it; x.mu is held.
func (x *Exchange) carry(s Sent) {
	x.sent = append(x.sent, s)
	at := x.now().Add(reach)
	phone, known := x.phones[s.To]
	if phone.Off || !known {
		x.plan(at, s.From, map[string]string{"id": s.ID, "status": "failed", "reason": "the telephone is not there"})
		x.keep()
		return
	}
	x.plan(at, s.From, map[string]string{"id": s.ID, "status": "delivered"})
	if phone.Answers != nil {
		for _, a := range phone.Answers(s.Text) {
			at := x.now().Add(max(a.After, 2*reach))
			x.plan(at, s.From, incoming(string(s.To), s.From, a.Text, at))
		}
	}
	x.keep()
}

// Next is when it will say something next; the zero time: never.
func (x *Exchange) Next() time.Time {
	x.mu.Lock()
	defer x.mu.Unlock()
	if len(x.kept.Plans) == 0 {
		return time.Time{}
	}
	return x.kept.Plans[0].At
}

// Advance says what is due by now, and whether that was anything.
func (x *Exchange) Advance() (said bool) {
	for {
		x.mu.Lock()
		if len(x.kept.Plans) == 0 || x.kept.Plans[0].At.After(x.now()) {
			x.mu.Unlock()
			return said
		}
		h := x.kept.Plans[0]
		x.kept.Plans = x.kept.Plans[1:]
		x.keep()
		faults := x.faults
		i := slices.IndexFunc(x.kept.Lines, func(l Line) bool { return l.Number == h.To })
		var line Line
		if i >= 0 {
			line = x.kept.Lines[i]
		}
		x.mu.Unlock()
		said = true
		if i < 0 || x.Deliver == nil {
			continue
		}
		times := 1
		if faults.Twice {
			times = 2
		}
		for range times {
			if err := x.say(line, h.Says, faults); err != nil {
				slog.Warn("the telephone exchange was not heard", "error", err)
			}
		}
	}
}

// say tells Ebbe something about a line.
func (x *Exchange) say(l Line, says map[string]string, f Faults) error {
	body, err := json.Marshal(says)
	if err != nil {
		return err
	}
	secret := l.Secret
	if f.Unsigned {
		secret += "?"
	}
	header := texts.Signed(texting.Usual().Sign, secret, body, x.now())
	header.Set("Content-Type", "application/json")
	return x.Deliver(context.Background(), l.Hook, header, bytes.Clone(body))
}
