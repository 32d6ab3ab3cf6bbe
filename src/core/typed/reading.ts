import { parse } from "jsonc-parser";
import type { z } from "zod";
import type { dataSchema } from "../conversation/pieces";
import type { Schemas } from "../schema/schema";
import { isDeeperThan, parseJson } from "../wire/json";
import type { ReplySchema } from "./schema";

/** A JSON value. */
export type Json = z.infer<typeof dataSchema>["value"];

/** What a reply is read as that has to fit a schema. */
export type Typed = { ok: true; value: Json } | { ok: false; wrong: string };

/** Reads a whole reply. A fence around the document, or words before and after it, harm nothing. */
export function typedOf(text: string, schema: ReplySchema, schemas: Schemas): Typed {
  const value = valueIn(text);
  if (value === undefined) return { ok: false, wrong: "it is no JSON document" };
  if (isDeeperThan(value)) return { ok: false, wrong: "its levels are too many" };
  const misfit = schemas.misfitOf(schema, value);
  if (!misfit) return { ok: true, value };
  const where = misfit.where.startsWith("/") ? misfit.where : "the document";
  return { ok: false, wrong: `${where} ${misfit.why}` };
}

function valueIn(text: string): Json | undefined {
  const whole = parseJson(text.trim());
  if (whole !== undefined) return whole as Json;
  const fenced = /```[a-z]*\s*\n([\s\S]*?)```/i.exec(text)?.[1];
  const inFence = fenced === undefined ? undefined : parseJson(fenced);
  if (inFence !== undefined) return inFence as Json;
  const [from, to] = [text.search(/[{[]/), Math.max(text.lastIndexOf("}"), text.lastIndexOf("]"))];
  return from < 0 || to <= from ? undefined : (parseJson(text.slice(from, to + 1)) as Json | undefined);
}

/** Letters after which a reply is read anew, at least, and the part of it that has to have come since. */
const leastNew = 24;
const newPart = 16;
/** Letters from which on it is not read before its end. */
const longestRead = 256 * 1024;

/** Reads a reply as it comes: what of it can be read yet, again and again. */
export class GrowingData {
  private readAt = 0;
  private last = "";

  constructor(private text = "") {}

  /** Adds what came; gives what there is now, where it is something else than before. */
  add(text: string): Json | undefined {
    this.text += text;
    const { length } = this.text;
    // so that a long one is not read as often as it has letters
    if (length > longestRead || length - this.readAt < Math.max(leastNew, this.readAt / newPart)) return undefined;
    this.readAt = length;
    const from = this.text.search(/[{[]/);
    if (from < 0) return undefined;
    const value = parse(this.text.slice(from), [], { allowTrailingComma: true }) as Json | undefined;
    if (value === undefined || isDeeperThan(value)) return undefined;
    const written = JSON.stringify(value);
    if (written === this.last) return undefined;
    this.last = written;
    return value;
  }
}
