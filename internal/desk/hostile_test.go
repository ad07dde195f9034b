package desk

import (
	"bufio"
	"context"
	"fmt"
	"io"
	"net"
	"runtime"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/mail"
	"ebbe/internal/desk/accounts"
	"ebbe/internal/post"
	"ebbe/internal/post/imap"
	"ebbe/internal/store"
)

// tricky is a mailbox server that plays by a script: what it answers to a command
// instead of what is right, for as long as the line holds.
type tricky struct {
	mode func(w io.Writer, tag, command, rest string) bool // true: it has answered
	lies func(c net.Conn) bool                             // at the beginning of a line; true: nothing more is to come
}

const small = "From: Jonas <jonas@x.example>\r\nTo: solvei@m.example\r\nSubject: Crate\r\nMessage-ID: <crate@x>\r\n\r\nIt is here.\r\n"

func (s tricky) serve(c net.Conn) {
	defer c.Close()
	if s.lies != nil && s.lies(c) {
		return
	}
	fmt.Fprint(c, "* OK [CAPABILITY IMAP4rev1] hello\r\n")
	in := bufio.NewReader(c)
	for {
		line, err := in.ReadString('\n')
		if err != nil {
			return
		}
		tag, rest, _ := strings.Cut(strings.TrimSpace(line), " ")
		command, args, _ := strings.Cut(rest, " ")
		if command == "UID" {
			sub, more, _ := strings.Cut(args, " ")
			command, args = "UID "+sub, more
		}
		if s.mode != nil && s.mode(c, tag, command, args) {
			continue
		}
		switch command {
		case "CAPABILITY":
			fmt.Fprint(c, "* CAPABILITY IMAP4rev1\r\n")
		case "LIST":
			fmt.Fprint(c, "* LIST () \"/\" INBOX\r\n")
		case "SELECT":
			fmt.Fprint(c, "* 1 EXISTS\r\n* OK [UIDVALIDITY 7] ok\r\n* OK [UIDNEXT 2] ok\r\n")
		case "UID SEARCH":
			fmt.Fprint(c, "* SEARCH 1\r\n")
		case "UID FETCH":
			if strings.Contains(args, "RFC822.SIZE") && !strings.Contains(args, "BODY") {
				fmt.Fprintf(c, "* 1 FETCH (UID 1 RFC822.SIZE %d)\r\n", len(small))
			} else if strings.Contains(args, "HEADER") {
				fmt.Fprintf(c, "* 1 FETCH (UID 1 FLAGS () RFC822.SIZE 99 BODY[HEADER]<0> {%d}\r\n%s)\r\n", len("Subject: head\r\n\r\n"), "Subject: head\r\n\r\n")
			} else if strings.Contains(args, "BODY") {
				fmt.Fprintf(c, "* 1 FETCH (UID 1 FLAGS () INTERNALDATE \"24-Nov-2026 09:00:00 +0000\" BODY[] {%d}\r\n%s)\r\n", len(small), small)
			} else {
				fmt.Fprint(c, "* 1 FETCH (UID 1 FLAGS ())\r\n")
			}
		case "LOGOUT":
			fmt.Fprintf(c, "* BYE\r\n%s OK\r\n", tag)
			return
		}
		if _, err := fmt.Fprintf(c, "%s OK done\r\n", tag); err != nil {
			return
		}
	}
}

// forever writes a text again and again until the line ends.
func forever(w io.Writer, text string) bool {
	chunk := []byte(strings.Repeat(text, 1+64<<10/len(text)))
	for {
		if _, err := w.Write(chunk); err != nil {
			return true
		}
	}
}

func on(command, in string, f func(w io.Writer, tag string)) func(io.Writer, string, string, string) bool {
	return func(w io.Writer, tag, c, rest string) bool {
		if c != command || !strings.Contains(rest, in) {
			return false
		}
		f(w, tag)
		return true
	}
}

// Servers that are hostile or broken: each costs no more memory and time than it
// may, says in a sentence what is wrong, and what of it can be had comes in.
func TestHostileServers(t *testing.T) {
	slow := func(c net.Conn) bool { // a byte now and then, without end
		for {
			if _, err := c.Write([]byte("x")); err != nil {
				return true
			}
			time.Sleep(20 * time.Millisecond) // this is what the server does, not what the test waits for
		}
	}
	excess := "does what no mailbox server may"
	for name, c := range map[string]struct {
		s    tricky
		says string // in the trouble of the account; empty: any
		gets string // subject of what comes in all the same
	}{
		"says nothing":                {tricky{lies: func(c net.Conn) bool { _, _ = io.Copy(io.Discard, c); return true }}, "", ""},
		"ends at once":                {tricky{lies: func(c net.Conn) bool { return true }}, "", ""},
		"a greeting without end":      {tricky{lies: func(c net.Conn) bool { return forever(c, "* OK x") }}, "", ""},
		"greetings without end":       {tricky{lies: func(c net.Conn) bool { return forever(c, "* OK hello\r\n") }}, "", ""},
		"a byte now and then":         {tricky{lies: slow}, "", ""},
		"zero bytes":                  {tricky{lies: func(c net.Conn) bool { return forever(c, "\x00\xff\x00") }}, "", ""},
		"capabilities without end":    {tricky{mode: on("CAPABILITY", "", func(w io.Writer, _ string) { fmt.Fprint(w, "* CAPABILITY "); forever(w, "A ") })}, "", ""},
		"folders without end":         {tricky{mode: on("LIST", "", func(w io.Writer, _ string) { forever(w, "* LIST () \"/\" Folder\r\n") })}, excess, ""},
		"a folder's name without end": {tricky{mode: on("LIST", "", func(w io.Writer, _ string) { fmt.Fprint(w, "* LIST () \"/\" \""); forever(w, "x") })}, excess, ""},
		"a folder's name of 4 GB":     {tricky{mode: on("LIST", "", func(w io.Writer, _ string) { fmt.Fprint(w, "* LIST () \"/\" {4294967296}\r\n"); forever(w, "x") })}, excess, ""},
		"names that are none": {tricky{mode: on("LIST", "", func(w io.Writer, tag string) {
			fmt.Fprintf(w, "* LIST () \"/\" \"A&??-\"\r\n* LIST () \"/\" \"B&AGE\"\r\n* LIST () \"/\" \"C\xff\"\r\n* LIST () \"/\" INBOX\r\n%s OK\r\n", tag)
		})}, "3 folders cannot be read", "Crate"},
		"all UIDs there can be": {tricky{mode: on("UID SEARCH", "", func(w io.Writer, tag string) {
			fmt.Fprintf(w, "* ESEARCH (TAG \"%s\") UID ALL 1:4294967294\r\n%s OK\r\n", tag, tag)
		})}, excess, ""},
		"UIDs without end":          {tricky{mode: on("UID SEARCH", "", func(w io.Writer, _ string) { fmt.Fprint(w, "* SEARCH"); forever(w, " 7") })}, excess, ""},
		"lists of UIDs without end": {tricky{mode: on("UID SEARCH", "", func(w io.Writer, _ string) { forever(w, "* SEARCH 1 2 3\r\n") })}, excess, ""},
		"a UID that is a star":      {tricky{mode: on("UID SEARCH", "", func(w io.Writer, tag string) { fmt.Fprintf(w, "* SEARCH 1:*\r\n%s OK\r\n", tag) })}, excess, ""},
		"news without end":          {tricky{mode: on("SELECT", "", func(w io.Writer, _ string) { forever(w, "* 5 EXISTS\r\n") })}, excess, ""},
		"very many messages, it says": {tricky{mode: on("SELECT", "", func(w io.Writer, tag string) {
			fmt.Fprintf(w, "* 4294967295 EXISTS\r\n* OK [UIDVALIDITY 7] ok\r\n* OK [UIDNEXT 4294967295] ok\r\n%s OK\r\n", tag)
		})}, "", "Crate"},
		"a folder that cannot be opened": {tricky{mode: on("SELECT", "", func(w io.Writer, tag string) { fmt.Fprintf(w, "%s NO it is broken\r\n", tag) })}, "", ""},
		"a message of 4 GB that does come": {tricky{mode: on("UID FETCH", "BODY.PEEK[]", func(w io.Writer, _ string) {
			fmt.Fprint(w, "* 1 FETCH (UID 1 BODY[] {4294967296}\r\n")
			forever(w, "x")
		})}, "", "head"},
		"a message of 4 GB, it says": {tricky{mode: on("UID FETCH", "(UID RFC822.SIZE)", func(w io.Writer, tag string) {
			fmt.Fprintf(w, "* 1 FETCH (UID 1 RFC822.SIZE 4294967290)\r\n%s OK\r\n", tag)
		})}, "", "head"},
		"a message that never ends":    {tricky{mode: on("UID FETCH", "BODY.PEEK[]", func(w io.Writer, _ string) { fmt.Fprint(w, "* 1 FETCH (UID 1 BODY[] {100000}\r\nhalf") })}, "", ""},
		"messages nobody asked for":    {tricky{mode: on("UID FETCH", "BODY.PEEK[]", func(w io.Writer, _ string) { forever(w, "* 9 FETCH (UID 9 BODY[] {10}\r\n0123456789)\r\n") })}, "", ""},
		"lists in lists":               {tricky{mode: on("UID FETCH", "", func(w io.Writer, _ string) { fmt.Fprint(w, "* 1 FETCH "); forever(w, "(") })}, "", ""},
		"answers to what nobody asked": {tricky{mode: on("UID FETCH", "", func(w io.Writer, _ string) { forever(w, "Z9 OK done\r\n") })}, "", ""},
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			l, err := net.Listen("tcp", "127.0.0.1:0")
			require.NoError(t, err)
			defer l.Close()
			go func() {
				for {
					conn, err := l.Accept()
					if err != nil {
						return
					}
					go c.s.serve(conn)
				}
			}()
			f := newOffice(t, store.Options{})
			f.Connect(accounts.Links{Network: post.Network{Dial: (&net.Dialer{}).DialContext, Patience: 300 * time.Millisecond}})
			v := account
			v.Mailbox = mail.Server{Host: "127.0.0.1", Port: l.Addr().(*net.TCPAddr).Port, Security: mail.Clear}
			_, err = f.Accounts.Put(ctx, f.who, "", v)
			require.NoError(t, err)
			a := (&posted{office: f}).account(t)
			said := ""
			for range 4 { // as the line is kept: again and again
				err := f.Mail.Pass(ctx, a, nil, false)
				f.Mail.NoteTrouble(ctx, a, err)
				if a = (&posted{office: f}).account(t); err == nil {
					break
				}
				said += " " + a.Trouble
			}
			require.Contains(t, said+" "+a.Trouble, c.says)
			if c.gets != "" {
				q := f.queue(t)
				require.Len(t, q, 1)
				require.Equal(t, c.gets, q[0].Subject)
			}
			f.sound(t)
		})
	}
}

// The memory that all of them take together stays within bounds, and the end of
// the program ends every line at once.
func TestHostileServersTakeNoMemoryAndNoTimeAtTheEnd(t *testing.T) {
	rest := resident()
	var most atomic.Uint64
	watching, stop := context.WithCancel(ctx)
	watched := make(chan struct{})
	go func() {
		defer close(watched)
		tick := time.NewTicker(5 * time.Millisecond)
		defer tick.Stop()
		for watching.Err() == nil {
			most.Store(max(most.Load(), resident()))
			<-tick.C
		}
	}()
	for _, s := range []tricky{
		{mode: on("UID SEARCH", "", func(w io.Writer, tag string) {
			fmt.Fprintf(w, "* ESEARCH (TAG \"%s\") UID ALL 1:1900000\r\n%s OK\r\n", tag, tag)
			_ = w.(net.Conn).Close()
		})},
		{mode: on("UID FETCH", "BODY.PEEK[]", func(w io.Writer, _ string) {
			fmt.Fprintf(w, "* 1 FETCH (UID 1 BODY[] {%d}\r\n", imap.MaxFetched)
			forever(w, "x")
		})},
		{mode: on("LIST", "", func(w io.Writer, _ string) { fmt.Fprint(w, "* LIST () \"/\" \""); forever(w, "x") })},
		{lies: func(c net.Conn) bool { _, _ = io.Copy(io.Discard, c); return true }},
	} {
		l, err := net.Listen("tcp", "127.0.0.1:0")
		require.NoError(t, err)
		played := make(chan struct{}, 100) // to the end; one that says nothing has no end
		go func() {
			for {
				conn, err := l.Accept()
				if err != nil {
					return
				}
				if s.lies != nil {
					played <- struct{}{}
				}
				go func() { s.serve(conn); played <- struct{}{} }()
			}
		}()
		f := newOffice(t, store.Options{})
		f.Connect(accounts.Links{Network: post.Network{Dial: (&net.Dialer{}).DialContext, Patience: time.Minute}})
		v := account
		v.Mailbox = mail.Server{Host: "127.0.0.1", Port: l.Addr().(*net.TCPAddr).Port, Security: mail.Clear}
		_, err = f.Accounts.Put(ctx, f.who, "", v)
		require.NoError(t, err)
		running, end := context.WithCancel(ctx)
		over := make(chan struct{})
		go func() { f.Run(running); close(over) }()
		<-played
		end()
		select {
		case <-over:
		case <-time.After(30 * time.Second):
			t.Fatal("the end of the program waits for a server")
		}
		require.NoError(t, l.Close())
	}
	stop()
	<-watched
	require.Less(t, most.Load(), rest+150<<20, "%d MB above rest", (most.Load()-rest)>>20)
}

// resident is how much memory the program holds.
func resident() uint64 {
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	return m.Sys - m.HeapReleased
}
