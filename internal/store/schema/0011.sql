-- In which language its sender wrote, found when a message comes in (ISO 639); '' for
-- those that came before.
ALTER TABLE messages ADD COLUMN language TEXT NOT NULL DEFAULT '';

-- Few of those that wait do so for several people.
CREATE INDEX follow_up_also ON follow_ups(box_id) WHERE data->>'$.waits.also' IS NOT NULL;
