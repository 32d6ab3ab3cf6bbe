import type { ReadEvent } from "../../reply/events";
import { createDecoder } from "../decode";
import { type CompiledProfile, compileProfile } from "../profile";
import { samples } from "./samples";

/** A number from 0 up to, and without, `most`. */
export type Draw = (most: number) => number;

/** Draws the same numbers for the same seed, by a linear congruential generator. */
export function drawFrom(seed: number): Draw {
  let state = seed;
  return (most) => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return Math.floor((state / 2 ** 32) * most);
  };
}

const utf8 = new TextEncoder();
const bytesOf = (text: string) => [...utf8.encode(text)];

/** Signs that mean something to a framing or to JSON. */
const marks = bytesOf('{}[]",:\n\r\\ x0é');
/** Numbers that JSON may hold and few expect. */
const oddNumbers = [
  "1e400",
  "-1e400",
  "-0",
  "1e-400",
  "99999999999999999999",
  "0.1e1",
  "-",
  "01",
  "NaN",
  "1.7976931348623157e308",
].map(bytesOf);
/** Bytes that are no character, or no usual one: a lone half, an overlong form, marks of order, nothing at all. */
const oddBytes = [
  [0x00],
  [0xff],
  [0xc0, 0xaf],
  [0xed, 0xa0, 0xbd],
  [0xef, 0xbb, 0xbf],
  [0xf0, 0x9f, 0x9a],
  [0xe2, 0x80, 0xa8],
  [0x1e],
  [0x0d],
  ...[
    '"\\ud83d"',
    '"\\udeb2"',
    "event:",
    "data:",
    "data: [DONE]\n\n",
    "id: 3\n",
    "retry: 1\n",
    "null",
    '"error":',
    "{}",
    "[]",
  ].map(bytesOf),
];

/** Bytes of an answer with one to four things done to them: changed, dropped, doubled, moved, put in, nested, cut off. */
export function mutated(bytes: Uint8Array, draw: Draw): Uint8Array {
  let result = [...bytes];
  for (let times = draw(4) + 1; times > 0; times--) {
    const at = draw(result.length + 1);
    const length = draw(24);
    const stretch = result.slice(at, at + length);
    const put = (more: readonly number[]) => result.splice(at, 0, ...more);
    const pick = <T>(all: readonly T[]) => all[draw(all.length)] as T;
    switch (draw(9)) {
      case 0:
        if (at < result.length) result[at] = draw(256);
        break;
      case 1:
        result.splice(at, length);
        break;
      case 2:
        put(stretch);
        break;
      case 3:
        result.splice(draw(result.length + 1), 0, ...result.splice(at, length));
        break;
      case 4:
        put(Array.from({ length: draw(4) + 1 }, () => pick(marks)));
        break;
      case 5:
        put(pick(oddNumbers));
        break;
      case 6:
        put(pick(oddBytes));
        break;
      case 7: {
        // nested deep, closed again or not
        const depth = draw(20) === 0 ? draw(5_000) : draw(150);
        const [open, close] = draw(2) === 0 ? ["[", "]"] : ['{"a":', "}"];
        put(bytesOf(open.repeat(depth) + (draw(2) === 0 ? `1${close.repeat(depth)}` : "")));
        break;
      }
      default: {
        // an event of another shape in the middle
        const other = pick(samples).answer;
        const from = draw(other.length);
        put([...other.subarray(from, from + draw(200))]);
      }
    }
  }
  if (draw(8) === 0) result = result.slice(0, draw(result.length + 1));
  return Uint8Array.from(result);
}

const shapes = samples.map(({ profile, answer, contentType }) => ({
  compiled: compileProfile(profile),
  answer,
  contentType,
}));

/**
 * Reads mutated answers of every shape, each cut in two.
 * @returns how often each ending came: an end, or a problem by its kind
 * @throws {Error} for one that does not end exactly once, or says anything after its end
 */
export function readMutated(runs: number, draw: Draw): Map<string, number> {
  const ends = new Map<string, number>();
  for (let run = 0; run < runs; run++) {
    const { compiled, answer, contentType } = shapes[run % shapes.length] as (typeof shapes)[number];
    const bytes = mutated(answer, draw);
    const cut = draw(bytes.length + 1);
    const events = readIn(compiled, contentType, [bytes.subarray(0, cut), bytes.subarray(cut)]);
    const name = endingOf(events);
    if (name === undefined)
      throw new Error(
        `Run ${run}, of ${bytes.length} bytes, ends otherwise than once: ${JSON.stringify(events).slice(0, 2000)}`,
      );
    ends.set(name, (ends.get(name) ?? 0) + 1);
  }
  return ends;
}

function readIn(compiled: CompiledProfile, contentType: string, chunks: Uint8Array[]): ReadEvent[] {
  const decoder = createDecoder(compiled, { status: 200, contentType });
  return [...chunks.flatMap((chunk) => decoder.feed(chunk)), ...decoder.close()];
}

/** How events end: all of the call at once, or each take once, and nothing after; undefined where it is otherwise. */
function endingOf(events: readonly ReadEvent[]): string | undefined {
  const lasts = events.filter(({ event }) => event === "end" || event === "problem");
  const takes = lasts.map(({ take }) => take);
  const isOnce = takes.includes(null) ? takes.length === 1 : new Set(takes).size === takes.length && takes[0] === 0;
  const [last] = lasts;
  if (!isOnce || !last || events.slice(-lasts.length).some((event) => !lasts.includes(event))) return undefined;
  return last.event === "problem" ? last.data.kind : last.event;
}
