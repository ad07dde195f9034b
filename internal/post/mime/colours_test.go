package mime

import (
	"fmt"
	"image/color"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
	"pgregory.net/rapid"
)

// poorest is the least contrast that any text of safe HTML has, looked up in what
// is said there and on the paper around it, by nothing of how that was chosen.
func poorest(t require.TestingT, safe string, p paper) float64 {
	least := 21.0
	var walk func(n *html.Node, ground, ink color.NRGBA)
	walk = func(n *html.Node, ground, ink color.NRGBA) {
		if n.DataAtom == atom.A && attr(n, "href") != "" {
			ink = p.link
		}
		for part := range strings.SplitSeq(attr(n, "style"), ";") {
			name, value, _ := strings.Cut(part, ":")
			var c color.NRGBA
			c.A = 255
			if _, err := fmt.Sscanf(strings.TrimSpace(value), "#%02x%02x%02x", &c.R, &c.G, &c.B); err != nil {
				continue
			}
			switch strings.TrimSpace(name) {
			case "color":
				ink = c
			case "background-color":
				ground = c
			}
		}
		require.Empty(t, attr(n, "bgcolor"))
		if n.Type == html.TextNode && strings.TrimSpace(n.Data) != "" {
			least = min(least, contrast(ink, ground))
		}
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			walk(c, ground, ink)
		}
	}
	walk(tree(safe), p.ground, p.ink)
	return least
}

// Whatever colours a sender gives to whatever stands in one another, each text can
// be read, on light paper and in the dark.
func TestEachTextCanBeRead(t *testing.T) {
	colours := rapid.OneOf(
		rapid.Custom(func(t *rapid.T) string {
			return fmt.Sprintf("#%06x", rapid.IntRange(0, 0xFFFFFF).Draw(t, "hex"))
		}),
		rapid.Custom(func(t *rapid.T) string {
			part := rapid.IntRange(0, 255)
			return fmt.Sprintf("rgba(%d, %d, %d, %.2f)", part.Draw(t, "r"), part.Draw(t, "g"), part.Draw(t, "b"), rapid.Float64Range(0, 1).Draw(t, "a"))
		}),
		rapid.SampledFrom([]string{"white", "black", "yellow", "navy", "gray", "silver", "inherit", "transparent", "nosuch", "#fff", "#1118", "rgb(50%, 50%, 50%)"}),
	)
	rapid.Check(t, func(t *rapid.T) {
		source := "text"
		for i := range rapid.IntRange(0, 6).Draw(t, "depth") {
			style := ""
			if rapid.Bool().Draw(t, "ground") {
				style += rapid.SampledFrom([]string{"background", "background-color"}).Draw(t, "name") + ":" + colours.Draw(t, "ground colour") + ";"
			}
			if rapid.Bool().Draw(t, "ink") {
				style += "color:" + colours.Draw(t, "ink colour")
			}
			switch rapid.IntRange(0, 3).Draw(t, "element") {
			case 0:
				source = fmt.Sprintf(`<a href="https://x.example" style="%s">%s</a> more`, style, source)
			case 1:
				source = fmt.Sprintf(`<table bgcolor="%s"><tr><td style="%s">%s</td></tr></table>more`, colours.Draw(t, "bgcolor"), style, source)
			case 2:
				source = fmt.Sprintf(`<font color="%s">%s</font>`, colours.Draw(t, "font"), source)
			default:
				source = fmt.Sprintf(`<div style="%s">%d %s</div>`, style, i, source)
			}
		}
		if rapid.Bool().Draw(t, "body") {
			source = fmt.Sprintf(`<html><head><style>p{color:red}</style></head><body bgcolor="%s" text="%s">%s</body></html>`, colours.Draw(t, "page"), colours.Draw(t, "text"), source)
		}
		for _, p := range []paper{lightPaper, darkPaper} {
			safe := Sanitise(source, p == darkPaper, false, nil).HTML
			if got := poorest(t, safe, p); got < readable {
				t.Fatalf("%.2f in %s\nof %s", got, safe, source)
			}
		}
	})
}

// What can be read as it is stays as its sender chose it.
func TestColoursThatStay(t *testing.T) {
	for _, c := range []struct{ source, light, dark string }{
		{`<p style="color: #c00">Late</p>`, `color: #cc0000`, `color: #ff7070`},
		{`<p style="color: #333">Plain</p>`, `color: #333333`, `color: #`},
		{`<td bgcolor="#ffffff">x</td>`, ``, ``}, // no table: nothing is left of it
		{`<div style="background: #fff; color: #222">x</div>`, `background-color: #ffffff; color: #222222`, `background-color: #1a1a1a`},
		{`<div style="background-color: #0a3d62; color: #ffffff">x</div>`, `background-color: #0a3d62; color: #ffffff`, `background-color: #0a3d62; color: #ffffff`},
		{`<div style="color: #eeeeee">was on dark</div>`, `color: #`, `color: #eeeeee`},
		{`<body style="background: #111; color: #ddd">night</body>`, `background-color: #111111; color: #dddddd`, `background-color: #111111; color: #dddddd`},
		{`<body style="background: #fafafa">day</body>`, `day`, `day`},
	} {
		light, dark := Sanitise(c.source, false, false, nil).HTML, Sanitise(c.source, true, false, nil).HTML
		require.Contains(t, light, c.light, c.source)
		require.Contains(t, dark, c.dark, c.source)
	}
	require.NotContains(t, Sanitise(`<body style="background: #fafafa">day</body>`, false, false, nil).HTML, "background", "the page is that of the paper")
	require.Contains(t, Sanitise(`<table><tr><td><table><tr><td>x</td></tr></table></td></tr></table>`, false, false, nil).HTML, `<div class="wide"><table>`)
	require.Equal(t, 1, strings.Count(Sanitise(`<table><tr><td><table><tr><td>x</td></tr></table></td></tr></table>`, false, false, nil).HTML, "wide"), "the outermost alone")
}
