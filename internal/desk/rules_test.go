package desk

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/search"
	"ebbe/internal/core/sorting"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/queue"
	"ebbe/internal/desk/reading"
	"ebbe/internal/desk/rules"
	"ebbe/internal/store"
	"ebbe/internal/store/ruling"
)

// rule saves a rule in words.
func (f *office) rule(t testing.TB, words string, mode sorting.Mode) rules.RuleView {
	t.Helper()
	_, err := f.Rules.Save(ctx, f.who, "", rules.Saving{Words: words, Mode: mode})
	require.NoError(t, err)
	all, err := f.Rules.All(ctx, f.who)
	require.NoError(t, err)
	return all[len(all)-1]
}

func (f *office) did(t testing.TB, rule int64) (out []rules.DidView) {
	t.Helper()
	out, err := f.Rules.Did(ctx, f.who, rule, 0)
	require.NoError(t, err)
	return out
}

// A rule does what it says with what comes in, once, in its order; it stands in the
// history by its name, and can be taken back, one or all of it.
func TestRulesAreDone(t *testing.T) {
	f := newOffice(t, store.Options{})
	harbour := f.rule(t, "from quay@h.example with “permit”: label permits, follow up “Sign it” fri 10", sorting.On)
	require.Empty(t, harbour.Doubt)
	away := f.rule(t, "from @shop.example: archive", sorting.On)
	f.rule(t, "from @shop.example with body: bin", sorting.On)
	f.arrive(t, letter("1@x", "quay@h.example", "Quay permit"), letter("2@x", "quay@h.example", "Hello"), letter("3@x", "offers@shop.example", "Offer"), letter("4@x", "halvard@l.example", "Loan"))
	require.Equal(t, map[string]string{"arrived-today": "Loan, Hello, Quay permit"}, f.shows(t))
	permit := f.by(t, "Quay permit")
	require.Len(t, permit.Labels, 1)
	require.Equal(t, "Sign it", f.named(t, "Sign it").Title)
	require.Equal(t, inbox.Archived, f.place(t, 3).Place, "the first rule that puts it elsewhere does")
	require.Len(t, f.did(t, harbour.ID), 1)
	h, err := f.Reading.History(ctx, f.who, store.Past{})
	require.NoError(t, err)
	require.Equal(t, store.ByRule, h.Lines[0].Actor)
	require.Contains(t, h.Lines[0].Text, "Offer")
	f.sound(t)

	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err, "Ctrl Z is about what one has done oneself: the last rule")
	one := f.did(t, away.ID)[0]
	out, err := f.Journal.TakeBackStep(ctx, f.who, "", one.Entry)
	require.NoError(t, err)
	require.Contains(t, out.Text, "Taken back")
	require.Equal(t, inbox.Inbox, f.place(t, 3).Place)
	require.True(t, f.did(t, away.ID)[0].TakenBack)

	f.arrive(t, letter("5@x", "offers@shop.example", "More"), letter("6@x", "offers@shop.example", "Much more"))
	f.decide(t, inbox.ToInbox, decide.Decision{Conversations: []int64{5}})
	out, err = f.Rules.Undo(ctx, f.who, away.ID)
	require.NoError(t, err)
	require.Equal(t, "Taken back: 1 thing. 1 have been changed since and stay.", out.Text)
	require.Equal(t, inbox.Inbox, f.place(t, 6).Place)
	f.sound(t)
}

// A rule that is tried only writes down what it would have done, for a week; one that
// is off does nothing.
// What is on a saved list can be what a rule is about: as the list is, also after it was
// changed; whoever wants to hear of what is new on it is told. A list that a rule asks for
// is not deleted.
func TestRulesAboutSavedLists(t *testing.T) {
	f := newOffice(t, store.Options{})
	put := func(l queue.SavedList) error { return f.Queue.PutSavedList(ctx, f.who, "", l) }
	require.NoError(t, put(queue.SavedList{Name: "Crates", Query: search.Query{Words: "crate"}}))
	lists, err := f.Queue.SavedLists(ctx, f.who)
	require.NoError(t, err)
	r := f.rule(t, "saved crates: star, notify", sorting.On)
	require.Empty(t, r.Doubt)
	f.arrive(t, letter("1@x", "mirela@h.example", "The crate"), letter("2@x", "mirela@h.example", "The lid"))
	require.True(t, f.by(t, "The crate").Starred)
	require.False(t, f.by(t, "The lid").Starred)
	require.Len(t, f.did(t, r.ID), 1)
	for words, count := range map[string]int{"saved crates: archive": 1, "from mirela@h.example but not saved crates: archive": 1, "saved crates: let through": 1} {
		w, err := f.Rules.Read(ctx, f.who, rules.Asked{Words: words})
		require.NoError(t, err)
		require.Equal(t, count, w.Proof.Count, words)
		require.Equal(t, strings.Contains(words, "through"), strings.Contains(w.Wrong, "known once it has come in"), words)
	}

	crates := lists[0]
	crates.Query = search.Query{Words: "lid"}
	require.NoError(t, put(crates))
	f.arrive(t, letter("3@x", "mirela@h.example", "Another crate"), letter("4@x", "mirela@h.example", "Another lid"))
	require.False(t, f.by(t, "Another crate").Starred)
	require.True(t, f.by(t, "Another lid").Starred)

	require.ErrorContains(t, f.Queue.DropSavedList(ctx, f.who, crates.ID), "Change or delete the rule first")
	require.NoError(t, func() error { _, err := f.Rules.Drop(ctx, f.who, "", r.ID); return err }())
	require.NoError(t, f.Queue.DropSavedList(ctx, f.who, crates.ID))

	require.ErrorContains(t, put(queue.SavedList{Name: "Lists", Query: search.Query{Saved: 1}}), "what is on another one")
	for i := range 3 {
		require.NoError(t, put(queue.SavedList{Name: fmt.Sprint("On the rail ", i), Query: search.Query{Unread: true}, Counted: true, Asked: "unread"}))
	}
	require.ErrorContains(t, put(queue.SavedList{Name: "One more", Query: search.Query{Unread: true}, Counted: true}), "room for 3 lists")
	lists, err = f.Queue.SavedLists(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, lists, 3)
	require.Equal(t, "unread", lists[2].Asked)
	f.sound(t)
}

func TestRulesAreTried(t *testing.T) {
	f := newOffice(t, store.Options{})
	r := f.rule(t, "from @shop.example: archive", sorting.Trying)
	off := f.rule(t, "from halvard@l.example: bin", sorting.Off)
	f.arrive(t, letter("1@x", "offers@shop.example", "Offer"), letter("2@x", "halvard@l.example", "Loan"))
	require.Len(t, f.queue(t), 2)
	require.Len(t, f.did(t, r.ID), 1)
	require.Zero(t, f.did(t, r.ID)[0].Entry)
	require.Empty(t, f.did(t, off.ID))
	f.clock.t = f.clock.t.Add(8 * 24 * time.Hour)
	f.arrive(t, f.letter("3@x", "offers@shop.example", "Again"))
	require.Len(t, f.did(t, r.ID), 1, "the week is over")
	all, err := f.Rules.All(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, sorting.Off, all[0].Mode)
	require.Equal(t, 1, all[0].Would)
}

// What is held is not sorted until it comes into view, and then with what had been held
// in its conversation.
func TestRulesWaitForWhatIsHeld(t *testing.T) {
	f := newOffice(t, store.Options{})
	r := f.rule(t, "from @shop.example: label shop", sorting.On)
	_, err := f.Delivery.Hold(ctx, f.who, delivery.Hand{Mode: delivery.ModeHold})
	require.NoError(t, err)
	f.arrive(t, letter("1@x", "offers@shop.example", "Offer"))
	require.Empty(t, f.did(t, r.ID))
	_, err = f.Delivery.Hold(ctx, f.who, delivery.Hand{})
	require.NoError(t, err)
	require.Len(t, f.did(t, r.ID), 1)
	require.Len(t, f.by(t, "Offer").Labels, 1)
	f.sound(t)
}

// Before it is saved a rule says what it would have done, how often the user had decided
// otherwise, and with which other rule it quarrels.
func TestRulesAreProved(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.rule(t, "from @shop.example with sale: bin", sorting.On)
	for i := range 6 {
		f.arrive(t, letter(fmt.Sprintf("%d@x", i), "offers@shop.example", fmt.Sprintf("Offer %d", i)))
	}
	for i, k := range []inbox.Kind{inbox.Archive, inbox.Archive, inbox.ToBin, inbox.Archive} {
		f.decide(t, k, decide.Decision{Conversations: []int64{int64(i + 1)}})
	}
	w, err := f.Rules.Read(ctx, f.who, rules.Asked{Words: "from @shop.example: archive"})
	require.NoError(t, err)
	require.Empty(t, w.Wrong)
	p := w.Proof
	require.Equal(t, [4]int{6, 6, 3, 1}, [4]int{p.Of, p.Count, p.As, p.Otherwise})
	require.Equal(t, "aaoauu", p.Strokes, "the oldest first")
	i := slices.IndexFunc(p.Touched, func(x rules.Touched) bool { return x.Otherwise })
	require.Equal(t, "Offer 2", p.Touched[i].Subject)
	require.Equal(t, inbox.ToBin, p.Touched[i].Did)
	require.Empty(t, p.Quarrels)
	f.arrive(t, letter("s@x", "offers@shop.example", "Sale"))
	w, err = f.Rules.Read(ctx, f.who, rules.Asked{Words: "from @shop.example: archive"})
	require.NoError(t, err)
	require.Equal(t, []string{"Both are about 1 message. “from @shop.example with sale: bin” comes first and bins it; “from @shop.example: archive” would have archived it."}, w.Proof.Quarrels)
	w, err = f.Rules.Read(ctx, f.who, rules.Asked{Words: "from @shop.example, but not with sale: archive", Span: 3})
	require.NoError(t, err)
	require.Equal(t, [2]int{3, 2}, [2]int{w.Proof.Of, w.Proof.Count})
	w, err = f.Rules.Read(ctx, f.who, rules.Asked{Words: "purple"})
	require.NoError(t, err)
	require.Contains(t, w.Wrong, "does not understand “purple”")
	require.Zero(t, w.Proof.Count)
}

// A rule is made from a message with what is usually done with those like it.
func TestARuleLikeAMessage(t *testing.T) {
	f := newOffice(t, store.Options{})
	for i := range 4 {
		f.arrive(t, f.letter(fmt.Sprintf("l%d@x", i), "press@letters.example", fmt.Sprintf("Weekly %d", i), "List-Id: Weekly <weekly.letters.example>"), f.letter(fmt.Sprintf("h%d@x", i), "halvard@l.example", fmt.Sprintf("Loan %d", i)))
		if i < 3 {
			l, err := f.Labels.Make(ctx, f.who, "to read")
			require.NoError(t, err)
			f.decide(t, inbox.Label, decide.Decision{Conversations: []int64{f.by(t, fmt.Sprintf("Weekly %d", i)).ID}, Add: []int64{l.ID}})
			f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{f.by(t, fmt.Sprintf("Weekly %d", i)).ID}})
		}
	}
	for subject, words := range map[string]string{"Weekly 3": "list weekly.letters.example: label to read, archive", "Loan 3": "from halvard@l.example: "} {
		s, err := f.Rules.Like(ctx, f.who, f.by(t, subject).ID)
		require.NoError(t, err)
		require.Equal(t, words, s.Words)
	}
	_, err := f.Rules.Like(ctx, f.who, 999)
	require.ErrorIs(t, err, store.ErrNotFound)
}

// A rule is changed, put in order and deleted; each is a step that is taken back.
func TestRulesAreKept(t *testing.T) {
	f := newOffice(t, store.Options{})
	a, b := f.rule(t, "newsletters: archive", sorting.On), f.rule(t, "receipts: label receipts / new", sorting.Off)
	_, err := f.Rules.Order(ctx, f.who, "", []int64{b.ID, a.ID})
	require.NoError(t, err)
	ordered, err := f.Rules.All(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, []int64{b.ID, a.ID}, []int64{ordered[0].ID, ordered[1].ID})
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	ordered, err = f.Rules.All(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, []int64{a.ID, b.ID}, []int64{ordered[0].ID, ordered[1].ID}, "their order is a step")
	_, err = f.Journal.Again(ctx, f.who, "")
	require.NoError(t, err)
	names := func() (out []string) {
		all, err := f.Rules.All(ctx, f.who)
		require.NoError(t, err)
		for _, r := range all {
			out = append(out, r.Called)
		}
		return out
	}
	require.Equal(t, []string{"receipts: label receipts / new", "newsletters: archive"}, names())
	_, err = f.Rules.Save(ctx, f.who, "", rules.Saving{ID: a.ID, Name: "Letters", Words: "newsletters: bin", Mode: sorting.On})
	require.NoError(t, err)
	require.Equal(t, []string{"receipts: label receipts / new", "Letters"}, names())
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, []string{"receipts: label receipts / new", "newsletters: archive"}, names())
	out, err := f.Rules.Drop(ctx, f.who, "", b.ID)
	require.NoError(t, err)
	require.Equal(t, "Deleted: “receipts: label receipts / new”. What it has done stays.", out.Text)
	require.Equal(t, []string{"newsletters: archive"}, names())
	_, err = f.Rules.Save(ctx, f.who, "", rules.Saving{ID: b.ID, Words: "receipts: bin", Mode: sorting.On})
	require.ErrorContains(t, err, "deleted meanwhile")
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.Equal(t, []string{"receipts: label receipts / new", "newsletters: archive"}, names())
	_, err = f.Journal.TakeBack(ctx, f.who, "") // their order
	require.NoError(t, err)
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err, "its being made")
	require.Equal(t, []string{"newsletters: archive"}, names())
	_, err = f.Rules.Save(ctx, f.who, "", rules.Saving{Words: "from nobody: bin", Mode: sorting.On})
	require.ErrorContains(t, err, "was not saved")
	_, err = f.Rules.Drop(ctx, f.who, "", 99)
	require.ErrorIs(t, err, store.ErrNotFound)
}

// A rule whose label has gone is told of, and stops no other rule and no mail.
func TestARuleThatCannotBeFollowed(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.rule(t, "from @shop.example: label gone", sorting.On)
	f.rule(t, "from @shop.example: star", sorting.On)
	_, err := f.Decisions.DropLabel(ctx, f.who, "", 1)
	require.NoError(t, err)
	events := f.Journal.Subscribe(t.Context(), 1, 1)
	f.arrive(t, letter("1@x", "offers@shop.example", "Offer"))
	require.True(t, f.by(t, "Offer").Starred)
	told := ""
	for len(events) > 0 {
		told += (<-events).Notice.Text
	}
	require.Contains(t, told, "could not be followed for “Offer”")
}

// Whatever the rules and the mail: what they do as it comes in is what they are about
// when they are held against it afterwards, and what the index of words finds.
func TestReplayingRulesIsRunningThem(t *testing.T) {
	words := []string{"crate", "Tidé", "ﬂood", "straße", "permit 7", "día", "Ærø", "kràn", "x-ray", "12.5", "日本"}
	rapid.Check(t, func(r *rapid.T) {
		f := newOffice(t, store.Options{})
		defer f.store.Close()
		pick := func(of []string, name string) string { return rapid.SampledFrom(of).Draw(r, name) }
		var made []rules.RuleView
		for range rapid.IntRange(1, 4).Draw(r, "rules") {
			text := pick([]string{"", "from w1@x.example ", "from @x.example ", "from people ", "to me alone ", "from strangers ", "not important ", "on weekends "}, "who")
			if text == "" || rapid.Bool().Draw(r, "says") {
				text += pick([]string{"with", "subject"}, "where") + " “" + pick(words, "word") + "”"
			}
			if rapid.Bool().Draw(r, "not") {
				text += ", but not with “" + pick(words, "other") + "”"
			}
			w, err := f.Rules.Read(ctx, f.who, rules.Asked{Words: text + ": label l"})
			require.NoError(t, err)
			if w.Doubt == "" && (w.Wrong == "") {
				made = append(made, f.rule(t, text+": label "+fmt.Sprint("l", len(made)), sorting.Trying))
			}
		}
		n := rapid.IntRange(1, 6).Draw(r, "letters")
		for i := range n {
			f.clock.t = f.clock.t.Add(time.Duration(rapid.IntRange(1, 30).Draw(r, "hours")) * time.Hour)
			f.arrive(t, f.letter(fmt.Sprintf("%d@x", i), fmt.Sprintf("w%d@x.example", rapid.IntRange(0, 2).Draw(r, "from")), pick(words, "subject")+" "+pick(words, "more")))
		}
		require.NoError(t, f.store.Read(ctx, func(tx store.Tx) error {
			last, err := ruling.Rules(tx).Last(1, 1, f.who.Week, 100)
			require.NoError(t, err)
			for _, rule := range made {
				var live, again []int64
				for _, d := range f.did(t, rule.ID) {
					live = append(live, d.Conversation)
				}
				for _, m := range last {
					if rule.Holds(m.Message) && m.Came < rule.Until {
						again = append(again, m.Conversation)
					}
				}
				slices.Sort(live)
				slices.Sort(again)
				require.Equal(t, live, again, rule.Words)
				for _, q := range rule.When {
					q.Place = inbox.Inbox
					if q.AtArrival() || len(rule.Except) > 0 {
						continue
					}
					found, err := store.Search(tx).IDs(1, 1, q, inbox.OldestFirst)
					require.NoError(t, err)
					slices.Sort(found)
					if len(rule.When) == 1 && f.clock.t.Before(rule.Until.Time()) {
						require.Equal(t, append([]int64{}, live...), append([]int64{}, found...), rule.Words)
					}
				}
			}
			return nil
		}))
	})
}

// Sorting a message by a thousand rules costs little: they are read once, and the words
// of a message are found once.
func BenchmarkAThousandRules(b *testing.B) {
	m := search.Message{From: "w@x.example", Says: search.Saying("Crate", "w", "words of a letter that is not long")}
	var all []sorting.Rule
	for i := range sorting.MaxRules {
		all = append(all, sorting.Rule{When: []search.Query{{From: fmt.Sprintf("w%d@x.example", i)}, {Words: fmt.Sprintf("word%d", i)}}})
	}
	for b.Loop() {
		for _, r := range all {
			r.Holds(m)
		}
	}
}

// A message that comes in where there are a thousand rules, all of which ask for words.
func BenchmarkComingInWithAThousandRules(b *testing.B) {
	for _, n := range []int{0, sorting.MaxRules} {
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			f := newOffice(b, store.Options{})
			require.NoError(b, f.store.Write(ctx, func(tx store.Tx) error {
				for i := range n {
					r := sorting.Rule{Words: fmt.Sprintf("from w%d@x.example or with “word%d”: star", i, i), Mode: sorting.On, Then: []inbox.ComboStep{{Kind: inbox.Star}},
						When: []search.Query{{From: fmt.Sprintf("w%d@x.example", i)}, {Words: fmt.Sprintf("word%d", i)}}, Except: []search.Query{}}
					if i%10 == 0 {
						r.Then = []inbox.ComboStep{{Kind: inbox.PassThrough}}
					}
					if err := ruling.Rules(tx).Put(1, &r, false); err != nil {
						return err
					}
				}
				return nil
			}))
			i := 0
			for b.Loop() {
				i++
				f.arrive(b, f.letter(fmt.Sprintf("%d@b", i), "new@y.example", "A letter that no rule is about"))
			}
		})
	}
}

// What comes in a silenced conversation goes past the inbox, held or not, until it is to
// the reader, by their name or alone, or answers them, or they lift it.
func TestASilencedConversation(t *testing.T) {
	all := func(id, text string, refs string) string {
		return fmt.Sprintf("From: Jonas <jonas@x.example>\nTo: staff@m.example, %s\nSubject: Re: Cake\nDate: Tue, 24 Nov 2026 10:30:00 +0100\nMessage-ID: <%s>\nReferences: <%s>\n\n%s\n", me, id, refs, text)
	}
	for _, c := range []struct {
		name, text string
		comes      bool
		own        bool
	}{
		{"to all", "Hello all,\n\nlemon for me. Solvei said so.", false, false},
		{"by name", "Hi Solvei,\n\nlemon?", true, false},
		{"an answer", "lemon then", true, true},
	} {
		f := newOffice(t, store.Options{})
		f.arrive(t, letter("a@x", "priya@x.example", "Cake"))
		if c.own {
			f.arrive(t, letter("own@x", me, "Re: Cake", "a@x"))
		}
		f.clock.t = f.clock.t.Add(time.Minute)
		out := f.decide(t, inbox.Silence, decide.Decision{Conversations: []int64{1}})
		require.Equal(t, "Silenced. What comes goes past the inbox, until it is to you.", out.Text)
		f.arrive(t, all("b@x", c.text, "a@x"))
		require.Len(t, f.queue(t), map[bool]int{true: 1}[c.comes], c.name)
		require.Equal(t, !c.comes, f.place(t, 1).Silent, c.name)
		f.sound(t)
	}
	f := newOffice(t, store.Options{})
	f.arrive(t, letter("a@x", "priya@x.example", "Cake"))
	f.decide(t, inbox.Silence, decide.Decision{Conversations: []int64{1}})
	_, err := f.Delivery.Hold(ctx, f.who, delivery.Hand{Mode: delivery.ModeHold})
	require.NoError(t, err)
	f.arrive(t, all("b@x", "Hello all", "a@x"))
	_, err = f.Delivery.Hold(ctx, f.who, delivery.Hand{})
	require.NoError(t, err)
	require.Empty(t, f.queue(t), "nor when it had been held")
	require.Equal(t, 2, f.place(t, 1).Messages)
	f.decide(t, inbox.Unsilence, decide.Decision{Conversations: []int64{1}})
	f.arrive(t, all("c@x", "Hello again", "a@x"))
	require.Len(t, f.queue(t), 1)
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.True(t, f.place(t, 1).Silent)
	f.sound(t)
}

// Who is put away for good is binned as they come in, and so is what of theirs is
// undecided; what answers the user or is waited for comes in; it is one step.
func TestNeverAgain(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.rule(t, "from offers@shop.example: archive", sorting.On)
	all, err := f.Rules.All(ctx, f.who)
	require.NoError(t, err)
	_, err = f.Rules.Save(ctx, f.who, "", rules.Saving{ID: all[0].ID, Words: all[0].Words, Mode: sorting.Off})
	require.NoError(t, err)
	f.arrive(t, letter("1@x", "Shop <offers@shop.example>", "Offer"), letter("2@x", "Shop <offers@shop.example>", "Another"), letter("3@x", "halvard@l.example", "Loan"))
	out, err := f.Rules.Never(ctx, f.who, "", 1, rules.PutAway{})
	require.NoError(t, err)
	require.Equal(t, "Never again: Shop. 2 in the inbox were binned.", out.Text)
	require.Equal(t, 1, out.Left)
	f.arrive(t, letter("4@x", "Shop <offers@shop.example>", "More"))
	require.Equal(t, inbox.Bin, f.place(t, 4).Place)
	all, err = f.Rules.All(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, []any{true, "Shop", 1}, []any{all[0].Away, all[0].Called, all[0].Did}, "it comes first, and counts")
	f.sound(t)

	f.arrive(t, letter("own@x", me, "Where is my parcel?"), fmt.Sprintf("From: Shop <offers@shop.example>\nTo: %s\nSubject: Re: Where is my parcel?\nDate: Tue, 24 Nov 2026 10:40:00 +0100\nMessage-ID: <5@x>\nReferences: <own@x>\n\nOn its way.\n", me))
	require.Equal(t, "Where is my parcel?", f.queue(t)[0].Subject, "an answer comes in")
	again, err := f.Rules.Never(ctx, f.who, "", 1, rules.PutAway{})
	require.NoError(t, err)
	require.Zero(t, again.Entry, "it is so already, and the answer stays")
	require.Equal(t, "Where is my parcel?", f.queue(t)[0].Subject)
	_, err = f.Journal.TakeBackStep(ctx, f.who, "", out.Entry)
	require.NoError(t, err)
	require.Equal(t, inbox.Inbox, f.place(t, 2).Place)
	f.arrive(t, letter("6@x", "Shop <offers@shop.example>", "Once more"))
	require.Equal(t, inbox.Inbox, f.by(t, "Once more").Position.Place)
	f.sound(t)
	f.arrive(t, letter("7@x", "Elsewhere <x@elsewhere.example>", "Put away"))
	put := f.by(t, "Put away").ID
	f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{put}})
	out, err = f.Rules.Never(ctx, f.who, "", put, rules.PutAway{})
	require.NoError(t, err, "nothing of it has to be undecided")
	require.Equal(t, "Never again: Elsewhere.", out.Text)

	// A domain, and what is such, with whom that hits.
	f.arrive(t, letter("8@x", "Anna <anna@big.example>", "Yearly report"), letter("9@x", "Bert <bert@big.example>", "Hello"), letter("10@x", "Carl <carl@other.example>", "Yearly report"))
	v, err := f.Rules.Moving(ctx, f.who, rules.Moving{Conversation: f.by(t, "Hello").ID, Away: true})
	require.NoError(t, err)
	require.Equal(t, []any{rules.Domain, 2, 2}, []any{v.Scopes[1].Scope, v.Scopes[1].Count, v.Scopes[1].People})
	out, err = f.Rules.Never(ctx, f.who, "", f.by(t, "Hello").ID, rules.PutAway{Scope: rules.Domain})
	require.NoError(t, err)
	require.Equal(t, "Never again: everybody at big.example. 2 in the inbox were binned.", out.Text)
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	out, err = f.Rules.Never(ctx, f.who, "", f.by(t, "Hello").ID, rules.PutAway{Scope: rules.Such, Words: "subject “yearly report”"})
	require.NoError(t, err)
	require.Contains(t, out.Text, "3 in the inbox were binned.")
	f.sound(t)
	_, err = f.Rules.Never(ctx, f.who, "", 99, rules.PutAway{})
	require.ErrorIs(t, err, store.ErrNotFound)
}

// Subscriptions are counted: how much each list sends, how much of it is opened, and
// whether it goes on after it was left.
func TestSubscriptions(t *testing.T) {
	f := newOffice(t, store.Options{})
	weekly := func(i int) string {
		return f.letter(fmt.Sprintf("w%d@x", i), "Weekly <press@letters.example>", fmt.Sprintf("Weekly %d", i), "List-Id: Weekly <weekly.letters.example>", "List-Unsubscribe: <https://letters.example/leave?x=1>", "List-Unsubscribe-Post: List-Unsubscribe=One-Click")
	}
	for i := range 3 {
		f.arrive(t, weekly(i), f.letter(fmt.Sprintf("d%d@x", i), "Digest <digest@forum.example>", fmt.Sprintf("Digest %d", i), "Precedence: bulk"), f.letter(fmt.Sprintf("p%d@x", i), "halvard@l.example", "Loan"))
		f.clock.t = f.clock.t.Add(20 * 24 * time.Hour)
	}
	require.NoError(t, f.Reading.Note(ctx, f.who, reading.Noted{Readings: []reading.ReadingNoted{{Conversation: f.by(t, "Weekly 1").ID, Seconds: 20, Whole: true}}}))
	left := ""
	f.Writing.LeaveAt = func(_ context.Context, at string) error { left = at; return nil }
	_, err := f.Writing.LeaveList(ctx, f.who, "", f.by(t, "Weekly 2").ID)
	require.NoError(t, err)
	require.Equal(t, "https://letters.example/leave?x=1", left)
	f.clock.t = f.clock.t.Add(11 * 24 * time.Hour)
	f.arrive(t, weekly(3))
	all, err := f.Lists.All(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, all, 2)
	w := all[0]
	require.Equal(t, []any{"weekly.letters.example", "Weekly", 1, 4, 1, 1, "request", 1}, []any{w.List, w.From.Name, w.Month, w.Messages, w.Opened, w.Read, w.Way, w.StillSent})
	require.NotZero(t, w.LeftAt)
	require.Equal(t, []any{"digest@forum.example", "", 3, 0}, []any{all[1].List, all[1].Way, all[1].Messages, all[1].StillSent})

	// All that a list has sent is binned at once, but what is starred.
	f.decide(t, inbox.Star, decide.Decision{Conversations: []int64{f.by(t, "Weekly 1").ID}})
	f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{f.by(t, "Weekly 0").ID}})
	out, err := f.Lists.Bin(ctx, f.who, "", []int64{w.Conversation})
	require.NoError(t, err)
	require.Equal(t, "Binned 3 conversations of Weekly.", out.Text)
	require.NotContains(t, f.inView(t), "Weekly 2")
	require.Contains(t, f.inView(t), "Weekly 1")
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.Contains(t, f.inView(t), "Weekly 2")
	out, err = f.Lists.Bin(ctx, f.who, "", []int64{w.Conversation, all[1].Conversation})
	require.NoError(t, err)
	require.Equal(t, "Binned 6 conversations of 2 lists.", out.Text)
	f.sound(t)
}

// What one has done three times in a row with what comes from somewhere is offered as a
// rule, once: not where one did otherwise, not for what a rule does already, not to put
// people's mail away; refused, it stays away; taken, it is a rule.
func TestRulesAreOffered(t *testing.T) {
	f := newOffice(t, store.Options{})
	offers := func() (words []string) {
		t.Helper()
		require.NoError(t, f.Importance.Learn(ctx))
		all, err := f.Rules.Offers(ctx, f.who)
		require.NoError(t, err)
		for _, o := range all {
			words = append(words, o.Words)
		}
		return words
	}
	permits, err := f.Labels.Make(ctx, f.who, "permits")
	require.NoError(t, err)
	n := 0
	comes := func(from, subject string, more ...string) int64 {
		n++
		f.arrive(t, f.letter(fmt.Sprintf("%d@offer", n), from, fmt.Sprintf("%s %d", subject, n), more...))
		return f.by(t, fmt.Sprintf("%s %d", subject, n)).ID
	}
	const list = "List-Id: <weekly.letters.example>"
	var last int64
	for range 3 {
		require.Empty(t, offers())
		last = comes("Weekly <press@letters.example>", "Number", list)
		f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{last}})
		f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{comes("Halvard <halvard@l.example>", "Loan")}})
	}
	require.Equal(t, []string{"list weekly.letters.example: archive"}, offers(), "people's mail is not put away by habit")
	f.decide(t, inbox.ToInbox, decide.Decision{Conversations: []int64{last}})
	require.Empty(t, offers(), "what is not so any more is forgotten")
	_, err = f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	require.Len(t, offers(), 1)
	all, err := f.Rules.Offers(ctx, f.who)
	require.NoError(t, err)
	require.Equal(t, "You have archived the last 3 from Weekly.", all[0].Text)
	require.NoError(t, f.Rules.Refuse(ctx, f.who, all[0].ID))
	require.ErrorIs(t, f.Rules.Refuse(ctx, f.who, all[0].ID), store.ErrNotFound)
	f.decide(t, inbox.Archive, decide.Decision{Conversations: []int64{comes("Weekly <press@letters.example>", "Number", list)}})
	require.Empty(t, offers(), "refused, it stays away")

	for range 3 {
		f.decide(t, inbox.Label, decide.Decision{Conversations: []int64{comes("Quay <quay@h.example>", "Permit")}, Add: []int64{permits.ID}})
	}
	require.Equal(t, []string{"from quay@h.example: label “permits”"}, offers())
	all, err = f.Rules.Offers(ctx, f.who)
	require.NoError(t, err)
	_, err = f.Rules.Save(ctx, f.who, "", rules.Saving{Words: all[0].Words, Mode: sorting.On, Offer: all[0].ID})
	require.NoError(t, err)
	require.Empty(t, offers())
	comes("Quay <quay@h.example>", "Permit")
	require.Empty(t, offers(), "a rule does it")
	f.sound(t)
}
