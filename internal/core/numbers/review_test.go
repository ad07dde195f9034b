package numbers

import (
	"testing"

	"github.com/stretchr/testify/require"
)

func TestWhatIsAdvised(t *testing.T) {
	all := Evidence{
		Rules:  []NewRule{{3, "from a@shop.example: bin", "Shop"}},
		Lists:  []Heard{{List: "few", Messages: 7}, {List: "read", Messages: 30, Opened: 1}, {List: "left", Messages: 30, Left: true}, {List: "most", Name: "Most", Messages: 40, Conversation: 9}, {List: "more", Messages: 12}},
		Moved:  []Postponed{{"u1", "Sign", 3}, {"u2", "Ring", 4}},
		People: []Awaited{{"a@x", "Ada", 4, 3, []string{"w1"}}, {"b@x", "Bo", 4, 2, []string{"w2"}}, {"c@x", "Ciro", 4, 4, nil}, {"d@x", "Dia", 2, 2, []string{"w3"}}},
		Rounds: []Round{{540, 20, 20}, {840, 20, 4}, {990, 9, 0}},
	}
	kinds := func(all []Advice) (out []string) {
		for _, a := range all {
			out = append(out, a.Key)
		}
		return out
	}
	refused := map[string]bool{}
	now := func() []Advice { return Advise(all, func(key string) bool { return refused[key] }) }
	require.Equal(t, []string{"rule from a@shop.example: bin", "leave most", "drop u2"}, kinds(now()), "three, of three kinds, the clearest")
	refused["rule from a@shop.example: bin"], refused["leave most"] = true, true
	require.Equal(t, []string{"leave more", "drop u2", "ask a@x"}, kinds(now()), "what was refused stays away")
	refused["leave more"], refused["drop u2"] = true, true
	got := now()
	require.Equal(t, []string{"ask a@x", "round 840"}, kinds(got), "and no more than there are")
	require.Equal(t, []int{3, 4, 840}, []int{got[0].N, got[0].Of, got[1].Minute})
	require.Empty(t, Advise(Evidence{}, func(string) bool { return false }))
}
