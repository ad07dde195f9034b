package choices

import (
	"cmp"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"time"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
)

// told says what was chosen, in words and without a stop, given how everything
// stood before.
func told(was, is Settings) string {
	var out []string
	say := func(changed bool, text string) {
		if changed {
			out = append(out, text)
		}
	}
	clock := is.Week.SayMinute
	say(was.Week.Morning != is.Week.Morning, "Morning begins at "+clock(is.Week.Morning))
	say(was.Week.Midday != is.Week.Midday, "Midday begins at "+clock(is.Week.Midday))
	say(was.Week.Evening != is.Week.Evening, "Evening begins at "+clock(is.Week.Evening))
	say(was.Week.Zone != is.Week.Zone, "Your time zone is "+is.Week.Zone)
	say(!slices.Equal(was.Week.Workdays, is.Week.Workdays), workdays(is))
	say(!slices.Equal(was.Week.Languages, is.Week.Languages), "Times are read in "+is.Week.SayLanguages())
	say(was.Week.First != is.Week.First, "Weeks begin on "+is.Week.StartOfWeek(time.Time{}).Weekday().String())
	say(was.Week.TwelveHour != is.Week.TwelveHour, either(is.Week.TwelveHour, "Times are said as am and pm", "Times are said by 24 hours"))
	say(was.Theme != is.Theme, "Theme: "+cmp.Or(is.Theme, "as this machine"))
	more, less := apart(was.Addresses, is.Addresses, func(a string) string { return a })
	for _, a := range more {
		say(true, "Mail from "+a+" counts as yours")
	}
	for _, a := range less {
		say(true, "Mail from "+a+" does not count as yours any more")
	}
	a, b := was.Habits, is.Habits
	say(a.Asleep != b.Asleep, either(b.Asleep, "A new message leaves a snoozed conversation where it is", "A new message brings a snoozed conversation back at once"))
	say(a.SomedayOn() != b.SomedayOn(), fmt.Sprintf("Someday is looked through on day %d of the month", b.SomedayOn()))
	swipe := [][4]string{{"to the left", a.SwipeLeft, b.SwipeLeft, "snooze"}, {"far to the left", a.SwipeLeftFar, b.SwipeLeftFar, "follow-up"},
		{"to the right", a.SwipeRight, b.SwipeRight, "archive"}, {"far to the right", a.SwipeRightFar, b.SwipeRightFar, "bin"}}
	for _, s := range swipe {
		say(s[1] != s[2], "Swipe "+s[0]+": "+cmp.Or(s[2], s[3]))
	}
	say(a.Junk.At() != b.Junk.At(), "The junk test is "+string(b.Junk.At()))
	for _, list := range []struct {
		was, is  []string
		one, not string
	}{
		{a.Junk.Blocked, b.Junk.Blocked, "%s is blocked", "%s is not blocked any more"},
		{a.Junk.Never, b.Junk.Never, "Mail from %s is never junk", "Mail from %s may be junk"},
		{a.Junk.To, b.Junk.To, "Mail to %s is never junk", "Mail to %s may be junk"},
		{a.Junk.Scripts, b.Junk.Scripts, "Mail in %s letters is junk", "Mail in %s letters is not junk by that"},
		{languages(a.Junk), languages(b.Junk), "Mail in %s is junk", "Mail in %s is not junk by that"},
	} {
		more, less := apart(list.was, list.is, func(s string) string { return s })
		for _, s := range more {
			say(true, fmt.Sprintf(list.one, s))
		}
		for _, s := range less {
			say(true, fmt.Sprintf(list.not, s))
		}
	}
	say(a.BinCodes != b.BinCodes, either(b.BinCodes, "What brings nothing but a code is binned after an hour", "Codes stay until you decide"))
	say(a.Span != b.Span, fmt.Sprintf("What you send can be taken back for %d seconds", cmp.Or(b.Span, 15)))
	say(!reflect.DeepEqual(a.Keys, b.Keys) && len(a.Keys)+len(b.Keys) > 0, either(len(b.Keys) == 0, "All keys are as usual", "Keys changed"))
	out = append(out, lists("Combo", a.Combos, b.Combos, func(c inbox.Chain) (id, name string) { return c.ID, c.Name })...)
	f, g := was.FollowUp, is.FollowUp
	out = append(out, lists("Stage", f.Stages, g.Stages, func(s followup.Stage) (id, name string) { return s.ID, s.Name })...)
	out = append(out, lists("View", f.Views, g.Views, func(v followup.View) (id, name string) { return v.ID, v.Name })...)
	say(f.CloseAt != g.CloseAt, either(g.CloseAt < 0, "The day is closed when you ask for it", "The day is closed at "+clock(max(g.CloseAt, 0))))
	say(f.Keep != g.Keep, either(g.Keep, "Finishing leaves the conversation where it is", "Finishing archives the conversation"))
	return strings.Join(out, "; ")
}

func languages(w inbox.JunkWishes) (out []string) {
	for _, l := range w.Languages {
		out = append(out, l.Name())
	}
	return out
}

func either(which bool, yes, no string) string {
	if which {
		return yes
	}
	return no
}

// apart is what is new in a list, and what is gone from it.
func apart[T any](was, is []T, id func(T) string) (more, less []T) {
	has := func(list []T, v T) bool {
		return slices.ContainsFunc(list, func(o T) bool { return id(o) == id(v) })
	}
	for _, v := range is {
		if !has(was, v) {
			more = append(more, v)
		}
	}
	for _, v := range was {
		if !has(is, v) {
			less = append(less, v)
		}
	}
	return more, less
}

// lists says what became of the things of a list that have names.
func lists[T any](what string, was, is []T, of func(T) (id, name string)) (out []string) {
	id := func(v T) string { i, _ := of(v); return i }
	more, less := apart(was, is, id)
	for _, v := range more {
		_, name := of(v)
		out = append(out, fmt.Sprintf("%s “%s” added", what, name))
	}
	for _, v := range less {
		_, name := of(v)
		out = append(out, fmt.Sprintf("%s “%s” deleted", what, name))
	}
	for _, v := range is {
		i := slices.IndexFunc(was, func(o T) bool { return id(o) == id(v) })
		if i < 0 || reflect.DeepEqual(was[i], v) {
			continue
		}
		_, before := of(was[i])
		if _, name := of(v); name != before {
			out = append(out, fmt.Sprintf("%s “%s” is called “%s” now", what, before, name))
		} else {
			out = append(out, fmt.Sprintf("%s “%s” changed", what, name))
		}
	}
	if len(out) == 0 && !slices.EqualFunc(was, is, func(a, b T) bool { return id(a) == id(b) }) {
		out = append(out, what+"s stand in another order")
	}
	return out
}

func workdays(s Settings) string {
	if len(s.Week.Workdays) == 0 || len(s.Week.Workdays) == 7 {
		return "You work on every day"
	}
	var names []string
	for _, d := range []time.Weekday{time.Monday, time.Tuesday, time.Wednesday, time.Thursday, time.Friday, time.Saturday, time.Sunday} {
		if slices.Contains(s.Week.Workdays, d) {
			names = append(names, d.String()[:3])
		}
	}
	return "You work on " + strings.Join(names, ", ")
}
