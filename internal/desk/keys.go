package desk

import (
	"context"
	"slices"

	"ebbe/internal/secrets"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
)

// Sealed says how many secrets of all people a key opens, and how many it does not.
func (d *Desk) Sealed(ctx context.Context, key secrets.Key) (open, shut int, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		return eachSecret(t, func(sealed []byte, _ func([]byte) error) error {
			if _, err := key.Open(sealed); err != nil {
				shut++
			} else {
				open++
			}
			return nil
		})
	})
	return open, shut, err
}

// Reseal seals all secrets anew with another key, in one step that no power cut can undo.
// Those that the old one does not open stay as they are: their owners have to type them
// anyway.
func (d *Desk) Reseal(ctx context.Context, old, fresh secrets.Key) (sealed, left int, err error) {
	err = d.store.Write(ctx, func(t store.Tx) error {
		t.Durably()
		sealed, left = 0, 0
		return eachSecret(t, func(was []byte, put func([]byte) error) error {
			secret, err := old.Open(was)
			if err != nil {
				left++
				return nil
			}
			sealed++
			return put(fresh.Seal(secret))
		})
	})
	return sealed, left, err
}

// eachSecret goes through all that is sealed: the secrets of accounts, and those of codes by
// the time.
func eachSecret(t store.Tx, each func(sealed []byte, put func([]byte) error) error) error {
	accounts, err := mailboxes.Accounts(t).Accounts(0)
	if err != nil {
		return err
	}
	lines, err := mailboxes.Accounts(t).Lines(0)
	if err != nil {
		return err
	}
	for _, a := range slices.Concat(accounts, lines) {
		if len(a.Secret) == 0 {
			continue
		}
		if err := each(a.Secret, func(fresh []byte) error { a.Secret = fresh; return mailboxes.Accounts(t).PutAccount(&a) }); err != nil {
			return err
		}
	}
	people, err := store.People(t).People()
	if err != nil {
		return err
	}
	for _, p := range people {
		if len(p.Codes) == 0 {
			continue
		}
		if err := each(p.Codes, func(fresh []byte) error {
			return store.People(t).ChangePerson(p.ID, map[string]any{"codes": fresh})
		}); err != nil {
			return err
		}
	}
	return nil
}
