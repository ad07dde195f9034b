package web

import (
	"encoding/json"
	"fmt"
	"mime"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"ebbe/internal/core/search"
	"ebbe/internal/desk/files"
	"ebbe/internal/identity"
)

// files are the routes of files beside their messages.
func (s *server) files(in *gin.RouterGroup) {
	in.GET("/messages/:id/files/:n", s.file)
	in.GET("/messages/:id/files/:n/look", get(s, func(c *gin.Context, w identity.Who) (files.FileLook, error) {
		return s.d.Files.Look(c.Request.Context(), w, fileOfMessage(c), termsIn(c))
	}))
	in.GET("/messages/:id/files/:n/page", s.filePage)
	in.GET("/conversations/:id/files", get(s, func(c *gin.Context, w identity.Who) (files.FilesView, error) {
		return s.d.Files.OfConversation(c.Request.Context(), w, id(c, "id"))
	}))
	in.GET("/person/files", get(s, func(c *gin.Context, w identity.Who) (files.FilesView, error) {
		return s.d.Files.OfPerson(c.Request.Context(), w, addressIn(c))
	}))
	in.GET("/files.zip", s.together)
	in.GET("/pdf-reader", s.pdfReader)
}

func fileOfMessage(c *gin.Context) files.Name {
	return files.Name{Message: id(c, "id"), Number: int(number(c.Param("n")))}
}

// termsIn are the terms that are to be marked, as the answer to a search has them, 64 at
// most; what are no terms are none.
func termsIn(c *gin.Context) []search.Term {
	const most = 64 << 10 // bytes
	var terms []search.Term
	if raw := c.Query("terms"); len(raw) > most || json.Unmarshal([]byte(raw), &terms) != nil {
		return nil
	}
	terms = slices.DeleteFunc(terms, func(t search.Term) bool { return len(t.Words) == 0 || slices.Contains(t.Words, "") })
	return terms[:min(len(terms), 64)]
}

func (s *server) file(c *gin.Context) {
	p, err := s.d.Files.File(c.Request.Context(), whoOf(c), fileOfMessage(c))
	if err != nil {
		fail(c, err)
		return
	}
	download(c, p.Name, p.Content)
}

// together hands out several files as one ZIP. Their names come as “message.number”.
func (s *server) together(c *gin.Context) {
	var of []files.Name
	for _, name := range strings.Split(c.Query("of"), ",") {
		message, n, _ := strings.Cut(name, ".")
		of = append(of, files.Name{Message: number(message), Number: int(number(n))})
	}
	begun := false
	err := s.d.Files.Together(c.Request.Context(), whoOf(c), of, func() {
		begun = true
		h := c.Writer.Header()
		h.Set("Content-Type", "application/zip")
		h.Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": "files-" + s.d.Now().Time().Format("2006-01-02") + ".zip"}))
		h.Set("Content-Security-Policy", "default-src 'none'; sandbox")
	}, c.Writer)
	switch {
	case err == nil:
	case begun: // it must not look like all of it
		panic(http.ErrAbortHandler)
	default:
		fail(c, err)
	}
}

// filePolicy is what the frame around a file may do: show text and the picture that stands
// in it. It has an origin of its own, which is nobody's.
const filePolicy = "default-src 'none'; connect-src 'none'; img-src data:; style-src 'unsafe-inline'; base-uri 'none'; form-action 'none'; frame-ancestors 'self'; sandbox"

// readerPolicy is what the reader of PDF may do besides: run the script that ships with
// Ebbe. It has no network; what it reads is handed in.
const readerPolicy = "default-src 'none'; connect-src 'none'; script-src 'self' 'wasm-unsafe-eval'; worker-src blob:; img-src data: blob:; font-src data: blob:; style-src 'self' 'unsafe-inline'; " +
	"base-uri 'none'; form-action 'none'; frame-ancestors 'self'; sandbox allow-scripts"

// fileStyle dresses the files that have no reader of their own.
const fileStyle = `
html{color-scheme:light;color:#13272C;background:#FDFCF9;scroll-padding:30vh 0}html.dark{color-scheme:dark;color:#E6EDEC;background:#12211F}
html.picture{background:#E2DACB}html.picture.dark{background:#0A1716}
body{margin:14px 16px;font:13.5px/1.5 system-ui,sans-serif;overflow-wrap:anywhere}
p{margin:0;min-height:1.5em;white-space:pre-wrap;unicode-bidi:plaintext}hr{border:0;border-top:1px dashed #CFC4B0;margin:14px 0}
table{border-collapse:collapse;font-size:12.5px;overflow-wrap:normal}td,th{border:1px solid #E2DACB;padding:3px 7px;text-align:start;vertical-align:top;white-space:pre-wrap;max-width:36ch}
html.dark td,html.dark th{border-color:#3A4F50}th{position:sticky;top:0;background:#F0EBE1;font-weight:600}html.dark th{background:#1D302F}
mark{background:#F9EBCB;color:#13272C}mark:target{background:#F2C45C}
img{display:block;max-width:100%;margin:0 auto}
#z1:target img{max-width:100%}#z2:target img{max-width:none;width:150%}#z3:target img{max-width:none;width:225%}#z4:target img{max-width:none;width:340%}
`

func (s *server) filePage(c *gin.Context) {
	page, picture, err := s.d.Files.Page(c.Request.Context(), whoOf(c), fileOfMessage(c), termsIn(c))
	if err != nil {
		fail(c, err)
		return
	}
	dress := ""
	if picture {
		dress = "picture"
	}
	if inTheDark(c) {
		dress += " dark"
	}
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", filePolicy)
	h.Set("X-Frame-Options", "SAMEORIGIN")
	c.Data(http.StatusOK, "text/html; charset=utf-8", []byte("<!doctype html><html class="+strconv.Quote(dress)+"><head><meta charset=utf-8><title>file</title><style>"+fileStyle+"</style></head><body>"+page+"</body></html>"))
}

// pdfReader is the page with the reader of PDF. It knows nothing of any file.
func (s *server) pdfReader(c *gin.Context) {
	if s.reader == nil {
		fail(c, fmt.Errorf("the reader of PDF is not built into this program"))
		return
	}
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", readerPolicy)
	h.Set("X-Frame-Options", "SAMEORIGIN")
	c.Data(http.StatusOK, "text/html; charset=utf-8", s.reader)
}
