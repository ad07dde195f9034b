package servers

import (
	"fmt"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/desk/accounts"
	"ebbe/internal/post"
	"ebbe/internal/post/imap"
	"ebbe/internal/store"
)

// dotted is a mailbox server on which folders stand below the inbox with dots between.
func (h *host) dotted(t *testing.T) mail.Server {
	t.Helper()
	raw, err := os.ReadFile(h.path("mailboxes.conf"))
	require.NoError(t, err)
	plain, private := port(), port()
	dir := h.path("dotted")
	require.NoError(t, os.MkdirAll(dir, 0o777))
	require.NoError(t, os.Chmod(dir, 0o777))
	conf := strings.NewReplacer(
		"base_dir = "+h.dir+"/run", "base_dir = "+dir+"/run", "state_dir = "+h.dir+"/run", "state_dir = "+dir+"/run", h.dir+"/mailboxes.log", dir+"/mailboxes.log",
		h.dir+"/mail/", dir+"/mail/", h.dir+"/auth", dir+"/auth", fmt.Sprintf("port = %d", h.imap), fmt.Sprintf("port = %d", plain), fmt.Sprintf("port = %d", h.tls), fmt.Sprintf("port = %d", private),
		"separator = /", "separator = .\n  prefix = INBOX.").Replace(string(raw))
	require.NoError(t, os.MkdirAll(dir+"/mail", 0o777))
	require.NoError(t, os.Chmod(dir+"/mail", 0o777))
	require.NoError(t, h.write("dotted/mailboxes.conf", conf))
	stop, err := h.run(private, "dovecot", "-F", "-c", dir+"/mailboxes.conf")
	require.NoError(t, err)
	t.Cleanup(stop)
	s := h.mailbox()
	s.Port = private
	return s
}

// keep has Ebbe keep folders on the server, or not.
func (e *ebbe) keep(on bool, mailbox mail.Server) {
	e.t.Helper()
	carries := inbox.AllCarried
	carries.Folders.On = on
	_, err := e.Accounts.Put(ctx, e.who, "", accounts.AccountDraft{ID: 1, Name: "Museum", Address: me, FullName: "Solvei", Secret: secret, Mailbox: mailbox, Sending: e.host.sending(), Carries: carries})
	require.NoError(e.t, err)
	e.pass()
}

// Two other programs move mail into the folders that Ebbe keeps on a real server, at the
// same time and while Ebbe is at work there: all of it is done, and lies where that puts
// it; once the folders are not wanted any more, all of it is back and they are gone. So
// on a server whose folders stand below the inbox with dots between.
func TestFoldersOfEbbeOnARealServer(t *testing.T) {
	for _, dots := range []bool{false, true} {
		t.Run(fmt.Sprintf("dots %t", dots), func(t *testing.T) {
			h := standing(t)
			h.fresh(t, "solvei")
			server := h.mailbox()
			if dots {
				server = h.dotted(t)
			}
			line := func() *imap.Mailbox {
				m, err := imap.Open(t.Context(), h.network(), server, post.Login{Name: me, Secret: secret})
				require.NoError(t, err)
				t.Cleanup(m.Close)
				return m
			}
			const each = 10
			others := []*imap.Mailbox{line(), line()}
			kinds := []string{"Ebbe/Tomorrow", "Ebbe/Follow up", "Ebbe/Next week", "Archive"}
			for i := range each * len(kinds) * len(others) {
				require.NoError(t, others[0].Lay("INBOX", letter(fmt.Sprintf("k%d@x.example", i), fmt.Sprintf("P%d <p%d@x.example>", i, i), fmt.Sprintf("Kept %d", i)), time.Now(), false))
			}
			e := connect(t, h)
			e.keep(true, server)
			root := others[0].Path("Ebbe/Tomorrow")
			require.Equal(t, map[bool]string{false: "Ebbe/Tomorrow", true: "INBOX.Ebbe.Tomorrow"}[dots], root)

			var moving sync.WaitGroup
			failed := make(chan error, 100)
			for n, m := range others {
				moving.Go(func() {
					for i := n; i < each*len(kinds)*len(others); i += len(others) {
						if _, err := m.Select("INBOX"); err != nil {
							failed <- err
							return
						}
						uids, err := m.Find(fmt.Sprintf("k%d@x.example", i))
						if err == nil && len(uids) > 0 {
							_, err = m.Move(uids, m.Path(kinds[i/len(others)%len(kinds)]))
						}
						if err != nil {
							failed <- err
							return
						}
					}
				})
			}
			over := make(chan struct{})
			go func() { moving.Wait(); close(over) }()
			for busy := true; busy; {
				select {
				case <-over:
					busy = false
				default:
				}
				e.pass()
			}
			close(failed)
			for err := range failed {
				require.NoError(t, err)
			}
			e.pass()
			e.pass()
			in := func(name string) (n int) {
				t.Helper()
				m := line()
				s, err := m.Select(name)
				require.NoError(t, err)
				return int(s.Count)
			}
			snoozed, archived := 2*each*len(others), 2*each*len(others)
			require.Equal(t, []int{0, snoozed, archived, 0, 0}, []int{in("INBOX"), in(others[0].Path("Ebbe/Snoozed")), in(others[0].Path("Archive")), in(root), in(others[0].Path("Ebbe/Follow up"))})
			places := map[inbox.Place]int{}
			require.NoError(t, e.store.Read(ctx, func(tx store.Tx) error {
				for i := range each * len(kinds) * len(others) {
					rows, err := store.Conversations(tx).ConversationRows(1, []int64{e.of(fmt.Sprintf("k%d@x.example", i))})
					if err != nil {
						return err
					}
					for _, r := range rows {
						places[r.Place]++
					}
				}
				return nil
			}))
			require.Equal(t, map[inbox.Place]int{inbox.Snoozed: snoozed, inbox.Archived: archived}, places)
			e.sound()

			// A folder with something in it is not removed, whoever asks.
			require.NoError(t, others[0].MakeAt(others[0].Path("Full")))
			require.NoError(t, others[0].Lay(others[0].Path("Full"), letter("full@x.example", "P <p@x.example>", "Full"), time.Now(), false))
			gone, err := others[0].DropEmpty(others[0].Path("Full"))
			require.NoError(t, err)
			require.False(t, gone)
			require.Equal(t, 1, in(others[0].Path("Full")))

			e.keep(false, server)
			e.pass()
			require.Equal(t, snoozed, in("INBOX"))
			folders, err := line().Folders()
			require.NoError(t, err)
			for _, f := range folders {
				require.NotContains(t, f.Name, "Ebbe")
			}
			e.sound()
		})
	}
}
