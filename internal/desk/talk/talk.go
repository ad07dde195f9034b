// Package talk is what the members of a team say to each other about a conversation, who
// follows it, and what of all that concerns whom. Nothing of it is mail: it is kept apart, and
// no message is ever made of it.
package talk

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/say"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/journal"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/membership"
	"ebbe/internal/store/talk"
)

// mostComments are those of one conversation.
const mostComments = 1000

// Desk is where the members of a team talk.
type Desk struct {
	Journal *journal.Journal

	store   *store.Store
	present presence
}

// New makes a desk over a store, and tells the journal of comments.
func New(s *store.Store, j *journal.Journal) *Desk {
	j.Register(map[inbox.Kind]journal.Kind{inbox.Comment: {Verb: "commented", Step: true, Named: true, Before: unsay}})
	return &Desk{Journal: j, store: s}
}

// kept is a comment as its lines in the journal keep it.
type kept struct {
	ID      int64          `json:"id"`
	Text    string         `json:"text"`
	Changed when.Instant   `json:"changed"`
	Earlier []talk.Version `json:"earlier"`
	Gone    bool           `json:"gone"`
}

func keptOf(c talk.Comment) kept { return kept{c.ID, c.Text, c.Changed, c.Earlier, c.Gone} }

// unsay has a comment stand as it did before it was written, changed or deleted.
func unsay(t store.Tx, s *journal.Step) error {
	var was, is kept
	if err := s.Done.Chosen.Read(&was, &is); err != nil {
		return err
	}
	c, err := talk.Talk(t).Comment(s.Who.Box, is.ID)
	if err != nil || c.Text != is.Text || c.Changed != is.Changed || c.Gone != is.Gone {
		s.Nothing()
		return nil
	}
	s.Entry.Touched = append(s.Entry.Touched, c.ConversationID)
	s.Topics = append(s.Topics, journal.TopicTalk)
	c.Text, c.Changed, c.Earlier, c.Gone = was.Text, was.Changed, was.Earlier, was.Gone
	return talk.Talk(t).Put(&c)
}

// fellows are the members of the team somebody works in, by whose names they can be called.
func fellows(t store.Tx, who identity.Who) (out []together.Named, err error) {
	all, err := membership.Membership(t).Fellows(who.Box)
	for _, f := range all {
		out = append(out, together.Named{ID: f.PersonID, Name: f.Name})
	}
	return out, err
}

// Say has the members of the team read a comment in a conversation. Those it calls hear of it
// and follow the conversation from then on, as does whoever writes it. Files that were added
// before go with it.
func (d *Desk) Say(ctx context.Context, who identity.Who, key string, conversation int64, text string, files ...int64) (CommentMade, error) {
	return d.write(ctx, who, key, func(t store.Tx) (talk.Comment, error) {
		row, err := store.Conversations(t).Opened(who.Box, who.Person, conversation)
		if err != nil {
			return talk.Comment{}, err
		}
		before, err := talk.Talk(t).Of(who.Box, row.ID)
		if err == nil && len(before) >= mostComments {
			err = problem.Invalid("text", fmt.Sprintf("The comment was not written: there are %d in this conversation already. Say it in another.", mostComments))
		}
		return talk.Comment{BoxID: who.Box, ConversationID: row.ID, PersonID: who.Person, Earlier: []talk.Version{}, Gone: true}, err
	}, text, files)
}

// Change has a comment of one's own say something else; how it stood before stays to be read.
// With no text it is deleted.
func (d *Desk) Change(ctx context.Context, who identity.Who, key string, comment int64, text string) (CommentMade, error) {
	return d.write(ctx, who, key, func(t store.Tx) (talk.Comment, error) {
		c, err := talk.Talk(t).Comment(who.Box, comment)
		switch {
		case err != nil:
			return c, err
		case c.PersonID != who.Person:
			return c, &problem.Error{Type: "not-allowed", Text: "Only whoever wrote a comment can change it. Nothing was changed."}
		case c.Gone:
			return c, &problem.Error{Type: "gone", Text: "That comment was deleted meanwhile. Nothing was changed; Ctrl Z brings it back."}
		}
		return c, nil
	}, text, nil)
}

// write stores a comment with that text, one that is gone as a new one.
func (d *Desk) write(ctx context.Context, who identity.Who, key string, find func(store.Tx) (talk.Comment, error), text string, files []int64) (CommentMade, error) {
	if err := d.may(who); err != nil {
		return CommentMade{}, err
	}
	text = strings.TrimSpace(strings.ReplaceAll(strings.ToValidUTF8(text, "�"), "\r\n", "\n"))
	if len(text) > together.LongestComment {
		return CommentMade{}, problem.Invalid("text", fmt.Sprintf("The comment was not written: there is room for %d letters. What you typed is still here.", together.LongestComment))
	}
	var c talk.Comment
	var calls []journal.Notice
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out CommentMade, err error) {
		if c, err = find(t); err != nil {
			return out, err
		}
		people, err := fellows(t, who)
		if err != nil {
			return out, err
		}
		with, err := adding(t, who, files)
		if err != nil {
			return out, err
		}
		now, before, fresh := d.Journal.Now(), c, c.ID == 0
		if text == "" && len(with) > 0 {
			text = namesOf(with)
		}
		pieces := together.PiecesOf(text, people)
		switch {
		case text == "" && fresh:
			return out, problem.Invalid("text", "A comment says something. Nothing was written.")
		case text == "":
			c.Gone = true
		case fresh:
			c.Text, c.At, c.Gone = text, now, false
		case c.Text != text:
			c.Earlier = append(slices.Clone(c.Earlier), talk.Version{Until: now, Text: c.Text})
			c.Earlier = c.Earlier[max(0, len(c.Earlier)-together.MostEdits):]
			c.Text, c.Changed = text, now
		default:
			return CommentMade{Comment: c.ID}, nil
		}
		if err := talk.Talk(t).Put(&c); err != nil {
			return out, err
		}
		if err := talk.Talk(t).Belong(files, c.ID); err != nil {
			return out, err
		}
		before.ID = c.ID
		chosen, err := store.Choose(keptOf(before), keptOf(c))
		if err != nil {
			return out, err
		}
		called := calledAnew(who, pieces, together.PiecesOf(before.Text, people))
		if !c.Gone {
			for _, person := range append([]int64{who.Person}, called...) {
				if err := talk.Talk(t).Follow(who.Box, person, []int64{c.ConversationID}, true, now); err != nil {
					return out, err
				}
			}
		}
		rows, err := store.Conversations(t).ConversationRows(who.Box, []int64{c.ConversationID})
		if err != nil {
			return out, err
		}
		e := store.Entry{Kind: inbox.Comment, At: now, Ref: c.ID, ConversationID: c.ConversationID, Touched: []int64{c.ConversationID}, Chosen: chosen, Text: titleOf(rows[c.ConversationID])}
		if out.Decided, err = d.Journal.Commit(t, who, e, nil, func(int) string { return sentence(c, before, called, people) + nobodyCalled(pieces) }); err != nil {
			return out, err
		}
		out.Comment = c.ID
		calls, err = CallsFor(t, who, called, c.ConversationID, together.Line(pieces, longestNotice), now)
		return out, err
	})
	if fresh && c.ID != 0 {
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicTalk}, Conversations: []int64{c.ConversationID}, Key: key})
		d.Journal.Notify(who.Box, calls)
	}
	return out, err
}

// longestNotice is how much of a comment a notification says, in characters.
const longestNotice = 120

// calledAnew are those whom a comment calls that did not before, but whoever writes it.
func calledAnew(who identity.Who, is, was []together.Piece) (out []int64) {
	before := together.CalledIn(was)
	for _, id := range together.CalledIn(is) {
		if id != who.Person && !slices.Contains(before, id) {
			out = append(out, id)
		}
	}
	return out
}

// sentence says what was done with a comment, and who hears of it.
func sentence(c, before talk.Comment, called []int64, people []together.Named) string {
	var names []string
	for _, p := range people {
		if slices.Contains(called, p.ID) {
			names = append(names, p.Name)
		}
	}
	told := ""
	if len(names) > 0 {
		told = " " + say.List(names) + " will hear of it."
	}
	switch {
	case c.Gone:
		return "The comment is deleted."
	case before.Text == "":
		return "Said to the team." + told
	default:
		return "The comment is changed; how it stood before can be seen." + told
	}
}

// nobodyCalled says whom a comment names as if it called them, where nobody of the team is called so.
func nobodyCalled(pieces []together.Piece) string {
	names := together.Uncalled(pieces)
	if len(names) == 0 {
		return ""
	}
	for i, n := range names {
		names[i] = "@" + n
	}
	return " Nobody of the team is called " + say.List(names) + ", so nobody hears of it by that."
}

func titleOf(c *store.Conversation) string {
	if c == nil {
		return ""
	}
	return cmp.Or(c.Title, c.Subject)
}

// may refuses whoever is in no team's box.
func (d *Desk) may(who identity.Who) error {
	if who.Team == 0 {
		return problem.Invalid("text", "Comments are for the others of a team, and this box is yours alone. Nothing was written; a note is for yourself.")
	}
	return who.May(together.Work)
}

// Follow has somebody hear of each change of a conversation, or not any more.
func (d *Desk) Follow(ctx context.Context, who identity.Who, key string, conversation int64, follows bool) (journal.Decided, error) {
	if err := d.may(who); err != nil {
		return journal.Decided{}, err
	}
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		row, err := store.Conversations(t).Opened(who.Box, who.Person, conversation)
		if err != nil {
			return out, err
		}
		if out.Text = "You hear no more of it, unless you are called."; follows {
			out.Text = "You hear of each change of it from now on."
		}
		if out.Left, err = store.Conversations(t).Left(who.Box); err != nil {
			return out, err
		}
		conversation = row.ID
		return out, talk.Talk(t).Follow(who.Box, who.Person, []int64{row.ID}, follows, d.Journal.Now())
	})
	if fresh {
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicTalk}, Conversations: []int64{conversation}, Key: key})
	}
	return out, err
}

// Of gives what is said about a conversation; nil where the box is nobody's but one's own.
func Of(t store.Tx, who identity.Who, conversation int64) (*TalkView, error) {
	if who.Team == 0 {
		return nil, nil
	}
	v := &TalkView{Comments: []CommentView{}, Followers: []MemberName{}}
	comments, err := talk.Talk(t).Of(who.Box, conversation)
	if err != nil {
		return nil, err
	}
	people, err := fellows(t, who)
	if err != nil {
		return nil, err
	}
	names, err := membership.Membership(t).Names(who.Box)
	if err != nil {
		return nil, err
	}
	ids := make([]int64, len(comments))
	for i, c := range comments {
		ids[i] = c.ID
	}
	files, err := talk.Talk(t).FilesOf(ids)
	if err != nil {
		return nil, err
	}
	for _, c := range comments {
		is := CommentView{ID: c.ID, Name: names[c.PersonID], At: c.At, Pieces: together.PiecesOf(c.Text, people), Own: c.PersonID == who.Person, Changed: c.Changed, Earlier: []EarlierView{}, Files: []CommentFile{}}
		if is.Own {
			is.Text = c.Text
		}
		for _, e := range c.Earlier {
			is.Earlier = append(is.Earlier, EarlierView{e.Until, together.PiecesOf(e.Text, people)})
		}
		for _, f := range files[c.ID] {
			is.Files = append(is.Files, viewOf(f))
		}
		v.Comments = append(v.Comments, is)
	}
	follow, err := talk.Talk(t).Followers(who.Box, conversation)
	if err != nil {
		return nil, err
	}
	for _, id := range follow {
		v.Followers = append(v.Followers, MemberName{id, names[id]})
		v.Follows = v.Follows || id == who.Person
	}
	v.Unheard, err = talk.Talk(t).UnheardIn(who.Box, who.Person, conversation)
	return v, err
}
