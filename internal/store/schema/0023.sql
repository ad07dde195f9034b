-- How often a conversation was snoozed, with no decision and no news between.
ALTER TABLE conversations ADD COLUMN snoozes INTEGER NOT NULL DEFAULT 0;

UPDATE conversations SET snoozes = (SELECT MAX(1, COUNT(e.id)) FROM touches x CROSS JOIN entries e ON e.id = x.entry_id AND e.kind = 'snooze' AND e.taken_back = 0 WHERE x.conversation_id = conversations.id)
	WHERE snoozed_at > 0;

CREATE INDEX conversation_often ON conversations(box_id, snoozes) WHERE snoozes > 2;

-- What a line of the journal counts for besides what its changes say: how long the messages that came in
-- with it had been held, or what had let them through, and how many (numbers.HeldFor, LetThroughBy).
ALTER TABLE entries ADD COLUMN besides TEXT;

CREATE TEMP TABLE besides_before AS
	SELECT entry_id, what, COUNT(*) n FROM (
		SELECT e.id entry_id, 'held ' || CASE WHEN e.at - m.received < 3600000 THEN '0h' WHEN e.at - m.received < 86400000 THEN ((e.at - m.received) / 3600000) || 'h'
			ELSE MIN((e.at - m.received) / 86400000, 999) || 'd' END what
			FROM messages m CROSS JOIN entries e ON e.id = m.let_in WHERE m.let_in > 0 AND m.held = ''
		UNION ALL
		SELECT (SELECT e.id FROM touches x CROSS JOIN entries e ON e.id = x.entry_id AND e.kind = 'arrive' AND e.at >= m.received WHERE x.conversation_id = m.conversation_id ORDER BY x.entry_id LIMIT 1),
			'through ' || CASE WHEN m.through LIKE 'rule:%' THEN 'rule ' || SUBSTR(m.through, 6)
			ELSE COALESCE((SELECT j.value->>'by' FROM boxes b CROSS JOIN people p ON p.id = b.keeper CROSS JOIN json_each(p.delivery, '$.through') j WHERE b.id = m.box_id AND j.value->>'id' = m.through), m.through) END
			FROM messages m WHERE m.through <> '' AND m.held = '')
	WHERE entry_id > 0 GROUP BY entry_id, what;

UPDATE entries SET besides = b.said FROM (SELECT entry_id, json_group_object(what, n) said FROM besides_before GROUP BY entry_id) b WHERE entries.id = b.entry_id;

-- Which rule sent what the history has of it.
UPDATE entries SET ref = COALESCE((SELECT r.rule_id FROM rule_runs r WHERE r.box_id = entries.box_id AND r.did IN ('reply-with', 'forward-to') AND r.at BETWEEN entries.at - 60000 AND entries.at + 60000 AND r.conversation_id = entries.conversation_id LIMIT 1), 0)
	WHERE actor = 'rule' AND kind IN ('auto-answer', 'forward-to') AND ref = 0;

-- What rules did, and how long mail was held or by what it came through, count from now on and for what was.
CREATE TEMP TABLE counted_before AS
	SELECT e.box_id, e.wall, e.actor, CASE WHEN e.actor = 'person' THEN e.person_id ELSE 0 END person, SUBSTR(b.what, 1, INSTR(b.what, ' ') - 1) measure, CASE WHEN b.what LIKE 'through rule %' THEN 'rule' ELSE SUBSTR(b.what, INSTR(b.what, ' ') + 1) END detail, b.n, e.id
		FROM besides_before b CROSS JOIN entries e ON e.id = b.entry_id WHERE e.taken_back = 0 AND e.wall <> 0 AND e.kind NOT IN ('take-back', 'again')
	UNION ALL SELECT e.box_id, e.wall, e.actor, CASE WHEN e.actor = 'person' THEN e.person_id ELSE 0 END person, 'ruled', SUBSTR(b.what, 14) || ' through', b.n, e.id
		FROM besides_before b CROSS JOIN entries e ON e.id = b.entry_id WHERE b.what LIKE 'through rule %' AND e.taken_back = 0 AND e.wall <> 0 AND e.kind NOT IN ('take-back', 'again')
	UNION ALL SELECT box_id, wall, actor, 0, 'ruled', ref || CASE WHEN kind <> 'rule' THEN ' sent' WHEN taken_back = 0 THEN ' did' ELSE ' back' END, 1, id
		FROM entries WHERE wall <> 0 AND (kind = 'rule' OR actor = 'rule' AND kind IN ('auto-answer', 'forward-to') AND ref <> 0 AND taken_back = 0)
	UNION ALL SELECT e.box_id, e.wall, e.actor, 0, 'ruled', e.ref || ' decided', j.value, e.id FROM entries e CROSS JOIN json_each(e.origins) j WHERE e.origins IS NOT NULL AND j.type = 'integer' AND e.kind = 'rule' AND e.taken_back = 0 AND e.wall <> 0;

INSERT INTO day_tallies(box_id, measure, day, detail, actor, person_id, n)
	SELECT box_id, measure, wall / 24, detail, actor, person, SUM(n) FROM counted_before GROUP BY 1, 2, 3, 4, 5, 6;

INSERT INTO month_tallies(box_id, month, measure, detail, actor, n)
	SELECT box_id, (strftime('%Y', wall * 3600, 'unixepoch') - 1970) * 12 + strftime('%m', wall * 3600, 'unixepoch') - 1, measure, detail, actor, SUM(n) FROM counted_before GROUP BY 1, 2, 3, 4, 5;

DROP TABLE counted_before;

DROP TABLE besides_before;

-- What was not answered is asked for by itself.
CREATE INDEX answer_open ON answers(box_id, own, at, address, asked) WHERE answered = 0;

-- The labels of a conversation are told by an index alone.
DROP INDEX idx_conversation_labels_conversation_id;

CREATE INDEX conversation_label ON conversation_labels(conversation_id, label_id);

-- How often it has changed with whom something goes back and forth in a box: who has read it knows whether
-- it still is so.
ALTER TABLE boxes ADD COLUMN known_rev INTEGER NOT NULL DEFAULT 0;

CREATE TRIGGER known_new AFTER INSERT ON correspondents BEGIN
	UPDATE boxes SET known_rev = known_rev + 1 WHERE id = new.box_id;
END;

CREATE TRIGGER known_changed AFTER UPDATE ON correspondents BEGIN
	UPDATE boxes SET known_rev = known_rev + 1 WHERE id = new.box_id;
END;

CREATE TRIGGER known_gone AFTER DELETE ON correspondents BEGIN
	UPDATE boxes SET known_rev = known_rev + 1 WHERE id = old.box_id;
END;
