package mime

import (
	"testing"

	"github.com/stretchr/testify/require"
)

func TestTheTextOfHTML(t *testing.T) {
	for source, want := range map[string][2]string{
		"<p>It is <i>118</i>.</p>": {"It is 118.", "It is 118."},
		"<p>one\n  two</p>three":   {"one two\nthree", "one two\nthree"},
		"a<br>b<br><br>c":          {"a\nb\n\nc", "a\nb\n\nc"},
		"<table><tr><td>a</td><td>b</td></tr><tr><td>c</td></tr></table>":                       {"a b\nc", "a b\nc"},
		"<title>no</title><style>p{}</style>pre<b>dictor</b>":                                   {"predictor", "predictor"},
		"Yes.<blockquote><p>Which?</p><blockquote>On Monday</blockquote>and</blockquote>Solvei": {"Yes.\nWhich?\nOn Monday\nand\nSolvei", "Yes.\n> Which?\n>> On Monday\n> and\nSolvei"},
		"<ul><li>a<li>b</ul>":  {"a\nb", "a\nb"},
		"</blockquote>a":       {"a", "a"},
		"a <script>b":          {"a", "a"},
		"&amp;&nbsp;&lt;b&gt;": {"&\u00a0<b>", "&\u00a0<b>"},
	} {
		require.Equal(t, want, [2]string{TextOf(source), QuotedTextOf(source)}, source)
	}
}
