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
		c.Set("own", who)
		if box, ok := c.Request.Context().Value(boxKey{}).(int64); ok {
			if who, err = (identity.Boxes{Directory: s.d.People}).In(c.Request.Context(), who, box); err != nil {
				fail(c, err)
				return
			}
		}
		c.Set("who", who)
	}
}

// ownBox has what follows be about the person's own box, whatever box the page is in: it is
// about themselves.
func ownBox(c *gin.Context) { c.Set("who", c.MustGet("own")) }

// door is how one comes in and goes.
type door struct{ *server }

func (s door) session(c *gin.Context) {
	v := Session{State: "out", Demo: s.d.Demo(), Now: s.d.Now()}
	needs, err := s.d.People.NeedsSetup(c.Request.Context())
	if err != nil {
		fail(c, err)
		return
	}
	if needs {
		v.State, v.Asks = "setup", s.d.People.AsksForCode()
	}
	token, _ := c.Cookie(s.cookie(c, cookieName))
	if p, csrf, err := s.d.People.Session(c.Request.Context(), token); err == nil {
		v.State, v.ID, v.Name, v.Address, v.CSRF, v.Week, v.Theme, v.Habits, v.Admin = "in", p.ID, p.Name, p.Address, csrf, p.Week, p.Theme, p.Habits, p.Admin
		v.Keep = s.cookie(c, fmt.Sprintf("%d-", p.ID))
	}
	if v.People, err = identity.OfDemo(c.Request.Context(), s.d.People); err != nil {
		fail(c, err)
		return
	}
	c.JSON(http.StatusOK, v)
}

func (s door) setup(c *gin.Context) {
	var v identity.Signup
	if !bind(c, &v) {
		return
	}
	codes, err := s.d.FirstPerson(c.Request.Context(), v, c.ClientIP())
	s.begun(c, v, codes, err)
}

// begun signs in whoever has just come to this Ebbe.
func (s door) begun(c *gin.Context, v identity.Signup, codes []string, err error) {
	if err != nil {
		fail(c, err)
		return
	}
	signed, err := s.d.People.SignIn(c.Request.Context(), identity.Entry{Address: v.Address, Password: v.Password}, s.from(c))
	s.welcome(c, signed, codes, err)
}

// from is what is known of the browser that asks.
func (s door) from(c *gin.Context) identity.From {
	known, _ := c.Cookie(s.cookie(c, knownName))
	return identity.From{Address: c.ClientIP(), Browser: c.GetHeader("User-Agent"), Known: known, Site: s.site(c)}
}

// askForPasskey begins to show a passkey.
func (s door) askForPasskey(c *gin.Context) {
	var v identity.Entry
	if bind(c, &v) {
		offer, err := identity.Passkeys{Directory: s.d.People}.Ask(c.Request.Context(), v, s.site(c), s.from(c))
		answer(c, offer, err)
	}
}

func (s door) signIn(c *gin.Context) {
	var v identity.Entry
	if bind(c, &v) {
		signed, err := s.d.People.SignIn(c.Request.Context(), v, s.from(c))
		s.welcome(c, signed, nil, err)
	}
}

// recover sets a new password for whoever has a recovery code.
func (s door) recover(c *gin.Context) {
	var v identity.Entry
	if bind(c, &v) {
		answer(c, Done{}, s.d.People.Recover(c.Request.Context(), v, s.from(c)))
	}
}

// invited says for whom an invitation is. Its secret part comes in the body, so that it
// stands in no line of any log.
func (s door) invited(c *gin.Context) {
	var v InvitationToken
	if bind(c, &v) {
		found, err := s.d.People.Invited(c.Request.Context(), v.Token)
		answer(c, found, err)
	}
}

func (s door) join(c *gin.Context) {
	var v struct {
		identity.Signup
		InvitationToken
	}
	if !bind(c, &v) {
		return
	}
	found, err := s.d.People.Invited(c.Request.Context(), v.Token)
	if err != nil {
		fail(c, err)
		return
	}
	codes, err := s.d.Join(c.Request.Context(), v.Token, v.Signup)
	v.Address = found.Address
	s.begun(c, v.Signup, codes, err)
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

func (s door) signInDemo(c *gin.Context) {
	var v struct {
		As string `json:"as"` // a first name; "": Solvei's
	}
	if !bind(c, &v) {
		return
	}
	signed, err := s.d.People.SignInDemo(c.Request.Context(), s.from(c), v.As)
	s.welcome(c, signed, nil, err)
}

func (s door) welcome(c *gin.Context, signed identity.Session, codes []string, err error) {
	if err != nil {
		fail(c, err)
		return
	}
	http.SetCookie(c.Writer, &http.Cookie{Name: s.cookie(c, cookieName), Value: signed.Token, Path: "/", Expires: signed.Expires,
		HttpOnly: true, SameSite: http.SameSiteStrictMode, Secure: s.secure(c)})
	if signed.Known != "" {
		http.SetCookie(c.Writer, &http.Cookie{Name: s.cookie(c, knownName), Value: signed.Known, Path: "/api/v1/sign-in", MaxAge: 365 * 24 * 3600,
			HttpOnly: true, SameSite: http.SameSiteStrictMode, Secure: s.secure(c)})
	}
	c.JSON(http.StatusOK, Entered{Tell: signed.Tell, Codes: append([]string{}, codes...)})
}

func (s door) signOut(c *gin.Context) {
	token, _ := c.Cookie(s.cookie(c, cookieName))
	err := s.d.People.SignOut(c.Request.Context(), token)
	http.SetCookie(c.Writer, &http.Cookie{Name: s.cookie(c, cookieName), Path: "/", MaxAge: -1, HttpOnly: true, SameSite: http.SameSiteStrictMode, Secure: s.secure(c)})
	answer(c, Done{}, err)
}
