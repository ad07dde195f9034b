package delivery

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

var works = []time.Weekday{1, 2, 3, 4, 5}

func TestReadLine(t *testing.T) {
	whole := []Span{{0, EndOfDay}}
	weekdays, all := works, []time.Weekday{0, 1, 2, 3, 4, 5, 6}
	for text, want := range map[string]Line{
		"mon–fri 9, 14, 16:30":                  {Days: weekdays, Day: Day{Rounds: []int{540, 840, 990}}},
		"Mon-Fri: 9 and 2pm":                    {Days: weekdays, Day: Day{Rounds: []int{540, 840}}},
		"quiet after 18":                        {Days: all, Day: Day{Open: whole, Quiet: []Span{{1080, 1440}}}},
		"weekdays quiet 18-8":                   {Days: weekdays, Day: Day{Open: whole, Quiet: []Span{{0, 480}, {1080, 1440}}}},
		"tue, thu Board prep 10:30–12":          {Days: []time.Weekday{2, 4}, Day: Day{Open: whole, Focus: []Block{{Span{630, 720}, "Board prep"}}}},
		"tue and thu 9, focus 10:30–12 writing": {Days: []time.Weekday{2, 4}, Day: Day{Rounds: []int{540}, Focus: []Block{{Span{630, 720}, "writing"}}}},
		"wed open 8–10, 13–14:30":               {Days: []time.Weekday{3}, Day: Day{Open: []Span{{480, 600}, {780, 870}}}},
		"weekend shut":                          {Days: []time.Weekday{0, 6}, Clear: true},
		"weekends open":                         {Days: []time.Weekday{0, 6}, Day: Day{Open: whole}, Clear: true},
		"sun rounds at 7 pm":                    {Days: []time.Weekday{0}, Day: Day{Rounds: []int{1140}}},
		"every day noon":                        {Days: all, Day: Day{Rounds: []int{720}}},
		"fri–mon 9":                             {Days: []time.Weekday{0, 1, 5, 6}, Day: Day{Rounds: []int{540}}},
		"mon open from 9 to 17":                 {Days: []time.Weekday{1}, Day: Day{Open: []Span{{540, 1020}}}},
		"open 9-12 mon wed":                     {Days: []time.Weekday{1, 3}, Day: Day{Open: []Span{{540, 720}}}},
		"9, 14 on weekdays":                     {Days: weekdays, Day: Day{Rounds: []int{540, 840}}},
		"writing 10–12 tue and thu":             {Days: []time.Weekday{2, 4}, Day: Day{Open: whole, Focus: []Block{{Span{600, 720}, "writing"}}}},
		"quiet after 18 mon–wed":                {Days: []time.Weekday{1, 2, 3}, Day: Day{Open: whole, Quiet: []Span{{1080, 1440}}}},
		"shut sat":                              {Days: []time.Weekday{6}, Clear: true},
		"mon open 9–12 wed":                     {},
		"fri writing 13-10":                     {},
		"fri open 20–2":                         {},
		"mon open 9–12, quiet 10–11":            {},
		"mon shut, 9":                           {},
		"9, mon 14":                             {},
		"open tue 9–12":                         {},
		"sat":                                   {},
		"mon 25":                                {},
		"mon 8–10":                              {},
		"mon gladly":                            {},
		"":                                      {},
	} {
		got, err := ReadLine(text, works)
		if want.Days == nil {
			assert.Error(t, err, text)
			continue
		}
		require.NoError(t, err, text)
		want.Day = want.Day.tidy()
		assert.Equal(t, want, got, text)
	}
}

// What contradicts is refused with a sentence that says what does.
func TestLinesThatContradict(t *testing.T) {
	for text, says := range map[string]string{
		"fri writing 13-10":          "writing 13-10 ends before it begins: write 10:00–13:00",
		"mon open 9–12, quiet 10–11": "both open 9:00–12:00 and quiet 10:00–11:00",
		"mon open 9–12 wed":          "names days twice",
		"mon shut, 9":                "nothing comes in, and when it comes in",
		"open tue 9–12":              "names a day in the middle",
	} {
		_, err := ReadLine(text, works)
		require.ErrorContains(t, err, says, text)
	}
	l, err := ReadLine("open 9-12 mon wed", works)
	require.NoError(t, err)
	require.Equal(t, "Mon, Wed: open 9:00–12:00", l.String())
	l, err = ReadLine("quiet after 18", works)
	require.NoError(t, err)
	require.Equal(t, "Every day: open, quiet 18:00–24:00", l.String())
}

// What a day says of itself is read as the same day.
func TestADaySaysWhatItIs(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := drawDay(t).tidy()
		got, err := ReadDay(d.String())
		require.NoError(t, err, d.String())
		require.Equal(t, d, got, d.String())
		require.NoError(t, d.valid())
	})
}

func TestLinesAreDrawnOverEachOther(t *testing.T) {
	p := week(t, "mon 9, 14", "mon quiet after 18", "mon 10", "mon open 12–13").Plans[0]
	assert.Equal(t, "10:00, open 12:00–13:00, quiet 18:00–24:00", p.People[1].String(), "rounds are replaced, hours added")
	assert.Equal(t, "shut", p.People[2].String())
}

func TestDoubts(t *testing.T) {
	p := week(t, "mon 9, 19, open 8–10, quiet after 18", "tue, thu 11, writing 10–12, board 11–13").Plans[0]
	all := ""
	for _, d := range (Settings{}).Doubts(p) {
		all += d + "\n"
	}
	assert.Contains(t, all, "Monday: the 19:00 round lies in quiet hours. A round is a round")
	assert.Contains(t, all, "Monday: the 9:00 round lies in open hours")
	assert.Contains(t, all, "Tuesday, Thursday: the 11:00 round lies in “writing”")
	assert.Contains(t, all, "Tuesday, Thursday: “writing” and “board” overlap. Where they do, it is “writing”")
	assert.Contains(t, all, "newsletters and notices would never come in: when should it?")
	q := week(t, "mon open 8–20", "mon quiet 18–24").Plans[0]
	assert.Contains(t, Settings{}.Doubts(q)[0], "Monday: both open 8:00–20:00 and quiet 18:00–24:00")
}

func TestOffersAreSound(t *testing.T) {
	offers := Offers(works, 8*60, 18*60)
	require.Len(t, offers, 5)
	for _, o := range offers {
		require.NoError(t, o.Plan.Valid(), o.Name)
		if o.ID != "away" {
			assert.Empty(t, Settings{}.Doubts(o.Plan), o.Name)
		}
	}
	assert.Equal(t, "9:00, 14:00, 16:30", offers[0].People[2].String())
}

func TestPlansThatCannotBe(t *testing.T) {
	for _, change := range []func(*Settings){
		func(s *Settings) { s.Plans[0].Name = " " },
		func(s *Settings) { s.Plans[0].People = s.Plans[0].People[:6] },
		func(s *Settings) { s.Plans[0].People[1].Open = []Span{{600, 500}} },
		func(s *Settings) { s.Plans[0].People[1].Rounds = []int{1440} },
		func(s *Settings) { s.Plans[0].People[1].Focus = []Block{{Span{60, 120}, "10–12, or so"}} },
		func(s *Settings) { s.Plans = append(s.Plans, s.Plans[0]) },
		func(s *Settings) { s.On = "gone" },
		func(s *Settings) { s.Hand.Mode = "push" },
		func(s *Settings) { s.Notify.People = []string{"everybody"} },
	} {
		s := week(t, "9")
		change(&s)
		assert.Error(t, s.Valid())
	}
}

func TestNotify(t *testing.T) {
	n := Notify{On: true, Reminders: RemindUrgent, People: []string{"halvard@lindqvist.example", "@museum.example"}}
	assert.True(t, n.Reminder(1))
	assert.False(t, n.Reminder(5))
	assert.True(t, n.From("halvard@lindqvist.example", false))
	assert.True(t, n.From("priya@museum.example", false))
	assert.False(t, n.From("x@elsewhere.example", true), "only where that is wanted")
	n.Important = true
	assert.True(t, n.From("x@elsewhere.example", true))
	assert.False(t, n.From("x@elsewhere.example", false))
	n.On = false
	assert.False(t, n.Reminder(1) || n.From("halvard@lindqvist.example", false), "off is off")
}
