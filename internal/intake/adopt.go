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

// Own makes mail from addresses that have become the person's theirs. The changes
// are what that does to the conversations in which nobody else has written; they
// are for the caller to store, with came added to the delta of their line: so many
// had been held, and have come in.
func Own(t store.Tx, who identity.Who, addresses []string, now when.Instant) (changes []inbox.Change, came int, err error) {
	held, err := store.Conversations(t).OnlyFrom(who.Box, inbox.Held, addresses)
	if err != nil {
		return nil, 0, err
	}
	if came, err = store.HeldMail(t).ComeIn(who.Box, held, inbox.Position{Reason: inbox.LetIn, Since: now}, 0); err != nil {
		return nil, 0, err
	}
	ids, err := store.Conversations(t).OnlyFrom(who.Box, inbox.Inbox, addresses)
	if err != nil {
		return nil, 0, err
	}
	state, err := store.Conversations(t).State(who.Box, who.Person, ids, nil)
	if err != nil {
		return nil, 0, err
	}
	for _, id := range ids {
		before := state.Conversations[id]
		after := before.In(inbox.Archived, now)
		changes = append(changes, inbox.Change{Before: &before, After: &after})
	}
	return changes, came, store.Conversations(t).Adopt(who.Box, who.Person, now)
}
