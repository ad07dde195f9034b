package decide

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/search"
	"ebbe/internal/core/when"
	"ebbe/internal/desk/followups"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/counting"
	"ebbe/internal/store/sending"
)

// Decide takes a decision and stores it with its line in the journal. The key
// makes it safe to repeat. Conversations that no longer exist, or are no longer
// where the user saw them, are passed over, and the answer says how many; if
// none that was named exists the error says so.
func (d *Desk) Decide(ctx context.Context, who identity.Who, key string, req Decision) (journal.Decided, error) {
	kind, known := decisions[req.Kind]
	if !known {
		return journal.Decided{}, problem.Invalid("kind", "Ebbe does not know that decision, so nothing was changed. Load the page again.")
	}
	if kind.where != nil && req.Where == nil {
		req.Where = kind.where()
	}
	if len(req.Conversations) == 0 && req.Where == nil {
		return journal.Decided{}, problem.Invalid("conversations", "No conversation was chosen, so nothing was decided.")
	}
	now := d.Journal.Now()
	req.Return = req.Return.Realign()
	if req.FollowUp != nil {
		req.FollowUp.Due = req.FollowUp.Due.Realign()
	}
	var changes []inbox.Change
	var calls []journal.Notice
	sent := false
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		a := asked{d, t, who, now, &req, &[]sending.Outgoing{}, &calls}
		var stale int
		if changes, stale, err = a.changes(); err != nil {
			return out, err
		}
		e := store.Entry{Kind: req.Kind, At: now, SittingID: req.Sitting}
		says := func(n int) string { return taken{req, who.Week, now, n, changes}.sentence() }
		if kind.about != nil && len(changes) > 0 {
			if e.ConversationID, e.Text, err = kind.about(a, changes); err != nil {
				return out, err
			}
		}
		if out, err = d.Journal.Commit(t, who, e, changes, says); err != nil {
			return out, err
		}
		sent = len(*a.sent) > 0
		for _, o := range *a.sent { // it goes with this line, and is taken back with it
			o.EntryID = out.Entry
			if err := sending.Outbox(t).PutOutgoing(&o); err != nil {
				return out, err
			}
		}
		if kind.then != nil {
			if err := kind.then(a, changes, &out); err != nil {
				return out, err
			}
		}
		if out.Stale = stale; stale > 0 && len(changes) == 0 {
			out.Text = "That has been decided elsewhere meanwhile, so nothing was changed."
		} else if stale > 0 {
			out.Text += fmt.Sprintf(" %d had been decided elsewhere meanwhile and stay as they are.", stale)
		}
		return out, err
	})
	if fresh {
		d.Journal.Tell(who.Box, key, changes)
		d.Journal.Notify(who.Box, calls)
		if sent {
			d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicOutbox}, Key: key})
		}
	}
	return out, err
}

// decision is what Ebbe has to know of a kind of decision about conversations:
// what it needs and checks, changes and says, and how it is called.
type decision struct {
	verb  string                                              // what was done, in the history
	named bool                                                // of several it is spoken by name, too
	step  bool                                                // it is a step that the user takes back
	where func() *search.Query                                // what it is about if nothing was chosen; may be nil
	does  func(asked) ([]act, error)                          // checks what was asked, and says what is done to each conversation
	says  func(taken) string                                  // in a sentence; nil: nothing
	about func(asked, []inbox.Change) (int64, string, error)  // the conversation and the words for the history; nil: what is usual
	then  func(asked, []inbox.Change, *journal.Decided) error // what follows once it is stored; may be nil
}

// decisions are all kinds of decisions about conversations, each in a file of its
// own or of its like.
var decisions map[inbox.Kind]decision

func init() { // as combos are made of the others
	decisions = map[inbox.Kind]decision{
		inbox.ToBin: toBin, inbox.ToJunk: toJunk, inbox.NotJunk: notJunk, inbox.AllJunk: allJunk, inbox.Archive: archive, inbox.Rest: theRest, inbox.FreshStart: freshStart, inbox.ToInbox: toInbox,
		inbox.Snooze: snooze, inbox.Star: star, inbox.Unstar: unstar, inbox.MarkUnread: markUnread, inbox.MarkRead: markRead, inbox.Look: look, inbox.Leave: leaveIt,
		inbox.Silence: silence, inbox.Unsilence: unsilence, inbox.Important: important, inbox.Unimportant: unimportant, inbox.Rename: rename, inbox.WriteNote: writeNote, inbox.Label: label, inbox.Combo: combo, inbox.MakeFollowUp: makeFollowUp, inbox.Give: give,
	}
}

// asked is a decision as it is looked at, in its transaction.
type asked struct {
	d     *Desk
	t     store.Tx
	who   identity.Who
	now   when.Instant
	req   *Decision
	sent  *[]sending.Outgoing // what it has put into the outbox, until its line is written
	calls *[]journal.Notice   // who is to hear of it at once
}

const passedAtOnce = 20 // conversations that one decision sends on

// passOn sends the newest message of a conversation on, after the span in which that can
// be taken back.
func (a asked) passOn(conversation int64, to string) error {
	if len(*a.sent) == passedAtOnce {
		return problem.Invalid("combo", fmt.Sprintf("Nothing was done: %d conversations are passed on at once at most. Choose fewer.", passedAtOnce))
	}
	o, err := a.d.Writing.PassOn(a.t, a.who, conversation, to, a.now)
	*a.sent = append(*a.sent, o)
	return err
}

// inSitting forgets the sitting of a decision if that has ended meanwhile: the
// decision holds all the same.
func (a asked) inSitting() error {
	if a.req.Sitting == 0 {
		return nil
	}
	s, err := counting.Sittings(a.t).Last(a.who.Box, a.who.Person)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	if s.ID != a.req.Sitting || s.Ended != 0 {
		a.req.Sitting = 0
	}
	return nil
}

// act is one thing a decision does to each of its conversations.
type act struct {
	changes func(inbox.Conversation) (inbox.Conversation, error) // nil: nothing about the conversation itself
	make    *followups.NewFollowUp                               // a follow-up to be made
	finish  bool                                                 // the open follow-ups are to be finished
	passOn  string                                               // the address to which its newest message is to be sent on
	give    *giving                                              // to whom of the team it is to be given
}

// changing is the one act of a decision that changes conversations and cannot
// fail.
func changing(how func(inbox.Conversation) inbox.Conversation) []act {
	return []act{{changes: func(c inbox.Conversation) (inbox.Conversation, error) { return how(c), nil }}}
}

// taken is a decision that has been taken about n conversations.
type taken struct {
	req     Decision
	w       when.Week
	now     when.Instant
	n       int
	changes []inbox.Change
}

func (k taken) sentence() string {
	says := decisions[k.req.Kind].says
	switch {
	case len(k.changes) == 0 && k.req.Where != nil:
		return "There was nothing of that kind in the inbox, so nothing was changed."
	case says == nil:
		return ""
	}
	return says(k)
}

// many is how many there are if there are several: " 3".
func (k taken) many() string {
	if k.n > 1 {
		return fmt.Sprintf(" %d", k.n)
	}
	return ""
}

// list is the same after a colon.
func (k taken) list() string { return strings.Replace(k.many(), " ", ": ", 1) }

// done is what says a word, and about how many.
func done(word string) func(taken) string {
	return func(k taken) string { return word + k.many() + "." }
}

// doneTo is what says some words, and after a colon about how many.
func doneTo(words string) func(taken) string {
	return func(k taken) string { return words + k.list() + "." }
}

// chosen is which conversations the decision is about, as they are now.
func (req *Decision) chosen(t store.Tx, who identity.Who) (ids []int64, err error) {
	if req.Where == nil {
		ids = slices.Clone(req.Conversations)
		merged, err := store.Conversations(t).Merged(who.Box, ids)
		if err != nil {
			return nil, err
		}
		for i, id := range ids {
			if merged[id] {
				if ids[i], err = store.Conversations(t).Resolve(who.Box, id); err != nil {
					return nil, err
				}
			}
		}
		return ids, nil
	}
	if err := req.Where.Valid(); err != nil {
		return nil, problem.Invalid("where", "Nothing was changed: "+err.Error()+".")
	}
	q := *req.Where
	q.Place = inbox.Inbox
	return store.Search(t).IDs(who.Box, who.Person, q, inbox.NewestFirst)
}

// changes are what the decision changes. stale is how many of the conversations
// were passed over, as they have left the place where they were seen.
func (a asked) changes() (changes []inbox.Change, stale int, err error) {
	req := a.req
	if err := a.inSitting(); err != nil {
		return nil, 0, err
	}
	acts, err := decisions[req.Kind].does(a)
	if err != nil {
		return nil, 0, err
	}
	ids, err := req.chosen(a.t, a.who)
	if err != nil {
		return nil, 0, err
	}
	return a.doing(acts, ids)
}

// doing is what the acts change about conversations, as they are now.
func (a asked) doing(acts []act, ids []int64) (changes []inbox.Change, stale int, err error) {
	req := a.req
	state, err := store.Conversations(a.t).State(a.who.Box, a.who.Person, ids, nil)
	if err != nil {
		return nil, 0, err
	}
	if len(state.Conversations) == 0 && req.Where == nil {
		return nil, 0, store.ErrNotFound
	}
	b := maker{t: a.t, who: a.who, now: a.now}
	for _, id := range ids {
		before, ok := state.Conversations[id]
		if !ok {
			continue
		}
		delete(state.Conversations, id) // named twice, decided once
		if before.Place == inbox.Held { // it is not there yet
			stale++
			continue
		}
		if req.Seen != "" && before.Place != req.Seen {
			stale++
			continue
		}
		after := before
		for _, s := range acts {
			if s.changes != nil {
				if after, err = s.changes(after); err != nil {
					return nil, 0, err
				}
			}
			b.want(id, s)
			if s.passOn != "" {
				if err := a.passOn(id, s.passOn); err != nil {
					return nil, 0, err
				}
			}
		}
		if c := (inbox.Change{Before: &before, After: &after}); !c.Nothing() {
			changes = append(changes, c)
		}
	}
	made, err := b.followUps()
	return append(made, changes...), stale + b.taken, err
}

// Look notes that the person has opened a conversation: it is read now, and if
// it is still undecided, that was one more look.
func (d *Desk) Look(ctx context.Context, who identity.Who, key string, id int64) (journal.Decided, error) {
	return d.Decide(ctx, who, key, Decision{Kind: inbox.Look, Conversations: []int64{id}})
}
