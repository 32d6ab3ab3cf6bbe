import type { Retrieval } from "@/contract/retrieval";
import { textOf } from "@/core/conversation/pieces";
import { textOfBlocks } from "@/core/sources/document";
import { mostQuestions, rangeOfQuote } from "@/core/sources/retrieval";
import { priceOf } from "@/core/tokens/price";
import type { StoredApp } from "../apps/app-store";
import type { HasMarks } from "../conversations/mark-store";
import type { HasMessages } from "../conversations/message-store";
import { refuse } from "../ground/refusal";
import { cutOf } from "../jobs/retrieval-job";
import { cuttingsFor } from "../sources/finding";
import { makerFor } from "../sources/making-vectors";
import type { HasRetrieval, StoredQuestion } from "../sources/retrieval-store";
import { answersIn, type RetrievingNeeds, waysOf } from "../sources/retrieving";

/** Runs that are given, and marks that are looked at. */
const mostRuns = 5;
const mostMarks = 200;
/** Characters of a cited passage that stand for the answer. */
const longestCited = 300;

/** The questions of an app, and what came of asking them. */
export function retrievalAnswer(home: RetrievingNeeds & HasRetrieval, app: StoredApp): Retrieval {
  const { draft } = app;
  const questions = home.retrieval.questions(app.id);
  const answers = answersIn(home, draft, questions);
  return {
    questions: questions.map((each, at) => ({
      ...each,
      title: home.sources.byId(each.source)?.title ?? "",
      isThere: answers[at] !== undefined,
    })),
    runs: home.retrieval.runs(app.id, mostRuns),
    cut: cutOf(draft),
    ways: [...waysOf(draft)],
    vectors: vectorsOf(home, app),
  };
}

/** What the vectors of one more cut would take: about as many tokens as the draft's passages have. */
function vectorsOf(home: RetrievingNeeds, { draft }: StoredApp): Retrieval["vectors"] {
  const of = draft.sources?.meaning;
  const maker = of && makerFor(home, of);
  if (!maker || "kind" in maker) return null;
  const tokens = home.passages.tokens([...cuttingsFor(home, draft).ready.keys()]);
  const { price } = maker.model;
  return {
    tokens,
    price: priceOf({ input: tokens, output: 0 }, price),
    currency: price.currency,
    isPriced: price.isUnset === undefined,
  };
}

/** Adds a question. @throws {Refusal} `conflict` where no document holds the words, or it is there already */
export function addQuestion(
  home: RetrievingNeeds & HasRetrieval,
  app: StoredApp,
  { question, quote, source }: { question: string; quote: string; source?: string },
): void {
  if (home.retrieval.questions(app.id).length >= mostQuestions)
    refuse("conflict", `There are ${mostQuestions} questions already.`, { advice: "Delete some of them." });
  const holder = (app.draft.sources?.documents ?? []).find((each) => {
    const hash = each.version ?? home.sources.byId(each.source)?.hash;
    if ((source && each.source !== source) || hash === undefined) return false;
    return rangeOfQuote(textOfBlocks(home.documents.blocks(hash)).text, quote) !== undefined;
  });
  if (!holder)
    refuse("conflict", `No document that ${app.name} answers from holds the words “${quote.slice(0, 80)}”.`, {
      advice: "Copy them from the document, as they stand there.",
    });
  const isNew = home.retrieval.add(
    app.id,
    { question, quote, source: holder.source, comes: "typed", isAsked: true },
    Date.now(),
  );
  if (!isNew)
    refuse("conflict", "This question is there already, with these words.", { advice: "Change one of them." });
}

/** Proposes what was asked where a reply was marked as good: its answer is what the reply cites. @returns how many are new */
export function questionsFromMarks(
  home: HasRetrieval & HasMarks & HasMessages & Pick<RetrievingNeeds, "sources">,
  app: StoredApp,
): { added: number } {
  let added = 0;
  for (const reply of home.marks.goodReplies(app.id, mostMarks)) {
    const message = home.messages.message(reply);
    const asked = message?.parent ? home.messages.message(message.parent) : undefined;
    if (message?.role !== "app" || !asked) continue;
    const question = textOf(asked).trim().slice(0, 600);
    for (const { source, text } of message.facts.cites ?? []) {
      if (question === "" || home.sources.byId(source)?.app !== app.id) continue;
      const quote = text.slice(0, longestCited).trim();
      if (
        quote !== "" &&
        home.retrieval.add(app.id, { question, quote, source, comes: "mark", isAsked: false }, Date.now())
      )
        added += 1;
    }
  }
  return { added };
}

/** A question by its id. @throws {Refusal} `not-found` */
export function questionAt({ retrieval }: HasRetrieval, id: string): StoredQuestion & { app: string } {
  return retrieval.question(id) ?? refuse("not-found", `There is no question ${id}.`);
}
