package web

import (
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/numbers"
	"ebbe/internal/desk/figures"
	"ebbe/internal/desk/review"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/store/counting"
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
		in.GET("/figures/notices", get(s, func(c *gin.Context, w identity.Who) (figures.NoticesPage, error) {
			return s.d.Figures.Notices(c.Request.Context(), w, c.Query("from"), c.Query("to"), int64(number(c, "before", 0)))
		}))
		in.GET("/figures/answers", get(s, func(c *gin.Context, w identity.Who) (figures.AnswersView, error) {
			return s.d.Figures.Answers(c.Request.Context(), w, c.Query("from"), c.Query("to"), counting.Sort(c.Query("by")))
		}))
		in.GET("/figures/answers/lines", get(s, func(c *gin.Context, w identity.Who) (figures.AnswerLines, error) {
			return s.d.Figures.AnswerLines(c.Request.Context(), w, figures.AskedAnswers{From: c.Query("from"), To: c.Query("to"), Own: c.Query("own") == "1", Open: c.Query("open") == "1",
				By: counting.Sort(c.Query("by")), Key: c.Query("key"), After: c.Query("after")})
		}))
		in.GET("/figures/ahead", get(s, func(c *gin.Context, w identity.Who) (figures.AheadView, error) {
			return s.d.Figures.Ahead(c.Request.Context(), w, list(c.Query("off")))
		}))
		in.GET("/figures/aged", get(s, func(c *gin.Context, w identity.Who) (figures.AgedView, error) {
			return s.d.Figures.Aged(c.Request.Context(), w, c.Query("of"), number(c, "group", -1))
		}))
		in.GET("/dig", get(s, func(c *gin.Context, w identity.Who) (figures.DigView, error) {
			return s.d.Figures.Dig(c.Request.Context(), w, number(c, "tens", 0))
		}))
		in.PUT("/dig", post(s, func(c *gin.Context, w identity.Who, _ string, v figures.DigAsked) (Done, error) {
			return Done{}, s.d.Figures.BeginDig(c.Request.Context(), w, v.Tens)
		}))
		in.GET("/review", get(s, func(c *gin.Context, w identity.Who) (review.ReviewView, error) {
			return s.d.Review.Week(c.Request.Context(), w)
		}))
		in.PUT("/review/at", post(s, func(c *gin.Context, w identity.Who, _ string, at delivery.Rounds) (Done, error) {
			return Done{}, s.d.Review.At(c.Request.Context(), w, at)
		}))
		in.POST("/review/looked", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (Done, error) {
			return Done{}, s.d.Review.Looked(c.Request.Context(), w)
		}))
		in.POST("/review/refuse", post(s, func(c *gin.Context, w identity.Who, _ string, v review.Offered) (Done, error) {
			return Done{}, s.d.Review.Refuse(c.Request.Context(), w, v.Key)
		}))
		in.POST("/review/take", post(s, func(c *gin.Context, w identity.Who, key string, v review.Offered) (journal.Decided, error) {
			return s.d.Review.Take(c.Request.Context(), w, key, v.Key)
		}))
		in.GET("/figures/people", get(s, func(c *gin.Context, w identity.Who) (figures.PeopleTable, error) {
			return s.d.Figures.People(c.Request.Context(), w)
		}))
		in.GET("/figures/lines", get(s, func(c *gin.Context, w identity.Who) (figures.Counted, error) {
			return s.d.Figures.Lines(c.Request.Context(), w, figures.Asked{Measure: numbers.Measure(c.Query("measure")), Details: list(c.Query("details")), By: c.Query("by"),
				From: c.Query("from"), To: c.Query("to"), Weekday: number(c, "weekday", -1), Hour: number(c, "hour", -1), Before: int64(number(c, "before", 0))})
		}))
	}
}
