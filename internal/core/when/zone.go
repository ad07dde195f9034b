package when

import (
	"sync"
	"time"
)

// loaded are the zones that have been loaded; the names of all there are fit in it.
var loaded sync.Map

// LoadZone gives the zone of a name of the IANA database, as time.LoadLocation
// does; one that was asked for before is not read again.
func LoadZone(name string) (*time.Location, error) {
	if loc, ok := loaded.Load(name); ok {
		return loc.(*time.Location), nil
	}
	loc, err := time.LoadLocation(name)
	if err == nil {
		loaded.Store(name, loc)
	}
	return loc, err
}
