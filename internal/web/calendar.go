package web

import (
	"errors"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/inbox"
	"ebbe/internal/desk/calendars"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// calendar are the routes of the calendar, and calendar files.
func (s *server) calendar(in *gin.RouterGroup) {
	in.GET("/calendar", get(s, func(c *gin.Context, w identity.Who) (calendars.CalendarWeek, error) {
		return s.d.Calendar.Week(c.Request.Context(), w, c.Query("day"))
	}))
	in.GET("/calendar/times/:id", get(s, func(c *gin.Context, w identity.Who) (calendars.EventFound, error) {
		return s.d.Calendar.FindTimes(c.Request.Context(), w, id(c, "id"))
	}))
	in.POST("/calendar/events", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		UID   string               `json:"uid"`
		Event calendars.EventDraft `json:"event"`
	}) (journal.Decided, error) {
		return s.d.Calendar.PutEvent(c.Request.Context(), w, key, v.UID, v.Event)
	}))
	in.POST("/calendar/steps", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		UID  string     `json:"uid"`
		Kind inbox.Kind `json:"kind"`
	}) (journal.Decided, error) {
		return s.d.Calendar.StepEvent(c.Request.Context(), w, key, v.UID, v.Kind)
	}))
	in.POST("/calendar/invitations/:id", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		UID    string          `json:"uid"`
		Answer calendar.Answer `json:"answer"`
		Words  string          `json:"words"`
	}) (journal.Decided, error) {
		return s.d.Calendar.AnswerInvitation(c.Request.Context(), w, key, id(c, "id"), v.UID, v.Answer, v.Words)
	}))
	in.POST("/feed", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Off bool `json:"off"`
	}) (FeedAddress, error) {
		address, err := s.d.Calendar.MakeFeed(c.Request.Context(), w, v.Off)
		return FeedAddress{Feed: address}, err
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
