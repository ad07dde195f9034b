package delivery

import "ebbe/internal/core/when"

// Arrived are the instants at which messages of each stream arrived in the
// past, in order.
type Arrived map[Stream][]when.Instant
