package mime

import (
	"bytes"
	"fmt"
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/mail"
)

// shapes are messages that a reader can be made to work too much by, each made
// as large as asked for.
var shapes = map[string]func(n int) []byte{
	"multiparts that are never closed": func(n int) []byte {
		var b bytes.Buffer
		b.WriteString("From: a@a.example\nSubject: nested\n")
		for i := range n / 50 {
			fmt.Fprintf(&b, "Content-Type:\n multipart/mixed; boundary=b%d\n\n--b%d\n", i, i)
		}
		return b.Bytes()
	},
	"ten multiparts deep, and then many boundaries": func(n int) []byte {
		var b bytes.Buffer
		b.WriteString("From: a@a.example\n")
		for i := range maxDepth {
			fmt.Fprintf(&b, "Content-Type: multipart/mixed; boundary=b%d\n\n--b%d\n", i, i)
		}
		for b.Len() < n {
			b.WriteString("\n--bb\n--b9--\n--\n")
		}
		return b.Bytes()
	},
	"many short lines that are quoted in turn": func(n int) []byte {
		return []byte("From: a@a.example\n\n" + strings.Repeat("> a\nb\n", n/6))
	},
	"many short lines": func(n int) []byte { return []byte("From: a@a.example\n\n" + strings.Repeat("a\n", n/2)) },
	"many lines that announce a quotation": func(n int) []byte {
		return []byte("From: a@a.example\n\n" + strings.Repeat("On some day Jonas wrote:\n\n\n\n", n/30))
	},
	"soft breaks": func(n int) []byte {
		return []byte("From: a@a.example\nContent-Type: text/plain; charset=utf-8; format=flowed\nContent-Transfer-Encoding: quoted-printable\n\n" + strings.Repeat("a=\n", n/3))
	},
	"base64": func(n int) []byte {
		return []byte("From: a@a.example\nContent-Type: application/zip\nContent-Transfer-Encoding: base64\n\n" + strings.Repeat(strings.Repeat("QUJD", 19)+"\n", n/77))
	},
	"boxes in boxes": func(n int) []byte {
		return []byte("From: a@a.example\nContent-Type: text/html\n\n" + strings.Repeat("<div>", n/10) + "x")
	},
	"marks that are never closed, and paragraphs": func(n int) []byte {
		var b bytes.Buffer
		b.WriteString("From: a@a.example\nContent-Type: text/html\n\n")
		for i := range 500 {
			fmt.Fprintf(&b, "<b style='color:#%06x'>", i)
		}
		for b.Len() < n {
			b.WriteString("<p>x")
		}
		return b.Bytes()
	},
	"tables": func(n int) []byte {
		return []byte("From: a@a.example\nContent-Type: text/html\n\n" + strings.Repeat("<table><tr><td>x", n/16))
	},
	"attributes": func(n int) []byte {
		var b bytes.Buffer
		b.WriteString("From: a@a.example\nContent-Type: text/html\n\n<p")
		for i := 0; b.Len() < n; i++ {
			fmt.Fprintf(&b, " a%d=x", i)
		}
		b.WriteString(">x")
		return b.Bytes()
	},
	"comments": func(n int) []byte {
		return []byte("From: a@a.example\nContent-Type: text/html\n\n" + strings.Repeat("<!-", n/3) + "x")
	},
	"a header of many fields": func(n int) []byte {
		return []byte(strings.Repeat("X: y\n", min(n, maxHeader-100)/5) + "From: a@a.example\n\nx")
	},
	"a field of many folds": func(n int) []byte {
		return []byte("From: a@a.example\nSubject: x\n" + strings.Repeat(" x\n", min(n, maxHeader-100)/3) + "\nx")
	},
	"a long list of people": func(n int) []byte {
		return []byte("From: a@a.example\nTo: " + strings.Repeat("\"A\" <a@a.example>, ", min(n, maxHeader-100)/20) + "\n\nx")
	},
	"people with comments": func(n int) []byte {
		return []byte("From: a@a.example\nTo: " + strings.Repeat("(", min(n, maxHeader-100)) + "\n\nx")
	},
	"encoded words": func(n int) []byte {
		return []byte("From: a@a.example\nSubject: " + strings.Repeat("=?utf-8?q?a?= ", min(n, maxHeader-100)/14) + "\n\nx")
	},
	"a type of many parameters": func(n int) []byte {
		return []byte("From: a@a.example\nContent-Type: text/plain; " + strings.Repeat("a*0=\"x\"; ", min(n, maxHeader-100)/9) + "\n\nx")
	},
}

// work is what opening a message does to its bytes.
func work(raw []byte) {
	b := Read(raw)
	mail.Fold(b.Text)
	if b.HTML != "" {
		TextOf(b.HTML)
		Sanitise(b.HTML, false, false, func(string) string { return "" })
	}
}

// allocated is what f asks of memory, in bytes: a measure of its steps that no
// other program on the machine changes.
func allocated(f func()) uint64 {
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	f()
	runtime.ReadMemStats(&after)
	return after.TotalAlloc - before.TotalAlloc
}

// Whatever a message contains, reading and opening it takes what its size takes:
// four times the size takes no more than some five times as much.
func TestReadingGrowsWithTheSizeAlone(t *testing.T) {
	const size = 256 << 10
	for name, shape := range shapes {
		t.Run(name, func(t *testing.T) {
			small, large := shape(size), shape(4*size)
			work(small) // what is made once is not counted
			a, b := allocated(func() { work(small) }), allocated(func() { work(large) })
			require.Less(t, float64(b), 6*float64(a)+float64(1<<20), "%d bytes took %d, %d took %d", len(small), a, len(large), b)
		})
	}
}
