package web

import (
	"strconv"

	"github.com/gin-gonic/gin"

	"ebbe/internal/core/sorting"
	"ebbe/internal/desk/importance"
	"ebbe/internal/desk/junk"
	"ebbe/internal/desk/rules"
	"ebbe/internal/desk/subscriptions"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
)

// sorting are the routes of rules, and of what Ebbe has learned.
func (s *server) sorting(in *gin.RouterGroup) {
	in.GET("/learned", get(s, func(c *gin.Context, w identity.Who) (importance.Learned, error) {
		return s.d.Importance.Learned(c.Request.Context(), w)
	}))
	in.GET("/junk", get(s, func(c *gin.Context, w identity.Who) (junk.Lying, error) {
		return s.d.Junk.All(c.Request.Context(), w)
	}))
	in.GET("/junk/figures", get(s, func(c *gin.Context, w identity.Who) (junk.Figures, error) {
		return s.d.Junk.Figures(c.Request.Context(), w)
	}))
	in.GET("/conversations/:id/block", get(s, func(c *gin.Context, w identity.Who) (junk.Blocking, error) {
		return s.d.Junk.Blocking(c.Request.Context(), w, id(c, "id"))
	}))
	in.POST("/conversations/:id/block", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		Domain bool `json:"domain"`
	}) (journal.Decided, error) {
		return s.d.Junk.Block(c.Request.Context(), w, key, id(c, "id"), v.Domain)
	}))
	in.GET("/lessons", get(s, func(c *gin.Context, w identity.Who) (rules.LessonsView, error) {
		return s.d.Rules.Lessons(c.Request.Context(), w)
	}))
	in.GET("/conversations/:id/streams", get(s, func(c *gin.Context, w identity.Who) (rules.MoveView, error) {
		return s.d.Rules.Moving(c.Request.Context(), w, rules.Moving{Conversation: id(c, "id"), Words: c.Query("words"), Away: c.Query("away") != ""})
	}))
	in.POST("/conversations/:id/stream", post(s, func(c *gin.Context, w identity.Who, key string, v rules.Taught) (journal.Decided, error) {
		v.Conversation = id(c, "id")
		return s.d.Rules.Teach(c.Request.Context(), w, key, v)
	}))
	in.POST("/conversations/:id/stream/forget", post(s, func(c *gin.Context, w identity.Who, key string, _ struct{}) (journal.Decided, error) {
		return s.d.Rules.Forget(c.Request.Context(), w, key, id(c, "id"))
	}))
	in.GET("/subscriptions", get(s, func(c *gin.Context, w identity.Who) ([]subscriptions.Subscription, error) {
		return s.d.Lists.All(c.Request.Context(), w)
	}))
	in.POST("/subscriptions/bin", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		Conversations []int64 `json:"conversations"`
	}) (journal.Decided, error) {
		return s.d.Lists.Bin(c.Request.Context(), w, key, v.Conversations)
	}))
	in.GET("/rules", get(s, func(c *gin.Context, w identity.Who) ([]rules.RuleView, error) {
		return s.d.Rules.All(c.Request.Context(), w)
	}))
	in.GET("/rules/sieve", get(s, func(c *gin.Context, w identity.Who) (sorting.Script, error) {
		return s.d.Rules.WriteOut(c.Request.Context(), w)
	}))
	in.POST("/rules/sieve", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Script string `json:"script"`
	}) (rules.SieveView, error) {
		return s.d.Rules.ReadIn(c.Request.Context(), w, v.Script)
	}))
	in.GET("/rules/offers", get(s, func(c *gin.Context, w identity.Who) ([]rules.OfferView, error) {
		return s.d.Rules.Offers(c.Request.Context(), w)
	}))
	in.POST("/rules/offers/:id/refuse", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (Done, error) {
		return Done{}, s.d.Rules.Refuse(c.Request.Context(), w, id(c, "id"))
	}))
	in.GET("/rules/read", get(s, func(c *gin.Context, w identity.Who) (rules.Written, error) {
		of, _ := strconv.ParseInt(c.Query("id"), 10, 64)
		span, _ := strconv.Atoi(c.Query("span"))
		return s.d.Rules.Read(c.Request.Context(), w, rules.Asked{ID: of, Words: c.Query("words"), Span: span})
	}))
	in.GET("/rules/like/:id", get(s, func(c *gin.Context, w identity.Who) (rules.Suggested, error) {
		return s.d.Rules.Like(c.Request.Context(), w, id(c, "id"))
	}))
	in.PUT("/rules", post(s, func(c *gin.Context, w identity.Who, key string, v rules.Saving) (journal.Decided, error) {
		return s.d.Rules.Save(c.Request.Context(), w, key, v)
	}))
	in.POST("/conversations/:id/never", post(s, func(c *gin.Context, w identity.Who, key string, v rules.PutAway) (journal.Decided, error) {
		return s.d.Rules.Never(c.Request.Context(), w, key, id(c, "id"), v)
	}))
	in.POST("/rules/order", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		IDs []int64 `json:"ids"`
	}) (journal.Decided, error) {
		return s.d.Rules.Order(c.Request.Context(), w, key, v.IDs)
	}))
	in.POST("/rules/:id/drop", post(s, func(c *gin.Context, w identity.Who, key string, _ struct{}) (journal.Decided, error) {
		return s.d.Rules.Drop(c.Request.Context(), w, key, id(c, "id"))
	}))
	in.POST("/rules/:id/undo", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (journal.Decided, error) {
		return s.d.Rules.Undo(c.Request.Context(), w, id(c, "id"))
	}))
	in.GET("/rules/:id/did", get(s, func(c *gin.Context, w identity.Who) ([]rules.DidView, error) {
		before, _ := strconv.ParseInt(c.Query("before"), 10, 64)
		return s.d.Rules.Did(c.Request.Context(), w, id(c, "id"), before)
	}))
}
