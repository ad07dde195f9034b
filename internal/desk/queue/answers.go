package queue

import (
	"bytes"
	"encoding/json"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
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
	Due      *when.Moment   `json:"due,omitempty"`     // of its next open follow-up
	Title    string         `json:"title,omitempty"`   // what the reader calls it, if not by its subject
	Note     bool           `json:"note,omitempty"`    // there is a note on it
	Draft    bool           `json:"draft,omitempty"`   // an answer was begun
	Fact     string         `json:"fact,omitempty"`    // what a machine tells in it, in a few words
	Owner    *OwnerView     `json:"owner,omitempty"`   // in the box of a team: who has it; nil: nobody
	Answers  string         `json:"answers,omitempty"` // the title of what it may be the awaited answer to
	Labels   []int64        `json:"labels"`
	Reach    mail.Reach     `json:"reach"`
	Account  string         `json:"account"`
	Begins   string         `json:"begins,omitempty"`  // the beginning of the newest text that is not the reader's own
	Level    int            `json:"level"`             // how full its gauge stands, 0 to sorting.Full; -1: it was never weighed
	Because  string         `json:"because,omitempty"` // why, in words
	Silent   bool           `json:"silent,omitempty"`  // what comes in it goes past the inbox
	Stream   string         `json:"stream,omitempty"`  // the stream it is in, if not that of its kind
	Said     inbox.Kind     `json:"said,omitempty"`    // what the reader has said of its importance
	Of       []int64        `json:"of,omitempty"`      // of a digest, whose ID is negative: its conversations, the newest first
}

// QueueGroup is a group of the queue, with its conversations in order. The
// slips themselves are fetched as they come into view.
type QueueGroup struct {
	Key   string          `json:"key"`
	Name  string          `json:"name"`
	Count int             `json:"count"`
	Keep  *[2]int         `json:"keep,omitempty" tstype:"number[]"` // so many of those it had before stand before its IDs, and behind them
	IDs   json.RawMessage `json:"ids" tstype:"number[]"`
}

// Queue is the inbox, arranged: the order of all of it, and its first slips.
type Queue struct {
	Groups []QueueGroup   `json:"groups"`
	Group  inbox.Grouping `json:"group"` // by what the groups are made
	Slips  []Slip         `json:"slips"`
	Shown  int            `json:"shown"`           // conversations in the groups
	Left   int            `json:"left"`            // left to decide, shown or not
	Tag    string         `json:"tag"`             // by which this order is known
	Since  string         `json:"since,omitempty"` // the order of which this says only what has become otherwise
}

// OwnerView is who of a team sees to a conversation.
type OwnerView struct {
	ID   int64        `json:"id"`
	Name string       `json:"name"`
	Mine bool         `json:"mine"` // it is whoever looks
	At   when.Instant `json:"at"`   // since when they have it
	By   string       `json:"by"`   // who gave it to them; "": they took it
	Why  string       `json:"why"`
}

// AppendJSON writes q as encoding/json would, but for looking through the order
// once more, which is most of it and JSON already.
func (q Queue) AppendJSON(b []byte) ([]byte, error) {
	b = append(b, `{"groups":[`...)
	for i, g := range q.Groups {
		if i > 0 {
			b = append(b, ',')
		}
		ids := g.IDs
		if g.IDs = nil; len(ids) == 0 {
			ids = []byte("null") // as encoding/json has it
		}
		head, err := json.Marshal(g)
		if err != nil {
			return nil, err
		}
		b = append(b, bytes.TrimSuffix(head, []byte("null}"))...)
		b = append(append(b, ids...), '}')
	}
	q.Groups = nil
	rest, err := json.Marshal(q)
	b = append(b, ']')
	return append(b, bytes.TrimPrefix(rest, []byte(`{"groups":null`))...), err
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

// SavedList is a list the user keeps in view, with its first slips if open.
type SavedList struct {
	ID      int64        `json:"id"`
	Name    string       `json:"name"`
	Query   search.Query `json:"query"`
	Folded  bool         `json:"folded"`
	Counted bool         `json:"counted"` // it stands on the rail, with how much is on it
	Asked   string       `json:"asked"`   // what was asked for in Find, if it was saved there
	Rank    int          `json:"rank"`
	Count   int          `json:"count"` // at most 1,000
	Slips   []Slip       `json:"slips"`
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

// Sit begins a sitting: over the conversations named, or all in the inbox that
// match, in that order.
type Sit struct {
	Order         inbox.Order   `json:"order"`
	Minutes       int           `json:"minutes"` // 0: until all are decided
	Conversations []int64       `json:"conversations,omitempty"`
	Where         *search.Query `json:"where,omitempty"`
}

// Arrangement is how the user wants to see the inbox.
type Arrangement struct {
	Group inbox.Grouping `json:"group"`
	Order inbox.Order    `json:"order"`
	Where search.Query   `json:"where"`
	Since string         `json:"-"` // the tag of the order that whoever asks has; "": none
}
