package followup

import "ebbe/internal/core/when"

// Owner is who of a team sees to a follow-up, and so to its conversation; the zero value:
// nobody yet.
type Owner struct {
	Person int64        `json:"person,omitempty"`
	By     int64        `json:"by,omitempty"` // who gave it to them: they themselves, if they took it; 0: a rule
	At     when.Instant `json:"at,omitempty"`
	Why    string       `json:"why,omitempty"` // as whoever gave it said
}

// LongestWhy is how long a reason for giving something may be, in bytes.
const LongestWhy = 500

// Give gives a follow-up to a person of the team, or with 0 back to nobody. Whoever has it
// already keeps it as they got it.
func (f FollowUp) Give(to, by int64, why string, now when.Instant) FollowUp {
	switch {
	case to == f.Owner.Person:
		return f
	case to == 0:
		f.Owner = Owner{}
	default:
		f.Owner = Owner{Person: to, By: by, At: now, Why: why}
	}
	f.Changed = now
	return f
}

// OwnerOf is who sees to a conversation, by what is open about it: whoever was given any of
// it last.
func OwnerOf(open []FollowUp) (o Owner) {
	for _, f := range open {
		if f.Owner.Person != 0 && f.Owner.At >= o.At {
			o = f.Owner
		}
	}
	return o
}
