package when

import (
	"testing"

	"github.com/stretchr/testify/require"
)

// About which days a text asks when something suits.
func TestTheStretchThatIsAskedAbout(t *testing.T) {
	w := Ordinary("Europe/Oslo")
	for _, c := range []struct {
		language       Language
		text, from, to string
	}{
		{English, "class 5b would like to come in the second week of December. Which day is quiet?", "2026-12-08", "2026-12-15"},
		{English, "Would the last week of next month suit you?", "2026-12-25", "2027-01-01"},
		{English, "When can we meet next week?", "2026-11-30", "2026-12-07"},
		{English, "When can I call you this week?", "2026-11-23", "2026-11-30"},
		{English, "Which day in January would be good?", "2027-01-01", "2027-02-01"},
		{English, "What time suits you on Thursday?", "2026-11-26", "2026-11-27"},
		{English, "Would you be free between 3 and 10 December? Which day?", "2026-12-03", "2026-12-11"},
		{English, "In the week of 7 December, which day?", "2026-12-07", "2026-12-14"},
		{English, "Which day of week 51?", "2026-12-14", "2026-12-21"},
		{English, "Which day next month?", "2026-12-01", "2027-01-01"},
		{English, "When may we come?", "", ""},
		{English, "I may come. When?", "", ""},
		{German, "Welcher Tag in der nächsten Woche passt Ihnen?", "2026-11-30", "2026-12-07"},
		{German, "Wann im Januar?", "2027-01-01", "2027-02-01"},
		{French, "Quel jour de la semaine prochaine vous convient ?", "2026-11-30", "2026-12-07"},
		{Spanish, "¿Qué día de la próxima semana le viene bien?", "2026-11-30", "2026-12-07"},
		{Norwegian, "Hvilken dag i neste uke passer?", "2026-11-30", "2026-12-07"},
	} {
		s := w.Asked(c.text, c.language, tuesday)
		if c.from == "" {
			require.Zero(t, s, c.text)
			continue
		}
		require.Equal(t, c.from+"T00:00", s.From.In(w.Location()).Format(wallTime), c.text)
		require.Equal(t, c.to+"T00:00", s.To.In(w.Location()).Format(wallTime), c.text)
	}
}
