package web

import (
	"errors"
	"fmt"
	"log/slog"
	"net/http"

	"github.com/gin-gonic/gin"

	"ebbe/internal/identity"
	"ebbe/internal/store"
)

func (s *server) signedIn(c *gin.Context) {
	token, _ := c.Cookie(s.cookie(c, cookieName))
	who, csrf, err := s.d.People.SignedIn(c.Request.Context(), token)
	switch {
	case errors.Is(err, store.ErrNotFound):
		refuse(c, http.StatusUnauthorized, "signed-out", "You are not signed in here any more. Sign in; what you decided before is saved.", "")
	case err != nil:
		fail(c, err)
	case c.Request.Method != http.MethodGet && c.GetHeader(csrfHeader) != csrf:
		refuse(c, http.StatusForbidden, "token", "This page is out of date, so nothing was done. Load it again.", "")
	default:
		c.Set("who", who)
	}
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
	if p, csrf, err := s.d.People.Session(c.Request.Context(), token); err == nil {
		v.State, v.Name, v.Address, v.CSRF, v.Week, v.Theme, v.Habits = "in", p.Name, p.Address, csrf, p.Week, p.Theme, p.Habits
		v.Keep = s.cookie(c, fmt.Sprintf("%d-", p.ID))
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
	c.JSON(http.StatusOK, Done{})
}

func (s *server) signOut(c *gin.Context) {
	token, _ := c.Cookie(s.cookie(c, cookieName))
	err := s.d.People.SignOut(c.Request.Context(), token)
	http.SetCookie(c.Writer, &http.Cookie{Name: s.cookie(c, cookieName), Path: "/", MaxAge: -1, HttpOnly: true, SameSite: http.SameSiteStrictMode})
	answer(c, Done{}, err)
}
