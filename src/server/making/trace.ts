const parts = 24;

/** When a text of so many characters came: `performance.now()`. */
export interface TextArrival {
  at: number;
  length: number;
}

/** Characters that arrived in each of 24 equal parts of the time from the first text to the last. */
export function traceOf(texts: readonly TextArrival[]): number[] | undefined {
  const [first, last] = [texts[0], texts.at(-1)];
  if (!first || !last || last.at === first.at) return undefined;
  const trace = new Array<number>(parts).fill(0);
  const span = (last.at - first.at) / parts;
  for (const { at, length } of texts) {
    const part = Math.min(Math.floor((at - first.at) / span), parts - 1);
    trace[part] = (trace[part] ?? 0) + length;
  }
  return trace;
}
