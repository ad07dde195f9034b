// Package writing knows the rules of messages the user writes: to whom an
// answer goes, what it is called, what it quotes, whether a file was forgotten,
// and what becomes of a message on its way out.
package writing

import (
	"regexp"
	"slices"
	"strings"

	"ebbe/internal/core/mail"
)

// Mode is what a draft is the beginning of.
type Mode string

// The modes.
const (
	New      Mode = "new"
	Reply    Mode = "reply"
	ReplyAll Mode = "reply-all"
	Forward  Mode = "forward"
	HandOver Mode = "hand-over" // forwarded, and tracked
)

// Modes lists them.
var Modes = []Mode{New, Reply, ReplyAll, Forward, HandOver}

// Answers says that the mode answers a message, rather than passing it on or
// beginning anew.
func (m Mode) Answers() bool { return m == Reply || m == ReplyAll }

// Recipients are to whom an answer to m goes: where its writer wants answers
// (Reply-To, RFC 5322 section 3.6.2), and, if all are answered, everybody else
// it named. The user's own addresses are left out. An answer to what the user
// wrote goes to those it was written to.
func Recipients(m mail.Message, own map[string]bool, all bool) (to, cc []mail.Address) {
	seen := map[string]bool{}
	add := func(list []mail.Address, more ...mail.Address) []mail.Address {
		for _, a := range more {
			if a.Address != "" && !own[a.Address] && !seen[a.Address] {
				seen[a.Address] = true
				list = append(list, a)
			}
		}
		return list
	}
	switch {
	case own[m.From.Address]:
		to = add(nil, m.To...)
	case len(m.ReplyTo) > 0:
		to = add(nil, m.ReplyTo...)
	}
	if len(to) == 0 {
		to = add(nil, m.From)
	}
	if all {
		cc = add(nil, slices.Concat(m.To, m.Cc)...)
	} else if own[m.From.Address] {
		return to, nil
	}
	return to, cc
}

// Subject is what an answer, or what passes m on, is called.
func Subject(mode Mode, subject string) string {
	switch {
	case mode.Answers() && !mail.IsReply(subject):
		return "Re: " + subject
	case mode == Forward || mode == HandOver:
		if !strings.HasPrefix(strings.ToLower(subject), "fwd:") {
			return "Fwd: " + subject
		}
	}
	return subject
}

// Quote is what an answer says below its own words: who wrote when, and each
// line marked. What was itself quoted in m stays, marked once more.
func Quote(m mail.Message, when string) string {
	text := strings.TrimRight(m.Text, " \r\n\t")
	if text == "" {
		return ""
	}
	var b strings.Builder
	b.WriteString("On " + when + ", " + m.From.Short() + " wrote:\n")
	for line := range strings.SplitSeq(strings.ReplaceAll(text, "\r\n", "\n"), "\n") {
		line = strings.TrimRight(line, " \t")
		if strings.HasPrefix(line, ">") || line == "" {
			b.WriteString(">" + line + "\n")
		} else {
			b.WriteString("> " + line + "\n")
		}
	}
	return b.String()
}

// Forwarded is what a forwarded message says below the user's words: its head,
// and its text as it was.
func Forwarded(m mail.Message, when string) string {
	var b strings.Builder
	b.WriteString("Passed on, from " + name(m.From) + "\n")
	if len(m.To) > 0 {
		b.WriteString("to " + names(m.To) + "\n")
	}
	if len(m.Cc) > 0 {
		b.WriteString("copied to " + names(m.Cc) + "\n")
	}
	b.WriteString("on " + when + ", “" + m.Subject + "”\n\n" + strings.TrimRight(strings.ReplaceAll(m.Text, "\r\n", "\n"), " \n\t") + "\n")
	return b.String()
}

func name(a mail.Address) string {
	if a.Name == "" {
		return a.Address
	}
	return a.Name + " <" + a.Address + ">"
}

func names(list []mail.Address) string {
	out := make([]string, len(list))
	for i, a := range list {
		out[i] = name(a)
	}
	return strings.Join(out, ", ")
}

// promises are words with which a writer says that something is attached.
var promises = regexp.MustCompile(`(?i)\b(attached|attaching|attachments?|enclosed|in the attached|i attach|find (it |them )?enclosed)\b`)

// Forgotten gives the words in the user's own text that promise a file; empty
// if there are none.
func Forgotten(text string) string {
	for line := range strings.SplitSeq(text, "\n") {
		if strings.HasPrefix(strings.TrimSpace(line), ">") {
			continue
		}
		if found := promises.FindString(line); found != "" {
			return found
		}
	}
	return ""
}
