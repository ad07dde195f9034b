package journal

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/store"
)

// Once runs f in a transaction unless the request with that key has been
// answered before; then the same answer is given again and nothing is done.
// fresh says which it was.
func Once[T any](ctx context.Context, j *Journal, who identity.Who, key string, f func(store.Tx) (T, error)) (answer T, fresh bool, err error) {
	err = j.store.Write(ctx, func(t store.Tx) error {
		if key != "" {
			stored, err := store.Journal(t).Answered(who.Person, key)
			if err == nil {
				return json.Unmarshal(stored, &answer)
			}
			if !errors.Is(err, store.ErrNotFound) {
				return err
			}
		}
		var err error
		if answer, err = f(t); err != nil {
			return err
		}
		fresh = true
		if key == "" {
			return nil
		}
		raw, err := json.Marshal(answer)
		if err != nil {
			return err
		}
		return store.Journal(t).Answer(store.Request{PersonID: who.Person, Key: key, At: when.Of(time.Now()), Answer: raw})
	})
	return answer, fresh && err == nil, err
}
