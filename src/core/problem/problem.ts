/**
 * The catalogue of everything that can go wrong on the way of a message: one entry a kind, with
 * the HTTP status a caller gets, a title, and what to do about it. Problem documents (RFC 9457)
 * are made from it at the border, and nowhere else.
 */
const catalogue = {
  unreachable: [502, "The provider could not be reached", "Check the provider's address, and that it is running."],
  "bad-reply": [
    502,
    "The provider's answer could not be read",
    "Compare the answer with the wire profile of the provider.",
  ],
  "broken-off": [502, "The reply broke off", "What arrived is kept. Send the message again."],
  empty: [502, "The reply was empty", "Send the message again; if it stays empty, look at the model's settings."],
  "no-recording": [502, "There is no recording of this call", "Record it first, or call the provider itself."],
  unauthorised: [
    502,
    "The provider did not accept the key",
    "Check the environment variable that holds the provider's key.",
  ],
  "not-allowed": [502, "The provider does not allow this call", "Check what the key may do at the provider."],
  "unknown-model": [502, "The provider does not know this model", "Choose a model that the provider lists."],
  misconfigured: [
    502,
    "The provider is not set up for this call",
    "Complete the provider's settings on the Providers page.",
  ],
  "timed-out": [504, "The provider took too long", "Send the message again, or raise the time limit that ran out."],
  "rate-limited": [503, "The provider asks to slow down", "Wait as long as it says, then send the message again."],
  overloaded: [503, "The provider is overloaded", "Wait a little, then send the message again."],
  interrupted: [
    503,
    "The server stopped while this reply was arriving",
    "What arrived is kept. Go on from it with goOn.",
  ],
  busy: [409, "A reply is still arriving in this conversation", "Wait for it, stop it, or branch with `after`."],
  "bad-request": [400, "The call is not as expected", "Change the call as the detail says."],
  "not-there-yet": [501, "This part does not exist yet", "Leave it out of the call."],
  forbidden: [403, "The call comes from where it may not", "Call the address that was printed at the start."],
  "not-found": [404, "There is nothing at this address", "Check the address."],
  "wrong-method": [405, "The method does not fit this address", "Use one of the methods in the Allow header."],
  conflict: [409, "This does not go together with what is stored", "Change the call as the detail says."],
  "too-large": [413, "The body is too large", "Send at most 1 MiB."],
  "too-long": [
    422,
    "The message does not fit into the context window",
    "Shorten it, or choose a model with a larger window.",
  ],
  "key-reused": [422, "The idempotency key belongs to another body", "Use a new Idempotency-Key for a new call."],
  "over-limit": [429, "The app's own limit is reached", "Wait until the limit starts anew."],
  "no-storage": [
    507,
    "The data folder can't be written",
    "Look at the disk and the rights of the data folder; nothing that was stored is lost.",
  ],
  closing: [503, "Unruly Finch is being stopped", "Send the call again once it has been started anew."],
  internal: [500, "Something went wrong in Unruly Finch", "Send the message again; the terminal has the details."],
} as const satisfies Record<string, readonly [status: number, title: string, advice: string]>;

/** The name of a failure; the key of the catalogue. */
export type ProblemKind = keyof typeof catalogue;

/** All kinds, for schemas. */
export const problemKinds = Object.keys(catalogue) as [ProblemKind, ...ProblemKind[]];

/** One failure: its kind, and what happened this time in a sentence. */
export interface Problem {
  kind: ProblemKind;
  /** What happened and why, this time; never holds a credential. */
  detail: string;
  /** What to do; the catalogue's advice unless the place knows better. */
  advice: string;
  /** Seconds after which another try makes sense, where the provider said so. */
  retryAfter?: number;
}

/** A problem of a kind, with the catalogue's advice unless better is given. */
export function problem(
  kind: ProblemKind,
  detail: string,
  more: Partial<Omit<Problem, "kind" | "detail">> = {},
): Problem {
  return { kind, detail, advice: catalogue[kind][2], ...more };
}

/** Failures between Unruly Finch and a provider, or inside of it: whoever runs the app is told why, its callers only that. */
const inner: ReadonlySet<ProblemKind> = new Set<ProblemKind>([
  "unreachable",
  "bad-reply",
  "broken-off",
  "empty",
  "no-recording",
  "unauthorised",
  "not-allowed",
  "unknown-model",
  "misconfigured",
  "timed-out",
  "rate-limited",
  "overloaded",
  "no-storage",
  "internal",
]);

/** Whether a kind of failure is none of a caller's doing, and none of a caller's business in detail. */
export function isInner(kind: ProblemKind): boolean {
  return inner.has(kind);
}

/** The HTTP status that a caller who asked for the whole answer gets. */
export function statusOf(kind: ProblemKind): number {
  return catalogue[kind][0];
}

/** The short title of a kind, in sentence case. */
export function titleOf(kind: ProblemKind): string {
  return catalogue[kind][1];
}
