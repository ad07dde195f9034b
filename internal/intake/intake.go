// Package intake is where a message comes in, from a server or a file: it is
// read, put into its conversation (RFC 5256, with the divergences named where it
// is found, in thread.go), placed, held if the plan of its box says so, and indexed; all of a
// batch in one transaction. Two conversations that a message shows to be one are
// joined, by an entry of the journal.
package intake

import (
	"context"
	"crypto/sha256"
	"errors"
	"log/slog"
	"runtime"
	"sync"
	"time"

	"ebbe/internal/core/facts"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/when"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/post/archive"
	"ebbe/internal/post/mime"
	"ebbe/internal/store"
	"ebbe/internal/store/words"
)

// Intake takes mail in for all boxes of a store.
type Intake struct {
	Reader     func(raw []byte) mime.Body // post.Read, but in tests
	ReadWithin time.Duration              // what a message may take to be read, beside a second for each megabyte
	// Ahead sees to it that what was sent from a box, and what comes in has or refers
	// to by its Message-ID, stands in its conversation first.
	Ahead func(ctx context.Context, box int64, messageIDs []string) error

	Sort Sort
	// Coming gives the rules of a box that say something of messages before those are in
	// view (sorting.Ahead); nil: none do.
	Coming func(t store.Tx, box int64) ([]sorting.Rule, error)

	// Shared notes, in the transaction that stores them, which of the messages others are to see in a
	// box of theirs, and says whether there are any; Carry has them seen there. Arrived says that they
	// have come or gone just now.
	Shared func(t store.Tx, box int64, messages []*store.Message, arrived bool) (bool, error)
	Carry  func(ctx context.Context)

	store   *store.Store
	journal *journal.Journal
	changed func() // called when mail of before has come in
}

// kinds of entries of the journal about what comes in.
var kinds = map[inbox.Kind]journal.Kind{
	inbox.Arrive:    {Verb: "new message"},
	inbox.Import:    {Verb: "import"},
	inbox.Deliver:   {Verb: "came in"},
	inbox.WaitEnded: {Verb: "answered"},
}

// New takes mail in for a store; changed is called when mail of before has come
// in, as from files, so that what was learned of the past is learned anew.
func New(s *store.Store, j *journal.Journal, changed func()) *Intake {
	j.Register(kinds)
	return &Intake{Reader: mime.Read, ReadWithin: readWithin, Ahead: func(context.Context, int64, []string) error { return nil }, Sort: unsorted, store: s, journal: j, changed: changed,
		Shared: func(store.Tx, int64, []*store.Message, bool) (bool, error) { return false, nil }, Carry: func(context.Context) {}}
}

// Sort has rules do what they do with messages that have come into view, in the
// transaction in which they have. Words are those of messages that have just come.
type Sort func(t store.Tx, box int64, messages []int64, words map[int64]words.Entry) (Sorted, error)

// Sorted is what rules have done.
type Sorted struct {
	Changes []inbox.Change
	Notice  journal.Notice   // that the user is to hear
	Calls   []journal.Notice // to those of a team who were given something
}

func unsorted(store.Tx, int64, []int64, map[int64]words.Entry) (Sorted, error) {
	return Sorted{}, nil
}

// Tally counts what an import did.
type Tally struct {
	Read    int      // messages found
	New     int      // stored now
	Known   int      // stored before
	KeptRaw int      // of the new ones, could not be read and are kept as text
	Left    int      // files that could not be read and were left where they are
	NoMail  []string // files that hold no mail: pictures, films
}

// Options say how mail is taken in.
type Options struct {
	Place    inbox.Place                     // where it goes; the inbox if empty
	Progress func(Tally)                     // called after each stored batch; may be nil
	Problem  func(string, error)             // called for each file left out; may be nil
	Arrived  bool                            // it has just arrived, rather than being brought in from files
	At       func(mail.Message) when.Instant // when it came in; its date if nil

	Others Others // who else writes at the same time

	Round bool // it comes with a round of its own, whatever the plan says

	Carried *Carried // it is carried from another box; nil: it came here by itself

	Sent   bool                                                                 // the user has just sent it: the journal knows already
	Stored func(t store.Tx, items []post.Item, ids []int64, known []bool) error // called with each batch in its transaction, with the IDs its messages have, and whether Ebbe had them before; may be nil
}

// Carried is how mail comes from another box that is seen in this one as well.
type Carried struct {
	Into  int64           // the conversation that it is of; 0: the one it belongs to, which it then says
	Shown bool            // it is shown to whoever is there: it is in the inbox, whoever wrote it
	Quiet bool            // it is seen to where it came from: it stays where its conversation lies
	Ours  map[string]bool // addresses of those who write for the same people
}

// Others are those who write while mail is taken in. They do not wait for more than a small
// step of it.
type Others int

// Who they are.
const (
	Nobody    Others = iota
	InTurn           // others of this program, who come in turn
	Behind           // the same, while nobody waits for this: it stands back
	Elsewhere        // another program, which comes when it finds a gap
)

// pace is how long a step is to take where others write, too, how many messages it has at least,
// and how long it rests after each.
type pace struct {
	step, rest time.Duration
	least      int
}

var paces = map[Others]pace{
	InTurn:    {step: 60 * time.Millisecond, least: 48},
	Behind:    {step: 60 * time.Millisecond, least: 64, rest: 90 * time.Millisecond},
	Elsewhere: {step: 60 * time.Millisecond, least: 48, rest: 40 * time.Millisecond}, // SQLite looks every 25 ms whether it is its turn
}

const (
	batchItems = 512
	batchBytes = 4 << 20
	flying     = 24 << 20 // bytes of messages that are between being added and being stored; one message may be larger
)

// Import takes in the messages of files and folders (mbox, .eml, Maildir) into
// a box. Each batch is stored whole or not at all, messages already known are
// passed over, so that an interrupted import is simply run again.
func (s *Intake) Import(ctx context.Context, box int64, paths []string, o Options) (Tally, error) {
	return Files(ctx, paths, s.Begin(ctx, box, o), o.Problem)
}

// Taker takes messages in, one after the other, until it is closed; then it says what came of all.
type Taker interface {
	Add(post.Item) error // an error is the one that stopped it
	Close() (Tally, error)
}

// Files gives the messages of files and folders to a taker, and closes it. What cannot be read is
// left out, and told to problem unless that is nil; then the error is the first of them.
func Files(ctx context.Context, paths []string, in Taker, problem func(string, error)) (Tally, error) {
	var first error
	left := Tally{}
	for _, path := range paths {
		stopped := false
		add := func(m post.Item) error {
			err := in.Add(m)
			stopped = stopped || err != nil
			return err
		}
		without := func(p string, err error) {
			if errors.Is(err, archive.ErrNoMail) && p != path {
				left.NoMail = append(left.NoMail, p)
				return
			}
			left.Left++
			if first == nil {
				first = err
			}
			if problem != nil {
				problem(p, err)
			}
		}
		err := archive.Walk(path, add, without)
		if ctx.Err() != nil || stopped {
			break
		}
		if err != nil {
			without(path, err)
		}
	}
	tally, err := in.Close()
	tally.Left, tally.NoMail = left.Left, left.NoMail
	if err == nil {
		err = first
	}
	return tally, err
}

// Run takes messages in, one after the other, reading several at a time and
// storing them in batches in the order they were added.
type Run struct {
	of     *Intake
	ctx    context.Context
	box    int64
	o      Options
	batch  []post.Item
	size   int
	work   chan []post.Item
	done   chan struct{}
	mu     sync.Mutex
	err    error
	tally  Tally
	air    int        // bytes that are between being added and being stored
	little int        // messages of the next step, where others write, too
	stored *sync.Cond // some of them have been
}

type Parsed struct {
	item   post.Item
	markup []facts.Item // what it describes, until it is looked at
	hash   [sha256.Size]byte
	words  words.Row // by which it is found
	begins string    // of its text
	Body   mime.Body
	// Language is that in which its sender wrote.
	Language when.Language
	// Signs are what its words say of its importance, if that was looked at.
	Signs Signs
	// Facts are what it tells of parcels, bills and the like, unless it is old.
	Facts []facts.Fact
	// Junk are its signs for the junk test, and Script its letters, unless it is old.
	Junk   sorting.JunkSigns
	Script string
}

// Begin begins taking in mail; Close has to be called at the end.
func (s *Intake) Begin(ctx context.Context, box int64, o Options) *Run {
	in := &Run{of: s, ctx: ctx, box: box, o: o, work: make(chan []post.Item, 1), done: make(chan struct{})}
	in.stored = sync.NewCond(&in.mu)
	ready := make(chan []Parsed, 1)
	go func() {
		defer close(ready)
		w := s.weekOf(ctx, box)
		for batch := range in.work {
			ready <- s.parseAll(batch, w, o.Others)
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
			in.stored.Broadcast()
		}
	}()
	return in
}

// Add takes in one message. It returns the error that stopped the intake, if
// one has.
func (in *Run) Add(item post.Item) error {
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
func (in *Run) Flush() {
	if len(in.batch) > 0 {
		in.mu.Lock()
		for in.air > 0 && in.air+in.size > flying {
			in.stored.Wait()
		}
		in.air += in.size
		in.mu.Unlock()
		in.work <- in.batch
		in.batch, in.size = nil, 0
	}
}

// Close stores what was added and says what came of it all.
func (in *Run) Close() (Tally, error) {
	in.Flush()
	close(in.work)
	<-in.done
	return in.tally, in.failed()
}

func (in *Run) failed() error {
	in.mu.Lock()
	defer in.mu.Unlock()
	return in.err
}

func (in *Run) store(batch []Parsed) {
	if in.o.Arrived && !in.o.Sent { // what comes to Ebbe's own addresses may be what is being handed over
		var ids []string
		for _, p := range batch {
			ids = append(ids, idsOf(p.Body.Message)...)
		}
		if err := in.of.Ahead(in.ctx, in.box, ids); err != nil && in.ctx.Err() == nil { // it may stand apart then, but it comes in
			slog.Warn("what was sent could not be put before its answers", "box", in.box, "error", err)
		}
	}
	p := paces[in.o.Others]
	for len(batch) > 0 {
		n := len(batch)
		if in.o.Others != Nobody {
			n = min(n, max(in.little, p.least))
		}
		begun := time.Now()
		in.stepped(in.of.takeBatch(in.ctx, in.box, batch[:n], in.o))
		if in.failed() != nil || in.o.Others == Nobody {
			return
		}
		if in.little = n; time.Since(begun) < p.step/2 {
			in.little = 2 * n
		} else if time.Since(begun) > p.step {
			in.little = n / 2
		}
		if batch = batch[n:]; p.rest > 0 {
			select {
			case <-in.ctx.Done():
			case <-time.After(p.rest):
			}
		}
	}
}

// stepped notes what came of a step.
func (in *Run) stepped(tally Tally, err error) {
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
func (s *Intake) read(raw []byte) mime.Body {
	done := make(chan mime.Body, 1)
	go func() { done <- s.Reader(raw) }()
	limit := time.NewTimer(s.ReadWithin + time.Duration(len(raw)>>20)*time.Second)
	defer limit.Stop()
	select {
	case b := <-done:
		return b
	case <-limit.C:
		slog.Error("a message takes too long to read, so it is kept as it came", "bytes", len(raw))
		return mime.KeptRaw(raw)
	}
}

// Parse reads a message as far as it is kept apart from its original.
func (s *Intake) Parse(item post.Item) Parsed {
	b := s.read(item.Raw)
	b.Text = b.Words()
	p := Parsed{item: item, hash: sha256.Sum256(item.Raw), words: Words(b.Message).Row(), begins: mail.Begins(b.Text), Language: mail.LanguageOf(b.Text)}
	if b.Date >= s.journal.Now()-JunkLearned {
		p.Junk, p.Script = sorting.JunkSignsOf(b.Message), mail.ScriptOf(b.Text)
	}
	if b.Date >= s.journal.Now()-factsKept {
		p.markup = b.Markup()
	}
	b.Parts, b.Inline, b.HTML = nil, nil, ""
	p.Body = b
	return p
}

// parseAll reads the messages of a batch on all processors, or on half of them where others are
// before it, for a reader with the week w.
func (s *Intake) parseAll(batch []post.Item, w when.Week, others Others) []Parsed {
	now, hands := s.journal.Now(), runtime.GOMAXPROCS(0)
	if others == Behind {
		hands = max(1, hands/2)
	}
	out := make([]Parsed, len(batch))
	var wg sync.WaitGroup
	for hand := range hands {
		wg.Go(func() {
			for i := hand; i < len(batch); i += hands {
				out[i] = s.Parse(batch[i])
				out[i].Look(w, now)
			}
		})
	}
	wg.Wait()
	return out
}
