package accounts

import (
	"context"

	"ebbe/internal/core/say"
	"ebbe/internal/desk/phones"
	"ebbe/internal/mailsync"
	"ebbe/internal/outbox"
	"ebbe/internal/post/imap"
	"ebbe/internal/post/texts"
	"ebbe/internal/problem"
	"ebbe/internal/store/mailboxes"
)

func (d *Desk) smtp() outbox.SMTP {
	return outbox.SMTP{Network: d.links.Network, Login: d.login, Notify: d.notify}
}

// notify is where the gateway of a telephone line is to tell of its texts; "" where Ebbe does not
// know how it is reached from outside.
func (d *Desk) notify(a mailboxes.Account) string {
	if d.links.Outside == "" {
		return ""
	}
	return d.links.Outside + phones.HookPath(a)
}

// Seal has a secret be kept so that only this Ebbe can open it.
func (d *Desk) Seal(secret string) []byte { return d.links.Key.Seal(secret) }

// Provider is who carries the texts of a telephone line.
func (d *Desk) Provider(a mailboxes.Account) (texts.Provider, error) {
	login, err := d.login(a)
	if err != nil {
		return nil, &problem.Error{Type: "sealed", Text: say.Upper(err.Error()) + "."}
	}
	return texts.HTTP{Network: d.links.Network, Gateway: a.Line.Gateway, Secret: login.Secret}, nil
}

// Submit opens a line to the server that sends for an account.
func (d *Desk) Submit(ctx context.Context, a mailboxes.Account) (outbox.Line, error) {
	return d.smtp().Submit(ctx, a)
}

// HasSent looks into the folder of sent mail of an account.
func (d *Desk) HasSent(ctx context.Context, a mailboxes.Account, messageID string) bool {
	return d.smtp().HasSent(ctx, a, messageID)
}

// Mailbox opens a line to the mailbox of an account.
func (d *Desk) Mailbox(ctx context.Context, a mailboxes.Account) (mailsync.Mailbox, error) {
	if d.links == nil {
		return nil, errUnlinked
	}
	login, err := d.login(a)
	if err != nil {
		return nil, &problem.Error{Type: "sealed", Text: say.Upper(err.Error()) + "."}
	}
	m, err := imap.Open(ctx, d.links.Network, a.Mailbox, login)
	if err != nil {
		return nil, err
	}
	return m, nil
}
