package web

import (
	"net/http"

	"github.com/gin-gonic/gin"

	"ebbe/internal/identity"
)

// people are the routes of how one signs in, and of who else is in this Ebbe.
func (s *server) people(in *gin.RouterGroup) {
	token := func(c *gin.Context) string {
		token, _ := c.Cookie(s.cookie(c, cookieName))
		return token
	}
	in.GET("/security", get(s, func(c *gin.Context, w identity.Who) (identity.Security, error) {
		return s.d.People.Security(c.Request.Context(), w, token(c), s.site(c))
	}))
	in.POST("/sessions/end", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		ID string `json:"id"` // "": all others
	}) (Done, error) {
		return Done{}, s.d.People.EndSession(c.Request.Context(), w, v.ID, token(c))
	}))
	in.POST("/name", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Name string `json:"name"`
	}) (Done, error) {
		return Done{}, s.d.People.Rename(c.Request.Context(), w, v.Name)
	}))
	in.POST("/password", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Password string `json:"password"`
		Fresh    string `json:"fresh"`
	}) (Done, error) {
		return Done{}, s.d.People.ChangePassword(c.Request.Context(), w, v.Password, v.Fresh, token(c))
	}))
	in.POST("/codes/offer", post(s, func(c *gin.Context, w identity.Who, _ string, _ Done) (identity.CodeSetup, error) {
		return s.d.People.OfferCodes(c.Request.Context(), w)
	}))
	type shown struct {
		Password string `json:"password"`
		Secret   string `json:"secret"`
		Code     string `json:"code"`
	}
	in.POST("/codes", post(s, func(c *gin.Context, w identity.Who, _ string, v shown) (RecoveryCodes, error) {
		codes, err := s.d.People.TakeCodes(c.Request.Context(), w, v.Password, v.Secret, v.Code)
		return RecoveryCodes{codes}, err
	}))
	in.POST("/codes/drop", post(s, func(c *gin.Context, w identity.Who, _ string, v shown) (Done, error) {
		return Done{}, s.d.People.DropCodes(c.Request.Context(), w, v.Password)
	}))
	in.POST("/recovery-codes", post(s, func(c *gin.Context, w identity.Who, _ string, v shown) (RecoveryCodes, error) {
		codes, err := s.d.People.NewRecoveryCodes(c.Request.Context(), w, v.Password)
		return RecoveryCodes{codes}, err
	}))
	in.POST("/leave", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Password string `json:"password"`
		Days     int    `json:"days"` // 0: now
	}) (Done, error) {
		return Done{}, s.d.Leaving.Leave(c.Request.Context(), w, v.Password, v.Days)
	}))
	in.POST("/stay", post(s, func(c *gin.Context, w identity.Who, _ string, _ Done) (Done, error) {
		return Done{}, s.d.Leaving.Stay(c.Request.Context(), w)
	}))
	in.GET("/mine", func(c *gin.Context) {
		p, err := s.d.Leaving.Pack(c.Request.Context(), whoOf(c))
		if err != nil {
			fail(c, err)
			return
		}
		defer p.Close()
		c.DataFromReader(http.StatusOK, p.Size, "application/zip", p, map[string]string{"Content-Disposition": `attachment; filename="` + p.Name + `"`})
	})

	keys := identity.Passkeys{Directory: s.d.People}
	in.POST("/passkeys/offer", post(s, func(c *gin.Context, w identity.Who, _ string, v shown) (identity.PasskeyOffer, error) {
		return keys.Offer(c.Request.Context(), w, s.site(c), v.Password)
	}))
	in.POST("/passkeys", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Name string `json:"name"`
		identity.PasskeyShown
	}) (Done, error) {
		return Done{}, keys.Take(c.Request.Context(), w, s.site(c), v.Name, v.PasskeyShown)
	}))
	in.POST("/passkeys/:id/drop", post(s, func(c *gin.Context, w identity.Who, _ string, v shown) (Done, error) {
		return Done{}, keys.Drop(c.Request.Context(), w, v.Password, number(c.Param("id")))
	}))

	care := identity.Care{Directory: s.d.People}
	in.GET("/others", get(s, func(c *gin.Context, w identity.Who) (identity.Others, error) {
		return care.People(c.Request.Context(), w)
	}))
	in.POST("/others/:id", post(s, func(c *gin.Context, w identity.Who, _ string, v identity.Standing) (Done, error) {
		return Done{}, care.Stand(c.Request.Context(), w, number(c.Param("id")), v)
	}))
	in.POST("/others/:id/send", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Days int `json:"days"` // 0: now
	}) (Said, error) {
		text, err := s.d.Leaving.Send(c.Request.Context(), w, number(c.Param("id")), v.Days)
		return Said{text}, err
	}))
	in.POST("/others/:id/keep", post(s, func(c *gin.Context, w identity.Who, _ string, _ Done) (Done, error) {
		return Done{}, s.d.Leaving.Keep(c.Request.Context(), w, number(c.Param("id")))
	}))
	in.POST("/invitations", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Name    string `json:"name"`
		Address string `json:"address"`
	}) (InvitationToken, error) {
		token, err := care.Invite(c.Request.Context(), w, v.Name, v.Address)
		return InvitationToken{token}, err
	}))
	in.POST("/invitations/take-back", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		ID string `json:"id"`
	}) (Done, error) {
		return Done{}, care.TakeBack(c.Request.Context(), w, v.ID)
	}))
}
