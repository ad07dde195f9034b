package intake

import (
	"cmp"
	"context"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/search"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/texting"
	"ebbe/internal/core/when"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/post/mime"
	"ebbe/internal/store"
	"ebbe/internal/store/awaiting"
	"ebbe/internal/store/junking"
	"ebbe/internal/store/ruling"
	"ebbe/internal/store/sending"
	"ebbe/internal/store/telling"
	"ebbe/internal/store/weighing"
	"ebbe/internal/store/words"
)

// takeBatch stores one batch in one transaction: messages, originals, index,
// threads, places, and one line in the journal.
func (s *Intake) takeBatch(ctx context.Context, box int64, batch []Parsed, o Options) (tally Tally, err error) {
	now := s.journal.Now()
	var moved, ended []inbox.Change
	var shared bool
	var b *batcher
	var notice journal.Notice
	var calls []journal.Notice
	twins, err := s.twins(ctx, box, batch)
	if err != nil {
		return tally, err
	}
	err = s.store.Write(ctx, func(t store.Tx) error {
		tally, notice, calls, shared = Tally{Read: len(batch)}, journal.Notice{}, nil, false
		b = &batcher{besides: map[string]int{}, t: t, box: box, now: now, o: o, twins: twins, references: map[int64][]string{}, ruled: s.Coming}
		if o.Carried != nil {
			b.into = o.Carried.Into
		}
		if err := b.load(batch); err != nil {
			return err
		}
		b.had = make([]bool, len(batch))
		for i, p := range batch {
			if b.known[string(p.hash[:])] != 0 {
				b.had[i] = true
				tally.Known++
				if b.again[i] {
					b.raise(p)
				}
				continue
			}
			b.known[string(p.hash[:])] = b.nextM
			if err := b.add(i, p); err != nil {
				return err
			}
			tally.New++
			if p.Body.Raw {
				tally.KeptRaw++
			}
		}
		if tally.New == 0 && b.raised == 0 {
			return b.stored(batch)
		}
		out := b.finish()
		moved = out.Moved
		if b.gated {
			if b.released, err = awaiting.Awaited(t).Held(box, b.out.Released); err != nil {
				return err
			}
		}
		if err := b.record(); err != nil {
			return err
		}
		if err := store.Messages(t).AddBatch(box, b.person, out); err != nil {
			return err
		}
		if err := b.keepWeighed(); err != nil {
			return err
		}
		if err := b.keepTold(); err != nil {
			return err
		}
		if err := junking.Tests(t).Put(b.junk.tests); err != nil {
			return err
		}
		if err := b.stored(batch); err != nil {
			return err
		}
		if shared, err = s.Shared(t, box, out.Messages, o.Arrived || o.Sent); err != nil || !b.gated {
			return err
		}
		var waited journal.Notice
		if ended, waited, err = endWaiting(t, box, b.keeper, b.came(), now); err != nil {
			return err
		}
		if err := b.answer(); err != nil {
			return err
		}
		if err := arrived(t, box, b.fresh(), now); err != nil || b.quiet() {
			return err
		}
		if notice, err = b.notice(); err != nil {
			return err
		}
		sorted, err := s.Sort(t, box, b.fresh(), b.said())
		if err != nil {
			return err
		}
		ended, calls = append(ended, sorted.Changes...), sorted.Calls
		if notice.Text == "" {
			notice = sorted.Notice
		}
		if waited.Text != "" {
			waited.Text = strings.TrimSpace(waited.Text + " " + notice.Text)
			notice = waited
		}
		return schedule(t, box, b.gate, b.week, now)
	})
	if err == nil && o.Carried != nil {
		o.Carried.Into = b.into
	}
	if err == nil && tally.New+b.raised > 0 {
		if !o.Arrived && !o.Sent {
			s.changed()
		}
		_, conversations := journal.TopicsOf(moved)
		topics := []string{journal.TopicMail}
		if b.gated {
			topics = append(topics, journal.TopicDelivery)
		}
		if b.gated && b.shown() == 0 && b.raised == 0 {
			topics = topics[1:]
		}
		s.journal.Announce(box, journal.Event{Topics: topics, Conversations: conversations, Notice: notice})
		if len(ended) > 0 {
			s.journal.Tell(box, "", ended)
		}
		s.journal.Notify(box, calls)
	}
	if shared && o.Carried == nil {
		s.Carry(ctx)
	}
	return tally, err
}

// fresh are the messages that have come into view, but those that are old already: rules
// are about what comes in, and not about what is brought in from before.
func (b *batcher) fresh() (ids []int64) {
	for _, m := range b.out.Messages {
		if m.Held == "" && !m.Own && m.Date >= b.now-arrivedWithin {
			ids = append(ids, m.ID)
		}
	}
	return append(slices.Clone(b.along), ids...)
}

// said are the words of the messages of the batch.
func (b *batcher) said() map[int64]words.Entry {
	out := map[int64]words.Entry{}
	for _, w := range b.out.Words {
		out[w.ID] = w.Entry
	}
	return out
}

// stored says, in the transaction of the batch, which messages its items are.
func (b *batcher) stored(batch []Parsed) error {
	if b.o.Stored == nil {
		return nil
	}
	items, ids := make([]post.Item, len(batch)), make([]int64, len(batch))
	for i, p := range batch {
		items[i], ids[i] = p.item, b.known[string(p.hash[:])]
	}
	return b.o.Stored(b.t, items, ids, b.had)
}

// record writes the line of the journal about what has come into view.
func (b *batcher) record() error {
	n, delta := b.shown()+b.raised, b.delta()
	if err := store.Journal(b.t).Record(b.joins...); err != nil {
		return err
	}
	for _, e := range b.joins {
		delta -= e.Delta
	}
	if n == 0 && delta == 0 || b.o.Sent && delta == 0 {
		return nil
	}
	e := store.Entry{BoxID: b.box, Actor: store.ByMail, Kind: inbox.Import, At: b.now, Delta: delta, Count: n, Besides: b.besides}
	if b.o.Arrived {
		e.Kind = inbox.Arrive
	}
	for _, m := range b.out.Messages {
		if m.Held != "" {
			continue
		}
		if n == 1 {
			e.ConversationID, e.Text = m.ConversationID, m.Subject
		}
		if b.o.Arrived {
			e.Touched = append(e.Touched, m.ConversationID)
		}
	}
	return store.Journal(b.t).Record(&e)
}

// came is what people have written that has come into view, with what had been
// held in its conversation.
func (b *batcher) came() (out []followup.Came) {
	out = b.released
	for _, m := range b.out.Messages {
		if m.Held != "" || m.Own || m.Kind.Machine() {
			continue
		}
		in := []int64{m.ConversationID}
		for _, ref := range b.references[m.ID] {
			if id := b.refs[ref]; id != 0 && !slices.Contains(in, id) {
				in = append(in, id)
			}
		}
		out = append(out, followup.Came{Message: m.ID, From: mail.Address{Name: m.FromName, Address: m.FromAddr}, In: in, Written: m.Date})
	}
	return out
}

// shown is how many of the new messages are in view.
func (b *batcher) shown() (n int) {
	for _, m := range b.out.Messages {
		if m.Held == "" {
			n++
		}
	}
	return n
}

// batcher gathers what a batch of messages changes.
type batcher struct {
	t          store.Tx
	box        int64
	person     int64
	asleep     bool // new mail leaves what is snoozed where it is
	gated      bool // mail that arrives may be held
	gate       delivery.Settings
	week       when.Week
	keeper     store.Person
	now        when.Instant
	o          Options
	own        map[string]bool
	known      map[string]int64 // messages by hash
	had        []bool           // of the batch, which were known before
	refs       map[string]int64
	rows       map[int64]*store.Conversation
	marks      map[int64]*store.Mark
	before     map[int64]inbox.Conversation
	bases      map[string]int64 // newest conversation of this batch by base subject
	people     map[string]*store.Correspondent
	held       map[int64]bool          // conversations of which something is held
	wrote      map[string]when.Instant // when the reader last wrote to an address
	asking     []asked
	joins      []*store.Entry     // conversations that turned out to be one
	references map[int64][]string // of new messages, by their ID: the Message-IDs they refer to
	along      []int64            // messages that had been held and come in with a later one of their conversation
	besides    map[string]int     // of what has come into view: how long it had been held, or by what it was let through
	released   []followup.Came    // what came into view with a later message of its conversation
	model      sorting.Model      // what was learned of the senders of the batch
	working    map[string]bool    // those with whom there is an open project
	weighed    []weighing.Weighed
	told       []telling.Told
	junk       judging
	ruled      func(store.Tx, int64) ([]sorting.Rule, error)
	rules      []sorting.Rule  // that say something of what comes before it is in view
	familiar   map[string]bool // from whom something had come before, while there are such rules
	twins      map[int]twin    // of messages of the batch whose Message-ID another message has
	again      map[int]bool    // messages of the batch that had been carried here, and come by themselves now
	raised     int             // of those, how many that brought to the inbox
	into       int64           // the conversation of what is carried here
	nextC      int64
	nextM      int64
	out        store.Batch
}

func (b *batcher) load(batch []Parsed) (err error) {
	if b.person, err = store.People(b.t).Keeper(b.box); err != nil {
		return err
	}
	if b.person != 0 {
		p, err := store.People(b.t).PersonByID(b.person)
		if err != nil {
			return err
		}
		b.asleep, b.gate, b.week, b.keeper = p.Habits.Asleep, p.Delivery, p.Week, p
		b.gated = b.o.Arrived
	}
	if b.own, err = OwnAddresses(b.t, b.box); err != nil {
		return err
	}
	var hashes [][]byte
	var ids, from []string
	for i := range batch {
		hashes, from = append(hashes, batch[i].hash[:]), append(from, batch[i].Body.From.Address)
		ids = append(ids, idsOf(batch[i].Body.Message)...)
	}
	if b.known, err = store.Messages(b.t).Known(b.box, hashes); err != nil {
		return err
	}
	if b.refs, err = store.Conversations(b.t).Refs(b.box, ids); err != nil {
		return err
	}
	if b.into != 0 {
		if b.into, err = store.Conversations(b.t).Resolve(b.box, b.into); err != nil {
			return err
		}
	}
	found := []int64{}
	for _, id := range b.refs {
		found = append(found, id)
	}
	if b.into != 0 {
		found = append(found, b.into)
	}
	if err := b.resent(batch); err != nil {
		return err
	}
	if err := b.cameAlong(batch); err != nil {
		return err
	}
	b.rows, b.marks, b.before = map[int64]*store.Conversation{}, map[int64]*store.Mark{}, map[int64]inbox.Conversation{}
	b.bases, b.people, b.held = map[string]int64{}, map[string]*store.Correspondent{}, map[int64]bool{}
	if err := b.fetch(found); err != nil {
		return err
	}
	if b.gated && b.ruled != nil {
		if b.rules, err = b.ruled(b.t, b.box); err != nil {
			return err
		}
		if len(b.rules) > 0 {
			if b.familiar, err = ruling.Rules(b.t).Known(b.box, from); err != nil {
				return err
			}
		}
	}
	if b.gated {
		if b.wrote, err = store.HeldMail(b.t).Written(b.box, from); err != nil {
			return err
		}
	}
	if err := b.learned(from); err != nil {
		return err
	}
	if err := b.loadJunk(batch); err != nil {
		return err
	}
	b.nextC, b.nextM, err = store.Conversations(b.t).NextIDs()
	return err
}

// resent recognises what went out from here by its Message-ID and its text: some
// servers file what they send by themselves, with a line of their own at its
// head. A message with another text is another message, whoever wrote it.
func (b *batcher) resent(batch []Parsed) error {
	var ids []string
	may := func(i int, p Parsed) bool {
		return b.own[p.Body.From.Address] && b.known[string(p.hash[:])] == 0 && b.twins[i].same && b.twins[i].message != 0 && (p.item.UID != 0 || b.o.Sent)
	}
	for i, p := range batch {
		if may(i, p) {
			ids = append(ids, p.Body.MessageID)
		}
	}
	if len(ids) == 0 {
		return nil
	}
	found, err := sending.Outbox(b.t).SentBefore(b.box, ids)
	for i, p := range batch {
		if id := found[p.Body.MessageID]; id != 0 && may(i, p) {
			b.known[string(p.hash[:])] = id
		}
	}
	return err
}

func idsOf(m mail.Message) []string {
	ids := slices.Clone(m.References)
	if m.MessageID != "" {
		ids = append(ids, m.MessageID)
	}
	return ids
}

func (b *batcher) fetch(ids []int64) error {
	slices.Sort(ids)
	rows, err := store.Conversations(b.t).ConversationRows(b.box, slices.Compact(ids))
	if err != nil {
		return err
	}
	marks, err := store.Conversations(b.t).Marks(b.person, ids)
	if err != nil {
		return err
	}
	for id, row := range rows {
		mark := marks[id]
		if mark == nil {
			mark = &store.Mark{PersonID: b.person, ConversationID: id}
		}
		b.rows[id], b.marks[id] = row, mark
		b.before[id] = row.State(*mark)
	}
	held, err := store.HeldMail(b.t).HeldAmong(b.box, ids)
	for _, id := range held {
		b.held[id] = true
	}
	return err
}

// add notes one new message, the one with that place in the batch, and what it
// does to its conversation.
func (b *batcher) add(i int, p Parsed) error {
	m := p.Body.Message
	at := m.Date
	if b.o.At != nil {
		at = b.o.At(m)
	}
	if at == 0 || at > b.now {
		at = b.now
	}
	own := b.own[m.From.Address] || b.o.Carried != nil && b.o.Carried.Ours[m.From.Address]
	ids := idsOf(m)
	if tw, ok := b.twins[i]; ok && !tw.same { // another message has its Message-ID: that is no sign that they belong together
		ids = m.References
	}
	id, err := b.conversation(m, ids, at, own)
	if err != nil {
		return err
	}
	if b.o.Carried != nil {
		b.into = id
	}
	row, mark := b.rows[id], b.marks[id]
	for _, ref := range idsOf(m) {
		if b.refs[ref] == 0 {
			b.refs[ref] = id
			b.out.Refs = append(b.out.Refs, store.Ref{BoxID: b.box, MessageID: ref, ConversationID: id})
		}
	}
	msg := &store.Message{
		ID: b.nextM, BoxID: b.box, Hash: p.hash[:], MessageID: m.MessageID, ConversationID: id, Date: at, Received: b.now,
		Subject: m.Subject, FromName: m.From.Name, FromAddr: m.From.Address, To: m.To, Cc: m.Cc, Files: m.Files,
		Kind: m.Kind, Own: own, Raw: m.Raw, Reader: mime.Reader, Stub: p.item.Stub, Size: len(p.item.Raw), Begins: p.begins, Language: p.Language, List: m.List,
	}
	b.weigh(msg, p.Signs, row.OwnLast && row.LastAt <= at)
	if err := b.lookForJunk(msg, p); err != nil {
		return err
	}
	said := b.coming(msg, row, p.words.Entry)
	msg.Stream = said.Stream
	if !own {
		b.tell(msg, p)
	}
	v := b.judge(m, row, own, notable{important: important(msg), code: b.tellsCode(msg.ID)}, said)
	if msg.Through = v.Entry; !v.In {
		msg.Held = streamOf(msg)
	} else if v.Entry != "" {
		b.besides[b.letThrough(v.Entry, said.Through)]++
	}
	b.out.Messages = append(b.out.Messages, msg)
	b.references[msg.ID] = m.References
	b.nextM++
	b.out.Originals = append(b.out.Originals, p.item.Raw)
	b.out.Words = append(b.out.Words, p.words)

	place := b.o.Place
	if place == "" {
		place = inbox.Inbox
	}
	if p.item.Flags.Trashed {
		place = inbox.Bin
	}
	arrival := inbox.Arrival{At: at, Own: own && !b.shownTo(), Along: b.quiet(), Answer: row.OwnLast && row.LastAt <= at, Place: place, Auto: m.Kind.Machine(), Bounce: b.o.Arrived && undelivered(m), Asleep: b.asleep, ToMe: b.toMe(msg, m.Text),
		Unread: (place == inbox.Inbox || b.o.Stored != nil) && (!p.item.Flags.Known || !p.item.Flags.Seen), Held: !v.In, Why: reasons[v.Why]}
	if b.o.Arrived || b.o.Stored != nil && place == inbox.Inbox {
		arrival.At = max(at, row.Since) // whenever it was written, it has come after the last decision, or lies in the inbox in spite of it
	}
	if v.Why == delivery.WhyRound {
		arrival.Round = b.now
	}
	before := row.Place
	c := inbox.Receive(row.State(*mark), arrival)
	row.SetPosition(c.Position)
	row.Silent = c.Silent
	mark.Unread, mark.Looks, mark.Starred = c.Unread, c.Looks, mark.Starred || p.item.Flags.Flagged
	switch {
	case !v.In:
		b.held[id] = true
		if c.Place != inbox.Held {
			return nil // it counts once it is in view
		}
	case b.held[id] && !own: // a conversation comes in whole
		if err := b.release(id, before == inbox.Held); err != nil {
			return err
		}
		mark.Unread = true
	}
	if arrival.Unread && !own {
		b.out.Unread = append(b.out.Unread, id)
	}
	row.Gather(msg, b.own)
	if v.In {
		b.count(m, own, at)
	}
	return nil
}

// toMe says that a message is to the reader alone, or calls them by their first name
// where letters do: before its first line is over.
func (b *batcher) toMe(m *store.Message, text string) bool {
	if reach, _ := mail.ReachOf(m.To, m.Cc, b.own); reach == mail.Alone {
		return true
	}
	first, _, _ := strings.Cut(strings.TrimSpace(mail.OwnWords(beginning(text))), "\n")
	name, _, _ := strings.Cut(b.keeper.Name, " ")
	return name != "" && slices.ContainsFunc(strings.FieldsFunc(first, func(r rune) bool { return !unicode.IsLetter(r) }), func(w string) bool { return strings.EqualFold(w, name) })
}

// letThrough is what is counted of a message that an entry of the plan, or a rule, let through.
func (b *batcher) letThrough(entry string, rule int64) string {
	if entry == ByRule(rule) {
		return numbers.LetThroughBy("", rule)
	}
	i := slices.IndexFunc(b.gate.Through, func(e delivery.Exception) bool { return e.ID == entry })
	if i < 0 {
		return numbers.LetThroughBy(entry, 0)
	}
	return numbers.LetThroughBy(string(b.gate.Through[i].By), 0)
}

// reasons are why a conversation is in the inbox, by why its message came in.
var reasons = map[delivery.Why]inbox.Reason{delivery.WhyRound: inbox.WithRound, delivery.WhyThrough: inbox.Through}

// streamOf is the stream in which a message comes.
func streamOf(m *store.Message) delivery.Stream { return cmp.Or(m.Stream, delivery.StreamOf(m.Kind)) }

// coming is what is said of a message before it is in view: by the user, of its
// conversation, and else by rules.
func (b *batcher) coming(m *store.Message, row *store.Conversation, words words.Entry) (c sorting.Coming) {
	if !b.gated || m.Own {
		return c
	}
	if len(b.rules) > 0 {
		about := ruling.MessageOf(*m, b.own, b.now.In(b.week.Location()))
		about.Answers, about.Stranger = row.OwnLast && row.LastAt <= m.Date, !b.familiar[m.FromAddr]
		about.Says = search.Saying(words.Subject, words.People, words.Body)
		c = sorting.ComingIn(b.rules, about, b.gate)
		b.familiar[m.FromAddr] = true
	}
	if kept := delivery.Stream(row.Stream); row.Kept && b.gate.Known(kept) {
		c.Stream = kept
	}
	return c
}

// judge says whether a message comes in of which that was said, and notes whom to tell
// if it does not.
func (b *batcher) judge(m mail.Message, row *store.Conversation, own bool, n notable, said sorting.Coming) delivery.Verdict {
	if !b.gated || own || b.o.Carried != nil || undelivered(m) && row.Messages > 0 {
		return delivery.Verdict{In: true}
	}
	if b.o.Round {
		return delivery.Verdict{In: true, At: b.now, Why: delivery.WhyRound}
	}
	waits := row.Place == inbox.Snoozed && (row.Until == inbox.UntilAnswer || row.Until == inbox.UntilUnanswered)
	l := delivery.Arriving{Stream: cmp.Or(said.Stream, delivery.StreamOf(m.Kind)), From: m.From.Address, Subject: m.Subject, Text: m.Text, Written: b.wrote[m.From.Address],
		Waited: (row.OwnLast || waits) && !m.Kind.Machine(), Important: n.important || row.Said == inbox.Important, Code: n.code}
	if said.Through != 0 {
		l.Ruled = ByRule(said.Through)
	}
	named := mail.Address{}
	for _, a := range slices.Concat(m.To, m.Cc) {
		l.To = append(l.To, a.Address)
		if b.own[a.Address] && named.Address == "" {
			named = a
		}
	}
	loc := b.week.Location()
	v := b.gate.Judge(l, b.now, loc)
	asks := delivery.Asking{Arriving: l, AnswerTo: m.AnswerTo, Named: named.Address != "", Own: b.own[m.AnswerTo]}
	if r, ok := b.gate.Answer(asks, v, b.now); ok && !texting.IsText(m.AnswerTo) { // a telephone line has answers of its own
		b.asking = append(b.asking, asked{r, m, named, b.gate.Next(l.Stream, b.now, loc).At})
	}
	return v
}

// ByRule is what is noted as the entry that let a message through where a rule did.
func ByRule(rule int64) string { return "rule:" + strconv.FormatInt(rule, 10) }

// undelivered says that a message reports that one of the user's did not reach
// somebody, and never will.
func undelivered(m mail.Message) bool { return slices.ContainsFunc(m.Reports, mail.Report.Failed) }

// release lets in what is held of a conversation; whole says that all of it
// was.
func (b *batcher) release(id int64, whole bool) error {
	delete(b.held, id)
	b.out.Released = append(b.out.Released, id)
	row := b.rows[id]
	stored, err := store.HeldMail(b.t).HeldMessages(b.box, []int64{id})
	if err != nil {
		return err
	}
	for _, m := range stored {
		b.along = append(b.along, m.ID)
		b.besides[numbers.HeldFor(b.now-m.Received)]++
		if !whole {
			row.Gather(m, b.own)
		}
	}
	for _, m := range b.out.Messages {
		if m.ConversationID == id && m.Held != "" {
			m.Held = ""
			b.count(mail.Message{From: mail.Address{Name: m.FromName, Address: m.FromAddr}}, false, m.Date)
			if !whole {
				row.Gather(m, b.own)
			}
		}
	}
	return nil
}

// maxIndexed is how many bytes of a message's text are found by its words.
const maxIndexed = 64 << 10

func Words(m mail.Message) words.Entry {
	text := m.Text
	if len(text) > maxIndexed {
		text = strings.ToValidUTF8(text[:maxIndexed], "")
	}
	var people strings.Builder
	for _, a := range slices.Concat([]mail.Address{m.From}, m.To, m.Cc) {
		people.WriteString(a.Name + " " + a.Address + " ")
	}
	for _, f := range m.Files {
		people.WriteString(f.Name + " ")
	}
	return words.Entry{Subject: m.Subject, People: people.String(), Body: text}
}

// count keeps the numbers of what goes back and forth with each address.
func (b *batcher) count(m mail.Message, own bool, at when.Instant) {
	with := []mail.Address{m.From}
	if own {
		with = slices.Concat(m.To, m.Cc)
	}
	for _, a := range with {
		if a.Address == "" || b.own[a.Address] {
			continue
		}
		c := b.people[a.Address]
		if c == nil {
			c = &store.Correspondent{BoxID: b.box, Address: a.Address, FirstAt: at}
			b.people[a.Address] = c
		}
		if a.Name != "" {
			c.Name = a.Name
		}
		if own {
			c.Sent++
			c.AnsweredAt = max(c.AnsweredAt, at)
		} else {
			c.Received++
		}
		c.FirstAt, c.LastAt = min(c.FirstAt, at), max(c.LastAt, at)
	}
}

// delta is by how much the batch moves the number left to decide.
func (b *batcher) delta() (n int) {
	for id, row := range b.rows {
		if row.Place == inbox.Inbox {
			n++
		}
		if before, ok := b.before[id]; ok && before.Place == inbox.Inbox {
			n--
		}
	}
	for id, before := range b.before { // merged away
		if b.rows[id] == nil && before.Place == inbox.Inbox {
			n--
		}
	}
	return n
}

func (b *batcher) finish() store.Batch {
	for id, row := range b.rows {
		b.out.Conversations = append(b.out.Conversations, row)
		b.out.Marks = append(b.out.Marks, *b.marks[id])
		if before, ok := b.before[id]; ok && before.Position != row.Position() {
			after := row.State(*b.marks[id])
			b.out.Moved = append(b.out.Moved, inbox.Change{Before: &before, After: &after})
		}
	}
	for _, c := range b.people {
		b.out.Correspondents = append(b.out.Correspondents, *c)
	}
	return b.out
}

// isMissing says that something was looked for and is not there.
