package sorting

import (
	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/search"
)

// Coming is what rules say of a message as it arrives, before it is in view.
type Coming struct {
	Stream  delivery.Stream // "": that of its kind
	Through int64           // the rule that lets it through whatever the plan says, or 0
}

// Ahead are those of the rules of a box that say something of messages before those are
// in view.
func Ahead(rules []Rule) (out []Rule) {
	for _, r := range rules {
		if r.Mode == On && (r.Does(inbox.ToStream) || r.Does(inbox.PassThrough)) {
			out = append(out, r)
		}
	}
	return out
}

// ComingIn is what the rules say of a message that arrives in the stream it has in m:
// the first that names a stream that there is says in which it is, and the first that
// lets it through does. A rule that asks for a stream sees the one said so far.
func ComingIn(rules []Rule, m search.Message, streams delivery.Settings) (c Coming) {
	for _, r := range rules {
		if !r.Holds(m) {
			continue
		}
		for _, s := range r.Then {
			switch {
			case s.Kind == inbox.PassThrough && c.Through == 0:
				c.Through = r.ID
			case s.Kind == inbox.ToStream && c.Stream == "" && streams.Known(delivery.Stream(s.Stream)):
				c.Stream = delivery.Stream(s.Stream)
				m.Stream = s.Stream
			}
		}
	}
	return c
}
