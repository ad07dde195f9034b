package store

import "fmt"

// unfolded is the newest message that still has to be put into the index anew.
const unfolded = "COALESCE((SELECT CAST(value AS INTEGER) FROM meta WHERE name = 'unfolded'), 0)"

// rules are what must never be found in the database; each query counts what
// breaks the rule.
var rules = []struct{ query, sentence string }{
	{"SELECT COUNT(*) FROM messages m WHERE NOT EXISTS (SELECT 1 FROM originals o WHERE o.message_id = COALESCE(NULLIF(m.original_id, 0), m.id))", "%d messages have lost their original."},
	{"SELECT COUNT(*) FROM originals o WHERE NOT EXISTS (SELECT 1 FROM messages m WHERE m.id = o.message_id) AND NOT EXISTS (SELECT 1 FROM messages m WHERE m.original_id = o.message_id)", "%d originals belong to no message."},
	{"SELECT COUNT(*) FROM messages m WHERE NOT EXISTS (SELECT 1 FROM conversations c WHERE c.id = m.conversation_id AND c.merged_to = 0)", "%d messages belong to no conversation."},
	{"SELECT COUNT(*) FROM conversations c WHERE merged_to = 0 AND messages <> (SELECT COUNT(*) FROM messages m WHERE m.conversation_id = c.id AND (m.held = '' OR c.place = 'held'))", "%d conversations count their messages wrongly."},
	{"SELECT COUNT(*) FROM conversations WHERE place NOT IN ('held','inbox','snoozed','archived','bin','junk')", "%d conversations are in no place."},
	{"SELECT COUNT(*) FROM conversations c WHERE place = 'snoozed' AND return_at > 0 AND NOT EXISTS (SELECT 1 FROM things t WHERE t.kind = 'return' AND t.conversation_id = c.id AND t.at = c.return_at)", "%d snoozed conversations are not on the agenda."},
	{"SELECT COUNT(*) FROM conversations WHERE place = 'snoozed' AND merged_to = 0 AND return_at = 0 AND until <> 'answer' AND NOT (until = 'site' AND EXISTS (SELECT 1 FROM sites s WHERE s.id = site AND NOT s.gone))", "%d snoozed conversations wait for nothing that could bring them back."},
	{"SELECT COUNT(*) FROM conversations c WHERE place IN ('bin', 'junk') AND merged_to = 0 AND reason <> 'arrived' AND NOT EXISTS (SELECT 1 FROM touches t JOIN entries e ON e.id = t.entry_id WHERE t.conversation_id = c.id AND e.kind IN ('bin', 'junk', 'combo', 'elsewhere', 'join', 'part', 'take-back', 'again', 'let-in', 'never', 'rule', 'junk-found', 'block', 'all-junk', 'code-over'))", "%d conversations are in the bin or in junk, and nothing says who put them there."},
	{"SELECT COUNT(*) FROM folders f WHERE NOT EXISTS (SELECT 1 FROM accounts a WHERE a.id = f.account_id)", "%d folders belong to accounts that do not exist."},
	{"SELECT COUNT(*) FROM things t WHERE kind = 'return' AND NOT EXISTS (SELECT 1 FROM conversations c WHERE c.id = t.conversation_id AND c.place = 'snoozed')", "%d returns on the agenda are of conversations that are not snoozed."},
	{"SELECT COUNT(*) FROM things t WHERE kind = 'remind' AND NOT EXISTS (SELECT 1 FROM follow_ups f WHERE f.uid = t.follow_up AND f.open)", "%d reminders on the agenda are of follow-ups that are not open."},
	{"SELECT COUNT(*) FROM follow_ups f WHERE open <> (data->>'status' IN ('needs-action', 'in-process')) OR due_at <> data->>'$.due.at'", "%d follow-ups are listed otherwise than they are."},
	{"SELECT COUNT(*) FROM things t WHERE kind = 'remind-event' AND NOT EXISTS (SELECT 1 FROM events e WHERE e.uid = t.follow_up)", "%d reminders on the agenda are of events that do not exist."},
	{"SELECT COUNT(*) FROM conversations c WHERE place = 'held' AND snoozed_at = 0 AND NOT EXISTS (SELECT 1 FROM messages m WHERE m.conversation_id = c.id AND m.held <> '')", "%d conversations are held with nothing in them that is."},
	{"SELECT COUNT(*) FROM messages m JOIN conversations c ON c.id = m.conversation_id WHERE c.place = 'held' AND c.snoozed_at = 0 AND m.held = '' AND NOT m.own", "%d messages that are in lie in conversations that are held."},
	{"SELECT COUNT(*) FROM messages WHERE held NOT IN ('', CASE WHEN stream <> '' THEN stream WHEN kind IN ('list', 'notice', 'receipt') THEN 'machines' ELSE 'people' END)", "%d messages are held in another stream than theirs."},
	{"SELECT COUNT(*) FROM copies k WHERE NOT EXISTS (SELECT 1 FROM messages m WHERE m.id = k.message_id)", "%d places on a server are of messages that do not exist."},
	{"SELECT COUNT(*) FROM copies k WHERE NOT EXISTS (SELECT 1 FROM folders f WHERE f.id = k.folder_id)", "%d places on a server are in folders that do not exist."},
	{"SELECT COUNT(*) FROM errands e WHERE NOT EXISTS (SELECT 1 FROM conversations c WHERE c.id = e.conversation_id AND c.merged_to = 0)", "%d decisions to be carried to a server are about conversations that do not exist."},
	{"SELECT COUNT(*) FROM draft_files f WHERE NOT EXISTS (SELECT 1 FROM drafts d WHERE d.id = f.draft_id)", "%d files belong to drafts that do not exist."},
	{"SELECT COUNT(*) FROM messages m WHERE m.id > " + unfolded + " AND NOT (EXISTS (SELECT 1 FROM words WHERE rowid = m.id) AND EXISTS (SELECT 1 FROM starts WHERE rowid = m.id))", "%d messages are not in the index."},
	{"SELECT COUNT(*) FROM documents d WHERE (d.message_id = 0 OR d.message_id > " + unfolded + ") AND NOT (EXISTS (SELECT 1 FROM document_words WHERE rowid = d.id) AND EXISTS (SELECT 1 FROM document_starts WHERE rowid = d.id))", "%d notes, files or follow-ups are not in the index."},
	{"SELECT COUNT(*) FROM documents d WHERE message_id > 0 AND NOT EXISTS (SELECT 1 FROM messages m WHERE m.id = d.message_id AND m.conversation_id = d.conversation_id)", "%d files in the index belong to no message."},
	{"SELECT COUNT(*) FROM follow_ups f WHERE json_valid(data) AND data->>'title' <> '' AND NOT EXISTS (SELECT 1 FROM documents d WHERE d.box_id = f.box_id AND d.kind = 'follow-up' AND d.uid = f.uid AND d.message_id = 0)", "%d follow-ups cannot be found by what they say."},
	{"SELECT COUNT(*) FROM conversations c WHERE title || note <> '' AND NOT EXISTS (SELECT 1 FROM documents d WHERE d.box_id = c.box_id AND d.kind = 'name' AND d.uid = c.id AND d.message_id = 0)", "%d conversations cannot be found by their names and notes."},
	{"SELECT COUNT(*) FROM comments m WHERE NOT gone AND NOT EXISTS (SELECT 1 FROM documents d WHERE d.box_id = m.box_id AND d.kind = 'comment' AND d.uid = m.id AND d.message_id = 0)", "%d comments cannot be found by what they say."},
	{"SELECT COUNT(*) FROM (SELECT f.box_id, m.from_addr, f.due_at, f.uid FROM follow_ups f JOIN messages m ON m.conversation_id = f.conversation_id AND m.held = '' WHERE f.open AND f.conversation_id > 0 AND m.from_addr <> '' EXCEPT SELECT * FROM open_between)", "%d follow-ups are missing from what is open with a person."},
	{"SELECT COUNT(*) FROM messages m JOIN conversations c ON c.id = m.conversation_id WHERE m.held = '' AND (m.own AND c.traits & 64 = 0 OR m.files LIKE '[{%' AND c.traits & 128 = 0 OR m.language <> '' AND c.traits >> 8 = 0)", "%d messages are not found by their files, their language or that they were answered."},
	{"SELECT COUNT(*) FROM rule_runs r WHERE NOT EXISTS (SELECT 1 FROM rules u WHERE u.id = r.rule_id)", "%d things were done by rules that never were."},
	{"SELECT COUNT(*) FROM entries e WHERE kind = 'rule' AND NOT EXISTS (SELECT 1 FROM rule_runs r WHERE r.rule_id = e.ref AND r.entry_id = e.id)", "%d lines of the history are by rules that do not have them in theirs."},
	{"SELECT COUNT(*) FROM junk_tests j WHERE was NOT IN (-1, 0, 1) OR NOT EXISTS (SELECT 1 FROM messages m WHERE m.id = j.message_id)", "%d tests for junk are of messages that do not exist."},
	{"SELECT COUNT(*) FROM marks k WHERE NOT EXISTS (SELECT 1 FROM conversations c WHERE c.id = k.conversation_id)", "%d marks are on conversations that do not exist."},
	{"SELECT COUNT(*) FROM outgoing_bytes b WHERE NOT EXISTS (SELECT 1 FROM outgoings o WHERE o.id = b.outgoing_id)", "%d messages of the outbox are kept without being in it."},
	{"SELECT COUNT(*) FROM outgoing_bytes b JOIN outgoings o ON o.id = b.outgoing_id WHERE o.message_id > 0", "%d messages that were sent are kept twice."},
	{"SELECT COUNT(*) FROM outgoings o WHERE state NOT IN ('sent') AND NOT EXISTS (SELECT 1 FROM outgoing_bytes b WHERE b.outgoing_id = o.id)", "%d messages of the outbox have lost what is to be sent."},
	{"SELECT EXISTS (SELECT 1 FROM boxes b WHERE (SELECT COUNT(*) FROM conversations WHERE box_id = b.id AND place = 'inbox') <> COALESCE((SELECT left_to_decide FROM balances WHERE box_id = b.id), 0))", "The journal does not add up to what is in the inbox."},
}

// Check looks for anything that breaks the rules of the database.
func (t Tx) Check() (wrong []string, err error) {
	for _, r := range rules {
		var n int
		if err := t.db.Raw(r.query).Scan(&n).Error; err != nil {
			return nil, err
		}
		if n > 0 {
			text := r.sentence
			if n := fmt.Sprintf(r.sentence, n); len(n) > 0 && r.sentence[0] == '%' {
				text = n
			}
			wrong = append(wrong, text)
		}
	}
	// An index is asked once before it is verified: a connection that has not
	// used it since the last change would verify against what it remembers.
	for _, q := range []string{"SELECT COUNT(*) FROM words WHERE words MATCH 'ebbe'", "SELECT COUNT(*) FROM document_words WHERE document_words MATCH 'ebbe'", "SELECT COUNT(*) FROM starts WHERE starts MATCH 'ebbe'", "SELECT COUNT(*) FROM document_starts WHERE document_starts MATCH 'ebbe'"} {
		var n int
		if err := t.db.Raw(q).Scan(&n).Error; err != nil {
			return nil, err
		}
	}
	var integrity string
	if err := t.db.Raw("PRAGMA integrity_check(1)").Scan(&integrity).Error; err != nil {
		return nil, err
	}
	if integrity != "ok" {
		wrong = append(wrong, "The file is damaged: "+integrity+".")
	}
	return wrong, nil
}
