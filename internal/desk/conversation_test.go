package desk

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/choices"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/followups"
	"ebbe/internal/desk/queue"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

func (f *office) fill(t testing.TB, n int) {
	t.Helper()
	in := f.Intake.Begin(ctx, 1, intake.Options{})
	for i := range n {
		at := begin.Add(-time.Duration(i/3) * time.Hour) // several at the same instant
		raw := fmt.Sprintf("From: w%d@b.example\nSubject: Matter %d\nDate: %s\nMessage-ID: <%d@b>\n\ntext\n", i, i, at.Format(time.RFC1123Z), i)
		require.NoError(t, in.Add(post.Item{Raw: []byte(raw)}))
	}
	_, err := in.Close()
	require.NoError(t, err)
}

// The order of the inbox names each conversation once, by when it came; its
// slips are fetched by ID, in any pieces.
func TestTheOrderOfTheInboxAndItsSlips(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.fill(t, 450)
	keys, ids := f.groups(t, queue.Arrangement{})
	require.Equal(t, []string{"arrived-today", "yesterday", "older"}, keys)
	all := slices.Concat(ids...)
	require.Len(t, all, 450)
	last := when.Instant(1 << 60)
	for piece := range slices.Chunk(append(all, 99_999), 100) {
		slips, err := f.Queue.Slips(ctx, f.who, piece)
		require.NoError(t, err)
		for i, s := range slips {
			require.Equal(t, piece[i], s.ID)
			require.LessOrEqual(t, s.Position.Since, last)
			last = s.Position.Since
		}
	}
	_, err := f.Queue.Arranged(ctx, f.who, queue.Arrangement{Group: "weather"})
	require.ErrorContains(t, err, "does not know that arrangement")
}

func TestPagesOfLaterAndOfTheHistory(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.fill(t, 230)
	for id := int64(1); id <= 230; id++ {
		f.clock.t = f.clock.t.Add(time.Second)
		f.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{id}, Return: f.moment(t, fmt.Sprintf("in %d days", 1+id%7))})
	}
	var at []when.Instant
	for after := ""; ; {
		l, err := f.Queue.Later(ctx, f.who, after)
		require.NoError(t, err)
		require.Equal(t, 230, l.Count)
		for _, s := range l.Slips {
			at = append(at, s.Position.Return.At)
		}
		if after = l.Next; after == "" {
			break
		}
	}
	require.Len(t, at, 230)
	require.True(t, slices.IsSorted(at))
	lines := 0
	for before := int64(0); ; {
		h, err := f.Reading.History(ctx, f.who, store.Past{Before: before})
		require.NoError(t, err)
		lines += len(h.Lines)
		if before = h.Next; before == 0 {
			break
		}
	}
	require.Equal(t, 231, lines, "each snooze, and the import")
	g, err := f.Dayline.Grid(ctx, f.who)
	require.NoError(t, err)
	n := 0
	for _, day := range g {
		n += day.Cells[when.Morning].Back
	}
	require.Equal(t, 197, n, "those of the seventh day from now lie beyond the grid")
	p, err := f.Dayline.Read(ctx, f.who, "tomorrow", when.Ahead, false)
	require.NoError(t, err)
	require.Equal(t, g[1].Cells[when.Morning].Back, p.Also)
	someday, err := f.Dayline.Read(ctx, f.who, "someday", when.Ahead, false)
	require.NoError(t, err)
	require.True(t, someday.Someday)
	round, err := f.Dayline.Read(ctx, f.who, "next round", when.Ahead, false)
	require.NoError(t, err)
	require.Contains(t, round.Sentence, "No round is planned", "mail flows")
	since, err := f.Dayline.Read(ctx, f.who, "mon", when.Back, false)
	require.NoError(t, err)
	require.Less(t, since.Moment.At, f.Journal.Now())
	_, err = f.Dayline.Read(ctx, f.who, "mon", "sideways", false)
	require.ErrorContains(t, err, "ahead, back or either way")
}

func TestOneDecisionAboutManyIsTakenBackInOneStep(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.fill(t, 1200)
	var ids []int64
	for id := int64(1); id <= 1200; id++ {
		ids = append(ids, id)
	}
	out := f.decide(t, inbox.Archive, decide.Decision{Conversations: append(ids, 99_999)})
	require.Equal(t, 1200, out.Count)
	require.Equal(t, "Archived 1200.", out.Text)
	require.Zero(t, out.Left)
	tide, err := f.Dayline.Tide(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, 1200, tide.ByKind[inbox.Archive])
	out, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, "Taken back: 1200 conversations.", out.Text)
	require.Equal(t, 1200, out.Left)
	tide, err = f.Dayline.Tide(ctx, f.who)
	require.NoError(t, err)
	require.Zero(t, tide.Decided, "what was taken back was not decided")
	f.sound(t)
}

// A message that shows two conversations to be one: what was decided and what
// is to be followed up on either stays.
func TestMergedConversationsKeepWhatWasDecided(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("a@x", "mirela@c.example", "Crates"), letter("b@x", "tomasz@m.example", "Sizes"))
	f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: []int64{2}, FollowUp: &followups.NewFollowUp{Title: "Measure"}})
	f.decide(t, inbox.Star, decide.Decision{Conversations: []int64{2}})
	f.take(t, letter("c@x", "jonas@m.example", "Both", "a@x", "b@x"))
	v, err := f.Reading.Conversation(ctx, f.who, 2)
	require.NoError(t, err)
	require.Equal(t, int64(1), v.Slip.ID, "the old name still leads there")
	require.Len(t, v.Messages, 3)
	require.True(t, v.Slip.Starred)
	require.Equal(t, "Measure", v.FollowUps[0].Title)
	require.Len(t, f.queue(t), 1)
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	f.sound(t)
}

func TestEverybodyHearsOfChanges(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.fill(t, 3)
	listening, stop := context.WithCancel(ctx)
	events, others := f.Journal.Subscribe(listening, 1, 1), f.Journal.Subscribe(listening, 2, 2)
	_, err := f.Decisions.Decide(ctx, f.who, "my-key", decide.Decision{Kind: inbox.Archive, Conversations: []int64{1}})
	require.NoError(t, err)
	require.Equal(t, journal.Event{Topics: []string{journal.TopicMail}, Conversations: []int64{1}, Key: "my-key"}, <-events)
	require.Empty(t, others, "nobody hears of another's box")
	for range 100 { // nobody listens any more: the program does not wait for them
		f.Journal.Announce(1, journal.Event{Topics: []string{journal.TopicMail}})
	}
	stop()
	n := 0
	for range events {
		n++
	}
	require.LessOrEqual(t, n, 64)
}

func TestSettings(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("a@x", "me@choir.example", "Alto"))
	s, err := f.Choices.All(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, []string{"solvei@m.example"}, s.Addresses)
	s.Addresses = append(s.Addresses, "Me@Choir.example")
	s.Week.Morning, s.Theme = 9*60, "dark"
	require.NoError(t, f.choose(s))
	require.Empty(t, f.queue(t), "mail from one's other address is one's own")
	f.sound(t)
	got, err := f.Choices.All(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, 9*60, got.Week.Morning)
	require.Len(t, got.Addresses, 2)
	for field, change := range map[string]func(*choices.Settings){
		"week": func(s *choices.Settings) { s.Week.Zone = "Moon/Base" }, "addresses": func(s *choices.Settings) { s.Addresses = []string{"nobody"} }, "theme": func(s *choices.Settings) { s.Theme = "loud" },
	} {
		wrong := got
		change(&wrong)
		var user *problem.Error
		require.ErrorAs(t, f.choose(wrong), &user)
		require.Equal(t, field, user.Field)
	}
}

// A time zone that changes its rules: what was meant as 8:00 stays 8:00.
func TestWallClockTimesAreComputedAnewAtTheStart(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.fill(t, 2)
	right := f.moment(t, "tomorrow 8:00")
	f.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{1}, Return: right})
	f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: []int64{2}, FollowUp: &followups.NewFollowUp{Title: "Do it", Due: right, Remind: right}})
	require.NoError(t, f.store.Write(ctx, func(tx store.Tx) error { // as older rules had it
		wrong := right
		wrong.At -= 3_600_000
		if err := store.Agenda(tx).MoveReturn(1, 1, wrong); err != nil {
			return err
		}
		l, err := f.FollowUps.List(ctx, f.who, followups.FollowUpsAsked{})
		require.NoError(t, err)
		old := l.Groups[2].FollowUps[0].FollowUp
		old.Due.At, old.Reminders[0].At.At = wrong.At, wrong.At
		return store.FollowUps(tx).PutFollowUps(1, []followup.FollowUp{old})
	}))
	f.reopen(t)
	l, err := f.Queue.Later(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, right, l.Slips[0].Position.Return)
	f.clock.t = right.At.Time().Add(-time.Minute)
	require.NoError(t, f.Agenda.CatchUp(ctx))
	cards, err := f.FollowUps.Cards(ctx, f.who)
	require.NoError(t, err)
	require.Empty(t, cards.Cards, "not an hour early")
	f.sound(t)
}

// The runner itself: it sleeps until the earliest thing and lets it happen.
func TestTheRunnerLetsThingsHappen(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.fill(t, 1)
	running, stop := context.WithCancel(ctx)
	events := f.Journal.Subscribe(running, 1, 1)
	f.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{1}, Return: when.Moment{At: f.Now() + 60_000}})
	<-events
	f.clock.t = begin.Add(2 * time.Minute)
	done := make(chan struct{})
	go func() { f.Run(running); close(done) }()
	require.Equal(t, []int64{1}, (<-events).Conversations)
	stop()
	<-done
	require.Len(t, f.queue(t), 1)
}

// A long conversation opens at the first message that is new, whatever their number; what
// is quoted in a message and stands in none before it is not folded away.
func TestALongConversationOpensAtWhatIsNew(t *testing.T) {
	f := newOffice(t, store.Options{})
	at := f.clock.t
	post := func(i int, text string) string {
		head := fmt.Sprintf("From: Mirela <mirela@c.example>\nTo: solvei@m.example\nSubject: Long\nDate: %s\nMessage-ID: <m%d@x>\n", at.Add(time.Duration(i)*time.Minute).Format(time.RFC1123Z), i)
		if i > -260 {
			head += "References: <m-260@x>\n"
		}
		return head + "\n" + text + "\n"
	}
	for i := range 250 {
		f.take(t, post(i-260, fmt.Sprintf("Old message %d says that the crate is ready to be fetched.", i)))
	}
	id := f.queue(t)[0].ID
	f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{id}})
	f.clock.t = at.Add(2 * time.Hour)
	for i := range 50 {
		text := fmt.Sprintf("New message %d.", i)
		if i == 0 {
			text += "\n\n> Old message 249 says that the crate is ready to be fetched.\n"
		}
		if i == 1 {
			text += "\n\n> Nobody has ever written this sentence in our conversation before today.\n"
		}
		f.arrive(t, post(60+i, text))
	}
	v, err := f.Reading.Conversation(ctx, f.who, id)
	require.NoError(t, err)
	require.Len(t, v.Messages, 300)
	opened, fresh := []int{}, 0
	for i, m := range v.Messages {
		if m.Blocks != nil {
			opened = append(opened, i)
		}
		if m.Fresh {
			fresh++
		}
	}
	require.Equal(t, 50, fresh)
	require.Len(t, opened, 20)
	require.Equal(t, []int{250, 299}, []int{opened[0], opened[19]}, "from the first that is new, and the newest")
	require.Equal(t, "New message 7.", v.Messages[257].Begins)
	require.True(t, v.Messages[250].Blocks[1].Quoted)
	require.False(t, v.Messages[250].Blocks[1].Alone, "it stands in the message before")
	require.True(t, v.Messages[251].Blocks[1].Alone)
	one, err := f.Reading.Message(ctx, f.who, v.Messages[251].ID, false)
	require.NoError(t, err)
	require.True(t, one.Blocks[1].Alone, "also when it is opened by itself")
}

// A quotation in HTML is open where it stands alone, and folded where it does not.
func TestQuotedHTMLIsOpenWhereItStandsAlone(t *testing.T) {
	f := newOffice(t, store.Options{})
	page := func(id, quoted string) string {
		return "From: Mirela <mirela@c.example>\nTo: solvei@m.example\nSubject: Re: Crates\nDate: Tue, 24 Nov 2026 09:40:00 +0100\nMessage-ID: <" + id + ">\nReferences: <a@x>\nContent-Type: text/html\n\n<p>See below.</p><blockquote>" + quoted + "</blockquote>\n"
	}
	f.take(t, strings.Replace(letter("a@x", "Jonas <jonas@m.example>", "Crates"), "body of a@x", "The crates are in the quay store since last Thursday.", 1),
		page("b@x", "The crates are in the <b>quay store</b> since last Thursday."), page("c@x", "The insurer wants to see each of them with its lid off."))
	v, err := f.Reading.Conversation(ctx, f.who, f.queue(t)[0].ID)
	require.NoError(t, err)
	folds := map[string]bool{}
	for _, m := range v.Messages[1:] {
		b, err := f.Reading.Body(ctx, f.who, m.ID, false, false, true, func(string) string { return "" })
		require.NoError(t, err)
		folds[b.HTML[:20]+fmt.Sprint(strings.Contains(b.HTML, "insurer"))] = strings.Contains(b.HTML, "<details open")
	}
	f.exec(t, fmt.Sprintf("DELETE FROM originals WHERE message_id = %d", v.Messages[0].ID))
	_, err = f.Reading.Conversation(ctx, f.who, v.Slip.ID)
	require.NoError(t, err, "one that is lost stops no other")
	require.Equal(t, map[string]bool{"<p>See below.</p><defalse": false, "<p>See below.</p><detrue": true}, folds)
}
