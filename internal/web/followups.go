package web

import (
	"encoding/json"

	"github.com/gin-gonic/gin"

	"ebbe/internal/core/followup"
	"ebbe/internal/desk/followups"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
)

// followUps are the routes of follow-ups and what waits for others.
func (s *server) followUps(in *gin.RouterGroup) {
	in.GET("/cards", get(s, func(c *gin.Context, w identity.Who) (followups.Cards, error) {
		return s.d.FollowUps.Cards(c.Request.Context(), w)
	}))
	in.GET("/follow-ups", get(s, func(c *gin.Context, w identity.Who) (out followups.FollowUpList, err error) {
		a, err := asked(c)
		if err != nil {
			return out, err
		}
		return s.d.FollowUps.List(c.Request.Context(), w, a)
	}))
	in.GET("/follow-ups/group", get(s, func(c *gin.Context, w identity.Who) (out followups.FollowUpGroup, err error) {
		a, err := asked(c)
		if err != nil {
			return out, err
		}
		return s.d.FollowUps.Page(c.Request.Context(), w, a, c.Query("key"), c.Query("after"))
	}))
	in.GET("/follow-ups/one-by-one", get(s, func(c *gin.Context, w identity.Who) (out []followups.FollowUpView, err error) {
		a, err := asked(c)
		if err != nil {
			return out, err
		}
		return s.d.FollowUps.OneByOne(c.Request.Context(), w, a.Filter)
	}))
	in.GET("/follow-ups/closing", get(s, func(c *gin.Context, w identity.Who) (followups.Closing, error) {
		return s.d.FollowUps.Closing(c.Request.Context(), w)
	}))
	in.POST("/follow-ups/closed", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (Done, error) {
		return Done{}, s.d.FollowUps.ClosedDay(c.Request.Context(), w)
	}))
	in.GET("/follow-ups/log", get(s, func(c *gin.Context, w identity.Who) (followups.Log, error) {
		return s.d.FollowUps.Log(c.Request.Context(), w, c.Query("before"))
	}))
	in.GET("/follow-ups/settings", get(s, func(c *gin.Context, w identity.Who) (followups.FollowUpSettings, error) {
		return s.d.FollowUps.Settings(c.Request.Context(), w)
	}))
	in.POST("/follow-ups/line", post(s, func(c *gin.Context, w identity.Who, _ string, v followups.LineAsked) (followup.Written, error) {
		return s.d.FollowUps.ReadLine(c.Request.Context(), w, v)
	}))
	in.GET("/follow-ups/proposal/:id", get(s, func(c *gin.Context, w identity.Who) (followup.Proposal, error) {
		return s.d.FollowUps.Proposal(c.Request.Context(), w, id(c, "id"))
	}))
	in.POST("/follow-ups/new", post(s, func(c *gin.Context, w identity.Who, key string, v followups.NewFollowUp) (journal.Decided, error) {
		return s.d.FollowUps.WriteDown(c.Request.Context(), w, key, v)
	}))
	in.POST("/follow-ups/steps", post(s, func(c *gin.Context, w identity.Who, key string, v followups.FollowUpStep) (journal.Decided, error) {
		return s.d.FollowUps.StepAll(c.Request.Context(), w, key, v)
	}))
	in.GET("/follow-ups/one", get(s, func(c *gin.Context, w identity.Who) (followups.FollowUpView, error) {
		return s.d.FollowUps.One(c.Request.Context(), w, c.Query("uid"))
	}))
	in.GET("/waiting", get(s, func(c *gin.Context, w identity.Who) (followups.Waiting, error) {
		return s.d.FollowUps.Waiting(c.Request.Context(), w, c.Query("after"))
	}))
	in.POST("/cards/put-away", post(s, func(c *gin.Context, w identity.Who, key string, _ struct{}) (journal.Decided, error) {
		return s.d.FollowUps.PutCardsAway(c.Request.Context(), w, key)
	}))
}

// asked reads how the follow-ups are to be shown.
func asked(c *gin.Context) (a followups.FollowUpsAsked, err error) {
	a.By = followup.By(c.Query("by"))
	if text := c.Query("filter"); text != "" {
		if json.Unmarshal([]byte(text), &a.Filter) != nil || len(text) > 4000 {
			err = &problem.Error{Type: "invalid", Field: "filter", Text: "Ebbe could not read what to show. Load the page again."}
		} else if wrong := a.Filter.ValidWork(); wrong != nil {
			err = problem.Invalid("filter", "Nothing is shown: "+wrong.Error()+".")
		}
	}
	return a, err
}
