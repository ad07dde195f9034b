package desk

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/sorting"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/queue"
	"ebbe/internal/store"
	"ebbe/internal/store/junking"
)

// teachJunk has the user keep some mail and call some junk, which is about prizes.
func (f *office) teachJunk(t testing.TB) {
	t.Helper()
	for i := range 50 {
		f.arrive(t, f.letter(fmt.Sprintf("good%d@x", i), fmt.Sprintf("w%d@people%d.example", i, i%9), fmt.Sprintf("Crate %d for the tide machine", i)))
	}
	for i := range 14 {
		f.arrive(t, f.letter(fmt.Sprintf("junk%d@x", i), fmt.Sprintf("p%d@prize%d.example", i, i), "Winner claim lottery millions"))
	}
	_, groups := f.groups(t, queue.Arrangement{})
	for _, ids := range groups {
		slips, err := f.Queue.Slips(ctx, f.who, ids)
		require.NoError(t, err)
		for _, s := range slips {
			kind := inbox.Archive
			if s.Subject == "Winner claim lottery millions" {
				kind = inbox.ToJunk
			}
			f.decide(t, kind, decide.Decision{Conversations: []int64{s.ID}})
		}
	}
	require.NoError(t, f.Importance.Learn(ctx))
}

func (f *office) junkModel(t testing.TB) (m sorting.JunkModel) {
	t.Helper()
	require.NoError(t, f.store.Read(ctx, func(tx store.Tx) (err error) {
		m, err = junking.Tests(tx).Model(1, sorting.JunkSignsOf(parsedOf("Winner claim lottery millions")).All)
		return err
	}))
	return m
}

// What one calls junk teaches, and what one keeps; what comes then and is like it goes to
// junk with its reason, in a line of its own that can be taken back. Called wrongly, it
// comes back and teaches; what was looked through goes to the bin as one step.
func TestJunkIsFoundAndLookedThrough(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.arrive(t, f.letter("first@x", "p@prize.example", "Winner claim lottery millions"))
	require.Len(t, f.queue(t), 1, "nothing is known yet")
	f.teachJunk(t)
	m := f.junkModel(t)
	require.True(t, m.Knows())
	require.Equal(t, sorting.JunkTally{Junk: 15, Good: 50}, m.JunkTally)
	f.arrive(t, f.letter("new@x", "p9@prize99.example", "Winner claim lottery millions"), f.letter("fine@x", "w3@people3.example", "Crate 99 for the tide machine"))
	require.Equal(t, []string{"Crate 99 for the tide machine"}, f.inView(t)[:1])
	v, err := f.Junk.All(ctx, f.who)
	require.NoError(t, err)
	found := int64(0)
	for id, why := range v.Why {
		found = id
		require.Contains(t, why, "It is like what you have called junk: “")
	}
	require.NotZero(t, found)
	require.Equal(t, inbox.Junk, f.place(t, found).Place)
	c, err := f.Reading.Conversation(ctx, f.who, found)
	require.NoError(t, err)
	require.Contains(t, c.Messages[0].Junk, "like what you have called junk")
	f.sound(t)
	require.NoError(t, f.Importance.Learn(ctx))
	require.Equal(t, m.JunkTally, f.junkModel(t).JunkTally, "what the test has found teaches nothing by itself")

	f.decide(t, inbox.NotJunk, decide.Decision{Conversations: []int64{found}})
	require.Equal(t, inbox.Inbox, f.place(t, found).Place)
	require.NoError(t, f.Importance.Learn(ctx))
	require.Equal(t, m.Good+1, f.junkModel(t).Good)
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.NoError(t, f.Importance.Learn(ctx))
	require.Equal(t, m, f.junkModel(t), "what is taken back is unlearned")

	var ids []int64
	for _, g := range v.Groups {
		ids = append(ids, g.IDs...)
	}
	out := f.decide(t, inbox.AllJunk, decide.Decision{Conversations: ids, Seen: inbox.Junk})
	require.Contains(t, out.Text, "All junk: binned ")
	require.NoError(t, f.Importance.Learn(ctx))
	require.Equal(t, m.Junk+1, f.junkModel(t).Junk, "confirmed")
	v, err = f.Junk.All(ctx, f.who)
	require.NoError(t, err)
	require.Zero(t, v.Count)
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	v, err = f.Junk.All(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, len(ids), v.Count)
	figures, err := f.Junk.Figures(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, inbox.JunkOff, figures.Degrees[0].Degree)
	require.Zero(t, figures.Degrees[0].Called)
	require.Equal(t, 1, figures.Degrees[1].Called)
	f.sound(t)
}

// Who is known is never junk, nor what answers the user; who is blocked is, unless it
// answers; one of a list of safe senders is not, unless somebody else sends under their
// name; and what the account's own server has found counts, and nobody else's.
func TestWhatIsJunkAndWhatIsNot(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.teachJunk(t)
	f.take(t, note("own@x", me, "Mirela <friend@prize.example>", "Where is my parcel?", f.clock.t))
	place := func(raw string) inbox.Place {
		t.Helper()
		f.clock.t = f.clock.t.Add(time.Second)
		f.arrive(t, raw)
		var next int64
		require.NoError(t, f.store.Read(ctx, func(tx store.Tx) (err error) {
			next, _, err = store.Conversations(tx).NextIDs()
			return err
		}))
		return f.place(t, next-1).Place
	}
	const won = "Winner claim lottery millions"
	ours := "Received: from x by mx." + domainOfMe() + "; Tue, 24 Nov 2026 09:00:00 +0100"
	auth := func(says string) string { return "Authentication-Results: mx." + domainOfMe() + "; " + says }
	require.Equal(t, inbox.Junk, place(f.letter("1@x", "stranger@prize9.example", won)))
	require.Equal(t, inbox.Inbox, place(f.letter("2@x", "friend@prize.example", won)), "the user has written to them")
	require.Equal(t, inbox.Junk, place(f.letter("3@x", "friend@prize.example", won, auth("dmarc=fail header.from=prize.example"), ours)), "who is not who they say")
	require.Equal(t, inbox.Junk, place(f.letter("4@x", "calm@hill.example", "A quiet letter", "X-Spam-Flag: YES", ours)), "by the account's server")
	require.Equal(t, inbox.Inbox, place(f.letter("5@x", "calm@hill.example", "A quiet letter", "Received: from a by elsewhere.example; Tue, 24 Nov 2026 09:00:00 +0100", "X-Spam-Flag: YES")), "by nobody's")
	require.NoError(t, f.choose(map[string]any{"habits": map[string]any{"junk": map[string]any{"never": []string{"@prize8.example"}, "to": []string{}, "scripts": []string{"Cyrillic"}}}}))
	require.Equal(t, inbox.Inbox, place(f.letter("6@x", "lottery@prize8.example", won)))
	require.Equal(t, inbox.Junk, place(f.letter("7@x", "lottery@prize8.example", won, auth("dmarc=fail header.from=prize8.example"), ours)))
	require.Equal(t, inbox.Junk, place(f.letter("8@x", "x@b.example", "Привет, это очень выгодное предложение")+"\nДобрый день! Мы рады предложить вам очень выгодные условия для вашего дела.\n"))
	require.NoError(t, f.choose(map[string]any{"habits": map[string]any{"junk": map[string]any{"degree": "off"}}}))
	require.Equal(t, inbox.Inbox, place(f.letter("9@x", "stranger@prize7.example", won)))
	require.ErrorContains(t, f.choose(map[string]any{"habits": map[string]any{"junk": map[string]any{"blocked": []string{"nobody"}}}}), "is no address")
	require.ErrorContains(t, f.choose(map[string]any{"habits": map[string]any{"junk": map[string]any{"blocked": []string{"@prize8.example"}}}}), "at once")

	// Blocking, which the degree does not touch.
	f.arrive(t, f.letter("10@x", "Promo <promo@shop.example>", "Offer"), f.letter("11@x", "Anna <anna@shop.example>", "Hello"))
	offer := f.by(t, "Offer").ID
	b, err := f.Junk.Blocking(ctx, f.who, offer)
	require.NoError(t, err)
	require.Equal(t, []any{"promo@shop.example", "shop.example", 2, 0}, []any{b.Address, b.Domain, b.People, b.Written})
	out, err := f.Junk.Block(ctx, f.who, "", offer, true)
	require.NoError(t, err)
	require.Contains(t, out.Text, "Blocked: everybody at shop.example.")
	require.Equal(t, inbox.Junk, f.place(t, offer).Place)
	require.Equal(t, inbox.Junk, place(f.letter("12@x", "else@mail.shop.example", "More")))
	f.take(t, note("own2@x", me, "x@shop.example", "A question", f.clock.t))
	f.arrive(t, f.letter("13@x", "x@shop.example", "Re: A question", "References: <own2@x>"))
	require.Equal(t, "A question", f.queue(t)[0].Subject, "an answer comes in whatever is blocked")
	_, err = f.Journal.TakeBackStep(ctx, f.who, "", out.Entry)
	require.NoError(t, err)
	require.Equal(t, inbox.Inbox, f.place(t, offer).Place)
	require.Equal(t, inbox.Inbox, place(f.letter("14@x", "else@mail.shop.example", "Yet more")))
	_, err = f.Junk.Block(ctx, f.who, "", 9999, false)
	require.ErrorIs(t, err, store.ErrNotFound)
	f.sound(t)
}

// What is held is looked at as it comes into view; nothing is said of it before.
func TestJunkAmongWhatIsHeld(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.teachJunk(t)
	_, err := f.Delivery.Hold(ctx, f.who, delivery.Hand{Mode: delivery.ModeHold})
	require.NoError(t, err)
	before := len(f.queue(t))
	f.arrive(t, f.letter("1@x", "stranger@prize9.example", "Winner claim lottery millions"), f.letter("2@x", "w@hill.example", "A quiet letter"))
	v, err := f.Junk.All(ctx, f.who)
	require.NoError(t, err)
	require.Empty(t, v.Why)
	_, err = f.Delivery.Hold(ctx, f.who, delivery.Hand{})
	require.NoError(t, err)
	require.Len(t, f.queue(t), before+1)
	v, err = f.Junk.All(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, v.Why, 1)
	f.sound(t)
}

// A stranger under the name of somebody one knows is marked, and so is a domain that
// looks like one that is known; the real one is not.
func TestWhoSeemsToBeAnother(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, note("own@x", me, "Jonas Reyland <jonas@skagvikmuseum.example>", "Plinths", f.clock.t))
	f.arrive(t, f.letter("1@x", "Jonas Reyland <jonas.r@freemail.example>", "Urgent"), f.letter("2@x", "Anna <anna@skagvikmuseurn.example>", "Invoice"), f.letter("3@x", "Jonas Reyland <jonas@skagvikmuseum.example>", "Plinths, new"),
		f.letter("4@x", "Jonas ReyIand <j@other.example>", "A favour"), f.letter("5@x", "Jonas Reyland <jonas@shop.skagvikmuseum.example>", "From the shop"))
	for subject, says := range map[string]string{
		"Urgent":        "You know Jonas Reyland by another address, jonas@skagvikmuseum.example. This one is jonas.r@freemail.example.",
		"Invoice":       "skagvikmuseurn.example looks like skagvikmuseum.example, which you know, and is another place.",
		"Plinths, new":  "",
		"A favour":      "You know Jonas ReyIand by another address, jonas@skagvikmuseum.example. This one is j@other.example.",
		"From the shop": "",
	} {
		c, err := f.Reading.Conversation(ctx, f.who, f.by(t, subject).ID)
		require.NoError(t, err)
		require.Equal(t, says, c.Messages[len(c.Messages)-1].Seems)
	}
	f.sound(t)
}

func parsedOf(subject string) mail.Message {
	return mail.Message{From: mail.Address{Address: "x@y.example"}, Subject: subject}
}

func domainOfMe() string { return me[strings.LastIndexByte(me, '@')+1:] }
