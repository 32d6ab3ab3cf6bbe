import {
  type ChatCall,
  type Chunk,
  type CommonModel,
  type CommonModels,
  type Completion,
  type common,
  commonError,
} from "@/contract/common";
import { type HeldCall, mostHeld, type ReplyCall } from "@/contract/replies";
import type { EndReason } from "@/core/reply/events";
import type { ToldUsage } from "@/core/reply/told";
import { settingsSchema } from "@/core/revision/content";
import type { With } from "@/core/serving/access";
import type { StoredApp } from "../apps/app-store";
import type { HasConversations } from "../conversations/conversation-store";
import type { HasHistories } from "../conversations/history-store";
import type { HasMessages } from "../conversations/message-store";
import { findHistory, historyHash } from "../conversations/sent-histories";
import type { Caller } from "../entrance/caller";
import type { HasVisitors } from "../entrance/visitor-store";
import { refuse } from "../ground/refusal";
import type { StoredEvent } from "../live/event-store";
import type { HasProviders } from "../providers/provider-store";
import { type AskForNeeds, askFor, wholeOrNoted } from "./replies";
import type { Handle } from "./serve";
import { type Format, replyStream, together } from "./streams";

/** What of the process is used here. */
export type AskCommonNeeds = AskForNeeds & HasHistories;

/** This shape's words for how a reply ended. */
const endings: Record<EndReason, Completion["choices"][0]["finish_reason"]> = {
  complete: "stop",
  length: "length",
  "stop-word": "stop",
  tools: "tool_calls",
  refused: "content_filter",
  stopped: "stop",
};

/** Who it is, where neither a header nor the call itself says it. */
const anyone = "common";
/** Whose a model is where nobody is told. */
const ours = "unruly-finch";

/** Asks an app for a reply, or for several, in the shape that most model servers share. One who goes away stops them. */
export const askCommon: Handle<typeof common.chat, AskCommonNeeds> = async (home, { caller, body, text, request }) => {
  refuseUnknown(body);
  const { messages, system } = saidIn(body);
  const named = namedBy(home, caller, body);
  const call = replyCallFor(home, named, body, messages, system);
  const asked = askFor(home, named, call, request, text, ({ head, asker }) => {
    if (asker.kind === "visitor" && body.store !== false)
      home.histories.add(asker.visitor, historyHash(messages), head.message);
  });
  const replies = [asked.reply, ...asked.further];
  const model = body.model ?? caller.app.slug;
  const about = { id: asked.reply, created: Math.floor(Date.now() / 1000), model };
  const stop = () => {
    for (const reply of replies) void home.hub.stop(reply);
  };
  const { told, token } = caller;
  if (body.stream) {
    const withUsage = (body.stream_options?.include_usage ?? false) && told.counts;
    const counted = new Counted();
    const streams = replies.map((reply, index) => {
      const format = chunksOf(about, index, withUsage, (usage) => counted.add(usage));
      return replyStream(home, reply, 0, format, { headers: asked.headers, told, token });
    });
    const last = () => `${withUsage ? usageChunk(about, counted.sum) : ""}${line("[DONE]")}`;
    return together(streams as [Response, ...Response[]], last, stop);
  }
  request.signal.addEventListener("abort", stop, { once: true });
  try {
    const answers = await Promise.all(replies.map((reply) => wholeOrNoted(home, reply, told)));
    const counted = new Counted();
    for (const { usage } of answers) if (usage) counted.add(usage);
    return {
      ...about,
      object: "chat.completion",
      choices: answers.map(({ text, end }, index) => ({
        index,
        message: { role: "assistant", content: text },
        finish_reason: endings[end],
      })),
      ...(told.counts ? { usage: counted.sum } : {}),
    };
  } finally {
    request.signal.removeEventListener("abort", stop);
  }
};

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
  tools: isEmpty,
  functions: isEmpty,
  response_format: (value) => (value as { type?: unknown }).type === "text",
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

/** What was said, in our words. Neighbours of one role become one message, with a blank line between. */
function saidIn({ messages }: ChatCall): { messages: HeldCall["messages"]; system: string | undefined } {
  const held: HeldCall["messages"] = [];
  const system: string[] = [];
  for (const [at, { role, content }] of messages.entries()) {
    const text = typeof content === "string" ? content : content.map((part) => part.text).join("");
    if (role === "system" || role === "developer") {
      system.push(text);
      continue;
    }
    if (role !== "user" && role !== "assistant")
      refuse("bad-request", `\`messages[${at}].role\` is ${role}, and should be system, user or assistant.`, {
        advice: "Send what the user and the assistant said.",
        param: `messages[${at}].role`,
      });
    const ours = role === "user" ? "visitor" : "app";
    const last = held.at(-1);
    if (last?.role === ours) last.text += `\n\n${text}`;
    else held.push({ role: ours, text });
  }
  const empty = held.findIndex(({ text }) => text.trim() === "");
  if (empty >= 0)
    refuse("bad-request", "A message is empty.", { advice: "Leave it out, or send some text.", param: "messages" });
  if (held[0]?.role !== "visitor" || held.at(-1)?.role !== "visitor")
    refuse("bad-request", "The first and the last message are not both the user's.", {
      advice: "Send them in turn.",
      param: "messages",
    });
  return { messages: held, system: system.length === 0 ? undefined : system.join("\n\n") };
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
  const count = body.n ?? undefined;
  const said = messages.at(-1)?.text ?? "";
  const variables = body.variables ?? undefined;
  const before = visitor !== undefined && body.store !== false ? findHistory(home, visitor, messages) : undefined;
  if (before)
    return { message: said, conversation: before.conversation, after: before.reply, count, variables, with: wanted };
  if (messages.length > mostHeld)
    refuse(
      "bad-request",
      `The history has ${messages.length} messages, and a new conversation begins with up to ${mostHeld}.`,
      {
        advice: "Leave out the oldest, or send it to the conversation that it stands in, word for word.",
        param: "messages",
      },
    );
  return { messages, store: body.store !== false, count, variables, with: wanted };
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

type About = Pick<Chunk, "id" | "created" | "model">;

/** The events of one of several replies as chunks of this shape, without the last word. */
function chunksOf(about: About, index: number, withUsage: boolean, count: (usage: ToldUsage) => void): Format {
  const chunk = (choices: Chunk["choices"]) =>
    line(JSON.stringify({ ...about, object: "chat.completion.chunk", choices, ...(withUsage ? { usage: null } : {}) }));
  const delta = (delta: Chunk["choices"][0]["delta"], finish_reason: Chunk["choices"][0]["finish_reason"] = null) =>
    chunk([{ index, delta, finish_reason }]);
  return {
    type: "text/event-stream; charset=utf-8",
    event({ event, data }: StoredEvent) {
      switch (event) {
        case "reply":
          return delta({ role: "assistant", content: "" });
        case "text":
          return delta({ content: JSON.parse(data).text });
        case "usage":
          count(JSON.parse(data));
          return "";
        case "end":
          return delta({}, endings[(JSON.parse(data) as { reason: EndReason }).reason]);
        case "problem":
          return line(JSON.stringify({ error: commonError(JSON.parse(data), undefined) }));
        default:
          return "";
      }
    },
    pause: ": still here\n\n",
  };
}

function usageChunk(about: About, usage: CommonUsage): string {
  return line(JSON.stringify({ ...about, object: "chat.completion.chunk", choices: [], usage }));
}

function line(data: string): string {
  return `data: ${data}\n\n`;
}

type CommonUsage = NonNullable<Completion["usage"]>;

/** Tokens of all replies of a call: what was sent is sent once for each. */
class Counted {
  private input = 0;
  private output = 0;

  add({ input = 0, output = 0 }: ToldUsage): void {
    this.input += input;
    this.output += output;
  }

  get sum(): CommonUsage {
    const { input, output } = this;
    return { prompt_tokens: input, completion_tokens: output, total_tokens: input + output };
  }
}
