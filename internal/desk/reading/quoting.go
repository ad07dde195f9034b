package reading

import (
	"errors"
	"slices"

	"ebbe/internal/core/mail"
	"ebbe/internal/post/mime"
	"ebbe/internal/store"
	"ebbe/internal/store/sharing"
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
	before   map[int]*said // what stands before a message, by its place
	read     int
	carried  map[int64][]int64 // messages that somebody shared here, once that was asked
}

// said is what stands before a message, as far as that was looked at.
type said struct {
	mail.Quotable
	back int // messages
}

func quotingIn(t store.Tx, messages []store.Message) *quoting {
	return &quoting{t: t, messages: messages, texts: map[int64]string{}, before: map[int]*said{}}
}

// alone says of a text that a message quotes whether it stands in none of those before it;
// the message is given by its place. Each of those is looked at once, the nearest first.
func (q *quoting) alone(of int, quoted string) (bool, error) {
	s := q.before[of]
	if s == nil {
		s = &said{}
		q.before[of] = s
	}
	for !s.Has(quoted) {
		if s.back == quotedBack || of-s.back <= 0 {
			return true, nil
		}
		s.back++
		text, err := q.text(q.messages[of-s.back])
		if err != nil {
			return false, err
		}
		s.Add(text)
	}
	return false, nil
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
	if err != nil && !errors.Is(err, store.ErrNotFound) { // one that is lost stops no other
		return "", err
	}
	text := mime.Read(raw).Words()
	q.texts[m.ID] = text
	return text, nil
}

// mark says of what an opened message quotes whether that stands alone.
func (q *quoting) mark(of int, blocks []mail.Block) (err error) {
	if len(q.messages) > 0 && q.carried == nil {
		if q.carried, err = sharing.Sharings(q.t).CameBy(q.messages[0].BoxID, idsOf(q.messages)); err != nil {
			return err
		}
	}
	if of >= 0 && q.carried[q.messages[of].ID] != nil { // it may quote what was not shared: that is folded
		return nil
	}
	for i, b := range blocks {
		if b.Quoted && err == nil {
			blocks[i].Alone, err = q.alone(of, b.Text)
		}
	}
	return err
}

func idsOf(messages []store.Message) (ids []int64) {
	for _, m := range messages {
		ids = append(ids, m.ID)
	}
	return ids
}

// quotesOf is for a message by itself: its conversation, and its place in it.
func quotesOf(t store.Tx, m store.Message) (of int, q *quoting, err error) {
	messages, err := store.Messages(t).MessagesOf(m.BoxID, m.ConversationID)
	of = slices.IndexFunc(messages, func(x store.Message) bool { return x.ID == m.ID })
	return of, quotingIn(t, messages), err
}
