package inbox

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

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

	Folders KeptFolders `json:"folders"`
}

// KeptFolders are the folders that Ebbe keeps on a server of its own.
type KeptFolders struct {
	On    bool                 `json:"on"`
	Root  string               `json:"root"`                                                // what they stand in; empty: Ebbe
	Names map[mail.Role]string `json:"names,omitempty" tstype:"{ [role: string]: string }"` // that are others than the usual ones
}

// usualKept are what they are called.
var usualKept = map[mail.Role]string{mail.RoleTomorrow: "Tomorrow", mail.RoleEvening: "This evening", mail.RoleNextWeek: "Next week", mail.RoleFollowUp: "Follow up",
	mail.RoleWaiting: "Waiting", mail.RoleNever: "Never again", mail.RoleSnoozed: "Snoozed"}

// All are these folders by what they are for, as “Ebbe/Tomorrow”; streams are those of the
// user by their IDs. A part of a name has no “/” in it.
func (f KeptFolders) All(streams map[string]string) map[mail.Role]string {
	root := cmp.Or(oneName(f.Root), "Ebbe")
	out, taken := map[mail.Role]string{mail.RoleRoot: root}, map[string]bool{}
	add := func(r mail.Role, name string) {
		if name = oneName(name); name != "" && !taken[strings.ToLower(name)] {
			out[r], taken[strings.ToLower(name)] = root+"/"+name, true
		}
	}
	for _, r := range mail.KeptRoles {
		add(r, cmp.Or(oneName(f.Names[r]), usualKept[r]))
	}
	for _, id := range slices.Sorted(maps.Keys(streams)) {
		add(mail.RoleStream+mail.Role(id), streams[id])
	}
	return out
}

// oneName is a name without what has a meaning in the names of folders.
func oneName(name string) string {
	return strings.Join(strings.Fields(strings.Map(func(r rune) rune {
		if strings.ContainsRune("/\\.*%\"", r) || r < ' ' {
			return ' '
		}
		return r
	}, name)), " ")
}

// Valid says in part of a sentence what is wrong with the names, or nil.
func (f KeptFolders) Valid() error {
	names := map[string]bool{}
	for _, r := range mail.KeptRoles {
		name := cmp.Or(oneName(f.Names[r]), usualKept[r])
		if names[strings.ToLower(name)] {
			return fmt.Errorf("two of the folders are called “%s”", name)
		}
		if names[strings.ToLower(name)] = true; len(name) > 60 {
			return errors.New("the name of a folder is too long")
		}
	}
	if len(f.Root) > 60 {
		return errors.New("the name of a folder is too long")
	}
	return nil
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
//
// Where Ebbe keeps folders of its own, what is snoozed lies in the one for it instead of
// the inbox. What lies in any other of them has been decided, and leaves it; so does all
// where they are wanted no more.
func Errands(c Conversation, left []Place, copies []Copy, carries func(account int64) Carries) (out []Errand) {
	var got []Copy
	for _, k := range copies {
		if k.Own && k.Role.Kept() {
			out = append(out, Errand{Copy: k, To: mail.RoleSent})
		}
		if !k.Own && k.Role != mail.RoleSent && k.Role != mail.RoleDrafts {
			got = append(got, k)
		}
	}
	if len(got) == 0 {
		return out
	}
	newest := got[len(got)-1].Message
	was := func(p Place) bool { return slices.Contains(left, p) }
	fetched := map[mail.Role]bool{mail.RoleBin: was(Bin), mail.RoleJunk: was(Junk)}
	thrown := func(k Copy) bool {
		return (k.Role == mail.RoleBin || k.Role == mail.RoleJunk) && !fetched[k.Role] && k.Message != newest
	}
	inbox, starred := false, false
	undecided := func(k Copy) mail.Role { // where what is undecided, snoozed or held lies
		if c.Place == Snoozed && carries(k.Account).Folders.On {
			return mail.RoleSnoozed
		}
		return mail.RoleInbox
	}
	for _, k := range got {
		inbox = inbox || k.Role == undecided(k)
		starred = starred || k.Star
	}
	for _, k := range got {
		may := carries(k.Account)
		e := Errand{Copy: k}
		lies := undecided(k)
		switch {
		case k.Role.Kept() && (k.Role != mail.RoleSnoozed || c.Place != Snoozed || lies != k.Role):
			e.To = cmp.Or(map[Place]mail.Role{Archived: mail.RoleArchive, Bin: mail.RoleBin, Junk: mail.RoleJunk}[c.Place], lies)
		case lies == mail.RoleSnoozed && k.Role == mail.RoleInbox:
			e.To = lies
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
			if back && !thrown(k) || may.Archive && !inbox && done && k.Message == newest && k.Role != lies {
				e.To = lies
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
	From   mail.Role // the folder it went out of, if it is known
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
	case e.To.Kept(): // what is to be done is asked by the folder
		return "", c
	case c.Place == Snoozed && e.From == mail.RoleSnoozed && e.To == mail.RoleInbox:
		return ToInbox, c.In(Inbox, now)
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
