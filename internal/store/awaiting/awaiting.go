// Package awaiting finds what the messages that come in are to those who wait for
// answers.
package awaiting

import (
	"encoding/json"
	"slices"

	"gorm.io/gorm"

	"ebbe/internal/core/followup"
	"ebbe/internal/core/mail"
	"ebbe/internal/store"
	"ebbe/internal/store/sqlite"
)

// Awaited is what is asked about answers that are awaited.
type Awaited store.Tx

func (t Awaited) db() *gorm.DB { return store.Tx(t).DB() }

// Waiting is a follow-up that waits, with the conversations of the messages it
// names, which need not be its own.
type Waiting struct {
	store.FollowUp
	About []int64 `gorm:"serializer:json"`
}

// Over gives the follow-ups that wait for whom one of these messages may be from,
// or about a conversation that one of them is in.
func (t Awaited) Over(box int64, came []followup.Came) (rows []Waiting, err error) {
	var addresses, names []string
	var in []int64
	for _, m := range came {
		addresses, in = append(addresses, m.From.Address), append(in, m.In...)
		if name := followup.FullName(m.From.Name); name != "" {
			names = append(names, name)
		}
	}
	raw, err := json.Marshal(map[string]any{"addresses": addresses, "names": names, "in": in})
	if err != nil {
		return nil, err
	}
	const its = `SELECT conversation_id FROM refs WHERE refs.box_id = f.box_id AND message_id IN (f.data->>'$.message', f.data->>'$.waits.sent')`
	err = t.db().Raw(`SELECT f.*, (SELECT json_group_array(conversation_id) FROM (`+its+`)) about FROM follow_ups f WHERE box_id = @box AND waits_since > 0 AND (
			person IN (SELECT value FROM json_each(@raw, '$.addresses')) OR conversation_id IN (SELECT value FROM json_each(@raw, '$.in'))
			OR lower(person_name) IN (SELECT value FROM json_each(@raw, '$.names'))
			OR data->>'$.waits.also' IS NOT NULL AND EXISTS (SELECT 1 FROM json_each(f.data, '$.waits.also') a
				WHERE a.value->>'address' IN (SELECT value FROM json_each(@raw, '$.addresses')) OR lower(a.value->>'name') IN (SELECT value FROM json_each(@raw, '$.names')))
			OR EXISTS (`+its+` AND conversation_id IN (SELECT value FROM json_each(@raw, '$.in'))))
		ORDER BY waits_since, uid`, map[string]any{"box": box, "raw": string(raw)}).Scan(&rows).Error
	return rows, err
}

// Offering gives the follow-ups that wait and to which a message of one of these
// conversations may be the answer, each offer with the conversation in which its
// message is now: it may have been joined with another or parted since.
func (t Awaited) Offering(box int64, conversations []int64) (rows []store.FollowUp, err error) {
	raw, err := json.Marshal(conversations)
	if err != nil || len(conversations) == 0 {
		return nil, err
	}
	err = t.db().Raw(`SELECT * FROM follow_ups WHERE box_id = @box AND data->>'$.waits.offers' IS NOT NULL AND waits_since > 0 AND EXISTS (
			SELECT 1 FROM json_each(follow_ups.data, '$.waits.offers') o CROSS JOIN messages m ON m.id = o.value->>'message'
			WHERE m.box_id = @box AND m.conversation_id IN (SELECT value FROM json_each(@raw)))
		ORDER BY waits_since, uid`, map[string]any{"box": box, "raw": string(raw)}).Scan(&rows).Error
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	var ids []int64
	for _, r := range rows {
		for _, o := range r.Data.Waits.Offers {
			ids = append(ids, o.Message)
		}
	}
	now := map[int64]int64{}
	for chunk := range slices.Chunk(ids, sqlite.AtOnce) {
		var found []store.Message
		if err := t.db().Select("id, conversation_id").Where("box_id = ? AND id IN ?", box, chunk).Find(&found).Error; err != nil {
			return nil, err
		}
		for _, m := range found {
			now[m.ID] = m.ConversationID
		}
	}
	for _, r := range rows {
		for i, o := range r.Data.Waits.Offers {
			r.Data.Waits.Offers[i].Conversation = now[o.Message]
		}
	}
	return rows, nil
}

// Held gives what people have written that is held in these conversations and may
// be what somebody waits for, as it comes into view.
func (t Awaited) Held(box int64, conversations []int64) (out []followup.Came, err error) {
	if len(conversations) == 0 {
		return nil, nil
	}
	var rows []store.Message
	err = t.db().Raw(`WITH w AS MATERIALIZED (SELECT person, lower(person_name) name, conversation_id, data->>'$.message' original, data->>'$.waits.sent' sent FROM follow_ups WHERE box_id = @box AND waits_since > 0),
			named AS MATERIALIZED (SELECT original id FROM w WHERE original <> '' UNION SELECT sent FROM w WHERE sent <> '')
		SELECT m.id, from_name, from_addr, conversation_id, date FROM messages m WHERE box_id = @box AND held <> '' AND kind NOT IN ('list', 'notice', 'receipt') AND NOT own AND (
			from_addr IN (SELECT person FROM w) OR lower(from_name) IN (SELECT name FROM w) OR conversation_id IN (SELECT conversation_id FROM w)
			OR conversation_id IN (SELECT r.conversation_id FROM named CROSS JOIN refs r ON r.box_id = @box AND r.message_id = named.id))
		ORDER BY date, m.id`, map[string]any{"box": box}).Scan(&rows).Error
	if err != nil || len(rows) == 0 {
		return nil, err
	}
	in := make(map[int64]bool, len(conversations))
	for _, id := range conversations {
		in[id] = true
	}
	for _, m := range rows {
		if in[m.ConversationID] {
			out = append(out, followup.Came{Message: m.ID, From: mail.Address{Name: m.FromName, Address: m.FromAddr}, In: []int64{m.ConversationID}, Written: m.Date})
		}
	}
	return out, nil
}
