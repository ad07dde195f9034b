package mail

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"ebbe/internal/core/when"
)

func TestTheLanguageOfAText(t *testing.T) {
	for text, want := range map[string]when.Language{
		"Dear Clara,\n\nthe crates arrive on Tuesday and we would like you to be there when they are opened.\n\nBest, Halvard":                                     when.English,
		"Liebe Clara,\n\ndie Kisten kommen am Dienstag, und wir hätten Sie gern dabei, wenn sie geöffnet werden.\n\nHerzlich, Halvard":                             when.German,
		"Chère Clara,\n\nles caisses arrivent mardi et nous aimerions que vous soyez là quand on les ouvrira.\n\nBien à vous":                                      when.French,
		"Querida Clara:\n\nlas cajas llegan el martes y nos gustaría que estuviera presente cuando se abran.\n\nUn saludo":                                         when.Spanish,
		"Cara Clara,\n\nle casse arrivano martedì e ci piacerebbe che lei fosse presente quando verranno aperte.\n\nCordiali saluti":                               when.Italian,
		"Beste Clara,\n\nde kisten komen dinsdag aan en we zouden graag willen dat u erbij bent als ze worden geopend.\n\nGroeten":                                 when.Dutch,
		"Kære Clara,\n\nkasserne kommer på tirsdag, og vi vil meget gerne have, at du er der, når de bliver åbnet. Giv besked, hvis du ikke kan.\n\nMange hilsner": when.Danish,
		"Kjære Clara,\n\nkassene kommer på tirsdag, og vi vil veldig gjerne at du er der når de blir åpnet. Gi beskjed hvis du ikke kan.\n\nVennlig hilsen":        when.Norwegian,
		"Kära Clara,\n\nlådorna kommer på tisdag och vi skulle gärna vilja att du är där när de öppnas. Hör av dig om du inte kan.\n\nVänliga hälsningar":          when.Swedish,
		"Cara Clara,\n\nas caixas chegam na terça-feira e gostaríamos que estivesse presente quando forem abertas.\n\nCom os melhores cumprimentos":                when.Portuguese,
		"Droga Claro,\n\nskrzynie przyjadą we wtorek i chcielibyśmy, żeby pani była przy ich otwarciu.\n\nPozdrawiam":                                              when.Polish,
		"ok": when.Undetermined,
		"":   when.Undetermined,
		"Danke, das passt uns am Freitag sehr gut, wir bringen die Unterlagen mit.\n\n> " + strings.Repeat("And here is a long English text that somebody else wrote before. ", 20): when.German,
	} {
		require.Equal(t, want, LanguageOf(text), text)
	}
}

// A text of numbers and names looks like any language: it is in that of which it has a
// common word.
func TestNumbersAndNamesAreInNoLanguage(t *testing.T) {
	for text, is := range map[string]when.Language{
		"Bill number HP-2026-1177, the quay store.\n\nAmount due: € 120.00\nDue date: 14 December 2026\n\nHarbour Power\n": when.English,
	} {
		require.Equal(t, is, LanguageOf(text), text)
	}
}
