package mail

import (
	"testing"

	"github.com/stretchr/testify/require"
)

func TestSameText(t *testing.T) {
	require.True(t, SameText("The crates\nare here.", "The crates are here.\r\n-- \r\nTo leave this list"), "a list's copy with its footer")
	require.True(t, SameText("", "  \n"))
	require.False(t, SameText("", "Pay now"), "nothing is in everything, and says nothing")
	require.False(t, SameText("The crates are here.", "Pay the invoice."))
}
