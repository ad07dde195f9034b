-- Follow-ups with stages, projects and people, and the calendar.

ALTER TABLE follow_ups RENAME TO follow_ups_before;

DROP INDEX followup_cards;

DROP INDEX followup_due;

DROP INDEX idx_follow_ups_conversation_id;

DROP INDEX thing_subject;

ALTER TABLE outgoings ADD COLUMN entry_id INTEGER NOT NULL DEFAULT 0;

ALTER TABLE outgoings ADD COLUMN withdrawn NUMERIC NOT NULL DEFAULT 0;

ALTER TABLE people ADD COLUMN follow_up TEXT NOT NULL DEFAULT '{"stages":[{"id":"todo","name":"To do","means":"mine"},{"id":"under-way","name":"Under way","means":"mine"},{"id":"others","name":"With others","means":"others"},{"id":"finished","name":"Finished","means":"finished"}],"views":[],"closeAt":1020,"keep":false,"called":0}';

ALTER TABLE people ADD COLUMN feed TEXT NOT NULL DEFAULT '';

CREATE TABLE events (
	box_id integer,
	uid text,
	start_at integer,
	end_at integer,
	repeats numeric,
	conversation_id integer,
	card numeric,
	data text,
	PRIMARY KEY (box_id,uid)
);

CREATE TABLE follow_up_labels (
	box_id integer,
	label_id integer,
	uid text,
	PRIMARY KEY (box_id,label_id,uid)
);

CREATE TABLE follow_ups (
	box_id integer,
	uid text,
	open numeric,
	due_at integer,
	stage text,
	project text,
	person text,
	person_name text,
	context text,
	priority integer,
	minutes integer,
	waits_since integer,
	conversation_id integer,
	finished integer,
	card numeric,
	rev integer,
	words text,
	data text,
	PRIMARY KEY (box_id,uid)
);

CREATE TABLE follow_ups_gone (
	box_id INTEGER,
	uid TEXT,
	rev INTEGER,
	PRIMARY KEY (box_id, uid)
) WITHOUT ROWID;

CREATE TABLE revisions (
	box_id INTEGER PRIMARY KEY,
	rev INTEGER
);

CREATE INDEX event_cards ON events(box_id) WHERE card;

CREATE INDEX event_conversation ON events(conversation_id);

CREATE INDEX event_repeats ON events(box_id) WHERE repeats;

CREATE INDEX event_start ON events(box_id,start_at);

CREATE INDEX followup_cards ON follow_ups(box_id) WHERE card;

CREATE INDEX followup_context ON follow_ups(box_id, context) WHERE context <> '';

CREATE INDEX followup_conversation ON follow_ups(conversation_id);

CREATE INDEX followup_due ON follow_ups(box_id, due_at) WHERE open;

CREATE INDEX followup_finished ON follow_ups(box_id, finished, uid) WHERE NOT open;

CREATE INDEX followup_project ON follow_ups(box_id, project) WHERE project <> '';

CREATE INDEX followup_rev ON follow_ups(box_id, rev);

CREATE INDEX followup_waits ON follow_ups(box_id, waits_since, uid) WHERE waits_since > 0;

CREATE INDEX outgoing_entry ON outgoings(entry_id) WHERE entry_id > 0;

CREATE UNIQUE INDEX person_feed ON people(feed) WHERE feed <> '';

CREATE UNIQUE INDEX thing_subject ON things(kind,conversation_id,follow_up,box_id);

INSERT INTO meta(name, value) VALUES ('afterwards: follow-ups', '1');
