import { counts, end, file, json, ofTake, type Sample, sampleKey, statuses, text, thought, tool } from "./sample";

/** Further shapes, with the traits mixed otherwise. */
export const furtherSamples: Sample[] = [
  {
    // blocks that say at their opening what they are, usage split, a required limit, a fixed header
    name: "heron",
    contentType: "text/event-stream; charset=utf-8",
    answer: file("heron.sse"),
    profile: {
      profile: 1,
      shape: "Numbered slots",
      request: {
        method: "POST",
        path: "/api/wade",
        headers: { "heron-token": "<key>", "heron-date": "2026-01-15", ...json },
        body: {
          bird: "<model>",
          rules: "<system>",
          log: { "<each>": "messages", as: { from: "<role>", body: "<text>" } },
          cap: "<maxOutput>",
          spark: "<temperature>",
          drip: "<stream>",
        },
        defaults: { maxOutput: 500 },
      },
      roles: { visitor: "person", app: "machine", prompt: "field" },
      answer: {
        stream: {
          framing: "sse",
          rules: [
            {
              when: { at: "$.kind", is: "open" },
              block: "$.slot",
              remember: "$.as",
              tool: { id: "$.errand.id", name: "$.errand.name" },
            },
            { when: { at: "$.kind", is: "more", remembered: "muse" }, block: "$.slot", thought: "$.bit" },
            { when: { at: "$.kind", is: "more", remembered: "talk" }, block: "$.slot", text: "$.bit" },
            { when: { at: "$.kind", is: "more", remembered: "errand" }, block: "$.slot", tool: { arguments: "$.bit" } },
            { usage: { input: "$.meter.asked", output: "$.meter.given" }, finish: "$.why" },
          ],
          end: { when: { at: "$.kind", is: "gone" } },
        },
        problem: {
          when: { at: "$.kind", is: "mishap" },
          message: "$.words",
          code: "$.sort",
          codes: { tired: "overloaded" },
          statuses,
        },
      },
      finishWords: { sated: "complete", errand: "tools", full: "length" },
    },
    events: [
      ...thought("Sunday boats."),
      ...text("Yes, the 8:25 — ", "zwölf Räder 🚲."),
      tool({ block: "0.2", id: "e-1", name: "timetable" }),
      tool({ block: "0.2", arguments: '{"day":' }),
      tool({ block: "0.2", arguments: '"Sunday"}' }),
      counts({ input: 52, output: 19 }),
      end("tools"),
    ],
    failure: {
      contentType: "text/event-stream",
      body: 'data: {"kind":"open","slot":0,"as":"talk"}\n\ndata: {"kind":"mishap","sort":"tired","words":"too many"}\n\n',
      kind: "overloaded",
    },
    curl: `curl https://127.0.0.1:1/api/wade -H 'heron-token: k-0815-sample' -H 'heron-date: 2026-01-15' -H 'content-type: application/json' -d '{"bird":"heron","rules":"Speak like a skipper.","log":[{"from":"person","body":"When is the first boat?"},{"from":"machine","body":"At 6:40."},{"from":"person","body":"And the last?"}],"cap":300,"spark":0.2,"drip":true}'`,
    request: {
      method: "POST",
      path: "/api/wade",
      headers: { "heron-token": sampleKey, "heron-date": "2026-01-15", ...json },
      body: {
        bird: "heron",
        rules: "You are the desk of Saltmarsh Ferry.",
        log: [
          { from: "person", body: "Does the 8:10 run?" },
          { from: "machine", body: "Yes, from Mill Quay." },
          { from: "person", body: "On Sunday too?" },
        ],
        cap: 800,
        spark: 0.7,
        drip: true,
      },
    },
  },
  {
    // two takes mixed in one stream, each line with the text so far; a flag ends it, nothing is counted
    name: "curlew",
    contentType: "application/jsonl",
    answer: file("curlew.ndjson"),
    profile: {
      profile: 1,
      shape: "Two takes, line by line",
      request: {
        method: "POST",
        path: "/call",
        headers: { authorization: "Basic <key>", ...json },
        body: {
          voice: "<model>",
          turns: { "<each>": "messages", as: { side: "<role>", text: "<text>" } },
          options: { heat: "<temperature>", max: "<maxOutput>" },
          flowing: "<stream>",
        },
      },
      roles: { system: "rule", visitor: "in", app: "out" },
      answer: {
        stream: {
          framing: "ndjson",
          rules: [{ take: "$.which", text: "$.sofar", soFar: true }],
          end: { when: { at: "$.last", is: true } },
        },
        problem: { message: "$.wrong", statuses },
      },
      finishWords: {},
    },
    events: [
      ...text("Yes"),
      ofTake(1, "Aye"),
      ...text(", the 8:25"),
      ofTake(1, ", it runs"),
      ...text(" — zwölf Räder 🚲."),
      ofTake(1, "."),
      end("complete"),
      end("complete", 1),
    ],
    curl: `curl 'https://127.0.0.1:1/call' -u desk:word -H 'content-type: application/json' -d '{"voice":"curlew","turns":[{"side":"rule","text":"Speak like a skipper."},{"side":"in","text":"When is the first boat?"},{"side":"out","text":"At 6:40."},{"side":"in","text":"And the last?"}],"options":{"heat":0.2,"max":300},"flowing":true}'`,
    request: {
      method: "POST",
      path: "/call",
      headers: { authorization: `Basic ${sampleKey}`, ...json },
      body: {
        voice: "curlew",
        turns: [
          { side: "rule", text: "You are the desk of Saltmarsh Ferry." },
          { side: "in", text: "Does the 8:10 run?" },
          { side: "out", text: "Yes, from Mill Quay." },
          { side: "in", text: "On Sunday too?" },
        ],
        options: { heat: 0.7, max: 800 },
        flowing: true,
      },
    },
  },
  {
    // the body is the reply; the conversation goes as one text that ends with the app's name
    name: "plover",
    contentType: "text/plain; charset=utf-8",
    answer: file("plover.txt"),
    profile: {
      profile: 1,
      shape: "Plain text in and out",
      request: {
        method: "POST",
        path: "/say/<model>",
        query: { pass: "<key>" },
        headers: json,
        body: {
          script: { "<join>": [{ "<each>": "messages", as: "[<role>] <text>" }, "[ferry]"], with: "\n" },
          heat: "<temperature>",
          longest: "<maxOutput>",
        },
      },
      roles: { system: "stage", visitor: "guest", app: "ferry" },
      answer: {
        stream: { framing: "text", end: "close" },
        problem: { message: "$.error", statuses },
      },
      finishWords: {},
    },
    events: [...text("Yes, the 8:25 — zwölf Räder 🚲."), end("complete")],
    curl: `curl 'https://127.0.0.1:1/say/plover?pass=k-0815-sample' -H 'content-type: application/json' -d '{"script":"[stage] Speak like a skipper.\\n[guest] When is the first boat?\\n[ferry] At 6:40.\\n[guest] And the last?\\n[ferry]","heat":0.2,"longest":300}'`,
    request: {
      method: "POST",
      path: `/say/plover?pass=${sampleKey}`,
      headers: json,
      body: {
        script:
          "[stage] You are the desk of Saltmarsh Ferry.\n[guest] Does the 8:10 run?\n[ferry] Yes, from Mill Quay.\n[guest] On Sunday too?\n[ferry]",
        heat: 0.7,
        longest: 800,
      },
    },
  },
  {
    // a growing array with lists in lists, the model in the path, counts that add up, a number for a finish word
    name: "dunlin",
    contentType: "application/json",
    answer: file("dunlin.json"),
    profile: {
      profile: 1,
      shape: "Waves",
      request: {
        method: "POST",
        path: "/flock/<model>",
        streamPath: "/flock/<model>/waves",
        headers: { authorization: "Bearer <key>", ...json },
        body: {
          context: "<system>",
          said: { "<each>": "messages", as: { as: "<role>", bits: [["<text>"]] } },
          tuning: { temp: "<temperature>", tokens: "<maxOutput>" },
        },
      },
      roles: { visitor: "walker", app: "flock", prompt: "field" },
      answer: {
        stream: {
          framing: "array",
          rules: [
            {
              text: "$.wave.bits[*][0]",
              usage: { input: "$.cost.in", output: "$.cost.out", adds: true },
              finish: "$.stopped.code",
            },
          ],
          end: "close",
        },
        problem: { message: "$.fault", statuses },
      },
      finishWords: { "1": "complete", "2": "length" },
    },
    events: [...text("Yes, the 8:25 — ", "zwölf Räder 🚲."), counts({ input: 52, output: 13 }), end("length")],
    failure: { contentType: "application/json", body: '[{"fault":"the flock has flown"}]', kind: "reported" },
    curl: `curl -X POST https://127.0.0.1:1/flock/dunlin/waves -H "authorization: Bearer $DUNLIN_KEY" -H 'content-type: application/json' -d '{"context":"Speak like a skipper.","said":[{"as":"walker","bits":[["When is the first boat?"]]},{"as":"flock","bits":[["At 6:40."]]},{"as":"walker","bits":[["And the last?"]]}],"tuning":{"temp":0.2,"tokens":300}}'`,
    request: {
      method: "POST",
      path: "/flock/dunlin/waves",
      headers: { authorization: `Bearer ${sampleKey}`, ...json },
      body: {
        context: "You are the desk of Saltmarsh Ferry.",
        said: [
          { as: "walker", bits: [["Does the 8:10 run?"]] },
          { as: "flock", bits: [["Yes, from Mill Quay."]] },
          { as: "walker", bits: [["On Sunday too?"]] },
        ],
        tuning: { temp: 0.7, tokens: 800 },
      },
    },
  },
  {
    // a byte order mark, carriage returns, data over two lines, a repeated id, typed pieces both ways
    name: "tern",
    contentType: "text/event-stream",
    answer: file("tern.sse"),
    profile: {
      profile: 1,
      shape: "Typed pieces",
      request: {
        method: "POST",
        path: "/v3/dive",
        headers: { "api-key": "<key>", ...json },
        body: {
          engine: "<model>",
          instructions: "<system>",
          conversation: {
            "<each>": "messages",
            as: { author: "<role>", pieces: { "<each>": "pieces", as: { type: "text", text: "<text>" } } },
          },
          sampling: { temperature: "<temperature>", limit: "<maxOutput>" },
          stream: "<stream>",
        },
      },
      roles: { visitor: "customer", app: "agent", prompt: "field" },
      answer: {
        stream: {
          framing: "sse",
          number: "id",
          rules: [
            { when: { event: "chunk" }, text: "$.pieces[?@.type == 'text'].text" },
            {
              when: { event: "bye" },
              finish: "$.because",
              usage: { input: "$.tokens.prompt", output: "$.tokens.reply" },
            },
          ],
          end: { when: { event: "bye" } },
        },
        problem: { when: { event: "oops" }, message: "$.message", statuses },
      },
      finishWords: { end: "complete", max: "length" },
    },
    events: [...text("Yes, the 8:25 — zwölf ", "Räder 🚲."), counts({ input: 52, output: 13 }), end("length")],
    failure: {
      contentType: "text/event-stream",
      body: 'event: oops\ndata: {"message":"lost the fish"}\n\n',
      kind: "reported",
    },
    curl: `curl --request POST --url https://127.0.0.1:1/v3/dive --header 'api-key: k-0815-sample' --header 'content-type: application/json' --data '{"engine":"tern","instructions":"Speak like a skipper.","conversation":[{"author":"customer","pieces":[{"type":"text","text":"When is the first boat?"}]},{"author":"agent","pieces":[{"type":"text","text":"At 6:40."}]},{"author":"customer","pieces":[{"type":"text","text":"And the last?"}]}],"sampling":{"temperature":0.2,"limit":300},"stream":true}'`,
    request: {
      method: "POST",
      path: "/v3/dive",
      headers: { "api-key": sampleKey, ...json },
      body: {
        engine: "tern",
        instructions: "You are the desk of Saltmarsh Ferry.",
        conversation: [
          { author: "customer", pieces: [{ type: "text", text: "Does the 8:10 run?" }] },
          { author: "agent", pieces: [{ type: "text", text: "Yes, from Mill Quay." }] },
          { author: "customer", pieces: [{ type: "text", text: "On Sunday too?" }] },
        ],
        sampling: { temperature: 0.7, limit: 800 },
        stream: true,
      },
    },
  },
  {
    // no stream at all, a 200 that may hold an error, a value that goes back with the next call
    name: "egret",
    contentType: "application/json",
    answer: file("egret.json"),
    profile: {
      profile: 1,
      shape: "One result",
      request: {
        method: "POST",
        path: "/rpc",
        headers: { authorization: "Bearer <key>", ...json },
        body: {
          use: "<model>",
          thread: "<carry>",
          history: { "<each>": "messages", as: { who: "<role>", parts: [{ type: "say", body: "<text>" }] } },
          temperature: "<temperature>",
          max: "<maxOutput>",
        },
      },
      roles: { system: "guide", visitor: "caller", app: "egret" },
      answer: {
        whole: {
          rules: [
            {
              text: "$.result.parts[?@.type == 'say'].body",
              thought: "$.result.parts[?@.type == 'note'].body",
              finish: "$.result.stop",
              usage: { input: "$.units.heard", output: "$.units.spoken" },
              carry: "$.thread",
            },
          ],
        },
        problem: {
          when: { at: "$.ok", is: false },
          message: "$.error.says",
          code: "$.error.kind",
          codes: { slow: "rate-limited" },
          statuses,
        },
      },
      finishWords: { natural: "complete", cap: "length" },
    },
    events: [
      ...text("Yes, the 8:25 — zwölf Räder 🚲."),
      ...thought("Sunday boats."),
      { event: "carry", take: 0, data: { value: "th-77" } },
      counts({ input: 52, output: 13 }),
      end("complete"),
    ],
    failure: {
      contentType: "application/json",
      body: '{"ok":false,"error":{"kind":"slow","says":"not so fast"}}',
      kind: "rate-limited",
    },
    curl: `curl https://127.0.0.1:1/rpc --oauth2-bearer k-0815-sample -H 'content-type: application/json' -d '{"use":"egret","history":[{"who":"guide","parts":[{"type":"say","body":"Speak like a skipper."}]},{"who":"caller","parts":[{"type":"say","body":"When is the first boat?"}]},{"who":"egret","parts":[{"type":"say","body":"At 6:40."}]},{"who":"caller","parts":[{"type":"say","body":"And the last?"}]}],"temperature":0.2,"max":300}'`,
    request: {
      method: "POST",
      path: "/rpc",
      headers: { authorization: `Bearer ${sampleKey}`, ...json },
      body: {
        use: "egret",
        history: [
          { who: "guide", parts: [{ type: "say", body: "You are the desk of Saltmarsh Ferry." }] },
          { who: "caller", parts: [{ type: "say", body: "Does the 8:10 run?" }] },
          { who: "egret", parts: [{ type: "say", body: "Yes, from Mill Quay." }] },
          { who: "caller", parts: [{ type: "say", body: "On Sunday too?" }] },
        ],
        temperature: 0.7,
        max: 800,
      },
    },
  },
  {
    // events that count up and may come twice, an odd content type, an end by closing, a model in the query
    name: "sanderling",
    contentType: "text/plain",
    answer: file("sanderling.sse"),
    profile: {
      profile: 1,
      shape: "Counted events",
      request: {
        method: "PUT",
        path: "/run",
        query: { model: "<model>" },
        headers: { "x-sand": "<key>", ...json },
        body: {
          prompt: {
            before: "<system>",
            talk: { "<each>": "messages", as: ["<role>", "<text>"] },
          },
          t: "<temperature>",
          n_max: "<maxOutput>",
        },
      },
      roles: { visitor: "Q", app: "A", prompt: "field" },
      answer: {
        stream: {
          framing: "sse",
          types: ["text/plain"],
          number: "$.no",
          rules: [{ text: "$.t", finish: "$.done", usage: { input: "$.n_in", output: "$.n_out" } }],
          end: "close",
        },
        problem: { message: "$.err", statuses },
      },
      finishWords: { limit: "length", "*": "complete" },
    },
    events: [...text("Yes, the 8:25 ", "— zwölf ", "Räder 🚲."), counts({ input: 52, output: 13 }), end("length")],
    failure: { contentType: "text/plain", body: 'data: {"no":1,"err":"sand in the gears"}\n\n', kind: "reported" },
    curl: `curl -X PUT 'https://127.0.0.1:1/run?model=sanderling' -H 'x-sand: k-0815-sample' -H 'content-type: application/json' -d '{"prompt":{"before":"Speak like a skipper.","talk":[["Q","When is the first boat?"],["A","At 6:40."],["Q","And the last?"]]},"t":0.2,"n_max":300}'`,
    request: {
      method: "PUT",
      path: "/run?model=sanderling",
      headers: { "x-sand": sampleKey, ...json },
      body: {
        prompt: {
          before: "You are the desk of Saltmarsh Ferry.",
          talk: [
            ["Q", "Does the 8:10 run?"],
            ["A", "Yes, from Mill Quay."],
            ["Q", "On Sunday too?"],
          ],
        },
        t: 0.7,
        n_max: 800,
      },
    },
  },
  {
    // reasoning beside the text, counts on every line of which the last holds, an error in mid-stream with a wait
    name: "godwit",
    contentType: "application/x-ndjson",
    answer: file("godwit.ndjson"),
    profile: {
      profile: 1,
      shape: "Deltas with a running tally",
      request: {
        method: "POST",
        path: "/probe",
        headers: { authorization: "Token <key>", ...json },
        body: {
          name: "<model>",
          system: "<system>",
          chat: { "<each>": "messages", as: { speaker: "<role>", content: "<text>" } },
          params: { temperature: "<temperature>", output_tokens: "<maxOutput>" },
          mode: { "<if>": "stream", as: "lines", else: "once" },
        },
      },
      roles: { visitor: "human", app: "bird", prompt: "field", merge: true },
      answer: {
        stream: {
          framing: "ndjson",
          rules: [
            { text: "$.delta.say", thought: "$.delta.thinking" },
            { finish: "$.outcome", usage: { input: "$.tally.input", output: "$.tally.output" } },
          ],
          end: { when: { at: "$.outcome" } },
        },
        problem: {
          message: "$.problem.text",
          code: "$.problem.code",
          codes: { busy: "rate-limited" },
          statuses,
          retryAfter: { at: "$.problem.wait_ms", unit: "ms" },
        },
      },
      finishWords: { finished: "complete", full: "length" },
    },
    events: [
      ...thought("Sunday ", "boats."),
      ...text("Yes, the 8:25 — ", "zwölf Räder 🚲."),
      counts({ input: 52, output: 13 }),
      end("complete"),
    ],
    failure: {
      contentType: "application/x-ndjson",
      body: '{"delta":{"say":"Yes"}}\n{"problem":{"code":"busy","text":"the mud is full","wait_ms":2500}}\n',
      kind: "rate-limited",
    },
    curl: `curl https://127.0.0.1:1/probe -H 'Authorization: Token k-0815-sample' -H 'content-type: application/json' -d '{"name":"godwit","system":"Speak like a skipper.","chat":[{"speaker":"human","content":"When is the first boat?"},{"speaker":"bird","content":"At 6:40."},{"speaker":"human","content":"And the last?"}],"params":{"temperature":0.2,"output_tokens":300},"mode":"lines"}'`,
    request: {
      method: "POST",
      path: "/probe",
      headers: { authorization: `Token ${sampleKey}`, ...json },
      body: {
        name: "godwit",
        system: "You are the desk of Saltmarsh Ferry.",
        chat: [
          { speaker: "human", content: "Does the 8:10 run?" },
          { speaker: "bird", content: "Yes, from Mill Quay." },
          { speaker: "human", content: "On Sunday too?" },
        ],
        params: { temperature: 0.7, output_tokens: 800 },
        mode: "lines",
      },
    },
  },
];
