package sharing

import (
	"cmp"
	"context"
	"crypto/sha256"
	"errors"
	"log/slog"
	"slices"

	"ebbe/internal/core/inbox"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/post"
	"ebbe/internal/post/mime"
	"ebbe/internal/store"
	"ebbe/internal/store/membership"
	"ebbe/internal/store/sharing"
	"ebbe/internal/store/talk"
)

const (
	atOnce      = 100 // messages that are read for a step of it
	mostWaiting = 100 // sharings that are looked at in one go
)

// note notes which of the messages that have come into a box are to be seen in another, and
// where somebody and a team of theirs have been written to at once.
func (d *Desk) note(t store.Tx, box int64, messages []*store.Message, arrived bool) (due bool, err error) {
	if arrived {
		if err := d.pair(t, box, messages); err != nil {
			return false, err
		}
	}
	any, err := sharing.Sharings(t).Among(box)
	if err != nil || !any {
		return false, err
	}
	in := map[int64][]store.Message{}
	var conversations []int64
	for _, m := range messages {
		if in[m.ConversationID] == nil {
			conversations = append(conversations, m.ConversationID)
		}
		in[m.ConversationID] = append(in[m.ConversationID], *m)
	}
	rows, err := sharing.Sharings(t).Of(box, conversations)
	if err != nil {
		return false, err
	}
	for _, c := range conversations {
		n, err := queue(t, box, in[c], rows[c], arrived)
		if err != nil {
			return false, err
		}
		due = due || n > 0
	}
	return due, nil
}

// pair finds what has come to somebody and to a team of theirs as well, known by its Message-ID
// (RFC 5322, section 3.6.4), its writer, its subject and how it begins: from then on whoever was
// written to sees in their own box what the team does about it.
func (d *Desk) pair(t store.Tx, box int64, messages []*store.Message) error {
	around, err := membership.Membership(t).Around(box)
	if err != nil || len(around) == 0 {
		return err
	}
	var others []int64
	for _, a := range around {
		others = append(others, cmp.Or(a.BoxID, a.OwnBoxID))
	}
	var ids []string
	for _, m := range messages {
		if m.MessageID != "" {
			ids = append(ids, m.MessageID)
		}
	}
	same, err := sharing.Sharings(t).Same(others, ids)
	if err != nil || len(same) == 0 {
		return err
	}
	for _, m := range messages {
		for _, o := range same {
			if o.MessageID != m.MessageID || o.FromAddr != m.FromAddr || o.Subject != m.Subject || o.Begins != m.Begins {
				continue
			}
			for _, a := range around {
				own, team := *m, o
				if a.BoxID == 0 {
					own, team = o, *m
				}
				if cmp.Or(a.BoxID, a.OwnBoxID) == o.BoxID {
					if err := d.join(t, a.PersonID, own, team); err != nil {
						return err
					}
				}
			}
		}
	}
	return nil
}

// join makes one of the conversations of a message that came to somebody and to a team, unless
// they are already; what the team has written since is seen by them, too.
func (d *Desk) join(t store.Tx, person int64, own, team store.Message) error {
	before, err := sharing.Sharings(t).Of(own.BoxID, []int64{own.ConversationID})
	if err != nil || slices.ContainsFunc(before[own.ConversationID], func(r sharing.Row) bool { return r.TeamBoxID == team.BoxID && r.Ended == 0 }) {
		return err
	}
	r := sharing.Row{BoxID: own.BoxID, PersonID: person, ConversationID: own.ConversationID, TeamBoxID: team.BoxID, TeamConversationID: team.ConversationID, Since: d.Journal.Now(), Addressed: true}
	if err := sharing.Sharings(t).Put(&r); err != nil {
		return err
	}
	there, err := store.Messages(t).MessagesOf(team.BoxID, team.ConversationID)
	if err != nil {
		return err
	}
	there = slices.DeleteFunc(there, func(m store.Message) bool { return m.ID == team.ID || m.Date < team.Date })
	_, err = queue(t, team.BoxID, there, []sharing.Row{r}, false)
	return err
}

// Carry has all that is to be seen in another box be seen there. What cannot be stored now is
// carried when the next message comes, or the program starts; one sharing stops no other.
func (d *Desk) Carry(ctx context.Context) {
	d.carries.Lock()
	defer d.carries.Unlock()
	failed := map[int64]bool{}
	for ctx.Err() == nil {
		var waiting []sharing.Row
		err := d.store.Read(ctx, func(t store.Tx) (err error) { waiting, err = sharing.Sharings(t).Waiting(mostWaiting); return err })
		waiting = slices.DeleteFunc(waiting, func(r sharing.Row) bool { return failed[r.ID] })
		if err != nil || len(waiting) == 0 {
			if err != nil && ctx.Err() == nil {
				slog.Error("what is shared could not be looked at", "error", err)
			}
			return
		}
		for _, r := range waiting {
			if err := d.carry(ctx, r); err != nil {
				failed[r.ID] = true
				if ctx.Err() == nil {
					slog.Error("what is shared could not be carried", "box", r.BoxID, "team", r.TeamBoxID, "error", err)
				}
			}
		}
	}
}

// carry carries the next messages of a sharing.
func (d *Desk) carry(ctx context.Context, r sharing.Row) error {
	var next []sharing.Carried
	raws, ours := map[int64][]byte{}, map[string]bool{}
	err := d.store.Read(ctx, func(t store.Tx) (err error) {
		if _, err = membership.Membership(t).In(r.PersonID, r.TeamBoxID); err != nil && r.Ended == 0 {
			return err
		}
		if next, err = sharing.Sharings(t).Next(r.ID, atOnce); err != nil {
			return err
		}
		var ids []int64
		for _, k := range next {
			ids = append(ids, k.MessageID)
		}
		if raws, err = store.Messages(t).Bytes(ids); err != nil {
			return err
		}
		for _, box := range []int64{r.BoxID, r.TeamBoxID} {
			own, err := intake.OwnAddresses(t, box)
			if err != nil {
				return err
			}
			for a := range own {
				ours[a] = true
			}
		}
		return nil
	})
	if errors.Is(err, store.ErrNotFound) || err == nil && r.Ended != 0 { // they have left the team, or it has been ended
		return d.store.Write(ctx, func(t store.Tx) error { return sharing.Sharings(t).GiveUp(r.ID) })
	}
	if err != nil {
		return err
	}
	for _, to := range []int64{r.TeamBoxID, r.BoxID} {
		var goes []sharing.Carried
		for _, k := range next {
			if k.ToBoxID == to {
				goes = append(goes, k)
			}
		}
		if len(goes) > 0 {
			if err := d.bring(ctx, &r, to, goes, raws, ours); err != nil {
				return err
			}
		}
	}
	return nil
}

// bring has messages be seen in a box, each without those to whom it went unseen (Bcc).
func (d *Desk) bring(ctx context.Context, r *sharing.Row, to int64, goes []sharing.Carried, raws map[int64][]byte, ours map[string]bool) error {
	how := &intake.Carried{Into: r.ConversationID, Quiet: true, Ours: ours}
	if to == r.TeamBoxID {
		how = &intake.Carried{Into: r.TeamConversationID, Shown: r.TeamConversationID == 0, Ours: ours}
	}
	by, lost := map[[sha256.Size]byte]sharing.Carried{}, []sharing.Carried{}
	first := r.TeamConversationID == 0 && to == r.TeamBoxID
	stored := func(t store.Tx, items []post.Item, ids []int64, _ []bool) error {
		for i, item := range items {
			k := by[sha256.Sum256(item.Raw)]
			k.There = ids[i]
			if err := sharing.Sharings(t).Settle(k); err != nil {
				return err
			}
		}
		if !first || len(ids) == 0 {
			return nil
		}
		return d.shown(t, r, ids[0])
	}
	run := d.intake.Begin(ctx, to, intake.Options{Arrived: true, Carried: how, Stored: stored})
	for _, k := range goes {
		raw := mime.WithoutBcc(raws[k.MessageID])
		if _, twice := by[sha256.Sum256(raw)]; twice || len(raw) == 0 { // the same bytes lie there once; of what is lost there is nothing
			lost = append(lost, k)
			continue
		}
		by[sha256.Sum256(raw)] = k
		if run.Add(post.Item{Raw: raw}) != nil {
			break
		}
	}
	if _, err := run.Close(); err != nil || len(lost) == 0 {
		return err
	}
	return d.store.Write(ctx, func(t store.Tx) error {
		for _, k := range lost {
			k.There = -1
			if err := sharing.Sharings(t).Settle(k); err != nil {
				return err
			}
		}
		return nil
	})
}

// shown notes in which conversation of the team's its first message has come, and tells the team
// who shares it. Whoever does follows it there.
func (d *Desk) shown(t store.Tx, r *sharing.Row, message int64) error {
	m, err := store.Messages(t).MessageRow(r.TeamBoxID, message)
	if err != nil {
		return err
	}
	row, err := sharing.Sharings(t).ByID(r.TeamBoxID, r.ID)
	if err != nil || row.TeamConversationID != 0 { // by an earlier part of it
		return err
	}
	row.TeamConversationID = m.ConversationID
	if err := sharing.Sharings(t).Put(&row); err != nil {
		return err
	}
	now := d.Journal.Now()
	if err := talk.Talk(t).Follow(r.TeamBoxID, r.PersonID, []int64{m.ConversationID}, true, now); err != nil {
		return err
	}
	who := identity.Who{Person: r.PersonID, Box: r.TeamBoxID}
	_, err = d.Journal.Commit(t, who, store.Entry{Kind: inbox.SharedIn, At: now, Ref: r.ID, ConversationID: m.ConversationID, Touched: []int64{m.ConversationID}, Text: m.Subject}, nil, nil)
	return err
}
