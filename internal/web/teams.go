package web

import (
	"net/http"

	"github.com/gin-gonic/gin"

	"ebbe/internal/core/together"
	"ebbe/internal/desk/sharing"
	"ebbe/internal/desk/talk"
	"ebbe/internal/desk/teams"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
)

// addCommentFile takes a file that is to be added to a comment: its bytes are the body, its name is
// in the query.
func addCommentFile(s *server) gin.HandlerFunc {
	return func(c *gin.Context) {
		content, err := uploaded(c, talk.MaxFile)
		if err != nil {
			refuse(c, http.StatusBadRequest, "unreadable", "The file did not come through whole, so it was not added. Try again.", "files")
			return
		}
		v, err := s.d.Talk.AddFile(c.Request.Context(), whoOf(c), keyOf(c), c.Query("name"), c.Query("type"), content)
		answer(c, v, err)
	}
}

// teams are the routes of the boxes somebody works in, and of the team of the one they are in.
func (s *server) teams(in *gin.RouterGroup) {
	in.GET("/boxes", get(s, func(c *gin.Context, w identity.Who) ([]teams.BoxView, error) {
		return s.d.Teams.Boxes(c.Request.Context(), w)
	}))
	in.POST("/boxes", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		Name string `json:"name"`
	}) (TeamMade, error) {
		box, err := s.d.Teams.Make(c.Request.Context(), w, key, v.Name)
		return TeamMade{box}, err
	}))
	in.POST("/conversations/:id/comments", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		Text  string  `json:"text"`
		Files []int64 `json:"files"` // that were added before
	}) (talk.CommentMade, error) {
		return s.d.Talk.Say(c.Request.Context(), w, key, id(c, "id"), v.Text, v.Files...)
	}))
	in.GET("/comment-files/:id", func(c *gin.Context) {
		name, content, err := s.d.Talk.File(c.Request.Context(), whoOf(c), id(c, "id"))
		if err != nil {
			fail(c, err)
			return
		}
		download(c, name, content)
	})
	in.POST("/comment-files/:id/drop", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (Done, error) {
		return Done{}, s.d.Talk.DropFile(c.Request.Context(), w, id(c, "id"))
	}))
	in.POST("/comments/:id", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		Text string `json:"text"` // "": it is deleted
	}) (talk.CommentMade, error) {
		return s.d.Talk.Change(c.Request.Context(), w, key, id(c, "id"), v.Text)
	}))
	in.POST("/conversations/:id/follow", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		Follows bool `json:"follows"`
	}) (journal.Decided, error) {
		return s.d.Talk.Follow(c.Request.Context(), w, key, id(c, "id"), v.Follows)
	}))
	in.GET("/conversations/:id/reading", get(s, func(c *gin.Context, w identity.Who) ([]talk.ReaderView, error) {
		return s.d.Talk.Reading(c.Request.Context(), w, id(c, "id"))
	}))
	in.POST("/reading", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Conversation int64 `json:"conversation"` // 0: none is open
	}) (Done, error) {
		return Done{}, s.d.Talk.Here(c.Request.Context(), w, v.Conversation)
	}))
	in.GET("/conversations/:id/sharing", get(s, func(c *gin.Context, w identity.Who) (sharing.SharingView, error) {
		return s.d.Sharing.Ways(c.Request.Context(), w, id(c, "id"))
	}))
	in.POST("/conversations/:id/sharing", post(s, func(c *gin.Context, w identity.Who, key string, v sharing.Wish) (sharing.SharedNow, error) {
		return s.d.Sharing.Share(c.Request.Context(), w, key, id(c, "id"), v)
	}))
	in.POST("/sharings/:id/end", post(s, func(c *gin.Context, w identity.Who, key string, _ struct{}) (journal.Decided, error) {
		return s.d.Sharing.End(c.Request.Context(), w, key, id(c, "id"))
	}))
	in.GET("/mine/work", get(s, func(c *gin.Context, w identity.Who) (teams.MineView, error) {
		return s.d.Teams.Mine(c.Request.Context(), w)
	}))
	in.GET("/activity", get(s, func(c *gin.Context, w identity.Who) (talk.Activity, error) {
		return s.d.Talk.Activity(c.Request.Context(), w, number(c.Query("box")), number(c.Query("before")))
	}))
	in.POST("/activity/heard", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Box          int64 `json:"box"`          // 0: the one that is asked of
		Conversation int64 `json:"conversation"` // 0: of all there
	}) (Done, error) {
		return Done{}, s.d.Talk.Hear(c.Request.Context(), w, v.Box, v.Conversation)
	}))
	in.GET("/team", get(s, func(c *gin.Context, w identity.Who) (teams.TeamView, error) {
		return s.d.Teams.Team(c.Request.Context(), w)
	}))
	in.POST("/team/members", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		Person int64         `json:"person"`
		Role   together.Role `json:"role"` // "": they are no member any more
	}) (Done, error) {
		return Done{}, s.d.Teams.Stand(c.Request.Context(), w, key, v.Person, v.Role)
	}))
	in.POST("/team/name", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		Name string `json:"name"`
	}) (Done, error) {
		return Done{}, s.d.Teams.Rename(c.Request.Context(), w, key, v.Name)
	}))
	in.POST("/team/names", post(s, func(c *gin.Context, w identity.Who, key string, v struct {
		Keep bool `json:"keep"`
	}) (Done, error) {
		return Done{}, s.d.Teams.KeepNames(c.Request.Context(), w, key, v.Keep)
	}))
	in.POST("/team/end", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Name string `json:"name"`
	}) (Done, error) {
		return Done{}, s.d.Teams.End(c.Request.Context(), w, v.Name)
	}))
}
