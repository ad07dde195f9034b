package mime

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

func TestWithoutBcc(t *testing.T) {
	for raw, want := range map[string]string{
		"From: a\r\nBcc: b@x.example\r\nTo: c\r\n\r\nBcc: in the text\r\n": "From: a\r\nTo: c\r\n\r\nBcc: in the text\r\n",
		"bcc : b,\r\n\tc@x.example\r\n d\r\nTo: c\r\n\r\nx":                "To: c\r\n\r\nx",
		"To: c\nBCC: b\n\nx\n":                                                 "To: c\n\nx\n",
		"To: c\r\nResent-Bcc: b\r\nBcc:\r\nDate: d\r\n\r\n":                    "To: c\r\nDate: d\r\n\r\n",
		"To: c\r\nX-Bcc: stays\r\nSubject: on\r\n Bcc: of the subject\r\n\r\n": "To: c\r\nX-Bcc: stays\r\nSubject: on\r\n Bcc: of the subject\r\n\r\n",
		"no header at all":                                                     "no header at all",
		"":                                                                     "",
	} {
		require.Equal(t, want, string(WithoutBcc([]byte(raw))), raw)
	}
}

// Nobody can be found in it any more who was there unseen, and what is written stays as it was.
func FuzzWithoutBcc(f *testing.F) {
	f.Add([]byte("From: a\r\nBcc: b\r\n c\r\n\r\ntext\r\n"))
	f.Add([]byte("Bcc: b\n\n\ntext"))
	f.Add([]byte("\r\n\r\nBcc: x"))
	f.Fuzz(func(t *testing.T, raw []byte) {
		out := WithoutBcc(raw)
		require.Equal(t, string(out), string(WithoutBcc(out)))
		_, before, _ := strings.Cut(strings.ReplaceAll(string(raw), "\r\n", "\n"), "\n\n")
		_, after, _ := strings.Cut(strings.ReplaceAll(string(out), "\r\n", "\n"), "\n\n")
		if len(readHeader(HeaderOf(out))) > 0 {
			require.Equal(t, before, after)
			require.Empty(t, readHeader(HeaderOf(out)).all("Bcc"))
		}
	})
}
