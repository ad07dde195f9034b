package desk

import (
	"context"
	"errors"
	"fmt"
	"net"
	"os"
	"path/filepath"
	"strconv"
	"syscall"
	"time"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/texting"
	"ebbe/internal/core/when"
	"ebbe/internal/secrets"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
	"ebbe/internal/store/watching"
)

// Look is one thing that was looked at: what it is, how it stands, and, where it does not
// stand well, what to do.
type Look struct {
	Fine bool
	Text string
	Do   string
}

// The bounds of what stands well.
const (
	lateAgenda   = 10 * time.Minute
	littleRoom   = 1 << 30 // bytes that are free on the disk
	longNotKept  = 6 * time.Hour
	serverWithin = 5 * time.Second
)

// Doctor looks at all that Ebbe needs: its folder, key, clock, what is due, and the servers
// of all accounts. It reads nobody's mail. dial opens a line to a server.
func (d *Desk) Doctor(ctx context.Context, dir string, key secrets.Key, dial func(ctx context.Context, network, address string) (net.Conn, error)) (out []Look, err error) {
	say := func(fine bool, do, text string, args ...any) {
		out = append(out, Look{fine, fmt.Sprintf(text, args...), do})
	}
	probe := filepath.Join(dir, ".doctor")
	if err := os.WriteFile(probe, nil, 0o600); err != nil {
		say(false, "Let the user who runs Ebbe write there.", "The data folder %s cannot be written to: %v", dir, err)
	} else {
		_ = os.Remove(probe)
		say(true, "", "The data folder %s can be written to.", dir)
	}
	var disk syscall.Statfs_t
	if err := syscall.Statfs(dir, &disk); err == nil {
		free := int64(disk.Bavail) * disk.Bsize
		say(free > littleRoom, "Make room: mail goes on coming in, and an update copies the data first.", "%d MB are free on its disk.", free>>20)
	}
	if kept, _ := filepath.Glob(filepath.Join(dir, store.Before)); len(kept) > 0 {
		say(true, "", "A copy from before the last update is kept: %s. Whoever was removed since is still in it.", filepath.Base(kept[0]))
	}
	if d.Leaving.Owed() {
		say(false, "Start Ebbe anew when nobody works with it: it writes the file anew then.", "Something of somebody who left may still lie in the file of the database.")
	}
	var accounts, lines []mailboxes.Account
	err = d.store.Read(ctx, func(t store.Tx) error {
		version, err := watching.Watching(t).Schema()
		if err != nil {
			return err
		}
		say(true, "", "The data are of version %s, as this program has it.", version)
		last, err := watching.Watching(t).LastEntry()
		if err != nil {
			return err
		}
		ahead := last.Time().Sub(d.Now().Time())
		say(ahead < time.Minute, "Set the clock of this machine: what is due goes by it.", "The clock says %s.", time.Now().Format("2 January 2006, 15:04:05 MST"))
		people, err := store.People(t).People()
		if err != nil {
			return err
		}
		paused := 0
		for _, p := range people {
			if p.Paused {
				paused++
			}
		}
		say(len(people) > 0, "Open Ebbe in a browser; it asks for the code that it prints when it is started.", "People: %d, paused: %d.", len(people), paused)
		boxes, err := store.Agenda(t).BoxesDue(when.Of(d.Now().Time().Add(-lateAgenda)))
		if err != nil {
			return err
		}
		say(len(boxes) == 0, "If Ebbe runs, look at what it tells of these boxes; else start it.", "In %d boxes something is due since more than %d minutes.", len(boxes), int(lateAgenda.Minutes()))
		if accounts, err = mailboxes.Accounts(t).Accounts(0); err != nil {
			return err
		}
		lines, err = mailboxes.Accounts(t).Lines(0)
		return err
	})
	if err != nil {
		say(false, "Run ebbe check; if it finds the data broken, restore a backup.", "The data cannot be read: %v", err)
		return out, nil
	}
	for _, a := range accounts {
		name := fmt.Sprintf("Account %d", a.ID) // its address is its owner's
		if _, err := key.Open(a.Secret); err != nil {
			say(false, "Give the right key (--key-file, or ebbe.key in the folder), or have its owner type the password again.", "%s: its password cannot be opened with this key.", name)
		}
		switch idle := d.Now().Time().Sub(a.Synced.Time()); {
		case a.Paused:
			say(true, "", "%s is paused.", name)
		case a.Trouble != "":
			say(false, "Its owner sees in Accounts what to do.", "%s is not in step: %s", name, a.Trouble)
		case idle > longNotKept && a.Synced > 0:
			say(false, "If Ebbe runs, look at what it tells of it; else start it.", "%s was in step %d hours ago.", name, int(idle.Hours()))
		}
		for _, s := range []mail.Server{a.Mailbox, a.Sending} {
			if err := reach(ctx, dial, s); err != nil {
				say(false, "Look at the network of this machine, and whether that server runs.", "%s: %s cannot be reached at port %d: %v", name, s.Host, s.Port, err)
			}
		}
	}
	for _, a := range lines {
		name := fmt.Sprintf("Telephone line %d", a.ID)
		if _, err := key.Open(a.Secret); err != nil {
			say(false, "Give the right key (--key-file, or ebbe.key in the folder), or have its owner type the secret again.", "%s: its secret cannot be opened with this key.", name)
		}
		if a.Paused {
			say(true, "", "%s is paused.", name)
			continue
		}
		at := texting.PlaceOf(a.Line.Gateway)
		if err := reach(ctx, dial, mail.Server{Host: at.Host, Port: at.Port}); err != nil {
			say(false, "Look at the network of this machine, and whether that gateway runs.", "%s: %s cannot be reached at port %d: %v", name, at.Host, at.Port, err)
		}
	}
	say(true, "", "%d accounts and %d telephone lines were looked at.", len(accounts), len(lines))
	return out, nil
}

func reach(ctx context.Context, dial func(ctx context.Context, network, address string) (net.Conn, error), s mail.Server) error {
	ctx, end := context.WithTimeout(ctx, serverWithin)
	defer end()
	c, err := dial(ctx, "tcp", net.JoinHostPort(s.Host, strconv.Itoa(s.Port)))
	if err != nil {
		var op *net.OpError
		if errors.As(err, &op) {
			return op.Err
		}
		return err
	}
	return c.Close()
}
