import {
  type ChatCall,
  type Chunk,
  type CommonModels,
  type Completion,
  type common,
  commonError,
} from "@/contract/common";
import { type HeldCall, mostHeld, type ReplyCall } from "@/contract/replies";
import type { EndReason, Usage } from "@/core/reply/events";
import { settingsSchema } from "@/core/revision/revision";
import type { With } from "@/core/serving/access";
import type { StoredApp } from "../apps/app-store";
import { findHistory, historyHash } from "../conversations/sent-histories";
import type { Home } from "../home";
import { refuse } from "../refusal";
import type { StoredEvent } from "../replies/event-store";
import type { Caller } from "./caller";
import { askFor, wholeOrNoted } from "./replies";
import type { Handle } from "./serve";
import { type Format, replyStream } from "./streams";

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

/** Asks an app for a reply in the shape that most model servers share. */
export const askCommon: Handle<typeof common.chat> = async (home, { caller, body, text, request }) => {
  const messages = heldIn(body);
  const named = namedBy(home, caller, body);
  const asked = askFor(home, named, replyCallFor(home, named, body, messages), request, text, ({ head, asker }) => {
    if (asker.kind === "visitor" && body.store !== false)
      home.histories.add(asker.visitor, historyHash(messages), head.message);
  });
  const model = body.model ?? caller.app.slug;
  const created = Math.floor(Date.now() / 1000);
  const about = { id: asked.reply, created, model };
  if (body.stream) {
    const format = chunksOf(about, body.stream_options?.include_usage ?? false);
    return replyStream(home, asked.reply, 0, format, { headers: asked.headers, token: caller.token });
  }
  const whole = await wholeOrNoted(home, asked.reply);
  return {
    ...about,
    object: "chat.completion",
    choices: [{ index: 0, message: { role: "assistant", content: whole.text }, finish_reason: endings[whole.end] }],
    ...(whole.usage ? { usage: usageOf(whole.usage) } : {}),
  };
};

/** What `model` may be. */
export const commonModels: Handle<typeof common.models> = (home, { caller: { app } }): CommonModels => ({
  object: "list",
  data: [
    { id: app.slug, object: "model", created: 0, owned_by: "unruly-finch" },
    ...app.access.models.map(({ model, provider }) => ({
      id: model,
      object: "model" as const,
      created: 0,
      owned_by: home.providers.bySlug(provider)?.name ?? provider,
    })),
  ],
});

/** A caller with the name that the call itself gives, where it gives no other. */
function namedBy({ visitors }: Home, caller: Caller, { user }: ChatCall): Caller {
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

/** What was said, in our words. Neighbours of one role become one message, with a blank line between. */
function heldIn({ messages }: ChatCall): HeldCall["messages"] {
  const held: HeldCall["messages"] = [];
  for (const [at, { role, content }] of messages.entries()) {
    const text = typeof content === "string" ? content : content.map((part) => part.text).join("");
    if (role !== "user" && role !== "assistant")
      refuse("bad-request", `messages[${at}] is of the role ${role}: the app's own prompt goes first, and no other.`, {
        advice: "Send what the user and the assistant said.",
      });
    const ours = role === "user" ? "visitor" : "app";
    const last = held.at(-1);
    if (last?.role === ours) last.text += `\n\n${text}`;
    else held.push({ role: ours, text });
  }
  const empty = held.findIndex(({ text }) => text.trim() === "");
  if (empty >= 0) refuse("bad-request", "A message is empty.", { advice: "Leave it out, or send some text." });
  if (held[0]?.role !== "visitor" || held.at(-1)?.role !== "visitor")
    refuse("bad-request", "The first and the last message are not both the user's.", { advice: "Send them in turn." });
  return held;
}

/** The same as a call of ours: it goes on with the conversation in which just this was said before. */
function replyCallFor(home: Home, { app, visitor }: Caller, body: ChatCall, messages: HeldCall["messages"]): ReplyCall {
  const wanted = wantedBy(app, body);
  const said = messages.at(-1)?.text ?? "";
  const before = visitor !== undefined && body.store !== false ? findHistory(home, visitor, messages) : undefined;
  if (before) return { message: said, conversation: before.conversation, after: before.reply, with: wanted };
  if (messages.length > mostHeld)
    refuse(
      "bad-request",
      `The history has ${messages.length} messages, and a new conversation begins with up to ${mostHeld}.`,
      {
        advice: "Leave out the oldest, or send it to the conversation that it stands in, word for word.",
      },
    );
  return { messages, store: body.store !== false, with: wanted };
}

/** The model and the settings that are asked for, as far as callers may choose them; others are ignored. */
function wantedBy({ slug, access }: StoredApp, body: ChatCall): With {
  const { model, temperature, top_p, max_tokens, stop, seed } = body;
  const names = [slug, ...access.models.map((each) => each.model)];
  if (model !== undefined && !names.includes(model))
    refuse("not-found", `There is no model ${model} here.`, { advice: `Name one of ${names.join(", ")}.` });
  const all = {
    temperature,
    topP: top_p,
    maxOutput: max_tokens,
    stop: typeof stop === "string" ? [stop] : stop,
    seed,
  };
  const allowed = Object.entries(all).filter(
    ([name, value]) => value !== undefined && value !== null && access.settings.some((each) => each === name),
  );
  const settings = settingsSchema.safeParse(Object.fromEntries(allowed));
  if (!settings.success) refuse("bad-request", `${settings.error.issues[0]?.path.join(".")} is out of its range.`);
  return { settings: settings.data, ...(model === undefined || model === slug ? {} : { model }) };
}

/** The events of a reply as chunks of this shape. */
function chunksOf(about: Pick<Chunk, "id" | "created" | "model">, withUsage: boolean): Format {
  const line = (data: unknown) => `data: ${JSON.stringify(data)}\n\n`;
  const chunk = (choices: Chunk["choices"], more: Partial<Chunk> = {}) =>
    line({ ...about, object: "chat.completion.chunk", choices, ...(withUsage ? { usage: null } : {}), ...more });
  const delta = (delta: Chunk["choices"][0]["delta"], finish_reason: Chunk["choices"][0]["finish_reason"] = null) =>
    chunk([{ index: 0, delta, finish_reason }]);
  let usage: Usage | undefined;
  return {
    type: "text/event-stream; charset=utf-8",
    event({ event, data }: StoredEvent) {
      switch (event) {
        case "reply":
          return delta({ role: "assistant", content: "" });
        case "text":
          return delta({ content: JSON.parse(data).text });
        case "usage":
          usage = JSON.parse(data);
          return "";
        case "end": {
          const counted = withUsage && usage ? chunk([], { usage: usageOf(usage) }) : "";
          return `${delta({}, endings[(JSON.parse(data) as { reason: EndReason }).reason])}${counted}data: [DONE]\n\n`;
        }
        case "problem":
          return `${line({ error: commonError(JSON.parse(data)) })}data: [DONE]\n\n`;
        default:
          return "";
      }
    },
    pause: ": still here\n\n",
  };
}

function usageOf({ input, output }: Usage): NonNullable<Completion["usage"]> {
  return { prompt_tokens: input, completion_tokens: output, total_tokens: input + output };
}
