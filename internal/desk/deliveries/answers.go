package deliveries

import (
	"ebbe/internal/core/delivery"
	"ebbe/internal/core/when"
)

// DeliveryState is how delivery stands.
type DeliveryState struct {
	People   delivery.Standing    `json:"people"`
	Machines delivery.Standing    `json:"machines"`
	Own      []delivery.OwnStream `json:"own"`     // streams of the user's own
	Planned  bool                 `json:"planned"` // a plan is in force
	Held     int                  `json:"held"`    // what is held; -1 if the user wants no number
}

// DeliveryView is all about when mail comes in.
type DeliveryView struct {
	State     DeliveryState      `json:"state"`
	Plans     []delivery.Plan    `json:"plans"`
	Streams   []StreamView       `json:"streams"` // those everybody has, and the user's own
	On        string             `json:"on"`      // the ID of the plan in force
	Hand      delivery.Hand      `json:"hand"`
	Through   []EntryView        `json:"through"`
	Counted   bool               `json:"counted"`
	BackWaits bool               `json:"backWaits"`
	Notify    delivery.Notify    `json:"notify"`
	Letter    delivery.Rounds    `json:"letter"` // when what concerns the user in teams comes as one message
	Offers    []delivery.Offered `json:"offers"`
	Coming    []delivery.Coming  `json:"coming"` // in the next seven days
	Weeks     int                `json:"weeks"`  // of mail from which it is expected
	Record    delivery.Record    `json:"record"` // how past numbers did
	Last      delivery.Delivery  `json:"last"`   // of mail from people
}

// StreamView is a stream as it comes in now.
type StreamView struct {
	ID       delivery.Stream   `json:"id" tstype:"string"`
	Name     string            `json:"name"`
	Along    delivery.Stream   `json:"along,omitempty"` // of one of the user's own: with which it comes in where a plan draws no days for it
	At       delivery.Rounds   `json:"at"`              // of its own, also without a plan
	Together bool              `json:"together"`        // its mail lies in the inbox as one digest
	Standing delivery.Standing `json:"standing"`
	Rules    int               `json:"rules"` // that put mail into it
	Lessons  int               `json:"lessons"`
}

// NewStream is a stream of the user's own, to be made or changed. Of one that everybody
// has it says only whether it comes together.
type NewStream struct {
	ID       delivery.Stream `json:"id" tstype:"string"` // empty: a new one
	Name     string          `json:"name"`
	Along    delivery.Stream `json:"along"`
	At       delivery.Rounds `json:"at"`
	Together bool            `json:"together"`
}

// EntryView is an entry that lets mail through, with what it let in lately.
type EntryView struct {
	delivery.Exception `tstype:",extends"`
	Lately             []LetThrough `json:"lately"`
}

// LetThrough is a message that was let through.
type LetThrough struct {
	Conversation int64        `json:"conversation"`
	From         string       `json:"from"`
	Subject      string       `json:"subject"`
	At           when.Instant `json:"at"`
}

// PlanPreview is what a plan would do.
type PlanPreview struct {
	Plan   delivery.Plan                      `json:"plan"`
	Texts  map[delivery.Stream][]string       `json:"texts" tstype:"{ [stream: string]: string[] }"` // each day of each stream as it can be typed
	Means  string                             `json:"means"`                                         // what the typed line draws; empty without one
	Doubts []string                           `json:"doubts"`
	Coming []delivery.Coming                  `json:"coming"`
	Weeks  int                                `json:"weeks"`
	Record delivery.Record                    `json:"record"`
	Waits  map[delivery.Stream]delivery.Waits `json:"waits" tstype:"{ [stream: string]: delivery.Waits }"`
}

// HeldSlip is a held conversation that was looked for.
type HeldSlip struct {
	ID       int64        `json:"id"`
	From     string       `json:"from"`
	Subject  string       `json:"subject"`
	At       when.Instant `json:"at"`
	Messages int          `json:"messages"`
}

// HeldFound is what looking for one thing has found.
type HeldFound struct {
	Found []HeldSlip `json:"found"`
}

// PlanDraft is a plan that is being drawn. With Line, or with Day and Text, it
// is changed by what was typed first.
type PlanDraft struct {
	Plan   delivery.Plan   `json:"plan"`
	Stream delivery.Stream `json:"stream,omitempty"` // the typed text is about; people if empty
	Line   string          `json:"line,omitempty"`   // such as "mon–fri 9, 14"
	Day    *int            `json:"day,omitempty"`    // 0 is Sunday
	Text   string          `json:"text,omitempty"`   // all that is to happen on it
}

// DeliveryChoices are the choices about delivery that are no plans.
type DeliveryChoices struct {
	Counted   bool            `json:"counted"`
	BackWaits bool            `json:"backWaits"`
	Notify    delivery.Notify `json:"notify"`
	Letter    delivery.Rounds `json:"letter"`
}

// LettingIn is what is to come in before its time.
type LettingIn struct {
	Conversations []int64 `json:"conversations"`
	All           bool    `json:"all"`
	Words         string  `json:"words"` // that were looked for
}
