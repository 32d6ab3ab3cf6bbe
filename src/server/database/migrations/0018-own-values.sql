-- Values of a provider's own, such as a region, by name, and the command that signs each request.
ALTER TABLE providers ADD COLUMN own_values TEXT NOT NULL DEFAULT '{}';
ALTER TABLE providers ADD COLUMN signing TEXT;
