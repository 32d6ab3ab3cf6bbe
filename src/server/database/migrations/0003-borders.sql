-- what is being deleted takes no new replies, is seen by nobody, and is deleted in slices
ALTER TABLE apps ADD COLUMN is_leaving INTEGER NOT NULL DEFAULT 0;
ALTER TABLE conversations ADD COLUMN is_leaving INTEGER NOT NULL DEFAULT 0;
CREATE INDEX apps_leaving ON apps (id) WHERE is_leaving = 1;
CREATE INDEX conversations_leaving ON conversations (id) WHERE is_leaving = 1;
CREATE INDEX conversations_deleted ON conversations (deleted_at) WHERE deleted_at IS NOT NULL;

ALTER TABLE dispatches ADD COLUMN notes TEXT NOT NULL DEFAULT '[]';    -- what was odd about it, JSON
ALTER TABLE providers ADD COLUMN extras TEXT NOT NULL DEFAULT '{}';    -- secrets beside the credential by their names, each sealed or the name of its variable, JSON
ALTER TABLE providers ADD COLUMN proxy_login TEXT;                     -- "name:password" for the proxy, sealed

-- counts that no provider can have made were believed once
UPDATE models SET calibration_ratio = 1, calibration_calls = 0 WHERE calibration_ratio NOT BETWEEN 0.1 AND 10;
UPDATE messages SET tokens = length(pieces) / 4 WHERE tokens NOT BETWEEN 0 AND 1000000000;
