import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { afterEach, describe, expect, it } from "vitest";
import { openTalk } from "./talk";

/** An app that answers every message with the same events. */
async function appSaying(events: string): Promise<{ app: string; server: Server }> {
  const server = createServer((_request, response) => {
    response.writeHead(200, { "content-type": "text/event-stream" });
    response.end(events);
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  return { app: `http://127.0.0.1:${(server.address() as AddressInfo).port}`, server };
}

const event = (id: number, name: string, data: string) => `id: ${id}\nevent: ${name}\ndata: ${data}\n\n`;
const head = event(1, "reply", '{"reply":"msg_2","conversation":"con_1","message":"msg_1","revision":1}');
const end = event(9, "end", '{"reason":"complete"}');

describe("a talk", () => {
  let server: Server | undefined;
  afterEach(() => server?.close());

  it("passes over kinds of events that it does not know, whatever they hold, and gives them to whoever asks", async () => {
    const unknown =
      event(2, "source", '{"mark":"1"}') +
      event(3, "weather", "not JSON") +
      event(4, "__proto__", "{}") +
      "event: nothing\n\n: a comment\n\n";
    const text = event(5, "text", '{"text":"Aye."}');
    const opened = await appSaying(head + unknown + text + end);
    server = opened.server;
    const seen: string[] = [];
    const talk = openTalk({ app: opened.app, onEvent: ({ event }) => seen.push(event) });
    expect(await talk.say("Hello")).toBe(true);
    expect(talk.state.messages.at(-1)).toMatchObject({ id: "msg_2", text: "Aye.", state: "complete" });
    expect(seen).toEqual(["reply", "source", "weather", "__proto__", "text", "end"]);
  });

  it("shows what the app tells of the cost, and nothing where it tells nothing", async () => {
    const opened = await appSaying(head + event(2, "usage", '{"price":0.5,"currency":"EUR"}') + end);
    server = opened.server;
    const talk = openTalk({ app: opened.app });
    await talk.say("Hello");
    expect(talk.state.messages.at(-1)).toMatchObject({ tokens: null, price: 0.5, currency: "EUR" });
  });

  it("has the reply as data as it grows, takes back what is said anew, and keeps no data that does not fit", async () => {
    const because = '{"kind":"unfit","title":"","detail":"","advice":""}';
    const grown = event(2, "text", '{"text":"{"}') + event(3, "data", '{"value":{"seats":3}}');
    const anew = event(4, "attempt", `{"attempt":2,"after":0,"because":${because},"anew":true}`);
    const good = event(5, "text", '{"text":"{}"}') + event(6, "data", '{"value":{}}');
    const opened = await appSaying(head + grown + anew + good + end);
    server = opened.server;
    const seen: unknown[] = [];
    const talk = openTalk({ app: opened.app });
    talk.watch(({ messages }) => seen.push(messages.at(-1)?.data));
    await talk.say("Hello");
    expect(seen).toContainEqual({ seats: 3 });
    expect(talk.state.messages.at(-1)).toMatchObject({ text: "{}", data: {} });
    opened.server.close();
    const failing = await appSaying(head + grown + event(9, "problem", because));
    server = failing.server;
    const other = openTalk({ app: failing.app });
    await other.say("Hello");
    expect(other.state.messages.at(-1)).toMatchObject({ text: "{", data: null, state: "failed" });
  });
});
