// Package numbers computes what the user sees of the course of a day.
package numbers

import (
	"cmp"
	"slices"

	"ebbe/internal/core/when"
)

// Step is a moment at which the number left to decide changed, and by how much.
type Step struct {
	At    when.Instant
	Delta int
}

// Point is how many were left to decide from At on.
type Point struct {
	At   when.Instant `json:"at"`
	Left int          `json:"left"`
}

// LeftAt is how many were left to decide at each of these instants, which come one after the other,
// when there are left now. It works backwards from the present, as Curve does.
func LeftAt(steps []Step, left int, at []when.Instant) []int {
	out := make([]int, len(at))
	sorted := slices.Clone(steps)
	slices.SortStableFunc(sorted, func(a, b Step) int { return cmp.Compare(a.At, b.At) })
	i := len(sorted)
	for k := len(at) - 1; k >= 0; k-- {
		for i > 0 && sorted[i-1].At > at[k] {
			i--
			left -= sorted[i].Delta
		}
		out[k] = max(left, 0)
	}
	return out
}

// Middle is the median of several rows of numbers, which are as long as each other, place by place.
func Middle(rows [][]int) (out []int) {
	for k := range len(rows[0]) {
		var all []int
		for _, r := range rows {
			all = append(all, r[k])
		}
		slices.Sort(all)
		out = append(out, all[(len(all)-1)/2])
	}
	return out
}

// Curve is how many were left to decide from the instant from until now, when
// there are left. It works backwards from the present, so that its last point
// is always the number shown beside it. Steps outside [from, now] are ignored;
// of several within the same slot of width milliseconds the last one counts.
// A number is never below zero.
func Curve(steps []Step, from, now when.Instant, left int, width when.Instant) []Point {
	steps = slices.DeleteFunc(slices.Clone(steps), func(s Step) bool { return s.At < from || s.At > now })
	slices.SortStableFunc(steps, func(a, b Step) int { return int(a.At - b.At) })
	start := left
	for _, s := range steps {
		start -= s.Delta
	}
	points := []Point{{from, max(start, 0)}}
	n := start
	for _, s := range steps {
		n += s.Delta
		at := s.At
		if width > 0 {
			at = from + (s.At-from)/width*width
		}
		if last := &points[len(points)-1]; last.At == at {
			last.Left = max(n, 0)
		} else {
			points = append(points, Point{at, max(n, 0)})
		}
	}
	if last := points[len(points)-1]; last.At < now {
		points = append(points, Point{now, max(left, 0)})
	}
	return points
}
