// Package web serves the desk over HTTP: routes, sign-in, events, and the
// front end that is built into the program.
package web

import (
	"context"
	"embed"
	"encoding/json"
	"errors"
	"io/fs"
	"log/slog"
	"mime"
	"net"
	"net/http"
	"net/url"
	"path"
	"slices"
	"strings"
	"time"

	"github.com/gin-contrib/gzip"
	"github.com/gin-gonic/gin"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/desk"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/deliveries"
	"ebbe/internal/desk/labelling"
	"ebbe/internal/desk/queue"
	"ebbe/internal/desk/reading"
	"ebbe/internal/identity"
	"ebbe/internal/problem"
	"ebbe/internal/store"
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

type server struct {
	d      *desk.Desk
	hosts  []string // names at which it may be asked, besides addresses and this machine
	assets fs.FS
	index  []byte
	fonts  string // the @font-face rules for message frames
}

// Handler is everything Ebbe serves: to this machine, to whoever asks at an
// address, and at the names given.
func Handler(d *desk.Desk, hosts ...string) http.Handler {
	gin.SetMode(gin.ReleaseMode)
	assets, err := fs.Sub(dist, "dist")
	if err != nil {
		panic(err) // the folder is embedded: it cannot be missing
	}
	s := &server{d: d, assets: assets, hosts: hosts}
	s.index, _ = fs.ReadFile(assets, "index.html")
	s.fonts = frameFonts(assets)

	r := gin.New()
	_ = r.SetTrustedProxies(nil) // who asks is who connects: no header says otherwise
	r.HandleMethodNotAllowed = true
	r.Use(gin.CustomRecoveryWithWriter(nil, func(c *gin.Context, p any) {
		slog.Error("a request failed", "path", c.FullPath(), "panic", p)
		refuse(c, http.StatusInternalServerError, "internal", "Something went wrong inside Ebbe. Nothing was changed; try again.", "")
	}), securityHeaders, s.rightHost, sameOrigin)
	r.NoRoute(s.page)
	r.GET("/feed/:secret", s.feed)

	r.POST("/api/v1/calendar/file", s.signedIn, fileOf("text/calendar"), s.takeIn)
	r.POST("/api/v1/drafts/:id/files", s.signedIn, fileOf("application/octet-stream"), s.addFile)
	api := r.Group("/api/v1", limitBody, onlyJSON)
	api.GET("/session", s.session)
	api.POST("/setup", s.setup)
	api.POST("/sign-in", s.signIn)
	api.POST("/demo/sign-in", s.signInDemo)

	in := api.Group("", s.signedIn)
	in.GET("/notices", s.notices)
	in.POST("/sign-out", s.signOut)
	in.GET("/events", s.events)
	in.GET("/inbox", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		where, err := where(c)
		if err != nil {
			return nil, err
		}
		return s.d.Queue.Arranged(c.Request.Context(), w, queue.Arrangement{Group: inbox.Grouping(c.Query("group")), Order: inbox.Order(c.Query("order")), Where: where})
	}))
	in.GET("/slips", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		return s.d.Queue.Slips(c.Request.Context(), w, numbers(c.Query("ids")))
	}))
	in.GET("/alike/:id", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		return s.d.Queue.Alike(c.Request.Context(), w, id(c, "id"), c.Query("by") == "shape")
	}))
	in.GET("/matching", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		where, err := where(c)
		if err != nil {
			return nil, err
		}
		return s.d.Queue.Matching(c.Request.Context(), w, where)
	}))
	in.GET("/senders", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		return s.d.Queue.Senders(c.Request.Context(), w, c.Query("after"))
	}))
	in.GET("/sitting", get(s, func(c *gin.Context, w identity.Who) (any, error) { return s.d.Queue.Sitting(c.Request.Context(), w) }))
	in.POST("/sitting", post(s, func(c *gin.Context, w identity.Who, _ string, v queue.Sit) (any, error) {
		return s.d.Queue.Sit(c.Request.Context(), w, v)
	}))
	in.POST("/sitting/longer", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Minutes int `json:"minutes"`
	}) (any, error) {
		return s.d.Queue.Lengthen(c.Request.Context(), w, v.Minutes)
	}))
	in.POST("/sitting/end", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (any, error) {
		return s.d.Queue.EndSitting(c.Request.Context(), w)
	}))
	in.GET("/labels", get(s, func(c *gin.Context, w identity.Who) (any, error) { return s.d.Labels.All(c.Request.Context(), w) }))
	in.POST("/labels", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Path string `json:"path"`
	}) (any, error) {
		return s.d.Labels.Make(c.Request.Context(), w, v.Path)
	}))
	in.PUT("/labels", post(s, func(c *gin.Context, w identity.Who, _ string, v labelling.LabelView) (any, error) {
		return gin.H{}, s.d.Labels.Put(c.Request.Context(), w, v)
	}))
	in.POST("/labels/:id/drop", post(s, func(c *gin.Context, w identity.Who, key string, _ struct{}) (any, error) {
		return s.d.Decisions.DropLabel(c.Request.Context(), w, key, id(c, "id"))
	}))
	in.GET("/places", get(s, func(c *gin.Context, w identity.Who) (any, error) { return s.d.Labels.Sites(c.Request.Context(), w) }))
	in.PUT("/places", post(s, func(c *gin.Context, w identity.Who, _ string, v labelling.SiteView) (any, error) {
		return s.d.Labels.PutSite(c.Request.Context(), w, v.ID, v.Name)
	}))
	in.POST("/places/:id/drop", post(s, func(c *gin.Context, w identity.Who, key string, _ struct{}) (any, error) {
		return s.d.Decisions.DropSite(c.Request.Context(), w, key, id(c, "id"))
	}))
	in.POST("/places/:id/here", post(s, func(c *gin.Context, w identity.Who, key string, _ struct{}) (any, error) {
		return s.d.Labels.BeAt(c.Request.Context(), w, key, id(c, "id"))
	}))
	in.GET("/lists", get(s, func(c *gin.Context, w identity.Who) (any, error) { return s.d.Queue.SavedLists(c.Request.Context(), w) }))
	in.PUT("/lists", post(s, func(c *gin.Context, w identity.Who, _ string, v queue.SavedList) (any, error) {
		return gin.H{}, s.d.Queue.PutSavedList(c.Request.Context(), w, v)
	}))
	in.POST("/lists/:id/drop", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (any, error) {
		return gin.H{}, s.d.Queue.DropSavedList(c.Request.Context(), w, id(c, "id"))
	}))
	in.GET("/presets", get(s, func(c *gin.Context, w identity.Who) (any, error) { return w.Week.Presets(s.d.Now()), nil }))
	in.GET("/days", get(s, func(c *gin.Context, w identity.Who) (any, error) { return s.d.Dayline.Days(c.Request.Context(), w, 14) }))
	in.GET("/misses", get(s, func(c *gin.Context, w identity.Who) (any, error) { return s.d.Dayline.Misses(c.Request.Context(), w) }))
	in.POST("/entries/:id/take-back", post(s, func(c *gin.Context, w identity.Who, key string, _ struct{}) (any, error) {
		return s.d.Journal.TakeBackStep(c.Request.Context(), w, key, id(c, "id"))
	}))
	in.GET("/later", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		return s.d.Queue.Later(c.Request.Context(), w, c.Query("after"))
	}))
	in.GET("/find", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		where, err := where(c)
		if err != nil {
			return nil, err
		}
		return s.d.Queue.Find(c.Request.Context(), w, where, c.Query("after"))
	}))
	in.GET("/conversations/:id", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		return s.d.Reading.Conversation(c.Request.Context(), w, id(c, "id"))
	}))
	in.POST("/conversations/join", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		Conversations []int64 `json:"conversations"`
	}) (any, error) {
		return s.d.Decisions.Join(c.Request.Context(), w, key, v.Conversations)
	}))
	in.POST("/conversations/:id/part", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		Messages []int64 `json:"messages"`
	}) (any, error) {
		return s.d.Decisions.Part(c.Request.Context(), w, key, id(c, "id"), v.Messages)
	}))
	in.GET("/messages/:id", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		return s.d.Reading.Message(c.Request.Context(), w, id(c, "id"), c.Query("all") == "1")
	}))
	in.POST("/messages/:id/whole", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (any, error) {
		return gin.H{}, s.d.Accounts.FetchWhole(c.Request.Context(), w, id(c, "id"))
	}))
	in.GET("/mid/*mid", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		conversation, err := s.d.Reading.ByMessageID(c.Request.Context(), w, strings.TrimPrefix(c.Param("mid"), "/"))
		return gin.H{"conversation": conversation}, err
	}))
	in.GET("/messages/:id/body", s.body)
	in.GET("/messages/:id/original", s.original)
	in.GET("/messages/:id/files/:n", s.file)
	in.GET("/messages/:id/images/*cid", s.image)
	s.followUps(in)
	s.calendar(in)
	s.post(in)
	in.GET("/cards", get(s, func(c *gin.Context, w identity.Who) (any, error) { return s.d.FollowUps.Cards(c.Request.Context(), w) }))
	in.GET("/history", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		return s.d.Reading.History(c.Request.Context(), w, store.Past{Before: number(c.Query("before")), Until: when.Instant(number(c.Query("until"))),
			Actor: store.Actor(c.Query("actor")), Conversation: number(c.Query("conversation"))})
	}))
	in.POST("/noted", post(s, func(c *gin.Context, w identity.Who, _ string, v reading.Noted) (any, error) {
		return gin.H{}, s.d.Reading.Note(c.Request.Context(), w, v)
	}))
	in.GET("/dayline", get(s, func(c *gin.Context, w identity.Who) (any, error) { return s.d.Dayline.Today(c.Request.Context(), w) }))
	in.GET("/tide", get(s, func(c *gin.Context, w identity.Who) (any, error) { return s.d.Dayline.Tide(c.Request.Context(), w) }))
	in.GET("/grid", get(s, func(c *gin.Context, w identity.Who) (any, error) { return s.d.Dayline.Grid(c.Request.Context(), w) }))
	in.GET("/when", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		return s.d.Dayline.Read(c.Request.Context(), w, c.Query("phrase"))
	}))
	in.GET("/settings", get(s, func(c *gin.Context, w identity.Who) (any, error) { return s.d.Settings(c.Request.Context(), w) }))
	in.PUT("/settings", post(s, func(c *gin.Context, w identity.Who, _ string, v desk.Settings) (any, error) {
		return gin.H{}, s.d.Choose(c.Request.Context(), w, v)
	}))
	in.POST("/decisions", post(s, func(c *gin.Context, w identity.Who, key string, v decide.Decision) (any, error) {
		return s.d.Decisions.Decide(c.Request.Context(), w, key, v)
	}))
	in.POST("/looks/:id", post(s, func(c *gin.Context, w identity.Who, key string, _ struct{}) (any, error) {
		return s.d.Decisions.Look(c.Request.Context(), w, key, id(c, "id"))
	}))
	in.POST("/take-back", post(s, func(c *gin.Context, w identity.Who, key string, _ struct{}) (any, error) {
		return s.d.Journal.TakeBack(c.Request.Context(), w, key)
	}))
	in.POST("/again", post(s, func(c *gin.Context, w identity.Who, key string, _ struct{}) (any, error) {
		return s.d.Journal.Again(c.Request.Context(), w, key)
	}))
	in.GET("/delivery", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		return s.d.Delivery.Overview(c.Request.Context(), w)
	}))
	in.POST("/delivery/preview", post(s, func(c *gin.Context, w identity.Who, _ string, v deliveries.PlanDraft) (any, error) {
		return s.d.Delivery.Preview(c.Request.Context(), w, v)
	}))
	in.PUT("/delivery/plans", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Plan delivery.Plan `json:"plan"`
		Use  bool          `json:"use"`
	}) (any, error) {
		id, err := s.d.Delivery.PutPlan(c.Request.Context(), w, v.Plan, v.Use)
		return gin.H{"id": id}, err
	}))
	in.POST("/delivery/use", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Plan string `json:"plan"`
	}) (any, error) {
		return gin.H{}, s.d.Delivery.UsePlan(c.Request.Context(), w, v.Plan)
	}))
	in.POST("/delivery/plans/:id/drop", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (any, error) {
		return gin.H{}, s.d.Delivery.DropPlan(c.Request.Context(), w, c.Param("id"))
	}))
	in.PUT("/delivery/through", post(s, func(c *gin.Context, w identity.Who, _ string, v delivery.Exception) (any, error) {
		return gin.H{}, s.d.Delivery.LetPass(c.Request.Context(), w, v)
	}))
	in.POST("/delivery/through/:id/drop", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (any, error) {
		return gin.H{}, s.d.Delivery.StopPass(c.Request.Context(), w, c.Param("id"))
	}))
	in.PUT("/delivery/choices", post(s, func(c *gin.Context, w identity.Who, _ string, v deliveries.DeliveryChoices) (any, error) {
		return gin.H{}, s.d.Delivery.Choose(c.Request.Context(), w, v)
	}))
	in.POST("/delivery/hand", post(s, func(c *gin.Context, w identity.Who, _ string, v delivery.Hand) (any, error) {
		text, err := s.d.Delivery.Hold(c.Request.Context(), w, v)
		return gin.H{"text": text}, err
	}))
	in.POST("/delivery/look", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		Words string `json:"words"`
	}) (any, error) {
		return s.d.Delivery.LookFor(c.Request.Context(), w, key, v.Words)
	}))
	in.POST("/delivery/let-in", post(s, func(c *gin.Context, w identity.Who, key string, v deliveries.LettingIn) (any, error) {
		return s.d.Delivery.LetIn(c.Request.Context(), w, key, v)
	}))
	in.POST("/demo/clock", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		To desk.Dial `json:"to"`
	}) (any, error) {
		return gin.H{}, s.d.Turn(c.Request.Context(), w, v.To)
	}))

	static := r.Group("/assets", gzip.Gzip(gzip.DefaultCompression))
	static.GET("/*file", s.asset)
	return r
}

// Routes are the requests of the screens, each as its method and its path below
// /api/v1.
func Routes(d *desk.Desk) (out []string) {
	engine, _ := Handler(d).(*gin.Engine)
	for _, r := range engine.Routes() {
		if path, ok := strings.CutPrefix(r.Path, "/api/v1"); ok {
			out = append(out, r.Method+" "+path)
		}
	}
	slices.Sort(out)
	return out
}

// contentPolicy is what pages of Ebbe itself may do (Content Security Policy).
const contentPolicy = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; connect-src 'self'; " +
	"frame-src 'self'; manifest-src 'self'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"

func securityHeaders(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", contentPolicy)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("X-Frame-Options", "DENY")
	h.Set("Referrer-Policy", "no-referrer")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	h.Set("Cross-Origin-Resource-Policy", "same-origin")
	h.Set("Permissions-Policy", "camera=(), microphone=(), geolocation=()")
	h.Set("Cache-Control", "no-store")
}

// bodyWithin is how long the body of a request may take to come in; one with a
// file has more.
const bodyWithin = 30 * time.Second

func limitBody(c *gin.Context) {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, maxRequest)
	if c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead {
		_ = http.NewResponseController(c.Writer).SetReadDeadline(time.Now().Add(bodyWithin))
	}
}

// rightHost refuses requests that were made to another name: a page elsewhere
// can have its name stand for this machine (DNS rebinding), but not say so.
// Addresses stand for themselves.
func (s *server) rightHost(c *gin.Context) {
	host := strings.ToLower(c.Request.Host)
	if h, _, err := net.SplitHostPort(host); err == nil {
		host = h
	}
	host = strings.TrimSuffix(strings.Trim(host, "[]"), ".")
	if net.ParseIP(host) != nil || host == "localhost" || strings.HasSuffix(host, ".localhost") || slices.Contains(s.hosts, host) {
		return
	}
	refuse(c, http.StatusMisdirectedRequest, "other-name", "Ebbe does not answer at this name. Start it with --host and the name, if it is yours.", "")
}

// sameOrigin refuses requests that change something and that a page of another
// origin has caused.
func sameOrigin(c *gin.Context) {
	if c.Request.Method == http.MethodGet || c.Request.Method == http.MethodHead {
		return
	}
	site, origin := c.GetHeader("Sec-Fetch-Site"), c.GetHeader("Origin")
	u, err := url.Parse(origin)
	other := origin != "" && (err != nil || !strings.EqualFold(u.Host, c.Request.Host))
	if other || site != "" && site != "same-origin" && site != "none" {
		refuse(c, http.StatusForbidden, "other-site", "This request did not come from Ebbe itself, so nothing was done.", "")
	}
}

// onlyJSON refuses bodies of another type, which pages of other sites could send.
func onlyJSON(c *gin.Context) {
	if c.Request.Method == http.MethodGet || c.Request.Method == http.MethodHead {
		return
	}
	if kind, _, err := mime.ParseMediaType(c.GetHeader("Content-Type")); err != nil || kind != "application/json" {
		refuse(c, http.StatusForbidden, "other-site", "This request did not come from Ebbe itself, so nothing was done.", "")
	}
}

func (s *server) signedIn(c *gin.Context) {
	token, _ := c.Cookie(s.cookie(c, cookieName))
	who, _, csrf, err := s.d.People.Session(c.Request.Context(), token)
	switch {
	case errors.Is(err, store.ErrNotFound):
		refuse(c, http.StatusUnauthorized, "signed-out", "You are not signed in here any more. Sign in; what you decided before is stored.", "")
	case err != nil:
		fail(c, err)
	case c.Request.Method != http.MethodGet && c.GetHeader(csrfHeader) != csrf:
		refuse(c, http.StatusForbidden, "token", "This page is out of date, so nothing was done. Load it again.", "")
	default:
		c.Set("who", who)
	}
}

func whoOf(c *gin.Context) identity.Who { return c.MustGet("who").(identity.Who) }

func get(_ *server, f func(*gin.Context, identity.Who) (any, error)) gin.HandlerFunc {
	return func(c *gin.Context) {
		v, err := f(c, whoOf(c))
		answer(c, v, err)
	}
}

func post[T any](_ *server, f func(*gin.Context, identity.Who, string, T) (any, error)) gin.HandlerFunc {
	return func(c *gin.Context) {
		var body T
		if !bind(c, &body) {
			return
		}
		key := c.GetHeader(keyHeader)
		if len(key) > 100 {
			key = key[:100]
		}
		v, err := f(c, whoOf(c), key, body)
		answer(c, v, err)
	}
}

// where reads the query of a request, which is JSON; none is the zero query.
func where(c *gin.Context) (q search.Query, err error) {
	if text := c.Query("where"); text != "" {
		err = json.Unmarshal([]byte(text), &q)
	}
	if err == nil {
		err = q.Valid()
	}
	if err != nil {
		err = &problem.Error{Type: "invalid", Field: "where", Text: "Ebbe could not read what to look for. Load the page again."}
	}
	return q, err
}

// numbers reads numbers between commas; what is none is left out.
func numbers(text string) (out []int64) {
	for part := range strings.SplitSeq(text, ",") {
		if n := number(part); n > 0 {
			out = append(out, n)
		}
	}
	return out
}

func bind(c *gin.Context, into any) bool {
	if err := c.ShouldBindJSON(into); err != nil {
		refuse(c, http.StatusBadRequest, "unreadable", "Ebbe could not read this request, so nothing was done. Load the page again.", "")
		return false
	}
	return true
}

func answer(c *gin.Context, v any, err error) {
	if err != nil {
		fail(c, err)
		return
	}
	c.JSON(http.StatusOK, v)
}

// fail answers with a problem (RFC 9457) whose detail is a sentence.
func fail(c *gin.Context, err error) {
	var user *problem.Error
	switch {
	case errors.As(err, &user):
		status := http.StatusUnprocessableEntity
		switch user.Type {
		case "slow-down":
			status = http.StatusTooManyRequests
		case "wrong-password":
			status = http.StatusUnauthorized
		case "set-up-done":
			status = http.StatusConflict
		case "unreachable":
			status = http.StatusBadGateway
		}
		refuse(c, status, user.Type, user.Text, user.Field)
	case errors.Is(err, store.ErrNotFound):
		refuse(c, http.StatusNotFound, "not-found", "That is no longer here. Nothing was changed; load the list again.", "")
	case errors.Is(err, store.ErrFull), errors.Is(err, store.ErrLocked):
		refuse(c, http.StatusInsufficientStorage, "storage", sentence(err), "")
	case errors.Is(err, context.Canceled): // whoever asked is gone, or Ebbe is being stopped: an answer without a word would look like a good one
		refuse(c, http.StatusServiceUnavailable, "stopping", "Ebbe is being stopped. Nothing was changed; it is sent again by itself.", "")
	default:
		slog.Error("a request failed", "path", c.FullPath(), "error", err)
		refuse(c, http.StatusInternalServerError, "internal", "Something went wrong inside Ebbe. Nothing was changed; try again.", "")
	}
}

func sentence(err error) string {
	text := err.Error()
	return strings.ToUpper(text[:1]) + text[1:] + "."
}

func refuse(c *gin.Context, status int, kind, detail, field string) {
	c.Header("Content-Type", "application/problem+json")
	c.AbortWithStatusJSON(status, Problem{Type: "urn:ebbe:problem:" + kind, Title: http.StatusText(status), Status: status, Detail: detail, Field: field})
}

func (s *server) session(c *gin.Context) {
	v := Session{State: "out", Demo: s.d.Demo(), Now: s.d.Now()}
	needs, err := s.d.People.NeedsSetup(c.Request.Context())
	if err != nil {
		fail(c, err)
		return
	}
	if needs {
		v.State = "setup"
	}
	token, _ := c.Cookie(s.cookie(c, cookieName))
	if _, p, csrf, err := s.d.People.Session(c.Request.Context(), token); err == nil {
		v.State, v.Name, v.Address, v.CSRF, v.Week, v.Theme, v.Habits = "in", p.Name, p.Address, csrf, p.Week, p.Theme, p.Habits
	}
	c.JSON(http.StatusOK, v)
}

func (s *server) setup(c *gin.Context) {
	var v identity.Signup
	if !bind(c, &v) {
		return
	}
	if err := s.d.SetUp(c.Request.Context(), v); err != nil {
		fail(c, err)
		return
	}
	signed, err := s.d.People.SignIn(c.Request.Context(), v.Address, v.Password, c.ClientIP(), "")
	s.welcome(c, signed, err)
}

func (s *server) signIn(c *gin.Context) {
	var v identity.Signup
	if bind(c, &v) {
		known, _ := c.Cookie(s.cookie(c, knownName))
		signed, err := s.d.People.SignIn(c.Request.Context(), v.Address, v.Password, c.ClientIP(), known)
		s.welcome(c, signed, err)
	}
}

// cookie is the name of a cookie of this Ebbe, apart from those of others on the
// same machine.
func (s *server) cookie(c *gin.Context, name string) string {
	id, err := s.d.People.Instance(c.Request.Context())
	if err != nil {
		slog.Error("what tells this Ebbe from others cannot be read", "error", err)
	}
	return name + id
}

func (s *server) signInDemo(c *gin.Context) {
	signed, err := s.d.People.SignInDemo(c.Request.Context())
	s.welcome(c, signed, err)
}

func (s *server) welcome(c *gin.Context, signed identity.Session, err error) {
	if err != nil {
		fail(c, err)
		return
	}
	http.SetCookie(c.Writer, &http.Cookie{Name: s.cookie(c, cookieName), Value: signed.Token, Path: "/", Expires: signed.Expires,
		HttpOnly: true, SameSite: http.SameSiteStrictMode, Secure: c.Request.TLS != nil})
	if signed.Known != "" {
		http.SetCookie(c.Writer, &http.Cookie{Name: s.cookie(c, knownName), Value: signed.Known, Path: "/api/v1/sign-in", MaxAge: 365 * 24 * 3600,
			HttpOnly: true, SameSite: http.SameSiteStrictMode, Secure: c.Request.TLS != nil})
	}
	c.JSON(http.StatusOK, gin.H{})
}

func (s *server) signOut(c *gin.Context) {
	token, _ := c.Cookie(s.cookie(c, cookieName))
	err := s.d.People.SignOut(c.Request.Context(), token)
	http.SetCookie(c.Writer, &http.Cookie{Name: s.cookie(c, cookieName), Path: "/", MaxAge: -1, HttpOnly: true, SameSite: http.SameSiteStrictMode})
	answer(c, gin.H{}, err)
}

type stopKey struct{}

// UntilStop is a context for requests that goes on when stop ends, so that what has
// been asked is answered; only what never ends by itself, as streams of events,
// ends with stop.
func UntilStop(stop context.Context) context.Context {
	return context.WithValue(context.WithoutCancel(stop), stopKey{}, stop)
}

// stopping is closed when what never ends by itself is to end.
func stopping(ctx context.Context) <-chan struct{} {
	if stop, ok := ctx.Value(stopKey{}).(context.Context); ok {
		return stop.Done()
	}
	return nil
}

// heartbeat keeps idle event streams from being cut by what lies in between.
const heartbeat = 25 * time.Second

func (s *server) events(c *gin.Context) {
	events := s.d.Journal.Subscribe(c.Request.Context(), whoOf(c).Box)
	c.Header("Content-Type", "text/event-stream")
	c.SSEvent("hello", gin.H{})
	c.Writer.Flush()
	tick := time.NewTicker(heartbeat)
	defer tick.Stop()
	for {
		select {
		case e, ok := <-events:
			if !ok {
				return
			}
			c.SSEvent("changed", e)
		case <-tick.C:
			c.SSEvent("still", gin.H{})
		case <-c.Request.Context().Done():
			return
		case <-stopping(c.Request.Context()):
			return
		}
		c.Writer.Flush()
	}
}

// asset serves a built file, whose name changes with its content.
func (s *server) asset(c *gin.Context) {
	name := path.Join("assets", path.Clean("/"+c.Param("file")))
	if _, err := fs.Stat(s.assets, name); err != nil {
		c.Status(http.StatusNotFound)
		return
	}
	c.Header("Cache-Control", "public, max-age=31536000, immutable")
	c.FileFromFS(name, http.FS(s.assets))
}

// notices gives the licences of everything that ships with Ebbe, as the build has
// put them together (cmd/notices).
func (s *server) notices(c *gin.Context) {
	raw, err := fs.ReadFile(s.assets, "notices.json")
	if err != nil {
		refuse(c, http.StatusNotFound, "not-found", "The notices are not built into this program. Run “make build”.", "")
		return
	}
	c.Data(http.StatusOK, "application/json; charset=utf-8", raw)
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
		c.Data(http.StatusOK, "text/html; charset=utf-8", s.index)
	}
}
