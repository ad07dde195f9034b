package composing

import (
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/journal"
)

// DraftView is the beginning of a message. ID is 0 if there is none.
type DraftView struct {
	ID           int64        `json:"id"`
	Conversation int64        `json:"conversation"`
	Mode         writing.Mode `json:"mode"`
	Message      int64        `json:"message"` // which it answers or passes on, or 0
	DraftChange  `tstype:",extends"`
	Files        []FileView    `json:"files"`
	Below        string        `json:"below"` // what stands below the words, unless it is bare
	Signature    string        `json:"signature"`
	Line         string        `json:"line,omitempty"` // it is a text, from the telephone line of that number
	Begun        when.Instant  `json:"begun"`
	Changed      when.Instant  `json:"changed"`
	Trail        []HandingView `json:"trail"`           // through whose hands of the team it has gone, the latest last
	With         string        `json:"with,omitempty"`  // who of them has it now; empty: whoever looks
	Apart        int64         `json:"apart,omitempty"` // the draft that another window has changed meanwhile; what was written here is kept as this one
}

// HandingView is that a draft went from one of the team to another.
type HandingView struct {
	By   string       `json:"by"`
	ByID int64        `json:"byId"`
	To   string       `json:"to"`
	At   when.Instant `json:"at"`
	Why  string       `json:"why"`
}

// Handed is to whom of the team a draft is given, and what they are asked to do with it.
type Handed struct {
	To  int64  `json:"to"`
	Why string `json:"why"`
}

// FileView is a file that goes with a draft.
type FileView struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
	Type string `json:"type"`
	Size int    `json:"size"` // bytes
}

// Sent is what came of sending a message.
type Sent struct {
	journal.Decided `tstype:",extends"`
	Outgoing        int64        `json:"outgoing"`
	At              when.Instant `json:"at"`                 // when it goes
	Asks            string       `json:"asks"`               // nothing was sent: the user has to be asked this first
	Field           string       `json:"field"`              // what the question is about
	Answered        int64        `json:"answered,omitempty"` // it is about this answer, that another member has sent
}

// TemplateView is a template of the user.
type TemplateView struct {
	ID               int64 `json:"id"`
	writing.Template `tstype:",extends"`
}

// LeaveView says what leaving a list will do.
type LeaveView struct {
	List string `json:"list"`
	Way  string `json:"way"`  // "request", "mail", "page", or "" if there is none
	Page string `json:"page"` // where it is left by hand
	Text string `json:"text"` // what will happen, in a sentence
}

// OutboxLine is a message that has not gone.
type OutboxLine struct {
	ID           int64               `json:"id"`
	To           mail.Address        `json:"to"`
	More         []writing.Recipient `json:"more"` // everybody it is for, with how far they are
	At           when.Instant        `json:"at"`   // when it was written, or goes
	Next         when.Instant        `json:"next"` // when it is tried next; 0 if it is not
	State        writing.State       `json:"state"`
	Problem      string              `json:"problem"`
	Subject      string              `json:"subject"`
	Text         string              `json:"text"`
	Conversation int64               `json:"conversation"`
	Again        string              `json:"again"` // how it is sent again after that, in the user's words; empty: not at all
	Entry        int64               `json:"entry"` // of the journal, by which it can be taken back; 0: it cannot
}

// Outbox is a page of what has not gone, newest first.
type Outbox struct {
	Messages []OutboxLine `json:"messages"`
	Next     int64        `json:"next,omitempty"`
}

// DraftBegun says which message is begun.
type DraftBegun struct {
	Mode    writing.Mode   `json:"mode"`
	Message int64          `json:"message"` // which it answers or passes on; 0 for a new one
	To      []mail.Address `json:"to"`      // for a new one
	Line    int64          `json:"line"`    // for a new text: the telephone line from which it goes; 0: it is mail
	Remind  bool           `json:"remind"`  // it asks again for an answer to a message of the user's
}

// DraftChange is a draft as the user has it now. Version is that of the draft it was
// made from; Writer names the window it was made in, and Turn counts the changes
// made there. Without a Writer it is taken for the only one that writes.
type DraftChange struct {
	Account int64          `json:"account"`
	To      []mail.Address `json:"to"`
	Cc      []mail.Address `json:"cc"`
	Bcc     []mail.Address `json:"bcc"`
	Subject string         `json:"subject"`
	Text    string         `json:"text"`
	Rich    bool           `json:"rich"`
	Bare    bool           `json:"bare"`
	Receipt bool           `json:"receipt"`
	Named   bool           `json:"named"` // from the address of a team, by one's own name
	Version int64          `json:"version"`
	Writer  string         `json:"writer"`
	Turn    int64          `json:"turn"`
}

// Sending is how a draft is to be sent.
type Sending struct {
	Then    inbox.Kind  `json:"then"`             // what its conversation becomes: archive, snooze, or empty for as it is
	Return  when.Moment `json:"return,omitzero"`  // when it is brought back if nobody has answered
	At      when.Moment `json:"at,omitzero"`      // not before that time
	Repeat  string      `json:"repeat,omitempty"` // and again after that, in words: every monday
	Sure    bool        `json:"sure"`             // the user was asked about a missing file or subject, or who else writes
	Told    int64       `json:"told,omitempty"`   // of the answer of another member that they were asked about: Sent.Answered
	Expect  string      `json:"expect,omitempty"` // for handing over: what is expected
	Due     when.Moment `json:"due,omitzero"`     // for handing over: by when
	Sitting int64       `json:"sitting,omitempty"`
	Seen    inbox.Place `json:"seen,omitempty"`
	Version int64       `json:"version,omitempty"` // of the draft as the user sees it; 0: whichever it is
}

// FileOf names a file that came with a message: which of it, counted from 0.
type FileOf struct {
	Message int64 `json:"message"`
	Number  int   `json:"number"`
}

// Attached are files of messages that are to go with a draft.
type Attached struct {
	Files []FileOf `json:"files"`
}
