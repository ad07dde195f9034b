package web

import (
	"errors"
	"io"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"

	"ebbe/internal/desk/phones"
	"ebbe/internal/identity"
	"ebbe/internal/post/texts"
	"ebbe/internal/store"
)

// phoneRoutes are the routes of telephone lines and numbers.
func phoneRoutes(s *server) func(*gin.RouterGroup) {
	return func(in *gin.RouterGroup) {
		in.GET("/lines", get(s, func(c *gin.Context, w identity.Who) (phones.PhoneLines, error) {
			return s.d.Phones.Lines(c.Request.Context(), w)
		}))
		in.PUT("/lines", post(s, func(c *gin.Context, w identity.Who, key string, v phones.PhoneDraft) (phones.PhoneLine, error) {
			return s.d.Phones.Put(c.Request.Context(), w, key, v)
		}))
		in.POST("/lines/:id/drop", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (Done, error) {
			return Done{}, s.d.Phones.Drop(c.Request.Context(), w, id(c, "id"))
		}))
		in.GET("/numbers", get(s, func(c *gin.Context, w identity.Who) ([]phones.NumberView, error) {
			return s.d.Phones.Numbers(c.Request.Context(), w)
		}))
		in.PUT("/numbers", post(s, func(c *gin.Context, w identity.Who, _ string, v phones.Whose) (phones.NumberView, error) {
			return s.d.Phones.Name(c.Request.Context(), w, v)
		}))
	}
}

// gateway takes what the gateway of a telephone line says at its secret address, signed. It is told
// in a line why something is not taken.
func gateway(s *server) gin.HandlerFunc {
	return func(c *gin.Context) {
		_ = http.NewResponseController(c.Writer).SetReadDeadline(time.Now().Add(bodyWithin))
		body, err := io.ReadAll(http.MaxBytesReader(c.Writer, c.Request.Body, texts.MaxHeard))
		if err != nil {
			c.String(http.StatusRequestEntityTooLarge, "That is too much at once.\n")
			return
		}
		err = s.d.Phones.Heard(c.Request.Context(), c.Param("hook"), c.Request.Header, body)
		switch {
		case err == nil:
			c.String(http.StatusOK, "Taken.\n")
		case errors.Is(err, store.ErrNotFound):
			c.String(http.StatusNotFound, "There is no telephone line at this address.\n")
		case errors.Is(err, texts.ErrUnsigned):
			c.String(http.StatusUnauthorized, "That is not signed by the gateway of this line, or too long ago.\n")
		case errors.Is(err, phones.ErrPaused):
			c.String(http.StatusServiceUnavailable, "This line is paused. Say it again later.\n")
		default:
			fail(c, err)
		}
	}
}
