-- Two candidates in conversation with each other.
CREATE TABLE duets (
  id TEXT PRIMARY KEY,
  app_id TEXT NOT NULL REFERENCES apps ON DELETE CASCADE,
  name TEXT,                       -- as the developer named it
  opening TEXT NOT NULL,           -- what is said first; '' where the opener finds words of its own
  cue TEXT NOT NULL,               -- what the opener is told, so that its first words answer something
  opener INTEGER NOT NULL,         -- 0 or 1
  rounds INTEGER NOT NULL,
  most_price INTEGER,              -- millionths
  most_tokens INTEGER,
  judged_from INTEGER NOT NULL DEFAULT 0,    -- utterances before which no end is read from the words
  ended TEXT,                      -- why it has ended, JSON; null while it goes on
  created_at INTEGER NOT NULL,
  updated_at INTEGER NOT NULL,
  deleted_at INTEGER
) STRICT;
CREATE INDEX duets_by_app ON duets (app_id, updated_at DESC, id DESC);

CREATE TABLE duet_sides (
  duet_id TEXT NOT NULL REFERENCES duets ON DELETE CASCADE,
  side INTEGER NOT NULL,           -- 0 or 1
  base TEXT NOT NULL,              -- live, draft, or the number of a revision
  revision INTEGER NOT NULL,       -- the revision that the base was then
  content_hash TEXT NOT NULL REFERENCES contents,
  conversation_id TEXT REFERENCES conversations ON DELETE SET NULL,   -- in which the other one is the visitor
  PRIMARY KEY (duet_id, side)
) STRICT, WITHOUT ROWID;
CREATE INDEX duet_sides_by_content ON duet_sides (content_hash);
CREATE INDEX duet_sides_by_conversation ON duet_sides (conversation_id);

-- What was said, in order: the message that was said to a side, whose reply is the utterance.
CREATE TABLE duet_turns (
  duet_id TEXT NOT NULL REFERENCES duets ON DELETE CASCADE,
  number INTEGER NOT NULL,         -- from 1
  side INTEGER NOT NULL,
  message_id TEXT REFERENCES messages ON DELETE SET NULL,
  goes_again INTEGER NOT NULL DEFAULT 0,     -- whether its reply is to be made once more
  PRIMARY KEY (duet_id, number)
) STRICT, WITHOUT ROWID;
CREATE INDEX duet_turns_by_message ON duet_turns (message_id);

-- Words that the developer put in, to be told to a side with what the other one says next.
CREATE TABLE duet_words (
  id INTEGER PRIMARY KEY,
  duet_id TEXT NOT NULL REFERENCES duets ON DELETE CASCADE,
  side INTEGER NOT NULL,
  text TEXT NOT NULL,
  number INTEGER                   -- the turn in which it was told; null while it waits
) STRICT;
CREATE INDEX duet_words_by_duet ON duet_words (duet_id, id);
