package desk

import (
	"encoding/json"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// Slip is one conversation in a list.
type Slip struct {
	ID       int64          `json:"id"`
	From     string         `json:"from"`
	Subject  string         `json:"subject"`
	Kind     mail.Kind      `json:"kind"`
	LastAt   when.Instant   `json:"lastAt"`
	Messages int            `json:"messages"`
	Files    int            `json:"files"`
	Unread   bool           `json:"unread"`
	Starred  bool           `json:"starred"`
	Looks    int            `json:"looks"`
	Position inbox.Position `json:"position"`
	Due      *when.Moment   `json:"due,omitempty"`   // of its next open follow-up
	Title    string         `json:"title,omitempty"` // what the reader calls it, if not by its subject
	Note     bool           `json:"note,omitempty"`  // there is a note on it
	Draft    bool           `json:"draft,omitempty"` // an answer was begun
	Labels   []int64        `json:"labels"`
	Reach    mail.Reach     `json:"reach"`
	Account  string         `json:"account"`
}

// QueueGroup is a group of the queue, with its conversations in order. The
// slips themselves are fetched as they come into view.
type QueueGroup struct {
	Key   string          `json:"key"`
	Name  string          `json:"name"`
	Count int             `json:"count"`
	IDs   json.RawMessage `json:"ids" tstype:"number[]"`
}

// Queue is the inbox, arranged: the order of all of it, and its first slips.
type Queue struct {
	Groups []QueueGroup `json:"groups"`
	Slips  []Slip       `json:"slips"`
	Shown  int          `json:"shown"` // conversations in the groups
	Left   int          `json:"left"`  // left to decide, shown or not
}

// SittingView is a sitting as it stands. ID is 0 if there has been none.
type SittingView struct {
	ID      int64        `json:"id"`
	Begun   when.Instant `json:"begun"`
	Ended   when.Instant `json:"ended"` // 0 while it lasts
	Order   inbox.Order  `json:"order"`
	Minutes int          `json:"minutes"`
	Total   int          `json:"total"`
	Queue   []int64      `json:"queue"` // still to be taken, in order
	Slips   []Slip       `json:"slips"` // the first of them
	Sum     inbox.Sum    `json:"sum"`
}

// LabelView is a label with its whole name, from the outermost on.
type LabelView struct {
	ID     int64  `json:"id"`
	Parent int64  `json:"parent"`
	Name   string `json:"name"`
	Path   string `json:"path"`
	Color  string `json:"color"`
	Mark   string `json:"mark"`
	Count  int    `json:"count"` // conversations it is on
}

// SiteView is a place of the user's.
type SiteView struct {
	ID      int64  `json:"id"`
	Name    string `json:"name"`
	Waiting int    `json:"waiting"` // conversations that wait for it
}

// Sites are the places of the user's, and where they are.
type Sites struct {
	Sites []SiteView `json:"sites"`
	Here  int64      `json:"here"` // 0: nowhere in particular
}

// SavedList is a list the user keeps in view, with its first slips if open.
type SavedList struct {
	ID     int64        `json:"id"`
	Name   string       `json:"name"`
	Query  search.Query `json:"query"`
	Folded bool         `json:"folded"`
	Rank   int          `json:"rank"`
	Count  int          `json:"count"` // at most 1,000
	Slips  []Slip       `json:"slips"`
}

// SenderView is somebody who has something in the inbox.
type SenderView struct {
	Address    string       `json:"address"`
	Name       string       `json:"name"`
	Count      int          `json:"count"`
	Unread     int          `json:"unread"`
	Starred    int          `json:"starred"`
	Person     bool         `json:"person"` // a person, rather than a list or a machine
	Newest     when.Instant `json:"newest"`
	Oldest     when.Instant `json:"oldest"`
	AnsweredAt when.Instant `json:"answeredAt"` // when the user last wrote to them; 0 if never
}

// Senders is a page of those who have something in the inbox, most first.
type Senders struct {
	Senders []SenderView `json:"senders"`
	Left    int          `json:"left"`
	Next    string       `json:"next,omitempty"`
}

// DayLoad is what falls on a day.
type DayLoad struct {
	Start when.Instant `json:"start"`
	Back  int          `json:"back"`
	Due   int          `json:"due"`
}

// DraftView is the beginning of a message. ID is 0 if there is none.
type DraftView struct {
	ID           int64        `json:"id"`
	Conversation int64        `json:"conversation"`
	Mode         writing.Mode `json:"mode"`
	Message      int64        `json:"message"` // which it answers or passes on, or 0
	DraftChange  `tstype:",extends"`
	Files        []FileView   `json:"files"`
	Below        string       `json:"below"` // what stands below the words, unless it is bare
	Signature    string       `json:"signature"`
	Begun        when.Instant `json:"begun"`
	Changed      when.Instant `json:"changed"`
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
	At              when.Instant `json:"at"`    // when it goes
	Asks            string       `json:"asks"`  // nothing was sent: the user has to be asked this first
	Field           string       `json:"field"` // what the question is about
}

// Unanswered is a message of the user's that asked something of one person and
// has had no answer.
type Unanswered struct {
	Message      int64        `json:"message"`
	Conversation int64        `json:"conversation"`
	To           mail.Address `json:"to"`
	Subject      string       `json:"subject"`
	Asked        string       `json:"asked"` // the question
	At           when.Instant `json:"at"`
}

// TemplateView is a template of the user.
type TemplateView struct {
	ID               int64 `json:"id"`
	writing.Template `tstype:",extends"`
}

// InwardView is what the user's addresses into Ebbe are made of.
type InwardView struct {
	Key  string `json:"key"`  // the secret part, where they have just been made; it is told once
	Made bool   `json:"made"` // there are some
	Host string `json:"host"` // empty: nothing is taken there
}

// LeaveView says what leaving a list will do.
type LeaveView struct {
	List string `json:"list"`
	Way  string `json:"way"`  // "request", "mail", "page", or "" if there is none
	Page string `json:"page"` // where it is left by hand
	Text string `json:"text"` // what will happen, in a sentence
}

// AccountView is an account of the user.
type AccountView struct {
	ID        int64         `json:"id"`
	Name      string        `json:"name"`
	Address   string        `json:"address"`
	FullName  string        `json:"fullName"`
	Signature string        `json:"signature"`
	Mailbox   mail.Server   `json:"mailbox"`
	Sending   mail.Server   `json:"sending"`
	Login     string        `json:"login"`
	Token     bool          `json:"token"`
	Carries   inbox.Carries `json:"carries"`
	Paused    bool          `json:"paused"`
	EmptyDays int           `json:"emptyDays"` // after how many days what Ebbe put into bin and junk is removed; 0: never
	Synced    when.Instant  `json:"synced"`    // when all of it was last in step; 0: not yet
	Trouble   string        `json:"trouble"`   // why it is not, in a sentence
	Expected  int           `json:"expected"`
	Brought   int           `json:"brought"`
	Vanished  int           `json:"vanished"` // messages that vanished there in great numbers, about which the user is asked
}

// Accounts are the accounts of the user, and what their servers have not heard.
type Accounts struct {
	Accounts  []AccountView `json:"accounts"`
	Uncarried int           `json:"uncarried"` // decisions that could not be carried to a server yet
	Problem   string        `json:"problem"`   // why
}

// RestoredView is what waits for the user's word since Ebbe was restored from a
// backup.
type RestoredView struct {
	Resting   bool               `json:"resting"` // the accounts have not been looked at yet
	Messages  []OutboxLine       `json:"messages"`
	Decisions []RestoredDecision `json:"decisions"` // of which servers have not heard
	Reminders []string           `json:"reminders"` // titles of follow-ups and events
}

// RestoredDecision is a conversation about which a server has not heard.
type RestoredDecision struct {
	ID      int64       `json:"id"`
	Subject string      `json:"subject"`
	From    string      `json:"from"`
	Place   inbox.Place `json:"place"`
}

// ServersFound are the servers of an address.
type ServersFound struct {
	Mailbox   mail.Server `json:"mailbox"`
	Sending   mail.Server `json:"sending"`
	Announced bool        `json:"announced"` // its domain names them; else they are the usual names
}

// TestStep is one server tried.
type TestStep struct {
	Name   string `json:"name"` // "mailbox" or "sending"
	Server string `json:"server"`
	Fine   bool   `json:"fine"`
	Step   string `json:"step"` // which step failed
	Text   string `json:"text"` // why, and what to do

	Fingerprint string       `json:"fingerprint"` // of a certificate that can be trusted for this account, SHA-256 in hex
	Offer       *mail.Server `json:"offer"`       // what would be right in place of what was typed
}

// AccountTest is what came of trying an account.
type AccountTest struct {
	Fine    bool       `json:"fine"`
	Steps   []TestStep `json:"steps"`
	Folders []string   `json:"folders"`
}

// Matching says how much a query finds.
type Matching struct {
	Count   int `json:"count"`
	Starred int `json:"starred"` // of them
}

// List is a page of any other list of conversations.
type List struct {
	Slips []Slip `json:"slips"`
	Count int    `json:"count"`
	Next  string `json:"next,omitempty"`
}

// MessageView is a message as it is read. Blocks are nil where the text was
// not asked for; HTML says that there is a version to show in a frame.
type MessageView struct {
	ID      int64          `json:"id"`
	From    mail.Address   `json:"from"`
	To      []mail.Address `json:"to"`
	Cc      []mail.Address `json:"cc"`
	Date    when.Instant   `json:"date"`
	Subject string         `json:"subject"`
	Kind    mail.Kind      `json:"kind"`
	Own     bool           `json:"own"`
	Raw     bool           `json:"raw"`
	Files   []mail.File    `json:"files"`
	Blocks  []mail.Block   `json:"blocks"`
	HTML    bool           `json:"html"`
	Reports []ReportView   `json:"reports"` // of a delivery report: what became of a message
	Remote  int            `json:"remote"`  // things on other machines that were left out
	Stub    int64          `json:"stub"`    // bytes that it has on its server, if only its header is here
	Rest    int            `json:"rest"`    // bytes of a very long one that are not shown unless all of it is asked for
	Bcc     []mail.Address `json:"bcc"`     // hidden recipients, of the reader's own messages alone
	Wants   string         `json:"wants"`   // to whom it is to be told that this was opened, if the user wants to
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
}

// ConversationView is a conversation opened.
type ConversationView struct {
	Slip      Slip                `json:"slip"`
	Messages  []MessageView       `json:"messages"`
	FollowUps []followup.FollowUp `json:"followUps"`
	Between   *Between            `json:"between,omitempty"`
	Note      string              `json:"note"`
	Draft     DraftView           `json:"draft"`
	Going     []OutboxLine        `json:"going"` // what is on its way out from it

	Invitations []Invitation     `json:"invitations"`
	Events      []calendar.Event `json:"events"` // made from it
}

// FollowUpGroup is a group of follow-ups, with the first of them.
type FollowUpGroup struct {
	Key       string         `json:"key"`
	Name      string         `json:"name"`
	Count     int            `json:"count"`
	Loaded    bool           `json:"loaded"` // its first follow-ups are here
	FollowUps []FollowUpView `json:"followUps"`
	Next      string         `json:"next,omitempty"`
}

// FollowUpView is a follow-up with what its conversation is called.
type FollowUpView struct {
	followup.FollowUp `tstype:",extends"`
	From              string `json:"from"`
	Subject           string `json:"subject"`
	Repeats           string `json:"repeats,omitempty"` // how, in words
	Gone              bool   `json:"gone,omitempty"`    // its conversation lies in the bin or is not here
}

// FollowUpList is the follow-ups, arranged.
type FollowUpList struct {
	By     followup.By     `json:"by"`
	Groups []FollowUpGroup `json:"groups"`
	Total  int             `json:"total"`
	Days   []followup.Day  `json:"days"` // the coming two weeks, narrowed by all but the day
	Late   followup.Heap   `json:"late"`
	Later  followup.Heap   `json:"later"` // due after these days
	NoDate followup.Heap   `json:"noDate"`
	Weeks  int             `json:"weeks"` // from how many weeks it is known what is usual
}

// FollowUpSettings are how the user works with follow-ups, and what can be
// named in a line.
type FollowUpSettings struct {
	followup.Settings `tstype:",extends"`
	Projects          []string `json:"projects"`
	Contexts          []string `json:"contexts"`
	Feed              bool     `json:"feed"` // there is a calendar feed; its address was told when it was made
}

// ClosingItem is something that is left of the day, with the nearest days, from
// today, into which it fits.
type ClosingItem struct {
	FollowUpView `tstype:",extends"`
	Free         []int `json:"free"`
}

// Closing is what is left of the day.
type Closing struct {
	Items []ClosingItem  `json:"items"`
	Days  []followup.Day `json:"days"`
	Done  int            `json:"done"` // finished today
}

// Log is a page of what was finished, the last first.
type Log struct {
	FollowUps []FollowUpView `json:"followUps"`
	Next      string         `json:"next,omitempty"`
}

// Waiting is a page of what waits for somebody, the longest first.
type Waiting struct {
	FollowUps []FollowUpView `json:"followUps"`
	Count     int            `json:"count"`
	Next      string         `json:"next,omitempty"`
}

// Cards is what has come up by itself and waits for an answer.
type Cards struct {
	Cards  []FollowUpView   `json:"cards"`
	Events []calendar.Event `json:"events"`
	Sum    string           `json:"sum,omitempty"` // in place of the cards, if there are too many for one look
	Count  int              `json:"count"`
	Close  int              `json:"close"` // how many are left of a day that is to be closed; 0: it need not be
}

// TimeFound is a time that a conversation names.
type TimeFound struct {
	when.Found `tstype:",extends"`
	Means      string `json:"means"`
}

// EventFound is what an event can be made from, as a conversation has it.
type EventFound struct {
	Title  string           `json:"title"`
	Times  []TimeFound      `json:"times"`
	Guests []calendar.Guest `json:"guests"`
}

// Invitation is an invitation in a message, and how it stands to the calendar.
type Invitation struct {
	Message int64           `json:"message"` // the message it came in
	Method  calendar.Method `json:"method"`
	News    calendar.News   `json:"news"`
	Event   calendar.Event  `json:"event"`
	Have    *calendar.Event `json:"have,omitempty"` // what the calendar has of it
	Whole   bool            `json:"whole"`
	Around  []calendar.Slot `json:"around"`  // what else there is on its days
	Clashes []calendar.Slot `json:"clashes"` // of that, what overlaps it
	Repeats string          `json:"repeats,omitempty"`
	Doubts  []string        `json:"doubts"`
	Passed  bool            `json:"passed"`
}

// CalendarDay is one day of the calendar.
type CalendarDay struct {
	Start when.Instant    `json:"start"`
	Slots []calendar.Slot `json:"slots"`
	Due   []FollowUpView  `json:"due"`
	Back  []Slip          `json:"back"`
	Open  int             `json:"open"` // follow-ups due on it
}

// CalendarWeek is one week of the calendar, from Monday on.
type CalendarWeek struct {
	Days []CalendarDay `json:"days"`
	From string        `json:"from"` // its Monday: 2026-11-23
}

// TakenIn says what came of a calendar file.
type TakenIn struct {
	FollowUps int      `json:"followUps"` // new
	Events    int      `json:"events"`    // new
	Changed   int      `json:"changed"`   // known, and replaced by a newer version
	Known     int      `json:"known"`     // as they were
	Doubts    []string `json:"doubts"`
	Text      string   `json:"text"`
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

// Mark is something on the dayline.
type Mark struct {
	At    when.Instant `json:"at"`
	Count int          `json:"count"`
}

// Dayline is the course of a day.
type Dayline struct {
	From      when.Instant    `json:"from"`
	To        when.Instant    `json:"to"`
	Now       when.Instant    `json:"now"`
	Left      int             `json:"left"`
	Curve     []numbers.Point `json:"curve"`
	Forecast  []numbers.Point `json:"forecast"` // from now on, as foreseen
	Zero      when.Instant    `json:"zero"`     // when nothing is likely to be left; 0 if not today
	Learned   int             `json:"learned"`  // days from which the forecast was learned; none with less than seven
	Back      []Mark          `json:"back"`
	Due       []Mark          `json:"due"`
	Later     int             `json:"later"`     // snoozed
	FollowUps int             `json:"followUps"` // due by the end of today, or late
	Waiting   int             `json:"waiting"`   // follow-ups that wait for somebody
	Stuck     int             `json:"stuck"`     // messages that were refused, or of which nobody knows whether they have gone

	Delivery DeliveryState    `json:"delivery"`
	Bands    []delivery.Piece `json:"bands"`  // how mail from people comes in over the day
	Rounds   []when.Instant   `json:"rounds"` // of both streams
}

// DeliveryState is how delivery stands.
type DeliveryState struct {
	People   delivery.Standing `json:"people"`
	Machines delivery.Standing `json:"machines"`
	Planned  bool              `json:"planned"` // a plan is in force
	Held     int               `json:"held"`    // what is held; -1 if the user wants no number
}

// DeliveryView is all about when mail comes in.
type DeliveryView struct {
	State     DeliveryState      `json:"state"`
	Plans     []delivery.Plan    `json:"plans"`
	On        string             `json:"on"` // the ID of the plan in force
	Hand      delivery.Hand      `json:"hand"`
	Through   []EntryView        `json:"through"`
	Counted   bool               `json:"counted"`
	BackWaits bool               `json:"backWaits"`
	Notify    delivery.Notify    `json:"notify"`
	Offers    []delivery.Offered `json:"offers"`
	Coming    []delivery.Coming  `json:"coming"` // in the next seven days
	Weeks     int                `json:"weeks"`  // of mail from which it is expected
	Last      delivery.Delivery  `json:"last"`   // of mail from people
}

// EntryView is an entry that lets mail through, with what it let in lately.
type EntryView struct {
	delivery.Entry `tstype:",extends"`
	Lately         []LetThrough `json:"lately"`
}

// LetThrough is a message that was let through.
type LetThrough struct {
	Conversation int64        `json:"conversation"`
	From         string       `json:"from"`
	Subject      string       `json:"subject"`
	At           when.Instant `json:"at"`
}

// PlanPreview is what a plan would do.
type PlanPreview struct {
	Plan   delivery.Plan     `json:"plan"`
	Texts  [][]string        `json:"texts"` // each day of each stream as it can be typed
	Doubts []string          `json:"doubts"`
	Coming []delivery.Coming `json:"coming"`
	Weeks  int               `json:"weeks"`
	Waits  []delivery.Waits  `json:"waits"` // of each stream
}

// HeldSlip is a held conversation that was looked for.
type HeldSlip struct {
	ID       int64        `json:"id"`
	From     string       `json:"from"`
	Subject  string       `json:"subject"`
	At       when.Instant `json:"at"`
	Messages int          `json:"messages"`
}

// HeldFound is what looking for one thing has found.
type HeldFound struct {
	Found []HeldSlip `json:"found"`
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

// Tide is what was decided today and what comes next: the moment at zero.
type Tide struct {
	Left     int                `json:"left"`
	Decided  int                `json:"decided"`
	ByKind   map[inbox.Kind]int `json:"byKind"`
	NextBack when.Instant       `json:"nextBack"` // 0 if nothing is snoozed
	Later    int                `json:"later"`
	DueToday int                `json:"dueToday"`
	NextMail when.Instant       `json:"nextMail"` // when held mail comes in; 0 if mail is not held, or nobody knows
}

// Session says where a browser stands.
type Session struct {
	State   string       `json:"state"` // "setup", "out" or "in"
	Demo    bool         `json:"demo"`
	Name    string       `json:"name"`
	Address string       `json:"address"`
	CSRF    string       `json:"csrf"`
	Week    when.Week    `json:"week"`
	Theme   string       `json:"theme"`
	Habits  store.Habits `json:"habits"`
	Now     when.Instant `json:"now"`
}

// Problem is an error as RFC 9457 has it. Detail is a sentence for the user.
type Problem struct {
	Type   string `json:"type"`
	Title  string `json:"title"`
	Status int    `json:"status"`
	Detail string `json:"detail"`
	Field  string `json:"field,omitempty"`
}
