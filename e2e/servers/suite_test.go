package servers

import (
	"bufio"
	"bytes"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk"
	"ebbe/internal/desk/accounts"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/queue"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/post/imap"
	"ebbe/internal/post/mime"
	"ebbe/internal/secrets"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
)

// ebbe is an Ebbe with an account on the servers.
type ebbe struct {
	*desk.Desk
	t     *testing.T
	host  *host
	dir   string
	store *store.Store
	who   identity.Who
}

func connect(t *testing.T, h *host) *ebbe {
	t.Helper()
	e := &ebbe{t: t, host: h, dir: t.TempDir(), who: connectAs()}
	e.open()
	e.setUp()
	_, err := e.Accounts.Put(ctx, e.who, "", accounts.AccountDraft{Name: "Museum", Address: me, FullName: "Solvei", Secret: secret, Mailbox: h.mailbox(), Sending: h.sending(), Carries: inbox.AllCarried})
	require.NoError(t, err)
	return e
}

func connectAs() identity.Who {
	return identity.Who{Person: 1, Box: 1, Week: when.Ordinary("Europe/Oslo")}
}

func (e *ebbe) setUp() {
	e.t.Helper()
	require.NoError(e.t, e.SetUp(ctx, identity.Signup{Name: "Solvei", Address: me, Password: "long enough", Zone: "Europe/Oslo"}))
}

// account is the first account, as it is stored.
func (e *ebbe) account() (a mailboxes.Account) {
	e.t.Helper()
	require.NoError(e.t, e.store.Read(ctx, func(t store.Tx) (err error) { a, err = mailboxes.Accounts(t).Account(1, 1); return err }))
	return a
}

func (e *ebbe) open() {
	e.t.Helper()
	s, err := store.Open(e.dir, store.Options{})
	require.NoError(e.t, err)
	e.t.Cleanup(s.Close)
	e.store = s
	key, err := secrets.Load(e.dir, "")
	require.NoError(e.t, err)
	e.Desk = desk.New(s, &journal.SystemClock{}, false)
	e.Connect(accounts.Links{Key: key, Network: e.host.network()})
	require.NoError(e.t, e.Start(ctx))
}

func (e *ebbe) pass() { e.t.Helper(); require.NoError(e.t, e.Mail.PassNow(ctx)) }

func (e *ebbe) sound() {
	e.t.Helper()
	wrong, _, err := e.Check(ctx)
	require.NoError(e.t, err)
	require.Empty(e.t, wrong)
}

func (e *ebbe) left() int {
	e.t.Helper()
	q, err := e.Queue.Arranged(ctx, e.who, queue.Arrangement{})
	require.NoError(e.t, err)
	return q.Left
}

// of gives the conversation of a message.
func (e *ebbe) of(id string) int64 {
	e.t.Helper()
	c, err := e.Reading.ByMessageID(ctx, e.who, id)
	require.NoError(e.t, err)
	return c
}

func (e *ebbe) decide(k inbox.Kind, ids ...string) {
	e.t.Helper()
	var all []int64
	for _, id := range ids {
		all = append(all, e.of(id))
	}
	_, err := e.Decisions.Decide(ctx, e.who, "", decide.Decision{Kind: k, Conversations: all})
	require.NoError(e.t, err)
}

// until lets Ebbe look again until something holds: servers bring mail in their
// own time.
func (e *ebbe) until(what string, holds func() bool) {
	e.t.Helper()
	for end := time.Now().Add(time.Minute); ; {
		require.NoError(e.t, e.Sending.Dispatch(ctx))
		e.pass()
		if holds() {
			return
		}
		if !time.Now().Before(end) {
			e.t.Fatalf("waiting for %s in vain; the transfer agent said:\n%s", what, e.host.said["postfix"])
		}
	}
}

// A thousand messages come in once and stay where they were put; what is decided
// is carried there and counted on the disk; hostile ones in the middle stop
// nothing.
func TestFirstSyncAndDecisionsOnARealServer(t *testing.T) {
	h := standing(t)
	h.fresh(t, "solvei")
	var raws [][]byte
	for i := range 300 {
		raws = append(raws, letter(fmt.Sprintf("m%d@x.example", i), "Jonas <jonas@x.example>", fmt.Sprintf("Matter %d", i)))
		if i%50 == 25 {
			raws = append(raws, hostile(i)...)
		}
	}
	h.put(t, "solvei", "INBOX", raws...)
	var old [][]byte
	for i := range 700 {
		old = append(old, letter(fmt.Sprintf("old%d@x.example", i), "Mirela <m@x.example>", fmt.Sprintf("Old %d", i)))
	}
	h.put(t, "solvei", "Archive", old...)
	e := connect(t, h)
	e.pass()
	require.Equal(t, len(raws)-7, e.left(), "everything came in, the hostile ones too, of which six join two conversations")
	_, n, err := e.Check(ctx)
	require.NoError(t, err)
	require.Equal(t, len(raws)+700, n)
	e.sound()

	var archive, bin, junk []string
	for i := range 60 {
		i += 3
		to := []*[]string{&archive, &bin, &junk}[i%3]
		*to = append(*to, fmt.Sprintf("m%d@x.example", i))
	}
	e.decide(inbox.Archive, archive...)
	e.decide(inbox.ToBin, bin...)
	e.decide(inbox.ToJunk, junk...)
	e.decide(inbox.Star, "m100@x.example")
	e.pass()
	require.Equal(t, len(raws)-60, h.count(t, "solvei", "INBOX"))
	require.Equal(t, 720, h.count(t, "solvei", "Archive"))
	require.Equal(t, 20, h.count(t, "solvei", "Trash"))
	require.Equal(t, 20, h.count(t, "solvei", "Junk"))
	flagged, err := filepath.Glob(filepath.Join(h.folder("solvei", "INBOX"), "*", "*:2,*F*"))
	require.NoError(t, err)
	require.Len(t, flagged, 1)
	e.pass()
	e.sound()
}

// hostile are messages that real readers have stumbled over.
func hostile(n int) (out [][]byte) {
	head := fmt.Sprintf("From: Fan <fan@z.example>\r\nTo: %s\r\nMessage-ID: <hostile%d-%%d@z.example>\r\nSubject: Hostile\r\n", me, n)
	deep := ""
	for i := range 24 {
		deep += fmt.Sprintf("Content-Type:\r\n multipart/mixed; boundary=b%d\r\n\r\n--b%d\r\n", i, i)
	}
	for i, body := range []string{
		deep,
		"Content-Type: text/html\r\n\r\n" + strings.Repeat("<div>", 600) + "deep",
		"\r\n" + strings.Repeat("> a\r\nb\r\n", 20_000),
		"Content-Type: multipart/mixed\r\n\r\nno boundary",
		"X-Pad: " + strings.Repeat("x", 60_000) + "\r\n\r\nbody",
		"References: <m1@x.example> <m2@x.example> <old3@x.example>\r\nContent-Type: text/plain; charset=x-moon\r\n\r\nodd",
	} {
		out = append(out, []byte(fmt.Sprintf(head, i)+body+"\r\n"))
	}
	return out
}

// A message goes through the transfer agent and arrives; whom it refuses is told
// at once, and what bounces later brings its conversation back with the reason.
func TestSendingThroughARealTransferAgent(t *testing.T) {
	h := standing(t)
	h.fresh(t, "solvei")
	h.fresh(t, "jonas")
	e := connect(t, h)
	e.pass()
	send := func(to ...string) {
		t.Helper()
		d, err := e.Writing.Begin(ctx, e.who, "", composing.DraftBegun{Mode: writing.New})
		require.NoError(t, err)
		var list []mail.Address
		for _, a := range to {
			list = append(list, mail.Address{Address: a})
		}
		_, err = e.Writing.Change(ctx, e.who, "", d.ID, composing.DraftChange{Account: 1, To: list[:1], Bcc: list[1:], Subject: "To " + to[0], Text: "Hello <name>", Rich: true})
		require.NoError(t, err)
		_, err = e.Writing.Send(ctx, e.who, "", d.ID, composing.Sending{At: when.Moment{At: e.Now() + 1}})
		if err != nil { // the moment has passed already
			_, err = e.Writing.Send(ctx, e.who, "", d.ID, composing.Sending{At: when.Moment{At: e.Now() + 200}})
		}
		require.NoError(t, err)
	}
	send("jonas@"+domain, me)
	e.until("the message to arrive", func() bool { return h.count(t, "jonas", "INBOX") == 1 })
	files, err := filepath.Glob(filepath.Join(h.folder("jonas", "INBOX"), "new", "*"))
	require.NoError(t, err)
	raw, err := os.ReadFile(files[0])
	require.NoError(t, err)
	require.NotContains(t, string(raw), "Bcc")
	require.Contains(t, mime.Read(raw).Text, "Hello <name>")
	e.until("it to lie in the sent mail", func() bool { return h.count(t, "solvei", "Sent") == 1 })

	send("nobody@" + domain)
	e.until("the refusal", func() bool { return stuck(t, e) == 1 })
	out, err := e.Writing.Outbox(ctx, e.who, 0)
	require.NoError(t, err)
	require.Contains(t, out.Messages[0].Problem, "unknown")

	send("curator@elsewhere.example")
	e.until("the report", func() bool {
		q, err := e.Queue.Arranged(ctx, e.who, queue.Arrangement{})
		require.NoError(t, err)
		for _, s := range q.Slips {
			if s.Position.Reason == inbox.Bounced && strings.Contains(s.Subject, "curator@elsewhere") {
				return true
			}
		}
		return false
	})
	e.sound()
}

func stuck(t *testing.T, e *ebbe) int {
	l, err := e.Dayline.Today(ctx, e.who)
	require.NoError(t, err)
	return l.Stuck
}

// The program itself is killed again and again in the middle of its work: at the
// end Ebbe and the server agree, and nothing is lost, doubled, or sent twice. It
// trusts the server's certificate by its fingerprint.
func TestKilledAgainAndAgain(t *testing.T) {
	h := standing(t)
	h.fresh(t, "solvei")
	h.fresh(t, "jonas")
	var raws [][]byte
	for i := range 400 {
		raws = append(raws, letter(fmt.Sprintf("cut%d@x.example", i), "Jonas <jonas@x.example>", fmt.Sprintf("Cut %d", i)))
	}
	h.put(t, "solvei", "INBOX", raws...)
	program := filepath.Join(t.TempDir(), "ebbe")
	out, err := exec.Command("go", "build", "-tags", "sqlite_fts5", "-o", program, "ebbe/cmd/ebbe").CombinedOutput()
	require.NoError(t, err, string(out))

	e := connect(t, h)
	bare := h.network()
	bare.Roots = nil
	_, err = imap.Open(ctx, bare, h.mailbox(), post.Login{Name: me, Secret: secret})
	var step *post.StepError
	require.ErrorAs(t, err, &step)
	v, err := e.Accounts.All(ctx, e.who)
	require.NoError(t, err)
	a := v.Accounts[0]
	a.Mailbox.Trust, a.Sending.Trust = step.Fingerprint, step.Fingerprint
	_, err = e.Accounts.Put(ctx, e.who, "", accounts.AccountDraft{ID: a.ID, Name: a.Name, Address: a.Address, FullName: a.FullName, Secret: secret, Mailbox: a.Mailbox, Sending: a.Sending, Carries: a.Carries})
	require.NoError(t, err)
	sent := 0
	for round := range 8 {
		e.store.Close()
		cmd := exec.Command(program, "serve", "--data", e.dir, "--addr", "127.0.0.1:0")
		said, err := cmd.StdoutPipe()
		require.NoError(t, err)
		require.NoError(t, cmd.Start())
		_, err = bufio.NewReader(said).ReadString('\n')
		require.NoError(t, err)
		select { // the power is cut at some moment
		case <-time.After(time.Duration(rand.IntN(100+150*round)) * time.Millisecond):
			require.NoError(t, cmd.Process.Kill())
		case <-t.Context().Done():
		}
		_ = cmd.Wait()
		e.open()
		e.sound()
		if round < 3 {
			continue
		}
		q, err := e.Queue.Arranged(ctx, e.who, queue.Arrangement{})
		require.NoError(t, err)
		if len(q.Slips) > 5 {
			var some []int64
			for _, s := range q.Slips[:5] {
				some = append(some, s.ID)
			}
			_, err = e.Decisions.Decide(ctx, e.who, "", decide.Decision{Kind: inbox.Archive, Conversations: some})
			require.NoError(t, err)
		}
		d, err := e.Writing.Begin(ctx, e.who, "", composing.DraftBegun{Mode: writing.New})
		require.NoError(t, err)
		_, err = e.Writing.Change(ctx, e.who, "", d.ID, composing.DraftChange{Account: 1, To: []mail.Address{{Address: "jonas@" + domain}}, Subject: fmt.Sprintf("Round %d", round), Text: "Hello"})
		require.NoError(t, err)
		_, err = e.Writing.Send(ctx, e.who, "", d.ID, composing.Sending{At: when.Moment{At: e.Now() + 300}})
		require.NoError(t, err)
		sent++
	}
	for end := time.Now().Add(time.Minute); ; { // what hangs, only its user can settle: it has arrived or it has not
		e.pass()
		require.NoError(t, e.Sending.Dispatch(ctx))
		o, err := e.Writing.Outbox(ctx, e.who, 0)
		require.NoError(t, err)
		for _, l := range o.Messages {
			if l.State == writing.Hanging {
				require.NoError(t, e.Sending.Settle(ctx, e.who, l.ID, !h.has(t, "jonas", l.Subject)))
			}
		}
		if len(o.Messages) == 0 && h.count(t, "jonas", "INBOX") >= sent {
			break
		}
		require.True(t, time.Now().Before(end), "waiting for %d messages, %v", sent, o.Messages)
	}
	require.Equal(t, sent, h.count(t, "jonas", "INBOX"), "each went out once")
	e.pass()
	e.pass()
	_, n, err := e.Check(ctx)
	require.NoError(t, err)
	require.Equal(t, 400+sent, n)
	e.sound()
	require.Equal(t, e.left(), h.count(t, "solvei", "INBOX"))
	require.Equal(t, 400-e.left(), h.count(t, "solvei", "Archive"))
	subjects := map[string]int{}
	for _, folder := range []string{"INBOX", "Archive"} {
		for _, sub := range []string{"new", "cur"} {
			files, err := filepath.Glob(filepath.Join(h.folder("solvei", folder), sub, "*"))
			require.NoError(t, err)
			for _, f := range files {
				raw, err := os.ReadFile(f)
				require.NoError(t, err)
				subjects[mime.Read(raw).MessageID]++
			}
		}
	}
	require.Len(t, subjects, 400)
	for id, k := range subjects {
		require.Equal(t, 1, k, id)
	}
}

// What the server gives out is the bytes that were put there.
func TestBytesComeBackAsTheyWere(t *testing.T) {
	h := standing(t)
	h.fresh(t, "solvei")
	raws := append(hostile(1), letter("plain@x.example", "Jörg <j@x.example>", "Grüße"))
	h.put(t, "solvei", "INBOX", raws...)
	e := connect(t, h)
	e.pass()
	require.NoError(t, e.store.EachMessage(ctx, 1, func(m store.Message, raw []byte) error {
		for _, r := range raws {
			if bytes.Equal(r, raw) {
				return nil
			}
		}
		t.Errorf("message %d (%s) came back otherwise", m.ID, m.Subject)
		return nil
	}))
}
