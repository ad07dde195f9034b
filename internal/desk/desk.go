// Package desk holds the use cases: what a user can do, one function each.
// Each loads what is needed, asks the core what changes, stores that in one
// transaction with its line in the journal, and announces it.
package desk

import (
	"context"
	"sync"
	"time"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/say"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/learned"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/mailsync"
	"ebbe/internal/outbox"
	"ebbe/internal/problem"
	"ebbe/internal/runner"
	"ebbe/internal/store"
)

// Desk is where all use cases are.
type Desk struct {
	People  *identity.Directory // who may do them
	Journal *journal.Journal    // where they are written down
	Intake  *intake.Intake      // how mail comes in
	Mail    *mailsync.Sync      // accounts kept in step
	Sending *outbox.Outbox      // what goes out
	Agenda  *runner.Runner      // what happens by itself

	store *store.Store
	clock journal.Clock
	demo  bool
	rest  rest
	links *Links // nil: no network

	inward string // the host at which addresses into Ebbe are; empty: they take nothing

	habits   learned.Daily[numbers.Habit]
	arrivals learned.Daily[delivery.Arrived]
	paces    learned.Daily[followup.Pace]

	shelves struct {
		sync.Mutex
		by map[int64]*shelf // by box
	}
}

// shelf is the open follow-ups of a box as of a revision, with those that were
// shown lately, and the names a line can use.
type shelf struct {
	followup.Shelf
	rev   int64
	rows  map[string]store.FollowUp
	known followup.Known
	named time.Time // when these names were read
}

// New makes a desk over a store. In the demo, one click signs in, and the
// clock can be moved if it is a *journal.SystemClock.
func New(s *store.Store, c journal.Clock, demo bool) *Desk {
	d := &Desk{store: s, clock: c, demo: demo}
	d.Journal = journal.New(s, c)
	d.People = identity.New(s, d.now, demo)
	d.Intake = intake.New(s, d.Journal, d.forget)
	d.Mail = mailsync.New(s, d.Journal, d.Intake, network{d}.mailbox)
	d.Mail.Resting, d.Mail.LookedAt, d.Mail.Draft = d.resting, d.lookedAt, d.draftCopy
	d.Sending = outbox.New(s, d.Journal, network{d}, d.fileSent, func() bool { return d.links == nil || d.resting() })
	d.Agenda = runner.New(s, d.Journal, d.resting)
	d.register()
	d.agenda()
	d.Journal.Listen(d.heard)
	return d
}

// forget lets what was learned of the past be learned anew.
func (d *Desk) forget() {
	d.habits.Forget()
	d.arrivals.Forget()
	d.paces.Forget()
}

// Demo says that this is the demonstration with its dial.
func (d *Desk) Demo() bool { return d.demo }

func (d *Desk) now() when.Instant { return d.Journal.Now() }

// heard wakes what works by itself: something has been announced.
func (d *Desk) heard(box int64, e journal.Event) {
	d.Agenda.Stir()
	d.Sending.Stir()
	d.Mail.Heard(box, e)
}

// network is how the desk reaches servers, with the secrets it keeps.
type network struct{ d *Desk }

func (n network) smtp() outbox.SMTP {
	return outbox.SMTP{Network: n.d.links.Network, Login: n.d.login}
}

// Submit opens a line to the server that sends for an account.
func (n network) Submit(ctx context.Context, a store.Account) (outbox.Line, error) {
	return n.smtp().Submit(ctx, a)
}

// HasSent looks into the folder of sent mail of an account.
func (n network) HasSent(ctx context.Context, a store.Account, messageID string) bool {
	return n.smtp().HasSent(ctx, a, messageID)
}

// mailbox opens a line to the mailbox of an account.
func (n network) mailbox(ctx context.Context, a store.Account) (mailsync.Mailbox, error) {
	if n.d.links == nil {
		return nil, errUnlinked
	}
	login, err := n.d.login(a)
	if err != nil {
		return nil, &problem.Error{Type: "sealed", Text: say.Upper(err.Error()) + "."}
	}
	m, err := n.d.links.Network.OpenMailbox(ctx, a.Mailbox, login)
	if err != nil {
		return nil, err
	}
	return m, nil
}
