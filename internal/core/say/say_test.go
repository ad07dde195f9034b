package say

import (
	"testing"

	"github.com/stretchr/testify/require"
)

func TestWords(t *testing.T) {
	require.Equal(t, []string{"0 messages", "1 message", "3 messages"}, []string{Plural(0, "message"), Plural(1, "message"), Plural(3, "message")})
	require.Equal(t, []string{"", "The line", "“fri” is no day", "Ørsted is meant", "\xff"}, []string{Upper(""), Upper("the line"), Upper("“fri” is no day"), Upper("ørsted is meant"), Upper("\xff")})
}
