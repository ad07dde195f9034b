// Package imap is a line to the mailbox of an account (IMAP, RFC 9051 or RFC
// 3501), a file for each thing that is asked of it. A server may send so much and
// no more (guard.go).
package imap

import (
	"errors"
	"time"

	"github.com/emersion/go-imap/v2"
	"github.com/emersion/go-imap/v2/imapclient"

	"ebbe/internal/core/mail"
	"ebbe/internal/post"
)

// Selected is how a folder stands when it is opened.
type Selected struct {
	Validity uint32 // UIDVALIDITY (RFC 9051, section 2.3.1.1)
	Next     uint32 // UIDNEXT; 0 if the server does not say
	Count    uint32
	ModSeq   uint64 // HIGHESTMODSEQ (RFC 7162); 0 if the server does not keep it
}

// Mailbox is a line to the mailbox of an account (IMAP, RFC 9051 or RFC 3501).
// It is used by one goroutine at a time. What a server may send is limited in
// size, number and time; an error of the type *Excess says which limit it broke.
type Mailbox struct {
	client *imapclient.Client
	line   *post.Watched
	guard  *guard
	news   chan struct{} // something has changed in the open folder
	end    func()
	wait   time.Duration
	left   int    // folders left out, as their names cannot be read
	at     string // the open folder
	count  uint32 // of messages in it, as far as is known
	spaces spaces
}

// StepServer is the step at which a server does what no server may.
const StepServer = "server"

// op begins a command whose reply has so many bytes at most. What it returns ends
// the command, and puts in place of the error what the server did wrong.
func (m *Mailbox) op(most, largest int64) (end func(*error)) {
	m.guard.begin(most, largest, 10*m.wait)
	stop := m.line.Watch(m.wait)
	return func(err *error) {
		stop()
		if wrong := m.guard.wrong(); wrong != nil && *err != nil {
			*err = wrong
		}
	}
}

// Said gives what a server answered where it refused a command (RFC 9051, section
// 7.1.2); false if the error is another one.
func Said(err error) (text string, no bool) {
	var refusal *imap.Error
	if errors.As(err, &refusal) && refusal.Type == imap.StatusResponseTypeNo {
		return mail.Clean(refusal.Text, 200), true
	}
	return "", false
}

// Close ends the line.
func (m *Mailbox) Close() {
	patience := time.AfterFunc(time.Second, m.end)
	_ = m.client.Logout().Wait()
	patience.Stop()
	m.end()
}

// LeftOut is how many folders were left out when they were last listed, as their
// names cannot be read.
func (m *Mailbox) LeftOut() int { return m.left }

// At is the folder that is open; "" if none is.
func (m *Mailbox) At() string { return m.at }

// Select opens a folder.
func (m *Mailbox) Select(name string) (s Selected, err error) {
	defer m.op(maxReply, 0)(&err)
	m.at = ""
	d, err := m.client.Select(name, &imap.SelectOptions{CondStore: m.client.Caps().Has(imap.CapCondStore)}).Wait()
	if err != nil {
		return s, err
	}
	m.at, m.count = name, d.NumMessages
	return Selected{d.UIDValidity, uint32(d.UIDNext), d.NumMessages, d.HighestModSeq}, nil
}
