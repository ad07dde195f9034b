package desk

import (
	"slices"

	"ebbe/internal/journal"
	"ebbe/internal/runner"
	"ebbe/internal/store"
)

// deliverDue lets in what is held and due.
func (d *Desk) deliverDue(b *runner.Box, _ []store.Thing) error {
	got, notice, err := d.gateOf(b).Deliver()
	if err != nil {
		return err
	}
	b.Topics = append(b.Topics, journal.TopicMail, journal.TopicDelivery)
	if notice.Text != "" {
		b.Notices = append(b.Notices, notice)
	}
	b.Changes, b.Notices = append(b.Changes, got.Changes...), slices.Concat(b.Notices, got.Notices, got.Calls)
	return nil
}
