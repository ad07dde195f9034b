package e2e

import (
	"testing"

	"github.com/go-rod/rod/lib/input"
)

// Words that people understand in two ways are shown in both, and one of them is
// taken by a key; a span is read where mail is held; weeks begin when one says.
func TestTimesInWordsAreShownBothWays(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.press(input.Digit5).see("#snooze-phrase")
	p.write("next fri")
	p.reads("#snooze-phrase-means", "Fri 4 Dec, 8:00")
	p.reads("[data-testid=snooze-tray]", "or Fri 27 Nov, 8:00")
	p.press(input.ArrowDown)
	p.reads("#snooze-phrase-means", "Fri 27 Nov, 8:00")
	p.reads("[data-testid=snooze-tray]", "or Fri 4 Dec, 8:00")
	p.press(input.Enter).leftIs(n - 1)
	p.reads("[data-testid=notice]", "Back Fri 27 Nov, 8:00.")

	p.press(input.Digit5).see("#snooze-phrase")
	p.write("tomorow")
	p.reads("#snooze-phrase-means", "Do you mean “tomorrow”?")
	p.press(input.Escape)

	p.with(input.F7, input.ShiftLeft).see("[data-testid=hold-tray]")
	p.until("document.activeElement.id === 'hold-until'")
	p.write("for 2 h")
	p.reads("[data-testid=hold-until-means]", "Tue 24 Nov, 12:4")
	p.press(input.Escape)

	p.setup("week")
	p.presses("[role=radio]", "Sun")
	p.reads("[data-testid=notice]", "Weeks begin on Sunday.")
	p.visit("/calendar")
	p.until("document.querySelector('main').textContent.indexOf('Sun') < document.querySelector('main').textContent.indexOf('Mon')")
}

// Times are read in the languages one chooses, rounds and someday by their names; a
// field that asks since when looks back; waiting is for several people.
func TestTimesInOtherLanguagesAndDirections(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.press(input.Digit5).see("#snooze-phrase")
	p.write("Freitag halb drei")
	p.reads("#snooze-phrase-means", "Ebbe does not know “freitag halb drei”")
	p.press(input.Escape)
	p.setup("week")
	p.presses("button", "German")
	p.reads("[data-testid=notice]", "Times are read in English and German.")
	p.visit("/")
	p.press(input.Digit5).see("#snooze-phrase")
	p.write("Freitag halb drei")
	p.reads("#snooze-phrase-means", "Fri 27 Nov, 14:30")
	p.see("#snooze-phrase").MustSelectAllText().MustInput("next round")
	p.reads("#snooze-phrase-means", "the next round")
	p.see("#snooze-phrase").MustSelectAllText().MustInput("someday")
	p.reads("#snooze-phrase-means", "Someday, looked through on Tue 1 Dec")
	p.press(input.Enter).leftIs(n - 1)
	p.reads("[data-testid=notice]", "Someday. Looked through Tue 1 Dec")

	p.with(input.KeyA, input.ShiftLeft).see("[data-testid=wait-tray]")
	p.does("several people…")
	p.see("#wait-also").MustInput("mirela@dossett.example")
	p.press(input.Enter)
	p.presses("[role=radio]", "all")
	p.MustReload()
	p.with(input.KeyA, input.ShiftLeft).see("[data-testid=wait-tray]")
	p.reads("[data-testid=wait-tray]", "mirela@dossett.example") // who else is waited for is kept, too
	p.reads("[data-testid=wait-tray] [role=radio][aria-checked=true]", "all")
	p.see("#wait-ask").MustInput("every 3 moons")
	p.reads("[data-testid=wait-ask-means]", "does not know “moons” as a distance")
	p.see("#wait-ask").MustSelectAllText().MustInput("every 3 working days, twice, then tell me")
	p.reads("[data-testid=wait-ask-means]", "Fri 27 Nov, 8:00, then every 3 working days, twice, then you are told")
	p.see("#wait-since").MustInput("tomorrow")
	p.reads("[data-testid=wait-since-means]", "lies ahead")
	p.see("#wait-since").MustSelectAllText().MustInput("last fri")
	p.reads("[data-testid=wait-since-means]", "Fri 20 Nov, 0:00")
	p.does("Wait")
	p.leftIs(n - 2)
	p.press(input.KeyA)
	p.reads("main", "+1")
	p.reads("main", "20 Nov")
	p.reads("main", "ask again Fri 8:00")
	p.reads("main", "every 3 working days, 1 of 2")
}

// Each thing that is asked has a line of short answers, and a reply to what a follow-up is
// about asks whether that is finished with it.
func TestShortAnswersAndWhatTheyFinish(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.down("Courier for the small predictor")
	p.presses("[role=option]", "Courier for the small predictor")
	p.press(input.Digit3).see("#reply")
	lines := "[data-testid=offers] [role=group]"
	p.until("[...document.querySelectorAll('%s')].map(e => e.getAttribute('aria-label')).join('|') === 'Is there a room for her?|And please send me the way to the loading bay.'", lines)
	p.with(input.F2, input.ShiftLeft)
	p.until("document.querySelector('#reply').value === 'Yes, gladly.\\n'")
	p.with(input.Comma, input.ControlLeft).reads(lines+"[aria-current=true]", "the way to the loading bay")
	p.with(input.F2, input.ShiftLeft)
	p.until("document.querySelector('#reply').value === 'Yes, gladly.\\nI will do it today.\\n'")
	p.with(input.Comma, input.ControlLeft).reads(lines+"[aria-current=true]", "Is there a room for her?")
	p.with(input.F2, input.ShiftLeft)
	p.until("document.querySelector('#reply').value === 'No, I am afraid not.\\nI will do it today.\\n'")
	p.write("Solvei")
	p.until("!document.querySelector('[data-testid=offers]')") // own words are not written over
	p.press(input.Escape)
	p.until("!document.querySelector('#reply')")

	p.visit("/follow-ups")
	p.press(input.Digit8).reads("[data-testid=followup-title]", "Answer the harbour office")
	p.press(input.Digit3).see("#reply")
	p.write("Eleven tonnes, laden.")
	p.with(input.Enter, input.ControlLeft).reads("[data-testid=answered-tray]", "Is this finished with it?")
	p.press(input.Enter)
	p.until("document.querySelector('[data-testid=followup-title]').textContent !== 'Answer the harbour office about the lorry'")
	p.visit("/follow-ups")
	p.until("![...document.querySelectorAll('main [data-followup]')].some(e => e.textContent.includes('Answer the harbour office'))")
}

// A line of a plan says what it means and is drawn before Enter; storing a plan is taken
// back; what was decided on another screen is named first.
func TestAPlanInWordsBeforeEnter(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.press(input.Digit2).leftIs(n - 1)
	p.visit("/delivery")
	p.see("#line").MustInput("open 9-12 mon wed")
	p.reads("[data-testid=line-means]", "Mon, Wed: open 9:00–12:00. Enter draws it.")
	p.until("document.querySelectorAll('[data-day][data-ahead=true]').length === 2")
	p.see("#line").MustSelectAllText().MustInput("fri writing 13-10")
	p.reads("[data-testid=line-means]", "ends before it begins: write 10:00–13:00")
	p.see("#line").MustSelectAllText().MustInput("fri writing 8–10")
	p.reads("[data-testid=line-means]", "Fri: open, writing 8:00–10:00")
	p.press(input.Enter)
	p.until("document.querySelector('#line').value === ''")
	p.until("document.querySelector('[data-day=\"5\"] [data-within=writing]') !== null") // its round lies in the block
	p.reads("[data-testid=coming]", "–")                                                 // a range
	p.does("Save")
	p.reads("[data-testid=notice]", "decides when mail comes in")
	p.with(input.KeyZ, input.ControlLeft)
	p.reads("[data-testid=notice]", "Taken back: “")
	p.with(input.KeyZ, input.ControlLeft)
	p.reads("[data-testid=notice]", "Once more takes it back.")
	p.with(input.KeyZ, input.ControlLeft).leftIs(n)
}
