import { weighed } from "@/core/context/assemble";
import { forecastOn } from "@/core/context/forecast";
import { trackOf } from "@/core/context/track";
import type { Content } from "@/core/revision/content";
import { unitVector } from "@/core/sources/meaning";
import { queryOf, termsOf } from "@/core/sources/query";
import { uncalibrated } from "@/core/tokens/calibration";
import { everyPlace } from "@/core/wire/places";
import type { Home } from "@/server/home";
import { cuttingsFor, findByWords, findPassages } from "@/server/sources/finding";
import { quantile } from "./rig";
import type { Row } from "./row";
import { content, inFolder, timed } from "./stores";

const count = 10_000;
/** About 180 tokens. */
const wordsOfOne = 120;
const vocabulary = 6_000;
const questions = 50;

/** Milliseconds of a frame. */
const frame = 1_000 / 60;

/** Finding passages for a message among ten thousand ÷ the bare query of the index, and foretelling what goes along. */
export function passagesRows(): Promise<Row[]> {
  return inFolder(async (home, app) => {
    const named = filled(home, app);
    const bare = home.database
      .prepare<[string]>("SELECT rowid FROM passage_words WHERE passage_words MATCH ? ORDER BY rank LIMIT 40")
      .pluck();
    const [ours, plain, ahead] = [[] as number[], [] as number[], [] as number[]];
    const room = { window: 100_000, maxOutput: 500, places: everyPlace };
    const track = trackOf({ rows: [] }, named.memory, weighed(uncalibrated, room), named);
    for (let at = 0; at < questions; at++) {
      const question = [0, 1, 2, 3, 4].map((place) => wordAt(at * 97 + place * 613)).join(" ");
      const query = queryOf(termsOf(question));
      if (findByWords(home, named, question).found.length === 0) throw new Error(`${question} finds nothing.`);
      ours.push(timed(() => findByWords(home, named, question), 9));
      const { found } = findByWords(home, named, question);
      ahead.push(timed(() => forecastOn(named, track, room, 1, { found }), 9));
      plain.push(timed(() => bare.all(query), 9));
    }
    const ratio = quantile(ours, 0.95) / quantile(plain, 0.95);
    return [
      await mergedRow(home, app, named),
      { what: `passages found among ${count}: 95th of ${questions} ÷ the bare query`, ratio, bar: 1.5, isMost: true },
      {
        what: `forecast of what ${count} passages give: 95th of ${questions} ÷ a frame`,
        ratio: quantile(ahead, 0.95) / frame,
        bar: 1,
        isMost: true,
      },
    ];
  });
}

/** Numbers of a vector. */
const length = 256;
const maker = { provider: "looms", model: "weft" };

/**
 * Finding passages by words and by meaning, merged ÷ the bare query of the index and the bare scan of all vectors, one after
 * the other. The vector of the question is known: what its provider takes is not ours.
 */
async function mergedRow(home: Home, app: string, named: Content): Promise<Row> {
  const matrix = withVectors(home, named);
  const content: Content = { ...named, sources: { documents: [], ...named.sources, meaning: maker } };
  const bare = home.database
    .prepare<[string]>("SELECT rowid FROM passage_words WHERE passage_words MATCH ? ORDER BY rank LIMIT 40")
    .pluck();
  const [ours, plain] = [[] as number[], [] as number[]];
  const key = `${maker.provider} ${maker.model}`;
  home.meaning.known.set(key, Date.now());
  for (let at = 0; at < questions; at++) {
    const question = [0, 1, 2, 3, 4].map((place) => wordAt(at * 97 + place * 613)).join(" ");
    const query = queryOf(termsOf(question));
    const vector = vectorAt(at * 53);
    home.meaning.questions.set(`${key} ${question}`, vector);
    const { wordsAlone, unmade } = await findPassages(home, app, content, question);
    if (wordsAlone || unmade) throw new Error(`Not all is found by meaning: ${wordsAlone?.detail ?? unmade}`);
    ours.push(await timedAsync(() => findPassages(home, app, content, question), 9));
    plain.push(
      timed(() => {
        bare.all(query);
        scan(matrix, vector);
      }, 9),
    );
  }
  return {
    what: `passages found among ${count} by words and meaning: 95th of ${questions} ÷ the bare query and the bare scan`,
    ratio: quantile(ours, 0.95) / quantile(plain, 0.95),
    bar: 1.5,
    isMost: true,
  };
}

/** Gives each passage a vector; all of them, one after the other. */
function withVectors(home: Home, named: Content): Float32Array {
  const [cutting = 0] = [...cuttingsFor(home, named).ready.keys()];
  const space = home.vectors.begin(maker, vectorAt(0));
  const all = new Float32Array(count * length);
  const missing = home.vectors.missing([cutting], space.id, count);
  home.vectors.add(
    space.id,
    missing.map(({ hash }, at) => {
      const vector = vectorAt(at);
      all.set(vector, at * length);
      return { hash, vector };
    }),
  );
  return all;
}

/** A vector of length one, made of a number. */
function vectorAt(seed: number): Float32Array {
  const vector = Array.from({ length }, (_, at) => Math.sin((seed + 1) * (at + 1) * 12.9898) * 43_758.5453);
  const unit = unitVector(vector.map((number) => number - Math.floor(number) - 0.5));
  if (!unit) throw new Error(`Vector ${seed} points nowhere.`);
  return unit;
}

/** The largest scalar product of a vector with many. */
function scan(all: Float32Array, query: Float32Array): number {
  let most = 0;
  for (let row = 0; row < count; row++) {
    let sum = 0;
    for (let at = 0; at < length; at++) sum += (all[row * length + at] as number) * (query[at] as number);
    if (sum > most) most = sum;
  }
  return most;
}

/** The middle of so many times that something takes, in milliseconds. */
async function timedAsync(work: () => Promise<unknown>, times: number): Promise<number> {
  const taken: number[] = [];
  for (let at = 0; at < times; at++) {
    const began = performance.now();
    await work();
    taken.push(performance.now() - began);
  }
  return quantile(taken, 0.5);
}

/** A content with one document of so many passages. */
function filled(home: Home, app: string): Content {
  const { hash } = home.documents.keep(Buffer.from("The text of a long document."), "text", 1);
  const { id } = home.sources.add(
    { app, title: "Handbook", short: "handbook", origin: { kind: "file", name: "handbook.txt" }, hash },
    1,
  );
  const cutting = home.passages.begin({ hash, size: 180, overlap: 20 });
  home.database
    .transaction(() => {
      for (let at = 0; at < count; at++) {
        const text = Array.from({ length: wordsOfOne }, (_, word) => wordAt(at * 31 + word * word * 7)).join(" ");
        home.passages.add(cutting, at + 1, [{ text, from: at * 1_000, to: at * 1_000 + text.length, headings: [] }]);
      }
      home.passages.finish(cutting, count, count * 180);
    })
    .immediate();
  return { ...content, sources: { documents: [{ source: id, version: hash }] } };
}

/** A word by its place in the vocabulary: some are common, most are rare. */
function wordAt(seed: number): string {
  const share = ((seed * 2_654_435_761) % 4_294_967_296) / 4_294_967_296;
  return `w${Math.floor(vocabulary * share * share).toString(36)}x`;
}
