-- What a model made of the older turns of a line, to be carried in their place.
CREATE TABLE summaries (
  id TEXT PRIMARY KEY,
  conversation_id TEXT NOT NULL REFERENCES conversations ON DELETE CASCADE,
  message_id TEXT NOT NULL REFERENCES messages ON DELETE CASCADE, -- the last reply that it covers, with all above it
  clear_id TEXT,               -- the reply after which the line was cleared, above which it covers nothing
  answered_by TEXT,            -- provider and model of the turns that it covers, JSON; null where it covers all
  left_out TEXT NOT NULL,      -- the visitor's messages of pinned turns, which it does not cover; JSON
  text TEXT NOT NULL,
  counts TEXT NOT NULL,        -- what it holds, by class of characters, JSON
  recipe TEXT NOT NULL,        -- what stands for the model that was to make it, and for its prompt
  is_corrected INTEGER NOT NULL DEFAULT 0,
  is_cut INTEGER NOT NULL,     -- whether it ended at the output limit
  provider TEXT NOT NULL,
  model TEXT NOT NULL,
  price INTEGER,               -- millionths of the currency; null where nothing was counted
  currency TEXT,
  making_id TEXT REFERENCES makings ON DELETE SET NULL,
  at INTEGER NOT NULL
) STRICT;
CREATE INDEX summaries_by_message ON summaries (message_id);
CREATE INDEX summaries_by_conversation ON summaries (conversation_id);
CREATE INDEX summaries_by_making ON summaries (making_id);

-- What is said to a model for a summary is deleted with what it is about.
ALTER TABLE makings ADD COLUMN message_id TEXT REFERENCES messages ON DELETE CASCADE;
CREATE INDEX makings_by_message ON makings (message_id) WHERE message_id IS NOT NULL;

-- A line can be drawn for one model alone, where each remembers only its own.
CREATE TABLE new_clears (
  message_id TEXT NOT NULL REFERENCES messages ON DELETE CASCADE,
  answered_by TEXT NOT NULL DEFAULT '', -- provider and model, JSON; empty for all
  conversation_id TEXT NOT NULL REFERENCES conversations ON DELETE CASCADE,
  at INTEGER NOT NULL,
  PRIMARY KEY (message_id, answered_by)
) STRICT, WITHOUT ROWID;
INSERT INTO new_clears (message_id, conversation_id, at) SELECT message_id, conversation_id, at FROM clears;
DROP TABLE clears;
ALTER TABLE new_clears RENAME TO clears;
CREATE INDEX clears_by_conversation ON clears (conversation_id);
