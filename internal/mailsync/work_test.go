package mailsync

import (
	"errors"
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/post/imap"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/drafting"
	"ebbe/internal/store/mailboxes"
	"ebbe/internal/store/sending"
)

var outboxEvent = journal.Event{Topics: []string{journal.TopicOutbox}}

var solvei = identity.Who{Person: 1, Box: 1, Week: when.Ordinary("UTC")}

func (h *house) write(f func(store.Tx) error) {
	h.t.Helper()
	require.NoError(h.t, h.store.Write(ctx, f))
}

// change changes the first person's account.
func (h *house) change(f func(*mailboxes.Account)) {
	h.t.Helper()
	h.write(func(t store.Tx) error {
		a, err := mailboxes.Accounts(t).Account(1, 1)
		if err != nil {
			return err
		}
		f(&a)
		return mailboxes.Accounts(t).PutAccount(&a)
	})
}

// A draft lies on the server ten seconds after the last key, is replaced when it
// has changed, and is taken away with it; what was sent is laid into the sent mail
// once, with its hidden recipients, also where another program has laid it there.
func TestDraftsAndSentMailOnTheServer(t *testing.T) {
	running(t, func(h *house) {
		t := h.t
		s := h.servers[1]
		h.Draft = func(_ store.Tx, _ mailboxes.Account, d drafting.Draft, id string) ([]byte, error) {
			return fmt.Appendf(nil, "Message-ID: <%s>\r\nSubject: %s\r\n\r\n%s\r\n", id, d.Subject, d.Text), nil
		}
		draft := drafting.Draft{PersonID: 1, BoxID: 1, AccountID: 1, Mode: writing.New, Subject: "Crate", Text: "Dear Jonas", Changed: h.journal.Now()}
		put := func() {
			t.Helper()
			h.write(func(t store.Tx) error { return drafting.Drafts(t).PutDraft(&draft) })
			h.Heard(1, outboxEvent)
		}
		put()
		later(3 * time.Second)
		require.Empty(t, s.in("Drafts"), "it is being typed")
		later(7 * time.Second)
		require.Equal(t, []string{"Crate"}, s.in("Drafts"))
		draft.Subject, draft.Changed = "The crate", h.journal.Now()
		put()
		later(10 * time.Second)
		require.Equal(t, []string{"The crate"}, s.in("Drafts"))
		h.write(func(t store.Tx) error { return drafting.Drafts(t).DropDraft(draft.ID) })
		later(lookEvery + time.Second)
		require.Empty(t, s.in("Drafts"))

		send := func(id string, laid bool) {
			t.Helper()
			raw := []byte("Message-ID: <" + id + ">\r\nSubject: Sent " + id + "\r\n\r\ngone\r\n")
			if laid {
				s.set(func() { s.add("Sent", string(raw), true, false) })
			}
			o := sending.Outgoing{BoxID: 1, AccountID: 1, Once: "message/" + id, Address: "a@x.example", State: writing.Sent, SentAt: h.journal.Now(), Bcc: []mail.Address{{Address: "ann@m.example"}}, Original: raw, Filed: true}
			h.write(func(t store.Tx) error { _, err := sending.Outbox(t).Send(&o); return err })
			h.Heard(1, outboxEvent)
			later(2 * time.Second)
		}
		send("one@m.example", false)
		send("two@m.example", true)
		require.ElementsMatch(t, []string{"Sent one@m.example", "Sent two@m.example"}, s.in("Sent"))
		require.True(t, slices.ContainsFunc(s.folders["Sent"].letters, func(l *letter) bool { return len(l.raw) > 0 && l.raw[:4] == "Bcc:" }), "one's own copy says whom else it went to")
	})
}

// What vanishes in great numbers is asked about. Followed, it is binned in one
// step; put back, it lies there again as it was.
func TestWhatVanishesInGreatNumbers(t *testing.T) {
	for _, follow := range []bool{true, false} {
		t.Run(fmt.Sprint("follow ", follow), func(t *testing.T) {
			running(t, func(h *house) {
				t := h.t
				s := h.servers[1]
				for i := range 40 {
					s.put("INBOX", fmt.Sprintf("%d@x.example", i), fmt.Sprintf("Matter %d", i))
				}
				later(time.Minute)
				require.Len(t, h.places(1), 12)
				s.set(func() { s.folders["INBOX"].letters = s.folders["INBOX"].letters[:5] })
				later(2 * lookEvery)
				asked := func() (n int) {
					require.NoError(t, h.store.Read(ctx, func(t store.Tx) error {
						all, err := mailboxes.Folders(t).AskedAbout(1)
						n = all[1]
						return err
					}))
					return n
				}
				require.Equal(t, 35, asked())
				require.Equal(t, inbox.Inbox, h.places(1)["Matter 8"], "nothing has followed")
				_, err := h.SettleVanished(ctx, identity.Who{Person: 2, Box: 2}, 1, follow)
				require.ErrorIs(t, err, store.ErrNotFound, "of nobody else's account")
				text, err := h.SettleVanished(ctx, solvei, 1, follow)
				require.NoError(t, err)
				require.Zero(t, asked())
				_, err = h.SettleVanished(ctx, solvei, 1, follow)
				var told *problem.Error
				require.ErrorAs(t, err, &told)
				later(2 * lookEvery)
				if follow {
					require.Contains(t, text, "Binned 35 conversations")
					require.Equal(t, inbox.Bin, h.places(1)["Matter 8"])
					require.Len(t, s.in("INBOX"), 5)
				} else {
					require.Contains(t, text, "35 messages will be laid back")
					require.Equal(t, inbox.Inbox, h.places(1)["Matter 8"])
					require.Len(t, s.in("INBOX"), 40)
				}
			})
		})
	}
}

// Bin and junk are emptied of what Ebbe put there, after the days that were said;
// what others put there stays.
func TestBinIsEmptiedOfWhatEbbePutThere(t *testing.T) {
	running(t, func(h *house) {
		t := h.t
		s := h.servers[1]
		h.change(func(a *mailboxes.Account) { a.EmptyDays = 7 })
		s.put("Trash", "theirs@x.example", "Theirs")
		s.put("INBOX", "a@x.example", "Crate")
		later(time.Minute)
		for id := int64(1); id <= 2; id++ {
			if h.places(1)["Crate"] != inbox.Bin {
				h.decide(id, inbox.ToBin)
			}
		}
		later(time.Minute)
		require.ElementsMatch(t, []string{"Theirs", "Crate"}, s.in("Trash"))
		later(2 * lookEvery)
		require.Len(t, s.in("Trash"), 2)
		h.write(func(t store.Tx) error { // eight days later
			f, err := mailboxes.Folders(t).FolderNamed(1, "Trash")
			if err != nil {
				return err
			}
			copies, err := mailboxes.Folders(t).CopiesAt(f.ID, []int64{1, 2})
			for i := range copies {
				if copies[i].Put != 0 {
					copies[i].Put -= 8 * 24 * 3_600_000
				}
			}
			state, serr := store.Conversations(t).State(1, 1, []int64{1, 2}, nil)
			var changes []inbox.Change
			for _, c := range state.Conversations {
				after := c
				after.Since -= 8 * 24 * 3_600_000
				changes = append(changes, inbox.Change{Before: &c, After: &after})
			}
			return errors.Join(err, serr, mailboxes.Folders(t).DropCopies(f.ID, []int64{1, 2}), mailboxes.Folders(t).PutCopies(copies), store.Conversations(t).Apply(1, 1, changes))
		})
		later(2 * lookEvery)
		require.Equal(t, []string{"Theirs"}, s.in("Trash"))
		require.NotContains(t, h.places(1), "Crate")
	})
}

// A folder that another program makes is taken up, one that it takes away is
// forgotten; one that is missing for a decision is made.
func TestFoldersComeAndGo(t *testing.T) {
	running(t, func(h *house) {
		t := h.t
		s := h.servers[1]
		s.set(func() {
			s.folders["Talks"] = &folder{role: mail.RoleOther, next: 1}
			s.add("Talks", "Subject: Slides\r\nMessage-ID: <slides@x.example>\r\n\r\nhere\r\n", true, false)
			delete(s.folders, "Archive")
		})
		s.put("INBOX", "a@x.example", "Crate")
		later(time.Minute)
		require.Equal(t, inbox.Archived, h.places(1)["Slides"])
		s.set(func() { s.made = mail.RoleArchive })
		for id := int64(1); id <= 2; id++ {
			h.decide(id, inbox.Archive)
		}
		later(time.Minute)
		require.Contains(t, s.in("Archive"), "Crate", "the folder was made")
		s.set(func() { delete(s.folders, "Talks") })
		later(2 * lookEvery)
		require.NoError(t, h.store.Read(ctx, func(t store.Tx) error {
			folders, err := mailboxes.Folders(t).Folders(1)
			require.False(h.t, slices.ContainsFunc(folders, func(f mailboxes.Folder) bool { return f.Name == "Talks" }))
			return err
		}))
	})
}

// Flags that change elsewhere are followed, where the server keeps their state and
// where it does not; a folder whose UIDs were given anew is met again, with nothing
// doubled.
func TestWhatOthersDo(t *testing.T) {
	for _, states := range []bool{false, true} {
		t.Run(fmt.Sprint("states ", states), func(t *testing.T) {
			running(t, func(h *house) {
				t := h.t
				s := h.servers[1]
				s.set(func() { s.states = states })
				s.put("INBOX", "a@x.example", "Crate")
				later(time.Minute)
				s.set(func() {
					l := s.folders["INBOX"].letters[0]
					l.star, l.seen, l.state = true, true, s.moves(s.folders["INBOX"])
				})
				later(2 * lookEvery)
				require.NoError(t, h.store.Read(ctx, func(t store.Tx) error {
					state, err := store.Conversations(t).State(1, 1, []int64{1}, nil)
					require.True(h.t, state.Conversations[1].Starred)
					return err
				}))
				s.set(func() { s.validity, s.folders["INBOX"].letters[0].uid, s.folders["INBOX"].next = 2, 7, 8 })
				s.cutAll()
				later(time.Minute)
				require.Len(t, h.places(1), 1)
				require.NoError(t, h.store.Read(ctx, func(t store.Tx) error {
					copies, err := mailboxes.Folders(t).CopiesOf([]int64{1})
					require.Len(h.t, copies, 1)
					require.EqualValues(h.t, 7, copies[0].UID)
					return err
				}))
			})
		})
	}
}

// Why an account is not in step is told in a sentence that says what to do, and an
// error inside Ebbe is not told as one of the line.
func TestTroubleInWords(t *testing.T) {
	running(t, func(h *house) {
		t := h.t
		a := mailboxes.Account{ID: 1, BoxID: 1, Name: "Museum", Mailbox: mail.Server{Host: "imap.m.example"}}
		for text, err := range map[string]error{
			"The line to the server was cut. Ebbe connects anew by itself.":                                                  errors.New("reset"),
			"“Museum” cannot be kept in step: something is wrong inside Ebbe. Nothing is lost; it is tried again by itself.": within(errors.New("a column is missing")),
			"imap.m.example did not accept the name.":                                                                        &post.StepError{Text: "imap.m.example did not accept the name."},
			"imap.m.example does what no mailbox server may. It lists messages without end.":                                 &imap.Excess{Text: "It lists messages without end."},
			"This Ebbe was started without access to the network, so accounts cannot be used.":                               &problem.Error{Text: "This Ebbe was started without access to the network, so accounts cannot be used."},
		} {
			h.NoteTrouble(ctx, a, err)
			require.Equal(t, text, h.trouble(1))
		}
		inner := errors.New("inside")
		require.ErrorIs(t, within(inner), inner)
		require.NoError(t, within(nil))
	})
}

// A message that breaks the line is found by fetching one by one, and kept by its
// header; a very large one is kept so from the beginning. The others come in.
func TestAMessageThatBreaksTheLine(t *testing.T) {
	running(t, func(h *house) {
		t := h.t
		s := h.servers[1]
		s.set(func() {
			s.breaks = "bad@x.example"
			for _, id := range []string{"one", "bad", "two"} {
				s.add("INBOX", fmt.Sprintf("Subject: %s\r\nMessage-ID: <%s@x.example>\r\n\r\nwords\r\n", id, id), false, false)
			}
			s.add("INBOX", "Subject: large\r\nMessage-ID: <large@x.example>\r\n\r\nwords\r\n", false, false)
			s.folders["INBOX"].letters[3].size = imap.MaxFetched + 1
		})
		h.Changed()
		s.cutAll()
		later(30 * time.Minute)
		places := h.places(1)
		for _, subject := range []string{"one", "two", "bad", "large"} {
			require.Equal(t, inbox.Inbox, places[subject], subject)
		}
		require.NoError(t, h.store.Read(ctx, func(t store.Tx) error {
			for _, id := range []string{"bad@x.example", "large@x.example"} {
				m, err := store.Messages(t).ByMessageID(1, id)
				require.NoError(h.t, err)
				require.NotZero(h.t, m.Stub, id)
			}
			return nil
		}))
	})
}
