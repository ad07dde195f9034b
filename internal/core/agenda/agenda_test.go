package agenda

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/when"
)

func TestWhatWaitsFollowsFromTheState(t *testing.T) {
	snoozed := inbox.Conversation{ID: 7, Position: inbox.Position{Place: inbox.Snoozed, Return: when.Moment{At: 50}}}
	thing, ok := OfConversation(snoozed)
	require.True(t, ok)
	require.Equal(t, Thing{At: 50, Kind: inbox.Return, Conversation: 7}, thing)
	_, ok = OfConversation(inbox.ComeBack(snoozed, 50, 50, false))
	require.False(t, ok, "what is back waits no more")

	f := followup.FollowUp{UID: "a", Status: followup.NeedsAction, Reminders: []followup.Reminder{{At: when.Moment{At: 60}}}}
	w := when.Ordinary("UTC")
	_, ok = OfFollowUp(f, w)
	require.True(t, ok)
	require.Equal(t, f, f.Fire(w, 59), "not before its time")
	fired := f.Fire(w, 61)
	require.True(t, fired.Card)
	_, ok = OfFollowUp(fired, w)
	require.False(t, ok, "a reminder fires once")
	f.Status = followup.Completed
	_, ok = OfFollowUp(f, w)
	require.False(t, ok, "what is done needs no reminder")
}

// An agenda run through any stops and jumps of the clock, forwards and back,
// fires each thing exactly once, never early, and in order.
func TestEachThingOnceAndInOrder(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		state := map[int64]inbox.Conversation{}
		for id := int64(1); id <= 20; id++ {
			at := when.Instant(rapid.Int64Range(1, 1000).Draw(t, "return"))
			state[id] = inbox.Conversation{ID: id, Position: inbox.Position{Place: inbox.Snoozed, Return: when.Moment{At: at}}}
		}
		fired := map[int64]int{}
		for _, now := range append(rapid.SliceOf(rapid.Int64Range(0, 1200)).Draw(t, "clock"), 2000) {
			now := when.Instant(now)
			var things []Thing
			for _, c := range state {
				if thing, ok := OfConversation(c); ok {
					things = append(things, thing)
				}
			}
			due := Due(things, now)
			if rapid.Bool().Draw(t, "stopped half way") && now < 2000 {
				due = due[:len(due)/2]
			}
			last := Thing{}
			for _, thing := range due {
				if thing.At > now || Order(last, thing) > 0 {
					t.Fatalf("%v came after %v at %d", thing, last, now)
				}
				last = thing
				fired[thing.Conversation]++
				state[thing.Conversation] = inbox.ComeBack(state[thing.Conversation], thing.At, now, false)
			}
		}
		for id := range state {
			if fired[id] != 1 {
				t.Fatalf("%d fired %d times", id, fired[id])
			}
		}
	})
}
