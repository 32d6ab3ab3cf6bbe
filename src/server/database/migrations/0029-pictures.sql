-- What a model can do is not known until somebody says it; before, that was an empty list.
UPDATE models SET can = 'null' WHERE can = '[]';
-- Tokens that a picture counts for, JSON, where that is known.
ALTER TABLE models ADD COLUMN picture_tokens TEXT;
