package when

import (
	"slices"
	"strings"
	"time"

	"ebbe/internal/core/when/tongue"
)

// Language is a language in which words about time are read besides English, by its
// code (ISO 639-1).
type Language string

// The languages that are read. English always is.
const (
	German     Language = "de"
	French     Language = "fr"
	Spanish    Language = "es"
	Italian    Language = "it"
	Dutch      Language = "nl"
	Danish     Language = "da"
	Norwegian  Language = "no"
	Swedish    Language = "sv"
	Portuguese Language = "pt"
	Polish     Language = "pl"
)

// What the language of a text can be besides.
const (
	English      Language = "en"
	Undetermined Language = "und" // ISO 639-2: too little to tell
)

// Languages are all languages that are read besides English.
var Languages = []Language{German, French, Spanish, Italian, Dutch, Danish, Norwegian, Swedish, Portuguese, Polish}

func (l Language) tongue() *tongue.Tongue { return tongue.Of(string(l)) }

// Say says a time of a day as it stands in a sentence of l, which is not English:
// "Donnerstag, 26. November, 10:00".
func (l Language) Say(t time.Time) string {
	if of := l.tongue(); of != nil {
		return of.Say(t)
	}
	return t.Format("2006-01-02 15:04")
}

// Name is what the language is called in English.
func (l Language) Name() string {
	if t := l.tongue(); t != nil {
		return t.Name
	}
	return string(l)
}

// InEnglish are the ways in which a phrase can be read: as it stands, and in the words
// of the English grammar for each of the person's languages in which it says something.
func (w Week) InEnglish(phrase string) []string {
	out := []string{phrase}
	var all []string
	for _, l := range w.Languages {
		all = append(all, string(l))
	}
	for _, l := range w.Languages {
		t := l.tongue()
		if t == nil || len(phrase) > maxPhrase {
			continue
		}
		if s := t.English(phrase, false, all); s.Changed && !slices.Contains(out, s.Text) {
			out = append(out, s.Text)
		}
	}
	return out
}

// LanguagesIn are those languages that Ebbe reads among tags such as "de-CH" (BCP 47),
// of which the first twenty are looked at.
func LanguagesIn(tags []string) (out []Language) {
	for _, tag := range tags[:min(len(tags), 20)] {
		code, _, _ := strings.Cut(strings.ToLower(strings.TrimSpace(tag)), "-")
		if code == "nb" || code == "nn" {
			code = string(Norwegian)
		}
		if l := Language(code); l.tongue() != nil && !slices.Contains(out, l) {
			out = append(out, l)
		}
	}
	return out
}

// SayLanguages names the languages in which a person's words about time are read.
func (w Week) SayLanguages() string {
	names := []string{"English"}
	for _, l := range w.Languages {
		names = append(names, l.Name())
	}
	return and(names)
}

func languageNames() string {
	var names []string
	for _, l := range Languages {
		names = append(names, l.Name())
	}
	return and(names)
}
