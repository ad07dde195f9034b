package imap

import (
	"io"
	"strings"
	"time"

	"github.com/emersion/go-imap/v2"
	"github.com/emersion/go-imap/v2/imapclient"
)

// Fetched is a message as a server gives it.
type Fetched struct {
	UID  uint32
	Seen bool
	Star bool // \Flagged
	Gone bool // \Deleted: another program has marked it for removal
	Raw  []byte
	At   time.Time // INTERNALDATE
	Size int64     // RFC822.SIZE, as the server claims it
}

func fetched(f *imapclient.FetchMessageData) (Fetched, error) {
	var out Fetched
	for item := f.Next(); item != nil; item = f.Next() {
		switch item := item.(type) {
		case imapclient.FetchItemDataUID:
			out.UID = uint32(item.UID)
		case imapclient.FetchItemDataFlags:
			for _, flag := range item.Flags {
				out.Seen = out.Seen || strings.EqualFold(string(flag), string(imap.FlagSeen))
				out.Star = out.Star || strings.EqualFold(string(flag), string(imap.FlagFlagged))
				out.Gone = out.Gone || strings.EqualFold(string(flag), string(imap.FlagDeleted))
			}
		case imapclient.FetchItemDataInternalDate:
			out.At = item.Time
		case imapclient.FetchItemDataRFC822Size:
			out.Size = item.Size
		case imapclient.FetchItemDataBodySection:
			if item.Literal == nil {
				continue
			}
			raw, err := io.ReadAll(item.Literal)
			if err != nil {
				return out, err
			}
			out.Raw = raw
		}
	}
	return out, nil
}

// MaxFetched is the largest message that is fetched from a server by itself, in
// bytes. A larger one is kept by its header until the user asks for it.
const MaxFetched = 32 << 20

// Sizes says how large messages of the open folder are, as the server claims.
func (m *Mailbox) Sizes(uids []uint32) (sizes map[uint32]int64, err error) {
	sizes = map[uint32]int64{}
	err = m.fetch(uids, &imap.FetchOptions{UID: true, RFC822Size: true}, 0, 0, func(f Fetched) error { sizes[f.UID] = f.Size; return nil })
	return sizes, err
}

// Fetch gives whole messages of the open folder, in no particular order, as
// they come in. What the server leaves out is not given. The sizes a server
// claims are not relied upon, but none may have more than largest bytes, and all
// together no more than twice those claimed, and some.
func (m *Mailbox) Fetch(uids []uint32, largest, claimed int64, f func(Fetched) error) error {
	return m.fetch(uids, &imap.FetchOptions{UID: true, Flags: true, InternalDate: true, BodySection: []*imap.FetchItemBodySection{{Peek: true}}}, largest, 2*claimed+int64(len(uids))*maxWord, f)
}

// FetchHeads gives the headers of messages of the open folder, and of each no
// more than the first 64 kB.
func (m *Mailbox) FetchHeads(uids []uint32, f func(Fetched) error) error {
	section := &imap.FetchItemBodySection{Peek: true, Specifier: imap.PartSpecifierHeader, Partial: &imap.SectionPartial{Size: maxWord}}
	return m.fetch(uids, &imap.FetchOptions{UID: true, Flags: true, InternalDate: true, RFC822Size: true, BodySection: []*imap.FetchItemBodySection{section}}, maxWord, int64(len(uids))*maxWord, f)
}

// Flags gives the flags of messages of the open folder.
func (m *Mailbox) Flags(uids []uint32, f func(Fetched) error) error {
	return m.fetch(uids, &imap.FetchOptions{UID: true, Flags: true}, 0, 0, f)
}

// Changed gives the flags of those messages of the open folder of which they have
// changed after a state (CONDSTORE, RFC 7162).
func (m *Mailbox) Changed(since uint64, f func(Fetched) error) error {
	return m.ask(imap.UIDSet{{Start: 1, Stop: 0}}, nil, int(m.count), &imap.FetchOptions{UID: true, Flags: true, ChangedSince: since}, 0, int64(m.count)*flagsLine, f)
}

// flagsLine is how many bytes the flags of one message may take on the average.
const flagsLine = 200

func (m *Mailbox) fetch(uids []uint32, o *imap.FetchOptions, largest, all int64, f func(Fetched) error) error {
	if len(uids) == 0 {
		return nil
	}
	asked := map[uint32]bool{}
	for _, u := range uids {
		asked[u] = true
	}
	return m.ask(setOf(uids), asked, len(uids), o, largest, all, f)
}

// ask asks for something about a number of messages; what was not asked for is
// left out, if that is known.
func (m *Mailbox) ask(set imap.UIDSet, asked map[uint32]bool, number int, o *imap.FetchOptions, largest, all int64, f func(Fetched) error) (err error) {
	defer m.op(maxReply+all, largest)(&err)
	cmd := m.client.Fetch(set, o)
	var failed error
	came := 0
	for msg := cmd.Next(); msg != nil; msg = cmd.Next() {
		if came++; came > 4*number+1000 {
			failed = m.guard.fail("It hands out messages that nobody asked for.")
			break
		}
		got, err := fetched(msg)
		if err == nil && failed == nil && (asked == nil || asked[got.UID]) {
			err = f(got)
		}
		if failed == nil {
			failed = err
		}
	}
	if err := cmd.Close(); failed == nil {
		failed = err
	}
	return failed
}
