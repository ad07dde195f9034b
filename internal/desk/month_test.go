package desk

import (
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/emersion/go-imap/v2"
	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/queue"
	"ebbe/internal/mailsync"
	"ebbe/internal/post/mime"
	postoffice "ebbe/internal/post/office"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
	"ebbe/internal/store/sending"
)

// month is a month of mail with a post office that misbehaves all the time.
type month struct {
	*posted
	t    *testing.T
	r    *rand.Rand
	n    int
	put  map[string]string // subjects of what came in, by Message-ID
	gone map[string]bool   // of those, which somebody deleted on the server
	sent map[int64]string  // what was sent and not taken back: its words, by ID in the outbox
}

// step is one thing that happens in that month.
func (m *month) step() {
	folder := func() (string, *postoffice.Stored) {
		name := []string{postoffice.Inbox, postoffice.Inbox, postoffice.Archive, postoffice.Trash, postoffice.Junk}[m.r.IntN(5)]
		all := m.post.Folder(museum, name)
		if len(all) == 0 {
			return "", nil
		}
		return name, &all[m.r.IntN(len(all))]
	}
	slips, err := m.Queue.Arranged(ctx, m.who, queue.Arrangement{})
	require.NoError(m.t, err)
	var slip *queue.Slip
	if len(slips.Slips) > 0 {
		slip = &slips.Slips[m.r.IntN(len(slips.Slips))]
	}
	switch k := m.r.IntN(20); {
	case k < 6: // somebody writes, or writes again
		m.n++
		id, subject := fmt.Sprintf("in%d@x.example", m.n), fmt.Sprintf("Matter %d", m.n)
		var refs []string
		if earlier := m.r.IntN(m.n) + 1; m.r.IntN(3) == 0 && m.put[fmt.Sprintf("in%d@x.example", earlier)] != "" {
			refs, subject = []string{fmt.Sprintf("in%d@x.example", earlier)}, m.put[fmt.Sprintf("in%d@x.example", earlier)]
		}
		m.put[id] = subject
		m.posted.put(postoffice.Inbox, id, "Jonas <jonas@x.example>", subject, refs...)
	case k < 11 && slip != nil: // the reader decides
		kind := []inbox.Kind{inbox.Archive, inbox.Archive, inbox.ToBin, inbox.ToJunk, inbox.Star, inbox.MarkRead}[m.r.IntN(6)]
		_, err := m.Decisions.Decide(ctx, m.who, "", decide.Decision{Kind: kind, Conversations: []int64{slip.ID}})
		require.NoError(m.t, err)
	case k < 14: // another program does
		if name, l := folder(); l != nil {
			switch into := []string{postoffice.Archive, postoffice.Trash, postoffice.Inbox, ""}[m.r.IntN(4)]; {
			case into == "":
				m.gone[mime.Read(l.Raw).MessageID] = true
				m.post.Move(museum, name, l.UID, "")
			case into != name:
				m.post.Move(museum, name, l.UID, into)
			}
		}
	case k < 15:
		if name, l := folder(); l != nil {
			m.post.SetFlags(museum, name, l.UID, [][]imap.Flag{{}, {imap.FlagSeen}, {imap.FlagSeen, imap.FlagFlagged}}[m.r.IntN(3)]...)
		}
	case k < 18 && slip != nil: // the reader answers, and sometimes takes it back
		v, err := m.Reading.Conversation(ctx, m.who, slip.ID)
		require.NoError(m.t, err)
		d, err := m.Writing.Begin(ctx, m.who, "", composing.DraftBegun{Mode: writing.Reply, Message: v.Messages[len(v.Messages)-1].ID})
		require.NoError(m.t, err)
		m.n++
		words := fmt.Sprintf("Answer %d.", m.n)
		_, err = m.Writing.Change(ctx, m.who, "", d.ID, composing.DraftChange{Account: d.Account, To: d.To, Cc: d.Cc, Subject: d.Subject, Text: words})
		require.NoError(m.t, err)
		then := []inbox.Kind{"", inbox.Archive}[m.r.IntN(2)]
		out, err := m.Writing.Send(ctx, m.who, fmt.Sprint("send", m.n), d.ID, composing.Sending{Then: then, Sure: true})
		require.NoError(m.t, err)
		m.sent[out.Outgoing] = words
		if m.r.IntN(4) == 0 {
			_, err := m.Journal.TakeBackStep(ctx, m.who, "", out.Entry)
			require.NoError(m.t, err)
			delete(m.sent, out.Outgoing)
			require.NoError(m.t, m.Writing.Drop(ctx, m.who, d.ID))
		}
	case k == 18 && m.r.IntN(6) == 0:
		m.post.Renumber(museum)
	case k == 19 && m.r.IntN(4) == 0: // Ebbe is ended and started again
		require.NoError(m.t, m.store.Write(ctx, m.Sending.Resume))
	}
}

// round lets Ebbe work; what fails is for the next round.
func (m *month) round() (failed error) {
	require.NoError(m.t, m.Sending.Dispatch(ctx))
	failed = m.Mail.PassNow(ctx)
	require.NoError(m.t, m.Agenda.CatchUp(ctx))
	return failed
}

// settle is the user saying what became of messages of which Ebbe cannot know.
func (m *month) settle() {
	taken := map[string]bool{}
	for _, a := range m.post.Taken() {
		taken[mime.Read(a.Raw).MessageID] = true
	}
	out, err := m.Writing.Outbox(ctx, m.who, 0)
	require.NoError(m.t, err)
	for _, l := range out.Messages {
		if l.State == writing.Hanging {
			var raw []byte
			require.NoError(m.t, m.store.Read(ctx, func(t store.Tx) (err error) { raw, err = sending.Outbox(t).BytesOfOutgoing(l.ID); return err }))
			require.NoError(m.t, m.Sending.Settle(ctx, m.who, l.ID, !taken[mime.Read(raw).MessageID]))
		}
	}
}

// months is how many months are gone through: two, or more where EBBE_MONTHS
// says so.
func months() int {
	if n, err := strconv.Atoi(os.Getenv("EBBE_MONTHS")); err == nil {
		return n
	}
	return 2
}

// A month with a server that cuts lines, is busy, is slow, brings things twice,
// takes messages and does not say so, gives new numbers, and with another
// program on the same account: at the end Ebbe and the server agree, nothing is
// lost or doubled, and nothing has been sent twice.
func TestAMonthOfFaults(t *testing.T) {
	for seed := range uint64(months()) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			t.Parallel()
			m := &month{posted: newPosted(t, postoffice.Faults{Seed: seed, Files: seed%2 == 0, Plain: seed%4 == 1}).connected(t), t: t, r: rand.New(rand.NewPCG(seed, 7)),
				put: map[string]string{}, gone: map[string]bool{}, sent: map[int64]string{}}
			failures := 0
			for day := range 30 {
				m.post.Misbehave(postoffice.Faults{Seed: seed*100 + uint64(day), Cut: 0.01 * float64(day%4), Busy: 0.2, Twice: 0.3, Mute: 0.1, Slow: 0.01, Sizes: int64(day), Files: seed%2 == 0})
				for range 7 {
					m.step()
					m.later(time.Duration(1+m.r.IntN(120)) * time.Minute)
					if m.r.IntN(2) == 0 {
						if err := m.round(); err != nil {
							failures++
						}
					}
				}
				m.later(8 * time.Hour)
			}
			require.NotZero(t, failures, "no fault has struck")
			m.post.Misbehave(postoffice.Faults{Files: seed%2 == 0})
			for range 6 {
				require.NoError(t, m.round())
				m.settle()
				m.later(7 * time.Hour)
			}
			m.compare()
		})
	}
}

// compare looks for what Ebbe and the post office do not agree about.
func (m *month) compare() {
	t := m.t
	m.sound(t)
	stored, conversations, own := map[string]int{}, map[int64]bool{}, map[string]int{}
	require.NoError(t, m.store.EachMessage(ctx, 1, func(r store.Message, _ []byte) error {
		stored[r.MessageID]++
		if r.Own {
			own[r.MessageID]++
		}
		conversations[r.ConversationID] = true
		return nil
	}))
	for id := range m.put {
		if !m.gone[id] || stored[id] != 0 { // what was deleted before Ebbe saw it is the server's business
			require.Equal(t, 1, stored[id], "%s (%s) is here %d times", id, m.put[id], stored[id])
		}
	}
	// Each copy Ebbe knows lies where it says, and none is unknown.
	known := map[string]bool{}
	var ids []int64
	for id := range conversations {
		ids = append(ids, id)
	}
	slices.Sort(ids)
	require.NoError(t, m.store.Read(ctx, func(tx store.Tx) error {
		a, err := mailboxes.Accounts(tx).Account(1, 1)
		require.NoError(t, err)
		folders, err := mailboxes.Folders(tx).Folders(a.ID)
		require.NoError(t, err)
		names := map[int64]string{}
		for _, f := range folders {
			names[f.ID] = f.Name
		}
		copies, err := mailboxes.Folders(tx).ConversationCopies(1, ids)
		require.NoError(t, err)
		for _, list := range copies {
			for _, k := range list {
				known[fmt.Sprint(names[k.Folder], " ", k.UID)] = true
			}
		}
		due := make([]mailboxes.Errand, len(ids))
		for i, id := range ids {
			due[i].ConversationID, due[i].LeftPlaces = id, "inbox,archived" // what it would take to bring the server in step
		}
		open, err := mailsync.OpenWork(tx, a, due)
		require.NoError(t, err)
		newest, err := mailboxes.Errands(tx).NewestOf(1, ids)
		for id, todo := range open.Todo {
			for _, e := range todo { // what another program did to an older message stays as it did it
				require.True(t, e.Message != newest[id] && e.Role != mail.RoleInbox && e.Star == nil, "the server is not as decided: %+v", e)
			}
		}
		return err
	}))
	there := map[string]bool{}
	for _, name := range []string{postoffice.Inbox, postoffice.Archive, postoffice.Trash, postoffice.Junk, postoffice.Sent} {
		for _, l := range m.post.Folder(museum, name) {
			there[fmt.Sprint(name, " ", l.UID)] = true
		}
	}
	require.Equal(t, there, known)
	// What was sent has gone once, and stands once in its conversation and in the sent mail.
	gone := map[string]int{}
	for _, a := range m.post.Taken() {
		b := mime.Read(a.Raw)
		first, _, _ := strings.Cut(strings.TrimSpace(b.Text), "\n")
		first = strings.TrimSpace(first)
		gone[first]++
		require.Equal(t, 1, own[b.MessageID], "“%s” stands %d times in its conversation", first, own[b.MessageID])
		laid := 0
		for _, l := range m.post.Folder(museum, postoffice.Sent) {
			if mime.Read(l.Raw).MessageID == b.MessageID {
				laid++
			}
		}
		require.Equal(t, 1, laid, "“%s” lies %d times in the sent mail", first, laid)
	}
	require.Len(t, gone, len(m.sent))
	for _, words := range m.sent {
		require.Equal(t, 1, gone[words], "“%s” went out %d times, of %v", words, gone[words], gone)
	}
	require.NotEmpty(t, m.sent)
}
