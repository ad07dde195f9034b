package subscriptions

import (
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Subscription is a mailing list or newsletter, and what came of what it sent.
type Subscription struct {
	List         string       `json:"list"`
	From         mail.Address `json:"from"`
	Month        int          `json:"month"`    // messages of the last 30 days
	Messages     int          `json:"messages"` // of the last 400 days
	Opened       int          `json:"opened"`   // of these
	Read         int          `json:"read"`     // to the end
	Answered     int          `json:"answered"`
	Size         int          `json:"size"` // bytes of them all
	Since        when.Instant `json:"since"`
	Last         when.Instant `json:"last"`
	Conversation int64        `json:"conversation"`
	Way          string       `json:"way"` // how one leaves it: request, mail or page; empty: it does not say
	Page         string       `json:"page,omitempty"`
	LeftAt       when.Instant `json:"leftAt"`    // when it was left, or 0
	StillSent    int          `json:"stillSent"` // messages that came more than ten days after
}
