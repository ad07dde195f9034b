package web

import (
	"context"
	"time"

	"github.com/gin-gonic/gin"
)

// heartbeat keeps idle event streams from being cut by what lies in between.
const heartbeat = 25 * time.Second

type stopKey struct{}

// UntilStop is a context for requests that goes on when stop ends, so that what has
// been asked is answered; only what never ends by itself, as streams of events,
// ends with stop.
func UntilStop(stop context.Context) context.Context {
	return context.WithValue(context.WithoutCancel(stop), stopKey{}, stop)
}

// stopping is closed when what never ends by itself is to end.
func stopping(ctx context.Context) <-chan struct{} {
	if stop, ok := ctx.Value(stopKey{}).(context.Context); ok {
		return stop.Done()
	}
	return nil
}

func (s *server) events(c *gin.Context) {
	token, _ := c.Cookie(s.cookie(c, cookieName))
	ended, left := s.d.People.Until(token)
	defer left()
	if s.signedIn(c); c.IsAborted() { // it may have ended since it was asked, before anybody would have been told
		return
	}
	who := whoOf(c)
	others, err := s.d.Teams.Others(c.Request.Context(), who)
	if err != nil {
		fail(c, err)
		return
	}
	events := s.d.Journal.Subscribe(c.Request.Context(), who.Box, who.Person, others...)
	c.Header("Content-Type", "text/event-stream")
	c.SSEvent("hello", Done{})
	c.Writer.Flush()
	tick := time.NewTicker(heartbeat)
	defer tick.Stop()
	for {
		select {
		case e, ok := <-events:
			if !ok {
				return
			}
			c.SSEvent("changed", e)
		case <-tick.C:
			if _, _, err := s.d.People.SignedIn(c.Request.Context(), token); err != nil { // it has run out, or was ended by another program
				return
			}
			c.SSEvent("still", Done{})
		case <-ended: // signed out, here or from elsewhere
			return
		case <-c.Request.Context().Done():
			return
		case <-stopping(c.Request.Context()):
			return
		}
		c.Writer.Flush()
	}
}
