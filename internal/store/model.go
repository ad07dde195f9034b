package store

import (
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Person is somebody who signs in.
type Person struct {
	ID       int64
	Name     string
	Address  string    `gorm:"uniqueIndex"` // by which they sign in, lower case
	Password string    // argon2id, as its own encoded form; empty in the demo
	Week     when.Week `gorm:"serializer:json"`
	Theme    string
	Created  when.Instant
}

// OwnAddress is an address at which a person gets mail.
type OwnAddress struct {
	PersonID int64  `gorm:"primaryKey;autoIncrement:false"`
	Address  string `gorm:"primaryKey"`
	Account  string // what the person calls it
}

// Session is one signed-in browser. Only a hash of its token is kept.
type Session struct {
	TokenHash string `gorm:"primaryKey"`
	PersonID  int64
	CSRF      string
	Expires   when.Instant
}

// Box holds conversations; a person's own, or one shared by its members.
type Box struct {
	ID   int64
	Name string
}

// Member says that a person may see a box.
type Member struct {
	BoxID    int64 `gorm:"primaryKey;autoIncrement:false"`
	PersonID int64 `gorm:"primaryKey;autoIncrement:false"`
}

// Conversation is what the box knows of a conversation; what is personal about
// it is in Mark. Place to ReturnZone are inbox.Position, column by column.
type Conversation struct {
	ID          int64        `gorm:"index:conversation_queue,priority:4"`
	BoxID       int64        `gorm:"index:conversation_queue,priority:1;index:conversation_why,priority:1;index:conversation_base,priority:1;index:conversation_return,priority:1"`
	Place       inbox.Place  `gorm:"index:conversation_queue,priority:2;index:conversation_why,priority:2;index:conversation_return,priority:2"`
	Reason      inbox.Reason `gorm:"index:conversation_why,priority:3"`
	Since       when.Instant `gorm:"index:conversation_queue,priority:3;index:conversation_why,priority:4"`
	SnoozedAt   when.Instant
	ReturnAt    when.Instant `gorm:"index:conversation_return,priority:3"`
	ReturnLocal string
	ReturnZone  string

	Subject  string
	Base     string       `gorm:"index:conversation_base,priority:2"` // mail.BaseSubject
	LastAt   when.Instant `gorm:"index:conversation_base,priority:3"`
	FirstAt  when.Instant
	Messages int
	Files    int
	Kind     mail.Kind
	FromName string // who wrote last, the reader aside
	FromAddr string
	OwnLast  bool  // the reader wrote the last message
	MergedTo int64 // the conversation that has taken this one in, or 0
}

// Position reads the inbox.Position out of the row.
func (c Conversation) Position() inbox.Position {
	return inbox.Position{Place: c.Place, Reason: c.Reason, Since: c.Since, SnoozedAt: c.SnoozedAt,
		Return: when.Moment{At: c.ReturnAt, Local: c.ReturnLocal, Zone: c.ReturnZone}}
}

// SetPosition writes the inbox.Position into the row.
func (c *Conversation) SetPosition(p inbox.Position) {
	c.Place, c.Reason, c.Since, c.SnoozedAt = p.Place, p.Reason, p.Since, p.SnoozedAt
	c.ReturnAt, c.ReturnLocal, c.ReturnZone = p.Return.At, p.Return.Local, p.Return.Zone
}

// Mark is what is personal about a conversation.
type Mark struct {
	PersonID       int64 `gorm:"primaryKey;autoIncrement:false"`
	ConversationID int64 `gorm:"primaryKey;autoIncrement:false"`
	Unread         bool
	Starred        bool
	Looks          int
}

// Message is one stored message; its bytes are in Original.
type Message struct {
	ID             int64
	BoxID          int64        `gorm:"uniqueIndex:message_hash,priority:1;index:message_mid,priority:1"`
	Hash           []byte       `gorm:"uniqueIndex:message_hash,priority:2"` // SHA-256 of the original
	MessageID      string       `gorm:"index:message_mid,priority:2"`
	ConversationID int64        `gorm:"index:message_conversation,priority:1"`
	Date           when.Instant `gorm:"index:message_conversation,priority:2"` // Date header, or when it came in
	Received       when.Instant
	Subject        string
	FromName       string
	FromAddr       string
	To             []mail.Address `gorm:"serializer:json"`
	Cc             []mail.Address `gorm:"serializer:json"`
	Files          []mail.File    `gorm:"serializer:json"`
	Kind           mail.Kind
	Own            bool // the reader wrote it
	Raw            bool // could not be read as MIME
	Size           int  // bytes of the original
}

// Original is a message byte for byte as it came in.
type Original struct {
	MessageID int64 `gorm:"primaryKey;autoIncrement:false"`
	Bytes     []byte
}

// Ref says to which conversation a Message-ID belongs, be it known or only
// referred to.
type Ref struct {
	BoxID          int64  `gorm:"primaryKey;autoIncrement:false"`
	MessageID      string `gorm:"primaryKey"`
	ConversationID int64  `gorm:"index"`
}

// Correspondent counts what has gone back and forth with one address.
type Correspondent struct {
	BoxID    int64  `gorm:"primaryKey;autoIncrement:false"`
	Address  string `gorm:"primaryKey"`
	Name     string
	Received int // messages from them
	Sent     int // messages to them
	FirstAt  when.Instant
	LastAt   when.Instant
}

// FollowUp is followup.FollowUp in a box.
type FollowUp struct {
	UID            string       `gorm:"primaryKey"`
	BoxID          int64        `gorm:"index:followup_due,priority:1"`
	Open           bool         `gorm:"index:followup_due,priority:2"`
	DueAt          when.Instant `gorm:"index:followup_due,priority:3"`
	ConversationID int64        `gorm:"index"`
	Finished       when.Instant
	Card           bool
	Data           followup.FollowUp `gorm:"serializer:json"`
}

// Actor is who or what acted.
type Actor string

// The actors of the journal.
const (
	ByPerson Actor = "person"
	ByClock  Actor = "clock"
	ByMail   Actor = "mail"
)

// Entry is one line of the journal. Its ID orders the journal.
type Entry struct {
	ID             int64
	BoxID          int64 `gorm:"index:entry_at,priority:1"`
	PersonID       int64 `gorm:"index:entry_steps,priority:1"`
	Actor          Actor
	Kind           inbox.Kind
	At             when.Instant   `gorm:"index:entry_at,priority:2"`
	Delta          int            `gorm:"index:entry_at,priority:3"` // by how much it moved the number left to decide
	Count          int            // conversations or follow-ups it touched
	ConversationID int64          // the first of them, for its line in the history
	Text           string         // what it was about, in words
	Step           bool           `gorm:"index:entry_steps,priority:2"` // can still be taken back
	Of             int64          // the entry this one takes back or does again
	TakenBack      int64          // the entry that has taken this one back
	Changes        []inbox.Change `gorm:"serializer:json"`
}

// Thing is one row of the agenda.
type Thing struct {
	ID             int64
	BoxID          int64
	At             when.Instant `gorm:"index"`
	Kind           inbox.Kind   `gorm:"uniqueIndex:thing_subject,priority:1"`
	ConversationID int64        `gorm:"uniqueIndex:thing_subject,priority:2"`
	FollowUp       string       `gorm:"uniqueIndex:thing_subject,priority:3"`
}

// Request is the answer already given to a request that may be repeated.
type Request struct {
	PersonID int64        `gorm:"primaryKey;autoIncrement:false"`
	Key      string       `gorm:"primaryKey"`
	At       when.Instant `gorm:"index"`
	Answer   []byte
}

// Meta is a value the program keeps about the whole database.
type Meta struct {
	Name  string `gorm:"primaryKey"`
	Value string
}
