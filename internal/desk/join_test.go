package desk

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/followups"
	"ebbe/internal/desk/reading"
	"ebbe/internal/intake"
	"ebbe/internal/post"
	postoffice "ebbe/internal/post/office"
	"ebbe/internal/store"
)

// state gives where a conversation is, found by its subject among all, also
// those that became a part of another.
func (f *office) place(t testing.TB, id int64) (row store.Conversation) {
	t.Helper()
	require.NoError(t, f.store.Read(ctx, func(tx store.Tx) error {
		rows, err := store.Conversations(tx).ConversationRows(1, []int64{id})
		if err == nil && rows[id] != nil {
			row = *rows[id]
		}
		return err
	}))
	return row
}

// A message that refers to two conversations joins them as the rules of places
// have it, whichever of them is older, and never hides anything.
func TestAMessageThatJoinsTwoConversations(t *testing.T) {
	put := func(f *office, id int64, k inbox.Kind) {
		if k != "" {
			f.decide(t, k, decide.Decision{Conversations: []int64{id}, Return: f.moment(t, "fri 9:00")})
		}
	}
	for _, c := range []struct {
		name          string
		older, newer  inbox.Kind
		joined        bool
		place         inbox.Place // of the message that came
		booked        bool        // the return is still on the agenda
		thrown, there int64       // what was thrown away stays there
	}{
		{"both undecided", "", "", true, inbox.Inbox, false, 0, 0},
		{"undecided and archived", "", inbox.Archive, true, inbox.Inbox, false, 0, 0},
		{"the older in junk", inbox.ToJunk, "", false, inbox.Inbox, false, 1, 2},
		{"the newer in junk", "", inbox.ToJunk, false, inbox.Inbox, false, 2, 1},
		{"the older in the bin", inbox.ToBin, "", false, inbox.Inbox, false, 1, 2},
		{"the newer in the bin", "", inbox.ToBin, false, inbox.Inbox, false, 2, 1},
		{"snoozed and in the bin", inbox.Snooze, inbox.ToBin, false, inbox.Inbox, false, 2, 1},
		{"snoozed and undecided", inbox.Snooze, "", true, inbox.Inbox, false, 0, 0},
	} {
		t.Run(c.name, func(t *testing.T) {
			f := newOffice(t, store.Options{})
			f.take(t, letter("one@x", "mirela@c.example", "Crate"), letter("three@x", "halvard@l.example", "Lorry"))
			put(f, 1, c.older)
			put(f, 2, c.newer)
			f.later(time.Hour)
			in := f.Intake.Begin(ctx, 1, intake.Options{Arrived: true})
			require.NoError(t, in.Add(post.Item{Raw: []byte(letter("stranger@z", "stranger@z.example", "Re: both", "one@x", "three@x"))}))
			_, err := in.Close()
			require.NoError(t, err)
			to, err := f.Reading.ByMessageID(ctx, f.who, "stranger@z")
			require.NoError(t, err)
			require.Equal(t, c.place, f.place(t, to).Place)
			require.Equal(t, c.joined, f.place(t, 2).MergedTo == 1)
			if c.thrown != 0 {
				require.Equal(t, c.there, to)
				require.Contains(t, []inbox.Place{inbox.Junk, inbox.Bin}, f.place(t, c.thrown).Place, "what was thrown away is not fetched back")
			}
			f.sound(t)
			if !c.joined {
				return
			}
			// It is a line of the history, and taking that back gives both back as they were.
			h, err := f.Reading.History(ctx, f.who, store.Past{})
			require.NoError(t, err)
			i := indexOf(h.Lines, inbox.Join)
			require.GreaterOrEqual(t, i, 0)
			require.True(t, h.Lines[i].Step)
			_, err = f.Journal.TakeBack(ctx, f.who, "")
			if c.older == "" && c.newer == "" {
				require.ErrorContains(t, err, "nothing left to take back", "what mail did is not taken back by Ctrl Z")
			}
			_, err = f.Journal.TakeBackStep(ctx, f.who, "", h.Lines[i].ID)
			if err != nil { // the message has brought it to the inbox since, or what was decided before was taken back
				require.ErrorContains(t, err, "cannot be taken back by itself")
				return
			}
			require.Zero(t, f.place(t, 2).MergedTo)
			v, err := f.Reading.Conversation(ctx, f.who, 2)
			require.NoError(t, err)
			require.Len(t, v.Messages, 1)
			require.Equal(t, "Lorry", v.Slip.Subject)
			f.sound(t)
			f.take(t, letter("again@z", "stranger@z.example", "Re: both", "one@x", "three@x"))
			require.Zero(t, f.place(t, 2).MergedTo, "what was parted is not joined again by mail")
			f.sound(t)
		})
	}
}

func indexOf(lines []reading.HistoryLine, k inbox.Kind) int {
	for i, l := range lines {
		if l.Kind == k {
			return i
		}
	}
	return -1
}

// A return that a joining cancels is named; one that it does not, stays booked.
func TestSnoozesWhenConversationsAreJoined(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("one@x", "mirela@c.example", "Crate"), letter("three@x", "halvard@l.example", "Lorry"))
	f.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{2}, Return: f.moment(t, "fri 9:00")})
	f.take(t, letter("both@x", "jonas@m.example", "Re: both", "one@x", "three@x"))
	h, err := f.Reading.History(ctx, f.who, store.Past{})
	require.NoError(t, err)
	require.Contains(t, h.Lines[indexOf(h.Lines, inbox.Join)].Text, "It was to come back Fri")
	f.sound(t)

	f = newOffice(t, store.Options{})
	f.take(t, letter("one@x", "mirela@c.example", "Crate"), letter("three@x", "halvard@l.example", "Lorry"))
	f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{1}})
	f.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{2}, Return: f.moment(t, "fri 9:00")})
	f.take(t, letter("own@x", "Solvei <solvei@m.example>", "Re: both", "one@x", "three@x"))
	require.Equal(t, inbox.Snoozed, f.place(t, 1).Place, "the return stays booked")
	require.Equal(t, int64(1), f.place(t, 2).MergedTo)
	f.sound(t)
	f.later(100 * time.Hour)
	require.NoError(t, f.Agenda.CatchUp(ctx))
	require.Equal(t, inbox.Inbox, f.place(t, 1).Place)
}

// Two messages with one Message-ID: a list's copy with its footer belongs to
// the same conversation, another text is another message, whoever wrote it.
func TestTwoMessagesWithOneMessageID(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("same@x", "mirela@c.example", "Crates"))
	f.take(t, letter("same@x", "mirela@c.example", "[list] Crates")+"-- \nTo leave this list, write to it\n")
	f.take(t, "From: fan@z.example\nTo: solvei@m.example\nSubject: Crates\nMessage-ID: <same@x>\n\nPay this at once.\n")
	v, err := f.Reading.Conversation(ctx, f.who, 1)
	require.NoError(t, err)
	require.Len(t, v.Messages, 2)
	require.Len(t, f.queue(t), 2)

	// Another text under the Message-ID of something of one's own is kept.
	f.take(t, letter("mine@x", "Solvei <solvei@m.example>", "Asked"))
	tally := f.take(t, "From: Solvei <solvei@m.example>\nTo: jonas@m.example\nSubject: Asked\nMessage-ID: <mine@x>\n\nOther words.\n")
	require.Equal(t, 1, tally.New)
	f.sound(t)
}

// Nobody can hide others' mail in what is junk by referring to it.
func TestJunkDrawsNobodyElse(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("junk@z", "fan@z.example", "Prize"))
	f.decide(t, inbox.ToJunk, decide.Decision{Conversations: []int64{1}})
	f.take(t, letter("colleague@m", "jonas@m.example", "Re: Prize", "junk@z"), letter("more@z", "fan@z.example", "Re: Prize", "junk@z"))
	q := f.queue(t)
	require.Len(t, q, 1)
	require.Equal(t, "jonas@m.example", q[0].From)
	require.Equal(t, 2, f.place(t, 1).Messages, "what its writer sends after it is junk with it")
}

// Reading and starring move no mail, also where another program has thrown an
// older message of the conversation away.
func TestReadingAndStarringMoveNoMail(t *testing.T) {
	for _, thrown := range []string{postoffice.Trash, postoffice.Junk} {
		p := newPosted(t, postoffice.Faults{})
		p.put(thrown, "1@x", "Jonas <jonas@x.example>", "Crate")
		p.put(postoffice.Inbox, "22@x", "Jonas <jonas@x.example>", "Re: Crate", "1@x")
		p.connected(t).pass(t)
		c := p.where(t, "Crate")
		for _, k := range []inbox.Kind{inbox.MarkRead, inbox.MarkUnread, inbox.Star, inbox.Look} {
			p.decide(t, k, decide.Decision{Conversations: []int64{c.ID}})
			p.pass(t)
			require.Len(t, p.in(thrown), 1, "%s moved it", k)
			require.Len(t, p.in(postoffice.Inbox), 1)
		}
		p.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{p.queue(t)[0].ID}})
		p.pass(t)
		require.Len(t, p.in(thrown), 1, "what another program threw away stays so")
		require.Len(t, p.in(postoffice.Archive), 1)
		p.sound(t)
	}
}

// Conversations are joined and parted by hand, with what hangs on them, and both
// are taken back and done again.
func TestJoiningAndPartingByHand(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("one@x", "mirela@c.example", "Crate"), letter("two@x", "mirela@c.example", "Re: Crate", "one@x"), letter("three@x", "halvard@l.example", "Lorry"))
	f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: []int64{2}, FollowUp: &followups.NewFollowUp{Title: "Ring him"}})
	f.decide(t, inbox.WriteNote, decide.Decision{Conversations: []int64{2}, Text: "The blue one"})
	apart := f.everything(t)
	_, err := f.Decisions.Join(ctx, f.who, "", []int64{1})
	require.ErrorContains(t, err, "two conversations or more")
	out, err := f.Decisions.Join(ctx, f.who, "", []int64{2, 1})
	require.NoError(t, err)
	require.Equal(t, "Joined: 2 conversations are one now.", out.Text)
	v, err := f.Reading.Conversation(ctx, f.who, 2)
	require.NoError(t, err)
	require.Equal(t, int64(1), v.Slip.ID)
	require.Len(t, v.Messages, 3)
	require.Len(t, v.FollowUps, 1)
	require.Equal(t, "The blue one", v.Note)
	require.Equal(t, inbox.Inbox, v.Slip.Position.Place)
	f.sound(t)
	whole := f.everything(t)
	for range 2 {
		_, err = f.Journal.TakeBack(ctx, f.who, "")
		require.NoError(t, err)
		require.Equal(t, apart, f.everything(t))
		v, err = f.Reading.Conversation(ctx, f.who, 2)
		require.NoError(t, err)
		require.Len(t, v.FollowUps, 1)
		f.sound(t)
		_, err = f.Journal.Again(ctx, f.who, "")
		require.NoError(t, err)
		require.Equal(t, whole, f.everything(t))
		f.sound(t)
	}

	_, err = f.Decisions.Part(ctx, f.who, "", 1, []int64{1, 2, 3})
	require.ErrorContains(t, err, "not all of them")
	out, err = f.Decisions.Part(ctx, f.who, "", 1, []int64{3})
	require.NoError(t, err)
	v, err = f.Reading.Conversation(ctx, f.who, out.First)
	require.NoError(t, err)
	require.Equal(t, "Lorry", v.Slip.Subject)
	require.Len(t, v.FollowUps, 1, "what was to be done about it goes with it")
	f.sound(t)
	f.take(t, letter("four@x", "jonas@m.example", "Re: both", "one@x", "three@x"))
	v, err = f.Reading.Conversation(ctx, f.who, out.First)
	require.NoError(t, err)
	require.Len(t, v.Messages, 2, "an answer goes to the nearest of what it refers to, and joins nothing")
	f.sound(t)
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	f.sound(t)
}

// crowd is a mailbox as the rules of joining have it, kept the slow way: each
// message in a heap, each heap in a place.
type crowd struct {
	of    map[string]*heap // by Message-ID
	heaps []*heap
}

type heap struct {
	place inbox.Place
	back  time.Time // when it comes back, if snoozed
	wrote map[string]bool
	mail  []string
}

// arrive is what a message does.
func (c *crowd) arrive(id, from string, own bool, refs []string) {
	var about []*heap // the nearest last
	for _, r := range refs {
		h := c.of[r]
		if h.place == inbox.Junk && !own && !h.wrote[from] {
			continue
		}
		about = append(slices.DeleteFunc(about, func(x *heap) bool { return x == h }), h)
	}
	var living []*heap
	for _, h := range about {
		if h.place != inbox.Junk && h.place != inbox.Bin {
			living = append(living, h)
		}
	}
	var into *heap
	switch {
	case len(living) > 0:
		into = living[0]
		for _, h := range living[1:] {
			c.join(into, h)
		}
	case len(about) > 0: // all thrown away: those that lie where the nearest does
		nearest := about[len(about)-1]
		for _, h := range about {
			if h.place == nearest.place && into == nil {
				into = h
			} else if h.place == nearest.place {
				c.join(into, h)
			}
		}
	default:
		into = &heap{place: inbox.Inbox, wrote: map[string]bool{}}
		if own {
			into.place = inbox.Archived
		}
		c.heaps = append(c.heaps, into)
	}
	c.of[id] = into
	into.mail, into.wrote[from] = append(into.mail, id), true
	if !own && into.place != inbox.Junk {
		into.place = inbox.Inbox
	}
}

func (c *crowd) join(a, b *heap) {
	order := []inbox.Place{inbox.Inbox, inbox.Snoozed, inbox.Archived, inbox.Bin, inbox.Junk}
	if a.place == inbox.Snoozed && b.place == inbox.Snoozed {
		if b.back.Before(a.back) {
			a.back = b.back
		}
	} else if slices.Index(order, b.place) < slices.Index(order, a.place) {
		a.place, a.back = b.place, b.back
	}
	for _, id := range b.mail {
		c.of[id] = a
	}
	for who := range b.wrote {
		a.wrote[who] = true
	}
	a.mail = append(a.mail, b.mail...)
	c.heaps = slices.DeleteFunc(c.heaps, func(h *heap) bool { return h == b })
}

// Months of mail that joins conversations as it pleases, of decisions and of
// returns: each message is where the slow way has it, at every time.
func TestPlacesAgainstAReference(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		f, c := newOffice(t, store.Options{}), &crowd{of: map[string]*heap{}}
		for n := range rapid.IntRange(3, 10).Draw(rt, "messages") {
			f.later(time.Duration(rapid.IntRange(1, 48).Draw(rt, "hours")) * time.Hour)
			require.NoError(t, f.Agenda.CatchUp(ctx))
			for _, h := range c.heaps {
				if h.place == inbox.Snoozed && !h.back.After(f.clock.t) {
					h.place = inbox.Inbox
				}
			}
			id := fmt.Sprintf("%d@x", n)
			var refs []string
			for range rapid.IntRange(0, min(n, 3)).Draw(rt, "refers") {
				if r := fmt.Sprintf("%d@x", rapid.IntRange(0, n-1).Draw(rt, "which")); !slices.Contains(refs, r) {
					refs = append(refs, r)
				}
			}
			from := rapid.SampledFrom([]string{"mirela@c.example", "fan@z.example", "solvei@m.example"}).Draw(rt, "from")
			in := f.Intake.Begin(ctx, 1, intake.Options{Arrived: true, At: func(mail.Message) when.Instant { return f.Now() }})
			require.NoError(t, in.Add(post.Item{Raw: []byte(letter(id, from, "Matter "+id, refs...))}))
			_, err := in.Close()
			require.NoError(t, err)
			c.arrive(id, from, from == "solvei@m.example", refs)
			for _, h := range c.heaps {
				conversation, err := f.Reading.ByMessageID(ctx, f.who, h.mail[0])
				require.NoError(t, err)
				f.later(time.Second)
				switch one := []int64{conversation}; rapid.IntRange(0, 8).Draw(rt, "decision") {
				case 0:
					f.decide(t, inbox.ToBin, decide.Decision{Conversations: one})
					h.place = inbox.Bin
				case 1:
					f.decide(t, inbox.ToJunk, decide.Decision{Conversations: one})
					h.place = inbox.Junk
				case 2:
					f.decide(t, inbox.Archive, decide.Decision{Conversations: one})
					h.place = inbox.Archived
				case 3:
					back := f.moment(t, "in 3 days")
					f.decide(t, inbox.Snooze, decide.Decision{Conversations: one, Return: back})
					h.place, h.back = inbox.Snoozed, back.At.Time()
				}
			}
			for id, h := range c.of {
				conversation, err := f.Reading.ByMessageID(ctx, f.who, id)
				require.NoError(t, err)
				if at := f.place(t, conversation).Place; at != h.place {
					rt.Fatalf("%s is in %s, and should be in %s", id, at, h.place)
				}
			}
		}
		f.sound(t)
	})
}

// A message goes to the nearest it refers to that was not thrown away, also where a farther
// one is kept apart and cannot become one with it.
func TestAMessageGoesToTheNearestThatWasNotThrownAway(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("a@x", "Jonas <jonas@m.example>", "Thrown"), letter("b@x", "Jonas <jonas@m.example>", "Apart"), letter("c@x", "Jonas <jonas@m.example>", "Near"))
	_, err := f.Decisions.Join(ctx, f.who, "", []int64{1, 2})
	require.NoError(t, err)
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	f.decide(t, inbox.ToBin, decide.Decision{Conversations: []int64{1}})
	f.take(t, letter("d@x", "Jonas <jonas@m.example>", "Which?", "b@x", "c@x", "a@x"))
	of, err := f.Reading.ByMessageID(ctx, f.who, "d@x")
	require.NoError(t, err)
	require.EqualValues(t, 3, of)
	f.sound(t)
}
