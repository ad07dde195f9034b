package main

import (
	"context"
	"errors"
	"fmt"
	"os"

	"github.com/spf13/cobra"

	"ebbe/internal/desk"
	"ebbe/internal/journal"
	"ebbe/internal/secrets"
	"ebbe/internal/store"
)

// keyOf gives the key of a data folder. A change of the key that was broken off is finished
// first, or undone where nothing was sealed with the new one yet.
func keyOf(ctx context.Context, s *store.Store, data, file string, find func(dir, file string) (secrets.Key, error)) (secrets.Key, error) {
	proposed, err := secrets.Proposed(data)
	switch {
	case errors.Is(err, secrets.ErrNoKey) || !secrets.Beside(data, file):
		return find(data, file)
	case err != nil:
		return proposed, err
	}
	sealed, _, err := desk.New(s, &journal.SystemClock{}, false).Sealed(ctx, proposed)
	if err != nil {
		return proposed, err
	}
	if err := secrets.Settle(data, sealed > 0); err != nil {
		return proposed, err
	}
	return find(data, file)
}

func changeKeyCommand() *cobra.Command {
	c := &cobra.Command{Use: "change-key", Short: "Seals all passwords of accounts anew with another key, while Ebbe is stopped", Args: cobra.NoArgs}
	data, keyFile := dataFlag(c), keyFlag(c)
	to := c.Flags().String("to", "", "file to which the new key is written, for the system to give from then on; must not exist yet (default: beside the data, in place of the old one)")
	c.RunE = func(c *cobra.Command, _ []string) error {
		if *to == "" && !secrets.Beside(*data, *keyFile) {
			return errors.New("the key of this folder does not lie beside the data: say with --to where the new one is to be written; nothing was changed")
		}
		s, end, err := openAlone(*data)
		if err != nil {
			return err
		}
		defer end()
		old, err := keyOf(c.Context(), s, *data, *keyFile, secrets.Find)
		if err != nil {
			return err
		}
		fresh := secrets.New()
		if *to != "" {
			err = secrets.Write(*to, fresh, os.O_EXCL)
		} else {
			err = secrets.Propose(*data, fresh)
		}
		if err != nil {
			return fmt.Errorf("the new key cannot be written, so nothing was changed: %w", err)
		}
		sealed, left, err := desk.New(s, &journal.SystemClock{}, false).Reseal(c.Context(), old, fresh)
		if err != nil {
			return err
		}
		where := "It lies beside the data."
		if *to != "" {
			where = fmt.Sprintf("It lies in %s: have Ebbe be given that from now on.", *to)
		} else if err := secrets.Settle(*data, true); err != nil {
			return err
		}
		fmt.Fprintf(c.OutOrStdout(), "%d secrets are sealed with a new key, %s. %s\nBackups from before need the old one, %s: keep it as long as them, or put their accounts' passwords in anew.\n", sealed, fresh.Print(), where, old.Print())
		if left > 0 {
			fmt.Fprintf(c.OutOrStdout(), "%d could not be opened with the old key either, and stayed as they were: their owners see that in Accounts.\n", left)
		}
		return nil
	}
	return c
}
