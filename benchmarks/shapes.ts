/** The streaming shapes as a benchmark sends them: pre-rendered, one event a word. */
export interface StreamShape {
  contentType: string;
  /** The event of a word; `soFar` is the text with it. */
  event(word: string, at: number, soFar: string): string;
  opening: string;
  ending: string;
}

const words = "The boat to Tansy Holm leaves at 9:40 and takes thirty-five minutes. ".match(/\S+ /g) ?? [];

const chat = (delta: object, finish: string | null) =>
  `data: ${JSON.stringify({ id: "b1", choices: [{ index: 0, delta, finish_reason: finish }] })}\n\n`;
const named = (name: string, data: object) => `event: ${name}\ndata: ${JSON.stringify(data)}\n\n`;

export const shapes: Record<string, StreamShape> = {
  "chat-completions": {
    contentType: "text/event-stream",
    opening: "",
    event: (content) => chat({ content }, null),
    ending: `${chat({}, "stop")}data: {"choices":[],"usage":{"prompt_tokens":40,"completion_tokens":400}}\n\ndata: [DONE]\n\n`,
  },
  "named-events": {
    contentType: "text/event-stream",
    opening: named("opened", { counted: { in: 40 } }),
    event: (_word, _at, sofar) => named("said", { sofar }),
    ending: named("closed", { because: "done", counted: { out: 400 } }),
  },
  "growing-array": {
    contentType: "application/json",
    opening: '[{"n":1,"spent":{"read":40}}',
    event: (words, at) => `,\n${JSON.stringify({ n: at + 2, parts: [{ kind: "words", words }] })}`,
    ending: ',\n{"parts":[],"turned":"ebb","spent":{"written":400}}]\n',
  },
  "json-lines": {
    contentType: "application/x-ndjson",
    opening: "",
    event: (line) => `${JSON.stringify({ lamp: "b1", line, out: false })}\n`,
    ending: '{"lamp":"b1","out":true,"why":"burnt down","counted":{"asked":40,"shone":400}}\n',
  },
};

/** What a reply may be made of: words alone, paragraphs, one fence that goes on, or one table. */
export const matters = ["words", "prose", "fence", "table"] as const;
export type Matter = (typeof matters)[number];

const wordOf: Record<Matter, (at: number) => string> = {
  words: (at) => words[at % words.length] as string,
  prose: (at) => `${words[at % words.length]}${at % 60 === 59 ? "\n\n" : ""}`,
  fence: (at) => (at === 0 ? "```ts\n" : `boat(${at});${at % 8 === 7 ? "\n" : " "}`),
  table: (at) =>
    at === 0 ? "| boat | leaves | takes | fare |\n| --- | --- | --- | --- |\n" : `| ${at} ${at % 4 === 0 ? "|\n" : ""}`,
};

/** The events of a reply of so many words. */
export function eventsOf(shape: StreamShape, count: number, matter: Matter = "words"): string[] {
  let soFar = "";
  return Array.from({ length: count }, (_, at) => {
    const word = wordOf[matter](at);
    soFar += word;
    return shape.event(word, at, soFar);
  });
}

/** The JSON of the events in a part of a stream, by splitting at lines; the rest of a line is given back. */
export function documentsIn(shape: StreamShape, text: string): { documents: string[]; rest: string } {
  const lines = text.split("\n");
  const rest = lines.pop() ?? "";
  const isSse = shape.contentType === "text/event-stream";
  const documents = lines.flatMap((line) => {
    if (isSse) return line.startsWith("data: {") ? [line.slice(6)] : [];
    const bare = line.replace(/^\[|,$|\]$/g, "");
    return bare === "" ? [] : [bare];
  });
  return { documents, rest };
}
