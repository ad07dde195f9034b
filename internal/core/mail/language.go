package mail

import (
	"regexp"
	"slices"
	"strings"
	"unicode"
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
	languageIn = 600 // bytes of a text that are looked at for its language
	enoughText = 120 // characters from which a likely language is taken for one
)

// clearly is how many common words tell a language without anything else being looked
// at: what comes in is read thousands a second.
const clearly = 4

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
	common, most, next := mostCommon(said)
	if most >= clearly && 2*next <= most {
		return danishOr(common, said)
	}
	sure := func(found whatlanggo.Info) bool {
		return found.IsReliable() || found.Confidence > 0.3 && utf8.RuneCountInString(said) >= enoughText
	}
	found := whatlanggo.DetectWithOptions(said, among(-1))
	if strings.ContainsAny(said, "¿¡") {
		return when.Spanish
	}
	// The letters of numbers and names look like any language: a common word of another one says more.
	otherwise := most >= 1 && next == 0 && utf8.RuneCountInString(said) < 2*enoughText
	if l, ok := languages[found.Lang]; ok && !(otherwise && l != common) && (sure(found) || sure(whatlanggo.DetectWithOptions(said, among(found.Lang)))) {
		return danishOr(l, said)
	}
	return danishOr(byCommonWords(said), said)
}

// common are words that stand in nearly every letter of a language and in few of the
// others: for a text of a line or two, in which letters tell too little.
var common = map[when.Language]string{
	when.English:    "the and you is are of for with please thank thanks we your have this that it be to on was will i can could",
	when.German:     "der die das und ist sie ich für nicht ein eine bitte danke wir mit ihnen ihre wie auf den dem zu im können haben oder passt anbei ja soll sollen wann",
	when.French:     "le les et est vous pour je pas une merci nous avec votre des du sur pouvez pourriez dans ou bonjour quand voici ci-joint êtes préférez dois devons venez",
	when.Spanish:    "el los las y es usted por para gracias favor su con del podría puede que una muy está están buenos cuándo aquí sí debemos prefiere adjunto viene",
	when.Italian:    "il gli è lei per grazie favore con della che può potrebbe una sono dei buongiorno quando ecco alle entro",
	when.Dutch:      "het een en is u voor niet graag bedankt wij met uw van op kunt ik zijn deze dit wanneer hierbij",
	when.Danish:     "og er jeg du ikke tak med det til vi venlig på af hvornår kan skal vedlagt hej mødet gerne for i en den hvilken passer eller kommer hvor har de fra ta tusind noen jer",
	when.Norwegian:  "og er jeg du ikke takk med det til vi vennligst på av når kan skal vær snill vedlagt hei møtet gjerne hva meg for i en den hvilken passer eller kommer hvor har de fra ta tusen noen dere deg neste vil",
	when.Swedish:    "och är jag du inte tack med det till vi vänligen på av när kan ska att hej mötet gärna",
	when.Portuguese: "o os e é você para obrigado obrigada favor com da que pode uma não são seu sua quando às até",
	when.Polish:     "i jest pan pani dla nie proszę dziękuję z do w na się czy kiedy dzień dobry",
}

var commonIn = func() map[string][]when.Language {
	in := map[string][]when.Language{}
	for l, words := range common {
		for _, w := range strings.Fields(words) {
			in[w] = append(in[w], l)
		}
	}
	return in
}()

// byCommonWords is the language of which a text has most common words, if there is one.
func byCommonWords(text string) when.Language {
	if l, most, next := mostCommon(text); most >= 0.6 && most-next >= 0.2 {
		return l
	}
	return when.Undetermined
}

// mostCommon is the language of which a text has most common words, how many, and how
// many of the next. Each counts by how few languages have it; Danish and Norwegian count
// as one.
func mostCommon(text string) (best when.Language, most, next float64) {
	score := map[when.Language]float64{}
	for _, w := range strings.FieldsFunc(strings.ToLower(text), func(r rune) bool { return !unicode.IsLetter(r) && r != '-' }) {
		for _, l := range commonIn[w] {
			score[l] += 1 / float64(len(commonIn[w]))
		}
	}
	best = when.Undetermined
	for l, n := range score {
		switch {
		case n > most || n == most && l < best:
			best, most, next = l, n, most
		case n > next:
			next = n
		}
	}
	if scandinavian := score[when.Danish] + score[when.Norwegian]; best == when.Danish || best == when.Norwegian { // which of them is told apart below
		delete(score, when.Danish)
		delete(score, when.Norwegian)
		most, next = scandinavian, 0
		for _, n := range score {
			next = max(next, n)
		}
	}
	return best, most, next
}

// Words that are Danish and not Norwegian, and the other way round.
var (
	justDanish    = regexp.MustCompile(`(?i)(?:^|[^\pL])(?:af|hvornår|hej|mig|dig|gerne|hvad|nogen|efter|endnu|møde[rt]?|vedhæftet|kære|hilsner?|uge[rn]?|aften|eftermiddag|venligst|bliver|på tirsdag|næste|weekenden|rummet|\pL{3,}erne)(?:[^\pL]|$)`)
	justNorwegian = regexp.MustCompile(`(?i)(?:^|[^\pL])(?:av|når|hei|meg|deg|gjerne|hva|noen|etter|ennå|vær så snill|vennligst|kjære|hilsen|uke[rn]?|uka|kveld|ettermiddag|blir|hvilken|utgangen|innen|ledig|åpner|åpne|bestille|frist|øvelsen?|neste|desember|helgen|rommet|takk for|\pL*kj\pL+|\pL+[aeiou]ke[rn]?|\pL{2,}[^rR\PL]ene)(?:[^\pL]|$)`)
)

// danishOr tells Danish and Norwegian apart by words that only one of them has.
func danishOr(l when.Language, text string) when.Language {
	if l != when.Danish && l != when.Norwegian {
		return l
	}
	danish, norwegian := len(justDanish.FindAllString(text, -1)), len(justNorwegian.FindAllString(text, -1))
	switch {
	case danish > norwegian:
		return when.Danish
	case norwegian > danish:
		return when.Norwegian
	}
	return l
}

// ScriptOf is the script most of the letters of a text are of, by its name in Unicode; ""
// where that is Latin, or there are few.
func ScriptOf(text string) string {
	if len(text) > 4*languageIn {
		text = strings.ToValidUTF8(text[:4*languageIn], "")
	}
	script := whatlanggo.DetectScript(text)
	for name, s := range unicode.Scripts {
		if s == script && name != "Latin" {
			return name
		}
	}
	return ""
}
