package identity

import (
	"context"

	"ebbe/internal/store"
	"ebbe/internal/store/admission"
	"ebbe/internal/store/membership"
)

// Boxes is in which boxes people work.
type Boxes struct{ *Directory }

// In is the same person at work in another box: their own, or that of a team they are a
// member of; store.ErrNotFound for every other number, be there such a box or not.
func (d Boxes) In(ctx context.Context, who Who, box int64) (Who, error) {
	if box == who.Box {
		return who, nil
	}
	err := d.store.Read(ctx, func(t store.Tx) error {
		s, err := membership.Membership(t).In(who.Person, box)
		if err == nil && !s.Team {
			err = store.ErrNotFound
		}
		who.Box, who.Team, who.Role = s.BoxID, s.Keeper, s.Role
		return err
	})
	if err != nil {
		return Who{}, err
	}
	return who, nil
}

// Shut ends what a person has open in any box; what they may still see they can open again.
func (d Boxes) Shut(ctx context.Context, person int64) error {
	var hashes []string
	err := d.store.Read(ctx, func(t store.Tx) error {
		all, err := admission.Admission(t).Sessions(person)
		for _, s := range all {
			hashes = append(hashes, s.TokenHash)
		}
		return err
	})
	d.open.end(hashes)
	return err
}
