package search

import (
	"slices"
	"strings"
	"testing"
	"time"
	"unicode/utf16"
	"unicode/utf8"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

func say(terms []Term) (out []string) {
	for _, t := range terms {
		s := strings.Join(t.Words, " ")
		if t.Begins {
			s += "*"
		}
		if t.Not {
			s = "-" + s
		}
		out = append(out, s)
	}
	return out
}

func TestWhatIsLookedFor(t *testing.T) {
	for text, want := range map[string]string{
		`loan 7 día`:            "loan* | 7 | dia*",
		`“crate height” lid`:    "crate height | lid*",
		`"left open`:            "left open",
		`-draft permit`:         "-draft* | permit*",
		`-"first draft"`:        "-first draft",
		`mirela@coast.example`:  "mirela coast example*",
		`Straße STRASSE`:        "strasse* | strasse*",
		`Øst Ærø Łódź đak Ｆｕｌｌ`: "ost* | aero* | lodz* | dak* | full*",
		`京都 東京都 京`:              "京都 | 東京 京都 | 京*",
		`3月号`:                   "3 月号",
		`“ ” - -- !?`:           "",
		`it is ok`:              "it | is | ok",
		`Ελλάς`:                 "ελλασ*",
	} {
		require.Equal(t, want, strings.Join(say(TermsOf(text)), " | "), text)
	}
	require.Len(t, TermsOf(strings.Repeat("word ", 50)), MaxWords)
	require.False(t, Sought(TermsOf("-draft")))
	require.NoError(t, Query{Place: "inbox", Starred: true}.Valid())
	require.ErrorContains(t, Query{Place: "held"}.Valid(), "no such place")
	require.ErrorContains(t, Query{Starred: true, Unstarred: true}.Valid(), "at once")
	require.ErrorContains(t, Query{Words: strings.Repeat("x", 1001)}.Valid(), "too much")
	require.ErrorContains(t, Query{Since: 5, Until: 4}.Valid(), "turn them round")
	require.ErrorContains(t, Query{Writer: strings.Repeat("a@b.example,", 50)}.Valid(), "name fewer")
	require.NoError(t, Named("To read", Query{Label: 3}))
	require.ErrorContains(t, Named(" ", Query{Label: 3}), "short name")
	require.ErrorContains(t, Named("All", Query{}), "no list")
}

func TestATextSaysWhatIsLookedFor(t *testing.T) {
	says := Saying("Crates for the Straße", "Mirela Dossett mirela@coast.example drawing.pdf", "The crate's height is 118, with the lid. 東京都庁にて。")
	for asked, want := range map[string]bool{
		"crate height": true, "heig 118": true, "“height is 118”": true, "“is height”": false, "strasse": true, "STRAßE": true, "-lid": false, "crate -foot": true, "mirela dossett": true, "drawing.pdf": true,
		"京都": true, "東京都庁": true, "都京": false, "庁": true, "“drawing crates”": false, "hi": false, "is": true, "“the height of”": false,
	} {
		require.Equal(t, want, says(TermsOf(asked), false), asked)
	}
	require.True(t, says(TermsOf("crates strasse"), true))
	require.False(t, says(TermsOf("height"), true))
}

// What is cut out of a text is found in it, however it is written there.
func TestEachWordOfATextIsFoundInIt(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		words := rapid.SliceOfN(rapid.SampledFrom([]string{"Crate", "straße", "ØRE", "été", "ﬁne", "東京都", "都", "ไทย", "mail@x.example", "7", "𝔸b", "naïve", "Ⅳ", "한국어", "ｶﾞ"}), 1, 8).Draw(t, "words")
		text := strings.Join(words, rapid.SampledFrom([]string{" ", ", ", "\n"}).Draw(t, "between"))
		says := Saying("", "", text)
		w := rapid.SampledFrom(words).Draw(t, "word")
		for _, asked := range []string{w, strings.ToUpper(w), "“" + w + "”", text} {
			if terms := TermsOf(asked); len(terms) > 0 && !strings.ContainsRune(asked, '\n') {
				require.True(t, says(terms, false), "%q in %q", asked, text)
			}
		}
		pieces, _ := Excerpt(text, TermsOf(w), 40)
		if len(TermsOf(w)) > 0 {
			require.True(t, slices.ContainsFunc(pieces, func(p Piece) bool { return p.Marked }), "%q in %q: %v", w, text, pieces)
		}
	})
}

func TestExcerpts(t *testing.T) {
	text := "Good morning Solvei,\n\nthe workshop cuts timber on Friday, so I need the outer dimensions by Thursday noon. With the feet off the crate would be of height 118 outside, and there is more to say about it after that. Mirela"
	show := func(asked string, width int) string {
		pieces, _ := Excerpt(text, TermsOf(asked), width)
		s := ""
		for _, p := range pieces {
			if p.Marked {
				s += "[" + p.Text + "]"
			} else {
				s += p.Text
			}
		}
		return s
	}
	require.Equal(t, "…the feet off the [crate] would be of [height] 118 outside, and there is more to say about it…", show("crate height", 90))
	require.Equal(t, "Good morning Solvei, the workshop cuts…", show("anchor", 40))
	require.Equal(t, "Good [morning] Solvei, the workshop cuts…", show("morn", 40))
	require.Equal(t, "…noon. [With the feet] off the crate would be of…", show("“with the feet”", 50))
	_, n := Excerpt(text, TermsOf("crate anchor"), 50)
	require.Equal(t, 1, n)
	require.Equal(t, []Span{{0, 6}, {7, 13}}, Marks("crates CRATES lid", TermsOf("crate")))
}

func FuzzExcerpt(f *testing.F) {
	f.Add("The crate’s height\nis 118 東京都", "crate “is 118” 京", 30)
	f.Add("\xff\xfe ö́ ︎", "-a \"", 0)
	f.Fuzz(func(t *testing.T, text, asked string, width int) {
		pieces, _ := Excerpt(text, TermsOf(asked), width%400)
		whole := ""
		for _, p := range pieces {
			whole += p.Text
		}
		if utf8.ValidString(text) {
			require.True(t, utf8.ValidString(whole))
		}
		Read(asked, Known{Week: when.Ordinary("UTC"), Now: 1_764_000_000_000})
	})
}

func TestSlipsOfTheHand(t *testing.T) {
	for wrong, right := range map[string]string{"tidel": "tidal", "crtae": "crate", "crat": "crate", "cratte": "crate", "περιμητρος": "περιμετρος"} {
		require.Contains(t, Near(wrong), right)
	}
	require.Empty(t, Near("abc"))
	require.Empty(t, Near("京都駅前"))
	require.Empty(t, Near("ab12"))
	require.Less(t, len(Near(strings.Repeat("e", 24))), 2000)
	require.NotContains(t, Near("crate"), "crate")
}

func TestScores(t *testing.T) {
	now := when.Instant(1_764_000_000_000)
	day := when.Instant(24 * 3600_000)
	new, old := Hit{Text: 1, At: now - day}, Hit{Text: 1, At: now - 400*day}
	require.Greater(t, new.Score(now), old.Score(now))
	require.Greater(t, Hit{Text: 3, At: old.At}.Score(now), Hit{Text: 1, At: now, Importance: 1000}.Score(now), "what fits three times as well stands above")
	require.Greater(t, Hit{Text: 1, At: now, Importance: 900}.Score(now), Hit{Text: 1, At: now, Importance: 100}.Score(now))
	require.Equal(t, Hit{Text: 1, At: now}.Score(now), Hit{Text: 1, At: now + day}.Score(now), "what is dated ahead is no newer than now")
}

func known() Known {
	people := []mail.Address{{Name: "Mirela Dossett", Address: "mirela@coast.example"}, {Name: "Tomasz Ilk", Address: "tomasz@museum.example"}, {Name: "April Venn", Address: "april@school.example"}, {Name: "Tomasz Roth", Address: "roth@roof.example"}}
	w := when.Ordinary("Europe/Stockholm")
	return Known{
		Labels: map[string]int64{"loans": 1, "loans / leg two": 2, "permits": 3}, Own: []string{"solvei@museum.example"}, Projects: []string{"Opening", "Leg two"}, Streams: map[string]string{"newsletters and notices": "machines"},
		Find: func(name string) []mail.Address { return Called(people, name) }, Week: w, Now: when.Of(time.Date(2026, 11, 24, 10, 42, 0, 0, w.Location())),
	}
}

func TestSearchesAreRead(t *testing.T) {
	date := func(y int, m time.Month, d int) when.Instant {
		return when.Of(time.Date(y, m, d, 0, 0, 0, 0, known().Week.Location()))
	}
	for text, want := range map[string]struct {
		q     Query
		marks string
	}{
		"crate height from mirela or tomasz ilk since spring": {Query{Words: "crate height", Writer: "mirela@coast.example,tomasz@museum.example", Since: date(2026, 3, 1)}, "crate | height | from Mirela Dossett or Tomasz Ilk | since Sun 1 Mar"},
		"from tomasz":                     {Query{Writer: "tomasz@museum.example,roth@roof.example"}, "from Tomasz Ilk or Tomasz Roth"},
		"from nobody":                     {Query{Words: "from nobody"}, "from | nobody"},
		"from april":                      {Query{Writer: "april@school.example"}, "from April Venn"},
		"permit from october":             {Query{Words: "permit", Since: date(2026, 10, 1), Until: date(2026, 11, 1)}, "permit | Thu 1 Oct to Sat 31 Oct"},
		"“from mirela” lid":               {Query{Words: "“from mirela” lid"}, "“from mirela” | lid"},
		"-draft without “old one”":        {Query{Words: "-draft -“old one”"}, "without draft | without “old one”"},
		"label leg two with pdf":          {Query{Label: 2, FilesOf: PDFs}, "label loans / leg two | has a PDF"},
		"with mirela in the bin":          {Query{With: "mirela@coast.example", Place: "bin"}, "with Mirela Dossett | in bin"},
		"to me unread larger than 5mb":    {Query{To: "solvei@museum.example", Unread: true, Larger: 5 << 20}, "to you | unread | larger than 5 MB"},
		"from me to mirela before 3 nov":  {Query{Writer: "solvei@museum.example", To: "mirela@coast.example", Until: date(2026, 11, 3)}, "from you | to Mirela Dossett | before Tue 3 Nov"},
		"is waiting project opening":      {Query{Waiting: true, Project: "Opening"}, "waits for somebody | project Opening"},
		"stream newsletters not answered": {Query{Stream: "machines", Unanswered: true}, "stream newsletters and notices | not answered"},
		"in german in 2025":               {Query{Language: when.German, Since: date(2025, 1, 1), Until: date(2026, 1, 1)}, "in German | Wed 1 Jan 2025 to Wed 31 Dec 2025"},
		"crate in files":                  {Query{Words: "crate", Within: FileDocument}, "crate | in files"},
		"in the crate":                    {Query{Words: "in the crate"}, "in | the | crate"},
		"at solvei yesterday":             {Query{Account: "solvei@museum.example", Words: "yesterday"}, "at solvei@museum.example | yesterday"},
		"on 3 nov":                        {Query{Since: date(2026, 11, 3), Until: date(2026, 11, 4)}, "on Tue 3 Nov"},
		"waiting list -":                  {Query{Words: "waiting list"}, "waiting | list"},
		"":                                {Query{}, ""},
	} {
		r := Read(text, known())
		var marks []string
		units := utf16.Encode([]rune(text))
		for _, m := range r.Marks {
			marks = append(marks, m.Means)
			require.Less(t, m.From, m.To)
			require.LessOrEqual(t, m.To, len(units))
		}
		require.Equal(t, want.q, r.Query, text)
		require.Equal(t, want.marks, strings.Join(marks, " | "), text)
		require.Empty(t, r.Doubt, text)
	}
	require.Contains(t, Read(strings.Repeat("x", 10_000), known()).Doubt, "too much to look for")
	require.Contains(t, Read(strings.Repeat("word ", 30), known()).Doubt, "first 20")
	require.Contains(t, Read("since today before 2024", known()).Doubt, "turn them round")
	many := Read(strings.Repeat("unread in bin ", 60), known())
	require.True(t, many.Query.Unread)
	r := Read("𝔸 from mirela", known())
	require.Equal(t, 3, r.Marks[1].From, "counted as browsers do")
}
