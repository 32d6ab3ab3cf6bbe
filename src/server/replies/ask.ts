import type { ReplyCall } from "@/contract/replies";
import { type Assembled, assemble } from "@/core/context/assemble";
import { type AppMessage, type Message, type Piece, textOf } from "@/core/conversation/message";
import type { ReplyHead } from "@/core/reply/events";
import { canGoOn, isUnderWay } from "@/core/reply/reply";
import type { Content, Revision } from "@/core/revision/revision";
import { estimateTokens } from "@/core/tokens/estimate";
import type { StoredApp } from "../apps/app-store";
import type { Boot } from "../boot";
import { type Asker, conversationAt, owns } from "../conversations/access";
import type { StoredConversation } from "../conversations/conversation-store";
import type { StoredModel, StoredProvider } from "../providers/provider-store";
import { Refusal, refuse } from "../refusal";
import { answer } from "./answer";

/** The same for one who may call for the first time, and is made a visitor when a reply is asked for. */
type NewAsker = { kind: "new visitor" };

/** What was asked for, and by whom. */
export interface Asked {
  head: ReplyHead;
  asker: Asker;
}

/** Everything that one reply is made from. */
export interface Making {
  app: StoredApp;
  asker: Asker;
  reply: AppMessage;
  head: ReplyHead;
  revision: Revision;
  /** The model that is to answer, and those to go on to where one fails before any text. */
  candidates: [MakingCandidate, ...MakingCandidate[]];
  /** Text of the reply that this one goes on from, and its tokens. */
  begun: { text: string; tokens: number };
}

/** A model that may answer, with what it would be sent. */
export interface MakingCandidate {
  provider: StoredProvider;
  model: StoredModel;
  context(): Assembled;
}

/**
 * Asks for a reply: stores what the visitor said, gathers and assembles what the model is to get,
 * and has the reply made. All of it or, with a refusal, nothing is stored.
 * @param note is called in the same transaction, for what is to be stored along with the reply
 * @returns the head of the reply, which arrives by itself from here on
 * @throws {Refusal}
 */
export function ask(
  boot: Boot,
  { id, name }: Pick<StoredApp, "id" | "name">,
  caller: Asker | NewAsker,
  call: ReplyCall,
  note: (asked: Asked) => void = () => {},
): ReplyHead {
  if (boot.isClosing()) refuse("closing", "No new replies are begun, since the server is being stopped.");
  const now = Date.now();
  const started = performance.now();
  const since = () => Math.round((performance.now() - started) * 10) / 10;
  const making = boot.database.transaction(() => {
    // it may have been changed or deleted while the call was read
    const app = boot.apps.byId(id) ?? refuse("not-found", `${name} was deleted.`);
    const asker: Asker = caller.kind === "new visitor" ? { kind: "visitor", visitor: boot.visitors.add(now) } : caller;
    const asked = "goOn" in call ? gatherGoOn(boot, app, asker, call.goOn) : storeMessage(boot, app, asker, call, now);
    const visitor = since();
    const revision = revisionFor(boot, app, asker, now);
    const { provider, model } = candidateFor(boot, revision.content);
    const prompt = since();
    const variables = "variables" in call ? call.variables : undefined;
    const contextFor = (candidate: Pick<MakingCandidate, "provider" | "model">) =>
      contextOf(asked.line, revision.content, candidate, variables, now);
    const context = ready(contextFor({ provider, model }));
    const others = fallbacksOf(boot, revision.content).map((each) => ({ ...each, context: () => contextFor(each) }));
    const candidate = { revision: revision.number, provider: provider.name, model: model.name };
    const reply = boot.conversations.addReply({
      conversation: asked.conversation.id,
      parent: asked.message,
      continues: asked.begun?.id ?? null,
      facts: { ...candidate, steps: { visitor, prompt, memory: since() } },
      now,
    });
    const head: ReplyHead = {
      reply: reply.id,
      conversation: asked.conversation.id,
      message: asked.message.id,
      ...candidate,
      ...(asked.begun ? { continues: asked.begun.id } : {}),
    };
    note({ head, asker });
    const begun = { text: asked.begun ? textOf(asked.begun) : "", tokens: asked.begun?.tokens ?? 0 };
    const candidates: Making["candidates"] = [{ provider, model, context: () => context }, ...others];
    return { app, asker, reply, head, revision, candidates, begun } satisfies Making;
  })();
  answer(boot, making);
  return making.head;
}

/** What is to be answered, with the line that leads to it. */
interface AskedFor {
  conversation: StoredConversation;
  /** The visitor's message. */
  message: Message;
  line: Message[];
  /** The reply that is gone on from. */
  begun?: AppMessage;
}

/** Visitors get the live revision; at the bench the draft becomes the next one. */
function revisionFor({ apps }: Boot, app: StoredApp, asker: Asker, now: number): Revision {
  if (asker.kind === "bench") return { number: apps.fix(app.id, app.draft, now), content: app.draft };
  const live = apps.revision(app.id, app.liveRevision);
  if (!live) throw new Error(`App ${app.slug} has no revision ${app.liveRevision}.`);
  return live;
}

function candidateFor({ providers }: Boot, content: Content): { provider: StoredProvider; model: StoredModel } {
  const provider = providers.byId(content.provider);
  if (!provider)
    refuse("misconfigured", "The provider that this app speaks through is not there any more.", {
      advice: "Choose another model in the Model station.",
    });
  const model = providers.model(provider.id, content.model);
  if (model) return { provider, model };
  const names = providers.models(provider.id).map(({ name }) => name);
  refuse(
    "unknown-model",
    `${provider.name} has no model ${content.model}; there ${names.length === 1 ? "is" : "are"} ${names.join(", ") || "none"}.`,
  );
}

/** The models that a revision may go on to, as far as they are still there. */
function fallbacksOf(
  { providers }: Boot,
  { fallbacks = [] }: Content,
): { provider: StoredProvider; model: StoredModel }[] {
  return fallbacks.flatMap((each) => {
    const provider = providers.byId(each.provider);
    const model = providers.model(each.provider, each.model);
    return provider && model ? [{ provider, model }] : [];
  });
}

function storeMessage(
  { conversations }: Boot,
  app: StoredApp,
  asker: Asker,
  call: Extract<ReplyCall, { message: unknown }>,
  now: number,
): AskedFor {
  const pieces: Piece[] = typeof call.message === "string" ? [{ kind: "text", text: call.message }] : call.message;
  const text = textOf({ pieces });
  const conversation =
    call.conversation === undefined
      ? conversations.create({
          app: app.id,
          visitor: asker.kind === "visitor" ? asker.visitor : null,
          opening: text,
          now,
        })
      : conversationAt({ conversations }, app, asker, call.conversation);
  const parent = parentFor({ conversations }, conversation, call.after);
  const message = conversations.addVisitorMessage({
    conversation: conversation.id,
    parent,
    pieces,
    tokens: estimateTokens(text),
    now,
  });
  return { conversation, message, line: conversations.line(message.id) };
}

function parentFor(
  { conversations }: Pick<Boot, "conversations">,
  conversation: StoredConversation,
  after: string | undefined,
): Message | undefined {
  const id = after ?? conversation.tip;
  if (id === null) return undefined;
  const parent = conversations.message(id);
  if (!parent || conversations.conversationOf(id)?.id !== conversation.id)
    refuse("not-found", `There is no message ${id} in this conversation.`);
  if (parent.role === "visitor")
    refuse("bad-request", `Message ${id} is a visitor's; a new one can only come after a reply.`, {
      advice: "Name a reply in `after`.",
    });
  if (isUnderWay(parent.state)) refuse("busy", `Reply ${id} is still arriving.`, { reply: id });
  return parent;
}

function gatherGoOn({ conversations }: Boot, app: StoredApp, asker: Asker, id: string): AskedFor {
  const begun = conversations.message(id);
  const conversation = conversations.conversationOf(id);
  if (begun?.role !== "app" || !conversation || !owns(asker, app, conversation))
    refuse("not-found", `There is no reply ${id}.`);
  if (isUnderWay(begun.state)) refuse("busy", `Reply ${id} is still arriving.`, { reply: id });
  if (!canGoOn(begun.state))
    refuse(
      "conflict",
      `Reply ${id} is ${begun.state}; only one that was cut, stopped or interrupted can be gone on from.`,
    );
  const [busy] = conversations.underWayIn(conversation.id);
  if (busy) refuse("busy", `Reply ${busy} is still arriving in this conversation.`, { reply: busy });
  const line = conversations.line(begun.id);
  const message = line.at(-2);
  if (!message) throw new Error(`Reply ${id} answers nothing.`);
  const hasText = textOf(begun).trim() !== "";
  return { conversation, message, line: hasText ? line : line.slice(0, -1), begun };
}

function contextOf(
  line: Message[],
  content: Content,
  { provider, model }: Pick<MakingCandidate, "provider" | "model">,
  variables: Record<string, string> = {},
  now: number,
): Assembled {
  const { window, calibration } = model;
  return assemble({ content, line, variables, provider: provider.name, window, calibration, now });
}

function ready(context: Assembled): Extract<Assembled, { kind: "ready" }> {
  if (context.kind === "refused") throw new Refusal(context.problem);
  return context;
}
