-- What was set up otherwise by an entry: how it stood before and after.
ALTER TABLE entries ADD COLUMN chosen TEXT;
