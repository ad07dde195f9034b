package desk

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/search"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/rules"
	postoffice "ebbe/internal/post/office"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// going are the subjects of what waits to go out, and to whom.
func (f *office) going(t testing.TB) (lines []string) {
	t.Helper()
	out, err := f.Writing.Outbox(ctx, f.who, 0)
	require.NoError(t, err)
	for _, m := range out.Messages {
		if m.State == writing.Waiting {
			lines = append(lines, m.Subject+" to "+m.To.Address)
		}
	}
	return lines
}

// A combo asks what it needs, passes mail on with a follow-up that waits for the answer,
// starts a message with a template, and is about what its condition says; all of it is
// one step, and what goes out with it is taken back with it.
func TestCombosInFull(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	f := p.office
	template, err := f.Writing.PutTemplate(ctx, f.who, "", composing.TemplateView{Template: writing.Template{Name: "Thanks", Text: "Dear [name], thank you for “[subject]”."}})
	require.NoError(t, err)
	bills, err := f.Labels.Make(ctx, f.who, "bills")
	require.NoError(t, err)
	combos := []inbox.Chain{
		{ID: "on", Name: "To the books", Steps: []inbox.ComboStep{{Kind: inbox.ForwardTo, Ask: true}, {Kind: inbox.Label, Ask: true}, {Kind: inbox.Archive}}},
		{ID: "track", Name: "Track", Steps: []inbox.ComboStep{{Kind: inbox.HandOver, Text: "lena@north.example", Phrase: "fri"}, {Kind: inbox.MakeFollowUp, Text: "Check it"}, {Kind: inbox.Archive}}},
		{ID: "start", Name: "Thank", Steps: []inbox.ComboStep{{Kind: inbox.StartMessage, Ref: template.ID}, {Kind: inbox.Star}}},
		{ID: "if", Name: "Bills", If: "from @shop.example", Size: 2, Steps: []inbox.ComboStep{{Kind: inbox.Archive}}},
		{ID: "away", Name: "Hush", Steps: []inbox.ComboStep{{Kind: inbox.ToStream, Stream: "machines"}, {Kind: inbox.Silence}}},
		{ID: "odd", Name: "Odd", If: "perhaps", Steps: []inbox.ComboStep{{Kind: inbox.Archive}}},
	}
	require.NoError(t, f.choose(map[string]any{"habits": map[string]any{"combos": combos}}))
	at := func(id, from, subject string) string { return note(id, from, museum, subject, f.clock.t) }
	f.arrive(t, at("1@x", "Shop <till@shop.example>", "Bill 7"), at("2@x", "Halvard <halvard@l.example>", "Loan"), at("3@x", "Shop <till@shop.example>", "Bill 8"))
	bill, loan, bill8 := f.by(t, "Bill 7").ID, f.by(t, "Loan").ID, f.by(t, "Bill 8").ID
	run := func(combo string, answers []inbox.ComboStep, ids ...int64) (text string, draft int64) {
		t.Helper()
		out, err := f.Decisions.Decide(ctx, f.who, "", decide.Decision{Kind: inbox.Combo, Combo: combo, Conversations: ids, Answers: answers, Seen: inbox.Inbox})
		require.NoError(t, err)
		f.sound(t)
		return out.Text, out.Draft
	}
	refused := func(says, combo string, answers []inbox.ComboStep, ids ...int64) {
		t.Helper()
		before := f.inView(t)
		_, err := f.Decisions.Decide(ctx, f.who, "", decide.Decision{Kind: inbox.Combo, Combo: combo, Conversations: ids, Answers: answers})
		var cannot *problem.Error
		require.ErrorAs(t, err, &cannot)
		require.Contains(t, cannot.Text, says)
		require.Contains(t, cannot.Text, "Nothing was done")
		require.Equal(t, before, f.inView(t))
		require.Empty(t, f.going(t))
	}
	refused("not to one address", "on", nil, bill)
	refused("labels, but with no label", "on", []inbox.ComboStep{{Text: "books@accounts.example"}}, bill)
	refused("an address of your own", "on", []inbox.ComboStep{{Text: museum}, {Labels: []int64{bills.ID}}}, bill)
	refused("one conversation at a time", "start", nil, bill, loan)
	refused("this is not", "if", nil, loan)
	none, err := f.Decisions.Decide(ctx, f.who, "", decide.Decision{Kind: inbox.Combo, Combo: "start", Where: &search.Query{From: "nobody@x.example"}})
	require.NoError(t, err)
	require.Contains(t, none.Text, "nothing of that kind")
	require.Zero(t, none.Draft)
	refused("cannot read the condition “perhaps”", "odd", nil, loan)

	text, _ := run("on", []inbox.ComboStep{{Text: "books@accounts.example"}, {Labels: []int64{bills.ID}}}, bill)
	require.Equal(t, "“To the books” done. Goes to books@accounts.example in 15 seconds.", text)
	require.Equal(t, []string{"Fwd: Bill 7 to books@accounts.example"}, f.going(t))
	require.ElementsMatch(t, []string{"Loan", "Bill 8"}, f.inView(t))
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.Empty(t, f.going(t), "it is taken back with the rest")
	require.Empty(t, f.by(t, "Bill 7").Labels)

	run("track", nil, loan)
	require.Equal(t, []string{"Fwd: Loan to lena@north.example"}, f.going(t))
	waits := f.named(t, "Answer from lena@north.example about “Loan”")
	require.Equal(t, "lena@north.example", waits.With.Address)
	require.NotZero(t, waits.Waits.Since)
	require.NotZero(t, waits.Due)
	f.named(t, "Check it")
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.Empty(t, f.going(t))

	_, draft := run("start", nil, loan)
	v, err := f.Writing.Draft(ctx, f.who, draft)
	require.NoError(t, err)
	require.Equal(t, []any{"Dear Halvard, thank you for “Loan”.", writing.Reply, loan}, []any{v.Text, v.Mode, v.Conversation})
	require.True(t, f.by(t, "Loan").Starred)
	_, again := run("start", nil, loan)
	require.Equal(t, draft, again, "what was begun is gone on with")

	text, _ = run("if", nil, bill, loan, bill8)
	require.Equal(t, "“Bills” done: 2. 1 of which its condition does not hold stay as they are.", text)
	require.Equal(t, []string{"Loan"}, f.inView(t))

	run("away", nil, loan)
	require.Equal(t, []any{"machines", true, inbox.Archived}, []any{p.where(t, "Loan").Stream, p.where(t, "Loan").Silent, p.where(t, "Loan").Place})

	// A rule runs no combo that asks or sends; it hands over by itself.
	w, err := f.Rules.Read(ctx, f.who, rules.Asked{Words: "from people: run combo “Track”"})
	require.NoError(t, err)
	require.Contains(t, w.Doubt, "asks, sends and starts nothing")
	f.rule(t, "with “invoice”: hand over to books@accounts.example fri, archive", sorting.On)
	f.arrive(t, at("4@x", "Shop <till@shop.example>", "Invoice 9"), note("5@x", "List <list@s.example>", museum, "Invoice of the list", f.clock.t, "List-Id: <s>"))
	require.Equal(t, []string{"Fwd: Invoice 9 to books@accounts.example"}, f.going(t))
	f.named(t, "Answer from books@accounts.example about “Invoice 9”")
	require.NoError(t, f.store.Read(ctx, func(tx store.Tx) error {
		all, err := store.FollowUps(tx).AllFollowUps(1)
		for _, x := range all {
			require.NotContains(t, x.Title, "Invoice of the list")
		}
		return err
	}))
	f.sound(t)

	file, err := f.Choices.ShareCombos(ctx, f.who)
	require.NoError(t, err)
	read, err := f.Choices.ReadCombos(ctx, f.who, file.File)
	require.NoError(t, err)
	require.Empty(t, read.Left)
	require.Len(t, read.Combos, 6)
	require.Equal(t, combos[2].Steps, read.Combos[2].Steps)
	require.NotEqual(t, combos[2].ID, read.Combos[2].ID)
}
