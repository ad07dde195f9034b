// Package fileshow makes pages that show files: pictures, tables and texts. The pages have no
// script and need none: what is asked of them (the next place, more of it, a larger picture)
// is a fragment of their address, which the browser goes to by itself (HTML standard, section
// 7.4.2.3.3, and the pseudo-class :target of CSS).
//
// A file is known by how it begins, and not by what it is called: one that is a picture is
// shown as a picture whatever its name says, and that is told.
package fileshow

import (
	"bytes"
	"encoding/base64"
	"encoding/csv"
	"fmt"
	"html"
	"image"
	_ "image/gif"  // its size is read
	_ "image/jpeg" // its size is read
	_ "image/png"  // its size is read
	"net/http"
	"path"
	"slices"
	"strings"

	_ "golang.org/x/image/webp" // its size is read

	"ebbe/internal/core/search"
)

// Kind is how a file is shown.
type Kind string

// The ways of showing a file.
const (
	PDF     Kind = "pdf"     // by the reader of PDF
	Picture Kind = "picture" // as it is
	Table   Kind = "table"   // in rows and columns
	Text    Kind = "text"    // what it says
	None    Kind = "none"    // not at all
)

// Limits of what is shown.
const (
	maxPicture = 24 << 20 // bytes
	maxPixels  = 120e6    // of a picture; a browser needs four bytes for each
	maxRows    = 2000     // of a table
	maxColumns = 60       // of a table
	maxPlaces  = 500      // that are marked and gone to, one by one
	linesEach  = 24       // lines, or rows, between two places to which one can turn
)

// Shown is a file as it is shown.
type Shown struct {
	Kind Kind
	Says string // what there is to know of it, in sentences; empty: nothing

	picture string // its media type
	content []byte
	text    string
	rows    [][]string
}

// pictures are the kinds of pictures that every browser shows, by their media types.
var pictures = []string{"image/png", "image/jpeg", "image/gif", "image/webp"}

// called are the ends of names of files that begin in a way of their own.
var called = map[string]string{"application/pdf": ".pdf", "image/png": ".png", "image/jpeg": ".jpg .jpeg .jfif", "image/gif": ".gif", "image/webp": ".webp"}

// named are what such files are called in a sentence.
var named = map[string]string{"application/pdf": "a PDF", "image/png": "a picture (PNG)", "image/jpeg": "a picture (JPEG)", "image/gif": "a picture (GIF)", "image/webp": "a picture (WebP)"}

// Begins says how a file is shown as far as its beginning tells; Text stands for all whose
// text has to be read.
func Begins(content []byte) Kind {
	switch is := http.DetectContentType(content); {
	case is == "application/pdf":
		return PDF
	case slices.Contains(pictures, is):
		return Picture
	}
	return Text
}

// Show says how a file is shown. Of one that is neither a PDF nor a picture the text is shown,
// or why it could not be read, the end of a sentence about the file.
func Show(name string, content []byte, text string, unread error) Shown {
	is := http.DetectContentType(content)
	s := Shown{Kind: Begins(content), content: content, Says: lie(name, is)}
	switch s.Kind {
	case Picture:
		size, _, err := image.DecodeConfig(bytes.NewReader(content))
		switch {
		case err != nil:
			return s.not("This picture is damaged, or not what it says it is.")
		case len(content) > maxPicture || float64(size.Width)*float64(size.Height) > maxPixels:
			return s.not(fmt.Sprintf("This picture is too large to be shown here (%d by %d points). It can be saved.", size.Width, size.Height))
		}
		s.picture = is
	case PDF:
	default:
		if unread != nil {
			return s.not("This file " + unread.Error() + ". It can be saved and opened elsewhere.")
		}
		s.text = strings.ReplaceAll(text, "\r\n", "\n")
		if strings.TrimSpace(s.text) == "" {
			return s.not("There is no text in this file.")
		}
		s.Kind = Text
		if slices.Contains([]string{".csv", ".tsv"}, strings.ToLower(path.Ext(name))) {
			if rows := rowsOf(s.text); len(rows) > 0 {
				s.Kind, s.rows = Table, rows
				if len(rows) > maxRows {
					s.rows = rows[:maxRows]
					s.Says = strings.TrimSpace(s.Says + fmt.Sprintf(" The first %d of %d rows or more.", maxRows, len(rows)))
				}
			}
		}
	}
	return s
}

// lie is a sentence about a file that is not what its name says; empty if it is.
func lie(name, is string) string {
	end := strings.ToLower(path.Ext(name))
	if named[is] != "" {
		if !slices.Contains(strings.Fields(called[is]), end) && end != "" {
			return fmt.Sprintf("It is called %s and is %s.", end, named[is])
		}
		return ""
	}
	for kind, ends := range called {
		if end != "" && slices.Contains(strings.Fields(ends), end) {
			return fmt.Sprintf("It is called %s and is not %s.", end, named[kind])
		}
	}
	return ""
}

func (s Shown) not(why string) Shown {
	return Shown{Kind: None, Says: strings.TrimSpace(why + " " + s.Says)}
}

// rowsOf reads a table (RFC 4180), whatever stands between its cells: what stands there most
// often in its first lines; nil if that makes no table.
func rowsOf(text string) [][]string {
	text = strings.TrimPrefix(text, "\ufeff")
	head, _, _ := strings.Cut(text, "\n")
	between, most := ',', 0
	for _, c := range ",;\t|" {
		if n := strings.Count(head, string(c)); n > most {
			between, most = c, n
		}
	}
	if most == 0 {
		return nil
	}
	r := csv.NewReader(strings.NewReader(text))
	r.Comma, r.LazyQuotes, r.FieldsPerRecord, r.TrimLeadingSpace = between, true, -1, true
	var rows [][]string
	for {
		row, err := r.Read()
		if err != nil { // its end, or what is cut off
			return rows
		}
		rows = append(rows, row)
	}
}

// Page is a page for a frame of its own, without its frame: what stands in its body.
type Page struct {
	HTML   string
	Turns  int // #t1 to #tN go to parts of it
	Places int // #p1 to #pN go to what was looked for; a picture has #z1 to #z4, its sizes
}

// Page makes the page, with the terms marked.
func (s Shown) Page(terms []search.Term) Page {
	w := writer{terms: terms}
	switch s.Kind {
	case Picture:
		for z := 4; z >= 1; z-- {
			fmt.Fprintf(&w.b, `<div id=z%d>`, z)
		}
		fmt.Fprintf(&w.b, `<img alt="" src="data:%s;base64,%s">`, s.picture, base64.StdEncoding.EncodeToString(s.content))
	case Table:
		w.b.WriteString("<table>")
		for i, row := range s.rows {
			cell := "td"
			if i == 0 {
				cell = "th"
			}
			w.turn("<tr id=t%d>", "<tr>", i)
			for _, c := range row[:min(len(row), maxColumns)] {
				w.b.WriteString("<" + cell + ` dir=auto>`)
				w.say(c)
				w.b.WriteString("</" + cell + ">")
			}
			w.b.WriteString("</tr>")
		}
		w.b.WriteString("</table>")
	case Text:
		for i, line := range strings.Split(s.text, "\n") {
			if strings.ContainsRune(line, '\f') {
				line = strings.ReplaceAll(line, "\f", "")
				w.b.WriteString("<hr>")
			}
			w.turn("<p dir=auto id=t%d>", "<p dir=auto>", i)
			w.say(line)
			w.b.WriteString("</p>")
		}
	}
	return Page{HTML: w.b.String(), Turns: w.turns, Places: w.places}
}

// writer writes a page.
type writer struct {
	b             strings.Builder
	terms         []search.Term
	turns, places int
}

// turn begins the i-th line, which every so often is one that can be gone to.
func (w *writer) turn(to, plain string, i int) {
	if i%linesEach > 0 {
		w.b.WriteString(plain)
		return
	}
	w.turns++
	fmt.Fprintf(&w.b, to, w.turns)
}

// say writes a text, with the terms in it marked.
func (w *writer) say(text string) {
	from := 0
	if len(w.terms) > 0 && w.places < maxPlaces {
		for _, m := range search.Marks(text, w.terms) {
			w.places++
			w.b.WriteString(html.EscapeString(text[from:m.From]))
			fmt.Fprintf(&w.b, "<mark id=p%d>%s</mark>", w.places, html.EscapeString(text[m.From:m.To]))
			from = m.To
		}
	}
	w.b.WriteString(html.EscapeString(text[from:]))
}
