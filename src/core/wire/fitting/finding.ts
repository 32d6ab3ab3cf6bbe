import type { Rule } from "../profile-schema";

/** How sure a finding is: proven, since the sample is the same when it is made again and read back, or only likely. */
export type Certainty = "sure" | "likely";

/** Something that fitting took for something. */
export interface Finding {
  in: "request" | "answer";
  /** What it is, in the words of the product. */
  what: string;
  /** Where it stands, as a JSONPath, a header or a part of the address. */
  where: string;
  certainty: Certainty;
}

/** Something that fitting can't know, for the developer to say. */
export interface Question {
  id: string;
  ask: string;
  /** What it can be, where that is known. */
  choices?: string[];
  /** What it usually is, where it can be anything. */
  proposals?: string[];
}

/** A part of a request that was taken for nothing: it stays as it is unless the developer says otherwise. */
export interface Untold {
  /** Where it stands, as a JSONPath. */
  where: string;
  /** Its beginning. */
  found: string;
}

/** What the developer can say of a place in a pasted request or answer. */
export const meanings = {
  request: [
    "model",
    "system prompt",
    "newest message",
    "text",
    "role",
    "temperature",
    "top-p",
    "top-k",
    "output limit",
    "seed",
    "takes",
    "stream",
    "value",
    "nothing",
  ],
  answer: ["text", "thought", "finish", "usage in", "usage out", "nothing"],
} as const satisfies Record<Finding["in"], readonly string[]>;

/** The id under which the developer says what stands at a place. */
export function meaningId(side: Finding["in"], where: string): string {
  return `in the ${side} ${where}`;
}

/** What fitting collects on its way. */
export class Notes {
  readonly findings: Finding[] = [];
  readonly questions: Question[] = [];
  readonly untold: Untold[] = [];
  /** What could not be found, in whole sentences. */
  missing: string[] = [];

  constructor(private readonly answers: Readonly<Record<string, string>>) {}

  found(side: Finding["in"], what: string, where: string, certainty: Certainty): void {
    this.findings.push({ in: side, what, where, certainty });
  }

  /** Takes all certainty from what was found on one side, since the whole of it is not proven. */
  doubt(side: Finding["in"]): void {
    for (const finding of this.findings) if (finding.in === side) finding.certainty = "likely";
  }

  /** What the developer says to a question; asks it where nothing was said yet, or what was said is none of the choices. */
  ask(question: Question): string | undefined {
    const said = this.said(question.id);
    if (said && (question.choices?.includes(said) ?? true)) return said;
    this.questions.push(question);
    return undefined;
  }

  /** What the developer says to something that is not asked. */
  said(id: string): string | undefined {
    return this.answers[id]?.trim();
  }

  /** What the developer says that something at a place is. */
  meaningAt(side: Finding["in"], where: string): string | undefined {
    return this.said(meaningId(side, where)) || undefined;
  }

  /** The places of which the developer says that they are one thing. */
  placesOf(side: Finding["in"], meaning: string): string[] {
    const start = meaningId(side, "");
    return Object.keys(this.answers).flatMap((id) =>
      id.startsWith(start) && this.said(id) === meaning ? [id.slice(start.length)] : [],
    );
  }
}

/** A leaf of a JSON document with the way to it. */
export interface Leaf {
  steps: Steps;
  value: string | number | boolean | null;
}

/** A way through a document, by names and indexes. */
export type Steps = (string | number)[];

/** All leaves of a document, in order. */
export function leavesOf(document: unknown, steps: Steps = []): Leaf[] {
  if (Array.isArray(document)) return document.flatMap((each, at) => leavesOf(each, [...steps, at]));
  if (typeof document === "object" && document !== null)
    return Object.entries(document).flatMap(([name, each]) => leavesOf(each, [...steps, name]));
  return [{ steps, value: document as Leaf["value"] }];
}

/** Whether a text reads like something that was said. */
export function isProse(value: unknown): value is string {
  return (
    typeof value === "string" && /\p{L}/u.test(value) && (/\s/.test(value.trim()) || /[.!?。！？]$/.test(value.trim()))
  );
}

/** The words of a name such as `max_tokens`, `n-in` or `outputTokens`. */
export function wordsIn(name: string | number): string[] {
  return String(name)
    .replace(/([a-z\d])([A-Z])/g, "$1 $2")
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .filter(Boolean);
}

/** Whether a way leads through a name that has one of these words. */
export function isNamed(steps: readonly (string | number)[], words: RegExp): boolean {
  return steps.some((step) => typeof step === "string" && wordsIn(step).some((word) => words.test(word)));
}

/** Whether a member is called as the name of a model is. */
export function isModelName(steps: Steps): boolean {
  return isNamed(steps.slice(-1), /^(?:model|models|engine|deployment)$/);
}

/** Whether two ways are one. */
export function same(a: Steps, b: Steps): boolean {
  return a.length === b.length && a.every((step, place) => step === b[place]);
}

/** One event of an answer, with its document and its leaves. */
export interface Event {
  name: string;
  document: unknown;
  leaves: Leaf[];
}

/** What stands at the end of a way through a document. */
export function at(document: unknown, steps: Steps): unknown {
  return steps.reduce((value, step) => (value as Record<string | number, unknown>)[step], document);
}

/** Puts a value at the end of a way through a document. */
export function set(document: unknown, steps: Steps, value: unknown): void {
  const owner = at(document, steps.slice(0, -1)) as Record<string | number, unknown>;
  owner[steps.at(-1) as string | number] = value;
}

/** Where the text of an answer was found. */
export interface FittedTexts {
  rules: Rule[];
  /** The written places of what was taken, so that nothing else is looked for there. */
  textPaths: Set<string>;
  /** The number of the last event with text. */
  lastText: number;
}
