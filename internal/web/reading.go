package web

import (
	"fmt"
	"html"
	"io/fs"
	"net/http"
	"net/url"
	"regexp"
	"strings"

	"github.com/gin-gonic/gin"

	"ebbe/internal/core/when"
	"ebbe/internal/desk/persons"
	"ebbe/internal/desk/reading"
	"ebbe/internal/desk/told"
	"ebbe/internal/identity"
	"ebbe/internal/store"
)

var imageTypes = map[string]bool{"image/png": true, "image/jpeg": true, "image/gif": true, "image/webp": true}

// readingFont is that of the reading column (ui/src/index.css): Literata has Latin, Greek and
// Cyrillic letters; what it has not, the system shows in a font for reading.
const readingFont = `"Literata Variable","Noto Serif CJK JP","Hiragino Mincho ProN","Yu Mincho","Songti SC",IPAMincho,"Noto Naskh Arabic","Geeza Pro",Amiri,"Noto Serif Hebrew","David CLM","Times New Roman",Georgia,serif`

// frameStyle dresses a message as the reading column does.
const frameStyle = `
html{overflow:auto hidden;color-scheme:light;color:#13272C;background:#FDFCF9}
html.dark{color-scheme:dark;color:#E6EDEC;background:#12211F}
body{margin:0;font:15.5px/1.6 ` + readingFont + `;overflow-wrap:anywhere;max-width:720px}
p{margin:0 0 9px}img{max-width:100%;height:auto}.wide{overflow-x:auto}table[border]:not([border="0"]){border-collapse:collapse}td,th{overflow-wrap:break-word}
::highlight(found){background:#F9EBCB;color:#13272C}::highlight(found-now){background:#F2C45C;color:#13272C}
a{color:#0E6670}html.dark a{color:#7CC4C3}
pre{white-space:pre-wrap}
img.left-out{display:inline-block;min-width:18px;min-height:18px;border:1px dashed #CFC4B0;border-radius:4px;background:#F8F5EF}
details{margin:8px 0}summary{color:#5B6E73;font:12.5px "Schibsted Grotesk Variable",sans-serif;cursor:pointer}html.dark summary{color:#A5B5B6}
blockquote{margin:6px 0 6px 0;padding-left:12px;border-left:2px solid #CFC4B0;color:#31474D}html.dark blockquote{color:#C3CFCE;border-color:#3A4F50}
blockquote blockquote blockquote{margin-left:0;padding-left:7px;border-left-width:1px}
`

// reading are the routes of conversations, their messages and the history.
func (s *server) reading(in *gin.RouterGroup) {
	in.GET("/conversations", get(s, func(c *gin.Context, w identity.Who) (map[int64]reading.ConversationView, error) {
		return s.d.Reading.Ahead(c.Request.Context(), w, numbersIn(c.Query("ids")))
	}))
	in.GET("/conversations/:id", get(s, func(c *gin.Context, w identity.Who) (reading.ConversationView, error) {
		return s.d.Reading.Conversation(c.Request.Context(), w, id(c, "id"))
	}))
	in.GET("/person", get(s, func(c *gin.Context, w identity.Who) (persons.PersonView, error) {
		return s.d.Persons.Person(c.Request.Context(), w, addressIn(c))
	}))
	in.PUT("/person/note", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Address string `json:"address"`
		Text    string `json:"text"`
	}) (Done, error) {
		return Done{}, s.d.Persons.Note(c.Request.Context(), w, v.Address, v.Text)
	}))
	in.GET("/facts", get(s, func(c *gin.Context, w identity.Who) ([]told.ToldHeap, error) {
		return s.d.Told.Open(c.Request.Context(), w)
	}))
	in.GET("/messages/:id", get(s, func(c *gin.Context, w identity.Who) (reading.MessageView, error) {
		return s.d.Reading.Message(c.Request.Context(), w, id(c, "id"), c.Query("all") == "1")
	}))
	in.POST("/messages/:id/whole", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (Done, error) {
		return Done{}, s.d.Accounts.FetchWhole(c.Request.Context(), w, id(c, "id"))
	}))
	in.GET("/mid/*mid", get(s, func(c *gin.Context, w identity.Who) (Found, error) {
		conversation, err := s.d.Reading.ByMessageID(c.Request.Context(), w, strings.TrimPrefix(c.Param("mid"), "/"))
		return Found{Conversation: conversation}, err
	}))
	in.GET("/messages/:id/source", get(s, func(c *gin.Context, w identity.Who) (reading.SourceView, error) {
		return s.d.Reading.Source(c.Request.Context(), w, id(c, "id"))
	}))
	in.GET("/conversations/:id/page", s.clean)
	in.GET("/conversations/:id/text", s.text)
	in.GET("/messages/:id/body", s.body)
	in.GET("/messages/:id/original", s.original)
	in.GET("/messages/:id/images/*cid", s.image)
	in.GET("/history", get(s, func(c *gin.Context, w identity.Who) (reading.History, error) {
		return s.d.Reading.History(c.Request.Context(), w, store.Past{Before: number(c.Query("before")), Until: when.Instant(number(c.Query("until"))),
			Actor: store.Actor(c.Query("actor")), Conversation: number(c.Query("conversation"))})
	}))
	in.POST("/noted", post(s, func(c *gin.Context, w identity.Who, _ string, v reading.Noted) (Done, error) {
		return Done{}, s.d.Reading.Note(c.Request.Context(), w, v)
	}))
}

// addressIn is whose address is asked for; what is too long is nobody's.
func addressIn(c *gin.Context) string {
	const most = 320 // characters (RFC 5321, section 4.5.3.1)
	address := strings.ToLower(strings.TrimSpace(c.Query("address")))
	return address[:min(len(address), most)]
}

// framePolicy is what the frame around a message may do: show text, its own
// images and, if asked for, remote ones. No scripts, forms, frames or fetches.
func framePolicy(remote bool) string {
	images := "'self' data:"
	if remote {
		images += " http: https:"
	}
	return "default-src 'none'; img-src " + images + "; style-src 'unsafe-inline'; font-src 'self'; base-uri 'none'; form-action 'none'; " +
		"frame-ancestors 'self'; sandbox allow-same-origin allow-popups allow-popups-to-escape-sandbox"
}

func (s *server) body(c *gin.Context) {
	remote := c.Query("remote") == "1"
	message := id(c, "id")
	safe, err := s.d.Reading.Body(c.Request.Context(), whoOf(c), message, inTheDark(c), remote, c.Query("all") == "1", func(contentID string) string {
		return imagePath(c)(message, contentID)
	})
	if err != nil {
		fail(c, err)
		return
	}
	s.frame(c, safe, remote)
}

// cleanStyle dresses a conversation that is to be printed.
const cleanStyle = `
html{color:#13272C;background:#fff}body{margin:32px auto;padding:0 20px;max-width:720px;font:15px/1.55 ` + readingFont + `;overflow-wrap:anywhere}
h1{font-size:22px;line-height:1.25;margin:0 0 18px}article{border-top:1px solid #CFC4B0;padding:14px 0 10px}
dl{display:grid;grid-template-columns:56px 1fr;gap:1px 8px;margin:0 0 12px;font-size:12.5px}dt{color:#5B6E73}dd{margin:0}
.text{white-space:pre-wrap;margin:0 0 9px}blockquote{margin:6px 0;padding-left:12px;border-left:2px solid #CFC4B0;color:#31474D}
p{margin:0 0 9px}img{max-width:100%;height:auto}.left{color:#5B6E73;font-size:12.5px}pre{white-space:pre-wrap}
@page{margin:18mm}@media print{body{margin:0;padding:0;max-width:none}dl,h1{break-after:avoid}}
`

// clean shows a conversation as a page to print, which the browser also makes a PDF of.
func (s *server) clean(c *gin.Context) {
	title, page, err := s.d.Reading.Clean(c.Request.Context(), whoOf(c), id(c, "id"), imagePath(c))
	if err != nil {
		fail(c, err)
		return
	}
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", framePolicy(false))
	c.Data(http.StatusOK, "text/html; charset=utf-8", []byte("<!doctype html><html><head><meta charset=utf-8><meta name=viewport content=\"width=device-width\"><title>"+html.EscapeString(title)+"</title><style>"+s.fonts+cleanStyle+"</style></head><body>"+page.HTML+"</body></html>"))
}

// text hands out a conversation as plain text.
func (s *server) text(c *gin.Context) {
	text, err := s.d.Reading.Text(c.Request.Context(), whoOf(c), id(c, "id"))
	if err != nil {
		fail(c, err)
		return
	}
	download(c, fmt.Sprintf("conversation-%d.txt", id(c, "id")), []byte(text))
}

// imagePath says where the pictures are that came with a message, in the box that is asked of.
func imagePath(c *gin.Context) func(message int64, contentID string) string {
	below := "/api/v1"
	if box, ok := c.Request.Context().Value(boxKey{}).(int64); ok {
		below += fmt.Sprintf("/in/%d", box)
	}
	return func(message int64, contentID string) string {
		return fmt.Sprintf("%s/messages/%d/images/%s", below, message, url.PathEscape(contentID))
	}
}

// inTheDark says that what is asked for is shown on dark paper.
func inTheDark(c *gin.Context) bool { return c.Query("theme") == "dark" }

// frame shows safe HTML as a page for a frame of its own.
func (s *server) frame(c *gin.Context, safe reading.SafeHTML, remote bool) {
	theme := "light"
	if inTheDark(c) {
		theme = "dark"
	}
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", framePolicy(remote))
	h.Set("X-Frame-Options", "SAMEORIGIN")
	c.Data(http.StatusOK, "text/html; charset=utf-8", []byte("<!doctype html><html class="+theme+"><head><meta charset=utf-8><style>"+s.fonts+frameStyle+"</style></head><body dir=auto>"+safe.HTML+"</body></html>"))
}

// fontFace is a font as the built style sheet has it, for a part of its letters each.
var fontFace = regexp.MustCompile(`@font-face\{[^}]*Literata[^}]*\}`)

// frameFonts are the fonts for reading among the built files, for message frames.
func frameFonts(assets fs.FS) string {
	names, _ := fs.Glob(assets, "assets/index-*.css")
	var b strings.Builder
	for _, name := range names {
		sheet, _ := fs.ReadFile(assets, name)
		for _, face := range fontFace.FindAll(sheet, -1) {
			b.Write(face)
		}
	}
	return b.String()
}

func (s *server) original(c *gin.Context) {
	raw, err := s.d.Reading.Original(c.Request.Context(), whoOf(c), id(c, "id"))
	if err != nil {
		fail(c, err)
		return
	}
	download(c, fmt.Sprintf("message-%d.eml", id(c, "id")), raw)
}

func (s *server) image(c *gin.Context) {
	p, err := s.d.Reading.Image(c.Request.Context(), whoOf(c), id(c, "id"), strings.TrimPrefix(c.Param("cid"), "/"))
	switch {
	case err != nil:
		fail(c, err)
	case !imageTypes[p.Type]:
		c.Status(http.StatusNotFound)
	default:
		c.Header("Content-Security-Policy", "default-src 'none'; sandbox")
		c.Data(http.StatusOK, p.Type, p.Content)
	}
}
