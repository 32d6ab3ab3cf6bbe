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

/**
 * What went wrong, as a problem document has it; `offline` where nothing answered at all, `refused-origin` where the app
 * is there and does not let pages of this origin call.
 */
export interface Failure {
  kind: string;
  detail: string;
  advice: string;
  /** Seconds after which another try makes sense. */
  retryAfter?: number;
}

/** A passage of a document that a reply cites: the mark stands in its text, in square brackets. */
export interface Citation {
  mark: string;
  /** Of the document. */
  title: string;
  text: string;
  /** Where it stands in the document. */
  where: { headings: readonly string[]; page?: number; row?: number };
}

/** A call of one of the app's tools, as far as the app tells of it. */
export interface Call {
  /** The id under which it was asked for, and its round. */
  call: string;
  round: number;
  name: string;
  arguments: unknown;
  /** `waiting`, `answered`, `declined`, `failed`, … */
  outcome: string;
  /** `leave` where it waits for you to say whether it may be made, see `allow`; `caller` where one of your tools answers it. */
  waitsFor?: string;
}

/** A tool of your own, which the model may ask for. */
export interface OwnTool {
  name: string;
  /** What the model is told of it. */
  description?: string;
  /** A JSON Schema (2020-12) of its arguments. */
  parameters?: object;
  /** Answers a call: with a text, or with what is told as JSON. Where it throws, the model is told why. */
  // biome-ignore lint/suspicious/noExplicitAny: what the schema says
  answer(given: any): unknown;
}

/** A picture that the app keeps, by the name that it gave it. */
export interface Picture {
  file: string;
  type: string;
  /** Pixels. */
  width: number;
  height: number;
}

/** A document of this visitor's own, which nobody else is answered from. */
export interface OwnDocument {
  document: string;
  title: string;
  /** Bytes. */
  size: number;
  /** Replies are made from it once it is `ready`. */
  state: "reading" | "ready" | "failed";
  /** Why it can't be read. */
  problem?: Failure;
  /** How many conversations are forgotten with it: those in which something of it was found. */
  conversations: number;
}

/** One message of the conversation. */
export interface Said {
  /** The id that the app has for it; one of our own until it has answered. */
  id: string;
  role: "visitor" | "app";
  text: string;
  /** The pictures of a message; `picture` gives what one of them shows. */
  pictures: readonly Picture[];
  /** The reply as data, as far as it goes by now, where the app answers so; null where it does not. */
  data: unknown;
  /** How a reply stands; a visitor's message is `sending` until the app has it, and `unsent` where it never had. */
  state:
    | "sending"
    | "unsent"
    | "said"
    | "waiting"
    | "arriving"
    | "complete"
    | "cut"
    | "stopped"
    | "refused"
    | "failed"
    | "interrupted";
  thought: string;
  /** The passages that a reply cites, each once. */
  cites: readonly Citation[];
  /** The calls of tools that the app tells of: all, or those that ask before they are made. */
  calls: readonly Call[];
  failure: Failure | null;
  /** Epoch milliseconds. */
  at: number;
  /** Of the reply and all that was sent for it; this and the price are null where the app does not tell them. */
  tokens: number | null;
  price: number | null;
  currency: string | null;
  /** What can be shown in its place, itself among it: other takes, or other lines; empty where there is nothing else. */
  siblings: readonly string[];
  /** As this visitor marked a reply. */
  rating: "good" | "bad" | null;
  /** Whether a person wrote a reply, or put it right. */
  isByHand: boolean;
}

/** All that a front end shows. Each change makes a new one; what did not change in it is the same object as before. */
export interface TalkState {
  /** Null until the first message was answered. */
  conversation: string | null;
  messages: readonly Said[];
  /** `away` while a reply is under way and the connection to it was lost: it is come back to by itself. */
  state: "ready" | "waiting" | "arriving" | "away";
  /** Why the last call failed that was no message: to list, to open, to forget. */
  failure: Failure | null;
  /** Whether there are earlier messages than those that are here. */
  hasEarlier: boolean;
  /** Whether one may not call: the app is closed to whoever this is, or to pages of this origin. What failed says why. */
  isRefused: boolean;
}

/** A conversation in the list of this visitor's. */
export interface Listed {
  id: string;
  opening: string;
  /** As this visitor named it. */
  title: string | null;
  updatedAt: number;
}

/** A page of the list, the latest first. */
export interface ListedPage {
  conversations: Listed[];
  /** Gives the page after this one; null at the end. */
  before: string | null;
}

/** An event of a reply as it came. More kinds than these may come: pass over those that you don't know. */
export interface TalkEvent {
  id: number;
  event: string;
  // biome-ignore lint/suspicious/noExplicitAny: what the app sends, as its description says
  data: any;
}

/** Where the app is, and who calls. */
export interface TalkOptions {
  /** The address of its endpoints: `…/api/apps/{slug}`. */
  app: string;
  /** The name of this front end, by which its calls are told from others. */
  client?: string;
  /** The visitor's name: on the app's own machine, or beside a server token. */
  visitor?: string;
  /**
   * A token, an identity that your site signed, or what gives one: it is asked at first, and again when that is over. A
   * public token opens a visitor, which `keep` remembers.
   */
  token?: string | (() => string | Promise<string>);
  /** Headers of your own for each call, such as those that a proxy of yours asks for. */
  headers?: Record<string, string>;
  /** What is kept for the next visit: the conversation, and the pass of a visitor. `localStorage`, as a rule. */
  keep?: Pick<Storage, "getItem" | "setItem" | "removeItem">;
  /** Values for those variables of the prompt that the app leaves to its calls. */
  variables?: Record<string, string>;
  /** A model or settings that the app lets callers choose. */
  with?: object;
  /** Tools of your own, where the app lets callers bring some along. */
  tools?: readonly OwnTool[];
  /** A JSON Schema (2020-12) that replies have to fit, where the app lets callers bring one along. */
  schema?: object;
  /** Is called with each event of a reply as it comes. */
  onEvent?: (event: TalkEvent) => void;
  /** For front ends that come with Unruly Finch: which one it is, and the badge that it was given, epoch milliseconds. */
  badge?: { of: "page" | "frame" | "terminal"; badge?: string; until?: number };
}

/** A conversation with an app. */
export interface Talk {
  readonly state: TalkState;
  /** Calls back at each change, and once at first. Gives what ends that. */
  watch(watcher: (state: TalkState) => void): () => void;
  /**
   * Says something, with pictures that were kept before, and resolves when the reply has ended. False where it was not
   * taken: then it is still yours.
   */
  say(text: string, pictures?: readonly Picture[]): Promise<boolean>;
  /** Keeps a picture for a message that is to be said, where the app takes some. @throws {Error} with its `failure` */
  keepPicture(picture: Blob): Promise<Picture>;
  /** What a picture shows that was kept, or that stands in a conversation. @throws {Error} with its `failure` */
  picture(file: string): Promise<Blob>;
  /** This visitor's documents. @throws {Error} with its `failure` */
  documents(): Promise<OwnDocument[]>;
  /** Hands in a file that this visitor alone is answered from, where the app takes some. @throws {Error} with its `failure` */
  handIn(file: Blob, name: string): Promise<OwnDocument>;
  /** Hands in what stands at an address. @throws {Error} with its `failure` */
  handInAddress(url: string): Promise<OwnDocument>;
  /** Forgets a document, with the conversations in which something of it was found. @throws {Error} with its `failure` */
  forgetDocument(document: string): Promise<void>;
  /** Says the last message once more, in its place, after it or its reply failed. */
  retry(): Promise<boolean>;
  /** Asks for another reply to the last message, in the place of the one that is there. */
  again(): Promise<boolean>;
  /** Goes on from a reply that was cut, stopped or interrupted. */
  goOn(): Promise<boolean>;
  /** Shows another take, or another line: that of a message which can be shown in the place of one that is. */
  show(message: string): Promise<void>;
  /** Names a conversation; null takes the name away. */
  name(conversation: string, title: string | null): Promise<void>;
  /** Marks a reply as good or bad, or takes the mark away. */
  rate(reply: string, rating: Said["rating"]): Promise<void>;
  /** Says whether a call may be made that waits for that; true where it was taken. */
  allow(call: string, isAllowed: boolean): Promise<boolean>;
  /** Stops the reply. */
  stop(): Promise<void>;
  /** Opens a conversation, in the middle of a reply if need be; without an id the one that was kept. */
  open(conversation?: string): Promise<void>;
  /** Fetches the messages before those that are here. */
  earlier(): Promise<void>;
  /** Begins a new conversation. */
  begin(): void;
  /** A page of this visitor's conversations: the first, or the one that the page before it names. */
  list(before?: string): Promise<ListedPage>;
  /** Deletes a conversation. */
  remove(conversation: string): Promise<void>;
  /** Forgets all that this visitor ever said, and its documents. */
  forget(): Promise<void>;
  /** Lets go of the connection. */
  close(): void;
}

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
/** Milliseconds after which a badge is renewed; it holds for ten minutes. */
const badgeAge = 9 * 60_000;
const isJson = { "content-type": "application/json" };
/** Kinds of failure that say that one may not call. */
const refusals = ["forbidden", "unknown-caller", "refused-origin"];

/** What stands behind a reply that was not asked for here. */
const readNothing = () => Promise.reject(new Error("It was asked for elsewhere."));

class Failed extends Error {
  constructor(readonly failure: Failure) {
    super(failure.detail);
  }
}

/** Opens a conversation with an app; nothing is sent until something is said or asked for. */
export function openTalk(options: TalkOptions): Talk {
  const { app, client, visitor, keep } = options;
  const kept = (what: string) => `finch ${what} ${app}`;
  let state = empty;
  let pass = keep?.getItem(kept("pass")) ?? undefined;
  /** Whether the pass has to be renewed before it is good again. */
  let isPassOver = false;
  let bearer: string | undefined;
  let badge = options.badge?.badge;
  // the page comes with the badge of a page, and trades it for that of a frame
  let badgeUntil =
    options.badge?.of === "page" ? Math.min((options.badge.until ?? 0) - 60_000, Date.now() + badgeAge) : 0;
  let hasAnswered = false;
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

  function keepPass(given: string | undefined): void {
    pass = given;
    isPassOver = false;
    if (given === undefined) keep?.removeItem(kept("pass"));
    else keep?.setItem(kept("pass"), given);
  }

  /** The headers that say who calls. */
  async function identity(): Promise<Record<string, string>> {
    const named: Record<string, string> = { ...options.headers };
    if (client) named["finch-client"] = client;
    if (visitor) named["finch-visitor"] = visitor;
    bearer ??= typeof options.token === "function" ? await options.token() : options.token;
    if (bearer?.startsWith("finch_public_") && (!pass || isPassOver)) await openVisitor(named, bearer);
    const shown = bearer && !bearer.startsWith("finch_public_") ? bearer : pass;
    if (shown) named.authorization = `Bearer ${shown}`;
    if (options.badge) named["finch-badge"] = await badgeNow(named);
    return named;
  }

  /** Has the visitor of a public token go on, or opens one. */
  async function openVisitor(named: Record<string, string>, token: string): Promise<void> {
    const open = (body: object) =>
      send("visitors", {
        method: "POST",
        body: JSON.stringify(body),
        headers: { ...named, ...isJson, authorization: `Bearer ${token}` },
      });
    const opened = pass
      ? await open({ pass }).catch((error) => {
          if (kindOf(error) !== "unknown-caller") throw error;
          return open({});
        })
      : await open({});
    keepPass(((await opened.json()) as { pass: string }).pass);
  }

  /** The badge of a front end of ours, renewed before its end. */
  async function badgeNow(named: Record<string, string>): Promise<string> {
    if (badge && Date.now() < badgeUntil) return badge;
    const shown: Record<string, string> = badge ? { "finch-badge": badge } : {};
    const headers = { ...named, ...isJson, ...shown };
    const given = await send("badges", { method: "POST", body: JSON.stringify({ of: options.badge?.of }), headers });
    badge = ((await given.json()) as { badge: string }).badge;
    badgeUntil = Date.now() + badgeAge;
    return badge;
  }

  /** Has what says who calls made anew, where it can be. @returns whether another try makes sense */
  function renew(): boolean {
    const canRenew = options.badge !== undefined || typeof options.token === "function" || pass !== undefined;
    badgeUntil = 0;
    if (typeof options.token === "function") bearer = undefined;
    if (bearer?.startsWith("finch_public_")) isPassOver = true;
    else if (pass) keepPass(undefined);
    return canRenew;
  }

  async function send(path: string, init: RequestInit): Promise<Response> {
    let response: Response;
    try {
      response = await fetch(`${app}/${path}`, { credentials: "include", ...init });
    } catch (error) {
      if (init.signal?.aborted) throw error;
      throw new Failed(await silence());
    }
    hasAnswered = true;
    const given = response.headers.get("finch-pass");
    if (given) keepPass(given);
    if (response.ok) return response;
    const unreadable = { kind: "internal", detail: `The answer has status ${response.status}.`, advice: "Try again." };
    throw new Failed(((await response.json().catch(() => undefined)) as Failure) ?? unreadable);
  }

  /** Why nothing answered. Of a refused origin a browser says no more than of a dead network: so the app is looked for. */
  async function silence(): Promise<Failure> {
    const own = globalThis.location?.origin;
    const isElsewhere = own !== undefined && new URL(app, globalThis.location.href).origin !== own;
    const isThere = isElsewhere && !hasAnswered && (await isAnswering(`${app}/openapi.json`));
    return isThere
      ? {
          kind: "refused-origin",
          detail: `Pages of ${own} may not call this app.`,
          advice: "Whoever runs the app can allow this origin in Serve.",
        }
      : { kind: "offline", detail: "Nothing answers.", advice: "Look at the connection, then try again." };
  }

  /** A call as whoever this is; what says so is made anew once where it is over. */
  async function call(path: string, init: RequestInit = {}, isSecond = false): Promise<Response> {
    try {
      const response = await send(path, { ...init, headers: { ...init.headers, ...(await identity()) } });
      if (state.isRefused) set({ isRefused: false });
      return response;
    } catch (error) {
      if (kindOf(error) === "unknown-caller" && !isSecond && renew()) return call(path, init, true);
      if (refusals.includes(kindOf(error))) set({ isRefused: true });
      throw error;
    }
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
    if (conversation === null) keep?.removeItem(kept("conversation"));
    else if (conversation !== state.conversation) keep?.setItem(kept("conversation"), conversation);
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
    async open(conversation = keep?.getItem(kept("conversation")) ?? undefined) {
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
        keepPass(undefined);
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

/** A message as the app gives it. */
interface Stored {
  id: string;
  role: "visitor" | "app";
  state?: Said["state"];
  pieces: readonly (
    | ({ kind: "tool"; text?: undefined } & Call)
    | { kind: "data"; text?: undefined; value: unknown }
    | ({ kind: "picture"; text?: undefined } & Picture)
    | { kind: "other"; text?: string }
  )[];
  at: number;
  cursor?: number;
  siblings?: string[];
  rating?: Said["rating"];
  facts?: {
    hand?: string;
    thought?: string;
    cites?: Citation[];
    problem?: Failure;
    usage?: Usage;
  };
}

/** What a reply cost, as far as the app tells it. */
interface Usage {
  input?: number;
  output?: number;
  price?: number;
  currency?: string;
}

interface Page {
  messages: Stored[];
  before: string | null;
}

function saidOf({ id, role, state = "said", pieces, at, siblings = [], rating = null, facts }: Stored): Said {
  const { thought = "", cites = [], problem = null, usage, hand } = facts ?? {};
  return {
    id,
    role,
    text: pieces.map(({ text = "" }) => text).join(""),
    pictures: pieces.filter((piece) => piece.kind === "picture"),
    data: pieces.reduce<unknown>((data, piece) => (piece.kind === "data" ? piece.value : data), null),
    state,
    thought,
    cites,
    calls: pieces.reduce<readonly Call[]>(
      (calls, piece) => (piece.kind === "tool" ? withCall(calls, piece) : calls),
      [],
    ),
    failure: problem,
    at,
    ...costOf(usage ?? {}),
    siblings,
    rating,
    isByHand: hand !== undefined,
  };
}

/** A message of a text and pictures, as the app takes it. */
function messageOf(text: string, pictures: readonly Picture[]): unknown {
  if (pictures.length === 0) return text;
  const words = text.trim() === "" ? [] : [{ kind: "text", text }];
  return [...pictures.map(({ file }) => ({ kind: "picture", file })), ...words];
}

/** Calls with what is newly known of one of them. */
function withCall(
  calls: readonly Call[],
  { call, round, name, arguments: given, outcome, waitsFor }: Call,
): readonly Call[] {
  const next = { call, round, name, arguments: given, outcome, waitsFor };
  const at = calls.findIndex((each) => each.call === call && each.round === round);
  return at < 0 ? [...calls, next] : calls.map((each, place) => (place === at ? next : each));
}

function costOf({ input, output, price, currency }: Usage) {
  const tokens = input === undefined || output === undefined ? null : input + output;
  return { tokens, price: price ?? null, currency: currency ?? null };
}

function withoutUnsent(messages: readonly Said[]): readonly Said[] {
  return messages.at(-1)?.state === "unsent" ? messages.slice(0, -1) : messages;
}

function failureOf(error: unknown): Failure {
  if (error instanceof Failed) return error.failure;
  return { kind: "internal", detail: String(error), advice: "Try again." };
}

function kindOf(error: unknown): string {
  return error instanceof Failed ? error.failure.kind : "";
}

/** Whether something answers at an address, whatever that is. */
function isAnswering(address: string): Promise<boolean> {
  return fetch(address, { mode: "no-cors" }).then(
    () => true,
    () => false,
  );
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

/** The events of a stream (https://html.spec.whatwg.org/multipage/server-sent-events.html), as far as the app uses them. */
async function* eventsOf(response: Response): AsyncGenerator<TalkEvent> {
  const reader = response.body?.pipeThrough(new TextDecoderStream()).getReader();
  if (!reader) return;
  let rest = "";
  try {
    for (;;) {
      const { value, done } = await reader.read();
      if (done) return;
      const blocks = (rest + value).split("\n\n");
      rest = blocks.pop() ?? "";
      for (const block of blocks) {
        const fields = Object.fromEntries(block.split("\n").map((line) => line.split(/: (.*)/s, 2)));
        if (fields.data !== undefined)
          yield { id: +(fields.id ?? 0), event: fields.event ?? "", data: read(fields.data) };
      }
    }
  } finally {
    reader.cancel().catch(() => undefined);
  }
}

/** The data of an event; undefined where it is no JSON, as that of a kind which is not known here may be. */
function read(data: string): unknown {
  try {
    return JSON.parse(data);
  } catch {
    return undefined;
  }
}
