package reading

import (
	"context"
	"errors"
	"slices"
	"strings"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/texting"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/junk"
	"ebbe/internal/desk/queue"
	"ebbe/internal/desk/sharing"
	"ebbe/internal/desk/talk"
	"ebbe/internal/desk/told"
	"ebbe/internal/identity"
	"ebbe/internal/post/mime"
	"ebbe/internal/store"
	"ebbe/internal/store/awaiting"
	"ebbe/internal/store/drafting"
	"ebbe/internal/store/phoning"
	"ebbe/internal/store/sending"
	"ebbe/internal/store/weighing"
)

// maxUnfolded is how many messages of a conversation are opened at once, and
// maxAhead how many conversations before they are asked for.
const (
	maxUnfolded = 20
	maxAhead    = 20
)

// Conversation opens a conversation: all its messages, with the text of the last one and
// of those that have come since the reader last read it, wrote in it or decided about it,
// from the first on.
func (d *Desk) Conversation(ctx context.Context, who identity.Who, id int64) (v ConversationView, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		v, _, err = d.open(t, who, id)
		return err
	})
	return v, err
}

// Ahead opens conversations before they are asked for, by the IDs given: at most
// maxAhead of them, and no more after texts as large as one conversation may open
// with. Those that are not there, or are somebody else's, are left out.
func (d *Desk) Ahead(ctx context.Context, who identity.Who, ids []int64) (map[int64]ConversationView, error) {
	views, opened := map[int64]ConversationView{}, 0
	err := d.store.Read(ctx, func(t store.Tx) error {
		for _, id := range ids[:min(len(ids), maxAhead)] {
			v, size, err := d.open(t, who, id)
			if errors.Is(err, store.ErrNotFound) {
				continue
			}
			if err != nil {
				return err
			}
			views[id] = v
			if opened += size; opened > unfoldedBefore {
				break
			}
		}
		return nil
	})
	return views, err
}

// open gives a conversation as it is shown, and how many bytes of originals were
// opened for it.
func (d *Desk) open(t store.Tx, who identity.Who, id int64) (v ConversationView, read int, err error) {
	row, err := store.Conversations(t).Opened(who.Box, who.Person, id)
	if err != nil {
		return v, 0, err
	}
	id = row.ID
	slips, err := queue.SlipsOf(t, who, []store.Row{row}, d.now())
	if err != nil {
		return v, 0, err
	}
	v.Slip, v.Note = slips[0], row.Note
	draft, err := drafting.Drafts(t).Draft(who.Person, id)
	if err != nil {
		return v, 0, err
	}
	if v.Draft, err = composing.ViewOf(t, who, draft); err != nil {
		return v, 0, err
	}
	going, err := sending.Outbox(t).OutboxOf(who.Box, id)
	if err != nil {
		return v, 0, err
	}
	v.Going = []composing.OutboxLine{}
	for _, o := range going {
		v.Going = append(v.Going, composing.LineOf(o))
	}
	messages, err := store.Messages(t).MessagesOf(who.Box, id)
	if err != nil {
		return v, 0, err
	}
	v.Messages = make([]MessageView, len(messages))
	var seen int64
	var decided when.Instant
	news := row.Unread || row.Looks > 0 // it is read as it is opened, and what was new is so until it is left
	if news && len(messages) > 1 {
		if seen, decided, err = weighing.Readings(t).Seen(who.Person, id); err != nil {
			return v, 0, err
		}
	}
	answered := -1 // whoever has written has read what was there before
	for i, m := range messages {
		if m.Own {
			answered = i
		}
	}
	quotes, opened := quotingIn(t, messages), 0
	for i, m := range messages { // from the first that is new on
		v.Messages[i] = viewOf(who, m)
		newest := i == len(messages)-1
		v.Messages[i].Fresh = news && i > answered && m.ID > seen && m.Received > decided
		short := texting.IsText(m.FromAddr) && i >= len(messages)-maxUnfolded // a text is read with those before it
		if newest || (short || v.Messages[i].Fresh) && opened < maxUnfolded-1 && read+m.Size <= unfoldedBefore {
			read, opened = read+m.Size, opened+1
			if err := unfold(t, m, &v.Messages[i], false); err != nil {
				return v, 0, err
			}
			if err := quotes.mark(i, v.Messages[i].Blocks); err != nil {
				return v, 0, err
			}
		}
	}
	read += quotes.read
	why, seems, err := junk.Why(t, who.Box, messages)
	if err != nil {
		return v, 0, err
	}
	if v.Facts = []told.FactView{}; row.Place != inbox.Junk {
		if v.Facts, err = told.Of(t, who, id, d.now()); err != nil {
			return v, 0, err
		}
	}
	if err := reached(t, id, v.Messages); err != nil {
		return v, 0, err
	}
	for i, m := range messages {
		if v.Messages[i].Seems = seems[m.ID]; row.Place == inbox.Junk {
			v.Messages[i].Junk = why[m.ID]
		}
	}
	followUps, err := store.FollowUps(t).FollowUpsOf(who.Box, []int64{id})
	if err != nil {
		return v, 0, err
	}
	v.FollowUps = []followup.FollowUp{}
	for _, f := range followUps[id] {
		v.FollowUps = append(v.FollowUps, f.Data)
	}
	offering, err := awaiting.Awaited(t).Offering(who.Box, []int64{id})
	if err != nil {
		return v, 0, err
	}
	v.Offers = []Offer{}
	for _, f := range offering {
		for _, o := range f.Data.Waits.Offers {
			if o.Conversation == id && !slices.ContainsFunc(v.Offers, func(x Offer) bool { return x.UID == f.UID }) {
				v.Offers = append(v.Offers, Offer{o, f.UID, f.Data.Title, f.Data.With})
			}
		}
	}
	if v.Events, err = store.Calendar(t).EventsOf(who.Box, id); err != nil {
		return v, 0, err
	}
	if v.Events == nil {
		v.Events = []calendar.Event{}
	}
	if v.Invitations, err = d.Calendar.Invitations(t, who, messages); err != nil {
		return v, 0, err
	}
	if v.Shared, err = sharing.Of(t, who, id); err != nil {
		return v, 0, err
	}
	if v.Writing, err = talk.Writing(t, who, id, d.now()); err != nil {
		return v, 0, err
	}
	if v.Talk, err = talk.Of(t, who, id); err != nil || row.FromAddr == "" {
		return v, read, err
	}
	v.Between, err = between(t, who, row.FromName, row.FromAddr)
	return v, read, err
}

func between(t store.Tx, who identity.Who, name, address string) (*Between, error) {
	b := &Between{Name: name, Address: address, FollowUps: []followup.FollowUp{}, Along: []string{}}
	along, err := phoning.Numbers(t).Along(who.Box, address)
	if err != nil {
		return nil, err
	}
	for _, a := range along[1:] {
		if n, ok := texting.NumberOf(a); ok {
			a = n.Say()
		}
		b.Along = append(b.Along, a)
	}
	for _, a := range along {
		c, err := store.Correspondents(t).Correspondent(who.Box, a)
		if err != nil {
			return nil, err
		}
		b.Received, b.Sent = b.Received+c.Received, b.Sent+c.Sent
		if b.Since == 0 || c.FirstAt != 0 && c.FirstAt < b.Since {
			b.Since = c.FirstAt
		}
		open, err := store.FollowUps(t).FollowUpsBetween(who.Box, a)
		if err != nil {
			return nil, err
		}
		for _, f := range open {
			if !slices.ContainsFunc(b.FollowUps, func(o followup.FollowUp) bool { return o.UID == f.UID }) {
				b.FollowUps = append(b.FollowUps, f.Data)
			}
		}
	}
	if number, ok := texting.NumberOf(address); ok {
		n, err := phoning.Numbers(t).Of(who.Box, number)
		if err != nil {
			return nil, err
		}
		b.Number = &NumberKnown{Number: number, Says: number.Say(), Name: n.Name, Address: n.Address, Stopped: n.Stopped}
	}
	return b, nil
}

// reached says of the texts of a conversation when they reached their telephones.
func reached(t store.Tx, conversation int64, messages []MessageView) error {
	if !slices.ContainsFunc(messages, func(m MessageView) bool { return m.Own && texting.IsText(m.From.Address) }) {
		return nil
	}
	at, err := sending.Outbox(t).Reached(conversation)
	for i := range messages {
		messages[i].Reached = at[messages[i].ID]
	}
	return err
}

func viewOf(who identity.Who, m store.Message) MessageView {
	v := MessageView{ID: m.ID, From: mail.Address{Name: m.FromName, Address: m.FromAddr}, To: m.To, Cc: m.Cc, Date: m.Date,
		Subject: m.Subject, Kind: m.Kind, Own: m.Own, Raw: m.Raw, Files: m.Files, Stub: m.Stub, Begins: m.Begins}
	if v.Files == nil {
		v.Files = []mail.File{}
	}
	v.Reports = []ReportView{}
	if l := m.Language; l != when.Undetermined && l != when.English && !m.Own && !slices.Contains(who.Week.Languages, l) {
		v.Language = l.Name()
	}
	return v
}

// How much of one message is shown unless all of it is asked for, and how much of
// a conversation is opened with it, in bytes.
const (
	maxShown       = 256 << 10 // of plain text, or of HTML
	unfoldedBefore = 2 << 20   // of originals; what is before them is opened when it is asked for
)

// unfold opens a message: its text, or what its frame will show of it.
func unfold(t store.Tx, m store.Message, v *MessageView, all bool) error {
	raw, err := store.Messages(t).Original(m.ID)
	if errors.Is(err, store.ErrNotFound) { // one that is lost stops no other
		v.Blocks = []mail.Block{{Text: "The text of this message is not here any more. It may still be on its server."}}
		return nil
	}
	if err != nil {
		return err
	}
	body := mime.Read(raw)
	for _, r := range body.Reports {
		v.Reports = append(v.Reports, ReportView{r.Words(), r.Failed()})
	}
	if body.ReceiptTo != "" && !m.Own {
		known, err := sending.Outbox(t).Held(m.BoxID, composing.ReceiptHold(m.ID))
		if err != nil {
			return err
		}
		if !known {
			v.Wants = body.ReceiptTo
		}
	}
	if m.Own {
		v.Bcc = body.Bcc
	}
	if body.HTML != "" && !body.Raw {
		v.HTML = true
		var shown string
		shown, v.Rest = shownOf(body.HTML, '<', all)
		v.Remote = mime.Sanitise(shown, false, false, func(string) string { return "" }).Remote
		v.Blocks = []mail.Block{}
		return nil
	}
	text, rest := shownOf(body.Text, '\n', all)
	v.Rest = rest
	if m.Raw && !body.Raw {
		v.Raw = false // it can be read by now
	}
	if v.Blocks = mail.Fold(text); v.Blocks == nil {
		v.Blocks = []mail.Block{}
	}
	return nil
}

// shownOf is what of a text is shown, and how many bytes are not: all of it, or
// the beginning, up to a byte before which one can stop.
func shownOf(text string, stop byte, all bool) (shown string, rest int) {
	if len(text) <= maxShown || all {
		return text, 0
	}
	shown = text[:maxShown]
	if at := strings.LastIndexByte(shown, stop); at > maxShown/2 { // not in the middle of a line, or of a tag
		shown = shown[:at]
	}
	return strings.ToValidUTF8(shown, ""), len(text) - len(shown)
}

// SafeHTML is HTML that can be shown in a frame.
type SafeHTML = mime.SafeHTML

// Message gives one message with its text, of a very long one the beginning
// unless all is asked for.
func (d *Desk) Message(ctx context.Context, who identity.Who, id int64, all bool) (v MessageView, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		m, err := store.Messages(t).MessageRow(who.Box, id)
		if err != nil {
			return err
		}
		v = viewOf(who, m)
		_, seems, err := junk.Why(t, who.Box, []store.Message{m})
		if err != nil {
			return err
		}
		v.Seems = seems[m.ID]
		if err := unfold(t, m, &v, all); err != nil {
			return err
		}
		if !slices.ContainsFunc(v.Blocks, func(b mail.Block) bool { return b.Quoted }) {
			return nil
		}
		of, quotes, err := quotesOf(t, m)
		if err != nil {
			return err
		}
		return quotes.mark(of, v.Blocks)
	})
	return v, err
}

// Original gives a message byte for byte as it came in.
func (d *Desk) Original(ctx context.Context, who identity.Who, id int64) (raw []byte, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		if _, err := store.Messages(t).MessageRow(who.Box, id); err != nil {
			return err
		}
		raw, err = store.Messages(t).Original(id)
		return err
	})
	return raw, err
}

// Body gives the HTML of a message made safe, for light or dark paper, of a very long one the beginning
// unless all is asked for. Images that came with it are fetched from imagePath
// plus their Content-ID.
func (d *Desk) Body(ctx context.Context, who identity.Who, id int64, dark, remote, all bool, imagePath func(contentID string) string) (mime.SafeHTML, error) {
	var safe mime.SafeHTML
	err := d.store.Read(ctx, func(t store.Tx) error {
		m, err := store.Messages(t).MessageRow(who.Box, id)
		if err != nil {
			return err
		}
		raw, err := store.Messages(t).Original(id)
		if err != nil {
			return err
		}
		var of int
		var quotes *quoting
		var failed error
		shown, _ := shownOf(mime.Read(raw).HTML, '<', all)
		safe = mime.SanitiseQuoting(shown, dark, remote, imagePath, func(quoted string) bool {
			if quotes == nil && failed == nil {
				of, quotes, failed = quotesOf(t, m)
			}
			if failed != nil {
				return false
			}
			alone, err := quotes.alone(of, quoted)
			failed = err
			return alone
		})
		return failed
	})
	return safe, err
}

// Image gives an image that a message shows inline.
func (d *Desk) Image(ctx context.Context, who identity.Who, id int64, contentID string) (mime.Part, error) {
	raw, err := d.Original(ctx, who, id)
	if err != nil {
		return mime.Part{}, err
	}
	for _, p := range mime.Read(raw).Inline {
		if p.ContentID == contentID {
			return p, nil
		}
	}
	return mime.Part{}, store.ErrNotFound
}

// ByMessageID finds the conversation of a message by its Message-ID: a link
// that holds wherever the message has gone (RFC 2392).
func (d *Desk) ByMessageID(ctx context.Context, who identity.Who, mid string) (conversation int64, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		m, err := store.Messages(t).ByMessageID(who.Box, mid)
		conversation = m.ConversationID
		return err
	})
	return conversation, err
}
