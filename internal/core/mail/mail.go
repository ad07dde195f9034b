// Package mail knows what a message is once it has been read: who wrote it to
// whom, what kind of message it is, which conversation it belongs to, and
// which of its lines are quoted.
package mail

import "ebbe/internal/core/when"

// Address is one mailbox of RFC 5322, section 3.4: a display name, which may be
// empty, and an address in lower case.
type Address struct {
	Name    string `json:"name,omitempty"`
	Address string `json:"address"`
}

// Short is how a person is called in a list: the name, or the address.
func (a Address) Short() string {
	if a.Name != "" {
		return a.Name
	}
	return a.Address
}

// Kind is what sort of sender a message has, read from its headers.
type Kind string

// The kinds of messages.
const (
	Person     Kind = "person"
	List       Kind = "list"       // to many who subscribed
	Notice     Kind = "notice"     // by a machine, for this reader
	Receipt    Kind = "receipt"    // of something bought or paid
	Invitation Kind = "invitation" // carries a calendar event
	Bounce     Kind = "bounce"     // a delivery report (RFC 3464)
)

// Kinds lists them.
var Kinds = []Kind{Person, List, Notice, Receipt, Invitation, Bounce}

// Machine says that messages of this kind are written by machines: they answer
// nothing and want no answer (RFC 3834).
func (k Kind) Machine() bool { return k == Notice || k == Receipt || k == Bounce }

// Reach is how directly a message was addressed to its reader.
type Reach string

// The reaches of a message, the most direct first.
const (
	Alone   Reach = "alone"   // to the reader and nobody else
	Named   Reach = "named"   // to the reader among others
	Copied  Reach = "copied"  // a copy only
	Unnamed Reach = "unnamed" // by a list, or blind
)

// ReachOf says how directly a message was addressed to the reader, and at
// which of the reader's own addresses; "" if none of them is named.
func ReachOf(to, cc []Address, own map[string]bool) (r Reach, at string) {
	for _, a := range to {
		if own[a.Address] {
			if len(to)+len(cc) == 1 {
				return Alone, a.Address
			}
			return Named, a.Address
		}
	}
	for _, a := range cc {
		if own[a.Address] {
			return Copied, a.Address
		}
	}
	return Unnamed, ""
}

// File is a part of a message that its sender meant to be kept.
type File struct {
	Name string `json:"name"`
	Type string `json:"type"` // media type, RFC 2046
	Size int    `json:"size"` // bytes, decoded
}

// Message is what Ebbe knows of a message besides its text.
type Message struct {
	MessageID  string   // without angle brackets (RFC 5322, section 3.6.4); may be empty
	References []string // ancestors from the oldest to the nearest, In-Reply-To last
	Subject    string
	From       Address
	To         []Address
	Cc         []Address
	Bcc        []Address // of the reader's own copy of what they sent; nobody else's has any
	ReplyTo    []Address
	Date       when.Instant // by its Date header; zero if missing or unreadable
	Kind       Kind
	ReceiptTo  string   // to whom it is to be told that this was opened (RFC 8098), if the reader wants to
	AnswerTo   string   // where an automatic answer may go: AnswerTo
	Reports    []Report // of a bounce: what became of a message of the reader's
	Leave      Leaving  // how one leaves the list it came from
	List       string   // which list that is: ListID
	Files      []File
	Text       string // plain text, quoted lines included
	HTML       string // as received, not yet safe to show; may be empty
	Raw        bool   // could not be read as MIME: Text is the original as text
}

// Block is a run of lines of a plain text: quoted or written by the sender.
type Block struct {
	Text   string `json:"text"`
	Quoted bool   `json:"quoted"`
	Alone  bool   `json:"alone,omitempty"` // what it quotes stands in no other message of its conversation
}
