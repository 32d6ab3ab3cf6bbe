-- Who judges replies of an app by rubrics.
CREATE TABLE judges (
  app_id TEXT PRIMARY KEY REFERENCES apps ON DELETE CASCADE,
  provider TEXT NOT NULL,          -- by its lasting name
  model TEXT NOT NULL
) STRICT, WITHOUT ROWID;

-- Replies that the developer judged by a rubric.
CREATE TABLE hand_judgements (
  id INTEGER PRIMARY KEY,
  app_id TEXT NOT NULL REFERENCES apps ON DELETE CASCADE,
  rubric TEXT NOT NULL,
  message TEXT NOT NULL,
  reply TEXT NOT NULL,
  verdict TEXT NOT NULL CHECK (verdict IN ('meets', 'misses')),
  at INTEGER NOT NULL,
  UNIQUE (app_id, rubric, message, reply)
) STRICT;

-- What a judge said of those.
CREATE TABLE judge_verdicts (
  judgement_id INTEGER NOT NULL REFERENCES hand_judgements ON DELETE CASCADE,
  judge TEXT NOT NULL,             -- its provider and model, and the words of its task: SHA-256
  verdict TEXT CHECK (verdict IN ('meets', 'misses')),   -- null where it did not say
  words TEXT NOT NULL,
  at INTEGER NOT NULL,
  PRIMARY KEY (judgement_id, judge)
) STRICT, WITHOUT ROWID;
