package servers

import (
	"bytes"
	"context"
	"fmt"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/desk/accounts"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/post/imap"
	"ebbe/internal/secrets"
)

// meter counts what goes over the lines of a network: the commands of a client,
// and the bytes of both sides.
type meter struct {
	mu       sync.Mutex
	commands []string
	bytes    int
}

func (m *meter) network(n post.Network) post.Network {
	dial := n.Dial
	n.Dial = func(ctx context.Context, network, address string) (net.Conn, error) {
		c, err := dial(ctx, network, address)
		return &metered{Conn: c, of: m}, err
	}
	return n
}

// since gives what has gone over the lines since it was asked last.
func (m *meter) since() (commands []string, bytes int) {
	m.mu.Lock()
	defer m.mu.Unlock()
	commands, bytes = m.commands, m.bytes
	m.commands, m.bytes = nil, 0
	return commands, bytes
}

type metered struct {
	net.Conn
	of   *meter
	rest []byte
}

func (m *metered) Read(b []byte) (int, error) {
	n, err := m.Conn.Read(b)
	m.of.mu.Lock()
	m.of.bytes += n
	m.of.mu.Unlock()
	return n, err
}

func (m *metered) Write(b []byte) (int, error) {
	m.of.mu.Lock()
	m.of.bytes += len(b)
	m.rest = append(m.rest, b...)
	for {
		line, rest, whole := bytes.Cut(m.rest, []byte("\r\n"))
		if !whole {
			break
		}
		if m.rest = rest; string(line) != "DONE" { // which ends a command
			m.of.commands = append(m.of.commands, string(line))
		}
	}
	m.of.mu.Unlock()
	return m.Conn.Write(b)
}

// lay writes messages of some 3 kB into a folder on the disk, as the mailbox
// server keeps them.
func (h *host) lay(t *testing.T, name string, from, n int) {
	t.Helper()
	dir := filepath.Join(h.folder("solvei", name), "cur")
	for _, sub := range []string{"cur", "new", "tmp"} {
		require.NoError(t, os.MkdirAll(filepath.Join(filepath.Dir(dir), sub), 0o777))
	}
	for path := dir; path != h.dir; path = filepath.Dir(path) {
		require.NoError(t, os.Chmod(path, 0o777))
	}
	for _, sub := range []string{"new", "tmp"} {
		require.NoError(t, os.Chmod(filepath.Join(filepath.Dir(dir), sub), 0o777))
	}
	words := strings.Repeat("The crate stands on the quay until the tide turns, and nobody has signed for it yet.\r\n", 32)
	for i := from; i < from+n; i++ {
		id := fmt.Sprintf("%s%d@x.example", name, i)
		raw := append(letter(id, fmt.Sprintf("Writer %d <w%d@x.example>", i%300, i%300), fmt.Sprintf("Matter %d of %s", i, name)), words...)
		require.NoError(t, os.WriteFile(filepath.Join(dir, fmt.Sprintf("%d.M%dP1.localhost,S=%d:2,S", 1790000000+i, i, len(raw))), raw, 0o666))
	}
}

// messagesOnTheLine is how many messages the account has with which is measured
// what the line costs; EBBE_SYNC says another number.
func messagesOnTheLine() int {
	if n, err := strconv.Atoi(os.Getenv("EBBE_SYNC")); err == nil {
		return n
	}
	return 2000
}

// mirror has another program, that of the command in EBBE_MIRROR, copy the mailbox
// from the same server, and tells how long that took. It is given the port, the
// name, the secret and an empty folder.
func (h *host) mirror(t *testing.T, n int) {
	t.Helper()
	command := os.Getenv("EBBE_MIRROR")
	if command == "" {
		return
	}
	c := exec.CommandContext(ctx, "sh", "-c", command)
	c.Env = append(os.Environ(), "PORT="+strconv.Itoa(h.imap), "NAME="+me, "SECRET="+secret, "FOLDER="+t.TempDir())
	begun := time.Now()
	out, err := c.CombinedOutput()
	require.NoError(t, err, string(out))
	t.Logf("a mirroring client: %d/s", int(float64(n)/time.Since(begun).Seconds()))
}

// With five folders full of mail, nothing new costs two commands and a kilobyte,
// and one new message six commands and four kilobytes beside the message. The
// first sync is told beside a bare loop of fetching from the same server.
func TestWhatTheLineCosts(t *testing.T) {
	h := standing(t)
	h.fresh(t, "solvei")
	n := messagesOnTheLine()
	for _, name := range []string{"INBOX", "Archive", "Sent", "Junk", "Trash"} {
		h.lay(t, name, 0, n/5)
	}
	var m meter
	clear := mail.Server{Host: "localhost", Port: h.imap, Security: mail.Clear}
	bare, err := imap.Open(ctx, h.network(), clear, post.Login{Name: me, Secret: secret})
	require.NoError(t, err)
	folders, err := bare.Folders()
	require.NoError(t, err)
	for _, f := range folders { // so that the server has seen all of it once
		_, err := bare.Select(f.Name)
		require.NoError(t, err)
	}
	begun, got := time.Now(), 0
	for _, f := range folders {
		_, err := bare.Select(f.Name)
		require.NoError(t, err)
		uids, err := bare.UIDs()
		require.NoError(t, err)
		require.NoError(t, bare.Fetch(uids, imap.MaxFetched, int64(len(uids))*8000, func(imap.Fetched) error { got++; return nil }))
	}
	floor := time.Since(begun)
	bare.Close()
	require.Equal(t, n, got)

	e := &ebbe{t: t, host: h, dir: t.TempDir(), who: connectAs()}
	e.open()
	e.setUp()
	key, err := secrets.Load(e.dir, "")
	require.NoError(t, err)
	e.Connect(accounts.Links{Key: key, Network: m.network(h.network())})
	_, err = e.Accounts.Put(ctx, e.who, "", accounts.AccountDraft{Name: "Museum", Address: me, FullName: "Solvei", Secret: secret, Mailbox: clear, Sending: h.sending(), Carries: inbox.AllCarried})
	require.NoError(t, err)
	events := e.Journal.Subscribe(t.Context(), e.who.Box, e.who.Person)
	page := make(chan time.Duration, 1)
	begun = time.Now()
	go func() {
		for event := range events {
			if slices.Contains(event.Topics, journal.TopicMail) {
				page <- time.Since(begun)
				return
			}
		}
	}()
	e.pass()
	took := time.Since(begun)
	t.Logf("first sync of %d messages: %d/s, the first of them in view after %v; a bare loop of fetching: %d/s", n, int(float64(n)/took.Seconds()), <-page, int(float64(n)/floor.Seconds()))
	h.mirror(t, n)
	require.Equal(t, n/5, e.left())

	line, err := e.Accounts.Mailbox(ctx, e.account())
	require.NoError(t, err)
	defer line.Close()
	wait := func() { // as Ebbe does between two looks
		t.Helper()
		_, _, err := line.Await(ctx, 20*time.Second, nil)
		require.NoError(t, err)
	}
	require.NoError(t, e.Mail.Pass(ctx, e.account(), line, false))
	m.since()
	require.NoError(t, e.Mail.Pass(ctx, e.account(), line, false))
	commands, bytes := m.since()
	t.Logf("nothing new: %d commands, %d bytes\n%s", len(commands), bytes, strings.Join(commands, "\n"))
	require.LessOrEqual(t, len(commands), 2)
	require.LessOrEqual(t, bytes, 1000)

	message := letter("new@x.example", "Jonas <jonas@x.example>", "Something new")
	go h.put(t, "solvei", "INBOX", message)
	wait()
	require.NoError(t, e.Mail.Pass(ctx, e.account(), line, false))
	commands, bytes = m.since()
	t.Logf("one new message: %d commands, %d bytes\n%s", len(commands), bytes-len(message), strings.Join(commands, "\n"))
	require.Equal(t, n/5+1, e.left())
	require.LessOrEqual(t, len(commands), 6)
	require.LessOrEqual(t, bytes-len(message), 4000)
	require.NoError(t, e.Mail.Pass(ctx, e.account(), line, false))
	commands, _ = m.since()
	require.LessOrEqual(t, len(commands), 2, "its own doing is no news")
	e.sound()
}
