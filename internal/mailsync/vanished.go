package mailsync

import (
	"context"
	"errors"
	"fmt"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/say"
	"ebbe/internal/core/together"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
)

// askAbout takes out of the news what has vanished in such numbers that nothing
// is to follow from it unless the person says so, and gives how many messages
// that newly is.
func (p *pass) askAbout(t store.Tx, nowhere []mailboxes.Vanishing, news map[int64][]inbox.Elsewhere) (asked int, err error) {
	now := p.s.journal.Now()
	if err := mailboxes.Folders(t).ForgetVanished(p.a.ID, now-inbox.VanishWindow); err != nil || len(nowhere) == 0 {
		return 0, err
	}
	lately, err := mailboxes.Folders(t).Vanishings(p.a.ID, now-inbox.VanishWindow)
	if err != nil {
		return 0, err
	}
	byFolder, open := map[int64][]mailboxes.Vanishing{}, map[int64]bool{}
	for _, v := range lately {
		byFolder[v.FolderID] = append(byFolder[v.FolderID], v)
		open[v.FolderID] = open[v.FolderID] || v.Asked && !v.PutBack
	}
	fresh := map[int64]bool{}
	for _, v := range nowhere {
		byFolder[v.FolderID], fresh[v.MessageID] = append(byFolder[v.FolderID], v), true
	}
	for folder, gone := range byFolder {
		left, err := mailboxes.Folders(t).CountCopies(folder)
		if err != nil {
			return 0, err
		}
		if open[folder] || inbox.TooMany(len(gone), int(left)) {
			for i := range gone {
				gone[i].Asked = true
				if fresh[gone[i].MessageID] {
					asked++
					delete(news, gone[i].MessageID)
				}
			}
		}
		if err := mailboxes.Folders(t).Vanish(gone); err != nil {
			return 0, err
		}
	}
	return asked, nil
}

func vanishedText(n int, account string) string {
	if n == 1 {
		return "1 message has vanished from “" + account + "” at once."
	}
	return fmt.Sprintf("%d messages have vanished from “%s” at once.", n, account)
}

// SettleVanished does what the person wants about the messages that vanished
// from an account in great numbers: their conversations go to the bin, in one
// step that can be taken back, or the messages are laid into their folder again.
func (s *Sync) SettleVanished(ctx context.Context, who identity.Who, account int64, follow bool) (text string, err error) {
	if err := who.May(together.Serve); err != nil {
		return "", err
	}
	var changes []inbox.Change
	err = s.store.Write(ctx, func(t store.Tx) error {
		changes, text = nil, ""
		a, err := mailboxes.Accounts(t).Account(who.Box, account)
		if err != nil {
			return err
		}
		rows, err := mailboxes.Folders(t).Vanishings(account, s.journal.Now())
		if err != nil {
			return err
		}
		var open []mailboxes.Vanishing
		for _, v := range rows {
			if v.Asked && !v.PutBack {
				open = append(open, v)
			}
		}
		if len(open) == 0 {
			return &problem.Error{Type: "not-open", Text: "That has been settled already, so nothing was changed."}
		}
		if follow {
			news := map[int64][]inbox.Elsewhere{}
			for _, v := range open {
				news[v.MessageID] = []inbox.Elsewhere{{}}
			}
			p := &pass{s: s, ctx: ctx, a: a}
			if changes, err = p.heed(t, news); err != nil {
				return err
			}
			text = fmt.Sprintf("Binned %s. The history can take that back.", say.Plural(len(changes), "conversation"))
			return mailboxes.Folders(t).DropVanished(open)
		}
		for i := range open {
			open[i].PutBack = true
		}
		if changes, err = s.fetchBack(t, who, open); err != nil {
			return err
		}
		text = fmt.Sprintf("%s will be laid back where they were, with the next look at “%s”.", say.Plural(len(open), "message"), a.Name)
		return mailboxes.Folders(t).Vanish(open)
	})
	if err == nil {
		s.journal.Tell(who.Box, "", changes)
		s.journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicAccounts}})
	}
	return text, err
}

// fetchBack brings what was followed into the bin before the person was asked
// back among the undecided.
func (s *Sync) fetchBack(t store.Tx, who identity.Who, rows []mailboxes.Vanishing) (changes []inbox.Change, err error) {
	ids := make([]int64, len(rows))
	for i, v := range rows {
		ids[i] = v.MessageID
	}
	of, err := mailboxes.Folders(t).ConversationsOf(who.Box, ids)
	if err != nil {
		return nil, err
	}
	var conversations []int64
	for _, id := range of {
		conversations = append(conversations, id)
	}
	state, err := store.Conversations(t).State(who.Box, who.Person, conversations, nil)
	if err != nil {
		return nil, err
	}
	for _, before := range state.Conversations {
		if before.Place != inbox.Bin || before.Since < s.journal.Now()-inbox.VanishWindow {
			continue
		}
		after := before.In(inbox.Inbox, s.journal.Now())
		changes = append(changes, inbox.Change{Before: &before, After: &after})
	}
	if len(changes) == 0 {
		return nil, nil
	}
	_, err = s.journal.Commit(t, who, store.Entry{Kind: inbox.PutBack, At: s.journal.Now()}, changes, nil)
	return changes, err
}

// putBackOnce is how many messages are laid back in one pass.
const putBackOnce = 500

// putBack lays what has vanished into its folder again, where the person wants
// that. What was laid is noted at once, so that nothing is laid twice.
func (p *pass) putBack() error {
	var rows []mailboxes.Vanishing
	err := p.read(func(t store.Tx) (err error) {
		rows, err = mailboxes.Folders(t).Vanishings(p.a.ID, p.s.journal.Now())
		return err
	})
	if err != nil {
		return err
	}
	laid := 0
	for _, v := range rows {
		if !v.PutBack || laid == putBackOnce {
			continue
		}
		var raw []byte
		var m store.Message
		var k []mailboxes.Copy
		if err := p.read(func(t store.Tx) (err error) {
			if m, err = store.Messages(t).MessageRow(p.a.BoxID, v.MessageID); err != nil {
				return err
			}
			if k, err = mailboxes.Folders(t).CopiesOf([]int64{v.MessageID}); err != nil {
				return err
			}
			raw, err = store.Messages(t).Original(v.MessageID)
			return err
		}); err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
		for _, f := range p.folders {
			if f.ID != v.FolderID || raw == nil || len(k) > 0 {
				continue
			}
			if err := p.write(func(t store.Tx) error { return mailboxes.Folders(t).Await(f.ID, v.MessageID) }); err != nil {
				return err
			}
			if err := p.m.Lay(f.Name, raw, m.Received.Time(), false); err != nil {
				return err
			}
			laid++
		}
		if err := p.write(func(t store.Tx) error { return mailboxes.Folders(t).DropVanished([]mailboxes.Vanishing{v}) }); err != nil {
			return err
		}
	}
	return nil
}
