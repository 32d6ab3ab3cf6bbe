-- Documents that apps answer from: where each came from, and the bytes that were had of it last.
CREATE TABLE sources (
  id TEXT PRIMARY KEY,
  app_id TEXT NOT NULL REFERENCES apps ON DELETE CASCADE,
  title TEXT NOT NULL,
  short TEXT NOT NULL,             -- names its passages in marks
  origin TEXT NOT NULL,            -- JSON: a file, or an address
  hash TEXT NOT NULL REFERENCES documents,
  had_at INTEGER NOT NULL,         -- when these bytes were had
  looked_at INTEGER NOT NULL,      -- when it was last looked whether there are others
  problem TEXT,                    -- JSON: why they could not be had then
  added_at INTEGER NOT NULL,
  UNIQUE (app_id, short)
) STRICT;
CREATE INDEX sources_by_hash ON sources (hash);

-- Folders whose documents apps answer from, and those that come into them.
CREATE TABLE source_folders (
  app_id TEXT NOT NULL REFERENCES apps ON DELETE CASCADE,
  path TEXT NOT NULL,
  PRIMARY KEY (app_id, path)
) STRICT, WITHOUT ROWID;

-- What documents hold, by the SHA-256 of their bytes, which stand in the folder of documents.
CREATE TABLE documents (
  hash TEXT PRIMARY KEY,
  kind TEXT NOT NULL,              -- text, markdown, html, csv, docx, pdf
  size INTEGER NOT NULL,           -- bytes
  parts INTEGER,                   -- how many it is read in: pages, where it has pages; null until that is known
  read_at INTEGER,                 -- null until all of it is read
  unread TEXT NOT NULL DEFAULT '[]', -- JSON: parts that could not be read, and why
  problem TEXT,                    -- JSON: why none of it can be
  kept_at INTEGER NOT NULL
) STRICT, WITHOUT ROWID;
CREATE INDEX documents_by_age ON documents (kept_at);

-- What was read of documents, in order.
CREATE TABLE document_parts (
  hash TEXT NOT NULL REFERENCES documents ON DELETE CASCADE,
  place INTEGER NOT NULL,          -- from 1
  blocks TEXT NOT NULL,            -- JSON
  PRIMARY KEY (hash, place)
) STRICT, WITHOUT ROWID;

-- Documents as they are cut into passages of a size.
CREATE TABLE cuttings (
  id INTEGER PRIMARY KEY,
  hash TEXT NOT NULL REFERENCES documents ON DELETE CASCADE,
  size INTEGER NOT NULL,           -- tokens
  overlap INTEGER NOT NULL,        -- tokens
  passages INTEGER NOT NULL DEFAULT 0,
  tokens INTEGER NOT NULL DEFAULT 0,
  length INTEGER NOT NULL DEFAULT 0, -- words of all its passages
  is_whole INTEGER NOT NULL DEFAULT 0,
  UNIQUE (hash, size, overlap)
) STRICT;
CREATE TABLE passages (
  id INTEGER PRIMARY KEY,
  cutting_id INTEGER NOT NULL REFERENCES cuttings ON DELETE CASCADE,
  number INTEGER NOT NULL,         -- from 1
  text TEXT NOT NULL,
  words TEXT NOT NULL,             -- as they are looked for: of its headings and its text
  length INTEGER NOT NULL,         -- words
  place TEXT NOT NULL              -- JSON: characters of the document's text, headings, page, row
) STRICT;
CREATE UNIQUE INDEX passages_by_cutting ON passages (cutting_id, number);

-- The words of passages without their endings, under the cutting that they are of.
CREATE VIRTUAL TABLE passage_words USING fts5 (
  cutting, text, content = '', contentless_delete = 1, tokenize = "unicode61 remove_diacritics 2"
);
CREATE TRIGGER words_of_passage AFTER DELETE ON passages
  BEGIN DELETE FROM passage_words WHERE rowid = OLD.id; END;
