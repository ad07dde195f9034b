package talk

import (
	"cmp"
	"context"
	"slices"
	"sync"

	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/store"
	"ebbe/internal/store/membership"
)

// presence is who has which conversation of a team open. It is kept in memory alone: nobody can
// look up later who read what.
type presence struct {
	mu sync.Mutex
	at map[seat]spot
}

// seat is somebody in the box of a team.
type seat struct{ box, person int64 }

// spot is what they have open there.
type spot struct {
	conversation int64
	since, last  when.Instant
}

// stillHere is for how many milliseconds after they said so somebody is taken to be there.
const stillHere = 90_000

// move notes what somebody has open, 0 for nothing, and gives what they had before.
func (p *presence) move(s seat, conversation int64, now when.Instant) (before int64) {
	p.mu.Lock()
	defer p.mu.Unlock()
	for k, v := range p.at { // it never holds more than who was here just now
		if now-v.last >= stillHere {
			delete(p.at, k)
		}
	}
	was := p.at[s]
	if conversation == 0 {
		delete(p.at, s)
		return was.conversation
	}
	if p.at == nil {
		p.at = map[seat]spot{}
	}
	is := spot{conversation, now, now}
	if was.conversation == conversation {
		is.since = was.since
	}
	p.at[s] = is
	return was.conversation
}

// others gives who else of a team has a conversation open, by since when.
func (p *presence) others(me seat, conversation int64, now when.Instant) map[int64]when.Instant {
	p.mu.Lock()
	defer p.mu.Unlock()
	out := map[int64]when.Instant{}
	for s, v := range p.at {
		if s.box == me.box && s.person != me.person && v.conversation == conversation && now-v.last < stillHere {
			out[s.person] = v.since
		}
	}
	return out
}

// Here notes that somebody has a conversation of the team open, or with 0 none; the others hear of
// it at once. It holds for a minute and a half, and is said again meanwhile.
func (d *Desk) Here(ctx context.Context, who identity.Who, conversation int64) error {
	if who.Team == 0 {
		return nil
	}
	if conversation != 0 {
		err := d.store.Read(ctx, func(t store.Tx) error {
			row, err := store.Conversations(t).Opened(who.Box, who.Person, conversation)
			conversation = row.ID
			return err
		})
		if err != nil {
			return err
		}
	}
	before := d.present.move(seat{who.Box, who.Person}, conversation, d.Journal.Now())
	if before == conversation {
		return nil
	}
	d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicReading}, Conversations: slices.DeleteFunc([]int64{before, conversation}, func(id int64) bool { return id == 0 })})
	return nil
}

// Reading gives who else of the team has a conversation open, whoever came first before the others.
func (d *Desk) Reading(ctx context.Context, who identity.Who, conversation int64) ([]ReaderView, error) {
	out := []ReaderView{}
	there := d.present.others(seat{who.Box, who.Person}, conversation, d.Journal.Now())
	if who.Team == 0 || len(there) == 0 {
		return out, nil
	}
	err := d.store.Read(ctx, func(t store.Tx) error {
		members, err := membership.Membership(t).Fellows(who.Box)
		for _, m := range members { // whoever has left meanwhile is named no more
			if since, ok := there[m.PersonID]; ok {
				out = append(out, ReaderView{Name: m.Name, Since: since})
			}
		}
		return err
	})
	slices.SortStableFunc(out, func(a, b ReaderView) int { return cmp.Compare(a.Since, b.Since) })
	return out, err
}
