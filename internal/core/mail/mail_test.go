package mail

import (
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/when"
)

func TestSubjects(t *testing.T) {
	for subject, base := range map[string]string{
		"Re: Crate sizes": "crate sizes", "RE: re:  Crate   sizes": "crate sizes", "Fwd: Re: Crate sizes": "crate sizes",
		"AW: WG: Kisten": "kisten", "SV: VS: Kasser": "kasser", "Re[2]: Crate sizes": "crate sizes", "[choir] Re: Alto": "alto",
		"Regarding the crate": "regarding the crate", "Re:": "re:", "": "", "Réunion": "réunion",
	} {
		require.Equal(t, base, BaseSubject(subject), subject)
	}
	require.Equal(t, "Crate sizes", Title("Re: AW: Crate sizes"))
	require.Equal(t, "Fwd: Crate sizes", Title("Re: Fwd: Crate sizes"))
	require.True(t, IsReply("Sv: x"))
	require.False(t, IsReply("Fwd: x"))
}

func TestJoiningBySubjectIsCareful(t *testing.T) {
	day := when.Instant(24 * 3600 * 1000)
	ok := Message{Subject: "Re: Crate sizes", From: Address{Address: "mirela@c.example"}, Date: 100 * day, Kind: Person}
	people := []string{"mirela@c.example", "solvei@m.example"}
	join := func(change func(*Message)) bool {
		m := ok
		change(&m)
		return JoinsBySubject(m, "crate sizes", 99*day, people)
	}
	require.True(t, join(func(*Message) {}))
	require.False(t, join(func(m *Message) { m.Subject = "Crate sizes" }), "not marked as a reply")
	require.False(t, join(func(m *Message) { m.References = []string{"x@y"} }), "refers to something else")
	require.False(t, join(func(m *Message) { m.From.Address = "other@c.example" }), "took no part")
	require.False(t, join(func(m *Message) { m.Date = 200 * day }), "long after")
	require.False(t, join(func(m *Message) { m.Date = 0 }), "nobody knows when")
	require.False(t, join(func(m *Message) { m.Kind = List }), "not from a person")
	require.False(t, JoinsBySubject(Message{Subject: "Re: hi", From: ok.From, Date: ok.Date, Kind: Person}, "hi", 99*day, people), "too short to mean anything")
}

func TestKinds(t *testing.T) {
	for _, c := range []struct {
		name     string
		header   map[string]string
		from     string
		subject  string
		calendar bool
		want     Kind
	}{
		{"a colleague", nil, "jonas@m.example", "Crate", false, Person},
		{"answering by hand", map[string]string{"Auto-Submitted": "no"}, "jonas@m.example", "Crate", false, Person},
		{"a list", map[string]string{"List-Id": "<x>"}, "jonas@m.example", "Crate", false, List},
		{"bulk", map[string]string{"Precedence": "bulk"}, "a@m.example", "Crate", false, List},
		{"a machine", map[string]string{"Auto-Submitted": "auto-generated"}, "a@m.example", "Humidity", false, Notice},
		{"a machine by its address", nil, "no-reply@m.example", "Parcel", false, Notice},
		{"a receipt", nil, "noreply@shop.example", "Receipt for order 17", false, Receipt},
		{"a person about an order", nil, "jonas@m.example", "Your order of crates", false, Person},
		{"an invitation", nil, "jonas@m.example", "Meeting", true, Invitation},
		{"a report", map[string]string{"Content-Type": "multipart/report; report-type=delivery-status"}, "x@m.example", "Undelivered", true, Bounce},
		{"an old bounce", nil, "mailer-daemon@m.example", "Undelivered", false, Bounce},
	} {
		require.Equal(t, c.want, KindOf(func(n string) string { return c.header[n] }, Address{Address: c.from}, c.subject, c.calendar), c.name)
	}
}

func TestFoldingQuotedText(t *testing.T) {
	for _, c := range []struct {
		text string
		want []Block
	}{
		{"Yes.\n\nOn 3 May 2026, Ann wrote:\n> Shall we?\n>\n> Ann\n", []Block{{Text: "Yes.", Quoted: false}, {Text: "On 3 May 2026, Ann wrote:\n> Shall we?\n>\n> Ann", Quoted: true}}},
		{"> Shall we?\n\nYes.\n> And when?\nAt ten.", []Block{{Text: "> Shall we?", Quoted: true}, {Text: "Yes.", Quoted: false}, {Text: "> And when?", Quoted: true}, {Text: "At ten.", Quoted: false}}},
		{"Ja.\r\n\r\nAm 3. Mai 2026 um 10:00 schrieb Ann:\r\n> Kommst du?\r\n", []Block{{Text: "Ja.", Quoted: false}, {Text: "Am 3. Mai 2026 um 10:00 schrieb Ann:\n> Kommst du?", Quoted: true}}},
		{"See below.\n-----Original Message-----\nFrom: Ann\n\nShall we?", []Block{{Text: "See below.", Quoted: false}, {Text: "-----Original Message-----\nFrom: Ann\n\nShall we?", Quoted: true}}},
		{"On Tuesday, Ann wrote:\nnothing was quoted here.", []Block{{Text: "On Tuesday, Ann wrote:\nnothing was quoted here.", Quoted: false}}},
		{"\n\n", nil},
	} {
		got := Fold(c.text)
		require.Len(t, got, len(c.want), "%q: %q", c.text, got)
		for i := range got {
			require.Equal(t, c.want[i], got[i], c.text)
		}
	}
}

func TestShapesAndReach(t *testing.T) {
	require.Equal(t, Shape("Vault 2: 59 % relative humidity"), Shape("Re: Vault 2: 47 % relative humidity"))
	require.Equal(t, Shape("Your order 40817 of 3.11.2026"), Shape("Your order 9 of 24.11.2026"))
	require.NotEqual(t, Shape("Your order 9"), Shape("Your parcel 9"))

	own := map[string]bool{"me@m.example": true, "me@choir.example": true}
	me, choir, other := Address{Address: "me@m.example"}, Address{Address: "me@choir.example"}, Address{Address: "all@m.example"}
	for _, c := range []struct {
		to, cc []Address
		reach  Reach
		at     string
	}{
		{[]Address{me}, nil, Alone, "me@m.example"},
		{[]Address{other, choir}, nil, Named, "me@choir.example"},
		{[]Address{me}, []Address{other}, Named, "me@m.example"},
		{[]Address{other}, []Address{me}, Copied, "me@m.example"},
		{[]Address{other}, nil, Unnamed, ""},
		{nil, nil, Unnamed, ""},
	} {
		reach, at := ReachOf(c.to, c.cc, own)
		require.Equal(t, c.reach, reach)
		require.Equal(t, c.at, at)
	}
}
