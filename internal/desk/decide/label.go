package decide

import (
	"slices"

	"ebbe/internal/core/inbox"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// label puts labels on conversations, and takes others off.
var label = decision{verb: "labelled", step: true, says: doneTo("Labels changed"), does: func(a asked) ([]act, error) {
	if len(a.req.Add) > 0 {
		labels, err := store.Labels(a.t).Labels(a.who.Box, false)
		if err != nil {
			return nil, err
		}
		for _, id := range a.req.Add {
			if !slices.ContainsFunc(labels, func(l store.Label) bool { return l.ID == id }) {
				return nil, problem.Invalid("add", "That label has been deleted meanwhile, so nothing was changed.")
			}
		}
	}
	return relabel(a.req.Add, a.req.Remove), nil
}}

func relabel(add, remove []int64) []act {
	return changing(func(c inbox.Conversation) inbox.Conversation { return c.Labelled(add, remove) })
}
