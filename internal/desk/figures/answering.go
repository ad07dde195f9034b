package figures

import (
	"cmp"
	"context"
	"fmt"
	"log/slog"
	"slices"
	"strconv"
	"strings"
	"time"

	"ebbe/internal/core/numbers"
	"ebbe/internal/core/texting"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/counting"
)

const (
	keysShown   = 200 // people, domains, projects or labels
	peopleYears = 366 // days within which somebody wrote to be in the table of people
	stillWaits  = 60  // days after which nobody waits for an answer any more
)

// bounds are up to how many minutes an answer takes to be in each bar of a picture; the last has the rest.
var bounds = [...]int{15, 60, 240, 600, 1440, 4320, 10_080}

// clock is one that measures answers: by the wall, and by the working hours of the reader.
type clock struct{ desk numbers.Desktime }

// clockFor measures answers of [from, to).
func (d *Desk) clockFor(t store.Tx, who identity.Who, from, to int64) (clock, error) {
	off, err := d.off(t, who, from-stillWaits-1, to+1)
	if err != nil {
		return clock{}, err
	}
	return clock{numbers.DesktimeOf(who.Week, from-stillWaits-1, to+1, off)}, nil
}

// speeds are how fast answers were, in minutes.
type speeds struct {
	wall, work []int32
	open       int
}

func minutes(d when.Instant) int { return int(d / 60_000) }

func (s speeds) view() Speed {
	bars := func(of []int32) []int {
		out := make([]int, len(bounds)+1)
		for _, m := range of {
			i := 0
			for i < len(bounds) && bounds[i] < int(m) {
				i++
			}
			out[i]++
		}
		return out
	}
	return Speed{Clock: numbers.SpreadIn(s.wall), Work: numbers.SpreadIn(s.work), ClockBars: bars(s.wall), WorkBars: bars(s.work), Open: s.open}
}

func (s speeds) brief() Brief {
	return Brief{N: len(s.wall), Clock: numbers.SpreadIn(s.wall).Median, Work: numbers.SpreadIn(s.work).Median, Open: s.open}
}

func (s speeds) side() Side {
	return Side{N: len(s.wall), Work: numbers.SpreadIn(s.work).Median}
}

// both is how fast each of two is.
type both struct{ own, theirs speeds }

// of is that of the reader, or of others.
func (b *both) of(own bool) *speeds {
	if own {
		return &b.own
	}
	return &b.theirs
}

// timed are answers with how long each took.
type timed struct {
	all        []counting.Answered
	wall, work []int32 // minutes; of what was not answered 0
}

// time measures answers.
func (c clock) time(all []counting.Answered) timed {
	t := timed{all, make([]int32, len(all)), make([]int32, len(all))}
	for i, a := range all {
		if a.Answered > 0 {
			t.wall[i], t.work[i] = int32(minutes(a.Took())), int32(minutes(c.desk.Between(a.Asked, a.Answered)))
		}
	}
	return t
}

// speeds gathers them by bins, of which there are n; into says for each in which it is.
func (t timed) speeds(n int, into func(counting.Answered) []int) []both {
	type size struct{ own, theirs int }
	sizes := make([]size, n)
	sum := 0
	for _, a := range t.all {
		if a.Answered == 0 {
			continue
		}
		for _, bin := range into(a) {
			if sum++; a.Own {
				sizes[bin].own++
			} else {
				sizes[bin].theirs++
			}
		}
	}
	all := make([]int32, 2*sum) // what each bin needs lies in one piece
	cut := func(n int) (s speeds) {
		s.wall, s.work, all = all[:0:n], all[n:n:2*n], all[2*n:]
		return s
	}
	out := make([]both, n)
	for i, s := range sizes {
		out[i].own, out[i].theirs = cut(s.own), cut(s.theirs)
	}
	for i, a := range t.all {
		for _, bin := range into(a) {
			s := out[bin].of(a.Own)
			if a.Answered == 0 {
				s.open++
				continue
			}
			s.wall, s.work = append(s.wall, t.wall[i]), append(s.work, t.work[i])
		}
	}
	return out
}

// meanwhile works something out while other things are read, and gives it once it is there.
func meanwhile[T any](work func() T) (wait func() T) {
	done := make(chan struct{})
	var out T
	go func() {
		defer close(done)
		out = work()
	}()
	return func() T {
		<-done
		return out
	}
}

// together is all of it in one bin.
func (t timed) together() both {
	one := []int{0}
	return t.speeds(1, func(counting.Answered) []int { return one })[0]
}

// Answers gives how fast the reader answered and was answered from one date to another, and by person,
// domain, project or label.
func (d *Desk) Answers(ctx context.Context, who identity.Who, from, to string, by counting.Sort) (v AnswersView, err error) {
	if err := may(who); err != nil {
		return v, err
	}
	first, end, err := stretch(from, to)
	if err != nil {
		return v, err
	}
	if by = cmp.Or(by, counting.ByPerson); !slices.Contains(counting.Sorts, by) {
		return v, problem.Invalid("by", "Answers are gathered by person, domain, project or label.")
	}
	loc := who.Week.Location()
	v = AnswersView{From: from, To: to, Today: dateOf(numbers.WallOf(d.Journal.Now(), loc).Day()), Rows: []AnswersRow{}, Bounds: bounds[:], Team: who.Team != 0}
	err = d.store.Read(ctx, func(t store.Tx) error {
		c, err := d.clockFor(t, who, 2*first-end, end)
		if err != nil {
			return err
		}
		answers := counting.Answers(t)
		a, b := instantOf(first, loc), instantOf(end, loc)
		then := instantOf(2*first-end, loc)
		known, err := d.ledger(t, who, then)
		if err != nil {
			return err
		}
		was := meanwhile(func() (of [2]Speed) {
			b := c.time(known.within(then, a)).together()
			return [2]Speed{b.own.view(), b.theirs.view()}
		})
		defer func() { v.OwnBefore, v.TheirsBefore = was()[0], was()[1] }()
		all := c.time(known.within(a, b))
		is := all.together()
		v.Own, v.Theirs = is.own.view(), is.theirs.view()
		if v.Begun, v.Began, err = answers.Begun(who.Box, a, b); err != nil {
			return err
		}
		if v.Counting, err = answers.Unsettled(who.Box); err != nil {
			return err
		}
		keys, into, err := gathering(t, who, by, known, all.all)
		if err != nil {
			return err
		}
		v.Rows, v.More, err = d.rowsOf(t, who, by, keys, all.speeds(len(keys), into))
		return err
	})
	return v, err
}

// Speeds gives how fast the reader answered and was answered from one date to another.
func (d *Desk) Speeds(ctx context.Context, who identity.Who, from, to string) (own, theirs Speed, err error) {
	if err := may(who); err != nil {
		return own, theirs, err
	}
	first, end, err := stretch(from, to)
	if err != nil {
		return own, theirs, err
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		c, err := d.clockFor(t, who, first, end)
		if err != nil {
			return err
		}
		a, b := instantOf(first, who.Week.Location()), instantOf(end, who.Week.Location())
		known, err := d.ledger(t, who, a)
		is := c.time(known.within(a, b)).together()
		own, theirs = is.own.view(), is.theirs.view()
		return err
	})
	return own, theirs, err
}

// gathering says by which keys answers are gathered by a sort, and under which of them each is; what is of
// the numbers of people is of their mail addresses.
func gathering(t store.Tx, who identity.Who, by counting.Sort, l ledger, all []counting.Answered) (keys []string, into func(counting.Answered) []int, err error) {
	at := map[string]int{}
	bin := func(key string) int {
		i, ok := at[key]
		if !ok {
			i = len(keys)
			at[key] = i
			keys = append(keys, key)
		}
		return i
	}
	if by == counting.ByProject || by == counting.ByLabel {
		ids := make([]int64, len(all))
		for i, a := range all {
			ids[i] = a.ConversationID
		}
		slices.Sort(ids)
		having, err := counting.Answers(t).Keys(who.Box, by, slices.Compact(ids))
		bins := map[int64][]int{}
		for key, ids := range having {
			for _, id := range ids {
				bins[id] = append(bins[id], bin(key))
			}
		}
		return keys, func(a counting.Answered) []int { return bins[a.ConversationID] }, err
	}
	aliases := map[string]string{}
	if by == counting.ByPerson {
		if aliases, err = counting.Answers(t).Aliases(who.Box); err != nil {
			return nil, nil, err
		}
	}
	bins, put := make([]int, len(l.whom)), make([]bool, len(l.whom)) // by address
	for _, a := range all {
		if put[a.Who] {
			continue
		}
		key := cmp.Or(aliases[a.Address], a.Address)
		if by == counting.ByDomain {
			_, domain, _ := strings.Cut(a.Address, "@")
			key = cmp.Or(domain, a.Address)
		}
		bins[a.Who], put[a.Who] = bin(key), true
	}
	return keys, func(a counting.Answered) []int { return bins[a.Who : a.Who+1] }, nil
}

// rowsOf are the rows of what was gathered by keys, those with most of it first.
func (d *Desk) rowsOf(t store.Tx, who identity.Who, by counting.Sort, keys []string, gathered []both) (rows []AnswersRow, more bool, err error) {
	order := make([]int, 0, len(keys))
	size := make([]int, len(keys))
	for i, b := range gathered {
		if size[i] = len(b.own.wall) + len(b.theirs.wall) + b.own.open + b.theirs.open; size[i] > 0 {
			order = append(order, i)
		}
	}
	slices.SortFunc(order, func(a, b int) int { return cmp.Or(cmp.Compare(size[b], size[a]), cmp.Compare(keys[a], keys[b])) })
	if more = len(order) > keysShown; more {
		order = order[:keysShown]
	}
	shown := make([]string, len(order))
	for i, k := range order {
		shown[i] = keys[k]
	}
	names, err := d.namesOf(t, who, by, shown)
	if err != nil {
		return nil, false, err
	}
	rows = []AnswersRow{}
	for _, k := range order {
		rows = append(rows, AnswersRow{Key: keys[k], Name: cmp.Or(names[keys[k]], keys[k]), Own: gathered[k].own.brief(), Theirs: gathered[k].theirs.brief()})
	}
	return rows, more, nil
}

// namesOf says how keys are called.
func (d *Desk) namesOf(t store.Tx, who identity.Who, by counting.Sort, keys []string) (map[string]string, error) {
	switch by {
	case counting.ByPerson:
		all, err := d.known(t, who.Box, keys)
		out := map[string]string{}
		for i, k := range all {
			out[keys[i]] = k.Name
		}
		return out, err
	case counting.ByDomain:
		out := map[string]string{}
		for _, key := range keys {
			if texting.IsText("@" + key) {
				out[key] = "Text messages"
			}
		}
		return out, nil
	case counting.ByLabel:
		labels, err := store.Labels(t).Labels(who.Box, true)
		out := map[string]string{}
		for _, l := range labels {
			out[strconv.FormatInt(l.ID, 10)] = l.Name
		}
		return out, err
	}
	return nil, nil
}

// AskedAnswers is a number of answers whose lines are wanted.
type AskedAnswers struct {
	From  string // a date
	To    string // the last date
	Own   bool   // that the reader gave, or owes
	Open  bool   // what was not answered
	By    counting.Sort
	Key   string // of By; "" with no By: all
	After string // the line that the page before ended with
}

// AnswerLines gives the answers that a number counts, the newest first.
func (d *Desk) AnswerLines(ctx context.Context, who identity.Who, q AskedAnswers) (v AnswerLines, err error) {
	if err := may(who); err != nil {
		return v, err
	}
	v.Lines = []AnswerLine{}
	first, end, err := stretch(q.From, q.To)
	if err != nil {
		return v, err
	}
	if q.By != "" && !slices.Contains(counting.Sorts, q.By) {
		return v, problem.Invalid("by", "Answers are gathered by person, domain, project or label.")
	}
	o := counting.Opened{Own: q.Own, Open: q.Open, Sort: q.By, From: instantOf(first, who.Week.Location()), To: instantOf(end, who.Week.Location())}
	if q.After != "" {
		var l counting.OpenedLine
		if _, err := fmt.Sscanf(q.After, "%d %d %s", &l.At, &l.ConversationID, &l.Address); err != nil {
			return v, problem.Invalid("after", "That page of answers is none.")
		}
		o.After = &l
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		c, err := d.clockFor(t, who, first, end)
		if err != nil {
			return err
		}
		if q.By == counting.ByPerson {
			if o.Keys, err = alongOf(t, who, q.Key); err != nil {
				return err
			}
		} else if q.By != "" {
			o.Keys = []string{q.Key}
		}
		rows, err := counting.Answers(t).Lines(who.Box, o, linesOfPage+1)
		if len(rows) > linesOfPage {
			rows = rows[:linesOfPage]
			last := rows[linesOfPage-1]
			v.Next = fmt.Sprintf("%d %d %s", last.At, last.ConversationID, last.Address)
		}
		for _, r := range rows {
			l := AnswerLine{Conversation: r.ConversationID, Address: r.Address, Name: cmp.Or(r.Name, r.Address), Subject: r.Subject, Asked: r.Asked, Answered: r.Answered}
			if r.Answered > 0 {
				l.Clock, l.Work = minutes(r.Answered-r.Asked), minutes(c.desk.Between(r.Asked, r.Answered))
			}
			v.Lines = append(v.Lines, l)
		}
		return err
	})
	return v, err
}

// alongOf are an address and those of the numbers of whoever has it.
func alongOf(t store.Tx, who identity.Who, address string) ([]string, error) {
	aliases, err := counting.Answers(t).Aliases(who.Box)
	out := []string{address}
	for number, a := range aliases {
		if a == address {
			out = append(out, number)
		}
	}
	return out, err
}

// folk are the rows of the table of people, by address.
type folk struct {
	rows []PersonRow
	at   map[string]int
}

func (f *folk) row(address string) *PersonRow {
	i, ok := f.at[address]
	if !ok {
		i = len(f.rows)
		f.at[address] = i
		f.rows = append(f.rows, PersonRow{Address: address})
	}
	return &f.rows[i]
}

// open notes what is open between the reader and others.
func (f *folk) open(t store.Tx, who identity.Who, now when.Instant) error {
	answers := counting.Answers(t)
	aliases, err := answers.Aliases(who.Box)
	if err != nil {
		return err
	}
	earlier := func(at *when.Instant, t when.Instant) {
		if t > 0 && (*at == 0 || t < *at) {
			*at = t
		}
	}
	mine, theirs, err := answers.Waiting(who.Box, now-stillWaits*24*numbers.Hour)
	if err != nil {
		return err
	}
	for _, a := range mine {
		r := f.row(cmp.Or(aliases[a.Address], a.Address))
		r.WaitForMe += a.N
		earlier(&r.WaitForMeSince, a.Since)
	}
	for _, a := range theirs {
		f.row(cmp.Or(aliases[a.Address], a.Address)).Unanswered += a.N
	}
	pending, err := answers.Pending(who.Box)
	for _, p := range pending {
		if p.Person == "" {
			continue
		}
		r := f.row(cmp.Or(aliases[p.Person], p.Person))
		r.Name = cmp.Or(r.Name, p.PersonName)
		r.Moved += p.Moved
		if p.DueAt > 0 {
			r.Dated++
		}
		if p.WaitsSince > 0 {
			r.Theirs.Owed++
			earlier(&r.WaitForThemSince, p.WaitsSince)
		} else {
			r.Own.Owed++
			earlier(&r.WaitForMeSince, p.Made)
		}
	}
	return err
}

// known notes how people are called, and what went to and fro with them.
func (f *folk) known(d *Desk, t store.Tx, who identity.Who) error {
	addresses := make([]string, len(f.rows))
	for i, r := range f.rows {
		addresses[i] = r.Address
	}
	all, err := d.known(t, who.Box, addresses)
	for i, k := range all {
		r := &f.rows[i]
		r.Name, r.Received, r.Sent, r.Last = cmp.Or(k.Name, r.Name), k.Received, k.Sent, k.Last
	}
	return err
}

// People gives everybody with whom the reader has exchanged anything within a year, or with whom something
// is open.
func (d *Desk) People(ctx context.Context, who identity.Who) (v PeopleTable, err error) {
	if err := may(who); err != nil {
		return v, err
	}
	now, loc := d.Journal.Now(), who.Week.Location()
	today := numbers.WallOf(now, loc).Day()
	f := folk{rows: []PersonRow{}, at: map[string]int{}}
	err = d.store.Read(ctx, func(t store.Tx) error {
		c, err := d.clockFor(t, who, today-peopleYears, today+1)
		if err != nil {
			return err
		}
		from := instantOf(today-peopleYears, loc)
		l, err := d.ledger(t, who, from)
		if err != nil {
			return err
		}
		all := l.within(from, now+1)
		keys, into, err := gathering(t, who, counting.ByPerson, l, all)
		if err != nil {
			return err
		}
		sides := meanwhile(func() (out [][2]Side) {
			for _, b := range c.time(all).speeds(len(keys), into) {
				out = append(out, [2]Side{b.own.side(), b.theirs.side()})
			}
			return out
		})
		for _, key := range keys {
			f.row(key)
		}
		defer func() {
			for i, s := range sides() { // the rows of keys are the first
				f.rows[i].Own.N, f.rows[i].Own.Work = s[0].N, s[0].Work
				f.rows[i].Theirs.N, f.rows[i].Theirs.Work = s[1].N, s[1].Work
			}
		}()
		if err := f.open(t, who, now); err != nil {
			return err
		}
		if err := f.known(d, t, who); err != nil {
			return err
		}
		v.Counting, err = counting.Answers(t).Unsettled(who.Box)
		return err
	})
	v.Rows = f.rows
	slices.SortFunc(v.Rows, func(a, b PersonRow) int {
		return cmp.Or(cmp.Compare(b.Last, a.Last), cmp.Compare(a.Address, b.Address))
	})
	return v, err
}

// Longest gives who waits longest for the reader, and for whom the reader waits longest; nil is nobody.
func (d *Desk) Longest(ctx context.Context, who identity.Who) (mine, theirs *PersonRow, err error) {
	if err := may(who); err != nil {
		return nil, nil, err
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		all, two := folk{at: map[string]int{}}, folk{at: map[string]int{}}
		if err := all.open(t, who, d.Journal.Now()); err != nil {
			return err
		}
		for _, p := range all.rows {
			if p.WaitForMeSince > 0 && (mine == nil || p.WaitForMeSince < mine.WaitForMeSince) {
				mine = &p
			}
			if p.WaitForThemSince > 0 && (theirs == nil || p.WaitForThemSince < theirs.WaitForThemSince) {
				theirs = &p
			}
		}
		for _, p := range []*PersonRow{mine, theirs} {
			if p != nil {
				*two.row(p.Address) = *p
			}
		}
		err := two.known(d, t, who)
		for _, p := range []**PersonRow{&mine, &theirs} {
			if *p != nil {
				*p = two.row((*p).Address)
			}
		}
		return err
	})
	return mine, theirs, err
}

// settleAtOnce is of how many conversations answers are made anew in one go, and settleRest how long is
// rested after it, so that whoever else writes is not kept waiting.
const (
	settleAtOnce = 50
	settleRest   = 20 * time.Millisecond
)

// Settle makes answers anew of all conversations whose messages have changed.
func (d *Desk) Settle(ctx context.Context) error {
	for {
		if err := ctx.Err(); err != nil {
			return err
		}
		var done bool
		err := d.store.Write(ctx, func(t store.Tx) (err error) {
			done, err = counting.Answers(t).Settle(settleAtOnce)
			return err
		})
		if err != nil || done {
			return err
		}
		select {
		case <-ctx.Done():
		case <-time.After(settleRest):
		}
	}
}

// keepSettled settles, until the context ends, what this program or another has written.
func (d *Desk) keepSettled(ctx context.Context) {
	tick := time.NewTicker(time.Second)
	defer tick.Stop()
	for {
		var some bool
		err := d.store.Read(ctx, func(t store.Tx) (err error) { some, err = counting.Answers(t).Stale(); return err })
		if err == nil && some {
			if err = d.Settle(ctx); err == nil {
				err = d.refresh(ctx)
			}
		}
		if err != nil && ctx.Err() == nil {
			slog.Error("what has come could not be counted among answers; that is tried again", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}
