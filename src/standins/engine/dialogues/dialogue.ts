import { sentencesOf } from "../words";

/** A message of a dialogue, with what its answer must and must not hold. Patterns are regular expressions, case ignored. */
export interface Line {
  says: string;
  must?: string[];
  mustNot?: string[];
  /** What the answer may be long at most. */
  most?: { words?: number; characters?: number; sentences?: number };
  /** The answer is a JSON document. */
  isJson?: true;
}

/** A dialogue as people try it on a new app. */
export interface Dialogue {
  name: string;
  /** The app's system prompt. */
  prompt: string;
  lines: Line[];
}

/** What an answer does not hold to. */
export function heldTo({ must = [], mustNot = [], most = {}, isJson }: Line, answer: string): string[] {
  const slips = must.filter((pattern) => !new RegExp(pattern, "i").test(answer)).map((pattern) => `no ${pattern}`);
  slips.push(
    ...mustNot.filter((pattern) => new RegExp(pattern, "i").test(answer)).map((pattern) => `there is ${pattern}`),
  );
  const { words = Infinity, characters = Infinity, sentences = Infinity } = most;
  if (answer.split(/\s+/).filter(Boolean).length > words) slips.push(`more than ${words} words`);
  if (answer.length > characters) slips.push(`more than ${characters} characters`);
  if (sentencesOf(answer).length > sentences) slips.push(`more than ${sentences} sentences`);
  if (isJson && !isDocument(answer)) slips.push("no JSON");
  if (answer.trim() === "") slips.push("nothing");
  return slips;
}

function isDocument(text: string): boolean {
  try {
    JSON.parse(text);
    return true;
  } catch {
    return false;
  }
}
