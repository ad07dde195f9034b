package together

import (
	"testing"

	"github.com/stretchr/testify/require"
)

func TestWhatASharingCarries(t *testing.T) {
	for name, c := range map[string]struct {
		s    Sharing
		m    Coming
		goes bool
	}{
		"all of it":                        {Sharing{}, Coming{In: OwnSide, Written: 1}, true},
		"before where it begins":           {Sharing{From: 10}, Coming{In: OwnSide, Written: 9}, false},
		"where it begins":                  {Sharing{From: 10}, Coming{In: OwnSide, Written: 10}, true},
		"it comes now, by a clock gone by": {Sharing{From: 10}, Coming{In: OwnSide, Written: 9, New: true}, true},
		"the team's, of whenever":          {Sharing{From: 10}, Coming{In: TeamSide, Written: 9}, true},
		"what comes from there":            {Sharing{}, Coming{In: TeamSide, Carried: true, Back: true}, false},
		"another's, seen by the team":      {Sharing{}, Coming{In: TeamSide, Carried: true}, true},
		"another team's":                   {Sharing{}, Coming{In: OwnSide, Carried: true, New: true}, false},
		"ended":                            {Sharing{Ended: 5}, Coming{In: TeamSide, New: true}, false},
		"nobody shared it":                 {Sharing{Addressed: true}, Coming{In: OwnSide, New: true}, false},
		"nobody did, but the team wrote":   {Sharing{Addressed: true}, Coming{In: TeamSide}, true},
	} {
		require.Equal(t, c.goes, c.s.Carries(c.m), name)
	}
}
