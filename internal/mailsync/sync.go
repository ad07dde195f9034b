// Package mailsync keeps accounts in step with their servers: what is new there is
// taken in, what others did there is followed, and what was decided here is
// carried there. It talks to a Mailbox; the one of the world is IMAP (RFC 9051,
// RFC 3501), that of the tests one with a clock and faults.
package mailsync

import (
	"context"
	"slices"
	"sync"
	"time"

	"ebbe/internal/backoff"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/post/imap"
	"ebbe/internal/store"
	"ebbe/internal/store/drafting"
	"ebbe/internal/store/mailboxes"
)

// Mailbox is a line to the mailbox of an account, used by one goroutine at a time.
type Mailbox interface {
	Folders() ([]imap.Folder, error)
	LeftOut() int             // folders that were left out of these, as their names are none
	Make(name string) error   // among the account's own folders
	Path(name string) string  // what the server calls one of these, with “/” between what stands in what
	MakeAt(name string) error // one of that name there
	DropEmpty(name string) (gone bool, err error)
	At() string // the folder that is open
	Select(name string) (imap.Selected, error)
	UIDs() ([]uint32, error)
	Above(uid uint32) ([]uint32, error)
	Next(folder string) (uid uint32, err error) // of a folder that is not open
	Sizes(uids []uint32) (map[uint32]int64, error)
	Fetch(uids []uint32, largest, claimed int64, f func(imap.Fetched) error) error
	FetchHeads(uids []uint32, f func(imap.Fetched) error) error
	Flags(uids []uint32, f func(imap.Fetched) error) error
	Changed(since uint64, f func(imap.Fetched) error) error
	Find(messageID string) ([]uint32, error)
	Move(uids []uint32, to string) (moved map[uint32]uint32, err error)
	SetFlag(uids []uint32, star, on bool) error
	Remove(uids []uint32) error
	Lay(folder string, raw []byte, at time.Time, draft bool) error
	Await(ctx context.Context, d time.Duration, wake <-chan struct{}) (news, woken bool, err error)
	Close()
}

// Sync keeps the accounts of all boxes of a store in step.
type Sync struct {
	// Resting says that nothing is carried to a server yet, and LookedAt is told
	// of each account that has been followed.
	Resting  func() bool
	LookedAt func(ctx context.Context, account int64) error
	// Asked decides about a conversation of which a message was moved into a folder that
	// Ebbe keeps on the server; asked again with the same key it does so once.
	Asked func(ctx context.Context, a mailboxes.Account, folder mail.Role, conversation int64, key string) error
	// Draft is a draft as it lies on the server, with that Message-ID.
	Draft func(t store.Tx, a mailboxes.Account, d drafting.Draft, id string) ([]byte, error)

	store   *store.Store
	journal *journal.Journal
	intake  *intake.Intake
	open    func(ctx context.Context, a mailboxes.Account) (Mailbox, error)

	changed chan struct{} // accounts were added, changed or taken away
	mu      sync.Mutex
	passing map[int64]*sync.Mutex // one pass over an account at a time
	wakes   map[int64]wake        // of the lines that are kept, by account
	waits   backoff.Waits[int64]  // of accounts of which a part cannot be kept in step
}

// wake wakes the line that is kept to an account.
type wake struct {
	box int64
	c   chan struct{}
}

// New keeps accounts in step over lines that open opens; its errors are those of
// imap.Open.
func New(s *store.Store, j *journal.Journal, in *intake.Intake, open func(context.Context, mailboxes.Account) (Mailbox, error)) *Sync {
	j.Register(map[inbox.Kind]journal.Kind{
		inbox.FollowServer: {Verb: "done elsewhere", Step: true},
		inbox.PutBack:      {Verb: "put back"},
	})
	return &Sync{store: s, journal: j, intake: in, open: open, changed: make(chan struct{}, 1), passing: map[int64]*sync.Mutex{}, wakes: map[int64]wake{}, waits: backoff.Waits[int64]{First: retryFirst, Last: partLast}}
}

// Changed has the accounts looked at again: one was added, changed or taken away.
func (s *Sync) Changed() { nudge(s.changed) }

// Heard has the lines to the accounts of a box see whether there is something to
// be carried to their servers: something was decided or written in it.
func (s *Sync) Heard(box int64, e journal.Event) {
	if !slices.ContainsFunc(e.Topics, func(t string) bool {
		return t == journal.TopicMail || t == journal.TopicOutbox || t == journal.TopicAccounts
	}) {
		return
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, w := range s.wakes {
		if w.box == box {
			nudge(w.c)
		}
	}
}

func nudge(c chan struct{}) {
	select {
	case c <- struct{}{}:
	default:
	}
}

// lock waits until nobody passes over the account, and gives what ends that.
func (s *Sync) lock(account int64) func() {
	s.mu.Lock()
	m := s.passing[account]
	if m == nil {
		m = &sync.Mutex{}
		s.passing[account] = m
	}
	s.mu.Unlock()
	m.Lock()
	return m.Unlock
}

var standardNames = map[mail.Role]string{mail.RoleArchive: "Archive", mail.RoleBin: "Trash", mail.RoleJunk: "Junk", mail.RoleSent: "Sent", mail.RoleDrafts: "Drafts"}

var placeOf = map[mail.Role]inbox.Place{mail.RoleInbox: inbox.Inbox, mail.RoleBin: inbox.Bin, mail.RoleJunk: inbox.Junk}
