package web

import (
	"github.com/gin-gonic/gin"

	"ebbe/internal/core/delivery"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/deliveries"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
)

// delivery are the routes of when mail comes in.
func (s *server) delivery(in *gin.RouterGroup) {
	in.GET("/delivery", get(s, func(c *gin.Context, w identity.Who) (deliveries.DeliveryView, error) {
		return s.d.Delivery.Overview(c.Request.Context(), w)
	}))
	in.POST("/delivery/preview", post(s, func(c *gin.Context, w identity.Who, _ string, v deliveries.PlanDraft) (deliveries.PlanPreview, error) {
		return s.d.Delivery.Preview(c.Request.Context(), w, v)
	}))
	in.PUT("/delivery/plans", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		Plan delivery.Plan `json:"plan"`
		Use  bool          `json:"use"`
	}) (Made, error) {
		id, err := s.d.Delivery.PutPlan(c.Request.Context(), w, key, v.Plan, v.Use)
		return Made{ID: id}, err
	}))
	in.POST("/delivery/use", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Plan string `json:"plan"`
	}) (Done, error) {
		return Done{}, s.d.Delivery.UsePlan(c.Request.Context(), w, v.Plan)
	}))
	in.POST("/delivery/plans/:id/drop", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (Done, error) {
		return Done{}, s.d.Delivery.DropPlan(c.Request.Context(), w, c.Param("id"))
	}))
	in.PUT("/delivery/streams", post(s, func(c *gin.Context, w identity.Who, key string, v deliveries.NewStream) (Made, error) {
		id, err := s.d.Delivery.PutStream(c.Request.Context(), w, key, v)
		return Made{ID: id}, err
	}))
	in.POST("/delivery/streams/:id/drop", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (Done, error) {
		return Done{}, s.d.Delivery.DropStream(c.Request.Context(), w, delivery.Stream(c.Param("id")))
	}))
	in.PUT("/delivery/through", post(s, func(c *gin.Context, w identity.Who, _ string, v delivery.Exception) (Done, error) {
		return Done{}, s.d.Delivery.LetPass(c.Request.Context(), w, v)
	}))
	in.POST("/delivery/through/:id/drop", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (Done, error) {
		return Done{}, s.d.Delivery.StopPass(c.Request.Context(), w, c.Param("id"))
	}))
	in.PUT("/delivery/choices", post(s, func(c *gin.Context, w identity.Who, _ string, v deliveries.DeliveryChoices) (Done, error) {
		return Done{}, s.d.Delivery.Choose(c.Request.Context(), w, v)
	}))
	in.POST("/delivery/hand", post(s, func(c *gin.Context, w identity.Who, _ string, v delivery.Hand) (Said, error) {
		text, err := s.d.Delivery.Hold(c.Request.Context(), w, v)
		return Said{Text: text}, err
	}))
	in.POST("/delivery/look", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		Words string `json:"words"`
	}) (deliveries.HeldFound, error) {
		return s.d.Delivery.LookFor(c.Request.Context(), w, key, v.Words)
	}))
	in.POST("/delivery/let-in", post(s, func(c *gin.Context, w identity.Who, key string, v deliveries.LettingIn) (journal.Decided, error) {
		return s.d.Delivery.LetIn(c.Request.Context(), w, key, v)
	}))
	in.GET("/delivery/heard", get(s, func(c *gin.Context, w identity.Who) (composing.Outbox, error) {
		return s.d.Writing.Heard(c.Request.Context(), w, number(c.Query("before")))
	}))
}
