package desk

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/search"
	"ebbe/internal/core/together"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/deliveries"
	"ebbe/internal/desk/talk"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/post/mime"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
)

// talks gives what is said about a conversation, as somebody sees it.
func (c *company) talks(t testing.TB, who identity.Who, conversation int64) *talk.TalkView {
	t.Helper()
	v, err := c.Reading.Conversation(ctx, who, conversation)
	require.NoError(t, err)
	return v.Talk
}

// writes gives who else writes an answer to a conversation, as somebody sees it.
func (c *company) writes(t testing.TB, who identity.Who, conversation int64) []talk.WritingView {
	t.Helper()
	v, err := c.Reading.Conversation(ctx, who, conversation)
	require.NoError(t, err)
	return v.Writing
}

// says has somebody comment on a conversation.
func (c *company) says(t testing.TB, who identity.Who, conversation int64, text string) talk.CommentMade {
	t.Helper()
	said, err := c.Talk.Say(ctx, who, "", conversation, text)
	require.NoError(t, err)
	return said
}

// hears gives what concerns somebody, the newest first, each line in short.
func (c *company) hears(t testing.TB, who identity.Who) (out []string) {
	t.Helper()
	a, err := c.Talk.Activity(ctx, who, 0, 0)
	require.NoError(t, err)
	for _, g := range a.Groups {
		for _, l := range g.Lines {
			mark := ""
			if l.Called {
				mark = "!"
			}
			if !l.Heard {
				mark += "*"
			}
			out = append(out, strings.TrimSpace(fmt.Sprintf("%s%s %s: %s", mark, strings.Split(l.Who, " ")[0], l.Kind, l.Text)))
		}
	}
	return out
}

// first is a conversation that has come into the box of the team.
func (c *company) first(t testing.TB) int64 {
	t.Helper()
	c.comes(t, fmt.Sprintf(fromLender, 1))
	return c.sees(t, c.team[0])[0].ID
}

func TestAComment(t *testing.T) {
	c := newCompany(t, "Jonas Reyland", "Priya Venn")
	at := c.first(t)
	said := c.says(t, c.team[1], at, "The contract has a line on **weather**. @Priya, would you?")
	require.Equal(t, "Said to the team. Priya Venn will hear of it.", said.Text)
	for i, who := range c.team {
		v := c.talks(t, who, at)
		require.Len(t, v.Comments, 1)
		require.Equal(t, "Jonas Reyland", v.Comments[0].Name)
		require.Equal(t, i == 1, v.Comments[0].Own)
		require.Len(t, v.Followers, 2, "whoever wrote it, and whoever is called")
	}
	require.Equal(t, []string{"!*Jonas comment: The contract has a line on weather. @Priya, would you?"}, c.hears(t, c.people[2]), "from one's own box, too")
	require.Empty(t, c.hears(t, c.team[1]), "nothing of what one did oneself")
	require.Empty(t, c.hears(t, c.team[0]), "nor of what one does not follow")

	c.clock.t = c.clock.t.Add(time.Minute)
	_, err := c.Talk.Change(ctx, c.team[2], "", said.Comment, "Mine")
	require.ErrorContains(t, err, "Only whoever wrote a comment")
	_, err = c.Talk.Change(ctx, c.team[1], "", said.Comment, "Page three has it.")
	require.NoError(t, err)
	is := c.talks(t, c.team[2], at).Comments[0]
	require.NotZero(t, is.Changed)
	require.Len(t, is.Earlier, 1, "how it stood can be seen")
	_, err = c.Journal.TakeBack(ctx, c.team[1], "")
	require.NoError(t, err)
	is = c.talks(t, c.team[2], at).Comments[0]
	require.Empty(t, is.Earlier)
	require.Zero(t, is.Changed)

	_, err = c.Talk.Change(ctx, c.team[1], "", said.Comment, " ")
	require.NoError(t, err)
	require.Empty(t, c.talks(t, c.team[0], at).Comments)
	require.NotContains(t, strings.Join(c.hears(t, c.team[2]), "\n"), "contract", "nor is what it said told any more")
	_, err = c.Talk.Change(ctx, c.team[1], "", said.Comment, "again")
	require.ErrorContains(t, err, "was deleted meanwhile")
	_, err = c.Journal.TakeBack(ctx, c.team[1], "")
	require.NoError(t, err)
	require.Len(t, c.talks(t, c.team[0], at).Comments, 1)
	_, err = c.Journal.TakeBack(ctx, c.team[1], "")
	require.NoError(t, err)
	require.Empty(t, c.talks(t, c.team[0], at).Comments, "what was said last is taken back as any step")
	_, err = c.Journal.Again(ctx, c.team[1], "")
	require.NoError(t, err)
	require.Len(t, c.talks(t, c.team[0], at).Comments, 1)

	for _, bad := range []struct{ text, says string }{{"", "says something"}, {" \n ", "says something"}, {strings.Repeat("a", together.LongestComment+1), "room for 8000"}} {
		_, err = c.Talk.Say(ctx, c.team[0], "", at, bad.text)
		require.ErrorContains(t, err, bad.says)
	}
	require.Equal(t, "Said to the team. Nobody of the team is called @Kaia, so nobody hears of it by that.", c.says(t, c.team[1], at, "@Kaia, would you?").Text)
	_, err = c.Talk.Say(ctx, c.people[0], "", at, "In my own box")
	require.ErrorContains(t, err, "this box is yours alone")
	_, err = c.Talk.Say(ctx, c.team[0], "", at+99, "Where?")
	require.ErrorIs(t, err, store.ErrNotFound)
}

// A comment is no mail: whatever is made of its conversation has nothing of it.
func TestACommentNeverLeaves(t *testing.T) {
	const secret = "zanzibarian"
	c := newCompany(t, "Jonas")
	at := c.first(t)
	c.says(t, c.team[0], at, "Offer them "+secret+" crowns at most.")
	opened, err := c.Reading.Conversation(ctx, c.team[1], at)
	require.NoError(t, err)
	for _, mode := range []writing.Mode{writing.Reply, writing.ReplyAll, writing.Forward, writing.HandOver} {
		d, err := c.Writing.Begin(ctx, c.team[1], "", composing.DraftBegun{Mode: mode, Message: opened.Messages[0].ID})
		require.NoError(t, err)
		v, err := c.Writing.Draft(ctx, c.team[1], d.ID)
		require.NoError(t, err)
		require.NotContains(t, fmt.Sprintf("%+v", v), secret, mode)
	}
	text, err := c.Reading.Text(ctx, c.team[1], at)
	require.NoError(t, err)
	require.NotContains(t, text, secret)
	_, page, err := c.Reading.Clean(ctx, c.team[1], at, func(int64, string) string { return "" })
	require.NoError(t, err)
	require.NotContains(t, page.HTML, secret)
	raw := c.raw(t)
	for _, table := range tablesOf(t, raw) {
		for _, row := range everyRow(t, raw, table) {
			if table == "comments" || table == "entries" || table == "documents" && strings.Contains(row, " kind=comment ") {
				continue // it is found by its words, as what it is
			}
			require.NotContains(t, row, secret, table)
		}
	}
}

// Whoever follows a conversation hears of what others do with it, once, until they stop.
func TestFollowing(t *testing.T) {
	c := newCompany(t, "Jonas", "Priya")
	at := c.first(t)
	give := func(who, to int, why string) {
		_, err := c.Decisions.Decide(ctx, c.team[who], "", decide.Decision{Kind: inbox.Give, Conversations: []int64{at}, Owner: c.team[to].Person, Text: why})
		require.NoError(t, err)
	}
	do := func(who int, kind inbox.Kind) {
		_, err := c.Decisions.Decide(ctx, c.team[who], "", decide.Decision{Kind: kind, Conversations: []int64{at}})
		require.NoError(t, err)
	}
	give(0, 1, "you know them")
	require.Len(t, c.hears(t, c.team[1]), 1)
	require.Contains(t, c.hears(t, c.team[1])[0], "!*Solvei give")
	require.Empty(t, c.hears(t, c.team[0]))
	do(2, inbox.Star)
	do(2, inbox.MarkRead)
	require.Len(t, c.hears(t, c.team[1]), 1, "what somebody does for themselves is no news")
	do(2, inbox.Archive)
	do(1, inbox.ToInbox)
	require.Equal(t, []string{"*Priya archive: Clause 1"}, c.hears(t, c.team[1])[:1])
	_, err := c.Journal.TakeBack(ctx, c.team[2], "")
	require.NoError(t, err)
	require.Contains(t, c.hears(t, c.team[1])[0], "*Priya take-back")
	c.comes(t, strings.Replace(fmt.Sprintf(fromLender, 1), "<1@lend.example>\n", "<7@lend.example>\nIn-Reply-To: <1@lend.example>\n", 1))
	require.Contains(t, c.hears(t, c.team[1])[0], "* import")

	boxes, err := c.Teams.Boxes(ctx, c.people[1])
	require.NoError(t, err)
	require.Equal(t, 1, boxes[1].Unheard, "one conversation, whatever happened to it")
	require.NoError(t, c.Talk.Hear(ctx, c.people[1], c.box, at))
	for _, line := range c.hears(t, c.team[1]) {
		require.NotContains(t, line, "*")
	}
	stopped, err := c.Talk.Follow(ctx, c.team[1], "", at, false)
	require.NoError(t, err)
	require.Contains(t, stopped.Text, "no more")
	before := c.hears(t, c.team[1])
	do(2, inbox.Archive)
	require.Equal(t, before, c.hears(t, c.team[1]), "who has stopped hears no more")
	c.says(t, c.team[2], at, "@Jonas all the same")
	require.Equal(t, "!*Priya comment: @Jonas all the same", c.hears(t, c.team[1])[0], "but when they are called")

	require.NoError(t, c.Teams.Stand(ctx, c.team[0], "", c.people[1].Person, together.Stranger))
	require.Empty(t, c.hears(t, c.people[1]), "whoever is no member hears nothing more")
	require.NoError(t, c.Teams.Stand(ctx, c.team[0], "", c.people[1].Person, together.Member))
	require.Empty(t, c.hears(t, c.people[1]), "nor of what was, once they are again")
	for _, f := range c.talks(t, c.team[0], at).Followers {
		require.NotEqual(t, "Jonas", f.Name, "they follow nothing")
	}
}

// What is said goes with a conversation that is joined to another, and back.
func TestCommentsOfWhatIsJoined(t *testing.T) {
	c := newCompany(t, "Jonas")
	c.comes(t, fmt.Sprintf(fromLender, 1), fmt.Sprintf(fromLender, 2))
	slips := c.sees(t, c.team[0])
	one, two := slips[0].ID, slips[1].ID
	c.says(t, c.team[0], one, "of one")
	c.says(t, c.team[1], two, "of two")
	_, err := c.Decisions.Join(ctx, c.team[0], "", []int64{one, two})
	require.NoError(t, err)
	for _, id := range []int64{one, two} {
		v := c.talks(t, c.team[0], id)
		require.Len(t, v.Comments, 2)
		require.Len(t, v.Followers, 2)
	}
	_, err = c.Journal.TakeBack(ctx, c.team[0], "")
	require.NoError(t, err)
	require.Len(t, c.talks(t, c.team[0], one).Comments, 1)
	require.Len(t, c.talks(t, c.team[0], two).Comments, 1)
}

// Whoever is called, or given something, is told at once: in the team's box, in their own, and
// nobody else is.
func TestWhoIsToldAtOnce(t *testing.T) {
	c := newCompany(t, "Jonas", "Priya")
	at := c.first(t)
	run, stop := context.WithCancel(ctx)
	defer stop()
	told := func(who identity.Who) func() []string {
		others, err := c.Teams.Others(ctx, who)
		require.NoError(t, err)
		events := c.Journal.Subscribe(run, who.Box, who.Person, others...)
		return func() (out []string) {
			for {
				select {
				case e := <-events:
					if e.Text != "" {
						require.Equal(t, journal.Notice{Text: e.Text, Conversation: at, Box: c.box, To: who.Person}, e.Notice)
						out = append(out, e.Text)
					}
				default:
					return out
				}
			}
		}
	}
	inTeam, own, other, otherOwn := told(c.team[1]), told(c.people[1]), told(c.team[2]), told(c.people[2])
	c.says(t, c.team[0], at, "@Jonas **look**")
	want := []string{c.names(t)[0] + ", Loans: @Jonas look"}
	require.Equal(t, want, inTeam())
	require.Equal(t, want, own())
	require.Empty(t, append(other(), otherOwn()...))
	_, err := c.Decisions.Decide(ctx, c.team[0], "", decide.Decision{Kind: inbox.Give, Conversations: []int64{at}, Owner: c.team[1].Person, Text: "yours"})
	require.NoError(t, err)
	require.Equal(t, []string{c.names(t)[0] + ", Loans: “Clause 1” is yours now: yours"}, own())
	require.Len(t, inTeam(), 1)
	require.Empty(t, append(other(), otherOwn()...))
}

// names are what the people are called.
func (c *company) names(t testing.TB) (out []string) {
	t.Helper()
	v, err := c.Teams.Team(ctx, c.team[0])
	require.NoError(t, err)
	for _, p := range c.people {
		for _, m := range v.Members {
			if m.ID == p.Person {
				out = append(out, m.Name)
			}
		}
	}
	return out
}

// Of two who answer the same the second is stopped, gently, before theirs goes: while the other
// writes, and once the other has sent.
func TestNobodyAnswersTwice(t *testing.T) {
	c := newCompany(t, "Jonas", "Priya")
	at := c.first(t)
	require.NoError(t, c.store.Write(ctx, func(tx store.Tx) error {
		return mailboxes.Accounts(tx).PutAccount(&mailboxes.Account{BoxID: c.box, Name: "Loans", Address: "loans@m.example", FullName: "Loans"})
	}))
	opened, err := c.Reading.Conversation(ctx, c.team[1], at)
	require.NoError(t, err)
	write := func(i int, text string) (id int64) {
		d, err := c.Writing.Begin(ctx, c.team[i], "", composing.DraftBegun{Mode: writing.Reply, Message: opened.Messages[0].ID})
		require.NoError(t, err)
		if text != "" {
			_, err = c.Writing.Change(ctx, c.team[i], "", d.ID, composing.DraftChange{To: d.To, Subject: d.Subject, Text: text, Account: d.Account})
			require.NoError(t, err)
		}
		return d.ID
	}
	send := func(i int, id int64, s composing.Sending) composing.Sent {
		sent, err := c.Writing.Send(ctx, c.team[i], "", id, s)
		require.NoError(t, err)
		return sent
	}
	jonas := write(1, "Dear Halvard, weather falls to the lender.")
	require.Len(t, c.writes(t, c.team[0], at), 1)
	require.Equal(t, "Jonas", c.writes(t, c.team[0], at)[0].Name)
	require.True(t, c.writes(t, c.team[0], at)[0].Now)
	require.Empty(t, c.writes(t, c.team[1], at), "not oneself")
	write(2, "")
	require.Len(t, c.writes(t, c.team[0], at), 1, "who has written nothing yet does not write")

	c.clock.t = c.clock.t.Add(3 * time.Minute)
	solvei := write(0, "It is attached.")
	asked := send(0, solvei, composing.Sending{})
	require.Zero(t, asked.Outgoing)
	require.Equal(t, "Jonas has been writing an answer for 3 minutes: “Dear Halvard, weather falls to the lender.” Send yours all the same? You write “attached”, but no file goes with it. Send it all the same?", asked.Asks)
	require.Equal(t, "files", asked.Field)

	c.clock.t = c.clock.t.Add(20 * time.Minute)
	require.False(t, c.writes(t, c.team[0], at)[0].Now, "they have long stopped")
	asked = send(0, solvei, composing.Sending{})
	require.NotContains(t, asked.Asks, "Jonas")

	sent := send(1, jonas, composing.Sending{Sure: true})
	require.NotZero(t, sent.Outgoing)
	require.Len(t, c.writes(t, c.team[1], at), 1, "now she is the only one")
	asked = send(0, solvei, composing.Sending{Sure: true})
	require.Zero(t, asked.Outgoing, "whatever she was sure of, she did not know of this")
	require.Contains(t, asked.Asks, "Jonas has answered this, Tue 24 Nov, 11:05: “Dear Halvard, weather")
	require.NotZero(t, asked.Answered)

	_, err = c.Journal.TakeBack(ctx, c.team[1], "")
	require.NoError(t, err)
	require.NotContains(t, send(0, solvei, composing.Sending{}).Asks, "has answered", "it was taken back")
	_, err = c.Journal.Again(ctx, c.team[1], "")
	require.NoError(t, err)
	asked = send(0, solvei, composing.Sending{Sure: true})
	require.NotZero(t, asked.Answered)
	sent = send(0, solvei, composing.Sending{Sure: true, Told: asked.Answered})
	require.NotZero(t, sent.Outgoing)
	require.Empty(t, sent.Asks)
	require.Contains(t, c.hears(t, c.team[1])[0], "*Solvei send", "whoever answers follows")
}

// Of a conversation that is removed for good nothing stays that was said about it.
func TestNothingIsSaidOfWhatIsGone(t *testing.T) {
	c := newCompany(t, "Jonas")
	at := c.first(t)
	c.says(t, c.team[0], at, "@Jonas look at zanzibar")
	_, err := c.Journal.TakeBack(ctx, c.team[0], "")
	require.NoError(t, err)
	_, err = c.Journal.Again(ctx, c.team[0], "")
	require.NoError(t, err)
	opened, err := c.Reading.Conversation(ctx, c.team[0], at)
	require.NoError(t, err)
	require.NoError(t, c.store.Write(ctx, func(tx store.Tx) error {
		n, err := mailboxes.Folders(tx).Remove(c.box, []int64{opened.Messages[0].ID})
		require.Equal(t, 1, n)
		return err
	}))
	db := c.raw(t)
	for _, table := range []string{"comments", "followers", "concerns"} {
		require.Empty(t, everyRow(t, db, table), table)
	}
	require.NotContains(t, strings.Join(everyRow(t, db, "entries"), "\n"), "zanzibar", "nor in the journal")
	_, err = c.Journal.TakeBack(ctx, c.team[0], "")
	require.ErrorContains(t, err, "nothing left to take back")
	h, err := c.Reading.History(ctx, c.team[0], store.Past{})
	require.NoError(t, err)
	require.NotEmpty(t, h.Lines, "that something was said stays in the history")
	require.Empty(t, c.hears(t, c.team[1]))
}

// What another member did with what is the team's anybody of it takes back: they are told, and
// their own marks stay as they are.
func TestWhatAColleagueDidIsTakenBack(t *testing.T) {
	c := newCompany(t, "Jonas", "Priya")
	at := c.first(t)
	do := func(who int, kind inbox.Kind) int64 {
		done, err := c.Decisions.Decide(ctx, c.team[who], "", decide.Decision{Kind: kind, Conversations: []int64{at}})
		require.NoError(t, err)
		return done.Entry
	}
	star := do(1, inbox.Star)
	do(2, inbox.MarkRead)
	archived := do(1, inbox.Archive)
	events := c.Journal.Subscribe(ctx, c.people[1].Box, c.people[1].Person, c.box)
	others := c.Journal.Subscribe(ctx, c.people[2].Box, c.people[2].Person, c.box)

	h, err := c.Reading.History(ctx, c.team[2], store.Past{})
	require.NoError(t, err)
	for _, l := range h.Lines {
		require.Equal(t, l.ID == archived || l.Kind == inbox.MarkRead, l.Step, l.Kind)
	}
	out, err := c.Journal.TakeBackStep(ctx, c.team[2], "", archived)
	require.NoError(t, err)
	require.Equal(t, "Taken back what Jonas did: “Clause 1”. They are told.", out.Text)
	for i, want := range []bool{false, true, false} {
		s := c.sees(t, c.team[i])
		require.Len(t, s, 1)
		require.Equal(t, want, s[0].Starred)
	}
	require.False(t, c.sees(t, c.team[2])[0].Unread, "read as it was")
	require.Contains(t, c.hears(t, c.team[1])[0], "*Priya take-back: Clause 1")
	told := func(events <-chan journal.Event) (out []string) {
		for len(events) > 0 {
			if e := <-events; e.Text != "" {
				out = append(out, e.Text)
			}
		}
		return out
	}
	require.Equal(t, []string{"Priya, Loans: took back what you did (“Clause 1”, archived)"}, told(events))
	require.Empty(t, told(others))

	_, err = c.Journal.TakeBackStep(ctx, c.team[2], "", star)
	require.ErrorContains(t, err, "not a decision of yours", "a mark is its owner's")
	said := c.says(t, c.team[1], at, "mine")
	_, err = c.Journal.TakeBackStep(ctx, c.team[2], "", said.Entry)
	require.ErrorContains(t, err, "not a decision of yours", "and so is what somebody says")
	_, err = c.Journal.TakeBackStep(ctx, c.team[1], "", archived)
	require.ErrorContains(t, err, "taken back already")
	again, err := c.Journal.Again(ctx, c.team[2], "")
	require.NoError(t, err)
	require.NotZero(t, again.Entry)
	require.Empty(t, c.sees(t, c.team[0]), "and done again")

	back := do(1, inbox.ToInbox)
	require.NoError(t, c.Teams.Stand(ctx, c.team[0], "", c.people[1].Person, together.Stranger))
	out, err = c.Journal.TakeBackStep(ctx, c.team[2], "", back)
	require.NoError(t, err)
	require.Equal(t, "Taken back what Jonas did: “Clause 1”.", out.Text, "who has left is told nothing")
	require.NoError(t, c.Teams.Stand(ctx, c.team[0], "", c.people[1].Person, together.Member))
	require.Empty(t, c.hears(t, c.people[1]), "nor is it kept for them")
}

// Whoever has a conversation of the team open is seen there by the others, for as long as they say so,
// and by nobody else.
func TestWhoIsReading(t *testing.T) {
	c := newCompany(t, "Jonas Reyland", "Priya Venn")
	at := c.first(t)
	reads := func(who identity.Who) (names []string) {
		all, err := c.Talk.Reading(ctx, who, at)
		require.NoError(t, err)
		for _, r := range all {
			names = append(names, r.Name)
		}
		return names
	}
	heard := c.Journal.Subscribe(t.Context(), c.box, c.people[0].Person)
	require.NoError(t, c.Talk.Here(ctx, c.team[1], at))
	require.Equal(t, journal.Event{Topics: []string{journal.TopicReading}, Conversations: []int64{at}}, <-heard, "at once")
	c.clock.t = c.clock.t.Add(time.Minute)
	require.NoError(t, c.Talk.Here(ctx, c.team[2], at))
	require.Equal(t, []string{"Jonas Reyland", "Priya Venn"}, reads(c.team[0]))
	require.Equal(t, []string{"Priya Venn"}, reads(c.team[1]), "not oneself")
	require.Empty(t, reads(c.people[0]))
	require.NoError(t, c.Talk.Here(ctx, c.team[1], at))
	c.clock.t = c.clock.t.Add(time.Minute)
	require.NoError(t, c.Talk.Here(ctx, c.team[2], 0))
	require.Equal(t, []string{"Jonas Reyland"}, reads(c.team[0]))
	c.clock.t = c.clock.t.Add(time.Minute)
	require.Empty(t, reads(c.team[0]), "whoever goes without a word is gone as well")
	require.ErrorIs(t, c.Talk.Here(ctx, c.team[1], at+99), store.ErrNotFound)
	require.NoError(t, c.Talk.Here(ctx, c.people[1], at), "in one's own box nobody has to know")
	require.NoError(t, c.Talk.Here(ctx, c.team[1], at))
	require.NoError(t, c.Teams.Stand(ctx, c.team[0], "", c.people[1].Person, together.Stranger))
	require.Empty(t, reads(c.team[0]), "nor is whoever is no member any more")
}

// Whoever writes from the address of a team does so by its name or by their own, as they choose, and
// as they chose last; it stays the team's.
func TestWritingByOnesOwnName(t *testing.T) {
	c := newCompany(t, "Jonas Reyland")
	at := c.first(t)
	require.NoError(t, c.store.Write(ctx, func(tx store.Tx) error {
		return mailboxes.Accounts(tx).PutAccount(&mailboxes.Account{BoxID: c.box, Name: "Loans", Address: "loans@m.example", FullName: "The loans desk"})
	}))
	opened, err := c.Reading.Conversation(ctx, c.team[1], at)
	require.NoError(t, err)
	for i, who := range []identity.Who{c.team[1], c.team[1], c.team[0]} {
		d, err := c.Writing.Begin(ctx, who, "", composing.DraftBegun{Mode: writing.Reply, Message: opened.Messages[0].ID})
		require.NoError(t, err)
		require.Equal(t, i == 1, d.Named, "as they chose last, each for themselves")
		d.Text, d.Named = fmt.Sprintf("Answer %d", i), i == 0
		_, err = c.Writing.Change(ctx, who, "", d.ID, d.DraftChange)
		require.NoError(t, err)
		_, err = c.Writing.Send(ctx, who, "", d.ID, composing.Sending{Sure: true})
		require.NoError(t, err)
		c.clock.t = c.clock.t.Add(time.Hour)
	}
	db := c.raw(t)
	from := func(text string) (name string) {
		for _, raw := range names(t, db, "SELECT CAST(b.bytes AS TEXT) FROM outgoings o JOIN outgoing_bytes b ON b.outgoing_id = o.id WHERE o.text LIKE ?", "%"+text+"%") {
			m := mime.Read([]byte(raw))
			require.Equal(t, "loans@m.example", m.From.Address)
			return m.From.Name
		}
		return "nothing"
	}
	require.Equal(t, "Jonas Reyland", from("Answer 0"))
	require.Equal(t, "The loans desk", from("Answer 1"))

	own, err := c.Writing.Begin(ctx, c.people[1], "", composing.DraftBegun{Mode: writing.New})
	require.NoError(t, err)
	own.Named = true
	v, err := c.Writing.Change(ctx, c.people[1], "", own.ID, own.DraftChange)
	require.NoError(t, err)
	require.False(t, v.Named, "one's own address has one's own name anyway")
}

// What concerns somebody in teams comes as one message with a round if they like: each thing once,
// nothing that they have seen by then, and nothing that was said.
func TestALetterOfWhatConcernsMe(t *testing.T) {
	c := newCompany(t, "Jonas", "Priya")
	at := c.first(t)
	who := c.people[1]
	letters := func() (out []string) {
		t.Helper()
		require.NoError(t, c.Agenda.CatchUp(ctx))
		require.NoError(t, c.Letters.Write(ctx))
		for _, s := range c.sees(t, who) {
			if s.From == "Ebbe" {
				out = append(out, s.Subject+"\n"+strings.Join(c.reads(t, who, s.ID), "\n"))
			}
		}
		return out
	}
	day := func(hour string) {
		t.Helper()
		to, err := time.ParseInLocation("2006-01-02 15:04", c.clock.t.In(who.Week.Location()).AddDate(0, 0, 1).Format("2006-01-02")+" "+hour, who.Week.Location())
		require.NoError(t, err)
		c.clock.t = to
	}
	choose := func(on identity.Who, at delivery.Rounds) {
		t.Helper()
		require.NoError(t, c.Delivery.Choose(ctx, on, deliveries.DeliveryChoices{Notify: delivery.Usual().Notify, Letter: at}))
	}
	daily := delivery.Rounds{Days: 1<<7 - 1, Minute: 16 * 60}
	choose(who, daily)
	c.says(t, c.team[0], at, "@Jonas the vault is **locked**")
	c.says(t, c.team[2], at, "So it is")
	require.Empty(t, letters(), "not before its round")
	day("16:00")
	events := c.Journal.Subscribe(t.Context(), who.Box, who.Person)
	got := letters()
	require.Contains(t, (<-events).Topics, journal.TopicTalk, "whoever writes letters is stirred once one is due")
	require.Len(t, got, 1)
	names := c.names(t)
	for _, part := range []string{"In your teams: 1 conversation", "LOANS", "Clause 1", names[0] + " said something to you", names[2] + " said something,"} {
		require.Contains(t, got[0], part)
	}
	require.NotContains(t, got[0], "vault", "what is said in a team becomes no mail")
	require.Len(t, letters(), 1, "each thing once")
	day("16:00")
	require.Len(t, letters(), 1, "nothing new, no letter")

	c.says(t, c.team[0], at, "Seen by then")
	require.NoError(t, c.Talk.Hear(ctx, c.team[1], 0, at))
	day("16:00")
	require.Len(t, letters(), 1)

	c.says(t, c.team[0], at, "While mail is held")
	day("15:00")
	_, err := c.Delivery.Hold(ctx, who, delivery.Hand{Mode: delivery.ModeHold})
	require.NoError(t, err)
	c.clock.t = c.clock.t.Add(time.Hour)
	require.Len(t, letters(), 1)
	c.clock.t = c.clock.t.Add(time.Hour)
	_, err = c.Delivery.Hold(ctx, who, delivery.Hand{})
	require.NoError(t, err)
	require.Len(t, letters(), 2, "it comes when the hold ends")

	choose(who, delivery.Rounds{})
	c.says(t, c.team[0], at, "Not any more")
	day("16:00")
	require.Len(t, letters(), 2)

	choose(who, daily)
	require.NoError(t, c.Teams.Stand(ctx, c.team[0], "", who.Person, together.Stranger))
	day("16:00")
	require.Len(t, letters(), 2, "of a team one is no member of nothing is told")
	choose(c.team[0], daily)
	day("16:00")
	require.NoError(t, c.Agenda.CatchUp(ctx))
	require.NoError(t, c.Letters.Write(ctx))
	require.Len(t, c.sees(t, c.team[0]), 1, "a team itself is written nothing")
}

// What was said is found by its words, in the conversation in which it stands now, by those of the
// team and by nobody else.
func TestCommentsAreFound(t *testing.T) {
	c := newCompany(t, "Jonas", "Priya")
	at := c.first(t)
	finds := func(who identity.Who, text string) (in []int64) {
		t.Helper()
		v, err := c.Finding.Find(ctx, who, text, false)
		require.NoError(t, err)
		return v.IDs
	}
	said := c.says(t, c.team[0], at, "The **armadillo** has a passport, @Jonas")
	c.says(t, c.team[2], at, "Not that I know")
	require.Equal(t, []int64{at}, finds(c.team[1], "armadillo"))
	require.Equal(t, []int64{at}, finds(c.team[1], "armadillo passport in comments"))
	require.Empty(t, finds(c.team[1], "armadillo in notes"))
	require.Empty(t, finds(c.people[1], "armadillo"), "it is in no box of anybody's own")
	v, err := c.Finding.Find(ctx, c.team[1], "passport", false)
	require.NoError(t, err)
	require.Equal(t, search.CommentDocument, v.Places[0].Place.Kind)
	require.True(t, slices.ContainsFunc(v.Places[0].Place.Excerpt, func(p search.Piece) bool { return p.Marked && strings.EqualFold(p.Text, "passport") }))

	c.comes(t, fmt.Sprintf(fromLender, 2))
	var other int64
	for _, s := range c.sees(t, c.team[0]) {
		if s.ID != at {
			other = s.ID
		}
	}
	_, err = c.Decisions.Join(ctx, c.team[0], "", []int64{at, other})
	require.NoError(t, err)
	now := finds(c.team[1], "armadillo")
	require.Len(t, now, 1)
	left := c.sees(t, c.team[0])
	require.Len(t, left, 1)
	require.Equal(t, left[0].ID, now[0])
	_, err = c.Journal.TakeBack(ctx, c.team[0], "")
	require.NoError(t, err)
	require.Equal(t, []int64{at}, finds(c.team[1], "armadillo"))

	_, err = c.Talk.Change(ctx, c.team[0], "", said.Comment, "The pangolin has a passport")
	require.NoError(t, err)
	require.Empty(t, finds(c.team[1], "armadillo"), "as it stands now")
	require.Len(t, finds(c.team[1], "pangolin"), 1)
	_, err = c.Talk.Change(ctx, c.team[0], "", said.Comment, "")
	require.NoError(t, err)
	require.Empty(t, finds(c.team[1], "pangolin"))
	c.sound(t)
}
