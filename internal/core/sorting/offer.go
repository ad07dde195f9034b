package sorting

import (
	"slices"

	"ebbe/internal/core/inbox"
)

// Habit is what the reader always does with what comes from somewhere.
type Habit struct {
	Kind  inbox.Kind // Archive, ToBin or Label
	Label int64
	Times int // of the newest, in a row
}

// Handled is a conversation from there: what was done about it, and the labels on it.
type Handled struct {
	Deeds  []Deed
	Labels inbox.Labels
}

// enough is how often the same has to have been done.
const enoughTimes = 3

// HabitOf finds what is always done with conversations from one place, the newest first:
// the same with all of them that were decided, three at least. What people write is never
// put away by habit: only labels count, if alone is said.
func HabitOf(all []Handled, labelsAlone bool) (h Habit, ok bool) {
	put := map[inbox.Kind]int{}
	decided := 0
	var labels inbox.Labels // that are on all of them
	for _, c := range all {
		kind := inbox.Kind("")
		for _, d := range c.Deeds {
			switch d.Kind {
			case inbox.Star, inbox.Important, inbox.Unimportant: // besides
			default:
				kind = d.Kind
			}
		}
		if kind == "" && c.Labels == "" {
			continue // it waits
		}
		if decided++; decided == 1 {
			labels = c.Labels
		}
		labels = labels.Without(labels.Minus(c.Labels)...)
		put[kind]++
	}
	if decided < enoughTimes {
		return h, false
	}
	if ids := labels.IDs(); len(ids) > 0 {
		return Habit{inbox.Label, slices.Min(ids), decided}, true
	}
	for _, k := range []inbox.Kind{inbox.Archive, inbox.ToBin} {
		if put[k] == decided && !labelsAlone {
			return Habit{k, 0, decided}, true
		}
	}
	return h, false
}
