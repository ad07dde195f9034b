package web

import (
	"encoding/json"
	"io/fs"
	"net/http"

	"github.com/gin-gonic/gin"

	"ebbe/internal/desk"
	"ebbe/internal/desk/choices"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
)

// settings are the routes of what is chosen in Setup.
func (s *server) settings(in *gin.RouterGroup) {
	in.GET("/notices", s.notices)
	in.GET("/settings", get(s, func(c *gin.Context, w identity.Who) (choices.Settings, error) {
		return s.d.Choices.All(c.Request.Context(), w)
	}))
	in.PATCH("/settings", post(s, func(c *gin.Context, w identity.Who, key string, v json.RawMessage) (journal.Decided, error) {
		return s.d.Choices.Change(c.Request.Context(), w, key, v)
	}))
	in.GET("/combos/file", get(s, func(c *gin.Context, w identity.Who) (choices.ComboFile, error) {
		return s.d.Choices.ShareCombos(c.Request.Context(), w)
	}))
	in.POST("/combos/file", post(s, func(c *gin.Context, w identity.Who, _ string, v choices.ComboFile) (choices.CombosRead, error) {
		return s.d.Choices.ReadCombos(c.Request.Context(), w, v.File)
	}))
	in.POST("/demo/clock", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		To desk.Dial `json:"to"`
	}) (Done, error) {
		return Done{}, s.d.Turn(c.Request.Context(), w, v.To)
	}))
}

// notices gives the licences of everything that ships with Ebbe, as the build has
// put them together (cmd/notices).
func (s *server) notices(c *gin.Context) {
	raw, err := fs.ReadFile(s.assets, "notices.json")
	if err != nil {
		refuse(c, http.StatusNotFound, "not-found", "The notices are not built into this program. Run “make build”.", "")
		return
	}
	c.Data(http.StatusOK, "application/json; charset=utf-8", raw)
}
