package main

import (
	"bufio"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"github.com/go-rod/rod/lib/input"
)

// long measures a conversation of n messages, all new, between two of one message: the
// request, and in Chromium from an arrow pressed to the conversation painted, when it has
// been fetched ahead.
func long(dir string, n int) {
	mbox := filepath.Join(dir, "long.mbox")
	f := must(os.Create(mbox))
	w := bufio.NewWriter(f)
	message := func(id, subject string, at time.Time, more string) {
		fmt.Fprintf(w, "From x@y.example Mon Jan  1 00:00:00 2026\nFrom: Writer %s <writer@y.example>\nTo: me@m.example\nSubject: %s\nDate: %s\nMessage-ID: <%s@y.example>\n%s\nA text of some lines about the crates, as long as they are in such a conversation.\nThe second line of %s.\n\n", id, subject, at.Format(time.RFC1123Z), id, more, id)
	}
	begin := time.Date(2026, 1, 1, 8, 0, 0, 0, time.UTC)
	message("before", "The one before", begin, "")
	for i := range n {
		more := "References: <long0@y.example>\n"
		if i == 0 {
			more = ""
		}
		message(fmt.Sprintf("long%d", i), "The long one", begin.Add(time.Duration(i+1)*time.Minute), more)
	}
	message("after", "The one after", begin.Add(time.Duration(n+2)*time.Minute), "")
	check(w.Flush())
	check(f.Close())
	data := filepath.Join(dir, "long")
	importing("import of a long conversation", n+2, mbox, "--data", data)
	s := start(data)
	defer s.stop()
	s.signIn()
	ids := s.inbox(3)
	s.p95(fmt.Sprintf("a conversation of %d messages: the request", n), 40, func(int) { s.call("GET", fmt.Sprintf("/conversations/%d", ids[1]), nil, nil) })
	b := inChromium()
	defer b.MustClose()
	p := b.MustPage(s.url).MustSetViewport(1280, 800, 1, false)
	p.MustElement("#address").MustInput("me@m.example")
	p.MustElement("#password").MustInput("long enough").MustType(input.Enter)
	p.MustElement("[data-testid=body]")
	p.MustEval(measured)
	var took []float64
	for range 30 {
		took = append(took, keys(p, input.ArrowDown, 1, 3*tenth)...) // to the long one
		keys(p, input.ArrowDown, 1, tenth)
		keys(p, input.Home, 1, 3*tenth)
	}
	report(fmt.Sprintf("an arrow to a conversation of %d messages painted", n), took)
}
