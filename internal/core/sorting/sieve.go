package sorting

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
)

// Rules go out as a Sieve script (RFC 5228), with fileinto, flags (RFC 5232), vacation
// (RFC 5230), body (RFC 5173) and date (RFC 5260) where they are needed, and come in from
// one. What does not carry over is said.

// Script is a Sieve script of rules, and what of them it leaves out, in sentences.
type Script struct {
	Text string   `json:"text"`
	Left []string `json:"left"`
}

// Boxes are the names of the folders of a server into which scripts file.
type Boxes struct{ Archive, Bin string }

// sieving gathers a script.
type sieving struct {
	needs map[string]bool
	boxes Boxes
}

// WriteSieve writes the rules that are on as a script; labels gives the paths of labels,
// templates the texts of templates.
func WriteSieve(rules []Rule, boxes Boxes, labels, templates map[int64]string) Script {
	w := &sieving{needs: map[string]bool{}, boxes: boxes}
	out := Script{Left: []string{}}
	var body strings.Builder
	for _, r := range rules {
		if r.Mode != On {
			continue
		}
		test, err := w.test(r)
		var actions, left []string
		if err == nil {
			actions, left = w.actions(r, labels, templates)
		}
		switch {
		case err != nil:
			out.Left = append(out.Left, fmt.Sprintf("“%s” is not in it: %s.", r.Called(), err))
		case len(actions) == 0:
			out.Left = append(out.Left, fmt.Sprintf("“%s” is not in it: %s cannot be said in Sieve.", r.Called(), strings.Join(left, " and ")))
		default:
			if len(left) > 0 {
				out.Left = append(out.Left, fmt.Sprintf("“%s” is in it without %s.", r.Called(), strings.Join(left, " and ")))
			}
			fmt.Fprintf(&body, "# rule: %s\nif %s {\n", strings.Map(func(c rune) rune {
				if c < ' ' {
					return ' '
				}
				return c
			}, r.Called()), test)
			for _, a := range actions {
				body.WriteString("    " + a + "\n")
			}
			body.WriteString("}\n\n")
		}
	}
	if len(w.needs) > 0 {
		var names []string
		for n := range w.needs {
			names = append(names, quoted(n))
		}
		slices.Sort(names)
		out.Text = "require [" + strings.Join(names, ", ") + "];\n\n"
	}
	out.Text += body.String()
	return out
}

// quoted is a string of Sieve (RFC 5228, section 2.4.2).
func quoted(s string) string {
	return `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`).Replace(s) + `"`
}

func quotedList(all []string) string {
	if len(all) == 1 {
		return quoted(all[0])
	}
	for i, s := range all {
		all[i] = quoted(s)
	}
	return "[" + strings.Join(all, ", ") + "]"
}

// test is the condition of a rule.
func (w *sieving) test(r Rule) (string, error) {
	var any []string
	for _, q := range r.When {
		t, err := w.query(q)
		if err != nil {
			return "", err
		}
		any = append(any, t)
	}
	test := joined("anyof", any)
	for _, q := range r.Except {
		t, err := w.query(q)
		if err != nil {
			return "", err
		}
		test = joined("allof", []string{test, "not " + t})
	}
	return test, nil
}

func joined(how string, tests []string) string {
	if len(tests) == 1 {
		return tests[0]
	}
	return how + " (" + strings.Join(tests, ", ") + ")"
}

// query is one condition; an error says in part of a sentence what of it Sieve cannot ask.
func (w *sieving) query(q search.Query) (string, error) {
	var all []string
	add := func(format string, args ...any) { all = append(all, fmt.Sprintf(format, args...)) }
	if q.Saved != 0 {
		return "", errors.New("a script cannot ask what is on a saved list")
	}
	if q.From != "" {
		add(`address :is "from" %s`, quoted(q.From))
	}
	if q.Domain != "" {
		add(`address :domain :matches "from" %s`, quotedList([]string{q.Domain, "*." + q.Domain}))
	}
	if q.Account != "" {
		add(`address :is ["to", "cc"] %s`, quoted(q.Account))
	}
	if q.List != "" {
		add(`header :contains "list-id" %s`, quoted("<"+q.List+">"))
	}
	for _, t := range q.SubjectTerms() {
		add(not(t)+`header :contains "subject" %s`, quoted(t.Text))
	}
	for _, t := range q.Terms() {
		w.needs["body"] = true
		add(not(t)+`anyof (header :contains ["subject", "from", "to", "cc"] %s, body :text :contains %s)`, quoted(t.Text), quoted(t.Text))
	}
	switch q.Kind {
	case "":
	case mail.List:
		add(`exists "list-id"`)
	case mail.Notice:
		add(`header :contains "auto-submitted" "auto-generated"`)
	default:
		return "", fmt.Errorf("a script cannot ask whether something is %s", map[mail.Kind]string{mail.Person: "from a person", mail.Receipt: "a receipt", mail.Invitation: "an invitation", mail.Bounce: "a report"}[q.Kind])
	}
	if q.Larger > 0 {
		add(`size :over %d`, q.Larger)
	}
	if q.Days != 0 {
		w.needs["date"] = true
		var days []string
		for d := range 7 {
			if q.Days&(1<<d) != 0 {
				days = append(days, strconv.Itoa(d))
			}
		}
		add(`currentdate :is "weekday" %s`, quotedList(days))
	}
	if q.Begin != q.End {
		if q.Begin%60 != 0 || q.End%60 != 0 {
			return "", errors.New("a script asks for whole hours")
		}
		w.needs["date"] = true
		var hours []string
		for h := q.Begin / 60; h%24 != q.End/60%24 || len(hours) == 0; h++ {
			hours = append(hours, fmt.Sprintf("%02d", h%24))
		}
		add(`currentdate :is "hour" %s`, quotedList(hours))
	}
	for what, asked := range map[string]bool{"how important something is": q.Level != "", "whether somebody is a stranger": q.Stranger, "whether something answers you": q.Answers, "for streams": q.Stream != "",
		"for languages": q.Language != "", "for files": q.Files || q.FilesOf != "", "whether something is to you alone": q.Reach != ""} {
		if asked {
			return "", fmt.Errorf("a script cannot ask %s", what)
		}
	}
	if len(all) == 0 {
		return "true", nil
	}
	return joined("allof", all), nil
}

// actions are what a rule does, and in words what of it Sieve cannot do.
func (w *sieving) actions(r Rule, labels, templates map[int64]string) (out, left []string) {
	need := func(name, action string) { w.needs[name], out = true, append(out, action) }
	for _, s := range r.Then {
		switch s.Kind {
		case inbox.Star:
			need("imap4flags", `addflag "\\Flagged";`)
		case inbox.MarkRead:
			need("imap4flags", `addflag "\\Seen";`)
		case inbox.Label:
			for _, id := range s.Labels {
				if name := keyword(labels[id]); name != "" {
					need("imap4flags", "addflag "+quoted(name)+";")
				}
			}
		case inbox.Archive:
			need("fileinto", "fileinto "+quoted(w.boxes.Archive)+";")
		case inbox.ToBin:
			need("fileinto", "fileinto "+quoted(w.boxes.Bin)+";")
		case inbox.ForwardTo, inbox.HandOver:
			out = append(out, "redirect :copy "+quoted(s.Text)+";")
			w.needs["copy"] = true
			if s.Kind == inbox.HandOver {
				left = append(left, "waiting for an answer")
			}
		case inbox.ReplyWith:
			if text := templates[s.Ref]; text != "" {
				need("vacation", "vacation :days 7 "+quoted(text)+";")
			}
		default:
			left = append(left, map[inbox.Kind]string{inbox.Snooze: "snoozing", inbox.MakeFollowUp: "making a follow-up", inbox.ToStream: "its stream", inbox.PassThrough: "letting through", inbox.TellOf: "notifying", inbox.Combo: "running a combo", inbox.Give: "giving"}[s.Kind])
		}
	}
	return out, left
}

// keyword is a label as an IMAP keyword (RFC 9051, section 2.3.2): letters and digits.
func keyword(path string) string {
	return strings.Trim(strings.Map(func(c rune) rune {
		switch {
		case c >= 'a' && c <= 'z', c >= 'A' && c <= 'Z', c >= '0' && c <= '9', c == '-':
			return c
		}
		return '_'
	}, path), "_")
}

// not is what stands before a test of what must not be there.
func not(t search.Term) string {
	if t.Not {
		return "not "
	}
	return ""
}
