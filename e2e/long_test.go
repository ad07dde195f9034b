package e2e

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"
)

// A conversation of three hundred messages opens at the first that is new, and its outline
// goes to any of them, of one writer if that is chosen; what is quoted and stands nowhere
// else is open.
func TestALongConversation(t *testing.T) {
	t.Parallel()
	s := demo(t)
	var mbox strings.Builder
	write := func(i int, text string) {
		at := time.Date(2026, 11, 20, 0, i, 0, 0, time.UTC)
		if i >= 280 { // after what was decided about the rest
			at = time.Date(2026, 11, 24, 10, i-280, 0, 0, time.UTC)
		}
		who := []string{"Mirela Long <mirela@long.example>", "Tomasz Long <tomasz@long.example>"}[i%2]
		fmt.Fprintf(&mbox, "From x@long.example Mon Jan  1 00:00:00 2026\nFrom: %s\nTo: solvei.arnkvist@skagvikmuseum.example\nSubject: The long one\nDate: %s\nMessage-ID: <l%d@long.example>\n", who, at.Format(time.RFC1123Z), i)
		if i > 0 {
			mbox.WriteString("References: <l0@long.example>\n")
		}
		fmt.Fprintf(&mbox, "\nThis is message %d of the long one.\n%s\n\n", i, text)
	}
	for i := range 280 {
		write(i, "")
	}
	s.takesIn(mbox.String())
	p := open(t, s.url, 1280, 800).enter()
	p.chooseSubject("The long one")
	p.press(input.Digit2) // archived: known as far as it goes
	p.until("document.querySelector('[data-testid=subject]').textContent !== 'The long one'")
	mbox.Reset()
	for i := range 20 {
		text := ""
		if i == 0 {
			text = "\n> Nobody has ever written this sentence in our conversation before today.\n"
		}
		if i == 1 {
			text = "\n> This is message 280 of the long one.\n> Nobody has ever written this sentence in our conversation before today.\n"
		}
		write(280+i, text)
	}
	s.takesIn(mbox.String())
	p.MustReload()
	p.see("[data-slip]")
	p.chooseSubject("The long one")
	p.reads("[data-testid=outline] h2", "300 messages")
	p.reads("[data-testid=new-since]", "20 new since you were here")
	require.Equal(t, "This is message 280 of the long one.", p.MustEval("() => document.querySelector('[data-testid=new-since] + article [data-testid=body] p').textContent.split('\\n')[0]").Str())
	require.Contains(t, p.MustEval("() => document.querySelector('[data-testid=new-since] + article blockquote').textContent").Str(), "Nobody has ever")
	require.True(t, p.MustEval("() => !document.querySelector('[data-testid=new-since] + article + article blockquote')").Bool(), "it stands in the message before")

	p.presses("[data-testid=outline] button", "Tomasz")
	p.until("[...document.querySelectorAll('[data-testid=outline] li')].every(l => l.textContent.includes('Tomasz'))")
	p.presses("[data-testid=outline] li button", "message 297 ")
	p.until("[...document.querySelectorAll('article')].some(a => a.textContent.includes('This is message 297 of') && a.getBoundingClientRect().top >= 80 && a.getBoundingClientRect().bottom < 720)")
}

// What was new stays open while it is read, also once something was decided about it.
func TestWhatIsNewStaysOpen(t *testing.T) {
	t.Parallel()
	s := demo(t)
	var mbox strings.Builder
	for i := range 6 {
		fmt.Fprintf(&mbox, "From x@long.example Mon Jan  1 00:00:00 2026\nFrom: Mirela Long <mirela@long.example>\nTo: solvei.arnkvist@skagvikmuseum.example\nSubject: Six letters\nDate: Fri, 20 Nov 2026 09:0%d:00 +0100\nMessage-ID: <s%d@long.example>\n", i, i)
		if i > 0 {
			mbox.WriteString("References: <s0@long.example>\n")
		}
		fmt.Fprintf(&mbox, "\nThis is letter %d.\n\n", i)
	}
	s.takesIn(mbox.String())
	p := open(t, s.url, 1280, 800).enter()
	p.chooseSubject("Six letters")
	p.until("document.querySelectorAll('article [data-testid=body]').length === 6")
	p.until("document.querySelector('[data-testid=outline]').textContent.includes(', new')")
	p.letters("*")
	p.until("!document.querySelector('[data-testid=outline]').textContent.includes(', new')") // asked for anew
	p.until("document.querySelectorAll('article [data-testid=body]').length === 6 && document.querySelector('article').textContent.includes('letter 0')")
}
