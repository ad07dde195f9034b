package imap

import (
	"testing"

	"github.com/stretchr/testify/require"
)

// The name of a folder follows the prefix and the delimiter of its server; a delimiter
// within a name is none.
func TestPath(t *testing.T) {
	for _, c := range []struct {
		own, delim, name, want string
	}{
		{"", "/", "Ebbe/Next week", "Ebbe/Next week"},
		{"INBOX.", ".", "Ebbe/Next week", "INBOX.Ebbe.Next week"},
		{"INBOX.", ".", "Ebbe/v1.2", "INBOX.Ebbe.v1 2"},
	} {
		m := &Mailbox{}
		m.spaces.known, m.spaces.own, m.spaces.delim = true, c.own, c.delim
		require.Equal(t, c.want, m.Path(c.name))
	}
}
