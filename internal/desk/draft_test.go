package desk

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/delivery"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/queue"
	"ebbe/internal/store"
)

// aDraft begins an answer.
func (f *office) aDraft(t testing.TB) composing.DraftView {
	f.fill(t, 1)
	opened, err := f.Reading.Conversation(ctx, f.who, f.queue(t)[0].ID)
	require.NoError(t, err)
	d, err := f.Writing.Begin(ctx, f.who, "", composing.DraftBegun{Mode: writing.Reply, Message: opened.Messages[0].ID})
	require.NoError(t, err)
	return d
}

// texts are what stands in all drafts, sorted.
func (f *office) texts(t testing.TB) (out []string) {
	all, err := f.Writing.Drafts(ctx, f.who)
	require.NoError(t, err)
	for _, d := range all {
		out = append(out, d.Text)
	}
	slices.Sort(out)
	return out
}

// Two windows write one draft: what neither has seen of the other is kept apart, and
// nothing is kept twice.
func TestADraftInTwoWindows(t *testing.T) {
	type change struct {
		writer  string
		version int64
		turn    int64
		text    string
		apart   bool // it is kept apart
	}
	for name, c := range map[string]struct {
		changes []change
		texts   []string
	}{
		"one window": {[]change{{"a", 0, 1, "one", false}, {"a", 1, 2, "two", false}}, []string{"two"}},
		"an answer was lost, so its window does not know the version": {[]change{{"a", 0, 1, "one", false}, {"a", 0, 2, "two", false}}, []string{"two"}},
		"the same change comes twice":                                 {[]change{{"a", 0, 1, "one", false}, {"a", 0, 1, "one", false}}, []string{"one"}},
		"a change comes after a later one":                            {[]change{{"a", 0, 2, "two", false}, {"a", 0, 1, "one", false}}, []string{"two"}},
		"the other has seen it":                                       {[]change{{"a", 0, 1, "one", false}, {"b", 1, 1, "one two", false}}, []string{"one two"}},
		"the other has not seen it":                                   {[]change{{"a", 0, 1, "one", false}, {"b", 0, 1, "two", true}}, []string{"one", "two"}},
		"the other goes on without having heard":                      {[]change{{"a", 0, 1, "one", false}, {"b", 0, 1, "two", true}, {"b", 0, 2, "two three", true}}, []string{"one", "two three"}},
		"both wrote the same":                                         {[]change{{"a", 0, 1, "one", false}, {"b", 0, 1, "one", false}}, []string{"one"}},
		"a program that does not say who writes":                      {[]change{{"a", 0, 1, "one", false}, {"", 0, 0, "two", false}}, []string{"two"}},
	} {
		t.Run(name, func(t *testing.T) {
			f := newOffice(t, store.Options{})
			d := f.aDraft(t)
			file, err := f.Writing.AddFile(ctx, f.who, "file", d.ID, "plan.txt", "text/plain", []byte("A"))
			require.NoError(t, err)
			require.Len(t, file.Files, 1)
			for _, ch := range c.changes {
				v, err := f.Writing.Change(ctx, f.who, "", d.ID, composing.DraftChange{To: d.To, Subject: d.Subject, Text: ch.text, Writer: ch.writer, Version: d.Version + ch.version, Turn: ch.turn})
				require.NoError(t, err)
				require.Equal(t, ch.apart, v.Apart == d.ID)
				require.Equal(t, ch.apart, v.ID != d.ID)
				require.Len(t, v.Files, 1, "its files go with it")
			}
			require.Equal(t, c.texts, f.texts(t))
		})
	}
}

// However two windows take turns, whatever is lost, repeated or late on the way: the
// last that either has written stands in a draft, or was seen by the one that
// replaced it.
func TestNothingWrittenInTwoWindowsIsLost(t *testing.T) {
	base := newOffice(t, store.Options{})
	rapid.Check(t, func(r *rapid.T) {
		d, err := base.Writing.Begin(ctx, base.who, "", composing.DraftBegun{Mode: writing.New})
		require.NoError(t, err)
		type window struct {
			name    string
			id      int64
			version int64
			turn    int64
			text    string
			sent    []composing.DraftChange
		}
		run := rapid.StringMatching("[a-z]{12}").Draw(r, "run")
		windows := []*window{{name: run + "a", id: d.ID, version: d.Version}, {name: run + "b", id: d.ID, version: d.Version}}
		deliver := func(w *window, c composing.DraftChange, heard bool) {
			v, err := base.Writing.Change(ctx, base.who, "", w.id, c)
			require.NoError(r, err)
			if heard {
				w.id, w.version = v.ID, max(w.version, v.Version)
			}
		}
		n := 0
		for range rapid.IntRange(1, 12).Draw(r, "steps") {
			w := windows[rapid.IntRange(0, 1).Draw(r, "window")]
			switch rapid.SampledFrom([]string{"type", "type unheard", "late", "look"}).Draw(r, "what") {
			case "type", "type unheard":
				n++
				w.turn++
				w.text += fmt.Sprint(w.name[12:], n, " ")
				c := composing.DraftChange{To: []mail.Address{}, Text: w.text, Writer: w.name, Version: w.version, Turn: w.turn}
				w.sent = append(w.sent, c)
				deliver(w, c, rapid.Bool().Draw(r, "heard"))
			case "late": // what has come once comes once more
				if len(w.sent) > 0 {
					deliver(w, rapid.SampledFrom(w.sent).Draw(r, "which"), false)
				}
			case "look": // a window that has nothing of its own to keep shows what there is
				if w.turn == 0 {
					v, err := base.Writing.Draft(ctx, base.who, w.id)
					require.NoError(r, err)
					w.version, w.text = v.Version, v.Text
				}
			}
		}
		all := strings.Join(base.texts(t), "|")
		for _, w := range windows {
			if w.turn > 0 {
				require.Contains(r, all, w.text, "what %s wrote", w.name)
			}
		}
		drafts, err := base.Writing.Drafts(ctx, base.who)
		require.NoError(r, err)
		require.LessOrEqual(r, len(drafts), 2, "no more drafts than windows")
		for _, v := range drafts {
			require.NoError(r, base.Writing.Drop(ctx, base.who, v.ID))
		}
	})
}

// A draft that another window has changed is not sent as it was not seen.
func TestNothingUnseenIsSent(t *testing.T) {
	f := newOffice(t, store.Options{})
	d := f.aDraft(t)
	seen, err := f.Writing.Change(ctx, f.who, "", d.ID, composing.DraftChange{To: d.To, Subject: d.Subject, Text: "Yes.", Writer: "a", Version: d.Version, Turn: 1})
	require.NoError(t, err)
	_, err = f.Writing.Change(ctx, f.who, "", d.ID, composing.DraftChange{To: d.To, Subject: d.Subject, Text: "Yes. No!", Writer: "b", Version: seen.Version, Turn: 1})
	require.NoError(t, err)
	_, err = f.Writing.Send(ctx, f.who, "send", d.ID, composing.Sending{Version: seen.Version})
	require.ErrorContains(t, err, "changed in another window, so nothing was sent")
	require.Equal(t, []string{"Yes. No!"}, f.texts(t))
	_, err = f.Writing.Send(ctx, f.who, "send", d.ID, composing.Sending{Version: seen.Version + 1})
	require.ErrorContains(t, err, "no account", "as it was seen it would have gone")
}

// What is asked for twice with one key is made once, and answered alike.
func TestAskedTwiceMadeOnce(t *testing.T) {
	f := newOffice(t, store.Options{})
	twice := func(what string, make func() (any, error)) {
		var first string
		for i := range 2 {
			v, err := make()
			require.NoError(t, err, what)
			raw, err := json.Marshal(v)
			require.NoError(t, err)
			if i == 0 {
				first = string(raw)
			}
			require.Equal(t, first, string(raw), what)
		}
	}
	twice("draft", func() (any, error) {
		return f.Writing.Begin(ctx, f.who, "k1", composing.DraftBegun{Mode: writing.New})
	})
	drafts, err := f.Writing.Drafts(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, drafts, 1)
	twice("file", func() (any, error) {
		return f.Writing.AddFile(ctx, f.who, "k2", drafts[0].ID, "a.txt", "text/plain", []byte("A"))
	})
	v, err := f.Writing.Draft(ctx, f.who, drafts[0].ID)
	require.NoError(t, err)
	require.Len(t, v.Files, 1)
	twice("template", func() (any, error) {
		return f.Writing.PutTemplate(ctx, f.who, "k3", composing.TemplateView{Template: writing.Template{Name: "Thanks", Text: "Thank you."}})
	})
	twice("list", func() (any, error) {
		return nil, f.Queue.PutSavedList(ctx, f.who, "k4", queue.SavedList{Name: "Unread", Query: search.Query{Unread: true}})
	})
	lists, err := f.Queue.SavedLists(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, lists, 1)
	plan := delivery.Plan{Name: "Rounds", People: make([]delivery.Day, 7), Machines: make([]delivery.Day, 7)}
	before, err := f.Delivery.Overview(ctx, f.who)
	require.NoError(t, err)
	twice("plan", func() (any, error) { return f.Delivery.PutPlan(ctx, f.who, "k5", plan, false) })
	after, err := f.Delivery.Overview(ctx, f.who)
	require.NoError(t, err)
	require.Len(t, after.Plans, len(before.Plans)+1)
}
