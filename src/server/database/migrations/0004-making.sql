-- Functions named finch_… are the product's own; see functions.ts beside this folder.

-- Providers are known in a revision by a name that lasts, whatever they are called later and in whatever folder.
ALTER TABLE providers ADD COLUMN slug TEXT NOT NULL DEFAULT '';
UPDATE providers SET slug = finch_slug(name);
UPDATE providers SET slug = slug || '-' || lower(replace(substr(id, -8), '_', '')) WHERE EXISTS (
  SELECT 1 FROM providers AS other WHERE other.slug = providers.slug AND other.rowid < providers.rowid
);
CREATE UNIQUE INDEX providers_by_slug ON providers (slug);
ALTER TABLE providers ADD COLUMN at_once INTEGER;                      -- calls that it takes at once; null for any number
UPDATE apps SET draft = finch_content(draft, (SELECT json_group_object(id, slug) FROM providers));
UPDATE revisions SET content = finch_content(content, (SELECT json_group_object(id, slug) FROM providers));
UPDATE revisions SET hash = finch_hash(content);

-- Where a conversation came from, and what it holds.
ALTER TABLE conversations ADD COLUMN origin TEXT NOT NULL DEFAULT 'bench'
  CHECK (origin IN ('bench', 'page', 'http', 'terminal', 'job'));
UPDATE conversations SET origin = 'http' WHERE visitor_id IS NOT NULL;
ALTER TABLE conversations ADD COLUMN client TEXT;                      -- the name that a calling front end gives itself
ALTER TABLE conversations ADD COLUMN turns INTEGER NOT NULL DEFAULT 0; -- of the shown line
ALTER TABLE conversations ADD COLUMN tokens INTEGER NOT NULL DEFAULT 0;
CREATE INDEX conversations_of_app ON conversations (app_id, id);
DROP INDEX conversations_by_visitor;
CREATE INDEX conversations_by_visitor ON conversations (visitor_id, app_id, updated_at, id) WHERE deleted_at IS NULL;
CREATE INDEX conversations_of_visitor ON conversations (visitor_id);

ALTER TABLE messages ADD COLUMN turn INTEGER NOT NULL DEFAULT 1;       -- of its line, from 1
ALTER TABLE messages ADD COLUMN counts TEXT NOT NULL DEFAULT '';       -- what its pieces hold, by class of characters, JSON
ALTER TABLE messages ADD COLUMN so_far TEXT NOT NULL DEFAULT '';       -- what the answered turns of its line hold, JSON
ALTER TABLE messages ADD COLUMN reported INTEGER;                      -- tokens of a reply as its provider counted them
ALTER TABLE messages ADD COLUMN shown_child_id TEXT;                   -- the child that is shown
ALTER TABLE messages ADD COLUMN is_packed INTEGER NOT NULL DEFAULT 0;  -- whether the events of a reply are packed
UPDATE messages SET turn = depth / 2 + 1, counts = finch_counts(pieces), shown_child_id = (
  SELECT id FROM messages AS child WHERE child.parent_id = messages.id ORDER BY id DESC LIMIT 1
);
UPDATE messages SET reported = tokens WHERE role = 'app' AND json_extract(facts, '$.usage.estimated') = 0;
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
UPDATE conversations SET
  turns = coalesce((SELECT turn FROM messages WHERE id = tip_id), 0),
  tokens = coalesce((SELECT sum(tokens) FROM messages WHERE conversation_id = conversations.id), 0);
ALTER TABLE messages DROP COLUMN tokens;
CREATE INDEX replies_unpacked ON messages (created_at) WHERE role = 'app' AND is_packed = 0;

-- A visitor's message that is always carried, whatever the memory.
CREATE TABLE pins (
  message_id TEXT PRIMARY KEY REFERENCES messages ON DELETE CASCADE,
  at INTEGER NOT NULL
) STRICT, WITHOUT ROWID;

-- The events of a reply that ended more than a day ago, as one gzip file of NDJSON.
CREATE TABLE packed_events (
  reply_id TEXT PRIMARY KEY REFERENCES messages ON DELETE CASCADE,
  last_id INTEGER NOT NULL,
  bytes BLOB NOT NULL
) STRICT, WITHOUT ROWID;

-- Words that were wanted from a model, for whatever reason: rounds of attempts, each of which is a dispatch.
CREATE TABLE makings (
  id TEXT PRIMARY KEY,
  purpose TEXT NOT NULL,       -- reply, probe, trial, again
  owner TEXT,                  -- what it is for, where that is no reply
  at INTEGER NOT NULL
) STRICT;
CREATE INDEX makings_by_purpose ON makings (purpose, at);

-- The replies that a making feeds: each a take of it.
CREATE TABLE made_replies (
  reply_id TEXT PRIMARY KEY REFERENCES messages ON DELETE CASCADE,
  making_id TEXT NOT NULL REFERENCES makings ON DELETE CASCADE,
  take INTEGER NOT NULL
) STRICT, WITHOUT ROWID;
CREATE INDEX made_replies_by_making ON made_replies (making_id);
CREATE TRIGGER making_without_replies AFTER DELETE ON made_replies
  WHEN NOT EXISTS (SELECT 1 FROM made_replies WHERE making_id = OLD.making_id)
  BEGIN DELETE FROM makings WHERE id = OLD.making_id; END;

INSERT INTO makings (id, purpose, at)
  SELECT 'mak_' || substr(reply_id, 5), 'reply', min(started_at) FROM dispatches GROUP BY reply_id;
INSERT INTO made_replies (reply_id, making_id, take)
  SELECT DISTINCT reply_id, 'mak_' || substr(reply_id, 5), 0 FROM dispatches;

CREATE TABLE new_dispatches (
  id TEXT PRIMARY KEY,
  making_id TEXT NOT NULL REFERENCES makings ON DELETE CASCADE,
  round INTEGER NOT NULL,      -- of the making, from 1: another one where tools are called
  attempt INTEGER NOT NULL,    -- counted within the making, from 1
  provider_id TEXT,
  provider TEXT NOT NULL,
  model TEXT NOT NULL,
  profile_hash TEXT NOT NULL,
  request TEXT NOT NULL,       -- method, URL, headers and body, the key hidden; JSON
  ledger TEXT,                 -- JSON; none where no context was assembled
  prices TEXT NOT NULL,        -- at the time, JSON
  status INTEGER,              -- HTTP status of the answer
  headers TEXT,                -- of the answer, JSON
  outcome TEXT,                -- the last event, JSON
  usage TEXT,                  -- JSON
  notes TEXT NOT NULL DEFAULT '[]',
  started_at INTEGER NOT NULL,
  ended_at INTEGER,
  arrivals TEXT,               -- "at:length" of each arrival, once it has ended
  packed BLOB,                 -- the bytes of the answer as gzip members, once it has ended
  reader TEXT                  -- "at:length" of the text as its reader got it
) STRICT;
INSERT INTO new_dispatches
  SELECT id, 'mak_' || substr(reply_id, 5), 1, attempt, provider_id, provider, model, profile_hash, request,
    finch_ledger(ledger), prices, status, headers, outcome, usage, notes, started_at, ended_at, arrivals, packed, reader
  FROM dispatches;
CREATE TABLE new_chunks (
  dispatch_id TEXT NOT NULL REFERENCES new_dispatches ON DELETE CASCADE,
  seq INTEGER NOT NULL,
  at INTEGER NOT NULL,         -- milliseconds after the start, of the first arrival in it
  arrivals TEXT NOT NULL,      -- "at:length" of each arrival, parted by spaces
  bytes BLOB NOT NULL,
  is_packed INTEGER NOT NULL DEFAULT 0, -- whether its bytes are a gzip member
  PRIMARY KEY (dispatch_id, seq)
) STRICT, WITHOUT ROWID;
INSERT INTO new_chunks SELECT dispatch_id, seq, at, arrivals, bytes, is_packed FROM dispatch_chunks;
DROP TABLE dispatch_chunks;
DROP TABLE dispatches;
ALTER TABLE new_dispatches RENAME TO dispatches;
ALTER TABLE new_chunks RENAME TO dispatch_chunks;
CREATE INDEX dispatches_by_making ON dispatches (making_id, attempt);
CREATE INDEX dispatches_by_provider ON dispatches (provider_id, started_at);
CREATE INDEX dispatches_by_age ON dispatches (started_at) WHERE packed IS NOT NULL;
CREATE INDEX dispatches_under_way ON dispatches (id) WHERE ended_at IS NULL;

-- What was spent, without a word of what was said: it stays when what it was spent on is deleted.
CREATE TABLE spend (
  id INTEGER PRIMARY KEY,
  at INTEGER NOT NULL,
  app_id TEXT,
  revision INTEGER,
  provider TEXT NOT NULL,
  model TEXT NOT NULL,
  origin TEXT NOT NULL,
  purpose TEXT NOT NULL,
  input INTEGER NOT NULL,      -- tokens
  output INTEGER NOT NULL,
  price INTEGER NOT NULL,      -- millionths of the currency
  currency TEXT NOT NULL
) STRICT;
CREATE INDEX spend_by_app ON spend (app_id, at);
INSERT INTO spend (at, app_id, revision, provider, model, origin, purpose, input, output, price, currency)
  SELECT d.started_at, c.app_id, json_extract(m.facts, '$.revision'), d.provider, d.model, c.origin, 'reply',
    json_extract(d.usage, '$.input'), json_extract(d.usage, '$.output'),
    CAST(round(json_extract(d.usage, '$.price') * 1000000) AS INTEGER), json_extract(d.usage, '$.currency')
  FROM dispatches AS d
    JOIN made_replies AS r ON r.making_id = d.making_id
    JOIN messages AS m ON m.id = r.reply_id
    JOIN conversations AS c ON c.id = m.conversation_id
  WHERE d.usage IS NOT NULL ORDER BY d.started_at;
