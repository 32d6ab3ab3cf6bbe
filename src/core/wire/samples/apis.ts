/**
 * APIs that nobody described to the bench: what a developer would paste of each, and what must come of it. They were
 * written before fitting was looked at with them, each for a trait of its own; their words are made up.
 */
export interface Api {
  name: string;
  /** What it has that others have not. */
  trait: string;
  command: string;
  answer: string;
  /** What the developer says to questions, by their ids; exactly these are asked. */
  says?: Record<string, string>;
  /** What is found with certainty and what only likely, by its words. */
  sure: string[];
  likely?: string[];
  /** What is taken for nothing, by where it stands. */
  untold?: string[];
  /** The model's name, and what stands for the key. */
  model: string;
  /** The request that the canonical call makes of it: without its method, which is POST, and its usual headers. */
  path: string;
  headers?: Record<string, string>;
  body: unknown;
  text: string;
  thought?: string;
  counts?: { input?: number; output?: number };
  end: string;
}

const head = (type: string) => `HTTP/1.1 200 OK\ncontent-type: ${type}\n\n`;
const sse = (...data: (string | object)[]) =>
  head("text/event-stream") +
  data.map((each) => `data: ${typeof each === "string" ? each : JSON.stringify(each)}\n\n`).join("");
const events = (...pairs: [name: string, data: object | string][]) =>
  head("text/event-stream") +
  pairs
    .map(([name, data]) => `event: ${name}\ndata: ${typeof data === "string" ? data : JSON.stringify(data)}\n\n`)
    .join("");
const lines = (...documents: object[]) =>
  head("application/x-ndjson") + documents.map((each) => `${JSON.stringify(each)}\n`).join("");
const whole = (document: object) => head("application/json") + JSON.stringify(document);
const curl = (url: string, body: object, more = "-H 'authorization: Bearer $FERRY_KEY'") =>
  `curl ${url} -H 'content-type: application/json' ${more} -d '${JSON.stringify(body).replaceAll("'", "'\\''")}'`;
const bearer = { authorization: "Bearer k-0815-sample" };

const prompt = "You are the desk of Saltmarsh Ferry.";
const [first, reply, last] = ["Does the 8:10 run?", "Yes, from Mill Quay.", "On Sunday too?"];

export const apis: Api[] = [
  {
    name: "avocet",
    trait: "one prompt and one message, the most usual paste",
    command: curl("https://avocet.test/v2/talk", {
      model: "avocet-3",
      messages: [
        { role: "system", content: "Be brief." },
        { role: "user", content: "Hi" },
      ],
      stream: true,
    }),
    answer: sse(
      { id: "t-91", model: "avocet-3", delta: { content: "Hel" } },
      { id: "t-91", model: "avocet-3", delta: { content: "lo" } },
      { id: "t-91", model: "avocet-3", delta: {}, finish: "stop", usage: { input: 9, output: 2 } },
      "[DONE]",
    ),
    says: { "app role": "assistant" },
    sure: ["model", "messages", "text", "role", "system prompt is “system”", "visitor is “user”", "stream", "end"],
    model: "avocet-3",
    path: "/v2/talk",
    headers: bearer,
    body: {
      model: "avocet-3",
      messages: [
        { role: "system", content: prompt },
        { role: "user", content: first },
        { role: "assistant", content: reply },
        { role: "user", content: last },
      ],
      stream: true,
    },
    text: "Hello",
    counts: { input: 9, output: 2 },
    end: "complete",
  },
  {
    name: "bittern",
    trait: "texts of one word, other role words",
    command: curl("https://bittern.test/ask", {
      engine: "bittern",
      turns: [
        { by: "human", say: "Hello" },
        { by: "ai", say: "OK" },
        { by: "human", say: "Thanks" },
      ],
      max_tokens: 64,
    }),
    answer: sse({ say: "You're" }, { say: " welcome" }, { say: "", why: "length" }),
    says: {},
    sure: ["messages", "text", "role", "visitor is “human”", "app is “ai”", "output limit"],
    model: "bittern",
    path: "/ask",
    headers: bearer,
    body: {
      engine: "bittern",
      turns: [
        { by: "human", say: `${prompt}\n\n${first}` },
        { by: "ai", say: reply },
        { by: "human", say: last },
      ],
      max_tokens: 800,
    },
    text: "You're welcome",
    end: "length",
  },
  {
    name: "curlew",
    trait: "a script without spaces",
    command: curl("https://curlew.test/v1/say", {
      model: "curlew-ja",
      messages: [
        { role: "system", content: "短く答えて" },
        { role: "user", content: "船は何時" },
        { role: "assistant", content: "八時十分" },
        { role: "user", content: "日曜も" },
      ],
      temperature: 0.3,
    }),
    answer: whole({
      id: "x-1",
      reply: { content: "はい走ります" },
      finish_reason: "stop",
      usage: { input: 12, output: 5 },
    }),
    sure: ["messages", "text", "role", "temperature", "system prompt is “system”", "app is “assistant”"],
    model: "curlew-ja",
    path: "/v1/say",
    headers: bearer,
    body: {
      model: "curlew-ja",
      messages: [
        { role: "system", content: prompt },
        { role: "user", content: first },
        { role: "assistant", content: reply },
        { role: "user", content: last },
      ],
      temperature: 0.7,
    },
    text: "はい走ります",
    counts: { input: 12, output: 5 },
    end: "complete",
  },
  {
    name: "dotterel",
    trait: "timestamps, ids and types beside each piece of text",
    command: curl("https://dotterel.test/flow", {
      model: "dotterel-1",
      messages: [
        { role: "user", content: "When?" },
        { role: "assistant", content: "Now." },
        { role: "user", content: "Again?" },
      ],
      stream: true,
    }),
    answer: sse(
      { at: "2026-01-15T08:10:00.120Z", id: "ev_01a", delta: { type: "text_delta", text: "Yes" } },
      { at: "2026-01-15T08:10:00.180Z", id: "ev_01b", delta: { type: "text_delta", text: "." } },
      { at: "2026-01-15T08:10:00.240Z", id: "ev_01c", delta: { type: "stop_delta", reason: "done" } },
    ),
    sure: ["messages", "text", "role"],
    model: "dotterel-1",
    path: "/flow",
    headers: bearer,
    body: {
      model: "dotterel-1",
      messages: [
        { role: "user", content: `${prompt}\n\n${first}` },
        { role: "assistant", content: reply },
        { role: "user", content: last },
      ],
      stream: true,
    },
    text: "Yes.",
    end: "complete",
  },
  {
    name: "eider",
    trait: "billed counts beside those of tokens, an error code of 0 where all is well",
    command: curl("https://eider.test/chat", {
      model: "eider",
      system: "Be brief.",
      messages: [
        { role: "user", content: "Which boat?" },
        { role: "assistant", content: "The 9:40." },
        { role: "user", content: "Why?" },
      ],
    }),
    answer: whole({
      code: 0,
      message: "success",
      data: { text: "It has a ramp.", finish: "stop" },
      meta: { billed: { input: 100, output: 100 }, tokens: { input: 21, output: 6 } },
    }),
    sure: ["messages", "text", "system prompt", "usage in", "usage out"],
    model: "eider",
    path: "/chat",
    headers: bearer,
    body: {
      model: "eider",
      system: prompt,
      messages: [
        { role: "user", content: first },
        { role: "assistant", content: reply },
        { role: "user", content: last },
      ],
    },
    text: "It has a ramp.",
    counts: { input: 21, output: 6 },
    end: "complete",
  },
  {
    name: "fulmar",
    trait: "an end token as the last text",
    command: curl("https://fulmar.test/generate", {
      model: "fulmar-7b",
      messages: [
        { role: "system", content: "Short." },
        { role: "user", content: "A word?" },
        { role: "assistant", content: "Tide." },
        { role: "user", content: "Another?" },
      ],
      stream: true,
    }),
    answer: sse(
      { token: { text: "Qu" } },
      { token: { text: "ay" } },
      { token: { text: "</s>", special: true }, done: true },
    ),
    sure: ["messages", "text"],
    model: "fulmar-7b",
    path: "/generate",
    headers: bearer,
    body: {
      model: "fulmar-7b",
      messages: [
        { role: "system", content: prompt },
        { role: "user", content: first },
        { role: "assistant", content: reply },
        { role: "user", content: last },
      ],
      stream: true,
    },
    text: "Quay",
    end: "complete",
  },
  {
    name: "gannet",
    trait: "a finish that changes on the way",
    command: curl("https://gannet.test/v1/stream", {
      model: "gannet",
      messages: [
        { role: "system", content: "Short." },
        { role: "user", content: "Which quay?" },
        { role: "assistant", content: "Mill Quay." },
        { role: "user", content: "And back?" },
      ],
      stream: true,
    }),
    answer: sse(
      { state: "in_progress", out: "Bri" },
      { state: "in_progress", out: "nd" },
      { state: "in_progress", out: "le" },
      { state: "complete", out: "" },
    ),
    sure: ["messages", "text"],
    model: "gannet",
    path: "/v1/stream",
    headers: bearer,
    body: {
      model: "gannet",
      messages: [
        { role: "system", content: prompt },
        { role: "user", content: first },
        { role: "assistant", content: reply },
        { role: "user", content: last },
      ],
      stream: true,
    },
    text: "Brindle",
    end: "complete",
  },
  {
    name: "hobby",
    trait: "thoughts that a member flags",
    command: curl("https://hobby.test/v1/muse", {
      model: "hobby-think",
      messages: [
        { role: "system", content: "Short." },
        { role: "user", content: "Which quay?" },
        { role: "assistant", content: "Mill Quay." },
        { role: "user", content: "And back?" },
      ],
      stream: true,
    }),
    answer: sse(
      { part: { text: "They ask ", thought: true } },
      { part: { text: "about the way back.", thought: true } },
      { part: { text: "From Brindle" } },
      { part: { text: " at nine." } },
      { part: {}, stop: "end" },
    ),
    sure: ["messages", "text", "thought"],
    model: "hobby-think",
    path: "/v1/muse",
    headers: bearer,
    body: {
      model: "hobby-think",
      messages: [
        { role: "system", content: prompt },
        { role: "user", content: first },
        { role: "assistant", content: reply },
        { role: "user", content: last },
      ],
      stream: true,
    },
    text: "From Brindle at nine.",
    thought: "They ask about the way back.",
    end: "complete",
  },
  {
    name: "ibis",
    trait: "text so far that begins empty, in named events",
    command: curl("https://ibis.test/v1/grow", {
      model: "ibis",
      messages: [
        { role: "system", content: "Short." },
        { role: "user", content: "Which quay?" },
        { role: "assistant", content: "Mill Quay." },
        { role: "user", content: "And back?" },
      ],
    }),
    answer: events(
      ["begin", { session: "s1" }],
      ["grown", { all: "" }],
      ["grown", { all: "From" }],
      ["grown", { all: "From Brindle" }],
      ["over", { why: "done" }],
    ),
    sure: ["messages", "text, all so far"],
    model: "ibis",
    path: "/v1/grow",
    headers: bearer,
    body: {
      model: "ibis",
      messages: [
        { role: "system", content: prompt },
        { role: "user", content: first },
        { role: "assistant", content: reply },
        { role: "user", content: last },
      ],
    },
    text: "From Brindle",
    end: "complete",
  },
  {
    name: "jackdaw",
    trait: "the app's turns of another type than the visitor's",
    command: curl("https://jackdaw.test/threads", {
      model: "jackdaw",
      thread: [
        { role: "user", parts: [{ type: "input_text", text: "Which quay?" }] },
        { role: "assistant", status: "completed", parts: [{ type: "output_text", text: "Mill Quay." }] },
        { role: "user", parts: [{ type: "input_text", text: "And back?" }] },
      ],
    }),
    answer: whole({ output: [{ type: "message", parts: [{ type: "output_text", text: "Brindle." }] }], stop: "done" }),
    sure: ["messages", "text", "role", "app is “assistant”"],
    model: "jackdaw",
    path: "/threads",
    headers: bearer,
    body: {
      model: "jackdaw",
      thread: [
        { role: "user", parts: [{ type: "input_text", text: `${prompt}\n\n${first}` }] },
        { role: "assistant", status: "completed", parts: [{ type: "output_text", text: reply }] },
        { role: "user", parts: [{ type: "input_text", text: last }] },
      ],
    },
    text: "Brindle.",
    end: "complete",
  },
  {
    name: "kestrel",
    trait: "a container for the prompt, the model with a verb in the path, the key in the query, settings nested",
    command: `curl "https://kestrel.test/v1beta/models/kestrel-2:stream?key=$FERRY_KEY&alt=a%20b" -H 'content-type: application/json' -d '${JSON.stringify(
      {
        systemText: { parts: [{ text: "Short." }] },
        contents: [
          { role: "user", parts: [{ text: "Which quay?" }] },
          { role: "model", parts: [{ text: "Mill Quay." }] },
          { role: "user", parts: [{ text: "And back?" }] },
        ],
        config: { temperature: 0.2, maxOutputTokens: 64, topK: 20 },
      },
    )}'`,
    answer:
      head("application/json") +
      '[{"out":{"parts":[{"text":"From "}]}}\n,\n{"out":{"parts":[{"text":"Brindle."}]},"finishReason":"STOP","usage":{"promptCount":14,"outCount":3}}\n]',
    sure: ["model", "messages", "text", "system prompt", "temperature", "top-k", "output limit", "key"],
    model: "kestrel-2",
    path: "/v1beta/models/kestrel-2:stream?key=k-0815-sample&alt=a%20b",
    body: {
      systemText: { parts: [{ text: prompt }] },
      contents: [
        { role: "user", parts: [{ text: first }] },
        { role: "model", parts: [{ text: reply }] },
        { role: "user", parts: [{ text: last }] },
      ],
      config: { temperature: 0.7, maxOutputTokens: 800 },
    },
    text: "From Brindle.",
    counts: { input: 14, output: 3 },
    end: "complete",
  },
  {
    name: "linnet",
    trait: "the role as the name of a member",
    command: curl("https://linnet.test/go", {
      model: "linnet",
      log: [{ user: "Which quay?" }, { bot: "Mill Quay." }, { user: "And back?" }],
    }),
    answer: sse({ bot: "Brin" }, { bot: "dle" }, { end: true }),
    sure: ["messages", "text", "app is “bot”"],
    model: "linnet",
    path: "/go",
    headers: bearer,
    body: { model: "linnet", log: [{ user: `${prompt}\n\n${first}` }, { bot: reply }, { user: last }] },
    text: "Brindle",
    end: "complete",
  },
  {
    name: "merlin",
    trait: "the newest message apart from the rest",
    command: curl("https://merlin.test/v1/chat", {
      model: "merlin-r",
      preamble: "Short.",
      message: "And back?",
      chat_history: [
        { role: "USER", message: "Which quay?" },
        { role: "CHATBOT", message: "Mill Quay." },
      ],
      stream: true,
    }),
    answer: lines(
      { kind: "begin", run: "r1" },
      { kind: "text", text: "Brin" },
      { kind: "text", text: "dle" },
      { kind: "end", finish_reason: "COMPLETE", tokens: { input: 12, output: 2 } },
    ),
    sure: ["messages", "text", "system prompt", "newest message", "app is “CHATBOT”"],
    model: "merlin-r",
    path: "/v1/chat",
    headers: bearer,
    body: {
      model: "merlin-r",
      preamble: prompt,
      message: last,
      chat_history: [
        { role: "USER", message: first },
        { role: "CHATBOT", message: reply },
      ],
      stream: true,
    },
    text: "Brindle",
    counts: { input: 12, output: 2 },
    end: "complete",
  },
  {
    name: "nuthatch",
    trait: "stop words, a user's id, a schema and options that nobody knows",
    command: curl("https://nuthatch.test/v1/chat", {
      model: "nuthatch",
      messages: [
        { role: "system", content: "Short." },
        { role: "user", content: "Which quay?" },
        { role: "assistant", content: "Mill Quay." },
        { role: "user", content: "And back?" },
      ],
      stop: ["###"],
      user: "visitor-77",
      response_format: { type: "schema", schema: { type: "object", properties: { quay: { type: "string" } } } },
      store: false,
      service: "usual",
    }),
    answer: whole({
      choices: [{ message: { role: "assistant", content: '{"quay":"Brindle"}' }, finish_reason: "stop" }],
    }),
    sure: ["messages", "text", "stop words", "schema"],
    untold: ["$.user", "$.store", "$.service"],
    model: "nuthatch",
    path: "/v1/chat",
    headers: bearer,
    body: {
      model: "nuthatch",
      messages: [
        { role: "system", content: prompt },
        { role: "user", content: first },
        { role: "assistant", content: reply },
        { role: "user", content: last },
      ],
      user: "visitor-77",
      store: false,
      service: "usual",
    },
    text: '{"quay":"Brindle"}',
    end: "complete",
  },
  {
    name: "oriole",
    trait: "tools in the request, a call of one in the answer",
    command: curl("https://oriole.test/v1/chat", {
      model: "oriole",
      messages: [
        { role: "system", content: "Short." },
        { role: "user", content: "Which boat?" },
        { role: "assistant", content: "The 9:40." },
        { role: "user", content: "Does it run on Sunday?" },
      ],
      tools: [
        {
          kind: "function",
          function: {
            name: "timetable",
            description: "When boats leave.",
            parameters: { type: "object", properties: { day: { type: "string" } } },
          },
        },
      ],
      stream: true,
    }),
    answer: sse(
      { delta: { text: "I look. " } },
      { delta: { calls: [{ index: 0, id: "c1", function: { name: "timetable", arguments: "" } }] } },
      { delta: { calls: [{ index: 0, function: { arguments: '{"day":' } }] } },
      { delta: { calls: [{ index: 0, function: { arguments: '"Sunday"}' } }] } },
      { delta: {}, finish: "tool_calls" },
    ),
    sure: ["messages", "text", "tools"],
    likely: ["tool call"],
    model: "oriole",
    path: "/v1/chat",
    headers: bearer,
    body: {
      model: "oriole",
      messages: [
        { role: "system", content: prompt },
        { role: "user", content: first },
        { role: "assistant", content: reply },
        { role: "user", content: last },
      ],
      stream: true,
    },
    text: "I look. ",
    end: "tools",
  },
  {
    name: "petrel",
    trait: "a region in the host, a project in the path, a scheme of its own",
    command: `curl "https://$REGION.petrel.test/projects/$PROJECT/say" -H "Authorization: Api-Key $FERRY_KEY" -H 'content-type: application/json' -d '${JSON.stringify(
      {
        model: "petrel-mini",
        messages: [
          { role: "system", text: "Short." },
          { role: "user", text: "Which quay?" },
          { role: "assistant", text: "Mill Quay." },
          { role: "user", text: "And back?" },
        ],
      },
    )}'`,
    answer: whole({ result: { text: "Brindle.", tokens: { in: 12, out: 2 } }, status: "final" }),
    says: { "finish final": "complete" },
    sure: ["messages", "text", "key", "value"],
    model: "petrel-mini",
    path: "/projects/trial/say",
    headers: { authorization: "Api-Key k-0815-sample" },
    body: {
      model: "petrel-mini",
      messages: [
        { role: "system", text: prompt },
        { role: "user", text: first },
        { role: "assistant", text: reply },
        { role: "user", text: last },
      ],
    },
    text: "Brindle.",
    counts: { input: 12, output: 2 },
    end: "complete",
  },
  {
    name: "quail",
    trait: "a form",
    command: `curl https://quail.test/run -H 'x-key: $FERRY_KEY' --data-urlencode 'text=Visitor: Which quay?\nDesk: Mill Quay.\nVisitor: And back?\nDesk:' -d model=quail-1 -d max_tokens=64`,
    answer: whole({ text: " Brindle.", usage: { input: 12, output: 2 } }),
    sure: ["messages", "text", "model", "output limit"],
    model: "quail-1",
    path: "/run",
    headers: { "x-key": "k-0815-sample", "content-type": "application/x-www-form-urlencoded" },
    body: {
      text: `Visitor: ${prompt}\n\n${first}\nDesk: ${reply}\nVisitor: ${last}\nDesk:`,
      model: "quail-1",
      max_tokens: "800",
    },
    text: " Brindle.",
    counts: { input: 12, output: 2 },
    end: "complete",
  },
  {
    name: "rail",
    trait: "a JSON text sequence",
    command: curl("https://rail.test/v1/seq", {
      model: "rail",
      messages: [
        { role: "system", content: "Short." },
        { role: "user", content: "Which quay?" },
        { role: "assistant", content: "Mill Quay." },
        { role: "user", content: "And back?" },
      ],
    }),
    answer: `${head("application/json-seq")}\u001e{"word":"Brin"}\n\u001e{"word":"dle"}\n\u001e{"done":true}\n`,
    sure: ["messages", "text", "framing"],
    model: "rail",
    path: "/v1/seq",
    headers: bearer,
    body: {
      model: "rail",
      messages: [
        { role: "system", content: prompt },
        { role: "user", content: first },
        { role: "assistant", content: reply },
        { role: "user", content: last },
      ],
    },
    text: "Brindle",
    end: "complete",
  },
  {
    name: "shrike",
    trait: "text that is no JSON, in events of a name",
    command: curl("https://shrike.test/v1/raw", {
      model: "shrike",
      messages: [
        { role: "system", content: "Short." },
        { role: "user", content: "Which quay?" },
        { role: "assistant", content: "Mill Quay." },
        { role: "user", content: "And back?" },
      ],
    }),
    answer: events(
      ["token", "Brin"],
      ["token", "dle"],
      ["token", " at 9"],
      ["meta", { in: 12, out: 4 }],
      ["close", {}],
    ),
    sure: ["messages", "text", "end"],
    model: "shrike",
    path: "/v1/raw",
    headers: bearer,
    body: {
      model: "shrike",
      messages: [
        { role: "system", content: prompt },
        { role: "user", content: first },
        { role: "assistant", content: reply },
        { role: "user", content: last },
      ],
    },
    text: "Brindle at 9",
    counts: { input: 12, output: 4 },
    end: "complete",
  },
  {
    name: "tattler",
    trait: "heartbeats between the lines, under the type of plain text",
    command: curl("https://tattler.test/v1/lines", {
      model: "tattler",
      messages: [
        { role: "system", content: "Short." },
        { role: "user", content: "Which quay?" },
        { role: "assistant", content: "Mill Quay." },
        { role: "user", content: "And back?" },
      ],
    }),
    answer: `${head("text/plain")}{"piece":"Brin"}\n{"ping":1768464600}\n{"piece":"dle"}\n{"piece":"","reason":"stop"}\n`,
    sure: ["messages", "text"],
    model: "tattler",
    path: "/v1/lines",
    headers: bearer,
    body: {
      model: "tattler",
      messages: [
        { role: "system", content: prompt },
        { role: "user", content: first },
        { role: "assistant", content: reply },
        { role: "user", content: last },
      ],
    },
    text: "Brindle",
    end: "complete",
  },
  {
    name: "veery",
    trait: "one text between special marks",
    command: curl("https://veery.test/complete", {
      model: "veery",
      prompt:
        "<|sys|>\nShort.<|end|>\n<|visitor|>\nWhich quay?<|end|>\n<|desk|>\nMill Quay.<|end|>\n<|visitor|>\nAnd back?<|end|>\n<|desk|>\n",
      max_tokens: 64,
    }),
    answer: whole({ completion: "Brindle.", finish_reason: "stop" }),
    sure: ["messages", "text", "output limit"],
    model: "veery",
    path: "/complete",
    headers: bearer,
    body: {
      model: "veery",
      prompt: `<|sys|>\n${prompt}<|end|>\n<|visitor|>\n${first}<|end|>\n<|desk|>\n${reply}<|end|>\n<|visitor|>\n${last}<|end|>\n<|desk|>\n`,
      max_tokens: 800,
    },
    text: "Brindle.",
    end: "complete",
  },
  {
    name: "whimbrel",
    trait: "a call of fetch, as a browser copies it",
    command: `fetch("https://whimbrel.test/api/chat", {
  "headers": { "accept": "*/*", "content-type": "application/json", "x-whimbrel-key": "$FERRY_KEY", "sec-fetch-mode": "cors" },
  "body": ${JSON.stringify(
    JSON.stringify({
      model: "whimbrel",
      messages: [
        { role: "system", content: "Short." },
        { role: "user", content: "Which quay?" },
        { role: "assistant", content: "Mill Quay." },
        { role: "user", content: "And back?" },
      ],
    }),
  )},
  "method": "POST"
});`,
    answer: sse({ c: "Brin" }, { c: "dle" }, { c: "", f: "stop" }),
    sure: ["messages", "text", "key"],
    model: "whimbrel",
    path: "/api/chat",
    headers: { "x-whimbrel-key": "k-0815-sample", accept: "*/*" },
    body: {
      model: "whimbrel",
      messages: [
        { role: "system", content: prompt },
        { role: "user", content: first },
        { role: "assistant", content: reply },
        { role: "user", content: last },
      ],
    },
    text: "Brindle",
    end: "complete",
  },
  {
    name: "xenops",
    trait: "counts in headers, the reply as the body",
    command: curl("https://xenops.test/v1/plain", {
      model: "xenops",
      messages: [
        { role: "system", content: "Short." },
        { role: "user", content: "Which quay?" },
        { role: "assistant", content: "Mill Quay." },
        { role: "user", content: "And back?" },
      ],
    }),
    answer:
      "HTTP/1.1 200 OK\ncontent-type: text/plain; charset=utf-8\nx-tokens-in: 12\nx-tokens-out: 3\n\nFrom Brindle.",
    sure: ["messages", "framing", "usage in", "usage out"],
    model: "xenops",
    path: "/v1/plain",
    headers: bearer,
    body: {
      model: "xenops",
      messages: [
        { role: "system", content: prompt },
        { role: "user", content: first },
        { role: "assistant", content: reply },
        { role: "user", content: last },
      ],
    },
    text: "From Brindle.",
    counts: { input: 12, output: 3 },
    end: "complete",
  },
  {
    name: "yaffle",
    trait: "several takes in one stream",
    command: curl("https://yaffle.test/v1/chat", {
      model: "yaffle",
      messages: [
        { role: "system", content: "Short." },
        { role: "user", content: "Which quay?" },
        { role: "assistant", content: "Mill Quay." },
        { role: "user", content: "And back?" },
      ],
      n: 2,
      stream: true,
    }),
    answer: sse(
      { choices: [{ index: 0, delta: { content: "Brin" } }] },
      { choices: [{ index: 1, delta: { content: "From " } }] },
      { choices: [{ index: 0, delta: { content: "dle" } }] },
      { choices: [{ index: 1, delta: { content: "there" } }] },
      { choices: [{ index: 0, delta: {}, finish_reason: "stop" }] },
      { choices: [{ index: 1, delta: {}, finish_reason: "stop" }] },
      "[DONE]",
    ),
    sure: ["messages", "text", "takes"],
    likely: ["which take"],
    model: "yaffle",
    path: "/v1/chat",
    headers: bearer,
    body: {
      model: "yaffle",
      messages: [
        { role: "system", content: prompt },
        { role: "user", content: first },
        { role: "assistant", content: reply },
        { role: "user", content: last },
      ],
      stream: true,
    },
    text: "Brindle",
    end: "complete",
  },
];
