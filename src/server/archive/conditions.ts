import type { Ending, Filter } from "@/core/search/filter";
import { matchOf, termsOf } from "@/core/search/terms";
import { underWay } from "../conversations/conversation-store";

const statesOf: Record<Ending, string> = {
  complete: "'complete'",
  cut: "'cut'",
  stopped: "'stopped'",
  refused: "'refused'",
  failed: "'failed', 'interrupted'",
};

/** What a filter asks of a row `c` of `conversations`, as SQL; its values are bound by their names. */
export interface Conditions {
  /** Common table expressions that the statement begins with. */
  with: string;
  from: string;
  where: string;
  /** The number of messages that say the words. */
  places: string;
  values: Record<string, string | number>;
}

/**
 * The conditions of a filter on the conversations of an app. A word is looked up in the index of words once; the row
 * there tells the conversation.
 * @returns undefined where the words are none that can be looked for
 */
export function conditionsFor(app: string, filter: Filter): Conditions | undefined {
  const values: Conditions["values"] = { app };
  const where = ["c.app_id = @app", "c.unlisted = 0"];
  if (filter.deleted === undefined) where.push("c.deleted_at IS NULL");
  else {
    values.unseen = underWay;
    where.push("c.deleted_at < @unseen AND c.is_leaving = 0");
  }
  const add = (name: string, value: string | number | undefined, condition: string) => {
    if (value === undefined) return;
    values[name] = value;
    where.push(condition);
  };
  add("origin", filter.origin, "c.origin = @origin");
  add("client", filter.client, "c.client = @client");
  add("since", filter.since, "c.updated_at >= @since");
  add("until", filter.until, "c.updated_at < @until");
  add("over", filter.over === undefined ? undefined : Math.round(filter.over * 1_000_000), "c.price > @over");
  add("tag", filter.tag, "EXISTS (SELECT 1 FROM tags WHERE conversation_id = c.id AND tag = @tag)");
  add("rated", filter.rated, "EXISTS (SELECT 1 FROM ratings WHERE conversation_id = c.id AND rating = @rated)");
  const ofReply: string[] = [];
  if (filter.revision !== undefined) {
    values.revision = filter.revision;
    ofReply.push("made_at_revision = @revision");
  }
  if (filter.model !== undefined) {
    values.model = filter.model;
    ofReply.push("made_by = @model");
  }
  if (filter.ended !== undefined) ofReply.push(`state IN (${statesOf[filter.ended]})`);
  // read from the index replies_by_maker alone
  if (ofReply.length > 0)
    where.push(
      `EXISTS (SELECT 1 FROM messages WHERE conversation_id = c.id AND role = 'app' AND is_leaving = 0 AND ${ofReply.join(" AND ")})`,
    );
  const plain = { with: "", from: "conversations AS c", places: "0" };
  if (filter.words === undefined || filter.words.trim() === "") return { ...plain, where: where.join(" AND "), values };
  const terms = termsOf(filter.words);
  if (!terms) return undefined;
  values.match = matchOf(terms);
  return {
    with: `WITH hits (number, places) AS MATERIALIZED (
      SELECT rowid / 1048576, count(*) FROM words WHERE words MATCH @match GROUP BY 1)`,
    from: "hits JOIN conversations AS c ON c.number = hits.number",
    places: "hits.places",
    where: where.join(" AND "),
    values,
  };
}
