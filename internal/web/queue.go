package web

import (
	"github.com/gin-gonic/gin"

	"ebbe/internal/core/inbox"
	"ebbe/internal/desk/finding"
	"ebbe/internal/desk/queue"
	"ebbe/internal/identity"
)

// queue are the routes of the inbox, lists, searches, senders and sittings.
func (s *server) queue(in *gin.RouterGroup) {
	in.GET("/inbox", get(s, func(c *gin.Context, w identity.Who) (out queue.Queue, err error) {
		where, err := where(c)
		if err != nil {
			return out, err
		}
		return s.d.Queue.Arranged(c.Request.Context(), w, queue.Arrangement{Group: inbox.Grouping(c.Query("group")), Order: inbox.Order(c.Query("order")), Where: where, Since: c.Query("since")})
	}))
	in.GET("/slips", get(s, func(c *gin.Context, w identity.Who) ([]queue.Slip, error) {
		return s.d.Queue.Slips(c.Request.Context(), w, numbersIn(c.Query("ids")))
	}))
	in.GET("/alike/:id", get(s, func(c *gin.Context, w identity.Who) ([]int64, error) {
		return s.d.Queue.Alike(c.Request.Context(), w, id(c, "id"), c.Query("by") == "shape")
	}))
	in.GET("/matching", get(s, func(c *gin.Context, w identity.Who) (out queue.Matching, err error) {
		where, err := where(c)
		if err != nil {
			return out, err
		}
		return s.d.Queue.Matching(c.Request.Context(), w, where)
	}))
	in.GET("/senders", get(s, func(c *gin.Context, w identity.Who) (queue.Senders, error) {
		return s.d.Queue.Senders(c.Request.Context(), w, c.Query("after"))
	}))
	in.GET("/sitting", get(s, func(c *gin.Context, w identity.Who) (queue.SittingView, error) {
		return s.d.Queue.Sitting(c.Request.Context(), w)
	}))
	in.POST("/sitting", post(s, func(c *gin.Context, w identity.Who, _ string, v queue.Sit) (queue.SittingView, error) {
		return s.d.Queue.Sit(c.Request.Context(), w, v)
	}))
	in.POST("/sitting/longer", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Minutes int `json:"minutes"`
	}) (queue.SittingView, error) {
		return s.d.Queue.Lengthen(c.Request.Context(), w, v.Minutes)
	}))
	in.POST("/sitting/end", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (queue.SittingView, error) {
		return s.d.Queue.EndSitting(c.Request.Context(), w)
	}))
	in.GET("/lists", get(s, func(c *gin.Context, w identity.Who) ([]queue.SavedList, error) {
		return s.d.Queue.SavedLists(c.Request.Context(), w)
	}))
	in.PUT("/lists", post(s, func(c *gin.Context, w identity.Who, key string, v queue.SavedList) (Done, error) {
		return Done{}, s.d.Queue.PutSavedList(c.Request.Context(), w, key, v)
	}))
	in.POST("/lists/:id/drop", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (Done, error) {
		return Done{}, s.d.Queue.DropSavedList(c.Request.Context(), w, id(c, "id"))
	}))
	in.GET("/later", get(s, func(c *gin.Context, w identity.Who) (queue.List, error) {
		return s.d.Queue.Later(c.Request.Context(), w, c.Query("after"))
	}))
	in.GET("/found", get(s, func(c *gin.Context, w identity.Who) (finding.FoundView, error) {
		return s.d.Finding.Find(c.Request.Context(), w, c.Query("asked"), c.Query("newest") != "")
	}))
	in.GET("/found/places", get(s, func(c *gin.Context, w identity.Who) ([]finding.FoundIn, error) {
		return s.d.Finding.Places(c.Request.Context(), w, c.Query("asked"), c.Query("newest") != "", int(number(c.Query("from"))))
	}))
	in.GET("/jump", get(s, func(c *gin.Context, w identity.Who) ([]finding.Jump, error) {
		return s.d.Finding.Jump(c.Request.Context(), w, c.Query("letters"))
	}))
	in.GET("/found/recent", get(s, func(c *gin.Context, w identity.Who) ([]string, error) {
		return s.d.Finding.Recent(c.Request.Context(), w)
	}))
	in.POST("/found/recent", post(s, func(c *gin.Context, w identity.Who, _ string, v finding.Searched) (Done, error) {
		return Done{}, s.d.Finding.Note(c.Request.Context(), w, v.Asked)
	}))
	in.GET("/find", get(s, func(c *gin.Context, w identity.Who) (out queue.List, err error) {
		where, err := where(c)
		if err != nil {
			return out, err
		}
		return s.d.Queue.Find(c.Request.Context(), w, where, c.Query("after"))
	}))
}
