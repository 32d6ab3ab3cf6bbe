-- What a provider calls the model that answers under a name, and since when, so that a change behind the name is seen.
CREATE TABLE model_versions (
  provider_id TEXT NOT NULL REFERENCES providers (id) ON DELETE CASCADE,
  model TEXT NOT NULL,
  since INTEGER NOT NULL,
  version TEXT NOT NULL,
  PRIMARY KEY (provider_id, model, since)
) STRICT, WITHOUT ROWID;
