package main

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/desk"
	"ebbe/internal/desk/accounts"
	"ebbe/internal/desk/queue"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/post/archive"
	"ebbe/internal/post/office"
	"ebbe/internal/secrets"
	"ebbe/internal/store"
)

// synced measures the first sync of an account with n messages from the
// stand-in post office, a tenth of them in its inbox, and what later looks at
// it take when nothing has changed, and when one message has come.
func synced(dir string, n int) {
	const address, secret = "me@m.example", "long enough"
	box := filepath.Join(dir, "sync.mbox")
	check(os.MkdirAll(dir, 0o700))
	generate(box, n, 5, "s")
	o := must(office.Open("", time.Now))
	o.AddAccount(address, secret)
	i := 0
	check(archive.Walk(box, func(item post.Item) error {
		folder := office.Archive
		if i++; i > n-n/10 {
			folder = office.Inbox
		}
		o.Put(address, folder, time.Now(), item.Raw)
		return nil
	}, func(path string, err error) { check(fmt.Errorf("%s: %w", path, err)) }))
	check(os.Remove(box))
	check(o.Start())
	defer o.Close()

	s := must(store.Open(filepath.Join(dir, "data"), store.Options{}))
	defer s.Close()
	d, ctx := desk.New(s, &journal.SystemClock{}, false), context.Background()
	d.Connect(accounts.Links{Key: must(secrets.Load(filepath.Join(dir, "data"), "")), Network: post.Network{Dial: o.Dial, LookupSRV: o.LookupSRV, Roots: o.Roots(), Patience: time.Minute}})
	check(d.SetUp(ctx, identity.Signup{Name: "Me", Address: address, Password: secret, Zone: "Europe/Oslo"}))
	server := mail.Server{Host: "imap.skagvik.example", Port: 993, Security: mail.TLS}
	sending := mail.Server{Host: "smtp.skagvik.example", Port: 465, Security: mail.TLS}
	begin := time.Now()
	must(d.Accounts.Put(ctx, identity.Who{Person: 1, Box: 1}, "", accounts.AccountDraft{Address: address, Secret: secret, Mailbox: server, Sending: sending, Carries: inbox.AllCarried}))
	done := make(chan error)
	go func() { done <- d.Mail.PassNow(ctx) }()
	who, first := identity.Who{Person: 1, Box: 1}, time.Duration(0)
	for first == 0 {
		q := must(d.Queue.Arranged(ctx, who, queue.Arrangement{}))
		if len(q.Slips) > 0 {
			first = time.Since(begin)
		}
	}
	check(<-done)
	took := time.Since(begin)
	fmt.Printf("%-44s %6.0f messages/s (%d in %.1f s)\n", "first sync of an account", float64(n)/took.Seconds(), n, took.Seconds())
	fmt.Printf("%-44s %6.2f s\n", "its first page", first.Seconds())
	pass := func(name string) {
		begin := time.Now()
		check(d.Mail.PassNow(ctx))
		fmt.Printf("%-44s %6.0f ms\n", name, time.Since(begin).Seconds()*1000)
	}
	pass("a later look, nothing new")
	o.Put(address, office.Inbox, time.Now(), []byte("From: x@y.example\r\nTo: me@m.example\r\nSubject: New\r\nMessage-ID: <new@y.example>\r\n\r\nNew.\r\n"))
	pass("a later look, one new message")
	wrong, _, err := d.Check(ctx)
	check(err)
	if len(wrong) > 0 {
		fmt.Println(wrong)
	}
}
