package demo

import (
	"context"
	"errors"
	"net"
	"net/http"
	"strings"
	"time"

	"ebbe/internal/core/texting"
	"ebbe/internal/desk"
	"ebbe/internal/desk/phones"
	"ebbe/internal/identity"
	"ebbe/internal/post/exchange"
	"ebbe/internal/post/office"
)

// Town is what is outside of the museum: the post office, and the telephone exchange.
type Town struct {
	*office.Office
	x *exchange.Exchange
}

// Close ends both.
func (t *Town) Close() error { return errors.Join(t.x.Close(), t.Office.Close()) }

// Next is when something happens there next; zero if nothing will (accounts.World).
func (t *Town) Next() time.Time {
	a, b := t.Office.Next(), t.x.Next()
	if a.IsZero() || !b.IsZero() && b.Before(a) {
		return b
	}
	return a
}

// Advance lets happen what is due by now, and says whether anything did.
func (t *Town) Advance() bool {
	rang := t.x.Advance()
	return t.Office.Advance() || rang
}

// web reaches the gateway of the exchange, which is on this machine, and the pages of the post office.
func (t *Town) web(ctx context.Context, network, address string) (net.Conn, error) {
	if strings.HasPrefix(address, "localhost:") {
		return t.x.Dial(ctx, network, address)
	}
	return t.Dial(ctx, network, address)
}

// The telephones. The numbers are of those that are given to nobody, and kept for stories.
const (
	frontDesk       = texting.Number("+441632960145")
	frontDeskSecret = "brass-bell"
	mirelaRings     = texting.Number("+447700900112")
	oonaRings       = texting.Number("+447700900331")
	visitorRings    = texting.Number("+447700900518")
	schoolRings     = texting.Number("+447700900777") // which is off
)

// ring opens the exchange, which is kept in the folder dir, and gives people their telephones.
func ring(d *desk.Desk, now func() time.Time, dir string) (*exchange.Exchange, error) {
	x, err := exchange.Open(dir, now)
	if err != nil {
		return nil, err
	}
	x.Deliver = func(ctx context.Context, path string, header http.Header, body []byte) error {
		return d.Phones.Heard(ctx, strings.TrimPrefix(path, "/text/"), header, body)
	}
	asks := func(text string) bool { return strings.Contains(text, "?") }
	x.Connect(mirelaRings, exchange.Telephone{Answers: func(text string) []exchange.Answer {
		if !asks(text) {
			return nil
		}
		return []exchange.Answer{{After: 6 * time.Minute, Text: "Yes."}, {After: 8 * time.Minute, Text: "If the ferry sails, that is. I text you from the quay."}}
	}})
	x.Connect(oonaRings, exchange.Telephone{Answers: func(text string) []exchange.Answer {
		return []exchange.Answer{{After: 40 * time.Minute, Text: "Noted, thank you."}}
	}})
	x.Connect(visitorRings, exchange.Telephone{Answers: func(text string) []exchange.Answer {
		return []exchange.Answer{{After: 4 * time.Minute, Text: "Lovely, see you then"}}
	}})
	x.Connect(schoolRings, exchange.Telephone{Off: true})
	return x, x.Start()
}

// rings is that somebody texts the front desk.
type rings struct {
	from texting.Number
	id   string
	text string
}

// mid is the Message-ID of a text with that ID, by which it is found.
func mid(id string) string { return phones.MessageID(frontDesk, id) }

// texts are those that come to the front desk these two days.
func texts(at func(days, h, m int) time.Time) []act {
	text := func(when time.Time, who person, from texting.Number, id, text string) act {
		return act{at: when, who: who, about: mid(id), rings: &rings{from, id, text}}
	}
	visitor := person{name: "a visitor"}
	return []act{
		text(at(-1, 15, 2), mirela, mirelaRings, "quay-1", "The van is at the quay store and nobody opens. Whom do I call?"),
		{at: at(-1, 15, 5), who: tomasz, about: mid("quay-1"), does: takes},
		{at: at(-1, 15, 6), who: tomasz, about: mid("quay-1"), does: writes("I am on my way. Five minutes.")},
		text(at(0, 8, 22), visitor, visitorRings, "sunday-1", "Good morning, are you open on Sunday, and does the tide clock strike then? We are six."),
		text(at(0, 9, 5), oona, oonaRings, "couriers-1", "Both couriers land at 11:20 on the 18th, and not at 12:20 as I wrote."),
		{at: at(0, 9, 20), who: priya, about: mid("sunday-1"), does: writes("Yes, from ten on. The tide clock strikes at eleven.")},
		text(at(0, 10, 31), mirela, mirelaRings, "boat-1", "Crate 14 is on the boat."),
		text(at(0, 10, 33), mirela, mirelaRings, "boat-2", "Without the straps. They stay here, is that all right?"),
		text(at(0, 14, 20), visitor, visitorRings, "sunday-2", "One more thing: is there a lift to the lamp room?"),
	}
}

// line gives the team its telephone at the front desk, and says whose numbers are known.
func line(ctx context.Context, d *desk.Desk, x *exchange.Exchange, team identity.Who) error {
	v, err := d.Phones.Put(ctx, team, "", phones.PhoneDraft{Name: "Front desk", FullName: "Front desk, Skagvik Tide Museum", Secret: frontDeskSecret,
		Line: texting.Line{Number: frontDesk, Gateway: exchange.Gateway(), Stopped: "You get no more texts from the museum."}})
	if err != nil {
		return err
	}
	x.Serve(exchange.Line{Number: frontDesk, Hook: v.Hook, Secret: frontDeskSecret})
	for number, p := range map[texting.Number]person{mirelaRings: mirela, oonaRings: oona} {
		if _, err := d.Phones.Name(ctx, team, phones.Whose{Number: number, Name: p.name, Address: p.address}); err != nil {
			return err
		}
	}
	return nil
}
