package web

import (
	"github.com/gin-gonic/gin"

	"ebbe/internal/core/when"
	"ebbe/internal/desk/dayline"
	"ebbe/internal/desk/decide"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
)

// decisions are the routes of decisions, taking them back, and the times they name.
func (s *server) decisions(in *gin.RouterGroup) {
	in.GET("/presets", get(s, func(c *gin.Context, w identity.Who) ([]when.Preset, error) { return w.Week.Presets(s.d.Now()), nil }))
	in.POST("/entries/:id/take-back", post(s, func(c *gin.Context, w identity.Who, key string, _ struct{}) (journal.Decided, error) {
		return s.d.Journal.TakeBackStep(c.Request.Context(), w, key, id(c, "id"))
	}))
	in.POST("/conversations/join", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		Conversations []int64 `json:"conversations"`
	}) (journal.Decided, error) {
		return s.d.Decisions.Join(c.Request.Context(), w, key, v.Conversations)
	}))
	in.POST("/conversations/:id/part", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		Messages []int64 `json:"messages"`
	}) (journal.Decided, error) {
		return s.d.Decisions.Part(c.Request.Context(), w, key, id(c, "id"), v.Messages)
	}))
	in.GET("/grid", get(s, func(c *gin.Context, w identity.Who) ([7]when.Day, error) {
		return s.d.Dayline.Grid(c.Request.Context(), w)
	}))
	in.GET("/when", get(s, func(c *gin.Context, w identity.Who) (dayline.Phrase, error) {
		return s.d.Dayline.Read(c.Request.Context(), w, c.Query("phrase"), when.Way(c.Query("way")), c.Query("rhythm") != "")
	}))
	in.GET("/when/examples", get(s, func(_ *gin.Context, w identity.Who) ([]when.Example, error) {
		return w.Week.Examples(s.d.Journal.Now()), nil
	}))
	in.POST("/decisions", post(s, func(c *gin.Context, w identity.Who, key string, v decide.Decision) (journal.Decided, error) {
		return s.d.Decisions.Decide(c.Request.Context(), w, key, v)
	}))
	in.POST("/looks/:id", post(s, func(c *gin.Context, w identity.Who, key string, _ struct{}) (journal.Decided, error) {
		return s.d.Decisions.Look(c.Request.Context(), w, key, id(c, "id"))
	}))
	in.POST("/take-back", post(s, func(c *gin.Context, w identity.Who, key string, v journal.Seen) (journal.Decided, error) {
		return s.d.Journal.TakeBackSeen(c.Request.Context(), w, key, v)
	}))
	in.POST("/again", post(s, func(c *gin.Context, w identity.Who, key string, _ struct{}) (journal.Decided, error) {
		return s.d.Journal.Again(c.Request.Context(), w, key)
	}))
}
