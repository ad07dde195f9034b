package told

import (
	"ebbe/internal/core/facts"
	"ebbe/internal/core/when"
)

// FactView is a fact as it is shown.
type FactView struct {
	Message      int64       `json:"message"`
	Conversation int64       `json:"conversation"`
	Kind         facts.Kind  `json:"kind"`
	Say          string      `json:"say"`             // in a few words
	About        string      `json:"about,omitempty"` // of what, by whom, under which number
	Where        string      `json:"where,omitempty"`
	Code         string      `json:"code,omitempty"`
	Doubt        string      `json:"doubt,omitempty"`  // why nothing is offered, in a sentence
	Open         bool        `json:"open,omitempty"`   // something is expected of it
	Arrives      when.Moment `json:"arrives,omitzero"` // of a parcel that is on its way: when it will have arrived
}

// ToldHeap is what machines tell of one kind that is still to come.
type ToldHeap struct {
	Kind  facts.Kind `json:"kind"`
	Name  string     `json:"name"` // "3 parcels on the way"
	Facts []FactView `json:"facts"`
}
