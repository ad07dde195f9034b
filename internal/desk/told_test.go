package desk

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/deliveries"
	"ebbe/internal/store"
)

// notice is what a machine writes now.
func (f *office) notice(id, from, subject, text string) string {
	return fmt.Sprintf("From: %s\nTo: solvei@m.example\nSubject: %s\nDate: "+f.clock.t.Format(time.RFC1123Z)+"\nMessage-ID: <%s>\nAuto-Submitted: auto-generated\n\n%s\n", from, subject, id, text)
}

// facts are the slips that say what machines tell, by their subjects.
func (f *office) facts(t testing.TB) map[string]string {
	t.Helper()
	out := map[string]string{}
	for _, s := range f.queue(t) {
		if s.Fact != "" {
			out[s.Subject] = s.Fact
		}
	}
	return out
}

// toCome is what is still to come, a line each.
func (f *office) toCome(t testing.TB) (lines []string) {
	t.Helper()
	heaps, err := f.Told.Open(ctx, f.who)
	require.NoError(t, err)
	n := 0
	for _, h := range heaps {
		lines = append(lines, h.Name)
		for _, x := range h.Facts {
			lines = append(lines, "  "+x.About+": "+x.Say)
			n++
		}
	}
	line, err := f.Dayline.Today(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, n, line.Told, "the number agrees with the list")
	return lines
}

// What machines tell stands on the slip and on top of the message; of one thing what was
// told last counts, and all that is still to come stands together.
func TestWhatMachinesTell(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.arrive(t,
		f.notice("p1@x", "Parcel desk <no-reply@kelp.example>", "Parcel 7781", "Your parcel, tracking number KP77812204, arrives on Thursday."),
		f.notice("p2@x", "Frame supplier <no-reply@bracken.example>", "Parcel 2205", "Your shipment, shipment number FS22051177, will be delivered tomorrow between 13:00 and 15:00."),
		f.notice("b1@x", "Tide power <no-reply@tide.example>", "Bill", "Your bill. Amount due: € 120.00. Due date: 14 December 2026."),
		f.notice("j1@x", "Shore Railway <no-reply@rail.example>", "Train", "Train 214 from Solvei to Utterhaven. Departure: Fri 4 Dec 2026, 10:05."),
		letter("m@x", "Mirela <mirela@c.example>", "Crates"))
	require.Equal(t, map[string]string{"Parcel 7781": "arrives Thu", "Parcel 2205": "arrives tomorrow 13–15", "Bill": "€ 120.00 due 14 Dec", "Train": "leaves 4 Dec 10:05"}, f.facts(t))
	require.Equal(t, []string{"2 parcels on the way", "  Frame supplier · FS22051177: arrives tomorrow 13–15", "  Parcel desk · KP77812204: arrives Thu", "1 bill to pay", "  Tide power: € 120.00 due 14 Dec",
		"1 journey", "  Train 214 · Shore Railway: leaves 4 Dec 10:05"}, f.toCome(t))

	f.arrive(t, f.notice("p3@x", "Parcel desk <no-reply@kelp.example>", "Delivered", "Your parcel KP77812204 was delivered at 11:42."))
	require.Equal(t, "1 parcel on the way", f.toCome(t)[0], "what was told last counts")
	require.Equal(t, "parcel has arrived", f.facts(t)["Delivered"])
	require.Equal(t, "parcel has arrived", f.facts(t)["Parcel 7781"], "also where it was told before")
	v, err := f.Reading.Conversation(ctx, f.who, f.by(t, "Parcel 2205").ID)
	require.NoError(t, err)
	require.Len(t, v.Facts, 1)
	require.Equal(t, "2026-11-26T08:00", v.Facts[0].Arrives.Local, "the day after the last one named")

	bill := f.by(t, "Bill").ID
	p, err := f.FollowUps.Proposal(ctx, f.who, bill)
	require.NoError(t, err)
	require.Equal(t, "Pay € 120.00 to Tide power", p.Title)
	require.Equal(t, "2026-12-14", p.Due.Local)
	e, err := f.Calendar.FindTimes(ctx, f.who, f.by(t, "Train").ID)
	require.NoError(t, err)
	require.Equal(t, "Train 214", e.Title)
	require.Equal(t, "2026-12-04T10:05", e.Times[0].Start.Local)
	require.Empty(t, e.Guests, "a machine takes no part in it")

	f.decide(t, inbox.ToBin, decide.Decision{Conversations: []int64{bill}})
	require.NotContains(t, f.toCome(t), "1 bill to pay")
	f.decide(t, inbox.ToJunk, decide.Decision{Conversations: []int64{f.by(t, "Train").ID}})
	require.Len(t, f.toCome(t), 2)
	f.clock.t = f.clock.t.AddDate(0, 0, 10)
	require.Empty(t, f.toCome(t), "what is a week late is looked for no more")
	require.Equal(t, map[string]string{"Delivered": "parcel has arrived", "Parcel 7781": "parcel has arrived"}, f.facts(t))
	f.sound(t)
}

// Two who bill have a number 12 each: the one's says nothing of the other's, and what each
// says later stands for its own.
func TestNumbersAreTheirs(t *testing.T) {
	f := newOffice(t, store.Options{})
	bill := func(id, from, text string) string { return f.notice(id, from, "Invoice", "Invoice 2026-12. "+text) }
	const power, water = "Tide power <no-reply@tide.example>", "Quay water <no-reply@water.example>"
	f.arrive(t, bill("a@x", power, "Amount due: € 120.00. Due date: 14 December 2026."), bill("b@x", water, "Amount due: € 45.30. Due date: 15 December 2026."))
	require.Equal(t, "2 bills to pay", f.toCome(t)[0])
	f.clock.t = f.clock.t.Add(time.Hour)
	f.arrive(t, bill("c@x", power, "Amount due: € 120.00. Thank you for your payment."))
	require.Equal(t, []string{"1 bill to pay", "  Quay water · 2026-12: € 45.30 due 15 Dec"}, f.toCome(t))
}

// Nothing of what is held shows by what it tells; once it is in, it counts.
func TestNothingIsToldOfWhatIsHeld(t *testing.T) {
	f := newOffice(t, store.Options{})
	parcel := f.notice("p1@x", "Parcel desk <no-reply@kelp.example>", "Parcel 7781", "Your parcel, tracking number KP77812204, arrives on Thursday.")
	f.arrive(t, parcel)
	id := f.by(t, "Parcel 7781").ID
	v, err := f.Reading.Conversation(ctx, f.who, id)
	require.NoError(t, err)
	f.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{id}, Until: inbox.UntilArrival, Return: v.Facts[0].Arrives})
	_, err = f.Delivery.Hold(ctx, f.who, delivery.Hand{Mode: delivery.ModeHold})
	require.NoError(t, err)
	f.arrive(t, f.notice("p2@x", "Parcel desk <no-reply@kelp.example>", "It is there", "Your parcel KP77812204 was delivered at 11:42."))
	require.NoError(t, f.Agenda.CatchUp(ctx))
	require.Empty(t, f.queue(t))
	require.Equal(t, "  Parcel desk · KP77812204: arrives Thu", f.toCome(t)[1])
	_, err = f.Delivery.Hold(ctx, f.who, delivery.Hand{})
	require.NoError(t, err)
	_, err = f.Delivery.LetIn(ctx, f.who, "", deliveries.LettingIn{All: true})
	require.NoError(t, err)
	require.NoError(t, f.Agenda.CatchUp(ctx))
	require.Equal(t, inbox.Back, f.by(t, "Parcel 7781").Position.Reason, "what waited for the arrival is back")
	require.Empty(t, f.toCome(t))
	f.sound(t)
}

// A code comes in at once where that is wanted, and goes after an hour; what was touched,
// or says more, stays.
func TestCodes(t *testing.T) {
	f := newOffice(t, store.Options{})
	code := func(id string) string {
		return f.notice(id, "Atlas "+id+" <no-reply@atlas.example>", "Sign in "+id, "Your sign-in code is 481920.")
	}
	require.NoError(t, f.Delivery.LetPass(ctx, f.who, delivery.Exception{By: delivery.ByCode}))
	_, err := f.Delivery.Hold(ctx, f.who, delivery.Hand{Mode: delivery.ModeHold})
	require.NoError(t, err)
	f.arrive(t, code("kept@x"), letter("m@x", "Mirela <mirela@c.example>", "Crates"))
	require.Equal(t, map[string]string{"Sign in kept@x": "code 481 920"}, f.facts(t))
	require.Len(t, f.queue(t), 1)
	f.clock.t = f.clock.t.Add(2 * time.Hour)
	require.NoError(t, f.Agenda.CatchUp(ctx))
	require.Len(t, f.queue(t), 1, "nothing is binned unless that is wanted")
	require.Empty(t, f.facts(t), "an old code is none any more")

	require.NoError(t, f.choose(map[string]any{"habits": map[string]any{"binCodes": true}}))
	f.arrive(t, code("a@x"), code("starred@x"))
	f.decide(t, inbox.Star, decide.Decision{Conversations: []int64{f.by(t, "Sign in starred@x").ID}})
	f.clock.t = f.clock.t.Add(59 * time.Minute)
	require.NoError(t, f.Agenda.CatchUp(ctx))
	require.Len(t, f.queue(t), 3)
	f.clock.t = f.clock.t.Add(2 * time.Minute)
	require.NoError(t, f.Agenda.CatchUp(ctx))
	left := f.queue(t)
	require.Len(t, left, 2)
	for _, s := range left {
		require.NotEqual(t, "Sign in a@x", s.Subject)
	}
	h, err := f.Reading.History(ctx, f.who, store.Past{})
	require.NoError(t, err)
	require.Equal(t, inbox.CodeOver, h.Lines[0].Kind)
	require.True(t, h.Lines[0].Step, "it can be taken back")
	_, err = f.Journal.TakeBackStep(ctx, f.who, "", h.Lines[0].ID)
	require.NoError(t, err)
	require.Len(t, f.queue(t), 3)
	require.NoError(t, f.Agenda.CatchUp(ctx))
	require.Len(t, f.queue(t), 3, "and stays then")
	f.sound(t)
}

// What has not come from where it says tells nothing, and brings no code.
func TestNothingIsToldByWhatIsForged(t *testing.T) {
	f := newOffice(t, store.Options{})
	require.NoError(t, f.Delivery.LetPass(ctx, f.who, delivery.Exception{By: delivery.ByCode}))
	_, err := f.Delivery.Hold(ctx, f.who, delivery.Hand{Mode: delivery.ModeHold})
	require.NoError(t, err)
	forged := "Authentication-Results: mx." + domainOfMe() + "; dmarc=fail header.from=tide.example\nReceived: from x by mx." + domainOfMe() + "; Tue, 24 Nov 2026 09:00:00 +0100\n"
	f.arrive(t, forged+f.notice("f@x", "Tide power <no-reply@tide.example>", "Bill", "Your bill. Amount due: € 120.00. Due date: 14 December 2026."),
		forged+f.notice("g@x", "Tide power <no-reply@tide.example>", "Code", "Your sign-in code is 481920."))
	require.Empty(t, f.queue(t), "nor does it come through")
	_, err = f.Delivery.Hold(ctx, f.who, delivery.Hand{})
	require.NoError(t, err)
	_, err = f.Delivery.LetIn(ctx, f.who, "", deliveries.LettingIn{All: true})
	require.NoError(t, err)
	require.Len(t, f.queue(t), 2)
	require.Empty(t, f.facts(t))
	require.Empty(t, f.toCome(t))
}
