-- The steps of long work, each claimed once: what ended is never done again, what a kill cut off once more.
CREATE TABLE job_steps (
  job_id TEXT NOT NULL REFERENCES jobs ON DELETE CASCADE,
  place INTEGER NOT NULL,            -- from 1
  work TEXT NOT NULL,                -- what it does, JSON
  state TEXT NOT NULL DEFAULT 'waiting' CHECK (state IN ('waiting', 'running', 'done', 'failed')),
  tries INTEGER NOT NULL DEFAULT 0,  -- how often it was begun
  outcome TEXT,                      -- what came of it, JSON: a problem where it failed
  price INTEGER NOT NULL DEFAULT 0,  -- millionths
  PRIMARY KEY (job_id, place)
) STRICT, WITHOUT ROWID;
CREATE INDEX job_steps_by_state ON job_steps (job_id, state, place);
