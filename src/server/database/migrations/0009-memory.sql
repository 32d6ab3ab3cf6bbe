-- Pinned turns, by the visitor's message: carried whatever the memory, in every line through it.
DROP TABLE pins;
CREATE TABLE pins (
  message_id TEXT PRIMARY KEY REFERENCES messages ON DELETE CASCADE,
  conversation_id TEXT NOT NULL REFERENCES conversations ON DELETE CASCADE,
  at INTEGER NOT NULL
) STRICT, WITHOUT ROWID;
CREATE INDEX pins_by_conversation ON pins (conversation_id);

-- Texts are counted by finer classes of characters, and what a provider counts is learned for each of them.
ALTER TABLE models DROP COLUMN calibration_ratio;
ALTER TABLE models DROP COLUMN calibration_calls;
ALTER TABLE models ADD COLUMN calibration TEXT;                        -- JSON; null while nothing was learned
UPDATE messages SET counts = finch_counts(pieces);
CREATE TEMP TABLE sums (id TEXT PRIMARY KEY, so_far TEXT NOT NULL) WITHOUT ROWID;
INSERT INTO sums
  WITH RECURSIVE line (id, so_far, counts) AS (
    SELECT id, finch_answered('', '', '', '[]'), counts FROM messages WHERE parent_id IS NULL
    UNION ALL
    SELECT child.id,
      CASE child.role WHEN 'visitor' THEN line.so_far
        ELSE finch_answered(line.so_far, line.counts, child.counts, child.pieces) END,
      child.counts
    FROM line JOIN messages AS child ON child.parent_id = line.id
  )
  SELECT id, so_far FROM line;
UPDATE messages SET so_far = (SELECT so_far FROM sums WHERE sums.id = messages.id);
DROP TABLE sums;
UPDATE conversations SET tokens = coalesce((
  SELECT sum(coalesce(reported, finch_tokens(counts))) FROM messages
  WHERE conversation_id = conversations.id AND is_leaving = 0
    AND NOT EXISTS (SELECT 1 FROM messages AS whole WHERE whole.continues = messages.id)), 0);
UPDATE dispatches SET ledger = json_remove(ledger, '$.rawTokens') WHERE ledger IS NOT NULL;

-- What the developer wrote on a revision.
ALTER TABLE revisions ADD COLUMN note TEXT NOT NULL DEFAULT '';

-- Prices that differ from the rest of their side, per million tokens; null where they do not.
ALTER TABLE models ADD COLUMN cached_price REAL;
ALTER TABLE models ADD COLUMN write_price REAL;
ALTER TABLE models ADD COLUMN thought_price REAL;

-- What an app spent since its day began is summed up from the index alone.
DROP INDEX spend_by_app;
CREATE INDEX spend_by_app ON spend (app_id, at, price);
