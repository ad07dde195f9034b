// Command ebbe brings an inbox to zero: it serves the application, takes mail
// in, and gives it back.
package main

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"os"
	"os/signal"
	"path/filepath"
	"runtime"
	"strings"
	"syscall"
	"time"
	_ "time/tzdata"

	"github.com/spf13/cobra"

	"ebbe/demo"
	"ebbe/internal/core/inbox"
	"ebbe/internal/desk"
	"ebbe/internal/desk/accounts"
	"ebbe/internal/hatch"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/post/filetext"
	"ebbe/internal/post/smtp"
	"ebbe/internal/secrets"
	"ebbe/internal/store"
	"ebbe/internal/store/backup"
	"ebbe/internal/web"
)

// version is set when the program is built.
var version = "development"

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if err := command().ExecuteContext(ctx); err != nil {
		fmt.Fprintln(os.Stderr, "ebbe:", err)
		os.Exit(1)
	}
}

func command() *cobra.Command {
	root := &cobra.Command{Use: "ebbe", Short: "Brings your inbox to zero, with nothing forgotten.", SilenceUsage: true, SilenceErrors: true}
	root.CompletionOptions.DisableDefaultCmd = true
	root.AddCommand(readFilesCommand(), serveCommand(), demoCommand(), importCommand(), exportCommand(), checkCommand(), backupCommand(), restoreCommand(), resetPasswordCommand(), changeKeyCommand(), removeCommand(), doctorCommand(), &cobra.Command{
		Use: "version", Short: "Says which Ebbe this is", Args: cobra.NoArgs,
		Run: func(c *cobra.Command, _ []string) { fmt.Fprintln(c.OutOrStdout(), "ebbe", version) },
	})
	return root
}

// readFiles is the command by which the program reads files for itself, in a process of
// its own.
const readFiles = "read-files"

func readFilesCommand() *cobra.Command {
	return &cobra.Command{Use: readFiles, Hidden: true, Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error {
		return filetext.Serve(c.InOrStdin(), c.OutOrStdout())
	}}
}

func dataFlag(c *cobra.Command) *string {
	home, _ := os.UserHomeDir()
	return c.Flags().String("data", filepath.Join(home, ".ebbe"), "folder in which everything is kept")
}

func keyFlag(c *cobra.Command) *string {
	return c.Flags().String("key-file", "", "file with the key of the secrets (default: what the system gives, else ebbe.key beside the data)")
}

func addrFlag(c *cobra.Command) *string {
	return c.Flags().String("addr", "127.0.0.1:8420", "address and port to listen on")
}

func serveCommand() *cobra.Command {
	c := &cobra.Command{Use: "serve", Short: "Serves Ebbe to your browser", Args: cobra.NoArgs}
	data, addr, keyFile := dataFlag(c), addrFlag(c), keyFlag(c)
	take := c.Flags().String("take-mail", "", "address and port at which mail for the addresses into Ebbe is taken by SMTP (default: none is taken)")
	host := c.Flags().String("take-host", "localhost", "the host in those addresses, behind the @")
	names := c.Flags().StringSlice("host", nil, "names at which Ebbe answers, besides addresses and localhost")
	cert := c.Flags().String("tls-cert", "", "file with the certificate by which Ebbe is asked by TLS, in PEM; read again when it is replaced")
	certKey := c.Flags().String("tls-key", "", "file with the key of that certificate")
	behind := c.Flags().StringSlice("behind", nil, "addresses, or networks as 10.0.0.0/8, of the proxy before Ebbe, whose word is taken for who asks and whether by TLS")
	watched := c.Flags().String("metrics", "", "address and port of this machine at which metrics are told, in the format of OpenMetrics (default: they are not)")
	level := c.Flags().String("log", "info", "what is told of: debug, info, warn or error")
	c.RunE = func(c *cobra.Command, _ []string) error {
		at := place{addr: *addr, data: *data, cert: *cert, certKey: *certKey}
		if err := at.read(*names, *behind, *level); err != nil {
			return err
		}
		s, end, err := openAlone(*data)
		if err != nil {
			return err
		}
		defer end()
		key, err := keyOf(c.Context(), s, *data, *keyFile, secrets.Load)
		if err != nil {
			return err
		}
		d := desk.New(s, &journal.SystemClock{}, false)
		d.Connect(accounts.Links{Network: post.Internet(), Key: key, Outside: at.outside()})
		apart, err := readApart(d)
		if err != nil {
			return err
		}
		defer apart()
		if *take != "" {
			l, err := smtp.Listen(*take, *host, time.Now, d.Inward)
			if err != nil {
				return fmt.Errorf("mail cannot be taken at %s: %w", *take, err)
			}
			defer l.Close()
			d.Inward.TakeMailAt(*host)
		}
		if *watched != "" {
			m := newMetrics(d)
			if err := m.serve(c.Context(), *watched); err != nil {
				return err
			}
			at.Took = m.took
		}
		return serve(c.Context(), c, d, at)
	}
	return c
}

func demoCommand() *cobra.Command {
	c := &cobra.Command{Use: "demo", Short: "Serves Ebbe with the mail of a made-up museum", Args: cobra.NoArgs}
	data, addr := dataFlag(c), addrFlag(c)
	*data = filepath.Join(os.TempDir(), "ebbe-demo")
	c.Flags().Lookup("data").DefValue = *data
	start := c.Flags().String("start", "", "local time at which the demo's clock begins, as 2026-11-24T10:42 (default: today 10:42)")
	more := c.Flags().Int("more", 0, "how many messages more are to be decided this morning")
	c.RunE = func(c *cobra.Command, _ []string) error {
		begin, err := demo.Begin(*start, time.Now())
		if err != nil {
			return err
		}
		s, end, err := openAlone(*data)
		if err != nil {
			return err
		}
		defer end()
		clock := &journal.SystemClock{}
		d := desk.New(s, clock, true)
		o, err := demo.Office(d, clock, *data)
		if err != nil {
			return err
		}
		defer o.Close()
		in, err := demo.TakeMail(d, o, clock)
		if err != nil {
			return err
		}
		defer in.Close()
		fresh, err := demo.Fill(c.Context(), d, o, clock, begin, *more)
		if err != nil {
			return err
		}
		apart, err := readApart(d)
		if err != nil {
			return err
		}
		defer apart()
		if fresh {
			if err := d.Finding.ReadFiles(c.Context()); err != nil { // so that all of the museum's mail is found from the start
				return err
			}
			fmt.Fprintln(c.OutOrStdout(), "The museum's mail is in", *data)
		}
		slog.SetLogLoggerLevel(slog.LevelWarn)
		return serve(c.Context(), c, d, place{addr: *addr, data: *data})
	}
	return c
}

func open(data string) (*store.Store, error) {
	limitMemory()
	return store.Open(data, store.Options{})
}

// readApart lets d read files in a process of its own, which end ends.
func readApart(d *desk.Desk) (end func(), err error) {
	self, err := os.Executable()
	if err != nil {
		return nil, fmt.Errorf("files cannot be read apart: %w", err)
	}
	waiting, asked := filetext.NewApart(self, readFiles), filetext.NewApart(self, readFiles) // whoever looks at a file does not wait for the others
	d.Finding.Reads, d.Files.Reads = waiting.Read, asked.Read
	return func() { waiting.Close(); asked.Close() }, nil
}

// serve runs the agenda and the web server until the context ends.
func serve(ctx context.Context, c *cobra.Command, d *desk.Desk, at place) error {
	if err := d.Start(ctx); err != nil {
		return err
	}
	l, err := at.listen()
	if err != nil {
		return err
	}
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	running := make(chan struct{})
	go func() { d.Run(ctx); close(running) }()
	handed := make(chan struct{})
	go func() {
		defer close(handed)
		if err := hatch.Serve(ctx, at.data, d.Intake); err != nil {
			slog.Error("other programs of this machine cannot hand in mail", "error", err)
		}
	}()
	srv := &http.Server{Handler: web.Handler(d, at.Options), ReadHeaderTimeout: 10 * time.Second, IdleTimeout: 2 * time.Minute,
		BaseContext: func(net.Listener) context.Context { return web.UntilStop(ctx) }}
	if !d.Demo() {
		code, err := d.People.AskForCode(ctx)
		if err != nil {
			return err
		}
		if code != "" {
			fmt.Fprintf(c.OutOrStdout(), "Nobody has set it up yet. Whoever does is asked for this code: %s\n", code)
		}
	}
	fmt.Fprintf(c.OutOrStdout(), "Ebbe is at %s (Ctrl C ends it)\n", at.url(l))
	answered := make(chan struct{})
	go func() { // what has been asked is answered before it ends
		defer close(answered)
		<-ctx.Done()
		stop, done := context.WithTimeout(context.Background(), 5*time.Second)
		defer done()
		_ = srv.Shutdown(stop)
	}()
	err = srv.Serve(l)
	cancel()
	<-answered
	<-running
	<-handed
	if errors.Is(err, http.ErrServerClosed) {
		return nil
	}
	return err
}

func importCommand() *cobra.Command {
	c := &cobra.Command{Use: "import FILE|DIR...", Short: "Takes in mail: mbox, .eml, Maildir", Args: cobra.MinimumNArgs(1)}
	data := dataFlag(c)
	place := c.Flags().String("place", "inbox", "where the mail goes: inbox or archived")
	person, team := personFlag(c), teamFlag(c)
	c.RunE = func(c *cobra.Command, paths []string) error {
		if *place != string(inbox.Inbox) && *place != string(inbox.Archived) {
			return fmt.Errorf("%q is no place to import to: use inbox or archived", *place)
		}
		s, err := open(*data)
		if err != nil {
			return err
		}
		defer s.Close()
		d := desk.New(s, &journal.SystemClock{}, false)
		if err := d.KeepTime(c.Context()); err != nil {
			return err
		}
		who, err := whose(c, d, *person, *team)
		if err != nil {
			return err
		}
		out, terminal := c.OutOrStdout(), isTerminal(os.Stdout)
		progress := func(t intake.Tally) {
			end := "\n"
			if terminal {
				end = "\r"
			}
			fmt.Fprintf(out, "%d read …%s", t.Read, end)
		}
		others := intake.Nobody
		var in intake.Taker
		if release, err := alone(*data); err == nil {
			release()
		} else if in, err = hatch.Open(c.Context(), *data, hatch.Asked{Box: who.Box, Place: inbox.Place(*place)}, progress); err != nil { // people work with it, in a program that knows no hatch
			others = intake.Elsewhere
			runtime.GOMAXPROCS(max(1, runtime.NumCPU()/2))
			in = nil
		}
		if in == nil {
			in = d.Intake.Begin(c.Context(), who.Box, intake.Options{Place: inbox.Place(*place), Others: others, Progress: progress})
		}
		tally, err := intake.Files(c.Context(), paths, in, func(_ string, err error) { fmt.Fprintln(c.ErrOrStderr(), "left out:", err) })
		fmt.Fprintf(out, "%d read, %d new, %d known, %d kept raw\n", tally.Read, tally.New, tally.Known, tally.KeptRaw)
		if n := len(tally.NoMail); n > 0 {
			names := tally.NoMail[:min(n, 20)]
			if fmt.Fprintf(out, "%d of the files hold no mail and were left where they are: %s", n, strings.Join(names, ", ")); n > len(names) {
				fmt.Fprintf(out, " and %d more", n-len(names))
			}
			fmt.Fprintln(out)
		}
		if tally.Left > 0 && err != nil {
			return fmt.Errorf("%d of the sources could not be taken in whole; all that was read is stored, run the import again once they are mended", tally.Left)
		}
		return err
	}
	return c
}

func personFlag(c *cobra.Command) *string {
	return c.Flags().String("for", "", "the address of whoever it is about, where there are several people")
}

func teamFlag(c *cobra.Command) *string {
	return c.Flags().String("team", "", "the name of the team whose mail it is")
}

// whose is whoever a command is about: a person by their address, or a team by its name.
func whose(c *cobra.Command, d *desk.Desk, person, team string) (identity.Who, error) {
	if team != "" {
		return d.WhoForTeam(c.Context(), team)
	}
	return d.WhoFor(c.Context(), person)
}

func isTerminal(f *os.File) bool {
	info, err := f.Stat()
	return err == nil && info.Mode()&os.ModeCharDevice != 0
}

func exportCommand() *cobra.Command {
	c := &cobra.Command{Use: "export", Short: "Gives all mail back, byte for byte, or all that is somebody's", Args: cobra.NoArgs}
	data := dataFlag(c)
	format := c.Flags().String("format", "mbox", "mbox (one file), eml (a folder of files), or archive (all there is besides, too, in one ZIP)")
	out := c.Flags().String("out", "", "file or folder to write; must not exist yet")
	_ = c.MarkFlagRequired("out")
	person, team := personFlag(c), teamFlag(c)
	c.RunE = func(c *cobra.Command, _ []string) error {
		s, err := open(*data)
		if err != nil {
			return err
		}
		defer s.Close()
		d := desk.New(s, &journal.SystemClock{}, false)
		who, err := whose(c, d, *person, *team)
		if err != nil {
			return err
		}
		if *format == "archive" {
			if who.Person == 0 {
				return errors.New("nobody has set Ebbe up here yet: take the mail as mbox; nothing was exported")
			}
			f, err := os.OpenFile(*out, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
			if err != nil {
				return fmt.Errorf("nothing was exported: %w", err)
			}
			if err := errors.Join(d.Leaving.Archive(c.Context(), who, f), f.Close()); err != nil {
				return err
			}
			fmt.Fprintln(c.OutOrStdout(), "All that is theirs is in", *out)
			return nil
		}
		n, err := d.Export(c.Context(), who.Box, *format, *out)
		if err == nil {
			fmt.Fprintf(c.OutOrStdout(), "%d messages are in %s\n", n, *out)
		}
		return err
	}
	return c
}

func backupCommand() *cobra.Command {
	c := &cobra.Command{Use: "backup FILE", Short: "Writes a copy of everything, while Ebbe runs, and checks it", Args: cobra.ExactArgs(1)}
	data := dataFlag(c)
	keyFile := keyFlag(c)
	withKey := c.Flags().Bool("with-key", false, "put the key of the passwords of your accounts into it: then keep the file as you would keep them")
	c.RunE = func(c *cobra.Command, args []string) error {
		if _, err := os.Stat(filepath.Join(*data, "ebbe.db")); err != nil {
			return fmt.Errorf("there is nothing in %s to make a backup of", *data)
		}
		s, err := open(*data)
		if err != nil {
			return err
		}
		defer s.Close()
		key, err := keyOf(c.Context(), s, *data, *keyFile, secrets.Find)
		if errors.Is(err, secrets.ErrNoKey) && !*withKey {
			err = nil
		}
		if err != nil {
			return err
		}
		d := desk.New(s, &journal.SystemClock{}, false)
		if err := d.Accounts.Backup(c.Context(), args[0], key, *withKey); err != nil {
			return err
		}
		if err := d.Leaving.NoteBackup(c.Context(), args[0]); err != nil {
			return fmt.Errorf("the backup is written and checked, but it could not be noted that it is there: %w", err)
		}
		contents, err := accounts.Look(c.Context(), args[0])
		if err != nil {
			return err
		}
		fmt.Fprintf(c.OutOrStdout(), "All is in %s, and was checked.\n%s\n", args[0], said(contents, key))
		return nil
	}
	return c
}

// said says whether a backup can be opened alone; key is the one that is here, if any.
func said(b backup.Contents, key secrets.Key) string {
	mail := "The mail in it can be read by whoever has it: keep it as you keep your mail. "
	switch {
	case b.WithKey:
		return mail + "It can be opened alone: the key of the accounts' passwords is in it, so whoever has it can use the accounts, too."
	case b.Sealed == 0:
		return mail + "It can be opened alone: no account's password is in it."
	case b.Print == key.Print():
		return mail + fmt.Sprintf("It cannot be opened alone: the passwords of %d accounts need the key %s, which is not in it. The key here is that one: keep it as well, or type the passwords again after a restore.", b.Sealed, b.Print)
	}
	return mail + fmt.Sprintf("It cannot be opened alone: the passwords of %d accounts need the key %s, which is not in it, and is not the one here. Without it, type them again after a restore.", b.Sealed, cmp.Or(b.Print, "of its time"))
}

func restoreCommand() *cobra.Command {
	c := &cobra.Command{Use: "restore FILE", Short: "Makes a data folder of a backup", Args: cobra.ExactArgs(1)}
	data, keyFile := dataFlag(c), keyFlag(c)
	look := c.Flags().Bool("look", false, "only say what the backup is, and whether it can be opened alone")
	c.RunE = func(c *cobra.Command, args []string) error {
		if *look {
			contents, err := accounts.Look(c.Context(), args[0])
			if err != nil {
				return err
			}
			key, err := secrets.Find(*data, *keyFile)
			if err != nil && !errors.Is(err, secrets.ErrNoKey) {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "%s is a backup of %s, of version %s: %d people, %d messages.\n%s\n", args[0], contents.Copied.Time().Local().Format("2 January 2006, 15:04"), contents.Version, contents.People, contents.Messages, said(contents, key))
			return nil
		}
		copied, withKey, err := accounts.Restore(c.Context(), args[0], *data)
		if err != nil {
			return err
		}
		with := "The key of your accounts' passwords was not in it: put ebbe.key into the folder, or type the passwords again in Accounts."
		if withKey {
			with = "The key of your accounts' passwords was in it."
		}
		fmt.Fprintf(c.OutOrStdout(), "The backup of %s is in %s. %s\nUntil its accounts have been looked at nothing goes out; what waited then is listed in Accounts.\n", copied.Time().Local().Format("2 January 2006, 15:04"), *data, with)
		return nil
	}
	return c
}

func checkCommand() *cobra.Command {
	c := &cobra.Command{Use: "check", Short: "Verifies the data folder and says what is wrong", Args: cobra.NoArgs}
	data := dataFlag(c)
	c.RunE = func(c *cobra.Command, _ []string) error {
		s, err := open(*data)
		if err != nil {
			return err
		}
		defer s.Close()
		wrong, n, err := desk.New(s, &journal.SystemClock{}, false).Check(c.Context())
		if err != nil {
			return err
		}
		if len(wrong) > 0 {
			return fmt.Errorf("%d things are wrong:\n%s", len(wrong), strings.Join(wrong, "\n"))
		}
		fmt.Fprintf(c.OutOrStdout(), "All is well: %d messages, each as it came in.\n", n)
		return nil
	}
	return c
}
