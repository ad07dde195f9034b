package phones

import (
	"ebbe/internal/core/texting"
	"ebbe/internal/core/when"
)

// PhoneLine is a telephone line of a box, without its secret.
type PhoneLine struct {
	ID           int64  `json:"id"`
	Name         string `json:"name"`     // what it is called here
	FullName     string `json:"fullName"` // under which it is known
	texting.Line `tstype:",extends"`
	Says         string `json:"says"` // its number as people write it
	Hook         string `json:"hook"` // the path at which its gateway speaks to Ebbe
	Paused       bool   `json:"paused"`
	Secret       bool   `json:"secret"` // one is stored
}

// PhoneLines are the telephone lines of a box.
type PhoneLines struct {
	Lines []PhoneLine     `json:"lines"`
	Usual texting.Gateway `json:"usual"` // how most gateways are spoken to
}

// PhoneDraft is a line as somebody sets it up.
type PhoneDraft struct {
	ID           int64               `json:"id"` // 0: a new one
	Name         string              `json:"name"`
	FullName     string              `json:"fullName"`
	texting.Line `tstype:",extends"` // its number as people write it
	Region       string              `json:"region"` // of which country a number without its code is (ISO 3166-1, two letters); may be empty
	Secret       string              `json:"secret"` // empty: as it was
	Paused       bool                `json:"paused"`
}

// NumberView is a telephone number, and what is known of it.
type NumberView struct {
	Number  texting.Number `json:"number"`
	Says    string         `json:"says"` // as people write it
	Name    string         `json:"name"`
	Address string         `json:"address"` // their mail address; empty: not known
	Stopped when.Instant   `json:"stopped"` // since when they want no texts; 0: they do not mind
}

// Whose says whose a number is.
type Whose struct {
	Number  texting.Number `json:"number"`
	Name    string         `json:"name"`
	Address string         `json:"address"`
}
