package store

import (
	"encoding/json"

	"ebbe/internal/core/inbox"
	"ebbe/internal/core/mail"
	"ebbe/internal/core/search"
	"ebbe/internal/core/sorting"
	"ebbe/internal/store/sqlite"
)

// Gather adds a message in view to what its conversation is shown by: its newest
// from somebody else. A report that a message was not delivered gives its name
// and its text to other reports only, whichever comes first. own are the reader's
// addresses.
func (c *Conversation) Gather(m *Message, own map[string]bool) {
	newer, first, reports := m.Date >= c.LastAt, c.Messages == 0, c.Kind == mail.Bounce
	if c.Messages++; newer {
		c.LastAt, c.OwnLast = m.Date, m.Own
	}
	shown := newer && (!m.Own || c.FromAddr == "")
	if (m.Kind == mail.Bounce) != reports {
		shown = reports
	}
	if first || shown {
		c.FromName, c.FromAddr, c.Kind = m.FromName, m.FromAddr, m.Kind
		c.Subject, c.Begins = mail.Title(m.Subject), m.Begins
		c.Reach, c.Account = mail.ReachOf(m.To, m.Cc, own)
		c.Rank = inbox.Rank(c.Kind, c.Reach)
		c.Importance, c.Because = sorting.Rated(c.Said, m.Importance, m.Because)
		if m.Own && len(m.To) > 0 {
			c.FromName, c.FromAddr = m.To[0].Name, m.To[0].Address
		}
	}
	if c.FirstAt == 0 || m.Date < c.FirstAt {
		c.FirstAt = m.Date
	}
	c.Files, c.Size = c.Files+len(m.Files), c.Size+m.Size
	c.Traits |= search.TraitsOf(m.Files, m.Own, m.Language)
}

// Merge makes all of conversation from a part of into, with all that hangs on
// it, and says what went. The row of from stays, so that what names it still
// finds its way.
func (t Conversations) Merge(box, from, into int64) (r inbox.Regrouping, err error) {
	r = inbox.Regrouping{From: from, Into: into, Emptied: true}
	for _, q := range []struct {
		text string
		out  any
	}{
		{"SELECT id FROM messages WHERE conversation_id = ? ORDER BY id", &r.Messages},
		{"SELECT message_id FROM refs WHERE conversation_id = ? ORDER BY message_id", &r.Refs},
		{"SELECT uid FROM follow_ups WHERE conversation_id = ? ORDER BY uid", &r.FollowUps},
		{"SELECT uid FROM events WHERE conversation_id = ? ORDER BY uid", &r.Events},
		{"SELECT id FROM drafts WHERE conversation_id = ? ORDER BY id", &r.Drafts},
	} {
		if err := t.db.Raw(q.text, from).Scan(q.out).Error; err != nil {
			return r, err
		}
	}
	return r, t.regroup(box, r)
}

// Splinter is a new conversation for some messages of another, by their IDs,
// without any message yet: what r says is done when the change is applied. Refs
// are those that only these messages are found by.
func (t Conversations) Splinter(box, from int64, messages []int64) (r inbox.Regrouping, err error) {
	r = inbox.Regrouping{From: from, Messages: messages, Begun: true}
	if r.Into, _, err = t.NextIDs(); err != nil {
		return r, err
	}
	raw, _ := json.Marshal(messages) // numbers always can be
	err = t.db.Raw("SELECT message_id FROM messages WHERE id IN (SELECT value FROM json_each(?)) AND conversation_id = ? AND message_id <> ''", string(raw), from).Scan(&r.Refs).Error
	if err == nil {
		err = t.db.Raw("SELECT uid FROM follow_ups WHERE conversation_id = ? AND data->>'message' IN (SELECT value FROM json_each(?))", from, asStrings(r.Refs)).Scan(&r.FollowUps).Error
	}
	return r, err
}

// regroup lets messages go from one conversation to another. Their servers are to
// have what either is in its place: what was taken in from the bin is fetched.
func (t Conversations) regroup(box int64, r inbox.Regrouping) error {
	messages, _ := json.Marshal(append([]int64{}, r.Messages...)) // numbers always can be
	drafts, _ := json.Marshal(append([]int64{}, r.Drafts...))
	args := map[string]any{"box": box, "from": r.From, "into": r.Into, "messages": string(messages), "drafts": string(drafts),
		"refs": asStrings(r.Refs), "followUps": asStrings(r.FollowUps), "events": asStrings(r.Events)}
	statements := []string{
		`INSERT INTO errands(conversation_id, box_id, rev, attempts, at, problem, left_places)
			SELECT j.value, @box, 1, 0, 0, '', 'archived' || COALESCE((SELECT ',' || place FROM conversations WHERE id = @from), '') FROM json_each(json_array(@from, @into)) j WHERE EXISTS (SELECT 1 FROM accounts WHERE box_id = @box)
			ON CONFLICT DO UPDATE SET rev = rev + 1, left_places = left_places || ',' || excluded.left_places`,
		"INSERT OR IGNORE INTO conversations(id, box_id, place, reason, since, kind, merged_to, apart) SELECT @into, @box, 'archived', 'decided', 0, '', 0, 1 WHERE NOT EXISTS (SELECT 1 FROM conversations WHERE id = @into)",
		"UPDATE messages SET conversation_id = @into WHERE id IN (SELECT value FROM json_each(@messages)) AND +box_id = @box AND +conversation_id = @from",
		"UPDATE refs SET conversation_id = @into WHERE box_id = @box AND message_id IN (SELECT value FROM json_each(@refs)) AND +conversation_id = @from",
		"UPDATE events SET conversation_id = @into, data = json_set(data, '$.conversation', @into) WHERE box_id = @box AND uid IN (SELECT value FROM json_each(@events)) AND +conversation_id = @from",
		"UPDATE drafts SET conversation_id = @into WHERE id IN (SELECT value FROM json_each(@drafts)) AND +conversation_id = @from",
		"INSERT OR IGNORE INTO touches(conversation_id, entry_id) SELECT @into, entry_id FROM touches WHERE conversation_id = @from",
		"INSERT OR IGNORE INTO followers(conversation_id, person_id, box_id, since, stopped) SELECT @into, person_id, box_id, since, stopped FROM followers WHERE conversation_id = @from",
	}
	if len(r.FollowUps) > 0 || r.Emptied {
		rev, err := FollowUps(t).revise(box)
		if err != nil {
			return err
		}
		args["rev"] = rev
		statements = append(statements, "UPDATE follow_ups SET conversation_id = @into, data = json_set(data, '$.conversation', @into), rev = @rev WHERE box_id = @box AND uid IN (SELECT value FROM json_each(@followUps)) AND +conversation_id = @from")
		if r.Emptied {
			statements = append(statements, "UPDATE follow_ups SET conversation_id = @into, data = json_set(data, '$.conversation', @into), rev = @rev WHERE conversation_id = @from AND +box_id = @box")
		}
	}
	if r.Emptied {
		statements = append(statements, // and what has come to it since
			"UPDATE messages SET conversation_id = @into WHERE conversation_id = @from AND +box_id = @box",
			"UPDATE refs SET conversation_id = @into WHERE conversation_id = @from AND +box_id = @box",
			"UPDATE events SET conversation_id = @into, data = json_set(data, '$.conversation', @into) WHERE conversation_id = @from AND +box_id = @box",
			"UPDATE drafts SET conversation_id = @into WHERE conversation_id = @from",
			"UPDATE outgoings SET conversation_id = @into WHERE conversation_id = @from",
			"INSERT OR IGNORE INTO conversation_labels(label_id, conversation_id) SELECT label_id, @into FROM conversation_labels WHERE conversation_id = @from",
			"DELETE FROM conversation_labels WHERE conversation_id = @from",
			"UPDATE errands SET left_places = left_places || ',' || (SELECT e.left_places FROM errands e WHERE e.conversation_id = @from) WHERE conversation_id = @into",
			"DELETE FROM errands WHERE conversation_id = @from",
			"DELETE FROM things WHERE conversation_id = @from",
			"DELETE FROM marks WHERE conversation_id = @from AND person_id IN (SELECT id FROM people UNION SELECT 0)",
			`UPDATE conversations SET merged_to = @into, place = 'archived', return_at = 0, return_local = '', return_zone = '', until = '', site = 0, labels = '' WHERE id = @from AND box_id = @box`)
	}
	if r.Begun {
		statements = append(statements, "UPDATE conversations SET merged_to = 0, apart = 1 WHERE id = @into AND box_id = @box")
	}
	for _, q := range statements {
		if err := t.db.Exec(q, args).Error; err != nil {
			return err
		}
	}
	return nil
}

// Recount computes anew from its messages what a conversation is shown by.
func (t Conversations) Recount(box, id int64) error {
	var c Conversation
	if err := sqlite.Plain(t.db.Where("box_id = ? AND id = ? AND merged_to = 0", box, id).Take(&c).Error); err != nil {
		return err
	}
	addresses, err := People(t).OwnAddresses(box)
	if err != nil {
		return err
	}
	own := map[string]bool{}
	for _, a := range addresses {
		own[a.Address] = true
	}
	which := "held = ''"
	if c.Place == inbox.Held {
		which = "1"
	}
	messages, err := HeldMail(t).messagesAmong(box, []int64{id}, which)
	if err != nil {
		return err
	}
	c.Traits = 0
	c.Messages, c.Files, c.Size, c.FirstAt, c.LastAt, c.FromName, c.FromAddr, c.OwnLast, c.Begins = 0, 0, 0, 0, 0, "", "", false, ""
	for _, m := range messages {
		c.Gather(m, own)
	}
	c.Base = mail.BaseSubject(c.Subject)
	return t.db.Model(&Conversation{}).Where("id = ?", id).Select("Messages", "Files", "Size", "Traits", "FirstAt", "LastAt", "FromName", "FromAddr", "OwnLast", "Kind", "Subject", "Base", "Reach", "Account", "Rank", "Begins", "Importance", "Because").Updates(&c).Error
}

func asStrings(texts []string) string {
	raw, _ := json.Marshal(append([]string{}, texts...)) // texts always can be
	return string(raw)
}
