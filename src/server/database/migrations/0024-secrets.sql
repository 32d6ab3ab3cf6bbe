-- What headers of an app's tools may carry, by the name that stands in them: read from a variable, or sealed here.
CREATE TABLE app_secrets (
  app_id TEXT NOT NULL REFERENCES apps ON DELETE CASCADE,
  name TEXT NOT NULL,
  secret TEXT NOT NULL,            -- JSON: a variable, or the sealed value
  PRIMARY KEY (app_id, name)
) STRICT, WITHOUT ROWID;
