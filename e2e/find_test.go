package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"
)

// ask replaces what is looked for.
func (p *page) ask(words string) {
	p.t.Helper()
	p.see("#find")
	p.MustElement("#find").MustSelectAllText()
	p.write(words)
	p.until("document.querySelector('[data-asked]')?.dataset.asked === %q", words) // what is found for them is here
}

// Forty questions about the museum's mail, each answered by one search and at most three
// keys: one of the first three that are found says it.
func TestFortyQuestions(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.visit("/find")
	p.ask("crate")
	p.until("document.querySelector('[data-testid=covers]') && !document.querySelector('[data-testid=covers]').textContent.includes('not been read')")
	// What is found in another message of the conversation that is shown is opened, too.
	for _, q := range [][2]string{{"height lid feet from tomasz", "crate-drawing.pdf"}, {"csv from mirela", "crates.csv"}} {
		p.ask(q[0])
		p.see("[aria-label='Save " + q[1] + "']")
	}
	for question, q := range map[string]struct{ asked, subject, says string }{
		"who has the crate's height?":                {"crate height lid feet", "Crate sizes for the brass predictor", "118"},
		"how high was the lid?":                      {"height lid in files", "Crate sizes for the brass predictor", "lid 6 cm"},
		"how heavy is the second crate?":             {"weight kg", "Crate sizes for the brass predictor", "212"},
		"what did Mirela send as a table?":           {"csv from mirela", "Crate sizes for the brass predictor", "crates.csv"},
		"what did the printer's bill in spring cost": {"invoice total from kestrel", "Invoice 2231", "1,248.00"},
		"when is that bill due?":                     {"kestrel invoice due in april", "Invoice 2231", "due in 30 days"},
		"where may the lorry stand?":                 {"lorry berth", "Quay permit for the lorry", "Berth 9"},
		"until when does the permit go back?":        {"permit signed returned from harbour", "Quay permit for the lorry", "15:00"},
		"who is the broker?":                         {"customs broker", "Customs form for the lagoon map", "Hallgren Shipping"},
		"with whom is the map insured?":              {"lagoon map insured", "Customs form for the lagoon map", "Nordkai Mutual"},
		"when can one ring Oona?":                    {"oona only by phone", "Train times for the opening", "after six"},
		"which version goes by road?":                {"clause return road", "Loan agreement: one clause still open", "shared in equal parts"},
		"and which by sea?":                          {"clause 30 days", "Loan agreement: one clause still open", "within 30 days"},
		"who is named on panel 6?":                   {"panel names ferran", "Panel proofs", "Panel 6"},
		"which order were the ferry tickets?":        {"tickets ferry museum", "Receipt: 3 tickets", "40817"},
		"when does the parcel come?":                 {"parcel 7781", "Your parcel 7781", "13:00"},
		"from which year are the curves?":            {"pegelkurven belegexemplar", "Pegelkurven für den Katalog", "1872"},
		"what did Yuki write about the machine?":     {"潮汐計算機", "潮汐計算機について", "アルンクヴィスト"},
		"who answers about the map in Greek?":        {"χαρτης λιμνοθαλασσας", "Σχετικά με τον χάρτη", "συνοδό"},
		"when can the roofer come?":                  {"skylight december", "Skylight: two dates", "15th of December"},
		"which class asked for December?":            {"class second week december", "Class 5b on the tide", "class 5b"},
		"how many voices are there?":                 {"audio guide tape", "Audio guide: who speaks?", "three voices"},
		"what did I ask Sofie for?":                  {"from me white plinths", "Two plinths for the spring", "from March to May"},
		"who may open the case?":                     {"open case conservator from ilse", "Who can open the case?", "only our conservator"},
		"what does the Loan Desk say of trains?":     {"“who pays when a train is late”", "Who pays when a train is late?", "longer read"},
		"what does Jonas need for the board?":        {"board numbers from jonas", "Two numbers for the board", "number of lo"},
		"when is there cake?":                        {"cake", "Cake at eleven", "Priya"},
		"which case hums?":                           {"hums from tomasz", "Case 7 hums", "Case 7"},
		"how damp was vault 2?":                      {"vault 59", "Vault 2: 59 %", "59"},
		"how many pupils come in French?":            {"numero classe eleves", "Numéro de la classe", "trente-quatre"},
		"what did Halvard measure in May?":           {"brass feet in notes", "Crate sizes for the brass predictor", "151"},
		"what did Tomasz write about the plinth?":    {"plinth predictor from tomasz", "Plinth for the predictor", "plinth"},
		"where is water?":                            {"water skylight", "Water under the skylight", "skylight"},
		"who speaks about the tides in German?":      {"vortrag gezeiten", "Internationale Gesellschaft", "Vortrag"},
		"whose signature does the form need?":        {"customs form signature", "Customs form for the lagoon map", "signature"},
		"which invitation did not arrive?":           {"undelivered invitation opening", "Undelivered: Invitation to the opening", "Undelivered"},
		"who asks about a courier?":                  {"courier predictor from ilse", "Courier for the small predictor", "predictor"},
		"which room does the school group get?":      {"school group room", "School group on the 3rd: which room?", "room"},
		"when do we meet about the catalogue?":       {"besprechung katalog with files", "Einladung: Besprechung zum Katalog", "Besprechung"},
		"what is to bring to the choir?":             {"choir red folder since last month", "[choir]", "red folder"},
	} {
		p.ask(q.asked)
		const at = "[...document.querySelectorAll('[data-slip]')].slice(0, 3).findIndex((s) => s.textContent.includes(%q))"
		p.until(at+" >= 0", q.subject)
		n := p.MustEval("(what) => [...document.querySelectorAll('[data-slip]')].slice(0, 3).findIndex((s) => s.textContent.includes(what))", q.subject).Int()
		p.press(input.Enter)
		for range n {
			p.press(input.ArrowDown)
		}
		p.until("(document.querySelector('[role=option][aria-current=true]')?.textContent + [...document.querySelectorAll('article')].map((a) => a.innerText + [...a.querySelectorAll('iframe')].map((f) => f.contentDocument?.body?.innerText).join()).join()).toLowerCase().includes(%q.toLowerCase())", q.says)
		require.NotEmpty(t, question)
	}
}

// What was understood stands as marks; each is taken off, and what is counted filters.
func TestSearchesAreUnderstood(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.press(input.Digit0)
	p.ask("crate from mirela or tomasz since spring")
	p.until("[...document.querySelectorAll('[data-testid=understood] li')].map((m) => m.dataset.kind).join() === 'word,person,time'")
	p.reads("[data-testid=understood]", "from Mirela Dossett or Tomasz Ilk")
	all := p.MustEval("() => parseInt(document.querySelector('[data-testid=sum]').textContent)").Int()
	p.click(`[data-kind=time] button`)
	p.until("document.getElementById('find').value === 'crate from mirela or tomasz'")
	p.until("parseInt(document.querySelector('[data-testid=sum]')?.textContent) > %d", all)
	p.click("[aria-label^='2025, ']")
	p.until("document.getElementById('find').value.endsWith(' in 2025')")
	p.until("document.querySelectorAll('[data-testid=understood] li').length === 3")

	// Words that are nowhere, and what may have been meant; a search that is too long.
	p.ask("tidel wheel")
	p.reads("[data-testid=nothing]", "Nothing was found.")
	p.click("[data-testid=instead] button")
	p.until("document.getElementById('find').value !== 'tidel wheel' && document.querySelector('[data-slip]')")
	p.MustElement("#find").MustSelectAllText()
	p.write("crate " + strings.Repeat("long ", 2000))
	p.reads("[data-testid=doubt]", "too much to look for")

	// Without words, a slip says how its conversation begins.
	p.ask("from priya")
	p.until("document.querySelector('[data-slip]')?.textContent.includes('Priya') && !document.querySelector('[data-excerpt]') && document.querySelector('[data-slip]').innerText.split('\\n').length > 2")

	// What is found begins at its first, wherever one was in what was found before.
	p.ask("crate")
	p.press(input.Enter, input.ArrowDown, input.ArrowDown)
	p.until("document.querySelectorAll('[role=option]')[2].getAttribute('aria-current') === 'true'")
	p.ask("permit")
	p.until("document.querySelectorAll('[role=option]')[0].getAttribute('aria-current') === 'true'")

	// Newest first, the marks in the message, and the next of them by a key.
	p.ask("predictor")
	p.does("newest first")
	p.reads("[data-testid=sum]", "the newest first")
	p.MustElement("#find").MustFocus()
	p.press(input.Enter)
	p.until("Number(document.querySelector('[data-testid=marked]')?.dataset.count) > 0 && CSS.highlights.has('found')")
	p.with(input.KeyN, input.ShiftLeft)
	p.until("CSS.highlights.has('found-now')")

	// A search that was used is offered again, and one that is kept stands beside the inbox.
	p.does("keep this search")
	p.reads("[data-testid=notice]", "beside the inbox")
	p.visit("/")
	p.until("document.querySelector('[data-list=predictor]')")
	p.visit("/find")
	p.until("document.querySelector('[data-testid=recent]')?.textContent.includes('predictor')")
	p.does("predictor")
	p.until("document.getElementById('find').value === 'predictor'")

	// All of these are chosen and decided at once, and it is taken back in one step.
	p.ask("light levels from tomasz in archive")
	p.until("document.querySelector('[data-slip]')")
	n := p.MustEval("() => parseInt(document.querySelector('[data-testid=sum]').textContent)").Int()
	p.press(input.Enter)
	p.with(input.KeyA, input.ControlLeft)
	p.reads("[data-testid=chosen]", fmt.Sprint(n, " chosen"))
	t.Log(n, p.text("[data-testid=chosen]"), p.MustEval("() => [...document.querySelectorAll('[data-slip]')].slice(0,3).map((s) => s.innerText.replaceAll('\\n', ' ')).join(' || ') + document.querySelector('[data-asked]').dataset.asked + document.querySelector('[data-testid=sum]').innerText").Str())
	p.press(input.Digit1)
	p.reads("[data-testid=notice]", "Binned")
	for range 6 {
		t.Log(p.MustEval("async () => { await new Promise((r) => setTimeout(r, 500)); const j = await (await fetch('/api/v1/found?asked=light+levels+from+tomasz+in+archive')).json(); const h = await (await fetch('/api/v1/history?before=0&actor=&until=&conversation=')).json(); return document.querySelector('[data-testid=notice]')?.textContent + ' ' + j.count + ' ' + JSON.stringify(h).slice(0, 400) }").Str())
	}
	p.until("!document.querySelector('[data-testid=sum]')")
	p.with(input.KeyZ, input.ControlLeft)
	p.until("parseInt(document.querySelector('[data-testid=sum]')?.textContent) === %d", n)
}

// A few letters go to people, conversations, follow-ups and labels from anywhere.
func TestAFewLettersGoThere(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	jump := func(letters, offer string) {
		p.t.Helper()
		p.with(input.KeyK, input.ControlLeft).see("#palette")
		p.write(letters)
		p.until("[...document.querySelectorAll('[role=option]')].some((o) => o.textContent.includes(%q))", offer)
		p.presses("[role=option]", offer)
	}
	jump("plinths sofie", "Two plinths for the spring")
	p.until("location.pathname.startsWith('/c/')")
	p.shows("Two plinths for the spring")
	jump("number crates", "Number the crates for leg two")
	p.until("location.pathname.startsWith('/follow-ups/')")
	jump("dos mir", "Mirela Dossett")
	p.until("location.pathname.startsWith('/person/')")
	p.presses("a", "Find in all mail with them")
	p.reads("[data-testid=understood]", "with Mirela Dossett")
	jump("leg", "loans / leg two")
	p.reads("[data-testid=understood]", "label loans / leg two")
}

// A search that is saved stands on the rail with how much is on it, and leads back to what
// was asked; a rule tells of what is new on it, and keeps it from being deleted.
func TestASavedSearch(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.url, 1280, 800).enter()
	p.visit("/find")
	p.ask("crate from mirela")
	p.until("document.querySelector('[data-slip]')")
	p.presses("button", "keep this search")
	p.reads("[data-testid=notice]", "It stands beside the inbox")
	p.visit("/")
	p.see("[data-list='crate from mirela'] h2 button").MustFocus()
	p.click("button[aria-label='Count crate from mirela on the rail']")
	p.see("[data-testid=counted-list]")
	count := p.text("[data-testid=counted-list] > span")
	require.Equal(t, count, p.MustEval(`() => document.querySelector('[data-list="crate from mirela"] h2').lastChild.textContent`).Str(), "it counts what is on the list")
	p.click("[data-testid=counted-list]")
	p.until("location.pathname === '/find' && document.querySelector('#find').value === 'crate from mirela' && document.querySelector('[data-slip]')")

	p.MustSetViewport(390, 800, 1, true) // there it stands with the other places that have no room
	p.MustElementR("nav button", "More").MustClick()
	require.Equal(t, count, p.text("[data-testid=folded-list] > span:last-child"))
	p.click("[data-testid=folded-list]")
	p.until("!document.querySelector('[data-testid=folded-list]')")
	p.MustSetViewport(1280, 800, 1, false)

	p.visit("/")
	p.see("[data-list='crate from mirela'] h2 button").MustFocus()
	p.click("button[aria-label='Hear of what is new on crate from mirela']")
	p.until("document.querySelector('#rule-words')?.value === 'saved “crate from mirela”: notify'")
	p.reads("main", "is on the saved list “crate from mirela”")
	p.presses("button", "Save")
	p.reads("[data-testid=notice]", "aved")
	p.visit("/")
	p.see("[data-list='crate from mirela'] h2 button").MustFocus()
	p.click("button[aria-label='Delete the list crate from mirela']")
	p.reads("[data-testid=notice]", "Change or delete the rule first")
	p.see("[data-list='crate from mirela']")
}

// What is held is looked through from where one searched, for what one looked for.
func TestLookingInWhatIsHeld(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.url, 1280, 800).enter()
	p.visit("/find")
	p.ask("museums")
	p.presses("[data-testid=covers] button", "Look there, too")
	p.until("document.querySelector('#look-words').value === 'museums'")
	p.press(input.Enter)
	p.until("document.querySelector('[data-testid=looked]').textContent.trim() !== ''")
}
