package desk

import (
	"context"
	"errors"
	"net"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/texting"
	"ebbe/internal/core/when"
	"ebbe/internal/secrets"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
)

// What does not stand well is named, each with what to do; nothing of anybody's mail is.
func TestTheDoctorLooks(t *testing.T) {
	f := newOffice(t, store.Options{})
	key := secrets.Key{4}
	reached := map[string]int{}
	dial := func(_ context.Context, _, address string) (net.Conn, error) {
		if reached[address]++; strings.HasPrefix(address, "gone") {
			return nil, &net.OpError{Op: "dial", Err: errors.New("no route to host")}
		}
		a, b := net.Pipe()
		b.Close()
		return a, nil
	}
	looked := func() (fine, wrong []string) {
		looks, err := f.Doctor(ctx, f.dir, key, dial)
		require.NoError(t, err)
		for _, l := range looks {
			if l.Fine {
				fine = append(fine, l.Text)
				continue
			}
			require.NotEmpty(t, l.Do, l.Text)
			wrong = append(wrong, l.Text)
		}
		return fine, wrong
	}
	fine, wrong := looked()
	require.Empty(t, wrong)
	require.Contains(t, strings.Join(fine, "\n"), "People: 1, paused: 0")

	f.take(t, letter("a@x", "mirela@x.example", "Quartz"))
	server := func(host string) mail.Server { return mail.Server{Host: host, Port: 993} }
	require.NoError(t, f.store.Write(ctx, func(tx store.Tx) error {
		for _, a := range []mailboxes.Account{
			{BoxID: 1, PersonID: 1, Name: "Museum", Address: "solvei@m.example", Mailbox: server("mail.m.example"), Sending: server("gone.m.example"), Secret: secrets.Key{5}.Seal("x"), Synced: when.Of(f.clock.t)},
			{BoxID: 1, PersonID: 1, Name: "Choir", Address: "choir@m.example", Mailbox: server("mail.m.example"), Sending: server("mail.m.example"), Secret: key.Seal("x"), Trouble: "The server does not know the password."},
			{BoxID: 1, PersonID: 1, Name: "Front desk", Address: "+441632960145@text.invalid", Line: &texting.Line{Number: "+441632960145", Gateway: texting.Gateway{URL: "https://gone.gateway.example/texts"}}, Hook: "x", Secret: key.Seal("x")},
		} {
			require.NoError(t, mailboxes.Accounts(tx).PutAccount(&a))
		}
		return store.Agenda(tx).Put(1, inbox.Return, 1, when.Of(f.clock.t.Add(-2*lateAgenda)))
	}))
	_, wrong = looked()
	text := strings.Join(wrong, "\n")
	for _, want := range []string{"cannot be opened with this key", "gone.m.example cannot be reached at port 993: no route to host", "does not know the password", "In 1 boxes something is due", "gone.gateway.example cannot be reached at port 443"} {
		require.Contains(t, text, want)
	}
	require.NotContains(t, text, "Quartz")
	require.NotContains(t, text, "solvei@")
	require.Equal(t, 3, reached["mail.m.example:993"])
}
