package mailsync

import (
	"cmp"
	"maps"
	"slices"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/journal"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
)

// follow lets conversations follow what was done to their messages elsewhere.
func (p *pass) follow() error {
	var changed []inbox.Change
	asked := 0
	err := p.write(func(t store.Tx) error {
		changed, asked = nil, 0
		happened, err := mailboxes.Folders(t).Happenings(p.a.ID)
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
		copies, err := mailboxes.Folders(t).CopiesOf(messages)
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
		var nowhere []mailboxes.Vanishing
		out := map[int64]int64{} // the folders that messages went out of
		for _, h := range happened {
			if h.FolderID != 0 {
				out[h.MessageID] = h.FolderID
			}
		}
		for _, m := range messages {
			to := mail.Role("")
			for r := range at[m] {
				if r.Kept() {
					to = r
				}
			}
			for _, r := range []mail.Role{mail.RoleInbox, mail.RoleArchive, mail.RoleOther, mail.RoleSent, mail.RoleJunk, mail.RoleBin} {
				if at[m][r] && to == "" {
					to = r
					break
				}
			}
			news[m] = []inbox.Elsewhere{{To: to, From: roles[out[m]], Last: roles[out[m]] == mail.RoleInbox}}
			if to == "" && out[m] != 0 {
				nowhere = append(nowhere, mailboxes.Vanishing{FolderID: out[m], MessageID: m, AccountID: p.a.ID, At: p.s.journal.Now()})
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
		return mailboxes.Folders(t).Followed(ids)
	})
	if len(changed) > 0 {
		p.s.journal.Tell(p.a.BoxID, "", changed)
	}
	if err == nil && asked > 0 {
		p.s.journal.Announce(p.a.BoxID, journal.Event{Topics: []string{journal.TopicAccounts, journal.TopicMail}, Notice: journal.Notice{Text: vanishedText(asked, p.a.Name) + " Nothing was binned: say in Accounts what is to be done."}})
	}
	return err
}

// remark has the server told again how these messages and their conversations are
// marked, where it shows that no longer: the one with the star or the newest has
// gone, or one that was deleted lies there again as if nobody had read it.
func (p *pass) remark(t store.Tx, messages []int64) error {
	of, err := mailboxes.Folders(t).ConversationsOf(p.a.BoxID, messages)
	if err != nil {
		return err
	}
	conversations := slices.Compact(slices.Sorted(maps.Values(of)))
	about := make([]mailboxes.Errand, len(conversations))
	for i, id := range conversations {
		about[i].ConversationID = id
	}
	open, err := OpenWork(t, p.a, about)
	if err != nil {
		return err
	}
	var amiss []int64
	for _, id := range conversations {
		if slices.ContainsFunc(open.Todo[id], func(e inbox.Errand) bool { return e.Star != nil || e.Seen != nil && (!*e.Seen || of[e.Message] == id) }) {
			amiss = append(amiss, id)
		}
	}
	return mailboxes.Errands(t).CarryMarks(p.a.BoxID, amiss)
}

// heed changes conversations by what happened to messages on the server,
// with one line in the journal, by which all of it can be taken back. Where something was decided here that the server
// does not know yet, that counts.
func (p *pass) heed(t store.Tx, news map[int64][]inbox.Elsewhere) (changes []inbox.Change, err error) {
	box, now := p.a.BoxID, p.s.journal.Now()
	of, err := mailboxes.Folders(t).ConversationsOf(box, slices.Collect(maps.Keys(news)))
	if err != nil {
		return nil, err
	}
	conversations := slices.Sorted(maps.Values(of))
	conversations = slices.Compact(conversations)
	errands, err := mailboxes.Errands(t).OpenErrands(box, conversations)
	if err != nil {
		return nil, err
	}
	copies, err := mailboxes.Folders(t).ConversationCopies(box, conversations)
	if err != nil {
		return nil, err
	}
	newest, err := mailboxes.Errands(t).NewestOf(box, conversations)
	if err != nil {
		return nil, err
	}
	person, err := store.People(t).Keeper(box)
	if err != nil {
		return nil, err
	}
	state, err := store.Conversations(t).State(box, person, conversations, nil)
	if err != nil {
		return nil, err
	}
	names, err := store.Conversations(t).Names(box, conversations)
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
			if len(there) > 0 {
				n.Left = there[len(there)-1].Role
			}
			for _, k := range there {
				n.Others = n.Others || k.Star && k.Message != message
				n.Last = n.Last && k.Role != mail.RoleInbox
			}
			kind, after := inbox.Follow(before, n, now)
			if kind == "" {
				continue
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
	if err := store.Journal(t).Record(e); err != nil {
		return nil, err
	}
	return changes, store.Conversations(t).Apply(box, person, changes) // with an errand: the other messages of the conversation follow it there
}
