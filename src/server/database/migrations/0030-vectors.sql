-- Models that make vectors, each with how many numbers one has, and that of a text which is known, by which it shows
-- whether it still makes them as it did. An id is never given twice: what is kept in memory goes by it.
CREATE TABLE vector_spaces (
  id INTEGER PRIMARY KEY AUTOINCREMENT,
  provider TEXT NOT NULL,          -- its lasting name
  model TEXT NOT NULL,
  length INTEGER NOT NULL,
  known BLOB NOT NULL,
  UNIQUE (provider, model)
) STRICT;

-- Vectors of texts by the SHA-256 of the text, so that none is asked for twice: 32-bit numbers, of length one together.
CREATE TABLE vectors (
  space_id INTEGER NOT NULL REFERENCES vector_spaces ON DELETE CASCADE,
  hash TEXT NOT NULL,
  vector BLOB NOT NULL,
  PRIMARY KEY (space_id, hash)
) STRICT, WITHOUT ROWID;

-- The SHA-256 of what stands for a passage: its headings and its text.
ALTER TABLE passages ADD COLUMN hash TEXT;
UPDATE passages SET hash = finch_passage(text, place);
CREATE INDEX passages_by_hash ON passages (hash);
