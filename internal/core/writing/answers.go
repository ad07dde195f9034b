package writing

import (
	"fmt"
	"regexp"
	"strings"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// AnswerLine is one thing that a message asks, with short answers to it. Where it asks
// for nothing Asks is empty, and the answers thank for it.
type AnswerLine struct {
	Asks    string   `json:"asks"`
	Answers []string `json:"answers"`
}

// speech is how short answers are said in a language.
type speech struct {
	yes, doing, fact, told, thanked, nothing []string
	suits, offer, name                       string // a time; two; none is known
	please, either                           string // one of two
	isTold, isThanks                         *regexp.Regexp
}

var speeches = map[when.Language]*speech{
	when.English: {
		yes:   []string{"Yes, gladly.", "No, I am afraid not.", "I have to ask first. I will write to you tomorrow."},
		doing: []string{"I will do it today.", "I will do it this week.", "I am afraid I cannot."},
		fact:  []string{"I will look it up and write to you today.", "I do not know. Who could?"},
		told:  []string{"Thank you, I have it.", "Thank you. I will look at it today."}, thanked: []string{"You are welcome.", "Gladly."}, nothing: []string{"Thank you for telling me.", "Noted, thank you."},
		suits: "%s would suit me.", offer: "I could offer %s or %s. Which is better for you?", name: "Please name two times; I will take one.",
		please: "%s, please.", either: "I have no preference; please choose.",
		isTold:   regexp.MustCompile(`(?i)\b(?:attached|is done|are done|is ready|are ready|for your information|just so you know|follows?|is here|are here|here (?:is|are))\b`),
		isThanks: regexp.MustCompile(`(?i)\b(?:thank you|thanks|many thanks)\b`),
	},
	when.German: {
		yes:   []string{"Ja, gern.", "Leider nein.", "Ich muss erst fragen und schreibe Ihnen morgen."},
		doing: []string{"Das mache ich heute.", "Das erledige ich diese Woche.", "Das kann ich leider nicht."},
		fact:  []string{"Ich sehe nach und schreibe Ihnen heute.", "Das weiß ich nicht. Wer könnte es wissen?"},
		told:  []string{"Danke, ich habe es.", "Danke. Ich sehe es mir heute an."}, thanked: []string{"Gern geschehen.", "Sehr gern."}, nothing: []string{"Danke für die Nachricht.", "Danke, ich habe es notiert."},
		suits: "%s passt mir.", offer: "Ich könnte %s oder %s anbieten. Was passt Ihnen besser?", name: "Bitte nennen Sie zwei Termine; einer davon passt sicher.",
		please: "%s, bitte.", either: "Mir ist beides recht; bitte wählen Sie.",
		isTold:   regexp.MustCompile(`(?i)\b(?:anbei|im anhang|angehängt|hier (?:ist|sind)|zur (?:kenntnis|information)|ist fertig|sind fertig)\b`),
		isThanks: regexp.MustCompile(`(?i)\b(?:danke|vielen dank|herzlichen dank|besten dank)\b`),
	},
	when.French: {
		yes:   []string{"Oui, volontiers.", "Malheureusement non.", "Je dois d'abord demander ; je vous écris demain."},
		doing: []string{"Je le fais aujourd'hui.", "Je m'en occupe cette semaine.", "Je ne peux malheureusement pas."},
		fact:  []string{"Je regarde et je vous écris aujourd'hui.", "Je ne sais pas. Qui pourrait le savoir ?"},
		told:  []string{"Merci, je l'ai bien reçu.", "Merci. Je le regarde aujourd'hui."}, thanked: []string{"Avec plaisir.", "De rien."}, nothing: []string{"Merci de me l'avoir dit.", "C'est noté, merci."},
		suits: "%s me convient.", offer: "Je peux proposer %s ou %s. Qu'est-ce qui vous convient le mieux ?", name: "Proposez deux dates, l'une d'elles convient sûrement.",
		please: "%s, s'il vous plaît.", either: "Je n'ai pas de préférence ; choisissez.",
		isTold:   regexp.MustCompile(`(?i)(?:ci-joint|en pièce jointe|voici|pour information|est prêt|sont prêts)`),
		isThanks: regexp.MustCompile(`(?i)\bmerci (?:beaucoup|pour|à|bien|!)|\b(?:un grand|mille) mercis?\b`),
	},
	when.Spanish: {
		yes:   []string{"Sí, con mucho gusto.", "Lo siento, no.", "Tengo que preguntar antes; le escribo mañana."},
		doing: []string{"Lo hago hoy.", "Me ocupo de ello esta semana.", "Lo siento, no puedo."},
		fact:  []string{"Lo miro y le escribo hoy.", "No lo sé. ¿Quién podría saberlo?"},
		told:  []string{"Gracias, lo tengo.", "Gracias. Lo miro hoy."}, thanked: []string{"De nada.", "Con mucho gusto."}, nothing: []string{"Gracias por avisarme.", "Tomo nota, gracias."},
		suits: "%s me viene bien.", offer: "Puedo ofrecer %s o %s. ¿Cuál le viene mejor?", name: "Proponga dos fechas; una me vendría bien.",
		please: "%s, por favor.", either: "No tengo preferencia; elija usted.",
		isTold:   regexp.MustCompile(`(?i)\b(?:adjunto|adjunta|aquí (?:está|están|tiene)|para su información|está listo|están listos)(?:\s|$|[.,])`),
		isThanks: regexp.MustCompile(`(?i)\bgracias\b`),
	},
	when.Norwegian: {
		yes:   []string{"Ja, gjerne.", "Nei, dessverre.", "Jeg må spørre først og skriver i morgen."},
		doing: []string{"Det gjør jeg i dag.", "Det ordner jeg denne uka.", "Det kan jeg dessverre ikke."},
		fact:  []string{"Jeg ser etter og skriver i dag.", "Det vet jeg ikke. Hvem kan vite det?"},
		told:  []string{"Takk, jeg har fått det.", "Takk. Jeg ser på det i dag."}, thanked: []string{"Bare hyggelig.", "Ingen årsak."}, nothing: []string{"Takk for beskjeden.", "Notert, takk."},
		suits: "%s passer for meg.", offer: "Jeg kan tilby %s eller %s. Hva passer best?", name: "Foreslå to tider; en av dem passer sikkert.",
		please: "%s, takk.", either: "Det er det samme for meg; velg du.",
		isTold:   regexp.MustCompile(`(?i)(?:vedlagt|her er|til orientering|er ferdig|er klar)`),
		isThanks: regexp.MustCompile(`(?i)(?:^|[\s,])(?:tusen takk|mange takk|hjertelig takk|takk)(?:\s|$|[.,!])`),
	},
}

var questionEnd = regexp.MustCompile(`[^.!?\n]*(?:\n[^.!?\n]+)*\?`)

// Questions gives the questions that a text asks in its own words: quoted lines
// and what stands below a signature mark do not count.
func Questions(text string) (out []string) {
	var own strings.Builder
	for line := range strings.SplitSeq(strings.ReplaceAll(text, "\r\n", "\n"), "\n") {
		if line == "-- " || line == "--" {
			break
		}
		if !strings.HasPrefix(strings.TrimSpace(line), ">") {
			own.WriteString(line + "\n")
		}
	}
	for _, q := range questionEnd.FindAllString(own.String(), 20) {
		if i := strings.LastIndex(q, "\n\n"); i >= 0 {
			q = q[i:]
		}
		if q = strings.Join(strings.Fields(q), " "); len(q) > 3 {
			out = append(out, q)
		}
	}
	return out
}

// someEnglish are words by which a few words are English.
var someEnglish = regexp.MustCompile(`(?i)\b(?:the|and|you|we|is|are|for|of|to|thank|thanks|hello|dear|good|here|all)\b`)

// ShortAnswers proposes answers to a letter, a line of them for each thing that it asks
// (followup.Asks) by what kind of answer that wants, in its language: when, which of
// two, whether, or to do something. What asks for nothing may be thanked for. Times
// that suit are those that free gives for an ask, said as at now. To a machine, a list, or what is in a
// language in which Ebbe does not answer nothing is proposed.
func ShortAnswers(l followup.Source, asks []followup.Ask, free func(followup.Ask) []when.Moment, w when.Week, now when.Instant) []AnswerLine {
	language := l.Language
	if l.English() {
		language = when.English
	}
	s := speeches[language]
	if len(asks) == 0 && l.Language == when.Undetermined && !someEnglish.MatchString(l.Text) {
		return nil
	}
	if s == nil || l.Kind.Machine() || l.Kind == mail.List || strings.TrimSpace(l.Text) == "" {
		return nil
	}
	if len(asks) == 0 {
		switch {
		case s.isThanks.MatchString(l.Text):
			return []AnswerLine{{Answers: s.thanked}}
		case s.isTold.MatchString(l.Text):
			return []AnswerLine{{Answers: s.told}}
		}
		return []AnswerLine{{Answers: s.nothing}}
	}
	var out []AnswerLine
	for _, a := range asks {
		line := AnswerLine{Asks: a.Words}
		switch a.Kind {
		case followup.AskTime:
			var times []string
			for _, m := range free(a) {
				times = append(times, sayIn(language, m, w, now))
			}
			line.Answers = s.when(times)
		case followup.AskChoice:
			line.Answers = []string{fmt.Sprintf(s.please, capital(a.Choices[0])), fmt.Sprintf(s.please, capital(a.Choices[1])), s.either}
		case followup.AskWhether:
			line.Answers = s.yes
		case followup.AskDoing:
			line.Answers = s.doing
		default:
			line.Answers = s.fact
		}
		out = append(out, line)
	}
	return out
}

// sayIn says a time as it stands in a sentence of the language: "Thu 26 Nov, 10:00",
// "Donnerstag, 26. November, 10:00".
func sayIn(l when.Language, m when.Moment, w when.Week, now when.Instant) string {
	if l == when.English {
		return w.Say(m, now)
	}
	return l.Say(m.At.In(w.Location()))
}

func (s *speech) when(free []string) (out []string) {
	for _, f := range free[:min(len(free), 2)] {
		out = append(out, fmt.Sprintf(s.suits, f))
	}
	if len(free) > 1 {
		out = append(out, fmt.Sprintf(s.offer, free[0], free[1]))
	}
	return append(out, s.name)
}

func capital(s string) string {
	r := []rune(s)
	if len(r) == 0 {
		return s
	}
	return strings.ToUpper(string(r[:1])) + string(r[1:])
}

// Reminder is what a message says that asks again for an answer: asked are the days on
// which that was asked for, the first first. The tone follows how often that was.
func Reminder(to mail.Address, subject string, asked []string) string {
	about := "“" + mail.Title(subject) + "”"
	switch n := len(asked); {
	case n <= 1:
		day := ""
		if n == 1 {
			day = "on " + asked[0] + " "
		}
		return fmt.Sprintf("Dear %s,\n\n%sI wrote to you about %s and have not heard from you yet. May I ask you for an answer?\n", to.Short(), day, about)
	case n == 2:
		return fmt.Sprintf("Dear %s,\n\nI wrote to you about %s on %s and asked again on %s. Could you tell me how it stands, or when I may expect your answer? A word is enough.\n", to.Short(), about, asked[0], asked[1])
	default:
		return fmt.Sprintf("Dear %s,\n\nsince %s I have asked you %d times about %s, last on %s. I cannot go on without it. Please answer this week, or tell me whom I should ask instead.\n", to.Short(), asked[0], n, about, asked[n-1])
	}
}
