package rules

import (
	"fmt"

	"ebbe/internal/store"
	"ebbe/internal/store/ruling"
)

// Check says which rules of any box are none, as they are stored.
func Check(t store.Tx) (wrong []string, err error) {
	people, err := store.People(t).Keepers()
	if err != nil {
		return nil, err
	}
	for _, p := range people {
		box, err := store.People(t).BoxOf(p.ID)
		if err != nil {
			return wrong, err
		}
		rules, err := ruling.Rules(t).All(box)
		if err != nil {
			return wrong, err
		}
		for _, r := range rules {
			if err := r.Valid(); err != nil {
				wrong = append(wrong, fmt.Sprintf("The rule “%s” of %s cannot be followed: %s.", r.Called(), p.Name, err))
			}
		}
	}
	return wrong, nil
}
