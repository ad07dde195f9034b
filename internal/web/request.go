package web

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"log/slog"
	"mime"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"ebbe/internal/core/say"
	"ebbe/internal/core/search"
	"ebbe/internal/identity"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// drained is how much of a file that is too large is still read, so that the
// browser hears the answer.
const drained = 200 << 20

func whoOf(c *gin.Context) identity.Who { return c.MustGet("who").(identity.Who) }

func get[R any](_ *server, f func(*gin.Context, identity.Who) (R, error)) gin.HandlerFunc {
	return func(c *gin.Context) {
		v, err := f(c, whoOf(c))
		answer(c, v, err)
	}
}

func post[T, R any](_ *server, f func(*gin.Context, identity.Who, string, T) (R, error)) gin.HandlerFunc {
	return func(c *gin.Context) {
		var body T
		if !bind(c, &body) {
			return
		}
		v, err := f(c, whoOf(c), keyOf(c), body)
		answer(c, v, err)
	}
}

// keyOf is what a request is known by when it comes again.
func keyOf(c *gin.Context) string {
	key := c.GetHeader(keyHeader)
	return key[:min(len(key), 100)]
}

// where reads the query of a request, which is JSON; none is the zero query.
func where(c *gin.Context) (q search.Query, err error) {
	if text := c.Query("where"); text != "" {
		err = json.Unmarshal([]byte(text), &q)
	}
	if err == nil {
		err = q.Valid()
	}
	if err != nil {
		err = &problem.Error{Type: "invalid", Field: "where", Text: "Ebbe could not read what to look for. Load the page again."}
	}
	return q, err
}

// numbersIn reads numbers between commas; what is none is left out.
func numbersIn(text string) (out []int64) {
	for part := range strings.SplitSeq(text, ",") {
		if n := number(part); n > 0 {
			out = append(out, n)
		}
	}
	return out
}

func bind(c *gin.Context, into any) bool {
	if err := c.ShouldBindJSON(into); err != nil {
		refuse(c, http.StatusBadRequest, "unreadable", "Ebbe could not read this request, so nothing was done. Load the page again.", "")
		return false
	}
	return true
}

func answer[R any](c *gin.Context, v R, err error) {
	if err != nil {
		fail(c, err)
		return
	}
	if own, ok := any(v).(interface{ AppendJSON([]byte) ([]byte, error) }); ok {
		text, err := own.AppendJSON(nil)
		if err != nil {
			fail(c, err)
			return
		}
		c.Data(http.StatusOK, "application/json; charset=utf-8", text)
		return
	}
	c.JSON(http.StatusOK, v)
}

// fail answers with a problem (RFC 9457) whose detail is a sentence.
func fail(c *gin.Context, err error) {
	var user *problem.Error
	switch {
	case errors.As(err, &user):
		status := http.StatusUnprocessableEntity
		switch user.Type {
		case "slow-down":
			status = http.StatusTooManyRequests
		case "wrong-password", "code", "code-or-passkey", "passkey":
			status = http.StatusUnauthorized
		case "not-allowed", "paused":
			status = http.StatusForbidden
		case "set-up-done", "last-admin", "leaving":
			status = http.StatusConflict
		case "invitation":
			status = http.StatusGone
		case "unreachable":
			status = http.StatusBadGateway
		}
		refuse(c, status, user.Type, user.Text, user.Field)
	case errors.Is(err, store.ErrNotFound):
		refuse(c, http.StatusNotFound, "not-found", "That is no longer here. Nothing was changed; load the list again.", "")
	case errors.Is(err, store.ErrFull), errors.Is(err, store.ErrLocked):
		refuse(c, http.StatusInsufficientStorage, "storage", sentence(err), "")
	case errors.Is(err, context.Canceled): // whoever asked is gone, or Ebbe is being stopped: an answer without a word would look like a good one
		refuse(c, http.StatusServiceUnavailable, "stopping", "Ebbe is being stopped. Nothing was changed; it is sent again by itself.", "")
	default:
		slog.Error("a request failed", "path", c.FullPath(), "error", err)
		refuse(c, http.StatusInternalServerError, "internal", "Something went wrong inside Ebbe. Nothing was changed; try again.", "")
	}
}

func sentence(err error) string { return say.Upper(err.Error()) + "." }

func refuse(c *gin.Context, status int, kind, detail, field string) {
	c.Header("Content-Type", "application/problem+json")
	c.AbortWithStatusJSON(status, Problem{Type: "urn:ebbe:problem:" + kind, Title: http.StatusText(status), Status: status, Detail: detail, Field: field})
}

func attachment(c *gin.Context, kind, name string, raw []byte, err error) {
	if err != nil {
		fail(c, err)
		return
	}
	c.Header("Content-Disposition", `attachment; filename="`+name+`"`)
	c.Data(http.StatusOK, kind, raw)
}

// fileOf refuses files of another type than the one the request is for.
func fileOf(kind string) gin.HandlerFunc {
	return func(c *gin.Context) {
		if got, _, err := mime.ParseMediaType(c.GetHeader("Content-Type")); err != nil || got != kind {
			refuse(c, http.StatusForbidden, "other-site", "This file did not come from Ebbe itself, so nothing was taken in.", "")
		}
	}
}

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

func number(s string) int64 {
	n, _ := strconv.ParseInt(s, 10, 64)
	return n
}

func id(c *gin.Context, name string) int64 { return number(c.Param(name)) }

// download hands out bytes that the browser saves and never opens in place.
func download(c *gin.Context, name string, content []byte) {
	h := c.Writer.Header()
	h.Set("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name}))
	h.Set("Content-Security-Policy", "default-src 'none'; sandbox")
	c.Data(http.StatusOK, "application/octet-stream", content)
}
