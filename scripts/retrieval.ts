import { readFileSync } from "node:fs";
import type { Content } from "@/core/revision/content";
import type { RetrievedAt } from "@/core/sources/retrieval";
import type { Home } from "@/server/home";
import { findByMeaning, findByWords, findPassages } from "@/server/sources/finding";
import { seededQuestions } from "./seed-documents";

/** By what passages are found. */
export const ways = {
  words: findByWordsAlone,
  meaning: findByMeaning,
  merged: findPassages,
};

/** What a question should find, and at which place it does. */
export interface Asked {
  question: string;
  place: RetrievedAt;
}

/** Asks the questions of Harbour Desk, each of which names the passage that holds its answer. */
export async function askedOf(home: Home, app: string, content: Content, way: keyof typeof ways): Promise<Asked[]> {
  const all = seededQuestions.parse(JSON.parse(readFileSync("demo/harbour-desk/questions.json", "utf8")));
  const asked: Asked[] = [];
  for (const { question, document, holds } of all) {
    const { found, wordsAlone } = await ways[way](home, app, content, question);
    if (wordsAlone) throw new Error(wordsAlone.detail);
    const at = found.findIndex(({ title, text }) => title === document && text.includes(holds));
    asked.push({ question, place: at < 0 ? null : at + 1 });
  }
  return asked;
}

async function findByWordsAlone(home: Home, _app: string, content: Content, question: string) {
  return findByWords(home, content, question);
}
