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

// shared are the steps that another member can take back as well: those about what is the team's.
// What somebody sends, says or sets up they alone take back.
var shared = []inbox.Kind{inbox.ToBin, inbox.Archive, inbox.ToInbox, inbox.Snooze, inbox.Silence, inbox.Unsilence, inbox.Rename, inbox.WriteNote, inbox.Label, inbox.Give, inbox.Rest,
	inbox.MakeFollowUp, inbox.ChangeFollow, inbox.FinishFollow, inbox.ReopenFollow, inbox.DropFollow, inbox.PutOff, inbox.PutInStage, inbox.WaitFor}

// Shared says that a step of this kind can be taken back by another member.
func Shared(k inbox.Kind) bool { return slices.Contains(shared, k) }

// StillWriting is for how many milliseconds after their last letter somebody is taken to be
// writing still.
const StillWriting = 5 * 60_000
