package mailsync

import (
	"context"
	"fmt"
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
)

var ctx = context.Background()

// house is two people with an account each, kept in step with a server each by a
// fake clock.
type house struct {
	*Sync
	t       *testing.T
	servers map[int64]*server
}

// running keeps them in step while f goes on.
func running(t *testing.T, f func(h *house)) {
	s, err := store.Open(t.TempDir(), store.Options{})
	require.NoError(t, err)
	t.Cleanup(s.Close)
	people := identity.New(s, func() when.Instant { return 0 }, true)
	require.NoError(t, people.SetUp(ctx, identity.Signup{Name: "Solvei", Address: "solvei@m.example", Zone: "UTC"}, nil, func(t store.Tx, who identity.Who, _ store.Person) error {
		other := store.Person{Name: "Jonas", Address: "jonas@m.example", Week: when.Ordinary("UTC")}
		if err := store.People(t).PutPerson(&other, 2, []store.OwnAddress{{Address: other.Address}}); err != nil {
			return err
		}
		for i, p := range []int64{who.Person, other.ID} {
			a := mailboxes.Account{BoxID: int64(i + 1), PersonID: p, Name: "Museum", Address: []string{"solvei@m.example", "jonas@m.example"}[i], Mailbox: mail.Server{Host: "imap.m.example"}, Carries: inbox.AllCarried}
			if err := mailboxes.Accounts(t).PutAccount(&a); err != nil {
				return err
			}
		}
		return nil
	}))
	synctest.Test(t, func(t *testing.T) {
		h := &house{t: t, servers: map[int64]*server{1: newServer(), 2: newServer()}}
		j := journal.New(s, &journal.SystemClock{})
		h.Sync = New(s, j, intake.New(s, j, func() {}), func(_ context.Context, a mailboxes.Account) (Mailbox, error) { return h.servers[a.ID].open() })
		h.Resting = func() bool { return false }
		j.Listen(h.Heard)
		run, stop := context.WithCancel(ctx)
		over := make(chan struct{})
		go func() { h.Run(run); close(over) }()
		later(time.Second)
		f(h)
		stop()
		<-over
	})
}

func later(d time.Duration) {
	time.Sleep(d)
	synctest.Wait()
}

// places gives where the conversations of a box are, by subject.
func (h *house) places(box int64) map[string]inbox.Place {
	out := map[string]inbox.Place{}
	require.NoError(h.t, h.store.Read(ctx, func(t store.Tx) error {
		rows, err := store.Conversations(t).ConversationRows(box, []int64{1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12})
		for _, r := range rows {
			out[r.Subject] = r.Place
		}
		return err
	}))
	return out
}

// places are where the decisions of these tests take a conversation.
var places = map[inbox.Kind]inbox.Place{inbox.ToBin: inbox.Bin, inbox.Archive: inbox.Archived, inbox.ToInbox: inbox.Inbox, inbox.ToJunk: inbox.Junk}

// decide puts a conversation of the first box somewhere.
func (h *house) decide(id int64, kind inbox.Kind) {
	who := identity.Who{Person: 1, Box: 1, Week: when.Ordinary("UTC")}
	var changes []inbox.Change
	require.NoError(h.t, h.store.Write(ctx, func(t store.Tx) error {
		state, err := store.Conversations(t).State(1, 1, []int64{id}, nil)
		if err != nil {
			return err
		}
		before := state.Conversations[id]
		after := before.In(places[kind], h.journal.Now())
		changes = []inbox.Change{{Before: &before, After: &after}}
		_, err = h.journal.Commit(t, who, store.Entry{Kind: kind, At: h.journal.Now()}, changes, nil)
		return err
	}))
	h.journal.Tell(1, "", changes)
}

func (h *house) trouble(account int64) string {
	var a mailboxes.Account
	require.NoError(h.t, h.store.Read(ctx, func(t store.Tx) (err error) { a, err = mailboxes.Accounts(t).Account(account, account); return err }))
	return a.Trouble
}

// New mail is in view at once when the server says so, and a decision is on the
// server within a second; neither is anything to the account of somebody else.
func TestInStepWithinASecond(t *testing.T) {
	running(t, func(h *house) {
		t := h.t
		_, before := h.servers[2].count()
		h.servers[1].put("INBOX", "a@x.example", "Crate")
		later(time.Millisecond)
		require.Equal(t, map[string]inbox.Place{"Crate": inbox.Inbox}, h.places(1))
		h.decide(1, inbox.Archive)
		later(time.Second)
		require.Equal(t, []string{"Crate"}, h.servers[1].in("Archive"))
		require.Empty(t, h.servers[1].in("INBOX"))
		_, after := h.servers[2].count()
		require.Equal(t, before, after, "the other account is not asked anything")
	})
}

// What concerns no server makes no pass: what is only told, and Ebbe's own echo.
func TestNothingIsAskedWithoutNeed(t *testing.T) {
	running(t, func(h *house) {
		t := h.t
		h.servers[1].put("INBOX", "a@x.example", "Crate")
		later(time.Minute)
		_, before := h.servers[1].count()
		for range 100 {
			h.journal.Announce(1, journal.Event{Topics: []string{journal.TopicMail, journal.TopicOutbox, journal.TopicAccounts, journal.TopicCards}})
			later(time.Second)
		}
		_, after := h.servers[1].count()
		require.Equal(t, before, after)
	})
}

// A folder that the server refuses is told by its name, and keeps neither the
// others nor what was decided; it is tried again with growing waits.
func TestABadFolderStopsNothingElse(t *testing.T) {
	running(t, func(h *house) {
		t := h.t
		s := h.servers[1]
		s.set(func() { s.refuses["Loans"] = "the disk of this folder is gone" })
		s.put("INBOX", "a@x.example", "Crate")
		later(time.Second)
		require.Equal(t, inbox.Inbox, h.places(1)["Crate"])
		require.Contains(t, h.trouble(1), "The folder “Loans” cannot be kept in step: the server says “the disk of this folder is gone”.")
		h.decide(1, inbox.ToBin)
		later(2 * time.Second)
		require.Equal(t, []string{"Crate"}, s.in("Trash"))
		opens, asked := s.count()
		later(time.Hour)
		same, more := s.count()
		require.Equal(t, opens, same, "the line is the same")
		require.Less(t, more-asked, 100*15, "each minute a pass at most, give or take")
		s.set(func() { delete(s.refuses, "Loans") })
		s.put("Loans", "b@x.example", "Lorry")
		later(2 * time.Minute)
		require.Equal(t, inbox.Archived, h.places(1)["Lorry"])
		require.Empty(t, h.trouble(1))
	})
}

// A decision that the server refuses does not keep the others from it.
func TestARefusedDecisionStopsNoOther(t *testing.T) {
	running(t, func(h *house) {
		t := h.t
		s := h.servers[1]
		for i, subject := range []string{"Crate", "Lorry"} {
			s.put([]string{"INBOX", "Loans"}[i], subject+"@x.example", subject)
		}
		later(10 * time.Minute)
		require.Len(t, h.places(1), 2)
		s.set(func() { s.refuses["Loans"] = "not now" })
		h.decide(2, inbox.ToBin)
		h.decide(1, inbox.ToBin)
		later(2 * time.Second)
		require.Equal(t, []string{"Crate"}, s.in("Trash"))
		// Whether both were carried in one pass or in two, the one that was not is told.
		require.NoError(t, h.store.Read(ctx, func(tx store.Tx) error {
			n, problem, err := mailboxes.Errands(tx).NotCarriedOut(1)
			require.Equal(t, 1, n)
			require.Contains(t, problem, "not now")
			return err
		}))
		s.set(func() { delete(s.refuses, "Loans") })
		later(time.Hour)
		require.ElementsMatch(t, []string{"Crate", "Lorry"}, s.in("Trash"))
	})
}

// A server that does not answer is tried with growing waits, is told after the
// second time, and is found again; a line that is cut is opened anew at once.
func TestALineThatIsCut(t *testing.T) {
	running(t, func(h *house) {
		t := h.t
		s := h.servers[1]
		opens, _ := s.count()
		later(2 * time.Minute)
		s.cutAll()
		later(5 * time.Second)
		again, _ := s.count()
		require.Equal(t, opens+1, again)
		require.Empty(t, h.trouble(1), "cut once is nothing to tell")
		s.set(func() { s.down = true })
		later(2 * time.Minute)
		s.cutAll()
		later(time.Hour)
		tried, _ := s.count()
		require.Less(t, tried-again, 25)
		require.Equal(t, "The line to the server was cut. Ebbe connects anew by itself.", h.trouble(1))
		s.put("INBOX", "a@x.example", "Crate")
		s.set(func() { s.down = false })
		later(13 * time.Minute)
		require.Equal(t, inbox.Inbox, h.places(1)["Crate"])
		require.Empty(t, h.trouble(1))
		require.Empty(t, h.trouble(2))
	})
}

// An account that is paused is left alone, and taken up again.
func TestAPausedAccount(t *testing.T) {
	running(t, func(h *house) {
		t := h.t
		paused := func(on bool) {
			require.NoError(t, h.store.Write(ctx, func(t store.Tx) error {
				a, err := mailboxes.Accounts(t).Account(1, 1)
				if err != nil {
					return err
				}
				a.Paused = on
				return mailboxes.Accounts(t).PutAccount(&a)
			}))
			h.Changed()
			later(time.Second)
		}
		paused(true)
		h.servers[1].put("INBOX", "a@x.example", "Crate")
		later(time.Hour)
		require.Empty(t, h.places(1))
		require.NoError(t, h.PassNow(ctx))
		require.Empty(t, h.places(1))
		paused(false)
		require.Equal(t, inbox.Inbox, h.places(1)["Crate"])
	})
}

// What one account cannot be told does not keep the decisions about as many
// conversations from another.
func TestAnAccountThatIsAwayStarvesNoOther(t *testing.T) {
	running(t, func(h *house) {
		t := h.t
		require.NoError(t, h.store.Write(ctx, func(t store.Tx) error {
			return mailboxes.Accounts(t).PutAccount(&mailboxes.Account{BoxID: 1, PersonID: 1, Name: "Choir", Address: "solvei@choir.example", Mailbox: mail.Server{Host: "imap.choir.example"}, Carries: inbox.AllCarried})
		}))
		away := newServer()
		h.servers[3] = away
		const many = errandsOnce + 20
		for i := range many {
			id := fmt.Sprintf("%d@x.example", i)
			away.put("INBOX", id, "Matter "+id)
			h.servers[1].put("INBOX", id, "Matter "+id)
		}
		h.Changed()
		later(10 * time.Minute)
		require.Len(t, away.in("INBOX"), many)
		away.set(func() { away.down = true })
		away.cutAll()
		later(time.Second)
		for i := range many {
			h.decide(int64(i+1), inbox.Archive)
		}
		later(time.Minute)
		require.Empty(t, h.servers[1].in("INBOX"))
	})
}

// While a long folder or a long inbox is brought in, what comes into the inbox is
// in view within two seconds.
func TestNewMailDuringALongFolder(t *testing.T) {
	for _, long := range []string{"Archive", "INBOX"} {
		t.Run(long, func(t *testing.T) {
			running(t, func(h *house) {
				t := h.t
				s := h.servers[1]
				s.set(func() {
					s.slow = time.Millisecond
					for i := range 6000 { // six seconds of handing out
						s.add(long, fmt.Sprintf("From: mirela@x.example\r\nSubject: Old %d\r\nMessage-ID: <old%d@x.example>\r\n\r\nold\r\n", i, i), true, false)
					}
				})
				h.Changed()
				h.servers[1].cutAll() // begins anew
				later(4 * time.Second)
				s.put("INBOX", "new@x.example", "Something new")
				later(2 * time.Second)
				require.NoError(t, h.store.Read(ctx, func(tx store.Tx) error {
					m, err := store.Messages(tx).ByMessageID(1, "new@x.example")
					require.NoError(t, err, "it is not here yet")
					c, err := store.Conversations(tx).ConversationRows(1, []int64{m.ConversationID})
					require.Equal(t, inbox.Inbox, c[m.ConversationID].Place)
					return err
				}))
				later(time.Minute)
				var n int64
				require.NoError(t, h.store.Read(ctx, func(tx store.Tx) (err error) {
					f, err := mailboxes.Folders(tx).FolderNamed(1, long)
					require.NoError(t, err)
					n, err = mailboxes.Folders(tx).CountCopies(f.ID)
					return err
				}))
				require.EqualValues(t, len(s.folders[long].letters), n, "all of it is here at the end")
			})
		})
	}
}

// A server that says with the list of folders how they stand is asked for no
// more; where it tells of news and the list does not show it, the folder is opened
// all the same.
func TestHowFoldersStandIsAskedOnce(t *testing.T) {
	running(t, func(h *house) {
		t := h.t
		s := h.servers[1]
		s.set(func() { s.states = true })
		s.put("INBOX", "a@x.example", "Crate")
		s.put("Loans", "b@x.example", "Papers")
		later(10 * time.Second)
		_, before := s.count()
		later(lookEvery + time.Second)
		_, after := s.count()
		require.Equal(t, 1, after-before, "one question, and nothing was new")
		s.set(func() { // flags change elsewhere, in a folder that is not open
			l := s.folders["Loans"].letters[0]
			l.seen, l.state = true, s.moves(s.folders["Loans"])
		})
		_, before = s.count()
		later(lookEvery + time.Second)
		_, after = s.count()
		require.Equal(t, 4, after-before, "the list, the folder, what has changed in it, and the inbox again")
		var copies []mailboxes.Copy
		require.NoError(t, h.store.Read(ctx, func(tx store.Tx) (err error) {
			f, err := mailboxes.Folders(tx).FolderNamed(1, "Loans")
			require.NoError(t, err)
			copies, err = mailboxes.Folders(tx).CopiesAt(f.ID, []int64{1})
			return err
		}))
		require.True(t, copies[0].Seen)
		s.set(func() { s.stale = s.folders["INBOX"] })
		s.set(func() {
			s.add("INBOX", "From: x@x.example\r\nSubject: Late\r\nMessage-ID: <late@x.example>\r\n\r\nlate\r\n", false, false)
		})
		for l := range s.lines {
			nudge(l.news)
		}
		later(time.Second)
		require.Equal(t, inbox.Inbox, h.places(1)["Late"])
	})
}
