package sorting

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"ebbe/internal/core/search"
)

// SieveRead are the rules of a Sieve script in words, and what of it does not carry over.
type SieveRead struct {
	Rules []string `json:"rules"`
	Left  []string `json:"left"`
}

// How much of a script is read.
const (
	maxScript = 256 << 10 // bytes
	maxDepth  = 15        // of tests and blocks within each other
	maxAny    = 12        // alternatives of one rule
)

// ReadSieve reads a script (RFC 5228): each "if" that does something becomes a rule in
// words. An error says in part of a sentence why it is no script.
func ReadSieve(text string) (out SieveRead, err error) {
	out = SieveRead{Rules: []string{}, Left: []string{}}
	if len(text) > maxScript {
		return out, errors.New("that script is larger than 256 kB, so nothing of it was read")
	}
	tokens, err := sieveTokens(text)
	if err != nil {
		return out, err
	}
	p := &sieveParser{tokens: tokens}
	commands, err := p.commands(0)
	if err == nil && p.i < len(p.tokens) {
		err = fmt.Errorf("in line %d of the script stands a “%s” that begins nothing", p.tokens[p.i].line, p.tokens[p.i].text)
	}
	if err != nil {
		return out, err
	}
	t := &sieveRules{out: &out}
	t.block(commands, sieveWhen{any: [][]string{nil}})
	return out, nil
}

// sieveToken is a token: an identifier, :tag, number, string or sign.
type sieveToken struct {
	kind byte // 'i', 't', 'n', 's', or the sign itself
	text string
	n    int
	line int
}

func sieveTokens(text string) (out []sieveToken, err error) {
	line := 1
	for i := 0; i < len(text); {
		c := text[i]
		switch {
		case c == '\n':
			line++
			i++
		case c == ' ' || c == '\t' || c == '\r':
			i++
		case c == '#':
			for i < len(text) && text[i] != '\n' {
				i++
			}
		case strings.HasPrefix(text[i:], "/*"):
			end := strings.Index(text[i:], "*/")
			if end < 0 {
				return nil, fmt.Errorf("a comment that begins in line %d of the script never ends", line)
			}
			line += strings.Count(text[i:i+end], "\n")
			i += end + 2
		case c == '"':
			var b strings.Builder
			at, closed := line, false
			for i++; i < len(text) && !closed; i++ {
				switch {
				case text[i] == '"':
					closed = true
				case text[i] == '\\' && i+1 < len(text):
					i++
					b.WriteByte(text[i])
				default:
					if text[i] == '\n' {
						line++
					}
					b.WriteByte(text[i])
				}
			}
			if !closed {
				return nil, fmt.Errorf("a text between quotation marks that begins in line %d of the script never ends", at)
			}
			out = append(out, sieveToken{kind: 's', text: strings.ToValidUTF8(b.String(), ""), line: at})
		case strings.HasPrefix(text[i:], "text:"):
			at := line
			start := strings.IndexByte(text[i:], '\n')
			if start < 0 {
				return nil, fmt.Errorf("a text that begins in line %d of the script never ends", at)
			}
			rest := strings.ReplaceAll(text[i+start+1:], "\r\n", "\n")
			end := strings.Index("\n"+rest, "\n.\n")
			if end < 0 {
				return nil, fmt.Errorf("a text that begins in line %d of the script never ends", at)
			}
			body := rest[:end]
			out = append(out, sieveToken{kind: 's', text: strings.ToValidUTF8(strings.TrimSuffix(body, "\n"), ""), line: at})
			line += 1 + strings.Count(rest[:min(end+2, len(rest))], "\n")
			text, i = rest[min(end+2, len(rest)):], 0
		case strings.IndexByte("{}()[],;", c) >= 0:
			out = append(out, sieveToken{kind: c, text: string(c), line: line})
			i++
		default:
			j := i
			if c == ':' {
				j++
			}
			for j < len(text) && (text[j] == '_' || text[j] < 0x80 && (unicode.IsLetter(rune(text[j])) || unicode.IsDigit(rune(text[j])))) {
				j++
			}
			word := text[i:j]
			switch {
			case len(strings.TrimPrefix(word, ":")) == 0:
				return nil, fmt.Errorf("in line %d of the script stands something that is no Sieve", line)
			case c == ':':
				out = append(out, sieveToken{kind: 't', text: strings.ToLower(word[1:]), line: line})
			case c >= '0' && c <= '9':
				digits := strings.TrimRight(word, "kKmMgG")
				n, err := strconv.Atoi(digits)
				factor := map[string]int{"": 1, "k": 1 << 10, "m": 1 << 20, "g": 1 << 30}[strings.ToLower(word[len(digits):])]
				if err != nil || factor == 0 || n > 1<<40/factor {
					return nil, fmt.Errorf("in line %d of the script, “%s” is no number", line, word)
				}
				out = append(out, sieveToken{kind: 'n', text: word, n: n * factor, line: line})
			default:
				out = append(out, sieveToken{kind: 'i', text: strings.ToLower(word), line: line})
			}
			i = j
		}
	}
	return out, nil
}

// sieveNode is a command, or a test.
type sieveNode struct {
	name  string
	line  int
	tags  []string
	n     int
	lists [][]string // its strings and lists of strings, in order
	tests []sieveNode
	block []sieveNode
}

func (n sieveNode) tag(name string) bool { return slices.Contains(n.tags, name) }

func (n sieveNode) list(i int) []string {
	if i < len(n.lists) {
		return n.lists[i]
	}
	return nil
}

type sieveParser struct {
	tokens []sieveToken
	i      int
}

func (p *sieveParser) at() sieveToken {
	if p.i < len(p.tokens) {
		return p.tokens[p.i]
	}
	return sieveToken{}
}

func (p *sieveParser) wants(kind byte) error {
	if t := p.at(); t.kind != kind {
		if t.kind == 0 {
			return fmt.Errorf("the script ends where a “%c” has to stand", kind)
		}
		return fmt.Errorf("in line %d of the script a “%c” has to stand before “%s”", t.line, kind, t.text)
	}
	p.i++
	return nil
}

func (p *sieveParser) commands(depth int) (out []sieveNode, err error) {
	if depth > maxDepth {
		return nil, errors.New("the blocks of the script lie too deep within each other")
	}
	for p.at().kind == 'i' {
		n, err := p.node(depth)
		if err != nil {
			return nil, err
		}
		if p.at().kind == '{' {
			p.i++
			if n.block, err = p.commands(depth + 1); err != nil {
				return nil, err
			}
			if err := p.wants('}'); err != nil {
				return nil, err
			}
		} else if err := p.wants(';'); err != nil {
			return nil, err
		}
		out = append(out, n)
	}
	return out, nil
}

// node reads the name and the arguments of a command or a test.
func (p *sieveParser) node(depth int) (n sieveNode, err error) {
	if depth > maxDepth {
		return n, errors.New("the tests of the script lie too deep within each other")
	}
	n.name, n.line = p.at().text, p.at().line
	for p.i++; ; {
		switch t := p.at(); t.kind {
		case 't':
			n.tags = append(n.tags, t.text)
			p.i++
		case 'n':
			n.n = t.n
			p.i++
		case 's':
			n.lists = append(n.lists, []string{t.text})
			p.i++
		case '[':
			p.i++
			list := []string{}
			for p.at().kind == 's' {
				list = append(list, p.at().text)
				if p.i++; p.at().kind == ',' {
					p.i++
				}
			}
			if err := p.wants(']'); err != nil {
				return n, err
			}
			n.lists = append(n.lists, list)
		case '(':
			p.i++
			for p.at().kind == 'i' {
				test, err := p.node(depth + 1)
				if err != nil {
					return n, err
				}
				if n.tests = append(n.tests, test); p.at().kind == ',' {
					p.i++
				}
			}
			if err := p.wants(')'); err != nil {
				return n, err
			}
			return n, nil
		case 'i':
			test, err := p.node(depth + 1)
			if err != nil {
				return n, err
			}
			n.tests = append(n.tests, test)
			return n, nil
		default:
			return n, nil
		}
	}
}

// sieveWhen is what a rule is about: any of these, of each all of its words; and none of
// those.
type sieveWhen struct {
	any, not [][]string
}

// and is both.
func (w sieveWhen) and(o sieveWhen) (out sieveWhen, err error) {
	for _, a := range w.any {
		for _, b := range o.any {
			out.any = append(out.any, slices.Concat(a, b))
		}
	}
	if len(out.any) > maxAny {
		return out, errors.New("it has too many alternatives")
	}
	out.not = slices.Concat(w.not, o.not)
	return out, nil
}

// sieveRules makes rules of a script.
type sieveRules struct{ out *SieveRead }

func (t *sieveRules) leave(line int, what string) {
	if len(t.out.Left) < 100 {
		t.out.Left = append(t.out.Left, fmt.Sprintf("Line %d: %s.", line, what))
	}
}

// block makes rules of commands that stand under a condition.
func (t *sieveRules) block(commands []sieveNode, under sieveWhen) {
	var actions []string
	line := 0
	for _, c := range commands {
		switch c.name {
		case "require", "keep", "stop":
		case "if", "elsif":
			if len(c.tests) != 1 {
				t.leave(c.line, "it asks nothing")
				continue
			}
			when, err := sieveTest(c.tests[0])
			if err == nil {
				when, err = under.and(when)
			}
			if err != nil {
				t.leave(c.line, err.Error())
				continue
			}
			t.block(c.block, when)
		case "else":
			t.leave(c.line, "“else” is about everything but something, which no rule is")
		default:
			words, left := sieveAction(c)
			if left != "" {
				t.leave(c.line, left)
			}
			for _, w := range words {
				if !slices.Contains(actions, w) {
					actions = append(actions, w)
				}
			}
			line = c.line
		}
	}
	if len(actions) == 0 {
		return
	}
	var any []string
	for _, all := range under.any {
		if len(all) == 0 {
			t.leave(line, "it would be about everything")
			return
		}
		any = append(any, strings.Join(all, " "))
	}
	words := strings.Join(any, " or ")
	for _, all := range under.not {
		words += ", but not " + strings.Join(all, " ")
	}
	t.out.Rules = append(t.out.Rules, words+": "+strings.Join(actions, ", "))
}

// unquoted is a text as it can stand between quotation marks in a rule.
func unquoted(s string) string {
	return strings.TrimSpace(strings.Map(func(c rune) rune {
		if c < ' ' || strings.ContainsRune(search.Quotes, c) || c == '*' {
			return ' '
		}
		return c
	}, s))
}

// sieveTest is a test in the words of rules.
func sieveTest(n sieveNode) (w sieveWhen, err error) {
	one := func(words []string) (sieveWhen, error) {
		var any [][]string
		for _, x := range words {
			if x != "" {
				any = append(any, []string{x})
			}
		}
		if len(any) == 0 || len(any) > maxAny {
			return sieveWhen{}, errors.New("it asks for nothing, or for too much at once")
		}
		return sieveWhen{any: any}, nil
	}
	switch n.name {
	case "allof":
		w = sieveWhen{any: [][]string{nil}}
		for _, t := range n.tests {
			x, err := sieveTest(t)
			if err != nil {
				return w, err
			}
			if w, err = w.and(x); err != nil {
				return w, err
			}
		}
		return w, nil
	case "anyof":
		for _, t := range n.tests {
			x, err := sieveTest(t)
			switch {
			case err != nil:
				return w, err
			case len(x.not) > 0:
				return w, errors.New("“not” within “anyof” cannot be said in a rule")
			}
			for _, all := range x.any {
				if !slices.ContainsFunc(w.any, func(o []string) bool { return slices.Equal(o, all) }) {
					w.any = append(w.any, all)
				}
			}
		}
		if len(w.any) > maxAny {
			return w, errors.New("it has too many alternatives")
		}
		return w, nil
	case "not":
		if len(n.tests) != 1 {
			return w, errors.New("“not” asks nothing")
		}
		x, err := sieveTest(n.tests[0])
		if err == nil && len(x.not) > 0 {
			err = errors.New("“not” within “not” cannot be said in a rule")
		}
		return sieveWhen{any: [][]string{nil}, not: x.any}, err
	case "header", "address", "envelope":
		var words []string
		fields := n.list(0)
		for _, key := range n.list(1) {
			if anywhere(fields) && unquoted(key) != "" {
				words = append(words, "with “"+unquoted(key)+"”")
				continue
			}
			for _, field := range fields {
				x, err := sieveField(n, strings.ToLower(field), key)
				if err != nil {
					return w, err
				}
				if !slices.Contains(words, x) {
					words = append(words, x)
				}
			}
		}
		return one(words)
	case "body":
		var words []string
		for _, key := range n.list(0) {
			words = append(words, "with “"+unquoted(key)+"”")
		}
		return one(words)
	case "exists":
		if l := n.list(0); len(l) == 1 && strings.HasPrefix(strings.ToLower(l[0]), "list-") {
			return one([]string{"newsletters"})
		}
	case "size":
		if n.tag("over") && n.n > 0 {
			return one([]string{fmt.Sprintf("larger than %d kB", max(n.n/1024, 1))})
		}
	case "currentdate":
		return sieveDate(n, one)
	}
	return w, fmt.Errorf("“%s” cannot be asked by a rule", n.name)
}

// anywhere says that a test of these fields looks for words wherever they stand.
func anywhere(fields []string) bool {
	has := func(name string) bool {
		return slices.ContainsFunc(fields, func(f string) bool { return strings.EqualFold(f, name) })
	}
	return has("subject") && has("from")
}

// sieveField is a test of a field of the header in the words of rules.
func sieveField(n sieveNode, field, key string) (string, error) {
	key = unquoted(key)
	switch {
	case key == "":
		return "", errors.New("it asks for an empty text")
	case field == "subject":
		return "subject “" + key + "”", nil
	case field == "from" || field == "sender" || field == "reply-to":
		domain := strings.TrimPrefix(strings.TrimPrefix(key, "@"), ".")
		switch {
		case n.tag("localpart"):
			return "", errors.New("a part of an address cannot be asked by a rule")
		case n.tag("domain") || strings.HasPrefix(key, "@"):
			return "from @" + strings.ToLower(domain), nil
		case strings.Contains(key, "@") && !strings.Contains(key, " "):
			return "from " + strings.ToLower(key), nil
		}
		return "with “" + key + "”", nil
	case field == "to" || field == "cc":
		if strings.Contains(key, "@") && !strings.Contains(key, " ") {
			return "to " + strings.ToLower(key), nil
		}
		return "with “" + key + "”", nil
	case field == "list-id":
		return "list " + strings.ToLower(strings.Trim(key, "<> ")), nil
	case field == "auto-submitted":
		return "notices", nil
	case field == "precedence":
		return "newsletters", nil
	}
	return "", fmt.Errorf("the field “%s” cannot be asked by a rule", field)
}

// sieveDate is a test of the day or the hour (RFC 5260, section 4) in the words of rules.
func sieveDate(n sieveNode, one func([]string) (sieveWhen, error)) (sieveWhen, error) {
	part, values := "", n.list(1)
	if l := n.list(0); len(l) == 1 {
		part = strings.ToLower(l[0])
	}
	var numbers []int
	for _, v := range values {
		x, err := strconv.Atoi(v)
		if err != nil || x < 0 || x > 23 {
			return sieveWhen{}, errors.New("such a date cannot be asked by a rule")
		}
		numbers = append(numbers, x)
	}
	switch {
	case len(numbers) == 0 || n.tag("value"):
	case part == "weekday" && slices.Max(numbers) < 7:
		var names []string
		for _, d := range numbers {
			names = append(names, []string{"sun", "mon", "tue", "wed", "thu", "fri", "sat"}[d])
		}
		return one([]string{"on " + strings.Join(names, ", ")})
	case part == "hour":
		for i, h := range numbers {
			if i > 0 && h != (numbers[i-1]+1)%24 {
				return sieveWhen{}, errors.New("hours that do not follow each other cannot be asked by one rule")
			}
		}
		return one([]string{fmt.Sprintf("between %d and %d", numbers[0], (numbers[len(numbers)-1]+1)%24)})
	}
	return sieveWhen{}, errors.New("such a date cannot be asked by a rule")
}

// sieveAction is what a command does, in the words of rules, and what of it they cannot.
func sieveAction(c sieveNode) (words []string, left string) {
	flag := func(list []string) {
		for _, f := range list {
			switch low := strings.ToLower(f); low {
			case `\flagged`:
				words = append(words, "star")
			case `\seen`:
				words = append(words, "mark read")
			default:
				if name := unquoted(strings.TrimLeft(f, `\$`)); name != "" {
					words = append(words, "label “"+name+"”")
				}
			}
		}
	}
	switch c.name {
	case "fileinto":
		name := ""
		if l := c.list(0); len(l) == 1 {
			name = unquoted(l[0])
		}
		low := strings.ToLower(name[strings.LastIndexAny(name, "./")+1:])
		switch {
		case name == "":
			return nil, "it files into no folder"
		case low == "inbox":
		case slices.Contains([]string{"archive", "archives", "all mail"}, low):
			words = []string{"archive"}
		case slices.Contains([]string{"trash", "bin", "deleted", "deleted items", "deleted messages"}, low):
			words = []string{"bin"}
		case slices.Contains([]string{"junk", "spam"}, low):
			return []string{"bin"}, "what is filed as junk is binned; block its sender instead"
		default:
			words = []string{"label “" + strings.NewReplacer(".", " / ", "/", " / ").Replace(name) + "”", "archive"}
		}
	case "addflag", "setflag":
		flag(c.list(len(c.lists) - 1))
	case "discard":
		words = []string{"bin"}
	case "redirect":
		for _, to := range c.list(0) {
			words = append(words, "forward to "+strings.ToLower(unquoted(to)))
		}
	case "vacation":
		left = "an answer is given with a template: make one while writing, and “reply with” it"
	default:
		left = fmt.Sprintf("“%s” cannot be done by a rule", c.name)
	}
	return words, left
}
