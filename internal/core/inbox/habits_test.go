package inbox

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/require"
)

// A key somebody has chosen stays with its command, also when that got another name.
func TestKeysStayWithTheirCommands(t *testing.T) {
	for _, c := range []struct {
		stored string
		keys   map[string]string
	}{
		{`{"keys":{"narrow":"y","archive":"e"},"someday":3}`, map[string]string{"filter": "y", "archive": "e"}},
		{`{"keys":{"filter":""}}`, map[string]string{"filter": ""}},
		{`{"keys":null}`, nil},
		{`{}`, nil},
	} {
		var h Habits
		require.NoError(t, json.Unmarshal([]byte(c.stored), &h), c.stored)
		require.Equal(t, c.keys, h.Keys, c.stored)
	}
	var h Habits
	require.Error(t, json.Unmarshal([]byte(`{"keys":7}`), &h))
}
