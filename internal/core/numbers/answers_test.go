package numbers

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/when"
)

const ada, bo = "ada@coast.example", "bo@coast.example"

func TestWhatIsAnAnswer(t *testing.T) {
	from := func(who string, at when.Instant) Written {
		return Written{At: at * Hour, Person: true, From: who, Direct: true}
	}
	me := func(at when.Instant, to ...string) Written {
		return Written{At: at * Hour, Person: true, Own: true, To: to}
	}
	copied := func(w Written, who ...string) Written { w.Copied = who; return w }
	aside := func(w Written) Written { w.Direct = false; return w }
	machine := func(w Written) Written { w.Person = false; return w }
	for _, c := range []struct {
		name  string
		all   []Written
		wants []string
		began string
	}{
		{"nothing was written", nil, nil, "nobody"},
		{"one message answers nothing, and waits", []Written{from(ada, 1)}, []string{"mine, ada: 1, not yet"}, "they"},
		{"an answer, which waits in turn", []Written{from(ada, 1), me(3, ada)}, []string{"mine, ada: 1 to 3", "theirs, ada: 3, not yet"}, "they"},
		{"an answer to that", []Written{from(ada, 1), me(3, ada), from(ada, 10)}, []string{"mine, ada: 1 to 3", "theirs, ada: 3 to 10", "mine, ada: 10, not yet"}, "they"},
		{"who writes twice waits from the first", []Written{from(ada, 1), from(ada, 2), me(5, ada), me(6, ada)}, []string{"mine, ada: 1 to 5", "theirs, ada: 5, not yet"}, "they"},
		{"whatever the order they come in", []Written{me(3, ada), from(ada, 1)}, []string{"mine, ada: 1 to 3", "theirs, ada: 3, not yet"}, "they"},
		{"to somebody else is no answer to her", []Written{from(ada, 1), me(2, bo)}, []string{"mine, ada: 1, not yet", "theirs, bo: 2, not yet"}, "they"},
		{"one to both is one to each", []Written{from(ada, 1), from(bo, 2), me(4, ada, bo)}, []string{"mine, ada: 1 to 4", "mine, bo: 2 to 4", "theirs, ada: 4, not yet", "theirs, bo: 4, not yet"}, "they"},
		{"a copy answers her, and asks nothing", []Written{from(ada, 1), copied(me(4, bo), ada)}, []string{"mine, ada: 1 to 4", "theirs, bo: 4, not yet"}, "they"},
		{"what I had a copy of asks me nothing", []Written{aside(from(ada, 1)), me(2, ada)}, []string{"theirs, ada: 2, not yet"}, "they"},
		{"but it answers me", []Written{me(1, ada), aside(from(ada, 9))}, []string{"theirs, ada: 1 to 9"}, "I"},
		{"what is to six asks nobody", []Written{me(1, ada, bo, "c", "d", "e", "f"), from(ada, 3)}, []string{"mine, ada: 3, not yet"}, "I"},
		{"a machine neither answers nor waits, nor begins", []Written{machine(from(ada, 0)), me(1, ada), machine(from(ada, 2)), from(ada, 4)}, []string{"theirs, ada: 1 to 4", "mine, ada: 4, not yet"}, "I"},
		{"after two months something new begins", []Written{from(ada, 1), me(1500, ada), from(ada, 1501)}, []string{"mine, ada: 1, not yet", "theirs, ada: 1500 to 1501", "mine, ada: 1501, not yet"}, "they"},
		{"named twice, once asked", []Written{copied(me(1, ada, ada), ada)}, []string{"theirs, ada: 1, not yet"}, "I"},
	} {
		out, began, _, known := Answers(c.all)
		var got []string
		for _, a := range out {
			whose, until := "theirs", ", not yet"
			if a.Own {
				whose = "mine"
			}
			if a.Answered != 0 {
				until = fmt.Sprintf(" to %d", a.Answered/Hour)
			}
			got = append(got, fmt.Sprintf("%s, %s: %d%s", whose, strings.Split(a.Address, "@")[0], a.Asked/Hour, until))
		}
		wants := slices.Clone(c.wants)
		slices.Sort(wants)
		slices.Sort(got)
		require.Equal(t, wants, got, c.name)
		who := "nobody"
		if known {
			who = map[bool]string{true: "I", false: "they"}[began]
		}
		require.Equal(t, c.began, who, c.name)
	}
	require.Equal(t, 3*Hour, Usual([]when.Instant{90 * Hour, Hour, 3 * Hour}))
	require.Zero(t, Usual(nil))
}

// slowly says of each message of a pair by itself whether it was answered: it waits unless an earlier
// one by the same of them waits still, and its answer is the first by the other within sixty days.
func slowly(all []Written, who string) (out []Answer) {
	type step struct {
		at   when.Instant
		own  bool
		asks bool
	}
	var steps []step
	for _, m := range all {
		few := len(m.To) <= 5
		switch {
		case !m.Person:
		case !m.Own && m.From == who:
			steps = append(steps, step{m.At, false, m.Direct && few})
		case m.Own && (slices.Contains(m.To, who) || slices.Contains(m.Copied, who)):
			steps = append(steps, step{m.At, true, few && slices.Contains(m.To, who)})
		}
	}
	slices.SortStableFunc(steps, func(a, b step) int { return int(a.at - b.at) })
	answered := func(i int) when.Instant {
		for _, s := range steps[i+1:] {
			if s.own != steps[i].own && s.at-steps[i].at <= 60*24*Hour {
				return s.at
			}
		}
		return 0
	}
	waits := make([]bool, len(steps))
	for i, s := range steps {
		waits[i] = s.asks
		for j := range i {
			if waits[j] && steps[j].own == s.own && s.at-steps[j].at <= 60*24*Hour && (answered(j) == 0 || answered(j) >= s.at) {
				waits[i] = false
			}
		}
		if waits[i] {
			out = append(out, Answer{who, !s.own, s.at, answered(i)})
		}
	}
	return out
}

func TestAnswersAgainstASlowReference(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		people := []string{ada, bo, "c@coast.example"}
		var all []Written
		at := when.Instant(1)
		for range rapid.IntRange(0, 14).Draw(t, "messages") {
			at += when.Instant(rapid.SampledFrom([]int{1, 60, 30 * 24 * 60, 61 * 24 * 60}).Draw(t, "minutes")) * Hour / 60
			all = append(all, Written{At: at, Own: rapid.Bool().Draw(t, "own"), Person: rapid.IntRange(0, 9).Draw(t, "person") > 0, From: rapid.SampledFrom(people).Draw(t, "from"),
				To: rapid.SliceOfN(rapid.SampledFrom(people), 0, 6).Draw(t, "to"), Copied: rapid.SliceOfN(rapid.SampledFrom(people), 0, 2).Draw(t, "copied"), Direct: rapid.Bool().Draw(t, "direct")})
		}
		got, _, _, _ := Answers(rapid.Permutation(all).Draw(t, "order"))
		for _, who := range people {
			var with []Answer
			for _, a := range got {
				if a.Address == who {
					with = append(with, a)
				}
			}
			if wants := slowly(all, who); !slices.Equal(with, wants) {
				t.Fatalf("%v instead of %v", with, wants)
			}
		}
	})
}

// The time at work is what a watch shows that runs on working days from morning to evening, minute by
// minute; also where a clock is moved meanwhile.
func TestTimeAtWork(t *testing.T) {
	w := when.Ordinary("Europe/Oslo")
	loc := w.Location()
	first, end := DayOf(2026, time.October, 19), DayOf(2026, time.November, 2)
	holiday := DayOf(2026, time.October, 28)
	off := func(day int64) bool { return day == holiday || !w.Works(DateOf(day).Weekday()) }
	d := DesktimeOf(w, first, end, off)
	from := when.DayStart(when.Of(time.Date(2026, 10, 19, 12, 0, 0, 0, loc)), loc, 0)
	watch := []when.Instant{0}
	for i := range when.Instant(13 * 24 * 60) {
		at := (from + i*Hour/60).In(loc)
		n := when.Instant(0)
		if m := at.Hour()*60 + at.Minute(); !off(DayOf(at.Date())) && m >= w.Morning && m < w.Evening {
			n = Hour / 60
		}
		watch = append(watch, watch[len(watch)-1]+n)
	}
	rapid.Check(t, func(t *rapid.T) {
		a := rapid.IntRange(0, len(watch)-1).Draw(t, "from")
		b := rapid.IntRange(a, len(watch)-1).Draw(t, "to")
		if got := d.Between(from+when.Instant(a)*Hour/60, from+when.Instant(b)*Hour/60); got != watch[b]-watch[a] {
			t.Fatalf("%d minutes instead of %d", got*60/Hour, (watch[b]-watch[a])*60/Hour)
		}
	})
	require.Zero(t, Desktime{}.Between(from, from+Hour))
}
