import { describe, expect, it } from "vitest";
import { answerIn } from "./answer";

const body = 'data: {"t":"Aye"}\n\ndata: [DONE]\n\n';
const head = "HTTP/1.1 200 OK\r\nContent-Type: text/event-stream; charset=utf-8\r\nX-Tokens: 3\r\n\r\n";

describe("a pasted answer", () => {
  it.each([
    ["with its head", head + body],
    ["after a head that says to go on", `HTTP/1.1 100 Continue\r\n\r\n${head}${body}`],
    ["after a redirect", `HTTP/1.1 307 Temporary Redirect\r\nLocation: /b\r\n\r\n${head}${body}`],
    ["after a proxy's word", `HTTP/1.0 200 Connection established\n\n${head.replaceAll("\r", "")}${body}`],
    ["with headers alone", `content-type: text/event-stream; charset=utf-8\nx-tokens: 3\n\n${body}`],
    [
      "as curl tells of it",
      `*   Trying 127.0.0.1:4610...\n* Connected\n> POST /a HTTP/1.1\n> Host: x\n>\n} [12 bytes data]\n< HTTP/1.1 200 OK\n< Content-Type: text/event-stream; charset=utf-8\n< X-Tokens: 3\n<\n{ [40 bytes data]\n${body}* Connection #0 left intact\n`,
    ],
  ])("is read %s", (_what, pasted) => {
    const answer = answerIn(pasted);
    expect(answer).toMatchObject({ framing: "sse", contentType: "text/event-stream; charset=utf-8" });
    expect(answer.headers["x-tokens"]).toBe("3");
    expect(answer.frames.map(({ data }) => data)).toEqual(['{"t":"Aye"}', "[DONE]"]);
  });

  it.each([
    ["json", '{"a": 1}'],
    ["ndjson", '{"a":1}\n{"a":2}\n'],
    ["sequence", '\u001e{"a":1}\n'],
    ["text", "Note: the boat runs.\n\nAye."],
    ["text", ""],
  ])("is read without a head too: %s", (framing, pasted) => {
    expect(answerIn(pasted)).toMatchObject({ framing, headers: {}, body: pasted });
  });
});
