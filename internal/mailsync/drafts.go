package mailsync

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/post/mime"
	"ebbe/internal/store"
	"ebbe/internal/store/drafting"
	"ebbe/internal/store/mailboxes"
	"ebbe/internal/store/sending"
)

// lay puts what was sent into the folder of sent mail, where it does not lie
// there already.
func (p *pass) lay() error {
	var rows []sending.Outgoing
	err := p.read(func(t store.Tx) (err error) { rows, err = sending.Outbox(t).Unlaid(p.a.ID, 50); return err })
	if err != nil || len(rows) == 0 {
		return err
	}
	sent, err := p.role(mail.RoleSent)
	if err != nil {
		return err
	}
	if err := p.at(sent.Name); err != nil {
		return err
	}
	for _, o := range rows {
		var raw []byte
		if err := p.read(func(t store.Tx) (err error) { raw, err = ownCopy(t, o); return err }); err != nil {
			return err
		}
		id := mime.Read(raw).MessageID
		has, err := p.m.Find(id)
		if err != nil {
			return err
		}
		if len(has) == 0 {
			if err := p.m.Lay(sent.Name, raw, o.SentAt.Time(), false); err != nil {
				return err
			}
		}
		if err := p.write(func(t store.Tx) error { return sending.Outbox(t).LaidOutgoing(o.ID) }); err != nil {
			return err
		}
	}
	return p.folder(sent)
}

// ownCopy is the user's own copy of a message that was sent: as it stands in its
// conversation.
func ownCopy(t store.Tx, o sending.Outgoing) ([]byte, error) {
	if o.MessageID != 0 {
		return store.Messages(t).Original(o.MessageID)
	}
	raw, err := sending.Outbox(t).BytesOfOutgoing(o.ID)
	return mime.WithBcc(raw, o.Bcc), err
}

// restingDraft is for how long nothing has to have been typed before a draft is
// put on the server, so that it is there within ten seconds of the last key.
const restingDraft = when.Instant(5_000)

// draftID is the Message-ID of the copy of a draft, as it is now.
func draftID(a mailboxes.Account, d drafting.Draft) string {
	_, domain, _ := strings.Cut(a.Address, "@")
	return fmt.Sprintf("draft-%d-%d@%s", d.ID, d.Changed, domain)
}

// UntilDraft is how long it is until a draft has rested and is to be put on the
// server of an account; false if none is waiting for that.
func (s *Sync) UntilDraft(ctx context.Context, a mailboxes.Account) (wait time.Duration, waits bool) {
	err := s.store.Read(ctx, func(t store.Tx) error {
		copies, err := drafting.Drafts(t).DraftCopies(a.ID)
		if err != nil {
			return err
		}
		drafts, err := drafting.Drafts(t).DraftsFrom(a.PersonID, a.ID)
		if err != nil {
			return err
		}
		for _, r := range drafts {
			if id := draftID(a, r); slices.ContainsFunc(copies, func(k drafting.DraftCopy) bool { return k.MessageID == id }) {
				continue
			}
			rest := max(0, time.Duration(r.Changed+restingDraft-s.journal.Now())*time.Millisecond) + 50*time.Millisecond
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
		draft drafting.Draft
		id    string
		raw   []byte
	}
	var lay []laid
	var old []drafting.DraftCopy
	err := p.read(func(t store.Tx) error {
		lay, old = nil, nil
		copies, err := drafting.Drafts(t).DraftCopies(p.a.ID)
		if err != nil {
			return err
		}
		drafts, err := drafting.Drafts(t).DraftsFrom(p.a.PersonID, p.a.ID)
		if err != nil {
			return err
		}
		now := map[string]bool{}
		for _, d := range drafts {
			id := draftID(p.a, d)
			now[id] = true
			if d.Changed > p.s.journal.Now()-restingDraft { // it is being typed: the copy of before stays till then
				for _, k := range copies {
					now[k.MessageID] = now[k.MessageID] || k.DraftID == d.ID
				}
				continue
			}
			if slices.ContainsFunc(copies, func(k drafting.DraftCopy) bool { return k.MessageID == id }) {
				continue
			}
			raw, err := p.s.Draft(t, p.a, d, id)
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
	if err := p.at(folder.Name); err != nil {
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
			return drafting.Drafts(t).PutDraftCopy(drafting.DraftCopy{AccountID: p.a.ID, DraftID: l.draft.ID, MessageID: l.id})
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
		if err := p.write(func(t store.Tx) error { return drafting.Drafts(t).DropDraftCopy(k) }); err != nil {
			return err
		}
	}
	return nil
}
