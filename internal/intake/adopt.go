package intake

import (
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/store"
)

// Adopt gives a person what is theirs in the box, with a line in the journal
// for what left the inbox because nobody else had written in it.
func Adopt(t store.Tx, who identity.Who, now when.Instant) error {
	before, err := store.Conversations(t).CountPlace(who.Box, inbox.Inbox)
	if err != nil {
		return err
	}
	if err := store.Conversations(t).Adopt(who.Box, who.Person, now); err != nil {
		return err
	}
	after, err := store.Conversations(t).CountPlace(who.Box, inbox.Inbox)
	if err != nil || after == before {
		return err
	}
	return store.Journal(t).Record(&store.Entry{BoxID: who.Box, PersonID: who.Person, Actor: store.ByMail, Kind: inbox.Import, At: now,
		Delta: after - before, Count: before - after, Text: "Your own messages left the inbox"})
}
