package desk

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/search"
	"ebbe/internal/core/writing"
	"ebbe/internal/desk/composing"
	"ebbe/internal/desk/decide"
	"ebbe/internal/desk/finding"
	"ebbe/internal/post/filetext"
	"ebbe/internal/store"
)

// withFile is a message with a file.
func withFile(id, from, subject, text, name, kind, content string) string {
	return fmt.Sprintf("From: %s\nTo: solvei@m.example\nSubject: %s\nDate: Tue, 24 Nov 2026 09:10:00 +0100\nMessage-ID: <%s>\nMIME-Version: 1.0\nContent-Type: multipart/mixed; boundary=b\n\n--b\nContent-Type: text/plain; charset=utf-8\n\n%s\n--b\nContent-Type: %s\nContent-Disposition: attachment; filename=\"%s\"\nContent-Transfer-Encoding: base64\n\n%s\n--b--\n",
		from, subject, id, text, kind, name, base64.StdEncoding.EncodeToString([]byte(content)))
}

func (f *office) readFiles(t testing.TB) {
	t.Helper()
	f.Finding.Reads = func(_ context.Context, name, kind string, content []byte) (string, error) {
		return filetext.Read(name, kind, content)
	}
	require.NoError(t, f.Finding.ReadFiles(ctx))
}

// found is what a search finds: for each conversation its subject, and the texts that
// were not of messages, with what is marked.
func (f *office) found(t testing.TB, asked string) (subjects []string, places []string, out finding.FoundView) {
	t.Helper()
	out, err := f.Finding.Find(ctx, f.who, asked, false)
	require.NoError(t, err)
	require.Len(t, out.IDs, out.Count)
	for i, s := range out.Slips {
		if subjects = append(subjects, s.Subject); i >= len(out.Places) {
			continue
		}
		p := out.Places[i].Place
		text := string(p.Kind) + " "
		for _, piece := range p.Excerpt {
			if piece.Marked {
				text += "[" + piece.Text + "]"
			}
		}
		places = append(places, text)
	}
	for _, o := range out.Others {
		subjects = append(subjects, string(o.Kind)+": "+o.Title)
	}
	// What is decided about all of these is about exactly these.
	if q := out.Reading.Query; q != (search.Query{}) {
		require.NoError(t, f.store.Read(ctx, func(tx store.Tx) error {
			ids, err := store.Search(tx).IDs(1, 1, q, inbox.NewestFirst)
			require.ElementsMatch(t, ids, out.IDs, asked)
			return err
		}))
	}
	return subjects, places, out
}

func TestEverythingIsFound(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t,
		withFile("a@x", "Mirela Dossett <mirela@coast.example>", "Crates", "The workshop cuts timber on Friday.", "measures.csv", "text/csv", "outer height;118\ninner height;104\n"),
		withFile("b@x", "Tomasz Ilk <tomasz@m.example>", "Plinth", "A picture.", "plinth.png", "image/png", "\x89PNG nothing"),
		letter("c@x", "Halvard Lindqvist <halvard@loan.example>", "Straße nach Łódź"),
		letter("d@x", "quay@harbour.example", "東京都庁より"),
	)
	require.Equal(t, 2, func() int { _, _, out := f.found(t, "crates"); return out.Covers.Unread }(), "files that were not read are said")
	f.readFiles(t)
	f.sound(t)
	id := func(subject string) int64 { return f.by(t, subject).ID }
	f.decide(t, inbox.Rename, decide.Decision{Conversations: []int64{id("Plinth")}, Text: "The stone from Älvdalen"})
	f.decide(t, inbox.WriteNote, decide.Decision{Conversations: []int64{id("Crates")}, Text: "ask about the ramp"})
	f.down(t, "Number the crates for leg two fri 10")
	f.clock.t = f.clock.t.Add(time.Minute)

	for asked, want := range map[string][]string{
		"outer 118":                        {"Crates", "file [outer][118]"},
		"measures.csv":                     {"Crates", "file [measures.csv]"},
		"plinth.png":                       {"Plinth", "file [plinth.png]"},
		"alvdalen":                         {"Plinth", "name [Älvdalen]"},
		"ramp":                             {"Crates", "name [ramp]"},
		"strasse lodz":                     {"Straße nach Łódź", "message "},
		"STRAßE":                           {"Straße nach Łódź", "message "},
		"京都":                               {"東京都庁より", "message "},
		"from mirela timber":               {"Crates", "message [timber]"},
		"timber -friday":                   nil,
		"“timber on friday”":               {"Crates", "message [timber on Friday]"},
		"“on timber”":                      nil,
		"number leg":                       {"follow-up: Number the crates for leg two"},
		"height in files":                  {"Crates", "file [height][height]"},
		"timber in files":                  nil,
		"from halvard since today":         {"Straße nach Łódź", "message "},
		"with files from tomasz":           {"Plinth", "message "},
		"unread from quay@harbour.example": {"東京都庁より", "message "},
		"not answered to me from mirela":   {"Crates", "message "},
	} {
		subjects, places, out := f.found(t, asked)
		require.Empty(t, out.Reading.Doubt, asked)
		if len(want) == 2 {
			require.Equal(t, want, []string{strings.Join(subjects, ", "), strings.Join(places, ", ")}, asked)
		} else {
			require.Equal(t, want, subjects, asked)
		}
	}

	// Names, notes and follow-ups are found as they are now, also after being taken back.
	_, err := f.Journal.TakeBack(ctx, f.who, "")
	require.NoError(t, err)
	subjects, _, _ := f.found(t, "number leg")
	require.Empty(t, subjects)
	f.decide(t, inbox.Rename, decide.Decision{Conversations: []int64{id("Plinth")}, Text: "The other stone"})
	subjects, _, _ = f.found(t, "alvdalen")
	require.Empty(t, subjects)

	// A draft is found with what is typed.
	d, err := f.Writing.Begin(ctx, f.who, "", composing.DraftBegun{Mode: writing.New})
	require.NoError(t, err)
	_, err = f.Writing.Change(ctx, f.who, "", d.ID, composing.DraftChange{Subject: "Lift", Text: "Is there a forklift at the quay?"})
	require.NoError(t, err)
	subjects, _, _ = f.found(t, "forklift")
	require.Equal(t, []string{"draft: Lift"}, subjects)

	// What may have been meant is offered.
	_, _, out := f.found(t, "tibmer")
	require.Equal(t, []finding.Instead{{Word: "timber", Asked: "timber", Count: 1}}, out.Instead)
	f.sound(t)
}

func TestWhatIsFoundIsCounted(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("a@x", "Mirela Dossett <mirela@coast.example>", "Crates one"), letter("b1@x", "Mirela Dossett <mirela@coast.example>", "Crates two"), letter("c12@x", "Tomasz Ilk <tomasz@m.example>", "Crates three"),
		strings.Replace(letter("d@x", "Tomasz Ilk <tomasz@m.example>", "Crates of before"), "2026", "2024", 1))
	l, err := f.Labels.Make(ctx, f.who, "loans")
	require.NoError(t, err)
	f.decide(t, inbox.Label, decide.Decision{Conversations: []int64{f.by(t, "Crates one").ID}, Add: []int64{l.ID}})
	subjects, _, out := f.found(t, "crates")
	require.Equal(t, "Crates of before", subjects[3], "what is old comes after what is new")
	require.Equal(t, []finding.FoundCount{{Name: "Mirela Dossett", Words: "from mirela@coast.example", Count: 2}, {Name: "Tomasz Ilk", Words: "from tomasz@m.example", Count: 2}}, out.People)
	require.Equal(t, []finding.FoundCount{{Name: "2024", Words: "in 2024", Count: 1}, {Name: "2026", Words: "in 2026", Count: 3}}, out.Years)
	require.Equal(t, []finding.FoundCount{{Name: "loans", Words: "label “loans”", Count: 1}}, out.Labels)
	for _, c := range slices.Concat(out.People, out.Years, out.Labels) {
		_, _, narrowed := f.found(t, "crates "+c.Words)
		require.Equal(t, c.Count, narrowed.Count, c.Words)
	}
	f.down(t, "Count the crates fri 10")
	jumps, err := f.Finding.Jump(ctx, f.who, "cra")
	require.NoError(t, err)
	require.Equal(t, finding.Jump{Kind: finding.JumpFollowUp, Name: "Count the crates", Key: f.named(t, "Count the crates").UID}, jumps[0])
	require.Equal(t, []finding.JumpKind{"conversation", "conversation", "conversation", "conversation"}, []finding.JumpKind{jumps[1].Kind, jumps[2].Kind, jumps[3].Kind, jumps[4].Kind})
	for letters, want := range map[string]string{"dos mir": "person Mirela Dossett", "oan": "label loans"} {
		jumps, err := f.Finding.Jump(ctx, f.who, letters)
		require.NoError(t, err)
		require.Equal(t, want, string(jumps[0].Kind)+" "+jumps[0].Name)
	}
	jumps, err = f.Finding.Jump(ctx, f.who, "c")
	require.NoError(t, err)
	require.Empty(t, jumps)
	rest, err := f.Finding.Places(ctx, f.who, "crates", false, 2)
	require.NoError(t, err)
	require.Equal(t, out.IDs[2:], []int64{rest[0].Conversation, rest[1].Conversation})
	for _, asked := range []string{"", "   "} { // all there is
		_, places, out := f.found(t, asked)
		require.Equal(t, 4, out.Count)
		require.Empty(t, places)
	}
	for _, asked := range []string{"“", "-", "!?", strings.Repeat("crate ", 2000)} {
		_, _, out := f.found(t, asked)
		require.Zero(t, out.Count, asked)
	}
}

// An index of before is put in order in the background, and its files are read; broken
// off, it goes on.
func TestAnOlderIndexIsPutInOrder(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, withFile("a@x", "a@x.example", "Straße", "one", "a.txt", "text/plain", "the quay"), letter("b@x", "b@x.example", "Øre"))
	f.exec(t, `DELETE FROM words; DELETE FROM starts; INSERT INTO words(rowid, subject, people, body) SELECT id, subject, from_addr, '' FROM messages; DELETE FROM unread_files; INSERT INTO meta(name, value) VALUES ('unfolded', '2')`)
	subjects, _, _ := f.found(t, "strasse")
	require.Empty(t, subjects)
	broken, stop := context.WithCancel(ctx)
	stop()
	require.Error(t, f.Finding.Refold(broken))
	require.NoError(t, f.Finding.Refold(ctx))
	f.readFiles(t)
	for asked, want := range map[string]string{"strasse": "Straße", "ore": "Øre", "quay": "Straße"} {
		subjects, _, _ = f.found(t, asked)
		require.Equal(t, []string{want}, subjects, asked)
	}
	require.NoError(t, f.Finding.Refold(ctx))
	f.sound(t)
}

// What the files of a held message say is as much out of sight as the message, also where
// its conversation is in view.
func TestFilesOfWhatIsHeldAreOutOfSight(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, letter("a@x", "mirela@coast.example", "Crates"))
	f.plan(t, "every day 14")
	f.arrive(t, strings.Replace(withFile("b@x", "mirela@coast.example", "Re: Crates", "Here it is.", "measures.csv", "text/csv", "anchor;118"), "Message-ID:", "References: <a@x>\nMessage-ID:", 1))
	f.readFiles(t)
	for _, asked := range []string{"anchor", "measures.csv", "anchor in files"} {
		subjects, _, _ := f.found(t, asked)
		require.Empty(t, subjects, asked)
	}
	require.Empty(t, f.find(t, "anchor"))
	f.until(t, "2026-11-24 14:01")
	subjects, _, _ := f.found(t, "anchor")
	require.Equal(t, []string{"Crates"}, subjects)
}

// A file that breaks its reader again and again is left alone, and the others are read.
func TestAFileThatCannotBeReadHoldsUpNothing(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, withFile("a@x", "a@x.example", "One", "x", "good.txt", "text/plain", "the quay"), withFile("b@x", "b@x.example", "Two", "x", "bad.txt", "text/plain", "bad"))
	f.Finding.Reads = func(_ context.Context, name, _ string, content []byte) (string, error) {
		if name == "bad.txt" {
			return "", filetext.ErrTooLong
		}
		return string(content), nil
	}
	require.NoError(t, f.Finding.ReadFiles(ctx))
	subjects, _, out := f.found(t, "quay")
	require.Equal(t, []string{"One"}, subjects)
	require.Zero(t, out.Covers.Unread)
	subjects, _, _ = f.found(t, "bad.txt")
	require.Equal(t, []string{"Two"}, subjects)

	// A program that stops, and one that cannot begin a reader, say nothing of a file.
	f.take(t, withFile("d@x", "d@x.example", "Four", "x", "later.txt", "text/plain", "the anchor"))
	for range 4 {
		stopped, stop := context.WithCancel(ctx)
		f.Finding.Reads = func(context.Context, string, string, []byte) (string, error) {
			stop()
			return "", context.Canceled
		}
		require.ErrorIs(t, f.Finding.ReadFiles(stopped), context.Canceled)
		f.Finding.Reads = func(context.Context, string, string, []byte) (string, error) { return "", filetext.ErrNoReader }
		require.ErrorIs(t, f.Finding.ReadFiles(ctx), filetext.ErrNoReader)
	}
	f.readFiles(t)
	subjects, _, _ = f.found(t, "anchor")
	require.Equal(t, []string{"Four"}, subjects)

	f.take(t, withFile("c@x", "c@x.example", "Three", "x", "stops.txt", "text/plain", "x"))
	f.Finding.Reads = func(context.Context, string, string, []byte) (string, error) { panic("the program ends") }
	for range 5 { // it is begun three times, and then no more
		func() {
			defer func() { _ = recover() }()
			_ = f.Finding.ReadFiles(ctx)
		}()
	}
	require.NoError(t, f.Finding.ReadFiles(ctx))
	f.sound(t)
}

// What is found is what a slow walk over all texts finds, whatever is asked.
func TestFindingAgainstItsMeaning(t *testing.T) {
	vocabulary := []string{"crate", "crates", "lid", "quay", "permit", "Straße", "東京都", "plinth"}
	rapid.Check(t, func(rt *rapid.T) {
		f := newOffice(t, store.Options{})
		words := func(n int) string {
			return strings.Join(rapid.SliceOfN(rapid.SampledFrom(vocabulary), 1, n).Draw(rt, "words"), " ")
		}
		type text struct{ subject, people, body string }
		of := map[string][]text{}
		for i := range rapid.IntRange(1, 8).Draw(rt, "messages") {
			from, subject, body := rapid.SampledFrom([]string{"mirela@coast.example", "tomasz@m.example"}).Draw(rt, "from"), fmt.Sprintf("s%d %s", i, words(2)), words(4)
			if rapid.Bool().Draw(rt, "file") {
				says := words(3)
				f.take(t, withFile(fmt.Sprint(i, "@x"), from, subject, body, "a.txt", "text/plain", says))
				of[subject] = []text{{subject, from + " solvei@m.example a.txt", body}, {"a.txt", from + " " + subject, says}}
			} else {
				f.take(t, strings.Replace(letter(fmt.Sprint(i, "@x"), from, subject), "body of "+fmt.Sprint(i, "@x"), body, 1))
				of[subject] = []text{{subject, from + " solvei@m.example", body}}
			}
		}
		f.readFiles(t)
		for subject, texts := range of {
			if rapid.IntRange(0, 3).Draw(rt, "note") == 0 {
				note := words(2)
				f.decide(t, inbox.WriteNote, decide.Decision{Conversations: []int64{f.by(t, subject).ID}, Text: note})
				of[subject] = append(texts, text{"", texts[0].people, note})
			}
		}
		asked := rapid.SampledFrom([]string{"", "-", "“"}).Draw(rt, "how") + words(1) + " " + rapid.SampledFrom([]string{"", "lid", "-quay", "cra", "“crate lid”", "from mirela"}).Draw(rt, "more")
		_, _, out := f.found(t, asked)
		q := out.Reading.Query
		var want []string
		for subject, texts := range of {
			has := slices.ContainsFunc(texts, func(x text) bool {
				return search.Saying(x.subject, x.people, x.body)(q.Terms(), false) && (q.Writer == "" || strings.Contains(texts[0].people, "mirela"))
			})
			if !search.Sought(q.Terms()) { // without a word that must be there, none of its messages says it
				has = search.Saying(texts[0].subject, texts[0].people, texts[0].body)(q.Terms(), false) && (q.Writer == "" || strings.Contains(texts[0].people, "mirela"))
			}
			if has {
				want = append(want, subject)
			}
		}
		var got []string
		for _, s := range out.Slips {
			got = append(got, s.Subject)
		}
		require.ElementsMatch(rt, want, got, "%q", asked)
	})
}

// A message that has but HTML is found with the place that says it; where the words stand
// in its people alone there is no place, and that is no null.
func TestTheTextOfHTMLIsShownWhereItIsFound(t *testing.T) {
	f := newOffice(t, store.Options{})
	f.take(t, "From: Letters <letters@type.example>\nTo: solvei@m.example\nSubject: Two things\nMessage-ID: <h@x>\nContent-Type: text/html\n\n<p>The <b>anchor</b> is in the yard.</p>\n")
	_, places, _ := f.found(t, "anchor")
	require.Equal(t, []string{"message [anchor]"}, places)
	_, _, out := f.found(t, "letters")
	raw, err := json.Marshal(out)
	require.NoError(t, err)
	require.NotContains(t, string(raw), "null")
	_, _, out = f.found(t, "from letters")
	raw, err = json.Marshal(out)
	require.NoError(t, err)
	require.NotContains(t, string(raw), "null")
}

// What somebody sent as a file is asked of their message, not of what others sent in the
// same conversation; with words alone it is asked of the conversation.
func TestAFileIsOfWhomIsAskedFor(t *testing.T) {
	f := newOffice(t, store.Options{})
	in := func(message, of string) string {
		return strings.Replace(message, "Message-ID:", "References: <"+of+">\nMessage-ID:", 1)
	}
	f.take(t,
		letter("a@x", "Mirela Dossett <mirela@coast.example>", "Crates"),
		in(withFile("b@x", "Tomasz Ilk <tomasz@m.example>", "Re: Crates", "Drawn.", "crates.pdf", "application/pdf", "no pdf at all"), "a@x"),
		letter("c@x", "Tomasz Ilk <tomasz@m.example>", "Lids"),
		in(withFile("d@x", "Mirela Dossett <mirela@coast.example>", "Re: Lids", "Measured.", "lids.csv", "text/csv", "lid;12"), "c@x"),
	)
	f.readFiles(t)
	for asked, want := range map[string][]string{
		"from mirela with pdf":           nil,
		"from tomasz with pdf":           {"Crates"},
		"from mirela with files":         {"Lids"},
		"from mirela with tables lid":    {"Lids"},
		"from tomasz with tables":        nil,
		"body with pdf":                  {"Crates"},
		"from mirela larger than 1 kb":   nil,
		"with mirela measured with pdf":  nil,
		"to me drawn with pdf":           {"Crates"},
		"since today with tables":        {"Lids"},
		"from mirela or tomasz with pdf": {"Crates"},
	} {
		subjects, _, _ := f.found(t, asked)
		require.Equal(t, want, subjects, asked)
	}
}
