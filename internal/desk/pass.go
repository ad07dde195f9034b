package desk

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/say"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/store"
)

// How many messages are asked for at once, and of how many of the newest the
// flags are looked at each time where the server does not say which changed.
const (
	windowSize  = 200
	freshFlags  = 1000
	folderFlags = 100
	errandsOnce = 500
)

// pass is one pass over an account: what is new is taken in, what has happened
// there is followed, and what was decided here is carried there.
type pass struct {
	d       *Desk
	ctx     context.Context
	a       store.Account
	m       *post.Mailbox
	full    bool // all flags are looked at
	folders []*store.Folder
	trouble []string       // what went wrong with a part of it, in sentences
	heeded  []inbox.Change // what followed from flags found with messages that were known
}

// pass passes over an account; with no line to its mailbox it opens one.
func (d *Desk) pass(ctx context.Context, a store.Account, m *post.Mailbox, full bool) error {
	defer d.links.lock(a.ID)()
	if m == nil {
		login, err := d.login(a)
		if err != nil {
			return err
		}
		if m, err = d.links.Network.OpenMailbox(ctx, a.Mailbox, login); err != nil {
			return err
		}
		defer m.Close()
	}
	err := d.store.Read(ctx, func(t store.Tx) (err error) {
		a, err = t.Account(a.BoxID, a.ID) // as it is now
		return err
	})
	if err != nil {
		return err
	}
	p := &pass{d: d, ctx: ctx, a: a, m: m, full: full}
	if err := p.run(); err != nil {
		return err
	}
	if n := m.LeftOut(); n > 0 {
		p.trouble = append(p.trouble, say.Plural(n, "folder")+" cannot be read here, as the server gives a name that is none. The others are in step.")
	}
	d.noteSync(ctx, a, strings.Join(p.trouble, " "))
	return nil
}

func (p *pass) run() error {
	if err := p.list(); err != nil {
		return err
	}
	for _, f := range p.folders {
		err := p.folder(f)
		if said, no := post.Said(err); no { // the server will not, with this one: the others go on
			p.trouble = append(p.trouble, fmt.Sprintf("The folder “%s” cannot be kept in step: the server says “%s”.", f.Name, said))
			continue
		}
		if err != nil {
			return err
		}
	}
	if err := p.follow(); err != nil {
		return err
	}
	if p.d.resting() { // nothing is carried before all accounts have been followed
		if err := p.d.lookedAt(p.ctx, p.a.ID); err != nil || p.d.resting() {
			return err
		}
	}
	if err := p.putBack(); err != nil {
		return err
	}
	if err := p.lay(); err != nil {
		return err
	}
	if err := p.drafts(); err != nil {
		return err
	}
	if err := p.carry(); err != nil {
		return err
	}
	if err := p.empty(); err != nil {
		return err
	}
	_, err := p.m.Select("INBOX") // where what is new is waited for
	return err
}

func (p *pass) write(f func(store.Tx) error) error { return p.d.store.Write(p.ctx, f) }

// list brings the folders in step.
func (p *pass) list() error {
	found, err := p.m.Folders()
	if err != nil {
		return err
	}
	return p.write(func(t store.Tx) error {
		p.folders = nil
		known, err := t.Folders(p.a.ID)
		if err != nil {
			return err
		}
		for _, f := range known {
			if !slices.ContainsFunc(found, func(o post.Folder) bool { return o.Name == f.Name }) {
				f.Gone = true
				if err := t.PutFolder(&f); err != nil {
					return err
				}
			}
		}
		for _, o := range found {
			f, err := t.FolderNamed(p.a.ID, o.Name)
			if err != nil && !errors.Is(err, store.ErrNotFound) {
				return err
			}
			if f.AccountID, f.Name = p.a.ID, o.Name; f.ID == 0 || f.Role != o.Role || f.Gone {
				f.Role, f.Gone = o.Role, false
				if err := t.PutFolder(&f); err != nil {
					return err
				}
			}
			p.folders = append(p.folders, &f)
		}
		return nil
	})
}

// folder brings one folder in step.
func (p *pass) folder(f *store.Folder) error {
	if f.Role == mail.RoleDrafts {
		return nil
	}
	s, err := p.m.Select(f.Name)
	if err != nil {
		return err
	}
	if int64(s.Validity) != f.Validity {
		err := p.write(func(t store.Tx) error {
			f.Validity, f.Low, f.High, f.Whole, f.ModSeq = int64(s.Validity), 0, 0, false, 0
			if err := t.Renumber(f.ID); err != nil {
				return err
			}
			return t.PutFolder(f)
		})
		if err != nil {
			return err
		}
	}
	var count int64
	if err := p.d.store.Read(p.ctx, func(t store.Tx) error { count, err = t.CountCopies(f.ID); return err }); err != nil {
		return err
	}
	if f.Whole && s.Next != 0 && int64(s.Next)-1 <= f.High && count == int64(s.Count) { // nothing came, nothing went
		return p.flags(f, s)
	}
	uids, err := p.m.UIDs()
	if err != nil {
		return err
	}
	if err := p.vanished(f, uids); err != nil {
		return err
	}
	first := !f.Whole && f.High == 0
	if first {
		last := int64(0)
		if len(uids) > 0 {
			last = int64(uids[len(uids)-1])
		}
		f.High, f.Low = max(last, int64(s.Next)-1), last+1
		f.ModSeq = s.ModSeq
	}
	split, _ := slices.BinarySearchFunc(uids, f.High, func(u uint32, high int64) int { return cmp.Compare(int64(u), high+1) })
	if fresh := uids[split:]; len(fresh) > 0 && !first {
		if err := p.fetch(f, fresh, true); err != nil {
			return err
		}
	}
	if !f.Whole {
		below, _ := slices.BinarySearchFunc(uids, f.Low, func(u uint32, low int64) int { return cmp.Compare(int64(u), low) })
		if err := p.fetch(f, uids[:below], false); err != nil {
			return err
		}
		err := p.write(func(t store.Tx) error {
			f.Whole, f.Low = true, 1
			if err := t.PutFolder(f); err != nil {
				return err
			}
			return p.dropped(t, f, func(uid int64) bool { return uid < 0 })
		})
		if err != nil {
			return err
		}
	}
	return p.flags(f, s)
}

// vanished forgets places in a folder where nothing lies any more.
func (p *pass) vanished(f *store.Folder, uids []uint32) error {
	return p.write(func(t store.Tx) error {
		return p.dropped(t, f, func(uid int64) bool {
			if uid < 0 {
				return false
			}
			_, there := slices.BinarySearch(uids, uint32(uid))
			return !there
		})
	})
}

// dropped forgets the places in a folder that gone names, and notes which
// messages that happened to.
func (p *pass) dropped(t store.Tx, f *store.Folder, gone func(uid int64) bool) error {
	known, err := t.CopyUIDs(f.ID)
	if err != nil {
		return err
	}
	var uids []int64
	for _, u := range known {
		if gone(u) {
			uids = append(uids, u)
		}
	}
	if len(uids) == 0 {
		return nil
	}
	copies, err := t.CopiesAt(f.ID, uids)
	if err != nil {
		return err
	}
	var happened []store.Happening
	for _, k := range copies {
		happened = append(happened, store.Happening{AccountID: p.a.ID, MessageID: k.MessageID, FolderID: f.ID})
	}
	if err := t.Happen(happened); err != nil {
		return err
	}
	return t.DropCopies(f.ID, uids)
}

// fetch takes in messages of the open folder: fresh ones in their order, those
// of before the newest first.
func (p *pass) fetch(f *store.Folder, uids []uint32, fresh bool) error {
	o := intake.Options{Place: cmp.Or(placeOf[f.Role], inbox.Archived), Arrived: fresh && f.Role == mail.RoleInbox}
	o.Stored = func(t store.Tx, items []post.Item, ids []int64, had []bool) error {
		return p.stored(t, f, items, ids, had, fresh)
	}
	if !fresh {
		o.Progress = p.progress(len(uids))
	}
	in := p.d.Intake.Begin(p.ctx, p.a.BoxID, o)
	windows := windowsOf(uids, fresh, f.Careful)
	var failed error
	for _, window := range windows {
		if failed = p.window(in, f, window, fresh); failed != nil {
			break
		}
	}
	_, err := in.Close()
	if len(p.heeded) > 0 {
		p.d.Journal.Tell(p.a.BoxID, "", p.heeded)
		p.heeded = nil
	}
	var excess *post.Excess
	if err == nil && errors.As(failed, &excess) && !f.Careful { // next time one by one, so that the others come in
		err = p.write(func(t store.Tx) error { f.Careful = true; return t.PutFolder(f) })
	} else if err == nil && failed == nil && f.Careful {
		err = p.write(func(t store.Tx) error { f.Careful, f.Trying = false, 0; return t.PutFolder(f) })
	}
	if err == nil {
		err = failed
	}
	return err
}

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
func (p *pass) window(in *intake.Run, f *store.Folder, window []uint32, fresh bool) error {
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
	take := func(stub bool) func(post.Fetched) error {
		return func(got post.Fetched) error {
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
		if sizes[u] > post.MaxFetched {
			heads = append(heads, u)
		} else {
			whole = append(whole, u)
			claimed += sizes[u]
		}
	}
	lost := false
	if f.Careful {
		switch u := int64(window[0]); f.Trying {
		case u:
			whole, heads, f.Trying = nil, window, -u
		case -u: // not even its header can be had
			whole, heads, lost = nil, nil, true
		default:
			f.Trying = u
		}
		if err := p.write(func(t store.Tx) error { return t.PutFolder(f) }); err != nil {
			return err
		}
	}
	if err := p.m.Fetch(whole, post.MaxFetched+1<<20, claimed, take(false)); err != nil {
		return err
	}
	if err := p.m.FetchHeads(heads, take(true)); err != nil {
		return err
	}
	if lost {
		head := fmt.Sprintf("Subject: A message that its server does not hand out\r\nDate: %s\r\nMessage-ID: <lost-%d-%d-%d@localhost>\r\n\r\n", p.d.now().Time().Format(time.RFC1123Z), f.ID, f.Validity, window[0])
		if err := add(post.Item{Raw: []byte(head), Flags: post.Flags{Known: true, Seen: true}, UID: int64(window[0]), Stub: 1}); err != nil {
			return err
		}
	}
	if last == nil {
		return nil
	}
	last.Reached = int64(window[0])
	if fresh {
		last.Reached = int64(window[len(window)-1])
	}
	err = in.Add(*last)
	in.Flush()
	return err
}

// progress notes how far the first sync has come.
func (p *pass) progress(n int) func(intake.Tally) {
	if p.a.Synced != 0 || n == 0 {
		return nil
	}
	before := p.a.Brought
	p.a.Expected = before + n
	return func(t intake.Tally) {
		p.a.Brought = before + t.Read
		_ = p.write(func(t store.Tx) error { return t.NoteProgress(p.a.ID, p.a.Expected, p.a.Brought) }) // it is only told
		p.d.Journal.Announce(p.a.BoxID, journal.Event{Topics: []string{journal.TopicAccounts}})
	}
}

// stored notes, in the transaction in which messages are stored, where they
// lie. What Ebbe had and has not lain in this folder was put there by somebody
// else, be it after it had gone from everywhere.
func (p *pass) stored(t store.Tx, f *store.Folder, items []post.Item, ids []int64, had []bool, fresh bool) error {
	known, err := t.CopiesOf(ids)
	if err != nil {
		return err
	}
	here, anywhere, put := map[int64]bool{}, map[int64]store.Copy{}, map[int64]when.Instant{}
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
	awaited, err := t.Awaited(f.ID, ids)
	if err != nil {
		return err
	}
	var happened []store.Happening
	var arrived []int64
	copies, news := make([]store.Copy, len(items)), map[int64][]inbox.Elsewhere{}
	for i, item := range items {
		copies[i] = store.Copy{FolderID: f.ID, UID: item.UID, MessageID: ids[i], Seen: item.Flags.Seen, Star: item.Flags.Flagged}
		was, known := anywhere[ids[i]]
		if copies[i].Put = put[ids[i]]; awaited[ids[i]] {
			copies[i].Put = p.d.now()
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
			happened = append(happened, store.Happening{AccountID: p.a.ID, MessageID: ids[i]})
		}
		switch {
		case item.Reached == 0:
		case fresh:
			f.High = max(f.High, item.Reached)
		default:
			f.Low = min(f.Low, item.Reached)
		}
	}
	if err := t.DropCopies(f.ID, renumbered); err != nil {
		return err
	}
	if err := t.PutCopies(copies); err != nil {
		return err
	}
	if err := t.Happen(happened); err != nil {
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
		if err := t.AddErrands(p.a.BoxID, arrived, p.d.now()); err != nil {
			return err
		}
	}
	return t.PutFolder(f)
}

// flags looks at what was read or flagged elsewhere.
func (p *pass) flags(f *store.Folder, s post.Selected) error {
	if s.ModSeq != 0 && s.ModSeq == f.ModSeq {
		return nil
	}
	var uids []int64
	err := p.d.store.Read(p.ctx, func(t store.Tx) (err error) { uids, err = t.CopyUIDs(f.ID); return err })
	if err != nil {
		return err
	}
	most := folderFlags
	if f.Role == mail.RoleInbox {
		most = freshFlags
	}
	since := uint64(0)
	if s.ModSeq != 0 {
		since = f.ModSeq
	}
	if !p.full && since == 0 && len(uids) > most {
		uids = uids[len(uids)-most:]
	}
	ask := make([]uint32, 0, len(uids))
	for _, u := range uids {
		if u > 0 {
			ask = append(ask, uint32(u))
		}
	}
	for window := range slices.Chunk(ask, 5000) {
		var seen []post.Fetched
		if err := p.m.Flags(window, since, func(got post.Fetched) error { seen = append(seen, got); return nil }); err != nil {
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
	return p.write(func(t store.Tx) error { return t.PutFolder(f) })
}

// flagged compares flags with what they were, and follows what has changed.
func (p *pass) flagged(f *store.Folder, seen []post.Fetched) error {
	uids := make([]int64, len(seen))
	for i, s := range seen {
		uids[i] = int64(s.UID)
	}
	var changed []inbox.Change
	err := p.write(func(t store.Tx) error {
		changed = nil
		copies, err := t.CopiesAt(f.ID, uids)
		if err != nil {
			return err
		}
		was := map[int64]store.Copy{}
		for _, k := range copies {
			was[k.UID] = k
		}
		var put []store.Copy
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
		if err := t.PutCopies(put); err != nil {
			return err
		}
		changed, err = p.heed(t, news)
		return err
	})
	if len(changed) > 0 {
		p.d.Journal.Tell(p.a.BoxID, "", changed)
	}
	return err
}

// follow lets conversations follow what was done to their messages elsewhere.
func (p *pass) follow() error {
	var changed []inbox.Change
	asked := 0
	err := p.write(func(t store.Tx) error {
		changed, asked = nil, 0
		happened, err := t.Happenings(p.a.ID)
		if err != nil || len(happened) == 0 {
			return err
		}
		ids := make([]int64, len(happened))
		var messages []int64
		for i, h := range happened {
			ids[i] = h.ID
			messages = append(messages, h.MessageID)
		}
		slices.Sort(messages)
		messages = slices.Compact(messages)
		copies, err := t.CopiesOf(messages)
		if err != nil {
			return err
		}
		roles := map[int64]mail.Role{}
		for _, f := range p.folders {
			roles[f.ID] = f.Role
		}
		at := map[int64]map[mail.Role]bool{}
		for _, k := range copies {
			if k.UID > 0 {
				if at[k.MessageID] == nil {
					at[k.MessageID] = map[mail.Role]bool{}
				}
				at[k.MessageID][cmp.Or(roles[k.FolderID], mail.RoleOther)] = true
			}
		}
		news := map[int64][]inbox.Elsewhere{}
		var nowhere []store.Vanishing
		out := map[int64]int64{} // the folders that messages went out of
		for _, h := range happened {
			if h.FolderID != 0 {
				out[h.MessageID] = h.FolderID
			}
		}
		for _, m := range messages {
			to := mail.Role("")
			for _, r := range []mail.Role{mail.RoleInbox, mail.RoleArchive, mail.RoleOther, mail.RoleSent, mail.RoleJunk, mail.RoleBin} {
				if at[m][r] {
					to = r
					break
				}
			}
			news[m] = []inbox.Elsewhere{{To: to, Last: roles[out[m]] == mail.RoleInbox}}
			if to == "" && out[m] != 0 {
				nowhere = append(nowhere, store.Vanishing{FolderID: out[m], MessageID: m, AccountID: p.a.ID, At: p.d.now()})
			}
		}
		if asked, err = p.askAbout(t, nowhere, news); err != nil {
			return err
		}
		if changed, err = p.heed(t, news); err != nil {
			return err
		}
		if err := p.remark(t, messages); err != nil {
			return err
		}
		return t.Followed(ids)
	})
	if len(changed) > 0 {
		p.d.Journal.Tell(p.a.BoxID, "", changed)
	}
	if err == nil && asked > 0 {
		p.d.Journal.Announce(p.a.BoxID, journal.Event{Topics: []string{journal.TopicAccounts, journal.TopicMail}, Notice: vanishedText(asked, p.a.Name) + " Nothing was binned: say in Accounts what is to be done."})
	}
	return err
}

// remark has the server told again how these messages and their conversations are
// marked, where it shows that no longer: the one with the star or the newest has
// gone, or one that was deleted lies there again as if nobody had read it.
func (p *pass) remark(t store.Tx, messages []int64) error {
	of, err := t.ConversationsOf(p.a.BoxID, messages)
	if err != nil {
		return err
	}
	conversations := slices.Compact(slices.Sorted(maps.Values(of)))
	about := make([]store.Errand, len(conversations))
	for i, id := range conversations {
		about[i].ConversationID = id
	}
	open, err := openWork(t, p.a, about)
	if err != nil {
		return err
	}
	var amiss []int64
	for _, id := range conversations {
		if slices.ContainsFunc(open.todo[id], func(e inbox.Errand) bool { return e.Star != nil || e.Seen != nil && (!*e.Seen || of[e.Message] == id) }) {
			amiss = append(amiss, id)
		}
	}
	return t.CarryMarks(p.a.BoxID, amiss)
}

// heed changes conversations by what happened to messages on the server,
// with one line in the journal, by which all of it can be taken back. Where something was decided here that the server
// does not know yet, that counts.
func (p *pass) heed(t store.Tx, news map[int64][]inbox.Elsewhere) (changes []inbox.Change, err error) {
	box, now := p.a.BoxID, p.d.now()
	of, err := t.ConversationsOf(box, slices.Collect(maps.Keys(news)))
	if err != nil {
		return nil, err
	}
	conversations := slices.Sorted(maps.Values(of))
	conversations = slices.Compact(conversations)
	errands, err := t.OpenErrands(box, conversations)
	if err != nil {
		return nil, err
	}
	copies, err := t.ConversationCopies(box, conversations)
	if err != nil {
		return nil, err
	}
	newest, err := t.NewestOf(box, conversations)
	if err != nil {
		return nil, err
	}
	person, err := t.MemberOf(box)
	if err != nil {
		return nil, err
	}
	state, err := t.State(box, person, conversations, nil)
	if err != nil {
		return nil, err
	}
	names, err := t.Names(box, conversations)
	if err != nil {
		return nil, err
	}
	at := map[int64]int{} // which of the changes is about a conversation
	e := &store.Entry{BoxID: box, PersonID: person, Actor: store.ByServer, At: now, Step: true}
	for _, message := range slices.Sorted(maps.Keys(news)) {
		id := of[message]
		before, ok := state.Conversations[id]
		if !ok {
			continue
		}
		open, decided := errands[id]
		for _, n := range news[message] {
			if marked := n.Seen != nil || n.Star != nil; decided && (marked || len(open.Left()) > 0) {
				continue // what was decided here counts, and will be carried there
			}
			n.Newest = newest[id] == message
			there := slices.DeleteFunc(slices.Clone(copies[id]), func(k inbox.Copy) bool { return k.Own })
			if !slices.ContainsFunc(there, func(k inbox.Copy) bool { return k.Message == newest[id] }) { // somebody deleted that before
				n.Newest = n.Newest || len(there) == 0 || there[len(there)-1].Message == message
			}
			for _, k := range there {
				n.Others = n.Others || k.Star && k.Message != message
				n.Last = n.Last && k.Role != mail.RoleInbox
			}
			kind := inbox.Follow(before, n)
			if kind == "" {
				continue
			}
			after, err := inbox.Decide(before, inbox.Decision{Kind: kind}, now)
			if err != nil {
				return nil, err
			}
			if e.Kind == "" {
				e.Kind = kind
			} else if e.Kind != kind {
				e.Kind = inbox.FollowServer
			}
			if i, known := at[id]; known {
				last := after
				changes[i].After = &last
			} else {
				was := before
				at[id] = len(changes)
				changes = append(changes, inbox.Change{Before: &was, After: &after})
			}
			state.Conversations[id] = after
			before = after
		}
	}
	if len(changes) == 0 {
		return nil, nil
	}
	e.Count, e.ConversationID, e.Changes = len(changes), changes[0].After.ID, changes
	e.Text = cmp.Or(names[e.ConversationID].Title, names[e.ConversationID].Subject)
	for _, c := range changes {
		e.Delta += c.Delta()
	}
	if err := t.Record(e); err != nil {
		return nil, err
	}
	return changes, t.Apply(box, person, changes) // with an errand: the other messages of the conversation follow it there
}

// lay puts what was sent into the folder of sent mail, where it does not lie
// there already.
func (p *pass) lay() error {
	var rows []store.Outgoing
	err := p.d.store.Read(p.ctx, func(t store.Tx) (err error) { rows, err = t.Unlaid(p.a.ID, 50); return err })
	if err != nil || len(rows) == 0 {
		return err
	}
	sent, err := p.role(mail.RoleSent)
	if err != nil {
		return err
	}
	if _, err := p.m.Select(sent.Name); err != nil {
		return err
	}
	for _, o := range rows {
		id := post.Read(o.Original).MessageID
		has, err := p.m.Find(id)
		if err != nil {
			return err
		}
		if len(has) == 0 {
			if err := p.m.Lay(sent.Name, post.WithBcc(o.Original, o.Bcc), o.SentAt.Time(), false); err != nil {
				return err
			}
		}
		if err := p.write(func(t store.Tx) error { o.Laid = true; return t.PutOutgoing(&o) }); err != nil {
			return err
		}
	}
	return p.folder(sent)
}

// restingDraft is for how long nothing has to have been typed before a draft is
// put on the server, so that it is there within ten seconds of the last key.
const restingDraft = when.Instant(5_000)

// draftID is the Message-ID of the copy of a draft, as it is now.
func draftID(a store.Account, d store.Draft) string {
	_, domain, _ := strings.Cut(a.Address, "@")
	return fmt.Sprintf("draft-%d-%d@%s", d.ID, d.Changed, domain)
}

// untilDraft is how long it is until a draft has rested and is to be put on the
// server of an account; false if none is waiting for that.
func (d *Desk) untilDraft(ctx context.Context, a store.Account) (wait time.Duration, waits bool) {
	err := d.store.Read(ctx, func(t store.Tx) error {
		copies, err := t.DraftCopies(a.ID)
		if err != nil {
			return err
		}
		drafts, err := t.DraftsFrom(a.PersonID, a.ID)
		if err != nil {
			return err
		}
		for _, r := range drafts {
			if id := draftID(a, r); slices.ContainsFunc(copies, func(k store.DraftCopy) bool { return k.MessageID == id }) {
				continue
			}
			rest := max(0, time.Duration(r.Changed+restingDraft-d.now())*time.Millisecond) + 50*time.Millisecond
			if !waits || rest < wait {
				wait, waits = rest, true
			}
		}
		return nil
	})
	return wait, waits && err == nil
}

// drafts keeps a copy of each draft in the folder of drafts, so that it can be
// read and finished elsewhere, and takes away those that are no longer so.
func (p *pass) drafts() error {
	type laid struct {
		draft store.Draft
		id    string
		raw   []byte
	}
	var lay []laid
	var old []store.DraftCopy
	err := p.d.store.Read(p.ctx, func(t store.Tx) error {
		lay, old = nil, nil
		copies, err := t.DraftCopies(p.a.ID)
		if err != nil {
			return err
		}
		drafts, err := t.DraftsFrom(p.a.PersonID, p.a.ID)
		if err != nil {
			return err
		}
		now := map[string]bool{}
		for _, d := range drafts {
			id := draftID(p.a, d)
			now[id] = true
			if d.Changed > p.d.now()-restingDraft { // it is being typed: the copy of before stays till then
				for _, k := range copies {
					now[k.MessageID] = now[k.MessageID] || k.DraftID == d.ID
				}
				continue
			}
			if slices.ContainsFunc(copies, func(k store.DraftCopy) bool { return k.MessageID == id }) {
				continue
			}
			raw, err := p.d.draftCopy(t, p.a, d, id)
			if err != nil {
				return err
			}
			lay = append(lay, laid{d, id, raw})
		}
		for _, k := range copies {
			if !now[k.MessageID] {
				old = append(old, k)
			}
		}
		return nil
	})
	if err != nil || len(lay)+len(old) == 0 {
		return err
	}
	folder, err := p.role(mail.RoleDrafts)
	if err != nil {
		return err
	}
	if _, err := p.m.Select(folder.Name); err != nil {
		return err
	}
	for _, l := range lay {
		there, err := p.m.Find(l.id)
		if err == nil && len(there) == 0 {
			err = p.m.Lay(folder.Name, l.raw, l.draft.Changed.Time(), true)
		}
		if err != nil {
			return err
		}
		if err := p.write(func(t store.Tx) error {
			return t.PutDraftCopy(store.DraftCopy{AccountID: p.a.ID, DraftID: l.draft.ID, MessageID: l.id})
		}); err != nil {
			return err
		}
	}
	for _, k := range old {
		uids, err := p.m.Find(k.MessageID)
		if err == nil && len(uids) > 0 {
			err = p.m.Remove(uids)
		}
		if err != nil {
			return err
		}
		if err := p.write(func(t store.Tx) error { return t.DropDraftCopy(k) }); err != nil {
			return err
		}
	}
	return nil
}

// role finds the folder of a role, or makes one.
func (p *pass) role(r mail.Role) (*store.Folder, error) {
	for range 2 {
		for _, f := range p.folders {
			if f.Role == r {
				return f, nil
			}
		}
		if err := p.m.Make(standardNames[r]); err != nil {
			return nil, err
		}
		if err := p.list(); err != nil {
			return nil, err
		}
	}
	return nil, errors.New("the server does not keep the folder " + standardNames[r])
}

// carry tells the server what was decided.
func (p *pass) carry() error {
	now := p.d.now()
	for {
		var due []store.Errand
		var open work
		look := func() error {
			return p.d.store.Read(p.ctx, func(t store.Tx) (err error) {
				if due == nil {
					if due, err = t.Errands(p.a.BoxID, p.a.ID, now, errandsOnce); err != nil {
						return err
					}
				}
				open, err = openWork(t, p.a, due)
				return err
			})
		}
		if err := look(); err != nil || len(due) == 0 {
			return err
		}
		var todo []inbox.Errand
		for _, e := range due {
			todo = append(todo, open.todo[e.ConversationID]...)
		}
		err := p.errandsDone(todo)
		if err == nil {
			err = look()
		}
		var done, again []store.Errand
		for _, e := range due {
			switch {
			case !open.left[e.ConversationID]:
				done = append(done, e)
			case len(open.todo[e.ConversationID]) > 0:
				again = append(again, e)
			}
		}
		werr := p.write(func(t store.Tx) error {
			if len(again) > 0 {
				why := "The server of “" + p.a.Name + "” did not do it."
				if err != nil {
					why = "The server of “" + p.a.Name + "” did not do it: " + err.Error()
				}
				if err := t.PostponeErrands(again, writing.Later(again[0].Attempts+1, now), why); err != nil {
					return err
				}
			}
			return t.CarriedOut(done)
		})
		if err = errors.Join(err, werr); err != nil || len(due) < errandsOnce || len(done) == 0 {
			return err
		}
	}
}

// work is what has to be done on servers about conversations, by conversation:
// on the one of an account, and about which there is something left on any.
type work struct {
	todo map[int64][]inbox.Errand
	left map[int64]bool
}

// openWork gives the work about conversations, as the account a sees it.
func openWork(t store.Tx, a store.Account, due []store.Errand) (w work, err error) {
	w.todo, w.left = map[int64][]inbox.Errand{}, map[int64]bool{}
	ids := make([]int64, len(due))
	for i, e := range due {
		ids[i] = e.ConversationID
	}
	copies, err := t.ConversationCopies(a.BoxID, ids)
	if err != nil {
		return w, err
	}
	state, err := t.State(a.BoxID, a.PersonID, ids, nil)
	if err != nil {
		return w, err
	}
	accounts, err := t.Accounts(a.BoxID)
	if err != nil {
		return w, err
	}
	choices := map[int64]inbox.Carries{}
	for _, other := range accounts {
		if !other.Paused {
			choices[other.ID] = other.Carries
		}
	}
	for i, id := range ids {
		for _, e := range inbox.Errands(state.Conversations[id], due[i].Left(), copies[id], func(account int64) inbox.Carries { return choices[account] }) {
			w.left[id] = true
			if e.Account == a.ID {
				w.todo[id] = append(w.todo[id], e)
			}
		}
	}
	return w, nil
}

// errandsDone runs errands, all of a kind at once: first marks, then moves.
func (p *pass) errandsDone(todo []inbox.Errand) error {
	type job struct {
		folder int64
		to     mail.Role
		star   bool
		on     bool
	}
	jobs := map[job][]inbox.Errand{}
	var order []job
	add := func(j job, e inbox.Errand) {
		if jobs[j] == nil {
			order = append(order, j)
		}
		jobs[j] = append(jobs[j], e)
	}
	for _, e := range todo {
		if e.Seen != nil {
			add(job{folder: e.Folder, on: *e.Seen}, e)
		}
		if e.Star != nil {
			add(job{folder: e.Folder, star: true, on: *e.Star}, e)
		}
	}
	for _, e := range todo {
		if e.To != "" {
			add(job{folder: e.Folder, to: e.To}, e)
		}
	}
	for _, j := range order {
		i := slices.IndexFunc(p.folders, func(f *store.Folder) bool { return f.ID == j.folder })
		if i < 0 {
			continue
		}
		into := p.folders[i]
		if j.to != "" {
			var err error
			if into, err = p.role(j.to); err != nil {
				return err
			}
		}
		if _, err := p.m.Select(p.folders[i].Name); err != nil {
			return err
		}
		for some := range slices.Chunk(jobs[j], 500) {
			if err := p.job(j.folder, into, some, j.to != "", j.star, j.on); err != nil {
				return err
			}
		}
	}
	return nil
}

// job does one thing about messages of the open folder, and notes it.
func (p *pass) job(folder int64, into *store.Folder, some []inbox.Errand, move, star, on bool) error {
	uids, ids := make([]uint32, len(some)), make([]int64, len(some))
	for i, e := range some {
		uids[i], ids[i] = uint32(e.UID), e.UID
	}
	var moved map[uint32]uint32
	var err error
	if move {
		moved, err = p.m.Move(uids, into.Name)
	} else {
		err = p.m.Mark(uids, star, on)
	}
	if err != nil {
		return err
	}
	return p.write(func(t store.Tx) error {
		copies, err := t.CopiesAt(folder, ids)
		if err != nil {
			return err
		}
		if !move {
			for i := range copies {
				if star {
					copies[i].Star = on
				} else {
					copies[i].Seen = on
				}
			}
			return t.PutCopies(copies)
		}
		var put []store.Copy
		for _, k := range copies {
			if uid := moved[uint32(k.UID)]; uid != 0 {
				put = append(put, store.Copy{FolderID: into.ID, UID: int64(uid), MessageID: k.MessageID, Seen: k.Seen, Star: k.Star, Put: p.d.now()})
			} else if err := t.Await(into.ID, k.MessageID); err != nil {
				return err
			}
		}
		if err := t.DropCopies(folder, ids); err != nil {
			return err
		}
		return t.PutCopies(put)
	})
}
