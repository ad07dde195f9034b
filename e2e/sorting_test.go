package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/go-rod/rod"
	"github.com/go-rod/rod/lib/input"
	"github.com/stretchr/testify/require"
)

// digest goes to the last slip of the inbox, which is that digest. The list may be one of
// before until it is there.
func (p *page) digest(id string) {
	p.t.Helper()
	p.press(input.End)
	p.until(`document.querySelector("[data-slip='%s']")?.textContent`, id)
	p.press(input.End)
}

// level is how full the gauge of the slip with that subject stands.
func (p *page) level(subject string) int {
	p.t.Helper()
	return p.MustEval(`s => { const slip = [...document.querySelectorAll('[data-slip]')].find((x) => x.textContent.includes(s)); return Number(slip?.querySelector('.gauge')?.dataset.level ?? -2) }`, subject).Int()
}

// What matters most stands first, says why, and is corrected by a key, which says what
// else it moved; the correction stands in Setup and is taken away there.
func TestWhatMattersFirst(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.letters("-").see("[data-testid=arrange-tray]")
	p.does("by importance")
	p.press(input.Escape)
	p.until("document.querySelector('[data-group=high]') && !document.querySelector('[data-testid=arrange-tray]')")
	p.top()
	levels := p.MustEval(`() => [...document.querySelectorAll('[data-slip] .gauge')].map((g) => Number(g.dataset.level))`).Arr()
	require.Greater(t, len(levels), 4)
	require.Equal(t, 4, levels[0].Int())

	p.choose("Oona Varga")
	subject := p.text("[data-testid=subject]")
	require.Equal(t, 4, p.level(subject))
	why := p.text("[data-testid=importance]")
	require.Contains(t, strings.ToLower(why), "you answered oona varga")
	p.with(input.ArrowDown, input.ControlLeft)
	p.reads("[data-testid=notice]", "Not important.")
	p.reads("[data-testid=notice]", "in the inbox moved by it.")
	p.reads("[data-testid=importance]", "You said so.")
	p.until("[...document.querySelectorAll('[data-slip]')].filter((x) => x.textContent.includes(%q)).every((x) => x.querySelector('.gauge').dataset.level === '0')", subject)
	p.shows(subject)
	p.with(input.KeyZ, input.ControlLeft)
	p.shows(subject)
	p.until("document.querySelector('[data-testid=importance]')?.innerText === %q", why)

	p.does("It is not")
	p.reads("[data-testid=importance]", "You said so.")
	p.letters(":")
	p.until("document.querySelector('.inbox-grid.close')")
	p.reads("[data-testid=because]", "because you said so")
	p.visit("/setup")
	p.presses("a", "What Ebbe has learned")
	p.reads("[data-correction]", "not important")
	p.presses("[data-correction] button", "Remove")
	p.until("!document.querySelector('[data-correction]')")
	p.visit("/")
	p.until("document.querySelector('.inbox-grid.close') && document.querySelector('[data-slip]')")
	p.letters(":").see("article")
	p.until("[...document.querySelectorAll('[data-slip]')].filter((x) => x.textContent.includes(%q)).every((x) => x.querySelector('.gauge').dataset.level === '4')", subject)

	p.visit("/numbers")
	p.reads("[data-testid=importance-proof]", "you acted on only one")
	p.until(`(() => {
		const [learned, fixed] = [...document.querySelectorAll('[data-testid=importance-table] tbody td')].map((c) => Number(c.textContent))
		const words = document.querySelector('[data-testid=importance-proof]').textContent
		return learned >= 85 && learned > fixed && words.includes('In ' + learned + ' of 100') && words.includes('been ' + fixed + '.')
	})()`)
	p.reads("[data-testid=forecast-proof]", "off by")
	p.presses("main a", "What Ebbe has learned")
	p.until("location.pathname === '/setup/learned'")
}

// A rule is made from a message, in words and by parts, with its proof beside it and its
// quarrel with another; what it does as mail comes in is seen, and taken back in one go.
func TestRulesWithTheirProof(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.choose("Small Museums Weekly")
	p.with(input.KeyK, input.ControlLeft).see("#palette")
	p.write("make a rule")
	p.press(input.Enter).see("#rule-words")
	p.until("document.querySelector('#rule-words').value.startsWith('list letter.smallmuseums.example: ')")
	p.MustElement("#rule-words").MustSelectAllText()
	p.write("newsletters: archive, star")
	p.reads("[data-testid=side-when]", "is from a list")
	p.until("document.querySelectorAll('[data-testid=proof] li[data-otherwise]').length > 0")
	p.clicks("Remove star", func(r *rod.Page) (*rod.Element, error) { return r.Element("[aria-label='Remove “star it”']") })
	p.until("document.querySelector('#rule-words').value === 'newsletters: archive'")
	p.click("[aria-label='+ except']")
	p.see("[role=listbox] [role=option]")
	p.presses("[role=option]", "^with files$")
	p.until("document.querySelector('#rule-words').value === 'newsletters, but not with files: archive'")
	p.reads("[data-testid=side-except]", "has files")
	p.does("On")
	p.does("Save")
	p.reads("[data-testid=rules]", "newsletters, but not with files: archive")
	p.reads("[data-testid=notice]", "Saved.")

	p.does("New rule")
	p.see("#rule-words")
	p.write("from @smallmuseums.example: bin")
	p.reads("[data-testid=quarrels]", "comes first and archives it")
	p.press(input.Enter)
	p.until("document.querySelectorAll('[data-rule]').length === 3")
	p.reads("[data-testid=rules]", "trying until")

	p.does("New rule")
	p.see("#rule-words")
	p.write("from people: label seen by a rule")
	p.does("On")
	p.does("Save")
	p.until("document.querySelectorAll('[data-rule]').length === 4")
	for _, clock := range []string{"11:42", "12:42", "13:42", "14:42"} {
		p.does("Demo clock")
		p.does("+ 1 hour")
		p.nowIs(clock)
	}
	p.visit("/setup")
	p.presses("a", "^\\s*Rules")
	p.until("[...document.querySelectorAll('[data-rule]')].some((r) => /seen by a rule[^]*done [1-9]/.test(r.textContent))")
	p.clicks("the rule", func(r *rod.Page) (*rod.Element, error) {
		return r.Element("[data-rule] a[title*='seen by a rule']")
	})
	p.see("[data-testid=rule-did] li")
	p.does("Take all of it back")
	p.reads("[data-testid=notice]", "Taken back:")
	p.until("[...document.querySelectorAll('[data-testid=rule-did] li')].every((l) => l.textContent.includes('taken back'))")
	p.visit("/history")
	p.reads("main", "A rule was followed:")
}

// A sender is put away for good by one key, which is taken back as one step; a silenced
// conversation says that it is, and is heard again.
func TestNeverAgainAndSilence(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.choose("Small Museums Weekly")
	p.with(input.Delete, input.ShiftLeft)
	p.reads("[data-testid=notice]", "Never again: Small Museums Weekly.")
	p.until("![...document.querySelectorAll('[data-slip]')].some((s) => s.textContent.includes('Small Museums Weekly:'))")
	p.leftIs(n - 1)
	p.visit("/setup")
	p.presses("a", "^\\s*Rules")
	p.reads("[data-testid=never]", "Small Museums Weekly")
	p.presses("[data-away] button", "Let come again")
	p.until("!document.querySelector('[data-away]')")
	p.with(input.KeyZ, input.ControlLeft)
	p.reads("[data-testid=never]", "Small Museums Weekly")
	p.visit("/")
	p.see("[data-slip]")

	p.choose("Priya Venn")
	subject := p.text("[data-testid=subject]")
	left := p.left()
	p.with(input.KeyK, input.ControlLeft).see("#palette")
	p.write("silence this")
	p.press(input.Enter)
	p.reads("[data-testid=notice]", "Silenced.")
	p.leftIs(left - 1)
	p.visit("/find")
	p.see("#find")
	p.write(subject)
	p.reads("[data-slip]", "silenced")
	p.press(input.Enter)
	p.MustElement("#find").MustBlur()
	p.click("[data-slip]")
	p.shows(subject)
	p.with(input.KeyK, input.ControlLeft).see("#palette")
	p.write("hear it again")
	p.press(input.Enter)
	p.reads("[data-testid=notice]", "Heard again")
	p.until("!document.querySelector('[data-slip]').textContent.includes('silenced')")
}

// Lists are left, and put away for good, several at once from their table.
func TestSubscriptionsAreLeft(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.visit("/setup")
	p.presses("a", "^\\s*Subscriptions")
	p.reads("[data-testid=subscriptions]", "Small Museums Weekly")
	p.reads("[data-testid=subscriptions]", "The Loan Desk")
	p.click("[data-list='letter.smallmuseums.example'] [role=checkbox]")
	p.click("[data-list='letter.theloandesk.example'] [role=checkbox]")
	p.reads("main", "2 chosen")
	p.does("Leave the chosen")
	p.until(`["smallmuseums", "theloandesk"].every((l) => document.querySelector("[data-list='letter." + l + ".example'] td:last-child")?.textContent.startsWith("left"))`)
	p.reads("[data-testid=notice]", "Left: 2.")
	p.click("[data-list='letter.theloandesk.example'] [role=checkbox]")
	p.does("Never again")
	p.until("document.querySelector('main').textContent.includes('Choose lists to leave them')")
	p.visit("/setup")
	p.presses("a", "^\\s*Rules")
	p.reads("[data-testid=never]", "The Loan Desk")
}

// A conversation is put into another stream by a key: the tray says of what else that is
// a lesson, and what comes of it; the lesson stands in Setup with its examples and is
// removed there. A stream of one's own is made under Delivery, draws days of its own, and
// gets mail by a rule.
func TestStreamsAndWhatMovingTeaches(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.choose("Small Museums Weekly")
	p.with(input.ArrowRight, input.ControlLeft)
	p.reads("[data-testid=stream-tray]", "Always what the list letter.smallmuseums.example sends")
	p.until("document.querySelector('[data-testid=stream-tray] [role=radio][aria-checked=true]').textContent === 'Mail from people'")
	p.reads("[data-testid=stream-tray] [role=radio][aria-checked=true]:has(.block)", "of the last")
	p.reads("[data-testid=stream-next]", "It comes with newsletters and notices now.")
	p.press(input.Enter)
	p.reads("[data-testid=notice]", "So is always what is of the list letter.smallmuseums.example: the next")
	p.until("[...document.querySelectorAll('[data-slip]')].some((s) => s.textContent.includes('with people’s mail'))")
	p.visit("/setup")
	p.presses("a", "What Ebbe has learned")
	p.reads("[data-lesson]", "is of the list letter.smallmuseums.example comes with mail from people.")
	p.presses("[data-lesson] button", "Remove")
	p.until("!document.querySelector('[data-lesson]')")
	p.with(input.KeyZ, input.ControlLeft)
	p.see("[data-lesson]")

	p.visit("/delivery")
	p.does("A stream of your own…")
	p.see("#stream-name")
	p.write("Harbour")
	p.MustReload()
	p.until("document.querySelector('#stream-name')?.value === 'Harbour'") // what was typed outlasts a reload
	p.does("Save")
	p.reads("[data-testid=own-stream]", "Nothing puts mail into “Harbour” yet.")
	p.reads("[data-testid=along]", "it comes in with people’s mail")
	p.does("Draw days of its own")
	p.reads("[data-testid=along]", "It has days of its own.")
	p.does("Let it go along again")
	p.reads("[data-testid=along]", "it comes in with people’s mail")
	p.does("Cancel")
	p.presses("[data-testid=own-stream] a", "Make a rule")
	p.see("#rule-words")
	p.until("document.querySelector('#rule-words').value === ': stream Harbour'")
	p.press(input.Home)
	p.write("from people")
	p.reads("[data-testid=side-then]", "put it into the stream “Harbour”")
	p.does("On")
	p.does("Save")
	p.reads("[data-testid=rules]", "stream Harbour")
	for _, clock := range []string{"11:42", "12:42", "13:42"} {
		p.does("Demo clock")
		p.does("+ 1 hour")
		p.nowIs(clock)
	}
	p.visit("/")
	p.until("[...document.querySelectorAll('[data-slip]')].some((s) => s.textContent.includes('Harbour'))")
	p.letters("-").see("[data-testid=arrange-tray]")
	p.does("by stream")
	p.press(input.Escape)
	p.until("[...document.querySelectorAll('[data-group]')].some((g) => g.textContent.includes('Harbour'))")
	p.letters("-").see("[data-testid=arrange-tray]")
	p.does("in Harbour")
	p.press(input.Escape)
	p.until("document.querySelectorAll('[data-slip]').length > 0 && [...document.querySelectorAll('[data-slip]')].every((s) => s.textContent.includes('Harbour'))")
}

// Junk is told by what one has called junk and by what the account's server found, each
// with its reason; what is none comes back by a key and teaches, the rest goes to the bin
// at once and can be had back; a colleague's name with another's address is marked; a
// sender or a domain is blocked, and how strict the test is is chosen by what it would
// have done.
func TestJunkIsLookedThrough(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.reads("[data-testid=to-junk]", "Junk to check")
	p.click("[data-testid=to-junk]")
	p.until("document.querySelectorAll('[data-slip]').length === 4")
	p.choose("Jonas Reyland")
	p.reads("[data-testid=why-junk]", "the server of your account says that it is not")
	p.reads("[data-testid=seems]", "You know Jonas Reyland by another address, jonas.reyland@skagvikmuseum.example.")
	p.choose("Harvest Credit")
	p.reads("[data-testid=why-junk]", "It is like what you have called junk: “")
	n := p.left()
	p.letters("9")
	p.reads("[data-testid=notice]", "Not junk, and back in the inbox")
	p.leftIs(n + 1)
	p.until("document.querySelectorAll('[data-slip]').length === 3")
	p.does("All junk: bin 3")
	p.reads("[data-testid=notice]", "All junk: binned 3.")
	p.reads("main", "Nothing in junk")
	p.with(input.KeyZ, input.ControlLeft)
	p.until("document.querySelectorAll('[data-slip]').length === 3")

	p.visit("/")
	p.choose("Harvest Credit")
	p.command("Block its sender")
	p.reads("[data-testid=block-tray]", "everybody at ")
	p.press(input.Enter)
	p.reads("[data-testid=notice]", "Blocked: ")
	p.leftIs(n)
	p.visit("/setup")
	p.presses("a", "^Junk")
	p.reads("[data-testid=junk-settings]", "it would have called")
	p.reads("[data-testid=blocked]", "offers@harvest-credit.example")
	p.presses("[role=radio]", "^Strict")
	p.reads("[data-testid=notice]", "The junk test is strict.")
	p.presses("[data-testid=blocked] button", "Remove")
	p.reads("[data-testid=notice]", "is not blocked any more")
}

// What one does again and again is offered as a rule, below the inbox and among the rules,
// with its proof; refused, it stays away.
func TestRulesAreOfferedByWhatOneDoes(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.visit("/setup")
	p.presses("a", "^\\s*Rules")
	p.reads("[data-testid=offers]", "Offered by what you do")
	before := p.MustEval("() => document.querySelectorAll('[data-offer]').length").Int()
	p.presses("[data-offer] a", "Look at it")
	p.see("#rule-words")
	p.until("document.querySelectorAll('[data-testid=proof] li').length > 0")
	p.does("Save")
	p.until("document.querySelectorAll('[data-rule]').length === 2 && document.querySelectorAll('[data-offer]').length === %d", before-1)
}

// A whole domain is put away for good with how many people that hits, and all that a list
// has sent is binned at once; both are steps that are taken back.
func TestMuchIsPutAwayAtOnce(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	n := p.left()
	p.choose("Small Museums Weekly")
	p.command("Never again: a domain")
	p.reads("[data-testid=never-tray] [aria-checked=true]", "Everybody at smallmuseums.example")
	p.reads("[data-testid=never-tray] [aria-checked=true]", "from one person")
	p.press(input.Enter)
	p.reads("[data-testid=notice]", "Never again: everybody at smallmuseums.example.")
	p.leftIs(n - 1)
	p.with(input.KeyZ, input.ControlLeft)
	p.leftIs(n)
	p.visit("/setup")
	p.presses("a", "^Subscriptions")
	p.see("[data-testid=subscriptions] tr")
	p.clicks("the list", func(r *rod.Page) (*rod.Element, error) {
		return r.Element("[data-list='letter.smallmuseums.example'] input, [data-list='letter.smallmuseums.example'] [role=checkbox]")
	})
	p.does("Bin all that has come")
	p.reads("[data-testid=notice]", "conversations of Small Museums Weekly.")
	p.with(input.KeyZ, input.ControlLeft)
	p.reads("[data-testid=notice]", "Taken back")
	p.leftIs(n)
}

// Rules come in from a Sieve script, shown before they are saved with what does not carry
// over, and go out as one.
func TestRulesAsSieve(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.command("Go to the rules")
	p.see("[data-testid=sieve]")
	script := filepath.Join(t.TempDir(), "old.sieve")
	require.NoError(t, os.WriteFile(script, []byte("require [\"fileinto\"];\nif header :contains \"subject\" \"humidity\" { fileinto \"Archive\"; }\nif header :is \"x-priority\" \"1\" { discard; }\n"), 0o600))
	p.MustElement("[data-testid=sieve-file]").MustSetFiles(script)
	p.reads("[data-testid=sieve-read]", "subject “humidity”: archive")
	p.reads("[data-testid=sieve-read]", "Line 3: the field “x-priority” cannot be asked by a rule.")
	p.does("Save 1 rule, tried for a week")
	p.reads("[data-testid=notice]", "Saved: 1.")
	p.reads("[data-testid=rules]", "subject “humidity”: archive")
	p.reads("[data-testid=rules]", "trying until")
}

// Lists come once a week, together, as one slip at their round; so do newsletters and
// notices where one wants it. What came is decided line by line, opened from there, gone
// through one by one, and the rest goes by one key; all of it is taken back.
func TestWhatComesTogether(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	p.visit("/setup")
	p.presses("a", "^\\s*Subscriptions")
	p.see("[data-testid=subscriptions]")
	p.click("[data-list='letter.smallmuseums.example'] [role=checkbox]")
	p.click("[data-list='letter.theloandesk.example'] [role=checkbox]")
	p.does("Once a week, together…")
	p.until("document.querySelector('#rounds-at').value === '9:00'")
	p.does("Have it come so")
	p.reads("[data-testid=notice]", "All 2 come at that time")
	p.visit("/delivery")
	p.presses("[role=radio]", "The Loan Desk")
	p.reads("[data-testid=along]", "it comes in Fri at 9:00, also without a plan")
	p.presses("[role=radio]", "^Newsletters and notices")
	p.until("!document.querySelector('[data-testid=along]')")
	p.click("[aria-label='The week'] [role=checkbox]")
	p.reads("[data-testid=notice]", "lies in the inbox as one slip now")

	for _, day := range []string{"Wed 25", "Thu 26", "Fri 27"} {
		p.clock("To tomorrow 8:00")
		p.reads("header", day)
	}
	p.visit("/")
	p.see("[data-slip]")
	p.digest("-3")
	p.see("[data-testid=digest]")
	p.clock("+ 1 hour")
	p.nowIs("9:00")
	lines := func() int { return p.MustEval("() => document.querySelectorAll('[data-line]').length").Int() }
	linesAre := func(n int) { t.Helper(); p.until("document.querySelectorAll('[data-line]').length === %d", n) }
	p.press(input.End)
	p.reads("[data-testid=digest] h1", "Newsletters and notices")
	p.until("document.querySelectorAll('[data-line] b').length > 3")
	n, left := lines(), p.left()
	p.click("[data-line]:nth-child(2) button[aria-label^=Archive]")
	linesAre(n - 1)
	p.leftIs(left - 1)
	subject := p.text("[data-line] b")
	p.click("[data-line] button")
	p.shows(subject)
	p.press(input.Digit1) // decided as it is read, and back to the rest
	p.see("[data-testid=digest]")
	linesAre(n - 2)
	p.with(input.KeyZ, input.ControlLeft)
	linesAre(n - 1)
	p.press(input.Enter)
	p.reads("[data-testid=filtered]", "Only what came together, in newsletters and notices")
	p.shows(subject)
	p.press(input.Digit2)
	p.reads("[data-testid=notice]", "Archived")
	p.press(input.Escape)
	p.until("!document.querySelector('[data-testid=filtered]')")
	linesAre(n - 2)       // and stands at the digest again
	p.press(input.Digit2) // the rest
	p.reads("[data-testid=notice]", fmt.Sprint("Archived ", n-2))
	p.leftIs(left - n)
	p.until("!document.querySelector('[data-slip=\"-3\"]')")
	p.with(input.KeyZ, input.ControlLeft)
	p.digest("-3")
	linesAre(n - 2)
}

// A whole week of sorting: what matters is corrected, a move teaches, a rule is proved,
// followed and taken back, junk is looked through, five lists are left, and what came
// together is decided at its round; all of it stands in the history.
func TestAWeekOfSorting(t *testing.T) {
	t.Parallel()
	p := open(t, demo(t).url, 1280, 800).enter()
	part := func(name string) {
		t.Helper()
		p.visit("/setup")
		p.presses("a", "^\\s*"+name)
	}
	history := func(lines ...string) {
		t.Helper()
		p.visit("/history")
		for _, line := range lines {
			p.until("document.querySelector('main').textContent.toLowerCase().includes(%q)", line)
		}
	}
	// Tuesday: a correction, a lesson, a list that is to come together on Friday.
	p.choose("Oona Varga")
	p.with(input.ArrowDown, input.ControlLeft)
	p.reads("[data-testid=notice]", "in the inbox moved by it.")
	p.choose("Ragna Holm")
	p.with(input.ArrowRight, input.ControlLeft)
	p.reads("[data-testid=stream-tray]", "Always what the list")
	p.press(input.Enter)
	p.reads("[data-testid=notice]", "So is always what is of the list all.skagvikchoir.example")
	part("Subscriptions")
	p.see("[data-testid=subscriptions]")
	p.click("[data-list='letter.smallmuseums.example'] [role=checkbox]")
	p.does("Once a week, together…")
	p.does("Have it come so")
	p.reads("[data-testid=notice]", "It comes at that time from now on, as one slip.")
	part("What Ebbe has learned")
	p.until("document.querySelectorAll('[data-lesson]').length === 2 && document.querySelectorAll('[data-correction]').length === 1")

	history("said not to be important", "put into another stream")

	// Wednesday: a rule with its proof; what it does as mail comes in is taken back in one go.
	p.clock("To tomorrow 8:00")
	p.reads("header", "Wed 25")
	part("Rules")
	p.does("New rule")
	p.see("#rule-words")
	p.write("from people: label seen this week")
	p.until("document.querySelectorAll('[data-testid=proof] li').length > 0")
	p.does("On")
	p.does("Save")
	p.reads("[data-testid=rules]", "label seen this week")
	p.clock("+ 1 hour")
	p.nowIs("9:00")
	p.clock("+ 1 hour")
	p.nowIs("10:00")

	// Thursday: that, and junk.
	p.clock("To tomorrow 8:00")
	p.reads("header", "Thu 26")
	part("Rules")
	p.until("[...document.querySelectorAll('[data-rule]')].some((r) => /seen this week[^]*done [1-9]/.test(r.textContent))")
	p.clicks("the rule", func(r *rod.Page) (*rod.Element, error) {
		return r.Element("[data-rule] a[title*='seen this week']")
	})
	p.see("[data-testid=rule-did] li")
	p.does("Take all of it back")
	p.reads("[data-testid=notice]", "Taken back:")
	history("a rule was followed:")
	p.visit("/")
	p.see("[data-slip]")
	p.click("[data-testid=to-junk]")
	p.until("document.querySelectorAll('[data-slip]').length > 0")
	p.presses("button", "^All junk: bin ")
	p.reads("[data-testid=notice]", "All junk: binned ")

	// Friday: the digest at its round, line by line and the rest at once.
	p.clock("To tomorrow 8:00")
	p.reads("header", "Fri 27")
	p.clock("+ 1 hour")
	p.nowIs("9:00")
	p.visit("/")
	p.see("[data-slip]")
	p.digest("-1")
	p.reads("[data-testid=digest] h1", "Small Museums Weekly")
	p.until("document.querySelectorAll('[data-line]').length === 2")
	p.click("[data-line] button[aria-label^=Archive]")
	p.until("document.querySelectorAll('[data-line]').length === 1")
	p.press(input.Digit2)
	p.until("!document.querySelector('[data-slip=\"-1\"]')")

	// Saturday: five lists are left.
	part("Subscriptions")
	p.until("document.querySelectorAll('[data-testid=subscriptions] tbody tr').length >= 5")
	for i := 1; i <= 5; i++ {
		p.click(fmt.Sprintf("[data-testid=subscriptions] tbody tr:nth-child(%d) [role=checkbox]", i))
	}
	p.reads("main", "5 chosen")
	p.does("Leave the chosen")
	p.reads("[data-testid=notice]", "Left: 5.")
	p.until("[...document.querySelectorAll('[data-testid=subscriptions] td:last-child')].filter((c) => c.textContent.startsWith('left')).length === 5")

	history("went to leave a list", "archived")
}
