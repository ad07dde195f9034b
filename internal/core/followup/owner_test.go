package followup

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/require"
)

func TestGiving(t *testing.T) {
	f := FollowUp{UID: "a", Title: "Clause seven", Status: NeedsAction}
	taken := f.Give(2, 2, "", 100)
	require.Equal(t, Owner{Person: 2, By: 2, At: 100}, taken.Owner)
	require.EqualValues(t, 100, taken.Changed)
	require.Equal(t, taken, taken.Give(2, 3, "again", 200), "whoever has it keeps it as they got it")
	given := taken.Give(3, 2, "you wrote that line", 300)
	require.Equal(t, Owner{Person: 3, By: 2, At: 300, Why: "you wrote that line"}, given.Owner)
	require.Equal(t, Owner{}, given.Give(0, 3, "", 400).Owner)
	require.Equal(t, f, f.Give(0, 3, "", 400), "what is nobody's cannot be given back")
	raw, err := json.Marshal(given)
	require.NoError(t, err)
	var read FollowUp
	require.NoError(t, json.Unmarshal(raw, &read))
	require.True(t, given.Equal(read))
	require.False(t, given.Equal(taken))

	require.Equal(t, Owner{}, OwnerOf(nil))
	require.Equal(t, Owner{}, OwnerOf([]FollowUp{f}))
	require.Equal(t, given.Owner, OwnerOf([]FollowUp{given, f, taken}), "given last")
}
