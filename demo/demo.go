// Package demo is a made-up museum with its mail: about 1,200 messages over
// fourteen months, the same ones each time, dated relative to the day on which
// the demo begins.
package demo

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"time"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/desk"
	"ebbe/internal/post"
	"ebbe/internal/store"
)

// Zone is where the museum is.
const Zone = "Europe/Oslo"

// world makes the messages, with a fixed seed.
type world struct {
	r     *rand.Rand
	loc   *time.Location
	today time.Time // midnight
	n     int
	sent  []message
}

// event is a message of the last days and what was decided about it.
type event struct {
	m        message
	do       string    // "", "archive", "snooze", "follow-up" or "finished"
	until    time.Time // for a snooze
	follow   string    // title of a follow-up
	due      time.Time
	remind   time.Time
	priority followup.Priority
}

// Begin reads the local time at which the demo's clock begins; an empty text
// means today at 10:42.
func Begin(text string, now time.Time) (time.Time, error) {
	loc, err := time.LoadLocation(Zone)
	if err != nil {
		return now, err
	}
	if text == "" {
		now = now.In(loc)
		return time.Date(now.Year(), now.Month(), now.Day(), 10, 42, 0, 0, loc), nil
	}
	t, err := time.ParseInLocation("2006-01-02T15:04", text, loc)
	if err != nil {
		return now, fmt.Errorf("%q is no time: write it as 2026-11-24T10:42", text)
	}
	return t, nil
}

func (w *world) id() string {
	w.n++
	return fmt.Sprintf("%08x.%d@mail.example", w.r.Uint32(), w.n)
}

func (w *world) pick(of ...string) string { return of[w.r.IntN(len(of))] }

func (w *world) send(m message) string {
	if m.id == "" {
		m.id = w.id()
	}
	w.sent = append(w.sent, m)
	return m.id
}

// Fill puts the museum's mail into an empty store and its clock to begin.
// fresh says that it did; a store that was filled before is kept as it is.
func Fill(ctx context.Context, d *desk.Desk, clock *desk.SystemClock, begin time.Time) (fresh bool, err error) {
	filled, err := d.Filled(ctx)
	if err != nil || filled {
		return false, err
	}
	loc := begin.Location()
	w := &world{r: rand.New(rand.NewPCG(20, 26)), loc: loc, today: time.Date(begin.Year(), begin.Month(), begin.Day(), 0, 0, 0, 0, loc)}
	recentFrom := w.today.AddDate(0, 0, -14)
	w.old(w.today.AddDate(0, -14, 0), recentFrom)
	w.sent = slices.DeleteFunc(w.sent, func(m message) bool { return !m.at.Before(recentFrom) })
	slices.SortStableFunc(w.sent, func(a, b message) int { return a.at.Compare(b.at) })

	clock.Set(recentFrom)
	if err := d.SetUp(ctx, desk.Signup{Name: solvei.name, Address: solvei.address, Zone: Zone}, store.OwnAddress{Address: singer.address, Account: "Choir"}); err != nil {
		return false, err
	}
	in := d.Intake(ctx, 1, desk.ImportOptions{Place: inbox.Archived})
	for _, m := range w.sent {
		if err := in.Add(post.Item{Raw: m.bytes()}); err != nil {
			break
		}
	}
	if _, err := in.Close(); err != nil {
		return false, err
	}
	who := desk.Who{Person: 1, Box: 1, Week: when.Ordinary(Zone)}
	events := w.recent()
	slices.SortStableFunc(events, func(a, b event) int { return a.m.at.Compare(b.m.at) })
	for _, e := range events {
		if e.m.at.After(begin) {
			continue
		}
		if err := w.live(ctx, d, clock, who, e); err != nil {
			return false, fmt.Errorf("the demo's mail could not be made: %w", err)
		}
	}
	return true, d.FinishDemo(ctx, clock, begin)
}

// live lets a message come in and its reader decide about it.
func (w *world) live(ctx context.Context, d *desk.Desk, clock *desk.SystemClock, who desk.Who, e event) error {
	if e.m.id == "" {
		e.m.id = w.id()
	}
	if err := d.SetClock(ctx, clock, e.m.at); err != nil {
		return err
	}
	in := d.Intake(ctx, 1, desk.ImportOptions{Arrived: true})
	if err := in.Add(post.Item{Raw: e.m.bytes()}); err != nil {
		return err
	}
	if _, err := in.Close(); err != nil || e.do == "" && e.follow == "" {
		return err
	}
	conversation, err := d.ByMessageID(ctx, who, e.m.id)
	if err != nil {
		return err
	}
	decide := func(dec desk.Decision) error {
		dec.Conversations = []int64{conversation}
		clock.Set(clock.Now().Add(9 * time.Minute))
		_, err := d.Decide(ctx, who, "", dec)
		return err
	}
	if err := decide(desk.Decision{Kind: inbox.Look}); err != nil {
		return err
	}
	if e.follow != "" {
		f := desk.NewFollowUp{Title: e.follow, Due: moment(e.due), Remind: moment(e.remind), Priority: e.priority, Keep: e.do == "snooze"}
		if err := decide(desk.Decision{Kind: inbox.MakeFollowUp, FollowUp: &f}); err != nil {
			return err
		}
	}
	switch e.do {
	case "archive":
		return decide(desk.Decision{Kind: inbox.Archive})
	case "snooze":
		return decide(desk.Decision{Kind: inbox.Snooze, Return: moment(e.until)})
	case "finished":
		v, err := d.Conversation(ctx, who, conversation)
		if err != nil || len(v.FollowUps) == 0 {
			return err
		}
		_, err = d.StepFollowUp(ctx, who, "", v.FollowUps[0].UID, desk.FollowUpStep{Kind: inbox.FinishFollow})
		return err
	}
	return nil
}

// moment is a wall-clock time of the museum; midnight means the whole day.
func moment(t time.Time) when.Moment {
	if t.IsZero() {
		return when.Moment{}
	}
	layout := "2006-01-02T15:04"
	if t.Hour() == 0 && t.Minute() == 0 {
		layout = "2006-01-02"
	}
	return when.Moment{At: when.Of(t), Local: t.Format(layout), Zone: Zone}.Realign()
}
