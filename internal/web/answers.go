package web

import (
	"ebbe/internal/core/when"
	"ebbe/internal/store"
)

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
