package inbox

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func drawStep(t *rapid.T) ComboStep {
	s := ComboStep{Kind: rapid.SampledFrom([]Kind{Star, Unstar, MarkRead, MarkUnread, MakeFollowUp, FinishFollow, Label, ForwardTo, HandOver}).Draw(t, "kind")}
	switch s.Kind {
	case Label:
		s.Labels = []int64{rapid.Int64Range(1, 3).Draw(t, "label")}
	case ForwardTo, HandOver:
		s.Text = "books@accounts.example"
	case MakeFollowUp:
		s.Text, s.Phrase = rapid.StringN(0, 20, -1).Draw(t, "title"), "fri"
	}
	s.Ask = asks[s.Kind] != "" && rapid.Bool().Draw(t, "asks")
	return s
}

// What goes into a file of combos comes out of it the same, for whoever has the labels and
// templates it names.
func TestCombosInAFile(t *testing.T) {
	labels, byName := map[int64]string{1: "loans", 2: "travel/rome", 3: "“odd”, 50 %"}, map[string]int64{"loans": 1, "travel/rome": 2, "“odd”, 50 %": 3}
	templates, templatesByName := map[int64]string{7: "Thanks"}, map[string]int64{"Thanks": 7}
	rapid.Check(t, func(t *rapid.T) {
		combos := rapid.SliceOfN(rapid.Custom(func(t *rapid.T) Chain {
			c := Chain{Name: rapid.StringMatching(`[a-z]{1,10}`).Draw(t, "name"), Key: rapid.SampledFrom([]string{"", "F8"}).Draw(t, "key"), If: rapid.SampledFrom([]string{"", "from people"}).Draw(t, "if"), Size: rapid.IntRange(0, MaxButton).Draw(t, "size")}
			c.Steps = rapid.SliceOfN(rapid.Custom(drawStep), 1, 7).Draw(t, "steps")
			if rapid.Bool().Draw(t, "starts") {
				c.Steps = append(c.Steps, ComboStep{Kind: StartMessage, Ref: 7})
			}
			return c
		}), 1, 5).Draw(t, "combos")
		got, left, err := ReadCombos(WriteCombos(combos, labels, templates), byName, templatesByName)
		require.NoError(t, err)
		require.Empty(t, left)
		require.Equal(t, combos, got)
	})
}

// What somebody else does not have is asked, or left out, and said; what is no file of
// combos says so.
func TestCombosOfSomebodyElse(t *testing.T) {
	raw := WriteCombos([]Chain{
		{Name: "Loans", Steps: []ComboStep{{Kind: Label, Labels: []int64{1}}, {Kind: StartMessage, Ref: 7}}},
		{Name: "Choir", Steps: []ComboStep{{Kind: ToStream, Stream: "7c1"}, {Kind: ToStream, Stream: "machines"}, {Kind: Silence}}},
		{Name: "Twice", Steps: []ComboStep{{Kind: Archive}, {Kind: ToBin}}},
	}, map[int64]string{1: "loans"}, map[int64]string{7: "Thanks"})
	combos, left, err := ReadCombos(raw, nil, nil)
	require.NoError(t, err)
	require.Equal(t, []Chain{{Name: "Loans", Steps: []ComboStep{{Kind: Label, Ask: true}, {Kind: StartMessage}}},
		{Name: "Choir", Steps: []ComboStep{{Kind: ToStream, Stream: "machines"}, {Kind: Silence}}}}, combos)
	require.Equal(t, []string{"“Loans” puts on the label “loans”, which you do not have.", "“Loans” begins with the template “Thanks”, which you do not have.",
		"“Choir” puts mail into a stream that only somebody else has, which is left out.",
		"Left out: the combo \"Twice\" puts a conversation in two places: keep one of archive, bin, junk, snooze, silence and bring back."}, left)
	for _, raw := range []string{"", "{}", "[1]", `{"format":"ebbe-combos-1"}`, `{"format":"ebbe-combos-2","combos":[{"name":"x","steps":[{"kind":"star"}]}]}`} {
		_, _, err := ReadCombos([]byte(raw), nil, nil)
		require.Error(t, err, raw)
	}
}

func FuzzReadCombos(f *testing.F) {
	f.Add(WriteCombos([]Chain{{Name: "a", Steps: []ComboStep{{Kind: Snooze, Ask: true}}}}, nil, nil))
	f.Fuzz(func(t *testing.T, raw []byte) {
		combos, _, err := ReadCombos(raw, map[string]int64{"loans": 1}, nil)
		for _, c := range combos {
			require.NoError(t, err)
			require.NoError(t, c.Valid())
		}
	})
}

// What a combo must not be is said.
func TestWhatIsWrongWithACombo(t *testing.T) {
	for says, c := range map[string]Chain{
		"":                        {Name: "a", If: "from people", Size: 3, Steps: []ComboStep{{Kind: Label, Ask: true}, {Kind: HandOver, Ask: true}, {Kind: Snooze, Ask: true}, {Kind: StartMessage}}},
		"needs a short name":      {Steps: []ComboStep{{Kind: Star}}},
		"does nothing yet":        {Name: "a"},
		"more than 8":             {Name: "a", Steps: make([]ComboStep, 9)},
		"a size from 0 to 3":      {Name: "a", Size: 4, Steps: []ComboStep{{Kind: Star}}},
		"needs no answer":         {Name: "a", Steps: []ComboStep{{Kind: Star, Ask: true}}},
		"not to one address":      {Name: "a", Steps: []ComboStep{{Kind: ForwardTo, Text: "Jonas"}}},
		"leave it empty":          {Name: "a", Steps: []ComboStep{{Kind: StartMessage, Text: "a@b, c@d"}}},
		"does not say until when": {Name: "a", Steps: []ComboStep{{Kind: Snooze}}},
		"two places":              {Name: "a", Steps: []ComboStep{{Kind: Archive}, {Kind: Snooze, Ask: true}}},
		"starts two messages":     {Name: "a", Steps: []ComboStep{{Kind: StartMessage}, {Kind: StartMessage}}},
		"cannot be part":          {Name: "a", Steps: []ComboStep{{Kind: Combo}}},
	} {
		err := c.Valid()
		if says == "" {
			require.NoError(t, err)
			continue
		}
		require.ErrorContains(t, err, says)
	}
	_, err := ComboStep{Kind: ForwardTo, Ask: true}.Answered(ComboStep{Text: "nobody"})
	require.Error(t, err)
	s, err := ComboStep{Kind: Label, Labels: []int64{1}, Ask: true}.Answered(ComboStep{Labels: []int64{2}})
	require.NoError(t, err)
	require.Equal(t, ComboStep{Kind: Label, Labels: []int64{1, 2}}, s)
}
