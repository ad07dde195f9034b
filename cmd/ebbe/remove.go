package main

import (
	"errors"
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"ebbe/internal/desk"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

func removeCommand() *cobra.Command {
	c := &cobra.Command{Use: "remove ADDRESS", Short: "Removes whoever signs in with an address, with all that is theirs, while Ebbe is stopped", Args: cobra.ExactArgs(1)}
	data := dataFlag(c)
	sure := c.Flags().Bool("yes", false, "do it: it cannot be taken back")
	c.RunE = func(c *cobra.Command, args []string) error {
		if !*sure {
			return fmt.Errorf("all mail, follow-ups and settings of %s would be removed from this Ebbe for good, and nothing from the servers of their accounts; \"ebbe export --format archive\" gives it out first; nothing was done: say --yes", args[0])
		}
		s, end, err := openAlone(*data)
		if err != nil {
			return err
		}
		defer end()
		d := desk.New(s, &journal.SystemClock{}, false)
		p, err := identity.Departure{Directory: d.People}.SendCalled(c.Context(), args[0])
		if errors.Is(err, store.ErrNotFound) {
			return fmt.Errorf("nobody signs in with %s here; nothing was changed", args[0])
		}
		if err != nil {
			return err
		}
		copies, err := d.Leaving.StillIn(c.Context(), p.Created)
		if err != nil {
			return err
		}
		_, err = d.Leaving.Remove(c.Context())
		if err == nil {
			err = d.Leaving.Clear(c.Context())
		}
		if err != nil {
			return fmt.Errorf("that was begun, and is gone on with when Ebbe is started: %w", err)
		}
		fmt.Fprintf(c.OutOrStdout(), "%s is removed, with all that was theirs.\n", p.Name)
		if len(copies) > 0 {
			fmt.Fprintf(c.OutOrStdout(), "These copies still hold them:\n%s\n", strings.Join(copies, "\n"))
		}
		return nil
	}
	return c
}
