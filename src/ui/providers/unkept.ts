/** An answer to read, and where it comes from. */
export interface ShownAnswer {
  text: string;
  contentType: string;
  from: string;
}

/** What was done with a provider and is not kept on the server. */
export interface Unkept {
  /** Its profile, as it is being edited. */
  profile?: string;
  /** The answer that was asked for or pasted. */
  answer?: ShownAnswer;
}

const all = new Map<string, Unkept>();

/** What is not kept of a provider, so that nothing typed is lost when another view is looked at. */
export function unkeptOf(provider: string): Unkept {
  return all.get(provider) ?? {};
}

export function setUnkept(provider: string, change: Unkept): void {
  all.set(provider, { ...unkeptOf(provider), ...change });
}
