package mailsync

import (
	"slices"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/post/imap"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
)

// flags looks at what was read or flagged elsewhere.
func (p *pass) flags(f *mailboxes.Folder, s imap.Selected) error {
	if s.ModSeq != 0 && s.ModSeq == f.ModSeq {
		return nil
	}
	if s.ModSeq != 0 && f.ModSeq != 0 {
		if err := p.changed(f); err != nil {
			return err
		}
		f.ModSeq = s.ModSeq
		return p.write(func(t store.Tx) error { return mailboxes.Folders(t).PutFolder(f) })
	}
	var uids []int64
	err := p.read(func(t store.Tx) (err error) { uids, err = mailboxes.Folders(t).CopyUIDs(f.ID); return err })
	if err != nil {
		return err
	}
	most := folderFlags
	if f.Role == mail.RoleInbox {
		most = freshFlags
	}
	if !p.full && len(uids) > most {
		uids = uids[len(uids)-most:]
	}
	ask := make([]uint32, 0, len(uids))
	for _, u := range uids {
		if u > 0 {
			ask = append(ask, uint32(u))
		}
	}
	for window := range slices.Chunk(ask, flagsOnce) {
		var seen []imap.Fetched
		if err := p.m.Flags(window, func(got imap.Fetched) error { seen = append(seen, got); return nil }); err != nil {
			return err
		}
		if err := p.flagged(f, seen); err != nil {
			return err
		}
	}
	if s.ModSeq == f.ModSeq {
		return nil
	}
	f.ModSeq = s.ModSeq
	return p.write(func(t store.Tx) error { return mailboxes.Folders(t).PutFolder(f) })
}

// flagsOnce is of how many messages the flags are compared at once.
const flagsOnce = 5000

// changed looks at the flags that have changed since the folder was looked at.
func (p *pass) changed(f *mailboxes.Folder) error {
	var seen []imap.Fetched
	err := p.m.Changed(f.ModSeq, func(got imap.Fetched) error {
		if seen = append(seen, got); len(seen) < flagsOnce {
			return nil
		}
		err := p.flagged(f, seen)
		seen = nil
		return err
	})
	if err != nil {
		return err
	}
	return p.flagged(f, seen)
}

// flagged compares flags with what they were, and follows what has changed.
func (p *pass) flagged(f *mailboxes.Folder, seen []imap.Fetched) error {
	if len(seen) == 0 {
		return nil
	}
	uids := make([]int64, len(seen))
	for i, s := range seen {
		uids[i] = int64(s.UID)
	}
	var changed []inbox.Change
	err := p.write(func(t store.Tx) error {
		changed = nil
		copies, err := mailboxes.Folders(t).CopiesAt(f.ID, uids)
		if err != nil {
			return err
		}
		was := map[int64]mailboxes.Copy{}
		for _, k := range copies {
			was[k.UID] = k
		}
		var put []mailboxes.Copy
		news := map[int64][]inbox.Elsewhere{} // by message
		for _, s := range seen {
			k, ok := was[int64(s.UID)]
			if !ok || k.Seen == s.Seen && k.Star == s.Star {
				continue
			}
			if k.Seen != s.Seen {
				news[k.MessageID] = append(news[k.MessageID], inbox.Elsewhere{Seen: &s.Seen})
			}
			if k.Star != s.Star {
				news[k.MessageID] = append(news[k.MessageID], inbox.Elsewhere{Star: &s.Star})
			}
			k.Seen, k.Star = s.Seen, s.Star
			put = append(put, k)
		}
		if len(put) == 0 {
			return nil
		}
		if err := mailboxes.Folders(t).PutCopies(put); err != nil {
			return err
		}
		changed, err = p.heed(t, news)
		return err
	})
	if len(changed) > 0 {
		p.s.journal.Tell(p.a.BoxID, "", changed)
	}
	return err
}
