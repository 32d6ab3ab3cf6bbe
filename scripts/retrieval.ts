import { readFileSync } from "node:fs";
import { z } from "zod";
import type { Content } from "@/core/revision/content";
import type { Home } from "@/server/home";
import { findByWords } from "@/server/sources/finding";

const questions = z.array(z.object({ question: z.string(), document: z.string(), holds: z.string() }));

/** What a question should find, and at which place it does, from 1; null where it does not. */
export interface Asked {
  question: string;
  document: string;
  rank: number | null;
}

/** Asks the questions of Harbour Desk, each of which names the passage that holds its answer. */
export function askedOf(home: Home, content: Content): Asked[] {
  const all = questions.parse(JSON.parse(readFileSync("demo/harbour-desk/questions.json", "utf8")));
  return all.map(({ question, document, holds }) => {
    const { found } = findByWords(home, content, question);
    const at = found.findIndex(({ title, text }) => title === document && text.includes(holds));
    return { question, document, rank: at < 0 ? null : at + 1 };
  });
}

/** The share of questions, in percent, whose passage is among the first so many that they find. */
export function shareAmong(asked: readonly Asked[], first: number): number {
  const found = asked.filter(({ rank }) => rank !== null && rank <= first).length;
  return Math.round((found / asked.length) * 100);
}
