package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"
)

// answer writes an answer to the conversation shown, up to before it is sent.
func (p *page) answer(words, unless, means string) {
	p.t.Helper()
	p.press(input.Digit3)
	p.until("document.activeElement.id === 'reply'")
	p.write(words)
	p.reads("[data-testid=kept]", "Saved today")
	if unless != "" {
		p.MustElement("#write-return").MustFocus()
		p.write(unless)
		p.reads("#write-return-means", means)
	}
}

// send sends what is being written.
func (p *page) send(says string) {
	p.t.Helper()
	p.with(input.Enter, input.ControlLeft)
	p.reads("[data-testid=notice]", says)
	p.until("!document.querySelector('#reply')")
}

// addressTo names somebody by the beginning of their name.
func (p *page) addressTo(begins, name string) {
	p.t.Helper()
	p.until("document.activeElement.id === 'write-to'")
	p.write(begins)
	p.until("document.querySelector('ul[role=listbox][aria-label=To] [aria-selected=true]')?.textContent.includes(%q)", name)
	p.press(input.Enter)
	p.until("!document.querySelector('ul[role=listbox][aria-label=To]')")
}

// message sends a new message to an address and lets an hour pass.
func (p *page) message(to, subject, text string) {
	p.t.Helper()
	p.press(input.KeyN)
	p.until("document.activeElement.id === 'write-to'")
	p.write(to + ",")
	p.press(input.Enter)
	p.MustElement("#write-subject").MustFocus()
	p.write(subject)
	p.MustElement("#reply").MustFocus()
	p.write(text)
	p.send("Goes out in 15 seconds.")
	p.clock("+ 1 hour")
}

// A whole morning: a round has come in; a question is sent off and comes back
// if nobody answers, a matter is handed over, a message waits until tomorrow;
// the clock moves: one answer ends its waiting, and what nobody answered asks
// again.
func TestAMorningWithThePost(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()

	crates := "Crate sizes for the brass predictor — can you confirm by Thursday?"
	p.chooseSubject(crates)
	p.answer("Hello Mirela,\n\n148 it is. Is Thursday noon enough for you?", "fri", "Fri 27 Nov, 8:00")
	p.send("Goes out in 15 seconds. Back Fri 27 Nov, 8:00 if nobody answers.")
	p.leftIs(n - 1)

	p.chooseSubject("Water under the skylight")
	p.answer("Good day,\n\ncan you come before noon?", "tomorrow 9:30", "Wed 25 Nov, 9:30")
	p.send("Back Wed 25 Nov, 9:30 if nobody answers.")
	p.leftIs(n - 2)

	p.chooseSubject("Customs form for the lagoon map")
	p.press(input.Digit4)
	p.addressTo("tom", "Tomasz Ilk")
	p.reads("[aria-label='Files that go with it']", "customs-form.pdf")
	p.MustElement("#reply").MustFocus()
	p.write("Can you take it to the broker?")
	p.MustElement("#write-expect").MustFocus()
	p.write("The form is with the broker")
	p.MustElement("#write-return").MustFocus()
	p.write("thu noon")
	p.reads("#write-return-means", "Thu 26 Nov, 12:00")
	p.send("Goes out in 15 seconds.")
	p.leftIs(n - 3)

	p.press(input.KeyN)
	p.addressTo("oona", "Oona Varga")
	p.MustElement("#write-subject").MustFocus()
	p.write("Two more seats")
	p.MustElement("#reply").MustFocus()
	p.write("Dear Oona,\n\nare there two more seats?")
	p.does("Later…")
	p.see("#write-at")
	p.until("document.activeElement.id === 'write-at'")
	p.write("tomorrow 8:30")
	p.reads("#write-at-means", "Wed 25 Nov, 8:30")
	p.send("Goes out Wed 25 Nov, 8:30.")
	p.reads("[data-testid=going]", "It goes")
	p.press(input.KeyA)
	p.has("main", "The form is with the broker")

	// Within the hour Mirela answers, and Tomasz: what waited for them ends.
	p.clock("+ 1 hour")
	p.nowIs("11:42")
	p.until("![...document.querySelectorAll('main [data-followup]')].some(e => e.dataset.followup === 'The form is with the broker')")
	p.press(input.KeyI).see("[role=option]")
	p.press(input.Home)
	p.reads("[data-group=answers]", "Answers to you")
	p.until("document.querySelector('[data-testid=queue]').textContent.includes('Crate sizes for the brass predictor')")
	p.choose("Mirela Dossett")
	p.reads("[role=option][aria-current=true]", "answers you")

	// The roofer never answers: tomorrow morning the question is back. The
	// message that waited has gone, and its answer has come.
	p.clock("To tomorrow 8:00")
	p.nowIs("8:00")
	p.clock("+ 1 hour")
	p.nowIs("9:00")
	p.clock("+ 1 hour")
	p.nowIs("10:00")
	p.press(input.Home)
	p.reads("[data-group=unanswered]", "Nobody answered")
	p.chooseSubject("Water under the skylight")
	p.until("document.querySelector('main').innerText.includes('can you come before noon?')")
	p.press(input.KeyO)
	p.reads("[aria-label=Drafts]", "Nothing. Messages wait here until")
}

// A message is written with a file, shown as it leaves, asked about, sent,
// taken back while it can be, and sent again; one that reaches nobody says so
// in plain words.
func TestWritingAMessage(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.press(input.KeyN)
	p.addressTo("hal", "Halvard Lindqvist")
	p.with(input.Enter, input.ControlLeft)
	p.reads("[data-testid=asks]", "It has no subject.")
	p.does("Not yet")
	p.until("document.activeElement.id === 'write-subject'")
	p.write("Værdien")
	p.MustElement("#reply").MustFocus()
	p.write("Dear Halvard,\n\nthe **list** is attached.\n")
	p.with(input.Enter, input.ControlLeft)
	p.reads("[data-testid=asks]", "You write “attached”, but no file goes with it.")
	p.press(input.Escape)
	p.until("!document.querySelector('[data-testid=asks]')")
	file := filepath.Join(t.TempDir(), "list of values.txt")
	require.NoError(t, os.WriteFile(file, []byte("the gear train, 1200\n"), 0o600))
	p.MustElement("[data-testid=files]").MustSetFiles(file)
	p.reads("[aria-label='Files that go with it']", "list of values.txt")
	p.click("[data-testid=rich]")
	p.does("Preview")
	p.until("document.querySelector('[data-testid=preview]').contentDocument.querySelector('strong')?.textContent === 'list'")
	p.until("document.querySelector('[data-testid=preview]').contentDocument.body.innerText.includes('Skagvik Tide Museum')")
	p.does("Back to writing")
	p.see("#reply")
	p.send("Goes out in 15 seconds.")
	p.reads("[data-testid=going]", "Halvard Lindqvist")
	p.with(input.KeyZ, input.ControlLeft)
	p.until("!document.querySelector('[data-testid=going]')")
	p.until("[...document.querySelectorAll('[aria-label=Drafts] li button')].some(b => b.textContent.includes('Værdien'))")
	p.click("[aria-label=Drafts] li button")
	p.until("document.querySelector('#reply')?.value.includes('the **list** is attached')")
	p.reads("[aria-label='Files that go with it']", "list of values.txt")
	p.send("Goes out in 15 seconds.")
	p.clock("+ 1 hour")
	p.until("!document.querySelector('[data-testid=going]')")

	// Nobody lives there: the server says so at once, and it can be sent again or left.
	p.message("nobody@tannroofing.example", "To nobody", "Hello?")
	p.reads("[data-testid=going]", "There is nobody of that name here")
	p.until("document.querySelector('nav a[href=\"/writing\"]').textContent.includes('1')")
	p.does("Do not send it")
	p.until("!document.querySelector('[data-testid=going]')")

	// Another server takes it, and reports later that it could not be delivered.
	p.message("curator@lighthouse-trust.example", "The touring exhibition", "Dear curator,\n\nit comes in spring.")
	p.press(input.KeyI).see("[role=option]")
	p.press(input.Home)
	p.reads("[data-group=bounced]", "Not delivered")
	p.chooseSubject("The touring exhibition")
	p.reads("[data-testid=reports]", "curator@lighthouse-trust.example")
}

// An account is connected: its servers are found, a try says which step failed,
// and what is there already is not connected twice; one is changed and paused.
func TestConnectingAnAccount(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.press(input.KeyM)
	p.until("document.querySelectorAll('[data-testid=account]').length === 2")
	p.does("Connect another")
	p.until("document.activeElement.id === 'address'")
	p.write("solvei@skagvikchoir.example")
	p.press(input.Enter)
	p.reads("[data-testid=found]", "Its domain names these servers.")
	require.Equal(t, "imap.skagvikchoir.example", p.MustElement("#mailbox-host").MustProperty("value").Str())
	p.MustElement("#secret").MustInput("wrong")
	p.does("Try it")
	p.reads("[data-testid=test]", "did not accept")
	p.MustElement("#secret").MustSelectAllText().MustInput("alto-two")
	p.does("Try it")
	p.reads("[data-testid=test]", "imap.skagvikchoir.example lets you in and has 6 folders.")
	p.does("Connect")
	p.reads("[data-testid=account-form]", "there is an account of that address already.")
	p.does("Cancel")
	p.until("document.querySelectorAll('[data-testid=account]').length === 2")

	// Folders of Ebbe's own are kept on the server, and are there with the next look.
	p.MustElements("[data-testid=account]")[0].MustElementR("button", "Change").MustClick()
	p.click("#keeps-folders")
	p.reads("[data-testid=kept-folders]", "from any mail program, is done within a minute")
	p.does("Save")
	p.reads("[data-testid=account]", "folders of Ebbe there: Ebbe/Tomorrow")
	p.MustReload()
	p.reads("[data-testid=account]", "folders of Ebbe there: Ebbe/Tomorrow")

	p.MustElements("[data-testid=account]")[1].MustElementR("button", "Change").MustClick()
	p.click("#paused")
	p.does("Save")
	p.until("document.querySelectorAll('[data-testid=account]')[1]?.textContent.includes('paused')")
}

// A list is left after it was said what that will do; a short answer is put
// into the draft and not sent; whoever wrote is told of a snooze; a question
// nobody answered is asked again with what was written quoted.
func TestSmallThingsOfThePost(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.chooseSubject("Small Museums Weekly: The crate that came back empty")
	p.with(input.F3, input.ShiftLeft)
	p.reads("[data-testid=leave-tray]", "One request goes to smallmuseums.example.")
	p.until("document.activeElement.textContent === 'Leave the list'")
	p.press(input.Enter)
	p.reads("[data-testid=notice]", "You have left “Small Museums Weekly”: its server has taken the request.")

	p.chooseSubject("Class 5b on the tide")
	p.press(input.Digit3).click("[data-testid=offers] button")
	p.until("document.querySelector('#reply').value === 'Tue 8 Dec, 10:00 would suit me.\\n'") // of the week that is asked about
	p.with(input.F2, input.ShiftLeft)
	p.until("document.querySelector('#reply').value === 'Wed 9 Dec, 14:00 would suit me.\\n'") // the next of them by its key
	p.with(input.F2, input.ShiftLeft)
	p.until("document.querySelector('#reply').value.startsWith('I could offer Tue 8 Dec, 10:00 or Wed 9 Dec, 14:00.')")
	p.click("[data-testid=offers] button")
	p.until("document.querySelector('#reply').value === 'Tue 8 Dec, 10:00 would suit me.\\n'")
	p.until("!document.querySelector('[data-testid=going]')")
	p.does("Template…")
	p.until("document.activeElement.id === 'template'")
	p.write("Free times")
	p.press(input.Enter)
	p.reads("#template-list", "Tue 8 Dec, 10:00 would suit me.")
	p.press(input.Enter)
	p.until("document.querySelector('#reply').value.split('would suit me').length === 3")
	p.press(input.Escape)
	p.leftIs(n)

	p.chooseSubject("Water under the skylight")
	p.press(input.Digit5).click("#snooze-tell")
	p.see("[aria-label^='What they are told']")
	p.MustElement("#snooze-phrase").MustFocus()
	p.write("fri")
	p.reads("#snooze-phrase-means", "Fri 27 Nov, 8:00")
	p.press(input.Enter).leftIs(n - 1)
	p.reads("[data-testid=notice]", "Back Fri 27 Nov, 8:00. Eskil Tann is told.")

	p.press(input.KeyA)
	p.reads("[data-testid=asked]", "may we borrow your two white plinths from March to May?")
	p.does("Remind them")
	p.until("document.querySelector('#reply')?.value.includes('I wrote to you about “Two plinths for the spring”')")
	p.send("Goes out in 15 seconds.")
	p.press(input.KeyA)
	p.until("!document.querySelector('[data-testid=asked]')")

	// A message that goes every Monday from tomorrow on.
	p.press(input.KeyN)
	p.addressTo("oona", "Oona Varga")
	p.MustElement("#write-subject").MustFocus()
	p.write("Seats of the week")
	p.MustElement("#reply").MustFocus()
	p.write("Dear Oona,\n\nfour, as always.")
	p.does("Later…")
	p.see("#write-at")
	p.until("document.activeElement.id === 'write-at'")
	p.write("tomorrow 8")
	p.reads("#write-at-means", "Wed 25 Nov, 8:00")
	p.MustElement("#write-repeat").MustFocus()
	p.write("every now and then")
	p.with(input.Enter, input.ControlLeft)
	p.reads("#write-repeat-wrong", "Ebbe does not know")
	p.MustElement("#write-repeat").MustSelectAllText().MustInput("every monday")
	p.send("Goes out Wed 25 Nov, 8:00, and again every monday.")
	p.clock("To tomorrow 8:00")
	p.nowIs("8:00")
	p.reads("[data-testid=going]", "It goes Mon 30 Nov, 8:00, and again every monday.")
	p.does("Stop sending")
	p.until("!document.querySelector('[data-testid=going]')")

	// All of it stands in the history.
	p.press(input.KeyH)
	p.reads("main", "went to leave a list. You have left “Small Museums Weekly”")
	p.reads("main", "sent “Re: Two plinths for the spring”")
}

// Mail to the addresses into Ebbe becomes a follow-up; what cannot be taken
// comes back with the reason.
func TestMailToTheAddressesIntoEbbe(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.setup("inward")
	p.does("Make addresses")
	todo := p.see("[data-testid=inward] code").MustText()
	require.Regexp(t, `^todo-[a-z2-7]{16}@in\.ebbe\.example$`, todo)
	p.message(todo, "Ring the florist", "White, not yellow.")
	p.press(input.KeyF)
	p.has("main", "Ring the florist")
	p.message(strings.Replace(todo, "todo-", "note-", 1)[:21]+"+fry-nine@in.ebbe.example", "A note", "Look at the tide table.")
	p.press(input.KeyI).see("[role=option]")
	p.press(input.Home)
	p.reads("[data-group=bounced]", "Not delivered")
	p.chooseSubject("A note")
	p.reads("[data-testid=reports]", "the address is not right")
	p.reads("[aria-label=Conversation] article", "Ebbe does not understand “fry nine” as a time to come")
}
