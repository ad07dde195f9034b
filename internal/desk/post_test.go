package desk

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/accounts"
	"ebbe/internal/desk/calendars"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/followups"
	"ebbe/internal/desk/queue"
	"ebbe/internal/desk/reading"
	"ebbe/internal/journal"
	"ebbe/internal/post"
	"ebbe/internal/post/mime"
	postoffice "ebbe/internal/post/office"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/mailboxes"
)

const museum = "solvei.arnkvist@skagvikmuseum.example"

var account = accounts.AccountDraft{Name: "Museum", Address: museum, FullName: "Solvei Arnkvist", Secret: "low tide", Carries: inbox.AllCarried,
	Mailbox: mail.Server{Host: "imap.skagvikmuseum.example", Port: 993, Security: mail.TLS}, Sending: mail.Server{Host: "smtp.skagvikmuseum.example", Port: 465, Security: mail.TLS}}

// posted is an office of Ebbe with a post office to speak to.
type posted struct {
	*office
	post *postoffice.Office
}

func newPosted(t testing.TB, f postoffice.Faults) *posted {
	p := &posted{office: newOffice(t, store.Options{})}
	var err error
	p.post, err = postoffice.Open("", p.clock.Now)
	require.NoError(t, err)
	p.post.AddAccount(museum, "low tide")
	p.post.Misbehave(f)
	require.NoError(t, p.post.Start())
	t.Cleanup(func() { _ = p.post.Close() })
	p.link()
	return p
}

// link connects the desk to the post office, by links that are changed like that.
func (p *posted) link(changes ...func(*accounts.Links)) {
	l := accounts.Links{Network: post.Network{Dial: p.post.Dial, Roots: p.post.Roots(), LookupSRV: p.post.LookupSRV, Patience: 5 * time.Second}}
	for _, change := range changes {
		change(&l)
	}
	p.Connect(l)
}

func (p *posted) connected(t testing.TB) *posted {
	_, err := p.Accounts.Put(ctx, p.who, "", account)
	require.NoError(t, err)
	return p
}

// put lays a letter into a folder of the post office.
func (p *posted) put(folder, id, from, subject string, refs ...string) {
	raw := strings.ReplaceAll(strings.ReplaceAll(letter(id, from, subject, refs...), "solvei@m.example", museum), "\n", "\r\n")
	p.post.Put(museum, folder, p.clock.t, []byte(raw))
}

func (p *posted) pass(t testing.TB) {
	t.Helper()
	require.NoError(t, p.Mail.PassNow(ctx))
}

// where gives the place of a conversation by its subject.
func (p *posted) where(t testing.TB, subject string) (row store.Conversation) {
	t.Helper()
	require.NoError(t, p.store.Read(ctx, func(tx store.Tx) error {
		rows, err := store.Conversations(tx).ByBase(1, strings.ToLower(subject))
		if err == nil && len(rows) == 0 {
			err = fmt.Errorf("no conversation %q", subject)
		}
		if err == nil {
			row = rows[0]
		}
		return err
	}))
	return row
}

func (p *posted) in(folder string) (subjects []string) {
	for _, l := range p.post.Folder(museum, folder) {
		subjects = append(subjects, mime.Read(l.Raw).Subject)
	}
	return subjects
}

func TestTheFirstSyncBringsEverythingToItsPlace(t *testing.T) {
	p := newPosted(t, postoffice.Faults{})
	p.put(postoffice.Inbox, "1@x", "Jonas <jonas@x.example>", "Crate")
	p.put(postoffice.Inbox, "22@x", "Mirela <mirela@x.example>", "Lorry")
	p.post.SetFlags(museum, postoffice.Inbox, 1, `\Seen`, `\Flagged`)
	p.put(postoffice.Archive, "333@x", "Oona <oona@x.example>", "Travel")
	p.put(postoffice.Trash, "4444@x", "Fan <fan@x.example>", "Offer")
	p.put(postoffice.Junk, "55555@x", "Fan <fan@x.example>", "Prize")
	p.put(postoffice.Sent, "666666@x", "Solvei <"+museum+">", "Asked")
	p.connected(t).pass(t)
	for subject, place := range map[string]inbox.Place{"Crate": inbox.Inbox, "Lorry": inbox.Inbox, "Travel": inbox.Archived, "Offer": inbox.Bin, "Prize": inbox.Junk, "Asked": inbox.Archived} {
		require.Equal(t, place, p.where(t, subject).Place, subject)
	}
	q := p.queue(t)
	require.Len(t, q, 2)
	for _, s := range q {
		require.Equal(t, s.Subject == "Crate", s.Starred)
		require.Equal(t, s.Subject != "Crate", s.Unread)
	}
	v, err := p.Accounts.All(ctx, p.who)
	require.NoError(t, err)
	require.NotZero(t, v.Accounts[0].Synced)
	require.Empty(t, v.Accounts[0].Trouble)
	require.Equal(t, 6, v.Accounts[0].Brought)
	p.pass(t)
	require.Len(t, p.queue(t), 2, "nothing comes twice")
	p.sound(t)
}

func TestDecisionsAreCarriedToTheServer(t *testing.T) {
	for _, plain := range []bool{false, true} {
		t.Run(fmt.Sprintf("plain=%v", plain), func(t *testing.T) {
			p := newPosted(t, postoffice.Faults{Plain: plain}).connected(t)
			for i, s := range []string{"Crate", "Lorry", "Fan", "Star"} {
				p.put(postoffice.Inbox, strings.Repeat("a", i+1)+"@x", "Jonas <jonas@x.example>", s)
			}
			p.pass(t)
			decide := func(k inbox.Kind, subject string) {
				p.decide(t, k, decide.Decision{Conversations: []int64{p.where(t, subject).ID}})
			}
			decide(inbox.Archive, "Crate")
			decide(inbox.ToBin, "Lorry")
			decide(inbox.ToJunk, "Fan")
			decide(inbox.Star, "Star")
			decide(inbox.Look, "Star")
			p.pass(t)
			require.Equal(t, []string{"Star"}, p.in(postoffice.Inbox))
			require.Equal(t, []string{"Crate"}, p.in(postoffice.Archive))
			require.Equal(t, []string{"Lorry"}, p.in(postoffice.Trash))
			require.Equal(t, []string{"Fan"}, p.in(postoffice.Junk))
			require.ElementsMatch(t, []string{`\Flagged`, `\Seen`}, flagsOf(p.post.Folder(museum, postoffice.Inbox)[0]))

			for range 2 { // the star and the junk
				_, err := p.Journal.TakeBack(ctx, p.who, "")
				require.NoError(t, err)
			}
			_, err := p.Journal.TakeBack(ctx, p.who, "") // and the bin
			require.NoError(t, err)
			p.pass(t)
			require.ElementsMatch(t, []string{"Star", "Fan", "Lorry"}, p.in(postoffice.Inbox))
			p.pass(t)
			require.Equal(t, inbox.Inbox, p.where(t, "Lorry").Place, "what Ebbe has moved, it does not take for somebody else's doing")
			require.Equal(t, inbox.Archived, p.where(t, "Crate").Place)
			v, err := p.Accounts.All(ctx, p.who)
			require.NoError(t, err)
			require.Zero(t, v.Uncarried)
			p.sound(t)
		})
	}
}

func flagsOf(l postoffice.Stored) (out []string) {
	for _, f := range l.Flags {
		out = append(out, string(f))
	}
	return out
}

func TestWhatIsDoneElsewhereIsFollowed(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	for i, s := range []string{"Archived", "Binned", "Deleted", "Read", "Both"} {
		p.put(postoffice.Inbox, strings.Repeat("a", i+1)+"@x", "Jonas <jonas@x.example>", s)
	}
	p.pass(t)
	p.post.Move(museum, postoffice.Inbox, 1, postoffice.Archive)
	p.post.Move(museum, postoffice.Inbox, 2, postoffice.Trash)
	p.post.Move(museum, postoffice.Inbox, 3, "")
	p.post.SetFlags(museum, postoffice.Inbox, 4, `\Seen`, `\Flagged`)
	p.post.Move(museum, postoffice.Inbox, 5, postoffice.Trash) // and here, before the server was heard
	p.decide(t, inbox.Snooze, decide.Decision{Conversations: []int64{p.where(t, "Both").ID}, Return: p.at(t, "tomorrow 8:00")})
	p.pass(t)
	require.Equal(t, inbox.Archived, p.where(t, "Archived").Place)
	require.Equal(t, inbox.Bin, p.where(t, "Binned").Place)
	require.Equal(t, inbox.Bin, p.where(t, "Deleted").Place, "what was deleted elsewhere is kept in the bin")
	require.Equal(t, inbox.Snoozed, p.where(t, "Both").Place, "what was decided here and not carried yet counts")
	q := p.queue(t)
	require.Len(t, q, 1)
	require.True(t, q[0].Starred && !q[0].Unread)
	h, err := p.Reading.History(ctx, p.who, store.Past{Actor: store.ByServer})
	require.NoError(t, err)
	require.Equal(t, []int{3, 1}, []int{h.Lines[0].Count, h.Lines[1].Count}, "a line for each that can be taken back: what was moved, and what was marked")
	require.True(t, h.Lines[0].Step)
	require.Contains(t, p.in(postoffice.Inbox), "Both", "and is carried there")

	p.post.Move(museum, postoffice.Trash, 1, postoffice.Inbox)
	p.pass(t)
	require.Equal(t, inbox.Inbox, p.where(t, "Binned").Place)
	p.sound(t)
}

// A message that another program took out of junk does not stay hidden there
// because the rest was deleted.
func TestWhatIsLeftOfJunkSaysWhereItIs(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	p.pass(t)
	p.put(postoffice.Inbox, "1@x", "Jonas <jonas@x.example>", "Crate")
	p.later(time.Hour)
	p.put(postoffice.Inbox, "2@x", "Jonas <jonas@x.example>", "Crate", "1@x")
	p.pass(t)
	p.decide(t, inbox.ToJunk, decide.Decision{Conversations: []int64{p.where(t, "Crate").ID}})
	p.pass(t)
	lie := p.post.Folder(museum, postoffice.Junk)
	require.Len(t, lie, 2)
	p.post.Move(museum, postoffice.Junk, lie[0].UID, postoffice.Archive)
	p.pass(t)
	require.Equal(t, inbox.Junk, p.where(t, "Crate").Place, "the newest lies in junk")
	p.post.Move(museum, postoffice.Junk, lie[1].UID, "")
	p.pass(t)
	require.Equal(t, inbox.Archived, p.where(t, "Crate").Place)
	p.sound(t)
}

func TestANewNumberingLosesAndDoublesNothing(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	for i := range 30 {
		p.put(postoffice.Inbox, fmt.Sprintf("%d@x", i), "Jonas <jonas@x.example>", fmt.Sprintf("Crate %c", 'a'+i))
	}
	p.pass(t)
	p.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{p.where(t, "Crate a").ID}})
	p.pass(t)
	p.post.Renumber(museum)
	p.post.Move(museum, postoffice.Inbox, 1, "")
	p.put(postoffice.Inbox, "new@x", "Jonas <jonas@x.example>", "New")
	p.pass(t)
	q, err := p.Queue.Arranged(ctx, p.who, queue.Arrangement{})
	require.NoError(t, err)
	require.Equal(t, 29, q.Left) // 30 - archived - deleted + new
	require.Equal(t, inbox.Archived, p.where(t, "Crate a").Place)
	require.Equal(t, inbox.Bin, p.where(t, "Crate b").Place)
	p.decide(t, inbox.ToBin, decide.Decision{Conversations: []int64{p.where(t, "Crate c").ID}})
	p.pass(t)
	require.Contains(t, p.in(postoffice.Trash), "Crate c")
	p.sound(t)
}

func (p *posted) at(t testing.TB, phrase string) when.Moment {
	r := p.who.Week.Read(phrase, p.Now())
	require.True(t, r.Moment.At > 0, phrase)
	return r.Moment
}

// draft begins an answer to the newest message of a conversation.
func (p *posted) draft(t testing.TB, mode writing.Mode, subject, text string) composing.DraftView {
	v, err := p.Reading.Conversation(ctx, p.who, p.where(t, subject).ID)
	require.NoError(t, err)
	d, err := p.Writing.Begin(ctx, p.who, "", composing.DraftBegun{Mode: mode, Message: v.Messages[len(v.Messages)-1].ID})
	require.NoError(t, err)
	d, err = p.Writing.Change(ctx, p.who, "", d.ID, composing.DraftChange{Account: d.Account, To: d.To, Cc: d.Cc, Subject: d.Subject, Text: text})
	require.NoError(t, err)
	return d
}

func (p *office) later(d time.Duration) { p.clock.t = p.clock.t.Add(d) }

func TestAnAnswerGoesOutOnceTheSpanIsOver(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	p.put(postoffice.Inbox, "1@x", "Jonas <jonas@x.example>", "Crate")
	p.pass(t)
	d := p.draft(t, writing.Reply, "Crate", "Thursday is fine.")
	require.Equal(t, []mail.Address{{Name: "Jonas", Address: "jonas@x.example"}}, d.To)
	require.Equal(t, "Re: Crate", d.Subject)
	require.Equal(t, "On 24 November 2026, Jonas wrote:\n> body of 1@x\n", d.Below)
	out, err := p.Writing.Send(ctx, p.who, "key", d.ID, composing.Sending{Then: inbox.Snooze, Return: p.at(t, "fri 9:00")})
	require.NoError(t, err)
	require.Equal(t, "Goes out in 15 seconds. Back Fri 27 Nov, 9:00 if nobody answers.", out.Text)
	again, err := p.Writing.Send(ctx, p.who, "key", d.ID, composing.Sending{Then: inbox.Snooze, Return: p.at(t, "fri 9:00")})
	require.NoError(t, err)
	require.Equal(t, out, again, "the same request sends once")
	require.NoError(t, p.Sending.Dispatch(ctx))
	require.Empty(t, p.post.Taken(), "it can still be taken back")
	_, err = p.Journal.TakeBack(ctx, p.who, "")
	require.NoError(t, err)
	require.Equal(t, inbox.Inbox, p.where(t, "Crate").Place)
	v, err := p.Reading.Conversation(ctx, p.who, p.where(t, "Crate").ID)
	require.NoError(t, err)
	require.Equal(t, "Thursday is fine.", v.Draft.Text, "the draft is back")
	p.later(time.Minute)
	require.NoError(t, p.Sending.Dispatch(ctx))
	require.Empty(t, p.post.Taken())

	_, err = p.Journal.Again(ctx, p.who, "")
	require.NoError(t, err)
	p.later(time.Minute)
	require.NoError(t, p.Sending.Dispatch(ctx))
	require.NoError(t, p.Sending.Dispatch(ctx))
	taken := p.post.Taken()
	require.Len(t, taken, 1)
	require.Equal(t, []string{"jonas@x.example"}, taken[0].To)
	m := mime.Read(taken[0].Raw)
	require.Equal(t, []string{"1@x"}, m.References)
	require.Equal(t, mail.Address{Name: "Solvei Arnkvist", Address: museum}, m.From)
	v, err = p.Reading.Conversation(ctx, p.who, p.where(t, "Crate").ID)
	require.NoError(t, err)
	require.Len(t, v.Messages, 2)
	require.True(t, v.Messages[1].Own)
	require.Zero(t, v.Draft.ID)
	require.Equal(t, inbox.Snoozed, p.where(t, "Crate").Place)
	_, err = p.Journal.TakeBack(ctx, p.who, "")
	require.ErrorContains(t, err, "nothing left to take back", "what has gone is gone")
	p.pass(t)
	require.Equal(t, []string{"Re: Crate"}, p.in(postoffice.Sent))
	p.pass(t)
	require.Len(t, p.in(postoffice.Sent), 1)

	// An automatic answer leaves it asleep, a person's brings it back.
	p.put(postoffice.Inbox, "auto@x", "Jonas <jonas@x.example>\nAuto-Submitted: auto-replied", "Re: Crate", m.MessageID)
	p.pass(t)
	require.Equal(t, inbox.Snoozed, p.where(t, "Crate").Place)
	p.put(postoffice.Inbox, "real@x", "Jonas <jonas@x.example>", "Re: Crate", m.MessageID)
	p.pass(t)
	require.Equal(t, inbox.Answer, p.where(t, "Crate").Reason)
	p.sound(t)
}

// Whoever is asked again, by whatever message, is asked next one distance later.
func TestWritingToThemIsAskingAgain(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	p.put(postoffice.Inbox, "1@x", "Jonas <jonas@x.example>", "Crate")
	p.pass(t)
	of := p.where(t, "Crate").ID
	p.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: []int64{of}, FollowUp: &followups.NewFollowUp{Title: "Wait for Jonas", Waits: followup.Wait{Since: p.Now(), Only: true,
		Ask: p.at(t, "thu 8:00"), Rhythm: &when.Rhythm{Every: 3, Unit: when.WorkingDays, Times: 2}}}})
	p.clock.t = p.at(t, "thu 15:00").At.Time()
	require.NoError(t, p.Agenda.CatchUp(ctx))
	asked := p.named(t, "Wait for Jonas")
	require.True(t, asked.Card)
	require.Equal(t, p.at(t, "in 3 working days"), asked.Waits.Ask)
	p.clock.t = p.at(t, "tomorrow 10:00").At.Time() // it lay for a day before it was done
	_, err := p.Writing.Send(ctx, p.who, "", p.draft(t, writing.Reply, "Crate", "Have you had time?").ID, composing.Sending{})
	require.NoError(t, err)
	now := p.named(t, "Wait for Jonas")
	require.False(t, now.Card)
	require.Equal(t, p.at(t, "in 3 working days"), now.Waits.Ask)
	_, err = p.Journal.TakeBack(ctx, p.who, "")
	require.NoError(t, err)
	require.True(t, p.named(t, "Wait for Jonas").Equal(asked), "and taking back the message takes that back, too")
	p.sound(t)
}

func TestNobodyAnsweredInTime(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	p.put(postoffice.Inbox, "1@x", "Jonas <jonas@x.example>", "Crate")
	p.pass(t)
	_, err := p.Writing.Send(ctx, p.who, "", p.draft(t, writing.Reply, "Crate", "When?").ID, composing.Sending{Then: inbox.Snooze, Return: p.at(t, "fri 9:00")})
	require.NoError(t, err)
	p.later(time.Minute)
	require.NoError(t, p.Sending.Dispatch(ctx))
	p.later(4 * 24 * time.Hour)
	require.NoError(t, p.Agenda.CatchUp(ctx))
	require.Equal(t, inbox.Unanswered, p.where(t, "Crate").Reason)
}

// An answer, and what is handed over, is a decision of the sitting in which it was
// written, if its conversation leaves with it.
func TestASittingCountsWhatIsAnsweredAndHandedOver(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	for i, subject := range []string{"Crate", "Proofs", "Keys"} {
		p.put(postoffice.Inbox, fmt.Sprint(i, "@x"), "Jonas <jonas@x.example>", subject)
	}
	p.pass(t)
	v, err := p.Queue.Sit(ctx, p.who, queue.Sit{Order: inbox.OldestFirst})
	require.NoError(t, err)
	send := func(mode writing.Mode, subject string, then inbox.Kind) {
		d := p.draft(t, mode, subject, "Yes.")
		if mode == writing.HandOver {
			d, err = p.Writing.Change(ctx, p.who, "", d.ID, composing.DraftChange{Account: d.Account, To: []mail.Address{{Address: "priya@x.example"}}, Subject: d.Subject, Text: d.Text})
			require.NoError(t, err)
		}
		_, err := p.Writing.Send(ctx, p.who, "", d.ID, composing.Sending{Then: then, Sitting: v.ID, Sure: true})
		require.NoError(t, err)
	}
	send(writing.Reply, "Crate", inbox.Archive)
	send(writing.HandOver, "Proofs", inbox.Archive)
	send(writing.Reply, "Keys", "")
	v, err = p.Queue.Sitting(ctx, p.who)
	require.NoError(t, err)
	require.Equal(t, 2, v.Sum.Decided)
	require.Equal(t, map[inbox.Kind]int{inbox.SendMail: 2}, v.Sum.ByKind)
}

// report puts what says that a message could not be delivered into the inbox.
func (p *posted) report(messageID string) {
	p.post.Put(museum, postoffice.Inbox, p.clock.t, []byte("From: mailer-daemon@x.example\r\nTo: "+museum+"\r\nSubject: Returned\r\nMessage-ID: <b@x>\r\n"+
		"Content-Type: multipart/report; report-type=delivery-status; boundary=b\r\n\r\n--b\r\nContent-Type: text/plain\r\n\r\nNo.\r\n"+
		"--b\r\nContent-Type: message/delivery-status\r\n\r\nReporting-MTA: dns; x\r\n\r\nFinal-Recipient: rfc822; jonas@x.example\r\nAction: failed\r\nStatus: 5.2.2\r\n\r\n"+
		"--b\r\nContent-Type: text/rfc822-headers\r\n\r\nMessage-ID: <"+messageID+">\r\n\r\n--b--\r\n"))
}

func TestWhatIsNotDeliveredComesBackAtOnce(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	p.put(postoffice.Inbox, "1@x", "Nobody <nobody@x.example>", "Refused")
	p.put(postoffice.Inbox, "22@x", "Jonas <jonas@x.example>", "Bounced")
	p.pass(t)
	for _, s := range []string{"Refused", "Bounced"} {
		_, err := p.Writing.Send(ctx, p.who, "", p.draft(t, writing.Reply, s, "When?").ID, composing.Sending{Then: inbox.Snooze, Return: p.at(t, "fri 9:00")})
		require.NoError(t, err)
	}
	p.later(time.Minute)
	require.NoError(t, p.Sending.Dispatch(ctx))
	require.Equal(t, inbox.Bounced, p.where(t, "Refused").Reason)
	v, err := p.Reading.Conversation(ctx, p.who, p.where(t, "Refused").ID)
	require.NoError(t, err)
	require.Equal(t, writing.Refused, v.Going[0].State)
	require.Contains(t, v.Going[0].Problem, "nobody of that name")

	p.report(mime.Read(p.post.Taken()[0].Raw).MessageID)
	p.pass(t)
	require.Equal(t, inbox.Bounced, p.where(t, "Bounced").Reason)
	v, err = p.Reading.Conversation(ctx, p.who, p.where(t, "Bounced").ID)
	require.NoError(t, err)
	require.Equal(t, []reading.ReportView{{Text: "jonas@x.example: the mailbox is full.", Failed: true}}, v.Messages[2].Reports)
	require.NoError(t, p.Sending.Settle(ctx, p.who, 1, false))
	v, err = p.Reading.Conversation(ctx, p.who, p.where(t, "Refused").ID)
	require.NoError(t, err)
	require.Equal(t, "When?", v.Draft.Text, "the draft of what was refused is kept")
	p.sound(t)
}

// A report may come in before the message it is about stands in its conversation.
func TestAReportComesBeforeItsMessageIsFiled(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	p.pass(t)
	d, err := p.Writing.Begin(ctx, p.who, "", composing.DraftBegun{Mode: writing.New})
	require.NoError(t, err)
	_, err = p.Writing.Change(ctx, p.who, "", d.ID, composing.DraftChange{Account: 1, To: []mail.Address{{Address: "jonas@x.example"}}, Subject: "The lamps", Text: "Where are they?"})
	require.NoError(t, err)
	_, err = p.Writing.Send(ctx, p.who, "", d.ID, composing.Sending{})
	require.NoError(t, err)
	p.post.Misbehave(postoffice.Faults{Mute: 1})
	p.later(time.Minute)
	require.NoError(t, p.Sending.Dispatch(ctx))
	out, err := p.Writing.Outbox(ctx, p.who, 0)
	require.NoError(t, err)
	require.Equal(t, writing.Hanging, out.Messages[0].State)

	p.report(mime.Read(p.post.Taken()[0].Raw).MessageID)
	p.pass(t)
	row := p.where(t, "The lamps")
	require.Equal(t, inbox.Bounced, row.Reason)
	require.Equal(t, "The lamps", row.Subject)
	v, err := p.Reading.Conversation(ctx, p.who, row.ID)
	require.NoError(t, err)
	require.Len(t, v.Messages, 2)
	require.True(t, v.Messages[0].Own)
	out, err = p.Writing.Outbox(ctx, p.who, 0)
	require.NoError(t, err)
	require.Empty(t, out.Messages, "what was reported on has gone")
	p.sound(t)
}

func TestWhatHangsIsNeverSentAgainByItself(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	p.put(postoffice.Inbox, "1@x", "Jonas <jonas@x.example>", "Crate")
	p.pass(t)
	_, err := p.Writing.Send(ctx, p.who, "", p.draft(t, writing.Reply, "Crate", "When?").ID, composing.Sending{Then: inbox.ToBin})
	require.ErrorContains(t, err, "the draft is kept")
	_, err = p.Writing.Send(ctx, p.who, "", p.draft(t, writing.Reply, "Crate", "When?").ID, composing.Sending{Then: inbox.Archive})
	require.NoError(t, err)
	p.post.Misbehave(postoffice.Faults{Mute: 1})
	p.later(time.Minute)
	require.NoError(t, p.Sending.Dispatch(ctx))
	require.Len(t, p.post.Taken(), 1)
	p.post.Misbehave(postoffice.Faults{})
	p.later(24 * time.Hour)
	require.NoError(t, p.Sending.Dispatch(ctx))
	require.Len(t, p.post.Taken(), 1)
	out, err := p.Writing.Outbox(ctx, p.who, 0)
	require.NoError(t, err)
	require.Equal(t, writing.Hanging, out.Messages[0].State)
	require.Contains(t, out.Messages[0].Problem, "may have gone or not")
	require.NoError(t, p.Sending.Settle(ctx, p.who, out.Messages[0].ID, false)) // it had gone
	require.NoError(t, p.Sending.Dispatch(ctx))
	v, err := p.Reading.Conversation(ctx, p.who, p.where(t, "Crate").ID)
	require.NoError(t, err)
	require.Len(t, v.Messages, 2)
	p.sound(t)
}

func TestBusyServersAreTriedAgain(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	p.put(postoffice.Inbox, "1@x", "Jonas <jonas@x.example>", "Crate")
	p.pass(t)
	_, err := p.Writing.Send(ctx, p.who, "", p.draft(t, writing.Reply, "Crate", "When?").ID, composing.Sending{Then: inbox.Archive})
	require.NoError(t, err)
	p.post.Misbehave(postoffice.Faults{Busy: 1})
	p.later(time.Minute)
	require.NoError(t, p.Sending.Dispatch(ctx))
	out, err := p.Writing.Outbox(ctx, p.who, 0)
	require.NoError(t, err)
	require.Equal(t, writing.Waiting, out.Messages[0].State)
	require.Contains(t, out.Messages[0].Problem, "come back later")
	p.reopen(t) // and the program is ended in between
	p.link()
	p.post.Misbehave(postoffice.Faults{})
	require.NoError(t, p.Sending.Dispatch(ctx))
	require.Empty(t, p.post.Taken(), "not before its time")
	p.later(2 * time.Minute)
	require.NoError(t, p.Sending.Dispatch(ctx))
	require.Len(t, p.post.Taken(), 1)
}

func TestHandingOverForwardsAndTracks(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	p.post.Put(museum, postoffice.Inbox, p.clock.t, []byte("From: Kestrel <k@x.example>\r\nTo: "+museum+"\r\nSubject: Proofs\r\nMessage-ID: <1@x>\r\nMIME-Version: 1.0\r\n"+
		"Content-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\nContent-Type: text/plain\r\n\r\nPlease look.\r\n--b\r\nContent-Type: application/pdf\r\nContent-Disposition: attachment; filename=p.pdf\r\n\r\n%PDF\r\n--b--\r\n"))
	p.pass(t)
	d := p.draft(t, writing.HandOver, "Proofs", "Could you check page 3?")
	require.Equal(t, "Fwd: Proofs", d.Subject)
	require.Equal(t, "p.pdf", d.Files[0].Name)
	require.Contains(t, d.Below, "Passed on, from Kestrel <k@x.example>")
	_, err := p.Writing.Send(ctx, p.who, "", d.ID, composing.Sending{Then: inbox.Archive})
	require.ErrorContains(t, err, "goes to nobody yet")
	_, err = p.Writing.Change(ctx, p.who, "", d.ID, composing.DraftChange{To: []mail.Address{{Name: "Priya", Address: "priya@x.example"}}, Subject: d.Subject, Text: d.Text})
	require.NoError(t, err)
	out, err := p.Writing.Send(ctx, p.who, "", d.ID, composing.Sending{Then: inbox.Archive, Expect: "Checked proofs from Priya", Due: p.at(t, "thu 12:00")})
	require.NoError(t, err)
	require.Zero(t, out.Asks)
	p.later(time.Minute)
	require.NoError(t, p.Sending.Dispatch(ctx))
	m := mime.Read(p.post.Taken()[0].Raw)
	require.Equal(t, "p.pdf", m.Files[0].Name)
	w, err := p.FollowUps.Waiting(ctx, p.who, "")
	require.NoError(t, err)
	require.Len(t, w.FollowUps, 1)
	require.Equal(t, "Checked proofs from Priya", w.FollowUps[0].Title)
	require.Equal(t, "priya@x.example", w.FollowUps[0].With.Address)
	require.Equal(t, "1@x", w.FollowUps[0].Message)
	p.put(postoffice.Inbox, "before@x", "Priya <priya@x.example>", "Re: Fwd: Proofs", m.MessageID) // with a date long ago
	p.pass(t)
	w, err = p.FollowUps.Waiting(ctx, p.who, "")
	require.NoError(t, err)
	require.Len(t, w.FollowUps[0].Waits.Offers, 1, "its clock may be wrong")
	p.post.Put(museum, postoffice.Inbox, p.clock.t, []byte(strings.ReplaceAll(note("back@x", "Priya <priya@x.example>", museum, "Re: Fwd: Proofs", p.clock.t, "References: <"+m.MessageID+">"), "\n", "\r\n")))
	p.pass(t)
	w, err = p.FollowUps.Waiting(ctx, p.who, "")
	require.NoError(t, err)
	require.Empty(t, w.FollowUps, "the answer ends the waiting")
	p.sound(t)
}

func TestWhatMayBeWrongIsAskedOrSaidBeforeSending(t *testing.T) {
	p := newPosted(t, postoffice.Faults{})
	p.take(t, letter("1@x", "Jonas <jonas@x.example>", "Crate"))
	d := p.draft(t, writing.Reply, "Crate", "The list is attached.")
	out, err := p.Writing.Send(ctx, p.who, "", d.ID, composing.Sending{})
	require.NoError(t, err)
	require.Equal(t, []any{"You write “attached”, but no file goes with it. Send it all the same?", "files", int64(0)}, []any{out.Asks, out.Field, out.Outgoing})
	_, err = p.Writing.Send(ctx, p.who, "", d.ID, composing.Sending{Sure: true})
	require.ErrorContains(t, err, "no account to send it with")
	_, err = p.Writing.Send(ctx, p.who, "", d.ID, composing.Sending{At: when.Moment{At: 1}})
	require.ErrorContains(t, err, "That time has passed")
	_, err = p.Writing.Change(ctx, p.who, "", d.ID, composing.DraftChange{To: []mail.Address{{Address: "a@x.example\r\nBcc: b@x.example"}}})
	require.ErrorContains(t, err, "line break")
	_, err = p.Writing.Change(ctx, p.who, "", d.ID, composing.DraftChange{To: []mail.Address{{Address: "jonas"}}, Text: "x"})
	require.NoError(t, err, "half typed is kept")
	_, err = p.Writing.Send(ctx, p.who, "", d.ID, composing.Sending{Sure: true})
	require.ErrorContains(t, err, "“jonas” is no mail address")
	_, err = p.Writing.AddFile(ctx, p.who, "", d.ID, "../a/b.bin", "application/octet-stream", make([]byte, composing.MaxFiles+1))
	require.ErrorContains(t, err, "room for 25 MB")
	v, err := p.Writing.AddFile(ctx, p.who, "", d.ID, "../a/b.bin", "application/octet-stream", []byte("x"))
	require.NoError(t, err)
	require.Equal(t, "_a_b.bin", v.Files[0].Name)
	v, err = p.Writing.DropFile(ctx, p.who, d.ID, v.Files[0].ID)
	require.NoError(t, err)
	require.Empty(t, v.Files)
}

func TestAccountsAreTriedAndKeptSafely(t *testing.T) {
	p := newPosted(t, postoffice.Faults{})
	found, err := p.Accounts.FindServers(ctx, " Solvei.Arnkvist@skagvikmuseum.example ")
	require.NoError(t, err)
	require.Equal(t, accounts.ServersFound{Mailbox: account.Mailbox, Sending: account.Sending, Announced: true}, found)
	found, err = p.Accounts.FindServers(ctx, "a@elsewhere.example")
	require.NoError(t, err)
	require.False(t, found.Announced)
	wrong := account
	wrong.Secret, wrong.Sending.Port = "spring tide", 466
	r, err := p.Accounts.Test(ctx, p.who, wrong)
	require.NoError(t, err)
	require.False(t, r.Fine)
	require.Equal(t, []string{post.StepSignIn, post.StepConnect}, []string{r.Steps[0].Step, r.Steps[1].Step})
	require.NotContains(t, r.Steps[0].Text, "spring tide")
	r, err = p.Accounts.Test(ctx, p.who, account)
	require.NoError(t, err)
	require.True(t, r.Fine)
	require.Contains(t, r.Folders, "Archive")
	for field, change := range map[string]func(*accounts.AccountDraft){
		"address": func(a *accounts.AccountDraft) { a.Address = "solvei" }, "mailbox": func(a *accounts.AccountDraft) { a.Mailbox.Host = "a b" },
		"sending": func(a *accounts.AccountDraft) { a.Sending.Port = 0 }, "secret": func(a *accounts.AccountDraft) { a.Secret = "" },
	} {
		bad := account
		change(&bad)
		_, err := p.Accounts.Put(ctx, p.who, "", bad)
		var u *problem.Error
		require.ErrorAs(t, err, &u)
		require.Equal(t, field, u.Field)
	}
	p.connected(t)
	_, err = p.Accounts.Put(ctx, p.who, "", account)
	require.ErrorContains(t, err, "there is an account of that address already")
	require.NoError(t, p.store.Read(ctx, func(tx store.Tx) error {
		a, err := mailboxes.Accounts(tx).Account(1, 1)
		require.NotContains(t, string(a.Secret), "low tide", "it is sealed")
		return err
	}))
	change := account
	change.ID, change.Secret, change.Signature = 1, "", "Solvei"
	v, err := p.Accounts.Put(ctx, p.who, "", change)
	require.NoError(t, err)
	require.Equal(t, "Solvei", v.Signature)
	p.pass(t) // with the password it had
	p.link(func(l *accounts.Links) { l.Key[0]++ })
	require.ErrorContains(t, p.Mail.PassNow(ctx), "type it anew", "another key does not open it")
	require.NoError(t, p.Accounts.Drop(ctx, p.who, 1, false))
	require.NoError(t, p.Mail.PassNow(ctx))
}

// A question to one person that nobody has answered for two working days is
// offered, until somebody does, or it is left.
func TestUnansweredQuestionsAreOffered(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	send := func(subject, text string, more ...string) string {
		d, err := p.Writing.Begin(ctx, p.who, "", composing.DraftBegun{Mode: writing.New})
		require.NoError(t, err)
		to := []mail.Address{{Name: "Jonas", Address: "jonas@x.example"}}
		for _, a := range more {
			to = append(to, mail.Address{Address: a})
		}
		_, err = p.Writing.Change(ctx, p.who, "", d.ID, composing.DraftChange{To: to, Subject: subject, Text: text})
		require.NoError(t, err)
		_, err = p.Writing.Send(ctx, p.who, subject, d.ID, composing.Sending{})
		require.NoError(t, err)
		p.later(time.Minute)
		require.NoError(t, p.Sending.Dispatch(ctx))
		taken := p.post.Taken()
		return mime.Read(taken[len(taken)-1].Raw).MessageID
	}
	asked := func() (out []string) {
		list, err := p.FollowUps.Unanswered(ctx, p.who)
		require.NoError(t, err)
		for _, u := range list {
			out = append(out, u.Subject+": "+u.Asked)
		}
		return out
	}
	first := send("Crate", "Dear Jonas,\n\nwhich crate is ours?\n")
	send("Lorry", "When does it leave?")
	send("Told", "It leaves at nine.")
	send("Many", "Who comes?", "oona@x.example")
	p.later(24 * time.Hour)
	require.Empty(t, asked(), "one working day is no long time")
	p.later(24 * time.Hour)
	require.Equal(t, []string{"Lorry: When does it leave?", "Crate: which crate is ours?"}, asked())

	v, err := p.Reading.Conversation(ctx, p.who, p.where(t, "Crate").ID)
	require.NoError(t, err)
	d, err := p.Writing.Begin(ctx, p.who, "", composing.DraftBegun{Mode: writing.Reply, Message: v.Messages[0].ID, Remind: true})
	require.NoError(t, err)
	require.Equal(t, "jonas@x.example", d.To[0].Address)
	require.Equal(t, "Dear Jonas,\n\non 24 November 2026 I wrote to you about “Crate” and have not heard from you yet. May I ask you for an answer?\n", d.Text)
	require.Contains(t, d.Below, "> which crate is ours?")

	late := strings.ReplaceAll(letter("a@x", "Jonas <jonas@x.example>", "Re: Crate", first), "Tue, 24 Nov", "Thu, 26 Nov")
	p.post.Put(museum, postoffice.Inbox, p.clock.t, []byte(late))
	p.pass(t)
	require.Equal(t, []string{"Lorry: When does it leave?"}, asked())
	list, err := p.FollowUps.Unanswered(ctx, p.who)
	require.NoError(t, err)
	require.NoError(t, p.FollowUps.DismissUnanswered(ctx, p.who, list[0].Message))
	require.Empty(t, asked())
	require.ErrorIs(t, p.FollowUps.DismissUnanswered(ctx, p.who, 999), store.ErrNotFound)
	p.sound(t)
}

func TestShortAnswersNameFreeTimes(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	raw := strings.ReplaceAll(letter("1@x", "Jonas <jonas@x.example>", "Visit"), "body of 1@x", "Dear Solvei,\n\nwhen may we come and look at the room?")
	p.post.Put(museum, postoffice.Inbox, p.clock.t, []byte(raw))
	p.pass(t)
	_, err := p.Calendar.PutEvent(ctx, p.who, "", "", calendars.EventDraft{Title: "Round", Start: p.moment(t, "tomorrow 10:00"), End: p.moment(t, "tomorrow 11:00"), Remind: -1})
	require.NoError(t, err)
	got, err := p.Writing.ShortAnswers(ctx, p.who, p.where(t, "Visit").ID)
	require.NoError(t, err)
	require.Equal(t, []writing.AnswerLine{{Asks: "when may we come and look at the room?", Answers: []string{"Wed 25 Nov, 14:00 would suit me.", "Thu 26 Nov, 14:00 would suit me.",
		"I could offer Wed 25 Nov, 14:00 or Thu 26 Nov, 14:00. Which is better for you?", "Please name two times; I will take one."}}}, got)
	ask := func(id, subject, text string) []writing.AnswerLine {
		raw := strings.ReplaceAll(letter(id, "Jonas <jonas@x.example>", subject), "body of "+id, text)
		p.post.Put(museum, postoffice.Inbox, p.clock.t, []byte(raw))
		p.pass(t)
		got, err := p.Writing.ShortAnswers(ctx, p.who, p.where(t, subject).ID)
		require.NoError(t, err)
		return got
	}
	second := ask("2@x", "Class", "Class 5b would like to come in the second week of December. Which day is quiet?")
	require.Equal(t, "Tue 8 Dec, 10:00 would suit me.", second[0].Answers[0], "of the week that was asked about")
	day := ask("3@x", "One day", "What time suits you tomorrow?")
	require.Equal(t, []string{"Wed 25 Nov, 14:00 would suit me.", "Please name two times; I will take one."}, day[0].Answers, "of the day that was asked about, at ten something else is on")
	two := ask("4@x", "Two", "Can you sign the form? And when may we come?")
	require.Len(t, two, 2, "a line for each")
}

// A list is left by the one request its header names, or by a message; what came
// of it stands in the history, and what fails is said.
func TestAListIsLeft(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	come := func(id, subject, header string) int64 {
		p.put(postoffice.Inbox, id, "Weekly <weekly@l.example>\nList-Id: <weekly.l.example>\n"+header, subject)
		p.pass(t)
		return p.where(t, subject).ID
	}
	at := come("1@l", "Crate", "List-Unsubscribe: <mailto:off@l.example>, <https://l.example/leave?x=1>\nList-Unsubscribe-Post: List-Unsubscribe=One-Click")
	how, err := p.Writing.HowToLeave(ctx, p.who, at)
	require.NoError(t, err)
	require.Equal(t, composing.LeaveView{List: "Weekly", Way: "request", Text: "One request goes to l.example. It says that this address leaves the list, and nothing else."}, how)
	require.Empty(t, p.post.Left(), "asking leaves nothing")
	out, err := p.Writing.LeaveList(ctx, p.who, "k", at)
	require.NoError(t, err)
	require.Equal(t, "You have left “Weekly”: its server has taken the request.", out.Text)
	require.Equal(t, []string{"l.example/leave?x=1"}, p.post.Left())

	_, err = p.Writing.LeaveList(ctx, p.who, "k2", come("22@l", "Forever", "List-Unsubscribe: <https://forever.skagvik.example/leave>\nList-Unsubscribe-Post: List-Unsubscribe=One-Click"))
	require.ErrorContains(t, err, "You are still on the list: forever.skagvik.example did not do it (it said 503).")

	out, err = p.Writing.LeaveList(ctx, p.who, "k3", come("333@l", "By mail", "List-Unsubscribe: <mailto:off@l.example?subject=off%20please>"))
	require.NoError(t, err)
	require.Contains(t, out.Text, "a message to off@l.example is on its way")
	require.NoError(t, p.Sending.Dispatch(ctx))
	require.Len(t, p.post.Taken(), 1)
	require.Equal(t, "off please", mime.Read(p.post.Taken()[0].Raw).Subject)

	page := come("4444@l", "Page", "List-Unsubscribe: <http://l.example/leave>")
	how, err = p.Writing.HowToLeave(ctx, p.who, page)
	require.NoError(t, err)
	require.Equal(t, "page", how.Way)
	_, err = p.Writing.LeaveList(ctx, p.who, "k4", page)
	require.ErrorContains(t, err, "cannot be left from here")

	h, err := p.Reading.History(ctx, p.who, store.Past{})
	require.NoError(t, err)
	var told []string
	for _, l := range h.Lines {
		if l.Kind == inbox.LeaveList {
			told = append(told, l.Text)
		}
	}
	require.Equal(t, []string{"“Weekly”: a message to off@l.example is on its way.", "Not left. Weekly: forever.skagvik.example did not do it (it said 503)", "You have left “Weekly”: its server has taken the request."}, told)
	p.sound(t)
}

// Whoever wrote what is snoozed is told when to expect an answer; taking the
// snooze back takes that back, too.
func TestASnoozeWithAWordToTheSender(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	p.put(postoffice.Inbox, "1@x", "Jonas <jonas@x.example>", "Crate")
	p.put(postoffice.Inbox, "22@x", "Vault <no-reply@x.example>\nAuto-Submitted: auto-generated", "Humid")
	p.pass(t)
	word := func(subject string) (journal.Decided, error) {
		return p.Decisions.Decide(ctx, p.who, "", decide.Decision{Kind: inbox.Snooze, Conversations: []int64{p.where(t, subject).ID}, Return: p.at(t, "fri 9:00"), Text: "I answer [when]."})
	}
	_, err := word("Humid")
	require.ErrorContains(t, err, "reads no answers")
	require.Equal(t, inbox.Inbox, p.where(t, "Humid").Place)
	out, err := word("Crate")
	require.NoError(t, err)
	require.Equal(t, "Back Fri 27 Nov, 9:00. Jonas is told.", out.Text)
	_, err = p.Journal.TakeBack(ctx, p.who, "")
	require.NoError(t, err)
	p.later(time.Minute)
	require.NoError(t, p.Sending.Dispatch(ctx))
	require.Empty(t, p.post.Taken())
	_, err = word("Crate")
	require.NoError(t, err)
	p.later(time.Minute)
	require.NoError(t, p.Sending.Dispatch(ctx))
	require.Len(t, p.post.Taken(), 1)
	m := mime.Read(p.post.Taken()[0].Raw)
	require.Equal(t, []string{"1@x"}, m.References)
	require.Contains(t, m.Text, "I answer Fri 27 Nov, 9:00.")
	require.Equal(t, inbox.Snoozed, p.where(t, "Crate").Place)
	p.sound(t)
}

// A draft lies on the server once nothing has been typed for a moment, in one
// copy whatever is changed, and is gone from there when it is sent or dropped.
func TestDraftsLieOnTheServer(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	p.put(postoffice.Inbox, "1@x", "Jonas <jonas@x.example>", "Crate")
	p.pass(t)
	d := p.draft(t, writing.Reply, "Crate", "Thursday")
	p.pass(t)
	require.Empty(t, p.in(postoffice.Drafts), "it is still being typed")
	p.later(time.Minute)
	p.pass(t)
	require.Equal(t, []string{"Re: Crate"}, p.in(postoffice.Drafts))
	require.ElementsMatch(t, []string{`\Seen`, `\Draft`}, flagsOf(p.post.Folder(museum, postoffice.Drafts)[0]))
	p.draft(t, writing.Reply, "Crate", "Thursday is fine.")
	p.pass(t)
	require.Len(t, p.in(postoffice.Drafts), 1)
	p.later(time.Minute)
	p.post.Renumber(museum)
	p.pass(t)
	require.Len(t, p.in(postoffice.Drafts), 1)
	require.Contains(t, string(p.post.Folder(museum, postoffice.Drafts)[0].Raw), "Thursday is fine.")
	_, err := p.Writing.Send(ctx, p.who, "k", d.ID, composing.Sending{Then: inbox.Archive})
	require.NoError(t, err)
	p.pass(t)
	require.Empty(t, p.in(postoffice.Drafts))
	_, err = p.Journal.TakeBack(ctx, p.who, "")
	require.NoError(t, err)
	p.pass(t)
	require.Len(t, p.in(postoffice.Drafts), 1)
	require.NoError(t, p.Writing.Drop(ctx, p.who, d.ID))
	p.pass(t)
	require.Empty(t, p.in(postoffice.Drafts))
	require.Len(t, p.queue(t), 1, "and it is never taken for mail")
	p.sound(t)
}

func TestTemplatesFillTheirBlanks(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	p.put(postoffice.Inbox, "1@x", "Jonas <jonas@x.example>", "Crate")
	p.pass(t)
	v, err := p.Writing.PutTemplate(ctx, p.who, "", composing.TemplateView{Template: writing.Template{Name: "Visit", Text: "Dear [name],\n\n[free times], about [subject]? [today] is [no blank]."}})
	require.NoError(t, err)
	_, err = p.Writing.PutTemplate(ctx, p.who, "", composing.TemplateView{Template: writing.Template{Name: "visit", Text: "x"}})
	require.ErrorContains(t, err, "already")
	_, err = p.Writing.PutTemplate(ctx, p.who, "", composing.TemplateView{ID: 99, Template: writing.Template{Name: "Other", Text: "x"}})
	require.ErrorIs(t, err, store.ErrNotFound)
	d := p.draft(t, writing.Reply, "Crate", "x")
	got, err := p.Writing.FillTemplate(ctx, p.who, v.ID, d.ID)
	require.NoError(t, err)
	require.Equal(t, "Dear Jonas,\n\nWed 25 Nov, 10:00 or Thu 26 Nov, 14:00, about Crate? Tuesday, 24 November is [no blank].", got.Text)
	require.NoError(t, p.Writing.DropTemplate(ctx, p.who, v.ID))
	list, err := p.Writing.Templates(ctx, p.who)
	require.NoError(t, err)
	require.Empty(t, list)
}

// Two Ebbes on one account agree, each by what the other has told the server.
func TestTwoEbbesOnOneAccount(t *testing.T) {
	a := newPosted(t, postoffice.Faults{}).connected(t)
	b := &posted{office: newOffice(t, store.Options{}), post: a.post}
	b.link()
	b.connected(t)
	for i, s := range []string{"Crate", "Lorry", "Star"} {
		a.put(postoffice.Inbox, strings.Repeat("a", i+1)+"@x", "Jonas <jonas@x.example>", s)
	}
	for range 2 {
		a.pass(t)
		b.pass(t)
	}
	a.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{a.where(t, "Crate").ID}})
	b.decide(t, inbox.ToBin, decide.Decision{Conversations: []int64{b.where(t, "Lorry").ID}})
	b.decide(t, inbox.Star, decide.Decision{Conversations: []int64{b.where(t, "Star").ID}})
	d := a.draft(t, writing.Reply, "Star", "It is the third.")
	_, err := a.Writing.Send(ctx, a.who, "k", d.ID, composing.Sending{})
	require.NoError(t, err)
	a.later(time.Minute)
	b.later(time.Minute)
	require.NoError(t, a.Sending.Dispatch(ctx))
	for range 2 {
		a.pass(t)
		b.pass(t)
	}
	for _, e := range []*posted{a, b} {
		require.Equal(t, inbox.Archived, e.where(t, "Crate").Place)
		require.Equal(t, inbox.Bin, e.where(t, "Lorry").Place)
		q := e.queue(t)
		require.Len(t, q, 1)
		require.True(t, q[0].Starred)
		require.Equal(t, 2, q[0].Messages, "what one sent stands in both")
		e.sound(t)
	}
	require.Len(t, a.post.Taken(), 1)
	require.Len(t, a.in(postoffice.Sent), 1)
}

// Whether something was opened is asked and told by choice only, once, and what
// is told is shown in the conversation.
func TestReceiptsAreGivenAndShown(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	p.put(postoffice.Inbox, "1@x", "Jonas <jonas@x.example>\nDisposition-Notification-To: Jonas <jonas@x.example>", "Crate")
	p.pass(t)
	id := p.where(t, "Crate").ID
	last := func() reading.MessageView {
		v, err := p.Reading.Conversation(ctx, p.who, id)
		require.NoError(t, err)
		return v.Messages[len(v.Messages)-1]
	}
	require.Equal(t, "jonas@x.example", last().Wants)
	require.NoError(t, p.Sending.Dispatch(ctx))
	require.Empty(t, p.post.Taken(), "reading tells nobody")
	out, err := p.Writing.GiveReceipt(ctx, p.who, "k", last().ID)
	require.NoError(t, err)
	require.Equal(t, "Jonas is told that you have opened it.", out.Text)
	_, err = p.Writing.GiveReceipt(ctx, p.who, "k2", last().ID)
	require.NoError(t, err)
	require.NoError(t, p.Sending.Dispatch(ctx))
	require.Len(t, p.post.Taken(), 1, "once")
	require.Empty(t, last().Wants)
	given := p.post.Taken()[0]
	require.Empty(t, given.From, "nothing answers it")
	m := mime.Read(given.Raw)
	require.Equal(t, mail.Notice, m.Kind)
	require.Equal(t, []mail.Report{{Recipient: museum, Action: "displayed", Original: "1@x"}}, m.Reports)
	require.Equal(t, museum+" has opened it.", m.Reports[0].Words())

	// The other way round: asked for, and it comes.
	d := p.draft(t, writing.Reply, "Crate", "Thursday.")
	_, err = p.Writing.Change(ctx, p.who, "", d.ID, composing.DraftChange{To: d.To, Subject: d.Subject, Text: "Thursday.", Receipt: true})
	require.NoError(t, err)
	_, err = p.Writing.Send(ctx, p.who, "s", d.ID, composing.Sending{Then: inbox.Archive})
	require.NoError(t, err)
	p.later(time.Minute)
	require.NoError(t, p.Sending.Dispatch(ctx))
	mine := mime.Read(p.post.Taken()[1].Raw)
	require.Equal(t, museum, mine.ReceiptTo)
	_, raw, err := mime.Receipt(mail.Address{Name: "Jonas", Address: "jonas@x.example"}, mine.Message, p.clock.t.Add(time.Hour))
	require.NoError(t, err)
	p.later(2 * time.Hour)
	p.post.Put(museum, postoffice.Inbox, p.clock.t, raw)
	p.pass(t)
	require.Equal(t, []reading.ReportView{{Text: "jonas@x.example has opened it."}}, last().Reports)
	_, err = p.Writing.GiveReceipt(ctx, p.who, "k3", last().ID)
	require.ErrorContains(t, err, "Nobody asked")
	p.sound(t)
}

// A message that is repeated goes at its times, each time as a message of its
// own, until it is ended; what was missed is not made up for.
func TestARepeatedMessage(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	d, err := p.Writing.Begin(ctx, p.who, "", composing.DraftBegun{Mode: writing.New})
	require.NoError(t, err)
	_, err = p.Writing.Change(ctx, p.who, "", d.ID, composing.DraftChange{To: []mail.Address{{Address: "board@x.example"}}, Subject: "Numbers", Text: "Dear board,\n\nthe numbers."})
	require.NoError(t, err)
	for words, says := range map[string]string{"now and then": "as a way of repeating", "every 2 weeks after it is done": "by the calendar alone"} {
		_, err = p.Writing.Send(ctx, p.who, "", d.ID, composing.Sending{At: p.at(t, "tomorrow 8"), Repeat: words})
		require.ErrorContains(t, err, says)
	}
	_, err = p.Writing.Send(ctx, p.who, "", d.ID, composing.Sending{Repeat: "every monday"})
	require.ErrorContains(t, err, "for the first time")
	out, err := p.Writing.Send(ctx, p.who, "", d.ID, composing.Sending{At: p.at(t, "tomorrow 8"), Repeat: "every  monday"})
	require.NoError(t, err)
	require.Equal(t, "Goes out Wed 25 Nov, 8:00, and again every monday.", out.Text)
	go2 := func(phrase string) {
		p.clock.t = p.at(t, phrase).At.Time().Add(time.Minute)
		require.NoError(t, p.Sending.Dispatch(ctx))
	}
	next := func() string {
		o, err := p.Writing.Outbox(ctx, p.who, 0)
		require.NoError(t, err)
		require.Len(t, o.Messages, 1)
		require.Equal(t, "every monday", o.Messages[0].Again)
		return p.who.Week.Say(when.Moment{At: o.Messages[0].Next}, p.Now())
	}
	go2("tomorrow 8")
	require.Len(t, p.post.Taken(), 1)
	require.Equal(t, "Mon 30 Nov, 8:00", next())
	go2("mon 8")
	require.Len(t, p.post.Taken(), 2)
	first, second := mime.Read(p.post.Taken()[0].Raw), mime.Read(p.post.Taken()[1].Raw)
	require.NotEqual(t, first.MessageID, second.MessageID)
	require.Equal(t, first.Text, second.Text)
	require.Equal(t, p.clock.t.Add(-time.Minute).Unix(), second.Date.Time().Unix())
	go2("21 dec 9:00") // Ebbe was off for two Mondays
	require.Len(t, p.post.Taken(), 3)
	require.Equal(t, "Mon 28 Dec, 8:00", next())
	o, err := p.Writing.Outbox(ctx, p.who, 0)
	require.NoError(t, err)
	require.NoError(t, p.Sending.Settle(ctx, p.who, o.Messages[0].ID, false))
	go2("28 dec 9:00")
	require.Len(t, p.post.Taken(), 3, "it was ended")
	p.pass(t)
	require.Len(t, p.in(postoffice.Sent), 3)
	p.sound(t)
}

// A message with a file of 40 MB comes in whole, and what came after it, too.
func TestALargeMessage(t *testing.T) {
	p := newPosted(t, postoffice.Faults{Sizes: -1000}).connected(t) // it says less than there is
	large := func(id string, size int) []byte {
		body := strings.Repeat(strings.Repeat("A", 76)+"\r\n", size/78)
		return []byte("From: Jonas <jonas@x.example>\r\nTo: " + museum + "\r\nSubject: " + id + "\r\nMessage-ID: <" + id + "@x>\r\nMIME-Version: 1.0\r\nContent-Type: multipart/mixed; boundary=b\r\n\r\n" +
			"--b\r\nContent-Type: text/plain\r\n\r\nHere.\r\n--b\r\nContent-Type: application/octet-stream\r\nContent-Disposition: attachment; filename=a.bin\r\nContent-Transfer-Encoding: base64\r\n\r\n" + body + "\r\n--b--\r\n")
	}
	p.post.Put(museum, postoffice.Inbox, p.clock.t, large("Large", 20<<20))
	p.post.Put(museum, postoffice.Inbox, p.clock.t, large("Larger", 40<<20))
	p.post.Put(museum, postoffice.Inbox, p.clock.t, large("Gone", 40<<20))
	p.put(postoffice.Inbox, "after@x", "Jonas <jonas@x.example>", "After")
	p.pass(t)
	row := p.where(t, "Large")
	require.Equal(t, 1, row.Files, "up to 32 MB comes in by itself")
	require.Greater(t, row.Size, 20<<20)
	require.Len(t, p.queue(t), 4)

	open := func(subject string) (store.Conversation, reading.MessageView) {
		s := p.where(t, subject)
		v, err := p.Reading.Conversation(ctx, p.who, s.ID)
		require.NoError(t, err)
		return s, v.Messages[len(v.Messages)-1]
	}
	row, m := open("Larger")
	require.Greater(t, m.Stub, int64(39<<20), "of more only the header, with its size")
	require.Zero(t, row.Files)
	p.sound(t)
	require.NoError(t, p.Accounts.FetchWhole(ctx, p.who, m.ID))
	row, m = open("Larger")
	require.Zero(t, m.Stub)
	require.Equal(t, 1, row.Files)
	require.Len(t, m.Files, 1)
	require.Len(t, m.Blocks, 1)
	require.NoError(t, p.Accounts.FetchWhole(ctx, p.who, m.ID), "what is here is not fetched again")
	p.pass(t)
	require.Len(t, p.queue(t), 4, "and it is not taken for another message")

	_, m = open("Gone")
	p.post.Renumber(museum)
	err := p.Accounts.FetchWhole(ctx, p.who, m.ID)
	require.ErrorContains(t, err, "no server any more")
	_, m = open("Gone")
	require.NotZero(t, m.Stub)
	p.sound(t)
}
