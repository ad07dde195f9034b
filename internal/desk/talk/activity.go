package talk

import (
	"cmp"
	"context"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/together"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/store"
	"ebbe/internal/store/membership"
	"ebbe/internal/store/talk"
)

const (
	activityPage = 300 // things that happened
	linesOfGroup = 4   // of them that are shown of a conversation
	longestLine  = 240 // characters of a comment
)

// Activity gives what concerns somebody in the box with that ID, or with 0 in all they work
// in, the newest first, in groups by conversation; before is where the page before ended.
func (d *Desk) Activity(ctx context.Context, who identity.Who, box, before int64) (v Activity, err error) {
	v.Groups = []GroupView{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		concerns, err := talk.Talk(t).Concerns(who.Person, box, before, activityPage)
		if err != nil {
			return err
		}
		if len(concerns) == activityPage {
			v.Next = concerns[len(concerns)-1].ID
		}
		v.Groups, err = group(t, who, concerns)
		return err
	})
	return v, err
}

// Since gives what has happened since the concern with that ID which concerns somebody in any box
// they work in and of which they have not heard yet, as Activity does, and the ID of the newest
// of their concerns.
func Since(t store.Tx, who identity.Who, told int64) (groups []GroupView, newest int64, err error) {
	if newest, err = talk.Talk(t).Newest(who.Person); err != nil || newest <= told {
		return nil, newest, err
	}
	concerns, err := talk.Talk(t).Unheard(who.Person, told, activityPage)
	if err != nil {
		return nil, 0, err
	}
	groups, err = group(t, who, concerns)
	return groups, newest, err
}

// group says what happened by conversation, that of which something is newest first.
func group(t store.Tx, who identity.Who, concerns []talk.Concern) ([]GroupView, error) {
	groups := []GroupView{}
	r := teller{t: t, who: who, names: map[int64]map[int64]string{}, people: map[int64][]together.Named{}}
	if err := r.fetch(concerns); err != nil {
		return nil, err
	}
	at, told := map[[2]int64]int{}, map[int64]bool{} // comments that have been
	for _, c := range concerns {
		key := [2]int64{c.BoxID, c.ConversationID}
		i, known := at[key]
		if !known {
			i = len(groups)
			at[key] = i
			groups = append(groups, GroupView{Box: c.BoxID, Conversation: c.ConversationID, Subject: c.Subject, Lines: []LineView{}})
		}
		g := &groups[i]
		if !c.Heard {
			g.Unheard++
		}
		if said := c.Entry.Ref; c.Entry.Kind == inbox.Comment {
			if told[said] {
				continue // as it stands it has been said already
			}
			told[said] = true
		}
		if len(g.Lines) == linesOfGroup {
			g.More++
			continue
		}
		g.Lines = append(g.Lines, r.line(c))
	}
	return groups, nil
}

// teller says what happened.
type teller struct {
	t        store.Tx
	who      identity.Who
	names    map[int64]map[int64]string // by box
	people   map[int64][]together.Named // by box
	comments map[int64]talk.Comment
}

func (r *teller) fetch(concerns []talk.Concern) (err error) {
	var said []int64
	for _, c := range concerns {
		if c.Entry.Kind == inbox.Comment {
			said = append(said, c.Entry.Ref)
		}
		if r.names[c.BoxID] != nil {
			continue
		}
		if r.names[c.BoxID], err = membership.Membership(r.t).Names(c.BoxID); err != nil {
			return err
		}
		if r.people[c.BoxID], err = fellows(r.t, identity.Who{Box: c.BoxID}); err != nil {
			return err
		}
	}
	r.comments, err = talk.Talk(r.t).Commented(said)
	return err
}

func (r *teller) line(c talk.Concern) LineView {
	e := c.Entry
	l := LineView{Entry: e.ID, At: e.At, Actor: e.Actor, Kind: e.Kind, Text: e.Text, Heard: c.Heard}
	if e.Actor == store.ByPerson {
		l.Who = r.names[c.BoxID][e.PersonID]
	}
	switch said := r.comments[e.Ref]; {
	case e.Kind == inbox.Comment && said.BoxID == c.BoxID && !said.Gone: // one that is deleted is not read here either
		pieces := together.PiecesOf(said.Text, r.people[c.BoxID])
		l.Text = together.Line(pieces, longestLine)
		for _, id := range together.CalledIn(pieces) {
			l.Called = l.Called || id == r.who.Person
		}
	case e.Kind == inbox.Comment:
		l.Text = ""
	case e.Kind == inbox.Give:
		for _, change := range e.Changes {
			f := change.FollowUpAfter
			if f == nil || f.Conversation != c.ConversationID {
				continue
			}
			switch l.Called = f.Owner.Person == r.who.Person; f.Owner.Person {
			case 0:
				l.Text = "gave it back"
			case e.PersonID:
				l.Text = "took it"
			default:
				l.Text = "gave it to " + r.names[c.BoxID][f.Owner.Person]
			}
		}
	}
	return l
}

// Hear notes that somebody has heard of all there is of a conversation of the box with that
// ID, or with 0 of the one they are in; without a conversation of all that concerns them there.
func (d *Desk) Hear(ctx context.Context, who identity.Who, box, conversation int64) error {
	box = cmp.Or(box, who.Box)
	err := d.store.Write(ctx, func(t store.Tx) error {
		return talk.Talk(t).Hear(box, who.Person, conversation) // of nobody else's
	})
	if err == nil {
		d.Journal.Announce(box, journal.Event{Topics: []string{journal.TopicTalk}, Notice: journal.Notice{To: who.Person}})
	}
	return err
}
