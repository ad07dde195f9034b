package store

import (
	"ebbe/internal/core/calendar"
	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
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
	Feed     string            // hash of the secret part of the address of their calendar feed; empty: there is none
	Inward   string            // hash of the secret part of their addresses into Ebbe; empty: there is none
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

// Draft is the beginning of a message.
type Draft struct {
	ID             int64
	PersonID       int64 `gorm:"index"`
	ConversationID int64 `gorm:"index:draft_conversation"` // what it is about, or 0
	Mode           writing.Mode
	MessageID      int64          // the message it answers or passes on, or 0
	AccountID      int64          // from which it will go; 0: the first
	To             []mail.Address `gorm:"serializer:json"`
	Cc             []mail.Address `gorm:"serializer:json"`
	Bcc            []mail.Address `gorm:"serializer:json"`
	Subject        string
	Text           string
	Rich           bool // the text is Markdown
	Bare           bool // without what it answers below
	Receipt        bool // ask to be told when it was read
	Begun          when.Instant
	Changed        when.Instant
	OutgoingID     int64 // the message made of it that can still be taken back; it shows nowhere then
}

// Template is a template of a person.
type Template struct {
	ID               int64
	PersonID         int64 `gorm:"index"`
	writing.Template `gorm:"embedded"`
}

// DraftFile is a file that goes with a draft.
type DraftFile struct {
	ID      int64
	DraftID int64 `gorm:"index"`
	Name    string
	Type    string
	Size    int
	Passed  bool // it belongs to the message that is passed on
	Content []byte
}

// DraftCopy says that a copy of a draft lies in the folder of drafts of an
// account, under that Message-ID. It outlives the draft until it is taken away
// there.
type DraftCopy struct {
	AccountID int64  `gorm:"primaryKey;autoIncrement:false"`
	MessageID string `gorm:"primaryKey"`
	DraftID   int64
}

// Account is a mailbox on a server, with the server that sends for it.
type Account struct {
	ID        int64
	BoxID     int64 `gorm:"index"`
	PersonID  int64
	Name      string // what the person calls it
	Address   string // lower case
	FullName  string // under which it sends
	Signature string
	Mailbox   mail.Server `gorm:"serializer:json"`
	Sending   mail.Server `gorm:"serializer:json"`
	Login     string
	Secret    []byte        // sealed with the key of the data folder
	Token     bool          // the secret is a token
	Carries   inbox.Carries `gorm:"serializer:json"`
	Paused    bool
	EmptyDays int // after how many days what Ebbe has put into its bin and junk is removed; 0: never
	Begun     when.Instant
	Synced    when.Instant // when all of it was last in step
	Trouble   string       // why it is not, in a sentence; empty if it is
	Expected  int          // messages that the first sync will bring
	Brought   int          // those it has brought
}

// Folder is a folder of an account on its server.
type Folder struct {
	ID        int64
	AccountID int64  `gorm:"uniqueIndex:folder_name,priority:1"`
	Name      string `gorm:"uniqueIndex:folder_name,priority:2"`
	Role      mail.Role
	Validity  int64  // UIDVALIDITY; 0 until it was opened first
	Low       int64  // all messages with UIDs from here
	High      int64  // to here have been taken in
	Whole     bool   // and there are none below
	ModSeq    uint64 // the state of the flags (RFC 7162); 0 if unknown
	Gone      bool   // it is not on the server any more
	Careful   bool   // a message in it breaks the line: they are fetched one by one
	Trying    int64  // the UID of the one that is being fetched so; negative: its header alone
}

// Copy says where a message lies on a server. A negative UID is one of before
// the server numbered its messages anew.
type Copy struct {
	FolderID  int64 `gorm:"primaryKey;autoIncrement:false"`
	UID       int64 `gorm:"primaryKey;autoIncrement:false"`
	MessageID int64 `gorm:"index"`
	Seen      bool
	Star      bool
	Put       when.Instant // when Ebbe put it there; 0: it came there otherwise
}

// Awaited is a message that Ebbe has put into a folder without learning its
// UID there: when it is found, nobody else has moved it.
type Awaited struct {
	FolderID  int64 `gorm:"primaryKey;autoIncrement:false"`
	MessageID int64 `gorm:"primaryKey;autoIncrement:false"`
}

// Happening says that something other than Ebbe has put a message into a folder
// or taken it out of one, and that its conversation has still to follow.
type Happening struct {
	ID        int64
	AccountID int64 `gorm:"index"`
	MessageID int64
	FolderID  int64 // out of which it went; 0 if it was put into one
}

// Vanishing says that a message has vanished from a folder and was found in no
// other. Those of the last minutes are counted; where they are too many, the
// person is asked before anything follows from them.
type Vanishing struct {
	FolderID  int64 `gorm:"primaryKey;autoIncrement:false"`
	MessageID int64 `gorm:"primaryKey;autoIncrement:false"`
	AccountID int64 `gorm:"index"`
	At        when.Instant
	Asked     bool // nothing has followed: it waits for what the person says
	PutBack   bool // the person wants it laid into the folder again
}

// Unasked says that the user does not wait for an answer to a message of
// theirs, though it asks something.
type Unasked struct {
	PersonID  int64 `gorm:"primaryKey;autoIncrement:false"`
	MessageID int64 `gorm:"primaryKey;autoIncrement:false"`
}

// Errand says that a conversation has been decided about and the servers do
// not know yet.
type Errand struct {
	ConversationID int64  `gorm:"primaryKey;autoIncrement:false"`
	BoxID          int64  `gorm:"index"`
	Rev            int64  // grows with each decision
	LeftPlaces     string // the places it has left by decisions, between commas; empty: nothing was decided about its place
	Attempts       int
	At             when.Instant // of the next try
	Problem        string
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

// KnownBrowser is a browser in which a person has signed in before. Only a hash
// of its token is kept.
type KnownBrowser struct {
	TokenHash string `gorm:"primaryKey"`
	PersonID  int64  `gorm:"index"`
	At        when.Instant
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
	Apart    bool   // it was parted from another: no message joins it to one again by itself
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
	Own            bool  // the reader wrote it
	Raw            bool  // could not be read as MIME
	Stub           int64 // bytes that it has on its server, if only its header is kept here; else 0
	Reader         int   // the version of the reader that read it; post.Reader
	Size           int   // bytes of the original
	OriginalID     int64 // the message, of another box, with which its original is kept; 0: this one

	Held    delivery.Stream // its stream while it is held; then it shows nowhere
	Through string          // the ID of the entry that let it through, if one did
	LetIn   int64           // the entry of the journal with which it came in after it had been held
}

// Outgoing is a message on its way out.
type Outgoing struct {
	ID       int64
	BoxID    int64  `gorm:"uniqueIndex:outgoing_once,priority:1"`
	Hold     string `gorm:"uniqueIndex:outgoing_once,priority:2"` // the hold whose automatic answer it is, or what else makes it the only one
	Address  string `gorm:"uniqueIndex:outgoing_once,priority:3"` // of the first recipient, lower case
	Name     string
	At       when.Instant // when it was written, or the user wants it to go
	Subject  string
	Text     string
	Original []byte         `gorm:"-"`               // as it leaves (RFC 5322); kept apart, and loaded where it is asked for
	Bcc      []mail.Address `gorm:"serializer:json"` // hidden recipients: in the user's own copy, and never on the wire

	EntryID   int64 `gorm:"index:outgoing_entry,where:entry_id > 0"` // the entry of the journal that wrote it, if it can be taken back
	Withdrawn bool  // that entry was taken back

	AccountID      int64
	DraftID        int64
	ConversationID int64
	State          writing.State
	To             []writing.Recipient `gorm:"column:recipients;serializer:json"`
	Next           when.Instant        // of the next try
	Rule           string              // by which it is sent again (RECUR of RFC 5545); empty: once
	Again          string              // the same in the user's words
	Begins         when.Moment         `gorm:"serializer:json"` // from when the rule counts
	Attempts       int
	Problem        string
	SentAt         when.Instant
	Quiet          bool // it is not shown in its conversation: an automatic answer
	Filed          bool // it stands in its conversation
	Laid           bool // it lies in the folder of sent mail on the server

	MessageID int64 // the message it has become in its conversation, which has its bytes then; or 0
}

// OutgoingBytes is a message of the outbox as it leaves, until it stands in its
// conversation.
type OutgoingBytes struct {
	OutgoingID int64 `gorm:"primaryKey;autoIncrement:false"`
	Bytes      []byte
}

// Postponed is a notification that waits until the user wants to hear of it.
type Postponed struct {
	ID    int64
	BoxID int64 `gorm:"index"`
	Text  string
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
	ByServer Actor = "server" // something else that works on the same mailbox
)

// Entry is one line of the journal. Its ID orders the journal.
type Entry struct {
	ID             int64
	BoxID          int64 `gorm:"index:entry_at,priority:1"`
	PersonID       int64
	Actor          Actor
	Kind           inbox.Kind
	At             when.Instant   `gorm:"index:entry_at,priority:2"`
	Delta          int            `gorm:"index:entry_at,priority:3"` // by how much it moved the number left to decide
	Count          int            // conversations or follow-ups it touched
	ConversationID int64          // the first of them, for its line in the history
	Text           string         // what it was about, in words
	Step           bool           // can still be taken back
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

// Subjects are the follow-ups and events that things of the agenda are about.
func Subjects(things []Thing) (uids []string) {
	for _, th := range things {
		uids = append(uids, th.FollowUp)
	}
	return uids
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
