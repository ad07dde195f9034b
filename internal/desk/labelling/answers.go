package labelling

import "ebbe/internal/journal"

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

// SitePut is a place, and what came of naming it.
type SitePut struct {
	SiteView        `tstype:",extends"`
	journal.Decided `tstype:",extends"`
}

// Sites are the places of the user's, and where they are.
type Sites struct {
	Sites []SiteView `json:"sites"`
	Here  int64      `json:"here"` // 0: nowhere in particular
}
