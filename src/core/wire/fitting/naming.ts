import { wordsIn } from "./finding";

/** The usual words of the trade, by which a member is known for what it is. What has none of them is known by its place. */
export const names = {
  role: /^(?:role|who|by|from|author|speaker|side|voice|sender)$/,
  /** Words that hold what is said, and weaker ones that hold other things as often. */
  text: /^(?:text|content|contents|words?|say|says|said|token|tokens|delta|piece|bit|completion|reply|generated|utterance|line|sofar)$/,
  perhapsText: /^(?:message|msg|body|answer|response|result|value|data|out|output|input|line|c|t)$/,
  system:
    /^(?:system|instructions?|manner|rules?|preamble|context|prompt|guide|before|persona|brief|briefing|directives?|behaviou?r|character)$/,
  newest: /^(?:message|query|prompt|question|input|text|utterance|ask|q)$/,
  kind: /^(?:type|kind|sort|as|channel|object|format)$/,
  thought:
    /^(?:think|thinking|thought|thoughts|reasoning|muse|mused|musing|note|notes|reflect|reflection|ponder|pondering)$/,
  finish: /^(?:finish|finished|reason|why|stop|stopped|because|end|ended|outcome|done|turned|status|state)$/,
  id: /^(?:id|ids|uuid|guid|ref|run|session|trace|request|created|at|time|timestamp|date|model|version|object|role|fingerprint)$/,
  stop: /^(?:stop|stops|stopwords|stopsequences|stopsequence|until|halt|marks)$/,
  takes: /^(?:n|candidates|candidatecount|choices|samples|takes|numreturnsequences|numcandidates)$/,
  schema: /^(?:schema|jsonschema|responseschema|shape)$/,
  description: /^(?:description|describes|says|about|brings|purpose)$/,
  arguments: /^(?:arguments?|args|input|params|parameters|given|with)$/,
  billed: /^(?:billed|billing|billable|cost|costs|price|credits?|charged)$/,
} as const;

/** What APIs call those who speak. */
export const roleWords = {
  system: /^(?:system|sys|developer|instructions?|rules?|guide)$/i,
  visitor: /^(?:user|human|visitor|customer|person|client|caller|guest|asker|q|me|you)$/i,
  app: /^(?:assistant|model|bot|chatbot|ai|agent|machine|desk|host|a|answer)$/i,
} as const;

/** Whether a name has one of these words, alone or all of its words as one. */
export function isCalled(name: string | number | undefined, words: RegExp): boolean {
  if (typeof name !== "string") return false;
  const all = wordsIn(name);
  return all.some((word) => words.test(word)) || words.test(all.join(""));
}

/** The last name on a way through a document. */
export function lastName(steps: readonly (string | number)[]): string | undefined {
  return steps.findLast((step): step is string => typeof step === "string");
}

/** Whether a text is a moment, an id or another thing that no model says. */
export function isStamp(text: string): boolean {
  return (
    /^\d{4}-\d\d-\d\d(?:[T ]\d\d:\d\d|$)/.test(text) ||
    /^\d\d:\d\d:\d\d/.test(text) ||
    /^[\da-f]{8}-(?:[\da-f]{4}-){3}[\da-f]{12}$/i.test(text) ||
    /^[a-z]{1,12}[-_](?=[\w-]*\d)[\w-]{2,}$/i.test(text) ||
    /^(?=.*\d)(?=.*[a-z])[\da-zA-Z]{16,}$/.test(text)
  );
}

/** A token by which a model says that it has ended, which some APIs give out as text. */
export function isEndToken(text: string): boolean {
  return /^(?:<\/?[\w]+>|<\|[^|\s]+\|>|\[\/?[A-Z]{2,}\])$/.test(text.trim());
}
