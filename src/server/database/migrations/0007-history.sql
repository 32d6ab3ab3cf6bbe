-- Takes and branches. What a visitor goes on from is `tip_id`; what the bench looks at and goes on from in a
-- visitor's conversation is `bench_tip_id`, so that looking changes nothing for the visitor.
ALTER TABLE conversations ADD COLUMN bench_tip_id TEXT REFERENCES messages;
CREATE INDEX conversations_by_bench_tip ON conversations (bench_tip_id) WHERE bench_tip_id IS NOT NULL;
ALTER TABLE messages ADD COLUMN name TEXT;                             -- of the branch that begins with it
-- a branch that is deleted: each of its messages is out of sight at once, and deleted in slices
ALTER TABLE messages ADD COLUMN is_leaving INTEGER NOT NULL DEFAULT 0;
CREATE INDEX messages_leaving ON messages (conversation_id, depth) WHERE is_leaving = 1;
-- further takes of the same call, JSON
ALTER TABLE idempotent_calls ADD COLUMN further TEXT;

-- A line in a conversation, after a reply: nothing above it is carried.
CREATE TABLE clears (
  message_id TEXT PRIMARY KEY REFERENCES messages ON DELETE CASCADE,
  conversation_id TEXT NOT NULL REFERENCES conversations ON DELETE CASCADE,
  at INTEGER NOT NULL
) STRICT, WITHOUT ROWID;
CREATE INDEX clears_by_conversation ON clears (conversation_id);

-- What the developer wrote on a conversation.
ALTER TABLE conversations ADD COLUMN title TEXT;
ALTER TABLE conversations ADD COLUMN note TEXT NOT NULL DEFAULT '';
CREATE TABLE tags (
  conversation_id TEXT NOT NULL REFERENCES conversations ON DELETE CASCADE,
  tag TEXT NOT NULL COLLATE NOCASE,
  PRIMARY KEY (conversation_id, tag)
) STRICT, WITHOUT ROWID;
CREATE INDEX tags_by_tag ON tags (tag, conversation_id);

-- A word on a reply, one of the visitor and one of the developer.
CREATE TABLE ratings (
  message_id TEXT NOT NULL REFERENCES messages ON DELETE CASCADE,
  rater TEXT NOT NULL CHECK (rater IN ('visitor', 'bench')),
  conversation_id TEXT NOT NULL REFERENCES conversations ON DELETE CASCADE,
  rating TEXT NOT NULL CHECK (rating IN ('good', 'bad')),
  at INTEGER NOT NULL,
  PRIMARY KEY (message_id, rater)
) STRICT, WITHOUT ROWID;
CREATE INDEX ratings_by_conversation ON ratings (conversation_id, rating);

-- What the calls for the replies of a conversation cost, in whole millionths; what is deleted in it stays paid for.
ALTER TABLE conversations ADD COLUMN price INTEGER NOT NULL DEFAULT 0;
ALTER TABLE conversations ADD COLUMN currency TEXT NOT NULL DEFAULT '';
UPDATE conversations SET
  price = coalesce((
    SELECT sum(CAST(round(json_extract(d.usage, '$.price') * 1000000) AS INTEGER)) FROM messages AS m
      JOIN made_replies AS r ON r.reply_id = m.id JOIN dispatches AS d ON d.making_id = r.making_id
    WHERE m.conversation_id = conversations.id AND d.usage IS NOT NULL), 0),
  currency = coalesce((
    SELECT max(json_extract(d.usage, '$.currency')) FROM messages AS m
      JOIN made_replies AS r ON r.reply_id = m.id JOIN dispatches AS d ON d.making_id = r.making_id
    WHERE m.conversation_id = conversations.id AND d.usage IS NOT NULL), '');

-- Who made a reply, for the filter of the history, which reads the index alone.
ALTER TABLE messages ADD COLUMN made_by TEXT GENERATED ALWAYS AS (json_extract(facts, '$.provider') || ' ' || json_extract(facts, '$.model')) VIRTUAL;
ALTER TABLE messages ADD COLUMN made_at_revision INTEGER GENERATED ALWAYS AS (json_extract(facts, '$.revision')) VIRTUAL;
CREATE INDEX replies_by_maker ON messages (conversation_id, made_at_revision, made_by, state)
  WHERE role = 'app' AND is_leaving = 0;

-- Words of all messages. The row of a message is the number of its conversation × 2^20, and the message's place in
-- it: so the conversations that say a word are known from the index alone.
ALTER TABLE conversations ADD COLUMN number INTEGER;
ALTER TABLE conversations ADD COLUMN indexed INTEGER NOT NULL DEFAULT 0; -- messages that got a place so far
UPDATE conversations SET number = rowid;
CREATE UNIQUE INDEX conversations_by_number ON conversations (number);
ALTER TABLE messages ADD COLUMN words_id INTEGER;
CREATE UNIQUE INDEX messages_by_words ON messages (words_id) WHERE words_id IS NOT NULL;
CREATE VIRTUAL TABLE words USING fts5 (
  text, content = '', contentless_delete = 1, tokenize = "unicode61 remove_diacritics 2"
);
UPDATE messages SET words_id = (SELECT number FROM conversations WHERE id = conversation_id) * 1048576
    + (SELECT count(*) FROM messages AS other WHERE other.conversation_id = messages.conversation_id AND other.id < messages.id)
  WHERE pieces <> '[]'
    AND NOT EXISTS (SELECT 1 FROM messages AS whole WHERE whole.continues = messages.id)
    AND conversation_id IN (SELECT id FROM conversations WHERE is_passing = 0);
UPDATE conversations SET indexed = (SELECT count(*) FROM messages WHERE conversation_id = conversations.id);
INSERT INTO words (rowid, text) SELECT words_id, finch_words(pieces) FROM messages WHERE words_id IS NOT NULL;
CREATE TRIGGER words_of_deleted AFTER DELETE ON messages WHEN OLD.words_id IS NOT NULL
  BEGIN DELETE FROM words WHERE rowid = OLD.words_id; END;

-- Long work of every kind: how far it is, and what it needs to go on after a restart.
CREATE TABLE jobs (
  id TEXT PRIMARY KEY,
  app_id TEXT NOT NULL REFERENCES apps ON DELETE CASCADE,
  work TEXT NOT NULL,          -- what it does and how far it is, JSON; its kind is a member of it
  state TEXT NOT NULL CHECK (state IN ('waiting', 'running', 'done', 'stopped', 'failed')),
  done INTEGER NOT NULL DEFAULT 0, -- of `of`
  of INTEGER NOT NULL DEFAULT 0,
  price INTEGER NOT NULL DEFAULT 0, -- millionths that it took so far
  most_price INTEGER,          -- millionths that it may take
  problem TEXT,                -- why it failed, JSON
  created_at INTEGER NOT NULL,
  updated_at INTEGER NOT NULL
) STRICT;
CREATE INDEX jobs_by_app ON jobs (app_id);
CREATE INDEX jobs_by_state ON jobs (state);
-- The job that made a conversation, and the line that was said again in it.
ALTER TABLE conversations ADD COLUMN job_id TEXT REFERENCES jobs ON DELETE SET NULL;
CREATE INDEX conversations_by_job ON conversations (job_id) WHERE job_id IS NOT NULL;
ALTER TABLE conversations ADD COLUMN said_again TEXT;                  -- the id of the conversation that it repeats
