package web

import (
	"context"
	"log/slog"
	"net/http"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"ebbe/internal/identity"
)

// brokenOff is the status of a request that whoever asked has broken off, as of letters that
// have been typed on: nobody reads the answer, and nothing is at fault. No standard has one.
const brokenOff = 499

// noted writes one line for each request: what was asked for, by its route and never with
// what stands in it, who asked, how it ended and how long it took. What is loaded once and
// kept by the browser is told of where more is wanted.
func (s *server) noted(c *gin.Context) {
	begin := time.Now()
	c.Next()
	route, level := c.FullPath(), slog.LevelInfo
	status := c.Writer.Status()
	if status >= http.StatusInternalServerError && c.Request.Context().Err() != nil {
		status = brokenOff
	}
	switch {
	case status >= http.StatusInternalServerError:
		level = slog.LevelError
	case route == "" || route == "/healthz" || strings.HasPrefix(route, "/assets/"):
		level = slog.LevelDebug
	}
	if route == "" {
		route = "(page)"
	}
	var person int64
	if who, ok := c.Get("who"); ok {
		person = who.(identity.Who).Person
	}
	took := time.Since(begin)
	if s.Took != nil {
		s.Took(c.Request.Method, route, status, took)
	}
	slog.Log(c.Request.Context(), level, "request", "method", c.Request.Method, "route", route, "status", status, "took", took.Round(100*time.Microsecond), "bytes", max(c.Writer.Size(), 0), "person", person)
}

// healthyWithin is how long reading may take before something is wrong.
const healthyWithin = 5 * time.Second

// healthy answers whoever watches over the program whether it can read what it keeps.
func (s *server) healthy(c *gin.Context) {
	ctx, end := context.WithTimeout(c.Request.Context(), healthyWithin)
	defer end()
	if _, err := s.d.People.NeedsSetup(ctx); err != nil {
		slog.Error("the data cannot be read", "error", err)
		c.String(http.StatusServiceUnavailable, "The data cannot be read.\n")
		return
	}
	c.String(http.StatusOK, "well\n")
}
