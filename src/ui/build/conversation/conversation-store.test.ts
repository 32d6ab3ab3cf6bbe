import { describe, expect, it, vi } from "vitest";
import { CallFailed, type Client } from "@/contract/client";
import { benchConversations } from "@/contract/conversations";
import { problemDocument } from "@/contract/problem";
import { benchReplies } from "@/contract/replies";
import { problem } from "@/core/problem/problem";
import type { NumberedEvent } from "@/core/reply/events";
import { KeptTexts } from "../../shared/kept-texts";
import { LiveReplies } from "../../shared/live-replies";
import { KeptPictures } from "../../shared/pictures/kept-pictures";
import { ConversationStore, textName } from "./conversation-store";

const head = { reply: "r", conversation: "con_1", message: "m", revision: 1, provider: "p", model: "m" };
const end: NumberedEvent = { id: 2, event: "end", data: { reason: "complete" } };

/** A reply of the line, in a state. */
const reply = (state: string) => ({
  id: "r",
  role: "app",
  turn: 1,
  state,
  pieces: [],
  facts: {},
  clearedFor: [],
  siblings: [],
});
const page = (messages: unknown[]) => ({ conversation: "con_1", messages, before: null, origin: "bench", clears: [] });

function opened({ isBegun = true, line = [] as unknown[] } = {}) {
  const texts = new KeptTexts(() => {
    throw new DOMException("Nothing is kept here.");
  });
  vi.spyOn(console, "warn").mockImplementation(() => {});
  const pictures = new KeptPictures(texts);
  const live = new LiveReplies(() => {});
  const calls: { what: string; input: Record<string, unknown> }[] = [];
  const order: string[] = [];
  const answers = { line, failure: undefined as CallFailed | undefined, wait: Promise.resolve() };
  const send = async (call: unknown, input: Record<string, unknown>) => {
    if (call === benchConversations.read) return page(answers.line);
    const what = call === benchReplies.ask ? "ask" : "stop";
    calls.push({ what, input });
    order.push(what);
    await answers.wait;
    if (answers.failure) throw answers.failure;
    return { reply: "r", conversation: "con_1", message: "m", further: [] };
  };
  const store = new ConversationStore("con_1", isBegun, {
    slug: "quay-desk",
    server: { send } as unknown as Pick<Client, "send">,
    live,
    texts,
    pictures,
    draft: { save: async () => void order.push("save") },
    tellSaid: () => {},
    problemIn: (error) => (error as CallFailed).problem,
  });
  const write = (text: string) => texts.write(textName("con_1"), text);
  const written = () => texts.read(textName("con_1"));
  return { store, live, calls, order, answers, write, written, pictures };
}

describe("pictures beside what is written", () => {
  const one = { file: "a".repeat(64), type: "image/png" as const, width: 4, height: 3 };
  const other = { ...one, file: "b".repeat(64) };
  const name = textName("con_1");

  it("go out before the words, and with no words at all", async () => {
    const { store, calls, write, pictures } = opened();
    pictures.add(name, one);
    pictures.add(name, one);
    write("What is it?");
    await store.send();
    pictures.add(name, other);
    await store.send();
    await store.send();
    expect(calls.map(({ input }) => (input.body as { message: unknown }).message)).toEqual([
      [
        { kind: "picture", file: one.file },
        { kind: "text", text: "What is it?" },
      ],
      [{ kind: "picture", file: other.file }],
    ]);
    expect(pictures.read(name)).toEqual([]);
  });

  it("that were not taken stand there again, before those that were added since", async () => {
    const { store, answers, written, write, pictures } = opened();
    answers.failure = new CallFailed(problemDocument(problem("no-place", "This model sees no pictures.")));
    let goOn = () => {};
    answers.wait = new Promise((resolve) => {
      goOn = resolve;
    });
    pictures.add(name, one);
    write("What is it?");
    const sending = store.send();
    pictures.add(name, other);
    goOn();
    await sending;
    expect([pictures.read(name), written()]).toEqual([[one, other], "What is it?"]);
  });
});

describe("an open conversation", () => {
  it("is begun under the id that it had before, once, after the draft was stored", async () => {
    const { store, calls, order, write, written } = opened({ isBegun: false });
    write("Hello");
    await store.send();
    expect(calls[0]?.input).toMatchObject({ begins: "con_1", body: { message: "Hello" } });
    expect(order).toEqual(["save", "ask"]);
    write("And?");
    await store.send();
    expect(calls[1]?.input).toMatchObject({ begins: undefined, body: { message: "And?", conversation: "con_1" } });
    expect(written()).toBe("");
  });

  it("gives back what was not taken, before what was typed since, and says why", async () => {
    const { store, answers, write, written } = opened();
    answers.failure = new CallFailed(problemDocument(problem("internal", "The server is away.")));
    write("Hello");
    const sent = store.send();
    write("typed since");
    await sent;
    expect(written()).toBe("Hello\ntyped since");
    expect(store.state).toMatchObject({ isSending: false, failure: { detail: "The server is away." } });
  });

  it("sends one at a time, whoever presses twice", async () => {
    const { store, calls, write } = opened();
    write("Hello");
    await Promise.all([store.send(), store.send()]);
    expect(calls).toHaveLength(1);
  });

  it("has what is written wait for the reply that arrives, and sends it when that has ended, looked at or not", async () => {
    const { store, live, calls, answers, write, written } = opened({ line: [reply("arriving")] });
    await store.readAgain();
    write("And then?");
    await store.send();
    expect([store.state.waits, store.isBusy, calls.length]).toEqual([true, true, 0]);
    answers.line = [reply("complete")];
    live.hear({ reply: "other", conversation: "con_2", event: end });
    expect(calls).toHaveLength(0);
    live.hear({ reply: "r", conversation: "con_1", event: end });
    await vi.waitFor(() => expect(calls.map(({ what }) => what)).toEqual(["ask"]));
    expect([store.state.waits, written()]).toEqual([false, ""]);
  });

  it("sends nothing that does not wait any more", async () => {
    const { store, live, calls, write } = opened({ line: [reply("arriving")] });
    await store.readAgain();
    write("And then?");
    await store.send();
    store.wait(false);
    live.hear({ reply: "r", conversation: "con_1", event: end });
    await store.readAgain();
    expect(calls).toHaveLength(0);
  });

  it("stops the reply that is under way, and nothing where there is none", async () => {
    const { store, calls, answers } = opened({ line: [reply("arriving")] });
    await store.readAgain();
    store.stop();
    answers.line = [reply("stopped")];
    await store.readAgain();
    store.stop();
    expect(calls.map(({ what, input }) => [what, input.id])).toEqual([["stop", "r"]]);
  });

  it("hears what was begun in it elsewhere", async () => {
    const { store, live, answers } = opened({ isBegun: false });
    answers.line = [reply("arriving")];
    live.hear({ reply: "r", conversation: "con_1", event: { id: 1, event: "reply", data: head } });
    await vi.waitFor(() => expect(store.state.line).toHaveLength(1));
    expect(store.state.isBegun).toBe(true);
  });

  it("unfolds one thing at a time, and folds what is unfolded", () => {
    const { store } = opened();
    store.unfold("a", "dispatch");
    store.unfold("a", "takes");
    expect(store.state.unfolded).toEqual({ message: "a", what: "takes" });
    store.unfold("a", "takes");
    expect(store.state.unfolded).toBeUndefined();
  });
});
