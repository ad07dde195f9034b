package decide

import (
	"slices"

	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// label puts labels on conversations, and takes others off.
var label = decision{verb: "labelled", says: doneTo("Labels changed"), needs: func(a asked) error {
	if len(a.req.Add) == 0 {
		return nil
	}
	labels, err := a.t.Labels(a.who.Box, false)
	if err != nil {
		return err
	}
	for _, id := range a.req.Add {
		if !slices.ContainsFunc(labels, func(l store.Label) bool { return l.ID == id }) {
			return problem.Invalid("add", "That label has been deleted meanwhile, so nothing was changed.")
		}
	}
	return nil
}}
