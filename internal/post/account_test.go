package post_test

import (
	"bufio"
	"context"
	"fmt"
	"io"
	"net"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/mail"
	"ebbe/internal/post"
	"ebbe/internal/post/imap"
	"ebbe/internal/post/office"
	"ebbe/internal/post/smtp"
)

const (
	me       = "solvei.arnkvist@skagvikmuseum.example"
	password = "low tide at nine"
)

var at = time.Date(2026, 11, 25, 9, 0, 0, 0, time.UTC)

func letterOf(n int) []byte {
	return fmt.Appendf(nil, "From: Jonas <jonas@skagvikmuseum.example>\r\nTo: %s\r\nSubject: Crate %d\r\nMessage-ID: <%d@mail.example>\r\nDate: Tue, 24 Nov 2026 09:00:00 +0000\r\n\r\nIt is here.\r\n", me, n, n)
}

func open(t *testing.T, dir string, f office.Faults) (*office.Office, post.Network) {
	o, err := office.Open(dir, func() time.Time { return at })
	require.NoError(t, err)
	o.AddAccount(me, password)
	o.Misbehave(f)
	require.NoError(t, o.Start())
	t.Cleanup(func() { _ = o.Close() })
	return o, post.Network{Dial: o.Dial, LookupSRV: o.LookupSRV, Roots: o.Roots(), Patience: 5 * time.Second}
}

var (
	boxes   = mail.Server{Host: "imap.skagvikmuseum.example", Port: 993, Security: mail.TLS}
	counter = mail.Server{Host: "smtp.skagvikmuseum.example", Port: 465, Security: mail.TLS}
	login   = post.Login{Name: me, Secret: password}
)

func TestAMailboxIsReadMovedAndMarked(t *testing.T) {
	for _, plain := range []bool{false, true} {
		t.Run(fmt.Sprintf("plain=%v", plain), func(t *testing.T) {
			o, n := open(t, "", office.Faults{Plain: plain, Sizes: 1000})
			for i := range 5 {
				o.Put(me, office.Inbox, at, letterOf(i))
			}
			server := boxes
			if plain {
				server = mail.Server{Host: boxes.Host, Port: 143, Security: mail.StartTLS}
			}
			m, err := imap.Open(t.Context(), n, server, login)
			require.NoError(t, err)
			defer m.Close()
			folders, err := m.Folders()
			require.NoError(t, err)
			require.Equal(t, imap.Folder{Name: "INBOX", Role: mail.RoleInbox}, folders[0])
			require.Contains(t, folders, imap.Folder{Name: "Trash", Role: mail.RoleBin})
			require.Contains(t, folders, imap.Folder{Name: "Archive", Role: mail.RoleArchive})
			s, err := m.Select("INBOX")
			require.NoError(t, err)
			require.EqualValues(t, 5, s.Count)
			uids, err := m.UIDs()
			require.NoError(t, err)
			require.Equal(t, []uint32{1, 2, 3, 4, 5}, uids)

			got := map[uint32]string{}
			require.NoError(t, m.Fetch(uids, imap.MaxFetched, 2000, func(f imap.Fetched) error { got[f.UID] = string(f.Raw); return nil }))
			for i := range 5 {
				require.Equal(t, string(letterOf(i)), got[uint32(i+1)], "the size the server claims is not relied upon")
			}
			require.NoError(t, m.SetFlag([]uint32{2}, false, true))
			require.NoError(t, m.SetFlag([]uint32{2, 3}, true, true))
			require.NoError(t, m.SetFlag([]uint32{3}, true, false))
			moved, err := m.Move([]uint32{1, 4}, "Archive")
			require.NoError(t, err)
			if !plain {
				require.Equal(t, map[uint32]uint32{1: 1, 4: 2}, moved)
			}
			require.Len(t, o.Folder(me, office.Archive), 2)
			require.Len(t, o.Folder(me, office.Inbox), 3)
			var seen, star []uint32
			require.NoError(t, m.Flags([]uint32{2, 3, 5}, func(f imap.Fetched) error {
				if f.Seen {
					seen = append(seen, f.UID)
				}
				if f.Star {
					star = append(star, f.UID)
				}
				return nil
			}))
			require.Equal(t, []uint32{2}, seen)
			require.Equal(t, []uint32{2}, star)
			require.NoError(t, m.Lay("Sent", letterOf(9), at, false))
			require.NoError(t, m.Lay("Sent", letterOf(8), at, true))
			_, err = m.Select("Sent")
			require.NoError(t, err)
			found, err := m.Find("9@mail.example")
			require.NoError(t, err)
			require.Equal(t, []uint32{1}, found)
			require.NoError(t, m.Remove(found))
			left := o.Folder(me, "Sent")
			require.Len(t, left, 1)
			require.Contains(t, fmt.Sprint(left[0].Flags), `\Draft`)
		})
	}
}

func TestNewMailEndsWaiting(t *testing.T) {
	o, n := open(t, "", office.Faults{})
	m, err := imap.Open(t.Context(), n, boxes, login)
	require.NoError(t, err)
	defer m.Close()
	_, err = m.Select("INBOX")
	require.NoError(t, err)
	over := make(chan error)
	go func() { _, _, err := m.Await(t.Context(), time.Hour, nil); over <- err }()
	o.Put(me, office.Inbox, at, letterOf(1))
	require.NoError(t, <-over)
	uids, err := m.UIDs()
	require.NoError(t, err)
	require.Len(t, uids, 1)
}

// silent answers nothing, or only these lines.
func silent(t *testing.T, says string) post.Network {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { _ = l.Close() })
	go func() {
		// A connection nobody holds is closed by the garbage collector, which
		// would be an answer: each is held until the test is over.
		var held []net.Conn
		defer func() {
			for _, c := range held {
				_ = c.Close()
			}
		}()
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			held = append(held, c)
			_, _ = io.WriteString(c, says)
		}
	}()
	return post.Network{Dial: func(ctx context.Context, network, _ string) (net.Conn, error) {
		return (&net.Dialer{}).DialContext(ctx, network, l.Addr().String())
	}, Patience: 300 * time.Millisecond}
}

func TestEachStepThatFailsIsSaid(t *testing.T) {
	o, n := open(t, "", office.Faults{})
	expired, ne := open(t, "", office.Faults{Expired: true})
	require.NotNil(t, expired)
	_ = o
	clear := mail.Server{Host: "localhost", Port: 143, Security: mail.Clear}
	for name, c := range map[string]struct {
		net    post.Network
		server mail.Server
		login  post.Login
		step   string
		says   string
	}{
		"wrong password": {n, boxes, post.Login{Name: me, Secret: "spring tide"}, post.StepSignIn, "did not accept the name " + me + " with this password"},
		"wrong token":    {n, boxes, post.Login{Name: me, Secret: "spring tide", Token: true}, post.StepSignIn, "with this token"},
		"no such host":   {n, mail.Server{Host: "imap.nowhere.test", Port: 993, Security: mail.TLS}, login, post.StepConnect, "imap.nowhere.test:993 does not answer"},
		"expired":        {ne, boxes, login, post.StepSecure, "has run out or is not valid yet"},
		"other name":     {n, mail.Server{Host: "imap.elsewhere.example", Port: 993, Security: mail.TLS}, login, post.StepSecure, "not for imap.elsewhere.example"},
		"untrusted":      {post.Network{Dial: n.Dial, Patience: n.Patience}, boxes, login, post.StepSecure, "signed by nobody"},
		"not TLS":        {n, mail.Server{Host: boxes.Host, Port: 143, Security: mail.TLS}, login, post.StepSecure, "does not speak TLS from the first byte"},
		"in the clear":   {n, mail.Server{Host: boxes.Host, Port: 143, Security: mail.Clear}, login, post.StepSecure, "only to this machine"},
		"hangs":          {silent(t, ""), clear, login, post.StepGreet, "says nothing"},
		"no tag":         {silent(t, "HELLO\r\nTHERE\r\n"), clear, login, post.StepGreet, "not as a mailbox server does"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := imap.Open(t.Context(), c.net, c.server, c.login)
			var step *post.StepError
			require.ErrorAs(t, err, &step)
			require.Equal(t, c.step, step.Step)
			require.Contains(t, step.Text, c.says)
			require.NotContains(t, step.Text, c.login.Secret)
		})
	}
}

func TestServersAreFoundByTheDomain(t *testing.T) {
	_, n := open(t, "", office.Faults{})
	m, s := n.Find(t.Context(), me)
	require.Equal(t, boxes, m)
	require.Equal(t, counter, s)
	m, s = n.Find(t.Context(), "a@unknown.example")
	require.Zero(t, m)
	require.Zero(t, s)
}

func TestAMessageIsHandedOverOnceOrNotAtAll(t *testing.T) {
	yes := func([]string) error { return nil }
	for name, c := range map[string]struct {
		faults office.Faults
		to     []string
		taken  int
		check  func(*testing.T, smtp.Handed, error)
	}{
		"taken": {to: []string{"a@b.example"}, taken: 1, check: func(t *testing.T, h smtp.Handed, err error) {
			require.NoError(t, err)
			require.Equal(t, []string{"a@b.example"}, h.Taken)
		}},
		"one refused among three": {to: []string{"a@b.example", "nobody@b.example", "full@b.example", "c@b.example"}, taken: 1, check: func(t *testing.T, h smtp.Handed, err error) {
			require.NoError(t, err)
			require.Equal(t, []string{"a@b.example", "c@b.example"}, h.Taken)
			require.Equal(t, "nobody@b.example", h.Refused[0].Address)
			require.Contains(t, h.Refused[0].Text, "nobody of that name")
			require.False(t, h.Refused[0].Later)
			require.True(t, h.Refused[1].Later)
		}},
		"busy": {faults: office.Faults{Busy: 1}, to: []string{"a@b.example"}, check: func(t *testing.T, _ smtp.Handed, err error) {
			text, final := smtp.Final(err)
			require.False(t, final)
			require.Contains(t, text, "come back later")
		}},
		"taken, and never said": {faults: office.Faults{Mute: 1}, to: []string{"a@b.example"}, taken: 1, check: func(t *testing.T, _ smtp.Handed, err error) {
			require.ErrorIs(t, err, smtp.ErrUncertain)
		}},
	} {
		t.Run(name, func(t *testing.T) {
			o, n := open(t, "", c.faults)
			out, err := smtp.Open(t.Context(), n, counter, login)
			require.NoError(t, err)
			defer out.Close()
			h, err := out.Hand(me, c.to, append(letterOf(1), ".a line that begins with a dot\r\n"...), yes)
			c.check(t, h, err)
			require.Len(t, o.Taken(), c.taken)
			if c.taken > 0 {
				require.Contains(t, string(o.Taken()[0].Raw), "\r\n.a line that begins with a dot")
			}
		})
	}
	t.Run("stopped before the end", func(t *testing.T) {
		o, n := open(t, "", office.Faults{})
		out, err := smtp.Open(t.Context(), n, counter, login)
		require.NoError(t, err)
		_, err = out.Hand(me, []string{"a@b.example"}, letterOf(1), func([]string) error { return io.ErrClosedPipe })
		require.ErrorIs(t, err, io.ErrClosedPipe)
		require.Empty(t, o.Taken())
	})
	t.Run("too large", func(t *testing.T) {
		_, n := open(t, "", office.Faults{})
		out, err := smtp.Open(t.Context(), n, counter, login)
		require.NoError(t, err)
		defer out.Close()
		_, err = out.Hand(me, []string{"a@b.example"}, append(letterOf(1), strings.Repeat("x", 40<<20)...), yes)
		text, final := smtp.Final(err)
		require.True(t, final)
		require.Contains(t, text, "the message has 40 MB, and this server takes at most 35")
	})
	t.Run("by token, LOGIN and STARTTLS", func(t *testing.T) {
		_, n := open(t, "", office.Faults{})
		for _, l := range []post.Login{login, {Name: me, Secret: password, Token: true}} {
			out, err := smtp.Open(t.Context(), n, mail.Server{Host: counter.Host, Port: 587, Security: mail.StartTLS}, l)
			require.NoError(t, err)
			out.Close()
		}
	})
}

func TestTheOfficeKeepsItsMail(t *testing.T) {
	dir := t.TempDir()
	o, _ := open(t, dir, office.Faults{})
	for i := range 3 {
		o.Put(me, office.Inbox, at, letterOf(i))
	}
	o.SetFlags(me, office.Inbox, 2, `\Seen`)
	o.Move(me, office.Inbox, 1, office.Trash)
	o.Plan(me, at.Add(time.Hour), letterOf(7))
	o.Plan(me, at.Add(-time.Hour), letterOf(8))
	require.True(t, o.Advance())
	require.NoError(t, o.Close())
	o, _ = open(t, dir, office.Faults{})
	require.Len(t, o.Folder(me, office.Trash), 1)
	in := o.Folder(me, office.Inbox)
	require.Len(t, in, 3)
	require.Equal(t, string(letterOf(8)), string(in[2].Raw))
	require.True(t, slices.Contains(in[0].Flags, `\Seen`))
	require.Equal(t, at.Add(time.Hour), o.Next().UTC())
}

// scripted is a mailbox server that answers each command by its first words,
// and keeps what it was told.
func scripted(t *testing.T, answers map[string]string) (n post.Network, told func() string) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { _ = l.Close() })
	var mu sync.Mutex
	var heard strings.Builder
	go func() {
		c, err := l.Accept()
		if err != nil {
			return
		}
		_, _ = io.WriteString(c, "* OK ready\r\n")
		for lines := bufio.NewScanner(c); lines.Scan(); {
			tag, command, _ := strings.Cut(lines.Text(), " ")
			mu.Lock()
			heard.WriteString(command + "\n")
			mu.Unlock()
			for begins, says := range answers {
				if strings.HasPrefix(command, begins) {
					_, _ = io.WriteString(c, says)
				}
			}
			_, _ = io.WriteString(c, tag+" OK done\r\n")
		}
	}()
	dial := func(ctx context.Context, network, _ string) (net.Conn, error) {
		return (&net.Dialer{}).DialContext(ctx, network, l.Addr().String())
	}
	return post.Network{Dial: dial, Patience: 5 * time.Second}, func() string { mu.Lock(); defer mu.Unlock(); return heard.String() }
}

// A server that keeps count of changes (CONDSTORE, RFC 7162) is asked for those
// alone.
func TestOnlyWhatHasChangedIsAskedFor(t *testing.T) {
	n, told := scripted(t, map[string]string{
		"CAPABILITY": "* CAPABILITY IMAP4rev1 CONDSTORE AUTH=PLAIN\r\n",
		"SELECT":     "* 3 EXISTS\r\n* OK [UIDVALIDITY 9] it is\r\n* OK [UIDNEXT 4] next\r\n* OK [HIGHESTMODSEQ 715] it is\r\n",
		"UID FETCH":  "* 2 FETCH (UID 2 MODSEQ (712) FLAGS (\\Seen))\r\n",
	})
	m, err := imap.Open(t.Context(), n, mail.Server{Host: "localhost", Port: 143, Security: mail.Clear}, login)
	require.NoError(t, err)
	defer m.Close()
	s, err := m.Select("INBOX")
	require.NoError(t, err)
	require.Equal(t, imap.Selected{Validity: 9, Next: 4, Count: 3, ModSeq: 715}, s)
	var changed []uint32
	require.NoError(t, m.Changed(700, func(f imap.Fetched) error {
		require.True(t, f.Seen)
		changed = append(changed, f.UID)
		return nil
	}))
	require.Equal(t, []uint32{2}, changed)
	require.Contains(t, told(), "(CONDSTORE)")
	require.Contains(t, told(), "CHANGEDSINCE 700")
}

// Folders of others, and those that only show what lies elsewhere, are not the
// account's own; what is made is made under its prefix (NAMESPACE, RFC 2342;
// special use, RFC 6154).
func TestOnlyOnesOwnFolders(t *testing.T) {
	n, told := scripted(t, map[string]string{
		"CAPABILITY": "* CAPABILITY IMAP4rev1 NAMESPACE SPECIAL-USE AUTH=PLAIN\r\n",
		"NAMESPACE":  "* NAMESPACE ((\"INBOX.\" \".\")) ((\"user.\" \".\")) ((\"shared.\" \".\"))\r\n",
		"LIST": "* LIST () \".\" INBOX\r\n* LIST (\\All) \".\" INBOX.Everything\r\n* LIST (\\Flagged) \".\" INBOX.Marked\r\n* LIST () \".\" INBOX.Trash\r\n" +
			"* LIST (\\Archive) \".\" user.jonas.Archive\r\n* LIST () \".\" shared.News\r\n* LIST () \".\" INBOX.Loans\r\n",
	})
	m, err := imap.Open(t.Context(), n, mail.Server{Host: "localhost", Port: 143, Security: mail.Clear}, login)
	require.NoError(t, err)
	defer m.Close()
	found, err := m.Folders()
	require.NoError(t, err)
	require.Equal(t, []imap.Folder{{Name: "INBOX", Role: mail.RoleInbox}, {Name: "INBOX.Trash", Role: mail.RoleBin}, {Name: "INBOX.Loans", Role: mail.RoleOther}}, found)
	_, err = m.Folders()
	require.NoError(t, err)
	require.NoError(t, m.Make("Archive"))
	require.Contains(t, told(), "CREATE \"INBOX.Archive\"")
	require.Equal(t, 1, strings.Count(told(), "NAMESPACE\n"), "it is asked for once")
}
