package writing

import (
	"fmt"
	"os"
	"path/filepath"
	"regexp"
	"sort"
	"strings"
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// judged is how a table of messages was read.
type judged struct{ all, named, dueRight, dueWrong, titled, asked, fitting, unfitting int }

// onlyThanks is what may be answered to a message that asks for nothing.
var onlyThanks = regexp.MustCompile(`(?i)^(?:thank|noted|you are welcome|gladly|danke|gern|sehr gern|merci|c'est noté|avec plaisir|de rien|gracias|tomo nota|de nada|con mucho gusto|takk|notert|bare hyggelig|ingen årsak)`)

// What messages ask for, on tables of made-up ones in five languages. The figures stand
// in docs/asks.md.
func TestWhatMadeUpMessagesAskFor(t *testing.T) {
	week := when.Ordinary("Europe/Oslo")
	week.Languages = []when.Language{when.German, when.French, when.Spanish, when.Norwegian}
	written := when.AtWall(time.Date(2026, 11, 24, 10, 42, 0, 0, time.UTC), week.Location()).At
	free := func(followup.Ask) []when.Moment {
		return []when.Moment{{At: written + 86_400_000}, {At: written + 2*86_400_000}}
	}
	files, err := filepath.Glob("../followup/testdata/messages.*.txt")
	require.NoError(t, err)
	require.Len(t, files, 5)
	var sum judged
	var report []string
	for _, file := range files {
		raw, err := os.ReadFile(file)
		require.NoError(t, err)
		var j judged
		for _, line := range strings.Split(string(raw), "\n") {
			if line == "" || strings.HasPrefix(line, "#") {
				continue
			}
			parts := strings.Split(line, " | ")
			if len(parts) == 5 { // the answer is not asked about
				parts = append(parts, "")
			}
			require.Len(t, parts, 6, line)
			kind, subject, text, title, due, answer := parts[0], parts[1], strings.ReplaceAll(parts[2], `\n`, "\n"), parts[3], strings.TrimSuffix(parts[4], " |"), strings.TrimSpace(parts[5])
			l := followup.Source{From: mail.Address{Name: "Mirela Dossett", Address: "mirela@dossett.example"}, Subject: subject, Text: text, Kind: mail.Person, Written: written, Language: mail.LanguageOf(text)}
			j.all++
			p := followup.Propose(l, week)
			got := cmpLocal(p.Due)
			loose := strings.HasPrefix(due, "~")
			want := strings.TrimPrefix(due, "~")
			say := func(what string) {
				t.Logf("%s %s [%s]: %s\n  title %q due %q", what, filepath.Base(file), kind, text, p.Title, got)
			}
			if want != "-" && !loose {
				j.named++
			}
			switch {
			case got == "" && (want == "-" || loose):
			case got == want && !loose:
				j.dueRight++
			case got == want:
			case got == "":
				say("no due, wanted " + want)
			default:
				j.dueWrong++
				say("wrong due, wanted " + want)
			}
			if usable(title, subject, p.Title) {
				j.titled++
			} else {
				say("title, wanted " + title)
			}
			var offers []string
			for _, line := range ShortAnswers(l, followup.Asks(l, week), free, week, written) {
				offers = append(offers, line.Answers...)
			}
			all := strings.Join(offers, "\n")
			switch answer {
			case "":
			case "-":
				for _, o := range offers {
					if !onlyThanks.MatchString(o) {
						j.unfitting++
						say("unfitting " + o)
						break
					}
				}
			default:
				j.asked++
				if regexp.MustCompile("(?i)" + answer).MatchString(all) {
					j.fitting++
				} else {
					say(fmt.Sprintf("no fitting answer, wanted %s among %q (%s)", answer, offers, l.Language))
				}
			}
		}
		report = append(report, fmt.Sprintf("%s: %s", strings.Split(filepath.Base(file), ".")[1], j))
		sum.all, sum.named, sum.dueRight, sum.dueWrong = sum.all+j.all, sum.named+j.named, sum.dueRight+j.dueRight, sum.dueWrong+j.dueWrong
		sum.titled, sum.asked, sum.fitting, sum.unfitting = sum.titled+j.titled, sum.asked+j.asked, sum.fitting+j.fitting, sum.unfitting+j.unfitting
	}
	sort.Strings(report)
	t.Logf("%s\nall: %s", strings.Join(report, "\n"), sum)
	require.GreaterOrEqual(t, sum.all, 300)
	require.GreaterOrEqual(t, 100*sum.titled, 90*sum.all, "usable titles")
	require.GreaterOrEqual(t, 100*sum.dueRight, 95*sum.named, "days that are named")
	require.LessOrEqual(t, 100*sum.dueWrong, sum.all, "wrong days")
	require.GreaterOrEqual(t, 100*sum.fitting, 80*sum.asked, "fitting answers")
	require.Zero(t, sum.unfitting, "answers to what asks for nothing")
}

func cmpLocal(m when.Moment) string { return m.Local }

// usable says that a title has what it has to have: one of the words, or is the subject
// as it stands for "=".
func usable(want, subject, got string) bool {
	for _, w := range strings.Split(want, "|") {
		if w = strings.TrimSpace(w); w == "=" && got == mail.Title(subject) || w != "=" && strings.Contains(strings.ToLower(got), w) {
			return true
		}
	}
	return false
}

func (j judged) String() string {
	return fmt.Sprintf("%d messages, title usable %d (%d %%), due right %d of %d (%d %%), wrong %d, fitting answers %d of %d (%d %%), unfitting %d",
		j.all, j.titled, 100*j.titled/max(j.all, 1), j.dueRight, j.named, 100*j.dueRight/max(j.named, 1), j.dueWrong, j.fitting, j.asked, 100*j.fitting/max(j.asked, 1), j.unfitting)
}
