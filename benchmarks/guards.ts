import type { Guard } from "@/core/guards/guard";
import { quantile, type Rig, read } from "./rig";
import type { Row } from "./row";

const calls = 40;
/** Words a second that the source says, and words of a reply. */
const pace = 100;
const words = 40;

/** Guards before showing, each by what it looks for, and how much longer the first text may be waited for. */
const rules: [what: string, looksFor: Guard["looksFor"], bar: number][] = [
  ["200 words", { kind: "words", words: Array.from({ length: 200 }, (_, at) => `forbidden${at}`) }, 1.5],
  ["a pattern", { kind: "pattern", pattern: String.raw`\bQD-\d{6}\b` }, 1.5],
  ["personal data", { kind: "personal", kinds: ["e-mail", "phone", "card", "account"] }, 2],
  ["the own prompt", { kind: "prompt", words: 8 }, 2],
];

/**
 * What guards cost in time to the first text: with one ÷ without any. A judge has to see all of the reply, and says
 * something itself: with one ÷ the whole reply and the whole of another.
 */
export async function guardsRows(rig: Rig): Promise<Row[]> {
  const body = JSON.stringify({ message: "When does the boat leave?" });
  const [plain, ...guarded] = await Promise.all(
    [undefined, ...rules].map(async (rule) => {
      const replies = await rig.makeApp(pace, words);
      if (rule) await rig.guard(replies, guardFor(rule[1]));
      return replies;
    }),
  );
  const judged = await rig.makeApp(pace, words);
  await rig.judge(judged);
  const samples = new Map<string, number[]>();
  const wholes: number[] = [];
  for (let call = -5; call < calls; call++)
    for (const replies of [plain, ...guarded, judged] as string[]) {
      const { firstText, whole } = await read(replies, body);
      if (call < 0) continue;
      samples.set(replies, [...(samples.get(replies) ?? []), firstText]);
      if (replies === plain) wholes.push(whole);
    }
  const median = (replies: string | undefined) => quantile(samples.get(replies ?? "") ?? [], 0.5);
  return [
    ...rules.map(([what, , bar], at) => ({
      what: `first text behind a guard that looks for ${what} ÷ without, median of ${calls}`,
      ratio: median(guarded[at]) / median(plain),
      bar,
      isMost: true,
    })),
    {
      what: `first text behind a judge ÷ a whole reply and the judge's, median of ${calls}`,
      ratio: median(judged) / (2 * quantile(wholes, 0.5)),
      bar: 1.2,
      isMost: true,
    },
  ];
}

function guardFor(looksFor: Guard["looksFor"]): Guard {
  return { name: "Guard", on: "shown", looksFor, does: "mask" };
}
