package inbox

import (
	"slices"
	"strconv"
	"strings"
)

// Labels is a set of labels by their IDs, as a value that can be compared: the
// IDs in ascending order between commas, or empty.
type Labels string

// LabelsOf is the set of these IDs.
func LabelsOf(ids ...int64) Labels { return Labels("").With(ids...) }

// IDs lists the set in ascending order.
func (l Labels) IDs() []int64 {
	ids := []int64{}
	for part := range strings.SplitSeq(string(l), ",") {
		if id, err := strconv.ParseInt(part, 10, 64); err == nil {
			ids = append(ids, id)
		}
	}
	return ids
}

// With is the set with these IDs in it.
func (l Labels) With(ids ...int64) Labels { return format(append(l.IDs(), ids...)) }

// Without is the set with none of these IDs in it.
func (l Labels) Without(ids ...int64) Labels {
	return format(slices.DeleteFunc(l.IDs(), func(id int64) bool { return slices.Contains(ids, id) }))
}

// Minus lists what is in l and not in other.
func (l Labels) Minus(other Labels) []int64 { return l.Without(other.IDs()...).IDs() }

func format(ids []int64) Labels {
	slices.Sort(ids)
	parts := []string{}
	for _, id := range slices.Compact(ids) {
		parts = append(parts, strconv.FormatInt(id, 10))
	}
	return Labels(strings.Join(parts, ","))
}
