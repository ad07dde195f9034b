package mailsync

import (
	"cmp"
	"errors"
	"slices"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/writing"
	"ebbe/internal/post/imap"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
)

// carry tells the server what was decided. What only another account can be told
// is gone past, so that it does not stand in the way.
func (p *pass) carry() (failed error) {
	now := p.s.journal.Now()
	for after := (mailboxes.Errand{}); ; {
		var due []mailboxes.Errand
		var open Work
		look := func() error {
			return p.read(func(t store.Tx) (err error) {
				if due == nil {
					if due, err = mailboxes.Errands(t).Errands(p.a.BoxID, p.a.ID, now, after, errandsOnce); err != nil {
						return err
					}
				}
				open, err = OpenWork(t, p.a, due)
				return err
			})
		}
		if err := look(); err != nil || len(due) == 0 {
			return errors.Join(failed, err)
		}
		var todo []inbox.Errand
		for _, e := range due {
			todo = append(todo, open.Todo[e.ConversationID]...)
		}
		err := p.errandsDone(todo)
		if lerr := look(); err == nil || lerr != nil && p.ctx.Err() == nil {
			err = errors.Join(err, lerr)
		}
		var done, again []mailboxes.Errand
		for _, e := range due {
			switch {
			case !open.Left[e.ConversationID]:
				done = append(done, e)
			case len(open.Todo[e.ConversationID]) > 0:
				again = append(again, e)
			}
		}
		werr := p.write(func(t store.Tx) error {
			if len(again) > 0 {
				why := "The server of “" + p.a.Name + "” did not do it."
				if err != nil {
					why = "The server of “" + p.a.Name + "” did not do it: " + err.Error()
				}
				if err := mailboxes.Errands(t).PostponeErrands(again, writing.Later(again[0].Attempts+1, now), why); err != nil {
					return err
				}
			}
			return mailboxes.Errands(t).CarriedOut(done)
		})
		failed = errors.Join(failed, err, werr)
		if _, no := imap.Said(err); len(due) < errandsOnce || werr != nil || err != nil && !no {
			return failed
		}
		after = due[len(due)-1]
	}
}

// Work is what has to be done on servers about conversations, by conversation:
// on the one of an account, and about which there is something left on any.
type Work struct {
	Todo map[int64][]inbox.Errand
	Left map[int64]bool
}

// OpenWork gives the work about conversations, as the account a sees it.
func OpenWork(t store.Tx, a mailboxes.Account, due []mailboxes.Errand) (w Work, err error) {
	w.Todo, w.Left = map[int64][]inbox.Errand{}, map[int64]bool{}
	ids := make([]int64, len(due))
	for i, e := range due {
		ids[i] = e.ConversationID
	}
	copies, err := mailboxes.Folders(t).ConversationCopies(a.BoxID, ids)
	if err != nil {
		return w, err
	}
	state, err := store.Conversations(t).State(a.BoxID, a.PersonID, ids, nil)
	if err != nil {
		return w, err
	}
	accounts, err := mailboxes.Accounts(t).Accounts(a.BoxID)
	if err != nil {
		return w, err
	}
	choices := map[int64]inbox.Carries{}
	for _, other := range accounts {
		if !other.Paused {
			choices[other.ID] = other.Carries
		}
	}
	for i, id := range ids {
		for _, e := range inbox.Errands(state.Conversations[id], due[i].Left(), copies[id], func(account int64) inbox.Carries { return choices[account] }) {
			w.Left[id] = true
			if e.Account == a.ID {
				w.Todo[id] = append(w.Todo[id], e)
			}
		}
	}
	return w, nil
}

// errandsDone runs errands, all of a kind at once: first marks, then moves.
func (p *pass) errandsDone(todo []inbox.Errand) error {
	type job struct {
		folder int64
		to     mail.Role
		star   bool
		on     bool
	}
	jobs := map[job][]inbox.Errand{}
	var order []job
	add := func(j job, e inbox.Errand) {
		if jobs[j] == nil {
			order = append(order, j)
		}
		jobs[j] = append(jobs[j], e)
	}
	for _, e := range todo {
		if e.Seen != nil {
			add(job{folder: e.Folder, on: *e.Seen}, e)
		}
		if e.Star != nil {
			add(job{folder: e.Folder, star: true, on: *e.Star}, e)
		}
	}
	for _, e := range todo {
		if e.To != "" {
			add(job{folder: e.Folder, to: e.To}, e)
		}
	}
	var refused error
	for _, j := range order {
		i := slices.IndexFunc(p.folders, func(f *mailboxes.Folder) bool { return f.ID == j.folder })
		if i < 0 {
			continue
		}
		err := p.jobs(p.folders[i], j.to, jobs[j], j.star, j.on)
		var no *problem.Error
		if _, said := imap.Said(err); said || errors.As(err, &no) { // the others go on
			refused = cmp.Or(refused, err)
		} else if err != nil {
			return err
		}
	}
	return refused
}

// jobs does one thing about messages of a folder.
func (p *pass) jobs(f *mailboxes.Folder, to mail.Role, all []inbox.Errand, star, on bool) (err error) {
	into := f
	if to != "" {
		if into, err = p.role(to); err != nil {
			return err
		}
	}
	if err := p.at(f.Name); err != nil {
		return err
	}
	for some := range slices.Chunk(all, 500) {
		if err := p.job(f.ID, into, some, to != "", star, on); err != nil {
			return err
		}
	}
	return nil
}

// job does one thing about messages of the open folder, and notes it.
func (p *pass) job(folder int64, into *mailboxes.Folder, some []inbox.Errand, move, star, on bool) error {
	uids, ids := make([]uint32, len(some)), make([]int64, len(some))
	for i, e := range some {
		uids[i], ids[i] = uint32(e.UID), e.UID
	}
	var moved map[uint32]uint32
	var err error
	if move {
		moved, err = p.m.Move(uids, into.Name)
	} else {
		err = p.m.SetFlag(uids, star, on)
	}
	if err != nil {
		return err
	}
	return p.write(func(t store.Tx) error {
		copies, err := mailboxes.Folders(t).CopiesAt(folder, ids)
		if err != nil {
			return err
		}
		if !move {
			for i := range copies {
				if star {
					copies[i].Star = on
				} else {
					copies[i].Seen = on
				}
			}
			return mailboxes.Folders(t).PutCopies(copies)
		}
		var put []mailboxes.Copy
		for _, k := range copies {
			if uid := moved[uint32(k.UID)]; uid != 0 {
				put = append(put, mailboxes.Copy{FolderID: into.ID, UID: int64(uid), MessageID: k.MessageID, Seen: k.Seen, Star: k.Star, Put: p.s.journal.Now()})
			} else if err := mailboxes.Folders(t).Await(into.ID, k.MessageID); err != nil {
				return err
			}
		}
		if err := mailboxes.Folders(t).DropCopies(folder, ids); err != nil {
			return err
		}
		return mailboxes.Folders(t).PutCopies(put)
	})
}
