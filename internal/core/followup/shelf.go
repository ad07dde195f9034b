package followup

import (
	"cmp"
	"slices"
	"strconv"
	"strings"

	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
)

// Shelved is what arranging needs to know of an open follow-up.
type Shelved struct {
	UID        string
	Due        when.Instant // 0: no date
	Stage      string
	Project    string
	Person     string // an address or else a name
	PersonName string
	Context    string
	Priority   Priority
	Minutes    int // of effort that are left
	Labels     []int64
	Owner      int64  // who of a team has it; 0: nobody
	Words      string // in lower case, what is looked through for words
}

// Shelf holds the open follow-ups of a box in the order of their due times,
// those without a date last. Counting and arranging them costs a walk along it,
// whatever they are filtered by.
type Shelf struct {
	in   []*Shelved
	by   map[string]*Shelved
	load []int // minutes of all entries before each; nil after a change
}

// order compares two entries as they stand on the shelf.
func order(a, b *Shelved) int {
	return cmp.Or(cmp.Compare(dated(a.Due), dated(b.Due)), cmp.Compare(a.UID, b.UID))
}

func dated(due when.Instant) when.Instant {
	if due == 0 {
		return Ever
	}
	return due
}

// Fill puts many entries on an empty shelf.
func (s *Shelf) Fill(all []Shelved) {
	s.in, s.by = make([]*Shelved, len(all)), make(map[string]*Shelved, len(all))
	for i := range all {
		s.in[i] = &all[i]
		s.by[all[i].UID] = &all[i]
	}
	slices.SortFunc(s.in, order)
	s.load = nil
}

// Put puts e on the shelf, in place of what was there under its UID.
func (s *Shelf) Put(e Shelved) {
	s.Drop(e.UID)
	if s.by == nil {
		s.by = map[string]*Shelved{}
	}
	i, _ := slices.BinarySearchFunc(s.in, &e, order)
	s.in, s.load = slices.Insert(s.in, i, &e), nil
	s.by[e.UID] = &e
}

// Drop takes a follow-up off the shelf, if it is there.
func (s *Shelf) Drop(uid string) {
	e := s.by[uid]
	if e == nil {
		return
	}
	i, _ := slices.BinarySearchFunc(s.in, e, order)
	s.in, s.load = slices.Delete(s.in, i, i+1), nil
	delete(s.by, uid)
}

// Span is a stretch of due times, [From, To); the zero Span is all, dated or
// not. Undated ones lie in [0, 1).
type Span struct{ From, To when.Instant }

func (s Span) holds(due when.Instant) bool { return s.To == 0 || due >= s.From && due < s.To }

// among walks along what n and the span leave, in order; words are those of n.
func (s *Shelf) among(n search.Query, span Span, take func(*Shelved) bool) {
	if n == (search.Query{}) && span.To == 0 {
		for _, e := range s.in {
			if !take(e) {
				return
			}
		}
		return
	}
	words := strings.Fields(strings.ToLower(n.Words))
	for _, e := range s.in {
		if !span.holds(e.Due) || n.Stage != "" && e.Stage != n.Stage || n.Project != "" && e.Project != n.Project || n.Person != "" && e.Person != n.Person ||
			n.Context != "" && e.Context != n.Context || n.Priority != 0 && e.Priority != Priority(n.Priority) || n.Label != 0 && !slices.Contains(e.Labels, n.Label) ||
			slices.ContainsFunc(words, func(w string) bool { return !strings.Contains(e.Words, w) }) {
			continue
		}
		if !take(e) {
			return
		}
	}
}

// Lot is a group of follow-ups: how many there are, and the UIDs of the first.
type Lot struct {
	Key   string
	Name  string
	Count int
	UIDs  []string
}

// keys are the groups an entry belongs to, put into out. Labels that are not
// live do not count.
func keys(out []string, e *Shelved, by By, b Bounds, live map[int64]bool) []string {
	out = out[:0]
	switch by {
	case ByStage:
		return append(out, e.Stage)
	case ByProject:
		return append(out, e.Project)
	case ByPerson:
		return append(out, e.Person)
	case ByPriority:
		return append(out, strconv.Itoa(int(e.Priority)))
	case ByOwner:
		return append(out, strconv.FormatInt(e.Owner, 10))
	case ByLabel:
		for _, l := range e.Labels {
			if live[l] {
				out = append(out, strconv.FormatInt(l, 10))
			}
		}
		if len(out) == 0 {
			out = append(out, "0")
		}
		return out
	}
	for _, g := range Groups {
		if from, to := b.Span(g); e.Due >= from && e.Due < to {
			return append(out, string(g))
		}
	}
	return out
}

// Arrange sorts what n and the span leave into groups, each with the UIDs of its
// first few. The groups have no order yet.
func (s *Shelf) Arrange(by By, n search.Query, span Span, b Bounds, live map[int64]bool, few int) map[string]*Lot {
	lots, in := map[string]*Lot{}, []string(nil)
	s.among(n, span, func(e *Shelved) bool {
		in = keys(in, e, by, b, live)
		for _, key := range in {
			if by == ByLabel && n.Label != 0 && key != strconv.FormatInt(n.Label, 10) {
				continue
			}
			l := lots[key]
			if l == nil {
				l = &Lot{Key: key}
				if by == ByPerson {
					l.Name = e.PersonName
				} else if by == ByProject {
					l.Name = e.Project
				}
				lots[key] = l
			}
			if l.Count++; len(l.UIDs) < few {
				l.UIDs = append(l.UIDs, e.UID)
			}
		}
		return true
	})
	return lots
}

// Page lists up to n UIDs of a group, after the follow-up given (empty: from the
// beginning).
func (s *Shelf) Page(by By, key string, filter search.Query, span Span, b Bounds, live map[int64]bool, after Shelved, n int) (uids []string) {
	var in []string
	s.among(filter, span, func(e *Shelved) bool {
		if in = keys(in, e, by, b, live); (after.UID == "" || order(e, &after) > 0) && slices.Contains(in, key) {
			uids = append(uids, e.UID)
		}
		return len(uids) < n
	})
	return uids
}

// List lists up to n UIDs of what is left by filter and the span.
func (s *Shelf) List(filter search.Query, span Span, n int) (uids []string) {
	s.among(filter, span, func(e *Shelved) bool {
		uids = append(uids, e.UID)
		return len(uids) < n
	})
	return uids
}

// Owed counts by who of a team has them what n leaves of what is due before that: what has no date
// is nobody's day.
func (s *Shelf) Owed(n search.Query, before when.Instant) map[int64]Heap {
	out := map[int64]Heap{}
	s.among(n, Span{From: 1, To: before}, func(e *Shelved) bool {
		h := out[e.Owner]
		out[e.Owner] = Heap{h.Open + 1, h.Load + e.Minutes}
		return true
	})
	return out
}

// Heap is how much is open in a span.
type Heap struct {
	Open int `json:"open"`
	Load int `json:"load"` // minutes
}

// Heaps counts what n leaves between the bounds, which ascend: the first heap is
// of what is due before the first bound, the last of what is due from the last
// one on. Those without a date are apart.
func (s *Shelf) Heaps(n search.Query, bounds []when.Instant) (heaps []Heap, undated Heap) {
	heaps = make([]Heap, len(bounds)+1)
	if n == (search.Query{}) {
		return s.sums(heaps, bounds)
	}
	at := 0
	s.among(n, Span{}, func(e *Shelved) bool {
		h := &undated
		if e.Due != 0 {
			for at < len(bounds) && e.Due >= bounds[at] {
				at++
			}
			h = &heaps[at]
		}
		h.Open, h.Load = h.Open+1, h.Load+e.Minutes
		return true
	})
	return heaps, undated
}

// sums are the heaps of all that is on the shelf, from the sums of their minutes.
func (s *Shelf) sums(heaps []Heap, bounds []when.Instant) ([]Heap, Heap) {
	if s.load == nil {
		s.load = make([]int, len(s.in)+1)
		for i, e := range s.in {
			s.load[i+1] = s.load[i] + e.Minutes
		}
	}
	from := 0
	for i := range heaps {
		due := Ever // what has no date stands from there on
		if i < len(bounds) {
			due = bounds[i]
		}
		to, _ := slices.BinarySearchFunc(s.in, due, func(e *Shelved, due when.Instant) int { // the first that is not before it
			if dated(e.Due) < due {
				return -1
			}
			return 1
		})
		heaps[i] = Heap{to - from, s.load[to] - s.load[from]}
		from = to
	}
	return heaps, Heap{len(s.in) - from, s.load[len(s.in)] - s.load[from]}
}
