package desk

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	netmail "net/mail"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/outbox"
	"ebbe/internal/post"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// The limits of a draft.
const (
	maxDraft  = 200_000  // bytes of its text
	MaxFiles  = 25 << 20 // bytes of all its files
	maxPeople = 200      // recipients
)

// Draft gives the view of a draft that has not been sent.
func (d *Desk) Draft(ctx context.Context, who identity.Who, id int64) (v DraftView, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		draft, err := t.DraftByID(who.Person, id)
		if err == nil {
			v, err = draftView(t, who, draft)
		}
		return err
	})
	return v, err
}

// Drafts gives the newest drafts of the user.
func (d *Desk) Drafts(ctx context.Context, who identity.Who) (out []DraftView, err error) {
	out = []DraftView{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		drafts, err := t.DraftsOf(who.Person, PageSize)
		for _, draft := range drafts {
			out = append(out, plainDraft(draft))
		}
		return err
	})
	return out, err
}

func plainDraft(d store.Draft) DraftView {
	some := func(a []mail.Address) []mail.Address { return append([]mail.Address{}, a...) }
	return DraftView{ID: d.ID, Conversation: d.ConversationID, Mode: d.Mode, Message: d.MessageID,
		DraftChange: DraftChange{Account: d.AccountID, To: some(d.To), Cc: some(d.Cc), Bcc: some(d.Bcc), Subject: d.Subject, Text: d.Text, Rich: d.Rich, Bare: d.Bare, Receipt: d.Receipt}, Files: []FileView{}, Begun: d.Begun, Changed: d.Changed}
}

// draftView is a draft with its files and what stands below its words.
func draftView(t store.Tx, who identity.Who, draft store.Draft) (v DraftView, err error) {
	if draft.ID == 0 {
		return plainDraft(draft), nil
	}
	v = plainDraft(draft)
	files, err := t.DraftFiles(draft.ID)
	if err != nil {
		return v, err
	}
	for _, f := range files {
		v.Files = append(v.Files, FileView{f.ID, f.Name, f.Type, f.Size})
	}
	a, err := outbox.AccountOf(t, who.Box, draft.AccountID, "")
	if err != nil {
		return v, err
	}
	v.Account, v.Signature = a.ID, a.Signature
	_, v.Below, err = below(t, who, draft)
	return v, err
}

// lastReceived gives the newest message of a conversation that somebody else
// wrote, read, with the user's own address it came to and all they have.
func lastReceived(t store.Tx, who identity.Who, conversation int64) (m store.Message, b post.Body, at string, own map[string]bool, err error) {
	if conversation, err = t.Resolve(who.Box, conversation); err != nil {
		return m, b, "", nil, err
	}
	messages, err := t.MessagesOf(who.Box, conversation)
	if err != nil {
		return m, b, "", nil, err
	}
	for _, x := range messages {
		if !x.Own {
			m = x
		}
	}
	if m.ID == 0 {
		return m, b, "", nil, store.ErrNotFound
	}
	b, at, own, err = received(t, who, m)
	return m, b, at, own, err
}

// received reads a message, and gives the user's own address it came to and all
// they have.
func received(t store.Tx, who identity.Who, m store.Message) (b post.Body, at string, own map[string]bool, err error) {
	raw, err := t.Original(m.ID)
	if err != nil {
		return b, "", nil, err
	}
	if own, err = intake.OwnAddresses(t, who.Box); err != nil {
		return b, "", nil, err
	}
	_, at = mail.ReachOf(m.To, m.Cc, own)
	return post.Read(raw), at, own, nil
}

// below gives the message a draft answers or passes on, and what of it stands
// below the words.
func below(t store.Tx, who identity.Who, draft store.Draft) (b post.Body, text string, err error) {
	if draft.MessageID == 0 {
		return b, "", nil
	}
	raw, err := t.Original(draft.MessageID)
	if errors.Is(err, store.ErrNotFound) {
		return b, "", nil
	}
	if err != nil {
		return b, "", err
	}
	b = post.Read(raw)
	if b.Text == "" && b.HTML != "" {
		b.Text = post.TextOf(b.HTML)
	}
	if len(b.Text) > maxDraft {
		b.Text = strings.ToValidUTF8(b.Text[:maxDraft], "") + "\n…"
	}
	at := b.Date.Time().In(who.Week.Location()).Format("2 January 2006")
	if draft.Mode.Answers() {
		return b, writing.Quote(b.Message, at), nil
	}
	return b, writing.PassedOn(b.Message, at), nil
}

// BeginDraft begins a message, or goes on with the one that was begun in the
// same conversation. Choosing another mode for it keeps the words, and finds
// anew to whom it goes.
func (d *Desk) BeginDraft(ctx context.Context, who identity.Who, b DraftBegun) (v DraftView, err error) {
	if !slices.Contains(writing.Modes, b.Mode) || (b.Message == 0) != (b.Mode == writing.New) {
		return v, problem.Invalid("mode", "Ebbe does not know what to begin. Load the page again.")
	}
	err = d.store.Write(ctx, func(t store.Tx) error {
		now := d.now()
		draft := store.Draft{PersonID: who.Person, Mode: b.Mode, To: b.To, Begun: now, Changed: now}
		if b.Message == 0 {
			if err := t.PutDraft(&draft); err != nil {
				return err
			}
			v, err = draftView(t, who, draft)
			return err
		}
		m, err := t.MessageRow(who.Box, b.Message)
		if err != nil {
			return err
		}
		begun, err := t.Draft(who.Person, m.ConversationID)
		if err != nil {
			return err
		}
		if begun.ID != 0 {
			draft = begun
		}
		if begun.ID == 0 || begun.Mode != b.Mode || begun.MessageID != m.ID {
			draft.ConversationID, draft.MessageID, draft.Mode = m.ConversationID, m.ID, b.Mode
			if err := d.direct(t, who, &draft, m); err != nil {
				return err
			}
		}
		if b.Remind && draft.Text == "" && len(draft.To) > 0 {
			draft.Text = writing.Reminder(draft.To[0], m.Subject, m.Date.In(who.Week.Location()).Format("2 January 2006"))
			if err := t.PutDraft(&draft); err != nil {
				return err
			}
		}
		v, err = draftView(t, who, draft)
		return err
	})
	if err == nil {
		d.announceDraft(who, v)
	}
	return v, err
}

// direct finds to whom a draft about m goes, what it is called, from which
// account, and which files go with it, and stores it.
func (d *Desk) direct(t store.Tx, who identity.Who, draft *store.Draft, m store.Message) error {
	own, err := intake.OwnAddresses(t, who.Box)
	if err != nil {
		return err
	}
	raw, err := t.Original(m.ID)
	if err != nil {
		return err
	}
	b := post.Read(raw)
	draft.To, draft.Cc = nil, nil
	if draft.Mode.Answers() {
		draft.To, draft.Cc = writing.Recipients(b.Message, own, draft.Mode == writing.ReplyAll)
	}
	draft.Subject = writing.Subject(draft.Mode, m.Subject)
	if draft.AccountID == 0 {
		named := m.FromAddr
		for _, a := range slices.Concat(m.To, m.Cc) {
			if !m.Own && own[a.Address] {
				named = a.Address
				break
			}
		}
		a, err := outbox.AccountOf(t, who.Box, 0, named)
		if err != nil {
			return err
		}
		draft.AccountID = a.ID
	}
	if err := t.PutDraft(draft); err != nil {
		return err
	}
	files, err := t.DraftFiles(draft.ID)
	if err != nil {
		return err
	}
	passed := false
	for _, f := range files {
		if passed = passed || f.Passed; f.Passed && draft.Mode.Answers() {
			if err := t.DropDraftFile(draft.ID, f.ID); err != nil {
				return err
			}
		}
	}
	if passed || draft.Mode.Answers() {
		return nil
	}
	for _, f := range b.Parts {
		if err := t.AddDraftFile(&store.DraftFile{DraftID: draft.ID, Name: f.Name, Type: f.Type, Size: len(f.Content), Passed: true, Content: f.Content}); err != nil {
			return err
		}
	}
	return nil
}

func (d *Desk) announceDraft(who identity.Who, v DraftView) {
	e := journal.Event{Topics: []string{journal.TopicOutbox}}
	if v.Conversation != 0 {
		e.Topics, e.Conversations = append(e.Topics, journal.TopicMail), []int64{v.Conversation}
	}
	d.Journal.Announce(who.Box, e)
}

// addressed reads recipients; what is no address is named.
func addressed(field string, list []mail.Address) ([]mail.Address, error) {
	var out []mail.Address
	if len(list) > maxPeople {
		return nil, problem.Invalid(field, fmt.Sprintf("That is too many: a message goes to %d people at most. It was kept as it was before.", maxPeople))
	}
	for _, a := range list {
		a.Address, a.Name = strings.ToLower(strings.TrimSpace(a.Address)), strings.Join(strings.Fields(a.Name), " ")
		if strings.ContainsAny(a.Address, "\r\n") {
			return nil, problem.Invalid(field, "An address has a line break in it, so it was not taken. Type it anew.")
		}
		if !slices.ContainsFunc(out, func(o mail.Address) bool { return o.Address == a.Address }) {
			out = append(out, a)
		}
	}
	return out, nil
}

// ChangeDraft stores a draft as the user has it now. Recipients may still be
// half typed.
func (d *Desk) ChangeDraft(ctx context.Context, who identity.Who, id int64, c DraftChange) (v DraftView, err error) {
	if len(c.Text) > maxDraft {
		return v, problem.Invalid("text", "That draft is too long to be kept here. The part kept before is safe; put the rest into a file.")
	}
	if len(c.Subject) > 2000 {
		return v, problem.Invalid("subject", "That subject is too long to be kept. The part kept before is safe.")
	}
	for _, list := range []struct {
		field string
		of    *[]mail.Address
	}{{"to", &c.To}, {"cc", &c.Cc}, {"bcc", &c.Bcc}} {
		if *list.of, err = addressed(list.field, *list.of); err != nil {
			return v, err
		}
	}
	err = d.store.Write(ctx, func(t store.Tx) error {
		draft, err := t.DraftByID(who.Person, id)
		if err != nil {
			return err
		}
		draft.AccountID, draft.To, draft.Cc, draft.Bcc = c.Account, c.To, c.Cc, c.Bcc
		draft.Subject, draft.Text, draft.Rich, draft.Bare, draft.Receipt, draft.Changed = c.Subject, c.Text, c.Rich, c.Bare, c.Receipt, d.now()
		if err := t.PutDraft(&draft); err != nil {
			return err
		}
		v, err = draftView(t, who, draft)
		return err
	})
	if err == nil {
		d.announceDraft(who, v)
	}
	return v, err
}

// DropDraft throws a draft away.
func (d *Desk) DropDraft(ctx context.Context, who identity.Who, id int64) error {
	var draft store.Draft
	err := d.store.Write(ctx, func(t store.Tx) (err error) {
		if draft, err = t.DraftByID(who.Person, id); err != nil {
			return err
		}
		return t.DropDraft(id)
	})
	if err == nil {
		d.announceDraft(who, plainDraft(draft))
	}
	return err
}

// AddFile puts a file to a draft.
func (d *Desk) AddFile(ctx context.Context, who identity.Who, id int64, name, kind string, content []byte) (v DraftView, err error) {
	name = post.FileName(name)
	err = d.store.Write(ctx, func(t store.Tx) error {
		draft, err := t.DraftByID(who.Person, id)
		if err != nil {
			return err
		}
		files, err := t.DraftFiles(id)
		if err != nil {
			return err
		}
		sum := len(content)
		for _, f := range files {
			sum += f.Size
		}
		if sum > MaxFiles {
			return problem.Invalid("files", fmt.Sprintf("“%s” was not put to the draft: all files of a message together have room for %d MB, as few servers take more. The draft is as it was.", name, MaxFiles>>20))
		}
		if err := t.AddDraftFile(&store.DraftFile{DraftID: id, Name: name, Type: kind, Size: len(content), Content: content}); err != nil {
			return err
		}
		v, err = draftView(t, who, draft)
		return err
	})
	return v, err
}

// DropFile takes a file away from a draft.
func (d *Desk) DropFile(ctx context.Context, who identity.Who, id, file int64) (v DraftView, err error) {
	err = d.store.Write(ctx, func(t store.Tx) error {
		draft, err := t.DraftByID(who.Person, id)
		if err != nil {
			return err
		}
		if err := t.DropDraftFile(id, file); err != nil {
			return err
		}
		v, err = draftView(t, who, draft)
		return err
	})
	return v, err
}

// Complete gives people whose names or addresses begin like that, those written
// to often and lately first.
func (d *Desk) Complete(ctx context.Context, who identity.Who, begins string) (out []mail.Address, err error) {
	out = []mail.Address{}
	if begins = strings.TrimSpace(begins); begins == "" {
		return out, nil
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		found, err := t.Complete(who.Box, begins, d.now(), 8)
		out = append(out, found...)
		return err
	})
	return out, err
}

// letter is the message that a draft makes.
func (d *Desk) letter(t store.Tx, who identity.Who, draft store.Draft, a store.Account, at when.Instant) (l post.Letter, err error) {
	b, under, err := below(t, who, draft)
	if err != nil {
		return l, err
	}
	l = post.Letter{MessageID: outbox.NewMessageID(a), Date: at.Time().In(who.Week.Location()), From: mail.Address{Name: a.FullName, Address: a.Address},
		To: draft.To, Cc: draft.Cc, Subject: draft.Subject, Text: draft.Text, Rich: draft.Rich, Signature: a.Signature, Receipt: draft.Receipt}
	if !draft.Bare {
		l.Below = under
	}
	if draft.Mode.Answers() {
		answering(&l, b.Message)
	}
	files, err := t.DraftFilesWhole(draft.ID)
	if err != nil {
		return l, err
	}
	for _, f := range files {
		l.Files = append(l.Files, post.Part{File: mail.File{Name: f.Name, Type: f.Type, Size: f.Size}, Content: f.Content})
	}
	return l, nil
}

// draftCopy is a draft as it lies on the server, with what of its recipients is
// an address already; hidden ones are kept here alone.
func (d *Desk) draftCopy(t store.Tx, a store.Account, draft store.Draft, id string) ([]byte, error) {
	p, err := t.PersonByID(draft.PersonID)
	if err != nil {
		return nil, err
	}
	whole := func(list []mail.Address) (out []mail.Address) {
		for _, x := range list {
			if parsed, err := netmail.ParseAddress(x.Address); err == nil && parsed.Address == x.Address {
				out = append(out, x)
			}
		}
		return out
	}
	draft.To, draft.Cc = whole(draft.To), whole(draft.Cc)
	l, err := d.letter(t, identity.Who{Person: draft.PersonID, Box: a.BoxID, Week: p.Week}, draft, a, draft.Changed)
	if err != nil {
		return nil, err
	}
	l.MessageID = id
	return post.Compose(l)
}

// answering makes a letter an answer to m (RFC 5322, section 3.6.4).
func answering(l *post.Letter, m mail.Message) {
	if m.MessageID == "" {
		return
	}
	l.InReplyTo, l.References = m.MessageID, append(slices.Clone(m.References), m.MessageID)
	if n := len(l.References); n > 30 { // the first and the nearest say it all
		l.References = append(l.References[:1:1], l.References[n-29:]...)
	}
}

// PreviewDraft shows a draft as whoever gets it will see it, from the very
// message that would leave.
func (d *Desk) PreviewDraft(ctx context.Context, who identity.Who, id int64) (safe post.SafeHTML, err error) {
	var raw []byte
	err = d.store.Read(ctx, func(t store.Tx) error {
		draft, err := t.DraftByID(who.Person, id)
		if err != nil {
			return err
		}
		a, err := outbox.AccountOf(t, who.Box, draft.AccountID, "")
		if err != nil {
			return err
		}
		l, err := d.letter(t, who, draft, a, d.now())
		if err != nil {
			return err
		}
		raw, err = post.Compose(l)
		return err
	})
	if err != nil {
		return safe, err
	}
	b := post.Read(raw)
	if b.HTML == "" {
		b.HTML = post.PlainHTML(b.Text)
	}
	return post.Sanitise(b.HTML, false, func(string) string { return "" }), nil
}

// questions are what the user is asked before a message goes.
func questions(draft store.Draft, files []store.DraftFile) (asks, field string) {
	if word := writing.Forgotten(draft.Text); word != "" && len(files) == 0 {
		return fmt.Sprintf("You write “%s”, but no file goes with it. Send it all the same?", word), "files"
	}
	if strings.TrimSpace(draft.Subject) == "" {
		return "It has no subject. Send it all the same?", "subject"
	}
	if strings.TrimSpace(draft.Text) == "" && draft.Mode != writing.Forward && len(files) == 0 {
		return "There is nothing in it. Send it all the same?", "text"
	}
	return "", ""
}

// SendDraft sends a draft, after the span in which it can be taken back or at
// the time chosen, and decides about its conversation in the same step.
func (d *Desk) SendDraft(ctx context.Context, who identity.Who, key string, id int64, s Sending) (Sent, error) {
	now := d.now()
	s.Repeat = strings.Join(strings.Fields(s.Repeat), " ")
	s.At, s.Return, s.Due = s.At.Realign(), s.Return.Realign(), s.Due.Realign()
	if !s.At.IsZero() && s.At.At <= now {
		return Sent{}, problem.Invalid("at", "That time has passed, so nothing was sent. Choose one that is still ahead; the draft is kept.")
	}
	if !s.Return.IsZero() && s.Return.At <= max(now, s.At.At) {
		return Sent{}, problem.Invalid("return", "It would come back before it has gone, so nothing was sent. Choose a later time; the draft is kept.")
	}
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out Sent, err error) {
		draft, err := t.DraftByID(who.Person, id)
		if errors.Is(err, store.ErrNotFound) {
			return out, &problem.Error{Type: "sent-elsewhere", Text: "This draft has been sent or thrown away elsewhere, so nothing was sent now."}
		}
		if err != nil {
			return out, err
		}
		files, err := t.DraftFiles(id)
		if err != nil {
			return out, err
		}
		to, err := envelope(draft)
		if err != nil {
			return out, err
		}
		if !s.Sure {
			if out.Asks, out.Field = questions(draft, files); out.Asks != "" {
				return out, nil
			}
		}
		a, err := outbox.AccountOf(t, who.Box, draft.AccountID, "")
		if err != nil {
			return out, err
		}
		if a.ID == 0 {
			return out, &problem.Error{Type: "no-account", Text: "There is no account to send it with, so the draft is kept. Add one in Setup, under Accounts."}
		}
		p, err := t.PersonByID(who.Person)
		if err != nil {
			return out, err
		}
		out.At = now + outbox.SpanOf(p.Habits)
		if !s.At.IsZero() {
			out.At = s.At.At
		}
		l, err := d.letter(t, who, draft, a, out.At)
		if err != nil {
			return out, err
		}
		o := store.Outgoing{BoxID: who.Box, Hold: "message/" + l.MessageID, Address: to[0].Address, At: out.At, Subject: draft.Subject, Text: draft.Text,
			AccountID: a.ID, DraftID: id, ConversationID: draft.ConversationID, State: writing.Waiting, To: to, Next: out.At}
		if i := slices.IndexFunc(slices.Concat(draft.To, draft.Cc, draft.Bcc), func(x mail.Address) bool { return x.Address == to[0].Address }); i >= 0 {
			o.Name = slices.Concat(draft.To, draft.Cc, draft.Bcc)[i].Name
		}
		if s.Repeat != "" {
			if o.Rule, err = repeated(s, who.Week, now); err != nil {
				return out, err
			}
			o.Again, o.Begins = s.Repeat, s.At
		}
		if o.Original, err = post.Compose(l); err != nil {
			return out, err
		}
		t.Durably() // the user is told that it goes
		o.Bcc = draft.Bcc
		if _, err := t.Send(&o); err != nil {
			return out, err
		}
		if changes, err = d.afterSending(t, who, p, draft, s, l.MessageID, now); err != nil {
			return out, err
		}
		e := store.Entry{Kind: inbox.SendMail, At: now, Ref: o.ID, ConversationID: draft.ConversationID, Text: cmp.Or(draft.Subject, "without a subject"), SittingID: s.Sitting}
		if out.Decided, err = d.Journal.Commit(t, who, e, changes, func(int) string { return sending(s, o, who.Week, now) }); err != nil {
			return out, err
		}
		o.EntryID, out.Outgoing = out.Entry, o.ID
		if err := t.PutOutgoing(&o); err != nil {
			return out, err
		}
		return out, t.SetDraftSent(id, o.ID)
	})
	if fresh && out.Asks == "" {
		d.Journal.Tell(who.Box, key, changes)
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicOutbox, journal.TopicMail}, Key: key})
	}
	return out, err
}

// repeated is the rule by which a message is sent again.
func repeated(s Sending, w when.Week, now when.Instant) (rule string, err error) {
	if s.At.IsZero() || s.At.WholeDay() {
		return "", problem.Invalid("at", "Nothing was sent: say at which hour it goes for the first time. The draft is kept.")
	}
	r, known := w.ReadRule(s.Repeat, now)
	switch {
	case !known:
		return "", problem.Invalid("repeat", fmt.Sprintf("Nothing was sent: Ebbe does not know “%s” as a way of repeating. Try “every monday” or “monthly”. The draft is kept.", s.Repeat))
	case r.Wrong != "":
		return "", problem.Invalid("repeat", "Nothing was sent: "+r.Wrong+" The draft is kept.")
	case r.FromDone || r.DaysOff:
		return "", problem.Invalid("repeat", "Nothing was sent: a message is repeated by the calendar alone. Leave the rest of the words out. The draft is kept.")
	}
	return r.Rule, nil
}

// envelope is to whom a draft goes, each once.
func envelope(draft store.Draft) (to []writing.Recipient, err error) {
	for field, list := range map[string][]mail.Address{"to": draft.To, "cc": draft.Cc, "bcc": draft.Bcc} {
		for _, a := range list {
			if parsed, err := netmail.ParseAddress(a.Address); err != nil || !strings.EqualFold(parsed.Address, a.Address) {
				return nil, problem.Invalid(field, fmt.Sprintf("“%s” is no mail address, so nothing was sent. Mend it or take it away; the draft is kept.", a.Address))
			}
		}
	}
	for _, a := range slices.Concat(draft.To, draft.Cc, draft.Bcc) {
		if !slices.ContainsFunc(to, func(r writing.Recipient) bool { return r.Address == a.Address }) {
			to = append(to, writing.Recipient{Address: a.Address, State: writing.Waiting})
		}
	}
	if len(to) == 0 {
		return nil, problem.Invalid("to", "It goes to nobody yet, so nothing was sent. Write a name or an address.")
	}
	return to, nil
}

// afterSending is what sending changes besides: the conversation leaves the
// inbox, or comes back if nobody answers; what is handed over, or begins
// something new that is waited for, becomes a follow-up.
func (d *Desk) afterSending(t store.Tx, who identity.Who, p store.Person, draft store.Draft, s Sending, messageID string, now when.Instant) (changes []inbox.Change, err error) {
	tracked := draft.Mode == writing.HandOver || draft.Mode != writing.HandOver && !draft.Mode.Answers() && !s.Return.IsZero()
	if draft.ConversationID != 0 && s.Then != "" {
		state, err := t.State(who.Box, who.Person, []int64{draft.ConversationID}, nil)
		if err != nil {
			return nil, err
		}
		before, ok := state.Conversations[draft.ConversationID]
		decision := inbox.Decision{Kind: s.Then}
		if s.Then == inbox.Snooze || !s.Return.IsZero() && !tracked {
			decision = inbox.Decision{Kind: inbox.Snooze, Until: inbox.UntilUnanswered, Return: s.Return}
		}
		if ok && before.Place != inbox.Held && (s.Seen == "" || s.Seen == before.Place) {
			after, err := inbox.Decide(before, decision, now)
			if err != nil {
				return nil, problem.Invalid("then", "Nothing was sent: "+err.Error()+".")
			}
			if c := (inbox.Change{Before: &before, After: &after}); !c.Nothing() {
				changes = append(changes, c)
			}
		}
	}
	if !tracked {
		return changes, nil
	}
	person := mail.Address{}
	if all := slices.Concat(draft.To, draft.Cc, draft.Bcc); len(all) > 0 {
		person = all[0]
	}
	n := NewFollowUp{Title: strings.TrimSpace(s.Expect), With: person, Due: s.Due, Waits: followup.Wait{Since: now, Only: true, Ask: cmp.Or(s.Return, s.Due)}}
	if n.Title == "" {
		n.Title = fmt.Sprintf("Answer from %s about “%s”", person.Short(), mail.Title(draft.Subject))
	}
	f := followup.FollowUp{Status: followup.NeedsAction, Conversation: draft.ConversationID, Message: messageID, Made: now}
	if draft.MessageID != 0 {
		m, err := t.MessageRow(who.Box, draft.MessageID)
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return nil, err
		}
		f.Message = cmp.Or(m.MessageID, messageID)
	}
	if f, err = n.write(f, p.FollowUp, who.Week, now); err != nil {
		return nil, err
	}
	f.UID = uuid.NewString()
	return append(changes, inbox.Change{FollowUpAfter: &f}), nil
}

// sending says what happens now.
func sending(s Sending, o store.Outgoing, w when.Week, now when.Instant) string {
	text := fmt.Sprintf("Goes out in %d seconds.", int((time.Duration(o.Next-now)*time.Millisecond+time.Second-1)/time.Second))
	if !s.At.IsZero() {
		text = "Goes out " + w.Say(s.At, now) + "."
		if s.Repeat != "" {
			text = "Goes out " + w.Say(s.At, now) + ", and again " + s.Repeat + "."
		}
	}
	if !s.Return.IsZero() {
		text += " Back " + w.Say(s.Return, now) + " if nobody answers."
	}
	return text
}
