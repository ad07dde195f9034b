package texting

import (
	"encoding/json"
	"os"
	"strings"
	"testing"
	"unicode/utf16"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// The same table is held against the front end's count.
func TestHowLongATextIs(t *testing.T) {
	raw, err := os.ReadFile("testdata/sizes.json")
	require.NoError(t, err)
	var table []struct {
		Name, Text string
		Repeat     int
		Size
	}
	require.NoError(t, json.Unmarshal(raw, &table))
	require.Greater(t, len(table), 10)
	for _, c := range table {
		require.Equal(t, c.Size, Measure(strings.Repeat(c.Text, c.Repeat)), c.Name)
	}
}

// Whatever is written: its parts are the text, each has room for its own, and there is one fewer
// only where the others had no room.
func TestPartsOfAText(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		runes := rapid.SampledFrom([]rune("aÅ€[\n{“ı🐚 ")).Draw
		var b strings.Builder
		for range rapid.IntRange(0, 700).Draw(t, "length") {
			b.WriteRune(runes(t, "character"))
		}
		text := b.String()
		parts, size := Parts(text), Measure(text)
		require.Equal(t, text, strings.Join(parts, ""))
		require.Len(t, parts, size.Parts)
		length := func(s string) (n int) { // a slow reference
			if AlphabetOf(text) == UCS2 {
				return len(utf16.Encode([]rune(s)))
			}
			for _, r := range s {
				if n++; strings.ContainsRune("\f^{}\\[~]|€", r) {
					n++
				}
			}
			return n
		}
		most := map[bool]map[Alphabet]int{true: {GSM7: 160, UCS2: 70}, false: {GSM7: 153, UCS2: 67}}[len(parts) == 1][AlphabetOf(text)]
		for i, p := range parts {
			require.LessOrEqual(t, length(p), most)
			if i+1 < len(parts) {
				next := string([]rune(parts[i+1])[:1])
				require.Greater(t, length(p)+length(next), most, "a part is as full as it can be")
			}
		}
		require.Equal(t, most-length(parts[len(parts)-1]), size.Left)
		require.Equal(t, length(text), size.Units)
	})
}

func TestNumbersInEveryWayOfWriting(t *testing.T) {
	for _, text := range []string{"+47 22 85 50 50", "+4722855050", "0047 22 85 50 50", "22 85 50 50", "22855050", "(+47) 22-85-50-50", "tel:+47-22-85-50-50", " +47.22.85.50.50 ", "２２８５５０５０"} {
		n, err := ReadNumber(text, "no")
		require.NoError(t, err, text)
		require.Equal(t, Number("+4722855050"), n, text)
	}
	require.Equal(t, "+47 22 85 50 50", Number("+4722855050").Say())
	require.Equal(t, "NO", Number("+4722855050").Region())
	require.Equal(t, "GB", Number("+441632960145").Region(), "also of a number that nobody can have")
	at, ok := NumberOf(Number("+4722855050").Address())
	require.True(t, ok)
	require.Equal(t, Number("+4722855050"), at)
	for text, says := range map[string]string{"": "no telephone number", "ask Jonas": "no telephone number", "12": "no telephone number", "+999 1": "no telephone number", strings.Repeat("2", 200): "no telephone number"} {
		_, err := ReadNumber(text, "NO")
		require.ErrorContains(t, err, says, text)
	}
	_, err := ReadNumber("22 85 50 50", "")
	require.ErrorContains(t, err, "begin with + and its code")
	_, ok = NumberOf("solvei@museum.example")
	require.False(t, ok)
}

func TestWhoSendsTexts(t *testing.T) {
	a, answers := Sender("004722855050", "NO")
	require.True(t, answers)
	require.Equal(t, mail.Address{Name: "+47 22 85 50 50", Address: "+4722855050@text.invalid"}, a)
	require.Equal(t, "Texts with +47 22 85 50 50", Subject(a))
	for from, want := range map[string]mail.Address{
		"Skagvik Ferry":        {Name: "Skagvik Ferry", Address: "skagvik-ferry@text.invalid"},
		"2020":                 {Name: "2020", Address: "2020@text.invalid"},
		"\r\nBcc: a@b.example": {Name: "Bcc: a@b.example", Address: "bcc--a-b-example@text.invalid"},
		"…":                    {Name: "Nobody", Address: "nobody@text.invalid"},
	} {
		a, answers := Sender(from, "NO")
		require.False(t, answers, from)
		require.Equal(t, want, a)
		require.True(t, IsText(a.Address))
	}
	line := Number("+4721000000")
	require.Equal(t, Root(line, a), Root(line, mail.Address{Name: "Mirela", Address: a.Address}), "one conversation, whatever they are called")
	require.NotEqual(t, Root(line, a), Root("+4721000001", a))
}

func TestWordsToStopWith(t *testing.T) {
	own := StopWords{"genug"}
	for text, want := range map[string]Wish{"STOP": Stop, " stop. ": Stop, "Stopp!": Stop, "genug": Stop, "Genug": Stop, "start": Resume, "Stop the crane at nine": Nothing, "": Nothing, "…": Nothing, "non-stop": Nothing} {
		require.Equal(t, want, own.Wish(text), text)
	}
	require.Equal(t, Nothing, StopWords(nil).Wish("genug"))
}

func TestWhenALineAnswersByItself(t *testing.T) {
	const now = 1_764_000_000_000
	for _, c := range []struct {
		a    Answer
		held bool
		last int64
		want bool
	}{
		{Answer{}, true, 0, false}, {Answer{When: Held}, false, 0, false}, {Answer{When: Held}, true, 0, true}, {Answer{When: Always}, false, 0, true},
		{Answer{When: Always}, false, now - 3_600_000, false}, {Answer{When: Always}, false, now - 24*3_600_000, true},
	} {
		require.Equal(t, c.want, c.a.Answers(c.held, when.Instant(c.last), now), "%+v", c)
	}
}

func TestLinesThatCannotBe(t *testing.T) {
	good := Line{Number: "+4721000000", Gateway: Usual()}
	good.Gateway.URL = "https://gateway.example/texts"
	require.NoError(t, good.Valid())
	for says, change := range map[string]func(*Line){
		"its number":            func(l *Line) { l.Number = "" },
		"no web address":        func(l *Line) { l.Gateway.URL = "gateway" },
		"begin with https":      func(l *Line) { l.Gateway.URL = "http://gateway.example/texts" },
		"JSON or a form":        func(l *Line) { l.Gateway.Kind = "xml" },
		"one signs in":          func(l *Line) { l.Gateway.Auth = "" },
		"name to sign in":       func(l *Line) { l.Gateway.Auth = Basic },
		"line break":            func(l *Line) { l.Gateway.Sign.Header = "X\r\nY" },
		"anybody could":         func(l *Line) { l.Gateway.Sign.Header = "" },
		"the field of the text": func(l *Line) { l.Gateway.Text = " " },
		"words to stop with":    func(l *Line) { l.Stops = make(StopWords, 30) },
		"600 letters":           func(l *Line) { l.Answer.Text = strings.Repeat("a", 700) },
		"says nothing":          func(l *Line) { l.Answer.When = Always },
		"never, while":          func(l *Line) { l.Answer.When = "sometimes" },
	} {
		l := good
		change(&l)
		require.ErrorContains(t, l.Valid(), says)
	}
	here := good
	here.Gateway.URL = "http://localhost:8080/texts"
	require.NoError(t, here.Valid(), "on this machine nobody listens")
}
