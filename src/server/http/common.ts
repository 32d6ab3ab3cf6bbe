import type { ChatCall, CommonModel, CommonModels, Completion, common } from "@/contract/common";
import { type HeldCall, heldText, mostHeld, type ReplyCall } from "@/contract/replies";
import { lastRound, textOf, toolsIn } from "@/core/conversation/pieces";
import { emptyReply, fold } from "@/core/reply/reply";
import type { Told, ToldUsage } from "@/core/reply/told";
import { settingsSchema } from "@/core/revision/content";
import type { With } from "@/core/serving/access";
import { type BroughtTool, broughtToolSchema } from "@/core/tools/tool";
import type { ReplySchema } from "@/core/typed/schema";
import { callersTurn, callsForCaller } from "../answers/turn";
import type { StoredApp } from "../apps/app-store";
import type { HasConversations } from "../conversations/conversation-store";
import type { HasHistories } from "../conversations/history-store";
import type { HasMessages } from "../conversations/message-store";
import { findHistory, historyHash } from "../conversations/sent-histories";
import type { Caller } from "../entrance/caller";
import type { HasVisitors } from "../entrance/visitor-store";
import { refuse } from "../ground/refusal";
import { numbered } from "../live/event-store";
import type { HasProviders } from "../providers/provider-store";
import { broughtIn, commonCalls, goOnWith } from "./common-calls";
import { type Choice, Counted, chunksOf, endings, line, usageChunk } from "./common-chunks";
import { type CommonSaid, saidIn } from "./common-said";
import { type AskForNeeds, askFor, wholeOrNoted } from "./replies";
import type { Handle } from "./serve";
import { replyStream, together } from "./streams";

/** What of the process is used here. */
export type AskCommonNeeds = AskForNeeds & HasHistories;

/** Who it is, where neither a header nor the call itself says it. */
const anyone = "common";
/** Whose a model is where nobody is told. */
const ours = "unruly-finch";

/** What is read for one answer: replies, each from where on. */
interface Reading {
  choices: (Choice & { from: number })[];
  headers: Record<string, string>;
}

/**
 * Asks an app for a reply, or for several, in the shape that most model servers share. One who goes away stops them. A
 * call that ends with the answers of tools has the reply go on that waits for them.
 */
export const askCommon: Handle<typeof common.chat, AskCommonNeeds> = async (home, { caller, body, text, request }) => {
  refuseUnknown(body);
  const said = saidIn(body);
  const named = namedBy(home, caller, body);
  const { choices, headers } = waitingFor(home, named, said) ?? newlyAsked(home, named, body, said, request, text);
  const model = body.model ?? caller.app.slug;
  const about = { id: choices[0]?.reply ?? "", created: Math.floor(Date.now() / 1000), model };
  // one that waits for its caller has given its answer: who leaves then may come back with answers of their own
  const stop = () => {
    for (const { reply } of choices) if (callsForCaller(home, reply).length === 0) void home.hub.stop(reply);
  };
  const { told, token } = caller;
  const counted = new Counted();
  if (body.stream) {
    const withUsage = (body.stream_options?.include_usage ?? false) && told.counts;
    const streams = choices.map((choice) => {
      const format = chunksOf(about, choice, withUsage, (usage) => counted.add(usage));
      return replyStream(home, choice.reply, choice.from, format, { headers, told, token });
    });
    const last = () => `${withUsage && counted.hasAny ? usageChunk(about, counted.sum) : ""}${line("[DONE]")}`;
    return together(streams as [Response, ...Response[]], last, stop);
  }
  request.signal.addEventListener("abort", stop, { once: true });
  try {
    const answers = await Promise.all(choices.map((choice) => wholeChoice(home, choice, told, request.signal)));
    for (const { usage } of answers) if (usage) counted.add(usage);
    return {
      ...about,
      object: "chat.completion",
      choices: answers.map(({ choice }) => choice),
      ...(told.counts && counted.hasAny ? { usage: counted.sum } : {}),
    };
  } finally {
    request.signal.removeEventListener("abort", stop);
  }
};

/** The reply that waits for the answers with which a call ends, if one does. */
function waitingFor(home: AskCommonNeeds, caller: Caller, { answers }: CommonSaid): Reading | undefined {
  const goneOn = answers.length > 0 ? goOnWith(home, caller, answers) : undefined;
  return goneOn && { choices: [{ ...goneOn, index: 0 }], headers: {} };
}

/** Asks for the replies that a call wants. */
function newlyAsked(
  home: AskCommonNeeds,
  caller: Caller,
  body: ChatCall,
  { messages, system }: CommonSaid,
  request: Request,
  text: string,
): Reading {
  const call = replyCallFor(home, caller, body, messages, system);
  // what was streamed in this shape can't be taken back, and nobody can be asked for leave
  const asked = askFor(
    home,
    { ...caller, canAllow: false, canMend: body.stream !== true },
    call,
    request,
    text,
    ({ head, asker }) => {
      if (asker.kind === "visitor" && body.store !== false)
        home.histories.add(asker.visitor, historyHash(messages), head.message);
    },
  );
  // what a reply goes on from is said to its readers first, after its head
  const last = messages.at(-1);
  const begun = last?.role === "app" ? (last.pieces ?? []) : [];
  const round = lastRound({ pieces: begun.filter((piece) => piece.kind === "tool") });
  const from = begun.length === 0 ? 0 : 1 + begun.length;
  const choices = [asked.reply, ...asked.further].map((reply, index) => ({ reply, index, round, from }));
  return { choices, headers: asked.headers };
}

/** One choice, once it has ended or it is the caller's turn. */
async function wholeChoice(
  home: AskCommonNeeds,
  { reply, index, round, from }: Reading["choices"][0],
  told: Told,
  signal: AbortSignal,
): Promise<{ choice: Completion["choices"][0]; usage?: ToldUsage }> {
  const content = () => textOf(home.hub.eventsOf(reply, from).map(numbered).reduce(fold, emptyReply));
  const open = await callersTurn(home, reply, signal);
  if (open.length > 0) {
    const pieces = toolsIn(home.hub.standing(reply) ?? { pieces: [] });
    const calls = broughtIn(pieces, lastRound({ pieces }));
    if (calls.some((call) => call.round > round)) {
      const message = { role: "assistant" as const, content: content() || null, tool_calls: commonCalls(reply, calls) };
      return { choice: { index, message, finish_reason: "tool_calls" } };
    }
  }
  const { end, usage } = await wholeOrNoted(home, reply, told);
  return { choice: { index, message: { role: "assistant", content: content() }, finish_reason: endings[end] }, usage };
}

/** What `model` may be. */
export const commonModels: Handle<typeof common.models, HasProviders> = (home, { caller }): CommonModels => ({
  object: "list",
  data: modelsFor(home, caller),
});

/** One of them. */
export const commonModel: Handle<typeof common.model, HasProviders> = (home, { caller, id }): CommonModel => {
  const all = modelsFor(home, caller);
  const model = all.find((each) => each.id === id);
  const names = all.map((each) => each.id).join(", ");
  return (
    model ?? refuse("not-found", `There is no model ${id} here.`, { advice: `Name one of ${names}.`, param: "model" })
  );
};

function modelsFor({ providers }: HasProviders, { app, told }: Caller): CommonModel[] {
  const model = (id: string, owner: string): CommonModel => ({ id, object: "model", created: 0, owned_by: owner });
  return [
    model(app.slug, ours),
    ...app.access.models.map(({ model: id, provider }) =>
      model(id, told.model ? (providers.bySlug(provider)?.name ?? provider) : ours),
    ),
  ];
}

/** A caller with the name that the call itself gives, where it gives no other. */
function namedBy({ visitors }: HasVisitors, caller: Caller, { user }: ChatCall): Caller {
  if (!caller.mayName || caller.visitor !== undefined || caller.fresh.name) return caller;
  const name = user?.trim() || anyone;
  const visitor = visitors.named(caller.app.id, name)?.id;
  return {
    ...caller,
    by: "name",
    visitor,
    fresh: { name },
    key: visitor ?? `name ${name}`,
    seen: { ...caller.seen, visitor: name },
  };
}

/** Members that would change an answer and mean nothing here yet, and those values of theirs that change nothing. */
const unknown: Record<string, (value: unknown) => boolean> = {
  functions: isEmpty,
  logprobs: (value) => value === false,
  logit_bias: (value) => Object.keys(value as object).length === 0,
  presence_penalty: (value) => value === 0,
  frequency_penalty: (value) => value === 0,
};

function isEmpty(value: unknown): boolean {
  return Array.isArray(value) && value.length === 0;
}

/** @throws {Refusal} `bad-request` for a member that would change the answer, and can't be heeded */
function refuseUnknown(body: ChatCall): void {
  for (const [name, changesNothing] of Object.entries(unknown)) {
    const value = body[name];
    if (value === undefined || value === null || changesNothing(value)) continue;
    refuse("bad-request", `\`${name}\` can't be heeded here.`, { advice: "Leave it out.", param: name });
  }
}

/** A call in the usual shape as one of our own: it goes on with the conversation in which just this was said before. */
function replyCallFor(
  home: HasConversations & HasMessages & HasHistories,
  { app, visitor }: Caller,
  body: ChatCall,
  messages: HeldCall["messages"],
  system: string | undefined,
): ReplyCall {
  const wanted = { ...wantedBy(app, body), system };
  const last = messages.at(-1);
  const said = last ? heldText(last) : "";
  const common = {
    count: body.n ?? undefined,
    variables: body.variables ?? undefined,
    with: wanted,
    ...broughtBy(body),
  };
  const isFollowed = visitor !== undefined && body.store !== false && last?.role === "visitor";
  const before = isFollowed ? findHistory(home, visitor, messages) : undefined;
  if (before) return { message: said, conversation: before.conversation, after: before.reply, ...common };
  if (messages.length > mostHeld)
    refuse(
      "bad-request",
      `The history has ${messages.length} messages, and a new conversation begins with up to ${mostHeld}.`,
      {
        advice: "Leave out the oldest, or send it to the conversation that it stands in, word for word.",
        param: "messages",
      },
    );
  return { messages, store: body.store !== false, ...common };
}

/** The tools that a call brings along, whether they are to be called, and what the reply has to fit. @throws {Refusal} `bad-request` */
function broughtBy({ tools, tool_choice: choice, parallel_tool_calls: several, response_format: format }: ChatCall) {
  const brought = (tools ?? []).map((tool, at): BroughtTool => {
    const { name, description, parameters } = tool.function;
    const given = { name, description: description ?? undefined, parameters: parameters ?? undefined };
    const read = broughtToolSchema.safeParse(given);
    if (read.success) return read.data;
    const [issue] = read.error.issues;
    const param = [`tools[${at}].function`, ...(issue?.path ?? [])].join(".");
    return refuse("bad-request", `\`${param}\` ${issue?.message ?? "is not as expected"}.`, { param });
  });
  return {
    tools: brought.length > 0 ? brought : undefined,
    toolChoice: choice == null ? undefined : typeof choice === "string" ? choice : { name: choice.function.name },
    oneAtATime: several === false ? true : undefined,
    schema: schemaOf(format),
  };
}

/** The schema that a reply has to fit; any object where JSON alone is asked for. */
function schemaOf(format: ChatCall["response_format"]): ReplySchema | undefined {
  if (format == null || format.type === "text") return undefined;
  return format.type === "json_object" ? { type: "object" } : format.json_schema.schema;
}

/** What this shape calls our settings. */
const settingNames = {
  temperature: "temperature",
  top_p: "topP",
  max_tokens: "maxOutput",
  max_completion_tokens: "maxOutput",
  stop: "stop",
  seed: "seed",
} as const;

/** The model and the settings that are asked for. @throws {Refusal} where callers may not choose one of them */
function wantedBy({ slug, access }: StoredApp, body: ChatCall): With {
  const { model } = body;
  const names = [slug, ...access.models.map((each) => each.model)];
  if (model !== undefined && !names.includes(model))
    refuse("not-found", `There is no model ${model} here.`, {
      advice: `Name one of ${names.join(", ")}.`,
      param: "model",
    });
  const wanted: Record<string, unknown> = {};
  for (const [theirs, ours] of Object.entries(settingNames)) {
    const value = body[theirs];
    if (value === undefined || value === null) continue;
    if (!access.settings.some((each) => each === ours))
      refuse("forbidden", `Callers may not choose \`${theirs}\` here.`, {
        advice: "Leave it out, or have whoever runs the app allow it in Serve.",
        param: theirs,
      });
    const read = settingsSchema.safeParse({ [ours]: ours === "stop" && typeof value === "string" ? [value] : value });
    if (!read.success) refuse("bad-request", `\`${theirs}\` is out of its range.`, { param: theirs });
    Object.assign(wanted, read.data);
  }
  return { settings: wanted, ...(model === undefined || model === slug ? {} : { model }) };
}
