package inbox

import (
	"slices"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Copy is where a message of a conversation lies on the server of an account,
// and how it was marked there when that was last seen.
type Copy struct {
	Message int64
	Own     bool
	Account int64
	Folder  int64
	UID     int64
	Role    mail.Role
	Seen    bool
	Star    bool
}

// Carries is which decisions are carried back to the server of an account.
type Carries struct {
	Archive bool `json:"archive"`
	Bin     bool `json:"bin"`
	Junk    bool `json:"junk"`
	Read    bool `json:"read"`
	Star    bool `json:"star"`
}

// AllCarried is the choice an account begins with.
var AllCarried = Carries{Archive: true, Bin: true, Junk: true, Read: true, Star: true}

// Errand is what has to be done about one copy, so that the server agrees with
// what was decided.
type Errand struct {
	Copy
	To   mail.Role // the folder it belongs in; empty: where it is
	Seen *bool     // nil: as it is
	Star *bool
}

// Errands says what is to be done on the server about the copies of a
// conversation, which are given from the oldest message to the newest. left are
// the places it has left by decisions since the server last heard; without any,
// nothing is moved: reading and starring move no mail.
//
// What is archived leaves the server's inbox, what is binned or junk goes
// there whole. What is undecided, snoozed or held is there as long as any of it
// is; if none is, its newest message comes back. An older message that another
// program has thrown away stays thrown away, unless the conversation has been
// fetched from there. Read is all of it; unread is the newest message. A star is on the
// newest message, unless one has it already. The reader's own messages stay
// where they are.
func Errands(c Conversation, left []Place, copies []Copy, carries func(account int64) Carries) (out []Errand) {
	var got []Copy
	for _, k := range copies {
		if !k.Own && k.Role != mail.RoleSent && k.Role != mail.RoleDrafts {
			got = append(got, k)
		}
	}
	if len(got) == 0 {
		return nil
	}
	newest := got[len(got)-1].Message
	was := func(p Place) bool { return slices.Contains(left, p) }
	fetched := map[mail.Role]bool{mail.RoleBin: was(Bin), mail.RoleJunk: was(Junk)}
	thrown := func(k Copy) bool {
		return (k.Role == mail.RoleBin || k.Role == mail.RoleJunk) && !fetched[k.Role] && k.Message != newest
	}
	inbox, starred := false, false
	for _, k := range got {
		inbox = inbox || k.Role == mail.RoleInbox
		starred = starred || k.Star
	}
	for _, k := range got {
		may := carries(k.Account)
		e := Errand{Copy: k}
		switch {
		case len(left) == 0:
		case c.Place == Archived:
			if may.Archive && k.Role != mail.RoleArchive && k.Role != mail.RoleOther && !thrown(k) {
				e.To = mail.RoleArchive
			}
		case c.Place == Bin:
			if may.Bin && k.Role != mail.RoleBin {
				e.To = mail.RoleBin
			}
		case c.Place == Junk:
			if may.Junk && k.Role != mail.RoleJunk {
				e.To = mail.RoleJunk
			}
		default:
			back := k.Role == mail.RoleBin && may.Bin || k.Role == mail.RoleJunk && may.Junk
			done := was(Archived) || was(Bin) || was(Junk)
			if back && !thrown(k) || may.Archive && !inbox && done && k.Message == newest && k.Role != mail.RoleInbox {
				e.To = mail.RoleInbox
			}
		}
		if seen := !c.Unread || k.Message != newest; may.Read && k.Seen != seen && (k.Message == newest || !c.Unread) {
			e.Seen = &seen
		}
		if star := c.Starred; may.Star && (!star && k.Star || star && !starred && k.Message == newest) {
			e.Star = &star
		}
		if e.To != "" || e.Seen != nil || e.Star != nil {
			out = append(out, e)
		}
	}
	return out
}

// Elsewhere is something that happened to a message on its server which Ebbe
// has not done.
type Elsewhere struct {
	Newest bool      // it is the newest message of its conversation that came from somebody else, of those that lie there
	Last   bool      // it has left the inbox, and nothing of its conversation lies in there now
	To     mail.Role // the folder it was put into; empty if it is in none any more
	Left   mail.Role // then: the folder of the newest that is left there of its conversation, from somebody else
	Seen   *bool     // instead: it was marked read, or unread
	Star   *bool     // instead: it was flagged, or not any more
	Others bool      // another message of the conversation is still flagged there
}

// Follow says which decision about a conversation follows from what happened
// on the server, and how the conversation is once it is taken at now; no kind if
// nothing follows. What was done to a message that is not the newest moves
// nothing, unless it was put into the inbox, or was the last in there: then its
// conversation is done. What was deleted there goes into the bin of Ebbe, so that
// nothing is lost by somebody else's hand; and of what had been thrown away, that
// which is left says where it is, as a message may have been taken out of junk. What is held is not decided about from
// outside.
func Follow(c Conversation, e Elsewhere, now when.Instant) (Kind, Conversation) {
	undecided := c.Place == Inbox || c.Place == Snoozed
	if moved := e.Seen == nil && e.Star == nil; moved && e.To == "" && e.Left != "" && c.Place.Thrown() {
		e.To, e.Newest = e.Left, true
	}
	switch {
	case e.Seen != nil:
		if e.Newest && c.Unread == *e.Seen {
			return map[bool]Kind{true: MarkRead, false: MarkUnread}[*e.Seen], c.Read(*e.Seen)
		}
		return "", c
	case e.Star != nil:
		if *e.Star != c.Starred && (*e.Star || !e.Others) {
			return map[bool]Kind{true: Star, false: Unstar}[*e.Star], c.Star(*e.Star)
		}
		return "", c
	case c.Place == Held:
		return "", c
	case !e.Newest && e.To != mail.RoleInbox:
		if e.Last && undecided {
			return Archive, c.In(Archived, now)
		}
		return "", c
	}
	switch e.To {
	case mail.RoleInbox:
		if !undecided {
			return ToInbox, c.In(Inbox, now)
		}
	case mail.RoleArchive, mail.RoleOther:
		if c.Place != Archived {
			return Archive, c.In(Archived, now)
		}
	case mail.RoleBin:
		if c.Place != Bin {
			return ToBin, c.In(Bin, now)
		}
	case mail.RoleJunk:
		if c.Place != Junk {
			return ToJunk, c.In(Junk, now)
		}
	case "":
		if undecided {
			return ToBin, c.In(Bin, now)
		}
	}
	return "", c
}

// TooMany says that so many messages have vanished from a folder within
// VanishWindow, of which so many are left, that something else than a person has
// been at work: nothing follows from it unless the reader says so.
func TooMany(vanished, left int) bool { return vanished > 20 && 4*vanished > vanished+left }

// VanishWindow is over how long what vanishes is counted.
const VanishWindow when.Instant = 600_000
