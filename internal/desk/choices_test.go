package desk

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/search"
	"ebbe/internal/desk/choices"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/followups"
	"ebbe/internal/desk/labelling"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// Each choice is said, is a step in the history, and is taken back and done again,
// with nothing else of what is chosen changed.
func TestEachChoiceIsSaidAndTakenBack(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("a@x", "jonas@x.example", "Crate"))
	combo := inbox.Chain{ID: "a", Name: "Later", Steps: []inbox.ComboStep{{Kind: inbox.Archive}}}
	stages := append([]followup.Stage{{ID: "soon", Name: "Soon", Means: followup.Mine}}, followup.Usual().Stages...)
	for _, c := range []struct{ patch, says string }{
		{`{"week": {"morning": 435}}`, "Morning begins at 7:15."},
		{`{"week": {"midday": 720, "evening": 1140}}`, "Midday begins at 12:00; Evening begins at 19:00."},
		{`{"week": {"zone": "Pacific/Auckland"}}`, "Your time zone is Pacific/Auckland."},
		{`{"week": {"workdays": [4, 1, 2, 1]}}`, "You work on Mon, Tue, Thu."},
		{`{"week": {"workdays": []}}`, "You work on every day."},
		{`{"week": {"twelveHour": true}}`, "Times are said as am and pm."},
		{`{"theme": "dark"}`, "Theme: dark."},
		{`{"habits": {"asleep": true}}`, "A new message leaves a snoozed conversation where it is."},
		{`{"habits": {"someday": 12}}`, "Someday is looked through on day 12 of the month."},
		{`{"habits": {"swipeLeft": "bin", "swipeRightFar": "star"}}`, "Swipe to the left: bin; Swipe far to the right: star."},
		{`{"habits": {"span": 60}}`, "What you send can be taken back for 60 seconds."},
		{`{"habits": {"keys": {"archive": "x"}}}`, "Keys changed."},
		{`{"habits": {"combos": ` + asJSON(t, []inbox.Chain{combo}) + `}}`, "Combo “Later” added."},
		{`{"followUp": {"stages": ` + asJSON(t, stages) + `}}`, "Stage “Soon” added."},
		{`{"followUp": {"views": [{"name": "Mine", "by": "stage"}]}}`, "View “Mine” added."},
		{`{"followUp": {"closeAt": -1, "keep": true}}`, "The day is closed when you ask for it; Finishing leaves the conversation where it is."},
		{`{"addresses": ["solvei@m.example", "Me@Choir.example"]}`, "Mail from me@choir.example counts as yours."},
	} {
		before, err := f.Choices.All(ctx, f.who)
		require.NoError(t, err)
		out, err := f.Choices.Change(ctx, f.who, c.says, json.RawMessage(c.patch))
		require.NoError(t, err, c.patch)
		require.Equal(t, c.says, out.Text)
		after, err := f.Choices.All(ctx, f.who)
		require.NoError(t, err)
		require.NotEqual(t, before, after)
		again, err := f.Choices.Change(ctx, f.who, c.says, json.RawMessage(c.patch))
		require.NoError(t, err)
		require.Equal(t, out, again, "the same request is answered as before")
		back, err := f.Journal.TakeBack(ctx, f.who, "")
		require.NoError(t, err)
		require.Equal(t, "Taken back: “"+c.says[:len(c.says)-1]+"”.", back.Text)
		got, err := f.Choices.All(ctx, f.who)
		require.NoError(t, err)
		require.JSONEq(t, asJSON(t, before), asJSON(t, got), c.patch)
		_, err = f.Journal.Again(ctx, f.who, "")
		require.NoError(t, err)
		got, err = f.Choices.All(ctx, f.who)
		require.NoError(t, err)
		require.JSONEq(t, asJSON(t, after), asJSON(t, got), c.patch)
		f.sound(t)
	}
	same, err := f.Choices.Change(ctx, f.who, "", json.RawMessage(`{"theme": "dark"}`))
	require.NoError(t, err)
	require.Zero(t, same.Entry, "what is so already is no step")
	for field, patch := range map[string]string{"week": `{"week": {"zone": "Moon/Base"}}`, "addresses": `{"addresses": []}`, "theme": `{"theme": "loud"}`,
		"span": `{"habits": {"span": 6000}}`, "stages": `{"followUp": {"stages": []}}`, "": `{"nothing": 1}`} {
		before := f.settings(t)
		_, err := f.Choices.Change(ctx, f.who, "", json.RawMessage(patch))
		var user *problem.Error
		require.ErrorAs(t, err, &user, patch)
		require.Equal(t, field, user.Field)
		require.Contains(t, user.Text, "Nothing was changed")
		require.Equal(t, before, f.settings(t))
	}
	_, err = f.Choices.Change(ctx, f.who, "", json.RawMessage(`7`))
	require.Error(t, err)
}

func asJSON(t *testing.T, v any) string {
	t.Helper()
	raw, err := json.Marshal(v)
	require.NoError(t, err)
	return string(raw)
}

func (f *office) settings(t *testing.T) choices.Settings {
	t.Helper()
	s, err := f.Choices.All(ctx, f.who)
	require.NoError(t, err)
	return s
}

// What was chosen otherwise since stays as it is when an older choice is taken back.
func TestAChoiceThatHasChangedSince(t *testing.T) {
	f := newOffice(t, store.Options{})
	out, err := f.Choices.Change(ctx, f.who, "", json.RawMessage(`{"theme": "dark"}`))
	require.NoError(t, err)
	require.NoError(t, f.choose(map[string]any{"theme": "light"}))
	require.NoError(t, f.choose(map[string]any{"habits": map[string]any{"span": 30}}))
	back, err := f.Journal.TakeBackStep(ctx, f.who, "", out.Entry)
	require.NoError(t, err)
	require.Contains(t, back.Text, "it has changed since")
	require.Equal(t, "light", f.settings(t).Theme)
	h, err := f.Reading.History(ctx, f.who, store.Past{})
	require.NoError(t, err)
	require.Equal(t, "What you send can be taken back for 30 seconds", h.Lines[1].Text)
	require.True(t, h.Lines[1].Step)
	_, err = f.Journal.TakeBackStep(ctx, f.who, "", h.Lines[1].ID)
	require.NoError(t, err)
	require.Zero(t, f.settings(t).Habits.Span, "one that stands, alone")
	require.Equal(t, "light", f.settings(t).Theme)
}

// An address taken for one's own by mistake: its mail is where it was once that is
// taken back, also what was held, and its writer can be written to.
func TestAnAddressThatIsNotOnesOwn(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.plan(t, "every day 14")
	f.take(t, letter("a@x", "jonas@x.example", "Crate"), letter("b@x", "mirela@x.example", "Loan"))
	f.arrive(t, f.letter("c@x", "jonas@x.example", "Held"))
	left := len(f.queue(t))
	people := func() int {
		list, err := f.Writing.Complete(ctx, f.who, "jonas")
		require.NoError(t, err)
		return len(list)
	}
	require.Equal(t, 1, people())
	require.NoError(t, f.choose(map[string]any{"addresses": []string{"solvei@m.example", "jonas@x.example"}}))
	require.Zero(t, people())
	require.Equal(t, left-1, len(f.queue(t)))
	f.sound(t)
	_, err := f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, left+1, len(f.queue(t)), "what had been held is in the inbox, not out of sight")
	require.Equal(t, 1, people())
	f.sound(t)

	// It is done again, unless mail has come in since that taking it back would not know of.
	for range 2 {
		_, err = f.Journal.Again(ctx, f.who, "")
		require.NoError(t, err)
		require.Equal(t, left-1, len(f.queue(t)))
		f.sound(t)
		_, err = f.Journal.TakeBack(ctx, f.who, "")
		require.NoError(t, err)
		require.Equal(t, left+1, len(f.queue(t)))
		f.sound(t)
	}
	f.take(t, letter("d@x", "jonas@x.example", "Since"))
	_, err = f.Journal.Again(ctx, f.who, "")
	require.ErrorContains(t, err, "mail from the address has come in since")
	require.Equal(t, left+2, len(f.queue(t)))
	require.NotContains(t, f.settings(t).Addresses, "jonas@x.example")
	f.sound(t)
}

// What lay in a stage is in it again when its deletion is taken back.
func TestAStageThatIsThereAgain(t *testing.T) {
	f := newOffice(t, store.Options{})
	_, err := f.FollowUps.WriteDown(ctx, f.who, "", followups.NewFollowUp{Title: "Strike clause 7"})
	require.NoError(t, err)
	f.step(t, followups.FollowUpStep{Kind: inbox.PutInStage, Stage: "under-way"}, f.named(t, "Strike clause 7"))
	board := func() (in string) {
		for key := range f.list(t, followup.ByStage, search.Query{}) {
			in += key
		}
		return in
	}
	require.Equal(t, "under-way", board())
	stages := followup.Usual().Stages
	require.NoError(t, f.choose(map[string]any{"followUp": map[string]any{"stages": append(stages[:1:1], stages[2:]...)}}))
	require.Equal(t, "todo", board())
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, "under-way", board())
}

// Changes of labels and places are said and taken back like decisions.
func TestLabelsAndPlacesAreTakenBack(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("a@x", "jonas@x.example", "Crate"))
	leg, err := f.Labels.Make(ctx, f.who, "loans / leg two")
	require.NoError(t, err)
	labels := func() []labelling.LabelView {
		all, err := f.Labels.All(ctx, f.who)
		require.NoError(t, err)
		return all
	}
	places := func() (names []string) {
		s, err := f.Labels.Sites(ctx, f.who)
		require.NoError(t, err)
		for _, p := range s.Sites {
			names = append(names, p.Name)
		}
		return names
	}
	takeBack := func() string {
		out, err := f.Journal.TakeBack(ctx, f.who, "")
		require.NoError(t, err)
		return out.Text
	}
	before := labels()
	changed := leg
	changed.Name, changed.Color, changed.Mark = "second leg", "ink", "wave"
	out, err := f.Labels.Put(ctx, f.who, "", changed)
	require.NoError(t, err)
	require.Equal(t, "The label “leg two” is called “second leg” now.", out.Text)
	require.Contains(t, takeBack(), "Taken back")
	require.Equal(t, before, labels())
	_, err = f.Journal.Again(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, "loans / second leg", labels()[1].Path)
	_, err = f.Labels.Make(ctx, f.who, "loans / leg two") // its name is taken meanwhile
	require.NoError(t, err)
	require.Contains(t, takeBack(), "has changed since")
	require.Equal(t, "loans / second leg", labels()[2].Path)

	before = labels()
	_, err = f.Decisions.DropLabel(ctx, f.who, "", leg.Parent)
	require.NoError(t, err)
	require.Equal(t, []string{"leg two", "second leg"}, []string{labels()[0].Path, labels()[1].Path})
	takeBack()
	require.Equal(t, before, labels(), "those below it are below it again")
	_, err = f.Journal.Again(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, "leg two", labels()[0].Path)

	shop, err := f.Labels.PutSite(ctx, f.who, "", 0, "the workshop")
	require.NoError(t, err)
	require.Equal(t, "The place “the workshop” is there.", shop.Text)
	named, err := f.Labels.PutSite(ctx, f.who, "", shop.ID, "the yard")
	require.NoError(t, err)
	require.Equal(t, "The place “the workshop” is called “the yard” now.", named.Text)
	takeBack()
	require.Equal(t, []string{"the workshop"}, places())
	takeBack()
	require.Empty(t, places())
	_, err = f.Journal.Again(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, []string{"the workshop"}, places())
	f.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{1}, Until: inbox.UntilSite, Site: shop.ID})
	h, err := f.Reading.History(ctx, f.who, store.Past{})
	require.NoError(t, err)
	for _, l := range h.Lines {
		if l.Kind == inbox.MakeSite && !l.TakenBack {
			back, err := f.Journal.TakeBackStep(ctx, f.who, "", l.ID)
			require.NoError(t, err)
			require.Contains(t, back.Text, "has changed since")
		}
	}
	require.Equal(t, []string{"the workshop"}, places(), "something waits for it")
}
