-- Messages hold pictures and calls of tools beside text: both are counted. What an API wants back is kept for each round.
-- What stands for the beginning of what was sent has another form, and is only a hint.
-- in slices of messages
UPDATE messages SET counts = finch_more_counts(counts), so_far = finch_more_counts(so_far),
  facts = CASE
    WHEN instr(facts, '"carry":') THEN json_set(json_remove(facts, '$.lead'), '$.carry', json_array(json_object(
      'round', 1, 'value', json(facts -> '$.carry'))))
    ELSE json_remove(facts, '$.lead') END
  WHERE rowid BETWEEN @from AND @to;
UPDATE summaries SET counts = finch_more_counts(counts);
-- in slices of dispatches
UPDATE dispatches SET ledger = replace(replace(finch_more_counts(json_remove(ledger, '$.lead')),
    '"part":"prompt"', '"part":"beside","kind":"prompt"'), '"part":"opening"', '"part":"beside","kind":"opening"')
  WHERE ledger IS NOT NULL AND rowid BETWEEN @from AND @to;
UPDATE models SET calibration = finch_calibration(calibration) WHERE calibration IS NOT NULL;

-- Bytes by their hash, in the folder of files. What no message uses, and was not kept of late, is swept.
CREATE TABLE files (
  hash TEXT PRIMARY KEY,       -- SHA-256
  type TEXT NOT NULL,          -- media type, as the bytes say
  size INTEGER NOT NULL,       -- bytes
  width INTEGER NOT NULL,      -- pixels
  height INTEGER NOT NULL,
  kept_at INTEGER NOT NULL
) STRICT, WITHOUT ROWID;
CREATE INDEX files_by_age ON files (kept_at);
CREATE TABLE file_uses (
  message_id TEXT NOT NULL REFERENCES messages ON DELETE CASCADE,
  hash TEXT NOT NULL REFERENCES files,
  PRIMARY KEY (message_id, hash)
) STRICT, WITHOUT ROWID;
CREATE INDEX file_uses_by_hash ON file_uses (hash);
-- What a caller handed in, under an id of the caller's own: the hash would tell one who guesses the bytes.
CREATE TABLE uploads (
  id TEXT PRIMARY KEY,
  visitor_id TEXT NOT NULL REFERENCES visitors ON DELETE CASCADE,
  hash TEXT NOT NULL REFERENCES files,
  at INTEGER NOT NULL
) STRICT, WITHOUT ROWID;
CREATE UNIQUE INDEX uploads_by_visitor ON uploads (visitor_id, hash);
CREATE INDEX uploads_by_hash ON uploads (hash);
