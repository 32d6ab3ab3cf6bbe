-- All that decides how an app behaves, once, under the hash of its canonical form.
CREATE TABLE contents (
  hash TEXT PRIMARY KEY,       -- SHA-256
  content TEXT NOT NULL,       -- JSON
  kept_at INTEGER NOT NULL
) STRICT;
CREATE INDEX contents_by_age ON contents (kept_at);
INSERT OR IGNORE INTO contents
  SELECT finch_hash(content), content, kept_at
  FROM (SELECT finch_canonical(content) AS content, created_at AS kept_at FROM revisions
    UNION ALL SELECT finch_canonical(draft), created_at FROM apps);

CREATE TABLE new_revisions (
  app_id TEXT NOT NULL REFERENCES apps ON DELETE CASCADE,
  number INTEGER NOT NULL,
  content_hash TEXT NOT NULL REFERENCES contents,
  note TEXT NOT NULL DEFAULT '',
  created_at INTEGER NOT NULL,
  PRIMARY KEY (app_id, number)
) STRICT, WITHOUT ROWID;
INSERT INTO new_revisions SELECT app_id, number, finch_hash(finch_canonical(content)), note, created_at FROM revisions;
DROP TABLE revisions;
ALTER TABLE new_revisions RENAME TO revisions;
CREATE INDEX revisions_by_content ON revisions (content_hash, app_id);

ALTER TABLE apps ADD COLUMN draft_hash TEXT REFERENCES contents;
UPDATE apps SET draft_hash = finch_hash(finch_canonical(draft));
ALTER TABLE apps DROP COLUMN draft;
CREATE INDEX apps_by_draft ON apps (draft_hash);

-- The lasting names of providers that were deleted, which are never given out again.
CREATE TABLE provider_stones (slug TEXT PRIMARY KEY) STRICT, WITHOUT ROWID;
CREATE TRIGGER stone_of_provider AFTER DELETE ON providers
  BEGIN INSERT OR IGNORE INTO provider_stones VALUES (OLD.slug); END;

-- Everything knows a provider by its lasting name, and not by the one that is shown.
CREATE TEMP TABLE slugs AS SELECT json_group_object(name, slug) AS of_names FROM providers;
-- in slices of dispatches
UPDATE dispatches SET provider = coalesce(
    (SELECT slug FROM providers WHERE id = provider_id), finch_lasting(provider, (SELECT of_names FROM slugs))
  ) WHERE rowid BETWEEN @from AND @to;
-- in slices of spend
UPDATE spend SET provider = finch_lasting(provider, (SELECT of_names FROM slugs)) WHERE rowid BETWEEN @from AND @to;
INSERT OR IGNORE INTO provider_stones
  SELECT provider FROM (SELECT provider FROM spend UNION SELECT provider FROM dispatches)
  WHERE provider NOT IN (SELECT slug FROM providers);
UPDATE summaries SET
  provider = finch_lasting(provider, (SELECT of_names FROM slugs)),
  answered_by = CASE WHEN answered_by IS NULL THEN NULL ELSE finch_speaker(answered_by, (SELECT of_names FROM slugs)) END;
UPDATE OR IGNORE clears SET answered_by = finch_speaker(answered_by, (SELECT of_names FROM slugs)) WHERE answered_by <> '';
UPDATE latest_events SET data = finch_speaker(data, (SELECT of_names FROM slugs)) WHERE event IN ('reply', 'attempt');
-- in slices of messages
UPDATE event_pages SET lines = finch_events(lines, (SELECT of_names FROM slugs))
  WHERE reply_id IN (SELECT id FROM messages WHERE rowid BETWEEN @from AND @to);

-- A reply names the content that made it; the number of a revision stands beside it where there is one.
-- in slices of messages
UPDATE messages SET facts = json_patch(finch_facts(facts, (SELECT of_names FROM slugs)), json_object('content', (
    SELECT content_hash FROM conversations AS c JOIN revisions AS r
      ON r.app_id = c.app_id AND r.number = json_extract(facts, '$.revision')
    WHERE c.id = conversation_id
  ))) WHERE rowid BETWEEN @from AND @to AND facts IS NOT NULL;
DROP TABLE slugs;
ALTER TABLE messages ADD COLUMN made_from TEXT GENERATED ALWAYS AS (json_extract(facts, '$.content')) VIRTUAL;
CREATE INDEX replies_by_content ON messages (made_from) WHERE made_from IS NOT NULL;

-- What was spent, by all that it is asked for by.
ALTER TABLE spend ADD COLUMN content TEXT;                             -- hash of the content that it was spent on
ALTER TABLE spend ADD COLUMN owner TEXT;                               -- what it was spent for, where that is no reply
ALTER TABLE spend ADD COLUMN cached INTEGER NOT NULL DEFAULT 0;        -- tokens of the input that the provider had at hand
ALTER TABLE spend ADD COLUMN written INTEGER NOT NULL DEFAULT 0;       -- tokens of the input that it put there
ALTER TABLE spend ADD COLUMN thought INTEGER NOT NULL DEFAULT 0;       -- tokens of the output that were reasoning

-- What a call was made for: the words trial and check are those of checks.
UPDATE makings SET purpose = 'try' WHERE purpose = 'trial';
UPDATE spend SET purpose = 'try' WHERE purpose = 'trial';
