import type { HasApps, StoredApp } from "../apps/app-store";
import { chosenFor } from "../apps/candidate";
import type { StoredConversation } from "../conversations/conversation-store";
import type { HasMessages } from "../conversations/message-store";
import type { HasSummaries } from "../conversations/summary-store";
import { tipFor } from "../entrance/access";
import { refuse } from "../ground/refusal";
import type { HasChanges } from "../live/changes";
import type { HasProviders } from "../providers/provider-store";
import type { HasSummarising } from "./summarising";

/** What of the process is used here. */
export type SummariesNeeds = HasApps & HasMessages & HasSummarising & HasProviders;

/**
 * Has the older turns of the line that the bench looks at summed up anew, as the draft says.
 * @throws {Refusal} `conflict` where there is nothing to sum up
 */
export function sumUpAnew(home: SummariesNeeds, app: StoredApp, conversation: StoredConversation): void {
  const { draft: content } = app;
  const tip = tipFor({ kind: "bench" }, conversation);
  const message = tip === null ? undefined : home.messages.message(tip);
  const end = message?.role === "visitor" ? message.parent : message?.id;
  if (!end) refuse("conflict", "Nothing was answered in this conversation yet.");
  const { connection, model } = chosenFor(home, content);
  const by = { provider: connection.slug, model: model.name };
  const { window, calibration } = model;
  const { number } = home.apps.latest(app.id);
  const revision = { number, hash: app.draftHash };
  const { origin, id } = conversation;
  home.summarising.wantAnew({ app, origin, revision, content, conversation: id, end, by, window, calibration });
}

/** Puts the words of a summary right; it stays right when the prompt or the model of summaries changes. @throws {Refusal} `not-found` */
export function correctSummary(home: HasSummaries & HasSummarising & HasChanges, id: string, text: string): void {
  const summary = home.summaries.byId(id) ?? refuse("not-found", `There is no summary ${id}.`);
  home.summaries.correct(id, text);
  home.summarising.corrected(summary);
  home.changes.tell(summary.conversation);
}
