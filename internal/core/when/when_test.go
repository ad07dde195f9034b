package when

import (
	"strings"
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// tuesday is Tue 24 Nov 2026, 10:42 in Oslo.
var tuesday = local("2026-11-24T10:42", "Europe/Oslo")

func local(text, zone string) Instant {
	loc, err := time.LoadLocation(zone)
	if err != nil {
		panic(err)
	}
	t, err := time.Parse("2006-01-02T15:04", text)
	if err != nil {
		panic(err)
	}
	return Of(Resolve(t, loc))
}

func TestPhrases(t *testing.T) {
	for _, c := range []struct{ phrase, want string }{
		// The phrases that every user tries first.
		{"today", "2026-11-24T13:30"},
		{"tonight", "2026-11-24T18:00"},
		{"this evening", "2026-11-24T18:00"},
		{"this afternoon", "2026-11-24T13:30"},
		{"tomorrow", "2026-11-25T08:00"},
		{"Tomorrow 8", "2026-11-25T08:00"},
		{"tomorrow at 8:15", "2026-11-25T08:15"},
		{"the day after tomorrow", "2026-11-26T08:00"},
		{"fri", "2026-11-27T08:00"},
		{"friday", "2026-11-27T08:00"},
		{"tue", "2026-12-01T08:00"},
		{"mon", "2026-11-30T08:00"},
		{"thu 14:30", "2026-11-26T14:30"},
		{"14:30 thu", "2026-11-26T14:30"},
		{"thu 9", "2026-11-26T09:00"},
		{"thu 9.30", "2026-11-26T09:30"},
		{"fri after lunch", "2026-11-27T13:30"},
		{"fri noon", "2026-11-27T12:00"},
		{"thursday evening", "2026-11-26T18:00"},
		{"tomorrow evening 9", "2026-11-25T21:00"},
		{"9 tonight", "2026-11-24T21:00"},
		{"weekend", "2026-11-28T08:00"},
		{"next weekend", "2026-12-05T08:00"},
		{"next week", "2026-11-30T08:00"},
		{"next month", "2026-12-01T08:00"},
		{"end of week", "2026-11-27T08:00"},
		{"end of month", "2026-11-30T08:00"},
		{"first monday of march", "2027-03-01T08:00"},
		{"the first monday of march 10:00", "2027-03-01T10:00"},
		{"last fri of next month", "2026-12-25T08:00"},
		{"3rd tue of november 2027", "2027-11-16T08:00"},
		{"24 dec", "2026-12-24T08:00"},
		{"24. dec. 18:00", "2026-12-24T18:00"},
		{"dec 24", "2026-12-24T08:00"},
		{"24th of december", "2026-12-24T08:00"},
		{"3 nov", "2027-11-03T08:00"},
		{"29 feb", "2028-02-29T08:00"},
		{"the 5th", "2026-12-05T08:00"},
		{"24.12.", "2026-12-24T08:00"},
		{"24.12.2027 9:00", "2027-12-24T09:00"},
		{"2027-01-05 9:00", "2027-01-05T09:00"},
		{"2027-01-05", "2027-01-05T08:00"},
		{"13/4", "2027-04-13T08:00"},
		{"14", "2026-11-24T14:00"},
		{"16.30", "2026-11-24T16:30"},
		{"at 3 pm", "2026-11-24T15:00"},
		{"3pm", "2026-11-24T15:00"},
		{"fri 12 am", "2026-11-27T00:00"},
		{"noon", "2026-11-24T12:00"},
		{"in 3 days", "2026-11-27T08:00"},
		{"in 2 weeks", "2026-12-08T08:00"},
		{"in a month", "2026-12-24T08:00"},
		{"3 days", "2026-11-27T08:00"},
		// Days of other weeks and months.
		{"next mon", "2026-11-30T08:00"},
		{"next tue 9:30", "2026-12-01T09:30"},
		{"next sunday", "2026-12-06T08:00"},
		{"wed next week", "2026-12-02T08:00"},
		{"next week wed 14:00", "2026-12-02T14:00"},
		{"wed of next week", "2026-12-02T08:00"},
		{"end of next week", "2026-12-04T08:00"},
		{"end of next month", "2026-12-31T08:00"},
		{"end of the year", "2026-12-31T08:00"},
		{"before the weekend", "2026-11-27T08:00"},
		{"last day of november", "2026-11-30T08:00"},
		{"last day of february", "2027-02-28T08:00"},
		{"the last day of next month", "2026-12-31T08:00"},
		{"last day of may 2028", "2028-05-31T08:00"},
		{"first monday", "2026-12-07T08:00"},
		{"next month 15", "2026-12-15T08:00"},
		{"next month 15th 10:00", "2026-12-15T10:00"},
		{"w51", "2026-12-14T08:00"},
		{"week 51 fri", "2026-12-18T08:00"},
		{"thu w2", "2027-01-14T08:00"},
		{"w53", "2026-12-28T08:00"},
		{"w48", "2026-11-23T08:00 is past"},
		{"in a fortnight", "2026-12-08T08:00"},
		{"in 5 working days", "2026-12-01T08:00"},
		{"in two weeks", "2026-12-08T08:00"},
		{"fri 27 nov 9:00", "2026-11-27T09:00"},
		{"fri the 4th", "2026-12-04T08:00"},
		{"27 nov fri", "2026-11-27T08:00"},
		{"Sun 28 Mar 2027, 9:00", "2027-03-28T09:00"},
		// Clocks in words.
		{"fri midnight", "2026-11-28T00:00"},
		{"half past two", "2026-11-24T14:30"},
		{"fri half three", "2026-11-27T15:30"},
		{"quarter to five", "2026-11-24T16:45"},
		{"a quarter past eleven", "2026-11-24T11:15"},
		{"fri ten past nine", "2026-11-27T09:10"},
		{"thu quarter to one", "2026-11-26T12:45"},
		{"thu twenty to nine pm", "2026-11-26T20:40"},
		{"thu ten to twelve pm", "2026-11-26T11:50"},
		{"thu quarter to one am", "2026-11-26T00:45"},
		{"fri at three", "2026-11-27T15:00"},
		{"at eleven", "2026-11-24T11:00"},
		{"three o'clock", "2026-11-24T15:00"},
		{"until 3", "2026-11-24T15:00"},
		{"fri 3 in the morning", "2026-11-27T03:00"},
		{"fri 03:00", "2026-11-27T03:00"},
		{"à 14h", "2026-11-24T14:00"},
		{"14h30", "2026-11-24T14:30"},
		{"14 uhr", "2026-11-24T14:00"},
		{"fri 14h", "2026-11-27T14:00"},
	} {
		if at, past := strings.CutSuffix(c.want, " is past"); past {
			r := Ordinary("Europe/Oslo").Read(c.phrase, tuesday)
			require.Equal(t, Past, r.Doubt, c.phrase)
			require.NotEqual(t, at, r.Moment.Local)
			continue
		}
		r := Ordinary("Europe/Oslo").Read(c.phrase, tuesday)
		require.Emptyf(t, r.Doubt, "%q: %s", c.phrase, r.Sentence)
		require.Equal(t, c.want, r.Moment.Local, c.phrase)
		require.Equal(t, "Europe/Oslo", r.Moment.Zone, c.phrase)
		require.Equal(t, local(c.want, "Europe/Oslo"), r.Moment.At, c.phrase)
	}
}

func TestSpansAreExactAndHaveNoWallClock(t *testing.T) {
	for phrase, want := range map[string]time.Duration{
		"in 2 h": 2 * time.Hour, "in 20 min": 20 * time.Minute, "in 90 minutes": 90 * time.Minute,
		"for 2 h": 2 * time.Hour, "for 90 min": 90 * time.Minute, "2 hours": 2 * time.Hour, "2h": 2 * time.Hour, "1.5h": 90 * time.Minute, "1.5 hours": 90 * time.Minute,
		"an hour and a half": 90 * time.Minute, "in three hours": 3 * time.Hour,
		"in an hour": time.Hour, "in half an hour": 30 * time.Minute, "in 2h": 2 * time.Hour, "20min": 20 * time.Minute,
	} {
		r := Ordinary("Europe/Oslo").Read(phrase, tuesday)
		require.Empty(t, r.Doubt, phrase)
		require.Equal(t, tuesday.Time().Add(want), r.Moment.At.Time(), phrase)
		require.Empty(t, r.Moment.Local, phrase)
	}
}

func TestDoubtsAreSaidAndOfferTheNextSensibleTime(t *testing.T) {
	for _, c := range []struct {
		phrase string
		doubt  Doubt
		offer  string
		says   string
	}{
		{"9", Past, "2026-11-25T09:00", "Tue 24 Nov, 9:00 has passed. Wed 25 Nov, 9:00 instead?"},
		{"9.30", Past, "2026-11-25T09:30", "has passed"},
		{"this morning", Past, "2026-11-25T08:00", "has passed"},
		{"today 8:00", Past, "2026-11-25T08:00", "has passed"},
		{"2020-01-05 9:00", Past, "2027-01-05T09:00", "Sun 5 Jan 2020, 9:00 has passed"},
		{"24 nov 9:00", Past, "2027-11-24T09:00", "has passed"},
		{"tue 14:30", Ambiguous, "2026-11-24T14:30", "Today is Tuesday too."},
		{"3/4", Ambiguous, "2027-04-03T08:00", "can be 3 April or 4 March"},
		{"12.10", Ambiguous, "2026-11-24T12:10", "can be the time 12:10 or 12 October"},
		{"whenever", Unclear, "", "does not know “whenever” as a time"},
		{"fri or sat", Unclear, "", "“or sat”"},
		{"fri sat", Unclear, "", "two days"},
		{"thu 27 nov", Unclear, "", "27 November 2026 is a Friday and not a Thursday"},
		{"27 nov thu", Unclear, "", "27 November 2026 is a Friday and not a Thursday"},
		{"last fri", Unclear, "", "“last fri”"},
		{"9:00 10:00", Unclear, "", "two times"},
		{"25:00", Unclear, "", "no time of day"},
		{"31 feb", Unclear, "", "no such day"},
		{"2027-13-01", Unclear, "", "no such day"},
		{"in 900000 days", Unclear, "", "years away"},
		{"2999-01-01", Unclear, "", "years away"},
		{"", Unclear, "", "Write when"},
		{"at", Unclear, "", "names no time yet"},
		{"tomorow 9", Unclear, "", "Do you mean “tomorrow 9”?"},
		{"fri after lnuch", Unclear, "", "does not know “after lnuch”"},
		{"next mondey", Unclear, "", "Do you mean “next monday”?"},
		{"fri afternon", Unclear, "", "Do you mean “afternoon”?"},
		{"3 weeks from friday", Unclear, "", "Try “fri after lunch”"}, // and not itself
		{"tomorow and so on", Unclear, "", "Try “fri after lunch”"},   // what is offered is a time
		{"weds 9", "", "2026-11-25T09:00", ""},
		{"two weeks from now", "", "2026-12-08T08:00", ""},
		{"the 1st of next month", "", "2026-12-01T08:00", ""},
		{"31 of next month", "", "2026-12-31T08:00", ""},
		{"thrusday", Unclear, "", "Do you mean “thursday”?"},
		{"after the holidays", Unclear, "", "does not know when your holidays end"},
		{"28 mar 2:30", Ambiguous, "2027-03-28T02:30", "On Sun 28 Mar the clocks go forward, and there is no 2:30. Sun 28 Mar 2027, 3:00?"},
	} {
		r := Ordinary("Europe/Oslo").Read(c.phrase, tuesday)
		require.Equal(t, c.doubt, r.Doubt, "%q: %s", c.phrase, r.Sentence)
		require.Contains(t, r.Sentence, c.says, c.phrase)
		require.Equal(t, c.offer, r.Moment.Local, c.phrase)
	}
}

// "Next friday" is that of the next calendar week, and what others mean by it is said
// besides; on the last two days of a week the nearer comes first.
func TestNextIsOfTheNextWeek(t *testing.T) {
	sunday := Ordinary("Europe/Oslo")
	sunday.First = OnSunday
	for _, c := range []struct {
		now, phrase, want, other string
		week                     Week
	}{
		{"2026-11-25T10:42", "next monday", "2026-11-30T08:00", "", Ordinary("Europe/Oslo")}, // a Wednesday
		{"2026-11-25T10:42", "next friday", "2026-12-04T08:00", "2026-11-27T08:00", Ordinary("Europe/Oslo")},
		{"2026-11-25T10:42", "next wed", "2026-12-02T08:00", "", Ordinary("Europe/Oslo")},
		{"2026-11-25T10:42", "next sunday", "2026-12-06T08:00", "2026-11-29T08:00", Ordinary("Europe/Oslo")},
		{"2026-11-28T10:42", "next sunday", "2026-11-29T08:00", "2026-12-06T08:00", Ordinary("Europe/Oslo")}, // a Saturday
		{"2026-11-28T10:42", "next monday", "2026-11-30T08:00", "", Ordinary("Europe/Oslo")},
		{"2026-11-29T10:42", "next sat 9:00", "2026-12-05T09:00", "", Ordinary("Europe/Oslo")},
		{"2026-11-25T10:42", "next sunday", "2026-11-29T08:00", "", sunday},
		{"2026-11-25T10:42", "next sat", "2026-12-05T08:00", "2026-11-28T08:00", sunday},
		{"2026-11-27T10:42", "next sat", "2026-11-28T08:00", "2026-12-05T08:00", sunday},
	} {
		r := c.week.Read(c.phrase, local(c.now, "Europe/Oslo"))
		require.Empty(t, r.Doubt, c.phrase+": "+r.Sentence)
		require.Equal(t, c.want, r.Moment.Local, c.phrase)
		require.Equal(t, c.other, r.Other.Local, c.phrase)
		require.Equal(t, c.other != "", r.Instead != "", c.phrase)
		earlier, later := r.Both()
		require.LessOrEqual(t, earlier.At, later.At)
	}
	require.Error(t, Week{Zone: "UTC", Morning: 1, Midday: 2, Evening: 3, First: "friday"}.Valid())
}

// An hour that comes twice is said.
func TestTheDoubledHourIsSaid(t *testing.T) {
	w := Ordinary("Europe/Oslo")
	r := w.Read("sun 2:30", local("2026-10-23T10:00", w.Zone))
	require.Equal(t, Ambiguous, r.Doubt)
	require.Contains(t, r.Sentence, "On Sun 25 Oct the clocks go back, and 2:30 comes twice. The first, Sun 25 Oct, 2:30?")
	require.Equal(t, "2026-10-25T00:30:00Z", r.Moment.At.Time().Format(time.RFC3339))
}

func TestAmAndPm(t *testing.T) {
	w := Ordinary("America/New_York")
	w.TwelveHour = true
	now := local("2026-11-24T10:42", w.Zone)
	for _, c := range []struct {
		phrase, want string
		doubt        Doubt
	}{
		{"9", "2026-11-24T21:00", Ambiguous},
		{"fri 9", "2026-11-27T09:00", Ambiguous},
		{"fri 9 am", "2026-11-27T09:00", ""},
		{"fri 9:30 p.m.", "2026-11-27T21:30", ""},
		{"12 pm", "2026-11-24T12:00", ""},
		{"15:00", "2026-11-24T15:00", ""},
		{"tonight 9", "2026-11-24T21:00", ""},
	} {
		r := w.Read(c.phrase, now)
		require.Equal(t, c.doubt, r.Doubt, c.phrase+": "+r.Sentence)
		require.Equal(t, c.want, r.Moment.Local, c.phrase)
	}
	require.Equal(t, "Fri 27 Nov, 9:30 pm", w.Say(w.Read("fri 9:30pm", now).Moment, now))
}

func TestTheUsersOwnWeek(t *testing.T) {
	w := Week{Zone: "Asia/Dubai", Morning: 7 * 60, Midday: 13 * 60, Evening: 20 * 60, Workdays: []time.Weekday{0, 2, 3, 4}}
	require.NoError(t, w.Valid())
	now := local("2026-11-24T10:42", w.Zone)
	require.Equal(t, "2026-12-01T07:00", w.Read("next week", now).Moment.Local, "Monday is not worked")
	require.Equal(t, "2026-11-24T20:00", w.Read("tonight", now).Moment.Local)
	require.Error(t, Week{Zone: "Nowhere/Land"}.Valid())
	require.Error(t, Week{Zone: "UTC", Morning: 800, Midday: 700, Evening: 1000}.Valid())
}

func TestWallClockTimesAcrossDaylightSaving(t *testing.T) {
	oslo, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	for _, c := range []struct{ wall, want string }{
		{"2027-03-28T01:59", "2027-03-28T00:59:00Z"},
		{"2027-03-28T02:00", "2027-03-28T01:00:00Z"}, // does not exist: forward to 3:00
		{"2027-03-28T02:30", "2027-03-28T01:00:00Z"},
		{"2027-03-28T03:00", "2027-03-28T01:00:00Z"},
		{"2026-10-25T02:30", "2026-10-25T00:30:00Z"}, // exists twice: the first
		{"2026-10-25T03:00", "2026-10-25T02:00:00Z"},
	} {
		w, err := time.Parse("2006-01-02T15:04", c.wall)
		require.NoError(t, err)
		require.Equal(t, c.want, Resolve(w, oslo).UTC().Format(time.RFC3339), c.wall)
	}
	// "Tomorrow 8:00" stays 8:00 when the clocks change in between.
	night := Of(time.Date(2027, 3, 27, 20, 0, 0, 0, oslo))
	r := Ordinary("Europe/Oslo").Read("tomorrow 8:00", night)
	require.Equal(t, 11*time.Hour, r.Moment.At.Time().Sub(night.Time()))
	// Samoa left out the whole of 30 December 2011.
	apia, err := time.LoadLocation("Pacific/Apia")
	require.NoError(t, err)
	gone := Resolve(time.Date(2011, 12, 30, 12, 0, 0, 0, time.UTC), apia)
	require.Equal(t, "2011-12-31T00:00:00", gone.In(apia).Format("2006-01-02T15:04:05"))
}

func TestRealignKeepsTheWallClock(t *testing.T) {
	m := Moment{At: 1, Local: "2027-06-01T08:00", Zone: "Europe/Oslo"}
	require.Equal(t, local("2027-06-01T08:00", "Europe/Oslo"), m.Realign().At)
	span := Moment{At: 5}
	require.Equal(t, span, span.Realign())
	day := Moment{At: 1, Local: "2027-06-01", Zone: "Europe/Oslo"}.Realign()
	require.True(t, day.WholeDay())
	require.Equal(t, local("2027-06-02T00:00", "Europe/Oslo")-1, day.At)
	broken := Moment{At: 7, Local: "soon", Zone: "Nowhere"}
	require.Equal(t, broken, broken.Realign())
}

func TestGridCountsWhatWaits(t *testing.T) {
	w := Ordinary("Europe/Oslo")
	at := func(s string) Instant { return local(s, w.Zone) }
	g := w.Grid(tuesday, []Instant{at("2026-11-24T14:00"), at("2026-11-26T08:00"), at("2026-11-26T11:59"), at("2026-12-01T08:00")}, []Instant{at("2026-11-26T18:00"), at("2026-11-26T12:00")})
	require.True(t, g[0].Cells[Morning].Past)
	require.False(t, g[0].Cells[Midday].Past)
	require.Equal(t, 1, g[0].Cells[Midday].Back)
	require.Equal(t, 2, g[2].Cells[Morning].Back)
	require.Equal(t, 1, g[2].Cells[Midday].Due)
	require.Equal(t, 1, g[2].Cells[Evening].Due)
	require.Equal(t, "2026-11-30T18:00", g[6].Cells[Evening].Moment.Local)
}

var zones = []string{"Europe/Oslo", "America/New_York", "Australia/Lord_Howe", "Pacific/Apia", "Asia/Kathmandu", "America/St_Johns", "UTC", "Africa/Casablanca", "Asia/Gaza", "Antarctica/Troll"}

var vocabulary = []string{"today", "tonight", "tomorrow", "fri", "tue", "next", "this", "week", "weekend", "month", "end", "of", "in", "3", "20", "9", "9.30", "14:30",
	"24", "dec", "march", "first", "last", "monday", "min", "h", "days", "after", "lunch", "evening", "morning", "noon", "am", "pm", "at", "the", "5th", "2027-01-05", "2020-02-30",
	"24.12.", "3/4", "0", "w51", "half", "past", "to", "quarter", "two", "midnight", "fortnight", "working", "day", "before", "for", "31", "feb", "29", "until", "tomorrow,", "½", "-1", "99999999999999999999", "midday"}

// No phrase, no zone and no moment yields a time in the past, or a panic.
func TestPhrasesNeverReachIntoThePast(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		words := rapid.SliceOfN(rapid.SampledFrom(vocabulary), 0, 6).Draw(t, "words")
		phrase := ""
		for _, w := range words {
			phrase += w + " "
		}
		if rapid.IntRange(0, 9).Draw(t, "noise") == 0 {
			phrase += rapid.String().Draw(t, "anything")
		}
		w := Ordinary(rapid.SampledFrom(zones).Draw(t, "zone"))
		w.TwelveHour = rapid.Bool().Draw(t, "am and pm")
		now := Instant(rapid.Int64Range(1_000_000_000_000, 4_000_000_000_000).Draw(t, "now"))
		r := w.Read(phrase, now)
		if r.Doubt == "" && r.Moment.IsZero() {
			t.Fatalf("%q is neither a time nor a doubt", phrase)
		}
		if !r.Moment.IsZero() && r.Moment.At <= now {
			t.Fatalf("%q at %s in %s gives %s", phrase, now.Time(), w.Zone, r.Moment.At.Time())
		}
		if r.Sentence == "" {
			t.Fatalf("%q has no sentence", phrase)
		}
		if r.Doubt == "" && r.Moment.Local != "" { // what is shown back means the same when it is typed
			if again := w.Read(w.Say(r.Moment, now), now); again.Moment != r.Moment && again.Doubt != Ambiguous {
				t.Fatalf("%q is %v, said as %q, which is %v: %s", phrase, r.Moment, w.Say(r.Moment, now), again.Moment, again.Sentence)
			}
		}
		if m := r.Moment.Realign(); m != r.Moment {
			t.Fatalf("%q: %v is not what its wall clock says: %v", phrase, r.Moment, m)
		}
	})
}

// Whatever the zone, a resolved wall-clock time either shows just that time or
// is the first instant after a gap.
func TestResolveIsTheTimeOrTheFirstAfterIt(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		loc, err := time.LoadLocation(rapid.SampledFrom(zones).Draw(t, "zone"))
		if err != nil {
			t.Fatal(err)
		}
		w := time.Unix(rapid.Int64Range(0, 3_000_000_000).Draw(t, "wall")/60*60, 0).UTC()
		got := Resolve(w, loc)
		shown := wall(got.In(loc))
		if shown.Before(w) {
			t.Fatalf("%v in %v became %v", w, loc, got)
		}
		if before := wall(got.Add(-time.Minute).In(loc)); shown.After(w) && !before.Before(w) {
			t.Fatalf("%v in %v moved too far: %v", w, loc, got)
		}
	})
}
