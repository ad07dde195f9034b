package mailsync

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"time"

	"ebbe/internal/backoff"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/post/imap"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
	"ebbe/internal/store/sending"
)

// PassNow puts all accounts of all boxes in step at once, and waits for it.
func (s *Sync) PassNow(ctx context.Context) error {
	accounts, err := s.accounts(ctx)
	if err != nil {
		return err
	}
	for _, a := range accounts {
		if a.Paused {
			continue
		}
		if err := s.Pass(ctx, a, nil, false); err != nil {
			return fmt.Errorf("%s: %w", a.Name, err)
		}
	}
	return nil
}

func (s *Sync) accounts(ctx context.Context) (accounts []mailboxes.Account, err error) {
	err = s.store.Read(ctx, func(t store.Tx) error {
		accounts, err = mailboxes.Accounts(t).Accounts(0)
		return err
	})
	return accounts, err
}

// The bounds of the time between two looks at an account: while all is well,
// and after something has failed.
const (
	lookEvery  = 5 * time.Minute
	keptEvery  = 45 * time.Second // where Ebbe keeps folders of its own
	retryFirst = 2 * time.Second
	retryLast  = 10 * time.Minute
	partLast   = time.Minute // of what could not be done in a pass that went well otherwise
	steady     = time.Minute // after so long a line counts as one that works
)

// Run keeps a line to each account until the context ends.
func (s *Sync) Run(ctx context.Context) {
	type kept struct {
		account mailboxes.Account
		end     context.CancelFunc
		over    chan struct{}
	}
	lines := map[int64]kept{}
	same := func(a, b mailboxes.Account) bool {
		return a.Mailbox == b.Mailbox && a.Login == b.Login && string(a.Secret) == string(b.Secret) && a.Token == b.Token && a.Paused == b.Paused
	}
	for {
		accounts, err := s.accounts(ctx)
		var again <-chan time.Time
		if err != nil && ctx.Err() == nil {
			slog.Error("the accounts could not be read, trying again", "error", err)
			again = time.After(retryLast)
		}
		now := map[int64]mailboxes.Account{}
		for _, a := range accounts {
			now[a.ID] = a
		}
		for id, k := range lines {
			if a, ok := now[id]; err == nil && (!ok || !same(a, k.account)) {
				k.end()
				<-k.over
				delete(lines, id)
			}
		}
		for id, a := range now {
			if _, ok := lines[id]; ok || a.Paused {
				continue
			}
			lctx, end := context.WithCancel(ctx)
			k := kept{a, end, make(chan struct{})}
			lines[id] = k
			go func() { s.keepLine(lctx, a); close(k.over) }()
		}
		select {
		case <-ctx.Done():
			for _, k := range lines {
				k.end()
				<-k.over
			}
			return
		case <-s.changed:
		case <-again:
		}
	}
}

// keepLine keeps one account in step: it passes over it whenever something
// changes there or here, and tries again with growing waits if it cannot.
func (s *Sync) keepLine(ctx context.Context, a mailboxes.Account) {
	c := make(chan struct{}, 1)
	s.mu.Lock()
	s.wakes[a.ID] = wake{a.BoxID, c}
	s.mu.Unlock()
	defer func() {
		s.mu.Lock()
		delete(s.wakes, a.ID)
		s.mu.Unlock()
	}()
	cut := backoff.Waits[int64]{First: retryFirst, Last: retryLast}
	defer s.waits.Worked(a.ID)
	for ctx.Err() == nil {
		var well time.Time
		err := s.stayConnected(ctx, a, c, func() {
			if well.IsZero() {
				well = time.Now()
			}
		})
		if !well.IsZero() && time.Since(well) > steady {
			cut.Worked(a.ID)
		}
		if ctx.Err() != nil {
			return
		}
		var excess *imap.Excess
		next, first := cut.Failed(a.ID, time.Now())
		if !first || errors.As(err, &excess) { // a line cut once is nothing to tell
			s.NoteTrouble(ctx, a, err)
		}
		t := time.NewTimer(time.Until(next))
		select {
		case <-t.C:
		case <-ctx.Done():
		}
		t.Stop()
	}
}

// NoteTrouble notes why an account could not be kept in step, in a sentence.
func (s *Sync) NoteTrouble(ctx context.Context, a mailboxes.Account, err error) {
	if err == nil {
		return
	}
	where, trouble := "line", "The line to the server was cut. Ebbe connects anew by itself."
	var step *post.StepError
	var excess *imap.Excess
	var refused *problem.Error
	var in *inside
	switch {
	case errors.As(err, &in):
		where = "inside Ebbe"
		slog.Error("an account could not be kept in step, trying again", "account", a.ID, "error", err)
		trouble = "“" + a.Name + "” cannot be kept in step: something is wrong inside Ebbe. Nothing is lost; it is tried again by itself."
	case errors.As(err, &step):
		where, trouble = step.Step, step.Text
	case errors.As(err, &excess):
		where, trouble = "limits", a.Mailbox.Host+" does what no mailbox server may. "+excess.Text
	case errors.As(err, &refused):
		where, trouble = "settings", refused.Text
	}
	if in == nil { // without what the server said: that may be about mail
		slog.Warn("an account could not be kept in step, trying again", "account", a.ID, "step", where)
	}
	s.noteSync(ctx, a, trouble)
}

// stayConnected connects, and passes over the account until the line ends.
func (s *Sync) stayConnected(ctx context.Context, a mailboxes.Account, wake chan struct{}, well func()) error {
	m, err := s.open(ctx, a)
	if err != nil {
		return err
	}
	defer m.Close()
	news := false
	for full := true; ; full = false {
		troubled, err := s.pass(ctx, a, m, full, news)
		if err != nil {
			return err
		}
		well()
		again := time.Now() // when what could not be done is tried again
		if troubled {
			again, _ = s.waits.Failed(a.ID, again)
		} else {
			s.waits.Worked(a.ID)
		}
		for { // until there is something to do
			heard, woken, err := m.Await(ctx, max(s.untilErrand(ctx, a), time.Until(again)), wake)
			if err != nil {
				return err
			}
			if news = heard; news || !woken || s.hasErrands(ctx, a) {
				break
			}
		}
	}
}

func (s *Sync) hasErrands(ctx context.Context, a mailboxes.Account) (has bool) {
	err := s.store.Read(ctx, func(t store.Tx) error {
		for after := (mailboxes.Errand{}); ; {
			due, err := mailboxes.Errands(t).Errands(a.BoxID, a.ID, s.journal.Now(), after, errandsOnce)
			if err != nil {
				return err
			}
			open, err := OpenWork(t, a, due)
			if has = len(open.Todo) > 0 || len(open.Left) < len(due); err != nil || has {
				return err
			}
			if len(due) < errandsOnce {
				break
			}
			after = due[len(due)-1]
		}
		unlaid, err := sending.Outbox(t).Unlaid(a.ID, 1)
		if has = len(unlaid) > 0; err != nil || has {
			return err
		}
		vanished, err := mailboxes.Folders(t).Vanishings(a.ID, s.journal.Now())
		has = slices.ContainsFunc(vanished, func(v mailboxes.Vanishing) bool { return v.PutBack })
		return err
	})
	return has || err != nil
}

func (s *Sync) untilErrand(ctx context.Context, a mailboxes.Account) time.Duration {
	if s.hasErrands(ctx, a) {
		return time.Second
	}
	every := lookEvery
	if a.Carries.Folders.On { // what is moved there from elsewhere than the inbox is done within a minute
		every = keptEvery
	}
	if wait, waits := s.UntilDraft(ctx, a); waits {
		return min(wait, every)
	}
	return every
}

func (s *Sync) noteSync(ctx context.Context, a mailboxes.Account, trouble string) {
	changed := false
	_ = s.store.Write(ctx, func(t store.Tx) error { // it is only told: what could not be noted is noted with the next pass
		now, err := mailboxes.Accounts(t).Account(a.BoxID, a.ID)
		if err != nil {
			return err
		}
		changed = now.Trouble != trouble || now.Synced == 0
		return mailboxes.Accounts(t).NoteSync(a.ID, s.journal.Now(), trouble)
	})
	if changed {
		s.journal.Announce(a.BoxID, journal.Event{Topics: []string{journal.TopicAccounts}})
	}
}
