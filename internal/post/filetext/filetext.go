// Package filetext reads the text of files: plain text, HTML, PDF, the office formats that
// are ZIP with XML (ISO/IEC 29500 and 26300), calendars (RFC 5545), contacts (RFC 6350) and
// attached messages (RFC 5322).
//
// What comes from outside can be made to harm whoever reads it. Apart reads each file in a
// process of its own, with a limit of time and memory, so that a file that takes too much
// or breaks its reader harms nothing else.
package filetext

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/emersion/go-ical"
	"github.com/emersion/go-vcard"
	"github.com/ledongthuc/pdf"
	"golang.org/x/net/html/charset"

	"ebbe/internal/post/mime"
)

// Limits of what is read.
const (
	MaxFile  = 48 << 20  // bytes of a file
	MaxText  = 400 << 10 // bytes of the text of one
	maxPages = 400       // of a PDF
	maxParts = 400       // of an office file
	maxPart  = 32 << 20  // bytes of a part of one, unpacked
	maxDepth = 2         // messages attached to messages
)

// Errors of Read. Their texts are ends of sentences about a file.
var (
	ErrUnknown = errors.New("is of a kind that has no text")
	ErrLarge   = errors.New("is too large to be read")
	ErrLocked  = errors.New("is locked with a password")
	ErrBroken  = errors.New("is damaged, or not what it says it is")
)

// PageBreak stands between the pages of a text that has any.
const PageBreak = "\f"

// Read reads the text of a file, which is known by its beginning, its type and its name,
// in this order. A text longer than MaxText ends there.
func Read(name, kind string, content []byte) (text string, err error) {
	return read(name, kind, content, 0)
}

func read(name, kind string, content []byte, depth int) (text string, err error) {
	if len(content) > MaxFile {
		return "", ErrLarge
	}
	defer func() {
		if r := recover(); r != nil { // readers of what others made can stumble over what nobody made so before
			err = fmt.Errorf("%w: %v", ErrBroken, r)
		}
		text = limit(text)
	}()
	kind, end := strings.ToLower(strings.TrimSpace(kind)), strings.ToLower(path.Ext(name))
	switch {
	case bytes.HasPrefix(content, []byte("%PDF-")):
		return ofPDF(content)
	case bytes.HasPrefix(content, []byte("PK\x03\x04")):
		return ofZIP(content)
	case bytes.HasPrefix(content, []byte{0xD0, 0xCF, 0x11, 0xE0}): // a compound file: an old office format, or a locked one
		return "", ErrLocked
	case kind == "application/pdf" || end == ".pdf":
		return "", ErrBroken
	case kind == "text/calendar" || end == ".ics":
		return ofCalendar(content)
	case kind == "text/vcard" || kind == "text/x-vcard" || end == ".vcf":
		return ofContacts(content)
	case kind == "message/rfc822" || end == ".eml":
		return ofMessage(content, depth)
	case kind == "text/html" || end == ".html" || end == ".htm":
		s, err := decoded(content, "text/html")
		return mime.TextOf(s), err
	case strings.HasPrefix(kind, "text/"), slices.Contains([]string{".txt", ".csv", ".md", ".log", ".json", ".xml", ".tsv"}, end):
		return decoded(content, kind)
	}
	return "", ErrUnknown
}

// Readable says that a file can have a text, by its name and type.
func Readable(name, kind string) bool {
	kind = strings.ToLower(kind)
	return strings.HasPrefix(kind, "text/") || strings.Contains(kind, "pdf") || strings.Contains(kind, "opendocument") || strings.Contains(kind, "openxmlformats") || kind == "application/zip" || kind == "message/rfc822" ||
		slices.Contains([]string{".pdf", ".txt", ".csv", ".md", ".log", ".json", ".xml", ".tsv", ".html", ".htm", ".ics", ".vcf", ".eml", ".docx", ".xlsx", ".pptx", ".odt", ".ods", ".odp", ".zip"}, strings.ToLower(path.Ext(name)))
}

func limit(text string) string {
	if len(text) > MaxText {
		text = text[:MaxText]
	}
	return strings.ToValidUTF8(strings.ReplaceAll(text, "\x00", ""), "")
}

// decoded is a text as UTF-8, whatever it was written in.
func decoded(content []byte, kind string) (string, error) {
	content = content[:min(len(content), 4*MaxText)]
	if utf8.Valid(content) {
		return string(bytes.TrimPrefix(content, []byte("\ufeff"))), nil
	}
	if bytes.IndexByte(content[:min(len(content), 512)], 0) >= 0 && !bytes.HasPrefix(content, []byte{0xFF, 0xFE}) && !bytes.HasPrefix(content, []byte{0xFE, 0xFF}) {
		return "", ErrBroken // nobody writes a text like this
	}
	r, err := charset.NewReader(bytes.NewReader(content), kind)
	if err != nil {
		return "", ErrBroken
	}
	out, err := io.ReadAll(io.LimitReader(r, 4*MaxText))
	return string(out), err
}

// ofPDF reads the text of a PDF (ISO 32000), page by page.
func ofPDF(content []byte) (string, error) {
	r, err := pdf.NewReader(bytes.NewReader(content), int64(len(content)))
	if err != nil {
		if strings.Contains(err.Error(), "password") || strings.Contains(err.Error(), "encrypt") {
			return "", ErrLocked
		}
		return "", fmt.Errorf("%w: %w", ErrBroken, err)
	}
	var b strings.Builder
	fonts := map[string]*pdf.Font{}
	for n := 1; n <= min(r.NumPage(), maxPages) && b.Len() < MaxText; n++ {
		if n > 1 {
			b.WriteString(PageBreak)
		}
		page := r.Page(n)
		if page.V.IsNull() {
			continue
		}
		for _, name := range page.Fonts() {
			if fonts[name] == nil {
				f := page.Font(name)
				fonts[name] = &f
			}
		}
		if text, err := pageText(page, fonts); err == nil { // the other pages may be whole
			b.WriteString(text)
		}
	}
	return b.String(), nil
}

func pageText(page pdf.Page, fonts map[string]*pdf.Font) (text string, err error) {
	defer func() {
		if r := recover(); r != nil {
			err = fmt.Errorf("%w: %v", ErrBroken, r)
		}
	}()
	return page.GetPlainText(fonts)
}

// ofZIP reads the text of an office file: of the parts that hold text, in their order. Of
// another ZIP it is what it is made of; nothing of that is unpacked.
func ofZIP(content []byte) (string, error) {
	z, err := zip.NewReader(bytes.NewReader(content), int64(len(content)))
	if err != nil {
		return "", ErrBroken
	}
	if len(z.File) > 10*maxParts {
		return "", ErrLarge
	}
	var parts []*zip.File
	for _, f := range z.File {
		name := strings.ToLower(f.Name)
		if name == "content.xml" || // ISO/IEC 26300
			strings.HasSuffix(name, ".xml") && (name == "word/document.xml" || strings.HasPrefix(name, "word/header") || strings.HasPrefix(name, "word/footer") || name == "word/footnotes.xml" || name == "word/comments.xml" ||
				name == "xl/sharedstrings.xml" || strings.HasPrefix(name, "xl/worksheets/sheet") || strings.HasPrefix(name, "ppt/slides/slide") || strings.HasPrefix(name, "ppt/notesslides/")) { // ISO/IEC 29500
			parts = append(parts, f)
		}
	}
	if len(parts) == 0 {
		return contents(z.File), nil
	}
	slices.SortStableFunc(parts, func(a, b *zip.File) int { // slide2 before slide10
		if len(a.Name) != len(b.Name) {
			return len(a.Name) - len(b.Name)
		}
		return strings.Compare(a.Name, b.Name)
	})
	var b strings.Builder
	for i, f := range parts[:min(len(parts), maxParts)] {
		if b.Len() > MaxText {
			break
		}
		if strings.HasPrefix(strings.ToLower(f.Name), "ppt/slides/") && i > 0 {
			b.WriteString(PageBreak)
		}
		part, err := f.Open()
		if err != nil {
			return "", ErrBroken
		}
		err = textOfXML(io.LimitReader(part, maxPart), &b)
		_ = part.Close()
		if err != nil && b.Len() == 0 {
			return "", ErrBroken
		}
	}
	return b.String(), nil
}

// contents are the names and sizes of the files in a ZIP, a line each.
func contents(files []*zip.File) string {
	var b strings.Builder
	for _, f := range files[:min(len(files), maxParts)] {
		if strings.HasSuffix(f.Name, "/") {
			continue
		}
		fmt.Fprintf(&b, "%s (%s)\n", strings.Map(func(r rune) rune {
			if unicode.IsControl(r) {
				return ' '
			}
			return r
		}, f.Name), sized(f.UncompressedSize64))
	}
	if more := len(files) - maxParts; more > 0 {
		fmt.Fprintf(&b, "and %d more\n", more)
	}
	return b.String()
}

func sized(bytes uint64) string {
	switch {
	case bytes == 1:
		return "1 byte"
	case bytes < 1000:
		return fmt.Sprintf("%d bytes", bytes)
	case bytes < 1e6:
		return fmt.Sprintf("%d kB", (bytes+500)/1000)
	}
	return fmt.Sprintf("%.1f MB", float64(bytes)/1e6)
}

// textOfXML writes the text of an XML document, with a line break after each paragraph, row
// and cell. Numbers of a spreadsheet that stand for texts in another part are left out.
func textOfXML(r io.Reader, b *strings.Builder) error {
	d := xml.NewDecoder(r)
	d.Strict = false
	d.CharsetReader = charset.NewReaderLabel
	shared, depth := false, 0
	for b.Len() <= MaxText {
		t, err := d.Token()
		if err != nil {
			if errors.Is(err, io.EOF) {
				return nil
			}
			return err
		}
		switch t := t.(type) {
		case xml.StartElement:
			if depth++; depth > 2000 {
				return ErrBroken
			}
			switch t.Name.Local {
			case "c":
				shared = slices.ContainsFunc(t.Attr, func(a xml.Attr) bool { return a.Name.Local == "t" && a.Value == "s" })
			case "tab", "s", "line-break", "br":
				b.WriteByte(' ')
			}
		case xml.EndElement:
			depth--
			switch t.Name.Local {
			case "p", "h", "tr", "row", "table-row", "si":
				b.WriteByte('\n')
			case "c", "tc", "table-cell":
				shared = false
				b.WriteByte(' ')
			}
		case xml.CharData:
			if !shared {
				b.Write(t)
			}
		}
	}
	return nil
}

// each puts together the texts of the parts of a file that next gives, until io.EOF. What
// stands before a part that cannot be read counts.
func each(next func() (string, error)) (string, error) {
	var b strings.Builder
	for b.Len() < MaxText {
		text, err := next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			if b.Len() == 0 {
				return "", ErrBroken
			}
			break
		}
		b.WriteString(text)
	}
	return b.String(), nil
}

func ofCalendar(content []byte) (string, error) {
	d := ical.NewDecoder(bytes.NewReader(content))
	return each(func() (string, error) {
		c, err := d.Decode()
		if err != nil {
			return "", err
		}
		var b strings.Builder
		for _, e := range c.Children {
			for _, name := range []string{ical.PropSummary, ical.PropLocation, ical.PropDescription, ical.PropComment} {
				for _, p := range e.Props.Values(name) {
					text, _ := p.Text()
					b.WriteString(text + "\n")
				}
			}
			for _, name := range []string{ical.PropOrganizer, ical.PropAttendee} {
				for _, p := range e.Props.Values(name) {
					b.WriteString(p.Params.Get("CN") + " " + strings.TrimPrefix(strings.ToLower(p.Value), "mailto:") + "\n")
				}
			}
		}
		return b.String(), nil
	})
}

func ofContacts(content []byte) (string, error) {
	d := vcard.NewDecoder(bytes.NewReader(content))
	return each(func() (string, error) {
		c, err := d.Decode()
		if err != nil {
			return "", err
		}
		var b strings.Builder
		for _, name := range []string{vcard.FieldFormattedName, vcard.FieldOrganization, vcard.FieldTitle, vcard.FieldEmail, vcard.FieldTelephone, vcard.FieldAddress, vcard.FieldURL, vcard.FieldNote} {
			for _, f := range c[name] {
				b.WriteString(strings.ReplaceAll(f.Value, ";", " ") + "\n")
			}
		}
		return b.String(), nil
	})
}

func ofMessage(content []byte, depth int) (string, error) {
	if depth >= maxDepth {
		return "", ErrLarge
	}
	m := mime.Read(content)
	var b strings.Builder
	for _, a := range append([]string{m.Subject, m.From.Name + " " + m.From.Address}, m.Text) {
		b.WriteString(a + "\n")
	}
	for _, p := range m.Parts {
		b.WriteString(p.Name + "\n")
		if b.Len() > MaxText {
			break
		}
		if text, err := read(p.Name, p.Type, p.Content, depth+1); err == nil {
			b.WriteString(text + "\n")
		}
	}
	return b.String(), nil
}
