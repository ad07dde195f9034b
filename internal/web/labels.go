package web

import (
	"github.com/gin-gonic/gin"

	"ebbe/internal/desk/labelling"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
)

// labels are the routes of labels and places to be at.
func (s *server) labels(in *gin.RouterGroup) {
	in.GET("/labels", get(s, func(c *gin.Context, w identity.Who) ([]labelling.LabelView, error) {
		return s.d.Labels.All(c.Request.Context(), w)
	}))
	in.POST("/labels", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Path string `json:"path"`
	}) (labelling.LabelView, error) {
		return s.d.Labels.Make(c.Request.Context(), w, v.Path)
	}))
	in.PUT("/labels", post(s, func(c *gin.Context, w identity.Who, key string, v labelling.LabelView) (journal.Decided, error) {
		return s.d.Labels.Put(c.Request.Context(), w, key, v)
	}))
	in.POST("/labels/:id/drop", post(s, func(c *gin.Context, w identity.Who, key string, _ struct{}) (journal.Decided, error) {
		return s.d.Decisions.DropLabel(c.Request.Context(), w, key, id(c, "id"))
	}))
	in.GET("/places", get(s, func(c *gin.Context, w identity.Who) (labelling.Sites, error) {
		return s.d.Labels.Sites(c.Request.Context(), w)
	}))
	in.PUT("/places", post(s, func(c *gin.Context, w identity.Who, key string, v labelling.SiteView) (labelling.SitePut, error) {
		return s.d.Labels.PutSite(c.Request.Context(), w, key, v.ID, v.Name)
	}))
	in.POST("/places/:id/drop", post(s, func(c *gin.Context, w identity.Who, key string, _ struct{}) (journal.Decided, error) {
		return s.d.Decisions.DropSite(c.Request.Context(), w, key, id(c, "id"))
	}))
	in.POST("/places/:id/here", post(s, func(c *gin.Context, w identity.Who, key string, _ struct{}) (journal.Decided, error) {
		return s.d.Labels.BeAt(c.Request.Context(), w, key, id(c, "id"))
	}))
}
