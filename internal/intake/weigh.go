package intake

import (
	"context"
	"log/slog"
	"strings"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/weighing"
)

// Signs are what the words of a message say of its importance.
type Signs struct {
	Asks bool // it asks something
	Soon bool // it names a day of the coming week
}

const (
	lookedAt  = when.Instant(60 * 24 * 3_600_000)  // what is older when it comes is not looked at for what it asks
	factsKept = when.Instant(400 * 24 * 3_600_000) // what is older tells nothing of which something is expected
	soon      = when.Instant(7 * 24 * 3_600_000)
	lookIn    = 8 << 10 // bytes of a text that are looked at
)

// beginning is what of a text is looked at.
func beginning(text string) string {
	if len(text) > lookIn {
		text = strings.ToValidUTF8(text[:lookIn], "")
	}
	return text
}

// Look looks at the words of a message for a reader with the week w, unless it is old
// by now: what it tells, and what it asks.
func (p *Parsed) Look(w when.Week, now when.Instant) {
	m := p.Body.Message
	if m.Date >= now-factsKept {
		p.Facts = p.Body.Facts(p.markup, p.Language, w)
		p.markup = nil
	}
	if m.Date < now-lookedAt || m.Kind.Machine() {
		return
	}
	text := mail.OwnWords(beginning(m.Text))
	p.Signs.Asks = len(followup.Asks(followup.Source{From: m.From, Subject: m.Subject, Text: text, Kind: m.Kind, Written: m.Date, Language: p.Language}, w)) > 0
	for _, f := range w.FindTimes(text, p.Language, m.Date) {
		p.Signs.Soon = p.Signs.Soon || f.Start.At >= m.Date && f.Start.At < m.Date+soon
	}
}

// WeekOf is the week of the person of a box.
func WeekOf(t store.Tx, box int64) (when.Week, error) {
	k, err := GateOf(t, box, 0, nil)
	return k.Person.Week, err
}

// weekOf is the week of the person of a box, as far as it can be read.
func (s *Intake) weekOf(ctx context.Context, box int64) (w when.Week) {
	err := s.store.Read(ctx, func(t store.Tx) (err error) {
		w, err = WeekOf(t, box)
		return err
	})
	if err != nil && ctx.Err() == nil {
		slog.Warn("the week of a person could not be read, so days in their mail may be read wrongly", "box", box, "error", err)
	}
	return w
}

// weigh says how important the message m is, which is about to be added, and notes
// what was looked at in it.
func (b *batcher) weigh(m *store.Message, signs Signs, answers bool) {
	if m.Own {
		return
	}
	tr := weighing.TraitsOf(*m, b.own)
	tr.Answers, tr.Asks, tr.Soon, tr.Project = answers, signs.Asks, signs.Soon, b.working[m.FromAddr]
	w := b.model.Weigh(tr, m.FromAddr, b.now)
	m.Importance, m.Because = w.Mille(), w.Because.String()
	came := b.now
	if m.Date < b.now-arrivedWithin {
		came = m.Date // it is brought in from before
	}
	b.weighed = append(b.weighed, weighing.Weighed{MessageID: m.ID, BoxID: b.box, FromAddr: m.FromAddr, Traits: tr.String(), Came: came})
}

// important says that the gauge of a message stands full.
func important(m *store.Message) bool { return sorting.Level(m.Importance) == sorting.Full }

// arrivedWithin is how old a message may be that counts as having come just now.
const arrivedWithin = when.Instant(2 * 24 * 3_600_000)

// learned loads what is needed to weigh the messages of a batch from these addresses.
func (b *batcher) learned(from []string) (err error) {
	if b.model, err = weighing.Weights(b.t).Model(b.box, from); err == nil {
		b.working, err = weighing.Weights(b.t).Working(b.box)
	}
	return err
}

// keepWeighed stores what was looked at in the messages of the batch, and that
// something may be learned of those that were there before.
func (b *batcher) keepWeighed() error {
	if err := weighing.Weights(b.t).Put(b.weighed); err != nil {
		return err
	}
	var in []int64
	for _, m := range b.out.Messages {
		in = append(in, m.ConversationID)
	}
	return weighing.Weights(b.t).Await(in)
}
