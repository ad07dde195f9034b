package desk

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/post"
	postoffice "ebbe/internal/post/office"
	"ebbe/internal/store"
)

// state gives where a conversation is, found by its subject among all, also
// those that became a part of another.
func (f *office) place(t testing.TB, id int64) (row store.Conversation) {
	t.Helper()
	require.NoError(t, f.store.Read(ctx, func(tx store.Tx) error {
		rows, err := tx.ConversationRows(1, []int64{id})
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
			f.decide(t, k, Decision{Conversations: []int64{id}, Return: f.moment(t, "fri 9:00")})
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
			in := f.Intake(ctx, 1, ImportOptions{Arrived: true})
			require.NoError(t, in.Add(post.Item{Raw: []byte(letter("stranger@z", "stranger@z.example", "Re: both", "one@x", "three@x"))}))
			_, err := in.Close()
			require.NoError(t, err)
			to, err := f.ByMessageID(ctx, f.who, "stranger@z")
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
			h, err := f.History(ctx, f.who, store.Past{})
			require.NoError(t, err)
			i := indexOf(h.Lines, inbox.Join)
			require.GreaterOrEqual(t, i, 0)
			require.True(t, h.Lines[i].Step)
			_, err = f.TakeBack(ctx, f.who, "")
			if c.older == "" && c.newer == "" {
				require.ErrorContains(t, err, "nothing left to take back", "what mail did is not taken back by Ctrl Z")
			}
			_, err = f.TakeBackStep(ctx, f.who, "", h.Lines[i].ID)
			if err != nil { // the message has brought it to the inbox since, or what was decided before was taken back
				require.ErrorContains(t, err, "cannot be taken back by itself")
				return
			}
			require.Zero(t, f.place(t, 2).MergedTo)
			v, err := f.Conversation(ctx, f.who, 2)
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

func indexOf(lines []HistoryLine, k inbox.Kind) int {
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
	f.decide(t, inbox.Snooze, Decision{Conversations: []int64{2}, Return: f.moment(t, "fri 9:00")})
	f.take(t, letter("both@x", "jonas@m.example", "Re: both", "one@x", "three@x"))
	h, err := f.History(ctx, f.who, store.Past{})
	require.NoError(t, err)
	require.Contains(t, h.Lines[indexOf(h.Lines, inbox.Join)].Text, "It was to come back Fri")
	f.sound(t)

	f = newOffice(t, store.Options{})
	f.take(t, letter("one@x", "mirela@c.example", "Crate"), letter("three@x", "halvard@l.example", "Lorry"))
	f.decide(t, inbox.Archive, Decision{Conversations: []int64{1}})
	f.decide(t, inbox.Snooze, Decision{Conversations: []int64{2}, Return: f.moment(t, "fri 9:00")})
	f.take(t, letter("own@x", "Solvei <solvei@m.example>", "Re: both", "one@x", "three@x"))
	require.Equal(t, inbox.Snoozed, f.place(t, 1).Place, "the return stays booked")
	require.Equal(t, int64(1), f.place(t, 2).MergedTo)
	f.sound(t)
	f.later(100 * time.Hour)
	require.NoError(t, f.CatchUp(ctx))
	require.Equal(t, inbox.Inbox, f.place(t, 1).Place)
}

// Two messages with one Message-ID: a list's copy with its footer belongs to
// the same conversation, another text is another message, whoever wrote it.
func TestTwoMessagesWithOneMessageID(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("same@x", "mirela@c.example", "Crates"))
	f.take(t, letter("same@x", "mirela@c.example", "[list] Crates")+"-- \nTo leave this list, write to it\n")
	f.take(t, "From: fan@z.example\nTo: solvei@m.example\nSubject: Crates\nMessage-ID: <same@x>\n\nPay this at once.\n")
	v, err := f.Conversation(ctx, f.who, 1)
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
	f.decide(t, inbox.ToJunk, Decision{Conversations: []int64{1}})
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
			p.decide(t, k, Decision{Conversations: []int64{c.ID}})
			p.pass(t)
			require.Len(t, p.in(thrown), 1, "%s moved it", k)
			require.Len(t, p.in(postoffice.Inbox), 1)
		}
		p.decide(t, inbox.Archive, Decision{Conversations: []int64{p.queue(t)[0].ID}})
		p.pass(t)
		require.Len(t, p.in(thrown), 1, "what another program threw away stays so")
		require.Len(t, p.in(postoffice.Archive), 1)
		p.sound(t)
	}
}
