package when

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// Times in texts of other languages, and their traps: what is said in passing, short
// English words that mean something else, what lies behind.
func TestATextOfAnUnknownLanguageIsReadInThePersonsOwn(t *testing.T) {
	w := Ordinary("Europe/Oslo")
	const text = "Passt Freitag um 9?"
	assert.Empty(t, w.FindTimes(text, Undetermined, tuesday))
	w.Languages = []Language{French, German, "xx"}
	assert.Equal(t, "2026-11-27T09:00", w.FindTimes(text, Undetermined, tuesday)[0].Start.Local)
	assert.Empty(t, w.FindTimes(text, English, tuesday), "what is said to be English is")
}

func TestTimesInTextsOfOtherLanguages(t *testing.T) {
	w := Ordinary("Europe/Oslo")
	for _, c := range []struct {
		language          Language
		text, start, said string
		by                bool
	}{
		{German, "Bitte schicken Sie mir die Maße bis Freitag um 14 Uhr.", "2026-11-27T14:00", "Freitag um 14 Uhr", true},
		{German, "Können wir uns am Donnerstag um halb drei treffen?", "2026-11-26T14:30", "am Donnerstag um halb drei", false},
		{German, "Wir brauchen die Zahl spätestens am 3. Dezember.", "2026-12-03", "3. Dezember", true},
		{German, "Die Sitzung ist am 12.12.2026 von 14 bis 16 Uhr.", "2026-12-12T14:00", "12.12.2026 von 14 bis 16 Uhr", false},
		{German, "Passt Ihnen übermorgen Vormittag?", "2026-11-26T08:00", "übermorgen Vormittag", false},
		{German, "Guten Morgen, das war vor drei Tagen. So 15 Leute kommen, die tue ich auf die Liste, Jan und Mai sind dabei.", "", "", false},
		{French, "Pourriez-vous m'envoyer le devis d'ici vendredi ?", "2026-11-27", "vendredi", true},
		{French, "La réunion a lieu jeudi à 14h30 dans la bibliothèque.", "2026-11-26T14:30", "jeudi à 14h30", false},
		{French, "Merci de répondre avant le 3 décembre.", "2026-12-03", "3 décembre", true},
		{French, "Mon collègue sera là demain à 9 heures.", "2026-11-25T09:00", "demain à 9 heures", false},
		{French, "Mon avis : on en reparle. C'était il y a trois jours, et mon mari est fri.", "", "", false},
		{Spanish, "¿Podría enviarme las medidas antes del viernes?", "2026-11-27", "viernes", true},
		{Spanish, "La reunión es el jueves a las 14:30 en la biblioteca.", "2026-11-26T14:30", "el jueves a las 14:30", false},
		{Spanish, "Necesitamos la cifra a más tardar el 3 de diciembre.", "2026-12-03", "el 3 de diciembre", true},
		{Spanish, "Buenos días. Eso fue hace dos semanas, y son tres en el mar.", "", "", false},
		{Italian, "Può mandarmi le misure entro venerdì?", "2026-11-27", "venerdì", true},
		{Italian, "La riunione è giovedì alle 14:30 in biblioteca.", "2026-11-26T14:30", "giovedì alle 14:30", false},
		{Italian, "Ci serve il numero entro il 3 dicembre.", "2026-12-03", "3 dicembre", true},
		{Italian, "Due giorni fa non c'era. Sat e sun non sono parole.", "", "", false},
		{Dutch, "Kunt u mij de maten uiterlijk vrijdag sturen?", "2026-11-27", "vrijdag", true},
		{Dutch, "Kunnen we donderdag om half drie afspreken?", "2026-11-26T14:30", "donderdag om half drie", false},
		{Dutch, "Graag voor 3 december.", "2026-12-03", "voor 3 december", true},
		{Dutch, "Goedemorgen, dat was drie weken geleden, en zo 15 mensen of tien.", "", "", false},
		{Danish, "Kan du sende mig målene senest fredag?", "2026-11-27", "fredag", true},
		{Danish, "Mødet er torsdag kl. 14.30 i biblioteket.", "2026-11-26T14:30", "torsdag kl. 14.30", false},
		{Danish, "Vi ses på fredag kl. halv tre.", "2026-11-27T14:30", "på fredag kl. halv tre", false},
		{Danish, "God morgen, jeg har fri, og man kan tale om to ting. Det var i fredags.", "", "", false},
		{Norwegian, "Kan du sende meg målene innen fredag?", "2026-11-27", "innen fredag", true},
		{Norwegian, "Møtet er torsdag kl. 14.30 i biblioteket.", "2026-11-26T14:30", "torsdag kl. 14.30", false},
		{Norwegian, "God morgen, jeg har fri, og man kan snakke om to ting.", "", "", false},
		{Swedish, "Kan du skicka måtten senast på fredag?", "2026-11-27", "fredag", true},
		{Swedish, "Mötet är på torsdag kl. 14.30 i biblioteket.", "2026-11-26T14:30", "på torsdag kl. 14.30", false},
		{Swedish, "God morgon, jag har tid på en man och tio barn. Det var i fredags.", "", "", false},
		{Portuguese, "Pode enviar-me as medidas até sexta-feira?", "2026-11-27", "sexta-feira", true},
		{Portuguese, "A reunião é na quinta-feira às 14h30.", "2026-11-26T14:30", "na quinta-feira às 14h30", false},
		{Portuguese, "Bom dia. É a segunda vez, há dois meses não era assim.", "", "", false},
		{Polish, "Proszę przesłać wymiary do piątku.", "2026-11-27", "do piątku", true},
		{Polish, "Spotkanie jest w czwartek o 14:30 w bibliotece.", "2026-11-26T14:30", "w czwartek o 14:30", false},
		{Polish, "Dzień dobry, to było trzy dni temu i ten pan do nas napisał.", "", "", false},
	} {
		found := w.FindTimes(c.text, c.language, tuesday)
		if c.start == "" {
			assert.Empty(t, found, c.text)
			continue
		}
		if assert.NotEmpty(t, found, "%s: %s", c.text, c.language.tongue().English(c.text, true, nil).Text) {
			assert.Equal(t, c.start, found[0].Start.Local, "%s: %s", c.text, c.language.tongue().English(c.text, true, nil).Text)
			assert.Equal(t, c.said, found[0].Text, c.text)
			assert.Equal(t, c.by, found[0].By, "%s: %s", c.text, c.language.tongue().English(c.text, true, nil).Text)
		}
	}
}
