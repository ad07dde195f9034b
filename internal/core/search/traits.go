package search

import (
	"slices"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Traits are what some message of a conversation is like, a bit each. A conversation that
// lacks one has no such message; one that has it may have lost the message since.
type Traits int64

// The traits; six kinds of files are the lowest bits, languages the highest.
const (
	Own       Traits = 1 << (6 + iota) // the reader has written in it
	WithFiles                          // it has files
	firstLanguage
)

// languageBits is how many bits there are for languages; several share one.
const languageBits = 32

// traitsOfFiles are in the order of their bits.
var traitsOfFiles = []FileKind{Pictures, PDFs, Texts, Tables, Calendars, Archives}

// TraitsOf gives those of a message.
func TraitsOf(files []mail.File, own bool, language when.Language) (t Traits) {
	for i, k := range traitsOfFiles {
		if slices.ContainsFunc(files, k.Is) {
			t |= 1 << i
		}
	}
	if len(files) > 0 {
		t |= WithFiles
	}
	if own {
		t |= Own
	}
	return t | traitOf(language)
}

// traitOf is the bit of a language, by its two letters (ISO 639-1).
func traitOf(l when.Language) Traits {
	if len(l) < 2 {
		return 0
	}
	return firstLanguage << ((int(l[0])*26 + int(l[1])) % languageBits)
}

// Traits are those that whatever matches q has.
func (q Query) Traits() (t Traits) {
	if i := slices.Index(traitsOfFiles, q.FilesOf); i >= 0 {
		t |= 1<<i | WithFiles
	}
	if q.Files {
		t |= WithFiles
	}
	if q.Answered {
		t |= Own
	}
	return t | traitOf(q.Language)
}
