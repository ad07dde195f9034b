package desk

import (
	"context"
	"fmt"
	netsmtp "net/smtp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/search"
	"ebbe/internal/desk/inward"
	postoffice "ebbe/internal/post/office"
	"ebbe/internal/post/smtp"
)

// Mail to the addresses into Ebbe becomes follow-ups and notes, over a real
// line; what is not taken is refused with a sentence.
func TestMailIntoEbbe(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	p.Inward.TakeMailAt("in.ebbe.example")
	v, err := p.Inward.Addresses(ctx, p.who, false)
	require.NoError(t, err)
	require.Equal(t, inward.InwardView{Host: "in.ebbe.example"}, v)
	v, err = p.Inward.Addresses(ctx, p.who, true)
	require.NoError(t, err)
	again, err := p.Inward.Addresses(ctx, p.who, false)
	require.NoError(t, err)
	require.Equal(t, inward.InwardView{Host: "in.ebbe.example", Made: true}, again, "the secret is told once")
	l, err := smtp.Listen("127.0.0.1:0", "in.ebbe.example", p.clock.Now, p.Inward)
	require.NoError(t, err)
	t.Cleanup(func() { require.NoError(t, l.Close()) })
	p.Intake.Ahead = func(context.Context, int64, []string) error {
		t.Error("what comes to these addresses may be what is being handed over: it waits for nothing")
		return nil
	}
	send := func(local, subject string) error {
		raw := strings.ReplaceAll(letter(subject+"@x", "Solvei <"+museum+">", subject), "\n", "\r\n")
		return netsmtp.SendMail(l.Addr, nil, museum, []string{local + "@in.ebbe.example"}, []byte(raw))
	}
	require.NoError(t, send("todo-"+v.Key+"+opening", "Fwd: Order the flowers"))
	require.NoError(t, send("todo-"+v.Key+"+opening", "Fwd: Order the flowers"), "sent twice, it is there once")
	list, err := p.FollowUps.OneByOne(ctx, p.who, search.Query{Project: "opening"})
	require.NoError(t, err)
	require.Len(t, list, 1)
	require.Equal(t, "Order the flowers", list[0].Title)
	require.Contains(t, list[0].Notes, "body of")
	require.NotZero(t, list[0].Conversation)
	require.Equal(t, inbox.Archived, p.where(t, "order the flowers").Place)

	require.NoError(t, send("note-"+v.Key+"+fri-9", "Look at the tide table"))
	row := p.where(t, "Look at the tide table")
	require.Equal(t, inbox.Snoozed, row.Place)
	require.Equal(t, p.moment(t, "fri 9").At, row.ReturnAt)

	require.NoError(t, send("note-"+v.Key+"+next-sun-9", "Read the proofs"))
	row = p.where(t, "Read the proofs")
	require.Equal(t, p.moment(t, "sun 9").At, row.ReturnAt, "nobody looks: the earlier")
	require.Contains(t, row.Note, "The earlier was taken.")

	for local, says := range map[string]string{
		"note-" + v.Key + "+fry-nine": "Ebbe does not understand “fry nine” as a time to come",
		"todo-abcdefghij":             "is not in use, or not any more",
		"solvei":                      "There is no address solvei@in.ebbe.example here",
	} {
		err := send(local, "Nothing")
		require.ErrorContains(t, err, "550", local)
		require.ErrorContains(t, err, says, local)
	}
	old := v.Key
	v, err = p.Inward.Addresses(ctx, p.who, true)
	require.NoError(t, err)
	require.ErrorContains(t, send("todo-"+old, "Late"), "not in use")
	for i := range 70 {
		if err = send("todo-"+v.Key, fmt.Sprint("Many ", i)); err != nil {
			break
		}
	}
	require.ErrorContains(t, err, "4.7.1 Too much mail has come within this hour")
	p.sound(t)
}
