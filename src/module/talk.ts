/**
 * A conversation with an app, for front ends of any kind: messages, how things stand, what failed, stopping, and
 * coming back after a cut. It has no dependencies and shows nothing; the visitors' page stands on it as well.
 *
 * ```js
 * import { openTalk } from "http://127.0.0.1:4600/talk/module.js";
 * const talk = openTalk({ app: "http://127.0.0.1:4600/api/apps/quay-desk" });
 * talk.watch(({ messages, state }) => draw(messages, state));
 * await talk.say("When does the next boat leave?");
 * ```
 */

import { callerOf, isJson } from "./caller";
import { eventsOf } from "./events";
import { Failed, failureOf, kindOf } from "./failed";
import { costOf, messageOf, type Page, saidOf, withCall } from "./stored";
import type {
  Call,
  Failure,
  ListedPage,
  OwnDocument,
  Picture,
  Said,
  Talk,
  TalkEvent,
  TalkOptions,
  TalkState,
} from "./types";

export type * from "./types";

/** How a conversation stands of which nothing is known yet. */
export const empty: TalkState = {
  conversation: null,
  messages: [],
  state: "ready",
  failure: null,
  hasEarlier: false,
  isRefused: false,
};
const blank = {
  data: null,
  pictures: [],
  thought: "",
  cites: [],
  calls: [],
  failure: null,
  tokens: null,
  price: null,
  currency: null,
  siblings: [],
  rating: null,
  isByHand: false,
};
/** How the id of a reply ends to which the app has given none yet. */
const unnamed = " reply";
const waits = [500, 1_000, 2_000, 4_000, 8_000];
/** What stands behind a reply that was not asked for here. */
const readNothing = () => Promise.reject(new Error("It was asked for elsewhere."));

/** Opens a conversation with an app; nothing is sent until something is said or asked for. */
export function openTalk(options: TalkOptions): Talk {
  const { keep } = options;
  /** Where the conversation is kept for the next visit. */
  const kept = `finch conversation ${options.app}`;
  const { call, forgetPass } = callerOf(options, (isRefused) => {
    if (state.isRefused !== isRefused) set({ isRefused });
  });
  let state = empty;
  let reading = new AbortController();
  /** The calls of our tools that are answered, or being answered. */
  const answered = new Set<string>();
  /** Whether the reply is to be stopped that has no id yet. */
  let isUnwanted = false;
  const watchers = new Set<(state: TalkState) => void>();

  function set(change: Partial<TalkState>): void {
    state = { ...state, ...change };
    for (const watcher of watchers) watcher(state);
  }

  function setLast(change: Partial<Said>, more: Partial<TalkState> = {}): void {
    const last = state.messages.at(-1);
    set({ ...more, messages: last ? [...state.messages.slice(0, -1), { ...last, ...change }] : [] });
  }

  /** A call that answers nothing; where it fails, why stands in the state. @returns whether it was taken */
  async function tell(path: string, method: string, body: object): Promise<boolean> {
    try {
      await call(path, { method, body: JSON.stringify(body), headers: isJson });
      return true;
    } catch (error) {
      set({ failure: failureOf(error) });
      return false;
    }
  }

  /** What stands behind `conversation`, kept for the next visit. */
  function enter(conversation: string | null): void {
    if (conversation === null) keep?.removeItem(kept);
    else if (conversation !== state.conversation) keep?.setItem(kept, conversation);
  }

  /** Leaves what is being read, for something else. */
  function readAnew(): AbortSignal {
    reading.abort();
    reading = new AbortController();
    return reading.signal;
  }

  /** Takes one event of the reply that is last. */
  function take(given: TalkEvent): void {
    const { event, data } = given;
    options.onEvent?.(given);
    const last = state.messages.at(-1);
    if (event === "reply") {
      enter(data.conversation);
      const messages = state.messages.map(
        (each): Said => (each.state === "sending" ? { ...each, id: data.message, state: "said" } : each),
      );
      set({ messages });
      setLast({ id: data.reply }, { conversation: data.conversation });
      if (isUnwanted) void talk.stop();
    } else if (event === "text")
      setLast({ text: (last?.text ?? "") + data.text, state: "arriving" }, { state: "arriving" });
    else if (event === "picture")
      setLast({ pictures: [...(last?.pictures ?? []), data], state: "arriving" }, { state: "arriving" });
    else if (event === "data") setLast({ data: data.value, state: "arriving" }, { state: "arriving" });
    // what was said is taken back, since it is said anew
    else if (event === "attempt" && data.anew) setLast({ text: "", data: null, pictures: [] });
    else if (event === "thought") setLast({ thought: (last?.thought ?? "") + data.text });
    else if (event === "source") setLast({ cites: [...(last?.cites ?? []), data] });
    else if (event === "tool") {
      setLast({ calls: withCall(last?.calls ?? [], data) });
      if (last) void answerOwn(last.id, data);
    } else if (event === "usage") setLast(costOf(data));
    else if (event === "end") {
      const ended = { length: "cut", stopped: "stopped", refused: "refused" } as const;
      setLast({ state: ended[data.reason as keyof typeof ended] ?? "complete" }, { state: "ready" });
    } else if (event === "problem")
      setLast(
        {
          ...(data.kind === "unfit" ? { data: null } : {}),
          state: data.kind === "interrupted" ? "interrupted" : "failed",
          failure: data,
        },
        { state: "ready" },
      );
  }

  /** Answers a call of one of our tools, once. */
  async function answerOwn(reply: string, { call, round, name, arguments: given, waitsFor }: Call): Promise<void> {
    const tool = waitsFor === "caller" ? options.tools?.find((each) => each.name === name) : undefined;
    const key = `${reply} ${round} ${call}`;
    if (!tool || answered.has(key)) return;
    answered.add(key);
    const said = await Promise.resolve(given)
      .then((value) => tool.answer(value))
      .then(
        (value) => ({ answer: typeof value === "string" ? value : (JSON.stringify(value) ?? "") }),
        (error: unknown) => ({ answer: error instanceof Error ? error.message : String(error), failed: true }),
      );
    await tell(`replies/${reply}/calls/${encodeURIComponent(call)}`, "POST", said);
  }

  /**
   * Reads a reply to its end, coming back after each cut.
   * @param ask asks for it, and gives the same reply each time
   * @param from the id of the last event that is here already
   */
  async function follow(ask: () => Promise<Response>, first: Response | undefined, from: number, signal: AbortSignal) {
    let last = from;
    let reply = from > 0 || first === undefined ? state.messages.at(-1)?.id : undefined;
    let response = first;
    const readOn = () =>
      call(`replies/${reply}`, { headers: { accept: "text/event-stream", "last-event-id": String(last) }, signal });
    for (let tries = 0; !signal.aborted; ) {
      try {
        response ??= await (reply === undefined ? ask() : readOn());
        // nothing is left: the reply was read to its end before
        if (response.status === 204) return;
        for await (const event of eventsOf(response)) {
          tries = 0;
          if (state.state === "away") set({ state: state.messages.at(-1)?.text ? "arriving" : "waiting" });
          if (event.id > last) last = event.id;
          if (event.event === "reply") reply = event.data.reply;
          take(event);
          if (event.event === "end" || event.event === "problem") return;
        }
      } catch (error) {
        if (signal.aborted) return;
        if (error instanceof Failed && kindOf(error) !== "offline") throw error;
      }
      response = undefined;
      set({ state: "away" });
      await pause(waits[Math.min(tries++, waits.length - 1)] ?? 0, signal);
    }
  }

  /** Asks for a reply, whose message is last already. */
  async function ask(body: object, key: string, undo: (failure: Failure) => void): Promise<boolean> {
    const signal = readAnew();
    isUnwanted = false;
    const headers = { accept: "text/event-stream", ...isJson, "idempotency-key": key };
    const post = () => call("replies", { method: "POST", body: JSON.stringify(body), headers, signal });
    let response: Response;
    try {
      response = await post();
    } catch (error) {
      if (!signal.aborted) undo(failureOf(error));
      return false;
    }
    try {
      await follow(post, response, 0, signal);
    } catch (error) {
      setLast({ state: "failed", failure: failureOf(error) }, { state: "ready" });
    }
    return true;
  }

  /** What goes along with each question. */
  function brought() {
    const { variables, with: chosen, schema } = options;
    const tools = options.tools?.map(({ name, description, parameters }) => ({ name, description, parameters }));
    return { variables, with: chosen, tools, schema };
  }

  async function sayAt(
    { text, pictures }: Pick<Said, "text" | "pictures">,
    before: readonly Said[],
    key = newKey(),
  ): Promise<boolean> {
    if ((text.trim() === "" && pictures.length === 0) || state.state !== "ready") return false;
    const said: Said = { ...blank, id: key, role: "visitor", text, pictures, state: "sending", at: Date.now() };
    const answer: Said = { ...blank, id: key + unnamed, role: "app", text: "", state: "waiting", at: Date.now() };
    set({ messages: [...before, said, answer], state: "waiting", failure: null });
    const after = before.at(-1)?.id;
    const { conversation } = state;
    const place = conversation === null || (before.length === 0 && !state.hasEarlier) ? {} : { conversation, after };
    const sent = ask({ message: messageOf(text, pictures), ...place, ...brought() }, key, (failure) =>
      set({ messages: [...before, { ...said, state: "unsent", failure }], state: "ready" }),
    );
    return sent;
  }

  /** Asks for a reply in the place of the last one. */
  async function replaceLast(body: (last: Said, said: Said) => object): Promise<boolean> {
    const [said, last] = state.messages.slice(-2);
    if (!said || last?.role !== "app" || state.state !== "ready") return false;
    const key = newKey();
    const fresh: Said = { ...blank, id: key + unnamed, role: "app", text: "", state: "waiting", at: Date.now() };
    setLast(fresh, { state: "waiting" });
    return ask(body(last, said), key, (failure) => setLast({ ...last, failure }, { state: "ready" }));
  }

  const talk: Talk = {
    get state() {
      return state;
    },
    watch(watcher) {
      watchers.add(watcher);
      watcher(state);
      return () => watchers.delete(watcher);
    },
    say: (text, pictures = []) => sayAt({ text, pictures }, withoutUnsent(state.messages)),
    async keepPicture(picture) {
      const kept = await call("files", { method: "POST", body: picture, headers: { "content-type": picture.type } });
      return (await kept.json()) as Picture;
    },
    picture: async (file) => (await call(`files/${encodeURIComponent(file)}`)).blob(),
    async documents() {
      return ((await (await call("documents")).json()) as { documents: OwnDocument[] }).documents;
    },
    async handIn(file, name) {
      const headers = { "content-type": "application/octet-stream" };
      const path = `documents?name=${encodeURIComponent(name)}`;
      return (await (await call(path, { method: "POST", body: file, headers })).json()) as OwnDocument;
    },
    async handInAddress(url) {
      const body = JSON.stringify({ url });
      return (await (
        await call("documents/addresses", { method: "POST", body, headers: isJson })
      ).json()) as OwnDocument;
    },
    async forgetDocument(document) {
      await call(`documents/${encodeURIComponent(document)}`, { method: "DELETE" });
      // what was said here may be gone with it
      await talk.open(state.conversation ?? undefined);
    },
    async retry() {
      const { messages } = state;
      const at = messages.findLastIndex(({ role }) => role === "visitor");
      const said = messages[at];
      if (!said) return false;
      if (said.failure?.kind === "not-found" && state.conversation !== null) {
        // the conversation is not there, or no longer for whoever this is: it is said in a new one
        talk.begin();
        return sayAt(said, []);
      }
      // what was said is there already: another answer to it is wanted
      if (said.state === "said") return talk.again();
      // what may have arrived all the same is asked for by its own key, so that it is never said twice
      return sayAt(said, messages.slice(0, at), said.state === "unsent" ? said.id : newKey());
    },
    async again() {
      const before = state.messages.at(-1);
      const body = (_last: Said, said: Said) => ({
        again: said.id,
        ...brought(),
      });
      const isTaken = await replaceLast(body);
      const now = state.messages.at(-1);
      if (before && now && now.id !== before.id && !now.id.endsWith(unnamed))
        setLast({ siblings: [...(before.siblings.length > 0 ? before.siblings : [before.id]), now.id] });
      return isTaken;
    },
    goOn: () => replaceLast(({ id }) => ({ goOn: id, ...brought(), with: undefined })),
    async show(message) {
      const { conversation } = state;
      if (conversation === null || state.state !== "ready") return;
      if (await tell(`conversations/${conversation}/shown`, "PUT", { message })) await talk.open(conversation);
    },
    async name(conversation, title) {
      await tell(`conversations/${conversation}`, "PATCH", { title });
    },
    async rate(reply, rating) {
      const before = state.messages.find(({ id }) => id === reply)?.rating ?? null;
      const mark = (now: Said["rating"]) =>
        set({ messages: state.messages.map((each) => (each.id === reply ? { ...each, rating: now } : each)) });
      mark(rating);
      if (!(await tell(`replies/${reply}/rating`, "PUT", { rating }))) mark(before);
    },
    async allow(call, isAllowed) {
      const last = state.messages.at(-1);
      if (!last?.calls.some((each) => each.call === call && each.waitsFor === "leave")) return false;
      return tell(`replies/${last.id}/calls/${encodeURIComponent(call)}`, "POST", { allow: isAllowed });
    },
    async stop() {
      const last = state.messages.at(-1);
      if (last?.role !== "app" || state.state === "ready") return;
      isUnwanted = last.id.endsWith(unnamed);
      if (isUnwanted) return;
      await call(`replies/${last.id}/stop`, { method: "POST" }).catch((error) => set({ failure: failureOf(error) }));
    },
    async open(conversation = keep?.getItem(kept) ?? undefined) {
      if (!conversation) return;
      const signal = readAnew();
      try {
        const page = (await (await call(`conversations/${conversation}`, { signal })).json()) as Page;
        enter(conversation);
        const messages = page.messages.map(saidOf);
        const last = page.messages.at(-1);
        const isUnderWay = last?.state === "waiting" || last?.state === "arriving";
        set({
          conversation,
          messages,
          hasEarlier: page.before !== null,
          failure: null,
          state: isUnderWay ? (last.state as "waiting" | "arriving") : "ready",
        });
        if (!last || !isUnderWay) return;
        for (const each of messages.at(-1)?.calls ?? []) void answerOwn(last.id, each);
        await follow(readNothing, undefined, last.cursor ?? 0, signal);
        // it ended between the two calls
        if (!signal.aborted && state.state !== "ready") await talk.open(conversation);
      } catch (error) {
        if (signal.aborted) return;
        const failure = failureOf(error);
        if (failure.kind === "not-found") {
          enter(null);
          set(empty);
        } else set({ failure, state: "ready" });
      }
    },
    async earlier() {
      const [first] = state.messages;
      if (!first || !state.hasEarlier) return;
      try {
        const path = `conversations/${state.conversation}?before=${first.id}`;
        const page = (await (await call(path)).json()) as Page;
        set({ messages: [...page.messages.map(saidOf), ...state.messages], hasEarlier: page.before !== null });
      } catch (error) {
        set({ failure: failureOf(error) });
      }
    },
    begin() {
      readAnew();
      enter(null);
      set(empty);
    },
    async list(before) {
      try {
        const page = before === undefined ? "" : `?before=${encodeURIComponent(before)}`;
        return (await (await call(`conversations${page}`)).json()) as ListedPage;
      } catch (error) {
        set({ failure: failureOf(error) });
        return { conversations: [], before: null };
      }
    },
    async remove(conversation) {
      try {
        await call(`conversations/${conversation}`, { method: "DELETE" });
        if (conversation === state.conversation) talk.begin();
      } catch (error) {
        set({ failure: failureOf(error) });
      }
    },
    async forget() {
      try {
        await call("visitors/me", { method: "DELETE" });
        forgetPass();
        talk.begin();
      } catch (error) {
        set({ failure: failureOf(error) });
      }
    },
    close() {
      reading.abort();
      watchers.clear();
    },
  };
  return talk;
}

function withoutUnsent(messages: readonly Said[]): readonly Said[] {
  return messages.at(-1)?.state === "unsent" ? messages.slice(0, -1) : messages;
}

/** A key that nobody guesses; pages without https have no other way to make one. */
function newKey(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(16)), (byte) => byte.toString(16).padStart(2, "0")).join("");
}

/** Waits, but no longer than until the network is back, or nobody wants it any more. */
function pause(milliseconds: number, signal: AbortSignal): Promise<void> {
  return new Promise((resolve) => {
    const done = () => {
      clearTimeout(timer);
      globalThis.removeEventListener?.("online", done);
      resolve();
    };
    const timer = setTimeout(done, milliseconds);
    globalThis.addEventListener?.("online", done);
    signal.addEventListener("abort", done, { once: true });
  });
}
