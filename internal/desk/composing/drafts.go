package composing

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strings"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/texting"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/talk"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/outbox"
	"ebbe/internal/post/mime"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/drafting"
	"ebbe/internal/store/membership"
)

// The limits of a draft.
const (
	MaxDraft  = 200_000  // bytes of its text
	MaxFiles  = 25 << 20 // bytes of all its files
	maxPeople = 200      // recipients
	maxWriter = 100      // bytes of the name of a window
)

// Draft gives the view of a draft that has not been sent, also of one that another of the team was
// given.
func (d *Desk) Draft(ctx context.Context, who identity.Who, id int64) (v DraftView, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		draft, err := drafting.Drafts(t).DraftByID(who.Box, who.Person, id)
		if errors.Is(err, store.ErrNotFound) {
			draft, err = drafting.Drafts(t).DraftBegunBy(who.Box, who.Person, id)
		}
		if err == nil {
			v, err = ViewOf(t, who, draft)
		}
		return err
	})
	return v, err
}

// Drafts gives the newest drafts of the user, and those they have given to others of the team.
func (d *Desk) Drafts(ctx context.Context, who identity.Who) (out []DraftView, err error) {
	out = []DraftView{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		drafts, err := drafting.Drafts(t).DraftsOf(who.Box, who.Person, store.PageSize)
		if err != nil {
			return err
		}
		given, err := drafting.Drafts(t).DraftsBegunBy(who.Box, who.Person, store.PageSize)
		if err != nil {
			return err
		}
		drafts = slices.Concat(drafts, given)
		for _, draft := range drafts {
			out = append(out, plainDraft(draft))
		}
		return handed(t, who, drafts, out)
	})
	return out, err
}

func plainDraft(d drafting.Draft) DraftView {
	some := func(a []mail.Address) []mail.Address { return append([]mail.Address{}, a...) }
	return DraftView{ID: d.ID, Conversation: d.ConversationID, Mode: d.Mode, Message: d.MessageID,
		DraftChange: DraftChange{Account: d.AccountID, To: some(d.To), Cc: some(d.Cc), Bcc: some(d.Bcc), Subject: d.Subject, Text: d.Text, Rich: d.Rich, Bare: d.Bare, Receipt: d.Receipt, Named: d.Named, Version: d.Version, Writer: d.Writer, Turn: d.Turn}, Files: []FileView{}, Trail: []HandingView{}, Begun: d.Begun, Changed: d.Changed}
}

// ViewOf is a draft with its files and what stands below its words.
func ViewOf(t store.Tx, who identity.Who, draft drafting.Draft) (v DraftView, err error) {
	if draft.ID == 0 {
		return plainDraft(draft), nil
	}
	views := []DraftView{plainDraft(draft)}
	if err := handed(t, who, []drafting.Draft{draft}, views); err != nil {
		return v, err
	}
	v = views[0]
	files, err := drafting.Drafts(t).DraftFiles(draft.ID)
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
	if a.Line != nil {
		v.Line, v.Signature, v.Bare = a.Line.Number.Say(), "", true
		return v, nil
	}
	_, v.Below, err = below(t, who, draft)
	return v, err
}

// below gives the message a draft answers or passes on, and what of it stands
// below the words.
func below(t store.Tx, who identity.Who, draft drafting.Draft) (b mime.Body, text string, err error) {
	if draft.MessageID == 0 {
		return b, "", nil
	}
	raw, err := store.Messages(t).Original(draft.MessageID)
	if errors.Is(err, store.ErrNotFound) {
		return b, "", nil
	}
	if err != nil {
		return b, "", err
	}
	b = mime.Read(raw)
	b.Text = b.Words()
	if len(b.Text) > MaxDraft {
		b.Text = strings.ToValidUTF8(b.Text[:MaxDraft], "") + "\n…"
	}
	at := b.Date.Time().In(who.Week.Location()).Format("2 January 2006")
	if draft.Mode.Answers() {
		return b, writing.Quote(b.Message, at), nil
	}
	return b, writing.Forwarded(b.Message, at), nil
}

// askedOn is on which days the user wrote in the conversation of m since somebody else
// did last, the first first.
func askedOn(t store.Tx, who identity.Who, m store.Message) (days []string, err error) {
	all, err := store.Messages(t).MessagesOf(who.Box, m.ConversationID)
	for _, x := range all {
		switch day := x.Date.In(who.Week.Location()).Format("2 January 2006"); {
		case !x.Own:
			days = nil
		case !slices.Contains(days, day):
			days = append(days, day)
		}
	}
	return days, err
}

// Begin begins a message, or goes on with the one that was begun in the
// same conversation. Choosing another mode for it keeps the words, and finds
// anew to whom it goes. Asked again with the same key it begins nothing more.
func (d *Desk) Begin(ctx context.Context, who identity.Who, key string, b DraftBegun) (DraftView, error) {
	if !slices.Contains(writing.Modes, b.Mode) || (b.Message == 0) != (b.Mode == writing.New) {
		return DraftView{}, problem.Invalid("mode", "Ebbe does not know what to begin. Load the page again.")
	}
	if b.Message != 0 {
		key = "" // what there is of it is found by its conversation
	}
	v, _, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (v DraftView, err error) {
		now := d.Journal.Now()
		draft := drafting.Draft{PersonID: who.Person, BoxID: who.Box, Mode: b.Mode, To: b.To, Begun: now, Changed: now}
		if draft.Named, err = membership.Membership(t).Named(who.Box, who.Person); err != nil {
			return v, err
		}
		if b.Message == 0 {
			if b.Line != 0 {
				if err := asText(t, who, &draft, b.Line); err != nil {
					return v, err
				}
			}
			if err := drafting.Drafts(t).PutDraft(&draft); err != nil {
				return v, err
			}
			return ViewOf(t, who, draft)
		}
		m, err := store.Messages(t).MessageRow(who.Box, b.Message)
		if err != nil {
			return v, err
		}
		begun, err := drafting.Drafts(t).Draft(who.Person, m.ConversationID)
		if err != nil {
			return v, err
		}
		if begun.ID != 0 {
			draft = begun
		}
		if begun.ID == 0 || begun.Mode != b.Mode || begun.MessageID != m.ID {
			draft.ConversationID, draft.MessageID, draft.Mode = m.ConversationID, m.ID, b.Mode
			draft.Version++
			if err := d.direct(t, who, &draft, m); err != nil {
				return v, err
			}
		}
		if b.Remind && draft.Text == "" && len(draft.To) > 0 {
			asked, err := askedOn(t, who, m)
			if err != nil {
				return v, err
			}
			draft.Text = writing.Reminder(draft.To[0], m.Subject, asked)
			draft.Version++
			if err := drafting.Drafts(t).PutDraft(&draft); err != nil {
				return v, err
			}
		}
		return ViewOf(t, who, draft)
	})
	if err == nil {
		d.announceDraft(who, "", v.Conversation, true)
	}
	return v, err
}

// direct finds to whom a draft about m goes, what it is called, from which
// account, and which files go with it, and stores it.
func (d *Desk) direct(t store.Tx, who identity.Who, draft *drafting.Draft, m store.Message) error {
	own, err := intake.OwnAddresses(t, who.Box)
	if err != nil {
		return err
	}
	raw, err := store.Messages(t).Original(m.ID)
	if err != nil {
		return err
	}
	b := mime.Read(raw)
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
	if err := fitted(t, who, draft); err != nil {
		return err
	}
	if err := drafting.Drafts(t).PutDraft(draft); err != nil {
		return err
	}
	files, err := drafting.Drafts(t).DraftFiles(draft.ID)
	if err != nil {
		return err
	}
	passed := false
	for _, f := range files {
		if passed = passed || f.Passed; f.Passed && draft.Mode.Answers() {
			if err := drafting.Drafts(t).DropDraftFile(draft.ID, f.ID); err != nil {
				return err
			}
		}
	}
	if passed || draft.Mode.Answers() {
		return nil
	}
	for _, f := range b.Parts {
		if err := drafting.Drafts(t).AddDraftFile(&drafting.DraftFile{DraftID: draft.ID, Name: f.Name, Type: f.Type, Size: len(f.Content), Passed: true, Content: f.Content}); err != nil {
			return err
		}
	}
	return nil
}

// announceDraft says that a draft has changed, by the request with that key; marked
// says that it is seen at its conversation, too, where there is one.
func (d *Desk) announceDraft(who identity.Who, key string, conversation int64, marked bool) {
	e := journal.Event{Topics: []string{journal.TopicOutbox}, Key: key}
	if conversation != 0 && marked {
		e.Topics, e.Conversations = append(e.Topics, journal.TopicMail), []int64{conversation}
	}
	if conversation != 0 && who.Team != 0 { // the others see that it is being written
		e.Topics, e.Conversations = append(e.Topics, journal.TopicWriting), []int64{conversation}
	}
	d.Journal.Announce(who.Box, e)
	if conversation == 0 {
		return
	}
	var also []talk.Elsewhere
	if err := d.store.Read(context.Background(), func(t store.Tx) (err error) { also, err = talk.Also(t, who, conversation); return err }); err != nil {
		slog.Error("others could not be told of an answer that is being written", "box", who.Box, "error", err)
	}
	for _, o := range also {
		d.Journal.Announce(o.Box, journal.Event{Topics: []string{journal.TopicWriting}, Conversations: []int64{o.Conversation}})
	}
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

// Change stores a draft as the user has it now. Recipients may still be
// half typed. A change that comes twice, or after a later one of the same window, does
// nothing. One made without having seen what another window wrote replaces nothing:
// both are kept, the later as a draft of its own, and the view says so.
func (d *Desk) Change(ctx context.Context, who identity.Who, key string, id int64, c DraftChange) (v DraftView, err error) {
	if len(c.Text) > MaxDraft {
		return v, problem.Invalid("text", "That draft is too long to be kept here. The part kept before is safe; put the rest into a file.")
	}
	if len(c.Writer) > maxWriter {
		return v, problem.Invalid("writer", "Ebbe does not know this window. The part kept before is safe; load the page again.")
	}
	if len(c.Subject) > 2000 {
		return v, problem.Invalid("subject", "That subject is too long to be kept. The part kept before is safe.")
	}
	marked := false
	err = d.store.Write(ctx, func(t store.Tx) error {
		if err := numbered(t, who, &c); err != nil {
			return err
		}
		for _, list := range []struct {
			field string
			of    *[]mail.Address
		}{{"to", &c.To}, {"cc", &c.Cc}, {"bcc", &c.Bcc}} {
			if *list.of, err = addressed(list.field, *list.of); err != nil {
				return err
			}
		}
		draft, apart, err := d.written(t, who, id, c)
		if err != nil {
			return err
		}
		if c.Writer == "" || c.Writer != draft.Writer || c.Turn > draft.Turn {
			marked = draft.ID == 0 || (draft.Text == "") != (c.Text == "")
			draft.AccountID, draft.To, draft.Cc, draft.Bcc = c.Account, c.To, c.Cc, c.Bcc
			draft.Subject, draft.Text, draft.Rich, draft.Bare, draft.Receipt, draft.Changed = c.Subject, c.Text, c.Rich, c.Bare, c.Receipt, d.Journal.Now()
			draft.Version, draft.Writer, draft.Turn = draft.Version+1, c.Writer, c.Turn
			fresh := draft.ID == 0
			if named := c.Named && who.Team != 0; draft.Named != named { // as is wanted from then on
				draft.Named = named
				if err := membership.Membership(t).ByName(who.Box, who.Person, named); err != nil {
					return err
				}
			}
			if err := drafting.Drafts(t).PutDraft(&draft); err != nil {
				return err
			}
			if fresh {
				if err := drafting.Drafts(t).CopyDraftFiles(apart, draft.ID); err != nil {
					return err
				}
			}
		}
		v, err = ViewOf(t, who, draft)
		v.Apart = apart
		return err
	})
	if err == nil {
		d.announceDraft(who, key, v.Conversation, marked)
	}
	return v, err
}

// written is the draft that a change is about: the one with that ID, or, where
// another window has changed that meanwhile, one apart from it, which is new (with
// ID 0) until the first change in the window that made it.
func (d *Desk) written(t store.Tx, who identity.Who, id int64, c DraftChange) (draft drafting.Draft, apart int64, err error) {
	draft, err = drafting.Drafts(t).DraftByID(who.Box, who.Person, id)
	if err != nil || c.Writer == "" || c.Writer == draft.Writer || c.Version == draft.Version || says(draft, c) {
		return draft, 0, err
	}
	own, err := drafting.Drafts(t).DraftBy(who.Box, who.Person, c.Writer)
	if errors.Is(err, store.ErrNotFound) {
		own, err = draft, nil
		own.ID, own.Version, own.Begun = 0, 0, d.Journal.Now()
	}
	return own, draft.ID, err
}

// says whether a draft has the words of a change, and goes to the same people.
func says(d drafting.Draft, c DraftChange) bool {
	return d.Text == c.Text && d.Subject == c.Subject && slices.Equal(d.To, c.To) && slices.Equal(d.Cc, c.Cc) && slices.Equal(d.Bcc, c.Bcc)
}

// Drop throws a draft away.
func (d *Desk) Drop(ctx context.Context, who identity.Who, id int64) error {
	var draft drafting.Draft
	err := d.store.Write(ctx, func(t store.Tx) (err error) {
		if draft, err = drafting.Drafts(t).DraftByID(who.Box, who.Person, id); err != nil {
			return err
		}
		return drafting.Drafts(t).DropDraft(id)
	})
	if err == nil {
		d.announceDraft(who, "", draft.ConversationID, true)
	}
	return err
}

// AddFile puts a file to a draft, once for each key.
func (d *Desk) AddFile(ctx context.Context, who identity.Who, key string, id int64, name, kind string, content []byte) (DraftView, error) {
	name = mime.FileName(name)
	v, _, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (v DraftView, err error) {
		draft, sum, err := carrying(t, who, id)
		if err != nil {
			return v, err
		}
		sum += len(content)
		if sum > MaxFiles {
			return v, noRoom(name)
		}
		if err := drafting.Drafts(t).AddDraftFile(&drafting.DraftFile{DraftID: id, Name: name, Type: kind, Size: len(content), Content: content}); err != nil {
			return v, err
		}
		return ViewOf(t, who, draft)
	})
	return v, err
}

// maxAttached is how many files are put to a draft in one go.
const maxAttached = 100

// Attach puts files that came with messages to a draft as well: all of them or, where there
// is no room for them, none. It returns store.ErrNotFound and *problem.Error.
func (d *Desk) Attach(ctx context.Context, who identity.Who, key string, id int64, of []FileOf) (DraftView, error) {
	if len(of) > maxAttached {
		return DraftView{}, problem.Invalid("files", fmt.Sprintf("Up to %d files can be put to a message at once; these are %d. Choose fewer. The draft is as it was.", maxAttached, len(of)))
	}
	v, _, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (v DraftView, err error) {
		draft, sum, err := carrying(t, who, id)
		if err != nil {
			return v, err
		}
		opened := map[int64][]mime.Part{}
		for _, f := range of {
			if _, known := opened[f.Message]; !known {
				m, err := store.Messages(t).MessageRow(who.Box, f.Message)
				if err != nil {
					return v, err
				}
				raw, err := store.Messages(t).Original(m.ID)
				if err != nil {
					return v, err
				}
				opened[f.Message] = mime.Read(raw).Parts
			}
			parts := opened[f.Message]
			if f.Number < 0 || f.Number >= len(parts) {
				return v, store.ErrNotFound
			}
			p := parts[f.Number]
			if sum += len(p.Content); sum > MaxFiles {
				return v, noRoom(p.Name)
			}
			if err := drafting.Drafts(t).AddDraftFile(&drafting.DraftFile{DraftID: id, Name: mime.FileName(p.Name), Type: p.Type, Size: len(p.Content), Content: p.Content}); err != nil {
				return v, err
			}
		}
		return ViewOf(t, who, draft)
	})
	return v, err
}

// carrying is a draft of a person, with how many bytes of files go with it.
func carrying(t store.Tx, who identity.Who, id int64) (draft drafting.Draft, bytes int, err error) {
	if draft, err = drafting.Drafts(t).DraftByID(who.Box, who.Person, id); err != nil {
		return draft, 0, err
	}
	files, err := drafting.Drafts(t).DraftFiles(id)
	for _, f := range files {
		bytes += f.Size
	}
	return draft, bytes, err
}

// noRoom is why a file was not put to a draft.
func noRoom(name string) error {
	return problem.Invalid("files", fmt.Sprintf("“%s” was not put to the draft: all files of a message together have room for %d MB, as few servers take more. The draft is as it was.", name, MaxFiles>>20))
}

// DropFile takes a file away from a draft.
func (d *Desk) DropFile(ctx context.Context, who identity.Who, id, file int64) (v DraftView, err error) {
	err = d.store.Write(ctx, func(t store.Tx) error {
		draft, err := drafting.Drafts(t).DraftByID(who.Box, who.Person, id)
		if err != nil {
			return err
		}
		if err := drafting.Drafts(t).DropDraftFile(id, file); err != nil {
			return err
		}
		v, err = ViewOf(t, who, draft)
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
		found, err := store.Correspondents(t).Complete(who.Box, begins, d.Journal.Now(), 16)
		found = slices.DeleteFunc(found, func(a mail.Address) bool { return texting.IsText(a.Address) })
		out = append(out, found[:min(len(found), 8)]...)
		return err
	})
	return out, err
}

// Preview shows a draft as whoever gets it will see it, from the very
// message that would leave.
func (d *Desk) Preview(ctx context.Context, who identity.Who, id int64, dark bool) (safe mime.SafeHTML, err error) {
	var raw []byte
	err = d.store.Read(ctx, func(t store.Tx) error {
		draft, err := drafting.Drafts(t).DraftByID(who.Box, who.Person, id)
		if err != nil {
			return err
		}
		a, err := outbox.AccountOf(t, who.Box, draft.AccountID, "")
		if err != nil {
			return err
		}
		l, err := d.letter(t, who, draft, a, d.Journal.Now())
		if err != nil {
			return err
		}
		raw, err = mime.Compose(l)
		return err
	})
	if err != nil {
		return safe, err
	}
	b := mime.Read(raw)
	if b.HTML == "" {
		b.HTML = mime.PlainHTML(b.Text)
	}
	return mime.Sanitise(b.HTML, dark, false, func(string) string { return "" }), nil
}
