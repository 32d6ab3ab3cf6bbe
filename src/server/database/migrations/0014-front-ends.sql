-- Secrets that a site signs identities of its visitors with. They are needed to check what was signed: sealed, not hashed.
CREATE TABLE sites (
  id TEXT PRIMARY KEY,
  app_id TEXT NOT NULL REFERENCES apps ON DELETE CASCADE,
  name TEXT NOT NULL,
  sealed TEXT NOT NULL,        -- empty once it is revoked
  hint TEXT NOT NULL,          -- its last characters
  created_at INTEGER NOT NULL,
  used_at INTEGER,
  revoked_at INTEGER
) STRICT;
CREATE INDEX sites_by_app ON sites (app_id, id);

-- What its visitor calls a conversation; the developer's title beside it is nobody's else.
ALTER TABLE conversations ADD COLUMN visitor_title TEXT;
-- What visitors of one's choice try before it is live.
ALTER TABLE apps RENAME COLUMN trial_revision TO preview_revision;
