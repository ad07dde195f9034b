package filetext

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// TestMain is also the program that reads files, as it should be and as it should not.
func TestMain(m *testing.M) {
	how := ""
	if len(os.Args) > 1 {
		how = os.Args[1]
	}
	switch how {
	case "serve":
		if Serve(os.Stdin, os.Stdout) != nil {
			os.Exit(1)
		}
	case "break": // at each file
		var b [1]byte
		_, _ = os.Stdin.Read(b[:])
		os.Exit(3)
	case "hang":
		select {}
	default:
		os.Exit(m.Run())
	}
}

// zipped is an office file of these parts.
func zipped(t testing.TB, parts ...string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for i := 0; i < len(parts); i += 2 {
		w, err := z.Create(parts[i])
		require.NoError(t, err)
		_, err = w.Write([]byte(parts[i+1]))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

// aPDF is a PDF with a page for each text.
func aPDF(pages ...string) []byte {
	var b bytes.Buffer
	var at []int
	object := func(text string) {
		at = append(at, b.Len())
		fmt.Fprintf(&b, "%d 0 obj\n%s\nendobj\n", len(at), text)
	}
	b.WriteString("%PDF-1.4\n")
	var kids []string
	for i := range pages {
		kids = append(kids, fmt.Sprintf("%d 0 R", 4+2*i))
	}
	object("<< /Type /Catalog /Pages 2 0 R >>")
	object(fmt.Sprintf("<< /Type /Pages /Kids [%s] /Count %d >>", strings.Join(kids, " "), len(pages)))
	object("<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica /Encoding /WinAnsiEncoding >>")
	for i, p := range pages {
		object(fmt.Sprintf("<< /Type /Page /Parent 2 0 R /MediaBox [0 0 300 300] /Resources << /Font << /F1 3 0 R >> >> /Contents %d 0 R >>", 5+2*i))
		s := fmt.Sprintf("BT /F1 12 Tf 20 200 Td (%s) Tj ET", p)
		object(fmt.Sprintf("<< /Length %d >>\nstream\n%s\nendstream", len(s), s))
	}
	start := b.Len()
	fmt.Fprintf(&b, "xref\n0 %d\n0000000000 65535 f \n", len(at)+1)
	for _, a := range at {
		fmt.Fprintf(&b, "%010d 00000 n \n", a)
	}
	fmt.Fprintf(&b, "trailer\n<< /Size %d /Root 1 0 R >>\nstartxref\n%d\n%%%%EOF\n", len(at)+1, start)
	return b.Bytes()
}

func TestTextsOfFiles(t *testing.T) {
	word := `<?xml version="1.0"?><w:document xmlns:w="w"><w:body><w:p><w:r><w:t>The crate is</w:t></w:r><w:r><w:tab/><w:t>118 high</w:t></w:r></w:p><w:p><w:r><w:t>Lid 6</w:t></w:r></w:p></w:body></w:document>`
	table := `<worksheet><sheetData><row><c t="s"><v>0</v></c><c><v>118</v></c></row></sheetData></worksheet>`
	message := "From: Mirela <mirela@coast.example>\r\nSubject: Crates\r\nMIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\nContent-Type: text/plain\r\n\r\nWith the feet off.\r\n--b\r\nContent-Type: text/csv\r\nContent-Disposition: attachment; filename=list.csv\r\n\r\ncrate,height\r\n--b--\r\n"
	for name, x := range map[string]struct {
		kind    string
		content []byte
		says    []string
		not     string
	}{
		"a.txt":      {"text/plain", []byte("\ufeffÄrger with the crate"), []string{"Ärger with"}, "\ufeff"},
		"latin.txt":  {"text/plain; charset=iso-8859-1", []byte("l\xe5s p\xe5 l\xe5dan"), []string{"lås på lådan"}, ""},
		"a.csv":      {"application/octet-stream", []byte("crate,height\n2,118\n"), []string{"crate,height"}, ""},
		"a.html":     {"text/html", []byte("<p>Crate <b>two</b></p><script>bad()</script>"), []string{"Crate two"}, "bad"},
		"a.pdf":      {"application/pdf", aPDF("Predictor crate two", "height 118"), []string{"Predictor crate two", PageBreak, "height 118"}, ""},
		"lies.txt":   {"text/plain", aPDF("in truth a PDF"), []string{"in truth a PDF"}, "%PDF"},
		"a.docx":     {"", zipped(t, "[Content_Types].xml", "<x/>", "word/document.xml", word), []string{"The crate is 118 high\n", "Lid 6"}, ""},
		"a.xlsx":     {"", zipped(t, "xl/sharedStrings.xml", "<sst><si><t>height</t></si></sst>", "xl/worksheets/sheet1.xml", table), []string{"height\n", "118"}, "0"},
		"a.pptx":     {"", zipped(t, "ppt/slides/slide10.xml", "<p><t>tenth</t></p>", "ppt/slides/slide2.xml", "<p><t>second</t></p>"), []string{"second\n" + PageBreak + "tenth"}, ""},
		"a.zip":      {"", zipped(t, "drawings/", "", "drawings/lid\n.dxf", strings.Repeat("x", 1600), "readme", "x"), []string{"drawings/lid .dxf (2 kB)\n", "readme (1 byte)"}, "xx"},
		"a.odt":      {"", zipped(t, "mimetype", "x", "content.xml", "<d><h>Loan</h><p>of the<s/>predictor</p></d>"), []string{"Loan\nof the predictor"}, ""},
		"a.ics":      {"text/calendar", []byte("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nBEGIN:VEVENT\r\nUID:1\r\nDTSTAMP:20261124T100000Z\r\nSUMMARY:Loading\\, crate two\r\nATTENDEE;CN=Jonas:mailto:jonas@port.example\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"), []string{"Loading, crate two", "Jonas jonas@port.example"}, "VEVENT"},
		"a.vcf":      {"text/vcard", []byte("BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Mirela Dossett\r\nTEL:+46 8 118\r\nEND:VCARD\r\n"), []string{"Mirela Dossett", "+46 8 118"}, "BEGIN"},
		"a.eml":      {"message/rfc822", []byte(message), []string{"Crates", "With the feet off", "list.csv", "crate,height"}, ""},
		"nested.eml": {"message/rfc822", []byte("Subject: outer\r\nMIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=c\r\n\r\n--c\r\nContent-Type: message/rfc822\r\n\r\n" + message + "\r\n--c--\r\n"), []string{"outer"}, ""},
	} {
		text, err := Read(name, x.kind, x.content)
		require.NoError(t, err, name)
		for _, s := range x.says {
			require.Contains(t, text, s, name)
		}
		if x.not != "" {
			require.NotContains(t, text, x.not, name)
		}
		require.True(t, Readable(name, x.kind), name)
	}
}

func TestFilesThatCannotBeRead(t *testing.T) {
	bomb := zipped(t, "word/document.xml", "<w>"+strings.Repeat("<p><t>"+strings.Repeat("a", 1000)+"</t></p>", 60_000)+"</w>") // 60 MB
	text, err := Read("bomb.docx", "", bomb)
	require.NoError(t, err)
	require.LessOrEqual(t, len(text), MaxText)
	deep := zipped(t, "word/document.xml", strings.Repeat("<a>", 1_000_000))
	locked := bytes.Replace(aPDF("secret"), []byte("/Root 1 0 R"), []byte("/Root 1 0 R /Encrypt << /Filter /Standard /V 4 /R 4 /O (aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa) /U (aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa) /P -4 /Length 128 >> /ID [(aa) (aa)]"), 1)
	many := make([]string, 0, 20_000)
	for i := range 10_000 {
		many = append(many, fmt.Sprint("x", i, ".xml"), "")
	}
	for name, x := range map[string]struct {
		content []byte
		err     error
	}{
		"a.png":      {[]byte("\x89PNG"), ErrUnknown},
		"short.pdf":  {[]byte("%PDF-1.4 and nothing more"), ErrBroken},
		"lies.pdf":   {[]byte("<html>no</html>"), ErrBroken},
		"locked.pdf": {locked, ErrLocked},
		"old.doc":    {[]byte{0xD0, 0xCF, 0x11, 0xE0, 1, 2}, ErrLocked},
		"cut.docx":   {zipped(t, "word/document.xml", "<a/>")[:30], ErrBroken},
		"deep.docx":  {deep, ErrBroken},
		"many.docx":  {zipped(t, many...), ErrLarge},
		"binary.txt": {[]byte{1, 0, 2, 0, 0xFF, 0xC0}, ErrBroken},
		"large.txt":  {make([]byte, MaxFile+1), ErrLarge},
	} {
		_, err := Read(name, "", x.content)
		require.ErrorIs(t, err, x.err, name)
	}
}

func TestFilesAreReadApart(t *testing.T) {
	self, err := os.Executable()
	require.NoError(t, err)
	a := NewApart(self, "serve")
	defer a.Close()
	for range 3 { // by one process
		text, err := a.Read(context.Background(), "a.pdf", "", aPDF("one", "two"))
		require.NoError(t, err)
		require.Contains(t, text, "two")
		_, err = a.Read(context.Background(), "a.png", "", []byte("\x89PNG"))
		require.ErrorIs(t, err, ErrUnknown)
		_, err = a.Read(context.Background(), "a.pdf", "", []byte("%PDF-1.4 broken"))
		require.ErrorIs(t, err, ErrBroken)
	}
	require.Equal(t, 9, a.child.files)
	text, err := a.Read(context.Background(), "long.txt", "", bytes.Repeat([]byte("crate \n"), 1<<18))
	require.NoError(t, err)
	require.Len(t, text, MaxText)

	broken := NewApart(self, "break")
	for range 2 {
		_, err = broken.Read(context.Background(), "a.txt", "", []byte("x"))
		require.ErrorIs(t, err, ErrTooLong)
		require.Nil(t, broken.child, "another process is begun for the next")
	}
	_, err = NewApart("/nowhere/to/be/found").Read(context.Background(), "a.txt", "", []byte("x"))
	require.ErrorIs(t, err, ErrNoReader)
	hung := NewApart(self, "hang")
	defer hung.Close()
	ctx, stop := context.WithCancel(context.Background())
	stop()
	_, err = hung.Read(ctx, "a.txt", "", make([]byte, 1<<20))
	require.ErrorIs(t, err, context.Canceled)
}

func FuzzRead(f *testing.F) {
	f.Add("a.pdf", aPDF("one", "two"))
	f.Add("a.docx", zipped(f, "word/document.xml", "<p><t>a</t></p>"))
	f.Add("a.ics", []byte("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nEND:VCALENDAR"))
	f.Add("a.vcf", []byte("BEGIN:VCARD\r\nFN:x\r\nEND:VCARD"))
	f.Add("a.eml", []byte("Subject: x\r\n\r\ntext"))
	f.Fuzz(func(t *testing.T, name string, content []byte) {
		text, err := Read(name, "", content)
		require.LessOrEqual(t, len(text), MaxText)
		if err != nil {
			require.Empty(t, text)
		}
	})
}
