// Package search knows what a query for conversations is made of.
package search

import (
	"errors"
	"fmt"
	"strings"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Query is a condition, the one type for them: it filters conversations (lists, searches,
// the inbox), messages as they come in (rules) and follow-ups (boards). All of its parts
// that are set have to hold; the zero Query means everything that is not held.
type Query struct {
	Words     string       `json:"words,omitempty"`                      // what a message says, as TermsOf reads it
	Place     mail.Place   `json:"place,omitempty" tstype:"inbox.Place"` // where they are
	From      string       `json:"from,omitempty"`                       // the address that wrote last
	Account   string       `json:"account,omitempty"`                    // the own address at which they came
	Label     int64        `json:"label,omitempty"`                      // this label, or one below it
	Kind      mail.Kind    `json:"kind,omitempty"`
	Reach     mail.Reach   `json:"reach,omitempty"`
	Unread    bool         `json:"unread,omitempty"`
	Starred   bool         `json:"starred,omitempty"`
	Unstarred bool         `json:"unstarred,omitempty"`
	Flagged   bool         `json:"flagged,omitempty"` // with an open follow-up
	Files     bool         `json:"files,omitempty"`
	Before    when.Instant `json:"before,omitempty"` // no message since

	Domain   string        `json:"domain,omitempty"`   // of the address that wrote last, or one below it
	Subject  string        `json:"subject,omitempty"`  // words, as Words, in the subject
	List     string        `json:"list,omitempty"`     // a List-Id (RFC 2919)
	FilesOf  FileKind      `json:"filesOf,omitempty"`  // with a file of that kind
	Larger   int           `json:"larger,omitempty"`   // than so many bytes
	Level    Level         `json:"level,omitempty"`    // how important
	Language when.Language `json:"language,omitempty"` // in which its sender wrote
	Stream   string        `json:"stream,omitempty"`   // a delivery.Stream
	Together bool          `json:"together,omitempty"` // what lies in the inbox for no other reason than that it came in
	Apart    string        `json:"-"`                  // without what would be together in these streams, a comma between

	// What is asked of the message that has the words, and of any message without words.
	// People are named by their addresses, a comma between; any of them will do:
	Writer string       `json:"writer,omitempty"` // wrote it
	To     string       `json:"to,omitempty"`     // got it
	With   string       `json:"with,omitempty"`   // wrote or got it
	Since  when.Instant `json:"since,omitempty"`  // it was written then or later,
	Until  when.Instant `json:"until,omitempty"`  // and before

	Within DocumentKind `json:"within,omitempty"` // the words stand in texts of that kind

	Saved int64 `json:"saved,omitempty"` // on this saved list

	Answered   bool `json:"answered,omitempty"`   // the reader has written in it
	Unanswered bool `json:"unanswered,omitempty"` // and has not
	Waiting    bool `json:"waiting,omitempty"`    // with a follow-up that waits for somebody

	// What can only be asked of a message as it comes in:
	Days     int  `json:"days,omitempty"`     // on a weekday whose bit is set (1<<time.Sunday …)
	Begin    int  `json:"begin,omitempty"`    // between these minutes after midnight,
	End      int  `json:"end,omitempty"`      // which may go over it; equal: at any time
	Stranger bool `json:"stranger,omitempty"` // the first from its sender
	Answers  bool `json:"answers,omitempty"`  // it answers what the reader wrote

	// What is asked of follow-ups, or of conversations by their open ones:
	Stage    string `json:"stage,omitempty"`
	Project  string `json:"project,omitempty"`
	Person   string `json:"person,omitempty"` // the address of whom it is with
	Priority int    `json:"priority,omitempty" tstype:"followup.Priority"`
	Context  string `json:"context,omitempty"`

	// What is asked of follow-ups alone:
	Group string `json:"group,omitempty" tstype:"followup.Group"` // of due times
	Day   string `json:"day,omitempty"`                           // due on that day ("2026-11-26")
}

// OfWork is the part of q that is asked of follow-ups.
func (q Query) OfWork() Query {
	return Query{Words: q.Words, Label: q.Label, Stage: q.Stage, Project: q.Project, Person: q.Person, Priority: q.Priority, Context: q.Context, Group: q.Group, Day: q.Day}
}

// MaxPeople is how many people a query can name.
const MaxPeople = 40

// OfMessage says that q asks something of single messages besides their words.
func (q Query) OfMessage() bool {
	return q.Writer != "" || q.To != "" || q.With != "" || q.Since != 0 || q.Until != 0
}

// People are the addresses that Writer, To or With names.
func People(named string) []string {
	return strings.FieldsFunc(named, func(r rune) bool { return r == ',' })
}

// ByWork says that q asks for something of the follow-ups of a conversation.
func (q Query) ByWork() bool {
	return q.Stage != "" || q.Project != "" || q.Person != "" || q.Priority != 0 || q.Context != ""
}

// ValidWork says in a sentence what is wrong with q as what is asked of follow-ups, or nil.
func (q Query) ValidWork() error {
	if q != q.OfWork() {
		return errors.New("a view of follow-ups asks for what they say: words, stage, project, person, priority, label, context or when they are due")
	}
	return nil
}

// AtArrival says that q asks for something that can only be asked of a message as it
// comes in.
func (q Query) AtArrival() bool {
	return q.Days != 0 || q.Begin != q.End || q.Stranger || q.Answers
}

// Valid says in a sentence for the user what is wrong with q, or nil.
func (q Query) Valid() error {
	switch q.Place {
	case "", "inbox", "snoozed", "archived", "bin", "junk":
	default:
		return errors.New("there is no such place to search")
	}
	switch q.Within {
	case "", MessageDocument, FileDocument, NameDocument, FollowUpDocument, EventDocument, CommentDocument:
	default:
		return errors.New("there are no such texts to look in")
	}
	if q.Answered && q.Unanswered {
		return errors.New("nothing is answered and not answered at once")
	}
	if q.Until > 0 && q.Until <= q.Since {
		return errors.New("nothing was written after the one time and before the other: turn them round")
	}
	if strings.Count(q.Writer+","+q.To+","+q.With, ",") > MaxPeople {
		return fmt.Errorf("that is more than %d people: name fewer", MaxPeople)
	}
	if q.Starred && q.Unstarred {
		return errors.New("nothing is starred and not starred at once")
	}
	if len(q.Words) > MaxAsked || len(q.Subject) > MaxAsked {
		return errors.New("that is too much to search for: name a few words")
	}
	if _, known := FileKinds[q.FilesOf]; q.FilesOf != "" && !known {
		return errors.New("there is no such kind of files")
	}
	if q.Group != "" || q.Day != "" {
		return errors.New("when something is due can be asked of follow-ups, not of mail")
	}
	if q.Level != "" && q.Level != High && q.Level != Middle && q.Level != Low {
		return errors.New("nothing is that important: high, middle and low are")
	}
	if q.Days < 0 || q.Days > 127 || min(q.Begin, q.End) < 0 || max(q.Begin, q.End) > 24*60 {
		return errors.New("there is no such time of the week")
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
	if q.Saved != 0 {
		return errors.New("a list cannot ask what is on another one")
	}
	if q.AtArrival() {
		return errors.New("when something came, and whether from a stranger, can be asked by a rule, not by a list")
	}
	return q.Valid()
}

// DocumentKind is what sort of text something is found by.
type DocumentKind string

// The kinds of documents.
const (
	MessageDocument  DocumentKind = "message"
	FileDocument     DocumentKind = "file" // of a message: what it says
	NameDocument     DocumentKind = "name" // what the reader calls a conversation, and a note on it
	FollowUpDocument DocumentKind = "follow-up"
	EventDocument    DocumentKind = "event"
	CommentDocument  DocumentKind = "comment" // what was said to the others of a team
)
