-- Scripts of checks, as they are kept by an app.
CREATE TABLE check_scripts (
  app_id TEXT NOT NULL REFERENCES apps ON DELETE CASCADE,
  name TEXT NOT NULL,
  text TEXT NOT NULL,
  updated_at INTEGER NOT NULL,
  PRIMARY KEY (app_id, name)
) STRICT, WITHOUT ROWID;

-- The folder from which an app's scripts are read instead.
ALTER TABLE apps ADD COLUMN checks_folder TEXT;

-- What a check said when it was run, by the SHA-256 of it.
CREATE TABLE check_texts (
  hash TEXT PRIMARY KEY,
  text TEXT NOT NULL
) STRICT, WITHOUT ROWID;

-- Trials that were started together.
CREATE TABLE runs (
  id TEXT PRIMARY KEY,
  app_id TEXT NOT NULL REFERENCES apps ON DELETE CASCADE,
  job_id TEXT REFERENCES jobs ON DELETE SET NULL,
  trials INTEGER NOT NULL,         -- of each check on each column
  seed INTEGER NOT NULL,           -- of the first trial, less one
  against INTEGER NOT NULL,        -- the place of the column that the others are held against
  origin TEXT NOT NULL,            -- bench, terminal, schedule
  started_at INTEGER NOT NULL,
  ended_at INTEGER
) STRICT;
CREATE INDEX runs_by_app ON runs (app_id, id DESC);
CREATE INDEX runs_by_job ON runs (job_id);

-- The candidates of a run.
CREATE TABLE run_columns (
  run_id TEXT NOT NULL REFERENCES runs ON DELETE CASCADE,
  place INTEGER NOT NULL,          -- from 0
  name TEXT NOT NULL,
  base TEXT NOT NULL,              -- live, draft, or the number of a revision
  revision INTEGER NOT NULL,       -- the revision that the base was then
  content_hash TEXT NOT NULL REFERENCES contents,
  PRIMARY KEY (run_id, place)
) STRICT, WITHOUT ROWID;
CREATE INDEX run_columns_by_content ON run_columns (content_hash);

-- The checks of a run.
CREATE TABLE run_checks (
  run_id TEXT NOT NULL REFERENCES runs ON DELETE CASCADE,
  place INTEGER NOT NULL,          -- from 0
  script TEXT NOT NULL,            -- the name of its script
  lines TEXT NOT NULL,             -- where its lines stood there, JSON
  name TEXT NOT NULL,
  text_hash TEXT NOT NULL REFERENCES check_texts,
  PRIMARY KEY (run_id, place)
) STRICT, WITHOUT ROWID;
CREATE INDEX run_checks_by_text ON run_checks (text_hash);

-- What came of one go of a check on a candidate.
CREATE TABLE trials (
  id TEXT PRIMARY KEY,
  run_id TEXT NOT NULL REFERENCES runs ON DELETE CASCADE,
  check_place INTEGER NOT NULL,
  column_place INTEGER NOT NULL,
  trial INTEGER NOT NULL,          -- from 1
  seed INTEGER NOT NULL,
  outcome TEXT NOT NULL CHECK (outcome IN ('held', 'broke', 'silent')),
  ms INTEGER NOT NULL,
  price INTEGER NOT NULL,          -- millionths
  currency TEXT,
  outcomes TEXT NOT NULL,          -- the first letter of how each expectation came out, in the order of their lines
  version TEXT,                    -- what the provider called the model that answered
  result TEXT NOT NULL,            -- what was said and how it was judged, JSON
  taken_from TEXT,                 -- the trial of an earlier run that this is, since nothing had changed
  at INTEGER NOT NULL,
  UNIQUE (run_id, check_place, column_place, trial)
) STRICT;
CREATE INDEX trials_by_run ON trials (run_id, check_place, column_place, trial);
-- what was told of the same before
CREATE INDEX trials_by_seed ON trials (seed, run_id);

-- Apps whose checks are run by themselves.
CREATE TABLE check_schedules (
  app_id TEXT PRIMARY KEY REFERENCES apps ON DELETE CASCADE,
  every INTEGER NOT NULL,          -- hours
  trials INTEGER NOT NULL,
  next_at INTEGER NOT NULL
) STRICT, WITHOUT ROWID;
