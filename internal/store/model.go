package store

import (
	"ebbe/internal/core/calendar"
	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
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
	Habits   Habits            `gorm:"serializer:json"`
	Site     int64             // the place they are at, or 0
	Delivery delivery.Settings `gorm:"serializer:json"`
	FollowUp followup.Settings `gorm:"serializer:json"`
	Feed     string            // the secret part of the address of their calendar feed; empty: there is none
}

// Label is a label of a box. Labels nest by their parents.
type Label struct {
	ID     int64
	BoxID  int64 `gorm:"index"`
	Parent int64
	Name   string
	Color  string
	Mark   string
	Gone   bool // deleted; kept so that taking that back finds it
}

// ConversationLabel says that a label is on a conversation. It follows from
// Conversation.Labels.
type ConversationLabel struct {
	LabelID        int64 `gorm:"primaryKey;autoIncrement:false"`
	ConversationID int64 `gorm:"primaryKey;autoIncrement:false;index"`
}

// Site is a place a person can be at.
type Site struct {
	ID       int64
	PersonID int64 `gorm:"index"`
	Name     string
	Gone     bool
}

// Sitting is one going through the undecided. Its steps are the entries of the
// journal that name it.
type Sitting struct {
	ID       int64
	PersonID int64 `gorm:"index"`
	Begun    when.Instant
	Ended    when.Instant // 0 while it lasts
	Order    inbox.Order
	Minutes  int     // its length; 0: until all are decided
	Queue    []int64 `gorm:"serializer:json"` // in the order chosen
}

// Draft is the beginning of an answer.
type Draft struct {
	PersonID       int64 `gorm:"primaryKey;autoIncrement:false"`
	ConversationID int64 `gorm:"primaryKey;autoIncrement:false"`
	Text           string
	Begun          when.Instant
	Changed        when.Instant
}

// SavedList is a query a person keeps in view beside the inbox.
type SavedList struct {
	ID       int64
	PersonID int64 `gorm:"index"`
	Name     string
	Query    search.Query `gorm:"serializer:json"`
	Folded   bool
	Rank     int // their order
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
	ID          int64       `gorm:"index:conversation_queue,priority:4"`
	BoxID       int64       `gorm:"index:conversation_queue,priority:1;index:conversation_base,priority:1;index:conversation_return,priority:1"`
	Place       inbox.Place `gorm:"index:conversation_queue,priority:2;index:conversation_return,priority:2"`
	Reason      inbox.Reason
	Since       when.Instant `gorm:"index:conversation_queue,priority:3"`
	SnoozedAt   when.Instant
	ReturnAt    when.Instant `gorm:"index:conversation_return,priority:3"`
	ReturnLocal string
	ReturnZone  string
	Until       inbox.Until
	Site        int64 `gorm:"index:conversation_site,where:site > 0"`
	Round       when.Instant

	Title  string       // what the reader calls it
	Note   string       // the reader's note on it
	Labels inbox.Labels // which are on it; ConversationLabel follows from this

	Subject  string
	Base     string       `gorm:"index:conversation_base,priority:2"` // mail.BaseSubject
	LastAt   when.Instant `gorm:"index:conversation_base,priority:3"`
	FirstAt  when.Instant
	Messages int
	Files    int
	Kind     mail.Kind
	FromName string // who wrote last, the reader aside
	FromAddr string
	OwnLast  bool   // the reader wrote the last message
	MergedTo int64  // the conversation that has taken this one in, or 0
	Account  string // the own address at which the last message came, if it was named
	Reach    mail.Reach
	Rank     int // inbox.Rank
	Size     int // bytes of all messages
}

// State is what decisions change about the conversation, with its mark.
func (c Conversation) State(m Mark) inbox.Conversation {
	return inbox.Conversation{ID: c.ID, Position: c.Position(), Unread: m.Unread, Starred: m.Starred, Looks: m.Looks, Title: c.Title, Note: c.Note, Labels: c.Labels}
}

// Position reads the inbox.Position out of the row.
func (c Conversation) Position() inbox.Position {
	return inbox.Position{Place: c.Place, Reason: c.Reason, Since: c.Since, SnoozedAt: c.SnoozedAt,
		Return: when.Moment{At: c.ReturnAt, Local: c.ReturnLocal, Zone: c.ReturnZone}, Until: c.Until, Site: c.Site, Round: c.Round}
}

// SetPosition writes the inbox.Position into the row.
func (c *Conversation) SetPosition(p inbox.Position) {
	c.Place, c.Reason, c.Since, c.SnoozedAt = p.Place, p.Reason, p.Since, p.SnoozedAt
	c.ReturnAt, c.ReturnLocal, c.ReturnZone = p.Return.At, p.Return.Local, p.Return.Zone
	c.Until, c.Site, c.Round = p.Until, p.Site, p.Round
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

	Held    delivery.Stream // its stream while it is held; then it shows nowhere
	Through string          // the ID of the entry that let it through, if one did
	LetIn   int64           // the entry of the journal with which it came in after it had been held
}

// Outgoing is a message that Ebbe has written and that waits to be sent.
type Outgoing struct {
	ID       int64
	BoxID    int64  `gorm:"uniqueIndex:outgoing_once,priority:1"`
	Hold     string `gorm:"uniqueIndex:outgoing_once,priority:2"` // the hold whose automatic answer it is
	Address  string `gorm:"uniqueIndex:outgoing_once,priority:3"` // to whom, lower case
	Name     string
	At       when.Instant
	Subject  string
	Text     string
	Original []byte // as it will be sent (RFC 5322)

	EntryID   int64 `gorm:"index:outgoing_entry,where:entry_id > 0"` // the entry of the journal that wrote it, if it can be taken back
	Withdrawn bool  // that entry was taken back
}

// Postponed is a notification that waits until the user wants to hear of it.
type Postponed struct {
	ID    int64
	BoxID int64 `gorm:"index"`
	Text  string
}

// OnItsWay is a message that a correspondent of the demo will have sent at At.
type OnItsWay struct {
	ID    int64
	BoxID int64
	At    when.Instant `gorm:"index"`
	Raw   []byte
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
	BoxID      int64  `gorm:"primaryKey;autoIncrement:false"`
	Address    string `gorm:"primaryKey"`
	Name       string
	Received   int // messages from them
	Sent       int // messages to them
	FirstAt    when.Instant
	LastAt     when.Instant
	AnsweredAt when.Instant // when the reader last wrote to them
}

// FollowUp is followup.FollowUp in a box. All but Data follows from Data.
type FollowUp struct {
	BoxID          int64  `gorm:"primaryKey;autoIncrement:false"`
	UID            string `gorm:"primaryKey"`
	Open           bool
	DueAt          when.Instant
	Stage          string // the ID of the stage it is in
	Project        string
	Person         string // the address, or else the name, of whom it concerns
	PersonName     string
	Context        string
	Priority       followup.Priority
	Minutes        int          // of effort that are left
	WaitsSince     when.Instant // 0: it waits for nobody
	ConversationID int64        `gorm:"index:followup_conversation"`
	Finished       when.Instant
	Card           bool
	Rev            int64             // the revision of the box's follow-ups in which it was stored last
	Words          string            // of its title, project, people and notes, in lower case
	Data           followup.FollowUp `gorm:"serializer:json"`
}

// FollowUpLabel says that a label is on a follow-up. It follows from its Data.
type FollowUpLabel struct {
	BoxID   int64  `gorm:"primaryKey;autoIncrement:false"`
	LabelID int64  `gorm:"primaryKey;autoIncrement:false"`
	UID     string `gorm:"primaryKey"`
}

// Event is calendar.Event in a box. All but Data follows from Data.
type Event struct {
	BoxID          int64        `gorm:"primaryKey;autoIncrement:false;index:event_start,priority:1"`
	UID            string       `gorm:"primaryKey"`
	StartAt        when.Instant `gorm:"index:event_start,priority:2"`
	EndAt          when.Instant
	Repeats        bool
	ConversationID int64 `gorm:"index:event_conversation"`
	Card           bool
	Data           calendar.Event `gorm:"serializer:json"`
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
	Ref            int64          // the label or place it is about, or 0
	SittingID      int64          // the sitting in which it was decided, or 0
	Changes        []inbox.Change `gorm:"serializer:packed"`
	Touched        []int64        `gorm:"-"` // conversations it is about besides those in Changes
}

// Thing is one row of the agenda.
type Thing struct {
	ID             int64
	BoxID          int64        `gorm:"uniqueIndex:thing_subject,priority:4"`
	At             when.Instant `gorm:"index"`
	Kind           inbox.Kind   `gorm:"uniqueIndex:thing_subject,priority:1"`
	ConversationID int64        `gorm:"uniqueIndex:thing_subject,priority:2"`
	FollowUp       string       `gorm:"uniqueIndex:thing_subject,priority:3"` // UID of a follow-up or an event
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
