import { readFileSync } from "node:fs";
import { join } from "node:path";
import { samplesOf } from "@/contract/example";
import type { Called, CalledPage, Hop, Serving } from "@/contract/serving";
import { titleOf } from "@/core/problem/problem";
import { needsOf } from "../apps/app";
import type { HasApps, StoredApp } from "../apps/app-store";
import { styleOf } from "../apps/style";
import type { HasMessages } from "../conversations/message-store";
import type { HasFolder } from "../database/database";
import type { HasDispatches } from "../dispatches/dispatch-store";
import type { HasCalls, StoredCall } from "../entrance/call-store";
import type { HasTokens, StoredToken } from "../entrance/token-store";
import { refuse } from "../ground/refusal";
import type { HasProviders } from "../providers/provider-store";
import { dispatchesOf } from "./dispatches";

/** What of the process is used here. */
export type ServingNeeds = HasFolder & HasApps & HasMessages & HasDispatches & HasProviders & HasTokens & HasCalls;

const callsOnPage = 50;

/** How an app is served. @param base scheme, host and port of its page and its endpoints */
export function servingAnswer(home: ServingNeeds, app: StoredApp, base: string): Serving {
  const { liveRevision, previewRevision, access, look } = app;
  const midnight = new Date().setHours(0, 0, 0, 0);
  const { file, isFromFile, version } = styleOf(home, app);
  return {
    liveRevision,
    previewRevision,
    access,
    look,
    style: { file, isFromFile, version },
    tokens: home.tokens.ofApp(app.id).map(tokenAnswer),
    asks: needsOf(home, app).asks,
    base,
    today: home.calls.since(app.id, midnight),
    hops: hopsOf(home, app),
  };
}

export function tokenAnswer({ id, kind, name, hint, createdAt, usedAt }: StoredToken) {
  return { id, kind, name, hint, createdAt, usedAt };
}

/** A front end in one file, with an address and a token of its own in it, so that it works where it is put. */
export function frontEnd(home: HasApps & HasTokens, app: StoredApp, base: string) {
  const { tokens } = home;
  // a value may hold what ends a script
  const variables = JSON.stringify(samplesOf(needsOf(home, app).asks)).replaceAll("<", "\\u003c");
  const { token, text } = tokens.make(app.id, "public", "page.html", Date.now());
  const html = readFileSync(join(process.cwd(), "examples/page.html"), "utf8")
    .replace(/const app = ".*";/, `const app = ${JSON.stringify(`${base}/api/apps/${app.slug}`)};`)
    .replace('const token = "";', `const token = ${JSON.stringify(text)};`)
    .replace("const variables = {};", () => `const variables = ${variables};`)
    .replaceAll("Quay Desk", () => app.name.replace(/[&<>"]/g, (mark) => `&#${mark.charCodeAt(0)};`));
  return { token: tokenAnswer(token), html };
}

/** The way from a visitor to the provider, each hop with its last state. */
function hopsOf(home: HasApps & HasProviders & HasCalls, app: StoredApp): Hop[] {
  const { access, liveRevision } = app;
  const [latest] = home.calls.ofApp(app.id, "all", undefined, 1);
  const live = home.apps.revision(app.id, liveRevision)?.content;
  const provider = live && home.providers.bySlug(live.provider);
  const speaks = live ? `${live.model} on ${provider?.name ?? "a provider that is gone"}` : "nothing";
  const callers = { nobody: "closed to callers", machine: "open on this machine", token: "open to tokens" };
  return [
    { where: "visitor", ...visitorHop(latest) },
    access.page ? { where: "page", state: "good", says: "open" } : { where: "page", state: "quiet", says: "closed" },
    { where: "endpoints", state: access.callers === "nobody" ? "quiet" : "good", says: callers[access.callers] },
    { where: "revision", state: live ? "good" : "bad", says: `revision ${liveRevision}` },
    { where: "provider", ...providerHop(latest, speaks, provider !== undefined) },
  ];
}

function visitorHop(latest: StoredCall | undefined): Omit<Hop, "where"> {
  if (!latest) return { state: "quiet", says: "nobody has called yet" };
  if (latest.reply === null) return { state: "bad", says: `last call refused with ${latest.status}` };
  return { state: "good", says: "last call taken" };
}

function providerHop(latest: StoredCall | undefined, speaks: string, isThere: boolean): Omit<Hop, "where"> {
  if (!isThere) return { state: "bad", says: speaks };
  if (!latest?.reply) return { state: "quiet", says: speaks };
  if (latest.ended === null) return { state: "good", says: `${speaks}, answering now` };
  const { state } = latest.ended;
  const isBad = state === "failed" || state === "interrupted";
  return { state: isBad ? "bad" : "good", says: `${speaks}, last reply ${state}` };
}

/** A page of an app's calls, the latest first. */
export function callsAnswer(
  { calls }: HasCalls,
  app: StoredApp,
  only: "all" | "refused" | "failed",
  before: string | undefined,
): CalledPage {
  const found = calls.ofApp(app.id, only, before, callsOnPage + 1);
  const page = found.slice(0, callsOnPage);
  return { calls: page.map(calledAnswer), before: found.length > page.length ? (page.at(-1)?.id ?? null) : null };
}

function calledAnswer({ app: _app, ...call }: StoredCall): Called {
  return call;
}

/**
 * One call, with its dispatches, as a file that can be given away: it holds no secret, since none is kept with
 * either. @throws {Refusal} `not-found`
 */
export function callFile(home: ServingNeeds, id: string) {
  const call = home.calls.byId(id);
  const app = call && home.apps.byId(call.app);
  if (!call || !app) refuse("not-found", `There is no call ${id}.`);
  const dispatches =
    call.reply !== null && home.dispatches.ofReply(call.reply).length > 0 ? dispatchesOf(home, call.reply) : [];
  const { address: _address, ...called } = calledAnswer(call);
  return {
    what: "One call of an app, as Unruly Finch noted it",
    app: app.name,
    call: { ...called, at: new Date(call.at).toISOString() },
    ended: call.problem ? titleOf(call.problem.kind) : (call.ended?.state ?? "under way"),
    dispatches,
  };
}
