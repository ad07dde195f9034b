package together

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Who may do what, in words.
func TestWhoMayDoWhat(t *testing.T) {
	may := map[Role][]Act{
		Stranger:      nil,
		Own:           {Work, Serve},
		Member:        {Work, Gauge, Quit},
		Steward:       {Work, Gauge, Serve, Admit, Quit, End},
		Role("nurse"): nil,
	}
	for r, want := range may {
		var got []Act
		for _, a := range Acts {
			if r.May(a) {
				got = append(got, a)
			}
		}
		require.Equal(t, want, got, "%q", r)
		require.False(t, r.May("something new"), "what is in no table nobody may")
	}
	require.Len(t, table, len(Acts))
	for _, r := range []Role{Stranger, Own, Member, Steward} {
		require.Equal(t, slices.Contains(Roles, r), r.Known())
	}
}

// Whatever changes, in whatever order, somebody looks after the team, nobody is in it who
// was not put there, and whoever is gone has no role.
func TestSomebodyLooksAfterATeam(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		team := Standing{1: Steward}
		last := map[int64]Role{1: Steward} // a slow, obvious reference
		for range rapid.IntRange(0, 30).Draw(t, "changes") {
			person := rapid.Int64Range(1, 4).Draw(t, "person")
			role := rapid.SampledFrom([]Role{Stranger, Member, Steward}).Draw(t, "role")
			after, ok := team.Change(person, role)
			stewards := 0
			for p, r := range last {
				if p != person && r == Steward {
					stewards++
				}
			}
			require.Equal(t, stewards > 0 || role == Steward, ok)
			require.Equal(t, Standing(last), team, "a change gives another, and leaves what was")
			if ok {
				team = after
				last[person] = role
				if role == Stranger {
					delete(last, person)
				}
			}
		}
		require.Equal(t, Standing(last), team)
	})
}
