package delivery

import (
	"maps"
	"slices"

	"ebbe/internal/core/when"
)

// Arrived are the instants at which messages of each stream arrived in the
// past, in order.
type Arrived map[Stream][]when.Instant

// In is a with what came in streams that have been deleted since as people's mail.
func (a Arrived) In(s Settings) Arrived {
	out := Arrived{}
	for _, stream := range slices.Sorted(maps.Keys(a)) {
		into := stream
		if !s.Known(stream) {
			into = s.along(stream)
		}
		if out[into] = append(slices.Clone(out[into]), a[stream]...); into != stream {
			slices.Sort(out[into])
		}
	}
	return out
}
