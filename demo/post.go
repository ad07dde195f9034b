package demo

import (
	"cmp"
	"context"
	"fmt"
	"hash/fnv"
	netsmtp "net/smtp"
	"slices"
	"strings"
	"time"

	"github.com/emersion/go-imap/v2"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/desk"
	"ebbe/internal/desk/accounts"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/post/mime"
	"ebbe/internal/post/office"
	"ebbe/internal/post/smtp"
	"ebbe/internal/secrets"
)

// ours are the reader's two, as the post office keeps them.
var ours = []struct {
	who             person
	name, secret    string
	signature       string
	mailbox, sender string
}{
	{solvei, "Museum", "low-tide-1897", "Solvei Arnkvist\nExhibitions · Skagvik Tide Museum", "imap.skagvikmuseum.example", "smtp.skagvikmuseum.example"},
	{singer, "Choir", "alto-two", "Solvei", "imap.skagvikchoir.example", "smtp.skagvikchoir.example"},
}

// Office opens the museum's post office and the telephone exchange, which are kept in the folder dir,
// lets its correspondents answer, and links the desk to both. All mail of the demo comes from there, as
// mail comes to anybody.
func Office(d *desk.Desk, clock *journal.SystemClock, dir string) (*Town, error) {
	o, err := office.Open(dir, clock.Now)
	if err != nil {
		return nil, err
	}
	for _, a := range ours {
		o.AddAccount(a.who.address, a.secret)
	}
	o.AddAccount(lending.address, lendingSecret)
	if err := o.Start(); err != nil {
		return nil, fmt.Errorf("the demo's post office cannot listen: %w", err)
	}
	o.Hear(func(a office.Accepted) { answer(o, clock.Now(), a, nil) })
	key, err := secrets.Load(dir, "")
	if err != nil {
		_ = o.Close()
		return nil, err
	}
	x, err := ring(d, clock.Now, dir)
	if err != nil {
		_ = o.Close()
		return nil, fmt.Errorf("the demo's telephone exchange cannot begin: %w", err)
	}
	t := &Town{o, x}
	d.Connect(accounts.Links{Key: key, World: t,
		Network: post.Network{Dial: o.Dial, Web: t.web, LookupSRV: o.LookupSRV, Roots: o.Roots(), Patience: 20 * time.Second}})
	return t, nil
}

// Inside is the host of the addresses into Ebbe.
const Inside = "in.ebbe.example"

// TakeMail opens the demo's way in for mail to the addresses into Ebbe, which
// its post office brings there.
func TakeMail(d *desk.Desk, o *Town, clock *journal.SystemClock) (*smtp.Listener, error) {
	l, err := smtp.Listen("127.0.0.1:0", Inside, clock.Now, d.Inward)
	if err != nil {
		return nil, err
	}
	d.Inward.TakeMailAt(Inside)
	o.Hear(func(a office.Accepted) {
		answer(o.Office, clock.Now(), a, func(to string) error { return netsmtp.SendMail(l.Addr, nil, a.From, []string{to}, a.Raw) })
	})
	return l, nil
}

// connect gives the reader's accounts to the desk, as Setup does.
func connect(ctx context.Context, d *desk.Desk, who identity.Who) error {
	for _, a := range ours {
		_, err := d.Accounts.Put(ctx, who, "", accounts.AccountDraft{Name: a.name, Address: a.who.address, FullName: a.who.name, Signature: a.signature, Secret: a.secret,
			Mailbox: mail.Server{Host: a.mailbox, Port: 993, Security: mail.TLS}, Sending: mail.Server{Host: a.sender, Port: 465, Security: mail.TLS},
			Carries: inbox.AllCarried})
		if err != nil {
			return err
		}
	}
	return nil
}

// account is the address of the account a message belongs to.
func (m message) account() string {
	for _, p := range slices.Concat([]person{m.from}, m.to, m.cc) {
		if p == choir || p == singer {
			return singer.address
		}
		if p == lending {
			return lending.address
		}
	}
	return solvei.address
}

// put lays messages into the post office: the reader's own into the sent mail,
// the others into the folder named.
func put(o *office.Office, folder string, messages ...message) {
	for _, m := range messages {
		switch {
		case m.from == solvei || m.from == singer:
			o.Put(m.account(), office.Sent, m.at, m.bytes(), imap.FlagSeen)
		case folder == office.Inbox:
			o.Put(m.account(), folder, m.at, m.bytes())
		default:
			o.Put(m.account(), folder, m.at, m.bytes(), imap.FlagSeen)
		}
	}
}

// script is how a correspondent answers mail.
type script struct {
	after     time.Duration // of office hours; 0: never by themselves
	says      []string      // one of them, for a question
	noted     string        // one of them for what asks nothing; empty: no answer
	automatic string        // at once, by a machine
}

// scripts are what the correspondents do when they are written to. Whoever is
// not here keeps silent.
var scripts = map[person]script{
	mirela: {after: 40 * time.Minute, says: []string{"Yes, that works for us. I will tell the workshop.", "I have to ask the driver, but I think so. Count on it.", "Wednesday is better, if it is all the same to you."},
		noted: "Noted, thank you. The workshop has it."},
	tomasz:  {after: 20 * time.Minute, says: []string{"Yes. I will see to it before we open.", "No, the blind has to come first. Tomorrow then.", "148. I measured it twice."}, noted: "Good."},
	jonas:   {after: 2 * time.Hour, says: []string{"I looked it up: yes, and the paper is in the loan file.", "Give me until tomorrow noon, the insurer has not answered me either.", "Yes. Please send me a copy."}},
	halvard: {after: 3 * time.Hour, says: []string{"I am glad you ask. Yes, I agree, and I will sign it so.", "Let me think about it until the weekend.", "The second version, if I may choose."}, noted: "Thank you. I have put it with the agreement."},
	ilse:    {after: 26 * time.Hour, says: []string{"our conservator agrees, under the condition that the case stays closed.", "may I come back to you next week? The person who knows is travelling."}},
	oona:    {after: 25 * time.Minute, says: []string{"Done, it is booked. The papers follow by post.", "There were two left; I took both."}, noted: "Thank you, I have noted it."},
	kestrel: {after: 90 * time.Minute, says: []string{"Yes, we can still change that, until six this evening.", "The second proof follows tomorrow morning."}, noted: "It is on its way to the press."},
	school:  {after: 5 * time.Hour, says: []string{"Yes, that suits the class. We are thirty-four."}},
	harbour: {after: 20 * time.Hour, says: []string{"the permit has been changed as you asked. Please bring this message with you."},
		automatic: "Your message has reached the Town Harbour Office. Messages are answered in the order in which they come, as a rule within two working days."},
	priya:  {automatic: "I am on holiday and read no mail. For school groups please write to the front desk; anything else I will answer when I am back."},
	roofer: {},
	ragna:  {after: 4 * time.Hour, says: []string{"Lovely, yes! See you on Thursday."}},
}

// unknown are domains whose mail server answers, and knows nobody.
const unknown = "lighthouse-trust.example"

// answer lets correspondents answer a message that has been sent to them. What
// goes to an address into Ebbe is brought there by inside.
func answer(o *office.Office, now time.Time, a office.Accepted, inside func(to string) error) {
	if a.From == "" { // an automatic answer is answered by nobody (RFC 3834, section 2)
		return
	}
	loc, err := time.LoadLocation(Zone)
	if err != nil {
		return
	}
	now = now.In(loc)
	b := mime.Read(a.Raw)
	words, _, _ := strings.Cut(b.Text, "\n> ")
	for _, to := range a.To {
		_, domain, _ := strings.Cut(to, "@")
		why := ""
		if domain == unknown || strings.HasPrefix(to, "nobody") {
			why = "there is no mailbox of that name here"
		} else if domain == Inside && inside != nil {
			if err := inside(to); err != nil {
				why = err.Error()
			}
		}
		if why != "" {
			o.Plan(a.From, now.Add(time.Minute), undelivered(now.Add(time.Minute), a.From, to, why, b.Message))
			continue
		}
		i := slices.IndexFunc(b.To, func(p mail.Address) bool { return p.Address == to })
		if i < 0 {
			continue // only whoever is asked answers
		}
		for who, s := range scripts {
			if who.address != to {
				continue
			}
			reply := message{from: who, to: []person{{b.From.Name, b.From.Address}}, subject: "Re: " + mail.Title(b.Subject), refs: append(slices.Clone(b.References), b.MessageID)}
			if s.automatic != "" {
				m := reply
				m.at, m.text = now.Add(time.Minute), s.automatic+"\n"
				m.subject = "Automatic answer: " + mail.Title(b.Subject)
				m.headers = []string{"Auto-Submitted: auto-replied"}
				m.id = fmt.Sprintf("auto.%08x@mail.example", sum(b.MessageID+to))
				o.Plan(a.From, m.at, m.bytes())
			}
			text := s.noted
			if strings.Contains(words, "?") && len(s.says) > 0 {
				text = s.says[sum(b.MessageID)%uint32(len(s.says))]
			}
			if s.after == 0 || text == "" || a.From == lending.address { // what is answered to the team stands with its mail
				continue
			}
			reply.at = worked(now, s.after)
			reply.id = fmt.Sprintf("answer.%08x@mail.example", sum(b.MessageID+to))
			first, _, _ := strings.Cut(who.name, " ")
			reply.text = fmt.Sprintf("Dear Solvei,\n\n%s\n\n%s\n\nOn %s, %s wrote:\n%s", text, first, now.Format("2 January 2006"), cmp.Or(b.From.Name, b.From.Address), quote(words))
			o.Plan(a.From, reply.at, reply.bytes())
		}
	}
}

func sum(s string) uint32 {
	h := fnv.New32a()
	_, _ = h.Write([]byte(s))
	return h.Sum32()
}

// worked is when so much time has passed, but not in the night: people answer
// from eight to six.
func worked(now time.Time, after time.Duration) time.Time {
	at := now.Add(after)
	switch {
	case at.Hour() < 8:
		at = time.Date(at.Year(), at.Month(), at.Day(), 8, 10+at.Minute()/2, 0, 0, at.Location())
	case at.Hour() >= 18:
		at = time.Date(at.Year(), at.Month(), at.Day()+1, 8, 10+at.Minute()/2, 0, 0, at.Location())
	}
	return at
}

// undelivered is the report that a message has reached nobody (RFC 3464).
func undelivered(at time.Time, from, to, why string, m mail.Message) []byte {
	boundary := fmt.Sprintf("report-%08x", sum(m.MessageID+to))
	_, host, _ := strings.Cut(to, "@")
	status := "5.1.1" // no such mailbox (RFC 3463, section 3.2)
	if host == Inside {
		status = "5.1.3" // an address of a form that is not right
	}
	lines := []string{
		"From: Mail system <" + mailer.address + ">", "To: <" + from + ">", "Subject: Undelivered: " + mail.Title(m.Subject), "Date: " + at.Format("Mon, 02 Jan 2006 15:04:05 -0700"),
		"Message-ID: <" + boundary + "@mail.example>", "In-Reply-To: <" + m.MessageID + ">", "References: <" + m.MessageID + ">", "Auto-Submitted: auto-replied", "MIME-Version: 1.0",
		"Content-Type: multipart/report; report-type=delivery-status; boundary=" + boundary, "",
		"--" + boundary, "Content-Type: text/plain; charset=utf-8", "", "Your message to", "", "    " + to, "", "could not be delivered: " + why + ".",
		"--" + boundary, "Content-Type: message/delivery-status", "", "Reporting-MTA: dns; post.skagvik.example", "",
		"Final-Recipient: rfc822; " + to, "Action: failed", "Status: " + status, "Remote-MTA: dns; mail." + host, "Diagnostic-Code: smtp; 550 " + status + " " + why,
		"--" + boundary, "Content-Type: text/rfc822-headers", "", "Message-ID: <" + m.MessageID + ">", "",
		"--" + boundary + "--", "",
	}
	return []byte(strings.Join(lines, "\r\n"))
}
