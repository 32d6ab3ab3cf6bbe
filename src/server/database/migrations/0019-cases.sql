-- Answers of a provider's API that its profile has to read: those that it was fitted from, and those that were pasted since.
CREATE TABLE provider_cases (
  provider_id TEXT NOT NULL REFERENCES providers (id) ON DELETE CASCADE,
  place INTEGER NOT NULL,
  answer TEXT NOT NULL,
  PRIMARY KEY (provider_id, place)
) STRICT, WITHOUT ROWID;
