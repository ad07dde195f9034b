package desk

import (
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/store"
)

// Two hundred labelled questions about fifty messages among some hundred others, which are
// put together of their sentences: nearly all are answered by one of the first ten that are
// found, most by the first.
func TestTwoHundredQuestions(t *testing.T) {
	raw, err := os.ReadFile("testdata/recall.txt")
	require.NoError(t, err)
	f := newOffice(t, store.Options{})
	type question struct{ asked, subject string }
	var questions []question
	var mails, sentences []string
	subject := ""
	message := func(i int, from, day, subject, text, file string) string {
		m := fmt.Sprintf("From: %s\nTo: solvei@m.example\nSubject: %s\nDate: %s 09:00:00 +0000\nMessage-ID: <r%d@x>\nMIME-Version: 1.0\n", from, subject, day, i)
		plain := "Content-Type: text/plain; charset=utf-8\n\n" + text + "\n"
		if file == "" {
			return m + plain
		}
		name, says, _ := strings.Cut(file, ": ")
		return m + "Content-Type: multipart/mixed; boundary=b\n\n--b\n" + plain + "--b\nContent-Type: text/plain; charset=utf-8\nContent-Disposition: attachment; filename=\"" + name + "\"\n\n" + says + "\n--b--\n"
	}
	dayOf := func(iso string) string { // as a header has it
		months := strings.Fields("Jan Feb Mar Apr May Jun Jul Aug Sep Oct Nov Dec")
		var y, m, d int
		_, err := fmt.Sscanf(iso, "%d-%d-%d", &y, &m, &d)
		require.NoError(t, err)
		return fmt.Sprintf("%d %s %d", d, months[m-1], y)
	}
	for line := range strings.Lines(string(raw)) {
		switch line = strings.TrimSpace(line); {
		case strings.HasPrefix(line, "= "):
			parts := append(strings.Split(line[2:], " | "), "")
			subject = parts[0]
			mails = append(mails, message(len(mails), parts[1], dayOf(parts[2]), subject, parts[3], parts[4]))
			sentences = append(sentences, strings.SplitAfter(parts[3], ". ")...)
		case strings.HasPrefix(line, "? "):
			questions = append(questions, question{line[2:], subject})
		}
	}
	require.Len(t, questions, 200)
	r := rand.New(rand.NewPCG(4, 2))
	for i := range 150 { // others that say some of it, each two sentences of two of them
		text := sentences[r.IntN(len(sentences))] + " " + sentences[r.IntN(len(sentences))]
		mails = append(mails, message(len(mails), fmt.Sprintf("Writer %d <writer%d@others.example>", i, i), dayOf(fmt.Sprintf("2026-%02d-%02d", 1+r.IntN(11), 1+r.IntN(23))), fmt.Sprintf("Talk %d", i), text, ""))
	}
	f.take(t, mails...)
	f.readFiles(t)
	first, ten, offered := 0, 0, 0
	for _, q := range questions {
		subjects, _, out := f.found(t, q.asked)
		if len(subjects) == 0 && len(out.Instead) > 0 {
			if subjects, _, _ = f.found(t, out.Instead[0].Asked); slices.Contains(subjects, q.subject) {
				offered++
				continue
			}
		}
		switch at := slices.Index(subjects, q.subject); {
		case at == 0:
			first++
			ten++
		case at > 0 && at < 10:
			ten++
		default:
			t.Logf("“%s” finds %q, not “%s”", q.asked, subjects[:min(len(subjects), 3)], q.subject)
		}
	}
	t.Logf("of 200, %d are answered by the first, %d by one of ten, %d by what is offered instead", first, ten, offered)
	require.GreaterOrEqual(t, ten, 195)
	require.GreaterOrEqual(t, ten+offered, 199)
	require.GreaterOrEqual(t, first, 160)
}
