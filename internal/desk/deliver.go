package desk

import (
	"context"
	"crypto/sha256"
	"errors"
	"log/slog"
	"runtime"
	"slices"
	"strings"
	"sync"
	"time"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/store"
)

// Tally counts what an import did.
type Tally struct {
	Read    int      // messages found
	New     int      // stored now
	Known   int      // stored before
	KeptRaw int      // of the new ones, could not be read and are kept as text
	Left    int      // files that could not be read and were left where they are
	NoMail  []string // files that hold no mail: pictures, films
}

// ImportOptions say how mail is taken in.
type ImportOptions struct {
	Place    inbox.Place                     // where it goes; the inbox if empty
	Progress func(Tally)                     // called after each stored batch; may be nil
	Problem  func(string, error)             // called for each file left out; may be nil
	Arrived  bool                            // it has just arrived, rather than being brought in from files
	At       func(mail.Message) when.Instant // when it came in; its date if nil

	sent   bool                                                                 // the user has just sent it: the journal knows already
	stored func(t store.Tx, items []post.Item, ids []int64, known []bool) error // called with each batch in its transaction, with the IDs its messages have, and whether Ebbe had them before; may be nil
}

const (
	batchItems = 256
	batchBytes = 4 << 20
	flying     = 24 << 20 // bytes of messages that are between being added and being stored; one message may be larger
)

// Import takes in the messages of files and folders (mbox, .eml, Maildir) into
// a box. Each batch is stored whole or not at all, messages already known are
// passed over, so that an interrupted import is simply run again.
func (d *Desk) Import(ctx context.Context, box int64, paths []string, o ImportOptions) (Tally, error) {
	var first error
	in := d.Intake(ctx, box, o)
	for _, path := range paths {
		problem := func(p string, err error) {
			in.mu.Lock()
			defer in.mu.Unlock()
			if errors.Is(err, post.ErrNoMail) && p != path {
				in.tally.NoMail = append(in.tally.NoMail, p)
				return
			}
			in.tally.Left++
			if first == nil {
				first = err
			}
			if o.Problem != nil {
				o.Problem(p, err)
			}
		}
		err := post.Walk(path, in.Add, problem)
		if ctx.Err() != nil || in.failed() != nil {
			break
		}
		if err != nil {
			problem(path, err)
		}
	}
	tally, err := in.Close()
	if err == nil {
		err = first
	}
	return tally, err
}

// Intake takes messages in, one after the other, reading several at a time and
// storing them in batches in the order they were added.
type Intake struct {
	d     *Desk
	ctx   context.Context
	box   int64
	o     ImportOptions
	batch []post.Item
	size  int
	work  chan []post.Item
	done  chan struct{}
	mu    sync.Mutex
	err   error
	tally Tally
	air   int        // bytes that are between being added and being stored
	land  *sync.Cond // some of them have been
}

type parsed struct {
	item post.Item
	hash [sha256.Size]byte
	body post.Body
}

// Intake begins taking in mail; Close has to be called at the end.
func (d *Desk) Intake(ctx context.Context, box int64, o ImportOptions) *Intake {
	in := &Intake{d: d, ctx: ctx, box: box, o: o, work: make(chan []post.Item, 1), done: make(chan struct{})}
	in.land = sync.NewCond(&in.mu)
	ready := make(chan []parsed, 1)
	go func() {
		defer close(ready)
		for batch := range in.work {
			ready <- d.parseAll(batch)
		}
	}()
	go func() {
		defer close(in.done)
		for batch := range ready {
			if in.failed() == nil {
				in.store(batch)
			}
			in.mu.Lock()
			for _, p := range batch {
				in.air -= len(p.item.Raw)
			}
			in.mu.Unlock()
			in.land.Broadcast()
		}
	}()
	return in
}

// Add takes in one message. It returns the error that stopped the intake, if
// one has.
func (in *Intake) Add(item post.Item) error {
	if err := in.failed(); err != nil {
		return err
	}
	in.batch, in.size = append(in.batch, item), in.size+len(item.Raw)
	if len(in.batch) >= batchItems || in.size >= batchBytes {
		in.Flush()
	}
	return in.ctx.Err()
}

// Flush lets what was added be stored without waiting for more.
func (in *Intake) Flush() {
	if len(in.batch) > 0 {
		in.mu.Lock()
		for in.air > 0 && in.air+in.size > flying {
			in.land.Wait()
		}
		in.air += in.size
		in.mu.Unlock()
		in.work <- in.batch
		in.batch, in.size = nil, 0
	}
}

// Close stores what was added and says what came of it all.
func (in *Intake) Close() (Tally, error) {
	in.Flush()
	close(in.work)
	<-in.done
	return in.tally, in.failed()
}

func (in *Intake) failed() error {
	in.mu.Lock()
	defer in.mu.Unlock()
	return in.err
}

func (in *Intake) store(batch []parsed) {
	tally, err := in.d.deliver(in.ctx, in.box, batch, in.o)
	in.mu.Lock()
	defer in.mu.Unlock()
	if err != nil {
		in.err = err
		return
	}
	in.tally.Read += tally.Read
	in.tally.New += tally.New
	in.tally.Known += tally.Known
	in.tally.KeptRaw += tally.KeptRaw
	if in.o.Progress != nil {
		in.o.Progress(in.tally)
	}
}

// readWithin is how long reading one message may take, beside a second for each
// megabyte of it. What takes longer is kept raw, and read again by a later
// version.
const readWithin = 5 * time.Second

// read reads a message, or keeps it raw if that takes too long: nothing that
// comes in holds up what comes after it.
func (d *Desk) read(raw []byte) post.Body {
	done := make(chan post.Body, 1)
	go func() { done <- d.reader(raw) }()
	limit := time.NewTimer(d.readWithin + time.Duration(len(raw)>>20)*time.Second)
	defer limit.Stop()
	select {
	case b := <-done:
		return b
	case <-limit.C:
		slog.Error("a message takes too long to read, so it is kept as it came", "bytes", len(raw))
		return post.KeptRaw(raw)
	}
}

// parse reads a message as far as it is kept apart from its original.
func (d *Desk) parse(item post.Item) parsed {
	b := d.read(item.Raw)
	if b.Text == "" && b.HTML != "" {
		b.Text = post.TextOf(b.HTML)
	}
	b.Parts, b.Inline, b.HTML = nil, nil, ""
	return parsed{item, sha256.Sum256(item.Raw), b}
}

// parseAll reads the messages of a batch on all processors.
func (d *Desk) parseAll(batch []post.Item) []parsed {
	out := make([]parsed, len(batch))
	var wg sync.WaitGroup
	for w := range runtime.GOMAXPROCS(0) {
		wg.Go(func() {
			for i := w; i < len(batch); i += runtime.GOMAXPROCS(0) {
				out[i] = d.parse(batch[i])
			}
		})
	}
	wg.Wait()
	return out
}

// deliver stores one batch in one transaction: messages, originals, index,
// threads, places, and one line in the journal.
func (d *Desk) deliver(ctx context.Context, box int64, batch []parsed, o ImportOptions) (tally Tally, err error) {
	now := d.now()
	var moved, ended []inbox.Change
	var b *batcher
	var notice string
	twins, err := d.twins(ctx, box, batch)
	if err != nil {
		return tally, err
	}
	err = d.store.Write(ctx, func(t store.Tx) error {
		tally, notice = Tally{Read: len(batch)}, ""
		b = &batcher{t: t, box: box, now: now, o: o, twins: twins}
		if err := b.load(batch); err != nil {
			return err
		}
		b.had = make([]bool, len(batch))
		for i, p := range batch {
			if b.known[string(p.hash[:])] != 0 {
				b.had[i] = true
				tally.Known++
				continue
			}
			b.known[string(p.hash[:])] = b.nextM
			if err := b.add(i, p); err != nil {
				return err
			}
			tally.New++
			if p.body.Raw {
				tally.KeptRaw++
			}
		}
		if tally.New == 0 {
			return b.stored(batch)
		}
		out := b.finish()
		moved = out.Moved
		if err := b.record(); err != nil {
			return err
		}
		if err := t.Deliver(box, b.person, out); err != nil {
			return err
		}
		if err := b.stored(batch); err != nil || !b.gated {
			return err
		}
		var text string
		if ended, text, err = endWaiting(t, box, b.keeper, b.writers(), now); err != nil {
			return err
		}
		if err := b.answer(); err != nil {
			return err
		}
		if notice, err = b.notice(); err != nil {
			return err
		}
		if text != "" {
			notice = strings.TrimSpace(text + " " + notice)
		}
		return schedule(t, box, b.gate, b.week, now)
	})
	if err == nil && tally.New > 0 {
		if !o.Arrived && !o.sent {
			d.forget()
		}
		_, conversations := journal.TopicsOf(moved)
		topics := []string{journal.TopicMail}
		if b.gated {
			topics = append(topics, journal.TopicDelivery)
		}
		if b.gated && b.shown() == 0 {
			topics = topics[1:]
		}
		d.Journal.Announce(box, journal.Event{Topics: topics, Conversations: conversations, Notice: notice})
		if len(ended) > 0 {
			d.Journal.Tell(box, "", ended)
		}
	}
	return tally, err
}

// stored says, in the transaction of the batch, which messages its items are.
func (b *batcher) stored(batch []parsed) error {
	if b.o.stored == nil {
		return nil
	}
	items, ids := make([]post.Item, len(batch)), make([]int64, len(batch))
	for i, p := range batch {
		items[i], ids[i] = p.item, b.known[string(p.hash[:])]
	}
	return b.o.stored(b.t, items, ids, b.had)
}

// record writes the line of the journal about what has come into view.
func (b *batcher) record() error {
	n, delta := b.shown(), b.delta()
	if err := b.t.Record(b.joins...); err != nil {
		return err
	}
	for _, e := range b.joins {
		delta -= e.Delta
	}
	if n == 0 && delta == 0 || b.o.sent && delta == 0 {
		return nil
	}
	e := store.Entry{BoxID: b.box, Actor: store.ByMail, Kind: inbox.Import, At: b.now, Delta: delta, Count: n}
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
	return b.t.Record(&e)
}

// writers are the people who wrote what has come into view.
func (b *batcher) writers() (out []mail.Address) {
	for _, m := range b.out.Messages {
		if m.Held == "" && !m.Own && !m.Kind.Machine() {
			out = append(out, mail.Address{Name: m.FromName, Address: m.FromAddr})
		}
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
	t      store.Tx
	box    int64
	person int64
	asleep bool // new mail leaves what is snoozed where it is
	gated  bool // mail that arrives may be held
	gate   delivery.Settings
	week   when.Week
	keeper store.Person
	now    when.Instant
	o      ImportOptions
	own    map[string]bool
	known  map[string]int64 // messages by hash
	had    []bool           // of the batch, which were known before
	refs   map[string]int64
	rows   map[int64]*store.Conversation
	marks  map[int64]*store.Mark
	before map[int64]inbox.Conversation
	bases  map[string]int64 // newest conversation of this batch by base subject
	people map[string]*store.Correspondent
	held   map[int64]bool          // conversations of which something is held
	wrote  map[string]when.Instant // when the reader last wrote to an address
	asking []asked
	joins  []*store.Entry // conversations that turned out to be one
	twins  map[int]twin   // of messages of the batch whose Message-ID another message has
	nextC  int64
	nextM  int64
	out    store.Delivery
}

func (b *batcher) load(batch []parsed) (err error) {
	if b.person, err = b.t.MemberOf(b.box); err != nil {
		return err
	}
	if b.person != 0 {
		p, err := b.t.PersonByID(b.person)
		if err != nil {
			return err
		}
		b.asleep, b.gate, b.week, b.keeper = p.Habits.Asleep, p.Delivery, p.Week, p
		b.gated = b.o.Arrived
	}
	if b.own, err = ownAddresses(b.t, b.box); err != nil {
		return err
	}
	var hashes [][]byte
	var ids, from []string
	for i := range batch {
		hashes, from = append(hashes, batch[i].hash[:]), append(from, batch[i].body.From.Address)
		ids = append(ids, idsOf(batch[i].body.Message)...)
	}
	if b.known, err = b.t.Known(b.box, hashes); err != nil {
		return err
	}
	if b.refs, err = b.t.Refs(b.box, ids); err != nil {
		return err
	}
	var found []int64
	for _, id := range b.refs {
		found = append(found, id)
	}
	if err := b.resent(batch); err != nil {
		return err
	}
	b.rows, b.marks, b.before = map[int64]*store.Conversation{}, map[int64]*store.Mark{}, map[int64]inbox.Conversation{}
	b.bases, b.people, b.held = map[string]int64{}, map[string]*store.Correspondent{}, map[int64]bool{}
	if err := b.fetch(found); err != nil {
		return err
	}
	if b.gated {
		if b.wrote, err = b.t.Written(b.box, from); err != nil {
			return err
		}
	}
	b.nextC, b.nextM, err = b.t.NextIDs()
	return err
}

// resent recognises what went out from here by its Message-ID and its text: some
// servers file what they send by themselves, with a line of their own at its
// head. A message with another text is another message, whoever wrote it.
func (b *batcher) resent(batch []parsed) error {
	var ids []string
	may := func(i int, p parsed) bool {
		return b.own[p.body.From.Address] && b.known[string(p.hash[:])] == 0 && b.twins[i].same && b.twins[i].message != 0 && (p.item.UID != 0 || b.o.sent)
	}
	for i, p := range batch {
		if may(i, p) {
			ids = append(ids, p.body.MessageID)
		}
	}
	if len(ids) == 0 {
		return nil
	}
	found, err := b.t.SentBefore(b.box, ids)
	for i, p := range batch {
		if id := found[p.body.MessageID]; id != 0 && may(i, p) {
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
	rows, err := b.t.ConversationRows(b.box, slices.Compact(ids))
	if err != nil {
		return err
	}
	marks, err := b.t.Marks(b.person, ids)
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
	held, err := b.t.HeldAmong(b.box, ids)
	for _, id := range held {
		b.held[id] = true
	}
	return err
}

// conversation finds the conversation a message belongs to, or begins one. It
// is that of the nearest message it refers to, and conversations that it shows
// to be one become one, where mail may join them. Message-IDs that stand for
// another message are left out of ids.
func (b *batcher) conversation(m mail.Message, ids []string, at when.Instant, own bool) (int64, error) {
	var found []int64 // in view of the nearest last
	for _, id := range ids {
		c := b.refs[id]
		if c == 0 {
			continue
		}
		if row := b.rows[c]; row.Place == inbox.Junk && !own {
			wrote, err := b.wroteIn(c, m.From.Address)
			if err != nil {
				return 0, err
			}
			if !inbox.TakesIn(row.Place, wrote, own) {
				continue
			}
		}
		found = append(slices.DeleteFunc(found, func(x int64) bool { return x == c }), c)
	}
	if len(found) > 0 {
		return b.joined(found)
	}
	base := mail.BaseSubject(m.Subject)
	if len(m.References) == 0 && mail.IsReply(m.Subject) && m.Kind == mail.Person {
		if id, err := b.bySubject(m, base); id != 0 || err != nil {
			return id, err
		}
	}
	id := b.nextC
	b.nextC++
	b.rows[id] = &store.Conversation{ID: id, BoxID: b.box, Subject: mail.Title(m.Subject), Base: base, FirstAt: at, Kind: m.Kind}
	b.marks[id] = &store.Mark{PersonID: b.person, ConversationID: id}
	b.bases[base] = id
	return id, nil
}

// joined is the conversation of a message that refers to all of these, the
// nearest last. Those that mail may join become one, the oldest.
func (b *batcher) joined(found []int64) (int64, error) {
	into := found[len(found)-1]
	for _, c := range found { // what was thrown away is gone back to only if there is nothing else
		if !inbox.JoinByMail(b.rows[into].Place, b.rows[c].Place) && (b.rows[c].Place != inbox.Bin && b.rows[c].Place != inbox.Junk) {
			into = c
		}
	}
	if b.rows[into].Apart {
		return into, nil
	}
	var one []int64
	for _, c := range found {
		if !b.rows[c].Apart && inbox.JoinByMail(b.rows[into].Place, b.rows[c].Place) {
			one = append(one, c)
		}
	}
	slices.Sort(one)
	for _, from := range one[1:] {
		if err := b.merge(from, one[0]); err != nil {
			return 0, err
		}
	}
	return one[0], nil
}

// wroteIn says that an address wrote in a conversation.
func (b *batcher) wroteIn(conversation int64, address string) (bool, error) {
	for _, m := range b.out.Messages {
		if m.ConversationID == conversation && m.FromAddr == address {
			return true, nil
		}
	}
	if _, stored := b.before[conversation]; !stored {
		return false, nil
	}
	return b.t.WroteIn(conversation, address)
}

func (b *batcher) bySubject(m mail.Message, base string) (int64, error) {
	if id := b.bases[base]; id != 0 {
		var people []string
		for _, x := range b.out.Messages {
			if x.ConversationID == id {
				people = append(people, writersOf(x)...)
			}
		}
		if mail.JoinsBySubject(m, b.rows[id].Base, b.rows[id].LastAt, people) {
			return id, nil
		}
	}
	candidates, err := b.t.ByBase(b.box, base)
	if err != nil {
		return 0, err
	}
	for _, c := range candidates {
		people, err := b.t.Writers(c.ID)
		if err != nil {
			return 0, err
		}
		if mail.JoinsBySubject(m, c.Base, c.LastAt, people) {
			if b.rows[c.ID] == nil {
				err = b.fetch([]int64{c.ID})
			}
			return c.ID, err
		}
	}
	return 0, nil
}

func writersOf(m *store.Message) []string {
	out := []string{m.FromAddr}
	for _, a := range slices.Concat(m.To, m.Cc) {
		out = append(out, a.Address)
	}
	return out
}

// merge makes the conversation from part of into, with a line in the journal by
// which that can be taken back.
func (b *batcher) merge(from, into int64) error {
	a, c := b.rows[into], b.rows[from]
	before, gone := a.State(*b.marks[into]), c.State(*b.marks[from])
	after, cancelled := inbox.Joined(before, gone)
	if _, stored := b.before[from]; stored {
		r, err := b.t.Merge(b.box, from, into)
		if err != nil {
			return err
		}
		for _, m := range b.out.Messages {
			if m.ConversationID == from {
				r.Messages = append(r.Messages, m.ID)
			}
		}
		was, is, lost := before, after, gone
		e := &store.Entry{BoxID: b.box, PersonID: b.person, Actor: store.ByMail, Kind: inbox.Join, At: b.now, Count: 2, ConversationID: into, Step: true,
			Text: joinedText(*a, *c, b.week, cancelled, b.now), Changes: []inbox.Change{{Before: &was, After: &is}, {Before: &lost, Regroup: &r}}}
		for _, change := range e.Changes {
			e.Delta += change.Delta()
		}
		b.joins = append(b.joins, e)
	}
	b.held[into] = b.held[into] || b.held[from]
	switch into, from := a.Place == inbox.Held, c.Place == inbox.Held; {
	case from && !into: // its messages stay held, and count nowhere yet
		c.LastAt = 0
	case into && !from: // what is in view is all that counts
		a.Messages, a.Files, a.FirstAt, a.Size, a.LastAt = c.Messages, c.Files, c.FirstAt, c.Size, 0
	default:
		a.Messages, a.Files = a.Messages+c.Messages, a.Files+c.Files
		a.FirstAt, a.Size = min(a.FirstAt, c.FirstAt), a.Size+c.Size
	}
	a.SetPosition(after.Position)
	a.Title, a.Note, a.Labels = after.Title, after.Note, after.Labels
	if c.LastAt > a.LastAt {
		a.LastAt, a.FromName, a.FromAddr, a.OwnLast, a.Kind = c.LastAt, c.FromName, c.FromAddr, c.OwnLast, c.Kind
		a.Account, a.Reach, a.Rank = c.Account, c.Reach, c.Rank
	}
	b.marks[into].Unread, b.marks[into].Starred, b.marks[into].Looks = after.Unread, after.Starred, after.Looks
	for _, m := range b.out.Messages {
		if m.ConversationID == from {
			m.ConversationID = into
		}
	}
	for id, x := range b.refs {
		if x == from {
			b.refs[id] = into
		}
	}
	for i := range b.out.Refs {
		if b.out.Refs[i].ConversationID == from {
			b.out.Refs[i].ConversationID = into
		}
	}
	for base, x := range b.bases {
		if x == from {
			b.bases[base] = into
		}
	}
	delete(b.rows, from)
	delete(b.marks, from)
	return nil
}

// add notes one new message, the one with that place in the batch, and what it
// does to its conversation.
func (b *batcher) add(i int, p parsed) error {
	m := p.body.Message
	at := m.Date
	if b.o.At != nil {
		at = b.o.At(m)
	}
	if at == 0 || at > b.now {
		at = b.now
	}
	own := b.own[m.From.Address]
	ids := idsOf(m)
	if tw, ok := b.twins[i]; ok && !tw.same { // another message has its Message-ID: that is no sign that they belong together
		ids = m.References
	}
	id, err := b.conversation(m, ids, at, own)
	if err != nil {
		return err
	}
	row, mark := b.rows[id], b.marks[id]
	for _, ref := range idsOf(m) {
		if b.refs[ref] == 0 {
			b.refs[ref] = id
			b.out.Refs = append(b.out.Refs, store.Ref{BoxID: b.box, MessageID: ref, ConversationID: id})
		}
	}
	v := b.judge(m, row, own)
	msg := &store.Message{
		ID: b.nextM, BoxID: b.box, Hash: p.hash[:], MessageID: m.MessageID, ConversationID: id, Date: at, Received: b.now,
		Subject: m.Subject, FromName: m.From.Name, FromAddr: m.From.Address, To: m.To, Cc: m.Cc, Files: m.Files,
		Kind: m.Kind, Own: own, Raw: m.Raw, Reader: post.Reader, Stub: p.item.Stub, Size: len(p.item.Raw), Through: v.Entry,
	}
	if !v.In {
		msg.Held = delivery.StreamOf(m.Kind)
	}
	b.out.Messages = append(b.out.Messages, msg)
	b.nextM++
	b.out.Originals = append(b.out.Originals, p.item.Raw)
	b.out.Words = append(b.out.Words, words(m))

	place := b.o.Place
	if place == "" {
		place = inbox.Inbox
	}
	if p.item.Flags.Trashed {
		place = inbox.Bin
	}
	arrival := inbox.Arrival{At: at, Own: own, Answer: row.OwnLast && row.LastAt <= at, Place: place, Auto: m.Kind.Machine(), Bounce: b.o.Arrived && undelivered(m), Asleep: b.asleep,
		Unread: (place == inbox.Inbox || b.o.stored != nil) && (!p.item.Flags.Known || !p.item.Flags.Seen), Held: !v.In, Why: reasons[v.Why]}
	if b.o.Arrived || b.o.stored != nil && place == inbox.Inbox {
		arrival.At = max(at, row.Since) // whenever it was written, it has come after the last decision, or lies in the inbox in spite of it
	}
	if v.Why == delivery.WhyRound {
		arrival.Round = b.now
	}
	before := row.Place
	c := inbox.Receive(row.State(*mark), arrival)
	row.SetPosition(c.Position)
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
	row.Gather(msg, b.own)
	if v.In {
		b.count(m, own, at)
	}
	return nil
}

// reasons are why a conversation is in the inbox, by why its message came in.
var reasons = map[delivery.Why]inbox.Reason{delivery.WhyRound: inbox.Landed, delivery.WhyThrough: inbox.Through}

// judge says whether a message comes in, and notes whom to tell if it does not.
func (b *batcher) judge(m mail.Message, row *store.Conversation, own bool) delivery.Verdict {
	if !b.gated || own || undelivered(m) && row.Messages > 0 {
		return delivery.Verdict{In: true}
	}
	waits := row.Place == inbox.Snoozed && (row.Until == inbox.UntilAnswer || row.Until == inbox.UntilUnanswered)
	l := delivery.Letter{Stream: delivery.StreamOf(m.Kind), From: m.From.Address, Subject: m.Subject, Text: m.Text, Written: b.wrote[m.From.Address],
		Waited: (row.OwnLast || waits) && !m.Kind.Machine()}
	named := mail.Address{}
	for _, a := range slices.Concat(m.To, m.Cc) {
		l.To = append(l.To, a.Address)
		if b.own[a.Address] && named.Address == "" {
			named = a
		}
	}
	loc := b.week.Location()
	v := b.gate.Judge(l, b.now, loc)
	asks := delivery.Asking{Letter: l, AnswerTo: m.AnswerTo, Named: named.Address != "", Own: b.own[m.AnswerTo]}
	if r, ok := b.gate.Answer(asks, v, b.now); ok {
		b.asking = append(b.asking, asked{r, m, named, b.gate.Next(l.Stream, b.now, loc).At})
	}
	return v
}

// undelivered says that a message reports that one of the user's did not reach
// somebody, and never will.
func undelivered(m mail.Message) bool { return slices.ContainsFunc(m.Reports, mail.Report.Failed) }

// release lets in what is held of a conversation; whole says that all of it
// was.
func (b *batcher) release(id int64, whole bool) error {
	delete(b.held, id)
	b.out.Released = append(b.out.Released, id)
	row := b.rows[id]
	if !whole {
		stored, err := b.t.HeldMessages(b.box, []int64{id})
		if err != nil {
			return err
		}
		for _, m := range stored {
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

func words(m mail.Message) store.Words {
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
	return store.Words{Subject: m.Subject, People: people.String(), Body: text}
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

func (b *batcher) finish() store.Delivery {
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
func isMissing(err error) bool { return errors.Is(err, store.ErrNotFound) }
