type Keep = Pick<Storage, "getItem" | "setItem" | "removeItem">;
type Listener = () => void;

/**
 * What is typed and not sent yet, each text under the name of its conversation: kept by the browser from letter to
 * letter, or for as long as the page lives where the browser keeps nothing.
 */
export class KeptTexts {
  /** Texts that are shown, and those that the browser could not keep. */
  private readonly texts = new Map<string, string>();
  private readonly listeners = new Map<string, Set<Listener>>();

  constructor(private readonly keep: () => Keep) {}

  read(name: string): string {
    const text = this.texts.get(name) ?? this.stored(name);
    if (this.listeners.has(name)) this.texts.set(name, text);
    return text;
  }

  write(name: string, text: string): void {
    this.texts.set(name, text);
    try {
      if (text === "") this.keep().removeItem(name);
      else this.keep().setItem(name, text);
      if (!this.listeners.has(name)) this.texts.delete(name);
    } catch (error) {
      console.warn(`What is typed is not kept across a reload: ${error}`);
    }
    for (const listener of this.listeners.get(name) ?? []) listener();
  }

  /** Puts a text that was not taken before what was typed since. */
  giveBack(name: string, text: string): void {
    const since = this.read(name);
    this.write(name, since === "" ? text : `${text}\n${since}`);
  }

  /** Tells of each change of a text; returns how to leave. */
  subscribe(name: string, listener: Listener): () => void {
    const all = this.listeners.get(name) ?? new Set();
    this.listeners.set(name, all.add(listener));
    return () => {
      all.delete(listener);
      if (all.size > 0) return;
      this.listeners.delete(name);
      // another tab may change what the browser keeps
      if (this.stored(name) === this.texts.get(name)) this.texts.delete(name);
    };
  }

  private stored(name: string): string {
    try {
      return this.keep().getItem(name) ?? "";
    } catch {
      // a browser that keeps nothing has nothing
      return "";
    }
  }
}
