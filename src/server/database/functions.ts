import { createHash } from "node:crypto";
import type Sqlite from "better-sqlite3";
import type { Ledger, LedgerEntry } from "@/core/context/ledger";
import { hasWords, type Piece, textOf } from "@/core/conversation/pieces";
import { noSum, type Sum, withTurn } from "@/core/conversation/sum";
import { type Content, canonical } from "@/core/revision/revision";
import { indexedText } from "@/core/search/words";
import { rawTokens } from "@/core/tokens/calibration";
import { countsOf } from "@/core/tokens/counts";

/** A name as it stands in an address: lower case, letters and digits, joined by hyphens. */
export function slugOf(name: string): string {
  const plain = name.normalize("NFKD").replace(/\p{M}/gu, "").toLowerCase();
  return plain.replace(/[^a-z0-9]+/g, "-").replace(/^-+|-+$/g, "") || "app";
}

/** SHA-256 of canonical content: the same for contents that behave the same. */
export function hashOf(content: Content): string {
  return createHash("sha256").update(canonical(content)).digest("hex");
}

/** Lends a database what migrations need that SQL does not have. */
export function lendFunctions(database: Sqlite.Database): void {
  const lend = (name: string, work: (...values: string[]) => string) =>
    database.function(`finch_${name}`, { deterministic: true, varargs: true }, (...values: unknown[]) =>
      work(...values.map(String)),
    );
  lend("slug", slugOf);
  lend("hash", (content) => hashOf(JSON.parse(content)));
  lend("counts", (pieces) => JSON.stringify(countsOf(textOf({ pieces: JSON.parse(pieces) }))));
  lend("tokens", (counts) => String(rawTokens(JSON.parse(counts))));
  lend("words", (pieces) => indexedText(textOf({ pieces: JSON.parse(pieces) })));
  lend("answered", (before, question, answer, pieces) => {
    const sum: Sum = before === "" ? noSum : JSON.parse(before);
    const said: Piece[] = JSON.parse(pieces);
    return JSON.stringify(hasWords({ pieces: said }) ? withTurn(sum, [JSON.parse(question), JSON.parse(answer)]) : sum);
  });
  lend("content", (content, slugs) => withSlugs(content, JSON.parse(slugs)));
  lend("ledger", (ledger) => JSON.stringify(newLedger(JSON.parse(ledger))));
}

/** Content whose providers were known by their ids, with their lasting names. */
function withSlugs(content: string, slugs: Record<string, string>): string {
  const { provider, fallbacks, ...rest } = JSON.parse(content);
  const named = (id: string) => slugs[id] ?? id;
  return JSON.stringify({
    ...rest,
    provider: named(provider),
    fallbacks: fallbacks?.map((each: { provider: string; model: string }) => ({
      ...each,
      provider: named(each.provider),
    })),
  });
}

interface OldEntry {
  part: "prompt" | "message";
  message?: string;
  tokens: number;
  carried: boolean;
  why: string;
}

/** A ledger whose reasons were sentences. */
function newLedger({ entries, ...rest }: Omit<Ledger, "entries"> & { entries: OldEntry[] }): Ledger {
  let turn = 0;
  let isReply = false;
  return {
    ...rest,
    entries: entries.map(({ part, message = "", tokens, carried, why }): LedgerEntry => {
      if (part === "prompt") return { part, tokens, carried, reason: { kind: carried ? "prompt" : "no-prompt" } };
      // a visitor's message and the reply to it took turns
      if (!isReply) turn += 1;
      isReply = !isReply;
      const kind = !carried ? "unanswered" : why === "the message itself" ? "newest" : "remembered";
      const where = { first: message, last: message, turns: [turn, turn] as [number, number], count: 1 };
      return { part: "messages", ...where, tokens, carried, reason: { kind } };
    }),
  };
}
