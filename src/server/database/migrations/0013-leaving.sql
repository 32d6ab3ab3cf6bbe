-- A branch leaves from its top down, some messages at a time: 1 while what stands below one that left is still to leave.
ALTER TABLE messages ADD COLUMN below_stays INTEGER NOT NULL DEFAULT 0;
CREATE INDEX messages_below_stays ON messages (conversation_id) WHERE below_stays = 1;
