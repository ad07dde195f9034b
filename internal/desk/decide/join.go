package decide

import (
	"context"
	"fmt"
	"slices"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/say"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
)

// mostJoined is how many conversations are joined at once.
const mostJoined = 50

// Join makes one conversation of several, on the person's word. The oldest takes
// the others in; where it is then, inbox.Joined says.
func (d *Desk) Join(ctx context.Context, who identity.Who, key string, ids []int64) (journal.Decided, error) {
	if len(ids) < 2 || len(ids) > mostJoined {
		return journal.Decided{}, problem.Invalid("conversations", fmt.Sprintf("Choose two conversations or more to join, %d at most. Nothing was changed.", mostJoined))
	}
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		state, err := store.Conversations(t).State(who.Box, who.Person, ids, nil)
		if err != nil {
			return out, err
		}
		var there []int64
		for id, c := range state.Conversations {
			if c.Place != inbox.Held {
				there = append(there, id)
			}
		}
		if len(there) < 2 {
			return out, store.ErrNotFound
		}
		slices.Sort(there)
		into := there[0]
		before := state.Conversations[into]
		after := before
		changes = nil
		for _, id := range there[1:] {
			from := state.Conversations[id]
			after, _ = inbox.Joined(after, from)
			r, err := store.Conversations(t).Merge(who.Box, id, into)
			if err != nil {
				return out, err
			}
			changes = append(changes, inbox.Change{Before: &from, Regroup: &r})
		}
		changes = append([]inbox.Change{{Before: &before, After: &after}}, changes...)
		return d.Journal.Commit(t, who, store.Entry{Kind: inbox.Join, At: d.Journal.Now()}, changes, func(int) string {
			return fmt.Sprintf("Joined: %d conversations are one now.", len(there))
		})
	})
	if fresh {
		d.Journal.Tell(who.Box, key, changes)
	}
	return out, err
}

// Part makes a conversation of its own of some messages of one, on the person's
// word. Follow-ups about these messages go with them, and no message joins the
// two again by itself.
func (d *Desk) Part(ctx context.Context, who identity.Who, key string, conversation int64, messages []int64) (journal.Decided, error) {
	var changes []inbox.Change
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		if conversation, err = store.Conversations(t).Resolve(who.Box, conversation); err != nil {
			return out, err
		}
		all, err := store.Messages(t).MessagesOf(who.Box, conversation)
		if err != nil {
			return out, err
		}
		var going []int64
		for _, m := range all {
			if slices.Contains(messages, m.ID) {
				going = append(going, m.ID)
			}
		}
		if len(going) == 0 || len(going) == len(all) {
			return out, problem.Invalid("messages", "Choose some of the messages, and not all of them. Nothing was changed.")
		}
		state, err := store.Conversations(t).State(who.Box, who.Person, []int64{conversation}, nil)
		if err != nil {
			return out, err
		}
		r, err := store.Conversations(t).Splinter(who.Box, conversation, going)
		if err != nil {
			return out, err
		}
		made := inbox.Conversation{ID: r.Into, Position: state.Conversations[conversation].Position}
		changes = []inbox.Change{{After: &made, Regroup: &r}}
		out, err = d.Journal.Commit(t, who, store.Entry{Kind: inbox.Part, At: d.Journal.Now(), ConversationID: r.Into, Text: all[slices.IndexFunc(all, func(m store.Message) bool { return m.ID == going[0] })].Subject}, changes, func(int) string {
			return "Parted: " + say.Plural(len(going), "message") + " in a conversation of their own."
		})
		return out, err
	})
	if fresh {
		d.Journal.Tell(who.Box, key, changes)
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicMail}, Conversations: []int64{conversation}, Key: key})
	}
	return out, err
}
