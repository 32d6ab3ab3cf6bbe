-- Messages that candidates are asked, each row in a conversation of its own: a table with a row a message, a column a lane.
CREATE TABLE sets (
  id TEXT PRIMARY KEY,
  app_id TEXT NOT NULL REFERENCES apps ON DELETE CASCADE,
  name TEXT,                       -- as the developer named it
  job_id TEXT,                     -- what asks it; a job is forgotten before it
  hides_names INTEGER NOT NULL DEFAULT 0,
  seen_early INTEGER NOT NULL DEFAULT 0,     -- answers that were not marked yet when the names were shown
  created_at INTEGER NOT NULL,
  updated_at INTEGER NOT NULL,
  deleted_at INTEGER
) STRICT;
CREATE INDEX sets_by_app ON sets (app_id, updated_at DESC, id DESC);

CREATE TABLE set_lanes (
  set_id TEXT NOT NULL REFERENCES sets ON DELETE CASCADE,
  place INTEGER NOT NULL,          -- from 0
  base TEXT NOT NULL,              -- live, draft, or the number of a revision
  revision INTEGER NOT NULL,       -- the revision that the base was then
  content_hash TEXT NOT NULL REFERENCES contents,
  PRIMARY KEY (set_id, place)
) STRICT, WITHOUT ROWID;
CREATE INDEX set_lanes_by_content ON set_lanes (content_hash);

CREATE TABLE set_rows (
  set_id TEXT NOT NULL REFERENCES sets ON DELETE CASCADE,
  place INTEGER NOT NULL,          -- from 0
  said TEXT NOT NULL,              -- what a visitor says, one message after another, JSON
  PRIMARY KEY (set_id, place)
) STRICT, WITHOUT ROWID;

-- What a lane answered to a row.
CREATE TABLE set_answers (
  seq INTEGER PRIMARY KEY AUTOINCREMENT,
  id TEXT NOT NULL,                -- the owner of its makings
  set_id TEXT NOT NULL REFERENCES sets ON DELETE CASCADE,
  row_place INTEGER NOT NULL,
  lane_place INTEGER NOT NULL,
  has_failed INTEGER NOT NULL,
  replies TEXT NOT NULL,           -- JSON
  mark TEXT CHECK (mark IN ('good', 'bad')),
  UNIQUE (set_id, row_place, lane_place)
) STRICT;
CREATE INDEX set_answers_by_set ON set_answers (set_id, seq);
