import type { Message } from "@/core/conversation/message";
import { piecesOf, textOf } from "@/core/conversation/pieces";
import type { Revision } from "@/core/revision/revision";
import { askForQuestion, mostOfQuestion, questionFrom } from "@/core/sources/self-contained";
import type { StoredApp } from "../apps/app-store";
import type { Chosen } from "../apps/candidate";
import { type OneAnswerNeeds, oneAnswer } from "../apps/one-answer";
import type { Traffic } from "../exchange/traffic";
import { isRefusal } from "../ground/refusal";
import type { Rank } from "../making/gate";

/** What documents are looked through for, and for whom. */
export interface QuestionOf {
  app: StoredApp;
  revision: Revision;
  origin: string;
  conversation: string | null;
  /** The reply, or the trial, that it is for. */
  owner: string;
  speaker: Chosen;
  rank: Rank;
  /** The messages before it, the newest last. */
  before: readonly Message[];
  message: string;
  /** What stands between it and its provider. */
  traffic?: Traffic;
}

/** What documents are looked through for, and the making that it came of, if one was made. */
export interface Question {
  question: string;
  making?: string;
}

/**
 * The message that documents are looked through for: as it stands, or made self-contained by the model where the
 * content wants that and something was said before. Where that can't be had, or paid for, its own words have to do.
 */
export async function questionFor(home: OneAnswerNeeds, of: QuestionOf, signal: AbortSignal): Promise<Question> {
  const { app, revision, origin, conversation, owner, speaker: chosen, rank, before, message, traffic } = of;
  const { sources, guards, prompt } = revision.content;
  if (sources?.query !== "self-contained" || before.length === 0) return { question: message };
  try {
    const { take, making } = await oneAnswer(
      home,
      {
        app,
        purpose: "question",
        owner,
        conversation,
        spentOn: { app: app.id, revision: revision.number, content: revision.hash, origin },
        rank,
        chosen,
        messages: [{ role: "visitor", pieces: piecesOf(askForQuestion(before, message)) }],
        settings: { maxOutput: mostOfQuestion, temperature: 0 },
        traffic,
        guards,
        own: [prompt],
      },
      signal,
    );
    const question = take.last.event === "problem" ? message : questionFrom(textOf(take), message);
    return { question, making };
  } catch (error) {
    if (isRefusal(error)) return { question: message };
    throw error;
  }
}
