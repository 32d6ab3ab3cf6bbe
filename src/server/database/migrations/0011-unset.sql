-- A price that nobody set is none, and not nothing; a window that nobody knows is a guess.
ALTER TABLE models ADD COLUMN is_price_unset INTEGER NOT NULL DEFAULT 0;
ALTER TABLE models ADD COLUMN is_window_guessed INTEGER NOT NULL DEFAULT 0;
