package fileshow

import (
	"bytes"
	"errors"
	"fmt"
	"hash/crc32"
	"image"
	"image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"
	"pgregory.net/rapid"

	"ebbe/internal/core/search"
)

func picture(t testing.TB, as string) []byte {
	t.Helper()
	p := image.NewPaletted(image.Rect(0, 0, 3, 2), color.Palette{color.Black, color.White})
	var b bytes.Buffer
	switch as {
	case "png":
		require.NoError(t, png.Encode(&b, p))
	case "jpeg":
		require.NoError(t, jpeg.Encode(&b, p, nil))
	case "gif":
		require.NoError(t, gif.Encode(&b, p, nil))
	}
	return b.Bytes()
}

// huge is a PNG that says of itself that it has so many points each way.
func huge(t testing.TB, side uint32) []byte {
	t.Helper()
	raw := picture(t, "png")
	for i := range 4 {
		raw[16+i], raw[20+i] = byte(side>>(24-8*i)), byte(side>>(24-8*i))
	}
	sum := crc32.ChecksumIEEE(raw[12:29])
	for i := range 4 {
		raw[29+i] = byte(sum >> (24 - 8*i))
	}
	return raw
}

func TestHowFilesAreShown(t *testing.T) {
	for name, c := range map[string]struct {
		content string
		text    string
		unread  error
		kind    Kind
		says    string
	}{
		"drawing.pdf":    {content: "%PDF-1.7\n…", kind: PDF},
		"no-ending":      {content: "%PDF-1.7\n…", kind: PDF},
		"quay.png":       {content: string(picture(t, "png")), kind: Picture},
		"quay.JPG":       {content: string(picture(t, "jpeg")), kind: Picture},
		"sketch.gif":     {content: string(picture(t, "gif")), kind: Picture},
		"bill.pdf":       {content: string(picture(t, "png")), kind: Picture, says: "It is called .pdf and is a picture (PNG)."},
		"photograph.jpg": {content: "%PDF-1.7\n…", kind: PDF, says: "It is called .jpg and is a PDF."},
		"page.png":       {content: "<html><script>alert(1)</script>", text: "alert(1)", kind: Text, says: "It is called .png and is not a picture (PNG)."},
		"plain.txt":      {content: "Berth 9", text: "Berth 9", kind: Text},
		"crates.csv":     {content: "a,b\n1,2", text: "a,b\n1,2", kind: Table},
		"crates.tsv":     {content: "a\tb\n1\t2", text: "a\tb\n1\t2", kind: Table},
		"words.csv":      {content: "no table at all", text: "no table at all", kind: Text},
		"empty.txt":      {content: " ", text: "\n ", kind: None, says: "There is no text in this file."},
		"broken.png":     {content: string(picture(t, "png")[:20]), kind: None, says: "This picture is damaged, or not what it says it is."},
		"large.png":      {content: string(huge(t, 60_000)), kind: None, says: "This picture is too large to be shown here (60000 by 60000 points). It can be saved."},
		"locked.docx":    {content: "\xD0\xCF\x11\xE0", unread: errors.New("is locked with a password"), kind: None, says: "This file is locked with a password. It can be saved and opened elsewhere."},
		"thing.bin":      {content: "\x00\x01", unread: errors.New("is of a kind that has no text"), kind: None, says: "This file is of a kind that has no text. It can be saved and opened elsewhere."},
	} {
		s := Show(name, []byte(c.content), c.text, c.unread)
		require.Equal(t, c.kind, s.Kind, name)
		require.Equal(t, c.says, s.Says, name)
	}
}

func TestTablesAreReadWhateverStandsBetween(t *testing.T) {
	for _, text := range []string{"crate;height\n1;104\n2;118\n", "crate,height\n1,104\n2,118", "crate\theight\r\n1\t104\r\n2\t118\r\n", "\ufeffcrate;\"height\"\n1;104\n2;118", "crate|height\n1|104\n2|118"} {
		require.Equal(t, [][]string{{"crate", "height"}, {"1", "104"}, {"2", "118"}}, rowsOf(strings.ReplaceAll(text, "\r\n", "\n")), "%q", text)
	}
	require.Equal(t, [][]string{{"a", "b"}, {"x, y", "2"}, {"3"}}, rowsOf("a,b\n\"x, y\",2\n3\n"), "rows may differ")
	require.Nil(t, rowsOf("one\ntwo"))

	long := "a,b\n" + strings.Repeat("1,2\n", maxRows+40)
	s := Show("long.csv", []byte(long), long, nil)
	require.Equal(t, "The first 2000 of 2041 rows or more.", s.Says)
	require.Equal(t, maxRows, strings.Count(s.Page(nil).HTML, "<tr"))
	wide := strings.Repeat("x,", 300) + "x\n"
	require.Equal(t, maxColumns, strings.Count(Show("wide.csv", []byte(wide), wide, nil).Page(nil).HTML, "<th"))
}

func TestPlacesAndTurns(t *testing.T) {
	var lines []string
	for i := range 60 {
		lines = append(lines, fmt.Sprintf("line %d", i))
	}
	lines[30] = "the height of the Crate"
	lines[59] = "crates & <b>height</b>"
	text := strings.Join(lines, "\n")
	p := Show("notes.txt", []byte(text), text, nil).Page(search.TermsOf("crate height"))
	require.Equal(t, 3, p.Turns)
	require.Equal(t, 4, p.Places)
	require.Contains(t, p.HTML, "<p dir=auto id=t2>line 24</p>")
	require.Contains(t, p.HTML, "the <mark id=p1>height</mark> of the <mark id=p2>Crate</mark>")
	require.Contains(t, p.HTML, "<mark id=p3>crates</mark> &amp; &lt;b&gt;<mark id=p4>height</mark>&lt;/b&gt;")

	table := Show("crates.csv", nil, "crate;height\n1;104", nil).Page(search.TermsOf("104"))
	require.Equal(t, `<table><tr id=t1><th dir=auto>crate</th><th dir=auto>height</th></tr><tr><td dir=auto>1</td><td dir=auto><mark id=p1>104</mark></td></tr></table>`, table.HTML)

	pages := Show("slides.txt", nil, "first\n\fsecond", nil).Page(nil)
	require.Contains(t, pages.HTML, "<hr><p dir=auto>second</p>")

	many := strings.Repeat("crate ", 3*maxPlaces)
	require.Equal(t, 3*maxPlaces, Show("a.txt", nil, many, nil).Page(search.TermsOf("crate")).Places, "one line is marked as a whole,")
	many = strings.Repeat("crate\n", 3*maxPlaces)
	require.Equal(t, maxPlaces, Show("a.txt", nil, many, nil).Page(search.TermsOf("crate")).Places, "and no more lines than one would go through")
}

// onlyOurs reads a page, fails on anything in it that a file could have brought in, and
// gives its text.
func onlyOurs(t rapid.TB, page string) (text string) {
	z := html.NewTokenizer(strings.NewReader(page))
	for {
		switch z.Next() {
		case html.ErrorToken:
			return text
		case html.TextToken:
			text += html.UnescapeString(string(z.Raw()))
		case html.StartTagToken, html.SelfClosingTagToken:
			token := z.Token()
			switch token.Data {
			case "p", "hr", "mark", "table", "tr", "td", "th", "div":
			case "img":
				for _, a := range token.Attr {
					if a.Key == "src" && !strings.HasPrefix(a.Val, "data:image/") {
						t.Fatalf("a picture from elsewhere: %q", a.Val)
					}
				}
			default:
				t.Fatalf("%q stands in the page", token)
			}
			for _, a := range token.Attr {
				if a.Key != "id" && a.Key != "dir" && a.Key != "src" && a.Key != "alt" {
					t.Fatalf("%q stands in the page", token)
				}
			}
			if token.Data == "p" || token.Data == "tr" {
				text += "\n"
			}
		case html.CommentToken, html.DoctypeToken:
			t.Fatalf("%q stands in the page", z.Raw())
		}
	}
}

// Whatever a file says, its page says the same and has nothing in it but what belongs to
// such pages.
func TestNothingOfAFileRuns(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		word := rapid.SampledFrom([]string{"crate", "height", "<script>alert(1)</script>", "<img src=x onerror=a>", "&amp;", "</p>", "\"", "'", "\f", "\n", "\r\n", " ", "…", "東京", "<!--", "a,b;c", "ß", "\u202e"})
		text := strings.Join(rapid.SliceOfN(word, 1, 60).Draw(t, "words"), "")
		name := rapid.SampledFrom([]string{"a.txt", "a.csv", "a.html", "a.svg", "a"}).Draw(t, "name")
		s := Show(name, []byte("words"), text, nil)
		if s.Kind == None {
			return
		}
		said := onlyOurs(t, s.Page(search.TermsOf("crate 東京")).HTML)
		if s.Kind == Text {
			plain := func(s string) string {
				return strings.Trim(strings.NewReplacer("\f", "", "\r\n", "\n").Replace(s), "\n")
			}
			require.Equal(t, plain(text), plain(said))
		}
	})
}

func FuzzShow(f *testing.F) {
	f.Add("a.csv", []byte("a,b\n\"1"), "a,b\n\"1")
	f.Add("a.png", picture(f, "png"), "")
	f.Add("a.png", huge(f, 1<<31), "")
	f.Add("a.txt", []byte("<script>"), "<script>")
	f.Fuzz(func(t *testing.T, name string, content []byte, text string) {
		s := Show(name, content, text, nil)
		require.True(t, utf8.ValidString(s.Says) || !utf8.ValidString(name))
		onlyOurs(t, s.Page(search.TermsOf("crate height")).HTML)
	})
}
