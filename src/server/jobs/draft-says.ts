import { piecesOf, textOf } from "@/core/conversation/pieces";
import type { StoredApp } from "../apps/app-store";
import { chosenFor } from "../apps/candidate";
import { type OneAnswerNeeds, oneAnswer } from "../apps/one-answer";
import { Refusal } from "../ground/refusal";
import type { Purpose } from "../making/types";

/** What the model of a draft is asked by a job. */
export interface DraftAsked {
  purpose: Purpose;
  words: string;
  /** Tokens that it may answer. */
  maxOutput: number;
}

/** What it said, whether it met its output limit, and what that cost in millionths. */
export interface DraftSaid {
  text: string;
  isCut: boolean;
  price: number;
}

/** Has the model of an app's draft say something once, for a job. @throws {Refusal} where it can't */
export async function draftSays(
  home: OneAnswerNeeds,
  app: StoredApp,
  job: string,
  { purpose, words, maxOutput }: DraftAsked,
  signal: AbortSignal,
): Promise<DraftSaid> {
  const { take, price } = await oneAnswer(
    home,
    {
      app,
      purpose,
      owner: job,
      conversation: null,
      spentOn: { app: app.id, revision: app.liveRevision, content: app.draftHash, origin: "job" },
      rank: "job",
      chosen: chosenFor(home, app.draft),
      messages: [{ role: "visitor", pieces: piecesOf(words) }],
      settings: { maxOutput },
    },
    signal,
  );
  signal.throwIfAborted();
  if (take.last.event === "problem") throw new Refusal(take.last.data);
  return { text: textOf(take), isCut: take.last.data.reason === "length", price };
}
