-- Who may call an app, how its page looks, and the revision that is tried before it is put live.
ALTER TABLE apps ADD COLUMN access TEXT NOT NULL DEFAULT '{}';         -- JSON
ALTER TABLE apps ADD COLUMN look TEXT NOT NULL DEFAULT '{}';           -- JSON
ALTER TABLE apps ADD COLUMN trial_revision INTEGER;

-- What a front end calls with. A server token may name any visitor, a public one opens visitors of its own.
CREATE TABLE tokens (
  id TEXT PRIMARY KEY,
  app_id TEXT NOT NULL REFERENCES apps ON DELETE CASCADE,
  kind TEXT NOT NULL CHECK (kind IN ('server', 'public')),
  name TEXT NOT NULL,
  hash TEXT NOT NULL UNIQUE,   -- SHA-256; the token itself is shown once and kept nowhere
  hint TEXT NOT NULL,          -- its last characters
  created_at INTEGER NOT NULL,
  used_at INTEGER,
  revoked_at INTEGER
) STRICT;
CREATE INDEX tokens_by_app ON tokens (app_id, id);

-- Visitors belong to an app. One who talked with several becomes one of each.
ALTER TABLE visitors ADD COLUMN app_id TEXT REFERENCES apps ON DELETE CASCADE;
ALTER TABLE visitors ADD COLUMN name TEXT;                             -- as callers name it
ALTER TABLE visitors ADD COLUMN token_id TEXT REFERENCES tokens ON DELETE CASCADE; -- the public token that opened it
ALTER TABLE visitors ADD COLUMN expires_at INTEGER;
UPDATE visitors SET app_id = (SELECT min(app_id) FROM conversations WHERE visitor_id = visitors.id);
INSERT INTO visitors (id, created_at, app_id)
  SELECT DISTINCT v.id || '_' || substr(c.app_id, -8), v.created_at, c.app_id
  FROM visitors AS v JOIN conversations AS c ON c.visitor_id = v.id WHERE c.app_id <> v.app_id;
UPDATE conversations SET visitor_id = visitor_id || '_' || substr(app_id, -8)
  WHERE visitor_id IS NOT NULL AND app_id <> (SELECT app_id FROM visitors WHERE id = visitor_id);
DELETE FROM visitors WHERE app_id IS NULL;
CREATE UNIQUE INDEX visitors_by_name ON visitors (app_id, name);
CREATE INDEX visitors_by_token ON visitors (token_id) WHERE token_id IS NOT NULL;

-- What a caller holds itself passes through: it is listed nowhere, and deleted soon after its end.
ALTER TABLE conversations ADD COLUMN is_passing INTEGER NOT NULL DEFAULT 0;
CREATE INDEX conversations_passing ON conversations (id) WHERE is_passing = 1;

-- Histories that were sent whole, by a hash of them, with the message that each ends with.
CREATE TABLE sent_histories (
  visitor_id TEXT NOT NULL REFERENCES visitors ON DELETE CASCADE,
  hash TEXT NOT NULL,
  message_id TEXT NOT NULL REFERENCES messages ON DELETE CASCADE,
  PRIMARY KEY (visitor_id, hash, message_id)
) STRICT, WITHOUT ROWID;
CREATE INDEX sent_histories_by_message ON sent_histories (message_id);

-- Calls of the endpoints of an app: those for a reply, and all that were refused.
CREATE TABLE calls (
  id TEXT PRIMARY KEY,
  app_id TEXT NOT NULL REFERENCES apps ON DELETE CASCADE,
  at INTEGER NOT NULL,
  method TEXT NOT NULL,
  path TEXT NOT NULL,
  origin TEXT NOT NULL,        -- page, http or terminal
  client TEXT,
  shape TEXT NOT NULL,         -- own, or common
  visitor TEXT,                -- as it is named
  web_origin TEXT,             -- the origin of another's page
  address TEXT NOT NULL,
  status INTEGER NOT NULL,
  problem TEXT,                -- JSON
  reply_id TEXT,
  -- once its reply has ended
  state TEXT,
  ended_at INTEGER,
  first_text_ms REAL,
  input INTEGER,
  output INTEGER,
  price REAL,
  currency TEXT
) STRICT;
CREATE INDEX calls_by_app ON calls (app_id, id);
CREATE INDEX calls_refused ON calls (app_id, id) WHERE reply_id IS NULL;
CREATE INDEX calls_by_reply ON calls (reply_id) WHERE reply_id IS NOT NULL;
