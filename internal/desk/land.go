package desk

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/say"
	"ebbe/internal/core/when"
	"ebbe/internal/outbox"
	"ebbe/internal/post"
	"ebbe/internal/store"
)

// schedule notes on the agenda when anything about the delivery of a box
// changes next. What is due already stays there until it has happened.
func schedule(t store.Tx, box int64, s delivery.Settings, w when.Week, now when.Instant) error {
	if at, err := t.TimeOf(box, inbox.Deliver); err != nil || at != 0 && at <= now {
		return err
	}
	return reschedule(t, box, s, w, now)
}

// reschedule does so once all that was due has happened.
func reschedule(t store.Tx, box int64, s delivery.Settings, w when.Week, now when.Instant) error {
	return t.SetTime(box, inbox.Deliver, s.Changes(now, w.Location()))
}

// landed is what came in at once.
type landed struct {
	entry   int64
	count   int    // conversations
	with    string // what brought them
	changes []inbox.Change
	from    []mail.Address // of those the user wants to hear of
	notices []string       // whose waiting has ended
}

// keeper is who keeps the gate of a box: the person, with what they settled.
type keeper struct {
	t      store.Tx
	box    int64
	person store.Person
	now    when.Instant
}

func (d *Desk) keeper(t store.Tx, box int64, now when.Instant) (k keeper, err error) {
	id, err := t.MemberOf(box)
	if err != nil || id == 0 {
		return keeper{t: t, box: box, now: now}, err
	}
	p, err := t.PersonByID(id)
	return keeper{t, box, p, now}, err
}

// due lets in what is held and has been due by now, each stream with its last
// delivery, and says what came in and, for a notification, in which words.
func (k keeper) due() (all landed, err error) {
	heaps, err := k.t.Heaps(k.box)
	if err != nil || len(heaps) == 0 {
		return all, err
	}
	loc, s := k.person.Week.Location(), k.person.Delivery
	type group struct {
		d   delivery.Delivery
		ids []int64
	}
	var groups []group
	for _, stream := range delivery.Streams {
		if heaps[stream].Messages == 0 {
			continue
		}
		last := s.Last(stream, heaps[stream].Oldest, k.now, loc)
		if last.At == 0 {
			continue
		}
		ids, err := k.t.HeldUntil(k.box, stream, last.At)
		if err != nil {
			return all, err
		}
		if i := slices.IndexFunc(groups, func(g group) bool { return g.d == last || !g.d.Round && !last.Round }); i >= 0 {
			groups[i].ids = append(groups[i].ids, ids...)
		} else {
			groups = append(groups, group{last, ids})
		}
	}
	slices.SortFunc(groups, func(a, b group) int { return cmp.Compare(a.d.At, b.d.At) })
	for _, g := range groups {
		a, text := inbox.Arrival{At: k.now, Why: inbox.Arrived}, "the beginning of open hours"
		if g.d.Round {
			a, text = inbox.Arrival{At: k.now, Why: inbox.Landed, Round: g.d.At}, k.round(g.d.At)
			if g.d.At >= when.DayStart(k.now, loc, 0) {
				a.At = g.d.At
			}
		}
		got, err := k.land(g.ids, a, store.Entry{Kind: inbox.Deliver, Actor: store.ByClock, At: k.now, Text: text})
		if err != nil {
			return all, err
		}
		all.count, all.changes, all.from = all.count+got.count, append(all.changes, got.changes...), append(all.from, got.from...)
		all.with, all.notices = text, append(all.notices, got.notices...)
	}
	return all, nil
}

// round names a round.
func (k keeper) round(at when.Instant) string {
	words := k.person.Week.Say(when.Moment{At: at}, k.now)
	if at >= when.DayStart(k.now, k.person.Week.Location(), 0) {
		_, words, _ = strings.Cut(words, ", ")
	}
	return "the " + words + " round"
}

// land lets in what is held of the conversations, in their order, as a says,
// with the line e of the journal.
func (k keeper) land(ids []int64, a inbox.Arrival, e store.Entry) (out landed, err error) {
	seen := make(map[int64]bool, len(ids)) // what comes in; a conversation can hold mail of both streams
	ids = slices.DeleteFunc(slices.Clone(ids), func(id int64) bool {
		known := seen[id]
		seen[id] = true
		return known
	})
	if len(ids) == 0 {
		return out, nil
	}
	shown, err := k.t.InView(k.box, ids)
	if err != nil {
		return out, err
	}
	if out.from, err = k.wanted(ids); err != nil {
		return out, err
	}
	delivery, err := k.join(shown, a)
	if err != nil {
		return out, err
	}
	awaited, err := k.t.HeldFrom(k.box)
	if err != nil {
		return out, err
	}
	var writers []mail.Address
	for a, in := range awaited {
		if slices.ContainsFunc(in, func(id int64) bool { return seen[id] }) {
			writers = append(writers, a)
		}
	}
	ended, notice, err := endWaiting(k.t, k.box, k.person, writers, k.now)
	if err != nil {
		return out, err
	}
	if notice != "" {
		out.notices = append(out.notices, notice)
	}
	e.BoxID, e.Count, e.Touched, e.Changes = k.box, len(ids), ids, delivery.Moved
	e.Delta, e.Step = len(ids)-len(shown), e.Kind.Undoable()
	for _, c := range delivery.Moved {
		e.Delta += c.Delta()
	}
	if len(ids) == 1 {
		e.ConversationID = ids[0]
	}
	if err := k.t.Record(&e); err != nil {
		return out, err
	}
	if _, err := k.t.Land(k.box, ids, inbox.Position{Reason: a.Why, Since: a.At, Round: a.Round}, e.ID); err != nil {
		return out, err
	}
	out.entry, out.count, out.changes = e.ID, len(ids), append(ended, delivery.Moved...)
	return out, k.t.Deliver(k.box, k.person.ID, delivery)
}

// join adds the held messages of conversations that are in view to them.
func (k keeper) join(shown []int64, a inbox.Arrival) (out store.Delivery, err error) {
	if len(shown) == 0 {
		return out, nil
	}
	b := batcher{t: k.t, box: k.box, person: k.person.ID, rows: map[int64]*store.Conversation{}, marks: map[int64]*store.Mark{}, before: map[int64]inbox.Conversation{}, held: map[int64]bool{}}
	if b.own, err = ownAddresses(k.t, k.box); err != nil {
		return out, err
	}
	if err := b.fetch(shown); err != nil {
		return out, err
	}
	held, err := k.t.HeldMessages(k.box, shown)
	if err != nil {
		return out, err
	}
	for _, m := range held {
		row, mark := b.rows[m.ConversationID], b.marks[m.ConversationID]
		if row == nil {
			continue
		}
		comes := a
		comes.At, comes.Place, comes.Unread, comes.Asleep = max(a.At, row.Since), inbox.Inbox, true, k.person.Habits.Asleep
		comes.Answer, comes.Auto = row.OwnLast && row.LastAt <= m.Date, m.Kind.Machine()
		c := inbox.Receive(row.State(*mark), comes)
		row.SetPosition(c.Position)
		mark.Unread, mark.Looks = c.Unread, c.Looks
		row.Gather(m, b.own)
	}
	return b.finish(), nil
}

// wanted are those who wrote something held in the conversations and of whom
// the user wants to hear.
func (k keeper) wanted(ids []int64) (out []mail.Address, err error) {
	if !k.person.Delivery.Notify.On || len(k.person.Delivery.Notify.People) == 0 {
		return nil, nil
	}
	messages, err := k.t.HeldMessages(k.box, ids[:min(len(ids), 1000)])
	for _, m := range messages {
		a := mail.Address{Name: m.FromName, Address: m.FromAddr}
		if k.person.Delivery.Notify.From(a.Address) && !slices.ContainsFunc(out, func(o mail.Address) bool { return o.Address == a.Address }) {
			out = append(out, a)
		}
	}
	return out, err
}

// tell gives the notification with these words, or keeps it while the user
// wants to hear nothing.
func (k keeper) tell(text string) (string, error) {
	if text == "" || !k.person.Delivery.Silent(k.now, k.person.Week.Location()) {
		return text, nil
	}
	return "", k.t.Postpone(k.box, text)
}

// says is the notification about a delivery: one at most.
func (k keeper) says(l landed) string {
	n := k.person.Delivery.Notify
	switch {
	case l.count == 0:
		return ""
	case n.On && n.Rounds:
		return say.Upper(l.with) + " brought " + say.Plural(l.count, "conversation") + among(l.from) + "."
	case len(l.from) > 0:
		return "Mail" + strings.Replace(among(l.from), ", among them", " from", 1) + "."
	}
	return ""
}

func among(people []mail.Address) string {
	if len(people) == 0 {
		return ""
	}
	var names []string
	for _, a := range people[:min(len(people), 3)] {
		names = append(names, a.Short())
	}
	if more := len(people) - 3; more > 0 {
		names = append(names, fmt.Sprintf("%d more", more))
	}
	return ", among them " + strings.Join(names, ", ")
}

// deliver is what happens when something about the delivery of a box changes:
// what is due comes in, notifications that were kept are given, and the next
// change is noted.
func (k keeper) deliver() (got landed, notice string, err error) {
	if got, err = k.due(); err != nil {
		return got, "", err
	}
	if notice, err = k.tell(k.says(got)); err != nil {
		return got, "", err
	}
	if !k.person.Delivery.Silent(k.now, k.person.Week.Location()) {
		kept, err := k.t.TakePostponed(k.box)
		if err != nil {
			return got, "", err
		}
		if n := len(kept); n == 1 {
			notice = strings.TrimSpace("While it was quiet: " + kept[0].Text + " " + notice)
		} else if n > 1 {
			notice = strings.TrimSpace(fmt.Sprintf("While it was quiet: %s And %s. %s", kept[0].Text, say.Plural(n-1, "other notice"), notice))
		}
	}
	return got, notice, reschedule(k.t, k.box, k.person.Delivery, k.person.Week, k.now)
}

// answered lets in the answers that are held in those of the conversations that
// come back now because nobody has answered: somebody has.
func (k keeper) answered(ids []int64) (landed, error) {
	held, err := k.t.HeldAmong(k.box, ids)
	if err != nil || len(held) == 0 {
		return landed{}, err
	}
	state, err := k.t.State(k.box, k.person.ID, held, nil)
	held = slices.DeleteFunc(held, func(id int64) bool { return state.Conversations[id].Until != inbox.UntilUnanswered })
	if err != nil || len(held) == 0 {
		return landed{}, err
	}
	return k.land(held, inbox.Arrival{At: k.now, Why: inbox.Arrived}, store.Entry{Kind: inbox.Deliver, Actor: store.ByClock, At: k.now, Text: "the end of a snooze"})
}

// holds says that what comes back from a snooze at the instant at waits for the
// next delivery.
func (k keeper) holds(at when.Instant) bool {
	s, loc := k.person.Delivery, k.person.Week.Location()
	return s.BackWaits && !s.Judge(delivery.Letter{Stream: delivery.StreamPeople}, at, loc).In && s.Last(delivery.StreamPeople, at, k.now, loc).At == 0
}

func ownAddresses(t store.Tx, box int64) (map[string]bool, error) {
	addresses, err := t.OwnAddresses(box)
	own := map[string]bool{}
	for _, a := range addresses {
		own[a.Address] = true
	}
	return own, err
}

// asked is a message whose sender is to hear that it is held.
type asked struct {
	reply delivery.Reply
	m     mail.Message
	at    mail.Address // the own address it came to
	next  when.Instant // when it comes in; 0: nobody knows yet
}

// answer puts the automatic answers of a batch into the outbox: one for each
// address and hold, each with its line in the journal.
func (b *batcher) answer() error {
	var to []string
	for _, a := range b.asking {
		to = append(to, a.reply.To)
	}
	heard, err := b.t.Heard(b.box, to)
	if err != nil {
		return err
	}
	for _, a := range b.asking {
		if slices.Contains(heard[a.reply.To], a.reply.Hold) {
			continue
		}
		heard[a.reply.To] = append(heard[a.reply.To], a.reply.Hold)
		next := "later"
		if a.next > 0 {
			next = b.week.Say(when.Moment{At: a.next}, b.now)
		}
		text := delivery.Fill(a.reply.Text, map[string]string{delivery.BlankNext: next, delivery.BlankContact: a.reply.Contact, delivery.BlankName: a.m.From.Short()})
		o := store.Outgoing{BoxID: b.box, Hold: a.reply.Hold, Address: a.reply.To, Name: a.m.From.Name, At: b.now, Text: text}
		if o.Subject, o.Original, err = post.AutoAnswer(a.at, mail.Address{Name: a.m.From.Name, Address: a.reply.To}, a.m, text, b.now.In(b.week.Location())); err != nil {
			return err
		}
		o.Quiet = true
		_, fresh, err := outbox.Queue(b.t, o, a.at.Address, b.now)
		if err != nil {
			return err
		}
		if fresh {
			if err := b.t.Record(&store.Entry{BoxID: b.box, PersonID: b.person, Actor: store.ByMail, Kind: inbox.AutoAnswer, At: b.now, Count: 1, Text: a.m.From.Short()}); err != nil {
				return err
			}
		}
	}
	return nil
}

// notice is the notification about what has come into view from people the
// user wants to hear of.
func (b *batcher) notice() (string, error) {
	var from []mail.Address
	subject := ""
	for _, m := range b.out.Messages {
		if m.Held != "" || m.Own || !b.gate.Notify.From(m.FromAddr) {
			continue
		}
		subject = m.Subject
		if a := (mail.Address{Name: m.FromName, Address: m.FromAddr}); !slices.Contains(from, a) {
			from = append(from, a)
		}
	}
	k := keeper{b.t, b.box, store.Person{ID: b.person, Week: b.week, Delivery: b.gate}, b.now}
	switch {
	case len(from) == 0:
		return "", nil
	case len(from) == 1 && subject != "":
		return k.tell(from[0].Short() + ": " + subject)
	}
	return k.tell("Mail" + strings.Replace(among(from), ", among them", " from", 1) + ".")
}
