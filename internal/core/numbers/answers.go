package numbers

import (
	"cmp"
	"slices"

	"ebbe/internal/core/when"
)

// Written is a message as far as answers are made of it (Answers).
type Written struct {
	At     when.Instant
	Own    bool     // the reader wrote it
	Person bool     // somebody wrote it by hand, to those whom it names: no list, no machine (mail.Person)
	From   string   // the address of whoever wrote it
	To     []string // the addresses of others whom it is to
	Copied []string // and of those who were sent a copy
	Direct bool     // the reader is among whom it is to
}

// Answer is that one of two wrote to the other, who answered it, or has not so far.
type Answer struct {
	Address  string // of the one who is not the reader
	Own      bool   // it is the reader's to answer
	Asked    when.Instant
	Answered when.Instant // 0: it was not
}

// At is when it was answered, or written as long as it is not.
func (a Answer) At() when.Instant { return cmp.Or(a.Answered, a.Asked) }

// Took is how long the answer took by the clock.
func (a Answer) Took() when.Instant { return a.Answered - a.Asked }

const (
	// anAnswer is how long after what it may answer a message is an answer: what comes later begins
	// something new.
	anAnswer = 60 * 24 * Hour

	// someone is up to how many people a message asks; what is to more asks nobody in particular.
	someone = 5
)

// Answers says who answered whom in a conversation, of all its messages, and whether the reader began it;
// known is false if nobody did by hand.
//
// The rule: between the reader and each other person, what one writes to the other (to them, no copy, and
// to five people at most) waits for an answer. The answer is the first message of the other in the
// conversation: of somebody else, whomever it is to; of the reader, one that is to them or sends them a
// copy. What is written meanwhile by whoever waits changes nothing: it waits since the first. An answer
// may be a question in turn. What comes after sixty days answers nothing. What machines and lists send, or
// Ebbe by itself, counts for nothing; nor does what lies in junk, which is not asked about here.
func Answers(all []Written) (out []Answer, began bool, since when.Instant, known bool) {
	all = slices.Clone(all)
	slices.SortStableFunc(all, func(a, b Written) int { return cmp.Compare(a.At, b.At) })
	waits := map[string]Answer{} // by the other's address
	end := func(address string) {
		if w, ok := waits[address]; ok {
			out = append(out, w)
			delete(waits, address)
		}
	}
	meet := func(address string, at when.Instant, own, asks bool) { // one of the two, the reader if own, wrote
		w, ok := waits[address]
		if ok && at-w.Asked > anAnswer {
			end(address)
			ok = false
		}
		switch {
		case ok && w.Own == own: // it was waited for
			w.Answered = at
			waits[address] = w
			end(address)
		case ok:
			return
		}
		if asks {
			waits[address] = Answer{Address: address, Own: !own, Asked: at}
		}
	}
	for _, m := range all {
		if !m.Person {
			continue
		}
		if !known {
			began, since, known = m.Own, m.At, true
		}
		asks := len(m.To) <= someone
		switch {
		case !m.Own && m.From != "":
			meet(m.From, m.At, false, m.Direct && asks)
		case m.Own:
			var met []string
			for _, a := range slices.Concat(m.To, m.Copied) {
				if a != "" && !slices.Contains(met, a) {
					met = append(met, a)
					meet(a, m.At, true, asks && slices.Contains(m.To, a))
				}
			}
		}
	}
	for address := range waits {
		end(address)
	}
	slices.SortFunc(out, func(a, b Answer) int {
		return cmp.Or(cmp.Compare(a.Asked, b.Asked), cmp.Compare(a.Address, b.Address), cmp.Compare(a.Answered, b.Answered))
	})
	return out, began, since, known
}

// Usual is how long answers take in the middle of them: half took less; 0 of none.
func Usual(taken []when.Instant) when.Instant {
	if len(taken) == 0 {
		return 0
	}
	all := slices.Clone(taken)
	slices.Sort(all)
	return all[len(all)/2]
}

// Desktime tells how much of a stretch of time somebody was at work: on working days, from the morning
// until the evening of their week.
type Desktime struct {
	from, until []when.Instant // of each working day
	before      []when.Instant // how much had been worked before it
	first       when.Instant   // when the first day began
	begun       []int          // about how many working days had begun by each day: a change of the clock may make it one more
}

// DesktimeOf is that of the days in [from, to) by a week, without those that are off.
func DesktimeOf(w when.Week, from, to int64, off func(day int64) bool) (d Desktime) {
	loc := w.Location()
	sum := when.Instant(0)
	d.first = when.At(DateOf(from), 0, loc)
	for day := from; day < to; day++ {
		if d.begun = append(d.begun, len(d.from)); off(day) {
			continue
		}
		from, until := when.At(DateOf(day), w.Morning, loc), when.At(DateOf(day), w.Evening, loc)
		d.from, d.until, d.before = append(d.from, from), append(d.until, until), append(d.before, sum)
		sum += max(0, until-from)
	}
	return d
}

// worked is how much had been worked until then.
func (d Desktime) worked(at when.Instant) when.Instant {
	i := len(d.from) // how many days had begun
	if day := (at - d.first) / (24 * Hour); at < d.first {
		return 0
	} else if int(day) < len(d.begun) {
		i = d.begun[day]
	}
	for i > 0 && d.from[i-1] > at {
		i--
	}
	for i < len(d.from) && d.from[i] <= at {
		i++
	}
	if i == 0 {
		return 0
	}
	i--
	return d.before[i] + min(at, max(d.until[i], d.from[i])) - d.from[i]
}

// Between is how much of [from, to) was worked.
func (d Desktime) Between(from, to when.Instant) when.Instant {
	return max(0, d.worked(to)-d.worked(from))
}
