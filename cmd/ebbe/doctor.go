package main

import (
	"crypto/x509"
	"errors"
	"fmt"
	"net"
	"time"

	"github.com/spf13/cobra"

	"ebbe/internal/desk"
	"ebbe/internal/journal"
	"ebbe/internal/secrets"
)

// certificateSoon is how long before its end a certificate is told of.
const certificateSoon = 14 * 24 * time.Hour

func doctorCommand() *cobra.Command {
	c := &cobra.Command{Use: "doctor", Short: "Looks at all that Ebbe needs, and says what to do", Args: cobra.NoArgs}
	data, keyFile := dataFlag(c), keyFlag(c)
	cert := c.Flags().String("tls-cert", "", "file with the certificate, as for ebbe serve")
	certKey := c.Flags().String("tls-key", "", "file with its key, as for ebbe serve")
	c.RunE = func(c *cobra.Command, _ []string) error {
		s, err := open(*data)
		if err != nil {
			return err
		}
		defer s.Close()
		key, err := keyOf(c.Context(), s, *data, *keyFile, secrets.Find)
		if err != nil && !errors.Is(err, secrets.ErrNoKey) { // what it does not open is said below
			return err
		}
		dialer := &net.Dialer{}
		looks, err := desk.New(s, &journal.SystemClock{}, false).Doctor(c.Context(), *data, key, dialer.DialContext)
		if err != nil {
			return err
		}
		if *cert != "" {
			looks = append(looks, lookAtCertificate(*cert, *certKey, time.Now()))
		}
		wrong := 0
		for _, l := range looks {
			if l.Fine {
				fmt.Fprintln(c.OutOrStdout(), "well   ", l.Text)
				continue
			}
			wrong++
			fmt.Fprintln(c.OutOrStdout(), "not so ", l.Text, l.Do)
		}
		if wrong > 0 {
			return fmt.Errorf("%d things do not stand well", wrong)
		}
		return nil
	}
	return c
}

func lookAtCertificate(cert, key string, now time.Time) desk.Look {
	pair, err := (&keyPair{cert: cert, key: key}).get(nil)
	if err != nil {
		return desk.Look{Text: fmt.Sprintf("The certificate cannot be used: %v", err), Do: "Name the files of a certificate and of its key."}
	}
	leaf, err := x509.ParseCertificate(pair.Certificate[0])
	if err != nil {
		return desk.Look{Text: fmt.Sprintf("The certificate cannot be read: %v", err), Do: "Put a good one in its place."}
	}
	return desk.Look{Fine: now.Add(certificateSoon).Before(leaf.NotAfter), Text: "The certificate is good until " + leaf.NotAfter.Format("2 January 2006") + ".", Do: "Have it renewed; Ebbe takes the new one by itself."}
}
