// Package sharing has a conversation be seen in two boxes, somebody's own and that of a team of
// theirs, and carries what comes into one to the other. Each box keeps for itself what is made of
// it there: where it is, what it is called, notes, labels, follow-ups and drafts.
package sharing

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/identity"
	"ebbe/internal/intake"
	"ebbe/internal/journal"
	"ebbe/internal/post/mime"
	"ebbe/internal/problem"
	"ebbe/internal/store"
	"ebbe/internal/store/membership"
	"ebbe/internal/store/sharing"
)

const (
	mostShared = 20   // teams that see one conversation
	longestWhy = 2000 // letters

	mostMessages = 2000 // of a conversation that are shown at all (store.Messages.MessagesOf), and so shared
)

// Desk is where conversations are shared.
type Desk struct {
	Journal *journal.Journal

	store   *store.Store
	intake  *intake.Intake
	carries sync.Mutex // held while something is carried
}

// New makes a desk over a store, and has the intake ask it what others are to see.
func New(s *store.Store, j *journal.Journal, in *intake.Intake) *Desk {
	j.Register(map[inbox.Kind]journal.Kind{
		inbox.Share:    {Verb: "shared", Step: true, Before: unshare},
		inbox.Unshare:  {Verb: "ended sharing", Step: true, Before: unshare},
		inbox.SharedIn: {Verb: "shared it here"},
	})
	d := &Desk{Journal: j, store: s, intake: in}
	in.Shared, in.Carry = d.note, d.Carry
	return d
}

// kept is a sharing as its lines in the journal keep it.
type kept struct {
	ID    int64        `json:"id"`
	Ended when.Instant `json:"ended"`
}

// unshare has a sharing end, or go on again, as before the step. What the team has seen stays there.
func unshare(t store.Tx, s *journal.Step) error {
	var was, is kept
	if err := s.Done.Chosen.Read(&was, &is); err != nil {
		return err
	}
	r, err := sharing.Sharings(t).ByID(s.Who.Box, is.ID)
	if err != nil || r.Ended != is.Ended {
		s.Nothing()
		return nil
	}
	if was.Ended == 0 { // it goes on only while whoever shares it is still of the team
		if _, err := membership.Membership(t).In(r.PersonID, r.TeamBoxID); err != nil {
			s.Nothing()
			return nil
		}
	}
	r.Ended = was.Ended
	return sharing.Sharings(t).Put(&r)
}

// Ways says what can be shared of a conversation of one's own, and with whom.
func (d *Desk) Ways(ctx context.Context, who identity.Who, conversation int64) (v SharingView, err error) {
	v.Teams = []TeamChoice{}
	err = d.store.Read(ctx, func(t store.Tx) error {
		row, messages, err := d.own(t, who, conversation)
		if err != nil {
			return err
		}
		v.Messages = len(messages)
		for _, m := range messages {
			if m.Stub != 0 {
				v.Unfetched++
			}
		}
		if raw, err := store.Messages(t).Original(messages[len(messages)-1].ID); err == nil {
			text := mime.Read(raw).Words()
			v.Quotes = strings.TrimSpace(text) != strings.TrimSpace(mail.OwnWords(text))
		}
		shared, err := sharing.Sharings(t).Of(who.Box, []int64{row.ID})
		if err != nil {
			return err
		}
		all, err := membership.Membership(t).Of(who.Person)
		for _, s := range all {
			if !s.Team {
				continue
			}
			fellows, err := membership.Membership(t).Fellows(s.BoxID)
			if err != nil {
				return err
			}
			v.Teams = append(v.Teams, TeamChoice{Box: s.BoxID, Name: s.Name, People: len(fellows), Shared: goesOn(shared[row.ID], s.BoxID) != nil})
		}
		return err
	})
	return v, err
}

// goesOn is the sharing with a team that somebody made and nobody has ended; nil if there is none.
func goesOn(rows []sharing.Row, team int64) *sharing.Row {
	for _, r := range rows {
		if r.TeamBoxID == team && r.Ended == 0 && !r.Addressed {
			return &r
		}
	}
	return nil
}

// own is a conversation of somebody's own that can be shared, with its messages.
func (d *Desk) own(t store.Tx, who identity.Who, conversation int64) (store.Row, []store.Message, error) {
	if who.Team != 0 {
		return store.Row{}, nil, problem.Invalid("team", "This conversation is a team's already. Nothing was shared.")
	}
	row, err := store.Conversations(t).Opened(who.Box, who.Person, conversation)
	if err != nil {
		return row, nil, err
	}
	if row.Place == inbox.Junk {
		return row, nil, problem.Invalid("team", "This conversation is junk. Bring it back first, then share it; nothing was shared.")
	}
	messages, err := store.Messages(t).MessagesOf(who.Box, row.ID)
	if err == nil && len(messages) == 0 {
		err = store.ErrNotFound
	}
	return row, messages, err
}

// Share has the members of a team see a conversation of somebody's own from now on, one they are
// a member of.
func (d *Desk) Share(ctx context.Context, who identity.Who, key string, conversation int64, w Wish) (SharedNow, error) {
	w.Why = strings.TrimSpace(strings.ToValidUTF8(w.Why, "�"))
	if len([]rune(w.Why)) > longestWhy {
		return SharedNow{}, problem.Invalid("why", fmt.Sprintf("Nothing was shared: there is room for %d letters. What you typed is still here.", longestWhy))
	}
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out SharedNow, err error) {
		row, messages, err := d.own(t, who, conversation)
		if err != nil {
			return out, err
		}
		team, err := membership.Membership(t).In(who.Person, w.Team)
		if err == nil && (!team.Team || !team.Role.May(together.Work)) {
			err = store.ErrNotFound
		}
		if err != nil {
			return out, err
		}
		before, err := sharing.Sharings(t).Of(who.Box, []int64{row.ID})
		switch {
		case err != nil:
			return out, err
		case goesOn(before[row.ID], w.Team) != nil:
			return out, problem.Invalid("team", team.Name+" sees this conversation already. Nothing was changed.")
		case len(before[row.ID]) >= mostShared:
			return out, problem.Invalid("team", fmt.Sprintf("A conversation can be shared %d times, and this one was. Nothing was shared.", mostShared))
		}
		now := d.Journal.Now()
		r := sharing.Row{BoxID: who.Box, PersonID: who.Person, ConversationID: row.ID, TeamBoxID: w.Team, Since: now, Why: w.Why}
		for _, b := range before[row.ID] { // nobody had shared it, but it had come to both
			if b.TeamBoxID == w.Team && b.Addressed && b.Ended == 0 {
				r.ID = b.ID
			}
		}
		if !w.Whole {
			r.Begins = messages[len(messages)-1].Date
		}
		if err := sharing.Sharings(t).Put(&r); err != nil {
			return out, err
		}
		goes, err := queue(t, who.Box, messages, []sharing.Row{r}, false)
		if err != nil {
			return out, err
		}
		chosen, err := store.Choose(kept{r.ID, now}, kept{r.ID, 0})
		if err != nil {
			return out, err
		}
		e := store.Entry{Kind: inbox.Share, At: now, Ref: r.ID, ConversationID: row.ID, Touched: []int64{row.ID}, Chosen: chosen, Text: titleOf(row.Conversation) + ", with " + team.Name}
		out.Sharing = r.ID
		out.Decided, err = d.Journal.Commit(t, who, e, nil, func(int) string { return sharedText(team.Name, goes, len(messages)) })
		out.First = row.ID
		return out, err
	})
	if fresh {
		d.Carry(ctx)
		d.Journal.Announce(who.Box, journal.Event{Topics: []string{journal.TopicMail}, Conversations: []int64{out.First}, Key: key})
	}
	return out, err
}

// sharedText says what is shared.
func sharedText(team string, goes, of int) string {
	switch {
	case goes == of && of == 1:
		return fmt.Sprintf("Shared with %s: its message, and what comes from now on.", team)
	case goes == of && of == mostMessages:
		return fmt.Sprintf("Shared with %s: its newest %d messages, and what comes from now on.", team, of)
	case goes == of:
		return fmt.Sprintf("Shared with %s: all %d messages, and what comes from now on.", team, of)
	default:
		return fmt.Sprintf("Shared with %s: its newest message, and what comes from now on. What was written before stays yours.", team)
	}
}

// End has a team see no more of a conversation than it has already. Whoever shared it ends it, or
// whoever looks after the team.
func (d *Desk) End(ctx context.Context, who identity.Who, key string, id int64) (journal.Decided, error) {
	var r sharing.Row
	out, fresh, err := journal.Once(ctx, d.Journal, who, key, func(t store.Tx) (out journal.Decided, err error) {
		if r, err = sharing.Sharings(t).ByID(who.Box, id); err != nil {
			return out, err
		}
		if r.PersonID != who.Person {
			if err := who.May(together.Admit); err != nil {
				return out, err
			}
		}
		if r.Ended != 0 {
			return out, &problem.Error{Type: "gone", Text: "It is not shared any more already. Nothing was changed."}
		}
		now := d.Journal.Now()
		was := kept{r.ID, 0}
		r.Ended = now
		if err := sharing.Sharings(t).Put(&r); err != nil {
			return out, err
		}
		chosen, err := store.Choose(was, kept{r.ID, now})
		if err != nil {
			return out, err
		}
		here := r.ConversationID
		if who.Box == r.TeamBoxID {
			here = r.TeamConversationID
		}
		row, err := store.Conversations(t).Opened(who.Box, who.Person, here)
		if err != nil {
			return out, err
		}
		e := store.Entry{Kind: inbox.Unshare, At: now, Ref: r.ID, ConversationID: row.ID, Touched: []int64{row.ID}, Chosen: chosen, Text: titleOf(row.Conversation)}
		return d.Journal.Commit(t, who, e, nil, func(int) string {
			return "Not shared any more. The team keeps what it has seen; what comes from now on it does not see."
		})
	})
	if fresh {
		d.Journal.Announce(r.BoxID, journal.Event{Topics: []string{journal.TopicMail}, Conversations: []int64{r.ConversationID}, Key: key})
		d.Journal.Announce(r.TeamBoxID, journal.Event{Topics: []string{journal.TopicMail}, Conversations: []int64{r.TeamConversationID}, Key: key})
	}
	return out, err
}

func titleOf(c store.Conversation) string {
	if c.Title != "" {
		return c.Title
	}
	return c.Subject
}

// Of gives where else a conversation is seen. In the box of a team that it came to by itself
// nothing is said of who else it was written to.
func Of(t store.Tx, who identity.Who, conversation int64) ([]SharedView, error) {
	out := []SharedView{}
	rows, err := sharing.Sharings(t).Of(who.Box, []int64{conversation})
	if err != nil || len(rows) == 0 {
		return out, err
	}
	for _, r := range rows[conversation] {
		if who.Team != 0 && r.Addressed || r.TeamConversationID == 0 && r.Ended != 0 {
			continue
		}
		in, err := membership.Membership(t).In(who.Person, r.TeamBoxID)
		if errors.Is(err, store.ErrNotFound) { // nothing more is said of a team one is no member of
			continue
		}
		if err != nil {
			return out, err
		}
		names, err := membership.Membership(t).Names(r.TeamBoxID)
		if err != nil {
			return out, err
		}
		v := SharedView{ID: r.ID, Box: r.TeamBoxID, Conversation: r.TeamConversationID, Team: in.Name, By: names[r.PersonID], Why: r.Why, Since: r.Since, From: r.Begins, Ended: r.Ended, Addressed: r.Addressed,
			Ends: r.Ended == 0 && !r.Addressed && (r.PersonID == who.Person || who.Team != 0 && who.May(together.Admit) == nil)}
		if v.Waits, err = sharing.Sharings(t).Waits(r.ID); err != nil {
			return out, err
		}
		if r.TeamConversationID != 0 {
			there, err := store.Conversations(t).Resolve(r.TeamBoxID, r.TeamConversationID)
			if err != nil && !errors.Is(err, store.ErrNotFound) {
				return out, err
			}
			v.Conversation = there
			of, err := store.FollowUps(t).FollowUpsOf(r.TeamBoxID, []int64{there})
			if err != nil {
				return out, err
			}
			var open []followup.FollowUp
			for _, f := range of[there] {
				if f.Data.Open() {
					open = append(open, f.Data)
				}
			}
			if o := followup.OwnerOf(open); o.Person != 0 {
				v.Owner, v.Mine = names[o.Person], o.Person == who.Person
			}
		}
		out = append(out, v)
	}
	return out, nil
}

// queue notes which of the messages of a box are to be seen where else, by sharings that each of
// them may be of, and says how many are.
func queue(t store.Tx, box int64, messages []store.Message, rows []sharing.Row, arrived bool) (n int, err error) {
	ids := make([]int64, len(messages))
	for i, m := range messages {
		ids[i] = m.ID
	}
	came, err := sharing.Sharings(t).CameBy(box, ids)
	if err != nil {
		return 0, err
	}
	var goes []sharing.Carried
	for _, m := range messages {
		for _, r := range rows {
			c := together.Coming{In: together.OwnSide, Written: m.Date, New: arrived, Carried: len(came[m.ID]) > 0, Back: slices.Contains(came[m.ID], r.ID)}
			to := r.TeamBoxID
			if r.TeamBoxID == box {
				c.In, to = together.TeamSide, r.BoxID
			}
			if r.Sharing().Carries(c) {
				goes = append(goes, sharing.Carried{SharingID: r.ID, MessageID: m.ID, BoxID: box, ToBoxID: to})
			}
		}
	}
	return len(goes), sharing.Sharings(t).Queue(goes)
}
