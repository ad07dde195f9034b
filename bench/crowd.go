package main

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"strings"
	gosync "sync"
	"time"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/store"
	"ebbe/internal/store/sending"
)

const crowdInbox = 4_400 // undecided conversations of each of many people

// crowd measures Ebbe with the mail of many people in it, one of whom has used it
// for ten years, and how much more than a floor it takes: the statements that
// cannot be done without, by database/sql, over the same loopback. First one
// person works alone, then all of them at once.
func crowd(dir string, people, each int) {
	fmt.Printf("\n%d people with %d messages each, one of them with ten years of journal, 10,000 sent and a daily event of ten years\n", people, each)
	data := filepath.Join(dir, "crowd")
	if _, err := os.Stat(filepath.Join(data, "ebbe.db")); err != nil {
		peopled(dir, data, people, each)
	}
	floor := newLoopback(dir, data)
	defer floor.stop()
	s := start(data)
	defer s.stop()
	hands := make([]*server, people)
	for i := range hands {
		hands[i] = &server{cmd: s.cmd, url: s.url, client: &http.Client{Jar: must(cookiejar.New(nil))}}
		var session struct{ CSRF string }
		hands[i].call("GET", "/session", nil, nil)
		hands[i].call("POST", "/sign-in", map[string]string{"address": addressOf(i), "password": "long enough"}, nil)
		hands[i].call("GET", "/session", nil, &session)
		hands[i].token = session.CSRF
	}
	one := hands[0]
	event(one)
	ids := one.inbox(crowdInbox)
	alone := map[string][]float64{}
	timed := func(s *server, into map[string][]float64, name, method, path string, body any) {
		begin := time.Now()
		s.call(method, path, body, nil)
		into[name] = append(into[name], float64(time.Since(begin).Microseconds())/1000)
	}
	today := time.Now().Format("2006-01-02")
	for i := range 200 {
		floor.measure(i) // beside what is measured against it, as the machine has its moods
		timed(one, alone, "one decision", "POST", "/decisions", map[string]any{"kind": "archive", "conversations": []int64{ids[i]}})
		timed(one, alone, "the inbox", "GET", "/inbox", nil)
		timed(one, alone, "a conversation opened", "GET", fmt.Sprintf("/conversations/%d", ids[i+200]), nil)
		timed(one, alone, "dayline", "GET", "/dayline", nil)
		timed(one, alone, "the history", "GET", "/history", nil)
		timed(one, alone, "the week, with the daily event", "GET", "/calendar?day="+today, nil)
	}
	for _, name := range []string{"one decision", "the inbox", "a conversation opened", "dayline", "the history", "the week, with the daily event"} {
		report("alone: "+name, alone[name])
	}
	report("floor: a decision", floor.decisions)
	report(fmt.Sprintf("floor: the order of %d", len(floor.ids)), floor.orders)
	ratio("alone: one decision", alone["one decision"], floor.decisions)
	ratio("alone: the inbox", alone["the inbox"], floor.orders)

	// All at once, each with half a second between two decisions, as nobody is
	// faster by hand, and none in step with the others.
	const beat = 500 * time.Millisecond
	var all = map[string][]float64{}
	var mu gosync.Mutex
	var wg gosync.WaitGroup
	for h, hand := range hands {
		wg.Go(func() {
			mine := hand.inbox(crowdInbox)
			took := map[string][]float64{}
			time.Sleep(beat * time.Duration(h) / time.Duration(people))
			for i := range 60 {
				next := time.Now().Add(beat)
				timed(hand, took, "one decision", "POST", "/decisions", map[string]any{"kind": "archive", "conversations": []int64{mine[i+1000]}})
				timed(hand, took, "a conversation opened", "GET", fmt.Sprintf("/conversations/%d", mine[i+1001]), nil)
				timed(hand, took, "dayline", "GET", "/dayline", nil)
				if (i+h)%5 == 0 {
					timed(hand, took, "the inbox", "GET", "/inbox", nil)
				}
				time.Sleep(time.Until(next))
			}
			mu.Lock()
			defer mu.Unlock()
			for name, list := range took {
				all[name] = append(all[name], list...)
			}
		})
	}
	wg.Wait()
	for _, name := range []string{"one decision", "the inbox", "a conversation opened", "dayline"} {
		report("all at once: "+name, all[name])
	}
	ratio("all at once: one decision", all["one decision"], floor.decisions)
	ratio("all at once: the inbox", all["the inbox"], floor.orders)
	fmt.Printf("%-44s %6d MB\n", "memory of the server (resident)", s.memory())
}

func addressOf(i int) string { return fmt.Sprintf("p%d@m.example", i) }

// ratio says by how much the medians differ.
func ratio(name string, took, floor []float64) {
	slices.Sort(took)
	slices.Sort(floor)
	fmt.Printf("%-44s %6.2f × the floor of %.2f ms\n", name, took[len(took)/2]/floor[len(floor)/2], floor[len(floor)/2])
}

// peopled makes the data folder.
func peopled(dir, data string, people, each int) {
	s := must(store.Open(data, store.Options{}))
	defer s.Close()
	ctx, d := context.Background(), desk.New(s, &shifted{}, false)
	begin := time.Now()
	for i := range people {
		signup := identity.Signup{Name: fmt.Sprintf("Person %d", i), Address: addressOf(i), Password: "long enough", Zone: "Europe/Oslo"}
		if i == 0 {
			check(d.SetUp(ctx, signup))
		} else {
			check(d.AddPerson(ctx, signup))
		}
		who := must(d.People.Called(ctx, signup.Address))
		file := filepath.Join(dir, "crowd.mbox")
		generate(file, each-crowdInbox, 5, fmt.Sprintf("a%d-", i))
		must(d.Intake.Import(ctx, who.Box, []string{file}, intake.Options{Place: inbox.Archived}))
		generate(file, crowdInbox, 1, fmt.Sprintf("i%d-", i))
		must(d.Intake.Import(ctx, who.Box, []string{file}, intake.Options{}))
		check(os.Remove(file))
	}
	fmt.Printf("%-44s %6.0f messages/s\n", "their mail taken in", float64(people*each)/time.Since(begin).Seconds())
	decade(s, must(d.People.Called(ctx, addressOf(0))))
}

// decade gives a person ten years of journal, 100 decisions on each of 250 days a
// year, and 10,000 messages that were sent.
func decade(s *store.Store, who identity.Who) {
	ctx := context.Background()
	begin := when.Of(time.Now().AddDate(-10, 0, 0))
	step := when.Instant(10*365*24*3_600_000) / 250_000
	for from := 0; from < 250_000; from += 2000 {
		check(s.Write(ctx, func(t store.Tx) error {
			var entries []*store.Entry
			for i := from; i < from+2000; i++ {
				c := inbox.Conversation{ID: int64(i%8000) + 1}
				c.Place = inbox.Inbox
				after := c
				after.Place = inbox.Archived
				change := inbox.Change{Before: &c, After: &after}
				kind, delta := inbox.Archive, -1
				if i%2 == 1 { // as much comes as is decided
					change.Before, change.After, kind, delta = &after, &c, inbox.ToInbox, 1
				}
				entries = append(entries, &store.Entry{BoxID: who.Box, PersonID: who.Person, Actor: store.ByPerson, Kind: kind, At: begin + when.Instant(i)*step, Delta: delta, Count: 1, ConversationID: c.ID, Text: "Matter of the crate", Changes: []inbox.Change{change}})
			}
			return store.Journal(t).Record(entries...)
		}))
	}
	for from := 0; from < 10_000; from += 500 {
		check(s.Write(ctx, func(t store.Tx) error {
			for i := from; i < from+500; i++ {
				id := fmt.Sprintf("sent%d@m.example", i)
				o := sending.Outgoing{BoxID: who.Box, Once: "message/" + id, Address: "a@x.example", To: []writing.Recipient{{Address: "a@x.example", State: writing.Sent}}, Subject: "Matter", At: begin, Next: begin, State: writing.Sent,
					Original: []byte("Message-ID: <" + id + ">\r\n\r\n" + strings.Repeat("The crate stands on the quay. ", 200)), MessageID: int64(i + 1)}
				if _, err := sending.Outbox(t).Send(&o); err != nil {
					return err
				}
				if err := sending.Outbox(t).FileOutgoing(o.ID, int64(i%8000)+1, int64(i+1)); err != nil {
					return err
				}
				if err := sending.Outbox(t).LaidOutgoing(o.ID); err != nil {
					return err
				}
			}
			return nil
		}))
	}
}

// event gives a person an event that has come daily for ten years.
func event(s *server) {
	text := "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:daily@bench.example\r\nDTSTAMP:20150101T000000Z\r\nSUMMARY:Round through the store\r\nDTSTART;TZID=Europe/Oslo:" +
		time.Now().AddDate(-10, 0, 0).Format("20060102") + "T083000\r\nDURATION:PT15M\r\nRRULE:FREQ=DAILY\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"
	req := must(http.NewRequest("POST", s.url+"/api/v1/calendar/file", strings.NewReader(text)))
	req.Header.Set("Content-Type", "text/calendar")
	req.Header.Set("X-Ebbe-Token", s.token)
	res := must(s.client.Do(req))
	defer res.Body.Close()
	if res.StatusCode != http.StatusOK {
		panic(string(must(io.ReadAll(res.Body))))
	}
}

// loopback is the floor: a server of the statements that a decision and the order
// of an inbox cannot do without, on a copy of the database, and how long they
// took, in milliseconds.
type loopback struct {
	url               string
	ids               []int64
	decisions, orders []float64
	stop              func()
}

func newLoopback(dir, data string) *loopback {
	file := filepath.Join(dir, "floor.db")
	db := must(sql.Open("sqlite3", "file:"+filepath.Join(data, "ebbe.db")+"?mode=ro"))
	must(db.Exec("VACUUM INTO ?", file))
	check(db.Close())
	db = must(sql.Open("sqlite3", "file:"+file+"?_journal_mode=WAL&_synchronous=NORMAL&_txlock=immediate&_busy_timeout=5000"))
	db.SetMaxOpenConns(1)
	place := must(db.Prepare("UPDATE conversations SET place = ? WHERE id = ? AND box_id = 1"))
	entry := must(db.Prepare("INSERT INTO entries(box_id, person_id, actor, kind, at, delta, count, conversation_id, text, step, \"of\", taken_back, changes) VALUES (1, 1, 'user', 'archive', ?, -1, 1, ?, 'Matter', 1, 0, 0, '[]')"))
	touch := must(db.Prepare("INSERT INTO touches(conversation_id, entry_id) VALUES (?, ?)"))
	order := must(db.Prepare("SELECT id FROM conversations WHERE box_id = 1 AND place = 'inbox' ORDER BY since DESC, id DESC"))
	mux := http.NewServeMux()
	mux.HandleFunc("POST /decide", func(w http.ResponseWriter, r *http.Request) {
		var id int64
		check(json.NewDecoder(r.Body).Decode(&id))
		tx := must(db.Begin())
		must(tx.Stmt(place).Exec(string(inbox.Archived), id))
		made := must(must(tx.Stmt(entry).Exec(time.Now().UnixMilli(), id)).LastInsertId())
		must(tx.Stmt(touch).Exec(id, made))
		check(tx.Commit())
		fmt.Fprintf(w, "%d", made)
	})
	mux.HandleFunc("GET /order", func(w http.ResponseWriter, _ *http.Request) {
		rows := must(order.Query())
		defer rows.Close()
		var ids []int64
		for rows.Next() {
			var id int64
			check(rows.Scan(&id))
			ids = append(ids, id)
		}
		check(json.NewEncoder(w).Encode(ids))
	})
	srv := httptest.NewServer(mux)
	l := &loopback{url: srv.URL, stop: func() {
		srv.Close()
		check(db.Close())
		check(os.Remove(file))
	}}
	check(json.Unmarshal(l.ask("GET", "/order", nil), &l.ids))
	return l
}

func (l *loopback) ask(method, path string, body []byte) []byte {
	res := must(http.DefaultClient.Do(must(http.NewRequest(method, l.url+path, bytes.NewReader(body)))))
	defer res.Body.Close()
	return must(io.ReadAll(res.Body))
}

// measure asks for the order once, and takes the i-th decision.
func (l *loopback) measure(i int) {
	begin := time.Now()
	l.ask("GET", "/order", nil)
	l.orders = append(l.orders, float64(time.Since(begin).Microseconds())/1000)
	begin = time.Now()
	l.ask("POST", "/decide", must(json.Marshal(l.ids[i])))
	l.decisions = append(l.decisions, float64(time.Since(begin).Microseconds())/1000)
}
