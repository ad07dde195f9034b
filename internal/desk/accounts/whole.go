package accounts

import (
	"context"
	"crypto/sha256"
	"errors"

	"ebbe/internal/core/mail"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/post/imap"
	"ebbe/internal/post/mime"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
)

// FetchWhole fetches all of a message of which only the header is here, as it
// was too large to be fetched by itself.
func (d *Desk) FetchWhole(ctx context.Context, who identity.Who, id int64) error {
	if d.links == nil {
		return errUnlinked
	}
	gone := &problem.Error{Type: "gone", Text: "This message lies on no server any more, so no more of it can be fetched. Its header is kept."}
	var m store.Message
	var a mailboxes.Account
	var f mailboxes.Folder
	uid := int64(0)
	err := d.store.Read(ctx, func(t store.Tx) (err error) {
		if m, err = store.Messages(t).MessageRow(who.Box, id); err != nil || m.Stub == 0 {
			return err
		}
		copies, err := mailboxes.Folders(t).ConversationCopies(who.Box, []int64{m.ConversationID})
		if err != nil {
			return err
		}
		for _, k := range copies[m.ConversationID] {
			if k.Message == id {
				if a, err = mailboxes.Accounts(t).Account(who.Box, k.Account); err != nil {
					return err
				}
				folders, err := mailboxes.Folders(t).Folders(a.ID)
				if err != nil {
					return err
				}
				for _, x := range folders {
					if x.ID == k.Folder {
						f, uid = x, k.UID
					}
				}
			}
		}
		return nil
	})
	if err != nil || m.Stub == 0 {
		return err
	}
	if uid == 0 {
		return gone
	}
	login, err := d.login(a)
	if err != nil {
		return err
	}
	box, err := imap.Open(ctx, d.links.Network, a.Mailbox, login)
	var step *post.StepError
	if errors.As(err, &step) {
		return &problem.Error{Type: "unreachable", Text: "It was not fetched: " + step.Text}
	}
	if err != nil {
		return err
	}
	defer box.Close()
	s, err := box.Select(f.Name)
	if err == nil && int64(s.Validity) != f.Validity {
		return gone
	}
	var raw []byte
	if err == nil {
		err = box.Fetch([]uint32{uint32(uid)}, post.MaxMessage, post.MaxMessage, func(got imap.Fetched) error { raw = got.Raw; return nil })
	}
	if err != nil {
		return &problem.Error{Type: "unreachable", Text: "It was not fetched: the server of “" + a.Name + "” did not hand it out. Its header is kept."}
	}
	if raw == nil {
		return gone
	}
	p := d.Intake.Parse(post.Item{Raw: raw})
	hash := sha256.Sum256(raw)
	m.Hash, m.Size, m.Stub, m.Raw, m.Reader, m.Files, m.Kind = hash[:], len(raw), 0, p.Body.Raw, mime.Reader, p.Body.Files, p.Body.Kind
	m.Begins, m.Language = mail.Begins(p.Body.Text), p.Language
	err = d.store.Write(ctx, func(t store.Tx) error { return store.Messages(t).CompleteMessage(m, raw, intake.Words(p.Body.Message)) })
	if err == nil {
		d.Intake.Carry(ctx) // others may have waited for all of it
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicMail}, Conversations: []int64{m.ConversationID}})
	}
	return err
}
