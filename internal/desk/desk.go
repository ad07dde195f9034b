// Package desk holds the use cases: what a user can do, one function each.
// Each loads what is needed, asks the core what changes, stores that in one
// transaction with its line in the journal, and announces it.
//
// Whoever asks is an identity.Who: what a use case sees and changes is limited to
// their box, and what is a person's own (what was read, drafts, places, settings)
// to them. Times are when.Instant (milliseconds, UTC), and a day is one of the
// person's zone. What a user can mend is a *problem.Error, with a sentence for them
// and the field it is about; what is not there, or is somebody else's, is
// store.ErrNotFound.
package desk

import (
	"sync"

	"ebbe/internal/core/when"
	"ebbe/internal/desk/accounts"
	"ebbe/internal/desk/calendars"
	"ebbe/internal/desk/choices"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/dayline"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/deliveries"
	"ebbe/internal/desk/figures"
	"ebbe/internal/desk/files"
	"ebbe/internal/desk/finding"
	"ebbe/internal/desk/followups"
	"ebbe/internal/desk/importance"
	"ebbe/internal/desk/inward"
	"ebbe/internal/desk/junk"
	"ebbe/internal/desk/kept"
	"ebbe/internal/desk/labelling"
	"ebbe/internal/desk/leaving"
	"ebbe/internal/desk/letters"
	"ebbe/internal/desk/persons"
	"ebbe/internal/desk/phones"
	"ebbe/internal/desk/queue"
	"ebbe/internal/desk/reading"
	"ebbe/internal/desk/review"
	"ebbe/internal/desk/rules"
	"ebbe/internal/desk/sharing"
	"ebbe/internal/desk/subscriptions"
	"ebbe/internal/desk/talk"
	"ebbe/internal/desk/teams"
	"ebbe/internal/desk/told"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/mailsync"
	"ebbe/internal/outbox"
	"ebbe/internal/runner"
	"ebbe/internal/store"
)

// Desk is where all use cases are, in rooms by what they are about.
type Desk struct {
	People  *identity.Directory // who may do them
	Journal *journal.Journal    // where they are written down
	Intake  *intake.Intake      // how mail comes in
	Mail    *mailsync.Sync      // accounts kept in step
	Sending *outbox.Outbox      // what goes out
	Agenda  *runner.Runner      // what happens by itself

	Accounts  *accounts.Desk
	Queue     *queue.Desk
	Reading   *reading.Desk
	Finding   *finding.Desk
	Files     *files.Desk
	Decisions *decide.Desk
	Labels    *labelling.Desk
	FollowUps *followups.Desk
	Calendar  *calendars.Desk
	Writing   *composing.Desk
	Delivery  *deliveries.Desk
	Dayline   *dayline.Desk
	Inward    *inward.Desk
	Choices   *choices.Desk

	Importance *importance.Desk
	Rules      *rules.Desk
	Lists      *subscriptions.Desk
	Junk       *junk.Desk
	Told       *told.Desk
	Persons    *persons.Desk
	Leaving    *leaving.Desk
	Teams      *teams.Desk
	Talk       *talk.Desk
	Sharing    *sharing.Desk
	Phones     *phones.Desk
	Letters    *letters.Desk
	Figures    *figures.Desk
	Review     *review.Desk

	store *store.Store
	clock journal.Clock
	demo  bool
	dial  sync.Mutex     // held while the demo's clock is moved
	world accounts.World // what is outside of the demo; nil: the real one

	colleagues accounts.World // who is at work in the demo besides its reader; nil: nobody
}

// New makes a desk over a store. In the demo, one click signs in, and the
// clock can be moved if it is a *journal.SystemClock.
func New(s *store.Store, c journal.Clock, demo bool) *Desk {
	j := journal.New(s, c)
	d := &Desk{Journal: j, store: s, clock: c, demo: demo}
	d.People = identity.New(s, j.Now, demo)
	d.Intake = intake.New(s, j, d.forget)
	d.Queue, d.Labels, d.FollowUps, d.Delivery = queue.New(s, j), labelling.New(s, j), followups.New(s, j), deliveries.New(s, j)
	d.Accounts, d.Writing, d.Inward = accounts.New(s, j, d.Intake), composing.New(s, j, d.Intake), inward.New(s, j, d.Intake)
	d.Importance = importance.New(s, j, d.Intake)
	d.Calendar, d.Dayline, d.Decisions = calendars.New(s, j, d.FollowUps), dayline.New(s, j, d.Delivery), decide.New(s, j, d.Writing, d.Importance)
	d.Choices, d.Told, d.Persons = choices.New(s, j), told.New(s, j), persons.New(s, j)
	d.Rules, d.Lists = rules.New(s, j, d.Decisions), subscriptions.New(s, j, d.Decisions)
	d.Intake.Sort, d.Delivery.Sort, d.Choices.Sort = d.Rules.Run, d.Rules.Run, d.Rules.Run
	d.Intake.Coming = d.Rules.Ahead
	d.Junk = junk.New(s, j, d.Decisions)
	d.Rules.Junk = d.Junk.Sort
	d.Importance.Also = []func(store.Tx, int64, []int64) error{d.Junk.Learn, d.Rules.Offer}
	d.Reading, d.Finding, d.Files = reading.New(s, j.Now, d.Calendar), finding.New(s, j, d.Intake), files.New(s)
	d.Mail = mailsync.New(s, j, d.Intake, d.Accounts.Mailbox)
	d.Mail.Asked = kept.New(s, j, d.Decisions, d.Rules, d.Delivery).Asked
	d.Mail.Resting, d.Mail.LookedAt, d.Mail.Draft = d.Accounts.Resting, d.Accounts.LookedAt, d.Writing.DraftCopy
	d.Sending = outbox.New(s, j, d.Accounts, d.Writing.FileSent, func() bool { return !d.Accounts.Linked() || d.Accounts.Resting() })
	d.Intake.Ahead = d.Sending.Ahead
	d.Leaving = leaving.New(s, d.Calendar, d.People)
	d.Leaving.Closed, d.Leaving.Left = d.Mail.Changed, d.forget
	d.Teams = teams.New(s, j, d.People)
	d.Teams.Ended = d.Leaving.Stir
	d.Talk, d.Sharing = talk.New(s, j), sharing.New(s, j, d.Intake)
	d.Phones = phones.New(s, j, d.Intake, d.Sending)
	d.Letters, d.Figures = letters.New(s, j, d.Intake), figures.New(s, j)
	d.Review = review.New(s, j)
	d.Review.Figures, d.Review.Lists, d.Review.FollowUps, d.Review.Rules, d.Review.Delivery, d.Review.Writing = d.Figures, d.Lists, d.FollowUps, d.Rules, d.Delivery, d.Writing
	d.Agenda = runner.New(s, j, d.Accounts.Resting)
	d.Accounts.Mail, d.Accounts.Sending, d.Accounts.Agenda = d.Mail, d.Sending, d.Agenda
	j.Always(d.Sending.Unsend)
	d.agenda()
	j.Listen(d.heard)
	return d
}

// Connect gives the desk its links. Without them no account can be used.
func (d *Desk) Connect(l accounts.Links) {
	d.Accounts.Connect(l)
	d.Phones.Seal, d.Phones.Provider = d.Accounts.Seal, d.Accounts.Provider
	d.People.Key = l.Key
	d.Writing.LeaveAt, d.world = l.Network.LeaveList, l.World
}

// forget lets what was learned of the past be learned anew.
func (d *Desk) forget() {
	d.Queue.Forget()
	d.FollowUps.Forget()
	d.Delivery.Forget()
	d.Dayline.Forget()
	d.Figures.Forget()
}

// Demo says that this is the demonstration with its dial.
func (d *Desk) Demo() bool { return d.demo }

// Now is the present as the desk takes it.
func (d *Desk) Now() when.Instant { return d.Journal.Now() }

// heard wakes what works by itself: something has been announced.
func (d *Desk) heard(box int64, e journal.Event) {
	d.Agenda.Stir()
	d.Sending.Stir()
	d.Importance.Stir()
	d.Finding.Stir()
	d.Letters.Stir()
	d.Mail.Heard(box, e)
}
