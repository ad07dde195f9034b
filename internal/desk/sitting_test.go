package desk

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/followups"
	"ebbe/internal/desk/labelling"
	"ebbe/internal/desk/queue"
	"ebbe/internal/journal"
	"ebbe/internal/store"
)

// note is a message with any header.
func note(id, from, to, subject string, at time.Time, more ...string) string {
	return fmt.Sprintf("From: %s\nTo: %s\nSubject: %s\nDate: %s\nMessage-ID: <%s>\n%s\ntext\n", from, to, subject, at.Format(time.RFC1123Z), id, strings.Join(append(more, ""), "\n"))
}

const me = "solvei@m.example"

// mixed is an inbox of all sorts, by subject.
func (f *office) mixed(t testing.TB) map[string]int64 {
	t.Helper()
	at := func(hours int) time.Time { return begin.Add(-time.Duration(hours) * time.Hour) }
	f.take(t,
		note("1@x", "Mirela <mirela@c.example>", me, "Crates 1", at(1)),
		note("2@x", "Mirela <mirela@c.example>", me, "Crates 22", at(30)),
		note("3@x", "Tomasz <tomasz@m.example>", me+", jonas@m.example", "Fan", at(2)),
		note("4@x", "Jonas <jonas@m.example>", "priya@m.example", "Copy", at(3), "Cc: "+me),
		note("5@x", "Weekly <w@list.example>", me, "Weekly 7", at(4), "List-Id: <w>"),
		note("6@x", "Weekly <w@list.example>", me, "Weekly 8", at(50), "List-Id: <w>"),
		note("7@x", "noreply@vault.example", me, "Humidity 59 %", at(5)),
	)
	ids := map[string]int64{}
	for _, s := range f.queue(t) {
		ids[s.Subject] = s.ID
	}
	return ids
}

func TestTheInboxArranged(t *testing.T) {
	f := newOffice(t, store.Options{})
	ids := f.mixed(t)
	f.decide(t, inbox.Star, decide.Decision{Conversations: []int64{ids["Fan"]}})
	f.decide(t, inbox.MarkRead, decide.Decision{Conversations: []int64{ids["Copy"]}})
	f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: []int64{ids["Weekly 7"]}, FollowUp: &followups.NewFollowUp{Title: "Read it", Keep: true}})
	names := func(list []int64) (out []string) {
		slips, err := f.Queue.Slips(ctx, f.who, list)
		require.NoError(t, err)
		for _, s := range slips {
			out = append(out, s.Subject)
		}
		return out
	}
	for _, c := range []struct {
		a    queue.Arrangement
		want string
	}{
		{queue.Arrangement{Group: inbox.BySender}, "mirela@c.example: Crates 1, Crates 22; w@list.example: Weekly 7, Weekly 8; tomasz@m.example: Fan; jonas@m.example: Copy; noreply@vault.example: Humidity 59 %"},
		{queue.Arrangement{Group: inbox.BySender, Order: inbox.OldestFirst}, "mirela@c.example: Crates 22, Crates 1; w@list.example: Weekly 8, Weekly 7; tomasz@m.example: Fan; jonas@m.example: Copy; noreply@vault.example: Humidity 59 %"},
		{queue.Arrangement{Group: inbox.ByKind, Order: inbox.MostImportant}, "person: Crates 22, Crates 1, Fan, Copy; list: Weekly 8, Weekly 7; notice: Humidity 59 %"},
		{queue.Arrangement{Group: inbox.ByDay}, "2026-11-24: Crates 1, Fan, Copy, Weekly 7, Humidity 59 %; 2026-11-23: Crates 22; 2026-11-22: Weekly 8"},
		{queue.Arrangement{Group: inbox.ByAccount, Order: inbox.SenderFirst}, me + ": Copy, Crates 1, Crates 22, Humidity 59 %, Fan, Weekly 7, Weekly 8"},
		{queue.Arrangement{Where: search.Query{Starred: true}}, "arrived-today: Fan"},
		{queue.Arrangement{Where: search.Query{Unread: true, Kind: mail.Person}}, "arrived-today: Crates 1, Fan; yesterday: Crates 22"},
		{queue.Arrangement{Where: search.Query{Flagged: true}}, "arrived-today: Weekly 7"},
		{queue.Arrangement{Where: search.Query{Reach: mail.Copied}}, "arrived-today: Copy"},
		{queue.Arrangement{Where: search.Query{Reach: mail.Alone, Before: when.Of(begin.Add(-40 * time.Hour))}}, "older: Weekly 8"},
		{queue.Arrangement{Where: search.Query{From: "mirela@c.example", Words: "crate 22"}}, "yesterday: Crates 22"},
	} {
		keys, groups := f.groups(t, c.a)
		var got []string
		for i := range keys {
			got = append(got, keys[i]+": "+strings.Join(names(groups[i]), ", "))
		}
		require.Equal(t, c.want, strings.Join(got, "; "), "%+v", c.a)
	}
	alike, err := f.Queue.Alike(ctx, f.who, ids["Crates 1"], true)
	require.NoError(t, err)
	require.Equal(t, []string{"Crates 1", "Crates 22"}, names(alike))
	s, err := f.Queue.Senders(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, 7, s.Left)
	require.Equal(t, "mirela@c.example", s.Senders[0].Address)
	require.Equal(t, []any{2, 2, true}, []any{s.Senders[0].Count, s.Senders[0].Unread, s.Senders[0].Person})
	require.False(t, s.Senders[1].Person)
	require.Equal(t, 1, s.Senders[4].Starred)
}

// A sitting takes the undecided in the order chosen, remembers what was left,
// and outlives the program; its sum counts what still stands.
func TestASitting(t *testing.T) {
	f := newOffice(t, store.Options{})
	ids := f.mixed(t)
	subjects := func(v queue.SittingView) (out []string) {
		for _, s := range v.Slips {
			out = append(out, s.Subject)
		}
		return out
	}
	for order, want := range map[inbox.Order][]string{
		inbox.MostImportant: {"Crates 22", "Crates 1", "Fan", "Copy", "Humidity 59 %", "Weekly 8", "Weekly 7"},
		inbox.OldestFirst:   {"Weekly 8", "Crates 22", "Humidity 59 %", "Weekly 7", "Copy", "Fan", "Crates 1"},
		inbox.SenderFirst:   {"Copy", "Crates 1", "Crates 22", "Humidity 59 %", "Fan", "Weekly 7", "Weekly 8"},
	} {
		v, err := f.Queue.Sit(ctx, f.who, queue.Sit{Order: order})
		require.NoError(t, err)
		if order == inbox.SenderFirst {
			slices.Sort(want)
			got := subjects(v)
			slices.Sort(got)
			require.Equal(t, want, got)
			continue
		}
		require.Equal(t, want, subjects(v), order)
	}
	v, err := f.Queue.Sit(ctx, f.who, queue.Sit{Order: inbox.MostImportant, Minutes: 10, Where: &search.Query{Kind: mail.Person}})
	require.NoError(t, err)
	require.Equal(t, []string{"Crates 22", "Crates 1", "Fan", "Copy"}, subjects(v))
	step := func(kind inbox.Kind, subject string, after time.Duration) journal.Decided {
		f.clock.t = f.clock.t.Add(after)
		return f.decide(t, kind, decide.Decision{Conversations: []int64{ids[subject]}, Sitting: v.ID, Seen: inbox.Inbox, Return: f.moment(t, "next week")})
	}
	step(inbox.Archive, "Crates 22", 6*time.Second)
	require.Equal(t, "Left undecided. Looks so far: 1.", step(inbox.Leave, "Crates 1", 30*time.Second).Text)
	step(inbox.Snooze, "Fan", 10*time.Second)
	f.reopen(t)
	v, err = f.Queue.Sitting(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, []int64{ids["Copy"]}, v.Queue)
	require.Equal(t, inbox.Sum{Decided: 2, Left: 1, Median: 8, ByKind: map[inbox.Kind]int{inbox.Archive: 1, inbox.Snooze: 1}}, v.Sum)

	for range 2 { // the snooze and the leaving are taken back
		_, err = f.Journal.TakeBack(ctx, f.who, "")
		require.NoError(t, err)
	}
	v, err = f.Queue.Sitting(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, []int64{ids["Crates 1"], ids["Fan"], ids["Copy"]}, v.Queue, "in their places again")
	require.Equal(t, 1, v.Sum.Decided)
	f.decide(t, inbox.ToBin, decide.Decision{Conversations: []int64{ids["Fan"]}}) // outside of the sitting
	v, err = f.Queue.EndSitting(ctx, f.who)
	require.NoError(t, err)
	require.NotZero(t, v.Ended)
	require.Equal(t, 1, v.Sum.Decided)
	step(inbox.Archive, "Copy", time.Second) // after its end: decided, but not in the sitting
	v, err = f.Queue.Sitting(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, 1, v.Sum.Decided)

	_, err = f.Queue.Sit(ctx, f.who, queue.Sit{Where: &search.Query{Starred: true}})
	require.ErrorContains(t, err, "nothing to decide here")
	_, err = f.Queue.Sit(ctx, f.who, queue.Sit{Minutes: 500})
	require.ErrorContains(t, err, "up to 240 minutes")
	f.sound(t)
}

// Many at once: what another tab has decided meanwhile stays as it is and is
// counted; one step takes all back.
func TestDecidingManyWhileOthersDecide(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.fill(t, 5000)
	var ids []int64
	for id := int64(1); id <= 5000; id++ {
		ids = append(ids, id)
	}
	f.decide(t, inbox.Archive, decide.Decision{Conversations: ids[:3]})
	out := f.decide(t, inbox.ToBin, decide.Decision{Conversations: append(slices.Clone(ids), ids[:10]...), Seen: inbox.Inbox})
	require.Equal(t, []any{4997, 3, 0}, []any{out.Count, out.Stale, out.Left})
	require.Equal(t, "Binned 4997. 3 had been decided elsewhere meanwhile and stay as they are.", out.Text)
	out = f.decide(t, inbox.ToBin, decide.Decision{Conversations: ids[:3], Seen: inbox.Inbox})
	require.Zero(t, out.Entry)
	require.Contains(t, out.Text, "decided elsewhere meanwhile, so nothing was changed")
	_, err := f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	m, err := f.Queue.Matching(ctx, f.who, search.Query{})
	require.NoError(t, err)
	require.Equal(t, 4997, m.Count)
	f.decide(t, inbox.Snooze, decide.Decision{Conversations: ids[3:103], Seen: inbox.Inbox, Return: f.moment(t, "tomorrow")})
	days, err := f.Dayline.Days(ctx, f.who, 14)
	require.NoError(t, err)
	require.Equal(t, 100, days[1].Back)
	f.sound(t)
}

func TestTheRestAndAFreshStart(t *testing.T) {
	f := newOffice(t, store.Options{})
	ids := f.mixed(t)
	f.decide(t, inbox.Star, decide.Decision{Conversations: []int64{ids["Fan"], ids["Weekly 8"]}})
	out := f.decide(t, inbox.FreshStart, decide.Decision{Where: &search.Query{Before: when.Of(begin.Add(-10 * time.Hour)), Unstarred: true}})
	require.Equal(t, "A fresh start: archived 1. What gets a new message comes back by itself.", out.Text)
	f.clock.t = begin.Add(time.Hour)
	f.take(t, note("8@x", "Mirela <mirela@c.example>", me, "Re: Crates 22", f.clock.t, "References: <2@x>"))
	require.Equal(t, 7, len(f.queue(t)), "a new message brings it back")
	out = f.decide(t, inbox.Rest, decide.Decision{})
	require.Equal(t, []any{5, 2}, []any{out.Count, out.Left})
	_, err := f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, 7, len(f.queue(t)))
	out = f.decide(t, inbox.Archive, decide.Decision{Where: &search.Query{From: "nobody@x.example"}})
	require.Contains(t, out.Text, "nothing of that kind in the inbox")
	out = f.decide(t, inbox.Archive, decide.Decision{Where: &search.Query{From: "w@list.example"}})
	require.Equal(t, 2, out.Count)
	f.sound(t)
}

// One old step is taken back by itself if nothing since depends on it; else
// the answer says what does.
func TestTakingBackOneOldStep(t *testing.T) {
	f := newOffice(t, store.Options{})
	ids := f.mixed(t)
	star := f.decide(t, inbox.Star, decide.Decision{Conversations: []int64{ids["Fan"]}})
	archived := f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{ids["Fan"], ids["Copy"]}})
	f.decide(t, inbox.ToBin, decide.Decision{Conversations: []int64{ids["Crates 1"]}})
	out, err := f.Journal.TakeBackStep(ctx, f.who, "", star.Entry)
	require.NoError(t, err)
	require.Equal(t, "Taken back: “Fan”.", out.Text)
	_, err = f.Journal.TakeBackStep(ctx, f.who, "", star.Entry)
	require.ErrorContains(t, err, "taken back already")
	snoozed := f.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{ids["Copy"]}, Return: f.moment(t, "tomorrow")})
	_, err = f.Journal.TakeBackStep(ctx, f.who, "", archived.Entry)
	require.ErrorContains(t, err, "“Copy” has changed since (snoozed, Tue 24 Nov, 10:42). Take that back first")
	require.Equal(t, 4, len(f.queue(t)), "nothing was changed by asking")
	_, err = f.Journal.TakeBackStep(ctx, f.who, "", snoozed.Entry)
	require.NoError(t, err)
	_, err = f.Journal.TakeBackStep(ctx, f.who, "", archived.Entry)
	require.NoError(t, err)
	require.Equal(t, 6, len(f.queue(t)))
	_, err = f.Journal.TakeBackStep(ctx, f.who, "", 1)
	require.ErrorContains(t, err, "not a decision of yours")
	_, err = f.Journal.TakeBackStep(ctx, f.who, "", 9999)
	require.ErrorIs(t, err, store.ErrNotFound)

	h, err := f.Reading.History(ctx, f.who, store.Past{Conversation: ids["Fan"]})
	require.NoError(t, err)
	require.Len(t, h.Lines, 4, "starred, archived, and both taken back")
	h, err = f.Reading.History(ctx, f.who, store.Past{Actor: store.ByMail})
	require.NoError(t, err)
	require.Len(t, h.Lines, 1)
	h, err = f.Reading.History(ctx, f.who, store.Past{Until: when.Of(begin.AddDate(0, 0, -1))})
	require.NoError(t, err)
	require.Empty(t, h.Lines)
	f.sound(t)
}

func TestLabels(t *testing.T) {
	f := newOffice(t, store.Options{})
	ids := f.mixed(t)
	leg, err := f.Labels.Make(ctx, f.who, "loans / leg  two")
	require.NoError(t, err)
	require.Equal(t, "loans / leg two", leg.Path)
	same, err := f.Labels.Make(ctx, f.who, "Loans/Leg two")
	require.NoError(t, err)
	require.Equal(t, leg.ID, same.ID, "it is found, not made twice")
	loans := leg.Parent
	f.decide(t, inbox.Label, decide.Decision{Conversations: []int64{ids["Fan"], ids["Copy"]}, Add: []int64{leg.ID}})
	f.decide(t, inbox.Label, decide.Decision{Conversations: []int64{ids["Copy"]}, Add: []int64{loans}})
	found := func(label int64) int {
		l, err := f.Queue.Find(ctx, f.who, search.Query{Label: label}, "")
		require.NoError(t, err)
		return len(l.Slips)
	}
	require.Equal(t, []int{2, 2}, []int{found(loans), found(leg.ID)}, "a label finds what is below it")

	leg.Name, leg.Parent = "second leg", 0
	require.NoError(t, f.relabel(leg))
	require.Equal(t, 1, found(loans))
	require.ErrorContains(t, f.relabel(labelling.LabelView{ID: loans, Name: "second leg", Color: "tide", Mark: "dot"}), "There is a label “second leg”")
	require.ErrorContains(t, f.relabel(labelling.LabelView{ID: loans, Name: "x", Color: "coral", Mark: "dot"}), "colours and marks offered")
	require.NoError(t, f.relabel(labelling.LabelView{ID: loans, Name: "loans", Parent: leg.ID, Color: "deep", Mark: "bar"}))
	leg.Parent = loans
	require.ErrorContains(t, f.relabel(leg), "below itself")
	_, err = f.Labels.Make(ctx, f.who, " / ")
	require.ErrorContains(t, err, "short name")

	before := f.everything(t)
	_, err = f.Decisions.DropLabel(ctx, f.who, "", leg.ID)
	require.NoError(t, err)
	labels, err := f.Labels.All(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, labels, 1)
	require.Equal(t, "loans", labels[0].Path, "what was below it has moved up")
	for _, s := range f.everything(t) {
		require.NotContains(t, s.Labels, leg.ID)
	}
	_, err = f.Decisions.Decide(ctx, f.who, "", decide.Decision{Kind: inbox.Label, Conversations: []int64{ids["Fan"]}, Add: []int64{leg.ID}})
	require.ErrorContains(t, err, "deleted meanwhile")
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, before, f.everything(t))
	labels, err = f.Labels.All(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, labels, 2, "the label is back")
	_, err = f.Journal.Again(ctx, f.who, "")
	require.NoError(t, err)
	labels, err = f.Labels.All(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, labels, 1, "and deleted again")
	f.sound(t)
}

func TestPlaces(t *testing.T) {
	f := newOffice(t, store.Options{})
	ids := f.mixed(t)
	shop, err := f.Labels.PutSite(ctx, f.who, "", 0, " the  workshop ")
	require.NoError(t, err)
	again, err := f.Labels.PutSite(ctx, f.who, "", 0, "The workshop")
	require.NoError(t, err)
	require.Equal(t, shop.ID, again.ID)
	quay, err := f.Labels.PutSite(ctx, f.who, "", 0, "the quay")
	require.NoError(t, err)
	_, err = f.Labels.PutSite(ctx, f.who, "", quay.ID, "the workshop")
	require.ErrorContains(t, err, "There is a place")
	out := f.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{ids["Fan"], ids["Copy"]}, Until: inbox.UntilSite, Site: shop.ID})
	require.Equal(t, "Back all 2 when you are there.", out.Text)
	f.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{ids["Weekly 7"]}, Until: inbox.UntilSite, Site: quay.ID})
	require.NoError(t, f.Agenda.CatchUp(ctx))
	require.Len(t, f.queue(t), 4)

	out, err = f.Labels.BeAt(ctx, f.who, "", shop.ID)
	require.NoError(t, err)
	require.Equal(t, "You are at the workshop. Back in the inbox: 2.", out.Text)
	keys, _ := f.groups(t, queue.Arrangement{})
	require.Equal(t, string(inbox.HereToday), keys[0])
	sites, err := f.Labels.Sites(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, shop.ID, sites.Here)
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.Len(t, f.queue(t), 4, "both wait there again")

	out, err = f.Decisions.DropSite(ctx, f.who, "", shop.ID)
	require.NoError(t, err)
	require.Contains(t, out.Text, "What waited for it is back in the inbox: 2.")
	require.Len(t, f.queue(t), 6)
	_, err = f.Decisions.Decide(ctx, f.who, "", decide.Decision{Kind: inbox.Snooze, Conversations: []int64{ids["Fan"]}, Until: inbox.UntilSite, Site: shop.ID})
	require.ErrorContains(t, err, "place has been deleted")
	_, err = f.Labels.BeAt(ctx, f.who, "", shop.ID)
	require.ErrorIs(t, err, store.ErrNotFound)
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	sites, err = f.Labels.Sites(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, []labelling.SiteView{{ID: quay.ID, Name: "the quay", Waiting: 1}, {ID: shop.ID, Name: "the workshop", Waiting: 2}}, sites.Sites)
	f.sound(t)
}

func TestSnoozesThatWait(t *testing.T) {
	f := newOffice(t, store.Options{})
	ids := f.mixed(t)
	someday := f.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{ids["Weekly 7"]}, Until: inbox.UntilSomeday})
	require.Equal(t, "Someday. Looked through Tue 1 Dec, 8:00.", someday.Text)
	f.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{ids["Fan"]}, Until: inbox.UntilAnswer})
	f.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{ids["Copy"]}, Until: inbox.UntilUnanswered, Return: f.moment(t, "thu 9:00")})
	l, err := f.Queue.Later(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, []string{"Copy", "Weekly 7", "Fan"}, []string{l.Slips[0].Subject, l.Slips[1].Subject, l.Slips[2].Subject}, "what has no time comes last")

	// Another day for someday moves what waits for it.
	s, err := f.Choices.All(ctx, f.who)
	require.NoError(t, err)
	s.Habits.Someday, s.Habits.Asleep = 15, true
	require.NoError(t, f.choose(s))
	l, err = f.Queue.Later(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, "2026-12-15T08:00", l.Slips[1].Position.Return.Local)
	f.sound(t)
	s.Habits.Someday = 31
	require.ErrorContains(t, f.choose(s), "one from 1 to 28")

	// An automatic answer is none; a person's is. Other mail lets it sleep.
	f.clock.t = begin.Add(time.Hour)
	f.take(t, note("a@x", "Tomasz <tomasz@m.example>", me, "Re: Fan", f.clock.t, "References: <3@x>", "Auto-Submitted: auto-replied"))
	f.take(t, note("b@x", "Weekly <w@list.example>", me, "Re: Weekly 7", f.clock.t, "References: <5@x>"))
	require.Len(t, f.queue(t), 4)
	f.take(t, note("c@x", "Tomasz <tomasz@m.example>", me, "Re: Fan", f.clock.t, "References: <3@x>"))
	require.Len(t, f.queue(t), 5)

	// To another day by dragging, at the time it had; and into the past not.
	day := 5
	out := f.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{ids["Copy"]}, Seen: inbox.Snoozed, Day: &day})
	require.Equal(t, "Back Sun 29 Nov, 9:00, if nobody has answered by then.", out.Text)
	day = 0
	_, err = f.Decisions.Decide(ctx, f.who, "", decide.Decision{Kind: inbox.Snooze, Conversations: []int64{ids["Copy"]}, Seen: inbox.Snoozed, Day: &day})
	require.ErrorContains(t, err, "has passed")

	f.clock.t = begin.AddDate(0, 0, 22)
	require.NoError(t, f.Agenda.CatchUp(ctx))
	reasons := map[string]inbox.Reason{}
	for _, s := range f.queue(t) {
		reasons[s.Subject] = s.Position.Reason
	}
	require.Equal(t, inbox.Unanswered, reasons["Copy"])
	require.Equal(t, inbox.Monthly, reasons["Weekly 7"])
	f.sound(t)
}

func TestCombos(t *testing.T) {
	f := newOffice(t, store.Options{})
	ids := f.mixed(t)
	l, err := f.Labels.Make(ctx, f.who, "to read")
	require.NoError(t, err)
	s, err := f.Choices.All(ctx, f.who)
	require.NoError(t, err)
	combo := inbox.Chain{ID: "a", Name: "This week", Steps: []inbox.ComboStep{{Kind: inbox.FinishFollow}, {Kind: inbox.MakeFollowUp, Phrase: "fri"}, {Kind: inbox.Label, Labels: []int64{l.ID}}, {Kind: inbox.Archive}}}
	s.Habits.Combos = []inbox.Chain{combo}
	require.NoError(t, f.choose(s))
	f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: []int64{ids["Fan"]}, FollowUp: &followups.NewFollowUp{Title: "Old", Keep: true}})
	before := f.everything(t)
	out := f.decide(t, inbox.Combo, decide.Decision{Conversations: []int64{ids["Fan"], ids["Crates 1"]}, Combo: "a", Seen: inbox.Inbox})
	require.Equal(t, "“This week” done: 2.", out.Text)
	open, err := f.FollowUps.List(ctx, f.who, followups.FollowUpsAsked{})
	require.NoError(t, err)
	log, err := f.FollowUps.Log(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, "Old", log.FollowUps[0].Title)
	made := open.Groups[3].FollowUps
	require.Len(t, made, 2, "one for each conversation, due this week")
	require.Equal(t, []string{"Crates 1", "Fan", "2026-11-27"}, []string{min(made[0].Title, made[1].Title), max(made[0].Title, made[1].Title), made[0].Due.Local})
	v, err := f.Reading.Conversation(ctx, f.who, ids["Fan"])
	require.NoError(t, err)
	require.Equal(t, inbox.Archived, v.Slip.Position.Place)
	require.Equal(t, []int64{l.ID}, v.Slip.Labels)
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, before, f.everything(t), "taken back as one")

	_, err = f.Decisions.DropLabel(ctx, f.who, "", l.ID)
	require.NoError(t, err)
	_, err = f.Decisions.Decide(ctx, f.who, "", decide.Decision{Kind: inbox.Combo, Conversations: []int64{ids["Fan"]}, Combo: "a"})
	require.ErrorContains(t, err, "uses a label that has been deleted")
	s.Habits.Combos[0].Steps[1].Phrase = "whenever"
	require.ErrorContains(t, f.choose(s), "says “whenever”")
	s.Habits.Combos = nil
	require.NoError(t, f.choose(s))
	_, err = f.Decisions.Decide(ctx, f.who, "", decide.Decision{Kind: inbox.Combo, Conversations: []int64{ids["Fan"]}, Combo: "a"})
	require.ErrorContains(t, err, "combo has been deleted")
	f.sound(t)
}

func TestNamesNotesDraftsAndLists(t *testing.T) {
	f := newOffice(t, store.Options{})
	ids := f.mixed(t)
	f.decide(t, inbox.Rename, decide.Decision{Conversations: []int64{ids["Fan"]}, Text: "Case 7"})
	f.decide(t, inbox.WriteNote, decide.Decision{Conversations: []int64{ids["Fan"]}, Text: "Key is with Jonas."})
	opened, err := f.Reading.Conversation(ctx, f.who, ids["Fan"])
	require.NoError(t, err)
	draft, err := f.Writing.Begin(ctx, f.who, "", composing.DraftBegun{Mode: writing.Reply, Message: opened.Messages[0].ID})
	require.NoError(t, err)
	_, err = f.Writing.Change(ctx, f.who, "", draft.ID, composing.DraftChange{To: draft.To, Text: "Dear Tomasz,"})
	require.NoError(t, err)
	_, err = f.Writing.Change(ctx, f.who, "", draft.ID, composing.DraftChange{Text: strings.Repeat("x", composing.MaxDraft+1)})
	require.ErrorContains(t, err, "The part kept before is safe")
	f.reopen(t)
	v, err := f.Reading.Conversation(ctx, f.who, ids["Fan"])
	require.NoError(t, err)
	require.Equal(t, []any{"Fan", "Case 7", "Key is with Jonas.", "Dear Tomasz,", true, true}, []any{v.Slip.Subject, v.Slip.Title, v.Note, v.Draft.Text, v.Slip.Note, v.Slip.Draft})
	require.NoError(t, f.Writing.Drop(ctx, f.who, draft.ID))
	v, err = f.Reading.Conversation(ctx, f.who, ids["Fan"])
	require.NoError(t, err)
	require.False(t, v.Slip.Draft)

	require.ErrorContains(t, f.Queue.PutSavedList(ctx, f.who, "", queue.SavedList{Name: "All"}), "filter it")
	require.NoError(t, f.Queue.PutSavedList(ctx, f.who, "", queue.SavedList{Name: "Weekly", Query: search.Query{From: "w@list.example"}}))
	require.NoError(t, f.Queue.PutSavedList(ctx, f.who, "", queue.SavedList{Name: "Starred", Query: search.Query{Starred: true}, Folded: true}))
	lists, err := f.Queue.SavedLists(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, []any{"Weekly", 2, 2, "Starred", 0, 0}, []any{lists[0].Name, lists[0].Count, len(lists[0].Slips), lists[1].Name, lists[1].Count, len(lists[1].Slips)})
	lists[0].Rank, lists[0].Folded = 5, true
	require.NoError(t, f.Queue.PutSavedList(ctx, f.who, "", lists[0]))
	require.NoError(t, f.Queue.DropSavedList(ctx, f.who, lists[1].ID))
	require.ErrorIs(t, f.Queue.PutSavedList(ctx, f.who, "", lists[1]), store.ErrNotFound)
	lists, err = f.Queue.SavedLists(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, lists, 1)
	require.Len(t, f.queue(t), 7, "what was on it stays")
}

// The forecast equals the present at now and learns from what was decided.
func TestTheForecastOnTheDayline(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.clock.t = begin.AddDate(0, 0, -28)
	f.fill(t, 1)
	l, err := f.Dayline.Today(ctx, f.who)
	require.NoError(t, err)
	require.Empty(t, l.Forecast, "nothing is known yet")
	for d := 27; d >= 0; d-- {
		f.clock.t = begin.AddDate(0, 0, -d)
		var in []string
		for i := range 4 {
			in = append(in, note(fmt.Sprintf("%d.%d@d", d, i), "m@c.example", me, fmt.Sprintf("Day %d matter %d", d, i), f.clock.t.Add(-time.Hour)))
		}
		f.take(t, in...)
		if d == 0 {
			break
		}
		f.clock.t = f.clock.t.Add(3 * time.Hour)
		for _, s := range f.queue(t)[:4] {
			f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{s.ID}})
		}
	}
	l, err = f.Dayline.Today(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, numbers.Point{At: l.Now, Left: 5}, l.Forecast[0])
	require.Equal(t, 28, l.Learned)
	require.Equal(t, 1, l.Forecast[len(l.Forecast)-1].Left, "four are decided at half past one")
	m, err := f.Dayline.Misses(ctx, f.who)
	require.NoError(t, err)
	require.Greater(t, m.Days, 14)
	require.LessOrEqual(t, m.Median, 4.0)
}
