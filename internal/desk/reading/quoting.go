package reading

import (
	"slices"

	"ebbe/internal/core/mail"
	"ebbe/internal/post/mime"
	"ebbe/internal/store"
)

// How far what a message quotes is looked for in what came before it.
const (
	quotedBack  = 10      // messages
	quotedBytes = 2 << 20 // of originals, of one conversation
)

// quoting looks for what the messages of a conversation quote in those before them.
type quoting struct {
	t        store.Tx
	messages []store.Message // the earliest first
	texts    map[int64]string
	read     int
}

func quotingIn(t store.Tx, messages []store.Message) *quoting {
	return &quoting{t: t, messages: messages, texts: map[int64]string{}}
}

// alone says of each text that a message quotes whether it stands in none of those before
// it; it is given by its place among the messages.
func (q *quoting) alone(of int, quoted ...string) ([]bool, error) {
	out := make([]bool, len(quoted))
	for i := range out {
		out[i] = true
	}
	var said mail.Quotable
	for back := of - 1; back >= 0 && of-back <= quotedBack; back-- {
		text, err := q.text(q.messages[back])
		if err != nil {
			return nil, err
		}
		said.Add(text)
		left := false
		for i, one := range quoted {
			out[i] = out[i] && !said.Has(one)
			left = left || out[i]
		}
		if !left {
			break
		}
	}
	return out, nil
}

// text is what a message says, quoted lines included, unless too much was read already.
func (q *quoting) text(m store.Message) (string, error) {
	if text, known := q.texts[m.ID]; known {
		return text, nil
	}
	if q.read += m.Size; q.read > quotedBytes {
		return "", nil
	}
	raw, err := store.Messages(q.t).Original(m.ID)
	if err != nil {
		return "", err
	}
	text := mime.Read(raw).Words()
	q.texts[m.ID] = text
	return text, nil
}

// mark says of what an opened message quotes whether that stands alone.
func (q *quoting) mark(of int, blocks []mail.Block) error {
	var at []int
	var quoted []string
	for i, b := range blocks {
		if b.Quoted {
			at, quoted = append(at, i), append(quoted, b.Text)
		}
	}
	if len(quoted) == 0 {
		return nil
	}
	alone, err := q.alone(of, quoted...)
	for i, a := range alone {
		blocks[at[i]].Alone = a
	}
	return err
}

// quotesOf is for a message by itself: its conversation, and its place in it.
func quotesOf(t store.Tx, m store.Message) (of int, q *quoting, err error) {
	messages, err := store.Messages(t).MessagesOf(m.BoxID, m.ConversationID)
	of = slices.IndexFunc(messages, func(x store.Message) bool { return x.ID == m.ID })
	return of, quotingIn(t, messages), err
}
