package identity

import (
	"cmp"
	"context"
	"errors"
	netmail "net/mail"
	"strings"
	"time"

	"ebbe/internal/core/when"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/admission"
)

// invitedFor is how long an invitation can be used.
const invitedFor = 7 * 24 * time.Hour

var (
	errNotAdmin   = &problem.Error{Type: "not-allowed", Text: "Only whoever looks after this Ebbe can do that. Nothing was done."}
	errInvitation = &problem.Error{Type: "invitation", Text: "This invitation was used or is over: each is good once, for a week. Ask whoever sent it for another."}
	errLast       = &problem.Error{Type: "last-admin", Text: "Somebody has to look after this Ebbe: let somebody else do so first. Nothing was changed."}
)

// Care is what whoever looks after the people of this Ebbe does; all else are refused.
type Care struct{ *Directory }

// People gives who is in this Ebbe, to whoever looks after it.
func (d Care) People(ctx context.Context, who Who) (out Others, err error) {
	out = Others{People: []PersonView{}, Invitations: []InvitationView{}}
	if !who.Admin {
		return out, errNotAdmin
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		people, err := store.People(t).People()
		if err != nil {
			return err
		}
		for _, p := range people {
			out.People = append(out.People, PersonView{ID: p.ID, Name: p.Name, Address: p.Address, Here: p.ID == who.Person, Admin: p.Admin, Paused: p.Paused, Since: p.Created, Codes: len(p.Codes) > 0, Leaves: p.Leaves, Gone: gone(p, time.Now())})
		}
		invited, err := admission.Admission(t).Invitations(when.Of(time.Now()))
		for _, i := range invited {
			out.Invitations = append(out.Invitations, InvitationView{ID: i.TokenHash[:16], Name: i.Name, Address: i.Address, Expires: i.Expires})
		}
		return err
	})
	return out, err
}

// Invite makes an invitation and gives its secret part, which is told once.
func (d Care) Invite(ctx context.Context, who Who, name, address string) (token string, err error) {
	if !who.Admin {
		return "", errNotAdmin
	}
	if name, err = goodName(name); err != nil {
		return "", err
	}
	if address, err = goodAddress(address); err != nil {
		return "", err
	}
	token = Secret()
	now := time.Now()
	return token, d.store.Write(ctx, func(t store.Tx) error {
		if _, err := store.People(t).PersonByAddress(address); !errors.Is(err, store.ErrNotFound) {
			return cmp.Or(err, error(problem.Invalid("address", "Somebody signs in with that address already. Nobody was invited.")))
		}
		open, err := admission.Admission(t).Invitations(when.Of(now))
		if err != nil {
			return err
		}
		for _, i := range open { // a new one takes the place of the last
			if i.Address == address {
				if _, err := admission.Admission(t).DropInvitation(i.TokenHash); err != nil {
					return err
				}
			}
		}
		return admission.Admission(t).PutInvitation(admission.Invitation{TokenHash: tokenHash(token), Name: name, Address: address, MadeBy: who.Person, Made: when.Of(now), Expires: when.Of(now.Add(invitedFor))})
	})
}

func goodAddress(address string) (string, error) {
	address = strings.ToLower(strings.TrimSpace(address))
	if a, err := netmail.ParseAddress(address); err != nil || a.Address != address {
		return "", problem.Invalid("address", "That is no mail address. It looks like name@place.example.")
	}
	return address, nil
}

// TakeBack has an invitation be good no more.
func (d Care) TakeBack(ctx context.Context, who Who, id string) error {
	if !who.Admin {
		return errNotAdmin
	}
	return d.store.Write(ctx, func(t store.Tx) error {
		open, err := admission.Admission(t).Invitations(when.Of(time.Now()))
		for _, i := range open {
			if err == nil && i.TokenHash[:16] == id {
				_, err = admission.Admission(t).DropInvitation(i.TokenHash)
			}
		}
		return err
	})
}

// Invited says for whom an invitation is.
func (d *Directory) Invited(ctx context.Context, token string) (v InvitationView, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		i, err := admission.Admission(t).Invitation(tokenHash(token), when.Of(time.Now()))
		v = InvitationView{Name: i.Name, Address: i.Address, Expires: i.Expires}
		return err
	})
	if errors.Is(err, store.ErrNotFound) {
		err = errInvitation
	}
	return v, err
}

// Join lets whoever was invited in, with a box of their own, and gives them recovery codes.
func (d *Directory) Join(ctx context.Context, token string, s Signup, then Then) (codes []string, err error) {
	v, err := d.Invited(ctx, token)
	if err != nil {
		return nil, err
	}
	s.Address = v.Address
	return d.add(ctx, s, nil, then, func(t store.Tx) (box int64, err error) {
		was, err := admission.Admission(t).DropInvitation(tokenHash(token))
		if err == nil && !was {
			err = errInvitation // somebody was quicker
		}
		if err != nil {
			return 0, err
		}
		return d.boxFor(t, s)
	})
}

// Stand changes how somebody stands. Whoever is paused cannot sign in, and what they have
// open ends at once; their mail is kept, and goes on coming in.
func (d Care) Stand(ctx context.Context, who Who, person int64, s Standing) error {
	if !who.Admin {
		return errNotAdmin
	}
	err := d.store.Write(ctx, func(t store.Tx) error {
		people, err := store.People(t).People()
		if err != nil {
			return err
		}
		columns, found, admins := map[string]any{}, false, 0
		for _, p := range people {
			if p.ID == person {
				if gone(p, time.Now()) {
					return errLeaving
				}
				found = true
				if s.Admin != nil {
					p.Admin, columns["admin"] = *s.Admin, *s.Admin
				}
				if s.Paused != nil {
					p.Paused, columns["paused"] = *s.Paused, *s.Paused
				}
			}
			if looksAfter(p) {
				admins++
			}
		}
		switch {
		case !found:
			return store.ErrNotFound
		case admins == 0:
			return errLast
		}
		return store.People(t).ChangePerson(person, columns)
	})
	if err == nil && s.Paused != nil && *s.Paused {
		err = d.endAll(ctx, person, "")
	}
	return err
}
