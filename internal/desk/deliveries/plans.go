package deliveries

import (
	"context"
	"maps"
	"slices"
	"strings"

	"github.com/google/uuid"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/say"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/counting"
)

// Preview says what a plan would do before it is used: the coming week under
// it, how long the mail of the past month would have waited, and what about it
// may not be meant. With a Line the plan is changed by it first.
func (d *Desk) Preview(ctx context.Context, who identity.Who, q PlanDraft) (v PlanPreview, err error) {
	now, loc := d.Journal.Now(), who.Week.Location()
	means, err := q.apply(who.Week)
	if err != nil {
		return v, err
	}
	if err := q.Plan.Valid(); err != nil {
		return v, problem.Invalid("plan", say.Upper(err.Error())+". The plan that is in force stays as it is.")
	}
	p := q.Plan.Tidy()
	v = PlanPreview{Plan: p, Means: means, Doubts: []string{}, Texts: map[delivery.Stream][]string{}, Waits: map[delivery.Stream]delivery.Waits{}}
	err = d.store.Read(ctx, func(t store.Tx) error {
		is, err := store.People(t).PersonByID(who.Keeper())
		if err != nil {
			return err
		}
		s := delivery.Settings{On: p.ID, Plans: []delivery.Plan{p}, Own: is.Delivery.Own}
		v.Doubts = append(v.Doubts, s.Doubts(p)...)
		arrived, err := d.arrived(t, who, s)
		if err != nil {
			return err
		}
		held, err := heaps(t, who.Box, is.Delivery)
		if err != nil {
			return err
		}
		v.Coming, v.Weeks, v.Record = s.Ahead(arrived, held, now, when.DayStart(now, loc, ahead), loc), arrived.Weeks(now, loc), s.Tried(arrived, now, loc)
		for _, stream := range s.All() {
			texts := make([]string, 7)
			for i, day := range s.Days(p, stream) {
				texts[i] = day.String()
			}
			v.Texts[stream] = texts
			v.Waits[stream] = delivery.Wait(s.Days(p, stream), arrived[stream], now, loc)
		}
		return nil
	})
	return v, err
}

// apply draws the typed line, or the text of one day, into the plan, and says what the
// line draws.
func (q *PlanDraft) apply(w when.Week) (means string, err error) {
	if q.Plan.ID == "" {
		q.Plan.ID = "new"
	}
	own := slices.Clone(q.Plan.Own[q.Stream])
	days := &own
	switch q.Stream {
	case "", delivery.StreamPeople:
		days = &q.Plan.People
	case delivery.StreamMachines:
		days = &q.Plan.Machines
	default:
		defer func() {
			if len(own) == 7 {
				q.Plan.Own = maps.Clone(q.Plan.Own)
				q.Plan.Own[q.Stream] = own
			}
		}()
	}
	if q.Line != "" && len(*days) == 7 {
		l, err := delivery.ReadLine(q.Line, w.Workdays)
		if err != nil {
			return "", problem.Invalid("line", say.Upper(err.Error())+".")
		}
		*days, means = l.On(*days), l.String()
	}
	if q.Day != nil && *q.Day >= 0 && *q.Day < len(*days) {
		day, err := delivery.ReadDay(q.Text)
		if err != nil {
			return "", problem.Invalid("day", say.Upper(err.Error())+".")
		}
		(*days)[*q.Day] = day
	}
	return means, nil
}

// settle changes what a person has settled about delivery; what is due under it
// comes in at once. change gives the line of the journal; one without a kind is
// not written.
func (d *Desk) settle(ctx context.Context, who identity.Who, change func(s *delivery.Settings, now when.Instant) (store.Entry, error)) error {
	_, err := settled(ctx, d, who, "", func(s *delivery.Settings, now when.Instant) (done struct{}, e store.Entry, err error) {
		e, err = change(s, now)
		return done, e, err
	})
	return err
}

// settled is settle for what has an answer, given once for each key.
func settled[T any](ctx context.Context, d *Desk, who identity.Who, key string, change func(s *delivery.Settings, now when.Instant) (T, store.Entry, error)) (out T, err error) {
	now := d.Journal.Now()
	var got intake.CameIn
	out, _, err = journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out T, err error) {
		p, err := store.People(t).PersonByID(who.Keeper())
		if err != nil {
			return out, err
		}
		s := p.Delivery
		s.Own, s.Together = slices.Clone(s.Own), slices.Clone(s.Together)
		s.Plans, s.Through, s.Notify.People = slices.Clone(s.Plans), slices.Clone(s.Through), slices.Clone(s.Notify.People)
		out, e, err := change(&s, now)
		if err != nil {
			return out, err
		}
		if err := s.Valid(); err != nil {
			return out, problem.Invalid("delivery", "Nothing was changed: "+err.Error()+".")
		}
		if e.Kind != "" {
			e.At = now
			if e.Kind == inbox.ChangePlan { // a step that is taken back
				if e.Chosen, err = journal.Chosen(plannedOf(p.Delivery), plannedOf(s)); err != nil {
					return out, err
				}
			}
			if err := d.record(t, who, e); err != nil {
				return out, err
			}
		}
		if was, is := awayOf(p.Delivery, now), awayOf(s, now); was != is {
			if err := counting.Counted(t).SetAway(who.Box, is.away, is.until, now); err != nil {
				return out, err
			}
		}
		p.Delivery = s
		if err := store.People(t).PutPerson(&p, who.Box, nil); err != nil {
			return out, err
		}
		got, err = intake.Gate{T: t, Box: who.Box, Person: p, Now: now, Sort: d.Sort}.Renew()
		return out, err
	})
	if err == nil {
		topics, conversations := journal.TopicsOf(got.Changes)
		if got.Count > 0 {
			topics = append(topics, journal.TopicMail)
		}
		d.Journal.Announce(who.Box, journal.Event{Topics: append(topics, journal.TopicDelivery), Conversations: conversations})
		d.Journal.Notify(who.Box, got.Calls)
	}
	return out, err
}

// absence is whether somebody is away, and until when if that is known.
type absence struct {
	away  bool
	until when.Instant
}

func awayOf(s delivery.Settings, now when.Instant) absence {
	until, away := s.Away(now)
	if !away {
		return absence{}
	}
	return absence{true, until.At}
}

// record writes the line of a step, or of what is done by hand, which is ended and not
// taken back.
func (d *Desk) record(t store.Tx, who identity.Who, e store.Entry) error {
	if e.Kind == inbox.ChangePlan {
		_, err := d.Journal.Commit(t, who, e, nil, nil)
		return err
	}
	e.BoxID, e.PersonID, e.Actor = who.Box, who.Person, store.ByPerson
	return store.Journal(t).Record(&e)
}

// planned is what of the settings of delivery is stored, switched and taken back as a
// plan.
type planned struct {
	Plans   []delivery.Plan      `json:"plans"`
	Through []delivery.Exception `json:"through"`
	Own     []delivery.OwnStream `json:"own,omitempty"`
	Digests []delivery.Stream    `json:"together,omitempty"`
	On      string               `json:"on"`
	Since   when.Instant         `json:"since"`
}

func plannedOf(s delivery.Settings) planned {
	return planned{append([]delivery.Plan{}, s.Plans...), append([]delivery.Exception{}, s.Through...), append([]delivery.OwnStream(nil), s.Own...), append([]delivery.Stream(nil), s.Together...), s.On, s.Since}
}

// back puts plans and entries back to how they stood, if they still are as the step left
// them.
func (d *Desk) back(t store.Tx, s *journal.Step) error {
	p, err := store.People(t).PersonByID(s.Who.Keeper())
	if err != nil {
		return err
	}
	is, still, err := journal.Unchosen(plannedOf(p.Delivery), s.Done.Chosen)
	if err != nil {
		return err
	}
	was := p.Delivery
	was.Plans, was.Through, was.Own, was.Together, was.On, was.Since = is.Plans, is.Through, is.Own, is.Digests, is.On, is.Since
	if !still || was.Valid() != nil {
		s.Nothing()
		return nil
	}
	p.Delivery = was
	if err := store.People(t).PutPerson(&p, s.Who.Box, nil); err != nil {
		return err
	}
	s.Topics = append(s.Topics, journal.TopicDelivery, journal.TopicMail)
	_, err = intake.Gate{T: t, Box: s.Who.Box, Person: p, Now: d.Journal.Now(), Sort: d.Sort}.Renew()
	return err
}

// PutPlan stores a plan, new or changed, and puts it in force if use is said. Asked
// again with the same key it makes no second one.
func (d *Desk) PutPlan(ctx context.Context, who identity.Who, key string, plan delivery.Plan, use bool) (id string, err error) {
	if err := who.May(together.Serve); err != nil {
		return id, err
	}
	return settled(ctx, d, who, key, func(s *delivery.Settings, now when.Instant) (string, store.Entry, error) {
		plan = plan.Tidy()
		i := slices.IndexFunc(s.Plans, func(p delivery.Plan) bool { return p.ID == plan.ID })
		if i < 0 {
			plan.ID = uuid.NewString()
			s.Plans = append(s.Plans, plan)
		} else {
			s.Plans[i] = plan
		}
		if !use && s.On != plan.ID {
			return plan.ID, store.Entry{Kind: inbox.ChangePlan, Text: "“" + plan.Name + "” stored"}, nil
		}
		if s.On != plan.ID {
			s.On, s.Since = plan.ID, now
		}
		return plan.ID, store.Entry{Kind: inbox.ChangePlan, Text: "“" + plan.Name + "” decides when mail comes in"}, nil
	})
}

// UsePlan puts a plan in force, or with "" ends the one that is; it is kept.
func (d *Desk) UsePlan(ctx context.Context, who identity.Who, id string) error {
	if err := who.May(together.Serve); err != nil {
		return err
	}
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
	if err := who.May(together.Serve); err != nil {
		return err
	}
	return d.settle(ctx, who, func(s *delivery.Settings, _ when.Instant) (store.Entry, error) {
		if s.On == id {
			return store.Entry{}, problem.Invalid("plan", "That plan is in force, so it was not deleted. End it first.")
		}
		i := slices.IndexFunc(s.Plans, func(p delivery.Plan) bool { return p.ID == id })
		if i < 0 {
			return store.Entry{}, nil
		}
		e := store.Entry{Kind: inbox.ChangePlan, Text: "“" + s.Plans[i].Name + "” deleted"}
		s.Plans = slices.Delete(s.Plans, i, i+1)
		return e, nil
	})
}

// ReviewAt has the user's week be looked back on at these rounds.
func (d *Desk) ReviewAt(ctx context.Context, who identity.Who, at delivery.Rounds) error {
	return d.settle(ctx, who, func(s *delivery.Settings, _ when.Instant) (store.Entry, error) {
		s.Review = at
		return store.Entry{}, nil
	})
}

// Choose stores the choices about delivery that are no plans.
func (d *Desk) Choose(ctx context.Context, who identity.Who, c DeliveryChoices) error {
	if err := who.May(together.Serve); err != nil {
		return err
	}
	for i, a := range c.Notify.People {
		c.Notify.People[i] = strings.ToLower(strings.TrimSpace(a))
	}
	return d.settle(ctx, who, func(s *delivery.Settings, _ when.Instant) (store.Entry, error) {
		s.Counted, s.BackWaits, s.Notify = c.Counted, c.BackWaits, c.Notify
		if who.Team == 0 {
			s.Letter = c.Letter
		}
		return store.Entry{}, nil
	})
}
