package desk

import (
	"bytes"
	netmail "net/mail"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/numbers"
	"ebbe/internal/core/search"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/deliveries"
	"ebbe/internal/desk/queue"
	"ebbe/internal/desk/rules"
	"ebbe/internal/identity"
	postoffice "ebbe/internal/post/office"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/sending"
)

func (f *office) stream(t testing.TB, name string, along delivery.Stream) delivery.Stream {
	t.Helper()
	id, err := f.Delivery.PutStream(ctx, f.who, "", deliveries.NewStream{Name: name, Along: along})
	require.NoError(t, err)
	return delivery.Stream(id)
}

func (f *office) teach(t testing.TB, conversation int64, stream delivery.Stream, s rules.Scope, words string) (text string) {
	t.Helper()
	out, err := f.Rules.Teach(ctx, f.who, "", rules.Taught{Conversation: conversation, Stream: stream, Scope: s, Words: words})
	require.NoError(t, err)
	return out.Text
}

// twoStreams puts a plan in force under which people's mail flows in office hours, and
// newsletters come at one.
func (f *office) twoStreams(t testing.TB) delivery.Plan {
	t.Helper()
	days := func(line string) []delivery.Day {
		l, err := delivery.ReadLine(line, f.who.Week.Workdays)
		require.NoError(t, err)
		return l.On(make([]delivery.Day, 7))
	}
	p := delivery.Plan{Name: "Two streams", People: days("mon–fri open 8–18"), Machines: days("mon–fri 13")}
	id, err := f.Delivery.PutPlan(ctx, f.who, "", p, true)
	require.NoError(t, err)
	p.ID = id
	return p
}

// inView are the subjects of what is left to decide.
func (f *office) inView(t testing.TB) (subjects []string) {
	t.Helper()
	for _, s := range f.queue(t) {
		subjects = append(subjects, s.Subject)
	}
	return subjects
}

// A conversation that is put into another stream teaches what the user says: nothing but
// what comes in it, its sender, its list, or what is such. What comes next comes in that
// stream, out of sight where its plan says so; the lesson is listed with its examples,
// and the step is taken back as one.
func TestTeachingByMoving(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.twoStreams(t)
	f.until(t, "2026-11-24 10:00")
	f.arrive(t, f.letter("1@x", "Quay <quay@h.example>", "Tides today"), f.letter("2@x", "Quay <quay@h.example>", "Tides tomorrow"), f.letter("3@x", "Weekly <news@w.example>", "Number 12", "List-Id: <weekly.w.example>"), f.letter("4@x", "Halvard <halvard@l.example>", "Loan"))
	require.NotContains(t, f.inView(t), "Number 12", "newsletters wait for their round")
	quay := f.by(t, "Tides today").ID
	v, err := f.Rules.Moving(ctx, f.who, rules.Moving{Conversation: quay})
	require.NoError(t, err)
	require.Equal(t, delivery.StreamPeople, v.Stream)
	require.Equal(t, rules.ThisOne, v.Usual, "of a person one is moved by itself")
	require.Equal(t, "comes in as it is sent", v.Streams[0].Next)
	require.Contains(t, v.Streams[1].Next, "comes in ")
	require.Len(t, v.Scopes, 3, "it is of no list")
	require.Equal(t, 2, v.Scopes[1].Count)
	require.Equal(t, "from quay@h.example subject “Tides today”", v.Such)

	text := f.teach(t, quay, delivery.StreamMachines, rules.Sender, "")
	require.Contains(t, text, "Put into “newsletters and notices”. So is always what is from quay@h.example: the next comes in ")
	require.Contains(t, text, "1 other in the inbox went along.")
	require.Equal(t, "machines", f.by(t, "Tides tomorrow").Stream)
	f.arrive(t, f.letter("5@x", "Quay <quay@h.example>", "Tides on Monday"), f.letter("6@x", "Halvard <halvard@l.example>", "Another loan"))
	require.Equal(t, 2, f.held(t), "with the newsletters, at their time")
	require.Contains(t, f.inView(t), "Another loan")
	f.sound(t)

	l, err := f.Rules.Lessons(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, l.Lessons, 1)
	require.Equal(t, []any{"newsletters and notices", 2, "from quay@h.example"}, []any{l.Lessons[0].Into, l.Lessons[0].Count, l.Lessons[0].About})
	require.Equal(t, "is from quay@h.example", l.Lessons[0].Means)
	all, err := f.Rules.All(ctx, f.who)
	require.NoError(t, err)
	require.Empty(t, all, "a lesson is no rule that was written")

	// Two lessons about the same: the newer one holds, and says so.
	require.Contains(t, f.teach(t, quay, delivery.StreamPeople, rules.Sender, ""), "Before, that came with “newsletters and notices”.")
	l, err = f.Rules.Lessons(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, l.Lessons, 1)
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	l, err = f.Rules.Lessons(ctx, f.who)
	require.NoError(t, err)
	require.Empty(t, l.Lessons)
	require.Empty(t, f.by(t, "Tides tomorrow").Stream)
	f.arrive(t, f.letter("7@x", "Quay <quay@h.example>", "Tides on Tuesday"))
	require.Contains(t, f.inView(t), "Tides on Tuesday")
	f.sound(t)
}

// What is put into a stream by itself keeps it for what comes in it, whatever rules and
// lessons say, and is forgotten by a press.
func TestOneConversationInAStream(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.twoStreams(t)
	f.until(t, "2026-11-24 10:00")
	f.arrive(t, f.letter("1@x", "Halvard <halvard@l.example>", "Loan"))
	loan := f.by(t, "Loan").ID
	require.Contains(t, f.teach(t, loan, delivery.StreamMachines, rules.ThisOne, ""), "What comes in this conversation comes in ")
	require.Equal(t, inbox.Inbox, f.place(t, loan).Place, "what is in view stays there")
	reply := f.letter("2@x", "Halvard <halvard@l.example>", "Re: Loan", "References: <1@x>")
	f.arrive(t, reply)
	require.Equal(t, 1, f.held(t))
	f.rule(t, "from halvard@l.example: stream people", sorting.On)
	f.arrive(t, "References: <1@x>\n"+f.letter("3@x", "Halvard <halvard@l.example>", "Re: Loan"))
	require.Equal(t, 2, f.held(t), "what the user said of one goes before rules")
	l, err := f.Rules.Lessons(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, "Loan", l.Kept[0].Subject)
	v, err := f.Rules.Moving(ctx, f.who, rules.Moving{Conversation: loan})
	require.NoError(t, err)
	require.Equal(t, rules.Sender, v.Usual, "another of theirs was moved")
	_, err = f.Rules.Forget(ctx, f.who, "", loan)
	require.NoError(t, err)
	f.arrive(t, "References: <1@x>\n"+f.letter("4@x", "Halvard <halvard@l.example>", "Re: Loan"))
	require.Zero(t, f.held(t), "a conversation comes in whole")
	f.sound(t)
}

// Streams of the user's own have days of their own under a plan, or go along with
// others; mail is put into them by rules, as it arrives; rules can ask for them; and one
// is deleted only while nothing puts mail into it.
func TestStreamsOfOnesOwn(t *testing.T) {
	f := newOffice(t, store.Options{})
	plan := f.twoStreams(t)
	f.until(t, "2026-11-24 10:00")
	choir := f.stream(t, "Choir", delivery.StreamPeople)
	for name, says := range map[string]string{"choir": "there is a stream called", "a, b": "without commas", "": "short name", "Newsletters and notices": "there is a stream called", "People": "there is a stream called"} {
		_, err := f.Delivery.PutStream(ctx, f.who, "", deliveries.NewStream{Name: name, Along: delivery.StreamPeople})
		require.ErrorContains(t, err, says)
	}
	f.rule(t, "from @choir.example: stream choir, label songs", sorting.On)
	tell := f.rule(t, "stream choir with “concert”: let through, notify", sorting.On)
	f.arrive(t, f.letter("1@x", "Oda <oda@choir.example>", "Rehearsal"))
	require.Equal(t, string(choir), f.by(t, "Rehearsal").Stream, "it flows with people's mail")

	draft, err := f.Delivery.Preview(ctx, f.who, deliveries.PlanDraft{Plan: withOwn(plan, choir, make([]delivery.Day, 7)), Stream: choir, Line: "mon–fri 17"})
	require.NoError(t, err)
	require.Equal(t, "17:00", draft.Texts[choir][2])
	require.Len(t, draft.Waits, 3)
	_, err = f.Delivery.PutPlan(ctx, f.who, "", draft.Plan, true)
	require.NoError(t, err)
	f.arrive(t, f.letter("2@x", "Oda <oda@choir.example>", "Second rehearsal"), f.letter("3@x", "Oda <oda@choir.example>", "The concert"))
	require.Equal(t, 1, f.held(t))
	require.Contains(t, f.inView(t), "The concert")
	did := f.did(t, tell.ID)
	require.Equal(t, []any{1, inbox.TellOf}, []any{len(did), did[0].Did}, "what it did stands in its history")
	_, groups := f.groups(t, queue.Arrangement{Group: inbox.ByStream})
	require.Len(t, groups, 1)
	found, err := f.Queue.Arranged(ctx, f.who, queue.Arrangement{Where: search.Query{Stream: string(choir)}})
	require.NoError(t, err)
	require.Equal(t, 2, found.Shown)
	require.ErrorContains(t, f.Delivery.DropStream(ctx, f.who, choir), "1 rule")
	f.until(t, "2026-11-24 17:30")
	require.Contains(t, f.inView(t), "Second rehearsal", "at its own round")
	f.sound(t)

	// What lies in a stream that is deleted is not lost: it comes in with people's mail.
	f.arrive(t, f.letter("4@x", "Oda <oda@choir.example>", "Third rehearsal"))
	require.Equal(t, 1, f.held(t))
	all, err := f.Rules.All(ctx, f.who)
	require.NoError(t, err)
	_, err = f.Rules.Drop(ctx, f.who, "", all[0].ID)
	require.NoError(t, err)
	require.NoError(t, f.Delivery.DropStream(ctx, f.who, choir))
	require.Contains(t, f.inView(t), "Third rehearsal")
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	state, err := f.Delivery.Overview(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, "Choir", state.Streams[2].Name)
	require.Len(t, state.Plans[0].Own[choir], 7, "with the days it had")
	f.sound(t)
}

func withOwn(p delivery.Plan, stream delivery.Stream, days []delivery.Day) delivery.Plan {
	p.Own = map[delivery.Stream][]delivery.Day{stream: days}
	return p
}

// What cannot be taught says so and changes nothing; nobody teaches with what is not
// theirs.
func TestWhatCannotBeTaught(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.arrive(t, f.letter("1@x", "Halvard <halvard@l.example>", "Loan"))
	for says, a := range map[string]rules.Taught{
		"has been deleted":    {Conversation: 1, Stream: "gone", Scope: rules.Sender},
		"not sent by a list":  {Conversation: 1, Stream: delivery.StreamMachines, Scope: rules.List},
		"Say what else":       {Conversation: 1, Stream: delivery.StreamMachines},
		"does not understand": {Conversation: 1, Stream: delivery.StreamMachines, Scope: rules.Such, Words: "perhaps"},
		"what it is about":    {Conversation: 1, Stream: delivery.StreamMachines, Scope: rules.Such},
	} {
		_, err := f.Rules.Teach(ctx, f.who, "", a)
		var cannot *problem.Error
		require.ErrorAs(t, err, &cannot)
		require.Contains(t, cannot.Text, says)
		require.Contains(t, cannot.Text, "othing was changed")
	}
	stranger := identity.Who{Person: 2, Box: 2, Week: f.who.Week}
	_, err := f.Rules.Teach(ctx, stranger, "", rules.Taught{Conversation: 1, Stream: delivery.StreamMachines, Scope: rules.ThisOne})
	require.ErrorIs(t, err, store.ErrNotFound)
	require.Empty(t, f.by(t, "Loan").Stream)
	f.sound(t)
}

// A rule answers with a template, each sender once a week and nobody who may not be
// answered (RFC 3834); it forwards, but nothing of a list and nothing a rule has forwarded;
// and it runs a combo. What goes out stands in the history and in that of the rule.
func TestWhatRulesSend(t *testing.T) {
	p := newPosted(t, postoffice.Faults{}).connected(t)
	f := p.office
	_, err := f.Writing.PutTemplate(ctx, f.who, "", composing.TemplateView{Template: writing.Template{Name: "Thanks", Text: "Dear [name], thank you for “[subject]”. You hear by [in a week]."}})
	require.NoError(t, err)
	require.NoError(t, f.choose(map[string]any{"habits": map[string]any{"combos": []inbox.Chain{{ID: "c", Name: "Put by", Steps: []inbox.ComboStep{{Kind: inbox.Star}, {Kind: inbox.Archive}}}}}}))
	for _, text := range []string{"from people: forward to " + me, "from people: forward to nobody", "from people: reply with “None”", "from people: run combo “None”"} {
		w, err := f.Rules.Read(ctx, f.who, rules.Asked{Words: text})
		require.NoError(t, err)
		require.NotEmpty(t, w.Doubt, text)
	}
	thanks := f.rule(t, "with “enquiry”: reply with “thanks”", sorting.On)
	on := f.rule(t, "with “invoice”: forward to books@accounts.example", sorting.On)
	f.rule(t, "with “kept”: run combo “put by”", sorting.On)
	outbox := func() (lines []string) {
		t.Helper()
		out, err := f.Writing.Outbox(ctx, f.who, 0)
		require.NoError(t, err)
		for _, m := range out.Messages {
			lines = append(lines, m.Subject)
		}
		return lines
	}
	at := func(id, from, subject string, more ...string) string {
		return note(id, from, museum, subject, f.clock.t, more...)
	}
	f.arrive(t, at("1@x", "Lena <lena@north.example>", "Enquiry"), at("2@x", "Lena <lena@north.example>", "Enquiry again"), at("3@x", "Choir <all@choir.example>", "Enquiry", "List-Id: <choir>"),
		at("4@x", "Away <away@c.example>", "Enquiry", "Auto-Submitted: auto-replied"), note("5@x", "Copy <copy@c.example>", "others@m.example", "Enquiry", f.clock.t))
	require.Equal(t, []string{"Auto: Enquiry"}, outbox())
	out, err := f.Writing.Outbox(ctx, f.who, 0)
	require.NoError(t, err)
	require.Contains(t, out.Messages[0].Text, "Dear Lena, thank you for “Enquiry”. You hear by 1 December.")
	require.Equal(t, []any{1, inbox.ReplyWith}, []any{len(f.did(t, thanks.ID)), f.did(t, thanks.ID)[0].Did})
	f.clock.t = f.clock.t.Add(8 * 24 * time.Hour)
	f.arrive(t, at("6@x", "Lena <lena@north.example>", "Enquiry, third"))
	require.Len(t, outbox(), 2, "a week later, once more")

	f.arrive(t, at("7@x", "Shop <shop@s.example>", "Invoice 7"), at("8@x", "List <list@s.example>", "Invoice 8", "List-Id: <s>"), at("9@x", "Loop <loop@s.example>", "Invoice 9", "Forwarded-By-Rule: yes"))
	require.Equal(t, []string{"Fwd: Invoice 7"}, outbox()[:1])
	require.Len(t, outbox(), 3)
	require.Len(t, f.did(t, on.ID), 1)
	var raw []byte
	out, err = f.Writing.Outbox(ctx, f.who, 0)
	require.NoError(t, err)
	require.NoError(t, f.store.Read(ctx, func(tx store.Tx) (err error) {
		raw, err = sending.Outbox(tx).BytesOfOutgoing(out.Messages[0].ID)
		return err
	}))
	m, err := netmail.ReadMessage(bytes.NewReader(raw))
	require.NoError(t, err)
	require.Equal(t, []string{"yes", "auto-generated", "<books@accounts.example>"}, []string{m.Header.Get("Forwarded-By-Rule"), m.Header.Get("Auto-Submitted"), m.Header.Get("To")})
	h, err := f.Reading.History(ctx, f.who, store.Past{})
	require.NoError(t, err)
	require.Contains(t, []inbox.Kind{h.Lines[0].Kind, h.Lines[1].Kind}, inbox.ForwardTo)

	require.Equal(t, map[string]int{numbers.RuledAs(thanks.ID, "sent"): 2, numbers.RuledAs(on.ID, "sent"): 1}, f.counted(t, numbers.Ruled, "2026-01-01", "2026-12-31"))
	f.arrive(t, at("10@x", "Kept <kept@s.example>", "Kept"))
	require.NotContains(t, f.inView(t), "Kept")
	f.sound(t)
}
