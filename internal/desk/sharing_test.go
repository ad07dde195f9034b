package desk

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/together"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/sharing"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/store"
)

// arrives has mail that has just come be stored in a box.
func (c *company) arrives(t testing.TB, box int64, raws ...string) {
	t.Helper()
	in := c.Intake.Begin(ctx, box, intake.Options{Arrived: true})
	for _, raw := range raws {
		require.NoError(t, in.Add(post.Item{Raw: []byte(strings.ReplaceAll(raw, "\n", "\r\n"))}))
	}
	_, err := in.Close()
	require.NoError(t, err)
}

// sent has somebody's message, which has just gone, be stored in a box.
func (c *company) sent(t testing.TB, box int64, raw string) {
	t.Helper()
	in := c.Intake.Begin(ctx, box, intake.Options{Sent: true, Place: inbox.Archived})
	require.NoError(t, in.Add(post.Item{Raw: []byte(strings.ReplaceAll(raw, "\n", "\r\n"))}))
	_, err := in.Close()
	require.NoError(t, err)
}

// aLetter is a letter; more are lines of its header.
func aLetter(id, from, to, text string, more ...string) string {
	head := strings.Join(append([]string{"From: " + from, "To: " + to, "Subject: The ketch", "Message-ID: <" + id + "@lend.example>"}, more...), "\n")
	return head + "\n\n" + text + "\n"
}

// answers is the line by which a letter answers another.
func answers(id string) string { return "In-Reply-To: <" + id + "@lend.example>" }

// reads gives what stands in a conversation, each message in short, as somebody sees it.
func (c *company) reads(t testing.TB, who identity.Who, conversation int64) (out []string) {
	t.Helper()
	v, err := c.Reading.Conversation(ctx, who, conversation)
	require.NoError(t, err)
	for _, m := range v.Messages {
		out = append(out, strings.Split(m.From.Address, "@")[0]+": "+m.Begins)
	}
	return out
}

// shares has somebody share a conversation of their own with the team.
func (c *company) shares(t testing.TB, who identity.Who, conversation int64, whole bool) sharing.SharedNow {
	t.Helper()
	out, err := c.Sharing.Share(ctx, who, "", conversation, sharing.Wish{Team: c.box, Whole: whole, Why: "Can one of you see to the clause?"})
	require.NoError(t, err)
	return out
}

// A conversation of one's own is shared with a team: one and the same from then on, with what
// comes and goes in either box, and what each box makes of it is its own.
func TestSharingAConversation(t *testing.T) {
	c := newCompany(t, "Jonas Reyland", "Priya Venn")
	solvei, jonas := c.people[0], c.team[1]
	c.arrives(t, solvei.Box,
		aLetter("1", "mare@lend.example", "solvei@m.example", "Could you look at the clause?"),
		aLetter("2", "mare@lend.example", "solvei@m.example", "And at the rigging.", answers("1")))
	mine := c.sees(t, solvei)[0].ID
	ways, err := c.Sharing.Ways(ctx, solvei, mine)
	require.NoError(t, err)
	require.Equal(t, sharing.SharingView{Teams: []sharing.TeamChoice{{Box: c.box, Name: "Loans", People: 3}}, Messages: 2}, ways)
	out := c.shares(t, solvei, mine, true)
	require.Equal(t, "Shared with Loans: all 2 messages, and what comes from now on.", out.Text)
	require.Len(t, c.sees(t, jonas), 1)
	slip := c.sees(t, jonas)[0]
	theirs := slip.ID
	require.True(t, slip.Unread)
	require.Nil(t, slip.Owner, "nobody has it yet")
	require.Equal(t, []string{"mare: Could you look at the clause?", "mare: And at the rigging."}, c.reads(t, jonas, theirs))
	v, err := c.Reading.Conversation(ctx, jonas, theirs)
	require.NoError(t, err)
	require.Equal(t, []sharing.SharedView{{ID: out.Sharing, Box: c.box, Conversation: theirs, Team: "Loans", By: "Solvei", Why: "Can one of you see to the clause?", Since: c.Now()}}, v.Shared)
	require.True(t, c.talks(t, c.team[0], theirs).Follows, "whoever shares it follows it")

	// what comes to either is in both; what a colleague answers moves nothing in the sharer's own inbox
	_, err = c.Decisions.Decide(ctx, solvei, "", decide.Decision{Kind: inbox.Archive, Conversations: []int64{mine}})
	require.NoError(t, err)
	c.sent(t, c.box, aLetter("3", "loans@m.example", "mare@lend.example", "We look at both.", answers("2"), "Bcc: secret@hidden.example"))
	c.arrives(t, c.box, aLetter("4", "mare@lend.example", "loans@m.example", "Thank you all.", answers("3")))
	whole := []string{"mare: Could you look at the clause?", "mare: And at the rigging.", "loans: We look at both.", "mare: Thank you all."}
	require.Equal(t, whole, c.reads(t, jonas, theirs))
	require.Equal(t, whole, c.reads(t, solvei, mine))
	require.Empty(t, c.sees(t, solvei), "the team sees to it")
	c.arrives(t, solvei.Box, aLetter("5", "mare@lend.example", "solvei@m.example", "One more, to you.", answers("2")))
	require.Equal(t, append(whole, "mare: One more, to you."), c.reads(t, jonas, theirs))
	require.Len(t, c.sees(t, solvei), 1, "what comes to oneself comes to one's inbox")
	for _, box := range []identity.Who{solvei, jonas} {
		require.Empty(t, c.findsIn(t, box, "secret"), "who was written to unseen is nobody's to see")
	}

	// what each makes of it is theirs
	_, err = c.Decisions.Decide(ctx, solvei, "", decide.Decision{Kind: inbox.Rename, Conversations: []int64{mine}, Text: "Mine to be called"})
	require.NoError(t, err)
	_, err = c.Decisions.Decide(ctx, solvei, "", decide.Decision{Kind: inbox.WriteNote, Conversations: []int64{mine}, Text: "a note of one's own"})
	require.NoError(t, err)
	v, err = c.Reading.Conversation(ctx, jonas, theirs)
	require.NoError(t, err)
	require.Empty(t, v.Note)
	require.Empty(t, v.Slip.Title)

	// ended, the team keeps what it has, and nothing more comes
	_, err = c.Sharing.End(ctx, jonas, "", out.Sharing)
	require.ErrorContains(t, err, "Only those who look after this team")
	_, err = c.Sharing.End(ctx, solvei, "", out.Sharing)
	require.NoError(t, err)
	c.arrives(t, solvei.Box, aLetter("6", "mare@lend.example", "solvei@m.example", "Between the two of us.", answers("5")))
	c.arrives(t, c.box, aLetter("7", "mare@lend.example", "loans@m.example", "To the team alone.", answers("4")))
	require.Len(t, c.reads(t, jonas, theirs), 6)
	require.NotContains(t, c.reads(t, jonas, theirs), "mare: Between the two of us.")
	require.NotContains(t, c.reads(t, solvei, mine), "mare: To the team alone.")
	_, err = c.Journal.TakeBack(ctx, solvei, "")
	require.NoError(t, err, "ending is a step as any other")
	c.arrives(t, solvei.Box, aLetter("8", "mare@lend.example", "solvei@m.example", "Again to all.", answers("6")))
	require.Contains(t, c.reads(t, jonas, theirs), "mare: Again to all.")
	require.NotContains(t, c.reads(t, jonas, theirs), "mare: Between the two of us.")

	// shared once more, it is the same conversation there, and lies in the inbox again
	_, err = c.Sharing.End(ctx, solvei, "", out.Sharing)
	require.NoError(t, err)
	_, err = c.Decisions.Decide(ctx, jonas, "", decide.Decision{Kind: inbox.Archive, Conversations: []int64{theirs}})
	require.NoError(t, err)
	c.clock.t = c.clock.t.Add(time.Hour)
	c.shares(t, solvei, mine, true)
	require.Len(t, c.sees(t, jonas), 1)
	require.Equal(t, theirs, c.sees(t, jonas)[0].ID)
	require.Contains(t, c.reads(t, jonas, theirs), "mare: Between the two of us.", "this time all of it is")
	again, err := c.Reading.Conversation(ctx, solvei, mine)
	require.NoError(t, err)
	_, err = c.Sharing.End(ctx, solvei, "", again.Shared[len(again.Shared)-1].ID)
	require.NoError(t, err)
	_, err = c.Decisions.Decide(ctx, jonas, "", decide.Decision{Kind: inbox.Archive, Conversations: []int64{theirs}})
	require.NoError(t, err)
	c.clock.t = c.clock.t.Add(time.Hour)
	before := c.reads(t, jonas, theirs)
	c.shares(t, solvei, mine, true)
	require.Len(t, c.sees(t, jonas), 1, "also where nothing of it is new")
	require.Equal(t, before, c.reads(t, jonas, theirs), "nor is anything there twice")
	c.sound(t)
}

// Whoever answers what is shared is asked before a second answer goes, also if the first is written in
// the other box; what somebody writes in their own is not shown.
func TestTwoAnswersAcrossASharing(t *testing.T) {
	c := newCompany(t, "Jonas Reyland")
	solvei, jonas := c.people[0], c.team[1]
	c.arrives(t, solvei.Box, aLetter("1", "mare@lend.example", "solvei@m.example", "Could you look at the clause?"))
	mine := c.sees(t, solvei)[0].ID
	out := c.shares(t, solvei, mine, true)
	theirs := c.sees(t, jonas)[0].ID
	begins := func(who identity.Who, conversation int64, text string) composing.DraftView {
		t.Helper()
		v, err := c.Reading.Conversation(ctx, who, conversation)
		require.NoError(t, err)
		d, err := c.Writing.Begin(ctx, who, "", composing.DraftBegun{Mode: writing.Reply, Message: v.Messages[0].ID})
		require.NoError(t, err)
		d.Text = text
		d, err = c.Writing.Change(ctx, who, "", d.ID, d.DraftChange)
		require.NoError(t, err)
		return d
	}
	sends := func(who identity.Who, d composing.DraftView) string {
		t.Helper()
		s, err := c.Writing.Send(ctx, who, "", d.ID, composing.Sending{})
		if s.Asks == "" {
			require.ErrorContains(t, err, "no account")
		}
		return s.Asks
	}
	his := begins(jonas, theirs, "The clause stays, as page three says.")
	hers := begins(solvei, mine, "I ask the team.")
	seen := c.writes(t, solvei, mine)
	require.Equal(t, []any{1, "Jonas Reyland", "The clause stays, as page three says.", false}, []any{len(seen), seen[0].Name, seen[0].Text, seen[0].Apart})
	seen = c.writes(t, jonas, theirs)
	require.Equal(t, []any{1, "Solvei", "", true, true}, []any{len(seen), seen[0].Name, seen[0].Text, seen[0].Apart, seen[0].Now}, "what she writes in her own box is hers")
	events := c.Journal.Subscribe(t.Context(), jonas.Box, jonas.Person)
	_, err := c.Writing.Change(ctx, solvei, "", hers.ID, hers.DraftChange)
	require.NoError(t, err)
	e := <-events
	require.Equal(t, []any{[]string{journal.TopicWriting}, []int64{theirs}}, []any{e.Topics, e.Conversations}, "and is told there as it is written")
	require.Equal(t, "Jonas Reyland has been writing an answer for a moment: “The clause stays, as page three says.” Send yours all the same?", sends(solvei, hers))
	require.Equal(t, "Solvei has been writing an answer for a moment, from their own box. Send yours all the same?", sends(jonas, his))
	_, err = c.Sharing.End(ctx, solvei, "", out.Sharing)
	require.NoError(t, err)
	require.Empty(t, c.writes(t, jonas, theirs))
	require.Empty(t, sends(solvei, hers))
	require.Empty(t, sends(jonas, his), "what is not shared any more nobody hears of")
}

// From the newest message on: what was written before is found by nobody of the team, and what the
// newest quotes of it stays folded.
func TestSharingWithoutThePast(t *testing.T) {
	c := newCompany(t, "Jonas Reyland")
	solvei, jonas := c.people[0], c.team[1]
	c.arrives(t, solvei.Box,
		aLetter("1", "mare@lend.example", "solvei@m.example", "The sum is ninety thousand, between us.", "Date: Tue, 03 Nov 2026 10:00:00 +0000"),
		aLetter("2", "mare@lend.example", "solvei@m.example", "Could the team see to the crates?\n\nOn Tuesday Mare wrote:\n> The sum is ninety thousand, between us.", answers("1"), "Date: Wed, 04 Nov 2026 10:00:00 +0000"))
	mine := c.sees(t, solvei)[0].ID
	ways, err := c.Sharing.Ways(ctx, solvei, mine)
	require.NoError(t, err)
	require.True(t, ways.Quotes, "one is warned before")
	require.Equal(t, "Shared with Loans: its newest message, and what comes from now on. What was written before stays yours.", c.shares(t, solvei, mine, false).Text)
	theirs := c.sees(t, jonas)[0].ID
	v, err := c.Reading.Conversation(ctx, jonas, theirs)
	require.NoError(t, err)
	require.Len(t, v.Messages, 1)
	quoted := 0
	for _, b := range v.Messages[0].Blocks {
		if b.Quoted {
			quoted++
			require.False(t, b.Alone, "a quotation that stands nowhere else would be shown open")
		}
	}
	require.Equal(t, 1, quoted)
	c.comes(t, "From: x@lend.example\nSubject: Other\nMessage-ID: <o@lend.example>\n\nHello.\n")
	in := c.Intake.Begin(ctx, solvei.Box, intake.Options{Place: inbox.Archived}) // what is brought in later and was written before stays one's own, too
	require.NoError(t, in.Add(post.Item{Raw: []byte(strings.ReplaceAll(aLetter("0", "mare@lend.example", "solvei@m.example", "The first of all.", "Date: Mon, 02 Nov 2026 10:00:00 +0000"), "\n", "\r\n"))}))
	require.NoError(t, in.Add(post.Item{Raw: []byte(strings.ReplaceAll(aLetter("1b", "mare@lend.example", "solvei@m.example", "Before the second.", answers("1"), "Date: Tue, 03 Nov 2026 12:00:00 +0000"), "\n", "\r\n"))}))
	_, err = in.Close()
	require.NoError(t, err)
	require.Len(t, c.reads(t, jonas, theirs), 1)
	c.arrives(t, solvei.Box, aLetter("3", "mare@lend.example", "solvei@m.example", "By a clock that is wrong.", answers("2"), "Date: Mon, 02 Nov 2020 10:00:00 +0000"))
	require.Contains(t, c.reads(t, jonas, theirs), "mare: By a clock that is wrong.", "what comes now is seen, whatever it says it was written")
	require.Empty(t, c.findsIn(t, jonas, "first"))
}

// findsIn gives the subjects of what somebody finds in the box they are in.
func (c *company) findsIn(t testing.TB, who identity.Who, words string) (out []string) {
	t.Helper()
	f, err := c.Finding.Find(ctx, who, words, false)
	require.NoError(t, err)
	for _, s := range f.Slips {
		out = append(out, s.Subject)
	}
	return out
}

// What comes to somebody and to their team at once is one: each sees in their own box who of the
// team has it and what it answers; what they write and get themselves stays theirs.
func TestWhatCameToBothIsOne(t *testing.T) {
	for _, first := range []string{"own", "team"} {
		t.Run(first, func(t *testing.T) {
			c := newCompany(t, "Jonas Reyland")
			solvei, jonas := c.people[0], c.team[1]
			letter := aLetter("1", "mare@lend.example", "solvei@m.example, loans@m.example", "Could one of you help?")
			boxes := []int64{solvei.Box, c.box}
			if first == "team" {
				boxes = []int64{c.box, solvei.Box}
			}
			for i, box := range boxes {
				c.arrives(t, box, fmt.Sprintf("Received: from place.example; way %d\n", i)+letter)
			}
			mine, theirs := c.sees(t, solvei)[0].ID, c.sees(t, jonas)[0].ID
			v, err := c.Reading.Conversation(ctx, solvei, mine)
			require.NoError(t, err)
			require.Len(t, v.Shared, 1)
			require.True(t, v.Shared[0].Addressed)
			require.Equal(t, theirs, v.Shared[0].Conversation)
			require.Empty(t, v.Shared[0].Owner)
			_, err = c.Decisions.Decide(ctx, jonas, "", decide.Decision{Kind: inbox.Give, Conversations: []int64{theirs}, Owner: jonas.Person})
			require.NoError(t, err)
			c.sent(t, c.box, aLetter("2", "loans@m.example", "mare@lend.example", "Jonas does.", answers("1")))
			v, err = c.Reading.Conversation(ctx, solvei, mine)
			require.NoError(t, err)
			require.Equal(t, "Jonas Reyland", v.Shared[0].Owner)
			require.Equal(t, []string{"mare: Could one of you help?", "loans: Jonas does."}, c.reads(t, solvei, mine))
			c.arrives(t, solvei.Box, aLetter("3", "mare@lend.example", "solvei@m.example", "To you alone.", answers("1")))
			require.NotContains(t, c.reads(t, jonas, theirs), "mare: To you alone.")

			forged := aLetter("1", "mare@lend.example", "solvei@m.example, loans@m.example", "Something else altogether.")
			other := c.comesTo(t, "Priya Venn")
			c.arrives(t, other.Box, forged)
			v, err = c.Reading.Conversation(ctx, other, c.sees(t, other)[0].ID)
			require.NoError(t, err)
			require.Empty(t, v.Shared, "whoever is no member sees nothing of it, nor is the same ID enough")
			c.sound(t)
		})
	}
}

// comesTo is somebody more of this Ebbe, who is no member.
func (c *company) comesTo(t testing.TB, name string) identity.Who {
	t.Helper()
	address := strings.ToLower(strings.Fields(name)[0]) + "@m.example"
	require.NoError(t, c.People.Add(ctx, identity.Signup{Name: name, Address: address, Password: "tide lorry " + address, Zone: zone}, nil, func(store.Tx, identity.Who, store.Person) error { return nil }))
	who, err := c.People.Called(ctx, address)
	require.NoError(t, err)
	return who
}

// A message that was seen already as it came to the team, and comes to oneself afterwards, is no
// second one, and comes to one's inbox all the same.
func TestWhatComesAfterItWasSeen(t *testing.T) {
	c := newCompany(t, "Jonas Reyland")
	solvei, jonas := c.people[0], c.team[1]
	c.arrives(t, solvei.Box, aLetter("1", "mare@lend.example", "solvei@m.example", "Could you help?"))
	mine := c.sees(t, solvei)[0].ID
	c.shares(t, solvei, mine, true)
	_, err := c.Decisions.Decide(ctx, solvei, "", decide.Decision{Kind: inbox.Archive, Conversations: []int64{mine}})
	require.NoError(t, err)
	c.clock.t = c.clock.t.Add(time.Minute)
	for i, way := range []string{"Received: by another\n", "Received: by one way\n"} { // to the last byte the same as well
		id := fmt.Sprint(2 + i)
		both := aLetter(id, "mare@lend.example", "loans@m.example, solvei@m.example", "To all of you, "+id, answers("1"))
		c.arrives(t, c.box, "Received: by one way\n"+both)
		require.Empty(t, c.sees(t, solvei))
		c.arrives(t, solvei.Box, way+both)
		require.Len(t, c.sees(t, solvei), 1)
		require.Len(t, c.reads(t, solvei, mine), 2+i)
		require.Len(t, c.reads(t, jonas, c.sees(t, jonas)[0].ID), 2+i)
		_, err := c.Decisions.Decide(ctx, solvei, "", decide.Decision{Kind: inbox.Archive, Conversations: []int64{mine}})
		require.NoError(t, err)
		c.clock.t = c.clock.t.Add(time.Minute)
	}
	c.sound(t)
}

// Sharing ends with whoever shares: when they leave the team, nothing more of theirs is seen there,
// and nothing of the team's in their own box.
func TestWhoLeavesSharesNothingMore(t *testing.T) {
	c := newCompany(t, "Jonas Reyland")
	jonas := c.people[1]
	c.arrives(t, jonas.Box, aLetter("1", "mare@lend.example", "jonas@m.example", "Could you help?"))
	mine := c.sees(t, jonas)[0].ID
	c.shares(t, jonas, mine, true)
	theirs := c.sees(t, c.team[0])[0].ID
	require.NoError(t, c.Teams.Stand(ctx, c.team[0], "", jonas.Person, together.Stranger))
	c.arrives(t, c.box, aLetter("2", "mare@lend.example", "loans@m.example", "To the team.", answers("1")))
	c.arrives(t, jonas.Box, aLetter("3", "mare@lend.example", "jonas@m.example", "To Jonas.", answers("1")))
	require.Equal(t, []string{"mare: Could you help?", "mare: To the team."}, c.reads(t, c.team[0], theirs))
	require.Equal(t, []string{"mare: Could you help?", "mare: To Jonas."}, c.reads(t, jonas, mine))
	v, err := c.Reading.Conversation(ctx, jonas, mine)
	require.NoError(t, err)
	require.Empty(t, v.Shared)
	_, err = c.Sharing.Share(ctx, jonas, "", mine, sharing.Wish{Team: c.box, Whole: true})
	require.ErrorIs(t, err, store.ErrNotFound)
	c.sound(t)
}

// A conversation that is shared with a team, and joined with one of another's, carries nothing from
// one team to the other.
func TestJoinedSharingsStayApart(t *testing.T) {
	c := newCompany(t, "Jonas Reyland")
	solvei := c.people[0]
	second, err := c.Teams.Make(ctx, solvei, "", "House")
	require.NoError(t, err)
	house, err := (identity.Boxes{Directory: c.Desk.People}).In(ctx, solvei, second)
	require.NoError(t, err)
	c.arrives(t, solvei.Box, aLetter("1", "mare@lend.example", "solvei@m.example", "For the loans."), strings.Replace(aLetter("2", "ole@port.example", "solvei@m.example", "For the house."), "The ketch", "The keys", 1))
	slips := c.sees(t, solvei)
	loans, keys := slips[0].ID, slips[1].ID
	if slips[0].Subject == "The keys" {
		loans, keys = keys, loans
	}
	c.shares(t, solvei, loans, true)
	_, err = c.Sharing.Share(ctx, solvei, "", keys, sharing.Wish{Team: second, Whole: true})
	require.NoError(t, err)
	c.arrives(t, solvei.Box, aLetter("9", "mare@lend.example", "solvei@m.example", "Both belong together.", "References: <1@lend.example> <2@lend.example>"))
	c.sent(t, c.box, aLetter("3", "loans@m.example", "mare@lend.example", "The loans answer.", answers("1")))
	one := c.sees(t, solvei)[0].ID
	require.Len(t, c.sees(t, solvei), 1)
	require.Len(t, c.reads(t, solvei, one), 4)
	require.Equal(t, []string{"ole: For the house.", "mare: Both belong together."}, c.reads(t, house, c.sees(t, house)[0].ID))
	c.arrives(t, solvei.Box, aLetter("4", "mare@lend.example", "solvei@m.example", "From now on, to both.", answers("1")))
	require.Equal(t, []string{"ole: For the house.", "mare: Both belong together.", "mare: From now on, to both."}, c.reads(t, house, c.sees(t, house)[0].ID))
	c.sound(t)
}

// Bad wishes are refused in a sentence, and change nothing.
func TestWhatCannotBeShared(t *testing.T) {
	c := newCompany(t, "Jonas Reyland")
	solvei := c.people[0]
	c.arrives(t, solvei.Box, aLetter("1", "mare@lend.example", "solvei@m.example", "Could you help?"))
	mine := c.sees(t, solvei)[0].ID
	stranger := c.comesTo(t, "Priya Venn")
	c.comes(t, fmt.Sprintf(fromLender, 1))
	for says, f := range map[string]func() error{
		"room for 2000": func() error {
			_, err := c.Sharing.Share(ctx, solvei, "", mine, sharing.Wish{Team: c.box, Why: strings.Repeat("a", 2001)})
			return err
		},
		"is a team's already": func() error {
			_, err := c.Sharing.Share(ctx, c.team[0], "", c.sees(t, c.team[0])[0].ID, sharing.Wish{Team: c.box})
			return err
		},
		store.ErrNotFound.Error(): func() error {
			_, err := c.Sharing.Share(ctx, stranger, "", mine, sharing.Wish{Team: c.box})
			return err
		},
	} {
		require.ErrorContains(t, f(), says)
	}
	_, err := c.Sharing.Share(ctx, solvei, "", mine, sharing.Wish{Team: solvei.Box})
	require.ErrorIs(t, err, store.ErrNotFound, "one's own box is no team's")
	c.shares(t, solvei, mine, true)
	_, err = c.Sharing.Share(ctx, solvei, "", mine, sharing.Wish{Team: c.box})
	require.ErrorContains(t, err, "sees this conversation already")
	_, err = c.Sharing.End(ctx, stranger, "", 1)
	require.ErrorIs(t, err, store.ErrNotFound)
	require.Empty(t, c.sees(t, stranger))
}
