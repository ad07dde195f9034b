package desk

import (
	"bytes"
	"context"
	"crypto/sha256"
	"fmt"
	"slices"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/rules"
	"ebbe/internal/store"
	"ebbe/internal/store/counting"
	"ebbe/internal/store/weighing"
)

// Check verifies the database against its own rules, and every stored original
// against its hash. It returns what is wrong, each in a sentence.
func (d *Desk) Check(ctx context.Context) (wrong []string, messages int, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		if wrong, err = t.Check(); err != nil {
			return err
		}
		late, err := d.Delivery.Late(t)
		if err != nil {
			return err
		}
		wrong = append(wrong, late...)
		silent, err := silent(t)
		if err != nil {
			return err
		}
		wrong = append(wrong, silent...)
		broken, err := rules.Check(t)
		if err != nil {
			return err
		}
		wrong = append(wrong, broken...)
		sums, err := weighing.Wrong(t)
		if err != nil {
			return err
		}
		numbers, err := counting.Counted(t).Check()
		if err != nil {
			return err
		}
		answers, err := counting.Answers(t).Check()
		wrong = slices.Concat(wrong, sums, numbers, answers)
		return err
	})
	if err != nil {
		return wrong, messages, err
	}
	err = d.store.EachMessage(ctx, 0, func(m store.Message, raw []byte) error {
		messages++
		if h := sha256.Sum256(raw); !bytes.Equal(h[:], m.Hash) || len(raw) != m.Size {
			wrong = append(wrong, fmt.Sprintf("The original of message %d (“%s”) is not what came in.", m.ID, m.Subject))
		}
		return nil
	})
	return wrong, messages, err
}

// silent says which follow-ups would come up at another time than the agenda
// has for them.
func silent(t store.Tx) (wrong []string, err error) {
	things, err := store.Agenda(t).Things()
	if err != nil {
		return nil, err
	}
	type subject struct {
		box int64
		uid string
	}
	at, kept := map[subject]when.Instant{}, map[subject]bool{}
	for _, th := range things {
		if th.Kind == inbox.Remind {
			at[subject{th.BoxID, th.FollowUp}], kept[subject{th.BoxID, th.FollowUp}] = th.At, th.Kept()
		}
	}
	people, err := store.People(t).Keepers()
	for _, p := range people {
		box, err := store.People(t).BoxOf(p.ID)
		if err != nil {
			return wrong, err
		}
		all, err := store.FollowUps(t).AllFollowUps(box)
		if err != nil {
			return wrong, err
		}
		for _, f := range all {
			if next, s := f.Next(p.Week), (subject{box, f.UID}); next != at[s] && !kept[s] {
				wrong = append(wrong, fmt.Sprintf("The follow-up “%s” is not on the agenda as it should be.", f.Title))
			}
		}
	}
	return wrong, err
}
