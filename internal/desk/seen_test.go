package desk

import (
	"bytes"
	"fmt"
	"log/slog"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/accounts"
	"ebbe/internal/desk/composing"
	postoffice "ebbe/internal/post/office"
)

// log is what is told while a test runs.
type log struct {
	mu   sync.Mutex
	text bytes.Buffer
}

func (l *log) Write(p []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.text.Write(p)
}

// told gives what was told since it was asked last.
func (l *log) told() string {
	l.mu.Lock()
	defer l.mu.Unlock()
	defer l.text.Reset()
	return l.text.String()
}

// Each step towards a server that fails is told of with its account, and with nothing of
// what is in the mail or who writes it.
func TestEachFailingStepIsTold(t *testing.T) {
	l := &log{}
	before := slog.Default()
	slog.SetDefault(slog.New(slog.NewTextHandler(l, nil)))
	t.Cleanup(func() { slog.SetDefault(before) })
	p := newPosted(t, postoffice.Faults{}).connected(t)
	p.put(postoffice.Inbox, "a@x", "Jonas <jonas@x.example>", "The crate")
	p.pass(t)
	require.NotContains(t, l.told(), "account=")
	a := p.account(t)
	account := fmt.Sprint("account=", a.ID)
	said := func(words ...string) {
		t.Helper()
		text := l.told()
		for _, w := range append(words, account, "level=WARN") {
			require.Contains(t, text, w)
		}
		for _, w := range []string{"crate", "jonas", "solvei", museum} {
			require.NotContains(t, text, w)
		}
	}
	require.NoError(t, p.post.Close())
	_ = p.Mail.PassNow(ctx)
	p.Mail.NoteTrouble(ctx, a, p.Mail.PassNow(ctx))
	said("step=")

	require.NoError(t, p.post.Start())
	p.link(func(k *accounts.Links) { k.Network.Patience = time.Second })
	p.post.Misbehave(postoffice.Faults{Busy: 1})
	_, err := p.Writing.Send(ctx, p.who, "", p.draft(t, writing.Reply, "The crate", "It stands on the quay.").ID, composing.Sending{Then: inbox.Archive})
	require.NoError(t, err)
	p.clock.t = p.clock.t.Add(time.Hour)
	_ = p.Sending.Dispatch(ctx)
	said("a message was not handed over whole", "later=")
}
