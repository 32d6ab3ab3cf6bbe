import { createHash } from "node:crypto";
import type Sqlite from "better-sqlite3";
import type { Ledger, LedgerEntry } from "@/core/context/ledger";
import { holdsSomething, type Piece, textOf } from "@/core/conversation/pieces";
import { noSum, type Sum, withTurn } from "@/core/conversation/sum";
import { canonical, ordered } from "@/core/revision/content";
import { indexedText } from "@/core/search/terms";
import { rawTokens, uncalibrated } from "@/core/tokens/calibration";
import { classes, countsOf } from "@/core/tokens/counts";
import { hashOfPassage } from "../ground/passage-hash";

/** A name as it stands in an address: lower case, letters and digits, joined by hyphens. */
export function slugOf(name: string): string {
  const plain = name.normalize("NFKD").replace(/\p{M}/gu, "").toLowerCase();
  return plain.replace(/[^a-z0-9]+/g, "-").replace(/^-+|-+$/g, "") || "app";
}

/** Lends a database what migrations need that SQL does not have. */
export function lendFunctions(database: Sqlite.Database): void {
  const lend = (name: string, work: (...values: string[]) => string) =>
    database.function(`finch_${name}`, { deterministic: true, varargs: true }, (...values: unknown[]) =>
      work(...values.map(String)),
    );
  lend("slug", slugOf);
  lend("hash", (content) =>
    createHash("sha256")
      .update(ordered(JSON.parse(content)))
      .digest("hex"),
  );
  lend("counts", (pieces) => JSON.stringify(countsOf(textOf({ pieces: JSON.parse(pieces) }))));
  lend("tokens", (counts) => String(rawTokens(JSON.parse(counts))));
  lend("words", (pieces) => indexedText(textOf({ pieces: JSON.parse(pieces) })));
  lend("answered", (before, question, answer, pieces) => {
    const sum: Sum = before === "" ? noSum : JSON.parse(before);
    const said: Piece[] = JSON.parse(pieces);
    return JSON.stringify(
      holdsSomething({ pieces: said }) ? withTurn(sum, [JSON.parse(question), JSON.parse(answer)]) : sum,
    );
  });
  lend("passage", (text, place) => hashOfPassage(text, JSON.parse(place).headings));
  lend("canonical", (content) => canonical(JSON.parse(content)));
  lend("lasting", (name, slugs) => lastingName(name, JSON.parse(slugs)));
  lend("speaker", (speaker, slugs) => JSON.stringify(lasting(JSON.parse(speaker), JSON.parse(slugs))));
  lend("facts", (facts, slugs) => factsWithNames(facts, JSON.parse(slugs)));
  lend("events", (lines, slugs) => eventsWithNames(lines, JSON.parse(slugs)));
  lend("content", (content, slugs) => withSlugs(content, JSON.parse(slugs)));
  lend("more_counts", (document) => document.replace(/"blanks":(\d+)\}/g, `"blanks":$1,${moreClasses}}`));
  lend("calibration", (calibration) => JSON.stringify(widened(JSON.parse(calibration))));
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

/** The lasting name of a provider that was known by the one that is shown; of one that is gone, what it would have been. */
function lastingName(name: string, slugs: Record<string, string>): string {
  const found = Object.keys(slugs).find((known) => known.toLowerCase() === name.toLowerCase());
  return found === undefined ? slugOf(name) : (slugs[found] as string);
}

interface Speaking {
  provider: string;
}

function lasting<T extends Speaking>(speaker: T, slugs: Record<string, string>): T {
  return { ...speaker, provider: lastingName(speaker.provider, slugs) };
}

/** What is known of a reply, with lasting names. */
function factsWithNames(text: string, slugs: Record<string, string>): string {
  const facts = JSON.parse(text) as Speaking & { insteadOf?: Speaking; failures?: Speaking[] };
  return JSON.stringify({
    ...lasting(facts, slugs),
    insteadOf: facts.insteadOf && lasting(facts.insteadOf, slugs),
    failures: facts.failures?.map((failure) => lasting(failure, slugs)),
  });
}

/** Events of a reply, a line each, with lasting names. */
function eventsWithNames(lines: string, slugs: Record<string, string>): string {
  return lines.replace(/^.+$/gm, (line) => {
    if (!/"event":"(?:reply|attempt)"/.test(line)) return line;
    const event = JSON.parse(line) as { data: Speaking };
    return JSON.stringify({ ...event, data: lasting(event.data, slugs) });
  });
}

/** The classes of counts that came with pieces, of which older messages hold none. */
const moreClasses = '"calls":0,"pictures":0,"tiles":0,"kilopixels":0';

/** What was learned of a model with fewer classes of counts: of the new ones nothing is known yet. */
function widened({ weights, spread, ...rest }: { weights: Record<string, number>; spread: number[] }) {
  const names = [...classes, "message"];
  const before = names.filter((name) => name in weights);
  const known = (row: string, column: string) => {
    const [at, beside] = [before.indexOf(row), before.indexOf(column)];
    return at < 0 || beside < 0 ? undefined : spread[at * before.length + beside];
  };
  return {
    ...rest,
    weights: { ...uncalibrated.weights, ...weights },
    spread: names.flatMap((row, at) =>
      names.map((column, beside) => known(row, column) ?? uncalibrated.spread[at * names.length + beside]),
    ),
  };
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
      if (part === "prompt")
        return { part: "beside", kind: part, tokens, carried, reason: { kind: carried ? "prompt" : "no-prompt" } };
      // a visitor's message and the reply to it took turns
      if (!isReply) turn += 1;
      isReply = !isReply;
      const kind = !carried ? "unanswered" : why === "the message itself" ? "newest" : "remembered";
      const where = { first: message, last: message, turns: [turn, turn] as [number, number], count: 1 };
      return { part: "messages", ...where, tokens, carried, reason: { kind } };
    }),
  };
}
