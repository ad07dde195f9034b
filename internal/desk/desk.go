// Package desk holds the use cases: what a user can do, one function each.
// Each loads what is needed, asks the core what changes, stores that in one
// transaction with its line in the journal, and announces it.
package desk

import (
	"context"
	"encoding/json"
	"errors"
	"sync"
	"time"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/when"
	"ebbe/internal/post"
	"ebbe/internal/store"
)

// Clock tells the present.
type Clock interface{ Now() time.Time }

// SystemClock is the clock of the machine, moved forward by what the demo's
// dial has been turned.
type SystemClock struct {
	mu     sync.Mutex
	offset time.Duration
}

// Now is the present as the program takes it.
func (c *SystemClock) Now() time.Time {
	c.mu.Lock()
	defer c.mu.Unlock()
	return time.Now().Add(c.offset)
}

// Set moves the clock so that it now shows t.
func (c *SystemClock) Set(t time.Time) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.offset = time.Until(t)
}

func (c *SystemClock) shift() time.Duration {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.offset
}

// Desk is where all use cases are.
type Desk struct {
	store    *store.Store
	clock    Clock
	demo     bool
	bus      bus
	wake     chan struct{}
	guard    guard
	hashing  hashing
	rest     rest
	instance struct {
		sync.Mutex
		id string
	}
	links *links // nil: no network

	reader     func(raw []byte) post.Body // post.Read, but in tests
	readWithin time.Duration              // what a message may take to be read

	inward string // the host at which addresses into Ebbe are; empty: they take nothing

	learned struct {
		sync.Mutex
		by      map[int64]learned  // by box
		arrived map[int64]arrivals // by box
		paces   map[int64]paced    // by box
	}
	shelves struct {
		sync.Mutex
		by map[int64]*shelf // by box
	}
}

// arrivals is when the mail of a box arrived in the weeks before a day.
type arrivals struct {
	day   when.Instant
	times delivery.Arrived
}

// learned is what was learned about the days of a box's user on a day.
type learned struct {
	day   when.Instant
	habit numbers.Habit
}

// paced is what the user of a box usually finishes, as learned on a day.
type paced struct {
	day  when.Instant
	pace followup.Pace
}

// shelf is the open follow-ups of a box as of a revision, with those that were
// shown lately, and the names a line can use.
type shelf struct {
	followup.Shelf
	rev   int64
	rows  map[string]store.FollowUp
	known followup.Known
	named time.Time // when these names were read
}

// New makes a desk over a store. In the demo, one click signs in, and the
// clock can be moved if it is a *SystemClock.
func New(s *store.Store, c Clock, demo bool) *Desk {
	return &Desk{store: s, clock: c, demo: demo, wake: make(chan struct{}, 1), reader: post.Read, readWithin: readWithin, hashing: newHashing()}
}

// Demo says that this is the demonstration with its dial.
func (d *Desk) Demo() bool { return d.demo }

func (d *Desk) now() when.Instant { return when.Of(d.clock.Now()) }

// Who is a signed-in person and the box they work in.
type Who struct {
	Person int64
	Box    int64
	Week   when.Week
}

// UserError is an error whose text is a sentence for the user: what happened,
// what was kept, what to do. Field names the input that is at fault, if one is.
type UserError struct {
	Type  string // stable, for programs
	Text  string
	Field string
}

func (e *UserError) Error() string { return e.Text }

func invalid(field, text string) error {
	return &UserError{Type: "invalid", Text: text, Field: field}
}

// The topics of events.
const (
	TopicMail      = "mail"      // conversations and where they are
	TopicFollowUps = "followups" // follow-ups
	TopicCards     = "cards"     // reminders that wait for an answer
	TopicClock     = "clock"     // the demo's clock was moved
	TopicPerson    = "person"    // settings
	TopicLabels    = "labels"    // labels, places and saved lists
	TopicDelivery  = "delivery"  // plans, holding, and what is held
	TopicSitting   = "sitting"   // a sitting began or ended
	TopicCalendar  = "calendar"  // events
	TopicAccounts  = "accounts"  // accounts and how they stand
	TopicOutbox    = "outbox"    // what is on its way out, and drafts
)

type bus struct {
	mu   sync.Mutex
	subs map[chan Event]int64
}

// Subscribe gives the events of a box until the context ends. A subscriber too
// slow to follow gets a last event about everything and is cut off.
func (d *Desk) Subscribe(ctx context.Context, box int64) <-chan Event {
	ch := make(chan Event, 64)
	d.bus.mu.Lock()
	if d.bus.subs == nil {
		d.bus.subs = map[chan Event]int64{}
	}
	d.bus.subs[ch] = box
	d.bus.mu.Unlock()
	context.AfterFunc(ctx, func() { d.bus.drop(ch) })
	return ch
}

func (b *bus) drop(ch chan Event) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if _, ok := b.subs[ch]; ok {
		delete(b.subs, ch)
		close(ch)
	}
}

func (d *Desk) announce(box int64, e Event) {
	e.Topics = append([]string{}, e.Topics...) // never null
	d.bus.mu.Lock()
	var slow []chan Event
	for ch, b := range d.bus.subs {
		if b != box {
			continue
		}
		select {
		case ch <- e:
		default:
			slow = append(slow, ch)
		}
	}
	d.bus.mu.Unlock()
	for _, ch := range slow {
		d.bus.drop(ch)
	}
	nudge(d.wake)
	if d.links == nil {
		return
	}
	nudge(d.links.outbox)
	d.links.mu.Lock()
	defer d.links.mu.Unlock()
	for _, wake := range d.links.wakes {
		nudge(wake)
	}
}

// once runs f in a transaction unless the request with that key has been
// answered before; then the same answer is given again and nothing is done.
// fresh says which it was.
func once[T any](ctx context.Context, d *Desk, who Who, key string, f func(store.Tx) (T, error)) (answer T, fresh bool, err error) {
	err = d.store.Write(ctx, func(t store.Tx) error {
		if key != "" {
			stored, err := t.Answered(who.Person, key)
			if err == nil {
				return json.Unmarshal(stored, &answer)
			}
			if !errors.Is(err, store.ErrNotFound) {
				return err
			}
		}
		var err error
		if answer, err = f(t); err != nil {
			return err
		}
		fresh = true
		if key == "" {
			return nil
		}
		raw, err := json.Marshal(answer)
		if err != nil {
			return err
		}
		return t.Answer(store.Request{PersonID: who.Person, Key: key, At: when.Of(time.Now()), Answer: raw})
	})
	return answer, fresh && err == nil, err
}

// topicsOf says which views the changes touch.
func topicsOf(changes []inbox.Change) (topics []string, conversations []int64) {
	mail, follow, cards, event := false, false, false, false
	for _, c := range changes {
		if c.After != nil {
			mail = true
			conversations = append(conversations, c.After.ID)
		}
		follow = follow || c.FollowUpBefore != nil || c.FollowUpAfter != nil
		event = event || c.EventBefore != nil || c.EventAfter != nil
		cards = cards || c.EventBefore != nil && c.EventBefore.Card || c.EventAfter != nil && c.EventAfter.Card
		cards = cards || c.FollowUpBefore != nil && c.FollowUpBefore.Card || c.FollowUpAfter != nil && c.FollowUpAfter.Card
	}
	for _, t := range []struct {
		on   bool
		name string
	}{{mail, TopicMail}, {follow, TopicFollowUps}, {cards, TopicCards}, {event, TopicCalendar}} {
		if t.on {
			topics = append(topics, t.name)
		}
	}
	if len(conversations) > 200 {
		conversations = nil
	}
	return topics, conversations
}
