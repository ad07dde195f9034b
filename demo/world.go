package demo

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"time"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/japanese"
)

var (
	solvei  = person{"Solvei Arnkvist", "solvei.arnkvist@skagvikmuseum.example"}
	singer  = person{"Solvei Arnkvist", "solvei@skagvikchoir.example"}
	jonas   = person{"Jonas Reyland", "jonas.reyland@skagvikmuseum.example"}
	priya   = person{"Priya Venn", "priya.venn@skagvikmuseum.example"}
	tomasz  = person{"Tomasz Ilk", "tomasz.ilk@skagvikmuseum.example"}
	mirela  = person{"Mirela Dossett", "mirela@coastlinecouriers.example"}
	halvard = person{"Halvard Lindqvist", "halvard@lindqvist-instruments.example"}
	kestrel = person{"Kestrel Print Works", "proofs@kestrelprint.example"}
	ilse    = person{"Dr. Ilse Marchetti", "i.marchetti@museodelmare.example"}
	oona    = person{"Oona Varga", "oona@vargatravel.example"}
	harbour = person{"Town Harbour Office", "quay@skagvik-harbour.example"}
	roofer  = person{"Eskil Tann", "eskil@tannroofing.example"}
	school  = person{"Fjordveien School", "office@fjordveien-school.example"}
	yuki    = person{"Yuki Tanabe", "tanabe@shiomi-museum.example"}
	nikos   = person{"Níkos Pávlou", "pavlou@thalassa-archive.example"}
	brunner = person{"Grete Brunner", "g.brunner@pegelarchiv.example"}
	choir   = person{"Skagvik Choir", "all@skagvikchoir.example"}
	ragna   = person{"Ragna Holm", "ragna@skagvikchoir.example"}
	climate = person{"Vault climate", "no-reply@vaultclimate.example"}
	tickets = person{"Museum tickets", "notices@museumtickets.example"}
	parcels = person{"Parcel desk", "noreply@parceldesk.example"}
	press   = person{"Small Museums Weekly", "editor@smallmuseums.example"}
	loans   = person{"The Loan Desk", "letter@theloandesk.example"}
	paper   = person{"Paper Room Letters", "letters@paperroom.example"}
	walks   = person{"Lighthouse Walks", "walks@lighthousewalks.example"}
	mailer  = person{"Mail system", "mailer-daemon@skagvikmuseum.example"}
	frames  = person{"Bracken Frames", "orders@brackenframes.example"}
	power   = person{"Harbour Power", "no-reply@harbourpower.example"}
	railway = person{"Coast Railway", "no-reply@coastrailway.example"}
	payroll = person{"Payroll", "no-reply@skagvikmuseum.example"}
)

func listHeaders(id, leave string) []string {
	return []string{"List-Id: <" + id + ">", "List-Unsubscribe: <" + leave + ">", "List-Unsubscribe-Post: List-Unsubscribe=One-Click", "Precedence: bulk"}
}

// described is a page that says in open markup what it is about (schema.org), and in words
// some of it.
func described(thing, words string) string {
	return `<script type="application/ld+json">` + thing + `</script><p>` + words + `</p>`
}

var machine = []string{"Auto-Submitted: auto-generated"}

// topics of the correspondence of fourteen months; %s is a thing it is about.
var topics = []struct {
	who      person
	subject  string
	opens    string
	answers  string
	closes   string
	things   []string
	withCopy []person
	report   bool // it tells something, and is seldom answered; all else mostly is
}{
	{mirela, "Crate for %s", "Hello Solvei,\n\nwe can build the crate for %s in week two. I need the outer dimensions and the weight before we order the timber.\n\nMirela", "Hello Mirela,\n\nTomasz has measured it; the drawing is attached to the loan file. Please go ahead.\n\nSolvei", "Thank you, that is all I needed.\n\nMirela",
		[]string{"the tide wheel", "the harbour clock", "the glass floats", "the chart table", "the sounding machine", "the second predictor", "the plaster coast", "the brass buoy"}, []person{tomasz}, false},
	{halvard, "Loan of %s", "Dear Solvei Arnkvist,\n\nI am glad to lend %s to the exhibition. Could you send me the facility report and the insurance value you propose?\n\nWith kind regards\nHalvard Lindqvist", "Dear Halvard,\n\nthe report is attached. Jonas proposes the value of the last appraisal.\n\nKind regards\nSolvei", "Agreed. I will sign when the agreement comes.\n\nHalvard",
		[]string{"the pocket tide dial", "Lindqvist's notebooks", "the gear train", "the harmonic analyser", "two portraits"}, []person{jonas}, false},
	{priya, "School visits: %s", "Hi Solvei,\n\nfor %s I would need the workshop room and half an hour of Tomasz. Is that possible?\n\nPriya", "Hi Priya,\n\nyes. I have put it in the room plan.\n\nSolvei", "Lovely, thanks!",
		[]string{"the spring programme", "the tide pool day", "three classes in May", "the teachers' evening", "the summer camp", "winter term"}, nil, false},
	{jonas, "Condition report: %s", "Solvei,\n\nthe condition report for %s is done. Two small losses at the rim, both old. Photographs in the file.\n\nJonas", "Thanks, Jonas. I have noted it for the courier.\n\nSolvei", "",
		[]string{"case 4", "the mahogany stand", "the copper plates", "the almanacs", "case 7", "the float gauge", "the lantern slides"}, nil, true},
	{tomasz, "Light levels in %s", "Solvei,\n\nI measured %s again: 48 lux in the middle, 61 at the door. The blind should stay down after two.\n\nTomasz", "Good. I will tell the front desk.\n\nSolvei", "Blind is fixed now.",
		[]string{"room two", "the long gallery", "the paper room", "the stairwell"}, nil, true},
	{kestrel, "Proofs: %s", "Dear Solvei,\n\nthe proofs of %s are attached. Please mark changes in the file and send it back, we print ten days later.\n\nAnneke\nKestrel Print Works", "Dear Anneke,\n\ntwo corrections on page 3, otherwise free to print.\n\nSolvei", "Corrected and on the press.",
		[]string{"the season folder", "invitation cards", "the wall texts", "the family guide", "the poster"}, nil, true},
	{ilse, "Question about %s", "Dear colleague,\n\nbefore we can lend it I have to know how %s will be shown: open, or under glass? Our conservator asks for the second.\n\nIlse Marchetti", "Dear Dr. Marchetti,\n\nunder glass, at 50 lux, with a guard in the room.\n\nSolvei Arnkvist", "That is what we hoped to hear.",
		[]string{"the lagoon map", "the ivory scale", "the tide tables of 1811", "our small predictor"}, []person{jonas}, false},
	{oona, "Travel to %s", "Dear Solvei,\n\nI hold two seats to %s until Friday. Shall I book, and on whose card?\n\nOona", "Dear Oona,\n\nplease book, on the museum's account.\n\nSolvei", "Booked. Tickets follow by post.",
		[]string{"the lenders' meeting", "the fair in Lerhavn", "the couriers' course", "the opening in Morvik"}, nil, false},
	{harbour, "Quay permit %s", "To the museum,\n\nyour request for quay space (%s) has been received. Please name the vehicle and the weight.\n\nTown Harbour Office", "Dear harbour office,\n\none lorry of 7.5 tonnes, by Coastline Couriers.\n\nS. Arnkvist", "The permit is granted.",
		[]string{"12 March", "2 June", "31 August", "14 October"}, nil, false},
	{roofer, "Roof, %s", "Good day,\n\nwe looked at %s. The flashing has to be renewed before winter, two days of work. Offer attached.\n\nEskil Tann", "Thank you. The director has signed; please name two dates.\n\nS. Arnkvist", "We come on Monday and Tuesday, if it is dry.",
		[]string{"north side", "the skylight", "the tower"}, nil, false},
}

// old makes the correspondence of fourteen months up to the day end.
func (w *world) old(begin, end time.Time) {
	for day := begin; day.Before(end); day = day.AddDate(0, 0, 1) {
		weekday := day.Weekday()
		at := func(h, m int) time.Time {
			return time.Date(day.Year(), day.Month(), day.Day(), h, m, w.r.IntN(60), 0, w.loc)
		}
		if weekday == time.Monday {
			w.send(newsletter(press, at(6, 30), "Small Museums Weekly", "smallmuseums.example", w.pick("A lift for the attic store", "What visitors read first", "Five cheap light meters, tested", "Who pays for the crate?")))
		}
		if day.Day() == 3 {
			w.send(message{at: at(7, 0), from: payroll, to: []person{solvei}, subject: "Your pay slip for " + day.AddDate(0, -1, 0).Format("January 2006"), text: "Your pay slip is in the staff folder.\n", headers: machine})
		}
		if day.Day()%14 == 0 {
			w.send(newsletter(loans, at(9, 5), "The Loan Desk", "theloandesk.example", w.pick("Insurance in three sentences", "When a lender says no", "Couriers and trains")))
		}
		monthly := func(from person, name, domain, lead string) { // with nothing left to chance
			m := newsletter(from, time.Date(day.Year(), day.Month(), day.Day(), 6, 10, 0, 0, w.loc), name, domain, lead)
			m.id = day.Format("2006-01") + "@" + domain
			w.send(m)
		}
		switch day.Day() {
		case 14:
			if day.Month() == time.April {
				w.send(message{id: "invoice-2231." + day.Format("2006") + "@kestrelprint.example", at: time.Date(day.Year(), day.Month(), day.Day(), 9, 20, 11, 0, w.loc), from: kestrel, to: []person{solvei}, subject: "Invoice 2231", text: "Dear Solvei,\n\nthe invoice for the folder is attached. Thank you for the order.\n\nAnneke\nKestrel Print Works\n", files: []file{{"invoice-2231.pdf", "application/pdf", springBill}}})
			}
		case 5:
			monthly(paper, "Paper Room Letters", "paperroom.example", "What damp does in "+day.Format("January"))
		case 21:
			monthly(walks, "Lighthouse Walks", "lighthousewalks.example", "Where to go in "+day.Format("January"))
		}
		if weekday == time.Wednesday {
			w.send(w.choirMail(at(19, 20), w.pick("Thursday's rehearsal", "Alto parts", "Coffee rota", "New score"), "Dear all,\n\nwe begin at half past six on Thursday; please bring the red folder.\n\nRagna"))
		}
		if w.r.IntN(4) == 0 {
			w.send(message{at: at(5, 10), from: climate, to: []person{solvei}, subject: fmt.Sprintf("Vault 2: %d %% relative humidity", 47+w.r.IntN(9)), text: "Within the limits you set (45 to 58 %).\nThis message was sent by a machine.\n", headers: machine})
		}
		if weekday == time.Saturday || weekday == time.Sunday {
			continue
		}
		threads := 1 + w.r.IntN(5)/4
		if !day.Before(w.today.AddDate(0, 0, -livedDays)) {
			threads = 4 + w.r.IntN(3)
		}
		for range threads {
			w.thread(at(8+w.r.IntN(8), w.r.IntN(60)))
		}
	}
}

// yesterday makes the everyday mail of the day before the demo begins, by chances of its own, so that
// nothing else of the world comes otherwise for it.
func (w *world) yesterday() {
	r := w.r
	w.r = rand.New(rand.NewPCG(20, 27))
	day := w.today.AddDate(0, 0, -1)
	for range 7 {
		w.thread(time.Date(day.Year(), day.Month(), day.Day(), 8+w.r.IntN(7), w.r.IntN(60), w.r.IntN(60), 0, w.loc))
	}
	w.r = r
}

// thread is one matter of the old correspondence: asked, answered, closed.
func (w *world) thread(at time.Time) {
	t := topics[w.r.IntN(len(topics))]
	thing := t.things[w.r.IntN(len(t.things))]
	first := message{at: at, from: t.who, to: []person{solvei}, cc: t.withCopy, subject: fmt.Sprintf(t.subject, thing), text: fmt.Sprintf(t.opens, thing) + "\n"}
	if w.r.IntN(4) == 0 {
		first.files = []file{{strings.ReplaceAll(thing, " ", "-") + ".pdf", "application/pdf", pdf(thing, fmt.Sprintf("Sheet 2 of %s\nsee the file of the loan", thing))}}
	}
	id := w.send(first)
	if (w.r.IntN(12) == 0) != t.report {
		return
	}
	reply := message{at: at.Add(time.Duration(1+w.r.IntN(20)) * time.Hour), from: solvei, to: []person{t.who}, cc: t.withCopy, subject: "Re: " + first.subject,
		text: t.answers + "\n\nOn " + at.Format("2 January 2006") + ", " + t.who.name + " wrote:\n" + quote(first.text), refs: []string{id}}
	second := w.send(reply)
	if t.closes != "" && w.r.IntN(2) == 0 {
		w.send(message{at: reply.at.Add(time.Duration(1+w.r.IntN(30)) * time.Hour), from: t.who, to: []person{solvei}, subject: reply.subject, text: t.closes + "\n", refs: []string{id, second}})
	}
}

func quote(s string) string {
	return "> " + strings.ReplaceAll(strings.TrimSpace(s), "\n", "\n> ") + "\n"
}

func newsletter(from person, at time.Time, name, domain, lead string) message {
	return message{at: at, from: from, to: []person{solvei}, subject: name + ": " + lead,
		text:    lead + "\n\nAnd more on the web.\n",
		headers: listHeaders("letter."+domain, "https://"+domain+"/leave?x=81"),
		html: `<table width="100%" cellpadding="0" cellspacing="0" style="background-color:#f4f1ea"><tr><td align="center" style="padding:24px">
<table width="560" style="background-color:#ffffff"><tr><td style="padding:24px;font-family:Georgia,serif;color:#222222">
<img src="https://` + domain + `/masthead.png" width="512" height="80" alt="` + name + `">
<h2 style="color:#7a3b1d">` + lead + `</h2><p>Every week we look at one question that small museums have, and at how three of them answered it. This week the answer was cheaper than anybody thought.</p>
<p><a href="https://` + domain + `/read">Read on</a></p><hr><p style="font-size:12px;color:#666666">You get this because you asked for it. <a href="https://` + domain + `/leave?x=81">Leave the list</a></p>
</td></tr></table></td></tr></table><img src="https://` + domain + `/seen.gif?u=81" width="1" height="1" alt="">`}
}

func (w *world) choirMail(at time.Time, subject, text string) message {
	return message{at: at, from: ragna, to: []person{choir}, subject: "[choir] " + subject, text: text + "\n", headers: listHeaders("all.skagvikchoir.example", "mailto:leave@skagvikchoir.example")}
}

// recent are the last days, message by message: what lies in the inbox this
// morning, and what has been decided about the rest.
func (w *world) recent() []event {
	d := func(days, hour, minute int) time.Time {
		return time.Date(w.today.Year(), w.today.Month(), w.today.Day()+days, hour, minute, 0, 0, w.loc)
	}
	thursday := w.thursday()
	to := []person{solvei}
	crates := w.id()
	crates2, crates3 := w.id(), w.id()
	loan, loan2 := w.id(), w.id()
	ask := w.id()
	events := []event{
		{m: message{id: crates, at: d(-13, 10, 12), from: mirela, to: to, cc: []person{tomasz}, subject: "Crate sizes for the brass predictor", text: "Hello Solvei,\n\nfor the brass tide predictor I have two drawings with different sizes. Which one is right?\n\nMirela\n", files: []file{{"crates.csv", "text/csv", []byte(crateTable)}}}},
		{m: message{id: crates2, at: d(-12, 9, 40), from: solvei, to: []person{mirela}, cc: []person{tomasz}, subject: "Re: Crate sizes for the brass predictor", text: "Hello Mirela,\n\nI will ask Tomasz to measure it again.\n\nSolvei\n", refs: []string{crates}}},
		{m: message{id: crates3, at: d(-5, 16, 5), from: tomasz, to: []person{mirela}, cc: to, subject: "Re: Crate sizes for the brass predictor", text: "148 × 92 × 110 cm, with the base on.\n\nTomasz\n", files: []file{{"crate-drawing.pdf", "application/pdf", crateDrawing}}, refs: []string{crates, crates2}}, do: "archive"},
		{m: message{id: loan, at: d(-9, 11, 0), from: halvard, to: to, cc: []person{jonas}, subject: "Loan agreement: one clause still open", text: "Dear Solvei,\n\nclause 7 (return by sea) is not what we said. May I strike it?\n\nHalvard\n"}},
		{m: message{id: loan2, at: d(-8, 9, 30), from: solvei, to: []person{halvard}, cc: []person{jonas}, subject: "Re: Loan agreement: one clause still open", text: "Dear Halvard,\n\nJonas will look at it and write to you.\n\nSolvei\n", refs: []string{loan}}},
		{m: message{id: ask, at: d(-4, 14, 20), from: solvei, to: []person{ilse}, subject: "Who can open the case?", text: "Dear Dr. Marchetti,\n\nwhen the small predictor is here: who may open the case, and do we need your conservator for it?\n\nSolvei Arnkvist\n"}},

		{m: message{at: d(-6, 15, 40), from: solvei, to: []person{{"Sofie Aune", "sofie@lerhavn-museum.example"}}, subject: "Two plinths for the spring", text: "Dear Sofie,\n\nmay we borrow your two white plinths from March to May? Tomasz would fetch them.\n\nSolvei\n"}},

		// Snoozed in the last days, and back this morning or later.
		{m: message{at: d(-7, 8, 50), from: oona, to: to, subject: "Train times for the opening", text: "Dear Solvei,\n\nthe new timetable comes out this week. Shall I look again before I book the lenders?\n\nOona\n", files: []file{{"oona-varga.vcf", "text/vcard", []byte(guestContact)}}}, do: "snooze", until: d(0, 8, 0)},
		{m: message{at: d(-6, 13, 10), from: harbour, to: to, subject: "Quay permit for the lorry", text: "To the museum,\n\nthe permit for the lorry has to be signed and returned by 15:00 on the day named on it.\n\nTown Harbour Office\n", files: []file{{"permit.pdf", "application/pdf", permit}}}, do: "snooze", until: d(0, 8, 0), follow: "Sign the quay permit and send it back", due: d(0, 15, 0)},
		{m: message{at: d(-6, 9, 20), from: school, to: to, subject: "Class 5b on the tide", text: "Dear museum,\n\nclass 5b would like to come in the second week of December. Which day is quiet?\n\nThe office\n"}, do: "snooze", until: d(0, 8, 0)},
		{m: message{at: d(-5, 11, 45), from: brunner, to: to, subject: "Pegelkurven für den Katalog", cname: "iso-8859-1", charset: charmap.ISO8859_1, text: "Sehr geehrte Frau Arnkvist,\n\ndie Pegelkurven von 1872 können Sie für den Katalog gern verwenden. Über ein Belegexemplar würden wir uns freuen.\n\nMit freundlichen Grüßen\nGrete Brunner\n"}, do: "snooze", until: d(0, 14, 0)},
		{m: message{at: d(-5, 15, 0), from: roofer, to: to, subject: "Skylight: two dates", text: "Good day,\n\nwe could come on the 8th or the 15th of December, if it is dry. Which one?\n\nEskil Tann\n"}, do: "snooze", until: d(1, 8, 0)},
		{m: message{at: d(-4, 10, 30), from: nikos, to: to, subject: "Σχετικά με τον χάρτη", text: "Αγαπητή κυρία Arnkvist,\n\nο χάρτης της λιμνοθάλασσας είναι έτοιμος για δανεισμό. Θα χρειαστούμε έναν συνοδό.\n\nΝίκος Παύλου\n"}, do: "snooze", until: thursday.Add(8 * time.Hour)},
		{m: message{at: d(-4, 11, 0), from: yuki, to: to, subject: "潮汐計算機について", cname: "iso-2022-jp", charset: japanese.ISO2022JP, text: "アルンクヴィスト様\n\n潮汐計算機の写真をお送りします。カタログにお使いください。\n\n田辺ゆき\n", files: []file{{"photo-1.jpg", "image/jpeg", tinyJPEG}}}, do: "snooze", until: thursday.Add(8 * time.Hour)},
		{m: message{at: d(-3, 9, 0), from: priya, to: to, subject: "Audio guide: who speaks?", text: "Hi Solvei,\n\nwe have three voices on tape. Can you listen before next week?\n\nPriya\n"}, do: "snooze", until: thursday.Add(13*time.Hour + 30*time.Minute)},
		{m: message{at: d(-3, 16, 30), from: loans, to: to, subject: "The Loan Desk: Who pays when a train is late?", text: "A longer read.\n", headers: listHeaders("letter.theloandesk.example", "https://theloandesk.example/leave")}, do: "snooze", until: thursday.AddDate(0, 0, 2).Add(8 * time.Hour)},

		// Follow-ups from mail that has left the inbox.
		{m: message{at: d(-6, 10, 0), from: kestrel, to: to, subject: "Label for case 4", text: "Dear Solvei,\n\nthe text for case 4 is 40 words too long for the plate. Could you shorten it?\n\nAnneke\n"}, do: "follow-up", follow: "Rewrite the label for case 4", due: d(8, 0, 0), priority: 9},
		{m: message{at: d(-4, 9, 10), from: jonas, to: to, subject: "Insurance for leg two", text: "Solvei,\n\nthe insurer wants the value of each object on leg two, by the end of the month.\n\nJonas\n"}, do: "follow-up", follow: "Send the insurer the values for leg two", due: d(13, 0, 0)},
		{m: message{at: d(-4, 15, 30), from: harbour, to: to, subject: "Your question about the lorry", text: "To the museum,\n\nwe need the weight of the lorry in writing.\n\nTown Harbour Office\n"}, do: "follow-up", follow: "Answer the harbour office about the lorry", due: d(-1, 12, 0), priority: 1},
		{m: message{at: d(-3, 11, 20), from: oona, to: to, subject: "Rooms for the lenders", text: "Dear Solvei,\n\nthe inn by the harbour has two rooms left for the opening. Shall I take them?\n\nOona\n"}, do: "follow-up", follow: "Book two rooms for the lenders", due: thursday.AddDate(0, 0, 1)},
		{m: message{at: d(-2, 12, 0), from: kestrel, to: to, subject: "Panel proofs, round one", text: "Dear Solvei,\n\nround one is attached. Please mark it up by today, 17:00.\n\nAnneke\n", files: []file{{"panels-1.pdf", "application/pdf", panels}}}, do: "follow-up", follow: "Mark up the panel proofs", due: d(0, 17, 0), remind: d(0, 11, 30), priority: 3},
		{m: message{at: d(-2, 17, 0), from: tomasz, to: to, subject: "Plinth for the predictor", text: "Solvei,\n\noak or painted? I order the wood tomorrow.\n\nTomasz\n"}, do: "follow-up", follow: "Decide oak or paint for the plinth", due: d(1, 9, 0), remind: d(1, 8, 30), priority: 3},
		{m: message{at: d(-6, 8, 40), from: priya, to: to, subject: "Floor plan for the workshop", text: "Hi Solvei,\n\ncould you send me the floor plan? The one on the wall is from before the lift.\n\nPriya\n"}, do: "finished", follow: "Send the floor plan to Priya", due: d(-1, 0, 0)},

		// What machines tell of parcels, bills and journeys.
		{m: message{at: d(-2, 15, 10), from: frames, to: to, subject: "Your order 2205 has left the works", headers: machine, html: described(`{"@type": "ParcelDelivery", "trackingNumber": "BF 2205 118", "carrier": {"@type": "Organization", "name": "Bracken Frames"},
			"itemShipped": {"@type": "Product", "name": "Oak frame, 60 × 80"}, "expectedArrivalUntil": "`+thursday.Format(time.DateOnly)+`"}`, "Your order left the works this afternoon. It is a large parcel: please have two people at the door.")}, do: "archive"},
		{m: message{at: d(-8, 8, 0), from: power, to: to, subject: "Your bill for the quay store", headers: machine, text: "Bill number HP-2026-1177, the quay store.\n\nAmount due: € 120.00\nDue date: " + d(20, 0, 0).Format("2 January 2006") + "\n\nHarbour Power\n"}, do: "archive"},
		{m: message{at: d(-5, 12, 5), from: railway, to: to, subject: "Your journey to Utterhaven", headers: machine, html: described(`{"@type": "TrainReservation", "reservationNumber": "K7Q2M", "reservationFor": {"@type": "TrainTrip", "trainNumber": "214", "provider": {"name": "Coast Railway"},
			"departureStation": {"name": "Skagvik"}, "arrivalStation": {"name": "Utterhaven"}, "departurePlatform": "platform 2", "departureTime": "`+d(10, 10, 5).Format(time.RFC3339)+`", "arrivalTime": "`+d(10, 12, 40).Format(time.RFC3339)+`"}}`, "Have a good journey. Seat 41, coach B.")}, do: "archive"},

		// Left over from yesterday and before.
		{m: message{at: d(-3, 10, 15), from: ilse, to: to, subject: "Courier for the small predictor", text: "Dear colleague,\n\nour courier would arrive two days before the opening and leave the day after. Is there a room for her? And please send me the way to the loading bay.\n\nIlse Marchetti\n"}},
		{m: message{at: d(-1, 9, 30), from: priya, to: to, subject: "School group on the 3rd: which room?", text: "Hi Solvei,\n\nthe group on the 3rd is 34 children, not 20. The workshop holds 25. Long gallery?\n\nPriya\n"}},
		{m: message{at: d(-1, 16, 45), from: tomasz, to: to, cc: []person{jonas}, subject: "Case 7 hums", text: "Solvei,\n\nthe fan in case 7 hums. I can change it on Thursday before we open, somebody has to hold the key.\n\nTomasz\n"}},
		{m: message{at: d(-1, 18, 5), from: tickets, to: to, subject: "Receipt: 3 tickets for the ferry museum, order 40817", text: "Payment received. Thank you.\n\n3 tickets  27.00\n", headers: machine}},
		{m: w.choirMail(d(-1, 19, 20), "Christmas concert: who can drive?", "Dear all,\n\nwe need two more cars for the 12th. And please, somebody with a trailer for the risers.\n\nRagna")},

		// This morning.
		{m: message{at: d(0, 5, 10), from: climate, to: to, subject: "Vault 2: 59 % relative humidity", text: "Above the limit you set (58 %) since 04:40.\nThis message was sent by a machine.\n", headers: machine}},
		{m: newsletter(press, d(0, 6, 30), "Small Museums Weekly", "smallmuseums.example", "The crate that came back empty")},
		{m: message{at: d(0, 6, 58), from: parcels, to: to, subject: "Your parcel 7781 arrives today between 13:00 and 15:00", text: "The parcel from Shiomi Museum is on its way.\nPlease do not answer this message.\n", headers: machine}},
		{m: message{at: d(0, 7, 12), from: mailer, to: to, subject: "Undelivered: Invitation to the opening", headers: []string{"Auto-Submitted: auto-replied"}, text: "Your message to\n\n    curator@lighthouse-trust.example\n\ncould not be delivered: there is no mailbox of that name.\n"}},
		{m: message{at: d(0, 7, 31), from: kestrel, to: to, subject: "Panel proofs, round two", text: "Dear Solvei,\n\nround two of the wall panels is attached. Panel 6 is the one with the long names.\n\nWe print on Friday morning, so please send the marked file by Thursday evening.\n\nAnneke\nKestrel Print Works\n", files: []file{{"panels-2.pdf", "application/pdf", panelsTwo}}}},
		{m: message{at: d(0, 7, 40), from: jonas, to: to, subject: "Customs form for the lagoon map", html: `<p>Solvei,</p><p>the customs form needs <b>your</b> signature, not mine. It has to be with the broker <i>before the lorry leaves</i>.</p><ul><li>page 1: name and date</li><li>page 3: value in both currencies</li></ul><p>Jonas</p><blockquote><p>Dear Mr Reyland, please return the form signed by the responsible person.</p></blockquote>`, text: "Solvei,\n\nthe customs form needs your signature, not mine.\n\nJonas\n", files: []file{{"customs-form.pdf", "application/pdf", customsForm}}}},
		{m: message{at: d(0, 7, 55), from: halvard, to: to, cc: []person{jonas}, subject: "Re: Loan agreement: one clause still open", text: "Dear Solvei,\n\nJonas and I agree on everything but the last sentence of clause 7. I attach both versions. Could you choose one before the weekend?\n\nHalvard\n\nOn Monday, Solvei Arnkvist wrote:\n> Dear Halvard,\n>\n> Jonas will look at it and write to you.\n>\n> Solvei\n", files: []file{{"clause-7-a.odt", "application/vnd.oasis.opendocument.text", clauseA}, {"clause-7-b.odt", "application/vnd.oasis.opendocument.text", clauseB}}, refs: []string{loan, loan2}}},
		{m: message{at: d(0, 8, 2), from: priya, to: []person{solvei, jonas, tomasz}, subject: "Cake at eleven", text: "It is my last day before the holidays. Lemon, and the other one.\n\nPriya\n"}},
		{m: message{at: d(0, 8, 12), from: mirela, to: to, cc: []person{tomasz}, subject: "Re: Crate sizes for the brass predictor — can you confirm by Thursday?", text: "Good morning Solvei,\n\nThe workshop cuts timber on Friday, so I need the outer dimensions of the brass tide predictor (and whether the base comes off) by Thursday noon. Tomasz thought 148 × 92 × 110 cm, but the loan file says 151.\n\nMirela\n\nOn Thursday, Tomasz Ilk wrote:\n> 148 × 92 × 110 cm, with the base on.\n>\n> Tomasz\n", refs: []string{crates, crates2, crates3}}},
		{m: message{at: d(0, 8, 20), from: brunner, to: to, subject: "Einladung: Besprechung zum Katalog", text: "Grete Brunner lädt ein: Besprechung zum Katalog.\n", files: []file{{"invite.ics", "text/calendar", invited("REQUEST", 0, brunner, solvei, "Besprechung zum Katalog", thursday.Add(10*time.Hour))}}}},
		{m: message{at: d(0, 8, 31), from: roofer, to: to, subject: "Water under the skylight", text: "Good day,\n\nafter last night there is water under the skylight of the long gallery. I can put a sheet over it today, but somebody has to let me in.\n\nEskil Tann\n"}},
		{m: message{at: d(0, 8, 44), from: school, to: to, subject: "Numéro de la classe pour le 3", cname: "windows-1252", charset: charmap.Windows1252, text: "Bonjour,\n\nnous serons trente-quatre élèves et quatre adultes. Y a-t-il un vestiaire ?\n\nLe secrétariat\n"}},
		{m: message{at: d(0, 9, 4), from: ilse, to: to, subject: "Re: Who can open the case?", text: "Dear Solvei Arnkvist,\n\nonly our conservator may open it. She is free in the week of the opening, and would like to see your tools beforehand.\n\nIlse Marchetti\n", refs: []string{ask}}},
		{m: message{at: d(0, 7, 18), from: person{"Ayşe Öztürk-Lindenbaum, Internationale Gesellschaft für Gezeitenforschung", "a.oeztuerk-lindenbaum@gezeitenforschung.example"}, to: to, subject: "Vortrag über die Vorhersage der Gezeiten vor der Erfindung des Computers und was wir heute noch aus den alten Maschinen lernen können", text: "Sehr geehrte Frau Arnkvist,\n\nwir würden Sie gern zu einem Vortrag einladen. Passt Ihnen der Januar?\n\nAyşe Öztürk-Lindenbaum\n"}},
		{m: w.choirMail(d(0, 7, 46), "Alto part, bar 14", "Dear altos,\n\nbar 14 is an F, not an F sharp. Please mark it.\n\nRagna")},
		{m: message{at: d(0, 8, 47), from: jonas, to: to, subject: "Two numbers for the board", text: "Solvei,\n\nthe board meets at four. I need the number of loans signed and the number still open.\n\nJonas\n"}},
		{m: message{at: d(0, 8, 5), from: nikos, to: to, subject: "Συνοδός", text: "Αγαπητή κυρία Arnkvist,\n\nη συνοδός μας λέγεται Ελένη. Θα σας γράψει η ίδια.\n\nΝίκος Παύλου\n"}},
		{m: message{at: d(0, 8, 51), from: oona, to: to, subject: "The inn needs an answer today", text: "Dear Solvei,\n\nthe inn holds the two rooms until six o'clock this evening. After that they go to a wedding.\n\nOona\n"}},
		{m: message{at: d(0, 8, 33), from: person{"", "curator@lighthouse-trust-archive.example"}, to: to, subject: "", text: "Is the exhibition also coming to us? We have a room of 90 square metres and a very patient board.\n"}},
	}
	return events
}

// thursday is the next one after today.
func (w *world) thursday() time.Time {
	return w.today.AddDate(0, 0, (int(time.Thursday)-int(w.today.Weekday())+6)%7+1)
}

// coming is what the museum's correspondents write from nine o'clock on, after
// this morning's round.
func (w *world) coming() []message {
	d := func(days, hour, minute int) time.Time {
		return time.Date(w.today.Year(), w.today.Month(), w.today.Day()+days, hour, minute, 0, 0, w.loc)
	}
	to := []person{solvei}
	thursday := w.thursday()
	return []message{
		{at: d(0, 9, 25), from: kestrel, to: to, subject: "Paper for the catalogue: two samples", text: "Dear Solvei,\n\ntwo papers are in the post, one smooth, one with a tooth. Which do you like?\n\nAnneke\n"},
		{at: d(0, 9, 48), from: harbour, to: to, subject: "Crane times for the lorry", text: "To the museum,\n\nthe crane is free from 7 to 8 and from 15 to 16. Which hour may we note?\n\nTown Harbour Office\n"},
		newsletter(loans, d(0, 10, 12), "The Loan Desk", "letter.theloandesk.example", "What a courier carries"),
		{at: d(0, 10, 30), from: school, to: to, subject: "Packed lunches on the 3rd", text: "Hello,\n\nmay the children eat in the workshop, or is there another room?\n\nThe office\n"},
		{at: d(0, 12, 20), from: halvard, to: to, subject: "The signed page, at last", text: "Dear Solvei,\n\nthe page is signed. Shall I send it by post, or is the scan enough?\n\nHalvard\n", files: []file{{"signed-page.pdf", "application/pdf", signedPage}}},
		{at: d(0, 12, 45), from: person{"Lena Brask", "lena@northlight-photo.example"}, to: to, subject: "Photographs of the predictor", text: "Good day,\n\nI photograph instruments for a book. Might I come for two hours in December?\n\nLena Brask\n"},
		{at: d(0, 13, 5), from: person{"Lena Brask", "lena@northlight-photo.example"}, to: to, subject: "Photographs: one more thing", text: "I forgot to say: I bring my own lamps.\n\nLena Brask\n"},
		{at: d(0, 13, 30), from: climate, to: to, subject: "Vault 2: 57 % relative humidity", text: "Within the limit again since 13:20.\nThis message was sent by a machine.\n", headers: machine},
		{at: d(0, 13, 35), from: oona, to: to, subject: "Seats on the early ferry", text: "Dear Solvei,\n\nthere are four seats left on the early ferry of the opening day. Shall I hold them?\n\nOona\n"},
		{at: d(0, 13, 50), from: brunner, to: to, subject: "Geändert: Besprechung zum Katalog", text: "Grete Brunner hat die Zeit geändert.\n", files: []file{{"invite.ics", "text/calendar", invited("REQUEST", 1, brunner, solvei, "Besprechung zum Katalog", thursday.Add(11*time.Hour))}}},
		{at: d(0, 14, 50), from: tomasz, to: to, subject: "The lift is out", text: "Solvei,\n\nthe lift is out until five. The crates stay in the quay store.\n\nTomasz\n"},
		{at: d(0, 15, 20), from: priya, to: to, subject: "Thirty-four chairs", text: "Hi Solvei,\n\nI found 34 chairs. Long gallery, then?\n\nPriya\n"},
		{at: d(0, 16, 10), from: jonas, to: to, subject: "What the board said", text: "Solvei,\n\nthe board likes the numbers and asks for leg two in writing.\n\nJonas\n"},
		newsletter(press, d(1, 6, 30), "Small Museums Weekly", "smallmuseums.example", "Labels that people read"),
		{at: d(1, 7, 40), from: mirela, to: to, subject: "The timber is here", text: "Hello Solvei,\n\nthe timber is here. I only need the numbers now.\n\nMirela\n"},
		{at: d(1, 8, 35), from: ilse, to: to, subject: "Her train", text: "Dear Solvei Arnkvist,\n\nour courier takes the night train and is with you at nine.\n\nIlse Marchetti\n"},
	}
}

var tinyJPEG = []byte{0xFF, 0xD8, 0xFF, 0xE0, 0, 16, 'J', 'F', 'I', 'F', 0, 1, 1, 0, 0, 1, 0, 1, 0, 0, 0xFF, 0xD9}
