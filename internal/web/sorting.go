package web

import (
	"github.com/gin-gonic/gin"

	"ebbe/internal/desk/importance"
	"ebbe/internal/identity"
)

// sorting are the routes of what Ebbe has learned.
func (s *server) sorting(in *gin.RouterGroup) {
	in.GET("/learned", get(s, func(c *gin.Context, w identity.Who) (importance.Learned, error) {
		return s.d.Importance.Learned(c.Request.Context(), w)
	}))
}
