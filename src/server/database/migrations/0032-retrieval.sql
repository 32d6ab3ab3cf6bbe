-- Questions by which it is measured how well an app's documents are found, each with the words that answer it.
CREATE TABLE retrieval_questions (
  id TEXT PRIMARY KEY,
  app_id TEXT NOT NULL REFERENCES apps ON DELETE CASCADE,
  source_id TEXT NOT NULL REFERENCES sources ON DELETE CASCADE,
  question TEXT NOT NULL,
  quote TEXT NOT NULL,             -- words of the document, as they stand there
  comes TEXT NOT NULL CHECK (comes IN ('typed', 'mark', 'proposed')),
  is_asked INTEGER NOT NULL,       -- 0 while it is only proposed
  added_at INTEGER NOT NULL,
  UNIQUE (app_id, question, quote)
) STRICT;
CREATE INDEX retrieval_questions_by_source ON retrieval_questions (source_id);

-- What came of asking them.
CREATE TABLE retrieval_runs (
  id TEXT PRIMARY KEY,
  app_id TEXT NOT NULL REFERENCES apps ON DELETE CASCADE,
  asked TEXT NOT NULL,             -- JSON: the questions, as they stood then
  cuts TEXT NOT NULL,              -- JSON: sizes and overlaps, in tokens
  results TEXT NOT NULL,           -- JSON
  at INTEGER NOT NULL
) STRICT;
CREATE INDEX retrieval_runs_by_app ON retrieval_runs (app_id, id);
