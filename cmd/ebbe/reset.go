package main

import (
	"errors"
	"fmt"

	"github.com/spf13/cobra"

	"ebbe/internal/desk"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

func resetPasswordCommand() *cobra.Command {
	c := &cobra.Command{Use: "reset-password ADDRESS", Short: "Sets a new password for whoever signs in with an address, who is told so", Args: cobra.ExactArgs(1)}
	data := dataFlag(c)
	drop := c.Flags().Bool("without-codes", false, "have them be asked for no code besides the password any more, if their device is lost as well")
	c.RunE = func(c *cobra.Command, args []string) error {
		s, err := open(*data)
		if err != nil {
			return err
		}
		defer s.Close()
		fresh, err := desk.New(s, &journal.SystemClock{}, false).People.ResetPassword(c.Context(), args[0], *drop)
		if errors.Is(err, store.ErrNotFound) {
			return fmt.Errorf("nobody signs in with %s here; nothing was changed", args[0])
		}
		if err != nil {
			return err
		}
		fmt.Fprintf(c.OutOrStdout(), "The password of %s is now %s\nWhatever was signed in is not any more, and they are told when they sign in. They should choose another in Setup.\n", args[0], fresh)
		return nil
	}
	return c
}
