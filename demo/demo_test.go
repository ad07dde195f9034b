package demo

import (
	"context"
	"fmt"
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/stretchr/testify/require"
	"golang.org/x/sync/errgroup"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/desk"
	"ebbe/internal/desk/followups"
	"ebbe/internal/desk/queue"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

func fill(t *testing.T, start string) (*desk.Desk, identity.Who) {
	t.Helper()
	dir := t.TempDir()
	s, err := store.Open(dir, store.Options{})
	require.NoError(t, err)
	t.Cleanup(s.Close)
	clock := &journal.SystemClock{}
	d := desk.New(s, clock, true)
	begin, err := Begin(start, time.Now())
	require.NoError(t, err)
	o, err := Office(d, clock, dir)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, o.Close()) })
	fresh, err := Fill(context.Background(), d, o, clock, begin, 0)
	require.NoError(t, err)
	require.True(t, fresh)
	fresh, err = Fill(context.Background(), d, o, clock, begin, 0)
	require.NoError(t, err)
	require.False(t, fresh, "a filled folder is kept")
	require.WithinDuration(t, begin, d.Now().Time(), time.Minute)
	return d, identity.Who{Person: 1, Box: 1, Week: when.Ordinary(Zone)}
}

// Whatever the day the demo starts on, a weekend or the day after the clocks
// have changed: the same world, nothing in the future, every kind of message.
func TestTheMuseumOnAnyDay(t *testing.T) {
	ctx := context.Background()
	starts := []string{"2027-03-28T10:42", "2026-10-25T10:42", "2028-02-29T10:42"}
	if testing.Short() {
		starts = starts[:1]
	}
	for _, start := range starts {
		t.Run(start, func(t *testing.T) {
			t.Parallel()
			d, who := fill(t, start)
			wrong, messages, err := d.Check(ctx)
			require.NoError(t, err)
			require.Empty(t, wrong)
			require.InDelta(t, 1200, messages, 150)

			learned, err := d.Importance.Learned(ctx, who)
			require.NoError(t, err)
			t.Logf("%+v", learned.Proof)
			require.GreaterOrEqual(t, learned.Proof.Right, 0.85, "importance puts first what is answered")
			require.Greater(t, learned.Proof.Right, learned.Proof.Fixed)
			require.Greater(t, learned.Proof.Pairs, 100)

			q, err := d.Queue.Arranged(ctx, who, queue.Arrangement{})
			require.NoError(t, err)
			require.InDelta(t, 28, q.Left, 5)
			kinds, scripts := map[mail.Kind]int{}, ""
			all, err := d.Queue.Find(ctx, who, search.Query{Place: inbox.Inbox}, "")
			require.NoError(t, err)
			for _, s := range all.Slips {
				kinds[s.Kind]++
				scripts += s.Subject + s.From
				require.LessOrEqual(t, s.LastAt, d.Now())
			}
			for _, k := range []mail.Kind{mail.Person, mail.List, mail.Notice, mail.Receipt, mail.Invitation, mail.Bounce} {
				require.NotZero(t, kinds[k], "no %s is left to decide", k)
			}
			require.Contains(t, scripts, "Συνοδός")
			require.Contains(t, scripts, "é")
			require.GreaterOrEqual(t, len(q.Groups), 5, "hardly any reason to be here is shown")

			a, err := d.Accounts.All(ctx, who)
			require.NoError(t, err)
			require.Len(t, a.Accounts, 2)
			require.Zero(t, a.Uncarried, a.Problem)
			require.NotZero(t, a.Accounts[0].Synced)

			l, err := d.Queue.Later(ctx, who, "")
			require.NoError(t, err)
			require.GreaterOrEqual(t, l.Count, 5)
			f, err := d.FollowUps.List(ctx, who, followups.FollowUpsAsked{})
			require.NoError(t, err)
			require.NotZero(t, f.Groups[0].Count, "nothing is late")
			require.NotZero(t, f.Groups[1].Count, "nothing is due today")
			log, err := d.FollowUps.Log(ctx, who, "")
			require.NoError(t, err)
			require.NotEmpty(t, log.FollowUps)
			line, err := d.Dayline.Today(ctx, who)
			require.NoError(t, err)
			require.NotEmpty(t, line.Back)
			require.Equal(t, q.Left, line.Left)
			require.Equal(t, q.Left, line.Curve[len(line.Curve)-1].Left)
		})
	}
}

// The same world each time; and the dial lets things happen in it at their time.
func TestTheDialLetsThingsHappenAtTheirTime(t *testing.T) {
	ctx := context.Background()
	subjects := func(d *desk.Desk, who identity.Who) (out []string) {
		q, err := d.Queue.Arranged(ctx, who, queue.Arrangement{})
		require.NoError(t, err)
		for _, s := range q.Slips {
			out = append(out, fmt.Sprint(s.Subject, s.LastAt, s.Position.Reason, s.Files))
		}
		return out
	}
	d, who := fill(t, "2026-11-24T10:42")
	if !testing.Short() {
		other, who := fill(t, "2026-11-24T10:42")
		require.Equal(t, subjects(other, who), subjects(d, who))
	}
	oslo, err := time.LoadLocation(Zone)
	require.NoError(t, err)
	now := func() string { return d.Now().In(oslo).Format("Mon 15:04") }
	boxes, err := d.Teams.Boxes(ctx, who)
	require.NoError(t, err)
	team, err := (identity.Boxes{Directory: d.People}).In(ctx, who, boxes[1].ID)
	require.NoError(t, err)
	require.NoError(t, d.Turn(ctx, team, desk.DialNext))
	require.Equal(t, "Tue 10:50", now(), "in the team's box it is what a colleague does there")
	require.NoError(t, d.Turn(ctx, who, desk.DialNext))
	require.Equal(t, "Tue 11:30", now(), "and in one's own what happens there")
	q, err := d.Queue.Arranged(ctx, team, queue.Arrangement{})
	require.NoError(t, err)
	owners := map[string]string{}
	for _, s := range q.Slips {
		if owners[s.Subject] = ""; s.Owner != nil {
			owners[s.Subject] = s.Owner.Name
		}
	}
	require.Equal(t, map[string]string{"A second night at the quay store": "Jonas Reyland", "Light under the lagoon map": "Tomasz Ilk", "Couriers for the return in January": "Tomasz Ilk", "Photographs of the sounding machine": "",
		"Texts with +44 7700 900112": "Tomasz Ilk", "Texts with +44 7700 900331": "", "Texts with +44 7700 900518": ""}, owners)
	cards, err := d.FollowUps.Cards(ctx, who)
	require.NoError(t, err)
	require.Len(t, cards.Cards, 1)
	require.NoError(t, d.Turn(ctx, who, desk.DialHour))
	require.Equal(t, "Tue 12:30", now())
	require.NoError(t, d.Turn(ctx, who, desk.DialMorning))
	require.Equal(t, "Wed 08:00", now())
	h, err := d.Reading.History(ctx, who, store.Past{})
	require.NoError(t, err)
	at := map[string]string{}
	for _, l := range h.Lines {
		if l.Kind == inbox.Return {
			at[l.Text] = l.At.In(oslo).Format("Mon 15:04")
		}
	}
	require.Equal(t, "Tue 14:00", at["Pegelkurven für den Katalog"])
	require.Equal(t, "Wed 08:00", at["Skylight: two dates"])
	var user *problem.Error
	require.ErrorAs(t, d.Turn(ctx, who, "yesterday"), &user)
	_, err = Begin("noon", time.Now())
	require.ErrorContains(t, err, "is no time")

	var turns errgroup.Group
	for range 3 {
		turns.Go(func() error { return d.Turn(ctx, who, desk.DialHour) })
	}
	require.NoError(t, turns.Wait())
	require.Equal(t, "Wed 11:00", now(), "turned by several at once, no hour is lost")
}
