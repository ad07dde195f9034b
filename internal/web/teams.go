package web

import (
	"github.com/gin-gonic/gin"

	"ebbe/internal/core/together"
	"ebbe/internal/desk/teams"
	"ebbe/internal/identity"
)

// teams are the routes of the boxes somebody works in, and of the team of the one they are in.
func (s *server) teams(in *gin.RouterGroup) {
	in.GET("/boxes", get(s, func(c *gin.Context, w identity.Who) ([]teams.BoxView, error) {
		return s.d.Teams.Boxes(c.Request.Context(), w)
	}))
	in.POST("/boxes", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		Name string `json:"name"`
	}) (TeamMade, error) {
		box, err := s.d.Teams.Make(c.Request.Context(), w, key, v.Name)
		return TeamMade{box}, err
	}))
	in.GET("/team", get(s, func(c *gin.Context, w identity.Who) (teams.TeamView, error) {
		return s.d.Teams.Team(c.Request.Context(), w)
	}))
	in.POST("/team/members", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		Person int64         `json:"person"`
		Role   together.Role `json:"role"` // "": they are no member any more
	}) (Done, error) {
		return Done{}, s.d.Teams.Stand(c.Request.Context(), w, key, v.Person, v.Role)
	}))
	in.POST("/team/name", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		Name string `json:"name"`
	}) (Done, error) {
		return Done{}, s.d.Teams.Rename(c.Request.Context(), w, key, v.Name)
	}))
	in.POST("/team/names", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		Keep bool `json:"keep"`
	}) (Done, error) {
		return Done{}, s.d.Teams.KeepNames(c.Request.Context(), w, key, v.Keep)
	}))
	in.POST("/team/end", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Name string `json:"name"`
	}) (Done, error) {
		return Done{}, s.d.Teams.End(c.Request.Context(), w, v.Name)
	}))
}
