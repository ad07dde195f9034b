package inward

import (
	"cmp"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"strings"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/followups"
	"ebbe/internal/desk/received"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/post"
	"ebbe/internal/post/smtp"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
)

// Addresses says whether the user has addresses into Ebbe; with anew they are made,
// or new ones in place of the old, which end. Their secret part is told this
// once: only a hash of it is kept.
func (d *Desk) Addresses(ctx context.Context, who identity.Who, anew bool) (v InwardView, err error) {
	v.Host = d.host
	within := d.store.Read // which waits for nobody who writes
	if anew {
		within = d.store.Write
	}
	err = within(ctx, func(t store.Tx) error {
		p, err := store.People(t).PersonByID(who.Person)
		if err != nil {
			return err
		}
		if anew {
			v.Key = strings.ToLower(rand.Text())[:16]
			p.Inward = store.HashOf(v.Key)
			if err := store.People(t).PutPerson(&p, who.Box, nil); err != nil {
				return err
			}
		}
		v.Made = p.Inward != ""
		return nil
	})
	return v, err
}

// TakeMailAt says at which host mail for the addresses into Ebbe is taken; empty
// for none.
func (d *Desk) TakeMailAt(host string) { d.host = host }

// addressee finds for whom and what an address is.
func (d *Desk) addressee(t store.Tx, to string) (in mail.Inward, who identity.Who, at when.Reading, err error) {
	local, host, _ := strings.Cut(to, "@")
	in, ok := mail.ReadInward(local)
	if !ok || !strings.EqualFold(host, d.host) {
		return in, who, at, smtp.Refused("There is no address " + to + " here. Addresses into Ebbe stand in its Setup.")
	}
	p, err := store.People(t).PersonByInward(in.Key)
	if errors.Is(err, store.ErrNotFound) {
		return in, who, at, smtp.Refused("The address " + to + " is not in use, or not any more.")
	}
	if err != nil {
		return in, who, at, err
	}
	box, err := store.People(t).BoxOf(p.ID)
	who = identity.Who{Person: p.ID, Box: box, Week: p.Week}
	if err != nil || !in.Note {
		return in, who, at, err
	}
	if in.When == "" {
		in.When = "tomorrow"
	}
	r := p.Week.Read(in.When, d.Journal.Now())
	if r.Doubt != "" || r.Moment.IsZero() || r.Moment.At <= d.Journal.Now() {
		return in, who, at, smtp.Refused(fmt.Sprintf("Ebbe does not understand “%s” as a time to come, so the note was not taken. Write it as in note-…+fri-9@%s.", in.When, d.host))
	}
	return in, who, r, nil
}

// Allows says whether there is such an address into Ebbe. The error is a
// post.Refused if not.
func (d *Desk) Allows(ctx context.Context, to string) error {
	return d.store.Read(ctx, func(t store.Tx) error {
		_, _, _, err := d.addressee(t, to)
		return err
	})
}

// Take takes in what was sent to an address into Ebbe: as a follow-up with its
// title from the subject, or as a note that comes back when its address says.
// The message is kept and linked. The same message again does nothing more.
func (d *Desk) Take(ctx context.Context, to string, raw []byte) error {
	var in mail.Inward
	var who identity.Who
	var at when.Reading
	err := d.store.Read(ctx, func(t store.Tx) (err error) { in, who, at, err = d.addressee(t, to); return err })
	if err != nil {
		return err
	}
	now := d.Journal.Now()
	sum := sha256.Sum256(append([]byte(strings.ToLower(to)+"\n"), raw...))
	uid := "inward-" + hex.EncodeToString(sum[:16])
	var changes []inbox.Change
	o := intake.Options{Place: inbox.Archived, At: func(mail.Message) when.Instant { return now }}
	o.Stored = func(t store.Tx, _ []post.Item, ids []int64, _ []bool) error {
		changes = nil
		of, err := mailboxes.Folders(t).ConversationsOf(who.Box, ids)
		if err != nil {
			return err
		}
		m, err := store.Messages(t).MessageRow(who.Box, ids[0])
		if err != nil {
			return err
		}
		e := store.Entry{BoxID: who.Box, PersonID: who.Person, Actor: store.ByMail, At: now, Count: 1, ConversationID: of[ids[0]]}
		var c inbox.Change
		if in.Note {
			e.Kind, e.Text = inbox.Snooze, m.Subject
			c, err = d.note(t, who, e.ConversationID, at, now)
		} else {
			e.Kind = inbox.MakeFollowUp
			c, err = d.todo(t, who, in, m, uid, now)
			if c.FollowUpAfter != nil {
				e.Text = c.FollowUpAfter.Title
			}
		}
		if err != nil || c.Nothing() {
			return err
		}
		e.Delta, e.Changes = c.Delta(), []inbox.Change{c}
		changes = e.Changes
		if err := store.Journal(t).Record(&e); err != nil {
			return err
		}
		return store.Conversations(t).Apply(who.Box, who.Person, changes)
	}
	intake := d.Intake.Begin(ctx, who.Box, o)
	err = intake.Add(post.Item{Raw: raw})
	_, closed := intake.Close()
	if err = errors.Join(err, closed); err == nil && len(changes) > 0 {
		d.Journal.Tell(who.Box, "", changes)
	}
	return err
}

// note lets what was sent come back when its address says: at the earlier time where
// the address can be read in two ways, which a note on it says.
func (d *Desk) note(t store.Tx, who identity.Who, conversation int64, at when.Reading, now when.Instant) (c inbox.Change, err error) {
	state, err := store.Conversations(t).State(who.Box, who.Person, []int64{conversation}, nil)
	if err != nil {
		return c, err
	}
	before, ok := state.Conversations[conversation]
	if !ok || before.Place == inbox.Held {
		return c, nil
	}
	back, later := at.Both()
	after, err := before.Snoozed(inbox.Sleep{Return: back}, now)
	if err == nil && !at.Other.IsZero() {
		said := fmt.Sprintf("Its address can mean %s or %s. The earlier was taken.", who.Week.Say(back, now), who.Week.Say(later, now))
		if noted, err := after.Noted(after.Note + "\n" + said); err == nil { // else there is no room for it
			after = noted
		}
	}
	return inbox.Change{Before: &before, After: &after}, err
}

// todo makes a follow-up of what was sent.
func (d *Desk) todo(t store.Tx, who identity.Who, in mail.Inward, m store.Message, uid string, now when.Instant) (c inbox.Change, err error) {
	state, err := store.Conversations(t).State(who.Box, who.Person, nil, []string{uid})
	if _, known := state.FollowUps[uid]; err != nil || known {
		return c, err
	}
	p, err := store.People(t).PersonByID(who.Person)
	if err != nil {
		return c, err
	}
	text, err := received.Text(t, m.ID)
	if err != nil {
		return c, err
	}
	title := strings.TrimSpace(strings.TrimPrefix(mail.Title(m.Subject), "Fwd:"))
	n := followups.NewFollowUp{Title: cmp.Or(title, "Mail of "+who.Week.Say(when.Moment{At: now}, now)), Project: in.Project, Notes: strings.TrimSpace(text)}
	if len(n.Notes) > inwardNotes {
		n.Notes = strings.ToValidUTF8(n.Notes[:inwardNotes], "") + "…"
	}
	f := followup.FollowUp{Status: followup.NeedsAction, Conversation: m.ConversationID, Message: m.MessageID, Made: now}
	if f, err = n.Write(f, p.FollowUp, who.Week, now); err != nil {
		return c, err
	}
	f.UID = uid
	return inbox.Change{FollowUpAfter: &f}, nil
}

// inwardNotes is how many bytes of a text become the notes of a follow-up; all
// of it stands in its message.
const inwardNotes = 2000
