import type { ReadEvent } from "../../reply/events";
import { createDecoder } from "../decode";
import { type FramingName, framingOf } from "../framing/framings";
import { parseShallow } from "../json";
import { answerIn, type PastedAnswer } from "../pasted/answer";
import type { PastedRequest } from "../pasted/pasted";
import { requestIn } from "../pasted/request";
import { hideKnown, hideSecrets } from "../pasted/secrets";
import { pathTo } from "../path";
import { compileProfile, ProfileError } from "../profile";
import type { WrittenProfile } from "../profile-schema";
import { fitAnswer } from "./answer";
import { type Finding, isNamed, isProse, leavesOf, Notes, type Question, type Untold } from "./finding";
import { isCalled, lastName } from "./naming";
import { differenceOf } from "./proof";
import { type FittedRequest, fitRequest } from "./request";

export { type Finding, meaningId, meanings, type Question } from "./finding";

import { socketIn, unspokenIn } from "./unspoken";

export { untoldChoices, untoldId } from "./untold";

/** What fitting works from, all as pasted. */
export interface Pasted {
  /** A curl command that works, a raw HTTP request, or its JSON body. */
  request: string;
  /** The answer that it got; with HTTP headers before it, as `curl -i` prints them, or without. */
  answer: string;
  /** An answer that reports an error, where there is one. */
  failure?: string;
  /** What the developer says to questions, by their ids. */
  answers?: Record<string, string>;
}

/** A proposal for a provider and its wire profile. */
export interface Fitting {
  provider: Pick<FittedRequest, "address" | "credential" | "extras" | "values" | "signs" | "model">;
  profile: WrittenProfile;
  findings: Finding[];
  questions: Question[];
  missing: string[];
  /** What of the request was taken for nothing. */
  untold: Untold[];
  /** The answer as the proposed profile reads it. */
  reading: ReadEvent[];
}

/** What came of fitting: a proposal, or why there is none. */
export type Fitted = { kind: "fitted"; fitting: Fitting } | { kind: "none"; why: string };

/**
 * Proposes a wire profile from a request and its answer. What can't be known is asked or named as
 * missing, and never guessed in silence. A secret stands in a proposal by its name alone.
 */
export function fit({ request, answer, failure = "", answers = {} }: Pasted): Fitted {
  const hidden = hideSecrets(request);
  const socket = socketIn(hidden.text);
  if (socket) return { kind: "none", why: socket };
  const read = requestIn(hidden.text);
  if (read.kind === "none") return read;
  const safe = (text: string) => hideKnown(text, hidden.secrets);
  return { kind: "fitted", fitting: fitting(read.request, safe(answer), safe(failure), answers) };
}

function fitting(
  pastedRequest: PastedRequest,
  answer: string,
  failure: string,
  answers: Readonly<Record<string, string>>,
): Fitting {
  const notes = new Notes(answers);
  const pastedAnswer = answerIn(answer);
  const unspoken = unspokenIn(pastedAnswer);
  if (unspoken) notes.missing.push(unspoken);
  const streams = pastedAnswer.framing !== "json";
  const fitted = fitRequest(pastedRequest, streams, textsIn(pastedAnswer), notes);
  const { finishWords, ...read } = fitAnswer(pastedAnswer, notes);
  const profile: WrittenProfile = {
    profile: 1,
    shape: shapeOf(pastedAnswer.framing),
    request: fitted.request,
    roles: fitted.roles,
    ...(Object.keys(fitted.values).length > 0 ? { values: Object.keys(fitted.values).map((name) => ({ name })) } : {}),
    answer: { ...read, problem: fitFailure(failure, pastedAnswer, notes) },
    finishWords,
  };
  const reading = readingOf(profile, pastedAnswer);
  prove(profile, pastedRequest, fitted, reading, notes);
  const { address, credential, extras, values, signs, model } = fitted;
  return {
    provider: { address, credential, extras, values, signs, model },
    profile,
    findings: notes.findings,
    questions: notes.questions,
    missing: notes.missing,
    untold: notes.untold,
    reading,
  };
}

/** Takes the certainty from what was found, where the proposal does not make the pasted request again or read the pasted answer whole. */
function prove(
  profile: WrittenProfile,
  pasted: PastedRequest,
  { call, request }: FittedRequest,
  reading: readonly ReadEvent[],
  notes: Notes,
): void {
  const isWritten = pasted.body === "" || request.body !== undefined;
  const difference = isWritten ? differenceOf(profile, pasted, call) : "its body could not be read";
  if (difference !== undefined) {
    notes.doubt("request");
    notes.missing.push(`The pasted request, made again from the proposal, is another: ${difference}.`);
  }
  const last = reading.findLast(({ event, take }) => (event === "end" || event === "problem") && !take);
  const isAsked = notes.questions.some(({ id }) => id.startsWith("finish "));
  if (last?.event === "problem" && !isAsked) {
    notes.doubt("answer");
    notes.missing.push(`The pasted answer is not read whole by the proposal: ${last.data.detail}`);
  }
}

/** The texts that stand in an answer. */
function textsIn({ frames }: PastedAnswer): Set<string> {
  const texts = frames
    .slice(0, 50)
    .flatMap(({ data }) => leavesOf(parseShallow(data)))
    .flatMap(({ value }) => (typeof value === "string" ? value : []));
  return new Set(texts);
}

/** An answer as a profile reads it; empty where the profile is wrong. */
export function readingOf(
  profile: WrittenProfile,
  { status, contentType, headers, body }: Pick<PastedAnswer, "status" | "contentType" | "headers" | "body">,
): ReadEvent[] {
  try {
    const decoder = createDecoder(compileProfile(profile), { status, contentType, headers });
    return [...decoder.feed(new TextEncoder().encode(body)), ...decoder.close()];
  } catch (error) {
    if (error instanceof ProfileError) return [];
    throw error;
  }
}

/** What a framing says of itself, as a title. */
function shapeOf(framing: FramingName): string {
  const { saying } = framingOf(framing);
  return saying.slice(0, 1).toUpperCase() + saying.slice(1);
}

/** What the statuses of HTTP mean for a call of a model, by RFC 9110 and RFC 6585. */
const statuses = {
  "400": "misconfigured",
  "401": "unauthorised",
  "403": "not-allowed",
  "404": "misconfigured",
  "408": "timed-out",
  "413": "too-long",
  "422": "misconfigured",
  "429": "rate-limited",
  "500": "overloaded",
  "502": "overloaded",
  "503": "overloaded",
  "504": "timed-out",
} as const;

/** Where errors usually have their words. */
const usualMessages = ["$.error.message", "$.error.detail", "$.error", "$.errors[0].message"];

/** Where an answer that is well says so by a code, such as 0: any other is an error, in the words beside it. */
function wellWhere(
  { framing, frames }: PastedAnswer,
  notes: Notes,
): Pick<WrittenProfile["answer"]["problem"], "when" | "message" | "code"> {
  const document = framing === "json" ? parseShallow(frames[0]?.data ?? "") : undefined;
  const tops = leavesOf(document).filter(({ steps }) => steps.length === 1);
  const code = tops.find(
    ({ steps, value }) =>
      isCalled(lastName(steps), /^(?:code|errno|errcode|ret|retcode)$/) && (value === 0 || value === "0"),
  );
  const words = tops.find(
    ({ steps, value }) => isCalled(lastName(steps), /^(?:message|msg|detail)$/) && typeof value === "string",
  );
  if (!code || !words) return { message: usualMessages };
  const at = pathTo(code.steps);
  notes.found("answer", "well where", `${at} is ${JSON.stringify(code.value)}`, "likely");
  return { when: { at, not: { at, is: code.value } }, message: pathTo(words.steps), code: at };
}

function fitFailure(pasted: string, answer: PastedAnswer, notes: Notes): WrittenProfile["answer"]["problem"] {
  const document = pasted.trim() === "" ? undefined : parseShallow(answerIn(pasted).frames.at(-1)?.data ?? "");
  const leaves = leavesOf(document).filter(({ value }) => typeof value === "string");
  const message =
    leaves.find(
      ({ steps, value }) =>
        isProse(value) && isNamed(steps.slice(-1), /^(?:message|words|detail|description|text|why|tell|error)$/),
    ) ?? leaves.find(({ value }) => isProse(value));
  if (!message) {
    notes.missing.push(
      "How an error looks: none was pasted, so it is told by its HTTP status, and the whole body is shown.",
    );
    return { ...wellWhere(answer, notes), statuses };
  }
  const code = leaves.find(
    ({ steps, value }) => !isProse(value) && isNamed(steps.slice(-1), /^(?:code|type|kind|sort|no|status|reason)$/),
  );
  notes.found("answer", "error", pathTo(message.steps), "sure");
  if (code) notes.found("answer", "error code", pathTo(code.steps), "likely");
  return { message: pathTo(message.steps), ...(code ? { code: pathTo(code.steps) } : {}), statuses };
}
