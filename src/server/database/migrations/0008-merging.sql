-- The index of words is brought together in small steps by the writing thread, not along with commits, which it would
-- hold up for a twentieth of a second.
INSERT INTO words (words, rank) VALUES ('automerge', 0);
INSERT INTO words (words, rank) VALUES ('crisismerge', 64);
