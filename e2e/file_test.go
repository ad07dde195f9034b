package e2e

import (
	"archive/zip"
	"bytes"
	"crypto/md5"
	"crypto/rc4"
	"encoding/base64"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/go-rod/rod/lib/proto"
	"github.com/stretchr/testify/require"
)

// paper is a PDF (ISO 32000-1) of one page with that text; one with a password is locked as
// its section 7.6.3 has it, revision 2.
func paper(text, password string) []byte {
	padding := []byte("\x28\xBF\x4E\x5E\x4E\x75\x8A\x41\x64\x00\x4E\x56\xFF\xFA\x01\x08\x2E\x2E\x00\xB6\xD0\x68\x3E\x80\x2F\x0C\xA9\xFE\x64\x53\x69\x7A")
	padded := func(s string) []byte { return append([]byte(s), padding...)[:32] }
	locked := func(key, what []byte) []byte {
		c, err := rc4.NewCipher(key)
		if err != nil {
			panic(err)
		}
		out := make([]byte, len(what))
		c.XORKeyStream(out, what)
		return out
	}
	sum := func(parts ...[]byte) []byte { s := md5.Sum(bytes.Join(parts, nil)); return s[:] }
	id := []byte("0123456789abcdef")
	owner := locked(sum(padded(password))[:5], padded(password))
	key := sum(padded(password), owner, []byte{0xFC, 0xFF, 0xFF, 0xFF}, id)[:5]
	user := locked(key, padding)

	var b bytes.Buffer
	var at []int
	object := func(body string) {
		at = append(at, b.Len())
		fmt.Fprintf(&b, "%d 0 obj\n%s\nendobj\n", len(at), body)
	}
	b.WriteString("%PDF-1.4\n")
	object("<< /Type /Catalog /Pages 2 0 R /OpenAction << /S /JavaScript /JS (app.alert\\(1\\);) >> >>")
	object("<< /Type /Pages /Kids [3 0 R] /Count 1 >>")
	object("<< /Type /Page /Parent 2 0 R /MediaBox [0 0 300 300] /Resources << /Font << /F << /Type /Font /Subtype /Type1 /BaseFont /Helvetica >> >> >> /Contents 4 0 R >>")
	content := []byte("BT /F 14 Tf 20 250 Td (" + text + ") Tj ET")
	if password != "" {
		content = locked(sum(key, []byte{4, 0, 0, 0, 0})[:10], content)
	}
	object(fmt.Sprintf("<< /Length %d >>\nstream\n%s\nendstream", len(content), content))
	encrypt := ""
	if password != "" {
		object(fmt.Sprintf("<< /Filter /Standard /V 1 /R 2 /O <%x> /U <%x> /P -4 >>", owner, user))
		encrypt = fmt.Sprintf("/Encrypt 5 0 R /ID [<%x> <%x>]", id, id)
	}
	start := b.Len()
	fmt.Fprintf(&b, "xref\n0 %d\n0000000000 65535 f \n", len(at)+1)
	for _, a := range at {
		fmt.Fprintf(&b, "%010d 00000 n \n", a)
	}
	fmt.Fprintf(&b, "trailer\n<< /Size %d /Root 1 0 R %s >>\nstartxref\n%d\n%%%%EOF\n", len(at)+1, encrypt, start)
	return b.Bytes()
}

type enclosed struct {
	name, kind string
	content    []byte
}

// brings lets a message with files come in.
func (s *server) brings(subject string, files ...enclosed) {
	s.t.Helper()
	var b strings.Builder
	fmt.Fprintf(&b, "From: Town Harbour Office <office@harbour.example>\r\nTo: solvei.arnkvist@skagvikmuseum.example\r\nSubject: %s\r\nMessage-ID: <%s@harbour.example>\r\nMIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\n\r\nThey are enclosed.\r\n", subject, strings.ReplaceAll(subject, " ", "-"))
	for _, f := range files {
		fmt.Fprintf(&b, "--b\r\nContent-Type: %s\r\nContent-Disposition: attachment; filename=\"%s\"\r\nContent-Transfer-Encoding: base64\r\n\r\n%s\r\n", f.kind, f.name, base64.StdEncoding.EncodeToString(f.content))
	}
	s.takesIn(b.String() + "--b--\r\n")
}

// takesIn lets a message come in as it stands, or several as an mbox.
func (s *server) takesIn(raw string) {
	s.t.Helper()
	name := "it.eml"
	if strings.HasPrefix(raw, "From ") {
		name = "it.mbox"
	}
	file := filepath.Join(s.t.TempDir(), name)
	require.NoError(s.t, os.WriteFile(file, []byte(raw), 0o600))
	out, code := command(s.t, "import", file, "--data", s.args[2], "--for", reader)
	require.Zero(s.t, code, out)
}

// inFile waits for something to hold within the frame of the file that is shown.
func (p *page) inFile(frame, expression string, args ...any) *rod.Page {
	p.t.Helper()
	js := fmt.Sprintf(expression, args...)
	at := "[data-testid=" + frame + "]:not(.invisible)"
	p.see(at)
	says := ""
	for end := time.Now().Add(patience); time.Now().Before(end); { // it may be another frame by now, or another page in it
		e, err := p.Element(at)
		if err != nil {
			continue
		}
		f, err := e.Frame()
		if err != nil {
			continue
		}
		// Where no script runs no promise is kept: each look is one by itself, a frame of the page around it apart.
		holds, err := f.Eval(`() => { let is = false; try { is = !!(` + js + `) } catch {} return [is, document.body?.textContent.slice(0, 500) ?? ''] }`)
		if err != nil {
			says = err.Error()
			continue
		}
		if holds.Value.Get("0").Bool() {
			return f
		}
		says = holds.Value.Get("1").Str()
		_, _ = p.Eval("() => new Promise(requestAnimationFrame)")
	}
	p.t.Fatalf("waiting for %s in the file, which says: %s", js, says)
	return nil
}

// What was found in a PDF is read beside its message, page by page and place by place, by
// keys alone.
func TestAFileBesideItsMessage(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.visit("/find")
	p.ask("height lid feet from tomasz")
	p.press(input.Enter)
	p.see("[data-testid=file-chip]")
	p.with(input.Enter, input.ControlLeft)
	p.reads("[data-testid=file] h2", "crate-drawing.pdf")
	p.reads("[data-testid=which-file]", "2 of 2")
	p.reads("[data-testid=where-in-file]", "page 1 of 3")
	p.reads("[data-testid=where-in-file]", "2 of 3 pages have it")
	f := p.inFile("pdf", "document.querySelector('.textLayer').textContent.includes('height 104 cm, lid 6 cm')")
	places := func(now string) { p.inFile("pdf", "[...(CSS.highlights.get('found-now') ?? [])].join() === %q", now) }
	places("height")
	require.Equal(t, 2, f.MustEval("() => CSS.highlights.get('found').size").Int())
	require.True(t, f.MustEval(`() => { const c = document.querySelector('canvas'); const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data; return d.some((v, i) => i % 4 < 3 && v < 100) }`).Bool(), "the page is drawn")
	p.with(input.KeyN, input.ShiftLeft)
	places("lid")
	p.with(input.KeyN, input.ShiftLeft) // over to the next page that has one
	p.reads("[data-testid=where-in-file]", "page 2 of 3")
	p.press(input.ArrowRight)
	p.reads("[data-testid=where-in-file]", "page 3 of 3")
	p.press(input.ArrowLeft).press(input.ArrowLeft)
	p.reads("[data-testid=where-in-file]", "page 1 of 3")
	wide := f.MustEval("() => document.querySelector('#sheet').clientWidth").Int()
	p.click("[data-testid=file] [aria-label^=Larger]")
	p.inFile("pdf", "document.querySelector('#sheet').clientWidth > %d", wide)

	// The reader has no origin, no network and nothing of Ebbe's.
	require.Equal(t, "null", f.MustEval("() => self.origin").Str())
	for _, what := range []string{"fetch('/api/v1/session')", "fetch('https://elsewhere.example/')", "Promise.resolve().then(() => parent.document.title)", "Promise.resolve().then(() => localStorage.length)", "Promise.resolve().then(() => document.cookie)"} {
		require.Equal(t, "refused", f.MustEval("() => "+what+".then(() => 'done', () => 'refused')").Str(), what)
	}
	refused := func(said string) bool { return strings.Contains(said, `"connect-src 'none'"`) }
	require.Eventually(t, func() bool { return len(p.wrong) == 2 && refused(p.wrong[0]) && refused(p.wrong[1]) }, patience, 20*time.Millisecond, "the browser has refused both by the policy of the frame")
	p.wrong = nil
	// Keys pressed in it go about in the file, and decide nothing.
	n := p.left()
	f.MustEval(`() => { for (const key of ['1', '2', 'Delete']) window.dispatchEvent(new KeyboardEvent('keydown', { key })); parent.postMessage({ key: { key: '1', shift: false, ctrl: false } }, '*'); parent.postMessage({ page: 'x', pages: -1, place: {}, places: [], speaking: 'no' }, '*'); parent.postMessage({ need: 1, folder: '../../api/v1', name: 'session' }, '*'); window.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight' })) }`)
	p.reads("[data-testid=where-in-file]", "page 2 of 3")
	p.leftIs(n)

	// It is what is shown also after a reload, and goes with Escape.
	p.until("location.search.includes('file=')")
	p.MustReload()
	p.reads("[data-testid=file] h2", "crate-drawing.pdf")
	p.press(input.Enter) // out of the field of words
	p.with(input.Enter, input.ControlLeft)
	p.reads("[data-testid=file] h2", "crates.csv")
	p.inFile("file-frame", "document.querySelectorAll('th')[3]?.textContent === 'height cm'")
	p.press(input.Escape)
	p.until("!document.querySelector('[data-testid=file]')")
	p.see("[data-testid=subject]")

	// Where there is room for one thing it has all of it, and the list is there once one goes back.
	p.MustSetViewport(390, 800, 1, true)
	p.click("[role=option]")
	p.click("[data-testid=file-chip]")
	p.until("(() => { const f = document.querySelector('[data-testid=file]').getBoundingClientRect(); return f.width === 390 && f.height > 400 && !document.elementFromPoint(195, f.bottom + 4).closest('.reading-column') })()")
	p.until("getComputedStyle(document.querySelector('.reading-column')).visibility === 'hidden'")
	p.MustNavigateBack()
	p.click("[role=option]")
}

// Files of every kind, also those that are not what they say they are: each is shown or a
// sentence says why not, and nothing of them runs.
func TestWhateverComesAsAFile(t *testing.T) {
	t.Parallel()
	s := demo(t)
	var square bytes.Buffer
	require.NoError(t, png.Encode(&square, image.NewPaletted(image.Rect(0, 0, 640, 480), color.Palette{color.White, color.Black})))
	large := append(paper("The long tide table", ""), bytes.Repeat([]byte("% filled up, line by line\n"), 1_170_000)...)
	s.brings("Ten enclosures",
		enclosed{"bill.pdf", "application/pdf", square.Bytes()},
		enclosed{"page.html", "text/html", []byte("<p>Berth 9 <b>is</b> free</p><script>parent.document.title = 'taken'</script>")},
		enclosed{"notes.txt", "text/plain", []byte(strings.Repeat("a line of the log\n", 200) + "<script>alert(1)</script> the last line")},
		enclosed{"locked.pdf", "application/pdf", paper("The secret berth", "tide")},
		enclosed{"broken.pdf", "application/pdf", []byte("%PDF-1.7 and nothing of the kind")},
		enclosed{"letter.docx", "application/vnd.openxmlformats-officedocument.wordprocessingml.document", []byte("PK\x03\x04 is none")},
		enclosed{"thing.bin", "application/octet-stream", []byte{0, 1, 2}},
		enclosed{"office.vcf", "text/vcard", []byte("BEGIN:VCARD\r\nVERSION:4.0\r\nFN:Town Harbour Office\r\nTEL:+47 555 01 10\r\nEND:VCARD\r\n")},
		enclosed{"half.pdf", "application/pdf", bytes.Replace(paper("The whole page", ""), []byte("[3 0 R] /Count 1"), []byte("[3 0 R 9 0 R] /Count 2"), 1)},
		enclosed{"large.pdf", "application/pdf", large})
	p := open(t, s.url, 1280, 800).enter()
	p.chooseSubject("Ten enclosures")
	p.see("[data-testid=file-chip]")
	next := func(name string) {
		t.Helper()
		p.with(input.Enter, input.ControlLeft)
		p.reads("[data-testid=file] h2", name)
	}
	next("bill.pdf")
	p.reads("[data-testid=file-says]", "It is called .pdf and is a picture (PNG).")
	f := p.inFile("file-frame", "document.querySelector('img')?.naturalWidth === 640")
	small := f.MustEval("() => document.querySelector('img').clientWidth").Int()
	p.click("[data-testid=file] [aria-label^=Larger]")
	p.inFile("file-frame", "document.querySelector('img').clientWidth > %d", small)
	next("page.html")
	f = p.inFile("file-frame", "document.body.textContent.includes('Berth 9 is free')")
	require.Equal(t, "null", f.MustEval("() => self.origin").Str())
	require.Zero(t, f.MustEval("() => document.scripts.length").Int())
	next("notes.txt")
	p.inFile("file-frame", "document.body.textContent.includes('<script>alert(1)</script> the last line')")
	p.press(input.Space).press(input.Space)
	p.inFile("file-frame", "location.hash === '#t3' && window.scrollY > 0")
	next("locked.pdf")
	p.reads("[data-testid=file]", "locked with a password")
	p.MustElement("#file-password").MustInput("harbour")
	p.does("Open")
	p.reads("[data-testid=file]", "That is not its password")
	p.MustElement("#file-password").MustSelectAllText().MustInput("tide")
	p.does("Open")
	p.inFile("pdf", "document.querySelector('.textLayer').textContent.includes('The secret berth')")
	p.see("[data-testid=file]").MustFocus()
	next("broken.pdf")
	p.reads("[data-testid=file]", "This file is damaged, or not what it says it is.")
	next("letter.docx")
	p.reads("[data-testid=file]", "This file is damaged, or not what it says it is.")
	next("thing.bin")
	p.reads("[data-testid=file]", "of a kind that has no text. It can be saved")
	next("office.vcf")
	p.inFile("file-frame", "document.body.textContent.includes('+47 555 01 10')")
	next("half.pdf")
	p.inFile("pdf", "document.querySelector('.textLayer').textContent.includes('The whole page')")
	p.press(input.ArrowRight)
	p.reads("[data-testid=file]", "This page is damaged and cannot be shown.")
	p.press(input.ArrowLeft)
	p.inFile("pdf", "document.querySelector('.textLayer').textContent.includes('The whole page')")
	p.until("!document.querySelector('[data-testid=file]').textContent.includes('This page is damaged')")
	next("large.pdf")
	p.reads("[data-testid=file]", "This file has 30")
	p.does("Show it")
	p.inFile("pdf", "document.querySelector('.textLayer').textContent.includes('The long tide table')")
	next("bill.pdf")
	require.Contains(t, p.MustInfo().Title, "Inbox", "nothing of a file has reached the page")
}

// Files of a conversation stand together, are saved as one and sent on.
func TestFilesStandTogether(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.url, 1280, 800).enter()
	p.chooseSubject("Crate sizes for the brass predictor — can you confirm by Thursday?")
	p.command("All files of this conversation")
	p.reads("h1", "Files of “Crate sizes for the brass predictor")
	p.reads("[data-testid=file] h2", "crate-drawing.pdf")
	p.press(input.ArrowDown)
	p.reads("[data-testid=file] h2", "crates.csv")
	p.inFile("file-frame", "document.querySelectorAll('th')[3]?.textContent === 'height cm'")
	p.with(input.KeyA, input.ControlLeft)
	p.reads("main", "Save 2 as one ZIP")
	link := p.MustElement("a[href*='files.zip']").MustProperty("href").Str()
	raw := p.MustEval(`async (link) => { const r = await fetch(link); const b = new Uint8Array(await r.arrayBuffer()); return r.status + ' ' + r.headers.get('content-disposition') + '|' + btoa(String.fromCharCode(...b)) }`, link).Str()
	head, body, _ := strings.Cut(raw, "|")
	require.Contains(t, head, "200 attachment; filename=files-")
	content, err := base64.StdEncoding.DecodeString(body)
	require.NoError(t, err)
	z, err := zip.NewReader(bytes.NewReader(content), int64(len(content)))
	require.NoError(t, err)
	require.Len(t, z.File, 2)
	r, err := z.Open("crates.csv")
	require.NoError(t, err)
	table, err := io.ReadAll(r)
	require.NoError(t, err)
	require.Contains(t, string(table), "height cm")
	res, err := http.Get(link) // whoever is not signed in has none of it
	require.NoError(t, err)
	require.NoError(t, res.Body.Close())
	require.Equal(t, http.StatusUnauthorized, res.StatusCode)

	p.does("Send 2 on")
	p.until("location.pathname.startsWith('/writing/')")
	p.reads("[aria-label='Files that go with it']", "crates.csv")
	p.reads("[aria-label='Files that go with it']", "crate-drawing.pdf")

	p.visit("/")
	p.chooseSubject("Crate sizes for the brass predictor — can you confirm by Thursday?")
	p.with(input.Enter, input.ControlLeft)
	p.see("[data-testid=file]")
	p.does("Answer with it")
	p.see("#reply")
	p.reads("[aria-label='Files that go with it']", "crates.csv")
}

// What its header says of a message stands with its people, in sentences; the conversation
// is handed out as a clean page, as text and by a link.
func TestAConversationGoesOutOfHand(t *testing.T) {
	t.Parallel()
	s := demo(t)
	file := filepath.Join(t.TempDir(), "it.eml")
	require.NoError(t, os.WriteFile(file, []byte("Authentication-Results: mx1.skagvikmuseum.example; dkim=pass header.d=harbour.example; spf=softfail smtp.mailfrom=office@harbour.example\r\nReceived: from out.harbour.example by mx1.skagvikmuseum.example with ESMTPS; Tue, 24 Nov 2026 09:00:00 +0100\r\nFrom: Town Harbour Office <office@harbour.example>\r\nTo: solvei.arnkvist@skagvikmuseum.example\r\nSubject: Berth nine\r\nMessage-ID: <berth-9@harbour.example>\r\nContent-Type: text/html\r\n\r\n<p>Berth <b>nine</b> is free.</p><blockquote>Which one?</blockquote>\r\n"), 0o600))
	out, code := command(t, "import", file, "--data", s.args[2], "--for", reader)
	require.Zero(t, code, out)
	p := open(t, s.url, 1280, 800).enter()
	p.chooseSubject("Berth nine")
	p.click("article [title='Show sender and recipients']")
	p.reads("[data-testid=source]", "Signed by harbour.example, and unchanged since (DKIM).")
	p.reads("[data-testid=source]", "Sent by a server that may not send for harbour.example (SPF).")
	p.reads("[data-testid=source]", "over an encrypted line")
	p.does("All of its header")
	p.reads("[data-testid=header]", "Message-ID: <berth-9@harbour.example>")
	p.MustEval(`() => { navigator.clipboard.writeText = (text) => { window.copied = text; return Promise.resolve() } }`)
	p.command("Copy a link to this message")
	p.reads("[data-testid=notice]", "Copied: mid:berth-9@harbour.example")
	require.Equal(t, "mid:berth-9@harbour.example", p.MustEval("() => window.copied").Str())
	id := p.MustEval(`() => new URLSearchParams(location.search).get('at')`).Str()
	text := p.MustEval(`async (id) => (await fetch('/api/v1/conversations/' + id + '/text')).text()`, id).Str()
	require.Contains(t, text, "Berth nine is free.\n> Which one?")

	page := p.Browser().MustPage(s.url + "/api/v1/conversations/" + id + "/page").Timeout(patience)
	defer page.MustClose()
	require.Equal(t, "Berth nine", page.MustElement("h1").MustText())
	require.Contains(t, page.MustElement("article").MustText(), "Berth nine is free.")
	pdf, err := page.PDF(&proto.PagePrintToPDF{})
	require.NoError(t, err)
	printed, err := io.ReadAll(pdf)
	require.NoError(t, err)
	require.True(t, bytes.HasPrefix(printed, []byte("%PDF-")))
}
