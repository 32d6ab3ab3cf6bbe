-- The events of a reply, some dozens in a row, as lines of JSON: {"id":…,"event":…,"data":…}.
CREATE TABLE event_pages (
  reply_id TEXT NOT NULL REFERENCES messages ON DELETE CASCADE,
  last_id INTEGER NOT NULL,    -- of the last event in it
  lines TEXT NOT NULL,
  PRIMARY KEY (reply_id, last_id)
) STRICT, WITHOUT ROWID;
INSERT INTO event_pages
  SELECT reply_id, max(id), group_concat('{"id":' || id || ',"event":"' || event || '","data":' || data || '}' || char(10), '' ORDER BY id)
  FROM reply_events GROUP BY reply_id, (id - 1) / 64;

-- The latest events of all replies, in the order in which they were said. It has no further index and no foreign
-- key: so what many replies say at once goes to few pages of the file.
CREATE TABLE latest_events (
  position INTEGER PRIMARY KEY,
  reply_id TEXT NOT NULL,
  id INTEGER NOT NULL,         -- within the reply, from 1
  event TEXT NOT NULL,
  data TEXT NOT NULL           -- JSON
) STRICT;
INSERT INTO latest_events SELECT * FROM (
  SELECT position, reply_id, id, event, data FROM reply_events ORDER BY position DESC LIMIT 2000
) ORDER BY position;
DROP TABLE reply_events;

-- Dispatches that have ended, and whose chunks are to be packed.
CREATE INDEX dispatches_unpacked ON dispatches (id) WHERE ended_at IS NOT NULL AND arrivals IS NULL;
