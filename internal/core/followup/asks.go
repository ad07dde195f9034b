package followup

import (
	"regexp"
	"slices"
	"strings"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// AskKind is what kind of answer somebody asks for.
type AskKind string

// The kinds of what is asked.
const (
	AskTime    AskKind = "time"    // when
	AskChoice  AskKind = "choice"  // which of two
	AskWhether AskKind = "whether" // yes or no
	AskDoing   AskKind = "doing"   // to do something, said as no question
	AskFact    AskKind = "fact"    // who, what, how many
)

// Ask is one thing that a message asks of its reader.
type Ask struct {
	Kind    AskKind
	Words   string   // the sentence that asks
	Choices []string // of AskChoice: the two, as they are said
	title   string   // what is to be done, in English; empty where that is not sure
	from    int      // where it stands in the text, in bytes
}

// mostAsks is how many things of one message are looked at.
const mostAsks = 6

// plainQuestion is up to how many bytes a question that begins in no known way can be
// a title.
const plainQuestion = 60

// asking is how a language asks: what the sentences of letters are told apart by.
type asking struct {
	please  *regexp.Regexp // asks without a question
	time    *regexp.Regexp // asks when
	fact    *regexp.Regexp // a question that is answered by neither yes nor no begins so
	lead    *regexp.Regexp // what stands before a question: "und", "Guten Tag,"
	choice  *regexp.Regexp // one of two
	between *regexp.Regexp // words that lead to the first of two
}

const (
	twoOf  = `(?i)([\pL\d'’-]+(?: [\pL\d'’-]+){0,3}),? `
	orElse = ` (?:the |to )?([\pL\d'’-]+(?: [\pL\d'’-]+){0,3}?)(?: (?:for|in|on|at|of|with|from|für|pour|para) [^?]*)?\s*\?`
)

// askingIn are the languages whose letters are understood besides English.
var askingIn = map[when.Language]*asking{
	when.German: {
		please:  regexp.MustCompile(`(?i)\b(?:bitte|brauche|brauchen wir|benötige|benötigen|würde mich freuen|wären dankbar)\b`),
		time:    regexp.MustCompile(`(?i)\b(?:wann|welcher (?:tag|termin)|welchen (?:tag|termin)|welche (?:woche|uhrzeit)|wie (?:früh|spät|bald))\b`),
		fact:    regexp.MustCompile(`(?i)^(?:wer|wen|wem|wessen|was|welche[rsn]?|wo|woher|wohin|warum|wie|wie viele?)\b`),
		lead:    regexp.MustCompile(`(?i)^(?:und|oder|aber|also|dann|(?:guten (?:tag|morgen|abend)|hallo|liebe[r]? [^,]+|sehr geehrte[r]? [^,]+),)\s+`),
		choice:  regexp.MustCompile(twoOf + `oder(?: das| die| der| den)?` + orElse),
		between: regexp.MustCompile(`(?i)^(?:möchten|wollen|mögen|hätten|sie|ihr|du|wir|lieber|das|die|der|den|ein|eine|ist|sind|es|soll|sollen|in|im|mit|nehmen|ich)$`),
	},
	when.French: {
		please:  regexp.MustCompile(`(?i)\b(?:merci de|merci d'|veuillez|s'il vous plaît|s’il vous plaît|j'ai besoin|nous avons besoin|prière de)(?:\b|\s|$)`),
		time:    regexp.MustCompile(`(?i)\b(?:quand|quel jour|quelle (?:date|heure|semaine)|à quelle heure)\b`),
		fact:    regexp.MustCompile(`(?i)^(?:qui|que|quoi|quel(?:le)?s?|où|pourquoi|comment|combien)\b`),
		lead:    regexp.MustCompile(`(?i)^(?:et|ou|mais|donc|(?:bonjour|bonsoir|chère? [^,]+|madame|monsieur),)\s+`),
		choice:  regexp.MustCompile(twoOf + `ou` + orElse),
		between: regexp.MustCompile(`(?i)^(?:préférez-vous|voulez-vous|est-ce|le|la|les|un|une|papier|dois-je|en|par|à)$`),
	},
	when.Spanish: {
		please:  regexp.MustCompile(`(?i)\b(?:por favor|le ruego|les ruego|necesito|necesitamos|agradecería|haga el favor)\b`),
		time:    regexp.MustCompile(`(?i)(?:^|[\s¿,])(?:cuándo|qué (?:día|fecha|semana)|a qué hora)\b`),
		fact:    regexp.MustCompile(`(?i)^(?:quién|quiénes|qué|cuál|cuáles|dónde|por qué|cómo|cuánt[oa]s?)(?:\s|$)`),
		lead:    regexp.MustCompile(`(?i)^(?:¿|y|o|pero|entonces|(?:buenos días|buenas tardes|hola|estimad[oa] [^,:]+|querid[oa] [^,:]+)[,:])\s*`),
		choice:  regexp.MustCompile(twoOf + `o(?: el| la)?` + orElse),
		between: regexp.MustCompile(`(?i)^(?:prefiere|prefieres|quiere|quieres|el|la|los|las|un|una|papel|es|en|por|con)$`),
	},
	when.Norwegian: {
		please:  regexp.MustCompile(`(?i)(?:^|\s)(?:vær så snill|vennligst|jeg trenger|vi trenger|fint om du)(?:\s|$)`),
		time:    regexp.MustCompile(`(?i)(?:^|[\s,])(?:når|hvilken (?:dag|uke|dato)|hvilket tidspunkt)\b`),
		fact:    regexp.MustCompile(`(?i)^(?:hvem|hva|hvilken|hvilket|hvilke|hvor|hvorfor|hvordan)\b`),
		lead:    regexp.MustCompile(`(?i)^(?:og|eller|men|så|(?:god (?:dag|morgen|kveld)|hei|kjære [^,]+),)\s+`),
		choice:  regexp.MustCompile(twoOf + `eller` + orElse),
		between: regexp.MustCompile(`(?i)^(?:vil|du|dere|ha|helst|er|det|den|skal|vi|ta|med|et|en|i|på)$`),
	},
}

var (
	asksTime  = regexp.MustCompile(`(?i)\b(?:when|what time|which (?:day|date|time|week|hour|month)|what (?:day|date)|how (?:soon|early|late)|suits? you|(?:two|other|possible) dates|name (?:two|a) dates?|good time)\b`)
	asksFact  = regexp.MustCompile(`(?i)^(?:(?:for|to|from|with|by|of|in|at|on) )?(?:who|whom|whose|what|which|where|why|how)\b`)
	howAbout  = regexp.MustCompile(`(?i)^(?:how|what) about\b`)
	whichOne  = regexp.MustCompile(`(?i)^(?:and )?(?:which (?:one|of (?:them|these|the two)|would)|what do you prefer)\b`)
	twoDays   = regexp.MustCompile(`(?i)\b(the \d{1,2}(?:st|nd|rd|th)?|[\pL]+day) or (?:on )?(the \d{1,2}(?:st|nd|rd|th)?|[\pL]+day)\b`)
	eitherOr  = regexp.MustCompile(twoOf + `or` + orElse)
	untilWord = regexp.MustCompile(`(?i)\b(?:until|till)\s+(?:the )?$`)
	leadsTo   = regexp.MustCompile(`(?i)^(?:the|to|is|it|in|on|with|want|like|prefer|do|you|be|for|by|a|an|send|shall|should|we|i|have|take|as|would|rather|go|and|book|are)$`)
)

// English says whether l is read as English: what it is, or what is too short to tell.
func (l Source) English() bool {
	return l.Language == when.English || l.Language == when.Undetermined || l.Language == ""
}

// Asks are the things that a letter asks of its reader, in their order. Machines, lists
// and what is in a language whose letters are not understood ask for nothing here.
func Asks(l Source, w when.Week) (out []Ask) {
	t := askingIn[l.Language]
	if l.Kind.Machine() || l.Kind == mail.List || l.Kind == mail.Invitation || t == nil && !l.English() {
		return nil
	}
	who, before := firstName(l.From), ""
	for _, s := range sentences(l.Text) {
		if len(out) == mostAsks {
			break
		}
		var a Ask
		if t != nil {
			a = t.ask(s.text)
		} else if title := ask(s.text, who, l.From); title != "" {
			a = englishAsk(s.text, before)
			a.title = finish(title, who, w, l.Written)
		} else if strings.HasSuffix(s.text, "?") && (l.Language != when.Undetermined || eitherOr.MatchString(s.text)) {
			if a = englishAsk(s.text, before); len(s.text) <= plainQuestion {
				a.title = finish("answer "+who+": "+lowerFirst(strings.TrimRight(s.text, "? "))+"?", who, w, l.Written)
			}
		}
		before = s.text
		if a.Kind == "" {
			continue
		}
		if a.Kind == AskTime && slices.ContainsFunc(w.FindTimes(s.text, l.Language, l.Written), func(f when.Found) bool { return !f.Start.WholeDay() }) {
			a.Kind = AskWhether // the time is proposed already
		}
		a.Words, a.from = s.text, s.from
		out = append(out, a)
	}
	return out
}

// englishAsk tells what kind of answer a sentence asks for that asks something.
func englishAsk(s, before string) (a Ask) {
	bare := strings.TrimRight(s, ".!? ")
	for range 3 {
		bare = strings.TrimSpace(lead.ReplaceAllString(bare, ""))
	}
	switch o := eitherOr.FindStringSubmatch(s); {
	case !strings.HasSuffix(s, "?"):
		if a.Kind = AskDoing; asksTime.MatchString(bare) && letKnow.MatchString(bare) || regexpNames.MatchString(bare) {
			a.Kind = AskTime
		}
	case whichOne.MatchString(bare) && twoDays.MatchString(before):
		m := twoDays.FindStringSubmatch(before)
		a.Kind, a.Choices = AskChoice, m[1:3]
	case asksTime.MatchString(bare):
		a.Kind = AskTime
	case o != nil:
		a.Kind, a.Choices = AskChoice, []string{lastWords(o[1], leadsTo), strings.TrimSpace(o[2])}
	case howAbout.MatchString(bare), !asksFact.MatchString(bare) && !asksFact.MatchString(afterComma(bare)):
		a.Kind = AskWhether
	default:
		a.Kind = AskFact
	}
	return a
}

var regexpNames = regexp.MustCompile(`(?i)\b(?:name|propose|suggest|offer) (?:me |us )?(?:two|a|some|possible) (?:dates?|times?|days?)\b`)

// afterComma is what stands after the last comma of a question; all of it without one.
func afterComma(s string) string {
	if i := strings.LastIndexAny(s, ",:"); i > 0 {
		return strings.TrimSpace(s[i+1:])
	}
	return s
}

// ask tells what a sentence asks for.
func (t *asking) ask(s string) (a Ask) {
	bare := strings.TrimRight(s, ".!? ")
	for range 3 {
		bare = strings.TrimSpace(t.lead.ReplaceAllString(bare, ""))
	}
	if !strings.HasSuffix(s, "?") {
		if t.please.MatchString(bare) {
			a.Kind = AskDoing
		}
		return a
	}
	switch o := t.choice.FindStringSubmatch(s); {
	case t.time.MatchString(bare):
		a.Kind = AskTime
	case o != nil:
		a.Kind, a.Choices = AskChoice, []string{lastWords(o[1], t.between), o[2]}
	case t.fact.MatchString(bare):
		a.Kind = AskFact
	default:
		a.Kind = AskWhether
	}
	return a
}

// lastWords takes away what only leads to the first of two choices.
func lastWords(s string, leads *regexp.Regexp) string {
	words := strings.Fields(s)
	for len(words) > 1 && leads.MatchString(words[0]) {
		words = words[1:]
	}
	return strings.Join(words, " ")
}
