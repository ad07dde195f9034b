package desk

import (
	"context"
	"fmt"
	"strings"

	"ebbe/internal/desk/followups"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/store"
	"ebbe/internal/store/counting"
	"ebbe/internal/store/membership"
)

// SetUp stores the first person and gives them the mail that was imported
// before. It is refused once there is somebody.
func (d *Desk) SetUp(ctx context.Context, s identity.Signup, more ...store.OwnAddress) error {
	return d.People.SetUp(ctx, s, more, d.welcome)
}

// FirstPerson is SetUp for whoever comes from an address and shows the code that was printed, if
// one is asked for; it gives recovery codes.
func (d *Desk) FirstPerson(ctx context.Context, s identity.Signup, from string) (codes []string, err error) {
	return d.People.Begin(ctx, s, from, d.welcome)
}

// Join lets whoever was invited in, and gives them recovery codes.
func (d *Desk) Join(ctx context.Context, token string, s identity.Signup) (codes []string, err error) {
	return d.People.Join(ctx, token, s, d.welcome)
}

// AddPerson stores one more person, with a box of their own.
func (d *Desk) AddPerson(ctx context.Context, s identity.Signup, more ...store.OwnAddress) error {
	return d.People.Add(ctx, s, more, d.welcome)
}

// welcome does what a new person needs: their day is closed at its time, and what
// lies in their box already is theirs.
func (d *Desk) welcome(t store.Tx, who identity.Who, p store.Person) error {
	if err := followups.CallForClosing(t, who.Box, p, d.Now()); err != nil {
		return err
	}
	if err := intake.Adopt(t, who, d.Now()); err != nil {
		return err
	}
	return counting.Anew(t, who.Box)
}

// WhoForTeam is what works by itself in the box of the team with that name.
func (d *Desk) WhoForTeam(ctx context.Context, name string) (who identity.Who, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		teams, err := membership.Membership(t).Teams()
		if err != nil {
			return err
		}
		var names []string
		var box int64
		for _, s := range teams {
			switch {
			case !strings.EqualFold(s.Name, strings.TrimSpace(name)):
				names = append(names, s.Name)
			case box != 0:
				return fmt.Errorf("two teams are called %s: give one of them another name first", s.Name)
			default:
				box = s.BoxID
			}
		}
		if box == 0 {
			return fmt.Errorf("no team is called %s here; these are: %s", name, strings.Join(names, ", "))
		}
		who, err = identity.Of(t, box)
		return err
	})
	return who, err
}

// WhoFor is whoever signs in with an address. Without one it is the only person, or nobody
// yet, with the box of mail imported before anybody was there.
func (d *Desk) WhoFor(ctx context.Context, address string) (who identity.Who, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		people, err := store.People(t).People()
		if err != nil {
			return err
		}
		var names []string
		for _, p := range people {
			if names = append(names, p.Address); strings.EqualFold(p.Address, address) || address == "" && len(people) == 1 {
				who.Person, who.Week = p.ID, p.Week
				who.Box, err = store.People(t).BoxOf(p.ID)
				return err
			}
		}
		switch {
		case address != "":
			return fmt.Errorf("nobody signs in with %s here; these do: %s", address, strings.Join(names, ", "))
		case len(people) > 1:
			return fmt.Errorf("say whose mail it is with --for: %s", strings.Join(names, ", "))
		}
		who.Box = store.FirstBox
		return nil
	})
	return who, err
}
