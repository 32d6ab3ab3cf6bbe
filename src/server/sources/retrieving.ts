import type { Content } from "@/core/revision/content";
import { textOfBlocks } from "@/core/sources/document";
import type { FoundPassage } from "@/core/sources/found";
import {
  holdsHalf,
  type RetrievalCut,
  type RetrievalResult,
  type RetrievalWay,
  type RetrievedAt,
  rangeOfQuote,
  retrievalWays,
  type TextRange,
} from "@/core/sources/retrieval";
import { plainSources } from "@/core/sources/sources";
import type { HasDocuments } from "./document-store";
import { type FindingNeeds, type Findings, findByMeaning, findByWords, findPassages } from "./finding";
import type { StoredQuestion } from "./retrieval-store";

/** What of the process is used here. */
export type RetrievingNeeds = FindingNeeds & HasDocuments;

/** What is asked: a question, and the words of a document that answer it. */
type AskedQuestion = Pick<StoredQuestion, "question" | "source" | "quote">;

/** How passages are found in each way. */
const finds: Record<
  RetrievalWay,
  (home: FindingNeeds, app: string, content: Content, question: string) => Findings | Promise<Findings>
> = {
  words: (home, _app, content, question) => findByWords(home, content, question),
  meaning: findByMeaning,
  merged: findPassages,
};

/** The ways in which a content's documents can be looked through. */
export function waysOf({ sources }: Content): readonly RetrievalWay[] {
  return sources?.meaning ? retrievalWays : ["words"];
}

/** A content whose documents are cut otherwise. */
export function cutOtherwise(content: Content, { size, overlap }: RetrievalCut): Content {
  return { ...content, sources: plainSources({ ...(content.sources ?? { documents: [] }), size, overlap }) };
}

/** Where in the documents of a content questions are answered; undefined for one whose words don't stand there any more. */
export function answersIn(
  { documents, sources }: Pick<RetrievingNeeds, "documents" | "sources">,
  content: Content,
  questions: readonly Pick<StoredQuestion, "source" | "quote">[],
): (TextRange | undefined)[] {
  const texts = new Map<string, string>();
  for (const { source, version } of content.sources?.documents ?? []) {
    const hash = version ?? sources.byId(source)?.hash;
    if (hash !== undefined) texts.set(source, textOfBlocks(documents.blocks(hash)).text);
  }
  return questions.map(({ source, quote }) => rangeOfQuote(texts.get(source) ?? "", quote));
}

/**
 * Asks questions in one way, on the documents as a content has them cut; no model answers.
 * @param each is told after each question
 */
export async function retrieved(
  home: RetrievingNeeds,
  app: string,
  content: Content,
  { questions, cut, way }: { questions: readonly AskedQuestion[]; cut: RetrievalCut; way: RetrievalWay },
  each: () => Promise<void>,
): Promise<RetrievalResult> {
  const on = cutOtherwise(content, cut);
  const answers = answersIn(home, on, questions);
  const places: RetrievedAt[] = [];
  for (const [at, { question, source }] of questions.entries()) {
    const { found, wordsAlone } = await finds[way](home, app, on, question);
    if (wordsAlone) return { ...cut, way, places: [], problem: wordsAlone };
    places.push(placeAmong(found, source, answers[at]));
    await each();
  }
  return { ...cut, way, places };
}

function placeAmong(found: readonly FoundPassage[], source: string, answer: TextRange | undefined): RetrievedAt {
  const at = found.findIndex((each) => each.source === source && answer && holdsHalf(each.where, answer));
  return at < 0 ? null : at + 1;
}
