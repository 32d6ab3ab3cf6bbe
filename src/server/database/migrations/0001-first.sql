CREATE TABLE providers (
  id TEXT PRIMARY KEY,
  name TEXT NOT NULL UNIQUE COLLATE NOCASE,
  address TEXT NOT NULL,
  profile TEXT NOT NULL,       -- the wire profile, JSON
  key_variable TEXT,           -- environment variable that holds the key
  limits TEXT NOT NULL,        -- time limits in milliseconds, JSON
  created_at INTEGER NOT NULL
) STRICT;

CREATE TABLE models (
  provider_id TEXT NOT NULL REFERENCES providers ON DELETE CASCADE,
  name TEXT NOT NULL,
  window INTEGER NOT NULL,     -- tokens
  input_price REAL NOT NULL,   -- per million tokens
  output_price REAL NOT NULL,
  currency TEXT NOT NULL,
  calibration_ratio REAL NOT NULL DEFAULT 1,
  calibration_calls INTEGER NOT NULL DEFAULT 0,
  PRIMARY KEY (provider_id, name)
) STRICT, WITHOUT ROWID;

CREATE TABLE apps (
  id TEXT PRIMARY KEY,
  slug TEXT NOT NULL UNIQUE,
  name TEXT NOT NULL,
  draft TEXT NOT NULL,         -- content of a revision, JSON
  live_revision INTEGER NOT NULL,
  created_at INTEGER NOT NULL
) STRICT;

CREATE TABLE revisions (
  app_id TEXT NOT NULL REFERENCES apps ON DELETE CASCADE,
  number INTEGER NOT NULL,
  hash TEXT NOT NULL,          -- SHA-256 of the canonical content
  content TEXT NOT NULL,
  created_at INTEGER NOT NULL,
  PRIMARY KEY (app_id, number),
  UNIQUE (app_id, hash)
) STRICT, WITHOUT ROWID;

CREATE TABLE visitors (
  id TEXT PRIMARY KEY,
  created_at INTEGER NOT NULL
) STRICT;

CREATE TABLE conversations (
  id TEXT PRIMARY KEY,
  app_id TEXT NOT NULL REFERENCES apps ON DELETE CASCADE,
  visitor_id TEXT REFERENCES visitors ON DELETE CASCADE,   -- null for the bench's own
  tip_id TEXT REFERENCES messages,                         -- the end of the line that is shown
  opening TEXT NOT NULL,       -- start of the first message
  created_at INTEGER NOT NULL,
  updated_at INTEGER NOT NULL,
  deleted_at INTEGER           -- set while a deletion can be taken back
) STRICT;
CREATE INDEX conversations_by_app ON conversations (app_id, updated_at, id) WHERE deleted_at IS NULL;
CREATE INDEX conversations_by_visitor ON conversations (visitor_id, app_id, updated_at, id);

CREATE TABLE messages (
  id TEXT PRIMARY KEY,
  conversation_id TEXT NOT NULL REFERENCES conversations ON DELETE CASCADE,
  parent_id TEXT REFERENCES messages ON DELETE CASCADE,
  depth INTEGER NOT NULL,
  role TEXT NOT NULL CHECK (role IN ('visitor', 'app')),
  pieces TEXT NOT NULL,        -- JSON
  tokens INTEGER NOT NULL,
  state TEXT,                  -- of a reply
  continues TEXT REFERENCES messages ON DELETE SET NULL,
  facts TEXT,                  -- of a reply, JSON
  created_at INTEGER NOT NULL
) STRICT;
CREATE INDEX messages_by_conversation ON messages (conversation_id, depth);
CREATE INDEX messages_by_parent ON messages (parent_id);
CREATE INDEX messages_by_continued ON messages (continues) WHERE continues IS NOT NULL;
CREATE INDEX replies_under_way ON messages (state) WHERE state IN ('waiting', 'arriving');
CREATE INDEX conversations_by_tip ON conversations (tip_id);

-- What readers of a reply get. `position` orders the events of all replies.
CREATE TABLE reply_events (
  position INTEGER PRIMARY KEY AUTOINCREMENT,
  reply_id TEXT NOT NULL REFERENCES messages ON DELETE CASCADE,
  id INTEGER NOT NULL,         -- within the reply, from 1
  event TEXT NOT NULL,
  data TEXT NOT NULL,          -- JSON
  UNIQUE (reply_id, id)
) STRICT;

CREATE TABLE dispatches (
  id TEXT PRIMARY KEY,
  reply_id TEXT NOT NULL REFERENCES messages ON DELETE CASCADE,
  provider TEXT NOT NULL,
  model TEXT NOT NULL,
  profile_hash TEXT NOT NULL,
  request TEXT NOT NULL,       -- method, URL, headers and body, the key hidden; JSON
  ledger TEXT NOT NULL,        -- JSON
  prices TEXT NOT NULL,        -- at the time, JSON
  status INTEGER,              -- HTTP status of the answer
  outcome TEXT,                -- the last event, JSON
  usage TEXT,                  -- JSON
  started_at INTEGER NOT NULL,
  ended_at INTEGER
) STRICT;
CREATE INDEX dispatches_by_reply ON dispatches (reply_id);

CREATE TABLE dispatch_chunks (
  dispatch_id TEXT NOT NULL REFERENCES dispatches ON DELETE CASCADE,
  seq INTEGER NOT NULL,
  at INTEGER NOT NULL,         -- milliseconds after the start, of the first arrival in it
  arrivals TEXT NOT NULL,      -- "at:length" of each arrival, parted by spaces
  bytes BLOB NOT NULL,
  PRIMARY KEY (dispatch_id, seq)
) STRICT, WITHOUT ROWID;

-- Kept for 24 hours. A caller without an identity is known by its key alone.
CREATE TABLE idempotent_calls (
  app_id TEXT NOT NULL REFERENCES apps ON DELETE CASCADE,
  caller TEXT NOT NULL,
  key TEXT NOT NULL,
  body_hash TEXT NOT NULL,
  reply_id TEXT NOT NULL REFERENCES messages ON DELETE CASCADE,
  at INTEGER NOT NULL,
  PRIMARY KEY (app_id, caller, key)
) STRICT, WITHOUT ROWID;
CREATE INDEX idempotent_calls_by_reply ON idempotent_calls (reply_id);
CREATE INDEX idempotent_calls_by_age ON idempotent_calls (at);
