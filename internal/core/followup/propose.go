package followup

import (
	"regexp"
	"strings"
	"unicode"
	"unicode/utf8"

	"ebbe/internal/core/mail"
	"ebbe/internal/core/when"
)

// Proposal is what a message asks for, as far as its words tell.
type Proposal struct {
	Title   string      `json:"title"`
	Due     when.Moment `json:"due"`     // empty if the text names no time
	DueText string      `json:"dueText"` // the words that name it
	Asks    string      `json:"asks"`    // the sentence that asks; empty if none does
	Project string      `json:"project"` // of earlier follow-ups with the same people
	Known   bool        `json:"known"`   // the conversation has an open follow-up already
}

// Source is what a proposal is made from.
type Source struct {
	From    mail.Address
	Subject string
	Text    string // what the sender wrote, without what they quote
	Kind    mail.Kind
	Written when.Instant
	// Language is that in which the sender wrote.
	Language when.Language
}

const longestTitle = 90 // characters of a proposed title

var (
	sentenceEnd = regexp.MustCompile(`[.!?…]+(?:\s+|$)|\n\s*\n|\n\s*[-*•]\s+|:\s*\n`)
	greeting    = regexp.MustCompile(`(?i)^(?:dear|hello|hi|hey|good (?:day|morning|afternoon|evening)|greetings|morning)\b[^,\n]{0,60}[,!]?\s*$`)
	lead        = regexp.MustCompile(`(?i)^(?:and|but|so|also|then|again|otherwise|meanwhile|finally|first|second|therefore|thus|ok|okay|well|oh|p\.?s\.?:?|if (?:possible|you can|it is possible)|before (?:that|then)|in the meantime|when you (?:can|have (?:a moment|time))|one more thing|as (?:discussed|agreed|you know)|just a reminder|a reminder|quick question|to (?:finish|be sure)),?:?\s+`)
	asksVerb    = regexp.MustCompile(`(?i)\b(?:can|could|would|will) you (?:please |kindly |also |perhaps |maybe |possibly |then |still |quickly |just )*(?:be able to )?(?:be so kind as to |be so kind to |be kind enough to )?(.+)`)
	wouldMind   = regexp.MustCompile(`(?i)\b(?:would|do) you mind (\w+ing)\b(.*)`)
	ableTo      = regexp.MustCompile(`(?i)\b(?:are|would) you (?:be )?able to (.+)`)
	pleaseVerb  = regexp.MustCompile(`(?i)(?:^|[,;:]\s*|\b(?:so|and|but|then|must) )(?:please|kindly) (?:also |do |don't forget to |remember to )?(.+)`)
	needYou     = regexp.MustCompile(`(?i)\b(?:i|we) (?:would )?(?:need|want|like|ask|beg|expect|require) (?:you )to (.+)`)
	needNoun    = regexp.MustCompile(`(?i)\b(?:i|we) (?:(?:still|also|only|now|urgently|just|would|will) )*(?:need|require|lack|are missing|am missing|miss) (.+)`)
	waitNoun    = regexp.MustCompile(`(?i)\b(?:i am|i'm|we are|we're) (?:still )?waiting for (?:your |the )(.+)`)
	missingNoun = regexp.MustCompile(`(?i)^(?:the |your )(.+?) (?:is|are) (?:still )?(?:(?:missing|overdue|outstanding|needed)\b|due$)`)
	letKnow     = regexp.MustCompile(`(?i)\blet (?:me|us) know\b(.*)`)
	appreciate  = regexp.MustCompile(`(?i)\b(?:appreciate it|appreciated|grateful|glad|happy|great|good|kind|helpful|nice|thankful) if you (?:could|would|can) (?:also |please )?(.+)`)
	wondering   = regexp.MustCompile(`(?i)\bwonder(?:ing)? (?:whether|if) you (?:could|would|can|might) (?:also |please )?(.+)`)
	wouldHelp   = regexp.MustCompile(`(?i)\bit would (?:help|be (?:great|good|kind|nice|helpful)) if you (sent|gave|made|took|brought|wrote|called|signed|checked|put|paid|told|showed)\b(.*)`)
	letHave     = regexp.MustCompile(`(?i)^(?:please |kindly )?let (?:me|us) have (.+)`)
	remember    = regexp.MustCompile(`(?i)\b(?:don't|do not|please don't|never) forget to (.+)`)
	haveTo      = regexp.MustCompile(`(?i)\byou (?:(?:also|still|only|just) )?(?:have to|need to|must|should) (.+)`)
	thingToDo   = regexp.MustCompile(`(?i)^(?:(?:the|your|a|an) )?(.+?) (?:(?:has|have|needs?) to|must) be (\w+(?:ed|en|wn|nt|ght|id|de|ne|ut))\b(.*)`)
	sendBack    = regexp.MustCompile(`(?i)^(?:mark|sign|fill in|return|send|review|confirm|check|correct|approve|bring|choose|name|tell|give|call|ring|answer|reply|pay|book|order|print|forward|complete|prepare|update|read|look|attach|turn|take|put|add|remove|start|close|open|keep|count|clean|write|provide|use|change|hand|get|ask|water|lock|measure|release|move|finish|join)\b`)
	question    = regexp.MustCompile(`(?i)^(?:(?:who|whom|whose|what|which|when|where|why|how)\b|(?:is|are|was|were|do|does|did|may|might|shall|should|can|could|will|would|have|has)\b)`)
	shallI      = regexp.MustCompile(`(?i)^(?:shall|should|may|can|could|might) (?:i|we) (.+)`)
	cutAt       = regexp.MustCompile(`(?i)\s*(?:;|\s[–—-]\s|\s\(|,\s*(?:so|as|because|since|otherwise|or else|if|but|which|who|and (?:we|i|it|they|then|whether|please)|then|we|i|it|thanks|thank you)\b|\s(?:because|so that|otherwise|since (?:we|i|the)|as (?:we|i|the)|before we|before i|if (?:possible|you can|you could|that|it|not|we|i|needed|you))\b|, please\b|,? thanks\b|,? thank you\b|,?\s+and (?:on |for |to |in |at )?(?:whose|which|when|how|where)\b)`)
	polite      = regexp.MustCompile(`(?i)\s+(?:please|kindly|for (?:me|us)|when you (?:can|have a moment|have time|get a chance|find the time)|at your (?:earliest )?convenience|as soon as (?:possible|you can)|soon|asap|again|today, please)$`)
	dueTail     = regexp.MustCompile(`(?i)[,\s]+(?:by|before|until|till|on|at|no later than|not later than|this|in|for|at the latest|latest|from|between|the|,|of)*\s*$`)
	verbForm    = regexp.MustCompile(`^[A-Za-z]+$`)
)

var gerunds = map[string]string{"sending": "send", "giving": "give", "writing": "write", "taking": "take", "making": "make", "moving": "move", "sharing": "share", "coming": "come", "having": "have", "using": "use",
	"closing": "close", "choosing": "choose", "preparing": "prepare", "arranging": "arrange", "getting": "get", "putting": "put", "planning": "plan", "stopping": "stop", "updating": "update", "completing": "complete", "leaving": "leave", "bringing": "bring", "ringing": "ring", "calling": "call", "telling": "tell", "filling": "fill"}

// notAsked are beginnings of what "could you" and "you should" introduce that
// ask for nothing.
var notAsked = regexp.MustCompile(`(?i)^(?:imagine|see|find|know|not|be|also be|get|receive|expect|hear|unsubscribe|notice|recall|believe|ignore|disregard|already|never|ever)\b`)

// beThere is to be somewhere, or ready.
var beThere = regexp.MustCompile(`(?i)^be (?:at|in|on|there|ready)\b`)

// Propose says what a letter asks of its reader: the verb and object of the
// sentence that asks, as an action, and the time it names. Where that is not sure the
// title is the subject as it stands.
func Propose(l Source, w when.Week) Proposal {
	p := Proposal{}
	asks := Asks(l, w)
	for i, a := range asks {
		if i == 0 {
			p.Asks = a.Words
		}
		if a.title != "" {
			p.Title, p.Asks = a.title, a.Words
			break
		}
	}
	if p.Title == "" {
		p.Title = fallback(l, firstName(l.From))
	}
	p.Due, p.DueText = dueOf(w.FindTimes(l.Text, l.Language, l.Written), asks, l.Text)
	return p
}

// dueOf picks the time by which something is to be done: one that is named as such,
// else one in a sentence that asks, else the only one of a text that asks. Of what asks
// for nothing, "until" is no such time.
func dueOf(times []when.Found, asks []Ask, text string) (when.Moment, string) {
	for _, f := range times {
		if f.By && (len(asks) > 0 || !untilWord.MatchString(text[max(0, f.From-12):f.From])) {
			return f.Start, f.Text
		}
	}
	for _, a := range asks {
		for _, f := range times {
			if f.From >= a.from && f.To <= a.from+len(a.Words)+1 {
				return f.Start, f.Text
			}
		}
	}
	if len(asks) > 0 && len(times) == 1 {
		return times[0].Start, times[0].Text
	}
	return when.Moment{}, ""
}

type sentence struct {
	text string
	from int
}

// sentences cuts a text into its sentences, without greetings and signatures.
func sentences(text string) (out []sentence) {
	if i := strings.Index(text, "\n-- \n"); i >= 0 {
		text = text[:i]
	}
	add := func(from, to int) {
		s := text[from:to]
		trimmed := strings.TrimLeftFunc(s, func(r rune) bool { return unicode.IsSpace(r) || strings.ContainsRune("-*•>", r) })
		from += len(s) - len(trimmed)
		trimmed = strings.TrimSpace(trimmed)
		if head, rest, ok := strings.Cut(trimmed, "\n"); ok && greeting.MatchString(strings.TrimSpace(head)) {
			from += len(head) + 1 + len(rest) - len(strings.TrimLeftFunc(rest, unicode.IsSpace))
			trimmed = strings.TrimSpace(rest)
		}
		if trimmed != "" && !greeting.MatchString(trimmed) {
			out = append(out, sentence{strings.Join(strings.Fields(trimmed), " "), from})
		}
	}
	at := 0
	for _, m := range sentenceEnd.FindAllStringIndex(text, 200) {
		end := m[1]
		if strings.HasPrefix(text[m[0]:], "\n") {
			end = m[0] + 1
		}
		if short := strings.TrimRight(text[at:m[0]], " "); text[m[0]] == '.' && (abbreviated.MatchString(short) || ordinalEnd.MatchString(short) && dateGoesOn.MatchString(text[m[1]:])) {
			continue
		}
		add(at, end)
		at = end
	}
	add(at, len(text))
	return out
}

var abbreviated = regexp.MustCompile(`(?i)(?:\b(?:dr|mr|mrs|ms|prof|no|nr|st|approx|e\.g|i\.e|a\.m|p\.m|vol|fig|kl|ca|bzw|inkl|tel|mme)|\b[A-Z])$`)

// "am 3. Dezember" is one sentence, "at 9:00. Please" two.
var (
	ordinalEnd = regexp.MustCompile(`(?:^|[^:.\d])\d{1,2}$`)
	dateGoesOn = regexp.MustCompile(`^(?:\p{Ll}|\d|(?i:jan|feb|mär|mar|apr|mai|may|maj|jun|jul|aug|sep|okt|oct|nov|dez|des|dec))`)
)

func firstName(a mail.Address) string {
	name := a.Short()
	for _, title := range []string{"Dr. ", "Dr ", "Prof. ", "Mr ", "Mrs ", "Ms ", "Mr. ", "Mrs. "} {
		if rest, ok := strings.CutPrefix(name, title); ok {
			return rest
		}
	}
	first, rest, two := strings.Cut(name, " ")
	if !two || strings.Contains(rest, " ") && len(strings.Fields(name)) > 2 || isPlace(name) {
		return name
	}
	return first
}

// isPlace says that a name is one of a firm or an office, which has no first
// name.
func isPlace(name string) bool {
	for _, w := range strings.Fields(strings.ToLower(name)) {
		switch w {
		case "office", "works", "couriers", "school", "desk", "museum", "team", "service", "support", "press", "archive", "choir", "harbour", "the", "group", "club", "bank", "city", "town", "hotel", "inn", "travel", "library", "shop", "studio":
			return true
		}
	}
	return false
}

// ask is what a sentence asks for, as the words of an action; empty if nothing.
func ask(s, who string, from mail.Address) string {
	asked := strings.HasSuffix(s, "?")
	s = strings.TrimRight(s, ".!?… ")
	for range 3 {
		s = strings.TrimSpace(lead.ReplaceAllString(s, ""))
	}
	first := func(r *regexp.Regexp) string {
		if m := r.FindStringSubmatch(s); m != nil {
			return strings.TrimSpace(m[1])
		}
		return ""
	}
	if m := letKnow.FindStringSubmatch(s); m != nil {
		rest := strings.TrimSpace(m[1])
		if rest == "" || strings.HasPrefix(strings.ToLower(rest), "if you ") || strings.HasPrefix(strings.ToLower(rest), "should you") {
			if strings.HasPrefix(strings.ToLower(rest), "if you have any") || rest == "" && !asked {
				return ""
			}
		}
		return strings.TrimSpace("let " + who + " know " + rest)
	}
	if m := wouldMind.FindStringSubmatch(s); m != nil {
		verb := strings.ToLower(m[1])
		plain := gerunds[verb]
		if plain == "" {
			plain = strings.TrimSuffix(verb, "ing")
		}
		return plain + m[2]
	}
	if m := wouldHelp.FindStringSubmatch(s); m != nil {
		verb := strings.ToLower(m[1])
		if plain := map[string]string{"gave": "give", "took": "take", "wrote": "write", "told": "tell", "showed": "show"}[verb]; plain != "" {
			return plain + m[2]
		}
		return undone(verb) + m[2]
	}
	if what := first(letHave); what != "" {
		return "send " + who + " " + strings.TrimSuffix(what, ", please")
	}
	for _, r := range []*regexp.Regexp{appreciate, wondering, remember, ableTo, asksVerb, needYou, pleaseVerb} {
		if what := first(r); what != "" && verbForm.MatchString(strings.Fields(what)[0]) && (!notAsked.MatchString(what) || beThere.MatchString(what)) && !(asked && !strings.Contains(what, " ")) {
			return what
		}
	}
	if what := first(waitNoun); what != "" {
		return "send " + who + " the " + what
	}
	if what := first(missingNoun); what != "" && len(what) < 60 {
		return "send " + who + " the " + what
	}
	if m := thingToDo.FindStringSubmatch(s); m != nil && len(m[1]) < 60 {
		if verb := undone(m[2]); verb != "" && !strings.HasPrefix(strings.ToLower(m[3]), " by the ") {
			rest, _, _ := strings.Cut(m[3], " and ")
			return verb + " the " + m[1] + strings.Replace(rest, " by you", "", 1)
		}
	}
	if what := first(needNoun); what != "" && !asked && !strings.HasPrefix(strings.ToLower(what), "to ") {
		return "send " + who + " " + what
	}
	if what := first(haveTo); what != "" && !notAsked.MatchString(what) {
		return what
	}
	if sendBack.MatchString(s) && !asked && len(strings.Fields(s)) > 2 {
		return s
	}
	if asked && question.MatchString(s) {
		if m := shallI.FindStringSubmatch(s); m != nil {
			return "tell " + who + " whether to " + m[1]
		}
		return "answer " + who + ": " + lowerFirst(s) + "?"
	}
	if asked {
		if i := strings.LastIndexAny(s, ":,"); i > 0 && question.MatchString(strings.TrimSpace(s[i+1:])) {
			return ask(strings.TrimSpace(s[i+1:])+"?", who, from)
		}
	}
	return ""
}

// undone is the verb of a participle: signed, sign.
func undone(p string) string {
	p = strings.ToLower(p)
	if v := map[string]string{"sent": "send", "paid": "pay", "made": "make", "done": "do", "written": "write", "chosen": "choose", "shown": "show", "brought": "bring", "bought": "buy", "put": "put", "taken": "take", "given": "give",
		"shortened": "shorten", "returned": "return", "signed": "sign", "renewed": "renew", "approved": "approve", "updated": "update", "moved": "move", "measured": "measure", "prepared": "prepare", "completed": "complete", "replaced": "replace", "changed": "change", "insured": "insure", "cancelled": "cancel", "planned": "plan"}[p]; v != "" {
		return v
	}
	return strings.TrimSuffix(p, "ed")
}

func lowerFirst(s string) string {
	r, n := utf8.DecodeRuneInString(s)
	if first, _, _ := strings.Cut(s, " "); first == "I" || first == strings.ToUpper(first) && len(first) > 1 {
		return s
	}
	return string(unicode.ToLower(r)) + s[n:]
}

// objectOf are words after which somebody is meant who does nothing.
var objectOf = map[string]bool{"to": true, "for": true, "from": true, "with": true, "by": true, "of": true, "about": true, "or": true, "without": true}

// turn are the words of a letter that mean somebody else in a title.
func turn(s, who string) string {
	its := who + "’s"
	if strings.HasSuffix(who, "s") {
		its = who + "’"
	}
	out := strings.Fields(s)
	for i, w := range out {
		word := strings.TrimRight(w, ",:;")
		tail := w[len(word):]
		switch strings.ToLower(word) {
		case "me", "us":
			word = who
		case "my", "our":
			word = its
		case "your":
			word = "the"
		case "i", "we":
			if i > 0 {
				word = who
			}
		case "you":
			word = "I"
			if tail != "" || i == len(out)-1 || i > 0 && objectOf[strings.ToLower(out[i-1])] {
				word = "me"
			}
		case "yourself":
			word = "myself"
		case "yours":
			word = "mine"
		}
		out[i] = word + tail
	}
	return strings.Join(out, " ")
}

// finish makes a title of what is asked for: cut where the reasons begin,
// without its date, and with the people named.
func finish(s, who string, w when.Week, written when.Instant) string {
	if !strings.HasPrefix(s, "answer ") {
		if m := cutAt.FindStringIndex(s); m != nil && m[0] > 8 {
			s = s[:m[0]]
		}
		s = strings.TrimRight(s, ",;: ")
		for range 2 {
			if times := w.FindTimes(s, when.English, written); len(times) > 0 && !strings.HasPrefix(s, "tell "+who+" whether") {
				last := times[len(times)-1]
				if rest := strings.TrimSpace(s[last.To:]); rest == "" && last.From > 4 {
					s = strings.TrimRight(dueTail.ReplaceAllString(s[:last.From], ""), " ,")
				}
			}
			if short := polite.ReplaceAllString(s, ""); len(strings.Fields(short)) > 2 || !strings.HasSuffix(s, " again") { // "send it again"
				s = short
			}
		}
		s = turn(dueTail.ReplaceAllString(s+" ", ""), who)
		s = strings.TrimSpace(strings.TrimRight(s, ",;: "))
	}
	if utf8.RuneCountInString(s) > longestTitle {
		cut := string([]rune(s)[:longestTitle])
		if i := strings.LastIndexByte(cut, ' '); i > longestTitle/2 {
			cut = cut[:i]
		}
		s = strings.TrimRight(cut, " ,;:") + "…"
	}
	if s == "" {
		return ""
	}
	r, n := utf8.DecodeRuneInString(s)
	return string(unicode.ToUpper(r)) + s[n:]
}

// fallback is the title for what asks for nothing that is sure: its subject as it
// stands, unless its kind says what is to be done.
func fallback(l Source, who string) string {
	subject := strings.TrimSpace(mail.Title(l.Subject))
	switch {
	case l.Kind == mail.Invitation:
		return "Answer the invitation of " + who
	case l.Kind == mail.Receipt:
		return "Check the receipt of " + who
	case l.Kind == mail.Bounce && subject != "":
		return "Find another way to reach them: " + subject
	case l.Kind == mail.Bounce:
		return "Find another way to reach them"
	case subject == "":
		return "Reply to " + who
	case len(subject) > MaxTitle: // more than a title can hold
		return strings.ToValidUTF8(subject[:MaxTitle-len("…")], "") + "…"
	}
	return subject
}
