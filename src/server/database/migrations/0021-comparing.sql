-- Why a conversation stands in no list: 1 where it only passes through, 2 where something else owns it; 0 where it does.
ALTER TABLE conversations RENAME COLUMN is_passing TO unlisted;

CREATE INDEX conversations_owned ON conversations (created_at) WHERE unlisted = 2;

-- Candidates that are asked the same.
CREATE TABLE comparisons (
  id TEXT PRIMARY KEY,
  app_id TEXT NOT NULL REFERENCES apps ON DELETE CASCADE,
  name TEXT,                                                       -- as the developer named it
  starts_after TEXT REFERENCES messages ON DELETE SET NULL,        -- the message of a conversation that all lanes go on from
  starts_in TEXT REFERENCES conversations ON DELETE SET NULL,
  created_at INTEGER NOT NULL,
  updated_at INTEGER NOT NULL,
  deleted_at INTEGER
) STRICT;
CREATE INDEX comparisons_by_app ON comparisons (app_id, updated_at DESC, id DESC);
CREATE INDEX comparisons_by_start ON comparisons (starts_after);
CREATE INDEX comparisons_by_conversation ON comparisons (starts_in);

-- What was asked, in order.
CREATE TABLE comparison_turns (
  comparison_id TEXT NOT NULL REFERENCES comparisons ON DELETE CASCADE,
  turn INTEGER NOT NULL,                                           -- from 1
  message TEXT NOT NULL,
  asked_at INTEGER NOT NULL,
  PRIMARY KEY (comparison_id, turn)
) STRICT, WITHOUT ROWID;

CREATE TABLE lanes (
  id TEXT PRIMARY KEY,
  comparison_id TEXT NOT NULL REFERENCES comparisons ON DELETE CASCADE,
  place INTEGER NOT NULL,
  base TEXT NOT NULL,                                              -- live, draft, or the number of a revision
  revision INTEGER NOT NULL,                                       -- the revision that the base was when it was chosen
  content_hash TEXT NOT NULL REFERENCES contents,
  conversation_id TEXT REFERENCES conversations ON DELETE SET NULL,
  stopped_at_turn INTEGER NOT NULL DEFAULT 0,                      -- turns up to which nothing more is asked
  left_at INTEGER
) STRICT;
CREATE INDEX lanes_by_comparison ON lanes (comparison_id, place, id);
CREATE INDEX lanes_by_content ON lanes (content_hash);
CREATE INDEX lanes_by_conversation ON lanes (conversation_id);

-- What a lane made of a turn: the message that was said in it, or why it could not be.
CREATE TABLE lane_turns (
  lane_id TEXT NOT NULL REFERENCES lanes ON DELETE CASCADE,
  turn INTEGER NOT NULL,
  message_id TEXT REFERENCES messages ON DELETE SET NULL,
  problem TEXT,
  PRIMARY KEY (lane_id, turn)
) STRICT, WITHOUT ROWID;
CREATE INDEX lane_turns_by_message ON lane_turns (message_id);

-- Facts that the developer marked, by the question to which they were stated.
CREATE TABLE fact_marks (
  app_id TEXT NOT NULL REFERENCES apps ON DELETE CASCADE,
  question TEXT NOT NULL,                                          -- without blanks and capitals
  fact TEXT NOT NULL,
  is_right INTEGER NOT NULL,
  at INTEGER NOT NULL,
  PRIMARY KEY (app_id, question, fact)
) STRICT, WITHOUT ROWID;
