// Package search knows what a query for conversations is made of.
package search

import (
	"errors"
	"strings"
	"unicode"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Query filters conversations: all of its parts that are set have to
// hold. The zero Query means everything that is not held.
type Query struct {
	Words     string       `json:"words,omitempty"`   // every one of them begins a word of a message
	Place     inbox.Place  `json:"place,omitempty"`   // where they are
	From      string       `json:"from,omitempty"`    // the address that wrote last
	Account   string       `json:"account,omitempty"` // the own address at which they came
	Label     int64        `json:"label,omitempty"`   // this label, or one below it
	Kind      mail.Kind    `json:"kind,omitempty"`
	Reach     mail.Reach   `json:"reach,omitempty"`
	Unread    bool         `json:"unread,omitempty"`
	Starred   bool         `json:"starred,omitempty"`
	Unstarred bool         `json:"unstarred,omitempty"`
	Flagged   bool         `json:"flagged,omitempty"` // with an open follow-up
	Files     bool         `json:"files,omitempty"`
	Before    when.Instant `json:"before,omitempty"` // no message since
}

// MaxWords is how many words of a query are looked for.
const MaxWords = 20

// Terms are the words looked for, in their order.
func (q Query) Terms() []string {
	words := strings.FieldsFunc(q.Words, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsNumber(r) })
	return words[:min(len(words), MaxWords)]
}

// Valid says in a sentence for the user what is wrong with q, or nil.
func (q Query) Valid() error {
	switch q.Place {
	case "", inbox.Inbox, inbox.Snoozed, inbox.Archived, inbox.Bin, inbox.Junk:
	default:
		return errors.New("there is no such place to search")
	}
	if q.Starred && q.Unstarred {
		return errors.New("nothing is starred and not starred at once")
	}
	if len(q.Words) > 1000 {
		return errors.New("that is too much to search for: name a few words")
	}
	return nil
}

// MaxName is the longest name of a saved list, in bytes.
const MaxName = 60

// Named says in a sentence what is wrong with a saved list of that name and
// query, or nil.
func Named(name string, q Query) error {
	if strings.TrimSpace(name) == "" || len(name) > MaxName {
		return errors.New("a list needs a short name")
	}
	if q == (Query{}) {
		return errors.New("a list of everything is no list: filter it by a label, a person, words or a mark")
	}
	return q.Valid()
}
