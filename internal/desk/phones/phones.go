// Package phones is about text messages: the telephone lines of a box, what their gateways say,
// and whose number is whose. What comes in by a line is a message like any other, from an address
// that stands for a number.
package phones

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	netmail "net/mail"
	"strings"
	"sync"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/say"
	"ebbe/internal/core/texting"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/outbox"
	"ebbe/internal/post"
	"ebbe/internal/post/mime"
	"ebbe/internal/post/texts"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
	"ebbe/internal/store/phoning"
	"ebbe/internal/store/sending"
)

// mostLines are those of one box.
const mostLines = 20

// Desk is where texts are looked after. Seal and Provider are set before a line is used.
type Desk struct {
	Journal *journal.Journal
	Intake  *intake.Intake
	Sending *outbox.Outbox

	Seal     func(secret string) []byte                        // nil: there is no network
	Provider func(a mailboxes.Account) (texts.Provider, error) // who carries the texts of a line

	store  *store.Store
	coming sync.Mutex // held while texts are taken in, so that none is twice
}

// New makes a desk over a store.
func New(s *store.Store, j *journal.Journal, in *intake.Intake, out *outbox.Outbox) *Desk {
	return &Desk{Journal: j, Intake: in, Sending: out, store: s}
}

// HookPath is where the gateway of a line speaks to Ebbe.
func HookPath(a mailboxes.Account) string { return "/text/" + a.Hook }

func viewOf(a mailboxes.Account) PhoneLine {
	return PhoneLine{ID: a.ID, Name: a.Name, FullName: a.FullName, Line: *a.Line, Says: a.Line.Number.Say(), Hook: HookPath(a), Paused: a.Paused, Secret: len(a.Secret) > 0}
}

// Lines gives the telephone lines of the box somebody works in.
func (d *Desk) Lines(ctx context.Context, who identity.Who) (out PhoneLines, err error) {
	out = PhoneLines{Lines: []PhoneLine{}, Usual: texting.Usual()}
	err = d.store.Read(ctx, func(t store.Tx) error {
		lines, err := mailboxes.Accounts(t).Lines(who.Box)
		for _, a := range lines {
			v := viewOf(a)
			if who.May(together.Serve) != nil { // who may set it up needs to know it
				v.Hook = ""
			}
			out.Lines = append(out.Lines, v)
		}
		return err
	})
	return out, err
}

// Put stores a line, new or changed. It returns *problem.Error.
func (d *Desk) Put(ctx context.Context, who identity.Who, key string, v PhoneDraft) (out PhoneLine, err error) {
	if err := who.May(together.Serve); err != nil {
		return out, err
	}
	if d.Seal == nil {
		return out, &problem.Error{Type: "unlinked", Text: "This Ebbe was started without access to the network, so telephone lines cannot be used."}
	}
	l := v.Line
	if l.Number, err = texting.ReadNumber(string(l.Number), v.Region); err != nil {
		return out, problem.Invalid("number", "Nothing was saved: "+err.Error()+".")
	}
	if l.Stops == nil {
		l.Stops = texting.StopWords{}
	}
	if err := l.Valid(); err != nil {
		return out, problem.Invalid("gateway", "Nothing was saved: "+err.Error()+".")
	}
	v.Name, v.FullName = strings.TrimSpace(v.Name), strings.TrimSpace(v.FullName)
	switch {
	case v.ID == 0 && v.Secret == "":
		return out, problem.Invalid("secret", "Nothing was saved: the secret of the gateway is missing.")
	case len(v.Name) > 100 || len(v.FullName) > 200 || len(v.Secret) > 8000:
		return out, problem.Invalid("name", "Nothing was saved: a name has room for 100 letters.")
	}
	if v.Name == "" {
		v.Name = l.Number.Say()
	}
	out, _, err = journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out PhoneLine, err error) {
		lines, err := mailboxes.Accounts(t).Lines(who.Box)
		if err != nil {
			return out, err
		}
		a := mailboxes.Account{BoxID: who.Box, PersonID: who.Keeper(), Begun: d.Journal.Now(), Hook: rand.Text()}
		for _, other := range lines {
			if other.ID == v.ID {
				a = other
			} else if other.Line.Number == l.Number {
				return out, problem.Invalid("number", "Nothing was saved: there is a line of that number already. Change that one.")
			}
		}
		switch {
		case v.ID != 0 && a.ID == 0:
			return out, store.ErrNotFound
		case v.ID == 0 && len(lines) >= mostLines:
			return out, problem.Invalid("number", fmt.Sprintf("Nothing was saved: a box has %d lines at most.", mostLines))
		case a.ID != 0 && v.Secret == "" && texting.PlaceOf(a.Line.Gateway) != texting.PlaceOf(l.Gateway):
			return out, problem.Invalid("secret", "Nothing was saved: the secret was stored for another gateway, and is sent nowhere else. Type it again.")
		}
		a.Name, a.FullName, a.Paused, a.Line, a.Address = v.Name, v.FullName, v.Paused, &l, l.Number.Address()
		a.Sending = mail.Server{Host: texting.PlaceOf(l.Gateway).Host}
		if v.Secret != "" {
			a.Secret = d.Seal(v.Secret)
		}
		if err := mailboxes.Accounts(t).PutAccount(&a); err != nil {
			return out, err
		}
		out = viewOf(a)
		own, err := intake.OwnAddresses(t, who.Box)
		if err != nil || own[a.Address] {
			return out, err
		}
		p, err := store.People(t).PersonByID(who.Keeper())
		if err != nil {
			return out, err
		}
		return out, store.People(t).PutPerson(&p, who.Box, []store.OwnAddress{{Address: a.Address, Account: a.Name}})
	})
	return out, d.Journal.Announced(who.Box, journal.TopicAccounts, err)
}

// Drop removes a line. Its texts stay.
func (d *Desk) Drop(ctx context.Context, who identity.Who, id int64) error {
	if err := who.May(together.Serve); err != nil {
		return err
	}
	err := d.store.Write(ctx, func(t store.Tx) error {
		a, err := mailboxes.Accounts(t).Account(who.Box, id)
		if err != nil || a.Line == nil {
			return errors.Join(err, notALine(a))
		}
		return mailboxes.Accounts(t).DropAccount(id)
	})
	return d.Journal.Announced(who.Box, journal.TopicAccounts, err)
}

func notALine(a mailboxes.Account) error {
	if a.Line == nil {
		return store.ErrNotFound
	}
	return nil
}

// ErrPaused is why nothing is taken in by a line.
var ErrPaused = &problem.Error{Type: "paused", Text: "This line is paused. Say it again later."}

// Heard takes in what the gateway of a line says at its address: texts, and what has become of those
// that were sent. What was said before does nothing. It returns store.ErrNotFound where there is no
// such address, texts.ErrUnsigned, ErrPaused, and *problem.Error with what cannot be read.
func (d *Desk) Heard(ctx context.Context, hook string, header http.Header, body []byte) error {
	var a mailboxes.Account
	err := d.store.Read(ctx, func(t store.Tx) (err error) { a, err = mailboxes.Accounts(t).ByHook(hook); return err })
	if err != nil {
		return err
	}
	if d.Provider == nil || a.Paused {
		return ErrPaused
	}
	p, err := d.Provider(a)
	if err != nil {
		return err
	}
	heard, err := p.Hear(header, body, d.Journal.Now())
	if errors.Is(err, texts.ErrUnsigned) {
		slog.Warn("what came in for a telephone line was not signed by its gateway", "account", a.ID, "box", a.BoxID)
		return err
	}
	if err != nil {
		return problem.Invalid("", say.Upper(err.Error())+".")
	}
	if err := d.takeIn(ctx, a, heard.Texts); err != nil {
		return err
	}
	return d.Sending.Told(ctx, a.BoxID, a.ID, heard.Receipts)
}

// MessageID is that of a text that has come in by the line of that number, by the ID its gateway has
// given it: so it is known again.
func MessageID(line texting.Number, id string) string {
	sum := sha256.Sum256([]byte(fmt.Sprintf("%s\n%s", line, id)))
	return hex.EncodeToString(sum[:16]) + "@text.invalid"
}

// arrived is a text that has just come in.
type arrived struct {
	texts.Came
	from    mail.Address
	answers bool // it can be answered
	message string
}

// takeIn takes in the texts of a line that are not here yet, and does what they ask for.
func (d *Desk) takeIn(ctx context.Context, a mailboxes.Account, came []texts.Came) error {
	d.coming.Lock()
	defer d.coming.Unlock()
	now := d.Journal.Now()
	var fresh []arrived
	err := d.store.Read(ctx, func(t store.Tx) error {
		fresh = nil
		var ids []string
		for _, c := range came {
			ids = append(ids, MessageID(a.Line.Number, c.ID))
		}
		seen, err := phoning.Numbers(t).Here(a.BoxID, ids)
		if err != nil {
			return err
		}
		for _, c := range came {
			if to, err := texting.ReadNumber(c.To, a.Line.Number.Region()); c.To != "" && (err != nil || to != a.Line.Number) {
				continue // another line of the same gateway
			}
			x := arrived{Came: c, message: MessageID(a.Line.Number, c.ID)}
			if x.At == 0 || x.At > now {
				x.At = now
			}
			if _, known := seen[x.message]; known {
				continue
			}
			seen[x.message] = false
			x.from, x.answers = texting.Sender(c.From, a.Line.Number.Region())
			if n, ok := texting.NumberOf(x.from.Address); ok {
				known, err := phoning.Numbers(t).Of(a.BoxID, n)
				if err != nil {
					return err
				}
				if known.Name != "" {
					x.from.Name = known.Name
				}
			}
			fresh = append(fresh, x)
		}
		return nil
	})
	if err != nil || len(fresh) == 0 {
		return err
	}
	for _, x := range fresh {
		if err := d.obey(ctx, a, x); err != nil {
			return err
		}
	}
	in := d.Intake.Begin(ctx, a.BoxID, intake.Options{Place: inbox.Inbox, Arrived: true})
	for _, x := range fresh {
		raw, err := mime.Compose(mime.Letter{MessageID: x.message, Date: x.At.Time().UTC(), From: x.from, To: []mail.Address{{Name: a.FullName, Address: a.Address}},
			Subject: texting.Subject(x.from), References: []string{texting.Root(a.Line.Number, x.from)}, Text: x.Text})
		if err != nil {
			return err
		}
		if !x.answers { // a machine
			raw = append([]byte("Auto-Submitted: auto-generated\r\n"), raw...)
		}
		if err := in.Add(post.Item{Raw: raw}); err != nil {
			return err
		}
	}
	if _, err := in.Close(); err != nil {
		return err
	}
	for _, x := range fresh {
		if err := d.answer(ctx, a, x); err != nil {
			slog.Error("a text that came in could not be answered by itself", "account", a.ID, "box", a.BoxID, "error", err)
		}
	}
	d.Sending.Stir()
	return nil
}

// obey does what a text asks for by one word: no more texts, or texts again. It comes before the text
// is taken in, so that one which is said again after a crash is still done.
func (d *Desk) obey(ctx context.Context, a mailboxes.Account, x arrived) error {
	number, ok := texting.NumberOf(x.from.Address)
	wish := a.Line.Stops.Wish(x.Text)
	if !ok || wish == texting.Nothing {
		return nil
	}
	return d.store.Write(ctx, func(t store.Tx) error {
		now := d.Journal.Now()
		known, err := phoning.Numbers(t).Of(a.BoxID, number)
		if err != nil || (wish == texting.Stop) == (known.Stopped != 0) {
			return err
		}
		if known.Stopped = 0; wish == texting.Stop {
			if text := strings.TrimSpace(a.Line.Stopped); text != "" { // the last that goes there
				known.Answered = now
				if err := d.queue(t, a, x, text, now); err != nil {
					return err
				}
			}
			known.Stopped = now
		}
		t.Durably()
		return phoning.Numbers(t).Put(known)
	})
}

// answer answers a text by itself where the line is to.
func (d *Desk) answer(ctx context.Context, a mailboxes.Account, x arrived) error {
	number, ok := texting.NumberOf(x.from.Address)
	text := strings.TrimSpace(a.Line.Answer.Text)
	if !ok || text == "" || a.Line.Stops.Wish(x.Text) != texting.Nothing {
		return nil
	}
	return d.store.Write(ctx, func(t store.Tx) error {
		now := d.Journal.Now()
		known, err := phoning.Numbers(t).Of(a.BoxID, number)
		if err != nil || known.Stopped != 0 {
			return err
		}
		held, err := phoning.Numbers(t).Here(a.BoxID, []string{x.message})
		if err != nil || !a.Line.Answer.Answers(held[x.message], known.Answered, now) {
			return err
		}
		known.Answered = now
		if err := d.queue(t, a, x, text, now); err != nil {
			return err
		}
		return phoning.Numbers(t).Put(known)
	})
}

// queue puts what a line says by itself into the outbox.
func (d *Desk) queue(t store.Tx, a mailboxes.Account, x arrived, text string, now when.Instant) error {
	o := sending.Outgoing{BoxID: a.BoxID, Once: "text/" + x.message, Address: x.from.Address, Name: x.from.Name, At: now, Subject: texting.Subject(x.from), Text: text, Quiet: true}
	var err error
	o.Original, err = mime.Compose(mime.Letter{MessageID: outbox.NewMessageID(a), Date: now.Time().UTC(), From: mail.Address{Name: a.FullName, Address: a.Address}, To: []mail.Address{x.from},
		Subject: o.Subject, InReplyTo: x.message, References: []string{texting.Root(a.Line.Number, x.from), x.message}, Text: text})
	if err != nil {
		return err
	}
	_, fresh, err := outbox.Queue(t, o, a.Address, now)
	if err != nil || !fresh {
		return err
	}
	return store.Journal(t).Record(&store.Entry{BoxID: a.BoxID, PersonID: a.PersonID, Actor: store.ByMail, Kind: inbox.AutoAnswer, At: now, Count: 1, Text: x.from.Short()})
}

// Name says whose a number is. All of it that is here is known by that name from then on.
func (d *Desk) Name(ctx context.Context, who identity.Who, w Whose) (NumberView, error) {
	if err := who.May(together.Work); err != nil {
		return NumberView{}, err
	}
	w.Name, w.Address = strings.Join(strings.Fields(w.Name), " "), strings.ToLower(strings.TrimSpace(w.Address))
	number, err := texting.ReadNumber(string(w.Number), "")
	switch {
	case err != nil:
		return NumberView{}, problem.Invalid("number", "Nothing was saved: "+err.Error()+".")
	case len(w.Name) > 200:
		return NumberView{}, problem.Invalid("name", "Nothing was saved: a name has room for 200 letters.")
	case w.Address != "":
		if a, err := netmail.ParseAddress(w.Address); err != nil || a.Address != w.Address {
			return NumberView{}, problem.Invalid("address", "Nothing was saved: that is no mail address. Leave it empty if you do not know it.")
		}
	}
	var v NumberView
	err = d.store.Write(ctx, func(t store.Tx) error {
		n, err := phoning.Numbers(t).Of(who.Box, number)
		if err != nil {
			return err
		}
		if w.Name == "" && w.Address != "" {
			c, err := store.Correspondents(t).Correspondent(who.Box, w.Address)
			if err != nil {
				return err
			}
			w.Name = c.Name
		}
		n.Name, n.Address = w.Name, w.Address
		if err := phoning.Numbers(t).Put(n); err != nil {
			return err
		}
		v = numberView(n)
		called := w.Name
		if called == "" {
			called = number.Say()
		}
		in, err := conversationsWith(t, who.Box, number)
		if err != nil {
			return err
		}
		return phoning.Numbers(t).Call(who.Box, number, called, in)
	})
	if err == nil {
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicMail}})
	}
	return v, err
}

// conversationsWith are those of a number with the telephone lines that a box has or had.
func conversationsWith(t store.Tx, box int64, number texting.Number) (ids []int64, err error) {
	own, err := store.People(t).OwnAddresses(box)
	if err != nil {
		return nil, err
	}
	var roots []string
	for _, a := range own {
		if line, ok := texting.NumberOf(a.Address); ok {
			roots = append(roots, texting.Root(line, mail.Address{Address: number.Address()}))
		}
	}
	found, err := store.Conversations(t).Refs(box, roots)
	for _, id := range found {
		ids = append(ids, id)
	}
	return ids, err
}

func numberView(n phoning.Number) NumberView {
	return NumberView{Number: n.Number, Says: n.Number.Say(), Name: n.Name, Address: n.Address, Stopped: n.Stopped}
}

// mostNumbers are those that are listed.
const mostNumbers = 500

// Numbers gives the numbers of which it is known whose they are, by name.
func (d *Desk) Numbers(ctx context.Context, who identity.Who) (out []NumberView, err error) {
	out = []NumberView{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		all, err := phoning.Numbers(t).Named(who.Box, mostNumbers)
		for _, n := range all {
			out = append(out, numberView(n))
		}
		return err
	})
	return out, err
}
