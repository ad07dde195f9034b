// Package web serves the desk over HTTP: routes, sign-in, events, and the
// front end that is built into the program.
package web

import (
	"bytes"
	"context"
	"crypto/rand"
	"embed"
	"io/fs"
	"log/slog"
	"net/http"
	"net/netip"
	"path"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-contrib/gzip"
	"github.com/gin-gonic/gin"

	"ebbe/internal/desk"
)

//go:embed all:dist
var dist embed.FS

const (
	cookieName = "ebbe_session_" // and the instance: two of Ebbe on one machine share a browser
	knownName  = "ebbe_known_"
	csrfHeader = "X-Ebbe-Token"
	keyHeader  = "Idempotency-Key"
	maxRequest = 4 << 20 // bytes of a request's body: the IDs of some 400,000 conversations
)

// Options are what whoever runs Ebbe says of where it stands.
type Options struct {
	Hosts  []string                                                   // names at which it answers, besides addresses and this machine
	Took   func(method, route string, status int, took time.Duration) // hears of each request that has ended; nil: nobody does
	Behind []netip.Prefix                                             // proxies, whose word is taken for who asks and whether by TLS (X-Forwarded-For, X-Forwarded-Proto)
}

type server struct {
	d *desk.Desk
	Options
	assets fs.FS
	reader []byte // the page with the reader of PDF
	index  []byte // with noncePlace where the nonce of each answer goes
	fonts  string // the @font-face rules for message frames
}

// Handler is everything Ebbe serves: to this machine, to whoever asks at an
// address, and at the names given.
//
// What is asked below /api/v1/in/3 is asked as below /api/v1, of the box with that number:
// one's own, or that of a team one is a member of.
func Handler(d *desk.Desk, o Options) http.Handler {
	r := engine(d, o)
	return http.HandlerFunc(func(w http.ResponseWriter, req *http.Request) {
		if m := inBox.FindStringSubmatch(req.URL.Path); m != nil {
			box, _ := strconv.ParseInt(m[1], 10, 64) // too many digits: of no box
			req = req.WithContext(context.WithValue(req.Context(), boxKey{}, box))
			path := *req.URL
			path.Path, path.RawPath = "/api/v1"+m[2], ""
			req.URL = &path
		}
		r.ServeHTTP(w, req)
	})
}

var inBox = regexp.MustCompile(`^/api/v1/in/(\d+)(/.*)$`)

// boxKey is under which the box that is asked of stands in the context of a request.
type boxKey struct{}

func engine(d *desk.Desk, o Options) *gin.Engine {
	gin.SetMode(gin.ReleaseMode)
	assets, err := fs.Sub(dist, "dist")
	if err != nil {
		panic(err) // the folder is embedded: it cannot be missing
	}
	s := &server{d: d, assets: assets, Options: o}
	s.index, _ = fs.ReadFile(assets, "index.html")
	s.reader, _ = fs.ReadFile(assets, "pdf.html")
	s.fonts = frameFonts(assets)

	r := gin.New()
	var proxies []string // but for these, who asks is who connects: no header says otherwise
	for _, p := range o.Behind {
		proxies = append(proxies, p.String())
	}
	r.RemoteIPHeaders = []string{"X-Forwarded-For"}
	_ = r.SetTrustedProxies(proxies) // they are prefixes
	r.HandleMethodNotAllowed = true
	r.Use(s.noted, gin.CustomRecoveryWithWriter(nil, func(c *gin.Context, p any) {
		slog.Error("a request failed", "path", c.FullPath(), "panic", p)
		refuse(c, http.StatusInternalServerError, "internal", "Something went wrong inside Ebbe. Nothing was changed; try again.", "")
	}), s.securityHeaders)
	r.GET("/healthz", s.healthy)
	r.POST("/text/:hook", gateway(s)) // which needs no origin: it is signed
	r.Use(s.rightHost, sameOrigin)
	r.NoRoute(s.page)
	r.GET("/feed/:secret", s.feed)

	r.POST("/api/v1/calendar/file", s.signedIn, fileOf("text/calendar"), s.takeIn)
	r.POST("/api/v1/drafts/:id/files", s.signedIn, fileOf("application/octet-stream"), s.addFile)
	r.POST("/api/v1/comment-files", s.signedIn, fileOf("application/octet-stream"), addCommentFile(s))
	api := r.Group("/api/v1", limitBody, onlyJSON)
	door := door{s}
	api.GET("/session", door.session)
	api.POST("/setup", door.setup)
	api.POST("/sign-in", door.signIn)
	api.POST("/sign-in/passkey", door.askForPasskey)
	api.POST("/recover", door.recover)
	api.POST("/invited", door.invited)
	api.POST("/join", door.join)
	api.POST("/demo/sign-in", door.signInDemo)

	in := api.Group("", s.signedIn)
	in.POST("/sign-out", door.signOut)
	in.GET("/events", s.events)
	for _, routes := range []func(*gin.RouterGroup){s.queue, s.decisions, s.reading, s.files, s.writing, s.followUps, s.calendar, s.delivery, s.dayline, s.labels, s.sorting, s.accounts, s.settings, s.teams, phoneRoutes(s), figureRoutes(s)} {
		routes(in)
	}
	s.people(in.Group("", ownBox))

	static := r.Group("/assets", gzip.Gzip(gzip.DefaultCompression))
	static.GET("/*file", s.asset)
	return r
}

// Routes are the requests of the screens, each as its method and its path below
// /api/v1.
func Routes(d *desk.Desk) (out []string) {
	for _, r := range engine(d, Options{}).Routes() {
		if path, ok := strings.CutPrefix(r.Path, "/api/v1"); ok {
			out = append(out, r.Method+" "+path)
		}
	}
	slices.Sort(out)
	return out
}

// asset serves a built file, whose name changes with its content.
func (s *server) asset(c *gin.Context) {
	name := path.Join("assets", path.Clean("/"+c.Param("file")))
	if _, err := fs.Stat(s.assets, name); err != nil {
		c.Status(http.StatusNotFound)
		return
	}
	c.Header("Cache-Control", "public, max-age=31536000, immutable")
	if strings.HasPrefix(name, "assets/pdf-reader-") { // it runs in a frame whose origin is nobody's
		c.Header("Access-Control-Allow-Origin", "*")
		c.Header("Cross-Origin-Resource-Policy", "cross-origin")
	}
	c.FileFromFS(name, http.FS(s.assets))
}

// page serves the one page of the front end, whatever the path.
func (s *server) page(c *gin.Context) {
	switch {
	case strings.HasPrefix(c.Request.URL.Path, "/api/"):
		refuse(c, http.StatusNotFound, "not-found", "There is nothing at this address.", "")
	case c.Request.URL.Path == "/icon.svg":
		c.FileFromFS("icon.svg", http.FS(s.assets))
	case s.index == nil:
		c.String(http.StatusServiceUnavailable, "The front end is not built into this program. Run “make build”.")
	default:
		nonce := rand.Text()
		c.Header("Content-Security-Policy", strings.Replace(contentPolicy, "style-src 'self'", "style-src 'self' 'nonce-"+nonce+"'", 1))
		c.Data(http.StatusOK, "text/html; charset=utf-8", bytes.ReplaceAll(s.index, []byte(noncePlace), []byte(nonce)))
	}
}
