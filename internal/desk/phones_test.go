package desk

import (
	"context"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/texting"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/accounts"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/followups"
	"ebbe/internal/desk/persons"
	"ebbe/internal/desk/phones"
	"ebbe/internal/desk/queue"
	"ebbe/internal/desk/reading"
	"ebbe/internal/post/exchange"
	postoffice "ebbe/internal/post/office"
	"ebbe/internal/post/texts"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

const (
	frontDesk = texting.Number("+4721000000")
	driver    = texting.Number("+4790000001")
	stranger  = texting.Number("+4790000002")
	away      = texting.Number("+4790000003") // whose telephone is off
)

// texted is an office with a telephone line, by a gateway of the exchange.
type texted struct {
	*posted
	x    *exchange.Exchange
	line phones.PhoneLine
}

func newTexted(t testing.TB, change func(*phones.PhoneDraft)) *texted {
	t.Helper()
	p := newPosted(t, postoffice.Faults{})
	x, err := exchange.Open("", p.clock.Now)
	require.NoError(t, err)
	require.NoError(t, x.Start())
	t.Cleanup(func() { _ = x.Close() })
	p.link(func(l *accounts.Links) { l.Network.Web = x.Dial })
	p.connected(t)
	f := &texted{posted: p, x: x}
	x.Deliver = func(ctx context.Context, path string, header http.Header, body []byte) error {
		return p.Phones.Heard(ctx, strings.TrimPrefix(path, "/text/"), header, body)
	}
	d := phones.PhoneDraft{Name: "Front desk", FullName: "Skagvik Tide Museum", Secret: "s3cret", Region: "no",
		Line: texting.Line{Number: "21 00 00 00", Gateway: exchange.Gateway(), Stopped: "You get no more texts from the museum."}}
	if change != nil {
		change(&d)
	}
	f.line, err = p.Phones.Put(ctx, p.who, "", d)
	require.NoError(t, err)
	require.Equal(t, frontDesk, f.line.Number)
	x.Serve(exchange.Line{Number: frontDesk, Hook: f.line.Hook, Secret: "s3cret"})
	x.Connect(driver, exchange.Telephone{Answers: func(text string) []exchange.Answer {
		if strings.Contains(text, "?") {
			return []exchange.Answer{{After: time.Minute, Text: "Yes."}, {After: 2 * time.Minute, Text: "At nine."}}
		}
		return nil
	}})
	x.Connect(away, exchange.Telephone{Off: true})
	return f
}

// texts has somebody text the front desk now.
func (f *texted) texts(t testing.TB, from texting.Number, text string) {
	t.Helper()
	f.clock.t = f.clock.t.Add(time.Minute)
	f.x.Text(string(from), frontDesk, text, f.clock.t)
	f.later(t, 0)
}

// later lets time pass, with what goes out and comes in meanwhile.
func (f *texted) later(t testing.TB, span time.Duration) {
	t.Helper()
	end := f.clock.t.Add(span)
	for {
		require.NoError(t, f.Sending.Dispatch(ctx))
		f.x.Advance()
		if !f.clock.t.Before(end) {
			return
		}
		f.clock.t = f.clock.t.Add(min(20*time.Second, end.Sub(f.clock.t)))
	}
}

func (f *texted) slips(t testing.TB) (out []queue.Slip) {
	t.Helper()
	q, err := f.Queue.Arranged(ctx, f.who, queue.Arrangement{})
	require.NoError(t, err)
	return q.Slips
}

// says gives what stands in the conversation with somebody, the oldest first.
func (f *texted) says(t testing.TB, n texting.Number) (id int64, out []string) {
	t.Helper()
	require.NoError(t, f.store.Read(ctx, func(tx store.Tx) error {
		found, err := store.Conversations(tx).Refs(f.who.Box, []string{texting.Root(frontDesk, mail.Address{Address: n.Address()})})
		for _, c := range found {
			id = c
		}
		return err
	}))
	if id == 0 {
		return 0, nil
	}
	v, err := f.Reading.Conversation(ctx, f.who, id)
	require.NoError(t, err)
	for _, m := range v.Messages {
		who := "they: "
		if m.Own {
			who = "we: "
		}
		require.NotEmpty(t, m.Blocks, "texts are read with those before them")
		out = append(out, who+strings.TrimSpace(m.Blocks[0].Text))
	}
	return id, out
}

// answers sends an answer to the newest of a conversation, and says what is wrong with it.
func (f *texted) answers(t testing.TB, conversation int64, text string, change ...func(*composing.DraftChange)) error {
	t.Helper()
	v, err := f.Reading.Conversation(ctx, f.who, conversation)
	require.NoError(t, err)
	d, err := f.Writing.Begin(ctx, f.who, "", composing.DraftBegun{Mode: writing.Reply, Message: v.Messages[len(v.Messages)-1].ID})
	require.NoError(t, err)
	require.Equal(t, frontDesk.Say(), d.Line)
	c := d.DraftChange
	c.Text = text
	for _, x := range change {
		x(&c)
	}
	if d, err = f.Writing.Change(ctx, f.who, "", d.ID, c); err != nil {
		return err
	}
	s, err := f.Writing.Send(ctx, f.who, "", d.ID, composing.Sending{})
	require.Empty(t, s.Asks)
	return err
}

// Texts come in like mail: one conversation for each number, decided like any other, in the history,
// answered by text; whose number it is can be said. The same said twice by the gateway is one text.
func TestTextsAreConversations(t *testing.T) {
	f := newTexted(t, nil)
	f.x.Misbehave(exchange.Faults{Twice: true})
	f.texts(t, driver, "Crate 14 is at the door")
	f.texts(t, driver, "Hello?")
	f.texts(t, stranger, "Are you open on Sunday?")
	slips := f.slips(t)
	require.Len(t, slips, 2)
	require.Equal(t, "Texts with +47 90 00 00 02", slips[0].Subject)
	require.Equal(t, "+47 90 00 00 02", slips[0].From)
	id, said := f.says(t, driver)
	require.Equal(t, []string{"they: Crate 14 is at the door", "they: Hello?"}, said)

	v, err := f.Phones.Name(ctx, f.who, phones.Whose{Number: driver, Name: "Mirela Dragan", Address: "mirela@kestrel.example"})
	require.NoError(t, err)
	require.Equal(t, phones.NumberView{Number: driver, Says: "+47 90 00 00 01", Name: "Mirela Dragan", Address: "mirela@kestrel.example"}, v)
	require.Equal(t, "Mirela Dragan", f.slips(t)[1].From)

	require.NoError(t, f.answers(t, id, "Is nine all right? Åse will be there."))
	f.later(t, 5*time.Minute)
	require.Len(t, f.x.Taken(), 1)
	require.Equal(t, exchange.Sent{ID: f.x.Taken()[0].ID, From: frontDesk, To: driver, Text: "Is nine all right? Åse will be there.", Parts: 1}, f.x.Taken()[0])
	_, said = f.says(t, driver)
	require.Equal(t, []string{"they: Crate 14 is at the door", "they: Hello?", "we: Is nine all right? Åse will be there.", "they: Yes.", "they: At nine."}, said)
	require.Equal(t, "Mirela Dragan", f.slips(t)[0].From, "what comes in later has the name, too")
	var reached int64
	require.NoError(t, f.store.Read(ctx, func(tx store.Tx) error {
		return tx.DB().Raw("SELECT reached FROM outgoings WHERE receipt <> ''").Scan(&reached).Error
	}))
	require.NotZero(t, reached, "it is known that it has reached the telephone")

	out, err := f.Decisions.Decide(ctx, f.who, "", decide.Decision{Kind: inbox.Archive, Conversations: []int64{id}})
	require.NoError(t, err)
	require.NotZero(t, out.Entry)
	f.texts(t, driver, "One more thing")
	require.Equal(t, id, f.slips(t)[0].ID, "it comes back as what comes in does")
	f.sound(t)
}

// Somebody texts from the writing screen; a text that cannot go is said before, and the draft is kept.
func TestWritingATextFirst(t *testing.T) {
	f := newTexted(t, nil)
	_, err := f.Writing.Begin(ctx, f.who, "", composing.DraftBegun{Mode: writing.New, Line: 99})
	require.ErrorIs(t, err, store.ErrNotFound)
	d, err := f.Writing.Begin(ctx, f.who, "", composing.DraftBegun{Mode: writing.New, Line: f.line.ID})
	require.NoError(t, err)
	sends := func(change func(*composing.DraftChange)) error {
		c := d.DraftChange
		c.Account = f.line.ID
		change(&c)
		if d, err = f.Writing.Change(ctx, f.who, "", d.ID, c); err != nil {
			return err
		}
		s, err := f.Writing.Send(ctx, f.who, "", d.ID, composing.Sending{})
		require.Empty(t, s.Asks, "nobody is asked about a subject")
		return err
	}
	require.ErrorContains(t, sends(func(c *composing.DraftChange) { c.To, c.Text = nil, "Hello" }), "nobody yet")
	require.Error(t, sends(func(c *composing.DraftChange) { c.To = []mail.Address{{Address: "90 00"}} }))
	require.ErrorContains(t, sends(func(c *composing.DraftChange) { c.To = []mail.Address{{Address: "solvei@m.example"}} }), "without a number")
	require.ErrorContains(t, sends(func(c *composing.DraftChange) { c.To = []mail.Address{{Address: "90000001"}, {Address: "90000002"}} }), "goes to one number")
	one := []mail.Address{{Address: "90 00 00 01"}}
	require.ErrorContains(t, sends(func(c *composing.DraftChange) { c.To, c.Text = one, " " }), "nothing in the text")
	require.ErrorContains(t, sends(func(c *composing.DraftChange) { c.To, c.Text = one, strings.Repeat("crate ", 1667) }), "would go in 66 parts")
	require.NoError(t, sends(func(c *composing.DraftChange) { c.To, c.Text, c.Subject = one, "The van is here", "no text has one" }))
	require.Equal(t, driver.Address(), d.To[0].Address)
	f.later(t, time.Minute)
	require.Equal(t, "The van is here", f.x.Taken()[0].Text)
	id, said := f.says(t, driver)
	require.Equal(t, []string{"we: The van is here"}, said)
	f.texts(t, driver, "Good")
	again, said := f.says(t, driver)
	require.Equal(t, id, again)
	require.Len(t, said, 2)

	p, err := f.Writing.Complete(ctx, f.who, "+47")
	require.NoError(t, err)
	require.Empty(t, p, "mail is not written to numbers")
	m, err := f.Writing.Begin(ctx, f.who, "", composing.DraftBegun{Mode: writing.New, To: []mail.Address{{Address: driver.Address()}}})
	require.NoError(t, err)
	_, err = f.Writing.Send(ctx, f.who, "", m.ID, composing.Sending{Sure: true})
	require.ErrorContains(t, err, "gets texts from a telephone line")
}

// What does not reach its telephone comes back like mail that cannot be brought; a gateway that is out
// of order has its text tried again, one that says nothing is not asked twice.
func TestTextsThatDoNotArrive(t *testing.T) {
	f := newTexted(t, nil)
	f.texts(t, away, "Call me")
	id, _ := f.says(t, away)
	require.NoError(t, f.answers(t, id, "I will"))
	_, err := f.Decisions.Decide(ctx, f.who, "", decide.Decision{Kind: inbox.Archive, Conversations: []int64{id}})
	require.NoError(t, err)
	f.later(t, time.Minute)
	require.Equal(t, id, f.slips(t)[0].ID, "it is back")
	box, err := f.Writing.Outbox(ctx, f.who, 0)
	require.NoError(t, err)
	require.Equal(t, writing.Refused, box.Messages[0].State)
	require.Contains(t, box.Messages[0].Problem, "the telephone is not there")

	f.x.Misbehave(exchange.Faults{Down: true})
	f.texts(t, driver, "And now?")
	id, _ = f.says(t, driver)
	require.NoError(t, f.answers(t, id, "Come in"))
	f.later(t, time.Minute)
	require.Len(t, f.x.Taken(), 1)
	f.x.Misbehave(exchange.Faults{})
	f.later(t, 30*time.Minute)
	require.Len(t, f.x.Taken(), 2, "it is tried again")

	f.x.Misbehave(exchange.Faults{Silent: true})
	require.NoError(t, f.answers(t, id, "By the back door"))
	f.later(t, 30*time.Minute)
	require.Len(t, f.x.Taken(), 3, "nobody knows whether it went, so it does not go again by itself")
	box, err = f.Writing.Outbox(ctx, f.who, 0)
	require.NoError(t, err)
	require.Equal(t, writing.Hanging, box.Messages[0].State)
	require.NoError(t, f.Sending.Settle(ctx, f.who, box.Messages[0].ID, true))
	f.x.Misbehave(exchange.Faults{})
	f.later(t, time.Minute)
	require.Len(t, f.x.Taken(), 3, "sent again it is the same text, and goes once")
}

// By a word somebody has no more texts, is told so once, and nothing goes to them, whoever writes it;
// by another they have them again.
func TestNoMoreTexts(t *testing.T) {
	f := newTexted(t, func(d *phones.PhoneDraft) {
		d.Stops = texting.StopWords{"genug"}
		d.Answer = texting.Answer{When: texting.Always, Text: "We answer within the hour."}
	})
	f.texts(t, driver, "Hello")
	f.later(t, time.Minute)
	f.texts(t, driver, "Still there?")
	f.later(t, time.Minute)
	require.Len(t, f.x.Taken(), 1, "one is answered by itself once a day")
	require.Equal(t, "We answer within the hour.", f.x.Taken()[0].Text)
	f.texts(t, driver, "Genug!")
	f.later(t, time.Minute)
	f.texts(t, driver, "stop")
	f.later(t, time.Minute)
	require.Len(t, f.x.Taken(), 2)
	require.Equal(t, "You get no more texts from the museum.", f.x.Taken()[1].Text)
	id, said := f.says(t, driver)
	require.Equal(t, []string{"they: Hello", "they: Still there?", "they: Genug!", "they: stop"}, said, "what they say is there, and what went by itself is not mixed with it")
	require.ErrorContains(t, f.answers(t, id, "But why?"), "no more texts")
	f.clock.t = f.clock.t.Add(25 * time.Hour)
	f.texts(t, driver, "Is it true?")
	f.later(t, time.Minute)
	require.Len(t, f.x.Taken(), 2, "nor does anything by itself")
	f.texts(t, driver, "START")
	require.NoError(t, f.answers(t, id, "Good to have you back"))
	f.later(t, time.Minute)
	require.Len(t, f.x.Taken(), 3)
	f.x.Text("Skagvik Ferry", frontDesk, "Your ticket", f.clock.t)
	f.later(t, time.Minute)
	require.Len(t, f.x.Taken(), 3, "a machine is not answered")
}

// The plan of delivery holds texts as it holds mail, and a line can answer while it does.
func TestTextsWaitForTheirRound(t *testing.T) {
	f := newTexted(t, func(d *phones.PhoneDraft) {
		d.Answer = texting.Answer{When: texting.Held, Text: "Texts are read at noon."}
	})
	f.texts(t, driver, "Early")
	f.later(t, time.Minute)
	require.Empty(t, f.x.Taken())
	_, err := f.Delivery.Hold(ctx, f.who, delivery.Hand{Mode: delivery.ModeHold})
	require.NoError(t, err)
	f.texts(t, stranger, "Anybody?")
	f.later(t, time.Minute)
	require.Len(t, f.slips(t), 1, "it is held")
	require.Len(t, f.x.Taken(), 1)
	require.Equal(t, stranger, f.x.Taken()[0].To)
	require.Equal(t, "Texts are read at noon.", f.x.Taken()[0].Text)
}

// Whoever is not the gateway is not heard; nor is one for a line that is paused, or not there.
func TestWhoSpeaksForAGateway(t *testing.T) {
	f := newTexted(t, nil)
	f.x.Misbehave(exchange.Faults{Unsigned: true})
	f.texts(t, driver, "I am Mirela, believe me")
	require.Empty(t, f.slips(t))
	body := []byte(`{"id":"1","from":"+4790000001","text":"hello"}`)
	signed := texts.Signed(texting.Usual().Sign, "s3cret", body, f.clock.t)
	require.ErrorIs(t, f.Phones.Heard(ctx, "guessed", signed, body), store.ErrNotFound)
	require.ErrorIs(t, f.Phones.Heard(ctx, "", signed, body), store.ErrNotFound)
	hook := strings.TrimPrefix(f.line.Hook, "/text/")
	draft := phones.PhoneDraft{ID: f.line.ID, Name: "Front desk", Line: f.line.Line, Paused: true}
	_, err := f.Phones.Put(ctx, f.who, "", draft)
	require.NoError(t, err)
	require.ErrorIs(t, f.Phones.Heard(ctx, hook, signed, body), phones.ErrPaused)
	d, err := f.Writing.Begin(ctx, f.who, "", composing.DraftBegun{Mode: writing.New, Line: f.line.ID})
	require.NoError(t, err)
	d.To, d.Text = []mail.Address{{Address: string(driver)}}, "Later"
	d, err = f.Writing.Change(ctx, f.who, "", d.ID, d.DraftChange)
	require.NoError(t, err)
	_, err = f.Writing.Send(ctx, f.who, "", d.ID, composing.Sending{})
	require.NoError(t, err)
	f.later(t, time.Minute)
	require.Empty(t, f.x.Taken(), "nothing goes by a line that is paused")
	draft.Paused = false
	moved := draft
	moved.Gateway.URL = "https://elsewhere.example/texts"
	_, err = f.Phones.Put(ctx, f.who, "", moved)
	require.ErrorContains(t, err, "sent nowhere else")
	_, err = f.Phones.Put(ctx, f.who, "", draft)
	require.NoError(t, err)
	wrong := []byte(`no JSON`)
	var cannot *problem.Error
	require.ErrorAs(t, f.Phones.Heard(ctx, hook, texts.Signed(texting.Usual().Sign, "s3cret", wrong, f.clock.t), wrong), &cannot)
	other := []byte(`{"id":"1","from":"+4790000001","to":"+4721000009","text":"for the café"}`)
	require.NoError(t, f.Phones.Heard(ctx, hook, texts.Signed(texting.Usual().Sign, "s3cret", other, f.clock.t), other))
	require.Empty(t, f.slips(t), "what is for another line of the gateway is not taken in by this one")
	require.NoError(t, f.Phones.Heard(ctx, hook, texts.Signed(texting.Usual().Sign, "s3cret", body, f.clock.t), body))
	require.Len(t, f.slips(t), 1)
	f.later(t, time.Hour)
	require.Len(t, f.x.Taken(), 1, "and goes once it is not")

	chosen, err := f.Choices.All(ctx, f.who)
	require.NoError(t, err)
	require.False(t, slices.ContainsFunc(chosen.Addresses, texting.IsText), "a number is no address of mail")
	_, err = f.Phones.Put(ctx, f.who, "", phones.PhoneDraft{Line: f.line.Line, Secret: "x"})
	require.ErrorContains(t, err, "a line of that number already")
	_, err = f.Phones.Put(ctx, f.who, "", phones.PhoneDraft{Line: texting.Line{Number: "ask", Gateway: f.line.Gateway}, Secret: "x"})
	require.ErrorContains(t, err, "no telephone number")
	require.NoError(t, f.Phones.Drop(ctx, f.who, f.line.ID))
	require.ErrorIs(t, f.Phones.Drop(ctx, f.who, f.line.ID), store.ErrNotFound)
	require.Len(t, f.slips(t), 1, "its texts stay")
	all, err := f.Phones.Lines(ctx, f.who)
	require.NoError(t, err)
	require.Empty(t, all.Lines)
}

// What somebody texts and what they mail is between the same two people, once it is known whose number
// it is.
func TestTextsAndMailOfOnePerson(t *testing.T) {
	f := newTexted(t, nil)
	f.arrive(t, letter("m1@x", "mirela@kestrel.example", "The proof"))
	f.texts(t, driver, "It is me, Mirela")
	text, _ := f.says(t, driver)
	proof := f.by(t, "The proof")
	_, err := f.Decisions.Decide(ctx, f.who, "", decide.Decision{Kind: inbox.MakeFollowUp, Conversations: []int64{proof.ID}, FollowUp: &followups.NewFollowUp{Title: "Read the proof", Keep: true}})
	require.NoError(t, err)
	between := func(id int64) *reading.Between {
		t.Helper()
		v, err := f.Reading.Conversation(ctx, f.who, id)
		require.NoError(t, err)
		return v.Between
	}
	require.Empty(t, between(text).FollowUps)
	require.Equal(t, &reading.NumberKnown{Number: driver, Says: "+47 90 00 00 01"}, between(text).Number)
	_, err = f.Phones.Name(ctx, f.who, phones.Whose{Number: driver, Name: "Mirela Dragan", Address: "mirela@kestrel.example"})
	require.NoError(t, err)
	require.NoError(t, f.answers(t, text, "Good to know"))
	f.later(t, time.Minute)
	require.Equal(t, "Read the proof", between(text).FollowUps[0].Title)
	require.Equal(t, 2, between(text).Received)
	f.arrive(t, letter("m2@x", "Mirela Dragan <mirela@elsewhere.example>", "The proof again"))
	again, err := f.Reading.Conversation(ctx, f.who, f.by(t, "The proof again").ID)
	require.NoError(t, err)
	require.Empty(t, again.Messages[0].Seems, "a telephone is no other address that somebody is taken for")
	require.Equal(t, 2, between(proof.ID).Received)
	require.Equal(t, []string{driver.Say()}, between(proof.ID).Along)
	for _, address := range []string{"mirela@kestrel.example", driver.Address()} {
		p, err := f.Persons.Person(ctx, f.who, address)
		require.NoError(t, err)
		require.Equal(t, 2, p.Received)
		require.Len(t, p.Mine, 1)
		messages := slices.DeleteFunc(p.Lines, func(l persons.PersonLine) bool { return l.Kind != search.MessageDocument })
		require.Len(t, messages, 2, "the mail and the texts")
	}
	all, err := f.Phones.Numbers(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, all, 1)
	_, err = f.Phones.Name(ctx, f.who, phones.Whose{Number: driver, Address: "no address"})
	require.ErrorContains(t, err, "no mail address")
}
