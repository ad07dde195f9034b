package imap

import (
	"slices"

	"github.com/emersion/go-imap/v2"
)

// UIDs gives the UIDs of all messages of the open folder, in order.
func (m *Mailbox) UIDs() (uids []uint32, err error) {
	return m.search(&imap.SearchCriteria{UID: []imap.UIDSet{{{Start: 1, Stop: 0}}}})
}

// Above gives the UIDs of the messages of the open folder that are above one.
func (m *Mailbox) Above(uid uint32) (uids []uint32, err error) {
	uids, err = m.search(&imap.SearchCriteria{UID: []imap.UIDSet{{{Start: imap.UID(uid) + 1, Stop: 0}}}})
	return slices.DeleteFunc(uids, func(u uint32) bool { return u <= uid }), err // of a folder with none above, the last is given
}

// search gives the UIDs that a search finds, in order.
func (m *Mailbox) search(c *imap.SearchCriteria) (uids []uint32, err error) {
	defer m.op(4*maxReply, 0)(&err)
	var o *imap.SearchOptions
	if m.client.Caps().Has(imap.CapESearch) { // as ranges (RFC 4731)
		o = &imap.SearchOptions{ReturnAll: true}
	}
	if _, err := m.client.UIDSearch(c, o).Wait(); err != nil {
		return nil, err
	}
	return m.guard.found(), nil
}

func setOf(uids []uint32) (set imap.UIDSet) {
	for _, u := range uids {
		set.AddNum(imap.UID(u))
	}
	return set
}

// Find gives the UIDs of the messages of the open folder with that Message-ID.
func (m *Mailbox) Find(messageID string) (uids []uint32, err error) {
	return m.search(&imap.SearchCriteria{Header: []imap.SearchCriteriaHeaderField{{Key: "Message-ID", Value: messageID}}})
}
