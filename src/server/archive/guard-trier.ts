import { type Piece, textOf } from "@/core/conversation/pieces";
import type { Guard } from "@/core/guards/guard";
import { type Place, placesIn } from "@/core/guards/trying";
import type { Database } from "../database/database";

/** What a rule is tried on. */
export interface TryInput {
  app: string;
  guard: Guard;
  /** The system prompt. */
  prompt: string;
  /** The id of the conversation before which it goes on; null to begin with the newest. */
  before: string | null;
}

/** What a rule would have found in some conversations. */
export interface Tried {
  conversations: number;
  messages: number;
  found: { conversation: string; message: string; places: Place[] }[];
  /** How many messages it was found in: more than are shown, perhaps. */
  hits: number;
  /** Where it goes on; null where all were looked at. */
  before: string | null;
}

/** Milliseconds that one go takes, and after which whoever else asks this thread has a turn; messages that are shown. */
const longest = 60;
const turn = 15;
const mostShown = 50;

/** Tries rules on conversations that are stored, the newest first. */
export class GuardTrier {
  private readonly sql;

  constructor(database: Database) {
    this.sql = {
      // served by conversations_of_app
      next: database
        .prepare<[string, string], string>(
          "SELECT id FROM conversations WHERE app_id = ? AND id < ? AND deleted_at IS NULL AND unlisted = 0 ORDER BY id DESC LIMIT 1",
        )
        .pluck(),
      // served by messages_by_conversation
      messages: database.prepare<[string, string], { id: string; pieces: string }>(
        "SELECT id, pieces FROM messages WHERE conversation_id = ? AND role = ? AND is_leaving = 0 ORDER BY depth",
      ),
    };
  }

  /** Looks at whole conversations for as long as one go may take; in a long one others have their turns in between. */
  async tryOn({ app, guard, prompt, before }: TryInput): Promise<Tried> {
    const until = performance.now() + longest;
    let rests = performance.now() + turn;
    const tried: Tried = { conversations: 0, messages: 0, found: [], hits: 0, before };
    const role = guard.on === "sent" ? "visitor" : "app";
    do {
      const conversation = this.sql.next.get(app, tried.before ?? "~");
      if (conversation === undefined) return { ...tried, before: null };
      tried.before = conversation;
      tried.conversations += 1;
      for (const { id, pieces } of this.sql.messages.all(conversation, role)) {
        tried.messages += 1;
        if (performance.now() > rests) {
          await new Promise(setImmediate);
          rests = performance.now() + turn;
        }
        const places = placesIn(guard, prompt, textOf({ pieces: JSON.parse(pieces) as Piece[] }));
        if (places.length === 0) continue;
        tried.hits += 1;
        if (tried.found.length < mostShown) tried.found.push({ conversation, message: id, places });
      }
    } while (performance.now() < until);
    return tried;
  }
}
