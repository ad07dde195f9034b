package desk

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/queue"
	postoffice "ebbe/internal/post/office"
	"ebbe/internal/store"
)

// filled is a post office with n messages in its inbox, in step, of which three
// are snoozed.
func filled(t *testing.T, n int) *posted {
	p := newPosted(t, postoffice.Faults{})
	for i := range n {
		p.put(postoffice.Inbox, fmt.Sprintf("%03d@x", i), "Jonas <jonas@x.example>", fmt.Sprintf("Matter %d", i))
	}
	p.connected(t).pass(t)
	for i := range 3 {
		p.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{p.where(t, fmt.Sprintf("Matter %d", i)).ID}, Return: p.moment(t, "fri 9:00")})
	}
	p.pass(t)
	return p
}

// vanish deletes n messages of the server's inbox for good, as another program
// would that has gone mad.
func (p *posted) vanish(n int) {
	for _, l := range p.post.Folder(museum, postoffice.Inbox)[:n] {
		p.post.Move(museum, postoffice.Inbox, l.UID, "")
	}
}

func (p *posted) left(t *testing.T) int {
	q, err := p.Queue.Arranged(ctx, p.who, queue.Arrangement{})
	require.NoError(t, err)
	return q.Left
}

func (p *posted) asked(t *testing.T) int {
	v, err := p.Accounts.All(ctx, p.who)
	require.NoError(t, err)
	return v.Accounts[0].Vanished
}

func TestAnInboxThatWasEmptiedElsewhereIsAskedAbout(t *testing.T) {
	p := filled(t, 40)
	p.vanish(40)
	p.pass(t)
	require.Equal(t, 40, p.asked(t))
	require.Equal(t, 37, p.left(t), "nothing was binned")
	require.Equal(t, inbox.Snoozed, p.where(t, "Matter 1").Place)
	p.sound(t)

	text, err := p.Mail.SettleVanished(ctx, p.who, 1, false)
	require.NoError(t, err)
	require.Contains(t, text, "40 messages")
	p.pass(t)
	p.pass(t)
	require.Len(t, p.in(postoffice.Inbox), 40, "they lie there again")
	require.Zero(t, p.asked(t))
	require.Equal(t, 37, p.left(t))
	p.sound(t)
	_, err = p.Mail.SettleVanished(ctx, p.who, 1, true)
	require.ErrorContains(t, err, "settled already")

	p.later(time.Hour)
	p.vanish(40)
	p.pass(t)
	_, err = p.Mail.SettleVanished(ctx, p.who, 1, true)
	require.NoError(t, err)
	require.Zero(t, p.left(t))
	require.Equal(t, inbox.Bin, p.where(t, "Matter 1").Place)
	h, err := p.Reading.History(ctx, p.who, store.Past{})
	require.NoError(t, err)
	require.Equal(t, 40, h.Lines[0].Count)
	_, err = p.Journal.TakeBackStep(ctx, p.who, "", h.Lines[0].ID)
	require.NoError(t, err)
	require.Equal(t, 37, p.left(t), "all of it taken back, in one")
	require.Equal(t, inbox.Snoozed, p.where(t, "Matter 1").Place)
	p.sound(t)
}

// What vanishes bit by bit is counted together over ten minutes, and what was
// followed before it was too much is put back with the rest.
func TestAnInboxThatIsEmptiedBitByBit(t *testing.T) {
	p := filled(t, 40)
	for range 5 {
		p.vanish(6)
		p.pass(t)
		p.later(time.Minute)
	}
	require.Equal(t, 30, p.asked(t))
	_, err := p.Mail.SettleVanished(ctx, p.who, 1, false)
	require.NoError(t, err)
	p.pass(t)
	require.Len(t, p.in(postoffice.Inbox), 40)
	p.sound(t)
}

// A person who deletes some of many elsewhere is followed, and so is what was
// moved, however much.
func TestFewThatVanishAndManyThatMoveAreFollowed(t *testing.T) {
	p := filled(t, 40)
	p.vanish(10)
	p.pass(t)
	require.Zero(t, p.asked(t))
	require.Equal(t, 30, p.left(t))
	for _, l := range p.post.Folder(museum, postoffice.Inbox) {
		p.post.Move(museum, postoffice.Inbox, l.UID, postoffice.Archive)
	}
	p.pass(t)
	require.Zero(t, p.asked(t))
	require.Zero(t, p.left(t))
	h, err := p.Reading.History(ctx, p.who, store.Past{})
	require.NoError(t, err)
	require.Equal(t, 30, h.Lines[0].Count, "one line")
	p.sound(t)
}
