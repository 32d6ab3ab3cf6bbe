-- Calls of providers with their answers, as runs of checks recorded them, to be played without calling anybody.
CREATE TABLE recordings (
  id INTEGER PRIMARY KEY,
  app_id TEXT NOT NULL REFERENCES apps ON DELETE CASCADE,
  check_name TEXT NOT NULL,
  column_name TEXT NOT NULL,
  trial INTEGER NOT NULL,          -- 0 where it was recorded at the bench, and of no check
  key TEXT NOT NULL,               -- of the call: SHA-256
  size INTEGER NOT NULL,           -- bytes of its line
  at INTEGER NOT NULL,
  line TEXT NOT NULL               -- JSON, as it stands in a file
) STRICT;
CREATE INDEX recordings_by_place ON recordings (app_id, check_name, column_name, trial, key);
CREATE INDEX recordings_by_size ON recordings (app_id, size, at);

-- Whether the trials of a run called providers, played what was recorded and called for the rest, or played alone.
ALTER TABLE runs ADD COLUMN answers TEXT NOT NULL DEFAULT 'called';
ALTER TABLE runs ADD COLUMN pace TEXT NOT NULL DEFAULT 'at-once';
-- Whether what was called is recorded.
ALTER TABLE runs ADD COLUMN records INTEGER NOT NULL DEFAULT 0;

-- Whether what it answers to the bench is recorded.
ALTER TABLE providers ADD COLUMN records INTEGER NOT NULL DEFAULT 0;
