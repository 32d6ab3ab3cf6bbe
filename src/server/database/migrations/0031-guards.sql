-- What guards found at replies: in what was sent for them, or in what they said. What was found itself stands nowhere.
CREATE TABLE caught (
  id INTEGER PRIMARY KEY,
  app_id TEXT NOT NULL REFERENCES apps ON DELETE CASCADE,
  conversation_id TEXT NOT NULL REFERENCES conversations ON DELETE CASCADE,
  message_id TEXT NOT NULL REFERENCES messages ON DELETE CASCADE,   -- the reply
  guard TEXT NOT NULL,             -- by its name
  stands TEXT NOT NULL CHECK (stands IN ('sent', 'shown')),
  does TEXT NOT NULL CHECK (does IN ('refuse', 'mask', 'mark')),
  what TEXT NOT NULL,              -- a kind of personal data, or the kind of the guard
  times INTEGER NOT NULL,
  at INTEGER NOT NULL
) STRICT;
CREATE INDEX caught_by_app ON caught (app_id, id);
CREATE INDEX caught_by_conversation ON caught (conversation_id);
CREATE INDEX caught_by_message ON caught (message_id);
