package importance

import (
	"context"
	"errors"
	"log/slog"
	"maps"
	"slices"
	"time"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/when"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/store"
	"ebbe/internal/store/weighing"
)

const (
	atOnce    = 50                           // conversations that are learned from in one transaction
	again     = when.Instant(3_600_000)      // after which what is undecided is weighed anew, so that the order does not move under one's hands
	mostAnew  = 10_000                       // undecided conversations that are, those that came last
	inBetween = 2 * time.Second              // between something that was done and learning from it
	catchUp   = 100                          // messages of before that are weighed in one transaction
	brought   = when.Instant(48 * 3_600_000) // a message that is older when it comes in was brought in from before
)

// Run learns, until the context ends, from what is done.
func (d *Desk) Run(ctx context.Context) {
	switch caught, err := d.CatchUp(ctx); {
	case err != nil && ctx.Err() == nil:
		slog.Error("older messages could not be weighed", "error", err)
	case caught == 0: // a start changes no order
		d.mu.Lock()
		d.begun = d.Journal.Now()
		d.mu.Unlock()
	}
	for {
		if err := d.Learn(ctx); err != nil && ctx.Err() == nil {
			slog.Error("nothing could be learned of what was done; it is tried again", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-d.stirred:
		}
		select { // what comes with it is learned in one go
		case <-ctx.Done():
			return
		case <-time.After(inBetween):
		}
	}
}

// Learn learns from all that was done since it was called last, box by box. What
// cannot be learned from is left out, and said; it holds up nothing else.
func (d *Desk) Learn(ctx context.Context) error {
	for {
		var waiting []weighing.Waiting
		err := d.store.Read(ctx, func(t store.Tx) (err error) {
			waiting, err = weighing.Weights(t).Unlearned(atOnce)
			return err
		})
		if err != nil || len(waiting) == 0 {
			return err
		}
		of := map[int64][]int64{}
		for _, w := range waiting {
			of[w.BoxID] = append(of[w.BoxID], w.ConversationID)
		}
		for _, box := range slices.Sorted(maps.Keys(of)) {
			if err := d.learnOf(ctx, box, of[box]); err != nil {
				return err
			}
			if err := d.anew(ctx, box); err != nil {
				return err
			}
		}
	}
}

// learnOf learns from conversations of a box (0: they are gone), together or, where that
// fails, one by one.
func (d *Desk) learnOf(ctx context.Context, box int64, conversations []int64) error {
	err := d.store.Write(ctx, func(t store.Tx) error {
		if box != 0 {
			if err := learn(t, box, conversations); err != nil {
				return err
			}
			for _, also := range d.Also {
				if err := also(t, box, conversations); err != nil {
					return err
				}
			}
		}
		return weighing.Weights(t).Learned(conversations)
	})
	switch {
	case err == nil || ctx.Err() != nil:
		return err
	case len(conversations) > 1:
		for _, id := range conversations {
			if err := d.learnOf(ctx, box, []int64{id}); err != nil {
				return err
			}
		}
		return nil
	}
	slog.Error("nothing is learned of a conversation", "box", box, "conversation", conversations[0], "error", err)
	return d.store.Write(ctx, func(t store.Tx) error { return weighing.Weights(t).Learned(conversations) })
}

// anew weighs what is undecided in a box anew, unless that was done lately.
func (d *Desk) anew(ctx context.Context, box int64) error {
	now := d.Journal.Now()
	d.mu.Lock()
	last := max(d.weighed[box], d.begun)
	due := last == 0 || now-last >= again || now < last
	d.mu.Unlock()
	if !due {
		return nil
	}
	var moved []int64
	err := d.store.Write(ctx, func(t store.Tx) (err error) {
		moved, err = Reweigh(t, box, now)
		return err
	})
	if err != nil {
		return err
	}
	d.mu.Lock()
	d.weighed[box] = now
	d.mu.Unlock()
	if len(moved) > 0 {
		d.Journal.Announce(box, journal.Event{Topics: []string{journal.TopicMail}})
	}
	return nil
}

// learn finds what the messages of conversations have turned out to be worth, and
// puts it in place of what was learned of them before.
func learn(t store.Tx, box int64, conversations []int64) error {
	told, err := weighing.Weights(t).Told(box, conversations)
	if err != nil {
		return err
	}
	deeds, err := weighing.Weights(t).Deeds(box, conversations)
	if err != nil {
		return err
	}
	person, err := store.People(t).Keeper(box)
	if err != nil {
		return err
	}
	read, err := weighing.Weights(t).Read(person, conversations)
	if err != nil {
		return err
	}
	add, rows := sorting.Model{}, []weighing.Weighed{}
	for len(told) > 0 {
		n := slices.IndexFunc(told, func(m weighing.Told) bool { return m.ConversationID != told[0].ConversationID })
		if n < 0 {
			n = len(told)
		}
		for id, b := range became(told[:n], deeds[told[0].ConversationID]) {
			i := slices.IndexFunc(told, func(m weighing.Told) bool { return m.ID == id })
			w := told[i].Weighed
			b.Seconds, b.Read = read[id].Seconds, read[id].Whole
			before := w.Lesson()
			after := before
			if after.Outcome = b.Outcome(); after.Outcome == before.Outcome {
				continue
			}
			add.Learn(before, false)
			add.Learn(after, true)
			w.Worth, w.Weight, w.Answer = after.Worth, after.Weight, after.Answer
			rows = append(rows, *w)
		}
		told = told[n:]
	}
	if err := weighing.Weights(t).SetOutcomes(rows); err != nil {
		return err
	}
	return weighing.Weights(t).Learn(box, add)
}

// answersUpTo is how many messages one answer can be to, the newest.
const answersUpTo = 3

// became says what became of each message of a conversation that somebody else wrote,
// by its ID, given all its messages in their order and what was done about it.
func became(messages []weighing.Told, deeds []sorting.Deed) map[int64]sorting.Became {
	out := map[int64]sorting.Became{}
	var open []weighing.Told // by others, since the reader wrote last
	var theirs []weighing.Told
	for _, m := range messages {
		switch {
		case m.Own:
			for _, x := range open[max(0, len(open)-answersUpTo):] {
				b := out[x.ID]
				b.Answered = m.Date
				out[x.ID] = b
			}
			open = nil
		case m.Weighed != nil:
			out[m.ID] = sorting.Became{Came: m.Weighed.Came}
			open, theirs = append(open, m), append(theirs, m)
		}
	}
	for i, m := range theirs {
		b := out[m.ID]
		for _, d := range deeds {
			if d.At >= m.Received && (i+1 == len(theirs) || d.At < theirs[i+1].Received || theirs[i+1].Received <= m.Received) {
				b.Deeds = append(b.Deeds, d)
			}
		}
		b.Before = len(b.Deeds) == 0 && m.Place != inbox.Inbox && m.Place != inbox.Held && m.Received-m.Date > brought
		out[m.ID] = b
	}
	return out
}

// Reweigh weighs what is undecided in a box anew, and gives the conversations whose
// gauge has moved.
func Reweigh(t store.Tx, box int64, now when.Instant) (moved []int64, err error) {
	rows, err := weighing.Weights(t).Undecided(box, mostAnew)
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	var from []string
	for _, r := range rows {
		from = append(from, r.FromAddr)
	}
	slices.Sort(from)
	m, err := weighing.Weights(t).Model(box, slices.Compact(from))
	if err != nil {
		return nil, err
	}
	var changed []weighing.Undecided
	for _, r := range rows {
		w := m.Weigh(sorting.ReadTraits(r.Traits), r.FromAddr, now).Rated(r.Said)
		is, because := w.Mille(), w.Because.String()
		if is == r.Importance && because == r.Because {
			continue
		}
		if sorting.Level(is) != sorting.Level(r.Importance) {
			moved = append(moved, r.ID)
		}
		r.Importance, r.Because = is, because
		changed = append(changed, r)
	}
	return moved, weighing.Weights(t).SetImportance(box, changed)
}

// Correct learns at once from a correction of conversations, weighs what is undecided
// anew, and says how many others have moved by it.
func (d *Desk) Correct(t store.Tx, box int64, conversations []int64) (others int, err error) {
	if err := learn(t, box, conversations); err != nil {
		return 0, err
	}
	moved, err := Reweigh(t, box, d.Journal.Now())
	if err != nil {
		return 0, err
	}
	for _, id := range moved {
		if !slices.Contains(conversations, id) {
			others++
		}
	}
	return others, nil
}

// TakenBack unlearns a correction that was taken back, or learns it again.
func (d *Desk) TakenBack(t store.Tx, s *journal.Step) error {
	var ids []int64
	for _, c := range s.Changes {
		ids = append(ids, c.Conversation())
	}
	_, err := d.Correct(t, s.Who.Box, ids)
	return err
}

// CatchUp weighs the messages of the last year that came before they were weighed, and
// lets what became of them be learned. It says how many they were.
func (d *Desk) CatchUp(ctx context.Context) (caught int, err error) {
	for {
		var ids []int64
		var rows []store.Message
		raws := map[int64][]byte{}
		err := d.store.Read(ctx, func(t store.Tx) (err error) {
			if ids, err = weighing.Weights(t).Unweighed(catchUp); err != nil || len(ids) == 0 {
				return err
			}
			if rows, err = weighing.Weights(t).Rows(ids); err != nil {
				return err
			}
			for _, m := range rows {
				raw, err := store.Messages(t).Original(m.ID)
				if errors.Is(err, store.ErrNotFound) {
					continue
				}
				if err != nil {
					return err
				}
				raws[m.ID] = raw
			}
			return nil
		})
		if err != nil || len(ids) == 0 {
			return caught, err
		}
		caught += len(ids)
		now := d.Journal.Now()
		signs, lists := map[int64]intake.Signs{}, map[int64]string{}
		for _, m := range rows { // outside of the transaction, each within its time
			if raw, ok := raws[m.ID]; ok {
				p := d.intake.Parse(post.Item{Raw: raw})
				p.Look(when.Week{}, now)
				signs[m.ID], lists[m.ID] = p.Signs, p.Body.List
			}
		}
		err = d.store.Write(ctx, func(t store.Tx) error {
			var weighed []weighing.Weighed
			own, in := map[int64]map[string]bool{}, []int64{}
			for _, m := range rows {
				if own[m.BoxID] == nil {
					if own[m.BoxID], err = intake.OwnAddresses(t, m.BoxID); err != nil {
						return err
					}
				}
				tr := weighing.TraitsOf(m, own[m.BoxID])
				tr.Asks, tr.Soon = signs[m.ID].Asks, signs[m.ID].Soon
				came := m.Received
				if m.Received-m.Date > brought {
					came = m.Date
				}
				weighed = append(weighed, weighing.Weighed{MessageID: m.ID, BoxID: m.BoxID, FromAddr: m.FromAddr, Traits: tr.String(), Came: came})
				in = append(in, m.ConversationID)
			}
			if err := weighing.Weights(t).Put(weighed); err != nil {
				return err
			}
			if err := weighing.Weights(t).Await(in); err != nil {
				return err
			}
			if err := weighing.Weights(t).SetLists(lists); err != nil {
				return err
			}
			return weighing.Weights(t).Caught(ids)
		})
		if err != nil {
			return caught, err
		}
	}
}
