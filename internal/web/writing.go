package web

import (
	"net/http"

	"github.com/gin-gonic/gin"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/followups"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
)

// writing are the routes of what is written and sent.
func (s *server) writing(in *gin.RouterGroup) {
	in.GET("/people", get(s, func(c *gin.Context, w identity.Who) ([]mail.Address, error) {
		return s.d.Writing.Complete(c.Request.Context(), w, c.Query("begins"))
	}))
	in.GET("/conversations/:id/answers", get(s, func(c *gin.Context, w identity.Who) ([]writing.AnswerLine, error) {
		return s.d.Writing.ShortAnswers(c.Request.Context(), w, id(c, "id"))
	}))
	in.GET("/waiting/unanswered", get(s, func(c *gin.Context, w identity.Who) ([]followups.Unanswered, error) {
		return s.d.FollowUps.Unanswered(c.Request.Context(), w)
	}))
	in.POST("/waiting/unanswered/:id/leave", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (Done, error) {
		return Done{}, s.d.FollowUps.DismissUnanswered(c.Request.Context(), w, id(c, "id"))
	}))
	in.GET("/conversations/:id/leave", get(s, func(c *gin.Context, w identity.Who) (composing.LeaveView, error) {
		return s.d.Writing.HowToLeave(c.Request.Context(), w, id(c, "id"))
	}))
	in.POST("/conversations/:id/leave", post(s, func(c *gin.Context, w identity.Who, key string, _ struct{}) (journal.Decided, error) {
		return s.d.Writing.LeaveList(c.Request.Context(), w, key, id(c, "id"))
	}))
	in.GET("/templates", get(s, func(c *gin.Context, w identity.Who) ([]composing.TemplateView, error) {
		return s.d.Writing.Templates(c.Request.Context(), w)
	}))
	in.PUT("/templates", post(s, func(c *gin.Context, w identity.Who, key string, v composing.TemplateView) (composing.TemplateView, error) {
		return s.d.Writing.PutTemplate(c.Request.Context(), w, key, v)
	}))
	in.POST("/templates/:id/drop", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (Done, error) {
		return Done{}, s.d.Writing.DropTemplate(c.Request.Context(), w, id(c, "id"))
	}))
	in.GET("/drafts/:id/template/:template", get(s, func(c *gin.Context, w identity.Who) (writing.Template, error) {
		return s.d.Writing.FillTemplate(c.Request.Context(), w, id(c, "template"), id(c, "id"))
	}))
	in.POST("/messages/:id/receipt", post(s, func(c *gin.Context, w identity.Who, key string, _ struct{}) (journal.Decided, error) {
		return s.d.Writing.GiveReceipt(c.Request.Context(), w, key, id(c, "id"))
	}))
	in.GET("/drafts", get(s, func(c *gin.Context, w identity.Who) ([]composing.DraftView, error) {
		return s.d.Writing.Drafts(c.Request.Context(), w)
	}))
	in.GET("/drafts/:id", get(s, func(c *gin.Context, w identity.Who) (composing.DraftView, error) {
		return s.d.Writing.Draft(c.Request.Context(), w, id(c, "id"))
	}))
	in.POST("/drafts", post(s, func(c *gin.Context, w identity.Who, key string, v composing.DraftBegun) (composing.DraftView, error) {
		return s.d.Writing.Begin(c.Request.Context(), w, key, v)
	}))
	in.PUT("/drafts/:id", post(s, func(c *gin.Context, w identity.Who, key string, v composing.DraftChange) (composing.DraftView, error) {
		return s.d.Writing.Change(c.Request.Context(), w, key, id(c, "id"), v)
	}))
	in.POST("/drafts/:id/drop", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (Done, error) {
		return Done{}, s.d.Writing.Drop(c.Request.Context(), w, id(c, "id"))
	}))
	in.POST("/drafts/:id/send", post(s, func(c *gin.Context, w identity.Who, key string, v composing.Sending) (composing.Sent, error) {
		return s.d.Writing.Send(c.Request.Context(), w, key, id(c, "id"), v)
	}))
	in.POST("/drafts/:id/hand", post(s, func(c *gin.Context, w identity.Who, key string, v composing.Handed) (journal.Decided, error) {
		return s.d.Writing.Hand(c.Request.Context(), w, key, id(c, "id"), v)
	}))
	in.POST("/drafts/:id/attach", post(s, func(c *gin.Context, w identity.Who, key string, v composing.Attached) (composing.DraftView, error) {
		return s.d.Writing.Attach(c.Request.Context(), w, key, id(c, "id"), v.Files)
	}))
	in.POST("/drafts/:id/files/:file/drop", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (composing.DraftView, error) {
		return s.d.Writing.DropFile(c.Request.Context(), w, id(c, "id"), id(c, "file"))
	}))
	in.GET("/drafts/:id/preview", s.preview)
	in.GET("/outbox", get(s, func(c *gin.Context, w identity.Who) (composing.Outbox, error) {
		return s.d.Writing.Outbox(c.Request.Context(), w, number(c.Query("before")))
	}))
	in.POST("/outbox/:id/settle", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Again bool `json:"again"`
	}) (Done, error) {
		return Done{}, s.d.Sending.Settle(c.Request.Context(), w, id(c, "id"), v.Again)
	}))
}

// addFile takes a file for a draft: its bytes are the body, its name is in the
// query.
func (s *server) addFile(c *gin.Context) {
	content, err := uploaded(c, composing.MaxFiles)
	if err != nil {
		refuse(c, http.StatusBadRequest, "unreadable", "The file did not come through whole, so it was not put to the draft. Try again.", "files")
		return
	}
	v, err := s.d.Writing.AddFile(c.Request.Context(), whoOf(c), keyOf(c), id(c, "id"), c.Query("name"), c.Query("type"), content)
	answer(c, v, err)
}

// preview is a page of its own that shows a draft as it will be seen.
func (s *server) preview(c *gin.Context) {
	safe, err := s.d.Writing.Preview(c.Request.Context(), whoOf(c), id(c, "id"), inTheDark(c))
	if err != nil {
		fail(c, err)
		return
	}
	s.frame(c, safe, false)
}
