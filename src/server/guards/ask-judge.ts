import { judgeTask } from "@/core/checks/rubric";
import { piecesOf, textOf } from "@/core/conversation/pieces";
import { type OneAnswerNeeds, type OneAnswerOf, oneAnswer } from "../apps/one-answer";

/** What a judge is asked, and for whom. */
export type AskedOfJudge = Omit<OneAnswerOf, "purpose" | "messages" | "settings"> & { question: string };

/** Tokens that a judge may say. */
const maxOutput = 300;

/**
 * Has a model judge something.
 * @returns its words, what it cost in millionths, and why it said nothing where it failed
 * @throws {Refusal} `over-limit` where the day has no money left for it
 */
export async function askJudge(
  home: OneAnswerNeeds,
  { question, ...of }: AskedOfJudge,
  signal: AbortSignal,
): Promise<{ words: string; price: number; failure?: string }> {
  const messages = [
    { role: "system" as const, pieces: piecesOf(judgeTask) },
    { role: "visitor" as const, pieces: piecesOf(question) },
  ];
  const settings = { temperature: 0, maxOutput };
  const { take, price } = await oneAnswer(home, { ...of, purpose: "judge", messages, settings }, signal);
  const failure = take.last.event === "problem" ? (take.last.data.detail ?? take.last.data.kind) : undefined;
  return { words: textOf(take).trim(), price, failure };
}
