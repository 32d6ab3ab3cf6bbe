import type { Rating } from "@/core/conversation/rating";
import type { Database } from "../database/database";

/** Who marks a reply. */
export type Rater = "visitor" | "bench";

/** The marks of a reply, by who made them. */
export type RatingsOf = Partial<Record<Rater, Rating>>;

/** What people write on conversations, and mark replies with. */
export class MarkStore {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      title: database.prepare("UPDATE conversations SET title = ? WHERE id = ?"),
      visitorTitle: database.prepare("UPDATE conversations SET visitor_title = ? WHERE id = ?"),
      note: database.prepare("UPDATE conversations SET note = ? WHERE id = ?"),
      dropTags: database.prepare("DELETE FROM tags WHERE conversation_id = ?"),
      addTag: database.prepare("INSERT OR IGNORE INTO tags (conversation_id, tag) VALUES (?, ?)"),
      tags: database.prepare<[string]>("SELECT tag FROM tags WHERE conversation_id = ? ORDER BY tag").pluck(),
      rate: database.prepare(
        `INSERT INTO ratings (message_id, rater, conversation_id, rating, at) VALUES (@message, @rater, @conversation, @rating, @now)
         ON CONFLICT (message_id, rater) DO UPDATE SET rating = @rating, at = @now`,
      ),
      unrate: database.prepare("DELETE FROM ratings WHERE message_id = ? AND rater = ?"),
      // served by conversations_of_app and ratings_by_conversation
      good: database
        .prepare<[string, number], string>(
          `SELECT DISTINCT r.message_id FROM ratings AS r JOIN conversations AS c ON c.id = r.conversation_id
           WHERE c.app_id = ? AND r.rating = 'good' AND c.deleted_at IS NULL ORDER BY r.at DESC LIMIT ?`,
        )
        .pluck(),
      ratings: database.prepare<[string], { message: string; rater: Rater; rating: Rating }>(
        `SELECT message_id AS message, rater, rating FROM ratings WHERE message_id IN (SELECT value FROM json_each(?))`,
      ),
    };
  }

  /** What its visitor calls a conversation. @param title null for none */
  setVisitorTitle(conversation: string, title: string | null): void {
    this.sql.visitorTitle.run(title, conversation);
  }

  /** @param title null for none */
  setTitle(conversation: string, title: string | null): void {
    this.sql.title.run(title, conversation);
  }

  setNote(conversation: string, note: string): void {
    this.sql.note.run(note, conversation);
  }

  setTags(conversation: string, tags: readonly string[]): void {
    this.sql.dropTags.run(conversation);
    for (const tag of tags) this.sql.addTag.run(conversation, tag);
  }

  tagsOf(conversation: string): string[] {
    return this.sql.tags.all(conversation) as string[];
  }

  /** Ids of replies of an app that somebody marked as good, the last marked first. */
  goodReplies(app: string, most: number): string[] {
    return this.sql.good.all(app, most);
  }

  /** @param rating null takes the mark away */
  rate(on: { conversation: string; message: string; rater: Rater }, rating: Rating | null, now: number): void {
    if (rating === null) this.sql.unrate.run(on.message, on.rater);
    else this.sql.rate.run({ ...on, rating, now });
  }

  /** The marks of messages, by their ids; those without any are not in it. */
  ratingsOf(messages: readonly string[]): Map<string, RatingsOf> {
    const all = new Map<string, RatingsOf>();
    for (const { message, rater, rating } of this.sql.ratings.all(JSON.stringify(messages)))
      all.set(message, { ...all.get(message), [rater]: rating });
    return all;
  }
}

/** A parameter that has `marks`. */
export interface HasMarks {
  marks: MarkStore;
}
