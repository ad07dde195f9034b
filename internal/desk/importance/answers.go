package importance

import (
	"ebbe/internal/core/mail"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/when"
)

// SenderLearned is what was learned of somebody who writes.
type SenderLearned struct {
	From     mail.Address `json:"from"`
	Messages int          `json:"messages"` // from which something was learned
	Answered int          `json:"answered"`
	Quick    int          `json:"quick"` // of these within a day
	Level    int          `json:"level"` // how full the gauge of what they usually send stands
}

// CorrectionView is what the reader has said of the importance of a conversation.
type CorrectionView struct {
	Entry        int64        `json:"entry"` // with which it was said
	Conversation int64        `json:"conversation"`
	Subject      string       `json:"subject"`
	From         mail.Address `json:"from"`
	Important    bool         `json:"important"`
	At           when.Instant `json:"at"`
}

// Learned is what was learned of importance in a box.
type Learned struct {
	Proof       sorting.Proof    `json:"proof"` // over the last eight weeks
	Weeks       int              `json:"weeks"`
	Senders     []SenderLearned  `json:"senders"` // those of whom most was learned
	Corrections []CorrectionView `json:"corrections"`
}
