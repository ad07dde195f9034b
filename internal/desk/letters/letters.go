// Package letters has Ebbe write to those who have asked for it, by mail in their own box: what
// concerns them in teams, as one message with a round. Nothing that somebody says to the others of a
// team becomes mail; a letter says that they said something, and where.
package letters

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"strings"
	"time"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/say"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/talk"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/post/mime"
	"ebbe/internal/runner"
	"ebbe/internal/store"
	"ebbe/internal/store/membership"
	stored "ebbe/internal/store/talk"
)

// writer is whom letters are from. Nothing that is sent there goes anywhere (RFC 2606, section 2).
var writer = mail.Address{Name: "Ebbe", Address: "letters@ebbe.invalid"}

const again = time.Minute // after which is tried again what could not be done

// Desk is where letters are written.
type Desk struct {
	journal *journal.Journal
	store   *store.Store
	intake  *intake.Intake
	wake    chan struct{}
}

// New makes a desk over a store, whose letters are taken in like any other mail.
func New(s *store.Store, j *journal.Journal, in *intake.Intake) *Desk {
	return &Desk{journal: j, store: s, intake: in, wake: make(chan struct{}, 1)}
}

// Due has a letter be due to whoever's box it is: its round has come. While they hold their mail by
// hand it waits until that ends.
func (d *Desk) Due(b *runner.Box, things []store.Thing) error {
	s := b.Person.Delivery
	next := s.Letter.Next(b.Now, b.Person.Week.Location())
	if next != 0 {
		if err := stored.Talk(b.T).Ask(b.Person.ID, things[len(things)-1].At); err != nil {
			return err
		}
		if until, held := s.Held(b.Now); held && until != 0 {
			next = min(next, until)
		}
	}
	b.Topics = append(b.Topics, journal.TopicTalk) // told once it is stored, which stirs Run
	return store.Agenda(b.T).SetTime(b.ID, inbox.WriteLetter, next)
}

// Stir has it looked whether any letter is due.
func (d *Desk) Stir() {
	select {
	case d.wake <- struct{}{}:
	default:
	}
}

// Run writes, until the context ends, the letters that are due.
func (d *Desk) Run(ctx context.Context) {
	for {
		var retry <-chan time.Time
		if err := d.Write(ctx); err != nil && ctx.Err() == nil {
			slog.Error("a letter could not be written; that is tried again", "error", err)
			retry = time.After(again)
		}
		select {
		case <-ctx.Done():
			return
		case <-retry:
		case <-d.wake:
		}
	}
}

// Write writes the letters that are due. One that cannot be written stops no other.
func (d *Desk) Write(ctx context.Context) (err error) {
	var due []stored.Letter
	if err := d.store.Read(ctx, func(t store.Tx) (err error) { due, err = stored.Talk(t).Asked(); return err }); err != nil {
		return err
	}
	for _, l := range due {
		if lerr := d.write(ctx, l); lerr != nil {
			err = errors.Join(err, fmt.Errorf("to person %d: %w", l.PersonID, lerr))
		}
	}
	return err
}

// write writes one, unless there is nothing to tell, or its reader holds their mail.
func (d *Desk) write(ctx context.Context, l stored.Letter) error {
	var p store.Person
	var box, newest int64
	var groups []talk.GroupView
	var teams []membership.Standing
	err := d.store.Read(ctx, func(t store.Tx) (err error) {
		if p, err = store.People(t).PersonByID(l.PersonID); err != nil {
			return err
		}
		if box, err = store.People(t).BoxOf(p.ID); err != nil {
			return err
		}
		if groups, newest, err = talk.Since(t, identity.Who{Box: box, Person: p.ID, Week: p.Week}, l.Told); err != nil {
			return err
		}
		teams, err = membership.Membership(t).Of(p.ID)
		return err
	})
	now := d.journal.Now()
	if _, held := p.Delivery.Held(now); err != nil || held {
		return err
	}
	wrote := func(t store.Tx) error { return stored.Talk(t).Wrote(p.ID, newest) }
	if len(groups) == 0 {
		return d.store.Write(ctx, wrote)
	}
	raw, err := mime.Compose(mime.Letter{MessageID: fmt.Sprintf("%d-%d@ebbe.invalid", p.ID, l.Due), Date: now.In(p.Week.Location()), From: writer, To: []mail.Address{{Name: p.Name, Address: p.Address}},
		Subject: "In your teams: " + say.Plural(len(groups), "conversation"), Text: d.text(groups, teams, p.Week, now)})
	if err != nil {
		return err
	}
	raw = append([]byte("Auto-Submitted: auto-generated\r\n"), raw...) // RFC 3834, section 5.1
	in := d.intake.Begin(ctx, box, intake.Options{Arrived: true, Round: true, Others: intake.InTurn,
		Stored: func(t store.Tx, _ []post.Item, _ []int64, _ []bool) error { return wrote(t) }})
	err = in.Add(post.Item{Raw: raw})
	_, closed := in.Close()
	return cmp.Or(err, closed)
}

// text is what a letter says, by team and by conversation.
func (d *Desk) text(groups []talk.GroupView, teams []membership.Standing, w when.Week, now when.Instant) string {
	var out strings.Builder
	for _, team := range teams {
		headed := false
		for _, g := range groups {
			if g.Box != team.BoxID {
				continue
			}
			if !headed {
				fmt.Fprintf(&out, "%s\n\n", strings.ToUpper(team.Name))
				headed = true
			}
			fmt.Fprintln(&out, cmp.Or(g.Subject, "Without a subject"))
			for _, l := range g.Lines {
				fmt.Fprintf(&out, "- %s %s, %s\n", cmp.Or(l.Who, "Ebbe"), d.did(l), w.Say(when.Moment{At: l.At}, now))
			}
			if g.More > 0 {
				fmt.Fprintf(&out, "- and %d more\n", g.More)
			}
			fmt.Fprintln(&out)
		}
	}
	out.WriteString("This is what concerns you and you had not seen yet. It stands in Activity, from where each is one key away; what was said there stays in the team. When such a message comes, and whether it does, you choose in Delivery.\n")
	return out.String()
}

// did is what somebody did, where the conversation is named above it.
func (d *Desk) did(l talk.LineView) string {
	switch {
	case l.Kind == inbox.Comment && l.Called:
		return "said something to you"
	case l.Kind == inbox.Comment:
		return "said something"
	case l.Kind == inbox.Give && l.Called:
		return "gave it to you"
	case l.Kind == inbox.Give:
		return l.Text
	case l.Kind == inbox.SendMail:
		return "sent an answer"
	}
	return cmp.Or(d.journal.Verb(l.Kind), "did something about it")
}
