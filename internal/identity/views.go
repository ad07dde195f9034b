package identity

import (
	"encoding/json"

	"ebbe/internal/core/when"
)

// Security is what a person sees of how they sign in.
type Security struct {
	Sessions []SessionView `json:"sessions"` // the last used first
	Codes    bool          `json:"codes"`    // codes by the time are asked for
	Recovery int           `json:"recovery"` // recovery codes that are left
	Passkeys []PasskeyView `json:"passkeys"`
	Named    bool          `json:"named"`  // the address has a name, so passkeys can be made
	Idle     int           `json:"idle"`   // days after which a session that is not used ends
	Most     int           `json:"most"`   // days after which any ends
	Leaves   when.Instant  `json:"leaves"` // when the person leaves; 0: they stay
}

// PasskeyView is a passkey as the person sees it.
type PasskeyView struct {
	ID   int64        `json:"id"`
	Name string       `json:"name"`
	Made when.Instant `json:"made"`
	Used when.Instant `json:"used"` // 0: never
}

// SessionView is a session as the person sees it.
type SessionView struct {
	ID      string       `json:"id"`
	Here    bool         `json:"here"` // it is this one
	Browser string       `json:"browser"`
	Origin  string       `json:"origin"` // the address it came from
	Begun   when.Instant `json:"begun"`
	Seen    when.Instant `json:"seen"`
}

// Others is who is in this Ebbe, and who is invited, as whoever looks after it sees them.
type Others struct {
	People      []PersonView     `json:"people"`
	Invitations []InvitationView `json:"invitations"`
}

// PersonView is one of the people, without anything of their mail.
type PersonView struct {
	ID      int64        `json:"id"`
	Name    string       `json:"name"`
	Address string       `json:"address"`
	Here    bool         `json:"here"` // it is the one who looks
	Admin   bool         `json:"admin"`
	Paused  bool         `json:"paused"`
	Since   when.Instant `json:"since"`
	Codes   bool         `json:"codes"`  // a code is asked for besides the password
	Leaves  when.Instant `json:"leaves"` // when they leave; 0: they stay
	Gone    bool         `json:"gone"`   // they have left, and what was theirs is being removed
}

// InvitationView is an invitation that was not used yet.
type InvitationView struct {
	ID      string       `json:"id"`
	Name    string       `json:"name"`
	Address string       `json:"address"`
	Expires when.Instant `json:"expires"`
}

// Standing is what may be changed of one of the people by whoever looks after them.
type Standing struct {
	Admin  *bool `json:"admin"`  // nil: as it is
	Paused *bool `json:"paused"` // nil: as it is
}

// CodeSetup is what an app needs to show a person's codes.
type CodeSetup struct {
	Secret  string `json:"secret"`  // in base32 (RFC 4648, section 6)
	Address string `json:"address"` // the same, as apps read it
	Picture string `json:"picture"` // the same, to be read by a camera: a PNG as a data URL (RFC 2397)
}

// PasskeyOffer is what a browser needs to make a passkey, or to show one.
type PasskeyOffer struct {
	Ceremony string `json:"ceremony"`
	Options  any    `json:"options"` // of the browser's own interface, as JSON
}

// PasskeyShown is what a browser gives of a passkey.
type PasskeyShown struct {
	Ceremony string          `json:"ceremony"`
	Response json.RawMessage `json:"response"`
}
