import { describe, expect, it } from "vitest";
import { preferredOf } from "./negotiate";

describe("what a caller accepts", () => {
  const events = "text/event-stream";
  const types = ["application/json", "text/event-stream", "application/x-ndjson"] as const;
  const wanted = (accept?: string) =>
    preferredOf(new Request("http://127.0.0.1/", { headers: accept === undefined ? {} : { accept } }), [...types]);

  it.each([
    [undefined, "application/json"],
    ["*/*", "application/json"],
    [events, events],
    ["TEXT/Event-Stream; charset=utf-8", "text/event-stream"],
    ["text/event-stream;q=0.5, application/json", "application/json"],
    ["application/json;q=0.2, application/x-ndjson;q=0.9", "application/x-ndjson"],
    ["text/event-stream, */*;q=0.1", "text/event-stream"],
    ["text/*", "text/event-stream"],
    ["text/event-stream;q=0", "application/json"],
    ["image/png", "application/json"],
    ["", "application/json"],
    [";;;,", "application/json"],
  ])("%j gets %s", (accept, type) => {
    expect(wanted(accept)).toBe(type);
  });
});
