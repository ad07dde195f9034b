package reading

import (
	"context"
	"strings"

	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/store"
	"ebbe/internal/store/weighing"
)

// The bounds of what is noted at once, and of each of it.
const (
	mostNoted   = 200
	longestRead = 24 * 60 * 60 // seconds
	longestText = 500          // bytes of a notification
)

// Note keeps what a person had open and was shown, as it happened: later nothing
// could make it up. It is kept in this database alone. What cannot be, or is of
// somebody else, is left out.
func (d *Desk) Note(ctx context.Context, who identity.Who, n Noted) error {
	now := d.now()
	at := func(t when.Instant) when.Instant { // a browser's clock may be anything
		if t <= now-longestRead*1000 || t > now {
			return now
		}
		return t
	}
	var readings []weighing.Reading
	for _, r := range n.Readings[:min(len(n.Readings), mostNoted)] {
		if r.Seconds > 0 {
			readings = append(readings, weighing.Reading{PersonID: who.Person, BoxID: who.Box, ConversationID: r.Conversation, MessageID: r.Message, At: at(r.At), Seconds: min(r.Seconds, longestRead), Whole: r.Whole})
		}
	}
	var notices []weighing.Notice
	for _, x := range n.Notices[:min(len(n.Notices), mostNoted)] {
		if text := strings.ToValidUTF8(x.Text[:min(len(x.Text), longestText)], ""); text != "" {
			notices = append(notices, weighing.Notice{PersonID: who.Person, BoxID: who.Box, At: at(x.At), Text: text})
		}
	}
	if len(readings)+len(notices) == 0 {
		return nil
	}
	return d.store.Write(ctx, func(t store.Tx) error {
		if err := weighing.Readings(t).NoteReadings(who.Box, readings); err != nil {
			return err
		}
		return weighing.Readings(t).NoteNotices(notices)
	})
}
