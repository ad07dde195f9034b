package web

import (
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
)

// Session says where a browser stands.
type Session struct {
	State   string       `json:"state"` // "setup", "out" or "in"
	Asks    bool         `json:"asks"`  // the set-up asks for the code that was printed
	Admin   bool         `json:"admin"` // they look after the people of this Ebbe
	Demo    bool         `json:"demo"`
	People  []string     `json:"people"` // whom one can be in the demo, by their names; elsewhere nobody
	ID      int64        `json:"id"`     // the number of the person; 0: nobody is signed in
	Name    string       `json:"name"`
	Address string       `json:"address"`
	CSRF    string       `json:"csrf"`
	Week    when.Week    `json:"week"`
	Theme   string       `json:"theme"`
	Habits  inbox.Habits `json:"habits"`
	Now     when.Instant `json:"now"`
	Keep    string       `json:"keep"` // the name under which a browser keeps what this person of this Ebbe has typed and decided; of nobody else
}

// Problem is an error as RFC 9457 has it. Detail is a sentence for the user.
type Problem struct {
	Type   string `json:"type"`
	Title  string `json:"title"`
	Status int    `json:"status"`
	Detail string `json:"detail"`
	Field  string `json:"field,omitempty"`
}

// Entered is answered to whoever has come in.
type Entered struct {
	Tell  string   `json:"tell"`  // what they have to know first; "": nothing
	Codes []string `json:"codes"` // their recovery codes, told once; none: they have them
}

// InvitationToken is the secret part of an invitation.
type InvitationToken struct {
	Token string `json:"token"`
}

// RecoveryCodes are told once.
type RecoveryCodes struct {
	Codes []string `json:"codes"`
}

// Done is answered where there is nothing left to say.
type Done struct{}

// Said is answered by what says in a sentence what it did.
type Said struct {
	Text string `json:"text"`
}

// Made is answered by what makes something that has a name of its own from then
// on.
type Made struct {
	ID string `json:"id"`
}

// TeamMade is the box of a team that has been made.
type TeamMade struct {
	Box int64 `json:"box"`
}

// Found is where a message is.
type Found struct {
	Conversation int64 `json:"conversation"`
}

// FeedAddress is the secret address of a calendar; it is told once.
type FeedAddress struct {
	Feed string `json:"feed"`
}
