package outbox

import (
	"context"
	"errors"
	"slices"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/say"
	"ebbe/internal/post"
	"ebbe/internal/post/imap"
	"ebbe/internal/post/smtp"
	"ebbe/internal/post/texts"
	"ebbe/internal/store/mailboxes"
)

// SMTP submits messages over the network, and looks for what was sent in
// mailboxes.
type SMTP struct {
	Network post.Network
	Login   func(mailboxes.Account) (post.Login, error)
	Notify  func(mailboxes.Account) string // where the gateway of a telephone line tells of its texts; nil or "": nowhere
}

// Submit opens a line to the server that sends for an account (RFC 6409), or to the gateway of
// a telephone line.
func (s SMTP) Submit(ctx context.Context, a mailboxes.Account) (Line, error) {
	login, err := s.Login(a)
	if err != nil {
		return nil, errors.New(say.Upper(err.Error()) + ".")
	}
	if a.Line != nil && a.Paused {
		return nil, errors.New(say.Upper("the telephone line is paused, so the text waits") + ".")
	}
	if a.Line != nil {
		l := telephone{ctx: ctx, line: *a.Line, by: texts.HTTP{Network: s.Network, Gateway: a.Line.Gateway, Secret: login.Secret}}
		if s.Notify != nil {
			l.notify = s.Notify(a)
		}
		return l, nil
	}
	c, err := smtp.Open(ctx, s.Network, a.Sending, login)
	if err != nil {
		return nil, err
	}
	return c, nil
}

// HasSent looks into the folder of sent mail of an account.
func (s SMTP) HasSent(ctx context.Context, a mailboxes.Account, messageID string) bool {
	login, err := s.Login(a)
	if err != nil || a.Line != nil {
		return false
	}
	m, err := imap.Open(ctx, s.Network, a.Mailbox, login)
	if err != nil {
		return false
	}
	defer m.Close()
	folders, err := m.Folders()
	i := slices.IndexFunc(folders, func(f imap.Folder) bool { return f.Role == mail.RoleSent })
	if err != nil || i < 0 {
		return false
	}
	if _, err := m.Select(folders[i].Name); err != nil {
		return false
	}
	found, err := m.Find(messageID)
	return err == nil && len(found) > 0
}
