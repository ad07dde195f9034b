package teams

import (
	"ebbe/internal/core/followup"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
)

// BoxView is a box somebody works in.
type BoxView struct {
	ID      int64         `json:"id"`
	Name    string        `json:"name"` // "": their own
	Role    together.Role `json:"role"`
	Left    int           `json:"left"`    // conversations left to decide
	Unheard int           `json:"unheard"` // conversations of which there is something to hear
	Here    bool          `json:"here"`    // the one that is asked of
	With    []string      `json:"with"`    // of the team that is asked of: who else is in it
}

// TeamView is a team, as one of it sees it.
type TeamView struct {
	Name      string        `json:"name"`
	Role      together.Role `json:"role"` // of whoever looks
	Members   []MemberView  `json:"members"`
	Others    []OtherView   `json:"others"`    // who could be added, to those who may
	Addresses []string      `json:"addresses"` // at which the team gets mail
	Names     bool          `json:"names"`     // those who leave are named beside what they wrote
	Next      string        `json:"next"`      // whose turn it is to be given something; "": all are away
	Least     string        `json:"least"`     // who has the least to do
}

// MemberView is somebody who works in a team's box.
type MemberView struct {
	ID    int64         `json:"id"`
	Name  string        `json:"name"`
	Role  together.Role `json:"role"`
	Since when.Instant  `json:"since"`
	Here  bool          `json:"here"`           // whoever looks
	Away  bool          `json:"away"`           // a hold or a plan of theirs says so
	Until when.Moment   `json:"until,omitzero"` // when they are back, if that is known
}

// OtherView is somebody in this Ebbe who is no member.
type OtherView struct {
	ID      int64  `json:"id"`
	Name    string `json:"name"`
	Address string `json:"address"`
}

// MineView is what somebody has to do, in all their boxes.
type MineView struct {
	Lines []MineLine `json:"lines"`
	More  int        `json:"more"` // how many there are besides
}

// MineLine is a follow-up of somebody's, in whichever box.
type MineLine struct {
	Box          int64             `json:"box"`
	Team         string            `json:"team"` // "": it is in their own box
	UID          string            `json:"uid"`
	Title        string            `json:"title"`
	Due          when.Moment       `json:"due,omitzero"`
	Priority     followup.Priority `json:"priority"`
	With         string            `json:"with"`
	Conversation int64             `json:"conversation"` // 0: it is about no mail
	Why          string            `json:"why"`          // why they were given it
}
