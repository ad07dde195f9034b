package outbox

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/post/mime"
	"ebbe/internal/post/office"
	"ebbe/internal/post/smtp"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/drafting"
	"ebbe/internal/store/mailboxes"
	"ebbe/internal/store/sending"
	"ebbe/internal/store/words"
)

// servers is a Submitter with a server for each account, which does what it is
// told to.
type servers struct {
	mu    sync.Mutex                                                                                         // of does and taken, and of what is filed
	does  map[string]func(ctx context.Context, to []string, final func([]string) error) (smtp.Handed, error) // by the account's address
	opens func(ctx context.Context, a mailboxes.Account) error
	sent  map[string]bool // Message-IDs that lie in the sent mail
	taken []string        // addresses, in order, with the time
}

func (s *servers) Submit(ctx context.Context, a mailboxes.Account) (Line, error) {
	if s.opens != nil {
		if err := s.opens(ctx, a); err != nil {
			return nil, err
		}
	}
	return &line{s, ctx, a}, nil
}

func (s *servers) HasSent(_ context.Context, _ mailboxes.Account, id string) bool { return s.sent[id] }

type line struct {
	s   *servers
	ctx context.Context
	a   mailboxes.Account
}

func (*line) Close() {}

func (l *line) Hand(_ string, to []string, _ []byte, final func([]string) error) (smtp.Handed, error) {
	l.s.mu.Lock()
	f := l.s.does[l.a.Address]
	l.s.mu.Unlock()
	if f != nil {
		return f(l.ctx, to, final)
	}
	if err := final(to); err != nil {
		return smtp.Handed{}, err
	}
	l.s.mu.Lock()
	defer l.s.mu.Unlock()
	l.s.taken = append(l.s.taken, to...)
	return smtp.Handed{Taken: to}, nil
}

func (l *servers) got() []string {
	l.mu.Lock()
	defer l.mu.Unlock()
	return slices.Clone(l.taken)
}

// hall is an outbox with two accounts of one person, and a file that is told what
// is to be filed.
type hall struct {
	*Outbox
	*servers
	t      *testing.T
	dir    string
	filed  []int64
	broken func(o sending.Outgoing) error // what filing it says
	rests  atomic.Bool
	who    identity.Who
	events <-chan journal.Event
}

var ctx = context.Background()

func newHall(t *testing.T) *hall {
	dir := t.TempDir()
	s, err := store.Open(dir, store.Options{})
	require.NoError(t, err)
	t.Cleanup(s.Close)
	h := &hall{t: t, dir: dir, servers: &servers{does: map[string]func(context.Context, []string, func([]string) error) (smtp.Handed, error){}, sent: map[string]bool{}}}
	h.begin(s)
	people := identity.New(s, h.journal.Now, true)
	require.NoError(t, people.SetUp(ctx, identity.Signup{Name: "Solvei", Address: "solvei@m.example", Zone: "Europe/Oslo"}, nil, func(t store.Tx, who identity.Who, _ store.Person) error {
		h.who = who
		for _, a := range []string{"solvei@m.example", "solvei@choir.example"} {
			if err := mailboxes.Accounts(t).PutAccount(&mailboxes.Account{BoxID: who.Box, PersonID: who.Person, Name: a, Address: a, Sending: mail.Server{Host: "smtp." + a[7:]}}); err != nil {
				return err
			}
		}
		return nil
	}))
	return h
}

// begin makes the outbox over a store, by the clock of whoever calls it.
func (h *hall) begin(s *store.Store) {
	h.Outbox = New(s, journal.New(s, &journal.SystemClock{}), h.servers, func(ctx context.Context, o sending.Outgoing) error {
		h.servers.mu.Lock()
		defer h.servers.mu.Unlock()
		if h.broken != nil {
			if err := h.broken(o); err != nil {
				return err
			}
		}
		h.filed = append(h.filed, o.ID)
		return s.Write(ctx, func(t store.Tx) error { return sending.Outbox(t).FileOutgoing(o.ID, 0, 0) })
	}, h.rests.Load)
}

// send puts a message into the outbox that goes at an instant.
func (h *hall) send(account int64, to string, at when.Instant, more ...func(*sending.Outgoing)) (o sending.Outgoing) {
	h.t.Helper()
	addresses := strings.Fields(to)
	o = sending.Outgoing{BoxID: 1, Once: "message/" + to, Address: addresses[0], At: at, Next: at, Subject: "To " + to, AccountID: account, State: writing.Waiting,
		Original: []byte("Message-ID: <" + addresses[0] + ">\r\nSubject: To " + to + "\r\n\r\nHello.\r\n")}
	for _, a := range addresses {
		o.To = append(o.To, writing.Recipient{Address: a, State: writing.Waiting})
	}
	for _, change := range more {
		change(&o)
	}
	require.NoError(h.t, h.store.Write(ctx, func(t store.Tx) error { _, err := sending.Outbox(t).Send(&o); return err }))
	h.Stir()
	return o
}

func (h *hall) state(o sending.Outgoing) (now sending.Outgoing) {
	h.t.Helper()
	require.NoError(h.t, h.store.Read(ctx, func(t store.Tx) (err error) {
		if now, err = sending.Outbox(t).Outgoing(1, o.ID); err != nil {
			return err
		}
		if now.Original, err = sending.Outbox(t).BytesOfOutgoing(o.ID); errors.Is(err, store.ErrNotFound) { // it stands in its conversation
			err = nil
		}
		return err
	}))
	return now
}

// set changes what the servers and filing do.
func (h *hall) set(f func()) {
	h.servers.mu.Lock()
	defer h.servers.mu.Unlock()
	f()
}

// running runs the outbox by a fake clock while f goes on.
func running(t *testing.T, f func(h *hall)) {
	h := newHall(t)
	synctest.Test(t, func(t *testing.T) {
		h.t = t
		h.begin(h.store)
		run, stop := context.WithCancel(ctx)
		h.events = h.journal.Subscribe(run, 1, 1)
		over := make(chan struct{})
		go func() { h.Run(run); close(over) }()
		synctest.Wait() // it has looked once, and waits
		f(h)
		stop()
		<-over
	})
}

func (h *hall) notices() (out []string) {
	for {
		select {
		case e := <-h.events:
			if e.Text != "" {
				out = append(out, e.Text)
			}
		default:
			return out
		}
	}
}

func TestMessagesGoAtTheirTimeAndInOrder(t *testing.T) {
	running(t, func(h *hall) {
		t := h.t
		now := h.journal.Now()
		late := h.send(1, "late@x.example", now+when.Instant(90_000))
		h.send(1, "b@x.example", now)
		h.send(1, "a@x.example", now)
		time.Sleep(time.Minute)
		synctest.Wait()
		require.Equal(t, []string{"b@x.example", "a@x.example"}, h.got())
		require.Equal(t, writing.Waiting, h.state(late).State)
		time.Sleep(31 * time.Second)
		synctest.Wait()
		require.Equal(t, writing.Sent, h.state(late).State)
		require.Len(t, h.filed, 3)
	})
}

// A server that is silent for as long as it is let holds up its own account, and
// nobody else's mail.
func TestASilentServerHoldsUpNobodyElse(t *testing.T) {
	running(t, func(h *hall) {
		t := h.t
		h.set(func() {
			h.does["solvei@m.example"] = func(ctx context.Context, _ []string, _ func([]string) error) (smtp.Handed, error) {
				select {
				case <-time.After(45 * time.Second):
				case <-ctx.Done():
				}
				return smtp.Handed{}, errors.New("it says nothing")
			}
		})
		silent := h.send(1, "a@x.example", h.journal.Now())
		for i := range 5 {
			h.send(2, fmt.Sprintf("b%d@x.example", i), h.journal.Now())
			time.Sleep(time.Second)
			synctest.Wait()
			require.Len(t, h.got(), i+1)
		}
		time.Sleep(time.Minute)
		synctest.Wait()
		o := h.state(silent)
		require.Equal(t, writing.Waiting, o.State)
		require.Contains(t, o.Problem, "smtp.m.example: it says nothing")
		require.Greater(t, o.Next, h.journal.Now()-60_000)
	})
}

// What cannot be filed is told once, tried again with growing waits, and does not
// keep the others; it neither goes twice nor makes the loop spin.
func TestWhatCannotBeFiledDoesNotStopTheRest(t *testing.T) {
	running(t, func(h *hall) {
		t := h.t
		tries := 0
		bad := h.send(1, "bad@x.example", h.journal.Now())
		h.set(func() {
			h.broken = func(o sending.Outgoing) error {
				if o.ID == bad.ID {
					tries++
					return errors.New("the page is damaged")
				}
				return nil
			}
		})
		good := h.send(1, "good@x.example", h.journal.Now())
		other := h.send(2, "other@x.example", h.journal.Now())
		time.Sleep(time.Hour)
		synctest.Wait()
		require.Len(t, h.got(), 3)
		require.Equal(t, writing.Sent, h.state(bad).State)
		require.False(t, h.state(bad).Filed)
		require.True(t, h.state(good).Filed)
		require.True(t, h.state(other).Filed)
		require.Less(t, tries, 20)
		require.Greater(t, tries, 5)
		require.Equal(t, []string{"“To bad@x.example” was sent and could not be put into its conversation for now: something is wrong inside Ebbe. It is kept, and tried again by itself."}, h.notices())
		h.set(func() { h.broken = nil })
		time.Sleep(15 * time.Minute)
		synctest.Wait()
		require.True(t, h.state(bad).Filed)
		require.Len(t, h.got(), 3, "nothing goes twice")
	})
}

// While Ebbe rests after a restore nothing goes.
// What is answered is filed before its answer comes in: while it is being handed
// over, after filing it has failed, and when nobody knew whether it has gone.
func TestWhatIsAnsweredIsFiledAhead(t *testing.T) {
	running(t, func(h *hall) {
		now := h.journal.Now()
		heard, last := make(chan struct{}), make(chan struct{})
		h.set(func() {
			h.does["solvei@m.example"] = func(_ context.Context, to []string, final func([]string) error) (smtp.Handed, error) {
				err := final(to)
				close(heard)
				<-last
				return smtp.Handed{Taken: to}, err
			}
		})
		going := h.send(1, "jonas@x.example", now)
		<-heard
		require.Equal(t, writing.Sending, h.state(going).State)
		require.NoError(t, h.Ahead(ctx, 1, []string{"else@x.example"}), "another is not waited for")
		answered := make(chan error)
		go func() { answered <- h.Ahead(ctx, 1, []string{"else@x.example", "jonas@x.example"}) }()
		synctest.Wait()
		require.Empty(t, h.filed)
		close(last)
		require.NoError(t, <-answered)
		require.Equal(t, []int64{going.ID}, h.filed)

		h.set(func() { h.broken = func(sending.Outgoing) error { return errors.New("the disk is full") } })
		unfiled := h.send(2, "mirela@x.example", now)
		synctest.Wait()
		require.ErrorContains(t, h.Ahead(ctx, 1, []string{"mirela@x.example"}), "the disk is full")
		h.set(func() { h.broken = nil })
		require.NoError(t, h.Ahead(ctx, 1, []string{"mirela@x.example"}))
		require.Equal(t, []int64{going.ID, unfiled.ID}, h.filed)

		heard, last = make(chan struct{}), make(chan struct{})
		silent := h.send(1, "halvard@x.example", now)
		<-heard
		begun := time.Now()
		require.ErrorContains(t, h.Ahead(ctx, 1, []string{"halvard@x.example"}), "still being handed over")
		require.Equal(t, aheadFor, time.Since(begun), "mail that comes in waits no longer")
		close(last)
		synctest.Wait()
		require.Equal(t, writing.Sent, h.state(silent).State)
	})
}

func TestNothingGoesWhileItRests(t *testing.T) {
	running(t, func(h *hall) {
		t := h.t
		h.rests.Store(true)
		h.send(1, "a@x.example", h.journal.Now())
		time.Sleep(time.Minute)
		synctest.Wait()
		require.Empty(t, h.got())
		h.rests.Store(false)
		time.Sleep(time.Minute)
		synctest.Wait()
		require.Len(t, h.got(), 1)
	})
}

// What servers say of recipients, and what they leave open.
func TestWhatBecomesOfAMessage(t *testing.T) {
	h := newHall(t)
	says := func(got smtp.Handed, err error, hears bool) {
		h.does["solvei@m.example"] = func(_ context.Context, to []string, final func([]string) error) (smtp.Handed, error) {
			if hears {
				if err := final(to); err != nil {
					return smtp.Handed{}, err
				}
			}
			return got, err
		}
	}
	dispatch := func() { t.Helper(); require.NoError(t, h.Dispatch(ctx)) }

	says(smtp.Handed{Taken: []string{"a@x.example"}, Refused: []smtp.Refusal{{Address: "b@x.example", Text: "no such user"}}}, nil, true)
	partly := h.send(1, "a@x.example b@x.example", 0)
	dispatch()
	require.Equal(t, writing.Sent, h.state(partly).State)
	require.Equal(t, writing.Recipient{Address: "b@x.example", State: writing.Refused, Text: "no such user"}, h.state(partly).To[1])
	says(smtp.Handed{Refused: []smtp.Refusal{{Address: "b@x.example", Text: "no such user"}}}, nil, false)
	some := h.send(1, "b@x.example", 0)
	dispatch()
	require.Equal(t, writing.Refused, h.state(some).State)
	require.NoError(t, h.Settle(ctx, h.who, some.ID, true))
	says(smtp.Handed{Taken: []string{"b@x.example"}}, nil, true)
	dispatch()
	require.Equal(t, writing.Sent, h.state(some).State)
	var user *problem.Error
	require.ErrorAs(t, h.Settle(ctx, h.who, some.ID, true), &user, "it is settled")
	require.Equal(t, "not-open", user.Type)

	says(smtp.Handed{}, smtp.ErrUncertain, true)
	hangs := h.send(1, "c@x.example", 0)
	lies := h.send(1, "d@x.example", 0)
	h.sent["d@x.example"] = true
	dispatch()
	require.Equal(t, writing.Hanging, h.state(hangs).State)
	require.Equal(t, writing.Sent, h.state(lies).State, "its server has it among the sent mail")
	require.NoError(t, h.Settle(ctx, h.who, hangs.ID, false), "it had gone")
	require.Equal(t, writing.Sent, h.state(hangs).State)

	h.opens = func(context.Context, mailboxes.Account) error { return errors.New("The name is unknown.") }
	away := h.send(1, "e@x.example", 0)
	dispatch()
	require.Equal(t, "The name is unknown.", h.state(away).Problem)
	h.opens = nil

	none := h.send(99, "f@x.example", 0)
	dispatch()
	require.Contains(t, h.state(none).Problem, "has been deleted")

	// It is withdrawn at the last moment.
	h.does["solvei@m.example"] = func(_ context.Context, to []string, final func([]string) error) (smtp.Handed, error) {
		rows := h.state(sending.Outgoing{ID: none.ID + 1})
		require.NoError(t, h.store.Write(ctx, func(t store.Tx) error { return sending.Outbox(t).Withdraw(rows.ID, true, 0) }))
		err := final(to)
		require.ErrorIs(t, err, errWithdrawn)
		return smtp.Handed{}, err
	}
	back := h.send(1, "g@x.example", 0)
	dispatch()
	require.Equal(t, writing.Withdrawn, h.state(back).State)

	// The program ended while one was handed over.
	cut := h.send(1, "h@x.example", 0)
	cut.State = writing.Sending
	require.NoError(t, h.store.Write(ctx, func(t store.Tx) error { return sending.Outbox(t).PutOutgoing(&cut) }))
	require.NoError(t, h.store.Write(ctx, h.Resume))
	require.Equal(t, writing.Hanging, h.state(cut).State)
	require.NoError(t, h.Settle(ctx, h.who, cut.ID, true))
	says(smtp.Handed{Taken: []string{"h@x.example"}}, nil, true)
	dispatch()
	require.Equal(t, writing.Sent, h.state(cut).State)
}

// A message that is repeated puts its next into the outbox once it has gone, and
// ends when the user says so.
func TestARepeatedMessage(t *testing.T) {
	h := newHall(t)
	now := h.journal.Now()
	o := h.send(1, "a@x.example", now, func(o *sending.Outgoing) { o.Rule, o.Begins = "FREQ=DAILY", when.Moment{At: now} })
	require.NoError(t, h.Dispatch(ctx))
	require.Equal(t, writing.Sent, h.state(o).State)
	next := h.state(sending.Outgoing{ID: o.ID + 1})
	require.Equal(t, writing.Waiting, next.State)
	require.Greater(t, next.Next, now)
	require.NotEqual(t, mime.Read(o.Original).MessageID, mime.Read(next.Original).MessageID)
	require.NoError(t, h.Settle(ctx, h.who, next.ID, false))
	require.Equal(t, writing.Withdrawn, h.state(next).State)
}

// What a step of the journal has put into the outbox is withdrawn with it, as
// long as it has not gone, and sent after all when the step is done again.
func TestTakingBackWithdraws(t *testing.T) {
	h := newHall(t)
	solvei := mailboxes.Account{ID: 1, Address: "solvei@m.example", FullName: "Solvei"}
	at := h.journal.Now() + SpanOf(inbox.Habits{})
	o, err := Compose(h.who, solvei, mime.Letter{To: []mail.Address{{Name: "Ann", Address: "ann@x.example"}}, Subject: "Plan", Text: "Here.\n"}, at)
	require.NoError(t, err)
	require.Contains(t, mime.Read(o.Original).MessageID, "@m.example")
	d := drafting.Draft{PersonID: h.who.Person, BoxID: h.who.Box, AccountID: 2, Subject: "Plan"}
	e := store.Entry{BoxID: 1, PersonID: h.who.Person, Kind: "send", Step: true, At: h.journal.Now()}
	require.NoError(t, h.store.Write(ctx, func(t store.Tx) (err error) {
		if err = store.Journal(t).Record(&e); err != nil {
			return err
		}
		if err = drafting.Drafts(t).PutDraft(&d); err != nil {
			return err
		}
		o.EntryID, o.DraftID = e.ID, d.ID
		if o, _, err = Queue(t, o, "solvei@choir.example", at); err != nil {
			return err
		}
		return drafting.Drafts(t).SetDraftSent(d.ID, o.ID)
	}))
	require.EqualValues(t, 2, o.AccountID, "the account of that address")
	shows := func() (open []drafting.Draft) {
		require.NoError(t, h.store.Read(ctx, func(t store.Tx) (err error) {
			open, err = drafting.Drafts(t).DraftsOf(h.who.Box, h.who.Person, 9)
			return err
		}))
		return open
	}
	require.Empty(t, shows())
	step := func(back bool) error {
		return h.store.Write(ctx, func(t store.Tx) error {
			return h.Unsend(t, &journal.Step{Who: h.who, Root: e, Back: back})
		})
	}
	require.NoError(t, step(true))
	require.Equal(t, writing.Withdrawn, h.state(o).State)
	require.Len(t, shows(), 1, "what was written can be written on")
	require.NoError(t, step(false))
	require.Empty(t, shows())
	require.Equal(t, writing.Waiting, h.state(o).State)
	require.NoError(t, h.store.Write(ctx, func(t store.Tx) error { return sending.Outbox(t).Withdraw(o.ID, false, 0) }))
	require.NoError(t, h.Dispatch(ctx))
	require.Equal(t, writing.Sent, h.state(o).State)
	require.ErrorContains(t, step(true), "has gone out already")
}

// A message that did not reach somebody brings its conversation back, and what
// happens as the program is to end waits for the next start.
func TestTheConversationComesBackAndTheEndOfTheProgram(t *testing.T) {
	h := newHall(t)
	o := h.send(1, "a@x.example", 0)
	h.does["solvei@m.example"] = func(context.Context, []string, func([]string) error) (smtp.Handed, error) {
		return smtp.Handed{Refused: []smtp.Refusal{{Address: "a@x.example", Text: "full", Later: true}}}, nil
	}
	require.NoError(t, h.Dispatch(ctx))
	require.Equal(t, writing.Waiting, h.state(o).State)
	require.Equal(t, 1, h.state(o).Attempts)

	conversation := h.archived("Keys")
	h.does["solvei@m.example"] = func(context.Context, []string, func([]string) error) (smtp.Handed, error) {
		return smtp.Handed{Refused: []smtp.Refusal{{Address: "c@x.example", Text: "no such person"}}}, nil
	}
	h.send(1, "c@x.example", 0, func(o *sending.Outgoing) { o.ConversationID = conversation })
	require.NoError(t, h.Dispatch(ctx))
	require.Equal(t, inbox.Inbox, h.place(conversation), "it came back")
	require.Contains(t, h.last().Text, "no such person")
	require.Equal(t, 1, h.last().Delta)
	h.does = map[string]func(context.Context, []string, func([]string) error) (smtp.Handed, error){}

	stopping, stop := context.WithCancel(ctx)
	h.opens = func(context.Context, mailboxes.Account) error { stop(); return nil }
	p := h.send(2, "b@x.example", 0)
	require.NoError(t, h.Dispatch(stopping))
	require.Equal(t, writing.Waiting, h.state(p).State)
	require.Zero(t, h.state(p).Attempts, "nothing was tried")
}

// A message that was being handed over when the program ended comes back into
// the inbox with what only the user can know.
func TestWhatWasBeingHandedOver(t *testing.T) {
	h := newHall(t)
	conversation := h.archived("Keys")
	o := h.send(1, "a@x.example", 0, func(o *sending.Outgoing) { o.ConversationID, o.State = conversation, writing.Sending })
	require.NoError(t, h.store.Write(ctx, h.Resume))
	require.Equal(t, writing.Hanging, h.state(o).State)
	require.Equal(t, inbox.Inbox, h.place(conversation))
	require.Contains(t, h.last().Text, "may have gone or not")
	require.NoError(t, h.Dispatch(ctx))
	require.Empty(t, h.got(), "it is not sent a second time by itself")
}

// archived is a new conversation of one message that lies in the archive.
func (h *hall) archived(subject string) (conversation int64) {
	h.t.Helper()
	require.NoError(h.t, h.store.Write(ctx, func(t store.Tx) error {
		c, m, err := store.Conversations(t).NextIDs()
		conversation = c
		if err != nil {
			return err
		}
		return store.Messages(t).AddBatch(h.who.Box, h.who.Person, store.Batch{
			Messages:      []*store.Message{{ID: m, BoxID: h.who.Box, Hash: []byte(subject), ConversationID: c, Subject: subject}},
			Originals:     [][]byte{[]byte("Subject: " + subject + "\r\n\r\n")},
			Words:         []words.Row{words.Entry{Subject: subject}.Row()},
			Conversations: []*store.Conversation{{ID: c, BoxID: h.who.Box, Place: inbox.Archived, Subject: subject, Messages: 1}},
			Marks:         []store.Mark{{PersonID: h.who.Person, ConversationID: c}},
		})
	}))
	return conversation
}

func (h *hall) place(conversation int64) (place inbox.Place) {
	h.t.Helper()
	require.NoError(h.t, h.store.Read(ctx, func(t store.Tx) error {
		rows, err := store.Conversations(t).ConversationRows(h.who.Box, []int64{conversation})
		if err == nil {
			place = rows[conversation].Place
		}
		return err
	}))
	return place
}

// last is the newest line of the journal.
func (h *hall) last() (e store.Entry) {
	h.t.Helper()
	require.NoError(h.t, h.store.Read(ctx, func(t store.Tx) error {
		lines, err := store.Journal(t).History(h.who.Box, store.Past{}, 1)
		if err == nil {
			e = lines[0]
		}
		return err
	}))
	return e
}

// Over the network: a message goes, and is found among the sent mail; a wrong
// secret is a sentence.
func TestOverTheNetwork(t *testing.T) {
	at, err := office.Open("", time.Now)
	require.NoError(t, err)
	at.AddAccount("solvei@m.example", "low tide")
	require.NoError(t, at.Start())
	t.Cleanup(func() { _ = at.Close() })
	secret := "low tide"
	s := SMTP{Network: post.Network{Dial: at.Dial, Roots: at.Roots(), Patience: 5 * time.Second}, Login: func(mailboxes.Account) (post.Login, error) {
		if secret == "" {
			return post.Login{}, errors.New("the password cannot be read")
		}
		return post.Login{Name: "solvei@m.example", Secret: secret}, nil
	}}
	a := mailboxes.Account{Mailbox: mail.Server{Host: "imap.skagvikmuseum.example", Port: 993, Security: mail.TLS}, Sending: mail.Server{Host: "smtp.skagvikmuseum.example", Port: 465, Security: mail.TLS}}
	l, err := s.Submit(ctx, a)
	require.NoError(t, err)
	got, err := l.Hand("solvei@m.example", []string{"ann@x.example"}, []byte("Subject: Plan\r\n\r\nHere.\r\n"), func([]string) error { return nil })
	l.Close()
	require.NoError(t, err)
	require.Equal(t, []string{"ann@x.example"}, got.Taken)
	require.False(t, s.HasSent(ctx, a, "plan@m.example"))
	at.Put("solvei@m.example", office.Sent, time.Now(), []byte("Message-ID: <plan@m.example>\r\n\r\nHere.\r\n"))
	require.True(t, s.HasSent(ctx, a, "plan@m.example"))
	secret = "wrong"
	_, err = s.Submit(ctx, a)
	require.Error(t, err)
	require.False(t, s.HasSent(ctx, a, "plan@m.example"))
	secret = ""
	_, err = s.Submit(ctx, a)
	require.EqualError(t, err, "The password cannot be read.")
}

// A message whose row cannot be written does not go, is told once, and keeps
// neither the account's other messages nor anybody else's.
func TestOneRowThatCannotBeWritten(t *testing.T) {
	h := newHall(t)
	bad := h.send(1, "bad@x.example", 0)
	db, err := sql.Open("sqlite3", filepath.Join(h.dir, "ebbe.db"))
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec(fmt.Sprintf("CREATE TRIGGER damaged BEFORE UPDATE ON outgoings WHEN NEW.id = %d BEGIN SELECT RAISE(ABORT, 'damaged'); END", bad.ID))
	require.NoError(t, err)
	h.events = h.journal.Subscribe(t.Context(), 1, 1)
	good := h.send(1, "good@x.example", 0)
	require.NoError(t, h.Dispatch(ctx))
	require.NoError(t, h.Dispatch(ctx))
	require.Equal(t, []string{"good@x.example"}, h.got())
	require.Equal(t, writing.Sent, h.state(good).State)
	require.Equal(t, writing.Waiting, h.state(bad).State)
	require.Equal(t, []string{"“To bad@x.example” could not be handed over for now: something is wrong inside Ebbe. It is kept, and tried again by itself."}, h.notices())
}
