// Package kept is where mail is decided about from other mail programs, by moving it into
// the folders that Ebbe keeps on a server.
package kept

import (
	"context"
	"strings"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/deliveries"
	"ebbe/internal/desk/followups"
	"ebbe/internal/desk/rules"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
)

// Desk is where that is done.
type Desk struct {
	Journal   *journal.Journal
	Decisions *decide.Desk
	Rules     *rules.Desk
	Delivery  *deliveries.Desk

	store *store.Store
}

// New makes a desk over a store.
func New(s *store.Store, j *journal.Journal, d *decide.Desk, r *rules.Desk, held *deliveries.Desk) *Desk {
	return &Desk{j, d, r, held, s}
}

// phrases are the times of the folders that snooze, as they would be typed.
var phrases = map[mail.Role]string{mail.RoleTomorrow: "tomorrow", mail.RoleSnoozed: "tomorrow", mail.RoleEvening: "this evening", mail.RoleNextWeek: "next week"}

// Asked decides about a conversation of which a message was moved into a folder of that
// role, as the owner of the account would here: once for each key. What is held comes in
// first, as it was seen elsewhere. What cannot be done is a *problem.Error, or
// store.ErrNotFound.
func (d *Desk) Asked(ctx context.Context, a mailboxes.Account, folder mail.Role, conversation int64, key string) error {
	who := identity.Who{Person: a.PersonID, Box: a.BoxID}
	var p store.Person
	var newest store.Message
	var place inbox.Place
	err := d.store.Read(ctx, func(t store.Tx) (err error) {
		if p, err = store.People(t).PersonByID(a.PersonID); err != nil {
			return err
		}
		if conversation, err = store.Conversations(t).Resolve(a.BoxID, conversation); err != nil {
			return err
		}
		messages, err := store.Messages(t).MessagesOf(a.BoxID, conversation)
		if err != nil || len(messages) == 0 {
			return err
		}
		newest = messages[len(messages)-1]
		rows, err := store.Conversations(t).ConversationRows(a.BoxID, []int64{conversation})
		if row := rows[conversation]; row != nil {
			place = row.Place
		}
		return err
	})
	if err != nil {
		return err
	}
	who.Week = p.Week
	if place == inbox.Held {
		if _, err := d.Delivery.LetIn(ctx, who, key+"/in", deliveries.LettingIn{Conversations: []int64{conversation}}); err != nil {
			return err
		}
	}
	about := decide.Decision{Conversations: []int64{conversation}}
	switch stream, is := strings.CutPrefix(string(folder), string(mail.RoleStream)); {
	case is:
		return d.teach(ctx, who, key, conversation, delivery.Stream(stream))
	case folder == mail.RoleNever:
		_, err := d.Rules.Never(ctx, who, key, conversation, rules.PutAway{})
		return err
	case folder == mail.RoleFollowUp:
		about.Kind, about.FollowUp = inbox.MakeFollowUp, &followups.NewFollowUp{}
	case folder == mail.RoleWaiting:
		with := mail.Address{Name: newest.FromName, Address: newest.FromAddr}
		if newest.Own && len(newest.To) > 0 {
			with = newest.To[0]
		}
		about.Kind, about.FollowUp = inbox.MakeFollowUp, &followups.NewFollowUp{With: with, Waits: followup.Wait{Since: d.Journal.Now(), Only: true}}
	case phrases[folder] != "":
		about.Kind, about.Return = inbox.Snooze, d.until(p, phrases[folder])
	default:
		return nil
	}
	_, err = d.Decisions.Decide(ctx, who, key, about)
	return err
}

// until is a time in words as it is meant now; one that has passed today is that of
// tomorrow.
func (d *Desk) until(p store.Person, phrase string) when.Moment {
	now := d.Journal.Now()
	r := p.Week.ReadIn(p.Field(when.Ahead, now), phrase, now)
	if r.Moment.At <= now {
		r = p.Week.ReadIn(p.Field(when.Ahead, now), "tomorrow", now)
	}
	m, _ := r.Both()
	return m
}

// teach puts a conversation into a stream, with the lesson that is offered first here.
func (d *Desk) teach(ctx context.Context, who identity.Who, key string, conversation int64, stream delivery.Stream) error {
	v, err := d.Rules.Moving(ctx, who, rules.Moving{Conversation: conversation})
	if err != nil {
		return err
	}
	_, err = d.Rules.Teach(ctx, who, key, rules.Taught{Conversation: conversation, Stream: stream, Scope: v.Usual})
	return err
}
