package teams

import (
	"cmp"
	"context"
	"math"
	"slices"

	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/store"
	"ebbe/internal/store/membership"
)

// mostMine is how much of what is somebody's stands in one list.
const mostMine = 500

// Mine is what somebody has to do in all boxes they work in: all of their own box, and of their teams
// what they have. What waits for somebody else is not among it. Those due first stand first, the more
// important of a day before the others.
func (d *Desk) Mine(ctx context.Context, who identity.Who) (v MineView, err error) {
	v.Lines = []MineLine{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		boxes, err := membership.Membership(t).Of(who.Person)
		if err != nil {
			return err
		}
		for _, b := range boxes {
			var rows []store.FollowUp
			if b.Team {
				rows, err = store.FollowUps(t).FollowUpsOwned(b.BoxID, who.Person)
			} else {
				rows, err = membership.Membership(t).ToDo(b.BoxID, mostMine)
			}
			if err != nil {
				return err
			}
			for _, r := range rows {
				if f := r.Data; !f.Waiting() {
					line := MineLine{Box: b.BoxID, UID: f.UID, Title: f.Title, Due: f.Due, Priority: f.Priority, With: f.With.Short(), Conversation: f.Conversation, Why: f.Owner.Why}
					if b.Team {
						line.Team = b.Name
					}
					v.Lines = append(v.Lines, line)
				}
			}
		}
		return nil
	})
	day := func(l MineLine) when.Instant {
		if l.Due.IsZero() {
			return math.MaxInt64
		}
		return when.DayStart(l.Due.At, who.Week.Location(), 0)
	}
	slices.SortStableFunc(v.Lines, func(a, b MineLine) int {
		return cmp.Or(cmp.Compare(day(a), day(b)), cmp.Compare(a.Priority.Near(), b.Priority.Near()), cmp.Compare(a.Due.At, b.Due.At), cmp.Compare(a.Title, b.Title))
	})
	v.More = max(0, len(v.Lines)-mostMine)
	v.Lines = v.Lines[:min(len(v.Lines), mostMine)]
	return v, err
}
