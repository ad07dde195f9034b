package store_test

import (
	"cmp"
	"context"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/agenda"
	"ebbe/internal/core/calendar"
	"ebbe/internal/core/delivery"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/store"
	"ebbe/internal/store/admission"
	"ebbe/internal/store/awaiting"
	"ebbe/internal/store/counting"
	"ebbe/internal/store/drafting"
	"ebbe/internal/store/holding"
	"ebbe/internal/store/mailboxes"
	"ebbe/internal/store/whereabouts"
	"ebbe/internal/store/words"
)

// opened is a store in a folder of its own.
func opened(t testing.TB) *store.Store {
	t.Helper()
	s, err := store.Open(t.TempDir(), store.Options{})
	require.NoError(t, err)
	t.Cleanup(s.Close)
	return s
}

func mustWrite(t testing.TB, s *store.Store, f func(store.Tx) error) {
	t.Helper()
	require.NoError(t, s.Write(context.Background(), f))
}

// boxes hands out numbers of boxes that no other test has used.
var boxes atomic.Int64

func init() { boxes.Store(100) }

// lived is a box with conversations of one message each, and what a slow, obvious
// reference knows of them.
type lived struct {
	box, person int64
	rows        []store.Row
	words       map[int64]string
	messages    map[int64]*store.Message
}

// live puts n made-up conversations into a new box; pick gives a number below its
// argument.
func live(t store.Tx, n int, pick func(int) int) (*lived, error) {
	l := &lived{box: boxes.Add(1), person: boxes.Load() + 10_000, words: map[int64]string{}, messages: map[int64]*store.Message{}}
	conversation, message, err := store.Conversations(t).NextIDs()
	if err != nil {
		return nil, err
	}
	d := store.Batch{}
	left := 0
	for i := range n {
		from := fmt.Sprintf("w%d@x.example", pick(5))
		word := []string{"crate", "lorry", "tide", "papers"}[pick(4)]
		c := &store.Conversation{ID: conversation + int64(i), BoxID: l.box, Place: []inbox.Place{inbox.Inbox, inbox.Inbox, inbox.Archived, inbox.Snoozed, inbox.Bin, inbox.Held}[pick(6)], Reason: []inbox.Reason{inbox.Arrived, inbox.Back, inbox.WithRound}[pick(3)],
			Since: when.Instant(1000 + 100*pick(50)), Subject: word, Base: word, LastAt: when.Instant(1000 + 100*pick(50)), Messages: 1, Kind: []mail.Kind{mail.Person, mail.List}[pick(2)], FromName: strings.ToUpper(from[:2]), FromAddr: from,
			Account: []string{"", "me@m.example"}[pick(2)], Reach: []mail.Reach{mail.Alone, mail.Copied}[pick(2)], Rank: pick(4), Size: 100 + pick(10)}
		if c.Place == inbox.Snoozed {
			c.ReturnAt, c.SnoozedAt, c.Until = when.Instant(10_000+100*pick(9)), 5, inbox.UntilTime
		}
		if c.Reason == inbox.WithRound {
			c.Round = when.Instant(2000 + 1000*pick(2))
			c.Since = c.Round
		}
		hash := binary.BigEndian.AppendUint64(make([]byte, 24), uint64(message)+uint64(i))
		held := delivery.Stream("")
		if c.Place == inbox.Held {
			held = delivery.StreamPeople
		}
		m := &store.Message{ID: message + int64(i), BoxID: l.box, Hash: hash, MessageID: fmt.Sprintf("%d.%d@x", l.box, i), ConversationID: c.ID, Date: c.LastAt, Received: c.LastAt, Subject: word, FromAddr: from, To: []mail.Address{{Address: "me@m.example"}}, Kind: c.Kind, Size: c.Size, Held: held, Reader: 2, Own: pick(5) == 4 && held == "", Language: []when.Language{"", "en", "de"}[pick(3)]}
		if n := pick(4); n > 1 {
			m.Files = []mail.File{{Name: []string{"Plan.PDF", "lorry.zip"}[n-2], Type: "application/octet-stream"}}
		}
		c.Files, c.Traits = len(m.Files), search.TraitsOf(m.Files, m.Own, m.Language)
		l.messages[c.ID] = m
		k := store.Mark{PersonID: l.person, ConversationID: c.ID, Unread: pick(2) == 0, Starred: pick(3) == 0, Looks: pick(3)}
		d.Messages, d.Originals, d.Words = append(d.Messages, m), append(d.Originals, []byte("bytes of "+m.MessageID)), append(d.Words, words.Entry{Subject: word, People: from, Body: "body of " + word}.Row())
		d.Refs, d.Conversations, d.Marks = append(d.Refs, store.Ref{l.box, m.MessageID, c.ID}), append(d.Conversations, c), append(d.Marks, k)
		l.rows = append(l.rows, store.Row{Conversation: *c, Unread: k.Unread, Starred: k.Starred, Looks: k.Looks})
		l.words[c.ID] = word
		if c.Place == inbox.Inbox {
			left++
		}
		if c.Place == inbox.Snoozed {
			if err := store.Agenda(t).SetThing(l.box, inbox.Return, c.ID, agenda.Thing{At: c.ReturnAt}); err != nil {
				return nil, err
			}
		}
	}
	for _, a := range []string{"w0", "w1", "w2", "w3", "w4"} {
		d.Correspondents = append(d.Correspondents, store.Correspondent{BoxID: l.box, Address: a + "@x.example", Name: strings.ToUpper(a), Received: 1, FirstAt: 1, LastAt: 2})
	}
	if err := store.Messages(t).AddBatch(l.box, l.person, d); err != nil {
		return nil, err
	}
	return l, store.Journal(t).Record(&store.Entry{BoxID: l.box, PersonID: l.person, Kind: inbox.Import, At: 1, Delta: left, Count: n})
}

// matches is what a query means, said plainly.
func (l *lived) matches(r store.Row, q search.Query) bool {
	switch {
	case r.Place == inbox.Held, q.Place != "" && r.Place != q.Place:
		return false
	case q.From != "" && r.FromAddr != q.From, q.Account != "" && r.Account != q.Account, q.Kind != "" && r.Kind != q.Kind, q.Reach != "" && r.Reach != q.Reach:
		return false
	case q.Before > 0 && r.LastAt >= q.Before, q.Unread && !r.Unread, q.Starred && !r.Starred, q.Unstarred && r.Starred, q.Files && r.Files == 0:
		return false
	case q.Answered && !l.messages[r.ID].Own, q.Unanswered && l.messages[r.ID].Own, q.Language != "" && (l.messages[r.ID].Own || l.messages[r.ID].Language != q.Language):
		return false
	case q.FilesOf != "" && (l.messages[r.ID].Own || !slices.ContainsFunc(l.messages[r.ID].Files, q.FilesOf.Is)):
		return false
	case q.Words != "" && !strings.HasPrefix(l.words[r.ID], q.Words):
		return false
	}
	return true
}

func (l *lived) that(q search.Query) (out []store.Row) {
	for _, r := range l.rows {
		if l.matches(r, q) {
			out = append(out, r)
		}
	}
	return out
}

func idsOf(rows []store.Row) []int64 {
	ids := []int64{}
	for _, r := range rows {
		ids = append(ids, r.ID)
	}
	return ids
}

// Whatever is asked of the conversations of a box is what a plain walk over them
// gives, and never what lies in another.
func TestQueriesAgainstAPlainWalk(t *testing.T) {
	s := opened(t)
	rapid.Check(t, func(rt *rapid.T) {
		pick := func(n int) int { return rapid.IntRange(0, n-1).Draw(rt, "pick") }
		q := search.Query{Unread: pick(4) == 0, Starred: pick(5) == 0, Files: pick(5) == 0}
		q.Unstarred = !q.Starred && pick(6) == 0
		switch pick(10) {
		case 6:
			q.Answered = true
		case 7:
			q.Unanswered = true
		case 8:
			q.Language = "de"
		case 9:
			q.FilesOf = []search.FileKind{search.PDFs, search.Archives, search.Tables}[pick(3)]
		case 0:
			q.From = "w1@x.example"
		case 1:
			q.Kind = mail.List
		case 2:
			q.Words = []string{"crate", "cra", "tide"}[pick(3)]
		case 3:
			q.Before = 3000
		case 4:
			q.Account, q.Reach = "me@m.example", mail.Alone
		}
		q.Place = []inbox.Place{"", inbox.Inbox, inbox.Archived, inbox.Bin}[pick(4)]
		require.NoError(rt, s.Write(context.Background(), func(tx store.Tx) error {
			l, err := live(tx, 5+pick(30), pick)
			require.NoError(rt, err)
			if _, err := live(tx, 10, pick); err != nil {
				return err
			}
			want := l.that(q)
			n, err := store.Search(tx).Count(l.box, l.person, q, 1000)
			require.NoError(rt, err)
			require.Equal(rt, len(want), n, "%+v", q)

			newest := slices.Clone(want)
			slices.SortFunc(newest, func(a, b store.Row) int { return cmp.Or(cmp.Compare(b.LastAt, a.LastAt), cmp.Compare(b.ID, a.ID)) })
			var got []store.Row
			for after := (*store.Cursor)(nil); ; {
				page, err := store.Search(tx).Found(l.box, l.person, q, after, 4)
				require.NoError(rt, err)
				got = append(got, page...)
				if len(page) < 4 {
					break
				}
				after = &store.Cursor{page[3].LastAt, page[3].ID}
			}
			require.Equal(rt, idsOf(newest), idsOf(got))
			for i := range got {
				require.Equal(rt, newest[i], got[i])
			}
			for order, less := range map[inbox.Order]func(a, b store.Row) int{
				inbox.NewestFirst: func(a, b store.Row) int { return cmp.Or(cmp.Compare(b.Since, a.Since), cmp.Compare(b.ID, a.ID)) },
				inbox.OldestFirst: func(a, b store.Row) int { return cmp.Or(cmp.Compare(a.Since, b.Since), cmp.Compare(a.ID, b.ID)) },
				inbox.MostImportant: func(a, b store.Row) int {
					return cmp.Or(cmp.Compare(a.Rank, b.Rank), cmp.Compare(a.Since, b.Since), cmp.Compare(a.ID, b.ID))
				},
				inbox.LargestFirst: func(a, b store.Row) int { return cmp.Or(cmp.Compare(b.Size, a.Size), cmp.Compare(b.ID, a.ID)) },
			} {
				sorted := slices.Clone(want)
				slices.SortFunc(sorted, less)
				ids, err := store.Search(tx).IDs(l.box, l.person, q, order)
				require.NoError(rt, err)
				require.Equal(rt, idsOf(sorted), ids, order)
			}
			rows, err := store.Search(tx).Rows(l.box, l.person, append(idsOf(want), 1<<40))
			require.NoError(rt, err)
			require.Equal(rt, want, rows)

			// The queue: each conversation in one group, in order, counted.
			q.Place = inbox.Inbox
			all := l.that(q)
			spans := inbox.Spans(3000, 2000, []when.Instant{2000, 3000})
			groups, err := store.Search(tx).GroupSpans(l.box, l.person, q, spans, inbox.NewestFirst)
			require.NoError(rt, err)
			var ids []int64
			for _, g := range groups {
				var list []int64
				require.NoError(rt, json.Unmarshal(g.IDs, &list))
				require.Len(rt, list, g.Count)
				i := slices.IndexFunc(spans, func(s inbox.Span) bool { return string(s.Section) == g.Key })
				var mine []store.Row
				for _, r := range all {
					if in := spans[i]; r.Since >= in.From && r.Since < in.To && (len(in.Reasons) == 0 || slices.Contains(in.Reasons, r.Reason)) && (in.Round == 0 || in.Round == r.Round) {
						mine = append(mine, r)
					}
				}
				slices.SortFunc(mine, func(a, b store.Row) int { return cmp.Or(cmp.Compare(b.Since, a.Since), cmp.Compare(b.ID, a.ID)) })
				require.Equal(rt, idsOf(mine), list, g.Key)
				ids = append(ids, list...)
			}
			require.ElementsMatch(rt, idsOf(all), ids)
			for by, of := range map[inbox.Grouping]func(store.Row) string{inbox.BySender: func(r store.Row) string { return r.FromAddr }, inbox.ByKind: func(r store.Row) string { return string(r.Kind) }, inbox.BySubject: func(r store.Row) string { return r.Base }, inbox.ByAccount: func(r store.Row) string { return r.Account }} {
				groups, err := store.Search(tx).GroupBy(l.box, l.person, q, by, inbox.OldestFirst)
				require.NoError(rt, err)
				counts := map[string]int{}
				for _, r := range all {
					counts[of(r)]++
				}
				got := map[string]int{}
				for _, g := range groups {
					got[g.Key] = g.Count
				}
				require.Equal(rt, counts, got, by)
			}
			left, err := store.Conversations(tx).Left(l.box)
			require.NoError(rt, err)
			count, err := store.Conversations(tx).CountPlace(l.box, inbox.Inbox)
			require.NoError(rt, err)
			require.Equal(rt, len(l.that(search.Query{Place: inbox.Inbox})), left)
			require.Equal(rt, left, count)

			senders, err := store.Correspondents(tx).Senders(l.box, l.person, nil, "", 100)
			require.NoError(rt, err)
			sum, unread := 0, 0
			for _, x := range senders {
				sum, unread = sum+x.Count, unread+x.Unread
			}
			require.Equal(rt, left, sum)
			require.Equal(rt, len(l.that(search.Query{Place: inbox.Inbox, Unread: true})), unread)

			later := l.that(search.Query{Place: inbox.Snoozed})
			slices.SortFunc(later, func(a, b store.Row) int { return cmp.Or(cmp.Compare(a.ReturnAt, b.ReturnAt), cmp.Compare(a.ID, b.ID)) })
			page, err := store.Conversations(tx).Later(l.box, l.person, nil, 100)
			require.NoError(rt, err)
			require.Equal(rt, idsOf(later), idsOf(page))
			if len(later) > 0 {
				rest, err := store.Conversations(tx).Later(l.box, l.person, &store.Cursor{later[0].ReturnAt, later[0].ID}, 100)
				require.NoError(rt, err)
				require.Equal(rt, idsOf(later[1:]), idsOf(rest))
				next, err := store.Agenda(tx).NextReturn(l.box)
				require.NoError(rt, err)
				require.Equal(rt, later[0].ReturnAt, next)
				in, err := store.Agenda(tx).ReturnsIn(l.box, later[0].ReturnAt, later[0].ReturnAt+1, 10)
				require.NoError(rt, err)
				require.Contains(rt, in, later[0].ID)
			}
			return nil
		}))
	})
}

// The rows of a box are another's as little as if they did not exist, whatever they
// are asked by.
func TestNothingOfAnotherBox(t *testing.T) {
	s := opened(t)
	mustWrite(t, s, func(tx store.Tx) error {
		i := 0
		pick := func(n int) int { i++; return i % n }
		mine, err := live(tx, 20, pick)
		require.NoError(t, err)
		other := mine.box + 1000
		ids := idsOf(mine.rows)
		first := mine.rows[0]
		_, err = store.Conversations(tx).RowByID(other, mine.person, first.ID)
		require.ErrorIs(t, err, store.ErrNotFound)
		rows, err := store.Search(tx).Rows(other, mine.person, ids)
		require.NoError(t, err)
		require.Empty(t, rows)
		state, err := store.Conversations(tx).State(other, mine.person, ids, nil)
		require.NoError(t, err)
		require.Empty(t, state.Conversations)
		names, err := store.Conversations(tx).Names(other, ids)
		require.NoError(t, err)
		require.Empty(t, names)
		byID, err := store.Conversations(tx).ConversationRows(other, ids)
		require.NoError(t, err)
		require.Empty(t, byID)
		_, err = store.Conversations(tx).Resolve(other, first.ID)
		require.ErrorIs(t, err, store.ErrNotFound)
		_, err = store.Messages(tx).ByMessageID(other, fmt.Sprintf("%d.0@x", mine.box))
		require.ErrorIs(t, err, store.ErrNotFound)
		messages, err := store.Messages(tx).MessagesOf(mine.box, first.ID)
		require.NoError(t, err)
		require.Len(t, messages, 1)
		_, err = store.Messages(tx).MessageRow(other, messages[0].ID)
		require.ErrorIs(t, err, store.ErrNotFound)
		of, err := mailboxes.Folders(tx).ConversationsOf(other, []int64{messages[0].ID})
		require.NoError(t, err)
		require.Empty(t, of)
		known, err := store.Messages(tx).Known(other, [][]byte{messages[0].Hash})
		require.NoError(t, err)
		require.Empty(t, known)
		refs, err := store.Conversations(tx).Refs(mine.box, []string{messages[0].MessageID})
		require.NoError(t, err)
		require.Equal(t, first.ID, refs[messages[0].MessageID])
		alike, err := store.Conversations(tx).SubjectsFrom(mine.box, first.FromAddr)
		require.NoError(t, err)
		require.Len(t, alike, len(mine.that(search.Query{Place: inbox.Inbox, From: first.FromAddr})))
		base, err := store.Conversations(tx).ByBase(mine.box, first.Base)
		require.NoError(t, err)
		require.NotEmpty(t, base)
		return nil
	})
}

// What is decided is stored with what the agenda says of it, is found in the
// history, and can be taken back once.
func TestTheJournalAndTheAgenda(t *testing.T) {
	s := opened(t)
	mustWrite(t, s, func(tx store.Tx) error {
		l, err := live(tx, 30, func(n int) int { return 0 }) // all in the inbox
		require.NoError(t, err)
		id := l.rows[0].ID
		state, err := store.Conversations(tx).State(l.box, l.person, []int64{id}, nil)
		require.NoError(t, err)
		before := state.Conversations[id]
		after := before
		after.Position = inbox.Position{Place: inbox.Snoozed, Reason: before.Reason, Since: 500, SnoozedAt: 500, Return: when.Moment{At: 9000, Local: "1970-01-01T00:00", Zone: "UTC"}, Until: inbox.UntilTime}
		after.Starred, after.Labels, after.Note = true, inbox.LabelsOf(3, 7), "ask"
		change := inbox.Change{Before: &before, After: &after}
		e := &store.Entry{BoxID: l.box, PersonID: l.person, Actor: store.ByPerson, Kind: inbox.Snooze, At: 500, Delta: -1, Count: 1, ConversationID: id, Step: true, Changes: []inbox.Change{change}}
		require.NoError(t, store.Journal(tx).Record(e))
		require.NoError(t, store.Conversations(tx).Apply(l.box, l.person, e.Changes))
		state, err = store.Conversations(tx).State(l.box, l.person, []int64{id}, nil)
		require.NoError(t, err)
		require.Equal(t, after, state.Conversations[id])
		left, err := store.Conversations(tx).Left(l.box)
		require.NoError(t, err)
		require.Equal(t, 29, left)
		due, err := store.Agenda(tx).Due(l.box, 9000, 10)
		require.NoError(t, err)
		require.Len(t, due, 1)
		boxes, err := store.Agenda(tx).BoxesDue(9000)
		require.NoError(t, err)
		require.Contains(t, boxes, l.box)
		back, _, err := store.Agenda(tx).Returns(l.box, 8000, 9500)
		require.NoError(t, err)
		require.Equal(t, []when.Instant{9000}, back)
		require.NoError(t, store.Agenda(tx).MoveReturn(l.box, id, when.Moment{At: 9100}))
		at, err := store.Agenda(tx).NextThing(9000)
		require.NoError(t, err)
		require.Equal(t, when.Instant(9100), at)
		next, err := store.Agenda(tx).NextReturn(l.box)
		require.NoError(t, err)
		require.Equal(t, when.Instant(9100), next)
		lines, err := store.Journal(tx).History(l.box, store.Past{Conversation: id}, 10)
		require.NoError(t, err)
		require.Len(t, lines, 1)
		lines, err = store.Journal(tx).History(l.box, store.Past{Actor: store.ByClock}, 10)
		require.NoError(t, err)
		require.Empty(t, lines)
		last, err := store.Journal(tx).LastStep(l.box, l.person)
		require.NoError(t, err)
		require.Equal(t, e.ID, last.ID)
		kinds, err := counting.Counted(tx).Decided(l.box, 0, 1000)
		require.NoError(t, err)
		require.Equal(t, map[inbox.Kind]int{inbox.Snooze: 1}, kinds)
		steps, err := counting.Counted(tx).Steps(l.box, 0, 1000)
		require.NoError(t, err)
		require.Len(t, steps, 2)
		require.NoError(t, store.Journal(tx).SetTakenBack(e.ID, 77, false))
		_, err = store.Journal(tx).LastStep(l.box, l.person)
		require.ErrorIs(t, err, store.ErrNotFound)
		counts, err := store.Labels(tx).LabelCounts(l.box)
		require.NoError(t, err)
		require.Empty(t, counts, "labels of no box are on nothing that counts")
		marked, err := store.Labels(tx).LabeledWith([]int64{3, 7})
		require.NoError(t, err)
		require.Equal(t, []int64{id}, marked)
		require.NoError(t, store.Agenda(tx).SetTime(l.box, inbox.CloseDay, 4000))
		when4000, err := store.Agenda(tx).TimeOf(l.box, inbox.CloseDay)
		require.NoError(t, err)
		require.Equal(t, when.Instant(4000), when4000)
		require.NoError(t, store.Agenda(tx).SetTime(l.box, inbox.CloseDay, 0))
		return nil
	})
}

// Joining and parting moves messages with all that hangs on them.
func TestJoiningAndParting(t *testing.T) {
	s := opened(t)
	mustWrite(t, s, func(tx store.Tx) error {
		l, err := live(tx, 3, func(n int) int { return 0 })
		require.NoError(t, err)
		a, b := l.rows[0].ID, l.rows[1].ID
		f := followup.FollowUp{UID: fmt.Sprint("f", b), Title: "Ring", Status: followup.NeedsAction, Priority: followup.Normal, Conversation: b, Due: when.Moment{At: 8000}}
		require.NoError(t, store.FollowUps(tx).PutFollowUps(l.box, []followup.FollowUp{f}))
		r, err := store.Conversations(tx).Merge(l.box, b, a)
		require.NoError(t, err)
		require.Equal(t, a, r.Into)
		to, err := store.Conversations(tx).Resolve(l.box, b)
		require.NoError(t, err)
		require.Equal(t, a, to)
		merged, err := store.Conversations(tx).Merged(l.box, []int64{a, b})
		require.NoError(t, err)
		require.Equal(t, map[int64]bool{b: true}, merged)
		of, err := store.FollowUps(tx).FollowUpsOf(l.box, []int64{a, b})
		require.NoError(t, err)
		require.Len(t, of[a], 1)
		messages, err := store.Messages(tx).MessagesOf(l.box, a)
		require.NoError(t, err)
		require.Len(t, messages, 2)
		r, err = store.Conversations(tx).Splinter(l.box, a, []int64{messages[1].ID})
		require.NoError(t, err)
		require.NoError(t, store.Conversations(tx).Regroup(l.box, r))
		for _, id := range []int64{a, r.Into} {
			messages, err := store.Messages(tx).MessagesOf(l.box, id)
			require.NoError(t, err)
			require.Len(t, messages, 1)
		}
		writers, err := store.Correspondents(tx).Writers(a)
		require.NoError(t, err)
		require.NotEmpty(t, writers)
		return nil
	})
}

// Follow-ups and events are listed by what they are due, finished, waited for and
// between whom; each of their box.
func TestFollowUpsAndEventsOfABox(t *testing.T) {
	s := opened(t)
	mustWrite(t, s, func(tx store.Tx) error {
		l, err := live(tx, 2, func(n int) int { return 0 })
		require.NoError(t, err)
		box := l.box
		made := func(uid string, change func(*followup.FollowUp)) followup.FollowUp {
			f := followup.FollowUp{UID: uid, Title: "Ring " + uid, Status: followup.NeedsAction, Priority: followup.Normal, Made: 10}
			change(&f)
			return f
		}
		all := []followup.FollowUp{
			made("late", func(f *followup.FollowUp) { f.Due, f.Project, f.Card = when.Moment{At: 100}, "hall", true }),
			made("soon", func(f *followup.FollowUp) {
				f.Due, f.Context, f.Conversation = when.Moment{At: 5000}, "phone", l.rows[0].ID
			}),
			made("waits", func(f *followup.FollowUp) {
				f.Waits, f.With = followup.Wait{Since: 50}, mail.Address{Name: "Jonas", Address: "w0@x.example"}
			}),
			made("done", func(f *followup.FollowUp) {
				f.Status, f.Finished, f.Due = followup.Completed, 3000, when.Moment{At: 2900}
			}),
		}
		require.NoError(t, store.FollowUps(tx).PutFollowUps(box, all))
		n, err := store.FollowUps(tx).CountFollowUps(box, 1, 6000)
		require.NoError(t, err)
		require.Equal(t, 2, n)
		waiting, err := store.FollowUps(tx).CountWaiting(box)
		require.NoError(t, err)
		require.Equal(t, 1, waiting)
		rows, err := store.FollowUps(tx).WaitingFollowUps(box, store.After{}, 10)
		require.NoError(t, err)
		require.Equal(t, "waits", rows[0].UID)
		waits, err := awaiting.Awaited(tx).Over(box, []followup.Came{{From: mail.Address{Address: "w0@x.example"}}})
		require.NoError(t, err)
		require.Len(t, waits, 1)
		rows, err = store.FollowUps(tx).FinishedFollowUps(box, 1, followup.Ever, store.After{}, 10)
		require.NoError(t, err)
		require.Equal(t, "done", rows[0].UID)
		count, err := store.FollowUps(tx).CountFinished(box, 1, 3001)
		require.NoError(t, err)
		require.Equal(t, 1, count)
		past, err := store.FollowUps(tx).PastFollowUps(box, 1, 9000)
		require.NoError(t, err)
		require.NotEmpty(t, past)
		projects, err := store.FollowUps(tx).Named(box, "project")
		require.NoError(t, err)
		require.Equal(t, []string{"hall"}, projects)
		contexts, err := store.FollowUps(tx).Named(box, "context")
		require.NoError(t, err)
		require.Equal(t, []string{"phone"}, contexts)
		cards, err := store.FollowUps(tx).Cards(box, 10)
		require.NoError(t, err)
		require.Len(t, cards, 1)
		many, urgent, late, err := store.FollowUps(tx).CountCards(box, 1000)
		require.NoError(t, err)
		require.Equal(t, []int{1, 0, 1}, []int{many, urgent, late})
		between, err := store.FollowUps(tx).FollowUpsBetween(box, l.rows[0].FromAddr)
		require.NoError(t, err)
		require.Len(t, between, 1)
		require.Equal(t, "Ring soon", store.Agenda(tx).TitleOf(box, "soon"))
		require.Empty(t, store.Agenda(tx).TitleOf(box, "nobody"))
		open, gone, rev, err := store.FollowUps(tx).Shelf(box, 0)
		require.NoError(t, err)
		require.Len(t, open, 3)
		require.Empty(t, gone)
		require.NoError(t, store.FollowUps(tx).PutFollowUps(box, []followup.FollowUp{all[0].Finish(4000)}))
		require.NoError(t, store.Conversations(tx).Apply(box, l.person, []inbox.Change{{FollowUpBefore: &followup.FollowUp{UID: "soon"}}}))
		_, gone, now, err := store.FollowUps(tx).Shelf(box, rev)
		require.NoError(t, err)
		require.ElementsMatch(t, []string{"late", "soon"}, gone)
		require.Greater(t, now, rev)
		require.NoError(t, store.FollowUps(tx).Restage(box, followup.Usual()))
		empty, err := store.FollowUps(tx).AllFollowUps(box + 1000)
		require.NoError(t, err)
		require.Empty(t, empty)

		e := calendar.Event{UID: "e", Title: "Talk", Start: when.Moment{At: 7000}, End: when.Moment{At: 8000}, Remind: 15, Conversation: l.rows[0].ID, Card: true}
		require.NoError(t, store.Calendar(tx).PutEvent(box, e))
		require.NoError(t, store.Calendar(tx).PutEvent(box, calendar.Event{UID: "r", Title: "Daily", Start: when.Moment{At: 1000}, End: when.Moment{At: 1100}, Rule: "FREQ=DAILY"}))
		events, err := store.Calendar(tx).EventsBetween(box, 7500, 7600)
		require.NoError(t, err)
		require.Len(t, events, 2, "the one, and what repeats")
		events, err = store.Calendar(tx).EventsOf(box, l.rows[0].ID)
		require.NoError(t, err)
		require.Equal(t, "Talk", events[0].Title)
		events, err = store.Calendar(tx).EventCards(box, 7999)
		require.NoError(t, err)
		require.Len(t, events, 1)
		events, err = store.Calendar(tx).EventCards(box, 8000)
		require.NoError(t, err)
		require.Empty(t, events, "it is over")
		require.NoError(t, store.Conversations(tx).Apply(box, l.person, []inbox.Change{{EventBefore: &calendar.Event{UID: "e"}}}))
		events, err = store.Calendar(tx).AllEvents(box)
		require.NoError(t, err)
		require.Len(t, events, 1)
		return nil
	})
}

// Folders and what lies in them, errands and what vanished, are of their account.
func TestWhereMessagesLie(t *testing.T) {
	s := opened(t)
	mustWrite(t, s, func(tx store.Tx) error {
		l, err := live(tx, 5, func(n int) int { return 0 })
		require.NoError(t, err)
		a := mailboxes.Account{BoxID: l.box, PersonID: l.person, Name: "Museum", Address: "me@m.example", Carries: inbox.AllCarried}
		require.NoError(t, mailboxes.Accounts(tx).PutAccount(&a))
		f := mailboxes.Folder{AccountID: a.ID, Name: "INBOX", Role: mail.RoleInbox, Validity: 1}
		require.NoError(t, mailboxes.Folders(tx).PutFolder(&f))
		same, err := mailboxes.Folders(tx).FolderNamed(a.ID, "INBOX")
		require.NoError(t, err)
		require.Equal(t, f, same)
		var copies []mailboxes.Copy
		var messages []int64
		for i, r := range l.rows {
			m, err := store.Messages(tx).MessagesOf(l.box, r.ID)
			require.NoError(t, err)
			messages = append(messages, m[0].ID)
			copies = append(copies, mailboxes.Copy{FolderID: f.ID, UID: int64(i + 1), MessageID: m[0].ID, Seen: true})
		}
		require.NoError(t, mailboxes.Folders(tx).PutCopies(copies))
		uids, err := mailboxes.Folders(tx).CopyUIDs(f.ID)
		require.NoError(t, err)
		require.Equal(t, []int64{1, 2, 3, 4, 5}, uids)
		n, err := mailboxes.Folders(tx).CountCopies(f.ID)
		require.NoError(t, err)
		require.EqualValues(t, 5, n)
		lie, err := mailboxes.Folders(tx).ConversationCopies(l.box, idsOf(l.rows))
		require.NoError(t, err)
		require.Len(t, lie, 5)
		require.NoError(t, mailboxes.Folders(tx).Await(f.ID, messages[0]))
		awaited, err := mailboxes.Folders(tx).Awaited(f.ID, messages[:2])
		require.NoError(t, err)
		require.Equal(t, map[int64]bool{messages[0]: true}, awaited)
		require.NoError(t, mailboxes.Folders(tx).Happen([]mailboxes.Happening{{AccountID: a.ID, MessageID: messages[1], FolderID: f.ID}}))
		happened, err := mailboxes.Folders(tx).Happenings(a.ID)
		require.NoError(t, err)
		require.Len(t, happened, 1)
		require.NoError(t, mailboxes.Folders(tx).Followed([]int64{happened[0].ID}))
		require.NoError(t, mailboxes.Folders(tx).Vanish([]mailboxes.Vanishing{{FolderID: f.ID, MessageID: messages[2], AccountID: a.ID, At: 50, Asked: true}}))
		asked, err := mailboxes.Folders(tx).AskedAbout(l.box)
		require.NoError(t, err)
		require.Equal(t, map[int64]int{a.ID: 1}, asked)
		gone, err := mailboxes.Folders(tx).Vanishings(a.ID, 100)
		require.NoError(t, err)
		require.NoError(t, mailboxes.Folders(tx).DropVanished(gone))
		require.NoError(t, mailboxes.Errands(tx).AddErrands(l.box, messages[:3], 10))
		require.NoError(t, mailboxes.Errands(tx).CarryMarks(l.box, idsOf(l.rows[3:])))
		due, err := mailboxes.Errands(tx).Errands(l.box, a.ID, 1000, mailboxes.Errand{}, 10)
		require.NoError(t, err)
		require.NotEmpty(t, due)
		require.NoError(t, mailboxes.Errands(tx).PostponeErrands(due[:1], 5000, "the server said no"))
		waiting, problem, err := mailboxes.Errands(tx).NotCarriedOut(l.box)
		require.NoError(t, err)
		require.Equal(t, 1, waiting)
		require.Equal(t, "the server said no", problem)
		require.NoError(t, mailboxes.Errands(tx).CarriedOut(due))
		newest, err := mailboxes.Errands(tx).NewestOf(l.box, idsOf(l.rows))
		require.NoError(t, err)
		require.Equal(t, messages[0], newest[l.rows[0].ID])
		require.NoError(t, mailboxes.Folders(tx).Renumber(f.ID))
		uids, err = mailboxes.Folders(tx).CopyUIDs(f.ID)
		require.NoError(t, err)
		require.Less(t, uids[0], int64(0))
		require.NoError(t, mailboxes.Folders(tx).DropCopies(f.ID, uids))
		require.NoError(t, mailboxes.Accounts(tx).NoteProgress(a.ID, 10, 3))
		require.NoError(t, mailboxes.Accounts(tx).NoteSync(a.ID, 99, ""))
		all, err := mailboxes.Accounts(tx).Accounts(l.box)
		require.NoError(t, err)
		require.Equal(t, when.Instant(99), all[0].Synced)
		_, err = mailboxes.Accounts(tx).Account(l.box+1000, a.ID)
		require.ErrorIs(t, err, store.ErrNotFound)
		return mailboxes.Accounts(tx).DropAccount(a.ID)
	})
}

// What is held shows nowhere until it is let in, in whichever way it is looked at.
func TestWhatIsHeld(t *testing.T) {
	s := opened(t)
	mustWrite(t, s, func(tx store.Tx) error {
		i := 0
		l, err := live(tx, 12, func(n int) int { // every other one held
			i++
			if n == 6 {
				return 5 * (i % 2)
			}
			return 0
		})
		require.NoError(t, err)
		var held []int64
		for _, r := range l.rows {
			if r.Place == inbox.Held {
				held = append(held, r.ID)
			}
		}
		heaps, err := holding.Held(tx).Heaps(l.box)
		require.NoError(t, err)
		require.Equal(t, len(held), heaps[delivery.StreamPeople].Messages)
		until, err := store.HeldMail(tx).HeldUntil(l.box, delivery.StreamPeople, 1<<40)
		require.NoError(t, err)
		require.ElementsMatch(t, held, until)
		among, err := store.HeldMail(tx).HeldAmong(l.box, idsOf(l.rows))
		require.NoError(t, err)
		require.ElementsMatch(t, held, among)
		found, err := holding.Held(tx).Matching(l.box, "crate", "", 50)
		require.NoError(t, err)
		require.Len(t, found, len(held))
		came, err := awaiting.Awaited(tx).Held(l.box, idsOf(l.rows))
		require.NoError(t, err)
		require.Empty(t, came, "nobody is waited for")
		waited := followup.FollowUp{UID: fmt.Sprint("held", l.box), Title: "Ask", Status: followup.NeedsAction, Priority: followup.Normal, Waits: followup.Wait{Since: 50}, With: mail.Address{Address: "w0@x.example"}}
		require.NoError(t, store.FollowUps(tx).PutFollowUps(l.box, []followup.FollowUp{waited}))
		came, err = awaiting.Awaited(tx).Held(l.box, idsOf(l.rows))
		require.NoError(t, err)
		var theirs []int64
		for _, m := range came {
			theirs = append(theirs, m.In...)
		}
		require.ElementsMatch(t, held, theirs)
		over, err := awaiting.Awaited(tx).Over(l.box, came)
		require.NoError(t, err)
		for _, r := range over {
			require.True(t, slices.ContainsFunc(came, func(m followup.Came) bool {
				return r.Person == m.From.Address || slices.Contains(m.In, r.ConversationID)
			}), "only what one of them may be the answer to")
		}
		seen := slices.IndexFunc(l.rows, func(r store.Row) bool { return r.Place != inbox.Held })
		its, err := store.Messages(tx).MessagesOf(l.box, l.rows[seen].ID)
		require.NoError(t, err)
		offered := waited.Offer(followup.Candidate{Message: its[0].ID, Conversation: 1 << 40}) // it was in another one
		require.NoError(t, store.FollowUps(tx).PutFollowUps(l.box, []followup.FollowUp{offered}))
		offering, err := awaiting.Awaited(tx).Offering(l.box, idsOf(l.rows))
		require.NoError(t, err)
		require.Len(t, offering, 1)
		require.Equal(t, l.rows[seen].ID, offering[0].Data.Waits.Offers[0].Conversation)
		offering, err = awaiting.Awaited(tx).Offering(l.box, idsOf(l.rows[seen+1:]))
		require.NoError(t, err)
		require.Empty(t, offering)
		if len(held) == 0 {
			return nil
		}
		_, err = store.Messages(tx).ByMessageID(l.box, fmt.Sprintf("%d.%d@x", l.box, slices.IndexFunc(l.rows, func(r store.Row) bool { return r.Place == inbox.Held })))
		require.ErrorIs(t, err, store.ErrNotFound, "it cannot be had by its Message-ID")
		e := store.Entry{BoxID: l.box, PersonID: l.person, Kind: inbox.LetOneIn, At: 9000}
		require.NoError(t, store.Journal(tx).Record(&e))
		in, err := store.HeldMail(tx).ComeIn(l.box, held[:1], inbox.Position{Place: inbox.Inbox, Reason: inbox.LetIn, Since: 9000}, e.ID)
		require.NoError(t, err)
		require.Equal(t, 1, in)
		with, err := store.HeldMail(tx).LetInWith(l.box, e.ID, false)
		require.NoError(t, err)
		require.Equal(t, held[:1], with)
		standing, err := store.HeldMail(tx).Standing(l.box, held[:1], 9000)
		require.NoError(t, err)
		require.Equal(t, held[:1], standing)
		away, err := store.HeldMail(tx).HoldAgain(l.box, held[:1], e)
		require.NoError(t, err)
		require.Equal(t, held[:1], away)
		require.NoError(t, store.HeldMail(tx).Postpone(store.Postponed{BoxID: l.box, Text: "Three came in", ConversationID: 7}))
		told, err := store.HeldMail(tx).TakePostponed(l.box)
		require.NoError(t, err)
		require.Equal(t, "Three came in", told[0].Text)
		require.Equal(t, int64(7), told[0].ConversationID)
		again, err := store.HeldMail(tx).TakePostponed(l.box)
		require.NoError(t, err)
		require.Empty(t, again)
		return nil
	})
}

// People, what is theirs, and what the program keeps for itself.
func TestPeopleAndWhatIsTheirs(t *testing.T) {
	s := opened(t)
	mustWrite(t, s, func(tx store.Tx) error {
		box, err := store.People(tx).MakeBox("Jonas")
		require.NoError(t, err)
		p := store.Person{Name: "Jonas", Address: "jonas@m.example", Week: when.Ordinary("UTC"), Feed: store.HashOf("feed"), Inward: store.HashOf("in")}
		require.NoError(t, store.People(tx).PutPerson(&p, box, []store.OwnAddress{{Address: "jonas@m.example"}, {Address: "j@choir.example", Account: "Choir"}}))
		of, err := store.People(tx).BoxOf(p.ID)
		require.NoError(t, err)
		require.Equal(t, box, of)
		who, err := store.People(tx).Keeper(box)
		require.NoError(t, err)
		require.Equal(t, p.ID, who)
		own, err := store.People(tx).OwnAddresses(box)
		require.NoError(t, err)
		require.Len(t, own, 2)
		for _, find := range []func() (store.Person, error){func() (store.Person, error) { return store.People(tx).PersonByAddress("jonas@m.example") }, func() (store.Person, error) { return store.People(tx).PersonByFeed("feed") }, func() (store.Person, error) { return store.People(tx).PersonByInward("in") }} {
			found, err := find()
			require.NoError(t, err)
			require.Equal(t, p.ID, found.ID)
		}
		require.NoError(t, whereabouts.Whereabouts(tx).SetPersonSite(p.ID, 3))
		site := whereabouts.Site{PersonID: p.ID, Name: "the quay"}
		require.NoError(t, whereabouts.Whereabouts(tx).PutSite(&site))
		require.NoError(t, store.Journal(tx).SetGone(&whereabouts.Site{}, []int64{site.ID}, true))
		sites, err := whereabouts.Whereabouts(tx).Sites(p.ID, false)
		require.NoError(t, err)
		require.Empty(t, sites)
		sites, err = whereabouts.Whereabouts(tx).Sites(p.ID, true)
		require.NoError(t, err)
		require.Len(t, sites, 1)
		require.NoError(t, admission.Admission(tx).PutSession(admission.Session{TokenHash: "t", PersonID: p.ID, Expires: 100, Seen: 40}))
		_, err = admission.Admission(tx).SignedIn("t", 50, 30)
		require.NoError(t, err)
		_, err = admission.Admission(tx).SignedIn("t", 100, 30)
		require.ErrorIs(t, err, store.ErrNotFound)
		_, err = admission.Admission(tx).SignedIn("t", 50, 40)
		require.ErrorIs(t, err, store.ErrNotFound, "it was not used for long")
		require.NoError(t, admission.Admission(tx).UseSession("t", 45))
		_, err = admission.Admission(tx).SignedIn("t", 50, 40)
		require.NoError(t, err)
		require.NoError(t, admission.Admission(tx).KnowBrowser(p.ID, "b", 5))
		known, err := admission.Admission(tx).KnowsBrowser(p.ID, "b")
		require.NoError(t, err)
		require.True(t, known)
		require.NoError(t, store.Journal(tx).Answer(store.Request{PersonID: p.ID, Key: "k", At: 5, Answer: []byte("done")}))
		answer, err := store.Journal(tx).Answered(p.ID, "k")
		require.NoError(t, err)
		require.Equal(t, "done", string(answer))
		require.NoError(t, store.Journal(tx).Wipe(10))
		_, err = store.Journal(tx).Answered(p.ID, "k")
		require.ErrorIs(t, err, store.ErrNotFound)
		require.NoError(t, tx.SetMeta("x", "1"))
		require.NoError(t, tx.SetMeta("x", "2"))
		x, err := tx.Meta("x")
		require.NoError(t, err)
		require.Equal(t, "2", x)
		template := drafting.Template{PersonID: p.ID}
		template.Name, template.Text = "Thanks", "Thank you"
		require.NoError(t, drafting.Drafts(tx).PutTemplate(&template))
		all, err := drafting.Drafts(tx).Templates(p.ID)
		require.NoError(t, err)
		require.Len(t, all, 1)
		_, err = drafting.Drafts(tx).Template(p.ID+1, template.ID)
		require.ErrorIs(t, err, store.ErrNotFound)
		require.NoError(t, drafting.Drafts(tx).DropTemplate(p.ID, template.ID))
		l, err := live(tx, 2, func(n int) int { return 0 })
		require.NoError(t, err)
		d := drafting.Draft{PersonID: p.ID, BoxID: l.box, ConversationID: l.rows[0].ID, Text: "Dear", Changed: 5, AccountID: 9}
		require.NoError(t, drafting.Drafts(tx).PutDraft(&d))
		begun, err := drafting.Drafts(tx).Drafts(p.ID, idsOf(l.rows))
		require.NoError(t, err)
		require.Equal(t, map[int64]bool{l.rows[0].ID: true}, begun)
		require.NoError(t, drafting.Drafts(tx).AddDraftFile(&drafting.DraftFile{DraftID: d.ID, Name: "a.txt", Size: 1, Content: []byte("a")}))
		files, err := drafting.Drafts(tx).DraftFiles(d.ID)
		require.NoError(t, err)
		require.Nil(t, files[0].Content)
		require.NoError(t, drafting.Drafts(tx).DropDraftFile(d.ID, files[0].ID))
		require.NoError(t, drafting.Drafts(tx).PutDraftCopy(drafting.DraftCopy{AccountID: 9, MessageID: "d@x", DraftID: d.ID}))
		kept, err := drafting.Drafts(tx).DraftCopies(9)
		require.NoError(t, err)
		require.Len(t, kept, 1)
		require.NoError(t, drafting.Drafts(tx).DropDraftCopy(kept[0]))
		from, err := drafting.Drafts(tx).DraftsFrom(p.ID, 9)
		require.NoError(t, err)
		require.Len(t, from, 1)
		require.NoError(t, drafting.Drafts(tx).SetDraftSent(d.ID, 4))
		_, err = drafting.Drafts(tx).DraftByID(l.box, p.ID, d.ID)
		require.ErrorIs(t, err, store.ErrNotFound, "it shows nowhere")
		recent, err := store.Correspondents(tx).Recent(l.box, 10)
		require.NoError(t, err)
		require.Len(t, recent, 5)
		named, err := store.Correspondents(tx).Addresses(l.box, []string{"w0@x.example"})
		require.NoError(t, err)
		require.Equal(t, "W0", named["w0@x.example"])
		return nil
	})
}
