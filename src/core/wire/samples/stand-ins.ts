import { counts, end, file, json, type Sample, sampleKey, shipped, text, thought, version } from "./sample";

/** The shapes of the stand-ins. */
export const standInSamples: Sample[] = [
  {
    name: "chat-completions",
    profile: shipped("chat-completions"),
    contentType: "text/event-stream",
    answer: file("chat-completions.sse"),
    events: [
      version("reed-swift"),
      ...thought("Sunday boats."),
      ...text("Yes, the 9:40 — ", "zwölf Räder 🚲."),
      counts({ input: 41, output: 9 }),
      end("complete"),
    ],
    curl: `curl http://127.0.0.1:4610/v1/chat/completions \\
  -H "Authorization: Bearer $REEDBED_KEY" -H 'Content-Type: application/json' \\
  -d '{
    "model": "chat-completions",
    "messages": [
      {"role": "system", "content": "Speak like a skipper."},
      {"role": "user", "content": "When is the first boat?"},
      {"role": "assistant", "content": "At 6:40."},
      {"role": "user", "content": "And the last?"}
    ],
    "temperature": 0.2,
    "max_tokens": 300,
    "stream": true,
    "stream_options": {"include_usage": true}
  }'`,
    request: {
      method: "POST",
      path: "/v1/chat/completions",
      headers: { authorization: `Bearer ${sampleKey}`, ...json },
      body: {
        model: "chat-completions",
        messages: [
          { role: "system", content: "You are the desk of Saltmarsh Ferry." },
          { role: "user", content: "Does the 8:10 run?" },
          { role: "assistant", content: "Yes, from Mill Quay." },
          { role: "user", content: "On Sunday too?" },
        ],
        temperature: 0.7,
        max_tokens: 800,
        stream: true,
        stream_options: { include_usage: true },
      },
    },
  },
  {
    name: "named-events",
    profile: shipped("named-events"),
    contentType: "text/event-stream",
    answer: file("named-events.sse"),
    events: [
      ...thought("Sunday ", "boats."),
      ...text("Yes, the 8:25", " — zwölf Räder", " 🚲."),
      counts({ input: 52, output: 13, thought: 3 }),
      end("complete"),
    ],
    failure: {
      contentType: "text/event-stream",
      body: 'event: said\ndata: {"sofar":"Yes"}\n\nevent: failed\ndata: {"fault":{"sort":"worn-out","words":"too many guests"}}\n\n',
      kind: "overloaded",
    },
    curl: `curl -N 'http://127.0.0.1:4611/models/named-events/speak' --header "x-pan-key: \${SALTPAN_KEY}" --json '{"manner":"Speak like a skipper.","talk":[{"by":"guest","words":"When is the first boat?"},{"by":"host","words":"At 6:40."},{"by":"guest","words":"And the last?"}],"dials":{"warmth":0.2,"longest":300},"live":true}'`,
    request: {
      method: "POST",
      path: "/models/named-events/speak",
      headers: { "x-pan-key": sampleKey, ...json },
      body: {
        manner: "You are the desk of Saltmarsh Ferry.",
        talk: [
          { by: "guest", words: "Does the 8:10 run?" },
          { by: "host", words: "Yes, from Mill Quay." },
          { by: "guest", words: "On Sunday too?" },
        ],
        dials: { warmth: 0.7, longest: 800 },
        live: true,
      },
    },
  },
  {
    name: "growing-array",
    profile: shipped("growing-array"),
    contentType: "application/json",
    answer: file("growing-array.json"),
    events: [
      ...thought("Sunday boats."),
      ...text("Yes, the 8:25 — ", "zwölf Räder 🚲."),
      counts({ input: 52, output: 13, thought: 3 }),
      end("complete"),
    ],
    failure: {
      contentType: "application/json",
      body: '{"trouble":{"no":"T-4","tell":"No tide so"}}',
      kind: "unknown-model",
    },
    curl: `curl -X POST "http://127.0.0.1:4612/tides/flow?pass=$TIDEGATE_KEY" -H 'content-type: application/json' --data-raw '{"tide":"growing-array","course":[{"voice":"harbour","parts":[{"words":"Speak like a skipper."}]},{"voice":"caller","parts":[{"words":"When is the first boat?"}]},{"voice":"keeper","parts":[{"words":"At 6:40."}]},{"voice":"caller","parts":[{"words":"And the last?"}]}],"trim":{"ceiling":300,"heat":0.2}}'`,
    request: {
      method: "POST",
      path: `/tides/flow?pass=${sampleKey}`,
      headers: json,
      body: {
        tide: "growing-array",
        course: [
          { voice: "harbour", parts: [{ words: "You are the desk of Saltmarsh Ferry." }] },
          { voice: "caller", parts: [{ words: "Does the 8:10 run?" }] },
          { voice: "keeper", parts: [{ words: "Yes, from Mill Quay." }] },
          { voice: "caller", parts: [{ words: "On Sunday too?" }] },
        ],
        trim: { ceiling: 800, heat: 0.7 },
      },
    },
  },
  {
    name: "json-lines",
    profile: shipped("json-lines"),
    contentType: "application/x-ndjson",
    answer: file("json-lines.ndjson"),
    events: [...text("Yes, the 8:25 ", "— zwölf ", "Räder 🚲."), counts({ input: 52, output: 13 }), end("complete")],
    curl: `curl http://127.0.0.1:4613/lamps/shine -H 'lantern-version: 2026-03-01' -H 'content-type: application/json' -d '{"lamp":"json-lines","lines":[{"who":"asker","line":"Speak like a skipper.\\n\\nWhen is the first boat?"},{"who":"lamp","line":"At 6:40."},{"who":"asker","line":"And the last?"}],"set":{"heat":0.2,"wick":300},"flow":true}'`,
    request: {
      method: "POST",
      path: "/lamps/shine",
      headers: { "lantern-version": "2026-03-01", ...json },
      body: {
        lamp: "json-lines",
        lines: [
          { who: "asker", line: "You are the desk of Saltmarsh Ferry.\n\nDoes the 8:10 run?" },
          { who: "lamp", line: "Yes, from Mill Quay." },
          { who: "asker", line: "On Sunday too?" },
        ],
        set: { heat: 0.7, wick: 800 },
        flow: true,
      },
    },
  },
  {
    name: "one-text",
    profile: shipped("one-text"),
    contentType: "application/json",
    answer: file("one-text.json"),
    events: [...text("Yes, the 8:25 — zwölf Räder 🚲."), counts({ input: 52, output: 13 }), end("complete")],
    failure: {
      contentType: "application/json",
      body: '{"crack":{"code":"no bell","why":"There is no bell so"}}',
      kind: "unknown-model",
    },
    curl: `curl http://127.0.0.1:4614/bells/ring -H "bell-pass: $BELL_PASS" -H 'bell-house: production' -H 'content-type: application/json' -d '{"bell":"one-text","input":"Rule: Speak like a skipper.\\nGuest: When is the first boat?\\nHost: At 6:40.\\nGuest: And the last?","pull":{"warmth":0.2,"length":300}}'`,
    request: {
      method: "POST",
      path: "/bells/ring",
      headers: { "bell-pass": sampleKey, "bell-house": "production", ...json },
      body: {
        bell: "one-text",
        input:
          "Rule: You are the desk of Saltmarsh Ferry.\nGuest: Does the 8:10 run?\nHost: Yes, from Mill Quay.\nGuest: On Sunday too?",
        pull: { warmth: 0.7, length: 800 },
      },
    },
  },
];
