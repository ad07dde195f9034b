package together

import (
	"slices"

	"ebbe/internal/core/inbox"
)

// own are the steps that a member takes for themselves alone: what they have read, looked at
// or starred is no news to others.
var own = []inbox.Kind{inbox.Star, inbox.Unstar, inbox.MarkRead, inbox.MarkUnread, inbox.Look, inbox.Leave, inbox.SeenReminder, inbox.Peek, inbox.Here}

// Told says that followers of a conversation hear of a step of this kind.
func Told(k inbox.Kind) bool { return !slices.Contains(own, k) }

// StillWriting is for how many milliseconds after their last letter somebody is taken to be
// writing still.
const StillWriting = 5 * 60_000
