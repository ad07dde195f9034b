package writing

import (
	"fmt"
	"regexp"
	"strings"

	"ebbe/internal/core/mail"
)

// Free is a time at which the user has nothing else, as it is said in a
// sentence: "Thu 26 Nov, 10:00".
type Free string

var (
	questionEnd = regexp.MustCompile(`[^.!?\n]*(?:\n[^.!?\n]+)*\?`)
	aboutTime   = regexp.MustCompile(`(?i)\b(?:when|what time|which (?:day|date|time|week|hour|month)|what (?:day|date)|how (?:soon|early|late)|suits? you|(?:two|other|possible) dates|name (?:two|a) dates?|does \w+ (?:morning|afternoon|at \d))\b`)
	yesOrNo     = regexp.MustCompile(`(?i)(?:^|[,;:—–-]\s*|\b(?:and|or|so|but|then|please)\s+)(?:can|could|may|might|shall|should|will|would|is|are|was|were|do|does|did|have|has|am)\s+(?:i|we|you|he|she|it|they|there|this|that|the|a|an|your|our|my|his|her|their|somebody|anybody|\w+)\b`)
	eitherOr    = regexp.MustCompile(`(?i)\b([\pL\d'’-]+(?: [\pL\d'’-]+){0,2}),? or (?:the |to )?([\pL\d'’-]+(?: [\pL\d'’-]+){0,2})\s*\?`)
	thanked     = regexp.MustCompile(`(?i)\b(?:thank you|thanks|many thanks)\b`)
	told        = regexp.MustCompile(`(?i)\b(?:attached|is done|are done|has been|have been|is ready|are ready|for your information|just so you know|follows?|arrives?|is here|are here)\b`)
	english     = regexp.MustCompile(`(?i)\b(?:the|and|you|we|is|are|for|of|to|please|thank|hello|dear)\b`)
)

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

// ShortAnswers proposes up to four answers to a message that somebody wrote, by
// what kind of question it asks, in English: when, which of two, whether; what
// asks nothing may be thanked for. Times are proposed from those that are free.
// To a machine, a list, or what is not in English nothing is proposed.
func ShortAnswers(m mail.Message, free []Free) (out []string) {
	if m.Kind.Machine() || m.Kind == mail.List || len(english.FindAllString(m.Text, 4)) < 3 {
		return nil
	}
	questions := Questions(m.Text)
	for _, q := range questions {
		if aboutTime.MatchString(q) {
			return whenAnswers(free)
		}
	}
	for _, q := range questions {
		if o := eitherOr.FindStringSubmatch(q); o != nil {
			first, second := lastWords(o[1]), o[2]
			return []string{capital(first) + ", please.", capital(second) + ", please.", "I have no preference; please choose.", "Let me think about it. I will write to you tomorrow."}
		}
	}
	for _, q := range questions {
		if yesOrNo.MatchString(q) {
			return []string{"Yes, gladly.", "No, I am afraid not.", "I have to ask first. I will write to you tomorrow."}
		}
	}
	switch {
	case len(questions) > 0:
		return []string{"I will look it up and write to you today.", "I do not know. Who could?"}
	case told.MatchString(m.Text):
		return []string{"Thank you, I have it.", "Thank you. I will look at it today."}
	case thanked.MatchString(m.Text):
		return []string{"You are welcome.", "Gladly."}
	}
	return []string{"Thank you for telling me.", "Noted, thank you."}
}

func whenAnswers(free []Free) (out []string) {
	for i, f := range free {
		if i == 2 {
			break
		}
		out = append(out, fmt.Sprintf("%s would suit me.", f))
	}
	if len(free) > 1 {
		out = append(out, fmt.Sprintf("I could offer %s or %s. Which is better for you?", free[0], free[1]))
	}
	return append(out, "Please name two times; I will take one.")
}

// lastWords takes away what only leads to the first of two choices.
func lastWords(s string) string {
	words := strings.Fields(s)
	for len(words) > 1 {
		switch strings.ToLower(words[0]) {
		case "the", "to", "is", "it", "in", "on", "with", "want", "like", "prefer", "do", "you", "be", "for", "by", "a", "an", "send", "shall", "we", "i", "have", "take", "as":
			words = words[1:]
			continue
		}
		break
	}
	return strings.Join(words, " ")
}

func capital(s string) string {
	r := []rune(s)
	if len(r) == 0 {
		return s
	}
	return strings.ToUpper(string(r[:1])) + string(r[1:])
}

// Reminder is what a message says that asks again for an answer to one written
// on that day.
func Reminder(to mail.Address, subject, day string) string {
	return fmt.Sprintf("Dear %s,\n\non %s I wrote to you about “%s” and have not heard from you yet. May I ask you for an answer?\n", to.Short(), day, mail.Title(subject))
}
