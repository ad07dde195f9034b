package journal

import (
	"context"
	"slices"
	"sync"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
)

// Event tells open tabs what changed.
type Event struct {
	Topics        []string `json:"topics"`
	Conversations []int64  `json:"conversations,omitempty"`
	Key           string   `json:"key,omitempty"` // of the request that caused it
	Notice        `tstype:",extends"`
}

// Notice is a notification: a sentence, and what it leads to, which is a conversation
// or a follow-up; the inbox, if neither is said.
type Notice struct {
	Text         string `json:"notice,omitempty"`
	Conversation int64  `json:"about,omitempty"`    // its ID
	Box          int64  `json:"box,omitempty"`      // the team's that it is in, to whoever may be in another
	FollowUp     string `json:"followUp,omitempty"` // its UID
	To           int64  `json:"-"`                  // the person who alone hears it; 0: all who are in the box
}

// The topics of events.
const (
	TopicMail      = "mail"      // conversations and where they are
	TopicFollowUps = "followups" // follow-ups
	TopicCards     = "cards"     // reminders that wait for an answer
	TopicClock     = "clock"     // the demo's clock was moved
	TopicPerson    = "person"    // settings
	TopicLabels    = "labels"    // labels, places and saved lists
	TopicDelivery  = "delivery"  // plans, holding, and what is held
	TopicSitting   = "sitting"   // a sitting began or ended
	TopicCalendar  = "calendar"  // events
	TopicAccounts  = "accounts"  // accounts and how they stand
	TopicOutbox    = "outbox"    // what is on its way out, and drafts
	TopicRules     = "rules"     // rules, and what they have done
	TopicFiles     = "files"     // what the files of messages say
	TopicTalk      = "talk"      // comments, who follows what, and what concerns whom
	TopicWriting   = "writing"   // an answer that a member of the team is writing
	TopicReading   = "reading"   // what the members of the team have open
	TopicTeams     = "teams"     // something in another box in which whoever hears it works
)

type bus struct {
	mu   sync.Mutex
	subs map[chan Event]listener
}

// listener is somebody in a box, who works in others, too.
type listener struct {
	box, person int64
	others      []int64
}

// hears gives what somebody hears of an event of a box: of one in another of their boxes that
// something changed there, and what is told to them alone.
func (l listener) hears(box int64, e Event) (Event, bool) {
	switch {
	case e.To != 0 && e.To != l.person:
		return e, false
	case box == l.box:
		return e, true
	case !slices.Contains(l.others, box) || !slices.ContainsFunc(e.Topics, abroad):
		return e, false
	}
	there := Event{Topics: []string{TopicTeams}}
	if e.To != 0 {
		there.Notice = e.Notice
	}
	return there, true
}

// abroad says that a topic is heard of in other boxes, too: it may move what is left there, or
// what concerns somebody.
func abroad(topic string) bool {
	return slices.Contains([]string{TopicMail, TopicFollowUps, TopicPerson, TopicTalk}, topic)
}

// Subscribe gives the events of a box to somebody in it until the context ends, and says when
// something changes in the others they work in. A subscriber too slow to follow gets a last event
// about everything and is cut off.
func (j *Journal) Subscribe(ctx context.Context, box, person int64, others ...int64) <-chan Event {
	ch := make(chan Event, 64)
	j.bus.mu.Lock()
	if j.bus.subs == nil {
		j.bus.subs = map[chan Event]listener{}
	}
	j.bus.subs[ch] = listener{box, person, others}
	j.bus.mu.Unlock()
	context.AfterFunc(ctx, func() { j.bus.drop(ch) })
	return ch
}

func (b *bus) drop(ch chan Event) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if _, ok := b.subs[ch]; ok {
		delete(b.subs, ch)
		close(ch)
	}
}

// Announce tells the subscribers of a box what has changed, and who else
// listens.
func (j *Journal) Announce(box int64, e Event) {
	e.Topics = append([]string{}, e.Topics...) // never null
	j.bus.mu.Lock()
	var slow []chan Event
	for ch, l := range j.bus.subs {
		heard, hears := l.hears(box, e)
		if !hears {
			continue
		}
		select {
		case ch <- heard:
		default:
			slow = append(slow, ch)
		}
	}
	j.bus.mu.Unlock()
	for _, ch := range slow {
		j.bus.drop(ch)
	}
	for _, hear := range j.listeners {
		hear(box, e)
	}
}

// Notify has a box hear notices, those to somebody alone in whichever box they are.
func (j *Journal) Notify(box int64, notices []Notice) {
	for _, n := range notices {
		e := Event{Notice: n}
		if n.To != 0 {
			e.Topics = []string{TopicTalk}
		}
		j.Announce(box, e)
	}
}

// Announced tells the subscribers of a box about a topic unless there was an
// error, and gives that back.
func (j *Journal) Announced(box int64, topic string, err error) error {
	if err == nil {
		j.Announce(box, Event{Topics: []string{topic}})
	}
	return err
}

// AnnounceAll tells all subscribers, of whatever box, about these topics.
func (j *Journal) AnnounceAll(topics ...string) {
	j.bus.mu.Lock()
	boxes := map[int64]bool{}
	for _, l := range j.bus.subs {
		boxes[l.box] = true
	}
	j.bus.mu.Unlock()
	for box := range boxes {
		j.Announce(box, Event{Topics: topics})
	}
}

// Listen has f called with all that is announced, of any box. It is called
// before the program goes about its work, and f does not wait for anything.
func (j *Journal) Listen(f func(box int64, e Event)) { j.listeners = append(j.listeners, f) }

// Tell announces changes of a box, caused by the request with that key.
func (j *Journal) Tell(box int64, key string, changes []inbox.Change) {
	topics, conversations := TopicsOf(changes)
	j.Announce(box, Event{Topics: topics, Conversations: conversations, Key: key})
}

// TopicsOf says which views the changes touch, and which conversations; of very many none is named.
func TopicsOf(changes []inbox.Change) (topics []string, conversations []int64) {
	mail, follow, cards, event := false, false, false, false
	for _, c := range changes {
		if c.After != nil {
			mail = true
			conversations = append(conversations, c.After.ID)
		}
		for _, f := range []*followup.FollowUp{c.FollowUpBefore, c.FollowUpAfter} { // it shows where its conversation does
			if f != nil {
				follow = true
				if f.Conversation != 0 {
					conversations = append(conversations, f.Conversation)
				}
			}
		}
		event = event || c.EventBefore != nil || c.EventAfter != nil
		cards = cards || c.EventBefore != nil && c.EventBefore.Card || c.EventAfter != nil && c.EventAfter.Card
		cards = cards || c.FollowUpBefore != nil && c.FollowUpBefore.Card || c.FollowUpAfter != nil && c.FollowUpAfter.Card
	}
	for _, t := range []struct {
		on   bool
		name string
	}{{mail, TopicMail}, {follow, TopicFollowUps}, {cards, TopicCards}, {event, TopicCalendar}} {
		if t.on {
			topics = append(topics, t.name)
		}
	}
	slices.Sort(conversations)
	if conversations = slices.Compact(conversations); len(conversations) > 200 {
		conversations = nil
	}
	return topics, conversations
}
