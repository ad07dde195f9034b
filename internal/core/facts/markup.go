package facts

import (
	"cmp"
	"regexp"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"ebbe/internal/core/when"
)

// Item is a thing that a message describes in open markup (schema.org): its type, without
// where that is defined, and what is said of it.
type Item struct {
	Type  string
	Props map[string][]Value
}

// Value is what is said: a text, or another thing.
type Value struct {
	Text string
	Item *Item
}

// maxText is how many bytes of a name, a number or a place are kept.
const maxText = 120

// text is the first text under one of these names: a thing is called by its name.
func (i *Item) text(names ...string) string {
	if i == nil {
		return ""
	}
	for _, name := range names {
		for _, v := range i.Props[name] {
			t := v.Text
			if v.Item != nil {
				t = v.Item.text("name", "@id")
			}
			if t = clean(t); t != "" {
				return t
			}
		}
	}
	return ""
}

// clean is a text on one line, not too long.
func clean(t string) string {
	t = strings.Join(strings.Fields(t), " ")
	if len(t) > maxText {
		t = strings.ToValidUTF8(t[:maxText], "")
	}
	if !utf8.ValidString(t) {
		return ""
	}
	return t
}

// item is the first thing under one of these names.
func (i *Item) item(names ...string) *Item {
	if i == nil {
		return nil
	}
	for _, name := range names {
		for _, v := range i.Props[name] {
			if v.Item != nil {
				return v.Item
			}
		}
	}
	return nil
}

// word is the last part of an address or a name: "OrderDelivered".
func (i *Item) word(name string) string {
	t := i.text(name)
	return t[strings.LastIndexAny(t, "/#")+1:]
}

// FromMarkup reads facts from what a message describes; local times are on the clocks of
// loc, which are its reader's. What names nothing that can be shown is left out.
func FromMarkup(items []Item, loc *time.Location) (out []Fact) {
	for i := range items {
		if f, ok := ofItem(&items[i], loc); ok && len(out) < MaxFacts {
			out = append(out, f)
		}
	}
	return tidy(out)
}

// MaxFacts is how many facts are kept of one message.
const MaxFacts = 12

func ofItem(i *Item, loc *time.Location) (f Fact, ok bool) {
	at := func(of *Item, names ...string) when.Moment { return moment(of.text(names...), loc) }
	switch i.Type {
	case "ParcelDelivery":
		f = Fact{Kind: Parcel, State: OnTheWay, Name: i.text("itemShipped"), By: cmp.Or(i.text("carrier", "provider"), i.item("partOfOrder").text("merchant", "seller", "broker")),
			Ref: cmp.Or(i.text("trackingNumber"), i.item("partOfOrder").text("orderNumber")), From: at(i, "expectedArrivalFrom"), Until: at(i, "expectedArrivalUntil")}
		f.State = cmp.Or(stateOf(i.word("deliveryStatus")), stateOf(i.item("partOfOrder").word("orderStatus")), f.State)
	case "Order":
		f = Fact{Kind: Order, Name: cmp.Or(i.text("orderedItem", "itemOffered"), i.item("acceptedOffer").text("itemOffered")), By: i.text("merchant", "seller", "broker"), Ref: i.text("orderNumber", "confirmationNumber"), State: stateOf(i.word("orderStatus"))}
		f.money(i, i.item("acceptedOffer"), i.item("totalPrice", "priceSpecification"))
		if d := i.item("orderDelivery"); d != nil {
			f.From, f.Until = at(d, "expectedArrivalFrom"), at(d, "expectedArrivalUntil")
			if ref := d.text("trackingNumber"); ref != "" || f.State == OnTheWay || f.State == ToCollect || f.State == Arrived {
				f.Kind, f.Ref, f.State = Parcel, cmp.Or(ref, f.Ref), cmp.Or(f.State, OnTheWay)
			}
		}
		if f.Kind == Order && (f.State == OnTheWay || f.State == ToCollect || f.State == Arrived) {
			f.Kind = Parcel
		}
	case "Invoice":
		f = Fact{Kind: Bill, Name: i.text("description", "name"), By: i.text("provider", "broker", "seller", "merchant"), Ref: cmp.Or(i.text("confirmationNumber", "identifier", "accountId"), i.item("referencesOrder").text("orderNumber")), From: at(i, "paymentDueDate", "paymentDue")}
		f.money(i.item("totalPaymentDue"), i.item("minimumPaymentDue"), i)
		switch word := i.word("paymentStatus"); word {
		case "PaymentComplete":
			f.State = Paid
		case "PaymentAutomaticallyApplied":
			f.State = Taken
		}
		if f.Amount == "" {
			return f, false
		}
	case "FlightReservation", "TrainReservation", "BusReservation", "BoatReservation":
		trip := i.item("reservationFor")
		if trip == nil {
			return f, false
		}
		number := trip.text("flightNumber", "trainNumber", "busNumber", "trainName", "busName")
		by := trip.item("airline", "provider", "carrier").text("iataCode")
		if by != "" && !strings.HasPrefix(number, by) && number != "" {
			number = by + " " + number
		}
		from, to := trip.text("departureAirport", "departureStation", "departureBusStop", "departureBoatTerminal"), trip.text("arrivalAirport", "arrivalStation", "arrivalBusStop", "arrivalBoatTerminal")
		f = Fact{Kind: Journey, Name: number, By: trip.text("airline", "provider", "carrier"), Ref: i.text("reservationNumber", "reservationId"),
			From: at(trip, "departureTime", "departureDate"), Until: at(trip, "arrivalTime", "arrivalDate"), Where: from}
		if kind, _ := strings.CutSuffix(i.Type, "Reservation"); f.Name != "" && !strings.Contains(strings.ToLower(f.Name), strings.ToLower(kind)) {
			f.Name = kind + " " + f.Name
		}
		if from != "" && to != "" {
			f.Name = strings.TrimPrefix(f.Name+", "+from+" to "+to, ", ")
		}
		if p := trip.text("departurePlatform", "departureGate"); p != "" {
			f.Where = strings.TrimSpace(f.Where + ", " + p)
		}
		if f.From.IsZero() {
			return f, false
		}
	case "LodgingReservation":
		f = Fact{Kind: Booking, From: at(i, "checkinTime", "checkinDate"), Until: at(i, "checkoutTime", "checkoutDate")}
		f.booked(i)
	case "FoodEstablishmentReservation", "Reservation":
		f = Fact{Kind: Booking, From: at(i, "startTime"), Until: at(i, "endTime")}
		f.booked(i)
	case "RentalCarReservation", "TaxiReservation":
		f = Fact{Kind: Booking, From: at(i, "pickupTime"), Until: at(i, "dropoffTime")}
		f.booked(i)
		f.Where = cmp.Or(place(i, "pickupLocation"), f.Where)
	case "EventReservation":
		e := i.item("reservationFor")
		if e == nil {
			return f, false
		}
		f, _ = ofEvent(e, loc)
		f.Ref = i.text("reservationNumber", "reservationId")
	default:
		if i.Type != "Event" && !strings.HasSuffix(i.Type, "Event") {
			return f, false
		}
		f, _ = ofEvent(i, loc)
	}
	if word := i.word("reservationStatus"); word == "ReservationCancelled" || word == "Cancelled" {
		f.State = Cancelled
	}
	if f.Kind != Parcel && f.Kind != Bill && f.Kind != Order && f.From.IsZero() {
		return f, false // when is what there is to show
	}
	return f, f.Name+f.By+f.Ref+f.Amount != ""
}

func ofEvent(e *Item, loc *time.Location) (Fact, bool) {
	f := Fact{Kind: Event, Name: e.text("name"), By: e.text("organizer", "performer"), From: moment(e.text("startDate"), loc), Until: moment(e.text("endDate"), loc), Where: place(e, "location")}
	if e.word("eventStatus") == "EventCancelled" {
		f.State = Cancelled
	}
	return f, !f.From.IsZero()
}

// booked says what is booked, where, and under which number.
func (f *Fact) booked(i *Item) {
	f.Name, f.Ref = i.text("reservationFor"), i.text("reservationNumber", "reservationId")
	f.By, f.Where = i.text("provider", "broker"), place(i, "reservationFor")
	if where := place(i.item("reservationFor"), "location"); where != "" {
		f.Where = where
	}
}

// place is where something is: a text, or the name and the address of a thing.
func place(i *Item, name string) string {
	p := i.item(name)
	if p == nil {
		return i.text(name)
	}
	if a := p.item("address"); a != nil {
		parts := []string{a.text("streetAddress"), a.text("addressLocality")}
		return clean(strings.Trim(strings.Join(parts, ", "), ", "))
	}
	return cmp.Or(p.text("address"), p.text("name"))
}

// stateOf is what a word of schema.org says of an order or a parcel.
func stateOf(word string) State {
	switch word {
	case "OrderDelivered", "Delivered":
		return Arrived
	case "OrderInTransit", "OutForDelivery", "InTransit":
		return OnTheWay
	case "OrderPickupAvailable", "PickupAvailable":
		return ToCollect
	case "OrderCancelled", "OrderReturned", "Cancelled":
		return Cancelled
	}
	return ""
}

// money takes the amount and the currency from the first that says both.
func (f *Fact) money(of ...*Item) {
	for _, i := range of {
		amount := amountOf(i.text("price", "value", "minPrice", "totalPrice", "totalPaymentDue"))
		currency := strings.ToUpper(i.text("priceCurrency", "currency", "totalPriceCurrency"))
		if amount != "" && isCurrency.MatchString(currency) {
			f.Amount, f.Currency = amount, currency
			return
		}
	}
}

var isCurrency = regexp.MustCompile(`^[A-Z]{3}$`)

// The forms of a time in markup (ISO 8601), with and without the zone it is in.
var (
	zoned = []string{time.RFC3339, "2006-01-02T15:04Z07:00", "2006-01-02T15:04:05Z0700", "2006-01-02 15:04:05Z07:00", "2006-01-02 15:04Z07:00"}
	local = []string{"2006-01-02T15:04:05", "2006-01-02T15:04", "2006-01-02 15:04:05", "2006-01-02 15:04"}
)

// moment reads a time of ISO 8601: one without a zone is on the clocks of loc, one at
// midnight without a zone is a day.
func moment(text string, loc *time.Location) when.Moment {
	for _, form := range zoned {
		if t, err := time.Parse(form, text); err == nil && sensible(t) {
			return when.AtWall(t.In(loc), loc)
		}
	}
	for _, form := range local {
		if t, err := time.Parse(form, text); err == nil && sensible(t) {
			if t.Hour() == 0 && t.Minute() == 0 {
				return when.WholeDayOf(t, loc)
			}
			return when.AtWall(t, loc)
		}
	}
	if t, err := time.Parse(time.DateOnly, text); err == nil && sensible(t) {
		return when.WholeDayOf(t, loc)
	}
	return when.Moment{}
}

func sensible(t time.Time) bool { return t.Year() >= 1990 && t.Year() < 2200 }

// amountOf reads an amount however its thousands and its cents are marked: "1.200,50",
// "1 200.50", "1200". Empty if it is none, or can be read in two ways.
func amountOf(text string) string {
	text = strings.NewReplacer("’", "", "'", "", " ", "", "\u00a0", "", "\u202f", "").Replace(strings.TrimSpace(text))
	text = strings.TrimSuffix(strings.TrimSuffix(text, ".-"), ",-")
	if text == "" || strings.Trim(text, "0123456789.,") != "" {
		return ""
	}
	last := strings.LastIndexAny(text, ".,")
	whole, cents := text, ""
	if last >= 0 {
		mark, rest := text[last:last+1], text[last+1:]
		other := map[string]string{".": ",", ",": "."}[mark]
		switch {
		case len(rest) <= 2 && strings.Count(text, mark) == 1: // cents
			whole, cents = text[:last], rest
			if !grouped(whole, other) {
				return ""
			}
			whole = strings.ReplaceAll(whole, other, "")
		case len(rest) == 3 && strings.Count(text, other) == 0 && grouped(text, mark):
			whole = strings.ReplaceAll(text, mark, "")
		default:
			return ""
		}
	}
	whole = strings.TrimLeft(whole, "0")
	if len(whole) > 9 || strings.Trim(whole+cents, "0123456789") != "" {
		return ""
	}
	n, err := strconv.Atoi("0" + cents)
	if err != nil {
		return ""
	}
	if len(cents) == 1 {
		n *= 10
	}
	whole = cmp.Or(whole, "0")
	if cents == "" {
		return whole
	}
	return whole + "." + string([]byte{byte('0' + n/10), byte('0' + n%10)})
}

// grouped says that the mark stands before each three digits of a number, or nowhere.
func grouped(number, mark string) bool {
	parts := strings.Split(number, mark)
	if len(parts) == 1 {
		return true
	}
	if parts[0] == "" || len(parts[0]) > 3 {
		return false
	}
	for _, p := range parts[1:] {
		if len(p) != 3 {
			return false
		}
	}
	return true
}

// tidy leaves of facts about one thing the one that says most, in the order of the kinds.
func tidy(facts []Fact) (out []Fact) {
	for _, k := range Kinds {
		for _, f := range facts {
			if f.Kind != k {
				continue
			}
			same := -1
			for i, o := range out {
				if o == f || f.Key() != "" && o.Key() == f.Key() && o.From == f.From {
					same = i
				}
			}
			if same < 0 {
				out = append(out, f)
			}
		}
	}
	return out
}
