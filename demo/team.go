package demo

import (
	"context"
	"fmt"
	"log/slog"
	"slices"
	"sync"
	"time"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/together"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk"
	"ebbe/internal/desk/accounts"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/followups"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/post/office"
	"ebbe/internal/store"
)

// lending is the address of the loans team, and lendingSecret what opens its mail.
var lending = person{"Loans, Skagvik Tide Museum", "loans@skagvikmuseum.example"}

const (
	lendingSecret = "four-keys"
	lendingName   = "Loans"
)

// colleagues are those of the team besides Solvei, whom one can be in the demo, too.
var colleagues = []person{jonas, priya, tomasz}

// act is what a colleague does about something of the team, at a time.
type act struct {
	at    time.Time
	who   person
	about string // the Message-ID it is about
	does  func(ctx context.Context, d *desk.Desk, who identity.Who, conversation int64) error
	comes *message // instead: mail that comes to the team
	rings *rings   // or a text
}

// found makes the team with its mail, a month before the demo begins.
func found(ctx context.Context, d *desk.Desk, o *Town, who identity.Who) error {
	box, err := d.Teams.Make(ctx, who, "", lendingName)
	if err != nil {
		return err
	}
	team, err := inBox(ctx, d, who, box)
	if err != nil {
		return err
	}
	for _, c := range colleagues {
		if err := d.People.Add(ctx, identity.Signup{Name: c.name, Address: c.address, Zone: Zone}, nil, func(store.Tx, identity.Who, store.Person) error { return nil }); err != nil {
			return err
		}
		p, err := d.People.Called(ctx, c.address)
		if err != nil {
			return err
		}
		if err := d.Teams.Stand(ctx, team, "", p.Person, together.Member); err != nil {
			return err
		}
	}
	_, err = d.Accounts.Put(ctx, team, "", accounts.AccountDraft{Name: lendingName, Address: lending.address, FullName: lending.name, Signature: "The loans team\nSkagvik Tide Museum", Secret: lendingSecret,
		Mailbox: mail.Server{Host: ours[0].mailbox, Port: 993, Security: mail.TLS}, Sending: mail.Server{Host: ours[0].sender, Port: 465, Security: mail.TLS}, Carries: inbox.AllCarried})
	if err != nil {
		return err
	}
	return line(ctx, d, o.x, team)
}

func inBox(ctx context.Context, d *desk.Desk, who identity.Who, box int64) (identity.Who, error) {
	return (identity.Boxes{Directory: d.People}).In(ctx, who, box)
}

// lendingMail is what comes to the team these two days.
func lendingMail(today time.Time) (out []message) {
	day := func(days, h, m int) time.Time {
		return time.Date(today.Year(), today.Month(), today.Day()+days, h, m, 0, 0, today.Location())
	}
	for _, m := range []message{
		{id: "dial-signed@lindqvist-instruments.example", at: day(-1, 11, 4), from: halvard, subject: "Signed: the pocket tide dial", text: "Dear loans team,\n\nthe agreement for the pocket tide dial is signed and on its way to you. It can be fetched from Thursday on, between nine and noon.\n\nHalvard Lindqvist\n"},
		{id: "second-night@coastlinecouriers.example", at: day(-1, 15, 10), from: mirela, subject: "A second night at the quay store", text: "Dear all,\n\nthe almanac crate stood a second night with us because the ferry did not sail. Who carries the watchman’s wage for it, you or the lender?\n\nMirela\nCoastline Couriers\n"},
		{id: "facility-report@thalassa-archive.example", at: day(-1, 16, 32), from: nikos, subject: "Facility report for the vault", text: "Dear colleagues,\n\nbefore our board meets I need the facility report of your vault, the newest one.\n\nN. Pávlou\n"},
		{id: "light-map@museodelmare.example", at: day(0, 8, 5), from: ilse, subject: "Light under the lagoon map", text: "Dear colleagues,\n\nour conservator asks whether 50 lux holds for the whole case or only for its middle. Could you measure at the rim, and tell me by Friday?\n\nIlse Marchetti\n"},
		{id: "january-couriers@shiomi-museum.example", at: day(0, 8, 41), from: yuki, subject: "Couriers for the return in January", text: "Dear loans team,\n\nwe would send two couriers for the return of the scrolls, on 18 January. Is somebody at the dock that day?\n\nYuki Tanabe\n"},
		{id: "sounding-pictures@thalassa-archive.example", at: day(0, 9, 56), from: nikos, subject: "Photographs of the sounding machine", text: "Dear colleagues,\n\nmay we print two of your photographs of the sounding machine in our yearbook? We would name the museum.\n\nN. Pávlou\n"},
		{id: "second-night-2@coastlinecouriers.example", at: day(0, 11, 6), from: mirela, subject: "Re: A second night at the quay store", refs: []string{"second-night@coastlinecouriers.example"}, text: "Thank you. It is ninety for the night, then.\n\nMirela\n"},
		{id: "courier-seats@vargatravel.example", at: day(0, 13, 14), from: oona, subject: "Seats for two couriers", text: "Dear all,\n\nI hold two seats for the couriers of January until tonight. Shall I book?\n\nOona\n"},
	} {
		m.to = []person{lending}
		out = append(out, m)
	}
	return out
}

// actsOf are what the colleagues, and Solvei before the demo begins, do about it.
func actsOf(today time.Time) []act {
	at := func(days, h, m int) time.Time {
		return time.Date(today.Year(), today.Month(), today.Day()+days, h, m, 20, 0, today.Location())
	}
	const night, dial, report, light, january, seats = "second-night@coastlinecouriers.example", "dial-signed@lindqvist-instruments.example", "facility-report@thalassa-archive.example",
		"light-map@museodelmare.example", "january-couriers@shiomi-museum.example", "courier-seats@vargatravel.example"
	return []act{
		{at(-1, 11, 20), tomasz, dial, takes, nil, nil},
		{at(-1, 11, 22), tomasz, dial, follows("Fetch the tide dial from Halvard", at(2, 0, 0)), nil, nil},
		{at(-1, 15, 40), tomasz, night, says("The ferry line puts its log on the web. It did not sail on either night."), nil, nil},
		{at(-1, 16, 50), priya, report, takes, nil, nil},
		{at(-1, 16, 58), priya, report, writes("Dear Mr Pávlou,\n\nthe newest report is of October. I send it with tomorrow’s post and as a file by noon."), nil, nil},
		{at(0, 9, 12), jonas, night, takes, nil, nil},
		{at(0, 9, 16), jonas, night, says("The loan contract has a line on weather. It is on **page three**:\n\n> The lender bears what the sea delays.\n\nSo it is the lender’s, I think."), nil, nil},
		{at(0, 9, 31), priya, january, says("@Solvei Arnkvist the 18th is my school day. Who is at the dock?"), nil, nil},
		{at(0, 10, 3), solvei, january, gives(tomasz, "you are at the dock that day"), nil, nil},
		{at(0, 10, 24), tomasz, night, says("@Solvei Arnkvist would you tell Halvard before he gets the bill?"), nil, nil},
		{at(0, 10, 35), jonas, night, begins("Dear Mirela,\n\nweather falls to the lender, as page three of the contract says, so the watchman goes onto their bill."), nil, nil},
		{at(0, 10, 50), jonas, night, writes("Dear Mirela,\n\nweather falls to the lender, as page three of the contract says, so the watchman goes onto their bill. What does the night come to?"), nil, nil},
		{at(0, 11, 2), tomasz, light, takes, nil, nil},
		{at(0, 11, 25), jonas, night, says("Ninety. I put it on the list for the lender."), nil, nil},
		{at(0, 11, 48), tomasz, light, says("51 in the middle, 44 at the rim. @Solvei Arnkvist is that what you told her in May?"), nil, nil},
		{at(0, 13, 40), jonas, seats, takes, nil, nil},
		{at(0, 14, 5), jonas, seats, gives(priya, "you know which train meets the ferry"), nil, nil},
		{at(0, 15, 10), priya, seats, writes("Dear Oona,\n\nyes, please book both, on the museum’s account."), nil, nil},
		{at(0, 15, 12), priya, seats, says("Booked. @Tomasz they come at 11:20."), nil, nil},
	}
}

func takes(ctx context.Context, d *desk.Desk, who identity.Who, conversation int64) error {
	nobody := int64(0)
	_, err := d.Decisions.Decide(ctx, who, "", decide.Decision{Kind: inbox.Give, Conversations: []int64{conversation}, Owner: who.Person, Was: &nobody})
	return err
}

func gives(to person, why string) func(context.Context, *desk.Desk, identity.Who, int64) error {
	return func(ctx context.Context, d *desk.Desk, who identity.Who, conversation int64) error {
		p, err := d.People.Called(ctx, to.address)
		if err == nil {
			_, err = d.Decisions.Decide(ctx, who, "", decide.Decision{Kind: inbox.Give, Conversations: []int64{conversation}, Owner: p.Person, Text: why})
		}
		return err
	}
}

func says(text string) func(context.Context, *desk.Desk, identity.Who, int64) error {
	return func(ctx context.Context, d *desk.Desk, who identity.Who, conversation int64) error {
		_, err := d.Talk.Say(ctx, who, "", conversation, text)
		return err
	}
}

func follows(title string, due time.Time) func(context.Context, *desk.Desk, identity.Who, int64) error {
	return func(ctx context.Context, d *desk.Desk, who identity.Who, conversation int64) error {
		_, err := d.Decisions.Decide(ctx, who, "", decide.Decision{Kind: inbox.MakeFollowUp, Conversations: []int64{conversation}, FollowUp: &followups.NewFollowUp{Title: title, Due: moment(due)}})
		return err
	}
}

// begun is an answer that somebody writes, with these words.
func begun(ctx context.Context, d *desk.Desk, who identity.Who, conversation int64, text string) (int64, error) {
	v, err := d.Reading.Conversation(ctx, who, conversation)
	if err != nil {
		return 0, err
	}
	draft, err := d.Writing.Begin(ctx, who, "", composing.DraftBegun{Mode: writing.Reply, Message: v.Messages[len(v.Messages)-1].ID})
	if err != nil {
		return 0, err
	}
	draft.Text, draft.Named = text, true
	_, err = d.Writing.Change(ctx, who, "", draft.ID, draft.DraftChange)
	return draft.ID, err
}

func begins(text string) func(context.Context, *desk.Desk, identity.Who, int64) error {
	return func(ctx context.Context, d *desk.Desk, who identity.Who, conversation int64) error {
		_, err := begun(ctx, d, who, conversation, text)
		return err
	}
}

// writes sends an answer, which is done with that.
func writes(text string) func(context.Context, *desk.Desk, identity.Who, int64) error {
	return func(ctx context.Context, d *desk.Desk, who identity.Who, conversation int64) error {
		id, err := begun(ctx, d, who, conversation, text)
		if err == nil {
			_, err = d.Writing.Send(ctx, who, "", id, composing.Sending{Sure: true, Then: inbox.Archive})
		}
		return err
	}
}

// crew is who works in the team, and what they have still to do. It is part of what is outside
// of the demo's reader (accounts.World).
type crew struct {
	d *desk.Desk
	o *Town

	mu   sync.Mutex
	left []act // the next first
	box  int64
}

// newCrew is the team of a demo that began on a day, with what its colleagues do from now on.
func newCrew(d *desk.Desk, o *Town, box int64, today time.Time) *crew {
	c := &crew{d: d, o: o, box: box, left: actsOf(today)}
	c.left = append(c.left, texts(func(days, h, m int) time.Time {
		return time.Date(today.Year(), today.Month(), today.Day()+days, h, m, 0, 0, today.Location())
	})...)
	for _, m := range lendingMail(today) {
		c.left = append(c.left, act{at: m.at, who: m.from, about: m.id, comes: &m})
	}
	slices.SortStableFunc(c.left, func(a, b act) int { return a.at.Compare(b.at) })
	return c
}

// pass leaves out what is over.
func (c *crew) pass(now time.Time) {
	c.left = slices.DeleteFunc(c.left, func(a act) bool { return !a.at.After(now) })
}

// team is the team with all that is done there from its first mail on.
func (w *world) team(ctx context.Context, d *desk.Desk, who identity.Who) (*crew, error) {
	boxes, err := d.Teams.Boxes(ctx, who)
	if err != nil {
		return nil, err
	}
	return newCrew(d, w.o, boxes[len(boxes)-1].ID, w.today), nil
}

// until has all be done that was done by a time, each at its own.
func (c *crew) until(ctx context.Context, clock *journal.SystemClock, to time.Time) error {
	for len(c.left) > 0 && !c.left[0].at.After(to) {
		a := c.left[0]
		c.left = c.left[1:]
		if err := c.d.SetClock(ctx, clock, a.at); err != nil {
			return err
		}
		err := c.do(ctx, a)
		if err == nil && a.comes != nil {
			err = c.d.Mail.PassNow(ctx)
		}
		if err != nil {
			return fmt.Errorf("what %s does about %s: %w", a.who.name, a.about, err)
		}
	}
	return nil
}

// Next is when somebody does something next; zero if nobody will.
func (c *crew) Next() time.Time {
	c.mu.Lock()
	defer c.mu.Unlock()
	if len(c.left) == 0 {
		return time.Time{}
	}
	return c.left[0].at
}

// Advance has them do what is due by now. What the reader has done first they leave alone.
func (c *crew) Advance() (did bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	for len(c.left) > 0 && !c.left[0].at.After(c.d.Now().Time()) {
		a := c.left[0]
		c.left = c.left[1:]
		if err := c.do(context.Background(), a); err != nil {
			slog.Info("a colleague of the demo leaves something be", "who", a.who.name, "about", a.about, "why", err)
		}
		did = true
	}
	return did
}

func (c *crew) do(ctx context.Context, a act) error {
	if a.comes != nil {
		put(c.o.Office, office.Inbox, *a.comes)
		return nil
	}
	if a.rings != nil {
		c.o.x.TextAs(a.rings.id, string(a.rings.from), frontDesk, a.rings.text, a.at)
		c.o.x.Advance()
		return nil
	}
	who, err := c.d.People.Called(ctx, a.who.address)
	if err != nil {
		return err
	}
	if who, err = inBox(ctx, c.d, who, c.box); err != nil {
		return err
	}
	id, err := c.d.Reading.ByMessageID(ctx, who, a.about)
	if err != nil {
		return fmt.Errorf("%s is not there: %w", a.about, err)
	}
	return a.does(ctx, c.d, who, id)
}

// join has the colleagues of a demo be at work from now on, where it has them.
func join(ctx context.Context, d *desk.Desk, o *Town, loc *time.Location) error {
	began, err := d.DemoBegan(ctx)
	if err != nil || began == 0 {
		return err
	}
	if err := d.KeepTime(ctx); err != nil {
		return err
	}
	who, err := d.People.Called(ctx, solvei.address)
	if err != nil {
		return err
	}
	boxes, err := d.Teams.Boxes(ctx, who)
	if err != nil {
		return err
	}
	for _, b := range boxes {
		if b.Name == lendingName {
			t := began.Time().In(loc)
			c := newCrew(d, o, b.ID, time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, loc))
			c.pass(d.Now().Time())
			d.Colleagues(c)
		}
	}
	return nil
}
