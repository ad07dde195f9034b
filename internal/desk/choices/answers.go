package choices

import (
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
)

// Settings are what a person has chosen for themselves.
type Settings struct {
	Week      when.Week         `json:"week"`
	Theme     string            `json:"theme"`     // "", "light" or "dark"
	Addresses []string          `json:"addresses"` // mail from which is their own
	Fixed     []string          `json:"fixed"`     // those of them that stay: by which they sign in, and those of accounts; not chosen here
	Habits    inbox.Habits      `json:"habits"`
	FollowUp  followup.Settings `json:"followUp"`
}

// ComboFile are combos as a file.
type ComboFile struct {
	File string `json:"file"`
}

// CombosRead are combos of a file, and what of it could not be taken as it is, in sentences.
type CombosRead struct {
	Combos []inbox.Chain `json:"combos"`
	Left   []string      `json:"left"`
}
