/** How the reply is asked for: as a stream, whole, or at once and read later. */
export type Way = "stream" | "whole" | "later";

/** One call for a reply, as a program makes it. */
export interface SampleCall {
  /** The address of the app's replies. */
  url: string;
  /** As it stands in the header `finch-visitor`; empty for a new visitor. */
  visitor: string;
  way: Way;
  /** Texts alone, so that it is a literal of most languages. */
  body: Record<string, string>;
}

/** The headers of a call, in lower case. */
export function headersOf({ visitor, way }: SampleCall): Record<string, string> {
  return {
    "content-type": "application/json",
    ...(way === "stream" ? { accept: "text/event-stream" } : {}),
    ...(way === "later" ? { prefer: "respond-async" } : {}),
    ...(visitor === "" ? {} : { "finch-visitor": visitor }),
  };
}
