package imap

import (
	"time"

	"github.com/emersion/go-imap/v2"
)

// Move takes messages of the open folder into another one, and says their new
// UIDs there if the server does (RFC 6851, RFC 4315).
func (m *Mailbox) Move(uids []uint32, to string) (moved map[uint32]uint32, err error) {
	defer m.op(maxReply, 0)(&err)
	set := setOf(uids)
	moved = map[uint32]uint32{}
	pair := func(from, to imap.NumSet) {
		a, okA := from.(imap.UIDSet)
		b, okB := to.(imap.UIDSet)
		if !okA || !okB {
			return
		}
		if count(a) > len(uids) || count(b) > len(uids) { // more than were moved: what it says is not believed
			return
		}
		old, _ := a.Nums()
		now, _ := b.Nums()
		for i := range min(len(old), len(now)) {
			moved[uint32(old[i])] = uint32(now[i])
		}
	}
	if m.client.Caps().Has(imap.CapMove) {
		d, err := m.client.Move(set, to).Wait()
		if err == nil && d != nil && d.SourceUIDs != nil {
			pair(d.SourceUIDs, d.DestUIDs)
		}
		return moved, err
	}
	d, err := m.client.Copy(set, to).Wait()
	if err != nil {
		return moved, err
	}
	if d != nil {
		pair(d.SourceUIDs, d.DestUIDs)
	}
	return moved, m.remove(set)
}

// count is how many messages a set names; very many if it has no end.
func count(set imap.UIDSet) (n int) {
	for _, r := range set {
		if r.Start == 0 || r.Stop == 0 {
			return 1 << 40
		}
		n += int(max(r.Start, r.Stop)) - int(min(r.Start, r.Stop)) + 1
	}
	return n
}

// SetFlag sets or takes away \Seen or \Flagged of messages of the open folder.
func (m *Mailbox) SetFlag(uids []uint32, star, on bool) (err error) {
	defer m.op(maxReply, 0)(&err)
	flag, op := imap.FlagSeen, imap.StoreFlagsDel
	if star {
		flag = imap.FlagFlagged
	}
	if on {
		op = imap.StoreFlagsAdd
	}
	return m.client.Store(setOf(uids), &imap.StoreFlags{Op: op, Silent: true, Flags: []imap.Flag{flag}}, nil).Close()
}

// Remove deletes messages of the open folder for good. Without UIDPLUS (RFC
// 4315) what another program has marked as deleted there goes with them.
func (m *Mailbox) Remove(uids []uint32) (err error) {
	defer m.op(maxReply, 0)(&err)
	return m.remove(setOf(uids))
}

func (m *Mailbox) remove(set imap.UIDSet) error {
	if err := m.client.Store(set, &imap.StoreFlags{Op: imap.StoreFlagsAdd, Silent: true, Flags: []imap.Flag{imap.FlagDeleted}}, nil).Close(); err != nil {
		return err
	}
	if m.client.Caps().Has(imap.CapUIDPlus) {
		return m.client.UIDExpunge(set).Close()
	}
	return m.client.Expunge().Close()
}

// Lay puts a message that has been read into a folder, as a draft or as one
// that is complete.
func (m *Mailbox) Lay(folder string, raw []byte, at time.Time, draft bool) (err error) {
	defer m.op(maxReply, 0)(&err)
	flags := []imap.Flag{imap.FlagSeen}
	if draft {
		flags = append(flags, imap.FlagDraft)
	}
	cmd := m.client.Append(folder, int64(len(raw)), &imap.AppendOptions{Flags: flags, Time: at})
	if _, err := cmd.Write(raw); err != nil {
		return err
	}
	if err := cmd.Close(); err != nil {
		return err
	}
	_, err = cmd.Wait()
	return err
}
