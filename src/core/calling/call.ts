/** How the reply is asked for: as a stream, whole, or at once and read later. */
export type Way = "stream" | "whole" | "later";

/**
 * What a program calls with: nothing, a token of a server, a public token, which opens a visitor, or an identity that
 * the caller's own site signed.
 */
export type CallsWith = "nothing" | "server" | "public" | "site";

/** Texts by name, and among them texts by name, so that it is a literal of most languages. */
export type SampleBody = Record<string, string | Record<string, string>>;

/** One call for a reply, as a program makes it. */
export interface SampleCall {
  /** The address of the app's endpoints. */
  app: string;
  /** As it stands in the header `finch-visitor`; empty for a new visitor. */
  visitor: string;
  with: CallsWith;
  /** What it calls with, or a word in its place; empty where it calls with nothing. */
  token: string;
  way: Way;
  body: SampleBody;
}

/** The address that it calls. */
export function addressOf({ app }: SampleCall): string {
  return `${app}/replies`;
}

/** The headers of a call, in lower case. */
export function headersOf({ visitor, token, way }: SampleCall): Record<string, string> {
  return {
    ...(token === "" ? {} : { authorization: `Bearer ${token}` }),
    "content-type": "application/json",
    ...(way === "stream" ? { accept: "text/event-stream" } : {}),
    ...(way === "later" ? { prefer: "respond-async" } : {}),
    ...(visitor === "" ? {} : { "finch-visitor": visitor }),
  };
}
