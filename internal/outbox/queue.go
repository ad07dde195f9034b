package outbox

import (
	"cmp"
	"slices"
	"strings"

	"github.com/google/uuid"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/identity"
	"ebbe/internal/post/mime"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
	"ebbe/internal/store/sending"
)

// Queue puts a message into the outbox that Ebbe has written itself, to be sent
// from the account of that address; without any account it is only kept. Nothing goes to whoever
// wants no texts any more.
func Queue(t store.Tx, o sending.Outgoing, from string, now when.Instant) (sending.Outgoing, bool, error) {
	if since, err := stopped(t, o.BoxID, o.Address); err != nil || since != 0 {
		return o, false, err
	}
	a, err := AccountOf(t, o.BoxID, 0, from)
	if err != nil {
		return o, false, err
	}
	o.AccountID, o.State, o.Next = a.ID, writing.Waiting, now
	if a.ID == 0 {
		o.State = writing.Kept
	}
	o.To = []writing.Recipient{{Address: o.Address, State: writing.Waiting}}
	fresh, err := sending.Outbox(t).Send(&o)
	return o, fresh, err
}

// NewMessageID makes a Message-ID for a message from an account (RFC 5322,
// section 3.6.4).
func NewMessageID(a mailboxes.Account) string {
	_, domain, _ := strings.Cut(a.Address, "@")
	return uuid.NewString() + "@" + domain
}

// Compose makes a letter from an account a message to one person, to be put into
// the outbox.
func Compose(who identity.Who, a mailboxes.Account, l mime.Letter, at when.Instant) (o sending.Outgoing, err error) {
	l.MessageID, l.Date, l.From = NewMessageID(a), at.Time().In(who.Week.Location()), mail.Address{Name: a.FullName, Address: a.Address}
	o = sending.Outgoing{BoxID: who.Box, Once: "message/" + l.MessageID, Address: l.To[0].Address, Name: l.To[0].Name, At: at, Subject: l.Subject, Text: l.Text}
	o.Original, err = mime.Compose(l)
	return o, err
}

// AccountOf is the account with that ID, or the telephone line, else the one of an address, else the
// first of mail; the zero value if there is none.
func AccountOf(t store.Tx, box, id int64, address string) (mailboxes.Account, error) {
	lines, err := mailboxes.Accounts(t).Lines(box)
	if err != nil {
		return mailboxes.Account{}, err
	}
	for _, a := range lines {
		if a.ID == id || id == 0 && a.Address == address {
			return a, nil
		}
	}
	accounts, err := mailboxes.Accounts(t).Accounts(box)
	if err != nil {
		return mailboxes.Account{}, err
	}
	if i := slices.IndexFunc(accounts, func(a mailboxes.Account) bool { return a.ID == id }); i >= 0 {
		return accounts[i], nil
	}
	if i := slices.IndexFunc(accounts, func(a mailboxes.Account) bool { return a.Address == address }); i >= 0 {
		return accounts[i], nil
	}
	if len(accounts) == 0 {
		return mailboxes.Account{}, nil
	}
	return accounts[0], nil
}

// SpanOf is for how long a message can be taken back after sending.
func SpanOf(h inbox.Habits) when.Instant {
	return when.Instant(cmp.Or(h.Span, usualSpan)) * 1000
}

// usualSpan is for how many seconds a message can be taken back after sending.
const usualSpan = 15
