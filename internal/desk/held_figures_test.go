package desk

import (
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/deliveries"
	"ebbe/internal/desk/figures"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/weighing"
)

// counted gives what a measure comes to on some days, by its details.
func (f *office) counted(t testing.TB, m numbers.Measure, from, to string) map[string]int {
	t.Helper()
	out := map[string]int{}
	rows, err := f.raw(t).Query("SELECT detail, SUM(n) FROM day_tallies WHERE measure = ? AND day BETWEEN julianday(?) - julianday('1970-01-01') AND julianday(?) - julianday('1970-01-01') GROUP BY detail HAVING SUM(n) <> 0", m, from, to)
	require.NoError(t, err)
	defer rows.Close()
	for rows.Next() {
		var detail string
		var n int
		require.NoError(t, rows.Scan(&detail, &n))
		out[detail] = n
	}
	return out
}

// a week of rules and rounds.
func (f *office) aWeekOfRules(t *testing.T) (shop, told, through int64) {
	f.until(t, "2026-11-23 07:00")
	f.plan(t, "mon–fri 9, 14")
	shop = f.rule(t, "from @shop.example: archive", sorting.On).ID
	told = f.rule(t, "from quay@h.example: notify", sorting.On).ID
	through = f.rule(t, "from vet@v.example: let through", sorting.On).ID
	require.NoError(t, f.Delivery.LetPass(ctx, f.who, delivery.Exception{By: delivery.BySender, Value: "halvard@l.example"}))
	f.until(t, "07:30")
	f.arrive(t, f.letter("1@x", mirelaFrom, "Crates"), f.letter("2@x", "offers@shop.example", "Offer"), f.letter("3@x", halvardFrom, "Loan")) // the last comes through
	f.until(t, "08:10")
	f.arrive(t, f.letter("4@x", "quay@h.example", "Permit"), f.letter("5@x", "vet@v.example", "The cat"))
	f.until(t, "09:30") // the round brings two, and the offer, which goes at once
	f.arrive(t, f.letter("6@x", "offers@shop.example", "More"))
	f.until(t, "10:40")
	_, err := f.Delivery.LetIn(ctx, f.who, "", deliveries.LettingIn{All: true})
	require.NoError(t, err)
	f.arrive(t, f.letter("7@x", mirelaFrom, "Lids"))
	f.until(t, "12:50")
	held, err := f.Delivery.LookFor(ctx, f.who, "", "lids")
	require.NoError(t, err)
	_, err = f.Delivery.LetIn(ctx, f.who, "", deliveries.LettingIn{Conversations: []int64{held.Found[0].ID}})
	require.NoError(t, err)
	_, err = f.Journal.TakeBack(ctx, f.who, "") // it waits for the round again
	require.NoError(t, err)
	f.until(t, "14:30")
	_, err = f.Journal.TakeBackStep(ctx, f.who, "", f.did(t, shop)[0].Entry)
	require.NoError(t, err)
	return shop, told, through
}

// What each rule did and how often that was taken back, how long mail was held, and what was let through:
// each opens to what it counts, and what was so before it was counted counts as well.
func TestNumbersOfRulesAndOfWhatWasHeld(t *testing.T) {
	f := newOffice(t, store.Options{})
	shop, told, through := f.aWeekOfRules(t)
	f.sound(t)
	look := func() figures.FiguresView {
		t.Helper()
		v, err := f.Figures.Overview(ctx, f.who, "2026-11-23", "2026-11-29")
		require.NoError(t, err)
		return v
	}
	v := look()
	require.Equal(t, []numbers.RuleFigures{{Rule: shop, Did: 1, Decided: 1, Back: 1}, {Rule: told, Told: 1}, {Rule: through, Through: 1}}, v.Is.Rules)
	require.Equal(t, "from @shop.example: archive", v.Rules[shop])
	require.Equal(t, map[string]int{"1h": 3, "0h": 1, "3h": 1}, f.counted(t, numbers.Held, "2026-11-23", "2026-11-29"),
		"Crates and the offer for an hour and a half, the permit less than one, the second offer for more than one, and the lids, let in and held again, until their round")
	require.Equal(t, numbers.Spread{N: 5, Tenth: 0, Median: 1, Ninety: 3}, v.Is.Held)
	require.ElementsMatch(t, []numbers.Part{{Sort: "sender", N: 1}, {Sort: "rule", N: 1}}, v.Is.Through)
	week := figures.Asked{From: "2026-11-23", To: "2026-11-29", Weekday: -1, Hour: -1}
	opens := func(m numbers.Measure, details ...string) int {
		week.Measure, week.Details = m, details
		return f.opens(t, week)
	}
	require.Equal(t, []int{1, 1, 1, 1}, []int{opens(numbers.Ruled, numbers.RuledAs(shop, "did")), opens(numbers.Ruled, numbers.RuledAs(shop, "back")), opens(numbers.Ruled, numbers.RuledAs(told, "told")), opens(numbers.Ruled, numbers.RuledAs(through, "through"))})
	require.Equal(t, []int{5, 1, 2}, []int{opens(numbers.Held), opens(numbers.Through, "sender"), opens(numbers.Through)})

	// A program that did not count it has left the same lines, without what they count for besides.
	before := map[numbers.Measure]map[string]int{}
	for _, m := range []numbers.Measure{numbers.Held, numbers.Through, numbers.Ruled} {
		before[m] = f.counted(t, m, "2026-01-01", "2026-12-31")
	}
	script, err := os.ReadFile("../store/schema/0023.sql")
	require.NoError(t, err)
	raw := f.raw(t)
	raw.SetMaxOpenConns(1)
	exec := func(q string) {
		t.Helper()
		_, err := raw.Exec(q)
		require.NoError(t, err, q)
	}
	exec("UPDATE entries SET besides = NULL")
	for _, table := range []string{"day_tallies", "month_tallies"} {
		exec("DELETE FROM " + table + " WHERE measure IN ('held', 'through', 'ruled')")
	}
	counts, _, _ := strings.Cut(string(script), "-- What was not answered is asked for by itself.")
	for q := range strings.SplitSeq(counts, ";\n") {
		if q = strings.TrimSpace(q); q != "" && !strings.Contains(q, "ALTER TABLE") && !strings.Contains(q, " INDEX ") {
			exec(q)
		}
	}
	exec(fmt.Sprintf("INSERT INTO day_tallies SELECT box_id, 'ruled', wall / 24, '%s', actor, 0, 1 FROM entries WHERE kind = 'tell'", numbers.RuledAs(told, "told"))) // that had no line of its own before
	exec(fmt.Sprintf("INSERT INTO month_tallies SELECT box_id, month, 'ruled', '%s', 'rule', 1 FROM month_tallies WHERE measure = 'ruled' LIMIT 1", numbers.RuledAs(told, "told")))
	f.sound(t)
	for m, was := range before {
		require.Equal(t, was, f.counted(t, m, "2026-01-01", "2026-12-31"), m)
	}
	require.Equal(t, v.Is, look().Is)
}

// What is snoozed a third time with no decision between counts as put off often; a decision, and news, begin
// anew.
func TestSnoozedAgainAndAgain(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.until(t, "2026-11-23 08:00")
	f.arrive(t, f.letter("1@x", mirelaFrom, "Crates"), f.letter("2@x", halvardFrom, "Loan"))
	snooze := func(id int64) {
		t.Helper()
		f.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{id}, Return: when.Moment{At: f.Now() + numbers.Hour}})
		f.clock.t = f.clock.t.Add(2 * time.Hour)
		require.NoError(t, f.Agenda.CatchUp(ctx))
	}
	crates, loan := f.by(t, "Crates").ID, f.by(t, "Loan").ID
	for range 2 {
		snooze(crates)
		snooze(loan)
	}
	f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{loan}})
	f.decide(t, inbox.ToInbox, decide.Decision{Conversations: []int64{loan}})
	snooze(loan)
	snooze(crates)
	week := func() int {
		t.Helper()
		v, err := f.Figures.Overview(ctx, f.who, "2026-11-23", "2026-11-29")
		require.NoError(t, err)
		r, err := f.Review.Week(ctx, f.who)
		require.NoError(t, err)
		n := 0
		for _, p := range v.Is.Rested {
			if p.Sort == "often" {
				n = p.N
			}
		}
		require.Equal(t, n, f.opens(t, figures.Asked{Measure: numbers.Rested, Details: []string{"often"}, From: "2026-11-23", To: "2026-11-29", Weekday: -1, Hour: -1}))
		require.Len(t, r.Often, min(n, 1))
		return n
	}
	require.Equal(t, 1, week(), "the third time of the crates")
	f.sound(t)
	f.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{crates}, Return: when.Moment{At: f.Now() + numbers.Hour}})
	require.Equal(t, 2, week(), "and the fourth")
	_, err := f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, 1, week())
	snooze(crates)
	require.Equal(t, 2, week())
	r, err := f.Review.Week(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, 4, r.Often[0].Times)
	_, err = f.Journal.TakeBack(ctx, f.who, "") // though it has come back from it
	require.NoError(t, err)
	r, err = f.Review.Week(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, 3, r.Often[0].Times, "what was taken back counts as not having been")
	_, err = f.Journal.Again(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, 2, week())
	f.arrive(t, f.letter("3@x", mirelaFrom, "Re: Crates", "In-Reply-To: <1@x>"))
	snooze(crates)
	f.sound(t)
	v, err := f.Figures.Overview(ctx, f.who, "2026-11-23", "2026-11-29")
	require.NoError(t, err)
	require.Contains(t, v.Is.Rested, numbers.Part{Sort: "often", N: 2}, "there were news")
}

// The notifications that one was shown are counted and open to their list, a page at a time; those of a team
// that one has left are nobody's.
func TestNotificationsAreOpened(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.until(t, "2026-11-24 08:00")
	var shown []weighing.Notice
	for i := range 130 {
		shown = append(shown, weighing.Notice{PersonID: 1, BoxID: 1, At: f.Now() + when.Instant(i/2), Text: fmt.Sprint("Reminder ", i)})
	}
	shown = append(shown, weighing.Notice{PersonID: 1, BoxID: 99, At: f.Now(), Text: "Of a team one has left"}, weighing.Notice{PersonID: 1, BoxID: 1, At: f.Now() - 7*24*numbers.Hour, Text: "Before"})
	require.NoError(t, f.store.Write(ctx, func(tx store.Tx) error { return weighing.Readings(tx).NoteNotices(shown) }))
	v, err := f.Figures.Overview(ctx, f.who, "2026-11-23", "2026-11-29")
	require.NoError(t, err)
	require.Equal(t, []int{130, 1}, []int{v.Is.Notices, v.Before.Notices})
	var texts []string
	for next := int64(0); ; {
		page, err := f.Figures.Notices(ctx, f.who, "2026-11-23", "2026-11-29", next)
		require.NoError(t, err)
		for _, l := range page.Lines {
			texts = append(texts, l.Text)
		}
		if next = page.Next; next == 0 {
			break
		}
	}
	require.Len(t, texts, 130)
	require.Equal(t, []string{"Reminder 129", "Reminder 128", "Reminder 0"}, []string{texts[0], texts[1], texts[129]})
	who := f.who
	who.Team = 5
	_, err = f.Figures.Notices(ctx, who, "2026-11-23", "2026-11-29", 0)
	var wrong *problem.Error
	require.ErrorAs(t, err, &wrong)
}

// That a rule has told of a message stands in the history; it is no news to whoever follows the
// conversation, and changes nothing that could not be taken back for it.
func TestTellingIsNoNews(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.until(t, "2026-11-24 08:00")
	f.arrive(t, f.letter("1@x", mirelaFrom, "Crates"))
	crates := f.by(t, "Crates").ID
	f.exec(t, fmt.Sprintf("INSERT INTO followers(conversation_id, person_id, box_id, since) VALUES (%d, 1, 1, 0)", crates))
	f.rule(t, "from mirela@c.example: notify", sorting.On)
	out := f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{crates}})
	f.clock.t = f.clock.t.Add(time.Minute)
	f.arrive(t, f.letter("2@x", mirelaFrom, "Re: Crates", "In-Reply-To: <1@x>"))
	h, err := f.Reading.History(ctx, f.who, store.Past{Conversation: crates})
	require.NoError(t, err)
	require.Equal(t, inbox.TellOf, h.Lines[0].Kind)
	require.Equal(t, 0, len(names(t, f.raw(t), "SELECT c.id FROM concerns c CROSS JOIN entries e ON e.id = c.entry_id WHERE e.kind = 'tell'")))
	_, err = f.Journal.TakeBackStep(ctx, f.who, "", out.Entry)
	require.ErrorContains(t, err, "new message", "what has changed since is that an answer came, not that somebody was told")
	f.sound(t)
}
