-- In which language its sender wrote, found when a message comes in (ISO 639); '' for
-- those that came before.
ALTER TABLE messages ADD COLUMN language TEXT NOT NULL DEFAULT '';
