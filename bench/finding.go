package main

import (
	"bufio"
	"database/sql"
	"encoding/base64"
	"fmt"
	"math/rand/v2"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	_ "github.com/mattn/go-sqlite3"
)

// vocabulary is how many words the made-up language of the searches has. How often each
// stands follows its rank (Zipf), as in any language.
const vocabulary = 60_000

// language is the made-up language: its words, the commonest first.
func language(r *rand.Rand) []string {
	parts := strings.Fields("ba be bi bo da de di do fa fe ka ke ki ko la le li lo ma me mi mo na ne ni no pa pe pi po ra re ri ro sa se si so ta te ti to va ve vi vo tra pre con ing")
	seen := map[string]bool{}
	// The commonest are English, as the language of a text is told by them.
	words := strings.Fields("the and you is are of for with please thank we your have this that it be to on was will can could from by not at as or")
	for len(words) < vocabulary {
		n := 2 + r.IntN(4)
		if len(words) < 300 {
			n = 1 + r.IntN(2)
		}
		var b strings.Builder
		for range n {
			b.WriteString(parts[r.IntN(len(parts))])
		}
		if w := b.String(); !seen[w] {
			seen[w] = true
			words = append(words, w)
		}
	}
	return words
}

// finding measures searches in an archive of n messages, every tenth with a file.
func finding(data string, n int) {
	r := rand.New(rand.NewPCG(7, uint64(n)))
	words := language(r)
	zipf := rand.NewZipf(r, 1.05, 8, vocabulary-1)
	text := 0
	if _, err := os.Stat(filepath.Join(data, "ebbe.db")); err != nil {
		mbox := filepath.Join(data, "archive.mbox")
		check(os.MkdirAll(data, 0o700))
		f := must(os.Create(mbox))
		w := bufio.NewWriterSize(f, 1<<20)
		begin, step := time.Date(2017, 1, 1, 8, 0, 0, 0, time.UTC), 9*365*24*time.Hour/time.Duration(n)
		says := func(n int) string {
			var b strings.Builder
			for i := range n {
				b.WriteString(words[zipf.Uint64()])
				b.WriteByte(" \n"[min(1, i%12/11)])
			}
			text += b.Len()
			return b.String()
		}
		for i := range n {
			at := begin.Add(time.Duration(i) * step)
			root := i - i%5
			fmt.Fprintf(w, "From x@y.example Mon Jan  1 00:00:00 2026\nFrom: Writer %d <writer%d@place%d.example>\nTo: me@m.example\nSubject: Matter %d %s\nDate: %s\nMessage-ID: <s%d@y.example>\n", i%997, i%997, i%97, root, words[root%len(words)], at.Format(time.RFC1123Z), i)
			if i != root {
				fmt.Fprintf(w, "References: <s%d@y.example>\n", root)
			}
			if i%10 == 0 {
				fmt.Fprintf(w, "MIME-Version: 1.0\nContent-Type: multipart/mixed; boundary=b\n\n--b\nContent-Type: text/plain\n\n%s\n--b\nContent-Type: text/plain\nContent-Disposition: attachment; filename=file%d.txt\nContent-Transfer-Encoding: base64\n\n%s\n--b--\n\n", says(60+r.IntN(120)), i, base64.StdEncoding.EncodeToString([]byte(says(100))))
			} else {
				fmt.Fprintf(w, "MIME-Version: 1.0\nContent-Type: text/plain\n\n%s\n\n", says(60+r.IntN(120)))
			}
		}
		check(w.Flush())
		check(f.Close())
		importing("import, every tenth message with a file", n, mbox, "--place", "archived", "--data", data)
		check(os.Remove(mbox))
	}
	s := start(data)
	defer s.stop()
	s.signIn()
	begin := time.Now()
	for { // until all files have been read
		var found struct{ Covers struct{ Unread int } }
		s.call("GET", "/found?asked=ba", nil, &found)
		if found.Covers.Unread == 0 {
			break
		}
		time.Sleep(time.Second)
	}
	if took := time.Since(begin); took > 2*time.Second {
		fmt.Printf("%-58s %8.0f files/s\n", "files read in the background", float64(n/10)/took.Seconds())
	}
	db := must(sql.Open("sqlite3", "file:"+filepath.Join(data, "ebbe.db")+"?mode=ro"))
	defer db.Close()
	db.SetMaxOpenConns(1)
	if text > 0 {
		var index int
		check(db.QueryRow("SELECT (SELECT SUM(length(block)) FROM words_data) + (SELECT SUM(length(block)) FROM document_words_data)").Scan(&index))
		fmt.Printf("%-58s %8.0f %% of the text (%d of %d MB)\n", "the index of words", 100*float64(index)/float64(text), index>>20, text>>20)
		check(db.QueryRow("SELECT (SELECT SUM(length(block)) FROM starts_data) + (SELECT SUM(length(block)) FROM document_starts_data)").Scan(&index))
		fmt.Printf("%-58s %8.0f %% of the text\n", "that of the beginnings of words", 100*float64(index)/float64(text))
	}
	// in is in how many messages a word stands; what is asked for is chosen by that.
	in := func(match string) (n int) {
		check(db.QueryRow("SELECT COUNT(*) FROM words WHERE words MATCH ?", match).Scan(&n))
		return n
	}
	pick := func(from, step int) (out []string) {
		for i := 0; len(out) < 40; i++ {
			out = append(out, words[(from+i*step)%vocabulary])
		}
		return out
	}
	at := func(d []time.Duration, part float64) float64 {
		d = slices.Sorted(slices.Values(d[3:]))
		return float64(d[min(len(d)-1, int(part*float64(len(d))))].Microseconds()) / 1000
	}
	times := func(name string, asked []string, match func(string) string) {
		var floor, took []time.Duration
		for _, a := range append(asked[:3:3], asked...) {
			begin := time.Now()
			rows := must(db.Query("SELECT rowid FROM words WHERE words MATCH ? ORDER BY rowid DESC LIMIT 10", match(a)))
			for rows.Next() {
				var id int64
				check(rows.Scan(&id))
			}
			check(rows.Close())
			floor = append(floor, time.Since(begin))
			begin = time.Now()
			s.call("GET", "/found?asked="+url.QueryEscape(a), nil, nil)
			took = append(took, time.Since(begin))
		}
		fmt.Printf("%-58s p50 %6.1f  p95 %6.1f ms (plain index: %5.1f and %5.1f ms; in %d messages)\n", name, at(took, .5), at(took, .95), at(floor, .5), at(floor, .95), in(match(asked[0])))
	}
	exact := func(a string) string { return `"` + a + `"` }
	begins := func(a string) string { return `"` + a + `"*` }
	all := func(a string) string { return strings.Join(strings.Fields(a), " AND ") }
	times("a rare word", pick(50_000, 7), exact)
	times("a word of the middle", pick(4_000, 11), exact)
	times("the commonest words", pick(0, 1), exact)
	var both, typed, three []string
	for i, w := range pick(3_000, 13) {
		both = append(both, words[i]+" "+w)
		typed = append(typed, w[:min(len(w), 4+i%3)])
		three = append(three, words[400+i*50][:3])
	}
	times("a common word and one of the middle", both, all)
	times("a word being typed, four to six letters", typed, begins)
	times("a word being typed, three letters", three, begins)
	var took []time.Duration
	for i := range 43 {
		begin := time.Now()
		s.call("GET", "/found?asked="+url.QueryEscape([]string{"with pdfs", "with archives", "answered", "larger than 50 MB"}[i%4]), nil, nil)
		took = append(took, time.Since(begin))
	}
	fmt.Printf("%-58s p50 %6.1f  p95 %6.1f ms\n", "no words: PDFs, archives, answered, large; none is", at(took, .5), at(took, .95))
}
