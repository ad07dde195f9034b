package followup

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/when"
)

// said is what a line says, in words: the title, and what each part means.
func said(w Written) string {
	out := []string{w.FollowUp.Title}
	for _, p := range w.Parts {
		switch {
		case p.Wrong != "":
			out = append(out, "wrong: "+p.Wrong)
		case p.Kind != PartTitle:
			out = append(out, p.Means)
		}
	}
	return strings.Join(out, "; ")
}

func TestALineWithoutSlashes(t *testing.T) {
	for line, want := range map[string]string{ // on Tue 24 Nov 2026
		"call the plumber tomorrow at 9":             "call the plumber; due Wed 25 Nov, 9:00",
		"read chapter 12 by monday !":                "read chapter 12; due Mon 30 Nov; high",
		"water the moss wall every 2 weeks @gallery": "water the moss wall; every 2 weeks; gallery",
		"order labels fri 10":                        "order labels; due Fri 27 Nov, 10:00",
		"order labels, friday":                       "order labels; due Fri 27 Nov",
		"hang the banner on 24 dec":                  "hang the banner; due Thu 24 Dec",
		"hang the banner dec 24 urgent":              "hang the banner; due Thu 24 Dec; urgent",
		"hang the banner 2026-12-24 !!":              "hang the banner; due Thu 24 Dec; urgent",
		"write the texts start mon due fri 4 dec":    "write the texts; starts Mon 30 Nov; due Fri 4 Dec",
		"ring Jonas in 3 days":                       "ring Jonas; due Fri 27 Nov",
		"fetch the keys at 15:00":                    "fetch the keys; due Tue 24 Nov, 15:00",
		"sweep the hall this evening @work":          "sweep the hall; due Tue 24 Nov, 18:00; workshop",
		"pay the invoice before friday":              "pay the invoice; due Thu 26 Nov",
		"call the plumber tomorrow / urgent":         "call the plumber; due Wed 25 Nov; urgent",

		// What is said twice is said once, and exactly between slashes.
		"call tomorrow friday":              "call tomorrow; due Fri 27 Nov",
		"call the plumber tomorrow / fri":   "call the plumber tomorrow; due Fri 27 Nov",
		"call the plumber tomorrow ! / low": "call the plumber !; due Wed 25 Nov; low",

		// Nothing is guessed: a number, a span, a name, a word that is a day by chance.
		"read chapter 12":           "read chapter 12",
		"read 3/4":                  "read 3/4",
		"walk for 30 min":           "walk for 30 min",
		"wait 2 days":               "wait 2 days",
		"plan the march":            "plan the march",
		"ask if I may":              "ask if I may",
		"look where it sat":         "look where it sat",
		"sit in the sun":            "sit in the sun",
		"meet at the gallery":       "meet at the gallery",
		"walk by the river":         "walk by the river",
		"thank every guest":         "thank every guest",
		"see who is next":           "see who is next",
		"find the letter of friday": "find the letter of; due Fri 27 Nov",
		"friday":                    "friday",
		"tomorrow at 9":             "tomorrow at 9",
		"urgent":                    "urgent",
		"write to a@b.example":      "write to a@b.example",
		"":                          "",

		// Between slashes several things can stand together.
		"ring / urgent friday 10":             "ring; urgent; due Fri 27 Nov, 10:00",
		"ring / start mon due fri":            "ring; starts Mon 30 Nov; due Fri 4 Dec", // the Friday after that Monday
		"ring / 1.5h":                         "ring; takes 1 h 30 min",
		"ring / @gallery":                     "ring; gallery",
		"ring / waiting halvard":              "ring; waits for Halvard Lindqvist",
		"ring / waiting list":                 "ring / waiting list",
		"ring / urgent banana":                "ring / urgent banana",
		"ring / start fri / due wed":          "ring; starts Fri 27 Nov; due Wed 2 Dec",
		"ring / start 4 dec / due 2026-12-01": "ring; starts Fri 4 Dec; wrong: It would start Fri 4 Dec, after it is due Tue 1 Dec. Change one of them.",
		"ring / urgent friday 10 / by":        "ring / by; urgent; due Fri 27 Nov, 10:00",
	} {
		require.Equal(t, want, said(ReadLine(line, FollowUp{}, known, week, tuesday)), line)
	}
	due := ReadLine("ring / due 31 feb", FollowUp{}, known, week, tuesday)
	require.Equal(t, "ring", due.FollowUp.Title)
	require.NotEmpty(t, due.Parts[1].Wrong)
	require.Equal(t, PartDue, due.Parts[1].Kind)
}

func TestAMarkThatIsTakenOffIsTitleAgain(t *testing.T) {
	read := func(off ...string) string {
		return said(ReadLine("Call the plumber tomorrow at 9 !", FollowUp{}, known, week, tuesday, off...))
	}
	require.Equal(t, "Call the plumber; due Wed 25 Nov, 9:00; high", read())
	require.Equal(t, "Call the plumber tomorrow at 9; high", read("Tomorrow at 9"))
	require.Equal(t, "Call the plumber !; due Wed 25 Nov, 9:00", read("!"), "the others stay")
	require.Equal(t, "Call the plumber tomorrow at 9 !", read("!", "tomorrow at 9"))
}

// Whatever is taken off a line, its words are all there, in their order.
func TestNoWordOfALineIsLost(t *testing.T) {
	pieces := []string{"ring", "Jonas", "fri", "10", "tomorrow", "at", "9", "every", "2", "weeks", "!", "!!", "@gallery", "urgent", "by", "due", "start", "mon", "24", "dec", "the", "sun", "ü", "in", "3", "days", ",", "next"}
	rapid.Check(t, func(t *rapid.T) {
		line := strings.Join(rapid.SliceOfN(rapid.SampledFrom(pieces), 0, 12).Draw(t, "line"), rapid.SampledFrom([]string{" ", "  "}).Draw(t, "between"))
		w := ReadLine(line, FollowUp{}, known, week, tuesday)
		var words []string
		for _, p := range w.Parts {
			require.Contains(t, line, p.Text)
			words = append(words, strings.Fields(p.Text)...)
		}
		bare := func(words []string) string { return strings.ReplaceAll(strings.Join(words, " "), ",", "") }
		require.Equal(t, strings.Fields(bare(strings.Fields(line))), strings.Fields(bare(words)))
		var off []string
		for _, p := range w.Parts {
			if p.Loose {
				off = append(off, p.Text)
			}
		}
		again := ReadLine(line, FollowUp{}, known, week, tuesday, off...)
		for _, piece := range off {
			require.Subset(t, strings.Fields(again.FollowUp.Title), strings.Fields(piece), "what is taken off is title again")
		}
	})
}

// Lines in the person's languages; a word that is none of time in theirs stays title.
func TestLinesInOtherLanguages(t *testing.T) {
	for _, c := range []struct {
		language   when.Language
		line, want string
	}{
		{when.German, "Klempner anrufen morgen um 9", "Klempner anrufen; due Wed 25 Nov, 9:00"},
		{when.German, "Kapitel 12 lesen bis Montag !", "Kapitel 12 lesen; due Mon 30 Nov; high"},
		{when.German, "Moos gießen alle 2 Wochen", "Moos gießen; every 2 weeks"},
		{when.German, "Rechnung / fällig / Do 26.11.", "Rechnung / fällig; due Thu 26 Nov"},
		{when.German, "Vortrag über die Mitte", "Vortrag über die Mitte"},
		{when.German, "mach es so", "mach es so"},
		{when.French, "appeler le plombier demain à 9h", "appeler le plombier; due Wed 25 Nov, 9:00"},
		{when.French, "lire le chapitre 12 vendredi prochain", "lire le chapitre 12; due Fri 4 Dec"},
		{when.French, "relire mon texte", "relire mon texte"},
		{when.Dutch, "loodgieter bellen vrijdag om half drie", "loodgieter bellen; due Fri 27 Nov, 14:30"},
		{when.Polish, "zadzwonić w piątek o 9", "zadzwonić; due Fri 27 Nov, 9:00"},
		{when.Polish, "zadzwonić do Jana", "zadzwonić do Jana"},
	} {
		w := week
		w.Languages = []when.Language{c.language}
		require.Equal(t, c.want, said(ReadLine(c.line, FollowUp{}, known, w, tuesday)), c.line)
	}
}

// Waiting can begin on an earlier day, and on none that lies ahead.
func TestWaitingSinceAnEarlierDay(t *testing.T) {
	r := ReadLine("form / waiting for jonas since mon", FollowUp{}, known, week, tuesday)
	require.Equal(t, at(23, 0, 0), r.FollowUp.Waits.Since)
	require.Contains(t, said(r), "since Mon 23 Nov, 0:00")
	r = ReadLine("form / waiting for jonas since next fri", FollowUp{}, known, week, tuesday)
	require.Contains(t, r.Parts[1].Wrong, "lies ahead")
	require.Zero(t, r.FollowUp.Waits.Since)
}
