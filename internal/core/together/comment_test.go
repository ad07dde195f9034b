package together_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/together"
)

var team = []together.Named{{1, "Solvei Arnkvist"}, {2, "Jonas Reyland"}, {3, "Priya Venn"}, {4, "Priya Odd"}, {5, "Jo"}, {6, "Åse Ål"}}

func TestWhoIsCalled(t *testing.T) {
	for text, want := range map[string][]int64{
		"@Jonas would you?":                   {2},
		"@jonas reyland, and @Solvei":         {2, 1},
		"(@Jonas)":                            {2},
		"@Priya":                              nil, // which of them?
		"@Priya Odd and @priya venn":          {4, 3},
		"@Jo: not Jonas":                      {5},
		"@Jonasson is another":                nil,
		"write to solvei@Jonas":               nil, // an address
		"@@Jonas":                             nil,
		"@Åse, hei":                           {6},
		"@åse ål":                             {6},
		"@Jonas @Jonas":                       {2},
		"`@Jonas` as it is typed":             nil,
		"> @Jonas as was quoted":              {2},
		"- first\n- **@Solvei** by tomorrow":  {1},
		"[@Jonas](https://place.example/)":    {2},
		"nobody at all, and an @ by itself @": nil,
	} {
		require.Equal(t, want, together.CalledIn(together.PiecesOf(text, team)), text)
	}
}

// shown writes pieces in short.
func shown(in []together.Piece) string {
	var b strings.Builder
	for _, p := range in {
		b.WriteString(string(p.Kind))
		b.WriteByte('[')
		if p.Href != "" {
			b.WriteString(p.Href + " ")
		}
		b.WriteString(p.Text + shown(p.Pieces))
		b.WriteByte(']')
	}
	return b.String()
}

func TestWhatACommentShows(t *testing.T) {
	for text, want := range map[string]string{
		"":                                  "",
		"one\ntwo":                          "paragraph[plain[one]line[]plain[two]]",
		"**heavy**, *said* ~~gone~~ `code`": "paragraph[strong[plain[heavy]]plain[, ]stress[plain[said]]plain[ ]struck[plain[gone]]plain[ ]code[code]]",
		"- a\n- b":                          "bullets[item[paragraph[plain[a]]]item[paragraph[plain[b]]]]",
		"1. a":                              "numbers[item[paragraph[plain[a]]]]",
		"> said":                            "quote[paragraph[plain[said]]]",
		"```\n<b>\n```":                     "block[<b>]",
		"see https://place.example/a":       "paragraph[plain[see ]link[https://place.example/a plain[https://place.example/a]]]",
		"[here](javascript:alert(1))":       "paragraph[plain[here]]",
		"[here](https://place.example)":     "paragraph[link[https://place.example plain[here]]]",
		"<b onclick=x>no</b>":               "paragraph[plain[<b onclick=x>no</b>]]",
		"# no heading":                      "paragraph[plain[# no heading]]",
	} {
		require.Equal(t, want, shown(together.PiecesOf(text, nil)), text)
	}
}

func TestACommentInOneLine(t *testing.T) {
	require.Equal(t, "@Jonas would you? - really", together.Line(together.PiecesOf("@Jonas **would**\nyou?\n\n\\- really", team), 80))
	require.Equal(t, "one two…", together.Line(together.PiecesOf("- one\n- two\n- three", team), 8))
}

// Of what somebody types nothing that can be read is lost, and nothing runs away.
func FuzzPieces(f *testing.F) {
	for _, s := range []string{"@Jonas **a** <b>", strings.Repeat("> ", 300) + "deep", "- a\n  - b\n\n```\nx", "[a](b) ![c](d) \\* &amp;", "\x00\xff@"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		text = strings.ToValidUTF8(text[:min(len(text), together.LongestComment)], "")
		pieces := together.PiecesOf(text, team)
		var walk func([]together.Piece, int) string
		walk = func(in []together.Piece, depth int) (out string) {
			require.LessOrEqual(t, depth, 10)
			for _, p := range in {
				if p.Kind == together.Link {
					require.Regexp(t, `(?i)^(https?|mailto):`, p.Href)
				}
				out += p.Text + walk(p.Pieces, depth+1)
			}
			return out
		}
		said := walk(pieces, 0)
		for _, r := range text {
			if r >= 'A' && r <= 'Z' && !strings.ContainsAny(text, "[&<`~") { // a link, an entity and the kind of a block are marks
				require.Contains(t, said, string(r))
			}
		}
	})
}

func TestWhatIsNoNews(t *testing.T) {
	require.True(t, together.Told(inbox.Archive) && together.Told(inbox.Comment) && together.Told(inbox.Arrive))
	require.False(t, together.Told(inbox.Star) || together.Told(inbox.MarkRead) || together.Told(inbox.Look))
}

// Who is named as if they were called, where nobody is called so.
func TestWhoIsNotCalled(t *testing.T) {
	people := []together.Named{{1, "Jonas Reyland"}}
	for text, names := range map[string][]string{
		"@Jonas and @Kaia, @Kaia":            {"Kaia"},
		"write to mail@place.example":        nil,
		"**@Kaia** (@Anne-Marie) `@code`":    {"Kaia", "Anne-Marie"},
		"@ alone, and @@twice":               nil,
		"nobody":                             nil,
		"- one @Søren\n- two @Jonas Reyland": {"Søren"},
	} {
		require.ElementsMatch(t, names, together.Uncalled(together.PiecesOf(text, people)), text)
	}
}
