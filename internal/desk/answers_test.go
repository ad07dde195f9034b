package desk

import (
	"fmt"
	"math/rand"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/figures"
	"ebbe/internal/desk/followups"
	"ebbe/internal/store"
	"ebbe/internal/store/counting"
)

// noted is an answer as a pencil has noted it; done is zero where there is none yet.
type noted struct {
	who         string
	own         bool
	asked, done time.Time
}

// opens counts what a number of answers opens to, page by page.
func (f *office) answers(t testing.TB, q figures.AskedAnswers) (n int) {
	t.Helper()
	for {
		page, err := f.Figures.AnswerLines(ctx, f.who, q)
		require.NoError(t, err)
		n += len(page.Lines)
		if q.After = page.Next; page.Next == "" {
			return n
		}
	}
}

// How fast both answer, what was not answered, and who began, of every week of a year and by whom, is
// what the notes of a pencil come to, and opens to as many as it counts; clocks are moved meanwhile.
func TestAnswersOfAYear(t *testing.T) {
	f := newOffice(t, store.Options{})
	loc := f.who.Week.Location()
	r := rand.New(rand.NewSource(7))
	people := []string{"halvard@l.example", "mirela@c.example", "dario@c.example"}
	var notes []noted
	type begun struct {
		at  time.Time
		own bool
	}
	var began []begun
	var letters []string
	for c := range 160 {
		at := time.Date(2026, 1, 5, 0, 0, 0, 0, loc).Add(time.Duration(r.Intn(300*24*60)) * time.Minute)
		who, own := people[r.Intn(len(people))], r.Intn(2) == 0
		began = append(began, begun{at, own})
		before := noted{}
		for i := range 1 + r.Intn(4) {
			if i > 0 {
				at = at.Add(time.Duration(1+r.Intn(4*24*60)) * time.Minute)
			}
			from, to := who, "solvei@m.example"
			if own {
				from, to = to, from
			}
			id, refs := fmt.Sprintf("%d-%d@x", c, i), ""
			if i > 0 {
				refs = fmt.Sprintf("References: <%d-%d@x>\n", c, i-1)
				before.done = at
				notes = append(notes, before)
			}
			letters = append(letters, fmt.Sprintf("From: %s\nTo: %s\nSubject: Matter %d\nDate: %s\nMessage-ID: <%s>\n%s\nText %s.\n", from, to, c, at.Format(time.RFC1123Z), id, refs, id))
			before = noted{who: who, own: !own, asked: at}
			own = !own
		}
		notes = append(notes, before)
	}
	letters = append(letters, "From: no-reply@shop.example\nAuto-Submitted: auto-generated\nTo: solvei@m.example\nSubject: A parcel\nDate: Tue, 10 Mar 2026 09:00:00 +0100\nMessage-ID: <auto@x>\n\nIt is on its way.\n",
		"From: news@l.example\nList-Id: <news.l.example>\nTo: solvei@m.example\nSubject: News\nDate: Tue, 10 Mar 2026 09:00:00 +0100\nMessage-ID: <news@x>\n\nNews.\n")
	r.Shuffle(len(letters), func(i, j int) { letters[i], letters[j] = letters[j], letters[i] }) // whatever order it comes in
	f.take(t, letters...)
	unsettled, err := f.Figures.Answers(ctx, f.who, "2026-03-02", "2026-03-08", "")
	require.NoError(t, err)
	require.True(t, unsettled.Counting)
	f.sound(t)

	working := func(a, b time.Time) (n int) { // by a watch, minute by minute
		for ; a.Before(b); a = a.Add(time.Minute) {
			if m := a.Hour()*60 + a.Minute(); a.Weekday() >= 1 && a.Weekday() <= 5 && m >= f.who.Week.Morning && m < f.who.Week.Evening {
				n++
			}
		}
		return n
	}
	type sums struct {
		took, work []int
		open       int
	}
	of := func(from, to time.Time, own bool, is func(noted) bool) (s sums) {
		for _, n := range notes {
			at := n.done
			if at.IsZero() {
				at = n.asked
			}
			if n.own != own || at.Before(from) || !at.Before(to) || !is(n) {
				continue
			}
			if n.done.IsZero() {
				s.open++
				continue
			}
			s.took, s.work = append(s.took, int(n.done.Sub(n.asked)/time.Minute)), append(s.work, working(n.asked, n.done))
		}
		slices.Sort(s.took)
		slices.Sort(s.work)
		return s
	}
	middle := func(of []int, tenths int) int {
		if len(of) == 0 {
			return 0
		}
		return of[(len(of)*tenths+9)/10-1]
	}
	stretches := [][2]time.Time{{time.Date(2026, 1, 5, 0, 0, 0, 0, loc), time.Date(2026, 12, 28, 0, 0, 0, 0, loc)}}
	for at := stretches[0][0]; at.Before(stretches[0][1]); at = at.AddDate(0, 0, 7) {
		stretches = append(stretches, [2]time.Time{at, at.AddDate(0, 0, 7)})
	}
	all := func(noted) bool { return true }
	for _, s := range stretches {
		from, to := dateIn(s[0]), dateIn(s[1].AddDate(0, 0, -1))
		for _, by := range counting.Sorts {
			v, err := f.Figures.Answers(ctx, f.who, from, to, by)
			require.NoError(t, err)
			for _, x := range []struct {
				own bool
				is  figures.Speed
			}{{true, v.Own}, {false, v.Theirs}} {
				want := of(s[0], s[1], x.own, all)
				require.Equal(t, []int{len(want.took), middle(want.took, 5), middle(want.took, 9), middle(want.work, 5), middle(want.work, 9), want.open},
					[]int{x.is.Clock.N, x.is.Clock.Median, x.is.Clock.Ninety, x.is.Work.Median, x.is.Work.Ninety, x.is.Open}, "%s, mine %t", from, x.own)
				sum := 0
				for _, n := range x.is.ClockBars {
					sum += n
				}
				require.Equal(t, len(want.took), sum, "each stands in a bar")
				require.Equal(t, len(want.took), f.answers(t, figures.AskedAnswers{From: from, To: to, Own: x.own}), "it opens to what it counts")
				require.Equal(t, want.open, f.answers(t, figures.AskedAnswers{From: from, To: to, Own: x.own, Open: true}))
			}
			n, own := 0, 0
			for _, b := range began {
				if !b.at.Before(s[0]) && b.at.Before(s[1]) {
					if n++; b.own {
						own++
					}
				}
			}
			require.Equal(t, []int{n, own}, []int{v.Begun, v.Began})
			if by == counting.ByProject || by == counting.ByLabel {
				require.Empty(t, v.Rows)
				continue
			}
			for _, row := range v.Rows {
				in := func(n noted) bool { return strings.HasSuffix(n.who, row.Key) }
				mine, theirs := of(s[0], s[1], true, in), of(s[0], s[1], false, in)
				require.Equal(t, []int{len(mine.took), middle(mine.took, 5), middle(mine.work, 5), mine.open, len(theirs.took), middle(theirs.took, 5), middle(theirs.work, 5), theirs.open},
					[]int{row.Own.N, row.Own.Clock, row.Own.Work, row.Own.Open, row.Theirs.N, row.Theirs.Clock, row.Theirs.Work, row.Theirs.Open})
				require.Equal(t, row.Theirs.N, f.answers(t, figures.AskedAnswers{From: from, To: to, By: by, Key: row.Key}))
			}
		}
	}
	page, err := f.Figures.AnswerLines(ctx, f.who, figures.AskedAnswers{From: "2026-01-05", To: "2026-12-27", Own: true})
	require.NoError(t, err)
	require.Len(t, page.Lines, 100)
	require.NotEmpty(t, page.Next)
}

// Where an address becomes one's own, what was written to it is looked through anew.
func TestAnswersOfANewAddress(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, written("a@x", "Halvard <halvard@l.example>", "loans@m.example", "Clause 7", "Mon, 23 Nov 2026 09:00:00"))
	f.sound(t)
	open := func() int {
		t.Helper()
		v, err := f.Figures.Answers(ctx, f.who, "2026-11-23", "2026-11-23", "")
		require.NoError(t, err)
		return v.Own.Open
	}
	require.Zero(t, open(), "it was to somebody else")
	_, err := f.raw(t).Exec("INSERT INTO own_addresses(person_id, address, account) VALUES (1, 'loans@m.example', '')")
	require.NoError(t, err)
	f.sound(t)
	require.Equal(t, 1, open())
	_, err = f.raw(t).Exec("DELETE FROM own_addresses WHERE address = 'loans@m.example'")
	require.NoError(t, err)
	f.sound(t)
	require.Zero(t, open())
}

// In the table of people stands who waits for the reader and since when, and for whom they wait; whoever
// has a number is one with their mail.
func TestTheTableOfPeople(t *testing.T) {
	f := newOffice(t, store.Options{})
	const halvard = "Halvard <halvard@l.example>"
	f.take(t, written("a@x", halvard, "solvei@m.example", "Clause 7", "Mon, 23 Nov 2026 09:00:00"),
		written("b@x", "Mirela <mirela@c.example>", "solvei@m.example", "Crates", "Mon, 23 Nov 2026 09:00:00"),
		written("c@x", "solvei@m.example", "mirela@c.example", "Re: Crates", "Mon, 23 Nov 2026 11:00:00", "b@x"))
	in := func(message string) (id int64) {
		require.NoError(t, f.raw(t).QueryRow("SELECT conversation_id FROM messages WHERE message_id = ?", message).Scan(&id))
		return id
	}
	due := f.moment(t, "fri 10")
	f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: []int64{in("a@x")}, FollowUp: &followups.NewFollowUp{Title: "Sign it", With: mail.Address{Address: "halvard@l.example"}, Due: due}})
	f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: []int64{in("b@x")}, FollowUp: &followups.NewFollowUp{Title: "How many crates?", With: mail.Address{Address: "mirela@c.example"}, Waits: followup.Wait{Since: f.Now()}}})
	f.sound(t)
	v, err := f.Figures.People(ctx, f.who)
	require.NoError(t, err)
	rows := map[string]figures.PersonRow{}
	for _, r := range v.Rows {
		rows[r.Address] = r
	}
	require.Len(t, rows, 2)
	h, m := rows["halvard@l.example"], rows["mirela@c.example"]
	require.Equal(t, []any{"Halvard", 1, 0, 1, when.Instant(0)}, []any{h.Name, h.Own.Owed, h.Own.N, h.Dated, h.WaitForThemSince})
	require.Equal(t, []any{1, 120, 1, 0, f.Now()}, []any{m.Own.N, m.Own.Work, m.Theirs.Owed, m.WaitForMe, m.WaitForThemSince})
	require.Equal(t, 1, m.Unanswered)

	_, err = f.raw(t).Exec("INSERT INTO numbers(box_id, number, name, address, stopped, answered) VALUES (1, '+447700900112', 'Mirela', 'mirela@c.example', 0, 0)")
	require.NoError(t, err)
	_, err = f.raw(t).Exec("INSERT INTO answers(box_id, conversation_id, address, own, asked, answered, at) VALUES (1, 99, '+447700900112@text.invalid', 1, ?, ?, ?)", f.Now()-7_200_000, f.Now()-3_600_000, f.Now()-3_600_000)
	require.NoError(t, err)
	_, err = f.raw(t).Exec("UPDATE answer_revisions SET rev = rev + 1")
	require.NoError(t, err)
	v, err = f.Figures.People(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, v.Rows, 2)
	for _, r := range v.Rows {
		if r.Address == "mirela@c.example" {
			require.Equal(t, 2, r.Own.N)
		}
	}
	at := dateIn(time.UnixMilli(int64(f.Now())))
	require.Equal(t, 1, f.answers(t, figures.AskedAnswers{From: at, To: at, Own: true, By: counting.ByPerson, Key: "mirela@c.example"}))

	received := func() (n int) {
		t.Helper()
		v, err := f.Figures.People(ctx, f.who)
		require.NoError(t, err)
		for _, r := range v.Rows {
			if r.Address == "mirela@c.example" {
				n = r.Received
			}
		}
		return n
	}
	before := received()
	f.take(t, note("d@x", "Mirela <mirela@c.example>", me, "Out of office", f.clock.t, "Auto-Submitted: auto-replied")) // which answers nothing
	require.Equal(t, before+1, received(), "what is kept is so no more once anything has come")
	f.exec(t, "UPDATE correspondents SET received = received + 5 WHERE address = 'mirela@c.example'") // by another program
	require.Equal(t, before+6, received())
}

// Of a team there are sums, what nobody has, and what each has to do today; to be told when to look back on
// one's own week is not among them, and a stranger gets nothing.
func TestNumbersOfATeam(t *testing.T) {
	c := newCompany(t, "Jonas Reyland", "Priya Venn")
	c.comes(t, strings.ReplaceAll(fromLender, "%[1]d", "1"), strings.ReplaceAll(fromLender, "%[1]d", "2"))
	slips := c.sees(t, c.team[0])
	require.Len(t, slips, 2)
	today := dateIn(time.UnixMilli(int64(c.Now())))
	v, err := c.Figures.Overview(ctx, c.team[1], today, today)
	require.NoError(t, err)
	sum := 0
	for _, n := range v.Unowned {
		sum += n
	}
	require.Equal(t, 2, sum)
	require.Len(t, v.Loads, 3)
	_, err = c.Decisions.Decide(ctx, c.team[1], "", decide.Decision{Kind: inbox.Give, Conversations: []int64{slips[0].ID}, Owner: c.people[1].Person})
	require.NoError(t, err)
	v, err = c.Figures.Overview(ctx, c.team[0], today, today)
	require.NoError(t, err)
	sum = 0
	for group, n := range v.Unowned {
		sum += n
		a, err := c.Figures.Aged(ctx, c.team[0], "unowned", group)
		require.NoError(t, err)
		require.Len(t, a.Lines, n)
	}
	require.Equal(t, 1, sum)
	for _, l := range v.Loads {
		require.Equal(t, map[bool]int{true: 1}[l.Name == "Jonas Reyland"], l.Open, l.Name)
	}
	for _, f := range []func() error{
		func() error { _, err := c.Review.Week(ctx, c.team[0]); return err },
		func() error { _, err := c.Review.Take(ctx, c.team[0], "", "round 840"); return err },
		func() error { return c.Review.Refuse(ctx, c.team[0], "round 840") },
		func() error { return c.Review.Looked(ctx, c.team[0]) },
		func() error { return c.Review.At(ctx, c.team[0], delivery.Rounds{Days: 1, Minute: 60}) },
	} {
		require.ErrorContains(t, f(), "in your own box")
	}
	stranger := c.team[0]
	stranger.Role = ""
	for _, f := range []func() error{
		func() error { _, err := c.Figures.Overview(ctx, stranger, today, today); return err },
		func() error { _, err := c.Figures.Answers(ctx, stranger, today, today, ""); return err },
		func() error { _, err := c.Figures.People(ctx, stranger); return err },
		func() error { _, err := c.Figures.Ahead(ctx, stranger, nil); return err },
		func() error { _, err := c.Figures.Aged(ctx, stranger, "", 0); return err },
		func() error { _, err := c.Figures.Dig(ctx, stranger, 0); return err },
	} {
		require.Error(t, f())
	}
}
