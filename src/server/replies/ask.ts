import type { HeldCall, MessageCall, ReplyCall } from "@/contract/replies";
import { measure } from "@/core/context/assemble";
import { rowOf } from "@/core/context/reach";
import type { AppMessage, Message } from "@/core/conversation/message";
import { hasWords, type Piece, textOf } from "@/core/conversation/pieces";
import type { ReplyHead } from "@/core/reply/events";
import { canGoOn, isUnderWay } from "@/core/reply/reply";
import type { Content, Revision } from "@/core/revision/revision";
import { type With, wantedContent } from "@/core/serving/access";
import type { StoredApp } from "../apps/app-store";
import { type Asker, conversationAt, owns } from "../conversations/access";
import type { Origin, StoredConversation } from "../conversations/conversation-store";
import type { Home } from "../home";
import { Refusal, refuse } from "../refusal";
import type { NewVisitor } from "../visitors/visitor-store";
import { type Asking, answer, type Chosen } from "./answer";

/** The same for one who may call for the first time, and is made a visitor when a reply is asked for. */
type NewAsker = { kind: "new visitor"; fresh: NewVisitor };

/** Who asks, and by what. */
export interface AskedBy {
  asker: Asker | NewAsker;
  origin: Origin;
  /** The name that the front end gives itself. */
  client: string | null;
}

/** The developer at the bench. */
export const bench: AskedBy = { asker: { kind: "bench" }, origin: "bench", client: null };

/** What was asked for, and by whom. */
export interface Asked {
  head: ReplyHead;
  asker: Asker;
}

/**
 * Asks for a reply: stores what the visitor said, gathers and assembles what the model is to get,
 * and has the reply made. All of it or, with a refusal, nothing is stored.
 * @param note is called in the same transaction, for what is to be stored along with the reply
 * @returns the head of the reply, which arrives by itself from here on
 * @throws {Refusal}
 */
export function ask(
  boot: Home,
  { id, name }: Pick<StoredApp, "id" | "name">,
  by: AskedBy,
  call: ReplyCall,
  note: (asked: Asked) => void = () => {},
): ReplyHead {
  if (boot.isClosing()) refuse("closing", "No new replies are begun, since the server is being stopped.");
  const now = Date.now();
  const started = performance.now();
  const since = () => Math.round((performance.now() - started) * 10) / 10;
  const asking = boot.database.transaction((): Asking => {
    // it may have been changed or deleted while the call was read
    const app = boot.apps.byId(id) ?? refuse("not-found", `${name} was deleted.`);
    const asker: Asker =
      by.asker.kind === "new visitor"
        ? { kind: "visitor", visitor: boot.visitors.add(id, by.asker.fresh, now) }
        : by.asker;
    const wanted = ("with" in call && call.with) || {};
    const revision = revisionFor(boot, app, asker, wanted, now);
    const { content } = revision;
    if (asker.kind === "visitor") checkLength(app, call);
    const asked = store(boot, app, { ...by, asker }, call, revision, now);
    const visitor = since();
    const chosen = chosenFor(boot, content);
    const prompt = since();
    const variables = ("variables" in call && call.variables) || {};
    const { isPassing, origin } = asked.conversation;
    const { window, calibration } = chosen.model;
    // by counts alone: what can't be sent is not stored
    const measured = measure({ content, variables, window, calibration, now }, [rowOf(asked.end)]);
    if (measured.kind === "refused") throw new Refusal(measured.problem);
    const candidate = { revision: revision.number, provider: chosen.connection.name, model: chosen.model.name };
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
      continues: asked.begun?.id,
    };
    note({ head, asker });
    return {
      app,
      origin,
      isPassing,
      reply,
      head,
      revision,
      speakers: [chosen, ...fallbacksOf(boot, content)],
      variables,
      end: asked.end.id,
      begun: asked.begun ? { text: textOf(asked.begun), reported: asked.begun.reported } : { text: "", reported: 0 },
      now,
      started,
    };
  })();
  answer(boot, asking);
  return asking.head;
}

/** What is to be answered. */
interface AskedFor {
  conversation: StoredConversation;
  /** The visitor's message. */
  message: Message;
  /** The end of the line that is sent: that message, or the reply that is gone on from. */
  end: Message;
  /** The reply that is gone on from. */
  begun?: AppMessage;
}

/**
 * Visitors get the live revision, or the one on trial, with what the developer lets them choose; at the bench the
 * draft becomes the next one.
 */
function revisionFor({ apps }: Home, app: StoredApp, asker: Asker, asked: With, now: number): Revision {
  if (asker.kind === "bench") return { number: apps.fix(app.id, app.draft, now), content: app.draft };
  if (asked.trial && app.trialRevision === null)
    refuse("not-found", `${app.name} has no revision on trial.`, { advice: "Leave out `trial`." });
  const number = (asked.trial && app.trialRevision) || app.liveRevision;
  const revision = apps.revision(app.id, number);
  if (!revision) throw new Error(`App ${app.slug} has no revision ${number}.`);
  const wanted = wantedContent(revision.content, app.access, asked);
  if (!wanted.ok) throw new Refusal(wanted.problem);
  return { number, content: wanted.content };
}

/** Holds what a caller says to the length that the app takes. */
function checkLength({ access, name }: StoredApp, call: ReplyCall): void {
  const { message: most } = access.limits;
  const texts = "messages" in call ? call.messages.map(({ text }) => text) : "message" in call ? [textIn(call)] : [];
  const longest = Math.max(0, ...texts.map((text) => text.length));
  if (longest > most)
    refuse("too-long", `${name} takes messages of up to ${most} characters, and this one has ${longest}.`, {
      advice: "Shorten it, or send it in parts.",
    });
}

function textIn({ message }: MessageCall): string {
  return typeof message === "string" ? message : textOf({ pieces: message });
}

type Storing = AskedBy & { asker: Asker };

function store(boot: Home, app: StoredApp, by: Storing, call: ReplyCall, revision: Revision, now: number): AskedFor {
  if ("goOn" in call) return gatherGoOn(boot, app, by.asker, call.goOn);
  if ("again" in call) return gatherAgain(boot, app, by.asker, call.again);
  return "messages" in call ? storeHeld(boot, app, by, call, revision, now) : storeMessage(boot, app, by, call, now);
}

function chosenFor({ providers }: Home, content: Content): Chosen {
  const connection = providers.bySlug(content.provider);
  if (!connection)
    refuse("misconfigured", "The provider that this app speaks through is not there any more.", {
      advice: "Choose another model in the Model station.",
    });
  const model = providers.model(connection.id, content.model);
  if (model) return { connection, model };
  const names = providers.models(connection.id).map(({ name }) => name);
  refuse(
    "unknown-model",
    `${connection.name} has no model ${content.model}; there ${names.length === 1 ? "is" : "are"} ${names.join(", ") || "none"}.`,
  );
}

/** The models that a revision may go on to, as far as they are still there. */
function fallbacksOf({ providers }: Home, { fallbacks = [] }: Content): Chosen[] {
  return fallbacks.flatMap((each) => {
    const connection = providers.bySlug(each.provider);
    const model = connection && providers.model(connection.id, each.model);
    return model ? [{ connection, model }] : [];
  });
}

/** Stores a history that its caller holds, as a conversation that is kept only where that was asked for. */
function storeHeld(
  { conversations }: Home,
  app: StoredApp,
  by: Storing,
  { messages, store }: HeldCall,
  { number, content }: Revision,
  now: number,
): AskedFor {
  const conversation = conversations.create({
    ...ownerOf(app, by),
    isPassing: store !== true,
    opening: messages[0]?.text ?? "",
    now,
  });
  let said: Message | undefined;
  for (const { role, text } of messages) {
    const pieces: Piece[] = [{ kind: "text", text }];
    if (role === "visitor" || said === undefined)
      said = conversations.addVisitorMessage({ conversation: conversation.id, parent: said, pieces, now });
    else {
      const facts = { revision: number, provider: content.provider, model: content.model };
      const { id } = conversations.addReply({
        conversation: conversation.id,
        parent: said,
        continues: null,
        facts,
        now,
      });
      conversations.finishReply({ id, state: "complete", pieces, reported: null, facts });
      said = conversations.message(id);
    }
  }
  const message = said as Message;
  return { conversation, message, end: message };
}

function ownerOf({ id: app }: StoredApp, { asker, origin, client }: Storing) {
  return { app, visitor: asker.kind === "visitor" ? asker.visitor : null, origin, client };
}

function storeMessage({ conversations }: Home, app: StoredApp, by: Storing, call: MessageCall, now: number): AskedFor {
  const pieces: Piece[] = typeof call.message === "string" ? [{ kind: "text", text: call.message }] : call.message;
  const text = textIn(call);
  const conversation =
    call.conversation === undefined
      ? conversations.create({ ...ownerOf(app, by), opening: text, now })
      : conversationAt({ conversations }, app, by.asker, call.conversation);
  const parent = parentFor({ conversations }, conversation, call.after);
  const message = conversations.addVisitorMessage({
    conversation: conversation.id,
    parent,
    pieces,
    now,
  });
  return { conversation, message, end: message };
}

function parentFor(
  { conversations }: Pick<Home, "conversations">,
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

/** The message to which another take of the reply is wanted. */
function gatherAgain({ conversations }: Home, app: StoredApp, asker: Asker, id: string): AskedFor {
  const message = conversations.message(id);
  const conversation = conversations.conversationOf(id);
  if (message?.role !== "visitor" || !conversation || !owns(asker, app, conversation))
    refuse("not-found", `There is no message ${id} of a visitor.`);
  refuseBusy({ conversations }, conversation.id);
  return { conversation, message, end: message };
}

function refuseBusy({ conversations }: Pick<Home, "conversations">, conversation: string): void {
  const [busy] = conversations.underWayIn(conversation);
  if (busy) refuse("busy", `Reply ${busy} is still arriving in this conversation.`, { reply: busy });
}

function gatherGoOn({ conversations }: Home, app: StoredApp, asker: Asker, id: string): AskedFor {
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
  refuseBusy({ conversations }, conversation.id);
  const message = begun.parent === null ? undefined : conversations.message(begun.parent);
  if (!message) throw new Error(`Reply ${id} answers nothing.`);
  return { conversation, message, end: hasWords(begun) ? begun : message, begun };
}
