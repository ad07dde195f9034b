package desk

import (
	"context"
	"strconv"
	"time"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/desk/followups"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// Start brings the database in step with the program before it serves:
// wall-clock times are computed anew under the zone rules of this program, and
// the demo's clock is set to where its dial was left.
func (d *Desk) Start(ctx context.Context) error {
	err := d.start(ctx)
	if err == nil {
		err = d.Leaving.Clear(ctx)
	}
	if err == nil {
		err = d.Accounts.LookedAt(ctx, 0) // with no account to look at, the rest after a restore is over at once
	}
	return err
}

func (d *Desk) start(ctx context.Context) error {
	return d.store.Write(ctx, func(t store.Tx) error {
		if err := d.demoTime(t); err != nil {
			return err
		}
		if err := wipe(t); err != nil {
			return err
		}
		if err := realign(t); err != nil {
			return err
		}
		if err := d.Accounts.BeginRest(t); err != nil {
			return err
		}
		if err := d.Sending.Resume(t); err != nil {
			return err
		}
		people, err := store.People(t).People()
		if err != nil {
			return err
		}
		for _, p := range people {
			box, err := store.People(t).BoxOf(p.ID)
			if err != nil {
				return err
			}
			at, err := store.Agenda(t).TimeOf(box, inbox.CloseDay)
			if err != nil {
				return err
			}
			if at != 0 {
				continue
			}
			if err := followups.CallForClosing(t, box, p, d.Now()); err != nil { // a database of before there was closing the day
				return err
			}
		}
		return nil
	})
}

// realign computes anew the instants of everything on the agenda that was
// meant as a wall-clock time.
func realign(t store.Tx) error {
	things, err := store.Agenda(t).Things()
	if err != nil {
		return err
	}
	ids, uids := map[int64][]int64{}, map[int64][]string{}
	for _, th := range things {
		switch th.Kind {
		case inbox.Return:
			ids[th.BoxID] = append(ids[th.BoxID], th.ConversationID)
		case inbox.Remind, inbox.RemindEvent:
			uids[th.BoxID] = append(uids[th.BoxID], th.FollowUp)
		}
	}
	for box := range ids {
		state, err := store.Conversations(t).State(box, 0, ids[box], nil)
		if err != nil {
			return err
		}
		for id, c := range state.Conversations {
			if m := c.Return.Realign(); m != c.Return {
				if err := store.Agenda(t).MoveReturn(box, id, m); err != nil {
					return err
				}
			}
		}
	}
	for box := range uids {
		state, err := store.Conversations(t).State(box, 0, nil, uids[box])
		if err != nil {
			return err
		}
		var moved []followup.FollowUp
		for _, f := range state.FollowUps {
			if m := f.Tidy(); !m.Equal(f) {
				moved = append(moved, m)
			}
		}
		if err := store.FollowUps(t).PutFollowUps(box, moved); err != nil {
			return err
		}
		for _, e := range state.Events {
			if m := e.Tidy(); !m.Equal(e) {
				if err := store.Calendar(t).PutEvent(box, m); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// KeepTime sets the clock to where the dial of a demo was left, for what is done to the
// demo's mail beside the program that shows it.
func (d *Desk) KeepTime(ctx context.Context) error { return d.store.Read(ctx, d.demoTime) }

// demoTime sets the clock to where the dial of a demo was left; no other database says one.
func (d *Desk) demoTime(t store.Tx) error {
	c, ok := d.clock.(*journal.SystemClock)
	if !ok {
		return nil
	}
	shift, err := t.Meta("clock")
	if err != nil {
		return err
	}
	if ms, err := strconv.ParseInt(shift, 10, 64); err == nil {
		c.Set(time.Now().Add(time.Duration(ms) * time.Millisecond))
	}
	return nil
}
