package followup

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

var known = Known{
	Projects: []string{"opening", "loans", "catalogue", "leg two"},
	Contexts: []string{"workshop", "telephone"},
	People:   []mail.Address{{Name: "Halvard Lindqvist", Address: "halvard@lindqvist.example"}, {Name: "Jonas Reyland", Address: "jonas@museum.example"}, {Name: "Jonas Bakke", Address: "bakke@museum.example"}},
	Stages:   Usual().Stages,
	Labels:   []Labelled{{7, "to read"}, {9, "education"}},
}

func TestALineFillsEverything(t *testing.T) {
	for _, c := range []struct {
		line  string
		title string
		want  func(f *FollowUp)
		means string
	}{
		{"ring the piano mover / fri 10 / opening / urgent", "ring the piano mover", func(f *FollowUp) {
			f.Due.Local, f.Project, f.Priority = "2026-11-27T10:00", "opening", Urgent
		}, "due Fri 27 Nov, 10:00; opening; urgent"},
		{"ring / tomorrow", "ring", func(f *FollowUp) { f.Due.Local = "2026-11-25" }, "due Wed 25 Nov"},
		{"ring / today", "ring", func(f *FollowUp) { f.Due.Local = "2026-11-24" }, "due Tue 24 Nov"},
		{"ring / op", "ring / op", func(f *FollowUp) {}, "op"},
		{"ring / ope", "ring", func(f *FollowUp) { f.Project = "opening" }, "opening"},
		{"ring / project new wing", "ring", func(f *FollowUp) { f.Project = "new wing" }, "new wing"},
		{"ring / halvard / under way", "ring", func(f *FollowUp) { f.With, f.Stage = known.People[0], "under-way" }, "Halvard Lindqvist; Under way"},
		{"ring / jonas", "ring / jonas", func(f *FollowUp) {}, "jonas"},
		{"ring / jonas bakke", "ring", func(f *FollowUp) { f.With = known.People[2] }, "Jonas Bakke"},
		{"ring / remind 1 day before / thu 12", "ring", func(f *FollowUp) { f.Reminders, f.Due.Local = []Reminder{{Of: OfDue, Days: 1}}, "2026-11-26T12:00" }, "reminds 1 day before it is due; due Thu 26 Nov, 12:00"},
		{"ring / every monday", "ring", func(f *FollowUp) {
			f.Repeat = &Repeat{Rule: "FREQ=WEEKLY;BYDAY=MO"}
			f.Due.Local = "2026-11-30"
		}, "every week on Mon"},
		{"ring / takes 1 h 30 / 40 %", "ring", func(f *FollowUp) { f.Effort, f.Percent = 90, 40 }, "takes 1 h 30 min; 40 % done"},
		{"ring / 45 min", "ring", func(f *FollowUp) { f.Effort = 45 }, "takes 45 min"},
		{"ring / start wed / due fri", "ring", func(f *FollowUp) { f.Start.Local, f.Due.Local = "2026-11-25", "2026-11-27" }, "starts Wed 25 Nov; due Fri 27 Nov"},
		{"ring / label to read / at the workshop", "ring", func(f *FollowUp) { f.Labels, f.Context = []int64{7}, "workshop" }, "to read; workshop"},
		{"ring / at 15:00", "ring", func(f *FollowUp) { f.Due.Local = "2026-11-24T15:00" }, "due Tue 24 Nov, 15:00"},
		{"ring / note bring the list / low", "ring", func(f *FollowUp) { f.Notes, f.Priority = "bring the list", Low }, "bring the list; low"},
		{"answer / waits for halvard / ask again thu", "answer", func(f *FollowUp) {
			f.With, f.Waits.Since = known.People[0], tuesday
			f.Waits.Ask.Local = "2026-11-26T08:00"
		}, "waits for Halvard Lindqvist; ask again Thu 26 Nov, 8:00"},
		{"answer / waits for halvard / ask again every 3 working days, twice, then tell me", "answer", func(f *FollowUp) {
			f.With, f.Waits.Since = known.People[0], tuesday
			f.Waits.Ask.Local, f.Waits.Rhythm = "2026-11-27T08:00", &when.Rhythm{Every: 3, Unit: when.WorkingDays, Times: 2}
		}, "waits for Halvard Lindqvist; ask again Fri 27 Nov, 8:00, then every 3 working days, twice, then you are told"},
		{"read 3/4 of it", "read 3/4 of it", func(f *FollowUp) {}, ""},
		{"friday", "friday", func(f *FollowUp) {}, ""},
		{"either / or / something", "either / or / something", func(f *FollowUp) {}, "or; something"},
	} {
		w := ReadLine(c.line, FollowUp{}, known, week, tuesday)
		want := FollowUp{Title: c.title}
		c.want(&want)
		got := w.FollowUp
		got.Due.At, got.Due.Zone, got.Start.At, got.Start.Zone, got.Waits.Ask.At, got.Waits.Ask.Zone = 0, "", 0, "", 0, ""
		require.Equal(t, want, got, c.line)
		var means []string
		for i, p := range w.Parts {
			require.Empty(t, p.Wrong, c.line)
			if i > 0 {
				means = append(means, p.Means)
			}
		}
		require.Equal(t, c.means, strings.Join(means, "; "), c.line)
	}
}

func TestALineOnTopOfAProposal(t *testing.T) {
	proposed := FollowUp{Title: "Send Mirela the drawing", Priority: Normal}
	w := ReadLine("fri 10 / urgent", proposed, known, week, tuesday)
	require.Equal(t, "Send Mirela the drawing", w.FollowUp.Title)
	require.Equal(t, "2026-11-27T10:00", w.FollowUp.Due.Local)
	require.Equal(t, Urgent, w.FollowUp.Priority)
	w = ReadLine("ask Tomasz first / fri", proposed, known, week, tuesday)
	require.Equal(t, "ask Tomasz first", w.FollowUp.Title)
}

func TestWhatALineCannotMean(t *testing.T) {
	for line, want := range map[string]string{
		"ring / remind banana":          "does not know “banana”",
		"ring / every blue moon":        "way of repeating",
		"ring / 120 %":                  "More than all",
		"ring / label nothing":          "no label called",
		"ring / yesterday, 1.1.2020":    "",
		"ring / due 2020-01-01":         "has passed",
		"ring / every 30 feb":           "",
		"ring / ask again never":        "time to ask again",
		"ring / ask again every 0 days": "as a rhythm",
		"ring / every year until never": "end of repeating",
	} {
		parts := ReadLine(line, FollowUp{}, known, week, tuesday).Parts
		require.Contains(t, parts[len(parts)-1].Wrong, want, line)
	}
}

func TestTabCompletes(t *testing.T) {
	offers := func(line string) (out []string) {
		for _, o := range ReadLine(line, FollowUp{}, known, week, tuesday).Offers {
			out = append(out, o.Text)
		}
		return out
	}
	require.Equal(t, "ring / opening", offers("ring / op")[0])
	require.Contains(t, offers("ring / hal"), "ring / Halvard Lindqvist")
	require.Contains(t, offers("ring / ur"), "ring / urgent")
	require.Equal(t, []string{"ring tomorrow @workshop"}, offers("ring tomorrow @wo"), "without a slash, too")
	require.Equal(t, []string{"ring / fri @telephone"}, offers("ring / fri @tel"))
	require.Equal(t, []string{"@workshop", "@telephone"}, []string{ReadLine("@", FollowUp{Title: "Send it"}, known, week, tuesday).Offers[0].Text, ReadLine("@", FollowUp{Title: "Send it"}, known, week, tuesday).Offers[1].Text})
	require.Empty(t, offers("ring solvei@wo"), "an address is none")
	require.Contains(t, offers("ring / waits for hal"), "ring / waits for Halvard Lindqvist")
	require.Contains(t, offers("ring / project op"), "ring / project opening")
	require.Contains(t, offers("ring / label to"), "ring / label to read")
	require.Contains(t, offers("ring / at work"), "ring / at workshop")
	require.Contains(t, offers("ring / rem"), "ring / remind 1 day before")
	require.Contains(t, offers("ring / new wing"), "ring / project new wing", "a project is made on the fly")
	require.Empty(t, offers("ring"), "the first part is the title")
	require.Equal(t, "urgent", ReadLine("urg", FollowUp{Title: "Send it"}, known, week, tuesday).Offers[0].Text, "unless one is proposed")
}

// No line breaks the reader, and what it gives back is in the line or known.
func TestAnyLine(t *testing.T) {
	pieces := []string{"ring", " / ", "fri", "10", "remind", "1 day before", "every", "monday", "%", "5", "waits for", "project", "note", "/", "until", "takes", "2 h", "ü", "label", "start", "due"}
	rapid.Check(t, func(t *rapid.T) {
		line := strings.Join(rapid.SliceOfN(rapid.SampledFrom(pieces), 0, 14).Draw(t, "line"), " ")
		w := ReadLine(line, FollowUp{}, known, week, tuesday)
		for _, p := range w.Parts {
			require.Contains(t, line, p.Text)
			require.False(t, p.Means == "" && p.Wrong == "", "%q", p.Text)
		}
	})
}
