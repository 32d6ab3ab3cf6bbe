import { Agent, request } from "node:http";
import { createParser } from "eventsource-parser";
import { quantile, type Rig } from "./rig";
import type { Row } from "./row";
import { documentsIn, eventsOf, shapes } from "./shapes";

const streams = 400;
const rate = 20;
const seconds = 60;
const tick = 50;
const message = "When does the boat leave?";
const agent = new Agent({ keepAlive: true, maxSockets: streams });

/** When the text of one stream arrived, in milliseconds, and all of it. */
export interface Stream {
  at: number[];
  text: string;
}

/** What many streams at once are held to: even gaps, whole texts, and a heap that does not grow. */
export async function manyStreamsRows(rig: Rig): Promise<Row[]> {
  const count = rate * seconds;
  const replies = await rig.makeApp(rate, count);
  const straight = JSON.stringify({ message, model: `r${rate}n${count}` });
  const best = (await all(() => listen(`${rig.relay}/chat-completions`, straight))).map(({ at }) => at.map(onTick));
  const heard = await all(() => listen(replies, JSON.stringify({ message })));
  // collecting garbage holds everything up, so that it is done in a round of its own
  const heaps = [5, seconds - 5].map(async (second) => {
    await new Promise((resolve) => setTimeout(resolve, second * 1_000));
    return rig.heap();
  });
  await all(() => listen(replies, JSON.stringify({ message })));
  const [early = Number.NaN, late = Number.NaN] = await Promise.all(heaps);

  const expected = textOf(count);
  const whole = heard.filter(({ text }) => text === expected).length;
  const row = (what: string, ratio: number, bar: number, isMost = true): Row => ({
    what: `${streams} streams at ${rate} events/s for ${seconds} s: ${what}`,
    ratio,
    bar,
    isMost,
  });
  const [ours, ideal] = [gapsOf(heard.map(({ at }) => at)), gapsOf(best)];
  return [
    row("99th percentile gap ÷ the best for 50 ms ticks", quantile(ours, 0.99) / quantile(ideal, 0.99), 1.5),
    row("longest gap ÷ the best for 50 ms ticks", (ours.at(-1) ?? Number.NaN) / (ideal.at(-1) ?? 1), 3),
    row("texts that equal the source's", whole / streams, 1, false),
    row("heap of the last 10 s ÷ the first 10", late / early, 1.2),
  ];
}

function all(one: () => Promise<Stream>): Promise<Stream[]> {
  return Promise.all(Array.from({ length: streams }, one));
}

/** The end of the tick in which something came. */
function onTick(at: number): number {
  return Math.ceil(at / tick) * tick;
}

/** Milliseconds between arrivals at different moments, sorted. */
function gapsOf(all: number[][]): number[] {
  const gaps = all.flatMap((at) => {
    const moments = [...new Set(at)];
    return moments.slice(1).map((moment, place) => moment - (moments[place] ?? 0));
  });
  return gaps.sort((a, b) => a - b);
}

/** The text that the source sends in so many events. */
function textOf(count: number): string {
  const shape = shapes["chat-completions"];
  if (!shape) throw new Error("The shape is gone.");
  return eventsOf(shape, count)
    .flatMap((event) => documentsIn(shape, event).documents)
    .map((document) => JSON.parse(document).choices[0].delta.content)
    .join("");
}

/** Asks for a reply, and notes when its text came. */
export function listen(url: string, body: string): Promise<Stream> {
  return new Promise((resolve, reject) => {
    const heard: Stream = { at: [], text: "" };
    const parser = createParser({
      onEvent: ({ event, data }) => {
        if (event !== "text") return;
        heard.at.push(Math.round(performance.now()));
        heard.text += JSON.parse(data).text;
      },
    });
    const utf8 = new TextDecoder();
    const call = request(url, { method: "POST", agent, headers: { accept: "text/event-stream" } }, (response) => {
      response.on("data", (chunk: Buffer) => parser.feed(utf8.decode(chunk, { stream: true })));
      response.on("end", () => resolve(heard));
      response.on("error", reject);
    });
    call.on("error", reject);
    call.end(body);
  });
}
