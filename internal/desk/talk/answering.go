package talk

import (
	"fmt"
	"strings"
	"unicode/utf8"

	"ebbe/internal/core/say"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/store"
	"ebbe/internal/store/membership"
	"ebbe/internal/store/talk"
)

const (
	longestLook  = 4000 // bytes of an answer being written that others see
	longestBegun = 160  // characters of it in a question
)

// writingIn gives who else is writing an answer to a conversation, or has begun one.
func writingIn(t store.Tx, who identity.Who, names map[int64]string, conversation int64, now when.Instant) ([]WritingView, error) {
	others, err := talk.Talk(t).Answering(who.Box, who.Person, conversation)
	out := []WritingView{}
	for _, o := range others {
		text := o.Text
		if len(text) > longestLook {
			for end := longestLook; ; end-- {
				if utf8.RuneStart(text[end]) {
					text = text[:end] + "…"
					break
				}
			}
		}
		v := WritingView{Name: names[o.PersonID], Since: o.Begun, Changed: o.Changed, Now: now-o.Changed < together.StillWriting && !o.Trail.Untouched(o.Changed), Text: text}
		if h := o.Trail.Last(); h.To == o.PersonID {
			v.By, v.Why = names[h.By], h.Why
		}
		out = append(out, v)
	}
	return out, err
}

// Question is what somebody is asked before their answer goes.
type Question struct {
	Text     string
	Answered int64 // the line of the answer that it tells of; 0: of none that is sent
}

// BeforeAnswering is what somebody is asked whose answer to a conversation, begun then, is to go:
// another member has answered meanwhile, unless that is the line they were told of; or, if they
// were asked nothing yet, is writing right now. Nothing is asked in one's own box.
func BeforeAnswering(t store.Tx, who identity.Who, conversation int64, begun when.Instant, told int64, asked bool, now when.Instant) (q Question, err error) {
	if who.Team == 0 || conversation == 0 {
		return q, nil
	}
	names, err := membership.Membership(t).Names(who.Box)
	if err != nil {
		return q, err
	}
	e, text, err := talk.Talk(t).Answered(who.Box, who.Person, conversation, begun)
	switch {
	case err != nil:
		return q, err
	case e.ID > told:
		q.Answered = e.ID
		q.Text = fmt.Sprintf("%s has answered this, %s: “%s” Send yours as well?", names[e.PersonID], who.Week.Say(when.Moment{At: e.At}, now), beginning(text))
		return q, nil
	case asked:
		return q, nil
	}
	others, err := writingIn(t, who, names, conversation, now)
	for _, o := range others {
		if o.Now {
			q.Text = fmt.Sprintf("%s has been writing an answer %s: “%s” Send yours all the same?", o.Name, forHowLong(who, o.Since, now), beginning(o.Text))
			break
		}
	}
	return q, err
}

// forHowLong says since when something goes on.
func forHowLong(who identity.Who, since, now when.Instant) string {
	switch minutes := int(now-since) / 60_000; {
	case minutes < 1:
		return "for a moment"
	case minutes < 60:
		return "for " + say.Plural(minutes, "minute")
	default:
		return "since " + who.Week.Say(when.Moment{At: since}, now)
	}
}

// beginning is how a text begins, in one line.
func beginning(text string) string {
	line := []rune(strings.Join(strings.Fields(text), " "))
	if len(line) > longestBegun {
		return strings.TrimSpace(string(line[:longestBegun-1])) + "…"
	}
	return string(line)
}
