package intake

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/say"
	"ebbe/internal/core/when"
	"ebbe/internal/journal"
	"ebbe/internal/outbox"
	"ebbe/internal/post/mime"
	"ebbe/internal/store"
	"ebbe/internal/store/awaiting"
	"ebbe/internal/store/holding"
	"ebbe/internal/store/sending"
)

// schedule notes on the agenda when anything about the delivery of a box
// changes next. What is due already stays there until it has happened.
func schedule(t store.Tx, box int64, s delivery.Settings, w when.Week, now when.Instant) error {
	if at, err := store.Agenda(t).TimeOf(box, inbox.Deliver); err != nil || at != 0 && at <= now {
		return err
	}
	return Reschedule(t, box, s, w, now)
}

// Reschedule does so once all that was due has happened.
func Reschedule(t store.Tx, box int64, s delivery.Settings, w when.Week, now when.Instant) error {
	if err := store.Agenda(t).SetTime(box, inbox.Deliver, s.Changes(now, w.Location())); err != nil {
		return err
	}
	at, err := store.Agenda(t).TimeOf(box, inbox.WriteLetter)
	next := s.Letter.Next(now, w.Location())
	if err != nil || at == next || at != 0 && at <= now && next != 0 {
		return err
	}
	return store.Agenda(t).SetTime(box, inbox.WriteLetter, next)
}

// CameIn is what came in at once.
type CameIn struct {
	Entry   int64
	Count   int    // conversations
	with    string // what brought them
	Changes []inbox.Change
	from    []mail.Address   // of those the user wants to hear of
	about   int64            // the conversation in which they wrote, if it is one
	Notices []journal.Notice // whose waiting has ended
	Calls   []journal.Notice // to those of a team whom rules have given something
}

// Gate is the gate of a box in a transaction: what is held waits behind it until
// it is let in, as the person whose box it is has settled.
type Gate struct {
	T      store.Tx
	Box    int64
	Person store.Person
	Now    when.Instant
	Sort   Sort // what rules do with what comes in; nil: nothing
}

// GateOf is the gate of a box as it stands at now, with the person whose it is.
func GateOf(t store.Tx, box int64, now when.Instant, sort Sort) (k Gate, err error) {
	id, err := store.People(t).Keeper(box)
	if err != nil || id == 0 {
		return Gate{T: t, Box: box, Now: now, Sort: sort}, err
	}
	p, err := store.People(t).PersonByID(id)
	return Gate{t, box, p, now, sort}, err
}

// due lets in what is held and has been due by now, each stream with its last
// delivery, and says what came in and, for a notification, in which words.
func (k Gate) due() (all CameIn, err error) {
	heaps, err := holding.Held(k.T).Heaps(k.Box)
	if err != nil || len(heaps) == 0 {
		return all, err
	}
	loc, s := k.Person.Week.Location(), k.Person.Delivery
	type group struct {
		d   delivery.Delivery
		ids []int64
	}
	var groups []group
	for _, stream := range slices.Sorted(maps.Keys(heaps)) { // also one that has been deleted since
		last := s.Last(stream, heaps[stream].Oldest, k.Now, loc)
		if last.At == 0 {
			continue
		}
		ids, err := store.HeldMail(k.T).HeldUntil(k.Box, stream, last.At)
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
		a, text := inbox.Arrival{At: k.Now, Why: inbox.Arrived}, "the beginning of open hours"
		if g.d.Round {
			a, text = inbox.Arrival{At: k.Now, Why: inbox.WithRound, Round: g.d.At}, k.round(g.d.At)
			if g.d.At >= when.DayStart(k.Now, loc, 0) {
				a.At = g.d.At
			}
		}
		got, err := k.ComeIn(g.ids, a, store.Entry{Kind: inbox.Deliver, Actor: store.ByClock, At: k.Now, Text: text})
		if err != nil {
			return all, err
		}
		all.Count, all.Changes, all.from = all.Count+got.Count, append(all.Changes, got.Changes...), append(all.from, got.from...)
		if all.about = got.about; len(all.from) > len(got.from) {
			all.about = 0
		}
		all.with, all.Notices, all.Calls = text, append(all.Notices, got.Notices...), append(all.Calls, got.Calls...)
	}
	return all, nil
}

// round names a round.
func (k Gate) round(at when.Instant) string {
	words := k.Person.Week.Say(when.Moment{At: at}, k.Now)
	if at >= when.DayStart(k.Now, k.Person.Week.Location(), 0) {
		_, words, _ = strings.Cut(words, ", ")
	}
	return "the " + words + " round"
}

// ComeIn lets in what is held of the conversations, in their order, as a says,
// with the line e of the journal.
func (k Gate) ComeIn(ids []int64, a inbox.Arrival, e store.Entry) (out CameIn, err error) {
	seen := make(map[int64]bool, len(ids)) // what comes in; a conversation can hold mail of both streams
	ids = slices.DeleteFunc(slices.Clone(ids), func(id int64) bool {
		known := seen[id]
		seen[id] = true
		return known
	})
	if len(ids) == 0 {
		return out, nil
	}
	shown, err := store.HeldMail(k.T).InView(k.Box, ids)
	if err != nil {
		return out, err
	}
	if out.from, out.about, err = k.wanted(ids); err != nil {
		return out, err
	}
	delivery, err := k.join(shown, a)
	if err != nil {
		return out, err
	}
	came, err := awaiting.Awaited(k.T).Held(k.Box, ids)
	if err != nil {
		return out, err
	}
	ended, notice, err := endWaiting(k.T, k.Box, k.Person, came, k.Now)
	if err != nil {
		return out, err
	}
	if notice.Text != "" {
		out.Notices = append(out.Notices, notice)
	}
	e.BoxID, e.Count, e.Touched, e.Changes = k.Box, len(ids), ids, delivery.Moved
	if e.Besides, err = k.waited(ids); err != nil {
		return out, err
	}
	e.Delta = len(ids) - len(shown)
	for _, c := range delivery.Moved {
		e.Delta += c.Delta()
	}
	if len(ids) == 1 {
		e.ConversationID = ids[0]
	}
	if err := store.Journal(k.T).Record(&e); err != nil {
		return out, err
	}
	if _, err := store.HeldMail(k.T).ComeIn(k.Box, ids, inbox.Position{Reason: a.Why, Since: a.At, Round: a.Round}, e.ID); err != nil {
		return out, err
	}
	out.Entry, out.Count, out.Changes = e.ID, len(ids), append(ended, delivery.Moved...)
	if err := store.Messages(k.T).AddBatch(k.Box, k.Person.ID, delivery); err != nil {
		return out, err
	}
	return out, k.sort(&out)
}

// waited counts how long what is held of conversations has been.
func (k Gate) waited(ids []int64) (map[string]int, error) {
	since, err := holding.Held(k.T).Since(k.Box, ids)
	out := map[string]int{}
	for _, at := range since {
		out[numbers.HeldFor(k.Now-at)]++
	}
	return out, err
}

// sort has rules do what they do with what has come in.
func (k Gate) sort(in *CameIn) error {
	if k.Sort == nil {
		return nil
	}
	messages, err := store.HeldMail(k.T).CameWith(in.Entry)
	if err != nil {
		return err
	}
	if err := arrived(k.T, k.Box, messages, k.Now); err != nil {
		return err
	}
	sorted, err := k.Sort(k.T, k.Box, messages, nil)
	if sorted.Notice.Text != "" {
		in.Notices = append(in.Notices, sorted.Notice)
	}
	in.Changes, in.Calls = append(in.Changes, sorted.Changes...), append(in.Calls, sorted.Calls...)
	return err
}

// join adds the held messages of conversations that are in view to them.
func (k Gate) join(shown []int64, a inbox.Arrival) (out store.Batch, err error) {
	if len(shown) == 0 {
		return out, nil
	}
	b := batcher{t: k.T, box: k.Box, person: k.Person.ID, rows: map[int64]*store.Conversation{}, marks: map[int64]*store.Mark{}, before: map[int64]inbox.Conversation{}, held: map[int64]bool{}}
	if b.own, err = OwnAddresses(k.T, k.Box); err != nil {
		return out, err
	}
	if err := b.fetch(shown); err != nil {
		return out, err
	}
	held, err := store.HeldMail(k.T).HeldMessages(k.Box, shown)
	if err != nil {
		return out, err
	}
	for _, m := range held {
		row, mark := b.rows[m.ConversationID], b.marks[m.ConversationID]
		if row == nil {
			continue
		}
		comes := a
		comes.At, comes.Place, comes.Unread, comes.Asleep = max(a.At, row.Since), inbox.Inbox, true, k.Person.Habits.Asleep
		comes.Answer, comes.Auto = row.OwnLast && row.LastAt <= m.Date, m.Kind.Machine()
		c := inbox.Receive(row.State(*mark), comes)
		row.SetPosition(c.Position)
		row.Silent = c.Silent
		mark.Unread, mark.Looks = c.Unread, c.Looks
		if c.Unread {
			b.out.Unread = append(b.out.Unread, row.ID)
		}
		row.Gather(m, b.own)
	}
	return b.finish(), nil
}

// wanted are those who wrote something held in the conversations and of whom
// the user wants to hear, with the conversation in which they did, if it is one.
func (k Gate) wanted(ids []int64) (out []mail.Address, about int64, err error) {
	if n := k.Person.Delivery.Notify; !n.On || len(n.People) == 0 && !n.Important {
		return nil, 0, nil
	}
	messages, err := store.HeldMail(k.T).HeldMessages(k.Box, ids[:min(len(ids), 1000)])
	in := map[int64]bool{}
	for _, m := range messages {
		a := mail.Address{Name: m.FromName, Address: m.FromAddr}
		if k.Person.Delivery.Notify.From(a.Address, important(m)) && !slices.ContainsFunc(out, func(o mail.Address) bool { return o.Address == a.Address }) {
			out = append(out, a)
			in[m.ConversationID], about = true, m.ConversationID
		}
	}
	if len(in) != 1 {
		about = 0
	}
	return out, about, err
}

// Tell gives a notification, or keeps it while the user wants to hear nothing.
func (k Gate) Tell(n journal.Notice) (journal.Notice, error) {
	if n.Text == "" || !k.Person.Delivery.Silent(k.Now, k.Person.Week.Location()) {
		return n, nil
	}
	return journal.Notice{}, store.HeldMail(k.T).Postpone(store.Postponed{BoxID: k.Box, Text: n.Text, ConversationID: n.Conversation, FollowUp: n.FollowUp})
}

// says is the notification about a delivery: one at most.
func (k Gate) says(l CameIn) (out journal.Notice) {
	n := k.Person.Delivery.Notify
	switch {
	case l.Count == 0:
	case n.On && n.Rounds:
		out.Text = say.Upper(l.with) + " brought " + say.Plural(l.Count, "conversation") + among(l.from) + "."
	case len(l.from) > 0:
		out.Text, out.Conversation = "Mail"+strings.Replace(among(l.from), ", among them", " from", 1)+".", l.about
	}
	return out
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

// Deliver is what happens when something about the delivery of a box changes:
// what is due comes in, notifications that were kept are given, and the next
// change is noted.
func (k Gate) Deliver() (got CameIn, notice journal.Notice, err error) {
	if got, err = k.due(); err != nil {
		return got, notice, err
	}
	if notice, err = k.Tell(k.says(got)); err != nil {
		return got, notice, err
	}
	if !k.Person.Delivery.Silent(k.Now, k.Person.Week.Location()) {
		kept, err := store.HeldMail(k.T).TakePostponed(k.Box)
		if err != nil {
			return got, notice, err
		}
		if n := len(kept); n == 1 {
			if notice.Text == "" {
				notice.Conversation, notice.FollowUp = kept[0].ConversationID, kept[0].FollowUp
			}
			notice.Text = strings.TrimSpace("While it was quiet: " + kept[0].Text + " " + notice.Text)
		} else if n > 1 {
			notice = journal.Notice{Text: strings.TrimSpace(fmt.Sprintf("While it was quiet: %s And %s. %s", kept[0].Text, say.Plural(n-1, "other notice"), notice.Text))}
		}
	}
	return got, notice, Reschedule(k.T, k.Box, k.Person.Delivery, k.Person.Week, k.Now)
}

// Answered lets in the answers that are held in those of the conversations that
// come back now because nobody has answered: somebody has.
func (k Gate) Answered(ids []int64) (CameIn, error) {
	held, err := store.HeldMail(k.T).HeldAmong(k.Box, ids)
	if err != nil || len(held) == 0 {
		return CameIn{}, err
	}
	state, err := store.Conversations(k.T).State(k.Box, k.Person.ID, held, nil)
	held = slices.DeleteFunc(held, func(id int64) bool { return state.Conversations[id].Until != inbox.UntilUnanswered })
	if err != nil || len(held) == 0 {
		return CameIn{}, err
	}
	return k.ComeIn(held, inbox.Arrival{At: k.Now, Why: inbox.Arrived}, store.Entry{Kind: inbox.Deliver, Actor: store.ByClock, At: k.Now, Text: "the end of a snooze"})
}

// Holds says that what comes back from a snooze at the instant at waits for the
// next delivery.
func (k Gate) Holds(at when.Instant) bool {
	s, loc := k.Person.Delivery, k.Person.Week.Location()
	return s.BackWaits && !s.Judge(delivery.Arriving{Stream: delivery.StreamPeople}, at, loc).In && s.Last(delivery.StreamPeople, at, k.Now, loc).At == 0
}

func OwnAddresses(t store.Tx, box int64) (map[string]bool, error) {
	addresses, err := store.People(t).OwnAddresses(box)
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
	heard, err := sending.Outbox(b.t).Heard(b.box, to)
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
		o := sending.Outgoing{BoxID: b.box, Once: a.reply.Hold, Address: a.reply.To, Name: a.m.From.Name, At: b.now, Text: text}
		if o.Subject, o.Original, err = mime.AutoAnswer(a.at, mail.Address{Name: a.m.From.Name, Address: a.reply.To}, a.m, text, b.now.In(b.week.Location())); err != nil {
			return err
		}
		o.Quiet = true
		_, fresh, err := outbox.Queue(b.t, o, a.at.Address, b.now)
		if err != nil {
			return err
		}
		if fresh {
			if err := store.Journal(b.t).Record(&store.Entry{BoxID: b.box, PersonID: b.person, Actor: store.ByMail, Kind: inbox.AutoAnswer, At: b.now, Count: 1, Text: a.m.From.Short()}); err != nil {
				return err
			}
		}
	}
	return nil
}

// notice is the notification about what has come into view from people the
// user wants to hear of.
func (b *batcher) notice() (journal.Notice, error) {
	var from []mail.Address
	subject, in := "", map[int64]bool{}
	var about int64
	for _, m := range b.out.Messages {
		if m.Held != "" || m.Own || !b.gate.Notify.From(m.FromAddr, important(m)) {
			continue
		}
		subject, about = m.Subject, m.ConversationID
		in[about] = true
		if a := (mail.Address{Name: m.FromName, Address: m.FromAddr}); !slices.Contains(from, a) {
			from = append(from, a)
		}
	}
	k := Gate{T: b.t, Box: b.box, Person: store.Person{ID: b.person, Week: b.week, Delivery: b.gate}, Now: b.now}
	if len(in) > 1 {
		about = 0
	}
	switch {
	case len(from) == 0:
		return journal.Notice{}, nil
	case len(from) == 1 && subject != "":
		return k.Tell(journal.Notice{Text: from[0].Short() + ": " + subject, Conversation: about})
	}
	return k.Tell(journal.Notice{Text: "Mail" + strings.Replace(among(from), ", among them", " from", 1) + ".", Conversation: about})
}

// Renew lets in what is due by now under what the person has settled, and notes
// when the next change is.
func (k Gate) Renew() (CameIn, error) {
	got, err := k.due()
	if err == nil {
		err = Reschedule(k.T, k.Box, k.Person.Delivery, k.Person.Week, k.Now)
	}
	return got, err
}

// Recount computes anew what conversations are shown by, from their messages in
// view.
func (k Gate) Recount(ids []int64) error {
	own, err := OwnAddresses(k.T, k.Box)
	if err != nil {
		return err
	}
	rows, err := store.Conversations(k.T).ConversationRows(k.Box, ids)
	if err != nil {
		return err
	}
	messages, err := store.HeldMail(k.T).ShownMessages(k.Box, ids)
	if err != nil {
		return err
	}
	var out store.Batch
	begun := map[int64]bool{}
	for _, m := range messages {
		row := rows[m.ConversationID]
		if row == nil {
			continue
		}
		if !begun[row.ID] {
			begun[row.ID] = true
			row.Messages, row.Files, row.Size, row.LastAt, row.FirstAt = 0, 0, 0, 0, m.Date
			out.Conversations = append(out.Conversations, row)
		}
		row.Gather(m, own)
	}
	return store.Messages(k.T).AddBatch(k.Box, k.Person.ID, out)
}
