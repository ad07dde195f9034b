package web

import (
	"encoding/json"
	"errors"
	"io"
	"mime"
	"net/http"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/desk/calendars"
	"ebbe/internal/desk/followups"
	"ebbe/internal/identity"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// asked reads how the follow-ups are to be shown.
func asked(c *gin.Context) (a followups.FollowUpsAsked, err error) {
	a.By = followup.By(c.Query("by"))
	if text := c.Query("narrow"); text != "" {
		if json.Unmarshal([]byte(text), &a.Narrow) != nil || len(text) > 4000 {
			err = &problem.Error{Type: "invalid", Field: "narrow", Text: "Ebbe could not read what to show. Load the page again."}
		}
	}
	return a, err
}

// followUps are the routes about follow-ups.
func (s *server) followUps(in *gin.RouterGroup) {
	in.GET("/follow-ups", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		a, err := asked(c)
		if err != nil {
			return nil, err
		}
		return s.d.FollowUps.List(c.Request.Context(), w, a)
	}))
	in.GET("/follow-ups/group", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		a, err := asked(c)
		if err != nil {
			return nil, err
		}
		return s.d.FollowUps.Page(c.Request.Context(), w, a, c.Query("key"), c.Query("after"))
	}))
	in.GET("/follow-ups/one-by-one", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		a, err := asked(c)
		if err != nil {
			return nil, err
		}
		return s.d.FollowUps.OneByOne(c.Request.Context(), w, a.Narrow)
	}))
	in.GET("/follow-ups/closing", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		return s.d.FollowUps.Closing(c.Request.Context(), w)
	}))
	in.POST("/follow-ups/closed", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (any, error) {
		return gin.H{}, s.d.FollowUps.ClosedDay(c.Request.Context(), w)
	}))
	in.GET("/follow-ups/log", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		return s.d.FollowUps.Log(c.Request.Context(), w, c.Query("before"))
	}))
	in.GET("/follow-ups/settings", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		return s.d.FollowUps.Settings(c.Request.Context(), w)
	}))
	in.PUT("/follow-ups/settings", post(s, func(c *gin.Context, w identity.Who, _ string, v followup.Settings) (any, error) {
		return gin.H{}, s.d.FollowUps.Choose(c.Request.Context(), w, v)
	}))
	in.POST("/follow-ups/line", post(s, func(c *gin.Context, w identity.Who, _ string, v followups.LineAsked) (any, error) {
		return s.d.FollowUps.ReadLine(c.Request.Context(), w, v)
	}))
	in.GET("/follow-ups/proposal/:id", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		return s.d.FollowUps.Proposal(c.Request.Context(), w, id(c, "id"))
	}))
	in.POST("/follow-ups/new", post(s, func(c *gin.Context, w identity.Who, key string, v followups.NewFollowUp) (any, error) {
		return s.d.FollowUps.WriteDown(c.Request.Context(), w, key, v)
	}))
	in.POST("/follow-ups/steps", post(s, func(c *gin.Context, w identity.Who, key string, v followups.FollowUpStep) (any, error) {
		return s.d.FollowUps.StepAll(c.Request.Context(), w, key, v)
	}))
	in.GET("/follow-ups/one", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		return s.d.FollowUps.One(c.Request.Context(), w, c.Query("uid"))
	}))
	in.GET("/waiting", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		return s.d.FollowUps.Waiting(c.Request.Context(), w, c.Query("after"))
	}))
	in.POST("/cards/put-away", post(s, func(c *gin.Context, w identity.Who, key string, _ struct{}) (any, error) {
		return s.d.FollowUps.PutCardsAway(c.Request.Context(), w, key)
	}))
}

// calendar are the routes about events, invitations and calendar files.
func (s *server) calendar(in *gin.RouterGroup) {
	in.GET("/calendar", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		return s.d.Calendar.Week(c.Request.Context(), w, c.Query("day"))
	}))
	in.GET("/calendar/times/:id", get(s, func(c *gin.Context, w identity.Who) (any, error) {
		return s.d.Calendar.FindTimes(c.Request.Context(), w, id(c, "id"))
	}))
	in.POST("/calendar/events", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		UID   string               `json:"uid"`
		Event calendars.EventDraft `json:"event"`
	}) (any, error) {
		return s.d.Calendar.PutEvent(c.Request.Context(), w, key, v.UID, v.Event)
	}))
	in.POST("/calendar/steps", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		UID  string     `json:"uid"`
		Kind inbox.Kind `json:"kind"`
	}) (any, error) {
		return s.d.Calendar.StepEvent(c.Request.Context(), w, key, v.UID, v.Kind)
	}))
	in.POST("/calendar/invitations/:id", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		UID    string          `json:"uid"`
		Answer calendar.Answer `json:"answer"`
		Words  string          `json:"words"`
	}) (any, error) {
		return s.d.Calendar.AnswerInvitation(c.Request.Context(), w, key, id(c, "id"), v.UID, v.Answer, v.Words)
	}))
	in.POST("/feed", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Off bool `json:"off"`
	}) (any, error) {
		address, err := s.d.Calendar.MakeFeed(c.Request.Context(), w, v.Off)
		return gin.H{"feed": address}, err
	}))
	in.GET("/export/ebbe.ics", func(c *gin.Context) {
		raw, err := s.d.Calendar.Export(c.Request.Context(), whoOf(c))
		attachment(c, "text/calendar; charset=utf-8", "ebbe-"+s.d.Now().Time().Format("2006-01-02")+".ics", raw, err)
	})
	in.GET("/export/follow-ups.csv", func(c *gin.Context) {
		raw, err := s.d.Calendar.ExportCSV(c.Request.Context(), whoOf(c))
		attachment(c, "text/csv; charset=utf-8; header=present", "follow-ups-"+s.d.Now().Time().Format("2006-01-02")+".csv", raw, err)
	})
}

func attachment(c *gin.Context, kind, name string, raw []byte, err error) {
	if err != nil {
		fail(c, err)
		return
	}
	c.Header("Content-Disposition", `attachment; filename="`+name+`"`)
	c.Data(http.StatusOK, kind, raw)
}

// feed serves a person's calendar to whoever knows its secret address. A wrong
// one is told nothing.
func (s *server) feed(c *gin.Context) {
	raw, err := s.d.Calendar.Feed(c.Request.Context(), strings.TrimSuffix(c.Param("secret"), ".ics"))
	switch {
	case errors.Is(err, store.ErrNotFound):
		c.Data(http.StatusNotFound, "text/plain; charset=utf-8", []byte("There is no calendar at this address, or not any more.\n"))
	case err != nil:
		fail(c, err)
	default:
		c.Data(http.StatusOK, "text/calendar; charset=utf-8", raw)
	}
}

// fileOf refuses files of another type than the one the request is for.
func fileOf(kind string) gin.HandlerFunc {
	return func(c *gin.Context) {
		if got, _, err := mime.ParseMediaType(c.GetHeader("Content-Type")); err != nil || got != kind {
			refuse(c, http.StatusForbidden, "other-site", "This file did not come from Ebbe itself, so nothing was taken in.", "")
		}
	}
}

// drained is how much of a file that is too large is still read, so that the
// browser hears the answer.
const drained = 200 << 20

// uploaded reads the file in the body of a request, up to one byte more than it
// may have.
func uploaded(c *gin.Context, most int64) (raw []byte, err error) {
	_ = http.NewResponseController(c.Writer).SetReadDeadline(time.Now().Add(2 * time.Minute))
	raw, err = io.ReadAll(io.LimitReader(c.Request.Body, most+1))
	if err == nil && int64(len(raw)) > most {
		_, err = io.Copy(io.Discard, io.LimitReader(c.Request.Body, drained))
	}
	return raw, err
}

// takeIn reads the calendar file in the body of a request.
func (s *server) takeIn(c *gin.Context) {
	raw, err := uploaded(c, calendars.MaxCalendar)
	if err != nil {
		refuse(c, http.StatusBadRequest, "unreadable", "The file did not come through whole, so nothing was taken in. Try again.", "file")
		return
	}
	out, err := s.d.Calendar.TakeIn(c.Request.Context(), whoOf(c), c.GetHeader(keyHeader), raw)
	answer(c, out, err)
}
