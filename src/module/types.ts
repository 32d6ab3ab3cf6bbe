// What a front end is given and gives: the words of the module.

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
