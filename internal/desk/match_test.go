package desk

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/sorting"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/followups"
	"ebbe/internal/desk/queue"
	"ebbe/internal/desk/rules"
	"ebbe/internal/store"
)

// matter is a conversation as the test knows it.
type matter struct {
	id                              int64
	from, word, account             string
	kind                            mail.Kind
	reach                           mail.Reach
	at                              when.Instant
	unread, starred, flagged, files bool
	label                           int64 // 0: none
	stream                          string
	size                            int
}

// matches is the meaning of a query, said the slow and obvious way. below says
// which label is below which.
func (m matter) matches(q search.Query, below map[int64]int64) bool {
	labelled := m.label == q.Label || below[m.label] == q.Label
	return (q.Words == "" || m.word == q.Words) && (q.From == "" || m.from == q.From) && (q.Account == "" || m.account == q.Account) &&
		(q.Label == 0 || labelled) && (q.Kind == "" || m.kind == q.Kind) && (q.Reach == "" || m.reach == q.Reach) &&
		(!q.Unread || m.unread) && (!q.Starred || m.starred) && (!q.Unstarred || !m.starred) && (!q.Flagged || m.flagged) && (!q.Files || m.files) &&
		(q.Before == 0 || m.at < q.Before) && (q.Stream == "" || m.stream == q.Stream)
}

func (m matter) key(by inbox.Grouping) string {
	switch by {
	case inbox.BySender:
		return m.from
	case inbox.ByKind:
		return string(m.kind)
	case inbox.ByOwner:
		return "0" // in one's own box nobody else has anything
	case inbox.ByAccount:
		return m.account
	case inbox.ByStream:
		return m.stream
	case inbox.BySubject:
		return "matter " + m.word
	case inbox.ByImportance:
		switch is := (sorting.Model{}).Weigh(sorting.Traits{Kind: m.kind, Reach: m.reach}, m.from, m.at).Mille(); {
		case is >= 800:
			return "high"
		case is >= 400:
			return "middle"
		}
		return "low"
	case inbox.ByDay:
		day := m.at.In(time.FixedZone("Oslo in November", 3600)).Format(time.DateOnly)
		if day < "2026-11-11" {
			return string(inbox.Older)
		}
		return day
	}
	switch {
	case m.at >= when.Of(begin.Truncate(24*time.Hour))-3_600_000:
		return string(inbox.ArrivedToday)
	case m.at >= when.Of(begin.Truncate(24*time.Hour))-25*3_600_000:
		return string(inbox.Yesterday)
	}
	return string(inbox.Older)
}

func before(a, b matter, order inbox.Order) int {
	newest := cmp.Or(cmp.Compare(b.at, a.at), cmp.Compare(b.id, a.id))
	switch order {
	case inbox.OldestFirst:
		return -newest
	case inbox.SenderFirst:
		return cmp.Or(strings.Compare(a.from, b.from), newest)
	case inbox.MostImportant:
		return cmp.Or(cmp.Compare(inbox.Rank(a.kind, a.reach), inbox.Rank(b.kind, b.reach)), -newest)
	case inbox.LargestFirst:
		return cmp.Or(cmp.Compare(b.size, a.size), cmp.Compare(b.id, a.id))
	}
	return newest
}

// Whatever the query, grouping and order: the inbox shows what matches, each
// conversation once, in its group and in order.
func TestTheInboxAgainstItsMeaning(t *testing.T) {
	f := newOffice(t, store.Options{})
	s, err := f.Choices.All(ctx, f.who)
	require.NoError(t, err)
	s.Addresses = append(s.Addresses, "solvei@choir.example")
	require.NoError(t, f.choose(s))
	top, err := f.Labels.Make(ctx, f.who, "loans")
	require.NoError(t, err)
	leg, err := f.Labels.Make(ctx, f.who, "loans / leg two")
	require.NoError(t, err)
	below := map[int64]int64{leg.ID: top.ID}

	var matters []matter
	words := []string{"crate", "lorry", "permit"}
	for i := range 60 {
		m := matter{id: int64(i + 1), from: fmt.Sprintf("w%d@x.example", i%7), word: words[i%3], account: me, kind: mail.Person, reach: mail.Alone, unread: true,
			at: when.Of(begin.Add(-time.Duration(i*i) * 11 * time.Minute))}
		to, more := me, []string{"MIME-Version: 1.0"}
		switch i % 5 {
		case 1:
			to, m.reach, m.account = "a@x.example, solvei@choir.example", mail.Named, "solvei@choir.example"
		case 2:
			to, m.reach, more = "a@x.example", mail.Copied, append(more, "Cc: "+me)
		case 3:
			m.kind, more = mail.List, append(more, "List-Id: <x>")
		case 4:
			to, m.reach, m.account, m.kind, more = "all@x.example", mail.Unnamed, "", mail.Notice, append(more, "Auto-Submitted: auto-generated")
		}
		if m.files = i%4 == 0; m.files {
			more = append(more, "Content-Type: application/pdf; name=a.pdf", "Content-Disposition: attachment; filename=a.pdf")
		}
		if m.stream = "people"; m.kind.Machine() || m.kind == mail.List {
			m.stream = "machines"
		}
		raw := note(fmt.Sprintf("%d@x", i), m.from, to, "Matter "+m.word, m.at.Time(), more...) + strings.Repeat("x", i*13%37)
		m.size = len(raw)
		f.take(t, raw)
		if m.starred = i%6 == 0; m.starred {
			f.decide(t, inbox.Star, decide.Decision{Conversations: []int64{m.id}})
		}
		if i%3 == 1 {
			m.unread = false
			f.decide(t, inbox.MarkRead, decide.Decision{Conversations: []int64{m.id}})
		}
		if m.flagged = i%8 == 3; m.flagged {
			f.decide(t, inbox.MakeFollowUp, decide.Decision{Conversations: []int64{m.id}, FollowUp: &followups.NewFollowUp{Title: "Do it", Keep: true}})
		}
		if i%5 < 2 {
			m.label = []int64{top.ID, leg.ID}[i%2]
			f.decide(t, inbox.Label, decide.Decision{Conversations: []int64{m.id}, Add: []int64{m.label}})
		}
		if i%9 == 2 {
			m.stream = []string{"people", "machines"}[i%2]
			f.teach(t, m.id, delivery.Stream(m.stream), rules.ThisOne, "")
		}
		matters = append(matters, m)
	}
	rapid.Check(t, func(rt *rapid.T) {
		flag := func(name string) bool { return rapid.IntRange(0, 4).Draw(rt, name) == 0 }
		q := search.Query{Unread: flag("unread"), Starred: flag("starred"), Flagged: flag("flagged"), Files: flag("files"), Stream: rapid.SampledFrom([]string{"", "", "people", "machines"}).Draw(rt, "stream"),
			Words: rapid.SampledFrom([]string{"", "", "", "lorry"}).Draw(rt, "words"), From: rapid.SampledFrom([]string{"", "", "", "w3@x.example"}).Draw(rt, "from"),
			Kind: rapid.SampledFrom([]mail.Kind{"", "", mail.Person, mail.List}).Draw(rt, "kind"), Reach: rapid.SampledFrom([]mail.Reach{"", "", mail.Alone, mail.Copied}).Draw(rt, "reach"),
			Account: rapid.SampledFrom([]string{"", "", "", me}).Draw(rt, "account"), Label: rapid.SampledFrom([]int64{0, 0, top.ID, leg.ID}).Draw(rt, "label")}
		if q.Unstarred = !q.Starred && flag("unstarred"); flag("old") {
			q.Before = matters[20].at
		}
		a := queue.Arrangement{Group: rapid.SampledFrom(inbox.Groupings).Draw(rt, "group"), Order: rapid.SampledFrom(inbox.Orders).Draw(rt, "order"), Where: q}
		want := map[string][]matter{}
		n := 0
		for _, m := range matters {
			if m.matches(q, below) {
				want[m.key(a.Group)] = append(want[m.key(a.Group)], m)
				n++
			}
		}
		keys, ids := f.groups(t, a)
		require.Len(rt, keys, len(want), "%+v", a)
		for i, key := range keys {
			slices.SortFunc(want[key], func(x, y matter) int { return before(x, y, a.Order) })
			var in []int64
			for _, m := range want[key] {
				in = append(in, m.id)
			}
			require.Equal(rt, in, ids[i], "%s in %+v", key, a)
		}
		m, err := f.Queue.Matching(ctx, f.who, q)
		require.NoError(rt, err)
		require.Equal(rt, n, m.Count)
	})
}
