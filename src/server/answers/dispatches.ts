import type { Dispatch } from "@/contract/dispatches";
import type { LedgerEntry } from "@/core/context/ledger";
import { textOf } from "@/core/conversation/pieces";
import type { ReadEvent } from "@/core/reply/events";
import { verdictOf } from "@/core/reply/verdict";
import { asCurl } from "@/core/wire/curl";
import { rateLimitsIn } from "@/core/wire/failure";
import { parseJson } from "@/core/wire/json";
import { type CompiledProfile, compileProfile } from "@/core/wire/profile";
import { type ReplayedArrival, replay } from "@/core/wire/replay";
import type { HasMessages } from "../conversations/message-store";
import type { HasSummaries } from "../conversations/summary-store";
import type { HasDispatches, StoredDispatch } from "../dispatches/dispatch-store";
import { refuse } from "../ground/refusal";
import type { HasProviders, StoredProvider } from "../providers/provider-store";

/** What of the process is used here. */
export type ToldDispatchNeeds = HasMessages & HasSummaries & HasDispatches & HasProviders;

const excerptLength = 160;

/**
 * The attempts that a reply took, in order: those of the replies that it goes on from first.
 * @throws {Refusal} `not-found`
 */
export function dispatchesOf(boot: HasMessages & HasDispatches & HasProviders, reply: string): Dispatch[] {
  const found = partsOf(boot, reply).flatMap((part, at) =>
    boot.dispatches.ofReply(part).map((dispatch) => dispatchAnswer(boot, dispatch, at + 1)),
  );
  if (found.length === 0)
    refuse("not-found", `There is no dispatch of a reply ${reply}: none was made, or it is older than the record.`);
  return found;
}

/** The replies that one goes on from, the first of them first, and itself. */
function partsOf({ messages }: HasMessages, reply: string): string[] {
  const parts: string[] = [];
  for (let part: string | null = reply; part !== null && !parts.includes(part); ) {
    parts.unshift(part);
    const stored = messages.message(part);
    part = stored?.role === "app" ? stored.continues : null;
  }
  return parts;
}

/** The calls that were made for a summary, as the bench shows them. @throws {Refusal} `not-found` */
export function dispatchesOfSummary(home: ToldDispatchNeeds, id: string): Dispatch[] {
  const { making } = home.summaries.byId(id) ?? refuse("not-found", `There is no summary ${id}.`);
  return (making === null ? [] : home.dispatches.ofMaking(making)).map((dispatch) => dispatchAnswer(home, dispatch));
}

/** The calls that a making took, as the bench shows them. @throws {Refusal} `not-found` */
export function dispatchesOfMaking(home: HasMessages & HasDispatches & HasProviders, id: string): Dispatch[] {
  const found = home.dispatches.ofMaking(id);
  if (found.length === 0) refuse("not-found", `There is no dispatch of ${id}: it is older than the record.`);
  return found.map((dispatch) => dispatchAnswer(home, dispatch));
}

function dispatchAnswer(boot: HasMessages & HasProviders, dispatch: StoredDispatch, call = 1): Dispatch {
  const { id, round, attempt, provider, model, startedAt, endedAt, request, status, headers, outcome, usage, ledger } =
    dispatch;
  const profile = profileOf(dispatch);
  const rows = profile ? rowsOf(profile, dispatch) : [];
  const events = rows.flatMap(({ read }) => read);
  const wired = dispatch.providerId === null ? undefined : boot.providers.byId(dispatch.providerId);
  const texts = (kind: "text" | "thought") =>
    events.map((each) => (each.event === kind && each.take === 0 ? each.data.text : "")).join("");
  return {
    id,
    call,
    round,
    attempt,
    provider,
    model,
    startedAt,
    ms: endedAt === null ? null : endedAt - startedAt,
    request,
    curl: asCurl(request, variableOf(wired)),
    status,
    headers,
    limits: profile ? rateLimitsIn(profile, headers, [parseJson(dispatch.bytes?.toString("utf8") ?? "")]) : [],
    end: outcome?.event === "end" ? outcome.data.reason : (outcome?.data.kind ?? null),
    problem: outcome?.event === "problem" ? outcome.data : null,
    usage: usage ?? null,
    notes: dispatch.notes,
    ledger: ledger && {
      ...ledger,
      entries: ledger.entries.map((entry) => ({ ...entry, text: excerptOf(boot, entry) })),
    },
    arrivals: rows.map(({ at, text, read }) => ({ at, text, read: read.map(sayingOf) })),
    isThinned: dispatch.bytes === null,
    bytes: dispatch.arrivals.reduce((sum, [, length]) => sum + length, 0),
    text: texts("text"),
    thought: texts("thought"),
    verdict: verdictOf(dispatch.arrivals, dispatch.reader, profile?.stream !== undefined),
    reader: dispatch.reader,
  };
}

function profileOf({ profileText }: StoredDispatch): CompiledProfile | undefined {
  return profileText === null ? undefined : compileProfile(JSON.parse(profileText));
}

/** What was read of a dispatch, arrival by arrival; nothing where its bytes are not kept. */
export function readOf(dispatch: StoredDispatch): ReplayedArrival[] {
  const profile = profileOf(dispatch);
  return profile ? rowsOf(profile, dispatch) : [];
}

function rowsOf(profile: CompiledProfile, { bytes, arrivals, status, headers }: StoredDispatch): ReplayedArrival[] {
  if (!bytes || status === null) return [];
  return replay(profile, { status, contentType: headers["content-type"] ?? "", headers }, bytes, arrivals);
}

/** What was read, in a few words. */
function sayingOf(event: ReadEvent): string {
  switch (event.event) {
    case "text":
    case "thought":
      return `${event.event}${event.take > 0 ? ` of take ${event.take + 1}` : ""}: ${event.data.text}`;
    case "counts":
      return `usage: ${Object.entries(event.data)
        .map(([name, value]) => `${value} ${name}`)
        .join(", ")}`;
    case "left-out":
      return `left out: ${event.data.found} is no count of tokens`;
    case "passed-over":
      return "passed over: no rule reads it";
    case "mended":
      return `mended: ${event.data.was} is now ${event.data.is}`;
    case "end":
      return `end: ${event.data.reason}`;
    case "problem":
      return `problem: ${event.data.kind}`;
    case "tool":
      return `tool: ${event.data.name ?? event.data.arguments ?? event.data.id ?? ""}`;
    case "picture":
      return `picture: ${event.data.base64.length} characters of base64`;
    case "carry":
      return "carry";
    case "version":
      return `answers as ${event.data.version}`;
    case "source":
      return `source: ${event.data.title ?? event.data.address ?? event.data.text ?? ""}`;
  }
}

/** The beginning of what an entry of the ledger holds. */
function excerptOf({ messages }: HasMessages, entry: LedgerEntry): string {
  if (entry.part !== "messages" && entry.part !== "pin") return "";
  const stored = messages.message(entry.first);
  const text = stored ? textOf(stored).replace(/\s+/g, " ") : "(deleted)";
  return text.length > excerptLength ? `${text.slice(0, excerptLength)}…` : text;
}

/** The variable that stands for a provider's key in a command. */
function variableOf(provider: StoredProvider | undefined): string {
  const credential = provider?.credential;
  const secret = credential?.kind === "key" || credential?.kind === "basic" ? credential.secret : undefined;
  return secret && "variable" in secret ? secret.variable : "KEY";
}
