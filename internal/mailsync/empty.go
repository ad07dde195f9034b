package mailsync

import (
	"fmt"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/say"
	"ebbe/internal/core/when"
	"ebbe/internal/journal"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
)

// emptyOnce is how many messages are removed in one pass.
const emptyOnce = 500

// empty removes from the bin and junk what Ebbe put there long enough ago, if the
// person wants that: on the server, and here. What lay there before stays.
func (p *pass) empty() error {
	if p.a.EmptyDays <= 0 {
		return nil
	}
	now := p.s.journal.Now()
	before := now - when.Instant(p.a.EmptyDays)*24*3_600_000
	var stale map[int64][]mailboxes.Copy
	err := p.read(func(t store.Tx) (err error) {
		stale, err = mailboxes.Folders(t).Stale(p.a.ID, before, emptyOnce)
		return err
	})
	if err != nil || len(stale) == 0 {
		return err
	}
	n := 0
	for _, f := range p.folders {
		copies := stale[f.ID]
		if len(copies) == 0 {
			continue
		}
		if err := p.at(f.Name); err != nil {
			return err
		}
		uids, ids, messages := make([]uint32, len(copies)), make([]int64, len(copies)), make([]int64, len(copies))
		for i, k := range copies {
			uids[i], ids[i], messages[i] = uint32(k.UID), k.UID, k.MessageID
		}
		if err := p.m.Remove(uids); err != nil {
			return err
		}
		removed := 0
		err := p.write(func(t store.Tx) error {
			if err := mailboxes.Folders(t).DropCopies(f.ID, ids); err != nil {
				return err
			}
			removed, err = mailboxes.Folders(t).Remove(p.a.BoxID, messages)
			if err != nil || removed == 0 {
				return err
			}
			return store.Journal(t).Record(&store.Entry{BoxID: p.a.BoxID, PersonID: p.a.PersonID, Actor: store.ByClock, Kind: inbox.Empty, At: now, Count: removed, Text: p.a.Name})
		})
		if err != nil {
			return err
		}
		n += removed
	}
	if n > 0 {
		p.s.journal.Announce(p.a.BoxID, journal.Event{Topics: []string{journal.TopicMail}, Notice: journal.Notice{Text: fmt.Sprintf("%s that Ebbe put into the bin or junk of “%s” more than %d days ago: removed for good.", say.Plural(n, "message"), p.a.Name, p.a.EmptyDays)}})
	}
	return nil
}
