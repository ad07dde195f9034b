package desk

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/together"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/composing"
	"ebbe/internal/store"
)

// A draft is given to another of the team, who reads it, changes it and sends it, or gives it back;
// whoever began it can take it back until then. Each hears of it, and nobody else has it.
func TestADraftIsGiven(t *testing.T) {
	c := newCompany(t, "Jonas Reyland", "Priya Venn")
	c.comes(t, strings.ReplaceAll(fromLender, "%[1]d", "1"))
	slip := c.sees(t, c.team[0])[0]
	solvei, jonas, priya := c.team[0], c.team[1], c.team[2]
	heard := c.ears(t)
	v, err := c.Reading.Conversation(ctx, solvei, slip.ID)
	require.NoError(t, err)
	d, err := c.Writing.Begin(ctx, solvei, "", composing.DraftBegun{Mode: writing.Reply, Message: v.Messages[0].ID})
	require.NoError(t, err)
	give := func(who int, to int, why string) (string, error) {
		out, err := c.Writing.Hand(ctx, c.team[who], "", d.ID, composing.Handed{To: c.people[to].Person, Why: why})
		return out.Text, err
	}
	_, err = give(0, 1, "")
	require.ErrorContains(t, err, "nothing in the draft yet")
	change := d.DraftChange
	change.Text = "Clause 14 stays as it is."
	_, err = c.Writing.Change(ctx, solvei, "", d.ID, change)
	require.NoError(t, err)

	_, err = give(0, 0, "")
	require.ErrorContains(t, err, "with you already")
	_, err = give(1, 2, "")
	require.ErrorContains(t, err, "given to somebody else", "what one does not have one does not give")
	_, err = c.Writing.Hand(ctx, solvei, "", d.ID, composing.Handed{To: 99})
	require.ErrorContains(t, err, "not in this team")
	_, err = c.Writing.Hand(ctx, c.who, "", d.ID, composing.Handed{To: c.people[1].Person})
	require.ErrorContains(t, err, "box of a team")
	_, err = give(0, 1, strings.Repeat("please ", 100))
	require.ErrorContains(t, err, "room for 500 letters")

	text, err := give(0, 1, "please  approve and send")
	require.NoError(t, err)
	require.Equal(t, "The draft is with Jonas Reyland now.", text)
	require.Equal(t, []string{"Solvei, Loans: gave you the draft “Re: Clause %d”: please approve and send"}, heard(1))
	drafts := func(i int) (out []composing.DraftView) {
		t.Helper()
		out, err := c.Writing.Drafts(ctx, c.team[i])
		require.NoError(t, err)
		return out
	}
	require.Equal(t, "Jonas Reyland", drafts(0)[0].With)
	require.Empty(t, drafts(1)[0].With)
	require.Equal(t, "please approve and send", drafts(1)[0].Trail[0].Why)
	require.Empty(t, drafts(2))
	_, err = c.Writing.Draft(ctx, priya, d.ID)
	require.ErrorIs(t, err, store.ErrNotFound)
	seen, err := c.Writing.Draft(ctx, solvei, d.ID)
	require.NoError(t, err)
	require.Equal(t, "Clause 14 stays as it is.", seen.Text)
	_, err = c.Writing.Change(ctx, solvei, "", d.ID, change)
	require.ErrorIs(t, err, store.ErrNotFound, "whoever has given it writes in it no more")
	_, err = c.Writing.Send(ctx, solvei, "", d.ID, composing.Sending{})
	require.Error(t, err)
	v, err = c.Reading.Conversation(ctx, priya, slip.ID)
	require.NoError(t, err)
	require.Equal(t, "Jonas Reyland", v.Writing[0].Name)
	require.Equal(t, "Solvei: please approve and send", v.Writing[0].By+": "+v.Writing[0].Why)
	require.False(t, v.Writing[0].Now, "he has not been at it yet")

	text, err = give(0, 0, "")
	require.NoError(t, err)
	require.Equal(t, "The draft is with you again.", text)
	require.Len(t, heard(1), 1)
	_, err = give(0, 1, "again")
	require.NoError(t, err)
	heard(1)
	_, err = give(1, 0, "shorter, please")
	require.NoError(t, err)
	require.Equal(t, []string{"Jonas Reyland, Loans: gave you the draft “Re: Clause %d”: shorter, please"}, heard(0))
	require.Len(t, drafts(0)[0].Trail, 4)
	require.Empty(t, drafts(1), "it is nobody's who only had it meanwhile")
	_, err = give(0, 1, "now?")
	require.NoError(t, err)

	// Somebody who has begun an answer of their own gets none over it; one that is empty is no loss.
	_, err = c.Writing.Begin(ctx, priya, "", composing.DraftBegun{Mode: writing.Reply, Message: v.Messages[0].ID})
	require.NoError(t, err)
	_, err = give(1, 2, "")
	require.NoError(t, err)
	own, err := c.Writing.Begin(ctx, jonas, "", composing.DraftBegun{Mode: writing.Reply, Message: v.Messages[0].ID})
	require.NoError(t, err)
	require.NotEqual(t, d.ID, own.ID)
	change = own.DraftChange
	change.Text = "My own words"
	_, err = c.Writing.Change(ctx, jonas, "", own.ID, change)
	require.NoError(t, err)
	_, err = give(2, 1, "")
	require.ErrorContains(t, err, "has begun a message about this")
	require.NoError(t, c.Writing.Drop(ctx, jonas, own.ID))

	// Whoever leaves gives back what they were given.
	require.NoError(t, c.Teams.Stand(ctx, solvei, "", c.people[2].Person, together.Stranger))
	require.Empty(t, drafts(0)[0].With)
	_, err = give(0, 1, "please send")
	require.NoError(t, err)
	heard(0)
	_, err = c.Accounts.All(ctx, jonas)
	require.NoError(t, err)
	s, err := c.Writing.Send(ctx, jonas, "", d.ID, composing.Sending{Sure: true})
	require.ErrorContains(t, err, "no account", "%+v", s)
	c.sound(t)

	// A new message that is about nothing yet can be given, too.
	n, err := c.Writing.Begin(ctx, solvei, "", composing.DraftBegun{Mode: writing.New, To: []mail.Address{{Address: "lender@l.example"}}})
	require.NoError(t, err)
	change = n.DraftChange
	change.Subject, change.Text = "Spring", "Dear all"
	_, err = c.Writing.Change(ctx, solvei, "", n.ID, change)
	require.NoError(t, err)
	_, err = c.Writing.Hand(ctx, solvei, "", n.ID, composing.Handed{To: c.people[1].Person})
	require.NoError(t, err)
	require.Len(t, drafts(1), 2)
}

// Files go with a comment to the team, and to nobody else; deleted with it they are not handed out.
func TestFilesOfAComment(t *testing.T) {
	c := newCompany(t, "Jonas Reyland")
	c.comes(t, strings.ReplaceAll(fromLender, "%[1]d", "1"))
	slip := c.sees(t, c.team[0])[0]
	add := func(who int, name, content string) int64 {
		t.Helper()
		v, err := c.Talk.AddFile(ctx, c.team[who], "", name, "application/pdf", []byte(content))
		require.NoError(t, err)
		require.Equal(t, len(content), v.Size)
		return v.ID
	}
	_, err := c.Talk.AddFile(ctx, c.who, "", "a.pdf", "", []byte("x"))
	require.ErrorContains(t, err, "this box is yours alone")
	_, err = c.Talk.AddFile(ctx, c.team[0], "", "a.pdf", "", make([]byte, 26<<20))
	require.ErrorContains(t, err, "25 MB")
	plan, list := add(0, "plan.pdf", "the plan"), add(0, "list.txt", "the list")
	reads := func(who int, id int64) string {
		name, content, err := c.Talk.File(ctx, c.team[who], id)
		if err != nil {
			require.ErrorIs(t, err, store.ErrNotFound)
			return ""
		}
		return name + ": " + string(content)
	}
	require.Equal(t, "plan.pdf: the plan", reads(0, plan))
	require.Empty(t, reads(1, plan), "until it is said it is whoever's added it")
	_, err = c.Talk.Say(ctx, c.team[1], "", slip.ID, "Mine", plan)
	require.ErrorContains(t, err, "waited here too long")
	made, err := c.Talk.Say(ctx, c.team[0], "", slip.ID, "", plan, list)
	require.NoError(t, err)
	v, err := c.Reading.Conversation(ctx, c.team[1], slip.ID)
	require.NoError(t, err)
	require.Len(t, v.Talk.Comments[0].Files, 2)
	require.Equal(t, "plan.pdf", v.Talk.Comments[0].Files[0].Name)
	require.Equal(t, "plan.pdf and list.txt", v.Talk.Comments[0].Pieces[0].Pieces[0].Text, "without words it says what is added")
	require.Equal(t, "plan.pdf: the plan", reads(1, plan))
	_, _, err = c.Talk.File(ctx, c.who, plan)
	require.ErrorIs(t, err, store.ErrNotFound, "in another box it is not there")
	require.NoError(t, c.Talk.DropFile(ctx, c.team[0], plan))
	require.Equal(t, "list.txt: the list", reads(1, list), "what is said is not dropped by the way")
	_, err = c.Talk.Change(ctx, c.team[0], "", made.Comment, "")
	require.NoError(t, err)
	require.Empty(t, reads(1, list))
	_, err = c.Journal.TakeBack(ctx, c.team[0], "")
	require.NoError(t, err)
	require.Equal(t, "list.txt: the list", reads(1, list))
	many := make([]int64, 21)
	_, err = c.Talk.Say(ctx, c.team[0], "", slip.ID, "Many", many...)
	require.ErrorContains(t, err, "20 files")
	gone := add(0, "old.txt", "old")
	c.clock.t = c.clock.t.AddDate(0, 0, 2)
	add(0, "new.txt", "new")
	require.NotContains(t, reads(0, gone), "old", "what nobody says is not kept for ever")
}
