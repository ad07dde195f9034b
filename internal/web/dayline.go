package web

import (
	"github.com/gin-gonic/gin"

	"ebbe/internal/core/numbers"
	"ebbe/internal/desk/dayline"
	"ebbe/internal/identity"
)

// dayline are the routes of the line of the day and its numbers.
func (s *server) dayline(in *gin.RouterGroup) {
	in.GET("/days", get(s, func(c *gin.Context, w identity.Who) ([]dayline.DayLoad, error) {
		return s.d.Dayline.Days(c.Request.Context(), w, 14)
	}))
	in.GET("/misses", get(s, func(c *gin.Context, w identity.Who) (numbers.Miss, error) {
		return s.d.Dayline.Misses(c.Request.Context(), w)
	}))
	in.GET("/dayline", get(s, func(c *gin.Context, w identity.Who) (dayline.Dayline, error) {
		return s.d.Dayline.Today(c.Request.Context(), w)
	}))
	in.GET("/tide", get(s, func(c *gin.Context, w identity.Who) (dayline.Tide, error) {
		return s.d.Dayline.Tide(c.Request.Context(), w)
	}))
}
