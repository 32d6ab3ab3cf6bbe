import type { Database } from "../database/database";

/** The visitor's messages whose turns are carried wherever they stand. */
export class PinStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      pin: database.prepare("INSERT OR IGNORE INTO pins (message_id, conversation_id, at) VALUES (?, ?, ?)"),
      unpin: database.prepare("DELETE FROM pins WHERE message_id = ?"),
      // served by pins_by_conversation
      pins: database.prepare<[string], { message: string; depth: number }>(
        `SELECT message_id AS message, depth FROM pins JOIN messages ON messages.id = message_id
         WHERE pins.conversation_id = ? AND is_leaving = 0 ORDER BY depth`,
      ),
    };
  }

  pin(conversation: string, message: string, now: number): void {
    this.sql.pin.run(message, conversation, now);
  }

  unpin(message: string): void {
    this.sql.unpin.run(message);
  }

  /** The pinned messages of a conversation, in all of its lines, with how deep each stands; the highest first. */
  ofConversation(conversation: string): { message: string; depth: number }[] {
    return this.sql.pins.all(conversation);
  }
}

/** A parameter that has `pins`. */
export interface HasPins {
  pins: PinStore;
}
