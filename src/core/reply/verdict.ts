/** When something arrived: milliseconds after the start, and how much. */
export type Arrival = readonly [at: number, length: number];

/** How a stream came, as seen from its two ends. */
export interface Verdict {
  kind: "steady" | "at once" | "held back by the provider" | "held back on the way" | "unknown";
  /** How it came, in a sentence. */
  saying: string;
}

/** Milliseconds over which text has to be spread to be called a stream. */
const spread = 150;
/** The share of the text that makes a burst when it comes within a twentieth of the time. */
const burst = 0.8;

/**
 * Judges a stream from its arrival times at the server and, where they are known, at the reader.
 * @param streams whether the provider was asked to stream
 */
export function verdictOf(server: readonly Arrival[], reader: readonly Arrival[] | null, streams: boolean): Verdict {
  const total = server.reduce((sum, [, length]) => sum + length, 0);
  if (total === 0) return { kind: "unknown", saying: "Nothing arrived." };
  const first = server[0] as Arrival;
  const last = server.at(-1) as Arrival;
  const parts = `${server.length} ${server.length === 1 ? "part" : "parts"}`;
  if (!streams)
    return { kind: "at once", saying: `This API does not stream: the whole answer came after ${seconds(last[0])}.` };
  if (isBurst(server) && last[0] >= spread && total > 400)
    return {
      kind: "held back by the provider",
      saying: `It arrived at the server in one burst after ${seconds(last[0])}: the provider, or something before the server, holds the stream back.`,
    };
  const came = `It arrived at the server bit by bit, in ${parts} over ${seconds(last[0] - first[0])}`;
  if (last[0] - first[0] < spread)
    return {
      kind: "at once",
      saying: `It arrived at the server in ${parts} within ${seconds(last[0] - first[0])}, too fast to tell a stream from a burst.`,
    };
  if (!reader || reader.length === 0)
    return { kind: "steady", saying: `${came}. How it reached its reader is not known.` };
  const end = reader.at(-1) as Arrival;
  if (isBurst(reader))
    return {
      kind: "held back on the way",
      saying: `${came}, at the browser in one burst after ${seconds(end[0])}: something between them holds the stream back.`,
    };
  return {
    kind: "steady",
    saying: `${came}, and at the browser in ${reader.length} over ${seconds(end[0] - (reader[0] as Arrival)[0])}.`,
  };
}

/** Whether most of what came did so at one moment, late. */
function isBurst(arrivals: readonly Arrival[]): boolean {
  const total = arrivals.reduce((sum, [, length]) => sum + length, 0);
  const end = (arrivals.at(-1) as Arrival)[0];
  const late = arrivals
    .filter(([at]) => at >= end - Math.max(end / 20, 10))
    .reduce((sum, [, length]) => sum + length, 0);
  return late >= total * burst;
}

function seconds(ms: number): string {
  return `${(ms / 1000).toFixed(ms < 10_000 ? 2 : 1)} s`;
}
