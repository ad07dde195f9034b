package mail

import (
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/abadojack/whatlanggo"

	"ebbe/internal/core/when"
)

// languages are those that Ebbe reads, as the package that tells them apart has them.
var languages = map[whatlanggo.Lang]when.Language{whatlanggo.Eng: when.English, whatlanggo.Deu: when.German, whatlanggo.Fra: when.French, whatlanggo.Spa: when.Spanish, whatlanggo.Ita: when.Italian,
	whatlanggo.Nld: when.Dutch, whatlanggo.Dan: when.Danish, whatlanggo.Nob: when.Norwegian, whatlanggo.Swe: when.Swedish, whatlanggo.Por: when.Portuguese, whatlanggo.Pol: when.Polish}

// near are languages that are hard to tell apart in a few lines, and in which times are
// said in nearly the same words.
var near = [][]whatlanggo.Lang{{whatlanggo.Dan, whatlanggo.Nob}, {whatlanggo.Spa, whatlanggo.Por}}

// among are all languages but those near to l.
func among(l whatlanggo.Lang) whatlanggo.Options {
	set := map[whatlanggo.Lang]bool{}
	for x := range languages {
		set[x] = true
	}
	for _, group := range near {
		for _, x := range group {
			if slices.Contains(group, l) && x != l {
				delete(set, x)
			}
		}
	}
	return whatlanggo.Options{Whitelist: set}
}

const (
	languageIn = 2000 // bytes of a text that are looked at for its language
	enoughText = 120  // characters from which a likely language is taken for one
)

// LanguageOf tells in which of the languages that Ebbe reads its sender wrote a text;
// when.Undetermined where there is too little to tell. What they quote does not count.
func LanguageOf(text string) when.Language {
	var own strings.Builder
	for _, b := range Fold(text) {
		if !b.Quoted && own.Len() < languageIn {
			own.WriteString(b.Text[:min(len(b.Text), languageIn)])
			own.WriteByte('\n')
		}
	}
	said := strings.ToValidUTF8(own.String(), "")
	sure := func(found whatlanggo.Info) bool {
		return found.IsReliable() || found.Confidence > 0.3 && utf8.RuneCountInString(said) >= enoughText
	}
	found := whatlanggo.DetectWithOptions(said, among(-1))
	if l, ok := languages[found.Lang]; ok && (sure(found) || sure(whatlanggo.DetectWithOptions(said, among(found.Lang)))) {
		return l
	}
	return when.Undetermined
}
