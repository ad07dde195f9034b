package sharing

import (
	"ebbe/internal/core/when"
	"ebbe/internal/journal"
)

// SharedView is that a conversation is seen in another box as well.
type SharedView struct {
	ID           int64        `json:"id"`
	Box          int64        `json:"box"`          // the team's
	Conversation int64        `json:"conversation"` // there
	Team         string       `json:"team"`
	By           string       `json:"by"`  // who shared it
	Why          string       `json:"why"` // what they said
	Since        when.Instant `json:"since"`
	From         when.Instant `json:"from,omitempty"`  // nothing before is seen there
	Ended        when.Instant `json:"ended,omitempty"` // it was
	Addressed    bool         `json:"addressed"`       // nobody shared it: a message came to both
	Owner        string       `json:"owner"`           // who of the team has it
	Mine         bool         `json:"mine"`            // whoever looks does
	Ends         bool         `json:"ends"`            // whoever looks can end it
	Waits        int          `json:"waits"`           // messages that are on their way to the other box
}

// SharingView is what can be shared of a conversation, and with whom.
type SharingView struct {
	Teams     []TeamChoice `json:"teams"`
	Messages  int          `json:"messages"`
	Quotes    bool         `json:"quotes"`    // the newest message has others in it
	Unfetched int          `json:"unfetched"` // of how many only the header is here
}

// TeamChoice is a team that a conversation can be shared with.
type TeamChoice struct {
	Box    int64  `json:"box"`
	Name   string `json:"name"`
	People int    `json:"people"` // who see it then, whoever shares it included
	Shared bool   `json:"shared"` // it is already
}

// Wish is how somebody wants a conversation shared.
type Wish struct {
	Team  int64  `json:"team"`  // its box
	Whole bool   `json:"whole"` // with all that was written before the newest message
	Why   string `json:"why"`   // what they say to the team
}

// SharedNow is what came of it.
type SharedNow struct {
	journal.Decided `tstype:",extends"`
	Sharing         int64 `json:"sharing"`
}
