-- What waits for somebody else is no work of the day on which it is due.
UPDATE follow_ups SET minutes = 0 WHERE waits_since > 0;

-- A statement that says what is done about a conflict says it for what it sets
-- off, too (SQLite, CREATE TRIGGER): OR IGNORE does not hold there. One person
-- can have written twice in a conversation.
DROP TRIGGER between_follow_up_change;

CREATE TRIGGER between_follow_up_change AFTER UPDATE ON follow_ups WHEN old.open <> new.open OR old.due_at <> new.due_at OR old.conversation_id <> new.conversation_id BEGIN
	DELETE FROM open_between WHERE box_id = old.box_id AND uid = old.uid;
	INSERT INTO open_between SELECT DISTINCT new.box_id, from_addr, new.due_at, new.uid FROM messages WHERE new.open AND new.conversation_id > 0 AND conversation_id = new.conversation_id AND held = '' AND from_addr <> '';
END;

DROP TRIGGER between_follow_up_new;

CREATE TRIGGER between_follow_up_new AFTER INSERT ON follow_ups WHEN new.open AND new.conversation_id > 0 BEGIN
	DELETE FROM open_between WHERE box_id = new.box_id AND uid = new.uid;
	INSERT INTO open_between SELECT DISTINCT new.box_id, from_addr, new.due_at, new.uid FROM messages WHERE conversation_id = new.conversation_id AND held = '' AND from_addr <> '';
END;

-- Which messages may be awaited answers is asked with every slip that is shown;
-- few of those that wait have any.
CREATE INDEX follow_up_offers ON follow_ups(box_id) WHERE data->>'$.waits.offers' IS NOT NULL;
