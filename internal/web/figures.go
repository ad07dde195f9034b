package web

import (
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"ebbe/internal/core/numbers"
	"ebbe/internal/desk/figures"
	"ebbe/internal/identity"
)

// figureRoutes are the routes of what one's own past comes to.
func figureRoutes(s *server) func(*gin.RouterGroup) {
	number := func(c *gin.Context, name string, without int) int {
		if n, err := strconv.Atoi(c.Query(name)); err == nil {
			return n
		}
		return without
	}
	list := func(text string) []string {
		if text == "" {
			return nil
		}
		return strings.Split(text, ",")
	}
	return func(in *gin.RouterGroup) {
		in.GET("/figures/day", get(s, func(c *gin.Context, w identity.Who) (figures.DayCurve, error) {
			return s.d.Figures.Day(c.Request.Context(), w, c.Query("date"))
		}))
		in.GET("/figures", get(s, func(c *gin.Context, w identity.Who) (figures.FiguresView, error) {
			return s.d.Figures.Overview(c.Request.Context(), w, c.Query("from"), c.Query("to"))
		}))
		in.GET("/figures/lines", get(s, func(c *gin.Context, w identity.Who) (figures.Counted, error) {
			return s.d.Figures.Lines(c.Request.Context(), w, figures.Asked{Measure: numbers.Measure(c.Query("measure")), Details: list(c.Query("details")), By: c.Query("by"),
				From: c.Query("from"), To: c.Query("to"), Weekday: number(c, "weekday", -1), Hour: number(c, "hour", -1), Before: int64(number(c, "before", 0))})
		}))
	}
}
