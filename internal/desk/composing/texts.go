package composing

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/texting"
	"ebbe/internal/core/writing"
	"ebbe/internal/identity"
	"ebbe/internal/outbox"
	"ebbe/internal/post/mime"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/drafting"
	"ebbe/internal/store/mailboxes"
	"ebbe/internal/store/phoning"
)

// asText has a new draft be a text from a telephone line.
func asText(t store.Tx, who identity.Who, draft *drafting.Draft, line int64) error {
	a, err := mailboxes.Accounts(t).Account(who.Box, line)
	if err != nil {
		return err
	}
	if a.Line == nil {
		return store.ErrNotFound
	}
	draft.AccountID, draft.Subject = a.ID, textSubject
	return nil
}

// textSubject is what a text is called while it is written.
const textSubject = "Text message"

// fitted has an answer to a text be one, and a draft that passes something on go by mail, also if
// what it passes on came as a text.
func fitted(t store.Tx, who identity.Who, draft *drafting.Draft) error {
	if draft.AccountID == 0 {
		return nil
	}
	a, err := mailboxes.Accounts(t).Account(who.Box, draft.AccountID)
	if errors.Is(err, store.ErrNotFound) || err == nil && a.Line == nil {
		return nil
	}
	if err != nil {
		return err
	}
	if draft.Mode.Answers() {
		draft.Subject = textSubject
		return nil
	}
	a, err = outbox.AccountOf(t, who.Box, 0, "")
	draft.AccountID = a.ID
	return err
}

// numbered has the receivers of a text be numbers, however they were typed.
func numbered(t store.Tx, who identity.Who, c *DraftChange) error {
	a, err := outbox.AccountOf(t, who.Box, c.Account, "")
	if err != nil || a.Line == nil {
		return err
	}
	for i, to := range c.To {
		if _, ok := texting.NumberOf(strings.ToLower(to.Address)); ok {
			continue
		}
		n, err := texting.ReadNumber(to.Address, a.Line.Number.Region())
		if err != nil {
			continue // it may be half typed
		}
		known, err := phoning.Numbers(t).Of(who.Box, n)
		if err != nil {
			return err
		}
		c.To[i] = mail.Address{Name: known.Name, Address: n.Address()}
		if c.To[i].Name == "" {
			c.To[i].Name = n.Say()
		}
	}
	c.Cc, c.Bcc, c.Rich, c.Receipt = nil, nil, false, false
	return nil
}

// fitting refuses a draft that cannot go from its account: a text to what is no number, or that is no
// text, and mail to a number.
func fitting(t store.Tx, who identity.Who, draft drafting.Draft, a mailboxes.Account, to []writing.Recipient, files []drafting.DraftFile) error {
	texts := func(r writing.Recipient) bool { return texting.IsText(r.Address) }
	if a.Line == nil {
		if slices.ContainsFunc(to, texts) {
			return problem.Invalid("to", "Nothing was sent: a telephone number gets texts from a telephone line, and this is mail. Remove the number; the draft is kept.")
		}
		return nil
	}
	switch size := texting.Measure(strings.TrimSpace(draft.Text)); {
	case len(to) != 1:
		return problem.Invalid("to", "Nothing was sent: a text goes to one number, as each has a conversation of its own. The draft is kept.")
	case len(files) > 0:
		return problem.Invalid("files", "Nothing was sent: no files go with a text. Remove them, or write a mail; the draft is kept.")
	case strings.TrimSpace(draft.Text) == "":
		return problem.Invalid("text", "Nothing was sent: there is nothing in the text yet.")
	case size.Parts > texting.MostParts:
		return problem.Invalid("text", fmt.Sprintf("Nothing was sent: the text would go in %d parts, and few telephones put more than %d together. Shorten it, or write a mail; the draft is kept.", size.Parts, texting.MostParts))
	}
	number, ok := texting.NumberOf(to[0].Address)
	if !ok {
		return problem.Invalid("to", "Nothing was sent: whoever that is sends texts without a number, so nobody can answer them. The draft is kept.")
	}
	known, err := phoning.Numbers(t).Of(who.Box, number)
	if err == nil && known.Stopped != 0 {
		err = problem.Invalid("to", "Nothing was sent: they have asked for no more texts (by a word such as STOP). They can begin again with START; the draft is kept.")
	}
	return err
}

// asSent is the text that a draft makes.
func asSent(l mime.Letter, draft drafting.Draft, line texting.Number) mime.Letter {
	with := mail.Address{}
	if len(draft.To) > 0 {
		with = draft.To[0]
	}
	l.Cc, l.Subject, l.Text, l.Rich, l.Signature, l.Receipt, l.Below, l.Files = nil, texting.Subject(with), strings.TrimSpace(draft.Text), false, "", false, "", nil
	l.References = []string{texting.Root(line, with)}
	if l.InReplyTo != "" {
		l.References = append(l.References, l.InReplyTo)
	}
	return l
}
