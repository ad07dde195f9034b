package desk

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/google/uuid"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/say"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// ahead is for how many days the coming deliveries are listed.
const ahead = 7

// lately is how many messages are listed that an entry has let through.
const lately = 3

// Delivery gives how mail comes in: the plans, how it stands, and what comes.
func (d *Desk) Delivery(ctx context.Context, who identity.Who) (v DeliveryView, err error) {
	now, loc := d.now(), who.Week.Location()
	err = d.store.Read(ctx, func(t store.Tx) error {
		p, err := t.PersonByID(who.Person)
		if err != nil {
			return err
		}
		s := p.Delivery
		v = DeliveryView{Plans: s.Plans, On: s.On, Counted: s.Counted, BackWaits: s.BackWaits, Notify: s.Notify, Hand: s.Hand,
			Offers: delivery.Offers(who.Week.Workdays, who.Week.Morning, who.Week.Evening), State: d.standing(who, s)}
		if v.State.Held, err = held(t, who.Box, s); err != nil {
			return err
		}
		arrived, err := d.arrived(t, who)
		if err != nil {
			return err
		}
		v.Coming = s.Ahead(arrived, now, when.DayStart(now, loc, ahead), loc)
		v.Weeks = arrived.Weeks(now, loc)
		v.Last = s.Last(delivery.StreamPeople, when.DayStart(now, loc, -ahead), now, loc)
		var ids []string
		for _, e := range s.Through {
			ids = append(ids, e.ID)
		}
		let, err := t.Lately(who.Box, ids, lately)
		if err != nil {
			return err
		}
		v.Through = []EntryView{}
		for _, e := range s.Through {
			view := EntryView{Entry: e, Lately: []LetThrough{}}
			for _, m := range let[e.ID] {
				view.Lately = append(view.Lately, LetThrough{Conversation: m.ConversationID, From: mail.Address{Name: m.FromName, Address: m.FromAddr}.Short(), Subject: m.Subject, At: m.Received})
			}
			v.Through = append(v.Through, view)
		}
		return nil
	})
	return v, err
}

// standing says how delivery stands.
func (d *Desk) standing(who identity.Who, s delivery.Settings) DeliveryState {
	now, loc := d.now(), who.Week.Location()
	return DeliveryState{People: s.Stands(delivery.StreamPeople, now, loc), Machines: s.Stands(delivery.StreamMachines, now, loc), Planned: s.On != ""}
}

// held counts what is held, if the user wants to know: -1 if not.
func held(t store.Tx, box int64, s delivery.Settings) (n int, err error) {
	if !s.Counted {
		return -1, nil
	}
	heaps, err := t.Heaps(box)
	for _, h := range heaps {
		n += h.Messages
	}
	return n, err
}

// arrived is when the mail of the past weeks arrived. It is read once a day,
// and after an import.
func (d *Desk) arrived(t store.Tx, who identity.Who) (delivery.Arrived, error) {
	now, loc := d.now(), who.Week.Location()
	today := when.DayStart(now, loc, 0)
	return d.arrivals.Of(who.Box, today, func() (delivery.Arrived, error) {
		return t.Arrivals(who.Box, delivery.ArrivedSince(now, loc), today)
	})
}

// Preview says what a plan would do before it is used: the coming week under
// it, how long the mail of the past month would have waited, and what about it
// may not be meant. With a Line the plan is changed by it first.
func (d *Desk) Preview(ctx context.Context, who identity.Who, q PlanDraft) (v PlanPreview, err error) {
	now, loc := d.now(), who.Week.Location()
	if err := q.apply(who.Week); err != nil {
		return v, err
	}
	if err := q.Plan.Valid(); err != nil {
		return v, problem.Invalid("plan", say.Upper(err.Error())+". The plan that is in force stays as it is.")
	}
	p := q.Plan.Tidy()
	v = PlanPreview{Plan: p, Doubts: append([]string{}, p.Doubts()...)}
	for _, s := range delivery.Streams {
		texts := make([]string, 7)
		for i, day := range p.Days(s) {
			texts[i] = day.String()
		}
		v.Texts = append(v.Texts, texts)
	}
	err = d.store.Read(ctx, func(t store.Tx) error {
		arrived, err := d.arrived(t, who)
		if err != nil {
			return err
		}
		s := delivery.Settings{On: p.ID, Plans: []delivery.Plan{p}}
		v.Coming, v.Weeks = s.Ahead(arrived, now, when.DayStart(now, loc, ahead), loc), arrived.Weeks(now, loc)
		for _, stream := range delivery.Streams {
			v.Waits = append(v.Waits, delivery.Wait(p.Days(stream), arrived[stream], now, loc))
		}
		return nil
	})
	return v, err
}

// apply draws the typed line, or the text of one day, into the plan.
func (q *PlanDraft) apply(w when.Week) error {
	if q.Plan.ID == "" {
		q.Plan.ID = "new"
	}
	days := &q.Plan.People
	if q.Stream == delivery.StreamMachines {
		days = &q.Plan.Machines
	}
	if q.Line != "" && len(*days) == 7 {
		l, err := delivery.ReadLine(q.Line, w.Workdays)
		if err != nil {
			return problem.Invalid("line", say.Upper(err.Error())+".")
		}
		*days = l.On(*days)
	}
	if q.Day != nil && *q.Day >= 0 && *q.Day < len(*days) {
		day, err := delivery.ReadDay(q.Text)
		if err != nil {
			return problem.Invalid("day", say.Upper(err.Error())+".")
		}
		(*days)[*q.Day] = day
	}
	return nil
}

// settle changes what a person has settled about delivery; what is due under it
// comes in at once. change gives the line of the journal; one without a kind is
// not written.
func (d *Desk) settle(ctx context.Context, who identity.Who, change func(s *delivery.Settings, now when.Instant) (store.Entry, error)) error {
	now := d.now()
	var got intake.Landed
	err := d.store.Write(ctx, func(t store.Tx) error {
		p, err := t.PersonByID(who.Person)
		if err != nil {
			return err
		}
		s := p.Delivery
		s.Plans, s.Through, s.Notify.People = slices.Clone(s.Plans), slices.Clone(s.Through), slices.Clone(s.Notify.People)
		e, err := change(&s, now)
		if err != nil {
			return err
		}
		if err := s.Valid(); err != nil {
			return problem.Invalid("delivery", "Nothing was changed: "+err.Error()+".")
		}
		p.Delivery = s
		if err := t.PutPerson(&p, who.Box, nil); err != nil {
			return err
		}
		if e.Kind != "" {
			e.BoxID, e.PersonID, e.Actor, e.At = who.Box, who.Person, store.ByPerson, now
			if err := t.Record(&e); err != nil {
				return err
			}
		}
		got, err = intake.Gate{T: t, Box: who.Box, Person: p, Now: now}.Renew()
		return err
	})
	if err == nil {
		topics, conversations := journal.TopicsOf(got.Changes)
		if got.Count > 0 {
			topics = append(topics, journal.TopicMail)
		}
		d.Journal.Announce(who.Box, journal.Event{Topics: append(topics, journal.TopicDelivery), Conversations: conversations})
	}
	return err
}

// PutPlan stores a plan, new or changed, and puts it in force if use is said.
func (d *Desk) PutPlan(ctx context.Context, who identity.Who, plan delivery.Plan, use bool) (id string, err error) {
	err = d.settle(ctx, who, func(s *delivery.Settings, now when.Instant) (store.Entry, error) {
		plan = plan.Tidy()
		i := slices.IndexFunc(s.Plans, func(p delivery.Plan) bool { return p.ID == plan.ID })
		if i < 0 {
			plan.ID = uuid.NewString()
			s.Plans = append(s.Plans, plan)
		} else {
			s.Plans[i] = plan
		}
		id = plan.ID
		if !use && s.On != plan.ID {
			return store.Entry{}, nil
		}
		if s.On != plan.ID {
			s.On, s.Since = plan.ID, now
		}
		return store.Entry{Kind: inbox.ChangePlan, Text: "“" + plan.Name + "” decides when mail comes in"}, nil
	})
	return id, err
}

// UsePlan puts a plan in force, or with "" ends the one that is; it is kept.
func (d *Desk) UsePlan(ctx context.Context, who identity.Who, id string) error {
	return d.settle(ctx, who, func(s *delivery.Settings, now when.Instant) (store.Entry, error) {
		if s.On == id {
			return store.Entry{}, nil
		}
		before := s.Plan()
		s.On, s.Since = id, now
		if p := s.Plan(); p != nil {
			return store.Entry{Kind: inbox.ChangePlan, Text: "“" + p.Name + "” decides when mail comes in"}, nil
		} else if before != nil && id == "" {
			return store.Entry{Kind: inbox.ChangePlan, Text: "“" + before.Name + "” ended: mail comes in as it is sent"}, nil
		}
		return store.Entry{}, problem.Invalid("plan", "That plan has been deleted meanwhile, so nothing was changed. Choose another.")
	})
}

// DropPlan deletes a plan that is not in force.
func (d *Desk) DropPlan(ctx context.Context, who identity.Who, id string) error {
	return d.settle(ctx, who, func(s *delivery.Settings, _ when.Instant) (store.Entry, error) {
		if s.On == id {
			return store.Entry{}, problem.Invalid("plan", "That plan is in force, so it was not deleted. End it first.")
		}
		s.Plans = slices.DeleteFunc(s.Plans, func(p delivery.Plan) bool { return p.ID == id })
		return store.Entry{}, nil
	})
}

// LetPass stores an entry that lets mail through, new or changed. One that is
// there already is not stored twice.
func (d *Desk) LetPass(ctx context.Context, who identity.Who, e delivery.Entry) error {
	e.Value = strings.Join(strings.Fields(e.Value), " ")
	if e.By != delivery.ByWords {
		e.Value = strings.ToLower(strings.TrimPrefix(e.Value, "@"))
	}
	return d.settle(ctx, who, func(s *delivery.Settings, _ when.Instant) (store.Entry, error) {
		same := func(o delivery.Entry) bool {
			return o.ID == e.ID || o.By == e.By && (o.Value == e.Value || e.By == delivery.ByWritten)
		}
		if i := slices.IndexFunc(s.Through, same); i >= 0 {
			e.ID = s.Through[i].ID
			s.Through[i] = e
		} else {
			e.ID = uuid.NewString()
			s.Through = append(s.Through, e)
		}
		return store.Entry{}, nil
	})
}

// StopPass takes an entry away.
func (d *Desk) StopPass(ctx context.Context, who identity.Who, id string) error {
	return d.settle(ctx, who, func(s *delivery.Settings, _ when.Instant) (store.Entry, error) {
		s.Through = slices.DeleteFunc(s.Through, func(e delivery.Entry) bool { return e.ID == id })
		return store.Entry{}, nil
	})
}

// ChooseDelivery stores the choices about delivery that are no plans.
func (d *Desk) ChooseDelivery(ctx context.Context, who identity.Who, c DeliveryChoices) error {
	for i, a := range c.Notify.People {
		c.Notify.People[i] = strings.ToLower(strings.TrimSpace(a))
	}
	return d.settle(ctx, who, func(s *delivery.Settings, _ when.Instant) (store.Entry, error) {
		s.Counted, s.BackWaits, s.Notify = c.Counted, c.BackWaits, c.Notify
		return store.Entry{}, nil
	})
}

// Hold holds all mail by hand, lets it in as it is sent, or (with the empty
// mode) lets the plan decide again.
func (d *Desk) Hold(ctx context.Context, who identity.Who, h delivery.Hand) (said string, err error) {
	h.Until = h.Until.Realign()
	err = d.settle(ctx, who, func(s *delivery.Settings, now when.Instant) (store.Entry, error) {
		if h.Mode != delivery.ModePlan && !h.Until.IsZero() && h.Until.At <= now {
			return store.Entry{}, problem.Invalid("until", "That time has passed, so nothing was changed. Choose one that is still ahead.")
		}
		until := ""
		if !h.Until.IsZero() {
			until = " until " + who.Week.Say(h.Until, now)
		}
		e := store.Entry{Kind: inbox.HoldMail, Text: "all mail" + until}
		switch h.Mode {
		case delivery.ModeHold:
			said = "Held by hand" + until + "."
		case delivery.ModeOpen:
			e.Kind, said = inbox.OpenMail, "Mail comes in as it is sent"+until+"."
		default:
			e = store.Entry{Kind: inbox.EndHand, Text: "mail comes in as it is sent"}
			if p := s.Plan(); p != nil {
				e.Text = "“" + p.Name + "” decides again"
			}
			said = say.Upper(e.Text) + "."
		}
		if h.From = now; h.Mode == delivery.ModePlan && s.Hand.Mode == delivery.ModeHold {
			// The hold ends now, as if that had been its time.
			s.Hand.Until = when.Moment{At: now}
		} else {
			s.Hand = h
		}
		return e, nil
	})
	return said, err
}

// maxFoundHeld is how many held conversations looking for one thing shows.
const maxFoundHeld = 20

// LookFor searches what is held for a sender or words. That is written down as
// an early look.
func (d *Desk) LookFor(ctx context.Context, who identity.Who, key, words string) (v HeldFound, err error) {
	words = strings.TrimSpace(words)
	q := search.Query{Words: words}
	address := ""
	if strings.Contains(words, "@") && !strings.ContainsAny(words, " ") {
		address = strings.ToLower(words)
	}
	if len(q.Terms()) == 0 {
		return v, problem.Invalid("words", "Name a sender or a word: only what is looked for can be let in.")
	}
	if err := q.Valid(); err != nil {
		return v, problem.Invalid("words", say.Upper(err.Error())+".")
	}
	v, _, err = journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (v HeldFound, err error) {
		terms := q.Terms()
		if address != "" {
			terms = nil
		}
		rows, err := t.HeldMatching(who.Box, terms, address, maxFoundHeld)
		if err != nil {
			return v, err
		}
		v.Found = []HeldSlip{}
		for _, r := range rows {
			v.Found = append(v.Found, HeldSlip{ID: r.ID, From: mail.Address{Name: r.FromName, Address: r.FromAddr}.Short(), Subject: cmp.Or(r.Subject, "(no subject)"), At: r.At, Messages: r.Messages})
		}
		return v, t.Record(&store.Entry{BoxID: who.Box, PersonID: who.Person, Actor: store.ByPerson, Kind: inbox.Peek, At: d.now(), Count: len(rows), Text: words})
	})
	return v, err
}

// LetIn lets held conversations in before their time; all of them, if none is
// named.
func (d *Desk) LetIn(ctx context.Context, who identity.Who, key string, q LettingIn) (journal.Decided, error) {
	now := d.now()
	var got intake.Landed
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		k, err := intake.GateOf(t, who.Box, now)
		if err != nil {
			return out, err
		}
		e := store.Entry{Kind: inbox.LetOneIn, Actor: store.ByPerson, PersonID: who.Person, At: now, Text: cmp.Or(strings.TrimSpace(q.Words), "one thing")}
		ids := q.Conversations
		if q.All {
			e.Kind, e.Text, ids = inbox.LetAllIn, "all that was held", nil
			for _, s := range delivery.Streams {
				more, err := t.HeldUntil(who.Box, s, now)
				if err != nil {
					return out, err
				}
				ids = append(ids, more...)
			}
		} else if ids, err = t.HeldAmong(who.Box, ids); err != nil {
			return out, err
		}
		if got, err = k.Land(ids, inbox.Arrival{At: now, Why: inbox.LetIn}, e); err != nil {
			return out, err
		}
		out = journal.Decided{Entry: got.Entry, Count: got.Count, Text: "Let in: " + say.Plural(got.Count, "conversation") + "."}
		if len(ids) > 0 {
			out.First = ids[0]
		}
		if got.Count == 0 {
			out.Text = "Nothing is held that could be let in."
		}
		out.Left, err = t.CountPlace(who.Box, inbox.Inbox)
		return out, err
	})
	if fresh {
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicMail, journal.TopicDelivery}, Key: key})
	}
	return out, err
}

// letBack takes back a letting in, or does it again, and says by how much that
// moves the number left to decide besides the changes of the entry.
func (d *Desk) letBack(t store.Tx, s *journal.Step) error {
	box := s.Who.Box
	s.Topics = append(s.Topics, journal.TopicMail, journal.TopicDelivery)
	k, err := intake.GateOf(t, box, d.now())
	if err != nil {
		return err
	}
	ids, err := t.LetInWith(box, s.Root.ID, !s.Back)
	if err != nil {
		return err
	}
	if !s.Back {
		shown, err := t.InView(box, ids)
		if err != nil {
			return err
		}
		s.Entry.Touched = ids
		if s.Entry.Delta, err = t.Land(box, ids, inbox.Position{Reason: inbox.LetIn, Since: s.Root.At}, s.Root.ID); err != nil {
			return err
		}
		return k.Recount(shown)
	}
	if ids, err = t.Standing(box, ids, s.Root.At); err != nil {
		return err
	}
	away, err := t.HoldAgain(box, ids, s.Root)
	if err != nil {
		return err
	}
	gone := make(map[int64]bool, len(away))
	for _, id := range away {
		gone[id] = true
	}
	s.Entry.Touched, s.Entry.Delta = ids, -len(away)
	return k.Recount(slices.DeleteFunc(slices.Clone(ids), func(id int64) bool { return gone[id] }))
}

// inflow is the mail that is expected to come in from now on, for a forecast;
// nil where it comes in as it arrives.
func (d *Desk) inflow(t store.Tx, who identity.Who, s delivery.Settings, to when.Instant) (func(after, until when.Instant) float64, error) {
	if s.On == "" && s.Hand.Mode == delivery.ModePlan {
		return nil, nil
	}
	arrived, err := d.arrived(t, who)
	if err != nil {
		return nil, err
	}
	flows := s.Inflows(arrived, d.now(), to, who.Week.Location())
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

// late says what is wrong with the agenda of deliveries: nothing that is held
// may have been due.
func (d *Desk) late(t store.Tx) (wrong []string, err error) {
	people, err := t.People()
	for _, p := range people {
		box, err := t.BoxOf(p.ID)
		if err != nil {
			return wrong, err
		}
		heaps, err := t.Heaps(box)
		if err != nil {
			return wrong, err
		}
		at, err := t.TimeOf(box, inbox.Deliver)
		if err != nil {
			return wrong, err
		}
		if next := p.Delivery.Changes(d.now(), p.Week.Location()); len(heaps) > 0 && next != 0 && (at == 0 || at > next) {
			wrong = append(wrong, fmt.Sprintf("The next delivery of %s is not on the agenda.", p.Name))
		}
	}
	return wrong, err
}
