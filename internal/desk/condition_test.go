package desk

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/search"
	"ebbe/internal/core/sorting"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/followups"
	"ebbe/internal/desk/queue"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// One type of conditions is asked of follow-ups, on a board, and of conversations, in a
// saved list, by their open follow-ups; what cannot be asked of a thing says so.
func TestOneConditionForAll(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.arrive(t, f.letter("1@x", "Halvard <halvard@l.example>", "Loan"), f.letter("2@x", "Mirela <m@c.example>", "Crate"))
	loan := f.by(t, "Loan").ID
	f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: []int64{loan}, FollowUp: &followups.NewFollowUp{Title: "Sign it", Project: "opening", Priority: followup.Urgent, Keep: true}})
	q := search.Query{Project: "opening", Person: "halvard@l.example", Priority: int(followup.Urgent)}
	require.Equal(t, map[string][]string{"opening": {"Sign it"}}, f.list(t, followup.ByProject, q))
	require.NoError(t, f.Queue.PutSavedList(ctx, f.who, "", queue.SavedList{Name: "Opening", Query: q}))
	lists, err := f.Queue.SavedLists(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, []any{1, loan}, []any{lists[0].Count, lists[0].Slips[0].ID})
	for _, none := range []search.Query{{Project: "loans"}, {Project: "opening", Stage: "others"}, {Context: "workshop"}, {Project: "opening", Priority: int(followup.Low)}} {
		found, err := f.Queue.Find(ctx, f.who, none, "")
		require.NoError(t, err)
		require.Empty(t, found.Slips)
	}
	arranged, err := f.Queue.Arranged(ctx, f.who, queue.Arrangement{Where: search.Query{Project: "opening"}})
	require.NoError(t, err)
	require.Equal(t, 1, arranged.Shown)

	var cannot *problem.Error
	require.ErrorAs(t, f.Queue.PutSavedList(ctx, f.who, "", queue.SavedList{Name: "Today", Query: search.Query{Group: "today"}}), &cannot)
	require.Contains(t, cannot.Text, "can be asked of follow-ups, not of mail")
	require.ErrorContains(t, (search.Query{Kind: "list"}).ValidWork(), "asks for what they say")
	require.ErrorContains(t, sorting.Rule{Mode: sorting.On, When: []search.Query{q}, Then: []inbox.ComboStep{{Kind: inbox.Star}}}.Valid(), "no label, star, follow-up or place yet")
	f.step(t, followups.FollowUpStep{Kind: inbox.FinishFollow}, f.named(t, "Sign it"))
	found, err := f.Queue.Find(ctx, f.who, search.Query{Project: "opening"}, "")
	require.NoError(t, err)
	require.Empty(t, found.Slips, "by what is open")
}
