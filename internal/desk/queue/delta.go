package queue

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"hash/maphash"
	"slices"
	"strconv"
	"sync"
)

// recent are the orders that have been given out lately, by which whoever has one gets only what has
// become otherwise since (as RFC 3229 has it of whole answers).
type recent struct {
	mu   sync.Mutex
	seed maphash.Seed
	all  []order // the newest last
	size int     // bytes
}

// order is one that somebody has.
type order struct {
	box, person int64
	tag         string
	groups      map[string][]byte // the conversations of each group, as JSON
	size        int
}

// How many orders are kept, and of how many bytes.
const (
	mostOrders = 400
	mostBytes  = 32 << 20
)

// put keeps an order that is given out, and gives the tag by which it is known.
func (r *recent) put(box, person int64, groups []QueueGroup) string {
	var h maphash.Hash
	h.SetSeed(r.seed)
	o := order{box: box, person: person, groups: map[string][]byte{}}
	for _, g := range groups {
		_, _ = h.WriteString(g.Key) // never fails
		_ = binary.Write(&h, binary.LittleEndian, int64(len(g.IDs)))
		_, _ = h.Write(g.IDs)
		o.groups[g.Key] = g.IDs
		o.size += len(g.Key) + len(g.IDs)
	}
	o.tag = strconv.FormatUint(h.Sum64(), 36)
	r.mu.Lock()
	defer r.mu.Unlock()
	if i := r.find(box, person, o.tag); i >= 0 { // it is the newest again
		o = r.all[i]
		r.all = append(slices.Delete(r.all, i, i+1), o)
		return o.tag
	}
	r.all, r.size = append(r.all, o), r.size+o.size
	for len(r.all) > mostOrders || r.size > mostBytes && len(r.all) > 1 {
		r.size -= r.all[0].size
		r.all = slices.Delete(r.all, 0, 1)
	}
	return o.tag
}

// of is the order with that tag that was given to somebody; nil if it is not kept any more.
func (r *recent) of(box, person int64, tag string) map[string][]byte {
	r.mu.Lock()
	defer r.mu.Unlock()
	if i := r.find(box, person, tag); i >= 0 {
		return r.all[i].groups
	}
	return nil
}

func (r *recent) find(box, person int64, tag string) int {
	return slices.IndexFunc(r.all, func(o order) bool { return o.tag == tag && o.box == box && o.person == person })
}

// since has the groups say only what is otherwise in them than in the order was.
func since(was map[string][]byte, groups []QueueGroup) (out []QueueGroup) {
	for _, g := range groups {
		if before := was[g.Key]; len(before) > 0 {
			begin, end, rest := difference(before, g.IDs)
			g.Keep, g.IDs = &[2]int{begin, end}, rest
		}
		out = append(out, g)
	}
	return out
}

// difference is how many numbers two arrays of them, as JSON, begin with and end with alike, and those of
// the second that stand between.
func difference(was, is []byte) (begin, end int, between json.RawMessage) {
	a, b := terms(was), terms(is)
	n := 0
	for n < min(len(a), len(b)) && a[n] == b[n] {
		n++
	}
	n = bytes.LastIndexByte(a[:n], ',') + 1
	begin = bytes.Count(a[:n], comma)
	a, b = a[n:], b[n:]
	n = 0
	for n < min(len(a), len(b)) && a[len(a)-1-n] == b[len(b)-1-n] {
		n++
	}
	// The end begins with a whole number: it is all of what is left, or stands behind a comma.
	starts := func(x []byte) bool { return n == len(x) || x[len(x)-1-n] == ',' }
	if n > 0 && !(starts(a) && starts(b)) {
		n -= bytes.IndexByte(a[len(a)-n:], ',') + 1
	}
	end = bytes.Count(a[len(a)-n:], comma)
	return begin, end, slices.Concat([]byte("["), bytes.TrimSuffix(b[:len(b)-n], comma), []byte("]"))
}

var comma = []byte(",")

// terms are the numbers of an array as JSON, each with a comma behind it.
func terms(array []byte) []byte {
	inner := bytes.Trim(array, "[]")
	if len(inner) == 0 {
		return nil
	}
	return append(slices.Clip(inner), ',')
}
