package desk

import (
	"context"
	"net"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/accounts"
	"ebbe/internal/desk/composing"
	"ebbe/internal/post/mime"
	postoffice "ebbe/internal/post/office"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
	"ebbe/internal/store/sending"
)

// state is how far the one message of the outbox is.
func (p *posted) state(t testing.TB) (o sending.Outgoing) {
	t.Helper()
	require.NoError(t, p.store.Read(ctx, func(tx store.Tx) (err error) { o, err = sending.Outbox(tx).Outgoing(1, 1); return err }))
	return o
}

// going is a post office with an answer that goes out now; synced is called after
// each commit that no power cut can undo.
func going(t *testing.T, synced func(*posted)) *posted {
	var p *posted
	o := newOffice(t, store.Options{Synced: func() {
		if p != nil {
			synced(p)
		}
	}})
	q := &posted{office: o}
	var err error
	q.post, err = postoffice.Open("", q.clock.Now)
	require.NoError(t, err)
	q.post.AddAccount(museum, "low tide")
	require.NoError(t, q.post.Start())
	t.Cleanup(func() { _ = q.post.Close() })
	q.link()
	q.connected(t)
	q.put(postoffice.Inbox, "1@x", "Jonas <jonas@x.example>", "Crate")
	q.pass(t)
	_, err = q.Writing.Send(ctx, q.who, "", q.draft(t, writing.Reply, "Crate", "Thursday is fine.").ID, composing.Sending{Then: inbox.Archive})
	require.NoError(t, err)
	q.later(time.Minute)
	p = q
	return q
}

// That a message is going is on the disk before the server hears its end, so
// that a power cut cannot make it go twice; and so is what came of it.
func TestSendingIsOnTheDiskBeforeTheLineIsUsed(t *testing.T) {
	var states []writing.State
	p := going(t, func(p *posted) {
		s := p.state(t).State
		if states = append(states, s); s == writing.Sending {
			require.Empty(t, p.post.Taken())
		}
	})
	require.NoError(t, p.Sending.Dispatch(ctx))
	require.Equal(t, []writing.State{writing.Sending, writing.Sent}, states)
	require.Len(t, p.post.Taken(), 1)
}

// The end of the program lets a message that is going finish, and notes what
// came of it; one that has not gone yet waits for the next start.
func TestTheEndOfTheProgramWhileSending(t *testing.T) {
	stopping, stop := context.WithCancel(ctx)
	p := going(t, func(p *posted) {
		if p.state(t).State == writing.Sending {
			stop()
		}
	})
	require.NoError(t, p.Sending.Dispatch(stopping))
	require.Equal(t, writing.Sent, p.state(t).State)
	require.Len(t, p.post.Taken(), 1)

	p = going(t, func(*posted) {})
	stopping, stop = context.WithCancel(ctx)
	p.link(func(l *accounts.Links) {
		l.Network.Dial = func(c context.Context, network, address string) (net.Conn, error) {
			stop()
			return p.post.Dial(context.WithoutCancel(c), network, address)
		}
	})
	_ = p.Sending.Dispatch(stopping)
	require.Equal(t, writing.Waiting, p.state(t).State)
	require.Zero(t, p.state(t).Attempts, "nothing was tried")
	require.Empty(t, p.post.Taken())
	p.link()
	require.NoError(t, p.Sending.Dispatch(ctx))
	require.Len(t, p.post.Taken(), 1)
}

// After a crash while a message was being handed over its conversation comes
// back, as nobody but the user can know.
func TestACrashWhileSendingBringsTheConversationBack(t *testing.T) {
	p := going(t, func(*posted) {})
	o := p.state(t)
	o.State = writing.Sending
	require.NoError(t, p.store.Write(ctx, func(tx store.Tx) error { return sending.Outbox(tx).PutOutgoing(&o) }))
	require.Equal(t, inbox.Archived, p.where(t, "Crate").Place)
	require.NoError(t, p.Start(ctx))
	require.Equal(t, writing.Hanging, p.state(t).State)
	require.Equal(t, inbox.Inbox, p.where(t, "Crate").Place)
	require.Equal(t, inbox.Bounced, p.where(t, "Crate").Reason)
	p.sound(t)
}

// Hidden recipients get the message, stand in the user's own copy here and in
// the sent mail, and nobody is told of them.
func TestHiddenRecipientsStayHidden(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	p.pass(t)
	d, err := p.Writing.Begin(ctx, p.who, "", composing.DraftBegun{Mode: writing.New})
	require.NoError(t, err)
	_, err = p.Writing.Change(ctx, p.who, "", d.ID, composing.DraftChange{Account: 1, To: []mail.Address{{Address: "a@x.example"}}, Bcc: []mail.Address{{Name: "Ann", Address: "ann@x.example"}}, Subject: "Plan", Text: "Here."})
	require.NoError(t, err)
	_, err = p.Writing.Send(ctx, p.who, "", d.ID, composing.Sending{})
	require.NoError(t, err)
	p.later(time.Minute)
	require.NoError(t, p.Sending.Dispatch(ctx))
	taken := p.post.Taken()[0]
	require.Equal(t, []string{"a@x.example", "ann@x.example"}, taken.To)
	require.NotContains(t, string(taken.Raw), "ann@x.example")
	v, err := p.Reading.Conversation(ctx, p.who, p.where(t, "Plan").ID)
	require.NoError(t, err)
	require.Equal(t, []mail.Address{{Name: "Ann", Address: "ann@x.example"}}, v.Messages[0].Bcc)
	p.pass(t)
	require.Contains(t, string(p.post.Folder(museum, postoffice.Sent)[0].Raw), "ann@x.example")
	p.pass(t)
	require.Len(t, p.post.Folder(museum, postoffice.Sent), 1)
	p.sound(t)
}

// A draft is on the server some seconds after the last key: the line wakes up
// for it.
func TestADraftIsOnTheServerSoon(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	p.pass(t)
	d, err := p.Writing.Begin(ctx, p.who, "", composing.DraftBegun{Mode: writing.New})
	require.NoError(t, err)
	_, err = p.Writing.Change(ctx, p.who, "", d.ID, composing.DraftChange{Account: 1, Subject: "Plan", Text: "Half a th"})
	require.NoError(t, err)
	a := p.account(t)
	wait, waits := p.Mail.UntilDraft(ctx, a)
	require.True(t, waits)
	require.Less(t, wait, 10*time.Second)
	p.later(wait)
	p.pass(t)
	require.Equal(t, []string{"Plan"}, p.in(postoffice.Drafts))
	require.Contains(t, mime.Read(p.post.Folder(museum, postoffice.Drafts)[0].Raw).MessageID, "@skagvikmuseum.example")
	_, waits = p.Mail.UntilDraft(ctx, a)
	require.False(t, waits)
}

// A secret is sent to the servers it was stored for, and to no other.
func TestASecretIsSentOnlyWhereItWasStoredFor(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	same := account
	same.ID, same.Secret = 1, ""
	same.Name = "Renamed"
	_, err := p.Accounts.Put(ctx, p.who, "", same)
	require.NoError(t, err)
	for what, change := range map[string]func(*accounts.AccountDraft){
		"another mailbox host":        func(a *accounts.AccountDraft) { a.Mailbox.Host = "imap.evil.example" },
		"another sending host":        func(a *accounts.AccountDraft) { a.Sending.Host = "smtp.evil.example" },
		"a line that is less private": func(a *accounts.AccountDraft) { a.Mailbox.Security, a.Mailbox.Port = mail.StartTLS, 143 },
		"another certificate": func(a *accounts.AccountDraft) {
			a.Sending.Trust = "0123456789abcdef0123456789abcdef0123456789abcdef0123456789abcdef"
		},
	} {
		v := same
		change(&v)
		_, err := p.Accounts.Put(ctx, p.who, "", v)
		require.ErrorContains(t, err, "Type it again", what)
		_, err = p.Accounts.Test(ctx, p.who, v)
		require.ErrorContains(t, err, "Type it again", what)
		v.Secret = "low tide"
		_, err = p.Accounts.Test(ctx, p.who, v)
		require.NoError(t, err, what)
	}
}

func (p *posted) account(t testing.TB) (a mailboxes.Account) {
	t.Helper()
	require.NoError(t, p.store.Read(ctx, func(tx store.Tx) (err error) { a, err = mailboxes.Accounts(tx).Account(1, 1); return err }))
	return a
}
