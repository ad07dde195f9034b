package when

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestTimesInText(t *testing.T) {
	w := Ordinary("Europe/Oslo")
	for _, c := range []struct{ text, start, end string }{
		{"I need the outer dimensions by Thursday noon.", "2026-11-26T12:00", ""},
		{"please send the marked file by Thursday evening", "2026-11-26T18:00", ""},
		{"Can we meet on 3 December at 14:00?", "2026-12-03T14:00", ""},
		{"Can we meet on December 3 at 2pm?", "2026-12-03T14:00", ""},
		{"the meeting is on Friday, 27 November, 10:00–11:30 in the library", "2026-11-27T10:00", "2026-11-27T11:30"},
		{"Friday from 2 to 4 pm would suit us", "2026-11-27T14:00", "2026-11-27T16:00"},
		{"between 9 and 11 am on Monday", "2026-11-30T09:00", "2026-11-30T11:00"},
		{"We are away 4–6 December.", "2026-12-04", "2026-12-06"},
		{"We are away from 4 to 6 December 2026.", "2026-12-04", "2026-12-06"},
		{"the course runs from Monday to Wednesday", "2026-11-30", "2026-12-02"},
		{"tomorrow at 9.30", "2026-11-25T09:30", ""},
		{"the inn holds the two rooms until 18:00 today", "2026-11-24T18:00", ""},
		{"the board meets at 16:00", "2026-11-24T16:00", ""},
		{"rehearsal on Thursday at six", "2026-11-26T18:00", ""},
		{"rehearsal on Thursday at half past six", "2026-11-26T18:30", ""},
		{"the board meets at four, I need the number", "2026-11-24T16:00", ""},
		{"Could we talk tomorrow morning?", "2026-11-25T08:00", ""},
		{"Could we talk the day after tomorrow in the afternoon?", "2026-11-26T13:30", ""},
		{"Cake at eleven.", "2026-11-24T11:00", ""},
		{"we hold it until six o'clock this evening", "2026-11-24T18:00", ""},
		{"Can you ring me at quarter to five?", "2026-11-24T16:45", ""},
		{"the doors open at noon", "2026-11-24T12:00", ""},
		{"we open on 2026-12-12", "2026-12-12", ""},
		{"am 12.12.2026 um zehn", "2026-12-12", ""},
		{"the 8th would be good", "2026-12-08", ""},
		{"by the end of the month", "2026-11-30", ""},
		{"see you next week", "2026-11-30", ""},
		{"Call on Wed 25 Nov at 15:00 GMT", "2026-11-25T15:00@Etc/UTC", ""},
		{"Call on Wed at 15:00 UTC+9", "2026-11-25T15:00@Etc/GMT-9", ""},
		{"Call tomorrow 10:00-11:00 London time", "2026-11-25T10:00@Europe/London", "2026-11-25T11:00@Europe/London"},
		{"Call tomorrow at 10:00 America/New_York", "2026-11-25T10:00@America/New_York", ""},
		{"Call tomorrow at 10am EST, please", "2026-11-25T10:00@America/New_York", ""},
		{"midnight tomorrow", "2026-11-25T23:59", ""},
	} {
		found := w.FindTimes(c.text, "", tuesday)
		if !assert.NotEmpty(t, found, c.text) {
			continue
		}
		say := func(m Moment) string {
			if m.Local != "" && m.Zone != "Europe/Oslo" {
				return m.Local + "@" + m.Zone
			}
			return m.Local
		}
		assert.Equal(t, c.start, say(found[0].Start), "%s: %q", c.text, found[0].Text)
		assert.Equal(t, c.end, say(found[0].End), c.text)
	}
	for _, text := range []string{"Nothing of the kind.", "148 × 92 × 110 cm", "We may come.", "It was on Monday 2 November 2020.", "page 3 of 12", "version 2.0", "the second one", "I saw the sun.", "We met last Friday.", "It has been so since Monday.", "at four euros each", "we stopped at nine pages", "it begins at one point"} {
		assert.Empty(t, w.FindTimes(text, "", tuesday), text)
	}
	both := w.FindTimes("Call tomorrow at 15:00 CST", "", tuesday)
	require.Len(t, both, 2, "an abbreviation of two regions")
	require.Equal(t, []string{"Asia/Shanghai", "America/Chicago"}, []string{both[0].Start.Zone, both[1].Start.Zone})
	require.Equal(t, "tomorrow at 15:00 CST", both[1].Text)
	summer := w.FindTimes("on 3 July at 15:00 CET", "", tuesday)
	require.Equal(t, "2027-07-03T13:00:00Z", summer[0].Start.At.Time().Format("2006-01-02T15:04:05Z"), "the clock of the region on that day")
	two := w.FindTimes("We could come on the 8th or the 15th of December at 9:00.", "", tuesday)
	require.Len(t, two, 2)
	require.Equal(t, "2026-12-15T09:00", two[1].Start.Local)
	by := w.FindTimes("Reply by Friday, the fair is on 5 December", "", tuesday)
	require.True(t, by[0].By)
	require.False(t, by[1].By)
}

// Whatever the text: nothing breaks, what is found lies in the text and ahead.
func TestTimesInAnyText(t *testing.T) {
	w := Ordinary("America/New_York")
	pieces := []string{"by", "on", "Thursday", "the 31st", "of", "Feb", "at", "14:00", "–", "16:00", "UTC+3", "noon", "tomorrow", "12.12.", "2026-02-30", "half past ten", "to", "99", "\n", "é", "from 3 to 5", "December"}
	rapid.Check(t, func(t *rapid.T) {
		text := strings.Join(rapid.SliceOfN(rapid.SampledFrom(pieces), 0, 12).Draw(t, "text"), " ")
		for _, f := range w.FindTimes(text, "", tuesday) {
			require.Equal(t, f.Text, strings.TrimSpace(text[f.From:f.To]))
			require.Greater(t, f.Start.At, tuesday)
			require.True(t, f.End.IsZero() || f.End.At > f.Start.At)
		}
	})
}
