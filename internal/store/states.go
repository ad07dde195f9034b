package store

import (
	"encoding/json"
	"errors"
	"slices"

	"ebbe/internal/core/agenda"
	"ebbe/internal/core/calendar"
	"ebbe/internal/core/followup"
	"ebbe/internal/core/inbox"
	"ebbe/internal/core/together"
	"ebbe/internal/core/when"
	"ebbe/internal/store/sqlite"
)

// State is what decisions change about some conversations and follow-ups.
type State struct {
	Conversations map[int64]inbox.Conversation
	FollowUps     map[string]followup.FollowUp
	Events        map[string]calendar.Event
}

// State loads the named conversations of a box as the person sees them, and the
// follow-ups and events with these UIDs. What does not exist there is missing
// from the result.
func (t Conversations) State(box, person int64, conversations []int64, uids []string) (State, error) {
	s := State{map[int64]inbox.Conversation{}, map[string]followup.FollowUp{}, map[string]calendar.Event{}}
	for chunk := range slices.Chunk(conversations, sqlite.AtOnce) {
		rows, err := scanRows(t.db.Table("conversations c").Select(rowColumns).
			Joins("LEFT JOIN marks m ON m.conversation_id = c.id AND m.person_id = ?", person).
			Where("+c.box_id = ? AND c.merged_to = 0 AND c.id IN ?", box, chunk))
		if err != nil {
			return s, err
		}
		for _, r := range rows {
			s.Conversations[r.ID] = r.State(Mark{Unread: r.Unread, Starred: r.Starred, Looks: r.Looks})
		}
	}
	for chunk := range slices.Chunk(uids, sqlite.AtOnce) {
		var rows []FollowUp
		if err := t.db.Where("box_id = ? AND uid IN ?", box, chunk).Find(&rows).Error; err != nil {
			return s, err
		}
		for _, r := range rows {
			s.FollowUps[r.UID] = r.Data
		}
		var events []Event
		if err := t.db.Where("box_id = ? AND uid IN ?", box, chunk).Find(&events).Error; err != nil {
			return s, err
		}
		for _, e := range events {
			s.Events[e.UID] = e.Data
		}
	}
	return s, nil
}

// anew has conversations be unread for the members of a team, as something came there.
func (t Conversations) anew(box int64, ids []int64) error {
	if len(ids) == 0 {
		return nil
	}
	raw, err := json.Marshal(ids)
	if err != nil {
		return err
	}
	return t.db.Exec("INSERT INTO marks(person_id, conversation_id, unread, starred, looks) SELECT m.person_id, j.value, 1, 0, 0 FROM members m, json_each(?) j WHERE m.box_id = ? AND m.role <> ?"+
		" ON CONFLICT(person_id, conversation_id) DO UPDATE SET unread = 1, looks = 0", string(raw), box, together.Own).Error
}

// Apply stores what the changes say, and with each what the agenda says of it.
func (t Conversations) Apply(box, person int64, changes []inbox.Change) error {
	var recount []int64
	for _, c := range changes {
		if c.Regroup != nil {
			if err := t.regroup(box, *c.Regroup); err != nil {
				return err
			}
			recount = append(recount, c.Regroup.From, c.Regroup.Into)
		}
	}
	var came []int64
	for _, c := range changes {
		if c.After != nil && c.After.Unread && c.After.Place == inbox.Inbox && (c.Before == nil || !c.Before.Unread || c.Before.Place != inbox.Inbox) {
			came = append(came, c.After.ID)
		}
	}
	for chunk := range slices.Chunk(changes, sqlite.AtOnce) {
		if err := t.putConversations(box, person, chunk); err != nil {
			return err
		}
	}
	if len(came) > 0 {
		if keeper, err := People(t).Keeper(box); err != nil {
			return err
		} else if keeper == person { // it came by itself, and to all
			if err := t.anew(box, came); err != nil {
				return err
			}
		}
	}
	var put []followup.FollowUp
	for _, c := range changes {
		var err error
		switch {
		case c.FollowUpAfter != nil:
			put = append(put, *c.FollowUpAfter)
		case c.FollowUpBefore != nil:
			err = FollowUps(t).dropFollowUp(box, c.FollowUpBefore.UID)
		case c.EventAfter != nil:
			err = Calendar(t).PutEvent(box, *c.EventAfter)
		case c.EventBefore != nil:
			err = Calendar(t).dropEvent(box, c.EventBefore.UID)
		}
		if err != nil {
			return err
		}
	}
	for _, id := range recount {
		if err := t.Recount(box, id); err != nil && !errors.Is(err, ErrNotFound) { // what was joined to another has nothing to count
			return err
		}
	}
	return FollowUps(t).PutFollowUps(box, put)
}

// image is inbox.Conversation as it goes into the columns.
type image struct {
	inbox.Conversation
	Local   string       `json:"local"`
	Zone    string       `json:"zone"`
	At      when.Instant `json:"at"`
	Waits   bool         `json:"waits"`
	Labeled bool         `json:"labeled"` // its labels changed
	Carried bool         `json:"carried"` // a server has to hear of it
	Left    inbox.Place  `json:"left"`    // the place it has left with this; empty: none
}

// putConversations stores the conversations of the changes, all at once.
func (t Conversations) putConversations(box, person int64, changes []inbox.Change) error {
	var images []image
	var labeled []int64
	for _, c := range changes {
		if c.After == nil {
			continue
		}
		thing, waits := agenda.OfConversation(*c.After)
		i := image{Conversation: *c.After, At: thing.At, Waits: waits, Local: c.After.Return.Local, Zone: c.After.Return.Zone}
		i.Carried = c.Before == nil || c.Before.Place != c.After.Place || c.Before.Unread != c.After.Unread || c.Before.Starred != c.After.Starred
		if c.Before != nil && c.Before.Place != c.After.Place {
			i.Left = c.Before.Place
		}
		if i.Labeled = c.Before == nil || c.Before.Labels != c.After.Labels; i.Labeled {
			labeled = append(labeled, c.After.ID)
		}
		images = append(images, i)
	}
	if len(images) == 0 {
		return nil
	}
	raw, err := json.Marshal(images)
	if err != nil {
		return err
	}
	all := map[string]any{"all": string(raw), "box": box, "person": person}
	statements := []string{
		`UPDATE conversations SET place = j.value->>'place', reason = j.value->>'reason', since = j.value->>'since', snoozed_at = j.value->>'snoozedAt', snoozes = COALESCE(j.value->>'snoozes', 0),
			return_at = j.value->>'$.return.at', return_local = j.value->>'local', return_zone = j.value->>'zone', until = j.value->>'until', site = j.value->>'site', round = COALESCE(j.value->>'round', 0),
			title = COALESCE(j.value->>'title', ''), note = COALESCE(j.value->>'note', ''), labels = COALESCE(j.value->>'labels', ''), said = COALESCE(j.value->>'said', ''), silent = COALESCE(j.value->>'silent', 0),
			stream = COALESCE(j.value->>'stream', ''), kept = COALESCE(j.value->>'kept', 0)
			FROM json_each(@all) j WHERE conversations.id = j.value->>'id'`,
		`INSERT INTO marks(person_id, conversation_id, unread, starred, looks)
			SELECT @person, value->>'id', value->>'unread', value->>'starred', value->>'looks' FROM json_each(@all) WHERE true
			ON CONFLICT DO UPDATE SET unread = excluded.unread, starred = excluded.starred, looks = excluded.looks`,
		`DELETE FROM things WHERE kind = 'return' AND follow_up = '' AND conversation_id IN (SELECT value->>'id' FROM json_each(@all) WHERE NOT value->>'waits')`,
		`INSERT INTO things(box_id, at, kind, conversation_id, follow_up)
			SELECT @box, value->>'at', 'return', value->>'id', '' FROM json_each(@all) WHERE value->>'waits'
			ON CONFLICT DO UPDATE SET at = excluded.at`,
		`INSERT INTO errands(conversation_id, box_id, rev, attempts, at, problem, left_places)
			SELECT value->>'id', @box, 1, 0, 0, '', value->>'left' FROM json_each(@all) WHERE value->>'carried' AND EXISTS (SELECT 1 FROM accounts WHERE box_id = @box)
			ON CONFLICT DO UPDATE SET rev = rev + 1, attempts = 0, at = 0,
				left_places = CASE WHEN excluded.left_places = '' THEN left_places WHEN left_places = '' THEN excluded.left_places ELSE left_places || ',' || excluded.left_places END`,
	}
	for _, q := range statements {
		if err := t.db.Exec(q, all).Error; err != nil {
			return err
		}
	}
	if len(labeled) == 0 {
		return nil
	}
	if err := t.db.Where("conversation_id IN ?", labeled).Delete(&ConversationLabel{}).Error; err != nil {
		return err
	}
	var rows []ConversationLabel
	for _, i := range images {
		if i.Labeled {
			for _, l := range i.Labels.IDs() {
				rows = append(rows, ConversationLabel{LabelID: l, ConversationID: i.ID})
			}
		}
	}
	return sqlite.Create(t.db, rows, 400)
}
