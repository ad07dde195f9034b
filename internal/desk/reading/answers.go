package reading

import (
	"ebbe/internal/core/calendar"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/texting"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/calendars"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/queue"
	"ebbe/internal/desk/sharing"
	"ebbe/internal/desk/talk"
	"ebbe/internal/desk/told"
	"ebbe/internal/store"
)

// MessageView is a message as it is read. Blocks are nil where the text was
// not asked for; HTML says that there is a version to show in a frame.
type MessageView struct {
	ID       int64          `json:"id"`
	From     mail.Address   `json:"from"`
	To       []mail.Address `json:"to"`
	Cc       []mail.Address `json:"cc"`
	Date     when.Instant   `json:"date"`
	Subject  string         `json:"subject"`
	Kind     mail.Kind      `json:"kind"`
	Own      bool           `json:"own"`
	Raw      bool           `json:"raw"`
	Files    []mail.File    `json:"files"`
	Blocks   []mail.Block   `json:"blocks"`
	HTML     bool           `json:"html"`
	Fresh    bool           `json:"fresh,omitempty"`    // it has come since the reader last read its conversation, wrote in it or decided about it
	Begins   string         `json:"begins,omitempty"`   // what its sender begins with
	Language string         `json:"language,omitempty"` // its name, if it is none that the reader reads
	Reports  []ReportView   `json:"reports"`            // of a delivery report: what became of a message
	Remote   int            `json:"remote"`             // things on other machines that were left out
	Stub     int64          `json:"stub"`               // bytes that it has on its server, if only its header is here
	Rest     int            `json:"rest"`               // bytes of a very long one that are not shown unless all of it is asked for
	Bcc      []mail.Address `json:"bcc"`                // hidden recipients, of the reader's own messages alone
	Junk     string         `json:"junk,omitempty"`     // why it was put into junk, in a sentence
	Seems    string         `json:"seems,omitempty"`    // for whom its sender may be taken, in a sentence
	Wants    string         `json:"wants"`              // to whom it is to be told that this was opened, if the user wants to
	Reached  when.Instant   `json:"reached,omitempty"`  // of a text: when it reached the telephone it was for; 0: nobody has said so
}

// ReportView is what became of a message, in plain words.
type ReportView struct {
	Text   string `json:"text"`
	Failed bool   `json:"failed"`
}

// Between is what has gone back and forth with a person, and what is open.
type Between struct {
	Name      string              `json:"name"`
	Address   string              `json:"address"`
	Received  int                 `json:"received"`
	Sent      int                 `json:"sent"`
	Since     when.Instant        `json:"since"`
	FollowUps []followup.FollowUp `json:"followUps"`
	Along     []string            `json:"along"`            // further mail addresses of theirs, and numbers as people write them
	Number    *NumberKnown        `json:"number,omitempty"` // which the address stands for
}

// NumberKnown is a telephone number, and what is known of it.
type NumberKnown struct {
	Number  texting.Number `json:"number"`
	Says    string         `json:"says"` // as people write it
	Name    string         `json:"name"`
	Address string         `json:"address"` // their mail address; empty: not known
	Stopped when.Instant   `json:"stopped"` // since when they want no texts; 0: they do not mind
}

// Offer is something for whose answer the user waits, and a message of the
// conversation that may be it.
type Offer struct {
	followup.Candidate `tstype:",extends"`
	UID                string       `json:"uid"`
	Title              string       `json:"title"`
	With               mail.Address `json:"with"`
}

// ConversationView is a conversation opened.
type ConversationView struct {
	Slip      queue.Slip             `json:"slip"`
	Messages  []MessageView          `json:"messages"`
	FollowUps []followup.FollowUp    `json:"followUps"`
	Offers    []Offer                `json:"offers"` // what it may be the awaited answer to
	Between   *Between               `json:"between,omitempty"`
	Note      string                 `json:"note"`
	Draft     composing.DraftView    `json:"draft"`
	Going     []composing.OutboxLine `json:"going"` // what is on its way out from it

	Facts       []told.FactView        `json:"facts"` // what machines tell in it
	Invitations []calendars.Invitation `json:"invitations"`
	Events      []calendar.Event       `json:"events"`         // made from it
	Shared      []sharing.SharedView   `json:"shared"`         // where else it is seen
	Writing     []talk.WritingView     `json:"writing"`        // who else is writing an answer
	Talk        *talk.TalkView         `json:"talk,omitempty"` // what its team says about it; nil: it is in nobody's box but the reader's
}

// HistoryLine is a line of the journal.
type HistoryLine struct {
	ID           int64        `json:"id"`
	At           when.Instant `json:"at"`
	Actor        store.Actor  `json:"actor"`
	Who          string       `json:"who"`
	Kind         inbox.Kind   `json:"kind"`
	Count        int          `json:"count"`
	Text         string       `json:"text"`
	Conversation int64        `json:"conversation"`
	TakenBack    bool         `json:"takenBack"`
	Step         bool         `json:"step"` // can be taken back
}

// History is a page of the journal, newest first.
type History struct {
	Lines []HistoryLine `json:"lines"`
	Next  int64         `json:"next,omitempty"`
}

// Noted is what a browser notes of its person.
type Noted struct {
	Readings []ReadingNoted `json:"readings"`
	Notices  []NoticeNoted  `json:"notices"`
}

// ReadingNoted says that a conversation was open.
type ReadingNoted struct {
	Conversation int64        `json:"conversation"`
	Message      int64        `json:"message"` // its newest message then
	At           when.Instant `json:"at"`      // since when
	Seconds      int          `json:"seconds"` // for how long it was in view
	Whole        bool         `json:"whole"`   // down to its end
}

// NoticeNoted says that a notification was shown.
type NoticeNoted struct {
	At   when.Instant `json:"at"`
	Text string       `json:"text"`
}

// SourceView is what the header of a message says.
type SourceView struct {
	Said   []mail.Said `json:"said"`           // how far it can be trusted
	Header string      `json:"header"`         // as it came
	More   int         `json:"more,omitempty"` // bytes of it that are left out
	Link   string      `json:"link,omitempty"` // that finds it wherever it is (RFC 2392)
}
