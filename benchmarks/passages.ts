import { weighed } from "@/core/context/assemble";
import { forecastOn } from "@/core/context/forecast";
import { trackOf } from "@/core/context/track";
import type { Content } from "@/core/revision/content";
import { queryOf, termsOf } from "@/core/sources/query";
import { uncalibrated } from "@/core/tokens/calibration";
import { everyPlace } from "@/core/wire/places";
import type { Home } from "@/server/home";
import { findByWords } from "@/server/sources/finding";
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
export function passagesRows(): Row[] {
  return inFolder((home, app) => {
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
      ahead.push(timed(() => forecastOn(named, track, room, 1, found), 9));
      plain.push(timed(() => bare.all(query), 9));
    }
    const ratio = quantile(ours, 0.95) / quantile(plain, 0.95);
    return [
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
