package sorting

import (
	"strings"
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
)

var known = Known{
	Labels: map[string]int64{"permits": 3, "loans / leg two": 7}, Own: []string{"solvei@m.example", "solvei@choir.example"},
	People:  []mail.Address{{Name: "Town Harbour Office", Address: "quay@skagvik-harbour.example"}, {Name: "Halvard Lindqvist", Address: "halvard@l.example"}, {Name: "Ayşe Öztürk", Address: "ayse@o.example"}},
	Streams: delivery.Settings{Own: []delivery.OwnStream{{ID: "s1", Name: "Choir", Along: delivery.StreamPeople}}}, Combos: map[string]string{"Read later": "c1"}, Templates: map[string]int64{"Thank you": 4},
	Team:  map[string]int64{"Jonas Reyland": 31, "Priya Venn": 32, "Priya Alm": 33},
	Saved: map[string]int64{"Crates since spring": 9, "Loans": 2, "“with the feet” crate": 5},
	Lists: []string{"letter.smallmuseums.example"}, Week: when.Ordinary("Europe/Oslo"), Now: when.Of(time.Date(2026, 11, 24, 9, 42, 0, 0, time.UTC)),
}

func TestRulesInWords(t *testing.T) {
	type q = search.Query
	label := func(id int64) inbox.ComboStep { return inbox.ComboStep{Kind: inbox.Label, Labels: []int64{id}} }
	archive, bin, star := inbox.ComboStep{Kind: inbox.Archive}, inbox.ComboStep{Kind: inbox.ToBin}, inbox.ComboStep{Kind: inbox.Star}
	for _, c := range []struct {
		words     string
		when, not []q
		then      []inbox.ComboStep
		doubt     string // a part of it
		pieces    int
	}{
		{"from harbour: label permits, follow up fri 10", []q{{From: "quay@skagvik-harbour.example"}}, nil, []inbox.ComboStep{label(3), {Kind: inbox.MakeFollowUp, Phrase: "fri 10"}}, "", 3},
		{"from quay@skagvik-harbour with “permit”: label permits, follow up “Sign and return” fri", []q{{From: "quay@skagvik-harbour.example", Words: "permit"}}, nil, []inbox.ComboStep{label(3), {Kind: inbox.MakeFollowUp, Text: "Sign and return", Phrase: "fri"}}, "", 4},
		{"newsletters or from @shop.example, but not with \"invoice\": archive", []q{{Kind: mail.List}, {Domain: "shop.example"}}, []q{{Words: "invoice"}}, []inbox.ComboStep{archive}, "", 4},
		{"from halvard lindqvist with files: star and label loans / leg two", []q{{From: "halvard@l.example", Files: true}}, nil, []inbox.ComboStep{star, label(7)}, "", 4},
		{"from ayse ozturk: star", []q{{From: "ayse@o.example"}}, nil, []inbox.ComboStep{star}, "", 2},
		{"to solvei@choir: label choir", []q{{Account: "solvei@choir.example"}}, nil, []inbox.ComboStep{{Kind: inbox.Label, Text: "choir"}}, "", 2},
		{"list smallmuseums: snooze until mon 9", []q{{List: "letter.smallmuseums.example"}}, nil, []inbox.ComboStep{{Kind: inbox.Snooze, Phrase: "mon 9"}}, "", 2},
		{"subject “relative humidity” on weekends: mark read, archive", []q{{Subject: "relative humidity", Days: 65}}, nil, []inbox.ComboStep{{Kind: inbox.MarkRead}, archive}, "", 4},
		{"larger than 5 MB and not important: bin", []q{{Larger: 5 << 20, Level: search.Low}}, nil, []inbox.ComboStep{bin}, "", 3},
		{"over 500kb in german: star", []q{{Larger: 500 << 10, Language: when.German}}, nil, []inbox.ComboStep{star}, "", 3},
		{"from strangers between 18:30 and 8: archive", []q{{Stranger: true, Begin: 18*60 + 30, End: 8 * 60}}, nil, []inbox.ComboStep{archive}, "", 3},
		{"on sat, sun and mon to me alone with pdf: star", []q{{Days: 0b1000011, Reach: mail.Alone, FilesOf: search.PDFs}}, nil, []inbox.ComboStep{star}, "", 4},
		{"“blue crate”: star", []q{{Words: "blue crate"}}, nil, []inbox.ComboStep{star}, "", 2},
		{"answers to me except from halvard or newsletters: star", []q{{Answers: true}}, []q{{From: "halvard@l.example"}, {Kind: mail.List}}, []inbox.ComboStep{star}, "", 4},
		{"copied: stream choir, let through and notify", []q{{Reach: mail.Copied}}, nil, []inbox.ComboStep{{Kind: inbox.ToStream, Stream: "s1"}, {Kind: inbox.PassThrough}, {Kind: inbox.TellOf}}, "", 4},
		{"stream newsletters: put by", []q{{Stream: "machines"}}, nil, nil, "cannot do “put by”", 1},
		{"stream choir with files: into the stream people", []q{{Stream: "s1", Files: true}}, nil, []inbox.ComboStep{{Kind: inbox.ToStream, Stream: "people"}}, "", 3},
		{"on the saved list “crates since spring” from halvard: star", []q{{Saved: 9, From: "halvard@l.example"}}, nil, []inbox.ComboStep{star}, "", 3},
		{"saved loans or saved list crates since spring: notify", []q{{Saved: 2}, {Saved: 9}}, nil, []inbox.ComboStep{{Kind: inbox.TellOf}}, "", 3},
		{"newsletters but not on saved loans: star", []q{{Kind: mail.List}}, []q{{Saved: 2}}, []inbox.ComboStep{star}, "", 3},
		{"saved “with the feet crate”: star", []q{{Saved: 5}}, nil, []inbox.ComboStep{star}, "", 2},
		{"saved lids: star", nil, nil, []inbox.ComboStep{star}, "There are: Crates since spring, Loans, “with", 1},
		{"stream band: star", nil, nil, []inbox.ComboStep{star}, "There are: people, newsletters, Choir.", 1},
		{"newsletters: stream", []q{{Kind: mail.List}}, nil, nil, "Say which stream", 1},
		{"from halvard: run combo “read later”, reply with “thank you”", []q{{From: "halvard@l.example"}}, nil, []inbox.ComboStep{{Kind: inbox.Combo, Text: "c1"}, {Kind: inbox.ReplyWith, Ref: 4}}, "", 3},
		{"receipts: forward to Books@accounts.example, archive", []q{{Kind: mail.Receipt}}, nil, []inbox.ComboStep{{Kind: inbox.ForwardTo, Text: "books@accounts.example"}, archive}, "", 3},
		{"receipts: forward to solvei@choir.example", []q{{Kind: mail.Receipt}}, nil, nil, "come back", 1},
		{"invitations: give in turn", []q{{Kind: mail.Invitation}}, nil, []inbox.ComboStep{{Kind: inbox.Give, Text: "turn"}}, "", 2},
		{"invitations: label permits and give it to whoever has the least to do", []q{{Kind: mail.Invitation}}, nil, []inbox.ComboStep{{Kind: inbox.Label, Labels: []int64{3}}, {Kind: inbox.Give, Text: "least"}}, "", 3},
		{"invitations: give to jonas, star", []q{{Kind: mail.Invitation}}, nil, []inbox.ComboStep{{Kind: inbox.Give, Ref: 31}, star}, "", 3},
		{"invitations: give to “Priya Venn”", []q{{Kind: mail.Invitation}}, nil, []inbox.ComboStep{{Kind: inbox.Give, Ref: 32}}, "", 2},
		{"invitations: give to priya", []q{{Kind: mail.Invitation}}, nil, nil, "to Jonas Reyland, Priya Alm and Priya Venn", 1},
		{"invitations: give", []q{{Kind: mail.Invitation}}, nil, nil, "to whom", 1},
		{"receipts: forward to the bookkeeper", []q{{Kind: mail.Receipt}}, nil, nil, "by their address", 1},
		{"from nobody at all: star", nil, nil, []inbox.ComboStep{star}, "nobody called “nobody at all”", 1},
		{"newsletters", []q{{Kind: mail.List}}, nil, nil, "after a colon", 1},
		{"newsletters: fold it", []q{{Kind: mail.List}}, nil, nil, "cannot do “fold it”", 1},
		{"purple: star", nil, nil, []inbox.ComboStep{star}, "does not understand “purple”", 1},
		{"newsletters: snooze until purple", []q{{Kind: mail.List}}, nil, nil, "Say until when", 1},
		{"to me@elsewhere.example: star", nil, nil, []inbox.ComboStep{star}, "no address of yours", 1},
		{"newsletters: label", []q{{Kind: mail.List}}, nil, nil, "which label", 1},
		{"larger than much: bin", nil, nil, []inbox.ComboStep{bin}, "how large", 1},
		{"", nil, nil, nil, "", 0},
	} {
		t.Run(c.words, func(t *testing.T) {
			r := ReadRule(c.words, known)
			require.ElementsMatch(t, c.when, r.Rule.When)
			require.ElementsMatch(t, c.not, r.Rule.Except)
			require.ElementsMatch(t, c.then, r.Rule.Then)
			require.Equal(t, c.doubt == "", r.Doubt == "", r.Doubt)
			require.Contains(t, r.Doubt, c.doubt)
			require.Len(t, r.Pieces, c.pieces)
			for _, p := range r.Pieces {
				require.NotEmpty(t, strings.TrimSpace(c.words[p.From:p.To]))
			}
		})
	}
}

func TestARuleThatIsTooLong(t *testing.T) {
	r := ReadRule(strings.Repeat("from harbour ", 10_000)+": star", known)
	require.Equal(t, "That is too long for one rule: make two of it.", r.Doubt)
	require.Empty(t, r.Pieces)
}

func TestRulesThatCannotBe(t *testing.T) {
	good := Rule{When: []search.Query{{From: "a@x.example"}}, Then: []inbox.ComboStep{{Kind: inbox.Star}}, Mode: On}
	require.NoError(t, good.Valid())
	for _, c := range []struct {
		change func(*Rule)
		says   string
	}{
		{func(r *Rule) { r.When = nil }, "of no message"},
		{func(r *Rule) { r.When = []search.Query{{}} }, "about everything"},
		{func(r *Rule) { r.Then = nil }, "does nothing"},
		{func(r *Rule) { r.Mode = "perhaps" }, "neither on nor off"},
		{func(r *Rule) { r.When = []search.Query{{Starred: true}} }, "no label, star, follow-up or place yet"},
		{func(r *Rule) { r.When = []search.Query{{From: "a@x.example", Domain: "y.example"}} }, "at once"},
		{func(r *Rule) { r.When = []search.Query{{Answers: true, Stranger: true}} }, "answers nothing"},
		{func(r *Rule) { r.Except = r.When }, "never do anything"},
		{func(r *Rule) { r.When = []search.Query{{Level: "enormous"}} }, "that important"},
		{func(r *Rule) { r.When = make([]search.Query, 21) }, "room for 20"},
		{func(r *Rule) {
			r.Then = append(r.Then, inbox.ComboStep{Kind: inbox.Archive}, inbox.ComboStep{Kind: inbox.ToBin})
		}, "two places"},
		{func(r *Rule) { r.Then = []inbox.ComboStep{{Kind: inbox.Give}} }, "to nobody"},
		{func(r *Rule) {
			r.Then = []inbox.ComboStep{{Kind: inbox.Give, Ref: 3}, {Kind: inbox.Give, Text: "turn"}}
		}, "twice"},
	} {
		r := good
		c.change(&r)
		require.ErrorContains(t, r.Valid(), c.says)
	}
	later, first := good, good
	later.Name, later.Then = "Away", []inbox.ComboStep{{Kind: inbox.ToBin}}
	first.Name, first.Then = "Keep", []inbox.ComboStep{{Kind: inbox.Archive}}
	require.Empty(t, good.Quarrels(later), "one of them moves nothing")
	require.Equal(t, "“Keep” comes first and archives it; “Away” would have binned it.", first.Quarrels(later))
	require.Empty(t, first.Quarrels(first))
}

// Whatever is typed, every piece lies within it.
func FuzzRulesInWords(f *testing.F) {
	for _, s := range []string{"from harbour: label permits", "“", "from “a” or", "larger than 99999999999999999999 gb: bin", "on : ,", "between and: x", "ﬃ “ß: „»«"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		for _, p := range ReadRule(s, known).Pieces {
			require.True(t, 0 <= p.From && p.From < p.To && p.To <= len(s), "%q %v", s, p)
		}
	})
}
