// Package demo is a made-up museum with its mail: about 1,200 messages over
// fourteen months, the same ones each time, dated relative to the day on which
// the demo begins.
package demo

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/search"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/when"
	"ebbe/internal/desk"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/followups"
	"ebbe/internal/desk/queue"
	"ebbe/internal/desk/rules"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/post/office"
	"ebbe/internal/store"
)

// Zone is where the museum is.
const Zone = "Europe/Oslo"

// world makes the messages, with a fixed seed.
type world struct {
	o     *Town
	r     *rand.Rand
	loc   *time.Location
	today time.Time // midnight
	n     int
	sent  []message

	looked bool // at what the rule did
}

// event is a message of the last days and what was decided about it.
type event struct {
	m        message
	do       string    // "", "archive", "snooze", "follow-up" or "finished"
	until    time.Time // for a snooze
	follow   string    // title of a follow-up
	due      time.Time
	remind   time.Time
	priority followup.Priority
	waits    bool // it is fetched from the post office with the next one
}

// Begin reads the local time at which the demo's clock begins; an empty text
// means today at 10:42.
func Begin(text string, now time.Time) (time.Time, error) {
	loc, err := time.LoadLocation(Zone)
	if err != nil {
		return now, err
	}
	if text == "" {
		now = now.In(loc)
		return time.Date(now.Year(), now.Month(), now.Day(), 10, 42, 0, 0, loc), nil
	}
	t, err := time.ParseInLocation("2006-01-02T15:04", text, loc)
	if err != nil {
		return now, fmt.Errorf("%q is no time: write it as 2026-11-24T10:42", text)
	}
	return t, nil
}

func (w *world) id() string {
	w.n++
	return fmt.Sprintf("%08x.%d@mail.example", w.r.Uint32(), w.n)
}

func (w *world) pick(of ...string) string { return of[w.r.IntN(len(of))] }

func (w *world) send(m message) string {
	if m.id == "" {
		m.id = w.id()
	}
	w.sent = append(w.sent, m)
	return m.id
}

// livedDays is for how many days before the present the museum's mail came in
// and was decided day by day, rather than lying in the archive from the start.
const livedDays = 35

// Fill lets the museum's mail come into an empty store by way of its post
// office, and puts the clock to begin, with more additional messages of this
// morning. fresh says that it did; a store that was filled before is kept as it
// is.
func Fill(ctx context.Context, d *desk.Desk, o *Town, clock *journal.SystemClock, begin time.Time, more int) (fresh bool, err error) {
	loc := begin.Location()
	filled, err := d.Filled(ctx)
	if err == nil && filled {
		err = join(ctx, d, o, loc)
	}
	if err != nil || filled {
		return false, err
	}
	w := &world{o: o, r: rand.New(rand.NewPCG(20, 26)), loc: loc, today: time.Date(begin.Year(), begin.Month(), begin.Day(), 0, 0, 0, 0, loc)}
	lived := w.today.AddDate(0, 0, -livedDays)
	w.old(w.today.AddDate(0, -14, 0), w.today.AddDate(0, 0, -1))
	w.yesterday()
	slices.SortStableFunc(w.sent, func(a, b message) int { return a.at.Compare(b.at) })
	old, daily := w.sent, []message(nil)
	if n := slices.IndexFunc(old, func(m message) bool { return !m.at.Before(lived) }); n >= 0 {
		old, daily = old[:n], slices.DeleteFunc(slices.Clone(old[n:]), func(m message) bool { return !m.at.Before(w.today.Add(-8 * time.Hour)) })
	}

	clock.Set(lived)
	if err := d.SetUp(ctx, identity.Signup{Name: solvei.name, Address: solvei.address, Zone: Zone}, store.OwnAddress{Address: singer.address, Account: "Choir"}); err != nil {
		return false, err
	}
	who, err := d.People.Called(ctx, solvei.address)
	if err != nil {
		return false, err
	}
	put(o.Office, office.Archive, old...)
	put(o.Office, office.Junk, w.junk(lived, 20)...)
	if err := connect(ctx, d, who); err != nil {
		return false, err
	}
	if err := found(ctx, d, o, who); err != nil {
		return false, fmt.Errorf("the demo's team could not be made: %w", err)
	}
	if err := d.Mail.PassNow(ctx); err != nil {
		return false, err
	}
	if err := d.Importance.Learn(ctx); err != nil {
		return false, err
	}
	if _, err := d.Rules.Save(ctx, who, "", rules.Saving{Words: choirRule, Mode: sorting.On}); err != nil {
		return false, err
	}
	events := w.recent()
	for range more {
		events = append(events, event{m: w.oneMore(begin), waits: true})
	}
	for _, m := range w.coming() {
		events = append(events, event{m: m})
	}
	events = append(events, w.junkToday()...)
	slices.SortStableFunc(events, func(a, b event) int { return a.m.at.Compare(b.m.at) })
	var later []message
	planned := false
	team, err := w.team(ctx, d, who)
	if err != nil {
		return false, err
	}
	for _, e := range events {
		if e.m.at.After(begin) {
			if e.m.id == "" {
				e.m.id = w.id()
			}
			if e.do == "" {
				later = append(later, e.m)
			}
			continue
		}
		if !planned && !e.m.at.Before(w.today) {
			planned = true
			if evening := w.today.Add(-7 * time.Hour); evening.After(clock.Now()) {
				if err := d.SetClock(ctx, clock, evening); err != nil {
					return false, err
				}
			}
			if err := w.chores(ctx, d, clock, who); err != nil {
				return false, err
			}
			if err := w.plan(ctx, d, clock, who); err != nil {
				return false, fmt.Errorf("the demo's deliveries could not be planned: %w", err)
			}
		}
		if daily, err = w.sittings(ctx, d, clock, who, daily, e.m.at); err == nil {
			err = team.until(ctx, clock, e.m.at)
		}
		if err == nil {
			err = w.live(ctx, d, clock, who, e)
		}
		if err != nil {
			return false, fmt.Errorf("the demo's mail could not be made: %w", err)
		}
	}
	if err := team.until(ctx, clock, begin); err != nil {
		return false, err
	}
	if err := w.furnish(ctx, d, clock, who, begin); err != nil {
		return false, fmt.Errorf("the demo could not be furnished: %w", err)
	}
	for _, m := range later {
		o.Plan(m.account(), m.at, m.bytes())
	}
	if err := d.Importance.Learn(ctx); err != nil {
		return false, err
	}
	if err := d.FinishDemo(ctx, clock, begin); err != nil {
		return true, err
	}
	return true, join(ctx, d, o, loc)
}

// plan puts the museum's ordinary week in force in the night before the demo
// begins, so that this morning's mail comes in with the round of nine.
func (w *world) plan(ctx context.Context, d *desk.Desk, clock *journal.SystemClock, who identity.Who) error {
	if err := d.SetClock(ctx, clock, w.today.Add(5*time.Minute)); err != nil {
		return err
	}
	day := func(n int) time.Weekday { return w.today.AddDate(0, 0, n).Weekday() }
	lines := []string{"every day 9, 14, 16:30", "every day quiet 18–8",
		fmt.Sprintf("%s writing 10:30–12", day(0)), fmt.Sprintf("%s writing 10:30–12", day(2)), fmt.Sprintf("%s open 8–10, 13–14:30", day(1)),
		fmt.Sprintf("%s quiet", day(4)), fmt.Sprintf("%s 19", day(5))}
	ordinary, err := drawn("Ordinary week", lines, []string{"every day 9, 16:30"})
	if err != nil {
		return err
	}
	ordinary.Answer = "Thank you for writing. I read mail at 9, 14 and 16:30; yours comes in [next delivery]. For the loading dock call [contact]."
	ordinary.Contact = "Tomasz"
	if err := w.lookThrough(ctx, d, who); err != nil {
		return err
	}
	if err := d.Importance.Learn(ctx); err != nil {
		return err
	}
	if _, err := d.Delivery.PutPlan(ctx, who, "", ordinary, true); err != nil {
		return err
	}
	for _, l := range [][]string{{"Exhibition week", "every day 8, 11, 14, 17"}, {"Holiday", "shut"}} {
		p, err := drawn(l[0], l[1:], l[1:])
		if err == nil {
			_, err = d.Delivery.PutPlan(ctx, who, "", p, false)
		}
		if err != nil {
			return err
		}
	}
	return d.Delivery.LetPass(ctx, who, delivery.Exception{By: delivery.ByWaited})
}

// drawn is a plan drawn by lines.
func drawn(name string, people, machines []string) (p delivery.Plan, err error) {
	p = delivery.Plan{Name: name, People: make([]delivery.Day, 7), Machines: make([]delivery.Day, 7)}
	for i, days := range []*[]delivery.Day{&p.People, &p.Machines} {
		for _, text := range [][]string{people, machines}[i] {
			l, err := delivery.ReadLine(text, nil)
			if err != nil {
				return p, err
			}
			*days = l.On(*days)
		}
	}
	return p, nil
}

// take lets messages come in.
func (w *world) take(ctx context.Context, d *desk.Desk, messages ...message) error {
	put(w.o.Office, office.Inbox, messages...)
	return d.Mail.PassNow(ctx)
}

// sat are the hours and minutes at which the reader sat down to decide.
var sat = [][2]int{{9, 12}, {13, 50}, {16, 40}}

// sittings lets the everyday mail come in that was there by the time until, and
// the reader decide about it three times a day. It gives back what is still to
// come.
func (w *world) sittings(ctx context.Context, d *desk.Desk, clock *journal.SystemClock, who identity.Who, daily []message, until time.Time) ([]message, error) {
	for len(daily) > 0 {
		day := daily[0].at
		at := time.Date(day.Year(), day.Month(), day.Day()+1, sat[0][0], sat[0][1], 0, 0, w.loc)
		for _, s := range slices.Backward(sat) {
			if t := time.Date(day.Year(), day.Month(), day.Day(), s[0], s[1], 0, 0, w.loc); !t.Before(day) {
				at = t
			}
		}
		if at.After(until) {
			break
		}
		n := len(daily)
		if i := slices.IndexFunc(daily, func(m message) bool { return m.at.After(at) }); i >= 0 {
			n = i
		}
		if err := d.SetClock(ctx, clock, at); err != nil {
			return daily, err
		}
		if err := w.take(ctx, d, daily[:n]...); err != nil {
			return daily, err
		}
		for _, m := range daily[:n] {
			if m.from == solvei {
				continue
			}
			id, err := d.Reading.ByMessageID(ctx, who, m.id)
			if err != nil {
				return daily, err
			}
			clock.Set(clock.Now().Add(time.Duration(12+w.r.IntN(70)) * time.Second))
			kind := inbox.Archive
			if len(m.headers) > 0 && w.r.IntN(2) == 0 {
				kind = inbox.ToBin
			}
			if m.from == climate { // which is always well
				kind = inbox.ToBin
			}
			if m.from == ragna { // her letters are put away by a rule, the first of which is looked at all the same
				if mine, err := w.backOnce(ctx, d, who); err != nil || !mine {
					if err != nil {
						return daily, err
					}
					continue
				}
			}
			if _, err := d.Decisions.Decide(ctx, who, "", decide.Decision{Kind: kind, Conversations: []int64{id}, Seen: inbox.Inbox}); err != nil {
				return daily, err
			}
		}
		daily = daily[n:]
		if len(daily) == 0 || daily[0].at.Day() != day.Day() {
			if err := w.chores(ctx, d, clock, who); err != nil {
				return daily, err
			}
		}
	}
	return daily, nil
}

// choirRule is a rule of the reader's.
const choirRule = "from ragna@skagvikchoir.example with “red folder”: archive"

// backOnce takes back the first thing that the rule has done, so that it is the reader's to decide.
func (w *world) backOnce(ctx context.Context, d *desk.Desk, who identity.Who) (back bool, err error) {
	all, err := d.Rules.All(ctx, who)
	if err != nil || w.looked {
		return false, err
	}
	i := slices.IndexFunc(all, func(r rules.RuleView) bool { return r.Words == choirRule })
	did, err := d.Rules.Did(ctx, who, all[i].ID, 0)
	if err != nil || len(did) == 0 {
		return false, err
	}
	w.looked = true
	_, err = d.Journal.TakeBackStep(ctx, who, "", did[0].Entry)
	return true, err
}

// oneMore is one more message of this morning.
func (w *world) oneMore(begin time.Time) message {
	t := topics[w.r.IntN(len(topics))]
	thing := t.things[w.r.IntN(len(t.things))]
	at := w.today.Add(time.Duration(5*60+w.r.IntN(225)) * time.Minute) // before others that come in with the round of nine
	if at.After(begin) {
		at = begin
	}
	w.n++
	return message{at: at, from: t.who, to: []person{solvei}, cc: t.withCopy, subject: fmt.Sprintf(t.subject, thing) + fmt.Sprintf(" (%d)", w.n), text: fmt.Sprintf(t.opens, thing) + "\n"}
}

// furnish gives the reader labels, places, a list, a combo and notes, and puts
// off what has no date.
func (w *world) furnish(ctx context.Context, d *desk.Desk, clock *journal.SystemClock, who identity.Who, begin time.Time) error {
	clock.Set(begin.Add(-30 * time.Minute))
	labels := map[string]int64{}
	for _, path := range []string{"loans", "loans / leg two", "catalogue", "education", "building", "choir", "to read"} {
		l, err := d.Labels.Make(ctx, who, path)
		if err != nil {
			return err
		}
		labels[path] = l.ID
	}
	workshop, err := d.Labels.PutSite(ctx, who, "", 0, "the workshop")
	if err != nil {
		return err
	}
	if _, err := d.Labels.PutSite(ctx, who, "", 0, "the quay store"); err != nil {
		return err
	}
	for _, f := range []struct {
		subject string
		d       decide.Decision
	}{
		{"Loan agreement", decide.Decision{Kind: inbox.Label, Add: []int64{labels["loans"]}}},
		{"Crate sizes for the brass predictor", decide.Decision{Kind: inbox.Label, Add: []int64{labels["loans"]}}},
		{"Crate sizes for the brass predictor", decide.Decision{Kind: inbox.WriteNote, Text: "Halvard measured 151 in May, with the brass feet on."}},
		{"Customs form for the lagoon map", decide.Decision{Kind: inbox.Label, Add: []int64{labels["loans / leg two"]}}},
		{"Panel proofs, round two", decide.Decision{Kind: inbox.Label, Add: []int64{labels["catalogue"]}}},
		{"School group on the 3rd", decide.Decision{Kind: inbox.Label, Add: []int64{labels["education"]}}},
		{"Water under the skylight", decide.Decision{Kind: inbox.Label, Add: []int64{labels["building"]}}},
		{"Small Museums Weekly", decide.Decision{Kind: inbox.Label, Add: []int64{labels["to read"]}}},
		{"Vortrag", decide.Decision{Kind: inbox.Rename, Text: "Talk: predicting tides before computers"}},
		{"Light levels in", decide.Decision{Kind: inbox.Snooze, Until: inbox.UntilSite, Site: workshop.ID}},
		{"Condition report", decide.Decision{Kind: inbox.Snooze, Until: inbox.UntilAnswer}},
		{"The Loan Desk", decide.Decision{Kind: inbox.Snooze, Until: inbox.UntilSomeday}},
		{"School visits", decide.Decision{Kind: inbox.Snooze, Until: inbox.UntilSomeday}},
	} {
		l, err := d.Queue.Find(ctx, who, search.Query{Words: f.subject}, "")
		if err != nil {
			return err
		}
		i := slices.IndexFunc(l.Slips, func(s queue.Slip) bool { return strings.Contains(s.Subject, f.subject) })
		if i < 0 {
			return fmt.Errorf("no message is about %q", f.subject)
		}
		f.d.Conversations = []int64{l.Slips[i].ID}
		clock.Set(clock.Now().Add(20 * time.Second))
		if _, err := d.Decisions.Decide(ctx, who, "", f.d); err != nil {
			return err
		}
	}
	for _, e := range []delivery.Exception{{By: delivery.BySender, Value: halvard.address}, {By: delivery.ByDomain, Value: "coastlinecouriers.example"}, {By: delivery.ByWords, Value: "customs"}} {
		if err := d.Delivery.LetPass(ctx, who, e); err != nil {
			return err
		}
	}
	for _, l := range []queue.SavedList{
		{Name: "To read", Query: search.Query{Label: labels["to read"]}, Folded: true},
		{Name: "Loans", Query: search.Query{Label: labels["loans"]}, Folded: true},
	} {
		if err := d.Queue.PutSavedList(ctx, who, "", l); err != nil {
			return err
		}
	}
	if err := w.work(ctx, d, clock, who); err != nil {
		return err
	}
	combo := inbox.Chain{ID: "read-later", Name: "Read next week", Key: "F7", Steps: []inbox.ComboStep{
		{Kind: inbox.MarkRead}, {Kind: inbox.Label, Labels: []int64{labels["to read"]}}, {Kind: inbox.Snooze, Phrase: "next week"}}}
	patch, err := json.Marshal(map[string]any{"habits": map[string]any{"combos": []inbox.Chain{combo}}})
	if err != nil {
		return err
	}
	_, err = d.Choices.Change(ctx, who, "", patch)
	return err
}

// live lets a message come in and its reader decide about it.
func (w *world) live(ctx context.Context, d *desk.Desk, clock *journal.SystemClock, who identity.Who, e event) error {
	if e.m.id == "" {
		e.m.id = w.id()
	}
	if e.waits {
		put(w.o.Office, office.Inbox, e.m)
		return nil
	}
	if err := d.SetClock(ctx, clock, e.m.at); err != nil {
		return err
	}
	if err := w.take(ctx, d, e.m); err != nil || e.do == "" && e.follow == "" {
		return err
	}
	conversation, err := d.Reading.ByMessageID(ctx, who, e.m.id)
	if err != nil {
		return err
	}
	taken := func(dec decide.Decision) error {
		dec.Conversations = []int64{conversation}
		clock.Set(clock.Now().Add(9 * time.Minute))
		_, err := d.Decisions.Decide(ctx, who, "", dec)
		return err
	}
	if err := taken(decide.Decision{Kind: inbox.Look}); err != nil {
		return err
	}
	if e.follow != "" {
		f := followups.NewFollowUp{Title: e.follow, Due: moment(e.due), Remind: moment(e.remind), Priority: e.priority, Keep: e.do == "snooze"}
		if err := taken(decide.Decision{Kind: inbox.MakeFollowUp, FollowUp: &f}); err != nil {
			return err
		}
	}
	switch e.do {
	case "archive":
		return taken(decide.Decision{Kind: inbox.Archive})
	case "snooze":
		return taken(decide.Decision{Kind: inbox.Snooze, Return: moment(e.until)})
	case "finished":
		v, err := d.Reading.Conversation(ctx, who, conversation)
		if err != nil || len(v.FollowUps) == 0 {
			return err
		}
		_, err = d.FollowUps.Step(ctx, who, "", v.FollowUps[0].UID, followups.FollowUpStep{Kind: inbox.FinishFollow})
		return err
	}
	return nil
}

// moment is a wall-clock time of the museum; midnight means the whole day.
func moment(t time.Time) when.Moment {
	if t.IsZero() {
		return when.Moment{}
	}
	layout := "2006-01-02T15:04"
	if t.Hour() == 0 && t.Minute() == 0 {
		layout = "2006-01-02"
	}
	return when.Moment{At: when.Of(t), Local: t.Format(layout), Zone: Zone}.Realign()
}
