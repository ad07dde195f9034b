package desk

import (
	"bytes"
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/calendar"
	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/calendars"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/deliveries"
	"ebbe/internal/desk/followups"
	"ebbe/internal/journal"
	"ebbe/internal/post/ical"
	"ebbe/internal/store"
)

// down writes a follow-up down by a line, as the field on every screen does.
func (f *office) down(t testing.TB, line string) followup.FollowUp {
	t.Helper()
	w, err := f.FollowUps.ReadLine(ctx, f.who, followups.LineAsked{Line: line})
	require.NoError(t, err)
	for _, p := range w.Parts {
		require.Empty(t, p.Wrong, line)
	}
	n := w.FollowUp
	_, err = f.FollowUps.WriteDown(ctx, f.who, "", followups.NewFollowUp{Title: n.Title, Due: n.Due, Start: n.Start, Priority: n.Priority, Project: n.Project, Context: n.Context, Stage: n.Stage, With: n.With, Labels: n.Labels,
		Effort: n.Effort, Reminders: n.Reminders, Repeat: n.Repeat, Waits: n.Waits})
	require.NoError(t, err)
	return f.named(t, n.Title)
}

// named is the newest follow-up with that title, open or not.
func (f *office) named(t testing.TB, title string) (out followup.FollowUp) {
	t.Helper()
	require.NoError(t, f.store.Read(ctx, func(tx store.Tx) error {
		all, err := store.FollowUps(tx).AllFollowUps(1)
		for _, x := range all {
			if x.Title == title {
				out = x
			}
		}
		return err
	}))
	require.NotEmpty(t, out.UID, title)
	return out
}

func (f *office) step(t testing.TB, s followups.FollowUpStep, of ...followup.FollowUp) journal.Decided {
	t.Helper()
	for _, x := range of {
		s.UIDs = append(s.UIDs, x.UID)
	}
	out, err := f.FollowUps.StepAll(ctx, f.who, "", s)
	require.NoError(t, err)
	return out
}

func (f *office) list(t testing.TB, by followup.By, n search.Query) map[string][]string {
	t.Helper()
	l, err := f.FollowUps.List(ctx, f.who, followups.FollowUpsAsked{By: by, Filter: n})
	require.NoError(t, err)
	out := map[string][]string{}
	for _, g := range l.Groups {
		for _, v := range g.FollowUps {
			out[g.Key] = append(out[g.Key], v.Title)
		}
		if g.Loaded && g.Next == "" {
			require.Len(t, g.FollowUps, g.Count, "%s %s", by, g.Key)
		}
	}
	return out
}

func day(n int) *int { return &n }

func TestFollowUpsSeenEveryWay(t *testing.T) {
	f := newOffice(t, store.Options{})
	l, err := f.Labels.Make(ctx, f.who, "to read")
	require.NoError(t, err)
	f.down(t, "Ring the mover / fri 10 / project opening / urgent")
	f.down(t, "Count chairs / project opening / under way / takes 2 h / today")
	f.down(t, "Read the letter / label to read / at the workshop / low")
	f.down(t, "Ask Halvard / with halvard@l.example / 20 nov 2027")
	done := f.down(t, "Send the plan / tomorrow")
	f.step(t, followups.FollowUpStep{Kind: inbox.FinishFollow}, done)

	require.Equal(t, map[string][]string{"today": {"Count chairs"}, "this-week": {"Ring the mover"}, "next-weeks": {"Ask Halvard"}, "no-date": {"Read the letter"}}, f.list(t, followup.ByDate, search.Query{}))
	require.Equal(t, map[string][]string{"todo": {"Ring the mover", "Ask Halvard", "Read the letter"}, "under-way": {"Count chairs"}, "finished": {"Send the plan"}}, f.list(t, followup.ByStage, search.Query{}))
	require.Equal(t, map[string][]string{"opening": {"Count chairs", "Ring the mover"}, "": {"Ask Halvard", "Read the letter"}}, f.list(t, followup.ByProject, search.Query{}))
	require.Equal(t, map[string][]string{"halvard@l.example": {"Ask Halvard"}, "": {"Count chairs", "Ring the mover", "Read the letter"}}, f.list(t, followup.ByPerson, search.Query{}))
	require.Equal(t, map[string][]string{"1": {"Ring the mover"}, "5": {"Count chairs", "Ask Halvard"}, "9": {"Read the letter"}}, f.list(t, followup.ByPriority, search.Query{}))
	require.Equal(t, map[string][]string{fmt.Sprint(l.ID): {"Read the letter"}, "0": {"Count chairs", "Ring the mover", "Ask Halvard"}}, f.list(t, followup.ByLabel, search.Query{}))

	for _, c := range []struct {
		n    search.Query
		want []string
	}{
		{search.Query{Project: "opening", Words: "RING"}, []string{"Ring the mover"}},
		{search.Query{Day: "2026-11-27"}, []string{"Ring the mover"}},
		{search.Query{Group: string(followup.Today)}, []string{"Count chairs"}},
		{search.Query{Group: string(followup.NoDate)}, []string{"Read the letter"}},
		{search.Query{Label: l.ID}, []string{"Read the letter"}},
		{search.Query{Context: "workshop", Priority: int(followup.Low)}, []string{"Read the letter"}},
		{search.Query{Person: "halvard@l.example"}, []string{"Ask Halvard"}},
		{search.Query{Stage: "under-way"}, []string{"Count chairs"}},
	} {
		var all []string
		for _, titles := range f.list(t, followup.ByPriority, c.n) {
			all = append(all, titles...)
		}
		require.Equal(t, c.want, all, "%+v", c.n)
		one, err := f.FollowUps.OneByOne(ctx, f.who, c.n)
		require.NoError(t, err)
		require.Len(t, one, 1)
	}

	list, err := f.FollowUps.List(ctx, f.who, followups.FollowUpsAsked{By: followup.ByStage})
	require.NoError(t, err)
	require.Equal(t, followup.Day{Start: list.Days[0].Start, Open: 1, Load: 120, Usual: 180}, list.Days[0])
	require.Equal(t, []int{0, 1, 1}, []int{list.Late.Open, list.Later.Open, list.NoDate.Open})
	f.down(t, "Write the text / today / takes 90 min")
	list, err = f.FollowUps.List(ctx, f.who, followups.FollowUpsAsked{})
	require.NoError(t, err)
	require.True(t, list.Days[0].Over, "210 minutes are more than three hours")
	f.sound(t)
}

// A long group is read page by page; no follow-up is left out or shown twice.
func TestLongGroupsOfFollowUps(t *testing.T) {
	f := newOffice(t, store.Options{})
	for i := range 160 {
		f.down(t, fmt.Sprintf("Thing %03d / %s", i, []string{"mon", "project loans", "tue", "project loans / thu"}[i%4]))
	}
	for _, by := range followup.Bys {
		l, err := f.FollowUps.List(ctx, f.who, followups.FollowUpsAsked{By: by})
		require.NoError(t, err)
		seen := map[string]int{}
		for _, g := range l.Groups {
			for _, v := range g.FollowUps {
				seen[v.UID]++
			}
			for next := g.Next; next != ""; {
				page, err := f.FollowUps.Page(ctx, f.who, followups.FollowUpsAsked{By: by}, g.Key, next)
				require.NoError(t, err)
				for _, v := range page.FollowUps {
					seen[v.UID]++
				}
				next = page.Next
			}
		}
		require.Len(t, seen, 160, by)
		for uid, n := range seen {
			require.Equal(t, 1, n, uid)
		}
	}
}

func TestTheBoardAndWhatItMeans(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("a@x", "Halvard <halvard@l.example>", "Clause 7"))
	f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: []int64{1}, FollowUp: &followups.NewFollowUp{Title: "Strike clause 7", Keep: true}})
	made := f.named(t, "Strike clause 7")
	require.Equal(t, mail.Address{Name: "Halvard", Address: "halvard@l.example"}, made.With)
	require.Equal(t, "Now in “With others”.", f.step(t, followups.FollowUpStep{Kind: inbox.PutInStage, Stage: "others"}, made).Text)
	w, err := f.FollowUps.Waiting(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, "Strike clause 7", w.FollowUps[0].Title)
	require.Len(t, f.queue(t), 1)
	f.step(t, followups.FollowUpStep{Kind: inbox.PutInStage, Stage: "finished"}, made)
	require.Empty(t, f.queue(t), "finishing archives its conversation")
	_, err = f.FollowUps.StepAll(ctx, f.who, "", followups.FollowUpStep{Kind: inbox.PutInStage, UIDs: []string{made.UID}, Stage: "todo", Seen: "open"})
	require.ErrorContains(t, err, "was finished meanwhile and stays so", "somebody dragged what had just been finished")
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.Len(t, f.queue(t), 1, "both came back in one step")
	require.True(t, f.named(t, "Strike clause 7").Waiting())

	s, err := f.FollowUps.Settings(ctx, f.who)
	require.NoError(t, err)
	set := s.Settings
	set.Keep = true
	set.Stages = []followup.Stage{{Name: "Now", Means: followup.Mine}, {Name: "Away", Means: followup.Others}, {Name: "Done", Means: followup.Done}}
	require.NoError(t, f.choose(map[string]any{"followUp": set}))
	got := f.list(t, followup.ByStage, search.Query{})
	require.Len(t, got, 1, "what was in a stage that is gone is in one of the others")
	f.step(t, followups.FollowUpStep{Kind: inbox.FinishFollow}, made)
	require.Len(t, f.queue(t), 1, "the conversation stays where it is, if that is wanted")
	set.Stages = set.Stages[:2]
	require.ErrorContains(t, f.choose(map[string]any{"followUp": set}), "needs a stage")
	_, err = f.FollowUps.StepAll(ctx, f.who, "", followups.FollowUpStep{Kind: inbox.PutInStage, UIDs: []string{made.UID}, Stage: "under-way"})
	require.ErrorContains(t, err, "has been deleted meanwhile")
	f.sound(t)
}

func TestWhatLiesInTheBinStaysThere(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("a@x", "halvard@l.example", "Clause 7"))
	f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: []int64{1}, FollowUp: &followups.NewFollowUp{Title: "Strike it"}})
	f.decide(t, inbox.ToBin, decide.Decision{Conversations: []int64{1}})
	v, err := f.FollowUps.One(ctx, f.who, f.named(t, "Strike it").UID)
	require.NoError(t, err)
	require.True(t, v.Gone, "it says that its conversation was thrown away")
	f.step(t, followups.FollowUpStep{Kind: inbox.FinishFollow}, v.FollowUp)
	c, err := f.Reading.Conversation(ctx, f.who, 1)
	require.NoError(t, err)
	require.Equal(t, inbox.Bin, c.Slip.Position.Place)
}

func TestRepeatingOnFinishing(t *testing.T) {
	f := newOffice(t, store.Options{})
	first := f.down(t, "Read the humidity / every tue / remind when due / today 15:00")
	require.Equal(t, "2026-11-24T15:00", first.Due.Local)
	f.clock.t = begin.Add(15 * 24 * time.Hour)
	out := f.step(t, followups.FollowUpStep{Kind: inbox.FinishFollow}, first)
	require.Equal(t, "Finished. The next is due Tue 15 Dec, 15:00; 2 were missed and are not made up for.", out.Text)
	next := f.named(t, "Read the humidity")
	require.NotEqual(t, first.UID, next.UID)
	require.True(t, next.Open())
	f.clock.t = next.Due.At.Time()
	require.NoError(t, f.Agenda.CatchUp(ctx))
	cards, err := f.FollowUps.Cards(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, cards.Cards, 1, "its reminder goes with it")
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	again := f.named(t, "Read the humidity")
	require.Equal(t, first.UID, again.UID, "the next occurrence went with the finishing")
	require.True(t, again.Open())
	f.sound(t)
}

func TestClosingTheDay(t *testing.T) {
	f := newOffice(t, store.Options{})
	for i := range 4 {
		f.down(t, fmt.Sprintf("Thing %d / today / takes 1 h", i))
	}
	f.down(t, "Full / tomorrow / takes 3 h")
	c, err := f.FollowUps.Closing(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, c.Items, 4)
	require.Equal(t, []int{2, 3, 6}, c.Items[0].Free, "tomorrow is full, then the weekend")

	f.clock.t = time.Date(2026, 11, 24, 16, 0, 0, 0, time.UTC) // 17:00
	require.NoError(t, f.Agenda.CatchUp(ctx))
	cards, err := f.FollowUps.Cards(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, 4, cards.Close, "the user is called for")
	require.NoError(t, f.FollowUps.ClosedDay(ctx, f.who))
	cards, err = f.FollowUps.Cards(ctx, f.who)
	require.NoError(t, err)
	require.Zero(t, cards.Close)

	var all []followup.FollowUp
	for _, i := range c.Items {
		all = append(all, i.FollowUp)
	}
	require.Equal(t, "Moved 4 to Wed 25 Nov.", f.step(t, followups.FollowUpStep{Kind: inbox.PutOff, Day: day(1), Closing: true, Seen: "open"}, all...).Text)
	c, err = f.FollowUps.Closing(ctx, f.who)
	require.NoError(t, err)
	require.Empty(t, c.Items)
	back, err := f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, "Taken back: 4 follow-ups.", back.Text)
	c, err = f.FollowUps.Closing(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, c.Items, 4, "all of it was one step")
	for i, want := range []string{"Moved to Wed 25 Nov.", "Moved to Thu 26 Nov.", "Moved to Fri 27 Nov. It is the third time that it was put off."} {
		require.Equal(t, want, f.step(t, followups.FollowUpStep{Kind: inbox.PutOff, Day: day(i + 1), Closing: true}, all[0]).Text)
	}
	require.Equal(t, 3, f.named(t, all[0].Title).Moved)
	require.Equal(t, "No date any more.", f.step(t, followups.FollowUpStep{Kind: inbox.PutOff}, all[1]).Text)
	require.Equal(t, "Cancelled.", f.step(t, followups.FollowUpStep{Kind: inbox.DropFollow}, all[2]).Text)
	_, err = f.FollowUps.StepAll(ctx, f.who, "", followups.FollowUpStep{Kind: inbox.PutOff, UIDs: []string{all[2].UID}, Day: day(1)})
	require.ErrorContains(t, err, "is done, so it was not moved")

	f.clock.t = begin.Add(24 * time.Hour) // the next morning nobody is called for the day before
	require.NoError(t, f.Agenda.CatchUp(ctx))
	s, err := f.FollowUps.Settings(ctx, f.who)
	require.NoError(t, err)
	off := s.Settings
	off.CloseAt = -1
	require.NoError(t, f.choose(map[string]any{"followUp": off}))
	require.NoError(t, f.store.Read(ctx, func(tx store.Tx) error {
		at, err := store.Agenda(tx).TimeOf(1, inbox.CloseDay)
		require.Zero(t, at)
		return err
	}))
	f.sound(t)
}

// Asking again has a rhythm, which goes on by itself and says at its end that nobody
// has answered.
func TestAskingAgainByARhythm(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("a@x", "Halvard <halvard@l.example>", "Clause 7"))
	require.NoError(t, f.Delivery.Choose(ctx, f.who, deliveries.DeliveryChoices{Notify: delivery.Notify{On: true, Reminders: delivery.RemindAll}}))
	f.down(t, "Clause of Halvard / waits for halvard / ask again every 2 days, once, then tell me")
	w := f.named(t, "Clause of Halvard")
	require.Equal(t, &when.Rhythm{Every: 2, Unit: when.Days, Times: 1}, w.Waits.Rhythm)
	run, stop := context.WithCancel(ctx)
	defer stop()
	events := f.Journal.Subscribe(run, 1, 1)
	for day, asked := range []int{0, 1, 1, 2, 2, 2, 2} {
		f.clock.t = w.Waits.Ask.At.Time().AddDate(0, 0, day-1)
		require.NoError(t, f.Agenda.CatchUp(ctx))
		require.Equal(t, asked, f.named(t, "Clause of Halvard").Waits.Asked, "day %d", day)
	}
	now := f.named(t, "Clause of Halvard")
	require.True(t, now.Card && now.Waits.InVain())
	var said []string
	for more := true; more; {
		select {
		case e := <-events:
			if e.Text != "" {
				said = append(said, e.Text)
			}
		default:
			more = false
		}
	}
	require.Equal(t, []string{"Reminder: Clause of Halvard", "No answer from Halvard: Clause of Halvard"}, said)
	f.step(t, followups.FollowUpStep{Kind: inbox.ChangeFollow, Change: &followups.NewFollowUp{Title: now.Title, Priority: followup.Urgent, With: now.With, Waits: now.Waits}}, now)
	require.Equal(t, followup.Urgent, f.named(t, "Clause of Halvard").Priority)
	require.True(t, f.named(t, "Clause of Halvard").Waits.InVain(), "another change leaves that said")
	require.Equal(t, "Waiting for Halvard, to ask again "+f.who.Week.Say(f.moment(t, "fri 9"), f.Now())+", then every 2 days until an answer comes.",
		f.step(t, followups.FollowUpStep{Kind: inbox.WaitFor, Ask: f.moment(t, "fri 9"), Rhythm: &when.Rhythm{Every: 2, Unit: when.Days}}, now).Text)
	require.Zero(t, f.named(t, "Clause of Halvard").Waits.Asked, "it begins anew")
	f.step(t, followups.FollowUpStep{Kind: inbox.WaitFor, With: mail.Address{Name: "Jonas", Address: "jonas@m.example"}, Ask: f.moment(t, "fri 9")}, f.named(t, "Clause of Halvard"))
	require.Nil(t, f.named(t, "Clause of Halvard").Waits.Rhythm, "how one asks somebody is not how one asks somebody else")
	f.sound(t)
}

func TestWaitingEndsWithAMessage(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("a@x", "Halvard <halvard@l.example>", "Clause 7"), letter("b@x", "Jonas <jonas@m.example>", "Report"))
	f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: []int64{1}, FollowUp: &followups.NewFollowUp{Title: "Wait for Halvard", Waits: followup.Wait{Since: f.Now(), Only: true, Ask: f.moment(t, "thu 9")}}})
	f.down(t, "Report of Jonas / waits for jonas / ask again wed")
	line, err := f.Dayline.Today(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, 2, line.Waiting)

	f.arrive(t, "Auto-Submitted: auto-replied\n"+f.letter("c@x", "halvard@l.example", "Away"))
	require.True(t, f.named(t, "Wait for Halvard").Waiting(), "a machine answers nothing")
	// Another matter of theirs is offered, and so is what somebody else writes in the conversation.
	f.arrive(t, f.letter("d@x", "Halvard <halvard@l.example>", "Timber"))
	f.arrive(t, "In-Reply-To: <a@x>\n"+f.letter("d2@x", "Greta <greta@l.example>", "Re: Clause 7"))
	waits := f.named(t, "Wait for Halvard")
	require.True(t, waits.Waiting())
	require.Len(t, waits.Waits.Offers, 2)
	timber := waits.Waits.Offers[0]
	slips, err := f.Queue.Slips(ctx, f.who, []int64{timber.Conversation, 1, 2})
	require.NoError(t, err)
	require.Equal(t, []string{"Wait for Halvard", "Wait for Halvard", ""}, []string{slips[0].Answers, slips[1].Answers, slips[2].Answers})
	view, err := f.Reading.Conversation(ctx, f.who, timber.Conversation)
	require.NoError(t, err)
	require.Equal(t, "Wait for Halvard", view.Offers[0].Title)
	require.Equal(t, timber, view.Offers[0].Candidate)
	require.Equal(t, "Not the answer: still waiting for Halvard.", f.step(t, followups.FollowUpStep{Kind: inbox.RefuseAnswer, Message: timber.Message}, waits).Text)
	require.Len(t, f.named(t, "Wait for Halvard").Waits.Offers, 1)
	_, err = f.FollowUps.StepAll(ctx, f.who, "", followups.FollowUpStep{Kind: inbox.AcceptAnswer, UIDs: []string{waits.UID}, Message: timber.Message})
	require.ErrorContains(t, err, "is not offered as the answer")
	greta := waits.Waits.Offers[1]
	require.Equal(t, "That is the answer: you need not wait any more.", f.step(t, followups.FollowUpStep{Kind: inbox.AcceptAnswer, Message: greta.Message}, waits).Text)
	require.Equal(t, followup.Completed, f.named(t, "Wait for Halvard").Status)
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.True(t, f.named(t, "Wait for Halvard").Waiting())

	events := f.Journal.Subscribe(ctx, 1, 1)
	f.arrive(t, "In-Reply-To: <a@x>\n"+f.letter("d3@x", "Halvard <halvard@l.example>", "Re: Clause 7"))
	over := f.named(t, "Wait for Halvard")
	require.Equal(t, followup.Completed, over.Status)
	require.NotZero(t, over.Waits.Ended)
	require.Contains(t, (<-events).Text, "Halvard has answered; you need not wait any more: “Wait for Halvard”.")
	require.Equal(t, "No answer yet: waiting for Halvard again.", f.step(t, followups.FollowUpStep{Kind: inbox.KeepWaiting}, over).Text)
	again := f.named(t, "Wait for Halvard")
	require.Equal(t, waits.Waits.Since, again.Waits.Since, "as long as before")
	_, err = f.FollowUps.StepAll(ctx, f.who, "", followups.FollowUpStep{Kind: inbox.KeepWaiting, UIDs: []string{over.UID}})
	require.ErrorContains(t, err, "could have been none")

	f.clock.t = f.moment(t, "wed 8:00").At.Time()
	require.NoError(t, f.Agenda.CatchUp(ctx))
	cards, err := f.FollowUps.Cards(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, "Report of Jonas", cards.Cards[0].Title, "it is time to ask again")
	f.step(t, followups.FollowUpStep{Kind: inbox.SeenReminder}, cards.Cards[0].FollowUp)
	f.arrive(t, f.letter("e@x", "Jonas <jonas@m.example>", "The report"))
	report := f.named(t, "Report of Jonas")
	require.True(t, report.Waiting(), "what is about no mail is answered only by who waits")
	f.step(t, followups.FollowUpStep{Kind: inbox.AcceptAnswer, Message: report.Waits.Offers[0].Message}, report)
	report = f.named(t, "Report of Jonas")
	require.True(t, report.Open() && !report.Waiting(), "it is mine again")
	_, err = f.FollowUps.StepAll(ctx, f.who, "", followups.FollowUpStep{Kind: inbox.WaitFor, UIDs: []string{report.UID}, Ask: when.Moment{At: 5}})
	require.ErrorContains(t, err, "still ahead")
	require.Contains(t, f.step(t, followups.FollowUpStep{Kind: inbox.WaitFor, With: mail.Address{Name: "Priya"}, Ask: f.moment(t, "fri 9")}, report).Text, "Waiting for Priya, to ask again Fri 27 Nov, 9:00.")
	f.sound(t)
}

// Several people are waited for: with all, each answer is told, and the last ends it.
func TestWaitingForAllOfThem(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("a@x", "Halvard <halvard@l.example>", "Dates"))
	f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: []int64{1}, FollowUp: &followups.NewFollowUp{Title: "Dates of all", Waits: followup.Wait{Since: f.Now(), Only: true, All: true,
		Also: []mail.Address{{Name: "Greta", Address: "greta@l.example"}}}}})
	events := f.Journal.Subscribe(ctx, 1, 1)
	f.arrive(t, "In-Reply-To: <a@x>\n"+f.letter("b@x", "Greta <greta@l.example>", "Re: Dates"))
	waits := f.named(t, "Dates of all")
	require.True(t, waits.Waiting())
	require.Len(t, waits.Waits.Have, 1)
	require.Equal(t, "Greta has answered “Dates of all”; 1 still has to.", (<-events).Text)
	f.arrive(t, "In-Reply-To: <a@x>\n"+f.letter("c@x", "Halvard <halvard@l.example>", "Re: Dates"))
	require.Equal(t, followup.Completed, f.named(t, "Dates of all").Status)
	f.sound(t)

	many := make([]mail.Address, followup.MaxAlso+1)
	_, err := f.Decisions.Decide(ctx, f.who, "", decide.Decision{Kind: inbox.MakeFollowUp, Conversations: []int64{1}, FollowUp: &followups.NewFollowUp{Title: "Too many", Waits: followup.Wait{Since: f.Now(), Also: many}}})
	require.ErrorContains(t, err, "at most 10 people")
}

// A held answer ends no waiting before it comes in.
func TestAHeldAnswerEndsTheWaitingWhenItComesIn(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.plan(t, "every day 9, 14")
	f.take(t, letter("a@x", halvardFrom, "Clause 7"))
	f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: []int64{1}, FollowUp: &followups.NewFollowUp{Title: "Clause 7", Waits: followup.Wait{Since: f.Now()}}})
	f.arrive(t, "In-Reply-To: <a@x>\n"+f.letter("d@x", halvardFrom, "Re: Clause 7"))
	require.True(t, f.named(t, "Clause 7").Waiting(), "out of sight, it must not show")
	f.until(t, "14:00")
	require.False(t, f.named(t, "Clause 7").Waiting())

	// So it does when another message brings it into view with it.
	f.until(t, "14:01")
	f.step(t, followups.FollowUpStep{Kind: inbox.KeepWaiting}, f.named(t, "Clause 7"))
	f.arrive(t, "In-Reply-To: <a@x>\n"+f.letter("e@x", halvardFrom, "Re: Clause 7"))
	require.True(t, f.named(t, "Clause 7").Waiting())
	require.NoError(t, f.Delivery.LetPass(ctx, f.who, delivery.Exception{By: delivery.BySender, Value: "mirela@c.example"}))
	f.arrive(t, "In-Reply-To: <a@x>\n"+f.letter("f@x", mirelaFrom, "Re: Clause 7"))
	require.False(t, f.named(t, "Clause 7").Waiting())
	f.sound(t)
}

func TestManyCardsAreOneSentence(t *testing.T) {
	f := newOffice(t, store.Options{})
	for i := range 9 {
		f.down(t, fmt.Sprintf("Thing %d / %s / remind tomorrow 9 / tomorrow 8:30", i, []string{"low", "urgent"}[i%2]))
	}
	f.clock.t = begin.Add(48 * time.Hour)
	f.reopen(t)
	events := f.Journal.Subscribe(ctx, 1, 1)
	require.NoError(t, f.Agenda.CatchUp(ctx))
	notice := ""
	for notice == "" {
		notice = (<-events).Text
	}
	require.Contains(t, notice, "9 reminders have come up.")
	cards, err := f.FollowUps.Cards(ctx, f.who)
	require.NoError(t, err)
	require.Empty(t, cards.Cards)
	require.Regexp(t, "^9 reminders have come up: 4 urgent, 9 late. The first is “Thing [1357]”.$", cards.Sum)
	_, err = f.FollowUps.PutCardsAway(ctx, f.who, "")
	require.NoError(t, err)
	cards, err = f.FollowUps.Cards(ctx, f.who)
	require.NoError(t, err)
	require.Zero(t, cards.Count)
	f.sound(t)
}

func TestTheProposalForAMessage(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("a@x", "Mirela Dossett <mirela@c.example>", "Crates"))
	f.take(t, "From: Mirela Dossett <mirela@c.example>\nTo: solvei@m.example\nSubject: Crates again\nDate: Tue, 24 Nov 2026 09:30:00 +0100\nMessage-ID: <b@x>\n\nCould you confirm the crate sizes by Thursday noon?\n\n> Would you send the old ones?\n")
	f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: []int64{1}, FollowUp: &followups.NewFollowUp{Title: "Measure", Project: "loans"}})
	p, err := f.FollowUps.Proposal(ctx, f.who, 2)
	require.NoError(t, err)
	require.Equal(t, "Confirm the crate sizes", p.Title)
	require.Equal(t, "2026-11-26T12:00", p.Due.Local)
	require.Equal(t, "loans", p.Project, "as with her before")
	require.False(t, p.Known)
	f.clock.t = begin.Add(100 * time.Hour)
	p, err = f.FollowUps.Proposal(ctx, f.who, 2)
	require.NoError(t, err)
	require.True(t, p.Due.IsZero(), "a time that has passed is not proposed")
}

func invited(id, from, method string, sequence int, start string, more ...string) string {
	return fmt.Sprintf("From: %s\nTo: solvei@m.example\nSubject: Talk\nDate: Tue, 24 Nov 2026 09:%02d:00 +0100\nMessage-ID: <%s>\nContent-Type: text/calendar; method=%s\n\n%s", from, len(id), id, method,
		strings.Join(append(append([]string{"BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:x", "METHOD:" + method, "BEGIN:VEVENT", "UID:talk@x", "DTSTAMP:20261101T000000Z", fmt.Sprint("SEQUENCE:", sequence), "SUMMARY:Talk",
			"DTSTART;TZID=Europe/Oslo:" + start, "DURATION:PT1H", "ORGANIZER;CN=Grete:mailto:grete@x.example", "ATTENDEE;CN=Solvei:mailto:solvei@m.example"}, more...), "END:VEVENT", "END:VCALENDAR", ""), "\n"))
}

func TestInvitationsAreShownAndAnswered(t *testing.T) {
	f := newOffice(t, store.Options{})
	_, err := f.Calendar.PutEvent(ctx, f.who, "", "", calendars.EventDraft{Title: "Call", Start: f.moment(t, "thu 9:30"), End: f.moment(t, "thu 10:30"), Remind: 15})
	require.NoError(t, err)
	f.take(t, invited("a@x", "Grete <grete@x.example>", "REQUEST", 0, "20261126T100000"))
	look := func(id int64) calendars.Invitation {
		t.Helper()
		v, err := f.Reading.Conversation(ctx, f.who, id)
		require.NoError(t, err)
		require.Len(t, v.Invitations, 1)
		return v.Invitations[0]
	}
	i := look(1)
	require.Equal(t, calendar.Fresh, i.News)
	require.Equal(t, "Call", i.Clashes[0].Title)
	out, err := f.Calendar.AnswerInvitation(ctx, f.who, "k", i.Message, "talk@x", calendar.Yes, "")
	require.NoError(t, err)
	require.Equal(t, "Accepted, Thu 26 Nov, 10:00. The answer waits in the outbox until there is an account to send it with.", out.Text)
	_, err = f.Calendar.AnswerInvitation(ctx, f.who, "k", i.Message, "talk@x", calendar.Yes, "")
	require.NoError(t, err)
	box, err := f.Writing.Outbox(ctx, f.who, 0)
	require.NoError(t, err)
	require.Len(t, box.Messages, 1, "the same request answers once")
	require.Equal(t, "Accepted: Talk", box.Messages[0].Subject)
	require.Equal(t, "grete@x.example", box.Messages[0].To.Address)
	require.Equal(t, calendar.Known, look(1).News)
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	box, err = f.Writing.Outbox(ctx, f.who, 0)
	require.NoError(t, err)
	require.Empty(t, box.Messages, "taken back, nothing is sent")
	require.Equal(t, calendar.Fresh, look(1).News)
	_, err = f.Journal.Again(ctx, f.who, "")
	require.NoError(t, err)

	f.take(t, invited("bb@x", "Grete <grete@x.example>", "REQUEST", 1, "20261126T110000"))
	moved := look(2)
	require.Equal(t, calendar.Moved, moved.News)
	require.Equal(t, "2026-11-26T10:00", moved.Have.Start.Local)
	_, err = f.Calendar.AnswerInvitation(ctx, f.who, "", moved.Message, "talk@x", calendar.No, "I am on the train.")
	require.NoError(t, err)
	require.Equal(t, calendar.Outdated, look(1).News)
	_, err = f.Calendar.AnswerInvitation(ctx, f.who, "", i.Message, "talk@x", calendar.Yes, "")
	require.ErrorContains(t, err, "newer version")
	f.take(t, invited("ccc@x", "Grete <grete@x.example>", "CANCEL", 2, "20261126T110000", "STATUS:CANCELLED"))
	off := look(3)
	require.Equal(t, calendar.CalledOff, off.News)
	_, err = f.Calendar.AnswerInvitation(ctx, f.who, "", off.Message, "talk@x", calendar.Yes, "")
	require.ErrorContains(t, err, "called this off")
	out, err = f.Calendar.AnswerInvitation(ctx, f.who, "", off.Message, "talk@x", "", "")
	require.NoError(t, err)
	require.Equal(t, "Marked as called off in the calendar.", out.Text)
	box, err = f.Writing.Outbox(ctx, f.who, 0)
	require.NoError(t, err)
	require.Len(t, box.Messages, 2)
	require.Equal(t, "I am on the train.", box.Messages[0].Text)
	f.sound(t)
}

func TestTheWeekOfTheCalendar(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, "From: Oona <oona@v.example>\nTo: solvei@m.example\nSubject: Rooms\nDate: Tue, 24 Nov 2026 09:30:00 +0100\nMessage-ID: <a@x>\n\nShall we meet on Friday from 14:00 to 15:30, or on Monday at 9:00?\n", letter("bb@x", "jonas@m.example", "Later"))
	times, err := f.Calendar.FindTimes(ctx, f.who, 1)
	require.NoError(t, err)
	require.Equal(t, "Rooms", times.Title)
	require.Equal(t, []string{"Fri 27 Nov, 14:00 to 15:30", "Mon 30 Nov, 9:00"}, []string{times.Times[0].Means, times.Times[1].Means})
	require.Equal(t, "oona@v.example", times.Guests[0].Address.Address)
	_, err = f.Calendar.PutEvent(ctx, f.who, "", "", calendars.EventDraft{Title: times.Title, Start: times.Times[0].Start, End: times.Times[0].End, Guests: times.Guests, Remind: 30, Conversation: 1, Archive: true})
	require.NoError(t, err)
	require.Len(t, f.queue(t), 1, "its mail left the inbox")
	_, err = f.Calendar.PutEvent(ctx, f.who, "", "", calendars.EventDraft{Title: "Round", Start: f.moment(t, "mon 9:00"), Rule: "FREQ=WEEKLY", Remind: -1})
	require.NoError(t, err)
	f.down(t, "Ring / fri 10")
	f.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{2}, Return: f.moment(t, "thu 8:00")})
	w, err := f.Calendar.Week(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, "2026-11-23", w.From)
	require.Equal(t, "Rooms", w.Days[4].Slots[0].Title)
	require.Equal(t, "Ring", w.Days[4].Due[0].Title)
	require.Equal(t, 1, w.Days[4].Open)
	require.EqualValues(t, 2, w.Days[3].Back[0].ID)
	spring, err := f.Calendar.Week(ctx, f.who, "2027-03-31")
	require.NoError(t, err)
	require.Equal(t, 9, spring.Days[0].Slots[0].From.In(f.who.Week.Location()).Hour(), "after the change of the clocks, too")

	v, err := f.Reading.Conversation(ctx, f.who, 1)
	require.NoError(t, err)
	require.Equal(t, "a@x", v.Events[0].Message)
	f.clock.t = v.Events[0].Start.At.Time().Add(-30 * time.Minute)
	f.reopen(t)
	require.NoError(t, f.Agenda.CatchUp(ctx))
	require.NoError(t, f.Agenda.CatchUp(ctx))
	cards, err := f.FollowUps.Cards(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, cards.Events, 1)
	before := f.clock.t
	f.clock.t = v.Events[0].End.At.Time().Add(18 * time.Hour)
	cards, err = f.FollowUps.Cards(ctx, f.who)
	require.NoError(t, err)
	require.Empty(t, cards.Events, "a meeting of Wednesday is no card on Thursday")
	f.clock.t = before
	_, err = f.Calendar.StepEvent(ctx, f.who, "", v.Events[0].UID, inbox.SeenReminder)
	require.NoError(t, err)
	_, err = f.Calendar.PutEvent(ctx, f.who, "", v.Events[0].UID, calendars.EventDraft{Title: "Rooms", Start: f.moment(t, "mon 11:00"), End: f.moment(t, "mon 10:00"), Remind: -1})
	require.ErrorContains(t, err, "end before it starts")
	_, err = f.Calendar.StepEvent(ctx, f.who, "", v.Events[0].UID, inbox.DropEvent)
	require.NoError(t, err)
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	_, err = f.Calendar.Week(ctx, f.who, "someday")
	require.ErrorContains(t, err, "no day")
	f.sound(t)
}

func TestCalendarFilesThereAndBack(t *testing.T) {
	f := newOffice(t, store.Options{})
	l, err := f.Labels.Make(ctx, f.who, "loans / leg two")
	require.NoError(t, err)
	f.take(t, letter("a@x", "Halvard <halvard@l.example>", "Clause 7"))
	f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: []int64{1}, FollowUp: &followups.NewFollowUp{Title: "Strike clause 7", Labels: []int64{l.ID}, Due: f.moment(t, "thu noon"), Checklist: []followup.Item{{Text: "ask Jonas"}}}})
	f.down(t, "Ring / every mon / under way / remind 1 day before at 10 / takes 45 min")
	f.down(t, "Wait / waits for halvard / ask again fri 9")
	f.step(t, followups.FollowUpStep{Kind: inbox.FinishFollow}, f.down(t, "Done / today"))
	f.step(t, followups.FollowUpStep{Kind: inbox.DropFollow}, f.down(t, "Given up / today"))
	_, err = f.Calendar.PutEvent(ctx, f.who, "", "", calendars.EventDraft{Title: "Fair", Start: f.moment(t, "4 dec").Day(f.who.Week.Location()), Remind: -1})
	require.NoError(t, err)
	first, err := f.Calendar.Export(ctx, f.who)
	require.NoError(t, err)

	other := newOffice(t, store.Options{})
	in, err := other.Calendar.TakeIn(ctx, other.who, "k", first)
	require.NoError(t, err)
	require.Equal(t, []int{5, 1, 0}, []int{in.FollowUps, in.Events, len(in.Doubts)}, in.Text)
	second, err := other.Calendar.Export(ctx, other.who)
	require.NoError(t, err)
	require.Equal(t, string(first), string(second), "export, import into an empty Ebbe, export: equal")
	again, err := other.Calendar.TakeIn(ctx, other.who, "", first)
	require.NoError(t, err)
	require.Equal(t, []int{0, 0, 6}, []int{again.FollowUps, again.Events, again.Known})
	other.take(t, letter("a@x", "Halvard <halvard@l.example>", "Clause 7"))
	v, err := other.FollowUps.One(ctx, other.who, other.named(t, "Strike clause 7").UID)
	require.NoError(t, err)
	require.EqualValues(t, 1, v.Conversation, "it finds its message by Message-ID when that comes in")
	_, err = other.Journal.TakeBack(ctx, other.who, "")
	require.NoError(t, err)
	empty, err := other.Calendar.Export(ctx, other.who)
	require.NoError(t, err)
	require.NotContains(t, string(empty), "VTODO", "the file was one step")
	other.sound(t)

	for raw, want := range map[string]string{"nothing": "this is no calendar file", string(make([]byte, calendars.MaxCalendar+1)): "larger than 20 MB"} {
		_, err = other.Calendar.TakeIn(ctx, other.who, "", []byte(raw))
		require.ErrorContains(t, err, want)
	}
	csv, err := f.Calendar.ExportCSV(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, 6, bytes.Count(csv, []byte("\r\n")), "a header line, and one each")
}

func TestThePrivateFeed(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.down(t, "Ring / fri 10")
	_, err := f.Calendar.Feed(ctx, "")
	require.ErrorIs(t, err, store.ErrNotFound, "there is none until it is wanted")
	secret, err := f.Calendar.MakeFeed(ctx, f.who, false)
	require.NoError(t, err)
	raw, err := f.Calendar.Feed(ctx, secret)
	require.NoError(t, err)
	c, err := ical.Read(raw, time.UTC)
	require.NoError(t, err)
	require.Equal(t, "Ring", c.Todos[0].Title)
	fresh, err := f.Calendar.MakeFeed(ctx, f.who, false)
	require.NoError(t, err)
	_, err = f.Calendar.Feed(ctx, secret)
	require.ErrorIs(t, err, store.ErrNotFound, "the old address has ended")
	_, err = f.Calendar.MakeFeed(ctx, f.who, true)
	require.NoError(t, err)
	_, err = f.Calendar.Feed(ctx, fresh)
	require.ErrorIs(t, err, store.ErrNotFound)
}

// Any steps with follow-ups, any stops of the clock: taken back one by one,
// everything is as it was, and the agenda agrees with what is stored throughout.
func TestAnyStepsWithFollowUpsTakenBack(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		f := newOffice(t, store.Options{})
		for i := range 4 {
			f.down(t, fmt.Sprintf("Thing %d / %s", i, []string{"today / every day", "fri 10 / remind 1 day before", "waits for jonas / ask again thu", "low"}[i]))
		}
		all := func() string {
			raw, err := f.Calendar.Export(ctx, f.who)
			require.NoError(t, err)
			var lines []string // when something was last changed is no part of what it is
			for line := range strings.SplitSeq(string(raw), "\r\n") {
				if !strings.HasPrefix(line, "LAST-MODIFIED") && !strings.HasPrefix(line, "DTSTAMP") {
					lines = append(lines, line)
				}
			}
			return strings.Join(lines, "\n")
		}
		var states []string
		kinds := []inbox.Kind{inbox.FinishFollow, inbox.DropFollow, inbox.ReopenFollow, inbox.PutOff, inbox.PutInStage, inbox.WaitFor}
		for range rapid.IntRange(1, 8).Draw(rt, "steps") {
			title := fmt.Sprintf("Thing %d", rapid.IntRange(0, 3).Draw(rt, "which"))
			s := followups.FollowUpStep{Kind: rapid.SampledFrom(kinds).Draw(rt, "kind"), UIDs: []string{f.named(t, title).UID}, Day: day(rapid.IntRange(0, 9).Draw(rt, "day")), With: mail.Address{Name: "Priya"},
				Stage: rapid.SampledFrom([]string{"todo", "under-way", "others", "finished"}).Draw(rt, "stage")}
			before := all()
			out, err := f.FollowUps.StepAll(ctx, f.who, "", s)
			if err == nil && out.Entry != 0 {
				states = append(states, before)
			}
		}
		f.sound(t)
		for i := len(states) - 1; i >= 0; i-- {
			_, err := f.Journal.TakeBack(ctx, f.who, "")
			require.NoError(t, err)
			require.Equal(t, states[i], all())
		}
		f.sound(t)
	})
}

// What is accepted as the answer of one of several leaves the others to come.
func TestAnAcceptedAnswerOfOneOfSeveral(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("a@x", "Halvard <halvard@l.example>", "Dates"))
	f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: []int64{1}, FollowUp: &followups.NewFollowUp{Title: "Dates of all", Waits: followup.Wait{Since: f.Now(), Only: true, All: true,
		Also: []mail.Address{{Name: "Greta", Address: "greta@l.example"}}}}})
	f.arrive(t, f.letter("b@x", "Greta <greta@l.example>", "My dates"))
	waits := f.named(t, "Dates of all")
	require.Len(t, waits.Waits.Offers, 1)
	require.Equal(t, "That is an answer. Still to come: 1.", f.step(t, followups.FollowUpStep{Kind: inbox.AcceptAnswer, Message: waits.Waits.Offers[0].Message}, waits).Text)
	waits = f.named(t, "Dates of all")
	require.True(t, waits.Waiting())
	require.Empty(t, waits.Waits.Offers)
	f.sound(t)
}
