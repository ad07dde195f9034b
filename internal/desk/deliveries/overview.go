package deliveries

import (
	"context"
	"fmt"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/store"
	"ebbe/internal/store/counting"
	"ebbe/internal/store/holding"
)

// ahead is for how many days the coming deliveries are listed.
const ahead = 7

// lately is how many messages are listed that an entry has let through.
const lately = 3

// Overview gives how mail comes in: the plans, how it stands, and what comes.
func (d *Desk) Overview(ctx context.Context, who identity.Who) (v DeliveryView, err error) {
	now, loc := d.Journal.Now(), who.Week.Location()
	err = d.store.Read(ctx, func(t store.Tx) error {
		p, err := store.People(t).PersonByID(who.Keeper())
		if err != nil {
			return err
		}
		s := p.Delivery
		v = DeliveryView{Plans: s.Plans, On: s.On, Counted: s.Counted, BackWaits: s.BackWaits, Notify: s.Notify, Letter: s.Letter, Hand: s.Hand,
			Offers: delivery.Offers(who.Week.Workdays, who.Week.Morning, who.Week.Evening), State: d.Standing(who, s)}
		if v.Streams, err = streams(t, who, s, now); err != nil {
			return err
		}
		if v.State.Held, err = Held(t, who.Box, s); err != nil {
			return err
		}
		arrived, err := d.arrived(t, who, s)
		if err != nil {
			return err
		}
		held, err := heaps(t, who.Box, s)
		if err != nil {
			return err
		}
		v.Coming, v.Record = s.Ahead(arrived, held, now, when.DayStart(now, loc, ahead), loc), s.Tried(arrived, now, loc)
		v.Weeks = arrived.Weeks(now, loc)
		v.Last = s.Last(delivery.StreamPeople, when.DayStart(now, loc, -ahead), now, loc)
		var ids []string
		for _, e := range s.Through {
			ids = append(ids, e.ID)
		}
		let, err := holding.Held(t).Lately(who.Box, ids, lately)
		if err != nil {
			return err
		}
		v.Through = []EntryView{}
		for _, e := range s.Through {
			view := EntryView{Exception: e, Lately: []LetThrough{}}
			for _, m := range let[e.ID] {
				view.Lately = append(view.Lately, LetThrough{Conversation: m.ConversationID, From: mail.Address{Name: m.FromName, Address: m.FromAddr}.Short(), Subject: m.Subject, At: m.Received})
			}
			v.Through = append(v.Through, view)
		}
		return nil
	})
	return v, err
}

// Standing says how delivery stands.
func (d *Desk) Standing(who identity.Who, s delivery.Settings) DeliveryState {
	now, loc := d.Journal.Now(), who.Week.Location()
	return DeliveryState{People: s.Stands(delivery.StreamPeople, now, loc), Machines: s.Stands(delivery.StreamMachines, now, loc), Own: append([]delivery.OwnStream{}, s.Own...), Planned: s.On != ""}
}

// Held counts what is held, if the user wants to know: -1 if not.
func Held(t store.Tx, box int64, s delivery.Settings) (n int, err error) {
	if !s.Counted {
		return -1, nil
	}
	heaps, err := holding.Held(t).Heaps(box)
	for _, h := range heaps {
		n += h.Messages
	}
	return n, err
}

// heaps are how many messages are held of each stream; nil where the user does not want
// to know.
func heaps(t store.Tx, box int64, s delivery.Settings) (map[delivery.Stream]int, error) {
	if !s.Counted {
		return nil, nil
	}
	rows, err := holding.Held(t).Heaps(box)
	held := map[delivery.Stream]int{}
	for stream, h := range rows {
		held[stream] = h.Messages
	}
	return held, err
}

// arrived is when the mail of the past weeks arrived. It is read once a day,
// and after an import; by the streams of these settings.
func (d *Desk) arrived(t store.Tx, who identity.Who, s delivery.Settings) (delivery.Arrived, error) {
	now, loc := d.Journal.Now(), who.Week.Location()
	today := when.DayStart(now, loc, 0)
	arrived, err := d.arrivals.Of(who.Box, today, func() (delivery.Arrived, error) {
		return counting.Counted(t).Arrivals(who.Box, delivery.ArrivedSince(now, loc), today)
	})
	return arrived.In(s), err
}

// Inflow is the mail that is expected to come in from now on, for a forecast;
// nil where it comes in as it arrives.
func (d *Desk) Inflow(t store.Tx, who identity.Who, s delivery.Settings, to when.Instant) (func(after, until when.Instant) float64, error) {
	if !s.Holds() {
		return nil, nil
	}
	arrived, err := d.arrived(t, who, s)
	if err != nil {
		return nil, err
	}
	held, err := heaps(t, who.Box, s)
	if err != nil {
		return nil, err
	}
	flows := s.Inflows(arrived, held, d.Journal.Now(), to, who.Week.Location())
	return func(after, until when.Instant) (n float64) {
		for _, f := range flows {
			switch from, end := max(f.At, after), min(f.Until, until); {
			case f.At == f.Until && f.At > after && f.At <= until:
				n += f.N
			case from < end:
				n += f.N * float64(end-from) / float64(f.Until-f.At)
			}
		}
		return n
	}, nil
}

// Late says what is wrong with the agenda of deliveries: nothing that is held
// may have been due.
func (d *Desk) Late(t store.Tx) (wrong []string, err error) {
	people, err := store.People(t).Keepers()
	for _, p := range people {
		box, err := store.People(t).BoxOf(p.ID)
		if err != nil {
			return wrong, err
		}
		heaps, err := holding.Held(t).Heaps(box)
		if err != nil {
			return wrong, err
		}
		at, err := store.Agenda(t).TimeOf(box, inbox.Deliver)
		if err != nil {
			return wrong, err
		}
		if next := p.Delivery.Changes(d.Journal.Now(), p.Week.Location()); len(heaps) > 0 && next != 0 && (at == 0 || at > next) {
			wrong = append(wrong, fmt.Sprintf("The next delivery of %s is not on the agenda.", p.Name))
		}
	}
	return wrong, err
}
