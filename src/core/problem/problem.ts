import { z } from "zod";

/** What is the same for all failures of a kind. */
interface Entry {
  /** The HTTP status that a caller who asked for the whole answer gets. */
  status: number;
  /** In sentence case. */
  title: string;
  /** What failed, in a word or two. */
  word: string;
  /** What to do. */
  advice: string;
  /** The call of the model failed, and not the reply to it. */
  isCall?: true;
  /** Between Unruly Finch and a provider, or inside of it: whoever runs the app is told why, its callers only that. */
  isInner?: true;
}

/**
 * The catalogue of everything that can go wrong on the way of a message: one entry a kind, with
 * the HTTP status a caller gets, a title, and what to do about it. Problem documents (RFC 9457)
 * are made from it at the border, and nowhere else.
 */
const catalogue = {
  unreachable: {
    status: 502,
    title: "The provider could not be reached",
    word: "unreachable",
    advice: "Check the provider's address, and that it is running.",
    isCall: true,
    isInner: true,
  },
  "bad-reply": {
    status: 502,
    title: "The provider's answer could not be read",
    word: "unreadable answer",
    advice: "Compare the answer with the wire profile of the provider.",
    isInner: true,
  },
  "broken-off": {
    status: 502,
    title: "The reply broke off",
    word: "broken off",
    advice: "What arrived is kept. Send the message again.",
    isInner: true,
  },
  empty: {
    status: 502,
    title: "The reply was empty",
    word: "empty",
    advice: "Send the message again; if it stays empty, look at the model's settings.",
    isInner: true,
  },
  "only-tools": {
    status: 502,
    title: "The model asked for tools alone, and may not ask for any",
    word: "asked for tools alone",
    advice: "Offer it tools, or say in the prompt that there are none.",
    isInner: true,
  },
  unfit: {
    status: 502,
    title: "The reply does not fit its schema",
    word: "does not fit",
    advice: "What it said is kept. Say more in the prompt, make the schema simpler, or choose a more careful model.",
  },
  "too-many-rounds": {
    status: 502,
    title: "The model asked for tools again and again",
    word: "too many rounds",
    advice: "What it said is kept. Allow more rounds, or say in the prompt when it has enough.",
    isInner: true,
  },
  "no-recording": {
    status: 502,
    title: "There is no recording of this call",
    word: "no recording",
    advice: "Record it first, or call the provider itself.",
    isInner: true,
  },
  unauthorised: {
    status: 502,
    title: "The provider did not accept the key",
    word: "key not accepted",
    advice: "Check the provider's key, on the Providers page.",
    isCall: true,
    isInner: true,
  },
  "not-allowed": {
    status: 502,
    title: "The provider does not allow this call",
    word: "not allowed",
    advice: "Check what the key may do at the provider.",
    isCall: true,
    isInner: true,
  },
  "unknown-model": {
    status: 502,
    title: "The provider does not know this model",
    word: "unknown model",
    advice: "Choose a model that the provider lists.",
    isCall: true,
    isInner: true,
  },
  misconfigured: {
    status: 502,
    title: "The provider is not set up for this call",
    word: "not set up",
    advice: "Complete the provider's settings on the Providers page.",
    isCall: true,
    isInner: true,
  },
  reported: {
    status: 502,
    title: "The provider reported an error",
    word: "reported an error",
    advice: "Give its code a meaning in the wire profile of the provider, at answer.problem.codes.",
    isInner: true,
  },
  "timed-out": {
    status: 504,
    title: "The provider took too long",
    word: "took too long",
    advice: "Send the message again, or raise the time limit that ran out.",
    isCall: true,
    isInner: true,
  },
  "rate-limited": {
    status: 503,
    title: "The provider asks to slow down",
    word: "asked to slow down",
    advice: "Wait as long as it says, then send the message again.",
    isCall: true,
    isInner: true,
  },
  overloaded: {
    status: 503,
    title: "The provider is overloaded",
    word: "overloaded",
    advice: "Wait a little, then send the message again.",
    isCall: true,
    isInner: true,
  },
  "at-capacity": {
    status: 503,
    title: "As many calls are under way as the provider takes",
    word: "at capacity",
    advice: "It goes out when one of them has ended.",
  },
  interrupted: {
    status: 503,
    title: "The server was stopped before this was done",
    word: "interrupted",
    advice: "What arrived is kept. Go on from it with goOn.",
  },
  busy: {
    status: 409,
    title: "A reply is still arriving in this conversation",
    word: "busy",
    advice: "Wait for it, stop it, or branch with `after`.",
  },
  "bad-request": {
    status: 400,
    title: "The call is not as expected",
    word: "not as expected",
    advice: "Change the call as the detail says.",
  },
  forbidden: {
    status: 403,
    title: "The call comes from where it may not",
    word: "forbidden",
    advice: "Call the address that was printed at the start.",
  },
  "unknown-caller": {
    status: 401,
    title: "It is not known who calls",
    word: "not known",
    advice: "Send a token that was made in Serve.",
  },
  "not-found": {
    status: 404,
    title: "There is nothing at this address",
    word: "not found",
    advice: "Check the address.",
  },
  "wrong-method": {
    status: 405,
    title: "The method does not fit this address",
    word: "wrong method",
    advice: "Use one of the methods in the Allow header.",
  },
  conflict: {
    status: 409,
    title: "This does not go together with what is stored",
    word: "conflict",
    advice: "Change the call as the detail says.",
  },
  worse: {
    status: 409,
    title: "Checks are worse than with the live revision",
    word: "worse",
    advice: "Look at them in Checks, or make it live all the same.",
  },
  "too-large": { status: 413, title: "The body is too large", word: "too large", advice: "Send at most 1 MiB." },
  "too-long": {
    status: 422,
    title: "The message does not fit into the context window",
    word: "too long",
    advice: "Shorten it, or choose a model with a larger window.",
  },
  "no-place": {
    status: 422,
    title: "The provider's request has no place for a part of the message",
    word: "no place for it",
    advice: "Choose another model, or give it a place in the wire profile of the provider.",
  },
  "key-reused": {
    status: 422,
    title: "The idempotency key belongs to another body",
    word: "key used before",
    advice: "Use a new Idempotency-Key for a new call.",
  },
  "over-limit": {
    status: 429,
    title: "The app's own limit is reached",
    word: "over the limit",
    advice: "Wait until the limit starts anew.",
  },
  "no-storage": {
    status: 507,
    title: "The data folder can't be written",
    word: "can't be stored",
    advice: "Look at the disk and the rights of the data folder; nothing that was stored is lost.",
    isInner: true,
  },
  closing: {
    status: 503,
    title: "Unruly Finch is being stopped",
    word: "being stopped",
    advice: "Send the call again once it has been started anew.",
  },
  away: {
    status: 503,
    title: "Unruly Finch does not answer",
    word: "does not answer",
    advice: "See whether it still runs in its terminal; nothing you typed is lost.",
  },
  internal: {
    status: 500,
    title: "Something went wrong in Unruly Finch",
    word: "something went wrong",
    advice: "Send the message again; the terminal has the details.",
    isInner: true,
  },
} as const satisfies Record<string, Entry>;

/** The name of a failure; the key of the catalogue. */
export type ProblemKind = keyof typeof catalogue;

/** All kinds, for schemas. */
export const problemKinds = Object.keys(catalogue) as [ProblemKind, ...ProblemKind[]];

/** What a failure of a provider can be: the kinds that a wire profile may take its errors for. */
export const providerKinds = [
  "unauthorised",
  "not-allowed",
  "unknown-model",
  "misconfigured",
  "rate-limited",
  "overloaded",
  "timed-out",
  "too-long",
  "bad-request",
  "bad-reply",
  "empty",
  "broken-off",
  "reported",
] as const satisfies ProblemKind[];

/** One failure: its kind, and what happened this time in a sentence. */
export const problemSchema = z.object({
  kind: z.enum(problemKinds),
  /** What happened and why, this time; never holds a credential. */
  detail: z.string(),
  /** What to do; the catalogue's advice unless the place knows better. */
  advice: z.string(),
  /** Seconds after which another try makes sense, where the provider said so. */
  retryAfter: z.number().optional(),
});
export type Problem = z.infer<typeof problemSchema>;

/** A problem of a kind, with the catalogue's advice unless better is given. */
export function problem(
  kind: ProblemKind,
  detail: string,
  more: Partial<Omit<Problem, "kind" | "detail">> = {},
): Problem {
  return { kind, detail, advice: entryOf(kind).advice, ...more };
}

/** Whether a kind of failure is none of a caller's doing, and none of a caller's business in detail. */
export function isInner(kind: ProblemKind): boolean {
  return entryOf(kind).isInner ?? false;
}

/** The HTTP status that a caller who asked for the whole answer gets. */
export function statusOf(kind: ProblemKind): number {
  return entryOf(kind).status;
}

/** The short title of a kind, in sentence case. */
export function titleOf(kind: ProblemKind): string {
  return entryOf(kind).title;
}

/** The kind in a word or two, as it stands in a list or behind a colon. */
export function wordFor(kind: ProblemKind): string {
  return entryOf(kind).word;
}

/** Whether a kind of failure is one of the call of a model, before there is any reply. */
export function failsCall(kind: ProblemKind): boolean {
  return entryOf(kind).isCall ?? false;
}

function entryOf(kind: ProblemKind): Entry {
  return catalogue[kind];
}
