-- Documents that visitors handed in, each its visitor's alone.
CREATE TABLE visitor_documents (
  id TEXT PRIMARY KEY,
  visitor_id TEXT NOT NULL REFERENCES visitors ON DELETE CASCADE,
  title TEXT NOT NULL,
  short TEXT NOT NULL,             -- names its passages in marks
  origin TEXT NOT NULL,            -- JSON: a file, or an address
  hash TEXT NOT NULL REFERENCES documents,
  used_at INTEGER NOT NULL,        -- when it was had, or last looked through for a reply
  UNIQUE (visitor_id, short)
) STRICT;
CREATE INDEX visitor_documents_by_hash ON visitor_documents (hash);
CREATE INDEX visitor_documents_by_use ON visitor_documents (used_at);

-- Conversations in which passages of one were found for a reply: what was said there may stand in it.
CREATE TABLE visitor_document_uses (
  document_id TEXT NOT NULL REFERENCES visitor_documents ON DELETE CASCADE,
  conversation_id TEXT NOT NULL REFERENCES conversations ON DELETE CASCADE,
  PRIMARY KEY (document_id, conversation_id)
) STRICT, WITHOUT ROWID;
CREATE INDEX visitor_document_uses_by_conversation ON visitor_document_uses (conversation_id);

-- Bytes that a visitor's document had: they are let go of where nothing else has them, however it was deleted.
CREATE TABLE leaving_documents (
  hash TEXT PRIMARY KEY
) STRICT, WITHOUT ROWID;
CREATE TRIGGER visitor_document_left AFTER DELETE ON visitor_documents
  BEGIN INSERT OR IGNORE INTO leaving_documents (hash) VALUES (OLD.hash); END;
CREATE TRIGGER visitor_document_changed AFTER UPDATE OF hash ON visitor_documents WHEN OLD.hash <> NEW.hash
  BEGIN INSERT OR IGNORE INTO leaving_documents (hash) VALUES (OLD.hash); END;

-- Since when something that was deleted is to be gone from every byte, until it is.
CREATE TABLE erasing (
  id INTEGER PRIMARY KEY CHECK (id = 1),
  since INTEGER NOT NULL
) STRICT;
