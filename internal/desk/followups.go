package desk

import (
	"context"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
)

// StepFollowUp changes, finishes, reopens or drops a follow-up. Finishing it
// archives its conversation in the same step.
func (d *Desk) StepFollowUp(ctx context.Context, who Who, key, uid string, step FollowUpStep) (Decided, error) {
	now := d.now()
	var changes []inbox.Change
	out, fresh, err := once(ctx, d, who, key, func(t store.Tx) (out Decided, err error) {
		state, err := t.State(who.Box, who.Person, nil, []string{uid})
		if err != nil {
			return out, err
		}
		before, ok := state.FollowUps[uid]
		if !ok {
			return out, store.ErrNotFound
		}
		after, text, err := step.apply(before, now)
		if err != nil {
			return out, err
		}
		changes = nil
		if after != before {
			changes = append(changes, inbox.Change{FollowUpBefore: &before, FollowUpAfter: &after})
		}
		if step.Kind == inbox.FinishFollow && before.Conversation != 0 {
			c, _, err := d.changes(t, who, &Decision{Kind: inbox.Archive, Conversations: []int64{before.Conversation}}, now)
			if err != nil && !isMissing(err) {
				return out, err
			}
			changes = append(changes, c...)
		}
		return d.commit(t, who, store.Entry{Kind: step.Kind, At: now}, changes, func(int) string { return text })
	})
	if fresh {
		d.tell(who.Box, key, changes)
	}
	return out, err
}

func (step FollowUpStep) apply(f followup.FollowUp, now when.Instant) (followup.FollowUp, string, error) {
	switch step.Kind {
	case inbox.ChangeFollow:
		if step.Change == nil {
			return f, "", invalid("change", "Nothing was said about what to change, so nothing was.")
		}
		return f, "Changed.", step.Change.write(&f, now)
	case inbox.FinishFollow:
		return f.Finish(now), "Finished.", nil
	case inbox.DropFollow:
		if f.Open() {
			f.Status, f.Finished, f.Card = followup.Cancelled, now, false
		}
		return f, "Dropped.", nil
	case inbox.ReopenFollow:
		if !f.Open() {
			f.Status, f.Finished = followup.NeedsAction, 0
		}
		return f, "Open again.", nil
	case inbox.SeenReminder:
		f.Card = false
		if remind := step.Remind.Realign(); !remind.IsZero() {
			if remind.At <= now {
				return f, "", invalid("remind", "That time has passed. The reminder stays; choose a time that is still ahead.")
			}
			f.Remind = remind
		}
		return f, "", nil
	}
	return f, "", invalid("kind", "Ebbe does not know that step, so nothing was changed.")
}
