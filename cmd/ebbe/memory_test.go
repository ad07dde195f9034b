package main

import (
	"math"
	"runtime/debug"
	"testing"

	"github.com/stretchr/testify/require"
)

func TestMemoryFollowsTheMachine(t *testing.T) {
	for machine, want := range map[int64]int64{0: leastMemory, 1 << 30: leastMemory, 8 << 30: 256 << 20, 64 << 30: mostMemory} {
		require.Equal(t, want, memoryFor(machine), "%d", machine)
	}
	before := debug.SetMemoryLimit(math.MaxInt64)
	t.Cleanup(func() { debug.SetMemoryLimit(before) })
	t.Setenv("GOMEMLIMIT", "1GiB")
	limitMemory()
	require.EqualValues(t, math.MaxInt64, debug.SetMemoryLimit(-1), "what the user has said is not touched")
	t.Setenv("GOMEMLIMIT", "")
	limitMemory()
	require.LessOrEqual(t, debug.SetMemoryLimit(-1), int64(mostMemory))
}
