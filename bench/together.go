package main

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"
	gosync "sync"
	"time"

	"ebbe/internal/core/together"
	"ebbe/internal/desk"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/store"
)

const (
	seenWithin = 300  // ms in which a change is on every open screen
	changes    = 300  // that are measured
	beatOfAll  = 4    // changes a second, of all together
	mostWaited = 5000 // ms that a screen is waited for
)

// pace measures how long a change of a team is on its way to every screen: each of many people has
// the inbox of the team open, and asks, as its screen does, for what has changed once it hears of
// it; one after the other decides. A change is there once the last has it.
func pace(dir string, people, conversations int) {
	fmt.Printf("\n%d people in the box of a team with %d conversations, each with it open\n", people, conversations)
	data := filepath.Join(dir, "together")
	box := teamed(dir, data, people, conversations)
	s := start(data)
	defer s.stop()
	ctx, stop := context.WithCancel(context.Background())
	var lines gosync.WaitGroup
	seen := make(chan sighting, 10_000)
	hands := make([]*hand, people)
	ready := make(chan bool, people)
	for i := range hands {
		hands[i] = newHand(s, i)
		lines.Go(func() { hands[i].watch(ctx, box, seen, ready) })
	}
	for range hands {
		<-ready
	}
	enough, over := context.WithCancel(ctx)
	floor := make(chan []float64)
	go func() { floor <- bareRequests(enough) }()
	ids := hands[0].teamInbox(box)
	r := rand.New(rand.NewPCG(1, 5))
	var first, last, asked []float64
	missed := 0
	for n := range changes {
		next := time.Now().Add(time.Second / beatOfAll)
		begin := time.Now()
		h := hands[r.IntN(people)]
		decision := map[string]any{"kind": "archive", "conversations": []int64{ids[n]}}
		if n%3 == 0 {
			decision = map[string]any{"kind": "give", "conversations": []int64{ids[n]}, "turn": "turn"}
		}
		h.call("POST", fmt.Sprintf("/in/%d/decisions", box), decision, nil)
		asked = append(asked, since(begin))
		times := waitFor(seen, ids[n], people, begin)
		if len(times) < people {
			missed++
			continue
		}
		first, last = append(first, slices.Min(times)), append(last, slices.Max(times))
		time.Sleep(time.Until(next))
	}
	over()
	report("one decision of the team", asked)
	report("a change on the first screen", first)
	report("a change on every screen", last)
	fmt.Printf("%-44s %6d of %d changes, %d above %d ms\n", "not on every screen within 5 s", missed, changes, above(last, seenWithin), seenWithin)
	report("meanwhile: a bare request (floor)", <-floor)
	fmt.Printf("%-44s %6d MB\n", "memory of the server (resident)", s.memory())
	stop()
	lines.Wait()
}

// sighting is that a screen has a change of a conversation.
type sighting struct {
	conversation int64
	at           time.Time
}

func since(begin time.Time) float64 { return float64(time.Since(begin).Microseconds()) / 1000 }

// waitFor gives when each of so many screens had a change.
func waitFor(seen <-chan sighting, conversation int64, people int, begin time.Time) (times []float64) {
	late := time.After(mostWaited * time.Millisecond)
	for len(times) < people {
		select {
		case s := <-seen:
			if s.conversation == conversation {
				times = append(times, float64(s.at.Sub(begin).Microseconds())/1000)
			}
		case <-late:
			return times
		}
	}
	return times
}

// watch is a screen with the inbox of the team: once it hears of a change it asks for what it shows.
// What it hears while it asks it asks for afterwards, once.
func (h *hand) watch(ctx context.Context, box int64, seen chan<- sighting, ready chan<- bool) {
	res, err := h.client.Do(must(http.NewRequestWithContext(ctx, "GET", fmt.Sprintf("%s/api/v1/in/%d/events", h.url, box), nil)))
	if err != nil {
		return
	}
	defer res.Body.Close()
	var mu gosync.Mutex
	var waiting []int64
	stirred := make(chan bool, 1)
	var asking gosync.WaitGroup
	defer asking.Wait()
	asking.Go(func() {
		var has struct{ Tag string } // the order that its screen has
		for {
			select {
			case <-ctx.Done():
				return
			case <-stirred:
			}
			mu.Lock()
			these := waiting
			waiting = nil
			mu.Unlock()
			h.call("GET", fmt.Sprintf("/in/%d/inbox?since=%s", box, has.Tag), nil, &has)
			for _, id := range these {
				seen <- sighting{id, time.Now()}
			}
			h.call("GET", fmt.Sprintf("/in/%d/boxes", box), nil, nil) // the numbers at the rail, and the day, come after
			h.call("GET", fmt.Sprintf("/in/%d/dayline", box), nil, nil)
		}
	})
	lines := bufio.NewScanner(res.Body)
	lines.Buffer(nil, 1<<20)
	for lines.Scan() {
		text, ok := strings.CutPrefix(lines.Text(), "data:")
		if !ok {
			continue
		}
		if ready != nil {
			ready <- true
			ready = nil
		}
		var e struct{ Conversations []int64 }
		if json.Unmarshal([]byte(text), &e) != nil || len(e.Conversations) == 0 {
			continue
		}
		mu.Lock()
		waiting = append(waiting, e.Conversations...)
		mu.Unlock()
		select {
		case stirred <- true:
		default:
		}
	}
}

func (h *hand) teamInbox(box int64) (ids []int64) {
	var q struct{ Groups []struct{ IDs []int64 } }
	h.call("GET", fmt.Sprintf("/in/%d/inbox", box), nil, &q)
	for _, g := range q.Groups {
		ids = append(ids, g.IDs...)
	}
	return ids
}

// teamed makes a team of so many people with its mail, and gives its box.
func teamed(dir, data string, people, conversations int) (box int64) {
	s := must(store.Open(data, store.Options{}))
	defer s.Close()
	ctx, d := context.Background(), desk.New(s, &shifted{}, false)
	var first, team identity.Who
	for i := range people {
		signup := identity.Signup{Name: fmt.Sprintf("Person %d", i), Address: addressOf(i), Password: "long enough", Zone: "Europe/Oslo"}
		if i == 0 {
			check(d.SetUp(ctx, signup))
			first = must(d.People.Called(ctx, signup.Address))
			box = must(d.Teams.Make(ctx, first, "", "Loans"))
			team = must((identity.Boxes{Directory: d.People}).In(ctx, first, box))
			continue
		}
		check(d.AddPerson(ctx, signup))
		check(d.Teams.Stand(ctx, team, "", must(d.People.Called(ctx, signup.Address)).Person, together.Member))
	}
	file := filepath.Join(dir, "team.mbox")
	generate(file, conversations, 1, "t")
	must(d.Intake.Import(ctx, box, []string{file}, intake.Options{}))
	check(os.Remove(file))
	return box
}
