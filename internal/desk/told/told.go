// Package told is what machines tell in their mail of parcels, bills, journeys and the
// like, as the screens show it, and what of it is still to come, together.
package told

import (
	"cmp"
	"context"
	"slices"
	"strconv"
	"strings"

	"ebbe/internal/core/facts"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/store"
	"ebbe/internal/store/telling"
)

// Desk answers what machines tell.
type Desk struct {
	store   *store.Store
	journal *journal.Journal
}

// New answers for a store.
func New(s *store.Store, j *journal.Journal) *Desk { return &Desk{s, j} }

// viewOf is a fact as it stands at now.
func viewOf(f telling.Told, w when.Week, now when.Instant) FactView {
	v := FactView{Message: f.MessageID, Conversation: f.ConversationID, Kind: f.Kind, Say: f.Fact.Say(w, now), Where: f.Fact.Where, Code: f.Fact.Code, Doubt: f.Fact.Doubt, Open: f.Ends > now}
	v.About = strings.Join(slices.DeleteFunc([]string{f.Fact.Name, f.Fact.By, f.Fact.Ref}, func(s string) bool { return s == "" }), " · ")
	if v.Open && f.Kind == facts.Parcel && f.Fact.State != facts.ToCollect && f.Fact.Doubt == "" {
		if after := f.Fact.After(w); after.At > now {
			v.Arrives = after
		}
	}
	return v
}

// known gives what the messages of conversations tell, those of the newest message first;
// of one thing what was told last, wherever that was.
func known(t store.Tx, box int64, conversations []int64) ([]telling.Told, error) {
	told, err := telling.Facts(t).Of(box, conversations)
	if err != nil {
		return nil, err
	}
	var things []string
	for _, f := range told {
		if f.Thing != "" {
			things = append(things, f.Thing)
		}
	}
	if len(things) == 0 {
		return told, nil
	}
	newest, err := telling.Facts(t).Newest(box, things)
	for i, f := range told {
		if n, ok := newest[f.Thing]; ok {
			told[i].Fact, told[i].Ends = n.Fact, n.Ends
		}
	}
	return told, err
}

// Of gives what the messages of a conversation tell, those of the newest first.
func Of(t store.Tx, who identity.Who, conversation int64, now when.Instant) ([]FactView, error) {
	told, err := known(t, who.Box, []int64{conversation})
	out, seen := []FactView{}, map[string]bool{}
	for _, f := range told {
		if f.Thing == "" || !seen[f.Thing] {
			seen[f.Thing] = true
			out = append(out, viewOf(f, who.Week, now))
		}
	}
	return out, err
}

// Says is what the newest message of each of these conversations that tells something
// tells, in a few words. What it was a while ago is not said any more.
func Says(t store.Tx, who identity.Who, conversations []int64, now when.Instant) (map[int64]string, error) {
	told, err := known(t, who.Box, conversations)
	out, newest := map[int64]string{}, map[int64]int64{}
	for _, f := range told {
		if m := newest[f.ConversationID]; m != 0 && m != f.MessageID || out[f.ConversationID] != "" {
			continue
		}
		newest[f.ConversationID] = f.MessageID
		if f.Ends > now || f.Ends == 0 {
			out[f.ConversationID] = f.Fact.Say(who.Week, now)
		}
	}
	return out, err
}

// Offered is the first fact of a conversation of one of these kinds of which something is
// expected and whose text does not contradict it; nil if there is none.
func Offered(t store.Tx, who identity.Who, conversation int64, now when.Instant, kinds ...facts.Kind) (*facts.Fact, error) {
	told, err := known(t, who.Box, []int64{conversation})
	for _, f := range told {
		if slices.Contains(kinds, f.Kind) && f.Ends > now && f.Fact.Doubt == "" && f.Fact.From.At > now {
			return &f.Fact, err
		}
	}
	return nil, err
}

// names are what is still to come of each kind, one and several.
var names = map[facts.Kind][2]string{
	facts.Code: {"code", "codes"}, facts.Parcel: {"parcel on the way", "parcels on the way"}, facts.Bill: {"bill to pay", "bills to pay"}, facts.Journey: {"journey", "journeys"},
	facts.Booking: {"booking", "bookings"}, facts.Event: {"event", "events"}, facts.Order: {"order", "orders"},
}

// Open gives all that is still to come, by its kind, the earliest first.
func (d *Desk) Open(ctx context.Context, who identity.Who) (heaps []ToldHeap, err error) {
	now := d.journal.Now()
	heaps = []ToldHeap{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		told, err := telling.Facts(t).Open(who.Box, now)
		if err != nil {
			return err
		}
		slices.SortStableFunc(told, func(a, b telling.Told) int { return cmp.Compare(a.Fact.From.At, b.Fact.From.At) })
		for _, k := range facts.Kinds {
			h := ToldHeap{Kind: k}
			for _, f := range told {
				if f.Kind == k {
					h.Facts = append(h.Facts, viewOf(f, who.Week, now))
				}
			}
			if n := len(h.Facts); n > 0 {
				h.Name = strconv.Itoa(n) + " " + names[k][min(n-1, 1)]
				heaps = append(heaps, h)
			}
		}
		return nil
	})
	return heaps, err
}
