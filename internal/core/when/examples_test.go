package when

import (
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// What people are told that they can write is understood whenever it is read, and
// stands in what they can read about it.
func TestWhatPeopleAreToldCanBeWritten(t *testing.T) {
	words, err := os.ReadFile("../../../docs/times.md")
	require.NoError(t, err)
	w := Ordinary("Europe/Oslo")
	for _, at := range []time.Time{
		time.Date(2026, 11, 24, 10, 42, 0, 0, w.Location()), time.Date(2026, 11, 29, 23, 59, 0, 0, w.Location()), time.Date(2026, 12, 31, 0, 0, 0, 0, w.Location()),
		time.Date(2028, 2, 29, 6, 0, 0, 0, w.Location()), time.Date(2026, 3, 29, 1, 30, 0, 0, w.Location()), time.Date(2026, 10, 25, 2, 30, 0, 0, w.Location()),
	} {
		got := w.Examples(Of(at))
		require.Len(t, got, len(examples), "at %s", at)
		for i, e := range got {
			require.Equal(t, examples[i], e.Phrase)
			require.NotEmpty(t, e.Means)
		}
	}
	for _, phrase := range examples {
		require.Contains(t, string(words), phrase)
	}
	require.Equal(t, Example{"next fri", "Fri 4 Dec, 8:00"}, w.Examples(Of(time.Date(2026, 11, 24, 10, 42, 0, 0, w.Location())))[14])
}
