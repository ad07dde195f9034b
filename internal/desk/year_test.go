package desk

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/emersion/go-imap/v2"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/inbox"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/followups"
	"ebbe/internal/journal"
	"ebbe/internal/post/mime"
	postoffice "ebbe/internal/post/office"
	"ebbe/internal/store"
)

// The reference: what a year does to a mailbox, told message by message, with
// nothing stored, indexed or carried, and without the core.

// sheet is a message, and the folder of the server in which it lies.
type sheet struct {
	id, from string
	own      bool
	folder   string // "" once somebody has deleted it there
	flagged  bool
	raw      []byte
}

// bundle is a conversation.
type bundle struct {
	sheets  []*sheet // in the order of their dates
	place   inbox.Place
	back    time.Time // when it comes back, if it is snoozed
	unread  bool
	starred bool
	apart   bool // nobody's mail joins it to another
}

// newest is the newest message of those that lie on the server, and of the one given.
func (b *bundle) newest(with *sheet) (last *sheet) {
	for _, s := range b.sheets {
		if !s.own && (s.folder != "" || s == with) {
			last = s
		}
	}
	return last
}

func (b *bundle) lies(folder string) bool {
	return slices.ContainsFunc(b.sheets, func(s *sheet) bool { return !s.own && s.folder == folder })
}

func (b *bundle) thrown() bool { return b.place == inbox.Bin || b.place == inbox.Junk }

func (b *bundle) wrote(from string) bool {
	return slices.ContainsFunc(b.sheets, func(s *sheet) bool { return s.from == from })
}

// put is the user, or another program, putting a conversation somewhere.
func (b *bundle) put(p inbox.Place) {
	b.place, b.back = p, time.Time{}
	if p != inbox.Inbox {
		b.unread = false
	}
}

// reference is all conversations, the oldest first.
type reference []*bundle

func (r reference) of(id string) *bundle {
	i := slices.IndexFunc(r, func(b *bundle) bool {
		return slices.ContainsFunc(b.sheets, func(s *sheet) bool { return s.id == id })
	})
	return r[i]
}

// copied is a reference with nothing in common but the sheets.
func (r reference) copied() (out reference) {
	for _, b := range r {
		c := *b
		c.sheets = slices.Clone(b.sheets)
		out = append(out, &c)
	}
	return out
}

// join puts b into a; the more alive place wins.
func (r *reference) join(a, b *bundle) {
	order := []inbox.Place{inbox.Junk, inbox.Bin, inbox.Archived, inbox.Snoozed, inbox.Inbox}
	mine, other := slices.Index(order, a.place), slices.Index(order, b.place)
	if other > mine || other == mine && a.place == inbox.Snoozed && b.back.Before(a.back) {
		a.place, a.back = b.place, b.back
	}
	a.unread, a.starred = a.unread || b.unread, a.starred || b.starred
	a.sheets = append(a.sheets, b.sheets...)
	slices.SortFunc(a.sheets, func(x, y *sheet) int { return number(x.id) - number(y.id) })
	*r = slices.DeleteFunc(*r, func(x *bundle) bool { return x == b })
}

func number(id string) (n int) {
	_, _ = fmt.Sscanf(id, "y%d@", &n)
	return n
}

// arrive is a message coming in that refers to others, the nearest last.
func (r *reference) arrive(s *sheet, refs []string) {
	var found []*bundle
	for _, id := range refs {
		b := r.of(id)
		if b.place == inbox.Junk && !s.own && !b.wrote(s.from) {
			continue // strangers' mail is not drawn into junk
		}
		found = append(slices.DeleteFunc(found, func(x *bundle) bool { return x == b }), b)
	}
	var home *bundle
	for _, b := range found {
		if !b.thrown() {
			home = b // the nearest that was not thrown away
		}
	}
	if home == nil && len(found) > 0 {
		home = found[len(found)-1]
	}
	switch {
	case home == nil:
		home = &bundle{place: inbox.Archived}
		*r = append(*r, home)
	case !home.apart:
		var one []*bundle // in the order of their age: the oldest takes the others in
		for _, b := range *r {
			if slices.Contains(found, b) && !b.apart && (b.place == home.place || !b.thrown() && !home.thrown()) {
				one = append(one, b)
			}
		}
		home = one[0]
		for _, b := range one[1:] {
			r.join(home, b)
		}
	}
	home.sheets = append(home.sheets, s)
	if !s.own && home.place != inbox.Junk {
		home.place, home.back, home.unread = inbox.Inbox, time.Time{}, true
	}
}

// moved is another program taking a message into another folder, or away.
func (r *reference) moved(s *sheet, into string) {
	b := r.of(s.id)
	newest, was := b.newest(s), s.folder
	s.folder = into
	undecided := b.place == inbox.Inbox || b.place == inbox.Snoozed
	if left := b.newest(nil); into == "" && b.thrown() && left != nil { // what is left of it says where it is
		s, newest, into = left, left, left.folder
	}
	switch {
	case into == postoffice.Inbox && !undecided:
		b.put(inbox.Inbox)
	case s != newest && undecided && was == postoffice.Inbox && !b.lies(postoffice.Inbox):
		b.put(inbox.Archived)
	case s != newest:
	case into == postoffice.Archive && b.place != inbox.Archived:
		b.put(inbox.Archived)
	case into == postoffice.Trash && b.place != inbox.Bin, into == "" && undecided:
		b.put(inbox.Bin)
	case into == postoffice.Junk && b.place != inbox.Junk:
		b.put(inbox.Junk)
	}
}

// marked is another program reading or flagging a message.
func (r *reference) marked(s *sheet, seen, flagged bool) {
	b := r.of(s.id)
	if s == b.newest(s) {
		b.unread = !seen
	}
	others := slices.ContainsFunc(b.sheets, func(x *sheet) bool { return x != s && x.flagged })
	if flagged != s.flagged && (flagged || !others) {
		b.starred = flagged
	}
	s.flagged = flagged
}

// year is Ebbe, its server and the reference, going through the same.
type year struct {
	*posted
	tb     testing.TB
	rt     *rapid.T
	ref    reference
	sheets []*sheet
	log    []string
}

func (y *year) draw(name string, most int) int { return rapid.IntRange(0, most).Draw(y.rt, name) }

func (y *year) say(format string, args ...any) { y.log = append(y.log, fmt.Sprintf(format, args...)) }

// ids are Ebbe's IDs of the conversations, by the first message of each.
func (y *year) ids() map[string]int64 {
	out := map[string]int64{}
	for of, c := range y.found() {
		for _, id := range strings.Fields(of) {
			out[id] = c.ID
		}
	}
	return out
}

// found is every conversation as Ebbe has it, by the Message-IDs in it.
func (y *year) found() map[string]inbox.Conversation {
	messages, out := map[int64][]string{}, map[string]inbox.Conversation{}
	require.NoError(y.rt, y.store.EachMessage(ctx, 1, func(m store.Message, _ []byte) error {
		messages[m.ConversationID] = append(messages[m.ConversationID], m.MessageID)
		return nil
	}))
	var ids []int64
	for id := range messages {
		ids = append(ids, id)
	}
	require.NoError(y.rt, y.store.Read(ctx, func(t store.Tx) error {
		state, err := store.Conversations(t).State(1, 1, ids, nil)
		for id, c := range state.Conversations {
			slices.SortFunc(messages[id], func(a, b string) int { return number(a) - number(b) })
			out[strings.Join(messages[id], " ")] = c
		}
		return err
	}))
	return out
}

// pass lets Ebbe look at its server, until it has nothing to do there.
func (y *year) pass() {
	require.NoError(y.rt, y.Mail.PassNow(ctx))
	require.NoError(y.rt, y.Mail.PassNow(ctx))
}

// compare looks for what Ebbe, the reference and the server do not agree about.
func (y *year) compare() {
	said := func(why string, args ...any) string {
		return fmt.Sprintf(why, args...) + " after:\n" + strings.Join(y.log, "\n")
	}
	found := y.found()
	require.Len(y.rt, found, len(y.ref), said("conversations %v", found))
	there := map[string]*imap.UID{}
	folder, seen, star := map[string]string{}, map[string]bool{}, map[string]bool{}
	for _, name := range []string{postoffice.Inbox, postoffice.Archive, postoffice.Trash, postoffice.Junk, postoffice.Sent} {
		for _, l := range y.post.Folder(museum, name) {
			id := mime.Read(l.Raw).MessageID
			require.Nil(y.rt, there[id], said("%s lies in two folders", id))
			there[id], folder[id] = &l.UID, name
			seen[id], star[id] = slices.Contains(l.Flags, imap.FlagSeen), slices.Contains(l.Flags, imap.FlagFlagged)
		}
	}
	for _, b := range y.ref {
		var ids []string
		for _, s := range b.sheets {
			ids = append(ids, s.id)
		}
		of := strings.Join(ids, " ")
		c, ok := found[of]
		require.True(y.rt, ok, said("there is no conversation of %s, but %v", of, found))
		require.Equal(y.rt, b.place, c.Place, said("%s", of))
		require.Equal(y.rt, b.unread, c.Unread, said("unread: %s", of))
		require.Equal(y.rt, b.starred, c.Starred, said("star: %s", of))
		if b.place == inbox.Snoozed {
			require.Equal(y.rt, b.back.UnixMilli(), int64(c.Return.At), said("the return of %s", of))
		}
		newest, shown, starred := (*sheet)(nil), false, false
		for _, s := range b.sheets {
			require.Equal(y.rt, s.folder == "", there[s.id] == nil, said("%s on the server", s.id))
			s.folder, s.flagged = folder[s.id], star[s.id]
			if s.folder == "" || s.own {
				continue
			}
			newest, shown, starred = s, shown || s.folder == postoffice.Inbox, starred || s.flagged
		}
		if newest == nil {
			continue
		}
		require.Equal(y.rt, b.unread, !seen[newest.id], said("unread on the server: %s", newest.id))
		require.Equal(y.rt, b.starred, starred, said("the star on the server: %s", of))
		require.Equal(y.rt, b.place == inbox.Inbox || b.place == inbox.Snoozed, shown, said("%s of %s in the inbox of the server: %v", b.place, of, folder))
		if want, ok := map[inbox.Place]string{inbox.Bin: postoffice.Trash, inbox.Junk: postoffice.Junk}[b.place]; ok {
			require.Equal(y.rt, want, folder[newest.id], said("%s", newest.id))
		}
	}
	y.sound(y.tb)
}

// step is one thing that happens in that year.
func (y *year) step() {
	ids := y.ids()
	pick := func() *bundle { return y.ref[y.draw("which", len(y.ref)-1)] }
	switch k := y.draw("step", 19); {
	case k < 5 || len(y.ref) == 0: // somebody writes, or the user does elsewhere
		n := len(y.sheets)
		s := &sheet{id: fmt.Sprintf("y%d@x.example", n), folder: postoffice.Inbox, from: []string{"jonas@x.example", "mirela@x.example", museum}[y.draw("from", 2)]}
		if s.own = s.from == museum; s.own {
			s.folder = postoffice.Sent
		}
		var refs []string
		for range y.draw("refers", 3) {
			if n > 0 {
				id := y.sheets[y.draw("to", n-1)].id
				refs = append(slices.DeleteFunc(refs, func(r string) bool { return r == id }), id)
			}
		}
		y.say("%s: %s of %s refers to %v", y.clock.t.Format(time.DateTime), s.id, s.from, refs)
		head := fmt.Sprintf("From: %s\r\nTo: x@x.example\r\nSubject: Matter %d\r\nDate: %s\r\nMessage-ID: <%s>\r\n", s.from, n, y.clock.t.Format(time.RFC1123Z), s.id)
		if len(refs) > 0 {
			head += "References: <" + strings.Join(refs, "> <") + ">\r\n"
		}
		s.raw = []byte(head + "\r\nwords of " + s.id + "\r\n")
		y.post.Put(museum, s.folder, y.clock.t, s.raw)
		y.sheets = append(y.sheets, s)
		y.ref.arrive(s, refs)
	case k < 12: // the user decides, and sometimes takes it back
		b := pick()
		before, parted := y.ref.copied(), "" // what it was, and what stays apart if a joining is taken back
		d := decide.Decision{Conversations: []int64{ids[b.sheets[0].id]}}
		var out journal.Decided
		var err error
		switch k := y.draw("decision", 11); {
		case k < 9:
			d.Kind = []inbox.Kind{inbox.Archive, inbox.ToBin, inbox.ToJunk, inbox.ToInbox, inbox.Star, inbox.Unstar, inbox.MarkRead, inbox.MarkUnread, inbox.Snooze}[k]
			switch d.Kind {
			case inbox.Archive:
				b.put(inbox.Archived)
			case inbox.ToBin:
				b.put(inbox.Bin)
			case inbox.ToJunk:
				b.put(inbox.Junk)
			case inbox.ToInbox:
				b.put(inbox.Inbox)
			case inbox.Star, inbox.Unstar:
				b.starred = d.Kind == inbox.Star
			case inbox.MarkRead, inbox.MarkUnread:
				b.unread = d.Kind == inbox.MarkUnread
			case inbox.Snooze:
				d.Return = y.moment(y.tb, "in 3 days")
				b.put(inbox.Snoozed)
				b.back = d.Return.At.Time()
			}
			y.say("%s %s", d.Kind, b.sheets[0].id)
			out, err = y.Decisions.Decide(ctx, y.who, "", d)
		case k == 9 && len(b.sheets) > 1: // it is parted
			i := y.draw("parted", len(b.sheets)-1)
			s := b.sheets[i]
			v, verr := y.Reading.Conversation(ctx, y.who, d.Conversations[0])
			require.NoError(y.rt, verr)
			y.say("part %s from the others", s.id)
			out, err = y.Decisions.Part(ctx, y.who, "", d.Conversations[0], []int64{v.Messages[i].ID})
			b.sheets = slices.Delete(slices.Clone(b.sheets), i, i+1)
			y.ref = append(y.ref, &bundle{sheets: []*sheet{s}, place: b.place, back: b.back, apart: true})
		case k == 10 && len(y.ref) > 1: // two are joined by hand
			a := pick()
			if a == b {
				return
			}
			if slices.Index(y.ref, b) < slices.Index(y.ref, a) {
				a, b = b, a
			}
			y.say("join %s and %s", a.sheets[0].id, b.sheets[0].id)
			out, err = y.Decisions.Join(ctx, y.who, "", []int64{ids[a.sheets[0].id], ids[b.sheets[0].id]})
			parted = b.sheets[0].id
			y.ref.join(a, b)
		default:
			d.Kind, d.FollowUp = inbox.MakeFollowUp, &followups.NewFollowUp{Title: "Do it", Remind: y.moment(y.tb, "in 5 days")}
			y.say("follow-up about %s", b.sheets[0].id)
			out, err = y.Decisions.Decide(ctx, y.who, "", d)
			b.put(inbox.Archived) // out of the bin, too: it is to be kept
		}
		require.NoError(y.rt, err)
		if y.draw("sent", 1) == 0 {
			y.pass()
		}
		if out.Entry != 0 && y.draw("take back", 3) == 0 {
			y.say("take it back")
			_, err := y.Journal.TakeBackStep(ctx, y.who, "", out.Entry)
			require.NoError(y.rt, err)
			y.ref = before
			if parted != "" {
				y.ref.of(parted).apart = true
			}
		}
	case k < 16: // another program works on the account
		s := y.sheets[y.draw("message", len(y.sheets)-1)]
		if s.own {
			return
		}
		var uid imap.UID
		for _, l := range y.post.Folder(museum, s.folder) {
			if mime.Read(l.Raw).MessageID == s.id {
				uid = l.UID
			}
		}
		if k == 15 && s.folder != "" {
			flags := [][]imap.Flag{{}, {imap.FlagSeen}, {imap.FlagFlagged}, {imap.FlagSeen, imap.FlagFlagged}}[y.draw("flags", 3)]
			y.say("elsewhere: %s is %v", s.id, flags)
			y.post.SetFlags(museum, s.folder, uid, flags...)
			y.ref.marked(s, slices.Contains(flags, imap.FlagSeen), slices.Contains(flags, imap.FlagFlagged))
			break
		}
		into := []string{postoffice.Archive, postoffice.Trash, postoffice.Inbox, postoffice.Junk, ""}[y.draw("into", 4)]
		if into == s.folder {
			return
		}
		y.say("elsewhere: %s goes from %s to %q", s.id, s.folder, into)
		if s.folder != "" {
			y.post.Move(museum, s.folder, uid, into)
		} else { // what was deleted is laid there again
			y.post.Put(museum, into, y.clock.t, s.raw)
		}
		y.ref.moved(s, into)
	case k == 16: // the program is ended and begun again
		y.say("restart")
		y.reopen(y.tb)
		y.link()
	case k == 17:
		y.say("new numbers")
		y.post.Renumber(museum)
	default:
		y.clock.t = y.clock.t.Add(time.Duration(y.draw("days", 6)) * 24 * time.Hour)
		require.NoError(y.rt, y.Agenda.CatchUp(ctx))
		y.say("it is %s", y.clock.t.Format(time.DateTime))
		for _, b := range y.ref {
			if b.place == inbox.Snoozed && !b.back.After(y.clock.t) {
				b.place, b.back, b.unread = inbox.Inbox, time.Time{}, true
			}
		}
	}
}

// A year of a mailbox: mail comes, joins conversations and is decided, binned,
// snoozed, parted and taken back, another program works on the account, the
// program stops and starts. Ebbe, its server and a slow, obvious reference agree
// after each of it, and at no time does a rule of the database break.
func TestAYearOfAMailbox(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		y := &year{posted: newPosted(t, postoffice.Faults{}).connected(t), tb: t, rt: rt}
		y.pass()
		for range rapid.IntRange(5, 25).Draw(rt, "steps") {
			y.clock.t = y.clock.t.Add(time.Duration(1+y.draw("minutes", 600)) * time.Minute)
			require.NoError(rt, y.Agenda.CatchUp(ctx))
			for _, b := range y.ref {
				if b.place == inbox.Snoozed && !b.back.After(y.clock.t) {
					b.place, b.back, b.unread = inbox.Inbox, time.Time{}, true
				}
			}
			y.step()
			y.pass()
			y.compare()
		}
	})
}
