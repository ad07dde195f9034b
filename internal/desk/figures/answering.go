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
	keysShown   = 500 // people, domains, projects or labels
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

// speeds gathers how fast answers were, in minutes.
type speeds struct {
	wall, work []int
	open       int
}

func (s *speeds) add(c clock, a numbers.Answer) {
	if a.Answered == 0 {
		s.open++
		return
	}
	s.wall, s.work = append(s.wall, minutes(a.Took())), append(s.work, minutes(c.desk.Between(a.Asked, a.Answered)))
}

func minutes(d when.Instant) int { return int(d / 60_000) }

func (s speeds) view() Speed {
	slices.Sort(s.wall)
	slices.Sort(s.work)
	bars := func(of []int) []int {
		out := make([]int, len(bounds)+1)
		for _, m := range of {
			i, _ := slices.BinarySearch(bounds[:], m)
			out[i]++
		}
		return out
	}
	return Speed{Clock: numbers.SpreadIn(s.wall), Work: numbers.SpreadIn(s.work), ClockBars: bars(s.wall), WorkBars: bars(s.work), Open: s.open}
}

func (s speeds) brief() Brief {
	slices.Sort(s.wall)
	slices.Sort(s.work)
	return Brief{N: len(s.wall), Clock: numbers.SpreadIn(s.wall).Median, Work: numbers.SpreadIn(s.work).Median, Open: s.open}
}

// both is how fast each of two is.
type both struct{ own, theirs speeds }

func (b *both) add(c clock, a numbers.Answer) {
	if a.Own {
		b.own.add(c, a)
	} else {
		b.theirs.add(c, a)
	}
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
		all := within(known, a, b)
		var is, was both
		for _, x := range all {
			is.add(c, x.Answer)
		}
		for _, x := range within(known, then, a) {
			was.add(c, x.Answer)
		}
		v.Own, v.Theirs, v.OwnBefore, v.TheirsBefore = is.own.view(), is.theirs.view(), was.own.view(), was.theirs.view()
		if v.Begun, v.Began, err = answers.Begun(who.Box, a, b); err != nil {
			return err
		}
		if v.Counting, err = answers.Unsettled(who.Box); err != nil {
			return err
		}
		gathered, err := gather(t, who, by, all)
		if err != nil {
			return err
		}
		v.Rows, v.More, err = rowsOf(t, who, by, gathered, c)
		return err
	})
	return v, err
}

// heap is all that was gathered under a key.
type heap struct {
	key string
	all []numbers.Answer
}

// gather gathers answers by a sort; what is of the numbers of people is of their mail addresses.
func gather(t store.Tx, who identity.Who, by counting.Sort, all []counting.Answered) ([]heap, error) {
	var keys map[int64][]string
	var aliases map[string]string
	var err error
	switch by {
	case counting.ByPerson:
		aliases, err = counting.Answers(t).Aliases(who.Box)
	case counting.ByProject, counting.ByLabel:
		var ids []int64
		for _, a := range all {
			ids = append(ids, a.ConversationID)
		}
		slices.Sort(ids)
		keys, err = counting.Answers(t).Keys(who.Box, by, slices.Compact(ids))
	}
	if err != nil {
		return nil, err
	}
	at := map[string]int{}
	var out []heap
	add := func(key string, a numbers.Answer) {
		i, ok := at[key]
		if !ok {
			i = len(out)
			at[key] = i
			out = append(out, heap{key: key})
		}
		out[i].all = append(out[i].all, a)
	}
	for _, a := range all {
		switch by {
		case counting.ByPerson:
			add(cmp.Or(aliases[a.Address], a.Address), a.Answer)
		case counting.ByDomain:
			_, domain, _ := strings.Cut(a.Address, "@")
			add(cmp.Or(domain, a.Address), a.Answer)
		default:
			for _, key := range keys[a.ConversationID] {
				add(key, a.Answer)
			}
		}
	}
	return out, nil
}

// rowsOf are the rows of what was gathered, those with most of it first.
func rowsOf(t store.Tx, who identity.Who, by counting.Sort, gathered []heap, c clock) (rows []AnswersRow, more bool, err error) {
	slices.SortFunc(gathered, func(a, b heap) int {
		return cmp.Or(cmp.Compare(len(b.all), len(a.all)), cmp.Compare(a.key, b.key))
	})
	if more = len(gathered) > keysShown; more {
		gathered = gathered[:keysShown]
	}
	keys := make([]string, len(gathered))
	for i, g := range gathered {
		keys[i] = g.key
	}
	names, err := namesOf(t, who, by, keys)
	if err != nil {
		return nil, false, err
	}
	rows = []AnswersRow{}
	for _, g := range gathered {
		b := g.speeds(c)
		rows = append(rows, AnswersRow{Key: g.key, Name: cmp.Or(names[g.key], g.key), Own: b.own.brief(), Theirs: b.theirs.brief()})
	}
	return rows, more, nil
}

func (h heap) speeds(c clock) (b both) {
	for _, a := range h.all {
		b.add(c, a)
	}
	return b
}

// namesOf says how keys are called.
func namesOf(t store.Tx, who identity.Who, by counting.Sort, keys []string) (map[string]string, error) {
	switch by {
	case counting.ByPerson:
		return store.Correspondents(t).Addresses(who.Box, keys)
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

// People gives everybody with whom the reader has exchanged anything within a year, or with whom something
// is open.
func (d *Desk) People(ctx context.Context, who identity.Who) (v PeopleTable, err error) {
	if err := may(who); err != nil {
		return v, err
	}
	now, loc := d.Journal.Now(), who.Week.Location()
	today := numbers.WallOf(now, loc).Day()
	v.Rows = []PersonRow{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		c, err := d.clockFor(t, who, today-peopleYears, today+1)
		if err != nil {
			return err
		}
		answers := counting.Answers(t)
		from := instantOf(today-peopleYears, loc)
		all, err := d.ledger(t, who, from)
		if err != nil {
			return err
		}
		gathered, err := gather(t, who, counting.ByPerson, within(all, from, now+1))
		if err != nil {
			return err
		}
		at := map[string]int{}
		row := func(address string) *PersonRow {
			i, ok := at[address]
			if !ok {
				i = len(v.Rows)
				at[address] = i
				v.Rows = append(v.Rows, PersonRow{Address: address})
			}
			return &v.Rows[i]
		}
		for _, g := range gathered {
			b := g.speeds(c)
			r := row(g.key)
			r.Own, r.Theirs = b.own.brief(), b.theirs.brief()
		}
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
			r := row(cmp.Or(aliases[a.Address], a.Address))
			r.WaitForMe++
			earlier(&r.WaitForMeSince, a.Asked)
		}
		for _, a := range theirs {
			r := row(cmp.Or(aliases[a.Address], a.Address))
			r.Unanswered++
		}
		open, err := answers.About(who.Box)
		if err != nil {
			return err
		}
		for _, f := range open {
			r := row(cmp.Or(aliases[f.With.Address], f.With.Address))
			r.Name = cmp.Or(r.Name, f.With.Name)
			r.Moved += f.Moved
			if !f.Due.IsZero() {
				r.Dated++
			}
			if f.Waiting() {
				r.Theirs.Owed++
				earlier(&r.WaitForThemSince, f.Waits.Since)
			} else {
				r.Own.Owed++
				earlier(&r.WaitForMeSince, f.Made)
			}
		}
		addresses := make([]string, 0, len(v.Rows))
		for _, r := range v.Rows {
			addresses = append(addresses, r.Address)
		}
		known, err := answers.Correspondents(who.Box, addresses)
		for _, k := range known {
			r := row(k.Address)
			r.Name, r.Received, r.Sent, r.Last = cmp.Or(k.Name, r.Name), k.Received, k.Sent, max(k.LastAt, k.AnsweredAt)
		}
		if err != nil {
			return err
		}
		v.Counting, err = answers.Unsettled(who.Box)
		return err
	})
	slices.SortFunc(v.Rows, func(a, b PersonRow) int {
		return cmp.Or(cmp.Compare(b.Last, a.Last), cmp.Compare(a.Address, b.Address))
	})
	return v, err
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
