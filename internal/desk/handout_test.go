package desk

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/store"
)

func TestAConversationIsHandedOut(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t,
		"From: Mirela Dossett <mirela@coast.example>\nTo: Solvei <solvei@m.example>\nCc: Tomasz <tomasz@m.example>\nSubject: Crates <two>\nDate: Tue, 24 Nov 2026 09:10:00 +0100\nMessage-ID: <a/1@x>\n\nWhich <b>height</b>?\n\n> On Monday you wrote:\n> about the crates\n",
		"From: Tomasz <tomasz@m.example>\nTo: Mirela <mirela@coast.example>\nSubject: Re: Crates <two>\nDate: Tue, 24 Nov 2026 09:20:00 +0100\nMessage-ID: <b@x>\nReferences: <a/1@x>\nContent-Type: text/html\n\n<p>It is <i>118</i>.</p><script>alert(1)</script><img src=\"https://bad.example/x.png\">",
		strings.Replace(withFile("c@x", "Mirela Dossett <mirela@coast.example>", "Re: Crates <two>", "Thank you.", "list.csv", "text/csv", "a,b"), "\nDate:", "\nReferences: <a/1@x>\nDate:", 1))
	id := f.by(t, "Crates <two>").ID
	text, err := f.Reading.Text(ctx, f.who, id)
	require.NoError(t, err)
	line := strings.Repeat("-", 60)
	require.Equal(t, "Crates <two>\n\n"+line+"\nFrom: Mirela Dossett <mirela@coast.example>\nTo: Solvei <solvei@m.example>\nCopy: Tomasz <tomasz@m.example>\nOn: Tuesday 24 November 2026, 09:10\n\nWhich <b>height</b>?\n\n> On Monday you wrote:\n> about the crates\n"+
		"\n"+line+"\nFrom: Mirela Dossett <mirela@coast.example>\nTo: solvei@m.example\nOn: Tuesday 24 November 2026, 09:10\nFiles: list.csv\n\nThank you.\n"+
		"\n"+line+"\nFrom: Tomasz <tomasz@m.example>\nTo: Mirela <mirela@coast.example>\nOn: Tuesday 24 November 2026, 09:20\n\nIt is 118.\n", text)

	title, page, err := f.Reading.Clean(ctx, f.who, id, func(int64, string) string { return "" })
	require.NoError(t, err)
	require.Equal(t, "Crates <two>", title)
	require.Contains(t, page.HTML, "<h1 dir=auto>Crates &lt;two&gt;</h1>")
	require.Contains(t, page.HTML, "Which &lt;b&gt;height&lt;/b&gt;?")
	require.Contains(t, page.HTML, "<blockquote class=text dir=auto>")
	require.Contains(t, page.HTML, "<i>118</i>")
	require.NotContains(t, page.HTML, "alert")
	require.NotContains(t, page.HTML, "bad.example")

	stranger := identity.Who{Person: 2, Box: 2}
	_, err = f.Reading.Text(ctx, stranger, id)
	require.ErrorIs(t, err, store.ErrNotFound)
	_, _, err = f.Reading.Clean(ctx, stranger, id, nil)
	require.ErrorIs(t, err, store.ErrNotFound)
}

func TestTheEarliestOfVeryMuchIsLeftOut(t *testing.T) {
	f := newOffice(t, store.Options{})
	var raws []string
	for i := range 4 {
		refs := ""
		if i > 0 {
			refs = "References: <n0@x>\n"
		}
		raws = append(raws, fmt.Sprintf("From: Mirela <mirela@coast.example>\nTo: solvei@m.example\nSubject: Logs\nDate: Tue, 24 Nov 2026 09:1%d:00 +0100\nMessage-ID: <n%d@x>\n%s\nno. %d\n%s", i, i, refs, i, strings.Repeat("a line of the log\n", 500_000)))
	}
	f.take(t, raws...)
	text, err := f.Reading.Text(ctx, f.who, f.by(t, "Logs").ID)
	require.NoError(t, err)
	require.True(t, strings.HasPrefix(text, "Logs\n2 earlier messages are left out"), text[:80])
	require.NotContains(t, text, "no. 1\n")
	require.Contains(t, text, "no. 3\n")
}

func TestWhatTheHeaderSays(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, "Authentication-Results: mx1.m.example; dkim=pass header.d=coast.example; dmarc=pass header.from=coast.example\nReceived: from mx.coast.example by mx1.m.example with ESMTPS id 1; Tue, 24 Nov 2026 09:00:00 +0100\nFrom: Mirela <mirela@coast.example>\nSubject: Crates\nX-Long: "+strings.Repeat("x", 70_000)+"\nMessage-ID: <a?1@x>\n\nTwo.\n",
		"From: Nobody <a@forged.example>\nSubject: Forged\nReceived: from here by forged.example\nAuthentication-Results: mx1.m.example; dmarc=pass header.from=forged.example\n\nHello\n")
	v, err := f.Reading.Source(ctx, f.who, f.message(t, "Crates"))
	require.NoError(t, err)
	require.Equal(t, "It is from coast.example: your server has checked that.", v.Said[0].Text)
	require.Equal(t, "It came to your server over an encrypted line.", v.Said[len(v.Said)-1].Text)
	require.Equal(t, "mid:a%3F1@x", v.Link)
	require.Len(t, v.Header, 64<<10)
	require.Greater(t, v.More, 4000)
	require.True(t, strings.HasPrefix(v.Header, "Authentication-Results: mx1"))
	v, err = f.Reading.Source(ctx, f.who, f.message(t, "Forged"))
	require.NoError(t, err)
	require.Len(t, v.Said, 1)
	require.Equal(t, "Your server has not said whether it is from forged.example.", v.Said[0].Text)
	_, err = f.Reading.Source(ctx, identity.Who{Person: 2, Box: 2}, f.message(t, "Crates"))
	require.ErrorIs(t, err, store.ErrNotFound)
}

// A message in a language that the reader does not read says in which it is.
func TestAForeignLanguageIsNamed(t *testing.T) {
	f := newOffice(t, store.Options{})
	german := "Sehr geehrte Frau Arnkvist, wir möchten Sie herzlich zu der Besprechung über den Katalog einladen, die am Donnerstag in der Pegelstube stattfindet. Bitte geben Sie uns kurz Bescheid, ob Sie kommen können und wie viele Personen Sie mitbringen.\n"
	f.take(t, "From: Grete <grete@pegel.example>\nSubject: Katalog\nMessage-ID: <a@x>\nContent-Type: text/plain; charset=utf-8\n\n"+german, letter("b@x", "Mirela <mirela@coast.example>", "Crates"))
	language := func(subject string) string {
		t.Helper()
		v, err := f.Reading.Conversation(ctx, f.who, f.by(t, subject).ID)
		require.NoError(t, err)
		return v.Messages[0].Language
	}
	require.Equal(t, "German", language("Katalog"))
	require.Empty(t, language("Crates"))
	f.who.Week.Languages = []when.Language{when.German}
	require.Empty(t, language("Katalog"))
}
