package facts

import (
	"cmp"
	"regexp"
	"slices"
	"strings"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Message is what facts are read from.
type Message struct {
	From     mail.Address
	Kind     mail.Kind
	Subject  string
	Text     string // plain, quoted lines included
	Language when.Language
	Written  when.Instant
	Markup   []Item
}

// maxRead is how many bytes of a text are looked through.
const maxRead = 8_000

// Of reads what a message says: what its markup describes, with a doubt where its text
// says something else, and of other kinds what its text says surely.
func Of(m Message, w when.Week) []Fact {
	text := m.Subject + ".\n" + mail.OwnWords(m.Text)
	if len(text) > maxRead {
		text = strings.ToValidUTF8(text[:maxRead], "")
	}
	r := reader{m: m, w: w, text: dashed.ReplaceAllString(text, "$1.$2.$3")}
	said := r.read()
	out := FromMarkup(m.Markup, w.Location())
	marked := map[Kind]bool{}
	for i, f := range out {
		marked[f.Kind] = true
		out[i].Doubt = r.against(f, said)
	}
	for _, f := range said {
		if !marked[f.Kind] && !(f.Kind == Parcel && marked[Order]) {
			out = append(out, f)
		}
	}
	return tidy(out[:min(len(out), MaxFacts)])
}

// against says what the text says in place of a fact of the markup.
func (r reader) against(f Fact, said []Fact) string {
	for _, s := range said {
		switch {
		case s.Kind != f.Kind || f.Ref != "" && s.Ref != "" && f.Key() != s.Key():
		case s.Amount != "" && f.Amount != "" && !sameAmount(s, f):
			return "Its text says " + s.Money() + "."
		case !s.From.IsZero() && !f.From.IsZero() && !within(f, s, r.w):
			return "Its text says " + s.Say(r.w, r.m.Written) + "."
		}
	}
	named := amounts(r.text)
	if f.Amount != "" && len(named) > 0 && !slices.ContainsFunc(named, func(n Fact) bool { return sameAmount(n, f) }) {
		return "Its text does not name " + f.Money() + "."
	}
	return ""
}

func sameAmount(a, b Fact) bool {
	return a.Currency == b.Currency && strings.TrimSuffix(a.Amount, ".00") == strings.TrimSuffix(b.Amount, ".00")
}

// within says that the first day of said is one of those of f.
func within(f, said Fact, w when.Week) bool {
	loc := w.Location()
	day := midnight(said.From.At.In(loc))
	return !day.Before(midnight(f.From.At.In(loc))) && !day.After(midnight(f.Last().At.In(loc)))
}

// reader reads a text.
type reader struct {
	m    Message
	w    when.Week
	text string
}

// read is what the text says surely.
func (r reader) read() (out []Fact) {
	machine := r.m.Kind.Machine() && r.m.Kind != mail.Bounce
	list := r.m.Kind == mail.List // many notices can be unsubscribed from; of what goes to many nothing has a number of its own
	lower := strings.ToLower(r.text)
	names := func(stems []string) bool {
		return slices.ContainsFunc(stems, func(s string) bool { return strings.Contains(lower, s) })
	}
	if (machine || names(billStems)) && names(moneyStems) {
		if f, ok := r.bill(); ok && (machine || isBill.MatchString(r.text) && !(list && f.Ref == "")) {
			out = append(out, f)
		}
	}
	if !machine && !list {
		return out
	}
	if names(codeStems) {
		if code := r.code(); code != "" {
			out = append(out, Fact{Kind: Code, By: r.m.From.Short(), Code: code})
		}
	}
	for _, of := range []struct {
		stems []string
		read  func() (Fact, bool)
	}{{parcelStems, r.parcel}, {rideStems, r.journey}, {bookStems, r.booking}} {
		if names(of.stems) {
			if f, ok := of.read(); ok && (machine || f.Kind == Parcel && f.Ref != "") {
				out = append(out, f)
			}
		}
	}
	return out
}

// What a text has to name for it to be worth reading for a fact.
var (
	billStems   = []string{"invoice", "bill", "rechnung", "mahnung", "factur", "fattura", "faktura"}
	moneyStems  = []string{"€", "£", "eur", "gbp", "usd", "us$", "chf", "nok", "sek", "dkk", "pln", "zł"}
	codeStems   = []string{"code", "kod", "código", "codice", "one-time", "one time"}
	parcelStems = []string{"parcel", "package", "shipment", "consignment", "paket", "sendung", "päckchen", "colis", "paquete", "pacco", "pakke", "paczka"}
	rideStems   = []string{"train", "flight", "bus", "coach", "ferry", "zug", "flug", "fähre", "vol", "tren", "trein", "tog", "tåg", "ferge"}
	bookStems   = []string{"check", "arrival", "anreise", "arrivée", "sjekk"}
)

// words is a pattern in any case, in which "<" stands where a word begins and ">" where one
// ends, in whatever script: \b knows the letters of ASCII alone.
func words(pattern string) *regexp.Regexp {
	return regexp.MustCompile("(?i)" + strings.NewReplacer("<", `(?:^|[^\p{L}\p{N}])`, ">", `(?:$|[^\p{L}\p{N}])`).Replace(pattern))
}

// Codes for signing in: a number beside words that call it that, the only one there is.
var (
	codeWords = words(`<(?:verification|security|sign[- ]?in|log[- ]?in|one[- ]?time|authentication|access|login)[- ](?:pass)?code>|<one[- ]?time[- ](?:password|pin)>|<passcode>|` +
		`<(?:bestätigungs|sicherheits|anmelde|verifizierungs|einmal|zugangs)[- ]?code>|<code de (?:vérification|sécurité|connexion)>|<código de (?:verificación|seguridad|acceso)>|` +
		`<codice di (?:verifica|sicurezza|accesso)>|<(?:verificatie|inlog)code>|<engangskode>|<kod(?:u)? (?:weryfikacyjny|logowania)>|<kontrollkod>`)
	yourCode    = words(`<(?:your|enter (?:this|the)|use (?:this|the)|ihr|dein) (?:[\p{L}-]+ ){0,3}code>`)
	signingIn   = words(`<(?:sign(?:ing)?[- ]?in|log(?:ging)?[- ]?in|login|verify (?:it.s you|your identity)|anmeld\w+|einlogg\w+)>`)
	otherCodes  = words(`<(?:discount|promo\w*|voucher|coupon|gift|booking|reservation|postal|post|zip|bar|dress|source|country|dial\w*|gutschein|rabatt|order|door)[- ]?codes?>`)
	codeNumbers = regexp.MustCompile(`(?:^|[^\p{L}\p{N}.,:/#+€£$-])(\d{4,8}|\d{3}[ -]\d{3}|[A-Z]-\d{5,6})(?:$|[.,;:!]?(?:[^\p{L}\p{N},:/€£$%-]|$))`)
)

func (r reader) code() string {
	places := codeWords.FindAllStringIndex(r.text, 8)
	if len(places) == 0 && signingIn.MatchString(r.text) {
		places = yourCode.FindAllStringIndex(r.text, 8)
	}
	if len(places) == 0 || otherCodes.MatchString(r.text) {
		return ""
	}
	found := ""
	for _, m := range codeNumbers.FindAllStringSubmatchIndex(r.text, 20) {
		near := slices.ContainsFunc(places, func(p []int) bool { return m[2] >= p[0]-60 && m[2] <= p[1]+160 })
		number := strings.NewReplacer(" ", "", "-", "").Replace(r.text[m[2]:m[3]])
		if !near || isYear(number) || number == found {
			continue
		}
		if found != "" {
			return "" // which of them it is cannot be said
		}
		found = number
	}
	return found
}

func isYear(number string) bool {
	return len(number) == 4 && (strings.HasPrefix(number, "19") || strings.HasPrefix(number, "20"))
}

// Amounts of money: the sign or the letters of a currency before or behind a number. A
// sign that several countries have is not read.
var (
	money      = regexp.MustCompile(`(?:(€|£|EUR|GBP|USD|US\$|CHF|NOK|SEK|DKK|PLN)[ \x{00a0}]?(\d[\d.,’' \x{00a0}]{0,14}\d|\d)(?:,-|\.-)?)|(?:(\d[\d.,’' \x{00a0}]{0,14}\d|\d)(?:,-|\.-)?[ \x{00a0}]?(€|£|EUR|GBP|USD|CHF|NOK|SEK|DKK|PLN|zł)(?:$|[^\p{L}]))`)
	currencies = map[string]string{"€": "EUR", "£": "GBP", "US$": "USD", "zł": "PLN"}
)

// amounts are those a text names, in their order.
func amounts(text string) (out []Fact) {
	for _, m := range money.FindAllStringSubmatch(text, 60) {
		sign, number := cmp.Or(m[1], m[4]), cmp.Or(m[2], m[3])
		if a := amountOf(number); a != "" {
			out = append(out, Fact{Amount: a, Currency: cmp.Or(currencies[sign], sign)})
		}
	}
	return out
}

// Bills: an amount behind words that ask for it, and a day behind words that call it due.
var (
	isBill      = words(`<(?:invoice|bill|rechnung|mahnung|facture|factura|fattura|factuur|faktura)>`)
	amountWords = words(`<(?:(?:total |balance |amount )(?:now )?due|(?:amount|total) (?:payable|to pay|outstanding)|please (?:pay|transfer)|invoice (?:amount|total)|bill amount|` +
		`zu zahlen(?:der betrag)?|zahlbetrag|rechnungsbetrag|(?:rechnungs)?gesamtbetrag|überweisen sie|montant (?:à payer|dû|total)|total à payer|importe (?:total|a pagar)|totale da pagare|te betalen(?: bedrag)?|(?:beløp )?å betale|att betala|do zapłaty)>`)
	dueWords = words(`(?:<(?:(?:is )?due(?: date)?(?: on| by)?|payable (?:by|until|before)|pay(?:ment)? (?:is )?(?:due )?(?:by|before|until|on)|(?:pay|transfer)[^\n]{0,50} by|fällig(?:keit)?(?: am| bis)?|zahlbar bis(?: zum)?|` +
		`zahlungsziel|bis (?:spätestens|zum)|date d.échéance|à (?:régler|payer) avant(?: le)?|vence el|vervaldatum|betalen v[oó]{2}r|forfall(?:sdato)?|förfallodag|termin płatności|scadenza)|<échéance)[ :]`)
	paidWords  = words(`<(?:(?:has been|was|already|is) paid|paid in full|thank you for your payment|payment received|we (?:have )?received your payment|bereits bezahlt|zahlung erhalten|déjà payé\w*|betaald op|amount paid|nothing to pay)>`)
	takenWords = words(`<(?:direct debit|will be (?:debited|collected|charged|taken)|wird [^\n]{0,60}(?:abgebucht|eingezogen)|lastschrift|prélevé|prélèvement|adeudar\w*|automatisch (?:afgeschreven|geïncasseerd))`)
	billNumber = words(`<(?:invoice|bill|rechnung(?:snummer|s-nr\.)?|facture|factura|fattura|factuur|faktura)(?: (?:number|no\.?|nr\.?|n°|#))?[ :#]{1,3}([A-Z0-9/.-]{0,20}\d[A-Z0-9/.-]{0,20}[A-Z0-9])`)
	noBill     = words(`<(?:quotation|estimate|quote no|pro[- ]?forma|angebot|kostenvoranschlag|devis|offerte|credit note|gutschrift|refund\w*|erstattung)>`)
)

// afterWords is how far behind the words that ask for it an amount or a day stands.
const afterWords = 60

func (r reader) bill() (f Fact, ok bool) {
	if noBill.MatchString(r.text) {
		return f, false
	}
	for _, at := range amountWords.FindAllStringIndex(r.text, 8) {
		rest := r.text[at[1]-1 : min(len(r.text), at[1]+afterWords)]
		named := amounts(strings.ToValidUTF8(rest, ""))
		if len(named) == 0 {
			continue
		}
		if f.Amount != "" && !sameAmount(f, named[0]) {
			return f, false
		}
		f.Amount, f.Currency = named[0].Amount, named[0].Currency
	}
	if f.Amount == "" {
		return f, false
	}
	f.Kind, f.By = Bill, r.m.From.Short()
	if m := billNumber.FindStringSubmatch(r.text); m != nil {
		f.Ref = m[1]
	}
	if paidWords.MatchString(r.text) {
		f.State = Paid
		return f, true
	}
	for _, at := range dueWords.FindAllStringIndex(r.text, 8) {
		t, found := r.timeIn(at[1], afterWords, 12)
		if !found {
			continue
		}
		day := t.Start.Day(r.w.Location())
		if !f.From.IsZero() && f.From != day {
			return f, false
		}
		f.From = day
	}
	if takenWords.MatchString(r.text) {
		f.State = Taken
	}
	return f, !f.From.IsZero()
}

// timeIn is the first time that is named from a place of the text on, within so many
// bytes, and beginning no later than that behind the place.
func (r reader) timeIn(from, length, latest int) (when.Found, bool) {
	rest := strings.ToValidUTF8(r.text[min(from, len(r.text)):min(len(r.text), from+length)], "")
	if at := strings.Index(rest, "\n\n"); at >= 0 {
		rest = rest[:at]
	}
	first, ok := r.first(rest, r.m.Language, latest)
	unsure := len(r.text) < 400 // too short to tell its language: it may be any that the reader reads
	if unsure && (!ok || r.m.Language == when.Undetermined && first.Start.WholeDay()) {
		for _, l := range r.w.Languages {
			if t, found := r.first(rest, l, latest); found && (!ok || !t.Start.WholeDay() && t.Start.Day(r.w.Location()) == first.Start) {
				return t, true
			}
		}
	}
	return first, ok
}

func (r reader) first(text string, l when.Language, latest int) (when.Found, bool) {
	found := r.w.FindTimes(text, l, r.m.Written)
	if len(found) == 0 || found[0].From > latest || !namesDay(found[0].Text) {
		return when.Found{}, false
	}
	return found[0], true
}

var (
	dashed       = regexp.MustCompile(`\b(\d{1,2})-(\d{1,2})-(\d{4})\b`) // as dates are written in Dutch
	dayInNumbers = regexp.MustCompile(`\d[./]\d|\d-\d+-\d`)
	noDay        = regexp.MustCompile(`(?i)\b(?:am|pm|a\.m|p\.m|uhr|h|at|um|à|from|to|until|between|and|o.clock|kl)\b`)
	letters      = regexp.MustCompile(`\p{L}{3,}`)
)

// namesDay says that a time as it stands in a text names its day, rather than an hour of
// whichever day.
func namesDay(text string) bool {
	return dayInNumbers.MatchString(text) || letters.MatchString(noDay.ReplaceAllString(text, " "))
}

// Parcels, as those write who bring them.
var (
	parcelWords = words(`<(?:your|the|our|ihre?|deine?|die|das|votre|le|tu|su|il tuo|uw|je|din|twoja|twoje)\s(?:[\p{L}\p{N}-]+\s){0,3}(?:parcel|package|shipment|consignment|paket|sendung|päckchen|colis|paquete|pacco|pakket|pakke|paket|paczka)>`)
	arrivedText = words(`<(?:has been delivered|was delivered|is delivered|has arrived|wurde(?: \w+)? zugestellt|ist angekommen|a été livré|ha sido entregado|è stato consegnato|is bezorgd|er levert|została doręczona)>`)
	collectText = words(`<(?:(?:is )?ready (?:for|to be) (?:collection|collected|pick(?:ed)?[- ]?up)|can be (?:collected|picked up)|waiting (?:for you )?at|abholbereit|zur abholung|prêt à être retiré|ligt klaar|klar (?:for|til) (?:henting|avhenting))>`)
	failedText  = words(`<(?:could not be delivered|was not delivered|delivery failed|not been delivered|nicht zugestellt|missed delivery|has not arrived|customs|fee|zoll)>`)
	onTheWay    = words(`(?:<(?:arrives|arriving|will arrive|will be (?:delivered|with you|brought)|is expected|expected (?:delivery|arrival)|(?:estimated|planned|scheduled) (?:delivery|arrival)|(?:out for|on its way[^.\n]{0,30}) ?delivery|delivery (?:date|day|window)|to be delivered|is coming|comes|kommt|zustellung|liefertermin|voraussichtlich|livraison (?:prévue|estimée)|arrivera|llegará|arriverà|leveres|dostawa|leveras)(?: date| day)?(?: on| by| am| le| for| between)?)[ :]`)
	broughtOn   = words(`<(?:wird|soll|wordt)( [^\n]{3,70}) (?:zugestellt|geliefert|bezorgd)>`)
	trackNumber = words(`<(?:tracking|parcel|package|shipment|consignment|sendung|sendungs|paket|suivi|colis)[- ]?(?:number|no\.?|nr\.?|nummer|id|n°)?[ :#]{1,3}([A-Z]{0,4}\d[A-Z0-9-]{3,28}\d)>`)
)

func (r reader) parcel() (f Fact, ok bool) {
	if !parcelWords.MatchString(r.text) || failedText.MatchString(r.text) {
		return f, false
	}
	f = Fact{Kind: Parcel, By: r.m.From.Short(), State: OnTheWay}
	if m := trackNumber.FindStringSubmatch(r.text); m != nil {
		f.Ref = m[1]
	}
	switch {
	case arrivedText.MatchString(r.text):
		f.State = Arrived
		return f, true
	case collectText.MatchString(r.text):
		f.State = ToCollect
		return f, true
	}
	var places []int
	for _, at := range onTheWay.FindAllStringIndex(r.text, 8) {
		places = append(places, at[1]-1)
	}
	for _, at := range broughtOn.FindAllStringSubmatchIndex(r.text, 8) {
		places = append(places, at[2])
	}
	loc := r.w.Location()
	for _, place := range places {
		t, found := r.timeIn(place, 90, 24)
		switch {
		case !found:
		case !f.From.IsZero() && f.From.Day(loc) != t.Start.Day(loc):
			return f, false // on which of the two days cannot be said
		case f.From.IsZero() || f.From.WholeDay(): // the hours say more than the day
			f.From, f.Until = t.Start, t.End
		}
	}
	return f, !f.From.IsZero()
}

// Journeys: what leaves when, and booked rooms.
var (
	rideWords  = words(`<(train|flight|bus|coach|ferry|zug|flug|fähre|vol|tren|treno|trein|tog|tåg|fergen?)\s+((?:[A-Z]{1,3}\s?)?\d{1,5})>`)
	leaveWords = words(`<(?:departs|departure(?: time)?|departing|leaves|leaving|abfahrt|abflug|ab|départ|salida|partenza|vertrek|avgang)(?: at| on| le| am| um)?[ :]`)
	changed    = words(`<(?:was cancelled|has been cancelled|is cancelled|fällt aus|storniert|annulé)>`)
	checkIn    = words(`<(?:check[- ]?in|arrival|anreise|arrivée|incheck\w*|innsjekk\w*)(?: date| from| on| am)?[ :]{1,2}`)
	checkOut   = words(`<(?:check[- ]?out|departure|abreise|départ|uitcheck\w*|utsjekk\w*)(?: date| until| by| on| am)?[ :]{1,2}`)
	bookedText = words(`<(?:booking|reservation|booked|reserved|buchung|reservierung|réservation|reservering|bestilling)>`)
)

func (r reader) journey() (f Fact, ok bool) {
	rides := rideWords.FindAllStringSubmatch(r.text, 8)
	if len(rides) == 0 {
		return f, false
	}
	name := rides[0][1] + " " + rides[0][2]
	for _, ride := range rides[1:] {
		if !strings.EqualFold(ride[1]+" "+ride[2], name) {
			return f, false // which of them a time is of cannot be said
		}
	}
	f = Fact{Kind: Journey, Name: strings.ToUpper(name[:1]) + name[1:], By: r.m.From.Short()}
	for _, at := range leaveWords.FindAllStringIndex(r.text, 8) {
		t, found := r.timeIn(at[1]-1, 90, 30)
		if !found || t.Start.WholeDay() {
			continue
		}
		if !f.From.IsZero() && f.From != t.Start {
			return f, false
		}
		f.From = t.Start
	}
	if changed.MatchString(r.text) {
		f.State = Cancelled
	}
	return f, !f.From.IsZero()
}

func (r reader) booking() (f Fact, ok bool) {
	in, out := checkIn.FindStringIndex(r.text), checkOut.FindStringIndex(r.text)
	if in == nil || out == nil || !bookedText.MatchString(r.text) {
		return f, false
	}
	from, a := r.timeIn(in[1]-1, afterWords, 16)
	until, b := r.timeIn(out[1]-1, afterWords, 16)
	if !a || !b || from.Start.At > until.Start.At {
		return f, false
	}
	f = Fact{Kind: Booking, By: r.m.From.Short(), From: from.Start, Until: until.Start}
	if changed.MatchString(r.text) {
		f.State = Cancelled
	}
	return f, true
}
