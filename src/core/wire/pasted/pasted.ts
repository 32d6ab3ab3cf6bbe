/** A request as it was pasted. */
export interface PastedRequest {
  method: string;
  /** Absolute; begun by a variable that holds the address; or empty where only a body was pasted. */
  url: string;
  /** By names as written. */
  headers: [name: string, value: string][];
  body: string;
  /** `user:password`, where the command gives one; without a colon where the password would be asked for. */
  user?: string;
  /** What was read otherwise than it stands, or left out, in whole sentences. */
  notes?: string[];
}

/** Thrown for a text that holds no request; the message says what was expected. */
export class NotARequest extends Error {}

/** The variable in which an address stands, and what is written behind it; undefined where it is written out. */
export function variableIn(url: string): { variable: string; rest: string } | undefined {
  const [begun, plain, braced] = /^\$(?:([A-Za-z_]\w*)|\{([A-Za-z_]\w*)[^}]*\})(?=[/?#]|$)/.exec(url) ?? [];
  return begun === undefined ? undefined : { variable: plain ?? braced ?? "", rest: url.slice(begun.length) };
}
