package desk

import (
	"slices"
	"testing"

	"github.com/emersion/go-imap/v2"
	"github.com/stretchr/testify/require"

	"ebbe/internal/core/inbox"
	"ebbe/internal/desk/decide"
	postoffice "ebbe/internal/post/office"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// keeping has Ebbe keep folders on the server of the account, or not, under that name.
func (p *posted) keeping(t testing.TB, on bool, root string) {
	t.Helper()
	v := account
	v.ID, v.Secret = 1, ""
	v.Carries.Folders = inbox.KeptFolders{On: on, Root: root}
	_, err := p.Accounts.Put(ctx, p.who, "", v)
	require.NoError(t, err)
	p.pass(t)
}

// moves moves a message by its subject, as another program might.
func (p *posted) moves(t testing.TB, subject, from, into string) {
	t.Helper()
	at := slices.Index(p.in(from), subject)
	require.GreaterOrEqual(t, at, 0, subject)
	p.post.Move(museum, from, p.post.Folder(museum, from)[at].UID, into)
}

func (p *posted) kept() (names []string) {
	for _, name := range p.post.Folders(museum) {
		if name != "Ebbe" && (len(name) > 5 && name[:5] == "Ebbe/" || len(name) > 4 && name[:4] == "Tide") {
			names = append(names, name)
		}
	}
	return names
}

// What is moved from another program into the folders that Ebbe keeps on the server is
// done, and lies where that decision puts it; what was snoozed is in the server's inbox
// again, unread, at its time; each once, and taken back as a step.
func TestDecidedFromAnotherProgram(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	for i, subject := range []string{"Tides", "Evening", "Week", "Sign it by Friday, please", "Asked", "Offer", "Choir", "Stays"} {
		p.put(postoffice.Inbox, string(rune('a'+i))+"@x", "Jonas <jonas@x.example>", subject)
	}
	p.post.Put(museum, postoffice.Sent, p.clock.t, []byte("Message-ID: <own@x>\r\nFrom: Solvei <"+museum+">\r\nTo: Lena <lena@north.example>\r\nSubject: Question\r\nDate: Mon, 23 Nov 2026 09:00:00 +0100\r\n\r\nWhich?\r\n"))
	p.pass(t)
	require.Empty(t, p.kept())
	p.keeping(t, true, "")
	require.Equal(t, []string{"Ebbe/Follow up", "Ebbe/Mail from people", "Ebbe/Never again", "Ebbe/Newsletters and notices", "Ebbe/Next week", "Ebbe/Snoozed", "Ebbe/This evening", "Ebbe/Tomorrow", "Ebbe/Waiting"}, p.kept())
	for subject, into := range map[string]string{"Tides": "Tomorrow", "Evening": "This evening", "Week": "Next week", "Sign it by Friday, please": "Follow up", "Asked": "Waiting", "Choir": "Newsletters and notices"} {
		p.moves(t, subject, postoffice.Inbox, "Ebbe/"+into)
	}
	p.moves(t, "Question", postoffice.Sent, "Ebbe/Waiting")
	p.pass(t)
	require.Equal(t, []string{"Offer", "Stays", "Choir"}, p.in(postoffice.Inbox))
	require.ElementsMatch(t, []string{"Tides", "Evening", "Week"}, p.in("Ebbe/Snoozed"))
	require.ElementsMatch(t, []string{"Sign it by Friday, please", "Asked"}, p.in(postoffice.Archive))
	require.Equal(t, []string{"Question"}, p.in(postoffice.Sent))
	w := p.who.Week
	require.Equal(t, w.Read("tomorrow", p.Now()).Moment.At, p.where(t, "Tides").Position().Return.At)
	require.Equal(t, w.Read("this evening", p.Now()).Moment.At, p.where(t, "Evening").Position().Return.At)
	require.Equal(t, w.Read("next week", p.Now()).Moment.At, p.where(t, "Week").Position().Return.At)
	require.NoError(t, p.store.Read(ctx, func(tx store.Tx) error {
		work, err := store.FollowUps(tx).FollowUpsOf(1, []int64{p.where(t, "Sign it by Friday, please").ID})
		require.Len(t, work, 1)
		return err
	}))
	require.Equal(t, "jonas@x.example", p.named(t, "Answer from Jonas about “Asked”").With.Address)
	require.NotZero(t, p.named(t, "Answer from Lena about “Question”").Waits.Since)
	require.Equal(t, "machines", p.where(t, "Choir").Stream)
	p.sound(t)
	h, err := p.Reading.History(ctx, p.who, store.Past{})
	require.NoError(t, err)
	for range 2 {
		p.pass(t)
	}
	again, err := p.Reading.History(ctx, p.who, store.Past{})
	require.NoError(t, err)
	require.Equal(t, h, again, "nothing is done twice")
	require.ElementsMatch(t, []string{"Tides", "Evening", "Week"}, p.in("Ebbe/Snoozed"))

	p.moves(t, "Offer", postoffice.Inbox, "Ebbe/Never again")
	p.pass(t)
	require.Equal(t, []string{"Offer"}, p.in(postoffice.Trash))
	_, err = p.Journal.TakeBack(ctx, p.who, "")
	require.NoError(t, err)
	p.pass(t)
	require.ElementsMatch(t, []string{"Offer", "Stays", "Choir"}, p.in(postoffice.Inbox))

	// What another program takes out of the snoozed is back; what is decided here follows.
	p.moves(t, "Week", "Ebbe/Snoozed", postoffice.Inbox)
	p.pass(t)
	require.Equal(t, inbox.Inbox, p.where(t, "Week").Place)
	p.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{p.where(t, "Stays").ID}, Return: p.when(t, "23:00")})
	p.pass(t)
	require.Contains(t, p.in("Ebbe/Snoozed"), "Stays")
	p.clock.t = p.where(t, "Tides").Position().Return.At.Time()
	require.NoError(t, p.Agenda.CatchUp(ctx))
	p.pass(t)
	require.ElementsMatch(t, []string{"Offer", "Choir", "Week", "Tides", "Evening", "Stays"}, p.in(postoffice.Inbox))
	for _, l := range p.post.Folder(museum, postoffice.Inbox) {
		if at := slices.Index(p.in(postoffice.Inbox), "Tides"); p.post.Folder(museum, postoffice.Inbox)[at].UID == l.UID {
			require.NotContains(t, l.Flags, imap.FlagSeen, "it is unread, as it is here")
		}
	}
	p.sound(t)

	// Under other names, what lies in the folders of before moves on, and they go.
	p.moves(t, "Week", postoffice.Inbox, "Ebbe/Next week")
	p.pass(t)
	p.keeping(t, true, "Tide")
	p.pass(t)
	require.Equal(t, []string{"Week"}, p.in("Tide/Snoozed"))
	require.Len(t, p.kept(), 9, "none of the folders of before is left")
	require.NotContains(t, p.kept(), "Ebbe/Snoozed")
	p.sound(t)
}

// Where the folders are wanted no more, or the account is removed, all goes back first,
// also where the program was ended in between; an account that cannot move it back stays.
func TestFoldersOfEbbeAreGivenBack(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	p.put(postoffice.Inbox, "1@x", "Jonas <jonas@x.example>", "Tides")
	p.put(postoffice.Inbox, "2@x", "Jonas <jonas@x.example>", "Late")
	p.keeping(t, true, "")
	p.moves(t, "Tides", postoffice.Inbox, "Ebbe/Tomorrow")
	p.pass(t)
	require.Equal(t, []string{"Tides"}, p.in("Ebbe/Snoozed"))
	p.moves(t, "Late", postoffice.Inbox, "Ebbe/Next week") // and nobody has looked since

	v := account
	v.ID, v.Secret = 1, ""
	_, err := p.Accounts.Put(ctx, p.who, "", v) // off: said, and the program ended before it was done
	require.NoError(t, err)
	p.pass(t)
	p.pass(t)
	require.Empty(t, p.kept())
	require.ElementsMatch(t, []string{"Tides", "Late"}, p.in(postoffice.Inbox))
	require.Equal(t, inbox.Snoozed, p.where(t, "Tides").Place, "it is snoozed all the same")
	p.sound(t)

	p.keeping(t, true, "")
	p.pass(t)
	require.Equal(t, []string{"Tides"}, p.in("Ebbe/Snoozed"), "what is snoozed goes there at once")
	p.post.Misbehave(postoffice.Faults{Cut: 1})
	err = p.Accounts.Drop(ctx, p.who, 1, false)
	var cannot *problem.Error
	require.ErrorAs(t, err, &cannot)
	require.Contains(t, cannot.Text, "The account is still there")
	p.post.Misbehave(postoffice.Faults{})
	require.NoError(t, p.Accounts.Drop(ctx, p.who, 1, false))
	require.Empty(t, p.kept())
	require.ElementsMatch(t, []string{"Tides", "Late"}, p.in(postoffice.Inbox))
	p.sound(t)
}
