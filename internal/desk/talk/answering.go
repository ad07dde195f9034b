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
	"ebbe/internal/store/sharing"
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

// Writing gives who else is writing an answer to a conversation, or has begun one, in the box somebody
// works in; and across a sharing. Of an answer in somebody's own box it is said that they write it
// just now, and nothing of what it says.
func Writing(t store.Tx, who identity.Who, conversation int64, now when.Instant) ([]WritingView, error) {
	out := []WritingView{}
	where, err := places(t, who, conversation)
	if err != nil {
		return nil, err
	}
	for _, p := range where {
		there := who
		there.Box = p.box
		others, err := writingIn(t, there, p.names, p.conversation, now)
		if err != nil {
			return nil, err
		}
		for _, o := range others {
			if p.apart {
				o = WritingView{Name: o.Name, Since: o.Since, Changed: o.Changed, Now: o.Now, Apart: true}
			}
			if o.Now || !p.apart {
				out = append(out, o)
			}
		}
	}
	return out, nil
}

// Elsewhere is a conversation in another box, in which the same is answered.
type Elsewhere struct{ Box, Conversation int64 }

// Also gives where else a conversation is answered: in the boxes it is shared with.
func Also(t store.Tx, who identity.Who, conversation int64) (out []Elsewhere, err error) {
	where, err := places(t, who, conversation)
	for _, p := range where {
		if p.box != who.Box {
			out = append(out, Elsewhere{p.box, p.conversation})
		}
	}
	return out, err
}

// Question is what somebody is asked before their answer goes.
type Question struct {
	Text     string
	Answered int64 // the line of the answer that it tells of; 0: of none that is sent
}

// place is where a conversation is answered: in the box somebody works in, or in another that it is
// shared with.
type place struct {
	box, conversation int64
	names             map[int64]string
	apart             bool // in the own box of somebody who shares it: what they write there is theirs
}

// places are those of a conversation in which others than whoever answers it may answer.
func places(t store.Tx, who identity.Who, conversation int64) (out []place, err error) {
	add := func(box, conversation, team int64) error {
		names, err := membership.Membership(t).Names(team)
		out = append(out, place{box, conversation, names, box != team})
		return err
	}
	if who.Team != 0 {
		if err := add(who.Box, conversation, who.Box); err != nil {
			return nil, err
		}
	}
	shared, err := sharing.Sharings(t).Of(who.Box, []int64{conversation})
	for _, r := range shared[conversation] {
		if r.Ended != 0 || r.TeamConversationID == 0 || r.Addressed && who.Team != 0 { // of what came to both the team sees what came to it
			continue
		}
		there := r.TeamConversationID
		if who.Team == 0 {
			there, err = store.Conversations(t).Resolve(r.TeamBoxID, there)
			if err == nil {
				err = add(r.TeamBoxID, there, r.TeamBoxID)
			}
		} else if there, err = store.Conversations(t).Resolve(r.BoxID, r.ConversationID); err == nil {
			err = add(r.BoxID, there, who.Box)
		}
		if err != nil {
			return nil, err
		}
	}
	return out, err
}

// BeforeAnswering is what somebody is asked whose answer to a conversation, begun then, is to go:
// another member has answered meanwhile, unless that is the line they were told of; or, if they
// were asked nothing yet, is writing right now. That is asked across a sharing, too; of an answer
// that is written in somebody's own box nothing but that it is.
func BeforeAnswering(t store.Tx, who identity.Who, conversation int64, begun when.Instant, told int64, asked bool, now when.Instant) (q Question, err error) {
	if conversation == 0 {
		return q, nil
	}
	where, err := places(t, who, conversation)
	if err != nil {
		return q, err
	}
	for _, p := range where {
		e, text, err := talk.Talk(t).Answered(p.box, who.Person, p.conversation, begun)
		if err != nil {
			return q, err
		}
		if e.ID > max(told, q.Answered) {
			q.Answered = e.ID
			q.Text = fmt.Sprintf("%s has answered this, %s: “%s” Send yours as well?", p.names[e.PersonID], who.Week.Say(when.Moment{At: e.At}, now), beginning(text))
		}
	}
	if q.Answered != 0 || asked {
		return q, nil
	}
	for _, p := range where {
		there := who
		there.Box = p.box
		others, err := writingIn(t, there, p.names, p.conversation, now)
		if err != nil {
			return q, err
		}
		for _, o := range others {
			switch {
			case !o.Now:
				continue
			case p.apart:
				q.Text = fmt.Sprintf("%s has been writing an answer %s, from their own box. Send yours all the same?", o.Name, forHowLong(who, o.Since, now))
			default:
				q.Text = fmt.Sprintf("%s has been writing an answer %s: “%s” Send yours all the same?", o.Name, forHowLong(who, o.Since, now), beginning(o.Text))
			}
			return q, nil
		}
	}
	return q, nil
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
