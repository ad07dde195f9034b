package mailsync

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"time"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/post/imap"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
)

// fetch takes in messages of the open folder: fresh ones in their order, those
// of before the newest first. What comes into the inbox meanwhile is taken in
// between.
func (p *pass) fetch(f *mailboxes.Folder, uids []uint32, fresh bool) error {
	if !fresh {
		p.expect(len(uids))
	}
	p.beyond = 0
	if fresh && f.Role == mail.RoleInbox && len(uids) > 0 {
		p.beyond = uids[len(uids)-1]
	}
	windows := windowsOf(uids, fresh, f.Careful)
	for first := true; len(windows) > 0; first = false {
		n := len(windows)
		if f.Role == mail.RoleInbox { // of which nothing else can be taken in at the same time
			n = min(n, inboxWindows)
		}
		if err := p.takeIn(f, windows[:n], taking{fresh: fresh, soon: first}); err != nil {
			return err
		}
		if windows = windows[n:]; len(windows) > 0 {
			if err := p.peek(f); err != nil {
				return err
			}
		}
	}
	return nil
}

// inboxWindows is how many windows of the inbox are taken in before it is looked
// for something new in it.
const inboxWindows = 5

// peekEvery is how often it is looked for something new in the inbox while a
// folder is being brought in.
const peekEvery = time.Second

// peek takes in what has come into the inbox since it was looked at, while a
// folder is brought in, be it the inbox itself.
func (p *pass) peek(f *mailboxes.Folder) error {
	i := slices.IndexFunc(p.folders, func(x *mailboxes.Folder) bool { return x.Role == mail.RoleInbox })
	if i < 0 || time.Since(p.peeked) < peekEvery {
		return nil
	}
	in := p.folders[i]
	if !in.Whole && in.High == 0 { // it has not been begun with
		return nil
	}
	defer func() { p.peeked = time.Now() }()
	above := uint32(in.High)
	switch {
	case f == in: // what is being brought in may have to come before what is new
		above = max(above, p.beyond)
	default:
		next, err := p.m.Next(in.Name)
		if err != nil || int64(next)-1 <= in.High {
			return err
		}
		if err := p.at(in.Name); err != nil {
			return err
		}
	}
	fresh, err := p.m.Above(above)
	if err == nil && len(fresh) > 0 {
		apart := int64(above) > in.High
		for windows := range slices.Chunk(windowsOf(fresh, true, in.Careful), inboxWindows) {
			if err = p.takeIn(in, windows, taking{fresh: true, soon: true, apart: apart}); err != nil {
				break
			}
		}
		if apart && err == nil {
			p.beyond = fresh[len(fresh)-1]
		}
	}
	if err != nil {
		return err
	}
	return p.at(f.Name)
}

// taking is how messages are taken in.
type taking struct {
	fresh bool // they have just come
	soon  bool // the first are to be in view at once
	apart bool // there are others before them that are not here yet: what was reached is not noted, and they are met once more
}

// takeIn takes in the messages of some windows of the open folder.
func (p *pass) takeIn(f *mailboxes.Folder, windows [][]uint32, how taking) error {
	fresh := how.fresh
	o := intake.Options{Place: cmp.Or(placeOf[f.Role], inbox.Archived), Arrived: fresh && f.Role == mail.RoleInbox, Others: intake.InTurn}
	o.Stored = func(t store.Tx, items []post.Item, ids []int64, had []bool) error {
		return p.stored(t, f, items, ids, had, fresh)
	}
	if !fresh {
		o.Progress = p.progress()
	}
	in := p.s.intake.Begin(p.ctx, p.a.BoxID, o)
	var failed error
	for i, window := range windows {
		if failed = p.window(in, f, window, how); failed != nil {
			break
		}
		if how.soon && i < shownSoon {
			in.Flush()
		}
		if f.Role != mail.RoleInbox && i < len(windows)-1 {
			if failed = p.peek(f); failed != nil {
				break
			}
		}
	}
	_, err := in.Close()
	if failed != nil && err != nil { // what stopped the intake is what ended the rest
		failed = nil
	}
	err = within(err)
	if len(p.heeded) > 0 {
		p.s.journal.Tell(p.a.BoxID, "", p.heeded)
		p.heeded = nil
	}
	var excess *imap.Excess
	damaged := err != nil && !errors.Is(err, store.ErrFull) && !errors.Is(err, store.ErrLocked) && p.ctx.Err() == nil
	if (damaged || err == nil && errors.As(failed, &excess)) && !f.Careful { // next time one by one, so that the others come in
		err = errors.Join(err, p.write(func(t store.Tx) error { f.Careful = true; return mailboxes.Folders(t).PutFolder(f) }))
	} else if err == nil && failed == nil && f.Careful {
		err = p.write(func(t store.Tx) error { f.Careful, f.Trying = false, 0; return mailboxes.Folders(t).PutFolder(f) })
	}
	if err == nil {
		err = failed
	}
	return err
}

// shownSoon is of how many windows what came in is in view at once; the rest is
// stored in larger pieces.
const shownSoon = 3

// windowsOf cuts UIDs into what is asked for at once: fresh ones from the oldest
// on, those of before from the newest. Where a message has broken the line, each
// is asked for by itself.
func windowsOf(uids []uint32, fresh, careful bool) (out [][]uint32) {
	size := windowSize
	if careful {
		size = 1
	}
	if fresh {
		return slices.Collect(slices.Chunk(uids, size))
	}
	for rest := uids; len(rest) > 0; {
		n := min(len(rest), size)
		out = append(out, rest[len(rest)-n:])
		rest = rest[:len(rest)-n]
	}
	return out
}

// window takes in the messages of one window. What is too large is taken by its
// header, and so is what has broken the line before.
func (p *pass) window(in *intake.Run, f *mailboxes.Folder, window []uint32, how taking) error {
	var last *post.Item // held back, as it says what was reached
	add := func(item post.Item) error {
		if last != nil {
			if err := in.Add(*last); err != nil {
				return err
			}
		}
		last = &item
		return nil
	}
	take := func(stub bool) func(imap.Fetched) error {
		return func(got imap.Fetched) error {
			if got.Raw == nil {
				return nil
			}
			item := post.Item{Raw: got.Raw, Flags: post.Flags{Known: true, Seen: got.Seen, Flagged: got.Star}, UID: int64(got.UID)}
			if stub {
				item.Stub = max(got.Size, int64(len(got.Raw))+1)
			}
			return add(item)
		}
	}
	var whole, heads []uint32
	claimed := int64(0)
	sizes, err := p.m.Sizes(window)
	if err != nil {
		return err
	}
	for _, u := range window {
		if sizes[u] > imap.MaxFetched {
			heads = append(heads, u)
		} else {
			whole = append(whole, u)
			claimed += sizes[u]
		}
	}
	lost := false
	if f.Careful {
		trying := f.Trying
		switch u := int64(window[0]); trying {
		case u:
			whole, heads, trying = nil, window, -u
		case -u: // not even its header can be had
			whole, heads, lost = nil, nil, true
		default:
			trying = u
		}
		// What came before may be being stored, with the folder: it is changed where
		// nobody else writes.
		if err := p.write(func(t store.Tx) error { f.Trying = trying; return mailboxes.Folders(t).PutFolder(f) }); err != nil {
			return err
		}
	}
	if err := p.m.Fetch(whole, imap.MaxFetched+1<<20, claimed, take(false)); err != nil {
		return err
	}
	if err := p.m.FetchHeads(heads, take(true)); err != nil {
		return err
	}
	if lost {
		head := fmt.Sprintf("Subject: A message that its server does not hand out\r\nDate: %s\r\nMessage-ID: <lost-%d-%d-%d@localhost>\r\n\r\n", p.s.journal.Now().Time().Format(time.RFC1123Z), f.ID, f.Validity, window[0])
		if err := add(post.Item{Raw: []byte(head), Flags: post.Flags{Known: true, Seen: true}, UID: int64(window[0]), Stub: 1}); err != nil {
			return err
		}
	}
	if last == nil {
		return nil
	}
	switch {
	case how.apart:
	case how.fresh:
		last.Reached = int64(window[len(window)-1])
	default:
		last.Reached = int64(window[0])
	}
	return in.Add(*last)
}

// expect notes how many more messages the first sync will bring.
func (p *pass) expect(n int) {
	if p.a.Synced == 0 {
		p.a.Expected = p.a.Brought + n
	}
}

// progress notes how far the first sync has come.
func (p *pass) progress() func(intake.Tally) {
	if p.a.Synced != 0 {
		return nil
	}
	before := p.a.Brought
	return func(t intake.Tally) {
		p.a.Brought = before + t.Read
		_ = p.write(func(t store.Tx) error { return mailboxes.Accounts(t).NoteProgress(p.a.ID, p.a.Expected, p.a.Brought) }) // it is only told
		p.s.journal.Announce(p.a.BoxID, journal.Event{Topics: []string{journal.TopicAccounts}})
	}
}

// stored notes, in the transaction in which messages are stored, where they
// lie. What Ebbe had and has not lain in this folder was put there by somebody
// else, be it after it had gone from everywhere.
func (p *pass) stored(t store.Tx, f *mailboxes.Folder, items []post.Item, ids []int64, had []bool, fresh bool) error {
	if _, err := mailboxes.Accounts(t).Account(p.a.BoxID, p.a.ID); err != nil { // taken away meanwhile: nothing more comes in by it
		return err
	}
	known, err := mailboxes.Folders(t).CopiesOf(ids)
	if err != nil {
		return err
	}
	here, anywhere, put := map[int64]bool{}, map[int64]mailboxes.Copy{}, map[int64]when.Instant{}
	var renumbered []int64
	for _, k := range known {
		anywhere[k.MessageID] = k
		if k.FolderID == f.ID {
			here[k.MessageID], put[k.MessageID] = true, k.Put
			if k.UID < 0 {
				renumbered = append(renumbered, k.UID)
			}
		}
	}
	awaited, err := mailboxes.Folders(t).Awaited(f.ID, ids)
	if err != nil {
		return err
	}
	var happened []mailboxes.Happening
	var arrived []int64
	copies, news := make([]mailboxes.Copy, len(items)), map[int64][]inbox.Elsewhere{}
	for i, item := range items {
		copies[i] = mailboxes.Copy{FolderID: f.ID, UID: item.UID, MessageID: ids[i], Seen: item.Flags.Seen, Star: item.Flags.Flagged}
		was, known := anywhere[ids[i]]
		if copies[i].Put = put[ids[i]]; awaited[ids[i]] {
			copies[i].Put = p.s.journal.Now()
		}
		if known && was.Seen != item.Flags.Seen {
			news[ids[i]] = append(news[ids[i]], inbox.Elsewhere{Seen: &copies[i].Seen})
		}
		if known && was.Star != item.Flags.Flagged {
			news[ids[i]] = append(news[ids[i]], inbox.Elsewhere{Star: &copies[i].Star})
		}
		if !had[i] {
			arrived = append(arrived, ids[i])
		}
		if (known || had[i] && fresh) && !here[ids[i]] && !awaited[ids[i]] {
			happened = append(happened, mailboxes.Happening{AccountID: p.a.ID, MessageID: ids[i]})
		}
		switch {
		case item.Reached == 0:
		case fresh:
			f.High = max(f.High, item.Reached)
		default:
			f.Low = min(f.Low, item.Reached)
		}
	}
	if err := mailboxes.Folders(t).DropCopies(f.ID, renumbered); err != nil {
		return err
	}
	if err := mailboxes.Folders(t).PutCopies(copies); err != nil {
		return err
	}
	if err := mailboxes.Folders(t).Happen(happened); err != nil {
		return err
	}
	if len(news) > 0 {
		changes, err := p.heed(t, news)
		if err != nil {
			return err
		}
		p.heeded = append(p.heeded, changes...)
	}
	if f.Role == mail.RoleInbox {
		if err := mailboxes.Errands(t).AddErrands(p.a.BoxID, arrived, p.s.journal.Now()); err != nil {
			return err
		}
	}
	return mailboxes.Folders(t).PutFolder(f)
}
