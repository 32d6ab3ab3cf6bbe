/** A request as it was pasted. */
export interface PastedRequest {
  method: string;
  /** Absolute, or empty where only a body was pasted. */
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
