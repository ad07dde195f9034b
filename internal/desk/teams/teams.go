// Package teams is how people come to work in one box: teams are made, members come, are
// given a role and go.
package teams

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/texting"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/membership"
)

const (
	mostTeams   = 50  // that somebody works in
	mostMembers = 200 // of a team
	longestName = 80  // letters
)

// Desk is what is done about teams.
type Desk struct {
	Journal *journal.Journal
	Ended   func() // hears that a team has been ended; nil: nobody does

	store  *store.Store
	people identity.Boxes
}

// New makes a desk for teams.
func New(s *store.Store, j *journal.Journal, people *identity.Directory) *Desk {
	return &Desk{Journal: j, store: s, people: identity.Boxes{Directory: people}}
}

// Boxes gives the boxes somebody works in, their own first.
func (d *Desk) Boxes(ctx context.Context, who identity.Who) (out []BoxView, err error) {
	out = []BoxView{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		all, err := membership.Membership(t).Of(who.Person)
		for _, s := range all {
			v := BoxView{ID: s.BoxID, Role: s.Role, Left: s.Left, Unheard: s.Unheard, Here: s.BoxID == who.Box, With: []string{}}
			if s.Team {
				v.Name = s.Name
			}
			if s.Team && v.Here {
				fellows, err := membership.Membership(t).Fellows(who.Box)
				if err != nil {
					return err
				}
				for _, f := range fellows {
					if f.PersonID != who.Person {
						v.With = append(v.With, f.Name)
					}
				}
			}
			out = append(out, v)
		}
		return err
	})
	return out, err
}

// Others are the boxes somebody works in besides the one they are in.
func (d *Desk) Others(ctx context.Context, who identity.Who) (boxes []int64, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		all, err := membership.Membership(t).Of(who.Person)
		for _, s := range all {
			if s.BoxID != who.Box {
				boxes = append(boxes, s.BoxID)
			}
		}
		return err
	})
	return boxes, err
}

// Make makes a team, whoever asks for it being its first member, who looks after it; it gives
// the number of its box.
func (d *Desk) Make(ctx context.Context, who identity.Who, key, name string) (box int64, err error) {
	if name, err = goodName(name); err != nil {
		return 0, err
	}
	box, _, err = journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (box int64, err error) {
		mine, err := membership.Membership(t).Of(who.Person)
		if err != nil {
			return 0, err
		}
		if len(mine) > mostTeams {
			return 0, problem.Invalid("name", fmt.Sprintf("The team was not made: somebody can work in %d. Leave one first.", mostTeams))
		}
		now := d.Journal.Now()
		team := store.Person{Name: name, Week: who.Week, Created: now, Delivery: delivery.Usual(), FollowUp: followup.Usual()}
		if box, err = membership.Membership(t).Make(&team); err != nil {
			return 0, err
		}
		if err := membership.Membership(t).Put(store.Member{BoxID: box, PersonID: who.Person, Role: together.Steward, Since: now}); err != nil {
			return 0, err
		}
		there := who
		there.Box = box
		return box, d.note(t, there, "made the team “"+name+"”")
	})
	return box, d.Journal.Announced(who.Box, journal.TopicPerson, err)
}

// Team gives the team in whose box somebody is.
func (d *Desk) Team(ctx context.Context, who identity.Who) (v TeamView, err error) {
	if who.Team == 0 {
		return v, store.ErrNotFound
	}
	v = TeamView{Role: who.Role, Members: []MemberView{}, Others: []OtherView{}, Addresses: []string{}}
	err = d.store.Read(ctx, func(t store.Tx) error {
		s, err := membership.Membership(t).In(who.Person, who.Box)
		if err != nil {
			return err
		}
		v.Name = s.Name
		fellows, err := membership.Membership(t).Fellows(who.Box)
		if err != nil {
			return err
		}
		all, err := membership.Membership(t).Hands(who.Box)
		if err != nil {
			return err
		}
		hands, back := make([]together.Hand, len(all)), map[int64]when.Moment{}
		for i, h := range all {
			hands[i] = together.Hand{Person: h.PersonID, Minutes: h.Minutes, Given: h.Given}
			back[h.PersonID], hands[i].Away = h.Delivery.Away(d.Journal.Now())
		}
		next, least := together.NextInTurn.Choose(hands), together.LeastToDo.Choose(hands)
		in := map[int64]bool{}
		for _, f := range fellows {
			in[f.PersonID] = true
			away := slices.ContainsFunc(hands, func(h together.Hand) bool { return h.Person == f.PersonID && h.Away })
			v.Members = append(v.Members, MemberView{ID: f.PersonID, Name: f.Name, Role: f.Role, Since: f.Since, Here: f.PersonID == who.Person, Away: away, Until: back[f.PersonID]})
			if f.PersonID == next {
				v.Next = f.Name
			}
			if f.PersonID == least {
				v.Least = f.Name
			}
		}
		own, err := store.People(t).OwnAddresses(who.Box)
		if err != nil {
			return err
		}
		for _, a := range own {
			says := a.Address
			if n, ok := texting.NumberOf(says); ok {
				says = n.Say()
			}
			v.Addresses = append(v.Addresses, says)
		}
		if v.Names, err = membership.Membership(t).KeepsNames(who.Box); err != nil || who.May(together.Admit) != nil {
			return err
		}
		people, err := store.People(t).People()
		for _, p := range people {
			if !in[p.ID] && !p.Paused && p.Leaves == 0 {
				v.Others = append(v.Others, OtherView{ID: p.ID, Name: p.Name, Address: p.Address})
			}
		}
		return err
	})
	return v, err
}

// Stand gives somebody of this Ebbe a role in the team, or changes the one they have; with
// together.Stranger they are no member any more, and what they have open there ends at once.
func (d *Desk) Stand(ctx context.Context, who identity.Who, key string, person int64, role together.Role) error {
	act := together.Admit
	if person == who.Person && role == together.Stranger {
		act = together.Quit
	}
	if err := who.May(act); err != nil {
		return err
	}
	if role != together.Stranger && !role.Known() {
		return problem.Invalid("role", "Ebbe knows members, and those who look after the team. Nothing was changed.")
	}
	_, _, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (done struct{}, err error) {
		p, err := store.People(t).PersonByID(person)
		if err != nil {
			return done, err
		}
		fellows, err := membership.Membership(t).Fellows(who.Box)
		if err != nil {
			return done, err
		}
		stand := together.Standing{}
		for _, f := range fellows {
			stand[f.PersonID] = f.Role
		}
		if !stand[who.Person].May(act) { // they were given another role, or removed, meanwhile
			return done, store.ErrNotFound
		}
		_, ok := stand.Change(person, role)
		switch {
		case p.Team || role == together.Stranger && stand[person] == together.Stranger:
			return done, store.ErrNotFound
		case stand[person] == role:
			return done, nil
		case !ok:
			return done, &problem.Error{Type: "last-admin", Text: "Somebody has to look after the team: let somebody else do so first. Nothing was changed."}
		case stand[person] == together.Stranger && len(fellows) >= mostMembers:
			return done, problem.Invalid("person", fmt.Sprintf("Nobody was added: a team has room for %d members.", mostMembers))
		case role == together.Stranger:
			text := "removed " + p.Name
			if person == who.Person {
				text = "left the team"
			}
			n, err := membership.Membership(t).Release(who.Box, person, d.Journal.Now())
			if err != nil {
				return done, err
			}
			if n > 0 {
				text += fmt.Sprintf("; %d that they had nobody has now", n)
			}
			if err := membership.Membership(t).Drop(who.Box, person, d.Journal.Now()); err != nil {
				return done, err
			}
			return done, d.note(t, who, text)
		}
		if err := membership.Membership(t).Put(store.Member{BoxID: who.Box, PersonID: person, Role: role, Since: d.Journal.Now()}); err != nil {
			return done, err
		}
		text := "added " + p.Name
		switch {
		case stand[person] == together.Member:
			text = p.Name + " looks after the team now"
		case stand[person] == together.Steward:
			text = p.Name + " does not look after the team any more"
		case role == together.Steward:
			text += ", who looks after the team"
		}
		return done, d.note(t, who, text)
	})
	if err == nil && (person != who.Person || role == together.Stranger) { // what they have open begins anew, with the boxes they work in now
		err = errors.Join(err, d.people.Shut(ctx, person))
	}
	return d.announced(ctx, who, person, err)
}

// Rename changes what the team is called.
func (d *Desk) Rename(ctx context.Context, who identity.Who, key, name string) (err error) {
	if err := who.May(together.Admit); err != nil {
		return err
	}
	if name, err = goodName(name); err != nil {
		return err
	}
	_, _, err = journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (done struct{}, err error) {
		if err := store.People(t).ChangePerson(who.Team, map[string]any{"name": name}); err != nil {
			return done, err
		}
		return done, d.note(t, who, "called the team “"+name+"”")
	})
	return d.announced(ctx, who, 0, err)
}

// KeepNames says whether those who leave the team are named beside what they wrote.
func (d *Desk) KeepNames(ctx context.Context, who identity.Who, key string, keep bool) error {
	if err := who.May(together.Admit); err != nil {
		return err
	}
	_, _, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (done struct{}, err error) {
		if err := membership.Membership(t).KeepNames(who.Box, keep); err != nil {
			return done, err
		}
		text := "let those who leave be named"
		if !keep {
			text = "let those who leave not be named"
		}
		return done, d.note(t, who, text)
	})
	return d.announced(ctx, who, 0, err)
}

// End deletes the team, with its box, its accounts and all mail in it, once its name is given
// as it is written. From then on nobody gets into it, and nothing of it goes out; the rest is
// removed beside everything else.
func (d *Desk) End(ctx context.Context, who identity.Who, name string) error {
	if err := who.May(together.End); err != nil {
		return err
	}
	var fellows []membership.Fellow
	err := d.store.Write(ctx, func(t store.Tx) error {
		s, err := membership.Membership(t).In(who.Person, who.Box)
		if err != nil {
			return err
		}
		if strings.TrimSpace(name) != s.Name {
			return problem.Invalid("name", "Write the name of the team as it stands above. Nothing was deleted.")
		}
		if fellows, err = membership.Membership(t).Fellows(who.Box); err != nil {
			return err
		}
		return store.People(t).ChangePerson(who.Team, map[string]any{"leaves": when.Of(time.Now())}) // by the clock of the machine, as for whoever leaves
	})
	for _, f := range fellows {
		err = errors.Join(err, d.people.Shut(ctx, f.PersonID))
	}
	if err == nil && d.Ended != nil {
		d.Ended()
	}
	return err
}

// note writes a line of the team's history.
func (d *Desk) note(t store.Tx, who identity.Who, text string) error {
	return store.Journal(t).Record(&store.Entry{BoxID: who.Box, PersonID: who.Person, Actor: store.ByPerson, Kind: inbox.ChangeTeam, At: d.Journal.Now(), Count: 1, Text: text})
}

// announced tells the team, and somebody it is about in their own box, of a change.
func (d *Desk) announced(ctx context.Context, who identity.Who, person int64, err error) error {
	if err == nil && person != 0 {
		var box int64
		err = d.store.Read(ctx, func(t store.Tx) (err error) { box, err = store.People(t).BoxOf(person); return err })
		if err == nil {
			d.Journal.Announce(box, journal.Event{Topics: []string{journal.TopicPerson}})
		}
	}
	if err == nil {
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicPerson, journal.TopicFollowUps, journal.TopicMail}})
	}
	return err
}

func goodName(name string) (string, error) {
	name = strings.Join(strings.Fields(name), " ")
	switch {
	case name == "":
		return "", problem.Invalid("name", "Write what the team is called. Nothing was changed.")
	case len([]rune(name)) > longestName:
		return "", problem.Invalid("name", fmt.Sprintf("The name of a team has room for %d letters. Nothing was changed.", longestName))
	}
	return name, nil
}
