package desk

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/post"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// PageSize is how many rows a page of a list has.
const PageSize = 100

func parseCursor(after string) (*store.Cursor, error) {
	if after == "" {
		return nil, nil
	}
	c := &store.Cursor{}
	if _, err := fmt.Sscanf(after, "%d.%d", &c.At, &c.ID); err != nil {
		return nil, problem.Invalid("after", "That is no position in this list. Start again from the top.")
	}
	return c, nil
}

func slipsOf(t store.Tx, who identity.Who, rows []store.Row) ([]Slip, error) {
	ids := make([]int64, len(rows))
	for i, r := range rows {
		ids[i] = r.ID
	}
	followUps, err := t.FollowUpsOf(who.Box, ids)
	if err != nil {
		return nil, err
	}
	drafts, err := t.Drafts(who.Person, ids)
	if err != nil {
		return nil, err
	}
	slips := make([]Slip, len(rows))
	for i, r := range rows {
		slips[i] = slipOf(r)
		slips[i].Draft = drafts[r.ID]
		for _, f := range followUps[r.ID] {
			if !f.Data.Due.IsZero() {
				slips[i].Due = &f.Data.Due
				break
			}
		}
	}
	return slips, nil
}

func slipOf(r store.Row) Slip {
	from := mail.Address{Name: r.FromName, Address: r.FromAddr}.Short()
	if from == "" {
		from = "Unknown sender"
	}
	subject := r.Subject
	if subject == "" {
		subject = "(no subject)"
	}
	return Slip{ID: r.ID, From: from, Subject: subject, Kind: r.Kind, LastAt: r.LastAt, Messages: r.Messages, Files: r.Files,
		Unread: r.Unread, Starred: r.Starred, Looks: r.Looks, Position: r.Position(),
		Title: r.Title, Note: r.Note != "", Labels: r.Labels.IDs(), Reach: r.Reach, Account: r.Account}
}

// Later gives a page of the snoozed, in the order of their return.
func (d *Desk) Later(ctx context.Context, who identity.Who, after string) (l List, err error) {
	cursor, err := parseCursor(after)
	if err != nil {
		return l, err
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		rows, err := t.Later(who.Box, who.Person, cursor, PageSize)
		if err != nil {
			return err
		}
		if len(rows) == PageSize {
			last := rows[len(rows)-1]
			l.Next = fmt.Sprintf("%d.%d", last.ReturnAt, last.ID)
		}
		if l.Slips, err = slipsOf(t, who, rows); err != nil {
			return err
		}
		l.Count, err = t.CountPlace(who.Box, inbox.Snoozed)
		return err
	})
	return l, err
}

// Find gives a page of the conversations that match q, newest first, wherever
// they are unless q narrows it.
func (d *Desk) Find(ctx context.Context, who identity.Who, q search.Query, after string) (l List, err error) {
	cursor, err := parseCursor(after)
	if err != nil {
		return l, err
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		rows, err := t.Found(who.Box, who.Person, q, cursor, PageSize)
		if err != nil {
			return err
		}
		if len(rows) == PageSize {
			last := rows[len(rows)-1]
			l.Next = fmt.Sprintf("%d.%d", last.LastAt, last.ID)
		}
		l.Count = len(rows)
		l.Slips, err = slipsOf(t, who, rows)
		return err
	})
	return l, err
}

// maxUnfolded is how many messages of a conversation are opened at once.
const maxUnfolded = 20

// Conversation opens a conversation: all its messages, with the text of the
// last one and of those after the reader's last decision.
func (d *Desk) Conversation(ctx context.Context, who identity.Who, id int64) (v ConversationView, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		if id, err = t.Resolve(who.Box, id); err != nil {
			return err
		}
		row, err := t.RowByID(who.Box, who.Person, id)
		if err == nil && row.Place == inbox.Held {
			err = store.ErrNotFound
		}
		if err != nil {
			return err
		}
		slips, err := slipsOf(t, who, []store.Row{row})
		if err != nil {
			return err
		}
		v.Slip, v.Note = slips[0], row.Note
		draft, err := t.Draft(who.Person, id)
		if err != nil {
			return err
		}
		if v.Draft, err = draftView(t, who, draft); err != nil {
			return err
		}
		going, err := t.OutboxOf(who.Box, id)
		if err != nil {
			return err
		}
		v.Going = []OutboxLine{}
		for _, o := range going {
			v.Going = append(v.Going, outboxLine(o))
		}
		messages, err := t.MessagesOf(who.Box, id)
		if err != nil {
			return err
		}
		v.Messages = make([]MessageView, len(messages))
		read := 0
		for i, m := range slices.Backward(messages) {
			v.Messages[i] = viewOf(m)
			newest := i == len(messages)-1
			fresh := row.Unread && !m.Own && m.Date >= row.Since && len(messages)-i <= maxUnfolded && read+m.Size <= unfoldedBefore
			if newest || fresh {
				read += m.Size
				if err := unfold(t, m, &v.Messages[i], false); err != nil {
					return err
				}
			}
		}
		followUps, err := t.FollowUpsOf(who.Box, []int64{id})
		if err != nil {
			return err
		}
		v.FollowUps = []followup.FollowUp{}
		for _, f := range followUps[id] {
			v.FollowUps = append(v.FollowUps, f.Data)
		}
		if v.Events, err = t.EventsOf(who.Box, id); err != nil {
			return err
		}
		if v.Events == nil {
			v.Events = []calendar.Event{}
		}
		if v.Invitations, err = d.invitations(t, who, messages); err != nil {
			return err
		}
		if row.FromAddr == "" {
			return nil
		}
		v.Between, err = between(t, who, row.FromName, row.FromAddr)
		return err
	})
	return v, err
}

func between(t store.Tx, who identity.Who, name, address string) (*Between, error) {
	c, err := t.Correspondent(who.Box, address)
	if err != nil {
		return nil, err
	}
	b := &Between{Name: name, Address: address, Received: c.Received, Sent: c.Sent, Since: c.FirstAt, FollowUps: []followup.FollowUp{}}
	open, err := t.FollowUpsBetween(who.Box, address)
	for _, f := range open {
		b.FollowUps = append(b.FollowUps, f.Data)
	}
	return b, err
}

func viewOf(m store.Message) MessageView {
	v := MessageView{ID: m.ID, From: mail.Address{Name: m.FromName, Address: m.FromAddr}, To: m.To, Cc: m.Cc, Date: m.Date,
		Subject: m.Subject, Kind: m.Kind, Own: m.Own, Raw: m.Raw, Files: m.Files, Stub: m.Stub}
	if v.Files == nil {
		v.Files = []mail.File{}
	}
	v.Reports = []ReportView{}
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
	raw, err := t.Original(m.ID)
	if err != nil {
		return err
	}
	body := post.Read(raw)
	for _, r := range body.Reports {
		v.Reports = append(v.Reports, ReportView{r.Words(), r.Failed()})
	}
	if body.ReceiptTo != "" && !m.Own {
		known, err := t.Held(m.BoxID, receiptHold(m.ID))
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
		v.Remote = post.Sanitise(shown, false, func(string) string { return "" }).Remote
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
type SafeHTML = post.SafeHTML

// Message gives one message with its text, of a very long one the beginning
// unless all is asked for.
func (d *Desk) Message(ctx context.Context, who identity.Who, id int64, all bool) (v MessageView, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		m, err := t.MessageRow(who.Box, id)
		if err != nil {
			return err
		}
		v = viewOf(m)
		return unfold(t, m, &v, all)
	})
	return v, err
}

// Original gives a message byte for byte as it came in.
func (d *Desk) Original(ctx context.Context, who identity.Who, id int64) (raw []byte, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		if _, err := t.MessageRow(who.Box, id); err != nil {
			return err
		}
		raw, err = t.Original(id)
		return err
	})
	return raw, err
}

// Body gives the HTML of a message made safe, of a very long one the beginning
// unless all is asked for. Images that came with it are fetched from imagePath
// plus their Content-ID.
func (d *Desk) Body(ctx context.Context, who identity.Who, id int64, remote, all bool, imagePath func(contentID string) string) (post.SafeHTML, error) {
	raw, err := d.Original(ctx, who, id)
	if err != nil {
		return post.SafeHTML{}, err
	}
	shown, _ := shownOf(post.Read(raw).HTML, '<', all)
	return post.Sanitise(shown, remote, imagePath), nil
}

// File gives the n-th file of a message.
func (d *Desk) File(ctx context.Context, who identity.Who, id int64, n int) (post.Part, error) {
	raw, err := d.Original(ctx, who, id)
	if err != nil {
		return post.Part{}, err
	}
	parts := post.Read(raw).Parts
	if n < 0 || n >= len(parts) {
		return post.Part{}, store.ErrNotFound
	}
	return parts[n], nil
}

// Image gives an image that a message shows inline.
func (d *Desk) Image(ctx context.Context, who identity.Who, id int64, contentID string) (post.Part, error) {
	raw, err := d.Original(ctx, who, id)
	if err != nil {
		return post.Part{}, err
	}
	for _, p := range post.Read(raw).Inline {
		if p.ContentID == contentID {
			return p, nil
		}
	}
	return post.Part{}, store.ErrNotFound
}

// ByMessageID finds the conversation of a message by its Message-ID: a link
// that holds wherever the message has gone (RFC 2392).
func (d *Desk) ByMessageID(ctx context.Context, who identity.Who, mid string) (conversation int64, err error) {
	err = d.store.Read(ctx, func(t store.Tx) error {
		m, err := t.ByMessageID(who.Box, mid)
		conversation = m.ConversationID
		return err
	})
	return conversation, err
}

// History gives a page of the journal, narrowed as p says.
func (d *Desk) History(ctx context.Context, who identity.Who, p store.Past) (h History, err error) {
	h.Lines = []HistoryLine{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		entries, err := t.History(who.Box, p, PageSize)
		if err != nil {
			return err
		}
		people, err := t.People()
		if err != nil {
			return err
		}
		names := map[int64]string{}
		for _, p := range people {
			names[p.ID] = p.Name
		}
		for _, e := range entries {
			l := HistoryLine{ID: e.ID, At: e.At, Actor: e.Actor, Kind: e.Kind, Count: e.Count, Text: e.Text, Conversation: e.ConversationID, TakenBack: e.TakenBack != 0,
				Step: e.Step && e.PersonID == who.Person && e.Of == 0}
			if e.Actor == store.ByPerson {
				l.Who = names[e.PersonID]
			}
			h.Lines = append(h.Lines, l)
		}
		if len(entries) == PageSize {
			h.Next = entries[len(entries)-1].ID
		}
		return nil
	})
	return h, err
}

// Dayline gives the course of the day so far, what is foreseen for the rest of
// it, and what comes of it.
func (d *Desk) Dayline(ctx context.Context, who identity.Who) (l Dayline, err error) {
	now, loc := d.now(), who.Week.Location()
	hour := numbers.Hour
	start, end := when.DayStart(now, loc, 0), when.DayStart(now, loc, 1)
	l.Now, l.From, l.To = now, max(start, min(start+6*hour, now-hour/2)), min(end, max(start+22*hour, now+hour/2))
	err = d.store.Read(ctx, func(t store.Tx) error {
		if l.Left, err = t.CountPlace(who.Box, inbox.Inbox); err != nil {
			return err
		}
		steps, err := t.Steps(who.Box, l.From, now)
		if err != nil {
			return err
		}
		l.Curve = numbers.Curve(steps, l.From, now, l.Left, hour/30)
		back, due, err := t.Returns(who.Box, now, end)
		if err != nil {
			return err
		}
		l.Back, l.Due = marks(back), marks(due)
		p, err := t.PersonByID(who.Person)
		if err != nil {
			return err
		}
		l.Delivery = d.standing(who, p.Delivery)
		if l.Delivery.Held, err = held(t, who.Box, p.Delivery); err != nil {
			return err
		}
		people, machines := p.Delivery.Course(delivery.StreamPeople, l.From, l.To, loc), p.Delivery.Course(delivery.StreamMachines, l.From, l.To, loc)
		l.Bands = people.Pieces
		l.Rounds = append(append([]when.Instant{}, people.Rounds...), machines.Rounds...)
		slices.Sort(l.Rounds)
		l.Rounds = slices.Compact(l.Rounds)
		in, err := d.inflow(t, who, p.Delivery, l.To)
		if err != nil {
			return err
		}
		habit, err := d.habit(t, who)
		if err != nil {
			return err
		}
		if l.Learned = habit.Days; l.Learned >= fewestDays {
			slots := numbers.Foresee(habit, l.Left, in, back, now, l.To, loc, who.Week.Works)
			l.Zero = numbers.Zero(slots, l.Left)
			l.Forecast = append(l.Forecast, numbers.Point{At: now, Left: l.Left})
			for _, s := range slots {
				l.Forecast = append(l.Forecast, numbers.Point{At: s.At, Left: int(math.Round(s.Left))})
			}
		}
		if l.Later, err = t.CountPlace(who.Box, inbox.Snoozed); err != nil {
			return err
		}
		if l.FollowUps, err = t.CountFollowUps(who.Box, 1, end); err != nil {
			return err
		}
		if l.Waiting, err = t.CountWaiting(who.Box); err != nil {
			return err
		}
		l.Stuck, err = t.CountStuck(who.Box)
		return err
	})
	return l, err
}

// fewestDays is from how many days of mail a forecast is made.
const fewestDays = 7

// habit is what the days of the user are like. It is learned
// anew each day, and after an import.
func (d *Desk) habit(t store.Tx, who identity.Who) (numbers.Habit, error) {
	now, loc := d.now(), who.Week.Location()
	today := when.DayStart(now, loc, 0)
	d.learned.Lock()
	defer d.learned.Unlock()
	if h, ok := d.learned.by[who.Box]; ok && h.day == today {
		return h.habit, nil
	}
	flow, err := t.Flow(who.Box, numbers.LearnedSince(now, loc), today)
	if err != nil {
		return numbers.Habit{}, err
	}
	h := numbers.Learn(flow, now, loc, who.Week.Works)
	if d.learned.by == nil {
		d.learned.by = map[int64]learned{}
	}
	d.learned.by[who.Box] = learned{today, h}
	return h, nil
}

// forget lets what was learned of the days of all users be learned anew.
func (d *Desk) forget() {
	d.learned.Lock()
	defer d.learned.Unlock()
	d.learned.by, d.learned.arrived, d.learned.paces = nil, nil, nil
}

// Misses says by how much the forecasts of the past four weeks would have been
// wrong, had they been made at this time of their day.
func (d *Desk) Misses(ctx context.Context, who identity.Who) (m numbers.Miss, err error) {
	now, loc := d.now(), who.Week.Location()
	from := when.DayStart(now, loc, -2*28)
	err = d.store.Read(ctx, func(t store.Tx) error {
		left, err := t.CountPlace(who.Box, inbox.Inbox)
		if err != nil {
			return err
		}
		flow, err := t.Flow(who.Box, from, now)
		if err != nil {
			return err
		}
		steps, err := t.Steps(who.Box, from, now)
		if err != nil {
			return err
		}
		back, err := t.Returned(who.Box, from, now)
		if err != nil {
			return err
		}
		m = numbers.Misses(flow, steps, back, left, now, loc, who.Week.Works)
		return nil
	})
	return m, err
}

// marks gathers times into one mark for each quarter of an hour.
func marks(times []when.Instant) []Mark {
	const quarter = when.Instant(900_000)
	out, at := []Mark{}, map[when.Instant]int{}
	for _, t := range times {
		slot := t / quarter
		if i, ok := at[slot]; ok {
			out[i].Count++
			continue
		}
		at[slot] = len(out)
		out = append(out, Mark{t, 1})
	}
	return out
}

// Tide gives what was decided today, without what was taken back, and what
// comes next.
func (d *Desk) Tide(ctx context.Context, who identity.Who) (tide Tide, err error) {
	now, loc := d.now(), who.Week.Location()
	err = d.store.Read(ctx, func(t store.Tx) error {
		if tide.ByKind, err = t.Decided(who.Box, when.DayStart(now, loc, 0), now); err != nil {
			return err
		}
		for _, n := range tide.ByKind {
			tide.Decided += n
		}
		if tide.Left, err = t.CountPlace(who.Box, inbox.Inbox); err != nil {
			return err
		}
		if tide.Later, err = t.CountPlace(who.Box, inbox.Snoozed); err != nil {
			return err
		}
		if tide.NextBack, err = t.NextReturn(who.Box); err != nil {
			return err
		}
		p, err := t.PersonByID(who.Person)
		if err != nil {
			return err
		}
		if st := p.Delivery.Stands(delivery.StreamPeople, now, loc); st.State != delivery.StateOpen {
			tide.NextMail = st.Next.At
		}
		tide.DueToday, err = t.CountFollowUps(who.Box, 1, when.DayStart(now, loc, 1))
		return err
	})
	return tide, err
}

// Grid gives the coming week with what already waits in each part of it.
func (d *Desk) Grid(ctx context.Context, who identity.Who) (g [7]when.Day, err error) {
	now, loc := d.now(), who.Week.Location()
	err = d.store.Read(ctx, func(t store.Tx) error {
		back, due, err := t.Returns(who.Box, when.DayStart(now, loc, 0), when.DayStart(now, loc, 7))
		g = who.Week.Grid(now, back, due)
		return err
	})
	return g, err
}

// Read says what a phrase means.
func (d *Desk) Read(ctx context.Context, who identity.Who, phrase string) (p Phrase, err error) {
	p.Reading = who.Week.Read(phrase, d.now())
	if p.Moment.IsZero() {
		return p, nil
	}
	const around = when.Instant(30 * 60_000)
	err = d.store.Read(ctx, func(t store.Tx) error {
		back, due, err := t.Returns(who.Box, p.Moment.At-around, p.Moment.At+around)
		p.Also = len(back) + len(due)
		return err
	})
	return p, err
}

// Now is the present as the desk takes it.
func (d *Desk) Now() when.Instant { return d.now() }
