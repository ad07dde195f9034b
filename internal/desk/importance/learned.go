package importance

import (
	"context"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/store"
	"ebbe/internal/store/weighing"
)

const (
	provenWeeks = 8
	shown       = 40
)

// Learned gives what was learned of importance in a person's box, and how well it has
// done: what was weighed when it came is held against what they have acted on since.
func (d *Desk) Learned(ctx context.Context, who identity.Who) (out Learned, err error) {
	now, loc := d.Journal.Now(), who.Week.Location()
	out = Learned{Weeks: provenWeeks, Senders: []SenderLearned{}, Corrections: []CorrectionView{}}
	err = d.store.Read(ctx, func(t store.Tx) error {
		past, err := weighing.Weights(t).Past(who.Box, when.DayStart(now, loc, -7*provenWeeks), now)
		if err != nil {
			return err
		}
		out.Proof = sorting.Prove(past, func(at when.Instant) int { y, m, d := at.In(loc).Date(); return y*400 + int(m)*31 + d })
		strongest, err := weighing.Weights(t).Strongest(who.Box, shown)
		if err != nil {
			return err
		}
		var from []string
		for _, s := range strongest {
			from = append(from, s.Feature.Sender())
		}
		m, err := weighing.Weights(t).Model(who.Box, from)
		if err != nil {
			return err
		}
		names, err := store.Correspondents(t).Addresses(who.Box, from)
		if err != nil {
			return err
		}
		ways, err := weighing.Weights(t).LastTraits(who.Box, from)
		if err != nil {
			return err
		}
		for _, s := range strongest {
			a := s.Feature.Sender()
			w := m.Weigh(sorting.Traits{Kind: ways[a].Kind, Reach: ways[a].Reach}, a, now) // without what single letters have
			out.Senders = append(out.Senders, SenderLearned{mail.Address{Name: names[a], Address: a}, s.N, s.Answered, s.Quick, sorting.Level(w.Mille())})
		}
		corrected, err := weighing.Weights(t).Corrected(who.Box, shown)
		for _, c := range corrected {
			out.Corrections = append(out.Corrections, CorrectionView{c.Entry, c.ConversationID, mail.Title(c.Subject), mail.Address{Name: c.FromName, Address: c.FromAddr}, c.Important, c.At})
		}
		return err
	})
	return out, err
}
