-- Where a conversation came from may be a file, and what is to come: the list of it is made anew.
ALTER TABLE conversations ADD COLUMN came_from TEXT NOT NULL DEFAULT 'bench'
  CHECK (came_from IN ('bench', 'page', 'http', 'terminal', 'job', 'imported', 'lane', 'duet'));
UPDATE conversations SET came_from = origin;
ALTER TABLE conversations DROP COLUMN origin;
ALTER TABLE conversations RENAME COLUMN came_from TO origin;
-- What an import made: it has no dispatch, and the revisions of another app are not those of this one.
UPDATE messages SET facts = json_set(facts, '$.imported', json_object('revision', json_extract(facts, '$.revision')), '$.revision', 0)
  WHERE role = 'app' AND conversation_id IN (
    SELECT c.id FROM conversations AS c JOIN jobs AS j ON j.id = c.job_id WHERE json_extract(j.work, '$.kind') = 'import');
UPDATE conversations SET origin = 'imported' WHERE job_id IN (SELECT id FROM jobs WHERE json_extract(work, '$.kind') = 'import');
