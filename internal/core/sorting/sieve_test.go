package sorting

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var boxes = Boxes{Archive: "Archive", Bin: "Trash"}

// A rule that goes out as Sieve and comes in again asks and does the same, where Sieve can
// say it; what it cannot is said.
func TestRulesAsSieve(t *testing.T) {
	for words, left := range map[string]string{
		"from quay@skagvik-harbour.example with “permit”: star, mark read":                   "",
		"newsletters or from @shop.example, but not with “invoice”: archive":                 "",
		"list letter.smallmuseums.example: bin":                                              "",
		"subject “relative humidity” on sat, sun between 18 and 8: label “permits”, archive": "",
		"larger than 500 kB: forward to books@accounts.example":                              "",
		"to solvei@choir.example: star":                                                      "",
		"from strangers: star":                                                               "cannot ask whether somebody is a stranger",
		"important: star":                                                                    "cannot ask how important something is",
		"with files: star":                                                                   "cannot ask for files",
		"between 18:30 and 8: star":                                                          "whole hours",
		"newsletters: snooze until mon 9":                                                    "snoozing cannot be said",
		"newsletters: star, snooze until mon 9, notify":                                      "without snoozing and notifying",
		"from quay@skagvik-harbour.example: reply with “thank you”, run combo “read later”, star": "without running a combo",
	} {
		r := ReadRule(words, known)
		require.Empty(t, r.Doubt, words)
		out := WriteSieve([]Rule{r.Rule}, boxes, map[int64]string{3: "permits"}, map[int64]string{4: "Thank \"you\"\nso much."})
		if left != "" {
			require.Len(t, out.Left, 1, words)
			require.Contains(t, out.Left[0], left)
			_, err := ReadSieve(out.Text)
			require.NoError(t, err)
			continue
		}
		require.Empty(t, out.Left, words)
		back, err := ReadSieve(out.Text)
		require.NoError(t, err, out.Text)
		require.Empty(t, back.Left, out.Text)
		require.Len(t, back.Rules, 1, out.Text)
		again := ReadRule(back.Rules[0], known)
		require.Empty(t, again.Doubt, back.Rules[0])
		assert.ElementsMatch(t, r.Rule.Then, again.Rule.Then, back.Rules[0])
		assert.True(t, r.Rule.SameAbout(again.Rule), "%s\n%s\n%s", words, out.Text, back.Rules[0])
	}
	off := ReadRule("newsletters: bin", known).Rule
	off.Mode = Off
	require.Empty(t, WriteSieve([]Rule{off}, boxes, nil, nil).Text)
}

func TestASieveScriptIsRead(t *testing.T) {
	out, err := ReadSieve(`require ["fileinto", "imap4flags", "vacation"];
# first
if allof (header :contains ["Subject"] ["invoice", "receipt"], not address :domain "from" "shop.example") {
    fileinto "Work/Money"; stop;
} elsif header :is "X-Priority" "1" { addflag "\\Flagged"; }
else { keep; }
/* a comment
over two lines */
if size :over 2M { addflag ["\\Seen", "$large"]; }
if anyof (header :contains "list-id" "<choir.example>", address :is "to" "all@choir.example") {
    if currentdate :is "weekday" ["0", "6"] { discard; }
}
if true { redirect "a@b.example"; }
vacation :days 7 text:
I am away.
..and this
.
;
reject "no";
`)
	require.NoError(t, err)
	require.Equal(t, []string{
		"subject “invoice” or subject “receipt”, but not from @shop.example: label “Work / Money”, archive",
		"larger than 2048 kB: mark read, label “large”",
		"list choir.example on sun, sat or to all@choir.example on sun, sat: bin",
	}, out.Rules)
	for _, says := range []string{"Line 5: the field “x-priority” cannot be asked", "Line 6: “else”", "“true” cannot be asked", "an answer is given with a template", "“reject” cannot be done"} {
		require.Contains(t, strings.Join(out.Left, "\n"), says)
	}
	for script, says := range map[string]string{
		"if header \"a":                         "never ends",
		"/* and on":                             "never ends",
		"keep":                                  "ends where a “;” has to stand",
		"if true { keep;":                       "ends where a “}” has to stand",
		"keep; }":                               "begins nothing",
		"keep £;":                               "no Sieve",
		"if size :over 99999999999999G {keep;}": "no number",
		strings.Repeat("if true {", 40):         "too deep",
		"if " + strings.Repeat("not ", 40):      "too deep",
		strings.Repeat("keep;", 60_000):         "larger than 256 kB",
	} {
		_, err := ReadSieve(script)
		require.ErrorContains(t, err, says)
	}
}

func FuzzReadSieve(f *testing.F) {
	f.Add(`if allof (header :contains ["a","b"] "c", not size :over 5K) { fileinto "x"; }`)
	f.Add("vacation text:\nx\n.\n;")
	f.Fuzz(func(t *testing.T, script string) {
		out, err := ReadSieve(script)
		if err != nil {
			require.NotEmpty(t, err.Error())
			return
		}
		for _, words := range out.Rules {
			r := ReadRule(words, known)
			_ = WriteSieve([]Rule{r.Rule}, boxes, nil, nil)
		}
	})
}
