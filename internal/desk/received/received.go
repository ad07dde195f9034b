// Package received tells what somebody else has written: the newest message of a
// conversation that is not by the user, and their own words in it.
package received

import (
	"cmp"
	"slices"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/mail"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/post/mime"
	"ebbe/internal/store"
)

// Source is the newest message of a conversation by somebody else, and who
// takes part in it.
func Source(t store.Tx, who identity.Who, conversation int64) (l followup.Source, people []string, err error) {
	conversation, err = store.Conversations(t).Resolve(who.Box, conversation)
	if err != nil {
		return l, nil, err
	}
	messages, err := store.Messages(t).MessagesOf(who.Box, conversation)
	if err != nil || len(messages) == 0 {
		return l, nil, cmp.Or(err, store.ErrNotFound)
	}
	own, err := intake.OwnAddresses(t, who.Box)
	if err != nil {
		return l, nil, err
	}
	m := messages[len(messages)-1]
	for _, x := range slices.Backward(messages) {
		if !x.Own {
			m = x
			break
		}
	}
	for _, a := range append([]mail.Address{{Address: m.FromAddr}}, slices.Concat(m.To, m.Cc)...) {
		if a.Address != "" && !own[a.Address] && !slices.Contains(people, a.Address) {
			people = append(people, a.Address)
		}
	}
	text, err := Text(t, m.ID)
	language := m.Language
	if language == "" { // it came before that was found
		language = mail.LanguageOf(text)
	}
	return followup.Source{From: mail.Address{Name: m.FromName, Address: m.FromAddr}, Subject: m.Subject, Text: text, Kind: m.Kind, Written: m.Date, Language: language}, people, err
}

// Text loads a message and gives its own words.
func Text(t store.Tx, message int64) (string, error) {
	raw, err := store.Messages(t).Original(message)
	return OwnWords(raw), err
}

// OwnWords is what the sender of a message wrote, without what they quote.
func OwnWords(raw []byte) string {
	return mail.OwnWords(mime.Read(raw).Words())
}

// Last gives the newest message of a conversation that somebody else
// wrote, read, with the user's own address it came to and all they have.
func Last(t store.Tx, who identity.Who, conversation int64) (m store.Message, b mime.Body, at string, own map[string]bool, err error) {
	if conversation, err = store.Conversations(t).Resolve(who.Box, conversation); err != nil {
		return m, b, "", nil, err
	}
	messages, err := store.Messages(t).MessagesOf(who.Box, conversation)
	if err != nil {
		return m, b, "", nil, err
	}
	for _, x := range messages {
		if !x.Own {
			m = x
		}
	}
	if m.ID == 0 {
		return m, b, "", nil, store.ErrNotFound
	}
	b, at, own, err = Read(t, who, m)
	return m, b, at, own, err
}

// Read reads a message, and gives the user's own address it came to and all
// they have.
func Read(t store.Tx, who identity.Who, m store.Message) (b mime.Body, at string, own map[string]bool, err error) {
	raw, err := store.Messages(t).Original(m.ID)
	if err != nil {
		return b, "", nil, err
	}
	if own, err = intake.OwnAddresses(t, who.Box); err != nil {
		return b, "", nil, err
	}
	_, at = mail.ReachOf(m.To, m.Cc, own)
	return mime.Read(raw), at, own, nil
}
